"""What the engine says when it cannot go on: a stable code, what is wrong, what to do."""


class InputError(Exception):
    """The input cannot be used. Never a defect of ours; always shown to the user as it stands."""

    CODES = frozenset(
        [
            "empty_file",
            "unknown_format",
            "truncated",
            "no_triangles",
            "non_finite",
            "too_large",
            "unsafe_archive",
            "bad_reference",
            "bad_options",
            "bad_loads",
            "not_closed",
            "no_step",
            "bad_curve",
            "not_a_packet",
            "not_settled",
        ]
    )

    def __init__(self, code: str, message: str, hint: str):
        assert code in self.CODES, code
        super().__init__(message)
        self.code, self.message, self.hint = code, message, hint

    def as_dict(self) -> dict[str, str]:
        return {"code": self.code, "message": self.message, "hint": self.hint}


class Note(dict):
    """Something mended, guessed or worth knowing: a code and a sentence. Listed under ``warnings``."""

    def __init__(self, code: str, message: str):
        super().__init__(code=code, message=message)
