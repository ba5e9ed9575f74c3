"""The farm's week: the list, the repair after a machine is out, and what the solver makes of it. No library does the
same; marks stand in the rows.
"""

from collections.abc import Callable
from dataclasses import replace

from hewel_engine.schedule.repair import Told, repaired
from hewel_engine.schedule.solver import improved
from hewel_engine.schedule.week import Crew, Machine, Plate, Stop, listed

H, DAY = 3600.0, 86_400.0
WORK = 6.0
"""s of work of the solver."""


def the_farm() -> tuple[list[Plate], list[Machine], Crew]:
    """50 plates, 12 machines of one model, one person by day."""
    plates = [
        Plate(
            f"plate {i:02}", (3 + (i * 7) % 11) * H, "Weir", due=(1 + (i * 5) % 4) * DAY, weight=1 + 4 * (i % 9 == 0),
            stops=(Stop(2 * H, 300.0),) if i % 5 == 0 else (),
        )
        for i in range(50)
    ]  # fmt: skip
    crew = Crew(tuple((d * DAY + 8 * H, d * DAY + 17 * H) for d in range(30)))
    return plates, [Machine(f"weir {n:02}", "Weir") for n in range(12)], crew


def bench_week(row: Callable, cost: Callable) -> list[dict]:
    plates, machines, crew = the_farm()
    cpu, wall, first = cost(lambda: listed(plates, machines, crew))
    out = [row("week of 50 plates on 12 machines, listed (mark 50 ms)", cpu, wall)]
    told = {r.plate.key: Told(r.machine, tuple(r.moments)) for r in first.runs}
    broken = [replace(m, out=((9 * H, 3 * DAY),)) if m.key == "weir 03" else m for m in machines]
    begun = [r for r in first.runs if r.start <= 9 * H and r.machine != "weir 03"]
    cpu, wall, _ = cost(lambda: repaired(plates, broken, crew, 9 * H, begun, told))
    out.append(row("the same repaired after a machine is out (mark 50 ms)", cpu, wall))
    cpu, wall, found = cost(lambda: improved(first, machines, crew, 0.0, (), WORK), 1)
    late, better, bound = (s / H for s in (first.lateness, found.week.lateness, found.bound))
    words = f"the same searched: {late:.0f} h late listed, {better:.0f} h found, {bound:.0f} h at least"
    return [*out, row(words, cpu, wall)]
