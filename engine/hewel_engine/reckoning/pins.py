"""Rods, pins, keys, inserts, press fits, snaps, springs, posts, glue, grip. Lengths mm, forces N, stresses MPa."""

from math import pi, radians, sqrt, tan, tanh

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
    yes_no,
)  # fmt: skip

STEPS = 2000
FRICTION = from_zero("friction", default=0.3, high=2.0)


@card(
    "rod",
    [
        *above("body_second_moment_mm4", "body_area_mm2", "body_modulus_mpa", "body_edge_mm", "rod_diameter_mm"),
        *above("rod_modulus_mpa"), *signed("moment_nmm", "offset_mm"), *yes_no("bonded"),
    ],
    "stiffness_gain body_stress_mpa rod_stress_mpa",
    "snug, slipping: EI = E_p·I_p + E_s·π·d⁴/64 (place of the rod does not matter); held against slip (glued, or nuts "
    "at both ends): transformed section, n = E_s/E_p, e = n·A_s·o/(A_p + n·A_s); σ_p = M·(y + |e|)/I_t, "
    "σ_s = n·M·(|o − e| + d/2)/I_t",
    "composite beam", "plane section; beyond the rod's end the body is alone",
)  # fmt: skip
def rod(
    body_second_moment_mm4: float,
    body_area_mm2: float,
    body_modulus_mpa: float,
    body_edge_mm: float,
    rod_diameter_mm: float,
    rod_modulus_mpa: float,
    moment_nmm: float,
    offset_mm: float,
    bonded: bool,
) -> Answered:
    second, area = pi * rod_diameter_mm**4 / 64, pi * rod_diameter_mm**2 / 4
    n, moment = rod_modulus_mpa / body_modulus_mpa, abs(moment_nmm)
    off = n * area * offset_mm / (body_area_mm2 + n * area) if bonded else 0.0
    away = offset_mm - off if bonded else 0.0
    total = body_second_moment_mm4 + body_area_mm2 * off**2 + n * (second + area * away**2)
    body = moment * (body_edge_mm + abs(off)) / total
    steel = n * moment * (abs(away) + rod_diameter_mm / 2) / total
    said = Said().outside(abs(offset_mm) + rod_diameter_mm / 2 > body_edge_mm, "The rod lies outside the body.")
    return (total / body_second_moment_mm4, body, steel), said


@card(
    "pin_in_hole", [*above("force_n", "diameter_mm", "depth_mm"), *from_zero("arm_mm")],
    "bearing_peak_mpa pin_bending_mpa pin_shear_mpa",
    "p = F/(d·L) + 6·F·(a + L/2)/(d·L²) = F·(4L + 6a)/(d·L²); σ = 32·F·a/(π·d³); τ = 4F/(π·d²)",
    "machine elements, pin pressed into a hole and bent", "a stiff pin in a soft hole",
)  # fmt: skip
def pin_in_hole(force_n: float, diameter_mm: float, depth_mm: float, arm_mm: float) -> Answered:
    bearing = force_n * (4 * depth_mm + 6 * arm_mm) / (diameter_mm * depth_mm**2)
    return bearing, 32 * force_n * arm_mm / (pi * diameter_mm**3), 4 * force_n / (pi * diameter_mm**2)


@card(
    "key",
    [
        *above("torque_nmm"), *whole("count"), *share("load_share", default=1.0),
        *above("radius_mm", "depth_mm", "length_mm", "width_mm"),
    ],
    "force_n bearing_mpa key_shear_mpa",
    "F = T/(n·φ·r), r to the middle of the bearing flank; p = F/(t·l); τ = F/(b·l)",
    "parallel keys, DIN 6892 (short form)", "each key bears over its whole length",
)  # fmt: skip
def key(
    torque_nmm: float,
    count: int,
    load_share: float,
    radius_mm: float,
    depth_mm: float,
    length_mm: float,
    width_mm: float,
) -> Answered:
    force = torque_nmm / (count * load_share * radius_mm)
    return force, force / (depth_mm * length_mm), force / (width_mm * length_mm)


