"""The comparison of directions on one printed page."""

import math

from hewel.printing import pdf
from parts.models import Part
from studies import bridge
from studies.models import Study

ROWS = 12
LEVEL = 1e-9
"""Of a direction's height, within which it counts as level."""
RAMP = ["#f4f0df", "#d9dcb8", "#a9bf95", "#6f9c85", "#3f7478", "#264e63", "#1d2f49"]


def spot(up: list[float], radius: float) -> tuple[str, float, float]:
    """Which disc, and where on it: equal areas, the lower half seen from above."""
    x, y, z = up
    flat = math.hypot(x, y)
    k = radius * math.sqrt(max(0.0, 1 - abs(z))) / flat if flat > 1e-9 else 0.0
    return ("upper" if z >= -LEVEL else "lower"), x * k, -y * k


def _discs(sweep: dict, candidates: list[dict], radius: float = 88) -> list[dict]:
    values = sweep["fields"]["overhang_area_mm2"]
    low, high = min(values), max(values)
    discs: dict[str, dict] = {half: {"half": half, "dots": [], "marks": []} for half in ("upper", "lower")}
    for up, value in zip(sweep["ups"], values, strict=True):
        half, x, y = spot(up, radius)
        step = min(len(RAMP) - 1, int(len(RAMP) * (value - low) / (high - low))) if high > low else 0
        discs[half]["dots"].append({"x": round(x, 1), "y": round(y, 1), "fill": RAMP[step]})
    for c in candidates:
        half, x, y = spot(c["up"], radius)
        discs[half]["marks"].append({"x": round(x, 1), "y": round(y, 1), "place": c["place"], "out": c["nondominated"]})
    return list(discs.values())


def _shown(value: float | None, digits: int = 0) -> str:
    if value is None:
        return "–"
    text = f"{value:,.{digits}f}".replace(",", "\u2009")
    return text.replace("-", "−") if float(f"{value:.{digits}f}") != 0 else text.replace("-", "")


def _row(c: dict, place: int) -> dict:
    time = c["time_s"]
    return c | {
        "place": place,
        "words": bridge.direction_words(c["up"]),
        "fails": c["reserve"] is not None and c["reserve"] < 1,
        "cells": [
            _shown(c["reserve"], 2),
            _shown(c["needing_area_mm2"]),
            _shown(c["overhang_area_mm2"]),
            _shown(c["support_volume_mm3"]),
            _shown(c["scar_mm2"]),
            _shown(c["islands"]),
            _shown(c["longest_bridge_mm"], 1),
            _shown(c["first_layer_mm2"]),
            _shown(c["height_mm"], 1),
            _shown(c["tipping_deg"]),
            _shown(c["drag_ratio"], 1),
            _shown(c["curl"]),
            _shown(c["finish_mm"], 2),
            "–" if time is None else f"{int(time) // 3600}:{int(time) % 3600 // 60:02d}",
        ],
    }


COLUMNS = [
    ("reserve", ""), ("needs support", "mm²"), ("overhang", "mm²"), ("support", "mm³"), ("scar", "mm²"),
    ("islands", ""), ("bridge", "mm"), ("first layer", "mm²"), ("height", "mm"), ("tips at", "°"), ("drag", "×"),
    ("curl", "mm²/MPa"), ("stair", "mm"), ("time", "h:mm"),
]  # fmt: skip


def comparison(part: Part, study: Study, sweep: dict | None, ranks: list[int], choice: dict | None) -> bytes:
    """A PDF of one A4 page: the net, the first candidates under the desk's weights, the pins, the choice."""
    order = sorted(range(len(ranks)), key=lambda i: ranks[i])
    rows = [_row(study.candidates[i], place) for place, i in enumerate(order, start=1)]
    desk = part.job["desk"]
    pins = [
        (letter, row)
        for letter, up in zip("ABC", desk["pins"], strict=False)
        for row in rows
        if bridge.same_direction(up, row["up"])
    ]
    low, high = part.facts["bbox_mm"]
    return pdf(
        "comparison.html",
        {
            "part": part,
            "size": " × ".join(_shown(b - a, 1) for a, b in zip(low, high, strict=True)),
            "process": study.process,
            "columns": COLUMNS,
            "rows": rows[:ROWS],
            "left_out": max(0, len(rows) - ROWS),
            "pins": [{"letter": letter, "row": row} for letter, row in pins],
            "weights": {k: v for k, v in (desk["weights"] or {}).items() if v},
            "discs": _discs(sweep, rows) if sweep else [],
            "ramp": RAMP,
            "choice": choice,
            "chosen": choice and bridge.direction_words(choice["up"]),
        },
    )
