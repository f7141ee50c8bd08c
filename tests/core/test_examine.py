from collections import Counter
from collections.abc import Callable

import numpy as np
import pytest
from caulkcore import Mesh
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkjob import examine
from collection import SOLIDS
from harbour import breakers as b
from harbour import shapes
from hypothesis import example, given, settings
from hypothesis import strategies as st
from makers import SOUND, box, referee, sound, sphere


def kinds(mesh: Mesh) -> dict[str, int]:
    return {f.kind: f.count for f in examine(mesh).findings}


@pytest.mark.parametrize("name", SOUND)
def test_a_sound_solid_raises_no_alarm(name: str) -> None:
    mesh = sound(name)
    report = examine(mesh)
    expected = ["sealed-voids"] if name == "hollow box" else []
    assert [f.kind for f in report.findings] == expected
    assert report.tight
    assert mesh.volume == pytest.approx(referee(mesh).volume, rel=1e-9)
    assert mesh.area == pytest.approx(referee(mesh).area, rel=1e-9)


def _fins() -> shapes.Manifold:
    """A row of fins an eighth of a millimetre thick and as far apart."""
    fins = [shapes.Manifold.cube((20, 0.125, 15)).translate((0, k / 4, 1.5)) for k in range(12)]
    return shapes.concatenate([shapes.Manifold.cube((20, 4, 2)), *fins])


