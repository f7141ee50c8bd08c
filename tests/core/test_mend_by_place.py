"""What helped in one place stays although another failed; soups of single faces; clean results."""

import json
from pathlib import Path

import numpy as np
import pytest
from caulkcore import Mesh
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.diagnose.harm import harm_counts, is_less_harm
from caulkcore.mesh import _edge_kernels
from caulkcore.mesh.changed_faces import changed_faces
from caulkcore.repair.partial_change import keep_what_helped
from caulkcore.spatial.intersecting_pairs import intersecting_pairs_of_tree
from caulkjob import mend, write
from caulkjob.cli import main
from combined import jittered, verdict
from harbour import breakers as b
from harbour import shapes
from igl.copyleft.cgal import mesh_boolean, remesh_self_intersections
from makers import assert_tight_by_referees, box, sound, sphere
from manifold3d import OpType


def assert_clean(mesh: Mesh) -> None:
    """No face without area, and nothing that an exact detector finds, in float32."""
    assert not len(Diagnosis(mesh).degenerate_faces)
    delivered = b.soup(Mesh(mesh.vertices.astype(np.float32), mesh.faces))
    assert len(delivered.vertices) == len(mesh.vertices), "no two corners become one"
    found = remesh_self_intersections(
        np.array(delivered.vertices), delivered.faces.astype(np.int64), detect_only=True
    )
    assert not len(found[2])


def test_of_two_places_the_one_that_helped_is_kept() -> None:
    ball = sphere()
    holes = b.without(ball, np.array([0, 700]))
    # one hole filled, and elsewhere a face lost and another turned
    worse = Mesh(
        ball.vertices,
        np.vstack([np.delete(ball.faces, [700, 1000, 1200], axis=0), ball.faces[1200:1201, ::-1]]),
    )
    outcome = keep_what_helped(Diagnosis(holes), worse)
    assert outcome.numbers == {"places": 3, "put_back": 2}
    gone, new = changed_faces(outcome.mesh, b.without(ball, np.array([700])))
    assert not gone.any()
    assert not new.any()


def test_a_change_that_helps_nowhere_leaves_the_very_mesh() -> None:
    mesh = b.without(sphere(), np.array([0]))
    assert keep_what_helped(Diagnosis(mesh), b.without(mesh, np.array([600]))).mesh is mesh


@pytest.mark.parametrize(
    ("one", "other", "less"),
    [
        ([0, 9, 9, 9, 9, 9], [1, 0, 0, 0, 0, 0], True),
        ([1, 0, 0, 0, 0, 0], [0, 9, 9, 9, 9, 9], False),
        ([0, 3, 0, 0, 0, 2], [0, 3, 0, 0, 0, 3], True),
        ([0, 3, 0, 0, 0, 2], [0, 3, 0, 0, 0, 2], False),
    ],
)
def test_the_order_of_harm(one: list[int], other: list[int], less: bool) -> None:
    assert bool(is_less_harm(np.array(one), np.array(other))) is less


SOUPS = ("pump body", "lantern housing", "half hull", "valve wheel", "gauge lid", "bell frame")


@pytest.mark.parametrize("amount", [1e-5, 1e-4, 1e-3])
@pytest.mark.parametrize("name", SOUPS)
def test_a_soup_of_single_faces_becomes_one_tight_skin(name: str, amount: float) -> None:
    mesh = sound(name)
    done = mend(jittered(mesh, amount, np.random.default_rng(1)))
    assert done.refused is None
    assert done.after.shells == 1
    assert_tight_by_referees(done.mesh, mesh.volume, 1e-3)
    assert_clean(done.mesh)


def test_a_soup_with_other_faults_among_them() -> None:
    mesh = sound("lantern housing")
    rng = np.random.default_rng(4)
    loose = jittered(b.turned(mesh, rng.choice(len(mesh.faces), 200, replace=False)), 1e-4, rng)
    holes = b.near(loose, tuple(loose.vertices[0]), 12)
    done = mend(b.doubled(b.without(loose, holes), np.arange(40)))
    assert done.refused is None, done.refused
    assert done.after.shells == 1
    assert_tight_by_referees(done.mesh, mesh.volume, 0.02)


def _studded(studs: int) -> list[shapes.Manifold]:
    rng = np.random.default_rng(0)
    parts = [shapes.Manifold.sphere(30, 120)]
    for _ in range(studs):
        x, y, z = (lambda d: d / np.linalg.norm(d))(rng.normal(size=3))
        stud = shapes.Manifold.cylinder(8, 2.5, 2.0, 24).translate((0, 0, 26))
        turn = float(np.degrees(np.arccos(z))), 0.0, float(np.degrees(np.arctan2(y, x)))
        parts.append(stud.rotate(turn))
    return parts


