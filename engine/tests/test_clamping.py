"""Bolts in the stress solution: against closed forms, and against steel modelled in full."""

from dataclasses import replace

import manifold3d as m3
import numpy as np
import pytest
from shapes import box, mesh_of

from hewel_engine.errors import InputError
from hewel_engine.geometry.voxels import filled
from hewel_engine.loads.cases import read_loads
from hewel_engine.processes import Process
from hewel_engine.reckoning.bolts import clamped_weld
from hewel_engine.strength.bricks import isotropic
from hewel_engine.strength.clamping import Clamp, Seat, least_multiple
from hewel_engine.strength.criterion import Strengths
from hewel_engine.strength.lines import Lie
from hewel_engine.strength.model import model_of
from hewel_engine.strength.solution import solve
from hewel_engine.strength.stressing import stressed

UP = np.array([0.0, 0, 1])
STRENGTH = Strengths(45, 55, 28, 50, 20)
NOWHERE = Lie(np.zeros((1, 3)), np.zeros(1, np.int8))


def test_a_weld_by_hand():
    """The card of one weld and the search over points say the same, shear and push included."""
    for normal, shear, closing in ((10, 0, 4), (10, 6, 4), (0, 5, 3), (-4, 5, 3), (12, 0, 30)):
        load = np.array([[0, 0, normal, 0, shear, 0]], float)
        held = np.array([[0, 0, -closing, 0, 0, 0]], float)
        only_welds = replace(STRENGTH, x_t=1e9, x_c=1e9, z_c=1e9)
        found, _ = least_multiple(load, held, UP, only_welds, NOWHERE)
        (wanted, *_), _ = clamped_weld(normal, shear, closing, only_welds.z_t, only_welds.z_s), None
        assert found == pytest.approx(wanted, rel=2e-4), (normal, shear, closing)


def test_a_preload_that_crushes_leaves_no_reserve_and_no_load_no_end():
    crushed = np.array([[0, 0, -60, 0, 0, 0]], float)
    assert least_multiple(np.ones((1, 6)), crushed, UP, STRENGTH, NOWHERE) == (0.0, 0)
    assert least_multiple(np.zeros((1, 6)), crushed / 2, UP, STRENGTH, NOWHERE)[0] == np.inf


# ------------------------------------------------------------------ in the stress solution

PROCESS = Process(infill=1.0, material="petg")
MODULUS = PROCESS.stock.e_xy
HOLE, SIDE, TALL = 6.0, 20.0, 40.0
TAB = box(4, 4, 4).translate((SIDE / 2 + 2, 0, 0))


def block(side=SIDE, tall=TALL) -> m3.Manifold:
    """A block with a hole through it, and a tab to hold it by that takes no part."""
    return box(side, side, tall) + TAB - m3.Manifold.cylinder(tall + 2, HOLE / 2, circular_segments=64, center=True)


def bolt(outer, tall=TALL, name="bolt", x=0.0) -> Clamp:
    return Clamp(
        name,
        Seat(np.array([x, 0, tall / 2]), UP, HOLE, outer),
        Seat(np.array([x, 0, -tall / 2]), -UP, HOLE, outer),
    )


END = {"plane": {"point": [0, 0, TALL / 2], "normal": [0, 0, 1]}}
FOOT = {"plane": {"point": [0, 0, -TALL / 2], "normal": [0, 0, -1]}}
HELD = [{"on": {"plane": {"point": [SIDE / 2 + 4, 0, 0], "normal": [1, 0, 0]}}}]


def pulled(mesh, held, newton, clamps, voxel_count=20_000):
    loads = {"fixed": held, "cases": [{"name": "pull", "loads": [
        {"on": END, "force_n": [0, 0, newton]}, {"on": FOOT, "force_n": [0, 0, -newton]}]}]}  # fmt: skip
    given = read_loads(loads, len(mesh.faces))
    return stressed(mesh, None, given, PROCESS, voxel_count=voxel_count, solid=True, clamps=clamps)


