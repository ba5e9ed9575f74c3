"""The engineer's first errand: a part comes in, the net is read, a direction is chosen with its reason, a file goes out
and comes back with the same numbers.
"""

import pytest
from browser import browser, fetched, frames, open_part, read, see, sign_in, still, to_stage, unfold, wait
from conftest import PASSWORD
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from demo.river_station import OTHER_PEOPLE, PEOPLE, demo_files

FILES = {f.name: f for f in demo_files()}


def bring_in(page, path, name, wholly=True):
    """Takes a part in and waits until its first candidate is known, or ``wholly`` all of them."""
    page.get(page.current_url.split("/parts")[0])
    see(page, "table, section")
    page.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys(str(path))
    field = see(page, "label + input")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys(name)
    page.find_element(By.XPATH, "//button[text()='Import']").click()
    see(page, "nav[aria-label=Stages]", 240)
    to_stage(page, "Direction")
    see(page, '[data-testid=candidates] tr[data-rank="1"]', 240)
    if wholly:
        wait(page, lambda d: not d.find_elements(By.XPATH, "//*[contains(text(), 'slicing candidate')]"), 120)


def row(page, rank):
    cells = page.find_elements(By.CSS_SELECTOR, f'[data-testid=candidates] tr[data-rank="{rank}"] td')
    return [c.text for c in cells]


def facts(page):
    page.find_element(By.XPATH, "//nav//span[text()='Part']").click()
    see(page, "[data-testid=bores]")
    rows = page.find_elements(By.CSS_SELECTOR, "section table:not([data-testid]) tr")
    return {r.find_element(By.TAG_NAME, "th").text: r.find_element(By.TAG_NAME, "td").text for r in rows}


def test_import_choose_export_and_import_again(page, downloads, tmp_path):
    source = tmp_path / "mast-clevis.3mf"
    source.write_bytes(FILES["Mast clevis"].data)
    bring_in(page, source, "Clevis, first time")
    first = row(page, 1)
    assert first[1].startswith("+z up") and first[8] == "55°"
    assert "Stands by itself, tips at 55°." in see(page, "[data-testid=verdict]").text

    # Another candidate by keyboard, then back.
    unfold(page)
    table = see(page, '[aria-label^="Candidates"]')
    table.send_keys(Keys.ARROW_DOWN)
    second = "[data-testid=candidates] tbody tr:nth-child(2)"
    wait(page, lambda d: d.find_element(By.CSS_SELECTOR, second).get_attribute("aria-selected") == "true")
    table.send_keys(Keys.ARROW_UP)

    # Without a reason it cannot be chosen.
    button = page.find_element(By.XPATH, "//button[text()='Use this direction']")
    assert not button.is_enabled()
    see(page, "#reason").send_keys("Plate down holds best; the pin bore bridges under 10 mm.")
    button.click()
    choice = see(page, "[data-testid=choice]")
    assert "+z up" in choice.text and "Ines Marrow" in choice.text and "Plate down" in choice.text
    see(page, 'nav a[href$="direction"] svg[aria-label=settled]')

    see(page, "[data-testid=export-3mf]").click()
    out = fetched(page, downloads, "*-oriented.3mf")
    before = facts(page)
    bring_in(page, out, "Clevis, come back")
    assert row(page, 1) == first
    after = facts(page)
    assert (
        after["volume"] == before["volume"] and after["surface"] == before["surface"] and after["box"] == before["box"]
    )


def test_pointing_at_the_net_turns_the_ghost_at_once_and_a_click_asks_about_that_direction(page):
    open_part(page, "Mast clevis")
    disc = see(page, 'svg[data-half="upper"]', 240)
    see(page, '[data-testid=candidates] tr[data-rank="1"]', 240)
    wait(page, lambda d: not d.find_elements(By.XPATH, "//*[contains(text(), 'slicing candidate')]"), 120)
    words = lambda: page.find_element(By.CSS_SELECTOR, "[data-testid=pointed-words]").text
    ghost = see(page, "[data-testid=pointed] canvas")
    seen = set()
    for x, y in ((40, 30), (-50, 20), (10, -60)):
        ActionChains(page).move_to_element_with_offset(disc, x, y).perform()
        wait(page, lambda d: "tilted" in words(), 3)
        seen.add((words(), ghost.screenshot_as_base64))
        assert "mm²" in page.find_element(By.CSS_SELECTOR, "[data-testid=pointed]").text
    assert len(seen) == 3, "each direction has its words and its picture"
    ActionChains(page).move_to_element_with_offset(disc, 37, 61).click().perform()
    read(page, "· yours", 60)
    chosen = page.find_element(By.CSS_SELECTOR, '[data-testid=candidates] tr[aria-selected="true"]').text
    assert "yours" in chosen and "–" not in chosen.replace("−", "")


def test_fields_change_what_the_net_draws(page):
    open_part(page, "Float arm")
    disc = see(page, 'svg[data-half="upper"]', 240)
    pictures = set()
    for tab in ("overhang", "support", "height"):
        page.find_element(By.XPATH, f"//button[@role='tab'][text()='{tab}']").click()
        wait(page, lambda d, tab=tab: d.find_element(By.CSS_SELECTOR, "[role=tab][aria-selected=true]").text == tab)
        pictures.add(disc.find_element(By.CSS_SELECTOR, "g path").get_attribute("d"))
    assert len(pictures) == 3


