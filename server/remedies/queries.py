"""What was worked out for a part, its revisions beside each other, and the list of changes for whoever owns the model.

A recipe is a list of steps: ``key`` of the remedy, ``kind`` and ``centre_mm`` (part frame) of the region it is for,
whether it is ``on``, and the numbers ``set`` by hand. A part that came out of one keeps it, with the part and the
direction that it starts from.
"""

from farm.queries import process_of
from needs import queries as needs
from overhangs import queries as overhangs
from strength import queries as strength

from hewel.digest import digest
from hewel.refusal import Refused, not_found
from parts import queries as parts
from remedies import bridge
from remedies.models import Proposal
from studies import queries as studies

NOTHING_YET = {
    "applied": [], "left": [], "unfit": [], "questions": [], "changed": None, "before": None, "after": None,
    "unreckoned": None, "better": None, "log": None, "uncarried": None, "inexact": None,
}  # fmt: skip


def proposal_of(user, proposal_id) -> Proposal:
    rows = Proposal.objects.filter(id=proposal_id, part__workshop=user.workshop, part__sheet__struck=None)
    proposal = rows.select_related("work", "part__sheet", "view", "file").first()
    if proposal is None:
        raise not_found("proposal")
    return proposal


def protected_of(part) -> list[int]:
    """Facets that no remedy may touch: those of faces that must not be scarred."""
    return bridge.facets_of(needs.protected_patches(part))


def supports_wanted(part) -> bool:
    """Whether posts and pillars may be designed into the part."""
    return part.job["need"]["policy"] != "none"


def free_of(part) -> dict:
    """How far remedies may go with the part: the spaces that stay free, the change of its volume, bores with a fit."""
    job = part.job
    fits = [shape for shape, _ in needs.fitted_shapes(job)]
    return {"spaces": needs.spaces_of(part), "most_change": job["need"]["most_change"], "fits": fits}


def with_bodies(free: dict) -> dict:
    """The same with the solids of the mating parts that it names."""
    return free | {"bodies": needs.bodies_of(free["spaces"])}


def _rests_on(part) -> tuple:
    """What remedies of a part depend on, whatever the direction."""
    process = process_of(part.workshop, part.job["process"])["numbers"]
    loads = strength.bare(strength.loads_in_service(part.job))
    job = (protected_of(part), supports_wanted(part), free_of(part), strength.divided_by(part.job), loads)
    return (bridge.ENGINE_VERSION, part.solid_id, process, *job)


def digest_of(part, up: list[float], steps: list | None) -> str:
    """Names what a proposal depends on."""
    return digest(*_rests_on(part), [round(v, 9) for v in up], steps)


def step_of(row: dict) -> dict:
    """What a recipe keeps of a step."""
    return {
        "key": row["key"],
        "kind": row["kind"],
        "centre_mm": row["centre_mm"],
        "on": row.get("on", True),
        "set": row.get("set") or {},
        "may_fill": row.get("may_fill", False),
    }


def steps_of(proposal: Proposal) -> list[dict]:
    """The recipe that a proposal stands for: as it was asked for, or what was found to fit."""
    if proposal.steps is not None:
        return proposal.steps
    return [step_of(row) for row in (proposal.told or {"applied": []})["applied"]]


def afterwards_digest(part, ups: list) -> str:
    return digest(*_rests_on(part), [[round(v, 9) for v in up] for up in ups])


def afterwards_out(part) -> dict:
    """What remedies come to in the best directions, ranked among all candidates with that."""
    made = part.afterwards.select_related("work").first()
    if made is None:
        return {"work": None, "stale": False, "rows": []}
    candidates = studies.with_duties(studies.current_study(part))
    rows = bridge.placed(candidates, made.rows) if candidates else []
    return {"work": made.work, "stale": made.digest != afterwards_digest(part, made.ups), "rows": rows}


def is_stale(proposal: Proposal) -> bool:
    there = overhangs.direction_of(proposal.part)
    return there is None or proposal.digest != digest_of(proposal.part, there[0], proposal.steps)


def proposal_out(proposal: Proposal, family: list) -> dict:
    told = proposal.told
    taken = next((p for p in family if p.recipe and p.recipe.get("proposal") == str(proposal.id)), None)
    return {
        "id": proposal.id,
        "up": proposal.up,
        "up_words": bridge.direction_words(bridge.unit(proposal.up)),
        "work": proposal.work,
        "stale": is_stale(proposal),
        "steps": steps_of(proposal),
        "view": proposal.view_id,
        "taken": taken and taken.id,
        **NOTHING_YET,
        **(told or {}),
    }


def remedies_out(part) -> dict:
    """The newest proposal of a part, and the part's revisions beside each other."""
    family = parts.family(part)
    proposal = part.proposals.select_related("work", "part__sheet").first()
    return {
        "recipe": part.recipe,
        "proposal": proposal and proposal_out(proposal, family),
        "choices": bridge.choices(supports_wanted(part)),
        "revisions": [_revision(p, p.id == part.id) for p in family],
    }


def _revision(part, here: bool) -> dict:
    """One row of the tree: what the part is made from, and its figures as far as they are known."""
    there = overhangs.direction_of(part)
    walk = overhangs.current_walk(part)
    truth = walk.truth if walk and walk.truth else None
    held = strength.reserves_for(part, [there[0]]) if there else None
    log = overhangs.log_out(walk, 1) if walk and walk.told else None
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
        "up_words": bridge.direction_words(bridge.unit(there[0])) if there else None,
        "volume_mm3": part.facts["volume_mm3"],
        "support_volume_mm3": truth and truth["support_volume_mm3"],
        "wanting": truth and sum(r["needs_support"] for r in truth["regions"]),
        "seconds": log and log["total_s"],
        "reserve": held and held[0]["reserve"],
    }


def changes_text(proposal: Proposal) -> str:
    """The changes in words, for the person who owns the CAD model."""
    if proposal.told is None:
        raise Refused("not_ready", "The remedies are still being worked out.", "Ask again in a moment.")
    part, told = proposal.part, NOTHING_YET | proposal.told
    lines = [
        f"{part.name}, revision {part.revision}: changes so that it prints without generated support",
        f"Build direction: {bridge.direction_words(bridge.unit(proposal.up))}, as a vector of the model "
        f"({', '.join(f'{v:.6g}' for v in proposal.up)}).",
        f"Overhang limit {proposal.process['limit']:g}° from the vertical, layers of {proposal.process['layer']:g} mm, "
        f"lines of {proposal.process['width']:g} mm. Lengths in mm, places in the model's own coordinates.",
        "",
    ]
    for number, row in enumerate(told["applied"], start=1):
        lines += [
            f"{number}. At {_place(row)}, {row['z_mm']:.2f} mm above the plate:",
            f"   {row['words']}",
            f"   Adds {row['volume_added_mm3']:.1f} mm³, takes {row['volume_removed_mm3']:.1f} mm³ away.",
        ]
    if not told["applied"]:
        lines.append("Nothing is changed.")
    if told["uncarried"]:
        lines += ["", "Not in the STEP file, to be drawn by hand:"]
        lines += [f"   {row['name']}: {row['why']}" for row in told["uncarried"]]
    for row in told["left"]:
        lines += [
            "",
            f"Left as it is: {row['kind'].replace('_', ' ')} at {_place(row)}.",
            *(f"   {w}" for w in row["why"]),
        ]
    return "\n".join(lines) + "\n"


def _place(row: dict) -> str:
    return "(" + ", ".join(f"{round(v, 2) + 0.0:.2f}" for v in row["centre_mm"]) + ")"
