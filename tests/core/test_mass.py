"""Thousands of places: found, counted, ranked, chosen; the lists agree with slow references."""

import numpy as np
import pytest
from bench.packing import pack_marks, report_for_screen, screen_order
from caulkcore import Mesh
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.mesh.groups import Groups
from caulkcore.progress import SILENT
from caulkcore.spatial.ray_parity import boxes_within
from caulkjob import examine, mend
from caulkjob.chosen_places import chosen_numbers
from caulkjob.findings.places import LISTED, by_rank
from caulkjob.operations import run_operation
from harbour import breakers as b
from makers import python_calls


def plate(cells: int, thickness: float = 5.0) -> Mesh:
    """A square plate of two triangles a cell above and below, with its walls; closed."""
    x = np.arange(cells + 1.0)
    grid = np.stack(np.meshgrid(x, x, indexing="ij"), axis=-1).reshape(-1, 2)
    n = len(grid)
    points = np.vstack([np.c_[grid, np.zeros(n)], np.c_[grid, np.full(n, thickness)]])
    i, j = np.meshgrid(np.arange(cells), np.arange(cells), indexing="ij")
    a = (i * (cells + 1) + j).ravel()
    up = np.concatenate([np.c_[a, a + cells + 1, a + cells + 2], np.c_[a, a + cells + 2, a + 1]])
    k = np.arange(cells)
    w = cells + 1
    rim = np.concatenate([k * w, cells * w + k, (cells - k) * w + cells, cells - k])
    onward = np.roll(rim, -1)
    walls = np.concatenate([np.c_[rim, onward, onward + n], np.c_[rim, onward + n, rim + n]])
    mesh = Mesh(points, np.concatenate([up[:, ::-1], up + n, walls]))
    assert mesh.volume == pytest.approx(cells * cells * thickness)
    return mesh


def riddled(cells: int) -> tuple[Mesh, Mesh]:
    """A plate, and the same with every other cell's upper face gone, no two holes touching."""
    whole = plate(cells)
    middle = b.middles(whole)
    top = (middle[:, 2] > 4.9) & (middle[:, 0] % 1 < 0.5)
    cell = np.floor(middle).astype(int)
    gone = top & (cell[:, 0] % 2 == 0) & (cell[:, 1] % 2 == 0)
    return whole, b.without(whole, np.flatnonzero(gone))


def test_thousands_of_holes_are_listed_by_the_worst_and_all_mended() -> None:
    whole, broken = riddled(130)
    report = examine(broken)
    (finding,) = report.findings
    holes = 65 * 65
    assert finding.kind == "open-edges"
    assert finding.place_count == holes
    assert len(finding.places) == LISTED + 1
    last = finding.places[-1]
    assert last.stands_for == holes - LISTED
    assert last.title == f"{holes - LISTED:,} more holes"
    assert finding.count == sum(len(p.lines) for p in finding.places) == 3 * holes
    assert report.as_json()["findings"][0]["places"] == holes
    outcome = mend(broken)
    assert outcome.refused is None
    assert outcome.mesh.volume == pytest.approx(whole.volume)
    assert len(outcome.mesh.faces) == len(whole.faces)


@pytest.mark.parametrize(
    ("places", "left"),
    [([1], 65 * 65 - 1), ([LISTED + 1], LISTED), ([1, LISTED + 1], LISTED - 1)],
)
def test_the_last_line_stands_for_all_the_others(places: list[int], left: int) -> None:
    _, broken = riddled(130)
    outcome = run_operation(broken, "fill-holes", {"places": places}, SILENT)
    (finding,) = examine(outcome.mesh).findings
    assert finding.place_count == left


def test_chosen_numbers_follow_the_rank() -> None:
    order = by_rank(np.array([1.0, 9.0, 5.0]))
    assert order.tolist() == [1, 2, 0]
    assert sorted(chosen_numbers(order, None)) == [0, 1, 2]
    assert sorted(chosen_numbers(order, [2])) == [2]
    assert sorted(chosen_numbers(order, [1, 3])) == [0, 1]


def crumbs(n: int) -> Mesh:
    """Single triangles, far from each other."""
    rng = np.random.default_rng(4)
    middles = rng.uniform(0, 300, size=(n, 1, 3))
    corners = middles + rng.normal(0, 0.2, size=(n, 3, 3))
    return Mesh(corners.reshape(-1, 3), np.arange(3 * n).reshape(-1, 3))


