"""One of everything that an address of the API can name."""

import json

from django.utils import timezone

from accounts.actions import invite
from accounts.models import User
from batch import bridge
from batch.models import BatchAnalysis, BatchChoice, PreparedFile
from batch.queries import laid_of
from batch.stage import BATCH
from coupons.actions import begin as begin_coupon
from farm.actions import begin
from fit.models import FitAnalysis
from fit.stage import FIT
from hardware.models import HardwareAnalysis
from hardware.stage import HARDWARE
from hewel.api import api
from needs.features import Features
from needs.flexing import Flexing
from needs.hardware import Hardware
from overhangs.stage import OVERHANGS
from pieces.models import Division
from pieces.schemas import DivideIn
from pieces.stage import PIECES
from release.models import Release
from remedies.models import Proposal
from remedies.stage import REMEDIES
from sheets import actions as sheets
from stages.stage import calculate, given
from store import actions as store
from strength.actions import calculate_strength
from strength.models import BatchWelds
from studies.view import DirectedJob
from trials.longterm import begin as begin_longterm
from trials.models import Trial
from walls.models import WallAnalysis
from walls.stage import WALLS
from week.models import Order, Print


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
    "hardware": Hardware(rows=[{"id": "bolt", "name": "bolt", "kind": "bolt", "size": "M3", "at": [10, 0, 24],
                                "axis": [0, 0, -1], "washer": "none"}]).model_dump(mode="json"),
    "flexing": Flexing(rows=[{"id": "arm", "name": "arm", "at": [7, 0, 14], "normal": [-1, 0, 0]}]).model_dump(
        mode="json"
    ),
    "features": Features(rows=[{"id": "edges", "name": "edges", "kind": "broken_edges", "at": [10, 0, 24],
                                "normal": [0, 0, 1]}]).model_dump(mode="json"),
}  # fmt: skip
NET = json.dumps({"ups": [[0, 0, 1]], "cases": []}).encode()
TOLD = {
    "up": [0, 0, 1], "plate_mm": -3.0, "own_layers": False, "voxel_mm": 1.0, "excluded_mm": [2.0, 2.0], "layer_mm": 0.2,
    "first_mm": 0.1, "area_mm2": [9.0], "mass_g": 9.0, "change": None, "notes": [], "perforated": [], "cases": [],
}  # fmt: skip


BARS = {
    "key": "tensile_z", "material": "petg", "rows": [
        {"id": f"r{i}", "plate": str(i % 2), "values": {"width": 8, "thickness": 6, "force": f, "broke": "waist"}}
        for i, f in enumerate((1150, 1200, 1250, 1200, 1180))],
}  # fmt: skip
HANGS = {
    "name": "bar", "begun": "2026-01-01T08:00:00Z", "stress": 8.0, "rows": [
        {"id": f"g{i}", "at": f"2026-{month:02d}-02T08:00:00Z", "give": give}
        for i, (month, give) in enumerate([(1, 0.90), (2, 1.05), (4, 1.12), (8, 1.18)])],
}  # fmt: skip


def plate_of(user, part) -> BatchAnalysis:
    """A plate that was filled; for all tests once, quickly."""
    analysis = calculate(BATCH, user, DirectedJob(part))
    if not PLATE:
        budgets, bridge.FIRST_S, bridge.THEN_S = (bridge.FIRST_S, bridge.THEN_S), 0.1, 0.1
        PLATE.update({e[1]: e[2] for e in bridge.fill(**given(BATCH, analysis.work)) if e[0] == "result"})
        bridge.FIRST_S, bridge.THEN_S = budgets
    analysis.result, analysis.layers = PLATE["result"], store.put(PLATE["layers"])
    analysis.save()
    return analysis


PLATE: dict = {}
READ = {
    "moves": 9, "layers": 3, "seconds": 9.0, "grams": 1.0, "notes": [], "at_mm": 0.1, "lines": [], "waits": [],
    "differences": [{"key": "height", "state": "fails", "words": "It is higher.", "found": 2.0, "expected": 1.0}],
}  # fmt: skip
PLATED = {"copies": 1, "seconds": 60.0, "stops": [], "start_s": 9.0, "end_s": 9.0}


def filled(path: str, things: dict) -> dict:
    """The same for one path: a result is one of the stage that the path is of."""
    app = path.split("/")[2]
    what = {"overhangs": "facets"}.get(app, "view")
    releases = things["release_id"]
    named = {
        "result_id": things["result_id"].get(app),
        "what": what,
        "name": "any",
        "release_id": releases.get(path.rsplit("/", 1)[-1], releases["packet"]),
    }
    return things | named | ({"other_id": things["part_id"]} if app == "beside" else {})


