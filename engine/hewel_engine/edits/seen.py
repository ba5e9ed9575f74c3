"""Faces that people see and edges that they touch: a shallow texture that hides layer lines, edges broken. Lengths mm,
over the plate.
"""

from math import cos, pi

import numpy as np
from manifold3d import CrossSection, FillRule, Manifold, Mesh64, OpType

from hewel_engine.edits.fans import OVERLAP
from hewel_engine.edits.rounding import averaged, into_face
from hewel_engine.edits.solids import prism
from hewel_engine.edits.tools import Impossible, Tool, faceted, skin
from hewel_engine.geometry.features import edge_geometry, ends_of, rises
from hewel_engine.geometry.frames import unit
from hewel_engine.geometry.measures import FACING
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.patches import Faces
from hewel_engine.geometry.plans import plan_of
from hewel_engine.geometry.rays import RayScene
from hewel_engine.processes import Process

LEVEL = 0.9
"""|normal·up| from which on a face shows no layer lines that grooves up its slope would hide."""
MARGIN = 0.6
"""mm of the face that stays whole round a texture."""
MOST_GROOVES = 400
CONVEX = 20.0
"""Degrees between two faces from which on the ridge between them is an edge."""
DOWNWARD = -0.05
"""Height of a face's normal below which an edge beside it is broken by a chamfer, never rounded."""
FLATS = 3
"""Of a rounded edge."""
LAPS = 0.01
"""mm by which the cuts along two edges reach past their mitre: faces that only touch are not united safely."""
SAMPLES = 200


def texture(mesh: Mesh, rays: RayScene, facets: np.ndarray, process: Process, given: dict[str, float]) -> Tool:
    """Grooves straight up a plane face, side by side: what the eye follows in place of the layers. They end before its
    edges, and leave a skin behind them. Raises Impossible.
    """
    normal = mesh.normals[facets[int(np.argmax(mesh.areas[facets]))]]
    if (mesh.normals[facets] @ normal).min() < FACING:
        raise Impossible("The face is not plane: the texture is sunk into plane faces.")
    if abs(float(normal[2])) > LEVEL:
        raise Impossible("No layer lines show on a face that lies: the texture is for one that stands.")
    pitch, deep = given["pitch_mm"], given["depth_mm"]
    if deep > pitch / 2:
        raise Impossible(f"Grooves {deep:.2f} mm deep at 45° need a pitch of {2 * deep:.2f} mm at least.")
    up = unit(np.array([0.0, 0, 1]) - normal[2] * normal)
    side = np.cross(up, normal)
    frame = np.array([side, up, normal])
    corners = mesh.triangles[facets] @ frame.T
    level = float(corners[:, :, 2].mean())
    plan = plan_of(corners)
    inside = plan.buffer(-MARGIN, join_style="mitre")
    if inside.is_empty or inside.area < pitch * pitch:
        raise Impossible("The face is too small for a texture.")
    x0, y0, x1, y1 = inside.bounds
    count = int((x1 - x0) / pitch)
    if count < 1:
        raise Impossible(f"The face is too narrow for grooves {pitch:.2f} mm apart.")
    if count > MOST_GROOVES:
        raise Impossible(f"That would be {count} grooves; {MOST_GROOVES} are the most: a wider pitch.")
    _skin_behind(mesh, rays, facets, normal, deep, process)
    first = (x0 + x1 - (count - 1) * pitch) / 2
    tooth = np.array([[-deep - OVERLAP, OVERLAP], [0.0, -deep], [deep + OVERLAP, OVERLAP]])  # (across, out)
    # Extruded along z; x across, y out of the face: turned so that z runs up the face.
    groove = Manifold.extrude(CrossSection([tooth], FillRule.NonZero), y1 - y0)
    groove = groove.transform(np.array([[1.0, 0, 0, 0], [0, 0, 1, y0], [0, 1, 0, level]]))
    rows = Manifold.batch_boolean([groove.translate((first + i * pitch, 0, 0)) for i in range(count)], OpType.Add)
    room = prism(inside, level - deep - OVERLAP / 2, level + 1.5 * OVERLAP)
    cut = (rows ^ room).transform(np.c_[frame.T, np.zeros(3)])
    words = f"Sink {count} grooves {deep:.2f} mm deep, {pitch:.2f} mm apart, straight up the face."
    return Tool("texture", words, {"pitch_mm": pitch, "depth_mm": deep, "grooves": float(count)}, remove=cut)


def _skin_behind(mesh: Mesh, rays: RayScene, facets: np.ndarray, normal: Array, deep: float, process: Process) -> None:
    """Raises Impossible where less than a skin would be left behind the bottom of a groove."""
    draw = np.random.default_rng(0)
    rows = facets[draw.choice(len(facets), SAMPLES, p=mesh.areas[facets] / mesh.areas[facets].sum())]
    share = draw.random((SAMPLES, 2))
    over = share.sum(axis=1) > 1
    share[over] = 1 - share[over]
    t = mesh.triangles[rows]
    at = t[:, 0] + share[:, :1] * (t[:, 1] - t[:, 0]) + share[:, 1:] * (t[:, 2] - t[:, 0])
    wall = rays.distances(at - 2 * rays.step * normal, -normal)
    if float(np.quantile(wall, 0.05)) < deep + skin(process):
        raise Impossible(f"Behind grooves {deep:.2f} mm deep less than {skin(process):.2f} mm of wall would be left.")


