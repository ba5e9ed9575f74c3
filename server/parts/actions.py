"""Taking parts in, writing on their jobs, throwing away what has lain in the bin."""

from collections.abc import Iterable
from datetime import datetime, timedelta
from pathlib import PurePath

from django.conf import settings
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from django.db.models import Q
from django.dispatch import Signal

from accounts.models import User
from accounts.roles import require
from audit.actions import record
from hewel.refusal import Refused
from needs.actions import proved
from parts import bridge, job
from parts.models import Part
from parts.queries import GUESSED, card_of, kin, unit_asked
from sheets import actions as sheets
from store import actions as store
from store.models import Blob
from work.actions import enqueue
from work.models import Work

UNITS = ("auto", *bridge.UNITS_MM)
came_in = Signal()
"""``part`` is there with all that is found of it, by order of ``user``; ``later``: nobody waits for it."""


def enqueue_intake(user: User, file: UploadedFile, name: str, units: str, revises: Part | None = None) -> Work:
    """Keeps the uploaded file and orders its reading. The part exists once the file has proved readable."""
    require(user, "edit")
    if units not in UNITS:
        raise Refused("bad_options", f"There is no unit {units!r}.", "Use auto, mm, cm, m or in.", 422)
    if file.size > settings.UPLOAD_LIMIT:
        raise Refused("too_large", "The file is larger than 200 MiB.", "Export it with a coarser tolerance.", 413)
    if file.size == 0:
        raise Refused("empty_file", "The file is empty.", "Export the part again.", 422)
    file_name = PurePath((file.name or "part").replace("\\", "/")).name.replace("\x00", "")[:255] or "part"
    known = revises.name if revises else PurePath(file_name).stem
    name = " ".join(name.replace("\x00", "").split())[:120] or known[:120] or "part"
    with transaction.atomic():
        blob = store.put_file(file)
        arguments = {"name": name, "file_name": file_name, "units": units, "source": blob.digest}
        if revises:
            arguments["revises"] = str(revises.id)
        twin = _twin(user, blob)
        note = f"The same file is here already, as “{twin}”." if twin else ""
        work = enqueue(user, "intake", arguments, name, note=note)
        record(user, "import ordered", work, after=arguments)
        return work


AS_READ = "as read"


@transaction.atomic
def say_unit(user: User, part: Part, units: str) -> Work | None:
    """Confirms the unit that a file was guessed to be in (AS_READ), or has the file read anew in another, in place.
    Raises Refused where nothing is asked, or where something rests on its size already.
    """
    require(user, "edit")
    part = Part.objects.select_for_update().get(id=part.id)
    asked = unit_asked(part)
    if asked is None:
        raise Refused("not_asked", "The unit of this part is known.", "Reload the page.", 409)
    if units == AS_READ or bridge.UNITS_MM[units] == part.scale_mm:
        given = {"code": "unit_said", "message": f"The file names no unit; one of its own is {part.scale_mm:g} mm."}
        part.warnings = [given if w["code"] == GUESSED else w for w in part.warnings]
        part.save(update_fields=["warnings"])
        record(user, "unit confirmed", part, after={"scale_mm": part.scale_mm})
        return None
    if part.job["regions"]["rows"] or part.job["choice"] or part.revisions.exists():
        raise Refused(
            "in_use",
            "Faces, a direction or a revision rest on the size it was read in.",
            "Bring the file in again in its right unit, as a revision of this part.",
            409,
        )
    arguments = {"name": part.name, "file_name": part.file_name, "units": units, "source": part.source_id}
    work = enqueue(user, "intake", arguments | {"corrects": str(part.id)}, part.name, part.id)
    record(user, "unit corrected", part, after={"units": units})
    return work


