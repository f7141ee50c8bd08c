"""Each kernel against something slow and obvious, or a library that is not ours."""

import itertools

import igl
import numpy as np
import pytest
from caulkcore import Mesh
from caulkcore.diagnose._duplicate_kernels import first_of_same
from caulkcore.diagnose.boundary_loops import BoundaryLoops
from caulkcore.diagnose.nesting import shell_depths
from caulkcore.mesh import _edge_kernels as edge
from caulkcore.mesh._face_kernels import least_heights, shell_sums, total_sums
from caulkcore.mesh.groups import Groups
from caulkcore.mesh.polygons import newell, triangulate
from caulkcore.mesh.topology import Topology
from caulkcore.mesh.weld import weld
from caulkcore.repair._hole_kernels import least_area
from caulkcore.spatial.box_tree import Tree
from harbour import breakers as b
from hypothesis import given, settings
from hypothesis import strategies as st
from makers import SOUND, box, referee, sound, sphere


@pytest.mark.parametrize("kind", [np.float32, np.float64])
@pytest.mark.parametrize("count", [1, 2, 500, 5000])
def test_weld_joins_equal_points_and_only_those(kind, count: int) -> None:
    rng = np.random.default_rng(count)
    points = rng.integers(-3, 4, size=(count, 3)).astype(kind) / 7
    points[rng.random(count) < 0.3] *= -1  # minus zeros among them
    vertices, index = weld(points)
    assert (vertices[index] == points).all()
    assert len(vertices) == len(np.unique(points + 0, axis=0))
    first = [int(np.flatnonzero(index == i)[0]) for i in range(len(vertices))]
    assert first == sorted(first), "in order of first appearance"


def test_points_a_rounding_step_apart_stay_apart() -> None:
    near = np.nextafter(np.float32(1), np.float32(2))
    vertices, _ = weld(np.array([[1, 0, 0], [near, 0, 0]], dtype=np.float32))
    assert len(vertices) == 2


@pytest.mark.parametrize("name", SOUND)
def test_the_edge_table_is_the_one_that_sorting_gives(name: str) -> None:
    mesh = sound(name)
    topology = Topology(mesh)
    sides = np.sort(mesh.faces[:, [[0, 1], [1, 2], [2, 0]]].reshape(-1, 2), axis=1)
    unique, count = np.unique(sides, axis=0, return_counts=True)
    assert np.array_equal(np.sort(topology.edges_where(topology.face_count > 0), axis=1), unique)
    assert np.array_equal(topology.face_count, count)
    twin = topology.twin
    assert np.array_equal(twin[twin], np.arange(len(twin)))
    # Euler's formula against the genus that trimesh finds
    assert len(mesh.vertices) - len(unique) + len(mesh.faces) == referee(mesh).euler_number


def test_edges_at_a_crowded_vertex() -> None:
    """A vertex with hundreds of edges takes the sorting branch of its own."""
    n = 300
    ring = np.arange(1, n + 1)
    faces = np.stack([np.zeros(n, int), ring, np.roll(ring, -1)], axis=1)[::-1]
    topology = Topology(Mesh(np.zeros((n + 1, 3)), faces))
    assert sorted(np.unique(topology.face_count, return_counts=True)[1].tolist()) == [n, n]
    assert len(topology.boundary_walks[1]) == 2


@settings(max_examples=50, deadline=None)
@given(st.integers(0, 2**32 - 1))
def test_shells_are_the_connected_sets_of_faces(seed: int) -> None:
    rng = np.random.default_rng(seed)
    faces = np.array([rng.choice(14, 3, replace=False) for _ in range(12)])
    mesh = Mesh(rng.normal(size=(14, 3)), faces)
    label, count = Topology(mesh).shells
    sets = [{i} for i in range(len(faces))]
    for i, j in itertools.combinations(range(len(faces)), 2):
        if len(set(faces[i].tolist()) & set(faces[j].tolist())) >= 2:
            one = next(s for s in sets if i in s)
            two = next(s for s in sets if j in s)
            if one is not two:
                sets.remove(two)
                one |= two
    assert count == len(sets)
    assert {frozenset(np.flatnonzero(label == s).tolist()) for s in range(count)} == {
        frozenset(s) for s in sets
    }


