"""The verb ``plate``: copies of a part on a bed, what their layers wait for, and what that leaves of the weld."""

from argparse import ArgumentParser, Namespace

import numpy as np

from hewel_engine.cli.options import direction
from hewel_engine.errors import InputError, Note
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.io.reading import Intake
from hewel_engine.plates.batch import Batch, Copy
from hewel_engine.plates.nesting import BUDGET, Item, Plate, Rule, arranged
from hewel_engine.plates.outlines import outline_of
from hewel_engine.plates.proof import breaches
from hewel_engine.plates.turns import Head, collisions, in_order
from hewel_engine.printing.weld import Weld
from hewel_engine.processes import Process
from hewel_engine.records import BY_NAME

MOST_COPIES = 10_000
_machine = lambda name: BY_NAME["machine"][name].start


def add_options(p: ArgumentParser) -> None:
    p.add_argument("--bed", metavar="X,Y,Z", help="plate: the bed and the height over it, mm")
    p.add_argument("--copies", metavar="N|max", default="max", help="plate: how many, or as many as go")
    p.add_argument(
        "--mode", choices=["together", "sequential"], default="together", help="plate: all at once, or in turn"
    )
    p.add_argument("--rail", choices=["x", "y"], default="x", help="plate: the axis that the head's rail runs along")
    for name, start, words in (
        ("spacing", 3.0, "least distance between two outlines"),
        ("margin", 0.0, "nothing stands nearer to the rim of the bed"),
        ("head-radius", _machine("head_radius"), "of the head round the nozzle"),
        ("gantry", _machine("gantry"), "height of the rail over the bed"),
        ("nozzle-clearance", _machine("nozzle_clearance"), "under the head beside the nozzle"),
    ):
        p.add_argument(f"--{name}", type=float, default=start, metavar="MM", help=f"plate: {words}, {start:g}")


def _bed(text: str | None) -> tuple[float, float, float]:
    try:
        x, y, z = (float(v) for v in (text or "").split(","))
    except ValueError:
        raise InputError(
            "bad_options", "The plate needs a bed of three numbers.", "Write it like 250,210,220."
        ) from None
    if not all(0 < v < 10_000 for v in (x, y, z)):
        raise InputError("bad_options", f"A bed of {text} mm cannot be.", "Give three lengths in mm, each above 0.")
    return x, y, z


def _copies(text: str) -> int | None:
    if text == "max":
        return None
    if not text.isdigit() or not 1 <= int(text) <= MOST_COPIES:
        raise InputError("bad_options", f"{text} copies cannot be.", f"Give a number from 1 to {MOST_COPIES}, or max.")
    return int(text)


def plate(intake: Intake, args: Namespace, process: Process) -> dict:
    mesh, (x, y, z), wanted = intake.mesh, _bed(args.bed), _copies(args.copies)
    if not mesh.closed:
        raise InputError("not_closed", "The surface is open: it has no layers.", "Close it and export again.")
    lengths = (args.spacing, args.margin, args.head_radius, args.gantry, args.nozzle_clearance)
    if not all(0 <= v < 10_000 for v in lengths):
        raise InputError("bad_options", "A distance cannot be below 0.", "Give lengths in mm.")
    if args.up is None:
        intake.warnings.append(Note("up_assumed", "No direction was given: the file's own z was taken as up."))
    up = direction(args.up or "0,0,1")
    stack, outline = LayerStack(mesh, up, process.layer), outline_of(mesh, up)
    head = Head(args.head_radius, args.nozzle_clearance, args.gantry, args.rail)
    sequential = args.mode == "sequential"
    rule = head.rule(stack.height, args.spacing) if sequential and wanted != 1 else Rule(args.spacing)
    bed, items = Plate((x, y), args.margin), []
    if stack.height <= z + 1e-6:
        items = arranged(outline, bed, rule, wanted, BUDGET)
    else:
        intake.warnings.append(Note("too_high", f"It stands {stack.height:.4g} mm high; the machine has {z:g} mm."))
    if sequential:
        items = in_order(items, outline, args.rail)
    _proved(outline, items, bed, args.spacing, head if sequential else None, stack.height)
    answer = {
        "mode": args.mode,
        "fits": len(items) >= (wanted or 1),
        "copies": len(items),
        "items": [_told(item, number) for number, item in enumerate(items, start=1)],
    }
    return answer | (_times(stack, process, outline, items, args) if items else NOTHING)


NOTHING = {"layer_time_s": None, "bond_factor": None, "bond_low": None, "print_seconds": None, "parts_per_day": 0.0}


def _told(item: Item, number: int) -> dict:
    return {"x_mm": item.x, "y_mm": item.y, "rotation_deg": item.turn, "order": number}


def _proved(outline, items: list[Item], bed: Plate, spacing: float, head: Head | None, height: float) -> None:
    """Raises a defect of ours where what was laid out does not stand clear."""
    wrong: list = breaches(outline, items, bed, spacing)
    if head:
        wrong += collisions([item.on(outline) for item in items], [height] * len(items), head)
    if wrong:
        raise RuntimeError(f"the plate is not clear: {wrong[0]}")


def _times(stack: LayerStack, process: Process, outline, items: list[Item], args: Namespace) -> dict:
    middle = outline.centroid
    weld = Weld.of(process.stock, ambient_c=_machine("chamber_c"), film=_machine("film"))
    batch = Batch(
        Copy.of(stack, process), process, weld, args.mode, items, (middle.x, middle.y), _machine("ready_s"),
        _machine("change_s"),
    )  # fmt: skip
    bond = batch.bond
    return {
        "layer_time_s": {"median": float(np.median(batch.layer_s)), "max": float(batch.layer_s.max())},
        "bond_factor": float(bond.value.min(initial=1.0)),
        "bond_low": float(bond.low.min(initial=1.0)),
        "bond_words": bond.words,
        "print_seconds": batch.print_s,
        "parts_per_day": batch.parts_per_day,
    }
