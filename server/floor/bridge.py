"""The only file of this app that calls the engine."""

from collections.abc import Sequence

import numpy as np

from hewel_engine.geometry.frames import unit
from hewel_engine.geometry.plans import as_polygons, loops_of
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.io.exports import AS_DRAWN
from hewel_engine.io.exports import plate_file as written
from hewel_engine.io.packing import unpack_solid


def plate_file(
    solid: bytes, up: list[float], items: list[list[float]], title: str, stops: list[str], mode: str, mark: str,
    scale: Sequence[float] = AS_DRAWN,
) -> bytes:  # fmt: skip
    plan, along = scale
    return written(unpack_solid(solid), up, items, title, stops, mode, mark, (plan, along))


def section(solid: bytes, up: list[float], layer: float, height: float) -> dict[str, str]:
    """The last layer below ``height`` mm over the plate as somebody looks down on it: the ``frame`` and the ``path`` of
    a drawing in mm, y upward.
    """
    stack = LayerStack(unpack_solid(solid), unit(up), layer)
    loops = loops_of(as_polygons(stack.plan(min(max(round(height / layer) - 1, 0), stack.count - 1))))
    spots = np.concatenate(loops) * [1, -1]
    (x0, y0), (x1, y1) = spots.min(axis=0) - 1, spots.max(axis=0) + 1
    path = "".join("M" + "L".join(f"{x:.2f} {-y:.2f}" for x, y in ring) + "Z" for ring in loops)
    return {"frame": f"{x0:.2f} {y0:.2f} {x1 - x0:.2f} {y1 - y0:.2f}", "path": path}
