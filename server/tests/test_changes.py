"""Two people's changes brought together: nothing lost, nothing doubled, clashes shown."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sheets.changes import GONE, Clash, changed, grown, leaves, merged

ROW = lambda i, **words: {"id": i, **words}
BASE = {"title": {"name": "Clevis", "note": ""}, "cases": [ROW("a", force=5), ROW("b", force=6)], "pins": [[0, 0, 1]]}


def test_leaves_are_found_by_path_and_rows_by_id():
    found = leaves(BASE)
    assert found["title", "name"] == "Clevis" and found["cases", "b", "force"] == 6
    assert found["cases", "*"] == ["a", "b"] and found["pins",] == [[0, 0, 1]]
    assert grown(found) == BASE


def test_changes_in_different_places_are_both_kept():
    theirs = BASE | {"title": {"name": "Clevis, long", "note": ""}}
    ours = BASE | {"title": {"name": "Clevis", "note": "for the mast"}}
    assert merged(BASE, theirs, ours)["title"] == {"name": "Clevis, long", "note": "for the mast"}


def test_rows_added_by_both_and_removed_by_one():
    theirs = BASE | {"cases": [ROW("a", force=5), ROW("b", force=6), ROW("c", force=7)]}
    ours = BASE | {"cases": [ROW("b", force=8), ROW("d", force=9)]}
    assert merged(BASE, theirs, ours)["cases"] == [ROW("b", force=8), ROW("c", force=7), ROW("d", force=9)]


def test_both_add_the_first_row():
    empty = BASE | {"cases": []}
    got = merged(empty, empty | {"cases": [ROW("x", force=1)]}, empty | {"cases": [ROW("y", force=2)]})
    assert got["cases"] == [ROW("x", force=1), ROW("y", force=2)]


def test_the_last_row_removed_leaves_an_empty_list():
    assert merged(BASE, BASE, BASE | {"cases": []})["cases"] == []


def test_the_same_place_is_a_clash_that_shows_all_three():
    with pytest.raises(Clash) as caught:
        merged(BASE, BASE | {"pins": [[1, 0, 0]]}, BASE | {"pins": [[0, 1, 0]]})
    assert caught.value.places == [(("pins",), [[0, 0, 1]], [[1, 0, 0]], [[0, 1, 0]])]


def test_a_row_removed_here_and_changed_there_is_a_clash():
    changed_row = BASE | {"cases": [ROW("a", force=50), ROW("b", force=6)]}
    removed = BASE | {"cases": [ROW("b", force=6)]}
    for theirs, ours in ((changed_row, removed), (removed, changed_row)):
        with pytest.raises(Clash):
            merged(BASE, theirs, ours)


def test_the_same_change_twice_is_none():
    ours = BASE | {"pins": []}
    assert merged(BASE, ours, ours) == ours


values = st.integers(0, 2) | st.text("ab", max_size=2)
rows = st.lists(st.sampled_from("pqrs"), unique=True, max_size=4).flatmap(
    lambda ids: st.tuples(*(st.builds(ROW, st.just(i), force=values) for i in ids)).map(list)
)
contents = st.fixed_dictionaries(
    {"name": values, "need": st.fixed_dictionaries({"a": values, "b": values}), "cases": rows}
)


@given(contents, contents)
def test_one_sided_changes_arrive_whole(base, ours):
    assert merged(base, base, ours) == ours
    assert merged(base, ours, base) == ours
    assert merged(base, ours, ours) == ours


@given(contents, contents, contents)
def test_a_merge_has_every_change_of_both_or_is_a_clash(base, theirs, ours):
    try:
        got = leaves(merged(base, theirs, ours))
    except Clash:
        return
    for side in (theirs, ours):
        for path, (_, after) in changed(base, side).items():
            if path[-1] != "*" and after is not GONE and after != []:
                assert got[path] == after


@given(contents, contents, contents)
def test_taking_back_restores_what_stood_there(base, first, second):
    """Undo of the first edit after a second one elsewhere leaves only the second."""
    if set(changed(base, first)) & set(changed(base, second)):
        return
    try:
        both = merged(base, first, second)
        left = merged(first, both, base)
    except Clash:
        return
    assert {r["id"] for r in left["cases"]} == {r["id"] for r in second["cases"]} and left["need"] == second["need"]
