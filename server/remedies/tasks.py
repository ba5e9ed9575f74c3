"""Background work on remedies."""

from procrastinate.contrib.django import app
from strength.queries import divided_by, loads_in_service

from parts.queries import stored, stored_exact
from remedies.actions import keep, keep_afterwards
from remedies.models import Afterwards, Proposal
from remedies.queries import free_of, protected_of, supports_wanted, with_bodies
from work.actions import carry_out
from work.models import Work


@app.task(name="remedies.work_out")
def work_out(work_id: str) -> None:
    """Every remedy made and proved on the solid; then what it costs, and what it holds."""

    def arguments(work: Work) -> dict:
        rows = Proposal.objects.select_related("part__solid", "part__view", "part__sheet")
        proposal = rows.get(id=work.order["proposal"])
        part = proposal.part
        return {
            **stored(part),
            "exact": stored_exact(part),
            "up": proposal.up,
            "process": proposal.process,
            "steps": proposal.steps,
            "protected": protected_of(part),
            "loads": loads_in_service(part.job),
            "title": part.name,
            "supports": supports_wanted(part),
            **_bounds(part),
        }

    carry_out(work_id, "remedies.bridge", "propose", arguments, keep, lambda work: {"proposal": work.order["proposal"]})


@app.task(name="remedies.afterwards")
def work_afterwards_out(work_id: str) -> None:
    """Remedies in one direction after the other; each is on the page as soon as it is known."""

    def arguments(work: Work) -> dict:
        rows = Afterwards.objects.select_related("part__solid", "part__view", "part__sheet")
        made = rows.get(id=work.order["afterwards"])
        part = made.part
        return {
            **stored(part),
            "process": made.process,
            "ups": made.ups,
            "protected": protected_of(part),
            "loads": loads_in_service(part.job),
            "supports": supports_wanted(part),
            **_bounds(part),
        }

    carry_out(work_id, "remedies.bridge", "afterwards", arguments, keep_afterwards, lambda work: {})


def _bounds(part) -> dict:
    return {"free": with_bodies(free_of(part)), "service": divided_by(part.job)}
