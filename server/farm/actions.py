"""Writing the farm's records, one at a time or from a table. Every change is an edition."""

from uuid import UUID

from django.db import transaction

from accounts.models import User
from accounts.roles import require
from farm import bridge, forms, queries
from farm.forms import LINKS, as_typed
from farm.tables import read_table
from hewel.refusal import Refused
from sheets import actions as sheets
from sheets.models import Sheet


def begin(user: User, kind: str, given: dict) -> Sheet:
    require(user, "edit")
    content = forms.record(kind, given)
    _own_links(user, content)
    _free(user, kind, content)
    return sheets.begin(user, queries.PREFIX + kind, {"record": content}, f"{forms.KINDS[kind]} record")


def amend(user: User, sheet_id: UUID | str, base: int, given: dict) -> Sheet:
    require(user, "edit")
    sheet = queries.record(user, sheet_id)
    kind = queries.kind_of(sheet)
    content = forms.record(kind, given)
    _own_links(user, content)
    _free(user, kind, content, but_for=sheet)
    return sheets.amend(user, sheet.id, base, {"record": content}, words(sheet.content["record"], content))


@transaction.atomic
def put_measured(user: User, where: dict, values: dict, day: str, operator: str) -> Sheet:
    """What was measured, into the capability record of a job's machine, material and process (``where``), its other
    values as they are; begins one where there is none.
    """
    require(user, "edit")
    farm = queries.Farm(user.workshop)
    record = farm.capability(where)
    if record["name"] is None:
        names = farm.process(where)["names"]
        name = " · ".join(names[k] for k in LINKS if names[k])
        begun = {"name": _unused(user, name), "values": values, "measured": day, "operator": operator}
        return begin(user, "capability", begun | {k: where[k] for k in LINKS})
    held = next(s for s in queries.records(user, "capability") if s.content["record"] == record)
    return put_values(user, held, values)


def put_values(user: User, sheet: Sheet, values: dict) -> Sheet:
    """Values into a record, its others as they are."""
    record = sheet.content["record"]
    return amend(user, sheet.id, sheet.version, record | {"values": as_typed(record["values"]) | values})


def _unused(user: User, name: str) -> str:
    """A name that no capability record has."""
    taken = {s.content["record"]["name"].lower() for s in queries.records(user, "capability")}
    tries = [name[:80], *(f"{name[:70]}, {k}" for k in range(2, 1000))]
    return next(n for n in tries if n.lower() not in taken)


def set_machines(user: User, sheet: Sheet, machines: list[dict]) -> Sheet:
    """A machine model's record with its machines changed, nothing else."""
    require(user, "edit")
    before = sheet.content["record"]
    content = before | {"machines": machines}
    return sheets.amend(user, sheet.id, sheet.version, {"record": content}, words(before, content))


def words(before: dict, after: dict) -> str:
    """The change in words: the fields that differ."""
    names = [
        n for n in sorted({**before["values"], **after["values"]}) if before["values"].get(n) != after["values"].get(n)
    ]
    names += [n for n in sorted(after) if n != "values" and after[n] != before.get(n)]
    return ", ".join(n.replace("_", " ") for n in names)[:120] or "nothing"


def _own_links(user: User, content: dict) -> None:
    """A record names other records of its own workshop only, the bin's among them. Raises Refused."""
    farm = queries.Farm(user.workshop)
    for kind in LINKS:
        if content.get(kind) not in bridge.generic():
            farm.content(kind, content.get(kind))


def _free(user: User, kind: str, content: dict, but_for: Sheet | None = None) -> None:
    """No two records of a kind have one name, no two sizes are of the same thing. Raises Refused."""
    name, of = content["name"], lambda record: (record.get("item"), record.get("size"))
    others = [s.content["record"] for s in queries.records(user, kind) if s != but_for]
    if any(r["name"].lower() == name.lower() for r in others):
        raise Refused("name_taken", f"There is already a {forms.KINDS[kind]} record “{name}”.", "Give it another name.")
    same = next((r for r in others if kind == "size" and of(r) == of(content)), None)
    if same:
        what = f"{content['item'].replace('_', ' ')} {content['size']}"
        words = f"“{same['name']}” already says what the workshop's {what} is."
        raise Refused("name_taken", words, "Change that record.")


def linked(user: User, given: dict) -> dict:
    """``given`` with the names of other records become the records themselves."""
    given = dict(given)
    for kind in LINKS:
        name = given.get(kind)
        if not name or (kind == "material" and name in bridge.generic()):
            continue
        found = [s for s in queries.records(user, kind) if name in (s.content["record"]["name"], str(s.id))]
        if not found:
            raise Refused(
                "bad_table",
                f"“{given['name']}”: there is no {forms.KINDS[kind]} record “{name[:40]}”.",
                "Nothing was changed. Bring that record in first.",
                422,
            )
        given[kind] = str(found[0].id)
    return given


@transaction.atomic
def take_table(user: User, kind: str, text: str) -> dict:
    """Puts in what a CSV table says, all of it or nothing. Records are known by their names.

    Fields that the table does not name stay as they are.
    """
    require(user, "edit")
    have = {s.content["record"]["name"].lower(): s for s in queries.records(user, kind)}
    begun, changed = [], []
    for name, given in read_table(kind, text, {k: s.content["record"] for k, s in have.items()}).items():
        given = linked(user, given)
        sheet = have.get(name.lower())
        if sheet is None:
            begin(user, kind, given)
            begun.append(name)
        elif amend(user, sheet.id, sheet.version, given).version != sheet.version:
            changed.append(name)
    return {"begun": begun, "changed": changed}
