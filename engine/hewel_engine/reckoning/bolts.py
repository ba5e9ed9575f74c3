"""Bolts, washers, nuts, screws and what they clamp. Lengths mm, forces N, moments N·mm, stresses MPa."""

from math import atan, ceil, cos, degrees, log, pi, radians, sqrt, tan

from hewel_engine.reckoning.card import (
    Answered,
    Said,
    above,
    angle,
    card,
    from_zero,
    poisson,
    refuse,
    share,
    signed,
    whole,
)

NUT_FACTOR = above("nut_factor", default=0.2, high=2.0)
SCATTER = from_zero("scatter", default=0.3, high=0.99)
HALF = share("share", default=0.5)


def basic_thread(d: float, p: float) -> tuple[float, float, float]:
    """Pitch diameter d − 3H/4, minor diameters d − 17H/12 outside and d − 5H/4 inside; H = √3/2·P."""
    h = sqrt(3) / 2 * p
    refuse(d <= 17 / 12 * h, "The pitch is too coarse for the diameter.", "Give the pitch of one turn, in mm.")
    return d - 0.75 * h, d - 17 / 12 * h, d - 1.25 * h


@card(
    "thread", above("diameter_mm", "pitch_mm"),
    "pitch_diameter_mm minor_external_mm minor_internal_mm stress_area_mm2 lead_deg",
    "H = √3/2·P; d2 = d − 3H/4; d3 = d − 17H/12; D1 = d − 5H/4; A_s = π/4·((d2 + d3)/2)²; tan λ = P/(π·d2)",
    "ISO 68-1, ISO 724, ISO 898-1", "metric thread of 60°, basic sizes",
)  # fmt: skip
def thread(diameter_mm: float, pitch_mm: float) -> Answered:
    d2, d3, inner = basic_thread(diameter_mm, pitch_mm)
    said = Said().outside(pitch_mm > 0.25 * diameter_mm, "No standard thread is so coarse.")
    return (d2, d3, inner, pi / 4 * ((d2 + d3) / 2) ** 2, degrees(atan(pitch_mm / (pi * d2)))), said


@card(
    "preload", [*above("torque_nmm", "diameter_mm"), *NUT_FACTOR, *SCATTER], "preload_n preload_low_n preload_high_n",
    "F = T/(K·d), F·(1 ∓ scatter)", "machine elements, short form of VDI 2230",
    "tightened by torque; K holds for one lubrication",
)  # fmt: skip
def preload(torque_nmm: float, diameter_mm: float, nut_factor: float, scatter: float) -> Answered:
    force = torque_nmm / (nut_factor * diameter_mm)
    return force, force * (1 - scatter), force * (1 + scatter)


@card(
    "tightening",
    [
        *above("preload_n", "pitch_mm", "pitch_diameter_mm"), *from_zero("friction_thread", "friction_head", high=2.0),
        *from_zero("bearing_inner_mm"), *above("bearing_outer_mm", "diameter_mm"),
    ],
    "torque_nmm thread_torque_nmm nut_factor",
    "T = F·[P/2π + µ_G·d2/(2·cos 30°) + µ_K·(d_i + d_o)/4]; K = T/(F·d)",
    "VDI 2230 (0.159 P + 0.577 d2 µ_G + D_Km/2 µ_K)", "metric thread of 60°",
)  # fmt: skip
def tightening(
    preload_n: float,
    pitch_mm: float,
    pitch_diameter_mm: float,
    friction_thread: float,
    friction_head: float,
    bearing_inner_mm: float,
    bearing_outer_mm: float,
    diameter_mm: float,
) -> Answered:
    refuse(bearing_inner_mm >= bearing_outer_mm, "The head bears on nothing.", "The outer diameter is the greater one.")
    in_thread = preload_n * (pitch_mm / (2 * pi) + friction_thread * pitch_diameter_mm / (2 * cos(radians(30))))
    torque = in_thread + preload_n * friction_head * (bearing_inner_mm + bearing_outer_mm) / 4
    return torque, in_thread, torque / (preload_n * diameter_mm)


