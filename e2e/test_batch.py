"""From a direction that holds to a batch that holds: the curve is read, a copy moved, the order played."""

import re

import pytest
from browser import open_part, see, signed_in, tab, until, wait
from conftest import NAME, PASSWORD
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from test_desk import press

from house.client import Client


@pytest.fixture(scope="module")
def clevis(address):
    """The stay clevis of the demo, standing on its foot, its strength checked."""
    client = Client(address, NAME, PASSWORD)
    part = next(p for p in client.get("parts") if p["name"] == "Stay clevis")
    part = client.get(f"parts/{part['id']}")
    study = until(lambda: (s := client.get(f"studies/{part['study']}"))["work"]["state"] == "done" and s)
    up = next(c["up"] for c in study["candidates"] if c["up"][2] > 0.999)
    given = {"base": part["version"], "up": up, "reason": "the foot lies flat"}
    client.send(f"studies/{part['study']}/choice", given)
    client.send(f"strength/of/{part['id']}", {"ups": [up]})
    known = lambda: client.get(f"strength/of/{part['id']}")["check"]
    until(lambda: (c := known()) and c["level"] == "full" and all(d["own_layers"] for d in c["directions"]))
    until(lambda: client.get("work") == [])
    return part["id"]


@pytest.fixture(scope="module")
def batch(address, clevis):
    """Its batch, the plate filled to the last copy."""
    with signed_in(address, NAME, PASSWORD) as page:
        open_part(page, "Stay clevis")
        see(page, "nav")
        press(page, "b")
        wait(page, lambda d: d.find_elements(By.XPATH, "//button[text()='Fill the plate']"))[0].click()
        see(page, "[data-testid=batch-figures]", 60)
        wait(page, lambda d: not d.find_elements(By.CSS_SELECTOR, "section [role=status] svg"), 60)
        yield page


def text(page, name: str) -> str:
    return see(page, f"[data-testid={name}]").text


def number(page, name: str, place: int = 0) -> float:
    return float(re.findall(r"\d+(?:\.\d+)?", text(page, name))[place])


def copies(page, count: int) -> None:
    """Looks at so many copies, and waits until their figures are there."""
    field = see(page, "[aria-label='Copies on the plate']")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys(str(count))
    shown(page, count)


def shown(page, count: int) -> None:
    words = "One at a time" if count == 1 else f"{count} "
    said = lambda d: d.find_element(By.CSS_SELECTOR, "[data-testid=batch-words] p").text.removeprefix("Fails: ")
    wait(page, lambda d: said(d).lower().startswith(words.lower()))
    wait(page, lambda d: len(d.find_elements(By.CSS_SELECTOR, "[data-testid=copy]")) == count)


def test_the_best_batch_stands_first_with_its_sentence(batch):
    words = text(batch, "batch-words")
    assert "reserve" in words and "good parts a day" in words and "The best that holds" in words
    assert number(batch, "batch-reserve") >= number(batch, "batch-reserve", 1) >= 1
    assert float(text(batch, "cost-lines").split()[-1]) == number(batch, "batch-cost")
    assert "400 good parts ask for 413 copies" in text(batch, "order")
    assert "It stands" in text(batch, "holds-plate")


def test_every_neighbour_takes_from_the_reserve(batch):
    tab(batch, "all together")
    most = int(see(batch, "[data-testid=batch-curve]").get_attribute("aria-valuemax"))
    assert most >= 40
    copies(batch, 1)
    alone = number(batch, "batch-reserve")
    copies(batch, most)
    assert number(batch, "batch-reserve") < 0.9 * alone and number(batch, "batch-reserve", 1) < 0.7 * alone
    if number(batch, "batch-reserve", 1) < 1:
        assert text(batch, "batch-words").startswith("Fails") and see(batch, "[data-testid=falls-short]")
    curve = see(batch, "[data-testid=batch-curve]")
    curve.send_keys(Keys.HOME)
    shown(batch, 1)
    curve.send_keys(Keys.ARROW_RIGHT)
    shown(batch, 2)


def test_in_turn_the_weld_is_kept_and_the_order_is_played(batch):
    tab(batch, "one after another")
    most = int(see(batch, "[data-testid=batch-curve]").get_attribute("aria-valuemax"))
    copies(batch, 1)
    alone = text(batch, "batch-reserve")
    copies(batch, most)
    assert text(batch, "batch-reserve") == alone, "each copy waits for itself alone"
    batch.find_element(By.XPATH, "//button[text()='Play the order']").click()
    wait(batch, lambda d: re.match(r"printing ([2-9]|1\d) of", text(d, "playing")))  # whichever is looked at in time
    assert see(batch, "[data-testid=head-reach]")
    batch.find_element(By.XPATH, "//button[text()='Halt']").click()
    slider = see(batch, "[aria-label='Copies finished']")
    slider.send_keys(Keys.END)
    wait(batch, lambda d: text(d, "playing") == "all finished")


