"""Plates on machines over days, with the hands that start, feed and clear them. Times s from the plan's own zero.

A plate is started by hand, stops where something is put in until a hand is there, and blocks its machine until it is
taken off; a machine that pushes its parts off needs nobody for that. Hands are there in windows, so many at once.
"""

from bisect import bisect_left, bisect_right, insort
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from math import inf
from typing import Protocol


@dataclass(frozen=True)
class Stop:
    """``at`` s after the first line the machine waits for hands, which are busy for ``hands`` s."""

    at: float
    hands: float
    what: str = "pause"


@dataclass(frozen=True)
class Plate:
    """One plate to be printed: ``seconds`` from first to last line, on any machine of its ``model``, in ``material``.
    ``due`` and how much a second of lateness weighs; not before ``ready``.
    """

    key: str
    seconds: float
    model: str
    material: str = ""
    due: float = inf
    weight: float = 1.0
    stops: tuple[Stop, ...] = ()
    start_hands: float = 300.0
    end_hands: float = 300.0
    ready: float = 0.0

    @property
    def steps(self) -> list[Stop]:
        """Its stops in their order."""
        return sorted(self.stops, key=lambda s: s.at)

    @property
    def legs(self) -> list[tuple[float, Stop]]:
        """s of printing up to each stop from the one before, and the stop."""
        steps = self.steps
        return [(stop.at - before, stop) for before, stop in zip([0.0, *(s.at for s in steps)], steps, strict=False)]

    @property
    def rest(self) -> float:
        """s of printing after the last stop."""
        return self.seconds - max((s.at for s in self.stops), default=0.0)


@dataclass(frozen=True)
class Machine:
    """``free`` from then on, with ``material`` loaded; ``change_hands`` to load another. ``out``: spans in which it is
    not there.
    """

    key: str
    model: str
    material: str = ""
    free: float = 0.0
    change_hands: float = 600.0
    pushes: bool = False
    out: tuple[tuple[float, float], ...] = ()

    def change_for(self, plate: "Plate") -> float:
        """s of hands to load what a plate is printed in."""
        return self.change_hands if plate.material not in ("", self.material) else 0.0


@dataclass(frozen=True)
class Crew:
    """So many ``people`` at once in each of the ``windows`` (from, to), in their order. Windows that touch are one:
    where somebody is there round the clock, a plate is changed across midnight too."""

    windows: tuple[tuple[float, float], ...]
    people: int = 1

    def __post_init__(self) -> None:
        joined: list[tuple[float, float]] = []
        for begin, end in self.windows:
            if joined and begin <= joined[-1][1]:
                joined[-1] = (joined[-1][0], max(joined[-1][1], end))
            else:
                joined.append((begin, end))
        object.__setattr__(self, "windows", tuple(joined))


@dataclass(frozen=True)
class Visit:
    """Hands at a machine: from ``at`` for ``seconds``."""

    at: float
    seconds: float
    what: str

    @property
    def end(self) -> float:
        return self.at + self.seconds


@dataclass(frozen=True)
class Run:
    """A plate on a machine: its first line at ``begin``, its last at ``end``; the machine is free again at ``free``.
    ``waited`` s for the machine, and ``idle`` s in which it stood still for want of hands.
    """

    plate: Plate
    machine: str
    begin: float
    end: float
    free: float
    visits: tuple[Visit, ...]
    waited: float
    idle: float

    @property
    def late(self) -> float:
        return max(0.0, self.free - self.plate.due)

    @property
    def start(self) -> float:
        """When hands come to start it."""
        return min([self.begin, *(v.at for v in self.visits)])

    @property
    def moments(self) -> list[float]:
        """When it is started, then when hands come to it."""
        after = [v.at for v in self.visits if v.at >= self.begin]
        return [self.start, *after]

    @property
    def why(self) -> str:
        """What makes it late."""
        parts = {
            "waiting for a machine": self.waited,
            "waiting for hands": self.idle,
            "its own time": self.plate.seconds,
        }
        return max(parts, key=lambda name: parts[name])


@dataclass(frozen=True)
class Week:
    """``runs`` in the order of their start; ``left``: plates that no machine can print."""

    runs: tuple[Run, ...]
    left: tuple[Plate, ...] = ()

    @property
    def lateness(self) -> float:
        """Seconds of lateness, each by the weight of its plate."""
        return sum(r.late * r.plate.weight for r in self.runs)

    @property
    def end(self) -> float:
        return max((r.free for r in self.runs), default=0.0)


