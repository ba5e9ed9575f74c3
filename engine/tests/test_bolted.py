"""What bolts and rods make of the reserve: read anew for every torque, against closed forms."""

from dataclasses import replace
from math import pi

import manifold3d as m3
import numpy as np
import pytest
from shapes import mesh_of

from hewel_engine.geometry.patches import find_faces
from hewel_engine.hardware.catalogue import STEEL_MODULUS, bolt_of
from hewel_engine.hardware.clamped import (
    Field,
    Joint,
    Setting,
    field_of,
    least_torque,
    preload_alone,
    tightened,
    verdicts,
)
from hewel_engine.hardware.placing import seated
from hewel_engine.hardware.reading import Asked, Reading
from hewel_engine.hardware.solving import solved
from hewel_engine.hardware.sums import Core, Ledger, bolts_alone, by_hand, composite, cores_of, rods
from hewel_engine.loads.cases import read_loads
from hewel_engine.materials import MATERIALS
from hewel_engine.processes import Process
from hewel_engine.reckoning.bolts import preload_left
from hewel_engine.reckoning.pins import rod as rod_card
from hewel_engine.strength import cores as cubes
from hewel_engine.strength.lines import Lie
from hewel_engine.strength.reserves import demand, sectioned
from hewel_engine.strength.statics import Through, section_of
from hewel_engine.strength.stressing import bare, stressed

UP = np.array([0.0, 0, 1])
PETG = MATERIALS["petg"]
PROCESS = Process(infill=1.0)
M5 = bolt_of("M5", "socket", "washer", "hex_nut", "8.8", -UP, UP)


def one_point(pull=10.0, shear=0.0, per_newton=-1e-3, flexibility=1e-4, growth=0.02) -> Field:
    """One place: the load pulls it apart, a newton in the bolt closes it by ``per_newton``."""
    load = np.array([[[0, 0, pull, 0, shear, 0]]], float)
    return Field(
        UP, 0.0, np.zeros((1, 3)), Lie(np.zeros((1, 3)), np.zeros(1, np.int8)), load,
        np.array([[[0, 0, per_newton, 0, 0, 0]]], float), np.array([[flexibility]]), np.array([[growth]]),
    )  # fmt: skip


def joint(area=60.0) -> Joint:
    return Joint((M5,), ("bolt",), (40.0,), ((area, area),), ((0.0, 0.0, -1.0),))


def test_a_preload_and_what_is_left_of_it_by_hand():
    found = one_point()
    setting = Setting((800.0,), relaxation=0.5, embedding=0.008, cold=-10.0, warm=40.0)
    (bolt,) = tightened(found, joint(), setting, PETG)
    assert (bolt.preload, bolt.low, bolt.high) == pytest.approx((800, 560, 1040))
    stiff = M5.compliance(40.0)
    assert stiff == pytest.approx((40 + 0.8 * 5) / (STEEL_MODULUS * 14.2))
    wanted, _ = preload_left(560.0, 1e-4, stiff, 0.5, 0.008, 40.0, 60e-6, 11.5e-6, -33.0)
    assert bolt.left == pytest.approx(wanted) and bolt.left < 300
    assert bolt.greatest > bolt.high, "the plastic grows more than the steel when it is warm"
    assert bolt.carries == pytest.approx(0.02 / (1e-4 + stiff))
    assert bolt.load_factor == pytest.approx(1e-4 / (1e-4 + stiff))
    assert bolt.head_mpa == pytest.approx((bolt.greatest + bolt.carries) / 60)
    assert bolt.limit_mpa == pytest.approx(min(0.5, PETG.creep) * PETG.z_c)
    tight = tightened(found, joint(), replace(setting, torque=(bolt.most_torque,)), PETG)[0]
    assert max(tight.head_mpa, tight.nut_mpa) == pytest.approx(0.95 * tight.limit_mpa, rel=0.02)


def test_a_clamped_weld_by_hand():
    """λ·γ·(σ + ΔF·s) − F·s: the load grows with the required factor, the preload does not."""
    found, setting = one_point(), Setting((800.0,), relaxation=1.0, embedding=0.0, scatter=0.0)
    bolts = tightened(found, joint(), setting, PETG)
    (case,) = verdicts(found, joint(), bolts, ["pull"], [[]], PETG, factor=2.0)
    taken = 0.02 / (1e-4 + M5.compliance(40.0))
    pull = 2 * (10 - 1e-3 * taken)
    assert case.plain == pytest.approx(PETG.z_t / 20, rel=1e-3)
    assert case.opens_at == pytest.approx(0.8 / pull) and case.closing == pytest.approx(0.8)
    assert case.clamped == pytest.approx((PETG.z_t + 0.8) / pull, rel=1e-3) and case.mode == "interlayer_tension"
    alone = preload_alone(found, bolts, PETG)
    assert alone["reserve"] == pytest.approx(PETG.creep * PETG.z_c / 0.8, rel=1e-3)


