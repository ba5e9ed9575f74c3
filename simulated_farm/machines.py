"""Machines that print plates by a clock of their own: they heat, print layer by layer, wait for hands, and now and then
something goes wrong. What they do is a matter of the seed and of what they are told alone. All state is plain data, so
that a farm that was killed goes on where it was.
"""

import random
from collections.abc import Generator
from dataclasses import asdict, dataclass, field
from typing import Any

import simpy

from simulated_door import Refused

HEATING_S = 240.0
AWAY_S = 900.0
"""s that a machine that drops off the line does not answer."""
FAULTS = {
    "detached": "The part has come off the plate.",
    "tangle": "The filament is tangled.",
    "run_out": "The filament has run out.",
    "power": "The power was cut.",
    "off_line": "",
}
"""What goes wrong, and what the machine says then; a machine that is off the line says nothing and prints on."""
ENDS = ("detached", "power")
"""Faults that end a print; after the others it goes on once somebody has been there."""
OPEN = ("heating", "printing", "paused", "waiting")


@dataclass
class Plate:
    """A plate as it is told to a machine. ``stops``: s of printing after which it waits, and what for."""

    ticket: str
    name: str
    seconds: float
    layers: int
    stops: list[list[Any]]
    faults: dict[str, str] = field(default_factory=dict)
    """By the number of a layer what happens there."""


@dataclass
class Machine:
    id: str
    plate: Plate | None = None
    phase: str = "idle"
    """idle, heating, printing, paused, waiting (for hands), done, failed, cancelled; the last three until cleared."""
    layer: int = 0
    stops_done: int = 0
    words: str = ""
    """What it waits for, or what went wrong."""
    away_until: float = 0.0
    told: list[str] = field(default_factory=list)
    """Tickets that it has been given, the newest last: none is printed twice."""

    @property
    def done_s(self) -> float:
        return self.plate.seconds * self.layer / self.plate.layers if self.plate else 0.0


