"""A closed pod becomes two halves with pegs, then a body with a plate put in at a pause."""

import pytest
from browser import read, see, signed_in, wait
from conftest import NAME, PASSWORD
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from test_choose_a_direction import bring_in
from test_desk import press

from demo.river_station import demo_files, gate_slide, solid_mesh
from demo.step_file import block_with_bores
from hewel_engine.io.stl import write_stl


@pytest.fixture(scope="module")
def pod(address, tmp_path_factory):
    file = tmp_path_factory.mktemp("parts") / "pod.stl"
    file.write_bytes(next(f.data for f in demo_files() if f.name == "Sounding pod"))
    with signed_in(address, NAME, PASSWORD) as page:
        bring_in(page, file, "Pod to divide", wholly=False)
        press(page, "k")
        see(page, "[data-testid=pieces]", 60)
        yield page


def button(page, words):
    return wait(page, lambda d: d.find_elements(By.XPATH, f"//button[text()='{words}']"), 60)[0]


def rows(page):
    """Name → cells of the table of pieces."""
    found = page.find_elements(By.CSS_SELECTOR, "[data-piece]")
    return {r.get_attribute("data-piece"): [c.text for c in r.find_elements(By.TAG_NAME, "td")] for r in found}


def fetched(page, link) -> str:
    asked = "fetch(arguments[0]).then((r) => r.text()).then(arguments[1])"
    return page.execute_async_script(asked, link.get_attribute("href"))


def test_the_pod_is_cut_in_two_and_nothing_wants_support(pod):
    button(pod, "x").click()
    button(pod, "z").click()
    field = see(pod, "input[aria-label='Where the cut lies, mm']")
    assert float(field.get_attribute("value")) == pytest.approx(17), "the middle of the part"
    button(pod, "Calculate pieces").click()
    wait(pod, lambda d: len(rows(d)) == 4, 120)
    assert {cells[-1] for cells in rows(pod).values()} == {"none"}
    assert len(pod.find_elements(By.CSS_SELECTOR, "[data-testid=seats] tbody tr")) == 2
    see(pod, "[aria-label='Pod to divide in 4 pieces'] canvas")


def test_the_pieces_are_told_in_words(pod):
    text = fetched(pod, see(pod, "a[href$='/list']"))
    assert "1 × half below" in text and "socket" in text and "go together one way" in text


def test_each_piece_becomes_a_part_with_its_own_findings(pod):
    button(pod, "Save them as parts").click()
    links = "[data-piece] a"
    wait(pod, lambda d: len(d.find_elements(By.CSS_SELECTOR, links)) == 4, 120)
    here = pod.current_url
    pod.find_element(By.CSS_SELECTOR, "[data-piece='half above'] a").click()
    wait(pod, lambda d: d.current_url != here and "overhangs" in d.current_url)
    read(pod, "Pod to divide, half above", 60)
    see(pod, "[data-testid=layer-log]", 120)
    press(pod, "k")
    read(pod, "this is the half above", 60)
    assert len(pod.find_elements(By.CSS_SELECTOR, "[data-testid=siblings] li")) == 3
    pod.get(here)
    wait(pod, lambda d: len(rows(d)) == 4, 60)


def test_a_plate_is_put_in_at_a_pause(pod):
    pod.find_element(By.XPATH, "//button[@role='tab'][text()='a plate put in']").click()
    button(pod, "Calculate pieces").click()
    pause = see(pod, "[data-testid=pause]", 120)
    assert "Pause after layer" in pause.text and "person must be there" in pause.text
    assert set(rows(pod)) == {"body", "plate"}
    text = fetched(pod, see(pod, "a[href$='/list']"))
    assert "Pauses: a person must be there" in text and "nothing may stand proud" in text


def test_what_cannot_be_is_said_why(pod):
    pod.find_element(By.XPATH, "//button[@role='tab'][text()='a feature apart']").click()
    button(pod, "Calculate pieces").click()
    wait(pod, lambda d: "pocket" in see(d, "[data-testid=pieces] [role=alert]").text, 60)


def test_a_slide_printed_in_place_is_swept(pod, tmp_path):
    file = tmp_path / "slide.stl"
    file.write_bytes(write_stl(solid_mesh(gate_slide())))
    pod.get(pod.current_url.split("/parts")[0])
    bring_in(pod, file, "Slide to sweep", wholly=False)
    press(pod, "k")
    see(pod, "[data-testid=pieces]", 60)
    pod.find_element(By.XPATH, "//button[@role='tab'][text()='printed in place']").click()
    stage = see(pod, "[aria-label='Slide to sweep as one piece'] canvas")
    wait(pod, lambda d: pointed(d, stage), 30)
    button(pod, "y").click()
    button(pod, "turn round").click()
    travel = pod.find_element(By.XPATH, "//label[contains(., 'how far')]//input")
    for far, verdict in (("20", "Runs free"), ("60", "Does not run free")):
        travel.send_keys(Keys.CONTROL + "a")
        travel.send_keys(far + Keys.ENTER)
        button(pod, "Calculate pieces").click()
        wait(pod, lambda d, v=verdict: v in see(d, "[data-testid=sweep]").text, 60)
    assert "0.30 mm are wanted" in see(pod, "[data-testid=sweep]").text


def pointed(page, stage) -> bool:
    """Presses on the middle of the picture, where the slide lies, and says whether a body was hit."""
    ActionChains(page).move_to_element(stage).move_by_offset(2, 2).pause(0.2).click().perform()
    return "moves" in see(page, "[data-testid=moving]").text


def test_a_step_part_goes_back_to_cad_piece_by_piece(address, tmp_path):
    file = tmp_path / "block.step"
    file.write_bytes(block_with_bores((40, 30, 24), [(10, 15, 5, 99)]))
    with signed_in(address, NAME, PASSWORD) as page:
        bring_in(page, file, "Block to cut", wholly=False)
        press(page, "k")
        see(page, "[data-testid=pieces]", 60)
        button(page, "z").click()
        button(page, "Calculate pieces").click()
        assert "goes back to CAD as STEP" in see(page, "[data-testid=exact-too]", 120).text
        button(page, "Save them as parts").click()
        half = wait(page, lambda d: d.find_elements(By.CSS_SELECTOR, "[data-piece='half below'] a"), 120)[0]
        half.click()
        press(page, "d")
        see(page, "[data-rank='1']", 120)
        page.find_element(By.ID, "reason").send_keys("on the cut, its bore upright")
        button(page, "Use this direction").click()
        step = see(page, "[data-testid=export-step]")
        assert step.text == "STEP, as drawn"
        text = fetched(page, step)
        assert text.startswith("ISO-10303-21") and text.count("CYLINDRICAL_SURFACE") == 3, "the bore and two sockets"
