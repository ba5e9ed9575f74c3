"""How a part holds its loads as the job stands now: what was solved, with the knock-downs and factors of today."""

import json
from collections.abc import Iterable
from functools import lru_cache
from uuid import UUID

from hewel.refusal import not_found
from stages.stage import State
from stages.view import JobView
from store import actions as store
from store.models import Blob
from strength import bridge
from strength.job import around, service_digest, service_of, services_of
from strength.models import Check, Stand
from strength.stage import STRENGTH

# ------------------------------------------------------------------ checks

WORKS = ("work", "exploring", "fielding")


def stand_of(user, stand_id) -> Stand:
    rows = Stand.objects.filter(id=stand_id, of__part__workshop=user.workshop, of__part__sheet__struck=None)
    stand = rows.select_related("of__part__sheet", "of__work", "volume", "field", *WORKS).first()
    if stand is None:
        raise not_found("direction of a check")
    return stand


def lines_of(check: Check, service: dict) -> tuple[list[list[dict]], list[float]]:
    """Of every case its knock-downs line by line, and what multiplies 1/index to its reserve."""
    rows = [
        bridge.sum_of(check.process, nature, cycles, around(service), service["factor"])
        for nature, cycles in services_of(check.part.job, check.cases)
    ]
    return [lines for lines, _ in rows], [kept for _, kept in rows]


@lru_cache(maxsize=8)
def _net_bytes(digest: str) -> bytes:
    return store.get(Blob.objects.get(digest=digest))


def reserves_for(view: JobView, ups: list, banded: bool = True) -> list[dict] | None:
    """The least ``reserve`` of the job in each direction with its band (``low``, ``high``), whether finer cubes may
    bring it below 1 (``doubtful``), and its ``case``. All are from the solution for all directions, so that they can
    be compared; only where a direction's own layers turn its verdict, theirs is told. Of thousands of directions the
    band is not worth its while: not ``banded``. None while there is no check that answers for it.
    """
    check = view.result(STRENGTH)
    if check is None or check.net_id is None or not ups or view.changed(STRENGTH, check):
        return None
    _, kept = lines_of(check, service_of(view.job))
    told, less = bridge.reserves_in(_net_bytes(check.net_id), check.process, check.bond, ups, banded)
    if not len(told["value"]):
        return None
    told = {bound: values * [[k] for k in kept] for bound, values in told.items()}
    names = case_names(check)
    rows = []
    for d, k in enumerate(told["value"].argmin(axis=0)):
        value = told["value"][k, d]
        band = {bound: values[k, d] for bound, values in told.items() if bound != "value"}
        rows.append({"reserve": value, **band, "doubtful": bool(less * value < 1 <= value), "case": names[k]})
    for stand in (s for s in stands_of(view, check) if s.layered is not None):
        at = [i for i, up in enumerate(ups) if bridge.same_direction(stand.up, up)]
        worst = worst_of(cases_out(stand)) if at else None
        if worst:
            for i in (i for i in at if (rows[i]["reserve"] < 1) != (worst["reserve"] < 1)):
                rows[i] |= {n: worst[n] for n in rows[i] if n in worst} | {"case": worst["name"]}
    return [row | {n: float(f"{row[n]:.4g}") for n in ("reserve", "low", "high") if n in row} for row in rows]


def stands_of(view: JobView, check: Check) -> list[Stand]:
    """The directions of the check that answers for a job, in the order in which they were asked for."""
    return view.together.once("stands", lambda: _stands(view.together.views))[check.id]


def _stands(views: Iterable[JobView]) -> dict[UUID, list[Stand]]:
    checks = {c.id: c for v in views if (c := v.result(STRENGTH))}
    found: dict[UUID, list[Stand]] = {number: [] for number in checks}
    for stand in Stand.objects.filter(of__in=checks).select_related(*WORKS):
        stand.of = checks[stand.of_id]
        found[stand.of_id].append(stand)
    return found


def case_names(check: Check) -> list[str]:
    """What the job calls the cases now; one that is gone keeps the name it was solved under."""
    job = check.part.job
    now = {r["id"]: r["name"] for r in (*job["loads"]["cases"], *job["loads"]["combinations"])}
    then = [c["name"] for c in (*check.loads["cases"], *check.loads["combinations"])]
    return [now.get(i, name) for i, name in zip(check.cases, then, strict=True)]


def net_out(check: Check) -> dict:
    """Reserve of every case in every swept direction, and the least."""
    told = json.loads(_net_bytes(check.net_id))
    _, kept = lines_of(check, service_of(check.part.job))
    cases = [[float(f"{k * v:.4g}") for v in c["reserve"]] for k, c in zip(kept, told["cases"], strict=True)]
    return {"ups": told["ups"], "cases": cases, "least": [min(column) for column in zip(*cases, strict=True)]}


