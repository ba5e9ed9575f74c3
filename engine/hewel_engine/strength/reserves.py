"""What a build direction makes of the stresses: reserve, mode, place, the demand of every layer, the sentence."""

import math
from dataclasses import dataclass

import numpy as np
from numba import njit

from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.materials import Material
from hewel_engine.printing.paths import layer_cores
from hewel_engine.processes import Process, layers_below
from hewel_engine.strength.allowables import Factor, product, strengths
from hewel_engine.strength.criterion import Strengths, indices, on_layers, von_mises, worst_by_direction
from hewel_engine.strength.lines import Lie
from hewel_engine.strength.statics import Cut, Section, ledgers, sections_along
from hewel_engine.strength.stressing import CaseStress, Stressed

FINER = 2.0
"""Times finer, at least, that a point was read in a window than on the whole part's voxels."""
BANDS = ((40_000, 0.4, 1.15), (100_000, 0.45, 1.15), (math.inf, 0.6, 1.4))
"""By voxels of material: the least and the most that a least reserve became, of what it was there, once its worst
places were read closely (see docs/refining.md); finer voxels find the peaks and the sparse core of thin walls."""
SETTLED = 0.03
"""Share by which even a settled answer may be off."""
MODE_WORDS = {
    "interlayer_tension": "splits between layers",
    "interlayer_shear": "shears between layers",
    "interlayer_mixed": "splits and shears between layers",
    "in_layer": "breaks across the lines of a layer",
    "compression": "fails by compression in the layer",
}


@dataclass(frozen=True)
class Reserve:
    """A case in one build direction. ``reserve`` None where no load acts; MPa, mm."""

    name: str
    up: tuple[float, float, float]
    reserve: float | None
    mode: str
    stress: float
    at: tuple[float, float, float]
    z: float
    """Height above the plate."""
    peak: dict[str, float]
    deflection: float

    def as_dict(self) -> dict:
        return {
            "name": self.name, "up": list(self.up), "reserve": self.reserve, "mode": self.mode,
            "stress_mpa": self.stress, "at_mm": list(self.at), "z_mm": self.z, "peak": self.peak,
            "deflection_mm": self.deflection,
        }  # fmt: skip

    @property
    def sentence(self) -> str:
        """How it fails, in words."""
        place = ", ".join(f"{x:.1f}" for x in self.at)
        rf = "no load acts" if self.reserve is None else f"RF {self.reserve:.2f}"
        return (
            f"{MODE_WORDS[self.mode]} at {self.z:.1f} mm above the plate, near ({place}) mm, under “{self.name}”, {rf}"
        )


@dataclass(frozen=True, eq=False)
class CriticalPoints:
    """The points of a case that can decide it: ``stress`` (k, 6) MPa at ``places`` (k, 3) mm of the part, where lines
    ``lie`` so; ``deflection`` mm at most.
    """

    name: str
    places: Array
    lie: Lie
    stress: Array
    deflection: float
    reach: Array
    """(k,) mm up and down that each stands for."""

    def within(self, rows: np.ndarray) -> "CriticalPoints":
        at, lie = self.places[rows], self.lie.within(rows)
        return CriticalPoints(self.name, at, lie, self.stress[rows], self.deflection, self.reach[rows])

    def layers(self, up: Array, plate: float, pitch: float, count: int) -> tuple[np.ndarray, np.ndarray]:
        """The first and the last layer (k,) that each stands for. A point stands for its voxel, or thin layers would
        miss it.
        """
        height = self.places @ up - plate
        first, last = (np.clip(((height + s * self.reach) / pitch).astype(int), 0, count - 1) for s in (-1, 1))
        return first, last


