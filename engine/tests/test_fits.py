"""What must be drawn so that it comes out right: against hand's sums and the cards, on parts that stand and lie."""

from math import cos, pi

import manifold3d as m3
import numpy as np
import pytest
from shapes import box, by_chance, mesh_of, rod, rotation

from hewel_engine.advice.adapting import reworked, stray
from hewel_engine.fits.bending import pushed, standing_pins
from hewel_engine.fits.drawing import drawn
from hewel_engine.fits.estimates import Wish, estimate
from hewel_engine.fits.finish import finish_of
from hewel_engine.fits.numbers import drawn_gap, given_numbers
from hewel_engine.fits.rows import step
from hewel_engine.geometry.measures import feature_of
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.patches import find_faces
from hewel_engine.geometry.rays import RayScene
from hewel_engine.loads.regions import catch
from hewel_engine.processes import Process
from hewel_engine.reckoning.fits import bore as bore_card
from hewel_engine.reckoning.fits import layers as layers_card
from hewel_engine.records import Reading

UP = np.array([0.0, 0, 1])
PETG = Process(material="petg", layer=0.2, width=0.45)


def numbers(process=PETG, profile=None, **capability):
    given = {k: (v if isinstance(v, dict) else Reading(v, "coupon").as_dict()) for k, v in capability.items()}
    return given_numbers(process, {"capability": given, "profile": profile or {}})


def measured(mesh: Mesh, shape: dict):
    return feature_of(mesh, RayScene(mesh), np.unique(catch(mesh, None, shape).facets))


def cylinder(radius, axis=(0, 0, 1), point=(0, 0, 0), **ends):
    return {"cylinder": {"point": list(point), "axis": list(axis), "radius": radius, "tol": 0.1} | ends}


def plane(point, normal):
    return {"plane": {"point": list(point), "normal": list(normal), "tol": 0.02}}


def block(sides=96, axis="z", radius=4.0) -> Mesh:
    return mesh_of(box(30, 30, 20).translate((0, 0, 10)) - rod(60, radius, sides, axis).translate((0, 0, 10)))


# ------------------------------------------------------------------ what a face is


@pytest.mark.parametrize("seed", by_chance(1, 10))
def test_measures_turn_with_the_part(seed):
    body = box(40, 30, 20) - rod(60, 3, 48) - box(60, 6, 8).translate((0, 10, 8))
    body += rod(24, 5, 72).translate((-12, -8, 12))
    turn = rotation(seed)
    place = np.random.default_rng(seed).normal(size=3) * 50
    mesh = mesh_of(body.transform(np.c_[turn, place]))
    at = lambda p: turn @ np.array(p, float) + place
    bore = measured(mesh, cylinder(3, turn @ [0, 0, 1], at((0, 0, 0))))
    assert (bore.kind, bore.size, bore.sides.tolist()) == ("bore", pytest.approx(6, abs=1e-6), [48])
    pin = measured(mesh, cylinder(5, turn @ [0, 0, 1], at((-12, -8, 12)), **{"from": -1.9, "to": 12}))
    assert pin.kind == "pin" and pin.size == pytest.approx(10, abs=1e-6) and pin.turn == 360
    slot = measured(mesh, plane(at((19, 7, 8)), turn @ [0, 1, 0]))
    assert slot.kind == "slot" and slot.size == pytest.approx(6, abs=1e-6)
    body_ = measured(mesh, plane(at((20, 0, 0)), turn @ [1, 0, 0]))
    assert body_.kind == "tongue" and body_.size == pytest.approx(40, abs=1e-6)


