"""What readings say, and how far they may be trusted: bounds, comparisons, fits, the correction of predictions."""

from dataclasses import dataclass
from math import exp, log, sqrt

from hewel_engine.reckoning.card import (
    STATISTICS,
    Answered,
    Input,
    Said,
    above,
    card,
    readings,
    refuse,
    same_length,
    whole,
)
from hewel_engine.reckoning.distributions import noncentral_quantile, normal_quantile, student, student_quantile


def one_sided_factor(count: float, freedom: float, share: float, confidence: float) -> float:
    """k of mean − k·s, below which at most 1 − ``share`` lies, with ``confidence``."""
    return noncentral_quantile(confidence, freedom, normal_quantile(share) * sqrt(count)) / sqrt(count)


def mean_and_deviation(values: list[float]) -> tuple[float, float | None]:
    mean = sum(values) / len(values)
    if len(values) < 2:
        return mean, None
    return mean, sqrt(sum((v - mean) ** 2 for v in values) / (len(values) - 1))


@card(
    "tolerance_factor", [*whole("count", low=2), *STATISTICS], "k",
    "k = t'_{n−1; confidence}(δ = z_share·√n)/√n, noncentral t, one-sided", "ISO 16269-6 (one-sided, σ unknown)",
    "normal readings",
)  # fmt: skip
def tolerance_factor(count: int, share: float, confidence: float) -> Answered:
    return (one_sided_factor(count, count - 1, share, confidence),), Said().few(count)


@card(
    "allowable", [*readings("readings_mpa"), *STATISTICS], "mean_mpa deviation_mpa count k bound_mpa", "mean − k(n)·s",
    "ISO 16269-6", "normal readings, one a plate",
)  # fmt: skip
def allowable(readings_mpa: list[float], share: float, confidence: float) -> Answered:
    count, said = len(readings_mpa), Said().few(len(readings_mpa))
    mean, deviation = mean_and_deviation(readings_mpa)
    if deviation is None:
        return (mean, None, count, None, None), said
    k = one_sided_factor(count, count - 1, share, confidence)
    return (mean, deviation, count, k, mean - k * deviation), said.outside(
        k * deviation > mean, "The bound is below 0."
    )


def welch(first: list[float], second: list[float], confidence: float) -> tuple:
    """Difference first − second, its interval, t, freedom, p of no difference."""
    (a, s), (b, r) = mean_and_deviation(first), mean_and_deviation(second)
    own, other = (s or 0.0) ** 2 / len(first), (r or 0.0) ** 2 / len(second)
    error = sqrt(own + other)
    if error == 0:
        return a - b, a - b, a - b, None, None, None
    freedom = (own + other) ** 2 / (own**2 / (len(first) - 1) + other**2 / (len(second) - 1))
    reach, t = student_quantile((1 + confidence) / 2, freedom) * error, (a - b) / error
    return a - b, a - b - reach, a - b + reach, t, freedom, 2 * student(-abs(t), freedom)


@card(
    "two_samples",
    [*readings("first", "second", low=-1e12, allowed=True), Input("confidence", 0.5, 0.9999, default=0.95)],
    "difference low high t freedom p ratio ratio_low ratio_high",
    "Welch; difference first − second with t-interval; ratio second/first = exp of the difference of mean logarithms, "
    "interval by Welch on logarithms",
    "Welch 1947", "normal readings; the ratio only of readings above 0",
)  # fmt: skip
def two_samples(first: list[float], second: list[float], confidence: float) -> Answered:
    refuse(min(len(first), len(second)) < 2, "Each sample needs two readings.", "Give more, separated by commas.")
    plain, said = welch(first, second, confidence), Said().few(min(len(first), len(second)))
    if min(*first, *second) <= 0:
        return (*plain, None, None, None), said
    middle, low, high, *_ = welch([log(v) for v in second], [log(v) for v in first], confidence)
    return (*plain, exp(middle), exp(low), exp(high)), said


def line_through(x: list[float], y: list[float]) -> tuple[float, float, float | None, float, float]:
    """Slope, height at the mean of x, scatter about the line (None for two), the mean of x, Σ(x − x̄)²."""
    refuse(len(x) < 2, "A line needs two readings.", "Give more, separated by commas.")
    count, middle, height = len(x), sum(x) / len(x), sum(y) / len(y)
    spread = sum((v - middle) ** 2 for v in x)
    refuse(spread == 0, "All readings are at one place.", "Give readings at two places at least.")
    slope = sum((v - middle) * (w - height) for v, w in zip(x, y, strict=True)) / spread
    left = sum((w - height - slope * (v - middle)) ** 2 for v, w in zip(x, y, strict=True))
    return slope, height, sqrt(left / (count - 2)) if count > 2 else None, middle, spread


