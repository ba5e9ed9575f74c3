"""The lines of every layer, from its true outline, and the seconds they take. Lengths mm, speeds mm/s.

A line has the cross-section h·s, s its spacing, so that length × h·s is the volume laid. The n perimeters fill what
lies between the outline and the outline shrunk by n lines; that area over the spacing is their length, exactly as long
as no part of the outline vanishes on the way. Where some does, as in walls too thin for all lines, the lines are
followed one by one as they are drawn. What is left is core: solid where ``top_bottom`` layers above or below
do not all cover it, else sparse.
"""

from dataclasses import dataclass

import numpy as np
from manifold3d import CrossSection
from numba import njit

from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.plans import after_inset, length, mitred, turn_at
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.processes import Process
from hewel_engine.walls.drawn import perimeters

FINE = 0.02
"""mm: outlines are followed this exactly; a line is ten times as wide, and its time the same to a thousandth."""
LOST = 0.005
"""Share of a layer by which what is left inside the lines may miss the formula before they are followed one by one."""
CORNER = 30.0
"""Degrees of a turn at which the nozzle stops; gentler ones are taken at speed."""
COPY_GAP = 5.0
"""mm between copies that are printed together."""


@dataclass(frozen=True, eq=False)
class Paths:
    """Of every layer, (count,): lengths mm, and ``seconds`` spent extruding at speed, flow and acceleration."""

    perimeters: Array
    solid: Array
    sparse: Array
    seconds: Array

    @property
    def lines(self) -> Array:
        """mm of all lines."""
        return self.perimeters + self.solid + self.sparse


@njit(cache=True, nogil=True)
def move_seconds(distance: Array | float, speed: Array | float, acceleration: Array | float):
    """A straight stretch from rest to rest: ℓ/v + v/a, or 2·√(ℓ/a) where it is too short to reach the speed.

    >>> move_seconds(100.0, 50.0, 500.0), move_seconds(1.25, 50.0, 500.0)
    (2.1, 0.1)
    """
    if distance * acceleration >= speed * speed:
        return distance / speed + speed / acceleration
    return 2 * np.sqrt(distance / acceleration)


@njit(cache=True, nogil=True)
def _stretches(loop, corner, out):
    """Lengths of a closed loop (n, 2) between its corners, written to ``out``; how many there are."""
    n = len(loop)
    first = -1
    for i in range(n):
        if abs(turn_at(loop, i)) > corner:
            first = i
            break
    count, run = 0, 0.0
    begin = max(first, 0)
    for step in range(n):
        a, b = (begin + step) % n, (begin + step + 1) % n
        run += np.sqrt((loop[b, 0] - loop[a, 0]) ** 2 + (loop[b, 1] - loop[a, 1]) ** 2)
        if step == n - 1 or (first >= 0 and abs(turn_at(loop, b)) > corner):
            out[count] = run
            count += 1
            run = 0.0
    return count


@njit(cache=True, nogil=True)
def _round_seconds(loop, share, corner, speed, acceleration):
    """Seconds once round a line whose every stretch is ``share`` of the outline's."""
    out = np.empty(len(loop))
    total = 0.0
    for i in range(_stretches(loop, corner, out)):
        total += move_seconds(share * out[i], speed, acceleration)
    return total


def _area_after_first_line(outline: float, area: float, core: float, shell: float, width: float) -> float:
    """Area left inside the first line: of the quadratic in the inset that has ``area`` and slope −``outline`` at the
    rim and ``core`` at ``shell`` (Steiner's formula for an inset that loses no side).
    """
    bend = (core - area + outline * shell) / shell**2
    return float(np.clip(area - outline * width + bend * width**2, core, area))


def layer_paths(stack: LayerStack, process: Process) -> Paths:
    """The lines of every layer of one copy."""
    regions, shell = stack.smoothed(FINE), process.shell
    plans, skin = list(regions), process.top_bottom
    covers = _common(plans, skin) if skin else []
    core, known = CrossSection(), {}
    out = np.zeros((4, stack.count))
    for k, plan in enumerate(plans):
        if k == 0 or plan is not plans[k - 1]:
            core, known = regions.grown(k, -shell), {}
        near, bare = _bare(k, plan, core, covers, skin, stack.count)
        if near not in known:
            known[near] = _laid(plan, core, float(bare().area()), shell, process)
        out[:, k] = known[near]
    return Paths(*out)


def _bare(k: int, plan, core, covers: list[CrossSection], skin: int, count: int):
    """A key for what lies over and under layer ``k``, and a call for the part of its core that skins must close."""
    open_ended = skin > 0 and (k < skin or k + skin >= count)
    below, above = (plan, plan) if open_ended or not skin else (covers[k - skin], covers[k + 1])

    def bare() -> CrossSection:
        if open_ended:
            return core
        return CrossSection() if below is plan and above is plan else core - (below ^ above)

    return (id(below), id(above), open_ended), bare


