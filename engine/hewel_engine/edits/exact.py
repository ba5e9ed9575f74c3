"""What an edit does, said in planes, cylinders and cones, so that it can be done on an exact solid too. Lengths mm.

The tools of this room are triangles. Most of them have few and flat faces: these are found again here. Where a tool is
round, or is made for a faceted part in a way that an exact one does not want, it says itself what it is.
"""

from collections import defaultdict
from dataclasses import dataclass, field, replace

import numpy as np
from manifold3d import Manifold

from hewel_engine.edits.solids import mesh_of
from hewel_engine.geometry.mesh import Array, Mesh, components

FLAT = 3e-5
"""mm off the plane of its larger neighbour within which a facet is one flat face with it."""
SPLINTER = 2e-5
"""mm: facets that say nothing beyond this are none; a STEP file's facets are known to 1e-5 mm."""
ROUND = 1.0
"""mm that a box stands out round what it keeps."""
MOST_FACES = 240
"""Flat faces of one tool: with more it follows a curve, and flat strips are no model of that."""


@dataclass(frozen=True, eq=False)
class Flats:
    """A solid with flat faces: ``vertices`` (n, 3), and for each face its loops of vertex numbers, the outer first and
    counter-clockwise from outside.
    """

    vertices: Array
    faces: list[list[list[int]]]

    def placed(self, turn: Array, shift: Array) -> "Flats":
        return Flats(self.vertices @ turn.T + shift, self.faces)

    def as_dict(self) -> dict:
        return {"vertices": self.vertices.tolist(), "faces": self.faces}


@dataclass(frozen=True, eq=False)
class Cone:
    """Round about ``axis`` (3,) from ``base`` (3,), ``height`` long, with a radius at either end; alike: a cylinder."""

    base: Array
    axis: Array
    radii: tuple[float, float]
    height: float

    def placed(self, turn: Array, shift: Array) -> "Cone":
        return Cone(turn @ self.base + shift, turn @ self.axis, self.radii, self.height)

    def as_dict(self) -> dict:
        return {
            "base": self.base.tolist(),
            "axis": self.axis.tolist(),
            "radii": list(self.radii),
            "height": self.height,
        }


Shape = Flats | Cone


@dataclass(frozen=True, eq=False)
class Edit:
    """One thing done to an exact solid: what lies outside of ``keeps`` goes, then what is in ``removes``, and ``adds``
    come to it. It gains ``gained`` mm³ in all; less than 0: it loses.
    """

    name: str
    gained: float
    keeps: list[Shape] = field(default_factory=list)
    removes: list[Shape] = field(default_factory=list)
    adds: list[Shape] = field(default_factory=list)
    round_: bool = False
    """Whether it moves a round face, of which its shapes only know the facets."""

    @property
    def follows_a_curve(self) -> bool:
        """Whether its flat faces are no model of what it does."""
        return self.round_ or self.faces > MOST_FACES

    def placed(self, turn: Array, shift: Array) -> "Edit":
        """The same in another frame: x → ``turn`` @ x + ``shift``."""
        moved = {what: [s.placed(turn, shift) for s in getattr(self, what)] for what in WHATS}
        return replace(self, **moved)

    def as_dict(self) -> dict:
        return {what: [s.as_dict() for s in getattr(self, what)] for what in WHATS} | {"gained_mm3": self.gained}

    @property
    def faces(self) -> int:
        """Of its shapes, the most flat faces that one has."""
        shapes = [s for what in WHATS for s in getattr(self, what)]
        return max((len(s.faces) for s in shapes if isinstance(s, Flats)), default=0)


WHATS = ("keeps", "removes", "adds")


@dataclass(frozen=True, eq=False)
class Made:
    """How a solid is made exactly: by ``edits`` of the part, or of nothing; part frame."""

    edits: list[Edit]
    of_part: bool = True


def cylinder(centre: Array, low: float, high: float, radius: float, top: float | None = None) -> Cone:
    """Round about the z axis through ``centre`` (2,), between two heights; ``top``: its radius there, if another."""
    return Cone(np.array([*centre, low]), np.array([0, 0, 1.0]), (radius, radius if top is None else top), high - low)


