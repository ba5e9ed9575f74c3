"""Ordering studies, asking about one more direction, choosing."""

import hashlib
import json

from audit.actions import record
from django.db import transaction

from accounts.roles import require
from hewel.refusal import Refused
from studies import bridge
from studies.models import Choice, Study
from work.actions import order_work
from work.models import Work

SETTINGS = ("limit", "layer", "width", "material")


def _order(user, part, process: dict) -> Study:
    from studies.tasks import study_directions

    seed = json.dumps([bridge.ENGINE_VERSION, part.solid_id, process], sort_keys=True)
    study = Study.objects.create(part=part, process=process, digest=hashlib.sha256(seed.encode()).hexdigest())
    study.work = order_work(user, "study", {"study": str(study.id)}, study_directions)
    study.save(update_fields=["work"])
    return study


def order_study_of_new_part(user, part) -> Study:
    return _order(user, part, bridge.process_of({}))


@transaction.atomic
def order_study(user, part, settings: dict) -> Study:
    """A study with other settings; the one that is current keeps its answer."""
    require(user, "edit")
    try:
        process = bridge.process_of(settings)
    except bridge.InputError as error:
        raise Refused(error.code, error.message, error.hint, 422) from None
    before = part.studies.order_by("-created").values_list("process", flat=True).first()
    study = _order(user, part, process)
    record(user, "study ordered", study, before=before, after=process)
    return study


@transaction.atomic
def ask_direction(user, study: Study, up: list[float]) -> Work:
    """Orders the slicing of a direction that somebody pointed at or typed."""
    from studies.tasks import study_direction

    require(user, "edit")
    up = _unit(up)
    work = order_work(user, "direction", {"study": str(study.id), "up": up}, study_direction)
    record(user, "direction asked", study, after={"up": up})
    return work


def _unit(up: list[float]) -> list[float]:
    try:
        return bridge.unit(up).tolist()
    except bridge.InputError as error:
        raise Refused(error.code, error.message, error.hint, 422) from None


@transaction.atomic
def choose(user, study: Study, up: list[float], reason: str) -> Choice:
    """Settles the direction. Its numbers and those of every alternative are kept as they stand now."""
    require(user, "edit")
    reason = reason.replace("\x00", "").strip()
    if len(reason) < 3:
        raise Refused("reason_needed", "Say why this direction.", "A few words are enough.", 422)
    up = _unit(up)
    study = Study.objects.select_for_update().get(id=study.id)
    same = [c for c in study.candidates if sum(a * b for a, b in zip(c["up"], up, strict=True)) > 1 - 1e-9]
    if not same:
        raise Refused(
            "not_examined",
            "This direction has not been sliced yet.",
            "Point at it on the net and take it to the desk first.",
            422,
        )
    others = [c for c in study.candidates if c is not same[0]]
    before = Choice.objects.filter(study__part=study.part_id).values("up", "reason").first()
    choice = Choice.objects.create(
        study=study, up=same[0]["up"], measures=same[0], alternatives=others, reason=reason, by=user
    )
    record(user, "direction chosen", choice, before=before, after={"up": choice.up, "reason": reason})
    return choice
