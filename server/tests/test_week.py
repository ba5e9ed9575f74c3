"""From a chosen batch to the farm's week: orders, the plan, pins, what would be if, hours of hands."""

from datetime import timedelta
from types import SimpleNamespace

import pytest
from conftest import client_of, person
from django.utils import timezone
from test_batch import choose, filled, job, quick, stands  # noqa: F401 (fixtures)

from demo.river_station import ORDERS, PEOPLE, WORKSHOP
from desk.demo import due_after, ordered
from farm.actions import amend
from sheets import actions as sheets
from sheets.models import Sheet
from week.models import Hands, Order
from week.queries import WeekView, table_of

ROUND = [[0.0, 24.0]] * 7


UNITS = [{"id": "a", "name": "north"}, {"id": "b", "name": "south"}, {"id": "c", "name": "old", "in_service": False}]


@pytest.fixture
def hands(engineer):
    return Hands.objects.create(workshop=engineer.workshop, days=ROUND)


@pytest.fixture
def chosen(client, part, stands, filled, engineer):  # noqa: F811
    """A job on a model of which two machines are in service, its batch of two chosen."""
    sheet = Sheet.objects.get(kind="farm-machine")
    values = {n: {"typed": r.get("typed", r["value"])} for n, r in sheet.content["record"]["values"].items()}
    amend(engineer, sheet.id, sheet.version, {"name": "Reed press", "values": values, "machines": UNITS})
    answer = choose(client, stands, filled)
    assert answer.status_code == 201, answer.content
    return part


def order(client, part, **more):
    body = {"part": str(part.id), "quantity": 5} | more
    return client.post("/api/week/orders", body, content_type="application/json")


def week(client, words="") -> dict:
    return client.get(f"/api/week{words}").json()


def test_an_order_becomes_plates_on_the_machines_in_service(client, chosen, hands):
    told = order(client, chosen)
    assert told.status_code == 201, told.content
    got = told.json()
    assert [m["name"] for m in got["machines"]] == ["north", "south"], "what is out of service is not planned on"
    assert [r["copies"] for r in got["runs"]] == [2, 2, 2], "six copies, for scrap"
    assert {r["machine"] for r in got["runs"]} == {m["key"] for m in got["machines"]}
    (row,) = got["orders"]
    assert row["planned"] == row["plates"] == 3 and row["late_s"] == 0
    assert row["done_s"] == max(r["free_s"] for r in got["runs"])
    assert {v["what"] for r in got["runs"] for v in r["visits"]} >= {"start", "take off"}
    assert got["day"][0]["what"].endswith("start"), "before midnight it may be all of the day"
    assert [v["at_s"] for v in got["day"]] == sorted(v["at_s"] for v in got["day"])


def test_without_a_batch_or_on_an_outdated_one_nothing_is_ordered(client, part, stands, filled):  # noqa: F811
    assert order(client, part).json()["code"] == "no_batch"
    assert choose(client, stands, filled).status_code == 201
    assert stands.put(plate={"spacing": 9}).status_code == 200
    assert order(client, part).json()["code"] == "stale"
    assert Order.objects.count() == 0


def test_what_is_late_says_why_and_what_would_help(client, chosen, hands):
    order(client, chosen, quantity=40, due=(timezone.now() + timedelta(hours=1)).isoformat())
    now = week(client)
    late = [r for r in now["runs"] if r["late_s"] > 0]
    assert late and all(r["why"] for r in late) and now["orders"][0]["late_s"] == max(r["late_s"] for r in late)
    north = now["machines"][0]["key"]
    worse = week(client, f"?without={north}")
    assert worse["late_s"] > now["late_s"] and {r["machine"] for r in worse["runs"]} == {now["machines"][1]["key"]}
    assert worse["machines"][0]["out"] and not week(client)["machines"][0]["out"], "looked at, not taken"


def test_nobody_there_means_nothing_is_started_till_somebody_is(client, chosen, engineer):
    days = [None] * 7
    tomorrow = (timezone.localtime() + timedelta(days=1)).weekday()
    days[tomorrow] = [9.0, 17.0]
    answer = client.put("/api/week/hands", {"days": days, "people": 1}, content_type="application/json")
    assert answer.json() == {"days": days, "people": 1}
    order(client, chosen, quantity=1)
    (run,) = week(client)["runs"]
    assert run["start_s"] == 86400 + 9 * 3600
    for wrong in ([None] * 7, [[17, 8], *[None] * 6]):
        body = {"days": wrong, "people": 1}
        assert client.put("/api/week/hands", body, content_type="application/json").json()["code"] == "bad_value"


def test_a_pinned_plate_stays_and_the_others_go_round_it(client, chosen, hands):
    (of,) = order(client, chosen).json()["orders"]
    got = week(client)
    south, at = got["machines"][1]["key"], timezone.now() + timedelta(hours=30)
    pin = lambda body: client.put(f"/api/week/orders/{of['id']}/pin", body, content_type="application/json").json()
    told = pin({"number": 0, "machine": south, "start": at.isoformat()})
    (run,) = [r for r in told["runs"] if r["number"] == 0]
    assert run["pinned"] and run["machine"] == south
    assert run["start_s"] == pytest.approx((at - WeekView(chosen.workshop, timezone.now()).zero).total_seconds(), abs=1)
    assert pin({"number": 0, "machine": "gone", "start": at.isoformat()})["lost_pins"][0]["number"] == 0
    free = pin({"number": 0})
    assert not any(r["pinned"] for r in free["runs"]) and free["lost_pins"] == []
    assert pin({"number": 99, "machine": south, "start": at.isoformat()})["code"] == "not_found"


