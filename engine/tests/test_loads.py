"""Regions, load cases and equilibrium against closed forms."""

import json

import numpy as np
import pytest
from shapes import box, mesh_of, rod, rotation, sphere, torus

from hewel_engine.errors import InputError
from hewel_engine.geometry.patches import find_faces, round_of
from hewel_engine.loads.cases import Case, Hold, Load, Region, Washer, read_loads, without_patches, write_loads
from hewel_engine.loads.equilibrium import G, acting, balance, held_patch
from hewel_engine.loads.regions import Patch, catch, checked_shape, finely, found_again, pointed

CUBE = mesh_of(box(20, 20, 20))
PLATE = mesh_of(box(40, 30, 10) - rod(40, 6, 96))
"""A plate with a 12 mm bore along z."""


def plane(z, normal=(0, 0, 1)):
    return {"plane": {"point": [0, 0, z], "normal": list(normal), "tol": 0.05}}


BORE = {"cylinder": {"point": [0, 0, 0], "axis": [0, 0, 1], "radius": 6, "tol": 0.1}}


def facet_at(mesh, point, normal):
    """The facet nearest ``point`` among those that look along ``normal``."""
    far = np.linalg.norm(mesh.centroids - point, axis=1) + 1e3 * (mesh.normals @ normal < 0.9)
    return int(np.argmin(far))


# ------------------------------------------------------------------ regions


def test_a_box_cuts_coarse_facets_at_its_sides():
    found = catch(CUBE, None, {"box": [[-4, -5, 9], [6, 5, 11]]})
    assert found.area == pytest.approx(100, rel=1e-9)
    assert found.centre == pytest.approx([1, 0, 10])
    corner = catch(CUBE, None, {"box": [[5, 5, 5], [50, 50, 50]]})
    assert corner.area == pytest.approx(75, rel=1e-9)


def test_a_plane_takes_its_face_and_no_strip_of_the_walls():
    assert catch(CUBE, None, plane(10)).area == pytest.approx(400)
    assert catch(CUBE, None, plane(10, (0, 0, -3))).area == pytest.approx(400)


def test_a_cylinder_is_the_wall_of_the_bore_also_a_coarse_one():
    wall = catch(PLATE, None, BORE)
    assert wall.area == pytest.approx(96 * 12 * np.sin(np.pi / 96) * 10, rel=1e-6)
    coarse = mesh_of(box(40, 30, 10) - rod(40, 6, 8))
    assert catch(coarse, None, BORE).area == pytest.approx(8 * 12 * np.sin(np.pi / 8) * 10, rel=1e-6)
    part = catch(PLATE, None, {"cylinder": BORE["cylinder"] | {"from": -1, "to": 2}})
    assert part.area == pytest.approx(wall.area * 0.3, rel=1e-6)


@pytest.mark.parametrize("shape", [{"box": [[-7, -3, -2], [9, 8, 5]]}, plane(5), BORE], ids=["box", "plane", "bore"])
def test_regions_turn_with_the_part_and_do_not_mind_the_mesh(shape):
    fine = PLATE
    for _ in range(2):
        fine = halved(fine)
    assert catch(fine, None, shape).area == pytest.approx(catch(PLATE, None, shape).area, rel=1e-9)
    if "box" in shape:
        return
    turn = rotation(3)
    kind, body = next(iter(shape.items()))
    names = ("point", "axis" if kind == "cylinder" else "normal")
    turned = {kind: body | {n: (turn @ body[n]).tolist() for n in names}}
    assert catch(PLATE.moved(turn), None, turned).area == pytest.approx(catch(PLATE, None, shape).area, rel=1e-9)


def halved(mesh):
    from hewel_engine.geometry.mesh import Mesh

    a, b, c = (mesh.vertices[mesh.faces[:, i]] for i in range(3))
    m = (a + b) / 2
    points = np.concatenate([np.stack([a, m, c], 1), np.stack([m, b, c], 1)]).reshape(-1, 3)
    return Mesh(points, np.arange(len(points), dtype=np.int32).reshape(-1, 3))


