"""Rule, cut, choosing and touching up, by pointer and by keys, on solids with known answers."""

import math
import re

import manifold3d
import numpy as np
import pytest
import trimesh
from caulkcore import Mesh
from caulkcore.mesh.concatenate import concatenate
from caulkcore.mesh.simple_solids import cuboid
from caulkjob import write
from makers import box, sphere, tube
from selenium.webdriver import ActionChains, Keys
from selenium.webdriver.support.ui import Select
from test_pieces_on_the_bench import opened
from test_walk import take_in

FIELD_OF_VIEW, MARGIN = math.radians(32), 1.15
"""Of the view, and how much room it leaves round a whole model; see `web/src/viewer/rig.tsx`."""


@pytest.fixture(autouse=True)
def _the_list_is_left_as_it_was(shop):
    """What a test brought in is set aside: others look for the demo's rows on the first page."""
    with shop.connect() as connection:
        known = [key for (key,) in connection.execute("select id from orders_item").fetchall()]
    yield
    with shop.connect() as connection:
        aside = "update orders_item set set_aside = true where not id = any(%s)"
        connection.execute(aside, (known,))


AXES = {
    "a": ((1, 0, 0), (0, 1, 0), (0, 0, 1)),
    "f": ((1, 0, 0), (0, 0, 1), (0, -1, 0)),
    "b": ((-1, 0, 0), (0, 0, 1), (0, 1, 0)),
}
"""What is right, up and near in the views from above, the front and the back, by their keys."""


class View:
    """The view from above, the front or the back: which pixel a place of the model is drawn at."""

    def __init__(self, page, mesh: Mesh) -> None:
        self.page, self.mesh, self.way = page, mesh, "a"
        self.look()

    def look(self, way: str = "a") -> None:
        """See all of it above what is in hand, and wait until the view stands still."""
        self.way = way
        self.page.key(way)
        seen: list[bytes] = []

        def still() -> bool:
            seen.append(self.page.one("canvas").screenshot_as_png)
            return len(seen) > 1 and seen[-1] == seen[-2]

        self.page.until(still)

    def pixel(self, x: float, y: float, z: float) -> tuple[float, float]:
        canvas = self.page.one("canvas").rect
        width, height = canvas["width"], canvas["height"]
        foot = self.page.driver.execute_script(
            "return parseFloat(document.querySelector('main').style.getPropertyValue('--foot'))||0"
        )
        low, high = self.mesh.bounds
        half = FIELD_OF_VIEW / 2
        free = max(0.3, 1 - foot / height)
        narrow = min(math.atan(math.tan(half) * free), math.atan(math.tan(half) * width / height))
        distance = float(np.linalg.norm(high - low)) / 2 * MARGIN / math.sin(narrow)
        right, up, near = np.array(AXES[self.way]) @ (np.array([x, y, z]) - (low + high) / 2)
        per_mm = height / 2 / math.tan(half) / (distance - near)
        return width / 2 + right * per_mm, (height - foot) / 2 - up * per_mm

    def at(self, *place: float) -> ActionChains:
        canvas = self.page.one("canvas")
        x, y = self.pixel(*place)
        rect = canvas.rect
        chain = ActionChains(self.page.driver)
        return chain.move_to_element_with_offset(
            canvas, round(x - rect["width"] / 2), round(y - rect["height"] / 2)
        )

    def click(self, *place: float) -> None:
        self.at(*place).click().perform()

    def drag(self, *places: tuple[float, float, float]) -> None:
        chain = self.at(*places[0]).click_and_hold()
        before = self.pixel(*places[0])
        for place in places[1:]:
            now = self.pixel(*place)
            chain.move_by_offset(round(now[0] - before[0]), round(now[1] - before[1]))
            before = now
        chain.release().perform()


def points(view: View, place: tuple[float, float, float], says: str) -> None:
    """Point at a place until the view says what a press would do there."""

    def said() -> bool:
        view.at(*place).move_by_offset(1, 0).move_by_offset(-1, 0).perform()
        return says in view.page.one("[data-testid=readout]").text

    view.page.until(said)


