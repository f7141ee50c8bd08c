"""Skins that pass through themselves and through each other, against libigl's exact boolean."""

import numpy as np
import pytest
from caulkcore import Mesh
from caulkcore.arrangement.arrange import ArrangementFailed, arrange
from caulkcore.arrangement.outer_hull import outer_hull
from caulkcore.progress import SILENT
from caulkjob import examine, mend
from caulkjob.operations import run_operation
from harbour import breakers as b
from igl.copyleft.cgal import mesh_boolean, remesh_self_intersections
from makers import SOUND, assert_tight_by_referees, box, sound, sphere


def volume(points: np.ndarray, faces: np.ndarray) -> float:
    tri = points[faces]
    return float(np.einsum("ij,ij->", tri[:, 0], np.cross(tri[:, 1], tri[:, 2])) / 6)


def jittered(amount: float, rng: np.random.Generator, subdivisions: int = 3) -> Mesh:
    ball = sphere(20, subdivisions)
    return Mesh(ball.vertices + rng.normal(size=ball.vertices.shape) * amount, ball.faces)


def on_a_grid(rng: np.random.Generator) -> Mesh:
    """Much of it coplanar, folded, and meeting in vertices and along edges."""
    mesh = jittered(3, rng, 2)
    return Mesh(np.round(mesh.vertices / 5) * 5, mesh.faces)


def boxes(rng: np.random.Generator) -> Mesh:
    return b.soup(*(box(10, tuple(rng.integers(0, 11, 3).astype(float))) for _ in range(4)))


def spheres(rng: np.random.Generator) -> Mesh:
    parts = (sphere(10, 2) for _ in range(3))
    return b.soup(*(Mesh(p.vertices + rng.normal(size=3) * 6, p.faces) for p in parts))


def hollows(rng: np.random.Generator) -> Mesh:
    """A box, and two hollows in it that overlap."""
    shift = tuple(rng.uniform(-1, 1, 3))
    return b.soup(box(10), *(Mesh(h.vertices, h.faces[:, ::-1]) for h in (box(3), box(3, shift))))


MADE = {
    "rough": lambda rng: jittered(1.2, rng),
    "grid": on_a_grid,
    "boxes": boxes,
    "spheres": spheres,
    "hollows": hollows,
}


def assert_one_clean_skin(mesh: Mesh) -> None:
    """By libigl's exact detector and by counting edges, as delivered in float32."""
    delivered = mesh.vertices.astype(np.float32).astype(float)
    faces = mesh.faces.astype(np.int64)
    assert not np.size(remesh_self_intersections(delivered, faces, detect_only=True)[2])
    edges = np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]])
    ways = np.where(edges[:, 0] < edges[:, 1], 1, -1)
    _, which = np.unique(np.sort(edges, axis=1), axis=0, return_inverse=True)
    assert not np.bincount(which.ravel(), ways).any()


@pytest.mark.parametrize("kind", MADE)
def test_one_skin_encloses_what_the_referee_says(kind: str) -> None:
    none = np.zeros((0, 3))
    for seed in range(3 if kind == "rough" else 8):
        made = MADE[kind](np.random.default_rng([5, seed]))
        vertices = made.vertices.astype(np.float32).astype(float)
        one = outer_hull(Mesh(vertices, made.faces))
        faces = made.faces.astype(np.int64)
        theirs = mesh_boolean(vertices, faces, none, none.astype(np.int64), "union")
        assert one.mesh.volume == pytest.approx(volume(*theirs[:2]), rel=1e-8)
        assert_one_clean_skin(one.mesh)


def test_a_hopeless_tangle_comes_out_clean_all_the_same() -> None:
    mesh = jittered(6, np.random.default_rng(1))
    one = outer_hull(Mesh(mesh.vertices.astype(np.float32), mesh.faces))
    assert one.pairs > 10_000
    assert_one_clean_skin(one.mesh)


@pytest.mark.parametrize("name", SOUND)
def test_nothing_is_changed_where_nothing_crosses(name: str) -> None:
    mesh = sound(name)
    done = arrange(mesh.vertices, mesh.faces)
    assert done.pairs == 0
    assert done.whole.all()
    assert set(np.unique([done.front, done.back]).tolist()) == {0, 1}
    assert (done.back == 1).all()


def test_coordinates_wider_than_the_lattice_are_placed_on_it() -> None:
    mesh = b.soup(box(), box(10, (3 + 1e-13, 4.1, 5 / 3)))
    tiny = Mesh(mesh.vertices + 1e-17, mesh.faces)
    done = arrange(tiny.vertices, tiny.faces)
    solid = (done.front < 1) != (done.back < 1)
    assert volume(done.points, done.triangles[solid]) == pytest.approx(
        2000 - 7 * 5.9 * (10 - 5 / 3), rel=1e-12
    )


