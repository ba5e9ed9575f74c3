"""Places for steel in a printed part: through holes with seats and pockets for nuts, blind holes, keyways, bosses,
seats of pads. Lengths mm, over the plate.
"""

from dataclasses import dataclass, replace
from math import cos, pi, radians

import numpy as np
from manifold3d import Manifold, OpType

from hewel_engine.edits.bores import across
from hewel_engine.edits.exact import Cone, Shape, flats_of
from hewel_engine.edits.fans import OVERLAP
from hewel_engine.edits.solids import mesh_of
from hewel_engine.edits.tools import Impossible, Tool, skin
from hewel_engine.geometry.frames import unit
from hewel_engine.geometry.mesh import Array
from hewel_engine.processes import Process, layers_of

SIDES = 64
"""Of a round hole; drawn outside its circle."""
NEEDLES = 12
"""Places round an axis at which it is looked how deep the part is."""
NEEDLE = 0.02
WALLED = 0.995
"""Share of the wall round a hole that is there at least: the rest is rounding of facets."""
UPRIGHT, LEVEL = cos(radians(5)), cos(radians(85))
"""|axis·up| from which on an axis stands, and up to which it lies."""
DOWNWARD = -0.5
"""Height of the way out of a seat below which the seat is a ceiling."""
MEMBRANE = 2
"""Layers that close the hole in a ceiling: it bridges like any other, and is drilled out."""
PROUD = 1.0
"""mm by which a cut reaches out of the face that it starts from."""
LEAD_IN = 0.5
"""mm of the chamfer at the mouth of a hole for an insert."""
LEAST_GRIP = 1.0
TIP = 1.0
"""mm of room for the end of a bolt beyond its nut in a closed pocket."""


@dataclass(frozen=True, eq=False)
class Line:
    """The axis of a fastener: from ``point`` (3,) on the face it goes in at, along ``way`` (3,), into the part."""

    point: Array
    way: Array

    def at(self, along: float) -> Array:
        return self.point + along * self.way

    @property
    def frame(self) -> Array:
        """(3, 3) columns: sideways, upward (of an axis that lies: as nearly as can be), along."""
        if abs(self.way[2]) > UPRIGHT:
            beside = unit(np.cross([0.0, 1.0, 0.0], self.way))
            return np.column_stack([beside, np.cross(self.way, beside), self.way])
        beside, above = across(self.way)
        return np.column_stack([np.cross(above, self.way), above, self.way])

    def prism(self, low: float, high: float, wide: float, sides: int = 0) -> Manifold:
        """From ``low`` to ``high`` mm along the axis, ``wide`` mm across its flats, one of them upward; without
        ``sides`` round.
        """
        count = sides or SIDES
        body = Manifold.cylinder(high - low, wide / 2 / cos(pi / count), circular_segments=count)
        body = body.rotate((0, 0, 90 - 180 / count))
        return body.transform(np.c_[self.frame, self.at(low)])

    def exactly(self, low: float, high: float, wide: float, sides: int = 0) -> list[Shape]:
        """The same for an exact solid."""
        if sides:
            return flats_of(self.prism(low, high, wide, sides))
        return [Cone(self.at(low), self.way, (wide / 2, wide / 2), high - low)]


@dataclass(frozen=True)
class End:
    """What sits at one end of a bolt: ``wide`` mm across what takes it in, with so many ``sides`` (0: round), ``deep``
    mm below the face, ``cover`` mm of the part left over it (0: it is open to the face).
    """

    wide: float
    sides: int = 0
    deep: float = 0.0
    cover: float = 0.0


