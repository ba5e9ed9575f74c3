"""The section sweep: the part cut at every layer, with the force and the moment that pass through the cut.

σ = N/A + M·y/I about the section's principal axes; τ from the shear force by its parabola over the section
(Zhuravskii), and from torsion by Saint-Venant's warping of the section. Valid for slender parts whose section changes
slowly; at notches, holes and thick roots the finite elements say more. Where the part has a core, the section counts
the shell in full and the core by φ^m. Frame: x and y of the plan, z up. mm, N, N·mm, MPa.
"""

from dataclasses import dataclass

import numpy as np
from manifold3d import CrossSection

from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.plans import grown, signed_area
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.strength.torsion import Torsion, torsion_of

LIKE = 0.05
"""Share by which area and second moments of two layers may differ while the torsion of one is scaled to the other."""

NOTHING = 1e-9
"""mm² of a section that is none."""


@dataclass(frozen=True)
class Section:
    """Of one cut: effective area mm², centroid mm, second moments ∫x², ∫y², ∫xy mm⁴ about it, and what bounds it.

    ``corners`` (n, 2) mm of the outline about the centroid; ``torsion`` mm⁴ and ``twist`` mm, so that the greatest
    shear stress of a torque is T·twist/torsion.
    """

    area: float
    centre: Array
    xx: float
    yy: float
    xy: float
    corners: Array
    shear_factor: tuple[float, float]
    """τ_max·A/V for a force along x and along y."""
    torsion: float
    twist: float


def _moments(plan: CrossSection) -> Array:
    """Area, first and second moments about the plan's origin: A, Sx, Sy, Sxx, Syy, Sxy (Green's theorem)."""
    out = np.zeros(6)
    for loop in plan.to_polygons():
        p, q = loop, np.roll(loop, -1, axis=0)
        c = p[:, 0] * q[:, 1] - q[:, 0] * p[:, 1]
        out += [
            c.sum() / 2,
            (c * (p[:, 0] + q[:, 0])).sum() / 6,
            (c * (p[:, 1] + q[:, 1])).sum() / 6,
            (c * (p[:, 0] ** 2 + p[:, 0] * q[:, 0] + q[:, 0] ** 2)).sum() / 12,
            (c * (p[:, 1] ** 2 + p[:, 1] * q[:, 1] + q[:, 1] ** 2)).sum() / 12,
            (c * (p[:, 0] * (2 * p[:, 1] + q[:, 1]) + q[:, 0] * (p[:, 1] + 2 * q[:, 1]))).sum() / 24,
        ]
    return out


def _central(m: Array) -> tuple[Array, float, float, float]:
    """Centroid (2,) and the second moments Sxx, Syy, Sxy about it, of what ``_moments`` tells."""
    centre = m[1:3] / m[0]
    return centre, m[3] - m[0] * centre[0] ** 2, m[4] - m[0] * centre[1] ** 2, m[5] - m[0] * centre[0] * centre[1]


def section_of(
    plan: CrossSection, core: CrossSection | None = None, core_share: float = 1.0, twisted: Torsion | None = None
) -> Section | None:
    """The section of a layer whose ``core`` counts by ``core_share``; None where nothing is left. ``twisted``: its
    torsion, where it is known from a like one.
    """
    m = _moments(plan)
    if core is not None and core_share < 1:
        m = m - (1 - core_share) * _moments(core)
    if m[0] <= NOTHING:
        return None
    centre, xx, yy, xy = _central(m)
    shifted = plan.translate(tuple(-centre))
    corners = np.concatenate(shifted.to_polygons())
    factor = _shear_factor(shifted, 0, m[0], xx), _shear_factor(shifted, 1, m[0], yy)
    twisted = twisted or torsion_of(plan)
    return Section(
        float(m[0]), centre, float(xx), float(yy), float(xy), corners, factor, twisted.constant, twisted.twist
    )


