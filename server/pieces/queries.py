"""What a part was worked out as in pieces, the parts made of it, and the list for whoever puts it together."""

from farm.queries import fits_of, process_of
from overhangs import queries as overhangs

from hewel.digest import digest
from hewel.refusal import Refused, not_found
from parts import queries as parts
from pieces import bridge
from pieces.models import Division

NOTHING_YET = {
    "why": None, "words": "", "numbers": {}, "pieces": [], "warnings": [], "pauses": [], "seats": [],
    "sweep": None, "inexact": None,
}  # fmt: skip


STANDING = ("embed", "in_place")
"""Ways that depend on how the part stands."""


def division_of(user, division_id) -> Division:
    rows = Division.objects.filter(id=division_id, part__workshop=user.workshop, part__sheet__struck=None)
    division = rows.select_related("work", "part__sheet", "view", "file").first()
    if division is None:
        raise not_found("division")
    return division


def up_for(part, said: dict) -> list[float] | None:
    """The direction that a division depends on: a plate is put in, and what hangs droops, as the part stands; a cut is
    a cut.
    """
    if said["way"] not in STANDING:
        return None
    there = overhangs.direction_of(part)
    if there is None:
        raise Refused(
            "no_direction", "No direction is known yet.", "Wait for the first candidate, or choose a direction.", 409
        )
    return there[0]


def clearance_for(part, said: dict) -> float:
    """mm per side: as typed, else by the farm's fit of that name."""
    if said["clearance"] is not None:
        return said["clearance"]
    return fits_of(part.workshop, part.job["process"])[said["fit"]]["value"]


def digest_of(part, said: dict) -> str:
    """Names what a division depends on."""
    process = process_of(part.workshop, part.job["process"])["numbers"]
    clearance, up = clearance_for(part, said), up_for(part, said)
    return digest(bridge.ENGINE_VERSION, part.solid_id, process, said, clearance, up)


def pieces_out(part) -> dict:
    """The newest division of a part, the pieces made of it, and the division that the part itself is a piece of."""
    division = part.divisions.select_related("work", "part__sheet").first()
    whole = part.recipe and part.recipe.get("division")
    family = parts.family(part)
    return {
        "division": division and _division(division, family),
        "fits": fits_of(part.workshop, part.job["process"]),
        "whole": part.recipe["of"] if whole else None,
        "piece": part.recipe["piece"] if whole else None,
        "siblings": made_of(whole, family) if whole else [],
    }


def _division(division: Division, family: list) -> dict:
    told = NOTHING_YET | (division.told or {})
    return {
        "id": division.id,
        "said": division.said,
        "clearance_mm": division.clearance,
        "work": division.work,
        "stale": division.digest != _digest_now(division),
        "done": division.told is not None,
        "view": division.view_id,
        "made": made_of(division.id, family),
        **told,
    }


def _digest_now(division: Division) -> str:
    try:
        return digest_of(division.part, division.said)
    except Refused:  # no direction any more
        return ""


def made_of(division, family: list) -> list[dict]:
    """The parts that were made of a division's pieces, with what hangs in each."""
    rows = []
    for part in family:
        if not part.recipe or part.recipe.get("division") != str(division):
            continue
        newest = _newest(part, family)
        walk = overhangs.current_walk(newest)
        truth = walk.truth if walk and walk.truth else None
        there = overhangs.direction_of(newest)
        rows.append(
            {
                "part": newest.id,
                "name": part.recipe["piece"],
                "revision": newest.revision,
                "up_words": bridge.direction_words(bridge.unit(there[0])) if there else None,
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
    if division.told is None or division.told["why"]:
        raise Refused("not_ready", "There are no pieces to list.", "Work the pieces out first.", 409)
    told, part = NOTHING_YET | division.told, division.part
    lines = [f"{part.name}, revision {part.revision}: pieces", "", told["words"], "", "Pieces"]
    for row in told["pieces"]:
        lines.append(
            f"  {row['count']} × {row['name']}: printed with {row['up_words']}, {row['height_mm']:.1f} mm high, "
            f"{row['volume_mm3']:.0f} mm³" + (", wants support" if row["needs_support"] else "")
        )
    if told["seats"]:
        lines += ["", "Sockets, places in the model's own coordinates, mm"]
        for seat in told["seats"]:
            place = ", ".join(f"{v + 0.0:.2f}" for v in seat["place_mm"])
            lines.append(
                f"  ({place}): socket {seat['diameter_mm']:.2f}, peg {seat['peg_mm']:.2f}, "
                f"{seat['depth_mm']:.2f} deep in each half, wall {seat['wall_mm']:.2f}"
            )
    if told["pauses"]:
        lines += ["", "Pauses: a person must be there"]
        for pause in told["pauses"]:
            lines.append(f"  after layer {pause['layer']}, {pause['height_mm']:.2f} mm up: {pause['what']}")
        lines.append("  The nozzle and the plate are hot; keep hands clear of the moving head, and let it stand still.")
    if told["warnings"]:
        lines += ["", "Mind", *(f"  {w}" for w in told["warnings"])]
    return "\n".join(lines) + "\n"
