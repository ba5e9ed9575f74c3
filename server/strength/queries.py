"""How a part holds its loads as the job stands now: what was solved, with the knock-downs and factors of today."""

import json
from functools import lru_cache

from farm.queries import differing, process_of, stocked
from needs import queries as needs

from hewel.digest import digest
from hewel.refusal import not_found
from store import actions as store
from store.models import Blob
from strength import bridge
from strength.models import Check, Stand

# ------------------------------------------------------------------ what the job says


def loads_of(job: dict) -> tuple[dict, list[dict]]:
    """The loads file to be solved, and the cases and combinations (rows of the job) in its order. Of the natures only
    shock is in the file: it multiplies the load.
    """
    said = needs.loads_file(job)
    rows = {c["name"]: c for c in job["loads"]["cases"]}
    sums = {c["name"]: c for c in job["loads"]["combinations"]}
    cases = [rows[c["name"]] for c in said["cases"]] + [sums[c["name"]] for c in said["combinations"]]
    for case in said["cases"]:
        case.pop("cycles", None)
        if case["nature"] != "shock":
            case["nature"] = "static"
    return said, cases


def loads_in_service(job: dict) -> dict | None:
    """The loads file with the nature of every case, so that a reserve read from it is the one that is told here; None
    where nothing is written.
    """
    said = needs.loads_file(job)
    return said if said["cases"] or said["fixed"] else None


def bare(said: dict | None) -> dict | None:
    """A loads file without the names: what a case is called changes nothing."""
    if said is None:
        return None
    number = {c["name"]: i for i, c in enumerate(said["cases"])}
    nameless = lambda row: {k: v for k, v in row.items() if k != "name"}
    region = lambda row: row | ({"on": nameless(row["on"])} if row.get("on") else {})
    return {
        "fixed": [region(h) for h in said["fixed"]],
        "cases": [nameless(c) | {"loads": [region(r) for r in c["loads"]]} for c in said["cases"]],
        "combinations": [[[number[p["case"]], p["factor"]] for p in c["parts"]] for c in said["combinations"]],
    }


def movements_of(job: dict) -> list[dict]:
    return [{"point": m["point"], "direction": m["direction"]} for m in job["loads"]["movements"]]


def digest_of(part, process: dict | None = None) -> str:
    """Names what a check of ``part`` depends on."""
    job = part.job
    process = process or process_of(part.workshop, job["process"])["numbers"]
    loads = bare(loads_of(job)[0])
    return digest(bridge.ENGINE_VERSION, part.solid_id, process, loads, movements_of(job), job["service"]["bond"])


def service_of(job: dict) -> dict:
    """What the part meets in use, and where each of it is said."""
    said = job["service"]
    warmest = [
        (r["number"]["n"], r["statement"])
        for r in job["requirements"]["rows"]
        if r["kind"] == "environment" and r["number"] and r["number"]["unit"] == "°C"
    ]
    temperature, source = None, None
    if said["temperature"]:
        temperature, source = said["temperature"]["n"], "typed here"
    elif warmest:
        temperature, source = max(warmest)
    use = {"ordinary": "none", "functional": "functional", "injury": "injury"}[job["need"]["use"]]
    return {
        "temperature_c": temperature,
        "temperature_source": source,
        "wet": said["wet"],
        "bond": said["bond"],
        "untested": said["untested"],
        "factor": said["factor"] or bridge.REQUIRED[use],
        "factor_source": "typed here" if said["factor"] else f"for what a failure does: {job['need']['use']}",
    }


def around(service: dict) -> dict:
    """The same as the engine takes it."""
    return {
        "temperature": service["temperature_c"],
        "wet": service["wet"],
        "bond": service["bond"],
        "scatter": service["untested"],
    }


def divided_by(job: dict) -> dict:
    """What a reserve is divided by in the job's circumstances, as the engine takes it."""
    service = service_of(job)
    return {"around": around(service), "factor": service["factor"]}


def services_of(job: dict, ids: list[str]) -> list[tuple]:
    """(nature, cycles) of the cases with these ids; a combination is static."""
    rows = {c["id"]: c for c in job["loads"]["cases"]}
    return [(rows[i]["nature"], rows[i]["cycles"]) if i in rows else ("static", None) for i in ids]


def service_digest(job: dict, ids: list[str]) -> str:
    return digest(service_of(job) | {"temperature_source": None, "factor_source": None}, services_of(job, ids))


# ------------------------------------------------------------------ checks

WORKS = ("work", "exploring", "fielding")


def check_of(user, check_id) -> Check:
    rows = Check.objects.filter(id=check_id, part__workshop=user.workshop, part__sheet__struck=None)
    check = rows.select_related("work", "part__sheet", "net").first()
    if check is None:
        raise not_found("check")
    return check


