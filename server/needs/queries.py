"""What a job's requirements come to: troubles, equilibrium, coverage, and what they ask of a direction."""

from collections.abc import Callable
from typing import Any

from accounts.models import User
from accounts.roles import require
from farm.queries import process_of
from hewel.digest import digest
from hewel.refusal import Refused
from needs import bridge
from store import actions as store
from store.models import Blob


def held(part: Any) -> bridge.Held:
    return bridge.held(part.solid_id, part.view_id, lambda digest: store.get(Blob.objects.get(digest=digest)))


def used_regions(job: dict, section: str) -> list[dict]:
    """The regions that a section rests on."""
    given = job[section]
    ids = {r["on"] for r in (given["held"] if section == "loads" else given["rows"])}
    if section == "loads":
        ids |= {row["on"] for case in given["cases"] for row in case["loads"]}
    return [{"id": r["id"], "shape": r["shape"]} for r in job["regions"]["rows"] if r["id"] in ids]


def inputs(part: Any, process: dict) -> dict[str, str]:
    """Digests of all that a decision about this job can rest on, by the name people know it under; ``process``: the
    numbers of a process.
    """
    job = part.job
    loads = job["loads"]
    bare = {  # what a case is called changes nothing
        "held": loads["held"],
        "cases": [{k: v for k, v in c.items() if k not in ("name", "requirement")} for c in loads["cases"]],
        "combinations": [{"parts": c["parts"]} for c in loads["combinations"]],
    }
    faces = [{"on": r["on"], "duty": r["duty"], "fit": r["fit"]} for r in job["touching"]["rows"]]
    return {
        "part": part.solid_id,
        "process": digest(process),
        "loads": digest(bare, used_regions(job, "loads")),
        "touching faces": digest(faces, used_regions(job, "touching")),
    }


def list_digest(job: dict) -> str:
    """Names the whole list of what the part must do, as it can be marked complete."""
    return digest([job[s] for s in ("need", "requirements", "regions", "loads", "touching")])


# ------------------------------------------------------------------ the loads file of a job


def loads_file(job: dict, only: str | None = None) -> dict:
    """The job's loads as a loads file; rows whose face is gone are left out. ``only`` names one case."""
    regions = {r["id"]: r["shape"] | {"name": r["name"]} for r in job["regions"]["rows"]}
    loads = job["loads"]
    fixed = []
    for row in loads["held"]:
        if row["on"] in regions:
            result = {"on": regions[row["on"]], "how": row["how"], "hold": row["axes"]}
            if row["washer"]:
                result["washer"] = {"centre_mm": row["washer"]["centre"], "outer_mm": row["washer"]["outer"]["n"]}
            fixed.append(result)
    cases = [_case(c, regions) for c in loads["cases"] if only in (None, c["id"])]
    cases = [c for c in cases if c["loads"]]
    names = {c["id"]: c["name"] for c in loads["cases"]}
    there = {c["name"] for c in cases}
    combinations = [
        {"name": c["name"], "parts": [{"case": names[p["case"]], "factor": p["factor"]} for p in c["parts"]]}
        for c in loads["combinations"]
        if all(names.get(p["case"]) in there for p in c["parts"])
    ]
    return {"fixed": fixed, "cases": cases, "combinations": combinations}


KEYS = {"force": "force_n", "moment": "moment_nmm", "weight": "acceleration_g"}


def _case(case: dict, regions: dict) -> dict:
    rows = []
    for row in case["loads"]:
        n = row["amount"]["n"]
        if row["kind"] == "weight":
            rows.append({"acceleration_g": [n * x for x in row["direction"]]})
        elif row["on"] in regions:
            value = {"pressure_mpa": n} if row["kind"] == "pressure" else None
            rows.append({"on": regions[row["on"]]} | (value or {KEYS[row["kind"]]: [n * x for x in row["direction"]]}))
    result = {"name": case["name"], "factor": case["factor"], "nature": case["nature"], "loads": rows}
    return result if case["cycles"] is None else result | {"cycles": case["cycles"]}


def bare(given: dict | None) -> dict | None:
    """A loads file without the names: what a case is called changes nothing."""
    if given is None:
        return None
    number = {c["name"]: i for i, c in enumerate(given["cases"])}
    nameless = lambda row: {k: v for k, v in row.items() if k != "name"}
    region = lambda row: row | ({"on": nameless(row["on"])} if row.get("on") else {})
    return {
        "fixed": [region(h) for h in given["fixed"]],
        "cases": [nameless(c) | {"loads": [region(r) for r in c["loads"]]} for c in given["cases"]],
        "combinations": [[[number[p["case"]], p["factor"]] for p in c["parts"]] for c in given["combinations"]],
    }


