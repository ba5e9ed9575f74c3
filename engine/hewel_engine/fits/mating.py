"""Another part set against this one by pairs of faces that meet: where it comes to lie, where both would be in one
place, what is left between them. Lengths mm.
"""

from dataclasses import dataclass, replace
from itertools import product
from math import hypot

import numpy as np
from manifold3d import Manifold

from hewel_engine.fits.estimates import Wish, estimate
from hewel_engine.fits.numbers import FitNumbers
from hewel_engine.geometry import measures
from hewel_engine.geometry.features import find_flats
from hewel_engine.geometry.frames import upright
from hewel_engine.geometry.measures import FACING, Feature
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.reckoning.fits import thermal_fit

ROUND, WIDE = set(measures.ROUND), {"slot", "tongue"}
MEETS = 0.05
"""mm and degrees by which faces may miss each other and still meet."""
SAME = 0.02
"""mm³ below which two parts do not overlap: rounding of facets that touch."""
ALIKE = 0.1
"""Share by which a body and the gap that it goes in may differ in width."""
PIECES = 12
"""Places where they overlap that are told."""


@dataclass(frozen=True, eq=False)
class Pair:
    """A face of this part and one of the other, as measures in the frame of each."""

    mine: Feature
    other: Feature

    @classmethod
    def of(cls, mine: Feature, mesh: Mesh, other: Feature, other_mesh: Mesh) -> "Pair":
        """Of a gap and a body that goes in it, the body from the face that was pointed at to the one opposite that is
        as far away as the gap is wide: a wall of it may be all that lies right behind.
        """
        if {mine.kind, other.kind} == WIDE:
            mine, other = _as_wide(mine, mesh, other.size), _as_wide(other, other_mesh, mine.size)
        return cls(mine, other)

    @property
    def how(self) -> str:
        """*round* (one axis), *between* (one middle plane) or *against* (the two faces touch)."""
        kinds = {self.mine.kind, self.other.kind}
        if kinds <= ROUND:
            return "round"
        return "between" if kinds == WIDE and _alike(self.mine.size, self.other.size) else "against"

    @property
    def fits(self) -> bool:
        """Whether one goes into the other, so that a clearance is between them."""
        return {self.mine.kind, self.other.kind} in (ROUND, WIDE) and self.how != "against"


def _alike(a: float, b: float) -> bool:
    return abs(a - b) <= ALIKE * max(a, b)


def _as_wide(found: Feature, mesh: Mesh, wide: float) -> Feature:
    """A body from its first flat to the parallel one behind it that lies as far away as ``wide``; itself where none
    does, or where it is a gap.
    """
    if found.kind != "tongue" or _alike(found.size, wide):
        return found
    first, axis = found.places[0], found.axis
    behind = [f for f in find_flats(mesh, 0.0) if f.normal @ axis < -FACING]
    apart = [(abs(float((first - f.centre) @ axis) - wide), f) for f in behind]
    off, flat = min(apart, key=lambda row: row[0], default=(np.inf, None))
    if flat is None or off > ALIKE * wide:
        return found
    size = float((first - flat.centre) @ axis)
    return replace(found, size=size, places=np.array([first, first - size * axis]))


@dataclass(frozen=True, eq=False)
class Placement:
    """The other part in this one's frame: turn @ p + shift. ``off``: mm by which its pairs miss each other; ``tilt``:
    degrees. ``free``: whether it can still slide or turn somewhere, and lies there as in its own frame.
    """

    turn: Array
    shift: Array
    off: float
    tilt: float
    free: bool

    @property
    def matrix(self) -> Array:
        return np.c_[self.turn, self.shift]

    @property
    def meets(self) -> bool:
        return self.off <= MEETS and self.tilt <= MEETS


def placed(pairs: list[Pair], centre: Array, other_centre: Array) -> Placement:
    """Where the other part lies when its faces meet those of this one; what they leave open it keeps from its own
    frame, turned as little as can be, its middle (``other_centre``) on this one's where it is turned. Least
    squares, by what each pair fixes.
    """
    ways = [(p.mine.axis, p.other.axis) for p in pairs]
    signs = [(-1.0,) if p.how == "against" else (1.0, -1.0) for p in pairs]
    best: tuple[float, float, Array] | None = None
    for choice in product(*signs):
        turn = _turn([(s * a, b) for s, (a, b) in zip(choice, ways, strict=True)])
        tilt = max(_apart(s * a, turn @ b) for s, (a, b) in zip(choice, ways, strict=True))
        turned = float(np.arccos(np.clip((np.trace(turn) - 1) / 2, -1, 1)))
        if best is None or (round(tilt, 3), round(turned, 6)) < best[:2]:
            best = (round(tilt, 3), round(turned, 6), turn)
    assert best is not None
    tilt, turned, turn = best
    rows, wanted = [], []
    for pair in pairs:
        fixed, gap = _fixed(pair, turn)
        rows.append(fixed)
        wanted.append(gap)
    fixed, gap = np.concatenate(rows), np.concatenate(wanted)
    stays = centre - turn @ other_centre if turned > 1e-3 else np.zeros(3)
    shift = stays + np.linalg.lstsq(fixed, gap - fixed @ stays, rcond=1e-6)[0]
    off = float(np.abs(fixed @ shift - gap).max())
    turns = np.linalg.matrix_rank(np.array([u for u, _ in ways]), tol=1e-3)
    free = bool(np.linalg.matrix_rank(fixed, tol=1e-3) < 3 or turns < 2)
    return Placement(turn, shift, off, tilt, free)


