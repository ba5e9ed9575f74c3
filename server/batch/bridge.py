"""The only file of this app that calls the engine. ``fill`` runs in a process of its own; the rest reads what it left
and answers at once.
"""

from collections.abc import Callable, Iterator
from dataclasses import asdict
from typing import Any

import numpy as np
import shapely

from hewel.single_flight import SingleFlightCache
from hewel.watching import with_progress
from hewel_engine.errors import InputError
from hewel_engine.geometry.frames import same_direction, unit
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.io.packing import pack_batches, unpack_batches, unpack_solid
from hewel_engine.plates.batch import Mode
from hewel_engine.plates.curve import MODES, Batches, Bed, Laid, Pause, batches, centred, laid, points_of
from hewel_engine.plates.economy import Hands, Prices, Way, break_even, cost_of_part, ends_at_hand, plates_per_day
from hewel_engine.plates.mixed import Guest, mixed
from hewel_engine.plates.nesting import Item, Plate
from hewel_engine.plates.outlines import grown_outside
from hewel_engine.plates.proof import breaches
from hewel_engine.plates.proposal import Option, order_of, proposed, why
from hewel_engine.plates.release import Pusher, held, released
from hewel_engine.plates.turns import Head, collisions
from hewel_engine.prepared.comparing import Expected, differences, lines_at, waits
from hewel_engine.prepared.moves import read_moves
from hewel_engine.prepared.planning import planned
from hewel_engine.printing.paths import grams_of
from hewel_engine.printing.weld import Layers, Weld, banded, least_wait
from hewel_engine.processes import Process

__all__ = ["MODES", "InputError", "same_direction"]

FIRST_S, THEN_S = 0.7, 5.0
"""Seconds for each mode of filling the plate: for the first answer, and for the last copies."""


def bed_of(bed: dict) -> Bed:
    x, y = bed["bed_x"], bed["bed_y"]
    front = (shapely.box(0, 0, x, bed["front_free"]),) if bed["front_free"] > 0 else ()
    kept = tuple(shapely.box(*corners) for corners in bed["free"])
    head = Head(bed["head_radius"], bed["nozzle_clearance"], bed["gantry"], bed["rail"])
    return Bed(Plate((x, y), bed["margin"], front + kept), bed["bed_z"], head, bed["spacing"], bed["brim"])


def _weld_of(process: Process, welding: dict) -> Weld:
    more = {"coupon_s": welding["coupon_layer_s"], "exponent": welding["weld_exponent"], "film": welding["film"]}
    return Weld.of(process.stock, welding["chamber_c"], **more)


def _known(welding: dict) -> tuple[str, ...]:
    return ("exponent",) if "weld_exponent" in welding["known"] else ()


def fill(
    solid: bytes, view: bytes, bores: list | None, process: dict, up: list, bed: dict, welding: dict,
    others: dict | None = None,
) -> Iterator[tuple]:  # fmt: skip
    """Events of filling the plate: results ``layers`` (bytes) and ``result`` (dict), soon, and once more with the last
    copies. ``others``: how many of the part's ``own`` copies stand on a plate with other parts, and ``rows`` of those:
    ``copies``, and ``layers`` and ``result`` of their own plates. Raises ``bad_options`` where the temperatures cannot
    be.
    """
    yield ("doing", 0, 100, "preparing the part")
    mesh, settings, stands, where = unpack_solid(solid), Process(**process), unit(up), bed_of(bed)
    stack, weld = LayerStack(mesh, stands, settings.layer), _weld_of(settings, welding)
    pusher = Pusher(bed["release"], bed["push_limit"], bed["push_height"])
    known: dict[str, Any] = {}

    def results(made: Laid, complete: bool) -> Iterator[tuple]:
        yield ("result", "layers", pack_batches(made))
        yield ("result", "result", known | _plate(made, complete))

    lay = lambda budget, before: (
        lambda watch: laid(
            mesh, stack, settings, weld, _known(welding), where, budget, before, lambda words: watch(words, 0.5)
        )
    )
    first = yield from with_progress(lay(FIRST_S, None), 5, 40)
    known |= {
        "height_mm": stack.height,
        "too_high": stack.height > where.height + 1e-6,
        "layer_mm": settings.layer,
        "grams": grams_of(first.copy.extruded, settings),
        "foot_mm2": float(stack.integrals[0, 0]),
        "melts": _melts(first, settings, weld),
        "lines": [
            line.as_dict()
            for line in (
                *held(mesh, stack, settings, bed["brim"]),
                *released(stack, settings, welding["adhesion_cold"], pusher),
            )
        ],
    }
    yield from results(first, False)
    if others and others["rows"]:
        known["mixed"] = _mixed(first, others, where, settings)
    full = yield from with_progress(lay(THEN_S, first), 50, 45)
    yield from results(full, True)


