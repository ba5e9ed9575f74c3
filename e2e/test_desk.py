"""The comparison desk: weights, pins, keys, undo, two people at once, the bin, invitations, the printed page."""

import base64

import pytest
from browser import browser, frames, open_part, read, see, sign_in, slow_line, still, to_stage, unfold, wait
from conftest import NAME, PASSWORD
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from demo.river_station import PEOPLE
from demo.step_file import block_with_bores

FIRST = '[data-testid=candidates] tr[data-rank="1"]'


def press(page, keys):
    page.find_element(By.TAG_NAME, "body").send_keys(keys)


def order(page):
    rows = page.find_elements(By.CSS_SELECTOR, "[data-testid=candidates] tbody tr td:nth-child(2)")
    return [r.text for r in rows]


def rests(page):
    """Waits until the table changes no more."""
    wait(page, lambda d: not d.find_elements(By.XPATH, "//*[contains(text(), 'slicing candidate')]"), 240)


def test_weights_sort_live_and_are_taken_back(page):
    open_part(page, "Sheave fork")
    see(page, FIRST, 240)
    rests(page)
    plain = order(page)
    page.find_element(By.XPATH, "//label[contains(., 'by weights')]/input").click()
    see(page, 'input[aria-label="Weight of height"]').send_keys(Keys.END)
    for name in ("support", "stability", "time", "scar", "curl"):
        see(page, f'input[aria-label="Weight of {name}"]').send_keys(Keys.HOME)
    wait(page, lambda d: lowest_first(d))
    wait(page, lambda d: d.find_elements(By.XPATH, "//button[@role='tab'][text()='weighted']"))[0].click()
    assert "of 1" in page.find_element(By.TAG_NAME, "body").text
    wait(page, lambda d: written(d)["curl"] == 0)
    wait(page, lambda d: d.execute_script(RANKED_WITHOUT_CURL))  # rows read before may still be those of another weight
    frames(page)
    sorted_by_height = order(page)
    page.refresh()
    see(page, 'input[aria-label="Weight of height"]', 60)
    wait(page, lambda d: order(d) == sorted_by_height)
    while (there := written(page)) != UNWEIGHTED:
        press(page, "u")
        wait(page, lambda d, there=there: written(d) != there)
    wait(page, lambda d: order(d) == plain)
    press(page, "U")
    see(page, 'input[aria-label="Weight of height"]')
    press(page, "u")
    wait(page, lambda d: order(d) == plain)  # the other journeys meet the desk as it was


UNWEIGHTED = {"curl": None}
RANKED_WITHOUT_CURL = """
return performance.getEntriesByType('resource').some(
  (e) => e.name.includes('/ranking?') && new URL(e.name).searchParams.get('curl') === '0');
"""
"""Whether the ranking by the last of the weights has come."""


def written(page):
    """The weights that the server keeps for the part on the page."""
    part = page.current_url.split("/parts/")[1].split("/")[0]
    asked = "fetch('/api/parts/' + arguments[0]).then((r) => r.json()).then((p) => arguments[1](p.desk.weights))"
    return page.execute_async_script(asked, part) or UNWEIGHTED


def lowest_first(page):
    """With nothing but height in the weights, the lowest that stands comes first."""
    rows = page.find_elements(By.CSS_SELECTOR, "[data-testid=candidates] tbody tr")
    cells = [r.find_elements(By.TAG_NAME, "td") for r in rows]
    stands = [float(c[7].text) for c in cells if "text-crown" not in c[8].get_attribute("class")]
    return stands and stands == sorted(stands)


def test_pins_lie_side_by_side_and_keys_reach_every_candidate(page):
    open_part(page, "Cable saddle")
    see(page, FIRST, 240)
    rests(page)
    unfold(page)
    count = len(order(page))
    selected = lambda: see(page, "[data-testid=candidates] tr[aria-selected=true]").get_attribute("data-rank")
    for pins in (1, 2, 3):
        press(page, "=")
        wait(
            page,
            lambda d, pins=pins: len(d.find_elements(By.CSS_SELECTOR, "[data-testid=side-by-side] canvas")) == pins,
        )
        here = selected()
        press(page, "]")
        wait(page, lambda d, here=here: selected() != here)
    table = see(page, "[data-testid=side-by-side]")
    rows = {r.find_element(By.TAG_NAME, "th").text.split()[0] for r in table.find_elements(By.CSS_SELECTOR, "tbody tr")}
    assert {"tips", "drag", "curl", "stair", "scar", "time"} <= rows
    reached = set()
    for _ in range(count):
        reached.add(see(page, "[data-testid=candidates] tr[aria-selected=true]").get_attribute("data-rank"))
        press(page, "[")
    for _ in range(count):
        reached.add(see(page, "[data-testid=candidates] tr[aria-selected=true]").get_attribute("data-rank"))
        press(page, "]")
    assert len(reached) == count, "every candidate is reached by key"
    page.find_element(By.CSS_SELECTOR, 'button[aria-label="Unpin B"]').click()
    wait(page, lambda d: len(d.find_elements(By.CSS_SELECTOR, "[data-testid=side-by-side] thead canvas")) == 2)


