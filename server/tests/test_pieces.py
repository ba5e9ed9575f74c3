"""Pieces on the server: a part split, a feature apart, a plate put in; each piece a part with its own findings."""

import manifold3d as m3
import numpy as np
import pytest
from conftest import client_of, computed, directions_of, person
from test_needs import Job
from test_overhangs import checked, choose

from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.patches import find_faces
from hewel_engine.io.packing import pack_solid, pack_view
from hewel_engine.io.reading import take_in
from hewel_engine.processes import Process
from parts import bridge as parts_bridge
from parts.actions import complete_part, create_part
from parts.models import Part
from pieces.models import Division
from pieces.schemas import DivideIn
from pieces.stage import PIECES
from stages.stage import calculate
from store import actions as store
from studies.view import DirectedJob
from work.models import Work

MIDDLE = {"way": "split", "point": [0, 0, 12], "normal": [0, 0, 1]}


def worked_out(user, part, **given) -> Division:
    return computed(PIECES, user, part, DivideIn(**given).model_dump())


def look(client, part) -> dict:
    answer = client.get(f"/api/pieces/of/{part.id}")
    assert answer.status_code == 200, answer.content
    return answer.json()


def taken(client, division) -> list[Part]:
    """The parts that a division makes, read in as the worker does."""
    answer = client.post(f"/api/pieces/{division.id}/take")
    assert answer.status_code == 202, answer.content
    return [read_in(Work.objects.get(id=row["id"])) for row in answer.json()]


def read_in(work) -> Part:
    before = Part.objects.get(id=work.arguments["revises"])
    known = {"solid": store.get(before.solid), "view": store.get(before.view), "regions": []}
    data = store.get(store.Blob.objects.get(digest=work.arguments["source"]))
    found = {e[1]: e[2] for e in parts_bridge.intake(data, "mm", Process().as_dict(), known) if e[0] == "result"}
    part = create_part(work, found)
    directions_of(work.by, part)
    complete_part(work, part, found["features"])
    return Part.objects.get(id=part.id)


@pytest.fixture
def hollow(part, study) -> Part:
    """The part of the workshop, its solid a closed hollow box with walls of 5 mm."""
    body = m3.Manifold.cube((60, 40, 24), True) - m3.Manifold.cube((50, 30, 14), True)
    out = body.translate((0, 0, 12)).to_mesh64()
    mesh = Mesh(np.asarray(out.vert_properties)[:, :3].copy(), np.asarray(out.tri_verts).astype(np.int32))
    part.solid, part.view = store.put(pack_solid(mesh, None)), store.put(pack_view(mesh, find_faces(mesh)))
    part.facts = part.facts | {"bores": [], "volume_mm3": mesh.volume}
    part.save()
    return part


