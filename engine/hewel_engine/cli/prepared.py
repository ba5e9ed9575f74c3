"""The verb ``gcode``: a prepared file read, its layers and its time."""

from argparse import ArgumentParser, Namespace

from hewel_engine.errors import InputError, Note
from hewel_engine.prepared.moves import read_moves
from hewel_engine.prepared.planning import planned
from hewel_engine.records import BY_NAME

ACCELERATION, FILAMENT = (BY_NAME["machine"][name].start for name in ("acceleration", "filament"))


def add_options(p: ArgumentParser) -> None:
    p.add_argument("--filament", type=float, default=FILAMENT, metavar="MM", help=f"gcode: its diameter, {FILAMENT:g}")
    p.add_argument(
        "--acceleration", type=float, default=ACCELERATION, metavar="MM/S2", help=f"gcode: {ACCELERATION:g}"
    )  # fmt: skip


def gcode(data: bytes, args: Namespace) -> tuple[dict, list[Note]]:
    if not (0.1 <= args.filament <= 10 and 1 <= args.acceleration <= 1e6):
        raise InputError(
            "bad_options", "There is no such filament, or no machine so quick.", "Give mm, and mm/s², above 0."
        )
    moves, notes = read_moves(data)
    found = planned(moves, args.acceleration, args.filament)
    return found.as_dict(), notes + found.notes
