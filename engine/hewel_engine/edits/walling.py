"""A wall made thicker or thinner by moving one of its faces. Lengths mm."""

import numpy as np

from hewel_engine.edits.fans import OVERLAP, between
from hewel_engine.edits.tools import Impossible, Tool
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.offsets import outward
from hewel_engine.tolerances import FLAT_EDGE

ALIKE = 0.05
"""Share by which the readings of a wall may differ while it has one thickness; else it tapers."""


def moved_face(mesh: Mesh, rows: np.ndarray, now: float, wanted: float, spread: tuple[float, float]) -> Tool:
    """Moves the facets ``rows``, one face of a wall ``now`` mm thick, along their normals so that it is ``wanted`` mm.

    ``spread``: least and greatest reading of the wall. Raises Impossible where it tapers, or is as wanted.
    """
    low, high = spread
    if high - low > 2 * ALIKE * now + 0.05:
        raise Impossible(f"It tapers from {low:.2f} to {high:.2f} mm, so one face moved would not make it even.")
    by = wanted - now
    if abs(by) < 5e-3:
        raise Impossible(f"It is {now:.2f} mm thick already.")
    faces = mesh.faces[rows]
    out = outward(mesh, rows)
    grows = by > 0
    near, far = (-OVERLAP, by) if grows else (by, OVERLAP)
    body = between(mesh.vertices + far * out, mesh.vertices + near * out, faces)
    area = float(mesh.areas[rows].sum())
    words = (
        f"Make the wall {wanted:.2f} mm thick instead of {now:.2f} mm: move one of its faces, {area:.0f} mm², "
        f"{abs(by):.2f} mm {'outward' if grows else 'inward'}."
    )
    numbers = {"thickness_mm": wanted, "was_mm": now, "moved_mm2": area}
    made = {"add" if grows else "remove": body}
    turns = (mesh.normals[rows] @ mesh.normals[rows[0]]).min() < np.cos(np.radians(FLAT_EDGE))
    return Tool("wall", words, numbers, used={"thickness_mm": wanted}, round_=bool(turns), **made)
