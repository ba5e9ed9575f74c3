"""Load cases: what pushes, pulls and presses, what holds, how often, and how cases combine.

Read from and written to the loads file; keys beyond it (names, nature, how a face is held) are kept as they are.
Forces N, moments N·mm, pressures MPa, accelerations in g, lengths mm, all in the part's frame.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from hewel_engine.errors import InputError
from hewel_engine.loads.regions import bad_loads, checked_shape

HOWS = {
    "fixed": "held in every direction",
    "sliding": "held normal to the face, free to slide along it",
    "pinned": "held across the axis, free along and round it",
    "bolted": "held under a washer",
    "pressed": "only pressed: it can push, never pull",
}
NATURES = ("static", "sustained", "cyclic", "shock")


@dataclass(frozen=True)
class Region:
    shape: dict
    name: str = ""


@dataclass(frozen=True)
class Washer:
    """A bolt's washer on a held face: ``centre`` (3,) mm, outer diameter mm."""

    centre: tuple[float, float, float]
    outer: float


@dataclass(frozen=True)
class Hold:
    on: Region
    how: str = "fixed"
    axes: str = "xyz"
    """Axes of the part that a fixed face is held along."""
    washer: Washer | None = None


@dataclass(frozen=True)
class Load:
    """``kind``: force, moment, pressure (positive presses into the material), acceleration (of the own weight)."""

    kind: str
    vector: tuple[float, float, float] = (0.0, 0.0, 0.0)
    """N, N·mm or g."""
    on: Region | None = None
    pressure: float = 0.0


@dataclass(frozen=True)
class Case:
    name: str
    loads: tuple[Load, ...]
    factor: float = 1.0
    nature: str = "static"
    cycles: float | None = None

    @property
    def weight_only(self) -> bool:
        """Whether nothing acts on the surface."""
        return all(load.kind == "acceleration" for load in self.loads)


@dataclass(frozen=True)
class Combination:
    name: str
    parts: tuple[tuple[str, float], ...]
    """(name of a case, factor)."""


@dataclass(frozen=True)
class LoadSet:
    holds: tuple[Hold, ...]
    cases: tuple[Case, ...]
    combinations: tuple[Combination, ...] = field(default=())

    def combined(self) -> list[Case]:
        """The combinations as cases of their own, their factors applied to each part's loads."""
        by_name = {c.name: c for c in self.cases}
        out = []
        for combination in self.combinations:
            loads = [
                _scaled(load, by_name[name].factor * share)
                for name, share in combination.parts
                for load in by_name[name].loads
            ]
            out.append(Case(combination.name, tuple(loads)))
        return out


def _scaled(load: Load, by: float) -> Load:
    return Load(load.kind, tuple(by * x for x in load.vector), load.on, by * load.pressure)


# --------------------------------------------------------------------------- the loads file


def _dict(value, what: str) -> dict:
    if not isinstance(value, dict):
        raise bad_loads(f"{what} must be an object with named values.", "See the loads file in the documentation.")
    return value


def _list(value, what: str) -> list:
    if not isinstance(value, list):
        raise bad_loads(f"{what} must be a list.", "See the loads file in the documentation.")
    return value


def _number(value, what: str) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float) or not np.isfinite(value) or abs(value) > 1e12:
        raise bad_loads(f"{what} must be a number.", f"It is {str(value)[:40]!r}.")
    return float(value)


def _vector(value, what: str) -> tuple[float, float, float]:
    if not isinstance(value, list) or len(value) != 3:
        raise bad_loads(f"{what} must be three numbers.", "Write it like [0, 0, -250].")
    return tuple(_number(v, what) for v in value)


def _region(request, facet_count: int | None, what: str) -> Region:
    if request is None:
        raise bad_loads(f"{what} acts on no face.", "Give it a region under “on”.")
    request = _dict(request, f"The region of {what}")
    try:
        return Region(checked_shape(request, facet_count), str(request.get("name", ""))[:80])
    except InputError as error:
        raise bad_loads(f"{what}: {error.message}", error.hint) from None


def _hold(request, facet_count) -> Hold:
    request = _dict(request, "A held face")
    plain = "on" not in request
    on = _region(request if plain else request["on"], facet_count, "A held face")
    axes = request.get("hold", "xyz")
    if not isinstance(axes, str) or not axes or set(axes) - set("xyz"):
        raise bad_loads(f"“hold” is {axes!r}.", "Name the axes held with the letters x, y and z.")
    how = request.get("how", "fixed")
    if how not in HOWS:
        raise bad_loads(f"A face cannot be held {str(how)[:40]!r}.", f"Use one of: {', '.join(HOWS)}.")
    washer = request.get("washer")
    if how == "bolted":
        washer = _dict(washer, "The washer of a bolted face")
        outer = _number(washer.get("outer_mm"), "The washer's outer diameter")
        if outer <= 0:
            raise bad_loads("The washer has no size.", "Give its outer diameter in mm.")
        washer = Washer(_vector(washer.get("centre_mm"), "The washer's centre"), outer)
    if how == "pinned" and "cylinder" not in on.shape:
        raise bad_loads(
            "Only a bore or a pin can be held pinned.", "Point at a bore, or hold this face fixed or sliding."
        )
    return Hold(on, how, "".join(sorted(set(axes))), washer if how == "bolted" else None)


