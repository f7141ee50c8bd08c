"""Reducing, refining and evening out: fewer or more triangles, as sound as before."""

import igl
import numpy as np
import pytest
import trimesh
from caulkcore import Mesh, OperationRefused
from caulkcore.progress import SILENT
from caulkjob import examine
from caulkjob.account import Account
from caulkjob.operations import run_operation
from caulkjob.remedies.rework import reduce, refine, smooth
from harbour import breakers as b
from harbour import shapes
from hypothesis import given, settings
from hypothesis import strategies as st
from makers import assert_tight_by_referees, binary_stl, box, cone, sphere, torus, tube
from manifold3d import Manifold
from test_walls import made, rod

PARTS = {
    "sphere": lambda: sphere(20, 5),
    "torus": torus,
    "tube": tube,
    "cone": cone,
    "lantern": lambda: shapes.as_mesh(shapes.lantern_housing()),
    "gauge box": lambda: shapes.as_mesh(shapes.gauge_box()),
    "bell frame": lambda: shapes.as_mesh(shapes.bell_frame()),
    "seal": lambda: shapes.as_mesh(shapes.concatenate(shapes.harbour_seal())),
}


def dense(size: float = 20.0, step: float = 1.0) -> Mesh:
    """A cube of small triangles."""
    return refine(box(size), size=step, rounded=False).mesh


@pytest.mark.parametrize("percent", [50, 20])
@pytest.mark.parametrize("name", PARTS)
def test_to_a_share_and_tight(name: str, percent: float) -> None:
    mesh = PARTS[name]()
    outcome = reduce(mesh, percent=percent)
    assert len(outcome.mesh.faces) <= len(mesh.faces) * percent / 100 + 1
    assert_tight_by_referees(outcome.mesh, mesh.volume, 0.015 if percent == 50 else 0.05)
    known = {tuple(v) for v in mesh.vertices}
    assert all(tuple(v) in known or (v == np.float32(v)).all() for v in outcome.mesh.vertices)


@pytest.mark.parametrize("edges", [False, True])
@pytest.mark.parametrize("name", PARTS)
def test_within_a_deviation_both_ways(name: str, edges: bool) -> None:
    mesh = PARTS[name]()
    outcome = reduce(mesh, deviation=0.05, edges=edges)
    assert_tight_by_referees(outcome.mesh, mesh.volume, 0.01)
    account = Account.between(mesh, outcome.mesh)
    assert account.max_deviation_mm <= 0.05
    # by something else than our own measure: dense points of each, against the other
    for one, other in ((mesh, outcome.mesh), (outcome.mesh, mesh)):
        faces = other.faces.astype(np.int64)
        squared = igl.point_mesh_squared_distance(_dense_points(one), other.vertices, faces)[0]
        assert np.sqrt(squared.max()) <= 0.051


def _dense_points(mesh: Mesh) -> np.ndarray:
    points, _ = trimesh.sample.sample_surface_even(
        trimesh.Trimesh(mesh.vertices, mesh.faces, process=False), 60_000, seed=1
    )
    return np.concatenate([points, mesh.vertices])


def test_flat_faces_go_without_a_trace() -> None:
    outcome = reduce(dense(), deviation=0.001)
    assert len(outcome.mesh.faces) == 12
    assert outcome.mesh.volume == pytest.approx(8000, rel=1e-12)
    assert Account.between(dense(), outcome.mesh).max_deviation_mm < 1e-12


def test_sharp_edges_stay_to_the_bit() -> None:
    mesh = dense()
    at_edge = np.isclose(np.abs(mesh.vertices), 10).sum(axis=1) >= 2
    kept = reduce(mesh, percent=10, edges=True).mesh
    there = {tuple(v) for v in kept.vertices}
    assert all(tuple(v) in there for v in mesh.vertices[at_edge])


def test_no_piece_vanishes_and_rims_stay() -> None:
    many = b.soup(*(sphere(2, 2) for _ in range(1)), *(_moved(sphere(2, 2), 6 * i) for i in (1, 2)))
    few = reduce(many, triangles=4)
    assert examine(few.mesh).as_json()["shells"] == 3
    assert few.left
    holed = b.without(sphere(20, 4), b.near(sphere(20, 4), (20, 0, 0), 40))
    rim = examine(holed).findings[0].places[0].count
    outcome = reduce(holed, percent=20)
    assert examine(outcome.mesh).findings[0].places[0].count == rim


