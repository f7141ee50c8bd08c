"""Fewer triangles for the same shape: edges collapsed, the least noticed first."""

from dataclasses import dataclass

import numpy as np

from ..diagnose.intersections import intersecting_faces
from ..mesh._corner_kernels import vertex_corners
from ..mesh.arrays import Array
from ..mesh.renumber import renumbered
from ..mesh.sharp_edges import smooth_half_edges
from ..mesh.topology import Topology
from ..mesh.triangle_mesh import Mesh
from ..outcome import Outcome, Skipped
from ..progress import SILENT, Progress
from ..spatial.box_tree import Tree, morton_codes
from ..spatial.hausdorff import faces_beyond
from . import _decimate_kernels as kernel
from .estimate import Estimate, MeshMeasures

LEAST_FACES = 4
"""No closed surface has fewer."""
_SECONDS = 2e-6
"""For each face, on two cores, to a count."""
_MEASURED_SECONDS = 3.5e-5
"""The same within a deviation, which is measured after each round."""
_GB = 6e-7
"""Memory for each face."""
_ONE_BLOCK = 16_000
"""Up to so many vertices are collapsed in one block: dealing them out costs more than it gains."""
_BLOCK = 3_000
"""Vertices to a block otherwise; a block's share of the heap stays in a core's cache."""
_LAST_SHARE = 0.06
"""When a round would collapse less than this share of the vertices, the last one takes all in
one."""
_ROUNDS = 60
"""Rounds of collapsing, blocks placed differently each time."""
_SAMPLES = 10_000
"""Edges whose error is looked at to tell what a round may collapse."""
_TRIES = 5
"""Times that what came to harm is held and the rest collapsed again."""
_GOALS = 5
"""Counts aimed at one after the other, when fewer would come to harm all over."""
_SHARP = 30.0
"""Edges bent by more degrees are sharp, where those are to stay."""
_AIM = 0.5
"""Share of the deviation allowed that the quadric error may come to; the rest is measured."""
_AIM_UNMEASURED = 0.2
"""The same where nothing is measured afterwards."""
_MOST_HELD = 0.1
"""Where more than this share of the vertices would have to be held, less is aimed at instead."""
_LOWER_AIM = 0.5
"""By how much less."""
_OFFSETS = (0.0, 0.618034, 0.236068, 0.854102)
"""Where blocks begin each round, as shares of their size: multiples of the golden section, so that
no two rounds share a border."""


def decimate(
    mesh: Mesh,
    *,
    target_faces: int = LEAST_FACES,
    max_deviation: float | None = None,
    keep_sharp_edges: bool = False,
    keep: Array | None = None,
    progress: Progress = SILENT,
) -> Outcome:
    """Collapse edges until so few faces are left, or the surface would move too far.

    Edges are collapsed in the order of their quadric error. Shells stay joined as they were, none
    vanishes, and open rims stay where they are. Where faces would intersect that did not, or the
    surface would move further than allowed, measured both ways, the original is kept. What does
    not move keeps its coordinates; what does lies on float32.

    Parameters
    ----------
    mesh : Mesh
    target_faces : int
        How many to leave at least.
    max_deviation : float, optional
        How far the surface may move, mm; measured at corners and middles of faces and edges.
    keep_sharp_edges : bool
        Whether vertices on edges sharper than 30 degrees stay as they are.
    keep : ndarray, shape (n,), bool, optional
        Vertices that stay as they are.
    progress : Progress

    Returns
    -------
    Outcome
        Skipped: ``nothing-to-collapse``; ``target-not-reached`` with ``faces``, those too many.

    References
    ----------
    Garland and Heckbert 1997, *Surface simplification using quadric error metrics*.

    Examples
    --------
    >>> grid = np.array([[x, y, 0.0] for x in range(4) for y in range(4)])
    >>> corners = [(4 * x + y, 4 * x + y + 4, 4 * x + y + 5, 4 * x + y + 1)
    ...            for x in range(3) for y in range(3)]
    >>> faces = [f for a, b, c, d in corners for f in ((a, b, c), (a, c, d))]
    >>> len(decimate(Mesh(grid, faces), target_faces=12).mesh.faces) < 18
    True
    """
    source = _Source.of(mesh, keep_sharp_edges, keep)
    goals = [target_faces]
    while max_deviation is None and len(goals) < _GOALS:
        goals.append(int(np.sqrt(goals[-1] * len(mesh.faces))))
    for i, goal in enumerate(goals):
        span = progress.span(i / _GOALS, (i + 1) / _GOALS)
        collapsed = _collapse_and_restore(source, goal, max_deviation, span)
        if collapsed is None:
            continue
        after = len(collapsed.faces)
        if after == len(mesh.faces):
            break
        skipped: tuple[Skipped, ...] = ()
        if after > target_faces + 1 and max_deviation is None:
            skipped = (Skipped("target-not-reached", {"faces": after - target_faces}),)
        result = Mesh(collapsed.vertices, collapsed.faces).compact()
        return Outcome(result, {"faces": after}, skipped)
    return Outcome(mesh, skipped=(Skipped("nothing-to-collapse"),))


