"""What the engineers of the demo have written about some of its parts."""


def _cylinder(z: float, radius: float) -> dict:
    return {"cylinder": {"point": [0, 0, z], "axis": [0, 1, 0], "radius": radius, "tol": 0.1}}


SHEAVE_FORK_JOB = {
    "need": {"quantity": 24, "due": "2026-12-18", "use": "injury", "policy": "designed", "owner": "Ines Marrow"},
    "requirements": {
        "rows": [
            {
                "id": "pull",
                "kind": "load",
                "statement": "carry the gauge board from its hook",
                "number": "31 N",
                "source": "rigging list of the lower weir",
                "verify": "pulled to break, five of a plate",
                "guess": {"how": "between layers", "where": "neck under the eye", "spot": [9, 0, 74]},
            },
            {"id": "axle", "kind": "interface", "statement": "run free on the 8 mm axle", "verify": "pin gauge"},
            {"id": "sun", "kind": "environment", "statement": "stand in sun and river water", "number": "45 °C"},
        ]
    },
    "regions": {
        "rows": [
            {"id": "axle", "name": "axle bores", "colour": 0, "shape": _cylinder(0, 4)},
            {"id": "eye", "name": "hook's eye", "colour": 1, "shape": _cylinder(82, 6)},
            {
                "id": "cheek",
                "name": "outer cheek",
                "colour": 2,
                "shape": {"plane": {"point": [0, 18.5, 20], "normal": [0, 1, 0], "tol": 0.05}},
            },
        ]
    },
    "loads": {
        "held": [{"id": "h", "on": "axle", "how": "pinned"}],
        "cases": [
            {
                "id": "hang",
                "name": "board hangs",
                "nature": "sustained",
                "requirement": "pull",
                "loads": [
                    {"id": "f", "kind": "force", "on": "eye", "amount": "31 N", "direction": [0, 0, 1]},
                    {"id": "w", "kind": "weight", "amount": "1 g", "direction": [0, 0, -1]},
                ],
            },
            {
                "id": "gust",
                "name": "gust",
                "nature": "shock",
                "requirement": "pull",
                "loads": [{"id": "g", "kind": "force", "on": "eye", "amount": "4.4 kgf", "direction": [0, 0, 1]}],
            },
        ],
    },
    "touching": {
        "rows": [
            {
                "id": "t1",
                "on": "axle",
                "duty": "mating",
                "fit": "free",
                "mate": "axle, 8 mm steel",
                "requirement": "axle",
            },
            {"id": "t2", "on": "cheek", "duty": "seen"},
        ]
    },
}
"""The fork's job as its engineer left it: written, not yet marked complete, cautions not yet acknowledged."""


STAY_CLEVIS_JOB = {
    "need": {"quantity": 400, "due": "2027-02-12", "policy": "none", "owner": "Ines Marrow"},
    "requirements": {
        "rows": [
            {
                "id": "stay",
                "kind": "load",
                "statement": "hold the stay in a flood",
                "number": "130 N",
                "source": "stay tension, gauge mast drawing",
                "verify": "pulled to break, one of a plate",
                "guess": {"how": "between layers", "where": "root of an ear", "spot": [7, 6, 10]},
            }
        ]
    },
    "regions": {
        "rows": [
            {
                "id": "pin",
                "name": "pin bores",
                "colour": 0,
                "shape": {"cylinder": {"point": [0, 0, 21], "axis": [1, 0, 0], "radius": 3, "tol": 0.1}},
            },
            {
                "id": "sole",
                "name": "sole",
                "colour": 1,
                "shape": {"plane": {"point": [0, 0, 0], "normal": [0, 0, -1], "tol": 0.05}},
            },
        ]
    },
    "loads": {
        "held": [{"id": "h", "on": "sole", "how": "fixed"}],
        "cases": [
            {
                "id": "flood",
                "name": "flood",
                "nature": "static",
                "requirement": "stay",
                "loads": [{"id": "f", "kind": "force", "on": "pin", "amount": "130 N", "direction": [0, 0, 1]}],
            }
        ],
    },
    "plate": {
        "ways": [
            {"id": "mould", "name": "moulded in acetal", "once": 5200, "piece": 0.55, "stock": 0.05, "days": 45},
            {"id": "bought", "name": "bought in steel", "piece": 6.4, "assembly": 0.3, "days": 12},
        ]
    },
}
"""Holds by itself; with a full plate the wait between layers takes what is left."""


def _flat(point: list, normal: list) -> dict:
    return {"plane": {"point": point, "normal": normal, "tol": 0.05}}


