"""How pieces stand to one another, what each shell is, and no false alarm."""

import igl
import numpy as np
import pytest
from caulkcore import Mesh
from caulkcore.spatial.box_tree import Tree
from caulkcore.spatial.triangle_distance import nearest_faces_of_others, triangle_distance
from caulkjob import examine, mend
from caulkjob.limits import Limits
from caulkjob.unit_guess import UnitGuess
from harbour import breakers as b
from harbour import shapes
from makers import assert_tight_by_referees, box, sound, sphere


def alarms(mesh: Mesh, limits: Limits | None = None) -> dict[str, int]:
    report = examine(mesh, limits=limits or Limits())
    return {f.kind: f.count for f in report.findings if f.severity != "note"}


def gear(teeth: int = 24) -> Mesh:
    turn = np.linspace(0, 2 * np.pi, 4 * teeth, endpoint=False)
    radius = np.where(np.arange(4 * teeth) % 4 < 2, 22.0, 18.5)
    outline = np.stack([radius * np.cos(turn), radius * np.sin(turn)], axis=1)
    bore = np.stack([4 * np.cos(turn), 4 * np.sin(turn)], axis=1)[::-1]
    solid = shapes.Manifold.extrude(shapes.CrossSection([outline, bore]), 6)
    return shapes.as_mesh(solid)


def raised_text() -> Mesh:
    """Block letters on a board, their walls meeting at right angles and on slants."""
    bars = {"L": [(0, 0, 2, 10), (0, 0, 6, 2)], "T": [(0, 8, 7, 2), (2, 0, 2, 10)]}
    letters = [
        shapes.CrossSection.square((w, h)).translate((9 * i + x, y))
        for i, letter in enumerate("LTTL")
        for x, y, w, h in bars[letter]
    ]
    letters.append(shapes.CrossSection([[(36, 0), (40, 0), (43, 10), (41, 10), (38, 2)]]))
    text = shapes.CrossSection.batch_boolean(letters, shapes.OpType.Add)
    board = shapes.Manifold.cube((48, 16, 2)).translate((-3, -3, 0))
    return b.soup(shapes.as_mesh(board + text.extrude(3).translate((0, 0, 1))))


def cone() -> Mesh:
    """A cone with its tip at the origin."""
    return shapes.as_mesh(shapes.Manifold.cylinder(10, 5, 0, 32).translate((0, 0, -10)))


def fins(thickness: float) -> Mesh:
    plate = shapes.Manifold.cube((60, 20, 2))
    parts = [shapes.Manifold.cube((thickness, 20, 15)).translate((5 * i, 0, 1)) for i in range(12)]
    return shapes.as_mesh(shapes.concatenate([plate, *parts]))


def voxels_apart(step: float) -> Mesh:
    cubes = [box(step, tuple(2 * step * np.array(at))) for at in np.ndindex(4, 4, 4)]
    return b.soup(*cubes)


SOUND_ASSEMBLIES = {
    "a gear": gear,
    "raised text": raised_text,
    "thin fins": lambda: fins(0.3),
    "fins like foil": lambda: fins(0.01),
    "a sharp cone": lambda: shapes.as_mesh(shapes.Manifold.cylinder(60, 4, 0, 200)),
    "a fine sphere": lambda: sphere(20, 5),
    "shells one voxel apart": lambda: voxels_apart(0.5),
    "a lid over its box": lambda: b.soup(box(), Mesh(box(10, (0, 0, 10.2)).vertices, box().faces)),
}


def chessboard() -> Mesh:
    """Cubes that touch at their corners only."""
    places = [at for at in np.ndindex(4, 4, 4) if at[0] % 2 == at[1] % 2 == at[2] % 2]
    return b.soup(*(box(1, at) for at in places))


TOUCHING = {
    "cubes that touch in a corner": (
        lambda: b.soup(*(box(10, (10 * i, 10 * i, 10 * i)) for i in range(5))),
        4,
        5000,
    ),
    "cones that touch at their tips": (
        lambda: b.soup(*(b.soup(Mesh(cone().vertices * s, cone().faces[:, ::s])) for s in (1, -1))),
        1,
        2 * cone().volume,
    ),
    "a chessboard in space": (
        lambda: b.soup(
            *(box(1, at) for at in np.ndindex(4, 4, 4) if at[0] % 2 == at[1] % 2 == at[2] % 2)
        ),
        27,
        16,
    ),
}


@pytest.mark.parametrize("what", TOUCHING)
def test_solids_that_touch_in_a_point_are_parted_by_a_hair(what: str) -> None:
    make, points, volume = TOUCHING[what]
    mesh = make()
    assert alarms(mesh) == {"pinched-vertices": points}
    mended = mend(mesh)
    assert mended.refused is None
    assert mended.account.max_deviation_mm < 1e-3
    assert_tight_by_referees(mended.mesh, volume, 1e-4)


