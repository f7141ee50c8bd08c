"""Take the README's pictures of the running demo: ``.venv/bin/python docs/screenshots/take.py``.

Needs ``./ironcaulk up`` on a fresh demo (it mends and releases as it goes) and
``./ironcaulk setup --dev`` for the browser.
"""

import sys
import tempfile
import time
from pathlib import Path

HERE = Path(__file__).resolve().parent
sys.path[:0] = [str(HERE.parents[1] / x) for x in ("tests/browser", "tools", "core", "demo")]

from page import Page, start_browser  # noqa: E402
from selenium.webdriver import ActionChains, Keys  # noqa: E402


class Pictures(Page):
    """A page that is photographed once nothing moves any more."""

    def still(self) -> bytes:
        """What is to be seen when two looks in a row are the same."""
        before = b""
        for _ in range(40):
            time.sleep(0.4)
            now = self.driver.get_screenshot_as_png()
            if now == before:
                break
            before = now
        return before

    def shot(self, name: str) -> None:
        """Save a picture of what is to be seen."""
        (HERE / f"{name}.png").write_bytes(self.still())


def main(address: str) -> None:
    """Walk through the demo."""
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as folder:
        page = Pictures(start_browser(folder, smooth=True), address, Path(folder))
        try:
            walk(page)
        finally:
            page.driver.quit()


def around(page: Pictures, across: float, down: float) -> None:
    """Click beside the middle of the picture above what is in hand, by shares of its height."""
    page.still()
    canvas = page.one("canvas")
    foot = page.driver.execute_script(
        "return parseFloat(document.querySelector('main').style.getPropertyValue('--foot'))||0"
    )
    free = canvas.rect["height"] - foot
    chain = ActionChains(page.driver)
    chain.move_to_element_with_offset(
        canvas, round(across * free), round(down * free - foot / 2)
    ).click().perform()


def wall(page: Pictures) -> None:
    """Measure across the first wall that is met in the cut, from the left."""
    for down in (0.2, 0.05, -0.1):
        for across in range(-40, 0):
            around(page, across / 100, down)
            if page.all("[data-testid=measured]"):
                return


def walk(page: Pictures) -> None:
    """The views in the order of the work."""
    page.log_in("maren", "tallow-and-oakum")
    page.reads("nothing running")
    page.row("Lantern")
    page.shot("orders")
    page.open_item("Horn cleat")
    page.one("canvas")
    page.shot("bench-size")
    page.open_item("Lantern")
    page.until(lambda: page.all("[data-label]"))
    page.shot("bench-closed")
    page.key("n")
    page.key("m")
    page.one("[data-revision='1']")
    page.key("2")
    page.key("w")
    page.shot("bench-mended")
    page.key(Keys.ESCAPE)
    page.key(Keys.SHIFT + "C")
    page.one("[aria-label='Which way it cuts']")
    page.key(Keys.SHIFT + "R")
    page.press("through", "[data-testid=bar]")
    page.key("w")
    wall(page)
    page.shot("bench-cut")
    page.key(Keys.SHIFT + "C")
    page.press("No cut", "[data-testid=bar]")
    page.key(Keys.SHIFT + "F")
    page.press("flat face", "[data-testid=bar]")
    page.reads("Nothing is chosen", "[data-testid=chosen]")
    page.key("w")
    around(page, 0, 0.12)
    page.press("Push out or in", "[data-testid=bar]")
    page.shot("bench-choose")
    page.press("Nothing", "[data-testid=bar]")
    page.key(" ")
    page.key("k")
    page.reads("were not there", "[aria-label='What changed']")
    page.shot("bench-changes")
    page.key("k")
    page.key("4")
    page.key("n")
    page.one("[aria-label^='Reason to accept']").send_keys("a hollow finial is wanted\n")
    page.reads("Accepted by Maren Aas", "[aria-label=Findings]")
    page.shot("bench-inside")
    page.open_item("Half model")
    page.one("canvas")
    page.key("5")
    page.reads("Thin below", "[aria-label=Legend]")
    page.key("n")
    page.shot("bench-walls")
    page.open_item("Sensor box")
    page.key("j")
    page.reads("Thin below", "[aria-label=Legend]")
    page.until(lambda: page.all("canvas[data-picking]"))
    around(page, -0.07, 0.1)
    page.reads("Ball", "[aria-label=Probe]")
    page.shot("bench-probe")
    page.driver.get(f"{page.address}/materials/tough-resin")
    page.one("[aria-label=Editions] li")
    page.shot("materials")
    page.key(Keys.SHIFT + "L")
    page.reads("Limits and policy of the shop", "[role=dialog]")
    page.shot("shop")
    page.open_item("Seal on a rock")
    page.key("3")
    page.until(lambda: page.all("[data-label]"))
    page.shot("bench-one-solid")
    page.until(lambda: page.all("canvas[data-picking]"))
    page.open_item("Weathered bollard")
    page.until(lambda: page.all("canvas[data-picking]"))
    page.key(".")
    page.one("[data-rework=smooth]").click()
    for across, down in ((0, -0.07), (0.1, 0.1)):
        around(page, across, down)
    page.reads("2 points", "[data-testid=rework]")
    page.reads("It takes", "[data-testid=rework]")
    page.shot("bench-rework")
    page.one("[data-rework=reduce]").click()
    page.one("form input[type=number]").send_keys("5")
    page.reads("It leaves", "[data-testid=rework]")
    page.press("Reduce the triangles", "form")
    page.one("[data-revision='1'][aria-pressed=true]")
    page.key(".")
    page.key("t")
    page.key(",")
    page.until(lambda: len(page.all("canvas[data-picking]")) == 2)
    page.shot("bench-beside")
    page.key(",")
    page.key("t")
    page.open_item("Valve wheel")
    page.one("canvas")
    page.key("m")
    page.one("[data-revision='1']")
    page.key("d")
    page.one("[aria-label=Letter] textarea")
    page.shot("bench-release")
    page.key("d")
    page.press("Release as 3MF", "[role=dialog]")
    page.one("[data-testid=release]")
    page.key(";")
    page.reads("released as", "[role=dialog]")
    page.shot("bench-trail")
    page.key("\ue00c")
    page.until(lambda: not page.all("[role=dialog]"))
    page.driver.get(page.button("Letter to the customer").get_attribute("href"))
    page.reads("What we changed")
    page.shot("letter")
    page.open_item("Pennant")
    page.key("m")
    page.reads("Not done", "[role=alert]")
    page.shot("bench-refused")


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "http://localhost:8420")
