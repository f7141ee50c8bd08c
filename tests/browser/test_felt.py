"""What a person feels of faults: a lost server, an ended session, a dropped picture; and access."""

from pathlib import Path

import run
from page import PASSWORD
from selenium.webdriver.common.keys import Keys

AXE = (Path(__file__).resolve().parents[2] / "web/node_modules/axe-core/axe.min.js").read_text()


def faults(page) -> list[str]:
    """What axe finds on the screen as it is."""
    page.driver.execute_script(AXE)
    found = page.driver.execute_async_script(
        "const done = arguments[arguments.length - 1];"
        "axe.run(document, {resultTypes: ['violations']}).then(r => done(r.violations));"
    )
    return [
        f"{one['id']}: {one['help']} at {[n['target'] for n in one['nodes']][:3]}" for one in found
    ]


def test_axe_finds_nothing_on_any_screen(shop, page, colleague) -> None:
    told = {"orders": faults(page)}
    page.key("+")
    page.one("[role=dialog]")
    told["new order"] = faults(page)
    page.driver.refresh()
    page.one("[role=grid]")
    page.key("?")
    page.one("[role=dialog]")
    told["keys"] = faults(page)
    page.open_item("Lantern housing")
    page.one("canvas")
    for question in ("size", "closed", "inside", "walls", "release"):
        page.one(f"[data-question={question}]").click()
        told[question] = faults(page)
    page.key(";")
    page.one("[role=dialog]")
    told["trail of an item"] = faults(page)
    for place in ("materials", "people", "trail"):
        colleague.driver.get(f"{shop.address}/{place}")
        colleague.one("main")
        colleague.until(lambda: colleague.all("main table, main form, main ol"))
        told[place] = faults(colleague)
    colleague.driver.delete_all_cookies()
    colleague.driver.get(shop.address)
    colleague.one("[name=username]")
    told["log in"] = faults(colleague)
    assert {screen: found for screen, found in told.items() if found} == {}


def end_sessions(shop) -> None:
    with shop.connect() as connection:
        connection.execute("delete from django_session")


def test_after_a_session_has_ended_one_goes_on_where_one_was(shop, page) -> None:
    page.open_item("Pennant")
    box = page.one("[aria-label='A comment for the others']")
    box.send_keys("they want it by noon")
    end_sessions(shop)
    page.button("Add").click()
    page.one("[role=dialog] [name=password]").send_keys(PASSWORD)
    page.button("Log in", "[role=dialog]").click()
    page.until(lambda: not page.all("[role=dialog]"))
    assert box.get_attribute("value") == "they want it by noon"
    page.button("Add").click()
    page.reads("Maren Aas,", "[aria-label=Comments]")
    page.driver.get_log("browser")  # what was refused meanwhile is told there as well


def test_a_lost_server_is_a_line_and_the_words_stay(shop, page) -> None:
    page.open_item("Pennant")
    box = page.one("[aria-label='A comment for the others']")
    box.send_keys("still here")
    run.end(shop.web)
    page.reads("The server cannot be reached.")
    assert box.get_attribute("value") == "still here"
    shop.web = run.web(shop.env, shop.port)
    run.wait_for(shop.port, shop.web)
    page.until(lambda: "cannot be reached" not in page.one("body").text)
    assert box.get_attribute("value") == "still here"
    page.button("Add").click()
    page.reads("still here", "[aria-label=Comments] p")
    page.driver.get_log("browser")


def picture(page) -> bytes:
    """The model as it is drawn, without what stands over it."""
    return page.one("canvas").screenshot_as_png


def test_a_dropped_picture_comes_back(page) -> None:
    page.open_item("Gallery bracket")
    page.one("canvas")
    page.one("[data-testid=readout]")
    page.until(lambda: picture(page) == picture(page))
    before = picture(page)
    lose = (
        "const gl = document.querySelector('canvas').getContext('webgl2');"
        "window.lost = gl.getExtension('WEBGL_lose_context'); window.lost.loseContext();"
    )
    page.driver.execute_script(lose)
    page.reads("has dropped the picture")
    page.driver.execute_script("window.lost.restoreContext()")
    page.until(lambda: "has dropped the picture" not in page.one("main").text)
    page.until(lambda: picture(page) == before)
    page.driver.get_log("browser")


def test_units_are_looked_through_by_arrow_keys_without_work(shop, page) -> None:
    page.open_item("Horn cleat, 6 in")
    page.one("[data-question=size]").click()
    chosen = page.one("input[name=unit]:checked")
    first = chosen.get_attribute("value")
    chosen.send_keys(Keys.ARROW_DOWN)
    page.until(lambda: page.one("input[name=unit]:checked").get_attribute("value") != first)
    assert page.button("Read it in").is_displayed()
    with shop.connect() as connection:
        busy = "select count(*) from work_job where state in ('waiting', 'running')"
        assert connection.execute(busy).fetchone()[0] == 0
