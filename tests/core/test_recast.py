import itertools

import igl
import numpy as np
import pytest
from caulkcore import Mesh, OperationRefused
from caulkcore.progress import SILENT
from caulkcore.remesh.decimate import decimate_within
from caulkcore.remesh.dual_contouring import Crossed, dual_contour
from caulkcore.remesh.estimate import MeshMeasures
from caulkcore.remesh.lost_surface import lost_surface
from caulkcore.remesh.voxel_remesh import usual_detail, voxel_remesh
from caulkcore.spatial.winding_number import WindingNumber
from caulkcore.thickness.smallest_feature import smallest_feature
from caulkjob import examine, mend
from caulkjob.account import Account
from caulkjob.cost import cost_text
from caulkjob.operations import cost_of, run_operation
from caulkjob.remedies.recasting import recast
from collection import WAYS, solid
from harbour import breakers as b
from makers import assert_tight_by_referees, box, sphere
from test_thickness import sheet


def voxel(mesh: Mesh, along: int) -> float:
    return float(mesh.size.max()) / along


@pytest.mark.parametrize("name", ["box", "ball", "ring", "gear", "pump body", "shell", "lattice"])
def test_a_sound_solid_keeps_its_shape_and_its_edges(name: str) -> None:
    mesh = solid(name)
    step = voxel(mesh, 120)
    outcome = recast(mesh, detail=step)
    assert_tight_by_referees(outcome.mesh, mesh.volume, 2e-3)
    assert not examine(outcome.mesh).leaks
    assert Account.between(mesh, outcome.mesh).max_deviation_mm < 1.2 * step
    assert outcome.numbers["lost_share"] == 0


def test_a_box_comes_out_with_twelve_faces() -> None:
    assert len(recast(solid("box"), detail=0.2).mesh.faces) == 12


@pytest.mark.parametrize(
    ("name", "way", "share"),
    [
        ("ball", "small hole", 0.01),
        ("pump body", "pinholes", 0.002),
        ("lattice", "shaken", 0.002),
        ("hilly lump", "coarse grid", 0.002),
        ("half hull", "girdle", None),
        ("comb", "faces turned", None),
    ],
)
def test_soups_become_solids(name: str, way: str, share: float | None) -> None:
    mesh = solid(name)
    outcome = recast(WAYS[way].break_(mesh, np.random.default_rng(5)), detail=voxel(mesh, 100))
    assert_tight_by_referees(outcome.mesh, *([mesh.volume, share] if share else []))


def test_pieces_that_overlap_become_one() -> None:
    two = b.soup(box(), Mesh(box().vertices + 4.0, box().faces))
    outcome = recast(two, detail=0.1)
    assert_tight_by_referees(outcome.mesh, 2000 - 6**3, 1e-3)
    assert examine(outcome.mesh).shells == 1


def test_what_is_lost_is_told_and_kept_out_of_the_plan() -> None:
    sail = Mesh(sheet(8).vertices + np.array([30.0, 0, 0]), sheet(8).faces)
    mesh = b.soup(sphere(), sail)
    outcome = recast(mesh, detail=0.5)
    share = sail.area / mesh.area
    assert outcome.numbers["lost_share"] == pytest.approx(share, rel=0.2)
    assert "nothing of the new skin near it" in outcome.left[0]
    assert mend(mesh, recast=0.5).refused is not None
    assert lost_surface(sphere(), sphere(), 0.1).share == 0


def test_what_a_wedge_loses_is_told_as_a_length_and_keeps_it_out_of_the_plan() -> None:
    block = box((60.0, 20.0, 3.0))
    vertices = block.vertices.copy()
    edge = (vertices[:, 0] == vertices[:, 0].max()) & (vertices[:, 2] == vertices[:, 2].max())
    vertices[edge, 2] = vertices[:, 2].min() + 0.01
    outcome = voxel_remesh(Mesh(vertices, block.faces), detail=0.5)
    short = vertices[:, 0].max() - outcome.mesh.vertices[:, 0].max()
    assert short > 5.0
    assert outcome.numbers["lost_mm"] == pytest.approx(short, rel=0.01)
    assert outcome.numbers["lost_share"] > 0.05  # of 120 mm of skin 2 times 5 and more
    assert "ends up to 6.2 mm from it" in recast(Mesh(vertices, block.faces), detail=0.5).left[0]


def test_the_plan_recasts_only_what_is_not_tight_otherwise() -> None:
    mesh = WAYS["small hole"].break_(sphere(), np.random.default_rng(1))
    assert "recast" not in [s.operation for s in mend(mesh, recast=1.0).steps]
    # a third skin through the middle of two: nothing says what is inside
    face = sphere().faces
    odd = Mesh(sphere().vertices, np.vstack([face, face[40:900, ::-1], [[0, 5, 11]]]))
    outcome = mend(odd, recast=0.5)
    if outcome.refused is None:
        assert_tight_by_referees(outcome.mesh)


@pytest.mark.parametrize("width", [0.4, 0.6, 0.9])
def test_a_slit_narrower_than_the_gap_is_filled(width: float) -> None:
    beside = Mesh(box().vertices + np.array([10.0 + width, 0, 0]), box().faces)
    two = b.soup(box(), beside)
    filled = recast(two, detail=0.2, gap=1.0).mesh
    assert_tight_by_referees(filled, 2000 + 100 * width, 4e-3)
    assert examine(filled).shells == 1
    assert examine(recast(two, detail=0.2, gap=width / 2).mesh).shells == 2


