"""What a release hands over: files for the machine, pages for people, and everything as JSON, sealed in one archive.

Nothing in it depends on when or where it is made: times are those of the records, in UTC; lists are sorted.
"""

import json
from datetime import UTC, datetime
from typing import Any

from django.utils.text import slugify

from batch import queries as batch
from farm.tables import csv_of
from fit import queries as fit
from floor import bridge as floor
from hardware import queries as hardware
from needs import queries as needs
from parts import queries as parts
from release import bridge, changes, report
from release.gate import generic_reserve
from store import actions as store
from strength import printing as calculation
from strength import queries as strength
from studies.view import DirectedJob
from trials import queries as trials

README = """{part}, revision {revision}: {kind} release of {released}

part/        the part as it stands on the plate, millimetres (3MF, STL){exact}
{plate}report.pdf   what it must do, how it stands, what was changed and why, strength, trials, cautions
{reckoning}job.json     everything that the release rests on; its form is {schema} {version}
manifest.json  every file with its digest

Whether nothing has been changed since says, on any machine that has the program:
    ./hewel engine check FILE
{cautions}"""


FORM = "hewel-release-job"
"""What ``job.json`` says that it is."""


def utc(moment: datetime) -> str:
    return moment.astimezone(UTC).isoformat(timespec="seconds")


def made(view: DirectedJob, kind: str, waiver: str, when: datetime, by: str) -> tuple[bytes, dict]:
    """The packet, and what its manifest tells. The direction is chosen: the gate has seen to that."""
    part, stem = view.part, slugify(view.part.name) or "part"
    scale = view.farm.scale(view.job) or bridge.AS_DRAWN
    files: dict[str, bytes] = {}
    solids: dict[str, float] = {}
    volume = bridge.volume_of(part.facts["volume_mm3"], 1, scale)
    for ending, data in bridge.oriented(store.get(part.solid), view.up, part.name, scale).items():
        name = f"part/{stem}-oriented.{ending}"
        files[name], solids[name] = data, volume
    exact = parts.stored_exact(part)
    if exact:
        files[f"part/{stem}.step"] = exact
    if kind == "locked":
        data, copies = _plate(view, scale)
        files[f"plate/{stem}-plate.3mf"] = data
        solids[f"plate/{stem}-plate.3mf"] = bridge.volume_of(part.facts["volume_mm3"], copies, scale)
        files["plate/pauses.csv"] = _pauses(view)
    if view.job["hardware"]["rows"] and hardware.worked(view):
        files["hardware.csv"] = hardware.list_csv(view).encode()
    if rows := fit.table(view):
        files["fits.csv"] = _fits(rows)
    if revisions := changes.of_part(part):
        files["changes.txt"] = "\n".join(r.text for r in revisions).encode()
    solved = strength.answering(view, view.up)
    if solved:
        files["reckoning.pdf"] = calculation.calculation(solved, when)
    files["report.pdf"] = report.pages(view, when)
    told = {
        "part": part.name, "part_id": str(part.id), "revision": part.revision, "kind": kind, "by": by,
        "released": utc(when), "edition": part.sheet.version, "engine": bridge.ENGINE_VERSION, "waiver": waiver,
        "direction": bridge.direction_words(bridge.unit(view.up)), "solids": solids,
    }  # fmt: skip
    files["job.json"] = _json(everything(view, kind, waiver) | {"release": told})
    files["README.txt"] = _readme(view, kind, told, bool(exact), bool(solved)).encode()
    return bridge.sealed(files, told), told


def _plate(view: DirectedJob, scale: tuple[float, float]) -> tuple[bytes, int]:
    """The plate that was chosen, every copy where it stands."""
    choice, part = batch.chosen_of(view), view.part
    stops = [p["words"] for p in _upward(view)]
    data = floor.plate_file(
        store.get(part.solid), list(view.up), choice.items, part.name, stops, choice.mode, f"r{part.revision}", scale
    )
    return data, len(choice.items)


def _upward(view: DirectedJob) -> list[dict]:
    """The pauses, from the plate upward."""
    return sorted(batch.pauses_of(view), key=lambda p: p["height_mm"])


def _pauses(view: DirectedJob) -> bytes:
    rows = _upward(view)
    told = [[f"{p['height_mm']:.3f}", p["wait_s"], p["words"]] for p in rows]
    return csv_of([["height_mm", "wait_s", "what"], *told]).encode()


def _fits(rows: list[dict]) -> bytes:
    keys = [k for k in rows[0] if all(isinstance(r[k], str | int | float | type(None)) for r in rows)]
    return csv_of([keys, *(["" if r[k] is None else r[k] for k in keys] for r in rows)]).encode()


def everything(view: DirectedJob, kind: str, waiver: str) -> dict[str, Any]:
    """All that a release rests on, in plain JSON."""
    part, job, choice = view.part, view.job, view.choice
    solved = strength.answering(view, view.up) if view.up else None
    _, plain_reserve, case = generic_reserve(view)
    return {
        "schema": FORM, "version": bridge.VERSION, "kind": kind, "waiver": waiver,
        "part": {
            "id": str(part.id), "name": part.name, "revision": part.revision, "file": part.file_name,
            "source_sha256": part.source_id, "solid_sha256": part.solid_id, "facts": part.facts,
            "recipe": part.recipe, "made_by": part.by.shown_name, "made": utc(part.created),
        },
        "job": job,
        "process": {"names": view.farm_process["names"], "numbers": view.process,
                    "origins": view.farm_process["origins"]},
        "direction": None if choice is None else {
            "up": choice.up, "words": bridge.direction_words(bridge.unit(choice.up)), "reason": choice.reason,
            "measures": choice.measures, "alternatives": len(choice.alternatives), "by": choice.by.shown_name,
            "at": utc(choice.at),
        },
        "coverage": needs.coverage(job),
        "strength": strength.cases_out(view, solved) if solved else [],
        "generic": {"reserve": plain_reserve, "case": case},
        "batch": _batch(view),
        "trials": trials.of_all_revisions(part),
        "cautions": needs.cautions(job),
    }  # fmt: skip


def _batch(view: DirectedJob) -> dict | None:
    choice = batch.chosen_of(view)
    return choice and {
        "mode": choice.mode, "copies": choice.copies, "items": choice.items, "measures": choice.measures,
        "reason": choice.reason, "by": choice.by.shown_name, "at": utc(choice.at),
    }  # fmt: skip


def _json(value: dict) -> bytes:
    """Sorted and with whatever is no plain JSON in words: a day, an id."""
    words = lambda v: utc(v) if isinstance(v, datetime) else str(v)
    return (json.dumps(value, sort_keys=True, indent=1, ensure_ascii=False, default=words) + "\n").encode()


def _readme(view: DirectedJob, kind: str, told: dict, exact: bool, solved: bool) -> str:
    cautions = needs.cautions(view.job)
    on_plate = "plate/       the plate with every copy where it stands, and its pauses\n"
    by_hand = "reckoning.pdf  the strength from the loads to the reserve, to be followed by hand\n"
    return README.format(
        part=told["part"], revision=told["revision"], kind=kind, released=told["released"],
        exact=", and its exact solid (STEP)" if exact else "",
        plate=on_plate if kind == "locked" else "",
        reckoning=by_hand if solved else "",
        schema=FORM, version=bridge.VERSION,
        cautions="\n" + "\n".join(cautions) + "\n" if cautions else "",
    )  # fmt: skip