def test_components_and_groups_agree() -> None:
    joins = np.array([[0, 1], [3, 4], [1, 2]])
    assert edge.components(joins, 6).tolist() == [0, 0, 0, 3, 3, 5]
    label, count = edge.group_edges(joins, 6)
    assert (label.tolist(), count) == ([0, 1, 0], 2)


def test_doubles_point_to_the_first_of_their_kind() -> None:
    mesh = b.doubled(b.doubled(sphere(), np.array([4, 7])), np.array([7]), against=True)
    topology = Topology(mesh)
    first = first_of_same(topology.faces, topology.order, topology.starts)
    n = 1280
    assert first[[n, n + 1, n + 2]].tolist() == [4, 7, 7]
    assert (first[:n] == np.arange(n)).all()


def test_heights_areas_and_volumes() -> None:
    points = np.array([[0, 0, 0], [4, 0, 0], [0, 3, 0], [2, 0, 0], [9, 9, 9]], dtype=float)
    faces = np.array([[0, 1, 2], [0, 1, 3], [4, 4, 0]], dtype=np.int32)
    assert least_heights(points, faces) == pytest.approx([12 / 5, 0, 0])
    for mesh in (box(), sound("torus"), sound("hollow box")):
        volume, area = total_sums(mesh.vertices, mesh.faces, np.array([100.0, -50, 3]))
        assert volume == pytest.approx(referee(mesh).volume, rel=1e-9)
        assert area == pytest.approx(referee(mesh).area, rel=1e-9)
    mesh = sound("hollow box")
    shell, count = Topology(mesh).shells
    volume, area, _ = shell_sums(mesh.vertices, mesh.faces, shell, count)
    assert volume == pytest.approx([1000, -64])
    assert area == pytest.approx([600, 96])


@pytest.mark.parametrize("name", ["box", "torus", "lantern housing", "half hull"])
def test_nearest_distances_are_those_of_libigl(name: str) -> None:
    mesh = sound(name)
    rng = np.random.default_rng(2)
    low, high = mesh.bounds
    points = rng.uniform(low - 5, high + 5, size=(400, 3))
    points[:50] = mesh.vertices[rng.integers(0, len(mesh.vertices), 50)]
    ours, face = Tree.of(mesh.vertices, mesh.faces).nearest(points)
    squared = igl.point_mesh_squared_distance(points, mesh.vertices, mesh.faces.astype(np.int64))
    assert ours == pytest.approx(np.sqrt(np.asarray(squared[0])), abs=1e-9)
    assert ((face >= 0) & (face < len(mesh.faces))).all()


def all_triangulations(i: int, k: int):
    if k - i < 2:
        yield []
        return
    for j in range(i + 1, k):
        for left in all_triangulations(i, j):
            for right in all_triangulations(j, k):
                yield [*left, (i, j, k), *right]


@pytest.mark.parametrize("seed", range(8))
def test_no_triangulation_of_a_ring_has_less_area(seed: int) -> None:
    rng = np.random.default_rng(seed)
    n = 8
    angle = np.linspace(0, 2 * np.pi, n, endpoint=False)
    ring = np.stack([np.cos(angle), np.sin(angle), rng.normal(size=n) * 0.4], axis=1)

    def area(triangles) -> float:
        t = ring[np.array(triangles)]
        return 0.5 * np.linalg.norm(np.cross(t[:, 1] - t[:, 0], t[:, 2] - t[:, 0]), axis=1).sum()

    none = np.zeros((n, n), dtype=np.bool_)
    best = min(area(t) for t in all_triangulations(0, n - 1))
    # the kernel prefers round triangles among nearly equal areas
    assert area(least_area(ring, none)) <= best * 1.02


