"""What is done to a part where it stands: its edges on the plate chamfered, a small foot added or cut. Lengths mm."""

from dataclasses import replace

import numpy as np
from manifold3d import CrossSection, FillRule
from shapely.affinity import translate

from hewel_engine.advice.placed_part import UP, PlacedPart
from hewel_engine.edits.feet import added_foot, sliced_foot
from hewel_engine.edits.parameters import LEAN, leaning
from hewel_engine.edits.roofs import foot_chamfer
from hewel_engine.edits.tools import Impossible, Tool
from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.plans import as_polygons
from hewel_engine.orientation.candidates import drag_by_section
from hewel_engine.orientation.ranking import STANDS
from hewel_engine.orientation.sweep import plan_hull, tipping_angle
from hewel_engine.overhangs.support import contact_facets

HOLDS = 2.0
"""Drag ratio from which on a part holds on the plate without a brim."""
HIGHEST = {"sliced_foot": 3.0, "added_foot": 15.0}
"""mm that a foot may take off or add in height."""


def at_the_plate(placed: PlacedPart, key: str, given: dict[str, float]) -> Tool:
    """The tool of a remedy for no region; raises Impossible."""
    return _chamfered(placed, given) if key == "foot_chamfer" else _footed(placed, key, given.get("height_mm"))


def _chamfered(placed: PlacedPart, given: dict[str, float]) -> Tool:
    process, numbers = leaning(placed.process, given)
    tool = foot_chamfer(_outline_on_plate(placed), process, **numbers)
    return replace(tool, used={LEAN.name: process.limit} | tool.used)


def _outline_on_plate(placed: PlacedPart) -> list[Array]:
    """Closed loops (n, 2) round what lies on the plate, material on the left."""
    rows = contact_facets(placed.mesh, UP)
    if len(rows) == 0:
        raise Impossible("Nothing lies flat on the plate.")
    corners = placed.mesh.vertices[placed.mesh.faces[rows]][:, ::-1, :2]  # from above they run the other way round
    return CrossSection([*corners], FillRule.NonZero).to_polygons()


def _footed(placed: PlacedPart, key: str, given: float | None) -> Tool:
    """A foot as high as ``given``, else the lowest with which the part stands and holds against the nozzle's drag."""
    stack, slicing = placed.stack, key == "sliced_foot"
    if given is None:
        tipping, drag = _stands(placed, 0, 0.0)
        if contact_facets(placed.mesh, UP).size and tipping >= STANDS and drag >= HOLDS:
            raise Impossible(f"It stands without one: tipping at {tipping:.1f}°, drag ratio {drag:.1f}.")
    most = min(int(HIGHEST[key] / stack.pitch), stack.count - 1)
    rows = range(1, most + 1) if given is None else [min(max(round(given / stack.pitch - 0.5), 0), stack.count - 1)]
    for k in rows:
        tipping, drag = _stands(placed, k, (k + 0.5) * stack.pitch if slicing else 0.0)
        if given is not None or (tipping >= STANDS and drag >= HOLDS):
            break
    else:
        raise Impossible(
            f"Even a foot of {most * stack.pitch:.1f} mm would not hold it: tipping at {tipping:.1f}°, drag ratio "
            f"{drag:.1f} ({STANDS:.0f}° and {HOLDS:.0f} are wanted)."
        )
    plan = as_polygons(stack.plan(k))
    plan = translate(plan, *placed.middle)
    why = f"tipping at {tipping:.1f}°, drag ratio {drag:.1f}."
    height = (k + 0.5) * stack.pitch  # where the section of a layer is taken
    return sliced_foot(plan, height, placed.mesh.diagonal, why) if slicing else added_foot(plan, height, why)


def _stands(placed: PlacedPart, k: int, cut: float) -> tuple[float, float]:
    """Tipping angle (degrees) and drag ratio of a part on the section of its layer ``k``, ``cut`` mm lower than now."""
    hull = plan_hull(np.concatenate(placed.stack.outline(k)))
    centre = placed.mesh.centre_of_mass
    tipping = tipping_angle(hull, centre[:2] - placed.middle, float(centre[2]) - cut)
    return float(tipping), float(drag_by_section(placed.stack, placed.process, k, cut))
