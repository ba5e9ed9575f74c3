"""Coupons: bodies that are printed, measured or broken for one number of a machine and a material. Lengths mm.

Each is printable without support but for what it is there to show, chamfered at the plate, and carries its mark and a
notch at its X end on a face that nobody measures. Walls and blades are whole lines of the process.
"""

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise
from math import cos, pi, radians, sin, sqrt, tan

import numpy as np
import shapely
import shapely.affinity
from manifold3d import CrossSection, Manifold, OpType

from hewel_engine.errors import InputError
from hewel_engine.processes import Process
from hewel_engine.reckoning.sizes import size_of
from hewel_engine.trials.bodies import FOOT, block, mark, over, peg, pin, section, standing, tag, turned
from hewel_engine.walls.lines import Comb

BED = 220.0
"""mm of the bed where none is named."""


@dataclass(frozen=True)
class Asked:
    """What a coupon is made for; ``bed`` mm of its shorter side; ``text`` of its mark."""

    process: Process
    bed: float
    text: str
    size: str
    """Of the insert."""

    def lines(self, thick: float) -> float:
        """The wall of whole lines nearest to ``thick`` mm."""
        comb = Comb.of(self.process)
        return min((comb.width(n) for n in range(1, 40)), key=lambda w: abs(w - thick))

    def layers(self, height: float) -> float:
        """The whole layers nearest to ``height`` mm, one at least."""
        h = self.process.layer
        return max(round(height / h), 1) * h

    def tag(self, x: float, y: float) -> Manifold:
        return tag(self.text, self.process.width, x, y)


def joined(bodies: list[Manifold]) -> Manifold:
    return Manifold.batch_boolean(bodies, OpType.Add)


# ------------------------------------------------------------------ what hangs

ANGLES = tuple(range(5, 90, 5))
SPINE, SPINE_TALL, BLADE_WIDE, BLADES_APART, BLADE_FROM = 5.0, 30.0, 8.0, 10.0, 4.0


def overhang(a: Asked) -> Manifold:
    """Two spines at a right angle; on both sides of each a blade for every angle, so that all four facings are seen."""
    one = _spine(a.lines(2.4))
    long = BLADES_APART * len(ANGLES)
    other = turned(one, 90).translate((long + 25, 25, 0))
    bridge = standing(block(-1, -4, 12, 4), 2.4)
    return joined([one, other, bridge, a.tag(10, 0)])


def _spine(thick: float) -> Manifold:
    """Along y from 0."""
    long = BLADES_APART * len(ANGLES)
    bodies = [standing(block(-SPINE / 2, 0, SPINE / 2, long), SPINE_TALL)]
    for i, angle in enumerate(ANGLES):
        for side in (1, -1):
            lean = radians(angle)
            rise = min(20.0, 15.0 / tan(lean))
            reach = rise * tan(lean)
            out = np.array([[0, 0], [reach, rise], [reach - thick * cos(lean), rise + thick * sin(lean)],
                            [-thick * cos(lean), thick * sin(lean)]])  # fmt: skip
            blade = Manifold.extrude(CrossSection([out if side > 0 else out[::-1] * [-1, 1]]), BLADE_WIDE).rotate(
                (90, 0, 0)
            )
            y = BLADES_APART * (i + 0.5) + BLADE_WIDE / 2
            room = Manifold.cube((60, BLADE_WIDE, SPINE_TALL), True).translate(
                (side * 30, y - BLADE_WIDE / 2, SPINE_TALL / 2)
            )
            bodies.append(blade.translate((side * SPINE / 2, y, BLADE_FROM)) ^ room)
    return joined(bodies)


SPANS = (5, 10, 15, 20, 25, 30, 40, 50)
PIER, PIER_WIDE, PIER_TALL, DECK, BRIDGE_BASE = 6.0, 8.0, 10.0, 1.2, 1.6


def bridge(a: Asked) -> Manifold:
    """Spans side by side, one ladder along x and one along y; below the middle of each a hole for a pin gauge."""
    one = _ladder(a)
    other = turned(one, 90).translate((_LADDER[0] + _LADDER[1] + 6, 0, 0))
    link = standing(block(_LADDER[0] - 1, 0, _LADDER[0] + 8, 8), BRIDGE_BASE)
    return joined([one, other, link, a.tag(_LADDER[0] - 1, 4)])


