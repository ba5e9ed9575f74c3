"""Reading the farm's records, and the process that a job gets from them."""

from uuid import UUID

from farm import bridge
from farm.forms import KINDS, TYPED, process_choice
from hewel.refusal import Refused, not_found, unusable
from sheets.models import Sheet

PREFIX = "farm-"


def records(user, kind: str | None = None, struck: bool = False) -> list[Sheet]:
    """The workshop's records, by name; of one kind, or of all."""
    kinds = [PREFIX + k for k in ([kind] if kind else KINDS)]
    rows = Sheet.objects.filter(workshop=user.workshop, kind__in=kinds, struck__isnull=not struck)
    return sorted(rows, key=lambda s: (s.kind, s.content["record"]["name"].lower()))


def record(user, sheet_id) -> Sheet:
    sheet = Sheet.objects.filter(id=sheet_id, workshop=user.workshop, kind__startswith=PREFIX, struck=None).first()
    if sheet is None:
        raise not_found("record")
    return sheet


def kind_of(sheet: Sheet) -> str:
    return sheet.kind.removeprefix(PREFIX)


def out(sheet: Sheet) -> dict:
    kind, said = kind_of(sheet), sheet.content["record"]
    filled = bridge.filled(kind, readings(said), said.get("grade"))
    typed = {name: r["typed"] for name, r in said["values"].items() if r.get("typed")}
    return {
        "id": sheet.id,
        "kind": kind,
        "version": sheet.version,
        "record": said,
        "values": {name: r | {"said": name in said["values"], "typed": typed.get(name)} for name, r in filled.items()},
        "struck": sheet.struck,
    }


def readings(said: dict) -> dict:
    """A record's values as the engine takes them: without what was typed, coupons with their number."""
    count = said.get("count")
    plain = {name: {k: v for k, v in r.items() if k != "typed"} for name, r in said["values"].items()}
    return {name: r | {"count": count} if count and r["origin"] == "coupon" else r for name, r in plain.items()}


def stocked(workshop) -> list[dict]:
    """The workshop's material records, by name: ``name``, ``grade`` and ``own`` readings."""
    rows = Sheet.objects.filter(workshop=workshop, kind=PREFIX + "material", struck=None)
    said = sorted((r.content["record"] for r in rows), key=lambda r: r["name"].lower())
    return [{"name": r["name"], "grade": r["grade"], "own": readings(r)} for r in said]


def _content(workshop, kind: str, sheet_id) -> dict:
    """A record also when it lies in the bin: a job that rests on it goes on as before."""
    if not sheet_id:
        return {"name": None, "values": {}}
    try:
        sheet = Sheet.objects.filter(id=UUID(str(sheet_id)), workshop=workshop, kind=PREFIX + kind).first()
    except ValueError:
        sheet = None
    if sheet is None:
        raise Refused("no_such_record", f"There is no such {KINDS[kind]} record.", "Choose another one.", 422)
    return sheet.content["record"]


def capability_of(workshop, machine, material, profile) -> dict:
    """The capability record of machine × material × profile, the latest measured; empty where there is none."""
    if not machine:
        return {"name": None, "values": {}}
    rows = Sheet.objects.filter(workshop=workshop, kind=PREFIX + "capability", struck=None).values_list(
        "content", flat=True
    )
    wanted = {"machine": str(machine), "material": str(material), "profile": profile and str(profile)}
    fits = [r["record"] for r in rows if all(r["record"][k] == v for k, v in wanted.items())]
    return max(fits, key=lambda r: r["measured"] or "", default={"name": None, "values": {}})


WORDS = {"limit": "overhang limit", "layer": "layer height", "width": "line width"}


def differing(before: dict, now: dict) -> list[str]:
    """What a process differs in from an earlier one, in words; what the earlier one did not know yet is left aside."""
    told = []
    for name, value in now.items():
        was, words = before.get(name, value), WORDS.get(name, name.replace("_", " "))
        if was != value:
            numbers = isinstance(value, int | float) and isinstance(was, int | float)
            told.append(f"{words} {was:g} → {value:g}" if numbers else words)
    return told


FITS = ("press", "location", "sliding", "free", "in_place")


def fits_of(workshop, said: dict) -> dict[str, dict]:
    """Clearance per side (mm) of every fit on a job's process, with its origin."""
    said = process_choice(said)
    capability = capability_of(workshop, said["machine"], said["material"], said["profile"])
    values = bridge.filled("capability", readings(capability))
    return {name: values[f"fit_{name}"] for name in FITS}


def process_of(workshop, said: dict) -> dict:
    """The numbers of a job's process and where each is from.

    ``numbers`` is what the engine takes; ``origins`` name → {origin, record}; ``names`` of the records.
    """
    said = process_choice(said)
    machine = _content(workshop, "machine", said["machine"])
    profile = _content(workshop, "profile", said["profile"])
    if said["material"] in bridge.generic():
        material = {"name": bridge.generic()[said["material"]], "grade": said["material"], "values": {}}
    else:
        material = _content(workshop, "material", said["material"])
    capability = capability_of(workshop, said["machine"], said["material"], said["profile"])
    try:
        numbers, origins = bridge.process(
            readings(machine),
            {"grade": material["grade"], "own": readings(material)},
            readings(profile),
            readings(capability),
            said["grade"],
            {name: said[name] for name in TYPED if said[name] is not None},
        )
    except bridge.InputError as error:
        raise unusable(error) from None
    return {
        "numbers": numbers,
        "origins": {name: {"origin": o, "record": r} for name, (o, r) in origins.items()},
        "names": {
            "machine": machine["name"],
            "material": material["name"],
            "profile": profile["name"],
            "capability": capability["name"],
        },
        "said": said,
    }
