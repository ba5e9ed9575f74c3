"""A room under a roof that carries itself: it leans at the limit from every edge, up to a clean bridge. Lengths mm."""

import numpy as np
import shapely
from manifold3d import Manifold

from hewel_engine.edits.fans import OVERLAP, edge_at, fan, slope
from hewel_engine.edits.solids import prism
from hewel_engine.processes import Process

ROUNDING = 0.01
"""mm by which a roof's outline may miss the room's: both are cut through facets."""
EDGE = 0.1
"""mm that a strip left flat stays inside a clean bridge."""


def rise_over(plan: shapely.Polygon, process: Process) -> float:
    """mm that a roof over ``plan`` rises until a clean bridge is left; 0 where the plan is one."""
    deep = shapely.maximum_inscribed_circle(plan, tolerance=ROUNDING).length
    return max(float((deep - (process.clean_bridge - EDGE) / 2) / slope(process.limit)), 0.0)


def tent(plan: shapely.Polygon, low: float, start: float, rise: float, process: Process) -> Manifold:
    """What stands over ``plan`` from ``low`` up, from ``start`` on under a roof that rises by ``rise``."""
    edge = np.concatenate([edge_at(np.array(r.coords), start) for r in (plan.exterior, *plan.interiors)])
    return prism(plan, low, start + rise) - fan(edge, rise + OVERLAP, process.limit, up=True)
