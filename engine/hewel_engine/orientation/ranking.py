"""Which candidates stand out. No single score decides: the non-dominated set is marked, weights only sort it."""

import numpy as np

from hewel_engine.geometry.mesh import Array
from hewel_engine.orientation.candidates import Candidate

STANDS = 5.0  # degrees of tipping margin below which a part does not stand by itself

GOALS = {
    "needing_area_mm2": -1,
    "support_volume_mm3": -1,
    "longest_bridge_mm": -1,
    "islands": -1,
    "tipping_deg": +1,
    "drag_ratio": +1,
    "time_s": -1,
    "protected_scar_mm2": -1,
    "bores_lying": -1,
    "reserve": +1,
}
ENOUGH = {"tipping_deg": 30.0, "drag_ratio": 4.0}
"""Beyond this a measure buys nothing more, so it no longer makes a direction stand out."""
SAFE = 3.0
"""The same for the reserve, the required factor counted in; it is no measure of stability."""


def goal_table(candidates: list[Candidate]) -> Array:
    """(n, goals), greater is better; a measure that nobody has yet is level for all."""
    rows = []
    for c in candidates:
        row = []
        for name, sign in GOALS.items():
            value = c.measures.get(name)
            value = 0.0 if value is None else min(float(value), (ENOUGH | {"reserve": SAFE}).get(name, np.inf))
            row.append(sign * float(f"{value:.3g}"))
        rows.append(row)
    return np.array(rows).reshape(len(candidates), len(GOALS))


def nondominated(table: Array) -> np.ndarray:
    """(n,) bool: rows that no other row matches everywhere and betters somewhere."""
    at_least = (table[:, None] >= table[None]).all(axis=2)
    better = (table[:, None] > table[None]).any(axis=2)
    return ~(at_least & better).any(axis=0)


RELATIVE = {
    "support": "needing_area_mm2",
    "time": "time_s",
    "height": "height_mm",
    "scar": "scar_mm2",
    "curl": "curl",
    "finish": "finish_mm",
    "protected": "protected_scar_mm2",
}
"""Measures that count by where they lie between the best and the worst of those compared; less is better."""


def weighted_scores(measures: dict[str, Array], weights: dict[str, float]) -> Array:
    """(n,) cost of each direction, 0 (best in all that counts) to 1.

    ``measures`` holds columns (n,) by name; a measure that is absent, or not known (NaN) of any, counts for nothing.
    Stability is absolute: full marks from ENOUGH on, by the weaker of tipping angle and drag ratio; so is strength, by
    the reserve up to SAFE.
    """
    count = len(measures["tipping_deg"])
    total, cost = 0.0, np.zeros(count)
    for name, weight in weights.items():
        if name == "stability":
            holds = [np.clip(measures[m] / enough, 0, 1) for m, enough in ENOUGH.items()]
            part = 1 - np.minimum(*holds)
        elif name == "strength":
            reserve = measures.get("reserve")
            if reserve is None or not np.isfinite(reserve).all():
                continue
            part = 1 - np.clip(reserve / SAFE, 0, 1)
        else:
            values = measures.get(RELATIVE[name])
            if values is None or not np.isfinite(values).all():
                continue
            low, high = values.min(), values.max()
            part = (values - low) / (high - low) if high > low else np.zeros(count)
        total += weight
        cost += weight * part
    return cost / total if total > 0 else cost


def weighted_order(measures: dict[str, Array], weights: dict[str, float]) -> tuple[np.ndarray, Array]:
    """Numbers of the directions, best first, and their costs: what stands before what does not, then by cost."""
    cost = weighted_scores(measures, weights)
    falls = measures["tipping_deg"] < STANDS
    return np.lexsort((np.arange(len(cost)), np.round(cost, 6), falls)), cost


def standing_order(m: dict) -> tuple:
    """What a direction with the measures ``m`` is sorted by, the less the better."""
    reserve = m.get("reserve")
    fails = reserve is not None and reserve < 1
    return (
        m["tipping_deg"] < STANDS,
        fails,
        -round(reserve, 2) if fails else 0.0,
        round(m["needing_area_mm2"] + (m.get("protected_scar_mm2") or 0.0), 1),
        -round(m["tipping_deg"], 2),
        m["support_volume_mm3"],
    )


def rank(candidates: list[Candidate]) -> list[Candidate]:
    """Best first, with ``rank`` and ``nondominated`` filled in: what stands before what does not, what holds its loads
    before what does not (by reserve, the strongest first), then the least support-needing area (what scars a
    protected face counts twice), then stability.
    """
    keep = nondominated(goal_table(candidates)) if candidates else []
    order = lambda i: (*standing_order(candidates[i].measures), tuple(-candidates[i].up))
    ranked = []
    for place, i in enumerate(sorted(range(len(candidates)), key=order), start=1):
        candidates[i].measures |= {"nondominated": bool(keep[i]), "rank": place}
        ranked.append(candidates[i])
    return ranked
