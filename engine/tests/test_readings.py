"""Readings of coupons: the closed form of every fit, what lies apart, what is said, what is refused."""

from math import exp, sqrt

import numpy as np
import pytest

from hewel_engine.errors import InputError
from hewel_engine.materials import MATERIALS
from hewel_engine.printing.weld import Weld
from hewel_engine.processes import Process
from hewel_engine.records import BY_NAME
from hewel_engine.trials.breaks import _bars, _bonds, _with
from hewel_engine.trials.catalogue import SHEETS, fitted
from hewel_engine.trials.coupons import COUPONS
from hewel_engine.trials.plates import Prior, apart, line, pooled
from hewel_engine.trials.sheets import Known

PETG = Process(material="petg", layer=0.2, width=0.45)
KNOWN = Known(PETG, 0.004, 0.004, 0.15, 0.0, 28.0, Weld.of(MATERIALS["petg"]))


def numbers(key: str, rows: list[dict], known: Known = KNOWN) -> dict:
    return {f.name or f.words: f for f in fitted(key, rows, known).found}


def test_every_coupon_has_a_sheet_and_gives_fields_that_records_have():
    assert set(SHEETS) == set(COUPONS)
    for sheet in SHEETS.values():
        assert set(sheet.gives) <= set(BY_NAME["capability"]), sheet.key
        assert fitted(sheet.key, [], KNOWN).found == []


# ------------------------------------------------------------------ statistics


def test_plates_are_averaged_first():
    told = pooled([1.0, 1.0, 1.0, 3.0], ["a", "a", "a", "b"], 0.0, Prior(0.1, 0.1))
    assert told.mean == pytest.approx(2) and (told.count, told.plates) == (4, 2)


def test_without_scatter_the_band_is_that_of_the_prior():
    told = pooled([5.0] * 6, list("aabbcc"), 0.0, Prior(0.3, 0.0, 4.0))
    within = 4 * 0.09 / (4 + 3)
    assert told.deviation == pytest.approx(sqrt(within)) and told.doubt == pytest.approx(sqrt(3 * within / 2) / 3)


@pytest.mark.parametrize("seed", range(4))
def test_a_band_holds_the_truth_nineteen_times_of_twenty(seed):
    chance, held = np.random.default_rng(seed), 0
    for _ in range(300):
        values, plates = [], []
        for plate in "ab":
            off = chance.normal(0, 0.05)
            values += (3 + off + chance.normal(0, 0.1, 5)).tolist()
            plates += [plate] * 5
        told = pooled(values, plates, 0.0, Prior(0.1, 0.05))
        held += told.low <= 3 <= told.high
    assert 275 <= held <= 300


def test_one_that_lies_apart_is_found_and_the_others_are_not():
    assert apart([1.0, 1.02, 0.98, 1.01, 2.0], 0.02) == [4]
    assert apart([1.0, 1.5, 0.7, 1.2, 0.9], 0.2) == [] and apart([1.0, 9.0, 1.0], 0.01) == []


def test_a_line_is_that_of_least_squares():
    x, y = [1.0, 2, 3, 4], [2.1, 3.9, 6.2, 7.8]
    told = line(x, y, 0.0)
    slope, offset = np.polyfit(x, y, 1)
    assert (told.slope, told.offset) == pytest.approx((slope, offset))
    assert line([1.0, 1, 1], [1.0, 2, 3], 0.0) is None


# ------------------------------------------------------------------ what is measured


def test_the_limit_is_the_worst_facing_of_a_plate_and_the_mean_of_plates():
    rows = [
        {"plate": plate, "facing": facing, "hidden": angle, "visible": angle - 10}
        for plate, base in (("1", 50), ("2", 60))
        for facing, angle in zip(("+x", "−x", "+y", "−y"), (base, base + 5, base + 5, base + 10), strict=True)
    ]
    told = numbers("overhang", rows)
    assert told["limit_hidden"].value == 55 and told["limit_visible"].value == 45
    assert any("2 of 4 facings" in s for s in fitted("overhang", rows[:2], KNOWN).says)


def test_bridges_end_at_the_first_that_does_not_pass():
    fell = {5: 0.02, 10: 0.08, 15: 0.3, 20: 0.1, 25: 0.8, 30: 1.4}
    rows = [
        {"plate": p, "along": a, "span": s, "clearance": 10 * (1 - 0.004) - d, "strand": "no"}
        for p in "12" for a in "xy" for s, d in fell.items()
    ]  # fmt: skip
    told = numbers("bridge", rows)
    assert told["clean_bridge"].value == 10 and told["rough_bridge"].value == 25
    rows[1]["strand"] = "yes"
    assert numbers("bridge", rows)["clean_bridge"].value == 7.5, "the worse ladder of that plate, the mean of both"


