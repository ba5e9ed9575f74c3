"""Two parts beside each other: what one has more and what it lacks, and both jobs' figures."""

from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema

from batch import queries as batch
from hewel.digest import digest
from hewel.refusal import Problem, Refused
from hewel.single_flight import SingleFlightCache
from parts import bridge
from parts.models import Part
from store import actions as store
from studies import bridge as directions
from studies import queries as studies
from studies.view import DirectedJob, view_of
from walls.queries import thinnest_of

router = Router(tags=["beside"])
MOST_FACETS = 400_000
"""Of both solids together: what one has more than the other is found while somebody waits."""
DIFFERENCES: SingleFlightCache[dict] = SingleFlightCache(30)


class Side(Schema):
    """One of the two; None where it is not known."""

    id: UUID
    name: str
    revision: int
    direction: str | None
    volume_mm3: float | None
    grams: float | None
    seconds: float | None
    cost: float | None
    height_mm: float | None
    needing_area_mm2: float | None
    support_volume_mm3: float | None
    reserve: float | None
    reserve_case: str | None
    thinnest_mm: float | None


class LaidOverOut(Schema):
    one: Side
    other: Side
    why: str | None
    """Why the solids cannot be laid over each other."""
    more_mm3: float | None
    """What the other has more than the one, and what it lacks."""
    less_mm3: float | None
    more: str
    """Triangles of it: base64 of float32, three corners of x, y, z each, mm, in the frame of both."""
    less: str


@router.get("/{part_id}/{other_id}", response={200: LaidOverOut, 404: Problem}, operation_id="get_beside")
def get_beside(request: HttpRequest, part_id: UUID, other_id: UUID):
    """What another part, or another revision, has more and lacks, and the figures of both."""
    one, other = view_of(request.user, part_id), view_of(request.user, other_id)
    return {"one": side(one), "other": side(other)} | difference(one.part, other.part)


def difference(one: Part, other: Part) -> dict:
    if sum(p.facts["triangles"] for p in (one, other)) > MOST_FACETS:
        why = f"Their solids have more than {MOST_FACETS:,} facets together, so they are not laid over each other."
        return {"why": why, "more_mm3": None, "less_mm3": None, "more": "", "less": ""}
    make = lambda: bridge.differs(store.get(one.solid), store.get(other.solid))
    return DIFFERENCES.get(digest(one.solid_id, other.solid_id), make)


def side(view: DirectedJob) -> dict:
    """The figures of a job in the direction that its part stands in."""
    part, up = view.part, view.up
    rows = studies.with_duties(view, view.study) if view.study.candidates else []
    found = next((c for c in rows if up and bridge.same_direction(c["up"], up)), {})
    try:
        price = batch.first_price(view)
    except Refused:
        price = None
    return {
        "id": part.id, "name": part.name, "revision": part.revision,
        "direction": directions.direction_words(directions.unit(up)) if up else None,
        "volume_mm3": part.facts["volume_mm3"], "grams": found.get("grams"), "seconds": found.get("time_s"),
        "cost": price and price["cost"], "height_mm": found.get("height_mm"),
        "needing_area_mm2": found.get("needing_area_mm2"), "support_volume_mm3": found.get("support_volume_mm3"),
        "reserve": found.get("reserve"), "reserve_case": found.get("weakest_case"), "thinnest_mm": thinnest_of(view),
    }  # fmt: skip