@pytest.mark.parametrize(
    "shape, words",
    [
        ({"box": [[100, 100, 100], [110, 110, 110]]}, "catches nothing"),
        ({"box": [[0, 0], [1, 1]]}, "3 numbers"),
        ({"plane": {"point": [0, 0, 0], "normal": [0, 0, 0]}}, "no direction"),
        ({"cylinder": {"point": [0, 0, 0], "axis": [0, 0, 1], "radius": -1}}, "greater than 0"),
        ({"facets": [0, 99999]}, "outside"),
        ({"facets": "all"}, "list"),
        ({"sphere": 1}, "one of box"),
        ({}, "one of box"),
        ({"patch": {"facet": -1}}, "not on the part"),
        ({"box": [["a", 0, 0], [1, 1, 1]]}, "3 numbers"),
        ({"box": [[float("nan"), 0, 0], [1, 1, 1]]}, "3 numbers"),
    ],
)
def test_bad_regions_say_what_to_do(shape, words):
    with pytest.raises(InputError) as caught:
        catch(CUBE, find_faces(CUBE), shape, "there")
    assert caught.value.code == "bad_loads" and words in caught.value.message and caught.value.hint


# ------------------------------------------------------------------ faces


def test_faces_part_flats_from_fillets_and_keep_a_bore_whole():
    faces = find_faces(PLATE)
    assert len(np.unique(faces.face)) == 7  # six flats and the bore
    bore = faces.around(facet_at(PLATE, [6, 0, 0], [-1, 0, 0]))
    found = round_of(PLATE, bore)
    assert found.bore and found.radius == pytest.approx(6, abs=1e-6) and found.half == pytest.approx(5)
    rounded = mesh_of((box(16, 16, 30) + rod(30, 8).translate((8, 0, 0))) - box(50, 50, 1).translate((0, 0, 40)))
    faces = find_faces(rounded)
    side = faces.around(facet_at(rounded, [2, 8, 0], [0, 1, 0]))
    assert rounded.areas[side].sum() == pytest.approx(16 * 30, rel=1e-6), "the flat ends where the round begins"
    wide = faces.around(facet_at(rounded, [2, 8, 0], [0, 1, 0]), wide=True)
    assert rounded.areas[wide].sum() > 2 * 16 * 30 + 0.99 * np.pi * 8 * 30


def test_a_smooth_body_is_one_face():
    assert find_faces(sphere(10, 64)).face.max() == 0
    assert find_faces(torus(20, 6, 64, 32)).face.max() == 0


def test_pointing_says_what_is_meant():
    faces = find_faces(PLATE)
    bore = pointed(PLATE, faces, facet_at(PLATE, [6, 0, 0], [-1, 0, 0]))
    assert bore["kind"] == "bore" and bore["called"] == "bore 12" and bore["axis"] == pytest.approx([0, 0, 1])
    top = pointed(PLATE, faces, facet_at(PLATE, [15, 10, 5], [0, 0, 1]))
    assert top["kind"] == "flat" and top["axis"] == pytest.approx([0, 0, 1])
    pin = mesh_of(rod(30, 4))
    assert pointed(pin, find_faces(pin), facet_at(pin, [4, 0, 0], [1, 0, 0]))["called"] == "pin 8"


def test_bores_in_line_are_one_when_pointed_wide():
    ears = mesh_of(
        (box(10, 30, 30).translate((-20, 0, 0)) + box(10, 30, 30).translate((20, 0, 0))) - rod(90, 6, axis="x")
    )
    facet = facet_at(ears, [20, 6, 0], [0, -1, 0])
    one, both = (pointed(ears, find_faces(ears), facet, wide) for wide in (False, True))
    assert both["area_mm2"] == pytest.approx(2 * one["area_mm2"], rel=1e-9)


def test_pointing_at_a_surface_that_is_all_one_face_catches_all_of_it():
    mesh = torus(40, 12, 60, 25)
    for facet in (5, 1000, 2500):
        assert pointed(mesh, find_faces(mesh), facet)["area_mm2"] == pytest.approx(mesh.areas.sum())


# ------------------------------------------------------------------ another revision


def test_faces_are_found_again_on_the_next_revision():
    next_one = mesh_of((box(40, 30, 10.4) - rod(40, 6, 128)) - rod(40, 2, 32).translate((14, 8, 0)))
    old, new = find_faces(PLATE), find_faces(next_one)
    top = {"patch": {"facet": facet_at(PLATE, [15, -10, 5], [0, 0, 1]), "wide": False}}
    again = found_again(PLATE, old, next_one, new, top)
    caught = catch(next_one, new, again)
    assert caught.normal == pytest.approx([0, 0, 1]) and caught.centre[2] == pytest.approx(5.2)
    listed = {"facets": old.around(top["patch"]["facet"]).tolist()}
    assert found_again(PLATE, old, next_one, new, listed) == again
    assert found_again(PLATE, old, next_one, new, BORE) == BORE
    gone = {"plane": {"point": [0, 0, 5], "normal": [0, 0, 1], "tol": 0.05}}
    assert found_again(PLATE, old, next_one, new, gone) is None
    block = mesh_of(box(10, 10, 90).translate((0, 0, 60)))
    assert found_again(PLATE, old, block, find_faces(block), top) is None


