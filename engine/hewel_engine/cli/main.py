"""``hewel engine VERB FILE [options] --json``: one JSON object on standard output. Sums by hand are asked for with
``hewel engine reckon CARD key=value …``; ``reckon list`` names the cards.

Exit 0 done, 2 the input cannot be used, 1 a defect of ours. Lengths mm, angles degrees, times s.
"""

import argparse
import json
import sys
from argparse import Namespace
from collections.abc import Callable
from pathlib import Path

import numpy as np

from hewel_engine.advice.afterwards import explained, ranked_after, worked_out
from hewel_engine.advice.bounds import MOST_CHANGE, Bounds
from hewel_engine.advice.costs import Holds
from hewel_engine.advice.sizing import places
from hewel_engine.advice.widths import advised, burden_of
from hewel_engine.cli import coupons, plate, prepared
from hewel_engine.cli.adapt import adapt, on_a_grid
from hewel_engine.cli.answering import answered
from hewel_engine.cli.check import check
from hewel_engine.cli.options import direction, written
from hewel_engine.errors import InputError, Note
from hewel_engine.geometry.features import Bore
from hewel_engine.geometry.frames import same_direction
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.rays import RayScene
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.io.fields import write_vtu
from hewel_engine.io.reading import Intake, take_in
from hewel_engine.loads.cases import read_loads
from hewel_engine.loads.equilibrium import check_on
from hewel_engine.orientation.candidates import Candidate, typed
from hewel_engine.orientation.ranking import rank
from hewel_engine.orientation.study import study
from hewel_engine.overhangs.truth import truth_of
from hewel_engine.parts.facts import facts_of
from hewel_engine.processes import Process
from hewel_engine.spaces.likely import likely_spaces
from hewel_engine.strength.reserves import field, reserves, sectioned, sections_of
from hewel_engine.strength.stressing import COARSE, Stressed, bare
from hewel_engine.strength.submodels import looked_closely
from hewel_engine.tolerances import MAX_BYTES
from hewel_engine.walls.drawn import layers_drawn
from hewel_engine.walls.lines import Comb, Plates
from hewel_engine.walls.thickness import thickness_of
from hewel_engine.walls.zones import walls_of


class _Options(argparse.ArgumentParser):
    def error(self, message):
        raise InputError("bad_options", message[:1].upper() + message[1:] + ".", "See hewel engine --help.")


def _share(text: str) -> float:
    value = float(text)
    if not 0 < value <= 1:
        raise argparse.ArgumentTypeError("must be more than 0 and at most 1")
    return value


def _factor(text: str) -> float:
    value = float(text)
    if not 0 < value < 1000:
        raise argparse.ArgumentTypeError("must be more than 0")
    return value


def facts(intake: Intake, args: Namespace, process: Process) -> dict:
    found = facts_of(intake.mesh, surfaces=intake.surfaces)
    intake.warnings.extend(found.notes)
    return found.as_dict()


def directions(intake: Intake, args: Namespace, process: Process) -> dict:
    mesh, rays = intake.mesh, RayScene(intake.mesh)
    known = facts_of(mesh, rays, intake.surfaces)
    bores = known.bores or []
    if args.up:
        found, swept = [typed(mesh, rays, direction(args.up), process, bores)], 1
    else:
        result = study(known, process, rays)
        found, swept = result.candidates, len(result.swept.ups)
    if args.loads:
        held = _stressed(intake, args, process)
        least = field(held, process.stock, np.array([c.up for c in found]), args.factor or 1.0).min(axis=0)
        for candidate, reserve in zip(found, least, strict=True):
            candidate.measures["reserve"] = float(reserve)
    found = rank(found)
    _rank_after(mesh, found, process, bores, args)
    return {"swept": swept, "candidates": [c.as_dict() for c in found]}


AFTER = 8
"""Candidates whose remedies ``directions`` works out."""
QUICK = 20_000
"""Facets of a part up to which it does."""


def _rank_after(mesh: Mesh, found: list[Candidate], process: Process, bores: list[Bore], args) -> None:
    """Fills ``rank_after`` in; where remedies are not worked out it is the plain rank."""
    rows = []
    if mesh.closed and len(mesh.faces) <= QUICK:
        on = lambda part, like: on_a_grid(part, args, process, COARSE, like)
        holds = Holds(mesh, process, on) if args.read else None
        bounds = Bounds(spaces=tuple(likely_spaces(mesh, bores)), holds=holds)
        rows = list(worked_out(mesh, found, process, bores, args.policy != "none", None, AFTER, bounds))
    for candidate, place in zip(found, ranked_after(found, rows), strict=True):
        candidate.measures["rank_after"] = place
        own = next((r for r in rows if same_direction(r.up, candidate.up)), None)
        candidate.measures["after"] = own and explained(candidate.measures, own)


