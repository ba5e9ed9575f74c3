"""Reserves for any welds of the layers, from the points that are kept of one solution: a batch needs no new one."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hewel_engine.geometry.mesh import Array
from hewel_engine.materials import Material
from hewel_engine.strength.allowables import Factor
from hewel_engine.strength.criterion import indices
from hewel_engine.strength.reserves import CriticalPoints, allowed, kept_back


@dataclass(frozen=True, eq=False)
class Welded:
    """For n batches, (n,): the least ``reserve`` of all cases, the lower edge that the band of the weld alone leaves
    of it (``low``), and the ``case`` and ``layer`` that decide; layer −1 where it is no weld.
    """

    reserve: Array
    low: Array
    case: np.ndarray
    layer: np.ndarray


def reserves_by_weld(
    cases: Sequence[CriticalPoints],
    material: Material,
    lines: Sequence[list[Factor]],
    factor: float,
    up: Array,
    plate: float,
    pitch: float,
    weld: Array,
    low: Array,
) -> Welded:
    """Every case on the layers normal to ``up`` with welds ``weld`` and ``low`` (n, layers) in place of one number: the
    interlayer index of a point over the least weld of the layers it stands for, or the greatest of the other indices,
    which no weld changes. Infinite where no load acts, case and layer −1 where there is no case.
    """
    (n, count), columns = weld.shape, []
    if not cases:
        nothing = np.full(n, -1)
        return Welded(np.full(n, np.inf), np.full(n, np.inf), nothing, nothing)
    for case, own in zip(cases, lines, strict=True):
        used = indices(case.stress, up, allowed(material, own), case.lie)
        rest = float(np.maximum(used.in_layer, used.compression).max(initial=0.0))
        first, last = case.layers(up, plate, pitch, count)
        kept = kept_back(own, factor)
        row = []
        for of_layers in (weld, low):
            share = np.stack([of_layers[:, a : b + 1].min(axis=1) for a, b in zip(first, last, strict=True)], axis=1)
            parting = used.interlayer / np.maximum(share, 1e-9)
            at = parting.argmax(axis=1)
            worst = parting[np.arange(len(at)), at]
            row.append(kept / np.maximum(np.maximum(worst, rest), 1e-9))
            if of_layers is weld:
                row.append(np.where(worst >= rest, (first[at] + last[at]) // 2, -1))
        columns.append(row)
    reserve, layer, lowest = (np.array([c[k] for c in columns]) for k in range(3))
    case_of, every = reserve.argmin(axis=0), np.arange(n)
    return Welded(reserve[case_of, every], lowest.min(axis=0), case_of, layer[case_of, every])


def within_band(value: float, low: float, weld_value: float, weld_low: float) -> float:
    """The lower edge of a reserve that two bands bear on, each known alone: its shares are added in squares of their
    logarithms.

    >>> round(within_band(1.0, 0.8, 1.0, 0.8), 3), round(within_band(2.0, 1.6, 1.0, 1.0), 9)
    (0.729, 1.6)
    """
    if min(value, low, weld_value, weld_low) <= 0:
        return 0.0
    down = np.hypot(np.log(value / low), np.log(weld_value / weld_low))
    return float(value * np.exp(-down))