def take(page, key: str) -> None:
    page.key(Keys.SHIFT + key)
    page.until(lambda: page.all("[data-testid=bar]"))


def press(page, words: str) -> None:
    page.press(words, "[data-testid=bar]")


def measured(page, pattern: str) -> float:
    def found():
        told = [one.text for one in page.all("[data-testid=measured]")]
        return re.search(pattern, told[0]) if told else None

    return float(page.until(found).group(1))


def chosen(page) -> int:
    """How many triangles are chosen."""
    told = page.until(lambda: page.one("[data-testid=chosen]").text)
    match = re.match(r"([\d,]+) triangle", told)
    return int(match.group(1).replace(",", "")) if match else 0


def bring(page, tmp_path, mesh: Mesh, name: str) -> View:
    path = tmp_path / f"{name.lower().replace(' ', '-')}.stl"
    write(mesh, path)
    opened(page, path, name)
    page.until(lambda: page.all("canvas[data-picking=ready]"))
    return View(page, mesh)


def test_a_tubes_wall_and_bore_are_read_in_a_cut(page, tmp_path) -> None:
    view = bring(page, tmp_path, tube(), "Cut Tubes")
    middle = float(tube().bounds[:, 2].mean())
    take(page, "C")
    press(page, "across z")
    take(page, "R")
    view.look()
    press(page, "through")
    view.click(9.0, 0.3, middle)
    assert measured(page, r"([\d.]+) mm") == pytest.approx(2.0, abs=0.01)
    press(page, "round")
    view.click(8.25, 0.3, middle)
    assert measured(page, r"⌀ ([\d.]+) mm") == pytest.approx(16.0, abs=0.01)
    view.click(9.75, 0.3, middle)
    assert measured(page, r"⌀ ([\d.]+) mm") == pytest.approx(20.0, abs=0.01)
    # kept with the revision: there after a reload
    press(page, "Keep it")
    page.reads("⌀ 20.00 mm", "[aria-label='Kept measures']")
    page.one("[aria-label='Kept measures'] input").send_keys("outside\n")
    page.until(lambda: page.all("[aria-label='Kept measures'] [aria-busy=false]"))
    page.driver.refresh()
    page.until(lambda: page.all("canvas[data-picking=ready]"))
    take(page, "R")
    page.until(
        lambda: page.one("[aria-label='Kept measures'] input").get_attribute("value") == "outside"
    )


def test_a_model_is_scaled_to_a_measured_distance(page, tmp_path) -> None:
    mesh = cuboid((30.0, 20.0, 8.0))
    view = bring(page, tmp_path, mesh, "Scaled Blocks")
    take(page, "R")
    view.look()
    view.click(0.05, 0.05, 8.0)
    view.click(29.95, 0.05, 8.0)
    assert measured(page, r"([\d.]+) mm") == pytest.approx(30.0, abs=0.01)
    page.one("[aria-label='Should be, mm']").send_keys("45" + Keys.ENTER)
    page.one("[data-revision='1']")
    page.reads("45.0 × 30.0 × 12.0 mm", "[data-question=size]")


def test_picks_are_made_by_keys_alone(page, tmp_path) -> None:
    bring(page, tmp_path, cuboid((30.0, 20.0, 8.0)), "Keyed Blocks")
    take(page, "R")
    for way in (Keys.ARROW_LEFT, Keys.ARROW_RIGHT * 2):
        page.key(way)
        page.key(Keys.ENTER)
    apart = measured(page, r"([\d.]+) mm")
    assert 0.1 < apart < 30
    page.key(Keys.ESCAPE)
    page.until(lambda: not page.all("[data-testid=measured]"))
    page.key(Keys.ESCAPE)
    page.until(lambda: not page.all("[data-testid=bar]"))


