"""Cards against sums done by hand, tables of the trade, the library's own statistics, and their own laws."""

import json
import subprocess
import sys
from math import exp, log, pi, sqrt, tan

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats
from scipy.integrate import quad

from hewel_engine.cli.reckon import answer, main
from hewel_engine.errors import InputError
from hewel_engine.reckoning.cards import CARDS

PAGE = [
    "thread", "preload", "tightening", "joint", "preload_left", "clamp", "bolt_load", "washer_spread", "washer",
    "nut_pocket", "clamped_weld", "rod", "pin_in_hole", "key", "dowel", "insert", "press", "tapping", "tip",
    "snap", "snap_length", "annular_snap", "secant", "spring", "strip", "tooth", "pin", "post", "lap", "grip",
    "scale", "bore", "corner", "layers", "thermal_fit", "stack", "tolerance_factor", "allowable", "two_samples",
    "weld_ladder", "shrink_cross", "bore_gauge", "tensile", "calibration",
]  # fmt: skip


def reckon(card, **inputs):
    """Outputs and codes of warnings."""
    text = {k: ",".join(map(repr, v)) if isinstance(v, list) else str(v) for k, v in inputs.items()}
    found = answer([card, *(f"{k}={v}" for k, v in text.items())])
    return found["outputs"], [w["code"] for w in found["warnings"]]


def out(card, **inputs):
    return reckon(card, **inputs)[0]


def test_every_card_of_the_page_is_there_with_its_formula_and_source():
    assert sorted(CARDS) == sorted(PAGE)
    listed = answer(["list"])["cards"]
    assert len(listed) == len(PAGE) and all(
        c["formula"] and c["source"] and c["limits"] and c["outputs"] for c in listed
    )
    keyed = [i for c in listed for i in c["inputs"]]
    assert {"diameter_mm", "torque_nmm"} <= {i["key"] for i in keyed} and all("low" in i and "unit" in i for i in keyed)


@pytest.mark.parametrize(
    "d, pitch, area", [(3, 0.5, 5.03), (4, 0.7, 8.78), (6, 1, 20.1), (8, 1.25, 36.6), (10, 1.5, 58.0)]
)
def test_threads_have_the_stress_areas_of_the_standard(d, pitch, area):
    assert out("thread", diameter_mm=d, pitch_mm=pitch)["stress_area_mm2"] == pytest.approx(area, rel=3e-3)


def test_tightening_is_the_short_form_of_the_guideline():
    d2 = out("thread", diameter_mm=6, pitch_mm=1)["pitch_diameter_mm"]
    given = {"friction_thread": 0.12, "friction_head": 0.14, "bearing_inner_mm": 6.4, "bearing_outer_mm": 10}
    found = out("tightening", preload_n=5000, pitch_mm=1, pitch_diameter_mm=d2, diameter_mm=6, **given)
    assert found["torque_nmm"] == pytest.approx(5000 * (0.159 + 0.577 * d2 * 0.12 + 8.2 / 2 * 0.14), rel=2e-3)
    back = out("preload", torque_nmm=found["torque_nmm"], diameter_mm=6, nut_factor=found["nut_factor"])
    assert back["preload_n"] == pytest.approx(5000) and back["preload_low_n"] == pytest.approx(3500)


@pytest.mark.parametrize("cone, hole, outer", [(0, 6.4, 40), (30, 6.4, 40), (30, 0, 40), (30, 6.4, 14), (45, 6.4, 11)])
def test_a_joint_gives_as_its_cone_integrated(cone, hole, outer):
    area = lambda z: pi / 4 * (min(12 + 2 * z * tan(cone * pi / 180), outer) ** 2 - hole**2)
    expected = (
        2 * quad(lambda z: 1 / (2000 * area(z)), 0, 10, points=[max(0, (outer - 12) / 2)] if outer < 20 else None)[0]
    )
    given = {"grip_mm": 20, "washer_mm": 12, "hole_mm": hole, "outer_mm": outer, "cone_deg": cone}
    found = out("joint", clamped_modulus_mpa=2000, stress_area_mm2=20.1, **given)
    assert found["clamped_compliance_mm_n"] == pytest.approx(expected, rel=1e-6)
    assert found["bolt_compliance_mm_n"] == pytest.approx(20 / (205000 * 20.1))


