"""Whether a place that was accepted is the one found now; pieces that keep their numbers."""

from dataclasses import replace

import numpy as np
import pytest
import trimesh
from caulkcore import Mesh
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.mesh.simple_solids import cuboid
from caulkjob import examine
from caulkjob.accepted_places import answered, left_open, still_fits
from caulkjob.examination import with_walls
from caulkjob.perform import perform
from caulkjob.piece_numbers import numbers_after
from caulkjob.rule_sheets import usual_rule_sheet
from harbour import breakers as b
from makers import box, hollow_box, sphere

NYLON = usual_rule_sheet("sintered-nylon")


def spot(x: float = 0.0, size: float = 10.0, value: float | None = 0.6, **more) -> dict:
    box_ = [[x, 0.0, 0.0], [x + size, size, 1.0]]
    return {"box": box_, "value": value, "limit_mm": 0.8, "stands_for": 1, **more}


@pytest.mark.parametrize(
    ("kind", "found", "fits"),
    [
        ("thin-walls", spot(), True),
        ("thin-walls", spot(value=0.595), True),
        ("thin-walls", spot(value=0.58), False),
        ("thin-walls", spot(value=0.7), True),
        ("thin-walls", spot(x=0.4), True),
        ("thin-walls", spot(x=0.6), False),
        ("thin-walls", spot(x=3, size=4), True),  # what is left of it, mended in part
        ("thin-walls", spot(size=11), False),  # it grew
        ("thin-walls", spot(limit_mm=1.0), False),  # more is asked for
        ("thin-walls", spot(limit_mm=0.7), True),
        ("narrow-gaps", spot(value=0.7), True),
        ("near-gaps", spot(value=0.5), False),
        ("sealed-voids", spot(), True),
        ("sealed-voids", spot(value=0.7), False),
        ("sealed-voids", spot(value=0.604), True),
        ("sealed-voids", spot(x=3, size=4), False),
        ("sealed-voids", spot(value=None), False),
    ],
)
def test_a_place_that_was_accepted(kind: str, found: dict, fits: bool) -> None:
    assert still_fits(kind, spot(), found) is fits


def test_of_large_places_more_may_move() -> None:
    assert still_fits("thin-walls", spot(size=200), spot(x=4, size=200))
    assert not still_fits("thin-walls", spot(size=200), spot(x=8, size=200))


def test_each_acceptance_covers_one_place_the_nearest() -> None:
    accepted = [spot(x=0), spot(x=0.3)]
    found = [spot(x=0.29), spot(x=0.35), spot(x=0.1), spot(x=90)]
    assert answered("sealed-voids", found, accepted) == [1, None, 0, None]
    assert answered("sealed-voids", [], accepted) == []
    assert answered("sealed-voids", found, []) == [None] * 4


def test_thousands_of_places_are_matched_each_with_its_own() -> None:
    """Half of them the same, half moved a little; in other order; two of them gone."""
    rng = np.random.default_rng(4)
    accepted = [spot(x=20.0 * i, value=0.5 + i / 1e5) for i in range(2000)]
    order = rng.permutation(2000)[:-2]
    found = [spot(x=20.0 * i + 0.1 * (i % 2), value=0.5 + i / 1e5) for i in order]
    assert answered("thin-walls", found, accepted) == order.tolist()


def test_a_line_for_many_is_covered_as_long_as_there_are_no_more() -> None:
    many = {"value": None, "limit_mm": None}
    then = spot(stands_for=500, **many)
    assert still_fits("thin-walls", then, spot(stands_for=400, **many))
    assert not still_fits("thin-walls", then, spot(stands_for=501, **many))
    assert not still_fits("thin-walls", then, spot(**many))


def test_what_stands_in_the_way_of_a_release() -> None:
    def finding(kind: str, severity: str, *spots) -> dict:
        return {"kind": kind, "severity": severity, "spots": list(spots)}

    found = [
        finding("open-edges", "leak", spot()),
        finding("overlapping-shells", "leak", spot(pieces=[0, 1]), spot(pieces=[2, 3])),
        finding("sealed-voids", "call", spot(), spot(x=50)),
        finding("loose-parts", "note", spot()),
    ]
    accepted = {"open-edges": [spot()], "sealed-voids": [spot(x=50)]}
    rest = left_open(found, accepted, apart=[3])
    assert [(one["kind"], one["open"]) for one in rest] == [
        ("open-edges", [0]), ("overlapping-shells", [0]), ("sealed-voids", [0])
    ]  # fmt: skip
    accepted["sealed-voids"].append(spot())
    assert [one["kind"] for one in left_open(found[1:], accepted, apart=[1, 2])] == []


