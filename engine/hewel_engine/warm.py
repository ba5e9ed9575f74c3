"""Compiles every kernel once, so that nobody ever waits for it: ``python -m hewel_engine.warm``."""

import numpy as np

from hewel_engine.geometry.mending import mended
from hewel_engine.loads.regions import catch
from hewel_engine.orientation.needs import needs_columns
from hewel_engine.orientation.study import study
from hewel_engine.overhangs.duties import Needs
from hewel_engine.parts.facts import facts_of
from hewel_engine.processes import Process


def warm() -> None:
    """Runs a whole study on a small wedge; the compiled code lands in numba's cache folder."""
    points = np.array([[0, 0, 0], [20, 0, 0], [0, 20, 0], [0, 0, 20.0]])
    solid, _ = mended(points[[[0, 2, 1], [0, 1, 3], [1, 2, 3], [0, 3, 2]]])
    facts = facts_of(solid)
    study(facts, Process(layer=1.0))
    everything = catch(solid, None, {"box": [[0, 0, 0], [20, 20, 20]]})
    needs_columns(solid, Needs([everything]), np.eye(3), 45.0)


if __name__ == "__main__":
    warm()