def _plate(made: Laid, complete: bool) -> dict:
    middle = made.outline.centroid
    return {
        "outline": _loops(made.outline),
        "middle": [middle.x, middle.y],
        "items": {mode: [_told(i) for i in made.items[mode]] for mode in MODES},
        "complete": complete,
    }


def _mixed(made: Laid, others: dict, where: Bed, process: Process) -> dict:
    """Where the copies of every part stand, their outlines, and s from each layer of the plate to the next."""
    kinds = [read_anew(row["layers"], row["result"]) for row in others["rows"]]
    guests = [Guest(k.outline, k.copy.extruding, row["copies"]) for k, row in zip(kinds, others["rows"], strict=True)]
    found = mixed(made, others["own"], guests, where, process, FIRST_S)
    middles = [made.outline.centroid, *(k.outline.centroid for k in kinds)]
    return {
        "outlines": [_loops(made.outline), *(_loops(k.outline) for k in kinds)],
        "middles": [[m.x, m.y] for m in middles],
        "items": [[_told(i) for i in own] for own in found.items],
        "wanted": [others["own"], *(g.copies for g in guests)],
        "layer_s": np.round(found.layer_s, 2).tolist(),
        "print_s": found.print_s,
    }


def _told(item: Item) -> list[float]:
    return [round(item.x, 4), round(item.y, 4), item.turn]


def _loops(outline: shapely.Geometry) -> list:
    """Polygons, each its loops, the outer one first."""
    parts = getattr(outline, "geoms", [outline])
    return [[np.round(np.array(r.coords[:-1]), 4).tolist() for r in (p.exterior, *p.interiors)] for p in parts]


def outline_from(result: dict) -> shapely.Geometry:
    parts = [shapely.Polygon(loops[0], loops[1:]) for loops in result["outline"]]
    return parts[0] if len(parts) == 1 else shapely.MultiPolygon(parts)


def _melts(made: Laid, process: Process, weld: Weld) -> dict | None:
    """Where a copy by itself is most laid on what is still soft: heights mm, s that it waits and that it should; None
    where it is nowhere.
    """
    wait = batches(made, process, "sequential", [1]).layer_s[0] if made.items["sequential"] else None
    if wait is None:
        return None
    least = least_wait(made.copy.layers, weld)
    soft = least > SHORT * wait
    soft[0] = False  # it lies on the plate
    if not soft.any():
        return None
    k, pitch = int(np.argmax(np.where(soft, least - wait, 0.0))), made.copy.layers.pitch
    firm = np.flatnonzero(~soft)
    first, last = firm[firm < k].max(initial=-1) + 1, firm[firm > k].min(initial=len(soft)) - 1
    return {
        "from_mm": float(first * pitch),
        "to_mm": float((last + 1) * pitch),
        "wait_s": float(wait[k]),
        "least_s": float(least[k]),
    }


SHORT = 1.1
"""How many times its wait a layer must want before it is said to melt."""