@card(
    "dowel", [*above("force_n", "diameter_mm"), *whole("planes"), *above("depth_mm")], "shear_mpa bearing_mpa",
    "τ = 4F/(m·π·d²); p = F/(d·t), t = length bearing in the plastic that carries F", "pins, machine elements",
    "no bending of the pin",
)  # fmt: skip
def dowel(force_n: float, diameter_mm: float, planes: int, depth_mm: float) -> Answered:
    return 4 * force_n / (planes * pi * diameter_mm**2), force_n / (diameter_mm * depth_mm)


@card(
    "insert",
    [
        *above("outer_mm", "length_mm", "shear_mpa"), *share("knock_down", default=0.5),
        *above("width_mm", "layer_mm"),
    ],
    "pull_out_n turn_out_nmm wall_mm boss_outer_mm hole_depth_mm",
    "F = k·π·D·L·τ; T = F·D/2; wall = max(0.6·D, w + 3·(w − h·(1 − π/4))); hole depth 1.3·L",
    "shear cylinder; handbook 5", "set with heat; never pulled along a boss that stands on infill",
)  # fmt: skip
def insert(
    outer_mm: float, length_mm: float, shear_mpa: float, knock_down: float, width_mm: float, layer_mm: float
) -> Answered:
    force = knock_down * pi * outer_mm * length_mm * shear_mpa
    wall = max(0.6 * outer_mm, width_mm + 3 * (width_mm - layer_mm * (1 - pi / 4)))
    return force, force * outer_mm / 2, wall, outer_mm + 2 * wall, 1.3 * length_mm


@card(
    "press",
    [
        *above("diameter_mm", "interference_mm", "hub_outer_mm", "hub_modulus_mpa"), *poisson("hub_poisson"),
        *above("pin_modulus_mpa"), *poisson("pin_poisson"), *above("length_mm"), *FRICTION,
    ],
    "pressure_mpa hoop_mpa push_out_n turn_out_nmm",
    "k = D/d, c = (k² + 1)/(k² − 1); p = i/{d·[(c + ν_h)/E_h + (1 − ν_i)/E_i]}, i on diameter; σ_θ = p·c; "
    "F = µ·p·π·d·l",
    "Lamé thick wall, solid pin, plane stress", "elastic; plastics relax",
)  # fmt: skip
def press(
    diameter_mm: float,
    interference_mm: float,
    hub_outer_mm: float,
    hub_modulus_mpa: float,
    hub_poisson: float,
    pin_modulus_mpa: float,
    pin_poisson: float,
    length_mm: float,
    friction: float,
) -> Answered:
    refuse(hub_outer_mm <= diameter_mm, "The hub has no wall.", "Its outer diameter is above that of the pin.")
    k = hub_outer_mm / diameter_mm
    c = (k**2 + 1) / (k**2 - 1)
    give = (c + hub_poisson) / hub_modulus_mpa + (1 - pin_poisson) / pin_modulus_mpa
    pressure = interference_mm / (diameter_mm * give)
    force = friction * pressure * pi * diameter_mm * length_mm
    said = Said().outside(interference_mm > 0.05 * diameter_mm, "So much interference is not elastic.")
    return (pressure, pressure * c, force, force * diameter_mm / 2), said


def push(force: float, friction: float, steep_deg: float) -> float | None:
    """N that push a snap over an edge: W = P·(µ + tan α)/(1 − µ·tan α); None where it does not give by itself."""
    if steep_deg >= 90 - 1e-9 or friction * tan(radians(steep_deg)) >= 1:
        return None
    slope = tan(radians(steep_deg))
    return force * (friction + slope) / (1 - friction * slope)


def strained(x: float, thickness_end: float, width_end: float) -> float:
    """η/(β·τ²) at the share ``x`` of an arm's length from its tip."""
    return x / ((width_end + (1 - width_end) * x) * (thickness_end + (1 - thickness_end) * x) ** 2)