def _named(key: str, name: str, colour: int, shape: dict) -> dict:
    return {"id": key, "name": name, "colour": colour, "shape": shape}


def _standing(x: float, y: float, radius: float) -> dict:
    return {"cylinder": {"point": [x, y, 0], "axis": [0, 0, 1], "radius": radius, "tol": 0.1}}


LOGGER_LID_JOB = {
    "regions": {
        "rows": [
            _named("long1", "skirt, long side", 0, _flat([0, 34, 9], [0, 1, 0])),
            _named("long2", "its other long side", 1, _flat([0, -34, 9], [0, -1, 0])),
            _named("short1", "skirt, short side", 2, _flat([52, 0, 9], [1, 0, 0])),
            _named("short2", "its other short side", 3, _flat([-52, 0, 9], [-1, 0, 0])),
            _named("window", "window for the lens", 4, _standing(-15, 0, 9)),
            _named("screw", "screw hole", 5, _standing(42, 24, 1.7)),
        ]
    },
    "touching": {
        "rows": [
            {"id": "long", "on": "long1", "across": "long2", "duty": "mating", "fit": "free", "mate": "box, long walls",
             "size": "68 mm"},
            {"id": "short", "on": "short1", "across": "short2", "duty": "mating", "fit": "free",
             "mate": "box, short walls", "size": "104 mm"},
            {"id": "lens", "on": "window", "duty": "mating", "fit": "sliding", "mate": "lens, 18 mm glass",
             "size": "18 mm", "minus": "0.05 mm"},
            {"id": "screw", "on": "screw", "duty": "mating", "fit": "free", "mate": "M3 screw", "size": "3 mm"},
        ]
    },
}  # fmt: skip

BOARD_CLIP_JOB = {
    "flexing": {
        "rows": [
            {"id": "jaw", "name": "upper jaw", "at": [4, 9, 12], "normal": [0, 1, 0], "deflection": "0.8 mm",
             "repeated": True}
        ]
    }
}  # fmt: skip

LOGGER_BOX_JOB = {
    "regions": {
        "rows": [
            _named("long1", "opening, long wall", 0, _flat([0, 34, 20], [0, -1, 0])),
            _named("short1", "opening, short wall", 2, _flat([52, 0, 20], [-1, 0, 0])),
        ]
    },
    "touching": {
        "rows": [
            {"id": "long", "on": "long1", "duty": "mating", "mate": "lid's skirt"},
            {"id": "short", "on": "short1", "duty": "mating", "mate": "lid's skirt"},
        ]
    },
}


def _bolt(number: int, x: float, y: float) -> dict:
    return {
        "id": f"bolt-{number}", "name": f"bolt {number}", "kind": "bolt", "size": "M5", "at": [x, y, 100],
        "axis": [0, 0, -1],
    }  # fmt: skip


BOOM_POST_JOB = {
    "need": {"quantity": 12, "due": "2027-01-22", "use": "functional", "policy": "none", "owner": "Ines Marrow"},
    "requirements": {
        "rows": [
            {
                "id": "boom",
                "kind": "load",
                "statement": "hold the boom's end in a side wind",
                "number": "260 N",
                "source": "boom drawing, lower weir",
                "verify": "pulled sideways to break, one of a plate",
                "guess": {"how": "between layers", "where": "root of the post", "spot": [-15, 0, 22]},
            }
        ]
    },
    "regions": {
        "rows": [
            {
                "id": "eye",
                "name": "boom's bore",
                "colour": 0,
                "shape": {"cylinder": {"point": [0, 0, 88], "axis": [1, 0, 0], "radius": 4, "tol": 0.1}},
            },
            {
                "id": "foot",
                "name": "foot",
                "colour": 1,
                "shape": {"plane": {"point": [0, 0, 0], "normal": [0, 0, -1], "tol": 0.05}},
            },
        ]
    },
    "loads": {
        "held": [{"id": "h", "on": "foot", "how": "fixed"}],
        "cases": [
            {
                "id": "wind",
                "name": "side wind",
                "nature": "static",
                "requirement": "boom",
                "loads": [{"id": "f", "kind": "force", "on": "eye", "amount": "260 N", "direction": [1, 0, 0]}],
            }
        ],
    },
    "hardware": {"rows": [_bolt(1, 8.5, 8.5), _bolt(2, -8.5, 8.5), _bolt(3, -8.5, -8.5), _bolt(4, 8.5, -8.5)]},
}
"""Fails across its layers; with its four bolts tightened it holds."""
