"""A part's job with its directions: the study that answers for it, what was chosen, how the part stands."""

from __future__ import annotations

from functools import cached_property
from typing import Any, NamedTuple
from uuid import UUID

from hewel.refusal import Refused
from parts.queries import part_of
from stages.view import JobView
from studies.models import Choice, Study
from studies.stage import DIRECTIONS


class Direction(NamedTuple):
    up: list[float]
    chosen: bool


class DirectedJob(JobView):
    @property
    def study(self) -> Study:
        """The newest study that answers for the job as it is; where there is none, the newest, which then is stale."""
        return self.result(DIRECTIONS)

    @property
    def choice(self) -> Choice | None:
        given = self.job["choice"]
        return given and self.together.once("choices", self._choices)[given["id"]]

    def _choices(self) -> dict[int, Choice]:
        given = [v.job["choice"]["id"] for v in self.together.views if v.job["choice"]]
        return {c.id: c for c in Choice.objects.filter(id__in=given).select_related("by", "study")}

    @cached_property
    def direction(self) -> Direction | None:
        """The chosen direction; before there is one, that which was chosen for the revision before, that which the part
        was adapted for, or the first candidate's.
        """
        if self.choice:
            return Direction(self.choice.up, True)
        if self.job["carried"]:
            return Direction(self.job["carried"]["up"], False)
        if self.part.recipe and self.part.recipe["up"]:
            return Direction(self.part.recipe["up"], False)
        first = min(self.study.candidates, key=lambda c: c["rank"], default=None)
        return first and Direction(first["up"], False)

    @property
    def up(self) -> list[float] | None:
        """The direction that the part stands in; None while none is known."""
        return self.direction and self.direction.up


def require_direction(view: DirectedJob, _: Any = None) -> None:
    """Raises Refused while it is not known how the part stands."""
    if view.direction is None:
        raise Refused(
            "no_direction", "No direction is known yet.", "Wait for the first candidate, or choose a direction.", 409
        )


def view_of(user: Any, part_id: UUID) -> DirectedJob:
    """The job of a part of the person's workshop. Raises Refused ``not_found``."""
    return DirectedJob(part_of(user, part_id))
