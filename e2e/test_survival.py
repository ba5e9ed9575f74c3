"""kill -9 of each process of the product at each moment: it comes back by itself, and nothing acknowledged is lost."""

import os
import signal
import subprocess
import threading
import time
from contextlib import suppress
from itertools import product as each_of
from pathlib import Path

from browser import until
from conftest import NAME, PASSWORD
from orders import FarmDoor
from studied import studied_demo

from demo.river_station import demo_files
from house.__main__ import prepare
from house.client import Client
from house.database import Cluster
from house.places import environment, free_port
from house.services import keep_running, start_services, stop_services

BACK = 60
"""Seconds within which what was killed has to answer again; it takes about four."""
FINISHED = 180
"""Seconds within which what was being calculated has to be there; it takes about ten."""


class Product:
    """Database, web server and workers of one home, under the keeper that ``./hewel up`` has."""

    def __init__(self, home: Path, **more: str):
        self.cluster, self.said, self.over = Cluster(home), [], threading.Event()
        self.cluster.create()
        self.cluster.start()
        self.cluster.load(studied_demo())
        env = environment(home, self.cluster.dsn()) | {"HEWEL_WORK_STALE": "2", "HEWEL_STRENGTH_CUBES": "3000"} | more
        prepare(env, demo=False)
        port = free_port(home / "web-port", 8760)
        self.services = start_services(home, env, port, farm=True)
        words = (self.cluster, self.services, self.said.append, self.over.is_set)
        self.keeper = threading.Thread(target=keep_running, args=words, daemon=True)
        self.keeper.start()
        self.client = Client(f"http://127.0.0.1:{port}/", NAME, PASSWORD)

    def kill(self, victim: str) -> float:
        """Seconds until it is told that it is started again, it runs, and the product answers."""
        told = len(self.said)
        if victim == "database":
            killed = _with_children(int((self.cluster.data / "postmaster.pid").read_text().split()[0]))
            runs = lambda: True
        else:
            service = next(s for s in self.services if s.name == victim)
            until(lambda: service.poll() is None, BACK)  # it may still wait to be started after the time before
            killed, before = _with_children(service.pid), service.pid
            runs = lambda: service.pid != before and service.poll() is None
        started = time.monotonic()
        for pid in killed:
            with suppress(ProcessLookupError):
                os.kill(pid, signal.SIGKILL)
        until(lambda: any(f"The {victim} has ended" in words for words in self.said[told:]), BACK)
        until(lambda: runs() and self.answers(), BACK)
        return time.monotonic() - started

    def answers(self) -> bool:
        try:
            return self.client.get("parts") is not None
        except OSError:
            return False

    def stop(self) -> None:
        self.over.set()
        self.keeper.join()
        stop_services(self.services)
        self.cluster.stop()


def _with_children(pid: int) -> list[int]:
    told = subprocess.run(["pgrep", "-P", str(pid)], capture_output=True, text=True)
    return [pid, *map(int, told.stdout.split())]


class Moments:
    """What is going on when a process is killed: each begins it, and gives what must hold once all is back."""

    def __init__(self, client: Client):
        self.client, self.imported, self.checked = client, 0, 0
        self.part = next(p["id"] for p in client.get("parts") if p["name"] == "Sheave fork")

    def importing(self):
        data = next(f.data for f in demo_files() if f.name == "Pivot bushing")
        self.imported += 1
        return self._under_way(self.client.upload(f"brought in {self.imported}.stl", data))

    def editing(self):
        part = self.client.get(f"parts/{self.part}")
        note = f"written onto edition {part['version']}"
        self._write(part, title={"name": part["name"], "note": note})
        return lambda: self.client.get(f"parts/{self.part}")["note"] == note

    def checking(self):
        """Another weld between layers each time, so that no answer of before will do."""
        self.checked += 1
        part = self.client.get(f"parts/{self.part}")
        self._write(part, service=part["job"]["service"] | {"bond": 0.5 + 0.01 * self.checked})
        check = self.client.send(f"strength/of/{self.part}", {"ups": [], "coarse": True})["check"]
        return self._under_way(check["work"])

    def _write(self, part: dict, **sections: dict) -> None:
        self.client.send(f"parts/{self.part}/job", {"base": part["version"], "sections": sections}, "PUT")

    def _under_way(self, work: dict):
        """Once a worker has it in hand: whether it is done."""
        state = lambda: self.client.get(f"work/{work['id']}")["state"]
        until(lambda: state() != "waiting", FINISHED)
        return lambda: state() == "done"


VICTIMS = ("web server", "worker", "worker for first answers", "database")


def test_what_is_killed_comes_back_and_nothing_acknowledged_is_lost(home):
    product = Product(home)
    try:
        moments = Moments(product.client)
        rows = []
        for victim, moment in each_of(VICTIMS, (moments.importing, moments.editing, moments.checking)):
            holds = moment()
            back = product.kill(victim)
            started = time.monotonic()
            until(holds, FINISHED)
            rows.append(f"{victim:<26}{moment.__name__:<12}{back:6.1f} s{time.monotonic() - started:8.1f} s")
        print("killed                    while       answers    all there", *rows, sep="\n")
        names = [p["name"] for p in product.client.get("parts")]
        brought = [f"brought in {i + 1}" for i in range(moments.imported)]
        assert sorted(names) == sorted([*brought, *(f.name for f in demo_files())]), "nothing lost, nothing twice"
    finally:
        product.stop()


RUNNING = ("machine follower", "simulated farm", "worker", "web server", "database")


def test_a_running_week_survives_and_nothing_is_started_twice(home):
    """Plates are started and told to go on while each process is killed; in the end every one was printed once."""
    product = Product(home, HEWEL_FARM_SPEED="1200")
    farm, client = FarmDoor(home), product.client
    try:
        client.send("week/hands", {"days": [[0, 24]] * 7, "people": 2}, "PUT")
        order = next(o for o in client.get("week")["orders"] if o["part"] == "Board clip")
        machines = [m["key"] for m in client.get("week")["machines"] if m["model_name"] == "Weir 220"]
        plate = lambda number: client.get(f"floor/plates/{order['id']}/{number}")
        state = lambda number: (plate(number)["print"] or {"state": "none"})["state"]
        for number, victim in enumerate(RUNNING):
            machine = machines[number % len(machines)]
            until(lambda m=machine: all(r["machine"] != m for r in client.get("week")["runs"] if r["print"]), FINISHED)
            client.send(f"floor/plates/{order['id']}/{number}/prints", {"machine": machine})
            product.kill(victim)
            until(lambda n=number: state(n) in ("printing", "finished"), FINISHED)
            until(lambda n=number: state(n) == "finished", FINISHED)
            printed, copies = plate(number)["print"], plate(number)["copies"]
            client.send(f"floor/prints/{printed['id']}/count", {"good": copies, "bad": 0})
        until(lambda: not [r for r in client.get("week")["runs"] if r["print"]], FINISHED)
        told = [ticket for m in farm.ask("machines")["machines"] for ticket in m["told"]]
        assert len(told) == len(set(told)) == len(RUNNING), "each plate went to its machine once"
        (row,) = [o for o in client.get("week")["orders"] if o["id"] == order["id"]]
        assert (row["good"], row["bad"], row["printed"]) == (copies * len(RUNNING), 0, len(RUNNING))
    finally:
        product.stop()
