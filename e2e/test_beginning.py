"""A machine with no workshop on it: from the code on the terminal to the first part on the screen."""

import re

from browser import browser, errors, read, see, wait
from selenium.webdriver.common.by import By
from test_choose_a_direction import bring_in
from test_operations import start, stop

from demo.river_station import other_files


def fill(page, given: dict[str, str]) -> None:
    """Types into the fields of those labels, whatever stood there before."""
    for label, words in given.items():
        key = page.find_element(By.XPATH, f"//label[starts-with(normalize-space(.), '{label}')]").get_attribute("for")
        field = page.find_element(By.ID, key)
        field.clear()
        field.send_keys(words)


def test_the_first_person_begins_a_workshop_and_brings_in_a_part(home, tmp_path):
    process, address = start(home, "--no-demo")
    try:
        line = process.stdout.readline()
        code = re.search(r"with the code (\S+)", line)[1]
        part = other_files()[0]
        file = tmp_path / part.file_name
        file.write_bytes(part.data)
        with browser() as page:
            page.get(address)
            read(page, "There is no workshop yet")
            answers = {
                "Code": "not-the-code", "Name of the workshop": "Weir Lane", "Your name": "Tam Sedge",
                "Name to sign in with": "sedge", "Password": "still-water-nine",
            }  # fmt: skip
            fill(page, answers)
            button = page.find_element(By.XPATH, "//button[text()='Begin the workshop']")
            button.click()
            read(page, "code")
            wait(page, lambda d: d.find_elements(By.CSS_SELECTOR, "[role=alert]"))
            assert errors(page), "the refusal is an answer of the server, which a browser's console tells"
            fill(page, {"Code": code})
            button.click()
            read(page, "Import a part")
            assert "Tam Sedge" in page.find_element(By.TAG_NAME, "body").text
            bring_in(page, file, "First bushing", wholly=False)
            assert see(page, '[data-testid=candidates] tr[data-rank="1"]')
            assert errors(page) == []
    finally:
        stop(process)
