"""How near the layers and lines are to parting: against closed forms, the turned tensor, and every point tried."""

from dataclasses import replace

import numpy as np
import pytest
from shapes import rotation

from hewel_engine.geometry.frames import sphere_directions
from hewel_engine.strength.criterion import (
    Strengths,
    indices,
    on_layers,
    principal,
    tensors,
    von_mises,
    worst_by_direction,
)
from hewel_engine.strength.lines import FILLED, OUTLINE, PLAIN, SKIN, Lie

PETG = Strengths(45, 55, 28, 50, 20)
UPS = sphere_directions()


def random_stress(seed, count):
    rng = np.random.default_rng(seed)
    return rng.normal(size=(count, 6)) * np.exp(rng.normal(size=(count, 1)))


def test_a_pull_at_45_degrees_to_the_layers():
    pull, up = np.array([[12.0, 0, 0, 0, 0, 0]]), np.array([1, 0, 1]) / np.sqrt(2)
    acting = on_layers(pull, up)
    assert acting.across[0] == pytest.approx(6) and acting.between[0] == pytest.approx(6)
    used = indices(pull, up, PETG)
    assert used.interlayer[0] == pytest.approx(np.hypot(6 / 28, 6 / 20))
    assert used.mode(0) == "interlayer_mixed"


@pytest.mark.parametrize(
    ("stress", "up", "index", "mode"),
    [
        ([0, 0, 14, 0, 0, 0], [0, 0, 1], 14 / 28, "interlayer_tension"),
        ([14, 0, 0, 0, 0, 0], [0, 0, 1], 14 / 45, "in_layer"),
        ([0, 0, -25, 0, 0, 0], [0, 0, 1], 25 / 50, "compression"),
        ([-25, 0, 0, 0, 0, 0], [0, 0, 1], 25 / 55, "compression"),
        ([0, 0, 0, 0, 8, 0], [0, 0, 1], max(8 / 20, np.sqrt(3) * 8 / 45), "interlayer_shear"),
        ([0, 0, 0, 8, 0, 0], [0, 0, 1], np.sqrt(3) * 8 / 45, "in_layer"),
        ([9, 9, 9, 0, 0, 0], [0, 0, 1], 9 / 28, "interlayer_tension"),
    ],
)
def test_what_fails_and_by_how_much(stress, up, index, mode):
    used = indices(np.array([stress], float), np.array(up, float), PETG)
    assert used.worst[0] == pytest.approx(index) and used.mode(0) == mode


@pytest.mark.parametrize("seed", range(3))
def test_stresses_in_the_layer_are_those_of_the_turned_tensor(seed):
    stress, turn = random_stress(seed, 200), rotation(seed)
    acting = on_layers(stress, turn[2])
    local = turn @ tensors(stress) @ turn.T
    plane = np.linalg.eigvalsh(local[:, :2, :2])
    assert np.allclose(acting.across, local[:, 2, 2]) and np.allclose(
        acting.between, np.hypot(local[:, 0, 2], local[:, 1, 2])
    )
    assert np.allclose(acting.least, plane[:, 0]) and np.allclose(acting.greatest, plane[:, 1])
    values = np.linalg.eigvalsh(tensors(stress))
    assert np.allclose(principal(stress), values, atol=1e-7)
    a, b, c = values.T
    assert np.allclose(von_mises(stress), np.sqrt(((a - b) ** 2 + (b - c) ** 2 + (c - a) ** 2) / 2))


@pytest.mark.parametrize("seed", range(3))
def test_the_worst_over_all_directions_is_what_trying_every_point_finds(seed):
    stress = random_stress(seed, 4000)
    some = UPS[seed::61]
    found = worst_by_direction(stress, some, PETG)
    worst, at = found.index, found.delaminating
    each = [indices(stress, up, PETG) for up in some]
    assert worst == pytest.approx([u.worst.max() for u in each], rel=1e-5)
    assert [u.interlayer[k] for u, k in zip(each, at, strict=True)] == pytest.approx(
        [u.interlayer.max() for u in each], rel=1e-5
    )
    assert worst_by_direction(stress, -some, PETG).index == pytest.approx(worst, rel=1e-6)


def beside(normals) -> Lie:
    return Lie(normals, np.full(len(normals), OUTLINE))


