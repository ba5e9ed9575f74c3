"""The calculation of one direction on paper: every step from the load to the reserve, to be followed by hand."""

from datetime import datetime

from hewel.printing import pdf
from needs import queries as needs
from stages.view import JobView
from strength import bridge, queries
from strength.job import service_of
from strength.models import DirectionAnalysis
from strength.stage import STRENGTH


def calculation(analysis: DirectionAnalysis, when: datetime | None = None) -> bytes:
    """A PDF of a few A4 pages; set at ``when`` where that is told."""
    check, result = analysis.of, queries.solution_of(analysis)
    view, job = JobView(check.part), check.part.job
    service = service_of(job)
    welds = queries.welds_of(view, analysis)
    lines, _ = queries.lines_of(check, service, welds)
    cases = queries.cases_out(view, analysis)
    steps = bridge.by_hand(result, check.process, lines, service["factor"], welds)
    loads = {c["name"]: c for c in needs.loads_file(job)["cases"]}
    return pdf(
        "calculation.html",
        {
            "part": check.part,
            "up": analysis.up,
            "up_words": bridge.direction_words(bridge.unit(analysis.up)),
            "process": check.process,
            "service": service,
            "strengths": bridge.strengths_of(check.process),
            "result": result,
            "held": [{"name": h["on"].get("name", ""), "how": h["how"]} for h in check.loads["fixed"]],
            "cases": [
                {"row": row, "steps": own, "loads": loads_said(loads.get(row["name"]))}
                for row, own in zip(cases, steps, strict=True)
            ],
            "perforated": result["perforated"],
            "cautions": needs.cautions(job),
            "stale": view.changed(STRENGTH, check),
        },
        when,
    )


def loads_said(case: dict | None) -> list[str]:
    """The loads of a case in words."""
    if case is None:
        return ["a combination of the cases above"]
    vector = lambda v: "(" + ", ".join(f"{x:.4g}" for x in v) + ")"
    out = []
    for row in case["loads"]:
        on = f" on “{row['on'].get('name', 'a face')}”" if row.get("on") else ""
        for key, unit in (("force_n", "N"), ("moment_nmm", "N·mm"), ("acceleration_g", "g of the own weight")):
            if key in row:
                out.append(f"{vector(row[key])} {unit}{on}")
        if "pressure_mpa" in row:
            out.append(f"{row['pressure_mpa']:.4g} MPa{on}")
    return out
