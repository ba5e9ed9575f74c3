"""Voxels that carry load, the nodes at their corners, and points tied to them.

Cells and nodes are numbered along x first, then y, then z. Vectors over nodes are (n, 3).
"""

from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.voxels import Grid
from hewel_engine.strength.bricks import CORNERS, shapes

LEAST_SHARE = 0.05
"""Voxels with less material than this are left out: they carry nothing and spoil the sum."""


@dataclass(frozen=True, eq=False)
class Lattice:
    """``cells`` (m, 3) int32 [z, y, x]; ``corners`` (m, 8) int32: their nodes; ``nodes`` (n, 3) int32 [z, y, x];
    ``cell_at`` the number of the cell at a place of the grid, −1 for none.
    """

    cells: np.ndarray
    corners: np.ndarray
    nodes: np.ndarray
    cell_at: np.ndarray

    def __len__(self) -> int:
        return len(self.cells)


def lattice_of(active: np.ndarray) -> Lattice:
    """The lattice of the cells where ``active`` (z, y, x) is true."""
    cells = np.argwhere(active).astype(np.int32)
    at = np.full(active.shape, -1, np.int32)
    at[active] = np.arange(len(cells), dtype=np.int32)
    numbers = np.zeros(tuple(n + 1 for n in active.shape), bool)
    nz, ny, nx = active.shape
    for x, y, z in CORNERS:
        numbers[z : z + nz, y : y + ny, x : x + nx] |= active
    nodes = np.argwhere(numbers).astype(np.int32)
    number = np.zeros(numbers.shape, np.int32)
    number[numbers] = np.arange(len(nodes), dtype=np.int32)
    corners = np.empty((len(cells), 8), np.int32)
    for a, (x, y, z) in enumerate(CORNERS):
        corners[:, a] = number[cells[:, 0] + z, cells[:, 1] + y, cells[:, 2] + x]
    return Lattice(cells, corners, nodes, at)


def pieces(share: np.ndarray) -> tuple[np.ndarray, int]:
    """Number of the piece each voxel belongs to, from 1 (0: left out), and how many there are. Voxels that share a face
    are one piece; an edge or a corner is a hinge and joins nothing.
    """
    return ndimage.label(share >= LEAST_SHARE)


@dataclass(frozen=True, eq=False)
class Ties:
    """Points (k) tied to cells: ``cells`` (k,) and the weights (k, 8) of their corners.

    The weights sum to one and keep the place of the point, inside the cell or beside it, so that forces tied to the
    lattice keep their sum and their moment.
    """

    cells: np.ndarray
    weights: Array
    away: Array
    """(k,) how far a point is from its cell, in voxels."""

    def within(self, rows: np.ndarray) -> "Ties":
        return Ties(self.cells[rows], self.weights[rows], self.away[rows])

    def spread(self, lattice: Lattice, forces: Array) -> Array:
        """(n, 3) nodal forces of forces (k, 3) at the points."""
        out = np.zeros((len(lattice.nodes), 3))
        nodes = lattice.corners[self.cells]
        for d in range(3):
            out[:, d] = np.bincount(nodes.ravel(), (self.weights * forces[:, d, None]).ravel(), len(out))
        return out

    def at(self, lattice: Lattice, field: Array) -> Array:
        """(k, 3) the field (n, 3) over the nodes, at the points."""
        return np.einsum("ka,kad->kd", self.weights, field[lattice.corners[self.cells]])


def tie(lattice: Lattice, grid: Grid, points: Array) -> Ties:
    """Ties ``points`` (k, 3) mm to the cell they lie in, or to the nearest where they lie in none."""
    place = grid.places(points)
    shape = np.array(grid.shape[::-1])
    inside = np.clip(np.floor(place).astype(int), 0, shape - 1)
    cells = lattice.cell_at[inside[:, 2], inside[:, 1], inside[:, 0]]
    lost = np.flatnonzero(cells < 0)
    if len(lost):
        from_cell = _nearest(lattice)
        where = inside[lost]
        cells[lost] = lattice.cell_at[tuple(from_cell[:, where[:, 2], where[:, 1], where[:, 0]])]
    corner = lattice.cells[cells][:, ::-1]
    local = place - corner
    away = np.linalg.norm(np.maximum(np.maximum(-local, local - 1), 0), axis=1)
    return Ties(cells, shapes(local), away)


def _nearest(lattice: Lattice) -> np.ndarray:
    return ndimage.distance_transform_edt(lattice.cell_at < 0, return_distances=False, return_indices=True)
