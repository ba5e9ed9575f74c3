"""One feature made on a face: which face is meant, and its usual numbers where none are given. Lengths mm."""

from dataclasses import replace

import numpy as np
from manifold3d import Manifold

from hewel_engine.edits.clamps import clamp, serpentine
from hewel_engine.edits.seen import broken_edges, texture
from hewel_engine.edits.sites import Site, facet_at
from hewel_engine.edits.snaps import ring, snap, window
from hewel_engine.edits.threads import easy_flank, thread
from hewel_engine.edits.tools import Impossible, Tool
from hewel_engine.geometry.measures import Feature, feature_of
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.patches import Faces, find_faces
from hewel_engine.geometry.rays import RayScene
from hewel_engine.processes import Process
from hewel_engine.walls.lines import Comb

ROUND = ("bead", "groove", "thread", "clamp")
"""Features of a bore or a pin."""
TWO_PLACES = ("serpentine",)
"""Features that want a second place."""


def pointed_at(mesh: Mesh, faces: Faces, rays: RayScene, place: Array, normal: Array) -> np.ndarray:
    """The facets of the face under a place. Raises Impossible."""
    return faces.around(facet_at(mesh, rays, place, normal))


def round_at(mesh: Mesh, faces: Faces, rays: RayScene, place: Array, normal: Array) -> tuple[Feature, float]:
    """The bore or pin under a place, and how far along its axis from its middle that is. Raises Impossible."""
    found = feature_of(mesh, rays, pointed_at(mesh, faces, rays, place, normal))
    if not found.is_round or len(found.places) != 1:
        raise Impossible("This face is neither a bore nor a pin: point inside one, or at its side.")
    return found, float((place - found.places[0]) @ found.axis)


def usual(key: str, process: Process, found: Feature | None, axis: Array) -> dict[str, float]:
    """The numbers that a feature has where none are given, of a bore or pin ``found`` with an ``axis``; a size that
    follows from the part is not among them.
    """
    lines, layer = Comb.of(process), process.layer
    stands = abs(float(axis[2])) > 0.5
    slopes = {"in_deg": 30.0, "out_deg": min(45.0, process.limit) if stands else 45.0}
    if key == "snap":
        thick = lines.width(3)
        return {"length_mm": 8 * thick, "thickness_mm": thick, "width_mm": 4 * thick, "catch_mm": thick / 2,
                "root_mm": thick / 2, "end_share": 1.0, "turn_deg": 0.0} | slopes  # fmt: skip
    if key == "window":
        thick = lines.width(3)
        return {"width_mm": 4 * thick + 0.5, "high_mm": thick + 0.5}
    if key in ("bead", "groove"):
        made = {"undercut_mm": 0.03 * found.size if found else 0.5} | slopes
        return made | ({"gap_mm": 0.1} if key == "groove" else {})
    if key == "thread":
        coarse = max(8 * layer, 2.0, 0.5 * round(0.25 * found.size / 0.5) if found else 2.0)
        return {"pitch_mm": coarse, "deep_mm": 0.3 * coarse, "gap_mm": 0.2, "flank_deg": easy_flank(process),
                "buttress_count": 0.0, "pulls_count": 1.0}  # fmt: skip
    if key == "clamp":
        return {"slit_mm": 1.5, "bore_mm": 4.5, "ear_mm": 6.0}
    if key == "serpentine":
        thick = lines.width(2)
        return {"leaves_count": 3.0, "thickness_mm": thick, "length_mm": 15 * thick, "width_mm": 5.0, "gap_mm": 0.3}
    if key == "texture":
        return {"pitch_mm": 4 * process.width, "depth_mm": process.width / 2}
    return {"edge_mm": 0.6, "round_count": 0.0}


def featured(
    mesh: Mesh, solid: Manifold, rays: RayScene, process: Process, key: str, place: Array, normal: Array | None,
    end: Array | None, given: dict[str, float],
) -> Tool:  # fmt: skip
    """``key``: see ``edits.remedies``; at a ``place`` (3,) on a face with that outward ``normal`` (3,). Raises
    Impossible.
    """
    if normal is None:
        raise Impossible("It is not said how its face looks: point at it again.")
    if key in TWO_PLACES and end is None:
        raise Impossible("It goes from one face to another: point at the other one too.")
    if key in ROUND:
        found, at = round_at(mesh, find_faces(mesh), rays, place, normal)
        numbers = usual(key, process, found, found.axis) | given
        if key == "thread":
            made = thread(solid, rays, found, at, process, numbers)
        elif key == "clamp":
            made = clamp(solid, rays, found, end, numbers)
        else:
            made = ring(solid, rays, found, at, process, key, numbers)
        return replace(made, used=numbers)
    numbers = usual(key, process, None, normal) | given
    if key == "snap":
        made = snap(solid, Site.of(place, normal, numbers["turn_deg"]), numbers)
    elif key == "window":
        facet_at(mesh, rays, place, normal)
        made = window(solid, rays, Site.of(place, normal), process, numbers)
    elif key == "serpentine":
        made = serpentine(solid, place, normal, end, numbers)
    else:
        faces = find_faces(mesh)
        facets = pointed_at(mesh, faces, rays, place, normal)
        if key == "texture":
            made = texture(mesh, rays, facets, process, numbers)
        else:
            made = broken_edges(mesh, faces, facets, numbers)
    return replace(made, used=numbers)