@dataclass(frozen=True, eq=False)
class LayerWelds:
    """Of every layer of a part on the plate, (count,), the share of the coupon's strength that its weld to the one
    below keeps, and the lower edge of its band; ``pitch`` mm.
    """

    value: Array
    low: Array
    pitch: float

    def at(self, case: CriticalPoints, up: Array, plate: float, bound: str = "value") -> Array:
        """(k,) the least of the layers that each point stands for."""
        rows = getattr(self, bound)
        first, last = case.layers(up, plate, self.pitch, len(rows))
        return np.array([rows[a : b + 1].min() for a, b in zip(first, last, strict=True)])


def critical_points(found: Stressed, row: CaseStress) -> CriticalPoints:
    """A case at all points that count."""
    keep, at = found.kept, found.points
    most = float(np.linalg.norm(row.answered.displacement, axis=1).max())
    # Half of what it was read on: a voxel, or finer where a window was laid.
    reach = np.where(at.cells[keep] < 0, 0.5 / FINER, 0.5) * found.size
    stress = row.stress[keep].astype(float)
    return CriticalPoints(row.case.name, at.places[keep], at.lie.within(keep), stress, most, reach)


def allowed(material: Material, factors: list[Factor], bound: str = "value") -> Strengths:
    """The strengths of a case, the factors on the weld counted in."""
    return strengths(material, bound).times(1.0, product(factors, "across"), product(factors, "along"))


def kept_back(factors: list[Factor], factor: float) -> float:
    """What multiplies 1/index to a reserve: Π k_i / γ of the factors on all strengths."""
    return product(factors, "all") / factor


def band_of(voxel_count: int, change: float | None) -> tuple[float, float]:
    """What the least reserve of a grid of so many voxels may still become, as factors on it: by the last refinement's
    ``change`` of the index and once more, downward; None where nothing was refined, see BANDS.
    """
    if change is None:
        return next((low, high) for most, low, high in BANDS if voxel_count <= most)
    step = 1 + max(change, SETTLED)
    return 1 / step if change <= 2 * SETTLED else 1 / step**2, step


def plate_of(found: Stressed, up: Array) -> float:
    """mm along ``up`` at which the part stands on the plate."""
    return float(found.mesh.extents(np.asarray(up, float)[None])[0][0])


def reserves(
    found: Stressed, material: Material, up: Array, factor: float = 1.0, bound: str = "value"
) -> list[Reserve]:
    """Every case on the layers normal to ``up`` (3,)."""
    plate = plate_of(found, up)
    return [
        reserve_of(
            critical_points(found, row),
            up,
            plate,
            allowed(material, row.factors, bound),
            kept_back(row.factors, factor),
        )
        for row in found.cases
    ]


def reserve_of(case: CriticalPoints, up: Array, plate: float, strength: Strengths, kept: float = 1.0) -> Reserve:
    """A case on the layers normal to ``up``, with the part's lowest point at ``plate`` mm along it; ``kept`` is what
    multiplies 1/index.
    """
    stress = case.stress
    used = indices(stress, up, strength, case.lie)
    worst = used.worst
    k = int(np.argmax(worst))
    mode = used.mode(k)
    on, mises = on_layers(stress, up), von_mises(stress)
    acts = {
        "interlayer_tension": on.across[k], "interlayer_shear": on.between[k],
        "interlayer_mixed": float(np.hypot(on.across[k], on.between[k])),
        "in_layer": max(on.greatest[k], mises[k]), "compression": max(-on.least[k], -on.across[k]),
    }  # fmt: skip
    peak = {
        "interlayer_tension_mpa": float(np.maximum(on.across, 0).max()),
        "interlayer_shear_mpa": float(on.between.max()),
        "in_layer_mpa": float(np.maximum(on.greatest, 0).max()),
        "von_mises_mpa": float(mises.max()),
    }
    none = worst[k] < 1e-9
    return Reserve(
        case.name,
        tuple(float(x) for x in up),
        None if none else float(kept / worst[k]),
        mode,
        float(acts[mode]),
        tuple(float(x) for x in case.places[k]),
        float(case.places[k] @ up - plate),
        peak,
        case.deflection,
    )


