"""Writing trials, and taking what they say into the farm's capability records."""

from uuid import UUID

from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from django.utils import timezone

from accounts.models import User
from accounts.roles import require
from audit.actions import record
from farm import actions as farm
from farm.forms import validated
from hewel.photos import picture
from hewel.refusal import Refused, reason_given
from needs import queries as needs
from parts.queries import part_of
from store import actions as store
from studies.view import DirectedJob
from trials import bridge, queries
from trials.forms import TrialIn
from trials.models import Trial


@transaction.atomic
def begin(user: User, part_id: UUID, given: dict) -> Trial:
    """A trial of a part as its job stands now."""
    require(user, "print")
    part = part_of(user, part_id)
    view = DirectedJob(part)
    if view.up is None:
        raise Refused("no_direction", "It is not known how this part stands.", "Choose a direction first.", 409)
    trial = Trial(
        workshop=user.workshop, part=part, up=view.up, by=user, process=view.farm.process(view.job["process"])
    )
    _fill(trial, view, given)
    trial.save()
    record(user, "trial written", trial, after={"how": trial.how, "verdict": trial.verdict})
    return trial


@transaction.atomic
def amend(user: User, trial_id: UUID, given: dict) -> Trial:
    """What was seen, corrected; what it was printed with stays as it was."""
    require(user, "print")
    trial = queries.trial_of(user, trial_id)
    before = {"how": trial.how, "verdict": trial.verdict, "load": trial.load}
    _fill(trial, DirectedJob(trial.part), given)
    trial.save()
    record(user, "trial changed", trial, before, {"how": trial.how, "verdict": trial.verdict, "load": trial.load})
    return trial


def _fill(trial: Trial, view: DirectedJob, given: dict) -> None:
    form = validated(TrialIn, given, "trial")
    loads = queries.case_loads(view.job)
    case = loads.get(form.case)
    if form.case and case is None:
        raise Refused("no_case", "This job has no such load case with a force.", "Choose another one, or none.", 422)
    if case and form.load and form.load.unit != case["unit"]:
        what = f"“{case['name']}” is a load in {case['unit']}, the test's in {form.load.unit}."
        raise Refused("bad_value", what, f"Type the test's load in {case['unit']}.", 422)
    if form.tested > timezone.localdate():
        raise Refused("bad_value", "A test cannot lie in the future.", "Type the day it was done.", 422)
    told = form.model_dump(mode="json")
    if case and (trial.case != form.case or trial.predicted is None):
        trial.predicted = queries.prediction(view, form.case)
    for name in ("plate", "copies", "mode", "case", "how", "at", "verdict", "lesson", "load"):
        setattr(trial, name, told[name])
    trial.tested = form.tested
    trial.case_name, trial.case_load = (case["name"], abs(case["n"])) if case else ("", None)
    if not case:
        trial.predicted = None
    trial.layer = _layer(view, trial)


def _layer(view: DirectedJob, trial: Trial) -> int | None:
    """The layer of the place where it broke, counted from the plate."""
    if trial.at is None:
        return None
    height = bridge.height_over_plate(needs.held(trial.part), trial.at, trial.up)
    return max(int(height / trial.process["numbers"]["layer"]), 0)


@transaction.atomic
def put_photo(user: User, trial_id: UUID, photo: UploadedFile) -> Trial:
    require(user, "print")
    trial = queries.trial_of(user, trial_id)
    trial.photo = store.put(picture(photo))
    trial.save(update_fields=["photo"])
    record(user, "photo of a trial", trial)
    return trial


@transaction.atomic
def strike(user: User, trial_id: UUID, reason: str) -> None:
    """Out of every list and sum; it stays on record."""
    require(user, "edit")
    reason = reason_given(reason, "Say why it does not count.")
    trial = queries.trial_of(user, trial_id)
    trial.struck = timezone.now()
    trial.save(update_fields=["struck"])
    record(user, "trial taken out", trial, after={"why": reason})


@transaction.atomic
def take(user: User, group: str, where: dict, reason: str) -> None:
    """Takes the safe factor that trials offer into the capability record, in the place of the scatter's allowance."""
    require(user, "edit")
    reason = reason_given(reason, "Say why it is taken.")
    found = queries.correction_of(user, group, where)
    if found is None or found["told"] is None:
        raise Refused("no_number", "No trial that broke as predicted says anything of that.", "Reload the page.", 422)
    if not where["machine"]:
        raise Refused("no_machine", "These trials name no machine: there is no record of it.", "Choose one.", 422)
    told = found["told"]
    value, day = round(told["offered"], 3), timezone.localdate().isoformat()
    values = {
        bridge.FIELDS[group]: {
            "typed": value, "origin": "trial", "count": told["count"], "plates": told["plates"],
            "deviation": told["scatter"], "measured": day,
            "note": f"{reason[:300]} ({told['count']} trials, {told['plates']} plates, factor {told['factor']:.2f})",
        }
    }  # fmt: skip
    sheet = farm.put_measured(user, where, values, day, user.shown_name)
    record(user, "correction taken", sheet, after={"group": group, "factor": value, "why": reason})
