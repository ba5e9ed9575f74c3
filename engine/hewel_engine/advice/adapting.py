"""Designing the supports out: remedies applied to the solid, each proved by walking the layers again.

A remedy stays only while the solid is closed, no region wants support that did not before, no more support is wanted
in all, every bore still takes its pin and no protected face is touched. Else it is taken back, and that is said.
"""

from collections.abc import Callable
from dataclasses import dataclass, field, replace

import numpy as np
from manifold3d import Manifold

from hewel_engine.advice.guarding import guarded, pins_of, touches
from hewel_engine.advice.plate import at_the_plate
from hewel_engine.advice.proposals import (
    AT_THE_PLATE,
    SIZING,
    SUPPORTS,
    Standing,
    reach_of,
    same_region,
    tools_for,
)
from hewel_engine.advice.sizing import KINDS, sized, wanting
from hewel_engine.edits.exact import Edit, Made
from hewel_engine.edits.parameters import checked
from hewel_engine.edits.solids import bodies, dusted, made_by, mesh_of, sound
from hewel_engine.edits.tools import Impossible, Tool
from hewel_engine.errors import InputError
from hewel_engine.geometry.features import Bore
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.sections import Pose
from hewel_engine.overhangs.truth import Overhang
from hewel_engine.processes import Process

ROUNDS = 4
"""How often what is left, or has become visible, is looked at again."""
MOST = 1.0
"""Share of the part's volume that one remedy may add."""
LITTLE = 300.0
"""mm³ that a remedy may add to any part: less than half a gram."""
MORE = 1.005
"""Factor by which the support volume may seem to grow: it is a sum over spots."""

LOWERED = 1e-6
"""mm above the plate from which on a part is lowered onto it again."""

BRIDGED = ("stepped_bridging", "stepped_closing", "membrane", "hollow", "column", "collar")
"""What leaves a bridge where something hung, or over a hollow: what lies below it counts as support volume all the
same.
"""

NO_REMEDY = "No remedy of those that may be used fits it."

Watch = Callable[[str, int, int], None]


@dataclass(frozen=True, eq=False)
class Applied:
    """A remedy that stays. ``region``: its number among the regions of the part as it stood when it was found."""

    tool: Tool
    region: int
    kind: str
    height: float
    added: float
    removed: float
    centre: Array
    """In the part's own frame."""
    pose: Pose
    """Where the part stood when it was done."""

    @property
    def exactly(self) -> Edit:
        """What it does to an exact solid, in the part's own frame."""
        return self.tool.exactly(self.added - self.removed).placed(*self.pose.back)

    def as_dict(self) -> dict:
        return {
            "key": self.tool.key,
            "region": self.region,
            "kind": self.kind,
            "z_mm": self.height,
            "centre_mm": self.centre.tolist(),
            "volume_added_mm3": self.added,
            "volume_removed_mm3": self.removed,
            "words": self.tool.words,
            **self.tool.numbers,
            "used": self.tool.used,
        }


@dataclass(frozen=True, eq=False)
class Left:
    """A region that no remedy solved, and why each of them did not."""

    region: Overhang
    centre: Array
    why: list[str]

    def as_dict(self) -> dict:
        return {
            "kind": self.region.kind,
            "z_mm": self.region.low,
            "centre_mm": self.centre.tolist(),
            "area_mm2": self.region.area,
            "why": self.why,
        }


@dataclass(frozen=True, eq=False)
class Adapted:
    """``mesh`` in the part's own frame; how it stood ``before`` and stands ``after``."""

    mesh: Mesh
    before: Standing
    after: Standing
    applied: list[Applied]
    left: list[Left]
    marks: np.ndarray
    """(m,) of every facet of ``mesh``: 1 + the number of the remedy among ``applied`` that made it, 0 for the part's
    own.
    """
    unfit: list[tuple[dict, str]] = field(default_factory=list)
    """Steps of a recipe that could not be done here, and why."""

    @property
    def made(self) -> Made:
        return Made([a.exactly for a in self.applied])


Row = tuple[int, Overhang | None, Tool]
"""A remedy to be tried: the number of its region (−1 for none), the region, what is done."""
Place = tuple[str, Array]
"""What a remedy for no region is for, and where."""


