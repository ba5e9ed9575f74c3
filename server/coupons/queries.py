"""Coupons of a workshop: their sheets with what the readings give, and which numbers of the farm are missing or old."""

from collections import Counter
from datetime import date
from typing import Any
from uuid import UUID

from django.utils import timezone

from accounts.models import User, Workshop
from coupons import bridge
from farm.forms import LINKS, ProcessIn, validated
from farm.queries import Farm, combination
from hewel.refusal import not_found
from hewel.rounding import significant
from parts.queries import parts_of
from sheets.models import Sheet

KIND = "coupon"


def sheets_of(workshop: Workshop) -> list[Sheet]:
    rows = Sheet.objects.filter(workshop=workshop, kind=KIND, struck=None)
    return list(rows.order_by("-created"))


def sheet_of(user: User, sheet_id: UUID) -> Sheet:
    sheet = Sheet.objects.filter(id=sheet_id, workshop=user.workshop_id, kind=KIND, struck=None).first()
    if sheet is None:
        raise not_found("coupon")
    return sheet


def combined(given: dict) -> dict:
    """Machine, material and process that something belongs to, as a job chooses them. Raises Refused."""
    return validated(ProcessIn, {name: given[name] for name in LINKS}, "process").model_dump(mode="json")


def known(farm: Farm, where: dict) -> Any:
    """What else a coupon's numbers rest on, by the farm's records."""
    numbers, machine = farm.numbers("capability", where), farm.numbers("machine", where)
    own = farm.capability(where)["values"].get("z_t")
    return bridge.known(
        farm.process(where)["numbers"], numbers, own and own["value"], machine["chamber_c"], machine["film"]
    )


def out(farm: Farm, sheet: Sheet) -> dict:
    """A sheet with what its readings give now, beside what the record holds."""
    given = sheet.content["coupon"]
    where = combined(given)
    told = bridge.fit(given["key"], given["rows"], known(farm, where))
    record = farm.capability(where)
    for found in told["found"]:
        held = record["values"].get(found["name"])
        found["held"] = held and held["value"]
        found["taken"] = bool(held and held.get("sheet") == str(sheet.id) and _same(held["value"], found["value"]))
    return given | told | {"id": sheet.id, "version": sheet.version, "names": farm.process(where)["names"]}


def _same(held: float, found: float) -> bool:
    return abs(held - rounded(found)) < 1e-9


def rounded(value: float) -> float:
    """A number as it goes into a record: four significant figures."""
    return float(significant(value, 4))


def listed(farm: Farm, sheets: list[Sheet]) -> list[dict]:
    """The sheets by name, without their readings."""
    titles = {s["key"]: s["title"] for s in bridge.catalogue()}
    rows = []
    for sheet in sheets:
        given = sheet.content["coupon"]
        rows.append({
            "id": sheet.id, "key": given["key"], "title": titles[given["key"]], "printed": given["printed"],
            "count": len(given["rows"]), "plates": len({r["plate"] for r in given["rows"]}),
            "names": farm.process(combined(given))["names"],
        })  # fmt: skip
    return rows


def leaning(user: User) -> dict[tuple, int]:
    """Jobs by the machine, material and process that they stand on."""
    return Counter(combination(part.job["process"]) for part in parts_of(user))


def coverage(wanted: dict[tuple, int], farm: Farm, today: date | None = None) -> list[dict]:
    """Of every machine × material × process that a job or a record stands on: what coupons could say, what they say,
    how old that is, and how many jobs lean on it. Where no machine is named no coupon counts.
    """
    today = today or timezone.localdate()
    wanted = {key: n for key, n in wanted.items() if key[0]}
    for record in farm.records("capability"):
        if record["machine"]:
            wanted.setdefault(combination(record), 0)
    kinds = {s["key"]: s for s in bridge.catalogue()}
    givers = {name: [kinds[k] for k in keys] for name, keys in bridge.given_by().items() if keys}
    out = []
    for key, jobs in sorted(wanted.items(), key=lambda row: -row[1]):
        where = combined(dict(zip(LINKS, key, strict=True)))
        record = farm.capability(where)
        numbers = [_number(name, coupons, record, today) for name, coupons in givers.items()]
        out.append({"where": where, "names": farm.process(where)["names"], "jobs": jobs, "numbers": numbers})
    return out


def _number(name: str, coupons: list[dict], record: dict, today: date) -> dict:
    held = record["values"].get(name)
    own = bool(held and held["origin"] == "coupon")
    day = held and (held.get("measured") or record.get("measured"))
    age = (today - date.fromisoformat(day)).days if own and day else None
    thin = bool(own and held.get("plates") and held["plates"] < max(c["least"] for c in coupons))
    old = age is not None and age > 30.44 * max(c["months"] for c in coupons)
    state = "missing" if not own else "old" if old else "thin" if thin else "known"
    return bridge.words_of(name) | {
        "name": name, "coupons": [c["key"] for c in coupons], "value": held and held["value"], "state": state,
        "age_days": age, "sheet": held and held.get("sheet"),
    }  # fmt: skip
