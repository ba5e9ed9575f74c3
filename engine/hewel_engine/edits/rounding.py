"""A sharp internal corner rounded: a radius, in three flats inside it, along an edge that is hollow seen from outside.

Internal corners want a radius of at least 1 mm, or a quarter of the wall (handbook): a sharp one is where cracks start.
"""

from dataclasses import dataclass

import numpy as np
from manifold3d import Manifold, OpType

from hewel_engine.edits.columns import FLATS, legs
from hewel_engine.edits.fans import OVERLAP
from hewel_engine.edits.tools import Impossible, Tool, faceted
from hewel_engine.geometry.features import edge_geometry, ends_of, rises
from hewel_engine.geometry.mesh import Array, Mesh, components
from hewel_engine.geometry.patches import find_faces

SHARP = 60.0
"""Degrees between the normals of two faces from which on the hollow edge between them is sharp."""
LEAST_LENGTH = 4.0
"""mm of edge below which a corner says nothing."""


@dataclass(frozen=True, eq=False)
class Corner:
    """A run of edges between the same two faces. ``ends`` (k, 2) vertices; ``into`` (k, 2, 3) unit, mm, along the first
    and along the second face, normal to the edge and away from it.
    """

    ends: np.ndarray
    into: Array
    length: float
    turn: float
    """Degrees between the two faces' normals, at the middle of the run."""
    centre: Array
    room: float
    """mm² of the smaller of the two faces."""


def corners_of(mesh: Mesh) -> list[Corner]:
    """Every sharp internal corner, the longest first."""
    pairs, _, _, angle = edge_geometry(mesh)
    hollow = (angle > SHARP) & (rises(mesh, pairs) > 1e-6 * mesh.diagonal)
    rows, turns = pairs[hollow], angle[hollow]
    if len(rows) == 0:
        return []
    face = find_faces(mesh).face
    rows = np.where((face[rows[:, 0]] <= face[rows[:, 1]])[:, None], rows, rows[:, ::-1])
    ends = ends_of(mesh, rows)
    _, between = np.unique(face[rows], axis=0, return_inverse=True)
    links = []
    last: dict[tuple, int] = {}
    for i, (p, q) in enumerate(ends):
        for v in (p, q):
            key = (int(between[i]), int(v))
            if key in last:
                links.append((last[key], i))
            last[key] = i
    _, label = components(len(rows), np.array(links, int).reshape(-1, 2))
    area = np.bincount(face, mesh.areas)
    out = []
    for n in range(label.max() + 1):
        run = np.flatnonzero(label == n)
        p, q = mesh.vertices[ends[run, 0]], mesh.vertices[ends[run, 1]]
        long = np.linalg.norm(q - p, axis=1)
        if long.sum() < LEAST_LENGTH:
            continue
        way = (q - p) / np.maximum(long, 1e-12)[:, None]
        into = np.stack([into_face(mesh, rows[run, i], way, (p + q) / 2) for i in range(2)], axis=1)
        middle = np.average((p + q) / 2, axis=0, weights=np.maximum(long, 1e-12))
        nearest = (p + q)[np.argmin(np.linalg.norm((p + q) / 2 - middle, axis=1))] / 2
        room = float(area[face[rows[run[0]]]].min())
        out.append(Corner(ends[run], into, float(long.sum()), float(np.median(turns[run])), nearest, room))
    return sorted(out, key=lambda c: -c.length)


def into_face(mesh: Mesh, facets: np.ndarray, way: Array, middle: Array) -> Array:
    """(k, 3) unit in the plane of each facet, normal to the edge, into the facet."""
    side = np.cross(mesh.normals[facets], way)
    return side * np.sign(((mesh.centroids[facets] - middle) * side).sum(axis=1))[:, None]


def rounded_corner(mesh: Mesh, corner: Corner, radius: float) -> Tool:
    """Fills a corner to a radius. Raises Impossible where its faces are narrower than that."""
    if corner.room / corner.length < radius:
        raise Impossible(
            f"The narrower face beside it is about {corner.room / corner.length:.1f} mm wide: a radius of "
            f"{radius:.1f} mm finds no room."
        )
    along = [averaged(len(mesh.vertices), corner.ends, corner.into[:, side]) for side in (0, 1)]
    bodies = []
    for p, q in corner.ends:
        ends = mesh.vertices[[p, q]]
        a, b = along[0][[p, q]], along[1][[p, q]]
        back = -OVERLAP * (a + b)
        for angle in FLATS:
            across, up = legs(radius, angle)
            spots = [ends + back, ends + across * a - OVERLAP * b, ends + up * b - OVERLAP * a, ends + across * a]
            bodies.append(Manifold.hull_points(np.concatenate([*spots, ends + up * b])))
    words = f"Round the internal corner, {corner.length:.1f} mm long, to {radius:.1f} mm."
    numbers = {"radius_mm": radius, "length_mm": corner.length}
    add = Manifold.batch_boolean(bodies, OpType.Add)
    return Tool("rounded_corner", words, numbers, add=add, used={"radius_mm": radius}, round_=faceted(add))


def averaged(count: int, ends: np.ndarray, into: Array) -> Array:
    """(count, 3) at each vertex of a run the mean of its edges' directions, so long that each edge is met square."""
    out = np.zeros((count, 3))
    for side in (0, 1):
        np.add.at(out, ends[:, side], into)
    out /= np.maximum(np.linalg.norm(out, axis=1, keepdims=True), 1e-12)
    cosine = np.ones(count)
    for side in (0, 1):
        np.minimum.at(cosine, ends[:, side], (out[ends[:, side]] * into).sum(axis=1))
    return out / np.maximum(cosine, 0.5)[:, None]
