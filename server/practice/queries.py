"""Exercises of a workshop: what of its parts can be guessed, and how well its people guess."""

from uuid import UUID

from django.db.models import QuerySet

from accounts.models import User
from hewel.refusal import Refused, not_found
from parts.models import Part
from parts.queries import listed
from practice.models import Guess
from practice.questions import QUESTIONS, STAGES, Question
from studies.view import DirectedJob, view_of

MOST = 12
"""Exercises of a bench, as many of each kind as can be had."""
KNOWN = ("settled", "open", "fails")
"""States of a stage that has answered."""


def exercises(user: User) -> list[dict]:
    """Of every kind in turn the parts that it can be asked of, the oldest part first; revisions ask nothing new."""
    parts = listed(user).filter(before=None).order_by("created")
    done = firsts(Guess.objects.filter(user=user)).get(user, {})
    by_kind = [[(p, kind) for p in parts if p.standing.get(stage) in KNOWN] for kind, stage in STAGES.items()]
    out: list[tuple[Part, str]] = []
    while len(out) < MOST and any(by_kind):
        out += [rows.pop(0) for rows in by_kind if rows][: MOST - len(out)]
    return [
        {"part": p.id, "name": p.card["name"], "kind": kind, "right": done.get((p.id, kind))} for p, kind in out
    ]  # fmt: skip


def firsts(guesses: QuerySet[Guess]) -> dict[User, dict[tuple[UUID, str], bool]]:
    """Of everybody whether the first guess of each exercise was right: only that one counts."""
    out: dict[User, dict[tuple[UUID, str], bool]] = {}
    for guess in guesses.select_related("user"):
        out.setdefault(guess.user, {}).setdefault((guess.part_id, guess.kind), guess.right)
    return out


def scores(user: User) -> list[dict]:
    """Of everybody of the workshop who has guessed: how many first guesses, and how many of them right."""
    rows = [
        {"name": who.shown_name, "right": sum(done.values()), "of": len(done), "mine": who == user}
        for who, done in firsts(Guess.objects.filter(user__workshop=user.workshop_id)).items()
    ]
    return sorted(rows, key=lambda r: (-r["right"], r["of"], r["name"]))


def question_of(user: User, part_id: UUID, kind: str) -> tuple[DirectedJob, Question]:
    """Raises Refused where the part has nothing calculated that could be guessed."""
    if kind not in QUESTIONS:
        raise not_found("exercise")
    view = view_of(user, part_id)
    found = QUESTIONS[kind](view)
    if found is None:
        raise Refused(
            "nothing_to_guess", "Of this part nothing of the kind is calculated as it stands.",
            f"Calculate it under {STAGES[kind].capitalize()}, or take another exercise.", 409,
        )  # fmt: skip
    return view, found
