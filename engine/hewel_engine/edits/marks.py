"""A revision mark sunk into a flat face, so that a part in the hand says what it is. Lengths mm."""

import numpy as np
import shapely
import shapely.affinity

from hewel_engine.edits.fans import OVERLAP
from hewel_engine.edits.lettering import lettered
from hewel_engine.edits.ribs import face_frame
from hewel_engine.edits.solids import prism
from hewel_engine.edits.tools import Impossible, Tool
from hewel_engine.geometry.features import Flat
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.plans import plan_of
from hewel_engine.processes import Process

TALL = (8.0, 6.5, 5.0)
"""mm of the letters that are tried, the largest first; smaller ones run together."""
DEPTH = 0.4
"""mm sunk: it can be felt, and a wall of three lines keeps two of them."""
ROOM = 1.0
"""mm of the face that stays round the letters."""
SPOTS = 15
"""Places a side of the face that are tried."""


def text_of(revision: float) -> str:
    return f"R{round(revision)}"


def mark(mesh: Mesh, flat: Flat, process: Process, revision: float, tall: float | None, depth: float) -> Tool:
    """The mark of a revision on a flat face, upright, as near to its middle as it finds room; ``tall`` mm high, or as
    high as fits. Raises Impossible where it finds none, or where the strokes would be narrower than a line.
    """
    frame = face_frame(mesh, flat, 0.0)
    corners = mesh.triangles[flat.facets] @ frame.T
    level = float(corners[:, :, 2].mean())
    plan = plan_of(corners)
    stroke = 2 * process.width
    for high in TALL if tall is None else (tall,):
        letters = lettered(text_of(revision), high, stroke)
        at = _room(plan, letters)
        if at is not None:
            break
    else:
        raise Impossible(f"The face has no room for “{text_of(revision)}” in letters that can be read.")
    shape = shapely.affinity.translate(letters, *at)
    body = prism(shape, level - depth, level + OVERLAP)
    words = f"Sink “{text_of(revision)}” {depth:.2f} mm into the face, in letters {high:.1f} mm high."
    numbers = {"letters_mm": high, "depth_mm": depth}
    used = {"revision_count": float(round(revision)), "letters_mm": high, "depth_mm": depth}
    return Tool("mark", words, numbers, remove=body.transform(np.c_[frame.T, np.zeros(3)]), used=used)


def _room(plan: shapely.Geometry, letters: shapely.Geometry) -> Array | None:
    """Where (2,) the middle of the letters comes to lie: within the face all round, as near to its middle as can be."""
    x0, y0, x1, y1 = letters.bounds
    box = shapely.box(x0 - ROOM, y0 - ROOM, x1 + ROOM, y1 + ROOM)
    low, high = np.array(plan.bounds).reshape(2, 2)
    middle = np.array(plan.centroid.coords[0])
    grid = np.stack(np.meshgrid(*(np.linspace(low[i], high[i], SPOTS) for i in (0, 1))), -1).reshape(-1, 2)
    shapely.prepare(plan)
    for at in sorted([middle, *grid], key=lambda p: round(float(np.linalg.norm(p - middle)), 6)):
        if plan.contains(shapely.affinity.translate(box, *at)):
            return at
    return None
