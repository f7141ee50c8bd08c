"""Fewer triangles for the same shape: edges drawn together, the least noticed first."""

from dataclasses import dataclass

import numpy as np

from ..errors import RefusedRemedy
from ..examine.finding import counted
from ..examine.limits import USUAL
from ..examine.size import STL_FACE, STL_HEAD, stl_bytes
from ..kernels import collapse
from ..kernels.screen import renumbered
from ..kernels.tree import Tree, morton_codes
from ..mesh import Array, Mesh
from ..progress import SILENT, Progress
from ..topology import Topology
from .cost import Cost, Measures
from .crossing import crossing_faces
from .level import level_halves
from .outcome import Outcome

_SECONDS, _MEASURED_SECONDS, _GB = 2e-6, 3.5e-5, 6e-7
_LEAST_FACES = 4
_IN_ONE = 16_000
_A_BLOCK = 3_000
_LAST_SHARE = 0.06
_ROUNDS = 60
_SAMPLES = 10_000
_TRIES = 5
_GOALS = 5
_NOTHING = "No edge can be drawn together that would leave the skin sound."
_SHARP = 30.0
_AIM = 0.5
# Of the deviation allowed, by the quadrics.
_AIM_UNMEASURED = 0.2
# The same where nothing is measured afterwards.
_MANY, _LESS = 0.1, 0.5
# Where more than this share would have to stay, less is aimed at instead.
_PLACED = (0.0, 0.618034, 0.236068, 0.854102)


def reduce(
    mesh: Mesh,
    triangles: float | None = None,
    percent: float | None = None,
    megabytes: float | None = None,
    deviation: float | None = None,
    edges: bool = False,
    progress: Progress = SILENT,
) -> Outcome:
    """Make the triangles fewer until one of the limits given is reached.

    Edges are drawn together by their quadric error (Garland & Heckbert 1997). Shells stay joined
    as they were, none vanishes, and open rims stay where they are. Where faces would cross that
    did not, or the skin would move further than the deviation, measured both ways, the original
    is kept. What does not move keeps its coordinates; what does lies on float32.

    Parameters
    ----------
    mesh : Mesh
    triangles : float, optional
        How many to leave at least.
    percent : float, optional
        What share of them to leave at least.
    megabytes : float, optional
        Size of a binary STL to get below, 10⁶ bytes. If nothing is given at all, that of the
        shop's largest file.
    deviation : float, optional
        How far the skin may move, mm.
    edges : bool
        Whether vertices on edges sharper than 30 degrees stay as they are.
    progress : Progress

    Raises
    ------
    RefusedRemedy
        If it has as few already.
    """
    n = len(mesh.faces)
    target = _target(n, triangles, percent, megabytes, deviation)
    given = _Given.of(mesh, edges)
    goals = [target]
    while deviation is None and len(goals) < _GOALS:
        goals.append(int(np.sqrt(goals[-1] * n)))
    for i, goal in enumerate(goals):
        drawn = _sound(given, goal, deviation, progress.part(i / _GOALS, (i + 1) / _GOALS))
        if drawn is not None:
            return _told(mesh, drawn, target, deviation)
    return Outcome(mesh, left=(_NOTHING,))


def drawn_within(mesh: Mesh, deviation: float) -> Mesh | None:
    """Fewer triangles within about a deviation by the quadrics, which is not measured.

    Parameters
    ----------
    mesh : Mesh
        Its vertices on float32.
    deviation : float
        mm.

    Returns
    -------
    Mesh or None
        None if it crosses itself, or if `mesh` is not closed and manifold.
    """
    given = _Given.of(mesh, False)
    if given.held.any():
        return None
    drawn = _drawn(given, given.held, _LEAST_FACES, (_AIM_UNMEASURED * deviation) ** 2, SILENT)
    if len(crossing_faces(drawn.vertices, drawn.faces)):
        return None
    return Mesh(drawn.vertices, drawn.faces).compact()


def cost(
    measures: Measures,
    triangles: float | None = None,
    percent: float | None = None,
    megabytes: float | None = None,
    deviation: float | None = None,
    edges: bool = False,
) -> Cost:
    """What `reduce` will take; within a deviation nobody knows how many it leaves."""
    n = measures.triangles
    target = _target(n, triangles, percent, megabytes, deviation)
    known = deviation is None
    seconds = n * (_SECONDS if known else _MEASURED_SECONDS)
    return Cost(seconds, n * _GB, target if known else None)


