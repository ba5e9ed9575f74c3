"""A plate of copies in time: layer times against closed forms, and what the wait leaves of the weld; the verb plate."""

import json

import numpy as np
import pytest
import shapely
from shapes import box, mesh_of, rod

from hewel_engine.cli.main import main
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.io.stl import write_stl
from hewel_engine.materials import MATERIALS
from hewel_engine.plates.batch import DAY, Batch, Copy
from hewel_engine.plates.nesting import Item
from hewel_engine.printing.paths import move_seconds
from hewel_engine.printing.weld import Weld
from hewel_engine.processes import Process

UP = np.array([0.0, 0.0, 1.0])
PROCESS = Process(layer_minimum=0.0)


def batch(solid, count, mode="together", process=PROCESS, apart=60.0, **more):
    stack = LayerStack(mesh_of(solid), UP, process.layer)
    items = [Item(apart * n, 0.0, 0.0) for n in range(count)]
    return Batch(Copy.of(stack, process), process, Weld.of(MATERIALS["petg"]), mode, items, (0.0, 0.0), **more)


def test_copies_together_take_their_lines_and_the_way_between_them():
    one, four = batch(box(40, 30, 10), 1), batch(box(40, 30, 10), 4)
    hop = move_seconds(60.0, PROCESS.travel_speed, PROCESS.acceleration)
    change = PROCESS.layer_change
    assert np.allclose(four.layer_s - change, 4 * (one.layer_s - change) + 3 * hop)
    assert four.print_s == pytest.approx(four.layer_s.sum())


def test_in_turn_each_waits_for_itself_only():
    one, four = batch(box(40, 30, 10), 1), batch(box(40, 30, 10), 4, "sequential")
    assert np.allclose(four.layer_s, one.layer_s)
    assert four.print_s == pytest.approx(4 * one.print_s, rel=1e-3) and four.bond.value.min() == one.bond.value.min()


@pytest.mark.parametrize("wall, pairs", [(0.9, 1), (1.8, 2), (2.0, 2), (2.7, 3)])
def test_a_thin_ring_takes_its_lines_one_by_one(wall, pairs):
    """A tube with so many lines from each of its faces, and in the wall of 2.0 mm a slit between them: each once
    round at its own radius, at speed, between two accelerations.
    """
    process = Process(layer_minimum=0.0, perimeters=3, infill=0.0, top_bottom=0, rule="plain")
    outer, speed, a = 20.0, process.held_to_flow(process.outer_speed), process.acceleration
    copy = Copy.of(LayerStack(mesh_of(rod(8, outer, 256) - rod(9, outer - wall, 256)), UP, 0.2), process)
    deep = process.width * (0.5 + np.arange(pairs))
    expected = sum(2 * np.pi * r / speed + speed / a for r in (*(outer - deep), *(outer - wall + deep)))
    assert copy.extruding[5] == pytest.approx(expected, rel=0.03)


def test_every_neighbour_weakens_the_weld_and_turns_save_it():
    found = [batch(box(40, 30, 10), n).bond.value.min() for n in (1, 2, 5, 10, 20)]
    assert (np.diff(found) <= 1e-12).all() and found[-1] < 0.8 < found[0]
    assert batch(box(40, 30, 10), 20, "sequential").bond.value.min() == pytest.approx(found[0])


def test_more_copies_pay_the_way_to_the_next_plate_only_once():
    few, many = batch(box(10, 10, 5), 1), batch(box(10, 10, 5), 8)
    assert many.parts_per_day > few.parts_per_day
    assert few.parts_per_day == pytest.approx(DAY / (360 + few.print_s + 600))


@pytest.fixture
def part(tmp_path):
    path = tmp_path / "angle.stl"
    path.write_bytes(
        write_stl(mesh_of(box(60, 15, 20).translate((30, 7.5, 10)) + box(15, 40, 20).translate((7.5, 20, 10))))
    )
    return path


def run(capsys, *argv):
    code = main([str(a) for a in argv])
    return code, json.loads(capsys.readouterr().out)


def corners(item, shape):
    """The shape as whoever reads the answer places it: turned anticlockwise about the part's origin, then moved."""
    turn = np.radians(item["rotation_deg"])
    spin = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
    return shapely.transform(shape, lambda xy: xy @ spin.T + [item["x_mm"], item["y_mm"]])


@pytest.mark.parametrize("mode, gap", [("together", 3.0), ("sequential", 45.0)])
def test_the_verb_plate_by_its_letter(part, capsys, mode, gap):
    shape = shapely.Polygon([(0, 0), (60, 0), (60, 15), (15, 15), (15, 40), (0, 40)])
    x0, y0 = [float(v) for v in shape.bounds[:2]]
    code, got = run(capsys, "plate", part, "--bed", "250,210,220", "--copies", "4", "--mode", mode, "--json")
    assert code == 0 and got["fits"] and got["copies"] == 4 == len(got["items"]) and got["seconds"] > 0 == x0 == y0
    assert [i["order"] for i in got["items"]] == [1, 2, 3, 4]
    placed = [corners(i, shape) for i in got["items"]]
    assert all(shapely.box(0, 0, 250, 210).buffer(1e-6).covers(p) for p in placed)
    assert min(p.distance(q) for n, p in enumerate(placed) for q in placed[:n]) >= gap - 1e-4
    assert got["layer_time_s"]["max"] >= got["layer_time_s"]["median"] > 0
    assert 0 < got["bond_low"] <= got["bond_factor"] <= 1 and got["print_seconds"] > 0 < got["parts_per_day"]


def test_max_fills_the_bed_and_what_does_not_go_is_said(part, capsys, monkeypatch):
    monkeypatch.setattr("hewel_engine.cli.plate.BUDGET", 2.0)
    _, most = run(capsys, "plate", part, "--bed", "250,210,220", "--copies", "max")
    assert most["fits"] and most["copies"] >= 24
    _, crowd = run(capsys, "plate", part, "--bed", "250,210,220", "--copies", "500")
    assert not crowd["fits"] and len(crowd["items"]) == crowd["copies"] >= 24
    _, low = run(capsys, "plate", part, "--bed", "250,210,19", "--copies", "1")
    assert not low["fits"] and low["items"] == [] and low["warnings"][-1]["code"] == "too_high"
    code, wrong = run(capsys, "plate", part, "--copies", "1")
    assert code == 2 and wrong["error"]["code"] == "bad_options" and "250,210,220" in wrong["error"]["hint"]
    for words in (["--bed", "0,1,1"], ["--bed", "9,9,9", "--copies", "0"], ["--bed", "9,9,9", "--spacing", "-1"]):
        assert run(capsys, "plate", part, *words)[1]["error"]["code"] == "bad_options"
