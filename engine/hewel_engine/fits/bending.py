"""A pin pushed from the side: what it bears at its root as its layers lie, and which radius there saves it (handbook 8;
card *pin*). Lengths mm, forces N, stresses MPa.
"""

from dataclasses import dataclass

from hewel_engine.geometry.measures import Feature
from hewel_engine.geometry.mesh import Array
from hewel_engine.processes import Process
from hewel_engine.reckoning.pins import pin, rounded

MOST_ROUND = 0.3
"""Of its diameter: the largest root radius that the card knows."""
STANDS = 0.5
"""|axis·up| from which on a push parts its layers."""


@dataclass(frozen=True)
class Pushed:
    """``stress`` at its root without the notch, ``peak`` with it, ``strength`` of its layers there, ``reserve`` over
    the peak; ``radius``: the least at its root with which it holds; None where it holds as it is, or none saves it.
    """

    stress: float
    notch: float
    peak: float
    strength: float
    reserve: float
    radius: float | None
    stands: bool


def pushed(found: Feature, push: float, process: Process, up: Array) -> Pushed:
    """A pin held at one end, pushed at its other one. Its root is taken to be sharp: half a line stays of it."""
    stock = process.stock
    stands = abs(float(found.axis @ up)) > STANDS
    strength = float(stock.z_t if stands else stock.x_t)
    arm, wide = float(found.lengths.max()), found.size
    of = lambda radius: pin(push, arm, wide, radius, strength)[0]
    _, stress, notch, peak, reserve = of(process.width / 2)
    return Pushed(
        stress, notch, peak, strength, reserve, None if reserve >= 1 else _saves(stress, strength, wide), stands
    )


def _saves(stress: float, strength: float, wide: float) -> float | None:
    """The radius whose notch just brings the peak down to the strength."""
    wanted = strength / stress
    if wanted < 1:
        return None
    share = rounded(wanted)
    return share * wide if share <= MOST_ROUND else None
