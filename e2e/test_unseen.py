"""Bodies that nothing here was made for, from the file to the verdict on their strength: by pointer, and by keys alone,
with every action counted.
"""

import os

import manifold3d as m3
import pytest
from browser import read, see, still, wait
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from test_requirements import button

from demo.river_station import solid_mesh
from hewel_engine.io.stl import write_stl

MOST = 25
"""Actions of a hand: a press, a file that is chosen, a word that is typed."""


def _box(x, y, z, at=(0.0, 0.0, 0.0)) -> m3.Manifold:
    return m3.Manifold.cube((x, y, z)).translate(at)


def _rod(d, long, at=(0.0, 0.0, 0.0)) -> m3.Manifold:
    return m3.Manifold.cylinder(long, d / 2, d / 2, 64).translate(at)


BODIES = {
    "angle with two holes": _box(50, 24, 6)
    + _box(6, 24, 40)
    - _rod(5.5, 20, (35, 12, -5))
    - _rod(5.5, 20).rotate((0, 90, 0)).translate((-5, 12, 26)),
    "stepped flange": _rod(44, 6) + _rod(24, 30) - _rod(12.2, 60, (0, 0, -5)) - _rod(4.5, 20, (17, 0, -5)),
    "ribbed tray": _box(60, 40, 3) + _box(60, 3, 16) + _box(60, 3, 16, (0, 37, 0)) + _box(3, 40, 9, (28, 0, 0)),
    "hand crank": m3.Manifold.batch_hull([_rod(22, 8), _rod(14, 8, (48, 0, 0))])
    + _rod(9, 30, (48, 0, 0))
    - _rod(8.2, 20, (0, 0, -5)),
    "hollow foot": m3.Manifold.batch_hull([_box(36, 36, 1, (-18, -18, 0)), _rod(20, 1, (0, 0, 27))])
    - m3.Manifold.batch_hull([_box(30, 30, 1, (-15, -15, -1)), _rod(15, 1, (0, 0, 21))])
    - _rod(6.4, 40, (0, 0, -2)),
}
TRIED = list(BODIES) if os.environ.get("HEWEL_THOROUGH") else ["stepped flange"]


class Hand:
    """Acts on the page, and counts."""

    def __init__(self, page):
        self.page, self.actions = page, 0

    def choose(self, path) -> None:
        self.actions += 1
        self.page.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys(str(path))

    def press(self, element) -> None:
        self.actions += 1
        element.click()

    def key(self, *keys) -> None:
        self.actions += 1
        self.page.find_element(By.TAG_NAME, "body").send_keys(*keys)

    def words(self, element, words: str) -> None:
        self.actions += 1
        element.send_keys(words)

    def point(self, x: float, y: float) -> None:
        """A press on the part, so far from its middle as shares of what is drawn."""
        self.actions += 1
        canvas = see(self.page, "canvas")
        wide, high = canvas.size["width"], canvas.size["height"]
        by = (round(x * wide), round(y * high))
        chain = ActionChains(self.page).move_to_element_with_offset(canvas, by[0] - 3, by[1]).pause(0.1)
        chain.move_by_offset(3, 0).pause(0.2).click().perform()


def brought_in(page, hand: Hand, folder, name: str) -> None:
    file = folder / f"{name}.stl"
    file.write_bytes(write_stl(solid_mesh(BODIES[name])))
    hand.choose(file)
    wait(page, lambda d: d.find_elements(By.XPATH, "//button[text()='Import']"))


def drawn(page) -> None:
    """Waits until the part stands on its own page with all that is known of its faces, and stands still."""
    told = lambda: see(page, "[data-testid=first-minute]").text
    wait(page, lambda _: "candidate" in told() and "looking for bores" not in told(), 240)
    still(page, see(page, "canvas", 60))


def verdict(page) -> str:
    """The sentence about its strength, on the part's own page, once it is there."""
    return see(page, "[data-testid=first-reserve]", 240).text


def held(page, names: str) -> bool:
    return names in see(page, "[data-testid=one-step]").text


PLACES = ((0.0, 0.09), (0.26, -0.23))
"""Where somebody would press on the crank as it lies there, as shares of what is drawn: its arm, the end of its pin."""


def test_by_pointer(page, tmp_path):
    hand = Hand(page)
    brought_in(page, hand, tmp_path, "hand crank")
    hand.press(button(page, "Import"))
    drawn(page)
    hand.press(button(page, "Fix a face"))
    hand.point(*PLACES[0])
    wait(page, lambda d: held(d, "held"), 60)
    read(page, "Point at a face that is loaded")
    hand.point(*PLACES[1])
    field = see(page, "[data-testid=load-on] input", 60)
    hand.words(field, "40 N")
    hand.press(button(page, "Save"))
    wait(page, lambda d: "40 N" in see(d, "[data-testid=one-step] table").text, 60)
    assert "reserve" in verdict(page)
    assert hand.actions <= MOST


@pytest.mark.parametrize("name", TRIED)
def test_by_pointer_in_the_lists(page, tmp_path, name):
    hand = Hand(page)
    brought_in(page, hand, tmp_path, name)
    hand.press(button(page, "Import"))
    drawn(page)
    hand.press(button(page, "Fix a face"))
    read(page, "Point at a face that holds the part")
    flats = lambda: page.find_elements(By.CSS_SELECTOR, "[data-testid=flats] tbody tr")
    hand.press(flats()[0])
    wait(page, lambda d: held(d, "held"), 60)
    read(page, "Point at a face that is loaded")
    hand.press(flats()[1])
    hand.words(see(page, "[data-testid=load-on] input", 60), "40 N")
    hand.press(button(page, "Save"))
    wait(page, lambda d: "40 N" in see(d, "[data-testid=one-step] table").text, 60)
    assert "reserve" in verdict(page)
    assert hand.actions <= MOST


@pytest.mark.parametrize("name", TRIED)
def test_by_keys_alone(page, tmp_path, name):
    hand = Hand(page)
    brought_in(page, hand, tmp_path, name)
    button(page, "Import").send_keys(Keys.ENTER)
    hand.actions += 1
    drawn(page)
    hand.key("i")
    read(page, "Point at a face that holds the part")
    hand.key("]")
    hand.key(Keys.ENTER)
    wait(page, lambda d: held(d, "held"), 60)
    read(page, "Point at a face that is loaded")
    hand.key("]")
    hand.key(Keys.ENTER)
    hand.words(see(page, "[data-testid=load-on] input", 60), f"40 N{Keys.ENTER}")
    wait(page, lambda d: "40 N" in see(d, "[data-testid=one-step] table").text, 60)
    assert "reserve" in verdict(page)
    assert hand.actions <= MOST
