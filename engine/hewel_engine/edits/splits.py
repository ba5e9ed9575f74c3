"""Cutting a solid on a plane, with sockets in both halves and pegs between them. Lengths mm.

Everything is done in the frame of the cut: its plane at z = 0, z along the normal.
"""

import itertools
from dataclasses import dataclass, field

import numpy as np
import shapely
from manifold3d import Manifold

from hewel_engine.edits.exact import Edit, Made, Shape, box_beyond, cylinder, flats_of
from hewel_engine.edits.fans import OVERLAP, slope
from hewel_engine.edits.solids import prism
from hewel_engine.edits.tools import Impossible
from hewel_engine.geometry.frames import upright
from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.plans import as_polygons, enclosing, loops_of
from hewel_engine.processes import Process

END_GAP = 0.5
"""mm by which a socket is deeper than its peg reaches."""
LEAST_ENGAGEMENT = 2.0
"""mm that a peg reaches into a half at least."""
LEAST_PEG = 3.0
"""mm across: thinner pegs are lost, or break when the halves are put together."""
SMALLER = 0.75
"""Of the first peg's diameter, the others have this share: the halves then go together one way only."""
MOUTH = 0.4
"""mm of chamfer at a socket's mouth and a peg's ends, against the first layer's bulge."""
HAIR = 0.01
"""mm by which an exact boss is thinner, so that it stays within a shell that it lies against."""
SIDES = 48
SAMPLES = 9
"""Heights at which it is looked whether a socket's wall stays inside the part."""


@dataclass(frozen=True)
class Seat:
    """Where a peg sits: ``place`` (3,) on the cut in the frame asked from, ``diameter`` of its socket, how deep the
    socket is in each half, its least wall; all mm.
    """

    place: Array
    diameter: float
    peg: float
    depth: float
    wall: float

    def as_dict(self) -> dict:
        return {
            "place_mm": self.place.tolist(),
            "diameter_mm": self.diameter,
            "peg_mm": self.peg,
            "depth_mm": self.depth,
            "wall_mm": self.wall,
        }


@dataclass(frozen=True, eq=False)
class Split:
    """``below`` and ``above`` the plane, and loose ``pegs`` where they lie when put together."""

    below: Manifold
    above: Manifold
    pegs: list[Manifold]
    seats: list[Seat]
    made: list[Made]
    """How below, above and the pegs are made exactly."""
    warnings: list[str] = field(default_factory=list)


@dataclass(frozen=True)
class Joint:
    """What a person may set of pegs and sockets; None where it follows from the section. Lengths mm."""

    clearance: float
    """Per side, by the fit."""
    count: int = 2
    diameter: float | None = None
    """Of the first socket."""
    engagement: float | None = None
    end_gap: float = END_GAP
    places: tuple[tuple[float, float, float], ...] = ()
    """Points on the cut; none: where they hold best."""


