"""Reading studies and choices; the oriented file of the current choice."""

import json

from django.utils import timezone
from needs import queries as needs
from needs.queries import inputs
from strength import queries as strength

from hewel.refusal import Refused, not_found
from store import actions as store
from studies import bridge, printing
from studies.actions import digest_of
from studies.models import Choice, Study


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
    """The newest study that answers for the job as it is; where there is none, the newest, which then is stale."""
    newest = part.studies.order_by("-created")
    return newest.filter(digest=digest_of(part)).first() or newest.first()


def is_stale(study: Study) -> bool:
    """Whether what the study depends on has changed since: another process, another engine."""
    return study.digest != digest_of(study.part)


def stale_because(choice: Choice) -> list[str]:
    """What a choice was decided by and has changed since, in words; another engine counts as another part's study."""
    now = inputs(choice.study.part)
    changed = [name for name, digest in choice.rests_on.items() if now[name] != digest]
    return changed or (["process" if choice.rests_on == {} else "engine"] if is_stale(choice.study) else [])


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
        "stale_because": stale_because(choice),
        "by": choice.by.shown_name,
        "at": choice.at,
    }


def with_duties(study: Study) -> list[dict]:
    """The candidates with what the job's duties and loads say of each, ranked with that."""
    known = study.candidates
    ups = [c["up"] for c in known]
    needing = [c["needing_area_mm2"] / max(c["overhang_area_mm2"], 1e-9) for c in known]
    asked = needs.direction_columns(study.part, ups, study.process, needing) | _reserves(study.part, ups)
    if not asked:
        return known
    return bridge.ranked([c | {name: column[i] for name, column in asked.items()} for i, c in enumerate(known)])


def _reserves(part, ups: list) -> dict[str, list]:
    """Least reserve over the job's cases in each direction, its band and the case; empty while no check answers for
    the job.
    """
    found = strength.reserves_for(part, ups)
    names = {
        "reserve": "reserve",
        "reserve_low": "low",
        "reserve_high": "high",
        "doubtful": "doubtful",
        "weakest_case": "case",
    }
    return {} if found is None else {name: [row[key] for row in found] for name, key in names.items()}


def study_out(study: Study) -> dict:
    return {
        "id": study.id,
        "part": study.part_id,
        "process": study.process,
        "digest": study.digest,
        "swept": study.sweep_id,
        "candidates": with_duties(study),
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
    sweep = study.sweep and json.loads(store.get(study.sweep))
    if sweep is None:
        return bridge.weighted(with_duties(study), None, weights)
    asked = needs.direction_columns(study.part, sweep["ups"], study.process)
    held = strength.reserves_for(study.part, sweep["ups"], banded=False)
    asked |= {"reserve": [row["reserve"] for row in held]} if held else {}
    return bridge.weighted(with_duties(study), sweep["fields"] | asked, weights)


def duty_fields(study: Study) -> dict:
    """What the job's duties say of every swept direction; empty where it has none."""
    if study.sweep is None:
        return {}
    return needs.direction_columns(study.part, json.loads(store.get(study.sweep))["ups"], study.process)


def comparison_page(study: Study) -> bytes:
    """One printed page (PDF) of the desk as it stands."""
    part = study.part
    if not study.candidates:
        raise Refused("not_swept", "No candidate has been sliced yet.", "Print it when the first are in the table.")
    weights = part.job["desk"]["weights"]
    study.candidates = with_duties(study)
    ranks = ranking(study, weights)["ranks"] if weights else [c["rank"] for c in study.candidates]
    choice = current_choice(part)
    sweep = study.sweep and json.loads(store.get(study.sweep))
    return printing.comparison(part, study, sweep, ranks, choice and choice_out(choice), timezone.now())
