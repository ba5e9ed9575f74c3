"""What a solution tells of one build direction, and of all of them: small enough to be kept and read again.

Nothing told here holds a knock-down on all strengths or a required factor: RF = told · Π k_i / γ, so they can be
changed without another solution. Factors on the weld and on the load are in.
"""

from dataclasses import dataclass

import numpy as np

from hewel_engine.geometry.mesh import Array
from hewel_engine.loads.cases import Hold
from hewel_engine.materials import Material
from hewel_engine.processes import Process
from hewel_engine.strength.criterion import indices, on_layers, principal, von_mises, worst_by_direction
from hewel_engine.strength.fasteners import fasteners
from hewel_engine.strength.lattice import tie
from hewel_engine.strength.lines import OUTLINE, Lie
from hewel_engine.strength.reserves import (
    CriticalPoints,
    SectionedPart,
    allowed,
    critical_points,
    cuts_of,
    demand,
    kept_back,
    plate_of,
    worst_in_layers,
)
from hewel_engine.strength.statics import perforated
from hewel_engine.strength.stressing import CaseStress, Stressed

SECTION = (
    "layer", "z_mm", "area_mm2", "normal_force_n", "bending_nmm", "shear_n", "torque_nmm", "sigma_max_mpa",
    "sigma_min_mpa", "tau_max_mpa",
)  # fmt: skip
FIGURES = 6
"""Significant figures that are kept."""


@dataclass(frozen=True)
class Movement:
    """A permitted movement: of ``point`` (3,) mm along ``direction`` (3,), under the case so named, or under any."""

    point: tuple[float, float, float]
    direction: tuple[float, float, float]


def moved(found: Stressed, row: CaseStress, movements: list[Movement]) -> list[float]:
    """mm that each point moves along its direction."""
    if not movements:
        return []
    model = found.model
    ties = tie(model.lattice, model.grid, np.array([m.point for m in movements], float))
    motion = ties.at(model.lattice, row.answered.displacement)
    return [float(u @ np.array(m.direction)) for u, m in zip(motion, movements, strict=True)]


def decisive(case: CriticalPoints, up: Array, also: np.ndarray) -> CriticalPoints:
    """The points that a material of whatever strengths fails at first on these layers, by whatever way; and the rows
    ``also``.
    """
    on, lines, p = on_layers(case.stress, up), case.lie.across(case.stress, up), principal(case.stress)
    mises, pulls = von_mises(case.stress), p[:, 2] + p[:, 0] >= 0
    crossed = np.where(case.lie.crossed(up), on.greatest, 0.0)
    kinds = (on.across, on.between, on.greatest, crossed, -on.least, -on.across, lines, mises * pulls, mises * ~pulls)
    rows = {int(np.argmax(kind)) for kind in kinds}
    rows |= set(_outermost(np.maximum(on.across, 0) ** 2, on.between**2))
    return case.within(np.array(sorted(rows | set(also[also >= 0].tolist()))))


def _outermost(x: Array, y: Array) -> list[int]:
    """Places of the points (x, y) ≥ 0 that are greatest in a·x + b·y for some a, b > 0: a corner of the hull's chain
    (Andrew's monotone chain over the points that no other passes in both).
    """
    order = np.lexsort((-y, -x))
    ahead = np.r_[-np.inf, np.maximum.accumulate(y[order])[:-1]]
    chain: list[int] = []
    for i in order[y[order] > ahead]:
        while len(chain) > 1:
            a, b = chain[-2], chain[-1]
            if (x[b] - x[a]) * (y[i] - y[a]) - (y[b] - y[a]) * (x[i] - x[a]) > 0:
                break
            chain.pop()
        chain.append(int(i))
    return chain