def overhangs(intake: Intake, args: Namespace, process: Process) -> dict:
    mesh, rays = intake.mesh, RayScene(intake.mesh)
    up = direction(args.up or "0,0,1")
    if not args.up:
        intake.warnings.append(Note("up_assumed", "No direction was given: the file's own z was taken as up."))
    bores = facts_of(mesh, rays, intake.surfaces).bores or []
    answer = {"up": up.tolist(), "limit_deg": process.limit, "limit_from": "the vertical: a wall is 0°, a ceiling 90°"}
    return answer | truth_of(LayerStack(mesh, up, process.layer), process, bores, rays).as_dict()


SHOWN = 3
"""Candidates whose strength is told when no direction is named."""


def strength(intake: Intake, args: Namespace, process: Process) -> dict:
    if not args.loads:
        raise InputError("bad_options", "Strength needs loads.", "Name a loads file with --loads.")
    if args.vtu and not Path(args.vtu).resolve().parent.is_dir():
        raise InputError("bad_options", f"There is no folder for {args.vtu}.", "Name one that exists.")
    mesh = intake.mesh
    found, facts_ = _stressed(intake, args, process), facts_of(mesh, surfaces=intake.surfaces)
    best = lambda: [c.up for c in study(facts_, process, RayScene(mesh)).candidates[:SHOWN]]
    ups = [direction(args.up)] if args.up else best()
    found = looked_closely(found, mesh, None, args.read, process, ups, facts_.bores or [], args.solid)
    intake.warnings.extend(found.notes)
    if args.vtu:
        written(args.vtu, lambda path: write_vtu(path, found, process.stock, ups[0]))
    cases = [r.as_dict() for up in ups for r in reserves(found, process.stock, up, args.factor or 1.0)]
    return {
        "voxel_mm": found.size,
        "excluded_mm": {"held": found.zones[0], "loaded": found.zones[1]},
        "cases": cases,
        "sections": sections_of(found, sectioned(mesh, ups[0], process, args.solid)),
    }


def _stressed(intake: Intake, args, process: Process) -> Stressed:
    mesh = intake.mesh
    if not mesh.closed:
        raise InputError(
            "not_closed", "The surface is open: it has no inside to carry a load.", "Close it and export again."
        )
    return on_a_grid(mesh, args, process)


def walls(intake: Intake, args: Namespace, process: Process) -> dict:
    mesh = intake.mesh
    if not mesh.closed:
        raise InputError(
            "not_closed", "The surface is open: its walls have no other side.", "Close it and export again."
        )
    found = thickness_of(mesh)
    comb, up = Comb.of(process), direction(args.up) if args.up else None
    walls = walls_of(found, comb, None if up is None else Plates.of(process, up))
    stack = None if up is None else LayerStack(mesh, up, process.layer)
    bores = facts_of(mesh, RayScene(mesh), intake.surfaces).bores or []
    answer = walls.as_dict(found) | {"places": places(mesh, stack, process, bores, found)}
    burden = burden_of(found, bores, answer["places"], np.zeros(0, int), None, process, up)
    for zone, row in zip(walls.zones, answer["zones"], strict=True):
        row["advice_mm"] = advised(zone, comb, process, burden).size(zone)
    if stack:
        answer["layers"] = layers_drawn(stack, process).as_dict()
    return answer


VERBS: dict[str, Callable[[Intake, argparse.Namespace, Process], dict]] = {
    "facts": facts,
    "directions": directions,
    "overhangs": overhangs,
    "strength": strength,
    "walls": walls,
    "adapt": adapt,
    "plate": plate.plate,
}


MADE = {"coupon": coupons.coupon}
"""Verbs that read no file: what stands in its place names what is made."""
FILES: dict[str, Callable[[bytes, argparse.Namespace], tuple[dict, list[Note]]]] = {
    "gcode": prepared.gcode,
    "check": check,
}
"""Verbs of files that hold no part."""


