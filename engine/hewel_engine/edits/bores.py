"""What is done to the roof of a lying bore, and to a ceiling with a hole in it. Lengths mm, angles degrees."""

import math

import numpy as np
import shapely
import shapely.affinity
from manifold3d import CrossSection, Manifold

from hewel_engine.edits.exact import cylinder, flats_of
from hewel_engine.edits.fans import INSIDE, OVERLAP
from hewel_engine.edits.tools import Impossible, Tool, kept, plane_below
from hewel_engine.geometry.features import Bore
from hewel_engine.geometry.frames import upright
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.rays import RayScene
from hewel_engine.processes import Process, layers_of

PAST_END = 0.02
"""mm by which a teardrop passes the floor of a blind bore, so that the two do not lie in one plane."""
APEX_SIDES = 8
"""Of the arc that rounds an apex."""
MOST_TURN = math.radians(60)
"""Of one facet to the next: a bore has eight sides at least."""


def half_angle(axis: Array, limit: float) -> float:
    """Radians between a roof plane and the bore's highest line, in the section normal to the axis, so that the plane
    leans ``limit`` degrees from the vertical: sin φ = sin α / sin t, t the axis' angle from the vertical. A level
    bore has φ = α.
    """
    lying = math.sqrt(max(1e-12, 1 - float(axis[2]) ** 2))
    return math.asin(min(1.0, math.sin(math.radians(limit)) / lying))


def across(axis: Array) -> tuple[Array, Array]:
    """Two directions normal to a lying axis: the level one beside it, and the one that leads up."""
    above = np.array([0, 0, 1.0]) - axis * axis[2]
    above /= np.linalg.norm(above)
    return np.cross(above, axis), above


def teardrop(
    bore: Bore, mesh: Mesh, rays: RayScene, process: Process, cap: float | None = None, share: float = 0.0,
    full: bool = True, apex_radius: float = 0.0,
) -> Tool:  # fmt: skip
    """Two roof planes tangent to a lying bore; the apex (D/2)/sin φ above the axis. Where the wall above is too thin
    for it (``share`` of it and a skin are left), or at ``cap`` mm above the axis, the apex is cut off flat, no lower
    than the bore's own top, and a clean bridge at most. Without ``full`` it is cut off as low as a clean bridge lets
    it, what that droops above the bore where there is room. Where the planes meet, the edge is rounded with
    ``apex_radius``: a sharp one is where cracks start.
    """
    centre, axis, depth, diameter = bore.centre, bore.axis, bore.depth, bore.diameter
    radius = diameter / 2
    phi = half_angle(axis, process.limit)
    beside, above = across(axis)
    round_ = min(apex_radius, radius / 2)
    point = radius / math.sin(phi)
    apex = point - round_ * (1 / math.sin(phi) - 1)
    wall = _wall_above(centre, axis, above, depth, rays)
    least = float(kept(wall - radius, share, process))
    if cap is None:
        low = max(point - process.clean_bridge / 2 / math.tan(phi), radius + process.droop)
        cap = apex if full else max(min(low, apex, wall - least), radius)
    cap = min(cap, apex)
    if cap < radius - 1e-9:
        raise Impossible(f"A flat {cap:.2f} mm above the axis would lie inside the bore: {radius:.2f} mm at least.")
    if wall < cap + least:
        cap = wall - least
        if cap < radius:
            raise Impossible(
                f"A teardrop would cut through the wall: {max(wall - radius, 0.0):.2f} mm stand above the bore, and "
                f"even with its apex cut off at the bore's top {least:.2f} mm must be left."
            )
    flat = 2 * (point - cap) * math.tan(phi)
    if flat > process.clean_bridge + 1e-6:
        raise Impossible(
            f"Cut off {cap:.2f} mm above the axis, the teardrop's flat of {flat:.1f} mm would be more than a clean "
            f"bridge of {process.clean_bridge:.1f} mm."
        )
    lean = max(phi - math.radians(INSIDE), 0.05)
    tip = radius / math.sin(lean)
    touch = np.array([radius * math.cos(lean), radius * math.sin(lean)])
    # The planes run on below their tangent lines, over the facets of the bore that bend away from them there.
    run_on = radius * math.tan(_turn(bore, mesh, above, beside))
    down = touch + run_on * np.array([math.sin(lean), -math.cos(lean)])
    low, high = _ends(bore, mesh, rays)
    place = np.c_[beside, above, axis, centre - low * axis]
    arc = np.linspace(lean, math.pi - lean, APEX_SIDES + 1)
    middle = tip - round_ / math.sin(lean)
    peak = [[round_ * math.cos(a), middle + round_ * math.sin(a)] for a in arc] if round_ > 0 else [[0, tip]]
    below_cap = CrossSection([np.array([[-2 * tip, -tip], [2 * tip, -tip], [2 * tip, cap], [-2 * tip, cap]])])

    def drop(start: Array) -> Manifold:
        plan = CrossSection([np.array([[0, 0], start, *peak, [-start[0], start[1]]])])
        return Manifold.extrude(plan ^ below_cap if cap < apex else plan, low + high).transform(place)

    key = "teardrop" if cap >= apex else "capped_teardrop"
    numbers = {"apex_mm": apex, "included_deg": 2 * math.degrees(phi)}
    words = (
        f"Give the roof of the {diameter:.2f} mm bore two planes tangent to it, {process.limit:.0f}° from the vertical"
    )
    if cap < apex:
        numbers = {"cap_mm": cap, "flat_mm": flat}
        words += f", cut off flat {cap:.2f} mm above the axis (a flat of {flat:.2f} mm)."
    else:
        met = "meeting" if round_ == 0 else f"rounded with {round_:.2f} mm where they meet,"
        words += f", {met} {apex:.2f} mm above the axis."
    # On an exact bore the planes end where they touch it.
    used = {"cap_mm": cap} | ({"apex_radius_mm": round_} if cap >= apex else {})
    return Tool(key, words, numbers, remove=drop(down), used=used, removes=flats_of(drop(touch)))