def test_bores_in_line_are_one_measure_and_what_has_no_size_says_so():
    fork = box(40, 20, 20) - box(60, 10, 12).translate((0, 0, 6)) - rod(60, 2, 24, "y").translate((8, 0, 5))
    found = measured(mesh_of(fork), cylinder(2, (0, 1, 0), (8, 0, 5)))
    assert found.kind == "bore" and len(found.places) == 2 and found.size == pytest.approx(4, abs=1e-6)
    ball = mesh_of(m3.Manifold.sphere(8, 48))
    other = feature_of(ball, RayScene(ball), np.arange(len(ball.faces)))
    told = estimate(other, Wish("sliding"), numbers(), UP, -8.0)
    assert (told.kind, told.verdict) == ("other", "unknown") and "no size" in told.says[0]


# ------------------------------------------------------------------ what comes out


@pytest.mark.parametrize("sides", [8, 24, 96])
def test_a_standing_bore_by_hand_and_by_its_card(sides):
    """printed = (1 − s)·D·cos(π/n) − a − b/D; drawn outside the circle of (mate + 2c + loss)/(1 − s)."""
    found = measured(block(sides), cylinder(4))
    told = estimate(found, Wish("sliding", mate=8.0), numbers(bore_upright=0.12, bore_upright_b=0.4), UP, 0.0)
    loss = 0.12 + 0.4 / 8
    assert told.printed == pytest.approx(0.996 * 8 * cos(pi / sides) - loss, abs=1e-6)
    assert told.gap == pytest.approx((told.printed - 8) / 2) and told.verdict == "tight"
    printed, _, vertices = bore_card(8.0, 0.10, loss, 0.4, sides)
    assert told.wanted == pytest.approx(printed) and told.to_draw == pytest.approx(vertices, abs=1e-6)
    assert "overlap" in told.says[0]
    assert told.drawn + sum(c.mm for c in told.corrections) == pytest.approx(told.printed, abs=5e-3), "all are named"


def test_a_loss_is_never_counted_twice():
    """A bore that is drawn for its fit holds it; a preparation that widens bores by itself leaves them as they are."""
    given = numbers()
    told = estimate(measured(block(), cylinder(4)), Wish("location", mate=8.0), given, UP, 0.0)
    again = measured(block(radius=told.to_draw / 2), cylinder(told.to_draw / 2))
    held = estimate(again, Wish("location", mate=8.0, nominal=8.0), given, UP, 0.0)
    assert held.gap == pytest.approx(0.03, abs=1e-4) and held.verdict == "fits" and held.change == 0
    yes = Reading(True, "own").as_dict()
    widened = numbers(profile={"compensates_bores": yes, "compensates_shrinkage": yes})
    plain = estimate(measured(block(), cylinder(4)), Wish("location", mate=8.0), widened, UP, 0.0)
    assert plain.printed == pytest.approx(8 * cos(pi / 96)) and plain.to_draw == pytest.approx(8.06 / cos(pi / 96))
    assert drawn_gap("location", 0.03, given) == pytest.approx(0.03 + 0.15 / 2)


def test_a_lying_bore_loses_the_droop_of_its_roof():
    along_y = measured(block(axis="y"), cylinder(4, (0, 1, 0), (0, 0, 10)))
    told = estimate(along_y, Wish("free", mate=8.0), numbers(), UP, 0.0)
    assert told.lies == "lying" and told.printed == pytest.approx(0.996 * 8 * cos(pi / 96) - 0.30, abs=1e-6)
    assert told.doubt > 0.1, "its droop is known to 0.1, steps of the layers come to it"
    turned = estimate(along_y, Wish("free", mate=8.0), numbers(), np.array([0.0, 1, 0]), -15.0)
    assert turned.lies == "upright" and turned.printed > told.printed
    assert any("mouth at the plate" in s for s in turned.says)