# ------------------------------------------------------------------ equilibrium


def on(shape, name="there"):
    return Region(shape, name)


@pytest.mark.parametrize("seed", [0, 1, 2])
def test_a_bearing_presses_on_the_loaded_half_with_a_cosine(seed):
    angle = seed * 0.7
    force = 500 * np.array([np.cos(angle), np.sin(angle), 0])
    got = acting(PLATE, None, Load("force", tuple(force), on(BORE)), 1.27)
    assert got.force() == pytest.approx(force, abs=1e-6)
    assert got.moment(np.zeros(3)) == pytest.approx([0, 0, 0], abs=1)
    pushed = np.linalg.norm(got.forces, axis=1) > 1e-9
    assert (got.points[pushed] @ force > -500 * 6 * np.sin(2 * np.pi / 96)).all(), (
        "only the half ahead of the pin is pressed"
    )
    # p(θ) = 2F/(π·R·t)·cos θ at its greatest
    t = catch(PLATE, None, BORE)
    pressure = np.linalg.norm(got.forces, axis=1) / t.areas
    assert pressure.max() == pytest.approx(2 * 500 / (np.pi * 6 * 10), rel=5e-3)


def test_a_force_along_the_bore_is_spread_evenly():
    got = acting(PLATE, None, Load("force", (0, 0, -80), on(BORE)), 1.27)
    assert got.force() == pytest.approx([0, 0, -80])


def test_a_half_bore_cannot_be_pushed_through_its_open_side():
    half = mesh_of(box(40, 30, 10) - rod(40, 6, 96) - box(40, 30, 40).translate((0, 15, 0)))
    acting(half, None, Load("force", (0, -100, 0), on(BORE)), 1.27)
    with pytest.raises(InputError, match="no wall"):
        acting(half, None, Load("force", (0, 100, 0), on(BORE, "open bore")), 1.27)


def test_pressure_over_a_closed_surface_sums_to_nothing():
    got = acting(PLATE, None, Load("pressure", on=on({"box": [[-99] * 3, [99] * 3]}), pressure=2.0), 1.27)
    assert got.force() == pytest.approx([0, 0, 0], abs=1e-6)
    top = acting(CUBE, None, Load("pressure", on=on(plane(10)), pressure=0.5), 1.27)
    assert top.force() == pytest.approx([0, 0, -200])


def test_a_moment_is_forces_that_sum_to_nothing():
    for shape in (plane(10), {"box": [[-3, -3, 9], [4, 5, 11]]}):
        got = acting(CUBE, None, Load("moment", (300, -200, 900), on(shape)), 1.27)
        assert got.force() == pytest.approx([0, 0, 0], abs=1e-9)
        assert got.moment(np.array([3.0, -7, 2])) == pytest.approx([300, -200, 900], rel=1e-9)


def test_own_weight_acts_at_the_centre_of_mass():
    got = acting(CUBE, None, Load("acceleration", (0, 0, -1)), 1.27)
    assert got.force() == pytest.approx([0, 0, -8000 * 1.27e-6 * G])


def pull(force, shape=None, factor=1.0):
    return Case("pull", (Load("force", force, on(shape or plane(10))),), factor)


def test_one_held_face_answers_the_whole_load():
    got = balance(CUBE, None, pull((120, 0, 0), factor=1.5), [Hold(on(plane(-10)))], 1.27)
    assert got.force == pytest.approx([180, 0, 0]) and not got.free
    answer = got.answers[0]
    assert answer.force == pytest.approx([-180, 0, 0])
    assert answer.moment == pytest.approx([0, -180 * 20, 0]), "force × lever back from the loaded face"


