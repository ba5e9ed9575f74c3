"""From a part that hangs to one that needs no support: remedies worked out, seen, taken as a revision."""

import pytest
from browser import read, see, signed_in, still, tab, wait
from conftest import NAME, PASSWORD
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from test_choose_a_direction import bring_in
from test_desk import press

from demo.river_station import demo_files


@pytest.fixture(scope="module")
def adapted(address, tmp_path_factory):
    """A fork of its own, its remedies worked out in the direction of its first candidate."""
    file = tmp_path_factory.mktemp("parts") / "fork.3mf"
    file.write_bytes(next(f.data for f in demo_files() if f.name == "Sheave fork"))
    with signed_in(address, NAME, PASSWORD) as page:
        bring_in(page, file, "Fork to adapt")
        press(page, "v")
        see(page, "[data-testid=layer-log]", 120)
        press(page, "e")
        worked_out(page, "Calculate remedies")
        yield page


def worked_out(page, words):
    wait(page, lambda d: d.find_elements(By.XPATH, f"//button[text()='{words}']"))[0].click()
    done(page)


def done(page):
    see(page, "[data-testid=before-after]", 120)
    busy = "[data-testid=remedies] [role=status]"
    wait(page, lambda d: not d.find_elements(By.CSS_SELECTOR, busy), 120)


def retype(field, text):
    field.send_keys(Keys.CONTROL + "a")
    field.send_keys(text + Keys.ENTER)


def figures(page, row):
    """Before and after of a row of the comparison."""
    found = page.find_element(By.XPATH, f"//*[@data-testid='before-after']//tr[normalize-space(td[1])='{row}']")
    return [
        float(c.text.replace("\u2009", "").replace("\u202f", "")) for c in found.find_elements(By.TAG_NAME, "td")[1:3]
    ]


def canvas(page):
    return still(page, page.find_element(By.CSS_SELECTOR, "[aria-label*='standing with'] canvas"))


def test_nothing_wants_support_afterwards(adapted):
    before, after = figures(adapted, "regions that need support")
    assert before >= 2 and after == 0
    keys = {s.get_attribute("data-step") for s in adapted.find_elements(By.CSS_SELECTOR, "[data-step]")}
    assert {"pillar", "round_chamfer"} <= keys, "and no teardrop for a bore that prints, no gusset in the fork"
    assert not {"teardrop", "gusset"} & keys
    assert not adapted.find_elements(By.CSS_SELECTOR, "[data-testid=left]")


def test_before_and_after_are_seen_on_the_part_and_in_the_log(adapted):
    later = canvas(adapted)
    assert see(adapted, "[aria-label^='Layer log after the remedies']")
    press(adapted, "x")
    wait(adapted, lambda d: d.find_elements(By.CSS_SELECTOR, "[aria-label='Layer log, from the plate upward']"))
    earlier = canvas(adapted)
    assert earlier != later
    press(adapted, "x")
    wait(adapted, lambda d: d.find_elements(By.CSS_SELECTOR, "[aria-label^='Layer log after']"))
    adapted.find_element(By.CSS_SELECTOR, "[data-step=pillar] button").click()
    assert "pillar" in see(adapted, "[data-step=pillar] p").text


def test_a_step_switched_off_leaves_its_finding(adapted):
    count = len(adapted.find_elements(By.CSS_SELECTOR, "[data-step]"))
    adapted.find_element(By.CSS_SELECTOR, "[data-step=pillar] input").click()
    adapted.find_element(By.XPATH, "//button[text()='Calculate with these']").click()
    wait(adapted, lambda d: d.find_elements(By.CSS_SELECTOR, "[data-step=pillar][data-on=false]"), 60)
    done(adapted)
    wait(adapted, lambda d: figures(d, "regions that need support")[1] == 1, 60)
    assert see(adapted, "[data-testid=left]").text.startswith("Left: mid-air start")
    assert len(adapted.find_elements(By.CSS_SELECTOR, "[data-step]")) == count
    adapted.find_element(By.CSS_SELECTOR, "[data-step=pillar] input").click()
    adapted.find_element(By.XPATH, "//button[text()='Calculate with these']").click()
    wait(adapted, lambda d: d.find_elements(By.CSS_SELECTOR, "[data-step=pillar][data-on=true]"), 60)
    done(adapted)
    wait(adapted, lambda d: figures(d, "regions that need support")[1] == 0, 60)