def test_a_preload_that_nothing_happens_to_stays_and_warmth_and_creep_count():
    still = {"preload_n": 1000, "clamped_compliance_mm_n": 1e-5, "bolt_compliance_mm_n": 5e-6, "grip_mm": 20}
    still |= {"expansion_clamped_per_k": 6e-5, "expansion_bolt_per_k": 1.2e-5}
    calm = out("preload_left", relaxation=1, embedding_mm=0, temperature_change_k=0, **still)
    assert calm == {"preload_left_n": pytest.approx(1000), "loose": False}
    cold = out("preload_left", relaxation=1, embedding_mm=0, temperature_change_k=-20, **still)
    assert cold["preload_left_n"] == pytest.approx(1000 - 4.8e-5 * 20 * 20 / 1.5e-5, abs=1e-6) or cold["loose"]
    crept = out("preload_left", relaxation=0.4, embedding_mm=0, temperature_change_k=0, **still)
    assert crept["preload_left_n"] == pytest.approx(1000 * 1.5e-5 / (2.5e-5 + 5e-6))


def test_bolts_close_what_the_load_opens():
    given = {
        "preload_left_n": 2000,
        "area_mm2": 400,
        "section_modulus_mm3": 1333,
        "tension_n": 500,
        "bending_nmm": 8000,
    }
    found = out("clamp", count=2, required_factor=2, eccentricity_mm=0, **given)
    assert found["closing_mpa"] == pytest.approx(10) and found["opening_mpa"] == pytest.approx(1.25 + 8000 / 1333)
    few, _ = reckon("clamp", count=found["count_needed"], required_factor=2, eccentricity_mm=0, **given)
    less, _ = reckon("clamp", count=found["count_needed"] - 1, required_factor=2, eccentricity_mm=0, **given)
    assert few["reserve"] >= 1 > less["reserve"]
    assert reckon("clamp", count=2, required_factor=2, eccentricity_mm=9, **given)[1] == ["outside_validity"]


def test_a_joint_diagram():
    given = {"preload_low_n": 900, "preload_high_n": 1500, "load_factor": 0.4, "introduction": 0.5, "load_n": 600}
    found = out("bolt_load", stress_area_mm2=20, proof_mpa=600, **given)
    assert found["bolt_force_n"] == pytest.approx(1620) and found["clamp_left_n"] == pytest.approx(900 - 480)
    assert found["reserve"] == pytest.approx(600 / 81)


@settings(deadline=None, max_examples=60)
@given(st.floats(-30, 30), st.floats(-20, 20), st.floats(0, 20))
def test_a_clamped_weld_fails_where_the_criterion_says(normal, shear, closing):
    found = out("clamped_weld", normal_mpa=normal, shear_mpa=shear, closing_mpa=closing, z_t_mpa=28, z_s_mpa=20)
    reserve, plain = found["reserve"], found["plain_reserve"]
    if reserve is not None and reserve < 1e12:
        pulled = max(reserve * normal - closing, 0) / 28 if normal > 0 else 0
        assert pulled**2 + (reserve * shear / 20) ** 2 == pytest.approx(1, rel=1e-6)
        assert reserve >= plain * (1 - 1e-9)


def test_a_rod_in_the_middle_is_the_same_bonded_or_not_and_off_it_counts():
    body = {"body_second_moment_mm4": 5000, "body_area_mm2": 200, "body_modulus_mpa": 2000, "body_edge_mm": 10}
    steel = {"rod_diameter_mm": 4, "rod_modulus_mpa": 205000, "moment_nmm": 3000}
    loose, held = (out("rod", offset_mm=0, bonded=b, **body, **steel) for b in (0, 1))
    assert loose == pytest.approx(held) and loose["stiffness_gain"] == pytest.approx(1 + 102.5 * pi * 256 / 64 / 5000)
    off = out("rod", offset_mm=6, bonded=1, **body, **steel)
    ns = 102.5 * 4 * pi
    axis = ns * 6 / (200 + ns)
    total = 5000 + 200 * axis**2 + 102.5 * pi * 256 / 64 + ns * (6 - axis) ** 2
    assert off["stiffness_gain"] == pytest.approx(total / 5000)
    assert off["body_stress_mpa"] == pytest.approx(3000 * (10 + axis) / total)


