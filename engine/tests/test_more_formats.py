"""OBJ and PLY, sound and hostile; and every reader against random damage."""

import struct

import numpy as np
import pytest
from hypothesis import HealthCheck, example, given, settings
from hypothesis import strategies as st
from shapes import box, mesh_of, rod

from hewel_engine.errors import InputError
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.polygons import triangulated
from hewel_engine.io.reading import take_in
from hewel_engine.io.stl import write_stl
from hewel_engine.io.threemf import write_3mf

PART = mesh_of(box(40, 30, 20) - rod(30, 4, 16))


def obj(mesh: Mesh, negative=False) -> bytes:
    n = len(mesh.vertices)
    rows = ["# a part", "mtllib ../../etc/passwd", "o part"]
    rows += [f"v {x} {y} {z}" for x, y, z in mesh.vertices.tolist()]
    rows += ["f " + " ".join(str(i - n if negative else i + 1) + "//1" for i in f) for f in mesh.faces.tolist()]
    return "\n".join(rows).encode()


def ply(mesh: Mesh, kind: str) -> bytes:
    head = (
        f"ply\nformat {kind} 1.0\ncomment made up\nelement vertex {len(mesh.vertices)}\nproperty uchar red\n"
        f"property float x\nproperty float y\nproperty double z\nelement face {len(mesh.faces)}\n"
        "property list uchar int vertex_indices\nend_header\n"
    ).encode()
    if kind == "ascii":
        rows = [f"7 {x} {y} {z}" for x, y, z in mesh.vertices.tolist()]
        rows += ["3 " + " ".join(map(str, f)) for f in mesh.faces.tolist()]
        return head + "\n".join(rows).encode() + b"\n"
    order = "<" if "little" in kind else ">"
    body = b"".join(struct.pack(order + "Bffd", 7, *v) for v in mesh.vertices.tolist())
    return head + body + b"".join(struct.pack(order + "B3i", 3, *f) for f in mesh.faces.tolist())


FILES = {
    "obj": obj(PART),
    "obj counting back": obj(PART, negative=True),
    "ply text": ply(PART, "ascii"),
    "ply little": ply(PART, "binary_little_endian"),
    "ply big": ply(PART, "binary_big_endian"),
}


@pytest.mark.parametrize("data", FILES.values(), ids=FILES.keys())
def test_every_kind_gives_the_same_solid(data):
    got = take_in(data)
    assert got.mesh.closed
    assert got.mesh.volume == pytest.approx(PART.volume, rel=1e-6)
    assert got.warnings == []


HEX = np.array([[0, 0], [10, 0], [10, 10], [6, 10], [6, 4], [0, 4]], float)


def test_concave_faces_are_cut_inside_themselves():
    loop = [0, 1, 2, 3, 4, 5]
    flat = np.c_[HEX, np.zeros(6)]
    for turn in range(6):
        corners = flat[np.roll(loop, turn)]
        t = corners[triangulated(corners, [loop])]
        area = 0.5 * np.cross(t[:, 1] - t[:, 0], t[:, 2] - t[:, 0])[:, 2]
        assert (area > 0).all()
        assert area.sum() == pytest.approx(64)


def test_a_face_of_many_corners_is_cut_at_once():
    """A comb of 3,000 corners: the work of cutting ears one by one grew with their cube, and took minutes."""
    teeth = np.array([(x + dx, y) for x in range(750) for dx, y in ((0, 0), (0, 5), (0.5, 5), (0.5, 0))], float)
    comb = np.c_[np.r_[teeth, [[750, -1], [0, -1]]], np.zeros(3002)]
    for corners in (comb, comb[::-1]):
        faces = triangulated(corners, [list(range(len(corners)))])
        t = corners[faces]
        area = 0.5 * np.cross(t[:, 1] - t[:, 0], t[:, 2] - t[:, 0])[:, 2]
        assert len(faces) == len(corners) - 2 and sorted(set(faces.ravel())) == list(range(len(corners)))
        assert area.sum() == pytest.approx(np.sign(area[0]) * (750 * 2.5 + 749.75), rel=1e-12)
        assert (np.sign(area[np.abs(area) > 1e-9]) == np.sign(area.sum())).all()