def _read_anew(work: Work, pieces: dict) -> Part:
    """The same part in another unit; what it was before is kept by nobody."""
    part = Part.objects.select_for_update().get(id=work.arguments["corrects"], workshop=work.workshop)
    before = {part.solid_id, part.view_id, part.ghost_id, part.first_view_id}
    part.units, part.first_view = work.arguments["units"], None
    for name in ("solid", "view", "ghost"):
        setattr(part, name, store.put(pieces[name]))
    for name, value in pieces["facts"].items():
        setattr(part, name, value)
    part.card = card_of(part)
    part.save()
    forget_unused(before)
    return part


def put_card(part: Part) -> None:
    """What lists say of the part is what its sheet says now."""
    part.card = card_of(part)
    Part.objects.filter(id=part.id).update(card=part.card)


def _twin(user: User, blob: Blob) -> str | None:
    """The name of a part of the workshop that came from the very same file."""
    rows = Part.objects.filter(workshop=user.workshop_id, source=blob, sheet__struck=None)
    return next((p.name for p in rows.select_related("sheet")), None)


@transaction.atomic
def enqueue_adapted(
    user: User, part: Part, file: Blob, recipe: dict, name: str | None = None, exact: Blob | None = None,
    uncarried: list[dict] | None = None,
) -> Work:  # fmt: skip
    """Orders a revision of ``part`` from a file that was made of it here, in millimetres, and the recipe of that; a
    piece of it has a ``name`` of its own. ``exact``: the same as STEP, but for what is ``uncarried``.
    """
    require(user, "edit")
    stem = PurePath(part.file_name).stem
    arguments = {
        "name": (name or part.name)[:120],
        "file_name": f"{stem}-adapted.3mf",
        "units": "mm",
        "source": file.digest,
        "revises": str(part.id),
        "recipe": recipe,
        "exact": exact and exact.digest,
        "uncarried": [*part.uncarried, *(uncarried or [])] if exact else [],
    }
    return enqueue(user, "intake", arguments, arguments["name"])


SCALES = (0.05, 20.0)


@transaction.atomic
def enqueue_scaled(user: User, part: Part, factor: float, up: list[float] | None) -> Work:
    """Orders a variant of another size, to be looked at in direction ``up`` first. It is a new part: no check of this
    one holds for it, so each starts anew.
    """
    require(user, "edit")
    if not SCALES[0] <= factor <= SCALES[1] or factor == 1:
        raise Refused(
            "bad_options",
            f"A factor of {factor:g} makes no variant.",
            f"Use {SCALES[0]:g} to {SCALES[1]:g}, not 1.",
            422,
        )
    file = store.put(bridge.scaled(store.get(part.solid), factor, part.name))
    recipe = {"of": str(part.id), "up": up, "steps": [], "scale": factor}
    work = enqueue_adapted(user, part, file, recipe, f"{part.name}, × {factor:g}")
    record(user, "scaled variant ordered", part, after={"factor": factor})
    return work


@transaction.atomic
def create_part(work: Work, pieces: dict) -> Part:
    arguments, result = work.arguments, pieces["facts"]
    if "corrects" in arguments:
        return _read_anew(work, pieces)
    before = Part.objects.filter(id=arguments.get("revises"), workshop=work.workshop).first()
    if before:
        content = job.revised(
            arguments["name"], before.job, pieces["regions"], before.revision, arguments.get("recipe")
        )
    else:
        given = {name: job.checked(name, value) for name, value in arguments.get("job", {}).items()}
        content = job.fresh(arguments["name"], arguments.get("note", "")) | given
    sheet = sheets.begin(work.by, job.KIND, content, f"came in, revises {before.name}"[:120] if before else "came in")
    part = Part.objects.create(
        workshop=work.workshop,
        by=work.by,
        sheet=sheet,
        before=before,
        revision=1 + max(p.revision for p in kin(before)) if before else 1,
        recipe=arguments.get("recipe"),
        exact_id=arguments.get("exact"),
        uncarried=arguments.get("uncarried", []),
        file_name=arguments["file_name"],
        units=arguments["units"],
        source_id=arguments["source"],
        solid=store.put(pieces["solid"]),
        view=store.put(pieces["view"]),
        ghost=store.put(pieces["ghost"]),
        **result,
    )
    put_card(part)
    record(work.by, "part taken in", part, after={"name": part.name, "source": part.source_id, "units": part.units})
    return part


