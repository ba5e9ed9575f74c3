"""Words of a part that other apps use too."""

from ninja import Schema


class Uncarried(Schema):
    """An edit that is not in the exact solid, and why."""

    name: str
    why: str
    piece: str | None
    """The piece that it is missing in, where there are several."""
