"""How a face that people see comes out: the steps of its layers, the plate's texture, what would hang (handbook 3).
Lengths mm.
"""

from dataclasses import dataclass

import numpy as np

from hewel_engine.fits.estimates import LEVEL, ON_PLATE
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.processes import Process


@dataclass(frozen=True, eq=False)
class Finish:
    """``steps``: height of the steps of its layers, square to the face, at the worst place and in the mean of what is
    not level; shares of its area that take the plate's texture, and that hang so that support would scar them. ``at``
    and ``normal`` (3,): where its largest facet is.
    """

    worst: float
    mean: float
    plate: float
    hangs: float
    at: Array
    normal: Array


def steps_of(layer: float, cosine: float | Array) -> float | Array:
    """h·|n·b|: height of a layer's steps, square to a face (handbook 3)."""
    return layer * np.abs(cosine)


def finish_of(mesh: Mesh, facets: np.ndarray, process: Process, up: Array) -> Finish:
    """Of some facets, as the part stands with ``up`` (3,)."""
    area, along = mesh.areas[facets], mesh.normals[facets] @ up
    sloping = np.abs(along) < LEVEL
    steps = np.where(sloping, steps_of(process.layer, along), 0.0)
    low = (mesh.triangles[facets] @ up).min(axis=1) - float((mesh.vertices @ up).min())
    down = along < -LEVEL
    on_plate = down & (low < ON_PLATE)
    hangs = (-along > np.sin(np.radians(process.limit)) + 1e-9) & ~on_plate
    share = lambda rows: float(area[rows].sum() / area.sum())
    largest = int(facets[int(np.argmax(area))])
    mean = float((steps * area)[sloping].sum() / area[sloping].sum()) if sloping.any() else 0.0
    return Finish(
        float(steps.max()), mean, share(on_plate), share(hangs), mesh.centroids[largest], mesh.normals[largest]
    )
