"""One of everything, made once for a file of many small tests: what a test changes, its own transaction takes back."""

import pytest
from conftest import part_from, person, study_from
from django.db import transaction
from things import things_of

from accounts.models import User
from parts.models import Part


@pytest.fixture(scope="module")
def everything(django_db_setup, django_db_blocker, pieces, studied):
    with django_db_blocker.unblock(), transaction.atomic():
        engineer = person("ines", "Alder Reach")
        part = part_from(engineer, pieces)
        yield {"part": part.id, "things": things_of(engineer, part, study_from(engineer, part, studied))}
        transaction.set_rollback(True)


@pytest.fixture
def engineer(everything, db):
    return User.objects.get(username="ines")


@pytest.fixture
def part(everything, db):
    return Part.objects.get(id=everything["part"])


@pytest.fixture
def things(everything, db):
    return dict(everything["things"])
