"""Where nothing of the product answers, what is answered has the product's form."""

import pytest
from django.test import Client

from hewel import urls

PROBLEM = {"code", "message", "hint", "clashes"}


def told(answer, status: int) -> dict:
    assert answer.status_code == status
    result = answer.json()
    assert set(result) == PROBLEM and result["message"].endswith(".") and result["hint"]
    return result


def test_an_api_refuses_in_one_form_whatever_is_wrong(client, part):
    assert told(Client().get("/api/parts"), 401)["code"] == "signed_out"
    assert told(Client().get("/api/openapi.json"), 401)["code"] == "signed_out"
    assert told(client.get("/api/no-such-thing"), 404)["code"] == "no_address"
    answer = client.put(f"/api/parts/{part.id}/job", {"base": "one"}, content_type="application/json")
    assert "base" in told(answer, 422)["message"] and "sections" in answer.json()["message"]
    told(client.put(f"/api/parts/{part.id}/job", "{not json", content_type="application/json"), 400)


def test_a_write_without_the_token_is_told(engineer):
    strict = Client(enforce_csrf_checks=True)
    strict.force_login(engineer)
    told(strict.post("/api/work/00000000-0000-0000-0000-000000000000/cancel"), 403)


def test_a_fault_of_ours_is_told_and_logged(client, monkeypatch, caplog):
    def broken(*_):
        raise ZeroDivisionError

    monkeypatch.setattr("desk.api.queries.listed", broken)
    assert told(client.get("/api/parts"), 500)["code"] == "defect"
    assert "ZeroDivisionError" in caplog.text


@pytest.mark.parametrize("name, status", [("handler400", 400), ("handler403", 403), ("handler404", 404)])
def test_a_page_that_fails_looks_like_ours(rf, name, status):
    module, function = getattr(urls, name).rsplit(".", 1)
    handler = getattr(__import__(module, fromlist=[function]), function)
    page = handler(rf.get("/somewhere"), Exception())
    text = page.content.decode()
    assert page.status_code == status and "List of parts" in text and "Traceback" not in text


def test_an_address_beside_the_page_is_answered_in_its_form():
    answer = Client().get("/assets/no-such.js")
    assert answer.status_code == 404 and "There is nothing at this address." in answer.content.decode()