@card(
    "weld_ladder", [*readings("layer_time_s", "strength_mpa"), *above("reference_s", "at_s")],
    "exponent exponent_error strength_reference_mpa scatter_log strength_at_mpa bond_factor_at low_at_mpa",
    "ln σ = ln σ_ref − m·ln(t/t_ref), least squares; low: one-sided 95 % prediction bound for one new reading",
    "linear regression", "one power of time over the readings",
)  # fmt: skip
def weld_ladder(layer_time_s: list[float], strength_mpa: list[float], reference_s: float, at_s: float) -> Answered:
    same_length(layer_time_s, strength_mpa)
    x, y, count = [log(t / reference_s) for t in layer_time_s], [log(s) for s in strength_mpa], len(layer_time_s)
    slope, height, scatter, middle, spread = line_through(x, y)
    at, first, last = log(at_s / reference_s), min(layer_time_s), max(layer_time_s)
    reference, there = height - slope * middle, height + slope * (at - middle)
    said = Said().few(count)
    said.beyond(not first <= at_s <= last, "The time asked for is beyond the readings.")
    said.beyond(not first <= reference_s <= last, "The reference time is beyond the readings.")
    said.outside(last < 3 * first, "The times span less than a factor of three: little is proved.")
    low = error = None
    if scatter is not None:
        error = scatter / sqrt(spread)
        reach = student_quantile(0.95, count - 2) * scatter * sqrt(1 + 1 / count + (at - middle) ** 2 / spread)
        low = exp(there - reach)
    return (-slope, error, exp(reference), scatter, exp(there), exp(there - reference), low), said


@card(
    "shrink_cross", [*readings("nominal_mm", "measured_mm")],
    "shrinkage_percent shrinkage_error_percent offset_mm offset_error_mm",
    "measured = (1 − s)·nominal + o by least squares; o = both outer faces' bulge (outside measure), "
    "−o for inside measures",
    "linear regression", "one axis",
)  # fmt: skip
def shrink_cross(nominal_mm: list[float], measured_mm: list[float]) -> Answered:
    same_length(nominal_mm, measured_mm)
    slope, height, scatter, middle, spread = line_through(nominal_mm, measured_mm)
    count, error, offset_error = len(nominal_mm), None, None
    if scatter is not None:
        error, offset_error = 100 * scatter / sqrt(spread), scatter * sqrt(1 / count + middle**2 / spread)
    return (100 * (1 - slope), error, height - slope * middle, offset_error), Said().few(count)


@card(
    "calibration",
    [
        *readings("predicted", "measured"), *above("prior_spread", default=0.2), *above("prior_scatter", default=0.15),
        *above("prior_freedom", default=4.0), *STATISTICS,
    ],
    "count ratio raw_scatter scatter weight suggested_factor low_factor high_factor k safe_factor",
    "x = ln(measured/predicted); m mean, S = Σ(x − m)²; ν = ν0 + n − 1; σ² = (ν0·σ0² + S)/ν; w = τ²/(τ² + σ²/n); "
    "θ = w·m; suggested = e^θ; 90 % band e^{θ ± t_{0.95,ν}·σ/√n_e}, n_e = n + σ²/τ²; "
    "k = t'_{ν;0.90}(1.645·√n_e)/√n_e; safe = e^{θ − kσ}",
    "normal–normal empirical Bayes; ISO 16269-6 in the limit τ → ∞, ν0 → 0", "one mean a plate; one kind of failure",
)  # fmt: skip
def calibration(
    predicted: list[float],
    measured: list[float],
    prior_spread: float,
    prior_scatter: float,
    prior_freedom: float,
    share: float,
    confidence: float,
) -> Answered:
    same_length(predicted, measured)
    x = [log(m / p) for p, m in zip(predicted, measured, strict=True)]
    told = shrunk(x, prior_spread, prior_scatter, prior_freedom, share, confidence)
    factors = [told.factor, told.low, told.high, told.k, told.safe]
    return (len(x), exp(told.mean), told.raw, told.scatter, told.weight, *factors), Said().few(len(x))


@dataclass(frozen=True)
class Shrunk:
    """Of logarithms: their ``mean`` and ``raw`` scatter; the ``scatter`` pooled with the prior's, the ``weight`` of the
    readings against 1, the ``factor`` with its 90 % band, the ``safe`` one with its k.
    """

    mean: float
    raw: float | None
    scatter: float
    weight: float
    factor: float
    low: float
    high: float
    k: float
    safe: float


def shrunk(x: list[float], spread: float, prior: float, worth: float, share: float, confidence: float) -> Shrunk:
    """The sum of the card *calibration*; ``worth`` readings is what the prior scatter counts, one at least in all."""
    count = len(x)
    mean, raw = mean_and_deviation(x)
    freedom = max(worth + count - 1, 1.0)
    scatter = sqrt((worth * prior**2 + sum((v - mean) ** 2 for v in x)) / freedom)
    weight = spread**2 / (spread**2 + scatter**2 / count)
    theta, counted = weight * mean, count + scatter**2 / spread**2
    reach = student_quantile(0.95, freedom) * scatter / sqrt(counted)
    k = one_sided_factor(counted, freedom, share, confidence)
    band = (exp(theta), exp(theta - reach), exp(theta + reach))
    return Shrunk(mean, raw, scatter, weight, *band, k, exp(theta - k * scatter))
