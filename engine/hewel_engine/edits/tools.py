"""What a remedy does to a solid: what it adds, what it takes away, and in which numbers that is said."""

from dataclasses import dataclass, field

import numpy as np
from manifold3d import Manifold

from hewel_engine.edits.exact import Edit, Shape, flats_of
from hewel_engine.geometry.mesh import Array
from hewel_engine.processes import Process, layers_below


class Impossible(Exception):
    """A remedy that does not fit here; says why in words that an engineer can use."""


@dataclass(frozen=True, eq=False)
class Tool:
    """``add`` and ``remove`` in the frame of the standing part; ``numbers`` mm and degrees; ``words`` for whoever owns
    the CAD model: what to do, with its dimensions.
    """

    key: str
    words: str
    numbers: dict[str, float]
    add: Manifold = field(default_factory=Manifold)
    remove: Manifold = field(default_factory=Manifold)
    used: dict[str, float] = field(default_factory=dict)
    """The values that its parameters had, see ``edits.parameters``."""
    embeds: Manifold = field(default_factory=Manifold)
    """What is dropped in while it is printed: the layers above lie on it."""
    adds: list[Shape] | None = None
    removes: list[Shape] | None = None
    """What is added and taken away on an exact solid, where that is not the same."""
    round_: bool = False
    """Whether it moves a round face, of which it only knows the facets."""

    def on(self, solid: Manifold) -> Manifold:
        return (solid - self.remove) + self.add

    def exactly(self, gained: float) -> Edit:
        """The same for an exact solid, which gains ``gained`` mm³ by it."""
        return Edit(
            self.key.replace("_", " "),
            gained,
            removes=flats_of(self.remove) if self.removes is None else self.removes,
            adds=flats_of(self.add) if self.adds is None else self.adds,
            round_=self.round_,
        )


FACETED = 240
"""Facets from which on a body is a round one, of which only they are known."""


def faceted(*bodies: Manifold) -> bool:
    """Whether what a tool adds and takes away follows round faces."""
    return sum(body.num_tri() for body in bodies) > FACETED


def skin(process: Process) -> float:
    """mm of wall that an edit leaves at least: two lines."""
    return 2 * process.width


WALL_KEPT = 0.5
"""Share of a wall's thickness that a gentle remedy leaves of it."""


def kept(wall: float | Array, share: float, process: Process) -> float | Array:
    """mm that are left of a wall so thick: ``share`` of it, a skin at least."""
    return np.maximum(share * np.where(np.isfinite(wall), wall, 0.0), skin(process))


def plane_below(height: float, layer: float) -> float:
    """The layer plane at or below ``height`` mm over the plate."""
    return float((height / layer + 1e-6) // 1 * layer)


def drawn(height: float, layer: float) -> float:
    """The layer plane at which a level face at ``height`` is printed."""
    return layers_below(height, layer) * layer
