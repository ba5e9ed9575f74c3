"""What is known of a part's walls."""

from farm.queries import differing, process_of
from overhangs.queries import direction_of
from strength import queries as strength

from hewel.digest import digest
from hewel.refusal import Refused, not_found
from store import actions as store
from walls import bridge
from walls.models import Gauging

NOTHING_YET = {
    "min_thickness_mm": None, "min_at_mm": None, "histogram": None, "zones": [], "untold": 0, "lump_area_mm2": None,
    "comb": None, "places": [],
}  # fmt: skip


def gauging_of(user, gauging_id) -> Gauging:
    rows = Gauging.objects.filter(id=gauging_id, part__workshop=user.workshop, part__sheet__struck=None)
    gauging = rows.select_related("view", "part__solid").first()
    if gauging is None:
        raise not_found("gauging")
    return gauging


def up_of(part) -> list[float] | None:
    """The direction that is chosen or, before, looked at; None while none is known."""
    there = direction_of(part)
    return there[0] if there else None


def rests_on(part) -> dict:
    """What a gauging of ``part`` rests on beside the solid: process, direction, loads, and what they are divided by."""
    return {
        "process": process_of(part.workshop, part.job["process"])["numbers"],
        "up": up_of(part),
        "loads": strength.loads_in_service(part.job),
        "service": strength.divided_by(part.job),
    }


def digest_of(part, rests: dict | None = None) -> str:
    """Names what a gauging depends on."""
    rests = rests or rests_on(part)
    up = rests["up"] and [round(v, 9) for v in rests["up"]]
    return digest(bridge.ENGINE_VERSION, part.solid_id, rests | {"up": up, "loads": strength.bare(rests["loads"])})


def _changed(gauging: Gauging, part) -> list[str]:
    """What a gauging rests on and has changed since, in words."""
    now = rests_on(part)
    told = differing(gauging.process, now["process"])
    # No direction is known while directions are studied.
    turned = not _same(gauging.up, now["up"]) and (now["up"] is not None or not told)
    if strength.bare(gauging.loads) != strength.bare(now["loads"]):
        told.append("loads")
    if gauging.service != now["service"]:
        told.append("circumstances of use")
    return (["direction"] if turned else []) + told or ["the sums"]


def _same(a: list[float] | None, b: list[float] | None) -> bool:
    return a == b or bool(a and b and bridge.same_direction(a, b))


def lines_of(gauging: Gauging, number: int) -> dict:
    """What the nozzle draws of one layer. Raises Refused where there is no such layer."""
    count = len(gauging.layers["slit_mm2"]) if gauging.layers else 0
    if not 0 <= number < count:
        raise Refused("not_found", "There is no such layer here.", "Load the page again.", 404)
    solid = gauging.part.solid
    return bridge.lines(solid.digest, lambda: store.get(solid), gauging.up, gauging.process, number)


def reckoned(part, asked: dict) -> dict:
    """A piece of the part sized by reckoning. Raises Refused."""
    process = process_of(part.workshop, part.job["process"])["numbers"]
    try:
        service = strength.around(strength.service_of(part.job))
        return bridge.reckoned(asked, up_of(part) or [0, 0, 1], process, service)
    except bridge.InputError as error:
        raise Refused(error.code, error.message, error.hint, 422) from None


def walls_out(part) -> dict:
    """The gauging that answers for the job as it is; where there is none, the newest, which then is stale."""
    name = digest_of(part)
    newest = part.gaugings.select_related("work")
    gauging = newest.filter(digest=name).first() or newest.first()
    if gauging is None:
        return {"gauging": None}
    told = NOTHING_YET | (gauging.told or {})
    return {
        "gauging": {
            "id": gauging.id,
            "work": gauging.work,
            "stale": gauging.digest != name,
            "changed": _changed(gauging, part) if gauging.digest != name else [],
            "done": gauging.told is not None,
            "view": gauging.view_id,
            "process": gauging.process,
            "up": gauging.up,
            "layers": gauging.layers,
            **told,
        }
    }
