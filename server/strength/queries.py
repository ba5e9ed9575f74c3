"""How a part holds its loads as the job stands now: what was solved, with the knock-downs and factors of today."""

import json
from collections.abc import Iterable, Iterator
from functools import lru_cache
from math import prod
from typing import Any

import numpy as np

from hewel.rounding import significant
from stages.stage import State
from stages.view import JobView
from store import actions as store
from store.models import Blob
from strength import bridge
from strength.directions import directions_of
from strength.job import around, service_digest, service_of, services_of
from strength.models import BatchWelds, DirectionAnalysis, StrengthAnalysis
from strength.stage import STRENGTH

# ------------------------------------------------------------------ checks

FIGURES = 4
"""Of a reserve, as it is told."""


def welds_of(view: JobView, analysis: DirectionAnalysis) -> dict | None:
    """The welds of the job's batch, as far as they are those of this direction's layers."""
    chosen, result = view.job["batch"], solution_of(analysis)
    if chosen is None or result is None:
        return None
    row = view.together.once("welds", lambda: _welds(view.together.views)).get(chosen["welds"])
    fits = (
        row is not None
        and bridge.same_direction(row.up, analysis.up)
        and abs(row.pitch - result["layer_mm"]) < 1e-9
        and len(row.value) == len(result["area_mm2"])
    )
    return {"value": row.value, "low": row.low, "pitch": row.pitch, "words": row.words} if row and fits else None


def _welds(views: Iterable[JobView]) -> dict[str, BatchWelds]:
    chosen = [v.job["batch"]["welds"] for v in views if v.job["batch"]]
    return {str(w.id): w for w in BatchWelds.objects.filter(id__in=chosen)}


def lines_of(check: StrengthAnalysis, service: dict, welds: dict | None = None) -> tuple[list[list[dict]], list[float]]:
    """Of every case its knock-downs line by line, and what multiplies 1/index to its reserve. A weld that somebody
    typed gives way to the ``welds`` of a batch.
    """
    if welds:
        service = service | {"bond": None}
    return sums_of(check.part.job, check.process, check.cases, service)


def sums_of(job: dict, process: dict, ids: list[str], service: dict) -> tuple[list[list[dict]], list[float]]:
    """The same for cases by their ids, under a process."""
    rows = [
        bridge.sum_of(process, nature, cycles, around(service), service["factor"])
        for nature, cycles in services_of(job, ids)
    ]
    return [lines for lines, _ in rows], [kept for _, kept in rows]


@lru_cache(maxsize=8)
def _net_bytes(digest: str) -> bytes:
    return store.get(Blob.objects.get(digest=digest))


class _ByNet:
    """The job's reserves in directions ``ups`` by the solution for all of them, so that they can be compared; only
    where a direction's own layers turn its verdict, theirs is told.
    """

    def __init__(self, view: JobView, check: StrengthAnalysis, ups: list, banded: bool):
        lines, kept = lines_of(check, service_of(view.job))
        found, self.less = bridge.reserves_in(_net_bytes(check.net_id), check.process, lines, ups, banded)
        self.bounds = {bound: values * np.reshape(kept, (-1, 1)) for bound, values in found.items()}
        self.case = self.bounds["value"].argmin(axis=0)
        self.check, self._view, self._ups = check, view, ups

    def least(self, bound: str) -> np.ndarray:
        """(d,) of the case that is nearest to failing."""
        return self.bounds[bound][self.case, np.arange(len(self._ups))]

    def turned(self) -> Iterator[tuple[int, dict]]:
        """Places of directions whose own layers turn the verdict, with what these say."""
        value = self.least("value")
        for analysis in (s for s in directions_of(self._view, self.check) if s.layered is not None):
            places = bridge.places_of(analysis.up, self._ups)
            worst = worst_of(cases_out(self._view, analysis)) if places else None
            if worst:
                yield from ((i, worst) for i in places if (value[i] < 1) != (worst["reserve"] < 1))


def _by_net(view: JobView, ups: list, banded: bool) -> _ByNet | None:
    """None while there is no check that answers for the job."""
    check = view.result(STRENGTH)
    if check is None or check.net_id is None or not check.cases or len(ups) == 0 or view.changed(STRENGTH, check):
        return None
    return _ByNet(view, check, ups, banded)


