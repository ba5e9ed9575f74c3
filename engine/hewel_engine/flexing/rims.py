"""The rim of an annular snap: what its hoop is strained by and may be, what it goes in and comes out with (handbook 8;
card *annular_snap*). Lengths mm, forces N.
"""

from dataclasses import dataclass
from typing import Literal

from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.rims import Rim
from hewel_engine.processes import Process
from hewel_engine.reckoning.pins import annular_snap

THIN = 0.3
"""Wall over its mean radius up to which it is a thin shell."""
AT_END = 0.9
"""Of √(R·t): a bead nearer to the end than that gives as the end does; further in four times as hard."""
UPRIGHT = 0.5
"""|axis·up| from which on a hoop lies in the layers."""


@dataclass(frozen=True)
class Hoop:
    """``strain`` of the hoop, ``allowed`` in its direction; N to put it in and to pull it out (None: not by itself)."""

    strain: float
    allowed: float
    mating: float | None
    holding: float | None
    thick: bool
    """Thicker than a shell: it gives less, and goes in harder than this says."""

    @property
    def reserve(self) -> float:
        return self.allowed / self.strain


def hoop(
    inner: float, outer: float, undercut: float, process: Process, stands: bool, friction: float,
    slopes: tuple[float, float], remote: bool,
) -> Hoop:  # fmt: skip
    """Of a wall between two diameters with an ``undercut`` on the diameter; ``stands``: its axis is upright, the hoop
    crosses the lines of its layers (X_a), else the layers (Z_t). A thick wall gives no softer than one of THIN.
    """
    stock = process.stock
    shell = min(outer, inner * (1 + 2 * THIN * 0.5 / (1 - THIN / 2)))
    of = lambda angle: annular_snap(
        inner, undercut, shell, float(stock.e_xy), float(stock.poisson), friction, angle, remote
    )[0]
    strain, _, mating = of(slopes[0])
    strength = float(stock.x_a if stands else stock.z_t)
    return Hoop(strain, strength / float(stock.e_xy), mating, of(slopes[1])[2], outer > shell + 1e-9)


@dataclass(frozen=True)
class Ringed:
    """A rim as the part stands; ``turned``: its reserve with the axis the other way; ``least``: the undercut on the
    diameter with which it holds; None where it holds as it is.
    """

    hoop: Hoop
    undercut: float
    stands: bool
    remote: bool
    reserve: float
    turned: float
    least: float | None
    says: tuple[str, ...]

    @property
    def verdict(self) -> Literal["holds", "fails"]:
        return "holds" if self.reserve >= 1 else "fails"


def ringed(rim: Rim, undercut: float | None, friction: float, process: Process, up: Array) -> Ringed:
    """``undercut``: how far its mate stretches it on the diameter; None: by all of its bead."""
    stands = abs(float(rim.axis @ up)) > UPRIGHT
    inner, outer = (rim.diameter, rim.diameter + 2 * rim.wall) if rim.inside else (
        rim.diameter - 2 * rim.wall, rim.diameter)  # fmt: skip
    wide = rim.undercut if undercut is None else undercut
    remote = rim.from_end > AT_END * (rim.wall * (inner + outer) / 4) ** 0.5
    of = lambda upright: hoop(inner, outer, wide, process, upright, friction, (rim.angle_in, rim.angle_out), remote)
    found, other = of(stands), of(not stands)
    says = []
    if not stands:
        says.append("Its hoop crosses the layers: stand the axis upright.")
    if remote:
        says.append("Its bead is far from the end: it goes in four times as hard as at the end.")
    if found.thick:
        says.append("Its wall is thicker than a shell: it gives less, and goes in harder than this says.")
    if found.holding is None:
        says.append("By such a slope it does not come out by itself.")
    least = wide * found.reserve if found.reserve < 1 else None
    return Ringed(found, wide, stands, remote, found.reserve, other.reserve, least, tuple(says))