def test_many_crumbs_open_scraps_and_flips_are_not_listed_one_by_one() -> None:
    few, many = crumbs(3_000), crumbs(30_000)
    examine(few)
    counted = [
        python_calls(lambda soup=soup: [list(f.places) for f in examine(soup).findings])
        for soup in (few, many)
    ]
    assert counted[1] < 1.5 * counted[0], "listed one by one it took minutes"
    report = examine(many)
    kinds = {f.kind: f.place_count for f in report.findings}
    assert kinds["open-sheets"] == 30_000
    assert "open-edges" not in kinds, "the rim of a scrap is no hole"
    assert all(len(f.places) <= LISTED + 1 for f in report.findings)
    order = screen_order(report.mesh)
    told = report_for_screen(report)
    marks = pack_marks(report, order)
    spots = sum(len(f["spots"]) for f in told["findings"])
    assert np.frombuffer(marks, "<u4", 1, 8)[0] == spots


def test_flat_loops_nest_as_trying_all_says() -> None:
    """Squares of many sizes in a few planes, against a test of each with each."""
    rng = np.random.default_rng(8)
    plates = []
    for _ in range(60):
        z = float(rng.integers(0, 3))
        x, y = rng.integers(0, 5, size=2) * 4.0
        side = float(rng.uniform(0.5, 3.5))
        x, y = x + (4 - side) / 2, y + (4 - side) / 2
        square = np.array([[x, y, z], [x + side, y, z], [x + side, y + side, z], [x, y + side, z]])
        faces = np.array([[0, 1, 2], [0, 2, 3]])
        plates.append(Mesh(square, faces if rng.random() < 0.5 else faces[:, ::-1]))
    mesh = Mesh(
        np.concatenate([p.vertices for p in plates]),
        np.concatenate([p.faces + 4 * i for i, p in enumerate(plates)]),
    )
    loops = Diagnosis(mesh).boundary_loops
    low = np.array([mesh.vertices[loops.groups[i]].min(axis=0) for i in range(len(loops))])
    high = np.array([mesh.vertices[loops.groups[i]].max(axis=0) for i in range(len(loops))])
    way = np.sign(loops.area_vectors[:, 2])
    owner: dict[int, int] = {}
    for i in np.argsort(-loops.areas, kind="stable").tolist():
        around = [
            j
            for j in range(len(loops))
            if loops.areas[j] > loops.areas[i]
            and low[j, 2] == low[i, 2]
            and way[j] != way[i]
            and (low[j] < low[i])[:2].all()
            and (high[j] > high[i])[:2].all()
            and j not in owner
        ]
        if around:
            owner[i] = min(around, key=lambda j: loops.areas[j])
    expected = {j: sorted(i for i in owner if owner[i] == j) for j in range(len(loops))}
    found = dict(loops.nested)
    assert {j: sorted(v) for j, v in found.items()} == {
        j: v for j, v in expected.items() if j not in owner
    }
    assert sum(len(v) for v in found.values()) > 3


def test_boxes_in_boxes_as_trying_all_says() -> None:
    rng = np.random.default_rng(2)
    low = rng.uniform(0, 10, size=(200, 3))
    high = low + rng.uniform(0, 4, size=(200, 3))
    may = rng.random(200) < 0.7
    outer, inner = boxes_within(low, high, may)
    fits = (low[None] >= low[:, None]).all(axis=2) & (high[None] <= high[:, None]).all(axis=2)
    np.fill_diagonal(fits, False)
    fits &= may[:, None]
    assert np.array_equal(outer, fits.any(axis=1))
    assert np.array_equal(inner, fits.any(axis=0))
    assert inner.any()


class TestGroups:
    label = np.array([5, 2, 5, 9, 2, 5])

    def test_by_label(self) -> None:
        groups = Groups.by_label(self.label)
        assert [g.tolist() for g in (groups[0], groups[1], groups[2])] == [[1, 4], [0, 2, 5], [3]]
        assert groups.sizes.tolist() == [2, 3, 1]
        assert groups.of(np.array([2, 0])).tolist() == [1, 4, 3]

    def test_take_keeps_the_order_asked_for(self) -> None:
        taken = Groups.by_label(self.label).take(np.array([2, 0]))
        assert taken.items.tolist() == [3, 1, 4]
        assert taken.starts.tolist() == [0, 1, 3]

    def test_reduce_and_sides(self) -> None:
        groups = Groups.by_label(self.label, np.array([1.0, 2, 3, 4, 5, 6]))
        assert groups.reduce(np.add, groups.items).tolist() == [7, 10, 4]
        points = np.zeros((6, 1, 3))
        points[:, 0, 0] = groups.items
        points[:, 0, 1] = -groups.items / 2
        assert groups.longest_sides(points).tolist() == [3, 5, 0]

    def test_of_nothing(self) -> None:
        groups = Groups.by_label(np.zeros(0, dtype=int))
        assert len(groups) == 0
        assert len(groups.reduce(np.add, np.zeros(0))) == 0