def reserves_for(view: JobView, ups: list) -> list[dict] | None:
    """The least ``reserve`` of the job in each direction with its band (``low``, ``high``), whether finer voxels may
    bring it below 1 (``doubtful``), and its ``case``. None while there is no check that answers for it.
    """
    found = _by_net(view, ups, banded=True)
    if found is None:
        return None
    names = case_names(found.check)
    value, low, high = (found.least(bound) for bound in ("value", "low", "high"))
    doubtful = (found.less * value < 1) & (value >= 1)
    told = [significant(column, FIGURES).tolist() for column in (value, low, high)]
    rows = [
        dict(zip(("reserve", "low", "high", "doubtful", "case"), row, strict=True))
        for row in zip(*told, doubtful.tolist(), (names[k] for k in found.case), strict=True)
    ]
    for i, worst in found.turned():
        figures = {n: float(significant(worst[n], FIGURES)) for n in ("reserve", "low", "high")}
        rows[i] |= figures | {"doubtful": worst["doubtful"], "case": worst["name"]}
    return rows


def least_reserves(view: JobView, ups: list) -> np.ndarray | None:
    """(d,) what ``reserves_for`` calls ``reserve``, for thousands of directions."""
    found = _by_net(view, ups, banded=False)
    if found is None:
        return None
    value = found.least("value")
    for i, worst in found.turned():
        value[i] = worst["reserve"]
    return significant(value, FIGURES)


def answering(view: JobView, up: list[float]) -> DirectionAnalysis | None:
    """What is known of a direction by the check that answers for the job; None where that is nothing yet."""
    check = view.result(STRENGTH)
    if check is None or view.changed(STRENGTH, check):
        return None
    known = (s for s in directions_of(view, check) if bridge.same_direction(s.up, up) and solution_of(s))
    return next(known, None)


def case_names(check: StrengthAnalysis) -> list[str]:
    """What the job calls the cases now; one that is gone keeps the name it was solved under."""
    job = check.part.job
    now = {r["id"]: r["name"] for r in (*job["loads"]["cases"], *job["loads"]["combinations"])}
    then = [c["name"] for c in (*check.loads["cases"], *check.loads["combinations"])]
    return [now.get(i, name) for i, name in zip(check.cases, then, strict=True)]


def net_out(check: StrengthAnalysis) -> dict:
    """Reserve of every case in every swept direction, and the least."""
    result = json.loads(_net_bytes(check.net_id))
    lines, kept = lines_of(check, service_of(check.part.job))
    rows = [c["reserve"] for c in result["cases"]]
    if any(line["key"].startswith("trials") for own in lines for line in own):  # they act on some strengths alone
        rows = bridge.reserves_in(_net_bytes(check.net_id), check.process, lines, result["ups"], False)[0]["value"]
    cases = significant(np.reshape(kept, (-1, 1)) * np.array(rows), FIGURES).tolist()
    return {"ups": result["ups"], "cases": cases, "least": [min(column) for column in zip(*cases, strict=True)]}


def reserves_by_weld(view: JobView, analysis: DirectionAnalysis, weld: Any, low: Any) -> list[dict | None]:
    """The least reserve of a direction for each of many batches, see ``bridge.by_weld``, with the name of its case."""
    check, service = analysis.of, service_of(view.job) | {"bond": None}
    lines, _ = lines_of(check, service)
    rows = bridge.by_weld(solution_of(analysis), check.process, lines, service["factor"], weld, low)
    names = case_names(check)
    return [row and row | {"case": names[row["case"]]} for row in rows]


# ------------------------------------------------------------------ one direction


def solution_of(analysis: DirectionAnalysis) -> dict | None:
    return analysis.layered or analysis.screened


def cases_out(view: JobView, analysis: DirectionAnalysis) -> list[dict]:
    """Every case of a direction with its sum, its reserve, and the screening beside its own layers; with the welds of
    the batch that was chosen for it.
    """
    check, result = analysis.of, solution_of(analysis)
    service, welds = service_of(check.part.job), welds_of(view, analysis)
    lines, kept = lines_of(check, service, welds)
    rows = bridge.read(result, check.process, lines, service["factor"], welds)
    other = (
        bridge.read(analysis.screened, check.process, lines, service["factor"], welds)
        if analysis.layered and analysis.screened
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
                "lines": [*lines[i], *(_weld_line(row, welds) if welds else ())],
                "kept": kept[i],
                "screened": other[i]["reserve"] if other else None,
                "fasteners": result["cases"][i]["fasteners"],
            }
        )
    return out


def as_tested(view: JobView, up: list[float], plate: float) -> list[dict]:
    """Every case as a test at 23 °C would break it in a direction, the part standing at the height ``plate`` along it:
    no knock-down, no required factor, the welds of the batch that was chosen. ``times`` its load that it bears;
    ``welded``: whether those are in it. By the direction's own solution, else by that for all directions; empty while
    nothing answers for the job.
    """
    check, analysis = view.result(STRENGTH), answering(view, up)
    if check is None or check.net_id is None or view.changed(STRENGTH, check):
        return []
    welds = analysis and welds_of(view, analysis)
    if analysis:
        rows = bridge.read(solution_of(analysis), check.process, [[] for _ in check.cases], 1.0, welds)
    else:
        rows = bridge.read_net(_net_bytes(check.net_id), check.process, up, plate)
    lines, _ = lines_of(check, service_of(view.job), welds)
    out = []
    for i, (row, name) in enumerate(zip(rows, case_names(check), strict=True)):
        shock = prod(line["value"] for line in lines[i] if line["on"] == "load")  # which the stress was solved with
        times = lambda value, shock=shock: value and value * shock
        out.append({
            "id": check.cases[i], "name": name, "times": times(row["reserve"]), "low": times(row["low"]),
            "high": times(row["high"]), "mode": row["mode"], "at": row["at_mm"], "z": row["z_mm"],
            "welded": bool(welds),
        })  # fmt: skip
    return out


