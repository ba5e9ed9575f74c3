"""A part as a lattice that is held and loaded: what the sum for its stress is made of.

Inside, lengths are in voxels and stiffness in E·size: a displacement of 1 is one voxel, a force of 1 is E·size²
newtons.
A held face is a bed of springs on its true surface, so stiff that a voxel's side of material gives HOLD times as much;
the face need not lie on the lattice, and what each face answers is read off its springs.
"""

from dataclasses import dataclass, fields, replace

import numpy as np
from numba import njit

from hewel_engine.errors import InputError, Note
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.patches import Faces
from hewel_engine.geometry.voxels import Grid, Voxels
from hewel_engine.loads.cases import Case, Hold
from hewel_engine.loads.equilibrium import G, acting, held_motions, held_patch, motions, projectors
from hewel_engine.loads.regions import bad_loads, catch, in_pieces
from hewel_engine.strength.bricks import brick
from hewel_engine.strength.lattice import LEAST_SHARE, Lattice, Ties, lattice_of, pieces, tie
from hewel_engine.strength.operators import Bricks

HOLD = 30.0
FINEST = 0.7
"""Pieces of held and loaded surface are this long in voxels at most, so that every voxel feels its own part."""
AIR = 1e-4
"""Stiffness of a voxel's material, as a share of solid, below which it is none."""
BESIDE = 2.0
"""Voxels that a loaded or held point may lie away from material that counts; farther, it stands on a sliver."""
GAUSS = np.array([[4, 1, 1], [1, 4, 1], [1, 1, 4]]) / 6
"""Three points of a triangle, equal in weight, exact to second order."""


@dataclass(frozen=True, eq=False)
class Footing:
    """Points (k) of held surface: ``points`` mm, ``areas`` mm², ``held`` (k, 3, 3) on the directions held, outward
    ``normals``, ``hold`` (k,) which hold, ``pressed`` (k,) where it can only push, ``ties`` to the lattice.
    """

    points: Array
    areas: Array
    held: Array
    normals: Array
    hold: np.ndarray
    pressed: np.ndarray
    ties: Ties

    def within(self, rows: np.ndarray) -> "Footing":
        own = {f.name: getattr(self, f.name)[rows] for f in fields(self) if f.name != "ties"}
        return replace(self, **own, ties=self.ties.within(rows))


@dataclass(frozen=True, eq=False)
class Loading:
    """One case's forces: ``nodal`` (n, 3) N, and the ``points`` (k, 3) mm and ``forces`` (k, 3) N they come from."""

    case: Case
    nodal: Array
    points: Array
    forces: Array


@dataclass(frozen=True, eq=False)
class Free:
    """Motions of the whole that nothing holds: a pin's turn, a slide's run. ``motion`` (n, 3, f) of the nodes,
    ``weight`` (n,) of the material at them; Σ weight·motionᵢ·motionⱼ = 1 for i = j, else 0.
    """

    motion: Array
    weight: Array

    def unpushed(self, forces: Array) -> Array:
        """``forces`` (n, 3) without what drives these motions: the cut of the part into voxels moves its weight by a
        hair, and a hair is enough where nothing holds. As an acceleration of the material, so that it shows nowhere.
        """
        driven = np.einsum("nda,nd->a", self.motion, forces)
        return forces - self.weight[:, None] * (self.motion @ driven)

    def at_rest(self, displacement: Array) -> Array:
        """``displacement`` (n, 3) without these motions, which mean nothing."""
        return displacement - self.motion @ np.einsum("nda,n,nd->a", self.motion, self.weight, displacement)


def free_of(lattice: Lattice, share: np.ndarray, footing: Footing, grid: Grid) -> Free | None:
    """None where every motion is held."""
    places = grid.origin + lattice.nodes[:, ::-1] * grid.size
    centre = places.mean(axis=0)
    length = float(np.ptp(places, axis=0).max())
    _, ways, firm = held_motions(motions((footing.points - centre) / length), footing.held, footing.areas)
    if firm.all():
        return None
    weight = np.bincount(lattice.corners.ravel(), np.repeat(share, 8), len(places)) / 8
    motion = motions((places - centre) / length) @ ways[:, ~firm]
    gram = np.einsum("nda,n,ndb->ab", motion, weight, motion, optimize=True)
    return Free(motion @ np.linalg.inv(np.linalg.cholesky(gram)).T, weight)


