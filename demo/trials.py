"""What the demo's people have printed, measured and broken: coupons of one machine, trials of a post. All invented."""

from dataclasses import dataclass

WHERE = {"machine": "Weir 220", "material": "Reed PETG, grey", "profile": "Sturdy 0.2"}
"""Names of the records that the coupons belong to."""


def _bar(plate: str, force: float, broke: str = "waist", width: float = 8.02, thick: float = 5.98) -> dict:
    values = {"width": width, "thickness": thick, "force": force, "broke": broke, "layer_s": 21.0}
    return {"plate": plate, "values": values}


def _bores(plate: str, *gauges: float) -> list[dict]:
    sizes = (2.0, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0, 12.0)
    return [{"plate": plate, "values": {"diameter": d, "gauge": g}} for d, g in zip(sizes, gauges, strict=True)]


COUPONS = [
    {
        "key": "tensile_z", "printed": "2026-10-12", "operator": "Piet Tolland", "room_c": 21.0, "layer": 0.2,
        "lot": "R-0926", "dried": "4 h at 55 °C", "note": "one broke at the foot's radius",
        "rows": [_bar("1", 1162), _bar("1", 1238), _bar("1", 1093), _bar("2", 1204), _bar("2", 1121),
                 _bar("2", 980, "shoulder")],
    },
    {
        "key": "bores", "printed": "2026-10-19", "operator": "Piet Tolland", "room_c": 20.0, "layer": 0.2,
        "lot": "R-0926",
        "rows": [*_bores("1", 1.80, 2.85, 3.85, 4.85, 5.85, 7.85, 9.85, 11.85),
                 *_bores("2", 1.80, 2.80, 3.85, 4.85, 5.90, 7.85, 9.85, 11.85),
                 *_bores("3", 1.75, 2.85, 3.80, 4.85, 5.85, 7.90, 9.85, 11.90)],
    },
]  # fmt: skip


@dataclass(frozen=True)
class DemoTrial:
    """A trial so many days ago: ``share`` of what was predicted that it bore."""

    days: int
    plate: str
    copies: int
    share: float
    how: str
    verdict: str
    at: tuple[float, float, float]
    lesson: str


TRIALS = {
    "Boom post": [
        DemoTrial(34, "1", 1, 0.86, "between layers", "failed", (15.0, 4.0, 22.6),
                  "Parted just above the fillet, clean, no white. The boom's end had been pulled by hand before."),
        DemoTrial(27, "2", 1, 0.92, "between layers", "failed", (15.0, -6.0, 22.2),
                  "Same layer again. Not the filament: a new lot, dried."),
        DemoTrial(13, "3", 4, 0.74, "between layers", "failed", (15.0, 2.0, 22.4),
                  "Four on the plate: weaker than one at a time. Print it alone, or bolt it through."),
    ]
}  # fmt: skip
"""By the name of a part."""
