"""A part as equal cubes, each with the share of it that is material.

Grids stand along the part's own axes. Arrays over a grid are indexed [z, y, x], so that x runs fastest in memory.
"""

from dataclasses import dataclass

import numpy as np
from numba import njit

from hewel_engine.geometry.mesh import Array, Mesh, read_only

COLUMNS = 4
"""Columns a side of a cube is cut into; a facet is clipped to each, and taken as level only within it."""


@dataclass(frozen=True, eq=False)
class Grid:
    """``origin`` (3,) mm: the least corner; ``size`` mm: the side of a cube; ``shape``: cubes along z, y and x."""

    origin: Array
    size: float
    shape: tuple[int, int, int]

    def middles(self, cells: np.ndarray) -> Array:
        """(n, 3) mm: centres of ``cells`` (n, 3) [z, y, x]."""
        return self.origin + (cells[:, ::-1] + 0.5) * self.size

    def holds(self, points: Array) -> np.ndarray:
        """(n,) whether ``points`` (n, 3) mm lie in the grid or on its border."""
        place = self.places(points)
        return ((place >= -1e-6) & (place <= np.array(self.shape[::-1]) + 1e-6)).all(axis=1)

    @property
    def box(self) -> Array:
        """(2, 3) mm: its corners."""
        return np.array([self.origin, self.origin + self.size * np.array(self.shape[::-1])])

    def meets(self, triangles: Array) -> np.ndarray:
        """(m,) whether the boxes round ``triangles`` (m, 3, 3) mm meet the grid."""
        low, high = self.box
        return ((triangles.max(axis=1) >= low) & (triangles.min(axis=1) <= high)).all(axis=1)

    def places(self, points: Array) -> Array:
        """(n, 3) in cubes from the origin, in the order x, y, z."""
        return (points - self.origin) / self.size

    def over(self, mesh: Mesh) -> "Grid":
        """The same lattice over another part: what has not changed is divided as it was."""
        low, high = self.places(mesh.box)
        first, last = np.floor(low + 1e-6).astype(int), np.ceil(high - 1e-6).astype(int)
        count = np.maximum(last - first, 1)
        return Grid(read_only(self.origin + first * self.size), self.size, tuple(int(n) for n in count[::-1]))


@dataclass(frozen=True, eq=False)
class Voxels:
    """``share`` (z, y, x) float32: the part of each cube that is material, 0 to 1."""

    grid: Grid
    share: np.ndarray


def grid_over(mesh: Mesh, size: float) -> Grid:
    """The grid of cubes of ``size`` mm over a part, equal overhang on both sides."""
    low, high = mesh.box
    count = np.maximum(np.ceil((high - low) / size - 1e-6).astype(int), 1)
    origin = (low + high - count * size) / 2
    return Grid(read_only(origin), float(size), tuple(int(n) for n in count[::-1]))


@njit(cache=True, nogil=True)
def clipped(p: Array, n: int, axis: int, at: float, keep_above: bool, out: Array) -> int:
    """The polygon ``p`` (n points) on one side of a plane normal to ``axis``, into ``out``; how many points it has."""
    m = 0
    for i in range(n):
        j = i + 1 if i + 1 < n else 0
        a, b = p[i, axis] - at, p[j, axis] - at
        if not keep_above:
            a, b = -a, -b
        if a >= 0:
            out[m] = p[i]
            m += 1
        if (a > 0 and b < 0) or (a < 0 and b > 0):
            t = a / (a - b)
            for d in range(3):
                out[m, d] = p[i, d] + t * (p[j, d] - p[i, d])
            m += 1
    return m


@njit(cache=True, nogil=True)
def _shadow(p, n):
    """Signed area of a polygon seen from above, positive where it looks up, and the height over its middle."""
    area, height = 0.0, 0.0
    for i in range(1, n - 1):
        piece = ((p[i, 0] - p[0, 0]) * (p[i + 1, 1] - p[0, 1]) - (p[i, 1] - p[0, 1]) * (p[i + 1, 0] - p[0, 0])) / 2
        area += piece
        height += piece * (p[0, 2] + p[i, 2] + p[i + 1, 2]) / 3
    return area, height / area if area != 0 else 0.0


@njit(cache=True, nogil=True)
def _filled(p, faces, columns, nz, ny, nx):
    """Every facet fills what is below it, an upper one with +, a lower one with −: the sum is the material."""
    share = np.zeros((nz, ny, nx))
    whole = np.zeros((nz + 1, ny, nx))  # what fills every cube below this one
    facet, strip, cell, spare = np.empty((3, 3)), np.empty((9, 3)), np.empty((9, 3)), np.empty((9, 3))
    step = 1.0 / columns
    for f in range(faces.shape[0]):
        for k in range(3):
            facet[k] = p[faces[f, k]]
        low, high = facet[:, 1].min(), facet[:, 1].max()
        for row in range(max(int(np.floor(low * columns)), 0), min(int(np.ceil(high * columns)), ny * columns)):
            n = clipped(facet, 3, 1, row * step, True, spare)
            n = clipped(spare, n, 1, (row + 1) * step, False, strip)
            if n < 3:
                continue
            left, right = strip[:n, 0].min(), strip[:n, 0].max()
            first = max(int(np.floor(left * columns)), 0)
            last = min(int(np.ceil(right * columns)), nx * columns)
            for column in range(first, last):
                m = clipped(strip, n, 0, column * step, True, spare)
                m = clipped(spare, m, 0, (column + 1) * step, False, cell)
                if m < 3:
                    continue
                area, z = _shadow(cell, m)
                k = min(max(int(np.floor(z)), 0), nz)
                j, i = row // columns, column // columns
                if k < nz:
                    share[k, j, i] += area * min(max(z - k, 0.0), 1.0)
                whole[k, j, i] += area
    out = np.empty((nz, ny, nx), np.float32)
    for j in range(ny):
        for i in range(nx):
            above = 0.0
            for k in range(nz - 1, -1, -1):
                above += whole[k + 1, j, i]
                out[k, j, i] = min(max(share[k, j, i] + above, 0.0), 1.0)
    return out


