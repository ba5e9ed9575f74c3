"""The cycle over coarser lattices that makes a stiffness quick to invert, and conjugate gradients round it.

Coarser lattices join voxels two by two by two; their operators are exact projections of the finer ones (Galerkin), so
thin walls keep their stiffness. Smoothing is by Chebyshev polynomials of the block-diagonally scaled operator.

Sources: Adams, Brezina, Hu, Tuminaro (2003) for the smoother; Briggs, Henson, McCormick, A Multigrid Tutorial.
"""

from collections.abc import Callable
from copy import copy
from dataclasses import dataclass
from typing import Any

import numpy as np
from numba import njit
from scipy.sparse import identity
from scipy.sparse.linalg import splu

from hewel_engine.geometry.mesh import Array
from hewel_engine.strength.bricks import CORNERS, shapes
from hewel_engine.strength.lattice import Lattice, lattice_of
from hewel_engine.strength.operators import Bricks, stencils

DEGREE = 3
LOWEST = 0.1
"""Share of the greatest eigenvalue above which a smoother works; the coarser lattices have the rest."""
POWER_STEPS = 12
MARGIN = 1.1
COARSEST = 1000
"""Nodes that are left to a direct solution."""
SHIFT = 1e-7
"""Added to the coarsest diagonal, relative: a motion that nothing holds and nothing drives must not stop the sum."""
THIN = 6.8
"""Nodes to one of the next lattice, below which a part is mostly walls; a solid block comes near eight."""
ENOUGH = 0.25
"""Residual after one step, relative, that spares the second (Notay)."""


@njit(cache=True, nogil=True)
def _inverted(blocks):
    """(n, 3, 3) inverses of symmetric blocks."""
    out = np.empty_like(blocks)
    for n in range(len(blocks)):
        a, b, c = blocks[n, 0, 0], blocks[n, 0, 1], blocks[n, 0, 2]
        d, e, f = blocks[n, 1, 1], blocks[n, 1, 2], blocks[n, 2, 2]
        p, q, r = d * f - e * e, c * e - b * f, b * e - c * d
        det = a * p + b * q + c * r
        out[n, 0, 0], out[n, 0, 1], out[n, 0, 2] = p / det, q / det, r / det
        out[n, 1, 0], out[n, 1, 1], out[n, 1, 2] = q / det, (a * f - c * c) / det, (b * c - a * e) / det
        out[n, 2, 0], out[n, 2, 1], out[n, 2, 2] = r / det, (b * c - a * e) / det, (a * d - b * b) / det
    return out


@njit(cache=True, nogil=True, fastmath=True)
def _dot(a, b):
    total = 0.0
    for n in range(len(a)):
        total += np.float64(a[n, 0]) * b[n, 0] + np.float64(a[n, 1]) * b[n, 1] + np.float64(a[n, 2]) * b[n, 2]
    return total


@njit(cache=True, nogil=True)
def _joined(children, parent, which, stiffness, out):
    """Adds to the parents' matrices ``out`` the bricks of their voxels, projected: ``children`` (8, 24, 24)."""
    for e in range(len(parent)):
        p, c, s = parent[e], which[e], stiffness[e]
        for i in range(24):
            for j in range(24):
                out[p, i, j] += s * children[c, i, j]


@njit(cache=True, nogil=True, fastmath=True)
def _smoothed(diagonal, residual, step, x, keep, take):
    """step = keep·step + take·D⁻¹·residual; x += step."""
    for n in range(len(diagonal)):
        r0, r1, r2 = residual[n, 0], residual[n, 1], residual[n, 2]
        for i in range(3):
            d = diagonal[n, i, 0] * r0 + diagonal[n, i, 1] * r1 + diagonal[n, i, 2] * r2
            step[n, i] = keep * step[n, i] + take * d
            x[n, i] += step[n, i]


@njit(cache=True, nogil=True, fastmath=True)
def _less(residual, other):
    for n in range(len(residual)):
        residual[n, 0] -= other[n, 0]
        residual[n, 1] -= other[n, 1]
        residual[n, 2] -= other[n, 2]