def layer_cores(stack: LayerStack, process: Process) -> list[CrossSection]:
    """What every layer fills sparsely: inside the perimeters, and away from skins. Like layers share one object."""
    regions, shell = stack.smoothed(FINE), process.shell
    plans, skin = list(regions), process.top_bottom
    covers = _common(plans, skin) if skin else []
    inside, known, out = CrossSection(), {}, []
    for k, plan in enumerate(plans):
        if k == 0 or plan is not plans[k - 1]:
            inside, known = regions.grown(k, -shell), {}
        near, bare = _bare(k, plan, inside, covers, skin, stack.count)
        if near not in known:
            closed = bare()
            known[near] = inside if closed.is_empty() else inside - closed
        out.append(known[near])
    return out


def _common(plans: list[CrossSection], size: int) -> list[CrossSection]:
    """What each ``size`` successive plans have in common, by halves."""
    if size == 1:
        return plans
    half = (size + 1) // 2
    inner = _common(plans, half)
    return [a if a is b else a ^ b for a, b in zip(inner, inner[size - half :], strict=False)]


def _laid(plan: CrossSection, core: CrossSection, bare: float, shell: float, process: Process) -> tuple:
    """(perimeters, solid, sparse) mm and seconds of a layer whose core is not covered over ``bare`` mm²."""
    area, inside = float(plan.area()), float(core.area())
    if area <= 0:
        return 0.0, 0.0, 0.0, 0.0
    lost = abs(after_inset(plan, shell) - inside) > LOST * area
    if lost and not process.variable_lines:
        core, lines, seconds = _as_drawn(plan, process)
        inside = float(core.area())
    else:
        lines, seconds = _shrunk(plan, area, inside, shell, process)
    bare, spacing = min(bare, inside), process.spacing
    solid, sparse = bare / spacing, (inside - bare) / spacing * process.infill
    if solid + sparse > 0:
        chord = np.pi * inside / length(core)  # Cauchy: the mean chord, over all directions of lines
        fill = process.held_to_flow(process.infill_speed)
        seconds += (solid + sparse) / chord * move_seconds(chord, fill, process.acceleration)
    return lines, solid, sparse, seconds


def _shrunk(plan: CrossSection, area: float, inside: float, shell: float, process: Process) -> tuple[float, float]:
    """mm and seconds of the perimeters of an outline of which nothing vanishes on the way inward; or of which lines of
    variable width fill all.
    """
    outline = length(plan)
    after_first = _area_after_first_line(outline, area, inside, shell, process.width)
    perimeters = (area - after_first) / process.width + (after_first - inside) / process.spacing
    share = perimeters / (process.perimeters * outline)
    return perimeters, process.perimeters * _seconds_along(plan, share, process)


def _as_drawn(plan: CrossSection, process: Process) -> tuple[CrossSection, float, float]:
    """The core, mm and seconds of the perimeters line by line: where a wall has no room for all of them, the formula
    would lay the slit between them too.
    """
    lines, core = perimeters(plan, process, mitred)
    mm = sum(length(line.both) + length(line.alone) / 2 for line in lines)
    along = lambda line: _seconds_along(line.both, 1.0, process) + _seconds_along(line.alone, 0.5, process)
    return core, mm, sum(map(along, lines))


def _seconds_along(plan: CrossSection, share: float, process: Process) -> float:
    """Seconds along outlines whose every stretch counts with ``share`` of its length."""
    speed, corner = process.held_to_flow(process.outer_speed), np.radians(CORNER)
    return sum(_round_seconds(loop, share, corner, speed, process.acceleration) for loop in plan.to_polygons())


def grams_of(lines: Array, process: Process) -> float:
    """Of plastic in lines of so many mm: a line of length ℓ is ℓ·h·s of it."""
    return float(lines.sum()) * process.layer * process.spacing * 1e-3 * process.stock.density


def layer_seconds(stack: LayerStack, process: Process, copies: int = 1) -> Array:
    """(count,) s from one layer to the next: all copies' paths, travel, the least time of a layer and its change.

    Copies printed together stand side by side, COPY_GAP apart; the nozzle goes from each to the next.
    """
    return seconds_together(layer_paths(stack, process), stack, process, copies)


def seconds_together(paths: Paths, stack: LayerStack, process: Process, copies: int = 1) -> Array:
    """The same from the lines of one copy."""
    return seconds_of(paths.seconds, process, copies, between_s(hop(stack), process, copies))


def hop(stack: LayerStack) -> float:
    """mm from a copy to the next one beside it."""
    sides = np.ptp(stack.points[stack.mesh.used, :2], axis=0)
    return float(sides.mean()) + COPY_GAP


def between_s(hop_mm: float, process: Process, copies: int) -> float:
    """s that a layer spends on the ways between copies that stand in a row."""
    return copies * move_seconds(hop_mm, process.travel_speed, process.acceleration) if copies > 1 else 0.0


def seconds_of(path_seconds: Array, process: Process, copies: int = 1, between: float = 0.0) -> Array:
    """(count,) s from one layer to the next: the lines of so many copies, ``between`` s on the ways from one to the
    next, the least time of a layer and its change.
    """
    extruding = path_seconds * (1 + process.travel_share) * process.time_factor
    return np.maximum(copies * extruding + between, process.layer_minimum) + process.layer_change


def print_seconds(stack: LayerStack, process: Process) -> float:
    """Of one copy, from its first line to its last."""
    return float(layer_seconds(stack, process).sum())
