"""Trials: of a part and its revisions, of the whole workshop, what they say of the predictions, what was learned."""

from typing import Any
from uuid import UUID

from django.contrib.postgres.search import SearchQuery, SearchVector
from django.db.models import QuerySet
from django.db.models.fields.json import KeyTextTransform

from accounts.models import User
from farm.forms import LINKS
from farm.queries import Farm, combination, differing
from hewel.refusal import not_found
from needs import queries as needs
from parts.models import Part
from parts.queries import family, kin, parts_of
from stages.stage import State
from strength import queries as strength
from studies.view import DirectedJob
from trials import bridge
from trials.models import Trial

MOST_LESSONS = 30


def trials_of(user: User) -> QuerySet[Trial]:
    rows = Trial.objects.filter(workshop=user.workshop_id, struck=None, part__sheet__struck=None)
    return rows.select_related("part__sheet", "by")


def trial_of(user: User, trial_id: UUID) -> Trial:
    trial = trials_of(user).filter(id=trial_id).first()
    if trial is None:
        raise not_found("trial")
    return trial


# ------------------------------------------------------------------ one trial


def out(trial: Trial) -> dict:
    """A trial with what it bore beside what was predicted."""
    times = measured_times(trial)
    told = trial.predicted
    return {
        "id": trial.id, "part": trial.part_id, "part_name": trial.part.name, "revision": trial.part.revision,
        "tested": trial.tested, "plate": trial.plate, "up": trial.up, "up_words": words_of(trial.up),
        "machine": trial.process["names"]["machine"], "material": trial.process["names"]["material"],
        "copies": trial.copies, "mode": trial.mode, "case": trial.case, "case_name": trial.case_name,
        "load": trial.load, "times": times, "how": trial.how, "at": trial.at, "layer": trial.layer,
        "predicted": told, "predicted_load": told and trial.case_load and told["times"] * trial.case_load,
        "ratio": told and times and times / told["times"], "as_predicted": as_predicted(trial),
        "verdict": trial.verdict, "lesson": trial.lesson, "photo": trial.photo_id is not None,
        "by": trial.by.shown_name,
    }  # fmt: skip


def words_of(up: list[float]) -> str:
    return bridge.direction_words(bridge.unit(up))


def measured_times(trial: Trial) -> float | None:
    """How many times its case's load it bore."""
    return trial.load["n"] / trial.case_load if trial.load and trial.case_load else None


def as_predicted(trial: Trial) -> bool | None:
    """Whether it broke in the way that was predicted; None while either is not known."""
    if trial.predicted is None or trial.how not in bridge.HOW_GROUP:
        return None
    return bridge.HOW_GROUP[trial.how] == bridge.group_of_mode(trial.predicted["mode"])


def changes(before: Trial, after: Trial) -> list[str]:
    """What differs between two trials, in words: one thing at a time is seen, not promised."""
    out = []
    if before.part_id != after.part_id:
        steps = len((after.part.recipe or {}).get("steps", []))
        more = f", {steps} step{'s' * (steps > 1)}" if steps else ""
        out.append(f"geometry (revision {before.part.revision} → {after.part.revision}{more})")
    if not bridge.same_direction(before.up, after.up):
        out.append(f"direction ({words_of(before.up)} → {words_of(after.up)})")
    names = lambda t: t.process["names"]
    for key in ("machine", "material"):
        if names(before)[key] != names(after)[key]:
            out.append(f"{key} ({names(before)[key] or 'none'} → {names(after)[key] or 'none'})")
    plain = lambda t: {k: v for k, v in t.process["numbers"].items() if k not in ("own", "material")}
    out += differing(plain(before), plain(after))
    if (before.copies, before.mode) != (after.copies, after.mode):
        out.append(f"batch ({_batch(before)} → {_batch(after)})")
    return out


def _batch(trial: Trial) -> str:
    return f"{trial.copies} {trial.mode}".strip() if trial.copies else "not said"