def compare(
    file: bytes, process: dict, filament: float, layers: bytes, result: dict, mode: Mode, copies: int,
    pauses: list[dict], z: float,
) -> Iterator[tuple]:  # fmt: skip
    """Events of reading a prepared file beside the plate of so many copies: result ``result`` with what differs, the s
    that every layer of the part waits by it, and the lines that it lays nearest to ``z`` mm. Raises what the engine's
    reader raises of files that are none.
    """
    yield ("doing", 0, 3, "reading its moves")
    moves, notes = read_moves(file)
    yield ("doing", 1, 3, "planning them")
    settings = Process(**process)
    found = planned(moves, settings.acceleration, filament, settings.time_factor)
    yield ("doing", 2, 3, "comparing it")
    made = read_anew(layers, result)
    batch = curve(made, process, mode, pauses, [copies])
    volume = made.copy.extruded * settings.layer * settings.spacing
    wanted = Expected(settings.layer, settings.inner_width, volume, batch.layer_s[0], copies, float(batch.print_s[0]))
    told = {
        "moves": found.moves,
        "layers": len(found.layers.z),
        "seconds": found.seconds,
        "grams": found.volume * 1e-3 * settings.stock.density,
        "notes": [note["message"] for note in (*notes, *found.notes)],
        "differences": [d.as_dict() for d in differences(found, wanted)],
        "waits": np.round(waits(found, wanted), 2).tolist(),
        "at_mm": z,
        "lines": np.round(lines_at(moves, z, settings.layer), 2).tolist(),
    }
    yield ("result", "result", told)


# ------------------------------------------------------------------ reading


_read: SingleFlightCache[Laid] = SingleFlightCache(8)


def read(digest: str, layers: Callable[[], bytes], result: dict) -> Laid:
    """What the batches are read from, kept for the next time."""
    return _read.get(digest, lambda: read_anew(layers(), result))


def read_anew(layers: bytes, result: dict) -> Laid:
    items = {mode: [Item(*row) for row in result["items"][mode]] for mode in MODES}
    return unpack_batches(layers, outline_from(result), items)


def pauses_of(rows: list[dict]) -> list[Pause]:
    return [Pause(r["height_mm"], r["wait_s"], r["cold"]) for r in rows]


def curve(made: Laid, process: dict, mode: Mode, pauses: list[dict], copies: list[int] | None = None) -> Batches:
    """Every number of copies that is shown, or those that are asked for."""
    most = len(made.items[mode])
    numbers = points_of(most) if copies is None else [n for n in copies if 1 <= n <= most]
    return batches(made, Process(**process), mode, numbers, pauses_of(pauses))


def welds_after(made: Laid, waits_s: list[float]) -> tuple[np.ndarray, np.ndarray]:
    """(layers,) share of the weld of every layer after the s that a prepared file makes it wait, and the lower edge."""
    value, low = np.ones(len(waits_s)), np.ones(len(waits_s))
    value[1:], low[1:] = made.bonds.at(np.array(waits_s)[1:])
    return value, low


def prices_of(process: dict, machine: dict, hardware: float) -> Prices:
    return Prices(
        machine["hourly_cost"], machine["hand_cost"], Process(**process).stock.price, machine["plate_minutes"],
        machine["part_minutes"], machine["waste"], machine["scrap"], hardware, machine["power"],
        machine["energy_price"],
    )  # fmt: skip


def alone(prices: Prices, machine: dict, grams: float, print_s: float) -> dict:
    """The lines of what a part costs that is printed by itself."""
    return cost_of_part(prices, 1, grams, machine["ready_s"], print_s, machine["change_s"])


def gives(found: Batches, grams: float, machine: dict, prices: Prices) -> list[dict]:
    """Of every number of copies: good parts a day, the lines of what each costs, whether a plate begun first thing ends
    while hands are there.
    """
    hands = Hands(machine["hands_h"], machine["release"] != "pushed off")
    ready, change = machine["ready_s"], machine["change_s"]
    out = []
    for n, print_s in zip(found.copies, found.print_s, strict=True):
        plates = plates_per_day(ready, float(print_s), change, hands)
        out.append(
            {
                "per_day": plates * int(n) * (1 - prices.scrap),
                "cost": cost_of_part(prices, int(n), grams, ready, float(print_s), change),
                "at_hand": ends_at_hand(ready, float(print_s), hands),
            }
        )
    return out


