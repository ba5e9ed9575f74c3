"""Snaps put on a part: an arm with a catch, the window that it snaps into, a bead and a groove round a pin or in a
bore. Lengths mm, over the plate.
"""

from math import cos, pi, radians, tan

import numpy as np
from manifold3d import CrossSection, FillRule, Manifold

from hewel_engine.edits.fans import OVERLAP
from hewel_engine.edits.sites import INSIDE, Site, free_before, mouth, rooted
from hewel_engine.edits.tools import Impossible, Tool, skin
from hewel_engine.geometry.frames import upright
from hewel_engine.geometry.measures import WHOLE_TURN, Feature
from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.rays import RayScene
from hewel_engine.processes import Process

ARC = 6
"""Flats of a quarter of a fillet."""
TOP = 0.2
"""Of a catch's height: how long it is at its highest, so that it is no knife."""
ROUND = 96
"""Sides of a bead or groove."""


def snap(solid: Manifold, site: Site, given: dict[str, float]) -> Tool:
    """An arm out of a face, with a catch at its tip and fillets at its root. On a face that stands it lies on the plate
    and bends in the plane of its layers; on one that looks up it stands across them. Raises Impossible.
    """
    long, thick, wide = given["length_mm"], given["thickness_mm"], given["width_mm"]
    catch, root, share = given["catch_mm"], given["root_mm"], given["end_share"]
    if site.hangs:
        raise Impossible("The face looks down: an arm there would hang. Point at one that stands.")
    if catch > 2 * thick:
        raise Impossible(f"A catch of {catch:.2f} mm on an arm {thick:.2f} mm thick breaks off: at most twice as high.")
    if not site.stands and abs(site.third[2]) < 0.5:
        raise Impossible("So turned its whole length would hang: turn it by 90°.")
    plan = _snap_plan(long, thick, share, catch, given["in_deg"], given["out_deg"], root)
    low, high = (-wide / 2, wide / 2) if site.stands else site.down_to_plate(wide)
    across = (-thick / 2 - root, thick / 2 + root)
    rooted(solid, site.box((-INSIDE, -OVERLAP), across, (low, high)), "The arm")
    room = catch + thick
    reach = float(plan[:, 0].max())
    clear = site.box((OVERLAP, reach), (-thick / 2 - room, thick / 2 + room), (low, high))
    free_before(solid, clear, "The arm", reach)
    body = site.extruded(plan, low, high)
    words = (
        f"Add an arm {long:.1f} mm long, {thick:.2f} mm thick and {wide:.1f} mm wide, its catch {catch:.2f} mm high "
        f"({given['in_deg']:.0f}° going in, {given['out_deg']:.0f}° coming out), root R {root:.2f} mm."
    )
    numbers = {"length_mm": long, "thickness_mm": thick, "width_mm": wide, "catch_mm": catch, "root_mm": root}
    return Tool("snap", words, numbers, add=body, round_=root > 0)


def _snap_plan(long: float, thick: float, share: float, catch: float, inward: float, outward: float, root: float):
    """(k, 2) the outline along (out, across), anticlockwise; its catch to the side of ``across``."""
    half = thick / 2
    end = share * thick - half  # across, of the back at the catch: it tapers on the side away from it
    steep = lambda degrees: catch / tan(radians(min(degrees, 89.9)))
    up, flat, down = long + steep(outward), TOP * catch, steep(inward)
    tip = up + flat + down
    turns = np.linspace(0, pi / 2, ARC + 1)
    # Quarter of a circle from the face (0, ±(half + root)) to the arm (root, ±half).
    upper = [(root * (1 - np.sin(t)), half + root * (1 - np.cos(t))) for t in turns[::-1]][::-1]
    lower = [(x, -y) for x, y in upper]
    front = [(long, half), (up, half + catch), (up + flat, half + catch), (tip, half)]
    back = [(tip, -end), (long, -end)]
    rows = [(-INSIDE, -half - root), *lower[::-1], *back[::-1], *front[::-1], *upper, (-INSIDE, half + root)]
    return np.array(rows)


