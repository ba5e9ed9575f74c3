"""Ordering that a part's walls are measured."""

from audit.actions import record
from django.db import transaction

from accounts.roles import require
from parts.queries import require_closed
from store import actions as store
from walls import queries
from walls.models import Gauging
from work.actions import order_work, still_ours
from work.models import Work


@transaction.atomic
def order_gauging(user, part) -> Gauging:
    """Measures the walls; what was measured for the same before keeps its answer."""
    from walls.tasks import gauge

    require(user, "edit")
    require_closed(part, ", so its walls have no other side.")
    rests = queries.rests_on(part)
    digest = queries.digest_of(part, rests)
    made = part.gaugings.filter(digest=digest).exclude(work__state__in=Work.BROKEN_OFF).first()
    if made:
        return made
    gauging = Gauging.objects.create(part=part, digest=digest, **rests)
    gauging.work = order_work(user, "gauge", {"gauging": str(gauging.id)}, gauge)
    gauging.save(update_fields=["work"])
    record(user, "walls measured", gauging)
    return gauging


def keep(work: Work, name: str, value) -> None:
    """One result of a gauging, as soon as it is known."""
    with still_ours(work):
        value = store.put(value) if name == "view" else value
        Gauging.objects.filter(id=work.order["gauging"]).update(**{name: value})
