"""What the farm's records hold: every field with its unit, its bounds, its starting value and where that comes from.

A record says only what somebody has read or decided; whatever it leaves out falls back to the starting value, which
is marked as such wherever it is shown. Lengths mm, angles degrees from the vertical, stresses MPa, times s.
"""

from dataclasses import asdict, dataclass
from typing import Any

from hewel_engine.errors import InputError

ORIGINS = {
    "handbook": "starting value of the handbook",
    "maker": "maker's sheet",
    "own": "the workshop's own setting",
    "coupon": "own coupon",
    "trial": "own trials",
}


@dataclass(frozen=True)
class Field:
    """One number, choice or mark of a record. ``low`` and ``high`` bound what can be entered, both included."""

    name: str
    words: str
    unit: str = ""
    start: float | str | bool | None = None
    low: float = 0.0
    high: float = 1e6
    choices: tuple[str, ...] = ()
    span: tuple[float, float] | None = None
    """The range the handbook gives for the starting value, where it gives one."""

    @property
    def kind(self) -> str:
        if self.choices:
            return "choice"
        return "mark" if isinstance(self.start, bool) else "number"

    def as_dict(self) -> dict:
        return asdict(self) | {"kind": self.kind, "choices": list(self.choices)}

    def checked(self, value: Any):
        """``value`` in its own type. Raises InputError ``bad_options`` with what is allowed."""
        if self.kind == "choice":
            if value not in self.choices:
                raise self._wrong(value, f"Use one of: {', '.join(self.choices)}.")
            return value
        if self.kind == "mark":
            if value not in (True, False, 0, 1):
                raise self._wrong(value, "Use yes or no.")
            return bool(value)
        if isinstance(value, bool) or not isinstance(value, int | float) or not self.low <= value <= self.high:
            unit = f" {self.unit}" if self.unit else ""
            raise self._wrong(value, f"Give {self.words} a value from {self.low:g} to {self.high:g}{unit}.")
        return value

    def _wrong(self, value, hint: str) -> InputError:
        shown = f"{value:g}" if isinstance(value, int | float) else repr(value)
        return InputError("bad_options", f"{self.words[:1].upper() + self.words[1:]} cannot be {shown}.", hint)


@dataclass(frozen=True)
class Reading:
    """A value with its range and its origin."""

    value: float | str | bool | None
    origin: str = "handbook"
    low: float | None = None
    high: float | None = None
    note: str = ""
    count: int | None = None
    """Bars, or whatever was measured, that a coupon's value is the mean of."""

    def as_dict(self) -> dict:
        return asdict(self)


def readings(fields: tuple[Field, ...], values: dict[str, dict], starts: dict | None = None) -> dict[str, Reading]:
    """Every field of a record: what it says, else its starting value (``starts`` before the field's own)."""
    out = {}
    for field in fields:
        if field.name in values:
            out[field.name] = Reading(**values[field.name])
        else:
            span = field.span or (None, None)
            out[field.name] = Reading((starts or {}).get(field.name, field.start), "handbook", *span)
    return out


