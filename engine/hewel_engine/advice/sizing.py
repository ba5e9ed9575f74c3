"""Steps that size the solid: which wall, boss, hole, corner or face is meant, and what is done to it."""

from collections.abc import Iterator
from dataclasses import replace
from itertools import count
from math import ceil

import numpy as np

from hewel_engine.advice.featuring import featured
from hewel_engine.advice.hollowing import hollow_tool, usual_wall
from hewel_engine.advice.placed_part import PlacedPart
from hewel_engine.advice.walling import wall_tools, wrong_walls
from hewel_engine.edits.collars import collar
from hewel_engine.edits.columns import Foot, column
from hewel_engine.edits.hollows import Shell, inner, rooms_of
from hewel_engine.edits.marks import DEPTH, mark
from hewel_engine.edits.remedies import FEATURES, FOR_FIT, FOR_STEEL
from hewel_engine.edits.resizing import resized
from hewel_engine.edits.ribs import DOWN, ribs
from hewel_engine.edits.rounding import corners_of, rounded_corner
from hewel_engine.edits.steel import Line, seated
from hewel_engine.edits.tools import Impossible, Tool
from hewel_engine.geometry.features import Bore, Flat, find_flats
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.sections import LayerStack, Pose
from hewel_engine.processes import Process
from hewel_engine.walls.holes import thin_holes, wanted_wall
from hewel_engine.walls.lines import Comb
from hewel_engine.walls.posts import posts_of
from hewel_engine.walls.thickness import Thickness, thickness_of

NEAR = 2.0
"""mm within which a boss, hole or corner is the one that is meant."""
HOLLOW = 0.25
"""Share of a part that lies deeper than a usual wall from which on it could be a shell."""
FLAT = 0.999
"""Cosine from which on two faces look straight away from each other."""
CORNER = 1.0
"""mm: least radius of an internal corner (handbook)."""


def places(mesh: Mesh, stack: LayerStack | None, process: Process, bores: list[Bore], found: Thickness) -> list[dict]:
    """What of a part wants sizing beside its walls, each with its number and its place in the part's own frame: bosses
    that stand on infill, holes with little round them, sharp internal corners, a body that could be a shell. What
    depends on how it stands is told where its ``stack`` of layers is given.
    """
    result = []
    if stack is not None:
        pose = Pose.of(stack)
        standing = pose.standing(mesh)
        for post in posts_of(stack, process, standing.box.mean(axis=0)[:2]):
            result.append({"kind": "boss", "key": "column", "centre_mm": pose.in_part(post.centre).tolist(),
                         "size_mm": post.width, "height_mm": post.height, "share": post.share, "pull_n": post.pull,
                         "weld_n": post.weld})  # fmt: skip
    for hole in thin_holes(found, bores, Comb.of(process)):
        bore = bores[hole.bore]
        result.append({"kind": "bore", "key": "collar", "centre_mm": bore.centre.tolist(), "size_mm": bore.diameter,
                     "wall_mm": hole.wall, "wanted_mm": hole.wanted})  # fmt: skip
    for corner in corners_of(mesh):
        result.append({"kind": "corner", "key": "rounded_corner", "centre_mm": corner.centre.tolist(),
                     "size_mm": corner.length, "turn_deg": corner.turn})  # fmt: skip
    if stack is not None and process.infill < 1:
        result += _body(standing, pose, process)
    return result


