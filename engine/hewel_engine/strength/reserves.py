"""What a build direction makes of the stresses: reserve, mode, place, the demand of every layer, the sentence."""

from dataclasses import dataclass

import numpy as np

from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.materials import Material
from hewel_engine.printing.paths import layer_cores
from hewel_engine.processes import Process
from hewel_engine.strength.allowables import product, strengths
from hewel_engine.strength.criterion import Strengths, indices, on_layers, von_mises, worst_by_direction
from hewel_engine.strength.statics import ledger
from hewel_engine.strength.stressing import CaseStress, Stressed

MODE_WORDS = {
    "interlayer_tension": "splits between layers",
    "interlayer_shear": "shears between layers",
    "interlayer_mixed": "splits and shears between layers",
    "in_layer": "breaks across the lines of a layer",
    "compression": "is crushed",
}


@dataclass(frozen=True)
class Reserve:
    """A case in one build direction. ``reserve`` None where nothing is felt; MPa, mm."""

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
        rf = "no load felt" if self.reserve is None else f"RF {self.reserve:.2f}"
        return (
            f"{MODE_WORDS[self.mode]} at {self.z:.1f} mm above the plate, near ({place}) mm, under “{self.name}”, {rf}"
        )


def allowed(material: Material, row: CaseStress, bound: str = "value") -> Strengths:
    """The strengths of a case, the factors on the weld counted in."""
    return strengths(material, bound).times(1.0, product(row.factors, "across"))


def kept_back(row: CaseStress, factor: float) -> float:
    """What multiplies 1/index to a reserve: Π k_i / γ of the factors on all strengths."""
    return product(row.factors, "all") / factor


def reserves(
    found: Stressed, material: Material, up: Array, factor: float = 1.0, bound: str = "value"
) -> list[Reserve]:
    """Every case on the layers square to ``up`` (3,)."""
    return [reserve_of(found, row, material, up, factor, bound) for row in found.cases]


def reserve_of(
    found: Stressed, row: CaseStress, material: Material, up: Array, factor: float = 1.0, bound: str = "value"
) -> Reserve:
    places, stress = found.points.places[found.kept], row.stress[found.kept].astype(float)
    strength = allowed(material, row, bound)
    used = indices(stress, up, strength)
    worst = used.worst
    k = int(np.argmax(worst))
    mode = used.mode(k)
    felt, mises = on_layers(stress, up), von_mises(stress)
    acts = {
        "interlayer_tension": felt.across[k], "interlayer_shear": felt.between[k],
        "interlayer_mixed": float(np.hypot(felt.across[k], felt.between[k])),
        "in_layer": max(felt.greatest[k], mises[k]), "compression": max(-felt.least[k], -felt.across[k]),
    }  # fmt: skip
    low = found.mesh.extents(np.asarray(up, float)[None])[0][0]
    peak = {
        "interlayer_tension_mpa": float(np.maximum(felt.across, 0).max()),
        "interlayer_shear_mpa": float(felt.between.max()),
        "in_layer_mpa": float(np.maximum(felt.greatest, 0).max()),
        "von_mises_mpa": float(mises.max()),
    }
    none = worst[k] < 1e-9
    return Reserve(
        row.case.name,
        tuple(float(x) for x in up),
        None if none else float(kept_back(row, factor) / worst[k]),
        mode,
        float(acts[mode]),
        tuple(float(x) for x in places[k]),
        float(places[k] @ up - low),
        peak,
        float(np.linalg.norm(row.answered.displacement, axis=1).max()),
    )


def field(found: Stressed, material: Material, ups: Array, factor: float = 1.0) -> Array:
    """(cases, d) reserve of every case for every direction of ``ups`` (d, 3)."""
    out = []
    for row in found.cases:
        worst, _ = worst_by_direction(row.stress[found.kept].astype(float), ups, allowed(material, row))
        out.append(kept_back(row, factor) / np.maximum(worst, 1e-9))
    return np.array(out)


def demand(found: Stressed, row: CaseStress, material: Material, up: Array, layer: float, factor: float = 1.0) -> Array:
    """(layers,) greatest share of the allowed strength that anything in the layer uses: 1 is the limit, 0 where no
    point lies.
    """
    places, stress = found.points.places[found.kept], row.stress[found.kept].astype(float)
    low, high = (e[0] for e in found.mesh.extents(np.asarray(up, float)[None]))
    count = max(1, int(np.ceil((high - low) / layer - 0.5 - 1e-9)))
    k = np.clip(((places @ up - low) / layer).astype(int), 0, count - 1)
    out = np.zeros(count)
    np.maximum.at(out, k, indices(stress, up, allowed(material, row)).worst / kept_back(row, factor))
    return out


def sections_of(found: Stressed, stack: LayerStack, process: Process, solid: bool = False) -> list[dict]:
    """The section ledger of every case: statics of its loads and of what the held faces answer to them."""
    core = None if solid or process.infill >= 1 else layer_cores(stack, process)
    share = process.infill**process.stiffness_power
    out = []
    for row in found.cases:
        points = np.concatenate([row.answered.loading.points, found.model.footing.points])
        forces = np.concatenate([row.answered.loading.forces, row.answered.answers])
        for cut in ledger(stack, points, forces, core and core.__getitem__, share):
            out.append({"case": row.case.name} | cut.as_dict())
    return out
