"""What is known of a part's fits: what comes out of what is drawn, and what was drawn for it."""

from typing import Any

from fit import bridge
from fit.models import FitAnalysis
from fit.stage import FIT, counts, flexing_of, met_by, named, touching_of
from needs import queries as needs
from parts import queries as parts
from parts.queries import beside
from stages.stage import State
from studies.view import DirectedJob


def table(view: DirectedJob) -> list[dict]:
    """Every touching face that has a size, as the part stands; empty while it is not known how it does."""
    if view.up is None or not (rows := touching_of(view)):
        return []
    numbers = view.farm.fit_readings(view.job["process"])
    told = bridge.table(needs.held(view.part), view.part.solid_id, view.up, view.process, rows, numbers)
    met = met_by(view)
    given = {r["id"]: r["meets"] for r in view.job["touching"]["rows"]}
    return [
        row | {"meets": met.get(row["id"]), "lost": bool(given[row["id"]]) and row["id"] not in met} for row in told
    ]


def others(view: DirectedJob) -> list[dict]:
    """The touching faces of other parts of the workshop that one of this part can meet, by name."""
    rows = [(part, touch, name) for part in beside(view.part) for touch, name in named(part).items()]
    return [{"part": p.id, "touch": t, "name": n} for p, t, n in sorted(rows, key=lambda row: row[2].lower())]


def flexes(view: DirectedJob) -> list[dict]:
    """What bends, as the part stands; empty while it is not known how it does."""
    rows = flexing_of(view.job)
    if not rows or view.up is None:
        return []
    return bridge.flexes(needs.held(view.part), view.part.solid_id, view.up, view.process, rows)


def taken_of(view: DirectedJob, analysis: FitAnalysis) -> Any:
    return next((p for p in parts.family(view.part) if (p.recipe or {}).get("of_fit") == str(analysis.id)), None)


def fit_out(view: DirectedJob) -> dict:
    """The table as it is now, and the newest drawing of it, which is stale once it rests on what has changed."""
    analysis = view.result(FIT)
    out: dict[str, Any] = {
        "up": view.up, "rows": table(view), "flexes": flexes(view), "others": others(view), "analysis": None,
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
            "rows": [row | {"meets": None, "lost": False} for row in result.get("rows", [])],
            "flexes": result.get("flexes", []),
            "steps": len(result.get("steps", [])),
            "stray_mm3": result.get("stray_mm3", 0.0),
            "inexact": result.get("inexact"),
            "uncarried": result.get("uncarried"),
        },
    }


def state(view: DirectedJob) -> State:
    """How far the fits are; what the faces measure is told by the stage itself, which looks at the solid."""
    rows = [r for r in view.job["touching"]["rows"] if counts(r)]
    bends = len(view.job["flexing"]["rows"])
    if not rows and not bends:
        return {"state": "empty", "line": "none", "busy": False}
    analysis = view.result(FIT)
    busy = bool(analysis and analysis.work and analysis.work.open)
    drawn = sum(bool(r["drawn"]) for r in rows)
    if analysis is None or analysis.result is None:
        if drawn == len(rows) and not bends:
            return {"state": "settled", "line": f"{drawn} drawn", "busy": busy}
        words = [f"{len(rows) - drawn} to draw"] if len(rows) > drawn else []
        words += [f"{bends} arm{'s' * (bends > 1)} to check"] if bends else []
        return {"state": "open", "line": ", ".join(words), "busy": busy}
    changed = view.changed(FIT, analysis)
    if changed:
        return {"state": "stale", "line": f"{', '.join(changed[:2])} changed", "busy": busy}
    told = analysis.result["rows"]
    refused = sum(bool(r["refused"] or r["why"]) for r in told)
    if refused:
        return {"state": "fails", "line": f"{refused} cannot be drawn", "busy": busy}
    broken = [f["flex"] for f in analysis.result["flexes"] if f["flex"] and f["flex"]["verdict"] == "fails"]
    if broken:
        least = min(f["reserve"] for f in broken)
        return {"state": "fails", "line": f"an arm fails, reserve {least:.2f}", "busy": busy}
    left = sum(r["changes"] for r in told)
    if left:
        return {"state": "open", "line": f"{left} to draw", "busy": busy}
    return {"state": "settled", "line": f"{len(rows)} come out right" if rows else "what bends holds", "busy": busy}