def _load(request, facet_count, case: str) -> Load:
    request = _dict(request, f"A load of “{case}”")
    kinds = {"force_n": "force", "moment_nmm": "moment", "pressure_mpa": "pressure", "acceleration_g": "acceleration"}
    found = [k for k in kinds if k in request]
    if len(found) != 1:
        raise bad_loads(
            f"A load of “{case}” must be one of {', '.join(kinds)}.", "Write each load as an object of its own."
        )
    key = found[0]
    what = f"{kinds[key].capitalize()} of “{case}”"
    on = None if key == "acceleration_g" else _region(request.get("on"), facet_count, what)
    if key == "pressure_mpa":
        return Load("pressure", on=on, pressure=_number(request[key], what))
    return Load(kinds[key], _vector(request[key], what), on)


def _case(request, facet_count, place: int) -> Case:
    request = _dict(request, f"Load case {place}")
    name = str(request.get("name", f"case {place}"))[:80]
    loads = tuple(_load(row, facet_count, name) for row in _list(request.get("loads", []), f"The loads of “{name}”"))
    if not loads:
        raise bad_loads(f"Load case “{name}” has no load.", "Give it at least one.")
    nature = request.get("nature", "static")
    if nature not in NATURES:
        raise bad_loads(f"“{name}” cannot be {str(nature)[:40]!r}.", f"Use one of: {', '.join(NATURES)}.")
    cycles = request.get("cycles")
    cycles = None if cycles is None else _number(cycles, f"The cycles of “{name}”")
    return Case(name, loads, _number(request.get("factor", 1.0), f"The factor of “{name}”"), nature, cycles)


def read_loads(request: Any, facet_count: int | None = None) -> LoadSet:
    """A loads file as parsed JSON. Raises InputError ``bad_loads`` with the place and what to do."""
    request = _dict(request, "The loads file")
    holds = tuple(_hold(row, facet_count) for row in _list(request.get("fixed", []), "“fixed”"))
    cases = tuple(_case(row, facet_count, i) for i, row in enumerate(_list(request.get("cases", []), "“cases”"), 1))
    names = [c.name for c in cases]
    twice = next((n for n in names if names.count(n) > 1), None)
    if twice is not None:
        raise bad_loads(f"Two load cases are called “{twice}”.", "Give every case a name of its own.")
    combinations = []
    for row in _list(request.get("combinations", []), "“combinations”"):
        row = _dict(row, "A combination")
        name = str(row.get("name", "combination"))[:80]
        parts = []
        for part in _list(row.get("parts", []), f"The parts of “{name}”"):
            part = _dict(part, f"A part of “{name}”")
            if part.get("case") not in names:
                raise bad_loads(
                    f"“{name}” names a case that there is none of.", f"Cases: {', '.join(names) or 'none'}."
                )
            parts.append((part["case"], _number(part.get("factor", 1.0), f"A factor of “{name}”")))
        combinations.append(Combination(name, tuple(parts)))
    return LoadSet(holds, cases, tuple(combinations))


def write_loads(loads: LoadSet) -> dict:
    """The loads file of ``loads``: what ``read_loads`` reads back the same."""

    def region(r: Region) -> dict:
        return r.shape | ({"name": r.name} if r.name else {})

    def hold(h: Hold) -> dict:
        out = {"on": region(h.on), "hold": h.axes, "how": h.how}
        if h.washer:
            out["washer"] = {"centre_mm": list(h.washer.centre), "outer_mm": h.washer.outer}
        return out

    def load(row: Load) -> dict:
        if row.kind == "acceleration":
            return {"acceleration_g": list(row.vector)}
        key = {"force": "force_n", "moment": "moment_nmm", "pressure": "pressure_mpa"}[row.kind]
        return {"on": region(row.on), key: row.pressure if row.kind == "pressure" else list(row.vector)}

    def case(c: Case) -> dict:
        out = {"name": c.name, "factor": c.factor, "loads": [load(row) for row in c.loads], "nature": c.nature}
        return out if c.cycles is None else out | {"cycles": c.cycles}

    result = {"fixed": [hold(h) for h in loads.holds], "cases": [case(c) for c in loads.cases]}
    if loads.combinations:
        result["combinations"] = [
            {"name": c.name, "parts": [{"case": name, "factor": share} for name, share in c.parts]}
            for c in loads.combinations
        ]
    return result


def without_patches(loads: LoadSet, facets_of: Callable[[dict], Any]) -> LoadSet:
    """The same loads with every face written as its facets, for readers that do not know faces.

    ``facets_of(shape)`` gives the facet numbers of a patch shape.
    """

    def region(r: Region | None) -> Region | None:
        if r is None or "patch" not in r.shape:
            return r
        return Region({"facets": [int(i) for i in facets_of(r.shape)]}, r.name)

    holds = tuple(Hold(region(h.on), h.how, h.axes, h.washer) for h in loads.holds)
    cases = tuple(
        Case(
            c.name,
            tuple(Load(row.kind, row.vector, region(row.on), row.pressure) for row in c.loads),
            c.factor,
            c.nature,
            c.cycles,
        )
        for c in loads.cases
    )
    return LoadSet(holds, cases, loads.combinations)
