"""A part on the bench: remedies done on its solid, each proved by checking the layers again, or taken back.

A remedy stays only while the solid is closed, what it was for wants no support any more (but for a rest that is looked
at again), nothing else wants any that did not before, every bore still takes its pin, what stays free is free and no
protected face is touched; and, within the bounds, while the part changes little and holds what it held.
"""

from dataclasses import dataclass, field, replace

import numpy as np
from manifold3d import Manifold

from hewel_engine.advice.bounds import Bounds
from hewel_engine.advice.placed_part import PlacedPart, reach_of, same_region
from hewel_engine.advice.proposals import variants, ways_for
from hewel_engine.advice.protected import Clear, Filled, guarded, touches
from hewel_engine.edits.exact import Edit
from hewel_engine.edits.remedies import BY_KEY, SIZED, WITH_STAGES
from hewel_engine.edits.solids import bodies, dusted, mesh_of, sound
from hewel_engine.edits.tools import Impossible, Tool
from hewel_engine.geometry.features import Bore
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.sections import Pose
from hewel_engine.overhangs.truth import Overhang
from hewel_engine.processes import Process

MOST = 1.0
"""Share of the part's volume that one remedy may add where nothing else bounds it."""
LITTLE = 300.0
"""mm³ that a remedy may add to any part: less than half a gram."""
MORE = 1.005
"""Factor by which the support volume may seem to grow: it is a sum over spots."""
REST = 0.5
"""Share of a region that may still need support after thin walls stand below it, such as round a screw's hole: it is
looked at again as a region of its own.
"""
MOST_LOOKS = 40
"""Times that a part is checked again before what is left is left."""
NEAR = 1.0
"""mm beside a region within which what is left of it lies."""
LOWERED = 1e-6
"""mm above the plate from which on a part is lowered onto it again."""
BRIDGED = ("stepped_bridging", "stepped_closing", "membrane", "hollow", "column", "collar", "webs", "fins", "mark",
           *WITH_STAGES)  # fmt: skip
"""What leaves a bridge where something hung, over a hollow, in a letter, a bore drawn wider: what lies below it counts
as support volume all the same.
"""


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
    def change(self) -> float:
        """mm³."""
        return self.added + self.removed

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
class Question:
    """A remedy that would fill a space which looks used: done only when somebody says so."""

    key: str
    kind: str
    centre: Array
    """In the part's own frame."""
    space: str
    filled: float
    words: str

    def as_dict(self) -> dict:
        return {
            "key": self.key, "kind": self.kind, "centre_mm": self.centre.tolist(), "space": self.space,
            "filled_mm3": self.filled, "words": self.words,
        }  # fmt: skip


Row = tuple[int, Overhang | None, Tool, str]
"""A remedy to be tried: the number of its region (−1 for none), the region, what is done, and the name of the way."""
Place = tuple[str, Array]
"""What a remedy for no region is for, and where."""


@dataclass(frozen=True)
class Refusal:
    """Why rows were taken back; ``at_fault`` those that it is known to lie with, each with its reason; none where it
    may be any.
    """

    why: str
    at_fault: dict[int, str] = field(default_factory=dict)
    too_much: bool = False