def _turn(bore: Bore, mesh: Mesh, above: Array, beside: Array) -> float:
    """Radians from one facet of a bore to the next, where they are widest."""
    off = mesh.vertices[np.unique(mesh.faces[bore.facets])] - bore.centre
    angle = np.sort(np.arctan2(off @ above, off @ beside))
    gaps = np.diff(np.r_[angle, angle[0] + 2 * np.pi])
    return min(float(gaps.max()), MOST_TURN)


def _wall_above(centre: Array, axis: Array, above: Array, depth: float, rays: RayScene) -> float:
    """mm from the axis to the first open air above the bore's roof, the least along its length; inf without any."""
    along = np.linspace(-0.5, 0.5, 41) * (depth - 2 * rays.step)
    spots = centre + along[:, None] * axis
    roof = rays.distances(spots, above)
    there = np.isfinite(roof)
    if not there.any():
        raise Impossible("Nothing stands above the bore.")
    start = roof[there] + 2 * rays.step
    rest = rays.distances(spots[there] + start[:, None] * above, above)
    return float((start + rest)[np.isfinite(rest)].min(initial=np.inf))


def _ends(bore: Bore, mesh: Mesh, rays: RayScene) -> tuple[float, float]:
    """mm from a bore's middle to where a tool along it ends, downward and upward of its axis: past all of its facets,
    a little further where it is open.
    """
    along = (mesh.vertices[np.unique(mesh.faces[bore.facets])] - bore.centre) @ bore.axis
    ends = []
    for way, far in ((-bore.axis, -along.min()), (bore.axis, along.max())):
        free = rays.distances((bore.centre + 0.15 * bore.diameter * upright(bore.axis)[0])[None], way[None])[0]
        ends.append(float(far) + (OVERLAP if free > far + 2 * OVERLAP else PAST_END))
    return ends[0], ends[1]