class Stood(Protocol):
    """Where and when something was."""

    @property
    def machine(self) -> str: ...
    @property
    def start(self) -> float: ...


class _Hands:
    """What the crew does already, each visit with the others that begin before it."""

    def __init__(self, crew: Crew, busy: Iterable[Visit] = ()):
        self.crew = crew
        self._busy = sorted((v for v in busy if v.seconds > 0), key=lambda v: v.at)
        self._longest = max((v.seconds for v in self._busy), default=0.0)

    def take(self, visit: Visit) -> None:
        if visit.seconds > 0:
            insort(self._busy, visit, key=lambda v: v.at)
            self._longest = max(self._longest, visit.seconds)

    def give_back(self, visits: Iterable[Visit]) -> None:
        for visit in visits:
            if visit.seconds > 0:
                self._busy.remove(visit)

    def earliest(self, at: float, seconds: float) -> float:
        """The first moment from ``at`` on at which a hand is there for so long; infinite where none ever is."""
        if seconds <= 0 or at == inf:
            return at
        first = max(bisect_right(self.crew.windows, (at, inf)) - 1, 0)
        for begin, end in self.crew.windows[first:]:
            begin = max(at, begin)
            while begin + seconds <= end:
                again = self._clash(begin, begin + seconds)
                if again is None:
                    return begin
                begin = again
        return inf

    def there(self, begin: float, end: float) -> bool:
        """Whether a hand is there all that time."""
        place = bisect_right(self.crew.windows, (begin, inf)) - 1
        return place >= 0 and end <= self.crew.windows[place][1] and self._clash(begin, end) is None

    def _clash(self, begin: float, end: float) -> float | None:
        """Where all hands are busy at some moment of that time, when the next of them is free again."""
        first = bisect_right(self._busy, begin - self._longest, key=lambda v: v.at)
        last = bisect_left(self._busy, end, key=lambda v: v.at)
        over = [v for v in self._busy[first:last] if v.end > begin]
        edges = [begin, *(v.at for v in over if v.at > begin)]
        if all(sum(v.at <= t < v.end for v in over) < self.crew.people for t in edges):
            return None
        return min(v.end for v in over)


def _tried(plate: Plate, machine: Machine, hands: _Hands, now: float) -> Run | None:
    """A plate on a machine as soon as it can be; None where it never can."""
    if machine.model != plate.model:
        return None
    change, asked = machine.change_for(plate), max(now, plate.ready)
    at = max(asked, machine.free)
    for _ in range(len(machine.out) + 1):
        run = _run(plate, machine, hands, at, change, asked)
        if run is None:
            return None
        hit = [o for o in machine.out if o[0] < run.free and run.start < o[1]]
        if not hit:
            return run
        at = max(o[1] for o in hit)
    return None


def _run(plate: Plate, machine: Machine, hands: _Hands, at: float, change: float, asked: float) -> Run | None:
    taken: list[Visit] = []

    def come(when: float, seconds: float) -> float:
        taken.append(Visit(hands.earliest(when, seconds), seconds, ""))
        hands.take(taken[-1])
        return taken[-1].at

    moments = [come(at, plate.start_hands + change)]
    reached = moments[0] + plate.start_hands + change
    for span, stop in plate.legs:
        reached += span
        if stop.hands > 0:
            moments.append(come(reached, stop.hands))
            reached = moments[-1] + stop.hands
    if not machine.pushes and plate.end_hands > 0:
        moments.append(come(reached + plate.rest, plate.end_hands))
    hands.give_back(taken)
    return None if moments[-1] == inf else run_of(plate, machine.key, moments, change, asked, at)


def run_of(
    plate: Plate, machine: str, moments: list[float], change: float = 0.0, asked: float = 0.0, freed: float = 0.0
) -> Run:
    """A plate on a machine with hands at these ``moments``: its start, every stop that needs them, and where there is
    one more, to take it off. ``change`` s of hands for another material; the plate could have been printed from
    ``asked`` on, the machine was free at ``freed``.
    """
    hands = plate.start_hands + change
    visits = [Visit(moments[0], hands, "change the material and start" if change else "start")] if hands > 0 else []
    begin = reached = moments[0] + hands
    left = list(moments[1:])
    for span, stop in plate.legs:
        reached += span
        if stop.hands > 0:
            visits.append(Visit(left.pop(0), stop.hands, stop.what))
            reached = visits[-1].end
    end = free = reached + plate.rest
    if left:
        visits.append(Visit(left[0], plate.end_hands, "take off"))
        free = visits[-1].end
    waited = max(0.0, freed - asked)
    busy = plate.seconds + sum(v.seconds for v in visits)
    return Run(plate, machine, begin, end, free, tuple(visits), waited, free - asked - waited - busy)


