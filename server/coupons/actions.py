"""Writing coupons' sheets, and taking what they say into the farm's capability records."""

from uuid import UUID

from django.db import transaction
from django.utils import timezone

from accounts.models import User
from accounts.roles import require
from coupons import bridge, forms, queries
from farm import actions as farm
from farm.queries import Farm
from hewel.refusal import Refused
from sheets import actions as sheets
from sheets.models import Sheet


def begin(user: User, given: dict) -> Sheet:
    require(user, "edit")
    content = _content(user, given)
    return sheets.begin(user, queries.KIND, {"coupon": content}, "coupon begun")


def amend(user: User, sheet_id: UUID, base: int, given: dict) -> Sheet:
    require(user, "edit")
    sheet = queries.sheet_of(user, sheet_id)
    content = _content(user, given)
    before = sheet.content["coupon"]
    if content["key"] != before["key"]:
        raise Refused("other_coupon", "A sheet stays one of its coupon.", "Begin another sheet.", 422)
    return sheets.amend(user, sheet.id, base, {"coupon": content}, _words(before, content))


def _words(before: dict, after: dict) -> str:
    was, now = len(before["rows"]), len(after["rows"])
    if was != now:
        return f"{abs(now - was)} reading{'s' * (abs(now - was) > 1)} {'added' if now > was else 'taken out'}"
    names = [name for name in after if after[name] != before[name]]
    return ", ".join(n.replace("rows", "readings").replace("_", " ") for n in names)[:120] or "nothing"


def _content(user: User, given: dict) -> dict:
    try:
        content = forms.content(given)
    except bridge.InputError as no:
        raise Refused(no.code, no.message, no.hint, 422) from None
    Farm(user.workshop).process(queries.combined(content))  # its records are the workshop's own
    return content


@transaction.atomic
def take(user: User, sheet_id: UUID, names: list[str]) -> Sheet:
    """Takes numbers of a sheet into the capability record of its machine × material × process; begins one where there
    is none. Answers the record's sheet.
    """
    require(user, "edit")
    sheet = queries.sheet_of(user, sheet_id)
    given, now = sheet.content["coupon"], Farm(user.workshop)
    if given["compensated"]:
        raise Refused(
            "compensated", "It was printed with compensation on: its numbers are what is left of that.",
            "Print it with scaling, widening and inset off, or keep it as a check.", 422,
        )  # fmt: skip
    told, where = queries.out(now, sheet), queries.combined(given)
    found = {f["name"]: f for f in told["found"] if f["name"]}
    lost = [n for n in names if n not in found]
    if lost or not names:
        raise Refused("no_number", "These readings do not give that number.", "Reload the page.", 422)
    day = given["printed"] or timezone.localdate().isoformat()
    values = {name: _reading(found[name], sheet, day) for name in names}
    return farm.put_measured(user, where, values, day, given["operator"])


def _reading(found: dict, sheet: Sheet, day: str) -> dict:
    n, p = found["count"], found["plates"]
    value = queries.rounded(found["value"])
    return {
        "typed": value, "origin": "coupon", "low": min(queries.rounded(found["low"]), value),
        "high": max(queries.rounded(found["high"]), value), "count": n, "plates": p,
        "deviation": found["deviation"], "measured": day, "sheet": str(sheet.id),
        "note": f"{n} reading{'s' * (n > 1)}, {p} plate{'s' * (p > 1)}",
    }  # fmt: skip
