"""Where things are, and how the parts of the product are told."""

import fcntl
import hashlib
import os
import pwd
import secrets
import signal
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
VENV = ROOT / ".venv"
KERNELS = VENV / "kernels"
WEB = ROOT / "web"
AS_ROOT = os.geteuid() == 0


def data_home(purpose: str) -> Path:
    """This checkout's own data, where the database's user can reach it; ``HEWEL_HOME`` overrules."""
    if os.environ.get("HEWEL_HOME"):
        return Path(os.environ["HEWEL_HOME"]).resolve() / purpose
    name = f"{ROOT.name}-{hashlib.sha256(str(ROOT).encode()).hexdigest()[:8]}"
    if AS_ROOT:
        return Path("/var/lib/hewel") / name / purpose
    base = os.environ.get("XDG_DATA_HOME") or Path(pwd.getpwuid(os.geteuid()).pw_dir) / ".local/share"
    return Path(base) / "hewel" / name / purpose


LANE = int(os.environ.get("HEWEL_LANE", "0"))
"""Which of several runs beside each other this is: each has ports of its own, so that two never take one at once."""


def free_port(remembered: Path, first: int) -> int:
    """The port in ``remembered`` when it is free, else the first free one from ``first`` on; remembers it."""
    first += 1000 * LANE
    wanted = [int(remembered.read_text())] if remembered.exists() else []
    for port in [*wanted, *range(first, first + 200)]:
        with socket.socket() as s:
            s.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                s.bind(("127.0.0.1", port))
            except OSError:
                continue
        remembered.parent.mkdir(parents=True, exist_ok=True)
        remembered.write_text(str(port))
        return port
    raise SystemExit(f"No free port from {first} to {first + 199} on this machine.")


def secret(path: Path) -> str:
    """What only this machine's own processes know; made where there is none yet."""
    if not path.exists():
        path.parent.mkdir(parents=True, exist_ok=True)
        path.touch(mode=0o600)
        path.write_text(secrets.token_urlsafe(48))
    return path.read_text()


def environment(home: Path, dsn: str | None = None) -> dict[str, str]:
    """For every Python process of the product: threads capped, one cache of compiled kernels; and what Python has
    compiled of the sources is kept, whatever the caller's environment says: every process would compile them anew.
    """
    env = {k: v for k, v in os.environ.items() if not k.startswith(("PG", "DJANGO_", "PYTHONDONTWRITEBYTECODE"))}
    env |= {
        "PYTHONPATH": os.pathsep.join(str(ROOT / p) for p in ("engine", "server", ".")),
        "NUMBA_CACHE_DIR": str(KERNELS),
        "OMP_NUM_THREADS": "2",
        "OPENBLAS_NUM_THREADS": "2",
        "PYTHONUNBUFFERED": "1",
    }
    if dsn:
        key = secret(home / "secret")
        env |= {"HEWEL_SECRET_KEY": key, "HEWEL_DATABASE": dsn, "DJANGO_SETTINGS_MODULE": "hewel.settings"}
    return env


class Stopped(Exception):
    """Whoever runs Hewel wants it to end."""


STOPPING = threading.Event()
_AT_WORK: set[subprocess.Popen] = set()
GRACE = 1.0
"""Seconds that a step of setting up has to end by itself once it is told to."""


def run(command: list, **options) -> None:
    """Runs to the end; on failure shows the last lines of what it said and stops everything. Raises Stopped where
    :func:`stop_running` ended it.
    """
    words = [str(c) for c in command]
    with subprocess.Popen(
        words, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, errors="replace", start_new_session=True,
        **options,
    ) as process:  # fmt: skip
        _AT_WORK.add(process)
        try:
            said = process.communicate()[0] if not STOPPING.is_set() else ""
        finally:
            _AT_WORK.discard(process)
            if process.poll() is None:
                end_group(process.pid, signal.SIGKILL)
    if STOPPING.is_set():
        raise Stopped
    if process.returncode:
        tail = "\n".join(said.splitlines()[-25:])
        raise SystemExit(f"\n{' '.join(words[:4])} … failed ({process.returncode}):\n{tail}")


def stop_running() -> None:
    """Ends whatever :func:`run` is waiting for, with all that it started, and lets nothing new begin."""
    STOPPING.set()
    ending = list(_AT_WORK)
    for process in ending:
        end_group(process.pid, signal.SIGTERM)
    until = time.monotonic() + GRACE
    while time.monotonic() < until and any(p.poll() is None for p in ending):
        time.sleep(0.05)
    for process in ending:
        end_group(process.pid, signal.SIGKILL)


def end_group(leader: int, number: int) -> None:
    """Sends a signal to a process group, if there is one that this user may send to."""
    with suppress(ProcessLookupError, PermissionError):
        os.killpg(leader, number)


@contextmanager
def held(lock: Path, busy: str, wait: bool = False) -> Iterator[None]:
    """Holds a lock that ends with this process, however that ends. Where another process holds it: says ``busy`` and
    waits, or raises SystemExit with it.
    """
    lock.parent.mkdir(parents=True, exist_ok=True)
    with open(lock, "a") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            if not wait:
                raise SystemExit(busy) from None
            print(f"  {busy}", flush=True)
            fcntl.flock(file, fcntl.LOCK_EX)
        yield


def digest_of(*paths: Path) -> str:
    """Of the names and contents of files and of all files below folders, without what tools leave beside sources."""
    total = hashlib.sha256(sys.version.encode())
    for path in paths:
        files = sorted(p for p in path.rglob("*") if p.is_file()) if path.is_dir() else [path]
        for f in files:
            if not any(name.startswith((".", "__pycache__")) for name in f.relative_to(path).parts):
                total.update(str(f.relative_to(ROOT)).encode() + b"\0" + f.read_bytes())
    return total.hexdigest()


class Stamp:
    """A step is skipped while the digest of its inputs is the one it was last done with."""

    def __init__(self, name: str, *inputs: Path, needs: Path | None = None):
        self.file, self.inputs, self.needs = VENV / "stamps" / name, inputs, needs

    def fresh(self) -> bool:
        there = self.needs is None or self.needs.exists()
        return there and self.file.exists() and self.file.read_text() == digest_of(*self.inputs)

    def set(self) -> None:
        self.file.parent.mkdir(parents=True, exist_ok=True)
        self.file.write_text(digest_of(*self.inputs))
