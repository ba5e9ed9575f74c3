"""What can be guessed of a part: each question's answer is what its stages have calculated, never written by hand."""

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from batch.queries import Batches, words_of
from batch.stage import BATCH
from overhangs import queries as overhangs
from overhangs.bridge import direction_words
from strength import queries as strength
from studies.queries import with_duties
from studies.stage import DIRECTIONS
from studies.view import DirectedJob

MOST = 4
"""Choices of one question."""
BANDS = 4
"""Of a part's height, for its weakest layer."""


@dataclass(frozen=True)
class Choice:
    """``words`` name it before; ``told`` says afterwards what is calculated of it."""

    words: str
    told: str


@dataclass(frozen=True)
class Question:
    """``answer``: the words of the choice that is right. ``rule``: what is learned by it."""

    ask: str
    choices: list[Choice]
    answer: str
    rule: str


STANDS = {
    True: "A direction in which the part fails is no direction, however little support it needs: strength first.",
    False: "What hangs decides first: support costs plastic, time and scars; one without any beats a lower one.",
}


def direction(view: DirectedJob) -> Question | None:
    """Which of four candidates stands best: the first of the ranking, among those that are spread over it."""
    if view.study is None or view.changed(DIRECTIONS, view.study):
        return None
    rows = [c for c in with_duties(view, view.study) if c["islands"] is not None]
    named: dict[str, dict] = {}
    for row in sorted(rows, key=lambda c: c["rank"]):
        named.setdefault(direction_words(row["up"]), row)
    if len(named) < MOST:
        return None
    words = [list(named)[i * (len(named) - 1) // (MOST - 1)] for i in range(MOST)]
    taken = [named[w] for w in words]
    told = []
    for c in taken:
        held = "" if c.get("reserve") is None else f", reserve {c['reserve']:.2f}"
        told.append(f"{c['support_volume_mm3']:.0f} mm³ of support, {c['height_mm']:.0f} mm high{held}")
    fails = any((c.get("reserve") or 1.0) < 1 for c in taken[1:])
    choices = sorted((Choice(w, t) for w, t in zip(words, told, strict=True)), key=lambda c: c.words)
    return Question("Which way does it stand best?", choices, words[0], STANDS[fails])


HANGS = {
    "island": "What begins in mid-air is held by nothing: no limit helps it, only something below.",
    "bridge": "A bridge prints up to a span, since its lines are held at both ends.",
    "bore_roof": "The roof of a lying bore is a bridge once it is wide enough; a small one closes by itself.",
    "bed_round": "A round that faces the plate is steepest where it begins: the fault is in the first layers.",
    "ledge": "A ledge is held on one side only: it holds by itself for about two lines.",
    "slope": "A slope prints by itself while each layer rests on the one below: up to the overhang limit.",
}
KINDS = {
    "island": "mid-air start", "bridge": "bridge", "bore_roof": "bore roof", "bed_round": "round on the plate",
    "ledge": "ledge", "slope": "slope",
}  # fmt: skip


def hanging(view: DirectedJob) -> Question | None:
    """Which of some places needs support as the part stands: the largest that does, among those that print."""
    analysis = overhangs.checked(view)
    if analysis is None:
        return None
    rows = sorted(overhangs.region_findings(analysis), key=lambda r: -r["area_mm2"])
    wanting = [r for r in rows if r["needs_support"]]
    printing = [r for r in rows if r["verdict"] == "holds"]
    if not wanting or not printing:
        return None
    named = {}
    for row in [wanting[0], *printing]:
        named.setdefault(f"{KINDS[row['kind']]}, {row['number']:.1f} {row['unit']}, {row['z_mm']:.1f} mm up", row)
    words = list(named)[:MOST]
    choices = [Choice(w, named[w]["sentence"]) for w in sorted(words, key=lambda w: named[w]["z_mm"])]
    ask = f"It stands {direction_words(analysis.up)}. Which of these does not print by itself?"
    return Question(ask, choices, words[0], HANGS[wanting[0]["kind"]]) if len(choices) > 1 else None


PARTS = {
    True: "Layers part where the pull across them is largest for what is welded there: mostly at the root of a bend.",
    False: "Stood so that its lines carry the load, a part breaks across its lines and not between its layers.",
}


def layer(view: DirectedJob) -> Question | None:
    """At which height it fails first under its worst case, in quarters of its height."""
    analysis, answers = overhangs.checked(view), view.up and strength.answering(view, view.up)
    if not answers or analysis is None:
        return None
    worst = strength.worst_of(strength.cases_out(view, answers))
    if worst is None or worst["reserve"] is None:
        return None
    edges = np.linspace(0.0, analysis.truth["height_mm"], BANDS + 1)
    words = [f"{low:.0f} to {high:.0f} mm above the plate" for low, high in pairwise(edges)]
    right = int(np.clip(np.searchsorted(edges, worst["z_mm"]) - 1, 0, BANDS - 1))
    told = [f"It {worst['sentence']}." if i == right else "It fails elsewhere first." for i in range(BANDS)]
    ask = f"It stands {direction_words(view.up)}. Where does it fail first under “{worst['name']}”?"
    choices = [Choice(w, t) for w, t in zip(words, told, strict=True)]
    return Question(ask, choices, words[right], PARTS[worst["mode"].startswith("interlayer")])


PLATED = {
    "full": "Nothing speaks against a full plate here: every layer's wait leaves its weld strong enough.",
    "fewer": "Each neighbour lets a layer wait and cool, so its weld gets weaker: the best batch is what still holds.",
    "sequential": "One after another, no layer waits for a neighbour: each copy is as strong as one printed alone.",
}


def batch(view: DirectedJob) -> Question | None:
    """How many on a plate, and how: what is proposed, one copy, half a plate and a full one."""
    analysis = view.result(BATCH)
    if analysis is None or not analysis.result or not analysis.layers_id or view.changed(BATCH, analysis):
        return None
    rows, taken, words = Batches(view, analysis).judged()
    if taken is None:
        return None
    told = {(r["mode"], r["copies"]): w for r, w in zip(rows, words, strict=True)}
    mode, copies = rows[taken]["mode"], rows[taken]["copies"]
    other = "sequential" if mode == "together" else "together"
    full = {way: max((n for m, n in told if m == way), default=0) for way in (mode, other)}
    wanted = [(mode, copies), (mode, full[mode]), (mode, 1), (other, full[other]), (mode, max(1, full[mode] // 2))]
    picked = [batch for batch in dict.fromkeys(wanted) if batch in told][:MOST]
    if len(picked) < 2:
        return None
    rule = mode if mode == "sequential" else "full" if copies == full[mode] else "fewer"
    choices = [Choice(words_of(*batch), told[batch]) for batch in sorted(picked)]
    return Question("How many on a plate?", choices, words_of(mode, copies), PLATED[rule])


QUESTIONS: dict[str, Callable[[DirectedJob], Question | None]] = {
    "direction": direction,
    "hanging": hanging,
    "layer": layer,
    "batch": batch,
}
STAGES = {"direction": "direction", "hanging": "overhangs", "layer": "strength", "batch": "batch"}
"""Where what is guessed is calculated, and seen afterwards."""
