"""An arm that bends, measured from one place on it: where it is held, where it ends, how thick and wide it is. mm.

From the middle of the arm it is walked along its length to both sides; at every step rays tell its thickness and its
width, and the next step starts from their middle, so that an arm may taper and curve a little.
"""

from dataclasses import dataclass

import numpy as np

from hewel_engine.errors import InputError
from hewel_engine.geometry.frames import unit, upright
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.rays import RayScene

TURNS = 90
"""Directions in the plane of the arm that are looked along for its width, over half a turn."""
STEP = 0.05
"""Of the walk, as a share of the thickness."""
MOST_STEPS = 1500
SLENDER = 2.0
"""Lengths over the thickness from which on something is an arm."""
SWELLS = 1.06
"""Thickness or width over what its own taper says, from which on it is no longer the arm: its root, or a catch."""
MOVED = 3.0
"""mm by which a face may have been moved inward and still be the one that was pointed at."""
BODY = 2.5
"""Thickness or width over the arm's at which its root is reached: at once at twice that, else where it stays so."""
HELD = 1.4
"""Thickness over the arm's at its stouter end at which that end is held, where both end in the air."""
BESIDE = np.array([-0.35, 0.0, 0.35])
"""Places across the width at which it is looked how thick it is."""
DEEP = 0.8
"""Of its thickness: how far it stays so; a catch is soon over."""


@dataclass(frozen=True, eq=False)
class Arm:
    """``root`` (3,) where it is held, in its middle; ``along`` (3,) from there to its tip; ``bends`` (3,) across its
    thickness; ``length`` from the root to where it is pushed (its catch, or its tip). Thickness and width at the root
    and there. ``catch``: by how much a catch at the tip stands out; ``radius`` of the root's fillet, 0: sharp.
    ``held_twice``: both ends are held, as of a leaf.
    """

    root: Array
    along: Array
    bends: Array
    length: float
    thickness: float
    thickness_end: float
    width: float
    width_end: float
    catch: float
    radius: float
    held_twice: bool


@dataclass(frozen=True, eq=False)
class _Walk:
    """One side of an arm: ``way`` mm of each step from the start, its middles, thickness and width; whether it ends in
    the air.
    """

    way: Array
    middles: Array
    thick: Array
    wide: Array
    free: bool


def arm_at(mesh: Mesh, rays: RayScene, point: Array, normal: Array) -> Arm:
    """The arm with a face at ``point`` that looks along ``normal``. Raises InputError ``bad_options`` where there is
    none.
    """
    normal = unit(normal)
    start = _on_face(mesh, rays, np.asarray(point, float), normal) - 2 * rays.step * normal
    thick = float(rays.distances(start[None], -normal[None])[0])
    if not np.isfinite(thick) or thick <= 0:
        raise _none("Nothing lies behind this place.")
    middle = start - thick / 2 * normal
    across, wide = _width(rays, middle, normal)
    try:
        return _arm(mesh, rays, middle, normal, across, thick, wide)
    except InputError as no:  # a short broad arm is narrower from its tip through its root
        other = np.cross(normal, across)
        wide = float(rays.distances(np.array([middle, middle]), np.array([other, -other])).sum())
        try:
            return _arm(mesh, rays, middle, normal, other, thick, wide)
        except InputError:
            raise no from None


def _arm(mesh: Mesh, rays: RayScene, middle: Array, normal: Array, across: Array, thick: float, wide: float) -> Arm:
    """The arm through ``middle``, so ``wide`` along ``across``. Raises InputError."""
    middle = middle + (rays.distances(middle[None], across[None])[0] - wide / 2) * across
    along = np.cross(normal, across)
    sides = [_walk(mesh, rays, middle, s * along, normal, across, thick, wide) for s in (1.0, -1.0)]
    if all(side.free for side in sides):
        swell = [float(side.thick.max()) / thick for side in sides]
        if max(swell) < HELD or min(swell) > 0.8 * max(swell):
            raise _none("It is held nowhere: a strip with two free ends bends by itself.")
        tip, held = sides if swell[0] < swell[1] else sides[::-1]
    else:
        tip, held = sides if sides[0].free else sides[::-1]
    twice = not tip.free
    way = np.r_[-tip.way[::-1], held.way]  # from the tip to the root, 0 where it was pointed at
    thicks, wides = np.r_[tip.thick[::-1], held.thick], np.r_[tip.wide[::-1], held.wide]
    points = np.concatenate([tip.middles[::-1], held.middles])
    own = _own(way, thicks, wides, thick, wide)
    first, last = np.flatnonzero(own)[[0, -1]]
    if way[last] - way[first] < SLENDER * thick:
        raise _none(f"Here it is {thick:.2f} mm thick and {way[last] - way[first]:.2f} mm long: too stout to bend.")
    taper_t, taper_w = _taper(way[own], thicks[own]), _taper(way[own], wides[own])
    catch = 0.0 if twice else max(float((thicks[:first] - np.polyval(taper_t, way[:first])).max(initial=0.0)), 0.0)
    begin = way[first] if catch > 0.1 * thick or twice else way[0]
    end = float(way[last])
    whole = way[last:][thicks[last:] > BODY * np.polyval(taper_t, end)]
    radius = 0.0 if len(whole) == 0 else _fillet(float(whole[0]) - end, (SWELLS - 1) * thicks[last] / 2, STEP * thick)
    if radius > 0:
        end = float(whole[0]) - radius
    at = lambda taper, where: float(max(np.polyval(taper, where), 0.05))
    line = unit(points[first] - points[last])
    bends = unit(normal - (normal @ line) * line)
    return Arm(
        points[last] + (way[last] - end) * line, line, bends, float(end - begin), at(taper_t, end),
        at(taper_t, begin), at(taper_w, end), at(taper_w, begin), catch, radius, twice,
    )  # fmt: skip


