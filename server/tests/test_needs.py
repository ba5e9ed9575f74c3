"""What a part must do: faces, loads, equilibrium, duties, what goes stale, cautions."""

import json

import pytest
from conftest import client_of, directions_of, person, stage_of

from studies.view import DirectedJob

PLANE = {"plane": {"point": [0, 0, -3], "normal": [0, 0, 1], "tol": 0.05}}
BORE = {"cylinder": {"point": [-8, 0, 0], "axis": [0, 0, 1], "radius": 4, "tol": 0.1}}
TOP = {"plane": {"point": [0, 0, 24], "normal": [0, 0, 1], "tol": 0.05}}


@pytest.fixture(autouse=True)
def examined(study):
    """A part is never without its study."""


class Job:
    """The job as a page would write on it."""

    def __init__(self, client, part):
        self.client, self.part = client, part

    def get(self):
        return self.client.get(f"/api/parts/{self.part.id}").json()

    def needs(self):
        return self.client.get(f"/api/needs/{self.part.id}").json()

    def put(self, base=None, **sections):
        body = {"base": base or self.get()["version"], "sections": sections}
        return self.client.put(f"/api/parts/{self.part.id}/job", body, content_type="application/json")

    def post(self, verb, base=None):
        body = {"base": base or self.get()["version"]}
        return self.client.post(f"/api/needs/{self.part.id}/{verb}", body, content_type="application/json")

    def take_back(self, number):
        url = f"/api/sheets/{self.part.sheet_id}/take-back"
        return self.client.post(url, {"number": number}, content_type="application/json")


@pytest.fixture
def job(client, part):
    return Job(client, part)


def face(name, shape, key=None):
    return {"id": key or name, "name": name, "shape": shape}


def force(on="bore", amount="12 kgf", direction=(0, 1, 0), key="f"):
    return {"id": key, "kind": "force", "on": on, "amount": amount, "direction": list(direction)}


def case(*loads, name="pull", **more):
    return {"id": name, "name": name, "loads": list(loads)} | more


def loaded(job, **more):
    regions = {"rows": [face("base", PLANE), face("bore", BORE), face("top", TOP)]}
    held = [{"id": "h", "on": "base", "how": "fixed"}]
    answer = job.put(regions=regions, loads={"held": held, "cases": [case(force())]} | more)
    assert answer.status_code == 200, answer.content
    return answer.json()


def test_what_was_typed_is_kept_beside_the_number(job):
    row = loaded(job)["job"]["loads"]["cases"][0]["loads"][0]
    assert row["amount"] == {"typed": "12 kgf", "n": pytest.approx(117.6798), "unit": "N"}
    again = job.put(loads=job.get()["job"]["loads"])
    assert again.status_code == 200 and again.json()["version"] == 2, "what comes back unchanged is no edit"


def test_equilibrium_of_a_case(job):
    loaded(job)
    (found,) = job.needs()["cases"]
    assert found["force_n"] == pytest.approx([0, 117.6798, 0], abs=1e-6) and found["free"] == []
    (answer,) = found["answers"]
    assert answer["held"] == "h" and answer["force_n"] == pytest.approx([0, -117.6798, 0], abs=1e-6)
    assert job.needs()["troubles"] == []


def test_regions_say_what_they_catch(job):
    loaded(job)
    base, bore, _ = job.needs()["regions"]
    assert base["area_mm2"] == pytest.approx(40 * 30 - 50, abs=1) and base["axis"] == pytest.approx([0, 0, -1])
    assert bore["diameter_mm"] == 8 and bore["axis"] == [0, 0, 1]