def depths(solid: Manifold, line: Line, radius: float, named: str) -> tuple[Array, Array, float]:
    """(n,), (n,) mm along the axis at which the part begins and ends at places ``radius`` mm round it: of each the
    stretch of material that begins nearest to the point; and the narrowest gap behind it (inf: there is nothing).
    Raises Impossible where a place has none.
    """
    x0, y0, z0, x1, y1, z1 = solid.bounding_box()
    far = float(np.linalg.norm([x1 - x0, y1 - y0, z1 - z0])) + 2 * radius
    turns = 2 * pi * (np.arange(NEEDLES) + 0.5) / NEEDLES
    ring = radius * (np.cos(turns)[:, None] * line.frame[:, 0] + np.sin(turns)[:, None] * line.frame[:, 1])
    needles = [Line(line.point + off, line.way).prism(-far, far, NEEDLE, 3) for off in ring]
    pieces = (Manifold.batch_boolean(needles, OpType.Add) ^ solid).decompose()
    spans: list[list[tuple[float, float]]] = [[] for _ in ring]
    for piece in pieces:
        points = mesh_of(piece).vertices - line.point
        along = points @ line.way
        number = int(np.argmin(np.linalg.norm(ring - (points.mean(axis=0) - along.mean() * line.way), axis=1)))
        spans[number].append((float(along.min()), float(along.max())))
    near = [min(own, key=lambda s: abs(s[0]), default=None) for own in spans]
    missing = sum(s is None or abs(s[0]) > 2 * radius + PROUD for s in near)
    if missing == NEEDLES:
        raise Impossible(f"{named} stands where there is no material along its axis.")
    if missing:
        raise Impossible(f"{named} would stand over the edge: {missing} of {NEEDLES} places round it have no material.")
    gaps = [low - mine[1] for own, mine in zip(spans, near, strict=True) for low, _ in own if low > mine[1]]
    return np.array([s[0] for s in near]), np.array([s[1] for s in near]), min(gaps, default=np.inf)


def walled(solid: Manifold, line: Line, low: float, high: float, wide: float, sides: int, wall: float) -> bool:
    """Whether ``wall`` mm of material stand all round a hole."""
    tube = line.prism(low, high, wide + 2 * wall, sides) - line.prism(low - PROUD, high + PROUD, wide, sides)
    return (tube ^ solid).volume() >= WALLED * tube.volume()


def _wall_wanted(solid: Manifold, line: Line, low: float, high: float, end: End, process: Process, named: str) -> None:
    least = skin(process)
    if high > low and not walled(solid, line, low, high, end.wide, end.sides, least):
        raise Impossible(f"{named} would break through: less than {least:.2f} mm of wall would be left beside it.")


def _pause(body: Manifold, process: Process) -> float:
    """mm: where printing stops so that something can be dropped into ``body``."""
    return layers_of(body.bounding_box()[5], process.layer) * process.layer


