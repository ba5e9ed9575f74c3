"""Designing the supports out: remedies applied to the solid, region by region, or as the steps of a recipe."""

from collections.abc import Callable
from dataclasses import dataclass, field, replace

import numpy as np
from manifold3d import Manifold, OpType

from hewel_engine.advice.bounds import Bounds
from hewel_engine.advice.placed_part import PlacedPart, reach_of
from hewel_engine.advice.plate import at_the_plate
from hewel_engine.advice.proposals import ways_for
from hewel_engine.advice.sizing import sized, wanting
from hewel_engine.advice.workbench import Applied, Question, Workbench, named, original, place_of
from hewel_engine.edits.exact import Made
from hewel_engine.edits.remedies import AT_THE_PLATE, BY_KEY, SIZED, checked
from hewel_engine.edits.solids import made_by, mesh_of, solid_of
from hewel_engine.edits.tools import Impossible, Tool
from hewel_engine.errors import InputError
from hewel_engine.geometry.features import Bore
from hewel_engine.geometry.frames import unit
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.sections import Pose
from hewel_engine.overhangs.truth import Overhang
from hewel_engine.processes import Process

ROUNDS = 8
"""How often what is left, or has become visible, is looked at again."""
NO_REMEDY = "No remedy of those that may be used fits it."

Watch = Callable[[str, int, int], None]


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
    before: PlacedPart
    after: PlacedPart
    applied: list[Applied]
    left: list[Left]
    marks: np.ndarray
    """(m,) of every facet of ``mesh``: 1 + the number of the remedy among ``applied`` that made it, 0 for the part's
    own.
    """
    unfit: list[tuple[dict, str]] = field(default_factory=list)
    """Steps of a recipe that could not be done here, and why."""
    questions: list[Question] = field(default_factory=list)
    """Remedies that wait for somebody to say that a space may be filled."""

    @property
    def made(self) -> Made:
        return Made([a.exactly for a in self.applied])

    @property
    def changed(self) -> float:
        """Share of the part's volume that was added and taken away."""
        return sum(a.change for a in self.applied) / self.before.mesh.volume


def adapted(
    mesh: Mesh,
    up: Array,
    process: Process,
    bores: list[Bore],
    keys: tuple[str, ...] | None = None,
    protected: np.ndarray | None = None,
    supports: bool = True,
    watch: Watch = lambda what, done, total: None,
    bounds: Bounds | None = None,
) -> Adapted:
    """The part with every region that wants it remedied, or said why not. ``keys`` limits the remedies; ``protected``
    are facets that must stay as they are; without ``supports`` neither posts nor pillars are designed into it. Raises
    InputError ``not_closed``.
    """
    watch("preparing the solid", 0, ROUNDS + 1)
    work = Workbench.of(mesh, up, process, bores, protected, supports, bounds or Bounds())
    before = work.placed
    for number in range(ROUNDS):
        watch(f"remedies, round {number + 1}", number + 1, ROUNDS + 1)
        if not work.look_round(keys):
            break
    unfit = []
    for key in (k for k in AT_THE_PLATE if keys and k in keys):
        why = _at_the_plate(work, {"key": key}, {})
        unfit += [({"key": key, "kind": "plate"}, why)] if why else []
    for key in (k for k in SIZED if keys and k in keys):
        for centre in wanting(work.placed, key):
            step = {"key": key, "kind": SIZED[key], "centre_mm": work.pose.in_part(centre).tolist()}
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
    bounds: Bounds | None = None,
) -> Adapted:
    """The part with the ``steps`` of a recipe, one after the other: each names its ``key``, and the region by ``kind``
    and ``centre_mm`` in the part's own frame, may ``set`` numbers of it (``edits.parameters``), and may say that it
    ``may_fill`` a space that only looks used. What finds its region no more, or no longer holds, is told as unfit; so
    is a support where ``supports`` are not wanted. Raises InputError ``not_closed``.
    """
    watch("preparing the solid", 0, len(steps) + 1)
    work = Workbench.of(mesh, up, process, bores, protected, supports, bounds or Bounds())
    before, unfit = work.placed, []
    for number, step in enumerate(steps):
        watch(f"{named(step['key'])}, {number + 1} of {len(steps)}", number + 1, len(steps) + 1)
        why = _step(work, step)
        if why:
            unfit.append((step, why))
        elif step["kind"] != "plate":  # it is known by the place that it was asked for
            work.applied[-1] = replace(work.applied[-1], centre=np.array(step["centre_mm"], float))
    return replace(_outcome(work, before), unfit=unfit)


def stray(mesh: Mesh, came: Adapted) -> float:
    """mm³ by which ``came`` differs from the part as it was anywhere else than where its remedies were to change it."""
    was, now = solid_of(mesh), solid_of(came.mesh)
    rest = Manifold.batch_boolean([was - now, now - was], OpType.Add)
    for done in came.applied:
        turn, shift = done.pose.back
        rest -= (done.tool.add + done.tool.remove).transform(np.c_[turn, shift])
    return float(rest.volume())


