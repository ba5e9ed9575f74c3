"""A week that people were told, after something has happened: what still holds stays as it was told; the rest moves as
little as can be.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from hewel_engine.schedule.week import Crew, Machine, Plate, Run, Week, after, fits, listed, run_of

GRACE_S = 900.0
"""s after its time within which a plate that nobody has started yet is not overdue: people come a little late."""


@dataclass(frozen=True)
class Told:
    """Where and when people were told that a plate is printed: its start, then when hands come to it."""

    machine: str
    moments: tuple[float, ...]

    @property
    def start(self) -> float:
        return self.moments[0]


def repaired(
    plates: Iterable[Plate],
    machines: Iterable[Machine],
    crew: Crew,
    now: float,
    kept: Iterable[Run],
    told: Mapping[str, Told],
) -> Week:
    """The week that was ``told`` as it still can be. ``kept`` runs stand where they are: what is printed, what somebody
    pinned. A machine whose plates can all begin as told keeps them so; the plates of one where something is overdue or
    in the way are listed anew in their order, on another machine only where that is worth it.
    """
    plates, kept = list(plates), list(kept)
    known = {m.key: m for m in machines}
    held = {r.plate.key for r in kept}
    stands = list(kept)
    for machine in known.values():
        own = [p for p in plates if p.key in told and p.key not in held and told[p.key].machine == machine.key]
        stands += _as_told(sorted(own, key=lambda p: told[p.key].start), machine, crew, now, stands, told)
    return listed(plates, known.values(), crew, now, stands, told)


def _as_told(
    plates: list[Plate], machine: Machine, crew: Crew, now: float, others: list[Run], told: Mapping[str, Told]
) -> list[Run]:
    """Every run of a machine as it was told; none where one of them cannot be."""
    for run in sorted((r for r in others if r.machine == machine.key), key=lambda r: r.free):
        machine = after(machine, run)
    out: list[Run] = []
    for plate in plates:
        moments = told[plate.key].moments
        if machine.model != plate.model or moments[0] < max(now - GRACE_S, plate.ready):
            return []
        run = run_of(plate, machine.key, list(moments), machine.change_for(plate), max(now, plate.ready), machine.free)
        if not fits(run, machine, crew, [*others, *out]):
            return []
        out.append(run)
        machine = after(machine, run)
    return out


def moved(before: Mapping[str, Told], week: Week) -> list[str]:
    """Keys of the plates that are no longer printed where and when they were told, to a minute; those told that stand
    in the week no more, and the new ones, among them.
    """
    now = {r.plate.key: r for r in week.runs}
    same = lambda k: k in now and now[k].machine == before[k].machine and abs(now[k].start - before[k].start) < 60
    return [k for k in before if not same(k)] + [k for k in now if k not in before]
