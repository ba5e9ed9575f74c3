"""A lump made into a shell: the ways of carrying its roof, each proved, the one that takes out most kept."""

from dataclasses import replace

from manifold3d import Manifold, OpType

from hewel_engine.advice.placed_part import PlacedPart, same_region
from hewel_engine.edits.fans import OVERLAP, column
from hewel_engine.edits.hollows import LEAST_ROOM, Shell, hollow, ribbed, roofed, rooms_of
from hewel_engine.edits.tools import Impossible, Tool
from hewel_engine.processes import Process
from hewel_engine.walls.lines import USUAL, Comb

ROUNDS = 3
"""How often what hangs into a room is carried down to its floor; it may show what hung above it."""


def hollow_tool(placed: PlacedPart, given: dict[str, float]) -> Tool:
    """Hollows the part: under a roof over each room, under one over its lowest ceiling, or with ribs a clean bridge
    apart, whichever takes out most and leaves nothing that hangs; one of them where a pitch is ``given``. The wall is
    of whole lines where none is given. Raises Impossible.
    """
    process = placed.process
    wall = given.get("wall_mm", usual_wall(process))
    shell = Shell(wall, given.get("floor_mm", wall), given.get("pitch_mm", 0.0), given.get("hole_mm", 0.0))
    ways, why = _ways(placed, shell, "pitch_mm" in given)
    best: Tool | None = None
    for each, rooms in sorted(ways, key=lambda way: -_volume(way[1])):
        if best and _volume(rooms) <= best.numbers["taken_mm3"]:
            break  # what is carried down only makes it less
        try:
            tool = hollow(_nothing_hangs(placed, rooms), each, process)
        except Impossible as no:
            why = why or no
            continue
        if best is None or tool.numbers["taken_mm3"] > best.numbers["taken_mm3"]:
            best = tool
    if best is None:
        raise why or Impossible("There is nothing to take out.")
    return best


def usual_wall(process: Process) -> float:
    """mm of whole lines nearest to what serves most enclosures."""
    return float(min(Comb.of(process).good, key=lambda w: abs(w - USUAL)))


def _ways(
    placed: PlacedPart, shell: Shell, result: bool
) -> tuple[list[tuple[Shell, list[Manifold]]], Impossible | None]:
    """(the shell, its rooms) for every way of carrying the roof that is open, and why the first that is not is not.
    Raises Impossible where nothing is worth taking out.
    """
    process, rooms = placed.process, rooms_of(placed.mesh, shell)
    between = replace(shell, pitch=shell.pitch or process.clean_bridge)
    tries = [] if shell.pitch > 0 else [(shell, lambda: roofed(rooms, process, False)),
                                        (shell, lambda: roofed(rooms, process, True))]  # fmt: skip
    if not result or shell.pitch > 0:
        tries.append((between, lambda: ribbed(rooms, between)))
    found, why = [], None
    for each, make in tries:
        try:
            found.append((each, make()))
        except Impossible as no:
            why = why or no
    return found, why


def _volume(rooms: list[Manifold]) -> float:
    return sum(room.volume() for room in rooms)


def _nothing_hangs(placed: PlacedPart, rooms: list[Manifold]) -> list[Manifold]:
    """The rooms without what lies under material that would hang in them. Raises Impossible where some still would."""
    room = Manifold.batch_boolean(rooms, OpType.Add)
    before = [r for r in placed.truth.regions if r.needs_support]
    hangs = []
    for _ in range(ROUNDS + 1):
        after = PlacedPart.after(placed.solid - room, placed.process)
        hangs = [r for r in after.truth.regions if r.needs_support and not any(same_region(r, old) for old in before)]
        if not hangs:
            return [part for part in room.decompose() if part.volume() > LEAST_ROOM]
        for region in hangs:
            points, faces = after.mesh.vertices, after.mesh.faces[region.facets]
            if len(faces) and points[faces][:, :, 2].min() > OVERLAP:
                room -= column(points, faces, 0.0, OVERLAP)
    first = hangs[0]
    raise Impossible(
        f"Inside, {first.kind.replace('_', ' ')} {first.low:.1f} mm up would hang, and what is below it is no floor to "
        "carry it from."
    )
