"""Ribs on a flat face. Lengths mm.

A rib of thickness t and height H at pitch p raises I per width from T³/12 to the T-section value (``strength.sizing``).
It runs up the face, or along its longer side where the face is level, and its lower end leans at the limit.
"""

import numpy as np
import shapely
from manifold3d import CrossSection, Manifold, OpType

from hewel_engine.edits.fans import INSIDE, OVERLAP
from hewel_engine.edits.tools import Impossible, Tool
from hewel_engine.geometry.features import Flat
from hewel_engine.geometry.frames import upright
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.plans import loops_of, plan_of
from hewel_engine.processes import Process
from hewel_engine.tolerances import CONTACT_BAND

LEVEL = 0.95
"""|n·b| from which on a face is level: a rib runs along its longer side."""
DOWN = -0.05
"""n·b below which a face looks down: a rib on it would hang."""


def ribs(
    mesh: Mesh, flat: Flat, process: Process, thickness: float, height: float, pitch: float, turn: float = 0.0
) -> Tool:
    """Ribs ``thickness`` thick and ``height`` high, at most ``pitch`` apart, all across a flat face, turned by ``turn``
    degrees from up. Raises Impossible on a face that looks down, or one too narrow for a rib.
    """
    if flat.normal[2] < DOWN:
        raise Impossible("This face looks down in this direction, so ribs on it would hang.")
    frame = face_frame(mesh, flat, turn)
    corners = mesh.triangles[flat.facets] @ frame.T
    level = float(corners[:, :, 2].mean())
    plan = plan_of(corners)
    low, _, high, _ = plan.bounds
    wide = high - low
    if wide < 3 * thickness:
        raise Impossible(f"The face is {wide:.1f} mm wide, too narrow for ribs of {thickness:.2f} mm.")
    count = max(1, round(wide / pitch))
    each = wide / count
    made, length = [], 0.0
    for i in range(count):
        at = low + (i + 0.5) * each
        strip = plan & shapely.box(at - thickness / 2, plan.bounds[1], at + thickness / 2, plan.bounds[3])
        for part in getattr(strip, "geoms", [strip]):
            if part.geom_type != "Polygon" or part.area < thickness * thickness:
                continue
            body = Manifold.extrude(CrossSection(loops_of(part)), height + OVERLAP).translate((0, 0, level - OVERLAP))
            made.append(_leaning(body, part.bounds[1], level, frame, process))
            length += part.area / thickness
    if not made:
        raise Impossible("No rib finds room on this face.")
    add = Manifold.batch_boolean(made, OpType.Add).transform(np.c_[frame.T, np.zeros(3)])
    words = (
        f"Put {count} rib{'s' if count > 1 else ''} on the face, {thickness:.2f} mm thick and {height:.1f} mm high, "
        f"{each:.1f} mm from middle to middle, {length:.0f} mm in all."
    )
    numbers = {"thickness_mm": thickness, "height_mm": height, "pitch_mm": each, "count": float(count)}
    used = {"thickness_mm": thickness, "height_mm": height, "pitch_mm": pitch, "turn_deg": turn}
    used["sides_count"] = 1.0
    return Tool("ribs", words, numbers, add=add, used=used)


def face_frame(mesh: Mesh, flat: Flat, turn: float) -> Array:
    """Rows across a flat face, up it (along its longer side where it is level) and off it; ``turn`` degrees from up."""
    normal = flat.normal
    if abs(normal[2]) < LEVEL:
        along = np.array([0, 0, 1.0]) - normal[2] * normal
    else:
        plain = upright(normal)
        spots = mesh.triangles[flat.facets].reshape(-1, 3) @ plain[:2].T
        box = np.array(shapely.minimum_rotated_rectangle(shapely.MultiPoint(spots)).exterior.coords)
        sides = np.diff(box[:3], axis=0)
        along = sides[np.argmax(np.linalg.norm(sides, axis=1))] @ plain[:2]
    along = along / np.linalg.norm(along)
    across = np.cross(along, normal)
    a = np.radians(turn)
    return np.array([np.cos(a) * across - np.sin(a) * along, np.sin(a) * across + np.cos(a) * along, normal])


def _leaning(body: Manifold, end: float, level: float, frame: Array, process: Process) -> Manifold:
    """A rib without what would hang at its lower end, unless that stands on the plate."""
    lowest = (frame.T @ np.array([0, end, level]))[2]
    if frame[1, 2] < 0.1 or frame[2, 2] > LEVEL or lowest < CONTACT_BAND:
        return body
    lean = np.radians(90 - process.limit + INSIDE)
    cut = np.array([0, np.cos(lean), -np.sin(lean)])
    return body.trim_by_plane(tuple(cut), float(cut @ np.array([0, end, level])))
