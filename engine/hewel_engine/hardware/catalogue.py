"""What comes with a size: head, washer, nut, hole, thread, steel. Lengths mm, areas mm², stresses MPa.

Every number is a row of ``reckoning.sizes``; one that is not sure is said with its note.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from math import pi, sqrt
from typing import Any

import numpy as np

from hewel_engine.errors import InputError
from hewel_engine.fits.estimates import STANDS
from hewel_engine.geometry.mesh import Array
from hewel_engine.processes import Process
from hewel_engine.reckoning.bolts import washer_spread
from hewel_engine.reckoning.pins import insert as insert_card
from hewel_engine.reckoning.sizes import size_of, sizes
from hewel_engine.records import BY_NAME

Own = Mapping[str, Any]
SIZES = ("M3", "M4", "M5", "M6", "M8", "M10", "M12")
HEADS = {
    "socket": "socket head screw", "hex": "hexagon bolt", "button": "button head screw",
    "rod": "threaded rod with nuts",
}  # fmt: skip
"""A rod with a nut at either end is tightened and acts like a bolt (handbook 7)."""
WASHERS = {"none": "", "washer": "washer", "washer_large": "large washer"}
NUTS = {
    "square_nut_thin": "square nut, thin", "square_nut": "square nut", "hex_nut": "hexagon nut",
    "hex_nut_old": "hexagon nut, older widths",
}  # fmt: skip
"""A square nut bears on several times what the bearing face of a hexagon nut does (handbook 7)."""
STEEL_MODULUS, STEEL_POISSON, STEEL_EXPANSION = 205_000.0, 0.3, 11.5e-6
"""MPa, –, 1/K of plain steel (machine elements)."""
PLAY = 0.2
"""mm beside and above what is dropped into a pocket or a seat."""
LENGTHS = (6, 8, 10, 12, 16, 20, 25, 30, 35, 40, 45, 50, 55, 60, 65, 70, 80, 90, 100, 110, 120, 130, 140, 150, 160, 180,
           200)  # fmt: skip
"""mm of bolts that are sold (ISO 888, the usual ones)."""
PROUD_TURNS = 2
"""Turns of thread that stand out of a nut."""


HEAD_ITEMS = {
    "socket": "socket_head_screw", "hex": "hex_bolt", "button": "button_head_screw", "rod": "hex_nut",
}  # fmt: skip
PIECES = {
    "rod": {"threaded_rod"}, "key": {"parallel_key"}, "insert": {"heat_set_insert"},
    "boss": {"thread_coarse", "socket_head_screw"}, "pad": set(),
}  # fmt: skip


def items_of(row: Mapping[str, Any]) -> set[str]:
    """The items of the table of sizes that a row of hardware is made of."""
    if row["kind"] != "bolt":
        return PIECES[row["kind"]]
    made = {HEAD_ITEMS[row["head"]], row["washer"], row["nut"], "hex_nut"}
    return made | {"thread_coarse", "clearance_hole", "property_class"}


class Sizes:
    """Rows of the table, and what of them is doubtful. ``own``: sizes that the workshop itself has measured (``item``,
    ``size``, ``values`` by key), which come first.
    """

    def __init__(self, own: Sequence[Own] = ()) -> None:
        self.doubts: list[str] = []
        self._own = {(row["item"], row["size"], key): value for row in own for key, value in row["values"].items()}

    def number(self, item: str, size: str, key: str) -> float:
        """Raises InputError ``bad_options`` where the table has no such size."""
        if (item, size, key) in self._own:
            return self._own[item, size, key]
        found = size_of(item, size, key)
        if found is None:
            known = sorted({s.size for s in sizes() if s.item == item and s.key == key}, key=lambda s: (len(s), s))
            words = f"The table has no {item.replace('_', ' ')} {size}, {key.replace('_', ' ')}."
            raise InputError("bad_options", words, f"It has: {', '.join(known)}.")
        if found.doubtful:
            note = f": {found.note}" if found.note else ""
            self.doubts.append(f"{item.replace('_', ' ')} {size}, {key.replace('_', ' ')}: {found.sure}{note}")
        return found.value


@dataclass(frozen=True)
class Bolt:
    """A bolt with what it bears on at either end; ``bore`` as it is drawn."""

    size: str
    diameter: float
    pitch: float
    stress_area: float
    bore: float
    head_wide: float
    head_tall: float
    head_bearing: float
    washer: tuple[float, float] | None
    """Outer diameter and thickness."""
    nut_flats: float
    nut_sides: int
    nut_tall: float
    nut_bearing: float
    nut_washer: bool
    """Whether a washer lies under the nut as well."""
    proof: float
    """MPa that its steel bears without staying longer."""
    words: str
    doubts: tuple[str, ...] = field(default=())

    def seats(self, grip: float, modulus: float) -> tuple[float, float]:
        """mm across what head and nut bear on, of a part with ``modulus``; a thin washer bends (reckoning:
        washer_spread).
        """
        if self.washer is None:
            return self.head_bearing, self.nut_bearing
        outer, thick = self.washer

        def spread(bearing: float) -> float:
            found = washer_spread(bearing, thick, modulus, grip, outer, STEEL_MODULUS, STEEL_POISSON)
            return float(found[0][1])

        return spread(self.head_bearing), spread(self.nut_bearing) if self.nut_washer else self.nut_bearing

    def compliance(self, grip: float) -> float:
        """mm/N: δ_b = l/(E_b·A_s), l with 0.4 d in head and nut each (VDI 2230)."""
        return (grip + 0.8 * self.diameter) / (STEEL_MODULUS * self.stress_area)

    def least_length(self, grip: float) -> float:
        """mm that it needs from under its head, through the nut and a little further."""
        washers = (1 + self.nut_washer) * (self.washer[1] if self.washer else 0.0)
        return grip + washers + self.nut_tall + PROUD_TURNS * self.pitch

    def length(self, grip: float) -> int | None:
        """mm: the next that is sold and reaches through the nut; None where none does."""
        least = self.least_length(grip)
        return next((n for n in LENGTHS if n >= least - 1e-9), None)


def bore_loss(axis: Array, up: Array) -> float:
    """mm on the diameter that a printed hole along ``axis`` loses: upright or lying."""
    key = "bore_upright" if abs(float(np.dot(axis, up))) > STANDS else "bore_lying"
    return float(BY_NAME["capability"][key].start)


def bolt_of(
    size: str, head: str, washer: str, nut: str, steel: str, axis: Array, up: Array, pocket: str = "open",
    own: Sequence[Own] = (),
) -> Bolt:  # fmt: skip
    """``own``: see Sizes. Raises InputError ``bad_options`` where there is no such size."""
    table = Sizes(own)
    at, d = table.number, _diameter(size)
    if head == "hex":
        wide, tall = at("hex_bolt", size, "across_flats_max"), at("hex_bolt", size, "head_height")
        bears = at("hex_bolt", size, "bearing_diameter_min")
        takes = 2 / sqrt(3) * wide
    elif head == "button":
        wide, tall = (
            at("button_head_screw", size, "head_diameter_max"),
            at("button_head_screw", size, "head_height_max"),
        )
        bears = takes = wide
    elif head == "rod":
        wide, pitch = at("hex_nut", size, "across_flats_max"), at("thread_coarse", size, "pitch")
        tall = at("hex_nut", size, "height_max") + PROUD_TURNS * pitch
        bears, takes = at("hex_nut", size, "bearing_diameter_min"), 2 / sqrt(3) * wide
    else:
        wide, tall = at("socket_head_screw", size, "head_diameter_max"), at("socket_head_screw", size, "head_height")
        bears = takes = wide
    disc = None if washer == "none" else (at(washer, size, "outer_diameter"), at(washer, size, "thickness"))
    flats, nut_tall = at(nut, size, "across_flats_max"), at(nut, size, "height_max")
    if nut.startswith("square"):
        sides, nut_bears = 4, 2 * flats / sqrt(pi)
    else:
        sides, nut_bears = 6, at("hex_nut", size, "bearing_diameter_min")
    words = f"{HEADS[head]} {size}, {steel}" + (f", {WASHERS[washer]}" if disc else "") + f", {NUTS[nut]}"
    under_nut = disc is not None and pocket == "face"
    return Bolt(
        size, d, at("thread_coarse", size, "pitch"), at("thread_coarse", size, "stress_area"),
        at("clearance_hole", size, "medium") + bore_loss(axis, up), max(takes, disc[0] if disc else 0.0) + 2 * PLAY,
        tall + (disc[1] if disc else 0.0), bears, disc, flats, sides, nut_tall, nut_bears, under_nut,
        _proof(table, steel), words, tuple(table.doubts),
    )  # fmt: skip


def _proof(table: Sizes, steel: str) -> float:
    """Of stainless steel the standard names none: its 0.2 % strength stands for it."""
    return table.number("property_class", steel, "yield" if steel.startswith("A") else "proof")


def bolt_numbers(bolt: Bolt, pocket: str, sunk: float, cover: float) -> dict[str, float]:
    """The numbers of its step in a recipe."""
    deep = 0.0 if pocket == "face" else bolt.nut_tall + PLAY
    return {
        "bore_mm": bolt.bore, "seat_mm": bolt.head_wide, "seat_sides_count": 0.0, "sunk_mm": sunk,
        "nut_mm": bolt.nut_flats + 2 * PLAY if deep else bolt.nut_bearing + 2 * PLAY,
        "nut_sides_count": float(bolt.nut_sides) if deep else 0.0, "pocket_mm": deep,
        "cover_mm": cover if pocket == "closed" else 0.0,
    }  # fmt: skip


@dataclass(frozen=True)
class Piece:
    """Steel that is no bolt: its numbers in a recipe, and those it is reckoned with."""

    numbers: dict[str, float]
    facts: dict[str, float]
    words: str
    doubts: tuple[str, ...] = ()


def piece_of(
    kind: str, size: str, deep: float | None, rise: float, axis: Array, up: Array, process: Process,
    own: Sequence[Own] = (),
) -> Piece:  # fmt: skip
    """``own``: see Sizes. Raises InputError ``bad_options`` where there is no such size, or a depth is missing."""
    table, loss = Sizes(own), bore_loss(axis, up)
    at = table.number
    if kind == "insert":
        outer, length, hole = (
            at("heat_set_insert", size, key) for key in ("outer_diameter", "length", "hole_diameter")
        )
        (_, _, wall, _, hole_deep) = insert_card(outer, length, 1.0, 0.5, process.width, process.layer)
        numbers = {
            "bore_mm": hole + loss,
            "deep_mm": hole_deep,
            "wall_mm": wall,
        }
        return Piece(numbers, {"outer_mm": outer, "length_mm": length}, f"insert {size}", tuple(table.doubts))
    if kind == "rod":
        d = _diameter(size)
        stress = at("threaded_rod", size, "stress_diameter")
        long = _wanted(deep, "A rod needs its length: type how deep it reaches in.")
        numbers = {"bore_mm": d + 2 * PLAY + loss, "deep_mm": long, "wall_mm": 2 * process.width}
        facts = {"diameter_mm": d, "stress_diameter_mm": stress, "length_mm": long}
        return Piece(numbers, facts, f"threaded rod {size}, {long:g} mm, glued in", tuple(table.doubts))
    if kind == "key":
        wide, tall = at("parallel_key", size, "width"), at("parallel_key", size, "height")
        into = tall / 2 if deep is None else deep
        if not 0 < into < tall:
            raise InputError("bad_options", f"A key {tall:g} mm high cannot lie {into:g} mm deep.", "Type less.")
        numbers = {"width_mm": wide + PLAY, "deep_mm": into}
        return Piece(numbers, {"width_mm": wide, "height_mm": tall, "depth_mm": into}, f"parallel key {size}")
    if kind == "boss":
        d = _diameter(size)
        into = 2.5 * d if deep is None else deep
        numbers = {"bore_mm": 0.8 * d + loss, "outer_mm": 2.5 * d, "rise_mm": rise, "deep_mm": into}
        facts = {"diameter_mm": d, "pitch_mm": at("thread_coarse", size, "pitch"), "engagement_mm": into - d / 2}
        facts["pitch_diameter_mm"] = at("thread_coarse", size, "pitch_diameter")
        facts["head_mean_mm"] = (at("socket_head_screw", size, "head_diameter_max") + d) / 2
        return Piece(numbers, facts, f"screw {size} that cuts its own thread", tuple(table.doubts))
    wide = float(size) if size.replace(".", "", 1).isdigit() else 0.0
    if wide <= 0:
        raise InputError("bad_options", f"A pad has no size {size!r}.", "Type its diameter in mm, like 12.")
    into = 2.0 if deep is None else deep
    return Piece({"bore_mm": wide + 2 * PLAY, "deep_mm": into}, {"diameter_mm": wide}, f"metal pad ⌀ {wide:g} mm")


def _diameter(size: str) -> float:
    """mm of a thread by its name. Raises InputError ``bad_options``."""
    try:
        return float(size.removeprefix("M"))
    except ValueError:
        raise InputError("bad_options", f"{size!r} is no size of a thread.", "It begins with M, like M5.") from None


def _wanted(value: float | None, words: str) -> float:
    if value is None:
        raise InputError("bad_options", words, "Type it with its unit.")
    return value