def test_an_open_surface_is_not_arranged() -> None:
    mesh = b.soup(box(), box(10, (3, 4, 5)))
    with pytest.raises(ArrangementFailed, match="not closed"):
        arrange(mesh.vertices, mesh.faces[1:])


def poked() -> Mesh:
    """A ball whose top is pushed out through its side: a fold of little volume."""
    ball = sphere(20, 4)
    points = ball.vertices.copy()
    near = np.linalg.norm(points - [0, 0, 20], axis=1) < 4
    points[near] += [22, 0, -14]
    return Mesh(points, ball.faces)


@pytest.mark.parametrize(
    "mesh",
    [
        poked(),
        b.soup(poked(), box(12, (-18, 0, 0))),
        b.soup(sound("hollow box"), box(4, (1, 2, 0))),
    ],
    ids=["one piece", "with another", "into a hollow"],
)
def test_mending_untangles_and_changes_nothing_else(mesh: Mesh) -> None:
    outcome = mend(mesh)
    assert outcome.refused is None
    assert_tight_by_referees(outcome.mesh)
    assert_one_clean_skin(outcome.mesh)
    again = mend(outcome.mesh)
    assert again.mesh is outcome.mesh
    assert outcome.account.unchanged_faces > 0.4 * len(mesh.faces)


def twin(mesh: Mesh, rng: np.random.Generator) -> Mesh:
    """The solid, and the same again a bit aside."""
    shift = rng.uniform(0.1, 0.4, 3) * mesh.size
    return b.soup(mesh, Mesh(mesh.vertices + shift, mesh.faces))


def rough(mesh: Mesh, rng: np.random.Generator) -> Mesh:
    """The solid with its corners moved by a good part of an edge."""
    edge = np.sqrt(mesh.area / len(mesh.faces))
    return Mesh(mesh.vertices + rng.normal(size=mesh.vertices.shape) * 0.35 * edge, mesh.faces)


def twin_with_a_hole(mesh: Mesh, rng: np.random.Generator) -> Mesh:
    return b.without(twin(mesh, rng), np.array([int(rng.integers(len(mesh.faces)))]))


def twin_doubled_and_turned(mesh: Mesh, rng: np.random.Generator) -> Mesh:
    made = twin(mesh, rng)
    some = np.unique(rng.integers(len(made.faces), size=3))
    return b.turned(b.doubled(made, some), some)


CROSSED = {
    "twin": twin,
    "rough": rough,
    "twin, a hole": twin_with_a_hole,
    "twin, copies and turned faces": twin_doubled_and_turned,
}


@pytest.mark.parametrize("how", CROSSED)
@pytest.mark.parametrize("name", ["sphere", "cone", "tube", "gauge lid"])
def test_crossed_solids_become_one_or_are_refused_with_the_reason(name: str, how: str) -> None:
    solid = sound(name)
    made = b.soup(CROSSED[how](solid, np.random.default_rng(len(name))))
    made = Mesh(made.vertices.astype(np.float32), made.faces)
    outcome = mend(made)
    if outcome.refused is not None:
        assert how == "rough"
        assert "inside out; whether that is material or air" in outcome.refused
        return
    assert_tight_by_referees(outcome.mesh)
    assert_one_clean_skin(outcome.mesh)
    assert outcome.mesh.volume < 2 * solid.volume
    if how.startswith("twin"):
        # the hole's face was flat, or nearly: nothing is lost by filling it
        whole = twin(solid, np.random.default_rng(len(name)))
        rounded = whole.vertices.astype(np.float32).astype(float)
        none = np.zeros((0, 3))
        theirs = mesh_boolean(
            rounded, whole.faces.astype(np.int64), none, none.astype(np.int64), "union"
        )
        assert outcome.mesh.volume == pytest.approx(volume(*theirs[:2]), rel=1e-3)


def test_a_piece_inside_the_others_is_told() -> None:
    mesh = b.soup(box(), box(10, (9, 1, 1)), box(4, (4.5, 0.5, 0.5)))
    outcome = mend(mesh)
    assert outcome.refused is None
    assert_tight_by_referees(outcome.mesh, 2000 - 81, 1e-9)
    assert "1 piece lay wholly inside the others" in outcome.steps[0].text


def test_one_chosen_piece_is_untangled() -> None:
    other = poked()
    mesh = b.soup(poked(), Mesh(other.vertices + np.array([60.0, 0, 0]), other.faces))
    before = examine(mesh)
    outcome = run_operation(mesh, "untangle", {"places": [1]}, SILENT)
    after = examine(outcome.mesh)
    assert 0 < after.leaks["self-intersections"] < before.leaks["self-intersections"]
