"""The numbers of remedies that a person may set; what is not set follows from the part and the process."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace

from hewel_engine.errors import InputError
from hewel_engine.processes import Process


@dataclass(frozen=True)
class Parameter:
    """``low`` and ``high``: what may be typed, in ``unit``; the part itself may allow less, and says so."""

    name: str
    words: str
    unit: str
    low: float
    high: float
    held_by_limit: bool = False
    """Whether the process's overhang limit bounds it too."""
    choices: tuple[str, ...] = ()
    """What 0, 1 … stand for, of one that is no amount."""

    def most(self, process: Process) -> float:
        """What may be typed at most under a process."""
        return min(self.high, process.limit) if self.held_by_limit else self.high

    def as_dict(self, value: float, process: Process) -> dict:
        return {
            "name": self.name,
            "words": self.words,
            "unit": self.unit,
            "value": value,
            "low": self.low,
            "high": self.most(process),
        }


def check_numbers(
    named: str, known: Iterable[Parameter], given: dict[str, float], most: Callable[[Parameter], float]
) -> None:
    """Raises InputError ``bad_options`` where something has no such number or not that much; ``most``: of each."""
    by_name = {p.name: p for p in known}
    for name, value in given.items():
        if name not in by_name:
            raise InputError("bad_options", f"{named} has no number {name!r}.", "It has: " + ", ".join(by_name) + ".")
        p = by_name[name]
        if not p.low <= value <= most(p):
            raise InputError(
                "bad_options",
                f"{p.words[0].upper()}{p.words[1:]}: {value:g} {p.unit} is not between {p.low:g} and {most(p):g}.",
                "Type a value in that range.",
            )


