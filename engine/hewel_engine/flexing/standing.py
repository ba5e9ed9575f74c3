"""Snaps that stand across their layers, found by themselves: arms with a catch at their free end."""

import numpy as np

from hewel_engine.errors import InputError
from hewel_engine.flexing.sums import STANDS
from hewel_engine.geometry.arms import Arm, arm_at
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.patches import Faces
from hewel_engine.geometry.rays import RayScene

UPRIGHT = 0.02
"""|normal·up| of the broad face of an arm that stands."""
SLENDER = 4.0
"""Lengths over its thickness from which on somebody drew it to bend."""
CATCHES = 0.15
"""Of its thickness: what stands out at its end from which on it is a catch."""
BROAD = 1.5
"""Of its height: the width from which on it is a wall."""
TALLEST = 60.0
"""mm of the longest arm that is a snap."""
LOOKS = 41
"""Places along a wall that are looked at for a catch."""
MOST_CATCH = 3.0
"""Thickness over its arm's at a catch, at most: what is thicker is the body, or a boss."""
MOST = 60
"""Faces that are looked at, the largest first: a part with more of them is no part with a few snaps."""


def _catches(rays: RayScene, middle: Array, normal: Array, up: Array, thick: float, tall: float, below: float) -> bool:
    """Whether something of the size of a catch stands out near either end of a wall so ``thick`` and ``tall``, that
    goes ``below`` mm down from its ``middle``: to be asked before it is walked along.
    """
    at = np.linspace(-0.5, 1.5, LOOKS) * tall - below
    spots = middle + at[:, None] * up
    thicks = sum(rays.distances(spots, np.tile(s * normal, (LOOKS, 1))) for s in (1.0, -1.0)) / thick
    return bool(np.any((thicks > 1 + CATCHES) & (thicks < MOST_CATCH)))


def standing_snaps(mesh: Mesh, faces: Faces, rays: RayScene, up: Array) -> list[tuple[Arm, Array, Array]]:
    """Each with a place on it and the normal there; the most slender first."""
    count = np.bincount(faces.face)
    stands = np.bincount(faces.face, np.abs(mesh.normals @ up) < UPRIGHT) == count
    area = np.bincount(faces.face, mesh.areas)
    found: list[tuple[Arm, Array, Array]] = []
    for label in sorted(np.flatnonzero(stands), key=lambda face: -area[face])[:MOST]:
        facets = np.flatnonzero(faces.face == label)
        normal = mesh.normals[facets[0]]
        if (mesh.normals[facets] @ normal).min() < 1 - 1e-6:
            continue
        at = mesh.centroids[facets[int(np.argmax(mesh.areas[facets]))]]
        corners = mesh.triangles[facets].reshape(-1, 3)
        heights, wide = corners @ up, np.ptp(corners @ np.cross(normal, up))
        tall = np.ptp(heights)
        thick = float(rays.distances((at - 2 * rays.step * normal)[None], -normal[None])[0])
        if wide > BROAD * tall or tall < SLENDER * thick or tall > TALLEST:
            continue  # a wall of a box is broad, a block is stout: neither is walked along
        if not _catches(rays, at - thick / 2 * normal, normal, up, thick, tall, at @ up - heights.min()):
            continue
        try:
            arm = arm_at(mesh, rays, at, normal)
        except InputError:
            continue
        slender = arm.length > SLENDER * arm.thickness and arm.thickness < arm.width
        upright = abs(float(arm.along @ up)) > np.sin(np.radians(STANDS))
        if not slender or not upright or arm.held_twice or not CATCHES < arm.catch / arm.thickness < MOST_CATCH - 1:
            continue
        if all(np.linalg.norm(arm.root - other.root) > arm.thickness for other, *_ in found):
            found.append((arm, at, normal))
    return sorted(found, key=lambda row: row[0].thickness / row[0].length)
