"""What a part must do, written from nothing with pointer and keys; what goes stale; nonsense refused."""

import json
import time

import pytest
from browser import open_part, read, see, wait
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select
from test_desk import FIRST, press, rests

UNDER_THE_PLATE = (0, 110)
"""From the middle of the specimen, px: a place on the plate's underside, seen from below."""
BORE_OF_THE_EAR = (-73, -35)
ROOT_OF_THE_EAR = (-75, 80)


def specimen(page):
    return see(page, "[aria-label*='point at a face']")


def point(page, x, y, click=True):
    """Moves over the part until the page has seen it, then presses."""
    part = specimen(page)
    chain = ActionChains(page).move_to_element_with_offset(part, x - 3, y).pause(0.1)
    chain.move_to_element_with_offset(part, x, y).pause(0.25).perform()
    if click:
        ActionChains(page).click().perform()


def on_desk(page):
    return see(page, "[data-testid=face-on-desk]")


def named(page, label):
    """The field that a label names."""
    wait(page, lambda d: d.find_elements(By.XPATH, f"//label[normalize-space(text())='{label}']"))
    key = page.find_element(By.XPATH, f"//label[normalize-space(text())='{label}']").get_attribute("for")
    return page.find_element(By.ID, key)


def write(field, text):
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys(text)


def choose(element, text):
    """Once it is among what can be chosen."""
    wait(element.parent, lambda _: text in [option.text for option in Select(element).options])
    Select(element).select_by_visible_text(text)


def button(page, text, within="//"):
    wait(page, lambda d: d.find_elements(By.XPATH, f"{within}button[normalize-space(text())='{text}']"))
    return page.find_element(By.XPATH, f"{within}button[normalize-space(text())='{text}']")


def use_face(page, name, purpose):
    face = on_desk(page)
    write(face.find_element(By.CSS_SELECTOR, "input:not([type=checkbox])"), name)
    button(page, purpose, "//*[@data-testid='face-on-desk']//").click()
    wait(page, lambda d: not d.find_elements(By.CSS_SELECTOR, "[data-testid=face-on-desk]"))


def refused(page, words):
    wait(page, lambda d: any(words in a.text for a in d.find_elements(By.CSS_SELECTOR, "[role=alert]")))
    log = page.get_log("browser")
    assert all("422" in e["message"] for e in log if e["level"] == "SEVERE"), log


def stage(page, name):
    return next(a for a in page.find_elements(By.CSS_SELECTOR, "nav a") if a.text.startswith(name))


def state(page, name):
    return stage(page, name).find_element(By.CSS_SELECTOR, "svg").get_attribute("aria-label")


