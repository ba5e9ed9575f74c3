"""Sharp inner edges: the stress of the sum has no limit there, so its mean over a material length counts.

Near an edge where the material fills an angle ω > 180° stress grows as r^−α, α = 1 − λ with λ the least root of
sin(λω) + λ·sin(ω) = 0 (Williams 1952, opening): 0.456 at a square corner. Its mean over a ball of radius R about the
edge then grows as R^−α. Voxels that are too coarse for the material length are read over REACH of them and brought to
the length by (R/length)^α, so that the number does not depend on the grid.
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy.optimize import brentq
from scipy.spatial import cKDTree

from hewel_engine.geometry.features import edge_geometry, rises
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.strength.lines import edge_spots
from hewel_engine.strength.model import Model
from hewel_engine.tolerances import SMOOTH_EDGE

REACH = 1.25
"""Voxels about an edge whose mean is taken at least."""
FULL_TURN = 179.9
"""Degrees of turn from which on an edge is a crack."""


@dataclass(frozen=True, eq=False)
class Edges:
    """``spots`` (k, 3) mm along sharp inner edges, and the power α (k,) by which stress grows towards each."""

    spots: Array
    power: Array

    def near(self, places: Array, reach: float) -> tuple[np.ndarray, np.ndarray]:
        """Numbers of the places within ``reach`` mm of an edge, and of the spot nearest to each."""
        if not len(self.spots):
            return np.zeros(0, np.int64), np.zeros(0, np.int64)
        away, spot = cKDTree(self.spots).query(places, distance_upper_bound=reach)
        close = np.flatnonzero(np.isfinite(away))
        return close, spot[close]


@lru_cache(maxsize=4096)
def power(turn: float) -> float:
    """α of an inner edge at which the surface turns by ``turn`` degrees: 0 of a flat face, ½ of a crack."""
    if turn >= FULL_TURN:
        return 0.5
    filled = np.pi + np.radians(turn)
    return 1 - float(brentq(lambda root: np.sin(root * filled) + root * np.sin(filled), 0.5, 1 - 1e-9))


def sharp_edges(mesh: Mesh, length: float) -> Edges:
    """The edges that turn inward by more than SMOOTH_EDGE, with spots half a ``length`` mm apart."""
    pairs, _, _, angle = edge_geometry(mesh)
    sharp = np.flatnonzero((rises(mesh, pairs) > 0) & (angle > SMOOTH_EDGE))
    spots, edge = edge_spots(mesh, sharp, length / 2)
    turns, back = np.unique(np.round(angle[edge], 2), return_inverse=True)
    return Edges(spots, np.array([power(float(turn)) for turn in turns])[back] if len(turns) else np.zeros(0))


def reach_of(model: Model, length: float) -> float:
    """mm about an edge within which a grid says nothing of single places."""
    return max(length, REACH * model.grid.size)


def about_edges(model: Model, edges: Edges, spots: np.ndarray, length: float) -> Callable[[Array], Array]:
    """What reads from a stress of the cells (m, 6) its mean (k, 6) over ``length`` mm about each of ``spots``; the
    cells that count are looked for once for all cases.
    """
    used, back = np.unique(spots, return_inverse=True)
    reach = reach_of(model, length)
    tree = cKDTree(model.grid.middles(model.lattice.cells))
    count = min(max(8, int(np.ceil(4.2 * (reach / model.grid.size + 0.5) ** 3))), len(model.lattice))
    away, near = tree.query(edges.spots[used], k=count)
    weight = model.share[near] * (away <= reach)
    weight[:, 0] += 1e-9
    weight *= ((reach / length) ** edges.power[used] / weight.sum(axis=1))[:, None]
    return lambda raw: np.stack([(raw[:, d][near] * weight).sum(axis=1) for d in range(6)], axis=1)[back]
