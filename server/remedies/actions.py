"""Looking at one remedy, and taking what came out of several as a revision."""

from django.db import transaction

from accounts.models import User
from accounts.roles import require
from audit.actions import record
from hewel.digest import digest
from hewel.refusal import Refused, unusable
from parts.actions import enqueue_adapted
from parts.queries import require_closed, stored
from remedies import bridge, queries
from remedies.models import Proposal
from remedies.stage import REMEDIES, free_of, require_direction, step_of, with_bodies
from studies.view import DirectedJob
from work.models import Work


def look(view: DirectedJob, step: dict) -> dict:
    """What one step would do to the part as it stands now; nothing is kept."""
    require_direction(view)
    require_closed(view.part, REMEDIES.open_part)
    step, free = step_of(step), free_of(view.part)
    name = digest(bridge.ENGINE_VERSION, view.part.solid_id, view.process, view.up, free)
    fetch = lambda: stored(view.part) | {"free": with_bodies(free)}
    try:
        return bridge.look(name, view.part.facts["triangles"], fetch, view.up, view.process, step)
    except bridge.InputError as error:
        raise unusable(error) from None


@transaction.atomic
def take(user: User, proposal: Proposal) -> Work:
    """Orders a revision of the part from a proposal; its recipe goes with it."""
    require(user, "edit")
    if proposal.result is None or proposal.file is None:
        raise Refused("not_ready", "The remedies are still being worked out.", "Take them when they are done.", 409)
    if not proposal.result["applied"]:
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
    uncarried = proposal.result.get("uncarried") or []
    work = enqueue_adapted(user, part, proposal.file, recipe, exact=proposal.exact, uncarried=uncarried)
    record(user, "remedies taken", proposal, after={"steps": len(recipe["steps"])})
    return work