@pytest.mark.parametrize(
    "sections, words",
    [
        ({"regions": {"rows": [face("far", {"box": [[90, 0, 0], [99, 9, 9]]})]}}, "catches nothing"),
        ({"regions": {"rows": [face("odd", {"ball": 3})]}}, "one of box"),
        ({"loads": {"cases": [case(force("base", "12 apples"))]}}, "“12 apples” is not a force"),
        ({"loads": {"cases": [case(force(on=None))]}}, "acts on no face"),
        ({"loads": {"cases": [case(force(on="nowhere"))]}}, "acts on no face"),
        ({"loads": {"cases": [case(force("base", direction=(0, 0, 0)))]}}, "direction cannot be 0"),
        ({"loads": {"cases": [case(force("base") | {"direction": None})]}}, "no direction"),
        ({"loads": {"cases": [case(force("base"), nature="cyclic")]}}, "how many times"),
        ({"loads": {"cases": [case(name="a") | {"id": "1"}, case(name="a") | {"id": "2"}]}}, "Two load cases"),
        ({"loads": {"held": [{"id": "h", "on": "base", "how": "pinned"}]}}, "bore or a pin"),
        ({"loads": {"held": [{"id": "h", "on": "base", "how": "bolted"}]}}, "washer"),
        ({"touching": {"rows": [{"id": "t", "on": "nowhere", "duty": "seen"}]}}, "acts on no face"),
        ({"requirements": {"rows": [{"id": "r", "kind": "load", "statement": ""}]}}, "statement"),
        ({"requirements": {"rows": [{"id": "r", "kind": "load", "statement": "x", "number": "5 apples"}]}}, "apples"),
        ({"need": {"quantity": 0}}, "quantity"),
        ({"need": {"due": "soon"}}, "due"),
        ({"regions": {"rows": []}}, "cannot be taken out"),
    ],
)
def test_nonsense_is_refused_and_nothing_is_lost(job, sections, words):
    before = loaded(job)
    answer = job.put(**sections)
    given = answer.json()
    assert answer.status_code == 422 and words in given["message"] and given["hint"], given
    assert job.get()["job"] == before["job"]


def test_a_deleted_case_comes_back(job):
    before = loaded(job)["job"]["loads"]
    job.put(loads=before | {"cases": []})
    history = job.client.get(f"/api/sheets/{job.part.sheet_id}/history").json()
    assert history["editions"][0]["words"] == "load case “pull” taken out"
    job.take_back(3)
    assert job.get()["job"]["loads"] == before


def test_two_people_add_loads_at_once(job, part):
    version = loaded(job)["version"]
    other = Job(client_of(person("piet", "Alder Reach")), part)
    loads = job.get()["job"]["loads"]
    mine = job.put(base=version, loads=loads | {"cases": [*loads["cases"], case(force("top"), name="mine")]})
    theirs = other.put(base=version, loads=loads | {"cases": [*loads["cases"], case(force("top"), name="theirs")]})
    assert mine.status_code == theirs.status_code == 200
    assert {c["name"] for c in theirs.json()["job"]["loads"]["cases"]} == {"pull", "mine", "theirs"}


def test_an_undo_that_takes_a_face_away_is_told_as_a_trouble(job):
    loaded(job)
    loads = job.get()["job"]["loads"]
    job.put(regions={"rows": [*job.get()["job"]["regions"]["rows"], face("wall", BORE, "wall")]})
    job.put(loads=loads | {"cases": [case(force("wall"))]})
    job.take_back(3)
    troubles = job.needs()["troubles"]
    assert any("acts on a face that is gone" in t["message"] for t in troubles)


def test_what_is_not_held_is_a_trouble(job):
    loaded(job, held=[{"id": "h", "on": "base", "how": "sliding"}])
    (trouble,) = job.needs()["troubles"]
    assert "slides along y" in trouble["message"] and trouble["hint"]
    loaded(job, held=[])
    assert any(t["message"] == "Nothing is held." for t in job.needs()["troubles"])


def test_combinations_are_summed(job):
    loads = {
        "cases": [case(force()), case(force(direction=(1, 0, 0)), name="side", factor=2)],
        "combinations": [
            {
                "id": "c",
                "name": "both",
                "parts": [{"id": "1", "case": "pull"}, {"id": "2", "case": "side", "factor": 0.5}],
            }
        ],
    }
    loaded(job, **loads)
    (both,) = job.needs()["combinations"]
    assert both["force_n"] == pytest.approx([117.6798, 117.6798, 0], abs=1e-4)


