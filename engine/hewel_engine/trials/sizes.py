"""Fits of the coupons that are measured: limits, bridges, clearances, walls, bores, shrinkage. Lengths mm."""

from math import sqrt

import numpy as np

from hewel_engine.reckoning.distributions import student_quantile
from hewel_engine.trials.coupons import PIER_TALL, PLUG
from hewel_engine.trials.plates import SURE, Pooled, Prior, apart, by_plate, line, pooled
from hewel_engine.trials.sheets import Fitted, Found, Known, Plot, Point, Row

STEP_DEG = 5 / sqrt(12)
"""Standard doubt of a limit read in steps of 5°."""
STEP_GAP = 0.05 / sqrt(12)
SIGNIFICANT = 2.0
"""t from which on a slope is kept."""
SOUND = 1.0
"""mm that a rough bridge may droop."""


def without(rows: list[Row], away: list[int]) -> list[int]:
    """Which rows count: those that do not lie apart, or that somebody keeps."""
    return [i for i, row in enumerate(rows) if i not in away or row["keep"]]


def found_of(name: str | None, words: str, unit: str, told: Pooled) -> Found:
    return Found(name, words, unit, told.mean, told.low, told.high, told.deviation, told.count, told.plates)


def few(rows: list[Row], least: int, what: str = "plates") -> list[str]:
    plates = len({row["plate"] for row in rows})
    if plates >= least:
        return []
    return [f"{plates} of {least} {what}: its band is wide. Print it again on another day."]


def overhang(rows: list[Row], known: Known) -> Fitted:
    """The last angle that passes before the first failure: the least of the four facings of a plate, the mean over
    plates.
    """
    found, says = [], few(rows, 2)
    for name in ("hidden", "visible"):
        given = [r for r in rows if r[name] is not None]
        if not given:
            continue
        least = {plate: min(values) for plate, values in _named(given, name).items()}
        told = pooled(list(least.values()), list(least), STEP_DEG, Prior(2.0, 2.0))
        found.append(found_of(f"limit_{name}", f"overhang limit, {name} faces", "° from vertical", told))
    for plate, own in by_plate([r["facing"] for r in rows], [r["plate"] for r in rows]).items():
        if len(set(own)) < 4:
            says.append(f"Plate {plate}: {len(set(own))} of 4 facings are read. The worst may be missing.")
    points = [Point(float(i + 1), r["hidden"], i, True) for i, r in enumerate(rows) if r["hidden"] is not None]
    return Fitted(found, says, plot=Plot("reading", "last angle that passes, °", points))


def _named(rows: list[Row], name: str) -> dict[str, list[float]]:
    return by_plate([r[name] for r in rows], [r["plate"] for r in rows])


def bridge(rows: list[Row], known: Known) -> Fitted:
    """δ = drawn clearance·(1 − s_z) − measured. Clean: every span up to it droops by no more than a layer, no strand
    hangs; rough: by no more than 1 mm. δ = c·L² through the spans that are sound.
    """
    droop = [PIER_TALL * (1 - known.shrink_z) - r["clearance"] for r in rows]
    clean = lambda i: droop[i] <= known.process.layer and rows[i]["strand"] == "no"
    rough = lambda i: droop[i] <= SOUND
    found, says = [], few(rows, 2)
    for name, passes in (("clean", clean), ("rough", rough)):
        reach = {}
        for plate in sorted({r["plate"] for r in rows}):
            own = [i for i, r in enumerate(rows) if r["plate"] == plate]
            ways = sorted({rows[i]["along"] for i in own})
            reach[plate] = min(_reach(rows, [i for i in own if rows[i]["along"] == way], passes) for way in ways)
        told = pooled(list(reach.values()), list(reach), 5 / sqrt(12), Prior(2.0, 2.0))
        found.append(found_of(f"{name}_bridge", f"{name} bridge up to", "mm", told))
    sound = [i for i in range(len(rows)) if rough(i)]
    spans, fell = np.array([rows[i]["span"] for i in sound]), np.array([droop[i] for i in sound])
    curve = float(fell @ spans**2 / (spans**4).sum()) if len(sound) else 0.0
    points = [Point(r["span"], d, i, i in sound) for i, (r, d) in enumerate(zip(rows, droop, strict=True))]
    top = max(r["span"] for r in rows)
    says.append(f"Leave {curve * top**2:.2f} mm below a bridge of {top:g} mm: it droops by {curve * 1e3:.3f} µm·L².")
    bend = [(x, curve * x * x) for x in np.linspace(0, top, 25).tolist()]
    return Fitted(found, says, plot=Plot("span, mm", "droop, mm", points, bend))


def _reach(rows: list[Row], own: list[int], passes) -> float:
    """The greatest span up to which all pass."""
    reach = 0.0
    for i in sorted(own, key=lambda i: rows[i]["span"]):
        if not passes(i):
            break
        reach = rows[i]["span"]
    return reach


FEELS = ("press", "location", "sliding", "free")