@dataclass
class _Work:
    """The part on the bench: the solid as it is, and what must not be lost of it."""

    solid: Manifold
    here: Standing
    pose: Pose
    pins: Manifold
    """Through every bore and out of its open ends: no material is added there."""
    guarded: tuple[Array, Array]
    """(n, 3) points just outside and just inside the protected faces."""
    supports: bool
    """Whether posts and pillars may be designed into the part."""
    applied: list[Applied] = field(default_factory=list)
    refused: dict[tuple, list[str]] = field(default_factory=dict)


def adapted(
    mesh: Mesh,
    up: Array,
    process: Process,
    bores: list[Bore],
    keys: tuple[str, ...] | None = None,
    protected: np.ndarray | None = None,
    supports: bool = True,
    watch: Watch = lambda what, done, total: None,
) -> Adapted:
    """The part with every region that wants it remedied, or said why not. ``keys`` limits the remedies; ``protected``
    are facets that must stay as they are; without ``supports`` neither posts nor pillars are designed into it. Raises
    InputError ``not_closed``.
    """
    watch("preparing the solid", 0, ROUNDS + 1)
    work = _on_the_bench(mesh, up, process, bores, protected, supports)
    before = work.here
    for number in range(ROUNDS):
        watch(f"remedies, round {number + 1}", number + 1, ROUNDS + 1)
        if not _round(work, keys):
            break
    unfit = []
    for key in (k for k in AT_THE_PLATE if keys and k in keys):
        why = _at_the_plate(work, key, {})
        unfit += [({"key": key, "kind": "plate"}, why)] if why else []
    for key in (k for k in SIZING if keys and k in keys):
        for centre in wanting(work.here, key):
            step = {"key": key, "kind": KINDS[key], "centre_mm": work.pose.in_part(centre).tolist()}
            why = _sized(work, step, {})
            unfit += [(step, why)] if why else []
    return replace(_outcome(work, before), unfit=unfit)


def reworked(
    mesh: Mesh,
    up: Array,
    process: Process,
    bores: list[Bore],
    steps: list[dict],
    protected: np.ndarray | None = None,
    supports: bool = True,
    watch: Watch = lambda what, done, total: None,
) -> Adapted:
    """The part with the ``steps`` of a recipe, one after the other: each names its ``key``, and the region by ``kind``
    and ``centre_mm`` in the part's own frame, and may ``set`` numbers of it (``edits.parameters``). What finds its
    region no more, or no longer holds, is told as unfit; so is a support where ``supports`` are not wanted.
    Raises InputError ``not_closed``.
    """
    watch("preparing the solid", 0, len(steps) + 1)
    work = _on_the_bench(mesh, up, process, bores, protected, supports)
    before, unfit = work.here, []
    for number, step in enumerate(steps):
        watch(f"{_named(step['key'])}, {number + 1} of {len(steps)}", number + 1, len(steps) + 1)
        why = _step(work, step)
        if why:
            unfit.append((step, why))
    return replace(_outcome(work, before), unfit=unfit)


@dataclass(frozen=True, eq=False)
class Bench:
    """A part standing in a direction, ready to have single remedies looked at."""

    here: Standing
    pose: Pose

    @classmethod
    def of(cls, mesh: Mesh, up: Array, process: Process, bores: list[Bore]) -> "Bench":
        """Raises InputError ``not_closed``."""
        return cls(*Standing.stood(mesh, up, process, bores))

    def looked_at(self, step: dict) -> tuple[Tool, Array, Array]:
        """What one step of a recipe would do to the part as it stands, unproved: its tool, and the triangles
        (k, 3, 3) mm, in the part's own frame, of what it adds outside the part and what it takes away inside it.

        Raises Impossible, or InputError ``bad_options`` for a number that cannot be.
        """
        given = checked(step["key"], step.get("set") or {}, self.here.process)
        if step["key"] in AT_THE_PLATE:
            tool = at_the_plate(self.here, step["key"], given)
        elif step["key"] in SIZING:
            centre = self.pose.over_plate(np.array(step["centre_mm"], float))
            tool = next(sized(self.here, step["key"], centre, given))
        else:
            number = _meant(self.here, self.pose, step)
            if number is None:
                raise Impossible("It is for something that only shows once the steps before it are done.")
            region = self.here.truth.regions[number]
            made = next(iter(tools_for(self.here, region, (step["key"],), given=given)), None)
            if made is None:
                raise Impossible("It does not fit this region.")
            tool = made[1]()
        seen = [mesh_of(body) for body in (tool.add - self.here.solid, tool.remove ^ self.here.solid)]
        return tool, *(self.pose.lying_back(m).triangles if len(m.faces) else np.zeros((0, 3, 3)) for m in seen)