def serialized(
    found: Stressed,
    process: Process,
    on: SectionedPart,
    holds: list[Hold],
    movements: list[Movement],
) -> dict:
    """Every case on the layers that the part stands ``on``, as plain JSON: the points it would fail at
    (``critical_points``; among them the one nearest to parting in every layer, so that each layer may have a weld of
    its own), the ``demand`` of every layer (share of the strength used), the same by the section sweep
    (``by_section``), its columns (``sections``), how far points move, what the fasteners hold.
    """
    stack, up = on.stack, on.stack.up
    cases = []
    for row, cuts in zip(found.cases, cuts_of(found, on), strict=True):
        strength = allowed(process.stock, row.factors)
        kept = kept_back(row.factors, 1.0)
        by_section = np.zeros(stack.count)
        for cut in cuts:
            pull, shear = max(cut.sigma_max, 0.0) / strength.z_t, cut.tau_max / strength.z_s
            by_section[cut.layer] = max(np.hypot(pull, shear), max(-cut.sigma_min, 0.0) / strength.z_c)
        rows = [cut.as_dict() for cut in cuts]
        case = critical_points(found, row)
        parting = indices(case.stress, up, strength, case.lie).interlayer
        of_layers = worst_in_layers(case, parting, up, plate_of(found, up), process.layer, stack.count)[1]
        cases.append(
            {
                "felt": packed(decisive(case, up, of_layers)),
                "demand": _short(kept * demand(found, row, process.stock, up, process.layer)),
                "by_section": _short(by_section),
                "sections": {name: _short([r[name] for r in rows]) for name in SECTION},
                "moved_mm": _short(moved(found, row, movements)),
                "fasteners": [f.as_dict() for f in fasteners(found, row, holds, process.stock, up)],
            }
        )
    return {
        "up": up.tolist(),
        "plate_mm": plate_of(found, up),
        "own_layers": found.up is not None,
        "voxel_mm": found.size,
        "cubes": len(found.model.lattice),
        "excluded_mm": list(found.zones),
        "layer_mm": stack.pitch,
        "first_mm": stack.first,
        "area_mm2": _short(stack.integrals[:, 0]),
        "mass_g": 1e6 * found.mass,
        "change": found.change,
        "notes": list(found.notes),
        "perforated": [p.as_dict() for p in perforated(stack)],
        "cases": cases,
    }


def all_directions(found: Stressed, process: Process, ups: Array) -> list[tuple[Array, CriticalPoints]]:
    """For every case the reserve (d,) of every direction, and the points that decide it in one of them."""
    out = []
    for row in found.cases:
        case = critical_points(found, row)
        worst = worst_by_direction(case.stress, ups, allowed(process.stock, row.factors), case.lie)
        kept = kept_back(row.factors, 1.0)
        out.append((kept / np.maximum(worst.index, 1e-9), case.within(worst.rows)))
    return out


def field_of(
    cases: list[CriticalPoints], material: Material, factors: list[list], ups: Array, bound: str = "value"
) -> Array:
    """(cases, d) reserve for directions ``ups`` (d, 3), from the points that were kept: exact in the directions that
    they were kept for, and between them as near as those lie to each other; ``bound`` of the strengths.
    """
    out = []
    for case, lines in zip(cases, factors, strict=True):
        worst = worst_by_direction(case.stress, ups, allowed(material, lines, bound), case.lie)
        out.append(1 / np.maximum(worst.index, 1e-9))
    return np.array(out).reshape(len(cases), len(ups))


def packed(case: CriticalPoints) -> dict:
    return {
        "name": case.name, "places": _short(case.places), "normals": _short(case.lie.normals),
        "lie": case.lie.kinds.tolist(), "stress": _short(case.stress), "deflection": case.deflection,
        "reach": _short(case.reach),
    }  # fmt: skip


def unpacked(row: dict) -> CriticalPoints:
    """What was packed; where it does not say how lines lie, only what lies beside the outline was ever told apart."""
    column = lambda name, width: np.array(row[name], float).reshape(-1, width)
    normals = column("normals", 3)
    lie = Lie(normals, np.array(row.get("lie", np.full(len(normals), OUTLINE))))
    reach = np.array(row.get("reach", np.zeros(len(normals))))
    return CriticalPoints(row["name"], column("places", 3), lie, column("stress", 6), row["deflection"], reach)


def _short(values) -> list:
    """Rounded to FIGURES significant figures."""
    values = np.asarray(values, float)
    if values.ndim > 1:
        return [_short(row) for row in values]
    return [float(f"{v:.{FIGURES}g}") for v in values]
