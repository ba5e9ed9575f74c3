"""How many queries a look costs: few, and no more of them for a part that has many revisions."""

import re
from uuid import uuid4

import pytest
from conftest import client_of
from django.db import connection
from django.test.utils import CaptureQueriesContext
from things import filled, operations, things_of

from batch.stage import BATCH
from overhangs.stage import OVERHANGS
from parts.models import Part
from pieces.stage import PIECES
from remedies.stage import AFTER_REMEDIES, REMEDIES
from sheets import actions as sheets
from strength.stage import STRENGTH
from studies.stage import DIRECTIONS
from walls.stage import WALLS

MOST = 26
MOST_OF_GATE = 36
"""The gate looks at every stage, at what its parts rest on, and at the strength with generic settings beside."""
REVISIONS = 5
WRITES = re.compile("insert|update|delete|select .* for (update|share)", re.IGNORECASE)
LOOKS = [path for verb, path in operations() if verb == "get" and "{token}" not in path]


def revise(user, part: Part) -> Part:
    """One more revision, with a copy of all that was worked out."""
    fresh = Part.objects.get(id=part.id)
    fresh.id, fresh.before, fresh.revision = uuid4(), part, part.revision + 1
    fresh.sheet = sheets.begin(user, "job", part.sheet.content, "came in")
    fresh.recipe = {"of": str(part.id), "up": [0, 0, 1], "steps": []}
    fresh._state.adding = True
    fresh.save()
    for stage in (DIRECTIONS, OVERHANGS, REMEDIES, AFTER_REMEDIES, PIECES, WALLS, STRENGTH, BATCH):
        for result in stage.rows(part).order_by("created"):
            result.id, result.part = uuid4(), fresh
            result._state.adding = True
            result.save()
    return fresh


def queries(client, url: str) -> list[str]:
    client.get(url)  # what is read once and kept is not counted
    with CaptureQueriesContext(
        connection,
    ) as caught:
        assert client.get(url).status_code < 500
    return [q["sql"] for q in caught.captured_queries]


@pytest.fixture
def things(engineer, part, study):
    return things_of(engineer, part, study)


def test_every_look_costs_few_queries_and_none_grows_with_revisions(engineer, part, things):
    client = client_of(engineer)
    urls = [re.sub(r"\{(\w+)\}", lambda m, p=path: str(filled(p, things)[m[1]]), path) for path in LOOKS]
    alone = {url: queries(client, url) for url in urls}
    newest = part
    for _ in range(REVISIONS - 1):
        newest = revise(engineer, newest)
    together = {url: queries(client, url) for url in urls}
    many = {
        url: len(found)
        for url, found in together.items()
        if len(found) > (MOST_OF_GATE if "/release/of/" in url else MOST)
    }
    assert not many
    assert not {url: w for url, found in together.items() if (w := [q for q in found if WRITES.match(q)])}
    grown = {url: (len(alone[url]), len(found)) for url, found in together.items() if len(found) > len(alone[url]) + 2}
    assert not grown
