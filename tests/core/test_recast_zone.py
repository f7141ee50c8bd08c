"""Recasting a zone: everything outside untouched, the seam tight whatever was inside."""

import numpy as np
import pytest
from caulkcore import Mesh, OperationRefused
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.remesh.estimate import MeshMeasures
from caulkcore.remesh.voxel_remesh_region import zones
from caulkcore.repair.nonmanifold import split_nonmanifold_edges
from caulkjob import examine, mend, mending
from caulkjob.account import Account
from caulkjob.cost import cost_text
from caulkjob.operations import cost_of, run_operation
from caulkjob.remedies.recasting import recast_zone
from collection import broken, solid
from harbour import breakers as b
from makers import assert_tight_by_referees, box, sphere
from soups import soup

SHARES = {
    "box": 0.18,
    "ball": 0.12,
    "ring": 0.18,
    "gear": 0.18,
    "pump body": 0.18,
    "shell": 0.12,
    "lattice": 0.18,
}
"""Solids, and the reach of what is recast of each, as a share of its longest side."""


def corner_of(mesh: Mesh, share: float) -> list[float]:
    """A spot round one of its vertices."""
    return [*mesh.vertices[len(mesh.vertices) // 3].tolist(), share * float(mesh.size.max())]


def smashed(mesh: Mesh, spot: list[float], seed: int) -> Mesh:
    """Vertices shaken, faces turned and gone and stray ones put in, all well within a spot."""
    rng = np.random.default_rng(seed)
    middle, reach = np.array(spot[:3]), spot[3]
    near = np.linalg.norm(mesh.vertices - middle, axis=1) < 0.6 * reach
    vertices, faces = mesh.vertices.copy(), mesh.faces.copy()
    vertices[near] += rng.normal(0, 0.01 * reach, (near.sum(), 3))
    within = near[faces].all(axis=1)
    turned = within & (rng.random(len(faces)) < 0.2)
    faces[turned] = faces[turned, ::-1]
    faces = faces[~(within & (rng.random(len(faces)) < 0.15))]
    stray = middle + rng.uniform(-0.5 * reach, 0.5 * reach, (30, 1, 3))
    stray = (stray + rng.normal(0, 0.1 * reach, (30, 3, 3))).reshape(-1, 3)
    return b.soup(Mesh(vertices, faces), Mesh(stray, np.arange(90).reshape(-1, 3)))


def corners(mesh: Mesh) -> set[bytes]:
    """Each face by its corners, the least first."""
    tri = mesh.vertices[mesh.faces]
    first = np.lexsort(tri.transpose(2, 0, 1)[::-1], axis=-1)[:, 0]
    turned = (first[:, None] + np.arange(3)) % 3
    return {row.tobytes() for row in np.take_along_axis(tri, turned[..., None], axis=1)}


@pytest.mark.parametrize("broken_too", [False, True])
@pytest.mark.parametrize("name", SHARES)
def test_it_is_tight_and_the_rest_is_untouched(name: str, broken_too: bool) -> None:
    mesh = solid(name)
    spot = corner_of(mesh, SHARES[name])
    given = smashed(mesh, spot, list(SHARES).index(name)) if broken_too else mesh
    outcome = recast_zone(given, [spot])
    assert_tight_by_referees(outcome.mesh, mesh.volume, 2e-3)
    report = examine(outcome.mesh)
    assert not report.leaks
    assert report.shells == examine(mesh).shells
    step = outcome.numbers["detail_mm"]
    low, high = zones([spot])[0] + [[-1e-9], [1e-9]]
    tri = mesh.vertices[mesh.faces]
    apart = ((tri.max(axis=1) < low) | (tri.min(axis=1) > high)).any(axis=1)
    assert apart.any() or name == "box"
    assert corners(Mesh(mesh.vertices, mesh.faces[apart])) <= corners(outcome.mesh)
    if not broken_too:
        assert Account.between(mesh, outcome.mesh).max_deviation_mm < step
        assert outcome.numbers["lost_share"] == 0


def test_several_zones_at_once() -> None:
    mesh = solid("pump body")
    spots = [[*mesh.vertices[i].tolist(), 4.0] for i in (0, 700, 1400)]
    outcome = recast_zone(mesh, spots, detail=0.2)
    assert outcome.numbers["zones"] == len(zones(spots))
    assert_tight_by_referees(outcome.mesh, mesh.volume, 1e-3)


def test_a_small_zone_beside_a_large_one() -> None:
    outcome = recast_zone(box(20), [[10, 10, 10, 6.0], [-10, -10, -10, 0.5]])
    assert outcome.numbers["zones"] == 2
    assert_tight_by_referees(outcome.mesh, 8000.0, 1e-3)


def test_a_small_fault_does_not_make_a_large_one_costly(monkeypatch: pytest.MonkeyPatch) -> None:
    asked = []

    def told(mesh: Mesh, name: str, given: dict, *more: object, **named: object):
        if name == "recast-zone":
            asked.extend(given["region"])
            raise OperationRefused("not now")
        return run_operation(mesh, name, given, *more, **named)

    monkeypatch.setattr(mending, "run_operation", told)
    mend(soup(69631))
    reach = np.array(asked)[:, 3]
    # the smallest says how fine all of it is drawn
    assert len(reach) == 2
    assert reach.min() >= 0.19 * reach.max()


def test_spots_that_meet_are_one_zone() -> None:
    assert len(zones([[0, 0, 0, 2], [10, 0, 0, 2], [3, 0, 0, 2]])) == 2
    # the third joins what lay apart
    assert len(zones([[0, 0, 0, 2], [6, 0, 0, 2], [3, 0, 0, 2]])) == 1


def test_pieces_without_a_part_in_the_zone_stay() -> None:
    far = Mesh(sphere(4).vertices + 100.0, sphere(4).faces)
    outcome = recast_zone(b.soup(box(), far), [[5, 5, 5, 3]])
    assert corners(far) <= corners(outcome.mesh)
    assert examine(outcome.mesh).shells == 2


@pytest.mark.parametrize(
    ("mesh", "region", "detail", "words"),
    [
        (box(), None, None, "Pick where"),
        (Mesh(box().vertices, box().faces[1:]), [[5, 5, 5, 2]], None, "not closed: 3 edges"),
        (
            b.soup(box(), box((4, 4, 12), (4, 4, -2))),
            [[5, 5, 5, 2]],
            None,
            "Outside the zone faces cross",
        ),
        (sphere(), [[20, 0, 0, 10]], 0.005, "would take more than"),
        (box(), [[5, 5, 5, 0.3]], 0.1, "is too coarse for the zone; 0.05"),
    ],
)
def test_what_cannot_be_recast_is_refused(
    mesh: Mesh, region: list[list[float]] | None, detail: float | None, words: str
) -> None:
    with pytest.raises(OperationRefused, match=words):
        recast_zone(mesh, region, detail=detail)


def test_a_zone_as_small_as_a_hair() -> None:
    assert_tight_by_referees(recast_zone(box(), [[5, 5, 5, 1e-3]]).mesh, 1000.0)


def test_where_nothing_is_nothing_is_done() -> None:
    mesh = box()
    outcome = recast_zone(mesh, [[50, 50, 50, 2]])
    assert outcome.mesh is mesh
    assert outcome.left == ("There is no surface to recast.",)


def test_the_cost_needs_to_know_where() -> None:
    measures = MeshMeasures(1000, 600.0, 10.0)
    with pytest.raises(OperationRefused, match="Pick where"):
        cost_of("recast-zone", {}, measures)
    told = cost_of("recast-zone", {"region": [[0, 0, 0, 4.0]]}, measures)
    assert told is not None
    assert cost_text(told).startswith("At a detail size of 0.1 mm")


def test_the_plan_recasts_a_zone_where_nothing_exact_helped() -> None:
    outcome = mend(broken("tube", ("twin",))[0])
    assert "recast-zone" in [s.operation for s in outcome.steps]
    assert outcome.account.unchanged_faces > 0
    assert_tight_by_referees(outcome.mesh)
    # but joins nothing that is to stay apart
    steps = mend(broken("tube", ("twin",))[0], unite=False).steps
    assert "recast-zone" not in [s.operation for s in steps]


@pytest.mark.parametrize(
    ("name", "ways"), [("gear", ("large hole",)), ("comb", ("pushed through",))]
)
def test_the_plan_leaves_what_a_person_must_answer(name: str, ways: tuple[str, ...]) -> None:
    outcome = mend(broken(name, ways)[0])
    assert outcome.refused is not None
    assert "recast-zone" not in [s.operation for s in outcome.steps]


def blocks(cells: list[tuple[int, int, int]]) -> Mesh:
    """The skin of some unit cubes."""
    there, quads = set(cells), []
    for cell in cells:
        for d in range(3):
            for side in (0, 1):
                beside = list(cell)
                beside[d] += 2 * side - 1
                if tuple(beside) in there:
                    continue
                ring = np.array([[0, 0], [1, 0], [1, 1], [0, 1]][:: 1 if side else -1])
                quad = np.full((4, 3), float(side))
                quad[:, [(d + 1) % 3, (d + 2) % 3]] = ring
                quads.append(quad + cell)
    points, index = np.unique(np.concatenate(quads), axis=0, return_inverse=True)
    corner = index.reshape(-1, 4)
    return Mesh(points, np.concatenate([corner[:, [0, 1, 2]], corner[:, [0, 2, 3]]]))


def test_an_edge_whose_ends_cannot_be_parted_is_bent() -> None:
    """Two pillars that touch along an edge, between a floor and a roof that join them."""
    slab = [(i, j) for i in (0, 1) for j in (0, 1)]
    mesh = blocks(
        [*((i, j, 0) for i, j in slab), (0, 0, 1), (1, 1, 1), *((i, j, 2) for i, j in slab)]
    )
    assert examine(mesh).leaks == {"over-shared-edges": 1}
    outcome = split_nonmanifold_edges(Diagnosis(mesh))
    assert outcome.numbers["bends"] == 1
    assert_tight_by_referees(outcome.mesh, 10.0, 1e-4)
