"""A technician's path through the whole application."""

import os
import signal

import igl
import numpy as np
import pytest
import trimesh
from caulkjob import write
from harbour import breakers as b
from harbour import shapes
from makers import hostile_files
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select


@pytest.fixture(scope="module")
def broken(tmp_path_factory):
    """A pump body with a hole in each port, a flipped patch and a doubled face."""
    mesh = whole = shapes.as_mesh(shapes.pump_body())
    mesh = b.without(mesh, b.near(mesh, (24, 0, 20), 6))
    mesh = b.without(mesh, b.near(mesh, (-24, 0, 20), 4))
    mesh = b.turned(mesh, b.near(mesh, (0, 24, 20), 5))
    mesh = b.doubled(mesh, np.array([8]))
    path = tmp_path_factory.mktemp("customer") / "pump_from_customer.stl"
    write(mesh, path)
    return path, whole


def take_in(page, *paths, customer: str = "Breakwater Chandlers", together: bool = False) -> None:
    page.drop_files(*paths)
    page.reads(f"Take in {len(paths)} file", "[role=dialog]")
    page.one("[name=customer]").send_keys(customer)
    if together:
        page.all("[name=becoming]")[1].click()
    page.one("option[value=tough-resin]")
    Select(page.one("[name=material]")).select_by_value("tough-resin")
    page.button("Take in", "[role=dialog]").click()


def test_from_a_broken_file_to_a_tight_one(page, broken) -> None:
    path, whole = broken
    take_in(page, path)
    page.button("Open on the bench").click()
    page.in_state("closed", "leaks")
    page.one("canvas")
    page.reads("The skin leaks at", "[aria-label=Ledger]")
    rows = page.until(lambda: page.all("[data-finding]"))
    assert len(rows) >= 4
    page.one("[data-label='1']")

    # to a finding by mouse, and on by key
    rows[0].click()
    page.until(lambda: page.one("[data-finding='1']").get_attribute("aria-expanded") == "true")
    page.reads("Close the hole", "[role=list]")
    page.key("n")
    page.until(lambda: page.one("[data-finding='2']").get_attribute("aria-expanded") == "true")
    page.key("p")
    page.until(lambda: page.one("[data-finding='1']").get_attribute("aria-expanded") == "true")

    # an item that is not tight cannot be released
    page.one("[data-question=release]").click()
    page.reads("Not yet: these are open.")
    assert not [x for x in page.all("[aria-label=Ledger] button") if x.text.startswith("Release")]
    page.key("dd")
    assert not page.all("[role=dialog]")
    page.key("2")

    # one hole alone, then everything
    page.one("[data-finding='1']").click()
    page.press("Close the hole", "[role=list]")
    page.one("[data-revision='1']")
    page.in_state("closed", "leaks")
    page.button("Mend").click()
    page.one("[data-revision='2']")
    page.in_state("closed", "tight")
    page.key("2")
    page.reads("The skin is tight.")
    page.reads("Account of revision 2: mended")
    page.reads("duplicate face dropped", "[data-testid=account]")

    # what it was like before, as long as a key or the button is held
    ActionChains(page.driver).key_down("q").perform()
    page.reads("Before: revision 1", "[role=status]")
    ActionChains(page.driver).key_up("q").perform()
    page.until(lambda: not any("Before:" in one.text for one in page.all("[role=status]")))
    ActionChains(page.driver).click_and_hold(page.button("Before, held")).perform()
    page.reads("Before: revision 1", "[role=status]")
    ActionChains(page.driver).release().perform()
    page.until(lambda: not any("Before:" in one.text for one in page.all("[role=status]")))

    # look at the first revision, return to it, and come back
    page.one("[data-revision='0']").click()
    page.reads("You look at revision 0; work goes on from 2.")
    page.in_state("closed", "leaks")  # that of the revision shown
    page.button("Work from here").click()
    page.reads("work goes on from here", "[data-revision='0']")
    page.one("[data-revision='2']").click()
    page.in_state("closed", "tight")
    page.key("h")
    page.reads("work goes on from here", "[data-revision='2']")

    # release: what leaves is read first and may be written anew; each format judged by others
    page.one("[data-question=release]").click()
    page.until(lambda: "mended as told below" in value_of(page.one("[aria-label=Opening]")))
    page.one("[aria-label=Opening]").send_keys(Keys.END + "\nWith thanks for the pump.")
    assert page.one("input[value='3mf']").is_selected()
    for words, suffix in (("STL", ".stl"), ("OBJ", ".obj"), ("3MF", ".3mf")):
        if suffix != ".stl":
            page.press("Once more", "[aria-label=Ledger]")
            page.one("[aria-label=Letter]")
        next(x for x in page.all("[aria-label=Ledger] label") if words in x.text).click()
        n = len(page.all("[data-testid=release]"))
        page.key("d")
        page.reads("It can be withdrawn", "[role=dialog]")
        page.press(f"Release as {words}", "[role=dialog]")
        page.until(lambda n=n: len(page.all("[data-testid=release]")) == n + 1)
        link = page.button("Fetch the file", "[data-testid=release]")
        file = page.download(link)
        assert file.suffix == suffix
        assert file.name.endswith(f"_pump-from-customer_tough-resin_1x_r2{suffix}")
        judged = trimesh.load(file, force="mesh")
        assert judged.is_watertight
        assert judged.is_winding_consistent
        assert judged.volume == pytest.approx(whole.volume, rel=1e-3)
        assert igl.is_edge_manifold(np.asarray(judged.faces, dtype=np.int64))[0]
    page.in_state("release", "tight")
    letter = page.button("Letter to the customer").get_attribute("href")

    # withdrawn, with a reason; the letter says so
    first = page.one("[data-testid=release]")
    first.find_element("css selector", "input").send_keys("it leaves with the next" + Keys.ENTER)
    page.reads("Withdrawn by Maren Aas", "[data-testid=release]")
    page.driver.get(letter)
    for words in (
        "pump_from_customer.stl", "What we changed", "With thanks for the pump.",
        "Walls, in tough resin", "This release was withdrawn on",
    ):  # fmt: skip
        page.reads(words)