def test_own_weight_uses_the_material(job, part):
    weight = {"id": "w", "kind": "weight", "amount": "1 g", "direction": [0, 0, -1]}
    loaded(job, cases=[case(weight)])
    grams = part.facts["volume_mm3"] * 1.27e-3
    assert job.needs()["cases"][0]["force_n"][2] == pytest.approx(-grams * 9.80665e-3, rel=1e-6)


# ------------------------------------------------------------------ what goes stale


def choose(job, study):
    body = {"base": job.get()["version"], "up": study.candidates[0]["up"], "reason": "it stands"}
    assert job.client.post(f"/api/studies/{study.id}/choice", body, content_type="application/json").status_code == 201


def test_only_what_depends_on_a_load_goes_stale_with_it(job, study):
    loaded(job)
    choose(job, study)
    stale = lambda: job.get()["choice"]["stale_because"]
    loads = job.get()["job"]["loads"]
    job.put(need={"quantity": 40}, requirements={"rows": [{"id": "r", "kind": "life", "statement": "ten years"}]})
    job.put(loads=loads | {"cases": [loads["cases"][0] | {"name": "stay pull"}]})
    assert stale() == [], "words, quantity and the name of a case change no number"
    job.put(loads=loads | {"cases": [case(force(amount="14 kgf"))]})
    assert stale() == ["loads"]
    job.take_back(job.get()["version"])
    assert stale() == []
    job.put(touching={"rows": [{"id": "t", "on": "top", "duty": "seen"}]})
    assert stale() == ["touching faces"]
    job.client.post(
        f"/api/studies/of/{job.part.id}", {"base": job.get()["version"], "limit": 50}, content_type="application/json"
    )
    assert stale() == ["process", "touching faces"]


def test_a_complete_list_goes_stale_when_it_changes(job):
    assert stage_of(job.client, job.part, "requirements")["state"] == "empty"
    assert job.post("settle").json()["code"] == "nothing_written"
    loaded(job)
    rows = [{"id": "r", "kind": "load", "statement": "carry the stay", "number": "120 N"}]
    job.put(requirements={"rows": rows})
    assert job.post("settle").json()["code"] == "troubles_left", "no case stands for the requirement"
    loads = job.get()["job"]["loads"]
    job.put(loads=loads | {"cases": [loads["cases"][0] | {"requirement": "r"}]})
    assert job.post("settle").status_code == 200
    assert stage_of(job.client, job.part, "requirements")["state"] == "settled"
    job.put(requirements={"rows": [rows[0] | {"number": "130 N"}]})
    assert stage_of(job.client, job.part, "requirements")["state"] == "stale"
    job.take_back(job.get()["version"])
    assert stage_of(job.client, job.part, "requirements")["state"] == "settled"


def test_coverage_shows_what_stands_for_a_requirement_and_what_shows_it(job):
    loaded(job, cases=[case(force(), requirement="r")])
    job.put(
        requirements={"rows": [{"id": r, "kind": "load", "statement": r} for r in ("r", "s")]},
        evidence={"rows": [{"id": "e", "requirement": "r", "kind": "inspection", "words": "gauge passes"}]},
    )
    r, s = job.needs()["coverage"]
    assert r == {"id": "r", "models": ["load case “pull”"], "evidence": ["inspection: gauge passes"]}
    assert s == {"id": "s", "models": [], "evidence": []}


# ------------------------------------------------------------------ cautions


def test_a_part_that_could_injure_is_not_given_out_before_the_cautions_are_read(job, study, part):
    choose(job, study)
    file = lambda: job.client.get(f"/api/parts/{part.id}/file?kind=stl")
    assert file().status_code == 200 and job.post("acknowledge").json()["code"] == "no_cautions"
    job.put(need={"use": "injury"})
    got = job.get()
    assert got["cautions"] and not got["acknowledged"]
    refused = file()
    assert refused.status_code == 409 and refused.json()["code"] == "not_acknowledged"
    assert job.post("acknowledge").status_code == 200
    assert job.get()["acknowledged"] and file().status_code == 200
    assert job.get()["job"]["caution"]["by"] == "Ines"
    job.put(need={"use": "functional"})
    assert job.get()["cautions"] == [] and file().status_code == 200