def _twice(mesh: Mesh, at: tuple[float, float, float] = (0, 0, 0)) -> Mesh:
    here = mesh.vertices + np.array(at)
    return b.soup(Mesh(here, mesh.faces), Mesh(here + 1e-4, mesh.faces))


@pytest.mark.parametrize(
    ("what", "make"),
    [
        ("a ball and its copy a hair beside", lambda: _twice(sphere(20, 3))),
        ("a pump body and its copy", lambda: _twice(sound("pump body"))),
        ("the same far from the origin", lambda: _twice(sound("pump body"), (5000, 3000, 0))),
    ],
)
def test_what_an_arrangement_leaves_is_clean(what: str, make) -> None:
    mesh = make()
    done = mend(mesh)
    assert done.refused is None
    none = np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int64)
    united = mesh_boolean(np.array(mesh.vertices), mesh.faces.astype(np.int64), *none, "union")
    expected = Mesh(united[0], united[1]).volume
    slack = 2 * 1e-3 * mesh.area / 2 if "far" in what else 1e-4 * expected
    assert abs(done.mesh.volume - expected) < slack
    assert_tight_by_referees(done.mesh)
    assert_clean(done.mesh)


def test_a_body_with_many_studs_is_clean() -> None:
    parts = _studded(150)
    done = mend(b.soup(*map(shapes.as_mesh, parts)))
    assert done.refused is None
    expected = shapes.Manifold.batch_boolean(parts, OpType.Add).volume()
    assert_tight_by_referees(done.mesh, expected, 1e-4)
    assert_clean(done.mesh)


def test_holes_in_both_of_two_copies_are_filled_and_not_stitched_to_each_other() -> None:
    mesh = sphere(20, 3)
    holed = b.without(mesh, np.array([3, 400, 800]))
    done = mend(_twice(holed))
    assert done.refused is None
    assert [step.operation for step in done.steps] == ["fill-holes", "unite"]
    assert_tight_by_referees(done.mesh, mesh.volume, 1e-3)


def test_mending_looks_again_only_at_what_changed(monkeypatch: pytest.MonkeyPatch) -> None:
    rng = np.random.default_rng(2)
    ball = sphere(40, 5)
    ball = Mesh(ball.vertices.astype(np.float32), ball.faces)
    mesh = b.without(ball, rng.choice(20_000, 8, replace=False))
    mesh = b.turned(mesh, rng.choice(20_000, 8, replace=False))
    mesh = b.doubled(mesh, rng.choice(20_000, 8, replace=False))
    sorts, whole = [], []
    sort, meet = _edge_kernels.sort_half_edges, intersecting_pairs_of_tree

    def counted_sort(faces, n):
        sorts.append(len(faces))
        return sort(faces, n)

    def counted_meet(tree, skip, fresh=None):
        whole.append(fresh is None)
        return meet(tree, skip, fresh)

    monkeypatch.setattr(_edge_kernels, "sort_half_edges", counted_sort)
    monkeypatch.setattr("caulkcore.diagnose.diagnosis.intersecting_pairs_of_tree", counted_meet)
    done = mend(mesh)
    assert len(done.steps) == 3
    assert done.refused is None
    assert sum(n > 10_000 for n in sorts) <= 10, "half-edges of all faces sorted again and again"
    assert sum(whole) == 1, "all pairs of faces are asked about once"
    monkeypatch.undo()
    assert harm_counts(Diagnosis(done.mesh)).tolist() == [0] * 6


@pytest.mark.parametrize(
    ("words", "code", "shells", "volume"),
    [([], 0, 1, 1000), (["--buried", "keep"], 0, 2, 1064), (["--buried", "ask"], 3, 2, 1064),
     (["--unite", "none"], 0, 2, 1064)],
)  # fmt: skip
def test_a_buried_solid_is_part_of_the_union(
    words: list[str], code: int, shells: int, volume: float, tmp_path: Path, capsys
) -> None:
    given, out = tmp_path / "given.stl", tmp_path / "out.stl"
    write(b.soup(box(), box(4.0)), given)
    assert main(["mend", str(given), "-o", str(out), *words, "--json"]) == code
    told = json.loads(capsys.readouterr().out)
    assert told["after"]["shells"] == shells
    assert told["after"]["volume_mm3"] == pytest.approx(volume)
    kinds = [finding["kind"] for finding in told["after"]["findings"]]
    assert ("buried-shells" in kinds) == (shells == 2), "what stays is said"


@pytest.mark.parametrize("number", range(0, 400, 13))
def test_combined_faults_on_other_solids(number: int) -> None:
    told, became = verdict(number)
    assert became in ("tight", "refused"), told
