"""The stand behind an address of this machine: ``python -m simulated_stand PORT``.

``HEWEL_STAND_TOKEN`` is what every caller has to know, ``HEWEL_STAND_SEED`` what its plastics bear,
``HEWEL_STAND_SPEED`` how much faster than a real one it pulls. See docs/machines.md for what it is asked. It keeps runs
while it is there.
"""

import json
import os
import signal
import sys
import threading
import time
from dataclasses import dataclass, field
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from urllib.parse import parse_qs, urlsplit

from simulated_stand.bars import AREA, LENGTH, RATES, Bar, Refused, pulled

MOST_BYTES, MOST_RUNS = 10_000, 200


@dataclass
class Run:
    """A run and when it began; its rows are known from the start, and shown as their time comes."""

    bar: Bar
    began: float
    rows: list[tuple[float, float, float]]
    stopped: float | None = None

    def shown(self, now: float, speed: float) -> int:
        end = now if self.stopped is None else self.stopped
        return min(int((end - self.began) * speed * RATES), len(self.rows))


@dataclass
class Stand:
    seed: int
    speed: float
    runs: dict[str, Run] = field(default_factory=dict)

    def start(self, given: dict, now: float) -> dict:
        bar = Bar(
            str(given["plastic"])[:80], str(given["kind"]), str(given["plate"])[:20], int(given["number"]),
            min(max(float(given.get("layer_s") or 20.0), 0.5), 3600.0), str(given.get("fault") or ""),
        )  # fmt: skip
        going = [r for r in self.runs.values() if r.shown(now, self.speed) < len(r.rows) and r.stopped is None]
        if going:
            raise Refused("A bar is in the grips. Wait until it has broken, or stop it.")
        name = str(given["run"])[:64]
        if name not in self.runs:  # asked twice, pulled once
            self.runs[name] = Run(bar, now, list(pulled(self.seed, bar)))
        while len(self.runs) > MOST_RUNS:
            del self.runs[next(iter(self.runs))]
        return {"run": name}

    def look(self, name: str, begin: int, now: float) -> dict:
        run = self.runs.get(name)
        if run is None:
            raise Refused("This stand knows no such run: it may have been started anew.")
        count = run.shown(now, self.speed)
        done = count == len(run.rows) or run.stopped is not None
        return {
            "rows": [list(row) for row in run.rows[begin:count]], "done": done,
            "area": AREA[run.bar.kind], "length": LENGTH[run.bar.kind],
        }  # fmt: skip

    def stop(self, name: str, now: float) -> dict:
        run = self.runs.get(name)
        if run is not None and run.stopped is None:
            run.stopped = now
        return {}


def handler(stand: Stand, token: str) -> type[BaseHTTPRequestHandler]:
    lock = threading.Lock()

    class Door(BaseHTTPRequestHandler):
        timeout = 20

        def do_GET(self) -> None:
            """``/runs/NAME?from=N``: rows from the N-th on."""
            at = urlsplit(self.path)
            words, begin = at.path.strip("/").split("/"), parse_qs(at.query).get("from", ["0"])[0]
            if len(words) != 2 or words[0] != "runs" or not begin.isdigit():
                return self._send(404, {"message": "There is nothing here."})
            return self._answer(lambda: stand.look(words[1], int(begin), time.monotonic()))

        def do_POST(self) -> None:
            """``/runs`` starts one, ``/runs/NAME/stop`` ends it."""
            words, length = self.path.strip("/").split("/"), int(self.headers.get("Content-Length") or 0)
            if words[0] != "runs" or len(words) not in (1, 3) or length > MOST_BYTES:
                return self._send(404, {"message": "There is nothing here."})
            body = self.rfile.read(length)
            if len(words) == 3:
                return self._answer(lambda: stand.stop(words[1], time.monotonic()))
            return self._answer(lambda: stand.start(json.loads(body or b"{}"), time.monotonic()))

        def _answer(self, act) -> None:
            if self.headers.get("Authorization") != f"Bearer {token}":
                return self._send(401, {"message": "This stand does not know the caller."})
            try:
                with lock:
                    told = act()
            except Refused as no:
                return self._send(409, {"message": str(no)})
            except (KeyError, TypeError, ValueError) as error:
                return self._send(400, {"message": f"This cannot be read: {error}."})
            return self._send(200, told)

        def _send(self, status: int, what: dict) -> None:
            body = json.dumps(what).encode()
            self.send_response(status)
            self.send_header("Content-Type", "application/json")
            self.send_header("Content-Length", str(len(body)))
            self.end_headers()
            self.wfile.write(body)

        def log_message(self, *_: object) -> None:
            """Errors alone stand in the log."""

    return Door


def main() -> None:
    number = lambda name, other: float(os.environ.get(f"HEWEL_STAND_{name}", other))
    stand = Stand(int(number("SEED", 1)), number("SPEED", 1))
    server = ThreadingHTTPServer(("127.0.0.1", int(sys.argv[1])), handler(stand, os.environ["HEWEL_STAND_TOKEN"]))
    server.daemon_threads = True
    signal.signal(signal.SIGTERM, lambda *_: os._exit(0))
    server.serve_forever()


if __name__ == "__main__":
    main()
