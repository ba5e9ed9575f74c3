"""Bores, pins, flats and corners drawn a little larger or smaller than they are. Lengths mm, over the plate.

What is cut or added keeps the facets of what is there: a bore of eight flats stays one, its corners where they were.
"""

from math import cos, pi

import numpy as np
from manifold3d import CrossSection, FillRule, Manifold

from hewel_engine.edits.bending import cured
from hewel_engine.edits.exact import Cone
from hewel_engine.edits.fans import OVERLAP
from hewel_engine.edits.rounding import corners_of
from hewel_engine.edits.solids import bodies, dusted
from hewel_engine.edits.steel import Line, walled
from hewel_engine.edits.tools import Impossible, Tool, skin
from hewel_engine.geometry.frames import upright
from hewel_engine.geometry.measures import WHOLE_TURN, Feature, feature_of, flat_at
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.patches import find_faces
from hewel_engine.geometry.rays import RayScene
from hewel_engine.processes import Process

NEAR = 0.5
"""mm within which a round face is the one that is meant."""
MOST = 0.25
"""Share of a diameter by which it may be drawn larger or smaller: more is another part."""
MOST_SHIFT = 5.0
SQUARE = 0.02
"""mm within which the rim of a round face is level with its axis."""
PAST = 0.005
"""mm by which a ring that is cut away reaches past the face that it takes away."""


def resized(
    mesh: Mesh, solid: Manifold, rays: RayScene, process: Process, key: str, centre: Array, way: Array | None,
    given: dict[str, float],
) -> Tool:  # fmt: skip
    """One step of a fit. ``key``: resized_bore, resized_pin (to ``to_mm`` across their vertices), shifted_flat (by
    ``by_mm`` outward), relieved_corner (``radius_mm``), or a cure of an arm. Raises Impossible.
    """
    if key == "relieved_corner":
        return _relieved(mesh, centre, given.get("radius_mm", process.width))
    if way is None:
        raise Impossible("It has no axis: say along which direction it looks.")
    if key in ("lengthened_arm", "rounded_root"):
        return cured(mesh, solid, rays, key, centre, way, given)
    if key == "shifted_flat":
        if "by_mm" not in given:
            raise Impossible("By how much it moves is not said.")
        return _shifted(mesh, solid, centre, way, given["by_mm"], process)
    if "to_mm" not in given:
        raise Impossible("To which diameter is not said.")
    return _round(mesh, solid, rays, process, key, centre, way, given["to_mm"])


# ------------------------------------------------------------------ round faces


def _meant(mesh: Mesh, rays: RayScene, key: str, centre: Array, way: Array) -> tuple[Feature, np.ndarray]:
    """The round face whose middle is at ``centre``, with its facets."""
    kind = key.removeprefix("resized_")
    faces = find_faces(mesh)
    beside = mesh.centroids - centre
    along = beside @ way
    off = beside - along[:, None] * way
    radial = np.abs(mesh.normals @ way) < 0.05
    tried = set()
    for facet in np.flatnonzero(radial)[np.argsort(np.linalg.norm(off[radial], axis=1), kind="stable")]:
        label = int(faces.face[facet])
        if label in tried:
            continue
        tried.add(label)
        facets = faces.around(int(facet))
        found = feature_of(mesh, rays, facets)
        if found.kind == kind and len(found.places) == 1 and np.linalg.norm(found.places[0] - centre) < NEAR:
            return found, facets
    raise Impossible(f"No {kind} is found there any more.")


def _round(
    mesh: Mesh, solid: Manifold, rays: RayScene, process: Process, key: str, centre: Array, way: Array, to: float
) -> Tool:
    found, facets = _meant(mesh, rays, key, centre, way)
    now, bore = found.size, found.kind == "bore"
    named = f"{'bore' if bore else 'pin'} ⌀ {now:.2f} mm"
    if abs(to - now) > MOST * now:
        raise Impossible(f"The {named} drawn ⌀ {to:.2f} mm would be another part: at most a quarter is changed.")
    if found.turn < WHOLE_TURN:
        raise Impossible(f"The {named} goes only {found.turn:.0f}° round: change it in the model.")
    line = Line(found.places[0], found.axis)
    half = float(found.lengths[0]) / 2
    plan = _outline(mesh, facets, line)
    old = lambda more: _scaled(plan, 1.0, more)
    new = _scaled(plan, to / now)
    place = upright(found.axis).T
    body = lambda plan, low, high: Manifold.extrude(plan, high - low).transform(np.c_[place, line.at(low)])
    exactly = lambda low, high: [Cone(line.at(low), found.axis, (to / 2, to / 2), high - low)]
    words = f"Draw the {named} with ⌀ {to:.2f} mm."
    numbers, used = {"from_mm": now, "to_mm": to}, {"to_mm": to}
    if bore and to > now:
        _keeps_wall(solid, line, half, now, to, process, named)
        low, high = -_past(rays, line, half, now, -1.0), _past(rays, line, half, now, 1.0)
        return Tool(key, words, numbers, remove=body(new, low, high), used=used, removes=exactly(low, high))
    if not bore and to < now:  # a ring, which no one cylinder is on an exact solid
        return Tool(key, words, numbers, remove=body(old(PAST) - new, -half, half), used=used, round_=True)
    _square_rim(mesh, facets, line, half, named)
    if bore:
        return Tool(key, words, numbers, add=body(old(PAST) - new, -half, half), used=used, round_=True)
    return Tool(key, words, numbers, add=body(new - old(-PAST), -half, half), used=used, adds=exactly(-half, half))


