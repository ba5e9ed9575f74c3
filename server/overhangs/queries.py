"""Findings of a part as they stand: from its walk, its duties, and what people have settled."""

from farm.queries import differing
from hewel.refusal import Refused
from needs import queries as needs
from overhangs import bridge, matching
from overhangs.models import OverhangAnalysis
from overhangs.stage import OVERHANGS
from stages.stage import State
from store import actions as store
from studies.view import DirectedJob


def current_walk(view: DirectedJob) -> OverhangAnalysis | None:
    """The check that answers for the job as it is; where there is none, the newest, which then is stale."""
    return view.result(OVERHANGS)


def checked(view: DirectedJob) -> OverhangAnalysis | None:
    """The same where its layers are known and it answers for the job; else None."""
    analysis = current_walk(view)
    return analysis if analysis and analysis.truth and not view.changed(OVERHANGS, analysis) else None


def changes(analysis: OverhangAnalysis, process: dict, up: list[float]) -> list[str]:
    """What differs between a check and a process and direction, in words."""
    return ([] if bridge.same_direction(analysis.up, up) else ["direction"]) + differing(analysis.process, process)


def region_findings(analysis: OverhangAnalysis) -> list[dict]:
    """Every region as a finding, with the duties that the job has now."""
    part, regions = analysis.part, analysis.truth["regions"]
    if not regions:
        return []
    patches, fitted = needs.protected_patches(part), needs.fitted_shapes(part.job)
    covered = bridge.areas(store.get(analysis.facets), patches, len(regions)) if patches else [0.0] * len(regions)
    bores = part.facts["bores"] or []
    out = []
    for number, (region, protected) in enumerate(zip(regions, covered, strict=True), start=1):
        known = region["bore"] is not None and region["bore"] < len(bores)
        fit = bridge.fit_of(bores[region["bore"]], fitted) if known else None
        out.append({"number_on_part": number} | region | bridge.finding(region, analysis.process, fit, protected))
    return out


def findings(analysis: OverhangAnalysis) -> dict:
    """``rows``: findings with how each is settled; ``gone``: those of before that are found no more."""
    rows = region_findings(analysis)
    given = [r for r in analysis.part.job["findings"]["rows"] if bridge.same_direction(r["up"], analysis.up)]
    pairs = matching.paired(rows, given)
    out = []
    for i, row in enumerate(rows):
        then = given[pairs[i]] if i in pairs else None
        grown = then is not None and matching.has_grown(row, then)
        state = "none" if row["verdict"] == "holds" else "open"
        if then is not None and not grown:
            state = then["state"]
        out.append(row | {"state": state, "settled": then, "grown": grown})
    gone = _gone([r for j, r in enumerate(given) if j not in pairs.values()], analysis)
    return {"rows": out, "gone": gone + _remedied(analysis, rows, given)}


def _gone(rows: list[dict], analysis: OverhangAnalysis) -> list[dict]:
    then = OverhangAnalysis.objects.select_related("part").in_bulk([r["walk"] for r in rows])
    then = {str(number): w for number, w in then.items()}
    return [{**row, "because": _since(then.get(row["walk"]), analysis)} for row in rows]


def _since(then: OverhangAnalysis | None, analysis: OverhangAnalysis) -> list[str]:
    if then is None:
        return ["an earlier revision"]
    since = [] if then.part.solid_id == analysis.part.solid_id else [f"the part (revision {analysis.part.revision})"]
    return since + changes(then, analysis.process, analysis.up) or ["what people settled"]


def _remedied(analysis: OverhangAnalysis, rows: list[dict], given: list[dict]) -> list[dict]:
    """What failed or was doubtful in the check before this one in the same direction, and is there no more."""
    parts = [analysis.part_id, analysis.part.before_id]
    earlier = OverhangAnalysis.objects.filter(part_id__in=parts, created__lt=analysis.created).exclude(
        digest=analysis.digest
    )
    earlier = earlier.exclude(log=None).select_related("part__sheet", "facets")
    then = next((w for w in earlier if bridge.same_direction(w.up, analysis.up)), None)
    if then is None:
        return []
    before = [r for r in region_findings(then) if r["verdict"] != "holds"]
    still = set(matching.paired([r for r in rows if r["verdict"] != "holds"], before).values())
    kept = set(matching.paired(given, before).values())
    return [
        {
            "kind": r["kind"],
            "sentence": r["sentence"],
            "number": r["number"],
            "unit": r["unit"],
            "centre_mm": r["centre_mm"],
            "state": "remedied",
            "reason": "",
            "by": "",
            "at": None,
            "because": _since(then, analysis),
        }
        for j, r in enumerate(before)
        if j not in still and j not in kept
    ]


