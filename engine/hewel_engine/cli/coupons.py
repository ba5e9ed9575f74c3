"""The verb ``coupon``: a body to be printed and measured or broken, for the process that is given."""

from argparse import ArgumentParser, Namespace
from pathlib import Path

from hewel_engine.cli.options import written
from hewel_engine.edits.solids import mesh_of
from hewel_engine.errors import InputError, Note
from hewel_engine.io.stl import write_stl
from hewel_engine.io.threemf import write_3mf
from hewel_engine.processes import Process
from hewel_engine.trials.coupons import BED
from hewel_engine.trials.coupons import coupon as made


def add_options(p: ArgumentParser) -> None:
    p.add_argument("--mark", metavar="TEXT", help="coupon: what is sunk into it; its own short name when left out")
    p.add_argument("--size", default="M4", help="coupon: of the insert")


def coupon(key: str, args: Namespace, process: Process) -> tuple[dict, list[Note]]:
    """Raises InputError ``bad_options``."""
    kind = Path(args.out).suffix.lower() if args.out else ""
    if kind not in (".stl", ".3mf"):
        raise InputError("bad_options", "A coupon needs a file to go to.", "Name it with -o, .stl or .3mf.")
    mesh = mesh_of(made(key, process, _shorter_side(args.bed), args.mark, args.size))
    data = write_stl(mesh, f"coupon {key} in millimetres") if kind == ".stl" else write_3mf(mesh, f"coupon {key}")
    written(args.out, lambda path: path.write_bytes(data))
    low, high = mesh.box
    return {
        "coupon": key, "out": args.out, "triangles": len(mesh.faces), "volume_mm3": mesh.volume,
        "bbox_mm": [low.tolist(), high.tolist()],
    }, []  # fmt: skip


def _shorter_side(bed: str | None) -> float:
    if bed is None:
        return BED
    try:
        sides = [float(v) for v in bed.split(",")]
    except ValueError:
        raise InputError("bad_options", f"{bed!r} is no bed.", "Write it like 250,210,220.") from None
    if len(sides) < 2 or not all(60 <= v < 10_000 for v in sides[:2]):
        raise InputError("bad_options", f"A bed of {bed} mm holds no coupon.", "Give two sides of 60 mm at least.")
    return min(sides[:2])
