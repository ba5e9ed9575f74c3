"""Parts through the API: import, facts, shape, oriented file."""

import struct

import pytest
from conftest import stl_bytes
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection

from hewel_engine.geometry.mesh import Mesh
from hewel_engine.io.reading import take_in
from hewel_engine.io.stl import write_stl
from parts import bridge
from parts.actions import create_part, forget_source
from parts.job import moved
from parts.models import Part
from store import actions as store
from store.models import Blob, Chunk
from studies.actions import choose
from work.models import Work


def upload(client, data, name="plate.stl", **words):
    return client.post("/api/parts", {"file": SimpleUploadedFile(name, data), **words})


def jobs():
    with connection.cursor() as cursor:
        cursor.execute("select task_name, args->>'work_id' from procrastinate_jobs order by id")
        return cursor.fetchall()


def test_import_keeps_the_file_and_orders_its_reading(client):
    answer = upload(client, stl_bytes(), "..\\..\\Gauge plate.stl", units="mm")
    assert answer.status_code == 202
    work = Work.objects.get(id=answer.json()["id"])
    assert (
        work.state == "waiting"
        and work.arguments["name"] == "Gauge plate"
        and work.arguments["file_name"] == "Gauge plate.stl"
    )
    assert jobs() == [("work.compute", str(work.id))]
    assert Blob.objects.get().size == len(stl_bytes()) and Part.objects.count() == 0


def test_the_same_file_is_stored_once(client):
    upload(client, stl_bytes())
    chunks = Chunk.objects.count()
    upload(client, stl_bytes(), "again.stl")
    assert Blob.objects.count() == 1 and Chunk.objects.count() == chunks


@pytest.mark.parametrize("data, words, status", [(b"", {}, 422), (b"x", {"units": "yard"}, 422)])
def test_refused_at_the_door(client, data, words, status):
    answer = upload(client, data, **words)
    assert answer.status_code == status and answer.json()["hint"]
    assert Work.objects.count() == 0 and Blob.objects.count() == 0


def test_too_large_is_refused_at_the_door(client, settings):
    settings.UPLOAD_LIMIT = 100
    assert upload(client, stl_bytes()).status_code == 413


@pytest.fixture
def guessed(part, engineer) -> Part:
    """A part whose file names no unit and was read as metres."""
    small = take_in(stl_bytes()).mesh
    part.source = store.put(write_stl(Mesh(small.vertices * 1e-3, small.faces)))
    part.scale_mm, part.warnings = 1000.0, [{"code": "unit_guessed", "message": "Read as metres."}]
    part.save()
    return part


def say(client, part, units):
    return client.post(f"/api/parts/{part.id}/unit", {"units": units}, content_type="application/json")


def test_a_guessed_unit_is_asked_for_and_confirmed(client, guessed, study):
    asked = client.get(f"/api/parts/{guessed.id}").json()["unit_asked"]
    assert asked == {"scale_mm": 1000.0, "longest": pytest.approx(0.04)}
    assert say(client, guessed, "yard").status_code == 422
    answer = say(client, guessed, "m")
    assert answer.status_code == 200 and answer.json() == {"work": None}, "as it was read"
    got = client.get(f"/api/parts/{guessed.id}").json()
    assert got["unit_asked"] is None and got["warnings"][0]["code"] == "unit_said"
    assert say(client, guessed, "m").status_code == 409


def test_a_guessed_unit_is_corrected_in_place(client, guessed, study, engineer):
    solid = guessed.solid_id
    work = Work.objects.get(id=say(client, guessed, "in").json()["work"]["id"])
    found = {e[1]: e[2] for e in bridge.intake(store.get(guessed.source), "in", study.process) if e[0] == "result"}
    again = create_part(work, found)
    assert again == guessed and Part.objects.count() == 1
    got = client.get(f"/api/parts/{guessed.id}").json()
    assert got["unit_asked"] is None and got["size_mm"] == pytest.approx([0.04 * 25.4, 0.03 * 25.4, 0.027 * 25.4])
    assert not Blob.objects.filter(digest=solid).exists(), "the solid in metres is kept by nobody"


def test_a_unit_is_not_changed_under_what_rests_on_it(client, guessed, study, engineer):
    choose(engineer, study, 1, [0, 0, 1], "it stands well")
    answer = say(client, guessed, "in")
    assert answer.status_code == 409 and "as a revision" in answer.json()["hint"]
    assert say(client, guessed, "as read").status_code == 200


def test_a_part_and_its_facts(client, part, study):
    got = client.get(f"/api/parts/{part.id}").json()
    assert got["name"] == "Gauge plate" and got["settled"] is False and got["study"] == str(study.id)
    assert [round(b["diameter_mm"], 2) for b in got["facts"]["bores"]] == [8.0]
    assert got["facts"]["watertight"] and got["size_mm"] == pytest.approx([40, 30, 27])
    assert [p["id"] for p in client.get("/api/parts").json()] == [str(part.id)]


