"""Many files brought in at once, each with its outcome; the queue; finding a part again."""

from browser import see, wait
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from demo.river_station import demo_files

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


def test_the_queue_is_a_page(page):
    page.find_element(By.TAG_NAME, "body").send_keys("q")
    wait(page, lambda d: d.current_url.endswith("/queue"))
    assert "Queue" in see(page, "main h2").text
    rows = "//*[starts-with(@data-testid, 'lane-')] | //p[starts-with(text(), 'Nothing waits')]"
    assert wait(page, lambda d: d.find_elements(By.XPATH, rows))
