"""Reading the farm's records, and the process that a job gets from them."""

from collections.abc import Iterable
from typing import Any
from uuid import UUID

from accounts.models import User, Workshop
from farm import bridge
from farm.forms import FROM_SHEET, KINDS, LINKS, TYPED, process_choice
from hewel.refusal import Refused, not_found, unusable
from sheets.models import Sheet

PREFIX = "farm-"


def records(user: User, kind: str | None = None, struck: bool = False) -> list[Sheet]:
    """The workshop's records, by name; of one kind, or of all."""
    kinds = [PREFIX + k for k in ([kind] if kind else KINDS)]
    rows = Sheet.objects.filter(workshop=user.workshop_id, kind__in=kinds, struck__isnull=not struck)
    return sorted(rows, key=lambda s: (s.kind, s.content["record"]["name"].lower()))


def machine_records(workshop: Workshop) -> list[Sheet]:
    """The workshop's machine models in use, by name."""
    rows = Sheet.objects.filter(workshop=workshop, kind=PREFIX + "machine", struck=None)
    return sorted(rows, key=lambda s: s.content["record"]["name"].lower())


def record(user: User, sheet_id: UUID | str) -> Sheet:
    sheet = Sheet.objects.filter(id=sheet_id, workshop=user.workshop_id, kind__startswith=PREFIX, struck=None).first()
    if sheet is None:
        raise not_found("record")
    return sheet


def kind_of(sheet: Sheet) -> str:
    return sheet.kind.removeprefix(PREFIX)


def out(sheet: Sheet) -> dict:
    kind, given = kind_of(sheet), sheet.content["record"]
    filled = bridge.filled(kind, readings(given), given.get("grade"))
    typed = {name: r["typed"] for name, r in given["values"].items() if r.get("typed")}
    return {
        "id": sheet.id,
        "kind": kind,
        "version": sheet.version,
        "record": given,
        "values": {
            name: r
            | {"given": name in given["values"], "typed": typed.get(name), **_told(given["values"].get(name, {}))}
            for name, r in filled.items()
        },
        "struck": sheet.struck,
    }


def _told(reading: dict) -> dict:
    """What a value that came from a coupon's sheet says of that."""
    return {name: reading.get(name) for name in FROM_SHEET}


OF_ENGINE = ("value", "origin", "low", "high", "note", "count")


def readings(given: dict) -> dict:
    """A record's values as the engine takes them: without what was typed, coupons with their number."""
    count = given.get("count")
    plain = {name: {k: r[k] for k in OF_ENGINE if k in r} for name, r in given["values"].items()}
    return {name: {"count": count} | r if count and r["origin"] == "coupon" else r for name, r in plain.items()}


def combination(given: dict) -> tuple[str | None, ...]:
    """The machine, material and profile that something stands on, to be compared with others."""
    return tuple(given[name] and str(given[name]) for name in LINKS)


WORDS = {"own": "numbers of its material", "limit": "overhang limit", "layer": "layer height", "width": "line width"}


def differing(before: dict, now: dict) -> list[str]:
    """What a process differs in from an earlier one, in words; what the earlier one did not know yet is left aside."""
    result = []
    for name, value in now.items():
        was, words = before.get(name, value), WORDS.get(name, name.replace("_", " "))
        if was != value:
            numbers = isinstance(value, int | float) and isinstance(was, int | float)
            result.append(f"{words} {was:g} → {value:g}" if numbers else words)
    return result


NOTHING = {"name": None, "values": {}}


