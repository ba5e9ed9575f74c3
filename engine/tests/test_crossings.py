"""A surface that passes through itself is seen; one that only comes near itself, or touches, is not accused."""

import json

import manifold3d as m3
import numpy as np
import pytest
from shapes import box, mesh_of, rod, rotation, sphere, torus

from hewel_engine.cli.main import main
from hewel_engine.geometry.crossings import piercing_edges
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.rays import RayScene
from hewel_engine.io.stl import write_stl


def pierced(mesh):
    return piercing_edges(mesh, RayScene(mesh))


def both(a: Mesh, b: Mesh) -> Mesh:
    return Mesh(np.concatenate([a.vertices, b.vertices]), np.concatenate([a.faces, b.faces + len(a.vertices)]))


SOUND = {
    "box": mesh_of(box(20, 20, 10)),
    "bored": mesh_of(box(20, 20, 10) - rod(30, 4) - rod(30, 2, axis="x")),
    "sphere": sphere(10),
    "torus": torus(20, 6, 96, 48),
    "hollow": mesh_of(box(20, 20, 20) - box(19.9, 19.9, 19.9)),
    "thin slot": mesh_of(box(20, 20, 20) - box(0.02, 15, 30)),
    "two that touch": both(mesh_of(box(10, 10, 10)), mesh_of(box(10, 10, 10).translate((10, 0, 0)))),
}


@pytest.mark.parametrize("name", SOUND)
@pytest.mark.parametrize("seed", [None, 3, 8])
def test_sound_surfaces_are_not_accused(name, seed):
    mesh = SOUND[name] if seed is None else SOUND[name].moved(rotation(seed))
    assert pierced(mesh) == 0


def bent_spindle() -> Mesh:
    """A tube wider than its ring, bent so that its crossings do not lie on its own edges by symmetry."""
    mesh = torus(10, 14, 64, 48)
    x, y, z = mesh.vertices.T
    return Mesh(np.c_[x + 0.05 * y, y + 0.7 * np.sin(0.2 * z + 1), z + 0.8 * np.sin(0.3 * x + 1)], mesh.faces)


@pytest.mark.parametrize("seed", [None, 3, 8])
def test_a_tube_wider_than_its_ring_crosses_itself(seed):
    spindle = bent_spindle()
    assert pierced(spindle if seed is None else spindle.moved(rotation(seed))) > 20


def test_bodies_pushed_into_each_other_cross():
    a, b = mesh_of(box(10, 10, 10)), mesh_of(m3.Manifold.sphere(4, 32).translate((5, 0, 0)))
    assert pierced(both(a, b)) > 0


def test_scale_changes_no_verdict():
    spindle = bent_spindle()
    for scale in (0.04, 25.4):
        assert pierced(Mesh(spindle.vertices * scale, spindle.faces)) > 20


def test_the_command_line_lists_it(tmp_path, capsys):
    (tmp_path / "spindle.stl").write_bytes(write_stl(bent_spindle()))
    assert main(["facts", str(tmp_path / "spindle.stl")]) == 0
    assert "self_crossing" in [w["code"] for w in json.loads(capsys.readouterr().out)["warnings"]]
