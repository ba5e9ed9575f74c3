"""Directions as a stage: the sweep and its candidates, and one more direction that somebody asks for."""

from django.conf import settings

from parts.queries import stored
from stages.stage import Stage
from stages.view import JobView
from studies import bridge
from studies.models import Study
from work.actions import owned_attempt
from work.computations import Computation, always
from work.models import Work


def _rests_on(view: JobView, _: None) -> dict:
    return {}


def _given(study: Study, work: Work) -> dict:
    part = study.part
    carried, recipe = part.job["carried"], part.recipe
    decided = carried["up"] if carried else recipe and recipe["up"]  # or the direction that it was adapted for
    flats = [f["normal"] for f in part.facts["flats"]]
    return {"flat_normals": flats, "first": [decided] if decided else [], "most": settings.STUDY_MOST}


def merge(study: Study, name: str, value: object) -> bool:
    """Candidates that were worked out, beside what came in meanwhile: a direction that somebody asked for is never
    lost, whichever of two workers is done last. ``study`` is locked.
    """
    if name != "candidates":
        return False
    study.candidates = bridge.merged(study.candidates, value)
    study.save(update_fields=["candidates"])
    return True


DIRECTIONS = Stage(
    key="directions",
    model=Study,
    kind="study",
    function="studies.bridge.directions",
    inputs=_rests_on,
    audit="",
    priority=0,
    open_part=None,
    quick=always,
    arguments=_given,
    keep=merge,
)


def _one_more(work: Work) -> dict:
    study = Study.objects.select_related("part__solid", "part__view").get(id=work.arguments["study"])
    return stored(study.part) | {"up": work.arguments["up"], "process": study.process, "known": study.candidates}


def _keep_one_more(work: Work, name: str, value: object) -> None:
    with owned_attempt(work):
        merge(Study.objects.select_for_update().get(id=work.arguments["study"]), name, value)


ONE_MORE = Computation(
    kind="direction",
    quick=always,
    function="studies.bridge.direction",
    arguments=_one_more,
    priority=5,
    keep=_keep_one_more,
    outcome=lambda work: {"up": work.arguments["up"]},
)
COMPUTATIONS = (DIRECTIONS.computation, ONE_MORE)
