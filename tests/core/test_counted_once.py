"""Each defect is told once, under one number, with a size that is what it says."""

import numpy as np
import pytest
from caulkcore import Mesh
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.thickness.thickness_map import measure_thickness
from caulkjob import examine
from caulkjob.findings.finding import Finding
from caulkjob.rule_sheets import usual_rule_sheet, usual_rule_sheets
from harbour import breakers as b
from makers import box, sphere
from test_necks import blocks
from test_walls import block, made, rod


def found(mesh: Mesh) -> dict[str, Finding]:
    return {f.kind: f for f in examine(mesh).findings}


def scrap(at: float = 30.0) -> Mesh:
    corners = np.array([[at, 0, 0], [at + 1, 0, 0], [at + 1, 1, 0], [at, 1, 0]])
    return Mesh(corners, np.array([[0, 1, 2], [0, 2, 3]]))


def with_fin(mesh: Mesh) -> Mesh:
    a, b_ = mesh.faces[0][:2]
    tip = mesh.vertices[[a, b_]].mean(axis=0) * 1.5
    vertices = np.vstack([mesh.vertices, tip])
    return Mesh(vertices, np.vstack([mesh.faces, [[a, b_, len(mesh.vertices)]]]))


def holed() -> Mesh:
    ball = sphere(20.0, 4)
    height = ball.vertices[ball.faces, 2].min(axis=1)
    return Mesh(ball.vertices, ball.faces[height < 17.0])


def doubled() -> Mesh:
    ball = sphere(20.0, 3)
    patch = ball.faces[np.argsort(-ball.vertices[ball.faces, 2].mean(axis=1))[:60]]
    return Mesh(ball.vertices, np.vstack([ball.faces, patch]))


ONCE = {
    "a scrap is no hole": (lambda: b.soup(box(), scrap()), {"open-sheets": (1, 1)}),
    "a fin is no hole": (lambda: with_fin(box()), {"over-shared-edges": (1, 1)}),
    "a doubled patch is one of sixty faces": (doubled, {"duplicate-faces": (60, 1)}),
    "a hole is a hole": (holed, {"open-edges": (None, 1)}),
    "a hole and a scrap are two": (
        lambda: b.soup(holed(), scrap()),
        {"open-edges": (None, 1), "open-sheets": (1, 1)},
    ),
}


@pytest.mark.parametrize("name", ONCE)
def test_one_defect_is_one_place_of_one_finding(name: str) -> None:
    make, expected = ONCE[name]
    leaks = {k: f for k, f in found(make()).items() if f.severity == "leak"}
    assert leaks.keys() == expected.keys()
    for kind, (count, places) in expected.items():
        assert leaks[kind].place_count == places
        assert count is None or leaks[kind].count == count


def test_what_is_no_hole_still_keeps_it_from_being_tight() -> None:
    for name in ("a scrap is no hole", "a fin is no hole"):
        assert not examine(ONCE[name][0]()).tight


@pytest.mark.parametrize(
    ("mesh", "kind", "measure"),
    [
        (b.soup(box(40.0), box(20.0)), "buried-shells", "longest side 20.0 mm"),
        (b.soup(box(40.0), box((0.3, 0.1, 0.1), (30, 0, 0))), "debris", "longest side 0.3 mm"),
        (b.soup(box(40.0), scrap()), "open-sheets", "longest side 1.0 mm"),
    ],
)
def test_sizes_are_longest_sides_and_say_so(mesh: Mesh, kind: str, measure: str) -> None:
    assert found(mesh)[kind].places[0].measure == measure


def test_a_hole_is_as_wide_as_its_farthest_corners_are_apart() -> None:
    diagnosis = Diagnosis(holed())
    (ring,) = [loop.vertices for loop in diagnosis.boundary_loops]
    points = diagnosis.mesh.vertices[ring]
    farthest = np.linalg.norm(points[:, None] - points[None], axis=2).max()
    assert diagnosis.boundary_loops.diameters == pytest.approx([farthest])
    # and not as its box's diagonal
    assert diagnosis.boundary_loops.extents[0] > 1.3 * farthest
    assert found(holed())["open-edges"].places[0].measure == f"{farthest:.1f} mm across"


@pytest.mark.parametrize("seed", range(4))
def test_the_diameter_of_a_long_loop_is_that_of_all_pairs(seed: int) -> None:
    rng = np.random.default_rng(seed)
    angle = np.sort(rng.uniform(0, 2 * np.pi, 300))
    turn = np.linalg.qr(rng.normal(size=(3, 3)))[0]
    rim = np.stack([9 * np.cos(angle), 4 * np.sin(angle), np.sin(3 * angle)], axis=1) @ turn
    fan = np.stack([np.arange(300), np.roll(np.arange(300), -1), np.full(300, 300)], axis=1)
    loops = Diagnosis(Mesh(np.vstack([rim, [[0, 0, 0]]]), fan)).boundary_loops
    points = rim.astype(float)
    farthest = np.linalg.norm(points[:, None] - points[None], axis=2).max()
    assert loops.diameters[0] == pytest.approx(farthest, rel=1e-3)


def test_loose_parts_are_named_by_their_pieces() -> None:
    three = b.soup(box(5.0, (20, 0, 0)), box(10.0), box(7.0, (-20, 0, 0)))
    titles = [place.title for place in found(three)["loose-parts"].places]
    assert titles == ["Loose part: piece 2", "Loose part: piece 3", "Loose part: piece 1"]


SHEETS = tuple(usual_rule_sheets().values())


def rack() -> Mesh:
    """Fins from 0.35 to 1.55 mm on a base."""
    solid = block(40, 11, 10)
    for i in range(7):
        solid += block(0.35 + 0.2 * i, 9, 10).translate((-16 + 5 * i, 0, 9))
    return made(solid + rod(14, 0.4).translate((18, 0, 4)))


def test_a_material_counts_the_same_whichever_is_ordered() -> None:
    mesh = rack()
    told = []
    for ordered in SHEETS:
        report = examine(mesh, rules=ordered, rule_sheets=SHEETS)
        told.append(
            {v.rules.key: [(f.what, f.places, f.found) for f in v.faults] for v in report.verdicts}
        )
        # and as many as its own finding lists
        own = {what: places for what, places, _ in told[-1][ordered.key]}
        listed = {f.kind: f.count for f in report.findings if f.kind in own}
        assert {what: own[what] for what in listed} == listed
    assert all(one == told[0] for one in told)
    assert len({str(faults) for faults in told[0].values()}) > 1


def test_where_samples_had_to_be_spaced_wider_it_is_told() -> None:
    assert measure_thickness(box(10.0), 0.8).could_miss(0.8) is None
    far = measure_thickness(box(400.0), 0.3)
    assert far.could_miss(0.3) == far.samples.spacing > 0.15
    # for a thicker limit they are close enough
    assert far.could_miss(4 * far.samples.spacing) is None
    nylon = usual_rule_sheet("sintered-nylon")
    large, small = (examine(mesh, rules=nylon) for mesh in (box(330.0), blocks(9.7, 9.7)))
    assert large.as_json()["could_miss_mm"] > 0.5
    assert small.as_json()["could_miss_mm"] is None
