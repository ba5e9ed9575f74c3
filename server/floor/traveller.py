"""What the technician at the machine does with one plate, step by step: on a phone, and on paper."""

from datetime import datetime
from typing import Any

from accounts.models import Workshop
from batch.queries import words_of
from floor import bridge
from floor.plates import mark_of
from hardware import queries as hardware
from hewel.digest import digest
from hewel.refusal import not_found
from hewel.single_flight import SingleFlightCache
from needs import queries as needs
from store import actions as store
from strength import queries as strength
from strength.job import service_of
from strength.printing import loads_said
from studies.view import DirectedJob
from week.models import Order
from week.queries import print_out
from week.view import BY_HAND, machines_of

MASS_TOLERANCE = 0.05
"""Share by which a good part's mass may differ: under-extrusion beyond it has cost strength."""
BREAK_FROM = 2
"""Copies on a plate from which one is broken: a plate of one is all there is to use."""


def traveller_of(order: Order, number: int, now: datetime) -> dict[str, Any]:
    """All that its technician needs of a plate, in the order of the work. Raises Refused where there is none."""
    if not 0 <= number < len(order.plates):
        raise not_found("plate")
    view, row = DirectedJob(order.part), order.plates[number]
    prints = list(order.prints.filter(number=number).order_by("started"))
    latest = prints[-1] if prints else None
    names = {m["key"]: m for m in machines_of(order.workshop)}
    ticked = {
        t.step: {"by": t.by.shown_name, "at": t.at} for t in order.ticks.filter(number=number).select_related("by")
    }
    machine = names.get(latest.machine) if latest else None
    return {
        "order": order.id,
        "number": number,
        "of": len(order.plates),
        "part_id": order.part_id,
        "part": order.part.name,
        "copies": row["copies"],
        "machine": machine and machine["name"],
        "reached": machine["reached"] if machine else BY_HAND,
        "model": names_of(order),
        "machines": [
            {"key": m["key"], "name": m["name"], "free": not m["holds"]}
            for m in names.values()
            if m["model"] == str(order.machine_id)
        ],
        "print": latest and print_out(latest, now),
        "good": latest and latest.good,
        "bad": latest and latest.bad,
        "photo": bool(latest and latest.photo_id),
        "cautions": needs.cautions(view.job),
        "steps": [s | {"ticked": ticked.get(s["key"])} for s in steps_of(view, order, number)],
    }


def names_of(order: Order) -> str:
    """The machine model that the plate is for."""
    return order.machine.content["record"]["name"] if order.machine else ""


def steps_of(view: DirectedJob, order: Order, number: int) -> list[dict[str, str]]:
    """Steps as ``key``, ``words`` and ``detail``."""
    row, process = order.plates[number], view.farm_process["numbers"]
    copies, grams = row["copies"], row.get("grams") or 0.0
    made = words_of(row.get("mode", "together"), copies)
    plastic = f"On a {names_of(order)}; dry, and enough for {_mass(copies * grams)}."
    settings = (
        f"3MF {mark_of(order, number)}. Layer {process['layer']:g} mm, lines {process['width']:g} mm, "
        f"{process['perimeters']} perimeters, {100 * process['infill']:.0f} % infill. The strength rests on these: "
        "change none of them."
    )
    cold = "The colder the layer gets, the weaker its weld: do not let it wait."
    rows = [
        ("load", f"Load {order.material or 'the material'}", plastic),
        ("clean", "Clean the plate, look at the nozzle", ""),
        ("file", f"Check the file: {made}", settings),
        ("start", "Start it, watch the first layer", f"It prints {_time(row['seconds'])}."),
    ]
    for i, (at, hands, what, *_) in enumerate(sorted(row["stops"]), start=1):
        when = f"About {_time(at)} after the start, {_time(hands)} of work. {cold}"
        rows.append((f"stop-{i}", f"At the pause: {what}", when))
    blocks = "Take out every block that carries a label. No blade towards the hand."
    rows.append(("take-off", "Let it cool, take the parts off", blocks))
    steel = hardware.lines_for_machine(view)
    if steel:
        care = "By hand or with a torque wrench; turn slowly, plastic gives way without a sound."
        rows.append(("steel", "Fit the hardware", f"{'; '.join(steel)}. {care}"))
    if grams:
        low, high = grams * (1 - MASS_TOLERANCE), grams * (1 + MASS_TOLERANCE)
        light = "Lighter has lines missing: set the plate aside, and say so."
        rows.append(("weigh", f"Weigh one: {low:.1f} to {high:.1f} g", light))
    steps = (order.part.recipe or {}).get("steps", [])
    marks = [s.get("set", {}).get("revision_count", 1) for s in steps if s["key"] == "mark"]
    carries = f" It carries the mark R{marks[-1]:.0f}." if marks else ""
    good = f"No open layer, no lifted corner, no step in its height. {fits_words(order.part.job)}{carries}"
    rows.append(("first", "Look at the first piece", good))
    if copies >= BREAK_FROM:
        rows.append(("break", f"Break 1 of the {copies}, none may fail", _break_words(view)))
    rows.append(("count", "Count good and bad parts", "A broken one is a bad one."))
    return [{"key": key, "words": words, "detail": detail} for key, words, detail in rows]


