"""The stiffness of a lattice as an operator: how displacements turn into forces. Lengths in voxels, forces in E·size².

The fine operator is never written down: every voxel is one brick times its stiffness. A coarse one is written as blocks
between neighbouring nodes, half of them, since it is symmetric.
"""

from dataclasses import dataclass, field

import numpy as np
from numba import njit
from scipy.sparse import bsr_matrix

from hewel_engine.geometry.mesh import Array
from hewel_engine.strength.lattice import Lattice

WIDE = 64  # voxels handled at once: their numbers fit the first cache


@njit(cache=True, nogil=True, fastmath=True)
def _bricks_times(brick, corners, stiffness, u, out):
    """``out`` (n, 3) = K·``u`` for voxels that are one brick times their stiffness."""
    local, force = np.empty((24, WIDE), u.dtype), np.empty((24, WIDE), u.dtype)
    out[:] = 0
    for first in range(0, len(corners), WIDE):
        many = min(WIDE, len(corners) - first)
        for w in range(many):
            s = stiffness[first + w]
            for a in range(8):
                n = corners[first + w, a]
                local[3 * a, w] = u[n, 0] * s
                local[3 * a + 1, w] = u[n, 1] * s
                local[3 * a + 2, w] = u[n, 2] * s
        for i in range(24):
            for j in range(0, 24, 8):  # eight columns at once: the sums stay in registers
                k0, k1, k2, k3 = brick[i, j], brick[i, j + 1], brick[i, j + 2], brick[i, j + 3]
                k4, k5, k6, k7 = brick[i, j + 4], brick[i, j + 5], brick[i, j + 6], brick[i, j + 7]
                if j == 0:
                    for w in range(WIDE):
                        force[i, w] = (
                            k0 * local[0, w] + k1 * local[1, w] + k2 * local[2, w] + k3 * local[3, w]
                            + k4 * local[4, w] + k5 * local[5, w] + k6 * local[6, w] + k7 * local[7, w]
                        )  # fmt: skip
                else:
                    for w in range(WIDE):
                        force[i, w] += (
                            k0 * local[j, w] + k1 * local[j + 1, w] + k2 * local[j + 2, w] + k3 * local[j + 3, w]
                            + k4 * local[j + 4, w] + k5 * local[j + 5, w] + k6 * local[j + 6, w]
                            + k7 * local[j + 7, w]
                        )  # fmt: skip
        for w in range(many):
            for a in range(8):
                n = corners[first + w, a]
                out[n, 0] += force[3 * a, w]
                out[n, 1] += force[3 * a + 1, w]
                out[n, 2] += force[3 * a + 2, w]


