"""A solved set of bolts as it is read now: tightened as its rows say, under today's knock-downs and factor; and what
else would do: less torque, another size, fewer of them. Torques N·mm, forces N.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from math import floor, log10

import numpy as np

from hewel_engine.errors import InputError
from hewel_engine.hardware.catalogue import SIZES, Bolt
from hewel_engine.hardware.clamped import (
    Field,
    Joint,
    Setting,
    Tightened,
    Verdict,
    least_torque,
    preload_alone,
    tightened,
    verdicts,
)
from hewel_engine.hardware.placing import Placed, bolt_for
from hewel_engine.materials import Material
from hewel_engine.strength.allowables import Factor

MOST_COUNTED = 10
"""Bolts of which fewer are tried: each step tries all that are left."""


@dataclass(frozen=True)
class Asked:
    """What a reading is held against: ``names`` of the cases, the knock-downs of each, and the required factor."""

    names: list[str]
    factors: list[list[Factor]]
    factor: float


@dataclass(frozen=True)
class Fewer:
    """So many of the bolts that are drawn, by ``names``: the least reserve of all cases; None where no load acts."""

    count: int
    names: tuple[str, ...]
    reserve: float | None


def two_figures(value: float) -> float:
    """Rounded down to two significant figures; 0 stays 0.

    >>> two_figures(1234.0), two_figures(0.0)
    (1200.0, 0.0)
    """
    if value <= 0:
        return 0.0
    step = 10.0 ** (floor(log10(value)) - 1)
    return floor(value / step + 1e-9) * step


class Reading:
    """``rows``: bolts with their places; a torque of 0 in ``setting`` is the usual one."""

    def __init__(self, field: Field, rows: list[Placed], setting: Setting, material: Material):
        self.field, self.rows, self.material = field, rows, material
        self.joint = Joint.of(rows, float(material.e_z))
        self.setting = replace(setting, torque=self._usual(setting, self.joint))
        self.bolts: list[Tightened] = tightened(field, self.joint, self.setting, material)

    def _usual(self, setting: Setting, joint: Joint) -> tuple[float, ...]:
        """As typed; else what the seats of all bolts of one size bear, in two figures, as one sets a wrench."""
        bears = tightened(self.field, joint, replace(setting, torque=(0.0,) * len(joint.bolts)), self.material)
        of = lambda size: min(b.most_torque for b, bolt in zip(bears, joint.bolts, strict=True) if bolt.size == size)
        return tuple(t or two_figures(of(b.size)) for t, b in zip(setting.torque, joint.bolts, strict=True))

    def cases(self, asked: Asked) -> list[Verdict]:
        return verdicts(self.field, self.joint, self.bolts, asked.names, asked.factors, self.material, asked.factor)

    def reserve(self, asked: Asked) -> float | None:
        """The least of all cases, the preload alone among them once it fails; None where no load acts."""
        held = [c.clamped for c in self.cases(asked) if c.clamped is not None]
        alone = preload_alone(self.field, self.bolts, self.material)["reserve"]
        return min([*held, *([alone] if alone is not None and alone < 1 and held else [])], default=None)

    def without_steel(self, asked: Asked) -> float | None:
        """The least reserve with the holes and nothing in them; None where no load acts."""
        return min((c.plain for c in self.cases(asked) if c.plain is not None), default=None)

    def least_torque(self, asked: Asked) -> list[float] | None:
        """Of each bolt, at which every case just holds; None where what the seats bear does not do."""
        share = least_torque(self.field, self.joint, self.setting, asked.factors, self.material, asked.factor)
        return None if share is None else [share * t for t in self.setting.torque]

    def by_size(self, asked: Asked) -> list[tuple[str, Tightened, float | None]]:
        """(size, its least tightened bolt, reserve) of each size in place of the one that is drawn, with the same head,
        washer and nut, tightened as far as its seats bear: the places of this solution stand for its own.
        """
        others = [(size, other) for size in SIZES if (other := self.of_size(size)) is not None]
        return [(size, min(o.bolts, key=lambda b: b.torque), o.reserve(asked)) for size, o in others]

    def of_size(self, size: str) -> "Reading | None":
        """With this size in place of the one that is drawn; None where the table has no such bolt."""
        try:
            rows = [replace(p, what=bolt_for(p.row | {"size": size}, self.field.up)) for p in self.rows]
        except InputError:
            return None
        return Reading(self.field, rows, replace(self.setting, torque=(0.0,) * len(rows)), self.material)

    def by_count(self, asked: Asked) -> list[Fewer]:
        """Fewer of the bolts that are drawn, down to one: each time the one goes that is missed least. A bolt that is
        left out leaves its hole in this solution, and where the core is sparse the walls round the hole carry too:
        solved without it the part may be weaker. Empty for more than ten.
        """
        if len(self.rows) > MOST_COUNTED:
            return []
        return [
            Fewer(len(r.rows), tuple(p.row["name"] for p in r.rows), r.reserve(asked)) for r in self.leaving_out(asked)
        ]

    def leaving_out(self, asked: Asked) -> Iterator["Reading"]:
        """One bolt fewer each time, down to one: the one goes that is missed least."""
        left = self
        while len(left.rows) > 1:
            ids = [p.row["id"] for p in left.rows]
            tried = [left.only([i for i in ids if i != gone]) for gone in ids]
            reserves = [r.reserve(asked) for r in tried]
            left = tried[max(range(len(tried)), key=lambda k: -1.0 if reserves[k] is None else reserves[k])]
            yield left

    def at_torque(self, torque: float) -> "Reading":
        """Every bolt tightened so."""
        setting = replace(self.setting, torque=(torque,) * len(self.rows))
        return Reading(self.field, self.rows, setting, self.material)

    def times(self, many: float) -> "Reading":
        """As if so many times the bolts stood where these do, each clamping and carrying as they do."""
        field = replace(self.field, bolts=many * self.field.bolts)
        return Reading(field, self.rows, self.setting, self.material)

    def only(self, ids: Sequence[str]) -> "Reading":
        """The same with these bolts alone, by the ids of their rows, each with the torque that it has."""
        kept = [k for k, p in enumerate(self.rows) if p.row["id"] in ids]
        pairs = np.ix_(kept, kept)
        field = replace(
            self.field, bolts=self.field.bolts[kept], flexibility=self.field.flexibility[pairs],
            growth=self.field.growth[:, kept],
        )  # fmt: skip
        setting = replace(self.setting, torque=tuple(self.setting.torque[k] for k in kept))
        return Reading(field, [self.rows[k] for k in kept], setting, self.material)


def bolts_of(rows: list[Placed]) -> list[Placed]:
    return [p for p in rows if isinstance(p.what, Bolt)]