def test_a_press_fit_takes_up_its_interference():
    given = {
        "diameter_mm": 8,
        "hub_outer_mm": 20,
        "hub_modulus_mpa": 2000,
        "hub_poisson": 0.38,
        "pin_modulus_mpa": 205000,
    }
    found = out("press", interference_mm=0.05, pin_poisson=0.3, length_mm=10, **given)
    p, k2 = found["pressure_mpa"], (20 / 8) ** 2
    hub = p * 8 / 2000 * ((k2 + 1) / (k2 - 1) + 0.38)
    shaft = p * 8 / 205000 * (1 - 0.3)
    assert hub + shaft == pytest.approx(0.05) and found["turn_out_nmm"] == pytest.approx(4 * found["push_out_n"])
    assert found["push_out_n"] == pytest.approx(0.3 * p * pi * 80)


@pytest.mark.parametrize("thick, wide, give", [(1, 1, 0.667), (0.5, 1, 1.09), (1, 0.25, 0.86)])
def test_snap_arms_give_what_the_textbooks_say(thick, wide, give):
    shape = {"thickness_end_share": thick, "width_end_share": wide, "modulus_mpa": 2000}
    found = out(
        "snap", length_mm=20, thickness_mm=2, width_mm=5, undercut_mm=1, angle_in_deg=30, angle_out_deg=90, **shape
    )
    assert 1 / found["coefficient"] == pytest.approx(give, rel=0.01)
    assert found["self_locking"] and found["holding_force_n"] is None
    second, inverse = 5 * 8 / 12, lambda x: x**2 / ((wide + (1 - wide) * x) * (thick + (1 - thick) * x) ** 3)
    stiff = 2000 * second / (20**3 * quad(inverse, 0, 1)[0])
    assert found["deflection_force_n"] == pytest.approx(stiff * 1, rel=1e-4)
    assert found["mating_force_n"] == pytest.approx(stiff * (0.3 + tan(pi / 6)) / (1 - 0.3 * tan(pi / 6)), rel=1e-4)


@settings(deadline=None, max_examples=15)
@given(st.floats(1, 4), st.floats(0.2, 2), st.floats(0.005, 0.05), st.floats(0.4, 1))
def test_the_length_of_a_snap_goes_back_to_its_strain(thickness, undercut, strain, end):
    given = {"thickness_mm": thickness, "undercut_mm": undercut, "thickness_end_share": end}
    length = out("snap_length", strain_allowed=strain, **given)["length_mm"]
    more = {"width_mm": 5, "modulus_mpa": 2000, "angle_in_deg": 30, "angle_out_deg": 45}
    assert out("snap", length_mm=length, **given, **more)["strain"] == pytest.approx(strain, rel=1e-9)


def test_a_post_goes_over_from_the_one_formula_to_the_other_without_a_step():
    square = {
        "second_moment_mm4": 10**4 / 12,
        "area_mm2": 100,
        "modulus_mpa": 2000,
        "end_factor": 1,
        "strength_mpa": 50,
    }
    change = pi * sqrt(2 * 2000 / 50) * sqrt(10**2 / 12)
    short, long = (out("post", length_mm=change * f, **square) for f in (1 - 1e-9, 1 + 1e-9))
    assert (short["by"], long["by"]) == ("johnson", "euler")
    assert short["critical_n"] == pytest.approx(long["critical_n"], rel=1e-6) == pytest.approx(50 * 100 / 2, rel=1e-6)


