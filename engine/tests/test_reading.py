"""Files in: both formats, units, repairs, and everything that a bad file can do."""

import io
import zipfile

import numpy as np
import pytest
from shapes import box, mesh_of, rod

from hewel_engine.errors import InputError
from hewel_engine.io.exports import export, standing
from hewel_engine.io.reading import take_in
from hewel_engine.io.stl import write_stl
from hewel_engine.io.threemf import CORE, RELATION, write_3mf

PART = mesh_of(box(40, 30, 20) - rod(30, 4))


def text_stl(mesh) -> bytes:
    rows = ["solid part"]
    for t in mesh.triangles:
        rows += ["facet normal 0 0 0", "outer loop", *(f"vertex {x} {y} {z}" for x, y, z in t), "endloop", "endfacet"]
    return "\n".join([*rows, "endsolid part"]).encode()


def archive(model: str, **extra: bytes) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as z:
        z.writestr("_rels/.rels", f'<R xmlns="r"><Relationship Target="/3D/m.model" Type="{RELATION}"/></R>')
        z.writestr("3D/m.model", model)
        for name, data in extra.items():
            z.writestr(name, data)
    return out.getvalue()


def model(resources: str, build: str, unit="millimeter", prolog="") -> str:
    head = f'<?xml version="1.0"?>{prolog}<model unit="{unit}" xmlns="{CORE}">'
    return f"{head}<resources>{resources}</resources><build>{build}</build></model>"


TETRA = (
    '<mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="6" y="0" z="0"/><vertex x="0" y="6" z="0"/>'
    '<vertex x="0" y="0" z="6"/></vertices><triangles><triangle v1="0" v2="2" v3="1"/><triangle v1="0" v2="1" v3="3"/>'
    '<triangle v1="1" v2="2" v3="3"/><triangle v1="0" v2="3" v3="2"/></triangles></mesh>'
)


@pytest.mark.parametrize("data", [write_stl(PART), text_stl(PART), write_3mf(PART, "p")], ids=["binary", "text", "3mf"])
def test_every_format_gives_the_same_solid(data):
    got = take_in(data)
    assert got.mesh.closed and got.warnings == []
    assert got.mesh.volume == pytest.approx(PART.volume, rel=1e-6)


def test_binary_stl_whose_header_begins_with_solid():
    data = b"solid lie".ljust(80) + write_stl(PART)[80:]
    assert take_in(data).mesh.volume == pytest.approx(PART.volume, rel=1e-6)


@pytest.mark.parametrize("name", ["Schwenkhebel für Öl", "рычаг", "支架"])
def test_a_text_stl_may_be_named_in_any_script(name):
    data = text_stl(PART).split(b"\n", 1)[1]
    got = take_in(b"solid " + name.encode() + b"\n" + data)
    assert got.mesh.closed and got.mesh.volume == pytest.approx(PART.volume, rel=1e-6)


def test_a_binary_stl_cut_short_is_not_taken_for_text():
    with pytest.raises(InputError) as caught:
        take_in((b"solid " + "für".encode()).ljust(80) + write_stl(PART)[80:-30])
    assert caught.value.code == "truncated" and "announces" in caught.value.message


@pytest.mark.parametrize("unit, mm", [("inch", 25.4), ("centimeter", 10), ("micron", 1e-3), ("meter", 1000)])
def test_3mf_units_are_the_files_own(unit, mm):
    got = take_in(archive(model(f'<object id="1">{TETRA}</object>', '<item objectid="1"/>', unit)))
    assert got.mesh.volume == pytest.approx(36 * mm**3, rel=1e-9)


def test_3mf_components_transforms_mirrors_and_several_items():
    resources = (
        f'<object id="1">{TETRA}</object><object id="2"><components>'
        '<component objectid="1" transform="2 0 0 0 2 0 0 0 2 10 0 0"/>'
        '<component objectid="1" transform="-1 0 0 0 1 0 0 0 1 -10 0 0"/></components></object>'
    )
    got = take_in(
        archive(model(resources, '<item objectid="2"/><item objectid="1" transform="1 0 0 0 1 0 0 0 1 0 50 0"/>'))
    )
    assert got.mesh.closed and got.mesh.volume == pytest.approx(36 * (8 + 1 + 1))
    assert got.mesh.box[1] == pytest.approx([22, 56, 12]) and got.warnings == []


@pytest.mark.parametrize(
    "scale, word, longest", [(0.001, "metres", 40.0), (1 / 25.4, "inches", 40.0), (1000.0, "micrometres", 40.0)]
)
def test_unit_is_guessed_with_a_warning_and_can_be_overruled(scale, word, longest):
    from hewel_engine.geometry.mesh import Mesh

    data = write_stl(Mesh(PART.vertices * scale, PART.faces))
    got = take_in(data)
    assert np.ptp(got.mesh.box[:, 0]) == pytest.approx(longest, rel=1e-5)
    assert [w["code"] for w in got.warnings] == ["unit_guessed"] and word in got.warnings[0]["message"]
    assert np.ptp(take_in(data, "cm").mesh.box[:, 0]) == pytest.approx(400 * scale, rel=1e-5)


def shifted(mesh, by):
    return mesh.moved(np.eye(3), np.array(by, float)).triangles


def stl_of(triangles) -> bytes:
    out = np.zeros(len(triangles), np.dtype([("n", "<f4", 3), ("t", "<f4", (3, 3)), ("s", "<u2")]))
    out["t"] = triangles
    return b" " * 80 + len(out).to_bytes(4, "little") + out.tobytes()