def things_of(engineer, part, study) -> dict:
    """Values for the parameters of paths; all of the engineer's workshop."""
    invitation, _ = invite(engineer, "viewer", "Wim")
    sheets.amend(engineer, part.sheet_id, 1, {"desk": {"weights": None, "pins": [[0, 0, 1]]}}, "comparison desk")
    overhangs = calculate(OVERHANGS, engineer, DirectedJob(part))
    overhangs.facets, overhangs.truth = part.view, TRUTH
    overhangs.save()
    part.sheet = sheets.amend(engineer, part.sheet_id, 2, LOADED, "loads")
    check = calculate_strength(engineer, DirectedJob(part), [[0.0, 0.0, 1.0]])
    check.net, check.cases, check.level = store.put(NET), [], "full"
    check.inputs |= {"loads": {"fixed": [], "cases": [], "combinations": []}}
    check.save()
    direction = check.directions.get()
    direction.screened, direction.volume, direction.field = TOLD, part.view, part.view
    direction.save()
    proposal = calculate(REMEDIES, engineer, DirectedJob(part))
    Proposal.objects.filter(id=proposal.id).update(view=part.view, file=part.view, result={"applied": []})
    split = DivideIn(way="split", point=[0, 0, 0], normal=[0, 0, 1]).model_dump()
    division = calculate(PIECES, engineer, DirectedJob(part), split)
    result = {"why": None, "words": "", "pieces": [], "seats": [], "pauses": [], "warnings": []}
    Division.objects.filter(id=division.id).update(view=part.view, file=part.view, result=result)
    walls = calculate(WALLS, engineer, DirectedJob(part))
    WallAnalysis.objects.filter(id=walls.id).update(
        view=part.view, result={"zones": []}, inputs=walls.inputs | {"up": [0, 0, 1]},
        layers={"layer_mm": 0.2, "slit_mm2": [0.0], "bare_mm2": [0.0], "worst_layer": 0},
    )  # fmt: skip
    hardware = calculate(HARDWARE, engineer, DirectedJob(part))
    HardwareAnalysis.objects.filter(id=hardware.id).update(
        view=part.view, steel=part.view, file=part.view,
        result={"rows": [], "steps": [], "volume_mm3": 1.0, "was_mm3": 1.0, "uncarried": None, "inexact": None,
                "unsolved": None, "solved": None},
    )  # fmt: skip
    fit = calculate(FIT, engineer, DirectedJob(part))
    FitAnalysis.objects.filter(id=fit.id).update(
        view=part.view, file=part.view,
        result={"rows": [], "flexes": [], "steps": [], "stray_mm3": 0.0, "drawn": {}, "regions": {}, "uncarried": None,
                "inexact": None},
    )  # fmt: skip
    plate = plate_of(engineer, part)
    waits = [9.0] * len(laid_of(plate).copy.extruding)
    file = PreparedFile.objects.create(
        analysis=plate, mode="together", copies=1, name="plate.gcode", result=READ | {"waits": waits}, by=engineer,
        work=plate.work,
    )  # fmt: skip
    welds = BatchWelds.objects.create(part=part, up=[0, 0, 1], pitch=0.2, value=[1.0], low=[1.0], words="one at a time")
    choice = BatchChoice.objects.create(
        analysis=plate,
        welds=welds,
        mode="together",
        copies=1,
        items=[],
        measures={},
        reason="one is enough",
        by=engineer,
    )
    order = Order.objects.create(
        workshop=engineer.workshop, part=part, choice=choice, material="", quantity=1, plates=[PLATED], by=engineer
    )
    now = timezone.now()
    printed = Print.objects.create(
        order=order, number=0, machine="none:1", started=now, heard=now, left_s=9.0, by=engineer, photo=part.view
    )
    machine = begin(engineer, "machine", {"name": "Bench printer"})
    coupon = begin_coupon(engineer, BARS | {"machine": str(machine.id)})
    trial = Trial.objects.create(
        workshop=engineer.workshop, part=part, tested=now.date(), plate="1", up=[0.0, 0.0, 1.0], how="bent",
        verdict="failed", process=DirectedJob(part).farm.process(part.job["process"]), by=engineer, photo=part.view,
    )  # fmt: skip
    reed = begin(engineer, "material", {"name": "Reed", "grade": "petg"})
    specimen = begin_longterm(engineer, HANGS | {"material": str(reed.id)})
    colleague = User.objects.create(username="uta", workshop=engineer.workshop)
    released = lambda by, state: Release.objects.create(
        part=part, kind="portable", state=state, version=3, told={"direction": "up"}, packet=part.view, by=by, at=now
    ).id  # fmt: skip
    return {
        "other_release": released(engineer, "released"),
        "release_id": {
            "review": released(colleague, "asked"),
            "take-back": released(engineer, "asked"),
            "packet": released(engineer, "released"),
        },
        "coupon_id": coupon.id,
        "trial_id": trial.id,
        "other_id": trial.id,
        "specimen_id": specimen.id,
        "key": "walls",
        "kind": "layer",
        "run": f"{coupon.id.hex}1",
        "file_id": file.id,
        "print_id": printed.id,
        "order_id": order.id,
        "result_id": {
            "batch": plate.id,
            "walls": walls.id,
            "overhangs": overhangs.id,
            "remedies": proposal.id,
            "pieces": division.id,
            "hardware": hardware.id,
            "fit": fit.id,
        },
        "number": 0,
        "check_id": check.id,
        "analysis_id": direction.id,
        "part_id": part.id,
        "study_id": study.id,
        "work_id": study.work_id,
        "digest": part.view_id,
        "sheet_id": part.sheet_id,
        "record_id": machine.id,
        "invitation_id": invitation.id,
        "person_id": engineer.id,
    }