@pytest.mark.parametrize(
    "loop",
    [
        [[0, 0, 0], [2, 2, 0], [2, 0, 0], [0, 2, 0]],
        [[0, 0, 0], [0, 0, 0], [2, 0, 0], [2, 2, 0], [0, 2, 0]],
        [[0, 0, 0], [1, 0, 0], [2, 0, 0], [3, 0, 0], [4, 0, 0]],
    ],
    ids=["crosses itself", "a corner twice", "no area"],
)
def test_an_odd_face_still_uses_every_corner(loop):
    faces = triangulated(np.array(loop, float), [list(range(len(loop)))])
    assert len(faces) == len(loop) - 2 and set(faces.ravel()) == set(range(len(loop)))


def test_obj_prism_with_concave_ends():
    rows = [f"v {x} {y} {z}" for z in (0, 5) for x, y in HEX] + ["f 6 5 4 3 2 1", "f 7 8 9 10 11 12"]
    rows += [f"f {i + 1} {j + 1} {j + 7} {i + 7}" for i, j in zip(range(6), [1, 2, 3, 4, 5, 0], strict=True)]
    got = take_in("\n".join(rows).encode())
    assert got.mesh.closed
    assert got.mesh.volume == pytest.approx(64 * 5)


def swapped(name: str, a: bytes, b: bytes) -> bytes:
    assert a in FILES[name]
    return FILES[name].replace(a, b, 1)


LAST = str(len(PART.vertices)).encode()


@pytest.mark.parametrize(
    "data, code",
    [
        (obj(PART).replace(b"f 1//1", b"f 99999//1", 1) + b"\nf 99999 1 2", "bad_reference"),
        (b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 -9", "bad_reference"),
        (b"v 0 0 0\nv 1 0\nf 1 2 3", "truncated"),
        (b"v 0 0 0\nv 9 0 0\nv 0 9 nan\nf 1 2 3", "non_finite"),
        (b"v 0 0 0\nv 9 0 0\nv 0 9 0\n", "no_triangles"),
        (FILES["ply text"][:-40], "truncated"),
        (FILES["ply little"][:-5], "truncated"),
        (swapped("ply little", b"element vertex " + LAST, b"element vertex 4000000000"), "truncated"),
        (swapped("ply text", b"element vertex " + LAST, b"element vertex -3"), "truncated"),
        (swapped("ply text", b"property float x", b"property plum x"), "truncated"),
        (swapped("ply text", b"property float x", b"property float q"), "truncated"),
        (swapped("ply text", b"\n3 ", b"\n900 "), "truncated"),
        (b"ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nend_header\n0\n", "no_triangles"),
        (b"ply\nno end of this", "truncated"),
        (b"ply\nformat ascii 1.0\nelement face 9000000\nelement vertex 1\nend_header\n", "too_large"),
    ],
)
def test_bad_files_get_their_code(data, code):
    with pytest.raises(InputError) as caught:
        take_in(data)
    assert caught.value.code == code


SEEDS = [*FILES.values(), write_stl(PART), write_3mf(PART, "p")]


@settings(max_examples=250, deadline=None, suppress_health_check=list(HealthCheck))
@given(st.sampled_from(SEEDS), st.data())
@example(write_stl(PART), None)
def test_damage_ends_in_a_solid_or_in_words(seed, data):
    damaged = bytearray(seed)
    if data is not None:
        for _ in range(data.draw(st.integers(1, 4))):
            at = data.draw(st.integers(0, len(damaged) - 1))
            what = data.draw(st.sampled_from(["flip", "cut", "repeat", "put"]))
            if what == "flip":
                damaged[at] ^= data.draw(st.integers(1, 255))
            elif what == "cut":
                del damaged[at : at + data.draw(st.integers(1, 200))]
            elif what == "repeat":
                damaged[at:at] = damaged[at : at + data.draw(st.integers(1, 200))]
            else:
                damaged[at : at + 8] = data.draw(st.binary(min_size=8, max_size=8))
            if not damaged:
                break
    try:
        got = take_in(bytes(damaged))
    except InputError as error:
        request = error.as_dict()
    else:
        request = {"solid": "and sound"}
        assert np.isfinite(got.mesh.vertices).all()
        assert len(got.mesh.faces) > 0
    assert all(request.values())