def bolt(solid: Manifold, line: Line, process: Process, hole: float, head: End, nut: End) -> Tool:
    """A through hole ``hole`` mm wide with a seat for the head where the line goes in and one for the nut at its other
    end. Where the face is not square to the axis its seat is sunk until it is whole. A seat that looks down keeps a
    membrane over the hole. Raises Impossible.
    """
    seat = lambda end: max((hole + end.wide) / 4, hole / 2 + 0.2)
    begins, *_ = depths(solid, line, seat(head), "The head")
    _, ends, gap = depths(solid, line, seat(nut), "The nut")
    if gap < nut.wide and nut.cover == 0:
        raise Impossible(
            f"{ends.min():.1f} mm in the axis runs into a gap of {gap:.1f} mm: a nut cannot be put in there."
        )
    head_at, face = float(begins.max()) + head.deep, float(ends.min())
    nut_at = face - nut.deep - nut.cover
    grip = nut_at - head_at
    if grip < LEAST_GRIP:
        raise Impossible(f"Only {max(grip, 0.0):.1f} mm of the part would be left between head and nut.")
    if nut.cover > 0 and LEVEL <= abs(line.way[2]) <= UPRIGHT:
        raise Impossible("A closed pocket for the nut needs an axis that stands or lies: it is dropped in.")
    _wall_wanted(solid, line, head_at, nut_at, End(hole), process, "The hole")
    _wall_wanted(solid, line, float(begins.max()), head_at, head, process, "The seat of the head")
    _wall_wanted(solid, line, nut_at, nut_at + nut.deep, nut, process, "The nut's pocket")
    if 0 < nut.cover < skin(process):
        raise Impossible(f"Over a closed pocket at least {skin(process):.2f} mm of material are wanted.")
    low, high, words = head_at, nut_at, []
    if -line.way[2] < DOWNWARD and head_at > begins.min() + 1e-6:
        low += MEMBRANE * process.layer
    if line.way[2] < DOWNWARD and nut.deep > 0 and nut.cover == 0:
        high -= MEMBRANE * process.layer
    if (low, high) != (head_at, nut_at):
        words.append(f"A membrane of {MEMBRANE * process.layer:.2f} mm closes the hole in the ceiling: drill it out.")
    cuts: list[tuple[float, float, float, int]] = [(low, high, hole, 0)]
    if head_at > begins.min() + 1e-6:
        cuts.append((float(begins.min()) - PROUD, head_at, head.wide, head.sides))
    numbers = {"grip_mm": grip, "head_at_mm": head_at, "nut_at_mm": nut_at, "hole_mm": hole}
    if nut.cover > 0:
        pocket = line.prism(nut_at, nut_at + nut.deep, nut.wide, nut.sides)
        cuts.append((nut_at, nut_at + nut.deep, nut.wide, nut.sides))
        if nut.cover - skin(process) > TIP:
            cuts.append((nut_at + nut.deep - 1e-3, nut_at + nut.deep + TIP, hole, 0))
        numbers["pause_mm"] = _pause(pocket, process)
        words.append(
            f"Pause at {numbers['pause_mm']:.2f} mm and drop the nut in; nothing may stand proud of the layer."
        )
    elif nut.deep > 0 or ends.max() > face + 1e-6:
        cuts.append((nut_at, float(ends.max()) + PROUD, nut.wide, nut.sides))
    if low == head_at and head_at <= begins.min() + 1e-6:
        cuts[0] = (low - PROUD, high, hole, 0)
    if high == nut_at and nut.deep == 0 and nut.cover == 0 and ends.max() <= face + 1e-6:
        cuts[0] = (cuts[0][0], high + PROUD, hole, 0)
    shape = {0: "⌀ {:.2f} mm", 4: "{:.2f} mm square", 6: "{:.2f} mm across flats"}
    sunk = head_at - float(begins.min())
    said = [f"Drill ⌀ {hole:.2f} mm through, {grip:.1f} mm between the seats."]
    if sunk > 0.01:
        said.append(f"Sink the head's seat, {shape[head.sides].format(head.wide)}, {sunk:.2f} mm.")
    if nut.deep > 0:
        where = f"under {nut.cover:.1f} mm of material" if nut.cover else "open to the face"
        said.append(f"Pocket for the nut, {shape[nut.sides].format(nut.wide)}, {nut.deep:.2f} mm deep, {where}.")
    made = _cut("bolt", line, cuts, " ".join([*said, *words]), numbers)
    return replace(made, embeds=line.prism(nut_at, nut_at + nut.deep, nut.wide, nut.sides)) if nut.cover else made


def _cut(key: str, line: Line, cuts: list[tuple[float, float, float, int]], words: str, numbers: dict) -> Tool:
    body = Manifold.batch_boolean([line.prism(*cut) for cut in cuts], OpType.Add)
    exact = [shape for cut in cuts for shape in line.exactly(*cut)]
    return Tool(key, words, numbers, remove=body, removes=exact)