class Farm:
    """A workshop's records, all read at once: what a job's process, its fits and its stock are made of."""

    def __init__(self, workshop: Workshop):
        rows = Sheet.objects.filter(workshop=workshop, kind__startswith=PREFIX)
        self._sheets = {str(r.id): r for r in rows}

    def records(self, kind: str) -> list[dict]:
        """The records of a kind that are in use."""
        rows = [r for r in self._sheets.values() if r.kind == PREFIX + kind and r.struck is None]
        return [r.content["record"] for r in rows]

    def stock(self) -> list[dict]:
        """The material records in use, by name: ``name``, ``grade`` and ``own`` readings."""
        rows = sorted(self.records("material"), key=lambda r: r["name"].lower())
        return [{"name": r["name"], "grade": r["grade"], "own": readings(r)} for r in rows]

    def sizes(self) -> list[dict[str, Any]]:
        """The workshop's own sizes of hardware: ``item``, ``size``, and those of its numbers that are known."""
        rows = [
            {"item": r["item"], "size": r["size"], "values": {n: v["value"] for n, v in r["values"].items()}}
            for r in sorted(self.records("size"), key=lambda r: r["name"])
        ]
        return [row for row in rows if row["values"]]

    def content(self, kind: str, sheet_id: str | None) -> dict:
        """A record also when it lies in the bin: what rests on it goes on as before. Raises Refused where it is none
        of the workshop's.
        """
        if not sheet_id:
            return NOTHING
        sheet = self._sheets.get(str(sheet_id).lower())
        if sheet is None or sheet.kind != PREFIX + kind:
            raise Refused("no_such_record", f"There is no such {KINDS[kind]} record.", "Choose another one.", 422)
        return sheet.content["record"]

    def material(self, key: str) -> dict:
        """A material record, or a generic grade, which is its own ``grade``. Raises Refused where it is neither."""
        if key in bridge.generic():
            return {"name": bridge.generic()[key], "grade": key, "values": {}}
        return self.content("material", key)

    def capability(self, given: dict) -> dict:
        """The capability record of a process's machine × material × profile, the latest measured; empty where there is
        none.
        """
        if not given["machine"]:
            return NOTHING
        fits = [r for r in self.records("capability") if combination(r) == combination(given)]
        return max(fits, key=lambda r: r["measured"] or "", default=NOTHING)

    def _record(self, kind: str, given: dict) -> dict:
        given = process_choice(given)
        return self.capability(given) if kind == "capability" else self.content(kind, given[kind])

    def numbers(self, kind: str, given: dict) -> dict[str, Any]:
        """Every value of the machine, profile or capability record of a job's process; starting values where it says
        nothing.
        """
        return {name: r["value"] for name, r in bridge.filled(kind, readings(self._record(kind, given))).items()}

    def from_coupons(self, kind: str, given: dict, names: Iterable[str]) -> list[str]:
        """Which of the fields were measured on coupons of the farm."""
        values = self._record(kind, given)["values"]
        return [name for name in names if values.get(name, {}).get("origin") == "coupon"]

    def fits(self, given: dict) -> dict[str, dict]:
        """Clearance per side (mm) to be drawn for every fit between pieces of a part, with its origin."""
        return bridge.drawn_gaps(self.process(given)["numbers"], self.fit_readings(given))

    def fit_readings(self, given: dict, scaled: bool = False) -> dict[str, dict]:
        """What of a job's capability and profile records a fit rests on: readings by record and field; where they say
        nothing, starting values. ``scaled``: whether the part leaves larger by what it shrinks.
        """
        kinds = ("capability", "profile")
        found = {k: bridge.of_fits(k, bridge.filled(k, readings(self._record(k, given)))) for k in kinds}
        if scaled:  # then nothing is left of it that a face would have to be drawn for
            found["profile"]["compensates_shrinkage"] |= {"value": True, "origin": "own"}
        return found

    def scale(self, job: dict) -> tuple[float, float] | None:
        """How much larger than it is drawn a job's part leaves, in plan and along the build direction; None where it
        leaves as it is drawn: nobody asks for more, or what prepares it for the machine scales it already.
        """
        given = job["process"]
        if not job["touching"]["scaled"] or self.numbers("profile", given)["compensates_shrinkage"]:
            return None
        return bridge.scale(self.process(given)["numbers"], self.fit_readings(given))

    def process(self, given: dict) -> dict:
        """The numbers of a job's process and where each is from.

        ``numbers`` is what the engine takes; ``origins`` name → {origin, record}; ``names`` of the records.
        """
        given = process_choice(given)
        machine, profile = self.content("machine", given["machine"]), self.content("profile", given["profile"])
        material = self.material(given["material"])
        capability = self.capability(given)
        try:
            numbers, origins = bridge.process(
                readings(machine),
                {"grade": material["grade"], "own": readings(material)},
                readings(profile),
                readings(capability),
                given["grade"],
                {name: given[name] for name in TYPED if given[name] is not None},
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
            "given": given,
        }


def process_of(workshop: Workshop, given: dict) -> dict:
    """See ``Farm.process``."""
    return Farm(workshop).process(given)
