"""Coupons: sheets of readings, what is missing on the farm, files to print, runs of a test stand."""

from typing import Literal
from uuid import UUID, uuid4

from django.http import HttpRequest
from ninja import File, Form, Router, Status
from ninja.files import UploadedFile

from accounts.roles import require
from coupons import actions, bridge, curves, queries, stand
from coupons.forms import CouponIn
from coupons.schemas import (
    BarCurve,
    CouponEdit,
    CouponOut,
    CouponsOut,
    PullIn,
    PullOut,
    PullRows,
    TakenNumbers,
    TakeNumbers,
)
from farm.queries import Farm
from hewel.refusal import Problem, Refused, not_found, unusable
from hewel.responses import BYTES, download
from needs.queries import require_release

router = Router(tags=["coupons"])
WRITES = {403: Problem, 404: Problem, 409: Problem, 422: Problem}
LARGEST_CURVE = 20 * 1024 * 1024


def _out(request: HttpRequest, sheet) -> dict:
    return queries.out(Farm(request.user.workshop), sheet)


def _sheet_of_run(request: HttpRequest, coupon_id: UUID, run: str):
    """The sheet that a run of the stand was started from: its name begins with the sheet's, so that nobody else's is
    followed or stopped.
    """
    sheet = queries.sheet_of(request.user, coupon_id)
    if not run.startswith(sheet.id.hex):
        raise not_found("run")
    return sheet


@router.get("", response=CouponsOut, operation_id="get_coupons")
def get_coupons(request: HttpRequest):
    """Every coupon there is, the workshop's sheets, and which numbers of the farm are missing, old or thin."""
    farm, jobs = Farm(request.user.workshop), queries.leaning(request.user)
    return {
        "kinds": bridge.catalogue(),
        "sheets": queries.listed(farm, queries.sheets_of(request.user.workshop)),
        "coverage": queries.coverage(jobs, farm),
        "without_machine": sum(n for key, n in jobs.items() if not key[0]),
        "stand": stand.there(),
    }


@router.post("", response={201: CouponOut, **WRITES}, operation_id="begin_coupon")
def begin_coupon(request: HttpRequest, coupon: CouponIn):
    return Status(201, _out(request, actions.begin(request.user, coupon.model_dump(mode="json"))))


@router.get("/file/{key}", operation_id="get_coupon_file", openapi_extra=BYTES)
def get_coupon_file(
    request: HttpRequest, key: str, machine: UUID | None = None, material: str = "petg", profile: UUID | None = None,
    mark: str = "", kind: Literal["stl", "3mf"] = "3mf",
):  # fmt: skip
    """A coupon to be printed, for a machine, material and process of the farm."""
    require_release(request.user, None)
    farm = Farm(request.user.workshop)
    where = queries.combined({"machine": machine, "material": material, "profile": profile})
    bed = farm.numbers("machine", where)
    try:
        process = farm.process(where)["numbers"]
        data = bridge.file_of(key, process, min(bed["bed_x"], bed["bed_y"]), mark.strip()[:24], kind)
    except bridge.InputError as no:
        raise unusable(no) from None
    return download(data, "model/stl" if kind == "stl" else "model/3mf", f"coupon-{key}.{kind}")


@router.get("/view/{key}", operation_id="get_coupon_view", openapi_extra=BYTES)
def get_coupon_view(request: HttpRequest, key: str):
    """How a coupon looks, as bodies are drawn."""
    try:
        return download(bridge.view_of(key), "application/octet-stream", f"{key}.view")
    except bridge.InputError as no:
        raise unusable(no) from None


@router.get("/{coupon_id}", response={200: CouponOut, 404: Problem}, operation_id="get_coupon")
def get_coupon(request: HttpRequest, coupon_id: UUID):
    return _out(request, queries.sheet_of(request.user, coupon_id))


@router.put("/{coupon_id}", response={200: CouponOut, **WRITES}, operation_id="amend_coupon")
def amend_coupon(request: HttpRequest, coupon_id: UUID, edit: CouponEdit):
    sheet = actions.amend(request.user, coupon_id, edit.base, edit.coupon.model_dump(mode="json"))
    return _out(request, sheet)


@router.post("/{coupon_id}/take", response={200: TakenNumbers, **WRITES}, operation_id="take_numbers")
def take_numbers(request: HttpRequest, coupon_id: UUID, asked: TakeNumbers):
    """Takes numbers into the capability record of its machine × material × process."""
    return {"record": actions.take(request.user, coupon_id, asked.names).id}


@router.post("/{coupon_id}/pull", response={201: PullOut, **WRITES}, operation_id="pull_bar")
def pull_bar(request: HttpRequest, coupon_id: UUID, bar: PullIn):
    """Puts a bar of this sheet into the test stand."""
    require(request.user, "edit")
    sheet = queries.sheet_of(request.user, coupon_id)
    run = sheet.id.hex + uuid4().hex
    given = sheet.content["coupon"]
    kind = bridge.STEEL if bar.steel else bridge.BARS.get(given["key"])
    if kind is None:
        raise Refused("not_pulled", "This coupon is measured, not pulled.", "Type its readings.", 422)
    names = Farm(request.user.workshop).process(queries.combined(given))["names"]
    words = {"kind": kind, "plastic": names["material"], "plate": bar.plate, "number": bar.number}
    stand.start(run, words | {"layer_s": bar.layer_s, "fault": bar.fault})
    return Status(201, {"run": run})


@router.get("/{coupon_id}/pull/{run}", response={200: BarCurve, **WRITES}, operation_id="read_pull")
def read_pull(
    request: HttpRequest, coupon_id: UUID, run: str, steel: bool = False, width: float | None = None,
    thickness: float | None = None,
):  # fmt: skip
    """What a run of the stand says: where it broke, strength, stiffness."""
    sheet = _sheet_of_run(request, coupon_id, run)
    rows = stand.rows(run, 0)["rows"]
    return curves.read(sheet, [r[1] for r in rows], [r[2] for r in rows], steel, width, thickness)


@router.get("/{coupon_id}/pull/{run}/rows", response={200: PullRows, **WRITES}, operation_id="get_pull")
def get_pull(request: HttpRequest, coupon_id: UUID, run: str, begin: int = 0):
    """Rows of a run from the ``begin``-th on."""
    _sheet_of_run(request, coupon_id, run)
    return stand.rows(run, max(begin, 0))


@router.post("/{coupon_id}/pull/{run}/stop", response={200: PullOut, **WRITES}, operation_id="stop_pull")
def stop_pull(request: HttpRequest, coupon_id: UUID, run: str):
    require(request.user, "edit")
    _sheet_of_run(request, coupon_id, run)
    stand.stop(run)
    return {"run": run}


@router.post("/{coupon_id}/curve", response={200: BarCurve, 413: Problem, **WRITES}, operation_id="read_curve")
def read_curve(
    request: HttpRequest, coupon_id: UUID, file: File[UploadedFile], stroke: Form[int | None] = None,
    force: Form[int | None] = None, stroke_unit: Form[str] = "", force_unit: Form[str] = "",
    steel: Form[bool] = False, width: Form[float | None] = None, thickness: Form[float | None] = None,
):  # fmt: skip
    """What the file of a run says. Columns are guessed by their names and units where they are not chosen."""
    require(request.user, "edit")
    sheet = queries.sheet_of(request.user, coupon_id)
    if file.size > LARGEST_CURVE:
        raise Refused("too_large", "The file is larger than 20 MiB.", "Thin it out, to 200 rows a second.", 413)
    return curves.from_file(sheet, file.read(), (stroke, force, stroke_unit, force_unit), steel, width, thickness)