# ------------------------------------------------------------------ one direction


def told_of(stand: Stand) -> dict | None:
    return stand.layered or stand.screened


def cases_out(stand: Stand) -> list[dict]:
    """Every case of a direction with its sum, its reserve, and the screening beside its own layers."""
    check, told = stand.of, told_of(stand)
    service = service_of(check.part.job)
    lines, kept = lines_of(check, service)
    rows = bridge.read(told, check.process, lines, service["factor"])
    other = (
        bridge.read(stand.screened, check.process, lines, service["factor"])
        if stand.layered and stand.screened
        else None
    )
    out = []
    for i, (row, name) in enumerate(zip(rows, case_names(check), strict=True)):
        nature, cycles = services_of(check.part.job, check.cases)[i]
        out.append(
            row
            | {
                "id": check.cases[i],
                "name": name,
                "sentence": row["sentence"].replace(f"“{row['name']}”", f"“{name}”"),
                "nature": nature,
                "cycles": cycles,
                "lines": lines[i],
                "kept": kept[i],
                "screened": other[i]["reserve"] if other else None,
                "fasteners": told["cases"][i]["fasteners"],
            }
        )
    return out


def worst_of(rows: list[dict]) -> dict | None:
    felt = [r for r in rows if r["reserve"] is not None]
    return min(felt, key=lambda r: r["reserve"], default=None)


def guesses(check: Check, cases: list[dict]) -> list[dict]:
    """What was expected of each case's requirement, beside what was found."""
    job = check.part.job
    low, high = check.part.facts["bbox_mm"]
    diagonal = sum((b - a) ** 2 for a, b in zip(low, high, strict=True)) ** 0.5
    wanted = {r["id"]: r for r in job["requirements"]["rows"]}
    of_case = {c["id"]: wanted.get(c["requirement"]) for c in job["loads"]["cases"]}
    out = []
    for case in cases:
        row = of_case.get(case["id"])
        if row and row["guess"] and case["reserve"] is not None:
            guess = row["guess"]
            out.append(
                {
                    "case": case["name"],
                    "how": guess["how"],
                    "where": guess["where"],
                    **bridge.expected(guess, case, diagonal),
                }
            )
    return out


def movements_out(check: Check, told: dict) -> list[dict]:
    """Every permitted movement beside what was found, the case where it is greatest."""
    job, names = check.part.job, case_names(check)
    out = []
    for i, row in enumerate(job["loads"]["movements"]):
        moved = [
            (abs(c["moved_mm"][i]), name)
            for c, name, key in zip(told["cases"], names, check.cases, strict=True)
            if i < len(c["moved_mm"]) and row["case"] in (None, key)
        ]
        if moved:
            most, name = max(moved)
            out.append(
                {
                    "id": row["id"],
                    "point": row["point"],
                    "direction": row["direction"],
                    "permitted_mm": row["permitted"]["n"],
                    "moved_mm": most,
                    "case": name,
                }
            )
    return out


def stand_out(view: JobView, stand: Stand) -> dict:
    check, told = stand.of, told_of(stand)
    if told is None:
        return {**_brief(stand), "told": None}
    service, ids = service_of(check.part.job), check.cases
    cases = cases_out(stand)
    digest = service_digest(check.part.job, ids)
    return {
        **_brief(stand, cases),
        "told": {
            "own_layers": told["own_layers"],
            "voxel_mm": told["voxel_mm"],
            "excluded_mm": told["excluded_mm"],
            "change": told["change"],
            "mass_g": told["mass_g"],
            "cases": cases,
            "worst": next((i for i, c in enumerate(cases) if c is worst_of(cases)), None),
            "perforated": told["perforated"],
            "notes": told["notes"],
            "movements": movements_out(check, told),
            "guesses": guesses(check, cases),
            "stock": bridge.stock(
                told, check.process, services_of(check.part.job, ids), around(service), service["factor"],
                view.farm.stock(),
            ),
            "fixes": _with_turn(stand, cases),
            "fixes_stale": stand.fixes is not None and stand.fixes_for != digest,
            "explored": stand.explored,
            "explored_stale": bool(stand.explored) and stand.explored_for != digest,
        },
    }  # fmt: skip


