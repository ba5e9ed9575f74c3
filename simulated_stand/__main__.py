"""The stand behind an address of this machine: ``python -m simulated_stand PORT``.

``HEWEL_STAND_TOKEN`` is what every caller has to know, ``HEWEL_STAND_SEED`` what its plastics bear,
``HEWEL_STAND_SPEED`` how much faster than a real one it pulls. See docs/machines.md for what it is asked. It keeps runs
while it is there.
"""

import os
import sys
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from urllib.parse import parse_qs, urlsplit

from simulated_door import Door, Refused, serve
from simulated_stand.bars import AREA, LENGTH, RATES, Bar, pulled

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


def handler(stand: Stand, token: str) -> type[Door]:
    lock = threading.Lock()

    class StandDoor(Door):
        name = "stand"

        def do_GET(self) -> None:
            """``/runs/NAME?from=N``: rows from the N-th on."""
            at = urlsplit(self.path)
            words, begin = at.path.strip("/").split("/"), parse_qs(at.query).get("from", ["0"])[0]
            there = len(words) == 2 and words[0] == "runs" and begin.isdigit()
            self._answer(lambda _, now: stand.look(words[1], int(begin), now), there)

        def do_POST(self) -> None:
            """``/runs`` starts one, ``/runs/NAME/stop`` ends it."""
            words = self.path.strip("/").split("/")
            stops = len(words) == 3
            act = lambda given, now: stand.stop(words[1], now) if stops else stand.start(given, now)
            self._answer(act, words[0] == "runs" and len(words) in (1, 3) and self.length <= MOST_BYTES)

        def _answer(self, act: Callable[[dict, float], dict], there: bool) -> None:
            def told() -> dict:
                given = self.given()
                with lock:
                    return act(given, time.monotonic())

            self.answer(told, there)

    StandDoor.token = token
    return StandDoor


def main() -> None:
    number = lambda name, other: float(os.environ.get(f"HEWEL_STAND_{name}", other))
    stand = Stand(int(number("SEED", 1)), number("SPEED", 1))
    serve(int(sys.argv[1]), handler(stand, os.environ["HEWEL_STAND_TOKEN"]))


if __name__ == "__main__":
    main()
