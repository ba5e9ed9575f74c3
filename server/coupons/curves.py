"""Curves of a coupon's bars, from the stand or from a file, read with what the sheet knows of the stand."""

from typing import Any

from coupons import bridge
from hewel.refusal import unusable
from sheets.models import Sheet

NO_FILE: dict[str, Any] = {"columns": [], "units": [], "stroke": None, "force": None}


def read(
    sheet: Sheet, stroke: list, force: list, steel: bool, width: float | None, thickness: float | None
) -> dict:  # fmt: skip
    """A curve as it is read; of a ``steel`` bar what the stand itself gives."""
    given = sheet.content["coupon"]
    told = bridge.curve(stroke, force, bridge.bar_of(given["key"], width, thickness), given["give"], given["give_off"])
    told |= {"give": None, "give_off": None} | NO_FILE
    if not steel:
        return told
    told |= {"says": [], "strength_mpa": None, "modulus_mpa": None, "kind": None}
    if told["why"] is None:
        try:
            give, off = bridge.give(stroke, force)
        except bridge.InputError as no:
            return told | {"why": f"{no.message} {no.hint}"}
        told |= {"give": give, "give_off": off}
    return told


def from_file(
    sheet: Sheet, data: bytes, columns: tuple, steel: bool, width: float | None, thickness: float | None
) -> dict:  # fmt: skip
    """The same out of a file; ``columns``: stroke, force and their units, where somebody has chosen them. Raises
    Refused in words.
    """
    stroke, force, stroke_unit, force_unit = columns
    try:
        table = bridge.table(_text(data))
        found = bridge.columns(table, stroke, force, stroke_unit, force_unit)
    except bridge.InputError as no:
        raise unusable(no) from None
    file = {
        "columns": table.names, "units": table.units, "stroke": table.stroke if stroke is None else stroke,
        "force": table.force if force is None else force,
    }  # fmt: skip
    if found is None:
        nothing = bridge.curve([], [], bridge.bar_of(sheet.content["coupon"]["key"], None, None), None, 0.0)
        return nothing | {"give": None, "give_off": None, "why": "Say which columns are stroke and force."} | file
    return read(sheet, *found, steel, width, thickness) | file


def _text(data: bytes) -> str:
    wide = data[:2] in (b"\xff\xfe", b"\xfe\xff")
    try:
        return data.decode("utf-16" if wide else "utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("latin-1")
