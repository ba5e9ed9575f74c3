"""Every stocked material for the same loads in the same direction, from one stress solution.

Stress in a part of one material does not depend on its modulus, and hardly on its ν: reserves are read anew, deflection
goes with 1/E.
"""

from dataclasses import dataclass, replace

from hewel_engine.geometry.mesh import Array
from hewel_engine.loads.cases import Case
from hewel_engine.materials import Material
from hewel_engine.strength.allowables import Circumstances, knock_downs
from hewel_engine.strength.reserves import reserve_of, reserves
from hewel_engine.strength.stressing import CaseStress, Stressed


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


def beside(
    found: Stressed,
    used: Material,
    materials: list[Material],
    up: Array,
    around: Circumstances,
    factor: float,
) -> list[Beside]:
    """The materials, strongest first. ``used`` is the one the stress was solved with."""
    out = []
    for material in materials:
        least = None
        for row in found.cases:
            told = reserve_of(found, _in(row, material, around), material, up, factor)
            if least is None or (told.reserve or 1e9) < (least.reserve or 1e9):
                least = told
        grams = 1e6 * found.mass * material.density / used.density
        bend = max(r.deflection for r in reserves(found, used, up)) * used.e_xy / material.e_xy
        margin = None if around.temperature is None else float(material.softening_c - around.temperature)
        out.append(
            Beside(
                material.key, material.name, least.reserve, least.name, least.mode, float(bend), margin,
                float(material.creep), material.shrinkage, bool(material.sticky), bool(material.warps),
                float(grams), float(grams * 1e-3 * material.price),
            )
        )  # fmt: skip
    return sorted(out, key=lambda b: -(b.reserve or 1e9))


def _in(row: CaseStress, material: Material, around: Circumstances) -> CaseStress:
    case: Case = row.case
    return replace(row, factors=knock_downs(material, case.nature, case.cycles, around))
