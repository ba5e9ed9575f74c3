"""The numbers of every remedy that a person may set; what is not set follows from the part and the process."""

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

    def as_dict(self, value: float, process: Process) -> dict:
        high = min(self.high, process.limit) if self.held_by_limit else self.high
        return {
            "name": self.name,
            "words": self.words,
            "unit": self.unit,
            "value": value,
            "low": self.low,
            "high": high,
        }


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
LEANS = Parameter("turn_deg", "turn from up", "°", -90.0, 90.0)

PARAMETERS: dict[str, tuple[Parameter, ...]] = {
    "teardrop": (LEAN, CAP, APEX),
    "capped_teardrop": (LEAN, CAP),
    "round_chamfer": (LEAN,),
    "pointed_arch": (LEAN, FLAT),
    "corner_chamfers": (LEAN, FLAT),
    "roof": (LEAN, FLAT),
    "gusset": (LEAN, FLAT),
    "webs": (LEAN, THICKNESS, PITCH),
    "fins": (THICKNESS, PITCH),
    "sprue": (THICKNESS, NECK),
    "pillar": (LEAN, THICKNESS),
    "stepped_bridging": (TURN,),
    "stepped_closing": (CHORD,),
    "membrane": (THICKNESS,),
    "block": (GAP, SIDE),
    "filled_round": (),
    "foot_chamfer": (LEAN, INWARD),
    "added_foot": (HEIGHT,),
    "sliced_foot": (HEIGHT,),
    "wall": (THICKNESS,),
    "hollow": (WALL, FLOOR, RIBS_APART, HOLE),
    "column": (WALL, ROOT, ASLANT),
    "collar": (WALL,),
    "rounded_corner": (RADIUS,),
    "ribs": (THICKNESS, TALL, PITCH, LEANS, SIDES),
}


def checked(key: str, given: dict[str, float], process: Process) -> dict[str, float]:
    """What was typed for a remedy. Raises InputError ``bad_options`` where it has no such number or not that much."""
    known = {p.name: p for p in PARAMETERS[key]}
    for name, value in given.items():
        if name not in known:
            raise InputError(
                "bad_options",
                f"A {key.replace('_', ' ')} has no number {name!r}.",
                "It has: " + ", ".join(known) + ".",
            )
        p = known[name]
        high = p.as_dict(value, process)["high"]
        if not p.low <= value <= high:
            raise InputError(
                "bad_options",
                f"{p.words[0].upper()}{p.words[1:]}: {value:g} {p.unit} is not between {p.low:g} and {high:g}.",
                "Type a value in that range.",
            )
    return given


def leaning(process: Process, given: dict[str, float]) -> tuple[Process, dict[str, float]]:
    """The process with the lean that was typed as its limit, and the other numbers by their names without units."""
    rest = {name.rsplit("_", 1)[0]: float(v) for name, v in given.items() if name != LEAN.name}
    if LEAN.name not in given:
        return process, rest
    return replace(process, limit=min(float(given[LEAN.name]), process.limit)), rest