# ------------------------------------------------------------------ of a part


def tested(view: DirectedJob) -> list[dict]:
    """Every load case as a test would break it now; empty while nothing answers for the job."""
    if view.up is None or not view.job["loads"]["cases"]:
        return []
    plate = bridge.plate_of(needs.held(view.part), view.up)
    return strength.as_tested(view, view.up, plate)


def prediction(view: DirectedJob, case: str) -> dict | None:
    """What a case of the job is predicted to bear as it stands; None while nothing answers for it."""
    row = next((r for r in tested(view) if r["id"] == case and r["times"]), None)
    return row and {k: row[k] for k in ("times", "low", "high", "mode", "at", "z", "welded")}


def case_loads(job: dict) -> dict[str, dict]:
    """By load case its greatest load with its unit."""
    out = {}
    for case in job["loads"]["cases"]:
        amounts = [load["amount"] for load in case["loads"] if load["kind"] in ("force", "moment")]
        if amounts:
            out[case["id"]] = max(amounts, key=lambda a: abs(a["n"])) | {"name": case["name"]}
    return out


def cases(view: DirectedJob) -> list[dict]:
    """The load cases that can be tested, and what each is predicted to bear as the part stands."""
    told = {r["id"]: r for r in tested(view)}
    return [
        {"id": key, "name": amount["name"], "load": amount["n"], "unit": amount["unit"],
         "times": told.get(key, {}).get("times"), "mode": told.get(key, {}).get("mode")}
        for key, amount in case_loads(view.job).items()
    ]  # fmt: skip


def part_out(view: DirectedJob, user: User) -> dict:
    """The trials of a part and its revisions, what can be tested, and lessons of other parts that broke alike."""
    kin = family(view.part)
    rows = list(trials_of(user).filter(part__in=kin))
    before: Trial | None = None
    trials = []
    for trial in rows:
        trials.append(out(trial) | {"changed": changes(before, trial) if before else None})
        before = trial
    told = cases(view)
    worst = min((c for c in told if c["times"]), key=lambda c: c["times"], default=None)
    batch = view.job["batch"]
    return {
        "trials": trials, "cases": told, "revisions": [_revision(p, trials) for p in kin],
        "alike": alike(user, view, worst["mode"]) if worst else [], "up": view.up,
        "copies": batch and batch["copies"], "mode": batch["mode"] if batch else "",
    }  # fmt: skip


def _revision(part: Part, trials: list[dict]) -> dict:
    own = [t for t in trials if t["part"] == part.id and t["times"]]
    steps = (part.recipe or {}).get("steps", [])
    return {
        "part": part.id, "revision": part.revision, "before": part.before_id, "steps": len(steps),
        "bore": max((t["times"] for t in own), default=None), "trials": len(own),
    }  # fmt: skip


def alike(user: User, view: DirectedJob, mode: str) -> list[dict]:
    """Trials of other parts that broke the way this one is predicted to, with what was learned; the same material
    first.
    """
    kin, group = {p.id for p in family(view.part)}, bridge.group_of_mode(mode)
    rows = [t for t in trials_of(user).exclude(lesson="") if t.part_id not in kin]
    broke = [t for t in rows if bridge.HOW_GROUP.get(t.how) == group]
    material = view.farm.process(view.job["process"])["names"]["material"]
    broke.sort(key=lambda t: (t.process["names"]["material"] != material, -t.tested.toordinal()))
    return [out(t) for t in broke[:5]]


def own_trials(view: DirectedJob) -> list[Trial]:
    """The trials of this revision, in the order of their days."""
    return view.together.once("trials", lambda: _by_part(view.together.views)).get(view.part.id, [])


def of_all_revisions(part: Part) -> list[dict]:
    """The trials of a part and whatever it was made from or into, in the order of their days."""
    rows = Trial.objects.filter(part__in=kin(part), struck=None).select_related("part__sheet", "by")
    return [out(t) for t in rows.order_by("tested", "created")]


