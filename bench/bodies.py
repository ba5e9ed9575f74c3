"""Twenty-five made-up solids on which advice is tried: machined, cast, bent from sheet, thin, and grown shapes.

Each stands as drawn, z up, whether or not that is wise. ``held`` and ``loaded`` are boxes round the surface that is
held and loaded; ``forces`` a pull and a sideways load on it, N. ``used`` are spaces in which something runs, turns or
sits once the part is in use: no remedy may leave material there.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import partial

import manifold3d as m3
import numpy as np

from demo import river_station
from demo.river_station import box
from hewel_engine.edits.solids import mesh_of
from hewel_engine.geometry.mesh import Mesh


@dataclass(frozen=True, eq=False)
class Body:
    name: str
    kind: str
    solid: m3.Manifold
    held: tuple
    loaded: tuple
    forces: tuple = ((0.0, 0.0, 60.0), (40.0, 0.0, 0.0))
    used: list[m3.Manifold] = field(default_factory=list)

    @property
    def mesh(self) -> Mesh:
        return mesh_of(self.solid)

    @property
    def loads(self) -> dict:
        """As a loads file has them."""
        box = lambda ends: {"box": [list(ends[:3]), list(ends[3:])]}
        cases = [
            {"name": name, "factor": 1.0, "loads": [{"on": box(self.loaded), "force_n": list(force)}]}
            for name, force in zip(("pull", "sideways"), self.forces, strict=True)
        ]
        return {"fixed": [{"on": box(self.held)}], "cases": cases}


rod = partial(river_station.rod, sides=72)


def plate(points: list, thick: float, axis: int = "y", at: float = 0.0) -> m3.Manifold:
    """An outline (x, z) made ``thick`` along y, its middle at ``at``; or (x, y) along z from ``at``."""
    solid = m3.Manifold.extrude(m3.CrossSection([points]), thick)
    if axis == "z":
        return solid.translate((0, 0, at))
    return solid.rotate((90, 0, 0)).translate((0, at + thick / 2, 0))


def union(parts: list) -> m3.Manifold:
    return m3.Manifold.batch_boolean(list(parts), m3.OpType.Add)


def ring(count: int, make: Callable) -> m3.Manifold:
    return union(make.rotate((0, 0, 360 / count * k)) for k in range(count))


def bodies() -> list[Body]:
    return [make() for make in MAKERS]


# --------------------------------------------------------------------------- machined


def pulley_fork() -> Body:
    """Lying on its back: the slot for the pulley opens to one side."""
    solid = box(40, 34, 46) - box(40, 12, 34, (12, 0, 6)) - rod(60, 4, "y", (10, 0, 23))
    solid -= rod(30, 3.3, "x", (-16, 0, 12)) + rod(30, 3.3, "x", (-16, 0, 34))
    slot = box(28, 11.6, 33.6, (6, 0, 6.2))
    return Body("pulley fork", "machined", solid, (-20.1, -17, 0, -19.9, 17, 46), (5, -17, 18, 15, 17, 28),
                ((60, 0, 0), (0, 0, -40)), [slot, rod(60, 3.9, "y", (10, 0, 23))])  # fmt: skip


def bearing_block() -> Body:
    body = plate([(-34, 0), (34, 0), (34, 9), (22, 9), (18, 40), (-18, 40), (-22, 9), (-34, 9)], 26)
    solid = body - rod(40, 11, "y", (0, 0, 24), sides=96)
    solid -= rod(40, 2.8, "z", (-28, 0, 5)) + rod(40, 2.8, "z", (28, 0, 5))
    return Body("bearing block", "machined", solid, (-34, -13, -0.1, 34, 13, 0.1), (-12, -13, 30, 12, 13, 36),
                used=[rod(40, 10.9, "y", (0, 0, 24))])  # fmt: skip


def flanged_hub() -> Body:
    """A hub that widens to its flange upward, holes through the flange."""
    solid = rod(18, 11, at=(0, 0, 9)) + rod(7, 27, at=(0, 0, 21.5)) - rod(60, 6, at=(0, 0, 12))
    holes = ring(4, rod(20, 2.2, at=(20, 0, 21)))
    heads = ring(4, rod(3, 3.8, at=(20, 0, 16.4)))
    return Body("flanged hub", "machined", solid - holes, (-30, -30, -0.1, 30, 30, 0.1), (-30, -30, 24.9, 30, 30, 25.1),
                used=[heads])  # fmt: skip


def stepped_block() -> Body:
    """A counterbore and a pocket that open downward."""
    solid = box(50, 36, 22) - rod(60, 4, at=(-12, 0, 10)) - rod(12, 8.5, at=(-12, 0, 0)) - box(16, 20, 6, (13, 0, 0))
    return Body("stepped block", "machined", solid, (-25, -18, -0.1, 25, 18, 0.1), (-25, -18, 21.9, 25, 18, 22.1),
                used=[rod(11, 8, at=(-12, 0, 0)), box(15.6, 19.6, 5.9, (13, 0, 0))])  # fmt: skip


def tee_slot_rail() -> Body:
    solid = box(60, 32, 24) - box(80, 8, 12, (0, 0, 12.01)) - box(80, 16, 8, (0, 0, 6))
    return Body("tee slot rail", "machined", solid, (-30, -16, -0.1, 30, 16, 0.1), (-30, -16, 23.9, 30, -4, 24.1),
                used=[box(80, 15.6, 7.6, (0, 0, 6.2)), box(80, 7.6, 12, (0, 0, 12))])  # fmt: skip


def cross_valve() -> Body:
    solid = box(36, 36, 36) - rod(60, 8, "x", (0, 0, 18)) - rod(60, 5.5, "y", (0, 0, 18)) - rod(30, 4, at=(0, 0, 32))
    return Body("cross valve", "machined", solid, (-18, -18, -0.1, 18, 18, 0.1), (-18, -18, 35.9, 18, 18, 36.1),
                used=[rod(60, 7.9, "x", (0, 0, 18)), rod(60, 5.4, "y", (0, 0, 18))])  # fmt: skip


def dovetail_slide() -> Body:
    solid = plate([(-24, 0), (24, 0), (24, 8), (14, 8), (20, 18), (-20, 18), (-14, 8), (-24, 8)], 50)
    return Body("dovetail slide", "machined", solid - rod(60, 3, at=(0, 0, 10)), (-24, -25, -0.1, 24, 25, 0.1),
                (-20, -25, 17.9, 20, 25, 18.1))  # fmt: skip


# --------------------------------------------------------------------------- cast


def cast_lever() -> Body:
    """Two bosses joined by a web that hangs between them, well above the plate."""
    web = m3.Manifold.batch_hull([rod(6, 7, at=(0, 0, 9)), rod(6, 5, at=(62, 0, 9))])
    solid = rod(18, 11, at=(0, 0, 9)) + rod(18, 8, at=(62, 0, 9)) + web
    solid -= rod(40, 5.5, at=(0, 0, 9)) + rod(40, 3.5, at=(62, 0, 9))
    return Body("cast lever", "cast", solid, (-6, -6, 0, 6, 6, 18), (58, -4, 0, 66, 4, 18), ((30, 0, 0), (0, 25, 0)))


def pedestal() -> Body:
    """A column with a square foot and a wider head that carries something flat."""
    column = m3.Manifold.cylinder(40, 12, 8, 64)
    solid = box(40, 40, 6) + column + box(44, 30, 6, (0, 0, 40))
    holes = union(rod(30, 2.4, at=(x, y, 40)) for x in (-17, 17) for y in (-10, 10))
    return Body("pedestal", "cast", solid - holes, (-20, -20, -0.1, 20, 20, 0.1), (-22, -15, 45.9, 22, 15, 46.1),
                used=[union(rod(3, 4, at=(x, y, 38.4)) for x in (-17, 17) for y in (-10, 10))])  # fmt: skip


def bell_crank() -> Body:
    arm = lambda ax, az: m3.Manifold.batch_hull([rod(8, 7, "y", (0, 0, 10)), rod(8, 5, "y", (ax, 0, az))])
    solid = arm(44, 10) + arm(0, 56) + rod(16, 9, "y", (0, 0, 10)) + box(26, 16, 6, (0, 0, 0))
    solid -= rod(30, 4, "y", (0, 0, 10)) + rod(30, 2.5, "y", (44, 0, 10)) + rod(30, 2.5, "y", (0, 0, 56))
    return Body("bell crank", "cast", solid, (-13, -8, -0.1, 13, 8, 0.1), (-3, -4, 52, 3, 4, 60),
                ((0, 0, 40), (15, 0, 0)), [rod(30, 3.9, "y", (0, 0, 10))])  # fmt: skip


def pipe_saddle() -> Body:
    """A clamp over a pipe: an arch between two feet with ears."""
    arch = (rod(24, 22, "y", (0, 0, 0), sides=96) - rod(30, 16, "y", (0, 0, 0), sides=96)).trim_by_plane((0, 0, 1), 0)
    ears = box(16, 24, 6, (-28, 0, 0)) + box(16, 24, 6, (28, 0, 0))
    solid = arch + ears - rod(30, 2.8, at=(-30, 0, 0)) - rod(30, 2.8, at=(30, 0, 0))
    return Body("pipe saddle", "cast", solid, (-36, -12, -0.1, 36, 12, 0.1), (-8, -12, 18, 8, 12, 23),
                used=[rod(24, 15.8, "y", (0, 0, 0), sides=96)])  # fmt: skip


def hook() -> Body:
    """A J standing on its shank's flat: the bow hangs."""
    bow = (rod(12, 20, "y", (0, 0, 24), sides=96) - rod(20, 11, "y", (0, 0, 24), sides=96)) - box(
        40, 40, 22, (0, 0, 24)
    ).translate((20, 0, 0))
    solid = bow + box(9, 12, 50, (-15.5, 0, 24)) + box(30, 20, 6, (-15.5, 0, 74)) + box(18, 12, 5, (0, 0, 2))
    solid -= rod(30, 2.4, at=(-24, 0, 76)) + rod(30, 2.4, at=(-7, 0, 76))
    return Body("hook", "cast", solid, (-31, -10, 79.9, 0, 10, 80.1), (-4, -6, 12, 6, 6, 16), ((0, 0, -40), (0, 10, 0)),
                [rod(12, 10.8, "y", (0, 0, 24), sides=96)])  # fmt: skip


