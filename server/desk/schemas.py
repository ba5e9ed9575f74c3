"""The forms of the desk's answers that several of its modules share."""

from typing import Literal

from ninja import Schema


class StageOut(Schema):
    """How far a stage is; ``busy`` while something is being computed for it."""

    key: str
    state: Literal["settled", "open", "stale", "empty", "fails"]
    line: str
    busy: bool
