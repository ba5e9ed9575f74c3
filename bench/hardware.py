"""Bolts on a fork: what their unit solutions cost against one load case, and another torque against nothing solved."""

from collections.abc import Callable
from dataclasses import replace

import manifold3d as m3
import numpy as np

from hewel_engine.edits.solids import mesh_of
from hewel_engine.geometry.features import find_bores
from hewel_engine.geometry.patches import find_faces
from hewel_engine.geometry.rays import RayScene
from hewel_engine.hardware.clamped import Field, Joint, Setting, field_of, tightened, verdicts
from hewel_engine.hardware.placing import seated
from hewel_engine.loads.cases import read_loads
from hewel_engine.processes import Process
from hewel_engine.strength.stressing import FINE, bare, stressed

UP = np.array([0.0, 0.0, 1.0])
PROCESS = Process(perimeters=4, infill=0.3)
ROOT = {"plane": {"point": [0, 0, 0], "normal": [0, 0, -1], "tol": 0.05}}
AXLE = {"cylinder": {"point": [0, 0, 64], "axis": [0, 1, 0], "radius": 5, "tol": 0.1}}


def fork() -> m3.Manifold:
    """Two cheeks on a crown, an axle across them."""
    box = lambda x, y, z, y0, z0: m3.Manifold.cube((x, y, z), True).translate((0, y0, z0))
    body = box(40, 56, 14, 0, 7) + box(40, 14, 70, -21, 49) + box(40, 14, 70, 21, 49)
    axle = m3.Manifold.cylinder(80, 5, circular_segments=64, center=True).rotate((90, 0, 0))
    return body - axle.translate((0, 0, 64))


def bench_hardware(row: Callable, cost: Callable) -> list[dict]:
    mesh = mesh_of(fork())
    rows = [
        {"id": f"{x}{y}", "name": f"{x}{y}", "kind": "bolt", "size": "M5", "at": [x, y, 84], "axis": [0, 0, -1],
         "head": "socket", "washer": "washer", "nut": "square_nut_thin", "pocket": "open", "steel": "8.8"}
        for x in (-12, 12) for y in (-21, 21)
    ]  # fmt: skip
    bores = find_bores(mesh, RayScene(mesh))
    cpu, wall, made = cost(lambda: seated(mesh, UP, PROCESS, bores, rows), 1)
    out = [row("four bolts cut into a fork and proved", cpu, wall)]
    faces = find_faces(made.mesh)
    loads = {"fixed": [{"on": ROOT}], "cases": [{"name": "pull", "loads": [{"on": AXLE, "force_n": [0, 400, 1300]}]}]}
    given = bare(read_loads(loads, len(made.mesh.faces)))
    clamps = [p.clamp(float(PROCESS.stock.e_z)) for p in made.rows]
    solve = lambda more: stressed(made.mesh, faces, given, PROCESS, voxel_count=FINE, up=UP, clamps=more)
    alone, alone_wall, _ = cost(lambda: solve(None), 1)
    with_bolts, bolts_wall, found = cost(lambda: solve(clamps), 1)
    out.append(row(f"one load case on {len(found.model.lattice):,} cubes", alone, alone_wall))
    more = with_bolts / alone - 1
    out.append(row(f"with its four bolts: {more:.1f} times as much again (mark 2.5)", with_bolts, bolts_wall))
    field = Field.unpacked(field_of(found, PROCESS.stock, UP).packed())
    joint = Joint.of(made.rows, PROCESS.stock.e_z)
    setting = Setting((300.0,) * 4)

    def another() -> list:
        tight = tightened(field, joint, replace(setting, torque=(350.0,) * 4), PROCESS.stock)
        return verdicts(field, joint, tight, ["pull"], [[]], PROCESS.stock, 2.0)

    cpu, wall, _ = cost(another)
    return [*out, row("another torque read (mark 200 ms)", cpu, wall)]
