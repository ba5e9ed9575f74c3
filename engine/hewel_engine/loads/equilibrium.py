"""What a load case comes to: the force on every piece of surface, its sum, and what the held faces answer.

The answer takes the part as rigid on held faces that give way evenly: exact in sum, and where statics alone decides
(one held face, or small faces far apart) exact for each face as well. Forces N, moments N·mm about stated points, mm.
"""

from dataclasses import dataclass

import numpy as np

from hewel_engine.errors import InputError
from hewel_engine.geometry.frames import direction_words
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.patches import Faces
from hewel_engine.loads.cases import Case, Hold, Load, LoadSet
from hewel_engine.loads.regions import Patch, catch, cut, in_pieces

G = 9.80665
"""m/s²."""
FREE = 1e-9
"""Stiffness against a motion, relative to the stiffest, below which nothing holds against it."""
ROUNDS = 60


def body_force(volume: float, density: float, acceleration_g: Array) -> Array:
    """(3,) N of a body of ``volume`` mm³ and ``density`` g/cm³: own weight is [0, 0, −1] g."""
    return volume * density * 1e-6 * G * np.asarray(acceleration_g, float)


@dataclass(frozen=True, eq=False)
class Acting:
    """Forces (k, 3) N at points (k, 3) mm."""

    points: Array
    forces: Array

    def force(self) -> Array:
        return self.forces.sum(axis=0)

    def moment(self, about: Array) -> Array:
        return np.cross(self.points - about, self.forces).sum(axis=0)


def even_force(patch: Patch, force: Array) -> Acting:
    """A force spread evenly over the area."""
    return Acting(patch.middles, np.outer(patch.areas / patch.area, force))


def bearing(patch: Patch, axis: Array, force: Array, name: str) -> Acting:
    """A pin's pressure on the loaded half, p ∝ cos θ about the pull; what acts along the axis is spread evenly.

    The pressure acts along the facets' normals, p_i = max(0, −n_i·v), with v such that the sum is the force.
    """
    along = axis * float(axis @ force)
    across = force - along
    spread = even_force(patch, along).forces
    if np.linalg.norm(across) > 1e-12 * max(np.linalg.norm(force), 1e-300):
        n, a = patch.normals, patch.areas
        v = across.copy()
        active = n @ v < 0
        for _ in range(ROUNDS):
            stiff = np.einsum("i,ij,ik->jk", a[active], n[active], n[active])
            v = np.linalg.lstsq(stiff, across, rcond=1e-9)[0]
            now = n @ v < 0
            if (now == active).all():
                break
            active = now
        pressure = np.maximum(0, -(n @ v))
        forces = -n * (pressure * a)[:, None]
        missing = np.linalg.norm(forces.sum(axis=0) - across)
        if missing > 1e-3 * np.linalg.norm(across):
            raise InputError(
                "bad_loads",
                f"“{name or 'the cylinder'}” has no wall where this force would press on it.",
                "Turn the force round, or let it act on a face.",
            )
        spread = spread + forces
    return Acting(patch.middles, spread)


def pure_moment(patch: Patch, moment: Array, name: str) -> Acting:
    """A moment as forces that grow with the distance from the patch's centre and sum to nothing."""
    r, a = patch.middles - patch.centre, patch.areas
    # Each piece turns about its own middle as well, so its own second moment counts.
    spread = patch.triangles - patch.middles[:, None]
    own = np.einsum("i,iab->ab", a / 12, np.einsum("ika,ikb->iab", spread, spread))
    second = np.einsum("i,ia,ib->ab", a, r, r)
    turn = lambda m: np.trace(m) * np.eye(3) - m
    if np.linalg.cond(turn(second + own)) > 1e9:
        raise InputError(
            "bad_loads", f"“{name or 'the face'}” is too small to take a moment.", "Let it act on a larger face."
        )
    if np.linalg.cond(turn(second)) > 1e6:  # one or two pieces: their corners carry it
        points = patch.triangles.reshape(-1, 3)
        weight = np.repeat(a / 3, 3)
        r = points - np.average(points, axis=0, weights=weight)
        second = np.einsum("i,ia,ib->ab", weight, r, r)
        return Acting(points, np.cross(np.linalg.solve(turn(second), moment), r) * weight[:, None])
    return Acting(patch.middles, np.cross(np.linalg.solve(turn(second), moment), r) * a[:, None])


