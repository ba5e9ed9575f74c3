"""Directions ranked by what is left once their remedies are done: support, plastic, time, handwork, reserve."""

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field

import numpy as np

from hewel_engine.advice.adapting import Adapted, adapted
from hewel_engine.advice.bounds import Bounds
from hewel_engine.advice.costs import Holds, printed
from hewel_engine.edits.remedies import REMEDIES
from hewel_engine.geometry.features import Bore
from hewel_engine.geometry.frames import same_direction
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.orientation.candidates import Candidate
from hewel_engine.orientation.ranking import standing_order
from hewel_engine.processes import Process

BY_HAND = tuple(r.key for r in REMEDIES if r.hand)
"""Remedies that leave work for a hand."""
ENOUGH_AS_THEY_ARE = 3
"""Candidates that stand, hold and want nothing: where there are so many, no other one's remedies are worked out."""
MOST = 12
"""Candidates whose remedies are worked out, the best by the plain ranking first."""


@dataclass(frozen=True, eq=False)
class RemediedDirection:
    """One direction once its remedies are done. Areas mm², volumes mm³, g, s."""

    up: Array
    needing_area: float
    """Of what still needs support."""
    support_volume: float
    """Under what still needs support."""
    grams: float
    """Plastic added (less where more is carved away)."""
    mass: float
    """g of the part before, dense."""
    seconds: float
    """Of one copy."""
    remedies: dict[str, int] = field(default_factory=dict)
    by_hand: int = 0
    left: list[str] = field(default_factory=list)
    changed: float = 0.0
    """Share of the part's volume that is added and taken away."""
    held: float | None = None
    """By what the least reserve is multiplied; None where no loads say."""

    @classmethod
    def of(
        cls, up: Array, found: Adapted, holds: Holds | None = None, seconds: float | None = None
    ) -> "RemediedDirection":
        """``seconds`` of one copy, where they are known already."""
        wanting = [r for r in found.after.truth.regions if r.needs_support]
        keys = Counter(a.tool.key for a in found.applied)
        density = found.after.process.stock.density
        return cls(
            np.asarray(up, float),
            float(sum(r.area for r in wanting)),
            float(sum(r.support_volume for r in wanting)),
            (found.after.mesh.volume - found.before.mesh.volume) * 1e-3 * density,
            found.before.mesh.volume * 1e-3 * density,
            float(printed(found.after).seconds.sum()) if seconds is None else seconds,
            dict(keys),
            sum(keys[k] for k in BY_HAND),
            [f"{r.kind.replace('_', ' ')} {r.low:.1f} mm up" for r in wanting],
            found.changed,
            (holds.share(found.mesh, up) if found.applied else 1.0) if holds else None,
        )

    def as_dict(self) -> dict:
        return {
            "up": self.up.tolist(),
            "needing_area_mm2": self.needing_area,
            "support_volume_mm3": self.support_volume,
            "grams": self.grams,
            "mass_g": self.mass,
            "seconds": self.seconds,
            "remedies": self.remedies,
            "by_hand": self.by_hand,
            "left": self.left,
            "changed": self.changed,
            "held": self.held,
        }

    @classmethod
    def read(cls, row: dict) -> "RemediedDirection":
        """What ``as_dict`` told."""
        area, volume = row["needing_area_mm2"], row["support_volume_mm3"]
        rest = (row["grams"], row["mass_g"], row["seconds"], row["remedies"], row["by_hand"], row["left"])
        return cls(np.array(row["up"], float), area, volume, *rest, row.get("changed", 0.0), row.get("held"))

    def measures(self, before: dict) -> dict:
        """A candidate's measures with what remedies change."""
        return before | {
            "needing_area_mm2": self.needing_area,
            "support_volume_mm3": self.support_volume,
            "time_s": self.seconds,
            "reserve": before.get("reserve") if self.held is None else self.reserve(before),
        }

    def reserve(self, before: dict) -> float | None:
        """The least reserve that the direction had, as it is after its remedies; None where one of both is unknown."""
        had = before.get("reserve")
        return None if had is None or self.held is None else had * self.held


def worth_working_out(measures: list[dict], most: int = MOST) -> list[int]:
    """Which candidates' remedies are worth working out, of their ``measures`` (with ``rank``): the first ``most`` by
    rank; where ENOUGH_AS_THEY_ARE stand, hold and want nothing as they are, only such ones, since no remedy puts
    another before them.
    """
    order = sorted(range(len(measures)), key=lambda i: measures[i]["rank"])
    good = [i for i in order if not any(standing_order(measures[i])[:4])]
    return (good if len(good) >= ENOUGH_AS_THEY_ARE else order)[:most]


def worked_out(
    mesh: Mesh,
    candidates: list[Candidate],
    process: Process,
    bores: list[Bore],
    supports: bool = True,
    protected: np.ndarray | None = None,
    most: int = MOST,
    bounds: Bounds | None = None,
) -> Iterator[RemediedDirection]:
    """Remedies done in one direction after the other, for the candidates that are worth it; closed parts only."""
    bounds = bounds or Bounds()
    for i in worth_working_out([c.measures for c in candidates], most):
        c = candidates[i]
        found = adapted(mesh, c.up, process, bores, None, protected, supports, bounds=bounds)
        yield RemediedDirection.of(c.up, found, bounds.holds, None if found.applied else c.measures.get("time_s"))


def ranked_after(candidates: list[Candidate], found: list[RemediedDirection]) -> list[int]:
    """The rank of every candidate, 1 best, by the plain ranking's rule once remedies count: what stands and holds,
    then what needs least support; among those that want the same, the one whose shape changes less and that takes less
    plastic, both in tenths of the part, then the one with less handwork, then the stabler one. A candidate whose
    remedies were not worked out counts as it is.
    """

    def order(i: int) -> tuple:
        c = candidates[i]
        own = next((f for f in found if same_direction(f.up, c.up)), None)
        *first, tipping, support = standing_order(own.measures(c.measures) if own else c.measures)
        tenths = (round(10 * own.changed), max(round(10 * own.grams / own.mass), 0)) if own else (0, 0)
        cost = (*tenths, own.by_hand if own else 0)
        return (*first, *cost, tipping, support, tuple(-c.up))

    ranks = [0] * len(candidates)
    for place, i in enumerate(sorted(range(len(candidates)), key=order), start=1):
        ranks[i] = place
    return ranks


def explained(before: dict, after: RemediedDirection) -> str:
    """Why a direction stands where it stands, in words."""
    count = sum(after.remedies.values())
    if count == 0:
        return "nothing wants a remedy" if after.needing_area == 0 else "no remedy fits: " + ", ".join(after.left[:3])
    result = ", ".join(
        f"{n} × {k.replace('_', ' ')}" if n > 1 else k.replace("_", " ") for k, n in after.remedies.items()
    )
    hung = f"{before['needing_area_mm2']:.0f} → {after.needing_area:.0f} mm² that need support"
    cost = f"{after.grams:+.1f} g"
    if before.get("time_s"):
        cost += f", {(after.seconds - before['time_s']) / 60:+.0f} min"
    hand = f", {after.by_hand} by hand" if after.by_hand else ""
    held = after.reserve(before)
    if held is not None and abs(held - before["reserve"]) >= 0.005:
        hand += f"; reserve {before['reserve']:.2f} → {held:.2f}"
    return f"{result}: {hung}; {cost}{hand}"