def window(solid: Manifold, rays: RayScene, site: Site, process: Process, given: dict[str, float]) -> Tool:
    """An opening in a wall that a catch snaps into; wider than what bridges clean, its ceiling rises to a point. Raises
    Impossible.
    """
    wide, high = given["width_mm"], given["high_mm"]
    start = site.at - 2 * rays.step * site.out
    wall = float(rays.distances(start[None], -site.out[None])[0])
    deep = given.get("deep_mm", wall)
    through = deep > wall - skin(process)
    if not np.isfinite(wall):
        raise Impossible("Nothing lies behind this face.")
    far = wall + 2 * OVERLAP if through else deep
    behind = site.at - (wall + 4 * rays.step) * site.out
    room = float(rays.distances(behind[None], -site.out[None])[0])
    if through and room < far - wall:
        raise Impossible("Another wall stands right behind this one: say how deep the window is.")
    level = not site.stands and not site.hangs
    sideways, upward = (site.across, site.third) if abs(site.third[2]) > 0.5 else (site.third, site.across)
    upward = upward if upward[2] >= 0 else -upward
    frame = np.column_stack([sideways, upward, np.cross(sideways, upward)])
    a, b = wide / 2, high / 2
    outline = [(-a, -b), (a, -b), (a, b), (-a, b)]
    pointed = level and wide > process.clean_bridge
    if pointed:
        outline.insert(3, (0.0, b + a / tan(radians(process.limit))))
    low, top = (-far, OVERLAP) if frame[:, 2] @ site.out > 0 else (-OVERLAP, far)
    plan = CrossSection([np.array(outline)], FillRule.NonZero)
    cut = Manifold.extrude(plan, top - low).translate((0, 0, low)).transform(np.c_[frame, site.at])
    edge = Manifold.extrude(plan.offset(skin(process)), 2 * INSIDE)
    edge = edge.translate((0, 0, -INSIDE)).transform(np.c_[frame, site.at - 1.5 * INSIDE * site.out]) - cut
    if (edge ^ solid).volume() < 0.98 * edge.volume():
        raise Impossible(f"Less than {skin(process):.2f} mm of wall would be left beside it.")
    words = (
        f"Cut a window {wide:.2f} mm wide and {high:.2f} mm high, {'through' if through else f'{deep:.2f} mm deep'}."
    )
    if pointed:
        words += f" Its ceiling rises to a point: {wide:.1f} mm do not bridge clean."
    numbers = {"width_mm": wide, "high_mm": high, "deep_mm": min(deep, wall)}
    return Tool("window", words, numbers, remove=cut)


# ------------------------------------------------------------------ round


def ring(
    solid: Manifold, rays: RayScene, found: Feature, at: float, process: Process, key: str, given: dict[str, float]
) -> Tool:
    """A bead (out of a pin, into a bore) or a groove (into a pin, out of a bore) round a round face, ``at`` mm along
    its axis from its middle. Raises Impossible.
    """
    if found.turn < WHOLE_TURN:
        raise Impossible(f"The {found.kind} ⌀ {found.size:.2f} mm goes only {found.turn:.0f}° round.")
    half_under, gap = given["undercut_mm"] / 2, given.get("gap_mm", 0.0)
    radius, bore = found.size / 2, found.kind == "bore"
    out = (key == "bead") != bore  # away from the axis
    rise = half_under + gap
    if rise > 0.2 * radius:
        raise Impossible(f"{2 * half_under:.2f} mm on ⌀ {2 * radius:.1f} mm is no snap any more: at most a tenth.")
    slopes = [rise / tan(radians(min(given[k], 89.0))) for k in ("in_deg", "out_deg")]
    flat = TOP * half_under + 2 * gap
    whole = slopes[0] + flat + slopes[1]
    half = float(found.lengths[0]) / 2
    if abs(at) + whole / 2 > half:
        raise Impossible(f"It is {whole:.1f} mm long along the axis: point at least so far from the rim.")
    sides = int(found.sides[0])
    inner = radius * cos(pi / max(sides, 3)) if sides else radius
    sign = 1.0 if out else -1.0
    # On the other side of every flat and every corner of the face that it goes out of.
    foot = inner - OVERLAP if out else radius + OVERLAP
    crest = radius + sign * rise
    # The slope going in lies towards the mouth.
    near = 1.0 if mouth(rays, found, at)[0] @ found.axis > 0 else -1.0
    rows = [(0.0, foot), (0.0, radius), (slopes[0], crest), (slopes[0] + flat, crest), (whole, radius), (whole, foot)]
    outline = np.array([[r, at + near * (whole / 2 - x)] for x, r in rows])
    body = _revolved(outline, found)
    named = f"{'bore' if bore else 'pin'} ⌀ {2 * radius:.2f} mm"
    numbers = {"undercut_mm": 2 * half_under, "diameter_mm": 2 * radius, "along_mm": whole}
    if key == "groove":
        if not out and radius - rise < 2 * process.width:
            raise Impossible("Too little of the pin would be left.")
        behind = _revolved(outline + np.array([sign * skin(process), 0.0]), found) - body
        if (behind ^ solid).volume() < 0.9 * behind.volume():
            raise Impossible(f"Less than {skin(process):.2f} mm of wall would be left behind it.")
        words = f"Groove in the {named}: {2 * rise:.2f} mm on diameter, {whole:.1f} mm along it."
        return Tool(key, words, numbers, remove=body, round_=True)
    words = f"Bead on the {named}: {2 * half_under:.2f} mm on diameter, {whole:.1f} mm along it."
    return Tool(key, words, numbers, add=body, round_=True)


def _revolved(outline: Array, found: Feature) -> Manifold:
    """An outline (k, 2), mm from the axis and along it, turned round the axis of a round face."""
    body = Manifold.revolve(CrossSection([outline], FillRule.NonZero), ROUND)
    return body.transform(np.c_[upright(found.axis).T, found.places[0]])
