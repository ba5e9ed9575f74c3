"""A wide ceiling closed in steps: how many, how long their chords, and where it cannot be."""

import manifold3d as m3
import numpy as np
import pytest
from shapes import box, mesh_of, rotation
from test_adapting import UP, adapt, good, rework

from hewel_engine.processes import Process


def chamber(x, y, roof) -> m3.Manifold:
    """A room open below, 20 mm high, under a level ceiling; all within walls of 5 mm."""
    whole = box(x + 10, y + 10, 20 + roof).translate((0, 0, (20 + roof) / 2))
    return whole - box(x, y, 40)


def test_a_wide_ceiling_under_a_low_roof_is_closed_in_steps():
    """Each step closes c²/4·tan(θ/2) of every corner at most, so steps have a least number; none bridges past c."""
    found = good(adapt(chamber(30, 30, 6)))
    (done,) = found.applied
    assert done.tool.key == "stepped_closing" and found.left == []
    steps, chord = done.tool.numbers["steps"], done.tool.used["chord_mm"]
    at_most = chord**2 / 4 * 4 * np.tan(np.radians(90 / 2))
    assert (30 * 30 - 10 * 10 * 1.3) / at_most < steps < 25
    assert done.tool.numbers["rise_mm"] == pytest.approx(steps * 0.2)
    spans = [r.span for r in found.after.truth.regions if r.span]
    assert spans and max(spans) < 1.1 * chord <= Process().clean_bridge


def test_shorter_chords_take_more_steps_and_a_low_roof_refuses_them():
    step = {"key": "stepped_closing", "kind": "bridge", "centre_mm": [0, 0, 20], "set": {"chord_mm": 7.0}}
    usual, shorter = (rework(mesh_of(chamber(24, 24, 8)), [step | {"set": s}]).applied[0] for s in ({}, step["set"]))
    assert shorter.tool.numbers["steps"] > usual.tool.numbers["steps"]
    why = " ".join(adapt(chamber(60, 36, 6), keys=("stepped_closing",)).left[0].why)
    assert "it rises" in why and "6.00 mm stand above" in why


def test_what_chords_would_hang_across_is_not_closed_in_steps():
    ell = chamber(30, 30, 12) + box(14, 14, 20).translate((12, 12, 10))
    assert "hollow" in adapt(ell, keys=("stepped_closing",)).left[0].why[-1]
    gate = chamber(30, 30, 12) - box(60, 30, 40)
    assert "open at a side" in adapt(gate, keys=("stepped_closing",)).left[0].why[-1]


def test_a_turned_chamber_is_closed_in_steps_too():
    turn = rotation(3)
    part = chamber(26, 22.5, 5).transform(np.c_[turn, [3, 4, 5]])
    found = good(adapt(part, turn @ UP))
    assert [a.tool.key for a in found.applied] == ["stepped_closing"] and found.left == []
