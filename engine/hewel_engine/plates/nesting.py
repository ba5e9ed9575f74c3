"""Copies of one outline on a plate: many ways of filling it, the best of which is kept. Lengths mm, angles degrees.

Positions lie on a lattice, one for each turn of the outline so that its first point touches the corner of the plate. A
displacement of two copies then stands in a table made once for each pair of turns, which answers exactly.
"""

import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field

import numpy as np
import shapely
from numba import njit

from hewel_engine.errors import InputError
from hewel_engine.geometry.mesh import Array
from hewel_engine.plates.outlines import forbidden, kept_clear, turned

SEARCH, FINAL = 1.0, 0.5
"""Lattice while ways are compared, and for the best of them."""
SAME_TURN = 2.0
"""Degrees within which two turns are one."""
PAIRS = 10
"""Ways that a pair may lie that are tried of each two turns."""
BUDGET = 18.0
"""s that filling may take at most."""
WEIGHTS = ((0.02, 1.0), (1.0, 0.02), (0.3, 1.0), (1.0, 0.3), (1.0, 1.0))
"""Where the next copy goes: to the least of so much x and so much y."""


@dataclass(frozen=True)
class Plate:
    """``size`` (x, y) with the lower left corner as origin. Nothing stands within ``margin`` of its rim, or on
    ``keep_out``.
    """

    size: tuple[float, float]
    margin: float = 0.0
    keep_out: tuple[shapely.Polygon, ...] = ()


@dataclass(frozen=True)
class Rule:
    """How near two copies may come: the ``gap`` between their outlines, and whether their bands along the rail (``x``
    or ``y``) may not meet.
    """

    gap: float
    band: str = ""


@dataclass(frozen=True)
class Item:
    """Where the part's own origin comes to lie, and how far it is turned anticlockwise about it."""

    x: float
    y: float
    turn: float

    def on(self, outline: shapely.Geometry) -> shapely.Geometry:
        return shapely.transform(turned(outline, self.turn), lambda xy: xy + np.array([self.x, self.y]))


@njit(cache=True, nogil=True)
def _stamp(forb, tables, starts, shapes, firsts, v, x, y, low, high, band):
    """Forbids every place that a copy of turn ``v`` at (x, y) leaves no room for."""
    turns = forb.shape[0]
    for u in range(turns):
        nx, ny = shapes[v, u, 0], shapes[v, u, 1]
        base = starts[v, u]
        for i in range(nx):
            column = x + firsts[v, u, 0] + i
            if column < 0 or column >= forb.shape[1]:
                continue
            for j in range(ny):
                row = y + firsts[v, u, 1] + j
                if 0 <= row < forb.shape[2] and tables[base + i * ny + j]:
                    forb[u, column, row] = 1
        if band == 1:  # the rail runs along x: bands are stretches of y
            for row in range(forb.shape[2]):
                if row + low[u] < y + high[v] and y + low[v] < row + high[u]:
                    forb[u, :, row] = 1
        elif band == 2:
            for column in range(forb.shape[1]):
                if column + low[u] < x + high[v] and x + low[v] < column + high[u]:
                    forb[u, column, :] = 1


@njit(cache=True, nogil=True)
def _place(forb, tables, starts, shapes, firsts, low, high, band, v, w, dx, dy, singles, wx, wy, wanted, out):
    """Fills ``out`` (n, 3) with turn and lattice place: first pairs of the turns ``v`` and ``w``, the second (dx, dy)
    further on, then single copies of the turns that ``singles`` names. How many stand.
    """
    count = 0
    nx, ny = forb.shape[1], forb.shape[2]
    while v >= 0 and count + 2 <= wanted:
        best, at_x, at_y = np.inf, -1, -1
        for x in range(max(0, -dx), min(nx, nx - dx)):
            for y in range(max(0, -dy), min(ny, ny - dy)):
                worth = wx * x + wy * y
                if worth < best and not forb[v, x, y] and not forb[w, x + dx, y + dy]:
                    best, at_x, at_y = worth, x, y
        if at_x < 0:
            break
        out[count] = v, at_x, at_y
        out[count + 1] = w, at_x + dx, at_y + dy
        _stamp(forb, tables, starts, shapes, firsts, v, at_x, at_y, low, high, band)
        _stamp(forb, tables, starts, shapes, firsts, w, at_x + dx, at_y + dy, low, high, band)
        count += 2
    while count < wanted:
        best, turn, at_x, at_y = np.inf, -1, -1, -1
        for u in range(forb.shape[0]):
            if not singles[u]:
                continue
            for x in range(nx):
                for y in range(ny):
                    worth = wx * x + wy * y
                    if worth < best and not forb[u, x, y]:
                        best, turn, at_x, at_y = worth, u, x, y
        if turn < 0:
            break
        out[count] = turn, at_x, at_y
        _stamp(forb, tables, starts, shapes, firsts, turn, at_x, at_y, low, high, band)
        count += 1
    return count


