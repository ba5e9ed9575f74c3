"""Sizes by calculation: an arm, a panel, a ribbed panel, a boss, each solved for what is not known. mm, N, MPa.

Slender beams (Euler–Bernoulli), loads at rest, small deflections; an arm held stiffly at one end and pulled at the
other, a panel as a strip held freely at two opposite sides under an even load, a boss pulled along its axis. Wide
panels held on four sides carry more. What is allowed is the strength of the material for a pull along the span by the
build direction, over the required factor. Not for anything whose failure can injure: that wants the strength of the
real part, and a proof.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from math import pi, sqrt

import numpy as np

from hewel_engine.geometry.mesh import Array
from hewel_engine.processes import Process
from hewel_engine.strength.allowables import Circumstances, knock_downs, product, strengths
from hewel_engine.strength.criterion import indices
from hewel_engine.strength.lines import SKIN, Lie
from hewel_engine.walls.lines import USUAL, Comb, whole_lines

AS_TESTED = Circumstances()
WIDEST_FLAT = 20.0
"""Ribs stand at most this many of the panel's thicknesses apart, middle to middle, so that the panel between them does
not buckle or sag before they carry."""
MOST = 1000.0
"""mm beyond which no size is looked for."""


@dataclass(frozen=True)
class Allowed:
    """MPa of a pull along the span; ``mode`` is how it would fail, ``lean`` degrees between span and layers."""

    stress: float
    stiffness: float
    mode: str
    lean: float

    def as_dict(self) -> dict:
        return {"allowed_mpa": self.stress, "stiffness_mpa": self.stiffness, "mode": self.mode, "lean_deg": self.lean}


def allowed(
    process: Process, along: Array, up: Array, factor: float, around: Circumstances = AS_TESTED,
    normal: Array | None = None,
) -> Allowed:  # fmt: skip
    """What a bent strip may carry at its surface, with the knock-downs of a load at rest ``around`` it, those that
    strength counts too; ``normal`` of the face that is pulled: where it lies level, it is a skin. Stiffness between
    layers' and lines' by the span's lean: 1/E = cos²/E_x + sin²/E_z, rough, for figures of sizing only.
    """
    a = np.asarray(along, float) / np.linalg.norm(along)
    b = np.asarray(up, float) / np.linalg.norm(up)
    x, y, z = a
    pull = np.array([[x * x, y * y, z * z, x * y, y * z, z * x]])
    lines = knock_downs(process.stock, "static", None, around)
    lie = None if normal is None else Lie(np.asarray(normal, float)[None], np.array([SKIN]))
    used = strengths(process.stock).times(*(product(lines, on) for on in ("all", "across", "along")))
    found = indices(pull, b, used, lie)
    sine = min(abs(float(a @ b)), 1.0)
    stock = process.stock
    stiffness = 1 / ((1 - sine**2) / stock.e_xy + sine**2 / stock.e_z)
    lean = float(np.degrees(np.arcsin(sine)))
    return Allowed(float(1 / found.worst[0] / factor), stiffness, found.mode(0), lean)


@dataclass(frozen=True)
class Bent:
    """A piece that is bent. ``kind``: arm or panel; ``load`` N in all; ``sag`` mm that it may give, None: no limit."""

    kind: str
    span: float
    width: float
    load: float
    sag: float | None = None

    @property
    def moment(self) -> float:
        """N·mm at its worst place: F·L of an arm, F·L/8 of an evenly loaded strip."""
        return self.load * self.span / (1.0 if self.kind == "arm" else 8.0)

    def given(self, stiffness: float) -> float:
        """mm it gives: F·L³/(3·EI) of an arm, 5·F·L³/(384·EI) of a strip."""
        share = 1 / 3 if self.kind == "arm" else 5 / 384
        return share * self.load * self.span**3 / stiffness


@dataclass(frozen=True)
class Section:
    """A section of a bent piece: ``second`` mm⁴·share of E, ``edge`` mm from its middle to the worst fibre, ``area``
    mm² printed (infill by its share), ``words`` what it is.
    """

    second: float
    edge: float
    area: float
    words: str


def plate(width: float, thick: float) -> Section:
    """All lines: I = b·t³/12."""
    return Section(width * thick**3 / 12, thick / 2, width * thick, f"{thick:.2f} mm of lines")


def block(width: float, deep: float, process: Process) -> Section:
    """Perimeters round a core of infill: the core counts φ^m in stiffness."""
    shell = min(process.shell, width / 2, deep / 2)
    core = (width - 2 * shell) * (deep - 2 * shell) ** 3 / 12
    rest = (width - 2 * shell) * (deep - 2 * shell)
    share = process.infill
    second = width * deep**3 / 12 - core * (1 - share**process.stiffness_power)
    area = width * deep - rest * (1 - share)
    return Section(second, deep / 2, area, f"a block {deep:.1f} mm deep, {share:.0%} infill")


def as_it_is(width: float, thick: float, process: Process) -> Section:
    """What is printed of a wall: lines alone, or perimeters round infill where there is room for it."""
    return plate(width, thick) if thick <= Comb.of(process).heavy else block(width, thick, process)


def ribbed(width: float, thick: float, rib: float, high: float, pitch: float) -> Section:
    """T-sections side by side: a plate with ribs on one face, ``pitch`` mm from middle to middle."""
    count = max(1, round(width / pitch))
    flange, web = width * thick, count * rib * high
    middle = (flange * thick / 2 + web * (thick + high / 2)) / (flange + web)
    second = width * thick**3 / 12 + flange * (middle - thick / 2) ** 2
    second += count * rib * high**3 / 12 + web * (thick + high / 2 - middle) ** 2
    edge = max(thick + high - middle, middle)
    words = f"a plate of {thick:.2f} mm with {count} rib{'s' if count > 1 else ''} {rib:.2f} × {high:.1f} mm"
    return Section(second, edge, flange + web, words)


@dataclass(frozen=True)
class Sized:
    """A section under its load. ``reserve`` with the required factor in it: 1 is enough."""

    section: Section
    size: float
    """mm that was solved for: thickness, depth, or height of ribs."""
    stress: float
    reserve: float
    gives: float
    governs: str
    """strength or stiffness, whichever asked for the size; given, where it was not solved for."""
    grams: float
    seconds: float

    def as_dict(self) -> dict:
        return {
            "words": self.section.words, "size_mm": self.size, "stress_mpa": self.stress, "reserve": self.reserve,
            "gives_mm": self.gives, "governs": self.governs, "grams": self.grams, "seconds": self.seconds,
        }  # fmt: skip


def under(piece: Bent, section: Section, may: Allowed, process: Process, size: float, governs: str = "given") -> Sized:
    """σ = M·e/I against what is allowed; what it gives; mass, and the time of laying it at the flow of its lines."""
    stress = piece.moment * section.edge / section.second
    volume = section.area * piece.span
    reserve = may.stress / stress if stress > 0 else np.inf
    gives = piece.given(may.stiffness * section.second)
    grams = volume * 1e-3 * process.stock.density
    return Sized(section, size, stress, reserve, gives, governs, grams, volume / process.outer_flow)


def solved(
    piece: Bent, may: Allowed, process: Process, section_of: Callable, rounded: Callable = lambda size: size
) -> Sized | None:
    """The least size whose ``section_of`` carries the load and gives no more than it may; None where none does."""
    strong = lambda size: may.stress >= piece.moment * section_of(size).edge / section_of(size).second
    stiff = lambda size: piece.sag is None or piece.given(may.stiffness * section_of(size).second) <= piece.sag
    wants = [_least(strong), _least(stiff)]
    if None in wants:
        return None
    size = rounded(max(wants))
    governs = "strength" if wants[0] >= wants[1] else "stiffness"
    return under(piece, section_of(size), may, process, size, governs)


def _least(holds) -> float | None:
    """mm, to a thousandth, from which on ``holds``; None where it does not up to MOST."""
    low, high = 0.0, MOST
    if not holds(high):
        return None
    while high - low > 1e-4:
        middle = (low + high) / 2
        low, high = (low, middle) if holds(middle) else (middle, high)
    return high


def ribbing(width: float, comb: Comb) -> tuple[float, float]:
    """mm of plate and ribs of a ribbed piece, whole lines of what serves most enclosures; and from rib to rib."""
    thin = whole_lines(USUAL, comb)
    return thin, min(WIDEST_FLAT * thin, width)


def ways(piece: Bent, may: Allowed, process: Process, thick: float) -> dict[str, Sized | None]:
    """The piece as it is, solid at the thickness that is needed, and by both schools: a thin plate with ribs of whole
    lines, and a block of perimeters and infill. Each is solved for the same load, factor and sag.
    """
    comb = Comb.of(process)
    lines = lambda size: whole_lines(size, comb)
    thin, pitch = ribbing(piece.width, comb)
    tenth = lambda size: float(np.ceil(size * 10 - 1e-9) / 10)
    least_block = 2 * process.shell
    return {
        "as_it_is": under(piece, as_it_is(piece.width, thick, process), may, process, thick),
        "lines": solved(piece, may, process, lambda t: plate(piece.width, max(t, 1e-3)), lines),
        "ribs": solved(piece, may, process, lambda h: ribbed(piece.width, thin, thin, max(h, 1e-3), pitch), tenth),
        "block": solved(
            piece, may, process, lambda d: block(piece.width, max(d, 1e-3), process),
            lambda size: max(tenth(size), tenth(least_block)),
        ),
    }  # fmt: skip


def greatest_load(piece: Bent, section: Section, may: Allowed) -> tuple[float, str]:
    """N that a section carries, and whether strength or stiffness ends it."""
    one = replace(piece, load=1.0)
    strong = may.stress / (one.moment * section.edge / section.second)
    stiff = np.inf if piece.sag is None else piece.sag / one.given(may.stiffness * section.second)
    return (strong, "strength") if strong <= stiff else (stiff, "stiffness")


def rib_pitch(thick: float, pressure: float, sag: float, stiffness: float) -> float:
    """mm between ribs at which a panel under an even pressure (MPa) gives ``sag`` between them: a strip held freely,
    per width δ = 5·p·L⁴/(384·E·t³/12).
    """
    return float((384 * stiffness * thick**3 / 12 * sag / (5 * pressure)) ** 0.25)


def boss(pull: float, hole: float, may: Allowed, process: Process) -> tuple[float, float]:
    """mm outside, in whole lines of wall, of a boss round a ``hole`` whose weld carries a ``pull`` (N) along it, and
    the N that it then carries.
    """
    area = pull / may.stress
    out = sqrt(hole**2 + 4 * area / pi)
    wall = whole_lines((out - hole) / 2, Comb.of(process))
    out = hole + 2 * wall
    return out, may.stress * pi * (out**2 - hole**2) / 4


def sized(
    piece: Bent, thick: float, along: Array, up: Array, factor: float, process: Process,
    around: Circumstances = AS_TESTED, normal: Array | None = None,
) -> dict:  # fmt: skip
    """All that is told of a bent piece ``thick`` mm thick: what it may carry, and every way of making it."""
    may = allowed(process, along, up, factor, around, normal)
    most, ends = greatest_load(piece, as_it_is(piece.width, thick, process), may)
    pressure = piece.load / (piece.span * piece.width)
    pitch = None
    if piece.kind == "panel" and piece.sag is not None:
        pitch = rib_pitch(thick, pressure, piece.sag, may.stiffness)
    rows = ways(piece, may, process, thick)
    result = {name: row.as_dict() if row else None for name, row in rows.items()}
    thin, apart = ribbing(piece.width, Comb.of(process))
    return may.as_dict() | {
        "most_load_n": most, "most_ends": ends, "rib_pitch_mm": pitch, "rib_mm": thin, "ribs_apart_mm": apart,
        "ways": result,
    }  # fmt: skip


ENGAGED = 2.0
"""Diameters of depth that a screw cut in plastic wants (handbook)."""


def sized_boss(
    pull: float, hole: float, up: Array, factor: float, process: Process, around: Circumstances = AS_TESTED
) -> dict:
    """A boss that stands up and is pulled up: its weld carries it."""
    may = allowed(process, up, up, factor, around)
    out, carries = boss(pull, hole, may, process)
    return {
        "allowed_mpa": may.stress, "outside_mm": out, "carries_n": carries, "wall_mm": (out - hole) / 2,
        "engagement_mm": ENGAGED * hole,
    }  # fmt: skip
