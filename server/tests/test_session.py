"""Signing in, and what every answer carries."""

import re

import pytest
from conftest import PASSWORD
from django.core.files.uploadedfile import SimpleUploadedFile
from django.http.multipartparser import MultiPartParser
from django.test import Client


def send(client, **words):
    return client.post("/api/session", words, content_type="application/json")


def test_sign_in_and_out(engineer):
    client = Client()
    assert client.get("/api/session").json() is None
    assert send(client, username="ines", password="wrong").status_code == 401
    answer = send(client, username="ines", password=PASSWORD)
    assert answer.status_code == 200 and answer.json()["workshop"] == "Alder Reach"
    assert client.get("/api/session").json()["username"] == "ines"
    assert client.cookies["sessionid"]["httponly"] and client.cookies["sessionid"]["samesite"] == "Lax"
    assert client.delete("/api/session").status_code == 204
    assert client.get("/api/parts").status_code == 401


def test_password_is_kept_by_the_strong_hasher(engineer):
    assert engineer.password.startswith("argon2$")


def test_somebody_without_a_workshop_does_not_get_in(engineer):
    engineer.workshop = None
    engineer.save()
    assert send(Client(), username="ines", password=PASSWORD).status_code == 401


@pytest.mark.parametrize("name", ["", "nobody", "ines\x00", "x" * 200])
def test_odd_names_are_refused_not_broken(engineer, name):
    assert send(Client(), username=name, password="x").status_code in (401, 422)


def test_writes_need_the_csrf_token(engineer, part):
    client = Client(enforce_csrf_checks=True)
    assert send(client, username="ines", password=PASSWORD).status_code == 403
    client.force_login(engineer)
    assert client.post("/api/parts", {}).status_code == 403
    page = client.get("/")
    token = page.cookies["csrftoken"].value
    answer = client.post("/api/parts", {}, headers={"X-CSRFToken": token})
    assert answer.status_code == 422  # let in, and refused for want of a file


def test_page_has_a_strict_policy_and_a_fresh_nonce(db):
    first, second = Client().get("/"), Client().get("/parts/1/direction")
    policy = first["Content-Security-Policy"]
    assert "default-src 'none'" in policy and "worker-src 'self' blob:" in policy and "unsafe" not in policy
    nonce = re.search(r"'nonce-([^']+)'", policy)[1]
    assert f'content="{nonce}"' in first.content.decode()
    assert nonce not in second["Content-Security-Policy"]
    assert first["X-Frame-Options"] == "DENY" and first["X-Content-Type-Options"] == "nosniff"
    assert first["Referrer-Policy"] == "same-origin" and "no-store" in first["Cache-Control"]


def test_a_signed_out_upload_is_refused_before_it_is_read(db, monkeypatch):
    def read(*_):
        raise AssertionError("the file was read")

    monkeypatch.setattr(MultiPartParser, "parse", read)
    file = SimpleUploadedFile("plate.stl", b"x" * 5_000_000)
    assert Client(enforce_csrf_checks=True).post("/api/parts", {"file": file}).status_code == 401


def test_healthy(db):
    assert Client().get("/healthy").content.startswith(b"ok\n")
