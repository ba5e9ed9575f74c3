"""Parts: list, import, facts, the solid for the screen, the oriented file."""

import json
from datetime import datetime, timedelta
from typing import Literal
from uuid import UUID

from django.core.serializers.json import DjangoJSONEncoder
from django.http import HttpRequest, HttpResponse
from django.utils.text import slugify
from ninja import File, Form, Router, Schema, Status
from ninja.files import UploadedFile
from pydantic import Field

from accounts.models import User
from desk import intake, shelf
from farm.forms import Origin, ProcessIn
from farm.queries import Farm
from hewel.digest import digest
from hewel.refusal import Edition, Problem, Refused
from hewel.responses import BYTES, download, for_good
from needs import queries as needs
from needs.schemas import JobOut
from parts import actions, queries
from parts.job import Desk
from parts.models import Part
from parts.schemas import Uncarried
from sheets.actions import KEPT_DAYS
from store import actions as store
from studies import queries as studies
from studies.schemas import ChoiceOut
from studies.view import DirectedJob, view_of
from work.api import WorkOut

router = Router(tags=["parts"])


class Bore(Schema):
    centre_mm: list[float]
    axis: list[float]
    diameter_mm: float
    depth_mm: float
    through: bool


class Flat(Schema):
    normal: list[float]
    area_mm2: float
    centre_mm: list[float]


class Facts(Schema):
    triangles: int
    bodies: int
    watertight: bool
    volume_mm3: float | None
    area_mm2: float
    bbox_mm: list[list[float]]
    centre_of_mass_mm: list[float]
    bores: list[Bore] | None
    """None while they are being looked for."""
    flats: list[Flat]


class Warn(Schema):
    code: str
    message: str


class PartRow(Schema):
    id: UUID
    sheet: UUID
    name: str
    revision: int
    revises: UUID | None
    """The part that this one is a revision of."""
    created: datetime
    size_mm: list[float]
    settled: bool
    note: str
    labels: list[str]
    material: str
    by: str
    picture: str
    """Names its picture, which changes with the solid and with the direction that was chosen."""
    standing: dict[str, str]
    """State of every stage when something of the part last changed."""


class StruckRow(Schema):
    """A part in the bin."""

    id: UUID
    sheet: UUID
    name: str
    struck: datetime
    by: str
    until: datetime


class OriginOut(Schema):
    """Where a number of the process is from: how it is known, and which record says so."""

    origin: Origin
    record: Literal["machine", "profile", "capability", "job", "portable"]


class ProcessOut(Schema):
    """The process of the job as the farm's records give it now."""

    given: ProcessIn
    names: dict[str, str | None]
    numbers: dict[str, float | str | bool | dict | None]
    origins: dict[str, OriginOut]


class CarriedOut(Schema):
    """The direction that was chosen for an earlier ``revision``, with its reason: to be confirmed."""

    up: list[float]
    reason: str
    revision: int


class UnitAsked(Schema):
    """Of a file that names no unit: the mm that one of its own was read as, and its longest side in its own."""

    scale_mm: float
    longest: float


class UnitSaid(Schema):
    work: WorkOut | None
    """Reading it anew; null where it is as it was read."""


class PartOut(PartRow):
    version: int
    desk: Desk
    file_name: str
    file_format: str
    scale_mm: float
    by: str
    facts: Facts
    warnings: list[Warn]
    unit_asked: UnitAsked | None
    exact: bool
    """Whether it can be given out as STEP."""
    uncarried: list[Uncarried]
    """Edits that are not in the STEP."""
    view: str
    ghost: str
    study: UUID
    choice: ChoiceOut | None
    carried: CarriedOut | None
    job: JobOut
    process: ProcessOut
    cautions: list[str]
    acknowledged: bool
    frozen: bool
    """It is released: its job is read only."""


def _row(part: Part | queries.Listed, farm: Farm, by: str) -> dict:
    """A part in a list: from its card, without its sheet."""
    known = {name: part.card[name] for name in ("name", "size_mm", "settled", "note", "labels")}
    return known | {
        "id": part.id,
        "sheet": part.sheet_id,
        "revision": part.revision,
        "revises": part.before_id,
        "created": part.created,
        "material": shelf.material(farm, part.card),
        "by": by,
        "picture": digest(part.view_id, part.card["up"])[:16],
        "standing": part.standing,
    }


