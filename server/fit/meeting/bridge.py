"""The only file of this room that calls the engine: other parts, made or bought, set against one of the workshop."""

import numpy as np

from hewel.single_flight import SingleFlightCache
from hewel_engine.advice.featuring import pointed_at
from hewel_engine.edits.solids import solid_of
from hewel_engine.edits.tools import Impossible
from hewel_engine.errors import InputError
from hewel_engine.fits.bought import EXPANSION, body_of
from hewel_engine.fits.bought import kinds as bought_things
from hewel_engine.fits.mating import Bought, Pair, Side, left_between, overlap, placed
from hewel_engine.fits.numbers import given_numbers
from hewel_engine.geometry.frames import unit
from hewel_engine.geometry.measures import Feature, feature_of
from hewel_engine.geometry.patches import find_faces
from hewel_engine.processes import Process
from hewel_engine.reckoning.fits import stack as stack_card
from hewel_engine.strength.allowables import ROOM
from needs.bridge import Held

__all__ = ["ROOM"]

KEPT = 400
"""Placements that are kept, by solids and pairs."""

NO_MATE = {"why": None, "meets": False, "off_mm": 0.0, "tilt_deg": 0.0, "free": False, "matrix": None,
           "overlap_mm3": None, "places_mm": [], "pairs": [], "corners_mm": None}  # fmt: skip
"""Of a part that cannot be set against this one."""
_placements: SingleFlightCache[tuple | InputError] = SingleFlightCache(KEPT)


def mate(
    name: str, part: Held, other: Held, pairs: list[dict], mine: dict | None, theirs: dict | None,
    warmth: tuple[float, float],
) -> dict:  # fmt: skip
    """Another part set against this one by pairs of places on their faces; ``warmth``: °C of the coldest and warmest
    use. ``name`` names both solids and the pairs.
    """

    found = _placements.get(name, lambda: _set(part, other, pairs))
    if isinstance(found, InputError):
        return NO_MATE | {"why": f"{found.message} {found.hint}"}
    return _set_against(found, _side(part, mine), _side(other, theirs), warmth)


def _set_against(found: tuple, mine: Side | None, theirs: Side | Bought | None, warmth: tuple[float, float]) -> dict:
    met, where, both = found
    return {
        "why": None, "meets": where.meets, "off_mm": where.off, "tilt_deg": where.tilt, "free": where.free,
        "matrix": where.matrix.ravel().tolist() if where.meets else None,
        "overlap_mm3": both and both.volume, "places_mm": both.places.tolist() if both else [],
        "pairs": [_pair(p, mine, theirs, warmth) for p in met], "corners_mm": None,
    }  # fmt: skip


def bought(solid: str, part: Held, row: dict, mine: dict | None, warmth: tuple[float, float]) -> dict:
    """A bought part set against this one by pairs of a place on it and a named face of the bought one; its corners
    where it lies.
    """
    given, pairs = row["bought"], row["pairs"]
    numbers = {name: value["n"] for name, value in given["numbers"].items()}
    try:
        body = body_of(given["kind"], numbers, given["size"])
        lost = next((p["face"] for p in pairs if p["face"] not in body.faces), None)
        if lost is not None:
            raise InputError("bad_options", f"It has no face “{lost}”.", "Take it out and set it anew.")
    except InputError as no:
        return NO_MATE | {"why": f"{no.message} {no.hint}"}
    if not pairs:
        return NO_MATE | {"why": "Choose one of its faces, then point at the face of this part that meets it."}
    theirs = Held(body.mesh, find_faces(body.mesh))
    both = [p | {"their_at": body.faces[p["face"]][0], "their_normal": body.faces[p["face"]][1]} for p in pairs]
    found = _placements.get(f"{solid} {given!r} {pairs!r}", lambda: _set(part, theirs, both))
    if isinstance(found, InputError):
        return NO_MATE | {"why": f"{found.message} {found.hint}"}
    more, less = (given[k]["n"] if given[k] else 0.0 for k in ("plus", "minus"))
    told = _set_against(found, _side(part, mine), Bought(more, less, EXPANSION), warmth)
    if not told["meets"]:
        return told
    _, where, _ = found
    corners = body.mesh.triangles.reshape(-1, 3) @ where.turn.T + where.shift
    return told | {"corners_mm": np.round(corners, 3).ravel().tolist()}


def bought_kinds() -> list[dict]:
    """What can be bought: the sizes that are asked for, the threads, the faces that can meet something."""
    numbers = lambda kind: [{"name": n.name, "words": n.words, "usual": n.usual} for n in kind.numbers]
    return [
        {"key": k.key, "title": k.title, "numbers": numbers(k), "sizes": list(k.sizes), "faces": list(k.faces)}
        for k in bought_things()
    ]


def stack(rows: list[dict], least: float | None, most: float | None) -> dict:
    """What sizes leave together (card *stack*), each in the middle of what may come out of it; nulls while one of them
    is not known. ``out_ppm`` of a million beyond the limits, null without both.
    """
    nothing = {"middle_mm": None, "worst_mm": None, "squares_mm": None, "out_ppm": None}
    if any(row["mm"] is None for row in rows):
        return nothing
    nominal = [(-1 if row["less"] else 1) * row["mm"] for row in rows]
    doubts = [row["doubt"] for row in rows]
    limits = (least, most) if least is not None and most is not None else (0.0, 0.0)
    middle, *ends, out = stack_card(nominal, doubts, doubts, *limits)
    asked = least is not None and most is not None
    return {
        "middle_mm": middle, "worst_mm": ends[:2], "squares_mm": ends[2:], "out_ppm": out if asked else None,
    }  # fmt: skip


def _set(part: Held, other: Held, pairs: list[dict]) -> tuple | InputError:
    """The pairs, where the other part lies by them, and what both take up there."""
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


def _pair(pair: Pair, mine: Side | None, theirs: Side | Bought | None, warmth: tuple[float, float]) -> dict:
    found = left_between(pair, mine, theirs, *(t - ROOM for t in warmth)) if mine and theirs else None
    kinds = {"how": pair.how, "mine": pair.mine.kind, "theirs": pair.other.kind, "mine_mm": pair.mine.size,
             "theirs_mm": pair.other.size, "left": None}  # fmt: skip
    if found is None:
        return kinds
    return kinds | {"left": {
        "gap_mm": found.gap, "worst_mm": list(found.worst), "squares_mm": list(found.squares),
        "cold_mm": found.cold, "warm_mm": found.warm,
    }}  # fmt: skip
