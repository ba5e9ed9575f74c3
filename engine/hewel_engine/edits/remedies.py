"""Every remedy by its name, once: what it is called, which of its numbers may be set, what it asks of a hand.

In which order they are tried for which kind of region stands in ``advice.proposals``, beside what makes them.
"""

from dataclasses import dataclass

from hewel_engine.edits.parameters import (
    ALONG,
    APEX,
    ARM_ROOT,
    ARM_THICK,
    ASLANT,
    BORE,
    BUTTRESS,
    BY,
    CAP,
    CATCH,
    CHORD,
    COVER,
    DEEP,
    DEPTH,
    DRAWN,
    EAR,
    EDGE,
    END_SHARE,
    FLANK,
    FLAT,
    FLOOR,
    GAP,
    GROOVES,
    HEIGHT,
    HIGH,
    HOLE,
    IN_SLOPE,
    INTO,
    INWARD,
    LEAN,
    LEANS,
    LEAVES,
    LETTERS,
    LONG,
    LONGER,
    NECK,
    NUT,
    NUT_SIDES,
    OUT_SLOPE,
    OUTER,
    PITCH,
    PLAY,
    POCKET,
    PULLS,
    RADIUS,
    REVISION,
    RIBS_APART,
    RISE,
    ROOT,
    ROUNDED,
    SEAT,
    SEAT_SIDES,
    SIDE,
    SIDES,
    SLIT,
    SUNK,
    TALL,
    THICKNESS,
    THREAD_PITCH,
    TOOTH,
    TURN,
    TURNED,
    UNDERCUT,
    WALL,
    WIDTH,
    Parameter,
    check_numbers,
)  # fmt: skip
from hewel_engine.processes import Process

REGION, PLATE, STEEL, FIT, FEATURE = "region", "plate", "hardware", "fit", "feature"
"""Places of remedies: a region that hangs, how the part stands, steel that goes in, a face that meets another part, a
face that something is made on; else the kind that is sized.
"""


@dataclass(frozen=True)
class Remedy:
    """One remedy. ``place``: where it is for."""

    key: str
    title: str
    parameters: tuple[Parameter, ...] = ()
    place: str = REGION
    hand: str = ""
    """What it asks of a hand after printing, with the usual caution."""
    support: bool = False
    """It is a support, if a designed one: not where the job wants none."""
    removed: bool = False
    """It is taken off by hand: the part has its own shape again."""
    thin: bool = False
    """Thin walls side by side."""
    from_core: bool = False
    """It takes from a core of sparse infill: its volume is not the plastic that is saved."""

    def as_dict(self) -> dict:
        return {"key": self.key, "title": self.title, "hand": self.hand, "from_core": self.from_core}


