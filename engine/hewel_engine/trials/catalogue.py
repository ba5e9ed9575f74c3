"""The sheet of every coupon (coupons)."""

from dataclasses import replace

from hewel_engine.errors import InputError
from hewel_engine.records import BY_NAME
from hewel_engine.trials import breaks, sizes
from hewel_engine.trials.coupons import GAUGES, SPANS
from hewel_engine.trials.sheets import Column, Fitted, Found, Known, Row, Sheet, checked

_SIZE = lambda name, words, low=0.05, high=500.0: Column(name, words, "mm", low, high)
_BAR = (
    _SIZE("width", "width in the waist", 0.5, 100), _SIZE("thickness", "thickness there", 0.5, 100),
    Column("force", "force at break", "N", 0.1, 1e6), Column("broke", "broke in", choices=breaks.BROKE),
)  # fmt: skip
_MODULUS = Column("modulus", "stiffness by the stroke", "MPa", 1, 1e6, wanted=False)
_LAYER = Column("layer_s", "layer time", "s", 0.5, 3600)
_LAYER_MAYBE = Column("layer_s", "layer time", "s", 0.5, 3600, wanted=False)
_WAIST = "Width and thickness at three places of the waist, the least of each; the force at break from the curve."

SHEETS: dict[str, Sheet] = {
    s.key: s
    for s in (
        Sheet("overhang", "overhang fan", "The underside of every blade, all four facings: loose or curled strands.", (
            Column("facing", "facing", choices=("+x", "−x", "+y", "−y")),
            Column("hidden", "last angle that passes, hidden", "°", 5, 85),
            Column("visible", "last angle that passes, visible", "°", 5, 85, wanted=False),
        ), ("limit_hidden", "limit_visible"), 2, sizes.overhang),
        Sheet("bridge", "bridge ladder", "Base top to deck underside in the middle of each span, through the hole.", (
            Column("along", "along", choices=("x", "y")), Column("span", "span", "mm", min(SPANS), max(SPANS)),
            Column("clearance", "clearance", "mm", 0, 20), Column("strand", "a strand hangs", choices=("no", "yes")),
        ), ("clean_bridge", "rough_bridge"), 2, sizes.bridge),
        Sheet("clearance", "clearance comb", "The plug in every hole with a scale: press 20–80 N, location 5–20, "
              "sliding below 2, free rattles; measure the plug.", (
            Column("hole", "hole", choices=("round", "square")), Column("gap", "drawn per side", "mm", 0, 1),
            Column("feels", "feels", choices=(*sizes.FEELS, "does not go in")), _SIZE("plug", "plug measured", 8, 12),
        ), ("fit_press", "fit_location", "fit_sliding", "fit_free"), 3, sizes.clearance),
        Sheet("clearance_in_place", "in-place clearance", "The least gap whose disc turns after one crack, by at most "
              "0.1 N·m.", (Column("gap", "least free gap", "mm", 0, 2),), ("fit_in_place",), 3, sizes.in_place),
        Sheet("walls", "wall comb", "Each wall at mid height with a micrometer, three places.", (
            Column("drawn", "drawn", "mm", 0.2, 6), Column("measured", "measured", "mm", 0.1, 8),
        ), ("line_excess",), 2, sizes.walls),
        Sheet("bores", "bore gauge, upright", "The largest go pin through the middle 6 mm.", (
            Column("diameter", "drawn ⌀", "mm", 1, 60), Column("gauge", "go pin", "mm", 0.5, 60),
        ), ("bore_upright", "bore_upright_b"), 3, sizes.bores),
        Sheet("bores_lying", "bore gauge, lying", "Inside jaws: the height of each bore, straight up.", (
            Column("diameter", "drawn ⌀", "mm", 1, 60), Column("height", "height", "mm", 0.5, 60),
        ), ("bore_lying", "bore_lying_b"), 3, sizes.bores_lying),
        Sheet("shrink", "shrinkage cross", "Outside and inside faces of both arms; the tower from ledge to ledge.", (
            Column("axis", "axis", choices=sizes.AXES), Column("face", "face", choices=sizes.FACES),
            Column("drawn", "drawn", "mm", 5, max(GAUGES) + 20), Column("measured", "measured", "mm", 4, 220),
        ), ("shrinkage_x", "shrinkage_y", "shrinkage_z", "line_excess"), 2, sizes.shrink),
        Sheet("tensile_x", "tensile bar, along", _WAIST, (*_BAR, _MODULUS), ("x_t", "e_xy"), 2, breaks.tensile_x),
        Sheet("tensile_a", "tensile bar, across its lines", _WAIST, _BAR, ("x_a",), 2, breaks.tensile_a),
        Sheet("tensile_z", "tensile bar, upright", _WAIST, (*_BAR, _LAYER_MAYBE, _MODULUS),
              ("z_t", "coupon_layer_s", "e_z"), 2, breaks.tensile_z),
        Sheet("tensile_45", "tensile bar at 45°", _WAIST, _BAR, ("z_s",), 2, breaks.tensile_45),
        Sheet("batch_z", "batch bars", f"First, last and corner bars of each plate. {_WAIST}", (*_BAR, _LAYER),
              ("z_t", "coupon_layer_s", "weld_exponent"), 2, breaks.ladder),
        Sheet("weld_ladder", "weld ladder", f"One bar for each wait. {_WAIST}", (*_BAR, _LAYER),
              ("z_t", "coupon_layer_s", "weld_exponent"), 2, breaks.ladder),
        Sheet("snap", "snap strips", "How far the arm's end travels until it breaks; clamp it at its root.", (
            Column("thickness", "thickness", "mm", 0.3, 6), Column("travel", "travel at break", "mm", 0.1, 40),
        ), ("snap_strain",), 2, breaks.snap),
        Sheet("insert", "insert block", "The peak pull through a ring of at least 2.5 diameters.", (
            _SIZE("outer", "insert's outer ⌀", 1, 40), _SIZE("length", "insert's length", 1, 80),
            Column("force", "peak pull", "N", 1, 1e5), Column("mode", "gave way by", choices=("pull", "plug", "block")),
        ), ("insert_factor",), 2, breaks.insert),
    )
}  # fmt: skip
"""By the key of the coupon."""


def sheet_of(key: str) -> Sheet:
    """Raises InputError ``bad_options``."""
    if key not in SHEETS:
        raise InputError("bad_options", f"There is no coupon {key}.", "There are: " + ", ".join(SHEETS) + ".")
    return SHEETS[key]


def fitted(key: str, rows: list[Row], known: Known) -> Fitted:
    """What readings of a coupon give; nothing without any. What no record could hold is told, and is of no field.
    Raises InputError ``bad_options`` with the reading.
    """
    sheet = sheet_of(key)
    given = checked(sheet, rows)
    if not given:
        return Fitted()
    told = sheet.fit(given, known)
    beyond = [f for f in told.found if f.name and not _possible(f)]
    found = [replace(f, name=None) if f in beyond else f for f in told.found]
    words = [f"{f.words}: {f.value:.3g} {f.unit} cannot be. Look at the readings, and their units." for f in beyond]
    return replace(told, found=found, says=[*words, *told.says])


def _possible(found: Found) -> bool:
    field = BY_NAME["capability"][found.name]
    return field.low <= found.value <= field.high
