"""A workshop with two people and a part, on the real PostgreSQL. The part is read once by the bridge itself."""

import pickle
import threading
from collections.abc import Callable
from functools import cache
from importlib import import_module

import manifold3d as m3
import numpy as np
import pytest
from django.contrib.auth.hashers import make_password
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import Client
from hypothesis import settings

from accounts.models import User, Workshop
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.io.stl import write_stl
from hewel_engine.processes import Process
from parts import bridge as parts_bridge
from parts.actions import complete_part, create_part, enqueue_intake
from parts.models import Part
from stages.stage import Stage, calculate
from store import actions as store
from studies import bridge as studies_bridge
from studies.models import Study
from studies.stage import DIRECTIONS
from studies.view import DirectedJob
from work.computations import computations
from work.models import Work

settings.register_profile("fixed", derandomize=True)  # the same examples every time: what fails once fails again
settings.load_profile("fixed")
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


def beside(function: Callable) -> threading.Thread:
    """Does something with a connection of its own, at the same time."""

    def done() -> None:
        function()
        connection.close()

    thread = threading.Thread(target=done)
    thread.start()
    return thread


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


def stage_of(client, part, key: str) -> dict:
    """How far a stage of a part is, as its list of stages says."""
    answer = client.get(f"/api/stages/{part.id}")
    assert answer.status_code == 200, answer.content
    return {k: v for k, v in next(r for r in answer.json() if r["key"] == key).items() if k in ("state", "line")}


def directions_of(user, part, later=False) -> Study:
    """The study of a part, ordered."""
    return calculate(DIRECTIONS, user, DirectedJob(part), more={"later": True} if later else None)


def run_here(work: Work, **other) -> list[tuple]:
    """What a worker would do with an order, in this process; the events. ``other``: arguments in place of its own."""
    computation = computations()[work.kind]
    Work.objects.filter(id=work.id).update(state=Work.State.RUNNING)
    work.refresh_from_db()
    events = events_of(computation.function, computation.arguments(work) | other)
    keep_here(work, events)
    return events


_computed: dict[tuple, tuple[list, bytes]] = {}


def events_of(name: str, arguments: dict) -> list[tuple]:
    """What a bridge function says of its arguments, computed once for all tests. A bridge of which a test has patched
    anything is another one; what was patched in is kept, so that nothing else is taken for it.
    """
    module, function = name.rsplit(".", 1)
    bridge = vars(import_module(module))
    key = name, pickle.dumps(arguments), tuple(map(id, bridge.values()))
    if key not in _computed:
        _computed[key] = list(bridge.values()), pickle.dumps(list(bridge[function](**arguments)))
    return pickle.loads(_computed[key][1])


def keep_here(work: Work, events: list[tuple]) -> None:
    """Keeps what a computation found, as a worker would."""
    Work.objects.filter(id=work.id).update(state=Work.State.RUNNING)
    work.refresh_from_db()
    work.found = {}
    for event in events:
        if event[0] == "result":
            computations()[work.kind].keep(work, event[1], event[2])
    Work.objects.filter(id=work.id).update(state=Work.State.DONE)


def computed(stage: Stage, user, part, asked=None):
    """A result of a stage, ordered and computed here and now."""
    part = Part.objects.get(id=part.id)
    result = calculate(stage, user, DirectedJob(part), asked)
    if result.work.state != Work.State.DONE:
        run_here(result.work)
    return stage.model.objects.get(id=result.id)


def part_from(engineer, pieces) -> Part:
    work = enqueue_intake(engineer, SimpleUploadedFile("plate.stl", stl_bytes()), "Gauge plate", "auto")
    part = create_part(work, pieces)
    complete_part(work, part, pieces["features"])
    return part


def study_from(engineer, part, studied) -> Study:
    study = directions_of(engineer, part)
    Study.objects.filter(id=study.id).update(sweep=store.put(studied["sweep"]), candidates=studied["candidates"])
    return Study.objects.get(id=study.id)


@pytest.fixture
def part(engineer, pieces):
    return part_from(engineer, pieces)


@pytest.fixture
def study(engineer, part, studied):
    return study_from(engineer, part, studied)
