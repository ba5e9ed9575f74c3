"""The whole question of direction: sweep, candidates, ranking; candidates as they come."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from hewel_engine.geometry.features import Bore, Flat
from hewel_engine.geometry.frames import sphere_directions
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.rays import RayScene
from hewel_engine.orientation.candidates import MOST, Candidate, examine, pick, swept_directions
from hewel_engine.orientation.ranking import rank
from hewel_engine.orientation.sweep import Sweep, sweep
from hewel_engine.parts.facts import Facts
from hewel_engine.processes import Process


@dataclass
class Study:
    swept: Sweep
    sources: list[str]
    candidates: list[Candidate]


def examined(
    mesh: Mesh, rays: RayScene, swept: Sweep, sources: list[str], process: Process, bores: list[Bore],
    most: int = MOST,
) -> Iterator[tuple[int, list[Candidate]]]:  # fmt: skip
    """How many candidates there are, at most ``most``, and those examined so far: first none, then each one more."""
    rows = pick(swept, sources, most)
    found: list[Candidate] = []
    yield len(rows), found
    for row in rows:
        found.append(examine(mesh, rays, swept, row, sources[row], process, bores))
        yield len(rows), found


def sweep_of_part(mesh: Mesh, flats: list[Flat], process: Process, rays: RayScene) -> tuple[Sweep, list[str]]:
    """The sweep over the sphere, the axes, the part's flats and its hull, with the source of each direction."""
    ups, sources = swept_directions(mesh, np.array([f.normal for f in flats]).reshape(-1, 3))
    return sweep(mesh, ups, process, rays), sources


def coarse_sweep(mesh: Mesh, process: Process, rays: RayScene) -> Sweep:
    """642 directions of the sphere: a first picture of the net, a quarter of the work."""
    return sweep(mesh, sphere_directions(3), process, rays)


def study(facts: Facts, process: Process, rays: RayScene | None = None) -> Study:
    """Sweeps every direction, examines the candidates one by one, and ranks them."""
    mesh, rays = facts.mesh, rays or RayScene(facts.mesh)
    swept, sources = sweep_of_part(mesh, facts.flats, process, rays)
    *_, (_, candidates) = examined(mesh, rays, swept, sources, process, facts.bores or [])
    return Study(swept, sources, rank(candidates))
