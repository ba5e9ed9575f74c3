"""kill -9 of the web server, the worker or the database while parts come in: nothing acknowledged is lost."""

import os
import signal
import subprocess

from browser import until
from conftest import NAME, PASSWORD

from demo.river_station import demo_files
from house.__main__ import MANAGE, start_services, stop_services, wait_until_healthy
from house.client import Client
from house.database import Cluster
from house.places import environment, free_port, run


class Product:
    """Database, web server and worker of one home, started and restarted as their keeper would."""

    def __init__(self, home):
        self.home, self.cluster, self.children = home, Cluster(home), []
        self.cluster.create()

    def start(self):
        self.cluster.start()
        env = environment(self.home, self.cluster.dsn()) | {"HEWEL_WORK_STALE": "2"}
        if not self.children:
            self.cluster.make_database()
            run([*MANAGE, "prepare", "--demo"], env=env)
        self.port = free_port(self.home / "web-port", 8760)
        self.children = start_services(self.home, env, self.port)
        wait_until_healthy(self.port, self.children)
        return Client(f"http://127.0.0.1:{self.port}/", NAME, PASSWORD)

    def kill(self, what):
        if what == "database":
            pids = [int((self.cluster.data / "postmaster.pid").read_text().split()[0])]
            pids += [int(p) for p in subprocess.run(
                ["pgrep", "-P", str(pids[0])], capture_output=True, text=True).stdout.split()]  # fmt: skip
            for pid in pids:
                os.kill(pid, signal.SIGKILL)
        else:
            os.killpg(self.children[what == "worker"].pid, signal.SIGKILL)

    def stop(self):
        stop_services(self.children)
        if self.cluster.running():
            self.cluster.stop()


EACH = 3
"""Parts that come in round each blow."""


def test_nothing_acknowledged_is_lost(home):
    """``home`` holds the demo's own imports as well, so that the worker is always in the middle of something."""
    product = Product(home)
    try:
        client = product.start()
        data = next(f.data for f in demo_files() if f.name == "Pivot bushing")
        acknowledged = []
        for victim in ("web", "worker", "database"):
            for i in range(EACH):
                acknowledged.append(client.upload(f"survivor of {victim} {i}.stl", data)["id"])
            until(lambda c=client: any(c.get(f"work/{w}")["state"] == "running" for w in acknowledged))
            product.kill(victim)
            product.stop()
            client = product.start()
        until(lambda: all(client.get(f"work/{w}")["state"] == "done" for w in acknowledged))
        names = [p["name"] for p in client.get("parts")]
        survivors = [f"survivor of {victim} {i}" for victim in ("database", "web", "worker") for i in range(EACH)]
        assert sorted(n for n in names if n.startswith("survivor")) == survivors
        assert len(names) == len(set(names)), "and nothing came in twice"
        assert set(names) - set(survivors) <= {f.name for f in demo_files()}
    finally:
        product.stop()