def test_nobody_writes_who_acknowledged(job):
    assert job.put(caution={"use": "injury", "by": "x", "person": 1, "at": "now"}).status_code == 422


# ------------------------------------------------------------------ pointing, paint, directions


def test_pointing_names_the_face(job, part, pieces):
    from hewel_engine.io.packing import unpack_solid

    mesh = unpack_solid(pieces["solid"])
    inward = [
        i
        for i, n in enumerate(mesh.normals)
        if abs(n[2]) < 1e-6
        and mesh.centroids[i][0] < -3
        and abs(mesh.centroids[i][1]) < 5
        and mesh.centroids[i][0] > -13
    ]
    got = job.client.post(f"/api/needs/{part.id}/point", {"facet": inward[0]}, content_type="application/json").json()
    assert got["kind"] == "bore" and got["diameter_mm"] == pytest.approx(8, abs=0.01)
    wrong = job.client.post(f"/api/needs/{part.id}/point", {"facet": 10**6}, content_type="application/json")
    assert wrong.status_code == 422 and "not on the part" in wrong.json()["message"]


def test_paint_marks_each_facet_with_its_region(job, part):
    loaded(job)
    painted = job.client.get(f"/api/needs/{part.id}/paint").content
    assert len(painted) == part.facts["triangles"] and set(painted) == {0, 1, 2, 3}


def test_duties_reach_the_net_and_the_order(job, study):
    assert job.client.get(f"/api/studies/{study.id}/duties").json()["protected_scar_mm2"] is None
    plain = job.client.get(f"/api/studies/{study.id}").json()["candidates"]
    loaded(job)
    job.put(
        touching={
            "rows": [
                {"id": "t", "on": "top", "duty": "seen"},
                {"id": "b", "on": "bore", "duty": "mating", "fit": "sliding"},
            ]
        }
    )
    duties = job.client.get(f"/api/studies/{study.id}/duties").json()
    swept = len(job.client.get(f"/api/studies/{study.id}/sweep").json()["ups"])
    assert all(len(duties[k]) == swept for k in ("protected_scar_mm2", "bores_lying"))
    got = job.client.get(f"/api/studies/{study.id}").json()["candidates"]
    down = lambda rows: next(c for c in rows if c["up"][2] < -0.999)
    assert down(got)["protected_plate_mm2"] == pytest.approx(6 * 30), "on its head, the seen top takes the texture"
    assert sorted(c["rank"] for c in got) == list(range(1, len(plain) + 1))
    lying = [c for c in got if abs(c["up"][2]) < 0.1]
    assert lying and all(c["bores_lying"] == 1 for c in lying)


def test_how_a_fitted_bore_lies(job, part):
    loaded(job)
    job.put(touching={"rows": [{"id": "b", "on": "bore", "duty": "mating", "fit": "press"}]})
    at = lambda **up: job.client.get(f"/api/needs/{part.id}/bores", up).json()[0]
    assert at(z=1)["word"] == "upright" and at(z=1)["chord_mm"] == 0
    lying = at(x=1, z=0)
    assert (
        lying["word"] == "lying"
        and lying["chord_mm"] == pytest.approx(8 * 2**-0.5)
        and lying["prints"]
        and lying["round"]
    )


# ------------------------------------------------------------------ the loads file