def test_the_requirements_of_a_clevis_from_nothing(page):
    open_part(page, "Mast clevis")
    see(page, FIRST, 240)
    rests(page)
    button(page, "Use this direction")
    see(page, "#reason").send_keys("Plate down: grip and a clean foot.")
    button(page, "Use this direction").click()
    wait(page, lambda d: state(d, "Direction") == "settled")
    press(page, "r")
    see(page, "[data-testid=register]")
    wait(page, lambda d: d.find_elements(By.CSS_SELECTOR, "[aria-label*='point at a face'] canvas"))
    began = time.monotonic()

    # The job, and what it must do, with a guess where it would break.
    write(named(page, "copies"), "40")
    choose(named(page, "use"), "could injure somebody")
    see(page, "[data-testid=cautions]")
    write(named(page, "requirement"), "carry the pull of the stay")
    write(named(page, "number with unit"), "12 apples" + Keys.ENTER)
    refused(page, "there is no unit “apples”")
    write(named(page, "number with unit"), "250 N" + Keys.ENTER)
    button(page, "carry the pull of the stay").click()
    write(named(page, "source"), "rigging plan, sheet 4")
    write(named(page, "where"), "root of the ears")
    button(page, "point at it").click()
    point(page, *ROOT_OF_THE_EAR)
    wait(page, lambda d: d.find_elements(By.XPATH, "//button[starts-with(normalize-space(.), 'at ')]"))
    button(page, "Save").click()
    read(page, "splits between layers, root of the ears")

    # Held at the foot, pulled at the pin.
    button(page, "look from below").click()
    point(page, *UNDER_THE_PLATE)
    assert "faces −z" in on_desk(page).text
    use_face(page, "foot", "Fix")
    button(page, "look from above").click()
    point(page, *BORE_OF_THE_EAR)
    assert "bore ⌀ 12.00 mm" in on_desk(page).text
    on_desk(page).find_element(By.CSS_SELECTOR, "input[type=checkbox]").click()
    wait(page, lambda d: d.find_elements(By.CSS_SELECTOR, "[data-testid=face-on-desk] input:checked"))
    use_face(page, "pin bore", "Apply load")
    form = see(page, "[data-testid=new-load]")
    write(form.find_element(By.ID, "new-amount"), "12 apples")
    write(form.find_element(By.ID, "new-direction"), "0 0 1")
    write(form.find_element(By.CSS_SELECTOR, "[aria-label='Name of the new case']"), "stay pull" + Keys.ENTER)
    refused(page, "“12 apples” is not a force. Write it like 12 N")
    write(form.find_element(By.ID, "new-amount"), "25.5 kgf" + Keys.ENTER)
    case = see(page, "[data-case='stay pull']")
    wait(page, lambda d: "in balance" in see(d, "[data-testid=sum]").text)
    assert "250 N" in case.text and "bearing" in case.text
    choose(named(page, "covers"), "carry the pull of the stay")
    wait(page, lambda d: named(d, "covers").get_attribute("value"))

    # A force on no face, and a box that catches nothing.
    form = see(page, "[data-testid=new-load]")
    write(form.find_element(By.ID, "new-amount"), "3 N")
    write(form.find_element(By.ID, "new-direction"), "−z" + Keys.ENTER)
    refused(page, "This force acts on no face. Point at the face")
    press(page, "3")
    box = see(page, "[data-testid=new-box]")
    write(box.find_element(By.TAG_NAME, "input"), "200 0 0 210 10 10" + Keys.ENTER)
    refused(page, "catches nothing")
    point(page, *BORE_OF_THE_EAR)
    wait(page, lambda d: "already “pin bore”" in on_desk(d).text)
    button(page, "Surface function", "//*[@data-testid='face-on-desk']//").click()
    wait(page, lambda d: "sliding fit" in see(d, "[data-testid=duties]").text)

    # What shows it, the cautions, and the word that it is complete.
    press(page, "4")
    read(page, "no evidence")
    wait(page, lambda d: "load case “stay pull”" in see(d, "[data-testid=coverage]").text)
    write(named(page, "verification"), "statics by hand, sheet 5" + Keys.ENTER)
    wait(page, lambda d: d.find_elements(By.CSS_SELECTOR, "[data-covered=true]"))
    press(page, "1")
    button(page, "I have read this and will see to it").click()
    read(page, "Read by Ines Marrow")
    button(page, "Mark complete").click()
    wait(page, lambda d: state(d, "Requirements") == "settled")
    took = time.monotonic() - began
    assert took < 180, f"{took:.0f} s"

    # The choice was made before there were loads: it is stale for them, and for the duty, and says so.
    assert state(page, "Direction") == "stale" and "loads, touching faces changed" in stage(page, "Direction").text


def test_a_changed_load_makes_stale_what_depends_on_it(page):
    open_part(page, "Mast clevis")
    see(page, FIRST, 240)
    see(page, "#reason").send_keys("Looked at again with the loads.")
    button(page, "Use this direction").click()
    wait(page, lambda d: state(d, "Direction") == "settled")
    assert "pin bore, sliding fit: lying" in see(page, "[data-testid=duty-words]").text
    assert page.find_elements(By.CSS_SELECTOR, "[data-pull]"), "the pull is marked on the net"
    for tab in ("faces", "bores"):
        wait(page, lambda d, tab=tab: d.find_elements(By.XPATH, f"//button[@role='tab'][text()='{tab}']"))[0].click()
    press(page, "r")
    see(page, "[data-testid=register]")
    press(page, "2")
    amount = see(page, "[aria-label='Amount of the force']")
    write(amount, "30 kgf" + Keys.ENTER)
    wait(page, lambda d: state(d, "Direction") == "stale" and state(d, "Requirements") == "stale")
    press(page, Keys.TAB)
    page.execute_script("document.activeElement.blur()")
    press(page, "u")
    wait(page, lambda d: state(d, "Direction") == "settled" and state(d, "Requirements") == "settled")
    field = "[aria-label='Amount of the force']"
    wait(page, lambda d: see(d, field).get_attribute("value") == "25.5 kgf")
    see(page, "[aria-label='Take out load case stay pull']").click()
    wait(page, lambda d: not d.find_elements(By.CSS_SELECTOR, "[data-case='stay pull']"))
    press(page, "h")
    read(page, "load case “stay pull” taken out")
    button(page, "take back").click()
    press(page, Keys.ESCAPE)
    see(page, "[data-case='stay pull']")


