"""Pieces united, taken off one another and cut into parts: known answers, and other judges."""

import numpy as np
import pytest
import trimesh
from caulkcore import Mesh
from caulkcore.errors import OperationRefused
from caulkcore.mesh.changed_faces import changed_faces
from caulkcore.mesh.concatenate import concatenate
from caulkcore.mesh.simple_solids import cuboid
from caulkcore.mesh.simple_solids import torus as ring
from caulkcore.remesh.subdivide import subdivide
from caulkcore.solid.boolean import boolean
from caulkcore.solid.plane_cut import plane_cut
from caulkjob.perform import perform
from harbour import breakers as b
from makers import assert_tight_by_referees, box, hollow_box, manifold_of, sphere, torus

KINDS = ("union", "difference", "intersection")


def _volume(a: Mesh, b: Mesh, what: str) -> float:
    """Of two solids combined, by manifold3d."""
    one, two = manifold_of(a), manifold_of(b)
    made = {"union": one + two, "difference": one - two, "intersection": one ^ two}
    return float(made[what].volume())


def _turned(mesh: Mesh, by: float, at: tuple[float, float, float] = (0, 0, 0)) -> Mesh:
    turn = trimesh.transformations.rotation_matrix(by, [1, 2, 3])[:3, :3]
    return Mesh(mesh.vertices @ turn.T + at, mesh.faces)


def _moved(mesh: Mesh, *by: float) -> Mesh:
    return Mesh(mesh.vertices + by, mesh.faces)


PAIRS = {
    "boxes": lambda: (box(10), box(10, (5, 4, 3))),
    "flush boxes": lambda: (cuboid(), cuboid((4.0, 4.0, 4.0), at=(3.0, 3.0, 6.0))),
    "a box and itself": lambda: (cuboid(), cuboid()),
    "boxes face to face": lambda: (cuboid(), cuboid(at=(10.0, 0.0, 0.0))),
    "boxes edge to edge": lambda: (cuboid((10.0, 8.0, 9.0)), cuboid(at=(10.0, 8.0, 3.0))),
    "boxes apart": lambda: (cuboid(), cuboid(at=(20.0, 0.0, 0.0))),
    "one in the other": lambda: (cuboid(), cuboid((4.0, 4.0, 4.0), at=(3.0, 3.0, 3.0))),
    "balls": lambda: (sphere(10, 3), _moved(sphere(8, 3), 7.0, 2.0, 1.0)),
    "linked rings": lambda: (ring(48), _turned(ring(48), 1.3, (3.0, 1.0, 2.0))),
    "a turned box": lambda: (cuboid(), _turned(cuboid(), 0.7, (3.0, 2.0, 1.0))),
    "a hollow one": lambda: (hollow_box(), _moved(sphere(5, 3), 3.0, 2.0, 9.0)),
    "a crowd": lambda: (cuboid(), concatenate([box(3, (2.0 + 3.5 * i, 1, 9)) for i in range(3)])),
}


@pytest.mark.parametrize("what", KINDS)
@pytest.mark.parametrize("name", PAIRS)
def test_solids_combined_have_the_volume_that_another_library_tells(name: str, what: str) -> None:
    one, two = PAIRS[name]()
    told = _volume(one, two, what)
    outcome = boolean(one, two, what)
    reasons = [skipped.reason for skipped in outcome.skipped]
    if told < 1e-9:
        assert reasons == ["nothing-left"]
        return
    assert reasons in ([], ["nothing-changes"])
    assert outcome.mesh.volume == pytest.approx(told, rel=1e-8)
    if name != "boxes edge to edge" or what != "union":
        assert_tight_by_referees(outcome.mesh, told, 1e-6)


def test_faces_that_meet_nothing_stay_bit_for_bit() -> None:
    ball, peg = sphere(10, 4), box(3, (10, 0, 0))
    made = boolean(ball, peg, "difference").mesh
    gone, _ = changed_faces(ball, made)
    away = np.abs(ball.vertices[ball.faces] - [10, 0, 0]).max(axis=2).min(axis=1)
    assert gone[away < 1.0].all()
    assert not gone[away > 3.5].any()