MACHINE = (
    Field("bed_x", "bed, first side", "mm", 220.0, 20, 5000),
    Field("bed_y", "bed, second side", "mm", 220.0, 20, 5000),
    Field("bed_z", "printing height", "mm", 250.0, 20, 5000),
    Field("head_radius", "head envelope, radius", "mm", 45.0, 1, 500),
    Field("gantry", "gantry height over finished parts", "mm", 30.0, 0, 1000),
    Field("nozzle", "nozzle diameter", "mm", 0.4, 0.1, 2),
    Field("filament", "filament diameter", "mm", 1.75, 0.5, 5),
    Field("flow_limit", "flow limit", "mm³/s", 12.0, 0.1, 500),
    Field("acceleration", "acceleration", "mm/s²", 3000.0, 50, 100000),
    Field("nozzle_force", "drag of a passing nozzle", "N", 2.0, 0, 100),
    Field("chamber", "chamber", "", "open", choices=("open", "enclosed", "heated")),
    Field("chamber_c", "air round the part", "°C", 25.0, -20, 150),
    Field("film", "heat lost to the air, with the fan", "W/(m²·K)", 40.0, 1, 500, span=(20.0, 80.0)),
    Field("release", "how parts leave the plate", "", "by hand", choices=("by hand", "flexible plate", "pushed off")),
    Field("push_limit", "greatest push", "N", 60.0, 0, 5000),
    Field("push_height", "height of the push", "mm", 10.0, 0, 1000),
    Field("nozzle_clearance", "clearance under the head beside the nozzle", "mm", 3.0, 0, 100),
    Field("rail", "the rail runs along", "", "x", choices=("x", "y")),
    Field("ready_s", "heating and probing before a plate", "s", 360.0, 0, 7200),
    Field("change_s", "cooling, release and the next plate", "s", 600.0, 0, 86400),
    Field("margin", "nothing stands nearer to the rim of the bed", "mm", 3.0, 0, 200),
    Field("front_free", "kept free along the front", "mm", 0.0, 0, 500),
    Field("time_factor", "measured over calculated printing time", "", 1.0, 0.2, 5),
    Field("hourly_cost", "cost of an hour", "per h", 3.0, 0, 1000),
    Field("hands_h", "hours a day when hands are there", "h", 9.0, 0, 24),
    Field("hand_cost", "cost of an hour of hands", "per h", 30.0, 0, 1000),
    Field("plate_minutes", "hands for a plate", "min", 5.0, 0, 600),
    Field("part_minutes", "hands for a part", "min", 1.0, 0, 600),
    Field("scrap", "scrap, share of the copies", "", 0.03, 0, 0.9),
    Field("waste", "plastic lost, share of the parts'", "", 0.03, 0, 5),
    Field("power", "mean power while printing", "W", None, 0, 20000),
    Field("energy_price", "price of energy", "per kWh", None, 0, 100),
)

PROFILE = (
    Field("layer", "layer height", "mm", 0.2, 0.02, 2),
    Field("width", "outer line width", "mm", 0.45, 0.05, 5),
    Field("inner_width", "inner line width", "mm", 0.45, 0.05, 5),
    Field("rule", "perimeter rule", "", "spacing", choices=("spacing", "plain", "nozzle")),
    Field("variable_lines", "variable-width lines", "", False),
    Field("perimeters", "perimeters", "", 3, 1, 50),
    Field("top_bottom", "top and bottom layers", "", 4, 0, 100),
    Field("infill", "infill fraction", "", 0.2, 0, 1),
    Field("stiffness_power", "infill stiffness power m, E·φ^m", "", 2.0, 0.5, 4, span=(1.0, 2.0)),
    Field("strength_power", "infill strength power m, X·φ^m", "", 1.5, 0.5, 4),
    Field("outer_speed", "perimeter speed", "mm/s", 60.0, 1, 1000),
    Field("infill_speed", "infill speed", "mm/s", 110.0, 1, 1000),
    Field("travel_speed", "travel speed", "mm/s", 150.0, 1, 2000),
    Field("travel_share", "travel, share of extruding time", "", 0.12, 0, 2),
    Field("layer_change", "time of a layer change", "s", 1.2, 0, 60),
    Field("layer_minimum", "least time of a layer", "s", 8.0, 0, 600),
    Field("compensates_shrinkage", "its preparation scales for shrinkage", "", False),
    Field("compensates_bores", "its preparation widens bores", "", False),
    Field("compensates_first_layer", "its preparation insets the first layer", "", False),
)

