"""The contract: words, JSON and exit codes."""

import json
import subprocess
import sys

import numpy as np
import pytest
from shapes import box, mesh_of, rod

from demo.step_file import block_with_bores
from hewel_engine.cli.main import main
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.io.stl import write_stl

KEYS = {
    "up", "overhang_area_mm2", "worst_overhang_deg", "support_volume_mm3", "islands", "longest_bridge_mm",
    "contact_area_mm2", "first_layer_mm2", "height_mm", "tipping_deg", "drag_ratio", "time_s", "reserve",
    "nondominated", "rank",
}  # fmt: skip


@pytest.fixture(scope="module")
def part(tmp_path_factory):
    path = tmp_path_factory.mktemp("parts") / "plate.stl"
    path.write_bytes(write_stl(mesh_of(box(60, 40, 8) - rod(20, 4) + box(8, 40, 30).translate((26, 0, 15)))))
    return path


def run(capsys, *argv):
    code = main([str(a) for a in argv])
    return code, json.loads(capsys.readouterr().out)


def test_facts(part, capsys):
    code, got = run(capsys, "facts", part, "--json")
    assert code == 0 and got["contract"] == 2 and got["verb"] == "facts" and got["seconds"] > 0
    assert [b["diameter_mm"] for b in got["bores"]] == [pytest.approx(8, abs=1e-4)] and got["bodies"] == 1
    assert {
        "triangles",
        "watertight",
        "volume_mm3",
        "area_mm2",
        "bbox_mm",
        "centre_of_mass_mm",
        "flats",
        "warnings",
    } <= set(got)


def test_directions_are_ranked(part, capsys):
    code, got = run(capsys, "directions", part, "--json")
    assert code == 0 and got["swept"] >= 2500 and 6 <= len(got["candidates"]) <= 40
    assert got["candidates"] and all(set(c) >= KEYS for c in got["candidates"])
    assert [c["rank"] for c in got["candidates"]] == list(range(1, len(got["candidates"]) + 1))
    best = got["candidates"][0]
    assert best["up"] == pytest.approx([0, 0, 1]) and best["tipping_deg"] > 5 and best["nondominated"]


LOADS = {
    "fixed": [{"plane": {"point": [0, 0, -4], "normal": [0, 0, 1]}}],
    "cases": [{"name": "pull", "loads": [{"on": {"box": [[20, -20, 20], [40, 20, 40]]}, "force_n": [90, 0, 0]}]}],
}


def test_loads_are_read_and_checked_on_the_part(part, capsys, tmp_path, monkeypatch):
    monkeypatch.setattr("hewel_engine.strength.stressing.FINE", 12_000)
    file = tmp_path / "loads.json"
    file.write_text(json.dumps(LOADS))
    code, got = run(capsys, "directions", part, "--up=0,0,1", "--loads", file)
    assert code == 0 and 0.05 < got["candidates"][0]["reserve"] < 50
    lying = run(capsys, "directions", part, "--up=0,1,0", "--loads", file, "--solid", "--factor", "2")[1]
    assert lying["candidates"][0]["reserve"] > 0.6 * got["candidates"][0]["reserve"]  # layers along the bend
    LOADS["cases"][0]["loads"][0]["on"] = {"box": [[200, 0, 0], [210, 9, 9]], "name": "far away"}
    for text in (json.dumps(LOADS), "not json", '{"cases": [{"name": "a", "loads": [{"force_n": [1, 0, 0]}]}]}'):
        file.write_text(text)
        code, got = run(capsys, "directions", part, "--loads", file)
        assert code == 2 and got["error"]["code"] == "bad_loads" and got["error"]["hint"]


@pytest.mark.parametrize("words", [["--up=-1,0,0"], ["--up", "-1,0,0"]])
def test_one_direction_with_a_minus(part, capsys, words):
    code, got = run(capsys, "directions", part, *words, "--json")
    assert code == 0 and got["swept"] == 1
    assert got["candidates"][0]["up"] == [-1, 0, 0] and got["candidates"][0]["height_mm"] == pytest.approx(60)


