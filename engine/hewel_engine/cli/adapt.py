"""``adapt``: remedies done on the solid, or the part made into several pieces."""

from argparse import Namespace
from pathlib import Path

import numpy as np

from hewel_engine.advice.adapting import adapted
from hewel_engine.advice.bounds import Bounds
from hewel_engine.advice.costs import Holds, least_of
from hewel_engine.advice.dividing import (
    UNSAID,
    WAYS,
    DividedPart,
    divided_by_plane,
    one_mesh,
    side_by_side,
    with_a_feature_apart,
    with_a_plate_put_in,
)
from hewel_engine.advice.outs import in_pieces, other_direction
from hewel_engine.advice.placed_part import PlacedPart
from hewel_engine.cli.options import direction, plane, written
from hewel_engine.edits.exact import Made
from hewel_engine.edits.remedies import KEYS
from hewel_engine.edits.splits import Joint
from hewel_engine.edits.tools import Impossible
from hewel_engine.errors import InputError
from hewel_engine.fits.numbers import usual_gap
from hewel_engine.geometry.features import Bore
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.rays import RayScene
from hewel_engine.geometry.voxels import Grid
from hewel_engine.io.exact import carried_over
from hewel_engine.io.reading import Intake
from hewel_engine.io.stl import write_stl
from hewel_engine.io.threemf import write_3mf
from hewel_engine.parts.facts import facts_of
from hewel_engine.processes import Process
from hewel_engine.spaces.free import read_spaces
from hewel_engine.spaces.likely import likely_spaces
from hewel_engine.strength.allowables import Circumstances
from hewel_engine.strength.stressing import CLOSER, COARSE, Stressed, stressed


def adapt(intake: Intake, args: Namespace, process: Process) -> dict:
    mesh, up = intake.mesh, direction(args.up or "0,0,1")
    kind = Path(args.out).suffix.lower().lstrip(".") if args.out else None
    if kind not in (None, "stl", "3mf", "step"):
        raise InputError("bad_options", f"{args.out} has no known kind of file.", "Name it .stl, .3mf or .step.")
    if kind == "step" and intake.exact is None:
        words = "Only what came in as STEP has an exact solid that could go out as STEP."
        raise InputError("bad_options", words, "Name the file .stl or .3mf.")
    named = args.apply not in ("all", "full")
    keys = tuple(k.strip() for k in args.apply.split(",") if k.strip()) if named else None
    unknown = [k for k in keys or () if k not in (*KEYS, *WAYS)]
    if unknown:
        known = ", ".join((*KEYS, *WAYS))
        raise InputError("bad_options", f"There is no remedy {unknown[0]!r}.", f"Use all, full, or {known}.")
    bores = facts_of(mesh, RayScene(mesh), intake.surfaces).bores or []
    ways = [k for k in keys or () if k in WAYS]
    if ways or args.plane:
        return _divided(intake, up, process, bores, args, ways[0] if ways else "split", kind)
    bounds = _bounds(mesh, bores, args, process)
    found = adapted(mesh, up, process, bores, keys, supports=args.policy != "none", bounds=bounds)
    left, wanted = found.left, found.before.truth.needing_area
    if left and args.apply == "all" and args.policy != "allowed" and not args.whole:
        pieces = in_pieces(mesh, found, up, process, _fit(args, process), args.pegs)
        if pieces is not None:
            result = {"up": up.tolist(), "before": _stands(found.before, _reserves(mesh, None, up, args, process)[0])}
            return _answer_in_pieces(intake, result, pieces, args, process, kind)
    better = other_direction(mesh, up, process, bores, wanted, bounds.holds) if left and not named else None
    name = Path(args.file).stem
    if kind == "step":
        uncarried = _put_out_exactly(intake, args, {name: found.made})
    elif kind:
        _put_out(args, kind, [(name, found.mesh)])
    had, has = _reserves(mesh, found.mesh, up, args, process)
    return {
        "up": up.tolist(),
        "applied": [a.as_dict() for a in found.applied],
        "before": _stands(found.before, had),
        "after": _stands(found.after, has),
        "changed": found.changed,
        "left": [row.as_dict() | ({"better": better.words} if better else {}) for row in left],
        "questions": [q.as_dict() for q in found.questions],
        "pieces": [],
    } | ({"uncarried": uncarried} if kind == "step" else {})


def _bounds(mesh: Mesh, bores: list[Bore], args, process: Process) -> Bounds:
    """Gentle with ``all``; with ``full`` and named remedies only what somebody wrote stays free."""
    written = tuple(read_spaces(args.clear, mesh)) if args.clear is not None else ()
    if args.apply != "all":
        return Bounds(spaces=written, full=True)
    holds = None
    if args.read:
        on = lambda voxel_count: lambda part, like: on_a_grid(part, args, process, voxel_count, like)
        holds = Holds(mesh, process, on(COARSE), on(CLOSER), args.factor or 1.0)
    return Bounds(args.most_change, (*written, *likely_spaces(mesh, bores)), holds)


