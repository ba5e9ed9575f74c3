"""``./hewel bench``: our sums against a general mesh library's own calls, in one run, by processor time.

Ratios say how many times more processor time the library takes; the results are compared too, so that a quick wrong
answer cannot win. The library is called once per direction (or per stack of layers) as its documentation shows.
"""

import json
import platform
import time
from collections.abc import Callable
from datetime import datetime
from pathlib import Path

import numpy as np
import trimesh

from bench.advice import bench_advice
from bench.bodies import wavy_torus
from bench.fit import bench_fit
from bench.hardware import bench_hardware
from bench.plates import bench_curve, bench_plates, bench_prepared
from bench.refining import bench_refining
from bench.serving import measure
from bench.stress import bench_answer, bench_directions, bench_solver
from bench.studies import bench_studies
from bench.walls import bench_sizing, bench_walls
from bench.week import bench_week
from demo.river_station import demo_files
from hewel_engine.advice.adapting import adapted
from hewel_engine.geometry.frames import sphere_directions
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.rays import RayScene
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.io.reading import take_in
from hewel_engine.io.stl import write_stl
from hewel_engine.orientation.study import study
from hewel_engine.orientation.sweep import facet_sums, sweep
from hewel_engine.overhangs.truth import truth_of
from hewel_engine.parts.facts import facts_of
from hewel_engine.printing.paths import layer_paths
from hewel_engine.processes import Process
from hewel_engine.tolerances import OVERHANG_MARGIN

LIMIT = 45.0
OUT = Path(__file__).parent / "results.json"


def cost(call: Callable, repeat: int = 3) -> tuple[float, float, object]:
    """Least processor seconds and least wall seconds of a few runs, and the last result."""
    spent, passed, result = [], [], None
    for _ in range(repeat):
        cpu, wall = time.process_time(), time.perf_counter()
        result = call()
        spent.append(time.process_time() - cpu)
        passed.append(time.perf_counter() - wall)
    return min(spent), min(passed), result


def library_direction(tri: trimesh.Trimesh, up: np.ndarray) -> tuple[float, float, float]:
    """Overhang area, support proxy and contact of one direction as one asks the library for them."""
    part = tri.copy(include_cache=False)
    part.apply_transform(trimesh.geometry.align_vectors(up, [0, 0, 1]))
    z = part.vertices[:, 2] - part.bounds[0, 2]
    on_plate = (z[part.faces] <= 0.005).all(axis=1) & (part.face_normals[:, 2] < 0)
    d = -part.face_normals[:, 2]
    needs = (d > np.sin(np.radians(LIMIT + OVERHANG_MARGIN))) & ~on_plate
    drop = part.triangles_center[:, 2] - part.bounds[0, 2]
    area = part.area_faces
    return area[needs].sum(), (area * d * drop)[needs].sum(), area[on_plate].sum()


