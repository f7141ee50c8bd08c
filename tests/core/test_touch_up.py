"""Touch-up of chosen faces, against solids with known answers and referees that are not ours."""

import manifold3d
import numpy as np
import pytest
from caulkcore import Mesh
from caulkcore.errors import OperationRefused
from caulkcore.mesh.concatenate import concatenate
from caulkcore.mesh.face_runs import faces_of_runs, runs_of_faces
from caulkcore.mesh.fitted_plane import fitted_plane
from caulkcore.mesh.simple_solids import cuboid
from caulkcore.remesh.displace_faces import flatten_faces, push_faces
from caulkcore.remesh.subdivide import subdivide
from caulkcore.repair.erase_faces import erase_faces
from caulkjob.perform import perform
from harbour import breakers as b
from makers import assert_tight_by_referees, box, manifold_of, sphere, torus

RADIUS = 20.0


def _united(*meshes: Mesh) -> Mesh:
    """Their union, by a library that is not ours."""
    whole = manifold3d.Manifold()
    for one in meshes:
        whole += manifold_of(one)
    made = whole.to_mesh64()
    return Mesh(np.array(made.vert_properties)[:, :3], np.array(made.tri_verts, dtype=np.int32))


def _runs(mesh: Mesh, chosen: np.ndarray) -> list[int]:
    assert len(chosen) == len(mesh.faces)
    return runs_of_faces(chosen)


def _corners(mesh: Mesh) -> np.ndarray:
    return mesh.vertices[mesh.faces]


def _fine_box(size: float = 1.0) -> Mesh:
    return subdivide(cuboid(), size=size, rounded=False).mesh


def _top(mesh: Mesh, half: float) -> np.ndarray:
    """Faces of the top of a box of 10 mm whose middles are within a square about its middle."""
    off = np.abs(_corners(mesh).mean(axis=1) - [5, 5, 10])
    return (off[:, :2] < half).all(axis=1) & (off[:, 2] < 1e-9)


@pytest.mark.parametrize("rings", [0, 1])
@pytest.mark.parametrize("subdivisions", [3, 4, 5])
def test_a_fin_erased_from_a_ball_leaves_the_ball(subdivisions: int, rings: int) -> None:
    ball = sphere(RADIUS, subdivisions)
    mesh = _united(ball, cuboid((1.2, 8.0, 30.0), at=(-0.6, -4.0, 0.3)))
    chosen = (np.linalg.norm(mesh.vertices, axis=1) > RADIUS * 1.0005)[mesh.faces].any(axis=1)
    for _ in range(rings):
        # a brush takes some of the ball with it
        chosen = np.isin(mesh.faces, mesh.faces[chosen]).any(axis=1)
    done = perform(mesh, "erase", {"faces": _runs(mesh, chosen)})
    assert done.refused is None
    assert done.after.tight
    away = np.linalg.norm(done.mesh.vertices, axis=1) / RADIUS
    assert np.abs(away - 1).max() < 0.005
    assert_tight_by_referees(done.mesh, ball.volume)


@pytest.mark.parametrize("missed", [0, 3])
def test_a_relief_erased_from_a_plate_leaves_it_flat(missed: int) -> None:
    plate = subdivide(cuboid((40.0, 30.0, 3.0)), size=4.0, rounded=False).mesh
    relief = subdivide(cuboid((7.3, 5.1, 2.0), at=(11.2, 9.7, 2.5)), size=1.0, rounded=False).mesh
    mesh = _united(plate, relief, cuboid((0.7, 9.0, 1.0), at=(14.0, 8.0, 2.9)))
    chosen = (_corners(mesh)[:, :, 2] > 3 + 1e-9).any(axis=1)
    # a hand misses some in the middle
    raised = np.flatnonzero((_corners(mesh)[:, :, 2] > 4).all(axis=1))
    chosen[np.random.default_rng(missed).choice(raised, missed, replace=False)] = False
    done = perform(mesh, "erase", {"faces": _runs(mesh, chosen)})
    assert done.after.tight
    assert done.mesh.vertices[:, 2].max() == 3.0
    assert_tight_by_referees(done.mesh, 3600.0)


