"""What a running Hewel needs now and then: a backup a day, one before its tables change, logs that stay short."""

import os
import shutil
import threading
import time
from collections.abc import Callable
from datetime import datetime
from pathlib import Path

from house.database import Cluster
from house.places import ROOT, digest_of

DAY = 24 * 3600
KEPT_DAYS, KEPT_UPGRADES = 14, 3
LONGEST_LOG = 20 * 2**20
KEPT_LOGS = 3
LOOKS = 60
"""Seconds from one look to the next."""


def backup_folder(home: Path) -> Path:
    """``HEWEL_BACKUPS`` where it is set: better on another disc."""
    return Path(os.environ.get("HEWEL_BACKUPS") or home / "backups")


def _keep_newest(folder: Path, pattern: str, count: int) -> None:
    for old in sorted(folder.glob(pattern))[:-count]:
        old.unlink()


def _dump(cluster: Cluster, folder: Path, kind: str, kept: int) -> Path:
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    file = folder / f"{kind}-{datetime.now():%Y-%m-%dT%H%M%S}.hewel"
    cluster.dump(file)
    _keep_newest(folder, f"{kind}-*.hewel", kept)
    return file


def _tables() -> str:
    return digest_of(*sorted((ROOT / "server").glob("*/migrations")))


def before_tables_change(cluster: Cluster, say: Callable[[str], object]) -> None:
    """A backup where this version's tables differ from those of the version that ran on this database last."""
    if cluster.tables.exists() and cluster.tables.read_text() == _tables():
        return
    file = _dump(cluster, backup_folder(cluster.home), "upgrade", KEPT_UPGRADES)
    say(f"  backup before the tables change: {file}")


def tables_changed(cluster: Cluster) -> None:
    cluster.tables.write_text(_tables())


class Care:
    """Looked after once a minute beside the servers; what fails is said once and tried again at the next look."""

    def __init__(self, cluster: Cluster, say: Callable[[str], object]):
        self.cluster, self.say, self.folder = cluster, say, backup_folder(cluster.home)
        self._looked = self._began = time.time()
        self._backing_up: threading.Thread | None = None
        self._failed = ""

    def look(self) -> None:
        if time.time() - self._looked < LOOKS:
            return
        self._looked = time.time()
        shorten_logs(self.cluster.home)
        if self._due() and not (self._backing_up and self._backing_up.is_alive()):
            self._backing_up = threading.Thread(target=self._back_up, daemon=True)
            self._backing_up.start()

    def _due(self) -> bool:
        """A day after the last one, and not in the first hour: whoever tries something out needs none."""
        newest = max((f.stat().st_mtime for f in self.folder.glob("daily-*.hewel")), default=0.0)
        now = time.time()
        return now - newest > DAY and now - self._began > DAY / 24

    def _back_up(self) -> None:
        try:
            _dump(self.cluster, self.folder, "daily", KEPT_DAYS)
            self._failed = ""
        except (OSError, SystemExit) as error:
            if str(error) != self._failed:
                self.say(f"The daily backup failed: {str(error).strip()}")
            self._failed = str(error)


def shorten_logs(home: Path) -> None:
    """Servers append to their logs and keep them open, so a long one is copied away and emptied."""
    for log in home.glob("*.log"):
        if log.stat().st_size > LONGEST_LOG:
            for n in range(KEPT_LOGS - 1, 0, -1):
                older = log.with_name(f"{log.name}.{n}")
                if older.exists():
                    older.replace(log.with_name(f"{log.name}.{n + 1}"))
            shutil.copyfile(log, log.with_name(f"{log.name}.1"))
            os.truncate(log, 0)
