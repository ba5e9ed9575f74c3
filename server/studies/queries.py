"""Reading studies and choices; the oriented file of the current choice."""

import json

from django.utils import timezone

from hewel.refusal import Refused, not_found
from store import actions as store
from studies import bridge, printing
from studies.actions import digest_of
from studies.models import Choice, Study

BYTES = {
    "responses": {
        200: {
            "description": "The file's bytes",
            "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
        }
    }
}


def study_of(user, study_id) -> Study:
    study = (
        Study.objects.filter(id=study_id, part__workshop=user.workshop, part__sheet__struck=None)
        .select_related("work", "part__sheet", "sweep")
        .prefetch_related("choices__by")
        .first()
    )
    if study is None:
        raise not_found("study")
    return study


def current_study(part) -> Study:
    """The newest study of the job's process; it may be an older engine's, see ``is_stale``."""
    return part.studies.filter(process=part.job["process"]).order_by("-created").first()


def is_stale(study: Study) -> bool:
    """Whether what the study depends on has changed since: another process, another engine."""
    return study.digest != digest_of(study.part)


def current_choice(part) -> Choice | None:
    said = part.job["choice"]
    return said and Choice.objects.select_related("by", "study__part__sheet").get(id=said["id"])


def choice_out(choice: Choice) -> dict:
    return {
        "study": choice.study_id,
        "up": choice.up,
        "measures": choice.measures,
        "alternatives": len(choice.alternatives),
        "reason": choice.reason,
        "stale": is_stale(choice.study),
        "by": choice.by.shown_name,
        "at": choice.at,
    }


def study_out(study: Study) -> dict:
    return {
        "id": study.id,
        "part": study.part_id,
        "process": study.process,
        "digest": study.digest,
        "swept": study.sweep_id,
        "candidates": study.candidates,
        "stale": is_stale(study),
        "work": study.work,
        "choices": [choice_out(c) for c in study.choices.all()],
    }


def oriented_file(part, kind: str) -> bytes:
    choice = current_choice(part)
    if choice is None:
        raise Refused("no_direction", "No direction has been chosen yet.", "Choose one and say why; then export.")
    return bridge.oriented(store.get(part.solid), choice.up, kind, part.name)


def ranking(study: Study, weights: dict[str, float]) -> dict:
    """Ranks, costs and the field of costs under ``weights``."""
    if not study.candidates:
        return {"ranks": [], "costs": [], "field": None}
    return bridge.weighted(study.candidates, study.sweep and store.get(study.sweep), weights)


def comparison_page(study: Study) -> bytes:
    """One printed page (PDF) of the desk as it stands."""
    part = study.part
    if not study.candidates:
        raise Refused("not_swept", "No candidate has been sliced yet.", "Print it when the first are in the table.")
    weights = part.job["desk"]["weights"]
    ranks = ranking(study, weights)["ranks"] if weights else [c["rank"] for c in study.candidates]
    choice = current_choice(part)
    sweep = study.sweep and json.loads(store.get(study.sweep))
    return printing.comparison(part, study, sweep, ranks, choice and choice_out(choice), timezone.now())
