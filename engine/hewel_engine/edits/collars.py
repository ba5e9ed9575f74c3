"""A collar round a screw hole, so that it does not split. Lengths mm."""

import numpy as np
from manifold3d import Manifold

from hewel_engine.edits.tools import Impossible, Tool
from hewel_engine.geometry.features import Bore
from hewel_engine.geometry.frames import upright

SIDES = 96


def collar(bore: Bore, wall: float, now: float) -> Tool:
    """A ring ``wall`` mm thick round all of a bore, where ``now`` mm are the least. Raises Impossible."""
    if wall <= now + 1e-6:
        raise Impossible(f"It has {now:.2f} mm of wall round it already.")
    radius = bore.diameter / 2
    out = (radius + wall) / np.cos(np.pi / SIDES)
    rod = Manifold.cylinder(bore.depth, out, circular_segments=SIDES)
    free = Manifold.cylinder(bore.depth + 2, radius, circular_segments=SIDES).translate((0, 0, -1))
    ring = (rod - free).transform(np.c_[upright(bore.axis).T, bore.centre - bore.axis * bore.depth / 2])
    words = (
        f"Put a collar round the hole ⌀ {bore.diameter:.2f} mm: {wall:.2f} mm of wall instead of {now:.2f} mm, "
        f"⌀ {bore.diameter + 2 * wall:.2f} mm over {bore.depth:.1f} mm."
    )
    numbers = {"wall_mm": wall, "was_mm": now, "diameter_mm": bore.diameter}
    return Tool("collar", words, numbers, add=ring, used={"wall_mm": wall}, round_=True)
