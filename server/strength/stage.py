"""Strength as a stage: the job's loads solved for all directions, and for each direction's own layers."""

import json

from django.conf import settings

from hewel.refusal import Refused
from parts.queries import stored
from stages.stage import Stage, put
from stages.view import JobView
from strength import bridge
from strength.job import around, loads_of, movements_of, service_digest, service_of, services_of
from strength.models import DirectionAnalysis, StrengthAnalysis
from work.actions import owned_attempt
from work.computations import Computation
from work.models import Work


def _rests_on(view: JobView, _: None) -> dict:
    job = view.job
    return {"loads": loads_of(job)[0], "movements": movements_of(job), "bond": job["service"]["bond"]}


def _ready(view: JobView, _: None) -> None:
    given, _cases = loads_of(view.job)
    if not given["cases"]:
        raise Refused("no_loads", "No load is written down.", "Write the loads and what holds the part first.", 422)
    if not given["fixed"]:
        raise Refused("no_loads", "Nothing is held.", "Point at the face that holds the part, and hold it.", 422)


def _of_the_part(part) -> dict:
    return {"flat_normals": [f["normal"] for f in part.facts["flats"]], "voxel_count": settings.STRENGTH_CUBES}


def _given(check: StrengthAnalysis, work: Work) -> dict:
    return _of_the_part(check.part) | {"ups": work.arguments["ups"], "full": not work.arguments["coarse"]}


def _keep(check: StrengthAnalysis, name: str, value) -> bool:
    if name != "stand":
        return False
    known = [s for s in check.directions.all() if bridge.same_direction(s.up, value["up"])]
    analysis = known[0] if known else DirectionAnalysis.objects.create(of=check, up=value["up"])
    DirectionAnalysis.objects.filter(id=analysis.id).update(screened=value["result"])
    return True


STRENGTH = Stage(
    key="strength",
    model=StrengthAnalysis,
    kind="check",
    function="strength.bridge.check",
    inputs=_rests_on,
    audit="strength checked",
    priority=8,
    open_part=": it has no inside to carry a load.",
    quick=lambda work: bool(work.arguments.get("coarse")),
    ready=_ready,
    arguments=_given,
    fields=lambda view: {"cases": [c["id"] for c in loads_of(view.job)[1]]},
    keep=_keep,
    further=lambda check, more: check.work.arguments["coarse"] and not more["coarse"],
)


def _arguments_of_direction(work: Work) -> dict:
    """What a task of one direction is given; the circumstances it calculates with are kept with its work."""
    analysis = DirectionAnalysis.objects.select_related("of__part__solid", "of__part__view", "of__part__sheet").get(
        id=work.arguments["stand"]
    )
    check = analysis.of
    job = check.part.job
    service = service_of(job)
    work.arguments["service"] = service_digest(job, check.cases)
    Work.objects.filter(id=work.id).update(arguments=work.arguments)
    return {
        **stored(check.part),
        **_of_the_part(check.part),
        **check.inputs,
        "process": check.process,
        "up": analysis.up,
        "services": json.loads(json.dumps(services_of(job, check.cases))),
        "around": around(service),
        "factor": service["factor"],
    }


def _keep_of_direction(work: Work, name: str, value) -> None:
    """One result of a direction."""
    with owned_attempt(work):
        analysis = DirectionAnalysis.objects.select_for_update().get(id=work.arguments["stand"])
        if name == "pair":
            analysis.explored = [*analysis.explored, value]
            analysis.save(update_fields=["explored"])
            return
        if name == "fixes":
            analysis.fixes_for = work.arguments["service"]
            analysis.save(update_fields=["fixes_for"])
        put(analysis, name, value)


def _of_direction(kind: str, function: str, priority: int) -> Computation:
    return Computation(
        kind=kind,
        function=f"strength.bridge.{function}",
        arguments=_arguments_of_direction,
        priority=priority,
        keep=_keep_of_direction,
        outcome=lambda work: {"stand": work.arguments["stand"]},
    )


COMPUTATIONS = (
    STRENGTH.computation,
    _of_direction("stand", "one_direction", 6),
    _of_direction("explore", "explore", 3),
    _of_direction("field", "viewer_field", 3),
)
