"""Designed blocks, and the numbers of a remedy that a person sets."""

import numpy as np
import pytest
from shapes import box, by_chance, mesh_of, rod, rotation
from test_adapting import UP, adapt, arch, cap_area, counterbore, good, lying, only, solid

from hewel_engine.advice import proposals
from hewel_engine.advice.adapting import Adapted, adapted, reworked
from hewel_engine.advice.bounds import FULL
from hewel_engine.advice.costs import least_of
from hewel_engine.edits.lettering import lettered
from hewel_engine.edits.remedies import BY_KEY, KEYS, REGION, REMEDIES, checked
from hewel_engine.edits.tools import drawn
from hewel_engine.errors import InputError
from hewel_engine.geometry.features import find_bores
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.patches import find_faces
from hewel_engine.geometry.rays import RayScene
from hewel_engine.loads.cases import read_loads
from hewel_engine.processes import Process
from hewel_engine.strength.stressing import COARSE, stressed


def window(low=8.0, high=24.0, wide=34.0, above=6.0):
    """A wall 3 mm thick on a base, with a window too wide to bridge and little stock above it."""
    wall = box(60, 3, high + above).translate((0, 0, (high + above) / 2))
    return wall - box(wide, 10, high - low).translate((0, 0, (high + low) / 2)) + box(60, 30, 2).translate((0, 0, 1))


def loose(found: Adapted):
    """The block among the separate solids of the result."""
    bodies = solid(found.mesh).decompose()
    assert len(bodies) == 2
    return min(bodies, key=lambda b: b.volume())


@pytest.mark.parametrize("layer", [0.1, 0.2, 0.3])
@pytest.mark.parametrize(("low", "high"), [(8.0, 24.0), (8.07, 24.13)])
def test_a_window_gets_a_block_with_both_gaps_in_whole_layers(layer, low, high):
    found = adapt(window(low, high), layer=layer)
    done = only(found)
    assert done.tool.key == "block" and found.left == []
    block = loose(found)
    x0, y0, z0, x1, y1, z1 = block.bounding_box()
    for face in (z0, z1):
        assert face / layer == pytest.approx(round(face / layer), abs=1e-4), "on a layer plane"
    assert z0 - drawn(low, layer) >= 0.3 - 1e-6 and drawn(high, layer) - z1 >= 0.3 - 1e-6
    assert z0 - drawn(low, layer) < 0.3 + layer and drawn(high, layer) - z1 < 0.3 + layer
    assert (x1 - x0, y1 - y0) == pytest.approx((34 - 0.6, 3.0), abs=2e-3), "as thick as the wall, clear of its sides"
    letters = done.tool.words.split("letters ")[1].split(" mm")[0]
    sunk = 0.6 * lettered("OUT", float(letters), 0.9).area
    assert block.volume() == pytest.approx(33.4 * 3 * (z1 - z0) - sunk, rel=5e-3)
    lying_there = [r for r in found.after.truth.regions if r.lands]
    assert {r.kind for r in lying_there} == {"island", "bridge"} and not found.after.truth.needs_support


def test_on_the_plate_a_block_stands_without_a_gap():
    found = adapt(window(0.0, 24.0, above=5.0) - box(80, 80, 4))
    # what was cut away below makes 2 mm the plate
    z0, z1 = loose(found).bounding_box()[2::3]
    assert (z0, z1) == pytest.approx((2.0, 23.6), abs=1e-4)


def test_what_hangs_higher_than_it_droops_does_not_land():
    plate = box(40, 40, 4).translate((0, 0, 2))
    for gap, lands in ((0.4, True), (0.8, False)):
        over = box(20, 20, 3).translate((0, 0, 4 + gap + 1.5))
        truth = adapt(mesh_of(plate + over), keys=("teardrop",)).before.truth
        (island,) = [r for r in truth.regions if r.kind == "island"]
        assert island.lands == lands and truth.needs_support != lands