def blind_hole(
    solid: Manifold, line: Line, process: Process, hole: float, deep: float, wall: float, key: str, lead_in: float = 0.0
) -> Tool:
    """A hole ``hole`` mm wide and ``deep`` mm deep with ``wall`` mm of material round it; where that is missing, a
    collar is put round it. Raises Impossible.
    """
    named = {"rod": "The rod"}.get(key, "The insert")
    begins, ends, _ = depths(solid, line, hole / 2 + skin(process) / 2, named)
    face, floor = float(begins.max()), float(ends.min())
    if floor - face - deep < skin(process):
        raise Impossible(
            f"{named} would break through: a hole {deep:.1f} mm deep leaves {floor - face - deep:.2f} mm of the "
            f"{floor - face:.1f} mm that are there; {skin(process):.2f} mm are wanted."
        )
    add = Manifold()
    words = f"Hole ⌀ {hole:.2f} mm, {deep:.1f} mm deep."
    if not walled(solid, line, face, face + deep, hole, 0, wall):
        outer = hole + 2 * wall
        foot = Manifold.cylinder(wall, outer / 2, hole / 2, circular_segments=SIDES)  # so that it does not hang
        add = line.prism(face, face + deep, outer) + foot.transform(np.c_[line.frame, line.at(face + deep)])
        words += f" A collar ⌀ {outer:.2f} mm round it gives it {wall:.2f} mm of wall."
    cuts = [(float(begins.min()) - PROUD, face + deep, hole, 0)]
    made = _cut(key, line, cuts, words, {"hole_mm": hole, "depth_mm": deep, "wall_mm": wall, "head_at_mm": face})
    remove, removes = made.remove, list(made.removes)
    if lead_in > 0:
        wide = hole / 2 + lead_in
        cone = Manifold.cylinder(lead_in, wide / cos(pi / SIDES), hole / 2 / cos(pi / SIDES), circular_segments=SIDES)
        remove += cone.transform(np.c_[line.frame, line.at(face)])
        removes.append(Cone(line.at(face), line.way, (wide, hole / 2), lead_in))
    outer = hole / 2 + wall
    collar = [Cone(line.at(face), line.way, (outer, outer), deep),
              Cone(line.at(face + deep), line.way, (outer, hole / 2), wall)]  # fmt: skip
    return Tool(key, made.words, made.numbers, add=add - remove, remove=remove, removes=removes,
                adds=[] if add.is_empty() else collar)  # fmt: skip


def keyway(solid: Manifold, start: Array, end: Array, way: Array, process: Process, wide: float, deep: float) -> Tool:
    """A slot for a key from ``start`` to ``end`` on a face, ``wide`` mm across and ``deep`` mm along ``way``, into the
    part. Raises Impossible.
    """
    length = float(np.linalg.norm(end - start))
    if length < wide:
        raise Impossible("A key is longer than it is wide: point at two places farther apart.")
    along = (end - start) / length
    way = way - (way @ along) * along
    if np.linalg.norm(way) < 0.1:
        raise Impossible("The key would run into the part, not along its face.")
    way = unit(way)
    frame = np.column_stack([along, np.cross(way, along), way])

    def box(more: float, out: float, below: float) -> Manifold:
        size = (length + 2 * more, wide + 2 * more, deep + out + below)
        body = Manifold.cube(size).translate((-more, -size[1] / 2, -out))
        return body.transform(np.c_[frame, start])

    slot = box(0.0, PROUD, 0.0)
    room = box(0.0, 0.0, 0.0)
    filled = (room ^ solid).volume() / room.volume()
    if filled < 0.3:
        raise Impossible("The keyway lies outside the part: point at two places on the face that it is cut into.")
    least = skin(process)
    jacket = box(least, 0.0, least) - box(0.0, PROUD, 0.0)
    # What the slot is open to is no wall: only the lower half of its sides and its floor are asked for.
    jacket = jacket - box(2 * least, PROUD, -deep / 2)
    if (jacket ^ solid).volume() < WALLED * jacket.volume():
        raise Impossible(f"The keyway would break through: less than {least:.2f} mm would be left beside or below it.")
    words = f"Keyway {wide:.2f} mm wide, {deep:.2f} mm deep, {length:.1f} mm long."
    return Tool("key", words, {"width_mm": wide, "depth_mm": deep, "length_mm": length}, remove=slot)


