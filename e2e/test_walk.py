"""Somebody new walks through a job stage by stage, and asks a number what it is."""

from browser import open_part, see, wait
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

STAGES = [
    "Part", "Requirements", "Direction", "Overhangs", "Pieces", "Walls", "Strength", "Hardware", "Fit", "Batch",
    "Trials", "Release",
]  # fmt: skip


def told(page, number: int, name: str) -> str:
    """What the walk says at a stage, once it says how it stands there."""
    begins = f"{number}/{len(STAGES)} {name}."
    return wait(page, lambda d: (t := see(d, "[data-testid=walk]").text).startswith(begins) and "Here:" in t and t)


def test_a_job_is_walked_through_by_key_and_every_stage_says_what_it_decides(page):
    open_part(page, "Boom post")
    page.find_element(By.LINK_TEXT, "walk through").click()
    said = []
    for number, name in enumerate(STAGES, start=1):
        said.append(told(page, number, name))
        assert f"/{name.lower()}" in page.current_url or number == 1
        if number < len(STAGES):
            onward = page.find_element(By.LINK_TEXT, f"{STAGES[number]} →")
            onward.send_keys(Keys.ENTER)
    assert len(set(said)) == len(STAGES)
    page.back()
    told(page, 11, "Trials")
    page.refresh()
    told(page, 11, "Trials")
    page.find_element(By.XPATH, "//button[text()='leave']").click()
    wait(page, lambda d: not d.find_elements(By.CSS_SELECTOR, "[data-testid=walk]"))
    see(page, "[data-trial]")


def test_a_number_says_what_it_is(page):
    open_part(page, "Boom post", "Direction")
    see(page, "[data-testid=candidates] [data-explained=reserve]", 60).click()
    said = wait(page, lambda d: (t := see(d, "[data-testid=explained]").text).lower().startswith("reserve") and t)
    assert "RF = " in said and "Handbook 6" in said and "Used in Direction" in said
    page.find_element(By.TAG_NAME, "body").send_keys(Keys.ESCAPE)
    wait(page, lambda d: not d.find_elements(By.CSS_SELECTOR, "[data-testid=explained]"))
    page.find_element(By.CSS_SELECTOR, "[data-testid=candidates] [data-explained=tipping]").send_keys(Keys.ENTER)
    wait(page, lambda d: see(d, "[data-testid=explained]").text.lower().startswith("tipping angle"))
