"""The same question twice: answered from memory while nothing has changed, anew as soon as anything has."""

from uuid import uuid4

import pytest
from conftest import client_of, person
from django.db import connection
from django.test.utils import CaptureQueriesContext
from test_needs import Job

from hewel import repeated

pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.usefixtures("study")]


def asked(client, path: str):
    """The answer and how many queries it took."""
    with CaptureQueriesContext(connection) as caught:
        answer = client.get(path)
    return answer, len(caught.captured_queries)


def test_the_second_time_costs_one_query(client, part):
    path = f"/api/parts/{part.id}"
    first, dear = asked(client, path)
    again, cheap = asked(client, path)
    assert dear > cheap == 1
    assert again.content == first.content and again.status_code == 200
    assert again["Content-Type"] == first["Content-Type"] and "Cookie" in again["Vary"]


def test_what_is_written_is_seen_at_once(client, part):
    path = f"/api/parts/{part.id}"
    assert client.get(path).json()["job"]["need"]["quantity"] != 77
    assert Job(client, part).put(need={"quantity": 77}).status_code == 200
    assert client.get(path).json()["job"]["need"]["quantity"] == 77


def test_nobody_gets_what_another_asked_for(client, part, engineer, stranger):
    path = f"/api/parts/{part.id}"
    assert client.get(path).status_code == client.get(path).status_code == 200
    for _ in range(2):
        assert client_of(stranger).get(path).status_code == 404
    colleague = client_of(person("ada", "Alder Reach"))
    assert colleague.get(path).status_code == 200
    assert [p["id"] for p in client_of(stranger).get("/api/parts").json()] == []


def test_a_session_that_ended_asks_in_vain(client, part, engineer):
    path = f"/api/parts/{part.id}"
    other = client_of(engineer)
    assert other.get(path).status_code == client.get(path).status_code == 200
    client.logout()
    assert client.get(path).status_code == 401
    engineer.is_active = False
    engineer.save()
    assert other.get(path).status_code == 401


def test_refusals_and_large_answers_are_worked_out_each_time(client, part, monkeypatch):
    path = f"/api/parts/{part.id}"
    monkeypatch.setattr(repeated, "LARGEST", 100)
    first = asked(client, path)[1]
    assert first - 2 == asked(client, path)[1] == asked(client, path)[1] > 1, "who asks is read the first time alone"
    nobody = f"/api/parts/{uuid4()}"
    assert asked(client, nobody)[0].status_code == 404 == asked(client, nobody)[0].status_code
    assert asked(client, nobody)[1] > 1
