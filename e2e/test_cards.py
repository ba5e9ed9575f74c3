"""Gauge cards: found, filled with units as people write them, sent as a link, used on a phone, refused in words."""

from browser import see, wait, wide
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select


def fill(page, **values: str) -> None:
    for name, text in values.items():
        field = see(page, f"[data-testid=card] input[name={name}]")
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(text)


def output(page, key: str) -> str:
    return see(page, f"[data-output={key}]").text


def test_a_card_is_found_and_filled_and_the_filled_card_is_a_link(page, address):
    page.get(address)
    see(page, "header")
    page.find_element(By.TAG_NAME, "body").send_keys(".")
    words = see(page, "[role=dialog] input")
    words.send_keys("Card: preload")
    wait(page, lambda d: "Card: preload" in see(d, "#command-0").text)  # the cards are read by themselves
    words.send_keys(Keys.ENTER)
    see(page, "[data-testid=card]")
    assert "Still wanted: torque, diameter" in see(page, "[aria-label=Card]").text
    fill(page, torque_nmm="1.5 N·m", diameter_mm="5")
    wait(page, lambda d: output(d, "preload_n") == "1500 N")
    assert output(page, "preload_low_n") == "1050 N" and "nut factor 0.2" in see(page, "[data-testid=put-in]").text
    link = page.current_url
    page.get(address)
    page.get(link)
    wait(page, lambda d: output(d, "preload_n") == "1500 N")
    assert see(page, "input[name=torque_nmm]").get_attribute("value") == "1.5 N·m"


def test_a_column_of_readings_is_pasted(page, address):
    page.get(address + "cards/allowable")
    fill(page, readings_mpa="31.2, 29.8, 30.4")
    wait(page, lambda d: output(d, "count") == "3")
    assert 20 < float(output(page, "bound_mpa").split()[0]) < 29.8
    fill(page, readings_mpa="31.2, 29.8")
    wait(page, lambda d: "2 readings say little" in see(d, "[data-testid=card]").text)


def test_sizes_of_hardware_are_looked_up(page, address):
    page.get(address + "cards")
    wait(page, lambda d: d.find_elements(By.LINK_TEXT, "Sizes of standard hardware"))[0].click()
    row = see(page, "[data-testid=sizes] [data-size=M5]").text.split()
    assert row[:2] == ["M5", "0.8"] and "ISO" in see(page, "[data-testid=sizes] footer").text


def test_a_card_on_a_phone_and_what_cannot_be(page, address):
    wide(page, 390, 844, phone=True)
    page.get(address + "cards/snap_length")
    see(page, "[data-testid=card]")
    sizes = page.execute_script("return [document.documentElement.scrollWidth, window.innerWidth]")
    assert sizes == [390, 390], "nothing stands out to the side"
    fill(page, thickness_mm="2", undercut_mm="1.5", strain_allowed="0.02")
    wait(page, lambda d: output(d, "length_mm") == "15 mm")  # √(c·t·y/ε), c of a plain arm 1.5 by hand
    page.find_element(By.LINK_TEXT, "all cards").click()
    wait(page, lambda d: d.find_elements(By.LINK_TEXT, "preload"))


def test_a_filled_card_goes_into_a_job_with_its_link(page, address):
    page.get(address + "cards/washer?force_n=500&outer_mm=10&hole_mm=5.5&strength_mpa=50")
    wait(page, lambda d: output(d, "area_mm2").startswith("54.78"))
    assert "outer" in see(page, "[data-testid=sketch]").text
    Select(see(page, "[aria-label='Part whose job it goes into']")).select_by_visible_text("Rail spacer")
    page.find_element(By.XPATH, "//button[text()='Put into its job']").click()
    wait(page, lambda d: d.find_elements(By.LINK_TEXT, "Rail spacer"))[0].click()
    register = see(page, "[data-testid=register]").text
    assert "washer: area 54.78 mm²" in register and "outer 10 mm" in register
