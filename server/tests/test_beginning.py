"""The first workshop, names that look alike, passwords that are changed or lost, and entry that is taken away."""

import threading

import pytest
from conftest import client_of, person
from django.db import connection
from django.test import Client

from accounts.actions import invite, new_workshop, setup_code
from accounts.addresses import MOST_FROM_ONE
from accounts.models import User, Workshop
from accounts.names import name_key
from audit.models import Entry
from hewel.refusal import Refused

SECRET = "tide-over-the-weir-4"
FIRST = {"workshop": "Alder Reach", "username": "Ines.Marrow", "name": "Ines Marrow", "password": SECRET}
OTHER = "float-past-the-sluice-9"


def viewer() -> User:
    wim = person("wim", "Alder Reach")
    wim.role = User.Role.VIEWER
    wim.save()
    return wim


def send(client, verb, url, body=None):
    return getattr(client, verb)(url, body or {}, content_type="application/json")


@pytest.mark.django_db
def test_the_first_workshop_is_begun_once_and_by_who_can_read_the_code():
    guest = Client()
    assert guest.get("/api/session/first").json() is True
    assert send(guest, "post", "/api/session/first", FIRST | {"code": "ABCDEFGH"}).status_code == 403
    begun = send(guest, "post", "/api/session/first", FIRST | {"code": f" {setup_code().lower()} "})
    assert begun.status_code == 200 and begun.json()["role"] == "engineer" and begun.json()["username"] == "ines.marrow"
    assert guest.get("/api/session").json() == begun.json() and guest.get("/api/session/first").json() is False
    again = send(Client(), "post", "/api/session/first", FIRST | {"code": setup_code(), "workshop": "Another"})
    assert again.status_code == 409 and Workshop.objects.count() == 1
    assert Entry.objects.get(action="workshop begun").after["engineer"] == "ines.marrow"


@pytest.mark.django_db
@pytest.mark.parametrize(
    "wrong, says",
    [({"workshop": " "}, "called"), ({"username": "ø"}, "letters a–z"), ({"password": "aaaaaaaaaaaa"}, "different")],
)
def test_what_begins_no_workshop_leaves_nothing(wrong, says):
    answer = send(Client(), "post", "/api/session/first", FIRST | {"code": setup_code()} | wrong)
    assert answer.status_code == 422 and says in answer.json()["message"]
    assert not Workshop.objects.exists() and not User.objects.exists()


def test_one_more_workshop_is_apart(engineer):
    user = new_workshop("Otter Weir", "wim", "Wim Sluys", SECRET)
    assert user.workshop != engineer.workshop and client_of(user).get("/api/parts").json() == []
    with pytest.raises(Refused, match="workshop of this name"):
        new_workshop("Otter Weir", "otto", "Otto", SECRET)
    assert not User.objects.filter(username="otto").exists()


def test_names_that_look_alike_are_one_name():
    same = {name_key(n) for n in ("Ilmo.Orn", "1lm0-0rn", "llmoorn", "i1mo_orn", "ilmoom")}
    assert len(same) == 1 and name_key("ines") != name_key("inez")


def test_signing_in_does_not_mind_how_a_name_is_written(engineer):
    engineer.set_password(SECRET)
    engineer.save()
    for typed in ("ines", "INES", " Ines ", "lnes"):
        assert send(Client(), "post", "/api/session", {"username": typed, "password": SECRET}).status_code == 200, typed
    assert send(Client(), "post", "/api/session", {"username": "inez", "password": SECRET}).status_code == 401


def test_a_changed_password_ends_other_sessions(engineer):
    engineer.set_password(SECRET)
    engineer.save()
    here, elsewhere = Client(), Client()
    for client in (here, elsewhere):
        send(client, "post", "/api/session", {"username": "ines", "password": SECRET})
    wrong = send(here, "put", "/api/session/password", {"old": "not it at all", "password": OTHER})
    assert wrong.status_code == 422 and "old password" in wrong.json()["message"]
    assert send(here, "put", "/api/session/password", {"old": SECRET, "password": OTHER}).status_code == 204
    assert here.get("/api/session").json()["username"] == "ines" and elsewhere.get("/api/session").json() is None
    assert send(Client(), "post", "/api/session", {"username": "ines", "password": OTHER}).status_code == 200


def test_a_lost_password_is_set_by_a_link_of_an_engineer(client, engineer):
    wim = viewer()
    lost = client_of(wim)
    link = send(client, "post", f"/api/people/{wim.id}/password-link").json()["token"]
    assert send(lost, "post", f"/api/people/{engineer.id}/password-link").status_code == 403
    assert Client().get(f"/api/session/join/{link}").json()["kind"] == "password"
    assert send(Client(), "post", f"/api/session/join/{link}", FIRST).status_code == 404, "it makes no account"
    fresh = Client()
    assert send(fresh, "post", f"/api/session/join/{link}/password", {"password": "short"}).status_code == 422
    assert send(fresh, "post", f"/api/session/join/{link}/password", {"password": OTHER}).json()["username"] == "wim"
    assert lost.get("/api/session").json() is None, "what was open before is shut"
    assert send(Client(), "post", f"/api/session/join/{link}/password", {"password": SECRET}).status_code == 404
    assert [i["whom"] for i in client.get("/api/people").json()["invitations"]] == [], "it is no invitation"
    _, token = invite(engineer, "viewer", "Otto")
    assert send(Client(), "post", f"/api/session/join/{token}/password", {"password": OTHER}).status_code == 404


def test_a_link_of_another_workshop_is_refused(client, stranger):
    assert send(client, "post", f"/api/people/{stranger.id}/password-link").status_code == 404


def test_who_is_let_in_again_signs_in_anew(client, engineer):
    wim = viewer()
    open_page = client_of(wim)
    for active in (False, True):
        send(client, "put", f"/api/people/{wim.id}", {"role": "viewer", "active": active})
        assert open_page.get("/api/session").json() is None
    assert client_of(User.objects.get(id=wim.id)).get("/api/session").json()["username"] == "wim"


@pytest.mark.django_db(transaction=True)
def test_one_invitation_makes_one_account_however_many_press_at_once():
    engineer = new_workshop("Alder Reach", "ines", "Ines", SECRET)
    _, token = invite(engineer, "viewer", "Wim")
    begin, codes = threading.Barrier(8), []

    def join(number: int) -> None:
        begin.wait()
        body = {"username": f"wim-{number}", "name": "Wim", "password": SECRET}
        codes.append(send(Client(), "post", f"/api/session/join/{token}", body).status_code)
        connection.close()

    threads = [threading.Thread(target=join, args=(n,)) for n in range(8)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(codes) == [200] + [404] * 7 and User.objects.count() == 2


def test_an_address_is_slowed_whatever_the_names(db, settings):
    guest = Client()
    tries = lambda names, **heads: [
        guest.post(
            "/api/session", {"username": n, "password": "wrong"}, content_type="application/json", **heads
        ).status_code
        for n in names
    ]
    assert set(tries([f"name-{n}" for n in range(MOST_FROM_ONE)])) == {401}
    assert tries(["another"]) == [429]
    assert tries(["another"], REMOTE_ADDR="10.0.0.9") == [401], "who asks from elsewhere is not held up"
    assert tries(["another"], HTTP_X_FORWARDED_FOR="10.0.0.8") == [429], "nobody writes their own address"
    settings.PROXIES = 1
    assert tries(["another"], HTTP_X_FORWARDED_FOR="1.2.3.4, 10.0.0.8") == [401]
