"""The simulated farm: its clock by hand, hands that it waits for, faults, and a farm that was killed."""

import json

import pytest

from simulated_door import Refused
from simulated_farm.machines import AWAY_S, Farm


def printing(farm, stops=(), seconds=6000.0, layers=100):
    farm.place("w1", "t1", "6 bushings", seconds, layers, [list(s) for s in stops])
    return farm.machines["w1"]


def look(farm):
    return farm.looks()[0]


def test_a_plate_is_heated_and_printed_layer_by_layer():
    farm = Farm()
    machine = printing(farm)
    assert look(farm)["phase"] == "heating"
    farm.advance(240 + 600 + 1)
    assert (look(farm)["phase"], look(farm)["layer"]) == ("printing", 10)
    assert look(farm)["left_s"] == pytest.approx(5400)
    farm.advance(5400)
    assert (look(farm)["phase"], look(farm)["left_s"]) == ("done", 0.0)
    farm.command("w1", "t1", "clear")
    assert machine.phase == "idle"


def test_it_waits_for_hands_at_a_stop_and_when_it_is_paused():
    farm = Farm()
    printing(farm, [(3000.0, "a nut goes in")])
    farm.advance(20_000)
    assert (look(farm)["phase"], look(farm)["words"], look(farm)["layer"]) == ("waiting", "a nut goes in", 50)
    farm.command("w1", "t1", "continue")
    farm.advance(600)
    farm.command("w1", "t1", "pause")
    layer = look(farm)["layer"]
    farm.advance(9000)
    assert look(farm)["phase"] == "paused" and look(farm)["layer"] <= layer + 1
    farm.command("w1", "t1", "continue")
    farm.advance(6000)
    assert look(farm)["phase"] == "done"


def test_the_same_ticket_is_never_printed_twice():
    farm = Farm()
    printing(farm)
    printing(farm)
    farm.command("w1", "t1", "cancel")
    assert look(farm)["phase"] == "cancelled"
    with pytest.raises(Refused, match="holds a plate"):
        farm.place("w1", "t2", "others", 60, 3, [])
    farm.command("w1", "t1", "clear")
    printing(farm)
    assert look(farm)["phase"] == "idle", "it was printed, or given up, already"
    with pytest.raises(Refused, match="does not hold"):
        farm.command("w1", "t1", "pause")


@pytest.mark.parametrize(
    ("what", "phase"), [("detached", "failed"), ("power", "failed"), ("tangle", "waiting"), ("run_out", "waiting")]
)
def test_something_goes_wrong_at_the_next_layer(what, phase):
    farm = Farm()
    printing(farm)
    farm.advance(1000)
    farm.happen("w1", what)
    farm.advance(100)
    assert look(farm)["phase"] == phase and look(farm)["words"]
    if phase == "waiting":
        farm.command("w1", "t1", "continue")
        farm.advance(6000)
        assert look(farm)["phase"] == "done"


def test_a_machine_off_the_line_says_nothing_and_prints_on():
    farm = Farm()
    printing(farm)
    farm.happen("w1", "off_line")
    farm.advance(400)
    assert look(farm) == {"id": "w1", "phase": "off line"}
    farm.advance(AWAY_S + 200)
    assert look(farm)["phase"] == "printing" and look(farm)["layer"] > 15


@pytest.mark.parametrize("at", [10, 500, 3300, 5000, 7000])
def test_a_farm_that_was_killed_goes_on_where_it_was(at):
    whole, broken = Farm(), Farm()
    for farm in (whole, broken):
        printing(farm, [(3000.0, "a nut goes in")])
        farm.advance(at)
    again = Farm(state=json.loads(json.dumps(broken.kept())))
    for farm in (whole, again):
        farm.advance(9000)
        if look(farm)["phase"] == "waiting":
            farm.command("w1", "t1", "continue")
        farm.advance(9000)
    assert look(again)["phase"] == look(whole)["phase"] == "done"
    assert again.machines["w1"].stops_done == 1


def test_what_goes_wrong_is_a_matter_of_the_seed():
    def faults(seed):
        farm = Farm(seed, 0.5)
        for i in range(60):
            farm.place(f"m{i}", f"t{i}", "", 100, 50, [])
        return [m.plate.faults for m in farm.machines.values()]

    assert faults(1) == faults(1) != faults(2)
    assert 15 < sum(bool(f) for f in faults(1)) < 45