def parser() -> argparse.ArgumentParser:
    p = _Options(prog="hewel engine", description=__doc__)
    p.add_argument("verb", choices=sorted([*VERBS, *FILES, *MADE]))
    p.add_argument("file")
    p.add_argument("--json", action="store_true", help="JSON on standard output (always so)")
    p.add_argument("--units", default="auto", choices=["auto", "mm", "cm", "m", "in"])
    p.add_argument("--up", metavar="X,Y,Z")
    p.add_argument("--limit", type=float, default=45.0, help="overhang limit, degrees from the vertical")
    p.add_argument("--layer", type=float, default=0.2, help="layer height, mm")
    p.add_argument("--width", type=float, default=0.45, help="line width, mm")
    p.add_argument("--outer-width", type=float, help="outer line width, mm; the same as --width when left out")
    p.add_argument("--material", default="petg")
    p.add_argument("--perimeters", type=int, default=3)
    p.add_argument("--infill", type=float, default=0.2)
    p.add_argument("--top-bottom", type=int, default=4)
    p.add_argument("--rule", choices=["spacing", "plain", "nozzle"], default="spacing", help="perimeter rule")
    p.add_argument("--nozzle", type=float, default=0.4, help="nozzle diameter, mm; counts by --rule nozzle")
    p.add_argument("--variable-lines", action="store_true")
    p.add_argument("--apply", default="all", metavar="KEY,...", help="adapt: all (gentle), full, or by name")
    p.add_argument("--most-change", type=_share, default=MOST_CHANGE, help="adapt: share of the volume, 0 to 1")
    p.add_argument("--keep-clear", metavar="FILE", help="adapt: spaces that stay free, as JSON")
    p.add_argument("--whole", action="store_true", help="adapt: one piece, whatever is left")
    p.add_argument("--plane", metavar="X,Y,Z,NX,NY,NZ", help="adapt: a point of the cut and its normal")
    p.add_argument("--pegs", type=int, default=2, choices=range(7), metavar="N", help="adapt: pegs of a split")
    p.add_argument("--fit", type=float, metavar="MM", help="adapt: clearance per side of pegs, tenon or plate")
    p.add_argument(
        "-o", "--out", metavar="FILE", help="adapt: where the changed part goes, .stl, .3mf; .step of a STEP file"
    )
    p.add_argument(
        "--policy", choices=["none", "designed", "allowed"], default="designed",
        help="supports: with none, adapt designs neither posts nor pillars into the part",
    )  # fmt: skip
    p.add_argument("--solid", action="store_true", help="strength: dense, and of the same stiffness every way")
    p.add_argument("--factor", type=_factor, help="strength: required factor, 1 when left out")
    for name in ("bond", "sustained", "cyclic"):
        p.add_argument(f"--{name}", type=_share, help="strength: knock-down, 0 to 1")
    p.add_argument("--vtu", metavar="FILE", help="strength: write the stress field for any VTK viewer")
    p.add_argument("--temperature", type=float, help="strength: °C in service")
    plate.add_options(p)
    coupons.add_options(p)
    prepared.add_options(p)
    p.add_argument("--loads", metavar="FILE", help="load cases as JSON; see the loads file")
    return p


def _minus_values(argv: list[str]) -> list[str]:
    """``--up -1,0,0`` as ``--up=-1,0,0``, and the like: argparse would take the value for an option."""
    out: list[str] = []
    for word in argv:
        if out and out[-1] in ("--up", "--plane", "--fit") and not word.startswith("--"):
            out[-1] = f"{out[-1]}={word}"
        else:
            out.append(word)
    return out


def _read(path: str) -> bytes:
    try:
        with open(path, "rb") as f:
            return f.read(MAX_BYTES + 1)
    except OSError as error:
        raise InputError(
            "bad_options", f"The file cannot be read: {error.strerror}.", "Check its name and its permissions."
        ) from None


def _json_of(path: str, code: str, named: str):
    try:
        return json.loads(_read(path))
    except ValueError:
        raise InputError(code, f"The {named} is not JSON.", f"See the {named} in the documentation.") from None


def _of_a_part(args: Namespace, process: Process) -> tuple[dict, list[Note]]:
    args.read = bare(read_loads(_json_of(args.loads, "bad_loads", "loads file"))) if args.loads else None
    args.clear = _json_of(args.keep_clear, "bad_options", "keep-clear file") if args.keep_clear else None
    intake = take_in(_read(args.file), args.units)
    if args.read:
        check_on(intake.mesh, None, args.read)
    return VERBS[args.verb](intake, args, process), intake.warnings


def _told(argv: list[str]) -> dict:
    args = parser().parse_args(_minus_values(argv))
    process = Process(
        limit=args.limit,
        layer=args.layer,
        width=args.width if args.outer_width is None else args.outer_width,
        material=args.material,
        perimeters=args.perimeters,
        infill=args.infill,
        top_bottom=args.top_bottom,
        rule=args.rule,
        inner_width=args.width,
        variable_lines=args.variable_lines,
        nozzle=args.nozzle,
    )
    if args.verb in MADE:
        result, warnings = MADE[args.verb](args.file, args, process)
    elif args.verb in FILES:
        result, warnings = FILES[args.verb](_read(args.file), args)
    else:
        result, warnings = _of_a_part(args, process)
    return {"verb": args.verb, "file": args.file, **result, "warnings": warnings}


def main(argv: list[str] | None = None) -> int:
    return answered(lambda: _told(sys.argv[1:] if argv is None else argv))