def least_with(view: JobView, up: list[float], own: dict[str, dict]) -> dict | None:
    """The least reserve of the job in a direction as it is, and with other readings of its material; None where nothing
    answers for it.
    """
    check, analysis, service = view.result(STRENGTH), answering(view, up), service_of(view.job)
    if check is None or check.net_id is None or view.changed(STRENGTH, check):
        return None
    welds = analysis and welds_of(view, analysis)
    told = []
    for process in (check.process, check.process | {"own": check.process["own"] | own}):
        lines, kept = sums_of(check.part.job, process, check.cases, service | ({"bond": None} if welds else {}))
        if analysis:
            worst = worst_of(bridge.read(solution_of(analysis), process, lines, service["factor"], welds))
            told.append(worst and worst["reserve"])
        else:
            found, _ = bridge.reserves_in(_net_bytes(check.net_id), process, lines, [up], False)
            told.append(float(min(k * row[0] for k, row in zip(kept, found["value"], strict=True))))
    return {"before": told[0], "after": told[1]}


def _weld_line(row: dict, welds: dict) -> list[dict]:
    if "weld" not in row:
        return []
    words = f"weld of {welds['words']}, at {row['z_mm']:.1f} mm"
    return [{"key": "weld", "words": words, "value": row["weld"], "origin": "calculated", "on": "across"}]


def worst_of(rows: list[dict]) -> dict | None:
    critical_points = [r for r in rows if r["reserve"] is not None]
    return min(critical_points, key=lambda r: r["reserve"], default=None)


def guesses(check: StrengthAnalysis, cases: list[dict]) -> list[dict]:
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