def _moved(mesh: Mesh, x: float) -> Mesh:
    return Mesh(mesh.vertices + np.array([x, 0, 0]), mesh.faces)


@pytest.mark.parametrize(
    ("asked", "least", "most"),
    [
        ({"triangles": 500}, 499, 501),
        ({"percent": 25}, 1278, 1281),
        ({"megabytes": 0.05}, 996, 999),
        ({"triangles": 100, "percent": 50}, 2558, 2561),
    ],
)
def test_the_first_limit_reached_ends_it(asked, least: int, most: int) -> None:
    outcome = reduce(sphere(20, 4), **asked)
    assert least <= len(outcome.mesh.faces) <= most
    if "megabytes" in asked:
        assert len(binary_stl(outcome.mesh)) <= asked["megabytes"] * 1e6


def test_the_same_input_gives_the_same_output() -> None:
    one, other = (reduce(sphere(20, 6), percent=15).mesh for _ in range(2))
    assert np.array_equal(one.vertices, other.vertices)
    assert np.array_equal(one.faces, other.faces)


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10_000), st.floats(5, 90))
def test_as_sound_as_it_was(seed: int, percent: float) -> None:
    rng = np.random.default_rng(seed)
    mesh = sphere(20, 3)
    mesh = b.without(mesh, rng.choice(len(mesh.faces), rng.integers(0, 30), replace=False))
    mesh = b.turned(mesh, rng.choice(len(mesh.faces), rng.integers(0, 5), replace=False))
    before = examine(mesh)
    after = examine(reduce(mesh, percent=percent).mesh)
    assert all(n <= before.leaks.get(kind, 0) for kind, n in after.leaks.items())


@pytest.mark.parametrize(
    ("given", "words"),
    [
        ({}, "no more than asked for"),
        ({"triangles": 12}, "no more than asked for"),
        ({"percent": 120}, "Share to leave must be from 0.01 to 99.9 %"),
        ({"deviation": 0}, "Deviation must be from"),
    ],
)
def test_what_makes_no_sense_is_refused(given, words: str) -> None:
    with pytest.raises(OperationRefused, match=words):
        run_operation(box(), "reduce", given, SILENT)


def test_a_box_has_nothing_to_give() -> None:
    outcome = reduce(box(), triangles=8)
    assert_tight_by_referees(outcome.mesh)
    assert len(outcome.mesh.faces) >= 8


# more triangles


def test_a_facetted_ball_and_cylinder_come_out_round() -> None:
    ball = made(Manifold.sphere(10, 24))
    finer = refine(ball, size=0.5)
    assert_tight_by_referees(finer.mesh, 4 / 3 * np.pi * 1000, 2e-3)
    assert np.abs(np.linalg.norm(finer.mesh.vertices, axis=1) - 10).max() < 0.02
    assert _longest(finer.mesh) <= 0.5
    log = made(rod(20, 8, 24))
    finer = refine(log, size=1.0)
    assert_tight_by_referees(finer.mesh, np.pi * 64 * 20, 5e-4)
    v = finer.mesh.vertices
    # caps are flat, their rims are sharp and round
    low, high = v[:, 2].min(), v[:, 2].max()
    radius = np.hypot(v[:, 0], v[:, 1])
    between = (v[:, 2] > low + 1e-3) & (v[:, 2] < high - 1e-3)
    assert np.abs(radius[between] - 8).max() < 2e-3
    assert radius.max() < 8 + 2e-3
    assert high - low == pytest.approx(20)


def _longest(mesh: Mesh) -> float:
    tri = mesh.vertices[mesh.faces]
    return float(np.linalg.norm(tri - np.roll(tri, 1, axis=1), axis=2).max())


@pytest.mark.parametrize("rounded", [False, True])
def test_a_box_stays_a_box(rounded: bool) -> None:
    finer = refine(box(), size=1.0, rounded=rounded)
    assert finer.mesh.volume == pytest.approx(box().volume, rel=1e-9)
    assert_tight_by_referees(finer.mesh)
    assert Account.between(box(), finer.mesh).max_deviation_mm < 1e-6