FEEL = {
    "press": "goes in with 20 to 80 N, as on a kitchen scale",
    "location": "goes in by hand with 5 to 20 N, and does not rattle",
    "sliding": "slides with less than 2 N, and does not rattle",
    "free": "moves freely, with play to be felt",
    "in_place": "turns by hand after one crack",
}
"""How each fit feels; after the classes of the clearance coupon."""
LOOK = {
    "seen": "no scar and no open line at",
    "no_scar": "no scar at",
    "sealing": "no line or seam that runs across",
    "no_bruise": "no burr at",
    "inside_corner": "its mate sits down into",
}


def fits_words(job: dict) -> str:
    """What a first piece has to show at its touching faces."""
    names = {r["id"]: r["name"] for r in job["regions"]["rows"]}
    rows = [(r, names[r["on"]]) for r in job["touching"]["rows"] if r["on"] in names]
    feels = [f"At {name}: {r['mate'] or 'its mate'} {FEEL[r['fit']]}." for r, name in rows if r["fit"]]
    looks = [f"{LOOK[r['duty']]} {name}" for r, name in rows if not r["fit"] and r["duty"] in LOOK]
    seen = [", ".join(looks)[0].upper() + ", ".join(looks)[1:] + "."] if looks else []
    return " ".join([*feels, *seen]) or "It goes onto its mate."


SEATS = SingleFlightCache[dict](64)
"""Pictures of what somebody sees at a pause, by what they are of."""


def seats_of(order: Order, number: int) -> list[dict[str, Any]]:
    """At every pause what its step is, and the section that somebody looks down on, for one copy."""
    if not 0 <= number < len(order.plates):
        raise not_found("plate")
    layer = DirectedJob(order.part).farm_process["numbers"]["layer"]
    up, solid = list(order.choice.analysis.up), order.part.solid
    name = lambda mm: digest(solid.digest, up, layer, mm)
    out = []
    for i, (_, _, _, *height) in enumerate(sorted(order.plates[number]["stops"]), start=1):
        if height:
            make = lambda mm=height[0]: bridge.section(store.get(solid), up, layer, mm)
            out.append({"step": f"stop-{i}", "height_mm": height[0], **SEATS.get(name(height[0]), make)})
    return out


def _break_words(view: DirectedJob) -> str:
    """At which load a broken copy has to hold, where one is known."""
    care = "Wear eye protection and stand clear of the load path. "
    solved = view.up and strength.answering(view, view.up)
    worst = solved and strength.worst_of(strength.cases_out(view, solved))
    if not worst:
        return care + "Pull its layers apart: it must not break more easily than the last plate's."
    loads = {c["name"]: c for c in needs.loads_file(view.job)["cases"]}
    factor, words = service_of(view.job)["factor"], "; ".join(loads_said(loads.get(worst["name"])))
    return care + f"Load it as “{worst['name']}” ({words}): it has to hold {factor:g} times that."


def _time(seconds: float) -> str:
    minutes = round(seconds / 60)
    return f"{minutes // 60} h {minutes % 60:02d} min" if minutes >= 60 else f"{minutes} min"


def _mass(grams: float) -> str:
    return f"{grams / 1000:.2f} kg" if grams >= 1000 else f"{grams:.0f} g"


def of_workshop(workshop: Workshop, order_id: Any) -> Order:
    """Raises Refused where it is none of the workshop's, or withdrawn."""
    rows = Order.objects.filter(id=order_id, workshop=workshop, withdrawn=None)
    found = rows.select_related("part__sheet", "part__solid", "choice__analysis", "machine").first()
    if found is None:
        raise not_found("order")
    return found
