"""Fans in which nothing can meet, and looking for crossings among some faces only."""

from itertools import combinations

import numpy as np
import pytest
from caulkcore.predicates.triangle_triangle import triangles_meet
from caulkcore.spatial._fan_kernels import fans_without_overlap
from caulkcore.spatial.box_tree import Tree
from caulkcore.spatial.intersecting_pairs import intersecting_pairs_of_tree
from makers import box, random_mesh, sphere


def fan(rng: np.random.Generator, size: int) -> tuple[np.ndarray, np.ndarray]:
    """A closed fan round vertex 0: neighbours about a circle, out of order, place or plane."""
    angle = np.linspace(0, 2 * np.pi * rng.choice([1, 1, 2]), size, endpoint=False)
    angle += rng.normal(size=size) * rng.choice([0.0, 0.05, 0.4])
    rim = np.stack([np.cos(angle), np.sin(angle), rng.normal(size=size) * 0.3], axis=1)
    axes = np.linalg.qr(rng.normal(size=(3, 3)))[0]
    points = np.round(np.vstack([np.zeros(3), rim @ axes]) * rng.choice([4, 1000])) / 4
    ring = np.arange(1, size + 1)
    faces = np.stack([np.zeros(size, int), ring, np.roll(ring, -1)], axis=1)
    if rng.random() < 0.2:
        faces[0] = faces[0][[0, 2, 1]]
    return points, faces.astype(np.int32)


def test_no_two_faces_of_a_spread_fan_meet() -> None:
    rng = np.random.default_rng(5)
    spread = met = 0
    for _ in range(1000):
        points, faces = fan(rng, int(rng.integers(3, 12)))
        meet = any(triangles_meet(points, a, b) for a, b in combinations(faces, 2))
        assert not (meet and fans_without_overlap(points, faces)[0])
        spread += fans_without_overlap(points, faces)[0]
        met += meet
    assert spread > 150
    assert met > 150


def test_which_vertices_are_spread() -> None:
    ball, cube = sphere(20, 3), box()
    points, faces = ball.vertices.copy(), ball.faces.copy()
    assert fans_without_overlap(points, faces).all()
    opened = fans_without_overlap(points, faces[1:])
    assert np.array_equal(np.flatnonzero(~opened), np.sort(faces[0]))
    # faces seen edge on are in doubt
    assert not fans_without_overlap(cube.vertices.copy(), cube.faces.copy()).any()


def test_a_fan_that_does_not_close_is_not_spread() -> None:
    # six corners, one doubled and one missing: as many begin at a neighbour as end at one
    angle = np.arange(6) * np.pi / 3
    points = np.vstack([np.zeros(3), np.stack([np.cos(angle), np.sin(angle), angle * 0], axis=1)])
    whole = np.array([(0, 1 + k, 1 + (k + 1) % 6) for k in range(6)], dtype=np.int32)
    assert fans_without_overlap(points, whole)[0]
    assert not fans_without_overlap(points, whole[[0, 1, 2, 3, 4, 4]])[0]
    assert not fans_without_overlap(points, whole[:5])[0]
    assert not fans_without_overlap(points, np.vstack([whole, whole]))[0]


@pytest.mark.parametrize("share", [0.02, 0.3, 1.0])
def test_pairs_with_a_marked_face_are_those_of_all_pairs(share: float) -> None:
    found = 0
    for seed in range(10):
        rng = np.random.default_rng([int(share * 100), seed])
        mesh = random_mesh(3, rng)
        tree, none = Tree.of(mesh.vertices, mesh.faces), np.zeros(len(mesh.faces), dtype=bool)
        marked = rng.random(len(none)) < share
        pairs = intersecting_pairs_of_tree(tree, none)
        expected = pairs[marked[pairs].any(axis=1)]
        assert np.array_equal(intersecting_pairs_of_tree(tree, none, marked), expected)
        assert np.array_equal(
            intersecting_pairs_of_tree(tree, marked), pairs[~marked[pairs].any(axis=1)]
        )
        found += len(expected)
    assert found > 20
