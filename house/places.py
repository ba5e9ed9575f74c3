"""Where things are, and how the parts of the product are told."""

import hashlib
import os
import pwd
import secrets
import socket
import subprocess
import sys
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


def secret(home: Path) -> str:
    path = home / "secret"
    if not path.exists():
        home.mkdir(parents=True, exist_ok=True)
        path.touch(mode=0o600)
        path.write_text(secrets.token_urlsafe(48))
    return path.read_text()


def environment(home: Path, dsn: str | None = None) -> dict[str, str]:
    """For every Python process of the product: threads capped, one cache of compiled kernels."""
    env = {k: v for k, v in os.environ.items() if not k.startswith(("PG", "DJANGO_"))}
    env |= {
        "PYTHONPATH": os.pathsep.join(str(ROOT / p) for p in ("engine", "server", ".")),
        "NUMBA_CACHE_DIR": str(KERNELS),
        "OMP_NUM_THREADS": "2",
        "OPENBLAS_NUM_THREADS": "2",
        "PYTHONUNBUFFERED": "1",
    }
    if dsn:
        env |= {"HEWEL_SECRET_KEY": secret(home), "HEWEL_DATABASE": dsn, "DJANGO_SETTINGS_MODULE": "hewel.settings"}
    return env


def run(command: list, log: Path | None = None, **options) -> None:
    """Runs to the end; on failure shows the last lines of what it said and stops everything."""
    done = subprocess.run(
        [str(c) for c in command],
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
        errors="replace",
        **options,
    )
    if log:
        log.write_text(done.stdout)
    if done.returncode:
        tail = "\n".join(done.stdout.splitlines()[-25:])
        raise SystemExit(f"\n{' '.join(str(c) for c in command[:4])} … failed ({done.returncode}):\n{tail}")


def digest_of(*paths: Path) -> str:
    """Of the names and contents of files and of all files below folders."""
    total = hashlib.sha256(sys.version.encode())
    for path in paths:
        files = sorted(p for p in path.rglob("*") if p.is_file()) if path.is_dir() else [path]
        for f in files:
            if "__pycache__" not in f.parts:
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
