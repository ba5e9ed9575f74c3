"""Where a surface passes through itself: edges that pierce a facet which is none of their neighbours."""

import numpy as np

from hewel_engine.errors import Note
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.rays import RayScene

CLEAR_SHARE = 2e-5
"""Both ends of a piercing edge stand off the facet's plane by this share of the diagonal: touching is no crossing."""


def piercing_edges(mesh: Mesh, rays: RayScene) -> int:
    """How many edges pierce a facet. An edge that pierces several counts once; one ray an edge is shot."""
    sides = np.concatenate([mesh.faces[:, [0, 1]], mesh.faces[:, [1, 2]], mesh.faces[:, [2, 0]]])
    ends = sides[sides[:, 0] < sides[:, 1]]  # of a closed mesh every edge once
    start, along = mesh.vertices[ends[:, 0]], mesh.vertices[ends[:, 1]] - mesh.vertices[ends[:, 0]]
    length = np.linalg.norm(along, axis=1)
    clear = CLEAR_SHARE * mesh.diagonal
    long = length > 4 * clear
    start, along, ends, length = start[long], along[long] / length[long, None], ends[long], length[long]
    hit = rays.facets(start + clear * along, along)
    rows = np.flatnonzero(hit >= 0)
    facet, ends = hit[rows], ends[rows]
    strangers = ~(mesh.faces[facet][:, :, None] == ends[:, None, :]).any(axis=(1, 2))
    height = ((mesh.vertices[ends] - mesh.triangles[facet, :1]) * mesh.normals[facet][:, None]).sum(axis=2)
    through = (height.min(axis=1) < -clear) & (height.max(axis=1) > clear)
    return int((strangers & through).sum())


def crossing_notes(mesh: Mesh, rays: RayScene) -> list[Note]:
    count = piercing_edges(mesh, rays)
    if not count:
        return []
    return [
        Note(
            "self_crossing",
            f"The surface passes through itself ({count:,} edges pierce other facets): volume, layers and time count "
            "double or miss there. Unite the bodies in the program that made them, and export again.",
        )
    ]
