"""The farm's library: records, their history (see sheets), and tables of them."""

from datetime import date, datetime
from typing import Literal
from uuid import UUID

from django.http import HttpRequest
from ninja import File, Router, Schema, Status
from ninja.files import UploadedFile

from farm import actions, bridge, queries, tables
from farm.forms import KINDS, Origin, RecordIn, Unit
from hewel.refusal import Edition, Problem, Refused
from hewel.responses import download

router = Router(tags=["farm"])

Kind = Literal["machine", "material", "profile", "capability", "size"]
LARGEST_TABLE = 2 * 1024 * 1024
CSV = {"responses": {200: {"description": "CSV", "content": {"text/csv": {"schema": {"type": "string"}}}}}}


class FieldOut(Schema):
    """What a record of a kind can say: a number with its unit and bounds, a choice, or a mark."""

    name: str
    words: str
    unit: str
    kind: Literal["number", "choice", "mark"]
    low: float
    high: float
    choices: list[str]


class ReadingOut(Schema):
    value: float | str | bool | None
    origin: Origin
    low: float | None
    high: float | None
    note: str
    typed: str | None
    count: int | None
    plates: int | None
    deviation: float | None
    measured: date | None
    sheet: UUID | None
    """Of a value from a coupon's sheet: readings, plates, scatter, the day, the sheet."""
    given: bool
    """Whether the record itself says so; else it is the starting value."""


class RecordText(Schema):
    """What a record says beside its numbers; the later entries belong to some kinds only."""

    name: str
    note: str
    machines: list[Unit] = []
    grade: str | None = None
    machine: UUID | None = None
    material: str | None = None
    profile: UUID | None = None
    measured: str | None = None
    operator: str = ""
    count: int | None = None
    item: str = "heat_set_insert"
    size: str = ""


class RecordOut(Schema):
    id: UUID
    kind: Kind
    version: int
    record: RecordText
    values: dict[str, ReadingOut]
    struck: datetime | None


class FarmOut(Schema):
    fields: dict[Kind, list[FieldOut]]
    grades: dict[str, str]
    """Generic materials by key."""
    items: dict[str, list[str]]
    """Items of the table of sizes, and what numbers one has."""
    origins: dict[Origin, str]
    records: list[RecordOut]
    struck: list[RecordOut]


class RecordEdit(Schema):
    base: Edition
    record: RecordIn


class TableOut(Schema):
    begun: list[str]
    changed: list[str]


@router.get("", response=FarmOut, operation_id="get_farm")
def get_farm(request: HttpRequest):
    """Every record of the workshop, what each kind can say, and the starting values behind them."""
    return {
        "fields": {kind: bridge.fields(kind) for kind in KINDS},
        "grades": bridge.generic(),
        "items": bridge.items(),
        "origins": bridge.ORIGINS,
        "records": [queries.out(s) for s in queries.records(request.user)],
        "struck": [queries.out(s) for s in queries.records(request.user, struck=True)],
    }


@router.post("", response={201: RecordOut, 403: Problem, 409: Problem, 422: Problem}, operation_id="begin_record")
def begin_record(request: HttpRequest, kind: Kind, record: RecordIn):
    return Status(201, queries.out(actions.begin(request.user, kind, record.model_dump(mode="json"))))


@router.get("/table", operation_id="get_table", openapi_extra=CSV)
def get_table(request: HttpRequest, kind: Kind):
    """All records of a kind as CSV, one line a field."""
    names = {str(s.id): s.content["record"]["name"] for s in queries.records(request.user)}
    text = tables.write_table(kind, [s.content["record"] for s in queries.records(request.user, kind)], names)
    return download(text, "text/csv; charset=utf-8", f"{KINDS[kind]}-records.csv")


@router.post("/table", response={200: TableOut, 403: Problem, 409: Problem, 422: Problem}, operation_id="take_table")
def take_table(request: HttpRequest, kind: Kind, file: File[UploadedFile]):
    """Puts a table in: all of it, or nothing and the line that is wrong."""
    if file.size > LARGEST_TABLE:
        raise Refused("too_large", "The table is larger than 2 MiB.", "Bring it in in pieces.", 422)
    try:
        text = file.read().decode("utf-8-sig")
    except UnicodeDecodeError:
        raise Refused("bad_table", "The table is not UTF-8.", "Save it as CSV, UTF-8.", 422) from None
    return actions.take_table(request.user, kind, text)


@router.put(
    "/{record_id}",
    response={200: RecordOut, 403: Problem, 404: Problem, 409: Problem, 422: Problem},
    operation_id="amend_record",
)
def amend_record(request: HttpRequest, record_id: UUID, edit: RecordEdit):
    return queries.out(actions.amend(request.user, record_id, edit.base, edit.record.model_dump(mode="json")))