def _step(work: _Work, step: dict) -> str | None:
    """Does one step of a recipe; why not, where it cannot be done."""
    try:
        given = checked(step["key"], step.get("set") or {}, work.here.process)
    except InputError as no:
        return no.message
    if step["key"] in AT_THE_PLATE:
        return _at_the_plate(work, step["key"], given)
    if step["key"] in SIZING:
        return _sized(work, step, given)
    if step["key"] in SUPPORTS and not work.supports:
        return "The job wants no supports, designed ones neither."
    number = _meant(work.here, work.pose, step)
    if number is None:
        return f"No {step['kind'].replace('_', ' ')} is found there any more."
    region = work.here.truth.regions[number]
    work.refused.pop(_place(region), None)
    tool = _first_that_fits(work, region, (step["key"],), given)
    if tool is None:
        return work.refused[_place(region)][-1] if work.refused[_place(region)] else "It does not fit this region."
    return _tried(work, [(number, region, _original(tool))])


def _meant(here: Standing, pose: Pose, step: dict) -> int | None:
    """The number of the region that a step is for; None where none of its kind is found there."""
    centre = pose.over_plate(np.array(step["centre_mm"], float))
    near = [
        (float(np.linalg.norm(r.centre - centre)), n)
        for n, r in enumerate(here.truth.regions)
        if r.kind == step["kind"]
    ]
    away, number = min(near, default=(np.inf, 0))
    return number if near and away <= reach_of(here.truth.regions[number]) else None


def _at_the_plate(work: _Work, key: str, given: dict[str, float]) -> str | None:
    """Does a remedy for how the part stands; why not, where it cannot be done."""
    try:
        tool = _original(at_the_plate(work.here, key, given))
    except Impossible as no:
        return str(no)
    if touches(tool, work.guarded):
        return "It would change a face that must stay as it is."
    return _tried(work, [(-1, None, tool)])


def _sized(work: _Work, step: dict, given: dict[str, float]) -> str | None:
    """Sizes a wall, boss, hole, corner or face in the first of the ways that holds; why not, where none does."""
    why = None
    centre = work.pose.over_plate(np.array(step["centre_mm"], float))
    try:
        for tool in sized(work.here, step["key"], centre, given):
            tool = _original(_clear_of(work, tool))
            if touches(tool, work.guarded):
                why = why or "It would change a face that must stay as it is."
                continue
            no = _tried(work, [(-1, None, tool)], (step["kind"], centre))
            if no is None:
                return None
            why = why or no
    except Impossible as no:
        return str(no)
    return why


def _clear_of(work: _Work, tool: Tool) -> Tool:
    """The tool without what it would put in the way of a pin."""
    return replace(tool, add=tool.add - work.pins)


def _on_the_bench(mesh: Mesh, up: Array, process: Process, bores: list[Bore], protected, supports: bool) -> _Work:
    before, pose = Standing.stood(mesh, up, process, bores)
    solid = before.solid.as_original()
    return _Work(solid, before, pose, pins_of(before), guarded(before.mesh, protected), supports)


def _outcome(work: _Work, before: Standing) -> Adapted:
    here = work.here
    left = [
        Left(r, work.pose.in_part(r.centre), work.refused.get(_place(r)) or [NO_REMEDY])
        for r in here.truth.regions
        if r.needs_support
    ]
    marks = np.zeros(len(here.mesh.faces), np.int64)
    if work.applied:
        by = made_by(work.solid)
        for number, done in enumerate(work.applied, start=1):
            marks[np.isin(by, [done.tool.add.original_id(), done.tool.remove.original_id()])] = number
    return Adapted(work.pose.lying_back(here.mesh), before, here, work.applied, left, marks)


def _original(tool: Tool) -> Tool:
    """The tool as solids that are known again in what they are joined to."""
    return replace(tool, add=tool.add.as_original(), remove=tool.remove.as_original())


def _round(work: _Work, keys: tuple[str, ...] | None) -> bool:
    """Tries every region that wants something once; whether there was anything to try."""
    found: list[Row] = []
    here = work.here
    for number in here.wanting:
        region = here.truth.regions[number]
        made = _first_that_fits(work, region, keys)
        if made:
            found.append((number, region, _original(made)))
    if not found:
        return False
    together = _tried(work, found)
    for row in found if together else []:  # one spoils it: each is proved by itself
        why = together if len(found) == 1 else _tried(work, [row])
        if why:
            _, region, tool = row
            work.refused.setdefault(_place(region), []).append(f"{_named(tool.key)}: {why}")
    return True


