"""What long work there is: for every kind the bridge function that a child process runs, and what becomes of what it
finds. An app names its kinds in a tuple COMPUTATIONS of a module listed in the setting of the same name.
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from importlib import import_module

from django.conf import settings

from work.models import Work


def _nothing(work: Work) -> dict:
    return {}


def never(work: Work) -> bool:
    return False


def always(work: Work) -> bool:
    return True


def _drop(work: Work, name: str, value) -> None:
    pass


@dataclass(frozen=True, eq=False)
class Computation:
    """One kind of long work."""

    kind: str
    function: str
    """Module and name of a bridge function, a generator of events; see ``work.child``."""
    arguments: Callable[[Work], dict]
    """What it is called with, read when the work begins."""
    priority: int
    """What somebody is looking at goes before what can wait: the higher goes first."""
    quick: Callable[[Work], bool] = never
    """Whether a worker that takes no long work takes it: somebody waits for its first answer."""
    limit: int = 1800
    """Seconds after which it is broken off."""
    keep: Callable[[Work, str, object], None] = _drop
    """Stores one result as soon as it is known."""
    outcome: Callable[[Work], dict] = _nothing
    """What the work ends with; runs in the transaction that marks it done, so a task that ends in any other way stores
    nothing but what ``keep`` did on the way.
    """
    ended: Callable[[Work], object] = _nothing
    """Called when the work has ended, however."""


def follow_ups(kind: str) -> list[Callable[[Work], object]]:
    """What is to be ordered once work of a kind is done: the apps' FOLLOW_UPS by kind, in the same modules. So an app
    that stands above another one can go on from what that one found.
    """
    rows = [getattr(import_module(module), "FOLLOW_UPS", {}) for module in settings.COMPUTATIONS]
    return [row[kind] for row in rows if kind in row]


@cache
def computations() -> dict[str, Computation]:
    """Every kind, by its name."""
    rows = [c for module in settings.COMPUTATIONS for c in import_module(module).COMPUTATIONS]
    found = {c.kind: c for c in rows}
    assert len(found) == len(rows), "two computations have one name"
    return found