def cone_compliance(grip: float, washer: float, hole: float, outer: float, cone: float, modulus: float) -> float:
    """mm/N: ∫dz/(E·A(z)), A = π/4·(min(d_w + 2z·tan φ, D_A)² − d_h²), from both ends to the middle."""
    half, slope = grip / 2, 2 * tan(radians(cone))
    spread = 0.0 if washer >= outer else (min((outer - washer) / slope, half) if slope > 0 else half)
    wide, total = washer + slope * spread, 0.0
    if spread > 0 and slope == 0:
        total = spread / (washer**2 - hole**2)
    elif spread > 0 and hole == 0:
        total = (1 / washer - 1 / wide) / slope
    elif spread > 0:
        part = lambda u: log((u - hole) / (u + hole)) / (2 * hole)
        total = (part(wide) - part(washer)) / slope
    if half > spread:
        total += (half - spread) / (outer**2 - hole**2)
    return 8 * total / (pi * modulus)


@card(
    "joint",
    [
        *above("grip_mm", "washer_mm"), *from_zero("hole_mm"), *above("outer_mm"),
        *angle("cone_deg", high=60, default=30.0), *above("clamped_modulus_mpa"),
        *above("bolt_modulus_mpa", default=205000.0), *above("stress_area_mm2"),
    ],
    "bolt_compliance_mm_n clamped_compliance_mm_n load_factor",
    "δ_b = l/(E_b·A_s); δ_p = ∫dz/(E_p·A(z)), A = π/4·(min(d_w + 2z·tan φ, D_A)² − d_h²) from both ends to the "
    "middle; Φ = δ_p/(δ_p + δ_b)",
    "VDI 2230 substitute cone and sleeve", "the clamped body is round and of one material",
)  # fmt: skip
def joint(
    grip_mm: float,
    washer_mm: float,
    hole_mm: float,
    outer_mm: float,
    cone_deg: float,
    clamped_modulus_mpa: float,
    bolt_modulus_mpa: float,
    stress_area_mm2: float,
) -> Answered:
    refuse(hole_mm >= min(washer_mm, outer_mm), "The washer bears on nothing.", "Washer and part exceed the hole.")
    bolt = grip_mm / (bolt_modulus_mpa * stress_area_mm2)
    clamped = cone_compliance(grip_mm, washer_mm, hole_mm, outer_mm, cone_deg, clamped_modulus_mpa)
    said = Said().outside(washer_mm > outer_mm, "The washer is wider than what it clamps.")
    return (bolt, clamped, clamped / (clamped + bolt)), said


@card(
    "preload_left",
    [
        *above("preload_n", "clamped_compliance_mm_n", "bolt_compliance_mm_n"), *share("relaxation"),
        *from_zero("embedding_mm"), *above("grip_mm"), *signed("expansion_clamped_per_k", "expansion_bolt_per_k"),
        *signed("temperature_change_k"),
    ],
    "preload_left_n loose", "F = [F_0·(δ_p + δ_b) − f_Z + (α_p − α_b)·ΔT·l]/(δ_p/r + δ_b), not below 0",
    "VDI 2230 (embedding, thermal), quasi-elastic creep", "r: share of its stiffness that the plastic keeps",
)  # fmt: skip
def preload_left(
    preload_n: float,
    clamped_compliance_mm_n: float,
    bolt_compliance_mm_n: float,
    relaxation: float,
    embedding_mm: float,
    grip_mm: float,
    expansion_clamped_per_k: float,
    expansion_bolt_per_k: float,
    temperature_change_k: float,
) -> Answered:
    given = preload_n * (clamped_compliance_mm_n + bolt_compliance_mm_n) - embedding_mm
    given += (expansion_clamped_per_k - expansion_bolt_per_k) * temperature_change_k * grip_mm
    left = given / (clamped_compliance_mm_n / relaxation + bolt_compliance_mm_n)
    return max(left, 0.0), left <= 0