def screw_boss(
    solid: Manifold, line: Line, process: Process, hole: float, outer: float, tall: float, deep: float
) -> Tool:
    """A boss ⌀ ``outer`` mm and ``tall`` mm high on a face, with a hole ``deep`` mm deep for a screw that cuts its own
    thread; ``tall`` 0: the hole alone. Raises Impossible.
    """
    begins, ends, _ = depths(solid, line, outer / 2, "The boss")
    face, wall = float(begins.min()), (outer - hole) / 2
    into = deep - tall
    if into > 0 and float(ends.min()) - float(begins.max()) - into < skin(process):
        raise Impossible(f"The hole would break through: {deep:.1f} mm are deeper than boss and wall together.")
    if wall < skin(process):
        raise Impossible(f"A boss ⌀ {outer:.1f} mm leaves {wall:.2f} mm of wall round a hole ⌀ {hole:.1f} mm.")
    if into > 0 and not walled(solid, line, float(begins.max()), float(begins.max()) + into, hole, 0, wall):
        raise Impossible(f"Less than {wall:.2f} mm of wall stand round the hole.")
    top = face - tall
    foot = float(begins.max()) + OVERLAP
    add = line.prism(top, foot, outer) if tall > 0 else Manifold()
    drilled = line.prism(top - PROUD, top + deep, hole)
    words = f"Boss ⌀ {outer:.1f} mm, {tall:.1f} mm high, with" if tall > 0 else "A"
    words += f" hole ⌀ {hole:.2f} mm, {deep:.1f} mm deep."
    numbers = {"hole_mm": hole, "outer_mm": outer, "height_mm": tall, "depth_mm": deep, "head_at_mm": top}
    adds = [Cone(line.at(top), line.way, (outer / 2,) * 2, foot - top)] if tall > 0 else []
    removes = [Cone(line.at(top - PROUD), line.way, (hole / 2,) * 2, deep + PROUD)]
    return Tool("boss", words, numbers, add=add - drilled, remove=drilled, adds=adds, removes=removes)


def pad_seat(solid: Manifold, line: Line, process: Process, wide: float, deep: float) -> Tool:
    """A flat seat for a metal pad under a screw's tip. Raises Impossible."""
    begins, ends, _ = depths(solid, line, wide / 2, "The pad")
    floor = float(begins.max()) + deep
    if float(ends.min()) - floor < skin(process):
        raise Impossible(f"Below the pad {float(ends.min()) - floor:.2f} mm of material would be left.")
    _wall_wanted(solid, line, float(begins.max()), floor, End(wide), process, "The seat of the pad")
    words = f"Seat ⌀ {wide:.2f} mm, {deep:.2f} mm deep, for a metal pad."
    numbers = {"diameter_mm": wide, "depth_mm": deep, "head_at_mm": floor}
    return _cut("pad", line, [(float(begins.min()) - PROUD, floor, wide, 0)], words, numbers)


def seated(solid: Manifold, key: str, line: Line, end: Array | None, given: dict[str, float], process: Process) -> Tool:
    """What one kind of steel wants of the solid along its axis; a key runs to its other ``end`` (3,). ``given``: every
    number of its remedy. Raises Impossible.
    """
    n = given.get
    try:
        if key == "bolt":
            head = End(given["seat_mm"], round(n("seat_sides_count", 0)), n("sunk_mm", 0.0))
            nut = End(given["nut_mm"], round(n("nut_sides_count", 6)), n("pocket_mm", 0.0), n("cover_mm", 0.0))
            made = bolt(solid, line, process, given["bore_mm"], head, nut)
        elif key in ("rod", "insert"):
            lead_in = LEAD_IN if key == "insert" else 0.0
            made = blind_hole(solid, line, process, given["bore_mm"], given["deep_mm"], given["wall_mm"], key, lead_in)
        elif key == "key":
            if end is None:
                raise Impossible("A key runs from one place to another: point at its other end too.")
            made = keyway(solid, line.point, end, line.way, process, given["width_mm"], given["deep_mm"])
        elif key == "boss":
            made = screw_boss(
                solid, line, process, given["bore_mm"], given["outer_mm"], n("rise_mm", 0.0), given["deep_mm"]
            )
        else:
            made = pad_seat(solid, line, process, given["bore_mm"], given["deep_mm"])
    except KeyError as missing:
        raise Impossible(f"It lacks a number: {missing.args[0]}.") from None
    return replace(made, used=dict(given))
