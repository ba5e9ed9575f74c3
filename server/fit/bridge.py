"""The only file of this app that calls the engine. ``draw`` runs in a process of its own; ``table`` answers at once."""

from collections.abc import Iterator
from dataclasses import asdict

import numpy as np

from hewel.single_flight import SingleFlightCache
from hewel.watching import with_progress
from hewel_engine import ENGINE_VERSION
from hewel_engine.advice.adapting import Adapted, stray
from hewel_engine.advice.featuring import pointed_at
from hewel_engine.edits.sites import facet_at
from hewel_engine.edits.tools import Impossible
from hewel_engine.errors import InputError
from hewel_engine.fits.bending import pushed, standing_pins
from hewel_engine.fits.drawing import drawn
from hewel_engine.fits.estimates import Wish
from hewel_engine.fits.finish import finish_of
from hewel_engine.fits.numbers import FitNumbers, given_numbers
from hewel_engine.fits.rows import FitRow, Measured, measured, region_after, row_of, step
from hewel_engine.flexing.rims import UPRIGHT, Ringed, ringed
from hewel_engine.flexing.standing import standing_snaps
from hewel_engine.flexing.sums import Bent, flex, over
from hewel_engine.geometry.arms import Arm, arm_at
from hewel_engine.geometry.frames import unit
from hewel_engine.geometry.helices import find_helices
from hewel_engine.geometry.measures import Feature
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.patches import Faces, find_faces
from hewel_engine.geometry.rays import RayScene
from hewel_engine.geometry.rims import Rim, rim_at
from hewel_engine.io.packing import bores_of, pack_view, unpack_faces, unpack_solid
from hewel_engine.io.threemf import write_3mf
from hewel_engine.loads.regions import catch
from hewel_engine.made.kinds import KINDS, Kind
from hewel_engine.made.sums import Made, made_of
from hewel_engine.processes import Process
from needs.bridge import Held
from remedies.bridge import bounds_of, exactly_too

__all__ = ["ENGINE_VERSION", "InputError"]

KEPT = 400
"""Faces whose measure is kept, by part and shape."""
_measures: SingleFlightCache[Measured | InputError] = SingleFlightCache(KEPT)
_arms: SingleFlightCache[Arm | Rim | InputError] = SingleFlightCache(KEPT)
_standing: SingleFlightCache[list] = SingleFlightCache(KEPT)


def table(part: Held, solid: str, up: list, process: dict, touching: list, numbers: dict) -> list[dict]:
    """Every touching face: what it is, what comes out of it, what is to be drawn. ``solid`` names the part's solid."""
    of = given_numbers(Process(**process), numbers)
    way = unit(up)
    plate = float((part.mesh.vertices @ way).min())

    def known(row: dict) -> Measured | InputError:
        name = f"{solid} {row['corner']} {row['shapes']!r}"
        return _measures.get(name, lambda: _measured(part.mesh, part.faces, part.rays, row))

    settings = Process(**process)
    return [_told(row, _row(known(row), row, of, way, plate), settings, way) for row in touching]


def flexes(part: Held, solid: str, up: list, process: dict, flexing: list) -> list[dict]:
    """Every arm that bends: its sizes, what it bears as the part stands, what would make it hold."""
    settings, way = Process(**process), unit(up)

    return [_flexed(_known_arm(part, solid, row), row, settings, way) for row in flexing]


def standing(part: Held, solid: str, up: list) -> list[dict]:
    """The slender pins, threads and snaps that stand on their layers: a load parts them between two of these."""
    return _standing.get(f"{solid} {up}", lambda: _standing_of(part, unit(up)))


