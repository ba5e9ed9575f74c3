"""How quickly the server answers 20 people at once, over loopback, with the demo's parts."""

import statistics
import time
from concurrent.futures import ThreadPoolExecutor

from demo.river_station import PEOPLE, demo_files
from house.__main__ import MANAGE, start_services, stop_services, wait_until_healthy
from house.client import Client
from house.database import Cluster
from house.places import data_home, environment, free_port, run

CLIENTS, ROUNDS = 20, 12
NAME, PASSWORD = PEOPLE[0][0], PEOPLE[0][-1]


def measure() -> list[dict]:
    """Rows of the benchmark: median and 95th percentile of each kind of request, milliseconds."""
    home = data_home("bench")
    cluster = Cluster(home)
    cluster.create()
    cluster.start()
    children = []
    try:
        cluster.drop_database()
        cluster.make_database()
        env = environment(home, cluster.dsn())
        run([*MANAGE, "migrate", "--no-input", "-v", "0"], env=env)
        run([*MANAGE, "load_demo"], env=env)
        port = free_port(home / "web-port", 8790)
        children = start_services(home, env, port)
        wait_until_healthy(port, children)
        return _measured(f"http://127.0.0.1:{port}/")
    finally:
        stop_services(children)
        cluster.stop()


def _measured(address: str) -> list[dict]:
    first = Client(address, NAME, PASSWORD)
    part = _studied(first)
    paths = {
        "list of parts": "parts",
        "a part": f"parts/{part['id']}",
        "its study": f"studies/{part['study']}",
        "its sweep": f"studies/{part['study']}/sweep",
        "ranking by weights": f"studies/{part['study']}/ranking?support=2&time=3",
        "history": f"sheets/{part['sheet']}/history",
    }
    clients = [Client(address, NAME, PASSWORD) for _ in range(CLIENTS)]

    def ask(client: Client) -> list[tuple[str, float]]:
        spent = []
        for _ in range(ROUNDS):
            for kind, path in paths.items():
                started = time.perf_counter()
                client.get(path)
                spent.append((kind, 1e3 * (time.perf_counter() - started)))
        return spent

    started = time.perf_counter()
    with ThreadPoolExecutor(CLIENTS) as pool:
        answers = [a for each in pool.map(ask, clients) for a in each]
    wall = time.perf_counter() - started
    rows = []
    for kind in [*paths, "all"]:
        spent = sorted(ms for k, ms in answers if kind in (k, "all"))
        rows.append({
            "request": kind, "clients": CLIENTS, "median_ms": statistics.median(spent),
            "p95_ms": spent[int(0.95 * len(spent))], "per_second": len(spent) / wall,
        })  # fmt: skip
    return rows


def _studied(client: Client) -> dict:
    """A part, once the worker rests: what is measured is the serving, not the studies."""
    while True:
        parts = client.get("parts")
        if len(parts) == len(demo_files()):
            whole = [client.get(f"parts/{p['id']}") for p in parts]
            states = [client.get(f"studies/{p['study']}")["work"]["state"] for p in whole]
            if all(s == "done" for s in states):
                return whole[0]
        time.sleep(1)
