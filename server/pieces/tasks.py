"""Background work on pieces."""

from procrastinate.contrib.django import app

from parts.queries import stored, stored_exact
from pieces.actions import keep
from pieces.models import Division
from work.actions import carry_out
from work.models import Work


@app.task(name="pieces.work_out")
def work_out(work_id: str) -> None:
    """The part cut, joined and tried in directions."""

    def arguments(work: Work) -> dict:
        rows = Division.objects.select_related("part__solid", "part__view", "part__sheet")
        division = rows.get(id=work.order["division"])
        part = division.part
        return {
            **stored(part),
            "exact": stored_exact(part),
            "up": division.up,
            "process": division.process,
            "said": division.said,
            "clearance": division.clearance,
            "title": part.name,
        }

    carry_out(work_id, "pieces.bridge", "divide", arguments, keep, lambda work: {"division": work.order["division"]})