def best(options: list[dict], quantity: int | None, scrap: float) -> tuple[int | None, list[str]]:
    """Which of the options (mode, copies, reserve, low, per_day, cost) is proposed, never more copies than the
    ``quantity`` of good parts asks for; and the sentence of each.
    """
    rows = [Option(**o) for o in options]
    most = order_of(quantity, 1, scrap).made if quantity else None
    taken = proposed([row for row in rows if most is None or row.copies <= most])
    return (None if taken is None else rows.index(taken)), [why(row, rows) for row in rows]


def weld_words(process: dict, welding: dict, made: Laid, wait: float, layer: int) -> str:
    """Where the band of a layer's weld comes from."""
    settings, columns = Process(**process), made.copy.layers
    one = Layers(columns.area[[layer]], columns.perimeter[[layer]], columns.filled[[layer]], columns.pitch)
    return banded(np.array([wait]), one, _weld_of(settings, welding), _known(welding)).words


def misplaced(result: dict, items: list[list[float]], bed: dict, mode: Mode) -> list[dict]:
    """What stands wrong, each with the numbers of the copies, how much of a distance is short, the two points between
    which it is, and the words.
    """
    where = bed_of(bed)
    outline = grown_outside(outline_from(result), where.brim)
    rows = [Item(*row) for row in items]
    placed = [row.on(outline) for row in rows]
    out = []
    for breach in breaches(outline, rows, where.plate, where.spacing):
        if breach.other is None:
            words = f"Copy {breach.item + 1} stands {breach.short_mm:.1f} mm into where nothing may stand."
            out.append(_wrong(breach.item, None, breach.short_mm, None, words))
        else:
            line = shapely.shortest_line(placed[breach.item], placed[breach.other])
            words = f"Copies {breach.item + 1} and {breach.other + 1} are {breach.short_mm:.1f} mm too near each other."
            out.append(_wrong(breach.item, breach.other, breach.short_mm, line, words))
    if mode == "sequential":
        for hit in collisions(placed, [result["height_mm"]] * len(placed), where.head):
            line = shapely.shortest_line(placed[hit.printed], placed[hit.finished])
            short = max(where.head.radius - line.length, 0.0)
            by = "head" if hit.by == "head" else "rail"
            words = f"While copy {hit.printed + 1} is printed, the {by} strikes copy {hit.finished + 1}."
            out.append(_wrong(hit.printed, hit.finished, short, line, words))
    return out


def _wrong(item: int, other: int | None, short: float, line: shapely.Geometry | None, words: str) -> dict:
    between = None if line is None else np.round(np.array(line.coords), 3).tolist()
    return {"item": item, "other": other, "short_mm": short, "between": between, "words": words}


def placed(made: Laid, bed: dict, mode: Mode, copies: int) -> list[list[float]]:
    """Where so many copies stand: the first of the full plate, in its middle."""
    where = bed_of(bed)
    shape = grown_outside(made.outline, where.brim)
    return [_told(i) for i in centred(made.items[mode][:copies], shape, where.plate, bed["front_free"])]


def plates_for(quantity: int, copies: int, scrap: float) -> dict:
    return asdict(order_of(quantity, copies, scrap))


def ways(printed: float, rows: list[dict], quantity: int | None) -> list[dict]:
    """Other ways of making the part beside printing it at ``printed`` each: ``each``, the quantity from which it
    is cheaper (``pays_from``, None: never), and its ``total`` for the quantity of the job.
    """
    out = []
    for row in rows:
        way = Way(row["name"], row["once"], row["piece"], row["assembly"], row["stock"], row["days"])
        out.append(
            {
                "id": row["id"],
                "each": way.each,
                "pays_from": break_even(printed, way),
                "total": None if quantity is None else way.total(quantity),
            }
        )
    return out
