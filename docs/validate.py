"""Writes validation.md: bodies whose stress is known by formula, against the section sweep and the finite elements.

python docs/validate.py            (in the project's own environment, with engine/ on the path; some minutes)
"""

import sys
from dataclasses import dataclass
from pathlib import Path

import manifold3d as m3
import numpy as np

from hewel_engine.geometry.frames import upright
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.hardware.catalogue import STEEL_MODULUS
from hewel_engine.loads.cases import read_loads
from hewel_engine.materials import MATERIALS
from hewel_engine.processes import Process
from hewel_engine.strength.allowables import strengths
from hewel_engine.strength.clamping import Clamp, Seat
from hewel_engine.strength.cores import Core
from hewel_engine.strength.criterion import indices, principal
from hewel_engine.strength.reserves import sectioned, sections_of
from hewel_engine.strength.stressing import Stressed, stressed

CUBES = 120_000
PETG = MATERIALS["petg"]
DENSE = Process(infill=1.0, layer=0.5)
ANGLES = (0, 30, 45, 60, 90)


@dataclass(frozen=True)
class Row:
    body: str
    what: str
    hand: float
    sections: float | None
    elements: float
    formula: str

    def line(self) -> str:
        off = lambda v: "" if v is None else f"{v:.4g} ({100 * (v / self.hand - 1):+.1f} %)"
        told = (self.body, self.what, f"{self.hand:.4g}", off(self.sections), off(self.elements), self.formula)
        return "| " + " | ".join(told) + " |"


def mesh_of(solid: m3.Manifold) -> Mesh:
    out = solid.to_mesh64()
    return Mesh(np.asarray(out.vert_properties)[:, :3].copy(), np.asarray(out.tri_verts).astype(np.int32))


def flat(point, normal) -> dict:
    return {"plane": {"point": list(point), "normal": list(normal)}}


def solved(solid, fixed, load, voxel_count) -> Stressed:
    loads = read_loads(
        {"fixed": fixed, "cases": [{"name": "load", "loads": load if isinstance(load, list) else [load]}]}
    )
    return stressed(mesh_of(solid), None, loads, DENSE, voxel_count=voxel_count, solid=True)


def at(found: Stressed, keep) -> np.ndarray:
    """(k, 6) stresses at the points that count and that ``keep`` (places → bool) chooses."""
    rows = found.kept & keep(found.points.places)
    return found.cases[0].stress[rows].astype(float)


def swept(found: Stressed, up, z: float, key: str) -> float:
    rows = sections_of(found, sectioned(found.mesh, np.array(up, float), DENSE, True))
    return min(rows, key=lambda r: abs(r["z_mm"] - z))[key]


def cantilevers(voxel_count: int) -> list[Row]:
    """Bars 80 mm long, pulled sideways with 20 N, looked at 20 mm above the foot, their layers at five angles."""
    long, force, z = 80.0, 20.0, 20.0
    bars = {
        "round bar 12": (m3.Manifold.cylinder(long, 6, 6, 96), np.pi * 6**4 / 4, 6),
        "square bar 10": (m3.Manifold.cube((10, 10, long)).translate((-5, -5, 0)), 10**4 / 12, 5),
        "tube 16 × 2.5": (
            m3.Manifold.cylinder(long, 8, 8, 96) - m3.Manifold.cylinder(3 * long, 5.5, 5.5, 96).translate((0, 0, -9)),
            np.pi * (8**4 - 5.5**4) / 4,
            8,
        ),
    }
    out, s = [], strengths(PETG)
    for name, (solid, second, fibre) in bars.items():
        load = {"on": flat((0, 0, long), (0, 0, 1)), "force_n": [force, 0, 0]}
        found = solved(solid, [{"on": flat((0, 0, 0), (0, 0, -1))}], load, voxel_count)
        near = at(found, lambda p: np.abs(p[:, 2] - z) < 0.6)
        hand = force * (long - z) * fibre / second
        sweep = swept(found, (0, 0, 1), z, "sigma_max_mpa")
        out.append(Row(name, "bending stress 20 mm up, MPa", hand, sweep, near[:, 2].max(), "F·(L − z)·c/I"))
        for angle in ANGLES:
            a = np.radians(angle)
            up = np.array([0.0, np.sin(a), np.cos(a)])  # tilted within the neutral plane
            c, t = hand * np.cos(a) ** 2, hand * np.cos(a) * np.sin(a)
            index = max(np.hypot(c / s.z_t, t / s.z_s), hand / s.x_t)
            worst = indices(near, up, s).worst.max()
            out.append(Row(name, f"reserve, layers tilted {angle}°", 1 / index, None, 1 / worst, "1/max(I, σ/X_t)"))
    return out