def stepped_bridging(
    centre: Array, low: float, inner: float, opening: shapely.Polygon, above: float, process: Process,
    turn: float | None = None,
) -> Tool:  # fmt: skip
    """For a hole of radius ``inner`` round ``centre`` in a level ceiling at height ``low`` over an ``opening``: the
    first layer leaves a slot as wide as the hole from wall to wall, the next a square, the third an octagon, then the
    round hole; every layer bridges straight over what the one below has laid. ``above``: mm of hole that follow;
    ``turn``: degrees of the slot from x, the way of the shortest strips where none is given.
    """
    h, at = process.layer, centre[:2]
    first = plane_below(low, h) + h
    if first - low < h / 2 - 1e-6:
        first += h  # the layer whose middle lies above the ceiling is the first of it
    turn, span = min(
        ((t, _strip(opening, at, inner, t)) for t in (range(0, 180, 15) if turn is None else [turn])),
        key=lambda row: row[1],
    )
    if span > process.rough_bridge:
        raise Impossible(
            f"The strips beside the slot would bridge {span:.1f} mm; bridges end at {process.rough_bridge:.1f} mm."
        )
    if above < first + 2 * h - low + h:
        raise Impossible(f"The hole is {above:.2f} mm deep: stepping takes three layers and leaves no round hole.")
    far = 2 * span + 4 * inner
    box = lambda x, y: CrossSection([np.array([[-x, -y], [x, -y], [x, y], [-x, y]])])
    around = shapely.orient_polygons(shapely.affinity.translate(opening, *-at))
    outline = CrossSection([np.array(around.exterior.coords[:-1])])
    square = box(inner, inner)
    octagon = square ^ box(inner, inner).rotate(45)
    steps = [(outline ^ box(far, inner).rotate(turn), low - OVERLAP, first),
             (square.rotate(turn), first - OVERLAP, first + h),
             (octagon.rotate(turn), first + h - OVERLAP, first + 2 * h)]  # fmt: skip
    tool = Manifold()
    for plan, start, end in steps:
        tool += Manifold.extrude(plan, end - start).translate((float(at[0]), float(at[1]), start))
    words = (
        f"Step the ceiling round the {2 * inner:.2f} mm hole over three layers of {h:.2f} mm: a slot as wide as the "
        "hole from wall to wall, a square across it, an octagon, then the round hole."
    )
    return Tool("stepped_bridging", words, {"steps": 3.0, "slot_mm": 2 * inner, "span_mm": span}, remove=tool,
                used={"turn_deg": float(turn)})  # fmt: skip


def _strip(opening: shapely.Polygon, at: Array, inner: float, turn: float) -> float:
    """mm that the longest line beside a slot of half width ``inner``, ``turn`` degrees from x, bridges."""
    along = np.array([math.cos(math.radians(turn)), math.sin(math.radians(turn))])
    side = np.array([-along[1], along[0]])
    x0, y0, x1, y1 = opening.bounds
    far = 2 * math.hypot(x1 - x0, y1 - y0)
    reach = max(float(np.abs((np.array(opening.exterior.coords) - at) @ side).max()), inner)
    lines = [
        shapely.LineString([at + off * side - far * along, at + off * side + far * along])
        for size in np.linspace(inner * 1.001, reach, 6)[:-1]
        for off in (-size, size)
    ]
    return max((line.intersection(opening).length for line in lines), default=0.0)


def membrane(
    centre: Array, low: float, inner: float, opening: shapely.Polygon, process: Process, thickness: float | None = None
) -> Tool:
    """Closes a hole in a ceiling by one layer, or ``thickness`` mm in whole layers, which bridges the whole opening and
    is drilled out later.
    """
    span = min(_strip(opening, centre[:2], 0.0, t) for t in range(0, 180, 15))
    if span > process.rough_bridge:
        raise Impossible(f"A membrane would bridge {span:.1f} mm; bridges end at {process.rough_bridge:.1f} mm.")
    thick = (1 if thickness is None else max(1, layers_of(thickness, process.layer))) * process.layer
    place = np.array([centre[0], centre[1], low], float)
    disc = Manifold.cylinder(thick, inner + OVERLAP, circular_segments=64).translate(place)
    words = (
        f"Close the {2 * inner:.2f} mm hole at its lower end by a membrane {thick:.2f} mm thick; drill it out later."
    )
    return Tool("membrane", words, {"thickness_mm": thick, "span_mm": span}, add=disc,
                used={"thickness_mm": thick}, adds=[cylinder(centre[:2], low, low + thick, inner)])  # fmt: skip
