"""An arm that bends made longer, or its root rounded. Lengths mm, over the plate."""

from dataclasses import replace

import numpy as np
from manifold3d import Manifold, OpType

from hewel_engine.edits.fans import OVERLAP
from hewel_engine.edits.rounding import corners_of, rounded_corner
from hewel_engine.edits.sites import free_before
from hewel_engine.edits.tools import Impossible, Tool
from hewel_engine.errors import InputError
from hewel_engine.geometry.arms import Arm, arm_at
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.rays import RayScene

BESIDE = 0.3
"""mm round an arm's section that still belongs to it."""
BEFORE = 0.3
"""Of its thickness: how far before its catch it is cut through to be made longer."""
AT_ROOT = 0.75
"""Of its thickness: how far from the middle of its root a corner is one of the root's."""
ALONG_WIDTH = 0.9
MOST_LONGER = 60.0


def cured(mesh: Mesh, solid: Manifold, rays: RayScene, key: str, at: Array, normal: Array, given: dict) -> Tool:
    """``lengthened_arm`` (by ``by_mm``) or ``rounded_root`` (to ``radius_mm``) of the arm with a face at a place.
    Raises Impossible.
    """
    try:
        arm = arm_at(mesh, rays, at, normal)
    except InputError as no:
        raise Impossible(no.message) from None
    if key == "rounded_root":
        return _rounded(mesh, arm, given["radius_mm"])
    return _lengthened(solid, arm, given["by_mm"])


def _lengthened(solid: Manifold, arm: Arm, by: float) -> Tool:
    """Cut through just before its catch; what is beyond goes out by so much, its section fills what is between."""
    if arm.held_twice:
        raise Impossible("It is held at both ends: its ends would have to go apart.")
    if not 0 < by <= MOST_LONGER:
        raise Impossible(f"It can be made longer by up to {MOST_LONGER:.0f} mm, not by {by:.1f} mm.")
    wide = np.cross(arm.along, arm.bends)
    frame = np.column_stack([arm.bends, wide, arm.along])
    cut = arm.length - BEFORE * arm.thickness
    half_thick = max(arm.thickness, arm.thickness_end) / 2 + arm.catch + BESIDE
    half_wide = max(arm.width, arm.width_end) / 2 + BESIDE
    far = arm.length + 4 * arm.thickness + 4 * arm.catch + 10.0
    box = Manifold.cube((2 * half_thick, 2 * half_wide, far - cut)).translate((-half_thick, -half_wide, cut))
    turn = np.c_[frame.T, -frame.T @ arm.root]
    there = solid.transform(turn)  # the arm upright on the origin
    beyond = max((there ^ box).decompose(), key=lambda p: p.volume(), default=Manifold())
    if beyond.is_empty() or beyond.bounding_box()[5] > far - OVERLAP:
        raise Impossible("Beyond its end the part goes on: it is no arm with a free tip.")
    section = beyond.slice(cut + OVERLAP)
    added = Manifold.extrude(section, by + 2 * OVERLAP).translate((0, 0, cut - OVERLAP)) + beyond.translate((0, 0, by))
    free_before(there - beyond, beyond.translate((0, 0, by)), "What is made longer", by)
    back = np.c_[frame, arm.root]
    words = f"Make the arm {by:.2f} mm longer: {arm.length + by:.1f} mm; its mate's window goes out by as much."
    return Tool("lengthened_arm", words, {"by_mm": by}, add=added.transform(back), remove=beyond.transform(back),
                used={"by_mm": by})  # fmt: skip


def _rounded(mesh: Mesh, arm: Arm, radius: float) -> Tool:
    """The inside corners at its root, across its width, filled to a radius."""
    wide = np.cross(arm.along, arm.bends)
    tools = []
    for corner in corners_of(mesh):
        ends = mesh.vertices[corner.ends]
        way = ends[:, 1] - ends[:, 0]
        longest = way[int(np.argmax(np.linalg.norm(way, axis=1)))]
        across = abs(float(longest @ wide)) / max(float(np.linalg.norm(longest)), 1e-12)
        off = corner.centre - arm.root
        level = abs(float(off @ arm.along)) < AT_ROOT * arm.thickness
        beside = abs(float(off @ arm.bends)) < AT_ROOT * arm.thickness
        if across > ALONG_WIDTH and level and beside:
            tools.append(rounded_corner(mesh, corner, radius))
    if not tools:
        raise Impossible("No sharp corner runs along its root: it is rounded already, or its root is no plane face.")
    add = Manifold.batch_boolean([t.add for t in tools], OpType.Add)
    words = f"Round the root of the arm to {radius:.2f} mm."
    return replace(tools[0], key="rounded_root", words=words, numbers={"radius_mm": radius}, add=add,
                   used={"radius_mm": radius})  # fmt: skip
