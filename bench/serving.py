"""How quickly the server answers 20 and 60 people at once, over loopback, with the demo's parts; how soon an imported
part is on the screen; and how quickly the drawn part follows the pointer over the net.
"""

import os
import statistics
import tempfile
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager, suppress
from pathlib import Path

import numpy as np
from selenium.webdriver.common.by import By

from bench.bodies import wavy_torus
from demo.river_station import PEOPLE, demo_files
from e2e.browser import begin_anew, browser, open_part, see
from hewel_engine.io.stl import write_stl
from house.__main__ import running
from house.client import Client

CLIENTS, CROWD, ROUNDS = 20, 60, 12
NAME, PASSWORD = PEOPLE[0][0], PEOPLE[0][-1]


def measure() -> list[dict]:
    """Rows of the benchmark: median and 95th percentile of each kind of request, milliseconds."""
    with running("bench", 8790) as (address, _):
        client = Client(address, NAME, PASSWORD)
        part = _studied(client)
        rows = _costs(address, client, part, "")
        rows += _costs(address, client, client.get(f"parts/{_fork(client)}"), ", the fork")
        rows += _measured(address, part, CLIENTS, "")
        rows += [_pointed(address), _followed(address)]
        with _computing(client):
            beside = " beside a strength check"
            rows.append(_imported(address, client, beside))
            rows += [_measured(address, part, n, beside)[-1] for n in (CLIENTS, CROWD)]
        return rows


@contextmanager
def _computing(client: Client) -> Iterator[None]:
    """Meanwhile the demo's fork is checked in six directions in full, which takes minutes."""
    ups = [[x, y, z] for x, y, z in np.vstack([np.eye(3), -np.eye(3)]).tolist()]
    client.send(f"strength/of/{_fork(client)}", {"ups": ups})
    busy = lambda: any(w["lane"] == "long" and w["state"] == "running" for w in client.get("work"))
    while not busy():
        time.sleep(0.2)
    yield
    if not busy():
        raise SystemExit("The strength check was over before the figures beside it were measured; they say nothing.")


def _fork(client: Client) -> str:
    """The demo's part whose job says most."""
    return next(p["id"] for p in client.get("parts") if p["name"] == "Sheave fork")


def _imported(address: str, client: Client, beside: str) -> dict:
    """Milliseconds from the click to a part of 20,000 triangles drawn on its first page; what follows from one import
    is over before the next.
    """
    spent = []
    quick = lambda: any(w["lane"] == "quick" for w in client.get("work"))
    with tempfile.TemporaryDirectory() as folder, browser() as page:
        file = Path(folder) / "wavy.stl"
        file.write_bytes(write_stl(wavy_torus(140, 72)))
        for _ in range(3):
            while quick():
                time.sleep(0.2)
            begin_anew(page, address, NAME, PASSWORD, Path(folder))
            see(page, "input[type=file]").send_keys(str(file))
            button = page.find_element(By.XPATH, "//button[text()='Import']")
            started = time.perf_counter()
            button.click()
            see(page, "[data-testid=first-minute]", 120)
            see(page, "canvas")
            spent.append(1e3 * (time.perf_counter() - started))
    return _row(f"import of 20,000 to the screen{beside}", 1, spent, sum(spent))


def _row(request: str, clients: int, spent: list[float], wall_ms: float) -> dict:
    spent = sorted(spent)
    return {
        "request": request, "clients": clients, "median_ms": statistics.median(spent),
        "p95_ms": spent[int(0.95 * len(spent))], "per_second": 1e3 * len(spent) / wall_ms,
    }  # fmt: skip


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
    return _row("pointing at one of 300,000", 1, spent, sum(spent))


def _followed(address: str) -> dict:
    """Milliseconds from a movement of the pointer to the next frame, drawn by software; the worker rests."""
    with tempfile.TemporaryDirectory() as folder, browser() as page:
        begin_anew(page, address, NAME, PASSWORD, Path(folder))
        open_part(page, "Cable saddle")
        see(page, "[data-testid=pointed] canvas")
        spent = page.execute_async_script(FOLLOWING)
    return _row("pointer to frame", 1, spent, sum(spent))


def _costs(address: str, client: Client, part: dict, of: str) -> list[dict]:
    """Milliseconds of the web server's processor that an answer takes which it has not kept; five batches of each."""
    place, ours = address.removeprefix("http://").rstrip("/"), []
    for command in Path("/proc").glob("[0-9]*/cmdline"):
        with suppress(OSError):  # it may have ended meanwhile
            if place in command.read_text(errors="replace").split("\0"):
                ours.append(command.parent)
    ticks = lambda: sum(sum(map(int, (p / "stat").read_text().rsplit(")", 1)[1].split()[11:13])) for p in ours)
    paths = {
        "its study": f"studies/{part['study']}?",
        "ranking by weights": f"studies/{part['study']}/ranking?support=2&time=3&",
        "duties": f"studies/{part['study']}/duties?",
    }
    out = []
    for kind, path in paths.items():
        spent = []
        for batch in range(5):
            before = ticks()
            for number in range(30):
                client.read(f"{path}new={batch}-{number}")
            spent.append(1e3 * (ticks() - before) / os.sysconf("SC_CLK_TCK") / 30)
        out.append(_row(f"processor of {kind}{of}", 1, spent, sum(spent)))
    return out


def _measured(address: str, part: dict, count: int, beside: str) -> list[dict]:
    """``count`` people at once, each asking for everything in turn, until the last byte of the answer is there: what
    a page does with it is not the server's. An answer that is an error ends it.
    """
    paths = {
        "list of parts": "parts",
        "a part": f"parts/{part['id']}",
        "its study": f"studies/{part['study']}",
        "its sweep": f"studies/{part['study']}/sweep",
        "ranking by weights": f"studies/{part['study']}/ranking?support=2&time=3",
        "history": f"sheets/{part['sheet']}/history",
    }
    clients = [Client(address, NAME, PASSWORD) for _ in range(count)]

    def ask(client: Client) -> list[tuple[str, float]]:
        spent = []
        for _ in range(ROUNDS):
            for kind, path in paths.items():
                started = time.perf_counter()
                client.read(path)
                spent.append((kind, 1e3 * (time.perf_counter() - started)))
        return spent

    started = time.perf_counter()
    with ThreadPoolExecutor(count) as pool:
        answers = [a for each in pool.map(ask, clients) for a in each]
    wall_ms = 1e3 * (time.perf_counter() - started)
    return [
        _row(f"{kind}{beside}", count, [ms for k, ms in answers if kind in (k, "all")], wall_ms)
        for kind in [*paths, "all"]
    ]


def _studied(client: Client) -> dict:
    """A part, once the workers rest: what is measured is the serving, not the studies."""
    while client.get("work") or len(client.get("parts")) < len(demo_files()):
        time.sleep(1)
    return client.get(f"parts/{client.get('parts')[0]['id']}")
