"""What goes out is as closed as what was made, also when a reader joins corners that read alike."""

import manifold3d as m3
import numpy as np
import pytest
from shapes import box, mesh_of, rotation

from hewel_engine.geometry.mesh import EdgeTable, Mesh
from hewel_engine.io.reading import take_in
from hewel_engine.io.single import apart, step_of
from hewel_engine.io.stl import HEADER, RECORD, write_stl
from hewel_engine.io.threemf import read_3mf, write_3mf


def as_read(corners: np.ndarray) -> EdgeTable:
    """The edges of triangles (m, 3, 3) whose corners are joined where they are the same in single precision."""
    _, where = np.unique(corners.astype(np.float32).reshape(-1, 3), axis=0, return_inverse=True)
    return EdgeTable.of(where.reshape(-1, 3).astype(np.int32))


def strictly(edges: EdgeTable) -> bool:
    return edges.closed and edges.crowded == 0


def hairs() -> Mesh:
    """A block with a slit and a step each a few nanometres wide, and a second body that touches it along an edge."""
    solid = box(40, 30, 20) - box(10, 3e-7, 30).translate((3, 0, 0)) + box(5, 5, 4e-7).translate((0, 0, 10))
    far = mesh_of(solid + box(8, 8, 20).translate((24, 19, 0)))
    return far.moved(rotation(3), np.array([700.0, -300.0, 90.0]))


def test_corners_a_hair_apart_stay_apart():
    part = hairs()
    assert not strictly(as_read(part.triangles)), "else it shows nothing"
    data = write_stl(part)
    assert strictly(as_read(np.frombuffer(data, RECORD, offset=HEADER)["corners"]))
    assert strictly(as_read(read_3mf(write_3mf(part, "hairs"))[0]))
    got = take_in(data)
    assert got.warnings == [] and got.mesh.volume == pytest.approx(part.volume, rel=1e-6)


def test_only_what_meets_moves_and_no_further_than_it_must():
    points = np.array([[1.0, 2, 3], [1.0, 2, 3 + 1e-9], [1.0, 2, 3 - 1e-9], [5.0, 5, 5]])
    places, moved = apart(points)
    assert moved.tolist() == [False, True, True, False]
    assert len(np.unique(places, axis=0)) == 4
    assert np.abs(places - points).max() <= 1.5 * step_of(points)
    assert (places == places.astype(np.float32)).all(), "every place of the lattice is exact in single precision"


@pytest.mark.parametrize("most", [1e-3, 1.0, 63.9, 64.0, 999.0, 5e4])
def test_the_lattice_is_exact_at_any_size(most):
    places, _ = apart(np.random.default_rng(1).uniform(-most, most, (500, 3)))
    assert (places == places.astype(np.float32)).all() and step_of(places) <= 2.4e-7 * most


def test_a_crowd_in_one_place_finds_room():
    places, moved = apart(np.zeros((200, 3)))
    assert moved.sum() == 199 and len(np.unique(places, axis=0)) == 200


def test_bodies_made_by_chance_go_out_closed():
    rng = np.random.default_rng(11)
    for _ in range(6):
        solid = box(30, 30, 30)
        for _ in range(8):
            cut = m3.Manifold.cylinder(50, 3, 3, int(rng.integers(8, 90)), True).rotate(tuple(rng.uniform(0, 180, 3)))
            solid -= cut.translate(tuple(rng.uniform(-12, 12, 3)))
        part = mesh_of(solid).moved(rotation(int(rng.integers(1000))), rng.uniform(-400, 400, 3))
        assert strictly(as_read(np.frombuffer(write_stl(part), RECORD, offset=HEADER)["corners"]))
