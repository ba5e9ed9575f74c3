"""A small flat for a tilted part to stand on, and rounds on the plate that are filled. Lengths mm."""

import numpy as np
import shapely
from manifold3d import Manifold

from hewel_engine.edits.fans import OVERLAP, column
from hewel_engine.edits.solids import prism
from hewel_engine.edits.tools import Impossible, Tool
from hewel_engine.edits.undersides import Underside
from hewel_engine.geometry.features import edge_geometry
from hewel_engine.geometry.mesh import components
from hewel_engine.processes import Process
from hewel_engine.tolerances import SMOOTH_EDGE

FACING_DOWN = 0.02
"""Least share of its normal that a facet of a round points down."""


def added_foot(section: shapely.Geometry, height: float, why: str) -> Tool:
    """A block under the part with the outline of its ``section`` at ``height``, standing on the plate."""
    words = f"Add a foot {height:.2f} mm high with the part's own outline there, {section.area:.0f} mm²; {why}"
    numbers = {"height_mm": height, "foot_mm2": float(section.area)}
    return Tool("added_foot", words, numbers, add=prism(section, 0.0, height + OVERLAP), used={"height_mm": height})


def sliced_foot(section: shapely.Geometry, height: float, size: float, why: str) -> Tool:
    """Cuts the lowest ``height`` mm off, ``size`` mm being more than the part is wide."""
    words = f"Cut off the lowest {height:.2f} mm, so that it stands on {section.area:.0f} mm²; {why}"
    numbers = {"height_mm": height, "foot_mm2": float(section.area)}
    below = Manifold.cube((4 * size, 4 * size, height + size), True).translate((0, 0, (height - size) / 2))
    return Tool("sliced_foot", words, numbers, remove=below, used={"height_mm": height})


def filled_round(under: Underside, process: Process) -> Tool:
    """Fills below the whole round that a hanging surface belongs to, down to the plate: its edge stands sharp. A round
    of R ≤ h/(1 − sin α) would hide in the first layer.
    """
    mesh = under.mesh
    pairs, _, _, angle = edge_geometry(mesh)
    down = mesh.normals[:, 2] < -FACING_DOWN
    smooth = pairs[(angle < SMOOTH_EDGE) & down[pairs].all(axis=1)]
    _, label = components(len(mesh.faces), smooth)
    rows = np.flatnonzero((label == label[under.rows[0]]) & down)
    rows = rows[mesh.vertices[mesh.faces[rows]][:, :, 2].max(axis=1) > OVERLAP / 10]
    if len(rows) == 0:
        raise Impossible("It is no round that could be filled.")
    room = column(mesh.vertices, mesh.faces[rows], 0.0, OVERLAP)
    hides = process.layer / (1 - np.sin(np.radians(process.limit)))
    high = float(mesh.vertices[mesh.faces[rows]][:, :, 2].max())
    words = (
        f"Fill the round, {high:.2f} mm high, down to the plate, so that its edge stands sharp; a round of up to "
        f"{hides:.2f} mm would hide in the first layer."
    )
    return Tool("filled_round", words, {"height_mm": high, "hides_mm": float(hides)}, add=room)