def value_of(field) -> str:
    return field.get_attribute("value")


def test_hostile_files_each_say_why(page, tmp_path) -> None:
    files = hostile_files(tmp_path)
    chosen = ["empty", "truncated", "lying count", "all NaN", "no faces", "text"]
    take_in(page, *(files[what][0] for what in chosen), customer="Careless Exports")
    page.reads("The file is empty (0 bytes).", "[aria-label='Incoming files']")
    page.until(lambda: page.all("[aria-label='Incoming files'] a").__len__() == 5)
    page.button("Put away").click()
    page.button("Careless Exports", "[aria-label=Lists]").click()
    for what in chosen[1:]:
        path, word = files[what]
        page.until(lambda path=path, word=word: word in page.row(path.name).text)
    page.row(files["text"][0].name).click()
    page.reads("This file cannot be read.")
    page.reads("The file as received is kept")
    kept = page.download(page.button(files["text"][0].name))
    assert kept.read_bytes() == files["text"][0].read_bytes()


def test_inches_are_asked_about_and_set(page) -> None:
    page.open_item("Horn cleat")
    page.in_state("size", "your call")
    page.reads("is that meant?")
    page.one("input[value=in]").click()
    page.press("Read it in inches")
    page.in_state("size", "tight")
    page.reads("148.6 × 26.0 × 41.3 mm")


def test_a_size_can_be_kept_with_a_reason(page) -> None:
    page.open_item("Gallery bracket")
    page.key("1")
    page.one("input[value=ft]").click()
    page.press("Read it in feet")
    page.one("[data-revision='1'][aria-pressed=true]")
    page.in_state("size", "your call")
    page.one("[aria-label^='It is right']").send_keys("It is for the large lamp." + Keys.ENTER)
    page.reads("Accepted by Maren Aas: “It is for the large lamp.”")
    page.in_state("size", "waived")
    # another size is another question
    page.one("input[value=m]").click()
    page.press("Read it in metres")
    page.one("[data-revision='2'][aria-pressed=true]")
    page.in_state("size", "your call")
    page.one("[data-revision='0']").click()
    page.button("Work from here").click()
    page.reads("work goes on from here", "[data-revision='0']")
    page.until(lambda: page.one("input[value=mm]").is_selected())


