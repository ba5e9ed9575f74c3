"""The cut part under its loads, with its bolts in the solution and its rods in the sections. Lengths mm, forces N."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.patches import Faces
from hewel_engine.hardware.catalogue import SIZES, STEEL_MODULUS, Bolt, Piece
from hewel_engine.hardware.clamped import Field, field_of
from hewel_engine.hardware.placing import Placed, Seated
from hewel_engine.hardware.sums import Ledger, bolts_alone, cores_of, other_rods, rods
from hewel_engine.loads.cases import LoadSet
from hewel_engine.materials import Material
from hewel_engine.processes import Process
from hewel_engine.reckoning.sizes import size_of
from hewel_engine.strength.cores import Core
from hewel_engine.strength.fasteners import presses_across
from hewel_engine.strength.reserves import SectionedPart, demand, reserves, sectioned
from hewel_engine.strength.solution import Watch, quiet
from hewel_engine.strength.stressing import Stressed, stressed

Again = Callable[[list[Core]], Stressed]
"""The same part solved with steel in it."""


@dataclass(frozen=True, eq=False)
class Solved:
    """``points`` with what every bolt does to them, None without bolts; what hand's sums say, case by case: ``alone``,
    the bolts after a crack, and ``with_rods``; without knock-downs on all strengths and required factor.
    """

    found: Stressed
    points: Field | None
    alone: list[dict]
    with_rods: list[dict] | None
    other_rods: list[dict]

    def as_dict(self) -> dict:
        return {
            "cubes": len(self.found.model.lattice), "voxel_mm": self.found.size,
            "cases": [row.case.name for row in self.found.cases], "alone": self.alone, "with_rods": self.with_rods,
            "other_rods": self.other_rods,
            "notes": [dict(n) for n in self.found.notes],
        }  # fmt: skip


def solved(
    made: Seated, faces: Faces | None, loads: LoadSet, process: Process, up: Array, voxel_count: int,
    watch: Watch = quiet,
) -> Solved:  # fmt: skip
    """``loads`` on the cut part, every case static. Raises InputError where they find no rest, or a bolt no seat."""
    material = process.stock
    bolts = [p for p in made.rows if isinstance(p.what, Bolt) and p.where is not None]
    clamps = [p.clamp(float(material.e_z)) for p in bolts]
    found = stressed(made.mesh, faces, loads, process, voxel_count=voxel_count, up=up, clamps=clamps, watch=watch)
    on = sectioned(made.mesh, up, process)
    ledger = Ledger.of(found, on)
    plain = reserves(found, material, up)
    limits = [_bears(p, material, up) for p in bolts]
    alone = [bolts_alone(ledger, i, r.z, bolts, limits, 1.0) for i, r in enumerate(plain)]
    again = lambda cores: stressed(
        made.mesh, faces, loads, process, voxel_count=voxel_count, up=up, cores=cores, watch=watch
    )
    with_rods, others = _rods(found, on, ledger, made.rows, material, again)
    return Solved(found, field_of(found, material, up) if bolts else None, alone, with_rods, others)


def _bears(placed: Placed, material: Material, up: Array) -> float:
    """N that the weaker seat of a bolt bears once, without creep."""
    clamp = placed.clamp(float(material.e_z))
    across = presses_across(placed.line.way, up)
    return min(clamp.head.area, clamp.nut.area) * float(material.z_c if across else material.x_c)


def _rods(
    found: Stressed, on: SectionedPart, ledger: Ledger, rows: list[Placed], material: Material, again: Again
) -> tuple[list[dict] | None, list[dict]]:
    cores = cores_of(rows, on)
    if not cores:
        return None, []
    used = [np.array(demand(found, row, material, on.stack.up, on.stack.pitch)) for row in found.cases]
    known = {size: size_of("threaded_rod", size, "stress_diameter") for size in SIZES}
    wide = {size: own.value for size, own in known.items() if own}
    stiffened = reserves(again(_steel(rows, on.stack.up, material)), material, on.stack.up)
    by_hand = rods(ledger, cores, used, material, 1.0)
    told = [row | {"elements": r.reserve} for row, r in zip(by_hand, stiffened, strict=True)]
    return told, other_rods(ledger, cores, used, material, wide)


def _steel(rows: list[Placed], up: Array, material: Material) -> list[Core]:
    """The rods of a part as steel in its elements, whichever way they lie."""
    out = []
    for p in rows:
        if p.row["kind"] == "rod" and p.where is not None and isinstance(p.what, Piece):
            at = p.where["head_at_mm"]
            modulus = float(material.e_z if presses_across(p.line.way, up) else material.e_xy)
            ends = p.line.at(at), p.line.at(at + p.where["depth_mm"])
            out.append(Core(*ends, p.what.facts["stress_diameter_mm"], STEEL_MODULUS / modulus))
    return out