def state(view: DirectedJob) -> State:
    """How far the trials of this revision are."""
    own = own_trials(view)
    if not own:
        return {"state": "empty", "line": "none", "busy": False}
    last = own[-1]
    count = f"{len(own)} trial{'s' * (len(own) > 1)}"
    if last.verdict == Trial.Verdict.FAILED:
        return {"state": "fails", "line": f"{count}, the last failed", "busy": False}
    settled = last.verdict == Trial.Verdict.PASSED
    return {"state": "settled" if settled else "open", "line": f"{count}, the last {last.verdict}", "busy": False}


def _by_part(views: Any) -> dict[UUID, list[Trial]]:
    rows: dict[UUID, list[Trial]] = {}
    for trial in Trial.objects.filter(part__in=[v.part for v in views], struck=None):
        rows.setdefault(trial.part_id, []).append(trial)
    return rows


# ------------------------------------------------------------------ of the workshop


def groups(rows: list[Trial]) -> dict[tuple, list[Trial]]:
    """Trials with a prediction, by how they were predicted to break and what they were printed of."""
    found: dict[tuple, list[Trial]] = {}
    for trial in rows:
        if trial.predicted and measured_times(trial):
            group = bridge.group_of_mode(trial.predicted["mode"])
            found.setdefault((group, *combination(trial.process["given"])), []).append(trial)
    return found


def _tried(trial: Trial) -> dict:
    held = trial.how == Trial.How.HELD
    return {
        "predicted": trial.predicted["times"], "measured": measured_times(trial),
        "plate": f"{trial.tested} {trial.plate}", "broke": not held,
        "as_predicted": held or bool(as_predicted(trial)),
    }  # fmt: skip


def corrections(user: User) -> list[dict]:
    """What the workshop's trials say of the predictions, by group, beside what the record holds."""
    found = groups(list(trials_of(user)))
    told = bridge.corrections({key: [_tried(t) for t in rows] for key, rows in found.items()})
    farm = Farm(user.workshop)
    out = []
    for key, rows in found.items():
        group, *where = key
        given = rows[-1].process["given"]
        record = farm.capability(given)["values"].get(bridge.FIELDS[group])
        out.append({
            "group": group, "where": dict(zip(LINKS, where, strict=True)), "names": rows[-1].process["names"],
            "told": told[key], "held": record and record["value"], "trials": [t.id for t in rows],
        })  # fmt: skip
    return out


def correction_of(user: User, group: str, where: dict) -> dict | None:
    return next((c for c in corrections(user) if c["group"] == group and c["where"] == where), None)


def effect(user: User, group: str, where: dict, value: float) -> list[dict]:
    """What a safe factor would do to every job that stands on it: its least reserve before and after."""
    own = {bridge.FIELDS[group]: {"value": value, "origin": "trial"}}
    rows = []
    for view in DirectedJob.of(parts_of(user)):
        if combination(view.job["process"]) != combination(where):
            continue
        told = view.up and strength.least_with(view, view.up, own)
        rows.append({"part": view.part.id, "name": view.part.name, "revision": view.part.revision}
                    | (told or {"before": None, "after": None}))  # fmt: skip
    return rows


def sought(user: User, text: str) -> list[dict]:
    """Trials whose lesson, part, case, material, machine or way of breaking says the words."""
    key = lambda name: KeyTextTransform(name, KeyTextTransform("names", "process"))
    title = KeyTextTransform("name", KeyTextTransform("title", "part__sheet__content"))
    vector = SearchVector("lesson", "how", "case_name", title, key("material"), key("machine"), config="english")
    found = (
        trials_of(user)
        .annotate(words=vector)
        .filter(words=SearchQuery(text, search_type="websearch", config="english"))
    )
    return [out(t) for t in found.order_by("-tested")[:MOST_LESSONS]]
