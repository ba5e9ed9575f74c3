"""Background work on studies."""

from procrastinate.contrib.django import app

from parts.queries import stored
from studies.actions import keep_candidates, keep_sweep
from studies.models import Study
from work.actions import carry_out
from work.models import Work


def _study(work: Work) -> Study:
    return Study.objects.select_related("part__solid", "part__view").get(id=work.order["study"])


def _keep(work: Work, name: str, value) -> None:
    if name == "sweep":
        keep_sweep(work.order["study"], value)
    else:
        keep_candidates(work.order["study"], value)


@app.task(name="studies.directions")
def study_directions(work_id: str) -> None:
    """The sweep and its candidates; each is on the page as soon as it is known."""

    def arguments(work: Work) -> dict:
        study = _study(work)
        normals = [f["normal"] for f in study.part.facts["flats"]]
        carried, recipe = study.part.job["carried"], study.part.recipe
        decided = carried["up"] if carried else recipe and recipe["up"]  # or the direction that it was adapted for
        first = [decided] if decided else []
        return stored(study.part) | {"flat_normals": normals, "process": study.process, "first": first}

    carry_out(work_id, "studies.bridge", "directions", arguments, _keep, lambda work: {"study": work.order["study"]})


@app.task(name="studies.direction")
def study_direction(work_id: str) -> None:
    """One more direction; the ranking is made anew beside what is known when it ends."""

    def arguments(work: Work) -> dict:
        study = _study(work)
        return stored(study.part) | {"up": work.order["up"], "process": study.process, "known": study.candidates}

    carry_out(work_id, "studies.bridge", "direction", arguments, _keep, lambda work: {"up": work.order["up"]})
