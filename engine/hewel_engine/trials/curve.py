"""A force–stroke curve of a broken bar: where it begins, where it breaks, its slope, its strength and stiffness
(coupons). Forces N, lengths mm, stresses MPa, times s.
"""

from dataclasses import dataclass
from itertools import pairwise
from math import hypot
from typing import Literal

import numpy as np

from hewel_engine.errors import InputError
from hewel_engine.geometry.mesh import Array
from hewel_engine.trials.plates import ROBUST

BEGINS = 0.01
"""Share of the peak below which nothing pulls yet."""
FALLS, WITHIN, REGAINS = 0.4, 0.002, 0.9
"""A break: a fall by more than FALLS within a share WITHIN of the stroke, after which REGAINS of it is not reached."""
YIELDS = 0.03
"""Share that the force falls by after a first maximum that is a yield."""
SLOPE = (0.1, 0.4)
"""Of the peak: the stretch that the slope is taken from."""
MOST_OF_MACHINE = 0.5
"""C·k from which on more than half of the stroke is the machine."""
FEWEST, MOST = 20, 400_000
SLIP_FALLS = 0.012
"""Of the force there: a sudden fall that is a slip in the grips."""
BY_STROKE = 0.10
"""A stroke takes the creep of the grips with it: so far may a stiffness be off, and it is a lower bound."""


@dataclass(frozen=True)
class Bar:
    """``area`` mm² of the waist; ``length`` mm: Σ L_i·A/A_i of the parallel length and the shoulders."""

    area: float
    length: float


@dataclass(frozen=True)
class Curve:
    """Rows of a curve as they were measured: ``stroke`` and ``force``."""

    stroke: Array
    force: Array


@dataclass(frozen=True)
class Read:
    """``zero`` N that is taken off; ``broke`` the last sample before the break, None where it did not; ``peak`` N;
    ``yielded`` N at a yield; ``slope`` N/mm over the stretch ``between``; ``strength`` MPa and ``modulus`` MPa with
    what it may be off by.
    """

    zero: float
    begins: int
    broke: int | None
    peak: float
    yielded: float | None
    slope: float | None
    between: tuple[int, int] | None
    slips: list[int]
    strength: float
    modulus: float | None
    modulus_off: float | None
    says: list[str]

    @property
    def kind(self) -> Literal["broke", "yielded", "not broken"]:
        return "not broken" if self.broke is None else "yielded" if self.yielded is not None else "broke"


