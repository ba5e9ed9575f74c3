"""Whole answers that somebody waits for: all directions of a fine mesh, and of a panel of ninety cells."""

import contextlib
import io
import tempfile
from collections.abc import Callable
from pathlib import Path

import manifold3d as m3
import numpy as np

from bench.bodies import box, union
from bench.stress import spent
from hewel_engine.cli.main import main
from hewel_engine.edits.solids import mesh_of
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.rays import RayScene
from hewel_engine.io.stl import write_stl
from hewel_engine.orientation.study import study
from hewel_engine.parts.facts import facts_of
from hewel_engine.processes import Process


def honeycomb(across: int = 10, deep: int = 9, cell: float = 8.0, wall: float = 1.2, tall: float = 14.0) -> Mesh:
    """A panel of six-sided cells over a floor of 2 mm: many like places that hang alike."""
    radius = (cell - wall) / np.sqrt(3)
    middle = (across * cell / 2, deep * cell * 0.866 / 2, 0)
    panel = box(across * cell + 6, deep * cell * 0.866 + 8, tall, middle)
    cells = [
        m3.Manifold.cylinder(tall, radius, radius, 6).rotate((0, 0, 30))
        .translate(((i + 0.5 + 0.5 * (j % 2)) * cell, (j + 0.5) * cell * 0.866, 2.0))
        for j in range(deep) for i in range(across - j % 2)
    ]  # fmt: skip
    return mesh_of(panel - union(cells))


def bench_studies(mesh: Mesh, row: Callable) -> list[dict]:
    rays = RayScene(mesh)
    known = facts_of(mesh, rays)
    found, cpu, wall = spent(lambda: study(known, Process(), rays))
    out = [row(f"study, {len(mesh.faces):,} facets, {len(found.candidates)} candidates", cpu, wall)]
    panel = honeycomb()
    with tempfile.TemporaryDirectory() as folder, contextlib.redirect_stdout(io.StringIO()):
        file = Path(folder) / "panel.stl"
        file.write_bytes(write_stl(panel))
        _, cpu, wall = spent(lambda: main(["directions", str(file), "--json"]))
    return [*out, row(f"directions with remedies, panel of {len(panel.faces):,} facets", cpu, wall)]
