"""A closer look: a window of the part on a finer grid, its rim moved as the whole part moves there.

Saint-Venant: what the coarser grid gets wrong at a notch fades within a few of its voxels, so the rim may follow it.
The window's inside, away from the rim, then replaces what was read on the coarser grid.
"""

from dataclasses import dataclass, replace

import numpy as np

from hewel_engine.errors import Note
from hewel_engine.geometry.features import Bore
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.patches import Faces
from hewel_engine.geometry.voxels import Grid, filled
from hewel_engine.loads.cases import LoadSet
from hewel_engine.processes import Process
from hewel_engine.strength.lattice import lattice_of, pieces, tie
from hewel_engine.strength.lines import Lie
from hewel_engine.strength.model import HOLD, Loading, Model, footing_of, loading_of, stiff_share
from hewel_engine.strength.recovery import Points
from hewel_engine.strength.reserves import reserves
from hewel_engine.strength.solution import Watch, part_of, quiet, solve
from hewel_engine.strength.stressing import Stressed, fill_for, read_stress, zones_of

ACROSS_BORE = 32
"""Voxels across a bore that carries load: its peak is then within 6 %."""
RIM = 4.0
"""Voxels of the coarser grid between the rim and what is read: the error of the rim has faded there."""
ROOM = 200_000
"""Voxels of a window, empty ones too, where no other number is asked for."""
SETTLED = 0.03
"""Change of the worst index by one refinement, below which it has settled."""
FINER = 8.0
"""Times finer than the whole, at most: beyond, the coarse voxels say too little about the rim."""


@dataclass(frozen=True)
class Submodel:
    """``low`` and ``high`` (3,) mm: what is to be read closely; ``size`` mm of its voxels; ``why`` in words."""

    low: Array
    high: Array
    size: float
    why: str
    bore: float = 0.0
    """Diameter mm of the bore that it is for; 0 for none."""


def loaded_bores(bores: list[Bore], foot: Array, pushed: Array) -> list[Bore]:
    """Bores on whose wall something is held or loaded: points (k, 3) mm of both."""
    points, out = np.concatenate([foot, pushed]), []
    for bore in bores:
        r = points - bore.centre
        along = r @ bore.axis
        off = np.linalg.norm(r - np.outer(along, bore.axis), axis=1)
        # Well inside its ends: a face that the bore opens into is no wall of it.
        on = (np.abs(off - bore.diameter / 2) < 0.05 * bore.diameter) & (np.abs(along) < 0.48 * bore.depth)
        if on.any():
            out.append(bore)
    return out


def bore_windows(found: Stressed, bores: list[Bore]) -> list[Submodel]:
    """Loaded and held bores that the grid does not resolve, each with its surroundings, ACROSS_BORE voxels across."""
    out = []
    pushed = np.concatenate([row.points for row in found.model.loadings])
    for bore in loaded_bores(bores, found.model.footing.points, pushed):
        if bore.diameter / found.size >= ACROSS_BORE:
            continue
        across = 0.75 * bore.diameter * np.sqrt(np.maximum(0, 1 - bore.axis**2))
        reach = across + 0.5 * bore.depth * np.abs(bore.axis)
        size = max(bore.diameter / ACROSS_BORE, found.size / FINER)
        out.append(
            Submodel(bore.centre - reach, bore.centre + reach, size, f"bore {bore.diameter:.3g} mm", bore.diameter)
        )
    return out


def unresolved(found: Stressed, bores: list[Bore]) -> list[Note]:
    """The loaded bores that stay coarser than ACROSS_BORE, each by name."""
    notes = []
    for submodel in bore_windows(found, bores):
        looked = [
            w.size for w in found.looked_at if np.allclose(w.low, submodel.low) and np.allclose(w.high, submodel.high)
        ]
        across = submodel.bore / min([found.size, *looked])
        if across < 0.98 * ACROSS_BORE:
            place = ", ".join(f"{x:.1f}" for x in (submodel.low + submodel.high) / 2)
            words = f"The {submodel.why} at ({place}) mm has {across:.0f} voxels across, fewer than {ACROSS_BORE}: "
            notes.append(Note("under_resolved", words + f"its peak may read some {12 if across >= 16 else 25} % low."))
    return notes


def peak_window(found: Stressed, place: Array, name: str, times: float = 2.0) -> Submodel:
    """The surroundings of a case's worst point, ``times`` finer than what it was read on."""
    reach = 5 * found.size
    return Submodel(place - reach, place + reach, found.size / times, f"worst place of “{name}”")


