"""Distances of surfaces, held against libigl's distances of dense samples and known answers."""

from collections.abc import Callable

import igl
import numpy as np
import pytest
from caulkcore import InvalidMesh, Mesh
from caulkcore.mesh.arrays import Array
from caulkcore.remesh.decimate import decimate
from caulkcore.remesh.subdivide import subdivide
from caulkcore.spatial.box_tree import Tree
from caulkcore.spatial.hausdorff import (
    FLOOR,
    SHARE,
    Reach,
    directed_distance,
    faces_beyond,
    hausdorff_distance,
)
from caulkcore.thickness.mean_distance import mean_distance
from collection import solid
from makers import box, random_mesh, sphere, torus


def samples(mesh: Mesh, count: int) -> Array:
    """Points all over a mesh, by area, and its vertices."""
    rng = np.random.default_rng(7)
    tri = mesh.vertices[mesh.faces]
    area = np.linalg.norm(np.cross(tri[:, 1] - tri[:, 0], tri[:, 2] - tri[:, 0]), axis=1)
    tri = tri[rng.choice(len(tri), count, p=area / area.sum())]
    share = rng.random((count, 2))
    share[share.sum(axis=1) > 1] = 1 - share[share.sum(axis=1) > 1]
    inside = tri[:, 0] + np.einsum("ij,ijk->ik", share, tri[:, 1:] - tri[:, :1])
    return np.concatenate([inside, mesh.vertices[np.unique(mesh.faces)]])


def away(points: Array, mesh: Mesh) -> Array:
    """Libigl's distances."""
    squared = igl.point_mesh_squared_distance(
        np.ascontiguousarray(points), mesh.vertices, mesh.faces.astype(np.int64)
    )[0]
    return np.sqrt(squared)


def assert_holds(found: Reach, one: Mesh, other: Mesh) -> None:
    """The bound is as narrow as promised, no sample is beyond it, and its place has the lower."""
    assert found.low <= found.high <= max(found.low * (1 + SHARE), found.low + FLOOR) + 1e-9
    assert away(samples(one, 20_000), other).max() <= found.high * (1 + 1e-9) + 1e-9
    if found.at is not None:
        assert away(np.array([found.at]), other)[0] == pytest.approx(found.low, abs=1e-9)
        assert away(np.array([found.at]), one)[0] < 1e-9


def lid_and_rest(size: tuple[float, float, float]) -> tuple[Mesh, Mesh]:
    block = box(size)
    top = block.vertices[block.faces, 2].min(axis=1) == block.vertices[:, 2].max()
    return Mesh(block.vertices, block.faces[top]), Mesh(block.vertices, block.faces[~top])


@pytest.mark.parametrize(
    ("size", "reach"),
    [((100.0, 100.0, 100.0), 50.0), ((200.0, 20.0, 20.0), 10.0), ((30.0, 20.0, 5.0), 5.0)],
    ids=["cube", "trough", "shallow"],  # the last lid's middle is nearest to the bottom
)
def test_a_lid_is_as_far_from_the_rest_as_its_middle(
    size: tuple[float, float, float], reach: float
) -> None:
    lid, rest = lid_and_rest(size)
    found = directed_distance(lid.vertices, lid.faces, Tree.of(rest.vertices, rest.faces))
    assert found.low <= reach <= found.high + 1e-9
    assert_holds(found, lid, rest)


def test_a_turned_diagonal_is_seen() -> None:
    """Four corners of a saddle, divided one way and the other: corners and middles are all near."""
    corners = np.array([[0, 0, 0], [20, 0, 17.0], [20, 20, 0], [0, 20, 17.0]])
    one = Mesh(corners, np.array([[0, 1, 2], [0, 2, 3]]))
    other = Mesh(corners, np.array([[0, 1, 3], [1, 2, 3]]))
    found = hausdorff_distance(one, other)
    # the diagonals cross 17 mm above each other, the faces lean away from there
    normal = np.cross(corners[1] - corners[0], corners[2] - corners[0])
    leaning = 17.0 * abs(normal[2]) / np.linalg.norm(normal)
    assert found.both.low <= leaning <= found.both.high
    assert_holds(found.a_to_b, one, other)
    assert_holds(found.b_to_a, other, one)