@dataclass
class Workbench:
    """The part on the bench: the solid as it is, and what must not be lost of it."""

    solid: Manifold
    placed: PlacedPart
    pose: Pose
    bounds: Bounds
    clear: Clear
    guarded: Array
    """(n, 3) points just outside and just inside the protected faces."""
    supports: bool
    """Whether posts and pillars may be designed into the part."""
    volume: float
    """mm³ of the part as it came."""
    applied: list[Applied] = field(default_factory=list)
    refused: dict[tuple, dict[str, str]] = field(default_factory=dict)
    """By place: why each way was not taken."""
    questions: dict[tuple, Question] = field(default_factory=dict)
    looks: int = 0
    """How often the part was checked again."""

    @classmethod
    def of(
        cls, mesh: Mesh, up: Array, process: Process, bores: list[Bore], protected: np.ndarray | None, supports: bool,
        bounds: Bounds,
    ) -> "Workbench":  # fmt: skip
        placed, pose = PlacedPart.stood(mesh, up, process, bores)
        clear = bounds.clear(placed, pose)
        solid = placed.solid.as_original()
        return cls(solid, placed, pose, bounds, clear, guarded(placed.mesh, protected), supports, solid.volume())

    @property
    def changed(self) -> float:
        """mm³ that remedies have added and taken away so far; what sizes a part is asked for by name, in mm, so it does
        not count.
        """
        return sum(a.change for a in self.applied if a.tool.key not in SIZED)

    def look_round(self, keys: tuple[str, ...] | None) -> bool:
        """Tries every region that wants something once; whether there was anything to try."""
        found: list[Row] = []
        for number in self.placed.wanting(self.bounds.full, self.bounds.fitted(self.pose)):
            region = self.placed.truth.regions[number]
            made = self.first_way(region, keys)
            if made:
                found.append((number, region, original(made[0]), made[1]))
        self._proved(found)
        return bool(found)

    def _proved(self, rows: list[Row]) -> None:
        """Keeps as many of the rows as hold: all at once, without those that are at fault, or half by half."""
        if not rows:
            return
        no = self.try_together(rows)
        if no is None:
            return
        at_fault = {0: no.why} if len(rows) == 1 else no.at_fault
        for i, why in at_fault.items():
            _, region, tool, name = rows[i]
            reasons = self.refused.setdefault(place_of(region), {})
            # Too much of one may be a smaller one; what did not hold does not hold as another variant either.
            for other in (name,) if no.too_much else (name, *variants(tool.key)):
                reasons[other] = f"{named(tool.key)}: {why}"
        rest = [row for i, row in enumerate(rows) if i not in at_fault]
        if at_fault:
            self._proved(rest)
        else:
            half = len(rows) // 2
            self._proved(rows[:half])
            self._proved(rows[half:])

    def try_together(self, rows: list[Row], place: Place | None = None) -> Refusal | None:
        """Does some remedies together and keeps them; what is wrong with the result, where they were taken back. One
        for no region may name the ``place`` that it is for.
        """
        solid = self.solid
        for _, _, tool, _ in rows:
            solid = tool.on(solid)
        solid = dusted(solid)
        if not sound(solid):
            return Refusal("It would leave a surface that is not closed.")
        made = [self._applied(row, place) for row in rows]
        no = self._too_much(made)
        if no:
            return no
        low = 0.0 if solid.is_empty() else solid.bounding_box()[2]
        self.looks += 1
        after = PlacedPart.after(solid.translate((0, 0, -low)) if low > LOWERED else solid, self.placed.process)
        no = self._rejection(rows, made, solid, after)
        if no is None:
            self.applied += made
            self.solid, self.placed = solid, after
            if low > LOWERED:
                self._lower(low)
        return no

    def _too_much(self, made: list[Applied]) -> Refusal | None:
        """Why so much may not be changed; the remedy that changes most is at fault."""
        if self.bounds.full:
            return None
        change = [0.0 if a.tool.key in SIZED else a.change for a in made]
        whole = (self.changed + sum(change)) / self.volume
        if sum(change) == 0 or whole <= self.bounds.most_change:
            return None
        most = int(np.argmax(change))
        alone = change[most] / self.volume
        why = (
            f"It would change the part by {100 * alone:.0f} % of its volume, with the other steps by "
            f"{100 * whole:.0f} %; {100 * self.bounds.most_change:.0f} % is the most that steps together may."
        )
        return Refusal(why, {most: why}, too_much=True)

    def _rejection(self, rows: list[Row], made: list[Applied], solid: Manifold, after: PlacedPart) -> Refusal | None:
        """What is wrong with the result; None where it is better."""
        before = self.placed
        if not after.mesh.closed:
            return Refusal("It would leave a surface that is not closed.")
        separate = sum(len(tool.add.decompose()) for _, _, tool, _ in rows if tool.key == "block")
        if bodies(solid) > bodies(self.solid) + separate:
            return Refusal("It would leave a loose piece.")
        bridged = all(tool.key in BRIDGED for _, _, tool, _ in rows)
        if not bridged and after.truth.support_volume > MORE * before.truth.support_volume + 1e-6:
            return Refusal(
                f"More support would be wanted than before: {after.truth.support_volume:.0f} mm³ instead of "
                f"{before.truth.support_volume:.0f} mm³."
            )
        return self._still_hangs(rows, after) or self._weaker(made, solid)

    def _still_hangs(self, rows: list[Row], after: PlacedPart) -> Refusal | None:
        """What needs support that did not before, and remedies that leave more than REST of what they were for."""
        old = [r for r in self.placed.truth.regions if r.needs_support]
        treated = {id(region): i for i, (_, region, _, _) in enumerate(rows) if region is not None}
        left, found = np.zeros(len(rows)), {}
        anywhere = None
        for region in after.truth.regions:
            if not region.needs_support:
                continue
            same = next((r for r in old if same_region(r, region)), None)
            if same is not None and id(same) not in treated:
                continue
            row = treated[id(same)] if same is not None else self._rest_of(rows, region)
            if row is None and any(_within(tool.embeds, region) for _, _, tool, _ in rows):
                continue
            if row is None:
                near = [i for i, (_, _, tool, _) in enumerate(rows) if _reaches(tool, region)]
                why = f"It would make a new finding: {named(region.kind)} {region.low:.1f} mm up."
                if 0 < len(near) < len(rows):
                    found |= {i: why for i in near if i not in found}
                else:
                    anywhere = anywhere or why
                continue
            left[row] += region.area
        may = [
            REST * region.area if region is not None and BY_KEY[tool.key].thin else 0.0 for _, region, tool, _ in rows
        ]
        why = "What it was for would still need support."
        found |= {i: why for i in range(len(rows)) if left[i] > may[i] + 1e-9 and i not in found}
        if found or anywhere:
            return Refusal(anywhere or next(iter(found.values())), found)
        return None

    def _rest_of(self, rows: list[Row], region: Overhang) -> int | None:
        """The row whose region this is a rest of: within its outline and not an island."""
        if self.bounds.full or region.kind == "island":
            return None
        for i, (_, whole, tool, _) in enumerate(rows):
            if whole is None or not len(whole.facets) or not BY_KEY[tool.key].thin:
                continue
            spots = self.placed.mesh.triangles[whole.facets].reshape(-1, 3)
            low, high = spots.min(axis=0) - NEAR, spots.max(axis=0) + NEAR
            low[2] -= NEAR
            high[2] += reach_of(whole)
            if ((region.centre >= low) & (region.centre <= high)).all() and region.area < whole.area:
                return i
        return None

    def _weaker(self, made: list[Applied], solid: Manifold) -> Refusal | None:
        """What of its reserve the part would lose."""
        holds = self.bounds.holds
        if holds is None or self.bounds.full:
            return None
        up = self.pose.turn[2]
        lost = holds.lost(self.pose.lying_back(mesh_of(solid)), up)
        if lost is None:
            return None
        return Refusal(f"It would take the least reserve from {lost[0]:.2f} to {lost[1]:.2f}.")

    def _lower(self, by: float) -> None:
        """What stood on ``by`` mm that were cut off stands on the plate again."""
        down = np.array([0, 0, -by])
        self.solid, self.clear = self.solid.translate(down), self.clear.lowered(by)
        self.pose = replace(self.pose, shift=self.pose.shift + down)
        self.guarded = self.guarded + down

    def first_way(
        self, region: Overhang, keys: tuple[str, ...] | None, given: dict[str, float] | None = None, asked: bool = False
    ) -> tuple[Tool, str] | None:
        """The first remedy of a region that can be made and was not taken back before, and the name of its way."""
        reasons = self.refused.setdefault(place_of(region), {})
        if self.looks >= MOST_LOOKS and not keys:
            reasons.setdefault("", f"The part was checked {self.looks} times; other remedies were not tried here.")
            return None
        for way in ways_for(self.placed, region, self.clear, self.bounds.full, keys, self.supports, given):
            if way.name in reasons:
                continue
            try:
                tool = way.make()
                if tool.add.volume() + tool.remove.volume() > way.most * self.volume:
                    continue
                return self.fitting(tool, asked), way.name
            except Filled as no:
                reasons[way.name] = f"{named(way.key)}: {no}"
                self._ask(region, way.key, no)
            except Impossible as no:
                reasons[way.name] = f"{named(way.key)}: {no}"
        return None

    def fitting(self, tool: Tool, asked: bool = False) -> Tool:
        """The tool clear of pins. Raises Impossible where it may not be used on this part."""
        if tool.key != "membrane":
            tool = self.clear.without_pins(tool)
        if tool.add.is_empty() and tool.remove.is_empty():
            raise Impossible("It would change nothing.")
        if self.bounds.full and tool.key not in SIZED and tool.add.volume() > max(MOST * self.solid.volume(), LITTLE):
            raise Impossible(
                f"It would take {tool.add.volume():.0f} mm³ of plastic, more than the part itself: another "
                "direction, or two pieces, cost less."
            )
        self.clear.check(tool, self.solid, BY_KEY[tool.key].removed, asked)
        if self.touches(tool):
            raise Impossible("It would change a face that must stay as it is.")
        return tool

    def touches(self, tool: Tool) -> bool:
        """Whether it would change a protected face."""
        return touches(tool, self.guarded)

    def _ask(self, region: Overhang, key: str, no: Filled) -> None:
        centre = self.pose.in_part(region.centre)
        found = Question(key, region.kind, centre, no.space.name, no.volume, f"{named(key)}: {no}")
        self.questions.setdefault((place_of(region), key), found)

    def _applied(self, row: Row, place: Place | None) -> Applied:
        number, region, tool, _ = row
        added, removed = (tool.add - self.solid).volume(), (tool.remove ^ self.solid).volume()
        if region:
            kind, low, centre = region.kind, region.low, region.centre
        elif place:
            kind, centre = place
            low = float(centre[2])
        else:
            kind, low, centre = "plate", 0.0, np.array([*self.placed.middle, 0.0])
        return Applied(tool, number, kind, low, added, removed, self.pose.in_part(centre), self.pose)


def original(tool: Tool) -> Tool:
    """The tool as solids that are known again in what they are joined to."""
    return replace(tool, add=tool.add.as_original(), remove=tool.remove.as_original())


def named(key: str) -> str:
    return key.replace("_", " ")


def place_of(region: Overhang) -> tuple:
    """What a region is remembered by while nothing of it changes."""
    return (region.kind, round(region.area), *np.round(region.centre, 1))


def _reaches(tool: Tool, region: Overhang) -> bool:
    """Whether a region lies in the box round what a tool changes."""
    return _within(tool.add, region) or _within(tool.remove, region)


def _within(body: Manifold, region: Overhang) -> bool:
    """Whether a region lies in the box round a body."""
    if body.is_empty():
        return False
    box = np.array(body.bounding_box())
    return bool((region.centre >= box[:3] - NEAR).all() and (region.centre <= box[3:] + NEAR).all())
