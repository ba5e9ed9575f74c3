"""Back to CAD: the same edits on the exact solid, written as STEP, and read again."""

import re
from collections import Counter
from math import pi, radians, tan

import manifold3d as m3
import numpy as np
import pytest
from shapes import box, rod, rotation

from demo.step_file import block_with_bores
from hewel_engine.advice.adapting import Adapted, adapted, reworked
from hewel_engine.advice.bounds import FULL
from hewel_engine.advice.dividing import divided_by_plane, with_a_feature_apart, with_a_plate_put_in
from hewel_engine.advice.placed_part import PlacedPart
from hewel_engine.edits.exact import Edit, Flats, Made, cylinder, flats_of
from hewel_engine.edits.fans import INSIDE, OVERLAP
from hewel_engine.edits.splits import Joint
from hewel_engine.errors import InputError
from hewel_engine.fits.rows import step as fit_step
from hewel_engine.geometry.measures import feature_of
from hewel_engine.geometry.rays import RayScene
from hewel_engine.hardware.placing import seated
from hewel_engine.io import exact
from hewel_engine.io.exact import Carried, carried_over
from hewel_engine.io.reading import Intake, take_in
from hewel_engine.loads.regions import catch
from hewel_engine.parts.facts import facts_of
from hewel_engine.processes import Process
from hewel_engine.walls.lines import Comb
from hewel_engine.walls.thickness import thickness_of
from hewel_engine.walls.zones import walls_of

P = Process()
UP = np.array([0, 0, 1.0])
ANY = block_with_bores((1, 1, 1), [])
TURNED = rotation(5), np.array([12.0, -7.0, 31.0])
"""A frame that nothing is normal to."""


def drawn(adds: list, removes: list = (), place=TURNED) -> Intake:
    """A part that came as STEP, its solid made of bodies and cylinders; in another frame unless told otherwise."""
    edits, whole = [], m3.Manifold()
    for shape in (*adds, *removes):
        after = whole + twin(shape) if shape in adds else whole - twin(shape)
        exactly = flats_of(shape) if isinstance(shape, m3.Manifold) else [shape]
        what = {"adds" if shape in adds else "removes": exactly}
        edits.append(Edit("drawn", after.volume() - whole.volume(), **what).placed(*place))
        whole = after
    made = carried_over(ANY, "part", {"part": Made(edits, of_part=False)})
    assert made.left == []
    return take_in(made.data)


def twin(shape) -> m3.Manifold:
    if isinstance(shape, m3.Manifold):
        return shape
    round_ = m3.Manifold.cylinder(shape.height, *shape.radii, circular_segments=256)
    return round_.translate(tuple(shape.base))


def bores_of(part: Intake) -> list:
    return facts_of(part.mesh, RayScene(part.mesh), part.surfaces).bores


def remedied(part: Intake, up, keys=None) -> tuple[Adapted, Carried]:
    found = adapted(part.mesh, up, P, bores_of(part), keys, bounds=FULL)
    return found, carried_over(part.exact, "part", {"part": found.made})


def findings(part: Intake, up) -> Counter:
    placed = PlacedPart.stood(part.mesh, up, P, bores_of(part))[0]
    return Counter((r.kind, r.needs_support) for r in placed.truth.regions if r.area > 0.5)


def same(part: Intake, up, found: Adapted, carried: Carried) -> Intake:
    """The STEP that came out, read again: its volume and findings are those of the mesh route."""
    assert carried.left == []
    again = take_in(carried.data)
    assert again.mesh.closed
    assert carried.pieces[0].volume == pytest.approx(found.mesh.volume, rel=1e-3)
    assert again.mesh.volume == pytest.approx(found.mesh.volume, rel=1e-3)
    wanted = Counter((r.kind, r.needs_support) for r in found.after.truth.regions if r.area > 0.5)
    assert findings(again, up) == wanted
    return again


# ------------------------------------------------------------------ flat faces found again


