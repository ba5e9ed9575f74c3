"""The boom post fails across its layers; bolts that clamp them make it hold. A place that does not fit is refused in
words; what fits is taken as a revision, its pause booked.
"""

import pytest
from browser import open_part, see, signed_in, until, wait
from conftest import NAME, PASSWORD
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select
from test_desk import press

from house.client import Client

PART = "Boom post"


@pytest.fixture(scope="module")
def client(address):
    return Client(address, NAME, PASSWORD)


@pytest.fixture(scope="module")
def post(client):
    return next(p["id"] for p in client.get("parts") if p["name"] == PART)


@pytest.fixture(scope="module")
def desk(address, post):
    with signed_in(address, NAME, PASSWORD) as page:
        open_part(page, PART)
        see(page, "canvas")
        press(page, "j")
        see(page, "[data-hardware='bolt 4']")
        yield page


def button(page, words: str):
    return wait(page, lambda d: d.find_elements(By.XPATH, f"//button[text()='{words}']"))[0]


def row(page, name: str):
    return see(page, f"[data-hardware='{name}']")


def opened(page, name: str) -> None:
    press_ = see(page, f"[data-hardware='{name}'] > button")
    if press_.get_attribute("aria-expanded") != "true":
        press_.click()
    wait(page, lambda d: row(d, name).find_elements(By.CSS_SELECTOR, "[data-testid=hardware-fields]"))


def typed(page, name: str, label: str, value: str) -> None:
    """Types over a field of a row and waits until it is written."""
    field = see(page, f"[aria-label='{name}: {label}']")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys(value, Keys.ENTER)


def reserves(page) -> list[float]:
    """Without steel and with bolts."""
    cells = wait(page, lambda d: d.find_elements(By.CSS_SELECTOR, "[data-testid=clamped] tbody tr:first-child td"))
    return [float(c.text.split()[0]) for c in cells[1:3]]


def work_out(page, client, post, verb: str) -> dict:
    button(page, verb).click()
    done = lambda: (a := client.get(f"hardware/of/{post}")["analysis"]) and a["work"]["state"] == "done" and a
    return until(lambda: (a := done()) and not a["stale_because"] and a, 300)


def test_bolts_make_it_hold_and_say_where_it_would_fail_next(desk, client, post):
    see(desk, "[data-testid=add-hardware]")
    work_out(desk, client, post, "Work out hardware")
    wait(desk, lambda d: d.find_elements(By.CSS_SELECTOR, "[data-testid=clamped]"), 60)
    without, bolted = reserves(desk)
    assert without < 1 < bolted
    assert "fits" in row(desk, "bolt 1").text and "N·m" in row(desk, "bolt 1").text
    table = see(desk, "[data-testid=clamped]").text
    assert "between layers" in table and "the preload alone" in table
    button(desk, "each bolt").click()
    assert len(see(desk, "[data-testid=bolts]").find_elements(By.CSS_SELECTOR, "tbody tr")) == 4
    button(desk, "other sizes").click()
    wait(desk, lambda d: "they hold from" in see(d, "[data-testid=least-torque]").text)
    assert "hold it: reserve" in see(desk, "[data-testid=holds]").text
    button(desk, "from the shelf").click()
    assert "socket head screw" in see(desk, "[data-testid=shelf]").text
    button(desk, "reserve").click()


def test_another_torque_is_read_at_once(desk, client, post):
    before = client.get(f"hardware/of/{post}")["analysis"]
    opened(desk, "bolt 2")
    _, high = reserves(desk)
    typed(desk, "bolt 2", "torque", "0.01 N·m")
    wait(desk, lambda d: reserves(d)[1] < high)
    assert "0.01 N·m" in row(desk, "bolt 2").text
    button(desk, "each bolt").click()
    assert "loose" in see(desk, "[data-testid=bolts]").text, "what settles and creeps is more than so little torque"
    button(desk, "reserve").click()
    assert client.get(f"hardware/of/{post}")["analysis"]["id"] == before["id"], "nothing is solved again"
    typed(desk, "bolt 2", "torque", Keys.BACKSPACE)
    wait(desk, lambda d: reserves(d)[1] == high)