def _standing_of(part: Held, up: Array) -> list[dict]:
    pins = [
        {"kind": "pin", "size_mm": pin.size, "length_mm": float(pin.lengths.max()), "at": pin.places[0].tolist(),
         "normal": None, "facet": facet}
        for pin, facet in standing_pins(part.mesh, part.faces, part.rays, up)
    ]  # fmt: skip
    threads = [
        {"kind": "thread", "size_mm": t.diameter, "length_mm": t.length, "at": t.middle.tolist(), "normal": None,
         "facet": None}
        for t in find_helices(part.mesh, part.faces, part.rays) if abs(float(t.axis @ up)) > UPRIGHT
    ]  # fmt: skip
    snaps = [
        {"kind": "snap", "size_mm": arm.thickness, "length_mm": arm.length, "at": at.tolist(),
         "normal": normal.tolist(), "facet": None}
        for arm, at, normal in standing_snaps(part.mesh, part.faces, part.rays, up)
    ]  # fmt: skip
    return pins + threads + snaps


def seen_faces(part: Held, up: list, process: dict, rows: list) -> list[dict]:
    """Every face that is seen: the steps of its layers, what of it takes the plate's texture, what would hang."""
    settings, way = Process(**process), unit(up)
    out = []
    for row in rows:
        try:
            facets = catch(part.mesh, part.faces, row["shape"]).facets
        except InputError:
            continue  # Requirements says that the face is gone
        told = finish_of(part.mesh, facets, settings, way)
        out.append({
            "id": row["id"], "name": row["name"], "worst_mm": told.worst, "mean_mm": told.mean, "plate": told.plate,
            "hangs": told.hangs, "at": told.at.tolist(), "normal": told.normal.tolist(),
        })  # fmt: skip
    return out


def arms_net(part: Held, solid: str, ups: list, process: dict, flexing: list) -> list[float]:
    """Least reserve of what bends in each of the directions ``ups``; none where nothing is bent."""
    settings, ways = Process(**process), np.array(ups, float)
    known = [(_known_arm(part, solid, row), row) for row in flexing]
    fields = [_over(arm, row, settings, ways) for arm, row in known if not isinstance(arm, InputError)]
    least = np.min(fields, axis=0) if fields else np.full(len(ways), np.inf)
    return [] if np.isinf(least).all() else least.tolist()


def _over(bent: Arm | Rim, row: dict, process: Process, ups: Array) -> Array:
    """(k,) reserve of what bends in each of the directions ``ups``."""
    if isinstance(bent, Arm):
        return over(bent, _asked(row), process, ups)
    told = ringed(bent, row["deflection"], row["friction"], process, bent.axis)
    return np.where(np.abs(ups @ bent.axis) > UPRIGHT, told.reserve, told.turned)


def _known_arm(part: Held, solid: str, row: dict) -> Arm | Rim | InputError:
    return _arms.get(f"{solid} {row['at']} {row['normal']}", lambda: _arm(part.mesh, part.faces, part.rays, row))


def features(part: Held, up: list, process: dict, rows: list) -> list[dict]:
    """Every feature that is to be made: its numbers, and what it would bear as the part stands."""
    settings, way = Process(**process), unit(up)
    return [_featured(_feature(part.mesh, part.faces, part.rays, settings, way, row), row) for row in rows]


def kinds() -> list[dict]:
    """The kinds of features: what to point at, which numbers each has."""
    return [{"key": k.key, "title": k.title, "point": k.point, "second": k.second, "fields": _fields(k)} for k in KINDS]


def _fields(kind: Kind) -> list[dict]:
    return [
        {
            "name": p.name,
            "words": p.words,
            "unit": p.unit,
            "low": p.low,
            "high": p.high,
            "asks": p in kind.asks,
            "choices": list(p.choices),
        }
        for p in (*kind.sizes, *kind.asks)
    ]


