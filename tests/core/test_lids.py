"""What open shells enclose: the same however divided, and what trimesh says of the whole."""

import numpy as np
import pytest
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.remesh.subdivide import subdivide
from caulkjob import examine
from harbour import breakers as b
from makers import box, referee, sphere, tube


def _without_lids(mesh: Mesh, *ways: float) -> Mesh:
    """Without the faces of its top and bottom, as far as they are asked for."""
    z = mesh.vertices[mesh.faces][:, :, 2]
    ends = {1.0: z.max(), -1.0: z.min()}
    gone = np.zeros(len(mesh.faces), dtype=bool)
    for way in ways:
        gone |= (z == ends[way]).all(axis=1)
    return b.without(mesh, np.flatnonzero(gone))


@pytest.mark.parametrize(
    ("mesh", "ways"),
    [
        (box((10.0, 20.0, 30.0), (400.0, -300.0, 50.0)), (1.0,)),
        (box((10.0, 20.0, 30.0), (400.0, -300.0, 50.0)), (1.0, -1.0)),
        (tube(), (1.0,)),
    ],
    ids=["one hole", "two holes", "a ring"],
)
def test_flat_lids_give_the_whole(mesh: Mesh, ways) -> None:
    whole = referee(mesh).volume
    assert Diagnosis(_without_lids(mesh, *ways)).volume == pytest.approx(whole, rel=1e-9)


def test_it_does_not_depend_on_how_the_surface_is_divided() -> None:
    ball = sphere(20.0, 4)
    cap = ball.vertices[ball.faces][:, :, 2].max(axis=1) > 12.0
    coarse = b.without(ball, np.flatnonzero(cap))
    half = coarse.vertices[coarse.faces][:, :, 0].mean(axis=1) > 0
    # far more faces on one side only
    fine = subdivide(coarse, half, size=0.5, rounded=False).mesh
    assert Diagnosis(fine).volume == pytest.approx(Diagnosis(coarse).volume, rel=1e-8)
    # both figures that are told of it
    report = examine(fine)
    assert report.as_json()["volume_mm3"] == pytest.approx(float(report.pieces.volume[0]))


def test_closed_shells_and_voids_are_what_they_were() -> None:
    hollow = b.soup(box(20.0), b.turned(box(4.0), np.arange(12)))
    assert Diagnosis(hollow).volume == pytest.approx(20.0**3 - 4.0**3, rel=1e-12)
    assert Diagnosis(Mesh(np.eye(3), [[0, 1, 2]])).volume == pytest.approx(0.0, abs=1e-12)
