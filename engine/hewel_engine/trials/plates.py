"""What readings of several plates say together. The plate is the sample: copies of one plate share its filament, its
room and its day, and are averaged before anything is said of the spread.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

import numpy as np

from hewel_engine.reckoning.distributions import student_quantile
from hewel_engine.reckoning.samples import line_through

FAR = 3.5
"""Robust deviations from the middle beyond which a reading lies apart."""
FEWEST = 4
"""Readings from which one can be said to lie apart."""
ROBUST = 1.4826
"""Deviation of a normal distribution over its median absolute deviation."""
SURE = 0.95
"""Confidence of a band."""


@dataclass(frozen=True)
class Prior:
    """Spread before anything is measured: of single readings and of plates, each worth some readings."""

    single: float
    plates: float
    worth: float = 4.0


@dataclass(frozen=True)
class Pooled:
    """Mean of plates with its 95 % band; ``deviation`` of single readings about their plate's mean, pooled with what
    they are taken to have; ``doubt`` of the mean.
    """

    mean: float
    deviation: float
    count: int
    plates: int
    doubt: float
    low: float
    high: float


def by_plate(values: Sequence[float], plates: Sequence[str]) -> dict[str, list[float]]:
    out: dict[str, list[float]] = {}
    for value, plate in zip(values, plates, strict=True):
        out.setdefault(plate, []).append(value)
    return out


def pooled(values: Sequence[float], plates: Sequence[str], one: float, prior: Prior) -> Pooled:
    """The mean over plates. ``one``: standard doubt of a single reading, of the instrument and common to all.

    One-way components of variance: s² within plates about their means, t² between them, each pooled with its prior;
    u² = Σ(s²/n_j + t²)/p² + one², band by Student's t. Needs one value at least.
    """
    groups = [np.array(g) for g in by_plate(values, plates).values()]
    means, counts = np.array([g.mean() for g in groups]), np.array([len(g) for g in groups])
    p, n = len(groups), len(values)
    inside = float(sum(((g - g.mean()) ** 2).sum() for g in groups))
    within = (prior.worth * prior.single**2 + inside) / (prior.worth + n - p)
    mean = float(means.mean())
    seen = float(((means - mean) ** 2).sum()) - (p - 1) * within * float((1 / counts).mean())
    between = (prior.worth * prior.plates**2 + max(seen, 0.0)) / (prior.worth + p - 1)
    of_means = float((within / counts + between).sum()) / p**2
    doubt = sqrt(of_means + one**2)
    reach = student_quantile((1 + SURE) / 2, prior.worth + n - 1) * doubt
    return Pooled(mean, sqrt(within), n, p, doubt, mean - reach, mean + reach)


def apart(values: Sequence[float], least: float) -> list[int]:
    """The readings that lie apart from the rest: more than FAR robust deviations from their median, the deviation
    ``least`` at least. None where there are fewer than FEWEST.
    """
    if len(values) < FEWEST:
        return []
    row = np.array(values, float)
    away = np.abs(row - np.median(row))
    spread = max(ROBUST * float(np.median(away)), least)
    return [int(i) for i in np.flatnonzero(away > FAR * spread)]


@dataclass(frozen=True)
class Line:
    """Least squares through readings: ``slope`` and ``offset`` with their standard errors, ``scatter`` about it."""

    slope: float
    offset: float
    slope_error: float
    offset_error: float
    scatter: float
    freedom: int


def line(x: Sequence[float], y: Sequence[float], floor: float) -> Line | None:
    """None through fewer than three readings, or through readings at one place. ``floor``: the least scatter that
    single readings are taken to have.
    """
    if len(x) < 3 or max(x) - min(x) < 1e-9:
        return None
    slope, height, about, middle, spread = line_through(list(x), list(y))
    scatter = max(about or 0.0, floor)
    of_slope, of_offset = scatter / sqrt(spread), scatter * sqrt(1 / len(x) + middle**2 / spread)
    return Line(slope, height - slope * middle, of_slope, of_offset, scatter, len(x) - 2)
