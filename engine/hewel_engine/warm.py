"""Compiles every kernel once, so that nobody ever waits for it (``python -m hewel_engine.warm``); and loads what is
compiled, for a process that others are forked from.
"""

import numpy as np

from hewel_engine.geometry.mending import mended
from hewel_engine.geometry.patches import find_faces
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.loads.cases import read_loads
from hewel_engine.loads.regions import catch
from hewel_engine.orientation.needs import needs_columns
from hewel_engine.orientation.study import study
from hewel_engine.orientation.sweep import facet_sums
from hewel_engine.overhangs.duties import Needs
from hewel_engine.overhangs.layers import hanging
from hewel_engine.overhangs.support import beyond_limit
from hewel_engine.parts.facts import facts_of
from hewel_engine.plates.nesting import Plate, Rule, arranged
from hewel_engine.plates.outlines import outline_of
from hewel_engine.prepared.moves import read_moves
from hewel_engine.prepared.planning import planned
from hewel_engine.printing.paths import layer_paths
from hewel_engine.printing.weld import Layers, Weld, bonds, least_wait
from hewel_engine.processes import Process
from hewel_engine.strength.reserves import field
from hewel_engine.strength.stressing import stressed
from hewel_engine.walls.balls import Tree
from hewel_engine.walls.thickness import thickness_of


def warm() -> None:
    """Runs a whole study on a small wedge; the compiled code lands in numba's cache folder."""
    points = np.array([[0, 0, 0], [20, 0, 0], [0, 20, 0], [0, 0, 20.0]])
    solid, _ = mended(points[[[0, 2, 1], [0, 1, 3], [1, 2, 3], [0, 3, 2]]])
    facts = facts_of(solid)
    study(facts, Process(layer=1.0))
    everything = catch(solid, None, {"box": [[0, 0, 0], [20, 20, 20]]})
    thickness_of(solid)
    needs_columns(solid, Needs([everything]), np.eye(3), 45.0)
    _warm_strength()
    _warm_plates(solid)


def _warm_plates(solid) -> None:
    """Copies beside each other, the weld between their layers, and a file as it goes to a machine."""
    outline = outline_of(solid, np.array([0.0, 0.0, 1.0]))
    arranged(outline, Plate((60.0, 60.0)), Rule(3.0), None, budget=0.1)
    one = np.ones(1)
    weld = Weld.of(Process().stock)
    bonds(one, Layers(one, one, one, 0.2), weld)
    least_wait(Layers(one, one, one, 0.2), weld)
    planned(read_moves(b"G21\nG90\nM83\nG28\nG1 Z0.2 F600\nG1 X10 E1\n")[0], 1000.0, 1.75)


def load() -> None:
    """Loads what is compiled, in a second or two. It casts no ray and unites no solid: the libraries for those start
    threads of their own, and a process with threads is no good to fork from.
    """
    solid, _ = mended(_block(30.0, 30.0, 10.0))
    process, ups = Process(layer=1.0), np.eye(3)
    facet_sums(solid, ups, process.limit)
    find_faces(solid)
    stack = LayerStack(solid, ups[2], process.layer)
    layer_paths(stack, process)
    hanging(stack, process, beyond_limit(solid, ups[2], process.limit))
    Tree.of(solid).shrink(np.ones(len(solid.faces)), np.zeros(len(solid.faces), int))
    _warm_strength(voxel_count=300)


def _warm_strength(voxel_count: int = 4000) -> None:
    """A thin sheet and a block: the two kinds of coarse lattices, in single and in double precision."""
    for sides in ((30.0, 30.0, 1.0), (12.0, 12.0, 12.0)):
        solid, _ = mended(_block(*sides))
        base = {"on": {"plane": {"point": [0, 0, 0], "normal": [-1, 0, 0]}}}
        pull = {"on": {"plane": {"point": [sides[0], 0, 0], "normal": [1, 0, 0]}}, "force_n": [1, 0, 1]}
        loads = read_loads({"fixed": [base], "cases": [{"name": "pull", "loads": [pull]}]})
        for up in (None, np.array([0, 0, 1.0])):
            found = stressed(solid, None, loads, Process(layer=1.0), voxel_count=voxel_count, up=up)
        field(found, Process().stock, np.eye(3))


def _block(x: float, y: float, z: float) -> np.ndarray:
    """(12, 3, 3) triangles of a box with a corner in the origin."""
    points = np.array([[a, b, c] for c in (0, z) for b in (0, y) for a in (0, x)], float)
    quads = [[0, 2, 3, 1], [4, 5, 7, 6], [0, 1, 5, 4], [2, 6, 7, 3], [0, 4, 6, 2], [1, 3, 7, 5]]
    return points[[t for a, b, c, d in quads for t in ([a, b, c], [a, c, d])]]


if __name__ == "__main__":
    warm()