def test_clearances_are_those_as_printed():
    rows = [
        {"plate": p, "hole": "round", "gap": gap, "feels": feels, "plug": 9.98}
        for p in "123" for gap, feels in ((0.05, "press"), (0.1, "location"), (0.15, "sliding"), (0.2, "sliding"))
    ]  # fmt: skip
    told = numbers("clearance", rows)
    assert told["fit_press"].value == pytest.approx(0.05 + (0.02 - 0.15) / 2)
    assert told["fit_sliding"].value == pytest.approx(0.15 + (0.02 - 0.15) / 2), "the least that slides"


def test_a_gap_in_place_loses_the_excess_of_both_walls():
    known = Known(PETG, 0.004, 0.004, 0.15, 0.02, None, KNOWN.weld)
    assert numbers("clearance_in_place", [{"gap": 0.35}], known)["fit_in_place"].value == pytest.approx(0.31)


def test_walls_give_the_excess_of_an_outer_face():
    rows = [{"plate": p, "drawn": t, "measured": 0.996 * t + 0.06} for p in "12" for t in (0.8, 1.2, 2.0, 3.0)]
    rows.append({"plate": "2", "drawn": 2.5, "measured": 3.4})
    told = fitted("walls", rows, KNOWN)
    assert told.found[0].value == pytest.approx(0.03) and told.apart == [8] and "does not count" in " ".join(told.says)
    rows[-1]["keep"] = True
    assert fitted("walls", rows, KNOWN).found[0].value > 0.05, "somebody has looked at it"


@pytest.mark.parametrize(("a", "b"), [(0.12, 0.0), (0.05, 0.6)])
def test_bores_lose_the_same_or_less_the_wider_they_are(a, b):
    chance = np.random.default_rng(3)
    rows = [
        {"plate": p, "diameter": d, "gauge": 0.996 * d - a - b / d + chance.normal(0, 0.005)}
        for p in "123" for d in (2, 3, 4, 5, 6, 8, 10, 12)
    ]  # fmt: skip
    told = numbers("bores", rows)
    assert told["bore_upright"].value == pytest.approx(a, abs=0.012)
    assert told["bore_upright_b"].value == (pytest.approx(b, abs=0.05) if b else 0)
    lying = [{"plate": r["plate"], "diameter": r["diameter"], "height": r["gauge"]} for r in rows]
    assert numbers("bores_lying", lying)["bore_lying"].value == pytest.approx(a, abs=0.012)


def test_shrinkage_is_a_slope_and_the_bulge_an_offset():
    rows = [
        {"plate": p, "axis": axis, "face": face, "drawn": g, "measured": (1 - s) * g + off}
        for p in "12" for axis, s in (("x", 0.004), ("y", 0.005))
        for face, off in (("outside", 0.06), ("inside", -0.06)) for g in (20, 60, 120, 180)
    ]  # fmt: skip
    tower = {"axis": "z", "face": "ledge"}
    rows += [{"plate": p, "drawn": g, "measured": 0.997 * g} | tower for p in "12" for g in (20, 60, 100)]
    told = numbers("shrink", rows)
    assert [told[f"shrinkage_{a}"].value for a in "xyz"] == pytest.approx([0.4, 0.5, 0.3])
    assert told["line_excess"].value == pytest.approx(0.03)
    rows[3]["measured"] += 1.0
    wrong = fitted("shrink", rows, KNOWN)
    assert wrong.apart == [3] and numbers("shrink", rows)["shrinkage_x"].value == pytest.approx(0.4, abs=1e-6)
    alone = fitted("shrink", [rows[0]], KNOWN)
    assert alone.found == [] and "one length says nothing" in alone.says[1]


# ------------------------------------------------------------------ what is broken


def bars(values: list[float], plates: str = "11122", broke: str = "waist", **more) -> list[dict]:
    return [
        {"plate": p, "width": 6.0, "thickness": 4.0, "force": 24.0 * v, "broke": broke} | more
        for v, p in zip(values, plates, strict=True)
    ]  # fmt: skip


def test_a_strength_is_the_mean_of_plates_of_bars_that_broke_in_their_waist():
    rows = bars([40, 42, 44, 46, 48]) + bars([20.0], "2", "grip")
    told = fitted("tensile_x", rows, KNOWN)
    means = [np.mean(np.log([40, 42, 44])), np.mean(np.log([46, 48]))]
    assert told.found[0].value == pytest.approx(exp(np.mean(means))) and told.bounds == [5]
    assert told.found[0].name == "x_t" and told.found[0].low < told.found[0].value < told.found[0].high


def test_one_lying_bar_does_not_count():
    rows = bars([28, 29, 30, 31, 29.5]) + bars([90.0], "1")
    told = fitted("tensile_z", rows, KNOWN)
    assert told.apart == [5] and told.found[0].value == pytest.approx(29.5, abs=0.5)


def test_only_bounds_give_nothing():
    assert fitted("tensile_a", bars([30.0, 31], "12", "not broken"), KNOWN).found == []


