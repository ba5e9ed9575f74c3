"""A part as it stands on the plate: its mesh, its layers, what of it hangs; how a region is known again. Lengths mm."""

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from manifold3d import Manifold

from hewel_engine.edits.solids import mesh_of, solid_of
from hewel_engine.edits.undersides import Underside, joined_undersides
from hewel_engine.geometry.features import Bore, find_bores
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.rays import RayScene
from hewel_engine.geometry.sections import LayerStack, Pose
from hewel_engine.overhangs.duties import ROUND_LYING
from hewel_engine.overhangs.truth import Overhang, Truth, truth_of
from hewel_engine.processes import Process
from hewel_engine.walls.zones import Zone

UP = np.array([0.0, 0.0, 1.0])


@dataclass(frozen=True, eq=False)
class PlacedPart:
    """A part on the plate as it is now: its mesh (z up, the plate at 0) and what of it hangs."""

    mesh: Mesh
    process: Process
    bores: list[Bore]
    rays: RayScene
    stack: LayerStack
    truth: Truth

    @classmethod
    def of(cls, mesh: Mesh, process: Process, bores: list[Bore] | None = None) -> "PlacedPart":
        rays = RayScene(mesh)
        bores = find_bores(mesh, rays) if bores is None else bores
        stack = LayerStack(mesh, UP, process.layer)
        return cls(mesh, process, bores, rays, stack, truth_of(stack, process, bores, rays))

    @classmethod
    def stood(cls, mesh: Mesh, up: Array, process: Process, bores: list[Bore]) -> tuple["PlacedPart", Pose]:
        """A part stood on the plate, and where that is. Raises InputError ``not_closed``."""
        pose = Pose.of(LayerStack(mesh, np.asarray(up, float), process.layer))
        return cls.of(pose.standing(mesh), process, over_plate(bores, pose)), pose

    @classmethod
    def after(cls, solid: Manifold, process: Process) -> "PlacedPart":
        return cls.of(mesh_of(solid), process)

    @property
    def middle(self) -> Array:
        """(2,) what a stack takes off every plan."""
        return self.mesh.box.mean(axis=0)[:2]

    @cached_property
    def solid(self) -> Manifold:
        return solid_of(self.mesh)

    def wanting(self, every_bore: bool, fits: list[Bore]) -> list[int]:
        """Numbers of the regions that need something: support, or a roof that keeps a lying bore round, where that is
        one of the ``fits`` or ``every_bore`` is to be kept so.
        """
        return [
            i for i, r in enumerate(self.truth.regions)
            if r.needs_support or (self._loses_its_round(r) and (every_bore or self._fitted(r, fits)))
        ]  # fmt: skip

    def _loses_its_round(self, region: Overhang) -> bool:
        return region.kind == "bore_roof" and self.bores[region.bore].diameter > ROUND_LYING

    def _fitted(self, region: Overhang, fits: list[Bore]) -> bool:
        own = self.bores[region.bore]
        return any(
            np.linalg.norm(own.centre - b.centre) < own.diameter / 2 and abs(own.axis @ b.axis) > 0.99 for b in fits
        )

    def undersides(self, region: Overhang) -> list[Underside]:
        return joined_undersides(self.mesh, region.facets)


def over_plate(bores: list[Bore] | tuple[Bore, ...], pose: Pose) -> list[Bore]:
    """Bores of the part's own frame where the part stands."""
    return [replace(b, centre=pose.over_plate(b.centre), axis=pose.turn @ b.axis) for b in bores]


def same_region(a: Overhang, b: Overhang) -> bool:
    """Whether two checks tell of the same region: its kind, and its place within ``reach_of`` it."""
    return a.kind == b.kind and float(np.linalg.norm(a.centre - b.centre)) <= max(reach_of(a), reach_of(b))


def reach_of(region: Overhang | Zone) -> float:
    """mm from the middle of a region, or of a wall, within which another look's is the same one."""
    return max(1.0, float(np.sqrt(region.area)) / 3)