def _turn(ways: list[tuple[Array, Array]]) -> Array:
    """(3, 3) the turn that lays each second direction on its first: the polar factor of Σ u·vᵀ; of one pair alone, or
    of pairs along one line, the smallest.
    """
    total = sum(np.outer(u, v) for u, v in ways)
    u, size, vt = np.linalg.svd(total)
    if size[1] > 1e-6 * size[0]:
        return u @ np.diag([1.0, 1.0, np.sign(np.linalg.det(u @ vt))]) @ vt
    to, way = ways[0]
    axis, cosine = np.cross(way, to), float(way @ to)
    if np.linalg.norm(axis) < 1e-9:
        if cosine > 0:
            return np.eye(3)
        across = upright(way)[1]
        return 2 * np.outer(across, across) - np.eye(3)
    cross = np.array([[0, -axis[2], axis[1]], [axis[2], 0, -axis[0]], [-axis[1], axis[0], 0]])
    return np.eye(3) + cross + cross @ cross / (1 + cosine)


def _apart(a: Array, b: Array) -> float:
    """Degrees between two directions."""
    return float(np.degrees(np.arctan2(np.linalg.norm(np.cross(a, b)), a @ b)))


def _fixed(pair: Pair, turn: Array) -> tuple[Array, Array]:
    """(k, 3) directions that a pair fixes, and (k,) how far the other part is to go along each."""
    mine, other = pair.mine, pair.other
    axis = mine.axis
    middle = lambda f: f.places.mean(axis=0)
    if pair.how == "round":
        ways = upright(axis)[:2]
        return ways, ways @ (middle(mine) - turn @ middle(other))
    if pair.how == "between":
        return axis[None], axis[None] @ (middle(mine) - turn @ middle(other))
    return axis[None], axis[None] @ (mine.places[0] - turn @ other.places[0])


@dataclass(frozen=True, eq=False)
class Overlap:
    """Where both parts would be, as they are drawn: mm³ of it, and the middle (k, 3) of its largest pieces."""

    volume: float
    places: Array


def overlap(solid: Manifold, other: Manifold, where: Placement) -> Overlap:
    """``other`` in its own frame."""
    both = solid ^ other.transform(where.matrix)
    pieces = sorted(both.decompose(), key=lambda piece: -piece.volume())
    real = [piece for piece in pieces if piece.volume() > SAME]
    middles = [np.array(piece.bounding_box()).reshape(2, 3).mean(axis=0) for piece in real[:PIECES]]
    return Overlap(sum(piece.volume() for piece in real), np.array(middles).reshape(-1, 3))


@dataclass(frozen=True)
class Left:
    """What a pair leaves per side as both are printed: in the middle, at the worst of both doubts and by their squares;
    the same at the coldest and the warmest in use (card *thermal_fit*).
    """

    gap: float
    worst: tuple[float, float]
    squares: tuple[float, float]
    cold: float
    warm: float


@dataclass(frozen=True)
class Side:
    """How one of the two is printed: the numbers of its farm, the way it stands, the height of its plate along that,
    and what it grows by, 1/K.
    """

    numbers: FitNumbers
    up: Array
    plate: float
    expansion: float

    def comes_out(self, face: Feature) -> tuple[float, float]:
        """(size, how far that may be off to either side)."""
        told = estimate(face, Wish(), self.numbers, self.up, self.plate)
        return told.printed, told.doubt


@dataclass(frozen=True)
class Bought:
    """The other one is not printed: so much more (``plus``) or less (``minus``) than its nominal size, and what it
    grows by, 1/K.
    """

    plus: float
    minus: float
    expansion: float

    def comes_out(self, face: Feature) -> tuple[float, float]:
        return face.size + (self.plus - self.minus) / 2, (self.plus + self.minus) / 2


def left_between(pair: Pair, mine: Side, other: "Side | Bought", cold: float, warm: float) -> Left | None:
    """None where neither goes into the other: nothing is between them. ``cold`` and ``warm``: K from the room's
    temperature.
    """
    if not pair.fits:
        return None
    outside = {"bore", "slot"}
    hole, pin = ((pair.mine, mine), (pair.other, other)) if pair.mine.kind in outside else (
        (pair.other, other), (pair.mine, mine))  # fmt: skip
    (wide, off), (thick, also) = (side.comes_out(face) for face, side in (hole, pin))
    gap, halves = (wide - thick) / 2, (off / 2, also / 2)
    at = lambda change: thermal_fit(thick, gap, hole[1].expansion, pin[1].expansion, change)[1]
    worst, squares = sum(halves), hypot(*halves)
    return Left(gap, (gap - worst, gap + worst), (gap - squares, gap + squares), at(cold), at(warm))
