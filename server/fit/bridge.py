"""The only file of this app that calls the engine. ``draw`` runs in a process of its own; ``table`` answers at once."""

from collections.abc import Iterator
from dataclasses import asdict

import numpy as np

from hewel.single_flight import SingleFlightCache
from hewel.watching import with_progress
from hewel_engine import ENGINE_VERSION
from hewel_engine.advice.adapting import Adapted, stray
from hewel_engine.advice.featuring import pointed_at
from hewel_engine.edits.solids import solid_of
from hewel_engine.edits.tools import Impossible
from hewel_engine.errors import InputError
from hewel_engine.fits.bending import pushed, standing_pins
from hewel_engine.fits.drawing import drawn
from hewel_engine.fits.estimates import Wish
from hewel_engine.fits.finish import finish_of
from hewel_engine.fits.mating import Pair, Side, left_between, overlap, placed
from hewel_engine.fits.numbers import FitNumbers, given_numbers
from hewel_engine.fits.rows import FitRow, Measured, measured, region_after, row_of, step
from hewel_engine.flexing.sums import Bent, flex, over
from hewel_engine.geometry.arms import Arm, arm_at
from hewel_engine.geometry.frames import unit
from hewel_engine.geometry.measures import Feature, feature_of
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.patches import Faces, find_faces
from hewel_engine.geometry.rays import RayScene
from hewel_engine.io.packing import bores_of, pack_view, unpack_faces, unpack_solid
from hewel_engine.io.threemf import write_3mf
from hewel_engine.loads.regions import catch
from hewel_engine.made.kinds import KINDS, Kind
from hewel_engine.made.sums import Made, made_of
from hewel_engine.processes import Process
from hewel_engine.strength.allowables import ROOM
from needs.bridge import Held
from remedies.bridge import bounds_of, exactly_too

__all__ = ["ENGINE_VERSION", "ROOM", "InputError"]

KEPT = 400
"""Faces whose measure is kept, by part and shape."""
_measures: SingleFlightCache[Measured | InputError] = SingleFlightCache(KEPT)
_arms: SingleFlightCache[Arm | InputError] = SingleFlightCache(KEPT)
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
    """The slender pins that stand on their layers: a push from the side breaks them between two of these."""
    found = _standing.get(f"{solid} {up}", lambda: standing_pins(part.mesh, part.faces, part.rays, unit(up)))
    return [
        {"diameter_mm": pin.size, "length_mm": float(pin.lengths.max()), "at": pin.places[0].tolist(), "facet": facet}
        for pin, facet in found
    ]


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
    fields = [over(arm, _asked(row), settings, ways) for arm, row in known if not isinstance(arm, InputError)]
    least = np.min(fields, axis=0) if fields else np.full(len(ways), np.inf)
    return [] if np.isinf(least).all() else least.tolist()


def _known_arm(part: Held, solid: str, row: dict) -> Arm | InputError:
    return _arms.get(f"{solid} {row['at']} {row['normal']}", lambda: _arm(part.mesh, part.rays, row))


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
    bent = [(row, _flexed(_arm(mesh, rays, row), row, settings, way)) for row in flexing]
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


def _arm(mesh: Mesh, rays: RayScene, row: dict) -> Arm | InputError:
    try:
        return arm_at(mesh, rays, np.array(row["at"], float), np.array(row["normal"], float))
    except InputError as no:
        return no


SIZES = ("length", "thickness", "width", "radius")


def _asked(row: dict) -> Bent:
    keys = ("deflection", "repeated", "angle_in", "angle_out", "friction", *SIZES)
    return Bent(**{k: row[k] for k in keys})


def _flexed(arm: Arm | InputError, row: dict, process: Process, up: Array) -> dict:
    out = {"id": row["id"], "why": None, "flex": None, "refused": None, "applied": False}
    if isinstance(arm, InputError):
        return out | {"why": f"{arm.message} {arm.hint}"}
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


# ------------------------------------------------------------------ mates


NO_MATE = {"why": None, "meets": False, "off_mm": 0.0, "tilt_deg": 0.0, "free": False, "matrix": None,
           "overlap_mm3": None, "places_mm": [], "pairs": []}  # fmt: skip
"""Of a part that cannot be set against this one."""
_placements: SingleFlightCache[tuple | InputError] = SingleFlightCache(KEPT)


def mate(
    name: str, part: Held, other: Held, pairs: list[dict], mine: dict | None, theirs: dict | None,
    warmth: tuple[float, float],
) -> dict:  # fmt: skip
    """Another part set against this one by pairs of places on their faces; ``warmth``: °C of the coldest and warmest
    use. ``name`` names both solids and the pairs.
    """

    def set_() -> tuple | InputError:
        try:
            met = [
                Pair.of(_face(part, p["at"], p["normal"]), part.mesh,
                        _face(other, p["their_at"], p["their_normal"]), other.mesh)
                for p in pairs
            ]  # fmt: skip
        except InputError as no:
            return no
        if any((p.mine.is_round, p.other.is_round) in ((True, False), (False, True)) for p in met):
            return InputError("bad_options", "A round face meets a round one, a flat one a flat one.", "Point anew.")
        where = placed(met, part.mesh.box.mean(axis=0), other.mesh.box.mean(axis=0))
        both = overlap(solid_of(part.mesh), solid_of(other.mesh), where) if where.meets else None
        return met, where, both

    found = _placements.get(name, set_)
    if isinstance(found, InputError):
        return NO_MATE | {"why": f"{found.message} {found.hint}"}
    met, where, both = found
    return {
        "why": None, "meets": where.meets, "off_mm": where.off, "tilt_deg": where.tilt, "free": where.free,
        "matrix": where.matrix.ravel().tolist() if where.meets else None,
        "overlap_mm3": both and both.volume, "places_mm": both.places.tolist() if both else [],
        "pairs": [_pair(p, _side(part, mine), _side(other, theirs), warmth) for p in met],
    }  # fmt: skip


def _face(part: Held, at: list, normal: list) -> Feature:
    """The measure that the face under a place has; of flats the one that was pointed at first. Raises InputError."""
    place, way = np.array(at, float), np.array(normal, float)
    try:
        facets = pointed_at(part.mesh, part.faces, part.rays, place, way)
    except Impossible as no:
        raise InputError("bad_options", str(no), "Point at the pair again.") from None
    found = feature_of(part.mesh, part.rays, facets)
    if found.axis is None:
        raise InputError("bad_options", "A curved face that is no cylinder sets nothing.", "Point at another one.")
    return found


def _side(part: Held, given: dict | None) -> Side | None:
    if given is None:
        return None
    process, way = Process(**given["process"]), unit(given["up"])
    grows = 1e-6 * float(process.stock.expansion)
    return Side(given_numbers(process, given["numbers"]), way, float((part.mesh.vertices @ way).min()), grows)


def _pair(pair: Pair, mine: Side | None, theirs: Side | None, warmth: tuple[float, float]) -> dict:
    found = left_between(pair, mine, theirs, *(t - ROOM for t in warmth)) if mine and theirs else None
    kinds = {"how": pair.how, "mine": pair.mine.kind, "theirs": pair.other.kind, "mine_mm": pair.mine.size,
             "theirs_mm": pair.other.size, "left": None}  # fmt: skip
    if found is None:
        return kinds
    return kinds | {"left": {
        "gap_mm": found.gap, "worst_mm": list(found.worst), "squares_mm": list(found.squares),
        "cold_mm": found.cold, "warm_mm": found.warm,
    }}  # fmt: skip
