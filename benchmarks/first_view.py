"""From the click on an item of 100,000 triangles to its pixels being there, in the running demo.

``.venv/bin/python benchmarks/first_view.py http://localhost:8420`` needs ``./ironcaulk up`` and
``./ironcaulk setup --dev``. The model is taken in once; each browser is a fresh one, opens the item
once cold and once again. WebGL is drawn in software, with smooth edges and without.
"""

import statistics
import sys
import tempfile
from pathlib import Path

import numpy as np

ROOT = Path(__file__).resolve().parents[1]
sys.path[:0] = [str(ROOT / x) for x in ("tests/browser", "tests", "tools", "core", "demo")]

from caulkcore.io.files import write  # noqa: E402
from caulkcore.mesh.simple_solids import torus  # noqa: E402
from page import Page, start_browser  # noqa: E402
from selenium.webdriver import ActionChains  # noqa: E402
from test_walk import take_in  # noqa: E402

ROUND = 224
"""Corners round a ring each way: 100,352 triangles."""
TRIANGLES = 2 * ROUND**2
BROWSERS = 5
NAME = "First view"
RESTS = 0.3
"""Seconds between coming to rest on a row and clicking it: less than anybody needs."""

# the pixels are there when one of them can be read after the whole skin was drawn
WATCH = f"""
window.firstView = {{}};
const drawElements = WebGL2RenderingContext.prototype.drawElements;
WebGL2RenderingContext.prototype.drawElements = function (mode, count, type, offset) {{
  const done = drawElements.call(this, mode, count, type, offset);
  if (count === {TRIANGLES * 3} && !window.firstView.drawn) {{
    this.readPixels(0, 0, 1, 1, this.RGBA, this.UNSIGNED_BYTE, new Uint8Array(4));
    window.firstView.drawn = performance.now();
  }}
  return done;
}};
addEventListener("click", () => (window.firstView = {{click: performance.now()}}), true);
"""


def fresh(address: str, folder: str, *, smooth: bool) -> Page:
    """A browser that knows nothing yet, somebody being logged in."""
    page = Page(start_browser(folder, smooth=smooth), address, Path(folder))
    page.driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": WATCH})
    page.log_in("maren", "tallow-and-oakum")
    return page


def take_in_once(address: str) -> None:
    """Take the model in, unless an earlier run did."""
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as folder:
        page = fresh(address, folder, smooth=False)
        try:
            # one row is the heading
            page.until(lambda: len(page.all("[role=row]")) > 1)
            if any(NAME in row.text for row in page.all("[role=row]")):
                return
            path = Path(folder) / f"{NAME.lower().replace(' ', '_')}.stl"
            write(torus(ROUND), path)
            take_in(page, path)
            page.button("Open on the bench").click()
            page.slow_until(lambda: page.all("canvas[data-picking=ready]"))
        finally:
            page.driver.quit()


def opened(page: Page) -> float:
    """Seconds from the click on the item to its pixels."""
    ActionChains(page.driver).move_to_element(page.row(NAME)).pause(RESTS).click().perform()

    def seen() -> dict[str, float] | None:
        told = page.driver.execute_script("return window.firstView")
        return told if "drawn" in told else None

    told = page.slow_until(seen)
    return (told["drawn"] - told["click"]) / 1000


def main(address: str) -> None:
    """Print the times of some browsers."""
    take_in_once(address)
    for smooth in (False, True):
        times = np.zeros((BROWSERS, 2))
        for one in times:
            with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as folder:
                page = fresh(address, folder, smooth=smooth)
                try:
                    one[0] = opened(page)
                    page.driver.back()
                    one[1] = opened(page)
                finally:
                    page.driver.quit()
        for what, seconds in zip(("cold", "again"), times.T, strict=True):
            told = ", ".join(f"{x:.2f}" for x in sorted(seconds))
            edges = "smooth edges" if smooth else "plain edges"
            print(
                f"{what}, {edges}: median {statistics.median(seconds):.2f} s ({told})", flush=True
            )


if __name__ == "__main__":
    main(sys.argv[1].rstrip("/"))