def split(solid: Manifold, point: Array, normal: Array, process: Process, joint: Joint) -> Split:
    """Two halves with sockets and the pegs between them. In a shell the sockets stand in bosses against its inner
    wall, with walls as thick as the shell and a foot that leans by the limit, so that either half may be printed on the
    cut or away from it. Raises Impossible where the plane misses the part.
    """
    turn = upright(normal)
    point = np.asarray(point, float)
    back = turn.T, point
    body = solid.transform(np.c_[turn, -turn @ point])
    section = as_polygons(body.slice(0.0))
    below, above = _Half.of(body, -1.0), _Half.of(body, 1.0)
    if section.area < 1e-6 or below.solid.is_empty() or above.solid.is_empty():
        low, high = body.bounding_box()[2::3]
        raise Impossible(f"The plane misses the part, which reaches from {low:.1f} to {high:.1f} mm along its normal.")
    if joint.count == 0:
        return _put_together(below, above, [], [], ["There are no pegs: align the halves."], back)
    in_shell = _longest(section.buffer(-(LEAST_PEG / 2 + _outer_lines(process)))) < 2 * LEAST_PEG
    wall = 2 * section.area / section.length if in_shell else _outer_lines(process)
    given = (np.array(joint.places, float).reshape(-1, 3) - point) @ turn.T
    for first in [joint.diameter] if joint.diameter else _sizes(section, wall, in_shell):
        engagement = joint.engagement or max(LEAST_ENGAGEMENT, first)
        depth = engagement + joint.end_gap
        reach = depth + (wall if in_shell else 0.0)
        look = _against_the_wall if in_shell else _inside
        centres = given[:, :2] if len(given) else _far_apart(look(body, section, first / 2, wall, reach), joint.count)
        if len(centres) >= joint.count:
            break
    diameters = [first] + [max(SMALLER * first, first - 2.0)] * (joint.count - 1)
    warnings = _warned(joint, centres, engagement, process)
    seats, pegs = [], []
    room = _filled(body, reach) if in_shell and len(centres) else ()
    for centre, across in zip(centres, diameters, strict=False):
        radius = across / 2
        if in_shell:
            post, foot = _boss(section, centre, radius, wall, reach, process)
            outer = radius + wall - HAIR
            for half, side, space in ((below, -1.0, room[0]), (above, 1.0, room[1])):
                turned = [s if side > 0 else s.mirror((0, 0, 1)) for s in (post, foot)]
                whole = [(s ^ space).trim_by_plane((0, 0, side), 0.0) for s in turned]
                low, high = sorted((0.0, side * reach))
                exactly = cylinder(centre, low, high, outer)
                half.gain(whole[0] + whole[1], [exactly, *flats_of(whole[1])])
        socket, wide = _socket(radius, depth).translate((*centre, 0.0)), radius + MOUTH + OVERLAP
        below.lose(socket, [cylinder(centre, -depth, OVERLAP, radius), cylinder(centre, -MOUTH, OVERLAP, radius, wide)])
        above.lose(socket, [cylinder(centre, -OVERLAP, depth, radius), cylinder(centre, -OVERLAP, MOUTH, wide, radius)])
        stays = _wall_left(section, centre, radius, wall if in_shell else 0.0)
        if stays < wall - 0.05:
            warnings.append(f"The wall beside a socket is {stays:.2f} mm; {wall:.2f} mm are wanted.")
        pegs.append(_peg(centre, radius - joint.clearance, engagement))
        place = turn.T @ np.array([*centre, 0.0]) + point
        seats.append(Seat(place, across, across - 2 * joint.clearance, depth, stays))
    return _put_together(below, above, pegs, seats, warnings, back)


Place = tuple[Array, Array]
"""Turn (3, 3) and shift (3,) from the frame of the cut into the one asked from."""


@dataclass
class _Half:
    """One side of the cut while it is worked on, and what was done to it."""

    solid: Manifold
    edits: list[Edit]

    @classmethod
    def of(cls, body: Manifold, side: float) -> "_Half":
        solid = body.trim_by_plane((0, 0, side), 0.0)
        kept = flats_of(box_beyond(body, side))
        return cls(solid, [Edit("cut", solid.volume() - body.volume(), keeps=kept)])

    def gain(self, boss: Manifold, exactly: list[Shape]) -> None:
        self._now(self.solid + boss, "wall of a socket", adds=exactly)

    def lose(self, socket: Manifold, exactly: list[Shape]) -> None:
        self._now(self.solid - socket, "socket", removes=exactly)

    def _now(self, solid: Manifold, name: str, **what: list[Shape]) -> None:
        self.edits.append(Edit(name, solid.volume() - self.solid.volume(), **what))
        self.solid = solid


Peg = tuple[Manifold, list[Shape]]


def _put_together(
    below: _Half, above: _Half, pegs: list[Peg], seats: list[Seat], warnings: list[str], back: Place
) -> Split:
    placed = lambda solid: solid.transform(np.c_[back])
    made = [Made([e.placed(*back) for e in half.edits]) for half in (below, above)]
    made += [Made([Edit("peg", p.volume(), adds=shapes).placed(*back)], of_part=False) for p, shapes in pegs]
    return Split(placed(below.solid), placed(above.solid), [placed(p) for p, _ in pegs], seats, made, warnings)


