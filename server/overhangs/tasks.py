"""Background work on layers."""

from procrastinate.contrib.django import app

from overhangs.actions import keep
from overhangs.models import Walk
from overhangs.queries import carried_in
from parts.queries import stored
from work.actions import carry_out
from work.models import Work


@app.task(name="overhangs.walk")
def walk_layers(work_id: str) -> None:
    """The layers of one direction: outlines, then what hangs, then the time of every layer."""

    def arguments(work: Work) -> dict:
        walk = Walk.objects.select_related("part__solid", "part__view").get(id=work.order["walk"])
        part = walk.part
        return {
            **stored(part),
            "up": walk.up,
            "process": walk.process,
            "carried": carried_in(part),
        }

    carry_out(
        work_id,
        "overhangs.bridge",
        "walk",
        arguments,
        lambda work, name, value: keep(work.order["walk"], name, value),
        lambda work: {"walk": work.order["walk"]},
    )
