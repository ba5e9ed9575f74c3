"""A part's job as it stands, read once a request, for one part or for several beside each other."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import cached_property
from typing import Any, TypeVar

from farm.queries import Farm
from parts.models import Part
from stages.models import Result
from stages.stage import Stage, digest_of, newest_of

View = TypeVar("View", bound="JobView")


class _Together:
    """What is asked of one of several jobs is fetched for all of them at once."""

    def __init__(self) -> None:
        self.views: list[JobView] = []
        self._known: dict[Any, Any] = {}

    def once(self, name: Any, fetch: Callable[[], Any]) -> Any:
        if name not in self._known:
            self._known[name] = fetch()
        return self._known[name]


class JobView:
    """The job of a part: its sheet, its process, the results that answer for it. All parts are of one workshop."""

    def __init__(self, part: Part, together: _Together | None = None):
        self.part = part
        self.together = together or _Together()
        self.together.views.append(self)
        self._inputs: dict[str, dict] = {}

    @classmethod
    def of(cls: type[View], parts: Iterable[Part]) -> list[View]:
        """The jobs of several parts, which are then read together."""
        together = _Together()
        return [cls(part, together) for part in parts]

    @cached_property
    def job(self) -> dict:
        """The content of its sheet, whole."""
        return self.part.job

    @property
    def farm(self) -> Farm:
        return self.together.once("farm", lambda: Farm(self.part.workshop_id))

    @cached_property
    def farm_process(self) -> dict:
        """The process with the origins of its numbers, see ``Farm.process``."""
        given = self.job["process"]
        return self.together.once(("process", repr(sorted(given.items()))), lambda: self.farm.process(given))

    @property
    def process(self) -> dict:
        """The numbers of the process, as the engine takes them."""
        return self.farm_process["numbers"]

    def inputs(self, stage: Stage) -> dict:
        """What a result of the stage would rest on now."""
        if stage.key not in self._inputs:
            self._inputs[stage.key] = stage.inputs(self, None)
        return self._inputs[stage.key]

    def digest(self, stage: Stage) -> str:
        """Names a result of the stage for the job as it is."""
        return digest_of(stage, self.part, self.process, self.inputs(stage))

    def result(self, stage: Stage) -> Any:
        """The result that answers for the job as it is; where there is none, the newest, which then is stale. None
        where there is none at all.
        """
        return self._results(stage).get(self.part.id)

    def _results(self, stage: Stage) -> dict[Any, Result]:
        return self.together.once(("results", stage.key), lambda: newest_of(stage, self.together.views))

    def changed(self, stage: Stage, result: Result) -> list[str]:
        """What a result rests on and has changed since, in words; empty while it holds."""
        return stage.changed(self, result)
