"""Lines of a layer and their time, against paths that can be written down."""

import numpy as np
import pytest
from shapes import box, mesh_of, rod, rotation

from hewel_engine.geometry.sections import LayerStack
from hewel_engine.printing.paths import COPY_GAP, hop, layer_paths, layer_seconds, move_seconds, print_seconds
from hewel_engine.processes import Process
from hewel_engine.walls.lines import Comb

UP = np.array([0, 0, 1.0])
BARE = {"layer_minimum": 0.0, "travel_share": 0.0, "layer_change": 0.0}


def stack_of(solid, up=UP, pitch=0.2):
    return LayerStack(mesh_of(solid), np.asarray(up, float), pitch)


@pytest.mark.parametrize("rule", ["spacing", "plain"])
@pytest.mark.parametrize("inner", [0.45, 0.55])
def test_perimeters_of_a_block_are_its_shrunk_rectangles(rule, inner):
    p = Process(rule=rule, inner_width=inner, perimeters=4)
    paths = layer_paths(stack_of(box(40, 30, 10)), p)
    s = inner - 0.2 * (1 - np.pi / 4) if rule == "spacing" else inner
    assert p.spacing == pytest.approx(s)
    insets = [p.width / 2, *(p.width + (i + 0.5) * s for i in range(3))]
    assert paths.perimeters == pytest.approx(np.full(50, sum(2 * (40 + 30 - 4 * d) for d in insets)), rel=1e-7)


def test_core_is_solid_under_a_top_and_over_a_bottom_and_sparse_between():
    p = Process(top_bottom=4, infill=0.2)
    paths = layer_paths(stack_of(box(40, 40, 10)), p)
    shell = p.width + 2 * p.spacing
    core = (40 - 2 * shell) ** 2
    solid = np.zeros(50)
    solid[:4] = solid[-4:] = core / p.spacing
    assert paths.solid == pytest.approx(solid) and paths.sparse == pytest.approx(
        np.where(solid > 0, 0, 0.2 * core / p.spacing)
    )


def test_a_step_bares_the_core_only_where_nothing_is_above():
    p = Process(top_bottom=3)
    stepped = box(40, 40, 10).translate((0, 0, 5)) + box(20, 40, 10).translate((-10, 0, 15))
    paths = layer_paths(stack_of(stepped), p)
    shell = p.width + 2 * p.spacing
    bare = (20 - shell) * (40 - 2 * shell)
    assert paths.solid[45] == 0 and paths.solid[47:50] == pytest.approx(np.full(3, bare / p.spacing), rel=1e-6)


def test_line_volume_is_the_volume_of_the_layer():
    for solid in (box(40, 30, 4), rod(4, 12, 128), box(0.9, 40, 4), box(30, 30, 4) - rod(10, 6, 96)):
        p = Process(infill=1.0, inner_width=0.45, rule="plain")
        paths = layer_paths(stack_of(solid), p)
        laid = (paths.perimeters + paths.solid + paths.sparse) * 0.45
        assert laid == pytest.approx(stack_of(solid).integrals[:, 0], rel=2e-3)


def test_a_move_reaches_its_speed_or_not():
    assert move_seconds(100.0, 50.0, 1000.0) == pytest.approx(100 / 50 + 50 / 1000)
    assert move_seconds(1.0, 50.0, 1000.0) == pytest.approx(2 * np.sqrt(1 / 1000))
    assert move_seconds(2.5, 50.0, 1000.0) == pytest.approx(2 * np.sqrt(2.5 / 1000))  # both are the same there


def test_layer_time_of_a_block_by_hand():
    p = Process(top_bottom=0, infill=0.0, perimeters=2, acceleration=1000.0, **BARE)
    seconds = layer_seconds(stack_of(box(40, 30, 10)), p)
    sides = [side - 2 * d for d in (p.width / 2, p.width + p.spacing / 2) for side in (40, 30, 40, 30)]
    assert seconds == pytest.approx(np.full(50, sum(side / 60 + 60 / 1000 for side in sides)), rel=1e-7)
    filled = layer_seconds(
        stack_of(box(40, 30, 10)), Process(top_bottom=0, infill=0.2, perimeters=2, acceleration=1000.0, **BARE)
    )
    a, b = 40 - 2 * (p.width + p.spacing), 30 - 2 * (p.width + p.spacing)
    line, chord = 0.2 * a * b / p.spacing, np.pi * a * b / (2 * (a + b))
    assert filled - seconds == pytest.approx(np.full(50, line / 110 + line / chord * 110 / 1000), rel=1e-7)