def test_facets_are_gathered_into_flat_faces():
    (cube,) = flats_of(box(10, 20, 30).refine(4))
    assert len(cube.vertices) == 8 and sorted(len(loops[0]) for loops in cube.faces) == [4] * 6
    (tube,) = flats_of((box(20, 20, 10) - box(10, 10, 12)).transform(np.c_[TURNED]))
    assert len(tube.vertices) == 16 and sorted(len(loops) for loops in tube.faces) == [1] * 8 + [2, 2]
    outer, inner = next(loops for loops in tube.faces if len(loops) == 2)
    size = lambda loop: np.linalg.norm(np.ptp(tube.vertices[loop], axis=0))
    assert size(outer) > size(inner), "the outer loop first"
    step = m3.Manifold.cube((10, 10, 5)) + m3.Manifold.cube((10, 4, 9))
    (stepped,) = flats_of(step)
    assert len(stepped.faces) == 8 and len(stepped.vertices) == 12, "no vertex in the middle of a straight edge"
    assert len(flats_of(rod(10, 5, sides=17))[0].faces) == 19
    assert len(flats_of(box(1, 1, 1) + box(1, 1, 1).translate((3, 0, 0)))) == 2


def test_a_void_stays_in_what_encloses_it():
    hollow = box(20, 20, 20) - box(12, 12, 12)
    (shape,) = flats_of(hollow)
    assert len(shape.faces) == 12
    made = carried_over(ANY, "hollow", {"hollow": Made([Edit("all", hollow.volume(), adds=[shape])], of_part=False)})
    assert made.left == [] and made.pieces[0].volume == pytest.approx(20**3 - 12**3, rel=1e-9)


# ------------------------------------------------------------------ remedies


def test_a_teardrop_is_exact():
    """On the true cylinder the two planes and the arc between them are known in closed form."""
    part = take_in(block_with_bores((40, 30, 14), [(10, 15, 5, 99), (28, 15, 6, 99)]))
    up = np.array([1.0, 0, 0])
    found, carried = remedied(part, up)
    again = same(part, up, found, carried)
    lean = radians(45 - INSIDE)
    roof = sum(r * r * (1 / tan(lean) - (pi / 2 - lean)) for r in (5, 6))  # two kites less the sector between them
    assert carried.pieces[0].volume == pytest.approx(14 * (40 * 30 - pi * 61 - roof), rel=1e-9)
    kinds = Counter(s.kind for s in again.surfaces.list)
    assert kinds == {"plane": 10, "cylinder": 2}, "no sliver beside the planes"


@pytest.mark.parametrize(
    "key, adds, removes",
    [
        ("gusset", [box(40, 40, 8).translate((0, 0, 34)) + box(12, 40, 60).translate((14, 0, 0))], []),
        ("pointed_arch", [box(60, 30, 60)], [box(36, 40, 50).translate((0, 0, -20))]),
        ("stepped_bridging", [box(40, 40, 20)],
         [cylinder(np.zeros(2), -20, -2, 9.0), cylinder(np.zeros(2), -4, 20, 3.0)]),
        ("foot_chamfer", [box(30, 20, 20)], [cylinder(np.zeros(2), -20, 20, 4.0)]),
        ("block", [box(60, 30, 40)], [box(30, 40, 20)]),
    ],
)  # fmt: skip
def test_flat_remedies_are_carried_over(key, adds, removes):
    part, up = drawn(adds, removes), TURNED[0] @ UP
    found, carried = remedied(part, up, (key,))
    assert key in {a.tool.key for a in found.applied}, [row.why for row in found.left]
    same(part, up, found, carried)


def test_a_membrane_closes_an_exact_bore():
    part = drawn([box(40, 40, 20)], [cylinder(np.zeros(2), -20, -2, 9.0), cylinder(np.zeros(2), -4, 20, 3.0)])
    up = TURNED[0] @ UP
    found, carried = remedied(part, up, ("membrane",))
    again = same(part, up, found, carried)
    assert [a.tool.key for a in found.applied] == ["membrane"]
    open_ = 40 * 40 * 20 - pi * 81 * 8 - pi * 9 * 12
    assert carried.pieces[0].volume == pytest.approx(open_ + pi * 9 * P.layer, rel=1e-8)
    assert len(bores_of(again)) == 2


