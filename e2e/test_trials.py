"""What the farm learns of itself: readings of a coupon become a number, the number moves a job; a bar is pulled while
its curve is drawn; a broken part is written down where it broke, and what was learned is found again.
"""

import pytest
from browser import errors, frames, open_part, see, signed_in, until, wait
from conftest import NAME, PASSWORD
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from test_desk import press
from test_requirements import choose

from house.client import Client

POST = "Boom post"


@pytest.fixture(scope="module")
def client(address):
    return Client(address, NAME, PASSWORD)


@pytest.fixture(scope="module")
def post(client):
    return next(p["id"] for p in client.get("parts") if p["name"] == POST)


@pytest.fixture(scope="module")
def desk(address):
    with signed_in(address, NAME, PASSWORD) as page:
        yield page


def button(page, words: str):
    return wait(page, lambda d: d.find_elements(By.XPATH, f"//button[text()='{words}']"))[0]


def field(page, within: str, label: str):
    return see(page, within).find_element(By.XPATH, f".//label[text()='{label}']/following-sibling::*")


def strength_of(client, part: str) -> dict:
    return next(s for s in client.get(f"stages/{part}") if s["key"] == "strength")


def reserve(client, part: str) -> float | None:
    """What the rail says of it; None while it says none."""
    words = strength_of(client, part)["line"].replace(",", " ").split()
    return next((float(w) for w in words if w[0].isdigit()), None)


def test_what_is_missing_leads_to_a_sheet_and_readings_to_a_number(desk, address):
    desk.get(f"{address}coupons")
    see(desk, "[data-testid=coverage]")
    for label, words in (("New sheet of", "tensile bar, upright"), ("machine", "Weir 220"), ("material", "PETG"),
                         ("process", "starting values")):  # fmt: skip
        choose(field(desk, "nav", label), words)
    button(desk, "Begin").click()
    see(desk, "[data-testid=readings]")
    assert "Nothing yet" in see(desk, "[data-testid=numbers]").text
    see(desk, "[aria-label='Paste readings']").send_keys("8.0;6.0;1500\n8.0;6.0;1460\n8.0;6.0;1550\n8,02;6.0;1490")
    button(desk, "Add 4").click()
    wait(desk, lambda d: "31." in see(d, "[data-found=z_t]").text)
    assert "1 of 2 plates" in see(desk, "[data-testid=numbers]").text
    assert len(desk.find_elements(By.CSS_SELECTOR, "[data-point][data-counts=true]")) == 4


def test_a_bar_is_pulled_while_its_curve_is_drawn(desk):
    button(desk, "Pull a steel bar").click()
    wait(desk, lambda d: d.find_elements(By.CSS_SELECTOR, "[data-testid=curve] path"), 60)
    wait(desk, lambda d: "The stand gives" in see(d, "[data-testid=curve-read]").text, 60)
    button(desk, "Use it for this sheet").click()
    wait(desk, lambda d: "mm/N" in see(d, "[data-testid=stand] h3").text)
    field(desk, "[data-testid=stand]", "plate").send_keys(Keys.CONTROL, "a")
    field(desk, "[data-testid=stand]", "plate").send_keys("2")
    button(desk, "Pull the bar").click()
    wait(desk, lambda d: "Broke at" in see(d, "[data-testid=curve-read]").text, 60)
    button(desk, "Put it among the readings").click()
    wait(desk, lambda d: len(d.find_elements(By.CSS_SELECTOR, "[data-reading]")) == 5)
    wait(desk, lambda d: "2 plates" in see(d, "[data-found=z_t]").text)
    assert "stiffness across the layers" in see(desk, "[data-testid=numbers]").text


def test_a_number_that_is_taken_moves_the_job(desk, address, client, post):
    was = reserve(client, post)
    assert was < 1
    button(desk, "Take into the record").click()
    wait(desk, lambda d: "Taken." in see(d, "[data-testid=numbers]").text)
    until(lambda: strength_of(client, post)["state"] == "stale", 30)
    desk.get(f"{address}parts/{post}/strength")
    button(desk, "Check in full again").click()
    until(lambda: reserve(client, post), 180)
    assert reserve(client, post) > was
    desk.get(f"{address}coupons")
    wait(desk, lambda d: "coupon" in d.find_element(By.CSS_SELECTOR, "[data-number=z_t]").text)


def test_a_trial_is_written_down_where_it_broke(desk, address, client, post):
    desk.get(address)
    open_part(desk, POST)
    see(desk, "canvas")
    press(desk, "c")
    wait(desk, lambda d: d.current_url.endswith("/trials"))
    predicted = see(desk, "[data-testid=predicts]").text
    assert "layers" in predicted and "×" in predicted
    count = len(client.get(f"trials/of/{post}")["trials"])
    field(desk, "[data-testid=new-trial]", "load at the break").send_keys("0.9 kN")
    choose(field(desk, "[data-testid=new-trial]", "verdict"), "failed")
    see(desk, "[data-testid=new-trial] textarea").send_keys("A dowel through the foot would have carried it.")
    button(desk, "Point at the break").click()
    wait(desk, lambda d: d.find_elements(By.XPATH, "//p[@role='status'][starts-with(text(), 'Point at the place')]"))
    canvas = see(desk, "canvas")
    frames(desk)
    ActionChains(desk).move_to_element(canvas).pause(0.3).click().perform()
    wait(desk, lambda d: " mm" in see(d, "[data-testid=new-trial]").text.split("Point at the break")[1])
    button(desk, "Save the trial").click()
    until(lambda: len(client.get(f"trials/of/{post}")["trials"]) == count + 1, 30)
    written = client.get(f"trials/of/{post}")["trials"][-1]
    assert written["load"]["n"] == 900 and written["layer"] is not None and written["ratio"] is not None
    wait(desk, lambda d: "measured over predicted" in see(d, f"[data-trial='{written['id']}']").text)
    wait(desk, lambda d: "broke at layer" in see(d, "[data-testid=beside]").text)


def test_a_load_that_is_none_is_refused_and_what_was_typed_stays(desk, client, post):
    count = len(client.get(f"trials/of/{post}")["trials"])
    field(desk, "[data-testid=new-trial]", "load at the break").send_keys("heavy")
    button(desk, "Save the trial").click()
    wait(desk, lambda d: d.find_elements(By.CSS_SELECTOR, "[role=alert]"))
    assert field(desk, "[data-testid=new-trial]", "load at the break").get_attribute("value") == "heavy"
    assert len(client.get(f"trials/of/{post}")["trials"]) == count
    assert len(errors(desk)) == 1, "the refusal, and nothing else"


def test_what_was_learned_is_found_and_a_correction_is_looked_at_before_it_is_taken(desk, address, client):
    desk.get(f"{address}trials")
    see(desk, "[data-testid=diagonal]")
    see(desk, "input").send_keys("dowels")
    wait(desk, lambda d: [a.text for a in d.find_elements(By.CSS_SELECTOR, "[data-lesson] a")] == [POST])
    button(desk, "What it would do").click()
    wait(desk, lambda d: POST in see(d, "[data-testid=effect]").text)
    see(desk, "[data-testid=effect] input").send_keys("four plates, one way of breaking")
    see(desk, "[data-testid=effect] button[type=submit]").click()
    until(lambda: any(c["held"] for c in client.get("trials")["corrections"]), 30)
    assert errors(desk) == []
