"""Choosing a batch, and putting it back."""

from django.db import transaction

from accounts.models import User
from accounts.roles import require
from batch import bridge
from batch.models import BatchAnalysis, BatchChoice, PreparedFile
from batch.queries import Batches, words_of
from batch.stage import BATCH
from hewel.refusal import Refused, reason_given
from sheets import actions as sheets
from strength.models import BatchWelds
from studies.view import DirectedJob


@transaction.atomic
def choose(
    user: User, view: DirectedJob, analysis: BatchAnalysis, base: int, mode: str, copies: int, reason: str,
    items: list[list[float]] | None, file: PreparedFile | None = None,
) -> BatchChoice:  # fmt: skip
    """Settles how the part is printed. Its numbers and the weld of every layer are kept as they stand now, and the
    reserve counts with them. ``items``: where each copy stands, where somebody moved one;
    ``file``: the prepared one whose waits stand in place of those that were calculated.
    """
    require(user, "edit")
    reason = reason_given(reason, "Say why this batch.")
    if view.changed(BATCH, analysis):
        raise Refused("stale", "The plate was filled for a job that has changed since.", "Fill it anew first.", 409)
    known = Batches(view, analysis)
    found = known.options(mode, [copies])
    if not found:
        most = len(analysis.result["items"][mode])
        raise Refused("too_many", f"{copies} do not stand on this plate.", f"Choose at most {most}.", 422)
    placed = bridge.placed(known.laid, analysis.inputs["bed"], mode, copies) if items is None else items
    stands(analysis, placed, mode, copies)
    at, words = found[0].pop("at"), words_of(mode, copies)
    if file is not None:
        _fits(file, analysis, mode, copies)
        at["welds"] = bridge.welds_after(known.laid, file.result["waits"])
    value, low = ([round(float(v), 4) for v in column] for column in at["welds"])
    welds = BatchWelds.objects.create(
        part=view.part, up=analysis.up, pitch=analysis.result["layer_mm"], value=value, low=low, words=words
    )
    measures = found[0] | {"lines": at["lines"]}
    choice = BatchChoice.objects.create(
        analysis=analysis,
        welds=welds,
        mode=mode,
        copies=copies,
        items=placed,
        prepared=file and file.name,
        measures=measures,
        reason=reason,
        by=user,
    )
    given = {"id": choice.id, "welds": str(welds.id), "mode": mode, "copies": copies, "reason": reason}
    sections: dict = {"batch": given}
    if view.job["service"]["bond"] is not None:  # one number for all layers gives way to each layer's own
        sections["service"] = view.job["service"] | {"bond": None}
    sheets.amend(user, view.part.sheet_id, base, sections, f"batch chosen: {words}")
    return choice


def _fits(file: PreparedFile, analysis: BatchAnalysis, mode: str, copies: int) -> None:
    if file.result is None or file.analysis_id != analysis.id or (file.mode, file.copies) != (mode, copies):
        raise Refused(
            "other_plate",
            "The prepared file was read beside another plate.",
            "Read it beside this number of copies first.",
            422,
        )


def stands(analysis: BatchAnalysis, items: list[list[float]], mode: str, copies: int) -> None:
    """Raises Refused where copies do not stand clear, with the distance that is short."""
    if len(items) != copies:
        raise Refused("bad_options", f"{len(items)} places were given for {copies} copies.", "Reload the page.", 422)
    wrong = bridge.misplaced(analysis.result, items, analysis.inputs["bed"], mode)
    if wrong:
        raise Refused("misplaced", wrong[0]["words"], "Move them apart, or take fewer copies.", 422)


@transaction.atomic
def put_back(user: User, view: DirectedJob, base: int) -> None:
    """No batch is chosen any more: the reserve counts as for one copy with the coupon's own weld."""
    require(user, "edit")
    if view.job["batch"] is not None:
        sheets.amend(user, view.part.sheet_id, base, {"batch": None}, "batch put back")
