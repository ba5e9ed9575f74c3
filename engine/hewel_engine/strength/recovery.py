"""Stress where the part ends: from the middles of the voxels near by to points on the true surface.

A linear patch by weighted least squares over the middles within REACH voxels that are at least half full, weight
share·exp(−(r/(FALL·size))²), read at the point itself. The greatest stress of the raw middles never settles when the
grid is refined; this one does.
"""

from dataclasses import dataclass

import numpy as np
from numba import njit

from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.spots import spots
from hewel_engine.strength.lines import FILLED, OUTLINE, PLAIN, SKIN, Lie, far_from_rims
from hewel_engine.strength.model import Model

REACH = 2.0
FALL = 1.33
HALF = 0.5
FEWEST = 8
"""Middles a linear patch needs; a wall with fewer near by gets their mean."""


@dataclass(frozen=True, eq=False)
class Points:
    """Where stress is read: ``places`` (k, 3) mm, how lines ``lie`` there, and its ``cells`` (k,) of the model."""

    places: Array
    lie: Lie
    cells: np.ndarray

    @property
    def patched(self) -> np.ndarray:
        """(k,) whether a point lies anywhere but in the middle of its cell."""
        return (self.lie.normals != 0).any(axis=1)


DEEP = (1.0, 2.0)
"""Lines below the surface where the pull across the lines is looked at: on a free face it is zero by equilibrium."""


def surface_points(mesh: Mesh, model: Model, width: float, shell: float, filled: np.ndarray) -> Points:
    """Points all over the surface, about one for every half voxel's side; points DEEP lines of ``width`` mm below it,
    one for every voxel's side; and the middles of the cells inside. ``shell`` mm are perimeters; cells (m,) are solid
    filling where ``filled``.
    """
    grid, lattice = model.grid, model.lattice
    near = np.flatnonzero(grid.meets(mesh.triangles) & (mesh.areas > 0))
    triangles, outward = mesh.triangles[near], mesh.normals[near]
    places, of = spots(grid, triangles, outward, 2)
    kinds = np.where(far_from_rims(mesh, places, shell), SKIN, PLAIN)
    rows = [_in_cells(model, places, outward[of], kinds)]
    places, of = spots(grid, triangles, outward, 1)
    normals = outward[of]
    for deep in DEEP:
        below = places - deep * width * normals
        held = grid.holds(below)
        rows.append(_in_cells(model, below[held], normals[held], np.full(held.sum(), OUTLINE)))
    core = np.flatnonzero(model.share >= HALF)
    middles = grid.middles(lattice.cells[core])
    rows.append((middles, np.zeros_like(middles), np.where(filled[core], FILLED, PLAIN), core))
    places, normals, kinds, cells = (np.concatenate(column) for column in zip(*rows, strict=True))
    return Points(places, Lie(normals, kinds.astype(np.int8)), cells)


def _in_cells(model: Model, places: Array, normals: Array, kinds: np.ndarray) -> tuple:
    """What lies in the model's cells of ``places``, looked for a quarter of a voxel inward; and those cells."""
    grid, lattice = model.grid, model.lattice
    inward = grid.places(places - 0.25 * grid.size * normals)
    at = np.clip(np.floor(inward).astype(int), 0, np.array(grid.shape[::-1]) - 1)
    cells = lattice.cell_at[at[:, 2], at[:, 1], at[:, 0]]
    there = cells >= 0
    return places[there], normals[there], kinds[there], cells[there]


@njit(cache=True, nogil=True)
def _solve4(m, b, out):
    """Solves the symmetric 4×4 ``m`` for the six columns of ``b`` (4, 6); only the value at the origin is wanted.
    False where the middles lie in a plane or a line.
    """
    for k in range(4):
        pivot = k
        for i in range(k + 1, 4):
            if abs(m[i, k]) > abs(m[pivot, k]):
                pivot = i
        if abs(m[pivot, k]) < 1e-6 * (m[0, 0] if k == 0 else 1.0):
            return False
        if pivot != k:
            for j in range(4):
                m[k, j], m[pivot, j] = m[pivot, j], m[k, j]
            for j in range(6):
                b[k, j], b[pivot, j] = b[pivot, j], b[k, j]
        for i in range(k + 1, 4):
            f = m[i, k] / m[k, k]
            for j in range(k, 4):
                m[i, j] -= f * m[k, j]
            for j in range(6):
                b[i, j] -= f * b[k, j]
    for j in range(6):
        for k in range(3, -1, -1):
            v = b[k, j]
            for i in range(k + 1, 4):
                v -= m[k, i] * b[i, j]
            b[k, j] = v / m[k, k]
        out[j] = b[0, j]
    return True


@njit(cache=True, nogil=True)
def _patched(places, cell_at, share, values, reach, fall, half, fewest, out):
    """``values`` (m, 6) at the cells' middles → ``out`` (k, 6) at ``places`` (k, 3), in voxels from the origin."""
    nz, ny, nx = cell_at.shape
    m, b = np.empty((4, 4)), np.empty((4, 6))
    row = np.empty(4)
    r = int(np.ceil(reach))
    for p in range(len(places)):
        x, y, z = places[p]
        found = 0
        m[:] = 0
        b[:] = 0
        for k in range(max(int(z) - r, 0), min(int(z) + r + 1, nz)):
            for j in range(max(int(y) - r, 0), min(int(y) + r + 1, ny)):
                for i in range(max(int(x) - r, 0), min(int(x) + r + 1, nx)):
                    cell = cell_at[k, j, i]
                    if cell < 0 or share[cell] < half:
                        continue
                    row[0], row[1], row[2], row[3] = 1.0, i + 0.5 - x, j + 0.5 - y, k + 0.5 - z
                    square = row[1] ** 2 + row[2] ** 2 + row[3] ** 2
                    if square > reach * reach:
                        continue
                    w = share[cell] * np.exp(-square / (fall * fall))
                    found += 1
                    for a in range(4):
                        pull = w * row[a]
                        for c in range(a, 4):
                            m[a, c] += pull * row[c]
                        for c in range(6):
                            b[a, c] += pull * values[cell, c]
        if found == 0:
            out[p] = np.nan
            continue
        weight = m[0, 0]
        for c in range(6):
            out[p, c] = b[0, c] / weight
        if found >= fewest:
            for a in range(4):
                for c in range(a, 4):
                    m[a, c] = m[c, a] = m[a, c] / weight
                for c in range(6):
                    b[a, c] /= weight
            _solve4(m, b, out[p])


def at_points(model: Model, points: Points, values: Array) -> Array:
    """(k, 6) of ``values`` (m, 6) at the cells' middles: by the patch on the surface, as they are inside. A point with
    nothing half full near by has its own cell's.
    """
    out = values[points.cells].astype(float)
    rows = np.flatnonzero(points.patched)
    found = np.empty((len(rows), 6))
    _patched(
        model.grid.places(points.places[rows]),
        model.lattice.cell_at,
        model.share,
        values,
        REACH,
        FALL,
        HALF,
        FEWEST,
        found,
    )
    there = np.isfinite(found[:, 0])
    out[rows[there]] = found[there]
    return out
