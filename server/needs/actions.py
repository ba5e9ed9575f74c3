"""Writing what a part must do: sections proved on the part, cautions read, lists marked complete."""

import secrets
from typing import Any

from django.utils import timezone

from accounts.models import User
from accounts.roles import require
from farm.forms import validated
from hewel.refusal import Refused, unusable
from needs import bridge, forms, queries
from sheets import actions as sheets


def proved(part: Any, sections: dict) -> dict:
    """``sections`` as they can be kept: regions on the part, loads and duties on faces that exist.

    Raises Refused; nothing is changed then.
    """
    job = part.job | sections
    if "regions" in sections:
        sections = sections | {"regions": _on_the_part(part, sections["regions"])}
    faces = {r["id"] for r in job["regions"]["rows"]}
    before = {r["id"]: r["name"] for r in part.job["regions"]["rows"]}
    for what, on in _uses(job):
        if on in faces:
            continue
        if "regions" in sections and on in before:
            raise Refused(
                "face_in_use",
                f"“{before[on]}” cannot be taken out: {what} is on it.",
                "Take that out first, or let it act on another face.",
                422,
            )
        if any(section in sections for section in ("loads", "touching", "spaces")):
            raise Refused(
                "no_face", f"{what[:1].upper() + what[1:]} acts on no face.", "Point at the face it acts on.", 422
            )
    if "loads" in sections:
        _whole(sections["loads"], job)
    if "spaces" in sections:
        _free(part, job)
    return sections


def _free(part, job: dict) -> None:
    """Every space is one that the engine can keep free. Raises Refused."""
    there = queries.held(part)
    for row in queries.spaces_of(part, job):
        try:
            bridge.space(there, row)
        except bridge.InputError as error:
            raise unusable(error) from None


def _uses(job: dict):
    """(what, region id) of everything that stands on a face."""
    for row in job["loads"]["held"]:
        yield "a held face", row["on"]
    for case in job["loads"]["cases"]:
        for row in case["loads"]:
            if row["on"] is not None:
                yield f"the {row['kind']} of “{case['name']}”", row["on"]
    for row in job["touching"]["rows"]:
        yield "a touching face", row["on"]
    for row in job["spaces"]["rows"]:
        if row["on"] is not None:
            yield f"the free space “{row['name']}”", row["on"]


def _on_the_part(part, given: dict) -> dict:
    there = queries.held(part)
    known = {r["id"]: r["shape"] for r in part.job["regions"]["rows"]}
    rows = []
    for row in given["rows"]:
        shape = row["shape"]
        if known.get(row["id"]) != shape:
            try:
                shape = bridge.shape_of(there, shape)
                bridge.region(there, shape, row["name"])
            except bridge.InputError as error:
                raise unusable(error) from None
        rows.append(row | {"shape": shape})
    return {"rows": rows}


def _whole(loads: dict, job: dict) -> None:
    names = [c["name"] for c in (*loads["cases"], *loads["combinations"])]
    twice = next((n for n in names if names.count(n) > 1), None)
    if twice is not None:
        raise Refused("name_taken", f"Two load cases are called “{twice}”.", "Give each a name of its own.", 422)
    shapes = {r["id"]: r["shape"] for r in job["regions"]["rows"]}
    for row in loads["held"]:
        if row["how"] == "pinned" and "cylinder" not in shapes.get(row["on"], {"cylinder": None}):
            raise Refused(
                "bad_loads", "Only a bore or a pin can be held pinned.", "Hold this face fixed or sliding instead.", 422
            )


def acknowledge(user: User, part: Any, base: int) -> None:
    """An engineer has read the cautions for the use that the job has."""
    require(user, "edit")
    job = part.job
    if not queries.cautions(job):
        raise Refused("no_cautions", "This job has no cautions to acknowledge.", "Its use is not one that can injure.")
    given = {"use": job["need"]["use"], "by": user.shown_name, "person": user.id, "at": timezone.now().isoformat()}
    part.sheet = sheets.amend(user, part.sheet_id, base, {"caution": given}, "cautions acknowledged")