def acting(mesh: Mesh, faces: Faces | None, load: Load, density: float, size: float = np.inf) -> Acting:
    """Where and how a load acts, on pieces of surface with sides up to ``size`` mm. Raises ``bad_loads``."""
    vector = np.array(load.vector)
    if load.kind == "acceleration":
        return Acting(mesh.centre_of_mass[None], body_force(abs(mesh.volume), density, vector)[None])
    patch = in_pieces(catch(mesh, faces, load.on.shape, load.on.name), size)
    if load.kind == "pressure":
        return Acting(patch.middles, -patch.normals * (patch.areas * load.pressure)[:, None])
    if load.kind == "moment":
        return pure_moment(patch, vector, load.on.name)
    if "cylinder" in load.on.shape:
        return bearing(patch, np.array(load.on.shape["cylinder"]["axis"]), vector, load.on.name)
    return even_force(patch, vector)


def held_patch(mesh: Mesh, faces: Faces | None, hold: Hold) -> Patch:
    """The surface that is held: the face, or of a bolted face what lies under the washer."""
    patch = catch(mesh, faces, hold.on.shape, hold.on.name)
    if hold.washer is None:
        return patch
    normal = patch.normal / max(np.linalg.norm(patch.normal), 1e-12)
    centre, radius = np.array(hold.washer.centre), hold.washer.outer / 2
    frame = np.linalg.svd(normal[None])[2][1:]
    for angle in np.linspace(0, 2 * np.pi, 32, endpoint=False):  # the circle as 32 sides of the same area
        side = np.cos(angle) * frame[0] + np.sin(angle) * frame[1]
        patch = cut(patch, side, side @ centre + radius * np.sqrt(np.pi / (32 * np.tan(np.pi / 32))))
    if len(patch.facets) == 0 or patch.area < 0.05 * np.pi * radius**2:
        raise InputError(
            "bad_loads",
            f"The washer on “{hold.on.name or 'the held face'}” lies beside the face.",
            "Point at the place of the bolt on the face itself.",
        )
    return patch


def check_on(mesh: Mesh, faces: Faces | None, loads: LoadSet) -> None:
    """Raises ``bad_loads`` where a region catches nothing of the part or a load cannot act where it is put."""
    for hold in loads.holds:
        held_patch(mesh, faces, hold)
    for case in loads.cases:
        for load in case.loads:
            acting(mesh, faces, load, 1.0)


@dataclass(frozen=True, eq=False)
class Answer:
    """What a held face gives back: its force, and its moment about its own centre."""

    hold: Hold
    force: Array
    moment: Array
    centre: Array


@dataclass(frozen=True, eq=False)
class Balance:
    """The sum of a case's loads, and what holds against it.

    ``moment`` is about the centre of mass. ``free`` says in words along or round what the part would move; the answers
    then balance only the rest.
    """

    force: Array
    moment: Array
    answers: list[Answer]
    free: list[str]


@dataclass(eq=False)
class _Footing:
    points: Array
    areas: Array
    held: Array  # (k, 3, 3) projector on the directions held
    normals: Array
    pressed: np.ndarray
    hold: np.ndarray


def projectors(hold: Hold, points: Array, normals: Array) -> Array:
    """(k, 3, 3) on the directions that ``points`` (k, 3) of a held face with these ``normals`` are held along."""
    if hold.how in ("sliding", "pressed"):
        n = normals
    elif hold.how == "pinned":  # the true radius: chords would resist turning
        body = hold.on.shape["cylinder"]
        axis, n = np.array(body["axis"]), points - body["point"]
        n = n - np.outer(n @ axis, axis)
        n /= np.linalg.norm(n, axis=1, keepdims=True)
    else:
        axes = np.array([letter in hold.axes for letter in "xyz"], float)
        return np.broadcast_to(np.diag(axes), (len(points), 3, 3))
    return np.einsum("ia,ib->iab", n, n)


def _footing(mesh: Mesh, faces: Faces | None, holds: list[Hold]) -> _Footing:
    patches = [held_patch(mesh, faces, h) for h in holds]
    # Corners instead of middles: the sum of area/3 over corners is exact in force and moment of an even traction,
    # and a face of two facets still resists turning.
    return _Footing(
        np.concatenate([p.triangles.reshape(-1, 3) for p in patches]),
        np.concatenate([np.repeat(p.areas / 3, 3) for p in patches]),
        np.concatenate(
            [
                projectors(h, p.triangles.reshape(-1, 3), np.repeat(p.normals, 3, axis=0))
                for h, p in zip(holds, patches, strict=True)
            ]
        ),
        np.concatenate([np.repeat(p.normals, 3, axis=0) for p in patches]),
        np.concatenate([np.full(3 * len(p.facets), h.how == "pressed") for h, p in zip(holds, patches, strict=True)]),
        np.concatenate([np.full(3 * len(p.facets), i) for i, p in enumerate(patches)]),
    )


