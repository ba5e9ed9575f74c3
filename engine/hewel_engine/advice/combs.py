"""Where thin walls go under a hanging surface so that what is left between them bridges: lines in plan. Lengths mm.

Two ways are tried, and both together: spokes from the free edge to the nearest edge that is held, and lines side by
side. The fewest mm of wall after which every strip between them bridges win.
"""

import itertools
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from math import ceil

import numpy as np
import shapely
import shapely.affinity
import shapely.ops
from manifold3d import CrossSection

from hewel_engine.edits.undersides import Underside
from hewel_engine.geometry.plans import loops_of, polygons_of, wall_on
from hewel_engine.overhangs.extents import bridge_span, ledge_reach, rim_of
from hewel_engine.processes import Process

CORNER = 25.0
"""Degrees by which a free edge turns at a corner, which gets a spoke of its own."""
CLOSER = (1.0, 0.7, 0.5)
"""Shares of the allowed bridge at which lines stand apart, tried in turn: on a curved edge less of it bridges."""
BESIDE = 0.05
"""mm within which an edge is held or a line touches it."""
ALIKE = 0.01
"""mm by which a plan is made simpler before lines are laid under it."""
SAYS_NOTHING = 0.05
"""mm²: a strip of less needs nothing."""
LEFT = 0.5
"""Share of a surface that a comb may leave hanging and still be worth making; what is left is looked at again."""
ASIDE = (0.0, 0.2, -0.2, 0.4, -0.4, 0.6, -0.6)
"""Shares of the pitch by which a spoke moves out of the way of what is barred."""
HOLE = 14.0
"""mm of diameter up to which a hole in a surface is one for a screw."""
STEEP = 40
"""Lines past which a comb is a block of its own."""

Lines = list[shapely.LineString]


@dataclass(frozen=True, eq=False)
class Comb:
    """A surface's ``plan``, the edges that hold it, and what no line may cross (``barred``). ``thick`` mm of a wall,
    ``neck`` mm of it that carries, ``allowed`` mm of bridge. ``rooted``: every line must begin at a held edge.
    """

    plan: shapely.Geometry
    held: shapely.Geometry
    barred: shapely.Geometry
    process: Process
    allowed: float
    thick: float
    neck: float
    rooted: bool

    @classmethod
    def under(
        cls, under: Underside, barred: shapely.Geometry, process: Process, allowed: float, thick: float, neck: float,
        rooted: bool,
    ) -> "Comb":  # fmt: skip
        held = shapely.union_all([shapely.LineString(s[:, :2]) for s in under.held])
        return cls(_without_holes(under.plan.simplify(ALIKE)), held, barred, process, allowed, thick, neck, rooted)

    def lines(self) -> Lines | None:
        """The fewest mm of lines after which all of the surface bridges; else those that leave least of it, where that
        is less than LEFT of it; None where none of the ways does so much.
        """
        ways = sorted((w for w in self._ways() if 0 < len(w) <= STEEP), key=lambda w: sum(line.length for line in w))
        best, least = None, LEFT * self.plan.area
        for way in ways:
            left = self.hanging(way, least)
            if left < least:
                best, least = way, left
            if left == 0:
                break
        return best

    def hanging(self, lines: Lines, most: float = np.inf) -> float:
        """mm² of the strips between walls on ``lines`` that neither bridge nor hold themselves; from ``most`` on it is
        not looked at closer.
        """
        walls = shapely.union_all([wall_on(line, self.neck) for line in lines])
        hold = _section(shapely.union_all([self.held.buffer(BESIDE), walls]))
        strips = [strip for strip in polygons_of(self.plan.difference(walls)) if strip.area > SAYS_NOTHING]
        left = 0.0
        for strip in sorted(strips, key=lambda p: -p.area):
            left += 0.0 if self._holds(strip, hold) else strip.area
            if left >= most:
                break
        return left

    def _holds(self, strip: shapely.Polygon, hold: CrossSection) -> bool:
        out = self.process.held_out
        if strip.buffer(-out / 2).is_empty:
            return True
        rim = rim_of(_section(strip), hold)
        span = bridge_span(rim, self.process.width)
        return span <= self.allowed if span is not None else ledge_reach(rim) <= out

    def _ways(self) -> Iterator[Lines]:
        leans = self._leans()
        for share in CLOSER:
            pitch = share * self.allowed
            spokes = self._spokes(pitch)
            yield spokes
            for lean in leans:
                for ends in (False, True):
                    beside = self._beside(lean, pitch, ends)
                    yield beside
                    if spokes and not ends:
                        yield spokes + [line for line in beside if not _along(line, spokes, self.thick)]

    def _leans(self) -> list[float]:
        """Degrees of lines side by side: along and across the least rectangle round the plan, and between."""
        box = shapely.minimum_rotated_rectangle(self.plan)
        if box.geom_type != "Polygon":
            return [0.0, 90.0]
        a, b = np.array(box.exterior.coords)[:2]
        first = float(np.degrees(np.arctan2(*(b - a)[::-1])))
        return [first + turn for turn in (0.0, 90.0, 45.0, 135.0)]

    def _beside(self, lean: float, pitch: float, ends: bool) -> Lines:
        """Lines side by side, ``pitch`` mm apart at most; with ``ends`` along both sides of the plan as well."""
        flat = shapely.affinity.rotate(self.plan, -lean, origin=(0, 0))
        x0, y0, x1, y1 = flat.bounds
        if ends:
            room = y1 - y0 - self.thick
            at = np.linspace(y0 + self.thick / 2, y1 - self.thick / 2, max(ceil(room / (pitch + self.neck)), 1) + 1)
        else:
            at = np.linspace(y0, y1, max(ceil((y1 - y0) / (pitch + self.neck)), 2) + 1)[1:-1]
        out: Lines = []
        for y in at[: STEEP + 1]:
            line = shapely.affinity.rotate(shapely.LineString([(x0 - 1, y), (x1 + 1, y)]), lean, origin=(0, 0))
            out += self._allowed_part(line)
        return out

    def _allowed_part(self, line: shapely.LineString) -> Lines:
        inside = line.intersection(self._room)
        parts = [p for p in getattr(inside, "geoms", [inside]) if p.geom_type == "LineString" and p.length > self.thick]
        return [p for p in parts if not self.rooted or p.distance(self.held) < 2 * BESIDE]

    @cached_property
    def _room(self) -> shapely.Geometry:
        """Where the middle of a wall may run."""
        return self.plan.buffer(BESIDE / 2).difference(self.barred.buffer(self.thick / 2))

    def _spokes(self, pitch: float) -> Lines:
        """From points of the free edges, its corners first, to the nearest edge that is held."""
        if self.held.is_empty:
            return []
        free = self.plan.boundary.difference(self.held.buffer(BESIDE))
        merged = shapely.line_merge(free) if free.geom_type == "MultiLineString" else free
        out: Lines = []
        runs = [g for g in getattr(merged, "geoms", [merged]) if g.geom_type == "LineString" and g.length > self.neck]
        for run in runs:
            for at in _marks_of(run, pitch + self.neck):
                spot = shapely.Point(_at(run, at))
                if spot.distance(self.held) <= self.process.held_out or any(
                    spot.distance(line) <= self.thick for line in out
                ):
                    continue
                tried = (self._spoke(shapely.Point(_at(run, at + share * pitch))) for share in ASIDE)
                clear = next((line for line in tried if not wall_on(line, self.thick).intersects(self.barred)), None)
                if clear is not None:
                    out += self._allowed_part(clear)
        return out

    def _spoke(self, spot: shapely.Point) -> shapely.LineString:
        """The way from ``spot`` to the nearest held edge, moved aside where half of the wall would stand beside the
        surface.
        """
        foot, _ = shapely.ops.nearest_points(self.held, spot)
        way = np.array([foot.x - spot.x, foot.y - spot.y])
        way /= max(float(np.linalg.norm(way)), 1e-9)
        over = (spot.x - self.thick * way[0], spot.y - self.thick * way[1])
        straight = shapely.LineString([over, (foot.x + BESIDE * way[0], foot.y + BESIDE * way[1])])
        moved = [
            shapely.affinity.translate(straight, *(side * self.thick / 2 * np.array([-way[1], way[0]])))
            for side in (0, 1, -1)
        ]
        over = lambda line: round(wall_on(line, self.thick).intersection(self.plan).area, 3)
        return max(moved, key=over)