def webbed_bracket() -> Body:
    """An angle with two gussets and a boss that stands out of its upright."""
    solid = box(50, 44, 6) + box(6, 44, 50, (-22, 0, 0))
    for y in (-16, 16):
        solid += plate([(-20, 4), (12, 4), (-20, 36)], 5, at=y)
    solid += rod(14, 8, "x", (-13, 0, 38)) - rod(40, 3.5, "x", (-15, 0, 38))
    solid -= rod(40, 3.5, "x", (-15, 0, 38)) + rod(20, 2.6, at=(15, 0, 2))
    return Body("webbed bracket", "cast", solid, (-25, -22, -0.1, 25, 22, 0.1), (-8, -8, 30, -5.9, 8, 46),
                ((30, 0, 0), (0, 20, 0)), [rod(16, 3.4, "x", (4, 0, 38))])  # fmt: skip


# --------------------------------------------------------------------------- bent from sheet


def sheet_angle() -> Body:
    """Bent twice: the upper leg hangs over the lower one."""
    solid = plate([(0, 0), (40, 0), (40, 3), (3, 3), (3, 35), (26, 35), (26, 38), (0, 38)], 30)
    solid -= rod(20, 2.2, at=(30, -8, 0)) + rod(20, 2.2, at=(30, 8, 0)) + rod(20, 2.7, at=(16, 0, 36))
    return Body("sheet angle", "sheet", solid, (0, -15, -0.1, 40, 15, 0.1), (10, -15, 37.9, 26, 15, 38.1),
                ((0, 0, 15), (8, 0, 0)), [rod(4, 4, at=(16, 0, 33))])  # fmt: skip


