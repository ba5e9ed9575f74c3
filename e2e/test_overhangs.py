"""The engineer checks every overhang: what hangs, where, by how much; cuts the part at a layer, settles findings."""

import time

import manifold3d as m3
import numpy as np
import pytest
from browser import browser, see, sign_in, signed_in, to_stage, wait
from conftest import NAME, PASSWORD
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from demo.river_station import PEOPLE
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.io.stl import write_stl

STAGE = "//nav//span[text()='Overhangs']"


def shelf() -> bytes:
    """An upright with a 14 mm shelf, a pin hanging from it, and a small lying bore; its foot makes it stand."""
    box = lambda x, y, z, at: m3.Manifold.cube((x, y, z), True).translate(at)
    solid = box(44, 30, 4, (8, 0, 2)) + box(6, 30, 40, (-10, 0, 20)) + box(14, 30, 4, (0, 0, 38))
    solid += m3.Manifold.cylinder(10, 2, 2, 48).translate((4, 0, 28))
    solid -= m3.Manifold.cylinder(40, 3, 3, 48, True).rotate((0, 90, 0)).translate((0, 8, 20))
    out = solid.to_mesh64()
    return write_stl(Mesh(np.asarray(out.vert_properties)[:, :3].copy(), np.asarray(out.tri_verts).astype(np.int32)))


def walk_the_shelf(page, folder):
    """Takes the shelf in, stands it upright, opens its overhangs."""
    source = folder / "shelf.stl"
    source.write_bytes(shelf())
    page.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys(str(source))
    field = see(page, "label + input")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("Gauge shelf")
    page.find_element(By.XPATH, "//button[text()='Import']").click()
    see(page, "nav[aria-label=Stages]", 240)
    to_stage(page, "Direction")
    upright = "//*[@data-testid='candidates']//tr[.//td[starts-with(normalize-space(.), '+z up')]]"
    see(page, '[data-testid=candidates] tr[data-rank="1"]', 240)
    wait(page, lambda d: not d.find_elements(By.XPATH, "//*[contains(text(), 'slicing candidate')]"), 120)
    wait(page, lambda d: d.find_elements(By.XPATH, upright))[0].click()
    see(page, "#reason").send_keys("The foot holds it; to see what hangs.")
    page.find_element(By.XPATH, "//button[text()='Use this direction']").click()
    see(page, "nav a[aria-current=page] svg[aria-label=settled]")
    page.find_element(By.XPATH, STAGE).click()
    see(page, "[data-testid=layer-log]", 60)


@pytest.fixture(scope="module")
def checked(address, tmp_path_factory):
    with signed_in(address, NAME, PASSWORD) as page:
        walk_the_shelf(page, tmp_path_factory.mktemp("shelf"))
        yield page


def text(page, css):
    return page.find_element(By.CSS_SELECTOR, css).text


def finding(page, kind):
    return page.find_element(By.XPATH, f"//div[@data-finding][.//span[text()='{kind}']]")


STATES = """
const rows = [...document.querySelectorAll("[data-finding]")];
return Object.fromEntries(rows.map((r) => [r.querySelector("button span span").textContent, r.dataset.state]));
"""


def states(page):
    """{kind: state} of every finding, read at one moment."""
    return page.execute_script(STATES)


def total(page):
    return text(page, "[data-testid=log-total] b")


