"""Bolts that clamp a part, in its stress solution: one unit solution for each, so that torque, size, relaxation and
temperature need no new one.

U_j: one newton squeezed evenly through the two seats of bolt j. w_j, the mean growth of the gap between its seats, is
read from every solution: D_jk = −w_j(U_k), e_j = w_j(load). A bolt of compliance δ_b,j takes ΔF of the load:
(diag(δ_b) + D)·ΔF = e, and the stress is S_load + Σ (F_j + ΔF_j)·S_j (handbook 7; the joint stays closed).
Lengths mm, forces N, stresses MPa.
"""

from dataclasses import dataclass
from itertools import pairwise
from math import pi

import numpy as np

from hewel_engine.errors import InputError
from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.rays import RayScene
from hewel_engine.loads.cases import Case, Load
from hewel_engine.strength.criterion import Strengths, indices
from hewel_engine.strength.lattice import Ties, tie
from hewel_engine.strength.lines import Lie
from hewel_engine.strength.model import FINEST, Loading, Model
from hewel_engine.strength.solution import Answered

LIFT = 0.3
"""mm outside a seat from which it is looked for, and by which it may stand off."""
LEAST_SEAT = 0.5
"""Share of a seat's ring that has to be there."""
CLOSE_ENOUGH = 1e-4
"""Share to which a reserve is found."""
MOST_DOUBLINGS = 12
"""Beyond 2¹² times the load, nothing fails."""


@dataclass(frozen=True, eq=False)
class Seat:
    """The ring that a head, washer or nut bears on: ``centre`` (3,) mm, outward ``normal``, diameters mm."""

    centre: Array
    normal: Array
    inner: float
    outer: float

    @property
    def area(self) -> float:
        return pi / 4 * (self.outer**2 - self.inner**2)


@dataclass(frozen=True, eq=False)
class Clamp:
    """A bolt through the part."""

    name: str
    head: Seat
    nut: Seat

    @property
    def grip(self) -> float:
        return float(np.linalg.norm(self.head.centre - self.nut.centre))


@dataclass(frozen=True, eq=False)
class Squeeze:
    """Where a bolt bears: ``ties`` of its points and the share of a newton (k, 3) that each gets; they balance."""

    ties: Ties
    pushes: Array

    def growth(self, model: Model, displacement: Array) -> float:
        """mm by which the gap between the seats grows, mean over each: work is force times the way of its seat."""
        return -float((self.ties.at(model.lattice, displacement) * self.pushes).sum())


def _ring(seat: Seat, apart: float, rays: RayScene, name: str) -> tuple[Array, Array]:
    """Points (k, 3) of a seat that are there and the area (k,) of each. Raises InputError ``bad_options``."""
    side = np.cross(seat.normal, np.eye(3)[int(np.argmin(np.abs(seat.normal)))])
    side /= np.linalg.norm(side)
    other = np.cross(seat.normal, side)
    rings = max(2, int(np.ceil((seat.outer - seat.inner) / 2 / apart)))
    edges = np.linspace(seat.inner / 2, seat.outer / 2, rings + 1)
    points, areas = [], []
    for low, high in pairwise(edges):
        middle = (low + high) / 2
        count = max(12, int(np.ceil(2 * pi * middle / apart)))
        turn = 2 * pi * np.arange(count) / count
        points.append(seat.centre + middle * (np.cos(turn)[:, None] * side + np.sin(turn)[:, None] * other))
        areas.append(np.full(count, pi * (high**2 - low**2) / count))
    places, share = np.concatenate(points), np.concatenate(areas)
    away = rays.distances(places + LIFT * seat.normal, -seat.normal)
    there = np.abs(away - LIFT) < LIFT
    if share[there].sum() < LEAST_SEAT * share.sum():
        raise InputError(
            "bad_options",
            f"“{name}” has no seat: most of the ring that it bears on is not there.",
            "Move it, or cut its seat first.",
        )
    return places[there], share[there]


def squeezed(model: Model, rays: RayScene, clamp: Clamp) -> tuple[Squeeze, Loading]:
    """One newton through the seats of a bolt. Raises InputError ``bad_options`` where it has none."""
    points, pushes = [], []
    for seat in (clamp.head, clamp.nut):
        at, area = _ring(seat, FINEST * model.grid.size, rays, clamp.name)
        points.append(at)
        pushes.append(-np.outer(area / area.sum(), seat.normal))
    at, push = np.concatenate(points), np.concatenate(pushes)
    ties = tie(model.lattice, model.grid, at)
    case = Case(clamp.name, (Load("pressure"),))
    return Squeeze(ties, push), Loading(case, ties.spread(model.lattice, push), at, push)


@dataclass(frozen=True, eq=False)
class Clamping:
    """What unit solutions tell of ``clamps``: ``stress`` (j, k, 6) MPa per newton at the points, ``flexibility`` (j, j)
    mm/N of the clamped part, and the ``growth`` (c, j) mm of each gap under every case.
    """

    clamps: list[Clamp]
    stress: Array
    flexibility: Array
    growth: Array

    def taken(self, bolt_compliance: Array) -> Array:
        """(c, j) N that each bolt takes of every case beside its preload, for bolts of so many mm/N."""
        return taken_of(bolt_compliance, self.flexibility, self.growth)


def taken_of(bolt_compliance: Array, flexibility: Array, growth: Array) -> Array:
    """(c, j) N: (diag(δ_b) + D)·ΔF = e."""
    return np.linalg.solve(np.diag(bolt_compliance) + flexibility, growth.T).T


def clamping_of(
    model: Model, clamps: list[Clamp], squeezes: list[Squeeze], units: list[Answered], stress: list[np.ndarray],
    cases: list[Answered],
) -> Clamping:  # fmt: skip
    """``units``: the solutions of the bolts, with their ``stress`` at the points; ``cases``: those of the loads."""
    gaps = lambda answered: [s.growth(model, answered.displacement) for s in squeezes]
    own = -np.array([gaps(u) for u in units]).T
    own = (own + own.T) / 2  # Betti: what is not symmetric is the rest of the iteration
    return Clamping(clamps, np.array(stress), own, np.array([gaps(c) for c in cases]).reshape(len(cases), len(clamps)))


def least_multiple(load: Array, held: Array, up: Array, strength: Strengths, lie: Lie) -> tuple[float, int]:
    """The least λ ≥ 0 at which λ·``load`` + ``held`` (k, 6) uses up the strength somewhere, and the point: the load
    grows, the preload does not. 0 where the preload alone does; inf where nothing ever does.

    The index is convex in λ, so a point that is below 1 at both ends of a range stays below it in between.
    """
    used = indices(held, up, strength, lie).worst
    if used.max() >= 1:
        return 0.0, int(np.argmax(used))
    alone = float(indices(load, up, strength, lie).worst.max())
    if alone < 1e-12:
        return np.inf, 0
    low, high = 0.0, 1 / alone
    for _ in range(MOST_DOUBLINGS):
        used = indices(high * load + held, up, strength, lie).worst
        if used.max() >= 1:
            break
        low, high = high, 2 * high
    else:
        return np.inf, int(np.argmax(used))
    rows = np.flatnonzero(used >= 1)
    while high - low > CLOSE_ENOUGH * high:
        middle = (low + high) / 2
        used = indices(middle * load[rows] + held[rows], up, strength, lie.within(rows)).worst
        if used.max() >= 1:
            high, rows = middle, rows[used >= 1]
        else:
            low = middle
    used = indices(high * load[rows] + held[rows], up, strength, lie.within(rows)).worst
    return high, int(rows[np.argmax(used)])
