"""Advice on twenty-five bodies it was not written for: what it leaves hanging, and what it costs them."""

import time
from collections.abc import Callable

import numpy as np

from bench.bodies import Body, bodies
from hewel_engine.advice.adapting import Adapted, adapted
from hewel_engine.advice.bounds import Bounds
from hewel_engine.advice.costs import Holds
from hewel_engine.advice.outs import in_pieces
from hewel_engine.edits.remedies import BY_KEY
from hewel_engine.fits.numbers import usual_gap
from hewel_engine.geometry.features import find_bores
from hewel_engine.loads.cases import read_loads
from hewel_engine.processes import Process
from hewel_engine.spaces.likely import likely_spaces
from hewel_engine.strength.stressing import CLOSER, COARSE, bare, stressed

UP = np.array([0.0, 0.0, 1.0])
GONE, KEPT = 0.95, 0.9
"""Share of the area wanting support that is to go, and of a body's reserve that is to stay."""
GRAZED = 1.0
"""mm³ of a used space that are rounding."""


def bench_advice(row: Callable) -> list[dict]:
    """Prints what becomes of each body; one row with the shares that went by remedies, and by pieces where they left
    something.
    """
    process, spent = Process(), time.process_time()
    wanted = left = whole = 0.0
    causes: dict[str, float] = {}
    for body in bodies():
        found, holds = _adapted(body, process)
        before, after = found.before.truth.needing_area, found.after.truth.needing_area
        fit = usual_gap("location", process)
        cut = in_pieces(body.mesh, found, UP, process, fit, 2) if after else None
        wanted, left, whole = wanted + before, left + (0.0 if cut else after), whole + after
        for region in found.left if not cut else ():
            causes[region.region.kind] = causes.get(region.region.kind, 0.0) + region.region.area
        had, has = holds.compared(found.mesh, UP)
        print(
            f"  {body.name:18} {before:7.0f} → {after:6.0f} mm²{' in two pieces' if cut else '':14} changed "
            f"{100 * found.changed:4.1f} %, reserve {had:6.2f} → {has:6.2f}{'' if has >= KEPT * had else ' LOST'}"
            f"{', FILLED' if _filled(body, found) else ''}: {', '.join(a.tool.key for a in found.applied)}",
            flush=True,
        )
    gone = 1 - left / wanted
    title = f"advice on 25 bodies: {100 * (1 - whole / wanted):.0f} % gone by remedies, {100 * gone:.0f} % with pieces"
    title += f" (mark {100 * GONE:.0f}); left by kind, mm²: "
    title += ", ".join(f"{k} {v:.0f}" for k, v in causes.items()) or "none"
    spent = time.process_time() - spent
    return [row(title, spent, spent)]


def _adapted(body: Body, process: Process) -> tuple[Adapted, Holds]:
    mesh = body.mesh
    loads, bores = bare(read_loads(body.loads, len(mesh.faces))), find_bores(mesh)
    on = lambda voxel_count: lambda part, like: stressed(part, None, loads, process, voxel_count=voxel_count, like=like)
    holds = Holds(mesh, process, on(COARSE), on(CLOSER))
    bounds = Bounds(spaces=tuple(likely_spaces(mesh, bores)), holds=holds)
    return adapted(mesh, UP, process, bores, bounds=bounds), holds


def _filled(body: Body, found: Adapted) -> bool:
    """Whether what stays of the remedies fills a space that is used."""
    shift = found.before.mesh.box[0] - body.mesh.box[0]
    spaces = [s.translate(tuple(shift)) for s in body.used]
    stays = [a.tool.add - found.before.solid for a in found.applied if not BY_KEY[a.tool.key].removed]
    return any((tool ^ space).volume() > GRAZED for tool in stays for space in spaces)
