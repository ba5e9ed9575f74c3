"""What the part's duties say about a direction: protected faces and fitted bores."""

import numpy as np
from numba import njit

from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.rays import RayScene
from hewel_engine.overhangs.duties import Needs, tilts
from hewel_engine.overhangs.support import beyond_limit, support_spots
from hewel_engine.tolerances import CONTACT_BAND, overhang_threshold


@njit(cache=True, nogil=True)
def _protected_pass(normals, corners, areas, ups, lowest, threshold, band, scar, plate):
    for j in range(len(ups)):
        ux, uy, uz = ups[j]
        for i in range(len(areas)):
            d = normals[i, 0] * ux + normals[i, 1] * uy + normals[i, 2] * uz
            if d >= threshold:
                continue
            top = -1e300
            for c in range(3):
                top = max(top, corners[i, c, 0] * ux + corners[i, c, 1] * uy + corners[i, c, 2] * uz)
            if top - lowest[j] <= band:
                plate[j] += areas[i]
            else:
                scar[j] += areas[i]


def needs_columns(mesh: Mesh, needs: Needs, ups: Array, limit: float) -> dict[str, Array]:
    """One row a direction (d,): ``protected_scar_mm2`` protected surface that overhangs beyond ``limit`` degrees;
    ``protected_plate_mm2`` protected surface on the plate, which takes its texture; ``bores_lying`` fitted bores whose
    roof overhangs (tilted more than the limit off the vertical). A measure that nothing was said about is absent.
    """
    out: dict[str, Array] = {}
    if needs.protected:
        scar, plate = np.zeros(len(ups)), np.zeros(len(ups))
        lowest = mesh.extents(ups)[0]
        for patch in needs.protected:
            _protected_pass(
                np.ascontiguousarray(patch.normals),
                np.ascontiguousarray(patch.triangles),
                patch.areas,
                np.ascontiguousarray(ups),
                lowest,
                overhang_threshold(limit),
                CONTACT_BAND,
                scar,
                plate,
            )
        out |= {"protected_scar_mm2": scar, "protected_plate_mm2": plate}
    if needs.bores:
        out["bores_lying"] = sum((tilts(axis, ups) > limit).astype(float) for axis, _ in needs.bores)
    return out


def landing_on_protected(mesh: Mesh, rays: RayScene, needs: Needs, up: Array, limit: float) -> float:
    """Protected area (mm², in plan) that support would stand on, by rays down from every needing spot."""
    if not needs.protected:
        return 0.0
    spots, plan, _ = support_spots(mesh, up, np.flatnonzero(beyond_limit(mesh, up, limit)))
    if len(spots) == 0:
        return 0.0
    share = np.zeros(len(mesh.faces))
    for patch in needs.protected:
        np.add.at(share, patch.facets, patch.areas)
    share = np.minimum(1, share / np.maximum(mesh.areas, 1e-300))
    hit = rays.facets(spots - rays.step * up, np.broadcast_to(-up, spots.shape))
    return float((plan * np.where(hit >= 0, share[hit], 0)).sum())