def test_a_number_set_by_hand_is_seen_then_worked_out(adapted):
    row = "[data-step=round_chamfer]"
    if not adapted.find_elements(By.CSS_SELECTOR, f"{row} [data-testid=numbers]"):
        adapted.find_element(By.CSS_SELECTOR, f"{row} button").click()
    lean = see(adapted, f"{row} input[aria-label='lean from the vertical']")
    retype(lean, "60")
    wait(adapted, lambda d: "not between 5 and 45" in see(d, f"{row} [data-testid=look]").text)
    plain = canvas(adapted)
    retype(lean, "35")
    wait(adapted, lambda d: "35° from the vertical" in see(d, f"{row} [data-testid=look]").text)
    assert "not proved yet" in see(adapted, f"{row} [data-testid=look]").text
    assert canvas(adapted) != plain, "what would be taken away is drawn through the part"
    adapted.find_element(By.XPATH, "//button[text()='Calculate with these']").click()
    wait(adapted, lambda d: not d.find_elements(By.CSS_SELECTOR, "[data-testid=look]"))
    done(adapted)
    if not adapted.find_elements(By.CSS_SELECTOR, f"{row} [data-testid=numbers]"):
        adapted.find_element(By.CSS_SELECTOR, f"{row} button").click()
    wait(adapted, lambda d: "35° from the vertical" in see(d, f"{row} p").text)
    assert figures(adapted, "regions that need support")[1] == 0


def test_taken_as_a_revision_the_findings_settle_by_themselves(adapted):
    wait(adapted, lambda d: d.find_elements(By.XPATH, "//button[text()='Take as a revision']"))[0].click()
    read(adapted, "rev 2", 120)
    read(adapted, "what it was adapted for", 60)
    tab(adapted, "findings")
    wait(adapted, lambda d: len(d.find_elements(By.CSS_SELECTOR, "[data-testid=gone]")) >= 2, 120)
    gone = adapted.find_elements(By.CSS_SELECTOR, "[data-testid=gone]")
    assert gone and all("remedied" in g.text for g in gone)
    tab(adapted, "remedies")
    cells = lambda d: [c.text for c in d.find_elements(By.CSS_SELECTOR, "[data-revision='2'] td")]
    wait(adapted, lambda d: cells(d)[1:2] == ["0"], 60)
    assert "on 1" in cells(adapted)[0]


def test_the_changes_are_there_in_words(adapted):
    here = adapted.current_url
    adapted.find_element(By.CSS_SELECTOR, "[data-revision='1'] a").click()
    wait(adapted, lambda d: d.current_url != here)
    tab(adapted, "remedies")
    link = see(adapted, "a[href$='/changes']", 60).get_attribute("href")
    asked = "fetch(arguments[0]).then((r) => r.text()).then(arguments[1])"
    text = adapted.execute_async_script(asked, link)
    for given in ("Build direction", "Add a pillar", "of the round by a chamfer of 45°", "Overhang limit 45°"):
        assert given in text, text


def test_directions_are_ranked_again_after_remedies(adapted):
    press(adapted, "d")
    see(adapted, "[data-testid=candidates]", 60)
    tab(adapted, "after remedies")
    wait(adapted, lambda d: d.find_elements(By.XPATH, "//button[text()='Calculate remedies in each']"))[0].click()
    wait(adapted, lambda d: len(d.find_elements(By.CSS_SELECTOR, "[data-after]")) >= 5, 120)
    adapted.find_element(By.XPATH, "//*[@data-testid='afterwards']//button[text()='stop']").click()
    rows = [
        [c.text for c in r.find_elements(By.TAG_NAME, "td")]
        for r in adapted.find_elements(By.CSS_SELECTOR, "[data-after]")
    ]
    assert rows[0][0].startswith("1") and rows[0][3] == "0", "the first wants no support any more"
    assert any("↑" in r[0] for r in rows) and any("↓" in r[0] for r in rows), "the order is another one"
    tab(adapted, "as they are")


def test_a_direction_is_turned_by_a_small_angle(adapted):
    see(adapted, "[aria-label='Turn about y']").click()
    read(adapted, "tilted 5°", 30)
    wait(adapted, lambda d: "·\u00a0yours" in d.page_source or "· yours" in d.page_source, 60)


def test_a_scaled_variant_starts_anew(adapted):
    press(adapted, "p")
    field = see(adapted, "[data-testid=scaled] input", 30)
    field.send_keys("1.5" + Keys.ENTER)
    read(adapted, "Fork to adapt, × 1.5", 60)
