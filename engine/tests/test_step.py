"""STEP: exact surfaces named by the file, a library that may fail without harm, refusals in words."""

import json
import os
import struct
import subprocess
import sys
from math import pi

import manifold3d as m3
import numpy as np
import pytest
from shapes import box, mesh_of, rod

from demo.step_file import block_with_bores
from hewel_engine.errors import InputError
from hewel_engine.geometry.features import find_bores, find_flats
from hewel_engine.geometry.surfaces import Surface, Surfaces
from hewel_engine.io import step
from hewel_engine.io.packing import pack_solid, unpack_solid, unpack_surfaces
from hewel_engine.io.reading import take_in
from hewel_engine.parts.facts import facts_of

BORES = [(10, 15, 4, 99), (28, 15, 3, 6)]
BLOCK = block_with_bores((40, 30, 10), BORES)
VOLUME = 40 * 30 * 10 - pi * 16 * 10 - pi * 9 * 6


@pytest.fixture(scope="module")
def taken():
    return take_in(BLOCK)


def test_a_block_with_two_bores_comes_in_exactly(taken):
    assert taken.file_format == "step" and taken.mesh.closed and taken.warnings == []
    assert taken.mesh.volume == pytest.approx(VOLUME, rel=2e-4)
    facts = facts_of(taken.mesh, surfaces=taken.surfaces).as_dict()
    assert np.array(facts["bbox_mm"]) == pytest.approx(np.array([[0, 0, 0], [40, 30, 10]]), abs=1e-5)
    through, blind = facts["bores"]
    assert through["diameter_mm"] == pytest.approx(8, abs=1e-9) and through["through"]
    assert blind["diameter_mm"] == pytest.approx(6, abs=1e-9) and not blind["through"]
    assert blind["depth_mm"] == pytest.approx(6, abs=1e-5)
    assert blind["centre_mm"] == pytest.approx([28, 15, 7], abs=1e-5)
    assert len(facts["flats"]) == 6


def test_the_file_names_its_unit_and_another_is_not_believed():
    metres = take_in(block_with_bores((0.04, 0.03, 0.01), [], unit="m"), "in")
    assert metres.mesh.volume == pytest.approx(12000, rel=1e-6)
    assert [w["code"] for w in metres.warnings] == ["unit_ignored"]


def test_surfaces_are_kept_with_the_solid(taken):
    stored = pack_solid(taken.mesh, taken.surfaces)
    again, surfaces = unpack_solid(stored), unpack_surfaces(stored)
    assert (again.faces == taken.mesh.faces).all() and (surfaces.of_facet == taken.surfaces.of_facet).all()
    assert surfaces.list == taken.surfaces.list and surfaces.named.all()
    assert unpack_surfaces(pack_solid(taken.mesh)) is None


def named(mesh, kinds):
    """Facets labelled by the first of ``kinds`` (Surface, test) whose test their normal and centroid pass."""
    label = np.full(len(mesh.faces), -1)
    for i, (_, test) in enumerate(kinds):
        label[(label < 0) & test(mesh.normals, mesh.centroids)] = i
    return Surfaces([s for s, _ in kinds], label.astype(np.int32))


def test_a_named_cylinder_is_a_bore_however_coarse_and_however_halved():
    mesh = mesh_of(box(20, 20, 10) - rod(20, 3, 6))
    assert find_bores(mesh) == [], "six sides alone are a hexagon"
    wall = lambda n, c: (np.abs(n[:, 2]) < 0.1) & (np.hypot(c[:, 0], c[:, 1]) < 4)
    left = (Surface("cylinder", (0, 0, 0), (0, 0, 1), 3.0), lambda n, c: wall(n, c) & (c[:, 0] < 0))
    right = (Surface("cylinder", (0, 0, 7), (0, 0, -1), 3.0), lambda n, c: wall(n, c))
    (bore,) = find_bores(mesh, surfaces=named(mesh, [left, right]))
    assert bore.diameter == 6.0 and bore.through and bore.depth == pytest.approx(10)


def test_a_named_pin_and_a_named_half_are_no_bores():
    pin = mesh_of(rod(20, 3, 24))
    side = (Surface("cylinder", (0, 0, 0), (0, 0, 1), 3.0), lambda n, c: np.abs(n[:, 2]) < 0.1)
    assert find_bores(pin, surfaces=named(pin, [side])) == []
    gutter = mesh_of(box(20, 20, 10) - rod(30, 3, 24, "x").translate((0, 0, 5)))
    inside = lambda n, c: (np.hypot(c[:, 1], c[:, 2] - 5) < 3.01) & (np.abs(n[:, 0]) < 0.1) & (c[:, 2] < 4.99)
    half = (Surface("cylinder", (0, 0, 5), (1, 0, 0), 3.0), inside)
    assert find_bores(gutter, surfaces=named(gutter, [half])) == []


def test_only_named_planes_are_flats():
    mesh = mesh_of(box(20, 20, 10))
    bent = (Surface("other"), lambda n, c: n[:, 2] > 0.5)
    plane = (Surface("plane"), lambda n, c: n[:, 2] <= 0.5)
    assert len(find_flats(mesh)) == 6
    assert len(find_flats(mesh, surfaces=named(mesh, [bent, plane]))) == 5