def test_a_fin_is_chosen_by_brush_erased_and_closed(page, tmp_path) -> None:
    solids = [sphere(20, 4), cuboid((12.0, 1.6, 30.0), at=(-6.0, -0.8, 0.0))]
    whole = manifold3d.Manifold()
    for one in solids:
        faces = np.array(one.faces, dtype=np.uint64)
        whole += manifold3d.Manifold(manifold3d.Mesh64(np.array(one.vertices), faces))
    made = whole.to_mesh64()
    mesh = Mesh(np.array(made.vert_properties)[:, :3], np.array(made.tri_verts, dtype=np.int32))
    view = bring(page, tmp_path, mesh, "Finned Balls")
    take(page, "F")
    page.until(lambda: "Nothing is chosen" in page.one("[data-testid=chosen]").text)
    radius = page.one("[data-testid=bar] input[type=number]")
    ActionChains(page.driver).double_click(radius).send_keys("3").perform()
    before = 0
    for way, y in (("f", -0.8), ("b", 0.8)):
        view.look(way)
        view.drag(*[(x, y, z) for x, z in ((-5, 28), (5, 28), (5, 23), (-5, 23))])
        page.until(lambda was=before: chosen(page) > was)
        before = chosen(page)
    press(page, "Erase and close")
    page.press("Erase and close", "[data-testid=bar] form")
    page.one("[data-revision='1']")
    page.in_state("closed", "tight")
    page.reads("erased", "[data-revision='1']")


@pytest.mark.parametrize(("through", "faces"), [(False, 2), (True, 12)])
def test_a_lasso_takes_what_is_seen_or_goes_through_the_body(
    page, tmp_path, through: bool, faces: int
) -> None:
    view = bring(page, tmp_path, box(20), f"Lassoed Boxes {faces}")
    take(page, "F")
    press(page, "lasso")
    if through:
        page.one("[data-testid=bar] input[type=checkbox]").click()
    view.look()
    corners = [(-12.0, 12.0), (12.0, 12.0), (12.0, -12.0), (-12.0, -12.0), (-12.0, 11.0)]
    view.drag(*[(x, y, 10.0) for x, y in corners])
    page.until(lambda: chosen(page) == faces)
    # one step back by the keys that every program has for it, and all else instead
    ActionChains(page.driver).key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
    page.until(lambda: chosen(page) == 0)
    press(page, "The others")
    page.until(lambda: chosen(page) == 12)


def test_four_revisions_stand_in_numbers_side_by_side(page, tmp_path) -> None:
    bring(page, tmp_path, sphere(20, 4), "Reduced Balls")
    for n, percent in enumerate((80, 60, 40), 1):
        page.driver.execute_script(
            """
            const token = /csrftoken=([^;]+)/.exec(document.cookie)[1];
            const id = location.pathname.match(/\\d+/)[0];
            const parameters = {percent: arguments[0]};
            fetch(`/api/items/${id}`).then((one) => one.json()).then((item) =>
              fetch(`/api/items/${id}/operate`, {
                method: 'POST',
                headers: {'Content-Type': 'application/json', 'X-CSRFToken': token},
                body: JSON.stringify({revision: item.current, operation: 'reduce', parameters}),
              }));
            """,
            percent,
        )
        page.one(f"[data-revision='{n}']")
    page.key(Keys.SHIFT + "N")
    table = "[aria-label='Revisions in numbers']"
    for n in (1, 2):
        page.until(lambda n=n: len(page.all(f"{table} select")) >= n)
    while len(page.all(f"{table} thead th")) < 6 and page.all("[aria-label='One more']"):
        page.one("[aria-label='One more']").send_keys(Keys.ARROW_DOWN, Keys.ENTER)
    page.reads("5,120", table)
    counts = [one.text for one in page.all(f"{table} tbody tr:nth-child(2) td")]
    assert len(counts) == 4
    numbers = sorted(int(one.replace(",", "")) for one in counts)
    assert numbers[-1] == 5120
    assert numbers == sorted(set(numbers))
    # how far each is from the first is computed for whoever asks, and shown where it is
    against = f"{table} tbody tr:last-child td"
    page.slow_until(lambda: sum("at most" in one.text for one in page.all(against)) == 3)
    page.press("Show where", against)
    legend = "[aria-label='What changed']"
    page.reads("Changed since", legend)
    page.reads("at most", legend)
    since = Select(page.one(f"{legend} select"))
    since.select_by_index(len(since.options) - 1)
    page.slow_until(lambda: "were not there in revision" in page.one(legend).text)