def twisted(voxel_count: int) -> list[Row]:
    torque = 2000.0
    out = []
    for name, solid, hand, formula in (
        ("round bar 12", m3.Manifold.cylinder(60, 6, 6, 96), 2 * torque / (np.pi * 6**3), "2T/(π·R³)"),
        ("square bar 10", m3.Manifold.cube((10, 10, 60)).translate((-5, -5, 0)), 4.81 * torque / 10**3, "4.81·T/a³"),
    ):
        load = {"on": flat((0, 0, 60), (0, 0, 1)), "moment_nmm": [0, 0, torque]}
        found = solved(solid, [{"on": flat((0, 0, 0), (0, 0, -1))}], load, voxel_count)
        near = at(found, lambda p: np.abs(p[:, 2] - 30) < 3)
        shear = np.hypot(near[:, 4], near[:, 5]).max()
        out.append(
            Row(name, "shear under a torque, MPa", hand, swept(found, (0, 0, 1), 30, "tau_max_mpa"), shear, formula)
        )
    return out


def plate_with_hole(voxel_count: int) -> list[Row]:
    wide, bore, thick, force = 60.0, 15.0, 6.0, 3000.0
    solid = m3.Manifold.cube((140, wide, thick), True) - m3.Manifold.cylinder(40, bore / 2, bore / 2, 128, True)
    found = solved(
        solid, [{"on": flat((-70, 0, 0), (-1, 0, 0))}],
        {"on": flat((70, 0, 0), (1, 0, 0)), "force_n": [force, 0, 0]}, 3 * voxel_count,
    )  # fmt: skip
    near = at(found, lambda p: np.hypot(p[:, 0], p[:, 1]) < bore)
    hand = (2 + (1 - bore / wide) ** 3) * force / ((wide - bore) * thick)
    return [Row("plate with a hole", "peak, MPa", hand, None, near[:, 0].max(), "Heywood: (2 + (1 − D/W)³)·σ_net")]


def lug(voxel_count: int) -> list[Row]:
    """A bore loaded as by a pin: the net section pulls, and the peak is that of a wide plate with a loaded bore."""
    wide, bore, thick, force = 40.0, 16.0, 10.0, 1500.0
    block = m3.Manifold.cube((60, wide, thick), True).translate((-30, 0, 0))
    solid = block + m3.Manifold.cylinder(thick, wide / 2, wide / 2, 128, True)
    solid -= m3.Manifold.cylinder(3 * thick, bore / 2, bore / 2, 128, True)
    pin = {"cylinder": {"point": [0, 0, 0], "axis": [0, 0, 1], "radius": bore / 2}}
    found = solved(
        solid, [{"on": flat((-60, 0, 0), (-1, 0, 0))}], {"on": pin, "force_n": [force, 0, 0]}, 2 * voxel_count
    )
    far = at(found, lambda p: np.abs(p[:, 0] + 38) < 1)
    sweep = swept(found, (1, 0, 0), 60 - 38, "sigma_max_mpa")
    return [Row("lug, 38 mm behind the pin", "pull, MPa", force / (wide * thick), sweep, far[:, 0].mean(), "F/A")]