def test_what_mending_made_is_told_nothing_of():
    whole = mesh_of(box(20, 20, 10))
    result = Surfaces([Surface("plane")], np.zeros(len(whole.faces), np.int32))
    cut = mesh_of(box(20, 20, 10) - m3.Manifold.cube((30, 30, 3), True).translate((0, 0, 5)))
    carried = result.carried_over(whole.triangles, cut)
    kept = np.flatnonzero(carried.named)
    assert 0 < len(kept) < len(cut.faces)
    assert (cut.centroids[kept][:, 2] == -5).all(), "only the untouched bottom has its old triangles"


def test_an_assembly_is_placed_as_its_nodes_say():
    scene = {
        "scenes": [{"nodes": [0]}],
        "nodes": [
            {"children": [1, 2], "translation": [1, 0, 0]},
            {"mesh": 0, "rotation": [0, 0, 0.5**0.5, 0.5**0.5]},
            {"mesh": 0, "matrix": [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 5, 1]},
        ],
    }
    (_, lifted), (_, turned) = step._placed(json.loads(json.dumps(scene)))
    assert turned @ [1, 0, 0, 1] == pytest.approx([1, 1, 0, 1])
    assert lifted @ [0, 0, 0, 1] == pytest.approx([1, 0, 5, 1])


def glb(scene: dict, *columns: np.ndarray) -> bytes:
    """The scene with its columns as one binary file, an accessor for each."""
    blob, views, accessors = b"", [], []
    for number, column in enumerate(columns):
        kind = {"float32": 5126, "uint32": 5125}[column.dtype.name]
        width = "VEC3" if column.ndim == 2 else "SCALAR"
        views.append({"byteOffset": len(blob)})
        accessors.append({"bufferView": number, "componentType": kind, "count": len(column), "type": width})
        blob += column.tobytes()
    text = json.dumps(scene | {"bufferViews": views, "accessors": accessors}).encode()
    text += b" " * (-len(text) % 4)
    return (
        struct.pack("<IIIII", 0x46546C67, 2, 28 + len(text) + len(blob), len(text), 0x4E4F534A)
        + text
        + (struct.pack("<II", len(blob), 0x004E4942) + blob)
    )


@pytest.mark.parametrize(
    "faces",
    [
        [{"face_index": 0, "type": "plane", "origin": [0, 0, 0], "normal": [0, 0, 1]}, {}, None],
        [{}, {"face_index": 0, "type": "plane", "origin": [0, 0, 0], "normal": [0, 0, 1]}, {"face_index": 1}],
        None,
    ],
)
def test_empty_entries_in_the_list_of_faces_are_faces_of_which_nothing_is_known(faces):
    whole = mesh_of(box(0.02, 0.02, 0.01))
    columns = whole.vertices.astype(np.float32), whole.faces.ravel().astype(np.uint32)
    label = np.minimum(np.arange(len(whole.faces)), 2).astype(np.uint32)
    result = {step.EXTENSION: {"faces": faces, "faceIndices": 2}}
    part = {"attributes": {"POSITION": 0}, "indices": 1, "extensions": result}
    scene = {"scenes": [{"nodes": [0]}], "nodes": [{"mesh": 0}], "meshes": [{"primitives": [part]}]}
    triangles, surfaces = step._from_glb(glb(scene, *columns, label))
    assert len(triangles) == len(whole.faces)
    assert [s.kind for s in surfaces.list].count("plane") == (1 if faces else 0)
    assert surfaces.facets_of("plane").sum() == (1 if faces else 0), "the first facet's, and no other's"
    assert (surfaces.of_facet < len(surfaces.list)).all()


@pytest.mark.parametrize(
    "data, code",
    [
        (BLOCK[:3000], "truncated"),
        (BLOCK[:3000] + b"END-ISO-10303-21;\n", "no_triangles"),
        (b"ISO-10303-21;HEADER;ENDSEC;DATA;ENDSEC;END-ISO-10303-21;" + b" " * 300, "no_triangles"),
        (BLOCK.replace(b"#5=", b"#6="), "no_triangles"),
    ],
)
def test_bad_files_get_their_code(data, code):
    with pytest.raises(InputError) as caught:
        take_in(data)
    assert caught.value.code == code and "/" not in caught.value.message


def test_a_missing_face_is_seen():
    codes = [w["code"] for w in take_in(BLOCK.replace(b"CYLINDRICAL_SURFACE", b"CYLINDRICAL_SERVICE")).warnings]
    assert "not_closed" in codes or "holes_filled" in codes


@pytest.mark.parametrize("limit, value", [("MEMORY_BASE", 20 * 2**20), ("SECONDS", 0.05)])
def test_a_greedy_or_endless_reading_is_ended(monkeypatch, limit, value):
    monkeypatch.setattr(step, limit, value)
    with pytest.raises(InputError) as caught:
        take_in(BLOCK)
    assert caught.value.code in ("too_large", "no_triangles")


def test_the_command_line_says_nothing_but_its_answer(tmp_path):
    (tmp_path / "block.stp").write_bytes(BLOCK)
    done = subprocess.run(
        [sys.executable, "-m", "hewel_engine.cli", "facts", tmp_path / "block.stp"],
        capture_output=True, text=True, env=os.environ | {"PYTHONPATH": os.pathsep.join(sys.path)},
    )  # fmt: skip
    answer = json.loads(done.stdout)
    assert answer["volume_mm3"] == pytest.approx(VOLUME, rel=2e-4) and len(answer["bores"]) == 2
