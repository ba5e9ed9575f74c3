"""At the machines: travellers, prints, the plate's file."""

from uuid import UUID

from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from django.utils.text import slugify
from ninja import File, Form, Router, Status, UploadedFile

from floor import actions, plates, traveller
from floor.schemas import CommandIn, CountIn, PausePictureOut, StartIn, TicksIn, TravellerOut
from hewel.photos import kind_of
from hewel.printing import pdf
from hewel.refusal import Problem, Refused
from hewel.responses import BYTES, download
from store import actions as store
from week.models import Print

router = Router(tags=["floor"])
WRITES = {200: TravellerOut, 201: TravellerOut, 403: Problem, 404: Problem, 409: Problem, 413: Problem, 422: Problem}


def _of(request: HttpRequest, order_id: UUID, number: int) -> dict:
    return traveller.traveller_of(traveller.of_workshop(request.user.workshop, order_id), number, timezone.now())


def _print(request: HttpRequest, p: Print) -> dict:
    return _of(request, p.order_id, p.number)


@router.get("/plates/{order_id}/{number}", response={200: TravellerOut, 404: Problem}, operation_id="get_traveller")
def get_traveller(request: HttpRequest, order_id: UUID, number: int):
    return _of(request, order_id, number)


@router.get(
    "/plates/{order_id}/{number}/seats", response={200: list[PausePictureOut], 404: Problem}, operation_id="get_seats"
)
def get_seats(request: HttpRequest, order_id: UUID, number: int):
    """At every pause what somebody looks down on."""
    return traveller.seats_of(traveller.of_workshop(request.user.workshop, order_id), number)


@router.get("/plates/{order_id}/{number}/paper", operation_id="get_traveller_paper", openapi_extra=BYTES)
def get_traveller_paper(request: HttpRequest, order_id: UUID, number: int):
    """The traveller on two pages of paper, PDF."""
    told = _of(request, order_id, number)
    order = traveller.of_workshop(request.user.workshop, order_id)
    drawn = {s["step"]: s for s in traveller.seats_of(order, number)}
    told["steps"] = [s | {"picture": drawn.get(s["key"])} for s in told["steps"]]
    return download(pdf("traveller.html", {"t": told}), "application/pdf", f"{slugify(told['part'])}-{number + 1}.pdf")


@router.get("/plates/{order_id}/{number}/file", operation_id="get_plate_file", openapi_extra=BYTES)
def get_plate_file(request: HttpRequest, order_id: UUID, number: int):
    """The plate with every copy where it stands, 3MF; the mark of its content in the name."""
    order = traveller.of_workshop(request.user.workshop, order_id)
    plates.require_printable(request.user, order)
    if not 0 <= number < len(order.plates):
        raise Refused("not_found", "There is no such plate.", "Reload the page.", 404)
    name = f"{slugify(order.part.name) or 'part'}-plate-{number + 1}-{plates.mark_of(order, number)}.3mf"
    return download(plates.file_of(order, number), "model/3mf", name)


@router.post("/plates/{order_id}/{number}/prints", response=WRITES, operation_id="start_print")
def start_print(request: HttpRequest, order_id: UUID, number: int, payload: StartIn):
    """The plate goes to a machine."""
    order = traveller.of_workshop(request.user.workshop, order_id)
    return Status(201, _print(request, actions.start(request.user, order, number, payload.machine)))


@router.post("/plates/{order_id}/{number}/ticks", response=WRITES, operation_id="tick_steps")
def tick_steps(request: HttpRequest, order_id: UUID, number: int, payload: TicksIn):
    """Steps done or undone, perhaps some time ago."""
    order = traveller.of_workshop(request.user.workshop, order_id)
    actions.tick(request.user, order, number, [(t.step, t.at, t.done) for t in payload.ticks])
    return _of(request, order_id, number)


@router.post("/prints/{print_id}/command", response=WRITES, operation_id="command_print")
def command_print(request: HttpRequest, print_id: UUID, payload: CommandIn):
    return _print(request, actions.command(request.user, print_id, payload.what))


@router.post("/prints/{print_id}/count", response=WRITES, operation_id="count_plate")
def count_plate(request: HttpRequest, print_id: UUID, payload: CountIn):
    """The plate is taken off and its parts are counted."""
    return _print(request, actions.take_off(request.user, print_id, payload.good, payload.bad))


@router.post("/prints/{print_id}/fault", response=WRITES, operation_id="record_fault")
def record_fault(
    request: HttpRequest,
    print_id: UUID,
    words: Form[str] = "",
    photo: UploadedFile | None = File(None),  # noqa: B008
):
    """Somebody saw it go wrong, perhaps with a photo."""
    return _print(request, actions.fault(request.user, print_id, words, photo))


@router.get("/prints/{print_id}/photo", operation_id="get_fault_photo", openapi_extra=BYTES)
def get_fault_photo(request: HttpRequest, print_id: UUID):
    rows = Print.objects.filter(id=print_id, order__workshop=request.user.workshop_id).select_related("photo")
    found = rows.first()
    if found is None or found.photo is None:
        raise Refused("not_found", "There is no such photo.", "Reload the page.", 404)
    data = store.get(found.photo)
    return HttpResponse(data, content_type=kind_of(data))
