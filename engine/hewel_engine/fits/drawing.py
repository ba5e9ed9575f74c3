"""Faces drawn for their fits, each as a whole or not at all."""

from collections.abc import Callable

import numpy as np

from hewel_engine.advice.adapting import Adapted, reworked
from hewel_engine.advice.bounds import Bounds
from hewel_engine.geometry.features import Bore
from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.processes import Process

Watch = Callable[[str, int, int], None]


def drawn(
    mesh: Mesh, up: Array, process: Process, bores: list[Bore], wanted: dict[str, list[dict]],
    protected: np.ndarray | None = None, bounds: Bounds | None = None,
    watch: Watch = lambda what, done, total: None,
) -> tuple[Adapted, dict[str, str]]:  # fmt: skip
    """The part with the steps of every face that is ``wanted``, by its name; and why a face was not drawn. One of which
    a step cannot be done keeps none: a gap with one wall moved has no size that anybody meant. Raises InputError
    ``not_closed``.
    """
    refused: dict[str, str] = {}
    while True:
        of = {id(step): name for name, steps in wanted.items() if name not in refused for step in steps}
        steps = [step for name, own in wanted.items() if name not in refused for step in own]
        came = reworked(mesh, up, process, bores, steps, protected, watch=watch, bounds=bounds)
        fresh: dict[str, str] = {}
        for step, why in came.unfit:
            fresh.setdefault(of[id(step)], why)
        refused |= fresh
        if all(len(wanted[name]) == sum(of[id(s)] == name for s, _ in came.unfit) for name in fresh):
            return came, refused
