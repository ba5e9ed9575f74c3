"""What the nozzle really draws of a layer: every line of the perimeters inside the true outline, the slits that they
and the infill leave, and the places where no line fits. Lengths mm, areas mm².
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from manifold3d import CrossSection

from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.plans import grown
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.processes import Process
from hewel_engine.walls.lines import SLIT, SQUEEZED, Comb

CORNER = 0.06
"""mm: what is narrower than this is what a round line leaves in a corner."""
LEAST = 0.05
"""mm² below which a place is no place."""


@dataclass(frozen=True, eq=False)
class Line:
    """A perimeter ``width`` mm wide: ``both``, a region along whose outline it runs with a face on one side, and
    ``alone``, one along which it is the only line between two faces and is gone along once.
    """

    both: CrossSection
    alone: CrossSection
    width: float

    @property
    def middle(self) -> CrossSection:
        return self.both + self.alone


def perimeters(plan: CrossSection, process: Process, moved: Callable = grown) -> tuple[list[Line], CrossSection]:
    """Lines of a layer, outermost first, and the core inside them: the first half a width inside the outline, each
    further one its spacing inside the one before. ``moved``: how outlines are (``grown``, or ``mitred``).
    """
    comb = Comb.of(process)
    inner, overlap = comb.inner, comb.overlap
    lines: list[Line] = []
    at, width, slack = comb.outer / 2, comb.outer, SLIT * inner / 2
    for _ in range(process.perimeters):
        middle = moved(plan, -at)
        alone = moved(plan, -at + slack) - moved(middle, 3 * slack)  # one line between two faces, squeezed a little
        if middle.is_empty() and alone.is_empty():
            return lines, CrossSection()
        lines.append(Line(middle, alone, width))
        at += width / 2 + inner / 2 - overlap
        width = inner
    core = moved(lines[-1].middle, -lines[-1].width / 2 + overlap)
    thin = inner / 2 - 1e-3
    return lines, moved(moved(core, -thin), thin)


@dataclass(frozen=True, eq=False)
class Drawn:
    """``lines`` of the perimeters and the ``core`` inside them; ``slits``: what neither fills; ``bare``: where no line
    fits.
    """

    lines: list[Line]
    core: CrossSection
    slits: CrossSection
    bare: CrossSection


def drawn(plan: CrossSection, process: Process) -> Drawn:
    """All of a layer. Where lines may vary in width they fill what fixed ones leave, down to the least width they are
    laid in.
    """
    comb = Comb.of(process)
    least = comb.outer * (SQUEEZED if process.variable_lines else 1.0)
    bare = _worth(plan - _opened(plan, least / 2 - 1e-3))
    lines, core = perimeters(plan, process)
    done = CrossSection()
    for line in lines:
        half = line.width / 2
        done += (grown(line.both, half) - grown(line.both, -half)) + grown(line.alone, half)
    slits = CrossSection() if process.variable_lines else plan - done - core - grown(bare, comb.outer)
    return Drawn(lines, core, _worth(_opened(slits, SLIT * comb.inner / 2)), bare)


def _opened(plan: CrossSection, by: float) -> CrossSection:
    return grown(grown(plan, -by), by)


def _worth(plan: CrossSection) -> CrossSection:
    kept = [p for p in _opened(plan, CORNER / 2).decompose() if p.area() > LEAST]
    return CrossSection.compose(kept) if kept else CrossSection()


@dataclass(frozen=True, eq=False)
class Layers:
    """(count,) mm² of slits and of bare places of every layer."""

    slits: Array
    bare: Array

    @property
    def worst(self) -> int:
        """Number of the layer with most of both."""
        return int(np.argmax(self.slits + self.bare))

    def as_dict(self) -> dict:
        return {
            "slit_mm2": self.slits.tolist(),
            "bare_mm2": self.bare.tolist(),
            "worst_layer": self.worst,
        }


def layers_drawn(stack: LayerStack, process: Process) -> Layers:
    slits, bare = np.zeros(stack.count), np.zeros(stack.count)
    for k in range(stack.count):
        if k and stack.plan(k) is stack.plan(k - 1):
            slits[k], bare[k] = slits[k - 1], bare[k - 1]
            continue
        made = drawn(stack.plan(k), process)
        slits[k], bare[k] = made.slits.area(), made.bare.area()
    return Layers(slits, bare)
