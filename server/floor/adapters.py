"""How plates get to machines. An adapter looks at its machines, gives them plates and tells them what to do; it knows
nothing of orders and plans. Two ship with the product: the simulated farm, and files in a folder of the machine's own,
for whatever else can read and write them. docs/machines.md says what either side may rely on.
"""

import json
import os
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Protocol

from django.conf import settings

from hewel.beside import Declined, asked

TIMEOUT = 3
"""s that a machine has to answer."""
MOST_BYTES = 2_000_000


@dataclass(frozen=True)
class Ticket:
    """A plate as a machine is given it. ``stops``: (s of printing before it waits, what for)."""

    id: str
    name: str
    seconds: float
    layers: int
    stops: list[tuple[float, str]]
    file: Callable[[], bytes]
    """The plate's geometry, read where it is wanted."""

    def words(self) -> dict[str, Any]:
        return {"ticket": self.id, "name": self.name, "seconds": self.seconds, "layers": self.layers,
                "stops": [list(s) for s in self.stops]}  # fmt: skip


@dataclass(frozen=True)
class Report:
    """What a machine says of itself. ``phase``: idle, heating, printing, paused, waiting, done, failed, cancelled."""

    phase: str
    ticket: str | None = None
    layer: int = 0
    layers: int = 0
    left_s: float = 0.0
    words: str = ""


PHASES = ("idle", "heating", "printing", "paused", "waiting", "done", "failed", "cancelled")


class Adapter(Protocol):
    def look(self, machines: list[str]) -> dict[str, Report]:
        """What each machine says; those that do not answer are left out."""

    def give(self, machine: str, ticket: Ticket) -> None:
        """Starts a plate; the same ticket again changes nothing. Raises Declined."""

    def tell(self, machine: str, ticket: str, what: str) -> None:
        """``pause``, ``continue``, ``cancel`` or ``clear``. Raises Declined."""


def report_of(row: Any) -> Report | None:
    """A machine's own words, checked; None where they say nothing that can be relied on."""
    if not isinstance(row, dict) or row.get("phase") not in PHASES:
        return None
    whole = lambda name: max(0, min(int(row.get(name) or 0), 10**7))
    try:
        left = float(row.get("left_s") or 0.0)
        ticket = row.get("ticket")
        return Report(
            row["phase"], None if ticket is None else str(ticket)[:64], whole("layer"), whole("layers"),
            left if 0 <= left < 1e8 else 0.0, str(row.get("words") or "")[:200],
        )  # fmt: skip
    except (TypeError, ValueError, OverflowError):
        return None


class SimulatedFarm:
    """The farm that ships with the product, at an address of this machine."""

    def look(self, machines: list[str]) -> dict[str, Report]:
        try:
            rows = self._ask("machines", None)["machines"]
        except (OSError, Declined, ValueError, KeyError):
            return {}
        known = {row.get("id"): report_of(row) for row in rows}
        # A machine that it has never heard of has nothing on it.
        return {m: r for m in machines if (r := known.get(m, Report("idle"))) is not None}

    def give(self, machine: str, ticket: Ticket) -> None:
        self._ask(f"machines/{machine}/plate", ticket.words())

    def tell(self, machine: str, ticket: str, what: str) -> None:
        self._ask(f"machines/{machine}/{what}", {"ticket": ticket})

    def _ask(self, path: str, given: dict | None) -> dict:
        if not settings.FARM_ADDRESS:
            raise OSError("no simulated farm runs with this Hewel")
        return asked(settings.FARM_ADDRESS, settings.FARM_TOKEN, path, given, TIMEOUT, MOST_BYTES)


class FolderDrop:
    """Files in a folder of the machine's own: a plate's geometry and its ticket are written there, and what the machine
    says is read from ``status.json``.
    """

    def look(self, machines: list[str]) -> dict[str, Report]:
        out = {}
        for machine in machines:
            file = self._folder(machine) / "status.json"
            if not file.exists():
                out[machine] = Report("idle")
                continue
            try:
                row = json.loads(file.read_bytes()[:MOST_BYTES])
            except (OSError, ValueError):
                continue
            report = report_of(row)
            if report is not None:
                out[machine] = report
        return out

    def give(self, machine: str, ticket: Ticket) -> None:
        folder = self._folder(machine)
        folder.mkdir(parents=True, exist_ok=True)
        if not (folder / f"{ticket.id}.json").exists():
            _write(folder / f"{ticket.id}.3mf", ticket.file())
            # Last: whoever sees the ticket finds the geometry complete.
            _write(folder / f"{ticket.id}.json", json.dumps(ticket.words(), indent=1).encode())

    def tell(self, machine: str, ticket: str, what: str) -> None:
        _write(self._folder(machine) / f"{ticket}.command.json", json.dumps({"ticket": ticket, "what": what}).encode())

    @staticmethod
    def _folder(machine: str) -> Path:
        return Path(settings.MACHINE_FOLDERS) / "".join(c if c.isalnum() or c in "-_" else "-" for c in machine)


def _write(file: Path, data: bytes) -> None:
    """As a whole or not at all."""
    fresh = file.with_suffix(file.suffix + ".new")
    fresh.write_bytes(data)
    os.replace(fresh, file)


ADAPTERS: dict[str, Adapter] = {"simulated": SimulatedFarm(), "folder": FolderDrop()}
"""By how a machine is reached; one that is reached by hand has none."""