def blocked_products(mesh: Mesh, ups: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The same sums by float64 matrix products over blocks of directions."""
    hang, proxy = np.empty(len(ups)), np.empty(len(ups))
    threshold = -np.sin(np.radians(LIMIT + OVERHANG_MARGIN))
    low = mesh.extents(ups)[0]
    for rows in np.array_split(np.arange(len(ups)), 40):
        d, z = mesh.normals @ ups[rows].T, mesh.centroids @ ups[rows].T - low[rows]
        w = np.where(d < threshold, mesh.areas[:, None], 0.0)
        hang[rows], proxy[rows] = w.sum(axis=0), -(w * d * z).sum(axis=0)
    return hang, proxy


def bench_sweep(mesh: Mesh) -> list[dict]:
    ups = sphere_directions()
    facet_sums(mesh, ups[:4], LIMIT)
    ours, wall, got = cost(lambda: facet_sums(mesh, ups, LIMIT))
    tri = trimesh.Trimesh(mesh.vertices, mesh.faces, process=False)
    some = ups[:: len(ups) // 12]
    theirs, _, each = cost(lambda: [library_direction(tri, up) for up in some], 1)
    agree = np.abs(np.array(each)[:, 0] / got[0][:: len(ups) // 12] - 1).max()
    matrix, _, product = cost(lambda: blocked_products(mesh, ups), 1)
    agree_too = np.abs(product[0] / got[0] - 1).max()
    whole, whole_wall, _ = cost(lambda: sweep(mesh, ups, Process(), RayScene(mesh)), 1)
    title = f"{len(mesh.faces):,} facets × {len(ups):,} directions"
    return [
        row(
            f"sweep, facet sums: {title}",
            ours,
            wall,
            theirs / len(some) * len(ups),
            "mesh library per direction",
            100,
            agree,
        ),
        row("  the same", ours, wall, matrix, "blocked float64 matrix products", 8, agree_too),
        row("  with rays, tipping, drag, curl, scar", whole, whole_wall),
    ]


def bench_sections(mesh: Mesh, layers: int = 500) -> list[dict]:
    up = np.array([0.2, -0.3, 1.0]) / np.linalg.norm([0.2, -0.3, 1.0])
    fresh = LayerStack(mesh, up, 1.0)
    pitch = fresh.height / layers
    mesh.edges  # noqa: B018 (once per part, not per direction)
    LayerStack(mesh, up, fresh.height / 3).integrals  # noqa: B018

    def stack() -> LayerStack:
        s = LayerStack(mesh, up, pitch)
        s.points  # noqa: B018 (turning the part is part of neither's time)
        return s

    ready = [stack() for _ in range(6)]
    ours, wall, integrals = cost(lambda: ready.pop().integrals)
    lines, lines_wall, outlines = cost(lambda: raw_outlines(ready.pop()))
    full, full_wall, _ = cost(lambda: stack().plan(0), 1)
    turned = trimesh.Trimesh(stack().points, mesh.faces, process=False)
    heights = pitch / 2 + pitch * np.arange(layers)
    turned.triangles, turned.face_normals  # noqa: B018
    theirs, _, sections = cost(
        lambda: turned.section_multiplane(plane_origin=[0, 0, 0], plane_normal=[0, 0, 1], heights=heights), 1
    )
    total = sum(s.length for s in sections[:: layers // 20] if s is not None)
    agree = abs(total / integrals[:: layers // 20, 6].sum() - 1)
    assert len(outlines[1]) - 1 >= layers  # a loop a layer at least
    title = f"{len(mesh.faces):,} facets, {layers} layers"
    return [
        row(f"layer integrals: {title}", ours, wall, theirs, "mesh library's multi-plane section", 100, agree),
        row("closed outlines, same", lines, lines_wall, theirs, "mesh library's multi-plane section", 50, agree),
        row("  as plans of the clipping library", full, full_wall),
    ]


def bench_layers(mesh: Mesh, layers: int = 500) -> list[dict]:
    """What a walk up the layers costs; meant to stay under 5 s for 100,000 facets and 500 layers."""
    up = np.array([0.2, -0.3, 1.0]) / np.linalg.norm([0.2, -0.3, 1.0])
    pitch = LayerStack(mesh, up, 1.0).height / layers
    process, rays = Process(layer=pitch), RayScene(mesh)
    small = LayerStack(mesh, up, pitch * 50)
    truth_of(small, Process(layer=0.5), [], rays), layer_paths(small, Process(layer=0.5))
    truth, truth_wall, found = cost(lambda: truth_of(LayerStack(mesh, up, pitch), process, [], rays), 1)
    paths, paths_wall, _ = cost(lambda: layer_paths(LayerStack(mesh, up, pitch), process), 1)
    title = f"{len(mesh.faces):,} facets, {layers} layers"
    return [
        row(f"layer truth, {len(found.regions)} regions (mark 5 s): {title}", truth, truth_wall),
        row("lines and time of every layer, same", paths, paths_wall),
    ]


def raw_outlines(s: LayerStack):
    return s.loops


def bench_errand(mesh: Mesh) -> list[dict]:
    """What a person waits for after an upload."""
    data = write_stl(mesh)
    read, read_wall, taken = cost(lambda: take_in(data), 1)
    facts, facts_wall, found = cost(lambda: facts_of(taken.mesh), 1)
    asked, asked_wall, result = cost(lambda: study(found, Process()), 1)
    return [
        row("reading and mending a binary STL of it", read, read_wall),
        row("bores and flats", facts, facts_wall),
        row(f"whole study, {len(result.candidates)} candidates sliced", asked, asked_wall),
    ]


def bench_remedies() -> list[dict]:
    """Every remedy of a demo part, made and proved."""
    part = take_in(next(f for f in demo_files() if f.name == "Sheave fork").data, "auto").mesh
    bores, process = facts_of(part).bores, Process()
    remedy = lambda: adapted(part, np.array([1.0, 0, 0]), process, bores)
    remedy()
    spent, wall, found = cost(remedy, 1)
    title = f"{len(found.applied)} remedies of a part, {len(part.faces):,} facets, made and proved"
    return [row(title, spent, wall)]


def row(
    title: object,
    ours: object,
    wall: object,
    theirs: object = None,
    baseline: object = "",
    mark: object = None,
    differ: object = None,
) -> dict:
    ratio = None if theirs is None else theirs / ours
    return {
        "sum": title, "cpu_s": ours, "wall_s": wall, "baseline": baseline,
        "baseline_cpu_s": theirs, "ratio": ratio, "mark": mark, "differs_by": differ,
    }  # fmt: skip


def result(r: dict) -> None:
    line = f"{r['sum']:<58} {r['cpu_s']:8.3f} s cpu {r['wall_s']:8.3f} s"
    if r["ratio"]:
        line += f"  {r['ratio']:7.1f} × {r['baseline']} (mark {r['mark']}), differs by {float(r['differs_by']):.1e}"
    print(line, flush=True)


def main() -> None:
    mesh = wavy_torus()
    groups = (
        lambda: bench_walls(row, cost), lambda: bench_sizing(row, cost), bench_remedies,
        lambda: bench_sweep(mesh), lambda: bench_sections(mesh), lambda: bench_layers(mesh), lambda: bench_errand(mesh),
        lambda: bench_studies(mesh, row), lambda: bench_advice(row), lambda: bench_refining(row),
        lambda: bench_solver(row), lambda: bench_directions(row), lambda: bench_answer(row),
        lambda: bench_plates(row, cost), lambda: bench_curve(row, cost), lambda: bench_prepared(row, cost),
        lambda: bench_week(row, cost), lambda: bench_hardware(row, cost),
        lambda: bench_fit(row, cost),
    )  # fmt: skip
    rows = []
    for group in groups:
        for r in group():
            result(r)
            rows.append(r)
    serving = measure()
    for r in serving:
        print(
            f"{r['clients']} clients: {r['request']:<22} median {r['median_ms']:7.1f} ms, p95 {r['p95_ms']:7.1f} ms,"
            f" {r['per_second']:6.0f} a second",
            flush=True,
        )
    machine = (
        f"{platform.machine()}, {platform.python_implementation()} {platform.python_version()}, numpy {np.__version__}"
    )
    found = {"when": datetime.now().date().isoformat(), "machine": machine, "rows": rows, "serving": serving}
    OUT.write_text(json.dumps(found, indent=1, default=float) + "\n")


if __name__ == "__main__":
    main()