def test_a_model_is_cut_into_parts_and_another_one_brought_in(page, tmp_path) -> None:
    first, second = tmp_path / "halfbollard.stl", tmp_path / "pegbollard.stl"
    write(cuboid((30.0, 20.0, 8.0)), first)
    write(cuboid((6.0, 6.0, 6.0), at=(50.0, 0.0, 0.0)), second)
    take_in(page, first, second, customer="Halved Bollards")
    page.until(lambda: sum("Open on the bench" in a.text for a in page.all("a")) == 2)
    page.open_item("Halfbollard")
    page.until(lambda: page.all("canvas[data-picking=ready]"))
    take(page, "C")
    press(page, "across x")
    press(page, "Into parts…")
    press(page, "Cut into parts")
    page.reads("Cut into parts of 2.40 cm³ and 2.40 cm³", "[data-testid=account]")
    page.in_state("closed", "tight")
    page.reads("2 pieces", "[aria-label=Pieces]")
    page.press("Bring other models in…")
    page.reads("Pegbollard", "[role=dialog]")
    page.one("[role=dialog] input[type=checkbox]").click()
    page.press("Bring in as pieces", "[role=dialog]")
    page.reads("1 model brought in, 12 triangles", "[data-testid=account]")
    page.reads("3 pieces", "[aria-label=Pieces]")


def test_a_cut_with_keyed_pegs_leaves_as_two_parts_with_their_names(page, tmp_path) -> None:
    bring(page, tmp_path, cuboid((40.0, 30.0, 30.0)), "Keyed Halves")
    take(page, "C")
    press(page, "across x")
    press(page, "Into parts…")
    parts = "form[aria-label='Into parts']"
    Select(page.one(f"{parts} select")).select_by_value("keyed")
    page.press("Cut into parts", parts)
    page.reads("2 keyed pegs", "[data-testid=account]")
    page.reads("measured 0.300 to 0.300", "[data-testid=account]")
    page.key(Keys.ESCAPE)
    for number, name in ((1, "Seaward half"), (2, "Landward half")):
        page.one(f"[data-piece='{number}']").click()
        page.press("Name it", "[aria-label=Pieces]")
        page.one(f"[aria-label='Name of piece {number}']").send_keys(name + Keys.ENTER)
        page.reads(name, "[aria-label=Pieces]")
        page.one(f"[data-piece='{number}']").click()
    page.in_state("closed", "tight")
    page.key("d")
    page.one("[aria-label=Letter]")
    page.key("d")
    page.reads("It can be withdrawn", "[role=dialog]")
    page.key(Keys.ENTER)
    page.until(lambda: page.all("[data-testid=release]"))
    file = page.download(page.button("Fetch the file", "[data-testid=release]"))
    scene = trimesh.load(file)
    assert {"Seaward half", "Landward half"} <= set(scene.geometry)
    assert all(one.is_watertight for one in scene.geometry.values())


def test_cut_along_a_drawn_line_and_a_part_made_an_item_of_its_own(page, tmp_path) -> None:
    mesh = cuboid((60.0, 40.0, 8.0))
    bring(page, tmp_path, mesh, "Stepped Plates")
    take(page, "C")
    press(page, "a line")
    view = View(page, mesh)
    for x, y in ((3, 20), (25, 20), (25, 30), (35, 30), (35, 20), (57, 20)):
        view.click(x, y, 8)
    page.reads("6 corners")
    press(page, "Cut along it")
    page.reads("Cut along the line into parts of", "[data-testid=account]")
    told = re.search(
        r"parts of ([\d.]+) cm³ and ([\d.]+) cm³", page.one("[data-testid=account]").text
    )
    # to the pixel that was clicked
    assert sorted(map(float, told.groups())) == pytest.approx([8.8, 10.4], abs=0.2)
    assert sum(map(float, told.groups())) == pytest.approx(19.2, abs=0.011)
    page.key(Keys.ESCAPE)
    page.one("[aria-label='Take piece 2']").click()
    page.press("Make an item…", "[aria-label='Taken pieces']")
    page.one("[role=dialog] form input").send_keys("Upper plate" + Keys.ENTER)
    page.until(lambda: not page.all("[role=dialog]"))
    page.reads("1 piece taken out", "[data-testid=account]")
    page.driver.get(page.address)
    page.row("Upper plate")
    page.open_item("Upper plate")
    page.reads(f"{min(map(float, told.groups())):.2f} cm³", "[aria-label=Item]")
    page.reads("Revision 0", "[aria-label=Item]")


