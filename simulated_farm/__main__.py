"""The farm behind an address of this machine: ``python -m simulated_farm PORT STATE-FILE``.

``HEWEL_FARM_TOKEN`` is what every caller has to know, ``HEWEL_FARM_SPEED`` how much faster than a real one its clock
goes, ``HEWEL_FARM_SEED`` and ``HEWEL_FARM_CHANCE`` what goes wrong. See docs/machines.md for what it is asked.
"""

import json
import os
import sys
import threading
import time
from pathlib import Path
from typing import Any

from simulated_door import Door, serve
from simulated_farm.machines import Farm

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


def handler(running: Running, token: str) -> type[Door]:
    class FarmDoor(Door):
        name = "farm"

        def do_GET(self) -> None:
            self._answer(lambda farm, _: {"machines": farm.looks(), "speed": running.speed}, self.path == "/machines")

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
            self._answer(act, len(words) == 3 and words[0] == "machines")

        def _answer(self, act: Any, there: bool) -> None:
            def told() -> dict | None:
                given = self.given()
                with running.lock:
                    running.go_on()
                    found = act(running.farm, given)
                    running.go_on()
                return found

            self.answer(told, there and self.length <= MOST_BYTES)

    FarmDoor.token = token
    return FarmDoor


def main() -> None:
    port, file = int(sys.argv[1]), Path(sys.argv[2])
    number = lambda name, other: float(os.environ.get(f"HEWEL_FARM_{name}", other))
    running = Running(file, number("SPEED", 1), int(number("SEED", 1)), number("CHANCE", 0))
    threading.Thread(target=running.keep_going, daemon=True).start()
    serve(port, handler(running, os.environ["HEWEL_FARM_TOKEN"]))


if __name__ == "__main__":
    main()
