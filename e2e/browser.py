"""A headless browser with a fresh profile, as a person at a 1280 × 800 screen would have it."""

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from selenium import webdriver
from selenium.common.exceptions import StaleElementReferenceException, TimeoutException
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.by import By
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import WebDriverWait

WIDTH, HEIGHT = 1280, 800
SWITCHES = [
    "--headless=new",
    "--no-sandbox",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--use-angle=swiftshader",
    "--enable-unsafe-swiftshader",
    "--ignore-gpu-blocklist",
    "--force-device-scale-factor=1",
    "--hide-scrollbars",
    "--disable-gpu-compositing",  # without a graphics card, putting the page together is quicker by plain software
    "--force-prefers-reduced-motion",
]


SHOWN = """
const e = arguments[0];
const listed = e instanceof HTMLOptionElement;
if (!listed && !e.checkVisibility({ visibilityProperty: true, opacityProperty: true })) return '';
const words = listed || e instanceof SVGElement ? e.textContent : e.innerText;
return words.replace(/[\\t\\u00a0 ]+/g, ' ').replace(/ ?\\n\\s*/g, '\\n').trim();
"""
"""The words of an element as they are shown, put together by the page itself; of what a list offers, folded or not."""


class Element(WebElement):
    """One whose words come from the page: the driver's own way to them walks all that lies within, which for a whole
    page takes a hundred times as long, and journeys read it over and over while they wait.
    """

    @property
    def text(self) -> str:
        return self.parent.execute_script(SHOWN, self)


class Patient(webdriver.Chrome):
    """Looks for one element until it is there, as a person would who is told to press a button."""

    _web_element_cls = Element

    def __init__(self, *words, **more):
        super().__init__(*words, **more)
        self.known: dict[tuple[str, str], list[dict]] = {}
        """The cookies of whoever signed in at an address."""

    def find_element(self, by: str = By.ID, value: str | None = None):
        with suppress(TimeoutException):
            return WebDriverWait(self, 10, 0.1).until(lambda d: next(iter(d.find_elements(by, value)), None))
        return super().find_element(by, value)  # says what it did not find


@contextmanager
def browser(width: int = WIDTH, height: int = HEIGHT) -> Iterator[webdriver.Chrome]:
    options = webdriver.ChromeOptions()
    options.binary_location = "/usr/bin/chromium"
    with tempfile.TemporaryDirectory() as profile:
        for switch in [*SWITCHES, f"--user-data-dir={profile}", f"--window-size={width},{height + 200}"]:
            options.add_argument(switch)
        options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
        driver = Patient(options=options, service=Service("/usr/bin/chromedriver"))
        try:
            wide(driver, width, height)
            yield driver
        finally:
            driver.quit()


def wide(driver, width: int = WIDTH, height: int = HEIGHT, phone: bool = False) -> None:
    """The page so many points wide and high; never let go of, for the bare window is higher than a screen."""
    size = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": phone}
    driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)


def wait(driver, condition, seconds: float = 30, every: float = 0.1):
    """What ``condition`` gives, once it is true; an element that the page has just drawn anew is looked for again. When
    time is up, says where the page was and what it said.
    """
    stale = [StaleElementReferenceException]
    try:
        return WebDriverWait(driver, seconds, poll_frequency=every, ignored_exceptions=stale).until(condition)
    except TimeoutException:
        result = driver.find_element(By.TAG_NAME, "body").text[:1500]
        raise AssertionError(f"{seconds} s were not enough at {driver.current_url}:\n{result}") from None


def until(condition, seconds: float = 180):
    """What ``condition`` gives, once it is true, where no page is looked at."""
    return WebDriverWait(None, seconds, poll_frequency=0.3).until(lambda _: condition())


def see(driver, css: str, seconds: float = 30):
    """The first element that matches, once it is shown."""
    return wait(
        driver, lambda d: next((e for e in d.find_elements(By.CSS_SELECTOR, css) if e.is_displayed()), None), seconds
    )


def read(driver, text: str, seconds: float = 30):
    """Waits until the page says ``text``."""
    return wait(driver, lambda d: text in d.find_element(By.TAG_NAME, "body").text, seconds)