def test_a_plane_goes_through_fewer_points_than_three() -> None:
    two = np.array([[1.0, 2.0, 3.0], [4.0, 0.0, 5.0]])
    at, normal = fitted_plane(two)
    assert np.abs((two - at) @ normal).max() < 1e-12
    assert np.linalg.norm(normal) == pytest.approx(1)


def test_erasing_a_handle_closes_both_of_its_ends() -> None:
    ring = torus()
    mesh = _united(ring, box(14, (20, 0, 0)))
    x = _corners(mesh)[:, :, 0]
    done = perform(mesh, "erase", {"faces": _runs(mesh, (x < 9.0).all(axis=1))})
    assert done.after.tight
    assert "2 holes closed" in done.steps[0].text
    # what was a ring has no hole any more: by Euler's count
    faces = len(done.mesh.faces)
    assert len(done.mesh.vertices) - faces * 3 // 2 + faces == 2


def test_what_is_erased_at_an_open_rim_leaves_that_open() -> None:
    open_box = _fine_box()
    open_box = Mesh(open_box.vertices, open_box.faces[~_top(open_box, 9.0)]).compact()
    chosen = (_corners(open_box)[:, :, 2] > 9.0).any(axis=1) & (
        _corners(open_box)[:, :, 0] < 3
    ).all(1)
    outcome = erase_faces(open_box, chosen)
    assert [one.reason for one in outcome.skipped] == ["at-open-rim"]


def test_taken_out_faces_leave_their_rim_open_and_can_be_closed_again() -> None:
    mesh = _fine_box()
    chosen = _top(mesh, 2.0)
    opened = perform(mesh, "delete-faces", {"faces": _runs(mesh, chosen)})
    assert opened.refused is None
    assert opened.after.leaks.keys() == {"open-edges"}
    assert len(opened.mesh.faces) == (~chosen).sum()
    near = _top(opened.mesh, 4.0)
    closed = perform(opened.mesh, "close-here", {"faces": _runs(opened.mesh, near)})
    assert closed.after.tight
    assert_tight_by_referees(closed.mesh, 1000.0)
    far = (_corners(opened.mesh)[:, :, 2] < 1).all(axis=1)
    refused = perform(opened.mesh, "close-here", {"faces": _runs(opened.mesh, far)})
    assert refused.refused == "What is chosen touches no open rim."


def test_faces_are_turned_over_where_that_helps_only() -> None:
    good = _fine_box()
    wrong = b.turned(good, np.flatnonzero(_top(good, 2.0)))
    done = perform(wrong, "turn-faces", {"faces": _runs(wrong, _top(wrong, 2.0))})
    assert done.after.tight
    assert np.array_equal(done.mesh.faces, good.faces)
    assert perform(good, "turn-faces", {"faces": [3, 4]}).refused is not None


@pytest.mark.parametrize("distance", [1.5, -1.5])
@pytest.mark.parametrize("size", [2.5, 1.25, 0.625])
def test_a_push_with_a_fall_off_is_the_same_however_the_face_is_divided(
    size: float, distance: float
) -> None:
    mesh = _fine_box(size)
    chosen = _top(mesh, 2.5)
    corners = _corners(mesh)[chosen].reshape(-1, 3)
    assert np.allclose([corners.min(0)[:2], corners.max(0)[:2]], [[2.5, 2.5], [7.5, 7.5]])
    outcome = push_faces(mesh, chosen, distance, falloff=2.0)
    # a square of side a, and a smooth step of reach f around: a² + 2 a f + 0.3 π f²
    expected = 1000 + distance * (25 + 2 * 5 * 2 + 0.3 * np.pi * 4)
    assert outcome.mesh.volume == pytest.approx(expected, abs=abs(distance) * 45 * 0.01)
    assert_tight_by_referees(outcome.mesh, expected)
    assert outcome.numbers["furthest_mm"] == abs(distance)
    # beyond the fall-off nothing moved
    far = np.abs(mesh.vertices[:, :2] - 5).max(axis=1) > 4.5 + 1e-9
    assert np.array_equal(outcome.mesh.vertices[: len(mesh.vertices)][far], mesh.vertices[far])


