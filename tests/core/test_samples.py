"""Faces divided into parts: they cover the face, know their neighbours, and are found again."""

import numpy as np
import pytest
from caulkcore import Mesh
from caulkcore.mesh.topology import Topology
from caulkcore.thickness import sampling as sample
from caulkcore.thickness.sampling import Samples, neighbours, part_counts
from makers import box, cone, sphere, torus, tube


def _turned_within(mesh: Mesh) -> Mesh:
    """The same, its faces beginning at any of their corners."""
    faces = [np.roll(face, f % 3) for f, face in enumerate(mesh.faces)]
    return Mesh(mesh.vertices, faces)


def _scaled(mesh: Mesh, *by: float) -> Mesh:
    return Mesh(mesh.vertices * by, mesh.faces)


MESHES = {
    "box": (box(10), 1.3),
    "box, coarse": (box(10), 50.0),
    "ball": (sphere(20, 2), 2.0),
    "ring": (torus(), 1.0),
    "cone": (cone(), 0.7),
    "rod of long strips": (_turned_within(_scaled(tube(), 1.0, 1.0, 3.0)), 0.8),
    "slim box": (_turned_within(_scaled(box(10), 1.0, 0.23, 7.0)), 0.9),
    "drawn-out ball": (_turned_within(_scaled(sphere(20, 2), 0.2, 1.0, 2.0)), 1.5),
}


@pytest.fixture(params=MESHES)
def taken(request) -> tuple[Mesh, Samples, float]:
    mesh, spacing = MESHES[request.param]
    return mesh, Samples.of(mesh, spacing), spacing


def test_parts_cover_their_face_and_are_turned_like_it(taken) -> None:
    mesh, samples, _ = taken
    assert len(samples.points) == part_counts(samples.division).sum() == samples.begin[-1]
    every = np.arange(len(samples.points))
    corners = samples.corners(every)
    cross = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = np.linalg.norm(cross, axis=1) / 2
    assert np.allclose(area, samples.area)
    assert area.sum() == pytest.approx(mesh.area)
    assert np.allclose(cross / (2 * area[:, None]), samples.normals)
    assert np.allclose(corners.mean(axis=1), samples.points)


def test_parts_are_about_as_large_as_asked(taken) -> None:
    _, samples, spacing = taken
    corners = samples.corners(np.arange(len(samples.points)))
    sides = np.linalg.norm(corners - np.roll(corners, 1, axis=1), axis=2)
    assert sides.max() <= 2 * spacing + 1e-9
    assert np.sqrt(2 * samples.area).max() <= spacing + 1e-9


def test_neighbours_share_an_edge_and_are_mutual_within_a_face(taken) -> None:
    mesh, samples, _ = taken
    every = np.arange(len(samples.points))
    beyond = neighbours(samples.division, samples.begin, samples.face, Topology(mesh).twin, every)
    assert (beyond >= 0).all()
    corners = samples.corners(every)
    row, side = np.nonzero(samples.face[beyond] == samples.face[:, None])
    edge = corners[row][np.arange(len(row))[:, None], np.stack([side, (side + 1) % 3], axis=1)]
    theirs = corners[beyond[row, side]]
    distance = np.linalg.norm(edge[:, :, None] - theirs[:, None], axis=3).min(axis=2)
    assert distance.max(initial=0) < 1e-9
    pairs = set(zip(row.tolist(), beyond[row, side].tolist(), strict=True))
    assert pairs == {(b, a) for a, b in pairs}


def test_neighbours_across_an_edge_lie_at_the_same_spot_of_it(taken) -> None:
    mesh, samples, _ = taken
    every = np.arange(len(samples.points))
    beyond = neighbours(samples.division, samples.begin, samples.face, Topology(mesh).twin, every)
    corners = samples.corners(every)
    row, side = np.nonzero(samples.face[beyond] != samples.face[:, None])
    middle = (corners[row, side] + corners[row, (side + 1) % 3]) / 2
    theirs = corners[beyond[row, side]]
    reach = np.linalg.norm(theirs - np.roll(theirs, 1, axis=1), axis=2).max(axis=1)
    nearest = np.linalg.norm(theirs - middle[:, None], axis=2).min(axis=1)
    assert (nearest <= reach + 1e-9).all()


def test_the_sample_of_a_point_is_the_one_whose_part_holds_it(taken) -> None:
    _, samples, _ = taken
    assert np.array_equal(samples.at(samples.face, samples.points), np.arange(len(samples.points)))
    outside = samples.points + 1e3 * samples.normals
    assert np.array_equal(samples.at(samples.face, outside), np.arange(len(samples.points)))


def test_open_edges_have_nothing_beyond() -> None:
    mesh = Mesh(box(10).vertices, box(10).faces[1:])
    samples = Samples.of(mesh, 2.0)
    every = np.arange(len(samples.points))
    beyond = neighbours(samples.division, samples.begin, samples.face, Topology(mesh).twin, every)
    open_sides = np.flatnonzero(Topology(mesh).twin.reshape(-1, 3) == -1)
    assert (samples.division[:, 1] == 1).all()
    lost = samples.division[open_sides // 3, 0].sum()
    assert (beyond < 0).sum() == lost


def test_there_are_never_more_than_allowed(monkeypatch) -> None:
    monkeypatch.setattr(sample, "MOST_SAMPLES", 500)
    samples = Samples.of(box(10), 0.01)
    assert 200 < len(samples.points) <= 500 + 12
    fine = sphere(20, 3)
    assert len(fine.faces) <= len(Samples.of(fine, 0.01).points) <= len(fine.faces) + 500
