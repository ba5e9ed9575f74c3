"""Parts that meet this one: set against it by faces, bought, stacked; what leaves is larger by what shrinks."""

import numpy as np
import pytest
from test_fit import second, seen, touch, written
from test_needs import Job
from test_overhangs import choose

from hewel_engine.processes import Process


@pytest.fixture
def job(client, part, study):
    return Job(client, part)


BORES = {"at": [-4, 0, 0], "normal": [-1, 0, 0], "their_at": [-4, 0, 0], "their_normal": [-1, 0, 0]}


def against(z: float, at=(10, 0)):
    """This part's face that looks up at a height, and the other's underside."""
    return {"at": [*at, z], "normal": [0, 0, 1], "their_at": [0, 10, -3], "their_normal": [0, 0, -1]}


def mate(part, *pairs, **more):
    return {"rows": [{"id": "m", "name": "upper plate", "part": str(part.id), "pairs": list(pairs)}]} | more


def test_another_part_is_set_against_this_one_and_what_both_take_up_is_measured(
    client, engineer, part, job, pieces, studied
):
    other = second(engineer, pieces, studied)
    assert job.put(mates=mate(other, against(24), BORES)).status_code == 200
    (row,) = seen(client, part)["mates"]
    assert row["meets"] and row["overlap_mm3"] == 0 and row["matrix"][11] == pytest.approx(27)
    assert [p["how"] for p in row["pairs"]] == ["against", "round"] and row["pairs"][1]["left"] is None
    assert str(other.id) in {b["part"] for b in seen(client, part)["beside"]}
    job.put(mates=mate(other, against(3, (-15, 0)), BORES))
    (row,) = seen(client, part)["mates"]
    assert row["overlap_mm3"] == pytest.approx(6 * 30 * 21, rel=1e-6) and len(row["places_mm"]) == 1
    free = {"rows": [{"id": "s", "name": "upper plate", "kind": "body", "part": str(other.id), "place": row["matrix"]}]}
    assert job.put(spaces=free).status_code == 200
    (space,) = [s for s in client.get(f"/api/needs/{part.id}/spaces").json() if s["name"] == "upper plate"]
    assert space["corners"]


def test_pairs_that_set_nothing_say_why(client, engineer, part, job, pieces, studied):
    other = second(engineer, pieces, studied)
    walls = {"at": [7, 0, 12], "normal": [-1, 0, 0], "their_at": [7, 0, 12], "their_normal": [-1, 0, 0]}
    job.put(mates=mate(other, walls))
    (row,) = seen(client, part)["mates"]
    assert row["pairs"][0]["how"] == "against" and row["pairs"][0]["left"] is None and row["free"]
    mixed = BORES | {"their_at": [7, 0, 12], "their_normal": [-1, 0, 0]}
    job.put(mates=mate(other, mixed))
    assert "round one" in seen(client, part)["mates"][0]["why"]
    job.put(mates=mate(other, BORES | {"at": [60, 0, 0]}))
    assert "No face" in seen(client, part)["mates"][0]["why"]
    tilted = {"at": [10, 0, 24], "normal": [0, 0, 1], "their_at": [20, 0, 0], "their_normal": [1, 0, 0]}
    job.put(mates=mate(other, against(24), tilted))
    (row,) = seen(client, part)["mates"]
    assert not row["meets"] and row["tilt_deg"] > 40 and row["overlap_mm3"] is None and row["matrix"] is None
    wrong = job.put(mates=mate(other, BORES, cold="60 °C", warm="-10 °C"))
    assert wrong.status_code == 422 and "colder one first" in str(wrong.json())
    assert job.put(mates=mate(other)).status_code == 422, "a mate has a pair of faces"
    gone = mate(other, BORES)
    gone["rows"][0]["part"] = "00000000-0000-4000-8000-000000000000"
    job.put(mates=gone)
    assert "not in the workshop" in seen(client, part)["mates"][0]["why"]


BEARING = {"kind": "bearing", "numbers": {"bore": "3 mm", "outer": "8 mm", "width": "3 mm"}, "minus": "8 um"}


def bought(given: dict, *pairs) -> dict:
    return {"rows": [{"id": "b", "name": "bearing", "bought": given, "pairs": list(pairs)}]}


