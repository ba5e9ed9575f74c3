"""Numbers with units as people write them: “12 kgf”, “3 N·m”, “0.5 in”. What was typed is kept beside the number."""

import re
from functools import cache
from math import isfinite

import pint

UNITS = {
    "force": ("N", "12 N, 3.5 kN or 12 kgf"),
    "moment": ("N·mm", "900 N·mm, 3 N·m or 2 lbf·in"),
    "pressure": ("MPa", "0.4 MPa, 6 bar or 90 psi"),
    "length": ("mm", "12 mm, 1.5 cm or 0.5 in"),
    "acceleration": ("g", "1 g or 9.81 m/s²"),
    "temperature": ("°C", "45 °C or 113 °F"),
}
"""What can be asked for: the unit it is kept in, and how it may be written."""

_NUMBER = re.compile(r"^\s*([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d{1,3})?)\s*(.*?)\s*$")
_SAID = {
    "g": "standard_gravity",
    "°": "degree",
    "%": "percent",
    "°C": "degC",
    "°F": "degF",
    "° from vertical": "degree",
}


class NotUnderstood(ValueError):
    """What was typed is no such quantity; the message says how to write one."""


NO_SUCH_UNIT = (
    *(pint.errors.PintError, ValueError, TypeError, AttributeError),
    *(AssertionError, OverflowError, RecursionError),
)
"""What the units library raises for text that names no unit: its own errors, and those of its parser."""


@cache
def _units() -> pint.UnitRegistry:
    return pint.UnitRegistry(autoconvert_offset_to_baseunit=True)


def _unit(text: str, gravity: bool):
    text = text.replace("·", "*").replace("⋅", "*").replace("−", "-").replace("µ", "u").strip()
    if text in _SAID and (text != "g" or gravity):
        text = _SAID[text]
    if not re.fullmatch(r"[A-Za-z_%°²³⁻¹\d*/^ ().-]{1,40}", text) or re.search(r"\^|\*\*", text):
        raise ValueError
    return _units().parse_units(text)


def split(text: str) -> tuple[float, str]:
    """The number and the unit of what was typed. Raises NotUnderstood."""
    text = str(text).replace("−", "-").replace("\u00a0", " ")
    if re.match(r"^\s*[-+]?\d+,\d", text):
        raise NotUnderstood(
            f"“{text.strip()[:40]}” has a comma in its number. Write 1.5 with a point, 1200 without one."
        )
    found = _NUMBER.match(text)
    if not found or not isfinite(float(found[1])):
        raise NotUnderstood(f"“{text.strip()[:40]}” does not begin with a number.")
    return float(found[1]), found[2]


def understood(text: str, what: str) -> float:
    """The number in the unit of ``what`` (a key of UNITS); a number alone is taken to be in that unit."""
    unit, examples = UNITS[what]
    try:
        return in_unit(text, unit, gravity=what == "acceleration")
    except NotUnderstood as error:
        if "comma" in str(error):
            raise
        article = "an" if what[0] in "aeiou" else "a"
        raise NotUnderstood(f"“{str(text).strip()[:40]}” is not {article} {what}. Write it like {examples}.") from None


def in_unit(text: str, unit: str, gravity: bool = False) -> float:
    """The number that was typed, in ``unit``. Raises NotUnderstood where it is no such quantity."""
    number, written = split(text)
    if not written or written == unit:
        return number
    try:
        value = _units().Quantity(number, _unit(written, gravity)).to(_unit(unit, gravity)).magnitude
    except NO_SUCH_UNIT:
        raise NotUnderstood(f"“{str(text).strip()[:40]}” is not understood in {unit or 'plain numbers'}.") from None
    if not isfinite(value):
        raise NotUnderstood(f"“{str(text).strip()[:40]}” is too large.")
    return float(f"{value:.12g}")  # conversion leaves dust in the last digits


def any_quantity(text: str) -> tuple[float, str]:
    """The number and unit of any quantity at all, the unit as it was written. Raises NotUnderstood."""
    number, written = split(text)
    if written:
        try:
            _unit(written, gravity=False)
        except NO_SUCH_UNIT:
            raise NotUnderstood(
                f"“{str(text).strip()[:40]}”: there is no unit “{written[:20]}”. Write it like 250 N, 0.3 mm or 45 °C."
            ) from None
    return number, written