def test_shape_is_what_the_page_reads(client, part, study):
    answer = client.get(f"/api/parts/{part.id}/shape/{part.view_id}")
    mark, n, m = struct.unpack("<4sII", answer.content[:12])
    assert mark == b"HWV2" and m == part.facts["triangles"]
    assert len(answer.content) == 12 + 12 * n + 12 * m + 4 * m + 4 * m + 2 * m
    assert "immutable" in answer["Cache-Control"]
    assert client.get(f"/api/parts/{part.id}/shape/{'0' * 64}").status_code == 404


def test_file_needs_a_choice_first(client, part, study):
    answer = client.get(f"/api/parts/{part.id}/file?kind=stl")
    assert answer.status_code == 409 and answer.json()["code"] == "no_direction"


@pytest.mark.parametrize("kind", ["stl", "3mf"])
def test_file_stands_in_the_chosen_direction(client, engineer, part, study, kind):
    choose(engineer, study, 1, [1, 0, 0], "lies on its edge")
    answer = client.get(f"/api/parts/{part.id}/file?kind={kind}")
    assert answer["Content-Disposition"] == f'attachment; filename="gauge-plate-oriented.{kind}"'
    turned = take_in(answer.content).mesh
    assert turned.box[0] == pytest.approx([0, 0, 0], abs=1e-4)
    assert turned.box[1][2] == pytest.approx(40, abs=1e-4)
    assert turned.volume == pytest.approx(part.facts["volume_mm3"], rel=1e-5)


def test_a_refused_file_is_forgotten_unless_a_part_needs_it(client, part):
    answer = upload(client, b"no part at all, only words")
    work = Work.objects.get(id=answer.json()["id"])
    work.state = "refused"
    work.save()
    forget_source(work)
    assert not Blob.objects.filter(digest=work.arguments["source"]).exists()
    again = Work.objects.get(id=upload(client, stl_bytes()).json()["id"])
    forget_source(again)
    assert Blob.objects.filter(digest=part.source_id).exists()


def test_the_first_drawing_is_given_out_until_night(client, part, study, pieces):
    """A page may have read its name just before the bores were found."""
    from datetime import timedelta

    from django.utils import timezone

    from parts.actions import forget_first_views

    first = part.first_view_id
    assert first and first != part.view_id
    assert client.get(f"/api/parts/{part.id}/shape/{first}").content == pieces["view"]
    forget_first_views(timezone.now())
    assert client.get(f"/api/parts/{part.id}/shape/{first}").status_code == 200, "not yet"
    forget_first_views(timezone.now() + timedelta(hours=2))
    assert client.get(f"/api/parts/{part.id}/shape/{first}").status_code == 404
    assert not Blob.objects.filter(digest=first).exists()
    assert client.get(f"/api/parts/{part.id}/shape/{part.view_id}").status_code == 200


def test_a_scaled_variant_is_a_revision_whose_checks_start_anew(client, part, study):
    answer = client.post(f"/api/parts/{part.id}/scaled", {"factor": 1.5}, content_type="application/json")
    assert answer.status_code == 202, answer.content
    arguments = Work.objects.get(id=answer.json()["id"]).arguments
    assert arguments["revises"] == str(part.id) and arguments["name"] == f"{part.name}, × 1.5"
    assert arguments["recipe"] == {"of": str(part.id), "up": None, "steps": [], "scale": 1.5}
    mesh = take_in(store.get(Blob.objects.get(digest=arguments["source"])), "mm").mesh
    assert mesh.volume == pytest.approx(part.facts["volume_mm3"] * 1.5**3, rel=1e-6)


@pytest.mark.parametrize("factor", [0, 1, -2, 400])
def test_a_factor_that_makes_no_variant_is_refused(client, part, factor):
    answer = client.post(f"/api/parts/{part.id}/scaled", {"factor": factor}, content_type="application/json")
    assert answer.status_code == 422 and "makes no variant" in answer.json()["message"]


def test_a_face_that_has_two_names_is_moved_under_both():
    bore, other = {"cylinder": {"radius": 4.0}}, {"cylinder": {"radius": 9.0}}
    wider = {"cylinder": {"radius": 4.27}}
    rows = [{"id": "load", "shape": bore}, {"id": "fit", "shape": bore}, {"id": "else", "shape": other}]
    after = [r["shape"] for r in moved(rows, {"regions": {"fit": wider}})]
    assert after == [wider, wider, other], "or its load would act on nothing"
    assert [r["shape"] for r in moved(rows, None)] == [bore, bore, other]