def test_small_sums_by_hand():
    assert out("washer", force_n=500, outer_mm=12, hole_mm=6.4, strength_mpa=50)["reserve"] == pytest.approx(
        0.5 * 50 * pi / 4 * (144 - 6.4**2) / 500
    )
    nut = out(
        "nut_pocket",
        across_flats_mm=10,
        height_mm=5,
        clearance_mm=0.1,
        height_clearance_mm=0.3,
        hole_mm=6.4,
        strength_mpa=50,
    )
    assert (nut["pocket_flats_mm"], nut["depth_mm"]) == (10.2, 5.3) and nut["turning_torque_nmm"] == pytest.approx(
        50 * 5 * 100 / 6
    )
    assert nut["pocket_corners_mm"] == pytest.approx(10.2 * 2 / sqrt(3))
    held = out("pin_in_hole", force_n=100, diameter_mm=5, depth_mm=10, arm_mm=4)
    assert held["bearing_peak_mpa"] == pytest.approx(100 / 50 + 6 * 100 * 9 / (5 * 100))
    assert out("key", torque_nmm=9000, count=3, radius_mm=10, depth_mm=2, length_mm=15, width_mm=5)[
        "force_n"
    ] == pytest.approx(300)
    assert out("dowel", force_n=628, diameter_mm=4, planes=2, depth_mm=8)["shear_mpa"] == pytest.approx(
        628 / (2 * 4 * pi)
    )
    set_in = out("insert", outer_mm=5, length_mm=6, shear_mpa=20, width_mm=0.45, layer_mm=0.2)
    assert set_in["pull_out_n"] == pytest.approx(0.5 * pi * 30 * 20) and set_in["hole_depth_mm"] == pytest.approx(7.8)
    assert out(
        "spring", leaves=2, width_mm=10, thickness_mm=1, length_mm=20, modulus_mpa=2000, travel_mm=1
    ) == pytest.approx({"rate_n_mm": 1.25, "force_n": 1.25, "strain": 3 / 800})
    assert out("grip", pull_n=30, faces=2, required_factor=2, greatest_n=150, kept=0.5)["least_now_n"] == pytest.approx(
        200
    )
    assert out("lap", force_n=100, width_mm=10, overlap_mm=0.01, adherend_mm=2, adherend_modulus_mpa=2000, glue_mm=0.1,
               glue_shear_modulus_mpa=500)["peak_factor"] == pytest.approx(1, abs=1e-4)  # fmt: skip
    assert out("secant", modulus_mpa=2000, strength_mpa=45, yield_strain=0.04, strain=0.04)[
        "stress_mpa"
    ] == pytest.approx(45)
    assert out("pin", force_n=10, arm_mm=10, diameter_mm=5, root_radius_mm=0.5, strength_mpa=40)[
        "notch_factor"
    ] == pytest.approx(0.87868 * 0.1**-0.33243)
    assert out("tip", torque_nmm=300, diameter_mm=3, tip_mm=2, strength_mpa=50)["pad_mm"] == pytest.approx(
        sqrt(4 * 500 / (pi * 25))
    )
    assert out("tooth", force_n=400, root_diameter_mm=10, mean_diameter_mm=11, height_mm=1, root_width_mm=2, turns=4,
               first_turn_share=0.34)["shear_mpa"] == pytest.approx(136 / (pi * 20))  # fmt: skip
    worn = out("strip", diameter_mm=6, pitch_mm=1, engagement_mm=8, internal_shear_mpa=20, external_shear_mpa=300)
    assert worn["strip_force_n"] == pytest.approx(7 / 8 * pi * 48 * 20)
    ring = out("annular_snap", diameter_mm=30, undercut_mm=0.6, hub_outer_mm=33, modulus_mpa=1500, poisson=0.38,
               angle_in_deg=30, remote=0)  # fmt: skip
    beta = (3 * (1 - 0.38**2)) ** 0.25 / sqrt(15.75 * 1.5)
    assert ring["deflection_force_n"] == pytest.approx(pi * 1500 * 1.5 * 0.3 / (beta * 15.75)) and ring[
        "strain"
    ] == pytest.approx(0.02)
    wide = out("washer_spread", bearing_mm=10, thickness_mm=1.6, clamped_modulus_mpa=2000, clamped_mm=20, outer_mm=18,
               washer_modulus_mpa=205000, washer_poisson=0.3)  # fmt: skip
    assert wide["spread_mm"] == pytest.approx((205000 * 1.6**3 / (12 * 0.91) * 20 / 2000) ** 0.25)
    cut = out("tapping", pitch_diameter_mm=3.3, pitch_mm=1.3, engagement_mm=8, shear_mpa=20, friction=0, head_mean_mm=5,
              flank_deg=30, share=0.5)  # fmt: skip
    assert cut["strip_torque_nmm"] == pytest.approx(cut["strip_force_n"] * 1.3 / (2 * pi)), (
        "without friction only the lead"
    )


