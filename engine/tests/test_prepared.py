"""Prepared files: what their words mean, how long they take, and what is no such file."""

import json
from math import pi, sqrt

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hewel_engine.cli.main import main
from hewel_engine.errors import InputError
from hewel_engine.prepared import moves as moves_module
from hewel_engine.prepared.moves import read_moves
from hewel_engine.prepared.planning import planned

A, V = 1000.0, 50.0
"""mm/s² and mm/s of the machine in these tests."""
HEAD = "G21\nG90\nM83\nG28\nG1 Z0.2 F3000\n"
FLAT = "G21\nG90\nM83\nG28\n"
FEED = 0.4 * 0.2 / (pi / 4 * 1.75**2)
"""mm of filament to a mm of line of 0.08 mm²."""


def path(text):
    moves, _ = read_moves((HEAD + text).encode())
    return moves


def ends(text):
    moves = path(text)
    return np.column_stack([moves.x, moves.y, moves.z])[1:]


def read(text, **more):
    moves, notes = read_moves(text.encode())
    return planned(moves, more.get("acceleration", A), 1.75), notes


def line(x, y, length):
    return f"G1 X{x} Y{y} E{length * FEED:.6f}\n"


@pytest.mark.parametrize(
    "text",
    [
        "G1 X10 Y0 E1\nG1 X10 Y5 E1\n",
        "g1x10y0e1\ng1 x 10 y 5 e1\n",
        "N10 G1 X10 Y0 E1*57\nN11 G1 X10 Y5 E1 *12\n",
        "G1 X10 (to the side Y99) Y0 E1 ; and Y88\nX10 Y5 E1\n",
        "G91\nG1 X10 E1\nG1 Y5 E1\n",
        "G01 X10.0 Y+0 E1\r\nG001 X10. Y5 E1\r\n",
        "G90 G1 X10 E1\nG91 G1 Y5 E1\n",
        "G92 X100\nG1 X110 E1\nG1 Y5 E1\n",
        "G20\nG1 X0.393700787 E1\nG21\nG1 Y5 E1\n",
    ],
)
def test_the_same_said_in_many_ways(text):
    assert np.allclose(ends(text), [(10, 0, 0.2), (10, 5, 0.2)], atol=1e-4)


def test_how_filament_counts():
    said = lambda words, text: read_moves(f"G21\nG90\nG28\n{words}\nG1 Z0.2 F3000\n{text}".encode())[0].e.tolist()[1:]
    assert said("M82", "G1 X10 E2\nG1 X20 E5\nG92 E0\nG1 X30 E1") == [2, 3, 1]
    assert said("M83", "G1 X10 E2\nG90\nG1 X20 E2") == [2, 2], "once it is said, G90 and G91 change nothing of it"
    assert said("M82\nG91", "G1 X10 E2\nG1 X20 E5") == [2, 3]
    assert said("G91", "G1 X10 E2\nG1 X20 E2") == [2, 2], "where nothing was said it follows them"


@pytest.mark.parametrize("text", ["G3 X0 Y20 I0 J10 E9", "G3 X0 Y20 R10 E9", "G2 X0 Y20 R-10 E9"])
def test_an_arc_is_followed(text):
    found, _ = read(HEAD + text)
    half = pi * 10
    assert found.layers.path[0] == pytest.approx(half, rel=1e-3)
    ends_at = ends(text)
    assert np.allclose(np.hypot(ends_at[:, 0], ends_at[:, 1] - 10), 10, atol=1e-3)
    side = 1 if text.startswith("G3") else -1
    assert np.allclose(ends_at[-1], [0, 20, 0.2]) and (side * ends_at[:-1, 0] > 0).all()


def test_a_full_circle_and_one_that_rises():
    found, _ = read(HEAD + "G1 X10 Y0\nG2 X10 Y0 I-10 J0 Z0.4 E9")
    assert found.layers.path.sum() == pytest.approx(sqrt((2 * pi * 10) ** 2 + 0.2**2), rel=1e-3)


def test_a_straight_line_takes_what_the_hand_reckons():
    found, _ = read(f"{FLAT}G1 X100 E{100 * FEED} F{60 * V}\nG4 P1500\nG4 S2")
    assert found.layers.seconds[0] == pytest.approx(100 / V + V / A + 3.5, rel=1e-5)
    short, _ = read(f"{FLAT}G1 X1 E{FEED} F{60 * V}")
    assert short.layers.seconds[0] == pytest.approx(2 * sqrt(1 / A), rel=1e-4)


def test_straight_on_is_taken_at_speed_and_a_hairpin_from_rest():
    whole = read(f"{FLAT}F{60 * V}\n{line(100, 0, 100)}")[0].layers.seconds[0]
    parts = read(f"{FLAT}F{60 * V}\n" + "".join(line(10 * k, 0, 10) for k in range(1, 11)))[0].layers.seconds[0]
    assert parts == pytest.approx(whole, rel=1e-4)
    back = read(f"{FLAT}F{60 * V}\n{line(50, 0, 50)}{line(0, 0, 50)}")[0].layers.seconds[0]
    assert back == pytest.approx(2 * (50 / V + V / A), rel=1e-3)