def test_a_box_is_split_and_both_halves_become_parts(client, hollow, engineer):
    division = worked_out(engineer, hollow, **MIDDLE)
    result = look(client, hollow)["division"]
    assert result["why"] is None and result["done"] and not result["stale_because"] and result["made"] == []
    assert [(p["name"], p["count"]) for p in result["pieces"]] == [
        ("half below", 1), ("half above", 1), ("peg 1", 1), ("peg 2", 1),
    ]  # fmt: skip
    assert not any(p["needs_support"] for p in result["pieces"])
    assert result["seats"] and all(
        s["diameter_mm"] - s["peg_mm"] == pytest.approx(2 * result["clearance_mm"]) for s in result["seats"]
    )
    view = client.get(f"/api/pieces/{division.id}/content/view/{result['view']}")
    assert view.content[:4] == b"HWV2"
    address = f"/api/pieces/{division.id}/file"
    viewer = person("looker", hollow.workshop.name)
    viewer.role = "viewer"
    viewer.save()
    assert client_of(viewer).get(address).status_code == 403, "the same right as the part's own file"
    job = Job(client, hollow)
    need = job.get()["job"]["need"]
    assert job.put(need=need | {"use": "injury"}).status_code == 200
    assert client.get(address).json()["code"] == "not_acknowledged"
    assert job.put(need=need).status_code == 200
    together = take_in(client.get(address).content, "auto")
    assert together.mesh.closed
    assert together.mesh.volume == pytest.approx(sum(p["count"] * p["volume_mm3"] for p in result["pieces"]), rel=1e-6)
    halves = taken(client, division)
    assert [p.name for p in halves][:2] == ["Gauge plate, half below", "Gauge plate, half above"]
    assert DirectedJob(halves[0]).up == result["pieces"][0]["up"]
    assert not checked(halves[0], engineer).truth["needs_support"]
    made = look(client, hollow)["division"]["made"]
    assert [m["name"] for m in made] == ["half below", "half above", "peg 1", "peg 2"] and made[0]["wanting"] == 0
    inside = look(client, halves[1])
    assert inside["whole"] == str(hollow.id) and inside["piece"] == "half above" and len(inside["siblings"]) == 4
    again = client.post(f"/api/pieces/{division.id}/take")
    assert again.status_code == 409 and "parts already" in again.json()["message"]
    worked_out(engineer, hollow, **MIDDLE, pegs=3)
    again = client.post(f"/api/pieces/{division.id}/take")
    assert again.status_code == 409, "not twice, also when another division is the newest"
    rows = client.get(f"/api/remedies/of/{hollow.id}").json()["revisions"]
    assert [r["piece"] for r in rows] == [None, "half below", "half above", "peg 1", "peg 2"]


def test_the_fit_of_the_farm_counts_and_what_is_typed_comes_before_it(client, hollow, engineer):
    fits = look(client, hollow)["fits"]
    assert fits["location"]["value"] == 0.105 and fits["location"]["origin"] == "handbook"
    assert worked_out(engineer, hollow, **MIDDLE).clearance == 0.105, "0.03 as printed, and half of what a bore loses"
    assert worked_out(engineer, hollow, **MIDDLE, fit="sliding").clearance == 0.175
    typed = worked_out(engineer, hollow, **MIDDLE, clearance=0.25)
    assert typed.result["seats"][0]["diameter_mm"] - typed.result["seats"][0]["peg_mm"] == pytest.approx(0.5)
    first = Division.objects.order_by("created").first()
    assert calculate(PIECES, engineer, DirectedJob(hollow), DivideIn(**MIDDLE).model_dump()) != first, (
        "the newest is what is shown"
    )


def test_another_process_makes_pieces_stale(client, hollow, engineer):
    worked_out(engineer, hollow, **MIDDLE)
    job = Job(client, hollow)
    answer = client.post(
        f"/api/studies/of/{hollow.id}", {"base": job.get()["version"], "limit": 60}, content_type="application/json"
    )
    assert answer.status_code == 202, answer.content
    assert look(client, hollow)["division"]["stale_because"]


def test_a_plate_is_put_in_at_a_pause_and_its_finding_says_so(client, hollow, engineer, study):
    job = Job(client, hollow)
    choose(client, job, study, [0.0, 0.0, 1.0])
    hollow.refresh_from_db()
    division = worked_out(engineer, hollow, way="embed")
    result = look(client, hollow)["division"]
    (pause,) = result["pauses"]
    assert (pause["height_mm"], pause["layer"]) == (pytest.approx(21.0), 105)
    assert any("cold piece" in w for w in result["warnings"])
    text = client.get(f"/api/pieces/{division.id}/list").content.decode()
    assert "after layer 105, 21.00 mm up" in text and "a person must be there" in text and "1 × plate" in text
    body = taken(client, division)[0]
    assert body.name == "Gauge plate, body" and body.recipe["pauses"] == result["pauses"]
    analysis = checked(body, engineer)
    assert not analysis.truth["needs_support"]
    rows = client.get(f"/api/overhangs/of/{body.id}").json()["analysis"]["rows"]
    carried = [r for r in rows if any("put in at the pause" in b for b in r["because"])]
    assert len(carried) == 1 and carried[0]["verdict"] == "doubtful"