def decimate_within(mesh: Mesh, deviation: float) -> Mesh | None:
    """Collapse edges within about a deviation by the quadrics, which is not measured.

    Parameters
    ----------
    mesh : Mesh
        Its vertices on float32.
    deviation : float
        mm.

    Returns
    -------
    Mesh or None
        None if it intersects itself, or if `mesh` is not closed and manifold.
    """
    source = _Source.of(mesh, False)
    if source.held.any():
        return None
    furthest = (_AIM_UNMEASURED * deviation) ** 2
    collapsed = _collapse(source, source.held, LEAST_FACES, furthest, SILENT)
    if len(intersecting_faces(collapsed.vertices, collapsed.faces)):
        return None
    return Mesh(collapsed.vertices, collapsed.faces).compact()


def estimate_decimate(
    measures: MeshMeasures, target_faces: int, max_deviation: float | None = None
) -> Estimate:
    """What `decimate` will take; within a deviation nobody knows how many faces it leaves.

    Parameters
    ----------
    measures : MeshMeasures
    target_faces : int
    max_deviation : float, optional
        mm.

    Returns
    -------
    Estimate
    """
    n = measures.triangles
    known = max_deviation is None
    seconds = n * (_SECONDS if known else _MEASURED_SECONDS)
    return Estimate(seconds, n * _GB, target_faces if known else None)


def _collapse_and_restore(
    source: "_Source", target: int, deviation: float | None, progress: Progress
) -> "_Collapsed | None":
    """Collapse edges and keep the original where that did harm; None if it does all over."""
    held, aim = source.held, _AIM
    for attempt in range(_TRIES):
        span = progress.span(attempt / _TRIES, (attempt + 1) / _TRIES)
        furthest = np.inf if deviation is None else (aim * deviation) ** 2
        collapsed = _collapse(source, held, target, furthest, span.span(0.0, 0.7))
        span.step("Looking at what became of it", 0.7)
        harmed = _vertices_to_restore(source, collapsed, deviation)
        if not len(harmed):
            return collapsed
        # what went into the corners in harmed stays as it was
        stay = np.isin(collapsed.into, harmed)
        if deviation is not None and np.count_nonzero(stay) > _MOST_HELD * len(stay):
            aim *= _LOWER_AIM
        else:
            held = held | stay
    return None


@dataclass(frozen=True, eq=False)
class _Source:
    """A mesh in an order that keeps what is near in space near in memory, and what must not
    move."""

    vertices: Array
    faces: Array
    held: Array
    middle: Array
    corners: tuple[Array, Array, Array]

    @staticmethod
    def of(mesh: Mesh, edges: bool, keep: Array | None = None) -> "_Source":
        order = np.argsort(morton_codes(mesh.vertices, mesh.faces), kind="stable")
        vertices, faces = renumbered(order, mesh.vertices, mesh.faces)
        corners = vertex_corners(faces, len(vertices))
        held = kernel.at_unsound_edges(faces, corners[0], corners[2])
        if edges:
            held |= _at_sharp_edges(Mesh(vertices, faces))
        if keep is not None:
            held[faces[keep[mesh.faces[order]]]] = True
        return _Source(vertices, faces, held, mesh.bounds.mean(axis=0), corners)


def _at_sharp_edges(mesh: Mesh) -> Array:
    topology = Topology(mesh)
    sharp = (topology.twin >= 0) & ~smooth_half_edges(topology, _SHARP)
    at = np.zeros(len(mesh.vertices), dtype=bool)
    at[topology.ends(np.flatnonzero(sharp))] = True
    return at


