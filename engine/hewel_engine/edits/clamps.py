"""A clamp (a bore slit open, with two ears and a screw that closes it) and a spring of leaves between two faces.
Lengths mm, over the plate.
"""

import numpy as np
from manifold3d import CrossSection, FillRule, Manifold, OpType

from hewel_engine.edits.fans import OVERLAP
from hewel_engine.edits.sites import INSIDE, Site, free_before, mouth, rooted
from hewel_engine.edits.steel import PROUD, Line
from hewel_engine.edits.tools import Impossible, Tool
from hewel_engine.geometry.frames import unit, upright
from hewel_engine.geometry.measures import WHOLE_TURN, Feature
from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.rays import RayScene

EDGE = 1.5
"""Of a screw's hole: how much of it is left as wall outside it, in its own diameter."""


def clamp(solid: Manifold, rays: RayScene, found: Feature, to: Array | None, given: dict[str, float]) -> Tool:
    """Slits a bore open towards ``to`` (3,), or the side where its wall is thinnest, and puts an ear with a screw's
    hole on either side of the slit. Raises Impossible.
    """
    slit, hole, ear = given["slit_mm"], given["bore_mm"], given["ear_mm"]
    radius, axis, middle = found.size / 2, found.axis, found.places[0]
    long, named = float(found.lengths[0]), f"bore ⌀ {found.size:.2f} mm"
    if found.kind != "bore" or found.turn < WHOLE_TURN:
        raise Impossible("A clamp closes a bore that goes all round: point at one.")
    if slit > 0.5 * radius:
        raise Impossible(f"A slit of {slit:.2f} mm takes too much of the {named}: at most {0.5 * radius:.2f} mm.")
    out, wall = opening(rays, found, to)
    side = np.cross(axis, out)
    frame = np.column_stack([out, side, axis])
    outer, reach = radius + wall, ear_length(hole)
    block = lambda a, b, c, d: Manifold.cube((b - a, d - c, long)).translate((a, c, -long / 2))
    place = np.c_[frame, middle]
    half = slit / 2
    ears = block(radius + wall / 2, outer + reach, -half - ear, half + ear)
    cut = block(0.5 * radius, outer + reach + PROUD, -half, half)
    cut = cut.scale((1, 1, (long + 2 * OVERLAP) / long)) if mouth(rays, found, 0.0)[1] else cut
    line = Line(middle + (outer + reach / 2) * out - (half + ear + PROUD) * side, side)
    drilled = line.prism(0.0, 2 * (half + ear + PROUD), hole)
    bore = Manifold.cylinder(long, radius, circular_segments=96, center=True)
    add = (ears - bore).transform(place) - cut.transform(place) - drilled
    beyond = block(outer + OVERLAP, outer + reach, -half - ear, half + ear).transform(place)
    free_before(solid, beyond, "The clamp's ears", reach)
    jaw = (block(radius + OVERLAP, outer - OVERLAP, -half - ear, half + ear) - bore).transform(place)
    rooted(solid, jaw ^ _shell(outer - OVERLAP, long, place), "The clamp's ears")
    words = (
        f"Slit the {named} open by {slit:.2f} mm, with two ears {ear:.1f} mm thick and {reach:.1f} mm long and a hole "
        f"⌀ {hole:.2f} mm for a screw that closes it."
    )
    numbers = {"slit_mm": slit, "hole_mm": hole, "ear_mm": ear, "wall_mm": wall, "long_mm": long, "reach_mm": reach}
    return Tool("clamp", words, numbers, add=add, remove=cut.transform(place) + drilled, round_=True)


def ear_length(hole: float) -> float:
    """mm that an ear stands out, its hole in its middle with EDGE diameters of wall on either side."""
    return hole * (1 + 2 * EDGE)


def opening(rays: RayScene, found: Feature, to: Array | None) -> tuple[Array, float]:
    """The way (3,) from a bore's axis that its slit opens along, and mm of wall there. Raises Impossible."""
    middle, radius = found.places[0], found.size / 2
    if to is None:
        return _thinnest(rays, middle, found.axis, radius)
    return _towards(rays, middle, found.axis, radius, to)


def _shell(radius: float, long: float, place: Array) -> Manifold:
    return Manifold.cylinder(long - 2 * OVERLAP, radius, circular_segments=96, center=True).transform(place)