def test_drying_and_conditioning_are_waits(client, chosen, hands):
    due = (timezone.now() + timedelta(hours=60)).isoformat()
    got = order(client, chosen, quantity=1, due=due, dry_h=6, rest_h=48).json()
    (run,), (row,) = got["runs"], got["orders"]
    assert run["start_s"] == pytest.approx(got["now_s"] + 6 * 3600, abs=5)
    assert row["done_s"] == pytest.approx(run["free_s"] + 48 * 3600)
    wanted = got["now_s"] + 60 * 3600
    assert row["late_s"] == pytest.approx(max(0.0, row["done_s"] - wanted), abs=5)
    assert order(client, chosen, dry_h=-1).status_code == 422


def test_parts_of_a_kit_are_wanted_together(client, chosen, hands):
    soon, later = ((timezone.now() + timedelta(hours=h)).isoformat() for h in (2, 200))
    order(client, chosen, quantity=9, due=soon)
    order(client, chosen, quantity=2, due=later, kit="gauge")
    alone = next(o for o in week(client)["orders"] if o["kit"] == "gauge")
    assert alone["late_s"] == 0 and alone["kit_done_s"] == alone["done_s"]
    got = order(client, chosen, quantity=2, due=(timezone.now() + timedelta(hours=1)).isoformat(), kit="gauge").json()
    kit = [o for o in got["orders"] if o["kit"] == "gauge"]
    assert kit[0]["kit_done_s"] == kit[1]["kit_done_s"] == max(o["done_s"] for o in kit)
    assert {r["order"] for r in got["runs"][:2]} <= {o["id"] for o in kit}, "the kit goes first, all of it"


def test_what_was_looked_at_is_made_so(client, chosen, hands, engineer):
    order(client, chosen)
    north, south = (m["key"] for m in week(client)["machines"])
    body = {"without": [north], "people": 3, "hours": 2}
    Hands.objects.update(days=[[8.0, 17.0]] * 7)
    got = client.put("/api/week/what-if", body, content_type="application/json").json()
    assert [m["key"] for m in got["machines"]] == [south] and {r["machine"] for r in got["runs"]} == {south}
    assert client.get("/api/week/hands").json() == {"days": [[8.0, 19.0]] * 7, "people": 3}
    sheet = Sheet.objects.get(kind="farm-machine")
    assert [u["in_service"] for u in sheet.content["record"]["machines"]] == [False, True, False]
    viewer = person("vera", "Alder Reach")
    viewer.role = "viewer"
    viewer.save()
    assert client_of(viewer).put("/api/week/what-if", body, content_type="application/json").status_code == 403


def test_a_withdrawn_order_is_planned_no_more(client, chosen, hands):
    (of,) = order(client, chosen).json()["orders"]
    got = client.delete(f"/api/week/orders/{of['id']}").json()
    assert got["runs"] == got["orders"] == got["day"] == []
    assert client.delete(f"/api/week/orders/{of['id']}").status_code == 404


def test_an_urgent_order_goes_first(client, chosen, hands):
    soon = (timezone.now() + timedelta(hours=2)).isoformat()
    order(client, chosen, quantity=8, due=soon)
    order(client, chosen, quantity=1, due=(timezone.now() + timedelta(hours=1)).isoformat(), urgent=True)
    runs = week(client)["runs"]
    assert runs[0]["of"] == 1, "the urgent one"


def test_only_an_engineer_orders_and_a_stranger_sees_nothing(client, chosen, hands, engineer, stranger):
    (of,) = order(client, chosen).json()["orders"]
    hand = person("piet", "Alder Reach")
    hand.role = "technician"
    hand.save()
    other = client_of(hand)
    assert order(other, chosen).status_code == 403 == other.delete(f"/api/week/orders/{of['id']}").status_code
    assert len(week(other)["runs"]) == 3, "but sees what is to be done"
    assert week(client_of(stranger))["runs"] == [] == week(client_of(stranger))["machines"]
    assert client_of(stranger).delete(f"/api/week/orders/{of['id']}").status_code == 404


def test_a_part_in_the_bin_is_not_printed(client, chosen, hands, engineer):
    order(client, chosen)
    sheets.strike(engineer, chosen.sheet_id)
    assert week(client)["runs"] == []


def test_the_plan_as_a_table(client, chosen, hands, engineer):
    order(client, chosen)
    rows = table_of(WeekView(engineer.workshop, timezone.now()))
    text = client.get("/api/week/table").content.decode().splitlines()
    assert len(text) == len(rows) == 4 and text[0].startswith("machine,part,plate,copies")
    assert "1 of 3" in text[1] or "1 of 3" in text[2] or "1 of 3" in text[3]


def test_the_demo_orders_what_it_brought_and_nothing_of_a_revision():
    work = SimpleNamespace(by=SimpleNamespace(username=PEOPLE[0][0]))
    brought = SimpleNamespace(name=next(iter(ORDERS)), before_id=None, workshop=SimpleNamespace(name=WORKSHOP))
    assert ordered(brought, work) == ORDERS[brought.name]
    assert ordered(SimpleNamespace(**vars(brought) | {"before_id": "x"}), work) is None


def test_the_demos_order_for_today_is_due_within_working_hours_whenever_it_is_begun():
    """Thirteen plates of three hours on two machines take longer than any day has left of its hours."""
    monday = timezone.localtime().replace(hour=0, minute=11, second=0, microsecond=0)
    for hour in range(0, 168, 3):
        now = monday + timedelta(hours=hour)
        due = due_after(0, now)
        assert due > now and due.weekday() < 5 and (due.hour, due.minute) == (17, 0)
        day = due.replace(hour=0, minute=0)
        assert due - max(now, day) <= timedelta(hours=17), "only what is left of one day"
        assert due_after(6, now) > due + timedelta(days=2)