def draw(
    solid: bytes, view: bytes, bores: list | None, up: list, process: dict, touching: list, flexing: list,
    features: list, numbers: dict, protected: list, free: dict, picked: list | None, title: str,
    exact: bytes | None = None,
) -> Iterator[tuple]:  # fmt: skip
    """Events of drawing touching faces for their fits: results ``result`` (dict), ``view`` and ``file`` (bytes) where
    anything was changed, ``exact`` (bytes) where the part has an exact solid.
    """
    yield ("doing", 0, 100, "measuring the faces")
    mesh, settings, way = unpack_solid(solid), Process(**process), unit(up)
    rays, faces = RayScene(mesh), unpack_faces(view, mesh)
    known = bores_of(mesh, rays, solid, view, bores)
    bounds = bounds_of(mesh, faces, known, free)
    of, plate = given_numbers(settings, numbers), float((mesh.vertices @ way).min())
    rows = [(row, _row(_measured(mesh, faces, rays, row), row, of, way, plate)) for row in touching]
    bent = [(row, _flexed(_arm(mesh, faces, rays, row), row, settings, way)) for row in flexing]
    made = [(row, _feature(mesh, faces, rays, settings, way, row)) for row in features]
    asked = lambda row: picked is None or row["id"] in picked
    wanted = {row["id"]: found.steps for row, found in rows if asked(row) and found.steps}
    wanted |= {row["id"]: _cured(row, told) for row, told in bent if picked and asked(row)}
    wanted |= {row["id"]: _making(row, found) for row, found in made if asked(row)}
    if not any(wanted.values()):
        as_it_is, bending = [_told(*pair, settings, way) for pair in rows], [told for _, told in bent]
        yield ("result", "result", _result(as_it_is, bending, [_featured(f, row) for row, f in made]))
        return

    def change(watch) -> tuple[Adapted, dict[str, str]]:
        tell = lambda what, done, total: watch(what, done / max(total, 1))
        return drawn(mesh, way, settings, known, wanted, np.array(protected, int), bounds, tell)

    came, refused = yield from with_progress(change, 5, 80)
    applied = {key: steps for key, steps in wanted.items() if steps and key not in refused}
    outcome = lambda row: {"refused": refused.get(row["id"]), "applied": row["id"] in applied}
    told = [_told(*pair, settings, way) | outcome(pair[0]) for pair in rows]
    bending = [told | outcome(row) for row, told in bent]
    sized = [(row, found) for row, found in rows if row["id"] in applied]
    nominal = {
        row["id"]: found.estimate.drawn if row["nominal"] is None else row["nominal"]
        for row, found in sized
        if found.estimate and found.estimate.kind != "corner"
    }
    regions = {row["id"]: [region_after(shape, found) for shape in row["shapes"]] for row, found in sized}
    done = [step for own in applied.values() for step in own]
    on_faces = [_featured(found, row) | outcome(row) for row, found in made]
    result = _result(told, bending, on_faces) | {
        "steps": done, "stray_mm3": stray(mesh, came), "drawn": nominal, "regions": regions,
        "made": [row["id"] for row, _ in made if row["id"] in applied],
    }  # fmt: skip
    yield ("result", "result", result)
    if not came.applied:
        return
    yield ("result", "view", pack_view(came.mesh, find_faces(came.mesh), came.marks.astype(np.int16)))
    yield ("result", "file", write_3mf(came.mesh, title))
    if exact:
        yield ("doing", 85, 100, "changing the exact solid")
        more = yield from exactly_too(exact, title, came.made)
        yield ("result", "result", result | more)


def _result(rows: list[dict], bent: list[dict], features: list[dict]) -> dict:
    """A drawing of which nothing has been done."""
    return {
        "rows": rows, "flexes": bent, "features": features, "steps": [], "stray_mm3": 0.0, "drawn": {}, "regions": {},
        "made": [], "uncarried": None, "inexact": None,
    }  # fmt: skip


def _measured(mesh: Mesh, faces: Faces, rays: RayScene, row: dict) -> Measured | InputError:
    try:
        return measured(mesh, faces, rays, row["shapes"], row["corner"])
    except InputError as no:
        return no