def test_only_the_region_changes() -> None:
    mesh = sphere(20, 3)
    finer = refine(mesh, [[20, 0, 0, 6]], size=0.8)
    assert_tight_by_referees(finer.mesh)
    assert np.array_equal(finer.mesh.vertices[: len(mesh.vertices)], mesh.vertices)
    new = finer.mesh.vertices[len(mesh.vertices) :]
    assert len(new)
    assert np.linalg.norm(new - (20, 0, 0), axis=1).max() < 6 + _longest(mesh)
    account = Account.between(mesh, finer.mesh)
    assert account.unchanged_faces > 0.8 * len(mesh.faces)


def test_the_other_side_of_a_thin_wall_is_not_in_the_region() -> None:
    plate = refine(box((20, 20, 0.5)), size=1.0, rounded=False).mesh
    low, high = plate.bounds
    x, y, _ = (low + high) / 2
    finer = refine(plate, [[x, y, high[2], 3]], size=0.4)
    new = finer.mesh.vertices[len(plate.vertices) :]
    assert np.isclose(new[:, 2], high[2]).all()


def test_too_fine_is_refused_with_what_would_do() -> None:
    with pytest.raises(OperationRefused, match="about the least here"):
        refine(sphere(), size=0.01)
    assert refine(sphere(), size=50).left


# evened out


def rough(seed: int = 0, by: float = 0.05) -> Mesh:
    ball = sphere(20, 4)
    noise = np.random.default_rng(seed).normal(size=ball.vertices.shape) * by
    return Mesh((ball.vertices + noise).astype(np.float32), ball.faces)


def test_noise_goes_and_the_volume_stays() -> None:
    mesh = rough()
    even = smooth(mesh, rounds=20)
    assert_tight_by_referees(even.mesh, mesh.volume, 2e-3)
    before, after = (np.linalg.norm(m.vertices, axis=1).std() for m in (mesh, even.mesh))
    assert after < 0.5 * before


def test_evening_out_stays_in_its_region_and_within_its_deviation() -> None:
    mesh = rough()
    even = smooth(mesh, [[20, 0, 0, 8]], rounds=20, deviation=0.03)
    moved = np.linalg.norm(even.mesh.vertices - mesh.vertices, axis=1)
    away = np.linalg.norm(mesh.vertices - (20, 0, 0), axis=1)
    assert 0 < moved.max() <= 0.03 + 1e-5
    assert (moved[away > 8] == 0).all()
    assert_tight_by_referees(even.mesh)


def test_sharp_edges_and_rims_do_not_move() -> None:
    mesh = dense(step=2.0)
    assert smooth(mesh).left == ("It is smooth already.",)
    holed = b.without(rough(), np.array([0, 1, 2]))
    rim = np.unique(holed.faces[np.isin(holed.faces, rough().faces[[0, 1, 2]]).any(axis=1)])
    even = smooth(holed, rounds=5)
    rims = [v for v in rim if v in rough().faces[[0, 1, 2]]]
    assert np.array_equal(even.mesh.vertices[rims], holed.vertices[rims])


def test_a_wild_surface_never_crosses_itself() -> None:
    mesh = rough(3, 0.25)
    before = examine(mesh)
    even = smooth(mesh, rounds=60)
    after = examine(even.mesh)
    assert after.leaks.get("self-intersections", 0) <= before.leaks.get("self-intersections", 0)


@pytest.mark.parametrize(
    "region", [[], [[0, 0, 0]], [[0, 0, 0, -1]], [[0, 0, 0, float("nan")]], "all", [[0, 0, 0, "1"]]]
)
def test_a_region_must_be_one(region) -> None:
    with pytest.raises(OperationRefused, match="Region cannot be"):
        run_operation(sphere(), "smooth", {"region": region}, SILENT)


def test_a_region_beside_the_model_is_told() -> None:
    for work in (refine, smooth):
        outcome = work(sphere(), [[100, 0, 0, 1]])
        assert outcome.left
        assert not outcome.done
