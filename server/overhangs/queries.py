"""Findings of a part as they stand: from its walk, its duties, and what people have settled."""

from farm.queries import differing
from hewel.refusal import Refused
from needs import queries as needs
from overhangs import bridge, ledger
from overhangs.models import Walk
from overhangs.stage import OVERHANGS
from stages.stage import State
from store import actions as store
from studies.view import DirectedJob


def current_walk(view: DirectedJob) -> Walk | None:
    """The walk that answers for the job as it is; where there is none, the newest, which then is stale."""
    return view.result(OVERHANGS)


def changes(walk: Walk, process: dict, up: list[float]) -> list[str]:
    """What differs between a walk and a process and direction, in words."""
    return ([] if bridge.same_direction(walk.up, up) else ["direction"]) + differing(walk.process, process)


def region_findings(walk: Walk) -> list[dict]:
    """Every region as a finding, with the duties that the job has now."""
    part, regions = walk.part, walk.truth["regions"]
    if not regions:
        return []
    patches, fitted = needs.protected_patches(part), needs.fitted_shapes(part.job)
    covered = bridge.areas(store.get(walk.facets), patches, len(regions)) if patches else [0.0] * len(regions)
    bores = part.facts["bores"] or []
    out = []
    for number, (region, protected) in enumerate(zip(regions, covered, strict=True), start=1):
        known = region["bore"] is not None and region["bore"] < len(bores)
        fit = bridge.fit_of(bores[region["bore"]], fitted) if known else None
        out.append({"number_on_part": number} | region | bridge.finding(region, walk.process, fit, protected))
    return out


def findings(walk: Walk) -> dict:
    """``rows``: findings with how each is settled; ``gone``: those of before that are found no more."""
    rows = region_findings(walk)
    said = [r for r in walk.part.job["findings"]["rows"] if bridge.same_direction(r["up"], walk.up)]
    pairs = ledger.paired(rows, said)
    out = []
    for i, row in enumerate(rows):
        then = said[pairs[i]] if i in pairs else None
        grown = then is not None and ledger.has_grown(row, then)
        state = "none" if row["verdict"] == "holds" else "open"
        if then is not None and not grown:
            state = then["state"]
        out.append(row | {"state": state, "settled": then, "grown": grown})
    gone = _gone([r for j, r in enumerate(said) if j not in pairs.values()], walk)
    return {"rows": out, "gone": gone + _remedied(walk, rows, said)}


def _gone(rows: list[dict], walk: Walk) -> list[dict]:
    then = Walk.objects.select_related("part").in_bulk([r["walk"] for r in rows])
    then = {str(number): w for number, w in then.items()}
    return [{**row, "because": _since(then.get(row["walk"]), walk)} for row in rows]


def _since(then: Walk | None, walk: Walk) -> list[str]:
    if then is None:
        return ["an earlier revision"]
    told = [] if then.part.solid_id == walk.part.solid_id else [f"the part (revision {walk.part.revision})"]
    return told + changes(then, walk.process, walk.up) or ["what people settled"]


def _remedied(walk: Walk, rows: list[dict], said: list[dict]) -> list[dict]:
    """What failed or was doubtful in the walk before this one in the same direction, and is there no more."""
    parts = [walk.part_id, walk.part.before_id]
    earlier = Walk.objects.filter(part_id__in=parts, created__lt=walk.created).exclude(digest=walk.digest)
    earlier = earlier.exclude(log=None).select_related("part__sheet", "facets")
    then = next((w for w in earlier if bridge.same_direction(w.up, walk.up)), None)
    if then is None:
        return []
    before = [r for r in region_findings(then) if r["verdict"] != "holds"]
    still = set(ledger.paired([r for r in rows if r["verdict"] != "holds"], before).values())
    kept = set(ledger.paired(said, before).values())
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
            "because": _since(then, walk),
        }
        for j, r in enumerate(before)
        if j not in still and j not in kept
    ]


NOTHING_YET = {"rows": [], "gone": []}


def overhangs_out(view: DirectedJob) -> dict:
    """The walk that answers for the job, its findings as they stand now, and how far that is."""
    there, walk = view.direction, current_walk(view)
    known = findings(walk) if walk and walk.truth is not None else NOTHING_YET
    changed = view.changed(OVERHANGS, walk) if walk else []
    told = walk and {
        "id": walk.id,
        "up": walk.up,
        "up_words": bridge.direction_words(bridge.unit(walk.up)),
        "process": walk.process,
        "stale_because": changed,
        "work": walk.work,
        "truth": walk.truth and {k: v for k, v in walk.truth.items() if k != "regions"},
        "told": walk.told,
        "outlines": walk.outlines_id,
        "facets": walk.facets_id,
        **known,
    }
    return {
        "up": there and there.up,
        "chosen": bool(there and there.chosen),
        "walk": told,
    }


def state(view: DirectedJob) -> State:
    """How far the walk is."""
    walk = current_walk(view)
    busy = bool(walk and walk.work.open)
    if view.direction is None:
        return {"state": "empty", "line": "no direction yet", "busy": busy}
    if walk is None or not (walk.told or busy):
        return {"state": "empty", "line": "walk the layers", "busy": False}
    if not walk.told:
        return {"state": "open", "line": "checking the layers", "busy": True}
    if view.changed(OVERHANGS, walk):
        return {"state": "stale", "line": "changed since", "busy": busy}
    rows = findings(walk)["rows"]
    left = sum(r["state"] == "open" for r in rows)
    if left:
        return {"state": "open", "line": f"{left} open", "busy": busy}
    settled = sum(r["state"] != "none" for r in rows)
    return {"state": "settled", "line": f"{settled} settled" if settled else "nothing hangs too far", "busy": busy}


def log_out(walk: Walk, copies: int) -> dict:
    """The layer log's columns with so many copies printed together."""
    if not walk.told:
        raise Refused("not_walked", "The layers are still being walked.", "Ask again in a moment.")
    one, all_ = bridge.seconds(walk.log, walk.process, 1), bridge.seconds(walk.log, walk.process, copies)
    waits = walk.process["layer_minimum"] + walk.process["layer_change"]
    return {
        **{k: walk.log[k] for k in ("layer_mm", "first_mm", "area_mm2", "perimeters_mm", "solid_mm", "sparse_mm")},
        "copies": copies,
        "seconds": all_,
        "seconds_one": one,
        "total_s": sum(all_),
        "total_one_s": sum(one),
        "events": events(walk, all_, waits),
    }


def events(walk: Walk, seconds: list[float], least: float) -> list[dict]:
    """What happens at a height, lowest first: mid-air starts, bridges, stretches that wait for cooling."""
    words = {"island": "begins in mid-air", "bridge": "bridge", "bore_roof": "bore roof"}
    h = walk.log["layer_mm"]
    like: dict[tuple, list[dict]] = {}
    for r in walk.truth["regions"]:
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
