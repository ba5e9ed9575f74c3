"""A specimen under load over weeks: how it gives with time, and what that leaves after years (handbook 8, 11)."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import exp, log

from hewel_engine.errors import InputError
from hewel_engine.reckoning.distributions import student_quantile
from hewel_engine.trials.plates import SURE, Line, line

DESIGN_H = 10 * 365.25 * 24
"""h that a sustained load is reckoned to act, where nobody says otherwise: ten years."""
FIRST_H = 1.0
"""h after loading at which the give counts as that of a short test."""
LEAST_SCATTER = 0.01
"""Scatter of ln(give) that single readings have at least."""
FAR = 100.0
"""Times the longest reading beyond which ten years are a guess."""


@dataclass(frozen=True)
class Drift:
    """ln give = a + m·ln t: ``power`` m; ``share``: what the give of a short test is of that after all those hours,
    with its 95 % band; ``at`` (h, mm) of the fit for drawing.
    """

    power: float
    share: float
    low: float
    high: float
    hours: float
    at: list[tuple[float, float]]
    says: tuple[str, ...]


def drift(hours: Sequence[float], give: Sequence[float], design_h: float = DESIGN_H) -> Drift | None:
    """Power law of time through the readings after FIRST_H: share = (design/1 h)^−m, the creep knock-down of a load
    that stays. None while fewer than three readings, or one moment, are there. Raises InputError ``bad_options`` for a
    give or a time that is none.
    """
    if any(v <= 0 for v in (*hours, *give)):
        raise InputError("bad_options", "Times and gives are above 0.", "Leave the reading before loading out.")
    kept = [(log(t), log(v)) for t, v in zip(hours, give, strict=True) if t >= FIRST_H]
    fit: Line | None = line([x for x, _ in kept], [y for _, y in kept], LEAST_SCATTER) if kept else None
    if fit is None:
        return None
    power, reach = max(fit.slope, 0.0), student_quantile((1 + SURE) / 2, fit.freedom) * fit.slope_error
    span = log(design_h / FIRST_H)
    share = lambda m: exp(-max(m, 0.0) * span)
    longest = max(hours)
    says = []
    if longest * FAR < design_h:
        says.append(f"It has been watched for {longest / 24:.0f} days: ten years are a guess. Go on reading.")
    if fit.slope <= 0:
        says.append("It does not give with time: look whether the load still acts.")
    steps = [FIRST_H * (longest / FIRST_H) ** (k / 20) for k in range(21)]
    at = [(t, exp(fit.offset + fit.slope * log(t))) for t in steps]
    return Drift(power, share(power), share(power + reach), share(power - reach), longest, at, tuple(says))