def test_a_sleeve_pressed_over_its_whole_ends():
    """δ_p = l/(E·A) for evenly pressed ends; a pull N on the same ends gives the bolt Φ·N, Φ = δ_p/(δ_p + δ_b)."""
    mesh = mesh_of(block())
    wide = 2 * SIDE / np.sqrt(np.pi)  # a ring as large as the square: its corners and sides even out
    found = pulled(mesh, HELD, 900.0, [bolt(wide)])
    area = SIDE**2 - np.pi * HOLE**2 / 4
    flexible = TALL / (MODULUS * area)
    assert found.clamping.flexibility[0, 0] == pytest.approx(flexible, rel=0.05)
    assert found.clamping.growth[0, 0] == pytest.approx(900 * flexible, rel=0.05)
    bolts = np.array([2 * flexible])
    assert found.clamping.taken(bolts)[0, 0] == pytest.approx(300, rel=0.02)
    assert found.clamping.taken(np.array([1e9]))[0, 0] == pytest.approx(0, abs=1e-3)
    middle = np.abs(found.points.places[:, 2]) < 6
    closing = -found.clamping.stress[0][middle & found.kept][:, 2].mean()
    assert closing == pytest.approx(1 / area, rel=0.05)


def test_closing_spreads_below_a_washer_as_the_handbook_says():
    """0.1 of F/A at 0.3 of the section's width and 0.85 at 0.7, at the rim of a wide section under a small washer."""
    side, tall = 24.0, 60.0
    body = box(side, side, tall) - m3.Manifold.cylinder(tall + 2, HOLE / 2, circular_segments=64, center=True)
    body += box(4, 4, 4).translate((side / 2 + 2, 0, 0))
    mesh = mesh_of(body)
    held = [{"on": {"plane": {"point": [side / 2 + 4, 0, 0], "normal": [1, 0, 0]}}}]
    top = {"plane": {"point": [0, 0, tall / 2], "normal": [0, 0, 1]}}
    loads = {"fixed": held, "cases": [{"name": "turn", "loads": [{"on": top, "moment_nmm": [0, 0, 1]}]}]}
    found = stressed(
        mesh, None, read_loads(loads, len(mesh.faces)), PROCESS, voxel_count=30_000, solid=True, clamps=[bolt(10, tall)]
    )
    at, stress = found.points.places, -found.clamping.stress[0][:, 2]
    area = side**2 - np.pi * HOLE**2 / 4
    rim = (at[:, 0] < -side / 2 + 1) & (np.abs(at[:, 1]) < 6)
    below = lambda share: stress[rim & (np.abs(tall / 2 - at[:, 2] - share * side) < 1)].mean() * area
    assert below(0.3) < 0.25 < 0.6 < below(0.7) < 1.05 and below(1.2) == pytest.approx(1, abs=0.1)


