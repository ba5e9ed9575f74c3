"""The only file of this app that calls the engine."""

from math import inf
from typing import Any

from hewel_engine.schedule.week import Crew, Machine, Plate, Run, Stop, Week, listed, placed

__all__ = ["Week"]

CHANGE_S = 600.0
"""s of hands for another material."""


def machine_of(key: str, model: str, out: bool) -> Machine:
    return Machine(key, model, change_hands=CHANGE_S, out=((0.0, inf),) if out else ())


def plate_of(key: str, row: dict, model: str, material: str, due: float | None, weight: float) -> Plate:
    return Plate(
        key, row["seconds"], model, material, inf if due is None else due, weight,
        tuple(Stop(*stop) for stop in row["stops"]), row["start_s"], row["end_s"],
    )  # fmt: skip


def plan(
    plates: list[Plate], machines: list[Machine], windows: list[list[float]], people: int, now: float,
    pins: dict[str, tuple[str, float]],
) -> tuple[Week, list[str]]:  # fmt: skip
    """The week, and the keys of plates whose pin cannot be kept (its machine is gone or out, or nobody is there).
    ``pins``: of a plate its machine and when hands begin with it.
    """
    crew, there = Crew(tuple((a, b) for a, b in windows), people), {m.key: m for m in machines}
    kept: list[Run] = []
    lost: list[str] = []
    for plate in plates:
        if plate.key in pins:
            machine, at = pins[plate.key]
            run = placed(plate, there[machine], crew, at, kept) if machine in there else None
            if run:
                kept.append(run)
            else:
                lost.append(plate.key)
    return listed(plates, machines, crew, now, kept), lost


def run_out(run: Run) -> dict[str, Any]:
    return {
        "machine": run.machine, "start_s": run.start, "begin_s": run.begin, "end_s": run.end, "free_s": run.free,
        "visits": [{"at_s": v.at, "seconds": v.seconds, "what": v.what} for v in run.visits],
        "late_s": run.late, "why": run.why if run.late > 0 else "",
    }  # fmt: skip