def test_what_follows_a_curve_is_named_and_the_rest_is_carried():
    """A disc on a stem: its underside wants a gusset all round, which has no flat faces; the bore's teardrop has."""
    part = drawn(
        [cylinder(np.zeros(2), 0, 30, 9.0), cylinder(np.zeros(2), 30, 40, 20.0)],
        place=(np.eye(3), np.zeros(3)),
    )
    found, carried = remedied(part, UP, ("gusset",))
    assert [a.tool.key for a in found.applied] == ["gusset"]
    ((row),) = carried.left
    assert row["name"] == "gusset" and "follows a curve" in row["why"] and row["piece"] is None
    assert carried.pieces[0].volume == pytest.approx(pi * (81 * 30 + 400 * 10), rel=1e-9), "left as it was"


@pytest.mark.parametrize("whole, left", [(box(50, 1.0, 30), []), (None, ["wall"])])
def test_a_flat_wall_is_moved_exactly_and_a_round_one_is_named(whole, left):
    still = (np.eye(3), np.zeros(3))
    if whole is None:
        part = drawn([cylinder(np.zeros(2), 0, 30, 12.0)], [cylinder(np.zeros(2), -1, 31, 10.95)], still)
        centre = [11.475, 0, 15]
    else:
        part, centre = drawn([box(60, 40, 3) + whole.translate((0, 0, 15))], place=still), [0, 0, 16]
    zone = min(
        walls_of(thickness_of(part.mesh), Comb.of(P)).zones, key=lambda z: np.linalg.norm(z.centre - np.array(centre))
    )
    step = {"key": "wall", "kind": "wall", "centre_mm": zone.centre.tolist(), "set": {"thickness_mm": 1.671}}
    found = reworked(part.mesh, UP, P, bores_of(part), [step])
    assert found.unfit == []
    carried = carried_over(part.exact, "part", {"part": found.made})
    assert [row["name"] for row in carried.left] == left
    if not left:
        same(part, UP, found, carried)


@pytest.mark.parametrize(
    ("key", "kind", "centre", "solids", "numbers"),
    [
        ("hollow", "body", (0, 0, 15), [box(40, 40, 30).translate((0, 0, 15))], {"wall_mm": 2.0, "pitch_mm": 10.0}),
        ("hollow", "body", (0, 0, 15), [box(40, 40, 30).translate((0, 0, 15))], {"wall_mm": 2.0, "pitch_mm": 0.0}),
        ("rounded_corner", "corner", (-15, 0, 5),
         [box(40, 20, 5).translate((0, 0, 2.5)) + box(5, 20, 40).translate((-17.5, 0, 20))], {"radius_mm": 3.0}),
        ("ribs", "flat", (0, 1.5, 30), [box(80, 3, 60).translate((0, 0, 30))], {"height_mm": 8.0, "pitch_mm": 20.0}),
    ],
)  # fmt: skip
def test_what_sizes_a_flat_part_is_carried_over(key, kind, centre, solids, numbers):
    part = drawn(solids, place=(np.eye(3), np.zeros(3)))
    step = {"key": key, "kind": kind, "centre_mm": list(centre), "set": numbers}
    found = reworked(part.mesh, UP, P, [], [step])
    assert found.unfit == []
    same(part, UP, found, carried_over(part.exact, "part", {"part": found.made}))


def test_a_foot_that_lifts_the_part_moves_nothing_of_it():
    tilt = np.array([[1, 0, 0], [0, np.cos(0.1), -np.sin(0.1)], [0, np.sin(0.1), np.cos(0.1)]])
    for key in ("sliced_foot", "added_foot"):
        part = drawn([box(30, 30, 40)], place=(tilt, np.zeros(3)))
        step = {"key": key, "kind": "plate", "centre_mm": [0, 0, 0]}
        found = reworked(part.mesh, UP, P, [], [step])
        assert found.unfit == [] and [a.tool.key for a in found.applied] == [key]
        same(part, UP, found, carried_over(part.exact, "part", {"part": found.made}))


# ------------------------------------------------------------------ pieces


