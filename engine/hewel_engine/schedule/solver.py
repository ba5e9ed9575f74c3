"""A week improved and bounded: what the list answers at once, searched further by a constraint solver.

The solver sees time in steps of GRID seconds. It searches with every span rounded up, so that what it finds holds; it
bounds with every span rounded down and every moment put to the step before it, so that no week at all can be less late
than the bound says. Lateness goes first; then, at no more lateness, the time that machines are held, and moved plates.
"""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from math import ceil, floor, inf
from typing import Any

from hewel_engine.schedule.week import MOVE_S, Crew, Machine, Plate, Run, Stop, Visit, Week, listed, run_of

GRID = 300
"""s of a step."""
SEED = 7
TENTHS = 10
"""Weights of plates are counted in tenths."""


@dataclass(frozen=True)
class Solved:
    """``week`` is never later in all than the one that was given; ``bound``, s of weighted lateness, no week undercuts.
    ``proved``: nothing is less late, to a step.
    """

    week: Week
    bound: float

    @property
    def proved(self) -> bool:
        return self.week.lateness <= self.bound + GRID


def improved(
    first: Week,
    machines: Iterable[Machine],
    crew: Crew,
    now: float,
    kept: Iterable[Run] = (),
    seconds: float = 20.0,
    doing: Callable[[str], Any] = lambda words: None,
) -> Solved:
    """``first`` as good as is found within so many ``seconds`` of work; runs in ``kept`` stay where they are."""
    kept, machines = list(kept), list(machines)
    held = {r.plate.key for r in kept}
    free = {r.plate.key: r for r in first.runs if r.plate.key not in held}
    bound = sum(r.late * r.plate.weight for r in kept)
    if not free:
        return Solved(first, bound)
    plates = [r.plate for r in free.values()]
    late, best = first.lateness > bound, first
    if late:
        doing("how little late it can be")
        bound += _bound(_Farm([p for p in plates if p.due < inf], machines, crew, now, kept, up=False), 0.3 * seconds)
    doing("a better week")
    for runs in _searched(_Farm(plates, machines, crew, now, kept, up=True), free, late, seconds):
        found = _true(runs, free, machines, kept, now)
        sooner = listed(plates, machines, crew, now, kept, {r.plate.key: r for r in found})
        week = Week(tuple(sorted([*kept, *found], key=lambda r: (r.start, r.machine))), first.left)
        best = min(best, week, replace(sooner, left=first.left), key=worth)
    return Solved(best, min(bound, best.lateness))


def worth(week: Week) -> tuple[float, float, float]:
    """Less is better: plates that find no place, lateness, the time that plates hold machines."""
    return -len(week.runs), round(week.lateness), sum(r.free - r.start for r in week.runs)


class _Farm:
    """Plates, machines, hands and what stands already with every time in whole steps: rounded up, or down."""

    def __init__(self, plates: list[Plate], machines: list[Machine], crew: Crew, now: float, kept: list[Run], up: bool):
        self.up, self._step = up, ceil if up else floor
        self.now = self.whole(now)
        self.plates = [self._plate(p, plates, [m for m in machines if m.model == p.model]) for p in plates]
        self.machines = [self._machine(m, machines) for m in machines]
        self.kept = [self._run(r) for r in kept]
        inward = [(self.whole(a), self._down(b)) for a, b in crew.windows]
        # Where standing runs need more hands at once than there are, rounded, they have them.
        self.crew = Crew(tuple(w for w in inward if w[0] < w[1]), max(crew.people, self._most_at_once()))

    def whole(self, s: float) -> float:
        return s if s == inf else GRID * self._step(round(s / GRID, 6))

    def _down(self, s: float) -> float:
        return s if s == inf else GRID * floor(round(s / GRID, 6))

    def _span(self, a: float, b: float) -> tuple[float, float]:
        """What stands already: rounded up it holds every step that it touches."""
        return self._down(a), self.whole(b) if self.up else self._down(a) + self._down(b - a)

    def _plate(self, p: Plate, plates: list[Plate], own: list[Machine]) -> Plate:
        """Rounded up it has time for another material wherever there are several."""
        stops, at = [], 0.0
        for span, stop in p.legs:
            at += self.whole(span)
            stops.append(Stop(at, self.whole(stop.hands), stop.what))
        several = len({m.material for m in own} | {q.material for q in plates if q.model == p.model}) > 1
        change = max(m.change_hands for m in own) if self.up and several and p.material else 0.0
        return replace(
            p,
            seconds=at + self.whole(p.rest), stops=tuple(stops), material="",
            start_hands=self.whole(p.start_hands + change), end_hands=self.whole(p.end_hands),
            ready=self.whole(p.ready), due=p.due if p.due == inf else GRID * (floor if self.up else ceil)(p.due / GRID),
        )  # fmt: skip

    def _machine(self, m: Machine, machines: list[Machine]) -> Machine:
        alike = [n.pushes for n in machines if n.model == m.model]
        pushes = all(alike) if self.up else any(alike)
        return replace(m, free=self.whole(m.free), pushes=pushes, out=tuple(self._span(a, b) for a, b in m.out))

    def _run(self, r: Run) -> Run:
        visits = tuple(Visit(a, b - a, v.what) for v in r.visits for a, b in [self._span(v.at, v.end)])
        start, free = self._span(r.start, r.free)
        return replace(r, visits=visits, begin=start if not visits else self._down(r.begin), free=free)

    def _most_at_once(self) -> int:
        spans = [(v.at, v.end) for r in self.kept for v in r.visits]
        return max((sum(a <= t < b for a, b in spans) for t, _ in spans), default=0)


