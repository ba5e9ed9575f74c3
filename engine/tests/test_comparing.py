"""A prepared file beside the plate that was calculated: what is the same is said to be, what differs is found."""

from math import pi

import numpy as np
import pytest

from hewel_engine.prepared.comparing import Expected, at_layers, copies_of, differences, lines_at, waits
from hewel_engine.prepared.moves import read_moves
from hewel_engine.prepared.planning import planned

PITCH, WIDTH, SIDE, COUNT = 0.2, 0.45, 20.0, 40
AREA = (WIDTH - PITCH) * PITCH + pi / 4 * PITCH**2
"""mm² of a line."""
FEED = AREA / (pi / 4 * 1.75**2)
ROUND = 4 * SIDE * AREA
"""mm³ of one layer of a frame."""


def frame(x, y, feed=FEED):
    steps = [(SIDE, 0), (SIDE, SIDE), (0, SIDE), (0, 0)]
    lines = [f"G1 X{x + a} Y{y + b} E{SIDE * feed:.5f}" for a, b in steps]
    return [f"G0 X{x} Y{y} F9000", lines[0] + " F3000", *lines[1:]]


def file_of(copies, pitch=PITCH, count=COUNT, feed=FEED, extra=()):
    rows = ["G21", "G90", "M83", "G28"]
    for k in range(count):
        rows.append(f"G0 Z{(k + 1) * pitch:.3f} F600")
        for n in range(copies):
            rows += frame(10 + 30 * n, 10, feed)
        if k in extra:
            rows += frame(10, 60) + frame(60, 60)
    return "\n".join(rows).encode()


def read(data):
    moves, _ = read_moves(data)
    return moves, planned(moves, 3000.0, 1.75)


@pytest.fixture(scope="module")
def two():
    """Two frames, as they were calculated."""
    _, found = read(file_of(2))
    return Expected(PITCH, WIDTH, np.full(COUNT, ROUND), found.layers.seconds, 2, found.seconds)


def states(found, expected):
    return {row.key: row.state for row in differences(found, expected)}


def test_what_is_the_same_is_said_to_be(two):
    _, found = read(file_of(2))
    rows = differences(found, two)
    assert {r.state for r in rows} == {"good"} and {r.key for r in rows} == {
        "height",
        "layer",
        "width",
        "copies",
        "time",
    }
    assert copies_of(found, two) == pytest.approx(2, rel=1e-3)
    assert np.allclose(waits(found, two), found.layers.seconds)
    assert at_layers(found, found.layers.volume, COUNT, PITCH).sum() == pytest.approx(found.volume)


def test_other_layers_lines_and_height_are_found(two):
    _, coarse = read(file_of(2, pitch=0.3, count=27))
    assert states(coarse, two)["layer"] == "fails"
    _, wide = read(file_of(2, feed=1.3 * FEED))
    assert states(wide, two)["width"] == "doubtful" and states(wide, two)["copies"] == "doubtful"
    _, low = read(file_of(2, count=30))
    first = differences(low, two)[0]
    assert first.key == "height" and first.as_dict()["words"].startswith(
        "Fails: it is 6.00 mm high; the part stands 8.00"
    )


def test_a_file_of_thicker_layers_tells_the_wait_of_every_layer_of_the_part(two):
    _, coarse = read(file_of(2, pitch=0.4, count=20))
    assert waits(coarse, two)[3::2] == pytest.approx(coarse.layers.seconds[1:])
    assert waits(coarse, two)[2::2] == pytest.approx(coarse.layers.seconds[1:])
    _, low = read(file_of(2, count=30))
    assert np.allclose(waits(low, two)[30:], two.layer_s[30:]), "what the file does not reach is as calculated"


def test_another_number_of_copies_is_found(two):
    _, three = read(file_of(3))
    row = next(r for r in differences(three, two) if r.key == "copies")
    assert row.state == "fails" and "prints 3 copies; 2 are looked at" in row.words
    assert states(three, two)["time"] == "doubtful"


def test_a_support_is_found_where_none_was_meant(two):
    _, held = read(file_of(2, extra=range(10, 22)))
    row = next(r for r in differences(held, two) if r.key == "support")
    assert row.state == "fails" and "From 2.0 to 4.4 mm" in row.words
    assert row.found == pytest.approx(12 * 2 * ROUND, rel=0.01)
    _, rimmed = read(file_of(2, extra=[0]))
    assert states(rimmed, two)["brim"] == "good" and "support" not in states(rimmed, two)


def test_the_lines_of_a_layer_are_where_the_file_lays_them():
    moves, _ = read(file_of(2))
    lines = lines_at(moves, 4.03, PITCH)
    assert len(lines) == 8 and lines[:, [0, 2]].min() == 10 and lines[:, [0, 2]].max() == 60
    assert np.hypot(lines[:, 2] - lines[:, 0], lines[:, 3] - lines[:, 1]) == pytest.approx(np.full(8, SIDE))
