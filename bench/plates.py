"""Copies on a plate against boxes side by side and the bound by area; prepared files against their marks."""

from collections.abc import Callable

import numpy as np
import shapely

from demo.river_station import sluice_handwheel, solid_mesh
from hewel_engine.geometry.patches import find_faces
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.loads.cases import read_loads
from hewel_engine.plates.curve import MODES, Bed, batches, laid, points_of
from hewel_engine.plates.nesting import Plate, Rule, arranged
from hewel_engine.plates.proof import breaches
from hewel_engine.plates.turns import Head
from hewel_engine.prepared.moves import read_moves
from hewel_engine.prepared.planning import planned
from hewel_engine.printing.weld import Weld
from hewel_engine.processes import Process
from hewel_engine.strength.allowables import Circumstances, knock_downs
from hewel_engine.strength.batches import reserves_by_weld
from hewel_engine.strength.reserves import sectioned
from hewel_engine.strength.serialization import serialized, unpacked
from hewel_engine.strength.stressing import COARSE, stressed

BED, GAP = (250.0, 210.0), 3.0
MARK = 1.15
"""Copies over those of boxes side by side."""
EARLY = 3.0
MOVES = 3_400_000


def outlines() -> dict[str, shapely.Polygon]:
    turn = np.radians(np.linspace(0, 200, 50))
    rim = np.c_[np.cos(turn), np.sin(turn)]
    polygon = shapely.Polygon
    return {
        "angle": polygon([(0, 0), (60, 0), (60, 15), (15, 15), (15, 40), (0, 40)]),
        "arc of 200°": polygon(np.r_[28 * rim, (18 * rim)[::-1]]),
        "hook": polygon([(0, 0), (40, 0), (40, 30), (28, 30), (28, 12), (12, 12), (12, 50), (0, 50)]),
        "tee": polygon([(0, 0), (50, 0), (50, 12), (31, 12), (31, 45), (19, 45), (19, 12), (0, 12)]),
        "irregular with a hole": polygon(
            [(0, 0), (35, -5), (55, 20), (40, 45), (10, 40), (18, 22)], [[(30, 10), (38, 15), (33, 28), (26, 20)]]
        ),
        "disc": shapely.Point(0, 0).buffer(15, 16),
    }


def side_by_side(outline: shapely.Polygon) -> int:
    """Copies of the box round an outline, the better of two turns."""
    x0, y0, x1, y1 = outline.bounds
    rows = lambda w, h: int((BED[0] + GAP) // (w + GAP)) * int((BED[1] + GAP) // (h + GAP))
    return max(rows(x1 - x0, y1 - y0), rows(y1 - y0, x1 - x0))


def bench_plates(row: Callable, cost: Callable) -> list[dict]:
    out = []
    for name, outline in outlines().items():
        plate, rule = Plate(BED), Rule(GAP)
        cpu, wall, items = cost(lambda o=outline, p=plate, r=rule: arranged(o, p, r, None), 1)
        if breaches(outline, items, plate, GAP):
            raise SystemExit(f"The plate of the {name} is not clear; its figures say nothing.")
        early = arranged(outline, plate, rule, None, EARLY)
        most = int((BED[0] + GAP) * (BED[1] + GAP) / outline.buffer(GAP / 2).area)
        share = 100 * len(early) / len(items)
        told = row(
            f"{name}: {len(items)} copies, {most} by area; {share:.0f} % after {EARLY:g} s (mark 95)",
            cpu,
            wall,
            None,
            "boxes side by side",
            MARK,
            0.0,
        )
        out.append(told | {"ratio": len(items) / side_by_side(outline)})
    return out


def prepared_file() -> bytes:
    """About 100 MB of short lines, as of a large plate."""
    rng = np.random.default_rng(1)
    xy = np.cumsum(rng.normal(0, 1, (MOVES, 2)), axis=0) % 200
    lines = ["G21\nG90\nM83\nG28\n"]
    for k, (x, y) in enumerate(xy.tolist()):
        if k % 5000 == 0:
            lines.append(f"G1 Z{0.2 * (k // 5000 + 1):.2f} F3000\n")
        lines.append(f"G1 X{x:.3f} Y{y:.3f} E0.04321\n")
    return "".join(lines).encode()


def bench_curve(row: Callable, cost: Callable) -> list[dict]:
    """Every number of copies in both modes, of a wheel of some 20,000 facets whose strength is known."""
    mesh = solid_mesh(sluice_handwheel())
    process, up = Process(), np.array([0.0, 0.0, 1.0])
    rim = {"box": [[40, -70, -20], [70, 70, 20]]}
    given = {
        "fixed": [{"on": {"box": [[-6, -6, -30], [6, 6, 30]]}}],
        "cases": [{"name": "turned", "loads": [{"on": rim, "force_n": [0, 60, 0]}]}],
    }
    found = stressed(mesh, find_faces(mesh), read_loads(given, len(mesh.faces)), process, Circumstances(), COARSE, up)
    told = serialized(found, process, sectioned(mesh, up, process), [], [])
    case, lines = unpacked(told["cases"][0]["felt"]), knock_downs(process.stock, "static", None, Circumstances())
    bed = Bed(Plate((300.0, 300.0), 3.0), 320.0, Head())

    def answered() -> int:
        stack = LayerStack(mesh, up, process.layer)
        made = laid(mesh, stack, process, Weld.of(process.stock), (), bed, FIRST_S)
        for mode in MODES:
            every = batches(made, process, mode, points_of(len(made.items[mode])))
            reserves_by_weld(
                [case], process.stock, [lines], 1.5, up, told["plate_mm"], process.layer, every.weld, every.weld_low
            )
        return sum(len(made.items[m]) for m in MODES)

    cpu, wall, _ = cost(answered, 2)
    return [row(f"batch curve, both modes, of {len(mesh.faces)} facets (mark 5 s)", cpu, wall)]


FIRST_S = 0.7
"""s of filling a plate before the first curve, as the product has it."""


def bench_prepared(row: Callable, cost: Callable) -> list[dict]:
    data = prepared_file()
    size = len(data) / 1e6
    read, wall, (moves, _) = cost(lambda: read_moves(data), 1)
    plan, plan_wall, _ = cost(lambda: planned(moves, 3000.0, 1.75), 1)
    return [
        row(f"a prepared file of {size:.0f} MB read (mark 2 s)", read, wall),
        row(f"its {len(moves.kind)} moves planned (mark 9 s)", plan, plan_wall),
    ]
