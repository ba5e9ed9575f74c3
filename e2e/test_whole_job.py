"""The whole job in one go, by hand: a file comes in, and a packet that anybody can check goes out."""

import pytest
from browser import fetched, read, see, tab, to_stage, until, wait
from conftest import NAME, PASSWORD
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from test_desk import press
from test_requirements import button, choose, named, on_desk, state, write

from demo.river_station import boom_post, box, solid_mesh
from hewel_engine.io.stl import write_stl
from hewel_engine.release.packet import checked
from house.client import Client

PART = "Davit foot"


@pytest.fixture
def client(address):
    return Client(address, NAME, PASSWORD)


def text(page, name: str) -> str:
    return see(page, f"[data-testid={name}]").text


def rests(client) -> None:
    until(lambda: client.get("work") == [], 120)


def act(page, words: str, seconds: float = 60) -> None:
    """Presses a button as soon as it can be pressed."""
    here = f"//button[normalize-space(text())='{words}'][not(@disabled)]"
    wait(page, lambda d: next(iter(d.find_elements(By.XPATH, here)), None), seconds).click()


def on_a_revision(page, client, words: str) -> None:
    was = page.current_url.split("/parts/")[1].split("/")[0]
    act(page, words)
    wait(page, lambda d: was not in d.current_url, 60)
    rests(client)


def brought_in(page, folder) -> None:
    """A post on a foot with a shelf that hangs in the air."""
    file = folder / "davit-foot.stl"
    file.write_bytes(write_stl(solid_mesh(boom_post() + box(24, 16, 8, (0, 21, 46)))))
    read(page, "Import a part")
    page.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys(str(file))
    write(see(page, "label + input"), PART)
    button(page, "Import").click()
    wait(page, lambda d: "1 bore" in see(d, "[data-testid=first-minute]").text, 60)


def loaded(page) -> None:
    """Held by its foot, pulled sideways at its bore; both taken from the lists."""
    act(page, "Fix a face")
    read(page, "Point at a face that holds the part")
    see(page, "[data-testid=flats] tbody tr").click()
    wait(page, lambda d: "held" in text(d, "one-step"))
    read(page, "Point at a face that is loaded")
    see(page, "[data-testid=bores] tbody tr").click()
    see(page, "[data-testid=load-on] input").send_keys("60 N", Keys.ENTER)
    wait(page, lambda d: "60 N" in text(d, "one-step"))
    assert "reserve" in see(page, "[data-testid=first-reserve]", 60).text


def required(page) -> None:
    press(page, "r")
    see(page, "[data-testid=register]")
    write(named(page, "copies"), "6")
    choose(named(page, "use"), "functional")
    write(named(page, "requirement"), "hold the davit in a side wind")
    write(named(page, "number with unit"), f"60 N{Keys.ENTER}")
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
    on_a_revision(page, client, "Take as a revision")


def settled(page) -> None:
    """The roof that stays is accepted with a reason."""
    wait(page, lambda d: d.find_elements(By.XPATH, "//button[contains(., 'bore roof')]"))[0].click()
    write(see(page, "#settle-reason"), "It prints well here, and the pin bears below.")
    act(page, "Accept")
    wait(page, lambda d: state(d, "Overhangs") == "settled")


def confirmed(page) -> None:
    """What came along with a revision is looked at and confirmed."""
    to_stage(page, "Direction")
    act(page, "Confirm it")
    wait(page, lambda d: state(d, "Direction") == "settled")
    press(page, "r")
    see(page, "[data-testid=register]")
    act(page, "Mark complete")
    wait(page, lambda d: state(d, "Requirements") == "settled")


def fitted(page, client) -> None:
    """Its bore is drawn for the pin that goes through it."""
    to_stage(page, "Fit")
    see(page, "[data-fit='bore 8']")
    act(page, "Draw 1 of 1")
    on_a_revision(page, client, "Take as a revision")


def calibrated(page, address) -> None:
    """What the layers bear between one another on this machine: bars that were pulled, one of them on the stand."""
    here = page.current_url
    page.get(f"{address}coupons")
    see(page, "[data-testid=coverage]")
    for label, words in (("New sheet of", "tensile bar, upright"), ("machine", "Weir 220"),
                         ("material", "Reed PETG, grey"), ("process", "Sturdy 0.2")):  # fmt: skip
        field = see(page, "nav").find_element(By.XPATH, f"//label[text()='{label}']/following-sibling::*")
        choose(field, words)
    act(page, "Begin")
    see(page, "[aria-label='Paste readings']").send_keys("8.0;6.0;1390\n8.0;6.0;1360\n8.0;6.0;1410\n8.02;6.0;1380")
    act(page, "Add 4")
    act(page, "Pull a steel bar")
    wait(page, lambda d: "The stand gives" in text(d, "curve-read"), 60)
    act(page, "Use it for this sheet")
    wait(page, lambda d: "mm/N" in see(d, "[data-testid=stand] h3").text)
    act(page, "Pull the bar")
    wait(page, lambda d: "Broke at" in text(d, "curve-read"), 60)
    act(page, "Put it among the readings")
    wait(page, lambda d: len(d.find_elements(By.CSS_SELECTOR, "[data-reading]")) == 5)
    act(page, "Take into the record")
    wait(page, lambda d: "Taken." in text(d, "numbers"))
    page.get(here)


