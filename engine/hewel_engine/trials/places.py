"""Where each coupon is measured: places on the body as it stands on the plate, to be drawn beside its sheet. mm."""

from math import cos, pi, radians, tan

from hewel_engine.processes import Process
from hewel_engine.trials import coupons as c

Place = tuple[float, float, float]
WAIST = (-12.0, 0.0, 12.0)
"""Along the waist, where width and thickness are measured."""


def _blades(_: c.Asked) -> list[Place]:
    out = []
    for i in range(0, len(c.ANGLES), 4):
        lean = radians(c.ANGLES[i])
        rise = min(20.0, 15.0 / tan(lean))
        out.append((c.SPINE / 2 + rise * tan(lean) / 2, c.BLADES_APART * (i + 0.5), c.BLADE_FROM + rise / 2))
    return out


def _decks(a: c.Asked) -> list[Place]:
    under = a.layers(c.BRIDGE_BASE) + c.PIER_TALL
    return [(2 + c.PIER + s / 2, 4 + i * (c.PIER_WIDE + 4) + c.PIER_WIDE / 2, under) for i, s in enumerate(c.SPANS)]


def _rows(many: int, apart: float, each: float, z: float, y: float) -> list[Place]:
    return [(apart * (i % many + 0.5), y + each * (i // many), z) for i in range(many)]


def _walls(_: c.Asked) -> list[Place]:
    return [(9.0 * (i % 10 + 0.5) + c.WALLS[i] / 2, 18.0 * (i // 10 + 0.5), 7.0) for i in range(0, len(c.WALLS), 4)]


def _bores(_: c.Asked) -> list[Place]:
    return [(x, 10.0, 10.0) for x in c._row(4.0)[0]]


def _lying(_: c.Asked) -> list[Place]:
    return [(x, 0.0, max(d, 6.0) + 4 + d / 2) for d, x in zip(c.BORES, c._row(5.0)[0], strict=True)]


def _cross(a: c.Asked) -> list[Place]:
    long = min(180.0, a.bed - 20)
    gauges = sorted([*(g for g in c.GAUGES if g < long), long], reverse=True)
    level = 4.0 / len(gauges)
    outside = [(s * g / 2, 2.7, 2 + level * (i + 0.5)) for i, g in enumerate(gauges) for s in (-1, 1)]
    tower = long / 2 - 12
    return outside + [(tower + 6 + 1.5 * (len(c.LEDGES) - i), tower, z) for i, z in enumerate(c.LEDGES)]


def _flat(_: c.Asked) -> list[Place]:
    return [(x, c.FLAT["waist"] / 2, c.FLAT_THICK / 2) for x in WAIST]


def _upright(_: c.Asked) -> list[Place]:
    return [(4.0, 0.0, c.UPRIGHT_TALL / 2 + 0.6 * dz) for dz in WAIST]


def _aslant(_: c.Asked) -> list[Place]:
    bar = c.shapely.affinity.rotate(c._waisted(**c.FLAT), 45, origin=(0, 0))
    middle = -bar.bounds[1]
    return [(x * cos(pi / 4), -c.FLAT_THICK / 2, middle + x * cos(pi / 4)) for x in WAIST]


def _arms(a: c.Asked) -> list[Place]:
    return [(9 + 16.0 * i, 14 + c.SNAP_LONG, 3.0) for i in range(3)]


PLACES = {
    "overhang": _blades, "bridge": _decks, "walls": _walls, "bores": _bores, "bores_lying": _lying, "shrink": _cross,
    "clearance": lambda a: _rows(len(c.CLEARANCES), c.APART, 0.0, c.FIT_TALL, c.APART / 2),
    "clearance_in_place": lambda a: _rows(6, c.DISC + 8, 0.0, a.layers(1.6) + a.layers(max(c.GAPS)) + c.DISC_TALL,
                                          (c.DISC + 8) / 2),
    "tensile_x": _flat, "tensile_a": _flat, "tensile_z": _upright, "batch_z": _upright, "weld_ladder": _upright,
    "tensile_45": _aslant, "snap": _arms, "insert": lambda a: [(10.0, 10.0, 12.0)],
}  # fmt: skip


def places_of(key: str, process: Process, bed: float = c.BED) -> list[Place]:
    """Where a coupon of ``coupons.COUPONS`` is measured."""
    return PLACES[key](c.Asked(process, bed, "", "M4"))