def test_from_what_hangs_to_all_settled(checked):
    page = checked
    assert "45°" in see(page, "[data-testid=limit-line]").text
    assert states(page) == {"mid-air start": "open", "ledge": "open", "bore roof": "none"}
    wait(page, lambda d: "2 open" in d.find_element(By.XPATH, STAGE + "/following-sibling::span").text)

    # The finding tells its number, its limit, its place, its cost; the part flies to it.
    ledge = finding(page, "ledge")
    assert "13.3" in ledge.text and "/ 0.9 mm" in ledge.text
    ledge.find_element(By.TAG_NAME, "button").click()
    result = see(page, "[data-testid=finding-told]").text
    assert (
        "Ledge reaches out 13.3 mm, 36.0 mm up" in result
        and "Gusset below it" in result
        and "support under it" in result
    )

    # Without a reason nothing is settled; with one it is, and it can be opened again, and undone.
    accept = page.find_element(By.XPATH, "//button[text()='Accept']")
    assert not accept.is_enabled()
    page.find_element(By.TAG_NAME, "body").send_keys("w")
    wait(page, lambda d: d.switch_to.active_element.get_attribute("id") == "settle-reason")
    page.switch_to.active_element.send_keys("The underside is never seen.", Keys.ENTER)
    wait(page, lambda d: states(d)["ledge"] == "accepted")
    assert "never seen" in finding(page, "ledge").text
    page.find_element(By.XPATH, "//button[text()='Reopen it']").click()
    wait(page, lambda d: states(d)["ledge"] == "open")
    page.find_element(By.XPATH, "//button[text()='history']").click()
    undo = wait(page, lambda d: d.find_elements(By.XPATH, "//button[contains(., 'take back')]"))
    undo[0].click()
    wait(page, lambda d: states(d)["ledge"] == "accepted")
    page.find_element(By.TAG_NAME, "body").send_keys(Keys.ESCAPE)

    finding(page, "mid-air start").find_element(By.TAG_NAME, "button").click()
    see(page, "#settle-reason").send_keys("A sprue is drawn in the next revision.")
    page.find_element(By.XPATH, "//button[text()='Not applicable']").click()
    wait(page, lambda d: "2 settled" in d.find_element(By.XPATH, STAGE + "/following-sibling::span").text)
    assert see(page, "nav a[aria-current=page] svg").get_attribute("aria-label") == "settled"


def test_the_layer_log_cuts_the_part_and_counts_copies(checked):
    page = checked
    log = see(page, "[data-testid=layer-log]")
    assert log.get_attribute("aria-valuemax") == "200"
    ActionChains(page).move_to_element_with_offset(log, 0, log.size["height"] // 4).perform()
    drawn = see(page, "[data-testid=layer-drawn]")
    assert "section" in drawn.text and "mm²" in drawn.text
    begin = time.monotonic()
    page.execute_script("arguments[0].focus()", log)
    log.send_keys(Keys.HOME)
    wait(page, lambda d: "0.10 mm up" in " ".join(text(d, "[data-testid=layer-drawn]").split()))
    assert "1320 mm²" in text(page, "[data-testid=layer-drawn]"), "the foot, 44 by 30"
    log.send_keys(Keys.END, Keys.ARROW_DOWN)
    wait(page, lambda d: log.get_attribute("aria-valuenow") == "199")
    assert "39.70 mm up" in " ".join(text(page, "[data-testid=layer-drawn]").split())
    assert time.monotonic() - begin < 5
    assert "39.7 mm up" in log.get_attribute("aria-valuetext")

    one = total(page)
    copies = page.find_element(By.CSS_SELECTOR, "input[type=number]")
    copies.send_keys(Keys.CONTROL, "a")
    copies.send_keys("6")
    wait(page, lambda d: "for 6 together" in text(d, "[data-testid=log-total]"))
    assert one in text(page, "[data-testid=log-total]") and total(page) != one


def test_every_key_of_the_page_does_one_thing(checked):
    checked.find_element(By.TAG_NAME, "body").send_keys("?")
    see(checked, "[data-testid=keys]")
    keys = [k.text for k in checked.find_elements(By.CSS_SELECTOR, "[data-testid=keys] kbd")]
    assert len(keys) == len(set(keys)) and {"v", "y", "h", "w"} <= set(keys)
    checked.find_element(By.TAG_NAME, "body").send_keys(Keys.ESCAPE)


def test_nobody_but_an_engineer_is_asked_to_settle(address, checked):
    part = checked.current_url.split("/parts/")[1].split("/")[0]
    technician = next(p for p in PEOPLE if p[0] == "tolland")
    with browser() as other:
        sign_in(other, address, technician[0], technician[-1])
        other.get(f"{address}parts/{part}/overhangs")
        see(other, "[data-finding] button").click()
        see(other, "[data-testid=finding-told]")
        assert not other.find_elements(By.ID, "settle-reason")
