"""What is waiting and being done: the queue as a workshop sees it."""

from procrastinate.contrib.django.models import ProcrastinateJob

from accounts.models import User
from work.models import Work

WORDS = {
    "intake": "import",
    "study": "directions",
    "direction": "one more direction",
    "walk": "layers",
    "gauge": "walls",
    "propose": "remedies",
    "afterwards": "remedies of the best directions",
    "divide": "pieces",
    "check": "strength",
    "stand": "strength, own layers",
    "explore": "perimeters against infill",
    "field": "stress field",
    "plate": "batch",
    "prepared": "prepared file",
}
"""What a kind of work is called; of a kind that is not here, its own name."""


def queue_of(user: User) -> list[dict]:
    """The workshop's open work, what runs first, then in the order in which workers will take it. ``place``: how many
    pieces of work, anybody's, are taken before it by the workers of its lane, itself counted; None where it runs.
    """
    rows = list(Work.objects.filter(workshop=user.workshop_id, state__in=Work.OPEN).select_related("by"))
    jobs = ProcrastinateJob.objects.filter(status="todo").values_list("id", "queue_name", "priority")
    places: dict[int, int] = {}
    lanes: dict[str, int] = {}
    for job, lane, _ in sorted(jobs, key=lambda j: (-j[2], j[0])):
        places[job] = lanes[lane] = lanes.get(lane, 0) + 1
    out = [
        {
            "id": w.id,
            "words": WORDS.get(w.kind, w.kind),
            "kind": w.kind,
            "title": w.title,
            "part": w.part or (w.result or {}).get("part"),
            "by": w.by.shown_name,
            "state": w.state,
            "doing": w.doing,
            "done": w.done,
            "total": w.total,
            "lane": w.lane,
            "place": places.get(w.job) if w.state == Work.State.WAITING else None,
            "created": w.created,
            "started": w.started,
        }
        for w in rows
    ]
    return sorted(out, key=lambda r: (r["state"] != "running", r["lane"] == "long", r["place"] or 0, r["created"]))
