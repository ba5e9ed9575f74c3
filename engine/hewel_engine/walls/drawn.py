"""What the nozzle really draws of a layer: every line of the perimeters inside the true outline, the slits that they
and the infill leave, and the places where no line fits. Lengths mm, areas mm².
"""

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
class Drawn:
    """``lines``: the middles of the lines, outermost first, each a region whose outline they run along; ``alone``: of
    each the part that is one line between two faces, gone along once. ``slits``: what neither lines nor infill fill.
    ``bare``: where no line fits.
    """

    lines: list[CrossSection]
    alone: list[CrossSection]
    slits: CrossSection
    bare: CrossSection
    core: CrossSection


def drawn(plan: CrossSection, process: Process) -> Drawn:
    """Lines of a layer: the first half a width inside the outline, each further one its spacing inside the one before.
    Where lines may vary in width they fill what fixed ones leave, down to the least width they are laid in.
    """
    comb = Comb.of(process)
    outer, inner, overlap = comb.outer, comb.inner, comb.overlap
    least = outer * (SQUEEZED if process.variable_lines else 1.0)
    bare = _worth(plan - _opened(plan, least / 2 - 1e-3))
    lines: list[CrossSection] = []
    alones: list[CrossSection] = []
    done = CrossSection()
    at, width, slack = outer / 2, outer, SLIT * inner / 2
    for _ in range(process.perimeters):
        middle = grown(plan, -at)
        alone = grown(plan, -at + slack) - grown(middle, 3 * slack)  # one line between two faces, squeezed a little
        if middle.is_empty() and alone.is_empty():
            break
        lines.append(middle + alone)
        alones.append(alone)
        done += (grown(middle, width / 2) - grown(middle, -width / 2)) + grown(alone, width / 2)
        at += width / 2 + inner / 2 - overlap
        width = inner
    core = grown(lines[-1], -width / 2 + overlap) if len(lines) == process.perimeters else CrossSection()
    core = _opened(core, inner / 2 - 1e-3)
    slits = CrossSection() if process.variable_lines else plan - done - core - grown(bare, outer)
    return Drawn(lines, alones, _worth(_opened(slits, slack)), bare, core)


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
