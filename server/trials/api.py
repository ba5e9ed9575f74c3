"""Trials of parts: written, shown beside their predictions, searched; corrections looked at and taken."""

from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import File, Router, Status
from ninja.files import UploadedFile

from hewel.photos import kind_of
from hewel.refusal import Problem, not_found
from hewel.responses import BYTES
from store import actions as store
from studies.view import view_of
from trials import actions, longterm, queries
from trials.forms import TrialIn
from trials.longterm import LongTermIn
from trials.schemas import (
    CorrectionAsked,
    CorrectionTaken,
    EffectOut,
    LongTermEdit,
    LongTermOut,
    PartTrials,
    TrialOut,
    TrialReason,
    TrialsOut,
)

router = Router(tags=["trials"])
WRITES = {403: Problem, 404: Problem, 409: Problem, 413: Problem, 422: Problem}


def _where(asked: CorrectionAsked) -> dict:
    return {name: value and str(value) for name, value in asked.where.model_dump().items()}


@router.get("", response=TrialsOut, operation_id="list_trials")
def list_trials(request: HttpRequest):
    """Every trial of the workshop, and what they say of the predictions."""
    rows = queries.trials_of(request.user)
    return {"trials": [queries.out(t) for t in rows], "corrections": queries.corrections(request.user)}


@router.get("/sought", response=list[TrialOut], operation_id="search_trials")
def search_trials(request: HttpRequest, text: str):
    """Trials by the words of their lesson, part, case, material, machine or way of breaking."""
    return queries.sought(request.user, text.replace("\x00", "")[:200])


@router.post("/effect", response={200: list[EffectOut], 422: Problem}, operation_id="look_at_correction")
def look_at_correction(request: HttpRequest, asked: CorrectionAsked):
    """What a correction would do to every job that stands on it."""
    found = queries.correction_of(request.user, asked.group, _where(asked))
    if found is None or found["told"] is None:
        return []
    return queries.effect(request.user, asked.group, _where(asked), found["told"]["offered"])


@router.post("/correction", response={200: TrialsOut, **WRITES}, operation_id="take_correction")
def take_correction(request: HttpRequest, asked: CorrectionTaken):
    """Takes the safe factor into the capability record."""
    actions.take(request.user, asked.group, _where(asked), asked.reason)
    return list_trials(request)


@router.get("/longterm", response=list[LongTermOut], operation_id="list_longterm")
def list_longterm(request: HttpRequest):
    """Specimens under load, those that are due first."""
    return longterm.listed(request.user)


@router.post("/longterm", response={201: list[LongTermOut], **WRITES}, operation_id="begin_longterm")
def begin_longterm(request: HttpRequest, specimen: LongTermIn):
    longterm.begin(request.user, specimen.model_dump(mode="json"))
    return Status(201, longterm.listed(request.user))


@router.put("/longterm/{specimen_id}", response={200: list[LongTermOut], **WRITES}, operation_id="amend_longterm")
def amend_longterm(request: HttpRequest, specimen_id: UUID, edit: LongTermEdit):
    longterm.amend(request.user, specimen_id, edit.base, edit.specimen.model_dump(mode="json"))
    return longterm.listed(request.user)


@router.post("/longterm/{specimen_id}/take", response={200: list[LongTermOut], **WRITES}, operation_id="take_creep")
def take_creep(request: HttpRequest, specimen_id: UUID):
    """Takes what ten years would leave as the creep knock-down of its material's record."""
    longterm.take(request.user, specimen_id)
    return longterm.listed(request.user)


@router.get("/of/{part_id}", response={200: PartTrials, 404: Problem}, operation_id="get_part_trials")
def get_part_trials(request: HttpRequest, part_id: UUID):
    """The trials of a part and its revisions, what can be tested, lessons of others that broke alike."""
    return queries.part_out(view_of(request.user, part_id), request.user)


@router.post("/of/{part_id}", response={201: PartTrials, **WRITES}, operation_id="write_trial")
def write_trial(request: HttpRequest, part_id: UUID, trial: TrialIn):
    actions.begin(request.user, part_id, trial.model_dump(mode="json"))
    return Status(201, get_part_trials(request, part_id))


@router.get("/{trial_id}/beside/{other_id}", response={200: list[str], 404: Problem}, operation_id="compare_trials")
def compare_trials(request: HttpRequest, trial_id: UUID, other_id: UUID):
    """What differs between two trials, in words; nothing where only the test did."""
    first, second = (queries.trial_of(request.user, key) for key in (other_id, trial_id))
    return queries.changes(first, second)


@router.put("/{trial_id}", response={200: PartTrials, **WRITES}, operation_id="amend_trial")
def amend_trial(request: HttpRequest, trial_id: UUID, trial: TrialIn):
    return get_part_trials(request, actions.amend(request.user, trial_id, trial.model_dump(mode="json")).part_id)


@router.post("/{trial_id}/photo", response={200: PartTrials, **WRITES}, operation_id="put_trial_photo")
def put_trial_photo(request: HttpRequest, trial_id: UUID, photo: File[UploadedFile]):
    """A photo of the break; only the picture itself is kept."""
    return get_part_trials(request, actions.put_photo(request.user, trial_id, photo).part_id)


@router.get("/{trial_id}/photo", operation_id="get_trial_photo", openapi_extra=BYTES)
def get_trial_photo(request: HttpRequest, trial_id: UUID):
    trial = queries.trial_of(request.user, trial_id)
    if trial.photo is None:
        raise not_found("photo")
    data = store.get(trial.photo)
    return HttpResponse(data, content_type=kind_of(data))


@router.post("/{trial_id}/strike", response={200: PartTrials, **WRITES}, operation_id="strike_trial")
def strike_trial(request: HttpRequest, trial_id: UUID, payload: TrialReason):
    """Out of every list and sum, with the reason in the log."""
    part = queries.trial_of(request.user, trial_id).part_id
    actions.strike(request.user, trial_id, payload.reason)
    return get_part_trials(request, part)