def test_a_bought_part_is_set_by_its_named_faces_and_its_tolerance_counts(client, part, job, study):
    choose(client, job, study, (0, 0, 1))
    bore = {"at": [-4, 0, 0], "normal": [-1, 0, 0], "face": "outer face"}
    assert job.put(mates=bought(BEARING)).status_code == 200, "its faces come later"
    assert "Choose one of its faces" in seen(client, part)["mates"][0]["why"]
    job.put(mates=bought(BEARING, bore))
    state = seen(client, part)
    (row,) = state["mates"]
    assert {k["key"] for k in state["bought"]} == {"shaft", "bearing", "screw"}
    assert row["why"] is None and row["meets"] and row["free"] and len(row["corners_mm"]) > 900
    (pair,) = row["pairs"]
    assert pair["how"] == "round" and pair["theirs_mm"] == pytest.approx(8, abs=0.01)
    exact = job.put(mates=bought(BEARING | {"minus": None}, bore))
    assert exact.status_code == 200
    (other,) = seen(client, part)["mates"][0]["pairs"]
    assert pair["left"]["gap_mm"] - other["left"]["gap_mm"] == pytest.approx(0.002), "half of 8 µm, per side"
    spread = lambda left: left["worst_mm"][1] - left["worst_mm"][0]
    assert spread(pair["left"]) - spread(other["left"]) == pytest.approx(0.004)


@pytest.mark.parametrize(
    ("given", "face", "words"),
    [
        (BEARING | {"kind": "nut"}, "side", "no nut"),
        (BEARING | {"numbers": {"bore": "30 mm"}}, "side", "no less than"),
        (BEARING, "handle", "no face"),
        ({"kind": "screw", "size": "M99"}, "shank", "no screw"),
    ],
)
def test_a_bought_part_that_cannot_be_says_why(client, part, job, given, face, words):
    assert job.put(mates=bought(given, {"at": [-4, 0, 0], "normal": [-1, 0, 0], "face": face})).status_code == 200
    assert words in seen(client, part)["mates"][0]["why"]


def test_a_mate_is_one_of_the_workshop_or_a_bought_one(job, part):
    both = bought(BEARING)
    both["rows"][0]["part"] = str(part.id)
    neither = bought(BEARING)
    del neither["rows"][0]["bought"]
    for wrong in (both, neither, bought(BEARING, {"at": [0, 0, 0], "normal": [0, 0, 1]})):
        assert job.put(mates=wrong).status_code == 422


def test_sizes_of_two_parts_stack_as_they_are_printed(client, engineer, part, job, study, pieces, studied):
    choose(client, job, study, (0, 0, 1))
    written(job, touch("bore", "sliding", size="8 mm"))
    own = seen(client, part)["rows"][0]["estimate"]
    link = lambda key, **more: {"id": key, "touch": "t-bore"} | more
    job.put(mates={"stack": [link("a"), link("b", less=True)], "least": "-0.2 mm", "most": "0.2 mm"})
    told = seen(client, part)["stack"]
    assert told["middle_mm"] == pytest.approx(0)
    assert told["worst_mm"] == pytest.approx([-2 * own["doubt_mm"], 2 * own["doubt_mm"]])
    assert told["squares_mm"][1] == pytest.approx(2**0.5 * own["doubt_mm"]) and told["out_ppm"] < 1e6
    lost = {"id": "c", "touch": "t-bore", "part": "00000000-0000-4000-8000-000000000000"}
    job.put(mates={"stack": [link("a"), lost]})
    told = seen(client, part)["stack"]
    assert told["middle_mm"] is None and told["rows"][1]["mm"] is None
    wrong = job.put(mates={"stack": [], "least": "2 mm", "most": "1 mm"})
    assert wrong.status_code == 422 and "least gap first" in str(wrong.json())


def test_what_leaves_is_larger_by_what_shrinks_and_then_no_face_is_drawn_for_it(client, part, job, study):
    choose(client, job, study, (0, 0, 1))
    written(job, touch("bore", "sliding", size="8 mm"))
    shrinks = lambda: next(
        c for c in seen(client, part)["rows"][0]["estimate"]["corrections"] if "shrink" in c["words"]
    )
    file = lambda: client.get(f"/api/parts/{part.id}/file?kind=stl").content
    size = lambda: np.ptp(read_stl(file()), axis=(0, 1))
    plain, state = size(), seen(client, part)
    assert state["scale"] is None and not state["prepared"] and not shrinks()["compensated"]
    rows = job.get()["job"]["touching"]["rows"]
    assert job.put(touching={"rows": rows, "scaled": True}).status_code == 200
    plan, along = seen(client, part)["scale"]
    shrinkage = Process().stock.shrinkage
    assert (plan, along) == pytest.approx((1 / (1 - shrinkage),) * 2) and shrinks()["compensated"]
    assert size() == pytest.approx(plain * [plan, plan, along], rel=1e-5)


def read_stl(data: bytes) -> np.ndarray:
    rows = np.frombuffer(data[84:], np.dtype([("v", "<f4", 12), ("a", "<u2")]))["v"].reshape(-1, 4, 3)
    return rows[:, 1:]
