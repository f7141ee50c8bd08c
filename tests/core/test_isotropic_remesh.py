"""Triangles made even: their shape and size, and that the surface stays where it is."""

import igl
import numpy as np
import pytest
import trimesh
from caulkcore import Mesh
from caulkcore.errors import OperationRefused
from caulkcore.mesh.changed_faces import changed_faces
from caulkcore.mesh.simple_solids import cuboid
from caulkcore.mesh.split_edges import edge_lengths
from caulkcore.remesh.isotropic_remesh import isotropic_remesh
from caulkcore.remesh.subdivide import subdivide
from caulkjob.perform import perform
from makers import assert_tight_by_referees, box


def _of(made: trimesh.Trimesh) -> Mesh:
    return Mesh(np.array(made.vertices), np.array(made.faces))


def _needles_at_poles() -> Mesh:
    return _of(trimesh.creation.uv_sphere(10, count=[24, 96]))


def _long_facets() -> Mesh:
    return _of(trimesh.creation.cylinder(10, 20, sections=200))


def _few_facets() -> Mesh:
    return _of(trimesh.creation.cylinder(10, 20, sections=24))


def _in_strips() -> Mesh:
    """A plate of 20 by 12 by 2 whose top and bottom are cut into strips 0.1 mm wide."""
    return subdivide(cuboid((20.0, 12.0, 2.0)), size=0.35, rounded=False).mesh


def _thin() -> Mesh:
    """A bent wall, as thin as a fifteenth of the edges asked for; its rims are narrow strips."""
    return _of(trimesh.creation.annulus(9.9, 10.0, 12, sections=90))


def _angles(mesh: Mesh) -> np.ndarray:
    """The least angle of each face, degrees."""
    made = trimesh.Trimesh(mesh.vertices, mesh.faces, process=False)
    return np.degrees(made.face_angles.min(axis=1))


def _farthest(one: Mesh, other: Mesh) -> float:
    """Of dense samples on both, the greatest distance from the other, by libigl."""
    away = []
    for a, b in ((one, other), (other, one)):
        made = trimesh.Trimesh(a.vertices, a.faces, process=False)
        points, _ = trimesh.sample.sample_surface(made, 40_000, seed=7)
        squared = igl.point_mesh_squared_distance(points, b.vertices, b.faces)[0]
        away.append(float(np.sqrt(squared.max())))
    return max(away)


@pytest.mark.parametrize(
    ("make", "size", "least"),
    [
        (_needles_at_poles, 1.0, 40.0),
        (_long_facets, 1.5, 28.0),
        (_few_facets, 1.5, 35.0),
        (_in_strips, 1.0, 30.0),
        (_thin, 1.5, 5.0),
        (box, 2.0, 44.0),
    ],
)
def test_triangles_become_even_and_the_surface_stays(make, size: float, least: float) -> None:
    mesh = make()
    deviation = size / 30
    done = perform(mesh, "even-out", {"size": size})
    assert done.refused is None
    assert_tight_by_referees(done.mesh)
    angles = _angles(done.mesh)
    assert np.percentile(angles, 5) >= least
    lengths = edge_lengths(done.mesh.vertices, done.mesh.faces)
    # what is shorter is where the surface bends
    assert lengths.max() <= size * 4 / 3 * 1.35
    assert np.median(lengths) >= 0.7 * size
    assert _farthest(mesh, done.mesh) <= deviation * 1.001
    assert done.account.deviation_mm <= deviation * 1.01


def test_how_a_flat_face_is_divided_makes_no_difference() -> None:
    coarse = isotropic_remesh(cuboid((20.0, 12.0, 2.0)), size=1.0).mesh
    fine = isotropic_remesh(_in_strips(), size=1.0).mesh
    assert len(fine.faces) == pytest.approx(len(coarse.faces), rel=0.25)
    for made in (coarse, fine):
        # flat faces stay flat, and every corner of the plate is there
        assert made.volume == pytest.approx(480.0, abs=1e-9)
        on_corner = np.isin(made.vertices, [0.0, 2.0, 12.0, 20.0]).all(axis=1)
        assert on_corner.sum() == 8


def test_outside_the_region_nothing_changes() -> None:
    mesh = _needles_at_poles()
    region = mesh.vertices[mesh.faces][:, :, 2].min(axis=1) > 6
    done = isotropic_remesh(mesh, region, size=0.8)
    gone, new = changed_faces(mesh, done.mesh)
    assert not gone[~region].any()
    assert new.sum() <= done.numbers["after"]
    assert (done.mesh.vertices[done.mesh.faces[new]][:, :, 2] > 5.99).all()
    assert_tight_by_referees(done.mesh)
    assert np.percentile(_angles(done.mesh)[new], 5) > 20


def test_fine_detail_keeps_its_triangles() -> None:
    ball = _of(trimesh.creation.icosphere(4, 1.0))
    coarse = isotropic_remesh(ball, size=1.5, deviation=0.01).mesh
    assert _farthest(ball, coarse) <= 0.0101
    assert np.median(edge_lengths(coarse.vertices, coarse.faces)) < 0.5


def test_an_open_rim_stays_where_it_is() -> None:
    mesh = _needles_at_poles()
    cap = Mesh(mesh.vertices, mesh.faces[mesh.vertices[mesh.faces][:, :, 2].min(axis=1) > 2])
    made = isotropic_remesh(cap.compact(), size=1.0).mesh
    rims = [igl.boundary_loop(one.faces.astype(np.int64)) for one in (cap, made)]
    was, now = (one.vertices[rim] for one, rim in zip((cap, made), rims, strict=True))
    assert sorted(map(tuple, was)) == sorted(map(tuple, now))


def test_more_triangles_than_can_be_are_refused() -> None:
    with pytest.raises(OperationRefused, match="is about the least here"):
        isotropic_remesh(cuboid((1000.0, 1000.0, 1000.0)), size=0.1)
