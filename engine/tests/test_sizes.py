"""The table of sizes against the formulas of its own standards, and against itself."""

from math import isfinite

import pytest

from hewel_engine.reckoning.bolts import basic_thread
from hewel_engine.reckoning.cards import CARDS
from hewel_engine.reckoning.sizes import size_of, sizes

COARSE = sorted({s.size for s in sizes() if s.item == "thread_coarse"}, key=lambda m: float(m[1:]))


def test_every_row_is_a_number_with_unit_and_source():
    rows = sizes()
    assert len(rows) > 700 and len({(s.item, s.size, s.key) for s in rows}) == len(rows), "no row twice"
    assert all(s.value > 0 and isfinite(s.value) and s.source and s.sure for s in rows)
    assert {s.unit for s in rows} == {"mm", "mm²", "MPa", "°"}
    assert 20 < sum(s.doubtful for s in rows) < 0.5 * len(rows)


@pytest.mark.parametrize("thread", COARSE)
def test_threads_are_what_the_basic_profile_makes_them(thread):
    diameter, pitch = float(thread[1:]), size_of("thread_coarse", thread, "pitch").value
    found = dict(
        zip(
            ("pitch_diameter", "minor_diameter_external", "minor_diameter_internal"),
            basic_thread(diameter, pitch),
            strict=True,
        )
    )
    for key, value in found.items():
        told = size_of("thread_coarse", thread, key)
        if told:
            assert told.value == pytest.approx(value, abs=2e-3), key
    area = size_of("thread_coarse", thread, "stress_area")
    if area:
        outputs, _ = CARDS["thread"].reckon(diameter_mm=diameter, pitch_mm=pitch)
        assert area.value == pytest.approx(outputs["stress_area_mm2"], rel=0.01)


@pytest.mark.parametrize("thread", [m for m in COARSE if size_of("clearance_hole", m, "medium")])
def test_holes_are_wider_than_what_goes_through(thread):
    fine, medium, coarse = (size_of("clearance_hole", thread, k).value for k in ("fine", "medium", "coarse"))
    assert float(thread[1:]) < fine < medium < coarse < 1.4 * float(thread[1:])
    drill = size_of("tap_drill", thread, "diameter")
    assert drill is None or drill.value < float(thread[1:])


def test_least_is_no_more_than_most():
    by_name = {(s.item, s.size, s.key): s.value for s in sizes()}
    pairs = 0
    for (item, size, key), value in by_name.items():
        if key.endswith("_min") and (most := by_name.get((item, size, key.removesuffix("_min") + "_max"))):
            pairs += 1
            assert value <= most, (item, size, key)
    assert pairs > 10