# ------------------------------------------------------------------ what it comes to


def _trouble(section: str, row: str | None, message: str, hint: str) -> dict:
    return {"section": section, "row": row, "message": message, "hint": hint}


def summary(part: Any) -> dict:
    """Regions with what they catch, cases with their equilibrium, troubles, coverage."""
    job, there = part.job, held(part)
    regions = [_region(there, row) for row in job["regions"]["rows"]]
    cases = [_balanced(part, there, row) for row in job["loads"]["cases"]]
    sums = [_summed(part, there, row) for row in job["loads"]["combinations"]]
    troubles = [r.pop("trouble") for r in (*regions, *cases, *sums)]
    return {
        "regions": regions,
        "cases": cases,
        "combinations": sums,
        "troubles": [t for t in troubles if t] + loose_ends(job),
        "coverage": coverage(job),
    }


def _region(there: bridge.Held, row: dict) -> dict:
    try:
        return {"id": row["id"], **bridge.region(there, row["shape"], row["name"]), "trouble": None}
    except bridge.InputError as error:
        nothing = {"area_mm2": 0.0, "centre_mm": [0.0, 0.0, 0.0], "axis": None, "diameter_mm": None}
        return {"id": row["id"], **nothing, "trouble": _trouble("regions", row["id"], error.message, error.hint)}


NOTHING = {"force_n": None, "moment_nmm": None, "answers": [], "free": []}


def _balanced(part, there: bridge.Held, row: dict) -> dict:
    """Equilibrium of a case; None where it cannot be summed, and then the trouble that says why."""
    given = loads_file(part.job, only=row["id"])
    trouble = None
    if not given["cases"]:
        trouble = "Load case “{}” has no load.", "Add what pushes or pulls, or take the case out."
        return {
            "id": row["id"],
            **NOTHING,
            "trouble": _trouble("loads", row["id"], trouble[0].format(row["name"]), trouble[1]),
        }
    return _answer(part, there, row, given | {"combinations": []})


def _summed(part, there: bridge.Held, row: dict) -> dict:
    given = loads_file(part.job)
    given["combinations"] = [c for c in given["combinations"] if c["name"] == row["name"]]
    if not given["combinations"]:
        result = f"Combination “{row['name']}” names a case that is gone or empty."
        trouble = _trouble("loads", row["id"], result, "Choose its cases again, or take it out.")
        return {"id": row["id"], **NOTHING, "trouble": trouble}
    return _answer(part, there, row, given)


def _answer(part, there: bridge.Held, row: dict, given: dict) -> dict:
    rows = [h for h in part.job["loads"]["held"] if any(r["id"] == h["on"] for r in part.job["regions"]["rows"])]
    try:
        found = bridge.balances(there, given, density(part))[row["name"]]
    except bridge.InputError as error:
        return {"id": row["id"], **NOTHING, "trouble": _trouble("loads", row["id"], error.message, error.hint)}
    trouble = None
    if found["free"] and rows:
        result = f"Nothing holds the part under “{row['name']}”: it {' and '.join(found['free'])}."
        trouble = _trouble("loads", row["id"], result, "Hold one more face, or hold one in more directions.")
    answers = [{"held": h["id"], **a} for h, a in zip(rows, found["answers"], strict=False)]
    return {"id": row["id"], **found, "answers": answers, "trouble": trouble}


