"""Fits of the coupons that are broken: strengths, the weld against the layer time, strain of a snap, an insert's pull.
Strengths are fitted on their logarithms. Forces N, stresses MPa, lengths mm, times s.
"""

from dataclasses import replace
from math import exp, hypot, log, pi, sqrt

import numpy as np

from hewel_engine.errors import InputError
from hewel_engine.printing.weld import Layers, Weld, bonds, fitted
from hewel_engine.reckoning.samples import mean_and_deviation
from hewel_engine.trials.coupons import FLAT, FLAT_THICK, SNAP_LONG, UPRIGHT, UPRIGHT_THICK, UPRIGHT_WIDE
from hewel_engine.trials.curve import Bar, effective_length
from hewel_engine.trials.plates import Pooled, Prior, apart, pooled
from hewel_engine.trials.sheets import Fitted, Found, Known, Plot, Point, Row
from hewel_engine.trials.sizes import few, said_apart, without

ALONG, ACROSS = Prior(0.05, 0.05), Prior(0.10, 0.05)
"""Scatter of the logarithm of single bars and of plates, before any is broken (coupons)."""
SECTION = 0.008
"""Standard doubt of a strength by its section and its force: 0.6 % and 0.5 % (coupons)."""
WAIST = "waist"
BROKE = (WAIST, "shoulder", "grip", "not broken")
FLAT_BARS, UPRIGHT_BARS = ("tensile_x", "tensile_a", "tensile_45"), ("tensile_z", "batch_z", "weld_ladder")
"""Coupons that are pulled."""
FEWEST_RUNGS, SPAN = 4, 3.0
BAND = 1.96
"""Standard deviations to either side of a 95 % band."""


def waist_of(key: str) -> tuple[float, float] | None:
    """Width and thickness of a coupon's waist as it is drawn; None where none is pulled."""
    if key in UPRIGHT_BARS:
        return UPRIGHT_WIDE, UPRIGHT_THICK
    return (FLAT["waist"], FLAT_THICK) if key in FLAT_BARS else None


def bar_of(key: str, width: float | None, thickness: float | None) -> Bar:
    """The bar of a coupon that is pulled; as it is drawn where its waist was not measured."""
    wide, thick = waist_of(key) or (FLAT["waist"], FLAT_THICK)
    of = UPRIGHT if key in UPRIGHT_BARS else FLAT
    length = effective_length(of["parallel"], wide, of["grip"], of["radius"], thick)
    return Bar((width or wide) * (thickness or thick), length)


def stress(row: Row) -> float:
    return row["force"] / (row["width"] * row["thickness"])


def _strength(rows: list[Row], name: str, words: str, prior: Prior, least: int) -> Fitted:
    """Bars that broke in the waist; others are lower bounds, kept and not averaged."""
    bounds = [i for i, r in enumerate(rows) if r["broke"] != WAIST]
    logs = [log(stress(r)) for r in rows]
    valid = [i for i in range(len(rows)) if i not in bounds]
    away = [valid[k] for k in apart([logs[i] for i in valid], prior.single)]
    kept = [i for i in without(rows, away) if i in valid]
    says = _said_bounds(bounds, len(rows)) + said_apart(rows, away)
    points = [Point(float(i + 1), stress(r), i, i in kept) for i, r in enumerate(rows)]
    if not kept:
        return Fitted([], ["No bar broke in its waist: its strength is not known.", *says], away, bounds,
                      Plot("bar", "stress at break, MPa", points))  # fmt: skip
    told = pooled([logs[i] for i in kept], [rows[i]["plate"] for i in kept], SECTION, prior)
    if len(kept) < least:
        says.append(f"{len(kept)} of {least} bars broke as they should: its band is wide.")
    says += few([rows[i] for i in kept], 2)
    value = exp(told.mean)
    level = [(1.0, value), (float(max(len(rows), 2)), value)]
    return Fitted([_of_logs(name, words, told)], says, away, bounds, Plot("bar", "stress at break, MPa", points, level))


def _of_logs(name: str | None, words: str, told: Pooled, unit: str = "MPa") -> Found:
    value = exp(told.mean)
    scatter = value * told.deviation
    return Found(name, words, unit, value, exp(told.low), exp(told.high), scatter, told.count, told.plates)


def _said_bounds(bounds: list[int], of: int) -> list[str]:
    if not bounds:
        return []
    return [f"{len(bounds)} of {of} broke in the grip or at the shoulder, or not at all: lower bounds, not averaged."]


def tensile_x(rows: list[Row], known: Known) -> Fitted:
    return _with_modulus(rows, _strength(rows, "x_t", "strength along the layers", ALONG, 5), "e_xy", "in the layer")


def tensile_a(rows: list[Row], known: Known) -> Fitted:
    return _strength(rows, "x_a", "strength across the lines of a layer", ACROSS, 5)


def tensile_z(rows: list[Row], known: Known) -> Fitted:
    told = _strength(rows, "z_t", "strength across the layers", ACROSS, 5)
    return _layer_time(rows, _with_modulus(rows, told, "e_z", "across the layers"))