def _marks_of(run: shapely.LineString, pitch: float) -> list[float]:
    """mm along a free edge: its corners first, then its ends and points between, no further apart than ``pitch``."""
    xy = np.array(run.coords)
    along = np.diff(xy, axis=0)
    turn = np.degrees(np.arctan2(along[:, 1], along[:, 0]))
    bend = np.abs((np.diff(turn) + 180) % 360 - 180)
    at = np.r_[0.0, np.cumsum(np.linalg.norm(along, axis=1))]
    corners = at[1:-1][bend > CORNER]
    if run.is_closed and abs((turn[0] - turn[-1] + 180) % 360 - 180) <= CORNER and len(corners):
        marks = np.r_[corners, corners[0] + at[-1]]  # the seam of a closed edge is no corner
    else:
        marks = np.r_[0.0, corners, at[-1]]
    out = list(corners)
    for a, b in itertools.pairwise(marks):
        out += [s for s in np.linspace(a, b, max(ceil((b - a) / pitch - 1e-6), 1) + 1) if s not in corners]
    return out


def _at(run: shapely.LineString, along: float) -> tuple[float, float]:
    """The point so many mm along an edge; a closed one goes round."""
    along = along % run.length if run.is_closed else min(max(along, 0.0), run.length)
    return run.interpolate(along).coords[0]


def _without_holes(plan: shapely.Geometry) -> shapely.Geometry:
    """A plan without the holes of screws: what hangs round one is stepped over when the walls beside it stand."""
    parts = []
    for p in polygons_of(plan):
        wide = [r for r in p.interiors if shapely.Polygon(r).area > np.pi * HOLE**2 / 4]
        parts.append(shapely.Polygon(p.exterior, wide))
    return parts[0] if len(parts) == 1 else shapely.MultiPolygon(parts)


def _along(line: shapely.LineString, others: Lines, reach: float) -> bool:
    """Whether most of a line runs within ``reach`` of others."""
    return line.intersection(shapely.union_all([wall_on(o, 2 * reach) for o in others])).length > 0.7 * line.length


def _section(shape: shapely.Geometry) -> CrossSection:
    return CrossSection(loops_of(shape))
