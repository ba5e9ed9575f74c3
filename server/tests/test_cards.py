"""Gauge cards by way of the API: units as people write them, defaults, refusals in words."""

import re
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]


def ask(client, card, **inputs):
    return client.post("/api/cards", {"card": card, "inputs": inputs}, content_type="application/json")


@pytest.fixture
def cards(client):
    return {c["key"]: c for c in client.get("/api/cards").json()}


def test_every_card_says_what_it_takes_and_gives(cards):
    assert len(cards) > 40
    thread = cards["thread"]
    assert [i["words"] for i in thread["inputs"]] == ["diameter", "pitch"] and thread["inputs"][0]["unit"] == "mm"
    assert {o["unit"] for o in thread["outputs"]} == {"mm", "mm²", "°"}
    assert all(c["formula"] and c["source"] and c["outputs"] for c in cards.values())


def test_inputs_are_written_as_people_write_them(client):
    plain = ask(client, "preload", torque_nmm="1500", diameter_mm="5").json()
    typed = ask(client, "preload", torque_nmm="1.5 N·m", diameter_mm="0.5 cm", scatter="").json()
    assert plain["outputs"] == typed["outputs"] and plain["outputs"]["preload_n"] == pytest.approx(1500)
    assert typed["inputs"]["scatter"] == 0.3, "what is left empty takes its default"


def test_a_column_of_readings_is_taken(client):
    got = ask(client, "allowable", readings_mpa="31.2, 29.8 ,30.4,").json()
    assert got["outputs"]["count"] == 3 and got["outputs"]["bound_mpa"] < 29.8 and got["warnings"] == []
    assert ask(client, "allowable", readings_mpa="31.2,29.8").json()["warnings"]


@pytest.mark.parametrize(
    ("inputs", "words"),
    [
        ({"torque_nmm": "1500"}, "diameter"),
        ({"torque_nmm": "much", "diameter_mm": "5"}, "torque"),
        ({"torque_nmm": "1500", "diameter_mm": "-5"}, "diameter"),
        ({"torque_nmm": "1500", "diameter_mm": "nan"}, "diameter"),
        ({"torque_nmm": "1500 mm", "diameter_mm": "5"}, "torque"),
        ({"torque_nmm": "1500", "diameter_mm": "5", "colour": "1"}, "colour"),
    ],
)
def test_what_cannot_be_is_refused_in_words(client, inputs, words):
    answer = ask(client, "preload", **inputs).json()
    assert words in answer["problem"]["message"] and answer["problem"]["hint"] and answer["outputs"] == {}


def test_sizes_say_where_they_are_from_and_how_sure_they_are(client):
    rows = client.get("/api/cards/sizes").json()
    pitch = next(r for r in rows if (r["item"], r["size"], r["key"]) == ("thread coarse", "M5", "pitch"))
    assert (pitch["value"], pitch["unit"], pitch["doubtful"]) == (0.8, "mm", False) and "ISO" in pitch["source"]
    assert any(r["doubtful"] and r["sure"] for r in rows)


def test_there_is_no_such_card(client):
    assert ask(client, "nothing").status_code == 404


def test_sketches_name_what_their_cards_take(client):
    """A size in a sketch is called as the input is; what is drawn for a card that is gone would be found here."""
    cards = {c["key"]: {i["words"] for i in c["inputs"]} for c in client.get("/api/cards").json()}
    text = (ROOT / "web/src/domain/sketches.ts").read_text().split("SKETCHES", 1)[1]
    drawn = re.split(r"\n  (\w+): \{\n", text)[1:]
    assert len(drawn) > 40, "they are read"
    for key, body in zip(drawn[::2], drawn[1::2], strict=True):
        names = set(re.findall(r"\"([a-z ]+)\"\s*,?\s*\]", body))
        assert names
        assert names <= cards[key], (key, names - cards[key])
