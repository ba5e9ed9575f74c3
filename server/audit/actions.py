"""Writing the log: called by every action, inside its transaction."""

from django.contrib.auth.models import AbstractUser
from django.db.models import Model

from audit.models import Entry


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
        before=before,
        after=after,
    )