def test_pins_slots_and_tongues_by_hand():
    given = numbers(line_excess=0.04, shrinkage_x=0.5, shrinkage_y=0.5, shrinkage_z=0.2)
    pin = measured(mesh_of(rod(20, 5, 64).translate((0, 0, 10))), cylinder(5))
    told = estimate(pin, Wish("sliding", mate=10.0), given, UP, 0.0)
    assert told.printed == pytest.approx(0.995 * 10 + 0.08) and told.gap == pytest.approx((10 - told.printed) / 2)
    assert told.to_draw == pytest.approx((10 - 0.2 - 0.08) / 0.995)
    assert any("across its layers" in s for s in told.says), "20 mm high, 10 mm wide"
    lying = estimate(pin, Wish("sliding", mate=10.0), given, np.array([1.0, 0, 0]), -5.0)
    assert not any("across its layers" in s for s in lying.says) and lying.doubt > told.doubt
    groove = mesh_of(box(40, 30, 20).translate((0, 0, 10)) - box(60, 6, 10).translate((0, 0, 15)))
    slot = measured(groove, plane((0, -3, 15), (0, 1, 0)))
    told = estimate(slot, Wish("sliding", mate=6.0), given, UP, 0.0)
    assert told.kind == "slot" and told.printed == pytest.approx(0.995 * 6 - 0.08)
    assert told.to_draw == pytest.approx((6.2 + 0.08) / 0.995)
    sides = [catch(groove, None, plane((0, y, 10), (0, 1, 0))).facets for y in (-15, 15)]
    both = feature_of(groove, RayScene(groove), np.unique(np.concatenate(sides)))
    tongue = estimate(both, Wish("location", mate=30.1), given, UP, 0.0)
    assert tongue.kind == "tongue" and tongue.printed == pytest.approx(0.995 * 30 + 0.08)


def test_level_faces_lie_on_whole_layers_and_a_roof_droops():
    given = numbers()
    cave = mesh_of(box(30, 30, 20).translate((0, 0, 10)) - box(60, 20, 5.1).translate((0, 0, 8.05)))
    slot = measured(cave, plane((0, 0, 5.5), (0, 0, 1)))
    told = estimate(slot, Wish("free", mate=5.0), given, UP, 0.0)
    low, high = 5.4, 10.6
    assert told.lies == "level" and told.printed == pytest.approx(0.996 * (high - low) - 0.30)
    wanted = (5.0 + 0.44 + 0.30) / 0.996
    assert told.to_draw == pytest.approx(np.ceil(wanted / 0.2) * 0.2 + low - 5.5)
    step = mesh_of(box(30, 30, 10).translate((0, 0, 5)) + box(10, 30, 7.13).translate((0, 0, 13.565)))
    height = measured(step, plane((0, 0, 17.13), (0, 0, 1)))
    assert height.kind == "tongue", "its foot lies behind it"
    told = estimate(height, Wish(), given, UP, 0.0)
    count, model, *_ = layers_card(17.13, 0.2, 0.4)
    assert told.to_draw == pytest.approx(model) and round(told.to_draw / 0.2) == count


def test_the_doubt_is_that_of_what_it_rests_on():
    found = measured(block(), cylinder(4))
    told = estimate(found, Wish("sliding", mate=8.0, plus=0.02, minus=0.01), numbers(), UP, 0.0)
    assert told.doubt == pytest.approx(np.hypot(0.05, 0.25 * 0.4 / 100 * 8))
    assert told.least_gap == pytest.approx((told.printed - told.doubt - 8.02) / 2)
    assert told.most_gap == pytest.approx((told.printed + told.doubt - 7.99) / 2)
    assert any("wider than this fit" in s for s in told.says)
    sure = {"value": 0.15, "origin": "coupon", "low": 0.14, "high": 0.16, "note": "", "count": 12}
    narrow = estimate(found, Wish("free", mate=8.0), numbers(bore_upright=sure), UP, 0.0)
    assert narrow.doubt < told.doubt and not any("wider than" in s for s in narrow.says)


# ------------------------------------------------------------------ drawn, on bodies by chance