def _shear_factor(plan: CrossSection, axis: int, area: float, second: float) -> float:
    """A·Q/(I·b) at the centroid for a force along ``axis``: 1.5 of a rectangle, 4/3 of a circle, 2 of a thin tube."""
    far = 1e4 + 2 * float(np.abs(np.concatenate(plan.to_polygons())).max())
    low, high = np.array([-far, -far]), np.array([far, far])
    low[axis] = 0.0
    side = plan ^ CrossSection([[tuple(low), (high[0], low[1]), tuple(high), (low[0], high[1])]])
    static = _moments(side)[1 + axis]
    width = 0.0
    for loop in plan.to_polygons():
        p, q = loop, np.roll(loop, -1, axis=0)
        cross = (p[:, axis] < 0) != (q[:, axis] < 0)
        p, q = p[cross], q[cross]
        t = p[:, axis] / (p[:, axis] - q[:, axis])
        at = p[:, 1 - axis] + t * (q[:, 1 - axis] - p[:, 1 - axis])
        turn = np.where(q[:, axis] > p[:, axis], 1.0, -1.0) * (1 if axis == 1 else -1)
        width += float((at * turn).sum())
    return float(np.clip(area * static / max(second * abs(width), 1e-12), 1.0, 20.0))


def neck(plan: CrossSection) -> float:
    """Radius of the largest circle inside, to 1 %."""
    low, high = 0.0, float(np.sqrt(plan.area() / np.pi)) * 1.01
    while high - low > 0.01 * high:
        middle = (low + high) / 2
        low, high = (low, middle) if grown(plan, -middle).is_empty() else (middle, high)
    return low


@dataclass(frozen=True, eq=False)
class Through:
    """What passes through a cut from the side above to the side below: ``force`` (3,) N and ``moment`` (3,) N·mm
    about the section's centroid, in the plate's frame.
    """

    force: Array
    moment: Array


class Above:
    """Forces (k, 3) N at points (k, 3) mm of the plate's frame, ready to be summed over those above any height."""

    def __init__(self, points: Array, forces: Array):
        order = np.argsort(-points[:, 2], kind="stable")
        self._heights = -points[order, 2]
        nothing = np.zeros((1, 3))
        self._forces = np.concatenate([nothing, np.cumsum(forces[order], axis=0)])
        self._moments = np.concatenate([nothing, np.cumsum(np.cross(points[order], forces[order]), axis=0)])

    def through(self, height: float, centre: Array) -> Through:
        """What passes through the cut at ``height``, about the section's ``centre`` (2,)."""
        k = int(np.searchsorted(self._heights, -height))
        force = self._forces[k]
        return Through(force, self._moments[k] - np.cross([centre[0], centre[1], height], force))


@dataclass(frozen=True)
class Cut:
    """One line of the section ledger of a case."""

    layer: int
    z: float
    area: float
    normal: float
    bending: float
    shear: float
    torque: float
    sigma_max: float
    sigma_min: float
    tau_max: float

    def as_dict(self) -> dict:
        return {
            "layer": self.layer, "z_mm": self.z, "area_mm2": self.area, "normal_force_n": self.normal,
            "bending_nmm": self.bending, "shear_n": self.shear, "torque_nmm": self.torque,
            "sigma_max_mpa": self.sigma_max, "sigma_min_mpa": self.sigma_min, "tau_max_mpa": self.tau_max,
        }  # fmt: skip


def cut_stress(section: Section, passing: Through, layer: int, z: float) -> Cut:
    """Stresses of a section from what passes through it: bending about both axes, with the product of inertia."""
    normal = float(passing.force[2])
    mx, my, torque = (float(v) for v in passing.moment)
    # σ = N/A + a·x + b·y with ∫σ·y = M_x and ∫σ·x = −M_y
    det = section.xx * section.yy - section.xy**2
    a = (-my * section.yy - mx * section.xy) / det
    b = (mx * section.xx + my * section.xy) / det
    fibre = normal / section.area + section.corners @ np.array([a, b])
    v = passing.force[:2]
    shear = float(np.hypot(v[0] * section.shear_factor[0], v[1] * section.shear_factor[1])) / section.area
    tau = shear + abs(torque) * section.twist / section.torsion
    return Cut(
        layer, z, section.area, normal, float(np.hypot(mx, my)), float(np.hypot(*v)), torque,
        float(fibre.max()), float(fibre.min()), tau,
    )  # fmt: skip


