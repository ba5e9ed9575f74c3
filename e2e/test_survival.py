"""kill -9 of the web server, the worker or the database while parts come in: nothing acknowledged is lost."""

import os
import signal
import subprocess
import threading

from browser import until
from conftest import NAME, PASSWORD

from demo.river_station import demo_files
from house.client import Client
from house.database import Cluster
from house.places import environment, free_port, run
from house.services import MANAGE, keep_running, start_services, stop_services, wait_until_healthy


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


def test_what_is_killed_comes_back_by_itself(home):
    """Under the supervisor nobody starts anything: each death is told, and the product answers again."""
    product = Product(home)
    said, over = [], threading.Event()
    keeper = None
    try:
        client = product.start()
        words = (product.cluster, product.children, said.append, over.is_set)
        keeper = threading.Thread(target=keep_running, args=words, daemon=True)
        keeper.start()
        data = next(f.data for f in demo_files() if f.name == "Pivot bushing")
        for number, victim in enumerate(("web", "worker", "database")):
            product.kill(victim)
            until(lambda n=number: len(said) > n)
            until(lambda: answers(client))
            work = client.upload(f"after the {victim}.stl", data)["id"]
            until(lambda w=work: answers(client) and client.get(f"work/{w}")["state"] == "done")
        told = " ".join(said)
        assert "web server has ended" in told and "worker has ended" in told and "database has ended" in told
    finally:
        over.set()
        if keeper:
            keeper.join()
        product.stop()


def answers(client):
    try:
        return client.get("parts") is not None
    except OSError:
        return False
