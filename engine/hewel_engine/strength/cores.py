"""Rods of steel glued into a part, as cubes: E = E_s·I_exact/I_cubes, so that each bends as stiffly as it does
(handbook 7). Right for rods that are held against slip; their own stress is not read. Lengths mm, stresses MPa.
"""

from dataclasses import dataclass, replace
from math import pi

import numpy as np

from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.voxels import Voxels
from hewel_engine.strength.material_field import MaterialField

BESIDE = 1.0
"""Voxels beside a rod within which stress is not read: half of what it would be made of is steel."""


@dataclass(frozen=True, eq=False)
class Core:
    """From ``start`` to ``end`` (3,) mm of the part, ``diameter`` mm; ``ratio`` of its modulus to that of the plastic
    along it.
    """

    start: Array
    end: Array
    diameter: float
    ratio: float

    def away(self, places: Array) -> tuple[Array, Array]:
        """(k,), (k,) mm from its axis, and whether beside it and not beyond its ends."""
        way = self.end - self.start
        long = float(np.linalg.norm(way))
        along = (places - self.start) @ way / long
        off = np.linalg.norm(places - self.start - np.outer(along, way / long), axis=-1)
        return off, (along >= 0) & (along <= long)


def with_cores(voxels: Voxels, fill: MaterialField, cores: list[Core]) -> tuple[Voxels, MaterialField]:
    """The same with steel in the voxels whose middles lie within the rods; the hole that a rod sits in is filled."""
    share, stiffness = voxels.share.copy(), fill.stiffness.copy()
    size, grid = voxels.grid.size, voxels.grid
    nz, ny, nx = share.shape
    z, y, x = np.meshgrid(np.arange(nz), np.arange(ny), np.arange(nx), indexing="ij")
    middles = grid.origin + size * (np.stack([x, y, z], axis=-1).reshape(-1, 3) + 0.5)
    for core in cores:
        off, beside = core.away(middles)
        rows = np.flatnonzero(beside & (off <= core.diameter / 2))
        if not len(rows):
            continue
        long = float(np.linalg.norm(core.end - core.start))
        # About one axis half of what it is about the rod's own; each cube's own a⁴/12 too.
        second = ((off[rows] ** 2).sum() / 2 + len(rows) * size**2 / 12) * size**3 / long
        exact = pi * core.diameter**4 / 64
        share.reshape(-1)[rows] = 1.0
        stiffness.reshape(-1)[rows] = core.ratio * exact / second
        # Between the rod and the wall of its hole is glue: it is counted as the plastic.
        ring = np.flatnonzero(beside & (off > core.diameter / 2) & (off <= core.diameter / 2 + size))
        share.reshape(-1)[ring] = 1.0
        stiffness.reshape(-1)[ring] = np.maximum(stiffness.reshape(-1)[ring], 1.0)
    return replace(voxels, share=share), replace(fill, stiffness=stiffness)


def clear_of(places: Array, cores: list[Core], size: float) -> np.ndarray:
    """(k,) which places lie off every rod."""
    clear = np.ones(len(places), bool)
    for core in cores:
        off, beside = core.away(places)
        clear &= ~(beside & (off < core.diameter / 2 + BESIDE * size))
    return clear