def test_files_come_in_as_one_item_and_a_piece_is_laid_on_another_and_put_back(
    page, tmp_path
) -> None:
    foot, cap = cuboid((20.0, 20.0, 10.0)), cuboid((8.0, 8.0, 8.0), at=(40.0, 6.0, 0.0))
    paths = [tmp_path / "mast_foot.stl", tmp_path / "mast_cap.stl"]
    for path, mesh in zip(paths, (foot, cap), strict=True):
        write(mesh, path)
    take_in(page, *paths, customer="Mast Steps", together=True)
    page.button("Open on the bench").click()
    page.until(lambda: page.all("canvas[data-picking=ready]"))
    page.reads("Mast", "[aria-label=Item]")
    for name in ("mast_foot", "mast_cap"):
        page.reads(name, "[aria-label=Pieces]")
    view = View(page, concatenate([foot, cap]))
    take(page, "R")
    view.look()
    view.click(44, 10, 8)
    view.click(10, 10, 10)
    page.press("Lay face to face", "[data-testid=bar]")
    page.reads("laid against the face", "[data-testid=account]")
    page.reads("20.0 × 20.0 × 18.0 mm", "[aria-label=Item]")
    page.key(Keys.ESCAPE)
    page.one("[aria-label='Take piece 2']").click()
    page.press("Put back…", "[aria-label='Taken pieces']")
    page.button("Put back", "[role=dialog]").click()
    page.reads("1 piece put back", "[data-testid=account]")
    page.reads("48.0 × 20.0 × 10.0 mm", "[aria-label=Item]")
    # and dragged, level; what was dragged to the pixel is typed to the micrometre
    page.until(lambda: page.all("[aria-label='Take piece 2']"))[0].click()
    page.press("Move…", "[aria-label='Taken pieces']")
    press(page, "level")
    view.look()
    points(view, (44, 10, 8), "drag to move it")
    view.drag((44, 10, 8), (44, 15, 8), (44, 22, 8))
    fields = [page.one(f"[aria-label='By, {axis}, mm']") for axis in "xyz"]
    by = [float(field.get_attribute("value")) for field in fields]
    assert by == pytest.approx([0, 12, 0], abs=0.3)
    # where it is now it is taken again
    view.drag((44, 22, 8), (44, 12, 8))
    assert float(fields[1].get_attribute("value")) == pytest.approx(2, abs=0.5)
    for axis, value in (("x", 0), ("y", 12.5), ("z", 0)):
        typed(page, f"By, {axis}, mm", value)
    press(page, "Move")
    page.reads("1 piece moved by 0, 12.5, 0 mm", "[data-testid=account]")
    page.reads("48.0 × 26.5 × 10.0 mm", "[aria-label=Item]")


def test_a_model_of_one_piece_is_turned_mirrored_copied_and_moved(page, tmp_path) -> None:
    bring(page, tmp_path, cuboid((40.0, 30.0, 20.0)), "Single Block")

    def done(way: str, field: str, value: float, says: str, size: str) -> None:
        page.until(lambda: page.all("[aria-label='Take piece 1']"))[0].click()
        page.press(f"{way}…", "[aria-label='Taken pieces']")
        page.button(way, "[role=dialog]")
        if field:
            labelled = [x for x in page.all("[role=dialog] label") if x.text.startswith(field)]
            boxes = [x.find_element("css selector", "input") for x in labelled]
            box = (boxes or page.all(f"[role=dialog] [aria-label='{field}']"))[0]
            box.send_keys(Keys.CONTROL + "a")
            box.send_keys(str(value))
        page.button(way, "[role=dialog]").click()
        page.reads(says, "[data-testid=account]")
        page.reads(size, "[aria-label=Item]")

    done("Turn", "Angle", 90, "1 piece turned", "30.0 × 40.0 × 20.0 mm")
    done("Mirror", "", 0, "1 piece mirrored", "30.0 × 40.0 × 20.0 mm")
    done("Copy", "Step, x", 50, "copied", "80.0 × 40.0 × 20.0 mm")