def test_a_push_does_not_move_the_other_side_of_a_wall() -> None:
    wall = subdivide(cuboid((20.0, 20.0, 1.0)), size=1.0, rounded=False).mesh
    middles = _corners(wall).mean(axis=1)
    chosen = (middles[:, 2] > 1 - 1e-9) & (np.abs(middles[:, :2] - 10) < 2).all(axis=1)
    done = push_faces(wall, chosen, 2.0, falloff=3.0).mesh
    under = wall.vertices[:, 2] < 1e-9
    assert np.array_equal(done.vertices[: len(wall.vertices)][under], wall.vertices[under])


def test_a_push_through_the_other_side_tells_how_far_it_could_go() -> None:
    mesh = _fine_box()
    refused = perform(mesh, "push", {"faces": _runs(mesh, _top(mesh, 2.0)), "distance": -12.0})
    assert refused.refused == "Faces would cross; 9.9 mm is what could be reached."


def test_pushing_a_ball_outward_makes_it_larger() -> None:
    ball = sphere(10.0, 4)
    everything = np.ones(len(ball.faces), dtype=bool)
    larger = push_faces(ball, everything, 1.0, direction="outward").mesh
    assert np.linalg.norm(larger.vertices, axis=1) == pytest.approx(11.0, abs=1e-3)
    together = push_faces(ball, everything, 1.0)
    assert [one.reason for one in together.skipped] == ["no-direction"]


@pytest.mark.parametrize("plane", ["middle", "rim"])
def test_bumps_are_laid_flat(plane) -> None:
    mesh = _fine_box(0.5)
    chosen = _top(mesh, 3.0)
    inner = np.setdiff1d(mesh.faces[chosen], mesh.faces[~chosen])
    vertices = mesh.vertices.copy()
    vertices[inner, 2] += np.random.default_rng(1).uniform(-0.2, 0.3, len(inner))
    outcome = flatten_faces(Mesh(vertices, mesh.faces), chosen, plane=plane)
    height = _corners(outcome.mesh)[chosen][:, :, 2]
    assert np.ptp(height) < 1e-6
    if plane == "rim":
        assert np.array_equal(outcome.mesh.vertices, mesh.vertices)
    assert_tight_by_referees(outcome.mesh)


def test_a_piece_is_made_and_nothing_is_lost() -> None:
    mesh = _fine_box()
    upper = (_corners(mesh)[:, :, 2] >= 5 - 1e-9).all(axis=1)
    done = perform(mesh, "separate", {"faces": _runs(mesh, upper), "gap": 0.1})
    assert done.after.tight
    assert done.after.shells == 2
    # a slice of the gap's height is what went
    assert_tight_by_referees(done.mesh, 1000 - 100 * 0.1)
    lower = _corners(done.mesh)[:, :, 2].max(axis=1) <= 5
    assert np.ptp(_corners(done.mesh)[lower][:, :, 2]) == 5.0
    whole = Mesh(mesh.vertices, mesh.faces)
    beside = Mesh(mesh.vertices + np.array([30, 0, 0]), mesh.faces)
    two = concatenate([whole, beside])
    already = np.arange(len(two.faces)) < len(mesh.faces)
    refused = perform(two, "separate", {"faces": _runs(two, already)})
    assert refused.refused == "What is chosen is a piece of its own already."


def test_a_half_is_mirrored_about_its_rim() -> None:
    whole = torus()
    turned = np.linalg.qr(np.random.default_rng(3).normal(size=(3, 3)))[0]
    turned *= np.linalg.det(turned)
    upper = (_corners(whole)[:, :, 2] >= -1e-9).all(axis=1)
    half = Mesh(whole.vertices @ turned.T + (3, 4, 5), whole.faces[upper]).compact()
    done = perform(half, "mirror-half", {})
    assert done.after.tight
    assert_tight_by_referees(done.mesh, whole.volume)
    no_half = b.without(
        sphere(), np.flatnonzero(np.linalg.norm(b.middles(sphere()) - (15, 9, 8), axis=1) < 6)
    )
    assert "no half" in (perform(no_half, "mirror-half", {}).refused or "")


