"""Order, plates, week; the simulated farm runs at speed; a plate fails and is planned anew; its traveller is ticked on
a phone, without a connection for a while; the count is in the log.
"""

import pytest
from browser import errors, see, signed_in, until, wait, wide
from conftest import NAME, PASSWORD
from line import line_to
from orders import FarmDoor, chosen_batch, withdraw_all
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from house.client import Client
from house.places import LANE, data_home

KEPT = "const done = arguments[0]; caches.match('/plates/').then((page) => done(Boolean(page)));"
"""Whether the browser has kept a plate's page; its frame comes last."""


@pytest.fixture(scope="module")
def client(address):
    return Client(address, NAME, PASSWORD)


@pytest.fixture(scope="module")
def farm(address):
    return FarmDoor(data_home(f"e2e{LANE or ''}"))


@pytest.fixture(scope="module")
def order(client):
    """Cable saddles, two to a plate, on three plates; hands are there round the clock."""
    withdraw_all(client)
    client.send("week/hands", {"days": [[0, 24]] * 7, "people": 2}, "PUT")
    part = chosen_batch(client, "Cable saddle", 2)
    told = client.send("week/orders", {"part": part, "quantity": 5})
    yield next(o for o in told["orders"] if o["part"] == "Cable saddle")
    client.send("week/hands", {"days": [[8, 17]] * 5 + [None] * 2, "people": 1}, "PUT")


@pytest.fixture(scope="module")
def desk(address, order):
    with signed_in(address, NAME, PASSWORD) as page:
        page.get(address + "week")
        see(page, "[data-testid=plate-run]")
        yield page


def runs(page, state: str) -> list:
    return page.find_elements(By.CSS_SELECTOR, f"[data-testid=plate-run][data-state={state}]")


def text(page, name: str) -> str:
    return see(page, f"[data-testid={name}]").text


def button(page, words: str):
    return wait(page, lambda d: d.find_elements(By.XPATH, f"//button[text()='{words}']"))[0]


def look_at(page, label: str):
    """The plate that is called so, by keyboard."""
    run = wait(page, lambda d: d.find_elements(By.CSS_SELECTOR, f"[aria-label^='{label}']"))[0]
    if run.get_attribute("aria-pressed") != "true":
        run.send_keys(Keys.ENTER)
    return see(page, "[data-testid=plate-here]")


def test_people_are_told_a_plan_and_it_holds(desk):
    assert "Nobody has been told a plan yet" in text(desk, "changes")
    button(desk, "Take this plan").click()
    wait(desk, lambda d: "it holds" in text(d, "changes"))


def test_a_plate_is_dragged_to_another_machine_and_moved_by_the_keys(desk, client):
    run = wait(desk, lambda d: d.find_elements(By.CSS_SELECTOR, "[aria-label^='2 Cable saddle, plate 1']"))[0]
    place = lambda: next(r for r in client.get("week")["runs"] if r["number"] == 0)
    columns = [m["key"] for m in client.get("week")["machines"] if m["model_name"] == "Weir 220"]
    before = place()["machine"]
    step = 1 if columns.index(before) + 1 < len(columns) else -1
    slot = float(see(desk, "[data-testid=plate-run] rect").get_attribute("width")) + 9
    ActionChains(desk).click_and_hold(run).move_by_offset(round(step * slot), 40).release().perform()
    see(desk, "[data-testid=pinned]")
    moved = place()
    assert moved["pinned"] and moved["machine"] == columns[columns.index(before) + step]
    run = wait(desk, lambda d: d.find_elements(By.CSS_SELECTOR, "[aria-label^='2 Cable saddle, plate 1']"))[0]
    run.send_keys(Keys.SHIFT, Keys.ARROW_LEFT if step > 0 else Keys.ARROW_RIGHT)
    until(lambda: place()["machine"] == before, 30)
    look_at(desk, "2 Cable saddle, plate 1")
    button(desk, "Unpin it").click()
    wait(desk, lambda d: not d.find_elements(By.CSS_SELECTOR, "[data-testid=pinned]"))


