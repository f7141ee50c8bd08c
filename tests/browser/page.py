"""The interface as a person uses it: by what is written on it, by mouse and by keys."""

import inspect
import os
from pathlib import Path

from selenium.common.exceptions import (
    ElementClickInterceptedException,
    StaleElementReferenceException,
    TimeoutException,
)
from selenium.webdriver import Chrome, ChromeOptions
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import WebDriverWait

PATIENCE = 300
"""Seconds that are waited for anything, on a machine that has other work, too."""
PASSWORD = "tallow-and-oakum"


ON_ANOTHER_DAY = """{
  const Real = Date, ahead = %d * 86_400_000;
  globalThis.Date = class extends Real {
    constructor(...given) { given.length ? super(...given) : super(Real.now() + ahead); }
    static now() { return Real.now() + ahead; }
  };
}"""
"""For so many days on."""


def start_browser(folder: str, *, smooth: bool = False) -> Chrome:
    """Headless Chromium, 1280 x 800, drawing WebGL in software, downloads into a folder.

    Edges are smooth for pictures only: that is four times as much to draw. The page round the
    model is drawn without the stand-in for a graphics card, which the model would wait for.
    """
    options = ChromeOptions()
    options.binary_location = "/usr/bin/chromium"
    for argument in (
        "headless=new", "no-sandbox", "use-angle=swiftshader", "enable-unsafe-swiftshader",
        "disable-quic", "no-first-run", "disable-background-networking",
        "disable-component-update", "disable-sync", "disable-gpu-rasterization",
        f"user-data-dir={folder}",
    ):  # fmt: skip
        options.add_argument(f"--{argument}")
    if not smooth:
        options.add_argument("--webgl-antialiasing-mode=none")
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    options.add_experimental_option("prefs", {"download.default_directory": folder})
    # Chromium does not start under faketime: it is told of the other day by itself
    env = {name: value for name, value in os.environ.items() if name != "LD_PRELOAD"}
    made = Chrome(options=options, service=Service("/usr/bin/chromedriver", env=env))
    if "FAKETIME" in os.environ:
        days = int(os.environ["FAKETIME"].strip("+d"))
        script = {"source": ON_ANOTHER_DAY % days}
        made.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", script)
    made.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride",
        {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False},
    )
    made.set_script_timeout(60)
    return made


class Page:
    def __init__(self, driver: Chrome, address: str, downloads: Path) -> None:
        self.driver, self.address, self.downloads = driver, address, downloads

    def until(self, true, patience: float = PATIENCE):
        """Wait until a function of nothing gives something true, and give that."""
        wait = WebDriverWait(
            self.driver, patience, 0.1, ignored_exceptions=[StaleElementReferenceException]
        )
        try:
            return wait.until(lambda _: true())
        except TimeoutException as late:
            awaited = inspect.getsource(true).strip()
            raise TimeoutException(f"not after {patience:.0f} s: {awaited}") from late

    def slow_until(self, true):
        """The same for what takes long: work on a large model, drawn in software."""
        return self.until(true, 4 * PATIENCE)

    def all(self, selector: str) -> list[WebElement]:
        return self.driver.find_elements(By.CSS_SELECTOR, selector)

    def one(self, selector: str) -> WebElement:
        return self.until(lambda: next(iter(self.all(selector)), None))

    def button(self, words: str, within: str = "") -> WebElement:
        def found() -> WebElement | None:
            for kind in ("button", "a", "[role=menuitem]"):
                for one in self.all(f"{within} {kind}"):
                    if one.is_displayed() and words in one.text:
                        return one
            return None

        return self.until(found)

    def press(self, words: str, within: str = "") -> None:
        """Click a button once nothing that still moves lies over it."""
        quiet = [StaleElementReferenceException, ElementClickInterceptedException]
        wait = WebDriverWait(self.driver, PATIENCE, 0.1, ignored_exceptions=quiet)
        wait.until(lambda _: self.button(words, within).click() or True)

    def reads(self, words: str, within: str = "body") -> None:
        self.until(lambda: any(words in one.text for one in self.all(within)))

    def key(self, keys: str) -> None:
        ActionChains(self.driver).send_keys(keys).perform()

    def log_in(self, name: str, password: str) -> None:
        self.driver.get(self.address)
        self.one("[name=username]").send_keys(name)
        self.one("[name=password]").send_keys(password + Keys.ENTER)
        self.one("[role=grid]")

    def row(self, words: str) -> WebElement:
        def found() -> WebElement | None:
            return next((r for r in self.all("[role=row]") if words in r.text), None)

        return self.until(found)

    def open_item(self, name: str) -> None:
        self.driver.get(self.address)
        self.row(name).click()
        self.one("[data-question=closed]")

    def state(self, question: str) -> str:
        return self.one(f"[data-question={question}]").get_attribute("data-state")

    def in_state(self, question: str, state: str) -> None:
        self.until(lambda: self.state(question) == state)

    def drop_files(self, *paths: Path) -> None:
        """Drop files on the page as a person would drag them in."""
        self.driver.execute_script(
            "const i = document.createElement('input'); i.type = 'file'; i.multiple = true;"
            "i.id = 'carrier'; i.style.position = 'fixed'; document.body.append(i);"
        )
        self.one("#carrier").send_keys("\n".join(map(str, paths)))
        self.driver.execute_script(
            "const data = new DataTransfer(), input = document.getElementById('carrier');"
            "for (const file of input.files) data.items.add(file);"
            "document.querySelector('[data-testid=drop-zone]').dispatchEvent("
            "new DragEvent('drop', {dataTransfer: data, bubbles: true, cancelable: true}));"
            "input.remove();"
        )

    def download(self, link: WebElement) -> Path:
        before = set(self.downloads.iterdir())

        def arrived() -> Path | None:
            new = set(self.downloads.iterdir()) - before
            whole = [p for p in new if p.suffix in (".stl", ".obj", ".3mf")]
            return whole[0] if whole and not list(self.downloads.glob("*.crdownload")) else None

        link.click()
        return self.until(arrived)