class _Model:
    """The weeks that a farm allows, as variables of the solver, in steps."""

    def __init__(self, farm: _Farm):
        # It takes half a second to load, and only whoever searches needs it.
        from ortools.sat.python import cp_model

        self.cp, self.farm, self.model = cp_model, farm, cp_model.CpModel()
        self.last = int(farm.crew.windows[-1][1] // GRID)
        self.on: list[dict[str, Any]] = []
        self.moments: list[list[Any]] = []
        """Of every plate the starts of its visits in their order, the start first even where it needs no hands."""
        self.held: list[Any] = []
        self.late: list[Any] = []
        self._hands = [self._fixed(v.at, v.end) for r in farm.kept for v in r.visits]
        self._spans = {m.key: [self._fixed(a, b) for a, b in [*m.out, (0.0, m.free)]] for m in farm.machines}
        for run in farm.kept:
            if run.machine in self._spans:
                self._spans[run.machine].append(self._fixed(run.start, run.free))
        for plate in farm.plates:
            self._add(plate)
        for spans in self._spans.values():
            self.model.add_no_overlap(spans)
        if farm.crew.people == 1:
            self.model.add_no_overlap(self._hands)
        else:
            self.model.add_cumulative(self._hands, [1] * len(self._hands), farm.crew.people)

    def _fixed(self, a: float, b: float) -> Any:
        end = min(int(b // GRID), 3 * self.last) if b < inf else 3 * self.last
        begin = min(int(a // GRID), end)
        return self.model.new_fixed_size_interval_var(begin, end - begin, "")

    def _add(self, plate: Plate) -> None:
        m, steps = self.model, lambda s: int(s // GRID)
        moments: list[Any] = []

        def visit(reached: Any, least: int, hands: int) -> Any:
            """When hands come that are wanted from ``reached`` on, which is never before ``least``."""
            spans = [
                [max(steps(a), least), steps(b) - hands]
                for a, b in self.farm.crew.windows
                if steps(b) - hands >= max(steps(a), least)
            ]
            at = m.new_int_var_from_domain(self.cp.Domain.from_intervals(spans), "")
            m.add(at >= reached)
            self._hands.append(m.new_fixed_size_interval_var(at, hands, ""))
            moments.append(at)
            return at

        least, hands = steps(max(self.farm.now, plate.ready)), steps(plate.start_hands)
        start = visit(least, least, hands) if hands else m.new_int_var(least, self.last, "")
        if not hands:
            moments.append(start)
        reached, least = start + hands, least + hands
        for leg, stop in plate.legs:
            span, hands = steps(leg), steps(stop.hands)
            reached, least = reached + span, least + span
            if hands:
                reached, least = visit(reached, least, hands) + hands, least + hands
        span, hands = steps(plate.rest), steps(plate.end_hands)
        own = [x for x in self.farm.machines if x.model == plate.model]
        done = reached + span
        if hands and not own[0].pushes:
            done = visit(done, least + span, hands) + hands
        held = m.new_int_var(0, 3 * self.last, "")
        m.add(held == done - start)
        on = {x.key: m.new_bool_var("") for x in own}
        for key, there in on.items():
            self._spans[key].append(m.new_optional_interval_var(start, held, done, there, ""))
        m.add_exactly_one(on.values())
        late = m.new_int_var(0, 3 * self.last if plate.due < inf else 0, "")
        if plate.due < inf:
            m.add(late >= done - steps(plate.due))
        self.on.append(on)
        self.moments.append(moments)
        self.held.append(held)
        self.late.append(late)

    @property
    def lateness(self) -> Any:
        return sum(round(p.weight * TENTHS) * late for p, late in zip(self.farm.plates, self.late, strict=True))

    def hint(self, runs: dict[str, Run]) -> None:
        """Every variable: without a complete one nothing is found on a large farm."""
        self.model.clear_hints()
        rows = zip(self.farm.plates, self.on, self.moments, self.held, self.late, strict=True)
        for plate, on, moments, held, late in rows:
            run = runs[plate.key]
            for var, s in zip([*moments, held], [*run.moments, run.free - run.start], strict=True):
                self.model.add_hint(var, round(s / GRID))
            for key, var in on.items():
                self.model.add_hint(var, key == run.machine)
            self.model.add_hint(late, round(run.late / GRID))

    def solve(self, least: Any, seconds: float) -> tuple[Any, bool]:
        """The solver after its search for the least of an expression, and whether it holds a week."""
        self.model.minimize(least)
        solver = self.cp.CpSolver()
        # The same week on every computer: its workers take turns, and the limit counts work before the clock.
        solver.parameters.num_workers = 4
        solver.parameters.interleave_search = True
        solver.parameters.random_seed = SEED
        solver.parameters.max_deterministic_time = seconds
        solver.parameters.max_time_in_seconds = 3 * seconds
        status = solver.solve(self.model)
        return solver, status in (self.cp.OPTIMAL, self.cp.FEASIBLE)

    def found(self, least: Any, seconds: float) -> list[Run] | None:
        """Runs whose times are whole steps; None where none were found."""
        solver, holds = self.solve(least, seconds)
        if not holds:
            return None
        out = []
        for plate, on, moments in zip(self.farm.plates, self.on, self.moments, strict=True):
            machine = next(key for key, var in on.items() if solver.value(var))
            out.append(run_of(plate, machine, [GRID * solver.value(v) for v in moments]))
        return out


def _bound(farm: _Farm, seconds: float) -> float:
    """s of weighted lateness that no week of these plates undercuts."""
    model = _Model(farm)
    solver, _ = model.solve(model.lateness, seconds)
    return max(0.0, solver.best_objective_bound) * GRID / TENTHS


def _searched(farm: _Farm, was: dict[str, Run], late: bool, seconds: float) -> list[list[Run]]:
    """Runs as good as are found, in steps; first by lateness, then by what else counts."""
    begun = listed(farm.plates, farm.machines, farm.crew, farm.now, farm.kept, was)
    if begun.left:
        return []  # rounded up, not everything finds a place
    model = _Model(farm)
    best = {r.plate.key: r for r in begun.runs}
    out = []
    if late:
        model.hint(best)
        runs = model.found(model.lateness, 0.5 * seconds)
        if runs is not None:
            out.append(runs)
            best = {r.plate.key: r for r in runs}
    model.model.add(
        model.lateness <= sum(round(p.weight * TENTHS) * round(best[p.key].late / GRID) for p in farm.plates)
    )
    model.hint(best)
    moved = sum(1 - on.get(was[p.key].machine, 0) for p, on in zip(farm.plates, model.on, strict=True))
    runs = model.found(sum(model.held) + round(MOVE_S / GRID) * moved, 0.2 * seconds)
    return out if runs is None else [*out, runs]


def _true(runs: list[Run], was: dict[str, Run], machines: list[Machine], kept: list[Run], now: float) -> list[Run]:
    """What was found in steps, with every span as long as it is; hands come when the solver said."""
    loaded = {m.key: m for m in machines}
    free = {m.key: max([m.free, *(r.free for r in kept if r.machine == m.key)]) for m in machines}
    out: list[Run] = []
    for run in sorted([*runs, *(r for r in kept if r.machine in loaded)], key=lambda r: r.start):
        machine, plate = loaded[run.machine], run.plate
        if plate.key in was:
            plate = was[plate.key].plate
            change, asked = machine.change_for(plate), max(now, plate.ready)
            moments = run.moments[: -1 if machine.pushes and run.free > run.end else None]
            run = run_of(plate, run.machine, moments, change, asked, free[run.machine])
            out.append(run)
        loaded[run.machine] = replace(machine, material=plate.material or machine.material)
        free[run.machine] = run.free
    return out