def checked_in_full(page, client) -> str:
    """The verdict once the direction is solved with its own layers."""
    press(page, "s")
    act(page, "Check in full")
    told = lambda d: see(d, "[data-testid=verdict]", 60).text
    wait(page, lambda d: not any(words in told(d) for words in ("coarse", "all directions")), 120)
    rests(client)
    return told(page)


def held(page, client) -> None:
    """What it bears with its bolts."""
    press(page, "j")
    act(page, "Work out hardware")
    see(page, "[data-testid=clamped]", 120)
    rests(client)


CORNERS = ((8.5, 8.5), (-8.5, 8.5), (-8.5, -8.5), (8.5, -8.5))


def bolted(page, client) -> None:
    """Four bolts down the post, their heads on its top; cut into it."""
    press(page, "j")
    for number, (x, y) in enumerate(CORNERS, 1):
        act(page, "Point at its place")
        canvas = see(page, "canvas")
        place = (0, round(-0.36 * canvas.size["height"]))
        ActionChains(page).move_to_element_with_offset(canvas, *place).pause(0.3).click().perform()
        field = f"[aria-label='bolt {number}: goes in at, mm']"
        write(see(page, field), f"{x}, {y}, 100{Keys.ENTER}")
        wait(page, lambda d, at=field, y=y: f"{abs(y):.2f}, 100.00" in see(d, at).get_attribute("value"))
    held(page, client)
    on_a_revision(page, client, "Take as a revision, 4 cut")


def in_a_batch(page, client) -> None:
    """One by itself, to begin with."""
    press(page, "b")
    act(page, "Fill the plate")
    see(page, "[data-testid=batch-figures]", 60)
    rests(client)
    write(see(page, "[aria-label='Copies on the plate']"), "1")
    wait(page, lambda d: text(d, "batch-words").lower().removeprefix("fails: ").startswith("one at a time"))
    reason = wait(page, lambda d: d.find_elements(By.XPATH, "//label[starts-with(., 'Why one')]"))[0]
    page.find_element(By.ID, reason.get_attribute("for")).send_keys("a first one, to be broken")
    act(page, "Use this batch")
    see(page, "[data-testid=chosen-batch]")


def printed(page, client, address) -> None:
    """Ordered, and printed on the simulated farm by its traveller."""
    form = see(page, "[data-testid=order-parts]")
    write(form.find_element(By.XPATH, ".//label[text()='Good parts']/following-sibling::input"), "1")
    form.find_element(By.XPATH, ".//button[text()='Order']").click()
    wait(page, lambda d: "Ordered" in text(d, "order-parts"))
    here = page.current_url
    order = next(o["id"] for o in client.get("week")["orders"] if o["part"] == PART)
    page.get(f"{address}plates/{order}/0")
    act(page, "Start")
    wait(page, lambda d: text(d, "printing").startswith("finished"), 120)
    act(page, "1 good, taken off")
    wait(page, lambda d: "1 good" in text(d, "traveller"))
    page.get(here)
    see(page, "[data-testid=chosen-batch]")  # a key pressed before is lost


def tried(page) -> None:
    """Pulled until it broke, above what it has to bear."""
    press(page, "c")
    form = see(page, "[data-testid=new-trial]")
    field = lambda label: form.find_element(By.XPATH, f".//label[text()='{label}']/following-sibling::*")
    assert "Predicted" in form.text
    field("load at the break").send_keys("0.5 kN")
    choose(field("verdict"), "passed")
    act(page, "Save the trial")
    wait(page, lambda d: "measured over predicted" in see(d, "[data-trial]").text)


def shown(page) -> None:
    """The trial is the evidence that was asked for."""
    press(page, "r")
    see(page, "[data-testid=register]")
    press(page, "4")
    write(named(page, "verification"), f"pulled sideways, it bore 0.5 kN{Keys.ENTER}")
    wait(page, lambda d: d.find_elements(By.CSS_SELECTOR, "[data-covered=true]"))
    if state(page, "Requirements") != "settled":
        act(page, "Mark complete")
        wait(page, lambda d: state(d, "Requirements") == "settled")


def missing(page) -> list[str]:
    """What the release of the locked process still waits for."""
    to_stage(page, "Release")
    tab(page, "locked process")
    see(page, "[data-testid=missing]")
    return [r.get_attribute("data-missing") for r in page.find_elements(By.CSS_SELECTOR, "[data-missing]")]


def test_from_a_file_to_a_packet_that_is_checked(page, client, address, tmp_path, downloads):
    client.send("week/hands", {"days": [[0, 24]] * 7, "people": 2}, "PUT")
    brought_in(page, tmp_path)
    loaded(page)
    required(page)
    calibrated(page, address)
    stood(page, client)
    early = missing(page)
    assert {"overhangs-stale", "batch", "trial"} <= set(early), early
    remedied(page, client)
    settled(page)
    fitted(page, client)
    confirmed(page)
    checked_in_full(page, client)
    bolted(page, client)
    confirmed(page)
    checked_in_full(page, client)
    wait(page, lambda d: text(d, "verdict").startswith("Holds"))  # the last of its answers
    held(page, client)
    in_a_batch(page, client)
    printed(page, client, address)
    tried(page)
    shown(page)
    rests(client)
    assert missing(page) == []
    act(page, "Release")
    see(page, "[data-testid=frozen]", 120)
    see(page, "[data-testid=packet]").click()
    packet = fetched(page, downloads, "*.zip").read_bytes()
    assert checked(packet).sound, checked(packet).faults
    spoiled = bytearray(packet)
    spoiled[len(spoiled) // 2] ^= 1
    assert not checked(bytes(spoiled)).sound, "one flipped bit is found"