_LADDER = (max(SPANS) + 2 * PIER + 4, len(SPANS) * (PIER_WIDE + 4) + 4)


def _ladder(a: Asked) -> Manifold:
    base = a.layers(BRIDGE_BASE)
    body = standing(block(0, 0, *_LADDER), base)
    for i, span in enumerate(SPANS):
        y = 4 + i * (PIER_WIDE + 4)
        for x in (2.0, 2 + PIER + span):
            body += over(block(x, y, x + PIER, y + PIER_WIDE), base - 0.1, base + PIER_TALL)
        top = base + PIER_TALL
        body += over(block(2, y, 2 + 2 * PIER + span, y + PIER_WIDE), top - 1e-3, top + a.layers(DECK))
        body -= pin(6, -1, base + 1, (2 + PIER + span / 2, y + PIER_WIDE / 2))
    return body


# ------------------------------------------------------------------ fits and sizes

CLEARANCES = tuple(round(0.05 * i, 2) for i in range(10))
PLUG, PLUG_TALL, FIT_TALL, APART = 10.0, 25.0, 12.0, 15.0


def clearance(a: Asked) -> Manifold:
    """A block with round and square holes for a plug of 10.00 mm, and both plugs beside it."""
    long = APART * len(CLEARANCES)
    body = standing(block(0, 0, long, 2 * APART), FIT_TALL)
    for i, c in enumerate(CLEARANCES):
        x, wide = APART * (i + 0.5), PLUG + 2 * c
        body -= pin(wide, -1, FIT_TALL + 1, (x, APART * 0.5)) + _mouth(wide, (x, APART * 0.5), 0)
        square = block(x - wide / 2, 1.5 * APART - wide / 2, x + wide / 2, 1.5 * APART + wide / 2)
        body -= over(square, -1, FIT_TALL + 1) + _mouth(wide, (x, 1.5 * APART), 4)
    plugs = [_plug(0, (10, -14)), _plug(4, (30, -14))]
    return joined([body, *plugs, a.tag(long - 1, APART)])


def _mouth(wide: float, at: tuple[float, float], sides: int) -> Manifold:
    """The chamfer of a hole at the plate."""
    if sides:
        low = shapely.box(-wide / 2 - FOOT, -wide / 2 - FOOT, wide / 2 + FOOT, wide / 2 + FOOT)
        share = wide / (wide + 2 * FOOT)
        made = Manifold.extrude(section(low), FOOT, scale_top=(share, share))
        return made.translate((*at, 0))
    n = 128
    return Manifold.cylinder(FOOT, wide / 2 + FOOT, wide / 2, circular_segments=n).translate((*at, 0))


def _plug(sides: int, at: tuple[float, float]) -> Manifold:
    if sides:
        body = standing(block(-PLUG / 2, -PLUG / 2, PLUG / 2, PLUG / 2), PLUG_TALL)
        return body.translate((*at, 0))
    low = Manifold.cylinder(FOOT, PLUG / 2 - FOOT, PLUG / 2, circular_segments=256)
    return (low + peg(PLUG, FOOT - 1e-3, PLUG_TALL)).translate((*at, 0))


GAPS = tuple(round(0.1 + 0.05 * i, 2) for i in range(11))
DISC, DISC_TALL = 12.0, 4.0