@dataclass(frozen=True, eq=False)
class _Collapsed:
    """A mesh with edges collapsed, its vertices by the source's numbers."""

    vertices: Array
    faces: Array
    into: Array


def _collapse(
    source: _Source, held: Array, target: int, furthest: float, progress: Progress
) -> _Collapsed:
    n, m = len(source.vertices), len(source.faces)
    vertices, faces = source.vertices.copy(), source.faces.copy()
    alive = np.ones(m, np.uint8)
    first, last, following = (one.copy() for one in source.corners)
    quadrics = kernel.quadrics_of(vertices, faces, first, following, source.middle)
    age, into = np.zeros(n, np.int32), np.arange(n, dtype=np.int32)
    least, floor, inside = np.zeros(n), np.zeros(n), np.zeros(n, np.bool_)
    there, done = m, m
    for attempt in range(_ROUNDS):
        progress.step("Collapsing edges", (m - there) / max(1, m - target))
        left = (there - target) // 2
        if left <= 0:
            break
        rest = np.flatnonzero(into == np.arange(n)).astype(np.int32)
        block, members, starts = _blocks(vertices, rest, attempt, n)
        whole = len(starts) == 2 or min(left, done) < _LAST_SHARE * len(rest)
        if whole:
            block, members, starts = np.zeros(n, np.int32), rest, np.array([0, len(rest)])
            most = np.inf
        else:
            every = max(1, m // _SAMPLES)
            errors = kernel.sampled_collapse_errors(
                vertices, faces, alive, quadrics, held, source.middle, every, furthest
            )
            if not len(errors):
                break
            share = min(left, len(rest)) / (1.5 * there)
            most = float(np.quantile(errors, min(1.0, share)))
        done = kernel.collapse_edges(
            vertices, faces, alive, first, last, following, quadrics, held, source.middle, age,
            into, least, floor, inside, block, np.zeros(n, np.int32), members, starts, most,
            furthest, left,
        )  # fmt: skip
        there = int(np.count_nonzero(alive))
        if whole and not done:
            break
    while (into != into[into]).any():
        into = into[into]
    return _Collapsed(vertices, faces[alive.astype(bool)], into)


def _blocks(vertices: Array, rest: Array, round_: int, n: int) -> tuple[Array, Array, Array]:
    """Deal the vertices that are left into blocks of space, placed differently each round."""
    if len(rest) <= _ONE_BLOCK:
        return np.zeros(n, np.int32), rest, np.array([0, len(rest)])
    # a surface fills about the square of the number of cells along a side
    longest = float(np.ptp(vertices[rest[:: max(1, len(rest) // 1000)]], axis=0).max())
    size = longest / max(2.0, np.sqrt(len(rest) / _BLOCK / 2))
    return kernel.group_by_cube(vertices, rest, size, _OFFSETS[round_ % len(_OFFSETS)])


def _vertices_to_restore(source: _Source, collapsed: _Collapsed, deviation: float | None) -> Array:
    """Vertices of the collapsed surface that are to be as they were, by the source's numbers."""
    x, y, z = (collapsed.vertices != source.vertices).T
    moved = x | y | z
    merged = np.zeros(len(moved), dtype=bool)
    merged[collapsed.into[collapsed.into != np.arange(len(moved))]] = True
    fresh = (moved | merged)[collapsed.faces].any(axis=1)
    bad = [intersecting_faces(collapsed.vertices, collapsed.faces, fresh).ravel()]
    gone = np.zeros(0, dtype=np.int64)
    if deviation is not None:
        tree = Tree.of(source.vertices, source.faces)
        moved_faces = np.flatnonzero(fresh)
        beyond = faces_beyond(collapsed.vertices, collapsed.faces[fresh], tree, deviation)
        bad.append(moved_faces[beyond])
        # and what went into others where something of the source is too far from all that is left
        back = Tree.of(collapsed.vertices, collapsed.faces)
        left = source.faces[faces_beyond(source.vertices, source.faces, back, deviation)]
        points = np.concatenate(
            [source.vertices[left].reshape(-1, 3), source.vertices[left].mean(axis=1)]
        )
        _, face = back.nearest(points)
        bad.append(face)
        gone = left.ravel()
    corners = collapsed.faces[np.unique(np.concatenate(bad)).astype(np.int64)].ravel()
    return np.union1d(corners, collapsed.into[gone])