@dataclass(frozen=True, eq=False)
class Model:
    """``stiffness`` (m,) of each cell as a share of solid material, ``law`` (6, 6) of solid material for E = 1,
    ``modulus`` MPa.
    """

    grid: Grid
    lattice: Lattice
    share: np.ndarray
    stiffness: Array
    law: Array
    modulus: float
    footing: Footing
    loadings: tuple[Loading, ...]
    notes: tuple[Note, ...] = ()
    driven: tuple[np.ndarray, Array] | None = None
    """Cells (k,) and the matrices (k, 24, 24) of the springs by which a window's rim follows the part it was cut from.
    """

    free: Free | None = None

    @property
    def force_unit(self) -> float:
        """N of a force of 1."""
        return self.modulus * self.grid.size**2

    def bricks(self, working: np.ndarray | None = None) -> Bricks:
        """The operator, with the springs of the footing that are ``working`` (all when left out)."""
        foot = self.footing
        rows = np.arange(len(foot.areas)) if working is None else np.flatnonzero(working)
        rim, follow = self.driven or (np.zeros(0, np.int64), np.zeros((0, 24, 24)))
        owners, which = np.unique(np.r_[foot.ties.cells[rows], rim], return_inverse=True)
        own = np.zeros((len(owners), 24, 24))
        np.add.at(own, which[len(rows) :], follow)
        springs = HOLD * foot.areas[rows, None, None] / self.grid.size**2 * foot.held[rows]
        _sprung(which[: len(rows)], foot.ties.weights[rows], springs, own)
        return Bricks(self.lattice, brick(self.law), self.stiffness, own, owners)

    def answers(self, displacement: Array, working: np.ndarray | None = None) -> Array:
        """(k, 3) N that the points of the footing give back at ``displacement`` (n, 3) in voxels."""
        foot = self.footing
        moved = foot.ties.at(self.lattice, displacement)
        stiff = HOLD * foot.areas / self.grid.size**2 * (1.0 if working is None else working)
        return -self.force_unit * stiff[:, None] * np.einsum("kab,kb->ka", foot.held, moved)


@njit(cache=True, nogil=True)
def _sprung(which, weights, springs, own):
    """Adds N_a·S·N_b of every point to the matrix of its cell."""
    for p in range(len(which)):
        for a in range(8):
            for b in range(8):
                w = weights[p, a] * weights[p, b]
                for i in range(3):
                    for j in range(3):
                        own[which[p], 3 * a + i, 3 * b + j] += w * springs[p, i, j]


def _gauss(patch) -> tuple[Array, Array, Array]:
    """Points, areas and normals of a patch: three points a piece."""
    points = np.einsum("gc,kcd->kgd", GAUSS, patch.triangles).reshape(-1, 3)
    return points, np.repeat(patch.areas / 3, 3), np.repeat(patch.normals, 3, axis=0)


def _tied(lattice: Lattice, grid: Grid, points: Array, name: str, check: bool = True) -> Ties:
    ties = tie(lattice, grid, points)
    if check and len(ties.away) and np.median(ties.away) > BESIDE:
        raise bad_loads(
            f"“{name}” stands on a sliver: no material that carries it within {BESIDE * grid.size:.2g} mm.",
            "Put it on a thicker part of the body, or ask for a finer answer.",
        )
    return ties


def footing_of(
    mesh: Mesh, faces: Faces | None, holds: list[Hold], lattice: Lattice, grid: Grid, within: bool = False
) -> Footing:
    """The springs of the held faces. Raises ``bad_loads``. ``within``: only what lies in the grid, be it nothing."""
    rows = []
    for i, hold in enumerate(holds):
        patch = held_patch(mesh, faces, hold)
        if within:
            patch = patch.within(grid.meets(patch.triangles))
        points, areas, normals = _gauss(in_pieces(patch, FINEST * grid.size))
        held = projectors(hold, points, normals)
        marks = np.full(len(points), i), np.full(len(points), hold.how == "pressed")
        rows.append((points, areas, held, normals, *marks))
    joined = [np.concatenate(column) for column in zip(*rows, strict=True)]
    named = " and ".join(h.on.name or "the held face" for h in holds)
    points, areas, held, normals, hold, pressed = joined
    ties = _tied(lattice, grid, points, named, not within)
    return Footing(points, areas, held, normals, hold, pressed, ties)