@card(
    "clamp",
    [
        *from_zero("preload_left_n"), *whole("count"), *above("area_mm2", "section_modulus_mm3"),
        *from_zero("tension_n", "bending_nmm"), *above("required_factor"), *signed("eccentricity_mm"),
    ],
    "closing_mpa opening_mpa far_unloaded_mpa reserve count_needed",
    "closing = n·F/A + n·F·e/W at the fibre that opens (e > 0 towards it); opening = N/A + M/W; "
    "reserve = closing/(γ·opening); far fibre without load n·F/A − n·F·|e|/W must not pull (bolt inside the kern)",
    "handbook 7; Bernoulli", "plane section; the same preload in every bolt",
)  # fmt: skip
def clamp(
    preload_left_n: float,
    count: int,
    area_mm2: float,
    section_modulus_mm3: float,
    tension_n: float,
    bending_nmm: float,
    required_factor: float,
    eccentricity_mm: float,
) -> Answered:
    each = preload_left_n / area_mm2 + preload_left_n * eccentricity_mm / section_modulus_mm3
    opening = tension_n / area_mm2 + bending_nmm / section_modulus_mm3
    far = count * preload_left_n * (1 / area_mm2 - abs(eccentricity_mm) / section_modulus_mm3)
    wanted = required_factor * opening
    needed = (ceil(wanted / each - 1e-12) if wanted > 0 else 0) if each > 0 else None
    said = Said().outside(far < 0, "Without load the far fibre is pulled: the bolts stand outside the kern.")
    said.outside(each <= 0, "At the fibre that opens the bolts do not close anything.")
    return (count * each, opening, far, count * each / wanted if wanted > 0 else None, needed), said


@card(
    "bolt_load",
    [
        *above("preload_low_n", "preload_high_n"), *share("load_factor"), *from_zero("introduction", high=1.0),
        *from_zero("load_n"), *above("stress_area_mm2", "proof_mpa"),
    ],
    "bolt_force_n bolt_stress_mpa clamp_left_n reserve",
    "F_b = F_high + n·Φ·F; clamp left = F_low − (1 − n·Φ)·F; σ = F_b/A_s against proof", "VDI 2230 joint diagram",
    "as long as the joint is closed",
)  # fmt: skip
def bolt_load(
    preload_low_n: float,
    preload_high_n: float,
    load_factor: float,
    introduction: float,
    load_n: float,
    stress_area_mm2: float,
    proof_mpa: float,
) -> Answered:
    refuse(preload_low_n > preload_high_n, "The low preload is above the high one.", "Change the two over.")
    part = introduction * load_factor
    force, left = preload_high_n + part * load_n, preload_low_n - (1 - part) * load_n
    said = Said().outside(left < 0, "The joint opens: the bolt carries all.")
    return (force, force / stress_area_mm2, left, proof_mpa * stress_area_mm2 / force), said


@card(
    "washer_spread",
    [
        *above("bearing_mm", "thickness_mm", "clamped_modulus_mpa", "clamped_mm", "outer_mm", "washer_modulus_mpa"),
        *poisson("washer_poisson"),
    ],
    "spread_mm effective_mm", "ℓ = (D·t_p/E_p)^¼, D = E_s·h³/(12·(1 − ν²)); d_eff = min(d_o, d_bearing + 2ℓ)",
    "plate on an elastic foundation (estimate)", "an estimate",
)  # fmt: skip
def washer_spread(
    bearing_mm: float,
    thickness_mm: float,
    clamped_modulus_mpa: float,
    clamped_mm: float,
    outer_mm: float,
    washer_modulus_mpa: float,
    washer_poisson: float,
) -> Answered:
    bending = washer_modulus_mpa * thickness_mm**3 / (12 * (1 - washer_poisson**2))
    spread = (bending * clamped_mm / clamped_modulus_mpa) ** 0.25
    said = Said().outside(bearing_mm > outer_mm, "What bears is wider than the washer.")
    return (spread, min(outer_mm, bearing_mm + 2 * spread)), said


