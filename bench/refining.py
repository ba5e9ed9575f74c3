"""What a least reserve on few cubes becomes once its worst places are read closely: where the bands come from."""

import time
from collections.abc import Callable

import numpy as np

from bench.bodies import bodies
from hewel_engine.advice.costs import least_of
from hewel_engine.loads.cases import read_loads
from hewel_engine.processes import Process
from hewel_engine.strength.reserves import BANDS, band_of
from hewel_engine.strength.stressing import CLOSER, COARSE, FINE, bare, stressed
from hewel_engine.strength.submodels import looked_closely

UP = np.array([0.0, 0.0, 1.0])


def bench_refining(row: Callable) -> list[dict]:
    """Prints every body's reserve grid by grid; one row for each grid, with the least, middle and most that its reserve
    became, and how many bodies lie outside its band.
    """
    process, spent = Process(), {}
    became: dict[int, list[float]] = {voxel_count: [] for voxel_count in (COARSE, CLOSER, FINE)}
    for body in bodies():
        loads, had = bare(read_loads(body.loads, len(body.mesh.faces))), {}
        for voxel_count in became:
            started = time.process_time()
            found = stressed(body.mesh, None, loads, process, voxel_count=voxel_count)
            had[voxel_count] = least_of(found, process, UP)
            spent[voxel_count] = spent.get(voxel_count, 0.0) + time.process_time() - started
        last = least_of(looked_closely(found, body.mesh, None, loads, process, [UP], []), process, UP)
        for voxel_count, value in had.items():
            became[voxel_count].append(last / value)
        result = ", ".join(f"{value:.3g} on {voxel_count}" for voxel_count, value in had.items())
        print(f"  {body.name:18} reserve {result}; {last:.3g} closely", flush=True)
    rows = []
    for voxel_count, shares in became.items():
        low, high = band_of(voxel_count, None)
        out = sum(not low <= share <= high for share in shares)
        title = (
            f"reserve on {voxel_count} cubes becomes × {min(shares):.2f} … {np.median(shares):.2f} … {max(shares):.2f}"
        )
        rows.append(row(f"{title}, {out} of {len(shares)} outside the band", spent[voxel_count], spent[voxel_count]))
    assert len(rows) == len(BANDS)
    return rows
