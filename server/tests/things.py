"""One of everything that an address of the API can name."""

import json

from farm.actions import begin
from overhangs.actions import order_walk
from pieces.actions import order_division
from pieces.models import Division
from pieces.schemas import DivideIn
from remedies.actions import order_proposal
from remedies.models import Proposal
from strength.actions import order_check
from walls.actions import order_gauging
from walls.models import Gauging

from accounts.actions import invite
from hewel.api import api
from sheets import actions as sheets
from store import actions as store


def schema() -> dict:
    return json.loads(json.dumps(api.get_openapi_schema(path_prefix="/api/")))


def operations() -> list[tuple[str, str]]:
    """(verb, path) of every operation."""
    return sorted((verb, path) for path, verbs in schema()["paths"].items() for verb in verbs)


LEDGE = {
    "kind": "ledge", "area_mm2": 9.0, "worst_deg": 90.0, "z_mm": 3.0, "top_mm": 3.0, "span_mm": None, "reach_mm": 3.0,
    "allowed_mm": 0.9, "centre_mm": [0.0, 0.0, 0.0], "needs_support": True, "drop_mm": 3.0, "over_part": False,
    "support_volume_mm3": 27.0, "scar_mm2": 9.0, "bore": None, "diameter_mm": None, "remedies": [],
}  # fmt: skip
TRUTH = {
    "overhang_area_mm2": 9.0, "support_volume_mm3": 27.0, "contact_area_mm2": 9.0, "first_layer_mm2": 9.0,
    "height_mm": 9.0, "needs_support": True, "regions": [LEDGE],
}  # fmt: skip


LOADED = {
    "regions": {
        "rows": [{"id": "base", "name": "base", "shape": {"plane": {"point": [0, 0, -3], "normal": [0, 0, 1]}}}],
    },
    "loads": {
        "held": [{"id": "h", "on": "base", "how": "fixed", "axes": "xyz", "washer": None}],
        "cases": [{"id": "w", "name": "hangs", "factor": 1.0, "nature": "static", "cycles": None, "requirement": None,
                   "loads": [{"id": "f", "kind": "weight", "on": None, "direction": [0, 0, -1], "direction_words": "",
                              "amount": {"typed": "1 g", "n": 1.0, "unit": "g"}}]}],
        "combinations": [], "movements": [],
    },
}  # fmt: skip
NET = json.dumps({"ups": [[0, 0, 1]], "cases": []}).encode()
TOLD = {
    "up": [0, 0, 1], "plate_mm": -3.0, "own_layers": False, "voxel_mm": 1.0, "excluded_mm": [2.0, 2.0], "layer_mm": 0.2,
    "first_mm": 0.1, "area_mm2": [9.0], "mass_g": 9.0, "change": None, "notes": [], "perforated": [], "cases": [],
}  # fmt: skip


def things_of(engineer, part, study) -> dict:
    """Values for the parameters of paths; all of the engineer's workshop."""
    invitation, _ = invite(engineer, "viewer", "Wim")
    sheets.amend(engineer, part.sheet_id, 1, {"desk": {"weights": None, "pins": [[0, 0, 1]]}}, "comparison desk")
    walk = order_walk(engineer, part)
    walk.facets, walk.truth = part.view, TRUTH
    walk.save()
    part.sheet = sheets.amend(engineer, part.sheet_id, 2, LOADED, "loads")
    check = order_check(engineer, part, [[0.0, 0.0, 1.0]])
    check.net, check.cases, check.level = store.put(NET), [], "full"
    check.loads = {"fixed": [], "cases": [], "combinations": []}
    check.save()
    stand = check.stands.get()
    stand.screened, stand.volume, stand.field = TOLD, part.view, part.view
    stand.save()
    proposal = order_proposal(engineer, part, None)
    Proposal.objects.filter(id=proposal.id).update(view=part.view, file=part.view, told={"applied": []})
    division = order_division(engineer, part, DivideIn(way="split", point=[0, 0, 0], normal=[0, 0, 1]).model_dump())
    told = {"why": None, "words": "", "pieces": [], "seats": [], "pauses": [], "warnings": []}
    Division.objects.filter(id=division.id).update(view=part.view, file=part.view, told=told)
    gauging = order_gauging(engineer, part)
    Gauging.objects.filter(id=gauging.id).update(
        view=part.view, told={"zones": []}, up=[0, 0, 1],
        layers={"layer_mm": 0.2, "slit_mm2": [0.0], "bare_mm2": [0.0], "worst_layer": 0},
    )  # fmt: skip
    return {
        "gauging_id": gauging.id,
        "number": 0,
        "division_id": division.id,
        "walk_id": walk.id,
        "proposal_id": proposal.id,
        "check_id": check.id,
        "stand_id": stand.id,
        "what": "facets",
        "part_id": part.id,
        "study_id": study.id,
        "work_id": study.work_id,
        "digest": part.view_id,
        "sheet_id": part.sheet_id,
        "record_id": begin(engineer, "machine", {"name": "Bench printer"}).id,
        "invitation_id": invitation.id,
        "person_id": engineer.id,
    }