def test_the_least_torque_is_where_it_just_holds():
    found = one_point(pull=60.0, per_newton=-0.02)
    most = Setting((2000.0,), relaxation=1.0, embedding=0.0, scatter=0.0)
    share = least_torque(found, joint(), most, [[]], PETG, 1.0)
    held = lambda t: (
        verdicts(
            found, joint(), tightened(found, joint(), replace(most, torque=(t,)), PETG), ["pull"], [[]], PETG, 1.0
        )[0].clamped
    )
    assert held(0.0) < 1 < held(2000.0) and held(share * 2000.0) == pytest.approx(1, abs=0.02)
    assert least_torque(found, joint(), replace(most, torque=(1.0,)), [[]], PETG, 1.0) is None


BLOCK = m3.Manifold.cube((24, 24, 80), True).translate((0, 0, 40))
EAR = m3.Manifold.cube((20, 24, 10), True).translate((20, 0, 75))
POST = mesh_of(BLOCK + EAR)
FOOT = {"plane": {"point": [0, 0, 0], "normal": [0, 0, -1]}}
SIDE = {"plane": {"point": [30, 0, 75], "normal": [1, 0, 0]}}
LOADS = {"fixed": [{"on": {"box": [[-13, -13, -1], [13, 13, 30]]}}], "cases": [
    {"name": "push", "loads": [{"on": SIDE, "force_n": [-160, 0, 0]}]}]}  # fmt: skip


def bolted(torques: list[float], spots: list[tuple[float, float]]):
    rows = [
        {"id": str(i), "name": f"bolt {i}", "kind": "bolt", "size": "M4", "at": [x, y, 80], "axis": [0, 0, -1],
         "head": "socket", "washer": "washer", "nut": "hex_nut", "pocket": "open", "steel": "8.8"}
        for i, (x, y) in enumerate(spots)
    ]  # fmt: skip
    made = seated(POST, UP, PROCESS, [], rows)
    assert all(p.where for p in made.rows), [p.why for p in made.rows]
    clamps = [p.clamp(PETG.e_z) for p in made.rows]
    given = bare(read_loads(LOADS, len(made.mesh.faces)))
    found = stressed(made.mesh, None, given, PROCESS, voxel_count=12_000, up=UP, clamps=clamps)
    joint = Joint.of(made.rows, PETG.e_z)
    field = Field.unpacked(field_of(found, PETG, UP).packed())
    return made, found, field, joint, Setting(tuple(torques), embedding=0.003)


def test_a_post_that_splits_holds_once_it_is_clamped():
    """The side that is pulled gets two bolts: closing there raises the reserve, more torque more, too much crushes."""
    made, found, field, joint, setting = bolted([900.0, 900.0], [(5.5, -5.5), (5.5, 5.5)])
    names, factors = ["push"], [[]]
    read = lambda torque: verdicts(
        field, joint, tightened(field, joint, replace(setting, torque=(torque,) * 2), PETG), names, factors, PETG, 1.0
    )[0]
    none, some, more = read(0.0), read(400.0), read(900.0)
    assert none.plain == pytest.approx(some.plain) and none.plain == none.clamped < some.clamped < more.clamped
    assert more.opens_at > some.opens_at > 0
    crushed = read(60_000.0)
    assert crushed.clamped == 0, "what crushes by itself has no reserve left"
    alone = preload_alone(field, tightened(field, joint, replace(setting, torque=(60_000.0,) * 2), PETG), PETG)
    assert alone["reserve"] < 1
    ledger = Ledger.of(found, sectioned(made.mesh, UP, PROCESS))
    broken = bolts_alone(ledger, 0, none.plain_z, made.rows, [900.0, 900.0], 1.0)
    assert broken["count"] == 2 and broken["reserve"] == 0.0 and "both sides" in broken["words"]


def test_of_three_bolts_the_one_goes_first_that_is_missed_least():
    """The side that is pulled needs its two; the third, on the side that is pressed, can stay away."""
    spots = [(5.5, -5.5), (-6.0, 0.0), (5.5, 5.5)]
    made, _, field, _, setting = bolted([600.0] * 3, spots)
    asked = Asked(["push"], [[]], 1.0)
    reading = Reading(field, made.rows, setting, PETG)
    two, one = reading.by_count(asked)
    assert (two.count, two.names) == (2, ("bolt 0", "bolt 2")) and one.count == 1
    assert one.reserve < two.reserve and two.reserve > 0.9 * reading.reserve(asked)
    alone, _, own, _, _ = bolted([600.0] * 2, [spots[0], spots[2]])
    drawn = Reading(own, alone.rows, replace(setting, torque=(600.0,) * 2), PETG).reserve(asked)
    assert two.reserve == pytest.approx(drawn, rel=0.1), "the hole that stays changes little"