def sign_in(driver, address: str, name: str, password: str) -> None:
    driver.get(address)
    see(driver, "input[autocomplete=username]").send_keys(name)
    see(driver, "input[autocomplete=current-password]").send_keys(password)
    see(driver, "button[type=submit]").click()
    read(driver, "Import a part")


@contextmanager
def signed_in(address: str, name: str, password: str) -> Iterator[webdriver.Chrome]:
    """A browser that is signed in; at the end its console must hold no error."""
    with browser() as driver:
        sign_in(driver, address, name, password)
        yield driver
        assert errors(driver) == []


@contextmanager
def slow_line(driver, seconds: float = 60) -> Iterator[None]:
    """Meanwhile everything that is asked of the server takes so long."""
    slow = {"offline": False, "latency": 1000 * seconds, "downloadThroughput": -1, "uploadThroughput": -1}
    driver.execute_cdp_cmd("Network.enable", {})
    try:
        driver.execute_cdp_cmd("Network.emulateNetworkConditions", slow)
        yield
    finally:
        driver.execute_cdp_cmd("Network.emulateNetworkConditions", slow | {"latency": 0})
        driver.execute_cdp_cmd("Network.disable", {})


def errors(driver) -> list[str]:
    """What the console complained of since it was last asked."""
    return [e["message"] for e in driver.get_log("browser") if e["level"] == "SEVERE"]


def begin_anew(driver, address: str, name: str, password: str, downloads: Path) -> None:
    """The same browser as if it had just been opened and signed in; what it is given lands in ``downloads``. Who signed
    in here before is known by what the page was given then, for as long as the server knows it.
    """
    wide(driver)
    driver.execute_cdp_cmd("Browser.setDownloadBehavior", {"behavior": "allow", "downloadPath": str(downloads)})
    driver.execute_cdp_cmd("Storage.clearDataForOrigin", {"origin": address.rstrip("/"), "storageTypes": "all"})
    driver.delete_all_cookies()
    known = driver.known.get((address, name))
    if known:
        driver.execute_cdp_cmd("Network.setCookies", {"cookies": known})
        driver.get(address)
        asks = lambda d: d.find_elements(By.CSS_SELECTOR, "input[autocomplete=username]")
        wait(driver, lambda d: asks(d) or "Import a part" in d.find_element(By.TAG_NAME, "body").text)
        if not asks(driver):
            return
    sign_in(driver, address, name, password)
    driver.known[address, name] = driver.execute_cdp_cmd("Network.getCookies", {"urls": [address]})["cookies"]


def open_part(driver, name: str, stage: str = "Direction"):
    """Follows the link to a part, as soon as the list shows it, and goes to one of its stages."""
    link = wait(driver, lambda d: next(iter(d.find_elements(By.LINK_TEXT, name)), None))
    link.click()
    to_stage(driver, stage)
    return link


def to_stage(driver, name: str) -> None:
    """Another stage of the part that is open."""
    see(driver, "nav[aria-label=Stages]").find_element(By.XPATH, f".//a[.//span[text()='{name}']]").click()


def tab(driver, words: str) -> None:
    """Goes to a tab of the page, as soon as it is there."""
    wait(driver, lambda d: d.find_elements(By.XPATH, f"//button[@role='tab'][text()='{words}']"))[0].click()


def unfold(driver) -> None:
    """Every candidate in a row of its own: those that come to the same, and those that fall over."""
    folded = "//*[contains(text(), 'more cannot stand') or (starts-with(text(), 'and ') and contains(., ' alike'))]"
    for button in driver.find_elements(By.XPATH, folded):
        button.click()


FRAMES = "const done = arguments[0]; requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(done)));"


def frames(driver) -> None:
    """Waits until the page has answered what it was just told: two frames."""
    driver.execute_async_script(FRAMES)


def still(driver, element) -> str:
    """A picture of the element once two in a row are the same: what moved or was on its way is there."""
    seen = [None]

    def same(_):
        frames(driver)
        seen.append(element.screenshot_as_base64)
        return seen[-1] if seen[-1] == seen[-2] else None

    return wait(driver, same)


def fetched(driver, folder: Path, pattern: str) -> Path:
    """The file that matches, once it has come down whole."""

    def whole(_):
        files = [f for f in folder.glob(pattern) if f.stat().st_size]
        return files[0] if files and not list(folder.glob("*.crdownload")) else None

    return wait(driver, whole)
