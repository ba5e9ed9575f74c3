"""What differs between two contents, and two people's changes brought together.

A content is JSON. Its leaves are found by their path; a row of a list is found by its ``id``, so that two people may
add and change rows of one list. Lists of anything else are leaves.
"""

from typing import Any

Path = tuple[str, ...]
ORDER = "*"
GONE = object()


class Clash(Exception):
    """Both sides changed the same places to different things; ``places`` lists (path, before, theirs, ours)."""

    def __init__(self, places: list[tuple[Path, object, object, object]]):
        super().__init__(f"{len(places)} places")
        self.places = places


def _rows(value) -> bool:
    return isinstance(value, list) and bool(value) and all(isinstance(v, dict) and "id" in v for v in value)


def leaves(content: Any, at: Path = ()) -> dict[Path, Any]:
    """Every leaf by its path; a list of rows gives their ids in order under ``ORDER``."""
    if _rows(content):
        out: dict[Path, object] = {(*at, ORDER): [row["id"] for row in content]}
        for row in content:
            out |= leaves(row, (*at, row["id"]))
        return out
    if isinstance(content, dict) and content:
        return {path: leaf for key, value in content.items() for path, leaf in leaves(value, (*at, key)).items()}
    return {at: content}


def grown(found: dict[Path, Any]):
    """The content that has these leaves: the inverse of ``leaves``."""
    if set(found) == {()}:
        return found[()]
    keys = dict.fromkeys(path[0] for path in found if path)
    branch = lambda key: grown({path[1:]: leaf for path, leaf in found.items() if path[:1] == (key,)})
    if (ORDER,) in found:
        return [branch(key) for key in found[(ORDER,)] if key in keys]
    return {key: branch(key) for key in keys}


def changed(before: Any, after: Any) -> dict[Path, tuple[object, object]]:
    """Path → (before, after) of every leaf that differs; ``GONE`` where there is none."""
    a, b = leaves(before), leaves(after)
    return {
        path: (a.get(path, GONE), b.get(path, GONE))
        for path in [*a, *(p for p in b if p not in a)]
        if a.get(path, GONE) != b.get(path, GONE)
    }


def _touch(one: Path, other: Path) -> bool:
    """The same place, or one within the other (a row removed here and changed there)."""
    n = min(len(one), len(other))
    return one[:n] == other[:n]


def _hollow(before, after) -> bool:
    return (before == [] and after is GONE) or (before is GONE and after == [])


def merged(base: Any, theirs: Any, ours: Any):
    """``theirs`` with what ``ours`` changed since ``base``. Raises Clash where both changed the same place."""
    far, near = changed(base, theirs), changed(base, ours)
    places = []
    for path, (before, mine) in near.items():
        if path[-1:] == (ORDER,):
            continue
        for other, (was, yours) in far.items():
            if other[-1:] == (ORDER,) or not _touch(path, other) or (path == other and mine == yours):
                continue
            if path != other and (_hollow(before, mine) or _hollow(was, yours)):
                continue  # a list that one filled or emptied: its rows are compared one by one
            places.append((path, before, yours, mine))
    if places:
        raise Clash(places)
    out = dict(leaves(theirs))
    for path, (_, mine) in near.items():
        if mine is GONE:
            out.pop(path, None)
        elif path[-1:] == (ORDER,) and path in far:
            out[path] = _order(path, base, theirs, mine)
        else:
            out[path] = mine
    # An emptied place is gone once something has been put into it.
    deep = {path[:i] for path in out for i in range(len(path))}
    return grown({path: leaf for path, leaf in out.items() if path not in deep})


def _order(path: Path, base, theirs, mine: list) -> list:
    """Their order, with the rows that we added at the end and without those that we removed."""
    start, far = leaves(base).get(path, []), leaves(theirs).get(path, [])
    return [i for i in far if i in mine or i not in start] + [i for i in mine if i not in start and i not in far]


def spoken(path: Path) -> str:
    """A path as people read it."""
    return " · ".join(path) or "everything"


def plain(value: Any):
    """A leaf for the log and for the page: None where there is none."""
    return None if value is GONE else value