def _outer_lines(process: Process) -> float:
    """mm of wall round a socket in solid material: what its own perimeters take."""
    return max(process.shell, 1.2)


def _sizes(section: shapely.Geometry, wall: float, in_shell: bool) -> list[float]:
    """Diameters (mm) to be tried for the first socket, the one that suits the section first."""
    parts = getattr(section, "geoms", [section])
    thickest = 2 * max(shapely.length(shapely.maximum_inscribed_circle(p)) for p in parts)
    best = float(np.clip(wall, LEAST_PEG, 6.0) if in_shell else np.clip(0.4 * thickest, LEAST_PEG, 10.0))
    return [*(best * share for share in (1.0, 0.8, 0.6, 0.5) if best * share > LEAST_PEG), LEAST_PEG]


def _longest(shape: shapely.Geometry) -> float:
    box = np.array(shape.bounds)
    return 0.0 if shape.is_empty else float(np.hypot(*(box[2:] - box[:2])))


def _inside(body: Manifold, section: shapely.Geometry, radius: float, wall: float, reach: float) -> Array:
    """(n, 2) middles of sockets of a solid section with their wall round them, ``reach`` mm to either side."""
    room = section
    for height in np.linspace(-reach, reach, SAMPLES):
        room = room.intersection(as_polygons(body.slice(height)))
    return _spread(room.buffer(-radius - wall))


def _against_the_wall(body: Manifold, section: shapely.Geometry, radius: float, wall: float, reach: float) -> Array:
    """(n, 2) middles of sockets that stand inside a shell, at its inner wall, their own wall inside the part."""
    room = enclosing(section)
    for height in np.linspace(-reach, reach, SAMPLES):
        room = room.intersection(enclosing(as_polygons(body.slice(height))))
    room = room.buffer(-(radius + wall) + 1e-3 * wall)
    holes = [shapely.Polygon(hole) for part in getattr(section, "geoms", [section]) for hole in part.interiors]
    for inward in (0.0, 0.25, 0.5, 0.75):  # further in where the shell leans over the boss
        spots = [np.zeros((0, 2))]
        for hole in holes:
            line = hole.buffer(-radius - inward * wall).boundary
            if line.length > 0:
                at = shapely.line_interpolate_point(line, np.linspace(0, 1, 72, endpoint=False), normalized=True)
                spots.append(shapely.get_coordinates(at[shapely.intersects(room, at)]))
        if sum(map(len, spots)) > 1:
            break
    return np.concatenate(spots)


def _spread(room: shapely.Geometry) -> Array:
    if room.is_empty:
        return np.zeros((0, 2))
    x0, y0, x1, y1 = room.bounds
    x, y = np.meshgrid(np.linspace(x0, x1, 24), np.linspace(y0, y1, 24))
    grid = np.c_[x.ravel(), y.ravel()]
    rim = shapely.get_coordinates(room.boundary)
    return np.concatenate([rim, grid[shapely.intersects_xy(room, grid)]])


def _far_apart(spots: Array, count: int) -> Array:
    """Up to ``count`` of the points (n, 2), the farthest pair first, then each as far from the others as can be."""
    if len(spots) < 2:
        return spots[:count]
    middle = spots.mean(axis=0)
    start = spots[np.lexsort((spots[:, 1], spots[:, 0], -np.round(np.linalg.norm(spots - middle, axis=1), 6)))[0]]
    chosen = [start]
    while len(chosen) < count:
        away = np.min([np.linalg.norm(spots - c, axis=1) for c in chosen], axis=0)
        if away.max() < LEAST_PEG:
            break
        chosen.append(spots[int(np.round(away, 6).argmax())])
    return np.array(chosen)