def _body(standing: Mesh, pose: Pose, process: Process) -> list[dict]:
    """A part of which much lies deeper than a usual wall; what is in there now by its share of infill, and by how much
    it becomes heavier (roof and ribs left aside) as a shell of that wall, and with as many perimeters round just so
    much infill that the top layers lie on it.
    """
    wall = usual_wall(process)
    try:
        rooms = rooms_of(standing, Shell(wall, wall))
        core = inner(standing, np.full(len(standing.faces), process.shell)).volume()
    except Impossible:
        return []
    inside = sum(room.volume() for room in rooms)
    if inside < HOLLOW * standing.volume:
        return []
    dense = 1e-3 * process.stock.density
    grams, gained = inside * process.infill * dense, (core * (1 - process.infill) - inside) * dense
    centre = pose.in_part(standing.box.mean(axis=0)).tolist()
    result = {"kind": "body", "key": "hollow", "centre_mm": centre, "size_mm": wall}
    result |= {"inside_mm3": inside, "grams": grams, "gained_g": gained}
    share, lines = carrying_infill(process), perimeters_of(wall, process)
    if lines > process.perimeters or share < process.infill:
        result |= {"perimeters": lines, "infill": share, "filled_g": gained + inside * share * dense}
    return [result]


def perimeters_of(wall: float, process: Process) -> int:
    """The fewest perimeters that are ``wall`` mm together."""
    return next(n for n in count(1) if replace(process, perimeters=n).shell >= wall - 1e-9)


def carrying_infill(process: Process) -> float:
    """Least share of infill, in whole percent, that carries the layers on top of it: lines of width w, those of a layer
    in one direction, lie w/φ apart, which the next layer has to bridge clean.
    """
    return ceil(100 * process.inner_width / process.clean_bridge - 1e-9) / 100


def sized(
    placed: PlacedPart, key: str, centre: Array, given: dict[str, float], way: Array | None = None,
    end: Array | None = None,
) -> Iterator[Tool]:  # fmt: skip
    """The ways of doing one step at ``centre`` (3,) over the plate, best first; what is for steel or a fit has an
    axis along ``way`` (3,), a feature the normal of its face there, a key and some features an ``end`` (3,). Raises
    Impossible.
    """
    if key in FOR_STEEL:
        if way is None:
            raise Impossible("It has no axis: say along which direction it goes in.")
        yield seated(placed.solid, key, Line(centre, way), end, given, placed.process)
        return
    if key in FOR_FIT:
        yield resized(placed.mesh, placed.solid, placed.rays, placed.process, key, centre, way, given)
        return
    if key in FEATURES:
        yield featured(placed.mesh, placed.solid, placed.rays, placed.process, key, centre, way, end, given)
        return
    made = {
        "wall": lambda: wall_tools(placed, centre, given.get("thickness_mm")),
        "hollow": lambda: [hollow_tool(placed, given)],
        "column": lambda: [_column(placed, centre, given)],
        "collar": lambda: [_collar(placed, centre, given)],
        "rounded_corner": lambda: [_rounded(placed, centre, given)],
        "ribs": lambda: [_ribs(placed, centre, given)],
        "mark": lambda: _marks(placed, centre, given),
    }[key]()
    yield from made


def wanting(placed: PlacedPart, key: str) -> list[Array]:
    """Where (3,) a part wants a step, over the plate; a hollow, ribs and a mark are only done when asked for."""
    if key == "wall":
        return wrong_walls(placed)
    if key == "column":
        return [p.centre for p in posts_of(placed.stack, placed.process, placed.middle)]
    if key == "collar":
        return [
            placed.bores[h.bore].centre
            for h in thin_holes(thickness_of(placed.mesh), placed.bores, Comb.of(placed.process))
        ]
    if key == "rounded_corner":
        return [c.centre for c in corners_of(placed.mesh)]
    return [placed.mesh.box.mean(axis=0)] if key == "hollow" else []


def _column(placed: PlacedPart, centre: Array, given: dict[str, float]) -> Tool:
    posts = posts_of(placed.stack, placed.process, placed.middle)
    post = _nearest(posts, lambda p: p.centre, centre, "boss over infill", NEAR)
    wall = given.get("wall_mm", Comb.of(placed.process).width(placed.process.perimeters))
    root = given.get("root_mm", max(CORNER, wall / 4))
    foot = Foot(post.plan, post.foot, placed.stack, placed.middle)
    return column(foot, placed.process, wall, root, given.get("aslant_deg"))


