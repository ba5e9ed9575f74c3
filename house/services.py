"""The servers of a running Hewel: started together, started again when one ends, stopped together."""

import os
import signal
import subprocess
import time
import urllib.request
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from house.database import Cluster
from house.places import ROOT, VENV

MANAGE = [VENV / "bin/python", ROOT / "server" / "manage.py"]
SHORT = 120
"""Seconds within which a server that ends MOST_DEATHS times is given up."""
MOST_DEATHS = 6
LONGEST_WAIT = 20
"""Seconds at most before a server that has ended is started again."""


class Service:
    """One server, leading a process group of its own so that nothing outlives it."""

    def __init__(self, name: str, words: list, env: dict[str, str], log: Path):
        self.name, self.log = name, log
        self._words, self._env = [str(w) for w in words], env
        self._deaths: list[float] = []
        self._again_at = 0.0
        self.process: subprocess.Popen
        self.start()

    def start(self) -> None:
        log = open(self.log, "ab")  # noqa: SIM115 (the child keeps it)
        self.process = subprocess.Popen(
            self._words, env=self._env, cwd=ROOT / "server", stdout=log, stderr=log,
            stdin=subprocess.DEVNULL, start_new_session=True,
        )  # fmt: skip

    def poll(self) -> int | None:
        return self.process.poll()

    @property
    def pid(self) -> int:
        return self.process.pid

    def look_after(self, say: Callable[[str], object]) -> bool:
        """Starts the server again where it has ended, each time a little later; False once it is given up."""
        now = time.monotonic()
        if self._again_at:
            if now >= self._again_at:
                self._again_at = 0.0
                self.start()
            return True
        if self.poll() is None:
            return True
        with suppress(ProcessLookupError):
            os.killpg(self.pid, signal.SIGKILL)  # what it left of its own
        self._deaths = [at for at in self._deaths if now - at < SHORT] + [now]
        if len(self._deaths) >= MOST_DEATHS:
            say(f"The {self.name} ended {MOST_DEATHS} times within {SHORT // 60} minutes; its log is {self.log}.")
            return False
        self._again_at = now + min(LONGEST_WAIT, 0.5 * 2 ** (len(self._deaths) - 1))
        say(f"The {self.name} has ended; it is started again. Its log is {self.log}.")
        return True


def start_services(home: Path, env: dict[str, str], port: int) -> list[Service]:
    """Web server and two workers: one for all work, one that leaves long work alone."""
    web = [
        VENV / "bin/gunicorn", "hewel.wsgi", "-b", f"127.0.0.1:{port}", "-k", "gthread", "-w", "2", "--threads", "6",
        "--preload",  # what both processes hold alike is loaded once
        "--timeout", "120", "--no-control-socket",
    ]  # fmt: skip
    rows = (
        ("web server", "web", web),
        ("worker", "worker", [*MANAGE, "run_worker"]),
        ("worker for first answers", "quick-worker", [*MANAGE, "run_worker", "--quick"]),
    )
    return [Service(name, words, env, home / f"{log}.log") for name, log, words in rows]


def _again(cluster: Cluster) -> None:
    """Starts the database anew; what a killed one left may hold its memory for a moment."""
    for _ in range(9):
        with suppress(SystemExit):
            cluster.start()
            return
        time.sleep(1)
    cluster.start()


def keep_running(
    cluster: Cluster, services: list[Service], say: Callable[[str], object], over: Callable[[], bool] = lambda: False
) -> bool:
    """Looks after database and servers until ``over``; False where one is given up."""
    while not over():
        if cluster.process is not None and cluster.process.poll() is not None:
            say("The database has ended; it is started again.")
            _again(cluster)
        going = [service.look_after(say) for service in services]
        if not all(going):
            return False
        time.sleep(0.3)
    return True


def stop_services(children: list[Service]) -> None:
    for child in children:
        if child.poll() is None:
            os.killpg(child.pid, signal.SIGTERM)
    for child in children:
        with suppress(subprocess.TimeoutExpired):
            child.process.wait(timeout=8)
        with suppress(ProcessLookupError):
            os.killpg(child.pid, signal.SIGKILL)


def wait_until_healthy(port: int, children: list[Service]) -> None:
    opener = urllib.request.build_opener(urllib.request.ProxyHandler({}))
    for _ in range(300):
        if any(c.poll() is not None for c in children):
            raise SystemExit("\nA server did not start; its log is in the data folder.")
        try:
            with opener.open(f"http://127.0.0.1:{port}/healthy", timeout=2):
                return
        except OSError:
            time.sleep(0.1)
    raise SystemExit("\nThe web server does not answer.")