def test_the_comparison_is_printed(page):
    open_part(page, "Cable saddle")
    see(page, FIRST, 240)
    link = see(page, 'a[href$="/comparison"]').get_attribute("href")
    data = page.execute_async_script(
        """
        const done = arguments[1];
        fetch(arguments[0])
          .then((r) => r.arrayBuffer())
          .then((b) => done(btoa(String.fromCharCode(...new Uint8Array(b.slice(0, 8))))));
        """,
        link,
    )
    assert base64.b64decode(data).startswith(b"%PDF-")


def test_find_and_do(page):
    press(page, "?")
    assert "find anything" in see(page, "[data-testid=keys]").text
    press(page, Keys.ESCAPE)
    wait(page, lambda d: not d.find_elements(By.CSS_SELECTOR, "[role=dialog]"))
    press(page, ".")
    find = see(page, "[role=combobox]")
    find.send_keys("open float arm")
    wait(page, lambda d: d.find_elements(By.XPATH, "//*[@role='option'][contains(., 'Float arm')]"))
    find.send_keys(Keys.ENTER)
    read(page, "What came in")
    press(page, "d")
    read(page, "Build directions")
    press(page, "p")
    read(page, "What came in")
    paper = lambda: page.execute_script("return getComputedStyle(document.body).backgroundColor")
    light = paper()
    press(page, "t")
    wait(page, lambda d: paper() != light)
    page.refresh()
    read(page, "What came in")
    assert paper() != light, "the choice of paper stays"
    press(page, "t")
    press(page, "l")
    read(page, "Import a part")


def test_two_people_write_in_one_place_and_both_are_shown(page, address):
    open_part(page, "Pivot bushing")
    read(page, "Build directions", 60)
    page.find_element(By.XPATH, "//header//button[text()='Pivot bushing']").click()
    mine = see(page, "form input")
    with browser() as other:
        sign_in(other, address, NAME, PASSWORD)
        open_part(other, "Pivot bushing")
        see(other, "header button")
        wait(other, lambda d: d.find_elements(By.XPATH, "//header//button[text()='Pivot bushing']"))
        other.find_element(By.XPATH, "//header//button[text()='Pivot bushing']").click()
        field = see(other, "form input")
        field.send_keys(Keys.END, " (theirs)", Keys.ENTER)
        wait(other, lambda d: d.find_elements(By.XPATH, "//header//button[text()='Pivot bushing (theirs)']"))
    mine.send_keys(Keys.END, " (mine)", Keys.ENTER)
    shown = see(page, "[data-testid=clashes]").text
    assert "Pivot bushing (theirs)" in shown and "Pivot bushing (mine)" in shown
    errors = page.get_log("browser")
    assert all("409" in e["message"] for e in errors if e["level"] == "SEVERE"), errors
    page.find_element(By.TAG_NAME, "body").send_keys(Keys.ESCAPE)
    wait(page, lambda d: d.find_elements(By.XPATH, "//header//button[text()='Pivot bushing (theirs)']"))
    press(page, "u")
    wait(page, lambda d: d.find_elements(By.XPATH, "//header//button[text()='Pivot bushing']"))


def test_into_the_bin_and_back(page):
    wait(page, lambda d: d.find_elements(By.LINK_TEXT, "Float arm"))
    page.find_element(By.CSS_SELECTOR, 'button[aria-label="Put Float arm in the bin"]').click()
    bin_ = see(page, "[data-testid=bin]")
    wait(page, lambda d: not d.find_elements(By.LINK_TEXT, "Float arm"))
    assert "Float arm" in bin_.text and "kept until" in bin_.text
    bin_.find_element(By.TAG_NAME, "button").click()
    wait(page, lambda d: d.find_elements(By.LINK_TEXT, "Float arm"))


def test_an_invitation_leads_in(page, address):
    page.get(address + "people")
    see(page, "input[placeholder='their name']").send_keys("Wim Sluys", Keys.ENTER)
    link = see(page, "[data-testid=link] .figure").text
    with browser() as guest:
        guest.get(link)
        read(guest, "invites you to Alder Reach Gauging Works as a technician")
        see(guest, "input[autocomplete=username]").send_keys("wim.sluys")
        see(guest, "input[autocomplete=new-password]").send_keys("over-the-weir-at-9", Keys.ENTER)
        read(guest, "You are signed in as a technician")
        guest.get(link)
        read(guest, "Wim Sluys")
    page.refresh()
    read(page, "joined")
    assert "Wim Sluys" in see(page, "[data-testid=people]").text


