"""Weights sort the candidates; words say a direction as the page does."""

import json
from pathlib import Path

import numpy as np
import pytest
from shapes import box, mesh_of, rotation, sphere

from hewel_engine.geometry.frames import direction_words, unit
from hewel_engine.orientation.ranking import weighted_order, weighted_scores
from hewel_engine.orientation.sweep import facet_sums

MEASURES = {
    "needing_area_mm2": np.array([0.0, 50, 100]),
    "time_s": np.array([300.0, 200, 100]),
    "tipping_deg": np.array([40.0, 15, 3]),
    "drag_ratio": np.array([9.0, 4, 4]),
}


def test_costs_lie_between_the_best_and_the_worst():
    assert weighted_scores(MEASURES, {"support": 2.0}) == pytest.approx([0, 0.5, 1])
    assert weighted_scores(MEASURES, {"support": 1.0, "time": 1.0}) == pytest.approx([0.5, 0.5, 0.5])
    assert weighted_scores(MEASURES, {"support": 3.0, "time": 1.0}) == pytest.approx([0.25, 0.5, 0.75])


def test_stability_is_absolute_and_enough_is_enough():
    assert weighted_scores(MEASURES, {"stability": 1.0}) == pytest.approx([0, 0.5, 0.9])


def test_what_does_not_stand_comes_last_whatever_it_costs():
    order, cost = weighted_order(MEASURES, {"time": 1.0})
    assert cost.argmin() == 2 and list(order) == [1, 0, 2]


def test_unknown_and_unweighted_measures_count_for_nothing():
    holes = MEASURES | {"time_s": np.array([1.0, np.nan, 2])}
    assert weighted_scores(holes, {"support": 1.0, "time": 9.0}) == pytest.approx([0, 0.5, 1])
    assert weighted_scores(MEASURES, {"scar": 1.0, "support": 0.0}) == pytest.approx([0, 0, 0])


def test_order_does_not_depend_on_the_unit():
    scaled = MEASURES | {"time_s": MEASURES["time_s"] / 60, "needing_area_mm2": MEASURES["needing_area_mm2"] * 645}
    weights = {"support": 1.3, "time": 2.0, "stability": 0.7}
    assert weighted_scores(scaled, weights) == pytest.approx(weighted_scores(MEASURES, weights))


def test_mean_stair_of_a_tilted_box_and_of_a_sphere():
    """Level faces have no stairs; on a sphere the mean of |n·b| is one half."""
    stairs = lambda mesh, up: facet_sums(mesh, unit(up)[None], 45.0, 1)[4][0]
    cube = mesh_of(box(20, 20, 20))
    assert stairs(cube, [0, 0, 1]) == pytest.approx(0, abs=1e-6)
    a = np.radians(30)
    expected = (np.cos(a) + np.sin(a)) / 3  # two of three pairs of sides slope
    assert stairs(cube, [np.sin(a), 0, np.cos(a)]) == pytest.approx(expected, rel=1e-5)
    assert stairs(sphere(10), [0.3, -0.2, 0.9]) == pytest.approx(0.5, rel=2e-3)


def test_mean_stair_turns_with_the_part():
    part, turn = mesh_of(box(20, 30, 10) - box(5, 5, 40)), rotation(4)
    up = unit([0.3, 0.5, 0.7])
    one, two = (facet_sums(m, u[None], 45.0, 1)[4][0] for m, u in ((part, up), (part.moved(turn), turn @ up)))
    assert one == pytest.approx(two, rel=1e-5)


@pytest.mark.parametrize("up, words", json.loads(Path(__file__).with_name("direction_words.json").read_text()))
def test_a_direction_in_words(up, words):
    assert direction_words(unit(up)) == words
