"""What is said of numbers holds together: it names cards, documents and stages that there are."""

import re
from pathlib import Path

import pytest

from hewel_engine.reckoning.cards import CARDS
from hewel_engine.reckoning.explained import EXPLAINED, KEYS

DOCS = Path(__file__).resolve().parents[2] / "docs"
PAGES = {
    "Direction", "Overhangs", "Walls", "Strength", "Hardware", "Batch", "Fit", "Trials", "Release", "Week",
    "First answer",
}  # fmt: skip


def test_every_number_is_explained_once():
    assert len(KEYS) == len(set(KEYS)) == len({e.name for e in EXPLAINED}) > 30


@pytest.mark.parametrize("told", EXPLAINED, ids=KEYS)
def test_it_names_what_there_is(told):
    assert told.says.endswith(".") and told.source.endswith(".") and told.formula
    assert not told.holds or told.holds.endswith(".")
    assert set(told.used.split(", ")) <= PAGES
    for chapter in re.findall(r"Handbook (\d+)", told.source):
        assert 1 <= int(chapter) <= 12
    for named in re.findall(r"[Cc]ards? ([a-z_]+)(?: and ([a-z_]+))?", told.source):
        assert set(filter(None, named)) <= set(CARDS)
    for file in re.findall(r"docs/([a-z]+\.md)", f"{told.source} {told.holds}"):
        assert (DOCS / file).exists()