def _target(
    n: int,
    triangles: float | None,
    percent: float | None,
    megabytes: float | None,
    deviation: float | None,
) -> int:
    """How many triangles to leave at least.

    Raises
    ------
    RefusedRemedy
        If there are no more.
    """
    if triangles is percent is megabytes is deviation is None:
        megabytes = USUAL.file_bytes / 1e6
    wanted = [
        triangles,
        None if percent is None else n * percent / 100,
        None if megabytes is None else (megabytes * 1e6 - STL_HEAD) // STL_FACE,
    ]
    target = max([_LEAST_FACES, *(int(one) for one in wanted if one is not None)])
    if target >= n:
        raise RefusedRemedy(f"It has {counted(n, 'triangle')}, no more than asked for.")
    return target


def _sound(
    given: "_Given", target: int, deviation: float | None, progress: Progress
) -> "_Drawn | None":
    """Draw edges together and keep the original where that did harm; None if it does all over."""
    held, aim = given.held, _AIM
    for turn in range(_TRIES):
        part = progress.part(turn / _TRIES, (turn + 1) / _TRIES)
        furthest = np.inf if deviation is None else (aim * deviation) ** 2
        drawn = _drawn(given, held, target, furthest, part.part(0.0, 0.7))
        part.step("Looking at what became of it", 0.7)
        trouble = _trouble(given, drawn, deviation)
        if not len(trouble):
            return drawn
        # what went into the corners in trouble stays as it was
        stay = np.isin(drawn.into, trouble)
        if deviation is not None and np.count_nonzero(stay) > _MANY * len(stay):
            aim *= _LESS
        else:
            held = held | stay
    return None


@dataclass(frozen=True, eq=False)
class _Given:
    """A mesh in an order that keeps what is near in space near in memory."""

    vertices: Array
    faces: Array
    held: Array
    middle: Array
    corners: tuple[Array, Array, Array]

    @staticmethod
    def of(mesh: Mesh, edges: bool) -> "_Given":
        order = np.argsort(morton_codes(mesh.vertices, mesh.faces), kind="stable")
        vertices, faces = renumbered(order, mesh.vertices, mesh.faces)
        corners = collapse.corners_round(faces, len(vertices))
        held = collapse.at_odd_edges(faces, corners[0], corners[2])
        if edges:
            held |= _at_sharp_edges(Mesh(vertices, faces))
        return _Given(vertices, faces, held, mesh.bounds.mean(axis=0), corners)


def _at_sharp_edges(mesh: Mesh) -> Array:
    topology = Topology(mesh)
    sharp = (topology.partner >= 0) & ~level_halves(topology, _SHARP)
    at = np.zeros(len(mesh.vertices), dtype=bool)
    at[topology.ends(np.flatnonzero(sharp))] = True
    return at


@dataclass(frozen=True, eq=False)
class _Drawn:
    """A mesh with edges drawn together, in the given one's numbers."""

    vertices: Array
    faces: Array
    into: Array


