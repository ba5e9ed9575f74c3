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
"""Share of Z_c, or X_c for a bolt that lies in the layers, that a washer may press (plastic creeps away under more);
less where the material's own creep allows less.
"""
LIES = 0.5
"""Cosine between bolt and build direction below which it presses more along the layers than across them."""


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


def presses_across(axis: np.ndarray, up: np.ndarray) -> bool:
    """Whether steel along ``axis`` presses across the layers, not along them."""
    return abs(float(np.dot(axis, up))) > LIES


def may_press(material: Material, across: bool) -> float:
    """MPa that steel may press for good, ``across`` the layers or along them."""
    return min(PRESSURE_SHARE, float(material.creep)) * float(material.z_c if across else material.x_c)


def pressed(pull: float, prying: float, outer: float, area: float) -> float:
    """MPa at the harder pressed rim of a ring ``area`` mm² large and ``outer`` mm wide under a force and a moment about
    a diameter: N/A + M/W, W = π(d_o⁴ − d_i⁴)/(32 d_o), while all of it presses (M/N ≤ W/A, the kern); beyond, a washer
    cannot pull, and the force stands on what is left of its width, spread as a triangle over 3·(d_o/2 − M/N).
    """
    inner2 = max(outer**2 - 4 * area / np.pi, 0.0)
    modulus = np.pi * (outer**4 - inner2**2) / (32 * outer)
    if pull <= 0:
        return prying / modulus
    off = prying / pull
    if off <= modulus / area:
        return pull / area + prying / modulus
    wide = max(3 * (outer / 2 - off), outer / 50)
    return 2 * pull / (area * min(wide / outer, 1.0))


def fasteners(
    found: Stressed, row: CaseStress, holds: list[Hold], material: Material, up: np.ndarray
) -> list[Fastener]:
    """Every bolted hold of a case, on layers normal to ``up``."""
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
        d = hold.washer.outer
        pressure = pressed(max(pull, 0.0), prying, d, float(foot.areas[rows].sum()))
        rim = centre + 0.45 * d * _across(normal)
        thickness = float(rays.distances((rim - 1e-3 * normal)[None], -normal)[0])
        through = pull / (np.pi * d * thickness) if pull > 0 and np.isfinite(thickness) and thickness > 0 else None
        name = hold.on.name or f"bolt {len(out) + 1}"
        limit = may_press(material, presses_across(normal, up))
        out.append(Fastener(name, pull, shear, prying, pressure, limit, thickness, through))
    return out


def _across(normal: np.ndarray) -> np.ndarray:
    out = np.cross(normal, np.eye(3)[int(np.argmin(np.abs(normal)))])
    return out / np.linalg.norm(out)