@pytest.mark.parametrize(
    "triangles, code, volume",
    [
        (PART.triangles[:-1], "holes_filled", PART.volume),
        (PART.triangles[:, ::-1], "inverted", PART.volume),
        (np.concatenate([PART.triangles, PART.triangles[:5]]), "duplicate_facets", PART.volume),
        (np.concatenate([PART.triangles, PART.triangles[:3, [0, 0, 1]]]), "degenerate_facets", PART.volume),
        (np.concatenate([PART.triangles[:9, ::-1], PART.triangles[9:]]), "winding", PART.volume),
        (
            np.concatenate([mesh_of(box(10, 10, 10)).triangles, shifted(mesh_of(box(10, 10, 10)), (5, 0, 0))]),
            "united",
            1500,
        ),
    ],
    ids=lambda v: v if isinstance(v, str) else "",
)
def test_small_faults_are_mended_and_listed(triangles, code, volume):
    got = take_in(stl_of(triangles))
    assert code in [w["code"] for w in got.warnings]
    assert got.mesh.closed and got.mesh.volume == pytest.approx(volume, rel=1e-5)


def test_an_open_surface_is_said_and_still_measured():
    lidless = PART.triangles[PART.normals[:, 2] < 0.9]
    got = take_in(stl_of(lidless))
    assert not got.mesh.closed and "not_closed" in [w["code"] for w in got.warnings]


def bomb() -> bytes:
    return archive(model("", ""), **{"3D/big.bin": b"\0" * (1 << 25)})


def binary(count, body=b"") -> bytes:
    return b" " * 80 + count.to_bytes(4, "little") + body


NAN = stl_of(np.where(np.arange(9).reshape(1, 3, 3) == 4, np.nan, PART.triangles[:1]))
INF = stl_of(np.where(np.arange(9).reshape(1, 3, 3) == 4, np.inf, PART.triangles[:1]))
LOOP = (
    '<object id="1"><components><component objectid="2"/></components></object>'
    '<object id="2"><components><component objectid="1"/></components></object>'
)
XXE = '<!DOCTYPE m [<!ENTITY a SYSTEM "file:///etc/passwd">]>'


@pytest.mark.parametrize(
    "data, code",
    [
        (b"", "empty_file"),
        (b"hello there, this is a letter and no part at all", "unknown_format"),
        (b"a longer letter, no part either. " * 40, "unknown_format"),
        (b"\x89PNG\r\n\x1a\n" + b"\0" * 200, "unknown_format"),
        (write_stl(PART)[:-10], "truncated"),
        (binary(4_000_000_000), "truncated"),
        (binary(0), "no_triangles"),
        (text_stl(PART)[:-60], "truncated"),
        (b"solid x\nendsolid x", "no_triangles"),
        (text_stl(PART).replace(b"vertex 20", b"vertex two", 1), "truncated"),
        (NAN, "non_finite"),
        (INF, "non_finite"),
        (stl_of(np.zeros((4, 3, 3))), "no_triangles"),
        (write_3mf(PART, "p")[:-200], "truncated"),
        (archive(model(LOOP, '<item objectid="1"/>')), "bad_reference"),
        (archive(model("", '<item objectid="9"/>')), "bad_reference"),
        (
            archive(
                model(
                    f'<object id="1">{TETRA.replace(chr(34) + "3" + chr(34), chr(34) + "7" + chr(34))}</object>',
                    '<item objectid="1"/>',
                )
            ),
            "bad_reference",
        ),
        (archive(model("", "")), "no_triangles"),
        (archive(model("<object id='1'/>", "<item objectid='1'/>", prolog=XXE)), "unsafe_archive"),
        (archive(model("", ""), **{"../../etc/cron.d/x": b"x"}), "unsafe_archive"),
        (bomb(), "unsafe_archive"),
        (archive("<model><unfinished"), "truncated"),
        (
            archive(
                model(
                    f'<object id="1">{TETRA.replace(chr(34) + "6" + chr(34), chr(34) + "nan" + chr(34), 1)}</object>',
                    '<item objectid="1"/>',
                )
            ),
            "non_finite",
        ),
    ],
)
def test_bad_files_get_their_code_and_a_hint(data, code):
    with pytest.raises(InputError) as caught:
        take_in(data)
    assert caught.value.code == code
    assert caught.value.hint.endswith(".") and "Traceback" not in caught.value.message


def test_multiplied_components_are_refused_before_they_fill_the_memory():
    rows = [f'<object id="0">{TETRA}</object>']
    for i in range(1, 12):
        rows.append(
            f'<object id="{i}"><components>' + f'<component objectid="{i - 1}"/>' * 10 + "</components></object>"
        )
    with pytest.raises(InputError) as caught:
        take_in(archive(model("".join(rows), '<item objectid="11"/>')))
    assert caught.value.code in ("unsafe_archive", "too_large")


@pytest.mark.parametrize("kind", ["stl", "3mf"])
@pytest.mark.parametrize("up", [(0, 0, 1), (1, 0, 0), (-0.3, 0.5, -0.8)])
def test_export_stands_on_the_plate_and_keeps_the_solid(kind, up):
    again = take_in(export(PART, up, kind, "Clevis <&> 1")).mesh
    assert again.box[0] == pytest.approx([0, 0, 0], abs=1e-5)
    assert again.volume == pytest.approx(PART.volume, rel=1e-5) and again.closed
    assert again.box[1] == pytest.approx(standing(PART, up).box[1], rel=1e-5)
