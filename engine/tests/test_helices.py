"""Threads that a part has already are found with their pitch and depth; rings, flutes and plain walls are not."""

import manifold3d as m3
import numpy as np
import pytest
from shapes import box, by_chance, mesh_of, rod, rotation
from test_made import made, step

from hewel_engine.geometry.helices import find_helices
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.patches import find_faces
from hewel_engine.geometry.rays import RayScene


def found(mesh: Mesh) -> list:
    return find_helices(mesh, find_faces(mesh), RayScene(mesh))


def rope(radius: float, off: float, pitch: float, tall: float) -> m3.Manifold:
    """A round thread as others draw one: an eccentric circle that turns as it rises."""
    circle = m3.CrossSection.circle(radius, 72).translate((off, 0))
    turns = tall / pitch
    return m3.Manifold.extrude(circle, tall, int(36 * turns), 360 * turns)


@pytest.mark.parametrize("seed", by_chance(0, 3))
def test_a_thread_made_here_is_found_however_it_lies(seed):
    chance = np.random.default_rng(seed)
    radius, pitch = chance.uniform(7, 11), chance.choice([2.0, 2.5, 3.0])
    body = rod(30, radius, 96).translate((0, 0, 15)) + box(30, 30, 4).translate((0, 0, -2))
    at = (radius * np.cos(np.pi / 96), 0.0, 26.0)
    came = made(mesh_of(body), step("thread", at, (1, 0, 0), pitch_mm=float(pitch), deep_mm=0.6, along_mm=18.0)).mesh
    turn, shift = rotation(seed), chance.normal(size=3) * 20
    mesh = Mesh(came.vertices @ turn.T + shift, came.faces)
    (told,) = found(mesh)
    assert not told.inside and told.pitch == pytest.approx(pitch, abs=0.1) and 0.5 < told.deep < 1.0
    assert abs(told.axis @ turn[:, 2]) == pytest.approx(1, abs=1e-3)


@pytest.mark.parametrize("inside", [False, True])
def test_a_round_thread_of_somebody_elses_is_found(inside):
    thread = rope(8.0, 0.6, 4.0, 24.0)
    core = rod(10, 8.6, 96).translate((0, 0, -5)) + rod(6, 7.4, 96).translate((0, 0, 27))
    block = box(30, 30, 34).translate((0, 0, 12)) - rod(80, 7.5, 96) - rod(8, 8.8, 96).translate((0, 0, 27))
    body = block - thread if inside else core + thread
    rows = found(mesh_of(body))
    assert [(r.inside, pytest.approx(r.pitch, abs=0.15)) for r in rows] == [(inside, 4.0)]


def rings() -> m3.Manifold:
    body = rod(40, 8, 96)
    for k in range(8):
        body -= rod(1.2, 12, 96).translate((0, 0, -14 + 4 * k)) - rod(1.2, 7, 96).translate((0, 0, -14 + 4 * k))
    return body


def flutes() -> m3.Manifold:
    body = rod(40, 8, 96)
    for k in range(12):
        body -= rod(60, 1, 24).translate((8, 0, 0)).rotate((0, 0, 30 * k))
    return body


@pytest.mark.parametrize("body", [rod(40, 8, 96), rings(), flutes(), box(20, 20, 20) - rod(40, 5, 96)])
def test_what_is_no_thread_is_not_found(body):
    assert found(mesh_of(body)) == []