def test_banned_chords_are_never_used() -> None:
    n = 9
    angle = np.linspace(0, 2 * np.pi, n, endpoint=False)
    ring = np.stack([np.cos(angle), np.sin(angle), np.cos(3 * angle) / 5], axis=1)
    banned = np.zeros((n, n), dtype=np.bool_)
    for i, j in ((0, 2), (2, 4), (0, 4), (1, 7)):
        banned[i, j] = True
    triangles = least_area(ring, banned)
    assert len(triangles) == n - 2
    used = {tuple(sorted((t[i], t[j]))) for t in triangles for i, j in ((0, 1), (1, 2), (0, 2))}
    assert not used & {(0, 2), (2, 4), (0, 4), (1, 7)}
    banned[:] = True
    assert len(least_area(ring, banned)) == 0


def test_depths_of_nested_and_neighbouring_shells() -> None:
    shells = [box(40), box(30), box(20), box(5, (50, 0, 0)), box(6, (20, 0, 0))]
    mesh = b.soup(*shells)
    label, count = Topology(mesh).shells
    depth, parent = shell_depths(mesh.vertices, mesh.faces, label, count)
    assert depth.tolist() == [0, 1, 2, 0, 0], "a piece pushed through the skin lies beside it"
    assert parent.tolist() == [-1, 0, 1, -1, -1]


def square(size: float, at=(0.0, 0.0), z: float = 0.0, turned: bool = False) -> np.ndarray:
    ring = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]) * size + np.array(at)
    ring = ring[::-1] if turned else ring
    return np.column_stack([ring, np.full(4, z)])


def loops_of(rings) -> BoundaryLoops:
    starts = np.concatenate([[0], np.cumsum([len(r) for r in rings])])
    points = np.concatenate(rings)
    groups = Groups(np.arange(len(points), dtype=np.int32), starts)
    return BoundaryLoops(points, groups, np.ones(len(rings), bool), np.zeros(len(rings), np.int32))


@pytest.mark.parametrize(
    ("what", "rings", "expected"),
    [
        ("a ring", [square(5), square(3, turned=True)], [(0, [1])]),
        ("the other order", [square(3, turned=True), square(5)], [(1, [0])]),
        ("both the same way round", [square(5), square(3)], [(0, []), (1, [])]),
        ("another plane", [square(5), square(3, z=1, turned=True)], [(0, []), (1, [])]),
        ("beside", [square(5), square(3, (20, 0), turned=True)], [(0, []), (1, [])]),
        ("two holes", [square(9), square(2, (4, 0), turned=True), square(1, (-4, 0), turned=True)],
         [(0, [1, 2])]),
        ("an island in a hole", [square(9), square(6, turned=True), square(3)],
         [(0, [1]), (2, [])]),
    ],
)  # fmt: skip
def test_flat_loops_nest(what: str, rings, expected) -> None:
    loops = loops_of(rings)
    assert sorted((o, sorted(i)) for o, i in loops.nested) == expected


def test_polygons_in_space() -> None:
    ring = square(2, z=7)
    assert newell(ring) == pytest.approx([0, 0, 32])
    bent = ring.copy()
    bent[0, 2] += 1
    loops = loops_of([ring, bent, ring[:2]])
    assert loops.flat.tolist() == [True, False, False]
    assert loops.areas[0] == 16
    assert loops.extents == pytest.approx([np.sqrt(32), np.sqrt(33), 4])
    assert loops.edges.tolist() == [4, 4, 2]
    assert loops.take(np.array([2])).lines(np.array([0])).tolist() == [[8, 9], [9, 8]]


@pytest.mark.parametrize("n", [3, 4, 5, 9, 40])
def test_polygons_are_divided_without_loss(n: int) -> None:
    angle = np.linspace(0, 2 * np.pi, n, endpoint=False)
    star = np.where(np.arange(n) % 2 == 0, 10, 10 if n < 5 else 4)
    points = np.stack([star * np.cos(angle), star * np.sin(angle), 0 * angle], axis=1)
    faces = triangulate(points, np.array([0, n]), np.arange(n))
    assert len(faces) == n - 2
    assert Mesh(points, faces).area == pytest.approx(newell(points)[2] / 2)
    assert len(np.unique(faces)) == n