def broken_edges(mesh: Mesh, faces: Faces, facets: np.ndarray, given: dict[str, float]) -> Tool:
    """The ridges round a face broken by a chamfer, or rounded; beside a face that looks down always a chamfer. Raises
    Impossible.
    """
    size, rounded = given["edge_mm"], given["round_count"] > 0.5
    inside = np.zeros(len(mesh.faces), bool)
    inside[facets] = True
    pairs, _, _, angle = edge_geometry(mesh)
    rim = inside[pairs].sum(axis=1) == 1
    ridge = rim & (angle > CONVEX) & (rises(mesh, pairs) < -1e-9 * mesh.diagonal)
    rows = pairs[ridge]
    if len(rows) == 0:
        raise Impossible("No sharp edge runs round this face.")
    rows = np.where(inside[rows[:, :1]], rows, rows[:, ::-1])
    ends = ends_of(mesh, rows)
    p, q = mesh.vertices[ends[:, 0]], mesh.vertices[ends[:, 1]]
    long = np.linalg.norm(q - p, axis=1)
    way = (q - p) / np.maximum(long, 1e-12)[:, None]
    into = np.stack([into_face(mesh, rows[:, i], way, (p + q) / 2) for i in range(2)], axis=1)
    _wide_enough(mesh, faces.face, rows, ends, into, size)
    along = [averaged(len(mesh.vertices), ends, into[:, side]) for side in (0, 1)]
    downward = (mesh.normals[rows][:, :, 2] < DOWNWARD).any(axis=1)
    bodies = [
        _wedge(mesh.vertices[[i, j]], along[0][[i, j]], along[1][[i, j]], _section(size, rounded and not down))
        for (i, j), down in zip(ends, downward, strict=True)
    ]
    remove = Manifold.batch_boolean(bodies, OpType.Add)
    how = "Round" if rounded else "Break"
    words = f"{how} the edges round the face, {long.sum():.1f} mm of them, by {size:.2f} mm."
    if rounded and downward.any():
        words += " Those that look down are chamfered: a round would hang there."
    numbers = {"edge_mm": size, "length_mm": float(long.sum())}
    return Tool("broken_edges", words, numbers, remove=remove, round_=faceted(remove))


def _section(size: float, rounded: bool) -> Array:
    """(k, 2) mm along the face and along its neighbour: what is left of the corner between them, from the one to the
    other; of a round the corners of tangents to its quarter of a circle.
    """
    if not rounded:
        return np.array([[size, 0.0], [0.0, size]])
    half = pi / 4 / (FLATS + 1)
    psi = half * (2 * np.arange(FLATS + 1) + 1)
    far = size / cos(half)
    return np.column_stack([size - far * np.sin(psi), size - far * np.cos(psi)])


def _wedge(edge: Array, a: Array, b: Array, section: Array) -> Manifold:
    """What is cut along one edge (2, 3): its section between the mitres at both ends, along ``a`` and ``b`` (2, 3),
    and a little of what is outside.
    """
    rows = [(-OVERLAP, -OVERLAP), (section[0, 0], -OVERLAP), *section, (-OVERLAP, section[-1, 1])]
    past = LAPS * unit(edge[1] - edge[0])
    points = np.concatenate([[edge[e] + (2 * e - 1) * past + x * a[e] + y * b[e] for x, y in rows] for e in (0, 1)])
    n = len(rows)
    caps = [(0, k, k + 1) for k in range(1, n - 1)] + [(n, n + k + 1, n + k) for k in range(1, n - 1)]
    sides = [t for k in range(n) for m in [(k + 1) % n] for t in ((k, n + k, m), (m, n + k, n + m))]
    faces = np.array(caps + sides)
    body = Manifold(Mesh64(vert_properties=points, tri_verts=faces.astype(np.uint64)))
    if body.volume() < 0:
        body = Manifold(Mesh64(vert_properties=points, tri_verts=faces[:, ::-1].astype(np.uint64).copy()))
    return body


def _wide_enough(mesh: Mesh, face: np.ndarray, rows: np.ndarray, ends: np.ndarray, into: Array, size: float) -> None:
    """Raises Impossible where a ``face`` beside an edge is narrower than what is cut of it."""
    for side in (0, 1):
        for label in np.unique(face[rows[:, side]]):
            mine = face[rows[:, side]] == label
            points = mesh.vertices[np.unique(mesh.faces[face == label])]
            for k in np.flatnonzero(mine)[:: max(1, mine.sum() // 12)]:
                reach = float(((points - mesh.vertices[ends[k, 0]]) @ into[k, side]).max())
                if reach < size * 1.05:
                    raise Impossible(f"The face beside the edge is {reach:.2f} mm wide: less than {size:.2f} mm.")