@pytest.mark.parametrize("divided", [1, 3])
def test_a_place_is_found_again_on_another_division_of_the_same_shape(divided: int) -> None:
    """A wall is measured on samples, which lie elsewhere when faces are divided or renumbered."""
    coarse = box((30, 30, 0.6))
    fine = trimesh.Trimesh(coarse.vertices, coarse.faces)
    for _ in range(divided):
        fine = fine.subdivide()
    meshes = (
        Mesh(fine.vertices, fine.faces),
        Mesh(coarse.vertices, np.roll(coarse.faces[::-1], 1, axis=1)),
    )

    def place(mesh: Mesh) -> dict:
        found = [f for f in examine(mesh, rules=NYLON).findings if f.kind == "thin-free-walls"]
        return found[0].places[0].as_json()

    for other in meshes:
        assert still_fits("thin-free-walls", place(coarse), place(other))
        assert still_fits("thin-free-walls", place(other), place(coarse))


def moved(mesh: Mesh, x: float) -> Mesh:
    return Mesh(mesh.vertices + np.array([x, 0, 0]), mesh.faces)


ROW = (box(10), moved(sphere(5, 2), 30), moved(hollow_box(), 80))


@pytest.mark.parametrize(
    ("after", "numbers"),
    [
        (b.soup(*ROW), [4, 7, 9, 5]),
        (b.soup(ROW[1], ROW[2]), [7, 9, 5]),
        (b.soup(ROW[2], ROW[0], ROW[1]), [9, 5, 4, 7]),
        (b.soup(ROW[0], moved(box(3), 15), ROW[1]), [4, 20, 7]),
        (b.without(b.soup(*ROW), np.array([0, 1])), [4, 7, 9, 5]),
    ],
)
def test_pieces_keep_their_numbers(after: Mesh, numbers: list[int]) -> None:
    before = b.soup(*ROW)
    known = {0: 4, 1: 7, 2: 9, 3: 5}
    assert len(Diagnosis.of(before).shells[0]) == len(before.faces)
    assert numbers_after(before, known, after, 20) == numbers


def test_of_a_piece_cut_in_two_the_larger_keeps_the_number() -> None:
    whole = box((30, 10, 10))
    halves = b.soup(box((8, 10, 10), (-11, 0, 0)), box((20, 10, 10), (5, 0, 0)))
    assert numbers_after(whole, {0: 3}, halves, 4) == [4, 3]


def test_pieces_that_were_moved_keep_their_numbers_wherever_they_are_now() -> None:
    before = b.soup(*ROW)
    # the ball goes to where the box was, and the box far off
    by = {1: [-30.0, 0.0, 0.0], 0: [900.0, 0.0, 0.0]}
    known, mesh = {0: 4, 1: 7, 2: 9, 3: 5}, before
    for piece, step in by.items():
        done = perform(mesh, "move", {"by": step, "pieces": [piece + 1]})
        known = dict(enumerate(numbers_after(mesh, known, done.mesh, 20, unmoved=done.unmoved)))
        mesh = done.mesh
    assert known == {0: 4, 1: 7, 2: 9, 3: 5}
    apart = perform(cuboid((30.0, 10.0, 10.0)), "cut", {
        "point": [8.0, 0.0, 0.0], "normal": [-1.0, 0.0, 0.0], "spacing": 500.0,
    })  # fmt: skip
    whole = cuboid((30.0, 10.0, 10.0))
    assert numbers_after(whole, {0: 3}, apart.mesh, 4, unmoved=apart.unmoved) == [3, 4]


def test_pieces_that_overlap_on_purpose_are_measured_each_alone() -> None:
    fin = box((8, 8, 0.5), (0, 0, 5.2))
    mesh = b.soup(box((20, 20, 10)), fin, hollow_box())
    assert examine(fin, rules=NYLON).thinnest[1].thickness == pytest.approx(0.5)
    report = examine(mesh, rules=NYLON)
    assert [one.reason for one in report.unasked] == ["skins-cross"]
    base = replace(report, unasked=())
    # one that does not stay apart crosses another: thickness means nothing there
    assert with_walls(base, NYLON, apart=(2,)).unasked[0].reason == "skins-cross"
    judged = with_walls(base, NYLON, apart=(0, 1, 2))
    assert judged.unasked == ()
    (thin,) = [f for f in judged.findings if f.kind == "thin-free-walls"]
    place = thin.places[0]
    assert place.thickness == pytest.approx(0.5)
    low, high = fin.bounds
    assert (place.low >= low - 0.5).all()
    assert (place.high <= high + 0.5).all()
    assert (np.abs(place.at - fin.bounds.mean(axis=0)) <= 4.5).all()


@pytest.mark.parametrize("thickness", [0.5, 0.8, 1.3, 5.0])
def test_the_thinnest_wall_is_told_enough_or_not(thickness: float) -> None:
    report = examine(box((30, 30, thickness)), rules=NYLON)
    told = {one.kind: one for one in report.thinnest}
    free = told["thin-free-walls"]
    assert free.limit == NYLON.wall_free
    if thickness < free.beyond:
        assert free.thickness == pytest.approx(thickness, rel=0.01)
    else:
        assert free.thickness is None
    assert told["thin-walls"].thickness is None
    assert told["thin-wires"].thickness is None