ADRIFT, SWINGS = 1e-6, 3e-3
"""Share of the load, a moment over the part's length, that sets it in motion where nothing holds it: along an axis any
does; round a pin what hangs swings to rest, and 0.2° of that are no motion to speak of.
"""


def motions(r: Array) -> Array:
    """(k, 3, 6): how points at ``r`` (k, 3) move with the six motions of a rigid body, u + ω × r."""
    skew = np.zeros((len(r), 3, 3))
    skew[:, 0, 1], skew[:, 0, 2], skew[:, 1, 2] = r[:, 2], -r[:, 1], r[:, 0]
    skew -= skew.transpose(0, 2, 1)
    return np.concatenate([np.broadcast_to(np.eye(3), skew.shape), skew], axis=2)


def held_motions(motion: Array, held: Array, areas: Array) -> tuple[Array, Array, np.ndarray]:
    """Stiffness (6,) of the motions (columns of (6, 6)) that held points resist each by itself, and which are held at
    all. ``motion`` (k, 3, 6) of the points, ``held`` (k, 3, 3) the projectors on what is held there.
    """
    stiff = np.einsum("i,iam,iab,ibn->mn", areas, motion, held, motion, optimize=True)
    values, vectors = np.linalg.eigh(stiff)
    return values, vectors, values > FREE * max(values.max(), 1e-300)


def balance(mesh: Mesh, faces: Faces | None, case: Case, holds: list[Hold], density: float) -> Balance:
    """Sums a case (with its factor) and balances it against the held faces. Raises ``bad_loads``."""
    loads = [acting(mesh, faces, load, density) for load in case.loads]
    total = Acting(np.concatenate([a.points for a in loads]), case.factor * np.concatenate([a.forces for a in loads]))
    force, moment = total.force(), total.moment(mesh.centre_of_mass)
    if not holds:
        return Balance(force, moment, [], ["nothing is held"])
    foot = _footing(mesh, faces, holds)
    centre = np.average(foot.points, axis=0, weights=foot.areas)
    length = max(mesh.diagonal, 1e-9)
    motion = motions((foot.points - centre) / length)
    load = np.concatenate([force, total.moment(centre) / length])
    working = np.ones(len(foot.points), bool)
    for _ in range(ROUNDS):
        values, vectors, firm = held_motions(motion, foot.held, foot.areas * working)
        part = vectors.T @ load
        shift = vectors[:, firm] @ (part[firm] / values[firm])
        answer = -np.einsum("i,iab,ibm,m->ia", foot.areas * working, foot.held, motion, shift)
        # A face that is only pressed lets go where it would have to pull: the answer must push into the material.
        press = -(np.einsum("iab,ibm,m->ia", foot.held, motion, shift) * -foot.normals).sum(axis=1)
        now = ~foot.pressed | (press >= -1e-12 * np.abs(press).max(initial=1e-300))
        if (now == working).all():
            break
        working = now
    driven = vectors[:, ~firm] @ part[~firm]  # the motion that the load causes and nothing holds against
    size = max(np.linalg.norm(load), 1e-300)
    free = [
        f"{word} {_axis_words(motion)}"
        for word, motion, least in (("slides along", driven[:3], ADRIFT), ("turns about", driven[3:], SWINGS))
        if np.linalg.norm(motion) > least * size
    ]
    answers = []
    for i, hold in enumerate(holds):
        rows = foot.hold == i
        middle = np.average(foot.points[rows], axis=0, weights=foot.areas[rows])
        result = Acting(foot.points[rows], answer[rows])
        answers.append(Answer(hold, result.force(), result.moment(middle), middle))
    return Balance(force, moment, answers, free)


def _axis_words(vector: Array) -> str:
    axis = vector / np.linalg.norm(vector)
    axis = axis * np.sign(axis[int(np.argmax(np.abs(axis)))])
    return direction_words(axis).replace(" up", "").lstrip("+")
