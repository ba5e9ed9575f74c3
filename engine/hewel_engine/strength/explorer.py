"""Perimeters against infill on the real part: least reserve and mass for every pair, one after another."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

from hewel_engine.errors import InputError
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.patches import Faces
from hewel_engine.geometry.voxels import filled
from hewel_engine.loads.cases import LoadSet
from hewel_engine.processes import Process
from hewel_engine.strength.allowables import Circumstances
from hewel_engine.strength.reserves import reserves
from hewel_engine.strength.stressing import COARSE, check_cases, fill_for, size_for, stressed

PERIMETERS = tuple(range(2, 9))
INFILLS = (0.0, 0.1, 0.2, 0.4, 0.6, 1.0)


@dataclass(frozen=True)
class Filled:
    """One pair: least ``reserve`` over the cases, None where no load acts, or where ``case`` says why there is none;
    ``mass`` g of plastic.
    """

    perimeters: int
    infill: float
    reserve: float | None
    case: str
    mass: float

    def as_dict(self) -> dict:
        return {
            "perimeters": self.perimeters, "infill": self.infill, "reserve": self.reserve, "case": self.case,
            "mass_g": self.mass,
        }  # fmt: skip


def explored(
    mesh: Mesh,
    faces: Faces | None,
    loads: LoadSet,
    process: Process,
    up: Array,
    around: Circumstances,
    factor: float = 1.0,
    perimeters: tuple[int, ...] = PERIMETERS,
    infills: tuple[float, ...] = INFILLS,
    voxel_count: int | None = None,
) -> Iterator[Filled]:
    """Each pair solved with its own walls, skins and core in the layers normal to ``up``, on the coarse grid: good for
    comparing pairs, not for a last word. A hollow part (infill 0) keeps its shell only, and may have pieces that hang
    together by too little to be calculated: that is told of the pair. Raises ``bad_loads``.
    """
    check_cases(mesh, faces, loads, process.stock.density)
    for lines in perimeters:
        for infill in infills:
            made = replace(process, perimeters=lines, infill=infill)
            try:
                found = stressed(mesh, faces, loads, made, around, voxel_count or COARSE, up)
            except InputError as error:
                voxels = filled(mesh, size_for(mesh, voxel_count or COARSE))
                mass = float(fill_for(mesh, voxels, made, up, False).mass.sum(dtype=float))
                yield Filled(lines, infill, None, error.message, 1e6 * mass)
                continue
            worst = min(reserves(found, made.stock, up, factor), key=lambda r: r.reserve or 1e9)
            yield Filled(lines, infill, worst.reserve, worst.name, 1e6 * found.mass)
