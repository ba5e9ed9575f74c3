"""Sections, islands, bridges and ledges against bodies whose answer is known."""

import manifold3d as m3
import numpy as np
import pytest
import shapely
from shapes import box, mesh_of, rod, rotation, sphere, torus

from hewel_engine.geometry.rays import RayScene
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.orientation.candidates import typed
from hewel_engine.orientation.printing_time import layer_seconds
from hewel_engine.overhangs.layers import hanging_regions, ledge_reach
from hewel_engine.processes import Process

UP = np.array([0, 0, 1.0])


def stack_of(solid, up=UP, pitch=0.2):
    return LayerStack(solid if not isinstance(solid, m3.Manifold) else mesh_of(solid), np.asarray(up, float), pitch)


def test_section_integrals_of_a_box():
    s = stack_of(box(30, 20, 10).translate((7, 3, 0)))
    area, sx, sy, sxx, syy, sxy, perimeter = s.integrals[7]
    assert (area, perimeter) == (pytest.approx(600), pytest.approx(100))
    assert sx == pytest.approx(0, abs=1e-9) and sy == pytest.approx(0, abs=1e-9)  # centred over the box
    assert sxx == pytest.approx(20 * 30**3 / 12) and syy == pytest.approx(30 * 20**3 / 12)
    assert sxy == pytest.approx(0, abs=1e-9)
    assert s.count == 50


def test_sphere_sections_follow_the_circle():
    s = LayerStack(sphere(20, 512), np.array([0.3, -0.5, 0.8]) / np.linalg.norm([0.3, -0.5, 0.8]), 0.5)
    z = 0.25 + 0.5 * np.arange(s.count) - 20
    assert s.integrals[:, 0] == pytest.approx(np.pi * (400 - z * z), rel=2e-3, abs=0.6)


@pytest.mark.parametrize("seed", range(4))
def test_outlines_enclose_what_the_integrals_say_and_add_up_to_the_volume(seed):
    part = mesh_of(box(40, 20, 8) - rod(30, 5).translate((10, 0, 0)) + rod(20, 4, axis="y").translate((-15, 0, 8)))
    up = rotation(seed)[2]
    s = LayerStack(part, up, 0.1)
    outlines = s.outlines()
    area = np.array([outlines[k].area for k in range(s.count)])
    assert area == pytest.approx(s.integrals[:, 0], abs=1e-7)
    assert np.array([o.length for o in outlines.values()]) == pytest.approx(s.integrals[:, 6], abs=1e-6)
    assert area.sum() * 0.1 == pytest.approx(part.volume, rel=2e-3)


def test_planes_through_vertices_need_no_special_case():
    s = LayerStack(mesh_of(box(10, 10, 1) + box(4, 4, 1).translate((0, 0, 1))), UP, 0.4)  # a plane at z = 1.0
    assert {round(a, 6) for a in s.integrals[:, 0]} == {100.0, 16.0}


def kinds(solid, up=UP, **process):
    p = Process(**process)
    return sorted(
        (r.kind, round(r.span_mm or r.reach_mm or 0, 1)) for r in hanging_regions(stack_of(solid, up, p.layer), p)
    )


def test_table_is_one_bridge_of_its_clear_span():
    table = (
        box(40, 20, 4).translate((0, 0, 12))
        + box(4, 20, 10).translate((-18, 0, 5))
        + box(4, 20, 10).translate((18, 0, 5))
    )
    ((kind, span),) = kinds(table)
    assert kind == "bridge" and span == pytest.approx(32 - 2 * 0.2, abs=0.15)


def test_shelf_is_one_ledge_of_its_reach():
    shelf = box(4, 20, 20).translate((0, 0, 10)) + box(12, 20, 4).translate((8, 0, 18))
    ((kind, reach),) = kinds(shelf)
    assert kind == "ledge" and reach == pytest.approx(12 - 0.2, abs=0.15)