def exact_pieces(part: Intake, found) -> dict[str, float]:
    """Each piece of STEP: volume by the mesh route to 0.1 %, read again as one closed solid."""
    carried = carried_over(part.exact, "part", {p.name: p.made for p in found.pieces})
    assert carried.left == []
    for piece, made in zip(found.pieces, carried.pieces, strict=True):
        again = take_in(made.data)
        assert made.volume == pytest.approx(piece.mesh.volume, rel=4e-3 if "peg" in piece.name else 1e-3)
        assert again.mesh.closed and again.mesh.volume == pytest.approx(made.volume, rel=2e-3)
    assert len(re.findall(rb"= (MANIFOLD_SOLID_BREP|BREP_WITH_VOIDS)", carried.data)) == len(found.pieces)
    return {made.name: made.volume for made in carried.pieces}


def test_a_hollow_box_is_split_exactly():
    part = drawn([box(60, 50, 40) - box(56, 46, 36)])
    turn, shift = TURNED
    found = divided_by_plane(part.mesh, shift, turn @ UP, P, Joint(0.15, count=2))
    made = exact_pieces(part, found)
    seat = found.seats[0]
    reach = max(2.0, seat["diameter_mm"])
    radius, cut = seat["peg_mm"] / 2, 0.4
    cone = lambda a, b, h: pi * h * (a * a + a * b + b * b) / 3
    wanted = 2 * (pi * radius**2 * (reach - cut) + cone(radius, radius - cut, cut))
    assert made["peg 1"] == pytest.approx(wanted, rel=1e-6)
    lower = take_in(carried_over(part.exact, "half", {"half": found.pieces[0].made}).data)
    sockets = sorted(b.diameter for b in bores_of(lower))
    assert sockets == pytest.approx(sorted(s["diameter_mm"] for s in found.seats), abs=1e-6), "true cylinders"


def test_a_feature_is_cut_off_exactly_and_one_beside_another_is_not():
    arm = box(50, 40, 12) + box(10, 10, 40).translate((0, 0, 20))
    part = drawn([arm])
    turn, shift = TURNED
    cut = turn @ np.array([0, 0, 6.0]) + shift
    exact_pieces(part, with_a_feature_apart(part.mesh, cut, turn @ UP, P, 0.1))
    ring = box(16, 16, 20) - box(11, 11, 30)  # a post within a ring: no box keeps the one and not the other
    both = box(50, 40, 12) + (box(8, 8, 20) + ring).translate((0, 0, 12))
    part = drawn([both])
    found = with_a_feature_apart(part.mesh, cut, turn @ UP, P, 0.1, pick=turn @ np.array([4.0, 0, 15]) + shift)
    assert [p.made for p in found.pieces] == [None, None]


def test_a_plate_and_its_seat_are_exact():
    part = drawn([box(60, 50, 40) - box(40, 30, 24)], place=(np.eye(3), np.zeros(3)))
    made = exact_pieces(part, with_a_plate_put_in(part.mesh, UP, P, [], 0.1))
    assert set(made) == {"body", "plate"}


# ------------------------------------------------------------------ what goes wrong


def test_an_edit_that_comes_out_otherwise_is_taken_back():
    part = drawn([box(20, 20, 20)], place=(np.eye(3), np.zeros(3)))
    (corner,) = flats_of(box(10, 10, 10).translate((10, 10, 10)))
    edits = [
        Edit("right", -125.0, removes=[corner]),
        Edit("too much", -125.0, removes=flats_of(box(10, 10, 15).translate((-10, -10, -10)))),
        Edit("open", 1.0, adds=[Flats(corner.vertices, corner.faces[:5])]),
        Edit("all of it", -7875.0, removes=flats_of(box(30, 30, 30))),
    ]
    carried = carried_over(part.exact, "part", {"part": Made(edits)})
    assert [row["name"] for row in carried.left] == ["too much", "open", "all of it"]
    assert "mm³" in carried.left[0]["why"] and "no sound" in carried.left[2]["why"]
    assert carried.pieces[0].volume == pytest.approx(8000 - 125, rel=1e-9)


