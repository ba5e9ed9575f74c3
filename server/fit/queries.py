"""What is known of a part's fits: what comes out of what is drawn, and what was drawn for it."""

from typing import Any

from fit import bridge
from fit.meeting.bridge import bought_kinds
from fit.meeting.queries import beside_it, mates, stack
from fit.models import FitAnalysis
from fit.stage import FIT, counts, features_of, flexing_of, met_by, named, readings_of, seen_of, touching_of
from needs import queries as needs
from parts import queries as parts
from stages.stage import State
from studies.queries import swept
from studies.view import DirectedJob


def table(view: DirectedJob) -> list[dict]:
    """Every touching face that has a size, as the part stands; empty while it is not known how it does."""
    if view.up is None or not (rows := touching_of(view)):
        return []
    numbers = readings_of(view)
    told = bridge.table(needs.held(view.part), view.part.solid_id, view.up, view.process, rows, numbers)
    met = met_by(view)
    given = {r["id"]: r["meets"] for r in view.job["touching"]["rows"]}
    return [
        row | {"meets": met.get(row["id"]), "lost": bool(given[row["id"]]) and row["id"] not in met} for row in told
    ]


def others(view: DirectedJob) -> list[dict]:
    """The touching faces of other parts of the workshop that one of this part can meet, by name."""
    rows = [(part, touch, name) for part in beside_it(view) for touch, name in named(part).items()]
    return [{"part": p.id, "touch": t, "name": n} for p, t, n in sorted(rows, key=lambda row: row[2].lower())]


def flexes(view: DirectedJob) -> list[dict]:
    """What bends, as the part stands; empty while it is not known how it does."""
    rows = flexing_of(view.job)
    if not rows or view.up is None:
        return []
    return bridge.flexes(needs.held(view.part), view.part.solid_id, view.up, view.process, rows)


def arms_net(view: DirectedJob) -> list[float]:
    """Least reserve of what bends in every direction that was swept, in the order of the sweep; empty where nothing is
    bent, or none was swept.
    """
    rows, study = flexing_of(view.job), view.study
    sweep = swept(study) if study else None
    if not rows or sweep is None:
        return []
    return bridge.arms_net(needs.held(view.part), view.part.solid_id, sweep["ups"], view.process, rows)


def standing(view: DirectedJob) -> list[dict]:
    """The slender pins, threads and snaps that stand on their layers, but for those that the job knows already."""
    if view.up is None:
        return []
    known = [r["shape"]["cylinder"]["point"] for r in view.job["regions"]["rows"] if "cylinder" in r["shape"]]
    known += [r["at"] for r in view.job["flexing"]["rows"]]
    rows = bridge.standing(needs.held(view.part), view.part.solid_id, view.up)
    far = lambda row, point: sum((a - b) ** 2 for a, b in zip(row["at"], point, strict=True)) > row["length_mm"] ** 2
    return [row for row in rows if all(far(row, point) for point in known)]


def seen_faces(view: DirectedJob) -> list[dict]:
    rows = seen_of(view.job)
    if not rows or view.up is None:
        return []
    return bridge.seen_faces(needs.held(view.part), view.up, view.process, rows)


def features(view: DirectedJob) -> list[dict]:
    """The features that are to be made, as the part stands; empty while it is not known how it does."""
    rows = features_of(view.job)
    if not rows or view.up is None:
        return []
    return bridge.features(needs.held(view.part), view.up, view.process, rows)


def taken_of(view: DirectedJob, analysis: FitAnalysis) -> Any:
    return next((p for p in parts.family(view.part) if (p.recipe or {}).get("of_fit") == str(analysis.id)), None)


