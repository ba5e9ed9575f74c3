"""Bars that are pulled until they break, as a stand would see it. What a plastic really bears is a matter of the seed
and of its name alone; nobody outside is told. Forces N, lengths mm, stresses MPa, times s.
"""

import itertools
import math
import random
from collections.abc import Iterator
from dataclasses import dataclass

from simulated_door import Refused

AREA = {"along": 24.0, "across lines": 24.0, "upright": 48.0, "aslant": 24.0, "steel": 100.0}
"""mm² of each bar's waist as it is drawn."""
LENGTH = {"along": 42.0, "across lines": 42.0, "upright": 29.0, "aslant": 42.0, "steel": 60.0}
"""mm of its waist and shoulders together, as one of the waist's section."""
FAULTS = ("", "grip", "limit", "cable", "turned")
"""Broke in the grip, ran into the cell's limit, its cable is out, the stroke runs the other way."""
RATES = 100.0
"""Rows a second."""
BASE = {"along": 45.0, "across lines": 30.0, "upright": 28.0, "aslant": 36.0}
STIFF, YIELD_STRAIN = {"along": 2000.0, "across lines": 1850.0, "upright": 1750.0, "aslant": 1850.0}, 0.04
PLATE, BAR = 0.05, {"along": 0.05, "across lines": 0.10, "upright": 0.10, "aslant": 0.10}
"""Scatter of the logarithm from plate to plate and from bar to bar."""
SHORT_S = 20.0
"""Layer time at which a weld is as good as it gets."""


@dataclass(frozen=True)
class Truth:
    """What a plastic bears, by the way a bar is pulled; ``fades``: power of the layer time that its weld goes with."""

    strength: dict[str, float]
    stiffness: dict[str, float]
    fades: float


@dataclass(frozen=True)
class Machine:
    give: float
    """mm/N"""
    zero: float
    limit: float


@dataclass(frozen=True)
class Bar:
    """``kind`` of BASE or steel; the ``plate`` it was printed on, its ``number`` there, the layer time it had."""

    plastic: str
    kind: str
    plate: str
    number: int
    layer_s: float
    fault: str = ""


def truth(seed: int, plastic: str) -> Truth:
    """The same for one seed and one name of a plastic."""
    chance = random.Random(f"{seed} {plastic.lower().strip()}")
    level = math.exp(chance.gauss(-0.05, 0.12))
    ratio = math.exp(chance.gauss(0, 0.06))
    weld = {"along": 1.0, "across lines": ratio, "upright": ratio, "aslant": math.sqrt(ratio)}
    soft = math.exp(chance.gauss(0, 0.06))
    return Truth(
        {kind: level * weld[kind] * base for kind, base in BASE.items()},
        {kind: soft * base for kind, base in STIFF.items()},
        chance.uniform(0.08, 0.18),
    )


def machine(seed: int) -> Machine:
    chance = random.Random(f"{seed} machine")
    return Machine(chance.uniform(0.5e-4, 3e-4), chance.uniform(-3, 3), 5000.0)


def pulled(seed: int, bar: Bar) -> Iterator[tuple[float, float, float]]:
    """Rows of a run: time s, stroke mm, force N."""
    if bar.kind not in AREA:
        raise Refused(f"This stand has no bar “{bar.kind}”: it pulls {', '.join(AREA)}.")
    if bar.fault not in FAULTS:
        raise Refused(f"There is no fault “{bar.fault}”.")
    chance = random.Random(f"{seed} {bar.plastic} {bar.kind} {bar.plate} {bar.number} {bar.layer_s}")
    stand = machine(seed)
    rows = _steel(stand, chance) if bar.kind == "steel" else _plastic(seed, stand, bar, chance)
    full = 1000.0
    idle = ((0.0003 * k, 0.0) for k in range(40))  # the cell hangs free until the bar is taut
    for i, (stroke, force) in enumerate(itertools.chain(idle, rows)):
        noise = chance.gauss(0, 0.002 * full / 4 + 0.1)
        seen = 0.0 if bar.fault == "cable" else force + stand.zero + noise
        yield i / RATES, -stroke if bar.fault == "turned" else stroke, round(seen, 1)


def _steel(stand: Machine, chance: random.Random) -> Iterator[tuple[float, float]]:
    slack = chance.uniform(0, 0.2)
    for i in range(600):
        force = 2000.0 * i / 600
        yield _stroke(force, 0.0, stand, slack), force


def _stroke(force: float, strain: float, stand: Machine, slack: float, length: float = 0.0) -> float:
    """L·ε + C·F and the toe: slack that is taken up as the grips bite."""
    taken = slack * (1 - math.exp(-force / 20.0)) if force > 0 else 0.0
    return 0.012 + length * strain + stand.give * force + taken


def _plastic(seed: int, stand: Machine, bar: Bar, chance: random.Random) -> Iterator[tuple[float, float]]:
    known = truth(seed, bar.plastic)
    of_plate = random.Random(f"{seed} {bar.plastic} {bar.plate}").gauss(0, PLATE)
    strength = known.strength[bar.kind] * math.exp(of_plate + chance.gauss(0, BAR[bar.kind]))
    if bar.kind in ("upright", "aslant"):
        strength *= (max(bar.layer_s, SHORT_S) / SHORT_S) ** -known.fades
    area = AREA[bar.kind] * (1 + chance.gauss(0, 0.01))
    stiffness, length = known.stiffness[bar.kind], LENGTH[bar.kind]
    slack, speed = chance.uniform(0, 0.4), 2.0 / 60
    slips = sorted(chance.uniform(0.15, 0.8) for _ in range(min(_poisson(chance, 0.6), 3)))
    if bar.fault == "grip":
        strength *= chance.uniform(0.6, 0.85)
    bend = stiffness * YIELD_STRAIN / strength - 1  # σ = E·ε/(1 + κ·ε/ε_y) reaches the strength at ε_y
    stress = lambda strain: stiffness * strain / (1 + max(bend, 0.0) * strain / YIELD_STRAIN)
    tough = bar.kind == "along" and bar.fault != "grip"
    strain, slipped, ended = 0.0, 0.0, False
    steps = int(3 * YIELD_STRAIN * length / (speed / RATES))
    rate = 1.5 * YIELD_STRAIN / 1500
    for _ in range(steps):
        strain += rate
        pull = stress(strain)
        if pull >= strength or (tough and strain >= YIELD_STRAIN):
            ended = True
            break
        while slips and pull > slips[0] * strength:
            slips.pop(0)
            slipped += 0.03 * length * YIELD_STRAIN
            yield _stroke(area * pull, strain, stand, slack, length) + slipped, area * pull * chance.uniform(0.92, 0.98)
        if bar.fault == "limit" and area * pull > 0.5 * area * strength:
            return
        yield _stroke(area * pull, strain, stand, slack, length) + slipped, area * pull
    if not ended:
        return
    force = area * min(strength, stress(strain))
    if tough:  # a drop, a neck, then it parts
        drop, neck = chance.uniform(0.05, 0.2), 600
        for k in range(neck):
            share = 1 - drop * min(k / 80, 1.0)
            strain += rate
            yield _stroke(force, strain, stand, slack, length) + slipped, force * share
    for _ in range(60):  # nothing holds any more
        strain += rate / 10
        yield _stroke(force, strain, stand, slack, length) + slipped, 0.0


def _poisson(chance: random.Random, mean: float) -> int:
    limit, count, product = math.exp(-mean), 0, chance.random()
    while product > limit:
        count += 1
        product *= chance.random()
    return count