@njit(cache=True, nogil=True, fastmath=True)
def _restricted(parents, counts, fine, coarse):
    """coarse = Pᵀ·fine: each node gives equal shares to the coarse nodes between which it lies."""
    coarse[:] = 0
    for n in range(len(parents)):
        share = fine.dtype.type(1) / fine.dtype.type(counts[n])
        for k in range(counts[n]):
            p = parents[n, k]
            coarse[p, 0] += share * fine[n, 0]
            coarse[p, 1] += share * fine[n, 1]
            coarse[p, 2] += share * fine[n, 2]


@njit(cache=True, nogil=True, fastmath=True)
def _prolonged(parents, counts, coarse, fine):
    """fine += P·coarse."""
    for n in range(len(parents)):
        share = fine.dtype.type(1) / fine.dtype.type(counts[n])
        x, y, z = fine.dtype.type(0), fine.dtype.type(0), fine.dtype.type(0)
        for k in range(counts[n]):
            p = parents[n, k]
            x += coarse[p, 0]
            y += coarse[p, 1]
            z += coarse[p, 2]
        fine[n, 0] += share * x
        fine[n, 1] += share * y
        fine[n, 2] += share * z


class _Level:
    """An operator with its smoother and its way to the next coarser lattice."""

    def __init__(self, operator, count: int, parents=None, counts=None):
        self.operator, self.count, self.parents, self.counts = operator, count, parents, counts
        self.kind = operator.kind
        self.inverse = _inverted(operator.diagonal())
        self.make_room()
        self.greatest = MARGIN * self._greatest()

    def make_room(self) -> None:
        one_more = lambda: np.zeros((self.count + 1, 3), self.kind)  # a row of zeros after the last node
        self.x, self.residual, self.step, self.product = one_more(), one_more(), one_more(), one_more()

    def _greatest(self) -> float:
        """Greatest eigenvalue of D⁻¹A by power steps from a rough start, the same every time."""
        u = np.zeros((self.count + 1, 3), self.kind)
        u[:-1] = np.random.default_rng(0).standard_normal((self.count, 3))
        found = 1.0
        for _ in range(POWER_STEPS):
            u /= self.kind(np.linalg.norm(u))
            self.operator.times(u, self.product)
            self.step[:] = 0
            grown = np.zeros_like(u)
            _smoothed(self.inverse, self.product, self.step, grown, self.kind(0), self.kind(1))
            found = float(np.linalg.norm(grown))
            u = grown
        self.step[:] = 0
        return found

    def smooth(self) -> None:
        """DEGREE Chebyshev steps on x; needs and leaves the residual of x."""
        middle, half = self.greatest * (1 + LOWEST) / 2, self.greatest * (1 - LOWEST) / 2
        sigma = middle / half
        rho = 1 / sigma
        keep, take = 0.0, 1 / middle
        for _ in range(DEGREE):
            _smoothed(self.inverse, self.residual, self.step, self.x, self.kind(keep), self.kind(take))
            self.operator.times(self.step, self.product)
            _less(self.residual, self.product)
            after = 1 / (2 * sigma - rho)
            keep, take = after * rho, 2 * after / half
            rho = after


