"""How the lines of a layer lie where stress is read, and what that leaves of their strength.

Beside the outline the perimeters run along it: the pull normal to them, m·S·m with m the normal laid into the layer, is
held against X_a of neighbouring lines. In skins, and in filling that is solid, the lines of one layer lie across those
of the next: half of them run with a pull, half normal to it, and together they hold the mean of X_t and X_a.
Stresses MPa, written [xx, yy, zz, xy, yz, zx].
"""

from dataclasses import dataclass

import numpy as np
from numba import njit
from scipy.spatial import cKDTree

from hewel_engine.geometry.features import edge_geometry, rises
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.tolerances import SMOOTH_EDGE

PLAIN, OUTLINE, SKIN, FILLED = range(4)
"""Kinds of places: nothing told; beside the outline, a line or two below the surface; on the surface, farther from its
rim than perimeters reach, a skin wherever the face lies level; within solid filling."""
LINED = 0.2
"""Sine of the slope (about 12°) from which the perimeters of each layer show; on flatter faces skins lie crosswise."""


@dataclass(frozen=True, eq=False)
class Lie:
    """At each place the outward ``normals`` (k, 3) of the surface on or beside which it lies, zero inside; and its
    ``kinds`` (k,).
    """

    normals: Array
    kinds: np.ndarray

    def within(self, rows: np.ndarray) -> "Lie":
        return Lie(self.normals[rows], self.kinds[rows])

    def crossed(self, up: Array) -> np.ndarray:
        """(k,) where lines lie crosswise in layers normal to ``up``."""
        level = (self.normals @ np.asarray(up, float)) ** 2 > 1 - LINED**2
        return (self.kinds == FILLED) | ((self.kinds == SKIN) & level)

    def across(self, stress: Array, up: Array) -> Array:
        """(k,) MPa of pull normal to the perimeters; 0 where none run, and on faces so level that none show."""
        beside = np.where((self.kinds == OUTLINE)[:, None], self.normals, 0.0)
        return _across(np.asarray(stress, float), np.asarray(up, float), beside, LINED**2)


@njit(cache=True, nogil=True)
def _across(s, up, normals, lined):
    out = np.zeros(len(s))
    for p in range(len(s)):
        c = normals[p, 0] * up[0] + normals[p, 1] * up[1] + normals[p, 2] * up[2]
        mx, my, mz = normals[p, 0] - c * up[0], normals[p, 1] - c * up[1], normals[p, 2] - c * up[2]
        slope = mx * mx + my * my + mz * mz
        if slope < lined:
            continue
        pull = (
            s[p, 0] * mx * mx + s[p, 1] * my * my + s[p, 2] * mz * mz
            + 2 * (s[p, 3] * mx * my + s[p, 4] * my * mz + s[p, 5] * mz * mx)
        )  # fmt: skip
        out[p] = max(pull / slope, 0.0)
    return out


def edge_spots(mesh: Mesh, which: np.ndarray, apart: float) -> tuple[Array, np.ndarray]:
    """Spots (k, 3) mm along shared edges, at most ``apart`` mm from each other, ends included; and of which edge each
    is. ``which``: numbers of rows of ``mesh.edges.shared``.
    """
    first, second = mesh.faces[mesh.edges.shared[which]].transpose(1, 0, 2)
    common = (first[:, :, None] == second[:, None, :]).any(axis=2)
    real = common.sum(axis=1) == 2
    ends = mesh.vertices[first[real][common[real]]].reshape(-1, 2, 3)
    count = np.maximum(np.ceil(np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1) / apart).astype(int) + 1, 2)
    row = np.repeat(np.arange(len(ends)), count)
    step = np.arange(len(row)) - np.repeat(np.cumsum(count) - count, count)
    share = (step / (count - 1)[row])[:, None]
    return ends[row, 0] * (1 - share) + ends[row, 1] * share, which[real][row]


def far_from_rims(mesh: Mesh, places: Array, width: float) -> np.ndarray:
    """(k,) which places on the surface lie more than ``width`` mm from every outer edge: perimeters end before them."""
    pairs, _, _, angle = edge_geometry(mesh)
    outer = np.flatnonzero((rises(mesh, pairs) < 0) & (angle > SMOOTH_EDGE))
    if not len(outer):
        return np.ones(len(places), bool)
    spots, _ = edge_spots(mesh, outer, width / 2)
    away, _ = cKDTree(spots).query(places, distance_upper_bound=width)
    return ~np.isfinite(away)