@dataclass(frozen=True, eq=False)
class Bench:
    """A part standing in a direction, ready to have single remedies looked at."""

    placed: PlacedPart
    pose: Pose
    bounds: Bounds

    @classmethod
    def of(cls, mesh: Mesh, up: Array, process: Process, bores: list[Bore], bounds: Bounds | None = None) -> "Bench":
        """Raises InputError ``not_closed``."""
        return cls(*PlacedPart.stood(mesh, up, process, bores), bounds or Bounds())

    def looked_at(self, step: dict) -> tuple[Tool, Array, Array]:
        """What one step of a recipe would do to the part as it stands, unproved: its tool, and the triangles
        (k, 3, 3) mm, in the part's own frame, of what it adds outside the part and what it takes away inside it.

        Raises Impossible, or InputError ``bad_options`` for a number that cannot be.
        """
        given = checked(step["key"], step.get("set") or {}, self.placed.process)
        if step["key"] in AT_THE_PLATE:
            tool = at_the_plate(self.placed, step["key"], given)
        elif step["key"] in SIZED:
            centre = self.pose.over_plate(np.array(step["centre_mm"], float))
            tool = next(sized(self.placed, step["key"], centre, given, *axis_of(self.pose, step)))
        else:
            number = _meant(self.placed, self.pose, step)
            if number is None:
                raise Impossible("It is for something that only shows once the steps before it are done.")
            region = self.placed.truth.regions[number]
            clear = self.bounds.clear(self.placed, self.pose)
            way = next(ways_for(self.placed, region, clear, self.bounds.full, (step["key"],), given=given), None)
            if way is None:
                raise Impossible("It does not fit this region.")
            tool = way.make()
        seen = [mesh_of(body) for body in (tool.add - self.placed.solid, tool.remove ^ self.placed.solid)]
        return tool, *(self.pose.lying_back(m).triangles if len(m.faces) else np.zeros((0, 3, 3)) for m in seen)


def axis_of(pose: Pose, step: dict) -> tuple[Array | None, Array | None]:
    """The axis of a step and its other end over the plate, where it has them."""
    way, end = step.get("axis"), step.get("end_mm")
    return way and pose.turn @ unit(way), end and pose.over_plate(np.array(end, float))


def _step(work: Workbench, step: dict) -> str | None:
    """Does one step of a recipe; why not, where it cannot be done."""
    try:
        given = checked(step["key"], step.get("set") or {}, work.placed.process)
    except InputError as no:
        return no.message
    if step["key"] in AT_THE_PLATE:
        return _at_the_plate(work, step, given)
    if step["key"] in SIZED:
        return _sized(work, step, given)
    if BY_KEY[step["key"]].support and not work.supports:
        return "The job wants no supports, designed ones neither."
    number = _meant(work.placed, work.pose, step)
    if number is None:
        return f"No {step['kind'].replace('_', ' ')} is found there any more."
    region = work.placed.truth.regions[number]
    work.refused.pop(place_of(region), None)
    made = work.first_way(region, (step["key"],), given, bool(step.get("may_fill")))
    if made is None:
        reasons = list(work.refused[place_of(region)].values())
        return reasons[-1] if reasons else "It does not fit this region."
    no = work.try_together([(number, region, original(made[0]), made[1])])
    return no and no.why


def _meant(placed: PlacedPart, pose: Pose, step: dict) -> int | None:
    """The number of the region that a step is for; None where none of its kind is found there."""
    centre = pose.over_plate(np.array(step["centre_mm"], float))
    near = [
        (float(np.linalg.norm(r.centre - centre)), n)
        for n, r in enumerate(placed.truth.regions)
        if r.kind == step["kind"]
    ]
    away, number = min(near, default=(np.inf, 0))
    return number if near and away <= reach_of(placed.truth.regions[number]) else None


def _at_the_plate(work: Workbench, step: dict, given: dict[str, float]) -> str | None:
    """Does a remedy for how the part stands; why not, where it cannot be done."""
    try:
        tool = at_the_plate(work.placed, step["key"], given)
        work.clear.check(tool, work.solid, False, bool(step.get("may_fill")))
        if work.touches(tool):
            return "It would change a face that must stay as it is."
    except Impossible as no:
        return str(no)
    no = work.try_together([(-1, None, original(tool), tool.key)])
    return no and no.why


def _sized(work: Workbench, step: dict, given: dict[str, float]) -> str | None:
    """Sizes a wall, boss, hole, corner or face in the first of the ways that holds; why not, where none does."""
    why = None
    centre = work.pose.over_plate(np.array(step["centre_mm"], float))
    try:
        for tool in sized(work.placed, step["key"], centre, given, *axis_of(work.pose, step)):
            try:
                tool = original(work.fitting(tool, bool(step.get("may_fill"))))
            except Impossible as no:
                why = why or str(no)
                continue
            no = work.try_together([(-1, None, tool, tool.key)], (step["kind"], centre))
            if no is None:
                return None
            why = why or no.why
    except Impossible as no:
        return str(no)
    return why


def _outcome(work: Workbench, before: PlacedPart) -> Adapted:
    placed = work.placed
    left = [Left(r, work.pose.in_part(r.centre), _why(work, r)) for r in placed.truth.regions if r.needs_support]
    marks = np.zeros(len(placed.mesh.faces), np.int64)
    if work.applied:
        by = made_by(work.solid)
        for number, done in enumerate(work.applied, start=1):
            marks[np.isin(by, [done.tool.add.original_id(), done.tool.remove.original_id()])] = number
    open_ = {place_of(r) for r in placed.truth.regions if r.needs_support}
    asked = [q for (place, _), q in work.questions.items() if place in open_]
    mesh = work.pose.lying_back(placed.mesh)
    return Adapted(mesh, before, placed, work.applied, left, marks, questions=asked)


def _why(work: Workbench, region: Overhang) -> list[str]:
    """Why each remedy of a region was not taken, every reason once."""
    return list(dict.fromkeys(work.refused.get(place_of(region), {}).values())) or [NO_REMEDY]
