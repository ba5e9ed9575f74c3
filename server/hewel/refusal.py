"""A request that cannot be done: what is wrong, what was kept, what to do."""

from ninja import Schema


class Refused(Exception):
    """Raised by actions and queries; answered as ``Problem`` with its status."""

    def __init__(self, code: str, message: str, hint: str = "", status: int = 409):
        super().__init__(message)
        self.code, self.message, self.hint, self.status = code, message, hint, status

    def as_dict(self) -> dict[str, str]:
        return {"code": self.code, "message": self.message, "hint": self.hint}


class Problem(Schema):
    code: str
    message: str
    hint: str


def not_found(what: str) -> Refused:
    """Also for what belongs to another workshop: whether it exists is not told."""
    return Refused("not_found", f"There is no such {what} in your workshop.", "Go back to the list of parts.", 404)
