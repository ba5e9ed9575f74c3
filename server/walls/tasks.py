"""Background work on walls."""

from procrastinate.contrib.django import app

from store import actions as store
from walls.actions import keep
from walls.models import Gauging
from work.actions import carry_out
from work.models import Work


@app.task(name="walls.gauge")
def gauge(work_id: str) -> None:
    """Thickness of every facet, and the zones of walls."""

    def arguments(work: Work) -> dict:
        gauging = Gauging.objects.select_related("part__solid", "part__view").get(id=work.order["gauging"])
        part = gauging.part
        return {
            "solid": store.get(part.solid),
            "view": store.get(part.view),
            "bores": part.facts["bores"],
            "up": gauging.up,
            "process": gauging.process,
            "loads": gauging.loads,
            "service": gauging.service,
        }

    carry_out(work_id, "walls.bridge", "gauge", arguments, keep, lambda work: {"gauging": work.order["gauging"]})