def _fit(args, process: Process) -> float:
    return args.fit if args.fit is not None else usual_gap("location", process)


def _put_out(args, kind: str, pieces: list[tuple[str, Mesh]]) -> None:
    """One piece in its own frame, several side by side."""
    if kind == "stl":
        whole = write_stl(one_mesh(pieces), "adapted part in millimetres")
    else:
        whole = write_3mf(pieces if len(pieces) > 1 else pieces[0][1], Path(args.file).stem)
    written(args.out, lambda path: path.write_bytes(whole))


def _put_out_exactly(intake: Intake, args, made: dict[str, Made | None]) -> list[dict]:
    """Writes STEP, pieces where they sit when put together; what is not in it."""
    carried = carried_over(intake.exact, Path(args.file).stem, {name: m for name, m in made.items() if m})
    written(args.out, lambda path: path.write_bytes(carried.data))
    return carried.left + [{"name": name, "why": UNSAID, "piece": name} for name, m in made.items() if m is None]


def _divided(intake: Intake, up: np.ndarray, process: Process, bores: list, args, way: str, kind: str | None) -> dict:
    """``adapt`` where the part becomes several pieces: by the plane given, or through the middle of the part."""
    mesh = intake.mesh
    if way == "separate" and not args.plane:
        raise InputError("bad_options", "Which feature comes off is not said.", "Give the cut with --plane.")
    point, normal = plane(args.plane) if args.plane else (mesh.box.mean(axis=0), up)
    before = PlacedPart.stood(mesh, up, process, bores)[0]
    fit = _fit(args, process)
    result = {"up": up.tolist(), "before": _stands(before, None)}
    try:
        if way == "split":
            found = divided_by_plane(mesh, point, normal, process, Joint(fit, count=args.pegs))
        elif way == "separate":
            found = with_a_feature_apart(mesh, point, normal, process, fit)
        else:
            found = with_a_plate_put_in(mesh, up, process, bores, fit)
    except Impossible as no:
        left = {"kind": way, "why": [str(no)]}
        return result | {"applied": [], "after": result["before"], "left": [left], "pieces": [], "pauses": []}
    return _answer_in_pieces(intake, result, found, args, process, kind)


def _answer_in_pieces(
    intake: Intake, result: dict, found: DividedPart, args, process: Process, kind: str | None
) -> dict:
    """What is told of a part that became several pieces, which are written where that is asked for."""
    mesh = intake.mesh
    if kind == "step":
        result["uncarried"] = _put_out_exactly(intake, args, {p.name: p.made for p in found.pieces})
    elif kind:
        _put_out(args, kind, side_by_side(found.pieces, process))
    rows = found.as_dict()
    volume = sum(p.count * p.mesh.volume for p in found.pieces)
    gained = volume - mesh.volume
    total = lambda name: sum(r["count"] * r[name] for r in rows["pieces"])
    after = {
        "overhang_area_mm2": total("overhang_area_mm2"),
        "support_volume_mm3": total("support_volume_mm3"),
        "needs_support": any(r["needs_support"] for r in rows["pieces"]),
        "volume_mm3": volume,
        "watertight": all(r["watertight"] for r in rows["pieces"]),
        "reserve": None,
    }
    applied = {
        "key": found.way,
        "region": -1,
        "volume_added_mm3": max(gained, 0.0),
        "volume_removed_mm3": max(-gained, 0.0),
        "words": found.words,
        "warnings": found.warnings,
        "seats": found.seats,
        **found.numbers,
    }
    return result | {
        "applied": [applied], "after": after, "left": [], "questions": [], "pieces": rows["pieces"],
        "pauses": rows["pauses"],
    }  # fmt: skip


def _stands(part: PlacedPart, reserve: float | None) -> dict:
    truth = part.truth.as_dict()
    kept = ("overhang_area_mm2", "support_volume_mm3", "needs_support", "contact_area_mm2", "first_layer_mm2")
    result = {name: truth[name] for name in kept}
    return result | {"volume_mm3": part.mesh.volume, "watertight": part.mesh.closed, "reserve": reserve}


def _reserves(mesh: Mesh, changed: Mesh | None, up: np.ndarray, args, process: Process) -> list[float | None]:
    """The least reserve before and after, on the same voxels; None without loads."""
    if not args.read:
        return [None, None]
    before = on_a_grid(mesh, args, process, CLOSER)
    after = changed and on_a_grid(changed, args, process, CLOSER, before.model.grid)
    return [found and least_of(found, process, up, args.factor or 1.0) for found in (before, after)]


def on_a_grid(
    mesh: Mesh, args: Namespace, process: Process, voxel_count: int | None = None, like: Grid | None = None
) -> Stressed:
    """The stress under the loads and circumstances that were asked for; ``like``: on the voxels of another part."""
    around = Circumstances(args.temperature, bond=args.bond, sustained=args.sustained, cyclic=args.cyclic)
    return stressed(mesh, None, args.read, process, around, voxel_count=voxel_count, solid=args.solid, like=like)
