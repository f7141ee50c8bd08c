"""Soundings, all materials and building up on the bench; rule sheets edited by the lead."""

import json

import manifold3d
import numpy as np
import pytest
from caulkcore import Mesh
from caulkjob import write
from page import PASSWORD
from selenium.webdriver import ActionChains
from selenium.webdriver.common.keys import Keys
from test_walk import take_in


@pytest.fixture
def finned(tmp_path):
    """A block with a fin of half a millimetre on it."""
    cube = manifold3d.Manifold.cube
    fin = cube((18, 0.5, 10), True).translate((0, 0, 9))
    raw = (cube((20, 20, 10), True) + fin).to_mesh64()
    path = tmp_path / "finned.stl"
    write(Mesh(np.asarray(raw.vert_properties)[:, :3], np.asarray(raw.tri_verts)), path)
    return path


def test_a_thin_fin_is_sounded_probed_judged_and_built_up(page, finned) -> None:
    take_in(page, finned, customer="Fin Makers")
    page.button("Open on the bench").click()
    page.in_state("walls", "your call")
    page.key("5")
    page.reads("Thin below 0.80 mm", "[aria-label=Legend]")
    page.reads("mm² of skin", "[aria-label=Legend]")
    page.until(lambda: page.one("[data-label='1']").text.endswith("0.50"))

    # another limit, at once, by key
    thumb = page.one("[aria-label='Thin below, mm']")
    thumb.send_keys(Keys.HOME)
    page.reads("no skin thinner", "[aria-label=Legend]")
    page.button("wall free 0.80", "[aria-label=Legend]").click()
    page.reads("mm² of skin", "[aria-label=Legend]")

    # the block is thick where it is probed
    page.until(lambda: page.all("canvas[data-picking]"))
    ActionChains(page.driver).move_to_element(page.one("canvas")).click().perform()
    page.reads("Ball", "[aria-label=Probe]")
    page.until(lambda: page.one("[aria-label=Probe] path").get_attribute("d"))
    page.press("Close", "[aria-label=Probe]")

    # all materials: what fails says by what; another one is a decision
    page.key("j")
    row = page.one("[data-material=colour-gypsum]")
    assert "wall standing free 0.50 of 3.00 mm at 1 place" in row.text
    assert "Would pass at 600.0 %" in row.text
    row.find_element("css selector", "button").click()
    page.one("[aria-label='Reason to take Colour gypsum']").send_keys("asked for by telephone\n")
    page.reads("Colour gypsum", "[aria-label=Item]")
    page.until(lambda: "as ordered" in page.one("[data-material=colour-gypsum]").text)
    assert not page.all("[data-revision='1']")
    page.one("[data-material=tough-resin] button").click()
    page.one("[aria-label='Reason to take Tough resin']").send_keys("as ordered\n")
    page.reads("Tough resin", "[aria-label=Item]")
    page.until(lambda: "as ordered" in page.one("[data-material=tough-resin]").text)
    page.key("j")

    # built up
    page.key("5")
    page.one("[data-finding='1']").click()
    page.press("Build it up", "[role=list]")
    page.one("[data-revision='1']")
    page.in_state("walls", "tight")
    page.reads("1 thin wall built up to 0.80 mm", "[data-testid=account]")


def test_the_lead_edits_a_rule_sheet(page, tmp_path) -> None:
    page.driver.get(f"{page.address}/materials/white-porcelain")
    page.reads("The shop lead changes rule sheets.")
    page.driver.delete_all_cookies()
    page.log_in("odd", PASSWORD)
    page.driver.get(f"{page.address}/materials/white-porcelain")
    field = page.one("[aria-label='Clearance']")
    field.send_keys(Keys.CONTROL + "a")
    field.send_keys("1.25")
    page.one("[aria-label='Why it changes']").send_keys("glaze ran together")
    page.press("Save as edition 2")
    page.reads("→ 1.25", "[aria-label=Editions]")
    page.reads("Odd Lervik: glaze ran together", "[aria-label=Editions]")

    # a file brought in: all of it or nothing
    path = tmp_path / "sheets.json"
    path.write_text(json.dumps({"sheets": [{"key": "slag"}]}))
    page.one("[aria-label='File of rule sheets']").send_keys(str(path))
    page.reads("A rule sheet lacks", "[role=alert]")
    # the refusal stands in the browser's log, too, and nothing else does
    severe = [x["message"] for x in page.driver.get_log("browser") if x["level"] == "SEVERE"]
    assert len(severe) == 1
    assert "400" in severe[0]