def tapered(thickness_end: float, width_end: float) -> tuple[float, float]:
    """c of ε = c·t·y/L² of an arm that tapers towards its tip, and where it is strained most, as a share of its length
    from the tip: c = max(η/(β·τ²))/(2·J), J = ∫η²/(β·τ³)dη by Simpson's rule.
    """
    rows = [i / STEPS for i in range(STEPS + 1)]
    weights = [1 if i in (0, STEPS) else 4 if i % 2 else 2 for i in range(STEPS + 1)]
    bent = lambda x: x * strained(x, thickness_end, width_end) / (thickness_end + (1 - thickness_end) * x)
    area = sum(w * bent(x) for w, x in zip(weights, rows, strict=True)) / (3 * STEPS)
    worst = max(rows, key=lambda x: strained(x, thickness_end, width_end))
    return strained(worst, thickness_end, width_end) / (2 * area), worst


def arm_said(length: float, thickness: float, undercut: float) -> Said:
    said = Said().outside(length < 5 * thickness, "The arm is shorter than five thicknesses: shear counts too.")
    return said.outside(undercut > 0.1 * length, "The arm is bent by more than a tenth of its length.")


@card(
    "snap",
    [
        *above("length_mm", "thickness_mm", "width_mm"), *share("thickness_end_share", "width_end_share", default=1.0),
        *above("undercut_mm", "modulus_mpa"), *FRICTION, *angle("angle_in_deg", "angle_out_deg"),
    ],
    "coefficient strain deflection_force_n mating_force_n holding_force_n self_locking worst_from_root_mm",
    "straight: ε = 1.5·t·y/L², P = b·t²·E·ε/(6L). General: y = P·L³/(E·I_0)·J, J = ∫η²/(β(η)·τ(η)³)dη, η from tip, τ "
    "and β linear; ε = max over the length of P·L·η·t_0/(2·E·I_0·β·τ²). W = P·(µ + tan α)/(1 − µ·tan α); "
    "µ·tan α ≥ 1 or α ≥ 90°: does not open by itself (null)",
    "cantilever snap-fit theory (Bernoulli)", "long arm, small deflection, stiff root",
)  # fmt: skip
def snap(
    length_mm: float,
    thickness_mm: float,
    width_mm: float,
    thickness_end_share: float,
    width_end_share: float,
    undercut_mm: float,
    modulus_mpa: float,
    friction: float,
    angle_in_deg: float,
    angle_out_deg: float,
) -> Answered:
    coefficient, worst = tapered(thickness_end_share, width_end_share)
    strain = coefficient * thickness_mm * undercut_mm / length_mm**2
    most = strained(worst, thickness_end_share, width_end_share)
    force = strain * width_mm * thickness_mm**2 * modulus_mpa / (6 * length_mm * most)
    mating, holding = push(force, friction, angle_in_deg), push(force, friction, angle_out_deg)
    said = arm_said(length_mm, thickness_mm, undercut_mm)
    said.outside(mating is None, "By such an angle it does not go in by itself.")
    return (coefficient, strain, force, mating, holding, holding is None, (1 - worst) * length_mm), said


@card(
    "snap_length",
    [*above("thickness_mm", "undercut_mm"), *share("strain_allowed"), *share("thickness_end_share", default=1.0)],
    "length_mm", "L = √(c·t·y/ε); forward and back must agree with card snap", "as snap",
    "long arm, small deflection, stiff root",
)  # fmt: skip
def snap_length(thickness_mm: float, undercut_mm: float, strain_allowed: float, thickness_end_share: float) -> Answered:
    length = sqrt(tapered(thickness_end_share, 1.0)[0] * thickness_mm * undercut_mm / strain_allowed)
    return (length,), arm_said(length, thickness_mm, undercut_mm)


