"""Two people on one item; sessions that end; what is written outlives what arrives."""

import numpy as np
import pytest
from caulkjob import write
from harbour import breakers as b
from makers import box, hollow_box, sphere
from page import PASSWORD
from selenium.webdriver.common.keys import Keys
from test_walk import take_in


@pytest.fixture
def hollow(tmp_path):
    """A hollow box, and a ball with two holes."""
    ball = b.without(sphere(8, 3), np.array([0, 300]))
    ball = type(ball)(ball.vertices + np.array([60.0, 0, 0]), ball.faces)
    path = tmp_path / "hollow.stl"
    write(b.soup(hollow_box(), ball), path)
    return path


def test_a_colleagues_revision_takes_nothing_from_who_writes(page, colleague, hollow) -> None:
    take_in(page, hollow, customer="Two At Once")
    page.button("Open on the bench").click()
    page.in_state("inside", "your call")
    page.key("4")
    page.one("[data-finding='1']").click()
    page.one("[aria-label^=Reason]").send_keys("kept for the d")

    colleague.driver.get(page.driver.current_url)
    colleague.in_state("closed", "leaks")
    colleague.key("m")
    colleague.one("[data-revision='1'][aria-pressed=true]")

    # it is said who did what; field, words and focus are as they were, and further keys are words
    page.reads("Odd Lervik moved this item on:", "[data-testid=moved-on]")
    field = page.driver.switch_to.active_element
    assert field.get_attribute("aria-label") == "Reason to accept it as it is"
    page.key("dmd")
    assert field.get_attribute("value") == "kept for the ddmd"
    assert page.one("[data-revision='0']").get_attribute("aria-pressed") == "true"
    assert not page.all("[role=dialog]")

    # seen and done again there, with the words that were written
    page.press("Look at it", "[data-testid=moved-on]")
    page.one("[data-revision='1'][aria-pressed=true]")
    page.one("[data-finding='1']").click()
    field = page.one("[aria-label='Reason to accept it as it is']")
    assert field.get_attribute("value") == "kept for the ddmd"
    field.send_keys(Keys.ENTER)
    page.in_state("inside", "waived")
    colleague.in_state("inside", "waived")


def test_one_key_mends_and_no_key_releases_unseen(page, tmp_path) -> None:
    path = tmp_path / "ball.stl"
    write(b.without(sphere(8, 3), np.array([0, 300])), path)
    take_in(page, path, customer="Hasty Keys")
    page.button("Open on the bench").click()
    page.in_state("closed", "leaks")
    page.key("m")
    page.one("[data-revision='1'][aria-pressed=true]")
    page.in_state("closed", "tight")
    # the account stays in sight; the key leads to the letter, and then asks
    page.reads("Account of revision 1", "[data-testid=account]")
    assert page.one("[data-question=closed]").get_attribute("aria-selected") == "true"
    page.key("d")
    page.one("[aria-label=Letter] textarea")
    assert not page.all("[data-testid=release]")
    page.key("d")
    page.reads("It can be withdrawn", "[role=dialog]")
    page.key(Keys.ESCAPE)
    page.until(lambda: not page.all("[role=dialog]"))
    assert not page.all("[data-testid=release]")
    page.key("d")
    page.one("[role=dialog]")
    page.key(Keys.ENTER)
    page.one("[data-testid=release]")
    assert page.one("[data-testid=release]").text.startswith("0")


def test_a_session_that_ended_leads_to_the_door_in_every_tab(page, shop) -> None:
    page.open_item("Gallery bracket")
    item = page.driver.current_url
    page.driver.switch_to.new_window("tab")
    page.driver.get(shop.address)
    page.one("[role=grid]")
    page.button("Maren Aas").click()
    page.press("Log out")
    page.one("[name=username]")
    first, _ = page.driver.window_handles
    page.driver.switch_to.window(first)
    page.one("[name=username]")
    assert "cannot be shown" not in page.one("body").text
    # and back to where one was
    page.one("[name=username]").send_keys("maren")
    page.one("[name=password]").send_keys(PASSWORD + Keys.ENTER)
    page.one("[data-question=closed]")
    assert page.driver.current_url == item
    # refusals of who was logged out stand in the log
    page.driver.get_log("browser")


def test_places_are_accepted_one_by_one_or_as_listed(page, tmp_path) -> None:
    path = tmp_path / "voids.stl"
    far = hollow_box()
    write(b.soup(hollow_box(), type(far)(far.vertices + np.array([60.0, 0, 0]), far.faces)), path)
    take_in(page, path, customer="Two Voids")
    page.button("Open on the bench").click()
    page.in_state("inside", "your call")
    page.key("4")
    page.one("[data-finding='1']").click()
    page.one("[aria-label^='Reason to accept']").send_keys("to float" + Keys.ENTER)
    page.reads("Accepted by Maren Aas", "[aria-label=Findings]")
    page.reads("1 sealed void", "[data-question=inside]")
    page.key("n")
    page.one("[aria-label^='Reason to accept']").send_keys("both")
    page.press("Accept all 2 listed", "[aria-label=Findings]")
    page.in_state("inside", "waived")
    page.one("[aria-label^='Reason to take the acceptance back']").send_keys("no" + Keys.ENTER)
    assert page.state("inside") == "waived", "two letters are no reason"
    page.one("[aria-label^='Reason to take the acceptance back']").send_keys("t so" + Keys.ENTER)
    page.in_state("inside", "your call")


def test_what_cannot_be_read_is_answered(page, tmp_path) -> None:
    torn, whole = tmp_path / "torn.stl", tmp_path / "whole.stl"
    torn.write_text("solid nothing\n" * 20)
    write(box(20), whole)
    take_in(page, torn, customer="Torn Sails")
    page.button("Open on the bench").click()
    page.reads("This file cannot be read.")
    page.press("Keep this letter")
    page.reads("Letter of")
    page.one("[aria-label='Another file']").send_keys(str(whole))
    page.one("[aria-label='Reason to take another file']").send_keys("sent again" + Keys.ENTER)
    page.in_state("closed", "tight")
