"""The only file of this app that calls the engine."""

from collections.abc import Iterator
from dataclasses import replace
from math import inf
from typing import Any

from hewel_engine.schedule.repair import Told, moved, repaired
from hewel_engine.schedule.solver import improved, worth
from hewel_engine.schedule.week import Crew, Machine, Plate, Run, Stop, Week, listed, placed

__all__ = ["Crew", "Machine", "Plate", "Run", "Told", "Week", "moved"]

CHANGE_S = 600.0
"""s of hands for another material."""


def machine_of(key: str, model: str, loaded: str, pushes: bool, out: bool) -> Machine:
    return Machine(key, model, loaded, change_hands=CHANGE_S, pushes=pushes, out=((0.0, inf),) if out else ())


def crew_of(windows: list[list[float]], people: int) -> Crew:
    return Crew(tuple((a, b) for a, b in windows), people)


def plate_of(
    key: str, row: dict, model: str, material: str, due: float | None, weight: float, ready: float
) -> Plate:  # fmt: skip
    return Plate(
        key, row["seconds"], model, material, inf if due is None else due, weight,
        tuple(Stop(*stop[:3]) for stop in row["stops"]), row["start_s"], row["end_s"], ready,
    )  # fmt: skip


def broken_off(plate: Plate, key: str) -> Plate:
    """What is left to do with a plate that will not be finished: it is cleared away."""
    return replace(plate, key=key, seconds=0.0, stops=(), due=inf)


def going(plate: Plate, machine: Machine, crew: Crew, now: float, begun: float, left: float, passed: int,
          others: list[Run]) -> Run | None:  # fmt: skip
    """A plate that is on its machine already, with ``left`` s of printing and ``passed`` stops behind it: what hands
    still have to do. None where none are ever there for it.
    """
    done = plate.seconds - left
    stops = tuple(replace(s, at=max(s.at - done, 0.0)) for s in plate.steps[passed:])
    rest = replace(plate, seconds=left, stops=stops, start_hands=0.0, material="", ready=0.0)
    run = placed(rest, replace(machine, out=()), crew, now, others)
    return run and replace(run, plate=plate, begin=min(begun, run.begin))


def plan(
    plates: list[Plate], machines: list[Machine], crew: Crew, now: float, pins: dict[str, Told], kept: list[Run],
    told: dict[str, Told] | None,
) -> tuple[Week, list[str]]:  # fmt: skip
    """The week, and the keys of plates whose pin cannot be kept (its machine is gone or out, or nobody is there).
    ``kept``: what is on its machine already; ``told``: the week as people know it, None where they were told none.
    """
    known, kept = {m.key: m for m in machines}, list(kept)
    lost: list[str] = []
    for plate in plates:
        if plate.key in pins:
            pin = pins[plate.key]
            run = placed(plate, known[pin.machine], crew, max(pin.start, now), kept) if pin.machine in known else None
            if run:
                kept.append(run)
            else:
                lost.append(plate.key)
    if told is None:
        return listed(plates, machines, crew, now, kept), lost
    return repaired(plates, machines, crew, now, kept, told), lost


def improve(
    week: Week, machines: list[Machine], crew: Crew, now: float, kept: list[Run], seconds: float, zero: float,
    situation: str,
) -> Iterator[tuple]:  # fmt: skip
    """Events of a search: the best week found, as a plan keeps it, for the ``situation`` that it was given; ``zero``: s
    since 1970 at the week's own.
    """
    yield ("doing", 0, 0, "searching")
    plates = [r.plate for r in week.runs] + list(week.left)
    first = min(week, listed(plates, machines, crew, now, kept), key=worth)
    found = improved(first, machines, crew, now, kept, seconds)
    standing = {r.plate.key for r in kept}
    told = {r.plate.key: kept_as(r, zero) for r in found.week.runs if r.plate.key not in standing}
    what = {"late_s": found.week.lateness, "bound_s": found.bound, "proved": found.proved}
    yield ("result", "week", {"told": told, "situation": situation, **what})


def kept_as(run: Run, zero: float) -> dict:
    """A run as a plan keeps it: its machine, and when hands come to it in s since 1970."""
    return {"machine": run.machine, "moments": [round(zero + s, 3) for s in run.moments]}


def run_out(run: Run) -> dict[str, Any]:
    return {
        "machine": run.machine, "start_s": run.start, "begin_s": run.begin, "end_s": run.end, "free_s": run.free,
        "visits": [{"at_s": v.at, "seconds": v.seconds, "what": v.what} for v in run.visits],
        "late_s": run.late, "why": run.why if run.late > 0 else "",
    }  # fmt: skip
