"""A plate's file: every copy where it stands on the bed, read back by the project's own reader."""

import io
import zipfile

import manifold3d as m3
import numpy as np
import pytest

from hewel_engine.geometry.mesh import Mesh
from hewel_engine.io.exports import plate_file
from hewel_engine.io.threemf import read_3mf


def corner() -> Mesh:
    """An L whose own origin lies outside it."""
    solid = m3.Manifold.cube((20, 4, 6)) + m3.Manifold.cube((4, 12, 6))
    out = solid.translate((30, -5, 40)).to_mesh64()
    return Mesh(np.asarray(out.vert_properties)[:, :3].copy(), np.asarray(out.tri_verts).astype(np.int32))


@pytest.mark.parametrize("up", [(0, 0, 1), (0, 0, -1), (0.6, 0, 0.8)])
def test_every_copy_stands_on_the_plate_turned_about_its_own_origin(up):
    mesh, items = corner(), [[100.0, 50.0, 0.0], [100.0, 50.0, 90.0], [10.0, 20.0, 180.0]]
    triangles, scale = read_3mf(plate_file(mesh, up, items, "corner", ["a nut at 3 mm"], "together", "0a1b"))
    assert scale == 1.0 and len(triangles) == 3 * len(mesh.faces)
    copies = triangles.reshape(3, -1, 3)
    assert copies[..., 2].min(axis=1) == pytest.approx([0, 0, 0], abs=1e-6)
    first = copies[0] - [100, 50, 0]
    assert copies[1] - [100, 50, 0] == pytest.approx(first[:, [1, 0, 2]] * [-1, 1, 1], abs=1e-6)
    assert copies[2] - [10, 20, 0] == pytest.approx(first * [-1, -1, 1], abs=1e-6)


def test_the_file_names_its_pauses_and_is_the_same_every_time():
    stops = ["a nut at 3 mm", "a key at 5 mm"]
    write = lambda: plate_file(corner(), (0, 0, 1), [[0, 0, 0], [40, 0, 90]], "corner", stops, "sequential", "0a1b")
    data = write()
    assert data == write()
    text = zipfile.ZipFile(io.BytesIO(data)).read("3D/part.model").decode()
    assert (
        "a nut at 3 mm; a key at 5 mm" in text
        and "0a1b" in text
        and text.count("<object ") == 1
        and text.count("<item ") == 2
    )
