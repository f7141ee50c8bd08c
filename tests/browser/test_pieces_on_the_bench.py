"""Pieces on the bench, by mouse and by key; picking; sizes; a large model."""

import numpy as np
import pytest
from caulkcore import Mesh
from caulkjob import write
from harbour import breakers as b
from makers import box, sphere
from selenium.webdriver import ActionChains
from test_walk import take_in


@pytest.fixture
def nested(tmp_path):
    """A box with a void, a ball in the void, and a box beside it a hair away."""
    void = Mesh(box(30).vertices, box().faces[:, ::-1])
    path = tmp_path / "nested.stl"
    write(b.soup(box(40), void, sphere(8, 3), box(20, (30.03, 0, 0))), path)
    return path


def opened(page, path, customer: str):
    take_in(page, path, customer=customer)
    page.button("Open on the bench").click()
    page.until(lambda: page.all("canvas[data-picking]"))


def pressed(page) -> list[str]:
    return [x.get_attribute("data-piece") for x in page.all("[data-piece][aria-pressed=true]")]


def test_pieces_are_listed_hidden_and_picked(page, nested) -> None:
    opened(page, nested, "Nested Boxes")
    names = [x.text.replace("\n", " ") for x in page.all("[data-piece]")]
    assert names[0].startswith("1 outer skin")
    assert any(n.startswith("2 sealed void") for n in names)
    assert any(n.startswith("3 outer skin") for n in names)

    # by mouse: the middle of the view shows the box; click chooses it, the panel hides it
    canvas = page.one("canvas")
    ActionChains(page.driver).move_to_element(canvas).perform()
    page.until(lambda: "Piece" in page.one("[data-testid=readout]").text)
    first = page.one("[data-testid=readout]").text.split(",")[0]
    ActionChains(page.driver).click().perform()
    page.until(lambda: pressed(page))
    assert f"Piece {pressed(page)[0]}" == first
    page.press("Hide", "[aria-label=Pieces]")
    page.reads("hidden", "[aria-label=Pieces]")
    ActionChains(page.driver).move_by_offset(3, 2).perform()
    page.until(lambda: page.one("[data-testid=readout]").text.split(",")[0] != first)

    # by key: all back, the next piece, alone
    page.key("e")
    page.until(lambda: "hidden" not in page.one("[aria-label=Pieces]").text)
    page.key("v")
    page.key("y")
    page.until(lambda: page.one("[aria-label=Pieces]").text.count("hidden") == 3)
    page.key("y")
    page.until(lambda: "hidden" not in page.one("[aria-label=Pieces]").text)
    page.driver.switch_to.active_element.send_keys("\ue00c")
    page.until(lambda: not pressed(page))


def test_a_near_gap_is_a_call_with_its_width(page, nested) -> None:
    opened(page, nested, "Near Gaps")
    page.in_state("solid", "your call")
    page.key("3")
    page.reads("A person must decide.")
    page.reads("0.030 mm wide", "[role=list][aria-label=Findings]")
    page.key("n")
    page.reads("stays as a crack in the print", "[aria-label=Findings]")
    page.in_state("inside", "your call")
    page.key("4")
    page.reads("see-through", "[role=toolbar]")
    page.key("2")
    page.until(lambda: "see-through" not in page.one("[role=toolbar]").text)


def test_a_part_too_large_is_kept_with_a_reason(page, tmp_path) -> None:
    path = tmp_path / "mast.3mf"
    write(Mesh(box(1).vertices * [20, 20, 900], box().faces), path)
    take_in(page, path, customer="Long Masts")
    page.button("Open on the bench").click()
    page.in_state("size", "your call")
    page.key("1")
    page.reads("too large to make in one")
    page.reads("600.0 mm longer than the material takes")
    page.press("Keep this size", "[aria-label=Ledger]")
    page.in_state("size", "waived")
    page.reads("It is made in parts, or elsewhere.")


def test_a_large_model_is_on_the_screen_and_its_many_places_do_not_freeze_it(
    page, tmp_path
) -> None:
    """1.3 million triangles, of which 4,000 are missing."""
    fine = sphere(60, 8)
    rng = np.random.default_rng(3)
    path = tmp_path / "large.stl"
    holed = b.without(fine, rng.choice(len(fine.faces), 4000, replace=False))
    assert len(holed.faces) > 1_000_000
    write(holed, path)
    take_in(page, path, customer="Large Models")
    page.slow_until(lambda: page.all("[aria-label='Incoming files'] a"))
    page.button("Open on the bench").click()
    page.slow_until(lambda: page.all("canvas"))
    page.in_state("closed", "leaks")
    page.until(lambda: page.all("[data-finding]"))
    assert len(page.all("[data-finding]")) < 100, "only the lines in sight are drawn"
    page.reads("holes", "[aria-label=Ledger]")
    page.key("n")
    page.slow_until(lambda: page.one("[data-finding='1']").get_attribute("aria-expanded") == "true")
    page.slow_until(lambda: page.all("canvas[data-picking]"))
