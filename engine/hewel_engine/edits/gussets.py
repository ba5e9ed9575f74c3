"""What is added below a hanging surface: gussets, chamfers under rounds that face the plate, posts. Lengths mm."""

import numpy as np
import shapely
from manifold3d import Manifold

from hewel_engine.edits.fans import OVERLAP, column, fan, skirt, slope
from hewel_engine.edits.solids import prism
from hewel_engine.edits.tools import Impossible, Tool
from hewel_engine.edits.undersides import Underside
from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.plans import sides
from hewel_engine.geometry.rays import RayScene
from hewel_engine.processes import Process

SLENDER = 10.0
"""A post is at least its height ÷ this wide, so that the nozzle does not push it over."""
NECK = 0.6
"""Share of its post's width that a neck has, so that it breaks there."""


def gusset(under: Underside, process: Process, flat: float = 0.0) -> Tool:
    """Fills the corner below a ledge or slope: above the surface z = z_e + d/tan α − D, d the distance to the edge
    (at height z_e) that holds it and D the least depth that reaches all of it but the outermost ``flat`` mm. Each layer
    then steps out from the wall by no more than the limit allows, however narrow the ledge is.
    """
    held = under.held
    if len(held) == 0:
        raise Impossible("Nothing beside it goes down, so a gusset has no wall to grow from.")
    lean = slope(process.limit)
    away, edge = under.nearest(held)
    carried = np.minimum(away, float(away.max()) - flat)
    depth = float((carried / lean - (under.spots[:, 2] - edge)).max())
    if depth <= OVERLAP:
        raise Impossible("It hangs by less than a gusset would measure.")
    floor = max(float(held[:, :, 2].min()) - depth, 0.0)
    room = _below(under, floor, held, under.way_out(of_held=True))
    lowered = held - np.array([0, 0, depth])
    wedge = room ^ fan(lowered, under.high + 2 * OVERLAP - lowered[:, :, 2].min(), process.limit, up=True)
    reach = float(away.max()) - flat
    words = f"Add a gusset under the ledge: {reach:.2f} mm out, {depth:.2f} mm down the wall, {process.limit:.0f}°"
    words += f"; the outermost {flat:.2f} mm hold themselves." if flat else "."
    return Tool("gusset", words, {"rise_mm": depth, "reach_mm": reach}, add=wedge, used={"flat_mm": flat})


def round_chamfer(under: Underside, process: Process) -> Tool:
    """A chamfer at the limit that blends into a round facing the plate where the round has the limit's slope."""
    free = under.blends
    if len(free) == 0:
        raise Impossible("The round does not flow on into a surface that a chamfer could blend into.")
    held = under.held
    room = _below(under, 0.0, held, under.way_out(of_held=True))
    foot = room - fan(free, float(free[:, :, 2].max()), process.limit, up=False)
    starts = float(free[:, :, 2].max())
    inward = starts * slope(process.limit)
    words = (
        f"Replace the lowest {starts:.2f} mm of the round by a chamfer of {process.limit:.0f}° from the vertical, "
        f"{inward:.2f} mm inward."
    )
    return Tool("round_chamfer", words, {"starts_mm": starts, "inward_mm": inward}, add=foot)


def _below(under: Underside, floor: float, held, out) -> Manifold:
    """The room between a surface, taken a hair into the material above and beside it, and the height ``floor``."""
    room = column(under.mesh.vertices, under.faces, floor, OVERLAP)
    return room + skirt(held, floor, held[:, :, 2] + OVERLAP, out)


def post(
    tip: Array, plan: shapely.Polygon, rays: RayScene, process: Process, thickness: float | None = None,
    neck: float | None = None,
) -> Tool:  # fmt: skip
    """A post under what begins in mid-air at ``tip`` (3,) with the small first layer ``plan``, down to the plate or to
    the part below, with a neck to break; under an edge that begins all at once, a fin. ``thickness`` and ``neck`` mm
    follow from its height where they are not given.
    """
    wide, long = sides(plan)
    line = _spine(shapely.minimum_rotated_rectangle(plan), wide)
    ground = min(_ground(np.array([*p, tip[2]]), rays, process) for p in np.array(line.coords))
    height = float(tip[2]) - ground
    thick = _thick(height, process, thickness)
    neck = max(NECK * thick, process.width) if neck is None else neck
    if not process.width <= neck <= thick:
        raise Impossible(
            f"A neck of {neck:.2f} mm cannot be drawn on a post {thick:.2f} mm thick: a line, {process.width:.2f} mm, "
            "at least, and no thicker than the post."
        )
    if wide > 2 * process.held_out + neck:
        raise Impossible(f"It begins {wide:.1f} mm wide: a post would hold only its middle.")
    short = min(thick, height / 3)
    foot, top = _foot(ground), float(tip[2]) - short
    whole = prism(line.buffer(thick / 2, 6), foot, top) + Manifold.batch_hull(
        [prism(line.buffer(thick / 2, 6), top - OVERLAP, top),
         prism(line.buffer(neck / 2, 6), top + short, top + short + process.layer)]
    )  # fmt: skip
    numbers = {"height_mm": height, "thickness_mm": thick, "neck_mm": neck}
    if long > 2 * thick:
        numbers["length_mm"] = long
    what = "fin" if long > 2 * thick else "post"
    words = f"Add a {what} {thick:.2f} mm thick and {height:.2f} mm high under the tip, its neck {neck:.2f} mm thick."
    return Tool("sprue", words, numbers, add=whole, used={"thickness_mm": thick, "neck_mm": neck})


