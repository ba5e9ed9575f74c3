"""Settling what a check of the layers found."""

from django.db import transaction
from django.utils import timezone

from accounts.models import User
from accounts.roles import require
from audit.actions import record
from hewel.refusal import Refused, reason_given
from overhangs import queries
from overhangs.models import OverhangAnalysis
from sheets import actions as sheets

STATES = {"accepted": "accepted", "not_applicable": "not applicable", "open": "open again"}
"""What a person can say of a finding; *remedied* is said by the check that finds it no more."""


@transaction.atomic
def settle(user: User, analysis: OverhangAnalysis, base: int, numbers: list[int], state: str, reason: str) -> None:
    """Settles findings of a check by their numbers on the part, all with one reason; *open* takes that back."""
    require(user, "edit")
    if state not in STATES:
        raise Refused("bad_options", f"A finding cannot be {state!r}.", f"Use {', '.join(STATES)}.", 422)
    reason = reason.replace("\x00", "").strip() if state == "open" else reason_given(reason, "Say why.")
    found = {r["number_on_part"]: r for r in queries.findings(analysis)["rows"]} if analysis.truth else {}
    unknown = [n for n in numbers if n not in found]
    if unknown or not numbers:
        why = f"This check has no finding {unknown[0]}." if unknown else "No finding was named."
        raise Refused("no_finding", why, "Load the page again, and settle it there.", 422)
    chosen = [found[n] for n in numbers]
    old = {r["settled"]["id"] for r in chosen if r["settled"]}
    kept = [r for r in analysis.part.job["findings"]["rows"] if r["id"] not in old]
    if state != "open":
        kept += [_row(user, analysis, r, state, reason) for r in chosen]
    words = f"{'finding' if len(chosen) == 1 else f'{len(chosen)} findings'} {STATES[state]}"
    analysis.part.sheet = sheets.amend(user, analysis.part.sheet_id, base, {"findings": {"rows": kept}}, words)
    record(user, words, analysis, after={"numbers": numbers, "reason": reason})


def _row(user, analysis: OverhangAnalysis, finding: dict, state: str, reason: str) -> dict:
    """What is kept of a settled finding: enough to know it again, and to tell of it when it is found no more.

    Its id is the same whoever settles it, so that two people who do see each other's reason.
    """
    return {
        "id": f"{str(analysis.id)[:8]}-{finding['number_on_part']}",
        "walk": str(analysis.id),
        "up": analysis.up,
        "kind": finding["kind"],
        "centre_mm": finding["centre_mm"],
        "area_mm2": finding["area_mm2"],
        "number": finding["number"],
        "unit": finding["unit"],
        "sentence": finding["sentence"],
        "state": state,
        "reason": reason,
        "by": user.shown_name,
        "at": timezone.now().isoformat(),
    }