def test_a_copy_is_dragged_and_what_would_be_too_near_is_refused_with_the_distance(batch):
    tab(batch, "all together")
    copies(batch, 2)
    places = lambda: [e.get_attribute("aria-label") for e in batch.find_elements(By.CSS_SELECTOR, "[data-testid=copy]")]
    before = places()
    first, second = batch.find_elements(By.CSS_SELECTOR, "[data-testid=copy]")
    ActionChains(batch).drag_and_drop(second, first).perform()
    said = text(batch, "misplaced")
    assert "Copies 1 and 2 are" in said and "too near each other. It was put back." in said
    assert "mm short" in text(batch, "too-near") and places() == before
    ActionChains(batch).drag_and_drop_by_offset(second, 60, 0).perform()
    wait(batch, lambda d: not d.find_elements(By.CSS_SELECTOR, "[data-testid=misplaced]"))
    assert places()[0] == before[0] and places()[1] != before[1]
    by_key = places()[1]
    batch.find_elements(By.CSS_SELECTOR, "[data-testid=copy]")[1].send_keys(".")
    wait(batch, lambda d: places()[1] != by_key and "turned 345°" in places()[1])


def test_what_is_chosen_counts_in_the_strength_stage(batch):
    reason = batch.find_element(By.XPATH, "//label[starts-with(., 'Why 2')]")
    assert "with the copies where they were put" in reason.text
    batch.find_element(By.ID, reason.get_attribute("for")).send_keys("two to begin with")
    batch.find_element(By.XPATH, "//button[text()='Use this batch']").click()
    assert "2 all together" in text(batch, "chosen-batch") and "two to begin with" in text(batch, "chosen-batch")
    wait(batch, lambda d: "2 together" in d.find_element(By.TAG_NAME, "nav").text)
    turned = [e.get_attribute("aria-label") for e in batch.find_elements(By.CSS_SELECTOR, "[data-testid=copy]")]
    assert "turned 345°" in turned[1], "the copies stand where they were put"
    expected = number(batch, "batch-reserve")
    press(batch, "s")
    wait(batch, lambda d: re.search(rf"reserve {expected:.2f}", text(d, "verdict")))
    log = see(batch, "[data-testid=layer-log]")
    log.send_keys(Keys.HOME)
    assert "weld of 2 together 1.00" in text(batch, "layer-weld")
    press(batch, "b")
    batch.find_element(By.XPATH, "//button[text()='put it back']").click()
    wait(batch, lambda d: not d.find_elements(By.CSS_SELECTOR, "[data-testid=chosen-batch]"))


def test_moulding_is_cheaper_from_a_number_on(batch):
    tab(batch, "make or mould")
    rows = lambda: text(batch, "other-ways").replace("\n", " ")
    wait(batch, lambda d: re.search(r"moulded in acetal .* cheaper from \d+ on", rows()))
    assert re.search(r"bought in steel .* never cheaper", rows())
    fields = {name: batch.find_element(By.XPATH, f"//label[text()='{name}']") for name in ("Way", "A piece")}
    for name, value in (("Way", "sent out"), ("A piece", "0.9")):
        batch.find_element(By.ID, fields[name].get_attribute("for")).send_keys(value)
    batch.find_element(By.XPATH, "//button[text()='Add']").click()
    wait(batch, lambda d: re.search(r"sent out .* cheaper from 0 on", rows()))


def test_a_pause_is_written_and_told(batch):
    tab(batch, "batch curve")
    see(batch, "[data-testid=plate-settings]").click()
    batch.find_element(By.XPATH, "//button[text()='add a pause']").click()
    field = batch.find_element(By.XPATH, "//label[text()='Pause at']")
    batch.find_element(By.ID, field.get_attribute("for")).send_keys("12 mm")
    batch.find_element(By.XPATH, "//button[text()='Save']").click()
    wait(batch, lambda d: d.find_elements(By.XPATH, "//ul[@aria-label='Pauses'][contains(., 'Pause at 12.0 mm')]"))


def prepared_file(folder, pitch: float):
    """Frames of 30 × 20 mm as another program would prepare them, layers ``pitch`` mm."""
    rows = ["G21", "G90", "M83", "G28"]
    for k in range(round(27 / pitch)):
        rows.append(f"G0 Z{(k + 1) * pitch:.3f} F600")
        for n in range(2):
            x, y = 60 + 50 * n, 80
            rows.append(f"G0 X{x} Y{y} F9000")
            rows += [f"G1 X{x + a} Y{y + b} E1.0 F3000" for a, b in ((30, 0), (30, 20), (0, 20), (0, 0))]
    file = folder / "plate.gcode"
    file.write_text("\n".join(rows))
    return file


