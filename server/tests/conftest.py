"""A workshop with two people and a part, on the real PostgreSQL. The part is read once by the bridge itself."""

from functools import cache

import manifold3d as m3
import numpy as np
import pytest
from django.contrib.auth.hashers import make_password
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client

from accounts.models import User, Workshop
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.io.stl import write_stl
from hewel_engine.processes import Process
from parts import bridge as parts_bridge
from parts.actions import complete_part, create_part, order_intake
from studies import bridge as studies_bridge
from studies.actions import order_study_of_new_part
from studies.models import Study

PASSWORD = "weir-and-sluice-7"


def stl_bytes() -> bytes:
    """A plate with an upright wall and a bore: a few clear directions, quick to slice."""
    solid = m3.Manifold.cube((40, 30, 6), True) + m3.Manifold.cube((6, 30, 24), True).translate((10, 0, 12))
    out = (solid - m3.Manifold.cylinder(20, 4, 4, 48, True).translate((-8, 0, 0))).to_mesh64()
    mesh = Mesh(np.asarray(out.vert_properties)[:, :3].copy(), np.asarray(out.tri_verts).astype(np.int32))
    return write_stl(mesh)


@pytest.fixture(scope="session")
def pieces():
    return {
        name: value
        for _, name, value in (
            e for e in parts_bridge.intake(stl_bytes(), "auto", Process().as_dict()) if e[0] == "result"
        )
    }


@pytest.fixture(scope="session")
def studied(pieces):
    normals = [f["normal"] for f in pieces["facts"]["facts"]["flats"]]
    bores = pieces["features"]["facts"]["bores"]
    view = pieces["features"]["view"]
    events = studies_bridge.directions(pieces["solid"], view, bores, normals, Process().as_dict())
    return {name: value for _, name, value in (e for e in events if e[0] == "result")}


@cache
def hashed() -> str:
    """The strong hasher takes its time, so once is enough."""
    return make_password(PASSWORD)


def person(name: str, workshop: str) -> User:
    owner, _ = Workshop.objects.get_or_create(name=workshop)
    return User.objects.create(username=name, password=hashed(), first_name=name.title(), workshop=owner)


@pytest.fixture
def engineer(db):
    return person("ines", "Alder Reach")


@pytest.fixture
def stranger(db):
    return person("otto", "Other Works")


def client_of(user) -> Client:
    client = Client()
    client.force_login(user)
    return client


@pytest.fixture
def client(engineer):
    return client_of(engineer)


@pytest.fixture
def part(engineer, pieces):
    work = order_intake(engineer, SimpleUploadedFile("plate.stl", stl_bytes()), "Gauge plate", "auto")
    part = create_part(work, pieces)
    complete_part(work, part, pieces["features"])
    return part


@pytest.fixture
def study(engineer, part, studied):
    from store import actions as store

    study = order_study_of_new_part(engineer, part)
    Study.objects.filter(id=study.id).update(sweep=store.put(studied["sweep"]), candidates=studied["candidates"])
    return Study.objects.get(id=study.id)