def uneven(seed: int) -> m3.Manifold:
    """A block with its corners cut off unevenly, and a bore, a pin and a groove."""
    chance = np.random.default_rng(seed)
    body = box(44, 36, 24)
    for _ in range(3):
        normal = chance.normal(size=3)
        normal /= np.linalg.norm(normal)
        body = body.trim_by_plane(tuple(-normal), -float(chance.uniform(22, 26)))
    body -= rod(80, 3.0, int(chance.integers(12, 80))).translate((8, 4, 0))
    body -= box(60, 5, 6).translate((0, -9, 9))
    return body + rod(10, 4.0, int(chance.integers(16, 80))).translate((-8, 6, 16))


@pytest.mark.parametrize("seed", by_chance(1, 51))
def test_bores_pins_and_flats_are_drawn_and_nothing_else_has_moved(seed):
    solid, turn = uneven(seed), rotation(seed)
    mesh = mesh_of(solid.transform(np.c_[turn, (5, -3, 2)]))
    at = lambda p: (turn @ np.array(p, float) + (5, -3, 2)).tolist()
    way = lambda v: (turn @ np.array(v, float)).tolist()
    chance = np.random.default_rng(seed)
    wider, pin_to = float(chance.uniform(0.1, 0.5)), float(8 + chance.uniform(-0.4, 0.4))
    bore_to = 6 + wider if seed % 2 else 6 - wider
    up, down_y = way([0, 0, 1]), way([0, -1, 0])
    pin_at = lambda radius: cylinder(radius, up, at((-8, 6, 0)), **{"from": 12.5, "to": 20.9})
    middle = lambda shape: measured(mesh, shape).places[0].tolist()
    step = lambda key, place, axis, **numbers: {
        "key": key, "kind": "fit", "centre_mm": place, "axis": axis, "set": numbers, "may_fill": True,
    }  # fmt: skip
    steps = [
        step("resized_pin", middle(cylinder(4, up, at((-8, 6, 0)))), up, to_mm=pin_to),
        step("resized_bore", middle(cylinder(3, up, at((8, 4, 0)))), up, to_mm=bore_to),
        step("shifted_flat", at((0, -6.5, 10)), down_y, by_mm=-0.15),
    ]
    came = reworked(mesh, turn @ UP, PETG, [], steps)
    refused = {step["key"]: why for step, why in came.unfit}
    assert all("square" in why or "new finding" in why for why in refused.values()), refused
    assert came.mesh.closed
    assert stray(mesh, came) < 1e-6 * mesh.volume
    done = {a.tool.key for a in came.applied}
    assert "resized_pin" in done
    assert measured(came.mesh, pin_at(pin_to / 2)).size == pytest.approx(pin_to, abs=1e-3)
    if "resized_bore" in done:
        bore = measured(came.mesh, cylinder(bore_to / 2, up, at((8, 4, 0))))
        assert bore.size == pytest.approx(bore_to, abs=1e-3)
    if "shifted_flat" in done:
        slot = measured(came.mesh, plane(at((0, -6.35, 10)), down_y))
        assert slot.kind == "slot" and slot.size == pytest.approx(5.15, abs=1e-3)


def one_step(mesh, key, place, axis=None, **numbers):
    step = {"key": key, "kind": "fit", "centre_mm": list(place), "axis": axis, "set": numbers, "may_fill": True}
    return reworked(mesh, UP, PETG, [], [step])


def test_an_inside_corner_is_relieved_by_three_quarters_of_a_round():
    ell = mesh_of(box(30, 20, 10).translate((0, 0, 5)) + box(10, 20, 20).translate((-10, 0, 10)))
    came = one_step(ell, "relieved_corner", (-5, 0, 10), radius_mm=0.6)
    assert not came.unfit
    gone = ell.volume - came.mesh.volume
    assert gone == pytest.approx(0.75 * pi * 0.6**2 * 20, rel=0.01)
    assert "groove of radius 0.60 mm" in came.applied[0].tool.words


