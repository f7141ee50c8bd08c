"""Reworking a model at large: a region picked with the mouse, the rest by keys."""

from caulkjob import write
from makers import sphere
from selenium.webdriver import ActionChains
from selenium.webdriver.common.actions.wheel_input import ScrollOrigin
from selenium.webdriver.common.keys import Keys
from test_walk import take_in

PANEL = "[data-testid=rework]"


def triangles(page) -> int:
    text = page.one("aside[aria-label=Item]").text
    return int(text.split("Triangles\n")[1].split("\n")[0].replace(",", ""))


def test_refined_where_it_was_picked_then_reduced_and_compared(page, tmp_path) -> None:
    write(sphere(20, 4), tmp_path / "float.stl")
    take_in(page, tmp_path / "float.stl", customer="Net Loft")
    page.button("Open on the bench").click()
    canvas = page.one("canvas[data-picking]")
    page.key(".")
    page.one("[data-rework=refine]").click()
    page.reads("The whole model.", PANEL)
    ActionChains(page.driver).move_to_element(canvas).click().perform()
    page.reads("Round one point", PANEL)
    page.reads("It leaves about", PANEL)
    page.press("Refine a region", "form")
    page.until(lambda: page.all("[data-revision='1'][aria-pressed=true]"))
    more = page.until(lambda: triangles(page) if triangles(page) > 5120 else None)
    assert more < 5120 * 1.5

    # by keys: to half of it
    page.one("[data-rework=reduce]").send_keys(Keys.ENTER)
    page.one("form input[type=number]").send_keys("50")
    page.one("form [type=submit]:enabled")
    page.one("form input[type=number]").send_keys(Keys.ENTER)
    page.until(lambda: page.all("[data-revision='2'][aria-pressed=true]"))
    page.until(lambda: abs(triangles(page) - more / 2) <= 2)
    page.one("form input[type=number]").send_keys(Keys.ESCAPE)
    page.until(lambda: not page.all(PANEL))
    page.in_state("closed", "tight")

    # recast where it was picked
    page.key(".")
    page.one("[data-rework=recast-zone]").click()
    page.reads("Click on the model where", PANEL)
    page.reads("Pick where on the model.", PANEL)
    assert not page.all("form [type=submit]:enabled")
    ActionChains(page.driver).move_to_element(page.one("canvas")).click().perform()
    page.reads("At a detail size of", PANEL)
    page.press("Recast a region", "form")
    page.until(lambda: page.all("[data-revision='3'][aria-pressed=true]"))
    page.reads("the rest kept", "[data-testid=account]")
    page.key(".")
    page.in_state("closed", "tight")

    # beside each other, and turned together
    page.key(",")
    page.until(lambda: len(page.all("canvas[data-picking]")) == 2)
    page.reads("2 reduced", "[aria-label=Beside]")
    scale = page.one("[aria-label=Beside] [data-mm]").size["width"]
    over = ScrollOrigin.from_element(page.one("canvas"), 60, 60)
    ActionChains(page.driver).scroll_from_origin(over, 0, -400).perform()
    page.until(lambda: page.one("[aria-label=Beside] [data-mm]").size["width"] != scale)
    page.key(",")
    page.until(lambda: len(page.all("canvas")) == 1)

    # the box was recast without a loss: there is no detail to bring back, and that is said
    page.key(".")
    page.one("[data-rework=restore-detail]").click()
    page.reads("2 reduced", "form")
    page.one("form [type=submit]:enabled").click()
    page.reads("It is as near to the model as it was already.", "[aria-label=Ledger]")