def test_two_small_feet_share_by_the_lever():
    beam = mesh_of(box(200, 6, 6))
    foot = lambda x: {"box": [[x - 0.1, -0.1, -4], [x + 0.1, 0.1, -2]]}
    spot = {"box": [[29.9, -0.1, 2], [30.1, 0.1, 4]]}
    got = balance(beam, None, pull((0, 0, -100), spot), [Hold(on(foot(-70))), Hold(on(foot(90)))], 1.27)
    left, right = (a.force[2] for a in got.answers)
    assert left == pytest.approx(100 * 60 / 160, rel=1e-4) and right == pytest.approx(100 * 100 / 160, rel=1e-4)


def test_a_pressed_face_pushes_and_never_pulls():
    beam = mesh_of(box(200, 10, 6))
    under = Hold(on({"box": [[-100, -5, -4], [0, 5, -2]]}), "pressed")
    over = Hold(on({"box": [[-100, -5, 2], [-90, 5, 4]]}), "pressed")
    down = pull((0, 0, -40), {"box": [[89, -5, 2], [100, 5, 4]]})
    got = balance(beam, None, down, [under, over], 1.27)
    assert got.answers[0].force[2] > 40 and got.answers[1].force[2] < 0, "the tail is held down, the edge carries more"
    assert sum(a.force[2] for a in got.answers) == pytest.approx(40, rel=1e-6) and not got.free
    lifted = balance(beam, None, pull((0, 0, 40), {"box": [[-60, -5, 2], [-40, 5, 4]]}), [under], 1.27)
    assert lifted.free, "nothing holds it down"


def test_what_is_not_held_is_said():
    sliding = [Hold(on(plane(-10)), "sliding")]
    got = balance(CUBE, None, pull((50, 0, 0)), sliding, 1.27)
    assert any(w == "slides along x" for w in got.free)
    pinned = [Hold(on(BORE, "bore"), "pinned")]
    turned = balance(PLATE, None, Case("t", (Load("moment", (0, 0, 500), on(plane(5))),)), pinned, 1.27)
    assert turned.free == ["turns about z"]
    across = balance(PLATE, None, pull((0, 70, 0), {"box": [[-1, 14, -5], [1, 16, 5]]}), pinned, 1.27)
    assert not across.free and across.answers[0].force == pytest.approx([0, -70, 0], abs=1e-6)
    assert balance(CUBE, None, pull((1, 0, 0)), [], 1.27).free == ["nothing is held"]


def test_a_face_held_along_two_axes_slides_along_the_third():
    got = balance(CUBE, None, pull((0, 9, 0)), [Hold(on(plane(-10)), axes="xz")], 1.27)
    assert "slides along y" in got.free


def test_a_washer_holds_the_disc_under_it():
    face = on(plane(10), "top")
    got = held_patch(CUBE, None, Hold(face, "bolted", washer=Washer((2, 1, 10), 9)))
    assert got.area == pytest.approx(np.pi * 4.5**2, rel=1e-6) and got.centre == pytest.approx([2, 1, 10])
    with pytest.raises(InputError, match="beside the face"):
        held_patch(CUBE, None, Hold(face, "bolted", washer=Washer((30, 0, 10), 9)))


def test_balance_turns_with_the_part():
    turn = rotation(8)
    force = np.array([30.0, -20, 55])
    plain = balance(CUBE, None, pull(tuple(force)), [Hold(on(plane(-10)))], 1.27)
    spin = lambda s: {"plane": {k: (turn @ v).tolist() if k != "tol" else v for k, v in s["plane"].items()}}
    case = Case("pull", (Load("force", tuple(turn @ force), on(spin(plane(10)))),))
    turned = balance(CUBE.moved(turn), None, case, [Hold(on(spin(plane(-10))))], 1.27)
    assert turned.answers[0].moment == pytest.approx(turn @ plain.answers[0].moment, abs=1e-6)


# ------------------------------------------------------------------ the loads file

FILE = {
    "fixed": [plane(-5), {"on": BORE, "hold": "xy", "how": "fixed"}],
    "cases": [
        {
            "name": "pull",
            "factor": 1.5,
            "loads": [{"on": BORE, "force_n": [0, 250, 0]}, {"acceleration_g": [0, 0, -1]}],
        },
        {
            "name": "press",
            "nature": "cyclic",
            "cycles": 1e6,
            "loads": [
                {"on": plane(5) | {"name": "top"}, "pressure_mpa": 0.2},
                {"on": plane(5), "moment_nmm": [0, 0, 900]},
            ],
        },
    ],
    "combinations": [{"name": "both", "parts": [{"case": "pull", "factor": 1.2}, {"case": "press"}]}],
}


