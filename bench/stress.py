"""The stress sums against a general algebraic multigrid library, a numpy loop, and their own marks."""

import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pyamg
from scipy.sparse import coo_matrix
from scipy.sparse.linalg import cg

from demo.river_station import demo_files
from hewel_engine.geometry.frames import sphere_directions
from hewel_engine.geometry.patches import find_faces
from hewel_engine.io.reading import take_in
from hewel_engine.loads.cases import read_loads
from hewel_engine.orientation.candidates import swept_directions
from hewel_engine.parts.facts import facts_of
from hewel_engine.processes import Process
from hewel_engine.strength.bricks import brick, isotropic, shapes
from hewel_engine.strength.criterion import Strengths, indices, tensors, worst_by_direction
from hewel_engine.strength.lattice import lattice_of
from hewel_engine.strength.multigrid import Cycle, solved
from hewel_engine.strength.operators import Bricks
from hewel_engine.strength.serialization import all_directions
from hewel_engine.strength.stressing import COARSE, FINE, stressed


def lug(voxel_count: int) -> np.ndarray:
    """A bulky body of about ``voxel_count`` cubes: a block with a rounded end and a bore across."""
    n = round((voxel_count / 1.62) ** (1 / 3))
    _, y, x = np.meshgrid(*(np.arange(k) + 0.5 for k in (n, n, 2 * n)), indexing="ij")
    from_axis = np.hypot(x - 1.5 * n, y - 0.5 * n)
    return ((x < 1.5 * n) | (from_axis < 0.5 * n)) & (from_axis > 0.22 * n)


def tube(voxel_count: int, wall: int) -> np.ndarray:
    """A standing tube with walls of ``wall`` cubes, five times as long as wide."""
    across = round((voxel_count / (5 * np.pi * wall)) ** 0.5) + wall
    y = np.arange(across) + 0.5 - across / 2
    r = np.hypot(y[:, None], y)
    ring = (r < across / 2) & (r > across / 2 - wall)
    return np.repeat(ring[:, :, None], 5 * across, axis=2)


def held(active: np.ndarray) -> tuple[Bricks, np.ndarray]:
    """Held on its low x end, pulled askew on the other."""
    lattice = lattice_of(active)
    owners = np.flatnonzero(lattice.cells[:, 2] == 0)
    end = np.array([[0, a, b] for a in (0.2, 0.8) for b in (0.2, 0.8)])
    ways = np.kron(shapes(end)[:, None], np.eye(3))
    bed = 30 / 4 * np.einsum("pia,pib->ab", ways, ways)
    bricks = Bricks(
        lattice, brick(isotropic(0.38)), np.ones(len(lattice)), np.repeat(bed[None], len(owners), 0), owners
    )
    force = np.zeros((len(lattice.nodes), 3))
    force[lattice.nodes[:, 2] == lattice.nodes[:, 2].max()] = [1.0, 0.4, -0.3]
    return bricks, force


def library(bricks: Bricks, force: np.ndarray) -> tuple[np.ndarray, int]:
    """Assembly, smoothed aggregation with the six rigid-body modes, conjugate gradients to a millionth."""
    lattice, n = bricks.lattice, len(bricks.lattice.nodes)
    blocks = bricks.stiffness[:, None, None] * bricks.brick
    np.add.at(blocks, bricks.owners, bricks.own)
    rows = (3 * lattice.corners[:, :, None] + np.arange(3)).reshape(-1, 24).astype(np.int32)
    i, j = (np.broadcast_to(r, blocks.shape).ravel() for r in (rows[:, :, None], rows[:, None, :]))
    matrix = coo_matrix((blocks.ravel(), (i, j)), shape=(3 * n, 3 * n)).tocsr().tobsr((3, 3))
    at = lattice.nodes[:, ::-1] - lattice.nodes[:, ::-1].mean(axis=0)
    modes = np.zeros((n, 3, 6))
    modes[:, [0, 1, 2], [0, 1, 2]] = 1
    for k in range(3):
        modes[:, :, 3 + k] = np.cross(np.eye(3)[k], at)
    levels = pyamg.smoothed_aggregation_solver(matrix, B=modes.reshape(3 * n, 6), max_coarse=500)
    count = 0

    def one_more(_):
        nonlocal count
        count += 1

    found, _ = cg(matrix, force.ravel(), rtol=1e-6, maxiter=400, M=levels.aspreconditioner(), callback=one_more)
    return found.reshape(-1, 3), count


def spent(call: Callable):
    cpu, wall = time.process_time(), time.perf_counter()
    result = call()
    return result, time.process_time() - cpu, time.perf_counter() - wall