def sheet_channel() -> Body:
    """A channel on its back edge: its sides stand, a lip runs along each."""
    solid = (
        box(60, 36, 30)
        - box(70, 31, 40, (0, 0, 2.5))
        + box(60, 8, 2.5, (0, -14, 27.5))
        + box(60, 8, 2.5, (0, 14, 27.5))
    )
    return Body("sheet channel", "sheet", solid, (-30, -18, -0.1, 30, 18, 0.1), (-30, 10, 29.9, 30, 18, 30.1),
                ((0, 0, 30), (0, 15, 0)))  # fmt: skip


def cable_clip() -> Body:
    """A P clip: a loop of strip and a tab with a hole."""
    loop = rod(12, 11, "y", (0, 0, 11), sides=96) - rod(20, 8.5, "y", (0, 0, 11), sides=96)
    solid = loop + box(26, 12, 2.5, (18, 0, 0)) - rod(20, 2.2, at=(24, 0, 0))
    return Body("cable clip", "sheet", solid, (14, -6, -0.1, 31, 6, 0.1), (-6, -6, 19, 6, 6, 22.2),
                ((0, 0, 15), (8, 0, 0)), [rod(12, 8.3, "y", (0, 0, 11), sides=96)])  # fmt: skip


def slotted_panel() -> Body:
    """A panel on edge with windows through it."""
    solid = box(90, 5, 60) + box(90, 24, 4)
    for x, w in ((-28, 20), (0, 14), (27, 24)):
        solid -= box(w, 20, 18, (x, 0, 26))
    solid -= rod(20, 5, "y", (-30, 0, 14)) + rod(20, 5, "y", (30, 0, 14))
    return Body("slotted panel", "sheet", solid, (-45, -12, -0.1, 45, 12, 0.1), (-45, -2.5, 59.9, 45, 2.5, 60.1),
                ((0, 0, 60), (0, 12, 0)))  # fmt: skip


