"""Ordering studies, asking about one more direction, choosing."""

from audit.actions import record
from django.db import transaction
from farm.forms import ProcessIn, validated
from farm.queries import process_of
from needs.queries import inputs

from accounts.roles import require
from hewel.digest import digest
from hewel.refusal import Refused, unusable
from sheets import actions as sheets
from store import actions as store
from studies import bridge
from studies.models import Choice, Study
from work.actions import order_work
from work.models import Work


def process_numbers(part) -> dict:
    """What the farm's records make of the job's process, as the engine takes it."""
    return process_of(part.workshop, part.job["process"])["numbers"]


def digest_of(part) -> str:
    """Names what a study of ``part`` depends on: the engine, the solid, the numbers of the job's process."""
    return digest(bridge.ENGINE_VERSION, part.solid_id, process_numbers(part))


def keep_sweep(study_id: str, sweep: bytes) -> None:
    """The newest sweep of a study; a coarser one that it replaces is not kept."""
    study = Study.objects.get(id=study_id)
    before, study.sweep = study.sweep, store.put(sweep)
    study.save(update_fields=["sweep"])
    if before:
        store.forget(before.digest)


@transaction.atomic
def keep_candidates(study_id: str, found: list[dict]) -> None:
    """What was worked out, beside what came in meanwhile: a direction that somebody asked for is never lost, whichever
    of two workers is done last.
    """
    study = Study.objects.select_for_update().get(id=study_id)
    study.candidates = bridge.merged(study.candidates, found)
    study.save(update_fields=["candidates"])


def order_study_of_new_part(user, part, later: bool = False) -> Study:
    """``later``: nobody waits for it."""
    from studies.tasks import study_directions

    study = Study.objects.create(part=part, process=process_numbers(part), digest=digest_of(part))
    order = {"study": str(study.id)} | ({"later": True} if later else {})
    study.work = order_work(user, "study", order, study_directions)
    study.save(update_fields=["work"])
    return study


@transaction.atomic
def order_study(user, part, base: int, settings: dict) -> Study:
    """Puts another process on the job, and a study for it; one that was made before keeps its answer."""
    require(user, "edit")
    said = validated(ProcessIn, settings, "process").model_dump(mode="json")
    process_of(user.workshop, said)  # refuses what no record or bound allows
    part.sheet = sheets.amend(user, part.sheet_id, base, {"process": said}, "process")
    made = part.studies.filter(digest=digest_of(part)).exclude(work__state__in=Work.BROKEN_OFF).first()
    return made or order_study_of_new_part(user, part)


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
        raise unusable(error) from None


@transaction.atomic
def choose(user, study: Study, base: int, up: list[float], reason: str) -> Choice:
    """Settles the direction. Its numbers and those of every alternative are kept as they stand now."""
    require(user, "edit")
    reason = reason.replace("\x00", "").strip()
    if len(reason) < 3:
        raise Refused("reason_needed", "Say why this direction.", "A few words are enough.", 422)
    up = _unit(up)
    study = Study.objects.select_for_update().get(id=study.id)
    same = [c for c in study.candidates if bridge.same_direction(c["up"], up)]
    if not same:
        raise Refused(
            "not_examined",
            "This direction has not been sliced yet.",
            "Point at it on the net and take it to the desk first.",
            422,
        )
    others = [c for c in study.candidates if c is not same[0]]
    choice = Choice.objects.create(
        study=study,
        up=same[0]["up"],
        measures=same[0],
        alternatives=others,
        reason=reason,
        rests_on=inputs(study.part) | {"process": digest(study.process)},
        by=user,
    )
    said = {"id": choice.id, "up": choice.up, "reason": reason}
    sheets.amend(user, study.part.sheet_id, base, {"choice": said, "carried": None}, "direction chosen")
    return choice