class Cycle:
    """One V-cycle in single precision: what a residual is worth as a displacement, nearly."""

    def __init__(self, fine: Bricks):
        level: Any
        lattice, level = fine.lattice, fine.as_type(np.float32)
        matrices = None
        self.levels: list[_Level] = []
        self.thin, self.kind = False, np.float32
        while len(lattice.nodes) > COARSEST and min(lattice.cell_at.shape) >= 1 and max(lattice.cell_at.shape) > 2:
            coarse, parent, which = _coarser(lattice)
            parents, counts = _between(lattice, coarse)
            if not self.levels:
                self.thin = len(lattice.nodes) / len(coarse.nodes) < THIN
                self.kind = np.float64 if self.thin else np.float32
            self.levels.append(_Level(level, len(lattice.nodes), parents, counts))
            matrices = _projected(fine, matrices, len(coarse), parent, which, self.kind)
            lattice = coarse
            level = stencils(lattice, matrices)
        if not self.levels:
            matrices = fine.stiffness[:, None, None] * fine.brick[None]
            np.add.at(matrices, fine.owners, fine.own)
            level = stencils(lattice, matrices)
        self.count = len(lattice.nodes)
        matrix = level.sparse()
        self._direct = splu((matrix + SHIFT * matrix.diagonal().mean() * identity(3 * self.count)).tocsc())

    def another(self) -> "Cycle":
        """The same cycle with room of its own to compute in, for another thread."""
        out = copy(self)
        out.levels = [copy(level) for level in self.levels]
        for level in out.levels:
            level.make_room()
        return out

    def _down(self, depth: int, residual: np.ndarray) -> np.ndarray:
        if depth == len(self.levels):
            out = np.zeros((self.count + 1, 3), self.kind)
            out[:-1] = self._direct.solve(residual[: self.count].astype(np.float64).ravel()).reshape(-1, 3)
            return out
        level = self.levels[depth]
        level.residual[: level.count] = residual[: level.count]
        level.x[:] = 0
        level.step[:] = 0
        level.smooth()
        below = self.levels[depth + 1].count if depth + 1 < len(self.levels) else self.count
        coarse = np.zeros((below + 1, 3), self.kind)
        _restricted(level.parents, level.counts, level.residual, coarse)
        level.step[:] = 0
        _prolonged(level.parents, level.counts, self._answer(depth + 1, coarse), level.step)
        level.x += level.step
        level.operator.times(level.step, level.product)
        _less(level.residual, level.product)
        level.smooth()
        return level.x

    def _answer(self, depth: int, residual: np.ndarray) -> np.ndarray:
        """The coarse correction: of a thin wall the coarse lattices are too stiff in bending, four times with every
        doubling, so from the second on two steps of conjugate gradients are taken on it instead of one visit
        (on the first they would cost more than they save). Source: Notay and Vassilevski (2008), K-cycle.
        """
        first = self._down(depth, residual)
        if depth < 2 or depth == len(self.levels) or not self.thin:
            return first
        level = self.levels[depth]
        first = first.copy()
        image = np.zeros_like(first)
        level.operator.times(first, image)
        length = _dot(first, residual) / max(_dot(first, image), 1e-30)
        rest = residual - length * image
        if _dot(rest, rest) < ENOUGH**2 * _dot(residual, residual):
            return length * first
        second = self._down(depth, rest)
        image2 = np.zeros_like(first)
        level.operator.times(second, image2)
        # the best of the plane that both span, in energy
        a11, a12, a22 = _dot(first, image), _dot(first, image2), _dot(second, image2)
        b1, b2 = _dot(first, residual), _dot(second, residual)
        det = a11 * a22 - a12 * a12
        if not det > 1e-4 * a11 * a22:  # both say the same
            return length * first
        return ((b1 * a22 - b2 * a12) / det) * first + ((a11 * b2 - a12 * b1) / det) * second

    def __call__(self, residual: Array) -> Array:
        """(n, 3) float64, nearly A⁻¹·``residual``."""
        size = float(np.abs(residual).max()) or 1.0
        scaled = np.zeros((len(residual) + 1, 3), np.float32)
        scaled[:-1] = residual / size
        return self._down(0, scaled)[:-1] * size


