"""An arm of the part as a snap or a leaf: strain, force, what it may be strained as its layers lie, what would make it
hold (handbook 8; cards *snap*, *spring*, *secant*). Lengths mm, forces N, angles degrees.
"""

from dataclasses import dataclass, replace
from math import ceil, degrees, sqrt
from typing import Literal

import numpy as np

from hewel_engine.geometry.arms import Arm
from hewel_engine.geometry.mesh import Array
from hewel_engine.materials import Material
from hewel_engine.processes import Process
from hewel_engine.reckoning.pins import push, secant, strained, tapered
from hewel_engine.walls.lines import Comb

ONCE, OFTEN = 0.6, 0.3
"""Shares of the yield strain that an arm may be bent by a single time, and again and again, along its layers."""
ACROSS = 0.3
"""Share of the strength between layers, over its stiffness, that it may be strained across them."""
BRITTLE = 0.025
"""Yield strain below which a notch counts the first time too."""
STANDS = 45.0
"""Degrees between an arm and the layers from which on it stands across them."""
LEVEL = 0.9
"""|bends·up| from which on an arm's thickness is laid in layers, not in lines."""
MOST_LINES = 40
SPARE = 1.01
"""By how much longer than just long enough an arm is proposed."""


@dataclass(frozen=True)
class Bent:
    """What is asked of an arm: by how much its end is pushed aside (None: by its catch), whether again and again, the
    slopes of its catch going in and coming out, and sizes in place of those that were measured.
    """

    deflection: float | None = None
    repeated: bool = False
    angle_in: float = 30.0
    angle_out: float = 45.0
    friction: float = 0.4
    length: float | None = None
    thickness: float | None = None
    width: float | None = None
    radius: float | None = None


@dataclass(frozen=True)
class Sizes:
    """An arm's sizes as they are reckoned with."""

    length: float
    thickness: float
    width: float
    thickness_share: float
    width_share: float
    radius: float
    held_twice: bool


@dataclass(frozen=True)
class Flex:
    """``strain`` by the sum, ``notch`` what its root multiplies it by, ``allowed`` in the direction it is printed in;
    ``reserve`` allowed over both, ``lying`` the same with the arm in the layers. N to push its end aside, to put it in
    and to pull it out (None: it does not open by itself). ``thickness``, ``length``, ``radius``: what would hold,
    one at a time; None where none does.
    """

    sizes: Sizes
    deflection: float
    stands: float
    strain: float
    notch: float
    allowed: float
    reserve: float
    lying: float
    force: float
    mating: float | None
    holding: float | None
    thickness: float | None
    length: float | None
    radius: float | None
    says: tuple[str, ...]

    @property
    def verdict(self) -> Literal["holds", "fails"]:
        return "holds" if self.reserve >= 1 else "fails"


def sizes_of(arm: Arm, asked: Bent) -> Sizes:
    thick = asked.thickness or arm.thickness
    return Sizes(
        asked.length or arm.length, thick, asked.width or arm.width, min(arm.thickness_end / arm.thickness, 1.0),
        min(arm.width_end / arm.width, 1.0), arm.radius if asked.radius is None else asked.radius, arm.held_twice,
    )  # fmt: skip


def allowed_strain(material: Material, stands: float | Array, repeated: bool) -> float | Array:
    """Of an arm at ``stands`` degrees to its layers: a share of the yield strain along them, of the weld's strain
    across them (handbook 8); between the two by squares, the weld's shear among them.

    1/ε² = (cos²θ/ε_x)² + (sin²θ/ε_z)² + (sinθ·cosθ/ε_s)², ε_z = 0.3·Z_t/E_z, ε_s = 0.3·Z_s/E_z.
    """
    s, c = np.sin(np.radians(stands)), np.cos(np.radians(stands))
    broke = material.readings.get("snap_strain")  # own snap strips come before the sheet's yield strain
    most = broke.value if broke and broke.value is not None else material.yield_strain
    along = (OFTEN if repeated else ONCE) * float(most)
    across = min(ACROSS * float(material.z_t) / float(material.e_z), along)
    shear = min(ACROSS * float(material.z_s) / float(material.e_z), along)
    return 1 / np.sqrt((c * c / along) ** 2 + (s * s / across) ** 2 + (s * c / shear) ** 2)


def notch(radius: float, thickness: float, counts: bool) -> float:
    """K_t = 0.907·(r/t)^−1/3 of a root (handbook 8), not below 1."""
    return max(0.907 * (radius / thickness) ** (-1 / 3), 1.0) if counts else 1.0


def strain_of(sizes: Sizes, deflection: float) -> float:
    """ε = c·t·y/L² (card *snap*); of a leaf held at both ends 3·t·x/L² (card *spring*)."""
    c = 3.0 if sizes.held_twice else tapered(sizes.thickness_share, sizes.width_share)[0]
    return c * sizes.thickness * deflection / sizes.length**2