@pytest.mark.parametrize(
    "name, value, words",
    [("can_write_step", lambda: False, "not installed"), ("SECONDS", 0.05, "took more"),
     ("MEMORY_BASE", 30 * 2**20, "could not be changed")],
)  # fmt: skip
def test_without_library_time_or_memory_it_is_refused_in_words(monkeypatch, name, value, words):
    monkeypatch.setattr(exact, name, value)
    with pytest.raises(InputError, match=words) as refused:
        carried_over(ANY, "part", {"part": Made([])})
    assert refused.value.code == "no_step"


def test_a_file_without_a_solid_is_refused_in_words():
    with pytest.raises(InputError, match="no exact solid"):
        carried_over(b"ISO-10303-21;\nEND-ISO-10303-21;\n", "part", {"part": Made([])})


def test_places_for_steel_are_carried_over():
    """Through hole, seat and pocket, an insert's hole with its chamfer, a keyway: cylinders, cones and flat faces."""
    part = drawn([box(60, 40, 30)], place=(np.eye(3), np.zeros(3)))
    base = {
        "name": "",
        "head": "socket",
        "washer": "washer",
        "nut": "square_nut_thin",
        "pocket": "open",
        "steel": "8.8",
    }
    rows = [
        base | {"id": "b", "kind": "bolt", "size": "M5", "at": [-15, 0, 15], "axis": [0, 0, -1], "sunk": 4.0},
        base | {"id": "i", "kind": "insert", "size": "M4", "at": [15, 0, 15], "axis": [0, 0, -1]},
        base | {"id": "k", "kind": "key", "size": "5x5", "at": [0, 20, -8], "end": [0, 20, 8], "axis": [0, -1, 0]},
    ]
    found = seated(part.mesh, UP, P, [], rows)
    assert [p.why for p in found.rows] == ["", "", ""]
    carried = carried_over(part.exact, "part", {"part": found.came.made})
    assert carried.left == []
    again = same(part, UP, found.came, carried)
    sizes = sorted(round(b.diameter, 2) for b in bores_of(again))
    assert 5.65 in sizes and round(found.rows[1].where["hole_mm"], 2) in sizes


def test_what_is_drawn_for_a_fit_is_carried_over():
    """A bore wider, a pin thicker, a flat further in: true cylinders and planes; a thinner pin is a ring: said."""
    body, post = box(60, 40, 30), cylinder(np.array([15.0, 0]), 15 - OVERLAP, 27, 5.0)
    part = drawn([body, post], [cylinder(np.array([-15.0, 0]), -20, 20, 4.0)], (np.eye(3), np.zeros(3)))
    rays = RayScene(part.mesh)

    def step(key: str, kind: str, radius: float, x: float, **numbers):
        where = {"cylinder": {"point": [x, 0, 0], "axis": [0, 0, 1], "radius": radius}}
        found = feature_of(part.mesh, rays, np.unique(catch(part.mesh, None, where).facets))
        assert found.kind == kind
        return fit_step(key, found.places[0], found.axis, numbers)

    flat = fit_step("shifted_flat", np.array([30.0, 3, 2]), np.array([1.0, 0, 0]), {"by_mm": -0.2})
    steps = [step("resized_bore", "bore", 4, -15, to_mm=8.4), step("resized_pin", "pin", 5, 15, to_mm=10.3), flat]
    found = reworked(part.mesh, UP, P, bores_of(part), steps)
    assert found.unfit == []
    carried = carried_over(part.exact, "part", {"part": found.made})
    again = same(part, UP, found, carried)
    assert carried.pieces[0].volume == pytest.approx(
        59.8 * 40 * 30 - pi * 4.2**2 * 30 + pi * 5.15**2 * 12, rel=1e-6
    )  # fmt: skip
    assert round(bores_of(again)[0].diameter, 3) == 8.4
    thinner = reworked(part.mesh, UP, P, bores_of(part), [step("resized_pin", "pin", 5, 15, to_mm=9.8)])
    left = carried_over(part.exact, "part", {"part": thinner.made}).left
    assert [row["name"] for row in left] == ["resized pin"]
