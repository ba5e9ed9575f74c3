"""The farm of the demo workshop: two machine models, two materials, two processes, what their coupons showed.

Everything is invented. Names refer to other records by their names; the loader links them.
"""

_said = lambda value, origin, low=None, high=None, note="": {
    "typed": value,
    "origin": origin,
    "low": low,
    "high": high,
    "note": note,
}

RECORDS = [
    (
        "machine",
        {
            "name": "Weir 220",
            "note": "open frame, flexible plates",
            "values": {
                "bed_x": _said("220 mm", "maker"),
                "bed_y": _said("210 mm", "maker"),
                "bed_z": _said("240 mm", "maker"),
                "head_radius": _said("42 mm", "own", note="measured with card on the head"),
                "gantry": _said("28 mm", "own"),
                "flow_limit": _said("11 mm³/s", "own", "9.5", "12", "line test, October"),
                "release": _said("flexible plate", "own"),
                "hourly_cost": _said("2.6", "own"),
            },
            "machines": [
                {"id": "w1", "name": "Weir one", "reached": "simulated"},
                {"id": "w2", "name": "Weir two", "reached": "simulated"},
                {"id": "w3", "name": "Weir three", "note": "fan replaced in August", "reached": "simulated"},
            ],
        },
    ),
    (
        "machine",
        {
            "name": "Lock 300",
            "note": "closed, pushes its parts off",
            "values": {
                "bed_x": _said("300 mm", "maker"),
                "bed_y": _said("300 mm", "maker"),
                "bed_z": _said("320 mm", "maker"),
                "chamber": _said("heated", "maker"),
                "chamber_c": _said("55 °C", "own"),
                "release": _said("pushed off", "maker"),
                "push_limit": _said("45 N", "own", note="spring balance"),
                "hourly_cost": _said("4.1", "own"),
            },
            "machines": [
                {"id": "l1", "name": "Lock east", "reached": "simulated"},
                {"id": "l2", "name": "Lock west", "in_service": False},
            ],
        },
    ),
    (
        "material",
        {
            "name": "Reed PETG, grey",
            "grade": "petg",
            "values": {
                "z_t": _said("24.5 MPa", "coupon", "22.1", "26.8", "5 bars, one at a time"),
                "x_t": _said("46 MPa", "maker"),
                "price": _said("19.5", "own"),
            },
        },
    ),
    (
        "material",
        {
            "name": "Sedge ASA, black",
            "grade": "asa",
            "note": "for anything that stands in the sun",
            "values": {"softening_c": _said("100 °C", "maker"), "price": _said("31", "own")},
        },
    ),
    (
        "profile",
        {
            "name": "Sturdy 0.2",
            "values": {
                "layer": _said("0.2 mm", "own"),
                "width": _said("0.45 mm", "own"),
                "inner_width": _said("0.5 mm", "own"),
                "perimeters": _said("4", "own"),
                "infill": _said("0.25", "own"),
            },
        },
    ),
    (
        "profile",
        {
            "name": "Fine 0.12",
            "note": "seen faces",
            "values": {
                "layer": _said("0.12 mm", "own"),
                "width": _said("0.42 mm", "own"),
                "variable_lines": _said("yes", "own"),
            },
        },
    ),
    (
        "capability",
        {
            "name": "Weir 220 × Reed PETG × Sturdy",
            "machine": "Weir 220",
            "material": "Reed PETG, grey",
            "profile": "Sturdy 0.2",
            "measured": "2026-10-12",
            "operator": "Piet Tolland",
            "count": 3,
            "values": {
                "limit_hidden": _said("58", "coupon", "55", "60", "overhang fan, 5° steps"),
                "limit_visible": _said("50", "coupon", "50", "55"),
                "clean_bridge": _said("14 mm", "coupon", note="bridge ladder"),
                "z_t": _said("24.5 MPa", "coupon", "22.1", "26.8"),
            },
        },
    ),
]