def flex(arm: Arm, asked: Bent, process: Process, up: Array) -> Flex:
    """The arm in the direction ``up``. The end is pushed aside by its catch where nothing else is asked."""
    material, sizes = process.stock, sizes_of(arm, asked)
    deflection = arm.catch if asked.deflection is None else asked.deflection
    stands = degrees(np.arcsin(min(abs(float(arm.along @ up)), 1.0)))
    counts = asked.repeated or float(material.yield_strain) < BRITTLE
    least = process.width / 2
    felt = lambda s: strain_of(s, deflection) * notch(max(s.radius, least), s.thickness, counts)
    allowed = float(allowed_strain(material, stands, asked.repeated))
    reserve = allowed / felt(sizes) if deflection > 0 else np.inf
    strain = strain_of(sizes, deflection)
    force, mating, holding = _forces(sizes, deflection, strain, material, stands, asked)
    holds = lambda s: felt(s) <= allowed * (1 + 1e-9)
    says = []
    if deflection <= 0:
        says.append("By how much it is bent is not said, and it has no catch: type it, like 1.5 mm.")
    if stands >= STANDS:
        says.append("It stands across its layers: it breaks there, whatever its size, long before it would lying.")
    if sizes.length < 5 * sizes.thickness:
        says.append("It is shorter than five thicknesses: shear and its root bend too, it is softer than this says.")
    if deflection > 0.1 * sizes.length:
        says.append("It is bent by more than a tenth of its length: the sum is for small ones.")
    fails = reserve < 1
    lying = float(allowed_strain(material, 0.0, asked.repeated)) / felt(sizes) if deflection > 0 else np.inf
    rounder = _rounder(sizes, felt, allowed, counts, least) if fails else None
    return Flex(
        sizes, deflection, stands, strain, notch(max(sizes.radius, least), sizes.thickness, counts), allowed,
        float(reserve), float(lying), force, mating, holding,
        _thinner(sizes, arm, process, up, holds) if fails else None, _longer(sizes.length, reserve) if fails else None,
        rounder, tuple(says),
    )  # fmt: skip


def over(arm: Arm, asked: Bent, process: Process, ups: Array) -> Array:
    """(k,) reserve of the arm in each of the directions ``ups`` (k, 3); inf where nothing bends it."""
    told = flex(arm, asked, process, ups[0])
    if told.deflection <= 0:
        return np.full(len(ups), np.inf)
    stands = np.degrees(np.arcsin(np.minimum(np.abs(ups @ arm.along), 1.0)))
    return allowed_strain(process.stock, stands, asked.repeated) / (told.strain * told.notch)


def _forces(
    sizes: Sizes, deflection: float, strain: float, material: Material, stands: float, asked: Bent
) -> tuple[float, float | None, float | None]:
    """N that push its end aside, put it in, pull it out, with a secant modulus at the strain (provisional)."""
    if deflection <= 0:
        return 0.0, None, None
    s = np.sin(np.radians(stands)) ** 2
    start = 1 / ((1 - s) / float(material.e_xy) + s / float(material.e_z))
    (modulus, _), _ = secant(start, float(material.x_t), float(material.yield_strain), strain)
    if sizes.held_twice:
        return modulus * sizes.width * sizes.thickness**3 / sizes.length**3 * deflection, None, None
    _, worst = tapered(sizes.thickness_share, sizes.width_share)
    most = strained(worst, sizes.thickness_share, sizes.width_share)
    force = strain * sizes.width * sizes.thickness**2 * modulus / (6 * sizes.length * most)
    return force, push(force, asked.friction, asked.angle_in), push(force, asked.friction, asked.angle_out)


def _thinner(sizes: Sizes, arm: Arm, process: Process, up: Array, holds) -> float | None:
    """The thickest arm that holds, in whole lines, or in whole layers where its thickness is laid in layers; not below
    two of either.
    """
    layered = abs(float(arm.bends @ up)) > LEVEL
    width = (lambda k: k * process.layer) if layered else Comb.of(process).width
    sizes_down = [width(k) for k in range(MOST_LINES, 1, -1)]
    found = (t for t in sizes_down if t < sizes.thickness - 1e-6 and holds(replace(sizes, thickness=t)))
    return next(found, None)


def _longer(length: float, reserve: float) -> float:
    """The length with which it holds, to spare, in tenths of a millimetre: strain goes with 1/L²."""
    return ceil(10 * SPARE * length / sqrt(reserve)) / 10


def _rounder(sizes: Sizes, felt, allowed: float, counts: bool, least: float) -> float | None:
    """The root radius with which it holds; None where no radius does, or none counts."""
    plain = felt(sizes) / notch(max(sizes.radius, least), sizes.thickness, counts)
    if not counts or plain > allowed:
        return None
    wanted = min(allowed / plain, 0.907 * (0.02) ** (-1 / 3))
    return sizes.thickness * (0.907 / wanted) ** 3