def test_a_feature_apart_tells_its_joint(client, part, engineer, study):
    """The wall that stands out of the plate."""
    given = {"way": "separate", "point": [10, 0, 3], "normal": [0, 0, 1], "how": "press", "fit": "press"}
    division = worked_out(engineer, part, **given)
    result = look(client, part)["division"]
    assert result["why"] and "too thin for a pocket" in result["why"], "the plate is 6 mm thick"
    assert client.post(f"/api/pieces/{division.id}/take").status_code == 409
    result = worked_out(engineer, part, **given | {"point": [0, 0, -1], "depth": 1.0}).result
    assert result["why"] or result["numbers"]["shear_mm2"] > 0


@pytest.fixture
def slider(part, study) -> Part:
    """The part of the workshop, its solid a block between two rails, 0.4 mm off either."""
    rails = m3.Manifold.cube((6, 40, 10), True).translate((11.4, 0, 5))
    frame = rails + rails.mirror((1, 0, 0)) + m3.Manifold.cube((28.8, 4, 10), True).translate((0, 22, 5))
    out = (frame + m3.Manifold.cube((16, 10, 10), True).translate((0, -12, 5))).to_mesh64()
    mesh = Mesh(np.asarray(out.vert_properties)[:, :3].copy(), np.asarray(out.tri_verts).astype(np.int32))
    part.solid, part.view = store.put(pack_solid(mesh, None)), store.put(pack_view(mesh, find_faces(mesh)))
    part.facts = part.facts | {"bores": []}
    part.save()
    return part


@pytest.mark.parametrize(("travel", "holds"), [(20.0, True), (30.0, False)])
def test_a_body_printed_in_place_is_swept(client, slider, engineer, travel, holds):
    choose(client, Job(client, slider), slider.study_results.get(), [0.0, 0.0, 1.0])
    slider.refresh_from_db()
    given = {"way": "in_place", "pick": [0, -12, 10], "normal": [0, 1, 0], "travel": travel, "fit": "in_place"}
    division = worked_out(engineer, slider, **given)
    result = look(client, slider)["division"]
    assert result["sweep"]["needed_mm"] == 0.3 and result["sweep"]["holds"] == holds
    assert ("runs free" in result["words"]) == holds
    assert [p["name"] for p in result["pieces"]] == ["body 1", "body 2, moves"]
    assert result["sweep"]["drawn"][0] == pytest.approx(0.4, abs=1e-4)
    assert client.post(f"/api/pieces/{division.id}/take").status_code == 409


@pytest.mark.parametrize(
    ("given", "code"),
    [
        ({"way": "split"}, 422),
        ({"way": "split", "point": [0, 0, 0], "normal": [0, 0, 0]}, 422),
        ({"way": "saw"}, 422),
        ({"way": "in_place", "normal": [0, 1, 0]}, 422),
        ({"way": "split", "point": [0, 0, 0], "normal": [0, 0, 1], "pegs": 40}, 422),
        ({"way": "split", "point": [0, 0, 0], "normal": [0, 0, 1], "fit": "loose"}, 422),
    ],
)
def test_what_cannot_be_asked_for_is_refused(client, part, given, code):
    answer = client.post(f"/api/pieces/of/{part.id}", given, content_type="application/json")
    assert answer.status_code == code, answer.content


def test_a_plane_beside_the_part_says_why(client, part, engineer, study):
    result = worked_out(engineer, part, way="split", point=[0, 0, 500], normal=[0, 0, 1]).result
    assert "misses the part" in result["why"]
    assert client.get(f"/api/pieces/of/{part.id}").json()["division"]["why"] == result["why"]


def test_who_may_not_edit_may_look(part, engineer):
    viewer = person("wim", engineer.workshop.name)
    viewer.role = "viewer"
    viewer.save()
    seen = client_of(viewer)
    assert seen.get(f"/api/pieces/of/{part.id}").status_code == 200
    assert seen.post(f"/api/pieces/of/{part.id}", MIDDLE, content_type="application/json").status_code == 403
