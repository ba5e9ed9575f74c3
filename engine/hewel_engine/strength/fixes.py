"""What would make a failing case hold, side by side: turn the part, more perimeters, a thicker neck, a root radius.

Each with the reserve it would bring and what it costs in plastic and time. Turning is read from the same stresses;
perimeters are solved anew on the coarse grid and compared there; neck and radius are sums on the section, by hand's
formulas, to be proved by a new check of the changed part.
"""

from dataclasses import dataclass, field, replace
from math import isfinite

import numpy as np
from scipy.optimize import brentq

from hewel_engine.geometry.frames import direction_words
from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.patches import Faces
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.loads.cases import LoadSet
from hewel_engine.printing.paths import print_seconds
from hewel_engine.processes import Process
from hewel_engine.strength import reserves as read
from hewel_engine.strength.allowables import Circumstances
from hewel_engine.strength.explorer import explored
from hewel_engine.strength.statics import Cut, Section, ledgers, neck
from hewel_engine.strength.stressing import CaseStress, Stressed

MORE = (1, 2, 3)
"""Perimeters to add, tried in turn."""
THICKEST = 3.0
"""A neck more than so many times as thick is another design, no fix."""
NOTCH = 5.0
"""A sharper notch than any fillet's; beyond it the load does not pass through the section that was cut."""
LEAST_RADIUS = 0.2
"""mm: a smaller one cannot be printed."""
SHOULDER = (
    (6.0, 0.893, -0.309),
    (3.0, 0.909, -0.286),
    (1.3, 0.959, -0.273),
    (1.1, 1.017, -0.215),
    (1.03, 1.017, -0.178),
)
"""(D/d, B, a) of K_t = B·(r/d)^a: a stepped flat bar in bending, fillet radius r (Norton, after Peterson)."""


@dataclass(frozen=True)
class Fix:
    """``reserve`` of the case that was least; ``mass`` g and ``seconds`` more (negative: less), None where unknown."""

    key: str
    words: str
    reserve: float
    mass: float | None = None
    seconds: float | None = None
    numbers: dict = field(default_factory=dict)

    def as_dict(self) -> dict:
        return {
            "key": self.key, "words": self.words, "reserve": self.reserve, "mass_g": self.mass,
            "seconds": self.seconds, "numbers": self.numbers,
        }  # fmt: skip


def fixes(
    found: Stressed,
    on: read.SectionedPart,
    faces: Faces | None,
    loads: LoadSet,
    process: Process,
    ups: Array,
    around: Circumstances,
    factor: float = 1.0,
) -> list[Fix]:
    """For the case of least reserve on the layers that the part stands ``on``, strongest first. ``ups`` (d, 3):
    directions that the part may be turned to.
    """
    stack = on.stack
    rows = read.reserves(found, process.stock, stack.up, factor)
    least = min(rows, key=lambda r: r.reserve or 1e9)
    if least.reserve is None:
        return []
    row = next(r for r in found.cases if r.case.name == least.name)
    now = print_seconds(stack, process)
    out = [_turned(found, process, ups, factor, now)]
    out += _perimeters(found, stack, faces, loads, process, around, factor, least.reserve, now)
    cut, section = _cut_at(found, row, on, least.z)
    if cut is not None and least.reserve < 1 and _carries(cut, least):
        out += [f for f in (_thicker(stack, cut, section, least, process), _rounder(cut, section, least, stack)) if f]
    return sorted(out, key=lambda f: -f.reserve)


def _turned(found: Stressed, process: Process, ups: Array, factor: float, now: float) -> Fix:
    every = read.field(found, process.stock, ups, factor).min(axis=0)
    k = int(np.argmax(every))
    seconds = print_seconds(LayerStack(found.mesh, ups[k], process.layer), process) - now
    words = f"turn the part: {direction_words(ups[k])}"
    return Fix("turn", words, float(every[k]), 0.0, seconds, {"up": ups[k].tolist()})


def _perimeters(found, stack, faces, loads, process, around, factor, reserve, now) -> list[Fix]:
    if process.infill >= 1:
        return []
    counts = tuple(process.perimeters + more for more in (0, *MORE))
    pairs = explored(found.mesh, faces, loads, process, stack.up, around, factor, counts, (process.infill,))
    base, out = next(pairs), []
    for more, pair in zip(MORE, pairs, strict=False):  # each is solved when it is asked for
        made = replace(process, perimeters=pair.perimeters)
        seconds = print_seconds(stack, made) - now
        words = f"{more} more perimeter{'s' if more > 1 else ''}"
        result = reserve * (pair.reserve or 0.0) / (base.reserve or 1.0)
        out.append(Fix("perimeters", words, result, pair.mass - base.mass, seconds, {"perimeters": pair.perimeters}))
        if result >= 1:
            break
    return out


def _carries(cut: Cut, least) -> bool:
    """Whether the section at the weakest place is what carries the load there: the layers would part, and the peak is
    no more than a notch's over the section's own stress. Only then do sums on the section say anything.
    """
    nominal = max(cut.sigma_max, -cut.sigma_min, cut.tau_max)
    return least.mode.startswith("interlayer") and least.stress <= NOTCH * nominal


def _cut_at(found: Stressed, row: CaseStress, on: read.SectionedPart, z: float) -> tuple:
    (cuts,) = ledgers(on.stack, on.sections, [read.acting_in(found, row)])
    cut = min(cuts, key=lambda c: abs(c.z - z), default=None)
    return (cut, on.sections[cut.layer]) if cut else (None, None)


def _thicker(stack: LayerStack, cut: Cut, section: Section, least, process: Process) -> Fix | None:
    """The neck grown alike in both directions: pull and shear fall with s², bending and torsion with s³."""
    pull = abs(cut.normal) / section.area
    bend = max(cut.sigma_max, -cut.sigma_min) - pull
    if pull + bend <= 0:
        return None
    left = lambda s: (pull / s**2 + bend / s**3) / (pull + bend) - least.reserve
    if left(THICKEST) > 0:
        return None
    s = brentq(left, 1.0, THICKEST)
    thick = 2 * neck(stack.plan(cut.layer))
    grown = section.area * (s * s - 1) * thick  # over a length as long as the neck is thick
    numbers = {"now_mm": thick, "to_mm": s * thick, "z_mm": cut.z}
    words = f"thicken the neck at {cut.z:.1f} mm from {thick:.1f} to {s * thick:.1f} mm"
    return Fix("neck", words, 1.0, grown * process.stock.density * 1e-3, None, numbers)


def _rounder(cut: Cut, section: Section, least, stack: LayerStack) -> Fix | None:
    """A fillet that takes the peak down to what the section can bear, where the peak is the notch's."""
    nominal = max(cut.sigma_max, -cut.sigma_min, 1e-9)
    raised = least.stress / nominal
    wanted = raised * least.reserve
    if raised < 1.15 or wanted <= 1.02:
        return None
    depth = 2 * neck(stack.plan(cut.layer))
    above = stack.plan(min(cut.layer + 5, stack.count - 1)).area(), stack.plan(max(cut.layer - 5, 0)).area()
    step = float(np.sqrt(max(*above, section.area) / section.area))
    _, b, a = min(SHOULDER, key=lambda row: abs(row[0] - step))
    radius = depth * (wanted / b) ** (1 / a)
    if not isfinite(radius) or not LEAST_RADIUS <= radius <= depth:
        return None
    words = f"a root radius of {radius:.1f} mm at {cut.z:.1f} mm"
    return Fix("radius", words, 1.0, None, None, {"radius_mm": radius, "z_mm": cut.z, "raised": raised})
