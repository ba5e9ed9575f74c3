"""Which settled finding is which: a finding is the same while its kind, its place and its number are.

Plain rows in, plain rows out. A place is a point of the part, so it survives a new process, a finer mesh, and a
revision that leaves the spot as it was.
"""

from math import dist, sqrt

NEAR = 1.0
"""mm: findings no further apart than this, or than a third of their extent, can be the same."""
GROWN = 1.1
"""A finding whose number has grown by more than a tenth is not what was accepted."""


def same_place(a: dict, b: dict) -> bool:
    if a["kind"] != b["kind"]:
        return False
    reach = max(NEAR, sqrt(max(a["area_mm2"], b["area_mm2"])) / 3)
    return dist(a["centre_mm"], b["centre_mm"]) <= reach


def paired(now: list[dict], before: list[dict]) -> dict[int, int]:
    """{place in ``now``: place in ``before``} of those that are the same, nearest first; each at most once."""
    near = [
        (dist(a["centre_mm"], b["centre_mm"]), i, j)
        for i, a in enumerate(now)
        for j, b in enumerate(before)
        if same_place(a, b)
    ]
    out: dict[int, int] = {}
    for _, i, j in sorted(near):
        if i not in out and j not in out.values():
            out[i] = j
    return out


def has_grown(now: dict, then: dict) -> bool:
    return now["number"] > GROWN * then["number"] + 0.05