def clearance_in_place(a: Asked) -> Manifold:
    """Discs printed in pockets, free all round and below by a gap; each with a slot to turn it by."""
    apart, floor, row = DISC + 8, a.layers(1.6), 6
    long, deep = apart * row, apart * -(-len(GAPS) // row)
    top = floor + a.layers(max(GAPS)) + DISC_TALL
    body = standing(block(0, 0, long, deep), top)
    discs = []
    for i, gap in enumerate(GAPS):
        at = (apart * (i % row + 0.5), apart * (i // row + 0.5))
        below = a.layers(gap)
        body -= pin(DISC + 2 * gap, floor, top + 1, at)
        disc = peg(DISC, floor + below, top, at)
        slot = over(shapely.affinity.translate(block(-4, -0.8, 4, 0.8), *at), top - 2, top + 1)
        discs.append(disc - slot)
    return joined([body, *discs, a.tag(long - 1, apart / 2)])


WALLS = tuple(round(0.3 + 0.1 * i, 1) for i in range(38))


def walls(a: Asked) -> Manifold:
    """Walls of every thickness on a base, in rows of ten, the thinnest first."""
    rows, pitch, deep = 10, 9.0, 18.0
    high = -(-len(WALLS) // rows)
    bodies = [standing(block(0, 0, rows * pitch, high * deep), 2.0)]
    for i, t in enumerate(WALLS):
        x, y = pitch * (i % rows + 0.5), deep * (i // rows + 0.5)
        bodies.append(over(block(x - t / 2, y - 6, x + t / 2, y + 6), 1.9, 12.0))
    return joined([*bodies, a.tag(rows * pitch - 1, deep / 2)])


BORES = (2, 3, 4, 5, 6, 8, 10, 12)


def bores(a: Asked) -> Manifold:
    """Upright bores through a block 10 mm high, both ends chamfered."""
    xs, long = _row(4.0)
    body = standing(block(0, 0, long, 20), 10.0)
    for d, x in zip(BORES, xs, strict=True):
        body -= pin(d, -1, 11, (x, 10)) + _mouth(d, (x, 10), 0)
        body -= _mouth(d, (0, 0), 0).mirror((0, 0, 1)).translate((x, 10, 10))
    return joined([body, a.tag(long - 1, 10)])


def _row(between: float) -> tuple[list[float], float]:
    """Middles of the bores in a row, and its length."""
    at, xs = between, []
    for d in BORES:
        xs.append(at + d / 2)
        at += d + between
    return xs, at


def bores_lying(a: Asked) -> Manifold:
    """The same lying, one block with axes along y and one along x; each axis at least D above the plate."""
    one = _lying()
    high = one.bounding_box()
    other = turned(one, 90).translate((high[3] + 14, 0, 0))
    link = standing(block(high[3] - 1, 0, high[3] + 5, 8), 2.4)
    return joined([one, other, link, a.tag(high[3] - 1, -4 + 8)])


def _lying() -> Manifold:
    xs, long = _row(5.0)
    body = standing(block(0, 0, long, 10), 2 * max(BORES) + 4)
    for d, x in zip(BORES, xs, strict=True):
        z = max(d, 6.0) + 4
        hole = pin(d, -11, 1).rotate((90, 0, 0)).translate((x, 0, z))
        ends = _mouth(d, (0, 0), 0).rotate((-90, 0, 0)).translate((x, 0, z))
        back = _mouth(d, (0, 0), 0).rotate((90, 0, 0)).translate((x, 10, z))
        body -= hole + ends + back
    return body


GAUGES = (20.0, 60.0, 120.0, 180.0)
LEDGES = (5.0, 25.0, 65.0, 105.0)


def shrink(a: Asked) -> Manifold:
    """A cross whose arms carry gauge faces outside and inside, each higher than the one within it, and a tower with
    ledges at 20, 60 and 100 mm above its first.
    """
    long = min(180.0, a.bed - 20)
    arm = _arm(long)
    tower = Manifold()
    for i, z in enumerate(LEDGES):
        tower += standing(block(-6, -6, 6 + 1.5 * (len(LEDGES) - i), 6), z)
    tower += standing(block(-6, -6, 6, 6), LEDGES[-1] + 10)
    tower = tower.translate((long / 2 - 12, long / 2 - 12, 0))
    return joined([arm, turned(arm, 90), tower, a.tag(18, -9)])


def _arm(long: float) -> Manifold:
    """Along x: on one half of its width steps whose outer faces are gauges, on the other ribs whose inner faces are."""
    gauges = [g for g in GAUGES if g < long] + [long]
    body = standing(block(-long / 2, -5, long / 2, 5), 2.0)
    level = 4.0 / len(gauges)
    for i, g in enumerate(sorted(gauges, reverse=True)):
        body += over(block(-g / 2, 0.5, g / 2, 5), 1.9, 2 + level * (i + 1))
    for i, g in enumerate(sorted(g for g in gauges if g < long - 4)):
        for side in (1, -1):
            x0, x1 = sorted((side * g / 2, side * (g / 2 + 2)))
            body += over(block(x0, -5, x1, -0.5), 1.9, 2 + level * (i + 1))
    return body


# ------------------------------------------------------------------ what is broken


def _waisted(whole: float, grip: float, waist: float, parallel: float, radius: float) -> shapely.Polygon:
    """The outline of a bar along x with a waist, its middle at the origin; arcs in steps of two degrees."""
    drop = (grip - waist) / 2
    reach = sqrt(radius**2 - (radius - drop) ** 2)
    sweep = np.arctan2(reach, radius - drop)
    turn = np.linspace(0, sweep, max(int(np.degrees(sweep) / 2), 6))
    x = parallel / 2 + radius * np.sin(turn)
    y = waist / 2 + radius * (1 - np.cos(turn))
    corner = np.column_stack([np.r_[x, whole / 2], np.r_[y, grip / 2]])
    top = np.concatenate([corner[::-1], corner * [-1, 1]])
    return shapely.Polygon(np.concatenate([top, top[::-1] * [1, -1]]))


FLAT = {"whole": 110.0, "grip": 16.0, "waist": 6.0, "parallel": 30.0, "radius": 30.0}
FLAT_THICK = 4.0


def tensile_x(a: Asked) -> Manifold:
    """Lying along x, 6 × 4 in its waist."""
    thick = a.layers(FLAT_THICK)
    body = standing(_waisted(**FLAT), thick)
    notch = shapely.Polygon([(55.1, -2), (55.1, 2), (53, 0)])
    return body - mark(a.text, (-44.5, 0), thick, a.process.width, 90) - over(notch, -1, thick + 1)


FOOT_PLATE, UPRIGHT_TALL = 3.0, 90.0
UPRIGHT = {"grip": 14.0, "parallel": 20.0, "radius": 20.0}
UPRIGHT_WIDE, UPRIGHT_THICK = 8.0, 6.0
"""mm of the waist of an upright bar."""


def tensile_z(a: Asked) -> Manifold:
    """Upright on a foot, 8 × 6 in its waist."""
    of = lambda waist: _waisted(whole=UPRIGHT_TALL, waist=waist, **UPRIGHT)
    front = Manifold.extrude(section(of(UPRIGHT_WIDE)), 20)
    side = Manifold.extrude(section(of(UPRIGHT_THICK)), 20)
    # Both along z: one seen from the front, the other from the side.
    lift = lambda body: body.translate((0, 0, -10)).rotate((0, -90, 0)).translate((0, 0, UPRIGHT_TALL / 2))
    bar = lift(side) ^ turned(lift(front), 90)
    foot = standing(block(-15, -15, 15, 15), a.layers(FOOT_PLATE))
    top = a.layers(FOOT_PLATE)
    sunk = mark(a.text, (0, -11), top, a.process.width)
    notch = over(shapely.Polygon([(15.1, -2), (15.1, 2), (13, 0)]), -1, top + 1)
    return bar + foot - sunk - notch


def tensile_45(a: Asked) -> Manifold:
    """The flat bar standing in an upright plate, its axis at 45°; feet under both grips leave its waist free."""
    thick = FLAT_THICK
    bar = shapely.affinity.rotate(_waisted(**FLAT), 45, origin=(0, 0))
    low = -bar.bounds[1]
    bar = shapely.affinity.translate(bar, 0, low)
    shadow = lambda x0, x1: shapely.union_all(
        [shapely.box(x0, 0, x1, low + 60) & _below(bar, x) for x, x0, x1 in _strips(x0, x1)]
    )
    half = FLAT["parallel"] / 2 * cos(pi / 4) + FLAT["waist"] / 2 * sin(pi / 4)
    x0, _, x1, _ = bar.bounds
    plan = shapely.union_all([bar, shadow(x0, -half), shadow(half, x1)]).buffer(0.01).buffer(-0.01)
    plate = Manifold.extrude(section(plan), thick).rotate((90, 0, 0))
    plate = plate.translate((0, thick / 2, 0))
    foot = standing(block(x0, -9, x1, 9), a.layers(2.4)) - mark(a.text, (0, -5.5), a.layers(2.4), a.process.width)
    notch = over(shapely.Polygon([(x1 + 0.1, -2), (x1 + 0.1, 2), (x1 - 2, 0)]), -1, 1.2)
    return plate + foot - notch


def _strips(x0: float, x1: float) -> list[tuple[float, float, float]]:
    edges = np.linspace(x0, x1, 41)
    return [((a + b) / 2, float(a), float(b)) for a, b in pairwise(edges)]


def _below(bar: shapely.Polygon, x: float) -> shapely.Geometry:
    """All below the bar at ``x``."""
    cut = bar.intersection(shapely.LineString([(x, -1), (x, 500)]))
    top = cut.bounds[3] if not cut.is_empty else 0.0
    return shapely.box(x - 5, 0, x + 5, max(top - 2.0, 0.0))


def snap(a: Asked) -> Manifold:
    """Arms of three thicknesses: one set lying, bending in its layers, one standing."""
    base = standing(block(0, 0, 50, 14), 9.0)
    bodies = [base]
    for i, t in enumerate(a.lines(v) for v in (1.2, 1.6, 2.0)):
        x = 9 + 16.0 * i
        bodies.append(standing(_rooted(t, x), 6.0))
    stand = standing(block(62, 0, 112, 14), 3.0)
    for i, t in enumerate(a.lines(v) for v in (1.2, 1.6, 2.0)):
        x = 62 + 9 + 16.0 * i
        arm = Manifold.extrude(section(_rooted(t, 0.0)), 6.0).rotate((90, 0, 0)).translate((x, 10, 3.0 - 14))
        bodies.append(arm.trim_by_plane((0, 0, 1), 2.9))
    link = standing(block(49, 3, 63, 11), 2.4)
    return joined([*bodies, stand, link, a.tag(111, 7)])


SNAP_LONG = 20.0


def _rooted(t: float, x: float) -> shapely.Polygon:
    """An arm ``t`` mm thick and 20 long that grows out of y = 14 with roots of radius t/2."""
    r = t / 2
    turn = np.linspace(0, pi / 2, 10)
    root = np.column_stack([t / 2 + r - r * np.sin(turn), 14 + r - r * np.cos(turn)])
    right = np.concatenate([[[t / 2 + r, 13.0]], root, [[t / 2, 14 + SNAP_LONG]]])
    whole = np.concatenate([right, right[::-1] * [-1, 1]])
    return shapely.affinity.translate(shapely.Polygon(whole), x, 0)


def insert(a: Asked) -> Manifold:
    """A block with the hole of an insert, once upright and once lying."""
    hole, long = (size_of("heat_set_insert", a.size, key) for key in ("hole_diameter", "length"))
    if hole is None or long is None:
        raise InputError("bad_options", f"The table has no insert {a.size}.", "It has M2, M2.5, M3, M4, M5, M6 and M8.")
    tall, deep = 1.5 * long.value + 6, 1.3 * long.value
    upright = standing(block(0, 0, 20, 20), tall) - pin(hole.value, tall - deep, tall + 1, (10, 10))
    lying = standing(block(26, 0, 26 + tall, 20), 20.0)
    lying -= pin(hole.value, 0, deep + 1).rotate((0, -90, 0)).translate((26 + deep, 10, 10))
    link = standing(block(19, 6, 27, 14), 2.4)
    return joined([upright, lying, link, a.tag(25 + tall, 10)])


COUPONS: dict[str, Callable[[Asked], Manifold]] = {
    "overhang": overhang, "bridge": bridge, "clearance": clearance, "clearance_in_place": clearance_in_place,
    "walls": walls, "bores": bores, "bores_lying": bores_lying, "shrink": shrink, "tensile_x": tensile_x,
    "tensile_a": tensile_x, "tensile_z": tensile_z, "tensile_45": tensile_45, "batch_z": tensile_z,
    "weld_ladder": tensile_z, "snap": snap, "insert": insert,
}  # fmt: skip
"""``tensile_a`` is the flat bar with its lines laid across, ``batch_z`` and ``weld_ladder`` the upright one in several
numbers or with a wait."""
SHORT = {"overhang": "OVH", "bridge": "BRG", "clearance": "CLR", "clearance_in_place": "CIP", "walls": "WAL",
         "bores": "BOR", "bores_lying": "BLY", "shrink": "SHR", "tensile_x": "TX", "tensile_a": "TA", "tensile_z": "TZ",
         "tensile_45": "T45", "batch_z": "BZ", "weld_ladder": "WL", "snap": "SNP", "insert": "INS"}  # fmt: skip
"""What is sunk into each where nothing else is asked for."""


def coupon(key: str, process: Process, bed: float = BED, text: str | None = None, size: str = "M4") -> Manifold:
    """A coupon for a process, standing on the plate. Raises InputError ``bad_options``."""
    if key not in COUPONS:
        raise InputError("bad_options", f"There is no coupon {key}.", "There are: " + ", ".join(COUPONS) + ".")
    return COUPONS[key](Asked(process, bed, SHORT[key] if text is None else text, size))
