"""A part as a solid that can be added to and cut, standing on the plate. Lengths mm."""

import numpy as np
import shapely
from manifold3d import CrossSection, Error, Manifold, Mesh64

from hewel_engine.errors import InputError
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.plans import loops_of

SHIFT = 1e-3
"""Share of its volume by which a part may change when what overlaps in it is united."""
DUST = 1e-4
"""mm³ of a shell that encloses nothing."""


def solid_of(mesh: Mesh) -> Manifold:
    """The solid that a closed ``mesh`` bounds. Raises InputError ``not_closed`` where it bounds none."""
    if not mesh.closed:
        raise InputError(
            "not_closed",
            "The surface is open, so there is no solid to change.",
            "Close it in the program that made it, or import it again with its holes filled.",
        )
    solid = Manifold(
        Mesh64(vert_properties=np.array(mesh.vertices), tri_verts=np.ascontiguousarray(mesh.faces, np.uint64))
    )
    if solid.status() != Error.NoError or abs(solid.volume() - mesh.volume) > SHIFT * abs(mesh.volume):
        raise InputError(
            "not_closed",
            "The surface crosses itself, so what is inside it is not certain; it was left as it is.",
            "Unite its bodies in the program that made it, and export it again.",
        )
    return solid


def mesh_of(solid: Manifold) -> Mesh:
    out = solid.to_mesh64()
    return Mesh(np.asarray(out.vert_properties)[:, :3].copy(), np.asarray(out.tri_verts).astype(np.int32))


def differing(before: Mesh, after: Mesh) -> tuple[Manifold, Manifold]:
    """What one solid has more than another, and what it lacks, both in the same frame; without the dust that faces
    leave which nearly coincide. Raises InputError ``not_closed``.
    """
    one, other = solid_of(before), solid_of(after)
    return dusted(other - one), dusted(one - other)


def made_by(solid: Manifold) -> np.ndarray:
    """(m,) number of the solid (``Manifold.original_id``) that each facet of ``mesh_of`` comes from."""
    out = solid.to_mesh64()
    return np.repeat(np.asarray(out.run_original_id), np.diff(np.asarray(out.run_index)) // 3).astype(np.int64)


def prism(plan: shapely.Geometry, low: float, high: float) -> Manifold:
    """What stands over polygons between two heights."""
    return Manifold.extrude(CrossSection(loops_of(plan)), high - low).translate((0, 0, low))


def bodies(solid: Manifold) -> int:
    """How many separate pieces of material there are; what a cavity bounds is none."""
    return sum(part.volume() > 0 for part in solid.decompose())


def dusted(solid: Manifold) -> Manifold:
    """The solid without shells that enclose nothing, which faces that nearly coincide leave behind."""
    parts = solid.decompose()
    kept = [part for part in parts if abs(part.volume()) > DUST]
    return Manifold.compose(kept) if 0 < len(kept) < len(parts) else solid


def sound(solid: Manifold) -> bool:
    """Whether an edit left a closed solid with something in it."""
    return solid.status() == Error.NoError and solid.num_tri() > 0 and solid.volume() > 0
