"""The farm behind an address of this machine: ``python -m simulated_farm PORT STATE-FILE``.

``HEWEL_FARM_TOKEN`` is what every caller has to know, ``HEWEL_FARM_SPEED`` how much faster than a real one its clock
goes, ``HEWEL_FARM_SEED`` and ``HEWEL_FARM_CHANCE`` what goes wrong. See docs/machines.md for what it is asked.
"""

import json
import os
import signal
import sys
import threading
import time
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any

from simulated_farm.machines import Farm, Refused

MOST_BYTES = 100_000
TICK_S = 0.1


class Running:
    """A farm whose clock goes with the real one, so many times faster; what it is in stands in a file."""

    def __init__(self, file: Path, speed: float, seed: int, chance: float):
        self.file, self.speed, self.lock = file, speed, threading.Lock()
        self.farm = Farm(seed, chance, json.loads(file.read_text()) if file.exists() else None)
        self._last, self._written = time.monotonic(), ""

    def go_on(self) -> None:
        """Up to now; whoever calls it holds the lock."""
        now = time.monotonic()
        self.farm.advance((now - self._last) * self.speed)
        self._last = now
        text = json.dumps(self.farm.kept())
        if text != self._written:
            fresh = self.file.with_suffix(".new")
            fresh.write_text(text)
            os.replace(fresh, self.file)
            self._written = text

    def keep_going(self) -> None:
        while True:
            with self.lock:
                self.go_on()
            time.sleep(TICK_S)


def handler(running: Running, token: str) -> type[BaseHTTPRequestHandler]:
    class Door(BaseHTTPRequestHandler):
        timeout = 20

        def do_GET(self) -> None:
            self._answer(lambda farm, _: {"machines": farm.looks(), "speed": running.speed}, "/machines")

        def do_POST(self) -> None:
            words = self.path.strip("/").split("/")
            what = words[2] if len(words) == 3 else ""
            if what == "plate":
                names = ("ticket", "name", "seconds", "layers", "stops")
                act = lambda farm, given: farm.place(words[1], *(given[n] for n in names))
            elif what == "happen":
                act = lambda farm, given: farm.happen(words[1], given["what"])
            else:
                act = lambda farm, given: farm.command(words[1], given["ticket"], what)
            self._answer(act, self.path if len(words) == 3 and words[0] == "machines" else None)

        def _answer(self, act: Any, path: str | None) -> None:
            if self.headers.get("Authorization") != f"Bearer {token}":
                return self._send(401, {"message": "This farm does not know the caller."})
            length = int(self.headers.get("Content-Length") or 0)
            if self.path != path or length > MOST_BYTES:
                return self._send(404, {"message": "There is nothing here."})
            try:
                given = json.loads(self.rfile.read(length) or b"{}")
                with running.lock:
                    running.go_on()
                    told = act(running.farm, given)
                    running.go_on()
            except Refused as no:
                return self._send(409, {"message": str(no)})
            except (KeyError, TypeError, ValueError) as error:
                return self._send(400, {"message": f"This cannot be read: {error}."})
            return self._send(200, told or {})

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
    port, file = int(sys.argv[1]), Path(sys.argv[2])
    number = lambda name, other: float(os.environ.get(f"HEWEL_FARM_{name}", other))
    running = Running(file, number("SPEED", 1), int(number("SEED", 1)), number("CHANCE", 0))
    server = ThreadingHTTPServer(("127.0.0.1", port), handler(running, os.environ["HEWEL_FARM_TOKEN"]))
    server.daemon_threads = True
    signal.signal(signal.SIGTERM, lambda *_: os._exit(0))
    threading.Thread(target=running.keep_going, daemon=True).start()
    server.serve_forever()


if __name__ == "__main__":
    main()
