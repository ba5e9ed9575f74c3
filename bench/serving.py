"""How quickly the server answers 20 people at once, over loopback, with the demo's parts."""

import statistics
import time
from concurrent.futures import ThreadPoolExecutor

from demo.river_station import PEOPLE, demo_files
from house.__main__ import running
from house.client import Client

CLIENTS, ROUNDS = 20, 12
NAME, PASSWORD = PEOPLE[0][0], PEOPLE[0][-1]


def measure() -> list[dict]:
    """Rows of the benchmark: median and 95th percentile of each kind of request, milliseconds."""
    with running("bench", 8790) as address:
        return _measured(address)


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