REMEDIES = (
    Remedy("teardrop", "Teardrop", (LEAN, CAP, APEX)),
    Remedy("capped_teardrop", "Capped teardrop", (LEAN, CAP)),
    Remedy("round_chamfer", "Chamfer into the round", (LEAN,)),
    Remedy("pointed_arch", "Pointed arch", (LEAN, FLAT)),
    Remedy("corner_chamfers", "Corner chamfers", (LEAN, FLAT)),
    Remedy("roof", "Roof carved upward", (LEAN, FLAT)),
    Remedy("gusset", "Gusset below it", (LEAN, FLAT)),
    Remedy("webs", "Webs below it", (LEAN, THICKNESS, PITCH), thin=True),
    Remedy(
        "fins", "Fins to break off", (THICKNESS, PITCH), support=True, removed=True, thin=True,
        hand="broken off by hand: pliers, eye protection",
    ),
    Remedy(
        "sprue", "Post with a neck", (THICKNESS, NECK), support=True, removed=True,
        hand="broken off by hand: eye protection, cut away from you",
    ),
    Remedy("pillar", "Pillar below it", (LEAN, THICKNESS), support=True),
    Remedy("stepped_bridging", "Stepped bridging", (TURN,)),
    Remedy("stepped_closing", "Closed in steps", (CHORD,)),
    Remedy(
        "membrane", "Membrane to drill out", (THICKNESS,),
        hand="drilled out by hand: clamp the part, eye protection",
    ),
    Remedy(
        "block", "Block to take out", (GAP, SIDE), support=True, removed=True,
        hand="taken out by hand after printing: pliers, eye protection",
    ),
    Remedy("filled_round", "Round filled to the plate"),
    Remedy("foot_chamfer", "Chamfer at the plate", (LEAN, INWARD), PLATE),
    Remedy("added_foot", "Foot added", (HEIGHT,), PLATE),
    Remedy("sliced_foot", "Foot cut flat", (HEIGHT,), PLATE),
    Remedy("wall", "Wall in whole lines", (THICKNESS,), "wall"),
    Remedy("hollow", "Hollow to a shell", (WALL, FLOOR, RIBS_APART, HOLE), "body", from_core=True),
    Remedy("column", "Column under the boss", (WALL, ROOT, ASLANT), "boss", from_core=True),
    Remedy("collar", "Collar round the hole", (WALL,), "bore"),
    Remedy("rounded_corner", "Rounded corner", (RADIUS,), "corner"),
    Remedy("ribs", "Ribs", (THICKNESS, TALL, PITCH, LEANS, SIDES), "flat"),
    Remedy("mark", "Revision mark", (REVISION, LETTERS, DEPTH), "flat"),
    Remedy("bolt", "Bolt", (BORE, SEAT, SEAT_SIDES, SUNK, NUT, NUT_SIDES, POCKET, COVER), STEEL),
    Remedy("rod", "Rod, glued in", (BORE, DEEP, WALL), STEEL),
    Remedy(
        "insert", "Insert, set with heat", (BORE, DEEP, WALL), STEEL,
        hand="set with a hot iron: the insert stays hot, fumes, ventilate",
    ),
    Remedy("key", "Keyway", (WIDTH, DEEP), STEEL),
    Remedy("boss", "Screw boss", (BORE, OUTER, RISE, DEEP), STEEL),
    Remedy("pad", "Seat of a metal pad", (BORE, DEEP), STEEL),
    Remedy("resized_bore", "Bore drawn for its fit", (DRAWN,), FIT),
    Remedy("resized_pin", "Pin drawn for its fit", (DRAWN,), FIT),
    Remedy("shifted_flat", "Flat moved", (BY,), FIT),
    Remedy("relieved_corner", "Inside corner relieved", (RADIUS,), FIT),
    Remedy("lengthened_arm", "Arm made longer", (LONGER,), FIT),
    Remedy("rounded_root", "Root of an arm rounded", (RADIUS,), FIT),
    Remedy(
        "snap", "Snap", (LONG, ARM_THICK, WIDTH, CATCH, IN_SLOPE, OUT_SLOPE, ARM_ROOT, END_SHARE, TURNED), FEATURE
    ),
    Remedy("window", "Window of a snap", (WIDTH, HIGH, INTO), FEATURE),
    Remedy("bead", "Bead of an annular snap", (UNDERCUT, IN_SLOPE, OUT_SLOPE), FEATURE),
    Remedy("groove", "Groove of an annular snap", (UNDERCUT, IN_SLOPE, OUT_SLOPE, PLAY), FEATURE),
    Remedy("thread", "Thread", (THREAD_PITCH, TOOTH, ALONG, PLAY, FLANK, BUTTRESS, PULLS), FEATURE),
    Remedy("clamp", "Clamp", (SLIT, BORE, EAR), FEATURE),
    Remedy("serpentine", "Spring of leaves", (LEAVES, ARM_THICK, LONG, WIDTH, PLAY), FEATURE),
    Remedy("texture", "Texture that hides layers", (GROOVES, DEPTH), FEATURE),
    Remedy("broken_edges", "Edges broken", (EDGE, ROUNDED), FEATURE),
)  # fmt: skip
BY_KEY = {r.key: r for r in REMEDIES}
FOR_STEEL = tuple(r.key for r in REMEDIES if r.place == STEEL)
"""Each at a place and along an axis of its own, with all of its numbers."""
FOR_FIT = tuple(r.key for r in REMEDIES if r.place == FIT)
"""Each at a face and along its axis or normal."""
FEATURES = tuple(r.key for r in REMEDIES if r.place == FEATURE)
"""Each at a place that was pointed at, along the outward normal of its face there."""
WITH_STAGES = (*FOR_STEEL, *FOR_FIT, *FEATURES)
"""Those that are asked for on stages of their own, at a place: no region proposes them."""
KEYS = tuple(BY_KEY)
AT_THE_PLATE = tuple(r.key for r in REMEDIES if r.place == PLATE)
SIZED = {r.key: r.place for r in REMEDIES if r.place not in (REGION, PLATE)}
"""What sizes walls, bosses, holes, corners and faces, for no region, and what each is for; when named."""


def checked(key: str, given: dict[str, float], process: Process) -> dict[str, float]:
    """What was typed for a remedy. Raises InputError ``bad_options`` where it has no such number or not that much."""
    named = f"A {key.replace('_', ' ')}"
    check_numbers(named, BY_KEY[key].parameters, given, lambda p: p.most(process))
    return given
