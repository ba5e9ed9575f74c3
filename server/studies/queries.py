"""Reading studies and choices; the oriented file of the current choice."""

from hewel.refusal import Refused, not_found
from store import actions as store
from studies import bridge
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
        Study.objects.filter(id=study_id, part__workshop=user.workshop)
        .select_related("work", "part", "sweep")
        .prefetch_related("choices__by")
        .first()
    )
    if study is None:
        raise not_found("study")
    return study


def current_study(part) -> Study:
    return part.studies.order_by("-created").first()


def current_choice(part) -> Choice | None:
    return Choice.objects.filter(study__part=part).select_related("by", "study").first()


def choice_out(choice: Choice) -> dict:
    return {
        "study": choice.study_id,
        "up": choice.up,
        "measures": choice.measures,
        "alternatives": len(choice.alternatives),
        "reason": choice.reason,
        "by": choice.by.shown_name,
        "at": choice.at,
    }


def study_out(study: Study) -> dict:
    return {
        "id": study.id,
        "part": study.part_id,
        "process": study.process,
        "digest": study.digest,
        "swept": study.sweep_id is not None,
        "candidates": study.candidates,
        "work": study.work,
        "choices": [choice_out(c) for c in study.choices.all()],
    }


def oriented_file(part, kind: str) -> bytes:
    choice = current_choice(part)
    if choice is None:
        raise Refused("no_direction", "No direction has been chosen yet.", "Choose one and say why; then export.")
    return bridge.oriented(store.get(part.solid), choice.up, kind, part.name)