@card(
    "annular_snap",
    [
        *above("diameter_mm", "undercut_mm", "hub_outer_mm", "modulus_mpa"), *poisson("poisson"), *FRICTION,
        *angle("angle_in_deg"), *yes_no("remote"),
    ],
    "strain deflection_force_n mating_force_n",
    "ε = y/d, y the interference on diameter; t = (d_o − d)/2, R = (d + d_o)/4, β = (3·(1 − ν²))^¼/√(R·t); ring force "
    "P = π·E_s·t·(y/2)/(β·R) at the tube's end, 4 times that far from it; W = P·(µ + tan α)/(1 − µ·tan α)",
    "thin cylindrical shell with an edge ring load (Timoshenko); hub elastic, shaft rigid; t/R < 0.3", "t/R < 0.3",
)  # fmt: skip
def annular_snap(
    diameter_mm: float,
    undercut_mm: float,
    hub_outer_mm: float,
    modulus_mpa: float,
    poisson: float,
    friction: float,
    angle_in_deg: float,
    remote: bool,
) -> Answered:
    refuse(hub_outer_mm <= diameter_mm, "The hub has no wall.", "Its outer diameter is above that of the shaft.")
    wall, radius = (hub_outer_mm - diameter_mm) / 2, (diameter_mm + hub_outer_mm) / 4
    beta = (3 * (1 - poisson**2)) ** 0.25 / sqrt(radius * wall)
    force = pi * modulus_mpa * wall * undercut_mm / 2 / (beta * radius) * (4 if remote else 1)
    mating = push(force, friction, angle_in_deg)
    said = Said().outside(wall >= 0.3 * radius, "The wall is too thick for a thin shell.")
    said.outside(mating is None, "By such an angle it does not go in by itself.")
    return (undercut_mm / diameter_mm, force, mating), said


@card(
    "secant", [*above("modulus_mpa", "strength_mpa"), *share("yield_strain"), *from_zero("strain", high=1.0)],
    "secant_modulus_mpa stress_mpa", "E_s(ε) = E/(1 + (E·ε_y/X_t − 1)·ε/ε_y): E at 0, X_t/ε_y at yield",
    "two-point hyperbola, proposal", "provisional: no coupon stands behind it", "up to yield",
)  # fmt: skip
def secant(modulus_mpa: float, strength_mpa: float, yield_strain: float, strain: float) -> Answered:
    modulus = modulus_mpa / (1 + (modulus_mpa * yield_strain / strength_mpa - 1) * strain / yield_strain)
    said = Said().outside(strain > yield_strain, "The strain is beyond yield.")
    said.outside(
        modulus_mpa * yield_strain < strength_mpa, "With this modulus it does not reach its strength at yield."
    )
    return (modulus, modulus * strain), said


@card(
    "spring",
    [*whole("leaves"), *above("width_mm", "thickness_mm", "length_mm", "modulus_mpa"), *from_zero("travel_mm")],
    "rate_n_mm force_n strain", "guided leaves in series: k = E·b·t³/(n·L³); ε = 3·t·x/(n·L²)", "guided beam 12EI/L³",
    "both ends of a leaf stay parallel", "small deflection",
)  # fmt: skip
def spring(
    leaves: int, width_mm: float, thickness_mm: float, length_mm: float, modulus_mpa: float, travel_mm: float
) -> Answered:
    rate = modulus_mpa * width_mm * thickness_mm**3 / (leaves * length_mm**3)
    said = arm_said(length_mm, thickness_mm, travel_mm / leaves)
    return (rate, rate * travel_mm, 3 * thickness_mm * travel_mm / (leaves * length_mm**2)), said


SHOULDER, STEEP = 0.87868, 0.33243
"""K_t = SHOULDER·(r/d)^−STEEP of a round bar that stands on a much larger body, bent (Peterson, a fit)."""


def rounded(notch: float) -> float:
    """r/d of the shoulder with that notch factor."""
    return (SHOULDER / notch) ** (1 / STEEP)