@pytest.mark.parametrize(
    ("part", "words"),
    [
        (window(8.0, 10.4), "below 2 mm none comes out"),
        (box(60, 40, 30).translate((0, 0, 15)) - box(30, 26, 20).translate((0, 0, 15)), "no open side"),
        (window() + box(34, 3, 9).rotate((0, 12, 0)).translate((0, 0, 8)), "not level"),
        (window() + box(5, 3, 10).translate((15, 0, 15)).rotate((0, 0, 0)), None),
    ],
    ids=["too low", "closed in", "sloping floor", "step at the side"],
)
def test_where_a_block_could_not_come_out_it_is_refused_in_words(part, words):
    found = adapt(mesh_of(part), keys=("block",))
    result = " ".join(line for row in found.left for line in row.why)
    if words is None:
        words = "not level"
    assert words in result, result
    assert found.applied == []


def test_where_no_support_is_wanted_there_is_no_block():
    found = adapt(window(), supports=False)
    assert all(a.tool.key != "block" for a in found.applied) and found.left


def test_a_block_on_fifty_bodies():
    for seed in by_chance(50):
        chance = np.random.default_rng(seed)
        low = chance.uniform(3, 9)
        part = window(low, low + chance.uniform(8, 20), chance.uniform(26, 40), chance.uniform(3, 5))
        part += rod(8, chance.uniform(1, 4), int(chance.integers(12, 60))).translate((chance.uniform(-20, 20), -10, 5))
        turn = rotation(seed)
        found = adapt(mesh_of(part).moved(turn), turn @ UP)
        assert [a.tool.key for a in found.applied] == ["block"], (seed, [row.why for row in found.left])
        assert found.mesh.closed and not found.after.truth.needs_support, seed
        assert len(solid(found.mesh).decompose()) == 2, seed


def test_a_block_carries_nothing_however_coarse_the_cubes():
    found = adapt(window())
    loads = {
        "fixed": [{"box": [[-40, -20, -1], [40, 20, 0.1]]}],
        "cases": [{"name": "push", "loads": [{"on": {"box": [[-5, -2, 29.9], [5, 2, 31]]}, "force_n": [0, 0, -200]}]}],
    }
    solved = [
        stressed(mesh, find_faces(mesh), read_loads(loads), Process(), voxel_count=COARSE, up=UP)
        for mesh in (mesh_of(window()), found.mesh)
    ]
    held = [least_of(part, Process(), UP) for part in solved]
    assert held[1] == pytest.approx(held[0], rel=1e-6)


# ------------------------------------------------------------------ numbers that a person sets


def reworked_with(part, numbers: dict, **process) -> Adapted:
    """The one remedy of a part done again with its numbers set."""
    mesh = part if isinstance(part, Mesh) else mesh_of(part)
    bores, settings = find_bores(mesh, RayScene(mesh)), Process(**process)
    (step,) = [a.as_dict() for a in adapted(mesh, UP, settings, bores, bounds=FULL).applied]
    return reworked(mesh, UP, settings, bores, [step | {"set": numbers}], bounds=FULL)


def test_a_steeper_lean_makes_a_taller_teardrop():
    done = only(good(reworked_with(lying(sides=360), {"lean_deg": 35.0})))
    assert done.tool.numbers["apex_mm"] == pytest.approx(10 / np.sin(np.radians(35)), abs=0.01)
    assert done.removed == pytest.approx(40 * cap_area(10, 35), rel=0.01)
    assert done.tool.used["lean_deg"] == 35


def test_a_rounded_apex_is_tangent_to_both_planes():
    """A circle of radius r between planes φ either side of the vertical: its top lies r·(1/sin φ − 1) below their edge,
    and r²·(cot φ − (π/2 − φ)) less is taken away.
    """
    done = only(good(reworked_with(lying(sides=360), {"apex_radius_mm": 3.0})))
    assert done.tool.key == "teardrop" and "rounded with 3.00 mm" in done.tool.words
    assert done.tool.numbers["apex_mm"] == pytest.approx(10 * 2**0.5 - 3 * (2**0.5 - 1), abs=1e-6)
    assert done.removed == pytest.approx(40 * (cap_area(10, 45) - cap_area(3, 45)), rel=0.01)


