"""From loads to the stress at every point that counts, case by case: one solution that all directions are read from."""

from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from scipy.spatial import cKDTree

from hewel_engine.errors import Note
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.patches import Faces
from hewel_engine.geometry.rays import RayScene
from hewel_engine.geometry.voxels import Grid, Voxels, filled
from hewel_engine.loads.cases import Case, LoadSet
from hewel_engine.loads.equilibrium import balance
from hewel_engine.loads.regions import bad_loads
from hewel_engine.materials import Material
from hewel_engine.processes import Process
from hewel_engine.strength import material_field
from hewel_engine.strength.allowables import Circumstances, Factor, knock_downs, product
from hewel_engine.strength.bricks import isotropic, layered
from hewel_engine.strength.clamping import Clamp, Clamping, Squeeze, clamping_of, squeezed
from hewel_engine.strength.cores import Core, clear_of, with_cores
from hewel_engine.strength.edges import about_edges, reach_of, sharp_edges
from hewel_engine.strength.lines import OUTLINE, PLAIN
from hewel_engine.strength.loaded_bodies import loaded_bodies
from hewel_engine.strength.model import Model, model_of
from hewel_engine.strength.recovery import Points, at_points, surface_points
from hewel_engine.strength.solution import Answered, Watch, quiet, solve, stresses

COARSE, CLOSER, FINE = 20_000, 60_000, 250_000
"""Voxels of material: of the first answer and of what only compares parts (on fewer, shells of two and of eight lines
are not told apart); of comparing where the first says that something is lost; and of the full answer."""
CUT, CUT_FINE = 1.5, 1.2
"""Times as many voxels that hold material as asked for, at most: of few most are cut by a face; of FINE or more each
costs 40 µs of a solution that somebody waits for.
"""
RESOLVED = 1.5
"""Voxels through a wall below which its own bending is not told."""
MOST_ROOM = 120_000_000
"""Voxels of the grid, empty ones too."""
HELD_LINES, LOADED_LINES = 3.0, 1.0
"""Zone left out round held and loaded faces, in line widths; never less than ZONE_CUBES voxels."""
ZONE_CUBES = 2.0
AS_TESTED = Circumstances()
PRESSED_HARD = 0.25
"""Share of the greatest traction of a load from which on its place counts as loaded."""


@dataclass(frozen=True, eq=False)
class CaseStress:
    """One case: ``stress`` (k, 6) MPa at the points, to be held against solid material; its knock-downs."""

    case: Case
    stress: np.ndarray
    answered: Answered
    factors: list[Factor]
    shock: float
    """What the load was multiplied by beside its own factor."""


@dataclass(frozen=True, eq=False)
class Stressed:
    """``points`` with those that count ``kept`` (k,), and the stress of every case at them."""

    mesh: Mesh
    model: Model
    points: Points
    kept: np.ndarray
    cases: list[CaseStress]
    zones: tuple[float, float]
    """mm left out round held and loaded faces."""
    up: Array | None
    """The build direction whose layers the part was solved with; None when it does not depend on one."""
    mass: float = 0.0
    """Tonnes of plastic in the part."""
    notes: list[Note] = field(default_factory=list)
    looked_at: tuple = ()
    """Windows that were read on a finer grid."""
    change: float | None = None
    """Share by which the last refinement changed the worst index; None where nothing was refined."""
    clamping: Clamping | None = None
    """What the bolts of the part do, where it has some."""

    @property
    def size(self) -> float:
        return self.model.grid.size


def size_for(mesh: Mesh, voxel_count: int) -> float:
    """mm: the side of voxels of which about ``voxel_count`` hold material."""
    size = (abs(mesh.volume) / voxel_count) ** (1 / 3)
    room = float(np.prod(np.maximum(mesh.box[1] - mesh.box[0], size)))
    return float(max(size, (room / MOST_ROOM) ** (1 / 3)))


def _divided(mesh: Mesh, voxel_count: int) -> Voxels:
    """The part in about so many voxels that hold any of it: of a thin shell most are cut by its faces, so they are made
    larger until no more than CUT times as many are left.
    """
    voxels = filled(mesh, size_for(mesh, voxel_count))
    held, most = int((voxels.share > 0).sum()), (CUT_FINE if voxel_count >= FINE else CUT) * voxel_count
    if held > most:
        voxels = filled(mesh, voxels.grid.size * (held / most) ** 0.5)
    return voxels