def clearance(rows: list[Row], known: Known) -> Fitted:
    """Per side as printed: what is drawn, what the plug is smaller than 10 mm by, less what the hole loses (a round
    one its loss, a square one the excess of both its walls). Of each fit the least that feels so.
    """
    takes = {"round": known.bore_loss, "square": 2 * known.line_excess}
    true = [r["gap"] + (PLUG - r["plug"] - takes[r["hole"]]) / 2 for r in rows]
    found, says = [], few(rows, 3, "blocks")
    for feel in FEELS:
        own = [(r["plate"], t) for r, t in zip(rows, true, strict=True) if r["feels"] == feel]
        if own:
            least = {p: min(v) for p, v in by_plate([t for _, t in own], [p for p, _ in own]).items()}
            told = pooled(list(least.values()), list(least), STEP_GAP, Prior(0.02, 0.02))
            found.append(found_of(f"fit_{feel}", f"{feel} fit, per side as printed", "mm", told))
    order = [f.value for f in found]
    if order != sorted(order):
        says.append("A closer fit came out wider than a looser one: look at the readings again.")
    points = [Point(r["gap"], t, i, True) for i, (r, t) in enumerate(zip(rows, true, strict=True))]
    return Fitted(found, says, plot=Plot("drawn per side, mm", "as printed per side, mm", points))


def in_place(rows: list[Row], known: Known) -> Fitted:
    """The least gap per side that turns after one crack, less the excess of the two walls that face each other."""
    values = [r["gap"] - 2 * known.line_excess for r in rows]
    told = pooled(values, [r["plate"] for r in rows], STEP_GAP, Prior(0.03, 0.03))
    points = [Point(float(i + 1), v, i, True) for i, v in enumerate(values)]
    found = [found_of("fit_in_place", "printed in place, per side as printed", "mm", told)]
    return Fitted(found, few(rows, 3), plot=Plot("reading", "least free gap as printed, mm", points))


def walls(rows: list[Row], known: Known) -> Fitted:
    """measured = (1 − s)·drawn + 2·excess, the slope held at what the material shrinks by."""
    excess = [(r["measured"] - (1 - known.shrink_xy) * r["drawn"]) / 2 for r in rows]
    away = apart(excess, 0.02)
    kept = without(rows, away)
    told = pooled([excess[i] for i in kept], [rows[i]["plate"] for i in kept], 0.02 / 2, Prior(0.02, 0.01))
    points = [Point(r["drawn"], r["measured"], i, i in kept) for i, r in enumerate(rows)]
    ends = [min(r["drawn"] for r in rows), max(r["drawn"] for r in rows)]
    through = [(x, (1 - known.shrink_xy) * x + 2 * told.mean) for x in ends]
    found = [found_of("line_excess", "an outer face stands out by", "mm", told)]
    plot = Plot("drawn, mm", "measured, mm", points, through)
    return Fitted(found, few(rows, 2) + said_apart(rows, away), away, plot=plot)


def said_apart(rows: list[Row], away: list[int]) -> list[str]:
    left = [i + 1 for i in away if not rows[i]["keep"]]
    if not left:
        return []
    which = ", ".join(map(str, left))
    return [f"Reading{'s' * (len(left) > 1)} {which} lie{'s' * (len(left) == 1)} apart from the rest and "
            f"{'do' if len(left) > 1 else 'does'} not count. Read again, or keep it."]  # fmt: skip


def bores(rows: list[Row], known: Known) -> Fitted:
    """loss = (1 − s)·D − go gauge; a + b/D where its slope on 1/D is significant (t > 2), else its mean."""
    loss = [(1 - known.shrink_xy) * r["diameter"] - r["gauge"] for r in rows]
    return _losses(rows, loss, "bore_upright", "upright bore, loss on diameter", "loss on diameter, mm")


def bores_lying(rows: list[Row], known: Known) -> Fitted:
    """droop = (1 − s_z)·D − height of the bore, likewise."""
    droop = [(1 - known.shrink_z) * r["diameter"] - r["height"] for r in rows]
    return _losses(rows, droop, "bore_lying", "lying bore, droop of the roof", "droop of the roof, mm")


