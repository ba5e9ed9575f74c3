"""Back to CAD on the server: what came in as STEP goes out as STEP with its edits, and what is missing is named."""

from dataclasses import replace
from datetime import timedelta
from math import pi

import pytest
import test_pieces
import test_remedies
from conftest import client_of, person
from django.utils import timezone
from test_needs import Job
from test_overhangs import choose

from demo.step_file import block_with_bores
from hewel_engine.advice.dividing import divided_by_plane
from hewel_engine.errors import InputError
from hewel_engine.geometry.patches import find_faces
from hewel_engine.io.packing import pack_solid, pack_view
from hewel_engine.io.reading import take_in
from hewel_engine.parts.facts import facts_of
from parts.actions import throw_away
from parts.models import Part
from pieces import bridge as pieces_bridge
from remedies import bridge
from store import actions as store
from store.models import Blob
from work.models import Work

BLOCK = block_with_bores((40, 30, 14), [(10, 15, 7.5, 99), (28, 15, 8, 99)])
LYING = [1, 0, 0]


@pytest.fixture
def block(client, part, study) -> Part:
    """The part of the workshop, come in as a STEP file; its bores lie as it stands."""
    taken = take_in(BLOCK)
    facts = facts_of(taken.mesh, surfaces=taken.surfaces)
    part.source, part.file_format, part.file_name = store.put(BLOCK), "step", "block.step"
    part.solid = store.put(pack_solid(taken.mesh, taken.surfaces))
    part.view = store.put(pack_view(taken.mesh, find_faces(taken.mesh), facts.feature_of_facet()))
    part.facts = facts.as_dict()
    part.save()
    choose(client, Job(client, part), study, LYING)
    return Part.objects.get(id=part.id)


def taken(client, proposal) -> Part:
    answer = client.post(f"/api/remedies/{proposal.id}/take")
    return test_pieces.read_in(Work.objects.get(id=answer.json()["id"]))


def given_out(client, part) -> bytes:
    answer = client.get(f"/api/parts/{part.id}/file?kind=step")
    assert answer.status_code == 200 and answer["Content-Type"] == "model/step", answer.content
    return answer.content


def test_remedies_go_back_to_cad(client, block, engineer):
    assert given_out(client, block) == BLOCK, "what came in is its own exact solid"
    proposal = test_remedies.worked_out(engineer, block)
    result = test_remedies.look(client, block)["proposal"]
    assert [r["key"] for r in result["applied"]] == ["capped_teardrop"] * 2
    assert result["uncarried"] == [] and result["inexact"] is None
    revision = taken(client, proposal)
    shown = client.get(f"/api/parts/{revision.id}").json()
    assert shown["exact"] and shown["uncarried"] == [] and shown["file_format"] == "3mf"
    again = take_in(given_out(client, revision))
    assert again.mesh.volume == pytest.approx(revision.facts["volume_mm3"], rel=1e-3)
    assert again.mesh.volume < 14 * (40 * 30 - pi * (7.5**2 + 8**2))


def test_a_revision_of_a_revision_goes_on_from_the_exact_solid(client, block, engineer):
    first = taken(client, test_remedies.worked_out(engineer, block))
    first.uncarried = [{"name": "gusset", "why": "It follows a curve.", "piece": None}]
    first.save()
    step = {"key": "foot_chamfer", "kind": "plate", "centre_mm": [0, 0, 0], "on": True, "set": {}}
    second = taken(client, test_remedies.worked_out(engineer, Part.objects.get(id=first.id), [step]))
    assert [row["name"] for row in second.uncarried] == ["gusset"], "what was missing is missing still"
    assert take_in(given_out(client, second)).mesh.volume == pytest.approx(second.facts["volume_mm3"], rel=1e-3)


def test_pieces_go_back_to_cad_one_by_one(client, block, engineer):
    division = test_pieces.worked_out(engineer, block, way="split", point=[20, 15, 7], normal=[0, 0, 1])
    result = test_pieces.look(client, block)["division"]
    assert [p["uncarried"] for p in result["pieces"]] == [[]] * len(result["pieces"]) and result["inexact"] is None
    for piece in test_pieces.taken(client, division):
        exact = take_in(given_out(client, piece))
        assert exact.mesh.volume == pytest.approx(piece.facts["volume_mm3"], rel=4e-3)


def test_a_piece_that_cannot_be_said_in_planes_is_told(client, block, engineer, monkeypatch):
    def unsaid(*words):
        found = divided_by_plane(*words)
        return replace(found, pieces=[replace(p, made=None) for p in found.pieces])

    monkeypatch.setattr(pieces_bridge, "divided_by_plane", unsaid)
    test_pieces.worked_out(engineer, block, way="split", point=[20, 15, 7], normal=[0, 0, 1])
    result = test_pieces.look(client, block)["division"]
    assert {p["uncarried"] for p in result["pieces"] if p["uncarried"] is not None} == set()
    assert "cannot be said in planes" in result["inexact"] and result["done"]


def test_what_did_not_come_as_step_has_none(client, part, study):
    answer = client.get(f"/api/parts/{part.id}/file?kind=step")
    assert answer.status_code == 409 and "did not come from a STEP file" in answer.json()["message"]
    assert not client.get(f"/api/parts/{part.id}").json()["exact"]


def test_what_is_missing_is_named_and_a_failure_costs_nothing_else(client, block, engineer, monkeypatch):
    def fails(*_):
        raise InputError("no_step", "The exact solid could not be changed: the library broke off.", "Use the mesh.")

    monkeypatch.setattr(bridge, "carried_over", fails)
    proposal = test_remedies.worked_out(engineer, block)
    result = test_remedies.look(client, block)["proposal"]
    assert result["uncarried"] is None and "library broke off" in result["inexact"] and result["after"]["wanting"] == 0
    revision = taken(client, proposal)
    assert client.get(f"/api/parts/{revision.id}/file?kind=step").status_code == 409
    proposal.result |= {"uncarried": [{"name": "capped teardrop", "why": "It follows a curve.", "piece": None}]}
    proposal.save()
    words = client.get(f"/api/remedies/{proposal.id}/changes").content.decode()
    assert "Not in the STEP file" in words and "capped teardrop: It follows a curve." in words


def test_who_may_not_export_gets_no_step_and_nothing_stays_behind(client, block, engineer):
    assert client_of(person("reader", "Reed yard")).get(f"/api/parts/{block.id}/file?kind=step").status_code == 404
    revision = taken(client, test_remedies.worked_out(engineer, block))
    kept = revision.exact_id
    block.proposal_results.all().delete()
    revision.sheet.struck, revision.sheet.struck_by = timezone.now() - timedelta(days=40), engineer
    revision.sheet.save()
    throw_away(timezone.now())
    assert not Blob.objects.filter(digest=kept).exists()