def loose_ends(job: dict) -> list[dict]:
    """What is missing or points at nothing, in the order of the work."""
    loads, regions = job["loads"], {r["id"] for r in job["regions"]["rows"]}
    wanted = {r["id"] for r in job["requirements"]["rows"]}
    out = []
    for row in loads["held"]:
        if row["on"] not in regions:
            out.append(_trouble("loads", row["id"], "A held face is gone.", "Point at it again, or take it out."))
    for case in loads["cases"]:
        for load in case["loads"]:
            if load["on"] is not None and load["on"] not in regions:
                result = f"A {load['kind']} of “{case['name']}” acts on a face that is gone."
                out.append(_trouble("loads", case["id"], result, "Point at its face again, or take the load out."))
        if case["requirement"] and case["requirement"] not in wanted:
            result = f"“{case['name']}” belongs to a requirement that is gone."
            out.append(_trouble("loads", case["id"], result, "Choose the requirement it answers."))
    if loads["cases"] and not loads["held"]:
        out.append(_trouble("loads", None, "Nothing is held.", "Point at the face that holds the part, and hold it."))
    for row in job["touching"]["rows"]:
        if row["on"] not in regions:
            out.append(
                _trouble("touching", row["id"], "A touching face is gone.", "Point at it again, or take it out.")
            )
    for row in job["spaces"]["rows"]:
        if row["on"] is not None and row["on"] not in regions:
            result = f"The face of the free space “{row['name']}” is gone."
            out.append(_trouble("spaces", row["id"], result, "Point at it again, or take the space out."))
    carried = {c["requirement"] for c in loads["cases"]}
    for row in job["requirements"]["rows"]:
        if row["kind"] == "load" and row["id"] not in carried:
            result = f"No load case stands for “{row['statement'][:60]}”."
            out.append(_trouble("requirements", row["id"], result, "Make one and link it to the requirement."))
    return out


def coverage(job: dict) -> list[dict]:
    """For every requirement what stands for it in the model, and what shows that it is met."""
    loads, regions = job["loads"], {r["id"]: r["name"] for r in job["regions"]["rows"]}
    rows = []
    for row in job["requirements"]["rows"]:
        models = [f"load case “{c['name']}”" for c in loads["cases"] if c["requirement"] == row["id"]]
        models += ["permitted movement" for m in loads["movements"] if m["requirement"] == row["id"]]
        models += [
            f"touching face “{regions.get(t['on'], 'gone')}”"
            for t in job["touching"]["rows"]
            if t["requirement"] == row["id"]
        ]
        shown = [f"{e['kind']}: {e['words']}" for e in job["evidence"]["rows"] if e["requirement"] == row["id"]]
        rows.append({"id": row["id"], "models": models, "evidence": shown})
    return rows


def density(part: Any) -> float:
    """g/cm³ of the job's material."""
    return bridge.density_of(process_of(part.workshop, part.job["process"])["numbers"])


# ------------------------------------------------------------------ what it asks of a direction

SCARRED = ("no_scar", "seen", "sealing", "mating")
"""Duties that support, or the plate, would spoil."""


def _touching(job: dict) -> list[tuple[dict, dict]]:
    """(shape, row) of every touching face that is on the part."""
    shapes = {r["id"]: r["shape"] for r in job["regions"]["rows"]}
    return [(shapes[r["on"]], r) for r in job["touching"]["rows"] if r["on"] in shapes]


def spaces_of(part: Any, job: dict | None = None) -> list[dict]:
    """The spaces that stay free, as the engine reads them; one whose face or part is gone is left out. A mating part is
    named by the digest of its solid, see ``bodies_of``.
    """
    job = job or part.job
    shapes = {r["id"]: r["shape"] for r in job["regions"]["rows"]}
    beside = _beside(part, job)
    out = []
    for row in job["spaces"]["rows"]:
        n = lambda name, row=row: row[name]["n"] if row[name] else 0.0
        if row["kind"] == "box":
            out.append({"name": row["name"], "box": [row["low"], row["high"]]})
        elif row["kind"] == "near" and row["on"] in shapes:
            out.append({"name": row["name"], "near": {"on": shapes[row["on"]], "distance": n("distance")}})
        elif row["kind"] == "front" and row["on"] in shapes:
            front = {"on": shapes[row["on"]], "length": n("distance"), "wider": n("wider")}
            out.append({"name": row["name"], "front": front})
        elif row["kind"] == "body" and row["part"] in beside:
            moved = {name: row.get(name) for name in ("shift", "way", "turn", "place")}
            body = {"solid": beside[row["part"]]} | moved
            out.append({"name": row["name"], "body": body})
    return out


def _beside(part, job: dict) -> dict[str, str]:
    """Digest of the solid of every part of the workshop that a space is for, by its id."""
    ids = {r["part"] for r in job["spaces"]["rows"] if r["kind"] == "body"}
    if not ids:
        return {}
    rows = type(part).objects.filter(id__in=ids, workshop=part.workshop, sheet__struck=None)
    return {str(r.id): r.solid_id for r in rows}