def looked_closely(
    found: Stressed,
    mesh: Mesh,
    faces: Faces | None,
    loads: LoadSet,
    process: Process,
    ups: list[Array],
    bores: list[Bore],
    solid: bool = False,
    watch: Watch = quiet,
    room: int = ROOM,
) -> Stressed:
    """``found`` with every loaded bore resolved, as far as FINER allows, and the worst place of each case in the
    directions ``ups`` read twice as finely, and once more where that still changed it by more than SETTLED. How much
    the last step changed is told. No window has more than about ``room`` voxels.
    """
    narrow = bore_windows(found, bores)
    total, behind = len(narrow) + len(ups) * len(found.cases), 0
    for submodel in narrow:
        progress = part_of(watch, behind, total, f"looking closer at the {submodel.why}")
        found, behind = closer(found, mesh, faces, loads, process, submodel, solid, progress, room), behind + 1
    found = replace(found, notes=[*found.notes, *unresolved(found, bores)])
    worst = 0.0
    done: list[Array] = []
    for up in ups:
        for name, place in worst_places(found, process, up):
            progress = part_of(watch, behind, total, f"looking closer at the worst place of {name}")
            behind += 1
            if any(np.linalg.norm(place - p) < 3 * found.size for p in done):
                continue
            done.append(place)
            change = 0.0
            for times in (2.0, 4.0):
                before = dict(_least(found, process, up))[name]
                window = peak_window(found, place, name, times)
                found = closer(found, mesh, faces, loads, process, window, solid, progress, room)
                change = abs(dict(_least(found, process, up))[name] / before - 1)
                if change <= SETTLED:
                    break
            worst = max(worst, change)
    if done:
        settled = worst <= 2 * SETTLED
        words = f"The last refinement changed the worst index by {100 * worst:.0f} %"
        words += "." if settled else ": it has not settled; a sharp edge or too thin a wall lies there."
        note = Note("peak_settled" if settled else "peak_open", words)
        found = replace(found, notes=[*found.notes, note], change=worst)
    return found


def _least(found: Stressed, process: Process, up: Array) -> list[tuple[str, float]]:
    return [(r.name, 1 / r.reserve if r.reserve else 0.0) for r in reserves(found, process.stock, up)]


def worst_places(found: Stressed, process: Process, up: Array) -> list[tuple[str, Array]]:
    """Of each case that loads the part at all: its name and the place of its least reserve on the layers normal to
    ``up``.
    """
    return [(r.name, np.array(r.at)) for r in reserves(found, process.stock, up) if r.reserve]


def closer(
    found: Stressed,
    mesh: Mesh,
    faces: Faces | None,
    loads: LoadSet,
    process: Process,
    submodel: Submodel,
    solid: bool = False,
    watch: Watch = quiet,
    room: int = ROOM,
) -> Stressed:
    """``found`` with the points inside ``submodel`` read anew on its finer grid. Unchanged where the window would be
    too large or holds nothing.
    """
    grid = _grid(found, submodel, room)
    if np.prod(grid.shape) > room * 4:
        return found
    voxels = filled(mesh, grid.size, grid)
    if (voxels.share >= 0.5).sum() < 64:
        return found
    fill = fill_for(mesh, voxels, process, found.up, solid)
    model = _cut_out(found, mesh, faces, loads, voxels, fill)
    answers = solve(model, watch)
    points, kept, stress, _ = read_stress(mesh, model, fill, answers, process, zones_of(process, grid.size))
    inside = ((points.places >= submodel.low) & (points.places <= submodel.high)).all(axis=1)
    outside = ~((found.points.places >= submodel.low) & (found.points.places <= submodel.high)).all(axis=1)
    join = lambda old, new: np.concatenate([old[outside], new[inside]])
    merged = Points(
        join(found.points.places, points.places),
        Lie(join(found.points.lie.normals, points.lie.normals), join(found.points.lie.kinds, points.lie.kinds)),
        join(found.points.cells, np.full(len(points.cells), -1)),
    )
    cases = [replace(row, stress=join(row.stress, s)) for row, s in zip(found.cases, stress, strict=True)]
    note = Note("closer_look", f"Read on voxels of {grid.size:.2g} mm at the {submodel.why}.")
    return replace(
        found, points=merged, kept=join(found.kept, kept), cases=cases, notes=[*found.notes, note],
        looked_at=(*found.looked_at, replace(submodel, size=grid.size)),
    )  # fmt: skip


