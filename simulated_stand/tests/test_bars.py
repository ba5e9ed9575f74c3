"""What the simulated stand answers: the same truth for one seed, each run once, rows as their time comes."""

import json
import threading
import urllib.error
import urllib.request
from http.server import ThreadingHTTPServer

import pytest

from simulated_door import Refused
from simulated_stand.__main__ import Stand, handler
from simulated_stand.bars import FAULTS, Bar, pulled, truth

ASKED = {"run": "r1", "plastic": "grade A", "kind": "upright", "plate": "1", "number": 1}


def test_a_plastic_bears_the_same_today_and_tomorrow_and_another_seed_another():
    assert truth(1, "Grade A ") == truth(1, "grade a") != truth(2, "grade a")
    bar = Bar("grade A", "upright", "1", 1, 20.0)
    assert list(pulled(1, bar)) == list(pulled(1, bar))


def test_a_long_wait_between_layers_costs_strength():
    most = lambda layer_s: max(force for _, _, force in pulled(1, Bar("grade A", "upright", "1", 1, layer_s)))
    assert most(240.0) < 0.95 * most(20.0)


@pytest.mark.parametrize("fault", FAULTS)
def test_every_fault_is_a_run(fault):
    rows = list(pulled(3, Bar("grade A", "along", "1", 1, 20.0, fault)))
    assert len(rows) > 100 and all(len(row) == 3 for row in rows)


@pytest.mark.parametrize("bar", [Bar("A", "sideways", "1", 1, 20.0), Bar("A", "along", "1", 1, 20.0, "fire")])
def test_what_it_cannot_do_it_says(bar):
    with pytest.raises(Refused):
        list(pulled(1, bar))


def test_rows_come_as_their_time_comes_and_one_bar_is_in_the_grips():
    stand = Stand(1, 10.0)
    stand.start(ASKED, 0.0)
    assert stand.look("r1", 0, 0.0)["rows"] == [] and not stand.look("r1", 0, 0.5)["done"]
    half = stand.look("r1", 0, 0.5)["rows"]
    assert len(half) == 500 and stand.look("r1", 500, 0.5)["rows"] == []
    with pytest.raises(Refused, match="in the grips"):
        stand.start(ASKED | {"run": "r2"}, 0.5)
    assert stand.look("r1", 0, 60.0)["done"]
    stand.start(ASKED | {"run": "r2"}, 60.0)
    stand.stop("r2", 60.2)
    assert stand.look("r2", 0, 99.0)["done"] and len(stand.look("r2", 0, 99.0)["rows"]) == 200
    with pytest.raises(Refused, match="no such run"):
        stand.look("r9", 0, 0.0)


def test_behind_its_address_it_answers_whom_it_knows():
    server = ThreadingHTTPServer(("127.0.0.1", 0), handler(Stand(1, 1000.0), "secret"))
    threading.Thread(target=server.serve_forever, daemon=True).start()
    base = f"http://127.0.0.1:{server.server_port}"

    def ask(path: str, body: dict | None = None, token: str = "secret") -> tuple[int, dict]:
        data = None if body is None else json.dumps(body).encode()
        try:
            with urllib.request.urlopen(
                urllib.request.Request(f"{base}/{path}", data, {"Authorization": f"Bearer {token}"})
            ) as answer:
                return answer.status, json.load(answer)
        except urllib.error.HTTPError as error:
            return error.code, json.load(error)

    try:
        assert ask("runs", ASKED, "wrong")[0] == 401
        assert ask("runs", ASKED) == (200, {"run": "r1"}) and ask("runs", {"run": "x"})[0] == 400
        assert ask("runs/r1?from=0")[0] == 200 and ask("runs/none?from=0")[0] == 409
        assert ask("else")[0] == 404 and ask("runs/r1/stop", {})[0] == 200
    finally:
        server.shutdown()
