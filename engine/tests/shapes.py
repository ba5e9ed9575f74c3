"""Exact bodies for the tests, from the boolean library and from formulas. Millimetres."""

import os

import manifold3d as m3
import numpy as np

from hewel_engine.geometry.mesh import Mesh


def by_chance(*counts: int) -> range:
    """Seeds of bodies made by chance, as ``range``: all of them in a thorough run, every fifth in a daily one."""
    seeds = range(*counts)
    return seeds if os.environ.get("HEWEL_THOROUGH") else seeds[::5]


def mesh_of(solid: m3.Manifold) -> Mesh:
    out = solid.to_mesh64()
    return Mesh(np.asarray(out.vert_properties)[:, :3].copy(), np.asarray(out.tri_verts).astype(np.int32))


def box(x, y, z) -> m3.Manifold:
    return m3.Manifold.cube((x, y, z), True)


def rod(height, radius, sides=64, axis="z") -> m3.Manifold:
    turn = {"x": (0, 90, 0), "y": (90, 0, 0), "z": (0, 0, 0)}[axis]
    return m3.Manifold.cylinder(height, radius, radius, sides, True).rotate(turn)


def torus(ring, tube, around=256, across=128) -> Mesh:
    u = np.linspace(0, 2 * np.pi, around, endpoint=False)
    v = np.linspace(0, 2 * np.pi, across, endpoint=False)
    uu, vv = np.meshgrid(u, v, indexing="ij")
    w = ring + tube * np.cos(vv)
    points = np.stack([w * np.cos(uu), w * np.sin(uu), tube * np.sin(vv)], axis=-1).reshape(-1, 3)
    i, j = np.meshgrid(np.arange(around), np.arange(across), indexing="ij")
    at = lambda a, b: (a % around) * across + b % across
    q = [at(i, j).ravel(), at(i + 1, j).ravel(), at(i + 1, j + 1).ravel(), at(i, j + 1).ravel()]
    return Mesh(points, np.concatenate([np.c_[q[0], q[1], q[2]], np.c_[q[0], q[2], q[3]]]))


def sphere(radius, segments=256) -> Mesh:
    return mesh_of(m3.Manifold.sphere(radius, segments))


def rotation(seed) -> np.ndarray:
    q, r = np.linalg.qr(np.random.default_rng(seed).normal(size=(3, 3)))
    q = q * np.sign(np.diag(r))
    return q if np.linalg.det(q) > 0 else -q
