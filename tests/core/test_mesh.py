"""A mesh keeps its word: what is in it is right, and stays."""

import numpy as np
import pytest
from caulkcore import CaulkError, InvalidMesh, Mesh
from caulkcore.mesh.arrays import frozen
from caulkjob import examine, mend
from makers import box

POINTS = [[0, 0, 0], [1, 0, 0], [0, 1, 0]]


@pytest.mark.parametrize(
    ("vertices", "faces", "word"),
    [
        (POINTS, [[0, 1, 3]], "names vertex 3; there are 3"),
        (POINTS, [[0, 1, -1]], "names vertex -1"),
        (POINTS, [[0, 1, 2**33]], "names vertex"),
        (POINTS, [0, 1, 2], "three columns"),
        (POINTS, [[0, 1, 2, 0]], "three columns"),
        (POINTS, [[0.0, 1.0, 2.0]], "must be indices"),
        ([[0, 0], [1, 0], [0, 1]], [[0, 1, 2]], "three columns"),
        ([*POINTS[:2], [0, np.nan, 0]], [[0, 1, 2]], "not a finite number"),
        ([*POINTS[:2], [0, np.inf, 0]], [[0, 1, 2]], "not a finite number"),
        ([["a", "b", "c"]] * 3, [[0, 1, 2]], "must be numbers"),
        ([], [[0, 1, 2]], "there are 0"),
    ],
)
def test_what_is_no_mesh_is_refused_in_words(vertices, faces, word: str) -> None:
    with pytest.raises(InvalidMesh, match=word) as told:
        Mesh(vertices, faces)
    assert isinstance(told.value, CaulkError)
    assert isinstance(told.value, ValueError)


def test_nobody_changes_a_mesh_from_outside() -> None:
    points, faces = np.array(POINTS, dtype=float), np.array([[0, 1, 2]], dtype=np.int32)
    whole = np.vstack([points, points])
    for given in (points, whole[:3], frozen(whole, np.float64)[:3]):
        mesh = Mesh(given, faces)
        before = mesh.bounds.tolist(), mesh.area
        points[2], whole[:] = 9.0, 7.0
        faces[0] = 0
        assert (mesh.bounds.tolist(), mesh.area) == before
        assert mesh.faces.tolist() == [[0, 1, 2]]
        with pytest.raises(ValueError, match="read-only"):
            mesh.vertices[0] = 5.0
        points[:], whole[:3] = POINTS, POINTS
        faces[0] = 0, 1, 2


def test_arrays_that_nobody_can_write_to_are_not_copied() -> None:
    mesh = box()
    again = Mesh(mesh.vertices, mesh.faces)
    assert np.shares_memory(again.vertices, mesh.vertices)
    assert np.shares_memory(again.faces, mesh.faces)


@pytest.mark.parametrize("empty", [Mesh([], []), Mesh(POINTS, [])], ids=["nothing", "points"])
def test_an_empty_mesh_is_never_tight(empty: Mesh) -> None:
    report = examine(empty)
    assert not report.tight
    assert report.leaks == {"open-edges": 0}
    mended = mend(empty)
    assert mended.refused is not None
    assert not mended.after.tight
    assert mended.mesh is empty