def test_sizes_as_drawn_and_as_they_come_out():
    assert out("scale", size_mm=99.6, shrinkage_percent=0.4)["model_mm"] == pytest.approx(100)
    hole = out("bore", mate_mm=8, clearance_mm=0.1, bore_loss_mm=0.15, shrinkage_percent=0.4, facets=32)
    assert hole["printed_mm"] == pytest.approx(8.2) and hole["model_mm"] == pytest.approx(8.35 / 0.996)
    right = out("corner", angle_deg=90, width_mm=0.45, bore_loss_mm=0.1)
    assert right["tangent_mm"] == pytest.approx(0.225) and right["stand_off_mm"] == pytest.approx(0.225 * (sqrt(2) - 1))
    assert out("layers", height_mm=10, layer_mm=0.3, shrinkage_percent=0) == pytest.approx(
        {"layers": 33, "model_mm": 9.9, "printed_mm": 9.9, "error_mm": -0.1}
    )
    warm = {"expansion_hole_per_k": 6e-5, "expansion_shaft_per_k": 1.2e-5, "temperature_change_k": 40}
    assert out("thermal_fit", diameter_mm=20, clearance_mm=0.05, **warm)["change_mm"] == pytest.approx(20 * 4.8e-5 * 20)
    links = {"nominal_mm": [30.0, -10.0, -19.7], "plus_mm": [0.1, 0.1, 0.1], "minus_mm": [0.1, 0.1, 0.1]}
    gap = out("stack", least_mm=0.3 - 0.1 * sqrt(3), most_mm=0.3 + 0.1 * sqrt(3), **links)
    assert gap["middle_mm"] == pytest.approx(0.3) and gap["worst_low_mm"] == pytest.approx(0)
    assert gap["out_ppm"] == pytest.approx(2699.8, rel=1e-4), "limits at three deviations"
    bar = out("tensile", break_n=1800, width_mm=10, thickness_mm=4, slope_n_mm=1500, compliance_mm_n=0.0001,
              lengths_mm=[40.0, 20.0], areas_mm2=[40.0, 80.0])  # fmt: skip
    assert bar["effective_length_mm"] == pytest.approx(50) and bar["modulus_mpa"] == pytest.approx(
        50 / 40 / (1 / 1500 - 1e-4)
    )


@pytest.mark.parametrize("count, k", [(3, 5.311), (5, 3.400), (10, 2.568), (20, 2.208)])
def test_one_sided_factors_are_those_of_the_tables(count, k):
    assert out("tolerance_factor", count=count)["k"] == pytest.approx(k, abs=1.5e-3)


def test_readings_say_what_the_library_s_statistics_say():
    first, second = [31.2, 29.8, 33.0, 30.5], [27.1, 28.4, 25.9]
    found = out("two_samples", first=first, second=second)
    theirs = stats.ttest_ind(first, second, equal_var=False)
    band = theirs.confidence_interval(0.95)
    assert (found["t"], found["p"], found["freedom"]) == pytest.approx((theirs.statistic, theirs.pvalue, theirs.df))
    assert (found["low"], found["high"]) == pytest.approx((band.low, band.high))
    assert found["ratio"] == pytest.approx(stats.gmean(second) / stats.gmean(first))
    bound = out("allowable", readings_mpa=first)
    assert bound["bound_mpa"] == pytest.approx(bound["mean_mpa"] - bound["k"] * bound["deviation_mpa"])
    assert reckon("allowable", readings_mpa=[30.0])[1] == ["few_readings"]


def test_a_ladder_gives_its_exponent_back_and_says_where_it_ends():
    times = [10.0, 20.0, 40.0, 80.0]
    found, told = reckon("weld_ladder", layer_time_s=times, strength_mpa=[28 * (t / 20) ** -0.2 for t in times],
                         reference_s=20, at_s=160)  # fmt: skip
    assert found["exponent"] == pytest.approx(0.2) and found["strength_reference_mpa"] == pytest.approx(28)
    assert found["bond_factor_at"] == pytest.approx(8**-0.2) and told == ["extrapolated"]
    line = [20.0, 60.0, 100.0]
    cross = out("shrink_cross", nominal_mm=line, measured_mm=[0.996 * x + 0.12 for x in line])
    assert cross["shrinkage_percent"] == pytest.approx(0.4) and cross["offset_mm"] == pytest.approx(0.12)
    gauge = out("bore_gauge", nominal_mm=[5.0, 8.0], measured_mm=[4.83, 7.82], shrinkage_percent=0.4)
    assert gauge["bore_loss_mm"] == pytest.approx((0.996 * 13 - 12.65) / 2)


