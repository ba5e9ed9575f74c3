"""The only file of this app that calls the engine: what coupons are, what their readings and curves say."""

from dataclasses import asdict
from functools import cache

import numpy as np

from hewel_engine.edits.solids import mesh_of
from hewel_engine.errors import InputError
from hewel_engine.geometry.patches import find_faces
from hewel_engine.io.packing import pack_view
from hewel_engine.io.stl import write_stl
from hewel_engine.io.threemf import write_3mf
from hewel_engine.materials import MATERIALS
from hewel_engine.printing.weld import Weld
from hewel_engine.processes import Process
from hewel_engine.records import CAPABILITY
from hewel_engine.trials.breaks import bar_of, waist_of
from hewel_engine.trials.catalogue import SHEETS, fitted, sheet_of
from hewel_engine.trials.coupons import coupon
from hewel_engine.trials.curve import Bar, give_of, read
from hewel_engine.trials.curve_files import Table, curve_of, table_of
from hewel_engine.trials.places import places_of
from hewel_engine.trials.sheets import Known

__all__ = ["InputError", "bar_of"]

DRAWN = 600
"""Points of a curve that are shown."""
BARS = {"tensile_x": "along", "tensile_a": "across lines", "tensile_45": "aslant",
        "tensile_z": "upright", "batch_z": "upright", "weld_ladder": "upright"}  # fmt: skip
"""Coupons that a stand pulls, by its own words for them."""
STEEL = "steel"


def catalogue() -> list[dict]:
    """Every coupon: what it gives, where to measure, its columns."""
    return [sheet(key) for key in SHEETS]


@cache
def sheet(key: str) -> dict:
    """One of them; not to be written to. Raises InputError."""
    s = sheet_of(key)
    columns = [asdict(c) | {"choices": list(c.choices)} for c in s.columns]
    return {
        "key": s.key, "title": s.title, "where": s.where, "columns": columns, "gives": list(s.gives),
        "marks": [list(place) for place in places_of(key, Process())], "least": s.least, "months": s.months,
        "pulled": BARS.get(key), "waist": waist_of(key),
    }  # fmt: skip


def given_by() -> dict[str, list[str]]:
    """Fields of a capability record with the coupons that give them."""
    return {f.name: [k for k, s in SHEETS.items() if f.name in s.gives] for f in CAPABILITY}


def words_of(field: str) -> dict:
    found = next(f for f in CAPABILITY if f.name == field)
    return {"words": found.words, "unit": found.unit}


def known(process: dict, numbers: dict, z_t: float | None, chamber: float, film: float) -> Known:
    """``numbers``: of the capability record, starting values where it says nothing."""
    settings = Process(**process)
    share = lambda axis: (
        settings.stock.shrinkage if numbers[f"shrinkage_{axis}"] is None else numbers[f"shrinkage_{axis}"] / 100
    )
    loss = numbers["bore_upright"] + numbers["bore_upright_b"] / 10
    weld = Weld.of(settings.stock, chamber, film=film)
    return Known(settings, (share("x") + share("y")) / 2, share("z"), loss, numbers["line_excess"], z_t, weld)


def fit(key: str, rows: list[dict], known: Known) -> dict:
    """What readings give; ``why`` they give nothing."""
    plain = [row["values"] | {"plate": row["plate"], "keep": row["keep"]} for row in rows]
    try:
        told = fitted(key, plain, known)
    except InputError as no:
        return {"found": [], "says": [], "apart": [], "bounds": [], "plot": None, "why": f"{no.message} {no.hint}"}
    return {
        "found": [asdict(f) | {"doubt": f.doubt} for f in told.found], "says": told.says, "apart": told.apart,
        "bounds": told.bounds, "plot": told.plot and asdict(told.plot), "why": None,
    }  # fmt: skip


def file_of(key: str, process: dict, bed: float, mark: str, kind: str) -> bytes:
    """A coupon as ``stl`` or ``3mf``, its mark sunk in. Raises InputError."""
    mesh = mesh_of(coupon(key, Process(**process), bed, mark or None))
    return write_stl(mesh, f"coupon {key} in millimetres") if kind == "stl" else write_3mf(mesh, f"coupon {key}")


@cache
def _view(key: str) -> bytes:
    mesh = mesh_of(coupon(key, Process(material=next(iter(MATERIALS)))))
    return pack_view(mesh, find_faces(mesh))


def view_of(key: str) -> bytes:
    """How a coupon looks, as the page draws bodies. Raises InputError."""
    sheet_of(key)
    return _view(key)


# ------------------------------------------------------------------ curves


def curve(stroke: list, force: list, bar: Bar, give: float | None, give_off: float) -> dict:
    """A curve as it is read, thinned out for drawing; ``why`` it says nothing."""
    x, y = np.array(stroke, float), np.array(force, float)
    step = max(len(x) // DRAWN, 1)
    line = [[float(a), float(b)] for a, b in zip(x[::step], y[::step], strict=True) if np.isfinite(a + b)]
    out = {"line": line, "why": None, "force_n": None, "strength_mpa": None, "modulus_mpa": None, "kind": None,
           "says": [], "broke_mm": None, "slips": 0}  # fmt: skip
    try:
        told = read(x, y, bar, give, give_off)
    except InputError as no:
        return out | {"why": f"{no.message} {no.hint}"}
    return out | {
        "force_n": told.peak, "strength_mpa": told.strength, "modulus_mpa": told.modulus, "kind": told.kind,
        "says": told.says, "slips": len(told.slips),
        "broke_mm": None if told.broke is None else float(abs(x[min(told.broke, len(x) - 1)])),
    }  # fmt: skip


def give(stroke: list, force: list) -> tuple[float, float]:
    """mm/N of the stand by a steel bar, and how far that may be off. Raises InputError."""
    return give_of(np.array(stroke, float), np.array(force, float))


def table(text: str) -> Table:
    """Raises InputError."""
    return table_of(text)


def columns(
    found: Table, stroke: int | None, force: int | None, stroke_unit: str, force_unit: str
) -> tuple[list, list] | None:
    """Stroke and force out of a file; None while it is not said which columns they are. Raises InputError."""
    s, f = found.stroke if stroke is None else stroke, found.force if force is None else force
    if s is None or f is None:
        return None
    x, y = curve_of(found, s, f, stroke_unit, force_unit)
    return x.tolist(), y.tolist()
