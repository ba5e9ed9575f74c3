"""The only file of this app that calls the engine. ``divide`` runs in a process of its own."""

from collections.abc import Iterator

import numpy as np

from hewel.rounding import significant
from hewel.watching import with_progress
from hewel_engine import ENGINE_VERSION
from hewel_engine.advice.dividing import (
    UNSAID,
    DividedPart,
    divided_by_plane,
    one_mesh,
    side_by_side,
    with_a_feature_apart,
    with_a_plate_put_in,
)
from hewel_engine.advice.moving import Swept, middle_of_body, swept
from hewel_engine.edits.splits import Joint
from hewel_engine.edits.tools import Impossible
from hewel_engine.errors import InputError
from hewel_engine.geometry.frames import direction_words, unit
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.patches import find_faces
from hewel_engine.geometry.rays import RayScene
from hewel_engine.geometry.travel import Travel
from hewel_engine.io.exact import Exact, carried_over
from hewel_engine.io.packing import bores_of, pack_view, unpack_solid
from hewel_engine.io.threemf import scaled_3mf, write_3mf
from hewel_engine.processes import Process

__all__ = ["ENGINE_VERSION", "InputError", "direction_words", "scaled_3mf", "unit"]


def divide(
    solid: bytes, view: bytes, bores: list | None, up: list | None, process: dict, request: dict, clearance: float,
    title: str, exact: bytes | None = None,
) -> Iterator[tuple]:  # fmt: skip
    """Events of making several pieces of a part. Results ``view`` and ``file`` (bytes), ``piece`` for each: its number
    and, by name, its ``file`` (bytes) and as STEP, where the part has an ``exact`` solid; ``result`` (dict); where it
    cannot be, only ``result`` with ``why``.
    """
    yield ("doing", 0, 100, "preparing the part")
    mesh, settings = unpack_solid(solid), Process(**process)
    known = bores_of(mesh, RayScene(mesh), solid, view, bores) if up is not None else []
    if request["way"] == "in_place":
        yield from _in_place(mesh, up, settings, known, request, clearance)
        return

    def work(watch) -> DividedPart:
        watch("cutting, joining, trying directions for each piece", 0.3)
        if request["way"] == "embed":
            plate = {k: request[k] for k in ("centre", "thickness", "seat")}
            return with_a_plate_put_in(mesh, unit(up), settings, known, clearance, **plate)
        point, normal = np.array(request["point"], float), unit(request["normal"])
        if request["way"] == "separate":
            pick = None if request["pick"] is None else np.array(request["pick"], float)
            return with_a_feature_apart(
                mesh, point, normal, settings, clearance, request["how"], request["depth"], pick
            )
        places = tuple(tuple(p) for p in request["places"])
        joint = Joint(clearance, request["pegs"], request["diameter"], request["engagement"], places=places)
        return divided_by_plane(mesh, point, normal, settings, joint)

    try:
        found = yield from with_progress(work, 5, 80)
    except Impossible as no:
        yield ("result", "result", {"why": str(no)})
        return
    yield ("doing", 88, 100, "writing the pieces")
    whole = one_mesh([(p.name, p.mesh) for p in found.pieces])
    number = np.concatenate([np.full(len(p.mesh.faces), i) for i, p in enumerate(found.pieces, start=1)])
    yield ("result", "view", pack_view(whole, find_faces(whole), number.astype(np.int16)))
    yield ("result", "file", write_3mf(side_by_side(found.pieces, settings), title))
    result = found.as_dict() | {"why": None, "inexact": None}
    carried: dict[str, Exact] = {}
    if exact:
        yield ("doing", 92, 100, "cutting the exact solid")
        try:
            made = {p.name: p.made for p in found.pieces if p.made}
            carried = {p.name: p for p in carried_over(exact, title, made).pieces} if made else {}
            result["inexact"] = None if len(made) == len(found.pieces) else UNSAID
        except InputError as error:
            result["inexact"] = f"{error.message} {error.hint}"
    for i, (row, piece) in enumerate(zip(result["pieces"], found.pieces, strict=True)):
        files, own = {"file": write_3mf(piece.mesh, f"{title}, {piece.name}")}, carried.get(piece.name)
        if own:
            files["exact"], row["uncarried"] = own.data, [r.as_dict() | {"piece": None} for r in own.left]
        yield ("result", "piece", (i, files))
        grams = abs(piece.mesh.volume) * 1e-3 * settings.stock.density
        row |= {"up_words": direction_words(piece.up), "solid_g": grams, "apart": _apart(mesh.box, piece.mesh.box)}
    yield ("result", "result", result)


def _in_place(mesh: Mesh, up, settings: Process, known: list, request: dict, needed: float) -> Iterator[tuple]:
    """Events of sweeping a body that is printed in place."""
    pick, way = np.array(request["pick"], float), unit(request["normal"])
    about = None
    if request["turns"]:
        about = middle_of_body(mesh, pick) if request["point"] is None else np.array(request["point"], float)

    def work(watch) -> Swept:
        watch("sweeping the body through its travel", 0.2)
        return swept(mesh, unit(up), settings, known, pick, Travel(way, request["travel"], about), needed)

    try:
        found = yield from with_progress(work, 5, 85)
    except Impossible as no:
        yield ("result", "result", {"why": str(no)})
        return
    names = [f"body {i + 1}" + (", moves" if i == found.moving else "") for i in range(len(found.bodies))]
    whole = one_mesh(list(zip(names, found.bodies, strict=True)))
    number = np.concatenate([np.full(len(b.faces), i) for i, b in enumerate(found.bodies, start=1)])
    yield ("result", "view", pack_view(whole, find_faces(whole), number.astype(np.int16)))
    short = lambda column: significant(column, 5).tolist()
    pieces = [
        {
            "name": name,
            "count": 1,
            "up": list(up),
            "up_words": direction_words(unit(up)),
            "volume_mm3": body.volume,
            "solid_g": body.volume * 1e-3 * settings.stock.density,
            "watertight": body.closed,
            "needs_support": None,
            "height_mm": float(np.ptp(body.vertices[body.used] @ unit(up))),
            "time_s": None,
            "apart": _apart(mesh.box, body.box),
        }
        for name, body in zip(names, found.bodies, strict=True)
    ]
    warnings = [
        f"Level over a gap or in a body: {c['kind'].replace('_', ' ')} {c['z_mm']:.1f} mm up, {c['area_mm2']:.0f} mm²: "
        "it droops; a ridge or a chamfer at the limit does not."
        for c in found.ceilings
    ]
    yield ("result", "result", {
        "why": None, "way": "in_place", "words": found.words, "pieces": pieces, "warnings": warnings, "pauses": [],
        "seats": [], "numbers": {"least_mm": float(found.drooped.min()), "needed_mm": needed},
        "sweep": {
            "shares": short(found.shares), "drawn": short(found.drawn), "drooped": short(found.drooped),
            "needed_mm": needed, "holds": found.holds, "nearest_mm": found.places.tolist(),
        },
    })  # fmt: skip


def _apart(whole: Array, piece: Array) -> list[float]:
    """The way (mm, part frame) that a piece is drawn off the others when they are shown apart."""
    way = piece.mean(axis=0) - whole.mean(axis=0)
    return (0.9 * way + 0.0).tolist()