def loading_of(
    mesh: Mesh,
    faces: Faces | None,
    case: Case,
    lattice: Lattice,
    grid: Grid,
    mass: Array,
    by: float,
    within: bool = False,
) -> Loading:
    """The forces of a case, times its factor and ``by``. ``mass`` (m,) tonnes of each cell, for accelerations.
    ``within``: only what acts inside the grid. Raises ``bad_loads``.
    """
    nodal = np.zeros((len(lattice.nodes), 3))
    points, forces = [np.zeros((0, 3))], [np.zeros((0, 3))]
    for load in case.loads:
        if load.kind == "acceleration":
            at, pull = grid.middles(lattice.cells), np.outer(mass, 1e3 * G * np.array(load.vector))
            ties = tie(lattice, grid, at)
        elif within and not grid.meets(catch(mesh, faces, load.on.shape).triangles).any():
            continue
        else:
            found = acting(mesh, faces, load, 0.0, FINEST * grid.size)
            at, pull = found.points, found.forces
            if within:
                rows = grid.holds(at)
                at, pull = at[rows], pull[rows]
            ties = _tied(lattice, grid, at, load.on.name or f"a load of {case.name}", not within)
        nodal += ties.spread(lattice, pull)
        points.append(at)
        forces.append(pull)
    scale = case.factor * by
    return Loading(case, scale * nodal, np.concatenate(points), scale * np.concatenate(forces))


def stiff_share(share: np.ndarray, stiffness: np.ndarray) -> np.ndarray:
    """``share`` (z, y, x), 0 where there is only air: a core without infill."""
    return np.where(stiffness >= AIR * share, share, np.float32(0))


def model_of(
    mesh: Mesh,
    faces: Faces | None,
    holds: list[Hold],
    cases: list[tuple[Case, float]],
    voxels: Voxels,
    stiffness: np.ndarray,
    mass: np.ndarray,
    law: Array,
    modulus: float,
) -> Model:
    """The part's model. ``cases`` with the factor the load takes beside its own (shock); ``stiffness`` and ``mass``
    (z, y, x): share of solid stiffness, and tonnes, of every voxel. Loose bits that nothing loads are left out and
    noted. Raises ``bad_loads``.
    """
    grid, share = voxels.grid, stiff_share(voxels.share, stiffness)
    if not holds:
        raise bad_loads("Nothing is held.", "Mark at least one face as held.")
    label, count = pieces(share)
    notes: list[Note] = []
    keep = share >= LEAST_SHARE
    if count == 0:
        raise InputError("bad_options", "The part is thinner than the grid everywhere.", "Ask for a finer answer.")
    lattice = lattice_of(keep)
    footing = footing_of(mesh, faces, holds, lattice, grid)
    loadings = [loading_of(mesh, faces, case, lattice, grid, mass[keep], by) for case, by in cases]
    if count > 1:
        notes += _checked_pieces(label[keep], count, lattice, grid, footing, loadings, share[keep])
        held = np.zeros(count + 1, bool)
        held[label[keep][footing.ties.cells]] = True
        keep &= held[label]
        lattice = lattice_of(keep)
        footing = footing_of(mesh, faces, holds, lattice, grid)
        loadings = [loading_of(mesh, faces, case, lattice, grid, mass[keep], by) for case, by in cases]
    free = free_of(lattice, share[keep].astype(float), footing, grid)
    return Model(
        grid, lattice, share[keep], stiffness[keep].astype(float), law, modulus, footing, tuple(loadings), tuple(notes),
        free=free,
    )  # fmt: skip


def _checked_pieces(label, count, lattice, grid, footing, loadings, share) -> list[Note]:
    """Refuses a load on a piece that nothing holds; says what is left out."""
    held = np.zeros(count + 1, bool)
    held[label[footing.ties.cells]] = True
    volume = np.bincount(label, share, count + 1) * grid.size**3
    loose = [i for i in range(1, count + 1) if not held[i]]
    for loading in loadings:
        ties = tie(lattice, grid, loading.points)
        pull = np.zeros((count + 1, 3))
        for d in range(3):
            pull[:, d] = np.bincount(label[ties.cells], np.abs(loading.forces[:, d]), count + 1)
        for i in loose:
            if pull[i].sum() > 1e-3 * pull.sum() and not loading.case.weight_only:
                where = grid.middles(lattice.cells[label == i]).mean(axis=0)
                place = ", ".join(f"{x:.1f}" for x in where)
                raise bad_loads(
                    f"“{loading.case.name}” pulls at a piece of {volume[i]:.3g} mm³ round ({place}) mm that nothing "
                    "holds: it is not joined to the held piece.",
                    "Hold that piece too, join the bodies, or let the load act on the held one.",
                )
    if not loose:
        return []
    lost = sum(volume[i] for i in loose)
    return [
        Note(
            "loose_pieces",
            f"{len(loose)} pieces of together {lost:.3g} mm³ are joined to nothing that is held; they carry nothing "
            "and were left out.",
        )
    ]
