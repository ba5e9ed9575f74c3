"""What every stage says of its result."""

from ninja import Schema

from work.api import WorkOut


class ResultOut(Schema):
    work: WorkOut
    stale_because: list[str]
    """What it rests on and has changed since, in words; empty while it holds."""
