"""Names to sign in with: small letters, so that no two look alike and nobody has to remember how theirs was written."""

import re

from django.core.exceptions import ValidationError

SHAPE = re.compile(r"[a-z0-9][a-z0-9._-]{2,59}")
LOOKS_LIKE = str.maketrans("01i", "oll")
"""Letters and digits that are taken for each other in print."""


def name_key(username: str) -> str:
    """What two names that look alike have in common: case, punctuation and look-alike letters do not count."""
    plain = re.sub(r"[._-]", "", username.strip().lower()).translate(LOOKS_LIKE)
    return plain.replace("rn", "m").replace("vv", "w") or username


def checked_name(username: str) -> str:
    """The name as it is kept. Raises ValidationError in words."""
    name = username.strip().lower()
    if not SHAPE.fullmatch(name):
        raise ValidationError("A sign-in name has 3 to 60 letters a–z, digits, dots or dashes.")
    return name