def test_what_holds_is_put_into_the_job_and_taken_back(desk, client, post):
    button(desk, "other sizes").click()
    holds = wait(desk, lambda d: d.find_elements(By.CSS_SELECTOR, "[data-testid=holds]"), 60)[0]
    said = holds.text
    before = client.get(f"parts/{post}")["job"]["hardware"]["rows"]
    holds.find_element(By.TAG_NAME, "button").click()
    bolts = until(lambda: (r := client.get(f"parts/{post}")["job"]["hardware"]["rows"]) != before and r)
    assert said.startswith(f"{len(bolts)} bolt") and {b["size"] for b in bolts} == {said.split(" at ")[0].split()[-1]}
    (torque,) = {b["torque"]["n"] / 1000 for b in bolts}
    assert f"{torque:.{2 if torque < 1 else 1}f} N·m" in said
    work_out(desk, client, post, "Work out hardware again")
    least = client.get(f"hardware/of/{post}")["analysis"]["told"]["cases"][0]["clamped"]
    assert least > 0.9, "solved with its own holes and seats it holds, or nearly"
    desk.find_element(By.TAG_NAME, "body").send_keys(Keys.CONTROL, "z")
    until(lambda: client.get(f"parts/{post}")["job"]["hardware"]["rows"] == before)
    until(lambda: not client.get(f"hardware/of/{post}")["analysis"]["stale_because"])
    wait(desk, lambda d: d.find_elements(By.CSS_SELECTOR, "[data-testid=holds]"), 60)
    button(desk, "reserve").click()


def test_a_place_is_pointed_at_and_one_that_does_not_fit_is_refused(desk, client, post):
    Select(see(desk, "[aria-label='Kind of hardware']")).select_by_visible_text("insert, set with heat")
    button(desk, "Point at its place").click()
    canvas = see(desk, "canvas")
    wide, high = canvas.size["width"], canvas.size["height"]
    ActionChains(desk).move_to_element_with_offset(canvas, 0, round(0.1 * high)).pause(0.3).click().perform()
    assert wide > 400
    wait(desk, lambda d: d.find_elements(By.CSS_SELECTOR, "[data-hardware='insert 1']"))
    placed = next(r for r in client.get(f"parts/{post}")["job"]["hardware"]["rows"] if r["name"] == "insert 1")
    assert sum(v * v for v in placed["axis"]) == pytest.approx(1) and placed["size"] == "M4"
    see(desk, "[data-hardware='insert 1'] [data-testid=hardware-fields]")
    typed(desk, "insert 1", "goes in at, mm", "90, 0, 40")
    wait(desk, lambda d: "hardware" in d.find_element(By.TAG_NAME, "body").text)
    until(lambda: client.get(f"hardware/of/{post}")["analysis"]["stale_because"] == ["hardware"])
    work_out(desk, client, post, "Work out hardware again")
    wait(desk, lambda d: "no material along its axis" in row(d, "insert 1").text, 60)
    assert not see(desk, "[data-testid=take-hardware] button").is_enabled()
    opened(desk, "insert 1")
    next(b for b in row(desk, "insert 1").find_elements(By.TAG_NAME, "button") if b.text == "Take out").click()
    wait(desk, lambda d: not d.find_elements(By.CSS_SELECTOR, "[data-hardware='insert 1']"))


def test_a_closed_pocket_books_its_pause_in_the_revision(desk, client, post):
    opened(desk, "bolt 1")
    fields = see(desk, "[data-hardware='bolt 1'] [data-testid=hardware-fields]")
    pocket = next(s for s in fields.find_elements(By.TAG_NAME, "select") if "closed pocket" in s.text)
    Select(pocket).select_by_visible_text("closed pocket, at a pause")
    typed(desk, "bolt 1", "material over it", "4 mm")
    until(lambda: client.get(f"parts/{post}")["job"]["hardware"]["rows"][0]["cover"] is not None)
    until(lambda: client.get(f"hardware/of/{post}")["analysis"]["stale_because"] == ["hardware"])
    analysis = work_out(desk, client, post, "Work out hardware again")
    assert [r["why"] for r in analysis["rows"]] == [None] * 4
    wait(desk, lambda d: "Pause at" in row(d, "bolt 1").text, 60)
    button(desk, "Take as a revision, 4 cut").click()
    wait(desk, lambda d: post not in d.current_url and "/hardware" in d.current_url, 120)
    wait(desk, lambda d: "cut" in row(d, "bolt 1").text)
    revised = desk.current_url.split("/parts/")[1].split("/")[0]
    rows = client.get(f"parts/{revised}")["job"]["hardware"]["rows"]
    pauses = [r["cut"]["where"].get("pause_mm") for r in rows]
    assert pauses[0] == pytest.approx(7.0) and pauses[1:] == [None] * 3