def test_a_block_cuts_its_shape_out(page, tmp_path) -> None:
    bring(page, tmp_path, cuboid((40.0, 30.0, 30.0)), "Notched Block")
    take(page, "C")
    press(page, "a block")
    for field, value in (("Middle, x", 40), ("Middle, y", 15), ("Middle, z", 30)):
        typed(page, f"{field}, mm", value)
    for axis in "xyz":
        typed(page, f"Side, {axis}, mm", 20)
    press(page, "Cut it out")
    # a quarter of the block lies in the model
    page.reads("Cut out 2.00 cm³; 34.00 cm³ stay", "[data-testid=account]")


def typed(page, label: str, value: float) -> None:
    field = page.one(f"[aria-label='{label}']")
    field.send_keys(Keys.CONTROL + "a")
    field.send_keys(str(value))


def test_question_finding_and_revision_live_in_the_address(page, tmp_path) -> None:
    hole = sphere(20, 3)
    view = bring(page, tmp_path, Mesh(hole.vertices, hole.faces[2:]), "Holed Balls")
    page.key("2")
    page.key("n")
    page.until(lambda: "finding=1" in page.driver.current_url)
    page.driver.refresh()
    page.until(lambda: page.one("[data-finding='1']").get_attribute("aria-expanded") == "true")
    assert "question=closed" in page.driver.current_url
    page.driver.get(page.address)
    page.driver.back()
    page.until(lambda: page.one("[data-finding='1']").get_attribute("aria-expanded") == "true")
    # what is chosen belongs to its revision
    page.key("m")
    page.in_state("closed", "tight")
    take(page, "F")
    press(page, "The others")
    everything = page.until(lambda: chosen(page))
    page.one("[data-revision='0']").click()
    page.until(lambda: chosen(page) == 0)
    page.one("[data-revision='1']").click()
    page.until(lambda: chosen(page) == everything)
    # and from where one looked is known after a reload
    page.key(Keys.ESCAPE)
    view.look("f")
    page.driver.refresh()
    page.until(lambda: page.all("canvas[data-picking=ready]"))
    points(view, (0, -20, 0), " mm")
    at = page.one("[data-testid=readout]").text.split(" at ")[1]
    assert float(at.split(", ")[1]) == pytest.approx(-20, abs=0.5)


def test_from_the_list_to_the_release_by_keys_alone(page, tmp_path) -> None:
    broken = sphere(20, 3)
    bring(page, tmp_path, Mesh(broken.vertices, broken.faces[2:]), "Keyed Orders")
    page.key("o")
    page.row("Keyed Orders")
    page.key("/")
    page.key("keyed orders")
    page.key(Keys.ESCAPE)
    page.until(lambda: ["Keyed" in row.text for row in page.all("[role=row]")] == [False, True])
    page.key(Keys.ARROW_DOWN)
    page.key(Keys.ENTER)
    page.one("[data-question=closed]")
    page.in_state("closed", "leaks")
    page.key("m")
    page.in_state("closed", "tight")
    page.reads("2 holes filled", "[data-testid=account]")
    page.key("d")
    page.one("[aria-label=Letter]")
    page.key("d")
    page.reads("It can be withdrawn", "[role=dialog]")
    page.key(Keys.ENTER)
    page.until(lambda: page.all("[data-testid=release]"))
    file = page.download(page.button("Fetch the file", "[data-testid=release]"))
    assert trimesh.load(file, force="mesh").is_watertight