def complete_part(work: Work, part: Part, features: dict) -> None:
    """What was found after the part was shown: bores, the drawing that knows them, faults of a close look."""
    part.facts, part.first_view, part.view = features["facts"], part.view, store.put(features["view"])
    part.warnings = part.warnings + features["notes"]
    part.save(update_fields=["facts", "first_view", "view", "warnings"])
    came_in.send(Part, part=part, user=work.by, later=bool(work.arguments.get("later")))


def write(user: User, part: Part, base: int, sections: dict) -> None:
    """Writes sections of the job as seen from edition ``base``, all in one edit."""
    require(user, "edit")
    given = proved(part, {name: job.checked(name, value) for name, value in sections.items()})
    part.sheet = sheets.amend(user, part.sheet_id, base, given, job.words(part.job, given))
    part.card = card_of(part)


@transaction.atomic
def branched(user: User, part: Part) -> Part:
    """A revision beside the part, of the same solid: its job comes along, to be confirmed, and can be written on."""
    require(user, "edit")
    content = job.revised(part.name, part.job, part.job["regions"]["rows"], part.revision, None)
    sheet = sheets.begin(user, job.KIND, content, f"beside revision {part.revision}")
    same = ("workshop", "file_name", "file_format", "units", "scale_mm", "source", "solid", "view", "ghost", "facts",
            "exact", "uncarried", "warnings")  # fmt: skip
    made = Part.objects.create(
        **{name: getattr(part, name) for name in same}, by=user, sheet=sheet, before=part,
        revision=1 + max(p.revision for p in kin(part)),
    )  # fmt: skip
    put_card(made)
    record(user, "revision begun", made, after={"name": made.name, "beside": part.revision})
    return made


COPIED = ("need", "requirements", "service")
"""What a job takes over from another part's: all that rests on no face of it."""


def copy_job(user: User, part: Part, other: Part, base: int) -> None:
    """Writes what another part must do into this one's job, in place of what stands there, and its process with it."""
    require(user, "edit")
    given = {name: other.job[name] for name in COPIED} | {"process": other.job["process"]}
    part.sheet = sheets.amend(user, part.sheet_id, base, given, f"job of {other.name} copied")


def forget_source(work: Work) -> None:
    """A refused file is not kept, unless a part or another order still needs it."""
    forget_unused([work.arguments["source"]], but_for=work)


def forget_unused(digests: Iterable[str | None], but_for: Work | None = None) -> None:
    """Stored content that nothing points to any more goes."""
    waiting = Work.objects.filter(kind="intake", state__in=Work.OPEN)
    if but_for:
        waiting = waiting.exclude(id=but_for.id)
    for digest in set(digests) - {None}:
        if not waiting.filter(Q(arguments__source=digest) | Q(arguments__exact=digest)).exists():
            store.forget(digest)


def forget_first_views(now: datetime) -> None:
    """Drawings that were replaced an hour ago or more: no page waits for them any more."""
    for part in Part.objects.filter(created__lt=now - timedelta(hours=1)).exclude(first_view=None):
        digest, part.first_view = part.first_view_id, None
        part.save(update_fields=["first_view"])
        forget_unused([digest])


def forget_left_behind(now: datetime) -> None:
    """Content that nothing has pointed to for a day: what could not go when it was let go."""
    forget_unused(store.unused(now - timedelta(days=1)))


def throw_away(now: datetime) -> int:
    """Ends what has lain in the bin for longer than it is kept. How many parts."""
    old = Part.objects.filter(sheet__struck__lt=now - timedelta(days=sheets.KEPT_DAYS))
    count = 0
    for part in old.select_related("sheet"):
        with transaction.atomic():
            digests = store.content_below(Part.objects.filter(id=part.id))
            record(part.sheet.struck_by, "thrown away", part, before={"name": part.name})
            part.delete()
            part.sheet.delete()
            forget_unused(digests)
        count += 1
    return count