def least_everywhere(found: Stressed, material: Material, up: Array, factor: float = 1.0) -> tuple[Array, Array]:
    """Places (k, 3) mm that count, and at each the least reserve (k,) of all cases on the layers normal to ``up``."""
    least = np.full(int(found.kept.sum()), np.inf)
    for row in found.cases:
        case = critical_points(found, row)
        used = indices(case.stress, up, allowed(material, row.factors), case.lie).worst
        least = np.minimum(least, kept_back(row.factors, factor) / np.maximum(used, 1e-9))
    return found.points.places[found.kept], least


def field(found: Stressed, material: Material, ups: Array, factor: float = 1.0) -> Array:
    """(cases, d) reserve of every case for every direction of ``ups`` (d, 3)."""
    out = []
    for row in found.cases:
        case = critical_points(found, row)
        worst = worst_by_direction(case.stress, ups, allowed(material, row.factors), case.lie)
        out.append(kept_back(row.factors, factor) / np.maximum(worst.index, 1e-9))
    return np.array(out)


def demand(found: Stressed, row: CaseStress, material: Material, up: Array, layer: float, factor: float = 1.0) -> Array:
    """(layers,) greatest share of the allowed strength that anything in the layer uses: 1 is the limit, 0 where no
    point lies.
    """
    case = critical_points(found, row)
    low, high = (e[0] for e in found.mesh.extents(np.asarray(up, float)[None]))
    count = max(1, layers_below(high - low, layer))
    used = indices(case.stress, up, allowed(material, row.factors), case.lie).worst / kept_back(row.factors, factor)
    return worst_in_layers(case, used, up, low, layer, count)[0]


def worst_in_layers(
    case: CriticalPoints, used: Array, up: Array, plate: float, pitch: float, count: int
) -> tuple[Array, np.ndarray]:
    """(count,) the greatest of ``used`` (k,) in every layer, 0 where no point lies; and the point that it is, or −1."""
    worst, rows = np.zeros(count), np.full(count, -1)
    _raised(*case.layers(up, plate, pitch, count), np.asarray(used, float), worst, rows)
    return worst, rows


@njit(cache=True, nogil=True)
def _raised(first, last, values, worst, rows):
    for p in range(len(values)):
        for k in range(first[p], last[p] + 1):
            if values[p] > worst[k]:
                worst[k], rows[k] = values[p], p


@dataclass(frozen=True, eq=False)
class SectionedPart:
    """A part standing in one direction: its layers, and the section of each."""

    stack: LayerStack
    sections: list[Section | None]


def sectioned(mesh: Mesh, up: Array, process: Process, solid: bool = False) -> SectionedPart:
    """Where the part has a core, sections count the shell in full and the core by φ^m."""
    stack = LayerStack(mesh, np.asarray(up, float), process.layer)
    cores = None if solid or process.infill >= 1 else layer_cores(stack, process)
    return SectionedPart(stack, sections_along(stack, cores, process.infill**process.stiffness_power))


def cuts_of(found: Stressed, on: SectionedPart) -> list[list[Cut]]:
    """The section ledger of every case: statics of its loads and of what the held faces answer to them."""
    return ledgers(on.stack, on.sections, [acting_in(found, row) for row in found.cases])


def sections_of(found: Stressed, on: SectionedPart) -> list[dict]:
    """The same as rows with the names of the cases."""
    rows = zip(found.cases, cuts_of(found, on), strict=True)
    return [{"case": row.case.name} | cut.as_dict() for row, own in rows for cut in own]


def acting_in(found: Stressed, row: CaseStress) -> tuple[Array, Array]:
    """Points (k, 3) mm and forces (k, 3) N of a case: its loads and what the held faces answer; they balance."""
    points = np.concatenate([row.answered.loading.points, found.model.footing.points])
    return points, np.concatenate([row.answered.loading.forces, row.answered.answers])
