"""Stress where the part ends: from the middles of the cubes near by to points on the true surface.

A linear patch by weighted least squares over the middles within REACH cubes that are at least half full, weight
share·exp(−(r/(FALL·size))²), read at the point itself. The greatest stress of the raw middles never settles when the
grid is refined; this one does.
"""

from dataclasses import dataclass

import numpy as np
from numba import njit

from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.loads.regions import finely, whole
from hewel_engine.strength.model import Model

REACH = 2.0
FALL = 1.33
HALF = 0.5
FEWEST = 8
"""Middles a linear patch needs; a wall with fewer near by gets their mean."""


@dataclass(frozen=True, eq=False)
class Points:
    """Where stress is read: ``places`` (k, 3) mm; ``normals`` (k, 3) outward, zero inside; ``cells`` (k,) of the
    model; ``surface`` (k,) whether on the surface.
    """

    places: Array
    normals: Array
    cells: np.ndarray

    @property
    def surface(self) -> np.ndarray:
        return np.abs(self.normals).sum(axis=1) > 0


def surface_points(mesh: Mesh, model: Model) -> Points:
    """Points all over the surface, about one for every half cube's side, and the middles of the cells inside."""
    grid, lattice = model.grid, model.lattice
    near = grid.meets(mesh.triangles) & (mesh.areas > 0)
    patch = finely(whole(mesh, np.flatnonzero(near)), grid.size)
    places, normals = patch.middles, patch.normals
    inside = grid.holds(places)
    places, normals = places[inside], normals[inside]
    # One point for each half-cube and side that the surface looks to.
    half = np.floor(2 * grid.places(places)).astype(np.int64)
    side = np.argmax(np.abs(normals), axis=1) * 2 + (
        np.take_along_axis(normals, np.argmax(np.abs(normals), axis=1)[:, None], 1)[:, 0] > 0
    )
    wide = 2 * np.array(grid.shape[::-1]) + 2
    key = ((half[:, 2] * wide[1] + half[:, 1]) * wide[0] + half[:, 0]) * 6 + side
    _, first = np.unique(key, return_index=True)
    places, normals = places[first], normals[first]
    at = np.clip(
        np.floor(grid.places(places - 0.25 * grid.size * normals)).astype(int), 0, np.array(grid.shape[::-1]) - 1
    )
    cells = lattice.cell_at[at[:, 2], at[:, 1], at[:, 0]]
    there = cells >= 0
    core = np.flatnonzero(model.share >= HALF)
    return Points(
        np.concatenate([places[there], grid.middles(lattice.cells[core])]),
        np.concatenate([normals[there], np.zeros((len(core), 3))]),
        np.concatenate([cells[there], core]),
    )


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
    """``values`` (m, 6) at the cells' middles → ``out`` (k, 6) at ``places`` (k, 3), in cubes from the origin."""
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
                        for c in range(4):
                            m[a, c] += w * row[a] * row[c]
                        for c in range(6):
                            b[a, c] += w * row[a] * values[cell, c]
        if found == 0:
            out[p] = np.nan
            continue
        weight = m[0, 0]
        for c in range(6):
            out[p, c] = b[0, c] / weight
        if found >= fewest:
            for a in range(4):
                for c in range(4):
                    m[a, c] /= weight
                for c in range(6):
                    b[a, c] /= weight
            _solve4(m, b, out[p])


def at_points(model: Model, points: Points, values: Array) -> Array:
    """(k, 6) of ``values`` (m, 6) at the cells' middles: by the patch on the surface, as they are inside. A point with
    nothing half full near by has its own cell's.
    """
    out = values[points.cells].astype(float)
    rows = np.flatnonzero(points.surface)
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