def _with_turn(stand: Stand, cases: list[dict]) -> list[dict] | None:
    """What was reckoned for the direction, its turn as the net of all directions has it today."""
    worst = worst_of(cases)
    if stand.fixes is None or stand.of.net_id is None or worst is None or worst["reserve"] >= 1:
        return stand.fixes
    net = net_out(stand.of)
    best = max(range(len(net["least"])), key=lambda d: net["least"][d])
    up = net["ups"][best]
    words = f"turn the part: {bridge.direction_words(bridge.unit(up))}, by the solution for all directions"
    turn = {"key": "turn", "words": words, "reserve": net["least"][best], "mass_g": 0.0, "seconds": None}
    rows = [turn | {"numbers": {"up": up}}, *(f for f in stand.fixes if f["key"] != "turn")]
    return sorted(rows, key=lambda f: -f["reserve"])


def _brief(stand: Stand, cases: list[dict] | None = None) -> dict:
    told = told_of(stand)
    worst = worst_of(cases or cases_out(stand)) if told else None
    return {
        "id": stand.id,
        "up": stand.up,
        "up_words": bridge.direction_words(bridge.unit(stand.up)),
        "own_layers": stand.layered is not None,
        "reserve": worst and worst["reserve"],
        "low": worst and worst["low"],
        "high": worst and worst["high"],
        "doubtful": bool(worst and worst["doubtful"]),
        "work": stand.work,
        "volume": stand.volume_id,
        "exploring": stand.exploring,
        "field": stand.field_id,
        "fielding": stand.fielding,
    }


def log_out(stand: Stand) -> dict:
    """Columns over the layers: every case's demand and what the sections say, MPa of pull across the layers that would
    use as much; the capacity of each case.
    """
    check, told = stand.of, told_of(stand)
    service = service_of(check.part.job)
    _, kept = lines_of(check, service)
    strengths = {r["name"]: r["value"] for r in bridge.strengths_of(check.process)}
    z_t = strengths["z_t"]
    equal = lambda values: [float(f"{z_t * v:.4g}") for v in values]
    return {
        "layer_mm": told["layer_mm"],
        "first_mm": told["first_mm"],
        "area_mm2": told["area_mm2"],
        "cases": [
            {
                "id": i,
                "name": name,
                "demand_mpa": equal(case["demand"]),
                "section_mpa": equal(case["by_section"]),
                "capacity_mpa": float(f"{z_t * k:.4g}"),
            }
            for i, name, case, k in zip(check.cases, case_names(check), told["cases"], kept, strict=True)
        ],
    }


def strength_out(view: JobView) -> dict:
    """The check that answers for the job, its directions as they are known, and how far that is."""
    check, job = view.result(STRENGTH), view.job
    service, told = service_of(job), None
    if check:
        changed, stands = view.changed(STRENGTH, check), stands_of(view, check)
        told = {
            "id": check.id,
            "work": check.work,
            "level": check.level,
            "coarse": bool(check.work.arguments.get("coarse")),
            "stale_because": changed,
            "net": check.net_id and f"{check.net_id[:16]}-{service_digest(job, check.cases)[:16]}",
            "cases": [{"id": i, "name": n} for i, n in zip(check.cases, case_names(check), strict=True)],
            "strengths": bridge.strengths_of(check.process),
            "stands": [_brief(s) for s in stands],
        }
    return {"service": service, "check": told}


def state(view: JobView) -> State:
    """How far the check is; its word follows the verdict, a coarse one's too."""
    check = view.result(STRENGTH)
    found, line = _verdict(view, check)
    works = [] if check is None else [check.work, *(s.work for s in stands_of(view, check))]
    return {"state": found, "line": line, "busy": any(w.open for w in works if w)}


def _verdict(view: JobView, check: Check | None) -> tuple[str, str]:
    if not view.inputs(STRENGTH)["loads"]["cases"]:
        return "empty", "no loads yet"
    if check is None:
        return "empty", "not checked"
    if check.level == Check.Level.NOTHING:
        return "open", "being checked" if check.work.open else "cannot be checked" if check.work.problem else "stopped"
    changed = view.changed(STRENGTH, check)
    if changed:
        return "stale", f"{', '.join(changed[:2])} changed"
    choice = view.job["choice"]
    if choice is None:
        return "open", "choose a direction"
    known = (s for s in stands_of(view, check) if bridge.same_direction(s.up, choice["up"]) and told_of(s))
    stand = next(known, None)
    if stand is None and check.level == Check.Level.FULL:
        return "stale", "direction changed"
    coarse = check.level == Check.Level.COARSE
    if stand is None:
        (worst,) = reserves_for(view, [choice["up"]]) or [None]
    else:
        worst = worst_of(cases_out(stand))
    if worst is None:
        return "settled", "no load is felt"
    words = f"{'about ' if coarse else 'reserve '}{worst['reserve']:.2f}{', coarse' if coarse else ''}"
    if worst["reserve"] < 1:
        return "fails", f"fails, {words}"
    if worst["doubtful"]:
        return "open", f"may fail, {words}"
    return "open" if coarse else "settled", words
