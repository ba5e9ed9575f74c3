"""``adapt``: remedies done on the solid, or the part made into several pieces."""

from pathlib import Path

import numpy as np

from hewel_engine.advice.adapting import adapted
from hewel_engine.advice.costs import least_of
from hewel_engine.advice.dividing import (
    UNSAID,
    WAYS,
    divided_by_plane,
    one_mesh,
    side_by_side,
    with_a_feature_apart,
    with_a_plate_put_in,
)
from hewel_engine.advice.proposals import KEYS, Standing
from hewel_engine.cli.options import direction, plane, written
from hewel_engine.edits.exact import Made
from hewel_engine.edits.splits import Joint
from hewel_engine.edits.tools import Impossible
from hewel_engine.errors import InputError
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.rays import RayScene
from hewel_engine.io.exact import carried_over
from hewel_engine.io.reading import Intake
from hewel_engine.io.stl import write_stl
from hewel_engine.io.threemf import write_3mf
from hewel_engine.parts.facts import facts_of
from hewel_engine.processes import Process
from hewel_engine.records import BY_NAME
from hewel_engine.strength.allowables import Circumstances
from hewel_engine.strength.stressing import Stressed, stressed

SAME_GRID = 60_000
"""Cubes of both sums of ``adapt``: before and after are compared, so they must be as fine as each other."""


def adapt(intake: Intake, args, process: Process) -> dict:
    mesh, up = intake.mesh, direction(args.up or "0,0,1")
    kind = Path(args.out).suffix.lower().lstrip(".") if args.out else None
    if kind not in (None, "stl", "3mf", "step"):
        raise InputError("bad_options", f"{args.out} has no known kind of file.", "Name it .stl, .3mf or .step.")
    if kind == "step" and intake.exact is None:
        told = "Only what came in as STEP has an exact solid that could go out as STEP."
        raise InputError("bad_options", told, "Name the file .stl or .3mf.")
    keys = None if args.apply == "all" else tuple(k.strip() for k in args.apply.split(",") if k.strip())
    unknown = [k for k in keys or () if k not in (*KEYS, *WAYS)]
    if unknown:
        known = ", ".join((*KEYS, *WAYS))
        raise InputError("bad_options", f"There is no remedy {unknown[0]!r}.", f"Use all, or {known}.")
    bores = facts_of(mesh, RayScene(mesh), intake.surfaces).bores or []
    ways = [k for k in keys or () if k in WAYS]
    if ways or args.plane:
        return _divided(intake, up, process, bores, args, ways[0] if ways else "split", kind)
    found = adapted(mesh, up, process, bores, keys, supports=args.policy != "none")
    name = Path(args.file).stem
    if kind == "step":
        uncarried = _put_out_exactly(intake, args, {name: found.made})
    elif kind:
        _put_out(args, kind, [(name, found.mesh)])
    reserves_ = [_least_reserve(part, up, args, process) for part in (mesh, found.mesh)] if args.read else [None, None]
    return {
        "up": up.tolist(),
        "applied": [a.as_dict() for a in found.applied],
        "before": _stands(found.before, reserves_[0]),
        "after": _stands(found.after, reserves_[1]),
        "left": [row.as_dict() for row in found.left],
        "pieces": [],
    } | ({"uncarried": uncarried} if kind == "step" else {})


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
    before = Standing.stood(mesh, up, process, bores)[0]
    fit = args.fit if args.fit is not None else BY_NAME["capability"]["fit_location"].start
    told = {"up": up.tolist(), "before": _stands(before, None)}
    try:
        if way == "split":
            found = divided_by_plane(mesh, point, normal, process, Joint(fit, count=args.pegs))
        elif way == "separate":
            found = with_a_feature_apart(mesh, point, normal, process, fit)
        else:
            found = with_a_plate_put_in(mesh, up, process, bores, fit)
    except Impossible as no:
        left = {"kind": way, "why": [str(no)]}
        return told | {"applied": [], "after": told["before"], "left": [left], "pieces": [], "pauses": []}
    if kind == "step":
        told["uncarried"] = _put_out_exactly(intake, args, {p.name: p.made for p in found.pieces})
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
        "key": way,
        "region": -1,
        "volume_added_mm3": max(gained, 0.0),
        "volume_removed_mm3": max(-gained, 0.0),
        "words": found.words,
        "warnings": found.warnings,
        "seats": found.seats,
        **found.numbers,
    }
    told |= {"applied": [applied], "after": after, "left": [], "pieces": rows["pieces"], "pauses": rows["pauses"]}
    return told


def _stands(part: Standing, reserve: float | None) -> dict:
    truth = part.truth.as_dict()
    kept = ("overhang_area_mm2", "support_volume_mm3", "needs_support", "contact_area_mm2", "first_layer_mm2")
    told = {name: truth[name] for name in kept}
    return told | {"volume_mm3": part.mesh.volume, "watertight": part.mesh.closed, "reserve": reserve}


def _least_reserve(mesh: Mesh, up: np.ndarray, args, process: Process) -> float | None:
    return least_of(on_a_grid(mesh, args, process, SAME_GRID), process, up, args.factor or 1.0)


def on_a_grid(mesh: Mesh, args, process: Process, cubes: int | None = None) -> Stressed:
    """The stress under the loads and circumstances that were asked for."""
    around = Circumstances(args.temperature, bond=args.bond, sustained=args.sustained, cyclic=args.cyclic)
    return stressed(mesh, None, args.read, process, around, cubes=cubes, solid=args.solid)