@card(
    "pin", above("force_n", "arm_mm", "diameter_mm", "root_radius_mm", "strength_mpa"),
    "moment_nmm stress_mpa notch_factor peak_mpa reserve",
    "σ = 32·F·a/(π·d³); K_t = 0.87868·(r/d)^−0.33243 (shoulder of a much larger body, D/d ≥ 6, r/d 0.02–0.3), "
    "not below 1",
    "stress concentration of a stepped round bar in bending (Peterson, curve fit of the textbooks)", "D/d ≥ 6",
    "r/d 0.02–0.3",
)  # fmt: skip
def pin(force_n: float, arm_mm: float, diameter_mm: float, root_radius_mm: float, strength_mpa: float) -> Answered:
    moment, ratio = force_n * arm_mm, root_radius_mm / diameter_mm
    stress, notch = 32 * moment / (pi * diameter_mm**3), max(SHOULDER * ratio**-STEEP, 1.0)
    said = Said().outside(not 0.02 <= ratio <= 0.3, "The root radius is outside 0.02 to 0.3 of the diameter.")
    return (moment, stress, notch, notch * stress, strength_mpa / (notch * stress)), said


@card(
    "post", above("length_mm", "second_moment_mm4", "area_mm2", "modulus_mpa", "end_factor", "strength_mpa"),
    "slenderness euler_n critical_n by",
    "F_E = π²·E·I/(K·L)²; λ = K·L/√(I/A); below λ_c = π·√(2E/X): Johnson F = A·X·(1 − X·λ²/4π²E)",
    "Euler, Johnson (machine elements)", "straight, loaded in its middle",
)  # fmt: skip
def post(
    length_mm: float,
    second_moment_mm4: float,
    area_mm2: float,
    modulus_mpa: float,
    end_factor: float,
    strength_mpa: float,
) -> Answered:
    slender = end_factor * length_mm / sqrt(second_moment_mm4 / area_mm2)
    euler = pi**2 * modulus_mpa * second_moment_mm4 / (end_factor * length_mm) ** 2
    if slender >= pi * sqrt(2 * modulus_mpa / strength_mpa):
        return slender, euler, euler, "euler"
    johnson = area_mm2 * strength_mpa * (1 - strength_mpa * slender**2 / (4 * pi**2 * modulus_mpa))
    return slender, euler, johnson, "johnson"


@card(
    "lap",
    [
        *above("force_n", "width_mm", "overlap_mm", "adherend_mm", "adherend_modulus_mpa"),
        *above("glue_mm", "glue_shear_modulus_mpa"),
    ],
    "mean_mpa peak_factor peak_mpa", "ω² = 2G/(E·t·g); τ_max/τ_mean = (ωl/2)·coth(ωl/2), equal adherends",
    "Volkersen shear lag; peel by bending (Goland–Reissner) comes on top for single laps", "no peel",
)  # fmt: skip
def lap(
    force_n: float,
    width_mm: float,
    overlap_mm: float,
    adherend_mm: float,
    adherend_modulus_mpa: float,
    glue_mm: float,
    glue_shear_modulus_mpa: float,
) -> Answered:
    half = sqrt(2 * glue_shear_modulus_mpa / (adherend_modulus_mpa * adherend_mm * glue_mm)) * overlap_mm / 2
    mean, factor = force_n / (width_mm * overlap_mm), half / tanh(half)
    return mean, factor, mean * factor


@card(
    "grip",
    [
        *above("pull_n"), *above("friction", default=0.3, high=2.0), *whole("faces"),
        *above("required_factor", "greatest_n"), *share("kept"),
    ],
    "least_n least_now_n window possible", "least = γ·P/(n·µ); at assembly least/kept; window = greatest/that",
    "friction grip", "friction does not fall in service",
)  # fmt: skip
def grip(
    pull_n: float, friction: float, faces: int, required_factor: float, greatest_n: float, kept: float
) -> Answered:
    least = required_factor * pull_n / (faces * friction)
    window = greatest_n / (least / kept)
    return least, least / kept, window, window >= 1