def cleaned(stroke: Array, force: Array) -> tuple[Curve, list[str]]:
    """Rows that can be read: without double stamps and gaps, the stroke growing. Raises InputError ``bad_curve``."""
    says, stroke, force = [], np.asarray(stroke, float), np.asarray(force, float)
    if len(stroke) > MOST:
        raise InputError("bad_curve", f"The curve has more than {MOST:,} rows.", "Thin it out, to 200 a second.")
    good = np.isfinite(stroke) & np.isfinite(force)
    if not good.all():
        says.append(f"{int((~good).sum())} rows without a number are left out.")
    stroke, force = stroke[good], force[good]
    if len(stroke) < FEWEST:
        raise InputError("bad_curve", f"The curve has {len(stroke)} rows.", f"{FEWEST} are wanted at least.")
    if np.ptp(stroke) <= 0:
        raise InputError("bad_curve", "The stroke never changes.", "Look which column it is.")
    if abs(stroke.min() - stroke[0]) > abs(stroke.max() - stroke[0]):
        stroke = -stroke
        says.append("The stroke ran the other way: its sign is turned.")
    big = force[int(np.argmax(np.abs(force - np.median(force[: max(len(force) // 20, 3)]))))]
    if big < 0:
        force = -force
        says.append("The force ran the other way: its sign is turned.")
    keep = np.r_[True, np.diff(stroke) > 0] | (np.r_[0.0, np.abs(np.diff(force))] > 0)
    doubled = int((~keep).sum())
    if doubled > len(keep) // 50:
        says.append(f"{doubled} rows stand twice and count once.")
    return Curve(stroke[keep], force[keep]), says


def read(stroke: Array, force: Array, bar: Bar, compliance: float | None = None, compliance_off: float = 0.0) -> Read:
    """The curve of one bar. ``compliance`` mm/N of the machine, None: not known. Raises InputError ``bad_curve`` where
    nothing pulls.
    """
    curve, says = cleaned(stroke, force)
    rough = float(np.percentile(curve.force, 99.9) - np.median(curve.force[: max(len(curve.force) // 50, 5)]))
    noise = ROBUST * float(np.median(np.abs(np.diff(curve.force)))) / np.sqrt(2)
    if rough < max(10 * noise, 1.0):
        raise InputError(
            "bad_curve", "The force never rises: the cable of the cell may be out.", "Look at it, run again."
        )
    first = int(np.argmax(curve.force - curve.force[0] > BEGINS * rough + 4 * noise))
    zero = float(np.median(curve.force[: max(first, 3)]))
    pull = curve.force - zero
    broke = _break(curve.stroke, pull)
    end = len(pull) - 1 if broke is None else broke
    peak = float(pull[: end + 1].max())
    slips = _slips(curve.stroke, pull, end, peak, noise)
    yielded = _yield(pull, end, peak, slips, noise)
    if broke is None:
        says.append("It did not break: a lower bound.")
    if slips:
        says.append(f"It slipped in the grips {len(slips)} time{'s' * (len(slips) > 1)}.")
    slope, slope_off, between = _slope(curve.stroke, pull, end, peak, slips)
    modulus = off = None
    if slope is None:
        says.append("No straight stretch without a slip: no stiffness.")
    elif compliance is None:
        says.append("The give of the machine is not known: run a steel bar first; no stiffness.")
    elif compliance * slope > MOST_OF_MACHINE:
        says.append(f"{100 * compliance * slope:.0f} % of the stroke is the machine: no stiffness.")
    else:
        modulus = bar.length / (bar.area * (1 / slope - compliance))
        off = hypot(hypot(slope_off, slope * compliance_off) / (1 - compliance * slope), 0.006)
        off = hypot(off, BY_STROKE)
        says.append("Stiffness by the stroke is a lower bound: grips creep.")
    return Read(zero, first, broke, peak, yielded, slope, between, slips, peak / bar.area, modulus, off, says)


def _break(stroke: Array, pull: Array) -> int | None:
    """The last sample before the force falls for good."""
    peak = float(pull.max())
    window = max(WITHIN * float(np.ptp(stroke)), 1e-9)
    ahead = np.minimum(np.searchsorted(stroke, stroke + window, side="right"), len(stroke) - 1)
    later = np.maximum.accumulate(pull[::-1])[::-1]  # the most that is reached from here on
    fell = (pull > 0.3 * peak) & (pull[ahead] < (1 - FALLS) * pull) & (later[ahead] < REGAINS * pull)
    found = np.flatnonzero(fell)
    if len(found) == 0:
        return None
    first = int(found[0])
    run = slice(first, int(ahead[first]) + 1)
    return first + int(np.argmax(pull[run])) if pull[run].argmax() < 3 else first


def _slips(stroke: Array, pull: Array, end: int, peak: float, noise: float) -> list[int]:
    """Where the force falls at once by a little and climbs again; the first sample of each."""
    step = max(2, len(pull) // 2000)
    fall = pull[:-step] - pull[step:]
    at = np.flatnonzero(
        fall[: max(end - 2 * step, 0)]
        > np.maximum(SLIP_FALLS * pull[: max(end - 2 * step, 0)], 6 * noise + 1e-3 * peak)
    )
    out: list[int] = []
    for i in at:
        if out and i - out[-1] < 10 * step:
            continue
        after = pull[i + step : end + 1]
        if len(after) and after.max() > 0.99 * pull[i]:  # it climbs again: no yield, no break
            out.append(int(i))
    return out


def _yield(pull: Array, end: int, peak: float, slips: list[int], noise: float) -> float | None:
    """The first maximum that is followed by a fall of more than YIELDS without fracture."""
    top = int(np.argmax(pull[: end + 1]))
    after = pull[top : end + 1]
    if len(after) < 10 or top in slips:
        return None
    return float(pull[top]) if float(np.median(after[-max(len(after) // 10, 3) :])) < (1 - YIELDS) * peak else None


def _slope(
    stroke: Array, pull: Array, end: int, peak: float, slips: list[int]
) -> tuple[float | None, float, tuple[int, int] | None]:
    """(N/mm, share that it may be off by, stretch) by Theil–Sen over the longest stretch without a slip."""
    low = int(np.argmax(pull > SLOPE[0] * peak))
    high = int(np.argmax(pull > SLOPE[1] * peak))
    high = min(high if high > low else end, end)
    cuts = [low, *[s for s in slips if low < s < high], high]
    pieces = [(a + (20 if a in slips else 0), b) for a, b in pairwise(cuts)]
    a, b = max(pieces, key=lambda piece: piece[1] - piece[0])
    if b - a < 10:
        return None, 0.0, None
    chosen = np.linspace(a, b - 1, min(b - a, 300)).astype(int)
    x, y = stroke[chosen], pull[chosen]
    i, j = np.triu_indices(len(x), max(len(x) // 10, 1))
    far = x[j] - x[i] > 0.05 * np.ptp(x)
    slopes = np.sort((y[j] - y[i])[far] / (x[j] - x[i])[far])
    if len(slopes) == 0:
        return None, 0.0, None
    slope = float(np.median(slopes))
    left = y - slope * x
    scatter = ROBUST * float(np.median(np.abs(left - np.median(left))))
    off = scatter / (np.std(x) * np.sqrt(len(x))) / abs(slope) if slope else 1.0
    return (slope, float(off), (a, b)) if slope > 0 else (None, 0.0, None)


def give_of(stroke: Array, force: Array) -> tuple[float, float]:
    """(mm/N, how far off) of a machine by a run with a steel bar whose own give is nothing."""
    curve, _ = cleaned(stroke, force)
    pull = curve.force - float(np.median(curve.force[:5]))
    end, peak = int(np.argmax(pull)), float(pull.max())
    slope, off, _ = _slope(curve.stroke, pull, end, peak, _slips(curve.stroke, pull, end, peak, 0.0))
    if slope is None:
        raise InputError("bad_curve", "This run has no straight stretch.", "Run the steel bar again.")
    return 1 / slope, off / slope


def effective_length(parallel: float, waist: float, grip: float, radius: float, thick: float) -> float:
    """Σ L_i·A/A_i of a waisted bar: the parallel length, and both shoulders up to the grip along their arcs."""
    drop = (grip - waist) / 2
    reach = float(np.sqrt(max(radius**2 - (radius - drop) ** 2, 0.0)))
    x = np.linspace(0, reach, 200)
    wide = waist + 2 * (radius - np.sqrt(radius**2 - x**2))
    return parallel + 2 * float(np.trapezoid(waist / wide, x))
