"""The farm's records: starting values, origins, and the process that comes of them."""

import pytest

from hewel_engine.errors import InputError
from hewel_engine.materials import ACROSS_SHARE, MATERIALS
from hewel_engine.processes import Process, on_the_farm
from hewel_engine.records import MATERIAL, TABLES, Reading, readings

PETG = {"grade": "petg", "own": {}}


def test_starting_values_lie_within_their_bounds():
    for fields in TABLES.values():
        for field in fields:
            if field.start is not None:
                assert field.checked(field.start) == field.start
            if field.span:
                assert field.low <= field.span[0] <= field.start <= field.span[1] <= field.high


@pytest.mark.parametrize("key", MATERIALS)
def test_every_grade_says_every_property_with_its_origin(key):
    material = MATERIALS[key]
    for field in MATERIAL:
        reading = material.readings[field.name]
        assert reading.origin == "handbook" and field.checked(reading.value) == reading.value
    low, high = material.readings["z_t"].low, material.readings["z_t"].high
    assert (low, high) == tuple(s * material.x_t for s in ACROSS_SHARE) and low <= material.z_t <= high
    assert material.z_t < material.x_t and material.e_z < material.e_xy


def test_a_record_says_what_it_knows_and_the_rest_falls_back():
    own = {"z_t": Reading(24.0, "coupon", 21, 27).as_dict()}
    material = MATERIALS["petg"].with_own(own)
    assert material.z_t == 24 and material.readings["z_t"].origin == "coupon"
    assert material.x_t == 45 and material.readings["x_t"].origin == "handbook"
    assert MATERIALS["petg"].z_t == 28, "the grade itself stays"


def test_a_process_comes_from_the_records_with_the_origin_of_each_number():
    request = lambda value, origin="own": Reading(value, origin).as_dict()
    process, origins = on_the_farm(
        {"flow_limit": request(20.0, "maker")},
        {"grade": "asa", "own": {"z_t": request(19.0, "maker")}},
        {"layer": request(0.3)},
        {
            "limit_hidden": request(58.0, "coupon"),
            "limit_visible": request(52.0, "coupon"),
            "z_s": request(14.0, "coupon"),
        },
        "visible",
        {"width": 0.5},
    )
    assert (process.flow_limit, process.layer, process.limit, process.width) == (20, 0.3, 52, 0.5)
    assert origins["flow_limit"] == ("maker", "machine") and origins["limit"] == ("coupon", "capability")
    assert origins["width"] == ("own", "job") and origins["infill"] == ("handbook", "profile")
    assert process.stock.z_t == 19 and process.stock.z_s == 14, "a coupon of the machine comes before the sheet"
    assert Process(**process.as_dict()) == process


def test_the_portable_limit_needs_no_record_and_a_missing_coupon_falls_back():
    for grade in ("portable", "hidden", "visible"):
        process, origins = on_the_farm({}, PETG, {}, {}, grade, {})
        assert process.limit == 45 and origins["limit"][0] == "handbook"
        bridges = {"rough_bridge": 10.0} if grade == "visible" else {}
        assert process == Process(**bridges), "with no record at all, everything is the starting value"


def test_bridges_follow_the_grade():
    result = {n: Reading(v, "coupon").as_dict() for n, v in (("clean_bridge", 14.0), ("rough_bridge", 26.0))}
    limits = {}
    for grade in ("portable", "hidden", "visible"):
        process, origins = on_the_farm({}, PETG, {}, result, grade, {})
        limits[grade] = (process.clean_bridge, process.rough_bridge, origins["rough_bridge"])
    assert limits["portable"] == (10, 20, ("handbook", "portable")), "any machine, not this farm's best"
    assert limits["hidden"] == (14, 26, ("coupon", "capability"))
    assert limits["visible"] == (14, 14, ("coupon", "capability")), "a rough underside is not accepted where it is seen"


def test_the_droop_of_a_process_is_that_of_its_lying_bores():
    process, origins = on_the_farm({}, PETG, {}, {"bore_lying": Reading(0.22, "coupon").as_dict()}, "hidden", {})
    assert process.droop == 0.22 and origins["droop"] == ("coupon", "capability")


def test_what_is_out_of_bounds_is_refused_in_words():
    with pytest.raises(InputError, match="Layer height cannot be 9") as caught:
        Process(layer=9)
    assert "0.02 to 2 mm" in caught.value.hint
    with pytest.raises(InputError, match="no material"):
        Process(material="oak")
    with pytest.raises(InputError, match="Perimeter rule"):
        Process(rule="odd")


def test_a_reading_says_nothing_where_the_handbook_says_nothing():
    assert readings(TABLES["capability"], {})["z_t"].value is None
