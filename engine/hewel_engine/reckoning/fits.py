"""Sizes as they are drawn and as they come out: shrinkage, bores, corners, layers, warmth, stacks of tolerances. mm."""

from math import cos, erfc, pi, radians, sin, sqrt, tan

from hewel_engine.reckoning.card import (
    Answered,
    Input,
    Said,
    above,
    card,
    from_zero,
    readings,
    refuse,
    same_length,
    signed,
)

SHRINKAGE = [Input("shrinkage_percent", -5.0, 20.0, allowed=True)]


def _left(percent: float) -> float:
    return 1 - percent / 100


@card("scale", [*above("size_mm"), *SHRINKAGE], "scale model_mm", "1/(1 − s)", "handbook 10", "one axis at a time")
def scale(size_mm: float, shrinkage_percent: float) -> Answered:
    return 1 / _left(shrinkage_percent), size_mm / _left(shrinkage_percent)


@card(
    "bore",
    [
        *above("mate_mm"), *signed("clearance_mm", "bore_loss_mm"), *SHRINKAGE,
        Input("facets", 3, 10_000, allowed=True, kind="whole"),
    ],
    "printed_mm model_mm vertex_diameter_mm",
    "printed = mate + 2c; model = (printed + loss)/(1 − s); n flats are drawn outside it: vertices on model/cos(π/n)",
    "handbook 10", "clearance per side, as printed",
)  # fmt: skip
def bore(mate_mm: float, clearance_mm: float, bore_loss_mm: float, shrinkage_percent: float, facets: int) -> Answered:
    printed = mate_mm + 2 * clearance_mm
    model = (printed + bore_loss_mm) / _left(shrinkage_percent)
    refuse(min(printed, model) <= 0, "Nothing is left of the bore.", "Look at clearance and loss.")
    return printed, model, model / cos(pi / facets)


@card(
    "corner", [Input("angle_deg", 0, 180), *above("width_mm"), *signed("bore_loss_mm")],
    "fillet_mm tangent_mm stand_off_mm relief_radius_mm",
    "fillet r = w/2 (what the doubled line at the turn holds); tangent length r/tan(θ/2); a sharp mate stands off "
    "r·(1/sin(θ/2) − 1); relief = r/tan(θ/2) + loss/2",
    "geometry; handbook 10", "inside corner of two straight walls",
)  # fmt: skip
def corner(angle_deg: float, width_mm: float, bore_loss_mm: float) -> Answered:
    radius, half = width_mm / 2, radians(angle_deg) / 2
    tangent = radius / tan(half)
    return radius, tangent, radius * (1 / sin(half) - 1), tangent + bore_loss_mm / 2


@card(
    "layers", [*above("height_mm", "layer_mm"), *SHRINKAGE], "layers model_mm printed_mm error_mm",
    "n = round(height/((1 − s)·h)); model = n·h; printed = model·(1 − s)", "handbook 10", "heights on whole layers",
)  # fmt: skip
def layers(height_mm: float, layer_mm: float, shrinkage_percent: float) -> Answered:
    left = _left(shrinkage_percent)
    count = max(round(height_mm / (left * layer_mm)), 1)
    return count, count * layer_mm, count * layer_mm * left, count * layer_mm * left - height_mm


@card(
    "thermal_fit",
    [
        *above("diameter_mm"), *signed("clearance_mm", "expansion_hole_per_k", "expansion_shaft_per_k"),
        *signed("temperature_change_k"),
    ],
    "change_mm clearance_after_mm", "Δc = D·(α_hole − α_shaft)·ΔT/2 per side", "thermal expansion", "both equally warm",
)  # fmt: skip
def thermal_fit(
    diameter_mm: float,
    clearance_mm: float,
    expansion_hole_per_k: float,
    expansion_shaft_per_k: float,
    temperature_change_k: float,
) -> Answered:
    change = diameter_mm * (expansion_hole_per_k - expansion_shaft_per_k) * temperature_change_k / 2
    return change, clearance_mm + change


@card(
    "stack",
    [
        *readings("nominal_mm", low=-1e6, allowed=True), *readings("plus_mm", "minus_mm", allowed=True),
        *signed("least_mm", "most_mm"),
    ],
    "middle_mm worst_low_mm worst_high_mm rss_low_mm rss_high_mm out_ppm",
    "signed nominals (gap +); middle = Σ sign·(|n| + (plus − minus)/2), half = (plus + minus)/2; "
    "worst = middle ∓ Σ half; rss = middle ∓ √Σ half²; out of limits with half = 3σ, normal",
    "tolerance analysis", "links vary by themselves, each in the middle of its tolerance",
)  # fmt: skip
def stack(
    nominal_mm: list[float], plus_mm: list[float], minus_mm: list[float], least_mm: float, most_mm: float
) -> Answered:
    same_length(nominal_mm, plus_mm)
    same_length(nominal_mm, minus_mm)
    refuse(least_mm > most_mm, "The least is above the most.", "Change the two over.")
    rows = list(zip(nominal_mm, plus_mm, minus_mm, strict=True))
    middle = sum((1 if n >= 0 else -1) * (abs(n) + (p - m) / 2) for n, p, m in rows)
    halves = [(p + m) / 2 for _, p, m in rows]
    worst, spread = sum(halves), sqrt(sum(h**2 for h in halves))
    beyond = lambda room: 0.5 * erfc(room / (spread / 3) / sqrt(2)) if spread > 0 else float(room < 0)
    out = 1e6 * min(beyond(middle - least_mm) + beyond(most_mm - middle), 1.0)
    return middle, middle - worst, middle + worst, middle - spread, middle + spread, out


@card(
    "bore_gauge", [*readings("nominal_mm", "measured_mm"), *SHRINKAGE], "bore_loss_mm deviation_mm count",
    "loss_i = (1 − s)·D − measured; mean, s", "handbook 10", "bores of like size",
)  # fmt: skip
def bore_gauge(nominal_mm: list[float], measured_mm: list[float], shrinkage_percent: float) -> Answered:
    same_length(nominal_mm, measured_mm)
    losses = [_left(shrinkage_percent) * d - m for d, m in zip(nominal_mm, measured_mm, strict=True)]
    count, mean = len(losses), sum(losses) / len(losses)
    deviation = sqrt(sum((x - mean) ** 2 for x in losses) / (count - 1)) if count > 1 else None
    return (mean, deviation, count), Said().few(count)


@card(
    "tensile",
    [
        *above("break_n", "width_mm", "thickness_mm", "slope_n_mm"), *from_zero("compliance_mm_n"),
        *readings("lengths_mm", "areas_mm2"),
    ],
    "strength_mpa effective_length_mm modulus_mpa", "L_eff = Σ L_i·A/A_i; E = L_eff/[A·(1/k − C)]", "series compliance",
    "the bar's parts in a row; C of machine and grips",
)  # fmt: skip
def tensile(
    break_n: float,
    width_mm: float,
    thickness_mm: float,
    slope_n_mm: float,
    compliance_mm_n: float,
    lengths_mm: list[float],
    areas_mm2: list[float],
) -> Answered:
    same_length(lengths_mm, areas_mm2)
    area = width_mm * thickness_mm
    length = sum(part * area / own for part, own in zip(lengths_mm, areas_mm2, strict=True))
    own = 1 / slope_n_mm - compliance_mm_n
    refuse(own <= 0, "The grips give more than bar and grips together.", "Look at slope and compliance.")
    return break_n / area, length, length / (area * own)
