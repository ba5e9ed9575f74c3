"""The whole job in one go, by hand: a file comes in, and a packet that anybody can check goes out."""

import time

import pytest
from browser import fetched, read, see, tab, to_stage, until, wait
from conftest import NAME, PASSWORD
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from test_desk import press
from test_requirements import button, choose, named, on_desk, state, write

from demo.river_station import boom_post, box, solid_mesh
from hewel_engine.io.stl import write_stl
from house.client import Client

MOST_S = 360
"""s that the whole of it takes at most."""
PART = "Davit foot"


@pytest.fixture
def client(address):
    return Client(address, NAME, PASSWORD)


def text(page, name: str) -> str:
    return see(page, f"[data-testid={name}]").text


def rests(client) -> None:
    until(lambda: client.get("work") == [], 120)


def brought_in(page, folder) -> None:
    """A post on a foot with a shelf that hangs in the air."""
    file = folder / "davit-foot.stl"
    file.write_bytes(write_stl(solid_mesh(boom_post() + box(24, 16, 8, (0, 21, 46)))))
    page.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys(str(file))
    write(see(page, "label + input"), PART)
    button(page, "Import").click()
    wait(page, lambda d: "1 bore" in see(d, "[data-testid=first-minute]").text, 60)


def loaded(page) -> None:
    """Held by its foot, pulled sideways at its bore; both taken from the lists."""
    button(page, "Fix a face").click()
    read(page, "Point at a face that holds the part")
    see(page, "[data-testid=flats] tbody tr").click()
    wait(page, lambda d: "held" in text(d, "one-step"))
    read(page, "Point at a face that is loaded")
    see(page, "[data-testid=bores] tbody tr").click()
    see(page, "[data-testid=load-on] input").send_keys("120 N", Keys.ENTER)
    wait(page, lambda d: "120 N" in text(d, "one-step"))
    assert "reserve" in see(page, "[data-testid=first-reserve]", 60).text


def required(page) -> None:
    press(page, "r")
    see(page, "[data-testid=register]")
    write(named(page, "copies"), "6")
    choose(named(page, "use"), "functional")
    write(named(page, "requirement"), "hold the davit in a side wind")
    write(named(page, "number with unit"), f"120 N{Keys.ENTER}")
    button(page, "hold the davit in a side wind").click()
    write(named(page, "source"), "davit drawing, upper lock")
    button(page, "Save").click()
    press(page, "2")
    choose(named(page, "covers"), "hold the davit in a side wind")
    wait(page, lambda d: named(d, "covers").get_attribute("value"))
    press(page, "3")
    see(page, "[data-testid=new-box]")
    press(page, "o")
    press(page, Keys.ENTER)
    wait(page, lambda d: "bore" in on_desk(d).text)
    button(page, "Surface function", "//*[@data-testid='face-on-desk']//").click()
    wait(page, lambda d: "sliding fit" in text(d, "duties"))
    press(page, "4")
    write(named(page, "verification"), f"one of a plate pulled sideways{Keys.ENTER}")
    wait(page, lambda d: d.find_elements(By.CSS_SELECTOR, "[data-covered=true]"))
    button(page, "Mark complete").click()
    wait(page, lambda d: state(d, "Requirements") == "settled")


def stood(page, client) -> None:
    """On a machine of the farm, in the first direction that is proposed."""
    to_stage(page, "Direction")
    wait(page, lambda d: d.find_elements(By.XPATH, "//button[contains(., 'portable')]"))[0].click()
    choose(named(page, "machine"), "Weir 220")
    choose(named(page, "material"), "Reed PETG, grey")
    choose(named(page, "process record"), "Sturdy 0.2")
    button(page, "Study again").click()
    wait(page, lambda d: d.find_elements(By.XPATH, "//button[contains(., 'Weir 220')]"), 60)
    rests(client)
    see(page, "#reason").send_keys("Its foot lies flat; bolts clamp the layers at its root.")
    button(page, "Use this direction").click()
    wait(page, lambda d: state(d, "Direction") == "settled")


def remedied(page, client) -> None:
    """The shelf gets what it needs, as a revision."""
    press(page, "v")
    button(page, "Check layers again").click()
    wait(page, lambda d: "ledge" in see(d, "[data-testid=findings], main").text and state(d, "Overhangs") == "open", 60)
    tab(page, "remedies")
    button(page, "Calculate remedies").click()
    see(page, "[data-testid=before-after]", 60)
    wait(page, lambda d: not d.find_elements(By.CSS_SELECTOR, "[data-testid=remedies] [role=status]"), 60)
    was = page.current_url.split("/overhangs")[0]
    button(page, "Take as a revision").click()
    wait(page, lambda d: d.current_url.split("/overhangs")[0] != was, 60)
    read(page, "rev 2", 60)
    rests(client)


STEPS = {}
