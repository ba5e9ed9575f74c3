"""A request that cannot be done: what is wrong, what was kept, what to do."""

from typing import Annotated, Any

from ninja import Schema
from pydantic import Field

Edition = Annotated[int, Field(ge=1, lt=2**31)]
RowId = Annotated[int, Field(ge=1, lt=2**63)]
"""Numbers as the database can hold them: others are refused at the door."""


class Refused(Exception):
    """Raised by actions and queries; answered as ``Problem`` with its status."""

    def __init__(self, code: str, message: str, hint: str = "", status: int = 409, clashes: list[dict] | None = None):
        super().__init__(message)
        self.code, self.message, self.hint, self.status = code, message, hint, status
        self.clashes = clashes or []

    def as_dict(self) -> dict:
        return {"code": self.code, "message": self.message, "hint": self.hint, "clashes": self.clashes}


class ClashOut(Schema):
    """One place that two people changed: what stood there, what the other wrote, what you wrote."""

    place: str
    before: Any = None
    theirs: Any = None
    yours: Any = None


class Problem(Schema):
    code: str
    message: str
    hint: str
    clashes: list[ClashOut] = []


def unusable(error: Any) -> Refused:
    """What the engine cannot use (its InputError), in the engine's own words."""
    return Refused(error.code, error.message, error.hint, 422)


def reason_given(text: str, message: str) -> str:
    """Why somebody decides as they do, trimmed. Raises Refused with ``message`` where it says nothing."""
    reason = text.replace("\x00", "").strip()
    if len(reason) < 3:
        raise Refused("reason_needed", message, "A few words are enough.", 422)
    return reason


def not_found(what: str) -> Refused:
    """Also for what belongs to another workshop: whether it exists is not told."""
    return Refused("not_found", f"There is no such {what} in your workshop.", "Go back to the list of parts.", 404)