def _voxels_apart() -> Mesh:
    """Two skins made of cubes of half a millimetre, one cube of air between them all along."""
    steps = [(x, y, 1 + (x + y) // 4) for x in range(16) for y in range(16)]
    lower = shapes.concatenate([_column(x, y, 0, z) for x, y, z in steps])
    air = shapes.concatenate([_column(x - 1, y - 1, 0, z + 1, 3) for x, y, z in steps])
    upper = shapes.Manifold.cube((8, 8, 6)) - air
    return b.soup(shapes.as_mesh(lower), shapes.as_mesh(upper))


def _column(x: int, y: int, low: int, high: int, wide: int = 1) -> shapes.Manifold:
    size = (wide / 2, wide / 2, (high - low) / 2)
    return shapes.Manifold.cube(size).translate((x / 2, y / 2, low / 2))


def _letters() -> shapes.Manifold:
    """Raised letters a stroke of half a millimetre wide."""
    strokes = [(0, 0, 1, 9), (0, 8, 5, 1), (0, 4, 4, 1), (7, 0, 1, 9), (12, 0, 1, 9), (8, 4, 4, 1)]
    raised = [
        shapes.Manifold.cube((w / 2, h / 2, 1.5)).translate((x / 2 + 1, y / 2 + 1, 0.5))
        for x, y, w, h in strokes
    ]
    return shapes.concatenate([shapes.Manifold.cube((9, 7, 1)), *raised])


# solids, and what may be told of them besides: notes, no calls and no leaks
CALM: dict[str, Callable[[], Mesh]] = {
    **{name: lambda name=name: shapes.as_mesh(SOLIDS[name]()) for name in SOLIDS},
    "letters": lambda: shapes.as_mesh(_letters()),
    "fins": lambda: shapes.as_mesh(_fins()),
    "skins a voxel apart": _voxels_apart,
}


@pytest.mark.parametrize("name", CALM)
def test_nothing_alarms_where_nothing_is_wrong(name: str) -> None:
    mesh = CALM[name]()
    assert mesh.volume == pytest.approx(referee(mesh).volume, rel=1e-9)
    alarms = [f.kind for f in examine(mesh).findings if f.severity != "note"]
    assert alarms == (["sealed-voids"] if name == "shell" else [])


def open_edges(mesh: Mesh) -> int:
    """The slow, obvious count."""
    used = Counter(
        tuple(sorted((int(f[k]), int(f[(k + 1) % 3])))) for f in mesh.faces for k in range(3)
    )
    return sum(n == 1 for n in used.values())


_FEW = np.array([3, 4])
BREAKS: dict[str, tuple[Callable[[Mesh], Mesh], Callable[[Mesh, Mesh], dict[str, int]]]] = {
    "hole": (
        lambda m: b.without(m, b.near(m, (0, 0, 50), 5)),
        lambda m, broken: {"open-edges": open_edges(broken)},
    ),
    "flipped": (lambda m: b.turned(m, _FEW), lambda m, broken: {"flipped-faces": 2}),
    "inside out": (b.mirrored, lambda m, broken: {"inside-out-shells": 1}),
    "doubled": (lambda m: b.doubled(m, _FEW), lambda m, broken: {"duplicate-faces": 2}),
    "doubled against": (
        lambda m: b.doubled(m, _FEW, against=True),
        lambda m, broken: {"duplicate-faces": 2},
    ),
    "flat faces": (
        lambda m: b.with_flat_faces(m, 3, 1),
        lambda m, broken: {"zero-area-faces": 3},
    ),
    "torn": (
        lambda m: b.torn(m, 0, float(m.bounds.mean(axis=0)[0]) + 0.01, 0.003),
        lambda m, broken: {"cracks": open_edges(broken)},
    ),
    "fin": (
        lambda m: b.with_fin(m, 7),
        lambda m, broken: {"over-shared-edges": 1},
    ),
}


@pytest.mark.parametrize("how", BREAKS)
@pytest.mark.parametrize("name", ["sphere", "torus", "valve wheel", "half hull"])
def test_exactly_what_was_broken_is_found(name: str, how: str) -> None:
    break_, expected = BREAKS[how]
    mesh = sound(name)
    broken = break_(mesh)
    assert kinds(broken) == expected(mesh, broken)
    assert not examine(broken).tight


@pytest.mark.parametrize(
    ("what", "mesh", "expected"),
    [
        ("cubes that share an edge", lambda: b.soup(box(), box(10, (10, 10, 0))),
         {"over-shared-edges": 1}),
        ("cubes that share a corner", lambda: b.soup(box(), box(10, (10, 10, 10))),
         {"pinched-vertices": 1, "loose-parts": 2}),
        ("a bowl", lambda: b.without(sphere(), np.flatnonzero(b.middles(sphere())[:, 2] > -4)),
         {"open-sheets": 1}),
        ("a buried cube the right way round", lambda: b.soup(box(), box(4)),
         {"buried-shells": 1}),
        ("overlapping cubes, one inside out",
         lambda: b.soup(box(), Mesh(box(10, (4, 3, 2)).vertices, box().faces[:, ::-1])),
         {"inside-out-shells": 1, "overlapping-shells": 1}),
        ("two holes that touch in a vertex",
         lambda: b.without(sphere(), _touching_faces(sphere())),
         {"open-edges": 6, "pinched-vertices": 1}),
    ],
)  # fmt: skip
def test_special_cases(what: str, mesh, expected: dict[str, int | None]) -> None:
    found = kinds(mesh())
    assert set(found) == set(expected)
    for kind, n in expected.items():
        assert n is None or found[kind] == n


def _touching_faces(mesh: Mesh) -> np.ndarray:
    """Two faces that have one vertex in common and no neighbour."""
    first = mesh.faces[0]
    round_it = np.flatnonzero((mesh.faces == first[0]).any(axis=1))
    shared = [len(set(mesh.faces[f].tolist()) & set(first.tolist())) for f in round_it]
    apart = round_it[np.array(shared) == 1]
    return np.array([0, apart[0]])


def test_holes_that_touch_are_two_places() -> None:
    mesh = b.without(sphere(), _touching_faces(sphere()))
    loops = Diagnosis(mesh).boundary_loops
    assert sorted(len(x.vertices) for x in loops) == [3, 3]
    assert all(x.closed for x in loops)


def test_every_place_says_where_it_is() -> None:
    mesh = b.turned(b.without(sphere(), b.near(sphere(), (0, 0, 20), 6)), np.array([900, 901]))
    for finding in examine(mesh).findings:
        assert finding.text.endswith(".")
        for place in finding.places:
            assert np.all(place.low <= place.at)
            assert np.all(place.at <= place.high)
            assert len(place.faces) or len(place.lines)
            # one looks at a place of a sphere from outside
            assert place.facing @ place.at > 0


@settings(max_examples=25, deadline=None)
@given(
    seed=st.integers(0, 2**32 - 1),
    shift=st.tuples(*[st.floats(-50, 50)] * 3),
    angle=st.floats(0, 6.3),
)
def test_the_answer_does_not_depend_on_pose_or_order(seed, shift, angle) -> None:
    rng = np.random.default_rng(seed)
    mesh = b.without(sound("torus"), rng.choice(2304, 40, replace=False))
    mesh = b.turned(mesh, rng.choice(len(mesh.faces), 20, replace=False))
    turn = np.array(
        [[np.cos(angle), -np.sin(angle), 0], [np.sin(angle), np.cos(angle), 0], [0, 0, 1]]
    )
    order = rng.permutation(len(mesh.vertices))
    inverse = np.argsort(order)
    moved = Mesh(
        mesh.vertices[order] @ turn.T + np.array(shift),
        inverse[mesh.faces][rng.permutation(len(mesh.faces))],
    )
    assert kinds(moved) == kinds(mesh)


@settings(max_examples=40, deadline=None)
@given(seed=st.integers(0, 2**32 - 1))
@example(seed=30867)  # a hole whose rim is a crack in part
@example(seed=5068)  # a sheet whose rim is
def test_counts_agree_with_a_slow_reference(seed: int) -> None:
    """Random soups over few vertices, where everything that can go wrong does."""
    rng = np.random.default_rng(seed)
    points = rng.normal(size=(9, 3)) * 10
    faces = np.array([rng.choice(9, 3, replace=False) for _ in range(rng.integers(1, 22))])
    mesh = Mesh(points, faces).compact()
    found = kinds(mesh)
    once = {tuple(sorted(f)) for f in mesh.faces.tolist()}
    assert found.get("duplicate-faces", 0) == len(mesh.faces) - len(once)
    skin = Diagnosis(mesh)
    used = Counter(
        tuple(sorted((int(f[k]), int(f[(k + 1) % 3]))))
        for f in mesh.faces[skin.kept]
        for k in range(3)
    )
    assert found.get("over-shared-edges", 0) == sum(n > 2 for n in used.values())
    # every open edge is told once: as a hole's, a crack's, a sheet's or a fin's
    elsewhere = np.setdiff1d(np.arange(len(skin.boundary_loops)), skin.holes)
    told = found.get("open-edges", 0) + found.get("cracks", 0) + skin.loop_edges[elsewhere].sum()
    assert told == sum(n == 1 for n in used.values())
    assert not skin.open_sheets[skin.boundary_loops.shell[skin.holes]].any()