@njit(cache=True, nogil=True, fastmath=True)
def _own_times(own, corners, u, out):
    """Adds the cells that have a matrix of their own: ``own`` (k, 24, 24), ``corners`` (k, 8)."""
    for e in range(len(own)):
        for i in range(24):
            total = u.dtype.type(0)
            for b in range(8):
                n = corners[e, b]
                total += own[e, i, 3 * b] * u[n, 0] + own[e, i, 3 * b + 1] * u[n, 1] + own[e, i, 3 * b + 2] * u[n, 2]
            out[corners[e, i // 3], i % 3] += total


@njit(cache=True, nogil=True, fastmath=True)
def _stencil_times(blocks, near, u, out):
    """``out`` = A·``u`` with ``blocks`` (n, 14, 3, 3) to the node itself and to those after it, ``near`` (n, 14); the
    other half is the transpose. The row after the last node stands for nodes that are not there.
    """
    out[:] = 0
    for n in range(len(near)):
        x, y, z = u[n, 0], u[n, 1], u[n, 2]
        b = blocks[n, 0]
        rx = b[0, 0] * x + b[0, 1] * y + b[0, 2] * z
        ry = b[1, 0] * x + b[1, 1] * y + b[1, 2] * z
        rz = b[2, 0] * x + b[2, 1] * y + b[2, 2] * z
        for q in range(1, 14):
            m = near[n, q]
            b = blocks[n, q]
            ux, uy, uz = u[m, 0], u[m, 1], u[m, 2]
            rx += b[0, 0] * ux + b[0, 1] * uy + b[0, 2] * uz
            ry += b[1, 0] * ux + b[1, 1] * uy + b[1, 2] * uz
            rz += b[2, 0] * ux + b[2, 1] * uy + b[2, 2] * uz
            out[m, 0] += b[0, 0] * x + b[1, 0] * y + b[2, 0] * z
            out[m, 1] += b[0, 1] * x + b[1, 1] * y + b[2, 1] * z
            out[m, 2] += b[0, 2] * x + b[1, 2] * y + b[2, 2] * z
        out[n, 0] += rx
        out[n, 1] += ry
        out[n, 2] += rz
    out[len(near)] = 0


@njit(cache=True, nogil=True)
def _gathered(matrices, corners, blocks):
    """Adds the cells' matrices (m, 24, 24) to the ``blocks`` (n, 14, 3, 3) of nodes and those after them."""
    for e in range(len(matrices)):
        for a in range(8):
            n = corners[e, a]
            for b in range(8):
                q = (b & 1) - (a & 1) + 3 * ((b >> 1 & 1) - (a >> 1 & 1)) + 9 * ((b >> 2) - (a >> 2))
                if q >= 0:
                    for i in range(3):
                        for j in range(3):
                            blocks[n, q, i, j] += matrices[e, 3 * a + i, 3 * b + j]


@dataclass(frozen=True, eq=False)
class Bricks:
    """The fine operator: ``brick`` (24, 24), ``stiffness`` (m,) of each cell, and matrices ``own`` (k, 24, 24) that
    the cells ``owners`` (k,) have beside it (what holds them).
    """

    lattice: Lattice
    brick: Array
    stiffness: np.ndarray
    own: Array = field(default_factory=lambda: np.zeros((0, 24, 24)))
    owners: np.ndarray = field(default_factory=lambda: np.zeros(0, np.int64))

    def as_type(self, kind: type) -> "Bricks":
        return Bricks(
            self.lattice, self.brick.astype(kind), self.stiffness.astype(kind), self.own.astype(kind), self.owners
        )

    def times(self, u: Array, out: Array) -> Array:
        _bricks_times(self.brick, self.lattice.corners, self.stiffness, u, out)
        if len(self.own):
            _own_times(self.own, self.lattice.corners[self.owners], u, out)
        return out

    @property
    def kind(self) -> type:
        return self.brick.dtype.type

    def diagonal(self) -> Array:
        """(n, 3, 3) blocks."""
        n, corners = len(self.lattice.nodes), self.lattice.corners
        out = np.zeros((n, 3, 3), self.brick.dtype)
        for a in range(8):
            rows = slice(3 * a, 3 * a + 3)
            weight = np.bincount(corners[:, a], self.stiffness, n)
            out += (weight[:, None, None] * self.brick[rows, rows]).astype(out.dtype)
            np.add.at(out, corners[self.owners, a], self.own[:, rows, rows])
        return out


@dataclass(frozen=True, eq=False)
class Stencils:
    """A coarse operator: ``blocks`` (n, 14, 3, 3) to each node itself and the 13 neighbours after it, ``near`` (n, 14),
    where n stands for none.
    """

    blocks: np.ndarray
    near: np.ndarray

    def times(self, u: np.ndarray, out: np.ndarray) -> np.ndarray:
        _stencil_times(self.blocks, self.near, u, out)
        return out

    @property
    def kind(self) -> type:
        return self.blocks.dtype.type

    def diagonal(self) -> np.ndarray:
        return np.ascontiguousarray(self.blocks[:, 0])

    def sparse(self):
        n = len(self.near)
        there = self.near < n
        upper = bsr_matrix(
            (self.blocks[there].astype(np.float64), self.near[there], np.r_[0, np.cumsum(there.sum(axis=1))]),
            shape=(3 * n, 3 * n),
        ).tocsr()
        own = bsr_matrix((self.blocks[:, 0].astype(np.float64), np.arange(n), np.arange(n + 1)), shape=(3 * n, 3 * n))
        return upper + upper.T - own


def stencils(lattice: Lattice, matrices: np.ndarray) -> Stencils:
    n = len(lattice.nodes)
    blocks = np.zeros((n, 14, 3, 3), matrices.dtype)
    _gathered(matrices, lattice.corners, blocks)
    number = np.full(tuple(k + 3 for k in lattice.cell_at.shape), n, np.int32)  # one row of nothing all round
    number[tuple((lattice.nodes + 1).T)] = np.arange(n, dtype=np.int32)
    near = np.empty((n, 14), np.int32)
    for q in range(13, 27):
        near[:, q - 13] = number[tuple((lattice.nodes + np.array([q // 9, q // 3 % 3, q % 3])).T)]
    return Stencils(blocks, near)
