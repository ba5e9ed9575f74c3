"""The whole product, started as ``./hewel up`` starts it, with a database of its own that begins with the demo data."""

import os
import shutil
import tempfile
from pathlib import Path

import pytest
from browser import browser, sign_in

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


@pytest.fixture
def page(address, downloads):
    """A browser that is signed in; at the end its console must hold no error."""
    with browser(downloads) as driver:
        sign_in(driver, address, NAME, PASSWORD)
        yield driver
        errors = [e["message"] for e in driver.get_log("browser") if e["level"] == "SEVERE"]
        assert errors == []