def _coarser(lattice: Lattice) -> tuple[Lattice, np.ndarray, np.ndarray]:
    """The lattice of twice the size, the parent of every cell, and which of its eight children the cell is."""
    shape = tuple((n + 1) // 2 for n in lattice.cell_at.shape)
    half = lattice.cells >> 1
    active = np.zeros(shape, bool)
    active[tuple(half.T)] = True
    coarse = lattice_of(active)
    which = (lattice.cells[:, 2] & 1) + 2 * (lattice.cells[:, 1] & 1) + 4 * (lattice.cells[:, 0] & 1)
    return coarse, coarse.cell_at[tuple(half.T)], which


def _between(lattice: Lattice, coarse: Lattice) -> tuple[np.ndarray, np.ndarray]:
    """The coarse nodes (n, 8) between which every node lies, and how many they are."""
    shape = tuple(n + 1 for n in coarse.cell_at.shape)
    number = np.full(shape, -1, np.int32)
    number[tuple(coarse.nodes.T)] = np.arange(len(coarse.nodes), dtype=np.int32)
    low, odd = lattice.nodes >> 1, lattice.nodes & 1
    parents = np.zeros((len(lattice.nodes), 8), np.int32)
    counts = np.zeros(len(lattice.nodes), np.int64)
    for x, y, z in CORNERS:
        offset = np.array([z, y, x])
        takes = (odd >= offset).all(axis=1)
        rows = np.flatnonzero(takes)
        parents[rows, counts[rows]] = number[tuple((low[rows] + offset).T)]
        counts[rows] += 1
    return parents, counts


PROJECTIONS = np.stack([np.kron(shapes((CORNERS + corner) / 2), np.eye(3)) for corner in CORNERS])
"""(8, 24, 24): displacements of a child's corners from those of its parent."""


def _projected(fine: Bricks, matrices, count: int, parent, which, kind) -> np.ndarray:
    """(count, 24, 24) float32: the parents' matrices, Σ Pᵀ K P over their children."""
    out = np.zeros((count, 24, 24), kind)
    if matrices is None:
        brick = fine.brick.astype(np.float64)
        children = np.stack([p.T @ brick @ p for p in PROJECTIONS]).astype(kind)
        _joined(children, parent, which, fine.stiffness, out)
        extra = np.einsum("kai,kab,kbj->kij", *_own_ways(fine, which), optimize=True)
        np.add.at(out, parent[fine.owners], extra.astype(kind))
        return out
    for c, p in enumerate(PROJECTIONS.astype(kind)):
        rows = np.flatnonzero(which == c)
        half = (matrices[rows].reshape(-1, 24) @ p).reshape(-1, 24, 24)
        out[parent[rows]] += (half.transpose(0, 2, 1).reshape(-1, 24) @ p).reshape(-1, 24, 24)
    return out


def _own_ways(fine: Bricks, which) -> tuple:
    ways = PROJECTIONS[which[fine.owners]]
    return ways, fine.own.astype(np.float64), ways


@dataclass(frozen=True)
class Solved:
    """``displacement`` (n, 3) in voxels for forces in E·size²; ``rounds`` it took; ``residual`` left, relative."""

    displacement: Array
    rounds: int
    residual: float


def solved(
    fine: Bricks,
    cycle: Cycle,
    forces: Array,
    start: Array | None = None,
    accuracy: float = 1e-6,
    most: int = 250,
    watch: Callable[[int, float], None] = lambda rounds, residual: None,
) -> Solved:
    """Conjugate gradients in double precision with ``cycle`` as preconditioner, to a residual of ``accuracy``.

    ``watch(rounds, residual)`` is called after every round and may raise to stop. The direction is made conjugate to
    the change of the residual (Polak–Ribière), since the cycle's rounding makes it not quite the same every time.
    """
    u = np.zeros_like(forces) if start is None else start.copy()
    goal = accuracy * _dot(forces, forces) ** 0.5
    product = np.empty_like(forces)
    r = forces - fine.times(u, product) if start is not None else forces.copy()
    left = _dot(r, r) ** 0.5
    direction, before, rounds = np.zeros_like(r), 1.0, 0
    last = np.zeros_like(r)
    while left > goal and rounds < most:
        z = cycle(r)
        now = _dot(r, z)
        turn = (now - _dot(last, z)) / before if rounds else 0.0
        direction = z + max(turn, 0.0) * direction
        fine.times(direction, product)
        length = _dot(direction, r) / _dot(direction, product)
        u += length * direction
        last, before = r.copy(), now
        r -= length * product
        left = _dot(r, r) ** 0.5
        rounds += 1
        watch(rounds, left / goal * accuracy)
    return Solved(u, rounds, left / goal * accuracy if goal else 0.0)
