"""A release packet: the same bytes every time, and every changed bit is found."""

import json

import manifold3d as m3
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hewel_engine.cli.main import main
from hewel_engine.edits.solids import mesh_of
from hewel_engine.errors import InputError
from hewel_engine.io.stl import write_stl
from hewel_engine.io.threemf import write_3mf
from hewel_engine.release.packet import MANIFEST, checked, sealed

BLOCK = mesh_of(m3.Manifold.cube((20, 10, 5)) - m3.Manifold.cylinder(20, 2, 2, 24, True).translate((5, 5, 0)))
TOLD = {
    "part": "Block", "revision": 2, "kind": "portable", "released": "2026-01-02T03:04:05+00:00",
    "solids": {"part/block.stl": BLOCK.volume, "part/block.3mf": BLOCK.volume},
}  # fmt: skip


def files() -> dict[str, bytes]:
    return {
        "part/block.stl": write_stl(BLOCK, "block"), "part/block.3mf": write_3mf(BLOCK, "Block"),
        "report.txt": "what was done, and why: größer\n".encode(),
    }  # fmt: skip


PACKET = sealed(files(), TOLD)


def test_sealed_twice_it_is_the_same_and_sound():
    turned = dict(reversed(files().items()))
    assert sealed(turned, dict(reversed(TOLD.items()))) == PACKET
    found = checked(PACKET)
    assert found.sound, found.faults
    assert found.manifest["part"] == "Block" and set(found.as_dict()["files"]) == set(files())


@settings(max_examples=120, deadline=None)
@given(st.integers(0, 8 * len(PACKET) - 1))
def test_one_flipped_bit_is_found_wherever_it_is(bit):
    changed = bytearray(PACKET)
    changed[bit // 8] ^= 1 << bit % 8
    assert faults(bytes(changed)), "a packet, or none any more: never a sound one"


def faults(data: bytes) -> list[str]:
    """What is wrong with it; why it is refused where it is no packet."""
    try:
        return checked(data).faults
    except InputError as no:
        return [f"{no.code}: {no.message} {no.hint}"]


def without(name: str) -> bytes:
    return sealed({k: v for k, v in files().items() if k != name}, TOLD)


@pytest.mark.parametrize(
    ("packet", "words"),
    [
        (sealed(files() | {"report.txt": b"nothing was done"}, TOLD), None),
        (sealed(files(), TOLD | {"solids": {"part/block.stl": 2 * BLOCK.volume}}), f"holds {BLOCK.volume:.1f} mm³"),
        (sealed(files() | {"part/block.stl": b"solid x\nendsolid x\n"}, TOLD), "cannot be read"),
    ],
    ids=["another packet", "another solid", "no solid"],
)
def test_what_a_packet_says_of_its_solids_is_looked_at(packet, words):
    found = checked(packet)
    assert found.sound if words is None else any(words in fault for fault in found.faults), found.faults


def with_manifest(**changed) -> bytes:
    """The packet with a manifest that says something else, its digest left as it was."""
    from hewel_engine.release.packet import _archive

    manifest = checked(PACKET).manifest | changed
    return _archive({MANIFEST: json.dumps(manifest).encode(), **files()})


def test_faults_are_named():
    assert checked(with_manifest(part="Another")).faults[0].startswith("manifest.json has been changed")
    assert "is of version 9" in checked(with_manifest(version=9)).faults[0]
    rows = checked(PACKET).manifest["files"]
    told = checked(with_manifest(files=[*rows, {"name": "more.txt", "bytes": 1, "sha256": "0"}])).faults
    assert "more.txt is missing." in told
    told = checked(with_manifest(files=rows[:-1])).faults
    assert any("was not among what was released" in fault for fault in told)


@pytest.mark.parametrize("data", [b"", b"PK\x03\x04", b"not an archive" * 50, write_3mf(BLOCK, "Block")])
def test_what_is_no_packet_is_refused_in_words(data):
    (told,) = faults(data)
    assert told.startswith("not_a_packet: ") or "holds no manifest.json" in told


def test_the_verb(tmp_path, capsys):
    file = tmp_path / "packet.zip"
    file.write_bytes(PACKET)
    assert main(["check", str(file), "--json"]) == 0
    answer = json.loads(capsys.readouterr().out)
    assert answer["sound"] and answer["faults"] == [] and answer["manifest"]["kind"] == "portable"
    file.write_bytes(PACKET[:-40])
    assert main(["check", str(file), "--json"]) in (0, 2)
    answer = json.loads(capsys.readouterr().out)
    assert not answer.get("sound", False)