@pytest.mark.parametrize("what", SOUND_ASSEMBLIES)
def test_sound_models_raise_no_alarm(what: str) -> None:
    mesh = SOUND_ASSEMBLIES[what]()
    assert alarms(mesh) == {}
    assert examine(mesh).tight


@pytest.mark.parametrize("width", [0.049, 0.01, 1e-4, 1e-6])
def test_the_width_of_a_gap_is_measured(width: float) -> None:
    report = examine(b.soup(box(), box(6, (8 + width, 1, 2))))
    (gap,) = (f for f in report.findings if f.kind == "near-gaps")
    assert gap.count == 1
    spans = gap.places[0].curves
    lengths = np.linalg.norm(spans[:, 0] - spans[:, 1], axis=1)
    assert lengths.min() == pytest.approx(width, rel=1e-6)
    assert gap.places[0].title == "Gap between pieces 1 and 2"


def test_two_balls_are_nearest_on_the_line_between_them() -> None:
    one = sphere(10, 4)
    low = one.vertices[:, 0].max()
    other = Mesh(one.vertices * [-1, 1, 1] + [2 * low + 0.02, 0, 0], one.faces[:, ::-1])
    (gap,) = (f for f in examine(b.soup(one, other)).findings if f.kind == "near-gaps")
    lengths = np.linalg.norm(np.diff(gap.places[0].curves, axis=1)[:, 0], axis=1)
    assert lengths.min() == pytest.approx(0.02, rel=1e-9)


def test_crossed_bars_are_near_edge_to_edge() -> None:
    """No vertex of either is near the other."""
    bar = Mesh(box(2).vertices * [20, 1, 1], box(2).faces)
    edge_up = Mesh(bar.vertices @ np.array([[1, 0, 0], [0, 0.8, 0.6], [0, -0.6, 0.8]]), bar.faces)
    across = Mesh(edge_up.vertices[:, [1, 0, 2]], edge_up.faces[:, ::-1])
    top = edge_up.vertices[:, 2].max()
    lifted = Mesh(across.vertices + np.array([0, 0, 2 * top + 0.03]), across.faces)
    (gap,) = (f for f in examine(b.soup(edge_up, lifted)).findings if f.kind == "near-gaps")
    lengths = np.linalg.norm(np.diff(gap.places[0].curves, axis=1)[:, 0], axis=1)
    assert lengths.min() == pytest.approx(0.03, rel=1e-9)


@pytest.mark.parametrize(
    ("what", "mesh", "expected"),
    [
        ("beyond the limit", lambda: b.soup(box(), box(10, (10.06, 0, 0))), {}),
        ("one inside the other's void",
         lambda: b.soup(sound("hollow box"), box(3.96)), {"sealed-voids": 1, "near-gaps": 0}),
        ("overlapping elsewhere", lambda: b.soup(box(), box(10, (9, 9, 9))),
         {"overlapping-shells": 1}),
        ("three in a row",
         lambda: b.soup(box(), box(10, (10.02, 0, 0)), box(10, (20.04, 0, 0))), {"near-gaps": 2}),
    ],
)  # fmt: skip
def test_which_pairs_have_a_gap(what: str, mesh, expected: dict[str, int]) -> None:
    assert alarms(mesh()) == {k: n for k, n in expected.items() if n}


def test_the_limit_is_the_shops() -> None:
    mesh = b.soup(box(), box(10, (10.3, 0, 0)))
    assert alarms(mesh) == {}
    assert alarms(mesh, Limits(near_gap=0.5)) == {"near-gaps": 1}


def test_distances_of_triangles_agree_with_dense_samples() -> None:
    rng = np.random.default_rng(11)
    share = np.array([(i, j, 12 - i - j) for i in range(13) for j in range(13 - i)]) / 12
    checked = 0
    for _ in range(60):
        t, s = rng.normal(size=(2, 3, 3))
        s = s + rng.normal(size=3) * 2
        mesh = Mesh(np.concatenate([t, s]), np.array([[0, 1, 2], [3, 4, 5]]))
        if any(f.kind == "overlapping-shells" for f in examine(mesh).findings):
            continue
        u, v = np.empty(3), np.empty(3)
        ours = np.sqrt(triangle_distance(t, s, u, v))
        assert np.linalg.norm(u - v) == pytest.approx(ours)
        sampled = np.linalg.norm((share @ t)[:, None] - (share @ s)[None], axis=2).min()
        assert ours <= sampled + 1e-12
        side = max(np.linalg.norm(np.diff(x, axis=0), axis=1).max() for x in (t, s))
        assert sampled - ours <= 2 * side / 12
        # the points lie on their triangles
        for point, corners in ((u, t), (v, s)):
            nearest = igl.point_mesh_squared_distance(point[None], corners, np.array([[0, 1, 2]]))
            assert nearest[0][0] < 1e-18
        checked += 1
    assert checked > 30


