"""Writing the log: called by every action, inside its transaction."""

from django.contrib.auth.models import AbstractUser
from django.db.models import Model

from audit.models import Entry

BELONGS_TO = ("part", "of", "analysis", "order", "study", "print")
"""How a record is called that leads to the part it belongs to."""


def called(thing: object, most: int = 3) -> str:
    """What people call a record: its own name, else that of the part which it belongs to; empty where it has none."""
    content = getattr(thing, "content", None)
    if isinstance(content, dict):  # a sheet: of a job, or of a farm record
        return str((content.get("title") or content.get("record") or content).get("name") or "")
    for own in ("name", "shown_name", "whom", "title"):
        if isinstance(found := getattr(thing, own, None), str) and found:
            return found
    above = (found for name in BELONGS_TO if isinstance(found := getattr(thing, name, None), Model))
    return next((words for other in above if most and (words := called(other, most - 1))), "")


def record(
    user: AbstractUser, action: str, thing: Model, before: dict | None = None, after: dict | None = None
) -> Entry:
    """One line of the log about ``thing``, a saved record; ``before`` and ``after`` hold what changed."""
    return Entry.objects.create(
        workshop=user.workshop,
        by=user,
        action=action,
        thing=type(thing).__name__.lower(),
        thing_id=str(thing.pk),
        about=called(thing)[:200],
        before=before,
        after=after,
    )
