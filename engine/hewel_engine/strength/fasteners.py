"""What each fastener of a case has to hold: pull along it, shear across, prying, and the pressure of its washer.

From the answers of the washer's disc in the finite elements. N, N·mm, MPa.
"""

from dataclasses import dataclass

import numpy as np

from hewel_engine.geometry.rays import RayScene
from hewel_engine.loads.cases import Hold
from hewel_engine.materials import Material
from hewel_engine.strength.stressing import CaseStress, Stressed

PRESSURE_SHARE = 0.5
"""Share of Z_c that a washer may press (plastic creeps away under more)."""


@dataclass(frozen=True)
class Fastener:
    """``pull`` along the bolt, positive where it holds the part down; ``pressure`` greatest under the washer, MPa, of
    which ``pressure_limit`` is allowed; ``through`` MPa shear on the cylinder under the washer's rim, None where
    nothing pulls.
    """

    name: str
    pull: float
    shear: float
    prying: float
    pressure: float
    pressure_limit: float
    thickness: float
    through: float | None

    def as_dict(self) -> dict:
        return {
            "name": self.name, "pull_n": self.pull, "shear_n": self.shear, "prying_nmm": self.prying,
            "pressure_mpa": self.pressure, "pressure_limit_mpa": self.pressure_limit,
            "thickness_mm": self.thickness, "pull_through_mpa": self.through,
        }  # fmt: skip


def fasteners(found: Stressed, row: CaseStress, holds: list[Hold], material: Material) -> list[Fastener]:
    """Every bolted hold of a case."""
    out, foot, rays = [], found.model.footing, RayScene(found.mesh)
    for i, hold in enumerate(holds):
        if hold.washer is None:
            continue
        rows = foot.hold == i
        normal = np.average(foot.normals[rows], axis=0, weights=foot.areas[rows])
        normal /= np.linalg.norm(normal)
        answers, centre = row.answered.answers[rows], np.array(hold.washer.centre)
        force = answers.sum(axis=0)
        pull = -float(force @ normal)  # the washer pushes back into the part where the part pulls at the bolt
        shear = float(np.linalg.norm(force + pull * normal))
        moment = np.cross(foot.points[rows] - centre, answers).sum(axis=0)
        prying = float(np.linalg.norm(moment - (moment @ normal) * normal))
        # Even pressure and the prying moment's over a disc: p = F/A + M/W, W = π·d³/32.
        d = hold.washer.outer
        area, modulus = float(foot.areas[rows].sum()), np.pi * d**3 / 32
        pressure = max(pull, 0.0) / area + prying / modulus
        rim = centre + 0.45 * d * _across(normal)
        thickness = float(rays.distances((rim - 1e-3 * normal)[None], -normal)[0])
        through = pull / (np.pi * d * thickness) if pull > 0 and np.isfinite(thickness) and thickness > 0 else None
        name = hold.on.name or f"bolt {len(out) + 1}"
        limit = PRESSURE_SHARE * float(material.z_c)
        out.append(Fastener(name, pull, shear, prying, pressure, limit, thickness, through))
    return out


def _across(normal: np.ndarray) -> np.ndarray:
    out = np.cross(normal, np.eye(3)[int(np.argmin(np.abs(normal)))])
    return out / np.linalg.norm(out)
