"""Bodies printed in place: one of them swept through its travel, its clearance proved after what hangs has drooped."""

from dataclasses import dataclass, field

import numpy as np
from manifold3d import Manifold, OpType
from scipy.spatial import cKDTree

from hewel_engine.advice.placed_part import PlacedPart
from hewel_engine.edits.fans import OVERLAP, curtain
from hewel_engine.edits.solids import solid_of
from hewel_engine.edits.tools import Impossible
from hewel_engine.geometry.features import Bore
from hewel_engine.geometry.mending import bodies_of
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.sections import Pose
from hewel_engine.geometry.travel import Travel
from hewel_engine.overhangs.support import beyond_limit
from hewel_engine.processes import Process

STEP = 0.25
"""mm of travel, at the outermost point, between two looks; never fewer than LEAST_LOOKS."""
LEAST_LOOKS, MOST_LOOKS = 9, 400
SEARCH = 3.0
"""mm beyond which a clearance is not measured."""
EXACT = 1e-4
"""mm by which a clearance may fall short and still count as kept."""


@dataclass(frozen=True, eq=False)
class Swept:
    """Clearances (mm) at ``shares`` of the travel, before droop and after; ``needed`` mm."""

    bodies: list[Mesh]
    moving: int
    shares: Array
    drawn: Array
    drooped: Array
    needed: float
    places: Array
    """(2, 3) where the two bodies are nearest after droop, at the worst of the travel, part frame."""
    ceilings: list[dict] = field(default_factory=list)
    """What hangs level over the gap or in the moving body: kind, height, area."""

    @property
    def worst(self) -> int:
        return int(self.drooped.argmin())

    @property
    def holds(self) -> bool:
        return bool(self.drooped[self.worst] >= self.needed - EXACT)

    @property
    def words(self) -> str:
        at = 100 * self.shares[self.worst]
        least, drawn = self.drooped[self.worst], self.drawn[self.worst]
        far = "more than " if least >= SEARCH - 1e-6 else ""
        words = (
            f"Clearance of {far}{least:.2f} mm at the worst, {at:.0f} % along its travel, after droop ({drawn:.2f} mm "
            f"as drawn); {self.needed:.2f} mm are wanted: "
        )
        if self.holds:
            return words + "it runs free."
        if self.drawn.min() >= self.needed - EXACT:
            return words + "what hangs droops into the gap. Bring level ceilings to a ridge or a chamfer."
        return words + "widen the gap, or shorten the travel."


def separate_bodies(mesh: Mesh) -> list[Mesh]:
    """The separate solids of a mesh, each with its cavities, the largest first."""
    return [Mesh(mesh.vertices, mesh.faces[rows]) for rows in bodies_of(mesh)]


def swept(
    mesh: Mesh, up: Array, process: Process, bores: list[Bore], moving: int | Array, travel: Travel, needed: float
) -> Swept:
    """Sweeps one body, by its number or the one nearest to a point, past the others. Everything beyond the overhang
    limit is taken ``process.droop`` mm lower than drawn. Raises Impossible, InputError ``not_closed``.
    """
    bodies = separate_bodies(mesh)
    if len(bodies) < 2:
        raise Impossible("It is one body: nothing in it can move.")
    if travel.length == 0 or not np.isfinite(travel.length):
        raise Impossible("The travel has no length.")
    number = _nearest(bodies, moving)
    placed, pose = PlacedPart.stood(mesh, up, process, bores)
    drawn = [solid_of(b) for b in bodies]
    hung = [_drooped(b, s, up, process, pose) for b, s in zip(bodies, drawn, strict=True)]
    rest = [i for i in range(len(bodies)) if i != number]
    around = Manifold.batch_boolean([drawn[i] for i in rest], OpType.Add)
    around_hung = Manifold.batch_boolean([hung[i] for i in rest], OpType.Add)
    reach = travel.reach(bodies[number].triangles.reshape(-1, 3))
    looks = int(np.clip(np.ceil(reach / STEP) + 1, LEAST_LOOKS, MOST_LOOKS))
    shares = np.linspace(0, 1, looks)
    before, after = np.empty(looks), np.empty(looks)
    for i, share in enumerate(shares):
        place = travel.at(float(share))
        before[i] = _gap(drawn[number].transform(place), around)
        after[i] = _gap(hung[number].transform(place), around_hung)
    worst = travel.at(float(shares[int(after.argmin())]))
    places = _where(hung[number].transform(worst), around_hung)
    ceilings = [
        {"kind": r.kind, "z_mm": r.low, "area_mm2": r.area, "span_mm": r.span, "reach_mm": r.reach}
        for r in placed.truth.regions
        if r.area > 1 and r.over_part and r.drop < needed + process.droop + 1
    ]
    return Swept(bodies, number, shares, before, after, needed, places, ceilings)


def middle_of_body(mesh: Mesh, spot: Array) -> Array:
    """(3,) the middle of the box of the body nearest to a point: where its axis is taken to be if none is named."""
    bodies = separate_bodies(mesh)
    return bodies[_nearest(bodies, spot)].box.mean(axis=0)


def _nearest(bodies: list[Mesh], moving: int | Array) -> int:
    if isinstance(moving, int):
        if not 0 <= moving < len(bodies):
            raise Impossible(f"There is no body {moving + 1}; the part has {len(bodies)}.")
        return moving
    spot = np.asarray(moving, float)
    return int(np.argmin([np.linalg.norm(b.centroids - spot, axis=1).min() for b in bodies]))


def _drooped(body: Mesh, solid: Manifold, up: Array, process: Process, pose: Pose) -> Manifold:
    """The body with what hangs in it lower by the droop."""
    low = float((pose.over_plate(body.vertices[body.used]))[:, 2].min())
    rows = np.flatnonzero(beyond_limit(body, np.asarray(up, float), process.limit) | _floats(body, up, low))
    if len(rows) == 0:
        return solid
    standing = pose.standing(body)
    sheet = curtain(standing.vertices, standing.faces[rows], process.droop, OVERLAP)
    turn = np.c_[pose.turn.T, -pose.turn.T @ pose.shift]
    return solid + sheet.transform(turn)


def _floats(body: Mesh, up: Array, low: float) -> np.ndarray:
    """(m,) bool: the lowest level facets of a body that does not stand on the plate."""
    if low <= 1e-3:
        return np.zeros(len(body.faces), bool)
    z = body.vertices @ np.asarray(up, float)
    lowest = z[body.used].min()
    return (z[body.faces].max(axis=1) < lowest + 1e-3) & (body.normals @ np.asarray(up, float) < -0.5)


def _gap(a: Manifold, b: Manifold) -> float:
    """mm between two bodies; negative where they meet, by the depth of a cube as large as what they share."""
    gap = a.min_gap(b, SEARCH)
    if gap > 0:
        return float(gap)
    return -(float(max((a ^ b).volume(), 0.0)) ** (1 / 3))


def _where(a: Manifold, b: Manifold) -> Array:
    """(2, 3) vertices of the two that lie nearest to each other, about where the gap is least."""
    p = np.asarray(a.to_mesh64().vert_properties)[:, :3]
    q = np.asarray(b.to_mesh64().vert_properties)[:, :3]
    away, near = cKDTree(q).query(p)
    i = int(away.argmin())
    return np.array([p[i], q[near[i]]])