def _losses(rows: list[Row], loss: list[float], name: str, words: str, axis: str) -> Fitted:
    plates, one = [r["plate"] for r in rows], 0.05 / sqrt(12)
    away = apart(_about(rows, loss), 0.03)
    kept = without(rows, away)
    x = [1 / rows[i]["diameter"] for i in kept]
    fit = line(x, [loss[i] for i in kept], one)
    sloped = fit is not None and abs(fit.slope) > SIGNIFICANT * fit.slope_error
    told = pooled([loss[i] for i in kept], [plates[i] for i in kept], one, Prior(0.03, 0.02))
    says = few(rows, 3) + said_apart(rows, away)
    if fit is not None and sloped:
        reach = student_quantile((1 + SURE) / 2, fit.freedom)
        at = lambda value, error, own, what, unit: Found(
            own, what, unit, value, value - reach * error, value + reach * error, fit.scatter, told.count, told.plates
        )
        found = [at(fit.offset, fit.offset_error, name, words, "mm"),
                 at(fit.slope, fit.slope_error, f"{name}_b", f"{words}, b of a + b/D", "mm²")]  # fmt: skip
        says.append("It falls with the diameter: a + b/D.")
    else:
        none = Found(f"{name}_b", f"{words}, b of a + b/D", "mm²", 0.0, 0.0, 0.0, None, told.count, told.plates)
        found = [found_of(name, words, "mm", told), none]
    law = lambda d: found[0].value + found[1].value / d
    ends = [min(r["diameter"] for r in rows), max(r["diameter"] for r in rows)]
    drawn = [(d, law(d)) for d in np.linspace(*ends, 25).tolist()]
    points = [Point(r["diameter"], v, i, i in kept) for i, (r, v) in enumerate(zip(rows, loss, strict=True))]
    return Fitted(found, says, away, plot=Plot("drawn diameter, mm", axis, points, drawn))


def _about(rows: list[Row], values: list[float]) -> list[float]:
    """Values about the line that half of them lie on: slopes of pairs, their median (Theil and Sen)."""
    x = np.array([1 / r["diameter"] for r in rows])
    y = np.array(values)
    i, j = np.triu_indices(len(x), 1)
    far = np.abs(x[i] - x[j]) > 1e-9
    slope = float(np.median((y[i] - y[j])[far] / (x[i] - x[j])[far])) if far.any() else 0.0
    return (y - slope * x).tolist()


AXES, FACES = ("x", "y", "z"), ("outside", "inside", "ledge")


def shrink(rows: list[Row], known: Known) -> Fitted:
    """measured = (1 − s)·drawn + o, of each axis one slope, of each kind of face on it an offset of its own; an outer
    face stands out by a quarter of what outside and inside differ by.
    """
    off = [r["measured"] - r["drawn"] for r in rows]
    found, says, away, excess = [], few(rows, 2), [], []
    for axis in AXES:
        own = [i for i, r in enumerate(rows) if r["axis"] == axis]
        lengths = {rows[i]["drawn"] for i in own}
        if len(own) < 3 or len(lengths) < 2:
            if own:
                says.append(f"Along {axis} one length says nothing of shrinkage: it mixes with the bulge.")
            continue
        fitted = _axis(rows, off, own)
        if fitted is None:
            continue
        kept, slope, error, scatter, offsets, freedom = fitted
        away += [i for i in own if i not in kept]
        reach = student_quantile((1 + SURE) / 2, freedom) * error
        plates = len({rows[i]["plate"] for i in kept})
        found.append(Found(f"shrinkage_{axis}", f"shrinkage along {axis}", "%", -100 * slope, -100 * (slope + reach),
                           100 * (reach - slope), scatter, len(kept), plates))  # fmt: skip
        if {"outside", "inside"} <= set(offsets):
            excess.append((offsets["outside"] - offsets["inside"]) / 4)
    if excess:
        value, half = float(np.mean(excess)), 0.02
        found.append(Found("line_excess", "an outer face stands out by", "mm", value, value - half, value + half, None,
                           len(rows), len({r["plate"] for r in rows})))  # fmt: skip
    counts = without(rows, away)
    points = [Point(r["drawn"], v, i, i in counts) for i, (r, v) in enumerate(zip(rows, off, strict=True))]
    return Fitted(found, says + said_apart(rows, away), away, plot=Plot("drawn, mm", "measured − drawn, mm", points))


def _axis(rows: list[Row], off: list[float], own: list[int]) -> tuple | None:
    """(rows that count, slope, its error, scatter, offset by kind of face, freedom); None where too few are left."""
    kinds = sorted({rows[i]["face"] for i in own})
    kept = list(own)
    for _ in range(2):  # once with all, once without what lies apart
        design = np.array([[rows[i]["drawn"], *(rows[i]["face"] == k for k in kinds)] for i in kept], float)
        y, freedom = np.array([off[i] for i in kept]), len(kept) - len(kinds) - 1
        if freedom < 1 or np.linalg.matrix_rank(design) < len(kinds) + 1:
            return None
        solved = np.linalg.lstsq(design, y, rcond=None)[0]
        left = y - design @ solved
        again = [i for i, out in zip(kept, _far(left.tolist()), strict=True) if not out or rows[i]["keep"]]
        if again == kept:
            break
        kept = again
    scatter = max(sqrt(float(left @ left) / freedom), 0.01)
    error = scatter * sqrt(float(np.linalg.inv(design.T @ design)[0, 0]))
    return kept, float(solved[0]), error, scatter, dict(zip(kinds, solved[1:].tolist(), strict=True)), freedom


def _far(left: list[float]) -> list[bool]:
    away = set(apart(left, 0.03))
    return [i in away for i in range(len(left))]
