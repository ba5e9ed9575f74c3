"""Takes the pictures in docs/screenshots from the demo data of a running Hewel.

PYTHONPATH=e2e:. .venv/bin/python docs/take_screenshots.py http://127.0.0.1:8400/
"""

import sys
import time
from pathlib import Path

from browser import browser, open_part, see, sign_in, until, wait, wide
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from house.client import Client

OUT = Path(__file__).parent / "screenshots"


def keep(driver, name: str) -> None:
    time.sleep(1.2)  # the last frame of the drawing
    driver.save_screenshot(str(OUT / f"{name}.png"))


def strength(d, page) -> None:
    """The fork's loads checked, upright solved with its own layers."""
    page.send_keys("d")
    row = "//*[@data-testid='candidates']//tr[td[2][starts-with(normalize-space(), '+z up')]]"
    wait(d, lambda d: d.find_elements(By.XPATH, row))[0].click()
    for button in d.find_elements(By.XPATH, "//button[text()='pin beside others']"):
        button.click()
    page.send_keys("s")
    heading = wait(d, lambda d: d.find_elements(By.XPATH, "//h2[text()='Strength check']/.."))
    for button in heading[0].find_elements(By.TAG_NAME, "button"):
        button.click()
    upright = "//button[@role='radio'][starts-with(., '+z up')]"
    wait(d, lambda d: d.find_elements(By.XPATH, upright), 600)[0].click()
    see(d, "[data-testid=field-legend]", 600)
    busy = "//*[@role='status'][contains(., 'own layers')]"
    wait(d, lambda d: not d.find_elements(By.XPATH, busy), 600)
    d.find_element(By.XPATH, "//button[@role='tab'][text()='fixes']").click()
    d.find_element(By.XPATH, "//button[text()='Look at the weakest place']").click()
    time.sleep(1)
    log = see(d, "[data-testid=layer-log]")
    ActionChains(d).move_to_element_with_offset(log, -60, -140).perform()
    keep(d, "strength")


def batch(d, client: Client) -> None:
    """The stay clevis, thirty of which at a time do not hold: its plate and its curve."""
    part = client.get(f"parts/{next(p['id'] for p in client.get('parts') if p['name'] == 'Stay clevis')}")
    done = lambda study: (s := client.get(f"studies/{study}"))["work"]["state"] == "done" and s
    if part["choice"] is None:
        records = client.get("farm")["records"]
        wanted = ("Weir 220", "Reed PETG, grey", "Sturdy 0.2")
        named = {r["kind"]: r["id"] for r in records if r["record"]["name"] in wanted}
        client.send(f"studies/of/{part['id']}", {"base": part["version"], **named})
        part = client.get(f"parts/{part['id']}")
        study = until(lambda: done(part["study"]), 600)
        up = next(c["up"] for c in study["candidates"] if c["up"][2] > 0.999)
        given = {"base": part["version"], "up": up, "reason": "the foot lies flat, the pin across"}
        client.send(f"studies/{part['study']}/choice", given)
        client.send(f"strength/of/{part['id']}", {"ups": [up]})
    client.send(f"batch/of/{part['id']}", {})
    until(lambda: client.get("work") == [], 900)
    open_part(d, "Stay clevis")
    see(d, "nav")
    d.find_element(By.TAG_NAME, "body").send_keys("b")
    wait(d, lambda d: len(d.find_elements(By.CSS_SELECTOR, "[data-testid=copy]")) > 4, 60)
    time.sleep(1)
    keep(d, "batch")


"""Part, copies of a plate, good parts, days until they are due, urgent."""


def week(d, address: str) -> None:
    """The demo's orders, told as a plan; one plate prints. Its traveller as a phone shows it."""
    d.get(address + "week")
    see(d, "[data-testid=plate-run]")
    for button in d.find_elements(By.XPATH, "//button[text()='Take this plan']"):
        button.click()
    see(d, "[data-testid=plate-run]").send_keys(Keys.ENTER)
    wait(d, lambda d: d.find_elements(By.XPATH, "//button[text()='Start now']"))[0].click()
    see(d, "[data-testid=plate-run][data-state=printing]", 60)
    time.sleep(40)
    keep(d, "week")
    link = d.find_element(By.XPATH, "//a[text()='traveller']").get_attribute("href")
    phone = {"width": 390, "height": 844, "deviceScaleFactor": 1, "mobile": True}
    d.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", phone)
    d.get(link)
    for step in ("load", "clean"):
        see(d, f"button[data-step={step}]").click()
    keep(d, "traveller")
    wide(d, 1280)


