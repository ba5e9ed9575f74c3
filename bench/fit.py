"""Fits: a table of forty faces, and all fits of a lid drawn and proved."""

from collections.abc import Callable

import manifold3d as m3
import numpy as np

from demo.jobs import LOGGER_LID_JOB
from demo.river_station import logger_lid, solid_mesh
from hewel_engine.advice.adapting import Adapted, reworked, stray
from hewel_engine.fits.estimates import Wish
from hewel_engine.fits.numbers import FitNumbers, given_numbers
from hewel_engine.fits.rows import FitRow, measured, row_of
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.patches import Faces, find_faces
from hewel_engine.geometry.rays import RayScene
from hewel_engine.processes import Process

UP = np.array([0, 0, 1.0])


def _rows(
    mesh: Mesh, faces: Faces, rays: RayScene, shapes: list[list[dict]], wishes: list[Wish], numbers: FitNumbers
) -> list[FitRow]:
    plate = float(mesh.vertices[:, 2].min())
    given = zip(shapes, wishes, strict=True)
    return [row_of(measured(mesh, faces, rays, shape, False), wish, numbers, UP, plate) for shape, wish in given]


def panel() -> tuple[Mesh, list[list[dict]]]:
    """A panel with forty bores, and where each is."""
    solid, shapes = m3.Manifold.cube((170, 110, 12), True), []
    for i in range(8):
        for j in range(5):
            x, y, radius = 20.0 * i - 70, 20.0 * j - 40, 3 + 0.1 * i
            solid -= m3.Manifold.cylinder(20, radius, radius, 96, True).translate((x, y, 0))
            shapes.append([{"cylinder": {"point": [x, y, 0], "axis": [0, 0, 1], "radius": radius}}])
    return solid_mesh(solid), shapes


def bench_fit(row: Callable, cost: Callable) -> list[dict]:
    process = Process()
    numbers = given_numbers(process, {})
    mesh, shapes = panel()
    wishes = [Wish("sliding")] * len(shapes)
    faces, rays = find_faces(mesh), RayScene(mesh)  # a part that is looked at is in memory with both
    cpu, wall, table = cost(lambda: _rows(mesh, faces, rays, shapes, wishes, numbers), 1)
    assert len(table) == 40 and all(r.steps for r in table)
    out = [row("table of forty touching faces (mark 0.3 s)", cpu, wall, mark=0.3)]
    lid, touching = solid_mesh(logger_lid()), LOGGER_LID_JOB["touching"]["rows"]
    where = {r["id"]: r["shape"] for r in LOGGER_LID_JOB["regions"]["rows"]}
    between = [[where[k] for k in (t["on"], t.get("across")) if k] for t in touching]
    wishes = [Wish(t["fit"], float(t["size"].split()[0])) for t in touching]

    def drawn() -> tuple[Adapted, float]:
        rows = _rows(lid, find_faces(lid), RayScene(lid), between, wishes, numbers)
        came = reworked(lid, UP, process, [], [s for r in rows for s in r.steps])
        return came, stray(lid, came)

    cpu, wall, (came, off) = cost(drawn, 1)
    assert not came.unfit and off < 0.01, (came.unfit, off)
    return [*out, row("all fits of a lid drawn and proved (mark 3 s)", cpu, wall, mark=3.0)]
