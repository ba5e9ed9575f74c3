"""The whole product, started as ``./hewel up`` starts it, with a database of its own that begins with the demo data."""

import os
import shutil
import tempfile
from pathlib import Path

import pytest
from browser import begin_anew, browser, errors

from demo.river_station import PEOPLE
from house.__main__ import running

NAME, PASSWORD = PEOPLE[0][0], PEOPLE[0][-1]


@pytest.fixture(scope="session")
def address():
    os.environ["HEWEL_STRENGTH_CUBES"] = "12000"  # journeys look at what is told, not at the last figure of it
    with running("e2e", 8700) as at:
        yield at


@pytest.fixture
def home():
    """A folder that the database's user can reach."""
    folder = Path(tempfile.mkdtemp(dir="/var/tmp", prefix="hewel-"))
    folder.chmod(0o755)
    yield folder
    shutil.rmtree(folder, ignore_errors=True)


@pytest.fixture
def downloads(tmp_path):
    return tmp_path


@pytest.fixture(scope="session")
def opened():
    """A browser that the tests use one after the other: opening one takes longer than most of what is done with it."""
    with browser() as driver:
        yield driver


@pytest.fixture
def page(opened, address, downloads):
    """A browser that is signed in; at the end its console must hold no error."""
    begin_anew(opened, address, NAME, PASSWORD, downloads)
    yield opened
    said = errors(opened)
    opened.get("about:blank")  # nothing of this test asks the server any more
    errors(opened)
    assert said == []