def _tried(work: _Work, rows: list[Row], place: Place | None = None) -> str | None:
    """Does some remedies together and keeps them; what is wrong with the result, where they were taken back. One for no
    region may name the ``place`` that it is for.
    """
    solid = work.solid
    for _, _, tool in rows:
        solid = dusted(tool.on(solid))
    low = 0.0 if solid.is_empty() else solid.bounding_box()[2]
    after = Standing.after(solid.translate((0, 0, -low)) if low > LOWERED else solid, work.here.process)
    why = _accepted(work, rows, solid, after)
    if why is None:
        work.applied += [_applied(work, *row, place) for row in rows]
        work.solid, work.here = solid, after
        if low > LOWERED:
            _lower(work, low)
    return why


def _lower(work: _Work, by: float) -> None:
    """What stood on ``by`` mm that were cut off stands on the plate again."""
    down = np.array([0, 0, -by])
    work.solid, work.pins = work.solid.translate(down), work.pins.translate(down)
    work.pose = replace(work.pose, shift=work.pose.shift + down)
    work.guarded = tuple(points + down for points in work.guarded)


def _first_that_fits(work: _Work, region: Overhang, keys, given: dict[str, float] | None = None) -> Tool | None:
    """The first remedy of a region that can be made and was not taken back before."""
    said = work.refused.setdefault(_place(region), [])
    for key, make in tools_for(work.here, region, keys, work.supports, given):
        if any(line.startswith(_named(key)) for line in said):
            continue
        try:
            tool = make()
            if key != "membrane":
                tool = _clear_of(work, tool)
            if tool.add.is_empty() and tool.remove.is_empty():
                raise Impossible("It would change nothing.")
            if tool.add.volume() > max(MOST * work.solid.volume(), LITTLE):
                raise Impossible(
                    f"It would take {tool.add.volume():.0f} mm³ of plastic, more than the part itself: another "
                    "direction, or two pieces, cost less."
                )
            if touches(tool, work.guarded):
                raise Impossible("It would change a face that must stay as it is.")
            return tool
        except Impossible as no:
            said.append(f"{_named(key)}: {no}")
    return None


def _named(key: str) -> str:
    return key.replace("capped_", "").replace("_", " ")


def _applied(work: _Work, number: int, region: Overhang | None, tool: Tool, place: Place | None) -> Applied:
    added, removed = (tool.add - work.solid).volume(), (tool.remove ^ work.solid).volume()
    if region:
        kind, low, centre = region.kind, region.low, region.centre
    elif place:
        kind, centre = place
        low = float(centre[2])
    else:
        kind, low, centre = "plate", 0.0, np.array([*work.here.middle, 0.0])
    return Applied(tool, number, kind, low, added, removed, work.pose.in_part(centre), work.pose)


def _accepted(work: _Work, rows: list[Row], solid: Manifold, after: Standing) -> str | None:
    """None when the result is better; else what is wrong with it."""
    before = work.here
    if not sound(solid) or not after.mesh.closed:
        return "It would leave a surface that is not closed."
    separate = sum(len(tool.add.decompose()) for _, _, tool in rows if tool.key == "block")
    if bodies(solid) > bodies(work.solid) + separate:
        return "It would leave a loose piece."
    bridged = all(tool.key in BRIDGED for _, _, tool in rows)
    if not bridged and after.truth.support_volume > MORE * before.truth.support_volume + 1e-6:
        return (
            f"More support would be wanted than before: {after.truth.support_volume:.0f} mm³ instead of "
            f"{before.truth.support_volume:.0f} mm³."
        )
    treated = {id(region) for _, region, _ in rows}
    old = [r for r in before.truth.regions if r.needs_support]
    for region in after.truth.regions:
        if not region.needs_support:
            continue
        same = next((r for r in old if same_region(r, region)), None)
        if same is None:
            return f"It would make a new finding: {region.kind.replace('_', ' ')} {region.low:.1f} mm up."
        if id(same) in treated:
            return "What it was for would still want support."
    return None


def _place(region: Overhang) -> tuple:
    return (region.kind, *np.round(region.centre, 1))