def stand_of(user, stand_id) -> Stand:
    rows = Stand.objects.filter(id=stand_id, of__part__workshop=user.workshop, of__part__sheet__struck=None)
    stand = rows.select_related("of__part__sheet", "of__work", "volume", "field", *WORKS).first()
    if stand is None:
        raise not_found("direction of a check")
    return stand


def current_check(part) -> Check | None:
    """The check that answers for the job as it is; where there is none, the newest, which then is stale."""
    rows = part.checks.select_related("work", "part__sheet", "net")
    return rows.filter(digest=digest_of(part)).first() or rows.first()


def stale_because(check: Check) -> list[str]:
    """What the check rests on and has changed since, in words; empty while it holds."""
    part = check.part
    numbers = process_of(part.workshop, part.job["process"])["numbers"]
    if check.digest == digest_of(part, numbers):
        return []
    told = []
    if bare(loads_of(part.job)[0]) != bare(check.loads):
        told.append("loads")
    if movements_of(part.job) != check.movements:
        told.append("permitted movements")
    if part.job["service"]["bond"] != check.bond:
        told.append("weld of the batch")
    return told + differing(check.process, numbers) or ["engine"]


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


def reserves_for(part, ups: list, banded: bool = True) -> list[dict] | None:
    """The least ``reserve`` of the job in each direction with its band (``low``, ``high``), whether finer cubes may
    bring it below 1 (``doubtful``), and its ``case``. All are from the solution for all directions, so that they can
    be compared; only where a direction's own layers turn its verdict, theirs is told. Of thousands of directions the
    band is not worth its while: not ``banded``. None while there is no check that answers for it.
    """
    check = current_check(part)
    if check is None or check.net_id is None or not ups or stale_because(check):
        return None
    _, kept = lines_of(check, service_of(part.job))
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
    for stand in check.stands.exclude(layered=None):
        stand.of = check
        at = [i for i, up in enumerate(ups) if bridge.same_direction(stand.up, up)]
        worst = worst_of(cases_out(stand)) if at else None
        if worst:
            for i in (i for i in at if (rows[i]["reserve"] < 1) != (worst["reserve"] < 1)):
                rows[i] |= {n: worst[n] for n in rows[i] if n in worst} | {"case": worst["name"]}
    return [row | {n: float(f"{row[n]:.4g}") for n in ("reserve", "low", "high") if n in row} for row in rows]


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


def stand_out(stand: Stand) -> dict:
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
                stocked(check.part.workshop),
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


def strength_out(part) -> dict:
    """The check that answers for the job, its directions as they are known, and how far that is."""
    check, job = current_check(part), part.job
    service, said = service_of(job), loads_of(job)[0]
    told, stands, changed = None, [], []
    if check:
        changed = stale_because(check)
        stands = list(check.stands.select_related(*WORKS))
        for stand in stands:
            stand.of = check
        told = {
            "id": check.id,
            "work": check.work,
            "level": check.level,
            "coarse": bool(check.work.order.get("coarse")),
            "stale_because": changed,
            "net": check.net_id and f"{check.net_id[:16]}-{service_digest(job, check.cases)[:16]}",
            "cases": [{"id": i, "name": n} for i, n in zip(check.cases, case_names(check), strict=True)],
            "strengths": bridge.strengths_of(check.process),
            "stands": [_brief(s) for s in stands],
        }
    return {"stage": _stage(part, said, check, stands, changed), "service": service, "check": told}


def _stage(part, said: dict, check: Check | None, stands: list[Stand], changed: list[str]) -> dict:
    """How far the check is, for the list of stages; its word follows the verdict, a coarse one's too."""
    if not said["cases"]:
        return {"state": "empty", "line": "no loads yet"}
    if check is None:
        return {"state": "empty", "line": "not checked"}
    if check.work.open and check.level == Check.Level.NOTHING:
        return {"state": "open", "line": "being checked"}
    if check.level == Check.Level.NOTHING:
        return {"state": "open", "line": "stopped" if not check.work.problem else "cannot be checked"}
    if changed:
        return {"state": "stale", "line": f"{', '.join(changed[:2])} changed"}
    choice = part.job["choice"]
    if choice is None:
        return {"state": "open", "line": "choose a direction"}
    stand = next((s for s in stands if bridge.same_direction(s.up, choice["up"]) and told_of(s)), None)
    if stand is None and check.level == Check.Level.FULL:
        return {"state": "stale", "line": "direction changed"}
    coarse = check.level == Check.Level.COARSE
    if stand is None:
        (worst,) = reserves_for(part, [choice["up"]]) or [None]
    else:
        worst = worst_of(cases_out(stand))
    if worst is None:
        return {"state": "settled", "line": "no load is felt"}
    words = f"{'about ' if coarse else 'reserve '}{worst['reserve']:.2f}{', coarse' if coarse else ''}"
    if worst["reserve"] < 1:
        return {"state": "fails", "line": f"fails, {words}"}
    if worst["doubtful"]:
        return {"state": "open", "line": f"may fail, {words}"}
    return {"state": "open" if coarse else "settled", "line": words}
