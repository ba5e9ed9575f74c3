"""What a password must be, beside its length and being none of the common ones."""

from django.contrib.auth.models import AbstractBaseUser
from django.core.exceptions import ValidationError

FEWEST = 5
"""Different characters."""


class NotOneCharacter:
    """Refuses ten blanks, ten dots, and the like."""

    def validate(self, password: str, user: AbstractBaseUser | None = None) -> None:
        if len(set(password.strip())) < FEWEST:
            raise ValidationError(f"A password has {FEWEST} different characters at least, blanks at its ends aside.")

    def get_help_text(self) -> str:
        return f"{FEWEST} different characters at least."
