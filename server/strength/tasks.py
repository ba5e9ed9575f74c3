"""Background work on strength."""

from django.conf import settings
from procrastinate.contrib.django import app

from parts.queries import stored
from strength.actions import keep_of_check, keep_of_stand, order_of
from strength.models import Check, Stand
from work.actions import carry_out
from work.models import Work


def _given(check: Check) -> dict:
    part = check.part
    return {
        **stored(part),
        "flat_normals": [f["normal"] for f in part.facts["flats"]],
        "loads": check.loads,
        "process": check.process,
        "bond": check.bond,
        "movements": check.movements,
        "cubes": settings.STRENGTH_CUBES,
    }


@app.task(name="strength.check")
def check_strength(work_id: str) -> None:
    """All directions from one solution: coarse first, then fine, then closer at bores and worst places."""

    def arguments(work: Work) -> dict:
        check = Check.objects.select_related("part__solid", "part__view").get(id=work.order["check"])
        return _given(check) | {"ups": work.order["ups"], "full": not work.order.get("coarse")}

    carry_out(
        work_id, "strength.bridge", "check", arguments, keep_of_check, lambda work: {"check": work.order["check"]}
    )


def _on_stand(work_id: str, function: str) -> None:
    def arguments(work: Work) -> dict:
        rows = Stand.objects.select_related("of__part__solid", "of__part__view", "of__part__sheet")
        stand = rows.get(id=work.order["stand"])
        return _given(stand.of) | order_of(stand, work)

    carry_out(
        work_id, "strength.bridge", function, arguments, keep_of_stand, lambda work: {"stand": work.order["stand"]}
    )


@app.task(name="strength.stand")
def solve_stand(work_id: str) -> None:
    """One direction with its own layers, and what would fix it where it fails."""
    _on_stand(work_id, "stand")


@app.task(name="strength.explore")
def explore_infill(work_id: str) -> None:
    """Perimeters against infill."""
    _on_stand(work_id, "explore")


@app.task(name="strength.field")
def write_field(work_id: str) -> None:
    """The stress field for any viewer."""
    _on_stand(work_id, "viewer_field")