def test_near_faces_agree_with_trying_all() -> None:
    rng = np.random.default_rng(5)
    corners = rng.uniform(0, 4, (40, 1, 3)) + rng.normal(0, 0.3, (40, 3, 3))
    vertices, faces = corners.reshape(-1, 3), np.arange(120, dtype=np.int32).reshape(-1, 3)
    shell = np.arange(40) // 2
    other, spans = nearest_faces_of_others(Tree.of(vertices, faces), shell, 0.4)
    u, v = np.empty(3), np.empty(3)
    for f in range(40):
        squared = {
            g: triangle_distance(corners[f], corners[g], u, v)
            for g in range(40)
            if shell[g] != shell[f]
        }
        least = min(squared.values())
        assert (other[f] >= 0) == (least <= 0.4**2)
        if other[f] >= 0:
            assert squared[other[f]] == least
            width = np.linalg.norm(spans[f, 0] - spans[f, 1])
            assert width == pytest.approx(np.sqrt(least), abs=1e-12)


def test_what_each_shell_is() -> None:
    bowl = b.without(sphere(5, 3), np.flatnonzero(b.middles(sphere(5, 3))[:, 2] > -1))
    away = Mesh(bowl.vertices + np.array([60, 0, 0]), bowl.faces)
    outside_in = Mesh(box(8, (30, 0, 0)).vertices, box().faces[:, ::-1])
    hollow = Mesh(box(30).vertices, box().faces[:, ::-1])
    crumb = box(0.2, (0, 0, 50))
    mesh = b.soup(box(40), hollow, box(20), box(4), crumb, outside_in, away)
    pieces = examine(mesh).pieces
    assert pieces.what == (
        "outer skin", "sealed void", "outer skin", "buried solid", "debris", "inside out",
        "open sheet",
    )  # fmt: skip
    assert pieces.parent.tolist() == [-1, 0, 1, 2, -1, -1, -1]
    assert pieces.depth.tolist() == [0, 1, 2, 3, 0, 0, 0]
    assert pieces.volume[:4] == pytest.approx([64000, -27000, 8000, 64])
    assert np.array_equal(np.unique(pieces.of_face), np.arange(7))
    told = pieces.as_json(3)
    assert [line["shell"] for line in told] == [0, 1, 2]
    assert told[1]["what"] == "sealed void"
    assert told[1]["volume_mm3"] == -27000


@pytest.mark.parametrize(
    ("what", "size", "unit_doubtful", "expected"),
    [
        ("fits", (399, 20, 20), False, {}),
        ("too long", (401, 20, 20), False, {"too-large": 1}),
        ("in doubt", (401, 20, 20), True, {"unit-suspect": 1}),
        ("tiny", (2.9, 1, 1), False, {"too-small": 1}),
        ("tiny and in doubt", (2.9, 1, 1), True, {"unit-suspect": 1}),
    ],
)
def test_sizes_against_the_machines(what, size, unit_doubtful, expected) -> None:
    mesh = Mesh((box(1).vertices + 0.5) * size, box().faces)
    unit = UnitGuess("mm", "guessed", "A guess.", unit_doubtful)
    assert {f.kind: f.count for f in examine(mesh, unit).findings} == expected


def test_a_part_may_lie_on_any_side_to_fit() -> None:
    mesh = Mesh(box(1).vertices * [90, 190, 290], box().faces)
    assert alarms(mesh, Limits(build_volume=(300, 100, 200))) == {}
    assert alarms(mesh, Limits(build_volume=(300, 89, 200))) == {"too-large": 1}


def test_a_file_too_big_is_noted() -> None:
    (finding,) = examine(sphere(), limits=Limits(file_bytes=10_000)).findings
    assert finding.kind == "file-too-big"
    assert finding.severity == "note"
    assert "1,280 triangles" in finding.text


def test_needles_are_noted_and_stay() -> None:
    """A vertex moved to a hair from the opposite edge leaves the skin closed."""
    mesh = box(10)
    middle = len(mesh.vertices)
    first = mesh.faces[0]
    a, c, d = first
    spot = 0.5 * (mesh.vertices[a] + mesh.vertices[c])
    spot = spot + (mesh.vertices[d] - spot) * 1e-7
    fan = [[a, c, middle], [c, d, middle], [d, a, middle]]
    needled = Mesh(np.vstack([mesh.vertices, [spot]]), np.vstack([mesh.faces[1:], fan]))
    (finding,) = examine(needled).findings
    assert (finding.kind, finding.severity, finding.count) == ("needle-faces", "note", 1)
    assert finding.places[0].faces.tolist() == [11]
