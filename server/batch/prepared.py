"""A prepared file read beside the plate that was calculated: taking it in, what becomes of it, what it tells."""

from pathlib import PurePath
from typing import Any

from django.conf import settings
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from django.utils import timezone

from accounts.models import User
from accounts.roles import require
from audit.actions import record
from batch import bridge
from batch.models import BatchAnalysis, PreparedFile
from batch.queries import Batches, pauses_of
from batch.stage import machine_of
from hewel.refusal import Refused, not_found, reason_given
from store import actions as store
from strength import queries as strength
from studies.view import DirectedJob
from work.actions import enqueue, owned_attempt
from work.computations import Computation, always
from work.models import Work


def take_in(
    user: User, view: DirectedJob, analysis: BatchAnalysis, file: UploadedFile, mode: str, copies: int
) -> PreparedFile:
    """Keeps the file until it is read, and orders its reading beside so many copies of this plate."""
    require(user, "edit")
    if file.size > settings.UPLOAD_LIMIT:
        raise Refused("too_large", "The file is larger than 200 MiB.", "Prepare fewer copies, or coarser.", 413)
    if file.size == 0:
        raise Refused("empty_file", "The file is empty.", "Prepare the plate again.", 422)
    found = Batches(view, analysis).options(mode, [copies])
    if not found:
        most = len(analysis.result["items"][mode])
        raise Refused("too_many", f"{copies} do not stand on this plate.", f"Look at {most} or fewer first.", 422)
    at = found[0]["at"]
    layer = at["layer"] if at["fails_at"] is None or at["fails_at"] < 0 else at["fails_at"]
    name = PurePath((file.name or "plate").replace("\\", "/")).name.replace("\x00", "")[:255] or "plate"
    with transaction.atomic():
        kept = PreparedFile.objects.create(
            analysis=analysis, mode=mode, copies=copies, name=name, source=store.put_file(file), by=user
        )
        arguments = {"file": str(kept.id), "z": (layer + 0.5) * analysis.result["layer_mm"]}
        kept.work = enqueue(user, "prepared", arguments, f"{view.part.name}, {name}", view.part.id)
        kept.save(update_fields=["work"])
        record(user, "prepared file read", kept, after={"name": name, "part": str(view.part.id)})
        return kept


def _given(work: Work) -> dict:
    kept = PreparedFile.objects.select_related("source", "analysis__layers", "analysis__part__sheet").get(
        id=work.arguments["file"]
    )
    view = DirectedJob(kept.analysis.part)
    return {
        "file": store.get(kept.source),
        "process": kept.analysis.process,
        "filament": machine_of(view)["filament"],
        "layers": store.get(kept.analysis.layers),
        "result": kept.analysis.result,
        "mode": kept.mode,
        "copies": kept.copies,
        "pauses": pauses_of(view),
        "z": work.arguments["z"],
    }


def _keep(work: Work, name: str, value: Any) -> None:
    with owned_attempt(work):
        PreparedFile.objects.filter(id=work.arguments["file"], work=work).update(**{name: value})


def _ended(work: Work) -> None:
    """What was sent is not needed any more; what it says is kept."""
    with transaction.atomic():
        kept = PreparedFile.objects.select_for_update().filter(id=work.arguments["file"], work=work).first()
        if kept and kept.source_id:
            digest, kept.source = kept.source_id, None
            kept.save(update_fields=["source"])
            store.forget(digest)


COMPUTATIONS = (
    Computation(
        kind="prepared",
        function="batch.bridge.compare",
        arguments=_given,
        priority=6,
        quick=always,
        limit=300,
        keep=_keep,
        ended=_ended,
    ),
)


def of_user(user: User, file_id: Any) -> PreparedFile:
    """Raises Refused ``not_found`` where it is none of the person's workshop."""
    rows = PreparedFile.objects.filter(
        id=file_id, analysis__part__workshop=user.workshop_id, analysis__part__sheet__struck=None
    )
    kept = rows.select_related("work", "by", "analysis__part__sheet", "analysis__layers").first()
    if kept is None:
        raise not_found("prepared file")
    return kept


def accept(user: User, kept: PreparedFile, number: int, reason: str | None) -> None:
    """Settles a difference by its number: it may stay, for that reason; None takes that back."""
    require(user, "edit")
    with transaction.atomic():
        row = PreparedFile.objects.select_for_update().get(id=kept.id)
        rows = (row.result or {}).get("differences", [])
        if number >= len(rows) or rows[number]["state"] == "good":
            raise Refused("no_finding", "There is no such difference to settle.", "Load the page again.", 422)
        row.accepted.pop(str(number), None)
        if reason is not None:
            reason = reason_given(reason, "Say why it may stay.")
            row.accepted[str(number)] = {"by": user.shown_name, "at": timezone.now().isoformat(), "reason": reason}
        row.save(update_fields=["accepted"])
        record(user, "difference settled", row, after={"words": rows[number]["words"], "reason": reason})
    kept.accepted = row.accepted


def _told(kept: PreparedFile) -> dict:
    """What a file says, each difference with how it is settled."""
    rows = [row | {"accepted": kept.accepted.get(str(i))} for i, row in enumerate(kept.result["differences"])]
    return {name: value for name, value in kept.result.items() if name != "waits"} | {"differences": rows}


def prepared_out(view: DirectedJob, kept: PreparedFile) -> dict:
    """What a file tells, and the reserve with the waits that it really makes."""
    result, reserve = kept.result, None
    solved = result and strength.answering(view, kept.analysis.up)
    if solved:
        known = Batches(view, kept.analysis)
        value, low = bridge.welds_after(known.laid, result["waits"])
        (reserve,) = strength.reserves_by_weld(view, solved, value[None], low[None])
    return {
        "id": kept.id,
        "name": kept.name,
        "mode": kept.mode,
        "copies": kept.copies,
        "by": kept.by.shown_name,
        "at": kept.at,
        "work": kept.work,
        "result": result and _told(kept),
        "reserve": reserve and reserve["reserve"],
        "low": reserve and reserve["low"],
    }