def box_beyond(body: Manifold, side: float) -> Manifold:
    """A box round all of ``body`` that lies on the side of z = 0 that ``side`` points to."""
    x0, y0, z0, x1, y1, z1 = body.bounding_box()
    low, high = (0.0, z1 + ROUND) if side > 0 else (z0 - ROUND, 0.0)
    size = (x1 - x0 + 2 * ROUND, y1 - y0 + 2 * ROUND, max(high - low, ROUND))
    return Manifold.cube(size).translate((x0 - ROUND, y0 - ROUND, low))


def flats_of(solid: Manifold) -> list[Shape]:
    """The bodies of a solid with their facets gathered into flat faces."""
    bodies = solid.decompose()
    if any(body.volume() < 0 for body in bodies):  # what encloses a void stays with it
        bodies = [solid]
    return [_gathered(mesh_of(body.simplify(SPLINTER))) for body in bodies]


def _gathered(mesh: Mesh) -> Flats:
    label = _flat_faces(mesh)
    # A vertex stays where three faces meet, or where the border of two of them turns.
    at = np.unique(np.c_[mesh.faces.ravel(), np.repeat(label, 3)], axis=0)
    keep = np.bincount(at[:, 0], minlength=len(mesh.vertices)) > 2
    keep |= _turning(mesh.vertices, _between(mesh, label))
    faces = []
    for face in range(label.max() + 1):
        loops = [[v for v in loop if keep[v]] for loop in _loops(mesh.faces[label == face])]
        faces.append(sorted(loops, key=lambda loop: -float(np.linalg.norm(np.ptp(mesh.vertices[loop], axis=0)))))
    used = np.unique([v for loops in faces for loop in loops for v in loop])
    number = {int(v): i for i, v in enumerate(used)}
    return Flats(mesh.vertices[used], [[[number[v] for v in loop] for loop in loops] for loops in faces])


def _flat_faces(mesh: Mesh) -> np.ndarray:
    """(m,) the flat face that every facet belongs to."""
    a, b = mesh.edges.shared.T
    large, small = np.where(mesh.areas[a] >= mesh.areas[b], (a, b), (b, a))
    level = (mesh.normals[large] * mesh.triangles[large, 0]).sum(axis=1)
    off = np.abs(np.einsum("kij,kj->ki", mesh.triangles[small], mesh.normals[large]) - level[:, None]).max(axis=1)
    one = (off < FLAT) & ((mesh.normals[a] * mesh.normals[b]).sum(axis=1) > 0)
    return components(len(mesh.faces), mesh.edges.shared[one])[1]


def _between(mesh: Mesh, label: np.ndarray) -> np.ndarray:
    """(k, 2) the edges at which two flat faces meet."""
    sides = mesh.faces[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2)
    there = label[mesh.edges.pairs[mesh.edges.ids.ravel()]]
    return sides[(there[:, 0] != there[:, 1]) & (sides[:, 0] < sides[:, 1])]


def _turning(points: Array, edges: np.ndarray) -> np.ndarray:
    """(n,) whether the borders that meet at a vertex do not go straight on there."""
    beside: dict[int, list[int]] = defaultdict(list)
    for p, q in edges:
        beside[int(p)].append(int(q))
        beside[int(q)].append(int(p))
    turns = np.zeros(len(points), bool)
    for v, others in beside.items():
        if len(others) != 2:
            turns[v] = True
            continue
        way = points[others[1]] - points[others[0]]
        off = np.linalg.norm(np.cross(points[v] - points[others[0]], way)) / max(float(np.linalg.norm(way)), 1e-12)
        turns[v] = off > FLAT
    return turns


def _loops(faces: np.ndarray) -> list[list[int]]:
    """The closed borders of connected facets, in their sense."""
    sides = faces[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2)
    there = {(int(p), int(q)) for p, q in sides}
    after: dict[int, list[int]] = defaultdict(list)
    for p, q in there:
        if (q, p) not in there:
            after[p].append(q)
    out = []
    while after:
        start = at = next(iter(after))
        loop = []
        while True:
            loop.append(at)
            following = after[at].pop()
            if not after[at]:
                del after[at]
            at = following
            if at == start:
                break
        out.append(loop)
    return out