@settings(deadline=None, max_examples=40)
@given(st.lists(st.tuples(st.integers(-50, 50), st.integers(-50, 50)), min_size=2, max_size=30), st.floats(5, 200))
def test_never_quicker_than_at_speed_and_never_slower_than_from_rest_to_rest(places, speed):
    text = f"{HEAD}G1 F{60 * speed}\n" + "".join(f"G1 X{x} Y{y} E0.1\n" for x, y in places)
    try:
        moves, _ = read_moves(text.encode())
    except InputError:  # it never leaves its place
        return
    took = planned(moves, A, 1.75).seconds
    points = np.column_stack([moves.x, moves.y, moves.z])
    far = np.linalg.norm(np.diff(points, axis=0, prepend=np.zeros((1, 3))), axis=1)
    far = np.where(far > 1e-6, far, np.abs(moves.e))
    rest = np.where(far * A >= moves.speed**2, far / moves.speed + moves.speed / A, 2 * np.sqrt(far / A))
    assert (far / moves.speed).sum() * (1 - 1e-4) <= took <= rest.sum() * (1 + 1e-4)


def test_layers_are_the_heights_at_which_something_is_laid():
    rows = "".join(f"G1 Z{0.2 * k + 1:.2f}\nG1 Z{0.2 * k:.2f}\n{line(10 * (k % 2), 0, 10)}" for k in range(1, 6))
    found, _ = read(HEAD + "G1 F3000\n" + rows)
    assert np.allclose(found.layers.z, [0.2, 0.4, 0.6, 0.8, 1.0]) and np.allclose(found.layers.height, 0.2)
    assert np.allclose(found.layers.volume[1:], 0.8, rtol=1e-4) and found.volume == pytest.approx(4.0, rel=1e-4)
    assert found.seconds == pytest.approx(found.layers.seconds.sum())
    assert found.widths[1] == pytest.approx(0.4 + 0.2 * (1 - pi / 4), rel=1e-3)


def run(capsys, file, *words):
    code = main(["gcode", str(file), *words, "--json"])
    return code, json.loads(capsys.readouterr().out)


def test_the_verb_by_its_letter(tmp_path, capsys):
    file = tmp_path / "plate.gcode"
    file.write_text(HEAD + "M104 S235 ; heat\nG1 F3000\n" + line(10, 0, 10) + "G1 Z0.4\n" + line(0, 0, 10))
    code, got = run(capsys, file)
    assert code == 0 and got["contract"] == 2 and got["warnings"] == [] and got["moves"] == 4
    assert [set(row) for row in got["layers"]] == [{"z_mm", "height_mm", "seconds", "extruded_mm3", "path_mm"}] * 2
    assert set(got["widths_mm"]) == {"least", "median", "most"} and got["extruded_mm3"] == pytest.approx(1.6, rel=1e-4)
    assert run(capsys, file, "--filament", "0")[1]["error"]["code"] == "bad_options"
    assert run(capsys, file, "--acceleration", "500")[1]["seconds"] > 0


def test_a_spiral_and_a_cut_off_end_are_told():
    turn = "".join(
        f"G1 X{10 * np.cos(0.2 * k):.3f} Y{10 * np.sin(0.2 * k):.3f} Z{0.2 + 0.002 * k:.4f} E0.1\n" for k in range(400)
    )
    found, notes = read(HEAD + "G1 F3000\n" + turn)
    assert [n["code"] for n in found.notes] == ["spiral"] and notes == []
    assert [n["code"] for n in read_moves((HEAD + "G1 X10 E1").encode())[1]] == ["may_be_cut"]
    assert [n["code"] for n in read_moves(b"G28\nM83\nG1 X10 E1\n")[1]] == ["no_speed"]


@pytest.mark.parametrize(
    "data, code",
    [
        (b"", "empty_file"),
        (b" \n\n", "empty_file"),
        (b"solid thing\nfacet normal 0 0 1\n" * 50, "unknown_format"),
        (bytes(range(256)) * 400, "unknown_format"),
        (b"G1 X10 Y10 F3000\n" * 10, "unknown_format"),
        ((HEAD + "G1 X1e9 E1\nG1 X999999999999999999 E1\n").encode(), "non_finite"),
        ((HEAD + "G1 X10 E1 F" + "9" * 30 + "\n").encode(), "non_finite"),
    ],
)
def test_what_is_no_prepared_file_is_refused(data, code):
    with pytest.raises(InputError) as refused:
        read_moves(data)
    assert refused.value.code == code and refused.value.hint


@pytest.mark.parametrize("line", [b"", b"\n"], ids=["one line", "many lines"])
def test_a_hundred_megabytes_of_noise_are_refused_from_their_beginning(line, monkeypatch):
    noise = np.random.default_rng(0).integers(32, 127, 5 << 20, dtype=np.uint8).tobytes()
    data = noise if not line else line.join(noise[i : i + 60] for i in range(0, len(noise), 60))
    seen = []
    parse = moves_module._parse
    monkeypatch.setattr(moves_module, "_parse", lambda raw, *more: seen.append(len(raw)) or parse(raw, *more))
    with pytest.raises(InputError) as refused:
        read_moves(data)
    assert refused.value.code == "unknown_format" and max(seen, default=0) < len(data), "it was not read whole"


def test_a_file_that_is_too_large_is_refused_and_never_read_in_part(tmp_path, capsys, monkeypatch):
    file = tmp_path / "large.gcode"
    file.write_text(HEAD + line(10, 0, 10) * 20)
    for module in ("cli.main", "prepared.moves"):
        monkeypatch.setattr(f"hewel_engine.{module}.MAX_BYTES", 200)
    code, got = run(capsys, file)
    assert code == 2 and got["error"]["code"] == "too_large"


@settings(deadline=None, max_examples=60)
@given(st.binary(max_size=300) | st.text("GMXYZEFIJRN0123456789.-+*;() \n\r", max_size=300).map(str.encode))
def test_noise_is_refused_or_read_and_never_breaks(noise):
    try:
        moves, _ = read_moves(HEAD.encode() + noise)
    except InputError:
        return
    found = planned(moves, A, 1.75)
    assert np.isfinite(found.seconds) and np.isfinite(found.volume) and found.seconds >= 0
