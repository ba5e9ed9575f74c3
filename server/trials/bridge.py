"""The only file of this app that calls the engine: what broken parts say of the predictions."""

from dataclasses import asdict

import numpy as np

from hewel_engine.geometry.frames import direction_words, same_direction, unit
from hewel_engine.strength.allowables import TRIALS
from hewel_engine.trials.correction import Tried, correction, own_scatter
from hewel_engine.trials.drift import drift
from needs.bridge import Held

__all__ = ["direction_words", "same_direction", "unit"]

HOW_GROUP = {"between layers": "across", "across lines": "along", "crushed": "along", "bent": "along"}
"""How a part breaks, by what a correction acts on; what is pulled out is neither."""
FIELDS = {on: name for on, (name, _) in TRIALS.items()}
"""Of a capability record, by what a safe factor acts on."""


def group_of_mode(mode: str) -> str:
    return "across" if mode.startswith("interlayer") else "along"


def corrections(groups: dict[tuple, list[dict]]) -> dict[tuple, dict | None]:
    """By group what its trials say: rows with ``predicted``, ``measured``, ``plate``, ``as_predicted``, ``broke``."""
    tried = {key: [Tried(**row) for row in rows] for key, rows in groups.items()}
    scatter = own_scatter(list(tried.values()))
    found = {key: correction(rows, scatter) for key, rows in tried.items()}
    return {key: told and asdict(told) for key, told in found.items()}


def plate_of(part: Held, up: list[float]) -> float:
    """Height along ``up`` at which a part stands, mm."""
    return float((part.mesh.vertices @ unit(up)).min())


def height_over_plate(part: Held, at: list[float], up: list[float]) -> float:
    """mm of a place over the plate that the part stands on."""
    return float(np.array(at) @ unit(up)) - plate_of(part, up)


def drifted(hours: list[float], give: list[float]) -> dict | None:
    """What a specimen's readings say of years; None while they say nothing."""
    found = drift(hours, give)
    return found and asdict(found)
