"""Ordering remedies, and taking what came out of them as a revision."""

from audit.actions import record
from django.db import transaction
from farm.queries import process_of
from overhangs import queries as overhangs

from accounts.roles import require
from hewel.digest import digest
from hewel.refusal import Refused, unusable
from parts.actions import order_adapted
from parts.queries import require_closed, stored
from remedies import bridge, queries
from remedies.models import Afterwards, Proposal
from store import actions as store
from studies import queries as studies
from work.actions import order_work, still_ours
from work.models import Work

MOST_STEPS = 500


@transaction.atomic
def order_proposal(user, part, steps: list[dict] | None) -> Proposal:
    """Works out remedies for what hangs in the job's direction: all that fit, or the steps of a recipe. What was worked
    out for the same before keeps its answer.
    """
    from remedies.tasks import work_out

    require(user, "edit")
    there = _direction(part)
    process = process_of(part.workshop, part.job["process"])["numbers"]
    if steps is not None:
        steps = [_checked(step, process) for step in steps[:MOST_STEPS]]
    digest = queries.digest_of(part, there[0], steps)
    made = part.proposals.filter(digest=digest).exclude(work__state__in=Work.BROKEN_OFF).first()
    if made:
        return made
    proposal = Proposal.objects.create(part=part, up=there[0], process=process, steps=steps, digest=digest)
    proposal.work = order_work(user, "propose", {"proposal": str(proposal.id)}, work_out)
    proposal.save(update_fields=["work"])
    record(user, "remedies worked out", proposal, after={"up": proposal.up, "steps": steps and len(steps)})
    return proposal


@transaction.atomic
def order_afterwards(user, part) -> Afterwards:
    """Works out what remedies come to in the best directions of the current study. What is known keeps its answer."""
    from remedies.tasks import work_afterwards_out

    require(user, "edit")
    _closed(part)
    candidates = studies.with_duties(studies.current_study(part))
    if not candidates:
        raise Refused("no_direction", "No candidate has been sliced yet.", "Ask again when the first are there.", 409)
    ups = [c["up"] for c in sorted(candidates, key=lambda c: c["rank"])[: bridge.MOST]]
    digest = queries.afterwards_digest(part, ups)
    made = part.afterwards.filter(digest=digest).exclude(work__state__in=Work.BROKEN_OFF).first()
    if made:
        return made
    process = process_of(part.workshop, part.job["process"])["numbers"]
    made = Afterwards.objects.create(part=part, process=process, ups=ups, digest=digest)
    made.work = order_work(user, "afterwards", {"afterwards": str(made.id)}, work_afterwards_out)
    made.save(update_fields=["work"])
    record(user, "directions worked out after remedies", made, after={"directions": len(ups)})
    return made


def keep_afterwards(work: Work, name: str, value) -> None:
    with still_ours(work):
        Afterwards.objects.filter(id=work.order["afterwards"]).update(**{name: value})


def _known(step: dict) -> dict:
    if step["key"] not in bridge.KEYS:
        raise Refused("bad_options", f"There is no remedy {step['key']!r}.", "Use " + ", ".join(bridge.KEYS) + ".", 422)
    return queries.step_of(step)


def _checked(step: dict, process: dict) -> dict:
    known = _known(step)
    try:
        bridge.check_numbers(step["key"], step.get("set") or {}, process)
    except bridge.InputError as error:
        raise unusable(error) from None
    return known


def look(user, part, step: dict) -> dict:
    """What one step would do to the part as it stands now; nothing is kept."""
    there = _direction(part)
    process = process_of(part.workshop, part.job["process"])["numbers"]
    step = _known(step)
    free = queries.free_of(part)
    name = f"{overhangs.digest_of(part, there[0])} {digest(free)}"
    fetch = lambda: stored(part) | {"free": queries.with_bodies(free)}
    try:
        return bridge.look(name, part.facts["triangles"], fetch, there[0], process, step)
    except bridge.InputError as error:
        raise unusable(error) from None


def _direction(part) -> tuple:
    there = overhangs.direction_of(part)
    if there is None:
        raise Refused(
            "no_direction", "No direction is known yet.", "Wait for the first candidate, or choose a direction.", 409
        )
    _closed(part)
    return there


def _closed(part) -> None:
    require_closed(part, ", so there is no solid to change.")


def keep(work: Work, name: str, value) -> None:
    """One result of a proposal, as soon as it is known."""
    with still_ours(work):
        if name in ("view", "file", "exact"):
            value = store.put(value)
        Proposal.objects.filter(id=work.order["proposal"]).update(**{name: value})


@transaction.atomic
def take(user, proposal: Proposal) -> Work:
    """Orders a revision of the part from a proposal; its recipe goes with it."""
    require(user, "edit")
    if proposal.told is None or proposal.file is None:
        raise Refused("not_ready", "The remedies are still being worked out.", "Take them when they are done.", 409)
    if not proposal.told["applied"]:
        raise Refused(
            "nothing_changed", "Nothing was changed, so there is no revision to make.", "Go on as it is.", 409
        )
    part = proposal.part
    recipe = {
        "proposal": str(proposal.id),
        "of": str(part.id),
        "up": proposal.up,
        "steps": queries.steps_of(proposal),
    }
    uncarried = proposal.told.get("uncarried") or []
    work = order_adapted(user, part, proposal.file, recipe, exact=proposal.exact, uncarried=uncarried)
    record(user, "remedies taken", proposal, after={"steps": len(recipe["steps"])})
    return work
