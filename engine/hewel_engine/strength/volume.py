"""The share of the strength used all over the part, on a coarse grid: for drawing, not for calculation."""

import numpy as np
from scipy import ndimage

from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.voxels import Grid
from hewel_engine.materials import Material
from hewel_engine.strength.criterion import indices
from hewel_engine.strength.reserves import allowed, kept_back
from hewel_engine.strength.stressing import Stressed

ROOM = 200_000
"""Cells of a drawn field, empty ones too: about the colours that a screen can part on a part that fills it."""


def volume_of(found: Stressed, material: Material, up: Array) -> tuple[Grid, np.ndarray]:
    """A grid over the part and (cases, z, y, x) float32: the greatest index of any point in each cell on the layers
    normal to ``up``. Cells without a point have their nearest neighbour's; 0 where what is near was left out.
    """
    whole = found.model.grid
    coarser = max(1.0, (np.prod(whole.shape) / ROOM) ** (1 / 3))
    size = whole.size * coarser
    shape = tuple(int(np.ceil(n / coarser)) for n in whole.shape)
    grid = Grid(whole.origin, size, shape)
    places = grid.places(found.points.places - 1e-3 * size * found.points.lie.normals)
    at = np.clip(np.floor(places).astype(int), 0, np.array(shape[::-1]) - 1)[:, ::-1]
    there = np.zeros(shape, bool)
    there[tuple(at.T)] = True
    near = ndimage.distance_transform_edt(~there, return_distances=False, return_indices=True)
    out = np.zeros((len(found.cases), *shape), np.float32)
    for cells, row in zip(out, found.cases, strict=True):
        strength = allowed(material, row.factors)
        used = indices(row.stress.astype(float), np.asarray(up, float), strength, found.points.lie).worst
        np.maximum.at(cells, tuple(at.T), np.where(found.kept, used / kept_back(row.factors, 1.0), 0.0))
        cells[:] = cells[tuple(near)]
    return grid, out