def test_a_step_file_comes_in_with_its_exact_bores(page, address, tmp_path):
    file = tmp_path / "valve-plate.step"
    file.write_bytes(block_with_bores((48, 30, 8), [(10, 15, 4, 99), (34, 15, 2.6, 5)]))
    page.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys(str(file))
    page.find_element(By.XPATH, "//button[text()='Import']").click()
    bores = see(page, "[data-testid=bores]", 240).text
    assert "8.00" in bores and "5.20" in bores and "through" in bores
    assert "STEP" in page.find_element(By.TAG_NAME, "body").text


CLAIMS = (
    "not been checked yet", "not been measured yet", "No plate has been filled", "o direction yet", "was stopped",
    "Not known before", "not measured", "Check layers", "Measure walls", "Work out hardware", "Fill the plate",
    "Calculate pieces", "Check in full",
)  # fmt: skip


STAGES = {
    "Part": "First answer", "Direction": "Build directions", "Overhangs": "Overhangs", "Pieces": "Several pieces",
    "Walls": "Walls", "Strength": "Strength check", "Hardware": "Hardware", "Fit": "Fit", "Batch": "Batch",
}  # fmt: skip
"""By their headings."""


def test_nothing_is_claimed_before_it_is_known(page):
    """While the server takes its time a stage says that it is reading, not that nothing is there or what to order."""
    open_part(page, "Stay clevis", "Trials")
    begun = wait(page, lambda d: d.current_url.endswith("/trials") and d.current_url)
    headed = lambda d, words: any(words in h.text for h in d.find_elements(By.CSS_SELECTOR, "main :is(h1, h2)"))
    for stage, heading in STAGES.items():
        to_stage(page, stage)
        wait(page, lambda d, heading=heading: headed(d, heading))  # its scripts have come
        page.get(begun)
        see(page, "[data-testid=new-trial]")
        with slow_line(page):
            to_stage(page, stage)
            wait(page, lambda d, heading=heading: headed(d, heading))
            said = see(page, "main").text
        assert "Reading …" in said or "Reading the sweep …" in said, (stage, said)
        assert not [claim for claim in CLAIMS if claim in said], (stage, said)


def rail(page) -> list:
    return see(page, "nav[aria-label=Stages]").find_elements(By.CSS_SELECTOR, "a:has([title])")


def test_a_stage_stands_where_it_will_once_its_line_is_known(page):
    """Who is about to press one would press the one above, were they to move."""
    open_part(page, "Boom post", "Part")
    read(page, "came in sound")
    page.find_element(By.LINK_TEXT, "← all parts").click()
    link = wait(page, lambda d: d.find_element(By.LINK_TEXT, "Stay clevis"))
    with slow_line(page):
        link.click()
        before = wait(page, lambda d: [(a.text, a.rect["y"]) for a in rail(d)])
        assert len(before) == len({y for _, y in before}) and before[0][0] == "Part", "nothing is known yet"
    page.refresh()
    wait(page, lambda d: all("\n" in a.text for a in rail(d)))
    assert [a.rect["y"] for a in rail(page)] == [y for _, y in before]


def test_a_finger_takes_what_it_presses(page):
    """It has not hovered over the part before."""
    open_part(page, "Boom post", "Part")
    still(page, see(page, "canvas"))
    page.find_element(By.XPATH, "//button[text()='Measure']").click()
    read(page, "Point at a place")
    box = see(page, "canvas").rect
    middle = {"x": box["x"] + box["width"] / 2, "y": box["y"] + box["height"] / 2}
    for kind, places in (("touchStart", [middle]), ("touchEnd", [])):
        page.execute_cdp_cmd("Input.dispatchTouchEvent", {"type": kind, "touchPoints": places})
    wait(page, lambda d: "below it" in see(d, "[data-testid=measured]").text)


@pytest.mark.parametrize("who", [p for p in PEOPLE if p[3] != "engineer"], ids=lambda p: p[3])
def test_who_may_not_edit_finds_nothing_to_edit(address, who):
    with browser() as d:
        sign_in_as_reader(d, address, who)
        open_part(d, "Cable saddle")
        see(d, FIRST, 240)
        assert not d.find_elements(By.CSS_SELECTOR, "#reason, button[aria-label^='Unpin']")
        assert not d.find_element(By.CSS_SELECTOR, "[data-testid=weights] input").is_enabled()
        press(d, "u")
        frames(d)
        assert not d.find_elements(By.CSS_SELECTOR, "[data-testid=told]")


def sign_in_as_reader(driver, address, who):
    driver.get(address)
    see(driver, "input[autocomplete=username]").send_keys(who[0])
    see(driver, "input[autocomplete=current-password]").send_keys(who[-1], Keys.ENTER)
    wait(driver, lambda d: d.find_elements(By.LINK_TEXT, "Cable saddle"))
