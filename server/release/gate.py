"""What stands between a job and its release: every line says what is missing and where it is done.

Two kinds. A *portable file* is geometry alone: it needs no generated support and holds with generic settings. A *locked
process* is released with its settings and the batch that was chosen. Both: every requirement covered by evidence, every
finding settled, nothing stale, a trial printed the way the batch will be or a reason to do without, cautions read.
"""

from dataclasses import asdict, dataclass

from hardware import queries as hardware
from needs import queries as needs
from overhangs import queries as overhangs
from release.generic import GenericJob
from release.standing import stages_of
from stages.stage import State
from strength import queries as strength
from studies.view import DirectedJob
from trials import bridge as directions
from trials import queries as trials
from trials.models import Trial
from walls import queries as walls

NAMES = {
    "facts": "Part", "requirements": "Requirements", "direction": "Direction", "overhangs": "Overhangs",
    "remedies": "Remedies", "pieces": "Pieces", "walls": "Walls", "strength": "Strength", "hardware": "Hardware",
    "fit": "Fit", "batch": "Batch", "trials": "Trials",
}  # fmt: skip
NEEDED = ("requirements", "direction", "overhangs", "strength")
"""Stages that a release cannot do without; the others count once they are begun."""
ADVICE = ("walls", "batch", "trials")
"""Stages that are open while there is something to better; what of them must be is looked at by itself."""
LEAST_REASON = 12
"""Letters of a reason that is one."""


@dataclass(frozen=True)
class Missing:
    """One thing that a release waits for: ``words``, the stage where it is done, and its tab there."""

    key: str
    words: str
    stage: str
    tab: str | None = None

    def as_dict(self) -> dict:
        return asdict(self)


def missing(view: DirectedJob, kind: str, waiver: str = "") -> list[Missing]:
    """What a release of the ``kind`` still waits for; nothing where it may go out."""
    stages = view.together.once(("stages", view.part.id), lambda: stages_of(view))
    out = [line for state in stages if (line := _of_stage(state))]
    out += _requirements(view) + _walls(view)
    out += _strength(view)
    out += _generic(view) if kind == "portable" else _batch(view)
    out += _trial(view, kind, waiver)
    if not needs.acknowledged(view.job):
        words = "The part could injure somebody, and nobody has acknowledged the cautions."
        out.append(Missing("cautions", words, "requirements", "must"))
    return list({(m.key, m.words): m for m in out}.values())


def _of_stage(row: dict) -> Missing | None:
    """A stage that is not as far as a release needs it."""
    key, name, line = row["key"], NAMES.get(row["key"], row["key"]), row["line"]
    if row["busy"]:
        return Missing(f"{key}-busy", f"{name}: still being calculated.", key)
    if row["state"] == "stale":
        return Missing(f"{key}-stale", f"{name}: out of date, {line}.", key)
    if row["state"] == "fails":
        return Missing(f"{key}-fails", f"{name}: fails, {line.removeprefix('fails, ')}.", key)
    if row["state"] == "open" and key not in ADVICE:
        return Missing(f"{key}-open", f"{name}: {line}.", key)
    if row["state"] == "empty" and key in NEEDED and key != "strength":
        return Missing(f"{key}-empty", f"{name}: {line}.", key)
    return None


def _requirements(view: DirectedJob) -> list[Missing]:
    """Requirements without evidence; a list of none is no list."""
    rows = {r["id"]: r for r in view.job["requirements"]["rows"]}
    if not rows:
        words = "No requirement is written: nothing says what the part must do."
        return [Missing("requirements-none", words, "requirements", "must")]
    bare = [rows[c["id"]]["statement"] for c in needs.coverage(view.job) if not c["evidence"]]
    out = [
        Missing(f"evidence-{i}", f"Nothing shows that “{words[:70]}” is met.", "requirements", "coverage")
        for i, words in enumerate(bare)
    ]
    return out + [
        Missing(f"trouble-{i}", t["message"], "requirements", "must") for i, t in enumerate(needs.loose_ends(view.job))
    ]


