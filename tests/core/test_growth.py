"""Time grows gently with what is given: no step takes sixteen times as long for four times as much.

Counted in processor time of this process, the best of some runs: other work on the machine does
not matter to it. Four times as much may take nine times as long, which no quadratic step stays
within.
"""

import time
from collections.abc import Callable

import numpy as np
import pytest
from caulkcore import Mesh
from caulkcore.arrangement.arrange import arrange
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.repair.bridge import bridge_boundary_loops
from caulkcore.repair.partial_change import keep_what_helped
from caulkcore.spatial.near_groups import near_groups
from caulkjob import mend
from harbour import breakers as b
from makers import assert_tight_by_referees, sphere
from scipy.sparse.csgraph import connected_components

_MOST = 9.0
"""Times as long, for four times as much."""
_RUNS = 2


def processor_time(work: Callable[[], object]) -> float:
    """The least of some runs."""
    taken = []
    for _ in range(_RUNS):
        start = time.process_time()
        work()
        taken.append(time.process_time() - start)
    return min(taken)


def seam(n: int, *, missing: bool) -> Mesh:
    """A tetrahedron with one edge cut into n parts on one side, and flat faces between."""
    edge = [[0, 0, 10 * i / n] for i in range(1, n)]
    points = np.array([[0, 0, 0], [0, 0, 10], [10, 0, 0], [0, 10, 0], *edge], float)
    along = [0, *range(4, 3 + n), 1]
    flat = [[0, along[i], along[i + 1]] for i in range(1, n)]
    if missing:
        del flat[n // 2]
    fan = [[3, along[i + 1], along[i]] for i in range(n)]
    faces = np.array([[0, 1, 2], *flat, *fan, [0, 2, 3], [2, 1, 3]])
    return Mesh(points, faces[:, ::-1])


def plate(cells: int, shift: float = 0.0) -> Mesh:
    """A plate 40 x 40 x 2 whose top and bottom are a grid."""
    line = np.linspace(0, 40, cells + 1)
    x, y = np.meshgrid(line, line, indexing="ij")
    n = cells + 1
    top = np.stack([x, y, 0 * x + 2], axis=-1).reshape(-1, 3)
    i, j = (one.ravel() for one in np.meshgrid(np.arange(cells), np.arange(cells), indexing="ij"))
    a = i * n + j
    sides = np.concatenate([np.stack([a, a + n, a + n + 1], 1), np.stack([a, a + n + 1, a + 1], 1)])
    steps = np.arange(cells)
    rim = np.concatenate([steps * n, cells * n + steps, (cells - steps) * n + cells, cells - steps])
    after = np.roll(rim, -1)
    wall = np.concatenate(
        [np.stack([rim, rim + n * n, after + n * n], 1), np.stack([rim, after + n * n, after], 1)]
    )
    points = np.concatenate([top, top * [1, 1, 0]]) + np.array([shift * 13.37, shift * 7.77, 0])
    return Mesh(points, np.concatenate([sides, sides[:, ::-1] + n * n, wall]))


def gaps(n: int) -> Mesh:
    """So many pairs of open boxes that face each other."""
    tray = b.without(sphere(1.0, 1), np.flatnonzero(b.middles(sphere(1.0, 1))[:, 2] > 0.3))
    lid = Mesh(tray.vertices * [1, 1, -1] + [0, 0, 1.0], tray.faces[:, ::-1])
    side = int(np.sqrt(n))
    both = [
        Mesh(one.vertices + np.array([5 * (k % side), 5 * (k // side), 0]), one.faces)
        for k in range(n)
        for one in (tray, lid)
    ]
    return b.soup(*both)


def _crowd(n: int) -> Callable[[], object]:
    points = np.random.default_rng(0).uniform(-1e-3, 1e-3, (n, 3))
    return lambda: near_groups(points, np.full(n, 0.01), 0.01)


def _peel(n: int) -> Callable[[], object]:
    mesh = seam(n, missing=True)
    return lambda: Diagnosis(mesh).unneeded_degenerate_faces


def _coplanar(n: int) -> Callable[[], object]:
    both = b.soup(plate(n), plate(n, 1.0))
    return lambda: arrange(both.vertices, both.faces)


def _bridges(n: int) -> Callable[[], object]:
    mesh = gaps(n)
    return lambda: bridge_boundary_loops(Diagnosis(mesh))


def _places(n: int) -> Callable[[], object]:
    ball = sphere(20, 5)
    rng = np.random.default_rng(0)
    at = rng.choice(len(ball.faces), 2 * n, replace=False)
    before = Diagnosis(b.without(ball, at[:n]))
    after = b.without(ball, at[n:])
    return lambda: keep_what_helped(before, Mesh(after.vertices, after.faces))


@pytest.mark.parametrize(
    ("what", "make", "n", "four_times"),
    [
        ("points crowded within a hair", _crowd, 10_000, 40_000),
        ("flat faces set aside beside a gap in their seam", _peel, 4_000, 16_000),
        ("planes that lie on each other", _coplanar, 18, 36),
        ("gaps to be bridged", _bridges, 64, 256),
        ("places put back", _places, 200, 800),
    ],
)
def test_time_grows_gently(what: str, make, n: int, four_times: int) -> None:
    work, more = make(n), make(four_times)
    work()
    more()
    taken, longer = processor_time(work), processor_time(more)
    assert longer < _MOST * max(taken, 2e-3), f"{what}: {taken:.3f} s, then {longer:.3f} s"


@pytest.mark.parametrize("seed", range(20))
def test_near_groups_are_those_of_all_pairs(seed: int) -> None:
    rng = np.random.default_rng(seed)
    points = rng.normal(size=(int(rng.integers(2, 200)), 3)) * rng.choice([0.3, 1, 3])
    reach = np.where(rng.random(len(points)) < 0.6, 0.5, 0.5 * rng.random(len(points)))
    apart = np.linalg.norm(points[:, None] - points[None], axis=2)
    near = apart <= np.minimum(reach[:, None], reach[None])
    _, label = connected_components(near, directed=False)
    expected = [np.flatnonzero(label == one).min() for one in label]
    assert near_groups(points, reach, 0.5).tolist() == expected


def test_flat_faces_in_a_row_are_taken_out_and_the_solid_stays() -> None:
    for missing in (False, True):
        mesh = seam(40, missing=missing)
        assert not len(Diagnosis(mesh).unneeded_degenerate_faces), "a gap sets no others aside"
        done = mend(mesh)
        assert done.refused is None
        assert_tight_by_referees(done.mesh, 1000 / 6, 1e-6)
        assert not len(Diagnosis(done.mesh).degenerate_faces)