def spaces_out(part: Any) -> list[dict]:
    rows = spaces_of(part)
    ids = {r["name"]: r["id"] for r in part.job["spaces"]["rows"]}
    drawn = bridge.spaces(held(part), rows, bodies_of(rows))
    return [row | {"id": None if row["likely"] else ids.get(row["name"])} for row in drawn]


def bodies_of(spaces: list[dict]) -> dict[str, bytes]:
    """The solids that spaces name, by their digests."""
    return {d: store.get(Blob.objects.get(digest=d)) for d in {row["body"]["solid"] for row in spaces if "body" in row}}


def protected_shapes(job: dict) -> list[dict]:
    return [shape for shape, row in _touching(job) if row["duty"] in SCARRED]


def fitted_shapes(job: dict) -> list[tuple[dict, str]]:
    """(cylinder, fit) of every bore or pin that has one."""
    return [(shape, row["fit"]) for shape, row in _touching(job) if row["fit"] and "cylinder" in shape]


def protected_patches(part: Any, but_for: Callable[[dict], bool] = lambda row: False) -> list:
    """Pieces of the surface that must not be scarred, ``but_for`` those of some touching faces."""
    job = part.job
    rows = [r for r in job["touching"]["rows"] if not but_for(r)]
    shapes = protected_shapes(job | {"touching": {"rows": rows}})
    return bridge.patches(held(part), shapes) if shapes else []


def _duties(part) -> dict:
    job = part.job
    return {
        "protected": protected_shapes(job),
        "bores": [shape for shape, _ in fitted_shapes(job)],
    }


def direction_columns(
    part: Any, ups: list, process: dict, needing: list[float] | None = None
) -> dict[str, list[float]]:
    """What the job's duties say about each direction; empty where it has none. ``needing``: see the bridge."""
    duties = _duties(part)
    if not any(duties.values()) or len(ups) == 0:
        return {}
    return bridge.columns(held(part), **duties, ups=ups, process=process, needing=needing)


def fitted_bores(part: Any, up: list, process: dict) -> list[dict]:
    """Every bore with a fit and how it lies in direction ``up``."""
    regions = {r["id"]: r for r in part.job["regions"]["rows"]}
    return [
        {"name": regions[t["on"]]["name"], "fit": t["fit"]} | bridge.bore_in(regions[t["on"]]["shape"], up, process)
        for t in part.job["touching"]["rows"]
        if t["fit"] and t["on"] in regions and "cylinder" in regions[t["on"]]["shape"]
    ]


# ------------------------------------------------------------------ stages


def state(view: Any) -> dict:
    """Settled while the list is as it was marked complete; stale once it has changed."""
    job = view.job
    rows, given = len(job["requirements"]["rows"]), job["settled"]
    if given is None:
        begun = any(job[s]["rows"] for s in ("requirements", "regions", "touching")) or job["loads"]["cases"]
        line = f"{rows} written, mark complete" if begun else "say what it must do"
        return {"state": "open" if begun else "empty", "line": line, "busy": False}
    if given.get("carried"):
        return {"state": "stale", "line": f"{rows} written, confirm complete", "busy": False}
    if given["digest"] != list_digest(job):
        return {"state": "stale", "line": "changed since marked complete", "busy": False}
    return {"state": "settled", "line": f"{rows} written, complete", "busy": False}


CAUTIONS = [
    "The result is a screening estimate, not a proof. Proof-test the part the way it will be used.",
    "Follow the local code for this use, and have the design signed by a person licensed for that work.",
    "Medical items: ask the receiving institution first.",
    "Trials that break parts: wear eye protection and stand clear of the load path.",
]
"""Shown wherever a part could injure somebody when it breaks."""


def cautions(job: dict) -> list[str]:
    return CAUTIONS if job["need"]["use"] == "injury" else []


def acknowledged(job: dict) -> bool:
    """Whether somebody has read the cautions for the use that the job has now; nothing to read needs nobody."""
    return not cautions(job) or (job["caution"] is not None and job["caution"]["use"] == job["need"]["use"])


def require_release(user: User, part: Any) -> None:
    """The one gate that every printable file leaves by: who may export, and cautions that somebody has acknowledged;
    a coupon is of no ``part`` and has none.
    """
    require(user, "export")
    if part is not None and not acknowledged(part.job):
        raise Refused(
            "not_acknowledged",
            "This part could injure somebody, and nobody has acknowledged the cautions yet.",
            "An engineer reads and acknowledges them in the requirements; then the file is given out.",
        )
