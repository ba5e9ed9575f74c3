"""What each role may do. Reading is open to everybody of the workshop."""

from accounts.models import User
from hewel.refusal import Refused

RIGHTS = {
    "engineer": {"edit", "export", "print", "invite"},
    "technician": {"export", "print"},
    "viewer": set(),
}
NEEDS = {
    "edit": "an engineer",
    "export": "an engineer or a technician",
    "print": "an engineer or a technician",
    "invite": "an engineer",
}


def require(user: User, right: str) -> None:
    """Refuses in words when the role of ``user`` does not hold ``right``."""
    if right not in RIGHTS[user.role]:
        raise Refused(
            "not_allowed",
            f"You are signed in as a {user.role}; this needs {NEEDS[right]}.",
            "Nothing was changed. Ask an engineer of your workshop.",
            403,
        )
