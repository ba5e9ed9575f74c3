"""Every view: no serious finding of the accessibility checker, on light theme and on dark."""

from pathlib import Path

from boxes import crowded
from browser import browser, frames, open_part, read, see, wait, wide
from selenium.webdriver.common.by import By

AXE = (Path(__file__).resolve().parent.parent / "web/node_modules/axe-core/axe.min.js").read_text()
RUN = """
const [only, done] = arguments;
axe.run(document, {resultTypes: ['violations'], ...(only ? {runOnly: only} : {})}).then((r) => done(r.violations
  .filter((v) => ['serious', 'critical'].includes(v.impact))
  .map((v) => v.id + ': ' + v.nodes.slice(0, 3)
    .map((n) => n.html.slice(0, 120) + ' ' + (n.any[0]?.message ?? '')).join(' | '))));
"""


def findings(driver, only=None):
    """What the checker holds to be serious or worse; of the rules ``only``, when they are named."""
    driver.execute_script(AXE)
    return driver.execute_async_script(RUN, only)


def part(page):
    open_part(page, "Mast clevis")
    see(page, '[data-testid=candidates] tr[data-rank="1"]', 240)
    wait(page, lambda d: not d.find_elements(By.XPATH, "//*[contains(text(), 'slicing candidate')]"), 240)


def weighted(page):
    part(page)
    if not page.find_elements(By.CSS_SELECTOR, "[data-testid=side-by-side]"):
        press(page, "=")
    see(page, "[data-testid=side-by-side]")
    page.find_element(By.XPATH, "//label[contains(., 'by weights')]/input").click()
    see(page, 'input[aria-label="Weight of height"]')


def facts(page):
    part(page)
    press(page, "p")
    see(page, "[data-testid=bores]")


def history(page):
    part(page)
    page.find_element(By.XPATH, "//button[text()='history']").click()
    read(page, "Every edit of this job")


def palette(page):
    press(page, ".")
    see(page, "[role=combobox]")


def keys(page):
    press(page, "?")
    see(page, "[data-testid=keys]")


def people(page):
    page.get(page.current_url + "people")
    see(page, "[data-testid=people]")


def requirements(page):
    part(page)
    press(page, "r")
    wait(page, lambda d: d.find_elements(By.CSS_SELECTOR, "[aria-label*='point at a face'] canvas"))
    press(page, "2")
    see(page, "[data-testid=held]")


def overhangs(page):
    open_part(page, "Sheave fork")
    see(page, '[data-testid=candidates] tr[data-rank="1"]', 240)
    press(page, "v")
    see(page, "[data-testid=layer-log]", 120)
    see(page, "[data-finding] button").click()
    see(page, "[data-testid=finding-told]")


def remedies(page):
    open_part(page, "Cable saddle")
    see(page, '[data-testid=candidates] tr[data-rank="1"]', 240)
    press(page, "v")
    see(page, "[data-testid=layer-log]", 120)
    press(page, "e")
    see(page, "[data-testid=remedies]")
    for button in page.find_elements(By.XPATH, "//button[starts-with(text(), 'Calculate remedies')]"):
        button.click()
    see(page, "[data-testid=before-after]", 120)


def pieces(page):
    open_part(page, "Sounding pod")
    see(page, '[data-testid=candidates] tr[data-rank="1"]', 240)
    press(page, "k")
    see(page, "[data-testid=pieces]")
    if not page.find_elements(By.CSS_SELECTOR, "[data-testid=seats]"):
        wait(page, lambda d: d.find_elements(By.XPATH, "//button[text()='Calculate pieces'][not(@disabled)]"))[
            0
        ].click()
    see(page, "[data-testid=seats]", 120)


def walls(page):
    open_part(page, "Pivot bushing")
    see(page, '[data-testid=candidates] tr[data-rank="1"]', 240)
    press(page, "g")
    see(page, "[data-testid=gauge-strip] [data-bar]", 120)
    see(page, "[data-zone] button").click()
    see(page, "[data-testid=better]")