def test_a_teardrop_is_capped_where_it_is_told_to():
    done = only(good(reworked_with(lying(), {"cap_mm": 11.0})))
    assert done.tool.key == "capped_teardrop"
    assert done.tool.numbers["flat_mm"] == pytest.approx(2 * (10 * 2**0.5 - 11), abs=1e-3)
    inside = reworked_with(lying(), {"cap_mm": 9.0})
    assert inside.applied == [] and "inside the bore" in inside.unfit[0][1]


def test_an_arch_keeps_the_flat_it_is_told_to():
    done = only(good(reworked_with(arch(), {"flat_mm": 6.0})))
    assert done.removed == pytest.approx(20 * (40 + 6) / 2 * 17, rel=0.01)
    sags = reworked_with(arch(), {"flat_mm": 14.0})
    assert sags.applied == [] and "more than a clean bridge" in sags.unfit[0][1]


def test_a_gusset_leans_as_it_is_told_to():
    shelf = box(4, 20, 30).translate((0, 0, 15)) + box(12, 20, 4).translate((8, 0, 28))
    done = only(good(reworked_with(shelf, {"lean_deg": 40.0})))
    assert done.added == pytest.approx(20 * 12 * 12 / np.tan(np.radians(40)) / 2, rel=0.01)


def test_a_slot_runs_as_it_is_told_to():
    done = only(good(reworked_with(counterbore(), {"turn_deg": 90.0})))
    assert done.tool.used == {"turn_deg": 90.0}


def test_a_block_keeps_the_gap_it_is_told_to():
    found = reworked_with(window(), {"side_mm": 0.5})
    x0, _, _, x1, _, _ = loose(found).bounding_box()
    assert x1 - x0 == pytest.approx(33.0, abs=2e-3)
    wide = reworked_with(window(), {"gap_mm": 1.0})
    assert wide.applied == [] and "new finding: island" in wide.unfit[0][1], "it would no longer droop onto the block"


def test_a_chamfer_at_the_plate_goes_as_far_in_as_it_is_told_to():
    mesh = mesh_of(box(40, 30, 10))
    step = {"key": "foot_chamfer", "kind": "plate", "centre_mm": [0.0, 0, 0], "set": {"inward_mm": 1.0}}
    done = only(reworked(mesh, UP, Process(), [], [step], bounds=FULL))
    assert done.removed == pytest.approx(140 * 1 * 1 / 2 - 4 / 3, rel=0.01)


def test_numbers_that_cannot_be_are_refused_in_words():
    for numbers, words in (
        ({"lean_deg": 60.0}, "not between 5 and 45"),
        ({"nonesuch": 1.0}, "has no number 'nonesuch'"),
        ({"cap_mm": -3.0}, "Flat above the axis"),
    ):
        with pytest.raises(InputError, match=words):
            checked("teardrop", numbers, Process())
        found = reworked_with(lying(), numbers)
        assert found.applied == [] and words in found.unfit[0][1]


def test_every_remedy_tells_the_numbers_it_used():
    for part in (lying(), arch(), counterbore(), window()):
        done = only(adapt(part))
        assert set(done.tool.used) == {p.name for p in BY_KEY[done.tool.key].parameters}, done.tool.key


def test_every_remedy_stands_once_with_its_title_and_what_makes_it():
    tables = (proposals.FULL, proposals.GENTLE, proposals.ASKED_FOR)
    tried = {n for table in tables for names in table.values() for n in names}
    tried = {n.removeprefix(proposals.SMALL).removeprefix(proposals.WIDE) for n in tried}
    assert tried == set(proposals.MAKERS) == {r.key for r in REMEDIES if r.place == REGION}
    assert len({r.title for r in REMEDIES}) == len(REMEDIES) == len(KEYS)
    assert {r.key for r in REMEDIES if r.removed} <= {r.key for r in REMEDIES if r.hand and r.support}