def test_a_bar_aslant_gives_the_shear_between_layers():
    z_s, z_t = 20.0, 28.0
    sigma = 2 / sqrt(1 / z_s**2 + 1 / z_t**2)
    told = numbers("tensile_45", bars([sigma] * 5))
    assert told["z_s"].value == pytest.approx(z_s)
    assert "say nothing" in " ".join(fitted("tensile_45", bars([57.0] * 5), KNOWN).says)
    unknown = Known(PETG, 0.004, 0.004, 0.15, 0.0, None, KNOWN.weld)
    assert "break upright bars first" in " ".join(fitted("tensile_45", bars([sigma] * 5), unknown).says)


@pytest.mark.parametrize("exponent", [0.7, 1.0, 1.3])
def test_a_ladder_gives_the_strength_and_the_exponent_it_was_drawn_with(exponent):
    times = [20.0, 40, 80, 160]
    drop = _bonds(np.array(times), _bars(4, PETG.layer), _with(KNOWN.weld, 20.0)) ** exponent
    rows = [row for t, d in zip(times, drop, strict=True) for row in bars([30 * d] * 6, "123456", layer_s=t)]
    told = numbers("batch_z", rows)
    assert told["z_t"].value == pytest.approx(30, rel=0.02) and told["coupon_layer_s"].value == 20
    off = told["weld_exponent"].value - exponent
    assert abs(off) <= 0.5 * abs(1 - exponent) + 0.02, "drawn towards 1 by no more than half"
    assert told["weld_exponent"].low < exponent < told["weld_exponent"].high
    short = fitted("batch_z", [r for r in rows if r["layer_s"] < 50], KNOWN)
    assert "little is proved" in " ".join(short.says)


def test_a_snap_gives_its_strain_and_an_insert_its_shear():
    rows = [{"plate": "1", "thickness": 1.6, "travel": 5.0}] * 5
    assert numbers("snap", rows)["snap_strain"].value == pytest.approx(1.5 * 1.6 * 5 / 400)
    pulls = [{"outer": 5.6, "length": 8.0, "force": 1000.0, "mode": "pull"}] * 5
    told = numbers("insert", pulls)["insert_factor"]
    assert told.value == pytest.approx(1000 / (np.pi * 5.6 * 8) / KNOWN.process.stock.z_s)
    plugs = fitted("insert", [*pulls[:4], pulls[0] | {"mode": "plug"}], KNOWN).says
    assert any("1 of 5 did not pull out" in line for line in plugs)


@pytest.mark.parametrize(("key", "row", "says"), [
    ("walls", {"drawn": 1.0}, "missing"),
    ("walls", {"drawn": 1.0, "measured": float("nan")}, "cannot be"),
    ("walls", {"drawn": 1.0, "measured": -1.0}, "cannot be"),
    ("walls", {"drawn": True, "measured": 1.0}, "cannot be"),
    ("tensile_z", {"width": 8, "thickness": 6, "force": 900, "broke": "somewhere"}, "Use one of"),
    ("tensile_z", {"width": 0, "thickness": 6, "force": 900, "broke": "waist"}, "cannot be"),
    ("walls", {"plate": "x" * 40, "drawn": 1.0, "measured": 1.0}, "too long"),
    ("stones", {}, "no coupon"),
])  # fmt: skip
def test_a_reading_that_cannot_be_is_refused_by_its_number(key, row, says):
    with pytest.raises(InputError) as caught:
        fitted(key, [row], KNOWN)
    assert says in f"{caught.value.message} {caught.value.hint}"


def test_what_no_record_could_hold_is_said_and_is_not_offered():
    told = fitted("walls", [{"drawn": t, "measured": t + 5.0} for t in (0.8, 1.2, 2.0)] * 2, KNOWN)
    assert [f.name for f in told.found] == [None] and "cannot be" in told.says[0]


@pytest.mark.parametrize("seed", range(0, 320, 5))
def test_readings_by_chance_give_numbers_or_words(seed):
    chance = np.random.default_rng(seed)
    sheet = list(SHEETS.values())[seed % len(SHEETS)]
    known = Known(PETG, 0.004, 0.004, 0.15, 0.0, None if chance.random() < 0.3 else 28.0, KNOWN.weld)

    def value(column):
        if column.choices:
            return column.choices[chance.integers(len(column.choices))]
        if not column.wanted and chance.random() < 0.4:
            return None
        low, high = max(column.low, 1e-3), min(column.high, 1e4)
        return float(np.exp(chance.uniform(np.log(low), np.log(high))))

    row = lambda: {"plate": str(chance.integers(3))} | {c.name: value(c) for c in sheet.columns}
    rows = [row() for _ in range(chance.integers(1, 14))]
    told = fitted(sheet.key, rows, known)
    for f in told.found:
        assert np.isfinite([f.value, f.low, f.high]).all() and f.low <= f.value + 1e-9 <= f.high + 2e-9
        if f.name:
            assert BY_NAME["capability"][f.name].low <= f.value <= BY_NAME["capability"][f.name].high
    drawn = [v for p in told.plot.points for v in (p.x, p.y)] + [v for at in told.plot.line for v in at]
    assert np.isfinite(drawn).all() and (told.found or told.says)
