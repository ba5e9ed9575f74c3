"""The directions of a strength check: one by its number, or all of the check that answers for a job."""

from collections.abc import Iterable
from uuid import UUID

from accounts.models import User
from hewel.refusal import not_found
from stages.view import JobView
from strength.models import DirectionAnalysis, StrengthAnalysis
from strength.stage import STRENGTH
from work.models import Work

WORKS = ("work", "exploring", "fielding")


def direction_of(user: User, analysis_id: UUID) -> DirectionAnalysis:
    rows = DirectionAnalysis.objects.filter(
        id=analysis_id, of__part__workshop=user.workshop_id, of__part__sheet__struck=None
    )
    analysis = rows.select_related("of__part__sheet", "of__work", "volume", "field", *WORKS).first()
    if analysis is None:
        raise not_found("direction of a check")
    return analysis


def directions_of(view: JobView, check: StrengthAnalysis) -> list[DirectionAnalysis]:
    """The directions of the check that answers for a job, in the order in which they were asked for."""
    return view.together.once("directions", lambda: _directions(view.together.views))[check.id]


def _directions(views: Iterable[JobView]) -> dict[UUID, list[DirectionAnalysis]]:
    checks = {c.id: c for v in views if (c := v.result(STRENGTH))}
    found: dict[UUID, list[DirectionAnalysis]] = {number: [] for number in checks}
    rows = list(DirectionAnalysis.objects.filter(of__in=checks))
    works = Work.objects.in_bulk({number for row in rows for name in WORKS if (number := getattr(row, f"{name}_id"))})
    for row in rows:
        row.of = checks[row.of_id]
        for name in WORKS:
            setattr(row, name, works.get(getattr(row, f"{name}_id")))
        found[row.of_id].append(row)
    return found
