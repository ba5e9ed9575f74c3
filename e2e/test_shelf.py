"""Many files brought in at once, each with its outcome; the queue; finding a part again."""

from browser import open_part, see, to_stage, until, wait
from conftest import NAME, PASSWORD
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from test_requirements import button, choose, named

from demo.river_station import demo_files
from house.client import Client

NAMES = ("weir lip", "sill block")


def listed(page):
    return [a.text for a in page.find_elements(By.CSS_SELECTOR, "table tbody td a[href$=facts]")]


def test_several_files_come_in_at_once_and_a_bad_one_holds_up_none(page, tmp_path):
    small = sorted(demo_files(), key=lambda f: len(f.data))[:2]
    paths = []
    for name, part in zip(NAMES, small, strict=True):
        paths.append(tmp_path / f"{name.replace(' ', '-')}.{part.file_name.rsplit('.', 1)[1]}")
        paths[-1].write_bytes(part.data)
    paths.insert(1, tmp_path / "no-part.stl")
    paths[1].write_bytes(b"not a part " * 9)
    page.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys("\n".join(map(str, paths)))
    assert "3 files" in see(page, "section [class*=dashed]").text
    page.find_element(By.XPATH, "//button[text()='Import']").click()
    wait(page, lambda d: len(d.find_elements(By.CSS_SELECTOR, "[data-testid=sent] a")) == 2, 120)
    sent = see(page, "[data-testid=sent]").text
    assert "no-part.stl was not imported." in sent and "Nothing of it was kept." in sent
    assert sent.count("The same file is here already") == 2, "both came from files of the demo"
    wait(page, lambda d: set(NAMES) <= set(listed(d)))
    page.get_log("browser")  # a refusal is told by its work, not by the console


def test_a_part_is_found_by_its_name_and_the_list_is_sorted(page):
    wait(page, lambda d: set(NAMES) <= set(listed(d)))
    search = see(page, "input[type=search]")
    search.send_keys("SILL BL")
    wait(page, lambda d: listed(d) == ["sill block"])
    search.send_keys(Keys.CONTROL, "a")
    search.send_keys("no such part")
    wait(page, lambda d: "No part is called that." in d.find_element(By.TAG_NAME, "main").text)
    search.send_keys(Keys.CONTROL, "a")
    search.send_keys(Keys.BACKSPACE)
    page.find_element(By.XPATH, "//button[text()='name']").click()
    wait(page, lambda d: in_order(listed(d), "Mast clevis", "sill block", "weir lip"))
    page.find_element(By.XPATH, "//button[text()='newest']").click()
    for name in NAMES:
        wait(page, lambda d, name=name: in_order(listed(d), name, "Mast clevis"))


def test_what_waits_for_a_person_is_one_press_away(page):
    wait(page, lambda d: "Direction: choose one" in see(d, "table tbody").text)
    page.find_element(By.XPATH, "//button[text()='waits for me']").click()
    wait(page, lambda d: "Mast clevis" in listed(d))
    page.find_element(By.XPATH, "//tr[contains(., 'Mast clevis')]//a[contains(., ':')]").click()
    assert wait(page, lambda d: "/parts/" in d.current_url and not d.current_url.endswith("/"))


def in_order(rows, *names):
    """Whether the names are among the rows, in this order; other journeys' parts may be between."""
    return [row for row in rows if row in names] == list(names)


def chosen(page, *names) -> None:
    for name in names:
        see(page, f"[aria-label='Choose {name}']").click()
    wait(page, lambda d: f"{len(names)} chosen" in see(d, "[data-testid=chosen]").text)


def test_several_are_labelled_found_by_it_and_compared(page):
    wait(page, lambda d: set(NAMES) <= set(listed(d)))
    chosen(page, *NAMES)
    see(page, "[aria-label='Label for the chosen parts']").send_keys("spring", Keys.ENTER)
    choose(see(page, "select[aria-label=Label]"), "spring")
    wait(page, lambda d: set(listed(d)) == set(NAMES))
    button(page, "Compare").click()
    wait(page, lambda d: "beside=" in d.current_url)
    assert any(name in see(page, "[data-testid=beside]").text for name in NAMES)


def test_what_cannot_be_ordered_is_told_for_each(page):
    wait(page, lambda d: set(NAMES) <= set(listed(d)))
    chosen(page, *NAMES)
    button(page, "Order").click()
    see(page, "[data-testid=order-each] input").send_keys("3", Keys.ENTER)
    told = lambda d: see(d, "[data-testid=chosen]").text
    wait(page, lambda d: all(f"{name}: " in told(d) for name in NAMES))
    assert "batch" in told(page) and "ordered, 3 of each" not in told(page)
    refusals = page.get_log("browser")
    assert all("409" in e["message"] or "422" in e["message"] for e in refusals if e["level"] == "SEVERE"), refusals


def test_what_another_part_must_do_is_taken_over(page, address):
    client = Client(address, NAME, PASSWORD)
    ids = {p["name"]: p["id"] for p in client.get("parts")}
    first = client.get(f"parts/{ids[NAMES[0]]}")
    need = first["job"]["need"] | {"quantity": 17}
    client.send(f"parts/{first['id']}/job", {"base": first["version"], "sections": {"need": need}}, "PUT")
    open_part(page, NAMES[1], "Part")
    choose(see(page, "select[aria-label='Job as of']"), NAMES[0])
    until(lambda: client.get(f"parts/{ids[NAMES[1]]}")["job"]["need"]["quantity"] == 17, 30)
    to_stage(page, "Requirements")
    wait(page, lambda d: named(d, "copies").get_attribute("value") == "17")


def test_the_queue_is_a_page(page):
    page.find_element(By.TAG_NAME, "body").send_keys("q")
    wait(page, lambda d: d.current_url.endswith("/queue"))
    assert "Queue" in see(page, "main h2").text
    rows = "//*[starts-with(@data-testid, 'lane-')] | //p[starts-with(text(), 'Nothing waits')]"
    assert wait(page, lambda d: d.find_elements(By.XPATH, rows))
