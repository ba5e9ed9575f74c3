"""The servers of a running Hewel: started together, started again when one ends, stopped together."""

import secrets
import signal
import subprocess
import time
import urllib.request
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from house.care import Care, backup_folder
from house.database import Cluster
from house.places import ROOT, VENV, end_group, free_port, secret

MANAGE = [VENV / "bin/python", ROOT / "server" / "manage.py"]
SHORT = 120
"""Seconds within which a server that ends MOST_DEATHS times is given up."""
MOST_DEATHS = 6
FARM_SPEED = "60"
STAND_SPEED = "4"
"""How much faster than a real one the clocks of the simulated farm and stand go: an hour is a minute, a bar takes
seconds."""
LONGEST_WAIT = 20
"""Seconds at most before a server that has ended is started again."""


class Service:
    """One server, leading a process group of its own so that nothing outlives it."""

    def __init__(self, name: str, words: list, env: dict[str, str], log: Path):
        self.name, self.log = name, log
        self._words, self._env = [str(w) for w in words], env
        self._pid_file = log.with_suffix(".pid")
        self._end_leftover()
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
        self._pid_file.write_text(f"{self.pid} {_begun(self.pid)}")

    def _end_leftover(self) -> None:
        """A server whose keeper was killed goes on by itself; it ends before a new one starts."""
        told = self._pid_file.read_text().split() if self._pid_file.exists() else []
        if len(told) == 2 and _begun(int(told[0])) == told[1]:
            end_group(int(told[0]), signal.SIGKILL)

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
        end_group(self.pid, signal.SIGKILL)  # what it left of its own
        self._deaths = [at for at in self._deaths if now - at < SHORT] + [now]
        if len(self._deaths) >= MOST_DEATHS:
            say(f"The {self.name} ended {MOST_DEATHS} times within {SHORT // 60} minutes; its log is {self.log}.")
            return False
        self._again_at = now + min(LONGEST_WAIT, 0.5 * 2 ** (len(self._deaths) - 1))
        say(f"The {self.name} has ended; it is started again. Its log is {self.log}.")
        return True


def _begun(pid: int) -> str:
    """When a process began, in the system's own count; empty where there is none. Tells it from a later one of the
    same number.
    """
    try:
        return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[19]
    except OSError:
        return ""


def start_services(
    home: Path, env: dict[str, str], port: int, listen: str = "127.0.0.1", farm: bool = False
) -> list[Service]:
    """Web server, two workers (one for all work, one that leaves long work alone) and what follows the machines, once
    they answer; with the simulated ``farm`` where that is wanted.
    """
    web = [VENV / "bin/gunicorn", "-c", "python:hewel.web_server", "-b", f"{listen}:{port}"]
    rows = [
        ("web server", "web", web),
        ("worker", "worker", [*MANAGE, "run_worker"]),
        ("worker for first answers", "quick-worker", [*MANAGE, "run_worker", "--quick"]),
        ("machine follower", "follower", [*MANAGE, "follow_machines"]),
    ]
    instance = secrets.token_hex(8)
    machines = home / "machines"
    machines.mkdir(exist_ok=True)
    env = env | {
        "HEWEL_INSTANCE": instance,
        "HEWEL_BACKUPS": str(backup_folder(home)),
        "HEWEL_MACHINES": str(machines),
    }
    if farm:
        at = free_port(home / "farm-port", 8900)
        env |= {"HEWEL_FARM": f"http://127.0.0.1:{at}", "HEWEL_FARM_TOKEN": secret(home / "farm-token")}
        env.setdefault("HEWEL_FARM_SPEED", FARM_SPEED)
        rows.append(("simulated farm", "farm", [VENV / "bin/python", "-m", "simulated_farm", at, home / "farm.json"]))
        at = free_port(home / "stand-port", 8950)
        env |= {"HEWEL_STAND": f"http://127.0.0.1:{at}", "HEWEL_STAND_TOKEN": secret(home / "stand-token")}
        env.setdefault("HEWEL_STAND_SPEED", STAND_SPEED)
        rows.append(("simulated test stand", "stand", [VENV / "bin/python", "-m", "simulated_stand", at]))
    services = [Service(name, words, env, home / f"{log}.log") for name, log, words in rows]
    try:
        _wait_until_healthy(port, services, instance)
    except BaseException:
        stop_services(services)
        raise
    return services


def forget_farm(home: Path) -> None:
    """What the simulated farm holds belongs to the data that it was given with."""
    (home / "farm.json").unlink(missing_ok=True)


STARTING = 1200
"""Tenths of a second that a server has to answer: on a new machine everything is read from disc for the first time."""


def _wait_until_healthy(port: int, services: list[Service], instance: str) -> None:
    """Whatever else may answer at the port is not what was started here."""
    opener = urllib.request.build_opener(urllib.request.ProxyHandler({}))
    for _ in range(STARTING):
        for service in services:
            if service.poll() is not None:
                raise SystemExit(f"\nThe {service.name} did not start; its log is {service.log}.")
        with suppress(OSError), opener.open(f"http://127.0.0.1:{port}/healthy", timeout=2) as answer:
            if answer.headers["Hewel-Instance"] == instance:
                return
        time.sleep(0.1)
    raise SystemExit(f"\nThe web server does not answer; its log is {services[0].log}.")


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
    care = Care(cluster, say)
    while not over():
        if cluster.process is not None and cluster.process.poll() is not None:
            say("The database has ended; it is started again.")
            _again(cluster)
        going = [service.look_after(say) for service in services]
        if not all(going):
            return False
        care.look()
        time.sleep(0.3)
    return True


def stop_services(services: list[Service]) -> None:
    for service in services:
        end_group(service.pid, signal.SIGTERM)
    for service in services:
        with suppress(subprocess.TimeoutExpired):
            service.process.wait(timeout=8)
        end_group(service.pid, signal.SIGKILL)