def test_a_hanging_tooth_is_an_island_although_no_facet_need_be_flagged():
    arch = (
        box(40, 20, 4).translate((0, 0, 22))
        + box(4, 20, 20).translate((-18, 0, 10))
        + box(4, 20, 20).translate((18, 0, 10))
    )
    tooth = m3.Manifold.cylinder(12, 0.0, 4, 64, False).translate((0, 0, 9))  # a cone, tip down, 18° from the vertical
    found = kinds(arch + tooth)
    assert [k for k, _ in found].count("island") == 1


def test_a_bottle_neck_upside_down_and_a_ball_have_no_islands():
    assert not [
        k for k, _ in kinds(rod(20, 6).translate((0, 0, 10)) + rod(6, 3).translate((0, 0, 23))) if k == "island"
    ]
    assert not [r for r in hanging_regions(LayerStack(torus(15, 4), UP, 0.2), Process()) if r.kind == "island"]


@pytest.mark.parametrize("limit", [45.0, 60.0])
def test_lying_bore_bridges_its_flagged_chord(limit):
    block = box(30, 20, 30) - rod(40, 4, 256, axis="y")
    ((kind, span),) = kinds(block, limit=limit, layer=0.1)
    assert kind == "bridge"
    assert span == pytest.approx(8 * np.cos(np.radians(limit)), abs=0.35)


def test_steep_wall_at_the_limit_is_not_flagged():
    frustum = m3.Manifold.cylinder(10, 10, 10 + 10 * np.tan(np.radians(44.9)), 128, False)
    assert kinds(frustum) == []
    wider = m3.Manifold.cylinder(10, 10, 10 + 10 * np.tan(np.radians(60)), 128, False)
    assert kinds(wider) != [] and kinds(wider, limit=61) == []


def test_candidate_counts_only_what_needs_support():
    block = mesh_of(box(30, 20, 30) - rod(40, 4, 128, axis="y"))
    m = typed(block, RayScene(block), UP, Process()).measures
    assert m["overhang_area_mm2"] > 100 and m["needing_area_mm2"] == pytest.approx(0, abs=1e-6)
    assert m["islands"] == 0


def test_layer_time_of_a_block_by_hand():
    p = Process(top_bottom=0, layer_minimum=0.0, travel_share=0.0, layer_change=0.0, infill=0.2)
    seconds = layer_seconds(stack_of(box(40, 40, 10)), p)
    shell = 160 * 3 * 0.45
    assert seconds == pytest.approx(np.full(50, shell / 0.45 / 60 + (1600 - shell) * 0.2 / 0.45 / 110), rel=1e-6)
    skins = layer_seconds(stack_of(box(40, 40, 10)), Process(layer_minimum=0.0))
    assert (skins[:4] > skins[10]).all() and (skins[-4:] > skins[10]).all() and skins[5] == pytest.approx(skins[40])


def test_layer_minimum_holds_on_small_sections():
    assert (layer_seconds(stack_of(rod(10, 1)), Process()) == 8.0 + 1.2).all()


SLENDER = (
    "POLYGON (("
    "-19.075449035724915 -23.68483035501197, -17.8443175171614 -25.093396002136984, "
    "-17.551534240890565 -25.428376025627085, -17.547116798737065 -25.439189764853268, "
    "-17.556508913861844 -25.44613518958572, -17.592204327681458 -25.45742307055495, "
    "-17.603874032142496 -25.457056125809732, -17.60749339594269 -25.438085021889602, "
    "-17.607379802998405 -25.433590570628336, -17.609771437284063 -25.409427204746283, "
    "-17.615283258796538 -25.385074332481267, -17.623529573526806 -25.36223606506288, "
    "-17.634847218830416 -25.339979527400356, -17.65198029095271 -25.31463038372511, "
    "-17.659612988407957 -25.304720665787936, -17.951853282949052 -24.97036188007787, "
    "-19.075449035724915 -23.68483035501197"
    "))"
)


def test_a_region_thinner_than_its_rounding_has_a_reach():
    """Once met under a lid's catch: dividing this polygon's sides gave back an empty polygon."""
    plan = shapely.from_wkt(SLENDER)
    assert 0 < ledge_reach(plan, shapely.box(-30, -30, -19, -20)) < 3