def _thin(mesh: Mesh, size: float) -> list[Note]:
    """Says where the walls, 2·V/A thick on the whole, are too thin for the voxels."""
    thick = 2 * abs(mesh.volume) / float(mesh.areas.sum())
    if thick >= RESOLVED * size:
        return []
    words = f"Walls of about {thick:.2g} mm are thinner than {RESOLVED:g} voxels of {size:.2g} mm: "
    return [
        Note("thin_walls", words + "what bends them may be missed. A shorter piece of the part is read more finely.")
    ]


def cases_of(loads: LoadSet) -> list[Case]:
    """Every case and every combination."""
    return [*loads.cases, *loads.combined()]


def bare(loads: LoadSet) -> LoadSet:
    """The loads as they stand, every case static: knock-downs then come only from what is asked for."""
    return replace(loads, cases=tuple(replace(case, nature="static", cycles=None) for case in loads.cases))


def check_cases(mesh: Mesh, faces: Faces | None, loads: LoadSet, density: float) -> None:
    """Raises ``bad_loads`` that names a motion which nothing holds, or says that there is nothing to calculate."""
    if not loads.holds:
        raise bad_loads("Nothing is held.", "Mark at least one face as held.")
    if not loads.cases:
        raise bad_loads("There is no load case.", "Write down at least one load.")
    for case in cases_of(loads):
        free = balance(mesh, faces, case, list(loads.holds), density).free
        if free:
            raise bad_loads(
                f"“{case.name}”: the part {' and '.join(free)}.", "Hold a face that stops it, or hold one otherwise."
            )


def stressed(
    mesh: Mesh,
    faces: Faces | None,
    loads: LoadSet,
    process: Process,
    around: Circumstances = AS_TESTED,
    voxel_count: int | None = None,
    up: Array | None = None,
    solid: bool = False,
    watch: Watch = quiet,
    clamps: list[Clamp] | None = None,
    cores: list[Core] | None = None,
    like: Grid | None = None,
) -> Stressed:
    """Solves every case, and one newton in each bolt of ``clamps``; ``cores`` are rods of steel. Without ``up``
    stiffness does not depend on the build direction; with it, walls, skins, core and the layers' own stiffness are
    those of that direction. ``solid``: dense and isotropic all the same. ``like``: the voxels of a part that this one
    is compared with, in place of ``voxel_count`` of its own. Raises ``bad_loads``.
    """
    material = process.stock
    check_cases(mesh, faces, loads, material.density)
    mesh = loaded_bodies(mesh, faces, loads)
    watch("dividing the part", 0.0)
    voxels = filled(mesh, like.size, like.over(mesh)) if like else _divided(mesh, voxel_count or FINE)
    fill = fill_for(mesh, voxels, process, up, solid)
    if cores:
        voxels, fill = with_cores(voxels, fill, cores)
    poisson = material.poisson
    law = isotropic(poisson) if solid or up is None else layered(material.e_z / material.e_xy, poisson, up)
    lines = {c.name: knock_downs(material, c.nature, c.cycles, around) for c in cases_of(loads)}
    asked = [(case, product(lines[case.name], "load")) for case in cases_of(loads)]
    model = model_of(mesh, faces, list(loads.holds), asked, voxels, fill.stiffness, fill.mass, law, material.e_xy)
    squeezes: list[Squeeze] = []
    if clamps:
        model, squeezes = _with_bolts(mesh, model, clamps)
    answers = solve(model, watch)
    watch("reading the stress", 1.0)
    zones = zones_of(process, model.grid.size)
    points, kept, stress, averaged = read_stress(mesh, model, fill, answers, process, zones)
    if cores:
        kept &= clear_of(points.places, cores, model.grid.size)
    found = [
        CaseStress(row.loading.case, s, row, lines[row.loading.case.name], by)
        for row, s, (_, by) in zip(answers, stress, asked, strict=False)
    ]
    own = len(asked)
    bolted = clamping_of(model, clamps, squeezes, answers[own:], stress[own:], answers[:own]) if clamps else None
    notes = list(model.notes)
    if averaged:
        words = f"At sharp inner edges, where stress has no limit, it is the mean over {process.width:.2g} mm."
        notes.append(Note("averaged_edges", words + " A root radius makes it a number."))
    notes += _thin(mesh, model.grid.size)
    mass = float(fill.mass.sum(dtype=float))
    return Stressed(mesh, model, points, kept, found, zones, up, mass, notes, clamping=bolted)