def _fillet(run: float, swell: float, step: float) -> float:
    """Radius of a root that is ``run`` mm long from where it has swollen by ``swell`` mm on a side to the body, of
    run = r − √(2·r·swell); 0 where it is sharp.
    """
    if run < 3 * step:
        return 0.0
    radius = run
    for _ in range(20):
        radius = run + np.sqrt(2 * radius * swell)
    return float(radius)


def _on_face(mesh: Mesh, rays: RayScene, point: Array, normal: Array) -> Array:
    """The point itself; where its face has been moved inward a little since, the place of the face behind it."""
    inside = point - 2 * rays.step * normal
    seen = int(rays.facets(inside[None], -normal[None])[0])
    if seen < 0 or mesh.normals[seen] @ normal <= 0:
        return point
    away = float(rays.distances(inside[None], -normal[None])[0])
    if away > MOVED:
        raise _none("No face of the part is found there any more.")
    return inside - away * normal


def _none(words: str) -> InputError:
    return InputError("bad_options", words, "Point at the broad face of an arm, away from its ends.")


def _width(rays: RayScene, middle: Array, normal: Array) -> tuple[Array, float]:
    """The direction in the plane of a face along which it is narrowest through ``middle``, and how wide it is there."""
    frame = upright(normal)
    turns = np.pi * np.arange(TURNS) / TURNS
    for _ in range(2):
        ways = np.cos(turns)[:, None] * frame[0] + np.sin(turns)[:, None] * frame[1]
        at = np.broadcast_to(middle, ways.shape)
        wide = rays.distances(at, ways) + rays.distances(at, -ways)
        best = int(np.argmin(wide))
        turns = turns[best] + np.linspace(-1, 1, TURNS) * np.pi / TURNS
    if not np.isfinite(wide[best]):
        raise _none("Its surface is open here.")
    return ways[best], float(wide[best])


def _walk(
    mesh: Mesh, rays: RayScene, start: Array, along: Array, normal: Array, across: Array, thick: float, wide: float
) -> _Walk:
    step, middle, swollen = STEP * thick, start, 0.0
    way, middles, thicks, wides = [0.0], [start], [thick], [wide]
    for k in range(1, MOST_STEPS):
        ahead = float(rays.distances(middle[None], along[None])[0])
        if ahead <= step:
            way.append(way[-1] + ahead)
            middles.append(middle + ahead * along)
            thicks.append(thicks[-1])
            wides.append(wides[-1])
            return _Walk(*(np.array(x) for x in (way, middles, thicks, wides)), free=True)
        middle = middle + step * along
        beside = rays.distances(np.array([middle, middle]), np.array([across, -across]))
        spots = middle + BESIDE[:, None] * min(float(beside.sum()), wide) * across
        over, under = (rays.distances(spots, s * normal) for s in (1.0, -1.0))
        met = np.flatnonzero(np.isfinite(over + under))  # a ray may slip through the edge between two facets
        if len(met) == 0:
            break
        usual = int(met[np.argsort((over + under)[met])[len(met) // 2]])  # a hole in the middle is no end of it
        t, w = float(over[usual] + under[usual]), float(beside.sum()) if np.isfinite(beside).all() else wides[-1]
        way.append(k * step)
        thicks.append(t)
        wides.append(w)
        middles.append(middle)
        swollen = swollen + step if t > BODY * thick else 0.0
        if t > 2 * BODY * thick or w > BODY * wide or swollen > DEEP * thick:
            break
        if t < BODY * thick:
            middle = middle + (over[usual] - under[usual]) / 2 * normal * min(1.0, thick / t)
        middles[-1] = middle
    return _Walk(*(np.array(x) for x in (way, middles, thicks, wides)), free=False)


def _own(way: Array, thicks: Array, wides: Array, thick: float, wide: float) -> np.ndarray:
    """(n,) which steps belong to the arm itself: one run round where it was pointed at, whose thickness and width
    follow one taper.
    """
    here = int(np.argmin(np.abs(way)))
    low = high = here
    follows = lambda k, run: all(
        row[k] < SWELLS * _ahead(way[run], row[run], way[k]) for row in (thicks, wides)
    )  # fmt: skip
    while True:
        run = slice(low, high + 1)
        grown = False
        if high + 1 < len(way) and follows(high + 1, run):
            high, grown = high + 1, True
        if low > 0 and follows(low - 1, run):
            low, grown = low - 1, True
        if not grown:
            break
    own = np.zeros(len(way), bool)
    own[low : high + 1] = True
    return own


def _taper(way: Array, values: Array) -> Array:
    """The straight line through them, but for single ones that lie far off: rays that met an edge."""
    line = np.polyfit(way, values, 1)
    off = np.abs(values - np.polyval(line, way))
    near = off <= 3 * np.median(off) + 1e-3 * np.median(values)
    return np.polyfit(way[near], values[near], 1) if near.sum() > 2 else line


def _ahead(way: Array, values: Array, at: float) -> float:
    """What the taper of a run says of a place: its mean while it is short."""
    if len(way) < 8:
        return float(np.mean(values))
    slope, level = _taper(way, values)
    return float(max(slope * at + level, 0.5 * values.min()))