def listed(
    plates: Iterable[Plate],
    machines: Iterable[Machine],
    crew: Crew,
    now: float = 0.0,
    kept: Iterable[Run] = (),
    was: "Mapping[str, Stood] | None" = None,
) -> Week:
    """List scheduling: the plate with the least slack first, each on the machine that is done with it soonest. ``kept``
    runs stand where they are: what is printed already, and what somebody pinned. Plates that ``was`` knows keep their
    order and, unless another machine is done MOVE_S earlier, their machine.
    """
    was = was or {}
    runs = list(kept)
    hands = _Hands(crew, [v for run in runs for v in run.visits])
    state = {m.key: m for m in machines}
    for run in sorted(runs, key=lambda r: r.free):
        state[run.machine] = after(state[run.machine], run)
    left = []
    there = {r.plate.key for r in runs}
    slack = lambda p: (p.due - p.seconds, -p.weight, p.key)
    order = lambda p: (was[p.key].start if p.key in was else -inf, slack(p))
    for plate in sorted((p for p in plates if p.key not in there), key=order):
        best = _soonest(plate, state, hands, now, was[plate.key].machine if plate.key in was else "")
        if best is None:
            left.append(plate)
            continue
        for visit in best.visits:
            hands.take(visit)
        state[best.machine] = after(state[best.machine], best)
        runs.append(best)
    return Week(tuple(sorted(runs, key=lambda r: (r.start, r.machine))), tuple(left))


def fits(run: Run, machine: Machine, crew: Crew, others: Iterable[Run]) -> bool:
    """Whether a run can be beside ``others``: its hands are there for long enough, in the order of its print, and its
    machine is there and free.
    """
    others = list(others)
    reached = run.begin
    visits = [v for v in run.visits if v.at >= run.begin]
    for span, stop in run.plate.legs:
        reached += span
        if stop.hands > 0:
            visit = visits.pop(0) if visits else None
            if visit is None or visit.at < reached - 1:
                return False
            reached = visit.end
    if run.end < reached + run.plate.rest - 1 or run.free < run.end - 1:
        return False
    if not machine.pushes and run.plate.end_hands > 0 and len(visits) != 1:
        return False
    held = [(o.start, o.free) for o in others if o.machine == run.machine] + [*machine.out, (-inf, machine.free)]
    if any(a < run.free and run.start < b for a, b in held):
        return False
    hands = _Hands(crew, [v for o in others for v in o.visits])
    for visit in run.visits:
        if not hands.there(visit.at, visit.end):
            return False
        hands.take(visit)
    return True


def placed(plate: Plate, machine: Machine, crew: Crew, at: float, others: Iterable[Run] = ()) -> Run | None:
    """A plate on a machine with hands from ``at`` on, or as soon after as they are there beside ``others``; None where
    the machine cannot print it or is held meanwhile.
    """
    others = list(others)
    hands = _Hands(crew, [v for run in others for v in run.visits])
    run = _tried(plate, replace(machine, free=at), hands, at)
    if run is None or any(o.machine == run.machine and o.start < run.free and run.start < o.free for o in others):
        return None
    return run


MOVE_S = 3600.0
"""s that a plate must gain to be moved to another machine than it was told."""


def _soonest(plate: Plate, state: Mapping[str, Machine], hands: _Hands, now: float, was: str) -> Run | None:
    best, least = None, (inf,)
    for machine in sorted(state.values(), key=lambda m: (m.key != was, m.free, m.key)):
        price = 0.0 if machine.key == was or not was else MOVE_S
        if max(now, machine.free, plate.ready) + plate.seconds + price >= least[0]:
            continue  # it cannot be done sooner
        run = _tried(plate, machine, hands, now)
        if run is not None:
            worth = (run.free + price, len(run.visits), machine.material != plate.material)
            if worth < least:
                best, least = run, worth
    return best


def after(machine: Machine, run: Run) -> Machine:
    """A machine once a run has left it."""
    return replace(machine, free=max(machine.free, run.free), material=run.plate.material or machine.material)