@pytest.mark.parametrize(
    "words",
    [
        ["--up", "0,0,0"],
        ["--up", "a,b,c"],
        ["--up", "1,0"],
        ["--limit", "95"],
        ["--layer", "0"],
        ["--material", "oak"],
        ["--nonsense"],
    ],
)
def test_bad_options_say_so(part, capsys, words):
    code, got = run(capsys, "directions", part, *words)
    assert code == 2 and got["error"]["code"] == "bad_options" and got["error"]["hint"]


def test_overhangs_by_contract(capsys, tmp_path):
    file = tmp_path / "frame.stl"
    posts = box(12, 10, 20).translate((-12, 0, 10)) + box(12, 10, 20).translate((12, 0, 10))
    file.write_bytes(write_stl(mesh_of(box(36, 10, 4).translate((0, 0, 22)) + posts)))
    code, got = run(capsys, "overhangs", file, "--up=0,0,1")
    assert code == 0 and got["warnings"] == []
    assert got["overhang_area_mm2"] == pytest.approx(120) and got["support_volume_mm3"] == pytest.approx(2400, rel=1e-3)
    assert got["contact_area_mm2"] == pytest.approx(240) == got["first_layer_mm2"] and got[
        "height_mm"
    ] == pytest.approx(24)
    (region,) = got["regions"]
    assert (
        region["kind"] == "bridge" and region["span_mm"] == pytest.approx(12, abs=0.02) and region["reach_mm"] is None
    )
    assert region["centre_mm"] == pytest.approx([0, 0, 20], abs=1e-6) and region["z_mm"] == pytest.approx(20)
    assert {"key", "rise_mm"} <= set(region["remedies"][0]) and got["needs_support"] is False
    code, got = run(capsys, "overhangs", file)
    assert code == 0 and [w["code"] for w in got["warnings"]] == ["up_assumed"]
    code, got = run(capsys, "overhangs", file, "--up=1,0,0", "--limit", "60", "--layer", "0.3", "--outer-width", "0.5")
    assert code == 0 and got["needs_support"] is True and got["limit_deg"] == 60