def sections_along(stack: LayerStack, cores: list | None = None, core_share: float = 1.0) -> list[Section | None]:
    """The section of every layer; ``cores[k]`` is a layer's core, which counts by ``core_share``. The torsion is worked
    out anew where the section has changed its shape.
    """
    out: list[Section | None] = []
    before = None
    known: tuple[Array, int, Torsion] | None = None
    for k in range(stack.count):
        now = stack.plan(k), cores and cores[k]
        like = before is not None and before[0] is now[0] and before[1] is now[1]
        before = now
        if like:
            out.append(out[-1])
            continue
        shape, loops = _shape_of(now[0]), now[0].num_contour()
        if shape is None:
            out.append(None)
            continue
        if known is None or known[1] != loops or np.abs(shape[1:] / known[0][1:] - 1).max() > LIKE:
            known = shape, loops, torsion_of(now[0])
        out.append(section_of(*now, core_share, known[2].scaled(shape[0], known[0][0])))
    return out


def _shape_of(plan: CrossSection) -> Array | None:
    """Area, and what tells sections of unlike shape or size apart: area and both principal second moments again, mm."""
    m = _moments(plan)
    if m[0] <= NOTHING:
        return None
    _, xx, yy, xy = _central(m)
    least, most = np.linalg.eigvalsh([[xx, xy], [xy, yy]])
    return np.array([m[0], m[0] ** 0.5, max(least, 1e-12) ** 0.25, max(most, 1e-12) ** 0.25])


def ledgers(stack: LayerStack, sections: list[Section | None], acting: list[tuple[Array, Array]]) -> list[list[Cut]]:
    """The cuts of every layer for each set of points (k, 3) mm and forces (k, 3) N in the part's frame; each set must
    be in balance (loads and answers together).
    """
    heights = [stack.first + k * stack.pitch for k in range(len(sections))]
    return [
        [
            cut_stress(section, above.through(z, section.centre), k, z)
            for k, (section, z) in enumerate(zip(sections, heights, strict=True)) if section is not None
        ]
        for above in aboves(stack, acting)
    ]  # fmt: skip


def on_plate(stack: LayerStack, points: Array) -> Array:
    """Points (k, 3) of the part's frame in that of the plans: x and y about the middle of its box, z over the plate."""
    low = stack.mesh.box.mean(axis=0)
    plate = ((stack.mesh.vertices[stack.mesh.used] - low) @ stack.turn[2]).min()
    return (points - low) @ stack.turn.T - np.array([0, 0, plate])


def aboves(stack: LayerStack, acting: list[tuple[Array, Array]]) -> list[Above]:
    """Of each set of points (k, 3) mm and forces (k, 3) N, in the part's frame, what acts above any height."""
    return [Above(on_plate(stack, points), forces @ stack.turn.T) for points, forces in acting]


@dataclass(frozen=True)
class Perforated:
    """Layers ``low`` to ``high`` mm above the plate through which ``holes`` holes run side by side; least ``net`` mm²
    of their section, and what it would be without holes.
    """

    low: float
    high: float
    holes: int
    net: float
    gross: float

    def as_dict(self) -> dict:
        return {
            "low_mm": self.low, "high_mm": self.high, "holes": self.holes, "net_mm2": self.net,
            "gross_mm2": self.gross,
        }  # fmt: skip


def perforated(stack: LayerStack, least_loss: float = 0.1) -> list[Perforated]:
    """Runs of layers that two holes or more perforate together, taking at least ``least_loss`` of the section."""
    out: list[Perforated] = []
    run: list[tuple[float, int, float, float]] = []

    def close() -> None:
        if run:
            z, holes, net, gross = zip(*run, strict=True)
            k = int(np.argmin(np.array(net) / np.array(gross)))
            out.append(Perforated(z[0] - stack.pitch / 2, z[-1] + stack.pitch / 2, max(holes), net[k], gross[k]))
            run.clear()

    for k in range(stack.count):
        areas = np.array([signed_area(loop) for loop in stack.plan(k).to_polygons()])
        holes, gross = int((areas < 0).sum()), float(areas[areas > 0].sum()) if len(areas) else 0.0
        net = float(areas.sum()) if len(areas) else 0.0
        if holes >= 2 and net < (1 - least_loss) * gross:
            run.append((stack.first + k * stack.pitch, holes, net, gross))
        else:
            close()
    close()
    return out