@pytest.mark.parametrize(
    ("key", "place", "axis", "numbers", "words"),
    [
        ("resized_bore", (0, 0, 10), [0, 0, 1], {"to_mm": 12.0}, "another part"),
        ("resized_bore", (3, 3, 10), [0, 0, 1], {"to_mm": 8.2}, "No bore is found"),
        ("resized_pin", (0, 0, 10), [0, 0, 1], {"to_mm": 8.2}, "No pin is found"),
        ("resized_bore", (0, 0, 10), None, {"to_mm": 8.2}, "no axis"),
        ("resized_bore", (0, 0, 10), [0, 0, 1], {}, "which diameter"),
        ("shifted_flat", (0, 0, 12), [0, 0, 1], {"by_mm": 0.2}, "No flat"),
        ("shifted_flat", (10, 10, 20), [0, 0, 1], {}, "how much"),
        ("relieved_corner", (0, 0, 10), None, {}, "No sharp inside corner"),
        ("resized_bore", (0, 0, 10), [0, 0, 1], {"to_mm": float("nan")}, "not between"),
    ],
)
def test_what_cannot_be_drawn_is_refused_in_words(key, place, axis, numbers, words):
    came = one_step(block(), key, place, axis, **numbers)
    assert not came.applied and words in came.unfit[0][1]
    assert came.mesh.volume == pytest.approx(block().volume)


def test_a_bore_is_not_widened_through_its_wall_nor_half_a_bore_at_all():
    thin = mesh_of(rod(20, 5.5).translate((0, 0, 10)) - rod(60, 4))
    assert "wall would be left" in one_step(thin, "resized_bore", (0, 0, 10), [0, 0, 1], to_mm=9.9).unfit[0][1]
    half = mesh_of(box(30, 20, 20).translate((0, 10, 10)) - rod(60, 4))
    assert "180° round" in one_step(half, "resized_bore", (0, 0, 10), [0, 0, 1], to_mm=8.2).unfit[0][1]
    aslant = mesh_of(rod(60, 9).trim_by_plane((0.5, 0, -0.8), -12).trim_by_plane((0, 0, 1), 0) - rod(80, 4))
    middle = measured(aslant, cylinder(4)).places[0]
    assert "square to its axis" in one_step(aslant, "resized_bore", middle, [0, 0, 1], to_mm=7.8).unfit[0][1]
    assert not one_step(aslant, "resized_bore", middle, [0, 0, 1], to_mm=8.2).unfit, "wider it may be"


def test_a_gap_is_drawn_as_a_whole_or_not_at_all():
    """One wall of the groove is thin: it cannot move, so the other does not either; the bore beside it is drawn."""
    body = box(40, 30, 20).translate((0, 0, 10)) - box(60, 6, 10).translate((0, -11.1, 15)) - rod(60, 3, 48)
    mesh = mesh_of(body)
    flat = lambda y, normal: step("shifted_flat", np.array([0.0, y, 15]), np.array([0.0, normal, 0]), {"by_mm": -0.15})
    wanted = {
        "gap": [flat(-8.1, -1.0), flat(-14.1, 1.0)],
        "bore": [step("resized_bore", np.array([0.0, 0, 10]), UP, {"to_mm": 6.3})],
    }
    came, refused = drawn(mesh, UP, PETG, [], wanted)
    assert list(refused) == ["gap"] and "behind the flat" in refused["gap"]
    assert [a.tool.key for a in came.applied] == ["resized_bore"]
    bore = 24 * np.sin(2 * pi / 48)
    assert came.mesh.volume == pytest.approx(mesh.volume - bore * (3.15**2 - 3**2) * 20, rel=1e-6)


# ------------------------------------------------------------------ pins pushed from the side