@dataclass(frozen=True)
class Way:
    """One way of filling: pairs of two turns (numbers of them), ``apart`` mm from each other, before single copies of
    ``singles``; weights of where the next one goes.
    """

    weights: tuple[float, float]
    singles: tuple[int, ...]
    pair: tuple[int, int] | None = None
    apart: tuple[float, float] = (0.0, 0.0)


@dataclass(eq=False)
class _Grid:
    """Outlines, each in its turns, on a lattice, with the tables of every two of them. ``kinds``: of each turn the
    outline that it is of.
    """

    outlines: list[shapely.Geometry]
    plate: Plate
    rule: Rule
    turns: list[float]
    kinds: list[int]
    pitch: float
    forms: list[shapely.Geometry] = field(init=False)
    corners: Array = field(init=False)
    """(turns, 2) mm: of the first lattice place of each."""

    def __post_init__(self):
        m, (sx, sy) = self.plate.margin, self.plate.size
        forms = [turned(self.outlines[k], t) for k, t in zip(self.kinds, self.turns, strict=True)]
        bounds = np.array([f.bounds for f in forms])
        room = np.array([sx - 2 * m, sy - 2 * m]) - (bounds[:, 2:] - bounds[:, :2]) + 1e-9
        fits = (room >= 0).all(axis=1)
        good = np.flatnonzero(fits)
        self.turns, self.kinds = [self.turns[u] for u in good], [self.kinds[u] for u in good]
        self.forms = [forms[u] for u in good]
        bounds, room = bounds[fits], room[fits]
        self.corners = m - bounds[:, :2]
        self.counts = (np.floor(room / self.pitch).astype(int) + 1).reshape(-1, 2)
        axis = 1 if self.rule.band == "x" else 0
        self.low = np.floor((bounds[:, axis] + self.corners[:, axis] - m) / self.pitch + 1e-6).astype(int)
        self.high = np.ceil((bounds[:, axis + 2] + self.corners[:, axis] - m) / self.pitch - 1e-6).astype(int)
        self.band = {"": 0, "x": 1, "y": 2}[self.rule.band]
        if self.turns:
            self._make_tables()

    def _make_tables(self) -> None:
        n = len(self.turns)
        size = self.counts.max(axis=0)
        self.free = np.ones((n, *size), np.uint8)
        for u, (nx, ny) in enumerate(self.counts):
            self.free[u, :nx, :ny] = 0
        self.firsts, self.shapes = np.zeros((n, n, 2), int), np.zeros((n, n, 2), int)
        self.starts, made, at = np.zeros((n, n), int), {}, 0
        for v in range(n):
            clear = kept_clear(self.forms[v], self.rule.gap)
            for u in range(v, n):
                offset = self.corners[u] - self.corners[v]
                table, first = forbidden(clear, self.forms[u], offset, self.pitch)
                made[v, u] = table, first
                # What lies so far from the first lies as far the other way from the second.
                made[u, v] = table[::-1, ::-1], 1 - first - np.array(table.shape)
        for of, (table, first) in made.items():
            self.firsts[of], self.shapes[of], self.starts[of] = first, table.shape, at
            at += table.size
        self.tables = np.concatenate([table.ravel() for table, _ in made.values()])
        self._keep_out()

    def _keep_out(self) -> None:
        for barred in self.plate.keep_out:
            for u, form in enumerate(self.forms):
                table, first = forbidden(barred, form, self.corners[u], self.pitch)
                for i, j in np.argwhere(table) + first:
                    if 0 <= i < self.free.shape[1] and 0 <= j < self.free.shape[2]:
                        self.free[u, i, j] = 1

    def filled(self, way: Way, wanted: int) -> np.ndarray:
        """(n, 3) turn and lattice place of what stands."""
        out = np.zeros((wanted, 3), np.int64)
        singles = np.array([u in way.singles for u in range(len(self.turns))])
        v, w = way.pair or (-1, -1)
        dx, dy = np.rint(np.array(way.apart) / self.pitch).astype(int)
        if way.pair and not self._apart(v, w, dx, dy):
            return out[:0]
        count = _place(
            self.free.copy(), self.tables, self.starts, self.shapes, self.firsts, self.low, self.high, self.band,
            v, w, dx, dy, singles, *way.weights, wanted, out,
        )  # fmt: skip
        return out[:count]

    def filled_by_kind(self, weights: tuple[float, float], wanted: list[int], order: list[int]) -> list[np.ndarray]:
        """The same for so many copies of each outline, one outline after the other in ``order``."""
        forb, rows = self.free.copy(), [np.zeros((0, 3), np.int64)] * len(wanted)
        for kind in order:
            out = np.zeros((wanted[kind], 3), np.int64)
            own = np.array([k == kind for k in self.kinds])
            count = _place(
                forb, self.tables, self.starts, self.shapes, self.firsts, self.low, self.high, self.band,
                -1, -1, 0, 0, own, *weights, wanted[kind], out,
            )  # fmt: skip
            rows[kind] = out[:count]
        return rows

    def _apart(self, v: int, w: int, dx: int, dy: int) -> bool:
        """Whether the two of a pair leave each other room."""
        along = {0: None, 1: dy, 2: dx}[self.band]
        if along is not None and self.low[w] + along < self.high[v] and self.low[v] < self.high[w] + along:
            return False
        i, j = dx - self.firsts[v, w, 0], dy - self.firsts[v, w, 1]
        nx, ny = self.shapes[v, w]
        return not (0 <= i < nx and 0 <= j < ny) or not self.tables[self.starts[v, w] + i * ny + j]

    def items(self, rows: np.ndarray) -> list[Item]:
        places = self.corners[rows[:, 0]] + self.pitch * rows[:, 1:]
        return [Item(float(x), float(y), self.turns[v]) for (x, y), v in zip(places, rows[:, 0], strict=True)]

    def pairs(self, v: int, w: int) -> list[tuple[float, float]]:
        """mm from a copy of turn ``v`` to one of turn ``w`` that touches it, the closest together first: by the box
        round both, and by the hull.
        """
        table, first = self._table(v, w)
        rim = np.ones((table.shape[0] + 2, table.shape[1] + 2), bool)
        blocked = np.zeros_like(rim)
        blocked[1:-1, 1:-1] = table != 0
        near = np.zeros_like(rim)
        near[1:] |= blocked[:-1]
        near[:-1] |= blocked[1:]
        near[:, 1:] |= blocked[:, :-1]
        near[:, :-1] |= blocked[:, 1:]
        places = (np.argwhere(near & ~blocked) - 1 + first) * self.pitch
        shift = places + self.corners[w] - self.corners[v]
        a, b = np.array(self.forms[v].bounds), np.array(self.forms[w].bounds)
        low = np.minimum(a[:2], b[:2] + shift)
        high = np.maximum(a[2:], b[2:] + shift)
        box = (high - low + self.rule.gap).prod(axis=1)
        order = np.argsort(box, kind="stable")
        best, some = list(order[: PAIRS // 2]), order[: 40 * PAIRS : 8]
        hulls = [
            shapely.union_all([self.forms[v], shapely.transform(self.forms[w], lambda xy, s=shift[k]: xy + s)])
            .convex_hull.area
            for k in some
        ]  # fmt: skip
        best += [k for k in some[np.argsort(hulls, kind="stable")] if k not in best][: PAIRS - len(best)]
        return [(float(x), float(y)) for x, y in places[best]]

    def _table(self, v: int, u: int) -> tuple[np.ndarray, np.ndarray]:
        nx, ny = self.shapes[v, u]
        start = self.starts[v, u]
        return self.tables[start : start + nx * ny].reshape(nx, ny), self.firsts[v, u]


def turns_of(outline: shapely.Geometry) -> list[float]:
    """Degrees that an outline is tried in: its own quarter turns, and those of its least box, or of half a right angle
    where that is its own.
    """
    box = np.array(shapely.minimum_rotated_rectangle(outline).exterior.coords)
    side = box[1] - box[0]
    lean = -np.degrees(np.arctan2(side[1], side[0])) % 90
    own = min(lean, 90 - lean) < SAME_TURN
    return [float((a + q) % 360) for a in (0.0, 45.0 if own else lean) for q in (0, 90, 180, 270)]


def _ways(grid: _Grid) -> Iterator[Way]:
    """The plainest first: what a single turn fills is easier to clear and to count."""
    every = tuple(range(len(grid.turns)))
    number = {round(t, 6): i for i, t in enumerate(grid.turns)}
    opposite = [(v, number[(t + 180) % 360]) for t, v in number.items() if (t + 180) % 360 in number]
    straight = [(v, w) for v, w in opposite if v < w]
    for some in [*((v,) for v in every), *straight]:
        yield from (Way(weights, some) for weights in WEIGHTS[:2])
    yield from (Way(w, every) for w in WEIGHTS)
    for pairs in ([*straight, *((v, v) for v in every)], [(w, v) for v, w in straight]):
        near = {pair: grid.pairs(*pair) for pair in pairs}
        for k in range(PAIRS):
            for pair, rows in near.items():
                if k < len(rows):
                    yield from (Way(weights, every, pair, rows[k]) for weights in WEIGHTS[:2])


def _filled(outline: shapely.Geometry) -> shapely.Geometry:
    """Without its holes, where it is one piece: it is wider than they are, and no copy of it ever goes into one."""
    return shapely.Polygon(outline.exterior) if isinstance(outline, shapely.Polygon) else outline


def arranged(
    outline: shapely.Geometry,
    plate: Plate,
    rule: Rule,
    wanted: int | None,
    budget: float = BUDGET,
    turns: list[float] | None = None,
    watch: Callable[[int], None] = lambda count: None,
) -> list[Item]:
    """``wanted`` copies on the plate, or as many as go (None): those that stand, at most as many as are wanted. Ways
    are tried for ``budget`` s, the likeliest first; ``watch`` is told whenever more stand than before. Raises
    InputError where the outline is empty.
    """
    if outline.is_empty:
        raise InputError("bad_options", "The part has no outline from above.", "Choose another direction.")
    started = time.monotonic()
    outline = _filled(outline)
    most = int(plate.size[0] * plate.size[1] / max(outline.area, 1.0)) + 1
    wanted = most if wanted is None else min(wanted, most)
    turns = turns or turns_of(outline)
    grid = _Grid([outline], plate, rule, turns, [0] * len(turns), SEARCH)
    if not grid.turns:
        return []
    best, ranked = [], []
    for way in _ways(grid):
        rows = grid.filled(way, wanted)
        ranked.append((len(rows), way))
        if len(rows) > len(best):
            best = grid.items(rows)
            watch(len(best))
        if len(best) == wanted or time.monotonic() - started > 0.6 * budget:
            break
    if len(best) < wanted:
        fine = _Grid([outline], plate, rule, grid.turns, grid.kinds, FINAL)
        for _, way in sorted(ranked, key=lambda row: -row[0]):
            rows = fine.filled(way, wanted)
            if len(rows) > len(best):
                best = fine.items(rows)
                watch(len(best))
            if len(best) == wanted or time.monotonic() - started > budget:
                break
    return best


def arranged_kinds(
    outlines: list[shapely.Geometry], wanted: list[int], plate: Plate, rule: Rule, budget: float = BUDGET
) -> list[list[Item]]:
    """So many copies of each outline on one plate, the largest outlines first; of each those that stand. What fills
    most is kept where not all go.
    """
    started = time.monotonic()
    order = sorted(range(len(outlines)), key=lambda k: -outlines[k].area)
    turns = [turns_of(o) for o in outlines]
    labels = [(k, t) for k, own in enumerate(turns) for t in own]
    best, most = [[] for _ in outlines], -1.0
    for pitch in (SEARCH, FINAL):
        grid = _Grid(outlines, plate, rule, [t for _, t in labels], [k for k, _ in labels], pitch)
        if not grid.turns:
            return best
        for weights in WEIGHTS:
            rows = grid.filled_by_kind(weights, wanted, order)
            covered = sum(len(r) * o.area for r, o in zip(rows, outlines, strict=True))
            if covered > most:
                best, most = [grid.items(r) for r in rows], covered
            if all(len(r) == n for r, n in zip(rows, wanted, strict=True)) or time.monotonic() - started > budget:
                return best
    return best
