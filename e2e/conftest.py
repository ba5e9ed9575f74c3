"""The whole product, started as ``./hewel up`` starts it, with a database of its own that begins with the demo data."""

import os
import shutil
import tempfile
from pathlib import Path

import pytest
from browser import begin_anew, browser, errors
from studied import NAME, PASSWORD, studied_demo

from house.__main__ import running
from house.places import LANE

os.environ["HEWEL_FARM_SPEED"] = "240"
"""So many times quicker than a real one the simulated farm prints, whichever journeys are run."""


@pytest.fixture(scope="session")
def address():
    with running(f"e2e{LANE or ''}", 8700, studied_demo()) as (at, _):
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
    given = errors(opened)
    opened.get("about:blank")  # nothing of this test asks the server any more
    errors(opened)
    assert given == []