def curved_beam(voxel_count: int) -> list[Row]:
    """A half ring of square section pulled open: Winkler's formula at the crown."""
    inner, outer, thick, force = 12.0, 24.0, 10.0, 150.0
    ring = m3.Manifold.cylinder(thick, outer, outer, 192, True) - m3.Manifold.cylinder(
        3 * thick, inner, inner, 192, True
    )
    half = ring ^ m3.Manifold.cube((60, 60, 60), True).translate((30, 0, 0))
    legs = [
        m3.Manifold.cube((20, outer - inner, thick), True).translate((-10, s * (inner + outer) / 2, 0)) for s in (-1, 1)
    ]
    solid = half + legs[0] + legs[1]
    pull = {"on": {"box": [[-20.1, inner - 1, -9], [-19.9, outer + 1, 9]]}, "force_n": [0, force, 0]}
    found = solved(solid, [{"on": {"box": [[-20.1, -outer - 1, -9], [-19.9, -inner + 1, 9]]}}], pull, voxel_count)
    depth, area = outer - inner, (outer - inner) * thick
    neutral = depth / np.log(outer / inner)
    middle = (inner + outer) / 2
    moment = force * (middle + 20)  # of the pull, 20 mm behind the ring's centre, about the crown's centroid
    e = middle - neutral
    hand = moment * (neutral - inner) / (area * e * inner) + force / area
    near = at(found, lambda p: (p[:, 0] > inner - 1) & (np.abs(p[:, 1]) < 1.5))
    return [
        Row("curved beam", "inner fibre at the crown, MPa", hand, None, near[:, 1].max(), "Winkler: M·c/(A·e·r) + F/A")
    ]


def three_point(voxel_count: int) -> list[Row]:
    span, force = 60.0, 120.0
    solid = m3.Manifold.cube((80, 10, 8), True)
    edge = lambda x: {"box": [[x - 0.05, -6, -4.1], [x + 0.05, 6, -3.9]]}  # a support gives no moment
    found = solved(
        solid, [{"on": edge(-span / 2)}, {"on": edge(span / 2), "hold": "yz"}],
        {"on": {"box": [[-1.5, -6, 3.9], [1.5, 6, 4.1]]}, "force_n": [0, 0, -force]}, voxel_count,
    )  # fmt: skip
    near = at(found, lambda p: np.abs(p[:, 0] - 15) < 0.6)
    hand = force / 2 * (span / 2 - 15) * 4 / (10 * 8**3 / 12)
    sweep = swept(found, (1, 0, 0), 40 + 15, "sigma_max_mpa")
    return [
        Row("three-point bend", "lower fibre at a quarter, MPa", hand, sweep, near[:, 0].max(), "F/2·(l/2 − x)·c/I")
    ]


def oblique(voxel_count: int) -> list[Row]:
    """An even pull on layers at 45°: σ_n = τ = σ/2."""
    solid = m3.Manifold.cube((10, 10, 60)).translate((-5, -5, 0))
    load = {"on": flat((0, 0, 60), (0, 0, 1)), "force_n": [0, 0, 1000]}
    found = solved(solid, [{"on": flat((0, 0, 0), (0, 0, -1))}], load, voxel_count)
    near = at(found, lambda p: np.abs(p[:, 2] - 30) < 2)
    up = upright([0, 1, 1])[2]
    traction = near[:, [5, 4, 2]] * up[2] + near[:, [3, 1, 4]] * up[1]
    across = traction @ up
    between = np.linalg.norm(traction - across[:, None] * up, axis=1)
    assert principal(near)[:, 2].max() < 10.2
    return [
        Row("bar under 10 MPa", "σ_n on layers at 45°, MPa", 5.0, None, float(np.median(across)), "σ/2"),
        Row("bar under 10 MPa", "τ on layers at 45°, MPa", 5.0, None, float(np.median(between)), "σ/2"),
    ]