def _with_modulus(rows: list[Row], told: Fitted, name: str, way: str) -> Fitted:
    """The stiffness too, where bars have one: a stroke makes it a lower bound, ±10 % (coupons)."""
    own = [(i, r) for i, r in enumerate(rows) if r.get("modulus")]
    if not own:
        return told
    logs = [log(r["modulus"]) for _, r in own]
    mean = pooled(logs, [r["plate"] for _, r in own], 0.06, Prior(0.05, 0.03))
    says = [*told.says, "Stiffness by the stroke is a lower bound: grips creep. Within ±10 %."]
    return Fitted([*told.found, _of_logs(name, f"stiffness {way}", mean)], says, told.apart, told.bounds, told.plot)


def _layer_time(rows: list[Row], told: Fitted) -> Fitted:
    """A weld belongs to its layer time: it goes into the record with the strength."""
    times = [r["layer_s"] for r in rows if r.get("layer_s")]
    if not times:
        says = [*told.says, "The layer time of these bars is not said: the batch counts against the one on record."]
        return Fitted(told.found, says, told.apart, told.bounds, told.plot)
    middle = sorted(times)[len(times) // 2]
    spread = max(times) / min(times)
    says = told.says + (["Layer times differ: break them as a batch ladder."] if spread > 1.2 else [])
    plates = len({r["plate"] for r in rows})
    found = Found("coupon_layer_s", "layer time of the bars of Z_t", "s", middle, min(times), max(times), None,
                  len(times), plates)  # fmt: skip
    return Fitted([*told.found, found], says, told.apart, told.bounds, told.plot)


def tensile_45(rows: list[Row], known: Known) -> Fitted:
    """(σ/2/Z_t)² + (σ/2/Z_s)² = 1 → Z_s = 1/√((2/σ)² − 1/Z_t²)."""
    told = _strength(rows, "z_s", "bar at 45°", ACROSS, 5)
    if not told.found:
        return told
    if known.z_t is None:
        says = ["The strength across the layers of this machine and material is not known: break upright bars first."]
        return Fitted([], says + told.says, told.apart, told.bounds, told.plot)
    at = told.found[0]
    shear = lambda sigma: 1 / sqrt(r) if (r := (2 / sigma) ** 2 - 1 / known.z_t**2) > 0 else None
    ends = [shear(at.low), shear(at.value), shear(at.high)]
    if ends[1] is None:
        says = [f"{at.value:.1f} MPa is no less than twice Z_t ({known.z_t:.1f} MPa): these bars say nothing of Z_s."]
        return Fitted([], says + told.says, told.apart, told.bounds, told.plot)
    low, value, high = ends
    width = (value - low) / value
    high = value * (1 + width) if high is None else high
    scatter = value * (at.deviation or 0) / at.value
    found = Found("z_s", "shear strength between layers", "MPa", value, low, high, scatter, at.count, at.plates)
    says = [*told.says, f"By Z_t = {known.z_t:.1f} MPa: what that is off by goes in."]
    return Fitted([found], says, told.apart, told.bounds, told.plot)


def ladder(rows: list[Row], known: Known) -> Fitted:
    """ln Z = ln Z_ref + s·ln(D/D_coupon) with the prior of s (handbook 9); the bars' own layer times, the shortest for
    the coupon's.
    """
    broken = [i for i, r in enumerate(rows) if r["broke"] == WAIST]
    bounds = [i for i in range(len(rows)) if i not in broken]
    points = lambda kept: [Point(r["layer_s"], stress(r), i, i in kept) for i, r in enumerate(rows)]
    axes = ("layer time, s", "stress at break, MPa")
    if len(broken) < 2 or len({rows[i]["layer_s"] for i in broken}) < 2:
        return Fitted([], ["Bars of two layer times at least are wanted."], [], bounds, Plot(*axes, points(broken)))
    rungs = sorted({rows[i]["layer_s"] for i in broken})
    weld = _with(known.weld, rungs[0])
    away = _off_rung(rows, broken)
    kept = [i for i in without(rows, away) if i in broken]
    times, values = (np.array([v(rows[i]) for i in kept]) for v in (lambda r: r["layer_s"], stress))
    bars = _bars(len(kept), known.process.layer)
    plates = len({rows[i]["plate"] for i in kept})
    # Bars of one plate share what it is off by: together they prove less than as many plates would.
    scatter = sqrt(ACROSS.single**2 + ACROSS.plates**2 * len(kept) / plates)
    try:
        told = fitted(times, values, bars, weld, scatter)
    except InputError as no:
        return Fitted([], [f"{no.message} {no.hint}"], away, bounds, Plot(*axes, points(kept)))
    healed = np.log(_bonds(times, bars, weld))
    of_plate = [rows[i]["plate"] for i in kept]
    per_plate = pooled((np.log(values) - told.exponent * healed).tolist(), of_plate, SECTION, ACROSS)
    half = BAND * told.deviation
    least = min(max(told.exponent - half, 0.1), told.exponent)
    reach = hypot(per_plate.high - per_plate.mean, half * float(healed.mean()))  # it leans on the exponent
    per_plate = replace(per_plate, low=per_plate.mean - reach, high=per_plate.mean + reach)
    n = len(kept)
    found = [
        _of_logs("z_t", "strength across the layers at the shortest layer time", per_plate),
        Found("coupon_layer_s", "layer time of the bars of Z_t", "s", rungs[0], rungs[0], rungs[0], None, n, plates),
        Found("weld_exponent", "weld exponent of batch bars", "", told.exponent, least,
              told.exponent + half, None, n, plates),
    ]  # fmt: skip
    says = _said_bounds(bounds, len(rows)) + said_apart(rows, away)
    if told.proves_little:
        says.append(f"Layer times span a factor of {told.span:.1f}, less than {SPAN:g}: little is proved of the weld.")
    if len(rungs) < FEWEST_RUNGS:
        says.append(f"{len(rungs)} of {FEWEST_RUNGS} layer times: the curve between them is guessed.")
    at = np.geomspace(rungs[0], rungs[-1], 25)
    drop = _bonds(at, _bars(25, known.process.layer), weld) ** told.exponent
    curve = [(float(t), float(v)) for t, v in zip(at, exp(per_plate.mean) * drop, strict=True)]
    return Fitted(found, says, away, bounds, Plot(*axes, points(kept), curve))


def _with(weld: Weld, coupon_s: float) -> Weld:
    around = 2 * (UPRIGHT_WIDE + UPRIGHT_THICK)
    return replace(
        weld, coupon_s=coupon_s, coupon_area=UPRIGHT_WIDE * UPRIGHT_THICK, coupon_perimeter=around, exponent=1.0
    )


def _bars(count: int, layer: float) -> Layers:
    one = np.ones(count)
    return Layers(UPRIGHT_WIDE * UPRIGHT_THICK * one, 2 * (UPRIGHT_WIDE + UPRIGHT_THICK) * one, one, layer)


def _bonds(times: np.ndarray, bars: Layers, weld: Weld) -> np.ndarray:
    return np.maximum(bonds(times, bars, weld), 1e-6)


def _off_rung(rows: list[Row], broken: list[int]) -> list[int]:
    """Bars that lie apart from those of their own layer time."""
    away: list[int] = []
    for rung in {rows[i]["layer_s"] for i in broken}:
        own = [i for i in broken if rows[i]["layer_s"] == rung]
        away += [own[k] for k in apart([log(stress(rows[i])) for i in own], ACROSS.single)]
    return sorted(away)


def snap(rows: list[Row], known: Known) -> Fitted:
    """ε = 1.5·t·y/L² at break; an arm may be bent by 0.6 of it once (coupons)."""
    strain = [1.5 * r["thickness"] * r["travel"] / SNAP_LONG**2 for r in rows]
    away = apart([log(e) for e in strain], 0.1)
    kept = without(rows, away)
    told = pooled([log(strain[i]) for i in kept], [rows[i]["plate"] for i in kept], 0.05, Prior(0.1, 0.05))
    says = said_apart(rows, away) + few([rows[i] for i in kept], 2)
    if len(kept) < 5:
        says.append(f"{len(kept)} of 5 arms: its band is wide.")
    if max(r["travel"] for r in rows) > 0.3 * SNAP_LONG:
        says.append("Some were bent by more than three tenths of their length: the sum is for less.")
    points = [Point(r["thickness"], 100 * e, i, i in kept) for i, (r, e) in enumerate(zip(rows, strain, strict=True))]
    found = [_of_logs("snap_strain", "strain of an arm at break", told, "")]
    return Fitted(found, says, away, plot=Plot("thickness, mm", "strain at break, %", points))


def insert(rows: list[Row], known: Known) -> Fitted:
    """k = τ/Z_s with τ = F/(π·D·L) at the knurl (coupons; handbook 5)."""
    shear = float(known.process.stock.z_s)
    tau = [r["force"] / (pi * r["outer"] * r["length"]) for r in rows]
    told = pooled([log(t / shear) for t in tau], [r["plate"] for r in rows], 0.02, ACROSS)
    found = [_of_logs("insert_factor", "pull-out, share of the shear strength between layers", told, "")]
    mean, _ = mean_and_deviation(tau)
    says = [f"{mean:.1f} MPa of shear at its knurl, held against {shear:.1f} MPa between layers."]
    if other := sum(r.get("mode") not in (None, "pull") for r in rows):
        says.append(f"{other} of {len(rows)} did not pull out cleanly: what stands round them gave way first.")
    if len(rows) < 5:
        says.append(f"{len(rows)} of 5 pulls: its band is wide.")
    points = [Point(float(i + 1), t, i, True) for i, t in enumerate(tau)]
    return Fitted(found, says, plot=Plot("pull", "shear at its knurl, MPa", points))