@card(
    "washer", [*above("force_n", "outer_mm"), *from_zero("hole_mm"), *above("strength_mpa"), *HALF],
    "area_mm2 pressure_mpa greatest_force_n reserve",
    "A = π/4·(d_o² − d_i²), d_i the greater of washer's and part's hole; p = F/A ≤ share·Z_c", "handbook 7",
    "evenly spread: a thin washer bends, see washer_spread",
)  # fmt: skip
def washer(force_n: float, outer_mm: float, hole_mm: float, strength_mpa: float, share: float) -> Answered:
    refuse(hole_mm >= outer_mm, "The washer bears on nothing.", "It is wider than the hole.")
    area = pi / 4 * (outer_mm**2 - hole_mm**2)
    most = share * strength_mpa * area
    return area, force_n / area, most, most / force_n


@card(
    "nut_pocket",
    [
        *above("across_flats_mm", "height_mm"), *from_zero("clearance_mm", "height_clearance_mm", "hole_mm"),
        *above("strength_mpa"),
    ],
    "pocket_flats_mm pocket_corners_mm depth_mm bearing_area_mm2 turning_torque_nmm",
    "s' = s + 2c; e' = 2s'/√3; A = √3/2·s² − π/4·d_h²; T = p·m·s²/6 (each flat bears on half its length, triangular)",
    "geometry", "hexagonal nut",
)  # fmt: skip
def nut_pocket(
    across_flats_mm: float,
    height_mm: float,
    clearance_mm: float,
    height_clearance_mm: float,
    hole_mm: float,
    strength_mpa: float,
) -> Answered:
    flats = across_flats_mm + 2 * clearance_mm
    area = sqrt(3) / 2 * across_flats_mm**2 - pi / 4 * hole_mm**2
    refuse(area <= 0, "The nut bears on nothing.", "Its flats are further apart than the hole is wide.")
    torque = strength_mpa * height_mm * across_flats_mm**2 / 6
    return flats, 2 * flats / sqrt(3), height_mm + height_clearance_mm, area, torque


@card(
    "clamped_weld", [*signed("normal_mpa", "shear_mpa"), *from_zero("closing_mpa"), *above("z_t_mpa", "z_s_mpa")],
    "reserve opens_at plain_reserve",
    "reserve = least λ with (⟨λσ − p⟩/Z_t)² + (λτ/Z_s)² = 1: the load grows, the preload does not; opens_at = p/σ",
    "handbook 6 criterion with a constant preload", "no credit for friction in the closed joint",
)  # fmt: skip
def clamped_weld(normal_mpa: float, shear_mpa: float, closing_mpa: float, z_t_mpa: float, z_s_mpa: float) -> Answered:
    pulled, cut = max(normal_mpa, 0.0) / z_t_mpa, abs(shear_mpa) / z_s_mpa
    size = max(pulled, cut)

    def least(closing: float) -> float | None:
        if size == 0:
            return None
        n, t, p = pulled / size, cut / size, closing / z_t_mpa
        if n <= p * t:  # it shears before it opens
            return 1 / t / size
        a = n**2 + t**2
        return (n * p + sqrt(max((n * p) ** 2 - a * (p**2 - 1), 0.0))) / a / size

    return least(closing_mpa), closing_mpa / normal_mpa if normal_mpa > 0 else None, least(0.0)


