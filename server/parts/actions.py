"""Taking parts in."""

from pathlib import PurePath

from audit.actions import record
from django.conf import settings
from django.db import transaction

from accounts.roles import require
from hewel.refusal import Refused
from parts.models import Part
from store import actions as store
from store.models import Blob
from work.actions import order_work
from work.models import Work

UNITS = ("auto", "mm", "cm", "m", "in")


def order_intake(user, file, name: str, units: str) -> Work:
    """Keeps the uploaded file and orders its reading. The part exists once the file has proved readable."""
    from parts.tasks import intake

    require(user, "edit")
    if units not in UNITS:
        raise Refused("bad_options", f"There is no unit {units!r}.", "Use auto, mm, cm, m or in.", 422)
    if file.size > settings.UPLOAD_LIMIT:
        raise Refused("too_large", "The file is larger than 200 MiB.", "Export it with a coarser tolerance.", 413)
    if file.size == 0:
        raise Refused("empty_file", "The file is empty.", "Export the part again.", 422)
    file_name = PurePath((file.name or "part").replace("\\", "/")).name.replace("\x00", "")[:255] or "part"
    name = " ".join(name.replace("\x00", "").split())[:120] or PurePath(file_name).stem[:120] or "part"
    with transaction.atomic():
        blob = store.put_file(file)
        order = {"name": name, "file_name": file_name, "units": units, "source": blob.digest}
        work = order_work(user, "intake", order, intake)
        record(user, "import ordered", work, after=order)
        return work


@transaction.atomic
def create_part(work: Work, pieces: dict) -> Part:
    order, told = work.order, pieces["facts"]
    part = Part.objects.create(
        workshop=work.workshop,
        by=work.by,
        name=order["name"],
        note=order.get("note", ""),
        file_name=order["file_name"],
        units=order["units"],
        source_id=order["source"],
        solid=store.put(pieces["solid"]),
        view=store.put(pieces["view"]),
        ghost=store.put(pieces["ghost"]),
        **told,
    )
    record(work.by, "part taken in", part, after={"name": part.name, "source": part.source_id, "units": part.units})
    return part


def forget_source(work: Work) -> None:
    """A refused file is not kept, unless a part or another order still needs it."""
    digest = work.order["source"]
    waiting = Work.objects.filter(kind="intake", order__source=digest, state__in=["waiting", "running"])
    if not Part.objects.filter(source_id=digest).exists() and not waiting.exclude(id=work.id).exists():
        Blob.objects.filter(digest=digest).delete()