@pytest.mark.parametrize("slope", [20, 45, 70, 90])
def test_a_pull_square_to_the_perimeters(slope):
    """Pulled down a slope that leans ``slope`` degrees off the level, the lines beside each other feel σ·cos²(90 − …):
    of the layer's own plane, σ·cos² of the lean; along the outline they feel nothing of it.
    """
    up, lean = np.array([0, 0, 1.0]), np.radians(slope)
    normal = np.array([np.sin(lean), 0, np.cos(lean)])
    down, along = np.array([np.cos(lean), 0, -np.sin(lean)]), np.array([0, 1.0, 0])
    pull = lambda d: 10 * np.outer(d, d)[*zip(*((0, 0), (1, 1), (2, 2), (0, 1), (1, 2), (2, 0)), strict=True)]
    felt_ = beside(np.tile(normal, (2, 1))).across(np.array([pull(down), pull(along)]), up)
    assert felt_ == pytest.approx([10 * np.cos(lean) ** 2, 0], abs=1e-9)
    weak = replace(PETG, x_a=2.0)
    assert indices(pull(down)[None], up, weak, beside(normal[None])).in_layer[0] == pytest.approx(
        max(10 * np.cos(lean) ** 2 / 2, 10 / 45)
    )
    assert indices(pull(down)[None], up, weak).in_layer[0] == pytest.approx(10 / 45)


def test_on_level_faces_no_perimeter_shows():
    top = np.array([[0.05, 0, 1.0]]) / np.hypot(0.05, 1)
    assert beside(top).across(np.array([[10.0, 0, 0, 0, 0, 0]]), np.array([0, 0, 1.0])) == 0


def test_crosswise_lines_hold_the_mean_of_both_ways():
    """A level skin and solid filling hold (X_t + X_a)/2; standing upright the same faces show their perimeters; between
    the outline and a line below it, and where nothing is told, X_t holds.
    """
    weak, up, aside = replace(PETG, x_a=25.0), np.array([0, 0, 1.0]), np.array([0, 1.0, 0])
    pull, top = np.array([[10.0, 0, 0, 0, 0, 0]]), np.array([[0, 0, 1.0]])
    share = lambda kind, up: indices(pull, up, weak, Lie(top, np.array([kind]))).in_layer[0]
    assert share(SKIN, up) == pytest.approx(10 / 35) and share(SKIN, aside) == pytest.approx(10 / 45)
    assert share(PLAIN, up) == share(OUTLINE, up) == pytest.approx(10 / 45)
    assert share(FILLED, up) == share(FILLED, aside) == pytest.approx(10 / 35)
    assert replace(PETG, x_a=60.0).x_crossed == PETG.x_crossed == PETG.x_t, "never more than along the lines"


@pytest.mark.parametrize("seed", range(3))
def test_lines_told_apart_over_all_directions(seed):
    stress, weak = random_stress(seed, 3000), replace(PETG, x_a=15.0)
    normals = np.random.default_rng(seed).normal(size=(3000, 3))
    normals /= np.linalg.norm(normals, axis=1)[:, None]
    normals[::3] = 0
    kinds = np.where(np.arange(3000) % 3, OUTLINE, FILLED)
    kinds[1::6], kinds[::2] = SKIN, PLAIN
    lie = Lie(normals, kinds)
    some = UPS[seed::61]
    found = worst_by_direction(stress, some, weak, lie)
    each = [indices(stress, up, weak, lie).worst for up in some]
    assert found.index == pytest.approx([e.max() for e in each], rel=1e-4)
    # The points that are kept decide every direction by themselves.
    few = [indices(stress[found.rows], up, weak, lie.within(found.rows)).worst.max() for up in some]
    assert found.index == pytest.approx(few, rel=1e-4) and len(found.rows) < 400
    assert (found.index > worst_by_direction(stress, some, PETG).index * (1 - 1e-6)).all()


def test_a_field_where_nothing_can_be_left_out():
    """An even pull: every point has the same bound, and the answer is the closed form for every direction."""
    worst = worst_by_direction(np.tile([20.0, 0, 0, 0, 0, 0], (5000, 1)), UPS, PETG).index
    c, s = UPS[:, 0], np.sqrt(1 - UPS[:, 0] ** 2)
    between = np.hypot(20 * c * c / 28, 20 * np.abs(c) * s / 20)
    assert worst == pytest.approx(np.maximum(between, 20 / 45), rel=1e-5)
