"""Generic grades: starting values until the farm's own sheets and coupons replace them.

Stresses and stiffness MPa, density g/cm³, shrinkage a plain ratio on ``Material`` and per cent in records.
"""

from dataclasses import dataclass, field

from hewel_engine.records import MATERIAL, Reading, readings

_COLUMNS = [
    "e_xy",
    "e_z",
    "x_t",
    "z_t",
    "z_s",
    "x_c",
    "z_c",
    "poisson",
    "yield_strain",
    "density",
    "softening_c",
    "shrinkage",
    "expansion",
    "creep",
    "sun",
    "price",
]
_TABLE = {
    "pla": ("PLA", 3300, 2900, 52, 32, 24, 70, 63, 0.36, 0.020, 1.24, 58, 0.3, 68, 0.30, "poor", 20),
    "petg": ("PETG", 2000, 1750, 45, 28, 20, 55, 50, 0.38, 0.040, 1.27, 78, 0.4, 60, 0.40, "fair", 22),
    "abs": ("ABS", 2100, 1800, 36, 21, 16, 50, 45, 0.37, 0.025, 1.05, 98, 0.8, 90, 0.45, "poor", 22),
    "asa": ("ASA", 2000, 1750, 40, 24, 18, 52, 47, 0.37, 0.028, 1.07, 98, 0.6, 95, 0.45, "good", 28),
    "pc": ("PC", 2200, 1900, 60, 36, 27, 75, 68, 0.38, 0.050, 1.19, 120, 0.6, 68, 0.50, "fair", 40),
    "pa": ("PA (nylon)", 1500, 1200, 48, 30, 24, 50, 46, 0.40, 0.120, 1.12, 70, 1.5, 90, 0.30, "fair", 45),
    "pa_cf": (
        *("PA + chopped carbon", 5500, 2500, 80, 32, 25, 85, 60, 0.38, 0.020, 1.17),
        *(110, 0.3, 30, 0.45, "fair", 65),
    ),
    "tpu": ("TPU 95A", 26, 22, 30, 20, 15, 20, 18, 0.45, 0.500, 1.21, 60, 0.8, 150, 0.30, "fair", 35),
}
_STICKY, _WARPS = {"petg", "tpu"}, {"abs", "asa", "pc", "pa"}
ACROSS_SHARE = (0.4, 0.8)
"""Typical strength across the layers, as a share of that along them."""
_SPANS = {("pa", "shrinkage"): (1.5, 3.0)}
_LAID_AT = {"pla": 210, "petg": 235, "abs": 245, "asa": 250, "pc": 275, "pa": 255, "pa_cf": 265, "tpu": 225}
"""°C of the nozzle, in the middle of what each grade is commonly printed at; no coupon depends on it."""
_CONDUCTS = {"pa_cf": 0.3}


@dataclass(frozen=True)
class Material:
    """A grade with the value, range and origin of every property."""

    key: str
    name: str
    readings: dict[str, Reading] = field(repr=False)

    def __getattr__(self, name: str):
        try:
            return self.__dict__["readings"][name].value
        except KeyError:
            raise AttributeError(name) from None

    @property
    def shrinkage(self) -> float:
        """A plain ratio."""
        return self.readings["shrinkage"].value / 100

    def with_own(self, values: dict[str, dict]) -> "Material":
        """The grade as a farm's record has it: what the record says in place of the starting values. Where it says the
        strength between layers and not the one between lines, the latter follows it.
        """
        own = {name: Reading(**r) for name, r in values.items()}
        if "z_t" in own:
            own = {"x_a": own["z_t"]} | own
        return Material(self.key, self.name, self.readings | own)


def _generic(key: str) -> Material:
    starts = dict(zip(_COLUMNS, _TABLE[key][1:], strict=True)) | {"sticky": key in _STICKY, "warps": key in _WARPS}
    starts |= {"deposit_c": _LAID_AT[key], "conductivity": _CONDUCTS.get(key, 0.19)}
    starts["x_a"] = starts["z_t"]  # neighbouring lines are welded as layers are, until a coupon says more
    found = readings(MATERIAL, {}, starts)
    for name in found:
        span = _SPANS.get((key, name))
        if name in ("x_a", "z_t"):
            span = tuple(share * starts["x_t"] for share in ACROSS_SHARE)
        if name == "conductivity" and key in _CONDUCTS:
            found[name] = Reading(found[name].value, "handbook")
        if span:
            found[name] = Reading(found[name].value, "handbook", *span)
    return Material(key, _TABLE[key][0], found)


MATERIALS = {key: _generic(key) for key in _TABLE}