@card(
    "tapping",
    [
        *above("pitch_diameter_mm", "pitch_mm", "engagement_mm", "shear_mpa"),
        *from_zero("friction", default=0.3, high=2.0), *above("head_mean_mm"), *angle("flank_deg", high=89.0),
        *share("share"),
    ],
    "strip_force_n strip_torque_nmm tighten_torque_nmm",
    "F = π·d_p·L·τ; tan λ = P/(π·d_p); tan ρ' = µ/cos(flank/2); T = F·[d_p/2·tan(λ + ρ') + µ·d_k/2]; "
    "tighten ≤ share·T",
    "screws cut in plastic, machine elements", "the thread fills the hole",
)  # fmt: skip
def tapping(
    pitch_diameter_mm: float,
    pitch_mm: float,
    engagement_mm: float,
    shear_mpa: float,
    friction: float,
    head_mean_mm: float,
    flank_deg: float,
    share: float,
) -> Answered:
    force = pi * pitch_diameter_mm * engagement_mm * shear_mpa
    rise = atan(pitch_mm / (pi * pitch_diameter_mm)) + atan(friction / cos(radians(flank_deg) / 2))
    refuse(rise >= pi / 2, "So steep a thread does not turn.", "Look at pitch and friction.")
    torque = force * (pitch_diameter_mm / 2 * tan(rise) + friction * head_mean_mm / 2)
    said = Said().outside(engagement_mm < 1.5 * pitch_diameter_mm, "Less than one and a half diameters are engaged.")
    return (force, torque, share * torque), said


@card(
    "strip", above("diameter_mm", "pitch_mm", "engagement_mm", "internal_shear_mpa", "external_shear_mpa"),
    "internal_area_mm2 external_area_mm2 internal_force_n external_force_n strip_force_n",
    "60° profile, basic sizes: A_int = 7/8·π·d·L; A_ext = 3/4·π·D1·L",
    "thread stripping areas (ISO 68-1 basic profile; Alexander)", "all turns bear alike",
)  # fmt: skip
def strip(
    diameter_mm: float, pitch_mm: float, engagement_mm: float, internal_shear_mpa: float, external_shear_mpa: float
) -> Answered:
    minor = basic_thread(diameter_mm, pitch_mm)[2]
    inside, outside = 7 / 8 * pi * diameter_mm * engagement_mm, 3 / 4 * pi * minor * engagement_mm
    forces = inside * internal_shear_mpa, outside * external_shear_mpa
    said = Said().outside(engagement_mm > 1.5 * diameter_mm, "So many turns do not bear alike: the first carry more.")
    return (inside, outside, *forces, min(forces)), said


@card(
    "tip", [*above("torque_nmm", "diameter_mm"), *NUT_FACTOR, *above("tip_mm", "strength_mpa"), *HALF],
    "force_n pressure_mpa reserve pad_mm", "F = T/(K·d); p = F/(π·d_t²/4); pad: p = share·Z_c", "handbook 7",
    "the tip is flat",
)  # fmt: skip
def tip(
    torque_nmm: float, diameter_mm: float, nut_factor: float, tip_mm: float, strength_mpa: float, share: float
) -> Answered:
    force = torque_nmm / (nut_factor * diameter_mm)
    pressure, most = force / (pi / 4 * tip_mm**2), share * strength_mpa
    return force, pressure, most / pressure, sqrt(4 * force / (pi * most))


@card(
    "tooth",
    [
        *above("force_n", "root_diameter_mm", "mean_diameter_mm", "height_mm", "root_width_mm", "turns"),
        *share("first_turn_share"),
    ],
    "first_turn_n bending_mpa shear_mpa bearing_mpa",
    "tooth unrolled: F1 = F·max(share, 1/z); σ = 6·F1·(h/2)/(π·d_r·b²); τ = F1/(π·d_r·b); p = F1/(π·d_m·h)",
    "power-screw thread root, machine elements", "load at half height",
)  # fmt: skip
def tooth(
    force_n: float,
    root_diameter_mm: float,
    mean_diameter_mm: float,
    height_mm: float,
    root_width_mm: float,
    turns: float,
    first_turn_share: float,
) -> Answered:
    first, root = force_n * max(first_turn_share, 1 / turns), pi * root_diameter_mm * root_width_mm
    bearing = first / (pi * mean_diameter_mm * height_mm)
    said = Said().outside(turns < 1, "Less than one turn bears.")
    return (first, 3 * first * height_mm / (root * root_width_mm), first / root, bearing), said