def _drawn(given: _Given, held: Array, target: int, furthest: float, progress: Progress) -> _Drawn:
    n, m = len(given.vertices), len(given.faces)
    vertices, faces = given.vertices.copy(), given.faces.copy()
    alive = np.ones(m, np.uint8)
    first, last, following = (one.copy() for one in given.corners)
    quadrics = collapse.quadrics_of(vertices, faces, first, following, given.middle)
    age, into = np.zeros(n, np.int32), np.arange(n, dtype=np.int32)
    least, floor, inside = np.zeros(n), np.zeros(n), np.zeros(n, np.bool_)
    there, done = m, m
    for turn in range(_ROUNDS):
        progress.step("Drawing edges together", (m - there) / max(1, m - target))
        left = (there - target) // 2
        if left <= 0:
            break
        rest = np.flatnonzero(into == np.arange(n)).astype(np.int32)
        block, members, starts = _dealt(vertices, rest, turn, n)
        whole = len(starts) == 2 or min(left, done) < _LAST_SHARE * len(rest)
        if whole:
            block, members, starts = np.zeros(n, np.int32), rest, np.array([0, len(rest)])
            most = np.inf
        else:
            every = max(1, m // _SAMPLES)
            errors = collapse.some_errors(
                vertices, faces, alive, quadrics, held, given.middle, every, furthest
            )
            if not len(errors):
                break
            share = min(left, len(rest)) / (1.5 * there)
            most = float(np.quantile(errors, min(1.0, share)))
        done = collapse.draw_together(
            vertices, faces, alive, first, last, following, quadrics, held, given.middle, age,
            into, least, floor, inside, block, np.zeros(n, np.int32), members, starts, most,
            furthest, left,
        )  # fmt: skip
        there = int(np.count_nonzero(alive))
        if whole and not done:
            break
    while (into != into[into]).any():
        into = into[into]
    return _Drawn(vertices, faces[alive.astype(bool)], into)


def _dealt(vertices: Array, rest: Array, turn: int, n: int) -> tuple[Array, Array, Array]:
    """Deal the vertices that are left into blocks of space, placed differently each turn."""
    if len(rest) <= _IN_ONE:
        return np.zeros(n, np.int32), rest, np.array([0, len(rest)])
    # a surface fills about the square of the number of cells along a side
    longest = float(np.ptp(vertices[rest[:: max(1, len(rest) // 1000)]], axis=0).max())
    size = longest / max(2.0, np.sqrt(len(rest) / _A_BLOCK / 2))
    return collapse.dealt(vertices, rest, size, _PLACED[turn % len(_PLACED)])


def _trouble(given: _Given, drawn: _Drawn, deviation: float | None) -> Array:
    """Vertices of the new skin that are to be as they were, by the numbers given."""
    x, y, z = (drawn.vertices != given.vertices).T
    moved = x | y | z
    merged = np.zeros(len(moved), dtype=bool)
    merged[drawn.into[drawn.into != np.arange(len(moved))]] = True
    fresh = (moved | merged)[drawn.faces].any(axis=1)
    bad = [crossing_faces(drawn.vertices, drawn.faces, fresh).ravel()]
    gone = np.zeros(0, dtype=np.int64)
    if deviation is not None:
        tree = Tree.of(given.vertices, given.faces)
        used = np.unique(drawn.faces[fresh])
        points = np.concatenate(
            [_samples(drawn.vertices, drawn.faces[fresh]), drawn.vertices[used]]
        )
        distance, _ = tree.nearest(points)
        own = np.repeat(np.flatnonzero(fresh), 4)
        far = distance > deviation
        bad.append(own[far[: len(own)]])
        corners = used[far[len(own) :]]
        bad.append(np.flatnonzero(np.isin(drawn.faces, corners).any(axis=1)))
        back = Tree.of(drawn.vertices, drawn.faces)
        middles = given.vertices[given.faces].mean(axis=1)
        distance, face = back.nearest(np.concatenate([given.vertices, middles]))
        far = distance > deviation
        bad.append(face[far])
        # and what went into others where something is gone
        n = len(given.vertices)
        gone = np.concatenate([np.flatnonzero(far[:n]), given.faces[far[n:]].ravel()])
    corners = drawn.faces[np.unique(np.concatenate(bad)).astype(np.int64)].ravel()
    return np.union1d(corners, drawn.into[gone])


def _samples(vertices: Array, faces: Array) -> Array:
    """Four points in each face: the middle, and the middles of its edges."""
    tri = vertices[faces]
    middle = tri.mean(axis=1, keepdims=True)
    return np.concatenate([middle, (tri + np.roll(tri, -1, axis=1)) / 2], axis=1).reshape(-1, 3)


def _told(mesh: Mesh, drawn: _Drawn, target: int, deviation: float | None) -> Outcome:
    before, after = len(mesh.faces), len(drawn.faces)
    if after == before:
        return Outcome(mesh, left=(_NOTHING,))
    result = Mesh(drawn.vertices, drawn.faces).compact()
    done = f"{counted(before, 'triangle')} made {after:,} ({after / before:.1%})."
    left: tuple[str, ...] = ()
    if after > target + 1 and deviation is None:
        left = (f"{after - target:,} more than asked for: what is left would cross or turn over.",)
    counts = {"triangles": after, "megabytes": stl_bytes(after) / 1e6}
    return Outcome(result, done, counts, left)
