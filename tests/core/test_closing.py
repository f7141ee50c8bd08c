"""Gaps bridged, and holes filled as the surface around them goes on."""

import numpy as np
import pytest
from caulkcore import Mesh
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.progress import SILENT
from caulkcore.repair import bridge
from caulkjob import mend
from caulkjob.operations import run_operation
from collection import solid
from harbour import breakers as b
from harbour import shapes
from makers import assert_tight_by_referees, box, sphere, torus


def girdled(mesh: Mesh, axis: int = 2) -> Mesh:
    """Without the faces that cross the middle."""
    heights = mesh.vertices[mesh.faces][:, :, axis]
    middle = float(mesh.bounds[:, axis].mean()) + 0.013
    return b.without(
        mesh, np.flatnonzero((heights.min(axis=1) < middle) & (heights.max(axis=1) > middle))
    )


@pytest.mark.parametrize("name", ["fine ball", "egg", "ring", "shell", "rounded", "spring"])
def test_halves_are_joined_where_a_girdle_is_missing(name: str) -> None:
    mesh = solid(name)
    outcome = mend(girdled(mesh, 0 if name in ("ring", "spring") else 2))
    assert outcome.refused is None
    assert outcome.steps[0].operation == "bridge-gaps"
    assert outcome.after.shells == (2 if name == "shell" else 1)
    assert_tight_by_referees(outcome.mesh, mesh.volume, 0.03)


def test_long_rims_are_joined_by_the_share_of_the_way(monkeypatch) -> None:
    monkeypatch.setattr(bridge, "_MOST_STEPS", 0)
    mesh = solid("fine ball")
    assert_tight_by_referees(
        bridge.bridge_boundary_loops(Diagnosis(girdled(mesh))).mesh, mesh.volume, 0.02
    )


@pytest.mark.parametrize(
    ("what", "make"),
    [
        ("opposite holes of a plate", lambda: _plate_with_opposite_holes()),
        ("neighbouring holes of a ball", lambda: b.without(sphere(), np.array([0, 3]))),
        ("cups far apart", lambda: _cups(60.0)),
        ("cups back to back", lambda: _cups(-60.0)),
    ],
)
def test_what_does_not_belong_together_is_not_bridged(what: str, make) -> None:
    mesh = make()
    assert bridge.bridge_boundary_loops(Diagnosis(mesh)).mesh is mesh


def _plate_with_opposite_holes() -> Mesh:
    fine = shapes.as_mesh(shapes.Manifold.cube((20, 20, 1)).refine(12))
    middles = b.middles(fine)
    near = np.linalg.norm(middles[:, :2] - 10, axis=1) < 3
    return b.without(fine, np.flatnonzero(near))


def _cups(apart: float) -> Mesh:
    half = b.without(sphere(), np.flatnonzero(b.middles(sphere())[:, 2] > 12))
    other = Mesh(half.vertices * np.array([1, -1, -1]) + np.array([0, 0, apart + 24]), half.faces)
    return Mesh(
        np.vstack([half.vertices, other.vertices]),
        np.vstack([half.faces, other.faces + len(half.vertices)]),
    )


def filled(mesh: Mesh, **given):
    return run_operation(mesh, "fill-holes", given, SILENT)


@pytest.mark.parametrize(("fine", "count", "share"), [(4, 300, 5e-4), (5, 2000, 1e-3)])
def test_a_fill_bends_as_the_ball_around_it(fine: int, count: int, share: float) -> None:
    ball = sphere(20, fine)
    holed = b.without(ball, b.near(ball, (0, 0, 50), count))
    flat, bent = filled(holed, shape="flat"), filled(holed)
    assert len(flat.mesh.vertices) == len(holed.vertices)
    assert flat.mesh.volume < 0.997 * ball.volume
    assert_tight_by_referees(bent.mesh, ball.volume, share)
    radius = np.linalg.norm(bent.mesh.vertices, axis=1)
    assert np.abs(radius - 20).max() < 0.15
    # as fine as what is around it
    new, old = len(bent.mesh.faces) - len(holed.faces), len(ball.faces) - len(holed.faces)
    assert 0.6 * old < new < 1.4 * old
    # and nothing else has moved
    assert np.isin(holed.vertices, bent.mesh.vertices).all()


def test_a_fill_bends_both_ways_on_a_ring() -> None:
    mesh = torus()
    holed = b.without(mesh, b.near(mesh, (14, 0, 0), 60))
    assert_tight_by_referees(filled(holed).mesh, mesh.volume, 2e-3)


@pytest.mark.parametrize("name", ["cylinder", "box", "tube"])
def test_ends_stay_flat(name: str) -> None:
    mesh = solid(name)
    top = np.isclose(mesh.vertices[mesh.faces][:, :, 2], mesh.bounds[1, 2]).all(axis=1)
    outcome = filled(b.without(mesh, np.flatnonzero(top)))
    assert outcome.numbers.get("following", 0) == 0
    assert_tight_by_referees(outcome.mesh, mesh.volume, 1e-6)


def test_a_hole_in_a_flat_face_gets_no_point() -> None:
    mesh = shapes.as_mesh(shapes.Manifold.cube((20, 20, 20)).refine(10))
    holed = b.without(mesh, b.near(mesh, (10, 10, 20), 50))
    outcome = filled(holed)
    assert len(outcome.mesh.vertices) <= len(mesh.vertices)
    assert_tight_by_referees(outcome.mesh, 8000, 1e-9)


def test_a_bent_fill_that_would_cross_something_is_not_taken() -> None:
    ball = sphere(20, 5)
    holed = b.without(ball, b.near(ball, (0, 0, 50), 2000))
    # a lamp that stands just under where the dome would be
    lamp = box(1.5, (0, 0, 19.6))
    outcome = filled(b.soup(holed, lamp))
    assert outcome.numbers["following"] == 0
    assert_tight_by_referees(outcome.mesh)