def _spine(box: shapely.Polygon, wide: float) -> shapely.LineString:
    """The middle line of a rectangle, half its width short at both ends; nearly a point where it is compact."""
    corner = np.array(box.exterior.coords)[:4]
    a, b = (corner[0] + corner[1]) / 2, (corner[2] + corner[3]) / 2
    c, d = (corner[1] + corner[2]) / 2, (corner[3] + corner[0]) / 2
    p, q = (a, b) if np.linalg.norm(b - a) >= np.linalg.norm(d - c) else (c, d)
    length = float(np.linalg.norm(q - p))
    inward = min(wide / 2, 0.499 * length) * (q - p) / max(length, 1e-9)
    return shapely.LineString([p + inward, q - inward])


def pillar(under: Underside, rays: RayScene, process: Process, thickness: float | None = None) -> Tool:
    """A post that flares at the limit until it carries all of a surface that begins in mid-air; it stays."""
    plan, lean = under.plan, slope(process.limit)
    x, y = shapely.maximum_inscribed_circle(plan).coords[0]
    tip = np.array([x, y, under.low])
    ground = _ground(tip, rays, process)
    reach = float(np.linalg.norm(under.spots[:, :2] - tip[:2], axis=1).max())
    thick = _thick(under.low - ground, process, thickness)
    lift = under.spots[:, 2] - under.low
    away = np.linalg.norm(under.spots[:, :2] - tip[:2], axis=1)
    depth = float(np.maximum((away - thick / 2) / lean - lift, 0).max())
    shaft = Manifold.cylinder(under.low + OVERLAP - _foot(ground), thick / 2, circular_segments=24)
    shaft = shaft.translate((x, y, _foot(ground)))
    floor = max(under.low - depth, ground)
    whole = shaft
    if depth > OVERLAP:
        room = column(under.mesh.vertices, under.faces, floor, OVERLAP)
        ring = np.array([[np.cos(t), np.sin(t), 0] for t in 2 * np.pi * np.arange(24) / 24]) * thick / 2
        curve = ring + np.array([x, y, under.low - depth])
        flare = fan(np.stack([curve, np.roll(curve, -1, axis=0)], axis=1), depth + under.high - under.low + OVERLAP,
                    process.limit, up=True)  # fmt: skip
        whole += room ^ flare
    words = (
        f"Add a pillar {thick:.2f} mm thick and {under.low - ground:.2f} mm high that flares at {process.limit:.0f}° "
        f"to {2 * reach:.1f} mm."
    )
    numbers = {"height_mm": under.low - ground, "thickness_mm": thick, "flare_mm": depth}
    return Tool("pillar", words, numbers, add=whole, used={"thickness_mm": thick})


def _thick(height: float, process: Process, given: float | None) -> float:
    """mm: 1 mm and two lines at least, and so that the nozzle does not push it over."""
    least = max(1.0, 2 * process.width)
    if given is None:
        return max(least, height / SLENDER)
    if given < least - 1e-9:
        raise Impossible(f"It would be {given:.2f} mm thick: {least:.2f} mm, two lines and 1 mm, is the least.")
    return given


def _foot(ground: float) -> float:
    """Height at which a post begins: on the plate, or a hair within the part below."""
    return ground - OVERLAP if ground > 0 else 0.0


def _ground(tip, rays: RayScene, process: Process) -> float:
    """Height down to which a post under ``tip`` goes: to the plate, or to the lowest it meets of the part below."""
    size = max(0.5, process.width)
    turn = 2 * np.pi * np.arange(8) / 8
    rim = tip + np.c_[size * np.cos(turn), size * np.sin(turn), np.zeros(8)]
    rim[:, 2] -= 2 * rays.step
    fall = rays.distances(np.vstack([tip - [0, 0, 2 * rays.step], rim]), np.array([0, 0, -1.0]))
    heights = np.where(np.isfinite(fall), tip[2] - 2 * rays.step - fall, 0.0)
    return max(float(heights.min()), 0.0)
