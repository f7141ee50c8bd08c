import numpy as np
import pytest
from caulkcore import Cancelled, Mesh, OperationRefused
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.progress import SILENT, Progress
from caulkcore.repair import _hole_kernels
from caulkjob import examine, mend
from caulkjob.account import Account
from caulkjob.operations import OPERATIONS, run_operation
from harbour import breakers as b
from harbour import shapes
from makers import SOUND, assert_tight_by_referees, box, sound, sphere
from test_examine import BREAKS

_WHOLE = [name for name in SOUND if "box" not in name]


@pytest.mark.parametrize("name", SOUND)
def test_a_sound_mesh_comes_back_as_it_is(name: str) -> None:
    mesh = sound(name)
    outcome = mend(mesh)
    assert outcome.mesh is mesh
    assert outcome.steps == ()
    assert outcome.account.unchanged_faces == len(mesh.faces)
    assert outcome.account.max_deviation_mm == 0


@pytest.mark.parametrize("how", BREAKS)
@pytest.mark.parametrize("name", ["box", "sphere", "torus", "valve wheel", "half hull", "tube"])
def test_what_was_broken_is_mended(name: str, how: str) -> None:
    mesh = sound(name)
    broken = BREAKS[how][0](mesh)
    outcome = mend(broken)
    assert outcome.refused is None
    lost = how == "hole"
    assert_tight_by_referees(outcome.mesh, mesh.volume, 0.03 if lost else 1e-3)
    again = mend(outcome.mesh)
    assert again.mesh is outcome.mesh, "mending twice changes nothing more"


@pytest.mark.parametrize("seed", range(20))
def test_three_faults_at_once(seed: int) -> None:
    rng = np.random.default_rng(seed)
    name = _WHOLE[seed % len(_WHOLE)]
    mesh = broken = sound(name)
    for how in rng.choice(list(BREAKS), 3, replace=False):
        broken = BREAKS[how][0](broken)
    outcome = mend(broken)
    assert outcome.refused is None, outcome.refused
    assert_tight_by_referees(outcome.mesh, mesh.volume, 0.05)


@pytest.mark.parametrize("share", [0.01, 0.08])
@pytest.mark.parametrize("name", ["sphere", "torus", "lantern housing"])
def test_random_holes_are_filled(name: str, share: float) -> None:
    mesh = sound(name)
    rng = np.random.default_rng(5)
    gone = rng.choice(len(mesh.faces), int(share * len(mesh.faces)), replace=False)
    outcome = mend(b.without(mesh, gone))
    assert outcome.refused is None
    assert_tight_by_referees(outcome.mesh, mesh.volume, 0.05)
    assert outcome.account.unchanged_faces >= len(mesh.faces) - len(gone) - 5


def test_the_ends_of_a_tube_become_rings() -> None:
    mesh = sound("tube")
    heights = mesh.vertices[mesh.faces][:, :, 2]
    ends = np.isclose(heights, 0).all(axis=1) | np.isclose(heights, 25).all(axis=1)
    outcome = mend(b.without(mesh, np.flatnonzero(ends)))
    assert_tight_by_referees(outcome.mesh, mesh.volume, 1e-6)


def test_an_inner_wall_goes_and_no_solid_with_it() -> None:
    grid = shapes.as_mesh(shapes.Manifold.cube((10, 10, 10)).refine(2))
    rim = np.flatnonzero(np.isclose(grid.vertices[:, 0], 5))
    angle = np.arctan2(grid.vertices[rim, 2] - 5, grid.vertices[rim, 1] - 5)
    middle = np.linalg.norm(grid.vertices[rim, 1:] - 5, axis=1) < 1
    ring = rim[~middle][np.argsort(angle[~middle])]
    n = len(grid.vertices)
    wall = np.stack([ring, np.roll(ring, -1), np.full(len(ring), n)], axis=1)
    mesh = Mesh(np.vstack([grid.vertices, [[5, 5, 5]]]), np.vstack([grid.faces, wall]))
    outcome = mend(mesh)
    assert_tight_by_referees(outcome.mesh, 1000, 1e-9)
    assert len(outcome.mesh.faces) == len(grid.faces)


def test_cubes_on_one_edge_are_parted_by_coordinates() -> None:
    outcome = mend(b.soup(box(), box(10, (10, 10, 0))))
    assert outcome.refused is None
    assert_tight_by_referees(outcome.mesh, 2000, 1e-5)
    assert 0 < outcome.account.max_deviation_mm < 1e-3


def test_cubes_welded_face_to_face_become_one() -> None:
    outcome = mend(b.soup(box(), box(10, (10, 0, 0))))
    assert outcome.after.shells == 1
    assert_tight_by_referees(outcome.mesh, 2000, 1e-12)


def test_cubes_that_share_a_corner_are_parted_by_coordinates() -> None:
    outcome = mend(b.soup(box(), box(10, (10, 10, 10))))
    assert [step.operation for step in outcome.steps] == ["part-pinched"]
    assert_tight_by_referees(outcome.mesh, 2000, 1e-5)
    assert 0 < outcome.account.max_deviation_mm < 1e-3


def test_mirrored_with_a_void_is_turned_with_it() -> None:
    outcome = mend(b.mirrored(sound("hollow box")))
    assert outcome.mesh.volume == pytest.approx(1000 - 64)


