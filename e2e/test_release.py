"""From a file to its first reserve on one page, by keys; then a release: what is missing, the packet, a revision."""

from browser import fetched, open_part, read, see, until, wait
from conftest import NAME, PASSWORD
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from test_desk import press

from demo.step_file import block_with_bores
from hewel_engine.release.packet import checked
from house.client import Client

REASON = "Printed last month in the same way, and it held."


def written(folder, size):
    path = folder / "tongue.step"
    path.write_bytes(block_with_bores(size, []))
    return path


def imported(page, path, name):
    """Takes a part in and lands on its first page."""
    page.find_element(By.CSS_SELECTOR, "input[type=file]").send_keys(str(path))
    field = see(page, "label + input")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys(name)
    page.find_element(By.XPATH, "//button[text()='Import']").click()
    see(page, "[data-testid=first-minute]", 240)


def test_from_a_file_to_its_first_reserve_on_one_page_by_keys(page, tmp_path):
    imported(page, written(tmp_path, (40, 12, 8)), "tongue by keys")
    wait(page, lambda d: "candidate" in see(d, "[data-testid=first-minute]").text, 240)
    see(page, "canvas", 60)
    press(page, "i")
    read(page, "Point at a face that holds the part")
    press(page, "]")
    press(page, Keys.ENTER)
    wait(page, lambda d: "held" in see(d, "[data-testid=one-step]").text, 60)
    read(page, "Point at a face that is loaded")
    press(page, "]")
    press(page, Keys.ENTER)
    see(page, "[data-testid=load-on] input", 60).send_keys("30 N", Keys.ENTER)
    wait(page, lambda d: "30 N" in see(d, "[data-testid=one-step] table").text, 60)
    reserve = see(page, "[data-testid=first-reserve]", 240).text
    assert reserve.startswith("reserve") or "reserve" in reserve, reserve
    assert " h, " in see(page, "[data-testid=first-price]", 120).text


def proven(client, name, path):
    """A part without loads for which a trial alone is missing; its number."""
    client.upload(f"{name}.step", path.read_bytes())
    found = until(lambda: next((p["id"] for p in client.get("parts") if p["name"] == name), None))
    part = lambda: client.get(f"parts/{found}")
    study = until(
        lambda: part()["study"] and (s := client.get(f"studies/{part()['study']}"))["work"]["state"] == "done" and s
    )
    best = min(study["candidates"], key=lambda c: c["rank"])
    given = {"base": part()["version"], "up": best["up"], "reason": "It stands on its largest face."}
    client.send(f"studies/{part()['study']}/choice", given)
    return found, part


def test_released_fetched_checked_and_revised(page, downloads, tmp_path, address):
    client = Client(address, NAME, PASSWORD)
    found, part = proven(client, "tongue released", written(tmp_path, (30, 14, 6)))
    open_part(page, "tongue released", "Release")
    read(page, "No requirement is written: nothing says what the part must do.", 60)
    button = lambda words: page.find_element(By.XPATH, f"//button[normalize-space(text())='{words}']")
    assert not button("Release").is_enabled()
    rows = [{"id": "r", "kind": "environment", "statement": "stands out in the rain", "source": "drawing 7"}]
    shown = [{"id": "e", "requirement": "r", "kind": "inspection", "words": "left out over the winter"}]
    client.send(
        f"parts/{found}/job",
        {"base": part()["version"], "sections": {"requirements": {"rows": rows}, "evidence": {"rows": shown}}},
        "PUT",
    )
    client.send(f"needs/{found}/settle", {"base": part()["version"]})
    until(lambda: client.get("work") == [], 240)
    page.refresh()
    wait(
        page,
        lambda d: (
            [r.get_attribute("data-missing") for r in d.find_elements(By.CSS_SELECTOR, "[data-missing]")] == ["trial"]
        ),
        60,
    )
    field = see(page, "[aria-label=Gate] form input")
    field.send_keys("short")
    assert not button("Release").is_enabled(), "that is no reason"
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys(REASON)
    read(page, "Nothing is missing.")
    button("Release").click()
    see(page, "[data-testid=frozen]", 120)
    see(page, "[data-testid=packet]").click()
    told = checked(fetched(page, downloads, "*.zip").read_bytes())
    assert told.sound and told.manifest["waiver"] == REASON, told.faults
    press(page, "p")
    read(page, "What it carries")
    assert not page.find_elements(By.XPATH, "//button[text()='Fix a face']"), "it is read only"
    press(page, "z")
    see(page, "[data-testid=frozen] button").click()
    read(page, "rev 2", 120)
    press(page, "p")
    see(page, "[data-testid=one-step] button", 60)