def bench_solver(row: Callable) -> list[dict]:
    out = []
    bricks, force = held(lug(20_000))
    solved(bricks, Cycle(bricks), force)
    for voxel_count, mark in ((50_000, 8), (250_000, 12)):
        bricks, force = held(lug(voxel_count))
        ours, cpu, wall = spent(lambda b=bricks, f=force: solved(b, Cycle(b), f))
        (theirs, rounds), library_cpu, _ = spent(lambda b=bricks, f=force: library(b, f))
        apart = np.abs(theirs - ours.displacement).max() / np.abs(theirs).max()
        title = f"stress, {len(bricks.lattice):,} cubes of a lug, {ours.rounds} rounds"
        out.append(row(title, cpu, wall, library_cpu, f"algebraic multigrid, {rounds} rounds", mark, apart))
    for wall_cubes in (2, 3):
        bricks, force = held(tube(250_000, wall_cubes))
        ours, cpu, wall = spent(lambda b=bricks, f=force: solved(b, Cycle(b), f))
        out.append(
            row(f"  {len(bricks.lattice):,} cubes of a tube {wall_cubes} thick, {ours.rounds} rounds", cpu, wall)
        )
    result = subprocess.run([sys.executable, "-m", "bench.stress"], capture_output=True, text=True, check=True).stdout
    rounds, memory, cpu, wall = (float(v) for v in result.split())
    out.append(row(f"  1,000,000 cubes of a lug, {rounds:.0f} rounds, {memory:.2f} GB at most", cpu, wall))
    return out


def bench_directions(row: Callable) -> list[dict]:
    strength, ups = Strengths(45, 55, 28, 50, 20), sphere_directions()
    half = ups[: len(ups) // 2]
    rng = np.random.default_rng(1)
    mixed = rng.standard_normal((225_000, 6)) * np.exp(rng.standard_normal((225_000, 1)))
    even = np.tile([10.0, 0, 0, 0, 0, 0], (225_000, 1))
    out = []
    for name, stress, mark in (("a part's", mixed, 80), ("an even pull's", even, 30)):
        worst_by_direction(stress[:100], ups, strength)
        found, cpu, wall = spent(lambda s=stress: worst_by_direction(s, ups, strength))
        some = half[:: len(half) // 24]

        def loop(s=stress, some=some):
            tensor, least = tensors(s), []
            for up in some:
                traction = tensor @ up
                across = traction @ up
                between = (traction * traction).sum(axis=1) - across**2
                pull = np.maximum(across, 0)
                least.append(np.sqrt((pull / strength.z_t) ** 2 + between / strength.z_s**2).max())
            return least

        _, theirs, _ = spent(loop)
        brute = [indices(stress, up, strength).worst.max() for up in some]
        apart = np.abs(found.index[: len(ups) // 2 : len(half) // 24] / brute - 1).max()
        title = f"worst index, 225,000 points of {name} stress, every direction"
        out.append(row(title, cpu, wall, theirs / len(some) * len(half), "numpy loop", mark, apart))
    return out


def bench_answer(row: Callable) -> list[dict]:
    """From the loads on a part to the reserve in every direction: what somebody waits for after pressing *Check*."""
    part = next(f for f in demo_files() if f.name == "Sheave fork")
    mesh = take_in(part.data, "auto").mesh
    faces, bores = find_faces(mesh), sorted(facts_of(mesh).bores, key=lambda b: b.diameter)
    bore = lambda b: {"cylinder": {"point": b.centre.tolist(), "axis": b.axis.tolist(), "radius": b.diameter / 2}}
    pull = lambda name, force: {"name": name, "loads": [{"on": bore(bores[-1]), "force_n": force}]}
    process, ups = Process(), swept_directions(mesh, np.zeros((0, 3)))[0]
    out = []
    for cases in ([pull("hangs", [0, 0, -54])], [pull("hangs", [0, 0, -54]), pull("gust", [30, 20, -50])]):
        loads = read_loads({"fixed": [bore(bores[0])], "cases": cases}, len(mesh.faces))

        def answer(voxel_count, loads=loads):
            return all_directions(stressed(mesh, faces, loads, process, voxel_count=voxel_count), process, ups)

        answer(COARSE)
        for words, voxel_count in (("first answer (mark 2 s)", COARSE), ("full answer (mark about 10 s)", FINE)):
            _, cpu, wall = spent(lambda c=voxel_count: answer(c))
            out.append(row(f"{words}, {len(cases)} case{'s' * (len(cases) > 1)}, {voxel_count:,} cubes", cpu, wall))
    return out


if __name__ == "__main__":
    bricks, force = held(lug(1_000_000))
    found, cpu, wall = spent(lambda: solved(bricks, Cycle(bricks), force))
    most = next(line for line in Path("/proc/self/status").read_text().splitlines() if line.startswith("VmHWM"))
    print(found.rounds, int(most.split()[1]) / 1e6, cpu, wall)
