"""Every stocked material for the same loads in the same direction, from one stress solution.

Stress in a part of one material does not depend on its modulus, and hardly on its ν: reserves are read anew, deflection
goes with 1/E.
"""

import math
from dataclasses import dataclass

from hewel_engine.geometry.mesh import Array
from hewel_engine.materials import Material
from hewel_engine.strength.allowables import Circumstances, knock_downs
from hewel_engine.strength.reserves import CriticalPoints, allowed, kept_back, reserve_of


@dataclass(frozen=True)
class Beside:
    """One material: least ``reserve`` over the cases and the case it is; the rest as the sheet and the part say."""

    key: str
    name: str
    reserve: float | None
    case: str
    mode: str
    deflection: float
    heat_margin: float | None
    """°C between service and softening."""
    creep: float
    shrinkage: float
    sticky: bool
    warps: bool
    mass: float
    """g."""
    cost: float

    def as_dict(self) -> dict:
        return {
            "key": self.key, "name": self.name, "reserve": self.reserve, "case": self.case, "mode": self.mode,
            "deflection_mm": self.deflection, "heat_margin_c": self.heat_margin, "creep": self.creep,
            "shrinkage_pct": 100 * self.shrinkage, "sticky": self.sticky, "warps": self.warps,
            "mass_g": self.mass, "cost": self.cost,
        }  # fmt: skip


@dataclass(frozen=True)
class Service:
    """How a case comes: its nature, and how often."""

    nature: str = "static"
    cycles: float | None = None


def beside(
    cases: list[CriticalPoints],
    services: list[Service],
    used: Material,
    mass: float,
    materials: list[Material],
    up: Array,
    plate: float,
    around: Circumstances,
    factor: float,
) -> list[Beside]:
    """The materials, strongest first. ``cases`` with how each comes, shock already in their stress; ``used`` is the
    material the stress was solved with, ``mass`` g of it in the part.
    """
    out = []
    for material in materials if cases else ():
        result = []
        for case, service in zip(cases, services, strict=True):
            factors = knock_downs(material, service.nature, service.cycles, around)
            result.append(reserve_of(case, up, plate, allowed(material, factors), kept_back(factors, factor)))
        least = min(result, key=lambda r: math.inf if r.reserve is None else r.reserve)
        grams = mass * material.density / used.density
        bend = max(r.deflection for r in result) * used.e_xy / material.e_xy
        margin = None if around.temperature is None else float(material.softening_c - around.temperature)
        out.append(
            Beside(
                material.key, material.name, least.reserve, least.name, least.mode, float(bend), margin,
                float(material.creep), material.shrinkage, bool(material.sticky), bool(material.warps),
                float(grams), float(grams * 1e-3 * material.price),
            )
        )  # fmt: skip
    return sorted(out, key=lambda b: -(math.inf if b.reserve is None else b.reserve))
