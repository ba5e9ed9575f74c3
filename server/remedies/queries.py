"""What was worked out for a part, its revisions beside each other, and the list of changes for whoever owns the model.

A recipe is a list of steps: ``key`` of the remedy, ``kind`` and ``centre_mm`` (part frame) of the region it is for,
whether it is ``on``, and the numbers ``set`` by hand. A part that came out of one keeps it, with the part and the
direction that it starts from.
"""

from hewel.refusal import Refused
from overhangs import queries as overhangs
from parts import queries as parts
from parts.models import Part
from remedies import bridge
from remedies.models import Proposal
from remedies.stage import AFTER_REMEDIES, REMEDIES, step_of, supports_wanted
from strength import queries as strength
from studies import queries as studies
from studies.view import DirectedJob

NOTHING_YET = {
    "applied": [], "left": [], "unfit": [], "questions": [], "changed": None, "before": None, "after": None,
    "uncalculated": None, "better": None, "log": None, "uncarried": None, "inexact": None,
}  # fmt: skip


def steps_of(proposal: Proposal) -> list[dict]:
    """The recipe that a proposal stands for: as it was asked for, or what was found to fit."""
    if proposal.steps is not None:
        return proposal.steps
    return [step_of(row) for row in (proposal.result or {"applied": []})["applied"]]


def afterwards_out(view: DirectedJob) -> dict:
    """What remedies come to in the best directions, ranked among all candidates with that."""
    made = view.result(AFTER_REMEDIES)
    if made is None:
        return {"work": None, "stale_because": [], "rows": []}
    candidates = studies.with_duties(view, view.study)
    rows = bridge.placed(candidates, made.rows) if candidates else []
    return {"work": made.work, "stale_because": view.changed(AFTER_REMEDIES, made), "rows": rows}


def _proposal(view: DirectedJob, proposal: Proposal, family: list) -> dict:
    result = proposal.result
    taken = next((p for p in family if p.recipe and p.recipe.get("proposal") == str(proposal.id)), None)
    return {
        "id": proposal.id,
        "up": proposal.up,
        "up_words": bridge.direction_words(bridge.unit(proposal.up)),
        "work": proposal.work,
        "stale_because": view.changed(REMEDIES, proposal),
        "steps": steps_of(proposal),
        "view": proposal.view_id,
        "taken": taken and taken.id,
        **NOTHING_YET,
        **(result or {}),
    }


def remedies_out(view: DirectedJob) -> dict:
    """The newest proposal of a part, and the part's revisions beside each other."""
    part, family = view.part, parts.family(view.part)
    proposal = view.result(REMEDIES)
    return {
        "recipe": part.recipe,
        "proposal": proposal and _proposal(view, proposal, family),
        "choices": bridge.choices(supports_wanted(view.job)),
        "revisions": [_revision(v, v.part.id == part.id) for v in DirectedJob.of(family)],
    }


def _revision(view: DirectedJob, here: bool) -> dict:
    """One row of the tree: what the part is made from, and its figures as far as they are known."""
    part, up, analysis = view.part, view.up, overhangs.current_walk(view)
    truth = analysis.truth if analysis and analysis.truth else None
    held = strength.reserves_for(view, [up]) if up else None
    log = overhangs.log_out(analysis, 1) if analysis and analysis.complete else None
    return {
        "id": part.id,
        "name": part.name,
        "revision": part.revision,
        "before": part.before_id,
        "here": here,
        "steps": sum(s["on"] for s in part.recipe["steps"]) if part.recipe else None,
        "recipe": part.recipe and part.recipe["steps"],
        "piece": part.recipe and part.recipe.get("piece"),
        "scale": part.recipe and part.recipe.get("scale"),
        "up_words": bridge.direction_words(bridge.unit(up)) if up else None,
        "volume_mm3": part.facts["volume_mm3"],
        "support_volume_mm3": truth and truth["support_volume_mm3"],
        "wanting": truth and sum(r["needs_support"] for r in truth["regions"]),
        "seconds": log and log["total_s"],
        "reserve": held and held[0]["reserve"],
    }


def made_of(part: Part) -> Proposal | None:
    """The remedies that a revision was made of; None for what came in another way."""
    row = Proposal.objects.filter(id=(part.recipe or {}).get("proposal")).select_related("part__sheet").first()
    return row if row and row.result else None


def changes_text(proposal: Proposal) -> str:
    """The changes in words, for the person who owns the CAD model."""
    if proposal.result is None:
        raise Refused("not_ready", "The remedies are still being worked out.", "Ask again in a moment.")
    part, result = proposal.part, NOTHING_YET | proposal.result
    lines = [
        f"{part.name}, revision {part.revision}: changes so that it prints without generated support",
        f"Build direction: {bridge.direction_words(bridge.unit(proposal.up))}, as a vector of the model "
        f"({', '.join(f'{v:.6g}' for v in proposal.up)}).",
        f"Overhang limit {proposal.process['limit']:g}° from the vertical, layers of {proposal.process['layer']:g} mm, "
        f"lines of {proposal.process['width']:g} mm. Lengths in mm, places in the model's own coordinates.",
        "",
    ]
    for number, row in enumerate(result["applied"], start=1):
        lines += [
            f"{number}. At {point_words(row['centre_mm'])}, {row['z_mm']:.2f} mm above the plate:",
            f"   {row['words']}",
            f"   Adds {row['volume_added_mm3']:.1f} mm³, takes {row['volume_removed_mm3']:.1f} mm³ away.",
        ]
    if not result["applied"]:
        lines.append("Nothing is changed.")
    if result["uncarried"]:
        lines += ["", "Not in the STEP file, to be drawn by hand:"]
        lines += [f"   {row['name']}: {row['why']}" for row in result["uncarried"]]
    for row in result["left"]:
        lines += [
            "",
            f"Left as it is: {row['kind'].replace('_', ' ')} at {point_words(row['centre_mm'])}.",
            *(f"   {w}" for w in row["why"]),
        ]
    return "\n".join(lines) + "\n"


def point_words(at: list[float]) -> str:
    """A place or a direction in the model's own coordinates."""
    return "(" + ", ".join(f"{round(v, 2) + 0.0:.2f}" for v in at) + ")"