def test_overhangs_of_an_open_surface_are_refused(capsys, tmp_path):
    file = tmp_path / "open.stl"
    whole = mesh_of(rod(20, 8).refine(2))
    ragged = np.random.default_rng(1).permutation(len(whole.faces))[: len(whole.faces) // 2]
    file.write_bytes(write_stl(Mesh(whole.vertices, whole.faces[np.sort(ragged)])))
    code, got = run(capsys, "overhangs", file, "--up=0,0,1")
    assert code == 2 and got["error"]["code"] == "not_closed" and got["error"]["hint"]


def test_as_a_program_a_bad_file_exits_with_2_and_no_traceback(tmp_path):
    bad = tmp_path / "bad.stl"
    bad.write_bytes(b"")
    done = subprocess.run(
        [sys.executable, "-m", "hewel_engine.cli", "facts", bad, "--json"], capture_output=True, text=True
    )
    assert done.returncode == 2 and json.loads(done.stdout)["error"]["code"] == "empty_file" and not done.stderr


def test_adapt_writes_the_changed_part_and_tells_before_and_after(tmp_path, capsys):
    source, out = tmp_path / "shelf.stl", tmp_path / "out.stl"
    source.write_bytes(write_stl(mesh_of(box(4, 20, 30) + box(12, 20, 4).translate((8, 0, 13)))))
    code, got = run(capsys, "adapt", source, "--up", "0,0,1", "--apply", "full", "-o", out, "--json")
    assert code == 0 and got["verb"] == "adapt" and got["left"] == [] == got["pieces"]
    assert [(a["key"], a["region"]) for a in got["applied"]] == [("gusset", 0)]
    assert got["applied"][0]["volume_added_mm3"] == pytest.approx(12 * 12 / 2 * 20, rel=0.01)
    assert got["before"]["needs_support"] and not got["after"]["needs_support"]
    assert set(got["before"]) >= {"overhang_area_mm2", "support_volume_mm3", "volume_mm3", "watertight", "reserve"}
    assert got["after"]["watertight"] and got["after"]["reserve"] is None
    code, facts = run(capsys, "facts", out, "--json")
    assert facts["watertight"] and facts["volume_mm3"] == pytest.approx(got["after"]["volume_mm3"], rel=1e-5)
    low = min(v[2] for v in facts["bbox_mm"])
    assert low == pytest.approx(-15, abs=1e-4), "in the part's own frame"


def test_adapt_with_loads_and_with_one_remedy_by_name(tmp_path, capsys, monkeypatch):
    monkeypatch.setattr("hewel_engine.cli.adapt.CLOSER", 8_000)
    source, out, loads = tmp_path / "shelf.stl", tmp_path / "out.3mf", tmp_path / "loads.json"
    source.write_bytes(write_stl(mesh_of(box(4, 20, 30) + box(12, 20, 4).translate((8, 0, 13)))))
    base = {"plane": {"point": [0, 0, -15], "normal": [0, 0, -1]}}
    tip = {"plane": {"point": [14, 0, 0], "normal": [1, 0, 0]}}
    case = {"name": "press", "loads": [{"on": tip, "force_n": [0, 0, -60]}]}
    loads.write_text(json.dumps({"fixed": [{"on": base}], "cases": [case]}))
    words = ["adapt", source, "--up=0,0,1", "--apply", "gusset", "-o", out, "--loads", loads]
    code, got = run(capsys, *words)
    assert code == 0 and out.stat().st_size > 0
    assert got["after"]["reserve"] > 0 < got["before"]["reserve"]
    code, none = run(capsys, "adapt", source, "--apply", "teardrop")
    assert none["applied"] == [] and none["after"]["needs_support"] and none["left"][0]["why"]


@pytest.mark.parametrize("kind", ["stl", "3mf"])
def test_adapt_makes_two_cups_of_a_closed_box(tmp_path, capsys, kind):
    source, out = tmp_path / "box.stl", tmp_path / f"out.{kind}"
    source.write_bytes(write_stl(mesh_of(box(40, 40, 40) - box(34, 34, 34))))
    code, got = run(capsys, "adapt", source, "--up", "0,0,1", "--apply", "split", "--fit", "0.15", "-o", out)
    assert code == 0 and got["before"]["needs_support"] and not got["after"]["needs_support"]
    assert [p["name"] for p in got["pieces"]] == ["half below", "half above", "peg 1", "peg 2"]
    assert got["pieces"] and all(p["watertight"] and not p["needs_support"] for p in got["pieces"])
    (done,) = got["applied"]
    assert done["key"] == "split" and all(s["diameter_mm"] - s["peg_mm"] == pytest.approx(0.3) for s in done["seats"])
    _, facts = run(capsys, "facts", out)
    assert facts["bodies"] == 4 and facts["watertight"]
    assert facts["volume_mm3"] == pytest.approx(got["after"]["volume_mm3"], rel=1e-5)
    assert min(v[2] for v in facts["bbox_mm"]) == pytest.approx(0, abs=1e-5), "in printing pose"


def test_adapt_puts_a_plate_in_at_a_pause_and_takes_a_feature_off(tmp_path, capsys):
    source = tmp_path / "part.stl"
    source.write_bytes(write_stl(mesh_of(box(60, 40, 24) - box(50, 30, 14))))
    code, got = run(capsys, "adapt", source, "--up", "0,0,1", "--apply", "embed")
    assert code == 0 and got["pauses"] == [
        {
            "height_mm": pytest.approx(21.0),
            "layer": 105,
            "what": "lay the plate in, its tab in the notch; nothing may stand proud",
        }
    ]
    source.write_bytes(write_stl(mesh_of(box(40, 40, 20) + box(12, 10, 60).translate((0, 0, 40)))))
    code, got = run(capsys, "adapt", source, "--apply", "separate", "--plane", "0,0,10,0,0,1")
    assert [p["name"] for p in got["pieces"]] == ["body", "feature"] and got["applied"][0]["shear_mm2"] > 0
    code, got = run(capsys, "adapt", source, "--plane", "-0,0,99,0,0,1")
    assert code == 0 and got["pieces"] == [] and "misses the part" in got["left"][0]["why"][0]


@pytest.mark.parametrize(
    "words",
    [
        ["--apply", "magic"],
        ["--apply", "separate"],
        ["--plane", "0,0,1"],
        ["-o", "part.txt"],
        ["--apply", "all", "-o", "/nonesuch/a.stl"],
    ],
)
def test_adapt_refuses_in_words(part, capsys, words):
    code, got = run(capsys, "adapt", part, *words)
    assert code == 2 and got["error"]["code"] == "bad_options" and got["error"]["hint"]


def test_walls_of_a_rib_on_a_plate(tmp_path, capsys):
    source = tmp_path / "rib.stl"
    source.write_bytes(write_stl(mesh_of(box(60, 40, 2) + box(60, 1.0, 30).translate((0, 0, 15)))))
    code, got = run(capsys, "walls", source)
    assert code == 0 and got["min_thickness_mm"] == pytest.approx(1.0, rel=0.02) and len(got["min_at_mm"]) == 3
    kinds = {z["kind"]: z for z in got["zones"]}
    assert set(kinds) <= {"vanishing", "single_line", "gap", "sound", "heavy"}
    assert kinds["gap"]["advice_mm"] != kinds["gap"]["thickness_mm"]
    edges, bars = got["histogram"]["edges_mm"], got["histogram"]["area_mm2"]
    assert len(edges) == len(bars) + 1 and sum(bars) == pytest.approx(sum(z["area_mm2"] for z in got["zones"]))
    _, wide = run(capsys, "walls", source, "--width", "0.5", "--rule", "plain")
    rib = min(wide["zones"], key=lambda z: z["thickness_mm"])
    assert rib["kind"] == "sound", "two plain lines of 0.5 are 1.0"
    _, least = run(capsys, "walls", source, "--variable-lines")
    assert "gap" not in {z["kind"] for z in least["zones"]}


def test_what_else_wants_sizing_is_told_where_it_stands(tmp_path, capsys):
    block = box(60, 60, 20).translate((0, 0, 10)) + rod(15, 8, 96).translate((0, 0, 27.5))
    source = tmp_path / "bossed.stl"
    source.write_bytes(write_stl(mesh_of(block)))
    _, lying = run(capsys, "walls", source)
    assert {p["kind"] for p in lying["places"]} == {"corner"} and "layers" not in lying
    _, got = run(capsys, "walls", source, "--up", "0,0,1", "--rule", "nozzle", "--nozzle", "0.6")
    result = {p["kind"]: p for p in got["places"]}
    assert result["boss"]["centre_mm"] == pytest.approx([0, 0, 20], abs=0.01) and result["boss"]["pull_n"] > 0
    assert result["body"]["inside_mm3"] > 10_000 and len(got["layers"]["slit_mm2"]) == 175
    out = tmp_path / "out.stl"
    _, done = run(capsys, "adapt", source, "--up", "0,0,1", "--apply", "column,rounded_corner", "-o", str(out))
    assert sorted(a["key"] for a in done["applied"]) == ["column", "rounded_corner"] and done["after"]["watertight"]


def test_adapt_writes_step_of_what_came_as_step_only(tmp_path, capsys):
    source, out = tmp_path / "block.step", tmp_path / "out.step"
    source.write_bytes(block_with_bores((40, 30, 14), [(28, 15, 6, 99)]))
    code, got = run(capsys, "adapt", source, "--up", "1,0,0", "--apply", "full", "-o", out)
    assert code == 0 and got["uncarried"] == [] and got["applied"][0]["key"] == "teardrop"
    _, facts = run(capsys, "facts", out)
    assert facts["volume_mm3"] == pytest.approx(got["after"]["volume_mm3"], rel=1e-3)
    code, got = run(capsys, "adapt", source, "--apply", "split", "-o", out)
    assert (
        code == 0 and got["uncarried"] == [] and out.read_bytes().count(b"MANIFOLD_SOLID_BREP(") == len(got["pieces"])
    )
    mesh = tmp_path / "box.stl"
    mesh.write_bytes(write_stl(mesh_of(box(10, 10, 10))))
    code, got = run(capsys, "adapt", mesh, "-o", out)
    assert code == 2 and "came in as STEP" in got["error"]["message"]