def fewer(mesh: Mesh) -> Mesh:
    return decimate(mesh, target_faces=len(mesh.faces) // 8).mesh


def shifted(x: float, y: float, z: float) -> Callable[[Mesh], Mesh]:
    return lambda mesh: Mesh(mesh.vertices + np.array([x, y, z]), mesh.faces)


def grown(mesh: Mesh) -> Mesh:
    return Mesh(mesh.vertices * 1.01, mesh.faces)


@pytest.mark.parametrize(
    ("name", "change"),
    [
        ("ball", fewer),
        ("pump body", fewer),
        ("hilly lump", fewer),
        ("gear", shifted(0.03, 0.02, 0.0)),
        ("ring", shifted(0.0, 0.0, 1.0)),
        ("hilly lump", grown),
        ("lattice", grown),
    ],
)
def test_no_sample_is_beyond_the_bound(name: str, change: Callable[[Mesh], Mesh]) -> None:
    mesh = solid(name)
    other = change(mesh)
    found = hausdorff_distance(mesh, other)
    assert_holds(found.a_to_b, mesh, other)
    assert_holds(found.b_to_a, other, mesh)
    assert found.both.high == max(found.a_to_b.high, found.b_to_a.high)


@pytest.mark.parametrize("seed", range(12))
def test_soups_are_measured_like_everything(seed: int) -> None:
    rng = np.random.default_rng(seed)
    one, other = random_mesh(seed % 3, rng), random_mesh((seed + 1) % 3, rng)
    found = hausdorff_distance(one, other)
    assert_holds(found.a_to_b, one, other)
    assert_holds(found.b_to_a, other, one)


@pytest.mark.parametrize(
    "mesh", [box(50.0), sphere(subdivisions=2), torus()], ids=["box", "ball", "ring"]
)
def test_the_same_surface_in_other_triangles_is_no_distance_away(mesh: Mesh) -> None:
    finer = subdivide(mesh, size=mesh.diagonal / 40, rounded=False).mesh
    assert len(finer.faces) > 4 * len(mesh.faces)
    rounding = 1e-6 * mesh.diagonal  # new vertices lie on float32
    assert hausdorff_distance(mesh, finer).both.high <= FLOOR + rounding


def test_what_is_told_goes_with_the_surfaces_not_with_their_triangles() -> None:
    lid, rest = lid_and_rest((60.0, 40.0, 30.0))
    finer = subdivide(lid, size=1.5, rounded=False).mesh
    to = Tree.of(rest.vertices, rest.faces)
    coarse = directed_distance(lid.vertices, lid.faces, to)
    fine = directed_distance(finer.vertices, finer.faces, to)
    assert coarse.high == pytest.approx(fine.high, rel=SHARE)
    assert coarse.low <= 20.0 <= fine.high + 1e-9


def test_faces_beyond_a_limit_are_found_between_corners_too() -> None:
    lid, rest = lid_and_rest((100.0, 100.0, 100.0))
    to = Tree.of(rest.vertices, rest.faces)
    assert faces_beyond(lid.vertices, lid.faces, to, 49.0).all()
    assert not faces_beyond(lid.vertices, lid.faces, to, 51.0).any()


@pytest.mark.parametrize("limit", [0.01, 0.1])
def test_fewer_triangles_within_a_deviation_keep_it(limit: float) -> None:
    mesh = solid("hilly lump")
    reduced = decimate(mesh, max_deviation=limit).mesh
    assert len(reduced.faces) < len(mesh.faces)
    assert hausdorff_distance(mesh, reduced).both.high <= limit * (1 + SHARE)
    assert max(
        away(samples(mesh, 20_000), reduced).max(), away(samples(reduced, 20_000), mesh).max()
    ) <= limit * (1 + 1e-9)


def test_nothing_has_no_distance() -> None:
    none = Mesh(np.zeros((0, 3)), np.zeros((0, 3), np.int32))
    to = Tree.of(box().vertices, box().faces)
    assert directed_distance(none.vertices, none.faces, to) == Reach(0.0, 0.0, None)
    with pytest.raises(InvalidMesh):
        hausdorff_distance(box(), none)


def test_the_mean_is_by_area() -> None:
    low, tall = box((10.0, 10.0, 10.0), (0, 0, 5)), box((10.0, 10.0, 12.0), (0, 0, 6))
    # the new top lies 2 mm off, what is new of the sides 1 mm on average, and the old top 2 mm but
    # near the sides: min(d, 2) at a distance d from them
    old_top = 36 * 2.0 + 4 * (20.0 - 16 / 3)
    expected = (100 * 2.0 + 4 * 20 * 1.0 + old_top) / (low.area + tall.area)
    assert mean_distance(low, tall) == pytest.approx(expected, rel=0.02)