def _grid(found: Stressed, submodel: Submodel, room: int) -> Grid:
    """The window and its rim, within the part's own grid; the size grown until it fits the ``room``."""
    whole = found.model.grid
    begin, end = whole.box
    low = np.maximum(submodel.low - RIM * whole.size, begin)
    high = np.minimum(submodel.high + RIM * whole.size, end)
    size = max(submodel.size, (np.prod(high - low) / room) ** (1 / 3))
    count = np.maximum(np.ceil((high - low) / size - 1e-9).astype(int), 1)
    return Grid(low, float(size), tuple(int(n) for n in count[::-1]))


def _cut_out(found: Stressed, mesh: Mesh, faces, loads: LoadSet, voxels, fill) -> Model:
    grid, whole = voxels.grid, found.model
    label, count = pieces(stiff_share(voxels.share, fill.stiffness))
    keep = label > 0
    if count > 1:  # bits that the window cuts off and the rim does not reach
        keep = np.isin(label, _reached(label, whole.grid, grid))
    lattice = lattice_of(keep)
    foot = footing_of(mesh, faces, list(loads.holds), lattice, grid, within=True)
    foot = foot.within(grid.holds(foot.points))
    rim = _rim(lattice, whole.grid, grid)
    cells, corner = _owners(lattice, rim)
    follow = np.zeros((len(rim), 24, 24))
    for d in range(3):
        follow[np.arange(len(rim)), 3 * corner + d, 3 * corner + d] = HOLD
    there = tie(whole.lattice, whole.grid, grid.origin + lattice.nodes[rim][:, ::-1] * grid.size)
    loadings = []
    for row in found.cases:
        case, by = row.case, row.shock
        fine = loading_of(mesh, faces, case, lattice, grid, fill.mass[keep], by, within=True)
        nodal = fine.nodal
        moved = there.at(whole.lattice, row.answered.displacement)
        if not len(foot.points):
            moved = _strained(lattice.nodes[rim].astype(float), moved)
        nodal[rim] += HOLD * whole.modulus * grid.size * moved
        loadings.append(Loading(case, nodal, fine.points, fine.forces))
    return Model(
        grid, lattice, voxels.share[keep], fill.stiffness[keep].astype(float), whole.law, whole.modulus, foot,
        tuple(loadings), (), (cells, follow),
    )  # fmt: skip


def _strained(nodes: Array, moved: Array) -> Array:
    """What is left of the motions (k, 3) of ``nodes`` (k, 3) [z, y, x] once their common shift and turn are taken out:
    at the end of a long arm those are far more than what strains it, and would be all that a solution is judged by.
    """
    at = (nodes - nodes.mean(axis=0))[:, ::-1]
    turn = np.zeros((len(at), 3, 6))
    turn[:, range(3), range(3)] = 1.0
    for axis, (a, b) in enumerate(((1, 2), (2, 0), (0, 1))):
        turn[:, a, 3 + axis], turn[:, b, 3 + axis] = -at[:, b], at[:, a]
    rigid, *_ = np.linalg.lstsq(turn.reshape(-1, 6), moved.reshape(-1), rcond=None)
    return moved - (turn @ rigid)


def _open_sides(whole: Grid, grid: Grid) -> list[tuple[int, int]]:
    """(axis of [z, y, x], side) where the window's rim cuts through the part's own grid."""
    end = whole.box[1]
    out = []
    for d in range(3):
        if grid.origin[d] > whole.origin[d] + 1e-9 * whole.size:
            out.append((2 - d, 0))
        if grid.origin[d] + grid.size * grid.shape[2 - d] < end[d] - 1e-9 * whole.size:
            out.append((2 - d, 1))
    return out


def _reached(label: np.ndarray, whole: Grid, grid: Grid) -> np.ndarray:
    found = [np.unique(np.take(label, -1 if side else 0, axis=axis)) for axis, side in _open_sides(whole, grid)]
    return np.setdiff1d(np.unique(np.concatenate(found)) if found else np.unique(label), [0])


def _rim(lattice, whole: Grid, grid: Grid) -> np.ndarray:
    on = np.zeros(len(lattice.nodes), bool)
    for axis, side in _open_sides(whole, grid):
        on |= lattice.nodes[:, axis] == (grid.shape[axis] if side else 0)
    return np.flatnonzero(on)


def _owners(lattice, nodes: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """A cell of each node, and which of its corners the node is."""
    cell, corner = np.full(len(lattice.nodes), -1), np.zeros(len(lattice.nodes), int)
    for a in range(8):
        cell[lattice.corners[:, a]], corner[lattice.corners[:, a]] = np.arange(len(lattice)), a
    return cell[nodes], corner[nodes]
