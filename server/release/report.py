"""One report a job: pages that a manager and a customer can read, the same on paper and in a packet."""

from datetime import datetime

from batch import queries as batch
from hardware import queries as hardware
from hewel.printing import pdf
from needs import queries as needs
from release import bridge, changes
from store import actions as store
from strength import queries as strength
from strength.job import service_of
from studies.view import DirectedJob
from trials import queries as trials

USES = {"ordinary": "ordinary", "functional": "functional", "injury": "could injure somebody if it breaks"}


def pages(view: DirectedJob, when: datetime | None = None) -> bytes:
    """A PDF of a few A4 pages; set at ``when`` where that is told, as in a packet."""
    part, job, choice = view.part, view.job, view.choice
    up = view.up
    solved = strength.answering(view, up) if up else None
    content = {
        "part": part,
        "job": job,
        "released": when,
        "use": USES[job["need"]["use"]],
        "size": [b - a for a, b in zip(*part.facts["bbox_mm"], strict=True)],
        "pictures": bridge.seen(store.get(part.solid), up, view.process["layer"]) if up else [],
        "requirements": _requirements(job),
        "up_words": bridge.direction_words(bridge.unit(up)) if up else None,
        "choice": choice,
        "process": view.process,
        "names": view.farm_process["names"],
        "changes": [line for revision in changes.of_part(part) for line in revision.lines],
        "steel": hardware.reserve_with(view) if solved else None,
        "settled": job["findings"]["rows"],
        "cases": strength.cases_out(view, solved) if solved else [],
        "factor": service_of(job)["factor"],
        "batch": batch.chosen_of(view),
        "currency": part.workshop.currency,
        "trials": trials.of_all_revisions(part),
        "cautions": needs.cautions(job),
    }
    return pdf("report.html", content, when)


def _requirements(job: dict) -> list[dict]:
    shown = {c["id"]: c["evidence"] for c in needs.coverage(job)}
    return [row | {"evidence": shown[row["id"]]} for row in job["requirements"]["rows"]]
