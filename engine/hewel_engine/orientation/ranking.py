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
}
ENOUGH = {"tipping_deg": 30.0, "drag_ratio": 4.0}
"""Beyond this a measure buys nothing more, so it no longer makes a direction stand out."""


def goal_table(candidates: list[Candidate]) -> Array:
    """(n, goals), greater is better; a measure that nobody has yet is level for all."""
    rows = []
    for c in candidates:
        row = []
        for name, sign in GOALS.items():
            value = c.measures.get(name)
            value = 0.0 if value is None else min(float(value), ENOUGH.get(name, np.inf))
            row.append(sign * float(f"{value:.3g}"))
        rows.append(row)
    return np.array(rows).reshape(len(candidates), len(GOALS))


def nondominated(table: Array) -> np.ndarray:
    """(n,) bool: rows that no other row matches everywhere and betters somewhere."""
    at_least = (table[:, None] >= table[None]).all(axis=2)
    better = (table[:, None] > table[None]).any(axis=2)
    return ~(at_least & better).any(axis=0)


def rank(candidates: list[Candidate]) -> list[Candidate]:
    """Best first, with ``rank`` and ``nondominated`` filled in: what stands before what does not, then the least
    support-needing area, then stability.
    """
    keep = nondominated(goal_table(candidates)) if candidates else []

    def order(i):
        m = candidates[i].measures
        return (
            m["tipping_deg"] < STANDS,
            round(m["needing_area_mm2"], 1),
            -round(m["tipping_deg"], 2),
            m["support_volume_mm3"],
            tuple(-candidates[i].up),
        )

    ranked = []
    for place, i in enumerate(sorted(range(len(candidates)), key=order), start=1):
        candidates[i].measures |= {"nondominated": bool(keep[i]), "rank": place}
        ranked.append(candidates[i])
    return ranked