def test_a_void_is_seen_and_a_sculpture_becomes_one_solid(page) -> None:
    page.open_item("Lantern")
    page.in_state("inside", "your call")
    page.one("[data-question=inside]").click()
    page.one("[data-finding='1']").click()
    page.one("[aria-label^=Reason]").send_keys("A hollow finial is wanted." + Keys.ENTER)
    page.reads("“A hollow finial is wanted.”")
    page.reads("Accepted by Maren Aas")
    page.one("[data-finding='2']").click()
    page.press("Drop it", "[role=list]")
    page.one("[data-revision='1']")
    page.in_state("inside", "your call")
    page.open_item("Seal on a rock")
    page.in_state("solid", "leaks")
    page.key("m")
    page.one("[data-revision='1']")
    page.in_state("solid", "tight")
    page.in_state("closed", "tight")
    page.one("[data-question=solid]").click()
    page.reads("7 pieces united into 1.", "[data-testid=account]")


def test_a_sheet_is_refused_with_the_reason(page) -> None:
    page.open_item("Pennant")
    page.key("m")
    page.reads("Not done", "[role=alert]")
    page.reads("open sheet left open", "[role=alert]")
    page.button("Put away", "[role=alert]").click()
    assert not page.all("[data-revision='1']")


def test_the_keys_turn_the_view_and_are_listed(page) -> None:
    page.open_item("Valve wheel")
    page.one("canvas")
    page.until(lambda: page.all("[data-label]"))
    label = page.one("[data-label='1']")

    def moved(act) -> None:
        before = label.get_attribute("style")
        act()
        page.until(lambda: label.get_attribute("style") != before)

    for key in "fbau":
        moved(lambda key=key: page.key(key))
    looks = page.button("Look", "[role=toolbar]")

    def told(what: str) -> bool:
        return what in looks.get_attribute("title")

    for key, what in (("s", "see-through"), ("t", "triangles"), ("i", "inside striped")):
        before = told(what)
        page.key(key)
        page.until(lambda what=what, was=before: told(what) != was)
    page.key("?")
    page.reads("Next, previous finding", "[role=dialog]")
    page.key(Keys.ESCAPE)
    page.until(lambda: not page.all("[role=dialog]"))
    page.key("o")
    page.one("[role=grid]")


def test_orders_are_filtered_and_walked_by_key(page) -> None:
    page.row("Half model")
    everything = len(page.all("[role=row]"))
    page.button("Oakum Yard", "[aria-label=Lists]").click()
    page.until(lambda: len(page.all("[role=row]")) < everything)
    page.reads("Half model")
    page.key(Keys.ARROW_DOWN)
    page.key(Keys.ARROW_DOWN)
    page.key(Keys.ENTER)
    page.one("[data-question=closed]")
    page.reads("Oakum Yard")


def test_a_worker_that_dies_loses_nothing(page, shop, broken) -> None:
    """The queue survives: another worker takes up what came in meanwhile."""
    import run

    os.kill(shop.worker.pid, signal.SIGKILL)
    shop.worker.wait()
    path, _ = broken
    take_in(page, path, customer="Night shift")
    page.button("Open on the bench").click()
    page.reads("Waits its turn")
    second = run.worker(shop.env)
    try:
        page.in_state("closed", "leaks")
    finally:
        run.end(second)
        shop.worker = run.worker(shop.env)


def test_everything_on_the_bench_has_a_name(page) -> None:
    page.open_item("Lantern")
    page.until(lambda: page.all("[data-finding]"))
    for one in page.driver.find_elements(By.CSS_SELECTOR, "button, a, input, select"):
        named = one.text or one.get_attribute("aria-label") or one.accessible_name
        assert named, one.get_attribute("outerHTML")