def test_an_arrow_is_turned_by_its_head(page):
    open_part(page, "Mast clevis")
    press(page, "r")
    see(page, "[data-testid=register]")
    press(page, "2")
    grip = see(page, "[data-arrow] [role=slider]")
    before = see(page, "[aria-label='Direction']").get_attribute("value")
    ActionChains(page).click_and_hold(grip).move_by_offset(40, 30).pause(0.2).move_by_offset(10, 10).release().perform()
    wait(page, lambda d: see(d, "[aria-label='Direction']").get_attribute("value") != before)
    see(page, "[aria-label='Direction']")
    press(page, "u")
    wait(page, lambda d: see(d, "[aria-label='Direction']").get_attribute("value") == before)


def test_the_loads_file_goes_out_and_comes_in(page, tmp_path):
    open_part(page, "Mast clevis")
    press(page, "r")
    see(page, "[data-testid=register]")
    press(page, "2")
    see(page, "[data-case='stay pull']")
    link = page.find_element(By.XPATH, "//a[text()='with facets']").get_attribute("href")
    text = page.execute_async_script("fetch(arguments[0]).then((r) => r.text()).then(arguments[1])", link)
    given = json.loads(text)
    assert given["cases"][0]["name"] == "stay pull" and given["cases"][0]["loads"][0]["force_n"][2] == pytest.approx(
        250, 0.01
    )
    file = tmp_path / "loads.json"
    given["cases"].append(given["cases"][0] | {"name": "stay pull, storm", "factor": 2})
    file.write_text(json.dumps(given))
    page.find_element(By.CSS_SELECTOR, "[data-testid=loads-file]").send_keys(str(file))
    see(page, "[data-case='stay pull, storm']")
    file.write_text('{"cases": [{"name": "x", "loads": [{"force_n": [0, 0, 1]}]}]}')
    page.find_element(By.CSS_SELECTOR, "[data-testid=loads-file]").send_keys(str(file))
    refused(page, "acts on no face")
    press(page, "u")
    wait(page, lambda d: not d.find_elements(By.CSS_SELECTOR, "[data-case='stay pull, storm']"))


def test_the_farm_keeps_what_coupons_say(page, address, tmp_path):
    press(page, "f")
    read(page, "Weir 220")
    page.find_element(By.XPATH, "//ul[@aria-label='Records']//button[contains(., 'Weir 220')]").click()
    flow = see(page, "[data-field=flow_limit] input")
    write(flow, "12 apples" + Keys.ENTER)
    refused(page, "apples")
    write(see(page, "[data-field=flow_limit] input"), "0.0118 cm³/s" + Keys.ENTER)
    wait(page, lambda d: see(d, "[data-field=flow_limit] input").get_attribute("value") == "11.8")
    wait(page, lambda d: "flow limit" in see(d, "details").text)
    button(page, "take back").click()
    wait(page, lambda d: see(d, "[data-field=flow_limit] input").get_attribute("value") == "11")
    table = tmp_path / "machines.csv"
    table.write_text("record,field,value,unit,origin\r\nMill 180,bed_x,180,mm,maker\r\n")
    page.find_element(By.CSS_SELECTOR, "[data-testid=table-file]").send_keys(str(table))
    read(page, "1 new, 0 changed")
    page.find_element(By.XPATH, "//ul[@aria-label='Records']//button[contains(., 'Mill 180')]").click()
    wait(page, lambda d: "maker" in see(d, "[data-field=bed_x]").text)
    button(page, "Move to the bin").click()
    wait(page, lambda d: d.find_elements(By.XPATH, "//button[text()='bring back']"))


def test_a_job_prints_with_the_farm_s_own_limit(page):
    open_part(page, "Float arm")
    see(page, FIRST, 240)
    rests(page)
    page.find_element(By.XPATH, "//button[contains(., 'portable')]").click()
    choose(named(page, "machine"), "Weir 220")
    choose(named(page, "material"), "Reed PETG, grey")
    choose(named(page, "process record"), "Sturdy 0.2")
    choose(named(page, "overhang limit"), "this farm's record, hidden faces")
    write(named(page, "limit, °"), Keys.BACKSPACE)
    button(page, "Study again").click()
    wait(
        page,
        lambda d: (
            "58°" in d.find_element(By.TAG_NAME, "body").text and "coupon" in d.find_element(By.TAG_NAME, "body").text
        ),
    )
    see(page, FIRST, 240)
