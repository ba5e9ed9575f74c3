"""The options and the files that verbs share."""

from collections.abc import Callable
from pathlib import Path

import numpy as np

from hewel_engine.errors import InputError
from hewel_engine.geometry.frames import unit


def direction(text: str):
    try:
        return unit([float(x) for x in text.split(",")])
    except ValueError:
        raise InputError("bad_options", f"{text!r} is not a direction.", "Write it like 0,0,1.") from None


def plane(text: str) -> tuple[np.ndarray, np.ndarray]:
    try:
        x, y, z, *normal = [float(v) for v in text.split(",")]
        return np.array([x, y, z]), unit(normal)
    except ValueError:
        raise InputError("bad_options", f"{text!r} is no plane.", "Write a point and a normal: 0,0,10,0,0,1.") from None


def written(name: str, write: Callable[[Path], None]) -> None:
    try:
        write(Path(name))
    except OSError as error:
        raise InputError(
            "bad_options", f"{name} cannot be written: {error.strerror}.", "Check the folder and its permissions."
        ) from None
