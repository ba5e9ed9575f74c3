"""The demo's own parts with everything worked out that nobody has to ask for, as a dump that journeys begin with; made
once for what it depends on. ``python studied.py`` makes it where it is missing.
"""

import os
from pathlib import Path

from browser import until

from demo.river_station import PEOPLE, demo_files
from house.__main__ import running
from house.client import Client
from house.places import ROOT, data_home, digest_of

NAME, PASSWORD = PEOPLE[0][0], PEOPLE[0][-1]
os.environ["HEWEL_STUDY_MOST"] = "16"
os.environ["HEWEL_STRENGTH_CUBES"] = "12000"  # journeys look at what is told, not at the last figure of it


def studied_demo() -> Path:
    """The dump, made where it is missing."""
    sources = [ROOT / "engine" / "hewel_engine", ROOT / "server", ROOT / "demo", ROOT / "requirements.txt"]
    home = data_home("studied")
    file = home / f"{digest_of(*sources)[:16]}.dump"
    if not file.exists():
        for old in home.glob("*.dump"):
            old.unlink()
        with running("studied", 8650) as (address, cluster):
            client = Client(address, NAME, PASSWORD)
            until(lambda: _at_rest(client), 1200)  # other checks run beside it
            cluster.dump(file)
    return file


def _at_rest(client: Client) -> bool:
    return client.get("work") == [] and len(client.get("parts")) == len(demo_files())


if __name__ == "__main__":
    print(studied_demo().name)
