"""One form for every stage of a job that is computed: how its results are ordered, kept, found, and grow old.

A stage is a record of what is its own; everything that stages have in common stands here.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Literal, TypedDict

from django.db import transaction

from accounts.roles import require
from audit.actions import record
from farm.queries import differing
from hewel.digest import digest
from hewel.refusal import not_found
from parts.queries import require_closed, stored
from stages import bridge
from stages.inputs import changed, counted
from stages.models import Result
from store import actions as store
from work.actions import enqueue, owned_attempt
from work.computations import Computation, never
from work.models import Work

if TYPE_CHECKING:
    from stages.view import JobView


class State(TypedDict):
    """How far a stage is, for the list of stages: ``queries.state`` of its app says so, of a JobView."""

    state: Literal["settled", "open", "stale", "empty", "fails"]
    line: str
    busy: bool
    """Whether something is being computed for it."""


def _always(view: Any, asked: Any) -> None:
    pass


def _nothing_more(*_: Any) -> dict:
    return {}


def _no_further(result: Any, more: dict) -> bool:
    return False


@dataclass(frozen=True, eq=False)
class Stage:
    key: str
    """Its name in addresses and on the rail."""
    model: type[Result]
    kind: str
    """Its kind of work."""
    function: str
    """The bridge function that computes it."""
    inputs: Callable[[Any, Any], dict]
    """What a result rests on beside solid and process, of a JobView and what a person asked for (None: nothing)."""
    audit: str
    """What the audit says was done; empty where that is said already."""
    priority: int
    open_part: str | None
    """How the refusal of a part that is open ends; None where an open one will do."""
    quick: Callable[[Work], bool] = never
    """Whether it is done without waiting for long work, see ``work.computations``."""
    ready: Callable[[Any, Any], None] = _always
    """Raises Refused where the job, a JobView, does not allow a result yet, or what is asked for is none."""
    arguments: Callable[[Any, Work], dict] = _nothing_more
    """What the function is given of a result and its work beside solid, process and inputs."""
    fields: Callable[[Any], dict] = _nothing_more
    """Values of further fields of a new result, of a JobView."""
    keep: Callable[[Any, str, Any], bool] | None = None
    """Stores what is kept otherwise than in a field of its name; False where it is none of that."""
    asked: str | None = None
    """The input that a person asks for, each time as they like: the newest result is shown, and only it is used again.
    """
    further: Callable[[Any, dict], bool] = _no_further
    """Whether a known result is to be worked on further, for its work so far and what the new work is to do."""

    @property
    def computation(self) -> Computation:
        return Computation(
            kind=self.kind,
            function=self.function,
            arguments=lambda work: given(self, work),
            keep=lambda work, name, value: keep(self, work, name, value),
            outcome=lambda work: {self.kind: work.arguments["result"]},
            priority=self.priority,
            quick=self.quick,
        )

    def rows(self, part: Any) -> Any:
        """The results of a part, newest first."""
        return self.model.objects.filter(part=part)

    def changed(self, view: JobView, result: Result) -> list[str]:
        """What a result rests on and has changed since, in words; empty while it holds."""
        now = self.inputs(view, result.inputs[self.asked]) if self.asked else view.inputs(self)
        if result.digest == digest_of(self, view.part, view.process, now):
            return []
        differences = changed(result.inputs, now) + differing(result.process, view.process)
        return differences or (["direction"] if result.up != now.get("up") else ["engine"])


def digest_of(stage: Stage, part: Any, process: dict, inputs: dict) -> str:
    """Names what a result depends on."""
    return digest(bridge.ENGINE_VERSION, stage.key, part.solid_id, process, counted(inputs))


@transaction.atomic
def calculate(stage: Stage, user: Any, view: JobView, asked: Any = None, more: dict | None = None) -> Any:
    """A result of a stage for the job as it is; one that is known for the same keeps its answer. ``more``: further
    arguments of its work; ``later`` among them says that nobody waits for it.
    """
    require(user, "edit")
    if stage.open_part is not None:
        require_closed(view.part, stage.open_part)
    stage.ready(view, asked)
    inputs = stage.inputs(view, asked)
    name = digest_of(stage, view.part, view.process, inputs)
    rows = stage.rows(view.part)
    known = rows.filter(digest=name).exclude(work__state__in=Work.BROKEN_OFF).first()
    if known and not (stage.asked and known != rows.first()) and not stage.further(known, more or {}):
        return known
    if known is None or stage.asked:
        known = stage.model.objects.create(
            part=view.part, process=view.process, inputs=inputs, digest=name, **stage.fields(view)
        )
        if stage.audit:
            record(user, stage.audit, known, after={"up": known.up} if known.up else {"part": str(view.part.id)})
    known.work = enqueue(user, stage.kind, {"result": str(known.id)} | (more or {}), view.part.name, view.part.id)
    known.save(update_fields=["work"])
    return known


def given(stage: Stage, work: Work) -> dict:
    """What the bridge function of a stage is called with."""
    rows = stage.model.objects.select_related("part__solid", "part__view", "part__sheet")
    result = rows.get(id=work.arguments["result"])
    return stored(result.part) | {"process": result.process} | result.inputs | stage.arguments(result, work)


def keep(stage: Stage, work: Work, name: str, value: Any) -> None:
    """One piece of a result, as soon as it is known; only the latest attempt of its latest work may store it."""
    with owned_attempt(work):
        result = stage.model.objects.select_for_update().filter(id=work.arguments["result"], work=work).first()
        if result is None:  # ordered anew, or thrown away, while this was on its way
            return
        if stage.keep and stage.keep(result, name, value):
            return
        put(result, name, value)


def put(row: Any, name: str, value: Any) -> None:
    """Sets a field of a row that the caller has locked; content is stored, and what it replaces is let go. Locks are
    taken in this order everywhere: the row first, then what it will point to.
    """
    before = None
    if name in store.content_fields(type(row)):
        before, value = getattr(row, f"{name}_id"), store.put(value)
    setattr(row, name, value)
    row.save(update_fields=[name])
    if before and before != value.digest:
        store.forget(before)


def newest_of(stage: Stage, views: Iterable[JobView]) -> dict[Any, Result]:
    """Of several jobs the result that answers for each, by part; the newest where none does."""
    known: dict[Any, list] = {}
    for part, result, name in stage.model.objects.filter(part__in=[v.part.id for v in views]).values_list(
        "part_id", "id", "digest"
    ):
        known.setdefault(part, []).append((result, name))
    chosen = []
    for view in views:
        rows = known.get(view.part.id)
        if rows:
            name = None if stage.asked else view.digest(stage)
            chosen.append(next((r for r, of in rows if of == name), rows[0][0]))
    rows = stage.model.objects.filter(id__in=chosen).order_by().select_related("work")
    found = {r.part_id: r for r in rows} if chosen else {}
    for view in views:
        if view.part.id in found:
            found[view.part.id].part = view.part
    return found


def result_of(stage: Stage, user: Any, result_id: Any) -> Any:
    """A result by its number, of a part in use of the person's workshop. Raises Refused ``not_found``."""
    rows = stage.model.objects.filter(id=result_id, part__workshop=user.workshop_id, part__sheet__struck=None)
    try:
        return rows.select_related("work", "part__sheet").get()
    except stage.model.DoesNotExist:
        raise not_found("result") from None