def _walls(view: DirectedJob) -> list[Missing]:
    """Walls that were never measured, and those that are too weak; other advice on walls binds nobody."""
    result = walls.measured(view)
    if result is None:
        return [Missing("walls-open", "The walls have not been measured.", "walls")]
    steel = hardware.reserve_with(view)
    if steel and steel[1] >= 1:
        return []  # what a wall lacks by itself its hardware gives
    weak = sum(zone["because"] == "weak" for zone in result["zones"])
    return [Missing("walls-weak", f"{weak} wall{'s are' if weak > 1 else ' is'} too weak.", "walls")] if weak else []


def loaded(view: DirectedJob) -> bool:
    loads = view.job["loads"]
    return bool(loads["held"]) and any(c["loads"] for c in loads["cases"])


def _strength(view: DirectedJob) -> list[Missing]:
    """Of a part that carries loads the direction must have been solved with its own layers."""
    if not loaded(view):
        if any(r["kind"] == "load" for r in view.job["requirements"]["rows"]):
            return [Missing("loads", "A load is required, and none is written on the part.", "requirements", "loads")]
        return []
    if view.up is None or strength.answering(view, view.up) is None:
        words = "The chosen direction has not been solved with its own layers and walls."
        return [Missing("strength-direction", words, "strength")]
    return []


def generic_reserve(view: DirectedJob) -> tuple[State, float | None, str]:
    """How far the strength under generic settings is, the least reserve with them, and the case that it is of."""

    def look() -> tuple[State, float | None, str]:
        plain = GenericJob(view.part)
        found = strength.reserves_for(plain, [view.up]) if view.up else None
        return strength.state(plain), found[0]["reserve"] if found else None, found[0]["case"] if found else ""

    return view.together.once(("generic", view.part.id), look)


def _generic(view: DirectedJob) -> list[Missing]:
    """A portable file holds by itself: no generated support, and a reserve that no setting is needed for."""
    out = []
    if analysis := overhangs.checked(view):
        wanting = [r for r in overhangs.findings(analysis)["rows"] if r["needs_support"]]
        if wanting:
            words = f"{len(wanting)} region{'s' if len(wanting) > 1 else ''} would need generated support."
            out.append(Missing("support", words, "overhangs", "remedies"))
    if loaded(view):
        state, reserve, case = generic_reserve(view)
        if reserve is None:
            words = "being calculated" if state["busy"] else "not calculated yet"
            out.append(Missing("generic", f"The reserve with generic settings is {words}.", "release"))
        elif reserve < 1:
            short = f"reserve {reserve:.2f}, {100 * (1 - reserve):.0f} % short"
            words = f"With generic settings it fails under “{case}”: {short}. Release it with its process instead."
            out.append(Missing("generic-fails", words, "release"))
    return out


def _batch(view: DirectedJob) -> list[Missing]:
    if view.job["batch"] is None:
        words = "No batch is chosen: how many on a plate, together or one after another."
        return [Missing("batch", words, "batch")]
    return []


def like_the_batch(view: DirectedJob, trial: Trial, kind: str) -> bool:
    """Whether a trial was printed the way the batch will be: this part, this direction, as many copies in that mode."""
    if trial.part_id != view.part.id or view.up is None or not directions.same_direction(trial.up, view.up):
        return False
    batch = view.job["batch"]
    if kind == "portable" or batch is None:
        return True
    return (trial.copies, trial.mode) == (batch["copies"], batch["mode"] if batch["copies"] > 1 else trial.mode)


def _trial(view: DirectedJob, kind: str, waiver: str) -> list[Missing]:
    """A trial that held, printed as the batch will be; a reason to do without takes its place."""
    passed = [t for t in trials.own_trials(view) if t.verdict == Trial.Verdict.PASSED and like_the_batch(view, t, kind)]
    if passed or len(waiver.strip()) >= LEAST_REASON:
        return []
    words = "No trial that held was printed the way the batch will be; print one, or say why it can go without."
    return [Missing("trial", words, "trials")]