def card(d, address: str) -> None:
    d.get(address + "cards/insert")
    see(d, "[data-testid=card]")
    given = {"outer_mm": "5.6", "length_mm": "8", "shear_mpa": "18", "width_mm": "0.45", "layer_mm": "0.2"}
    for name, text in given.items():
        for field in d.find_elements(By.NAME, name):
            field.send_keys(text)
    wait(d, lambda d: d.find_elements(By.CSS_SELECTOR, "[data-testid=put-in]"))
    keep(d, "card")


def first_and_last(d) -> None:
    """The fork's first page, and what its release waits for."""
    open_part(d, "Sheave fork", "Part")
    see(d, "[data-testid=first-reserve]", 240)
    see(d, "[data-testid=first-price]", 120)
    keep(d, "facts")
    d.find_element(By.TAG_NAME, "body").send_keys("z")
    see(d, "[data-missing]", 60)
    keep(d, "release")


def learned(d, address: str) -> None:
    """What all trials say of the predictions."""
    d.get(address + "trials")
    see(d, "[data-testid=diagonal]")
    wait(d, lambda d: d.find_elements(By.XPATH, "//button[text()='What it would do']"))[0].click()
    see(d, "[data-testid=effect] tbody tr")
    keep(d, "trials")


def pieces(d) -> None:
    """The closed pod cut in two."""
    open_part(d, "Sounding pod")
    see(d, "[data-testid=candidates] tr[data-rank='1']", 240)
    d.find_element(By.TAG_NAME, "body").send_keys("k")
    wait(d, lambda d: d.find_elements(By.XPATH, "//button[@role='tab'][text()='cut in two']"))[0].click()
    wait(d, lambda d: d.find_elements(By.XPATH, "//button[text()='Calculate pieces']"))[0].click()
    see(d, "[data-testid=seats]", 120)
    keep(d, "pieces")


def walls(d) -> None:
    """The bushing's walls against whole lines, the one with a slit looked at."""
    open_part(d, "Pivot bushing")
    d.find_element(By.TAG_NAME, "body").send_keys("g")
    see(d, "[data-testid=gauge-strip] [data-bar]", 240)
    d.find_element(By.CSS_SELECTOR, "[data-zone] button").click()
    time.sleep(1)
    see(d, "[data-testid=wall-size]")
    for label, value in (("load, N", "20"), ("long, mm", "12"), ("wide, mm", "8")):
        field = d.find_element(By.XPATH, f"//*[@data-testid='wall-size']//label[text()='{label}']")
        d.find_element(By.ID, field.get_attribute("for")).send_keys(value)
    see(d, "[data-testid=ways]")
    keep(d, "walls")


def hardware(d) -> None:
    """The boom post with its bolts worked out."""
    open_part(d, "Boom post")
    d.find_element(By.TAG_NAME, "body").send_keys("j")
    wait(d, lambda d: d.find_elements(By.XPATH, "//button[text()='Work out hardware']"))[0].click()
    see(d, "[data-testid=clamped]", 240)
    keep(d, "hardware")


