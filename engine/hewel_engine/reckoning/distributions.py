"""The distributions that the cards of readings need, to eight digits, from the language's own functions: a library of
them takes longer to load than a card may take to answer.
"""

from collections.abc import Callable
from math import ceil, erfc, exp, inf, lgamma, log, sqrt

CLOSE = 1e-12
WIDE = 8.0
"""Standard deviations beyond which nothing of a normal distribution is left to fifteen digits."""


def normal(z: float) -> float:
    """Share of a normal distribution below z."""
    return 0.5 * erfc(-z / sqrt(2))


def normal_quantile(share: float) -> float:
    return _root(lambda z: normal(z) - share, -1.0, 1.0)


def student(t: float, freedom: float) -> float:
    """Share of Student's t below ``t``; for any ``freedom`` above 0."""
    return noncentral_student(t, freedom, 0.0)


def student_quantile(share: float, freedom: float) -> float:
    return _root(lambda t: student(t, freedom) - share, -1.0, 1.0)


def noncentral_student(t: float, freedom: float, shift: float) -> float:
    """Share of (z + ``shift``)/√(χ²/ν) below ``t``: ∫ Φ(t·x − shift) over the distribution of x = √(χ²/ν).

    With y = ln x the density exp(ν·y − ν·e^{2y}/2) falls off at both ends, and the trapezoidal rule converges
    exponentially; its step keeps to the narrower of the density and of Φ, which changes over y only where t·e^y is
    within WIDE of ``shift``: there it is as steep as t·e^y is large.
    """
    nu = freedom
    step = min(0.2, 0.5 / sqrt(2 * nu), 0.5 / (1 + min(abs(t), abs(shift) + WIDE)))
    scale = log(2.0) + 0.5 * nu * log(0.5 * nu) - lgamma(0.5 * nu)
    # Below this the rest of the density is under 10⁻¹⁴; above it e^{2y} takes over.
    low, high = min(-34.0 / nu, -8.0 / sqrt(nu)), 0.5 * log(1 + 80.0 / nu + 12.0 / sqrt(nu))
    total = 0.0
    for i in range(ceil((high - low) / step) + 1):
        y = low + i * step
        total += exp(scale + nu * y - 0.5 * nu * exp(2 * y)) * normal(t * exp(y) - shift)
    return min(total * step, 1.0)


def noncentral_quantile(share: float, freedom: float, shift: float) -> float:
    """Where the noncentral t has a ``share`` below it."""
    return _root(lambda t: noncentral_student(t, freedom, shift) - share, -1.0, max(2 * abs(shift), 2.0))


def _root(f: Callable[[float], float], low: float, high: float) -> float:
    """Where a rising function crosses 0: bracketed by doubling, then by false position with the Illinois rule."""
    while f(low) > 0:
        low *= 2
    while f(high) < 0:
        high *= 2
    a, b, side, last = f(low), f(high), 0, inf
    while abs(high - low) > CLOSE * (1 + abs(high)):
        at = (low * b - high * a) / (b - a) if b != a else (low + high) / 2
        if abs(at - last) <= CLOSE * (1 + abs(at)):
            return at
        last, value = at, f(at)
        if value == 0:
            return at
        if value > 0:
            high, b = at, value
            a = a / 2 if side == 1 else a
            side = 1
        else:
            low, a = at, value
            b = b / 2 if side == -1 else b
            side = -1
    return (low + high) / 2
