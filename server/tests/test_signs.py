"""Signs of life and metrics."""

import os
import time
from datetime import timedelta

import pytest
from conftest import stl_bytes
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import DatabaseError, connection
from django.test import Client
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateWorker

from hewel import signs
from parts.actions import enqueue_intake
from work.models import Work


def worker(ago=0):
    with connection.cursor() as cursor:
        seen = timezone.now() - timedelta(seconds=ago)
        cursor.execute("insert into procrastinate_workers (last_heartbeat) values (%s)", [seen])


def figures(client=None, **heads):
    answer = (client or Client()).get("/metrics", **heads)
    return dict(line.rsplit(" ", 1) for line in answer.content.decode().splitlines()), answer.status_code


@pytest.mark.django_db
def test_it_says_when_nothing_calculates(monkeypatch):
    worker(ago=100)
    monkeypatch.setattr(signs, "STARTED", timezone.now())
    assert Client().get("/healthy").content.decode() == "ok\n", "the workers have only just been started"
    monkeypatch.setattr(signs, "STARTED", timezone.now() - timedelta(seconds=60))
    assert "no worker" in Client().get("/healthy").content.decode()
    worker()
    assert Client().get("/healthy").content.decode() == "ok\n" and ProcrastinateWorker.objects.count() == 2


def test_it_says_how_long_a_first_answer_waits(engineer):
    worker()
    work = enqueue_intake(engineer, SimpleUploadedFile("plate.stl", stl_bytes()), "", "auto")
    assert figures()[0]['hewel_work{lane="quick",state="waiting"}'] == "1"
    Work.objects.filter(id=work.id).update(created=timezone.now() - timedelta(seconds=300))
    assert "waiting for 300 s" in Client().get("/healthy").content.decode()


@pytest.mark.django_db
def test_a_full_disc_is_told(monkeypatch):
    worker()
    monkeypatch.setattr(signs, "LEAST_FREE", 2**60)
    assert "GiB are free" in Client().get("/healthy").content.decode()


@pytest.mark.django_db
def test_an_old_backup_is_told_and_members_see_it(monkeypatch, tmp_path, client):
    worker()
    monkeypatch.setenv("HEWEL_BACKUPS", str(tmp_path))
    assert "hewel_backup_age_seconds" not in figures()[0]
    backup = tmp_path / "daily-1.hewel"
    backup.touch()
    assert float(figures()[0]["hewel_backup_age_seconds"]) < 60 and client.get("/api/signs").json() == []
    os.utime(backup, (0, time.time() - 50 * 3600))
    assert client.get("/api/signs").json() == ["the last backup is 50 hours old"]


@pytest.mark.django_db
def test_metrics_are_for_this_machine_or_need_their_token(monkeypatch):
    assert figures()[1] == 200
    for far in ({"REMOTE_ADDR": "10.0.0.7"}, {"HTTP_X_FORWARDED_FOR": "10.0.0.7"}):
        assert figures(**far)[1] == 403
        monkeypatch.setenv("HEWEL_METRICS_TOKEN", "long-and-secret")
        assert figures(**far, HTTP_AUTHORIZATION="Bearer long-and-secret")[1] == 200
        assert figures(**far, HTTP_AUTHORIZATION="Bearer other")[1] == 403
        monkeypatch.delenv("HEWEL_METRICS_TOKEN")


@pytest.mark.django_db
def test_without_a_database_it_is_not_healthy(monkeypatch):
    def away(*_):
        raise DatabaseError

    monkeypatch.setattr(signs, "_workers", away)
    assert Client().get("/healthy").status_code == 503