def test_a_plate_fails_and_is_planned_anew(desk, client, farm):
    look_at(desk, "2 Cable saddle, plate 1")
    button(desk, "Start now").click()
    wait(desk, lambda d: runs(d, "heating") or runs(d, "printing"))
    key = next(r for r in client.get("week")["runs"] if r["print"])["machine"]
    wait(desk, lambda d: runs(d, "printing"))
    farm.happen(key, "detached")
    wait(desk, lambda d: runs(d, "failed"))
    assert "come off the plate" in text(desk, "farm-log")
    again = [r for r in client.get("week")["runs"] if r["number"] == 0 and r["print"] is None]
    assert len(again) == 1, "its parts are still wanted"
    look_at(desk, "2 Cable saddle, plate 1 of 3, failed")
    button(desk, "It is cleared away").click()
    wait(desk, lambda d: not runs(d, "failed"))


def test_the_traveller_is_ticked_on_a_phone_without_a_connection(address, desk, order, client, farm):
    with line_to(address) as (line, near), signed_in(near, NAME, PASSWORD) as page:
        wide(page, 390, 844, phone=True)
        page.get(f"{near}plates/{order['id']}/1")
        see(page, "[data-testid=traveller]")
        wait(page, lambda d: d.execute_async_script(KEPT))
        there = page.execute_script("return [document.documentElement.scrollWidth, window.innerWidth]")
        assert there == [390, 390], "nothing stands out to the side"
        tick = lambda key: see(page, f"button[data-step={key}]")
        assert all(tick(k).size["height"] >= 56 for k in ("load", "clean", "start"))
        tick("load").click()
        wait(page, lambda d: "Marrow" in tick("load").text)
        line.cut()
        tick("clean").click()
        tick("file").click()
        wait(page, lambda d: "2 ticks are kept here" in text(d, "kept"))
        assert tick("clean").get_attribute("aria-checked") == "true" and "not sent yet" in tick("clean").text
        sent = lambda: [s["key"] for s in client.get(f"floor/plates/{order['id']}/1")["steps"] if s["ticked"]]
        assert sent() == ["load"]
        page.refresh()
        wait(page, lambda d: "No connection: this is how it stood at" in text(d, "kept"))
        assert tick("file").get_attribute("aria-checked") == "true", "opened anew, it knows what waits to be sent"
        line.mend()
        until(lambda: sent() == ["load", "clean", "file"], 30)
        wait(page, lambda d: not d.find_elements(By.CSS_SELECTOR, "[data-testid=kept]"))
        lost = ("ERR_CONNECTION", "ERR_EMPTY_RESPONSE", "ERR_SOCKET")
        assert all(any(word in told for word in lost) for told in errors(page)), "the lost connection and nothing else"
        button(page, "Start").click()
        see(page, "[data-testid=printing]")
        wait(page, lambda d: text(d, "printing").startswith("finished"), 120)
        field = see(page, "[data-testid=printing] input")
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys("1")
        button(page, "1 good, taken off").click()
        wait(page, lambda d: "1 good" in text(d, "traveller") and "1 bad" in text(d, "traveller"))
    wait(desk, lambda d: "taken off: 1 good, 1 bad" in text(d, "farm-log"))
    assert "1 good" in text(desk, "orders")
    held = lambda: [m for m in farm.machines().values() if m["phase"] != "idle"]
    until(lambda: not held(), 30)


def test_a_fault_is_recorded_with_what_was_seen(address, desk, order, client, tmp_path):
    with signed_in(address, NAME, PASSWORD) as page:
        page.get(f"{address}plates/{order['id']}/2")
        button(page, "Start").click()
        wait(page, lambda d: "printing" in text(d, "printing") or "heating" in text(d, "printing"))
        button(page, "Something went wrong").click()
        form = see(page, "[data-testid=fault]")
        form.find_element(By.TAG_NAME, "textarea").send_keys("a corner lifted")
        desk.save_screenshot(str(tmp_path / "corner.png"))
        form.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys(str(tmp_path / "corner.png"))
        form.find_element(By.TAG_NAME, "button").click()
        wait(page, lambda d: "a corner lifted" in text(d, "printing"))
        picture = see(page, "img[alt='Photo of the fault']")
        wait(page, lambda d: d.execute_script("return arguments[0].naturalWidth", picture) > 0)
        can = "//button[text()='It is cleared away'][not(@disabled)]"
        wait(page, lambda d: d.find_elements(By.XPATH, can))[0].click()
        see(page, "[data-testid=traveller] select")
    until(lambda: not [r for r in client.get("week")["runs"] if r["print"]], 30)


def test_an_order_that_is_withdrawn_leaves_no_plate(desk):
    button(desk, "withdraw").click()
    wait(desk, lambda d: "Nothing is ordered" in text(d, "week-words"))
