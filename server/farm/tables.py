"""The farm's records as CSV: one line a field, with its range, unit and origin, so that nothing is lost on the way.

Columns: record, field, value, low, high, unit, origin, note. What belongs to a record but is no measured field stands
in lines of its own (note, grade; machine, material, profile by name; measured, operator, count; unit: a machine).
"""

import csv
import io
import re
from collections.abc import Iterable, Sequence
from typing import Any

from farm import bridge, forms
from hewel.refusal import Refused

COLUMNS = ["record", "field", "value", "low", "high", "unit", "origin", "note"]
MOST_LINES = 20_000


def write_table(kind: str, records: list[dict], names: dict[str, str]) -> str:
    """``records`` (contents) as CSV; ``names`` gives the name of every linked record by its id."""
    out = io.StringIO()
    rows = csv.DictWriter(out, COLUMNS, restval="", lineterminator="\r\n")
    rows.writeheader()
    for given in records:
        name = plain(given["name"])
        line = lambda field, value, name=name, **more: rows.writerow(
            {"record": name, "field": field, "value": plain(value)} | more
        )
        line("note", given["note"])
        for field in sorted(forms.OWN[kind] - {"machines"}):
            value = given[field]
            line(field, names.get(value, value) if field in forms.LINKS else "" if value is None else value)
        for unit in given.get("machines", []):
            state = "in service" if unit["in_service"] else "out of service"
            line("unit", unit["name"], unit=state, note=plain(unit["note"]))
        for known in bridge.fields(kind):
            reading = given["values"].get(known["name"])
            if reading:
                ends = {e: "" if reading[e] is None else reading[e] for e in ("low", "high")}
                line(
                    known["name"],
                    reading["value"],
                    **ends,
                    unit=known["unit"],
                    origin=reading["origin"],
                    note=plain(reading["note"]),
                )
    return out.getvalue()


CELL = r"(^|[;,\t|\r\n])(\s*)"
"""Where a cell begins, whatever a spreadsheet takes for the separator: there a sign begins a formula."""
SIGN = "[=+\\-@'＝＋－＠＇]"
"""Signs, the full-width ones with them."""


def plain(value: Any) -> Any:
    """Text that a spreadsheet would take for a formula is marked as text; the mark is taken off again on reading."""
    return re.sub(f"{CELL}({SIGN})", r"\1\2'\3", value) if isinstance(value, str) else value


def csv_of(rows: Iterable[Sequence[Any]]) -> str:
    """Rows of cells, the heads first, as CSV; text in them stays text in a spreadsheet."""
    room = io.StringIO()
    csv.writer(room).writerows([plain(cell) for cell in row] for row in rows)
    return room.getvalue()


def _text(value: str | None) -> str:
    return re.sub(f"{CELL}'(?={SIGN})", r"\1\2", (value or "").strip())


def _wrong(line: int, message: str, hint: str = "Correct the line and bring the table in again.") -> Refused:
    return Refused("bad_table", f"Line {line}: {message}", f"Nothing was changed. {hint}", 422)


def read_table(kind: str, text: str, have: dict[str, dict]) -> dict[str, dict]:
    """Record name → what to write, the lines of the table over what the record (``have``, by lower name) says."""
    if "\x00" in text:
        raise Refused("bad_table", "This is no table of text.", "Save it as CSV, UTF-8.", 422)
    lines = csv.DictReader(io.StringIO(text.lstrip("\ufeff")))
    missing = [c for c in ("record", "field", "value") if c not in (lines.fieldnames or [])]
    if missing:
        raise Refused(
            "bad_table", f"The table has no column “{missing[0]}”.", f"Its columns are {', '.join(COLUMNS)}.", 422
        )
    out: dict[str, dict] = {}
    try:
        for place, row in enumerate(lines, start=2):
            if place > MOST_LINES:
                raise _wrong(place, f"a table has at most {MOST_LINES} lines.")
            name = _text(row["record"])
            if not name:
                raise _wrong(place, "it names no record.")
            try:
                _line(kind, out.setdefault(name, _start(name, have.get(name.lower()))), row)
            except Refused as error:
                raise _wrong(place, error.message, error.hint) from None
    except csv.Error as error:
        raise Refused("bad_table", f"This is no table: {error}.", "Save it as CSV, UTF-8.", 422) from None
    return out


def _start(name: str, given: dict | None) -> dict:
    if given is None:
        return {"name": name, "values": {}}
    return given | {"values": forms.as_typed(given["values"])}


def _line(kind: str, given: dict, row: dict) -> None:
    field, value, note = _text(row["field"]), _text(row["value"]), _text(row.get("note"))
    if field == "note":
        given["note"] = value
    elif field == "unit" and kind == "machine":
        units = given.setdefault("machines", [])
        unit = next((u for u in units if u["name"] == value), None)
        if unit is None:
            unit = {"id": f"unit-{len(units) + 1}", "name": value}
            units.append(unit)
        unit |= {"note": note, "in_service": _text(row.get("unit")) != "out of service"}
    elif field in forms.OWN[kind]:
        given[field] = (value or None) if field != "operator" else value
    else:
        unit = _text(row.get("unit"))
        number = f"{value} {unit}".strip() if unit and bridge.unit_of(kind, field) not in (None, unit) else value
        before = given["values"].get(field)
        if forms.number(kind, field, number) == (before and forms.number(kind, field, before["typed"])):
            number = before["typed"]  # the same value stays as it was typed
        given["values"][field] = {
            "typed": number,
            "origin": _text(row.get("origin")) or "own",
            "low": _text(row.get("low")) or None,
            "high": _text(row.get("high")) or None,
            "note": note,
        } | ({k: before[k] for k in forms.FROM_SHEET if k in before} if before and number == before["typed"] else {})