def test_loads_go_out_and_come_back_the_same(job, part):
    cases = [
        case(
            force(),
            {"id": "p", "kind": "pressure", "on": "top", "amount": "2 bar"},
            factor=1.5,
            nature="cyclic",
            cycles=1e6,
        ),
        case({"id": "m", "kind": "moment", "on": "top", "amount": "3 N·m", "direction": [0, 0, 1]}, name="twist"),
    ]
    held = [
        {"id": "h", "on": "base", "how": "fixed", "axes": "xz"},
        {"id": "w", "on": "base", "how": "bolted", "washer": {"centre": [12, 8, -3], "outer": "9 mm"}},
    ]
    loaded(job, held=held, cases=cases)
    url = f"/api/needs/{part.id}/loads"
    out = json.loads(job.client.get(url).content)
    before = job.needs()["cases"]
    body = {"base": job.get()["version"], "loads": out}
    answer = job.client.put(url, body, content_type="application/json")
    assert answer.status_code == 200, answer.content
    assert json.loads(job.client.get(url).content) == out
    sums = lambda rows: [(c["force_n"], c["moment_nmm"]) for c in rows]
    for (f, m), (g, n) in zip(sums(job.needs()["cases"]), sums(before), strict=True):
        assert f == pytest.approx(g) and m == pytest.approx(n)
    assert len(job.get()["job"]["regions"]["rows"]) == 3, "known faces are known again"


def test_faces_go_out_as_facets_and_are_known_again(job, part):
    pointed = job.client.post(f"/api/needs/{part.id}/point", {"facet": 0}, content_type="application/json").json()
    job.put(
        regions={"rows": [face("base", pointed["shape"])]},
        loads={"held": [{"id": "h", "on": "base"}], "cases": [case(force("base"))]},
    )
    url = f"/api/needs/{part.id}/loads"
    plain = json.loads(job.client.get(url + "?plain=true").content)
    assert "facets" in plain["fixed"][0]["on"] or "cylinder" in plain["fixed"][0]["on"]
    job.client.put(url, {"base": job.get()["version"], "loads": plain}, content_type="application/json")
    rows = job.get()["job"]["regions"]["rows"]
    assert rows and all("facets" not in r["shape"] for r in rows), "a face comes back as a face"


@pytest.mark.parametrize(
    "given, words",
    [
        ({"cases": [{"name": "a", "loads": [{"force_n": [0, 0, 1]}]}]}, "no face"),
        ({"fixed": [{"box": [[90, 0, 0], [91, 1, 1]]}]}, "catches nothing"),
    ],
)
def test_a_bad_loads_file_changes_nothing(job, part, given, words):
    before = loaded(job)
    body = {"base": before["version"], "loads": given}
    answer = job.client.put(f"/api/needs/{part.id}/loads", body, content_type="application/json")
    assert answer.status_code == 422 and words in answer.json()["message"]
    assert job.get()["job"] == before["job"]


# ------------------------------------------------------------------ revisions