def _warned(joint: Joint, centres: Array, engagement: float, process: Process) -> list[str]:
    warnings = []
    if len(centres) < joint.count:
        warnings.append(f"There is room for {len(centres)} of {joint.count} pegs on this cut.")
    if len(centres) < 2:
        warnings.append("With fewer than two pegs the halves can turn on each other: align them, or cut elsewhere.")
    if engagement < LEAST_ENGAGEMENT:
        warnings.append(f"A peg reaches {engagement:.2f} mm into a half; {LEAST_ENGAGEMENT:.0f} mm are the least.")
    if joint.clearance <= 0:
        warnings.append("Without clearance the pegs must be pressed in or eased by hand.")
    return warnings


def _filled(body: Manifold, reach: float) -> tuple[Manifold, Manifold]:
    """Everything that the part encloses within ``reach`` mm below and above the cut, in steps: a boss stays in it."""
    sides = []
    heights = np.linspace(0, 2.5 * reach, 2 * SAMPLES)
    plan_at = lambda height: enclosing(as_polygons(body.slice(float(height))))
    for sign in (-1.0, 1.0):
        slabs = Manifold()
        for near, far in itertools.pairwise(sign * heights):
            plan = plan_at(near + sign * 1e-3).intersection(plan_at(far))
            if loops_of(plan):
                slabs += prism(plan, min(near, far) - 1e-3, max(near, far))
        sides.append(slabs)
    return sides[0], sides[1]


def _boss(
    section: shapely.Geometry, centre: Array, radius: float, wall: float, reach: float, process: Process
) -> tuple[Manifold, Manifold]:
    """A socket's wall above the cut, and its foot, which leans from the shell at the limit."""
    outer = radius + wall
    post = Manifold.cylinder(reach + OVERLAP, outer, circular_segments=SIDES).translate((*centre, -OVERLAP))
    rim = min(
        (shapely.LinearRing(hole) for p in getattr(section, "geoms", [section]) for hole in p.interiors),
        key=lambda ring: ring.distance(shapely.Point(centre)),
        default=None,
    )
    if rim is None:
        return post, Manifold()
    near = np.array(rim.interpolate(rim.project(shapely.Point(centre))).coords[0])
    away = near - centre
    size = float(np.linalg.norm(away))
    tip = near + away / max(size, 1e-9) * wall / 2
    lean = slope(process.limit)
    far = outer + float(np.linalg.norm(tip - centre))
    ring = np.array([[np.cos(t), np.sin(t)] for t in 2 * np.pi * np.arange(SIDES) / SIDES])
    ring = ring * (outer - HAIR) + centre
    foot = np.concatenate([np.c_[ring, np.full(SIDES, reach)], [[*tip, reach + far / lean]]])
    return post, Manifold.hull_points(np.concatenate([foot, np.c_[ring, np.full(SIDES, reach - OVERLAP)]]))


def _socket(radius: float, depth: float) -> Manifold:
    """The room for a peg on both sides of the cut, with chamfered mouths."""
    bore = Manifold.cylinder(2 * depth, radius, circular_segments=SIDES, center=True)
    mouth = Manifold.cylinder(MOUTH, radius + MOUTH, radius, SIDES)
    return bore + mouth + mouth.mirror((0, 0, 1))


def _peg(centre: Array, radius: float, engagement: float) -> Peg:
    """A loose peg, its ends chamfered so that it finds its socket; as triangles and exactly."""
    cut = min(MOUTH, radius / 2, engagement / 4)
    body, end = engagement - cut, radius - cut
    half = Manifold.cylinder(body, radius, circular_segments=SIDES)
    half += Manifold.cylinder(cut, radius, end, SIDES).translate((0, 0, body))
    exactly = [
        cylinder(centre, -body, body, radius),
        cylinder(centre, body, engagement, radius, end),
        cylinder(centre, -engagement, -body, end, radius),
    ]
    return (half + half.mirror((0, 0, 1))).translate((*centre, 0.0)), exactly


def _wall_left(section: shapely.Geometry, centre: Array, radius: float, boss: float) -> float:
    """mm of material round a socket on the cut, the boss counted in."""
    whole = section.union(shapely.Point(centre).buffer(radius + boss, quad_segs=32)) if boss else section
    spot = shapely.Point(centre)
    if not whole.contains(spot):
        return 0.0
    return float(whole.boundary.distance(spot)) - radius
