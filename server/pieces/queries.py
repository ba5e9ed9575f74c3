"""What a part was worked out as in pieces, the parts made of it, and the list for whoever puts it together."""

from uuid import UUID

from hewel.refusal import Refused
from overhangs import queries as overhangs
from parts import queries as parts
from pieces import bridge
from pieces.models import Division
from pieces.stage import PIECES
from stages.stage import State
from store import actions as store
from studies.view import DirectedJob

NOTHING_YET = {
    "why": None, "words": "", "numbers": {}, "pieces": [], "warnings": [], "pauses": [], "seats": [],
    "sweep": None, "inexact": None,
}  # fmt: skip


def printable(division: Division) -> bytes:
    """The pieces' file as it leaves: scaled where the job asks for it."""
    view, data = DirectedJob(division.part), store.get(division.file)
    scale = view.farm.scale(view.job)
    return bridge.scaled_3mf(data, *scale) if scale else data


def pieces_out(view: DirectedJob) -> dict:
    """The newest division of a part, the pieces made of it, and the division that the part itself is a piece of."""
    part, division = view.part, view.result(PIECES)
    whole = part.recipe and part.recipe.get("division")
    family = parts.family(part)
    return {
        "division": division and _division(view, division, family),
        "fits": view.farm.fits(view.job["process"]),
        "whole": part.recipe["of"] if whole else None,
        "piece": part.recipe["piece"] if whole else None,
        "siblings": made_of(whole, family) if whole else [],
    }


def state(view: DirectedJob) -> State:
    division = view.result(PIECES)
    if division is None:
        return {"state": "empty", "line": "one piece", "busy": False}
    result, busy = NOTHING_YET | (division.result or {}), division.work.open
    if busy:
        line = "being worked out"
    elif result["why"]:
        return {"state": "empty", "line": "cannot be so", "busy": False}
    else:
        line = f"{len(result['pieces'])} kinds"
    if view.changed(PIECES, division):
        return {"state": "stale", "line": line, "busy": busy}
    families = view.together.once("families", lambda: parts.families([v.part for v in view.together.views]))
    made = bool(taken_of(division.id, families[view.part.id]))
    line += "" if made or busy else ", not made"
    return {"state": "settled" if made else "open", "line": line, "busy": busy}


def _division(view: DirectedJob, division: Division, family: list) -> dict:
    result = NOTHING_YET | (division.result or {})
    return {
        "id": division.id,
        "request": division.request,
        "clearance_mm": division.clearance,
        "work": division.work,
        "stale_because": view.changed(PIECES, division),
        "done": division.result is not None,
        "view": division.view_id,
        "made": made_of(division.id, family),
        **result,
    }


def taken_of(division: UUID, family: list) -> list:
    """The parts that were made of a division's pieces, as they came out of it."""
    return [p for p in family if p.recipe and p.recipe.get("division") == str(division)]


def made_of(division: UUID, family: list) -> list[dict]:
    """The parts that were made of a division's pieces, with what hangs in the newest revision of each."""
    taken = taken_of(division, family)
    rows = []
    for part, view in zip(taken, DirectedJob.of(_newest(p, family) for p in taken), strict=True):
        analysis = overhangs.current_walk(view)
        truth = analysis.truth if analysis and analysis.truth else None
        rows.append(
            {
                "part": view.part.id,
                "name": part.recipe["piece"],
                "revision": view.part.revision,
                "up_words": bridge.direction_words(bridge.unit(view.up)) if view.up else None,
                "wanting": truth and sum(r["needs_support"] for r in truth["regions"]),
            }
        )
    return rows


def _newest(part, family: list):
    """The latest revision made of a piece, itself where there is none."""
    later = [p for p in family if p.before_id == part.id and not (p.recipe or {}).get("division")]
    return _newest(max(later, key=lambda p: p.revision), family) if later else part


def list_text(division: Division) -> str:
    """Pieces and pauses, for whoever prints them and puts them together."""
    if division.result is None or division.result["why"]:
        raise Refused("not_ready", "There are no pieces to list.", "Work the pieces out first.", 409)
    result, part = NOTHING_YET | division.result, division.part
    lines = [f"{part.name}, revision {part.revision}: pieces", "", result["words"], "", "Pieces"]
    for row in result["pieces"]:
        lines.append(
            f"  {row['count']} × {row['name']}: printed with {row['up_words']}, {row['height_mm']:.1f} mm high, "
            f"{row['volume_mm3']:.0f} mm³" + (", needs support" if row["needs_support"] else "")
        )
    if result["seats"]:
        lines += ["", "Sockets, places in the model's own coordinates, mm"]
        for seat in result["seats"]:
            place = ", ".join(f"{v + 0.0:.2f}" for v in seat["place_mm"])
            lines.append(
                f"  ({place}): socket {seat['diameter_mm']:.2f}, peg {seat['peg_mm']:.2f}, "
                f"{seat['depth_mm']:.2f} deep in each half, wall {seat['wall_mm']:.2f}"
            )
    if result["pauses"]:
        lines += ["", "Pauses: a person must be there"]
        for pause in result["pauses"]:
            lines.append(f"  after layer {pause['layer']}, {pause['height_mm']:.2f} mm up: {pause['what']}")
        lines.append("  The nozzle and the plate are hot; keep hands clear of the moving head, and let it stand still.")
    if result["warnings"]:
        lines += ["", "Mind", *(f"  {w}" for w in result["warnings"])]
    return "\n".join(lines) + "\n"