def bolted(voxel_count: int) -> list[Row]:
    """A sleeve squeezed over its whole ends: its gap closes by l/(E·A) a newton; a bolt takes Φ of a pull on them."""
    side, tall, hole = 20.0, 40.0, 6.0
    tab = m3.Manifold.cube((4, 4, 4), True).translate((side / 2 + 2, 0, 0))
    solid = m3.Manifold.cube((side, side, tall), True) + tab
    solid -= m3.Manifold.cylinder(tall + 2, hole / 2, circular_segments=64, center=True)
    mesh, wide = mesh_of(solid), 2 * side / np.sqrt(np.pi)
    seat = lambda z: Seat(np.array([0, 0, z]), np.array([0, 0, np.sign(z)]), hole, wide)
    pull = [{"on": flat((0, 0, s * tall / 2), (0, 0, s)), "force_n": [0, 0, s * 900]} for s in (1, -1)]
    loads = {"fixed": [{"on": flat((side / 2 + 4, 0, 0), (1, 0, 0))}], "cases": [{"name": "pull", "loads": pull}]}
    given, clamp = read_loads(loads), Clamp("bolt", seat(tall / 2), seat(-tall / 2))
    found = stressed(mesh, None, given, DENSE, voxel_count=voxel_count, solid=True, clamps=[clamp])
    soft = tall / (DENSE.stock.e_xy * (side**2 - np.pi * hole**2 / 4))
    taken = found.clamping.taken(np.array([soft / 9]))[0, 0]
    gap = 1e6 * found.clamping.flexibility[0, 0]
    return [
        Row("sleeve 20 × 40", "gap under a newton, nm", 1e6 * soft, None, gap, "l/(E·A)"),
        Row("sleeve 20 × 40", "its bolt's share of 900 N, N", 810.0, None, taken, "Φ·F, Φ = δ_p/(δ_p + δ_b) = 0.9"),
    ]


def with_rod(voxel_count: int) -> list[Row]:
    """A square bar with a steel rod glued along its middle, bent at its end."""
    side, long, d, force = 16.0, 120.0, 6.0, 20.0
    bar = mesh_of(m3.Manifold.cube((side, side, long), True).translate((0, 0, long / 2)))
    load = {"on": flat((0, 0, long), (0, 0, 1)), "force_n": [force, 0, 0]}
    loads = {"fixed": [{"on": flat((0, 0, 0), (0, 0, -1))}], "cases": [{"name": "bend", "loads": [load]}]}
    ratio = STEEL_MODULUS / DENSE.stock.e_xy
    core = Core(np.array([0.0, 0, 0]), np.array([0.0, 0, long]), d, ratio)
    given = read_loads(loads, len(bar.faces))
    found = stressed(bar, None, given, DENSE, voxel_count=voxel_count, solid=True, cores=[core])
    near = at(found, lambda p: (np.abs(p[:, 2] - long / 2) < 1) & (np.abs(np.abs(p[:, 0]) - side / 2) < 0.05))
    total = side**4 / 12 + ratio * np.pi * d**4 / 64
    hand = force * long / 2 * side / 2 / total
    return [
        Row("bar 16 with a rod of 6", "fibre at its middle, MPa", hand, None, np.abs(near[:, 2]).max(),
            "M·c/(I_p + n·π·d⁴/64)")
    ]  # fmt: skip


def rows(voxel_count: int = CUBES) -> list[Row]:
    parts = (oblique, cantilevers, twisted, three_point, curved_beam, plate_with_hole, lug, bolted, with_rod)
    return [row for part in parts for row in part(voxel_count)]


HEAD = """# Validation

Made by `docs/validate.py`; dense PETG, isotropic stiffness, about {cubes:,} cubes a body (the plate and the lug more).
Differences are against the formula. Zones round held and loaded faces are left out, as in the product.

| body | quantity | by hand | section sweep | finite elements | formula |
|---|---|---|---|---|---|
"""


def main() -> None:
    voxel_count = int(sys.argv[1]) if len(sys.argv) > 1 else CUBES
    lines = [row.line() for row in rows(voxel_count)]
    Path(__file__).with_name("validation.md").write_text(HEAD.format(cubes=voxel_count) + "\n".join(lines) + "\n")
    print("\n".join(lines))


if __name__ == "__main__":
    main()