def _collar(placed: PlacedPart, centre: Array, given: dict[str, float]) -> Tool:
    bore = _nearest(placed.bores, lambda b: b.centre, centre, "hole", NEAR)
    comb = Comb.of(placed.process)
    thin = thin_holes(thickness_of(placed.mesh), [bore], comb)
    now = thin[0].wall if thin else wanted_wall(bore.diameter, comb)
    return collar(bore, given.get("wall_mm", wanted_wall(bore.diameter, comb)), now)


def _rounded(placed: PlacedPart, centre: Array, given: dict[str, float]) -> Tool:
    corner = _nearest(corners_of(placed.mesh), lambda c: c.centre, centre, "sharp internal corner", NEAR)
    return rounded_corner(placed.mesh, corner, given.get("radius_mm", CORNER))


def _ribs(placed: PlacedPart, centre: Array, given: dict[str, float]) -> Tool:
    flats = find_flats(placed.mesh, 25.0)
    flat = _nearest(flats, lambda f: f.centre, centre, "flat face", max(NEAR, 0.1 * placed.mesh.diagonal))
    if flat.normal[2] < DOWN:
        # A place within the wall means either of its faces, so the one that can carry ribs; on a face, that face.
        within = lambda f: (flat.centre - centre) @ flat.normal > 0.25 * (flat.centre - f.centre) @ flat.normal
        facing = filter(within, _behind(flat, flats))
        flat = min(facing, key=lambda f: np.linalg.norm(f.centre - centre), default=flat)
    comb = Comb.of(placed.process)
    thick = given.get("thickness_mm", comb.width(2))
    height, pitch = given.get("height_mm", 5 * thick), given.get("pitch_mm", 10 * thick)
    made = ribs(placed.mesh, flat, placed.process, thick, height, pitch, given.get("turn_deg", 0.0))
    if given.get("sides_count", 1.0) < 1.5:
        return made
    other = _nearest(_behind(flat, flats), lambda f: f.centre, flat.centre, "face behind it", placed.mesh.diagonal)
    also = ribs(placed.mesh, other, placed.process, thick, height, pitch, given.get("turn_deg", 0.0))
    words = f"{made.words} And the same on the other side."
    return replace(made, add=made.add + also.add, words=words, used=made.used | {"sides_count": 2.0})


UPRIGHT = 0.35
"""|n·b| up to which a mark on a face can be read by whoever looks at the part as it was printed."""


def _marks(placed: PlacedPart, centre: Array, given: dict[str, float]) -> Iterator[Tool]:
    """A mark on the face at ``centre``; elsewhere the faces that it may stand on, the least conspicuous first: upright
    ones, the smallest on which it can be read, then those that look up. Never on one that looks down: it would hang.
    """
    flats = [f for f in find_flats(placed.mesh, 25.0) if f.normal[2] >= -UPRIGHT]
    meant = [f for f in flats if abs((centre - f.centre) @ f.normal) < 0.1 and np.linalg.norm(centre - f.centre) < NEAR]
    number, tall, depth = given.get("revision_count", 1.0), given.get("letters_mm"), given.get("depth_mm", DEPTH)
    no, made = Impossible("No flat face looks sideways or up, so there is no place for a mark."), False
    for flat in meant or sorted(flats, key=lambda f: (f.normal[2] > UPRIGHT, f.area)):
        try:
            tool = mark(placed.mesh, flat, placed.process, number, tall, depth)
        except Impossible as why:
            no = why
            continue
        made = True
        yield tool
    if not made:
        raise no


def _behind(flat: Flat, flats: list[Flat]) -> list[Flat]:
    """The faces that look straight away from ``flat`` on the other side of what it bounds."""
    return [f for f in flats if f.normal @ flat.normal < -FLAT and (flat.centre - f.centre) @ flat.normal > 0]


def _nearest(rows: list, centre_of, centre: Array, named: str, reach: float):
    away = lambda row: float(np.linalg.norm(centre_of(row) - centre))
    nearest = min(rows, key=away, default=None)
    if nearest is None or away(nearest) > reach:
        raise Impossible(f"No {named} is found there any more.")
    return nearest