def _row(found: Measured | InputError, row: dict, numbers: FitNumbers, up: Array, plate: float) -> FitRow:
    if isinstance(found, InputError):
        return FitRow(None, None, [], f"{found.message} {found.hint}")
    wish = Wish(row["fit"], row["mate"], row["plus"], row["minus"], row["gap"], row["nominal"])
    return row_of(found, wish, numbers, up, plate)


def _told(row: dict, found: FitRow, process: Process, up: Array) -> dict:
    out = {"id": row["id"], "why": found.why or None, "estimate": None, "applied": False, "refused": None,
           "changes": bool(found.steps), "pushed": None}  # fmt: skip
    feature = found.measured
    if row["push"] and isinstance(feature, Feature) and feature.kind == "pin":
        out["pushed"] = asdict(pushed(feature, row["push"], process, up))
    told = found.estimate
    if told is None:
        return out
    corrections = [
        {"words": c.words, "mm": c.mm, "origin": c.known and c.known.origin, "record": c.known and c.known.record,
         "name": c.known and c.known.name, "compensated": bool(c.known and c.known.compensated)}
        for c in told.corrections
    ]  # fmt: skip
    places = found.measured.places if found.measured else np.zeros((0, 3))
    return out | {
        "estimate": {
            "kind": told.kind, "lies": told.lies, "count": len(places), "drawn_mm": told.drawn,
            "printed_mm": told.printed, "doubt_mm": told.doubt, "wanted_mm": told.wanted, "to_draw_mm": told.to_draw,
            "change_mm": told.change, "gap_mm": told.gap, "least_gap_mm": told.least_gap,
            "most_gap_mm": told.most_gap, "wanted_gap_mm": told.wanted_gap, "mate_mm": told.mate,
            "verdict": told.verdict, "corrections": corrections, "says": told.says,
            "centre_mm": places.mean(axis=0).tolist() if len(places) else None,
        }
    }  # fmt: skip


# ------------------------------------------------------------------ arms


def _arm(mesh: Mesh, faces: Faces, rays: RayScene, row: dict) -> Arm | Rim | InputError:
    """The rim that a round wall has, else the arm that was pointed at."""
    at, normal = np.array(row["at"], float), np.array(row["normal"], float)
    try:
        return rim_at(mesh, faces, rays, facet_at(mesh, rays, at, normal))
    except (InputError, Impossible):
        pass
    try:
        return arm_at(mesh, rays, at, normal)
    except InputError as no:
        return no


SIZES = ("length", "thickness", "width", "radius")


def _asked(row: dict) -> Bent:
    keys = ("deflection", "repeated", "angle_in", "angle_out", "friction", *SIZES)
    return Bent(**{k: row[k] for k in keys})


def _flexed(arm: Arm | Rim | InputError, row: dict, process: Process, up: Array) -> dict:
    out = {"id": row["id"], "why": None, "flex": None, "rim": None, "refused": None, "applied": False}
    if isinstance(arm, InputError):
        return out | {"why": f"{arm.message} {arm.hint}"}
    if isinstance(arm, Rim):
        return out | {"rim": _rim(arm, ringed(arm, row["deflection"], row["friction"], process, up))}
    told = flex(arm, _asked(row), process, up)
    finite = lambda value: value if value is not None and np.isfinite(value) else None
    return out | {
        "flex": {
            "length_mm": told.sizes.length, "thickness_mm": told.sizes.thickness, "width_mm": told.sizes.width,
            "thickness_share": told.sizes.thickness_share, "radius_mm": told.sizes.radius,
            "held_twice": told.sizes.held_twice, "measured": [k for k in SIZES if row[k] is None],
            "deflection_mm": told.deflection, "catch_mm": arm.catch, "stands_deg": told.stands,
            "strain": told.strain, "notch": told.notch, "allowed": told.allowed, "reserve": finite(told.reserve),
            "lying": finite(told.lying), "force_n": told.force, "mating_n": told.mating, "holding_n": told.holding,
            "verdict": told.verdict if told.deflection > 0 else "unknown", "thinner_mm": told.thickness,
            "longer_mm": told.length, "rounder_mm": told.radius, "says": list(told.says),
            "root_mm": arm.root.tolist(), "tip_mm": (arm.root + arm.length * arm.along).tolist(),
        }
    }  # fmt: skip


