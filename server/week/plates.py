"""Good parts as plates: full ones, and one of the rest."""

from typing import Any

from batch import bridge as batch
from batch.models import BatchChoice
from batch.queries import Batches
from hewel.refusal import Refused

MOST_PLATES = 500


def plates_of(known: Batches, choice: BatchChoice, quantity: int, mode: str, copies: int) -> list[dict[str, Any]]:
    """Plates for so many good parts, scrap added. Raises Refused where they would be too many."""
    counts = batch.plates_for(quantity, copies, known.prices.scrap)
    if counts["full"] > MOST_PLATES:
        raise Refused(
            "too_many", f"That is {counts['full']} plates.", f"At most {MOST_PLATES} are planned at once.", 422
        )
    full, rest = (_plate(known, choice, mode, n) if n else None for n in (copies, counts["rest"]))
    return [full] * counts["full"] + ([rest] if rest else [])


def _plate(known: Batches, choice: BatchChoice, mode: str, copies: int) -> dict[str, Any]:
    seconds, stops = known.printed(mode, copies)
    chosen = (mode, copies) == (choice.mode, choice.copies)
    return {
        "copies": copies,
        "mode": mode,
        "items": choice.items if chosen else batch.placed(known.laid, choice.analysis.inputs["bed"], mode, copies),
        "seconds": seconds,
        "layers": len(known.laid.copy.extruding) * (copies if mode == "sequential" else 1),
        "grams": choice.analysis.result["grams"],
        "stops": stops,
        "start_s": 60 * known.machine["plate_minutes"],
        "end_s": 60 * known.machine["part_minutes"] * copies,
    }