NOTHING_YET = {"rows": [], "gone": []}


def overhangs_out(view: DirectedJob) -> dict:
    """The check that answers for the job, its findings as they stand now, and how far that is."""
    direction, analysis = view.direction, current_walk(view)
    known = findings(analysis) if analysis and analysis.truth is not None else NOTHING_YET
    changed = view.changed(OVERHANGS, analysis) if analysis else []
    out = analysis and {
        "id": analysis.id,
        "up": analysis.up,
        "up_words": bridge.direction_words(bridge.unit(analysis.up)),
        "process": analysis.process,
        "stale_because": changed,
        "work": analysis.work,
        "truth": analysis.truth and {k: v for k, v in analysis.truth.items() if k != "regions"},
        "complete": analysis.complete,
        "outlines": analysis.outlines_id,
        "facets": analysis.facets_id,
        **known,
    }
    return {
        "up": direction and direction.up,
        "chosen": bool(direction and direction.chosen),
        "analysis": out,
    }


def state(view: DirectedJob) -> State:
    """How far the check is."""
    analysis = current_walk(view)
    busy = bool(analysis and analysis.work.open)
    if view.direction is None:
        return {"state": "empty", "line": "no direction yet", "busy": busy}
    if analysis is None or not (analysis.complete or busy):
        return {"state": "empty", "line": "check layers", "busy": False}
    if not analysis.complete:
        return {"state": "open", "line": "checking the layers", "busy": True}
    if view.changed(OVERHANGS, analysis):
        return {"state": "stale", "line": "changed since", "busy": busy}
    rows = findings(analysis)["rows"]
    left = sum(r["state"] == "open" for r in rows)
    if left:
        return {"state": "open", "line": f"{left} open", "busy": busy}
    settled = sum(r["state"] != "none" for r in rows)
    return {"state": "settled", "line": f"{settled} settled" if settled else "nothing hangs too far", "busy": busy}


def log_out(analysis: OverhangAnalysis, copies: int) -> dict:
    """The layer log's columns with so many copies printed together."""
    if not analysis.complete:
        raise Refused("not_checked", "The layers are still being checked.", "Ask again in a moment.")
    one, all_ = (
        bridge.seconds(analysis.log, analysis.process, 1),
        bridge.seconds(analysis.log, analysis.process, copies),
    )
    waits = analysis.process["layer_minimum"] + analysis.process["layer_change"]
    return {
        **{k: analysis.log[k] for k in ("layer_mm", "first_mm", "area_mm2", "perimeters_mm", "solid_mm", "sparse_mm")},
        "copies": copies,
        "seconds": all_,
        "seconds_one": one,
        "total_s": sum(all_),
        "total_one_s": sum(one),
        "events": events(analysis, all_, waits),
    }


def events(analysis: OverhangAnalysis, seconds: list[float], least: float) -> list[dict]:
    """What happens at a height, lowest first: mid-air starts, bridges, stretches that wait for cooling."""
    words = {"island": "begins in mid-air", "bridge": "bridge", "bore_roof": "bore roof"}
    h = analysis.log["layer_mm"]
    like: dict[tuple, list[dict]] = {}
    for r in analysis.truth["regions"]:
        if r["kind"] in words:
            like.setdefault((r["kind"], round(r["z_mm"] / h)), []).append(r)
    out = [
        {
            "z_mm": rows[0]["z_mm"],
            "to_mm": max(r["top_mm"] for r in rows),
            "kind": kind,
            "words": f"{len(rows)} × {words[kind]}" if len(rows) > 1 else words[kind],
        }
        for (kind, _), rows in like.items()
    ]
    begin = None
    for k, s in enumerate([*seconds, 0.0]):
        waiting = k < len(seconds) and s <= least + 1e-6
        if waiting and begin is None:
            begin = k
        elif not waiting and begin is not None:
            out.append({"z_mm": begin * h, "to_mm": k * h, "kind": "cooling", "words": "waits for cooling"})
            begin = None
    return sorted(out, key=lambda e: (e["z_mm"], e["kind"]))
