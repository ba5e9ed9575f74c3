"""Fit as a stage: the job's touching faces drawn so that they come out as their fits ask."""

from fit import bridge
from fit.models import FitAnalysis
from hewel.refusal import Refused
from needs import queries as needs
from parts.models import Part
from parts.queries import beside, stored_exact
from remedies.stage import free_of, protected_of, with_bodies
from stages.stage import Stage
from studies.view import DirectedJob, require_direction

SIZED = ("mating", "inside_corner", "sealing")
"""Functions of faces whose size counts, with a fit or without one."""


def counts(row: dict) -> bool:
    """Whether a touching face has a size that counts."""
    return bool(row["fit"] or row["gap"]) or row["duty"] in SIZED


def readings_of(view: DirectedJob) -> dict[str, dict]:
    """The farm's readings that the job's fits rest on."""
    return view.farm.fit_readings(view.job["process"], view.job["touching"]["scaled"])


def touching_of(view: DirectedJob) -> list[dict]:
    """The touching faces that have a size, as the engine takes them: lengths in mm, where each lies, and the size of
    what it meets; a face of another part as that comes out, its doubt for a tolerance.
    """
    met = met_by(view)
    as_printed = lambda face: {"mate": face["mm"], "plus": face["doubt"], "minus": face["doubt"]}
    return [row | (as_printed(met[row["id"]]) if row["id"] in met else {}) for row in sized_of(view.job)]


def sized_of(job: dict) -> list[dict]:
    """The same by what is typed alone."""
    shapes = {r["id"]: r["shape"] for r in job["regions"]["rows"]}
    mm = lambda given: given and given["n"]
    return [
        {
            "id": r["id"], "shapes": [shapes[k] for k in (r["on"], r["across"]) if k in shapes], "fit": r["fit"],
            "corner": r["duty"] == "inside_corner", "mate": mm(r["size"]), "plus": mm(r["plus"]) or 0.0,
            "minus": mm(r["minus"]) or 0.0, "gap": mm(r["gap"]), "push": mm(r["push"]),
            "nominal": r["drawn"] and r["drawn"]["nominal"],
        }
        for r in job["touching"]["rows"] if r["on"] in shapes and counts(r)
    ]  # fmt: skip


def met_by(view: DirectedJob) -> dict[str, dict]:
    """By touching face: the face of another part that it meets, as it comes out there; left out where it is not there
    any more, or it is not known how its part stands.
    """
    return view.together.once(("met", view.part.id), lambda: _met_by(view))


def _met_by(view: DirectedJob) -> dict[str, dict]:
    wanted = {r["id"]: r["meets"] for r in view.job["touching"]["rows"] if r["meets"]}
    if not wanted:
        return {}
    ids = {met["part"] for met in wanted.values()}
    faces = {str(part.id): comes_out(DirectedJob(part)) for part in beside(view.part) if str(part.id) in ids}
    found = {row: faces.get(met["part"], {}).get(met["touch"]) for row, met in wanted.items()}
    return {row: face for row, face in found.items() if face}


def comes_out(view: DirectedJob) -> dict[str, dict]:
    """By touching face of a part: its name, how it comes out (mm) and how far that may be off."""
    if view.up is None:
        return {}
    numbers = readings_of(view)
    told = bridge.table(needs.held(view.part), view.part.solid_id, view.up, view.process, sized_of(view.job), numbers)
    names = named(view.part)
    return {
        row["id"]: {"name": names[row["id"]], "mm": row["estimate"]["printed_mm"], "doubt": row["estimate"]["doubt_mm"]}
        for row in told if row["estimate"] and row["estimate"]["printed_mm"] > 0
    }  # fmt: skip


def named(part: Part) -> dict[str, str]:
    """What the touching faces of a part that have a size are called beside those of other parts."""
    faces = {r["id"]: r["name"] for r in part.job["regions"]["rows"]}
    rows = part.job["touching"]["rows"]
    return {r["id"]: f"{part.name}, {faces[r['on']]}" for r in rows if r["on"] in faces and counts(r)}