@pytest.mark.parametrize(
    ("what", "make", "words"),
    [
        ("a sheet", lambda: shapes.pennant(), "open sheet left open"),
        ("one triangle", lambda: Mesh(np.eye(3) * 10, [[0, 1, 2]]), "open sheet left open"),
        ("a one-sided band", lambda: _band(), "one-sided"),
        ("only copies", lambda: Mesh(np.eye(3) * 10, [[0, 1, 2], [0, 2, 1]] * 2), ""),
    ],
)
def test_what_cannot_be_mended_is_refused_with_the_reason(what: str, make, words: str) -> None:
    mesh = make()
    outcome = mend(mesh)
    assert outcome.refused is not None
    assert words in outcome.refused
    assert sum(outcome.after.leaks.values()) <= sum(outcome.before.leaks.values())
    assert len(outcome.mesh.faces) > 0


def _band() -> Mesh:
    t = np.linspace(0, 2 * np.pi, 40, endpoint=False)
    half = np.stack([np.cos(t / 2) * np.cos(t), np.cos(t / 2) * np.sin(t), np.sin(t / 2)], axis=1)
    middle = np.stack([np.cos(t), np.sin(t), 0 * t], axis=1)
    points = np.vstack([middle * 20 + half * 4, middle * 20 - half * 4])
    faces = []
    for i in range(40):
        a, c = i, i + 40
        d, e = (i + 1, i + 41) if i < 39 else (40, 0)
        faces += [(a, d, c), (d, e, c)]
    return Mesh(points, faces)


def test_one_place_alone() -> None:
    mesh = b.without(sphere(), np.array([0, 500, 900]))
    outcome = run_operation(mesh, "fill-holes", {"places": [2]}, SILENT)
    assert examine(outcome.mesh).leaks == {"open-edges": 6}
    with pytest.raises(OperationRefused, match="no place 9"):
        run_operation(mesh, "fill-holes", {"places": [9]}, SILENT)


def test_a_sheet_is_closed_only_when_asked() -> None:
    bowl = b.without(sphere(), np.flatnonzero(b.middles(sphere())[:, 2] > -4))
    assert run_operation(bowl, "fill-holes", {}, SILENT).mesh is bowl
    closed = run_operation(bowl, "close-sheets", {}, SILENT).mesh
    assert_tight_by_referees(closed)


@pytest.mark.parametrize(
    ("name", "given"),
    [
        ("no-such-thing", {}),
        ("fill-holes", {"colour": 3}),
        ("fill-holes", {"shape": "round"}),
        ("fill-holes", {"places": "all"}),
        ("set-unit", {"unit": "cubit", "was": "mm"}),
    ],
)
def test_wrong_parameters_are_refused(name: str, given) -> None:
    with pytest.raises(OperationRefused):
        run_operation(box(), name, given, SILENT)


_ALWAYS = ("recast", "drop-pieces", "mirror", "copy", "lay")
"""Operations that change whatever they are given."""


@pytest.mark.parametrize(
    "one",
    [o for o in OPERATIONS if o.name not in _ALWAYS and not o.freely],
    ids=lambda one: one.name,
)
def test_operations_leave_a_sound_mesh_alone(one) -> None:
    given = {
        "set-unit": {"unit": "mm", "was": "mm"},
        "build-up": {"to": 0.5},
        "thicken-necks": {"to": 0.5},
        "set-apart": {"clearance": 0.3, "narrower": 0.5},
        "scale": {"factor": 1.0},
        "extract": {"pieces": [1]},
        "join-files": {"others": []},
        "put-back": {"others": [sound("torus")]},
        "move": {"by": [0.0, 0.0, 0.0]},
        "turn": {"degrees": 0.0},
    }.get(one.name, {})
    mesh = sound("torus")
    assert run_operation(mesh, one.name, given, SILENT).mesh is mesh


def test_the_account_tells_what_changed_and_where() -> None:
    before = sphere()
    raised = before.vertices.copy()
    raised[before.faces[10, 0]] *= 1.25
    account = Account.between(before, Mesh(raised, before.faces))
    assert account.max_deviation_mm == pytest.approx(5, rel=0.05)
    assert np.linalg.norm(np.array(account.max_deviation_at)) == pytest.approx(25, rel=1e-6)
    touched = int((before.faces == before.faces[10, 0]).any(axis=1).sum())
    assert account.new_faces == account.gone_faces == touched
    assert account.unchanged_faces == len(before.faces) - touched


def test_cancelling_stops_between_steps() -> None:
    mesh = b.without(sphere(), np.array([0, 500]))
    heard = []
    with pytest.raises(Cancelled):
        mend(mesh, progress=Progress(lambda *step: heard.append(step), lambda: len(heard) > 2))


def test_long_loops_are_cut_before_they_are_filled(monkeypatch: pytest.MonkeyPatch) -> None:
    """The cubic triangulation of a loop of 400 edges would take minutes."""
    triangulate, sizes = _hole_kernels.least_area, []

    def counted(points: np.ndarray, banned: np.ndarray) -> np.ndarray:
        sizes.append(len(points))
        return triangulate(points, banned)

    monkeypatch.setattr(_hole_kernels, "least_area", counted)
    ring = sphere(40, 6)
    x, _, z = b.middles(ring).T
    cut = b.without(ring, np.flatnonzero(z > 20 + 4 * np.sin(9 * x / 40)))
    assert Diagnosis(cut).boundary_loops.edges.max() > 400
    outcome = mend(cut)
    assert outcome.refused is None
    assert max(sizes) < 170
    assert_tight_by_referees(outcome.mesh)