def test_a_revision_takes_over_what_the_part_must_do(job, part, study, pieces, engineer):
    from django.core.files.uploadedfile import SimpleUploadedFile

    from hewel_engine.io.packing import unpack_solid
    from parts import bridge as parts_bridge
    from parts.actions import create_part
    from work.models import Work

    mesh = unpack_solid(pieces["solid"])
    low = int(mesh.centroids[:, 2].argmin())
    loaded(job)
    rows = job.get()["job"]["regions"]["rows"]
    patch = {"patch": {"facet": low, "wide": False}}
    job.put(regions={"rows": [*rows, face("underside", patch), face("block", {"box": [[7, -15, 22.5], [13, 15, 25]]})]})
    job.put(
        requirements={"rows": [{"id": "r", "kind": "load", "statement": "carry"}]},
        evidence={"rows": [{"id": "e", "requirement": "r", "kind": "trial", "words": "held"}]},
    )
    loads = job.get()["job"]["loads"]
    job.put(loads=loads | {"cases": [c | {"requirement": "r"} for c in loads["cases"]]})
    settled = job.post("settle")
    assert settled.status_code == 200, settled.content
    stood = {"base": job.get()["version"], "up": [0, 0, 1], "reason": "plate down, for its grip"}
    assert job.client.post(f"/api/studies/{study.id}/choice", stood, content_type="application/json").status_code == 201
    turned = mesh.vertices * [1, 1, 0.9]  # a lower revision: the block of the top is gone
    from hewel_engine.geometry.mesh import Mesh
    from hewel_engine.io.stl import write_stl

    data = write_stl(Mesh(turned, mesh.faces))
    sent = {"file": SimpleUploadedFile("plate-b.stl", data), "revises": str(part.id)}
    order = Work.objects.get(id=job.client.post("/api/parts", sent).json()["id"])
    assert order.arguments["revises"] == str(part.id) and order.arguments["name"] == "Gauge plate"
    part.refresh_from_db()
    before = {"solid": pieces["solid"], "view": pieces["features"]["view"], "regions": part.job["regions"]["rows"]}
    events = parts_bridge.intake(data, "mm", part_process(part), before)
    found = {name: value for _, name, value in (e for e in events if e[0] == "result")}
    fresh = create_part(order, found)
    directions_of(engineer, fresh)
    got = job.client.get(f"/api/parts/{fresh.id}").json()
    assert got["revision"] == 2 and got["revises"] == str(part.id)
    assert [r["statement"] for r in got["job"]["requirements"]["rows"]] == ["carry"]
    assert got["job"]["evidence"]["rows"] == []
    # What was decided comes along, to be confirmed: it was decided of another shape.
    assert got["choice"] is None and got["carried"] == {
        "up": [0, 0, 1],
        "reason": "plate down, for its grip",
        "revision": 1,
    }
    assert stage_of(job.client, fresh, "requirements") == {"state": "stale", "line": "1 written, confirm complete"}
    assert DirectedJob(fresh).direction == ([0, 0, 1], False)
    own = fresh.study_results.get()
    own.candidates = study.candidates
    own.save()
    confirmed = Job(job.client, fresh)
    lost = confirmed.post("settle")
    assert lost.status_code == 409 and "is gone" in lost.json()["message"], "what is declared again is looked at again"
    given = {"base": confirmed.get()["version"], "up": [0, 0, 1], "reason": got["carried"]["reason"]}
    assert job.client.post(f"/api/studies/{own.id}/choice", given, content_type="application/json").status_code == 201
    after = confirmed.get()
    assert after["carried"] is None and after["choice"]["reason"] == "plate down, for its grip"
    names = [r["name"] for r in got["job"]["regions"]["rows"]]
    assert "underside" in names and "bore" in names and "block" not in names
    assert job.client.get(f"/api/needs/{fresh.id}").json()["cases"][0]["force_n"][1] == pytest.approx(117.6798)


def part_process(part):
    from farm.queries import process_of

    return process_of(part.workshop, part.job["process"])["numbers"]


def test_only_a_part_of_the_own_workshop_can_be_revised(job, part, stranger):
    from django.core.files.uploadedfile import SimpleUploadedFile

    sent = {"file": SimpleUploadedFile("b.stl", b"solid"), "revises": str(part.id)}
    assert client_of(stranger).post("/api/parts", sent).status_code == 404


def test_the_demo_s_fork_is_in_balance(job, part, engineer):
    """Its sections are made from parameters, so that they fit the part that is made from the same ones."""
    from demo.river_station import demo_files
    from farm.queries import process_of
    from parts import bridge as parts_bridge
    from parts.actions import create_part
    from work.models import Work

    fork = next(f for f in demo_files() if f.name == "Sheave fork")
    order = Work.objects.filter(kind="intake").first()
    order.arguments |= {"job": fork.job, "name": fork.name}
    events = parts_bridge.intake(fork.data, "auto", process_of(part.workshop, part.job["process"])["numbers"])
    made = create_part(order, {name: value for _, name, value in (e for e in events if e[0] == "result")})
    directions_of(engineer, made)
    given = job.client.get(f"/api/needs/{made.id}").json()
    assert given["troubles"] == [] and [c["free"] for c in given["cases"]] == [[], []]
    assert given["cases"][0]["force_n"][2] == pytest.approx(31, abs=2), "less its own weight"
    bore = next(r for r in given["regions"] if r["id"] == "axle")
    assert bore["area_mm2"] == pytest.approx(2 * 7 * 3.1416 * 8, rel=0.01), "both cheeks"
