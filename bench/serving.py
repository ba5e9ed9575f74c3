"""How quickly the server answers 20 people at once, over loopback, with the demo's parts; and how quickly the drawn
part follows the pointer over the net.
"""

import statistics
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from bench.bodies import wavy_torus
from demo.river_station import PEOPLE, demo_files
from e2e.browser import begin_anew, browser, open_part, see
from hewel_engine.io.stl import write_stl
from house.__main__ import running
from house.client import Client

CLIENTS, ROUNDS = 20, 12
NAME, PASSWORD = PEOPLE[0][0], PEOPLE[0][-1]


def measure() -> list[dict]:
    """Rows of the benchmark: median and 95th percentile of each kind of request, milliseconds."""
    with running("bench", 8790) as (address, _):
        return [*_measured(address), _pointed(address), _followed(address)]


FOLLOWING = """
const done = arguments[0];
const disc = document.querySelector('svg[data-half="upper"]');
const box = disc.getBoundingClientRect();
const times = [];
const step = (i) => {
  if (i === 24) return done(times.sort((a, b) => a - b));
  const started = performance.now();
  disc.dispatchEvent(new PointerEvent('pointermove', {bubbles: true,
    clientX: box.left + box.width * (0.3 + 0.015 * i), clientY: box.top + box.height * 0.4}));
  requestAnimationFrame(() => { times.push(performance.now() - started); setTimeout(() => step(i + 1), 60); });
};
step(0);
"""


def _pointed(address: str) -> dict:
    """Milliseconds from pointing at a facet of 300,000 to what it means."""
    client = Client(address, NAME, PASSWORD)
    order = client.upload("large.stl", write_stl(wavy_torus(600, 250)))
    while (work := client.get(f"work/{order['id']}"))["state"] in ("waiting", "running"):
        time.sleep(1)
    spent = []
    for _ in range(30):
        started = time.perf_counter()
        client.send(f"needs/{work['result']['part']}/point", {"facet": 1000, "wide": False})
        spent.append(1e3 * (time.perf_counter() - started))
    spent.sort()
    return {
        "request": "pointing at one of 300,000", "clients": 1, "median_ms": statistics.median(spent),
        "p95_ms": spent[int(0.95 * len(spent))], "per_second": 1e3 / statistics.mean(spent),
    }  # fmt: skip


def _followed(address: str) -> dict:
    """Milliseconds from a movement of the pointer to the next frame, drawn by software; the worker rests."""
    with tempfile.TemporaryDirectory() as folder, browser() as page:
        begin_anew(page, address, NAME, PASSWORD, Path(folder))
        open_part(page, "Cable saddle")
        see(page, "[data-testid=pointed] canvas")
        spent = page.execute_async_script(FOLLOWING)
    return {
        "request": "pointer to frame", "clients": 1, "median_ms": statistics.median(spent),
        "p95_ms": spent[int(0.95 * len(spent))], "per_second": 1e3 / statistics.mean(spent),
    }  # fmt: skip


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