def test_a_loads_file_comes_back_the_same():
    loads = read_loads(FILE, 999)
    assert read_loads(json.loads(json.dumps(write_loads(loads))), 999) == loads
    assert loads.holds[1].axes == "xy" and loads.cases[1].cycles == 1e6
    assert loads.cases[1].loads[0].on.name == "top"
    assert read_loads(write_loads(read_loads(json.loads(json.dumps(FILE)), 999)), 999) == loads


def test_combinations_are_sums_with_factors():
    both = read_loads(FILE, 999).combined()[0]
    assert both.name == "both" and len(both.loads) == 4
    assert both.loads[0].vector == pytest.approx((0, 250 * 1.5 * 1.2, 0))
    alone = [balance(PLATE, None, c, [Hold(on(plane(-5)))], 1.27).force for c in read_loads(FILE).cases]
    together = balance(PLATE, None, both, [Hold(on(plane(-5)))], 1.27).force
    assert together == pytest.approx(1.2 * alone[0] + alone[1])


def test_faces_go_out_as_facets():
    faces = find_faces(PLATE)
    facet = facet_at(PLATE, [15, 10, 5], [0, 0, 1])
    loads = read_loads({"fixed": [{"patch": {"facet": facet, "wide": False}}], "cases": []})
    plain = without_patches(loads, lambda s: catch(PLATE, faces, s).facets)
    shape = write_loads(plain)["fixed"][0]["on"]
    assert catch(PLATE, None, shape).area == pytest.approx(40 * 30 - np.pi * 36, rel=1e-2)


@pytest.mark.parametrize(
    "written, words",
    [
        ([], "named values"),
        ({"cases": {}}, "list"),
        ({"cases": [{"name": "a", "loads": []}]}, "no load"),
        ({"cases": [{"name": "a", "loads": [{"force_n": [0, 0, 1]}]}]}, "no face"),
        ({"cases": [{"name": "a", "loads": [{"on": BORE, "force_n": [0, 0]}]}]}, "three numbers"),
        ({"cases": [{"name": "a", "loads": [{"on": BORE, "force_n": [0, 0, True]}]}]}, "a number"),
        ({"cases": [{"name": "a", "loads": [{"on": BORE}]}]}, "one of force_n"),
        ({"cases": [{"name": "a", "nature": "odd", "loads": [{"acceleration_g": [0, 0, 1]}]}]}, "cannot be"),
        ({"fixed": [{"on": BORE, "hold": "w"}]}, "hold"),
        ({"fixed": [{"on": BORE, "how": "glued"}]}, "cannot be held"),
        ({"fixed": [{"on": plane(0), "how": "pinned"}]}, "bore or a pin"),
        ({"fixed": [{"on": plane(0), "how": "bolted"}]}, "washer"),
        ({"fixed": ["x"]}, "held face"),
        ({"combinations": [{"name": "c", "parts": [{"case": "none"}]}]}, "names a case"),
        ({"cases": [{"name": "a", "loads": [{"acceleration_g": [0, 0, 1]}]}] * 2}, "Two load cases"),
    ],
)
def test_a_bad_loads_file_says_where(written, words):
    with pytest.raises(InputError) as caught:
        read_loads(written)
    assert caught.value.code == "bad_loads" and words in caught.value.message


def test_shapes_are_kept_in_their_full_form():
    again = checked_shape(checked_shape({"box": [[1, 5, 0], [0, 2, 9]]}))
    assert again == {"box": [[0, 2, 0], [1, 5, 9]]}


def test_pieces_cover_the_surface_and_none_is_too_long():
    """Area, outward sense and facet are those of what was divided; the longest side keeps to the size."""
    corner = np.random.default_rng(1).uniform(-20, 20, (30, 3, 3))
    cross = np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0])
    size = np.linalg.norm(cross, axis=1, keepdims=True)
    patch = Patch(corner, cross / size, np.arange(30) + 7)
    fine = finely(patch, 3.0)
    sides = np.linalg.norm(fine.triangles - np.roll(fine.triangles, 1, axis=1), axis=2)
    assert sides.max() <= 3.0 and len(fine.facets) > 30
    assert np.bincount(fine.facets - 7, fine.areas) == pytest.approx(size[:, 0] / 2)
    own = np.cross(fine.triangles[:, 1] - fine.triangles[:, 0], fine.triangles[:, 2] - fine.triangles[:, 0])
    assert ((own * fine.normals).sum(axis=1) > 0).all()