def _towards(rays: RayScene, middle: Array, axis: Array, radius: float, to: Array) -> tuple[Array, float]:
    out = to - middle
    out = out - (out @ axis) * axis
    if np.linalg.norm(out) < 0.5 * radius:
        raise Impossible("Point at the side that the slit opens to, not into the bore.")
    out = unit(out)
    wall = _wall(rays, middle, out[None], radius)[0]
    if not np.isfinite(wall):
        raise Impossible("The bore has no wall on that side.")
    return out, float(wall)


def _thinnest(rays: RayScene, middle: Array, axis: Array, radius: float) -> tuple[Array, float]:
    first = upright(axis)[1]
    turns = np.radians(np.arange(0, 360, 10.0))
    ways = np.cos(turns)[:, None] * first + np.sin(turns)[:, None] * np.cross(axis, first)
    walls = _wall(rays, middle, ways, radius)
    best = int(np.argmin(np.round(walls, 2)))
    if not np.isfinite(walls[best]):
        raise Impossible("The bore has no wall to slit.")
    return ways[best], float(walls[best])


def _wall(rays: RayScene, middle: Array, ways: Array, radius: float) -> Array:
    """(n,) mm of material behind a bore's face along each way from its axis."""
    return rays.distances(middle + (radius + 4 * rays.step) * ways, ways) + 4 * rays.step


# ------------------------------------------------------------------ leaves


def serpentine(solid: Manifold, at: Array, out: Array, to: Array, given: dict[str, float]) -> Tool:
    """Leaves one behind another from a face to the one across from it, joined at alternate ends, lying on the plate so
    that they bend in the plane of their layers. Raises Impossible.
    """
    site = Site.of(at, out)
    count, thick, long, tall = (given[k] for k in ("leaves_count", "thickness_mm", "length_mm", "width_mm"))
    leaves = round(count)
    if site.stands or site.hangs:
        raise Impossible("Its leaves would lie one above another: point at two faces that stand.")
    apart = float((to - site.at) @ site.out)
    if apart <= 0:
        raise Impossible("The other face lies behind this one: point at the one across from it.")
    pitch = apart / (leaves + 1)
    gap = pitch - thick
    if gap < given["gap_mm"]:
        raise Impossible(
            f"{leaves} leaves {thick:.2f} mm thick leave {gap:.2f} mm between them; {given['gap_mm']:.2f} mm are "
            "wanted so that they do not grow together: fewer leaves, or faces farther apart."
        )
    low, high = site.down_to_plate(tall)
    half, joint = long / 2, 1.5 * thick
    joined = lambda side: tuple(sorted((side * half, side * (half - joint))))
    ends = [(-1.0) ** i for i in range(leaves + 1)]  # the side that each piece before a leaf is joined at
    rows = [((i + 1) * pitch - thick / 2, (i + 1) * pitch + thick / 2, -half, half) for i in range(leaves)]
    for i, side in enumerate(ends):
        start = i * pitch + (thick / 2 if i else -OVERLAP)
        stop = (i + 1) * pitch - thick / 2 if i < leaves else apart + OVERLAP
        rows.append((start - (OVERLAP if i else 0), stop + (OVERLAP if i < leaves else 0), *joined(side)))
    plan = CrossSection.batch_boolean([CrossSection([_rect(*r)], FillRule.NonZero) for r in rows], OpType.Add)
    place = np.c_[np.column_stack([site.out, site.across, site.third]), site.at]
    body = Manifold.extrude(plan, high - low).translate((0, 0, low)).transform(place)
    roots = (("first", ends[0], (-INSIDE, -OVERLAP)), ("other", ends[-1], (apart + OVERLAP, apart + INSIDE)))
    for named, side, span in roots:
        rooted(solid, site.box(span, joined(side), (low, high)), f"At the {named} face the spring")
    room = site.box((OVERLAP, apart - OVERLAP), (-half - gap, half + gap), (low, high))
    free_before(solid, room, "The spring", long + 2 * gap)
    words = (
        f"Add a spring of {leaves} leaves {long:.1f} mm long, {thick:.2f} mm thick and {tall:.1f} mm wide, "
        f"{gap:.2f} mm between them."
    )
    numbers = {"leaves_count": float(leaves), "thickness_mm": thick, "length_mm": long, "width_mm": tall, "gap_mm": gap}
    return Tool("serpentine", words, numbers, add=body)


def _rect(a: float, b: float, c: float, d: float) -> Array:
    return np.array([[a, c], [b, c], [b, d], [a, d]])