def test_what_crosses_itself_counts_as_what_it_encloses() -> None:
    two = concatenate([cuboid(), cuboid(at=(5.0, 4.0, 3.0))])
    made = boolean(two, cuboid((2.0, 2.0, 2.0), at=(6.0, 6.0, 6.0)), "difference").mesh
    assert_tight_by_referees(made, 1790 - 8)


def test_an_open_one_is_not_combined() -> None:
    outcome = boolean(cuboid(), b.without(cuboid(), np.array([0])), "union")
    assert [(one.reason, one.numbers["which"]) for one in outcome.skipped] == [("open", 2)]


def _with_void() -> Mesh:
    void = cuboid((4.0, 4.0, 4.0), at=(3.0, 3.0, 3.0))
    return b.soup(cuboid(), Mesh(void.vertices, void.faces[:, ::-1]))


def _stepped() -> Mesh:
    return boolean(cuboid(), cuboid((5.0, 5.0, 5.0), at=(0.0, 0.0, 5.0)), "difference").mesh


CUTS = {
    "across": (cuboid, (0, 0, 4), (0, 0, 1)),
    "through corners": (cuboid, (5, 5, 5), (1, -1, 0)),
    "through the middle, askew": (cuboid, (5, 5, 5), (1, 2, 3)),
    "a hollow box": (hollow_box, (0, 0, 1.3), (0, 0, 1)),
    "along a void's floor": (_with_void, (0, 0, 3), (0, 0, 1)),
    "a ring across": (torus, (0, 0, 0), (1, 0, 0)),
    "a ring along": (torus, (0, 0, 0), (0, 0, 1)),
    "a ring askew": (torus, (1, 2, 0.3), (1, 0.3, 0.2)),
    "a ball of many": (lambda: sphere(20, 5), (3, 1, 2), (1, 1, 5)),
    "far from the origin": (
        lambda: _moved(torus(), 3000, -2000, 900), (3001, -2000, 900), (1, 2, 2)
    ),
    "along a step": (_stepped, (0, 0, 5), (0, 0, 1)),
    "two pieces": (lambda: b.soup(box(), box(8, (40, 0, 0))), (0, 0, 1), (0, 0.1, 1)),
}  # fmt: skip


@pytest.mark.parametrize("name", CUTS)
def test_a_cut_gives_closed_parts_that_add_up(name: str) -> None:
    make, point, normal = CUTS[name]
    mesh = make()
    cut = plane_cut(mesh, np.array(point, float), np.array(normal, float))
    unit = np.array(normal) / np.linalg.norm(normal)
    above, below = manifold_of(mesh).split_by_plane(unit.tolist(), float(unit @ point))
    for part, judge in ((cut.below, below), (cut.above, above)):
        assert_tight_by_referees(part, judge.volume(), 1e-6)
    whole = cut.below.volume + cut.above.volume
    assert whole == pytest.approx(mesh.volume, rel=1e-9)
    # what the plane does not meet is what it was
    side = (mesh.vertices[mesh.faces] - point) @ unit
    for part, untouched in ((cut.below, (side < -1e-3).all(1)), (cut.above, (side > 1e-3).all(1))):
        gone, _ = changed_faces(mesh, part)
        assert not gone[untouched].any()
    lid = cut.below.vertices[cut.below.faces[-cut.lid_faces :]]
    reach = np.abs(mesh.vertices).max()
    assert np.abs((lid - point) @ unit).max() <= 1e-6 * reach
    turn = trimesh.geometry.align_vectors(unit, [0, 0, 1])[:3, :3]
    upright = Mesh((mesh.vertices - point) @ turn.T, mesh.faces)
    # beside the plane, where faces may lie in it
    slices = [manifold_of(upright).slice(z).area() for z in (-1e-6, 1e-6)]
    assert cut.area == pytest.approx(min(slices), rel=1e-4)


@pytest.mark.parametrize("seed", range(8))
def test_any_plane_cuts_anymanifold_of(seed: int) -> None:
    rng = np.random.default_rng(seed)
    mesh = boolean(ring(24), _turned(cuboid(), 0.9, rng.normal(size=3) * 5), "union").mesh
    point, normal = rng.normal(size=3) * 4, rng.normal(size=3)
    done = perform(mesh, "cut", {"point": point.tolist(), "normal": normal.tolist()})
    assert done.refused is None
    assert done.after.tight
    assert done.mesh.volume == pytest.approx(mesh.volume, rel=1e-9)
    assert_tight_by_referees(done.mesh, mesh.volume, 1e-6)