def test_a_correction_without_a_prior_is_a_tolerance_bound_of_logarithms():
    measured = [9.0, 11.0, 10.5, 9.6]
    found = out("calibration", predicted=[10.0] * 4, measured=measured, prior_spread=1e5, prior_freedom=1e-9)
    mean, deviation = stats.tmean([log(m / 10) for m in measured]), stats.tstd([log(m / 10) for m in measured])
    k = out("tolerance_factor", count=4)["k"]
    assert found["weight"] == pytest.approx(1) and found["suggested_factor"] == pytest.approx(exp(mean))
    assert found["safe_factor"] == pytest.approx(exp(mean - k * deviation), rel=1e-4)
    few = out("calibration", predicted=[10.0], measured=[15.0])
    assert 1 < few["suggested_factor"] < 1.5 and few["raw_scatter"] is None, "one trial is shrunk towards 1"


@pytest.mark.parametrize(
    "words",
    [
        [], ["no_such_card"], ["list", "x=1"], ["thread"], ["thread", "diameter_mm=6"], ["thread", "diameter_mm", "6"],
        ["thread", "diameter_mm=6", "pitch_mm=1", "lead=2"], ["thread", "diameter_in=6", "pitch_mm=1"],
        ["thread", "diameter_mm=6", "diameter_mm=7", "pitch_mm=1"], ["thread", "diameter_mm=nan", "pitch_mm=1"],
        ["thread", "diameter_mm=-6", "pitch_mm=1"], ["thread", "diameter_mm=inf", "pitch_mm=1"],
        ["thread", "diameter_mm=1", "pitch_mm=1"], ["thread", "diameter_mm=", "pitch_mm=1"],
        ["dowel", "force_n=1", "diameter_mm=1", "planes=1.5", "depth_mm=1"], ["allowable", "readings_mpa=1,,2"],
        ["washer", "force_n=1", "outer_mm=3", "hole_mm=4", "strength_mpa=1"],
        ["stack", "nominal_mm=1,2", "plus_mm=1", "minus_mm=1,1", "least_mm=0", "most_mm=1"],
        ["weld_ladder", "layer_time_s=5,5", "strength_mpa=1,2", "reference_s=5", "at_s=5"],
    ],
)  # fmt: skip
def test_what_cannot_be_reckoned_is_refused_in_words(words, capsys):
    assert main([*words, "--json"]) == 2
    error = json.loads(capsys.readouterr().out)["error"]
    assert error["code"] == "bad_options" and error["message"] and error["hint"]


@settings(deadline=None, max_examples=150)
@given(st.sampled_from(PAGE), st.randoms(use_true_random=False))
def test_no_card_breaks_or_gives_what_is_no_number(key, random):
    text = {}
    for own in CARDS[key].inputs:
        high = min(own.high, 10 ** random.uniform(-3, 4)) if own.kind != "whole" else 12
        value = lambda o=own, h=high: random.uniform(max(o.low, -h), max(h, o.low * 1.01))
        text[own.name] = {
            "whole": str(random.randint(max(int(own.low), 0), 12)), "yes_no": random.choice("01"),
            "list": ",".join(repr(value()) for _ in range(random.randint(1, 5))),
        }.get(own.kind, repr(value()))  # fmt: skip
    try:
        found = answer([key, *(f"{k}={v}" for k, v in text.items())])
    except InputError:  # they do not go together
        return
    assert list(found["outputs"]) == list(CARDS[key].outputs)
    json.dumps(found, allow_nan=False)


@pytest.mark.parametrize("line", ["thread diameter_mm=6 pitch_mm=1", "two_samples first=1,2 second=2,4"])
def test_a_card_loads_nothing_that_computes_parts(line):
    words = f"import sys; from hewel_engine.cli.reckon import main; main({line.split()!r});"
    check = "assert not {'numpy','numba','scipy','manifold3d'} & set(sys.modules)"
    assert subprocess.run([sys.executable, "-c", words + check], capture_output=True).returncode == 0