def test_bolt_force_against_steel_modelled_in_full():
    """A bar pulled by ears about its middle, with head, shank and nut as cubes of steel."""
    side, tall, head, washer, shank_r = 24.0, 70.0, 4.0, 18.0, 2.5
    clearance = 12.0  # far enough from the shank for no voxel to join them
    body = box(side, side, tall) - m3.Manifold.cylinder(tall + 2, clearance / 2, circular_segments=64, center=True)
    for x, z in ((1, 1), (1, -1), (-1, 1), (-1, -1)):
        body += box(5, side, 6).translate((x * (side / 2 + 2), 0, z * 17))
    ends = [m3.Manifold.cylinder(head, washer / 2, circular_segments=64, center=True).translate((0, 0, z))
            for z in (-(tall + head) / 2, (tall + head) / 2)]  # fmt: skip
    shank = m3.Manifold.cylinder(tall, shank_r, circular_segments=64, center=True)
    whole, plain = mesh_of(body + ends[0] + ends[1] + shank), mesh_of(body)
    face = lambda z: {"plane": {"point": [0, 0, z], "normal": [0, 0, np.sign(z)], "tol": 0.05}}
    loads = {"fixed": [{"on": face(-20)}], "cases": [
        {"name": "pull", "loads": [{"on": face(20), "force_n": [0, 0, 500]}]}]}  # fmt: skip
    size, steel = 1.0, 205_000.0
    voxels = filled(whole, size)
    z, y, x = np.meshgrid(*(np.arange(n) for n in voxels.share.shape), indexing="ij")
    middles = voxels.grid.origin + size * (np.stack([x, y, z], -1) + 0.5)
    away = np.hypot(middles[..., 0], middles[..., 1])
    is_steel = (away < 4) | ((np.abs(middles[..., 2]) > tall / 2) & (away < washer / 2 + 1))
    stiff = np.where(is_steel, steel / MODULUS, 1.0) * voxels.share
    given = read_loads(loads, len(whole.faces))
    full = model_of(
        whole, None, list(given.holds), [(given.cases[0], 1.0)], voxels, stiff, 0 * stiff, isotropic(0.38), MODULUS
    )
    (answer,) = solve(full)
    nodes = voxels.grid.origin + size * full.lattice.nodes[:, ::-1]
    column = np.hypot(nodes[:, 0], nodes[:, 1]) < shank_r
    level = lambda z: answer.displacement[column & (np.abs(nodes[:, 2] - z) < 0.6 * size), 2].mean()
    low, high = nodes[column & (nodes[:, 2] < -8)][:, 2].max(), nodes[column & (nodes[:, 2] > 8)][:, 2].min()
    cross = (voxels.share * (away < 4))[voxels.share.shape[0] // 2].sum() * size**2
    wanted = steel * cross * (level(high) - level(low)) / (high - low)

    seats = Clamp("bolt", Seat(np.array([0, 0, tall / 2]), UP, clearance, washer),
                  Seat(np.array([0, 0, -tall / 2]), -UP, clearance, washer))  # fmt: skip
    again = read_loads(loads, len(plain.faces))
    found = stressed(plain, None, again, PROCESS, voxel_count=int(plain.volume), solid=True, clamps=[seats])
    got = found.clamping.taken(np.array([(tall + head) / (steel * cross)]))[0, 0]
    assert got == pytest.approx(wanted, rel=0.08)


def test_bolts_stand_on_something_and_no_face_is_only_pressed():
    mesh = mesh_of(block())
    with pytest.raises(InputError, match="has no seat"):
        pulled(mesh, HELD, 100.0, [bolt(10, TALL - 8)])
    with pytest.raises(InputError, match="only pressed"):
        pulled(mesh, [*HELD, {"on": FOOT, "how": "pressed"}], 100.0, [bolt(10)])


def test_two_bolts_share_and_know_of_each_other():
    mesh = mesh_of(
        box(60, SIDE, TALL) + box(4, 4, 4).translate((32, 0, 0))
        - m3.Manifold.cylinder(TALL + 2, HOLE / 2, circular_segments=48, center=True).translate((-15, 0, 0))
        - m3.Manifold.cylinder(TALL + 2, HOLE / 2, circular_segments=48, center=True).translate((15, 0, 0))
    )  # fmt: skip
    held = [{"on": {"plane": {"point": [34, 0, 0], "normal": [1, 0, 0]}}}]
    found = pulled(mesh, held, 800.0, [bolt(12, x=-15.0, name="left"), bolt(12, x=15.0, name="right")], 12_000)
    flexible, taken = found.clamping.flexibility, found.clamping.taken(np.array([1e-5, 1e-5]))[0]
    assert flexible == pytest.approx(flexible.T) and abs(flexible[0, 1]) < 0.3 * flexible[0, 0]
    assert taken[0] == pytest.approx(taken[1], rel=0.05) and 200 < taken.sum() < 900