def strength(page):
    open_part(page, "Sheave fork")
    see(page, '[data-testid=candidates] tr[data-rank="1"]', 240)
    press(page, "s")
    for check in wait(page, lambda d: d.find_elements(By.XPATH, "//h2[text()='Strength check']/..")):
        for button in check.find_elements(By.TAG_NAME, "button"):
            button.click()
    see(page, "[data-testid=cases]", 240)
    page.find_element(By.XPATH, "//button[@role='tab'][text()='materials']").click()


def farm(page):
    press(page, "f")
    see(page, "[data-testid=record]")


def coverage(page):
    page.get(page.current_url + "coupons")
    see(page, "[data-testid=coverage]")


def coupon(page):
    coverage(page)
    wait(page, lambda d: d.find_elements(By.PARTIAL_LINK_TEXT, "tensile bar, upright"))[0].click()
    see(page, "[data-testid=reading-plot]")
    see(page, "[data-testid=stand]")


def trials(page):
    page.get(page.current_url + "trials")
    see(page, "[data-testid=diagonal]")
    wait(page, lambda d: d.find_elements(By.XPATH, "//button[text()='What it would do']"))[0].click()
    see(page, "[data-testid=effect] tbody tr")
    page.find_element(By.XPATH, "//button[text()='Put one under load']").click()


def trials_of_a_part(page):
    open_part(page, "Boom post")
    see(page, "canvas")
    press(page, "c")
    see(page, "[data-trial] button").click()
    see(page, "[data-testid=trial-open]")


def release(page):
    open_part(page, "Mast clevis", "Release")
    see(page, "[data-missing]", 60)


def batch(page):
    open_part(page, "Board clip", "Batch")
    see(page, "[data-testid=batch-figures]", 60)


def week(page):
    page.get(page.current_url + "week")
    see(page, "[data-testid=week-words]", 60)


def practice(page):
    page.get(page.current_url + "practice")
    see(page, "[data-testid=exercises] button")


def press(page, keys):
    page.find_element(By.TAG_NAME, "body").send_keys(keys)


VIEWS = {
    "shelf": lambda page: wait(page, lambda d: d.find_elements(By.LINK_TEXT, "Mast clevis")),
    "direction": part,
    "weights and pins": weighted,
    "facts": facts,
    "history": history,
    "palette": palette,
    "keys": keys,
    "people": people,
    "requirements": requirements,
    "overhangs": overhangs,
    "remedies": remedies,
    "pieces": pieces,
    "walls": walls,
    "strength": strength,
    "farm": farm,
    "coverage": coverage,
    "coupon": coupon,
    "trials": trials,
    "trials of a part": trials_of_a_part,
    "release": release,
    "batch": batch,
    "week": week,
    "practice": practice,
}


WIDTHS = (1440, 1280, 1024)
"""Of windows in which no text may lie over another."""
PHONE = 390
ON_A_PHONE = {"shelf", "facts", "direction", "overhangs", "pieces", "strength", "batch", "week", "release"}
"""What is looked at away from the desk: its columns stand below one another."""


def turn_dark(page):
    """Turns the paper under the view as it is: a dialog that is open stays open. The next page is light again."""
    page.execute_script("document.documentElement.dataset.theme = 'dark'")


def test_no_serious_finding_and_no_scrolling_frame(page, address):
    result = {}
    for name, visit in VIEWS.items():
        page.get(address)
        read(page, "Import a part")
        visit(page)
        result[name, "light"] = findings(page)
        turn_dark(page)
        result[name, "dark"] = findings(page, ["color-contrast"])  # the one rule that looks at the paper
        size = page.execute_script("const d = document.documentElement; return [d.scrollWidth, d.scrollHeight]")
        assert tuple(size) == (1280, 800), f"the frame of {name} scrolls"
        for width in (*WIDTHS, *([PHONE] if name in ON_A_PHONE else [])):
            wide(page, width)
            frames(page)
            result[name, width] = crowded(page)
        wide(page, 1280)
    wrong = {view: found for view, found in result.items() if found}
    assert not wrong, "\n".join(f"{view}: {line}" for view, found in wrong.items() for line in found)


def test_the_doors(address):
    with browser() as driver:
        driver.get(address)
        see(driver, "input[autocomplete=username]")
        assert findings(driver) == []
        driver.get(address + "join/nonesuch")
        read(driver, "does not invite anybody")
        assert findings(driver) == []
