"""The facts of a part as it came in."""

from dataclasses import dataclass, field

import numpy as np

from hewel_engine.errors import Note
from hewel_engine.geometry.crossings import crossing_notes
from hewel_engine.geometry.features import Bore, Flat, find_bores, find_flats
from hewel_engine.geometry.mending import count_bodies, hollow_notes
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.rays import RayScene
from hewel_engine.geometry.surfaces import Surfaces


@dataclass
class Facts:
    mesh: Mesh
    bodies: int
    bores: list[Bore] | None
    """None while nobody has looked for them: it is the longest part of the search."""
    flats: list[Flat]
    notes: list[Note] = field(default_factory=list)
    """What only a close look shows to be wrong with the surface."""

    def as_dict(self) -> dict:
        """Contract keys of ``facts``; volume is None where the surface is open."""
        m = self.mesh
        return {
            "triangles": len(m.faces),
            "bodies": self.bodies,
            "watertight": m.closed,
            "volume_mm3": m.volume if m.closed else None,
            "area_mm2": float(m.areas.sum()),
            "bbox_mm": m.box.tolist(),
            "centre_of_mass_mm": m.centre_of_mass.tolist(),
            "bores": self.bores
            and [
                {
                    "centre_mm": b.centre.tolist(),
                    "axis": b.axis.tolist(),
                    "diameter_mm": b.diameter,
                    "depth_mm": b.depth,
                    "through": b.through,
                }
                for b in self.bores
            ],
            "flats": [
                {"normal": f.normal.tolist(), "area_mm2": f.area, "centre_mm": f.centre.tolist()} for f in self.flats
            ],
        }

    def feature_of_facet(self) -> np.ndarray:
        """(m,) int16: 1 + i for bore i, −1 − j for flat j, 0 for neither."""
        out = np.zeros(len(self.mesh.faces), np.int16)
        for j, f in enumerate(self.flats):
            out[f.facets] = -1 - j
        for i, b in enumerate(self.bores or []):
            out[b.facets] = 1 + i
        return out


def first_facts(mesh: Mesh, surfaces: Surfaces | None = None) -> Facts:
    """What is known at once: all but the bores."""
    return Facts(mesh, count_bodies(mesh), None, find_flats(mesh, surfaces=surfaces))


def facts_of(
    mesh: Mesh, rays: RayScene | None = None, surfaces: Surfaces | None = None, first: Facts | None = None
) -> Facts:
    """Bodies, bores and flats; with the exact ``surfaces`` of its facets where the file named them.

    ``first`` are the first facts of the same mesh, where they are known already.
    """
    first, rays = first or first_facts(mesh, surfaces), rays or RayScene(mesh)
    notes = [*hollow_notes(mesh), *crossing_notes(mesh, rays)]
    return Facts(mesh, first.bodies, find_bores(mesh, rays, surfaces), first.flats, notes)