CAPABILITY = (
    Field("limit_hidden", "overhang limit, hidden faces", "° from vertical", 45.0, 1, 89),
    Field("limit_visible", "overhang limit, visible faces", "° from vertical", 45.0, 1, 89),
    Field("clean_bridge", "clean bridge up to", "mm", 10.0, 0, 200),
    Field("rough_bridge", "rough bridge up to", "mm", 20.0, 0, 200),
    Field("fit_press", "press fit, clearance per side as printed", "mm", -0.05, -1, 2, span=(-0.07, -0.03)),
    Field("fit_location", "location fit, per side as printed", "mm", 0.03, -1, 2, span=(0.01, 0.05)),
    Field("fit_sliding", "sliding fit, per side as printed", "mm", 0.10, -1, 2, span=(0.08, 0.12)),
    Field("fit_free", "free fit, per side as printed", "mm", 0.22, -1, 2, span=(0.18, 0.26)),
    Field("fit_in_place", "printed in place, per side as printed", "mm", 0.30, 0, 2),
    Field("bore_upright", "upright bore, loss on diameter", "mm", 0.15, -1, 2, span=(0.1, 0.2)),
    Field("bore_upright_b", "upright bore, loss that falls with its diameter, b of a + b/D", "mm²", 0.0, -10, 20),
    Field("bore_lying", "lying bore, droop of the roof", "mm", 0.30, -1, 3, span=(0.2, 0.4)),
    Field("bore_lying_b", "lying bore, droop that falls with its diameter, b of a + b/D", "mm²", 0.0, -10, 20),
    Field("line_excess", "an outer face stands out by", "mm", 0.0, -1, 1, span=(-0.03, 0.05)),
    Field("bulge", "bulge of the first layers, outward", "mm", 0.20, 0, 2, span=(0.1, 0.3)),
    Field("shrinkage_x", "shrinkage along x", "%", None, -2, 10),
    Field("shrinkage_y", "shrinkage along y", "%", None, -2, 10),
    Field("shrinkage_z", "shrinkage along z", "%", None, -2, 10),
    Field("adhesion_hot", "adhesion, hot plate", "MPa", 0.15, 0.001, 50),
    Field("adhesion_cold", "adhesion, cold plate", "MPa", 0.03, 0, 50),
    Field("coupon_layer_s", "layer time of the bars of Z_t", "s", 20.0, 1, 3600),
    Field("weld_exponent", "weld exponent of batch bars", "", 1.0, 0.1, 4, span=(0.6, 1.5)),
    Field("x_t", "strength along the layers", "MPa", None, 0.1, 2000),
    Field("x_a", "strength across the lines of a layer", "MPa", None, 0.1, 2000),
    Field("z_t", "strength across the layers", "MPa", None, 0.1, 2000),
    Field("z_s", "shear strength between layers", "MPa", None, 0.1, 2000),
    Field("e_xy", "stiffness in the layer", "MPa", None, 0.1, 1e6),
    Field("e_z", "stiffness across the layers", "MPa", None, 0.1, 1e6),
    Field("snap_strain", "strain of an arm at break", "", None, 0.0005, 5),
    Field("insert_factor", "insert's pull-out, share of the shear strength between layers", "", 0.5, 0.02, 5),
    Field("trials_across", "safe factor of own trials, between layers", "", None, 0.05, 2),
    Field("trials_along", "safe factor of own trials, in the layers", "", None, 0.05, 2),
)
"""Machine × material × profile; a strength without a coupon is the material's."""

MATERIAL = (
    Field("e_xy", "stiffness in the layer, E_xy", "MPa", None, 0.1, 1e6),
    Field("e_z", "stiffness across the layers, E_z", "MPa", None, 0.1, 1e6),
    Field("x_t", "tensile strength in the layer, X_t", "MPa", None, 0.1, 2000),
    Field("x_a", "tensile strength across the lines of a layer, X_a", "MPa", None, 0.1, 2000),
    Field("z_t", "tensile strength across the layers, Z_t", "MPa", None, 0.1, 2000),
    Field("z_s", "shear strength between layers, Z_s", "MPa", None, 0.1, 2000),
    Field("x_c", "compressive strength in the layer, X_c", "MPa", None, 0.1, 2000),
    Field("z_c", "compressive strength across the layers, Z_c", "MPa", None, 0.1, 2000),
    Field("poisson", "Poisson's ratio ν", "", None, 0, 0.499),
    Field("yield_strain", "yield strain ε_y", "", None, 0.0001, 5),
    Field("density", "density", "g/cm³", None, 0.1, 20),
    Field("softening_c", "softens at", "°C", None, 20, 500),
    Field("shrinkage", "shrinkage", "%", None, -2, 10),
    Field("expansion", "thermal expansion", "10⁻⁶/K", None, 0, 1000),
    Field("creep", "knock-down, sustained load", "", None, 0.01, 1),
    Field("sun", "sunlight", "", "fair", choices=("poor", "fair", "good")),
    Field("price", "price", "per kg", None, 0, 10000),
    Field("heat_capacity", "heat capacity", "kJ/(kg·K)", 1.6, 0.1, 10),
    Field("conductivity", "heat conductivity", "W/(m·K)", 0.19, 0.05, 10, span=(0.18, 0.20)),
    Field("deposit_c", "laid at", "°C", None, 100, 500),
    Field("weld_energy", "activation energy of the weld", "kJ/mol", 80.0, 10, 1000, span=(50.0, 120.0)),
    Field("sticky", "sticks to its own supports", "", False),
    Field("warps", "warps", "", False),
)

TABLES = {"machine": MACHINE, "material": MATERIAL, "profile": PROFILE, "capability": CAPABILITY}
BY_NAME = {table: {f.name: f for f in fields} for table, fields in TABLES.items()}