def test_a_prepared_file_is_read_and_its_difference_found(batch, tmp_path):
    copies(batch, 2)
    tab(batch, "prepared file")
    see(batch, "input[aria-label='Prepared file']").send_keys(str(prepared_file(tmp_path, 0.3)))
    batch.find_element(By.XPATH, "//button[text()='Read it']").click()
    told = wait(batch, lambda d: d.find_elements(By.CSS_SELECTOR, "[data-testid=differences] li"), 60)
    words = told[0].find_element(By.TAG_NAME, "span")
    assert words.text.startswith("Fails") and "text-crown" in words.get_attribute("class")
    assert "Fails: its layers are 0.30 mm; 0.2 mm were calculated with" in text(batch, "differences")
    assert see(batch, "[data-testid=prepared-lines]").get_attribute("d").count("M") > 4
    assert "With its own layer times the reserve is" in text(batch, "prepared-reserve")
    layers = lambda: see(batch, "[data-difference=layer]")
    layers().find_element(By.TAG_NAME, "input").send_keys("the farm's coarse trial")
    layers().find_element(By.XPATH, ".//button[text()='Accept']").click()
    wait(batch, lambda d: "Accepted by Ines Marrow" in layers().text and "coarse trial" in layers().text)
    layers().find_element(By.XPATH, ".//button[text()='Reopen it']").click()
    wait(batch, lambda d: layers().find_elements(By.TAG_NAME, "input"))


def test_what_is_no_prepared_file_is_refused_in_words(batch, tmp_path):
    file = tmp_path / "drawing.gcode"
    file.write_bytes(b"\x89PNG\r\n\x1a\n" + bytes(range(256)) * 40)
    see(batch, "input[aria-label='Prepared file']").send_keys(str(file))
    batch.find_element(By.XPATH, "//button[text()='Read it']").click()
    refused = wait(batch, lambda d: d.find_elements(By.CSS_SELECTOR, "[data-testid=prepared] [role=alert]"), 60)[0]
    assert len(refused.text.splitlines()) >= 2, "what is wrong, and what to do"


def labelled(page, words: str):
    """The last field of that label."""
    label = wait(page, lambda d: d.find_elements(By.XPATH, f"//form//label[normalize-space(text())='{words}']"))[-1]
    return page.find_element(By.ID, label.get_attribute("for"))


def retype(field, words: str) -> None:
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys(words)


def filled_anew(page) -> None:
    """Saves what was written of the plate and fills it by it."""
    page.find_element(By.XPATH, "//form//button[text()='Save']").click()
    again = "//button[text()='Fill the plate again']"
    wait(page, lambda d: d.find_elements(By.XPATH, again))[0].click()
    wait(page, lambda d: not d.find_elements(By.XPATH, again))
    wait(page, lambda d: not d.find_elements(By.CSS_SELECTOR, "section [role=status] svg"), 60)


def test_a_place_kept_free_takes_copies_off_the_plate(batch):
    tab(batch, "batch curve")
    tab(batch, "all together")
    most = lambda: int(see(batch, "[data-testid=batch-curve]").get_attribute("aria-valuemax"))
    before = most()
    see(batch, "[data-testid=plate-settings]").click()
    batch.find_element(By.XPATH, "//button[starts-with(text(), 'keep a place')]").click()
    retype(labelled(batch, "wide"), "120")
    retype(labelled(batch, "deep"), "120")
    filled_anew(batch)
    assert most() < before
    assert see(batch, "[data-testid=kept-free]")


def test_another_part_on_the_plate_lengthens_the_wait(batch, address, clevis):
    client = Client(address, NAME, PASSWORD)
    part = next(p for p in client.get("parts") if p["name"] == "Pivot bushing")
    part = client.get(f"parts/{part['id']}")
    study = until(lambda: (s := client.get(f"studies/{part['study']}"))["work"]["state"] == "done" and s)
    best = study["candidates"][0]["up"]
    client.send(f"studies/{part['study']}/choice", {"base": part["version"], "up": best, "reason": "as it was made"})
    client.send(f"batch/of/{part['id']}", {})
    until(lambda: (b := client.get(f"batch/of/{part['id']}")["analysis"]) and b["done"])

    see(batch, "[data-testid=plate-settings]").click()
    batch.find_element(By.XPATH, "//button[text()='put another part on the plate']").click()
    labelled(batch, "Other part on the plate").send_keys("Pivot bushing")
    retype(labelled(batch, "Copies"), "3")
    filled_anew(batch)
    tab(batch, "with others")
    assert "Pivot bushing: 3" in text(batch, "mixed")
    assert len(batch.find_elements(By.CSS_SELECTOR, "[data-testid=guest]")) == 3