@pytest.mark.parametrize("name", ["ball", "gear", "lattice"])
def test_closing_gaps_leaves_what_has_none(name: str) -> None:
    mesh = solid(name)
    step = voxel(mesh, 120)
    closed = recast(mesh, detail=step, gap=3 * step).mesh
    assert_tight_by_referees(closed, mesh.volume, 3e-3)
    # only inner edges are rounded, by what a ball of that size leaves there
    assert Account.between(mesh, closed).max_deviation_mm < 1.5 * step


def test_a_gap_too_wide_for_the_detail_is_refused() -> None:
    with pytest.raises(OperationRefused, match="10 times the detail size at most"):
        recast(box(), detail=0.1, gap=1.1)


@pytest.mark.parametrize(
    ("name", "smallest"),
    [("plate", 1.0), ("thin tube", 0.5), ("gauge lid", 2.0), ("ball", None), ("lattice", None)],
)
def test_the_smallest_feature(name: str, smallest: float | None) -> None:
    found = smallest_feature(solid(name))
    assert found == (None if smallest is None else pytest.approx(smallest, rel=0.01))


@pytest.mark.parametrize(("smallest", "share"), [(None, 200), (9.0, 200), (0.6, 333.3), (0.1, 600)])
def test_the_usual_detail_is_half_the_smallest_feature(
    smallest: float | None, share: float
) -> None:
    assert usual_detail(100.0, smallest) == pytest.approx(100.0 / share, rel=1e-3)


def test_the_cost_tells_the_detail_that_is_taken() -> None:
    mesh = solid("thin tube")
    measures = MeshMeasures(len(mesh.faces), mesh.area, 30.0, smallest=smallest_feature(mesh))
    told = cost_of("recast", {}, measures)
    assert told is not None
    assert told.detail == recast(mesh).numbers["detail_mm"]
    assert cost_text(told).startswith("At a detail size of 0.1 mm it takes")


@pytest.mark.parametrize("detail", [1e-4, 0.011])
def test_more_than_fits_is_refused_beforehand(detail: float) -> None:
    large = Mesh(sphere().vertices * 20, sphere().faces)
    with pytest.raises(OperationRefused, match=r"is about the least|must be from"):
        run_operation(large, "recast", {"detail": detail}, SILENT)


@pytest.mark.parametrize("seed", range(6))
def test_the_contour_of_any_field_is_closed(seed: int) -> None:
    """Noise, in which every way of a cell's corners to be inside turns up."""
    rng = np.random.default_rng(seed)
    shape = (14, 12, 13)
    field = np.zeros(shape, dtype=bool)
    field[1:-1, 1:-1, 1:-1] = rng.random((12, 10, 11)) < rng.uniform(0.2, 0.8)
    flat = field.ravel()
    edges = []
    for d, stride in enumerate((12 * 13, 13, 1)):
        low = np.arange(flat.size - stride)
        cut = low[flat[low] != flat[low + stride]]
        edges.append(3 * cut + d)
    edge = np.concatenate(edges)
    node, d = edge // 3, edge % 3
    point = np.stack(np.unravel_index(node, shape), axis=1).astype(float)
    point[np.arange(len(edge)), d] += rng.uniform(0.1, 0.9, len(edge))
    crossed = Crossed(edge, point, rng.normal(size=(len(edge), 3)))
    sharp, mean, faces = dual_contour(crossed, lambda nodes: flat[nodes], shape)
    sides = faces[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2)
    ways, count = np.unique(sides, axis=0, return_counts=True)
    back, again = np.unique(sides[:, ::-1], axis=0, return_counts=True)
    assert np.array_equal(ways, back)
    assert np.array_equal(count, again)
    assert np.all((sharp >= np.floor(mean - 1e-9)) & (sharp <= np.ceil(mean + 1e-9)))
    # each node has the surface round it as the field says
    nodes = np.array(list(itertools.product(*map(range, shape))), dtype=float)
    around = WindingNumber(mean, faces).at(nodes)
    assert np.array_equal(np.rint(around).astype(bool), flat)


def test_winding_numbers_are_those_of_the_slow_way() -> None:
    mesh = solid("hilly lump")
    holed = Mesh(mesh.vertices, mesh.faces[400:])
    points = np.random.default_rng(2).uniform(*mesh.bounds * 1.2, (3000, 3))
    slow = igl.winding_number(holed.vertices, holed.faces.astype(np.int64), points)
    assert np.abs(WindingNumber(holed.vertices, holed.faces).at(points) - slow).max() < 0.04


def test_fewer_triangles_stay_within_the_deviation() -> None:
    mesh = sphere(20, 6)
    fewer = decimate_within(Mesh(mesh.vertices.astype(np.float32), mesh.faces), 0.1)
    assert fewer is not None
    assert len(fewer.faces) < len(mesh.faces) / 10
    assert Account.between(mesh, fewer).max_deviation_mm < 0.15
    assert_tight_by_referees(fewer, mesh.volume, 0.02)
    assert decimate_within(Mesh(mesh.vertices, mesh.faces[1:]), 0.02) is None
