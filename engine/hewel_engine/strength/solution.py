"""Solving a model: all cases on one set-up, faces that can only push let go where they would have to pull."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from queue import SimpleQueue

import numpy as np

from hewel_engine.errors import InputError
from hewel_engine.geometry.mesh import Array
from hewel_engine.strength.bricks import MIDDLE
from hewel_engine.strength.model import Loading, Model
from hewel_engine.strength.multigrid import Cycle, solved

ACCURACY = 1e-6
AT_ONCE = 2
"""Cases solved beside each other: a task has two cores."""
LET_GO = 12
"""Rounds of letting go and taking up again before a pressed face is called undecided."""
FAR = 0.2
"""A displacement beyond this share of the part's size is no answer but a motion that nothing holds."""

Watch = Callable[[str, float], None]
"""Told what is being done and which share of the whole is done; may raise to stop."""


@dataclass(frozen=True, eq=False)
class Answered:
    """One case: ``displacement`` (n, 3) mm at the nodes, ``answers`` (k, 3) N of the footing's points."""

    loading: Loading
    displacement: Array
    answers: Array
    rounds: int


def quiet(what: str, share: float) -> None:
    pass


def part_of(watch: Watch, done: int, total: int, words: str = "") -> Watch:
    """A watch for one of ``total`` equal parts, ``done`` of which lie behind; ``words`` in place of the part's own."""
    return lambda what, share: watch(words or what, (done + share) / max(total, 1))


def solve(model: Model, watch: Watch = quiet, accuracy: float = ACCURACY) -> list[Answered]:
    """Every case, AT_ONCE at a time on one set-up. Raises ``bad_loads`` where a case has no equilibrium."""
    watch("setting up", 0.0)
    whole = model.bricks()
    cycle = Cycle(whole)
    count = len(model.loadings)
    room: SimpleQueue[Cycle] = SimpleQueue()
    for spare in [cycle, *(cycle.another() for _ in range(min(AT_ONCE, count) - 1))]:
        room.put(spare)
    shares = [0.0] * count

    def one(i: int) -> Answered:
        def result(what: str, share: float) -> None:
            shares[i] = share
            watch(what, sum(shares) / count)

        mine = room.get()
        try:
            return _case(model, whole, mine, model.loadings[i], result, accuracy)
        finally:
            room.put(mine)

    with ThreadPoolExecutor(max(1, min(AT_ONCE, count))) as pool:
        return list(pool.map(one, range(count)))


def _case(model: Model, whole, cycle: Cycle, loading: Loading, watch: Watch, accuracy: float) -> Answered:
    force = loading.nodal / model.force_unit
    if model.free:
        force = model.free.unpushed(force)
    goal = np.log(1 / accuracy)

    def result(rounds: int, residual: float) -> None:
        watch(loading.case.name, float(np.clip(np.log(1 / max(residual, 1e-300)) / goal, 0, 1)))

    found = solved(whole, cycle, force, accuracy=accuracy, watch=result)
    rounds, working = found.rounds, np.ones(len(model.footing.areas), bool)
    if model.footing.pressed.any():
        for _ in range(LET_GO):
            outward = (model.footing.ties.at(model.lattice, found.displacement) * model.footing.normals).sum(axis=1)
            now = ~model.footing.pressed | (outward > 0)
            if (now == working).all():
                break
            working = now
            found = solved(model.bricks(working), cycle, force, found.displacement, accuracy, watch=result)
            rounds += found.rounds
    if _runs_away(model, found):
        raise InputError(
            "bad_loads",
            f"“{loading.case.name}” finds no rest: the part moves, or lifts off, without anything to hold it.",
            "Hold another face, or hold this one otherwise.",
        )
    if found.residual > 100 * accuracy:
        raise InputError(
            "not_settled",
            f"“{loading.case.name}”: the sum does not settle; walls are far thinner than the voxels of it.",
            "Check a shorter piece of the part, or thicken its walls.",
        )
    moved = model.free.at_rest(found.displacement) if model.free else found.displacement
    return Answered(loading, moved * model.grid.size, model.answers(moved, working), rounds)


def _runs_away(model: Model, found) -> bool:
    """Whether the part moves as a whole, far, and far more than it deforms. A window goes where its part goes."""
    most = np.abs(found.displacement).max()
    if model.driven or most < FAR * max(model.grid.shape):
        return False
    return bool(np.abs(strains(model, found.displacement)).max() * max(model.grid.shape) < 1e-3 * most)


def strains(model: Model, displacement: Array) -> Array:
    """(m, 6) strains at the middle of every cell, for displacements (n, 3) in voxels."""
    out = np.zeros((len(model.lattice), 6))
    for a in range(8):
        out += displacement[model.lattice.corners[:, a]] @ MIDDLE[:, 3 * a : 3 * a + 3].T
    return out


def stresses(model: Model, answered: Answered) -> Array:
    """(m, 6) MPa at the middle of every cell, as solid material has it at that strain."""
    return model.modulus * strains(model, answered.displacement / model.grid.size) @ model.law.T