@router.get("", response=list[PartRow], operation_id="list_parts")
def list_parts(request: HttpRequest):
    """Every part in use, the newest first. Of thousands too: what is said of each stands in its own row, and the answer
    is written as it is: to check it against its schema takes longer than all the rest.
    """
    workshop = request.user.workshop
    farm, people = Farm(workshop), {u.id: u.shown_name for u in User.objects.filter(workshop=workshop)}
    rows = [_row(p, farm, people[p.by_id]) for p in queries.listed_rows(request.user)]
    words = json.dumps(rows, cls=DjangoJSONEncoder, separators=(",", ":"))
    return HttpResponse(words, content_type="application/json")


@router.get("/table", operation_id="get_parts_table", openapi_extra=BYTES)
def get_parts_table(request: HttpRequest, ids: str = ""):
    """The parts as CSV, those named by ``ids`` (with commas) or all."""
    return download(shelf.table_csv(request.user, ids), "text/csv; charset=utf-8", "parts.csv")


class TogetherIn(Schema):
    parts: list[UUID] = Field(min_length=1, max_length=500)
    action: Literal["bin", "label", "unlabel", "check"]
    label: str = Field("", max_length=60)


class Outcome(Schema):
    part: UUID
    problem: str | None
    """Why nothing was done with it; null where it was."""


@router.post("/together", response={200: list[Outcome], 403: Problem, 422: Problem}, operation_id="act_on_parts")
def act_on_parts(request: HttpRequest, body: TogetherIn):
    """One action for several parts, each by itself: what cannot be done with one holds up no other."""
    return shelf.together(request.user, body.parts, body.action, body.label)


@router.get("/bin", response=list[StruckRow], operation_id="list_bin")
def list_bin(request: HttpRequest):
    """What was struck and can still be brought back."""
    return [
        {
            "id": p.id,
            "sheet": p.sheet_id,
            "name": p.name,
            "struck": p.sheet.struck,
            "by": p.sheet.struck_by.shown_name,
            "until": p.sheet.struck + timedelta(days=KEPT_DAYS),
        }
        for p in queries.parts_of(request.user, struck=True)
    ]


@router.post(
    "", response={202: WorkOut, 403: Problem, 404: Problem, 413: Problem, 422: Problem}, operation_id="import_part"
)
def import_part(
    request: HttpRequest,
    file: File[UploadedFile],
    name: Form[str] = "",
    units: Form[str] = "auto",
    revises: Form[UUID | None] = None,
):
    """Takes a file in; ``revises`` names the part that it revises, whose requirements and loads it takes over."""
    before = queries.part_of(request.user, revises) if revises else None
    return Status(202, actions.enqueue_intake(request.user, file, name, units, before))


@router.get("/{part_id}", response={200: PartOut, 404: Problem}, operation_id="get_part")
def get_part(request: HttpRequest, part_id: UUID):
    return _out(view_of(request.user, part_id))


class UnitIn(Schema):
    units: Literal["as read", "mm", "cm", "m", "in"]


@router.post(
    "/{part_id}/unit",
    response={200: UnitSaid, 403: Problem, 404: Problem, 409: Problem, 422: Problem},
    operation_id="say_unit",
)
def say_unit(request: HttpRequest, part_id: UUID, payload: UnitIn):
    """Says the unit of a file that names none: as it was read, or another, in which it is read anew."""
    return {"work": actions.say_unit(request.user, queries.part_of(request.user, part_id), payload.units)}


class ScaleIn(Schema):
    factor: float


@router.post(
    "/{part_id}/scaled",
    response={202: WorkOut, 403: Problem, 404: Problem, 422: Problem},
    operation_id="scale_part",
)
def scale_part(request: HttpRequest, part_id: UUID, payload: ScaleIn):
    """Makes a variant of another size, a revision whose every check starts anew."""
    part = queries.part_of(request.user, part_id)
    choice = DirectedJob(part).choice
    return Status(202, actions.enqueue_scaled(request.user, part, payload.factor, choice and choice.up))


@router.post(
    "/{part_id}/beside",
    response={201: PartRow, 403: Problem, 404: Problem},
    operation_id="begin_revision",
)
def begin_revision(request: HttpRequest, part_id: UUID):
    """A revision beside the part, of the same solid, on which the job can be written otherwise."""
    made = intake.beside(request.user, queries.part_of(request.user, part_id))
    return Status(201, _row(made, Farm(request.user.workshop), made.by.shown_name))


