"""How two solids lie to each other: the least gap, all round it, or what they share."""

import igl
import numpy as np
import pytest
import trimesh
from caulkcore import Mesh
from caulkcore.mesh.concatenate import concatenate
from caulkcore.mesh.simple_solids import cuboid
from caulkcore.solid.clearance import clearance
from makers import manifold_of, sphere


def _around(inner: Mesh, outside: Mesh) -> Mesh:
    """A solid with another one's shape as its hollow."""
    return concatenate([outside, Mesh(inner.vertices, inner.faces[:, ::-1])])


def _block_in_seat() -> tuple[Mesh, Mesh]:
    hollow = cuboid((10.0, 10.0, 10.0), at=(2.0, 2.0, 2.0))
    block = cuboid((8.0, 8.0, 8.0), at=(2.5, 3.0, 3.0))
    return block, _around(hollow, cuboid((14.0, 14.0, 14.0)))


def _ball_in_ball() -> tuple[Mesh, Mesh]:
    return sphere(9.0, 4), _around(sphere(10.0, 4), cuboid((24.0, 24.0, 24.0), at=(-12, -12, -12)))


@pytest.mark.parametrize(
    ("make", "area", "least", "most"),
    [
        (_block_in_seat, 6 * 64.0, 0.5, 1.5),
        (_ball_in_ball, 4 * np.pi * 81, 1.0, 1.0),
        (lambda: (cuboid(), cuboid(at=(10.25, 2.0, 3.0))), 8 * 7.0, 0.25, 0.25),
        (lambda: (cuboid(), cuboid((30.0, 30.0, 5.0), at=(-5, -5, -7.0))), 100.0, 2.0, 2.0),
    ],
)
def test_a_gap_is_known_all_round(make, area: float, least: float, most: float) -> None:
    one, other = make()
    for pair in ((one, other), (other, one)):
        found = clearance(*pair)
        assert found.shared == 0.0
        assert found.gap == pytest.approx(least, rel=0.01)
        assert found.facing is not None
        assert found.facing.area == pytest.approx(area, rel=0.02)
        assert found.facing.most == pytest.approx(most, rel=0.01)
        assert found.gap <= found.facing.mean <= found.facing.most
    # another library's distances, of samples all over the smaller one's skin
    smaller = min((one, other), key=lambda mesh: mesh.size.prod())
    larger = other if smaller is one else one
    points = trimesh.Trimesh(smaller.vertices, smaller.faces).sample(20_000, seed=1)
    squared = igl.point_mesh_squared_distance(
        np.ascontiguousarray(points), larger.vertices, larger.faces.astype(np.int64)
    )[0]
    assert found.gap <= np.sqrt(squared.min()) + 1e-9
    if found.facing.area == pytest.approx(smaller.area, rel=0.02):
        assert found.facing.mean == pytest.approx(np.sqrt(squared).mean(), rel=0.01)
        assert found.facing.most == pytest.approx(np.sqrt(squared.max()), rel=0.02)


def test_the_gap_is_the_same_however_the_faces_are_divided() -> None:
    block, seat = _block_in_seat()
    coarse = clearance(block, seat).facing
    finer = trimesh.Trimesh(block.vertices, block.faces).subdivide().subdivide().subdivide()
    fine = clearance(Mesh(np.array(finer.vertices), np.array(finer.faces)), seat).facing
    assert coarse is not None
    assert fine is not None
    assert fine.area == pytest.approx(coarse.area, rel=1e-3)
    assert fine.mean == pytest.approx(coarse.mean, rel=5e-3)
    assert fine.most == pytest.approx(coarse.most, rel=1e-6)


def test_corner_to_corner_there_is_no_gap_all_round() -> None:
    found = clearance(cuboid(), cuboid(at=(11.0, 11.0, 11.0)))
    assert found.gap == pytest.approx(np.sqrt(3.0))
    assert found.facing is None


def test_what_two_solids_share_is_told_with_its_depth() -> None:
    one, other = cuboid(), cuboid(at=(9.0, 2.0, 3.0))
    found = clearance(one, other)
    assert found.shared == pytest.approx((manifold_of(one) ^ manifold_of(other)).volume())
    assert found.depth == pytest.approx(1.0)
    assert found.facing is None
