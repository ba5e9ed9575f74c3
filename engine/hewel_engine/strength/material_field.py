"""What fills each voxel: lines of the shell, solid skins, sparse core, as the process lays them.

Stiffness of a core of fraction φ is E·φ^m, its strength X·φ^n; a strain that puts the stress S into solid material puts
φ^m·S into the core, which uses φ^(m−n) of the share of strength that S uses of the shell.
"""

from dataclasses import dataclass, replace

import numpy as np
from numba import njit

from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.geometry.voxels import Voxels, depths
from hewel_engine.printing.paths import layer_cores
from hewel_engine.processes import Process

TONNE = 1e-9  # t/mm³ in g/cm³
SAMPLES = 3
"""Points a side at which a voxel is asked whether it is core."""


@dataclass(frozen=True, eq=False)
class MaterialField:
    """(z, y, x) each: ``stiffness`` as a share of solid material, ``mass`` in tonnes, ``relief``, by which stress
    calculated for solid material is to be multiplied before it is held against the strength of solid material, and
    which voxels are ``filled`` solidly with lines that lie crosswise.
    """

    stiffness: np.ndarray
    mass: np.ndarray
    relief: np.ndarray
    filled: np.ndarray


def _woven(voxels: Voxels, shell: np.ndarray, process: Process) -> MaterialField:
    """The material of voxels of which the share ``shell`` of their material is solid."""
    fill, full = process.infill, voxels.grid.size**3 * process.stock.density * TONNE
    stiffness = voxels.share * (shell + (1 - shell) * fill**process.stiffness_power)
    mass = voxels.share * (shell + (1 - shell) * fill) * full
    relief = np.where(shell > 0.5, 1.0, _relief(process)).astype(np.float32)
    none = np.zeros(voxels.share.shape, bool)
    return MaterialField(stiffness.astype(np.float32), mass.astype(np.float32), relief, none)


def _relief(process: Process) -> float:
    if process.infill <= 0:
        return 0.0
    return process.infill ** (process.stiffness_power - process.strength_power)


def solid(voxels: Voxels, process: Process) -> MaterialField:
    """Fully dense, without shell or core."""
    return _woven(voxels, np.ones_like(voxels.share), process)


def _filled(mesh: Mesh, voxels: Voxels, process: Process) -> MaterialField:
    """Solid all through, with lines that lie crosswise wherever perimeters do not reach."""
    deep = depths(mesh, voxels.grid, process.shell + voxels.grid.size)
    return replace(solid(voxels, process), filled=deep > process.shell)


def screening(mesh: Mesh, voxels: Voxels, process: Process) -> MaterialField:
    """The same shell all round, as thick as the perimeters: it does not depend on the build direction."""
    if process.infill >= 1:
        return _filled(mesh, voxels, process)
    width, size = process.shell, voxels.grid.size
    deep = depths(mesh, voxels.grid, width + size)
    return _woven(voxels, np.clip((width - deep) / size + 0.5, 0, 1), process)


@njit(cache=True, nogil=True)
def painted(xy: Array, starts: np.ndarray, low: Array, step: float, rows: int, columns: int):
    """(rows, columns) whether the middle of each square lies inside the loops, by crossings to its left."""
    turns = np.zeros((rows, columns + 1), np.int32)
    for loop in range(len(starts) - 1):
        a, b = starts[loop], starts[loop + 1]
        for i in range(a, b):
            j = i + 1 if i + 1 < b else a
            x0, y0, x1, y1 = xy[i, 0], xy[i, 1], xy[j, 0], xy[j, 1]
            if y0 == y1:
                continue
            sign = 1 if y1 > y0 else -1
            if sign < 0:
                x0, y0, x1, y1 = x1, y1, x0, y0
            first = max(int(np.ceil((y0 - low[1]) / step - 0.5)), 0)
            last = min(int(np.ceil((y1 - low[1]) / step - 0.5)), rows)
            for row in range(first, last):
                y = low[1] + (row + 0.5) * step
                x = x0 + (x1 - x0) * (y - y0) / (y1 - y0)
                column = min(max(int(np.ceil((x - low[0]) / step - 0.5)), 0), columns)
                turns[row, column] += sign
    out = np.zeros((rows, columns), np.bool_)
    for row in range(rows):
        inside = 0
        for column in range(columns):
            inside += turns[row, column]
            out[row, column] = inside != 0
    return out


def layered(mesh: Mesh, voxels: Voxels, process: Process, up: Array) -> MaterialField:
    """Walls, skins and core as they lie in the layers normal to ``up``."""
    if process.infill >= 1:
        return _filled(mesh, voxels, process)
    grid = voxels.grid
    stack = LayerStack(mesh, up, process.layer)
    cores = layer_cores(stack, process)
    step = grid.size / 4
    plan = stack.points[mesh.used, :2]
    low = plan.min(axis=0) - step
    columns, rows = np.ceil((plan.max(axis=0) + step - low) / step).astype(int)
    where = np.argwhere(voxels.share > 0).astype(np.int32)
    offsets = (np.arange(SAMPLES) + 0.5) / SAMPLES
    offsets = np.stack(np.meshgrid(offsets, offsets, offsets, indexing="ij"), axis=-1).reshape(-1, 3)
    middle = mesh.box.mean(axis=0)
    plate = ((mesh.vertices[mesh.used] - middle) @ stack.turn[2]).min()
    hits = np.zeros(len(where), np.int32)
    layers = np.empty((len(offsets), len(where)), np.int32)
    cells = np.empty((2, len(offsets), len(where)), np.int32)
    for o, offset in enumerate(offsets):
        place = (grid.origin + (where[:, ::-1] + offset) * grid.size - middle) @ stack.turn.T
        layers[o] = np.clip(np.floor((place[:, 2] - plate) / process.layer), 0, stack.count - 1)
        for d in range(2):
            cells[d, o] = np.clip((place[:, d] - low[d]) / step, 0, (columns, rows)[d] - 1)
    order = np.argsort(layers, axis=None, kind="stable")
    ends = np.searchsorted(layers.ravel()[order], np.arange(stack.count + 1))
    x, y = cells[0].ravel(), cells[1].ravel()
    drawn, last = None, None
    for k in range(stack.count):
        some = order[ends[k] : ends[k + 1]]
        if cores[k].is_empty() or not len(some):
            continue
        if cores[k] is not last:
            loops = cores[k].to_polygons()
            starts = np.r_[0, np.cumsum([len(loop) for loop in loops])]
            drawn = painted(np.concatenate(loops).astype(float), starts, low, step, int(rows), int(columns))
            last = cores[k]
        found = drawn[y[some], x[some]]
        np.add.at(hits, some[found] % len(where), 1)
    core = np.zeros(voxels.share.shape, np.float32)
    core[tuple(where.T)] = hits / len(offsets)
    return _woven(voxels, 1 - core, process)