def _with_bolts(mesh: Mesh, model: Model, clamps: list[Clamp]) -> tuple[Model, list[Squeeze]]:
    """The model with a load of one newton for each bolt. Raises InputError ``bad_options`` where one has no seat,
    ``bad_loads`` where a face that can only push would make sums of solutions wrong.
    """
    if model.footing.pressed.any():
        raise bad_loads(
            "A face that is only pressed lets go as the load grows, so bolts cannot be added to the solution.",
            "Hold it as fixed or sliding to count bolts, and look at what it answers.",
        )
    rays = RayScene(mesh)
    squeezes, loadings = zip(*(squeezed(model, rays, clamp) for clamp in clamps), strict=True)
    return replace(model, loadings=(*model.loadings, *loadings)), list(squeezes)


def in_service(found: Stressed, loads: LoadSet, material: Material, around: Circumstances) -> Stressed:
    """The same stresses, with the knock-downs of ``loads`` (the same cases) in ``around``; shock is in the stresses."""
    rows = [
        replace(row, case=case, factors=knock_downs(material, case.nature, case.cycles, around))
        for row, case in zip(found.cases, cases_of(loads), strict=True)
    ]
    return replace(found, cases=rows)


def zones_of(process: Process, size: float) -> tuple[float, float]:
    """mm left out round held and round loaded faces, on voxels of ``size`` mm."""
    return max(HELD_LINES * process.width, ZONE_CUBES * size), max(LOADED_LINES * process.width, ZONE_CUBES * size)


def read_stress(
    mesh: Mesh, model: Model, fill: material_field.MaterialField, answers: list[Answered], process: Process, zones: Any
) -> tuple[Points, np.ndarray, list[np.ndarray], bool]:
    """The points of a solved model, which of them count (k,), each case's stress (k, 6) MPa at them, and whether any
    of it is a mean at a sharp inner edge.
    """
    cells = tuple(model.lattice.cells.T)
    points = surface_points(mesh, model, process.width, process.shell, fill.filled[cells])
    relief = fill.relief[cells][points.cells]
    edges = sharp_edges(mesh, process.width)
    edge, spot = edges.near(points.places, reach_of(model, process.width))
    beside = edge[points.lie.kinds[edge] == OUTLINE]
    points.lie.kinds[beside] = PLAIN  # the mean about an edge is no stress normal to a line beside it
    mean = about_edges(model, edges, spot, process.width) if len(edge) else None
    found = []
    for answered in answers:
        raw = stresses(model, answered)
        stress = at_points(model, points, raw)
        if mean:
            stress[edge] = mean(raw)
        found.append((stress * relief[:, None]).astype(np.float32))
    return points, _kept(model, points, zones), found, len(edge) > 0


def fill_for(
    mesh: Mesh, voxels: Voxels, process: Process, up: Array | None, solid: bool
) -> material_field.MaterialField:
    """What fills the voxels: dense, with a shell all round, or as the layers normal to ``up`` lie."""
    if solid:
        return material_field.solid(voxels, process)
    return (
        material_field.screening(mesh, voxels, process)
        if up is None
        else material_field.layered(mesh, voxels, process, up)
    )


def _kept(model: Model, points: Points, zones: tuple[float, float]) -> np.ndarray:
    """Points outside the zones: where a face is held, and where a load presses hard, the sum has no limit."""
    kept = np.ones(len(points.places), bool)
    spots = [(model.footing.points, zones[0])]
    for loading in model.loadings:
        size = np.linalg.norm(loading.forces, axis=1)
        if len(size) and not loading.case.weight_only:
            spots.append((loading.points[size > PRESSED_HARD * size.max()], zones[1]))
    for places, zone in spots:
        if len(places):
            low, high = places.min(axis=0) - zone, places.max(axis=0) + zone
            near = np.flatnonzero(((points.places >= low) & (points.places <= high)).all(axis=1))
            away, _ = cKDTree(places).query(points.places[near], distance_upper_bound=zone)
            kept[near[np.isfinite(away)]] = False
    return kept
