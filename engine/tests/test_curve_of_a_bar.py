"""Curves of bars by a simulated stand: where they break, how strong and how stiff they are; faults in words."""

import sys
from pathlib import Path

import numpy as np
import pytest

sys.path.insert(0, str(Path(__file__).parents[2]))
from hewel_engine.errors import InputError
from hewel_engine.trials.curve import Bar as Waist
from hewel_engine.trials.curve import effective_length, give_of, read
from simulated_stand.bars import AREA, LENGTH, STIFF, YIELD_STRAIN, Bar, machine, pulled, truth


def run(seed: int, bar: Bar) -> tuple[np.ndarray, np.ndarray]:
    rows = np.array(list(pulled(seed, bar)))
    return rows[:, 1], rows[:, 2]


def bar(kind: str, number: int = 1, fault: str = "") -> Bar:
    return Bar("grade A", kind, "1", number, 20.0, fault)


@pytest.mark.parametrize("kind", ["along", "upright"])
@pytest.mark.parametrize("seed", range(12))
def test_strength_and_stiffness_are_read_off_whatever_slips(seed, kind):
    stroke, force = run(seed, bar(kind))
    give, off = give_of(*run(seed, bar("steel")))
    assert give == pytest.approx(machine(seed).give, rel=0.06)
    told = read(stroke, force, Waist(AREA[kind], LENGTH[kind]), give, off)
    known = truth(seed, "grade A")
    assert told.broke is not None
    assert told.strength == pytest.approx(known.strength[kind], rel=0.35)
    before = force[: told.broke + 1]
    assert told.peak == pytest.approx(before.max() - told.zero, rel=0.01)
    chord = slope_between(known.stiffness[kind], told.strength, 0.1, 0.4)
    assert 0.75 * chord < told.modulus < 1.15 * chord, "of a bar that bends, of a somewhat other section"
    assert told.modulus < 1.1 * known.stiffness[kind], "a lower bound"
    assert told.kind == ("yielded" if kind == "along" else "broke")


def slope_between(stiff: float, strength: float, low: float, high: float) -> float:
    """MPa, between two shares of the strength, of σ = E·ε/(1 + κ·ε/ε_y) through the strength at ε_y."""
    bend = (stiff * YIELD_STRAIN / strength - 1) / YIELD_STRAIN
    strain = lambda share: share * strength / (stiff - bend * share * strength)
    return (high - low) * strength / (strain(high) - strain(low))


def straight(k: float, peak: float, slip: float | None = None, rows: int = 800) -> tuple[np.ndarray, np.ndarray]:
    """A straight line of slope ``k`` up to a clean break; a slip at a share of the peak."""
    x = np.linspace(0, peak / k, rows)
    force = k * x
    if slip is not None:
        at = int(slip * rows)
        x[at:] += 0.05 * peak / k
        force[at : at + 4] *= 0.94
    tail = x[-1] + np.linspace(1e-4, 2e-4, 40) * x[-1]
    idle = np.linspace(-0.01, -1e-5, 30) * peak / k
    return np.r_[idle, x, tail], np.r_[np.zeros(30), force, np.zeros(40)] + 2.0


@pytest.mark.parametrize("slip", [None, 0.2, 0.6])
def test_of_a_straight_curve_the_slope_the_peak_and_the_stiffness_are_those_it_was_drawn_with(slip):
    told = read(*straight(400.0, 900.0, slip), Waist(24.0, 42.0), 2e-4)
    assert told.zero == pytest.approx(2.0, abs=0.01) and told.peak == pytest.approx(900, rel=2e-3)
    assert told.slope == pytest.approx(400, rel=5e-3) and told.strength == pytest.approx(900 / 24, rel=2e-3)
    assert told.modulus == pytest.approx(42 / (24 * (1 / 400 - 2e-4)), rel=1e-2)
    assert told.modulus_off == pytest.approx(0.10, abs=0.01)
    assert len(told.slips) == (slip is not None)


def test_more_machine_than_bar_gives_no_stiffness():
    told = read(*straight(4000.0, 900.0), Waist(24.0, 42.0), 2e-4)
    assert told.modulus is None and any("80 % of the stroke is the machine" in s for s in told.says)
    assert read(*straight(400.0, 900.0), Waist(24.0, 42.0)).modulus is None


@pytest.mark.parametrize("seed", range(5))
def test_faulty_runs_are_told(seed):
    waist = Waist(AREA["upright"], LENGTH["upright"])
    with pytest.raises(InputError, match="cable"):
        read(*run(seed, bar("upright", fault="cable")), waist)
    limited = read(*run(seed, bar("upright", fault="limit")), waist)
    assert limited.broke is None and "did not break" in " ".join(limited.says)
    turned = read(*run(seed, bar("upright", fault="turned")), waist)
    plain = read(*run(seed, bar("upright")), waist)
    assert "turned" in " ".join(turned.says) and turned.strength == pytest.approx(plain.strength, rel=0.25)


def test_rows_without_numbers_or_twice_do_not_count():
    stroke, force = straight(400.0, 900.0)
    twice = np.repeat(stroke, 2), np.repeat(force, 2)
    twice[1][7] = np.nan
    told = read(*twice, Waist(24.0, 42.0))
    assert told.slope == pytest.approx(400, rel=5e-3) and "without a number" in " ".join(told.says)
    with pytest.raises(InputError, match="rows"):
        read(stroke[:5], force[:5], Waist(24.0, 42.0))
    with pytest.raises(InputError, match="stroke never changes"):
        read(np.ones(100), force[:100], Waist(24.0, 42.0))


def test_shoulders_count_as_much_as_their_section_gives():
    whole = effective_length(30, 6, 16, 30, 4)
    assert 30 < whole < 30 + 2 * np.sqrt(30**2 - 25**2)
    assert effective_length(30, 6, 6, 30, 4) == pytest.approx(30)
    assert STIFF["along"] > STIFF["upright"]