@pytest.mark.parametrize(
    ("given", "size"),
    [
        ({"factor": 2.0}, (20, 40, 10)),
        ({"percent": 50.0}, (5, 10, 2.5)),
        ({"length": 152.4}, (76.2, 152.4, 38.1)),
        ({"axis": "z", "length": 7.0}, (14, 28, 7)),
    ],
)
def test_scaling_reaches_its_target_exactly(given, size) -> None:
    mesh = cuboid((10.0, 20.0, 5.0))
    done = perform(mesh, "scale", given)
    assert done.refused is None
    assert done.mesh.size == pytest.approx(size, rel=1e-12)
    factor = size[0] / 10
    assert done.mesh.volume / mesh.volume == pytest.approx(factor**3, rel=1e-9)


@pytest.mark.parametrize("given", [{}, {"factor": 2.0, "percent": 3.0}])
def test_a_scale_is_told_in_one_way(given) -> None:
    with pytest.raises(OperationRefused, match="one of them"):
        perform(cuboid(), "scale", given)


@pytest.mark.parametrize(
    ("runs", "why"),
    [
        (None, "must be given"),
        ([], "cannot be"),
        ([0], "cannot be"),
        ([0, 2.5], "cannot be"),
        ([True, 1], "cannot be"),
        ([-1, 2], "cannot be"),
        ([0, 13], "no faces of this revision"),
        ([3, 2, 4, 2], "no faces of this revision"),
        ([4, 1, 2, 1], "no faces of this revision"),
        ([0, 0], "no faces of this revision"),
        ([2**31 - 1, 2**31 - 1], "no faces of this revision"),
        ([0, 1] * 100_001, "too many scraps"),
    ],
)
def test_what_are_no_faces_is_refused(runs, why) -> None:
    with pytest.raises(OperationRefused, match=why):
        perform(cuboid(), "erase", {} if runs is None else {"faces": runs})


def test_runs_tell_every_set_of_faces() -> None:
    rng = np.random.default_rng(7)
    for share in (0.0, 0.02, 0.5, 0.98, 1.0):
        chosen = rng.random(5000) < share
        assert np.array_equal(faces_of_runs(runs_of_faces(chosen), 5000), chosen)


@pytest.mark.parametrize("name", ["refine", "smooth"])
def test_what_takes_a_region_takes_chosen_faces_too(name: str) -> None:
    ball = sphere()
    chosen = (_corners(ball)[:, :, 2] > 10).all(axis=1)
    done = perform(ball, name, {"faces": _runs(ball, chosen)})
    assert done.refused is None
    assert_tight_by_referees(done.mesh)
    low = ball.vertices[:, 2] < 9
    assert np.array_equal(done.mesh.vertices[: len(low)][low], ball.vertices[low])


def test_choosing_everything_leaves_nothing() -> None:
    for name in ("erase", "delete-faces", "separate"):
        refused = perform(cuboid(), name, {"faces": [0, 12]}).refused
        assert refused == "Every face is chosen; nothing would be left."


def test_what_is_extracted_and_what_remains_are_the_whole() -> None:
    void = Mesh(box(4).vertices, box(4).faces[:, ::-1])
    mesh = concatenate([box(10), void, sphere(6, 3), box(3, (40, 0, 0))])
    mesh = Mesh(
        np.where(np.arange(len(mesh.vertices))[:, None] < 16, mesh.vertices, mesh.vertices + 30),
        mesh.faces,
    )
    total = mesh.volume
    parted = [perform(mesh, name, {"pieces": [1, 4]}) for name in ("extract", "drop-pieces")]
    assert sum(one.mesh.volume for one in parted) == pytest.approx(total, rel=1e-9)
    # a void goes with the solid that it is in
    assert parted[0].after.shells == 3
    for one in parted:
        assert_tight_by_referees(one.mesh)


@pytest.mark.parametrize(
    ("pieces", "why"),
    [
        ([9], "no piece 9"),
        ([], "No piece"),
        ([1], "Nothing would be left"),
        (None, "must be given"),
    ],
)
def test_pieces_that_are_not_there_are_refused(pieces, why) -> None:
    with pytest.raises(OperationRefused, match=why):
        perform(cuboid(), "drop-pieces", {} if pieces is None else {"pieces": pieces})