def test_bolts_alone_take_a_couple():
    """A moment M between two bolts a apart: one is pulled with M/a, which its seat bears up to its limit."""
    section = section_of(m3.CrossSection.square((40, 20), True))

    class Only:
        on = sectioned(mesh_of(m3.Manifold.cube((40, 20, 30), True).translate((0, 0, 15))), UP, PROCESS)

        def layer(self, z):
            return 50

        def passing(self, case, layer):
            return section, Through(np.array([0.0, 0, 0]), np.array([0.0, 6000.0, 0]))

    made = seated(
        mesh_of(m3.Manifold.cube((40, 20, 30), True).translate((0, 0, 15))), UP, PROCESS, [],
        [{"id": s, "name": s, "kind": "bolt", "size": "M4", "at": [x, 0, 30], "axis": [0, 0, -1], "head": "socket",
          "washer": "washer", "nut": "hex_nut", "pocket": "open", "steel": "8.8"} for s, x in (("l", -10), ("r", 10))],
    )  # fmt: skip
    got = bolts_alone(Only(), 0, 10.0, made.rows, [450.0, 450.0], 1.5)
    assert got["reserve"] == pytest.approx(450 / (1.5 * 6000 / 20), rel=1e-6)


def test_a_rod_in_the_section_is_the_card_of_a_rod():
    """Bending of a rectangle with a bonded rod off its middle; and a pull, shared by area and stiffness."""
    wide, tall, d, off = 12.0, 20.0, 5.0, 4.0
    section = section_of(m3.CrossSection.square((wide, tall), True))
    core = Core(np.array([0.0, off]), 0, 50, d)
    bent = composite(section, Through(np.zeros(3), np.array([3000.0, 0, 0])), [core], 2000.0)
    second, area = wide * tall**3 / 12, wide * tall
    (gain, body, steel), _ = rod_card(second, area, 2000.0, tall / 2, d, STEEL_MODULUS, 3000.0, off, True)
    plain = 3000.0 * tall / 2 / second
    n, a_s = STEEL_MODULUS / 2000, pi * d**2 / 4
    e = n * a_s * off / (area + n * a_s)
    total = second * gain
    assert bent.share * plain == pytest.approx(3000 * (tall / 2 - e) / total, rel=1e-6), "the pulled side is nearer"
    assert bent.steel == pytest.approx(steel, rel=1e-6) and body > bent.share * plain
    middle = composite(section, Through(np.array([0.0, 0, 900]), np.zeros(3)), [Core(np.zeros(2), 0, 50, d)], 2000.0)
    assert middle.share == pytest.approx(area / (area + n * a_s))
    assert middle.steel == pytest.approx(900 * n / (area + n * a_s))


def test_a_rod_of_steel_cubes_takes_what_the_section_says():
    """A bar with a rod glued along its middle, bent as a cantilever: the plastic's fibre by the transformed section,
    and the end moves as far as E·I says.
    """
    side, long, d = 16.0, 120.0, 6.0
    bar = mesh_of(m3.Manifold.cube((side, side, long), True).translate((0, 0, long / 2)))
    ends = {
        "fixed": [{"on": {"plane": {"point": [0, 0, 0], "normal": [0, 0, -1]}}}],
        "cases": [{"name": "bend", "loads": [
            {"on": {"plane": {"point": [0, 0, long], "normal": [0, 0, 1]}}, "force_n": [20, 0, 0]}]}],
    }  # fmt: skip
    given = bare(read_loads(ends, len(bar.faces)))
    ratio = STEEL_MODULUS / PETG.e_xy
    core = cubes.Core(np.array([0.0, 0, 0]), np.array([0.0, 0, long]), d, ratio)
    solve = lambda cores: stressed(bar, None, given, PROCESS, voxel_count=16_000, solid=True, cores=cores)
    bare_bar, with_rod = solve(None), solve([core])
    plain, steel = side**4 / 12, ratio * pi * d**4 / 64
    least = [np.linalg.norm(f.cases[0].answered.displacement, axis=1).max() for f in (bare_bar, with_rod)]
    assert least[0] / least[1] == pytest.approx(1 + steel / plain, rel=0.1)
    middle = lambda f: np.abs(f.cases[0].stress[np.abs(f.points.places[:, 2] - long / 2) < 3, 2]).max()
    assert middle(bare_bar) / middle(with_rod) == pytest.approx(1 + steel / plain, rel=0.1)
    off = np.hypot(*with_rod.points.places[with_rod.kept][:, :2].T)
    assert off.min() > d / 2, "what is steel is not read as plastic"


