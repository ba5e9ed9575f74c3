"""How a part holds the plate while it is printed, and how it leaves it afterwards. Lengths mm, forces N, MPa.

The hot plate holds σ_a·W against the nozzle's drag at the top, F_d·H; a push at the height H_p needs the lesser of
σ_c·W/H_p (it tips) and σ_c·A (it slides), σ_c the adhesion of the cold plate; and it bends the layers below it.
"""

from dataclasses import dataclass

import numpy as np
import shapely

from hewel_engine.geometry.mesh import Array, Mesh
from hewel_engine.geometry.plans import as_polygons
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.orientation.candidates import drag_by_section, modulus_of
from hewel_engine.orientation.sweep import drag_ratio, footing, least_section_modulus, patch_moments, plan_hull
from hewel_engine.processes import Process

HOLDS = 2.0
"""Drag ratio from which a part holds without a brim."""
BRIMS = (3.0, 5.0, 8.0, 10.0, 15.0)
FALLS = 5.0
"""Degrees of tipping angle below which it does not stand by itself."""
MANY = 20.0
"""Reserve whose number says nothing more."""
SHEAR_SHAPE = 1.5
"""Greatest shear over its mean, of a full section."""


@dataclass(frozen=True)
class Line:
    """A sentence with its number and limit; ``state`` good, doubtful or fails."""

    key: str
    state: str
    words: str
    value: float | None = None
    limit: float | None = None

    def as_dict(self) -> dict:
        words = f"Fails: {self.words[0].lower()}{self.words[1:]}" if self.state == "fails" else self.words
        return {"key": self.key, "state": self.state, "words": words, "value": self.value, "limit": self.limit}


@dataclass(frozen=True)
class Pusher:
    """How parts leave the plate (``way``: by hand, flexible plate, pushed off), the greatest push N and its height."""

    way: str = "by hand"
    most: float = 60.0
    height: float = 10.0


def held(mesh: Mesh, stack: LayerStack, process: Process, brim: float = 0.0) -> list[Line]:
    """Whether a part stands and holds against the nozzle, with ``brim`` mm round its foot; what brim would do."""
    tipping, *_ = footing(mesh, stack.up, stack.height, process)
    state = "fails" if tipping <= 0 else "doubtful" if tipping < FALLS else "good"
    verb = "falls over by itself" if tipping <= 0 else "hardly stands" if tipping < FALLS else "stands"
    lines = [Line("tipping", state, f"It {verb}: tipping angle {round(tipping) + 0:d}°.", tipping, FALLS)]
    ratio = drag_by_section(stack, process) if brim <= 0 else with_brim(stack, process, brim)
    words = (
        f"The hot plate holds {ratio:.1f} times what the nozzle's {process.nozzle_force:g} N"
        f" drag at {stack.height:.0f} mm{f', with a brim of {brim:g} mm' if brim else ''}"
    )
    if ratio >= HOLDS:
        return [*lines, Line("drag", "good", f"{words}.", ratio, HOLDS)]
    wider = next((b for b in BRIMS if b > brim and with_brim(stack, process, b) >= HOLDS), None)
    if tipping <= 0:
        cure = "choose another direction, or give it a foot as a remedy"
    elif wider:
        cure = f"give it a brim of {wider:g} mm"
    else:
        cure = "no brim is enough: another direction, or a foot as a remedy"
    return [*lines, Line("drag", "fails" if ratio < 1 else "doubtful", f"{words}; {cure}.", ratio, HOLDS)]


def with_brim(stack: LayerStack, process: Process, brim: float) -> float:
    """Drag ratio of the first layer with so many mm of brim round it."""
    foot = as_polygons(stack.plan(0)).buffer(brim)
    triangles = [np.array(t.exterior.coords[:3]) for t in shapely.constrained_delaunay_triangles(foot).geoms]
    area, centre, second = patch_moments(np.array(triangles))
    rim = plan_hull(shapely.get_coordinates(foot))
    if rim is None:
        return 0.0
    return drag_ratio(least_section_modulus(area, centre, second, rim), stack.height, process)


def released(stack: LayerStack, process: Process, adhesion_cold: float, pusher: Pusher) -> list[Line]:
    """Whether the machine can push a part off its cold plate, and whether its layers bear that; nothing where a hand
    or a flexible plate does it.
    """
    area = float(stack.integrals[0, 0])
    if pusher.way != "pushed off":
        return [Line("release", "good", f"It leaves the plate {HOW[pusher.way]}; its foot is {area:.0f} mm².", area)]
    if stack.height < pusher.height:
        words = f"The pusher goes over it: it stands {stack.height:.1f} mm high, the push is at {pusher.height:g} mm."
        return [Line("release", "fails", words, stack.height, pusher.height)]
    tips, slides = adhesion_cold * modulus_of(stack, 0) / pusher.height, adhesion_cold * area
    force = min(tips, slides)
    way = "tips" if tips <= slides else "slides"
    words = f"It {way} off the cold plate at {force:.0f} N; the machine pushes with {pusher.most:g} N"
    lines = []
    if force > pusher.most:
        cure = f"make its foot {100 * (1 - pusher.most / force):.0f} % smaller, or take it off by hand"
        lines.append(Line("release", "fails", f"{words}: it stays; {cure}.", force, pusher.most))
    else:
        lines.append(Line("release", "good", f"{words}.", force, pusher.most))
    reserve, z = push_reserve(stack, process, force, pusher.height)
    if reserve > MANY:
        return [*lines, Line("push", "good", "Its layers bear the push many times over.", reserve, 1.0)]
    bears = f"The push bends the layers most at {z:.1f} mm: reserve {reserve:.1f}"
    if reserve < 1:
        return [*lines, Line("push", "fails", f"{bears}; it breaks off its foot.", reserve, 1.0)]
    return [*lines, Line("push", "good" if reserve >= HOLDS else "doubtful", f"{bears}.", reserve, 1.0)]


HOW = {"by hand": "by hand", "flexible plate": "by bending the plate"}


def push_reserve(stack: LayerStack, process: Process, force: float, height: float) -> tuple[float, float]:
    """Least reserve of the layers below a push of ``force`` N at ``height`` mm, each a clamped section: σ = F·(H_p −
    z)/W, τ = 1.5·F/A against Z_t and Z_s; and its height mm.
    """
    stock = process.stock
    below = range(min(stack.count, max(1, int(height / stack.pitch))))
    used: Array = np.zeros(len(below))
    for k in below:
        area, modulus = float(stack.integrals[k, 0]), modulus_of(stack, k)
        if area <= 0 or modulus <= 0:
            return 0.0, k * stack.pitch
        pull = force * (height - k * stack.pitch) / modulus / stock.z_t
        used[k] = np.hypot(pull, SHEAR_SHAPE * force / area / stock.z_s)
    k = int(used.argmax())
    return float(1 / max(used[k], 1e-9)), k * stack.pitch