def movements_out(check: StrengthAnalysis, result: dict) -> list[dict]:
    """Every permitted movement beside what was found, the case where it is greatest."""
    job, names = check.part.job, case_names(check)
    out = []
    for i, row in enumerate(job["loads"]["movements"]):
        moved = [
            (abs(c["moved_mm"][i]), name)
            for c, name, key in zip(result["cases"], names, check.cases, strict=True)
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


def direction_out(view: JobView, analysis: DirectionAnalysis) -> dict:
    check, result = analysis.of, solution_of(analysis)
    if result is None:
        return {**_brief(view, analysis), "result": None}
    service, ids = service_of(check.part.job), check.cases
    cases = cases_out(view, analysis)
    digest = service_digest(check.part.job, ids)
    return {
        **_brief(view, analysis, cases),
        "result": {
            "own_layers": result["own_layers"],
            "voxel_mm": result["voxel_mm"],
            "excluded_mm": result["excluded_mm"],
            "change": result["change"],
            "mass_g": result["mass_g"],
            "cases": cases,
            "worst": next((i for i, c in enumerate(cases) if c is worst_of(cases)), None),
            "perforated": result["perforated"],
            "notes": result["notes"],
            "movements": movements_out(check, result),
            "guesses": guesses(check, cases),
            "stock": bridge.stock(
                result, check.process, services_of(check.part.job, ids), around(service), service["factor"],
                view.farm.stock(),
            ),
            "fixes": _with_turn(analysis, cases),
            "fixes_stale": analysis.fixes is not None and analysis.fixes_for != digest,
            "explored": analysis.explored,
            "explored_stale": bool(analysis.explored) and analysis.explored_for != digest,
        },
    }  # fmt: skip


def _with_turn(analysis: DirectionAnalysis, cases: list[dict]) -> list[dict] | None:
    """What was calculated for the direction, its turn as the net of all directions has it today."""
    worst = worst_of(cases)
    if analysis.fixes is None or analysis.of.net_id is None or worst is None or worst["reserve"] >= 1:
        return analysis.fixes
    net = net_out(analysis.of)
    best = max(range(len(net["least"])), key=lambda d: net["least"][d])
    up = net["ups"][best]
    words = f"turn the part: {bridge.direction_words(bridge.unit(up))}, by the solution for all directions"
    turn = {"key": "turn", "words": words, "reserve": net["least"][best], "mass_g": 0.0, "seconds": None}
    rows = [turn | {"numbers": {"up": up}}, *(f for f in analysis.fixes if f["key"] != "turn")]
    return sorted(rows, key=lambda f: -f["reserve"])


def _brief(view: JobView, analysis: DirectionAnalysis, cases: list[dict] | None = None) -> dict:
    result = solution_of(analysis)
    worst = worst_of(cases or cases_out(view, analysis)) if result else None
    return {
        "id": analysis.id,
        "up": analysis.up,
        "up_words": bridge.direction_words(bridge.unit(analysis.up)),
        "own_layers": analysis.layered is not None,
        "reserve": worst and worst["reserve"],
        "low": worst and worst["low"],
        "high": worst and worst["high"],
        "doubtful": bool(worst and worst["doubtful"]),
        "work": analysis.work,
        "volume": analysis.volume_id,
        "exploring": analysis.exploring,
        "field": analysis.field_id,
        "fielding": analysis.fielding,
    }


def log_out(view: JobView, analysis: DirectionAnalysis) -> dict:
    """Columns over the layers: every case's demand and what the sections say, MPa of pull across the layers that would
    use as much, with the weld of the batch that was chosen; the capacity of each case.
    """
    check, result = analysis.of, solution_of(analysis)
    service, welds = service_of(check.part.job), welds_of(view, analysis)
    lines, kept = lines_of(check, service, welds)
    demand = bridge.demand_in(result, check.process, lines, welds) if welds else [c["demand"] for c in result["cases"]]
    strengths = {r["name"]: r["value"] for r in bridge.strengths_of(check.process)}
    z_t = strengths["z_t"]
    equal = lambda values: significant(z_t * np.array(values), FIGURES).tolist()
    return {
        "layer_mm": result["layer_mm"],
        "first_mm": result["first_mm"],
        "area_mm2": result["area_mm2"],
        "weld": welds and {"words": welds["words"], "value": welds["value"], "low": welds["low"]},
        "cases": [
            {
                "id": i,
                "name": name,
                "demand_mpa": equal(used),
                "section_mpa": equal(case["by_section"]),
                "capacity_mpa": float(significant(z_t * k, FIGURES)),
            }
            for i, name, case, used, k in zip(
                check.cases, case_names(check), result["cases"], demand, kept, strict=True
            )
        ],
    }


def strength_out(view: JobView) -> dict:
    """The check that answers for the job, its directions as they are known, and how far that is."""
    check, job = view.result(STRENGTH), view.job
    service, result = service_of(job), None
    if check:
        changed, directions = view.changed(STRENGTH, check), directions_of(view, check)
        result = {
            "id": check.id,
            "work": check.work,
            "level": check.level,
            "coarse": bool(check.work.arguments.get("coarse")),
            "stale_because": changed,
            "net": check.net_id and f"{check.net_id[:16]}-{service_digest(job, check.cases)[:16]}",
            "cases": [{"id": i, "name": n} for i, n in zip(check.cases, case_names(check), strict=True)],
            "strengths": bridge.strengths_of(check.process),
            "directions": [_brief(view, s) for s in directions],
        }
    return {"service": service, "check": result}


def state(view: JobView) -> State:
    """How far the check is; its word follows the verdict, a coarse one's too."""
    check = view.result(STRENGTH)
    found, line = _verdict(view, check)
    works = [] if check is None else [check.work, *(s.work for s in directions_of(view, check))]
    return {"state": found, "line": line, "busy": any(w.open for w in works if w)}


def _verdict(view: JobView, check: StrengthAnalysis | None) -> tuple[str, str]:
    if not view.inputs(STRENGTH)["loads"]["cases"]:
        return "empty", "no loads yet"
    if check is None:
        return "empty", "not checked"
    if check.level == StrengthAnalysis.Level.NOTHING:
        return "open", "being checked" if check.work.open else "cannot be checked" if check.work.problem else "stopped"
    changed = view.changed(STRENGTH, check)
    if changed:
        return "stale", f"{', '.join(changed[:2])} changed"
    choice = view.job["choice"]
    if choice is None:
        return "open", "choose a direction"
    analysis = answering(view, choice["up"])
    if analysis is None and check.level == StrengthAnalysis.Level.FULL:
        return "stale", "direction changed"
    coarse = check.level == StrengthAnalysis.Level.COARSE
    if analysis is None:
        (worst,) = reserves_for(view, [choice["up"]]) or [None]
    else:
        worst = worst_of(cases_out(view, analysis))
    if worst is None:
        return "settled", "no load acts"
    words = f"{'about ' if coarse else 'reserve '}{worst['reserve']:.2f}{', coarse' if coarse else ''}"
    if worst["reserve"] < 1:
        return "fails", f"fails, {words}"
    if worst["doubtful"]:
        return "open", f"may fail, {words}"
    return "open" if coarse else "settled", words