def flexing_of(job: dict) -> list[dict]:
    """What bends, as the engine takes it: lengths in mm."""
    lengths = ("deflection", "length", "thickness", "width", "radius")
    plain = ("id", "at", "normal", "repeated", "angle_in", "angle_out", "friction", "cure")
    rows = job["flexing"]["rows"]
    return [{k: r[k] for k in plain} | {k: r[k] and r[k]["n"] for k in lengths} for r in rows]


def features_of(job: dict) -> list[dict]:
    """The features that are still to be made, as the engine takes them: numbers by their names, in their units."""
    plain = ("id", "kind", "at", "normal", "end")
    numbers = lambda row: {name: value["n"] for name, value in row["numbers"].items()}
    off = lambda row: working_faces(job) if row["kind"] == TEXTURE else []
    rows = [r for r in job["features"]["rows"] if not r["made"]]
    return [{k: r[k] for k in plain} | {"numbers": numbers(r), "off": off(r)} for r in rows]


TEXTURE = "texture"
WORKS = ("mating", "sealing", "inside_corner", "no_bruise")


def working_faces(job: dict) -> list[dict]:
    """The named faces that meet something, are held or bear a load: a texture is kept off them."""
    named = {r["on"] for r in job["touching"]["rows"] if r["duty"] in WORKS or r["fit"]}
    named |= {r["on"] for r in job["loads"]["held"]}
    named |= {load["on"] for case in job["loads"]["cases"] for load in case["loads"]}
    return [{"name": r["name"], "shape": r["shape"]} for r in job["regions"]["rows"] if r["id"] in named]


def seen_of(job: dict) -> list[dict]:
    """The faces that are seen."""
    regions = {r["id"]: r for r in job["regions"]["rows"]}
    rows = [r for r in job["touching"]["rows"] if r["duty"] == "seen" and r["on"] in regions]
    return [{"id": r["id"], "name": regions[r["on"]]["name"], "shape": regions[r["on"]]["shape"]} for r in rows]


def may_change(row: dict) -> bool:
    """Whether a touching face is drawn anew here: one that has a size, or is seen and gets a texture."""
    return counts(row) or row["duty"] == "seen"


def _rests_on(view: DirectedJob, picked: list[str] | None) -> dict:
    """``picked``: the rows that are to be drawn; None: all."""
    return {
        "up": view.up,
        "touching": touching_of(view),
        "flexing": flexing_of(view.job),
        "features": features_of(view.job),
        "numbers": readings_of(view),
        "protected": protected_of(view.part, may_change),
        "free": free_of(view.part),
        "picked": picked,
    }


def _ready(view: DirectedJob, picked: list[str] | None) -> None:
    require_direction(view)
    rows = {row["id"] for row in (*sized_of(view.job), *flexing_of(view.job), *features_of(view.job))}
    if not rows:
        raise Refused(
            "no_fit",
            "No face of this part meets another, nothing bends, and no feature is to be made.",
            "Point at a face: give it a fit, or choose what is made on it.",
            422,
        )
    if picked is not None and not rows & set(picked):
        raise Refused("nothing_picked", "No face is picked.", "Pick at least one that is to be drawn.", 422)


def _given(analysis: FitAnalysis, work) -> dict:
    part = analysis.part
    return {"exact": stored_exact(part), "title": part.name, "free": with_bodies(analysis.inputs["free"])}


FIT = Stage(
    key="fit",
    model=FitAnalysis,
    kind="fit",
    function="fit.bridge.draw",
    inputs=_rests_on,
    audit="fits drawn",
    priority=6,
    open_part=", so there is no solid to change.",
    ready=_ready,
    arguments=_given,
    asked="picked",
)
COMPUTATIONS = (FIT.computation,)