def test_a_round_is_gone_round_without_stopping():
    p = Process(top_bottom=0, infill=0.0, perimeters=1, acceleration=500.0, **BARE)
    seconds = layer_seconds(stack_of(rod(4, 10, 256)), p)
    assert seconds == pytest.approx(np.full(20, 2 * np.pi * (10 - 0.225) / 60 + 60 / 500), rel=2e-3)


def test_the_flow_limit_slows_thick_lines():
    thick = Process(layer=0.4, width=0.9, inner_width=0.9, flow_limit=6.0)
    assert thick.held_to_flow(60) == pytest.approx(6 / (0.4 * (0.9 - 0.4 * (1 - np.pi / 4))))
    assert Process().held_to_flow(60) == 60


def test_least_time_holds_on_small_sections_and_travel_and_change_are_added():
    assert (layer_seconds(stack_of(rod(10, 1)), Process()) == 8.0 + 1.2).all()
    plain = layer_seconds(stack_of(box(60, 60, 4)), Process(**BARE))
    full = layer_seconds(stack_of(box(60, 60, 4)), Process(layer_minimum=0.0))
    assert full == pytest.approx(plain * 1.12 + 1.2)


def test_several_copies_wait_for_each_other():
    s = stack_of(box(60, 40, 4))
    p = Process()
    one, five = layer_seconds(s, p), layer_seconds(s, p, 5)
    assert hop(s) == 50 + COPY_GAP
    between = 55 / 150 + 150 / 3000
    assert five == pytest.approx(5 * (one - 1.2 + between) + 1.2)
    assert print_seconds(s, p) == pytest.approx(one.sum())
    small = stack_of(rod(10, 2))
    assert layer_seconds(small, p, 2) == pytest.approx(layer_seconds(small, p, 1))  # both wait for cooling


@pytest.mark.parametrize("seed", range(3))
def test_time_does_not_depend_on_the_frame_nor_on_the_mesh(seed):
    solid = box(40, 20, 8) - rod(30, 5, 48).translate((10, 0, 0)) + rod(20, 4, 48, axis="y").translate((-15, 0, 6))
    turn = rotation(seed)
    plain = print_seconds(stack_of(solid), Process())
    turned = LayerStack(mesh_of(solid.refine(2)).moved(turn, np.array([5.0, 1, -9])), turn @ UP, 0.2)
    assert print_seconds(turned, Process()) == pytest.approx(plain, rel=1e-3)


def test_a_thin_ring_is_gone_round_as_often_as_lines_find_room():
    """Two whole lines and a slit of half a line between them: two rounds, and nothing laid in the slit."""
    p = Process(**BARE)
    slit = 0.5 * p.width
    thick, outside = 2 * p.width + slit, 20.0
    ring = stack_of(rod(4, outside, 512) - rod(10, outside - thick, 512))
    paths = layer_paths(ring, p)
    middles = [outside - p.width / 2, outside - thick + p.width / 2]
    assert paths.perimeters == pytest.approx(np.full(20, 2 * np.pi * sum(middles)), rel=2e-3)
    speed = p.held_to_flow(p.outer_speed)
    by_hand = sum(move_seconds(2 * np.pi * r, speed, p.acceleration) for r in middles)
    assert paths.seconds == pytest.approx(np.full(20, by_hand), rel=5e-3) and not paths.sparse.any()


@pytest.mark.parametrize("lines", [1, 2, 3])
def test_a_wall_of_few_lines_is_laid_line_by_line(lines):
    """A straight wall of one, two and three whole lines: both faces first, then one line alone between them."""
    p = Process(**BARE)
    comb = Comb.of(p)
    thick, long = comb.width(lines), 60.0
    paths = layer_paths(stack_of(box(long, thick, 2)), p)
    pairs, single = divmod(lines, 2)
    rounds = sum(2 * (long + thick - 4 * (p.width / 2 + i * p.spacing)) for i in range(pairs))
    alone = single * (long - 2 * (p.width / 2 + pairs * p.spacing))
    assert paths.perimeters == pytest.approx(np.full(10, rounds + alone), rel=0.02)


def test_what_a_rib_too_thin_for_all_lines_leaves_is_not_laid():
    """A rib with a slit on a block: the block's lines by the formula, the rib's two and no more."""
    p = Process(**BARE)
    rib = 2 * p.width + 0.3
    with_rib = layer_paths(stack_of(box(30, 30, 2) + box(40, rib, 2).translate((30, 0, 0))), p).perimeters[5]
    block = layer_paths(stack_of(box(30, 30, 2)), p).perimeters[5]
    assert with_rib - block == pytest.approx(2 * 35.0, rel=0.03)