LEAN = Parameter("lean_deg", "lean from the vertical", "°", 5.0, 89.0, held_by_limit=True)
THICKNESS = Parameter("thickness_mm", "thickness", "mm", 0.4, 50.0)
NECK = Parameter("neck_mm", "thickness of its neck", "mm", 0.2, 20.0)
FLAT = Parameter("flat_mm", "strip left flat", "mm", 0.0, 100.0)
CAP = Parameter("cap_mm", "flat above the axis", "mm", 0.5, 500.0)
APEX = Parameter("apex_radius_mm", "radius where the planes meet", "mm", 0.0, 20.0)
INWARD = Parameter("inward_mm", "inward", "mm", 0.1, 5.0)
HEIGHT = Parameter("height_mm", "height", "mm", 0.1, 50.0)
TURN = Parameter("turn_deg", "turn of the slot from x", "°", 0.0, 180.0)
GAP = Parameter("gap_mm", "gap above and below", "mm", 0.1, 2.0)
SIDE = Parameter("side_mm", "gap beside", "mm", 0.1, 2.0)
CHORD = Parameter("chord_mm", "longest chord", "mm", 2.0, 50.0)
WALL = Parameter("wall_mm", "wall", "mm", 0.4, 50.0)
FLOOR = Parameter("floor_mm", "floor, 0: open to the plate", "mm", 0.0, 50.0)
RIBS_APART = Parameter("pitch_mm", "ribs apart, 0: none", "mm", 0.0, 200.0)
HOLE = Parameter("hole_mm", "hole in the floor, 0: none", "mm", 0.0, 50.0)
ROOT = Parameter("root_mm", "radius at its foot", "mm", 0.0, 20.0)
ASLANT = Parameter("aslant_deg", "leaning to the nearest wall, 0: straight down", "°", 0.0, 60.0, held_by_limit=True)
RADIUS = Parameter("radius_mm", "radius", "mm", 0.3, 50.0)
TALL = Parameter("height_mm", "height", "mm", 0.4, 200.0)
PITCH = Parameter("pitch_mm", "middle to middle", "mm", 2.0, 500.0)
SIDES = Parameter("sides_count", "faces of the wall with ribs, 1 or 2", "", 1.0, 2.0)
REVISION = Parameter("revision_count", "number of the revision", "", 1.0, 999.0)
LETTERS = Parameter("letters_mm", "height of its letters", "mm", 2.5, 30.0)
DEPTH = Parameter("depth_mm", "sunk", "mm", 0.2, 2.0)
BORE = Parameter("bore_mm", "hole", "mm", 0.8, 60.0)
SEAT = Parameter("seat_mm", "across the seat of its head", "mm", 1.5, 120.0)
SEAT_SIDES = Parameter("seat_sides_count", "sides of that seat, 0: round", "", 0.0, 6.0)
SUNK = Parameter("sunk_mm", "head sunk", "mm", 0.0, 300.0)
NUT = Parameter("nut_mm", "across its nut's pocket", "mm", 1.5, 120.0)
NUT_SIDES = Parameter("nut_sides_count", "sides of that pocket, 0: round", "", 0.0, 6.0)
POCKET = Parameter("pocket_mm", "depth of that pocket", "mm", 0.0, 300.0)
COVER = Parameter("cover_mm", "material over the pocket, 0: open", "mm", 0.0, 300.0)
DEEP = Parameter("deep_mm", "deep", "mm", 0.2, 500.0)
OUTER = Parameter("outer_mm", "outer diameter", "mm", 1.0, 120.0)
RISE = Parameter("rise_mm", "height over the face", "mm", 0.0, 200.0)
WIDTH = Parameter("width_mm", "width", "mm", 0.8, 60.0)
DRAWN = Parameter("to_mm", "diameter to be drawn", "mm", 0.3, 2000.0)
BY = Parameter("by_mm", "outward, below 0: inward", "mm", -5.0, 5.0)
LONG = Parameter("length_mm", "length", "mm", 1.0, 300.0)
ARM_THICK = Parameter("thickness_mm", "thickness", "mm", 0.4, 20.0)
CATCH = Parameter("catch_mm", "height of its catch", "mm", 0.1, 10.0)
IN_SLOPE = Parameter("in_deg", "slope going in", "°", 5.0, 90.0)
OUT_SLOPE = Parameter("out_deg", "slope coming out", "°", 5.0, 90.0)
ARM_ROOT = Parameter("root_mm", "radius at its root", "mm", 0.0, 20.0)
END_SHARE = Parameter("end_share", "taper to, share", "", 0.5, 1.0)
TURNED = Parameter("turn_deg", "turned", "°", -180.0, 180.0)
HIGH = Parameter("high_mm", "height", "mm", 0.4, 200.0)
INTO = Parameter("deep_mm", "depth", "mm", 0.2, 500.0)
UNDERCUT = Parameter("undercut_mm", "undercut, on diameter", "mm", 0.05, 10.0)
PLAY = Parameter("gap_mm", "play on each side", "mm", 0.0, 2.0)
THREAD_PITCH = Parameter("pitch_mm", "pitch", "mm", 0.8, 30.0)
TOOTH = Parameter("deep_mm", "depth of its teeth", "mm", 0.3, 15.0)
ALONG = Parameter("along_mm", "length", "mm", 1.0, 500.0)
FLANK = Parameter("flank_deg", "flank from square", "°", 3.0, 70.0)
BUTTRESS = Parameter("buttress_count", "form", "", 0.0, 1.0, choices=("trapezoid", "buttress"))
PULLS = Parameter("pulls_count", "its mate is", "", 0.0, 1.0, choices=("pushed in", "pulled out"))
SLIT = Parameter("slit_mm", "slit", "mm", 0.4, 20.0)
EAR = Parameter("ear_mm", "thickness of its ears", "mm", 1.0, 50.0)
LEAVES = Parameter("leaves_count", "leaves", "", 1.0, 20.0)
GROOVES = Parameter("pitch_mm", "grooves apart", "mm", 0.6, 20.0)
EDGE = Parameter("edge_mm", "broken by", "mm", 0.2, 10.0)
ROUNDED = Parameter("round_count", "how", "", 0.0, 1.0, choices=("chamfer", "round"))
LONGER = Parameter("by_mm", "longer by", "mm", 0.1, 60.0)
LEANS = Parameter("turn_deg", "turn from up", "°", -90.0, 90.0)


def leaning(process: Process, given: dict[str, float]) -> tuple[Process, dict[str, float]]:
    """The process with the lean that was typed as its limit, and the other numbers by their names without units."""
    rest = {name.rsplit("_", 1)[0]: float(v) for name, v in given.items() if name != LEAN.name}
    if LEAN.name not in given:
        return process, rest
    return replace(process, limit=min(float(given[LEAN.name]), process.limit)), rest