def fit_out(view: DirectedJob) -> dict:
    """The table as it is now, and the newest drawing of it, which is stale once it rests on what has changed."""
    analysis = view.result(FIT)
    out: dict[str, Any] = {
        "up": view.up, "rows": table(view), "flexes": flexes(view), "features": features(view),
        "kinds": bridge.kinds(), "seen": seen_faces(view), "standing": standing(view),
        "others": others(view), "mates": mates(view),
        "bought": bought_kinds(), "stack": stack(view),
        "beside": [{"part": p.id, "name": p.name, "view": p.view_id} for p in beside_it(view)], "analysis": None,
        "scale": view.farm.scale(view.job),
        "prepared": bool(view.farm.numbers("profile", view.job["process"])["compensates_shrinkage"]),
        "taken": None,
    }  # fmt: skip
    if analysis is None:
        return out
    result = analysis.result or {}
    taken = taken_of(view, analysis)
    return out | {
        "taken": taken and taken.id,
        "analysis": {
            "id": analysis.id,
            "up": analysis.up,
            "work": analysis.work,
            "stale_because": view.changed(FIT, analysis),
            "done": analysis.result is not None,
            "view": analysis.view_id,
            "picked": analysis.inputs["picked"],
            "rows": [{"pushed": None} | row | {"meets": None, "lost": False} for row in result.get("rows", [])],
            "flexes": [{"rim": None} | row for row in result.get("flexes", [])],
            "features": result.get("features", []),
            "steps": len(result.get("steps", [])),
            "stray_mm3": result.get("stray_mm3", 0.0),
            "inexact": result.get("inexact"),
            "uncarried": result.get("uncarried"),
        },
    }


def state(view: DirectedJob) -> State:
    """How far the fits are; what the faces measure is told by the stage itself, which looks at the solid."""
    rows = [r for r in view.job["touching"]["rows"] if counts(r)]
    bends, features = len(view.job["flexing"]["rows"]), view.job["features"]["rows"]
    if not rows and not bends and not features:
        return {"state": "empty", "line": "none", "busy": False}
    analysis = view.result(FIT)
    busy = bool(analysis and analysis.work and analysis.work.open)
    if analysis is None or analysis.result is None:
        drawn, to_make = sum(bool(r["drawn"]) for r in rows), sum(not r["made"] for r in features)
        words = [f"{len(rows) - drawn} to draw"] if len(rows) > drawn else []
        words += [f"{to_make} to make"] if to_make else []
        words += [f"{bends} arm{'s' * (bends > 1)} to check"] if bends else []
        if not words:
            return {"state": "settled", "line": f"{drawn} drawn" if drawn else "made", "busy": busy}
        return {"state": "open", "line": ", ".join(words), "busy": busy}
    changed = view.changed(FIT, analysis)
    if changed:
        return {"state": "stale", "line": f"{', '.join(changed[:2])} changed", "busy": busy}
    result = analysis.result
    made = result.get("features", [])
    refused = sum(bool(r["refused"] or r["why"]) for r in (*result["rows"], *made))
    if refused:
        return {"state": "fails", "line": f"{refused} cannot be drawn", "busy": busy}
    bent = lambda key: [f[key] for f in result["flexes"] if f.get(key)]
    arms, rims = ([t["reserve"] for t in bent(key) if t["verdict"] == "fails"] for key in ("flex", "rim"))
    pins = [p["reserve"] for row in result["rows"] if (p := row.get("pushed")) and p["reserve"] < 1]
    weak = [f["reserve"] for f in made if f["reserve"] is not None and f["reserve"] < 1]
    if found := arms or rims or pins or weak:
        what = "an arm" if arms else "a rim" if rims else "a pin" if pins else "a feature"
        return {"state": "fails", "line": f"{what} fails, reserve {min(found):.2f}", "busy": busy}
    left = sum(r["changes"] for r in result["rows"])
    if left:
        return {"state": "open", "line": f"{left} to draw", "busy": busy}
    told = [f"{len(rows)} come out right"] if rows else ["what bends holds"] if bends else []
    told += [f"{n} made"] if (n := sum(r["applied"] for r in made)) else []
    return {"state": "settled", "line": ", ".join(told) or "made", "busy": busy}
