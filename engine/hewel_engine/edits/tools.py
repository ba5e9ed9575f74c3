"""What a remedy does to a solid: what it adds, what it takes away, and in which numbers that is said."""

from dataclasses import dataclass, field

from manifold3d import Manifold

from hewel_engine.processes import Process


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

    def on(self, solid: Manifold) -> Manifold:
        return (solid - self.remove) + self.add


def skin(process: Process) -> float:
    """mm of wall that an edit leaves at least: two lines."""
    return 2 * process.width


def whole_layers(height: float, layer: float, up: bool) -> float:
    """The layer plane at or above (else at or below) ``height`` mm over the plate."""
    steps = height / layer
    n = -(-(steps - 1e-6) // 1) if up else (steps + 1e-6) // 1
    return float(n * layer)