def test_facts_light_up_on_the_part(page):
    open_part(page, "Mast clevis")
    page.find_element(By.XPATH, "//nav//span[text()='Part']").click()
    first = see(page, "[data-testid=bores] tbody tr")
    canvas = see(page, "canvas")
    plain = still(page, canvas)
    ActionChains(page).move_to_element(first).perform()
    read(page, "bore 1: ⌀ 12.00 mm")
    wait(page, lambda d: canvas.screenshot_as_base64 != plain, 5)
    # And the other way: somewhere on the drawn part a feature answers the pointer.
    found = set()
    for dx, dy in ((0, 120), (-80, 60), (60, -60), (-60, -100), (120, 80), (0, 0)):
        ActionChains(page).move_to_element_with_offset(canvas, dx, dy).perform()
        frames(page)
        found |= {r.text for r in page.find_elements(By.CSS_SELECTOR, "tr[data-hot]")}
    assert found


def test_a_guessed_unit_is_asked_for_before_anything_is_settled(page):
    open_part(page, "Cable saddle")
    page.find_element(By.XPATH, "//nav//span[text()='Part']").click()
    read(page, "read as inches (60 mm)")
    nav = lambda: page.find_element(By.TAG_NAME, "nav").text
    wait(page, lambda d: "say its unit" in nav())
    assert "60.0 mm" in see(page, "[data-testid=unit-asked]").text
    page.find_element(By.XPATH, "//*[@data-testid='unit-asked']//button[contains(., 'as it was read')]").click()
    wait(page, lambda d: not d.find_elements(By.CSS_SELECTOR, "[data-testid=unit-asked]"))
    wait(page, lambda d: "1 mended or guessed" in nav())


@pytest.mark.parametrize(
    "data, given",
    [(b"", "empty"), (b" " * 80 + b"\xff" * 4 + b"x" * 200, "announces"), (b"not a part " * 9, "not an STL")],
)
def test_a_bad_file_is_refused_in_words_and_the_page_goes_on(page, tmp_path, data, given):
    path = tmp_path / "bad.stl"
    path.write_bytes(data)
    page.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys(str(path))
    page.find_element(By.XPATH, "//button[text()='Import']").click()
    alert = see(page, "[role=alert]", 20)
    assert given in alert.text
    page.get_log("browser")  # a refusal is an HTTP 422, which the console notes; that is no fault of the page
    assert open_part(page, "Mast clevis")


def test_another_limit_is_another_study(page):
    open_part(page, "Logger-box lid")
    see(page, '[data-testid=candidates] tr[data-rank="1"]', 240)
    page.find_element(By.XPATH, "//button[contains(., 'limit')]").click()
    field = see(page, "[data-radix-popper-content-wrapper] input")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("120")
    page.find_element(By.XPATH, "//button[text()='Study again']").click()
    given = see(page, "[role=alert]").text
    assert "Overhang limit cannot be 120" in given and "1 to 89" in given
    page.get_log("browser")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("60")
    page.find_element(By.XPATH, "//button[text()='Study again']").click()
    read(page, "limit 60° from vertical", 240)


def test_a_wrong_password_is_said_and_the_policy_lets_the_page_work(address):
    with browser() as driver:
        driver.get(address)
        see(driver, "input[autocomplete=username]").send_keys("marrow")
        see(driver, "input[autocomplete=current-password]").send_keys("wrong")
        see(driver, "button[type=submit]").click()
        assert "not right" in see(driver, "[role=alert]").text
        driver.get_log("browser")
        sign_in(driver, address, "marrow", PASSWORD)
        driver.find_element(By.XPATH, "//button[text()='sign out']").click()
        see(driver, "input[autocomplete=username]")
        assert not [e for e in driver.get_log("browser") if "Content Security Policy" in e["message"]]


def test_nothing_scrolls_the_frame_at_1280_by_800(page):
    open_part(page, "Mast clevis")
    see(page, '[data-testid=candidates] tr[data-rank="1"]', 240)
    for stage in ("Part", "Direction"):
        page.find_element(By.XPATH, f"//nav//span[text()='{stage}']").click()
        see(page, "canvas")
        assert page.execute_script(
            "const e = document.documentElement; return [e.scrollWidth, e.scrollHeight, innerWidth, innerHeight]"
        ) == [1280, 800, 1280, 800]


def test_a_viewer_reads_everything_and_changes_nothing(address):
    viewer = PEOPLE[2]
    with browser() as driver:
        sign_in(driver, address, viewer[0], viewer[-1])
        read(driver, "signed in as a viewer")
        assert not driver.find_elements(By.CSS_SELECTOR, "input[type=file]")
        open_part(driver, "Mast clevis")
        see(driver, '[data-testid=candidates] tr[data-rank="1"]', 240)
        read(driver, "An engineer chooses the direction.")
        assert not driver.find_elements(By.CSS_SELECTOR, "#reason")


def test_the_other_workshop_sees_only_its_own(address):
    other = OTHER_PEOPLE[0]
    with browser() as driver:
        sign_in(driver, address, other[0], other[-1])
        link = wait(driver, lambda d: next(iter(d.find_elements(By.LINK_TEXT, "Pivot bushing")), None), 90)
        read(driver, "1 part")
        link.click()
        see(driver, "nav")
        driver.find_element(By.XPATH, "//nav//span[text()='Part']").click()
        read(driver, "read as metres (16 mm)")