def fit(d, client: Client) -> None:
    """The lid that does not go into its box, which is set against it."""
    parts = {p["name"]: p["id"] for p in client.get("parts")}
    lid, box = parts["Logger-box lid"], parts["Logger box"]
    pair = lambda at, normal, their_at, their_normal: {
        "at": at, "normal": normal, "their_at": their_at, "their_normal": their_normal,
    }  # fmt: skip
    pairs = [
        pair([52, 0, 9], [1, 0, 0], [52, 0, 20], [-1, 0, 0]),
        pair([0, 34, 9], [0, 1, 0], [0, 34, 20], [0, -1, 0]),
        pair([53.5, 20, 3], [0, 0, 1], [54, 20, 40], [0, 0, 1]),
    ]
    mates = {"rows": [{"id": "box", "name": "Logger box", "part": box, "pairs": pairs}]}
    base = client.get(f"parts/{lid}")["version"]
    client.send(f"parts/{lid}/job", {"base": base, "sections": {"mates": mates}}, "PUT")
    open_part(d, "Logger-box lid")
    d.find_element(By.TAG_NAME, "body").send_keys("m")
    see(d, "[data-mate='Logger box'] button", 60).click()
    see(d, "[data-testid=mate-left]")
    keep(d, "fit")


def main(address: str) -> None:
    OUT.mkdir(exist_ok=True)
    with browser() as d:
        d.get(address)
        see(d, "input")
        sign_in(d, address, "marrow", "float-and-sluice")
        wait(d, lambda d: len(d.find_elements(By.CSS_SELECTOR, "tbody tr")) >= 8, 120)
        d.get(address + "queue")
        see(d, "[data-testid^=lane-]", 60)
        keep(d, "queue")
        d.get(address)
        open_part(d, "Mast clevis")
        see(d, '[data-testid=candidates] tr[data-rank="1"]', 120)
        wait(d, lambda d: not d.find_elements(By.XPATH, "//*[contains(text(), 'slicing candidate')]"), 120)
        if not d.find_elements(By.CSS_SELECTOR, "[data-testid=choice]"):
            see(d, "#reason").send_keys(
                "Plate down: grip, no support, bolts upright. The ears carry across layers: check against the stay."
            )
            d.find_element(By.XPATH, "//button[text()='Use this direction']").click()
            see(d, "[data-testid=choice]")
        wait(d, lambda d: d.find_elements(By.XPATH, "//button[text()='look from below']"))[0].click()
        disc = see(d, 'svg[data-half="upper"]')
        ActionChains(d).move_to_element_with_offset(disc, 34, 40).perform()
        keep(d, "direction")
        page = d.find_element(By.TAG_NAME, "body")
        if not d.find_elements(By.CSS_SELECTOR, "[data-testid=side-by-side]"):
            page.send_keys("=")
            see(d, "[data-testid=side-by-side]")
            page.send_keys("]")
            time.sleep(0.5)
            page.send_keys("=")
        d.find_element(By.XPATH, "//label[contains(., 'by weights')]/input").click()
        wait(d, lambda d: d.find_elements(By.XPATH, "//button[@role='tab'][text()='weighted']"))[0].click()
        d.get(address)
        open_part(d, "Sheave fork")
        see(d, '[data-testid=candidates] tr[data-rank="1"]', 120)
        page = d.find_element(By.TAG_NAME, "body")
        page.send_keys("r")
        wait(d, lambda d: d.find_elements(By.CSS_SELECTOR, "[aria-label*='point at a face'] canvas"))
        page.send_keys("2")
        see(d, "[data-testid=sum]")
        time.sleep(2)
        keep(d, "requirements")
        page.send_keys("v")
        log = see(d, "[data-testid=layer-log]", 120)
        ActionChains(d).move_to_element_with_offset(log, 0, 90).perform()
        see(d, "[data-testid=layer-drawn]")
        keep(d, "overhangs")
        strength(d, page)
        client = Client(address, "marrow", "float-and-sluice")
        for more in (first_and_last, hardware, pieces, walls):
            d.get(address)
            more(d)
        d.get(address)
        fit(d, client)
        d.get(address)
        batch(d, client)
        week(d, address)
        card(d, address)
        learned(d, address)
        d.get(address)
        wait(d, lambda d: not d.find_elements(By.XPATH, "//*[text()='being calculated']"), 300)
        keep(d, "parts")
        d.get(address + "farm")
        see(d, "[data-testid=record]")
        d.find_element(By.XPATH, "//button[contains(., 'Materials')]").click()
        see(d, "[data-field=z_t]")
        keep(d, "farm")
        d.get(address + "people")
        see(d, "[data-testid=people]")
        keep(d, "people")


if __name__ == "__main__":
    main(sys.argv[1])
