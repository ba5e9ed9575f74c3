"""Thicknesses in whole lines: what the nozzle can fill without a slit. Lengths mm."""

from dataclasses import dataclass

import numpy as np

from hewel_engine.geometry.mesh import Array
from hewel_engine.processes import Process

KINDS = ("vanishing", "single_line", "gap", "sound", "heavy")
FILLED = ("sound", "heavy")
"""Kinds that lines or infill fill; the others are wrong."""
SLIT = 0.1
"""Share of a line by which a wall may miss a whole number of lines: lines spread, or are squeezed, by that much."""
SQUEEZED = 0.6
"""Least share of its width that a line of variable width may be laid in."""
USUAL = 2.0
"""mm: rounded to whole lines, a wall that serves most enclosures and holders."""


@dataclass(frozen=True)
class Comb:
    """The widths that whole lines make under a process.

    Two outer lines and inner ones between them: t_n = 2·w_o + (n − 2)·w_i − (n − 1)·h(1 − π/4), the overlap of
    neighbours; without the overlap by the plain rule, n nozzle diameters by the nozzle's. t_1 = w_o.
    Up to twice the perimeters a wall is lines alone; past one line more there is room for infill.
    """

    outer: float
    inner: float
    overlap: float
    perimeters: int
    variable: bool

    @classmethod
    def of(cls, process: Process) -> "Comb":
        outer, inner = process.width, process.inner_width
        if process.rule == "nozzle":
            outer = inner = process.nozzle
        return cls(outer, inner, process.overlap, process.perimeters, process.variable_lines)

    def width(self, lines: int) -> float:
        """mm of a wall of ``lines`` lines."""
        if lines == 1:
            return self.outer
        return 2 * self.outer + (lines - 2) * self.inner - (lines - 1) * self.overlap

    @property
    def most(self) -> int:
        """Lines of the thickest wall that is lines alone."""
        return 2 * self.perimeters

    @property
    def widths(self) -> Array:
        """(most,) mm of one, two … lines."""
        return np.array([self.width(n) for n in range(1, self.most + 1)])

    @property
    def heavy(self) -> float:
        """mm from which on a wall's middle is sparse infill."""
        return self.width(self.most) + self.inner

    @property
    def least(self) -> float:
        """mm below which no line is drawn."""
        return (SQUEEZED if self.variable else 1.0) * self.outer

    @property
    def gaps(self) -> list[tuple[float, float]]:
        """(from, to) mm of the bands in which a slit is left."""
        if self.variable:
            return []
        slit, whole = SLIT * self.inner, self.widths[1:]
        ends = zip(whole, [*whole[1:], self.heavy + slit], strict=True)
        return [(float(a + slit), float(b - slit)) for a, b in ends if b - a > 2 * slit]

    @property
    def double(self) -> float:
        """mm from which on two lines, one for each face, find room."""
        return 2 * SQUEEZED * self.outer if self.variable else self.width(2) - SLIT * self.inner

    def kinds(self, thickness: Array) -> np.ndarray:
        """(n,) number in KINDS of each thickness (n,) mm."""
        t = np.asarray(thickness, float)
        kind = np.full(t.shape, KINDS.index("sound"))
        for low, high in self.gaps:
            kind[(t > low) & (t < high)] = KINDS.index("gap")
        kind[t >= self.heavy] = KINDS.index("heavy")
        kind[t < self.double] = KINDS.index("single_line")
        kind[t < self.least - 1e-9] = KINDS.index("vanishing")
        return kind

    def nearest(self, thickness: float) -> tuple[float, float]:
        """The good widths (mm) at or below and at or above a thickness; two lines are the least."""
        good = self.good
        down = max((w for w in good if w <= thickness + 1e-9), default=good[0])
        up = min((w for w in good if w >= thickness - 1e-9), default=good[-1])
        return float(down), float(up)

    @property
    def good(self) -> Array:
        """mm: whole numbers of lines from two on."""
        return np.array([self.width(n) for n in range(2, max(self.most, 2) + 1)])

    def advised(self, kind: str, thickness: float) -> float:
        """mm that a wall of this kind and thickness is best made."""
        if kind == "sound":
            return thickness
        if kind == "heavy":
            return float(min(self.good, key=lambda w: abs(w - USUAL)))
        down, up = self.nearest(thickness)
        return up if up - thickness <= thickness - down or kind != "gap" else down


LYING = 0.94
"""Cosine between a wall's faces and the build direction from which on the wall lies on its face: within 20°."""


@dataclass(frozen=True)
class Plates:
    """Thicknesses of plates that lie on their face: they are built of whole layers, and lines say nothing of them.
    The outer ``solid`` layers on each side are laid dense; what is thicker has sparse infill between them.
    """

    up: Array
    """(3,) build direction."""
    layer: float
    solid: int

    @classmethod
    def of(cls, process: Process, up: Array) -> "Plates":
        return cls(np.asarray(up, float), process.layer, process.top_bottom)

    def lie(self, normals: Array) -> np.ndarray:
        """(n,) whether faces with these normals (n, 3) are those of a plate that lies."""
        return np.abs(normals @ self.up) > LYING

    @property
    def heavy(self) -> float:
        """mm from which on the middle is sparse infill: one layer more than the dense ones of both sides."""
        return (2 * self.solid + 1) * self.layer

    def layers(self, thickness: float) -> int:
        """Layers that are laid of a plate."""
        return max(1, round(thickness / self.layer))

    def kinds(self, thickness: Array) -> np.ndarray:
        """(n,) number in KINDS of each thickness (n,) mm. Less than half a layer may be missed between two."""
        t = np.asarray(thickness, float)
        kind = np.full(t.shape, KINDS.index("sound"))
        kind[t >= self.heavy] = KINDS.index("heavy")
        kind[t < self.layer / 2] = KINDS.index("vanishing")
        return kind

    def advised(self, kind: str, thickness: float) -> float:
        """mm that a plate of this kind and thickness is best made: whole layers, dense where it is a usual wall."""
        if kind == "vanishing":
            return 2 * self.layer
        usual = self.layer * round(min(USUAL, 2 * self.solid * self.layer) / self.layer)
        return usual if kind == "heavy" and thickness > USUAL + self.layer else thickness


def whole_lines(size: float, comb: Comb, least: int = 2) -> float:
    """mm of the fewest whole lines, ``least`` of them at least, that are as thick as ``size``."""
    lines = least
    while comb.width(lines) < size - 1e-9:
        lines += 1
    return comb.width(lines)
