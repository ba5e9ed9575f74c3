"""Corners that stay apart in single precision, so that what is written is as closed as what was made.

A reader joins corners that round to one place: two that a hair parts would become one, a facet between them none, and
an edge would get a third facet.
"""

import numpy as np

from hewel_engine.geometry.mesh import Array

BESIDE = np.array([(x, y, z) for z in (0, 1, -1) for y in (0, 1, -1) for x in (0, 1, -1)][1:])


def step_of(points: Array) -> float:
    """The step (mm) of a lattice of which every place in the box of ``points`` is exact in single precision: that of
    its largest number, about 8e-6 mm of a part that reaches 40 to 60 mm from its origin.
    """
    most = float(np.abs(points).max(initial=0.0))
    return float(2.0 ** np.ceil(np.log2(max(most, 1e-9))) * 2.0**-23)


def apart(points: Array) -> tuple[Array, np.ndarray]:
    """``points`` (n, 3) on that lattice, no two of them in one place: of those that meet all but the first move to the
    next place that is free; and which of them moved (n,).
    """
    step = step_of(points)
    cells = np.rint(points / step).astype(np.int64)
    _, first, group = np.unique(cells, axis=0, return_index=True, return_inverse=True)
    moved = first[group.ravel()] != np.arange(len(points))
    if moved.any():
        taken = set(map(tuple, cells[~moved].tolist()))
        for i in np.flatnonzero(moved):
            reach = 1
            while (place := _free(cells[i], reach, taken)) is None:
                reach += 1
            taken.add(place)
            cells[i] = place
    return cells * step, moved


def _free(cell: np.ndarray, reach: int, taken: set[tuple]) -> tuple | None:
    return next((p for p in map(tuple, (cell + reach * BESIDE).tolist()) if p not in taken), None)
