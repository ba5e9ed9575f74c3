"""What broken parts say of the predictions: a factor for each way of failing, machine and material, shrunk towards 1
with few trials, and a safe factor in the place of the scatter's allowance (handbook 11; card *calibration*).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import exp, log, sqrt

from hewel_engine.reckoning.samples import mean_and_deviation, shrunk
from hewel_engine.strength.allowables import OF_PARTS, SURE
from hewel_engine.trials.plates import by_plate

SPREAD = 0.20
"""τ: how far a prediction may be off at all, before anything is broken."""
SCATTER, WORTH = 0.15, 4.0
"""σ₀ of broken parts about it, and the trials that this is worth."""
OWN_FROM = 3
"""Groups from which on a workshop's own pooled scatter replaces σ₀."""
WIDE, WIDE_FROM = 1.5, 4
"""Raw scatter over σ₀ with so many trials at least that switches the prior off."""
ABOVE_TRIALS, ABOVE_PLATES = 6, 3
"""Trials and plates from which on a factor above 1 is offered."""


@dataclass(frozen=True)
class Tried:
    """A broken part: predicted and measured in one unit, the ``plate`` it was printed on; ``as_predicted``: it broke in
    the way that was predicted; ``broke``: else it held all of the load, a lower bound.
    """

    predicted: float
    measured: float
    plate: str
    as_predicted: bool = True
    broke: bool = True

    @property
    def counts(self) -> bool:
        return self.broke and self.as_predicted


@dataclass(frozen=True)
class Correction:
    """``ratio`` of the trials that count; ``factor`` with its 90 % band, ``weight`` of the trials against 1; ``safe``:
    the factor that all but one in twenty parts reach; ``offered``: what a person may take: no more than 1 before there
    are enough. ``scatter`` about it, ``raw`` of the trials alone.
    """

    count: int
    plates: int
    ratio: float
    factor: float
    low: float
    high: float
    weight: float
    scatter: float
    raw: float | None
    safe: float
    offered: float
    says: tuple[str, ...]


def correction(rows: Sequence[Tried], pooled_scatter: float | None = None) -> Correction | None:
    """x = ln(measured/predicted), one mean a plate; m their mean, w = τ²/(τ² + σ²/n), θ = w·m; σ² pooled with σ₀
    (``pooled_scatter`` in its place where there is one). None while nothing broke as predicted.
    """
    counts = [r for r in rows if r.counts]
    if not counts:
        return None
    means = _plate_means(counts)
    n, prior, says = len(means), SCATTER if pooled_scatter is None else pooled_scatter, []
    _, raw = mean_and_deviation(means)
    wide = raw is not None and n >= WIDE_FROM and raw > WIDE * prior
    if wide and raw is not None:
        says.append(f"They scatter by {100 * raw:.0f} %, far more than {100 * prior:.0f} %: look what else differed.")
    told = shrunk(means, SPREAD, prior, 0.0 if wide else WORTH, OF_PARTS, SURE)
    offered, enough = told.safe, len(counts) >= ABOVE_TRIALS and n >= ABOVE_PLATES
    if offered > 1 and not enough:
        offered = 1.0
        says.append(f"A factor above 1 is offered from {ABOVE_TRIALS} trials on {ABOVE_PLATES} plates.")
    if n < ABOVE_PLATES:
        says.append(f"{n} plate{'s' * (n > 1)}: the weight of these trials is {100 * told.weight:.0f} %.")
    left = len(rows) - len(counts)
    if left:
        says.append(f"{left} held, or broke in another way: lower bounds, not averaged.")
    return Correction(len(counts), n, exp(told.mean), told.factor, told.low, told.high, told.weight, told.scatter, raw,
                      told.safe, offered, tuple(says))  # fmt: skip


def _plate_means(counts: Sequence[Tried]) -> list[float]:
    rows = by_plate([_off(r) for r in counts], [r.plate for r in counts])
    return [sum(values) / len(values) for values in rows.values()]


def _off(row: Tried) -> float:
    return log(row.measured / row.predicted)


def own_scatter(groups: Sequence[Sequence[Tried]]) -> float | None:
    """The workshop's own scatter about each group's mean, pooled; None before OWN_FROM groups of two plates."""
    squares, freedom, used = 0.0, 0, 0
    for rows in groups:
        means = _plate_means([r for r in rows if r.counts])
        if len(means) > 1:
            middle = sum(means) / len(means)
            squares += sum((m - middle) ** 2 for m in means)
            freedom += len(means) - 1
            used += 1
    return sqrt(squares / freedom) if used >= OWN_FROM and squares > 0 else None
