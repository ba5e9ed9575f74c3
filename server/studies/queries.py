"""Reading studies and choices; the oriented file of the current choice."""

from functools import lru_cache

from hewel.refusal import Refused
from needs import queries as needs
from needs.queries import inputs
from stages.stage import State
from store import actions as store
from store.models import Blob
from strength import queries as strength
from studies import bridge, printing
from studies.models import Choice, Study
from studies.stage import DIRECTIONS
from studies.view import DirectedJob


def stale_because(view: DirectedJob, choice: Choice) -> list[str]:
    """What a choice was decided by and has changed since, in words; another engine counts as another part's study."""
    now = inputs(view.part, view.process)
    changed = [name for name, digest in choice.rests_on.items() if now[name] != digest]
    stale = bool(view.changed(DIRECTIONS, choice.study))
    return changed or (["process" if choice.rests_on == {} else "engine"] if stale else [])


def choice_out(view: DirectedJob, choice: Choice) -> dict:
    return {
        "study": choice.study_id,
        "up": choice.up,
        "measures": choice.measures,
        "alternatives": len(choice.alternatives),
        "reason": choice.reason,
        "stale_because": stale_because(view, choice),
        "by": choice.by.shown_name,
        "at": choice.at,
    }


def swept(study: Study) -> dict | None:
    """Every swept direction, ``ups`` (d, 3), with its numbers, ``fields`` {name: (d,)}; not to be changed, for it is
    kept. None where nothing has been swept.
    """
    return study.sweep_id and _swept(study.sweep_id)


@lru_cache(maxsize=8)
def _swept(digest: str) -> dict:
    return bridge.unpacked(store.get(Blob.objects.get(digest=digest)))


def with_duties(view: DirectedJob, study: Study) -> list[dict]:
    """The candidates with what the job's duties and loads say of each, ranked with that."""
    known = study.candidates
    ups = [c["up"] for c in known]
    needing = [c["needing_area_mm2"] / max(c["overhang_area_mm2"], 1e-9) for c in known]
    asked = needs.direction_columns(view.part, ups, study.process, needing) | _reserves(view, ups)
    if not asked:
        return known
    return bridge.ranked([c | {name: column[i] for name, column in asked.items()} for i, c in enumerate(known)])


def _reserves(view: DirectedJob, ups: list) -> dict[str, list]:
    """Least reserve over the job's cases in each direction, its band and the case; empty while no check answers for
    the job.
    """
    found = strength.reserves_for(view, ups)
    names = {
        "reserve": "reserve",
        "reserve_low": "low",
        "reserve_high": "high",
        "doubtful": "doubtful",
        "weakest_case": "case",
    }
    return {} if found is None else {name: [row[key] for row in found] for name, key in names.items()}


def study_out(study: Study) -> dict:
    view = DirectedJob(study.part)
    return {
        "id": study.id,
        "part": study.part_id,
        "process": study.process,
        "digest": study.digest,
        "swept": study.sweep_id,
        "candidates": with_duties(view, study),
        "stale_because": view.changed(DIRECTIONS, study),
        "work": study.work,
        "choices": [choice_out(view, c) for c in study.choices.select_related("by")],
    }


def state(view: DirectedJob) -> State:
    choice, carried, busy = view.choice, view.job["carried"], view.study.work.open
    if choice:
        changed = stale_because(view, choice)
        line = f"{', '.join(changed)} changed" if changed else bridge.direction_words(bridge.unit(choice.up))
        return {"state": "stale" if changed else "settled", "line": line, "busy": busy}
    if carried:
        line = f"{bridge.direction_words(bridge.unit(carried['up']))}, to confirm"
        return {"state": "stale", "line": line, "busy": busy}
    return {"state": "open", "line": "choose one", "busy": busy}


def oriented_file(view: DirectedJob, kind: str) -> bytes:
    if view.choice is None:
        raise Refused("no_direction", "No direction has been chosen yet.", "Choose one and say why; then export.")
    scale = view.farm.scale(view.job) or bridge.AS_DRAWN
    return bridge.oriented(store.get(view.part.solid), view.choice.up, kind, view.part.name, scale)


def ranking(study: Study, weights: dict[str, float]) -> dict:
    """Ranks, costs and the field of costs under ``weights``."""
    if not study.candidates:
        return {"ranks": [], "costs": [], "field": None}
    view, sweep = DirectedJob(study.part), swept(study)
    if sweep is None:
        return bridge.weighted(with_duties(view, study), None, weights)
    asked = needs.direction_columns(study.part, sweep["ups"], study.process)
    held = strength.least_reserves(view, sweep["ups"])
    asked |= {} if held is None else {"reserve": held}
    return bridge.weighted(with_duties(view, study), sweep["fields"] | asked, weights)


def duty_fields(study: Study) -> dict:
    """What the job's duties say of every swept direction; empty where it has none."""
    sweep = swept(study)
    return {} if sweep is None else needs.direction_columns(study.part, sweep["ups"], study.process)


def comparison_page(study: Study) -> bytes:
    """One printed page (PDF) of the desk as it stands."""
    if not study.candidates:
        raise Refused("not_swept", "No candidate has been sliced yet.", "Print it when the first are in the table.")
    view = DirectedJob(study.part)
    weights = view.job["desk"]["weights"]
    study.candidates = with_duties(view, study)
    ranks = ranking(study, weights)["ranks"] if weights else [c["rank"] for c in study.candidates]
    choice = view.choice and choice_out(view, view.choice)
    sweep = swept(study)
    return printing.comparison(study.part, study, sweep, ranks, choice)
