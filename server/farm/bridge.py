"""The only file of this app that calls the engine: what the farm's records hold, and the process that comes of them."""

from hewel_engine.errors import InputError
from hewel_engine.fits.numbers import FITS, RESTS_ON, drawn_gap, given_numbers, scale_of
from hewel_engine.materials import MATERIALS
from hewel_engine.processes import Process, on_the_farm
from hewel_engine.reckoning.sizes import items, own_fields
from hewel_engine.records import ORIGINS, readings
from hewel_engine.records import TABLES as RECORDS

__all__ = ["ORIGINS", "InputError", "items"]

TABLES = RECORDS | {"size": own_fields()}
BY_NAME = {kind: {f.name: f for f in known} for kind, known in TABLES.items()}


def fields(kind: str) -> list[dict]:
    """What a record of this kind can say."""
    return [f.as_dict() for f in TABLES[kind]]


def unit_of(kind: str, field: str) -> str | None:
    """The unit of a field; None where a record of this kind has no such field."""
    found = BY_NAME[kind].get(field)
    return found and found.unit


def is_number(kind: str, field: str) -> bool:
    return BY_NAME[kind][field].kind == "number"


def checked(kind: str, field: str, value: object):
    """``value`` in its own type; raises InputError with what is allowed."""
    return BY_NAME[kind][field].checked(value)


def generic() -> dict[str, str]:
    """Key → name of the generic grades."""
    return {key: m.name for key, m in MATERIALS.items()}


def filled(kind: str, given: dict, grade: str | None = None) -> dict[str, dict]:
    """Every field of a record with its origin: what it says, else the starting value."""
    found = MATERIALS[grade or "petg"].with_own(given).readings if kind == "material" else readings(TABLES[kind], given)
    return {name: reading.as_dict() for name, reading in found.items()}


def process(machine: dict, material: dict, profile: dict, capability: dict, grade: str, typed: dict) -> tuple:
    """(numbers, {name: (origin, record)}) of a job's process; raises InputError with what is out of bounds."""
    found, origins = on_the_farm(machine, material, profile, capability, grade, typed)
    return found.as_dict(), origins


def of_fits(kind: str, values: dict[str, dict]) -> dict[str, dict]:
    """Of a record's readings those that a fit rests on."""
    return {name: values[name] for name in RESTS_ON[kind]}


def scale(process: dict, given: dict[str, dict]) -> tuple[float, float]:
    """How much larger than it is drawn a part leaves, in plan and along the build direction, so that it comes out as it
    is drawn.
    """
    return scale_of(given_numbers(Process(**process), given))


def drawn_gaps(process: dict, given: dict[str, dict]) -> dict[str, dict]:
    """Of every fit the clearance per side to be drawn, mm, with the origin of the one that is printed. ``given``:
    readings by record and field.
    """
    numbers = given_numbers(Process(**process), given)
    printed = {name: given["capability"][f"fit_{name}"] for name in FITS}
    value = lambda name: round(drawn_gap(name, printed[name]["value"], numbers), 4)
    return {name: printed[name] | {"value": value(name), "low": None, "high": None} for name in FITS}
