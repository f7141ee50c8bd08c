import numpy as np
import pytest
from caulkcore import Mesh
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.progress import SILENT
from caulkjob import examine
from caulkjob.operations import run_operation
from collection import WAYS, solid
from harbour import breakers as b
from makers import assert_tight_by_referees, box, sphere


def stitched(mesh: Mesh, **given):
    return run_operation(mesh, "stitch-cracks", given, SILENT)


@pytest.mark.parametrize("way", ["half divided", "patch divided"])
@pytest.mark.parametrize("name", ["box", "egg", "lattice", "pump body", "thin ring"])
def test_vertices_in_the_midst_of_edges_are_put_into_them(name: str, way: str) -> None:
    mesh = solid(name)
    broken = WAYS[way].break_(mesh, np.random.default_rng(3))
    found = examine(broken, questions=("closed",)).leaks
    assert "cracks" in found
    assert "open-edges" not in found
    outcome = stitched(broken)
    assert_tight_by_referees(outcome.mesh, mesh.volume, 1e-6)
    assert len(outcome.mesh.vertices) == len(broken.vertices)
    assert outcome.numbers["vertices_moved"] == 0
    assert "dividing" in outcome.done


@pytest.mark.parametrize("name", ["box", "fine ball", "spring"])
def test_faces_that_share_no_vertex_are_joined_again(name: str) -> None:
    """Up to a hundred copies of one vertex, each a hair from where it should be."""
    mesh = solid(name)
    shaken = WAYS["shaken"].break_(mesh, np.random.default_rng(1))
    assert len(shaken.vertices) == 3 * len(mesh.faces)
    outcome = stitched(shaken)
    assert len(outcome.mesh.vertices) == len(mesh.vertices)
    assert_tight_by_referees(outcome.mesh, mesh.volume, 1e-3)


def test_detail_finer_than_the_tolerance_stays_apart() -> None:
    """Close to a crack without width two vertices lie nearer than what may be joined."""
    mesh = box(60)
    face = mesh.faces[0]
    p, q, _ = mesh.vertices[face]
    points = np.vstack([mesh.vertices, (p + q) / 2, (p + q) / 2 + (q - p) * 4e-4])
    at = len(mesh.vertices)
    faces = [[face[0], at, face[2]], [at, at + 1, face[2]], [at + 1, face[1], face[2]]]
    torn = Mesh(points, np.vstack([mesh.faces[1:], faces]))
    outcome = stitched(torn)
    assert len(outcome.mesh.vertices) == len(points)
    assert_tight_by_referees(outcome.mesh, mesh.volume, 1e-9)


def test_an_edge_that_meets_others_in_part_is_divided_where_it_does() -> None:
    mesh = sphere()
    broken = WAYS["half divided"].break_(mesh, np.random.default_rng(3))
    rim = np.unique(broken.faces[Diagnosis(broken).cracks.half_edges // 3])
    beside = np.flatnonzero(np.isin(broken.faces, rim).sum(axis=1) == 2)
    outcome = stitched(b.without(broken, beside[-1:]))
    left = Diagnosis(outcome.mesh).boundary_loops
    assert left.edges.tolist() == [3]
    assert not len(Diagnosis(outcome.mesh).cracks)


def test_a_face_is_not_stitched_to_itself() -> None:
    thin = Mesh(np.array([[0, 0, 0], [10, 0, 0], [5, 0.004, 0]], float), [[0, 1, 2]])
    beside = Mesh(thin.vertices + np.array([0, 0, 30.0]), thin.faces)
    assert not len(Diagnosis(b.soup(thin, beside)).cracks)


def test_one_crack_alone() -> None:
    one = WAYS["half divided"].break_(box(), np.random.default_rng(2))
    two = b.soup(one, Mesh(one.vertices + 40, one.faces))
    whole = len(Diagnosis(one).cracks)
    outcome = stitched(two, places=[1])
    assert len(Diagnosis(outcome.mesh).cracks) == whole