def test_a_pin_pushed_from_the_side_says_which_radius_saves_it():
    plate = box(40, 40, 6).translate((0, 0, 3)) + rod(20, 3, 96).translate((0, 0, 16))
    found = measured(mesh_of(plate), cylinder(3, **{"from": 6.1, "to": 26}))
    assert found.kind == "pin" and found.lengths[0] == pytest.approx(20)
    stress = 32 * 20 * 20 / (pi * 6**3)
    told = pushed(found, 20.0, PETG, UP)
    notch = 0.87868 * (0.225 / 6) ** -0.33243
    assert told.stands and told.strength == PETG.stock.z_t
    assert (told.stress, told.notch) == (pytest.approx(stress), pytest.approx(notch))
    assert told.reserve == pytest.approx(28 / (notch * stress)) and told.reserve < 1
    assert told.radius == pytest.approx(6 * (0.87868 / (28 / stress)) ** (1 / 0.33243))
    lying = pushed(found, 20.0, PETG, np.array([1.0, 0, 0]))
    assert lying.reserve > told.reserve and lying.strength == PETG.stock.x_t
    assert pushed(found, 60.0, PETG, UP).radius is None, "no radius saves what breaks without a notch"
    assert pushed(found, 1.0, PETG, UP).radius is None, "it holds as it is"


# ------------------------------------------------------------------ faces that are seen


def test_a_seen_face_says_its_steps_what_takes_the_plate_and_what_hangs():
    wedge = mesh_of(m3.Manifold.extrude(m3.CrossSection([[(0, 0), (40, 0), (40, 10)]]), 20))
    slope = np.flatnonzero(np.abs(wedge.normals @ np.array([-10, 40, 0]) / np.hypot(10, 40) - 1) < 1e-6)
    for up, cosine in (((0, 1, 0), 40 / np.hypot(10, 40)), ((0, 0, 1), 0.0), ((1, 0, 0), 10 / np.hypot(10, 40))):
        told = finish_of(wedge, slope, PETG, np.array(up, float))
        assert told.worst == told.mean == pytest.approx(0.2 * cosine) and told.plate == told.hangs == 0
    assert finish_of(wedge, slope, PETG, np.array([0.0, -1, 0])).hangs == 1, "upside down it looks down"
    cube = mesh_of(box(20, 20, 20))
    whole = finish_of(cube, np.arange(len(cube.faces)), PETG, UP)
    assert (whole.worst, whole.plate, whole.hangs) == (0, pytest.approx(1 / 6), 0), "level faces have no steps"
    table = mesh_of(box(20, 20, 20) + box(60, 20, 4).translate((0, 0, 12)))
    under = np.flatnonzero(table.normals[:, 2] < -0.9)
    told = finish_of(table, under, PETG, UP)
    assert told.plate == pytest.approx(400 / 1200) and told.hangs == pytest.approx(800 / 1200)


@pytest.mark.parametrize("seed", by_chance(0, 9))
def test_slender_pins_that_stand_are_found_and_nothing_else(seed):
    body = box(60, 40, 6).translate((0, 0, 3))
    body += rod(20, 3, 48).translate((-20, 0, 16)) + rod(5, 4, 48).translate((0, 0, 8.5))
    body += rod(14, 2, 48).translate((20, 10, 13)) + rod(20, 3, 48, "x").translate((35, -10, 3))
    body -= rod(90, 2, 48).translate((10, -10, 0))
    body += rod(30, 3, 48).translate((20, -12, 21)) + box(12, 12, 4).translate((20, -12, 36))
    turn = rotation(seed)
    mesh = mesh_of(body.transform(np.c_[turn, np.zeros(3)]))
    found = standing_pins(mesh, find_faces(mesh), RayScene(mesh), turn @ UP)
    sizes = [
        (pytest.approx(4, abs=1e-6), pytest.approx(14, abs=1e-6)),
        (pytest.approx(6, abs=1e-6), pytest.approx(20, abs=1e-6)),
    ]
    assert [(f.size, f.lengths[0]) for f, _ in found] == sizes, "not the stout one, the lying one, the one between"
    assert standing_pins(mesh, find_faces(mesh), RayScene(mesh), turn @ np.array([0.0, 1, 0])) == []