class Farm:
    """Machines on one clock. ``chance`` of a fault per plate; ``state`` what ``kept`` gave earlier."""

    def __init__(self, seed: int = 1, chance: float = 0.0, state: dict | None = None):
        state = state or {"clock_s": 0.0, "machines": []}
        self.seed, self.chance = seed, chance
        self._env = simpy.Environment(initial_time=state["clock_s"])
        self.machines: dict[str, Machine] = {}
        self._going: dict[str, simpy.Process] = {}
        self._hand: dict[str, simpy.Event] = {}
        for row in state["machines"]:
            plate = row.pop("plate")
            machine = Machine(**row, plate=Plate(**plate) if plate else None)
            self.machines[machine.id] = machine
            if machine.phase in OPEN:
                self._begin(machine)

    @property
    def clock_s(self) -> float:
        return float(self._env.now)

    def kept(self) -> dict:
        return {"clock_s": self.clock_s, "machines": [asdict(m) for m in self.machines.values()]}

    def advance(self, seconds: float) -> None:
        if seconds > 0:
            self._env.run(until=self._env.now + seconds)

    def place(self, machine_id: str, ticket: str, name: str, seconds: float, layers: int, stops: list) -> None:
        """Gives a machine a plate; the same ticket again changes nothing. Raises Refused where it holds another."""
        machine = self.machines.setdefault(machine_id, Machine(machine_id))
        if ticket in machine.told:
            return
        if machine.phase != "idle":
            raise Refused(f"{machine_id} holds a plate: it is {machine.phase}.")
        machine.plate = Plate(ticket, name, max(seconds, 1.0), max(layers, 1), sorted(stops))
        machine.plate.faults = self._chances(machine.plate)
        machine.told = [*machine.told[-49:], ticket]
        machine.phase, machine.layer, machine.stops_done, machine.words = "heating", 0, 0, ""
        self._begin(machine)
        self.advance(1e-6)

    def command(self, machine_id: str, ticket: str, what: str) -> None:
        """``pause``, ``continue``, ``cancel`` or ``clear``; raises Refused where that is not possible now."""
        machine = self.machines.get(machine_id)
        if machine is None or machine.plate is None or machine.plate.ticket != ticket:
            raise Refused(f"{machine_id} does not hold this plate.")
        if what == "pause" and machine.phase in ("heating", "printing"):
            machine.phase, machine.words = "paused", "paused from afar"
        elif what == "continue" and machine.phase in ("paused", "waiting"):
            if machine.phase == "waiting" and machine.stops_done < len(machine.plate.stops) and self._at_stop(machine):
                machine.stops_done += 1
            machine.phase, machine.words = "printing", ""
            self._hand[machine.id].succeed()
        elif what == "cancel" and machine.phase in OPEN:
            machine.phase, machine.words = "cancelled", "cancelled from afar"
            self._going[machine.id].interrupt()
        elif what == "clear" and machine.phase in ("done", "failed", "cancelled"):
            machine.phase, machine.plate, machine.layer, machine.words = "idle", None, 0, ""
        else:
            raise Refused(f"{machine_id} is {machine.phase}: it cannot {what} now.")
        self.advance(1e-6)

    def happen(self, machine_id: str, what: str) -> None:
        """Something goes wrong at a machine with its next layer."""
        machine = self.machines.get(machine_id)
        if what not in FAULTS or machine is None or machine.plate is None:
            raise Refused(f"Nothing called {what} can happen at {machine_id} now.")
        begun = machine.phase == "printing"
        machine.plate.faults[str(machine.layer + begun)] = what

    def looks(self) -> list[dict]:
        """What every machine says of itself; one that is off the line says so and nothing else."""
        return [self._look(m) for m in self.machines.values()]

    def _look(self, m: Machine) -> dict:
        if m.away_until > self.clock_s:
            return {"id": m.id, "phase": "off line"}
        plate = m.plate
        return {
            "id": m.id,
            "phase": m.phase,
            "ticket": plate.ticket if plate else None,
            "layer": m.layer,
            "layers": plate.layers if plate else 0,
            "left_s": plate.seconds - m.done_s if plate else 0.0,
            "words": m.words,
            "told": m.told,
        }

    def _chances(self, plate: Plate) -> dict[str, str]:
        """Of a plate what will go wrong and when: the same every time for a seed and a ticket."""
        chance = random.Random(f"{self.seed}/{plate.ticket}")
        if chance.random() >= self.chance:
            return {}
        return {str(chance.randrange(plate.layers)): chance.choice(list(FAULTS))}

    def _at_stop(self, m: Machine) -> bool:
        return m.stops_done < len(m.plate.stops) and m.plate.stops[m.stops_done][0] <= m.done_s + 1e-6

    def _begin(self, machine: Machine) -> None:
        self._going[machine.id] = self._env.process(self._print(machine))

    def _held(self, m: Machine) -> Generator:
        """Until somebody lets it go on."""
        self._hand[m.id] = self._env.event()
        yield self._hand[m.id]

    def _print(self, m: Machine) -> Generator:
        plate = m.plate
        try:
            if m.phase == "heating":
                yield self._env.timeout(min(HEATING_S, plate.seconds / 20))
                if m.phase == "heating":
                    m.phase = "printing"
            if m.phase in ("paused", "waiting"):
                yield from self._held(m)
            while m.layer < plate.layers:
                if self._at_stop(m):
                    m.phase, m.words = "waiting", str(plate.stops[m.stops_done][1])
                    yield from self._held(m)
                fault = plate.faults.pop(str(m.layer), None)
                if fault == "off_line":
                    m.away_until = self.clock_s + AWAY_S
                elif fault:
                    m.phase, m.words = "failed" if fault in ENDS else "waiting", FAULTS[fault]
                    if fault in ENDS:
                        return
                    yield from self._held(m)
                yield self._env.timeout(plate.seconds / plate.layers)
                m.layer += 1
                if m.phase == "paused":
                    yield from self._held(m)
            m.phase, m.words = "done", ""
        except simpy.Interrupt:
            return