def test_how_a_face_is_divided_makes_no_difference_to_a_cut() -> None:
    plane = np.array([0.0, 0.0, 4.3]), np.array([0.2, 0.1, 1.0])
    coarse = plane_cut(cuboid(), *plane)
    fine = plane_cut(subdivide(cuboid(), size=0.7, rounded=False).mesh, *plane)
    assert fine.below.volume == pytest.approx(coarse.below.volume, rel=1e-7)
    assert fine.area == pytest.approx(coarse.area, rel=1e-7)


def test_both_parts_stand_apart_and_one_alone_stays_where_it_is() -> None:
    given = {"point": [0.0, 0.0, 4.0], "normal": [0.0, 0.0, 2.0]}
    both = perform(cuboid(), "cut", {**given, "spacing": 2.5})
    assert both.after.shells == 2
    assert both.mesh.bounds[1][2] == pytest.approx(12.5)
    second = perform(cuboid(), "cut", {**given, "part": "2"}).mesh
    assert second.bounds.tolist() == [[0, 0, 4], [10, 10, 10]]


@pytest.mark.parametrize(
    ("name", "mesh", "given", "words"),
    [
        ("cut", b.without(cuboid(), np.array([0])), {}, "not closed"),
        ("cut", cuboid(), {"point": [0.0, 0.0, 40.0]}, "does not meet"),
        ("cut", cuboid(), {"normal": [0.0, 0.0, 0.0]}, "no direction"),
        ("subtract", b.soup(box(), box(8, (40, 0, 0))), {"pieces": [2]}, "do not meet"),
        ("subtract", b.soup(box(), box(8, (40, 0, 0))), {"pieces": [1, 2]}, "nothing is left"),
        ("subtract", box(), {"others": [box(20)]}, "Nothing would be left"),
        ("subtract", box(), {}, "Name what"),
        ("intersect", b.soup(box(), box(8, (40, 0, 0))), {}, "share nothing"),
        ("intersect", box(), {"pieces": [1]}, "two pieces at least"),
        ("unite", b.soup(box(), box(8, (40, 0, 0))), {"pieces": [1, 2]}, "No two of them meet"),
        ("unite", b.soup(box(), box(8, (40, 0, 0))), {"pieces": [1, 3]}, "no piece 3"),
    ],
)
def test_what_cannot_be_is_refused_with_the_reason(name, mesh, given, words) -> None:
    usual = {"point": [0.0, 0.0, 1.0], "normal": [0.0, 0.0, 1.0]} if name == "cut" else {}
    try:
        refused = perform(mesh, name, {**usual, **given}).refused
    except OperationRefused as problem:
        refused = str(problem)
    assert refused is not None
    assert words in refused


def test_chosen_pieces_are_united_and_the_others_stay() -> None:
    three = b.soup(b.soup(box(10), box(10, (5, 4, 3))), box(6, (40, 0, 0)))
    done = perform(three, "unite", {"pieces": [1, 2]})
    assert done.after.shells == 2
    assert_tight_by_referees(done.mesh, 1790 + 216)
    # two that only touch become one, too
    row = b.soup(cuboid(), cuboid(at=(10.0, 1.0, 2.0)))
    assert perform(row, "unite", {"pieces": [1, 2]}).after.shells == 1


def test_a_piece_is_taken_off_each_of_the_others_that_it_meets() -> None:
    three = b.soup(b.soup(cuboid(), cuboid(at=(11.0, 0.0, 0.0))), box(4, (10.5, 5, 5)))
    done = perform(three, "subtract", {"pieces": [3]})
    assert done.after.shells == 2
    assert_tight_by_referees(done.mesh, 2000 - 2 * 1.5 * 16)
    assert "taken off 2 pieces" in done.steps[0].text


def test_joined_models_keep_their_places_bit_for_bit() -> None:
    models = [cuboid(), torus(), _moved(sphere(5, 2), 0.1, 0.2, 0.3)]
    done = perform(models[0], "join-files", {"others": models[1:]})
    corners = np.concatenate([one.vertices[one.faces] for one in models])
    assert np.array_equal(done.mesh.vertices[done.mesh.faces], corners)
