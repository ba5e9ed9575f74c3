"""What the person who keeps Hewel running does: back up, lose everything, restore; stop and start again."""

import os
import shutil
import signal
import subprocess
from pathlib import Path

from browser import until
from conftest import NAME, PASSWORD

from demo.river_station import demo_files
from house.client import Client

ROOT = Path(__file__).resolve().parent.parent


def hewel(home: Path, *words: str) -> str:
    done = subprocess.run(
        [ROOT / "hewel", *words],
        env=os.environ | {"HEWEL_HOME": str(home)},
        capture_output=True,
        text=True,
        timeout=120,
    )
    assert done.returncode == 0, done.stdout + done.stderr
    return done.stdout


def start(home: Path) -> tuple[subprocess.Popen, str]:
    process = subprocess.Popen(
        [ROOT / "hewel", "up"], env=os.environ | {"HEWEL_HOME": str(home)}, stdout=subprocess.PIPE, text=True,
        start_new_session=True,
    )  # fmt: skip
    given = ""
    for line in process.stdout:
        if line.startswith("Ready after"):
            return process, line.split()[-1]
        given += line
    raise AssertionError(f"it did not start:\n{given}")


def stop(process: subprocess.Popen) -> None:
    os.killpg(process.pid, signal.SIGINT)
    process.communicate(timeout=60)
    assert process.returncode == 0


def parts(address: str) -> list[str]:
    client = Client(address, NAME, PASSWORD)
    until(lambda: len(client.get("parts")) == len(demo_files()))
    return sorted(p["name"] for p in client.get("parts"))


def lasting(home: Path) -> set[str]:
    """Files of the data, without those that the database makes anew or recycles by itself whenever it starts."""
    files = (str(p.relative_to(home)) for p in (home / "data").rglob("*"))
    return {f for f in files if "pg_wal/" not in f and not f.endswith("pg_internal.init")}


def test_backup_loss_and_restore(home, tmp_path):
    process, address = start(home)
    try:
        before = parts(address)
        hewel(home, "backup", str(tmp_path / "all.hewel"))  # while it runs
        assert parts(address) == before, "a backup does not stop what is running"
        assert (tmp_path / "all.hewel").stat().st_mode & 0o777 == 0o600, "it holds everything"
    finally:
        stop(process)
    assert before == sorted(f.name for f in demo_files())
    held = subprocess.run(["pgrep", "-f", str(home)], capture_output=True, text=True)
    assert held.stdout == "", "nothing is left running"
    kept = lasting(home)
    (tmp_path / "bad").write_bytes(b"not a backup")
    refused = subprocess.run(
        [ROOT / "hewel", "restore", tmp_path / "bad"], env=os.environ | {"HEWEL_HOME": str(home)}, capture_output=True
    )
    assert refused.returncode != 0
    assert kept <= lasting(home), "the data is left alone"
    shutil.rmtree(home / "data")
    hewel(home, "restore", str(tmp_path / "all.hewel"))
    process, address = start(home)
    try:
        assert parts(address) == before
    finally:
        stop(process)