def filled(mesh: Mesh, size: float, grid: Grid | None = None) -> Voxels:
    """The part in cubes of ``size`` mm, all of it or what lies in ``grid``. Exact where faces
    lie along the grid; where bodies overlap it counts once.
    """
    grid = grid or grid_over(mesh, size)
    return Voxels(grid, read_only(_filled(grid.places(mesh.vertices), mesh.faces, COLUMNS, *grid.shape)))


@njit(cache=True, nogil=True)
def _squared_to_triangle(px, py, pz, a, b, c):
    """Squared distance of a point to a triangle: the nearest of its plane, edges and corners (Ericson's regions)."""
    abx, aby, abz = b[0] - a[0], b[1] - a[1], b[2] - a[2]
    acx, acy, acz = c[0] - a[0], c[1] - a[1], c[2] - a[2]
    apx, apy, apz = px - a[0], py - a[1], pz - a[2]
    d1 = abx * apx + aby * apy + abz * apz
    d2 = acx * apx + acy * apy + acz * apz
    ab2 = abx * abx + aby * aby + abz * abz
    ac2 = acx * acx + acy * acy + acz * acz
    abac = abx * acx + aby * acy + abz * acz
    det = ab2 * ac2 - abac * abac
    if det > 1e-18 * ab2 * ac2:
        v, w = (ac2 * d1 - abac * d2) / det, (ab2 * d2 - abac * d1) / det
        if v >= 0 and w >= 0 and v + w <= 1:
            x, y, z = apx - v * abx - w * acx, apy - v * aby - w * acy, apz - v * abz - w * acz
            return x * x + y * y + z * z
    t = min(max(d1 / ab2, 0.0), 1.0) if ab2 > 0 else 0.0
    x, y, z = apx - t * abx, apy - t * aby, apz - t * abz
    best = x * x + y * y + z * z
    t = min(max(d2 / ac2, 0.0), 1.0) if ac2 > 0 else 0.0
    x, y, z = apx - t * acx, apy - t * acy, apz - t * acz
    best = min(best, x * x + y * y + z * z)
    bcx, bcy, bcz = c[0] - b[0], c[1] - b[1], c[2] - b[2]
    bpx, bpy, bpz = px - b[0], py - b[1], pz - b[2]
    bc2 = bcx * bcx + bcy * bcy + bcz * bcz
    t = min(max((bcx * bpx + bcy * bpy + bcz * bpz) / bc2, 0.0), 1.0) if bc2 > 0 else 0.0
    x, y, z = bpx - t * bcx, bpy - t * bcy, bpz - t * bcz
    return min(best, x * x + y * y + z * z)


@njit(cache=True, nogil=True)
def _depths(p, faces, normals, reach, nz, ny, nx):
    """Squared distance of every cube's centre to the surface, up to ``reach``; all lengths in cubes."""
    out = np.full((nz, ny, nx), reach * reach, np.float32)
    for f in range(faces.shape[0]):
        a, b, c = p[faces[f, 0]], p[faces[f, 1]], p[faces[f, 2]]
        n = normals[f]
        first, last = np.empty(3, np.int64), np.empty(3, np.int64)
        for d in range(3):
            first[d] = int(np.floor(min(a[d], b[d], c[d]) - reach))
            last[d] = int(np.ceil(max(a[d], b[d], c[d]) + reach))
        for k in range(max(first[2], 0), min(last[2], nz)):
            for j in range(max(first[1], 0), min(last[1], ny)):
                for i in range(max(first[0], 0), min(last[0], nx)):
                    x, y, z = i + 0.5, j + 0.5, k + 0.5
                    off = (x - a[0]) * n[0] + (y - a[1]) * n[1] + (z - a[2]) * n[2]
                    if off * off < out[k, j, i]:
                        out[k, j, i] = min(out[k, j, i], np.float32(_squared_to_triangle(x, y, z, a, b, c)))
    return out


def depths(mesh: Mesh, grid: Grid, reach: float) -> np.ndarray:
    """(z, y, x) float32 mm: how far each cube's centre is from the surface; ``reach`` mm where it is farther."""
    squared = _depths(grid.places(mesh.vertices), mesh.faces, mesh.normals, reach / grid.size, *grid.shape)
    return np.sqrt(squared) * np.float32(grid.size)