def _outline(mesh: Mesh, facets: np.ndarray, line: Line) -> Array:
    """(k, 2) the corners of a round face seen along its axis, anticlockwise."""
    off = (mesh.vertices[np.unique(mesh.faces[facets])] - line.point) @ upright(line.way).T
    angle = np.arctan2(off[:, 1], off[:, 0])
    order = np.argsort(angle)
    plan = off[order, :2]
    new = np.r_[True, np.diff(angle[order]) > 1e-4]
    return plan[new]


def _scaled(plan: Array, share: float, more: float = 0.0) -> CrossSection:
    radius = np.linalg.norm(plan, axis=1, keepdims=True)
    return CrossSection([plan * (share + more / radius)], FillRule.NonZero)


def _square_rim(mesh: Mesh, facets: np.ndarray, line: Line, half: float, named: str) -> None:
    """Raises Impossible where a round face does not end level: a ring would stand out of the part there."""
    inside = np.zeros(len(mesh.faces), bool)
    inside[facets] = True
    shared = mesh.edges.shared
    rim = shared[inside[shared].sum(axis=1) == 1]
    mine = np.where(inside[rim[:, 0]], rim[:, 0], rim[:, 1])
    other = np.where(inside[rim[:, 0]], rim[:, 1], rim[:, 0])
    ends = [np.intersect1d(mesh.faces[a], mesh.faces[b]) for a, b in zip(mine, other, strict=True)]
    along = np.abs((mesh.vertices[np.unique(np.concatenate(ends))] - line.point) @ line.way)
    if len(along) and np.abs(along - half).max() > SQUARE:
        raise Impossible(f"The {named} does not end square to its axis: make it smaller in the model.")


def _past(rays: RayScene, line: Line, half: float, now: float, side: float) -> float:
    """mm from the middle to where a cut ends: a little past an open end, at the floor of a blind one."""
    start = line.at(side * (half - 2 * rays.step)) + 0.3 * now * line.frame[:, 0]
    free = float(rays.distances(start[None], side * line.way[None])[0])
    return half + (OVERLAP if free > 2 * OVERLAP else 0.0)


def _keeps_wall(solid: Manifold, line: Line, half: float, now: float, to: float, process: Process, named: str) -> None:
    """Raises Impossible where a wider bore would leave less than a skin beside it that was there before."""
    least = skin(process)
    if walled(solid, line, -half, half, now, 0, least) and not walled(solid, line, -half, half, to, 0, least):
        raise Impossible(f"Less than {least:.2f} mm of wall would be left round the {named}.")


# ------------------------------------------------------------------ flats and corners


def _shifted(mesh: Mesh, solid: Manifold, centre: Array, way: Array, by: float, process: Process) -> Tool:
    """The flat at ``centre`` moved outward along its normal ``way``; inward where ``by`` is below 0."""
    if abs(by) > MOST_SHIFT:
        raise Impossible(f"A flat moved by {by:.2f} mm would be another part: at most {MOST_SHIFT:.0f} mm.")
    facets = flat_at(mesh, centre, way)
    if len(facets) == 0:
        raise Impossible("No flat is found there any more.")
    frame = upright(way)
    plan = CrossSection([*(mesh.triangles[facets] @ frame[:2].T)], FillRule.NonZero)
    level = float(mesh.vertices[mesh.faces[facets[0], 0]] @ way)
    low, high = (level - PAST, level + by) if by > 0 else (level + by, level + PAST)
    slab = Manifold.extrude(plan, high - low).transform(np.c_[frame.T, low * way])
    if by < 0:
        if bodies(dusted(solid - slab)) > bodies(solid):
            raise Impossible("It would come off.")
        thin = Manifold.extrude(plan.offset(-0.1), skin(process)).transform(np.c_[frame.T, (low - skin(process)) * way])
        if thin.volume() > 0 and (thin ^ solid).volume() < 0.98 * thin.volume():
            raise Impossible(f"Less than {skin(process):.2f} mm would be left behind the flat.")
    words = f"Move the flat {'outward' if by > 0 else 'inward'} by {abs(by):.2f} mm."
    tool = {"add": slab} if by > 0 else {"remove": slab}
    return Tool("shifted_flat", words, {"by_mm": by}, **tool, used={"by_mm": by})


def _relieved(mesh: Mesh, centre: Array, radius: float) -> Tool:
    """A round groove along an inside corner, centred on its edge, so that a sharp mate seats (handbook 10)."""
    near = [c for c in corners_of(mesh) if np.linalg.norm(c.centre - centre) < 2.0]
    if not near:
        raise Impossible("No sharp inside corner is found there any more.")
    corner = min(near, key=lambda c: float(np.linalg.norm(c.centre - centre)))
    ends = mesh.vertices[corner.ends]
    way = ends[0, 1] - ends[0, 0]
    way = way / np.linalg.norm(way)
    off = np.cross(ends.reshape(-1, 3) - corner.centre, way)
    if np.linalg.norm(off, axis=1).max() > SQUARE:
        raise Impossible("The corner is no straight line: give the mate a fillet instead.")
    along = (ends.reshape(-1, 3) - corner.centre) @ way
    low, high = float(along.min()) - PAST, float(along.max()) + PAST
    line = Line(corner.centre, way)
    words = (
        f"Relieve the inside corner with a groove of radius {radius:.2f} mm along its edge, {high - low:.1f} mm long."
    )
    groove = line.prism(low, high, 2 * radius * cos(pi / 64))
    numbers = {"radius_mm": radius, "length_mm": high - low}
    exact = Cone(line.at(low), way, (radius, radius), high - low)
    return Tool("relieved_corner", words, numbers, remove=groove, used={"radius_mm": radius}, removes=[exact])