def _rim(rim: Rim, told: Ringed) -> dict:
    return {
        "diameter_mm": rim.diameter, "inside": rim.inside, "wall_mm": rim.wall, "bead_mm": rim.undercut,
        "undercut_mm": told.undercut, "from_end_mm": rim.from_end, "angle_in": rim.angle_in,
        "angle_out": rim.angle_out, "strain": told.hoop.strain, "allowed": told.hoop.allowed,
        "reserve": told.reserve, "turned": told.turned, "stands": told.stands, "mating_n": told.hoop.mating,
        "holding_n": told.hoop.holding, "verdict": told.verdict, "least_mm": told.least, "says": list(told.says),
        "crest_mm": rim.crest.tolist(),
    }  # fmt: skip


def _cured(row: dict, told: dict) -> list[dict]:
    """The step that makes an arm hold in the way that its row says; none where none does, or where a typed size stands
    in place of what is measured.
    """
    found = told["flex"]
    if not found:
        return []
    key, size, name, number, least = {
        "thinner": ("shifted_flat", "thickness", "thinner_mm", "by_mm", "thickness_mm"),
        "longer": ("lengthened_arm", "length", "longer_mm", "by_mm", "length_mm"),
        "rounder": ("rounded_root", "radius", "rounder_mm", "radius_mm", None),
    }[row["cure"]]
    if found[name] is None or size not in found["measured"]:
        return []
    value = found[name] - (found[least] if least else 0.0)
    return [step(key, np.array(row["at"], float), np.array(row["normal"], float), {number: round(value, 3)})]


# ------------------------------------------------------------------ features


def _feature(mesh: Mesh, faces: Faces, rays: RayScene, process: Process, up: Array, row: dict) -> Made | Impossible:
    try:
        end = row["end"] and np.array(row["end"], float)
        at, normal = np.array(row["at"], float), np.array(row["normal"], float)
        _keep_off(mesh, faces, rays, at, normal, row["off"])
        return made_of(mesh, faces, rays, process, up, row["kind"], at, normal, end, row["numbers"])
    except Impossible as no:
        return no
    except InputError as no:
        return Impossible(f"{no.message} {no.hint}")


def _keep_off(mesh: Mesh, faces: Faces, rays: RayScene, at: Array, normal: Array, off: list[dict]) -> None:
    """Raises Impossible where the face at a place is one of those that are kept off."""
    if not off:
        return
    mine = pointed_at(mesh, faces, rays, at, normal)
    for face in off:
        if np.isin(mine, catch(mesh, faces, face["shape"]).facets).any():
            raise Impossible(f"This is “{face['name']}”: a texture is kept off faces that meet, seal or bear a load.")


def _featured(found: Made | Impossible, row: dict) -> dict:
    out = {"id": row["id"], "why": None, "numbers": {}, "lines": [], "reserve": None, "says": [], "applied": False,
           "refused": None}  # fmt: skip
    if isinstance(found, Impossible):
        return out | {"why": str(found)}
    lines = [{"words": x.words, "value": x.value, "unit": x.unit, "fails": x.fails} for x in found.lines]
    return out | {"numbers": found.numbers, "lines": lines, "reserve": found.reserve, "says": found.says}


def _making(row: dict, found: Made | Impossible) -> list[dict]:
    """The step that makes a feature with the numbers that were told of it."""
    if isinstance(found, Impossible):
        return []
    at, normal = np.array(row["at"], float), np.array(row["normal"], float)
    return [step(row["kind"], at, normal, found.numbers) | {"kind": "feature", "end_mm": row["end"]}]