# --------------------------------------------------------------------------- thin


def instrument_cover() -> Body:
    """A cover standing on its open side: the ceiling is wide and the room under it is used."""
    solid = box(64, 44, 22) - box(59, 39, 19.5)
    solid -= box(24, 18, 10, (0, 0, 18))
    return Body("instrument cover", "thin", solid, (-32, -22, -0.1, 32, 22, 0.1), (-32, -22, 21.9, 32, -10, 22.1),
                ((0, 0, -40), (0, 20, 0)), [box(50, 30, 10, (0, 0, 0.1))])  # fmt: skip


def funnel() -> Body:
    """Walls of 1.6 mm that open at 55° from the vertical, a rim and a spout."""
    cone = m3.Manifold.revolve(m3.CrossSection([[(6, 20), (7.6, 20), (32, 37.1), (32, 39), (30.4, 39), (6, 22)]]), 96)
    spout = rod(22, 7.6, at=(0, 0, 11)) - rod(60, 6, at=(0, 0, 11))
    return Body("funnel", "thin", cone + spout, (-8, -8, -0.1, 8, 8, 0.1), (-33, -33, 38.9, 33, 33, 39.1),
                ((0, 0, 12), (4, 0, 0)), [rod(60, 5.9, at=(0, 0, 11))])  # fmt: skip


def finned_sink() -> Body:
    """Thin fins that lie, one above the other, on a stem."""
    solid = rod(46, 7, at=(0, 0, 23)) + rod(5, 16, at=(0, 0, 2.5))
    for z in (14, 24, 34, 44):
        solid += rod(1.8, 17, at=(0, 0, z + 0.9))
    return Body("finned sink", "thin", solid - rod(80, 3, at=(0, 0, 20)), (-16, -16, -0.1, 16, 16, 0.1),
                (-17, -17, 45.7, 17, 17, 46.1))  # fmt: skip


def shelf_tray() -> Body:
    """A tray with a handle that bridges above it."""
    solid = box(70, 40, 12) - box(66, 36, 12, (0, 0, 2))
    solid += box(5, 12, 34, (-32.5, 0, 0)) + box(5, 12, 34, (32.5, 0, 0)) + box(70, 12, 4, (0, 0, 32))
    return Body("shelf tray", "thin", solid, (-35, -20, -0.1, 35, 20, 0.1), (-10, -6, 35.9, 10, 6, 36.1),
                ((0, 0, 40), (0, 10, 0)), [box(50, 30, 16, (0, 0, 3))])  # fmt: skip


# --------------------------------------------------------------------------- grown