def test_a_rod_moves_the_failure_beyond_its_end():
    row = {"id": "r", "name": "rod", "kind": "rod", "size": "M6", "at": [0, 0, 80], "axis": [0, 0, -1], "deep": 30.0}
    made = seated(POST, UP, PROCESS, [], [row])
    given = bare(read_loads(LOADS, len(made.mesh.faces)))
    found = stressed(made.mesh, None, given, PROCESS, voxel_count=8_000, up=UP)
    on = sectioned(made.mesh, UP, PROCESS)
    cores = cores_of(made.rows, on)
    assert (cores[0].low, cores[0].high) == pytest.approx((50, 80), abs=0.01)
    used = [demand(found, found.cases[0], PETG, UP, PROCESS.layer)]
    (short,) = rods(Ledger.of(found, on), cores, used, PETG, 1.0)
    assert short["beyond"] and short["z_mm"] < 50 and short["reserve"] == pytest.approx(short["plain"], rel=1e-6)
    (long,) = rods(Ledger.of(found, on), [replace_core(cores[0], 0.0)], used, PETG, 1.0)
    assert long["reserve"] > 1.1 * long["plain"] and long["steel_mpa"] > 10 and long["bearing_reserve"] > 0


def test_thicker_rods_hold_more_and_what_would_fit_is_said():
    row = {"id": "r", "name": "rod", "kind": "rod", "size": "M6", "at": [0, 0, 80], "axis": [0, 0, -1], "deep": 79.0}
    made = seated(POST, UP, PROCESS, [], [row])
    given = bare(read_loads(LOADS, len(made.mesh.faces)))
    found = solved(made, find_faces(made.mesh), given, PROCESS, UP, 6_000)
    reserves = [r["reserves"][0] for r in found.other_rods]
    assert [r["size"] for r in found.other_rods][:3] == ["M3", "M4", "M5"] and reserves == sorted(reserves)
    assert found.with_rods[0]["elements"] > found.with_rods[0]["plain"]
    assert found.points is None and found.with_rods[0]["reserve"] == pytest.approx(reserves[3], rel=0.02)
    side = {"at": [-12, 0, 30], "axis": [1, 0, 0], "end": [-12, 0, 50], "id": "k", "name": "k"}
    short = seated(POST, UP, PROCESS, [], [side | {"kind": "key", "size": "5x5", "carries_nmm": 9e4, "radius": 9.0}])
    words = by_hand(short.rows[0], UP, PETG, 1.0, 2.0)["words"]
    least = 2 * 1e4 / (PETG.creep * PETG.x_c * 2.5)
    assert f"holds from {least:.1f} mm on" in words


def replace_core(core: Core, low: float) -> Core:
    return Core(core.spot, low, core.high, core.diameter)


def test_cards_of_pieces_stand_on_the_strengths_that_are_left():
    base = {"id": "i", "name": "i", "at": [0, 0, 80], "axis": [0, 0, -1]}
    put = lambda **more: seated(POST, UP, PROCESS, [], [base | more]).rows[0]
    pulled = put(kind="insert", size="M4", carries_n=200.0)
    rows = by_hand(pulled, UP, PETG, 0.5, 2.0)["rows"]
    assert rows[0]["bears"] == pytest.approx(0.5 * pi * 5.6 * 8.1 * 0.5 * PETG.z_s, rel=0.4)
    assert rows[0]["reserve"] == pytest.approx(rows[0]["bears"] / 400) and rows[1]["reserve"] is None
    own = by_hand(pulled, UP, PETG.with_own({"insert_factor": {"value": 0.7, "origin": "coupon"}}), 0.5, 2.0)
    assert own["rows"][0]["bears"] == pytest.approx(1.4 * rows[0]["bears"]) and "own coupon" in own["words"]
    pad = by_hand(put(kind="pad", size="10", carries_n=500.0), UP, PETG, 1.0, 1.0)["rows"][0]
    assert pad["bears"] == pytest.approx(0.4 * PETG.z_c * pi * 25)
    screw = by_hand(put(kind="boss", size="M4", rise=5.0, carries_n=100.0), UP, PETG, 1.0, 1.0)
    assert "Tighten with" in screw["words"] and screw["rows"][0]["reserve"] > 1
    side = {"at": [-12, 0, 30], "axis": [1, 0, 0], "end": [-12, 0, 50]}
    torque = by_hand(put(kind="key", size="5x5", carries_nmm=4000.0, radius=9.0, count=2, **side), UP, PETG, 1.0, 1.0)[
        "rows"
    ][0]
    assert torque["carries"] == pytest.approx(4000 / (2 * 0.75 * 9.0) / (2.5 * 20))
