"""Walls: inscribed balls and rays against the mesh library's own calls, at equal answers."""

from collections.abc import Callable

import numpy as np
import trimesh
from manifold3d import Manifold

from hewel_engine.advice.adapting import reworked
from hewel_engine.edits.solids import mesh_of
from hewel_engine.geometry.features import find_bores
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.rays import RayScene
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.processes import Process
from hewel_engine.walls.drawn import layers_drawn
from hewel_engine.walls.thickness import thickness_of

SOME = 400
"""Spots at which the library is asked for its balls; its time is per spot."""


def bent_tube(around: int = 360, across: int = 80, outer: float = 9.0, inner: float = 7.5) -> Mesh:
    """115,200 facets: a ring of tube with a wall of 1.5 mm."""
    u, v = np.meshgrid(
        np.linspace(0, 2 * np.pi, around, endpoint=False), np.linspace(0, 2 * np.pi, across, endpoint=False),
        indexing="ij",
    )  # fmt: skip
    i, j = np.meshgrid(np.arange(around), np.arange(across), indexing="ij")
    a, b, c, d = ((((i + x) % around) * across + (j + y) % across).ravel() for x, y in ((0, 0), (1, 0), (1, 1), (0, 1)))
    faces = np.concatenate([np.c_[a, b, c], np.c_[a, c, d]])
    tubes = []
    for radius in (outer, inner):
        ring = 40 + radius * np.cos(v)
        tubes.append(np.stack([ring * np.cos(u), ring * np.sin(u), radius * np.sin(v)], axis=-1).reshape(-1, 3))
    return Mesh(np.concatenate(tubes), np.concatenate([faces, faces[:, ::-1] + around * across]))


def ball() -> Mesh:
    """A sphere: whatever facet is asked, all the others lie just outside its ball."""
    return mesh_of(Manifold.sphere(20, 128))


def bench_walls(row: Callable, cost: Callable) -> list[dict]:
    thickness_of(bent_tube(24, 12))
    mesh = bent_tube()
    ours, wall, found = cost(lambda: thickness_of(mesh))
    tri = trimesh.Trimesh(mesh.vertices, mesh.faces, process=False)
    tri.triangles_tree, tri.face_normals  # noqa: B018 (once per part is part of neither's time)
    some = np.arange(0, len(mesh.faces), len(mesh.faces) // SOME)
    spots, normals = mesh.centroids[some], mesh.normals[some]
    theirs, _, balls = cost(
        lambda: trimesh.proximity.max_tangent_sphere(tri, spots, inwards=True, normals=normals)[1], 1
    )
    differ = float(np.median(np.abs(2 * balls / found.ball[some] - 1)))
    rays = RayScene(mesh)
    start = mesh.centroids - rays.step * mesh.normals
    shot, shot_wall, far = cost(lambda: rays.distances(start, -mesh.normals))
    ask = lambda: tri.ray.intersects_location(start, -mesh.normals, multiple_hits=False)
    asked, _, seen = cost(ask)  # least of a few, as ours: what either prepares once per part is in neither's time
    theirs_far = np.linalg.norm(seen[0] - start[seen[1]], axis=1)
    agree = float(np.median(np.abs(theirs_far / far[seen[1]] - 1)))
    # The library stops at neighbouring facets there (17 mm of 40), so there is no like answer to weigh a ball against.
    whole, whole_wall, round_ = cost(lambda: thickness_of(ball()))
    return [
        row(f"inscribed balls and rays of every facet (mark 2 s): {len(mesh.faces):,} facets", ours, wall,
            theirs * len(mesh.faces) / len(some), "mesh library's tangent spheres", 40, differ),
        row("  rays alone, by the array call", shot, shot_wall, asked, "mesh library's ray call", 2, agree),
        row(f"  in a ball, all of it within reach: {len(round_.mesh.faces):,} facets", whole, whole_wall),
    ]  # fmt: skip


def bench_sizing(row: Callable, cost: Callable) -> list[dict]:
    """A cube of 60 mm with a bore through it: drawn layer by layer, and hollowed to a shell, proved."""
    bore = Manifold.cylinder(80, 8, circular_segments=96).rotate((90, 0, 0)).translate((0, 40, 30))
    part = mesh_of(Manifold.cube((60, 60, 60)).translate((-30, -30, 0)) - bore)
    up, process = np.array([0, 0, 1.0]), Process()
    stack = LayerStack(part, up, process.layer)
    spent, wall, drawn = cost(lambda: layers_drawn(stack, process), 2)
    rows = [row(f"every line of {len(drawn.slits)} layers drawn, slits and bare places found", spent, wall)]
    step = {"key": "hollow", "kind": "body", "centre_mm": [0, 0, 30], "set": {}}
    spent, wall, made = cost(lambda: reworked(part, up, process, find_bores(part), [step]), 1)
    taken = made.applied[0].removed / 1000
    return [*rows, row(f"a cube with a bore made a shell ({taken:.0f} cm³ taken), proved", spent, wall)]
