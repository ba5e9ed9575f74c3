"""What is known of a job's release: what it still waits for, what was released, what two releases differ in."""

from uuid import UUID

from accounts.models import User
from hewel.refusal import not_found
from parts.queries import family
from release import gate
from release.models import Release
from sheets.changes import changed, spoken
from sheets.models import Edition
from stages.stage import State
from studies.view import DirectedJob


def release_of(user: User, release_id: UUID) -> Release:
    rows = Release.objects.filter(part__workshop=user.workshop_id, part__sheet__struck=None)
    found = rows.filter(id=release_id).select_related("part__sheet", "packet", "by", "reviewer").first()
    if found is None:
        raise not_found("release")
    return found


def out(given: Release) -> dict:
    return {
        "id": given.id, "part": given.part_id, "part_name": given.part.name, "revision": given.part.revision,
        "kind": given.kind, "state": given.state, "waiver": given.waiver, "note": given.note, "edition": given.version,
        "direction": given.told["direction"], "by": given.by.shown_name, "at": given.at,
        "reviewer": given.reviewer and given.reviewer.shown_name, "reviewed": given.reviewed, "review": given.review,
        "digest": given.packet_id,
    }  # fmt: skip


def state_out(view: DirectedJob, user: User) -> dict:
    """Both kinds with what each still waits for, the reserve with generic settings, and all releases of the family."""
    kin = family(view.part)
    rows = Release.objects.filter(part__in=kin).select_related("part__sheet", "by", "reviewer")
    state, reserve, case = gate.generic_reserve(view)
    return {
        "kinds": [
            {"kind": kind, "missing": [m.as_dict() for m in gate.missing(view, kind)]} for kind in Release.Kind.values
        ],
        "generic": {"reserve": reserve, "case": case, "busy": state["busy"], "loaded": gate.loaded(view)},
        "frozen": view.part.sheet.frozen,
        "least_reason": gate.LEAST_REASON,
        "injures": view.job["need"]["use"] == "injury",
        "releases": [out(r) | {"mine": r.by_id == user.id} for r in rows],
    }


def differences(one: Release, other: Release) -> list[dict]:
    """What two releases differ in, in words: the solid, the direction, and every place of the job."""
    rows = []
    for name in ("revision", "direction", "kind", "engine"):
        a, b = one.told.get(name), other.told.get(name)
        if a != b:
            rows.append({"what": name, "one": str(a), "other": str(b)})
    if one.part.solid_id != other.part.solid_id:
        volume = lambda r: f"{r.part.facts['volume_mm3']:.1f} mm³"
        rows.append({"what": "solid", "one": volume(one), "other": volume(other)})
    contents = [Edition.objects.get(sheet=r.part.sheet_id, number=r.version).content for r in (one, other)]
    for path, pair in changed(*contents).items():
        if path and path[0] in ("choice", "batch", "settled", "caution"):
            continue
        rows.append({"what": spoken(path), "one": _short(pair[0]), "other": _short(pair[1])})
    return rows


def _short(value: object) -> str:
    words = "–" if value in (None, "", [], {}) else str(value)
    return words if len(words) <= 120 else words[:117] + "…"


def _newest(views: list[DirectedJob]) -> dict[UUID, Release]:
    """The newest release of each of several parts."""
    rows = Release.objects.filter(part__in=[v.part.id for v in views]).order_by("at")
    return {r.part_id: r for r in rows.only("part_id", "state", "kind", "at")}


def state(view: DirectedJob) -> State:
    newest = view.together.once("releases", lambda: _newest(view.together.views)).get(view.part.id)
    if newest is None or newest.state == Release.State.REFUSED:
        return {"state": "empty", "line": "not released", "busy": False}
    if newest.state == Release.State.ASKED:
        return {"state": "open", "line": "waits for a second person", "busy": False}
    return {"state": "settled", "line": f"{newest.kind}, {newest.at:%-d %b}", "busy": False}