def bead_strand() -> Body:
    """Balls run into each other: rounds that face the plate, everywhere."""
    at = [(0, 0, 9, 9.5), (13, 3, 14, 9), (24, -4, 20, 8), (12, -9, 21, 8), (3, 4, 27, 9), (-12, 2, 16, 7)]
    solid = union(m3.Manifold.sphere(r, 56).translate((x, y, z)) for x, y, z, r in at).trim_by_plane((0, 0, 1), 0.6)
    return Body(
        "bead strand", "grown", solid, (-9, -9, 0.5, 9, 9, 0.7), (-2, 0, 34, 8, 9, 36.5), ((0, 0, 20), (10, 0, 0))
    )


def bone() -> Body:
    """Two heads on a shaft, lying on a small flat."""
    heads = [m3.Manifold.sphere(r, 64).translate((x, y, 12)) for x, y, r in ((-30, 6, 10), (-30, -6, 10), (30, 0, 13))]
    solid = union([*heads, rod(60, 6.5, "x", (0, 0, 12))]).trim_by_plane((0, 0, 1), 2.5)
    return Body("bone", "grown", solid, (-42, -18, 2.4, -20, 18, 2.6), (34, -8, 6, 44, 8, 18), ((40, 0, 0), (0, 20, 0)))


def branch() -> Body:
    """A stem with limbs that lean out at all angles."""
    solid = m3.Manifold.cylinder(60, 7, 4.5, 48) + rod(4, 18, at=(0, 0, 2))
    for turn, lean, z, long in ((0, 50, 18, 34), (130, 62, 26, 30), (250, 75, 34, 24), (60, 90, 44, 18)):
        limb = m3.Manifold.cylinder(long, 4, 2.6, 40).rotate((0, lean, 0)).rotate((0, 0, turn))
        solid += limb.translate((0, 0, z))
    return Body(
        "branch", "grown", solid, (-18, -18, -0.1, 18, 18, 0.1), (-5, -5, 59.9, 5, 5, 60.1), ((0, 0, 30), (6, 0, 0))
    )


def shell_grip() -> Body:
    """A handle with a hollow for the fingers and a twisted, swelling section."""
    outline = m3.CrossSection.circle(13, 64).scale((1.25, 0.85))
    solid = m3.Manifold.extrude(outline, 70, 40, 35, (0.75, 0.9)).translate((0, 0, 0))
    for z in (16, 32, 48):
        solid -= m3.Manifold.sphere(8, 48).scale((1, 2.4, 1)).translate((17.5, 0, z))
    solid += rod(5, 19, at=(0, 0, 2.5)) - rod(200, 3.2, at=(0, 0, 0))
    return Body("shell grip", "grown", solid - rod(200, 3.2), (-20, -20, -0.1, 20, 20, 0.1), (-9, -9, 69.9, 9, 9, 70.1),
                ((0, 0, 60), (15, 0, 0)))  # fmt: skip


MAKERS = (
    pulley_fork, bearing_block, flanged_hub, stepped_block, tee_slot_rail, cross_valve, dovetail_slide,
    cast_lever, pedestal, bell_crank, pipe_saddle, hook, webbed_bracket,
    sheet_angle, sheet_channel, cable_clip, slotted_panel,
    instrument_cover, funnel, finned_sink, shelf_tray,
    bead_strand, bone, branch, shell_grip,
)  # fmt: skip


def wavy_torus(around: int = 380, across: int = 192) -> Mesh:
    """145,920 facets without symmetry: a torus whose tube swells and twists."""
    u, v = np.meshgrid(
        np.linspace(0, 2 * np.pi, around, endpoint=False),
        np.linspace(0, 2 * np.pi, across, endpoint=False),
        indexing="ij",
    )
    tube = 9 + 1.5 * np.cos(5 * u + 1) + 0.7 * np.sin(3 * v + 2 * u)
    ring = 34 + 3 * np.cos(2 * u) + tube * np.cos(v)
    points = np.stack([ring * np.cos(u), ring * np.sin(u), tube * np.sin(v) + 2 * np.sin(3 * u)], axis=-1).reshape(
        -1, 3
    )
    i, j = np.meshgrid(np.arange(around), np.arange(across), indexing="ij")
    corner = [((i + a) % around) * across + (j + b) % across for a, b in ((0, 0), (1, 0), (1, 1), (0, 1))]
    a, b, c, d = (x.ravel() for x in corner)
    return Mesh(points, np.concatenate([np.c_[a, b, c], np.c_[a, c, d]]))
