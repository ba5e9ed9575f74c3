"""Curves from files of any test stand: separators, decimal commas, units and names of columns as they come."""

import re
from dataclasses import dataclass
from itertools import islice

import numpy as np

from hewel_engine.errors import InputError
from hewel_engine.geometry.mesh import Array
from hewel_engine.trials.curve import MOST

SEPARATORS = (";", "\t", ",", "|", " ")
TO_N = {"n": 1.0, "kn": 1000.0, "mn": 1e-3, "kgf": 9.80665, "lbf": 4.4482216, "gf": 9.80665e-3}
TO_MM = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "µm": 1e-3, "um": 1e-3, "in": 25.4, "inch": 25.4}
FORCE_WORDS = re.compile(r"force|load|kraft|last|^f\b|pull", re.I)
STROKE_WORDS = re.compile(r"stroke|travel|exten|displ|weg|position|cross|^s\b|^x\b|elong", re.I)
UNIT = re.compile(r"[\[(/ ]\s*([A-Za-zµ]{1,4})\s*[\])]?\s*$")
NUMBER = re.compile(r"^[+-]?(\d+([.,]\d*)?|[.,]\d+)([eE][+-]?\d{1,3})?$")
LOOKED_AT = 200
"""Lines in which the first row of numbers must stand."""
MOST_COLUMNS = 40


@dataclass(frozen=True)
class Table:
    """``names`` and ``units`` of its columns (empty where none is written), ``rows`` (n, columns); which columns are
    taken for the ``stroke`` and the ``force``, None where it cannot be told.
    """

    names: list[str]
    units: list[str]
    rows: Array
    stroke: int | None
    force: int | None


def table_of(text: str) -> Table:
    """Raises InputError ``bad_curve`` in words."""
    lines = [line for line in text.lstrip("\ufeff").splitlines() if line.strip()]
    if not lines:
        raise InputError("bad_curve", "The file is empty.", "Export the run again.")
    separator, first = _begins(lines)
    comma = separator != "," and any("," in cell for cell in _cells(lines[first], separator))
    width = len(_cells(lines[first], separator))
    if not 2 <= width <= MOST_COLUMNS:
        raise InputError("bad_curve", f"Its rows have {width} columns.", "It wants one of stroke and one of force.")
    if len(lines) - first > MOST:
        raise InputError("bad_curve", f"The curve has more than {MOST:,} rows.", "Thin it out, to 200 a second.")
    rows = np.full((len(lines) - first, width), np.nan)
    for i, line in enumerate(lines[first:]):
        for k, cell in enumerate(islice(_cells(line, separator), width)):
            if NUMBER.match(cell):
                rows[i, k] = float(cell.replace(",", ".") if comma else cell.replace(",", ""))
    names, units = _heads(lines[:first], separator, width)
    force = _column(names, units, FORCE_WORDS, TO_N)
    stroke = _column(names, units, STROKE_WORDS, TO_MM)
    return Table(names, units, rows, stroke, force if force != stroke else None)


def _cells(line: str, separator: str) -> list[str]:
    parts = line.split() if separator == " " else line.split(separator)
    return [part.strip().strip('"') for part in parts]


def _begins(lines: list[str]) -> tuple[str, int]:
    """(separator, first line of numbers): the separator by which most cells of a line are numbers."""
    for first, line in enumerate(lines[:LOOKED_AT]):
        best, most = "", 1
        for separator in SEPARATORS:
            cells = _cells(line, separator)
            numbers = sum(bool(NUMBER.match(cell)) for cell in cells)
            if numbers > most and numbers >= len([c for c in cells if c]) - 1:
                best, most = separator, numbers
        if best:
            return best, first
    raise InputError("bad_curve", "No row of numbers is found in it.", "Export it as CSV with columns of numbers.")


def _heads(lines: list[str], separator: str, width: int) -> tuple[list[str], list[str]]:
    """Names and units of the columns, from the last lines before the numbers that have as many cells."""
    names, units = [""] * width, [""] * width
    for line in lines[-3:]:
        cells = _cells(line, separator)
        if len(cells) < width:
            continue
        for k in range(width):
            plain = cells[k].strip("[]() ").lower()
            if plain in TO_N or plain in TO_MM or plain in ("s", "ms", "%"):
                units[k] = cells[k].strip("[]() ")
            elif cells[k]:
                names[k] = cells[k][:60]
                found = UNIT.search(cells[k])
                units[k] = found[1] if found else units[k]
    return [name or f"column {k + 1}" for k, name in enumerate(names)], units


def _column(names: list[str], units: list[str], words: re.Pattern, known: dict[str, float]) -> int | None:
    fits = [k for k, name in enumerate(names) if words.search(name)]
    if not fits:
        fits = [k for k, unit in enumerate(units) if unit.lower() in known]
    return fits[0] if len(fits) == 1 else None


def curve_of(table: Table, stroke: int, force: int, stroke_unit: str, force_unit: str) -> tuple[Array, Array]:
    """(stroke mm, force N) of two of its columns; an empty unit is that of the column, else mm and N. Raises InputError
    ``bad_curve``.
    """
    width = table.rows.shape[1]
    if not (0 <= stroke < width and 0 <= force < width) or stroke == force:
        raise InputError("bad_curve", "Stroke and force are two of its columns.", "Choose both.")
    at = []
    for column, given, known, usual in ((stroke, stroke_unit, TO_MM, "mm"), (force, force_unit, TO_N, "n")):
        unit = (given or table.units[column] or usual).strip().lower()
        if unit not in known:
            hint = "Choose one of: " + ", ".join(known) + "."
            raise InputError("bad_curve", f"“{unit[:12]}” is no unit for it.", hint)
        at.append(table.rows[:, column] * known[unit])
    return at[0], at[1]