class SectionsIn(Schema):
    base: Edition
    """The edition of the job that was on the screen."""
    sections: dict[str, dict]


@router.put(
    "/{part_id}/job",
    response={200: PartOut, 403: Problem, 404: Problem, 409: Problem, 422: Problem},
    operation_id="write_job",
)
def write_job(request: HttpRequest, part_id: UUID, body: SectionsIn):
    """Writes sections of the job, all or none; 409 with both versions where somebody else wrote in the same place."""
    part = queries.part_of(request.user, part_id)
    actions.write(request.user, part, body.base, body.sections)
    return _out(DirectedJob(part))


def _out(view: DirectedJob) -> dict:
    part, job, choice = view.part, view.job, view.choice
    return _row(part, view.farm, part.by.shown_name) | {
        "file_name": part.file_name,
        "file_format": part.file_format,
        "scale_mm": part.scale_mm,
        "by": part.by.shown_name,
        "facts": part.facts,
        "warnings": part.warnings,
        "unit_asked": queries.unit_asked(part),
        "exact": queries.exact_of(part) is not None,
        "uncarried": part.uncarried,
        "view": part.view_id,
        "ghost": part.ghost_id,
        "version": part.sheet.version,
        "desk": job["desk"],
        "study": view.study.id,
        "choice": choice and studies.choice_out(view, choice),
        "carried": job["carried"],
        "job": {name: job[name] for name in JobOut.model_fields},
        "process": view.farm_process,
        "cautions": needs.cautions(job),
        "acknowledged": needs.acknowledged(job),
        "frozen": part.sheet.frozen is not None,
    }


@router.get("/{part_id}/picture/{name}", operation_id="get_picture", openapi_extra=BYTES)
def get_picture(request: HttpRequest, part_id: UUID, name: str):
    """The part drawn with its layers, PNG; ``name`` is that which the list gives, so that a browser may keep it. A list
    may still ask while a part is thrown away.
    """
    return for_good(shelf.picture(queries.part_of(request.user, part_id, binned=True)), "image/png")


class CopyIn(Schema):
    of: UUID
    base: Edition
    """The edition of the job that was on the screen."""


@router.post(
    "/{part_id}/job-of",
    response={200: PartOut, 403: Problem, 404: Problem, 409: Problem, 422: Problem},
    operation_id="copy_job",
)
def copy_job(request: HttpRequest, part_id: UUID, body: CopyIn):
    """Takes over what another part's job says that rests on no face of it: what it must do, process, circumstances."""
    part, other = (queries.part_of(request.user, which) for which in (part_id, body.of))
    actions.copy_job(request.user, part, other, body.base)
    return _out(DirectedJob(queries.part_of(request.user, part_id)))


@router.get("/{part_id}/shape/{digest}", operation_id="get_shape", openapi_extra=BYTES)
def get_shape(request: HttpRequest, part_id: UUID, digest: str):
    """The solid for drawing, named by its digest so that a browser may keep it for good."""
    part = queries.part_of(request.user, part_id)
    blob = {part.view_id: part.view, part.ghost_id: part.ghost, part.first_view_id: part.first_view}.get(digest)
    if blob is None:
        raise Refused("not_found", "This part has no such shape.", "Reload the page.", 404)
    return for_good(store.get(blob))


@router.get("/{part_id}/file", operation_id="get_file", openapi_extra=BYTES)
def get_file(request: HttpRequest, part_id: UUID, kind: Literal["stl", "3mf", "step"] = "3mf"):
    """The part standing in the chosen direction on z = 0, in millimetres; as STEP its exact solid in its own frame."""
    part = queries.part_of(request.user, part_id)
    needs.require_release(request.user, part)
    name = slugify(part.name) or "part"
    if kind == "step":
        exact = queries.exact_of(part)
        if exact is None:
            hint = "Give it out as 3MF or STL."
            raise Refused("no_step", "The part has no exact solid: it did not come from a STEP file.", hint, 409)
        return download(store.get(exact), "model/step", f"{name}.step")
    data = studies.oriented_file(DirectedJob(part), kind)
    return download(data, "model/stl" if kind == "stl" else "model/3mf", f"{name}-oriented.{kind}")
