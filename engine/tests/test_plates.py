"""Copies on a plate: nothing overlaps, in turn nothing is struck, and more stand than boxes side by side would."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from bench.plates import outlines as outlines_of_the_bench
from bench.plates import side_by_side
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.plates.nesting import Item, Plate, Rule, arranged
from hewel_engine.plates.outlines import forbidden, grown_outside, kept_clear, outline_of, turned
from hewel_engine.plates.proof import breaches
from hewel_engine.plates.turns import Head, collisions, in_order

BED = Plate((250.0, 210.0))
UP = np.array([0.0, 0.0, 1.0])
FOUR = ["angle", "tee", "hook", "arc of 200°"]
SHAPES = outlines_of_the_bench()
ANGLE = SHAPES["angle"]
RING = shapely.Point(0, 0).buffer(45, 16).difference(shapely.Point(0, 0).buffer(38, 16))


def box(x, y, z, at=(0.0, 0.0, 0.0)):
    corners = np.array([[i, j, k] for k in (0, z) for j in (0, y) for i in (0, x)], float) + at
    quads = [(0, 2, 3, 1), (4, 5, 7, 6), (0, 1, 5, 4), (2, 6, 7, 3), (0, 4, 6, 2), (1, 3, 7, 5)]
    return Mesh(corners, np.array([t for a, b, c, d in quads for t in ((a, b, c), (a, c, d))]))


@st.composite
def outlines(draw):
    """Stars round the origin, some with a hole, some drawn out."""
    count = draw(st.integers(3, 14))
    angles = np.sort(np.array(draw(st.lists(st.floats(0, 6.2), min_size=count, max_size=count, unique=True))))
    radii = np.array(draw(st.lists(st.floats(6, 40), min_size=count, max_size=count)))
    shape = shapely.Polygon(np.c_[radii * np.cos(angles), draw(st.floats(0.4, 1.0)) * radii * np.sin(angles)])
    shape = shape.buffer(0.5)
    if draw(st.booleans()):
        shape = shape.difference(shape.buffer(-4))
    return shape


@settings(deadline=None, max_examples=8)
@given(outlines(), st.sampled_from([0.0, 1.0, 3.0]), st.integers(0, 9))
def test_nothing_overlaps_whatever_is_laid_out(shape, gap, margin):
    if shape.is_empty or shape.area < 20:
        return
    plate = Plate((120.0, 100.0), margin, (shapely.box(50, 40, 62, 60),))
    items = arranged(shape, plate, Rule(gap), None, budget=0.2)
    assert breaches(shape, items, plate, gap) == []
    placed = [i.on(shape) for i in items]
    assert all(shapely.box(margin, margin, 120 - margin, 100 - margin).buffer(1e-6).covers(p) for p in placed)
    assert all(p.intersection(plate.keep_out[0]).area < 1e-9 for p in placed)
    for i, p in enumerate(placed):
        assert all(p.distance(q) >= gap - 1e-5 and p.intersection(q).area < 1e-9 for q in placed[:i])


@settings(deadline=None, max_examples=25)
@given(outlines(), outlines(), st.floats(0.5, 5), st.data())
def test_the_table_of_a_pair_answers_as_the_outlines_themselves_do(a, b, gap, data):
    if a.area < 20 or b.area < 20:
        return
    table, first = forbidden(kept_clear(a, gap), b, np.array([0.3, -0.2]), 1.0)
    for _ in range(30):
        i = data.draw(st.integers(0, table.shape[0] - 1))
        j = data.draw(st.integers(0, table.shape[1] - 1))
        shift = first + np.array([i, j]) + [0.3, -0.2]
        moved = shapely.transform(b, lambda xy, s=shift: xy + s)
        apart = a.distance(moved)
        if table[i, j]:
            assert apart < gap + 0.01 * gap + 1e-6, "only what is near is forbidden"
        else:
            assert apart >= gap - 2e-6 and grown_outside(a, 1e-9).intersection(moved).area < 1e-9


@pytest.mark.parametrize("shape", [SHAPES[n] for n in FOUR], ids=FOUR)
def test_more_stand_than_boxes_side_by_side(shape):
    items = arranged(shape, BED, Rule(3.0), None, budget=2.0)
    assert breaches(shape, items, BED, 3.0) == []
    assert len(items) >= 1.15 * side_by_side(shape)


def test_few_stand_in_plain_rows():
    items = arranged(ANGLE, BED, Rule(3.0), 12)
    assert len(items) == 12 and len({i.turn for i in items}) == 1


def test_what_just_fits_fits():
    square = shapely.box(0, 0, 40, 40)
    assert len(arranged(square, Plate((126.0, 83.0)), Rule(3.0), None, budget=1.0)) == 3 * 2
    assert len(arranged(square, Plate((125.9, 83.0)), Rule(3.0), None, budget=1.0)) == 2 * 2
    assert arranged(square, Plate((39.9, 83.0)), Rule(3.0), None, budget=1.0) == []


def test_a_small_one_stands_within_a_ring_and_a_proof_sees_what_lies_within():
    inside = Item(0.0, 0.0, 0.0)
    small = shapely.box(-5, -5, 5, 5)
    table, first = forbidden(kept_clear(RING, 3.0), small, np.zeros(2), 1.0)
    assert not table[tuple(-first)] and table[tuple(np.array([30, 0]) - first)]
    disc = shapely.Point(0, 0).buffer(45, 16)
    wide = Plate((400.0, 400.0))
    crowd = [Item(100, 100, 0), Item(100, 100, 0)]
    assert breaches(disc, crowd, wide, 0.0)[0].other == 1, "one on the other"
    assert breaches(small, [inside], wide, 0.0)[0].other is None, "beyond the rim"


def test_a_proof_sees_a_gap_that_is_a_hundredth_short():
    square = shapely.box(0, 0, 10, 10)
    near = breaches(square, [Item(5, 5, 0), Item(17.99, 5, 0)], BED, 3.0)
    assert near[0].short_mm == pytest.approx(0.01, abs=1e-6)
    assert breaches(square, [Item(5, 5, 0), Item(18.0, 5, 0)], BED, 3.0) == []


def test_a_quarter_turn_is_exact_and_the_origin_is_the_part_s_own():
    assert turned(shapely.box(1, 2, 5, 3), 90).bounds == (-3, 1, -2, 5)
    outline = outline_of(box(20, 10, 5, at=(7, -3, 100)), UP)
    assert np.allclose(outline.bounds, (7, -3, 27, 7)) and outline.area == pytest.approx(200)


def test_an_outline_is_the_whole_part_seen_from_above_with_its_holes():
    low, high = box(40, 10, 5), box(10, 40, 5, at=(0, 0, 20))
    both = Mesh(np.r_[low.vertices, high.vertices], np.r_[low.faces, high.faces + len(low.vertices)])
    assert outline_of(both, UP).area == pytest.approx(400 + 400 - 100)


HEAD = Head(radius=45.0, clearance=3.0, gantry=30.0)


@pytest.mark.parametrize("height", [2.0, 20.0, 35.0])
@pytest.mark.parametrize("rail", ["x", "y"])
def test_in_turn_nothing_is_struck(height, rail):
    head = Head(HEAD.radius, HEAD.clearance, HEAD.gantry, rail)
    items = in_order(arranged(ANGLE, BED, head.rule(height, 3.0), None, budget=1.0), ANGLE, rail)
    placed = [i.on(ANGLE) for i in items]
    assert len(items) >= {2.0: 20, 20.0: 6, 35.0: 4}[height]
    assert collisions(placed, [height] * len(items), head) == []
    assert breaches(ANGLE, items, BED, 3.0) == []


def test_what_the_head_or_the_rail_strikes_is_named_and_the_last_may_be_of_any_height():
    near = [shapely.box(0, 0, 20, 20), shapely.box(60, 0, 80, 20)]
    assert [(c.printed, c.finished, c.by) for c in collisions(near, [20, 20], HEAD)] == [(1, 0, "head")]
    assert collisions(near, [2.9, 200], HEAD) == [], "what is low is passed over, and nothing follows the last"
    far = [shapely.box(0, 0, 20, 20), shapely.box(100, 0, 120, 20)]
    assert collisions(far, [29, 29], HEAD) == []
    assert [c.by for c in collisions(far, [31, 31], HEAD)] == ["rail"]
    assert collisions(far, [31, 31], Head(rail="y")) == [], "bands across the other way do not meet"