def settle(user: User, part: Any, base: int) -> None:
    """Declares the list of what the part must do complete, as it stands in edition ``base``."""
    require(user, "edit")
    job = part.job
    if not job["requirements"]["rows"]:
        raise Refused("nothing_written", "No requirement is written yet.", "Write at least one: what must the part do?")
    troubles = queries.summary(part)["troubles"]
    if troubles:
        raise Refused("troubles_left", troubles[0]["message"], troubles[0]["hint"])
    given = {"digest": queries.list_digest(job), "by": user.shown_name, "at": timezone.now().isoformat()}
    part.sheet = sheets.amend(user, part.sheet_id, base, {"settled": given}, "requirements marked complete")


def take_loads(user: User, part: Any, base: int, given: dict) -> None:
    """Puts a loads file in the place of the job's held faces, cases and combinations. One edit, so one undo."""
    require(user, "edit")
    there = queries.held(part)
    try:
        loads = bridge.checked_loads(there, given)
    except bridge.InputError as error:
        raise unusable(error) from None
    regions = [dict(r) for r in part.job["regions"]["rows"]]

    def face(shape: dict, otherwise: str) -> str:
        name = shape.pop("name", "")
        shape = bridge.face_of(there, shape)
        same = next((r for r in regions if r["shape"] == shape), None)
        if same is None:
            taken = {r["name"] for r in regions}
            name = name or otherwise
            while name in taken:
                name = f"{name[:70]} +"
            same = {"id": _id(), "name": name[:80], "colour": len(regions) % 8, "shape": shape}
            regions.append(same)
        return same["id"]

    held = []
    for i, row in enumerate(loads["fixed"], start=1):
        washer = row.get("washer")
        washer = washer and {"centre": washer["centre_mm"], "outer": f"{washer['outer_mm']:.10g} mm"}
        on = face(row["on"], f"held {i}")
        held.append({"id": _id(), "on": on, "how": row["how"], "axes": row["hold"], "washer": washer})
    cases, ids = [], {}
    for said_case in loads["cases"]:
        rows = [_load_row(row, lambda s, c=said_case: face(s, f"{c['name']} face")) for row in said_case["loads"]]
        ids[said_case["name"]] = _id()
        kept = {k: said_case.get(k) for k in ("name", "factor", "nature", "cycles")}
        if kept["nature"] == "cyclic" and kept["cycles"] is None:
            kept["cycles"] = 1e6
        cases.append({"id": ids[said_case["name"]], **kept, "requirement": None, "loads": rows})
    sums = [
        {
            "id": _id(),
            "name": c["name"],
            "parts": [{"id": _id(), "case": ids[p["case"]], "factor": p["factor"]} for p in c["parts"]],
        }
        for c in loads.get("combinations", [])
        if c["parts"]
    ]
    given = {"held": held, "cases": cases, "combinations": sums, "movements": part.job["loads"]["movements"]}
    sections = {
        "regions": validated(forms.Regions, {"rows": regions}, "regions").model_dump(mode="json"),
        "loads": validated(forms.Loads, given, "loads").model_dump(mode="json"),
    }
    part.sheet = sheets.amend(user, part.sheet_id, base, proved(part, sections), "loads file brought in")


UNITS = {"force_n": ("force", "N"), "moment_nmm": ("moment", "N·mm"), "acceleration_g": ("weight", "g")}


def _load_row(row: dict, face) -> dict:
    on = face(row["on"]) if "on" in row else None
    if "pressure_mpa" in row:
        return {"id": _id(), "kind": "pressure", "on": on, "amount": f"{row['pressure_mpa']!r} MPa"}
    key = next(k for k in UNITS if k in row)
    kind, unit = UNITS[key]
    size = sum(x * x for x in row[key]) ** 0.5
    direction = [x / size for x in row[key]] if size else [0.0, 0.0, 1.0]
    return {"id": _id(), "kind": kind, "on": on, "amount": f"{size!r} {unit}", "direction": direction}


def _id() -> str:
    return secrets.token_hex(5)
