"""Vertices round which the faces lie spread out, so that no two of them can meet."""

import numpy as np

from ..jit import nb
from ..mesh.arrays import Array
from ..predicates.orientation import FILTER_2D

_MOST_FACES_ROUND = 32
"""Fans of more faces are not looked at: they are few."""
_CHUNK = 1024
"""Vertices to a thread at a time."""


@nb.njit(cache=True)
def _corners(faces: Array, n_vertices: int) -> tuple[Array, Array]:
    """Where the corners of each vertex begin, and the corners (four times the face, and which)."""
    start = np.zeros(n_vertices + 2, dtype=np.int32)
    for f in range(len(faces)):
        for k in range(3):
            start[faces[f, k] + 2] += 1
    for v in range(n_vertices + 1):
        start[v + 1] += start[v]
    corner = np.empty(3 * len(faces), dtype=np.int32)
    for f in range(len(faces)):
        for k in range(3):
            at = faces[f, k] + 1
            corner[start[at]] = 4 * f + k
            start[at] += 1
    return start[:-1], corner


@nb.njit(cache=True, parallel=True)
def _views(p: Array, faces: Array) -> Array:
    """For each face, one bit for each axis along which it is seen to run one way, beyond doubt.

    Bit k: counter-clockwise seen along axis k; bit 3 + k: clockwise.
    """
    views = np.zeros(len(faces), dtype=np.uint8)
    for f in nb.prange(len(faces)):
        a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
        bits = 0
        for k in range(3):
            i, j = (k + 1) % 3, (k + 2) % 3
            left = (p[b, i] - p[a, i]) * (p[c, j] - p[a, j])
            right = (p[b, j] - p[a, j]) * (p[c, i] - p[a, i])
            doubt = FILTER_2D * (abs(left) + abs(right))
            if left - right > doubt:
                bits |= 1 << k
            elif right - left > doubt:
                bits |= 8 << k
        views[f] = bits
    return views


@nb.njit(cache=True)
def _is_one_round(before: Array, after: Array, size: int) -> bool:
    """Whether the corners, each from one neighbour to the next, make one closed round."""
    at = 0
    for step in range(size):
        found = -1
        for i in range(size):
            if before[i] == after[at]:
                found = i
                break
        if found < 0 or (found == 0) != (step == size - 1):
            return False
        at = found
    return True


@nb.njit(cache=True)
def _is_one_long_round(before: Array, after: Array) -> bool:
    """As `_is_one_round`, in time that grows with the corners instead of their square."""
    order = np.argsort(before)
    before, after = before[order], after[order]
    at = 0
    for step in range(len(before)):
        found = np.searchsorted(before, after[at])
        if found == len(before) or before[found] != after[at]:
            return False
        if (found == 0) != (step == len(before) - 1):
            return False
        at = found
    return True


@nb.njit(cache=True)
def _is_spread(  # type: ignore[no-untyped-def]
    p: Array, faces: Array, views: Array, v: int, corner: Array, first: int, size: int,
    before: Array, after: Array,
):  # fmt: skip
    seen = np.uint8(63)
    for i in range(size):
        f, k = corner[first + i] >> 2, corner[first + i] & 3
        seen &= views[f]
        before[i] = faces[f, 1 if k == 0 else (2 if k == 1 else 0)]
        after[i] = faces[f, 2 if k == 0 else (0 if k == 1 else 1)]
    if seen == 0:
        return False
    view = 0
    while not (seen >> view) & 1:
        view += 1
    # each corner opens by less than half a turn, so it holds the direction of the first
    # coordinate just where it passes from below the vertex to not below it
    axis = (view + 2) % 3
    rounds = 0
    for i in range(size):
        one, other = p[before[i], axis] < p[v, axis], p[after[i], axis] < p[v, axis]
        rounds += (one and not other) if view < 3 else (other and not one)
    if rounds != 1:
        return False
    if size > _MOST_FACES_ROUND:
        return _is_one_long_round(before, after)
    return _is_one_round(before, after, size)


@nb.njit(cache=True, parallel=True)
def _spread(p: Array, faces: Array, start: Array, corner: Array, views: Array) -> Array:
    n = len(start) - 1
    out = np.zeros(n, dtype=np.bool_)
    for chunk in nb.prange((n + _CHUNK - 1) // _CHUNK):
        before, after = np.empty(_MOST_FACES_ROUND, np.int32), np.empty(_MOST_FACES_ROUND, np.int32)
        for v in range(chunk * _CHUNK, min((chunk + 1) * _CHUNK, n)):
            first, size = start[v], start[v + 1] - start[v]
            if size > _MOST_FACES_ROUND:
                long, long_too = np.empty(size, np.int32), np.empty(size, np.int32)
                out[v] = _is_spread(p, faces, views, v, corner, first, size, long, long_too)
            elif size > 2:
                out[v] = _is_spread(p, faces, views, v, corner, first, size, before, after)
    return out


def fans_without_overlap(vertices: Array, faces: Array) -> Array:
    """Vertices round which the faces, seen along an axis, lie side by side in one closed round.

    No two faces of such a vertex meet elsewhere than in what they share: seen along the axis they
    do not even overlap. Signs are taken with the filter of Shewchuk (1997) and comparisons of
    coordinates are exact, so that a vertex is never wrongly in; those in doubt are out.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3), float64
    faces : ndarray, shape (m, 3), int32

    Returns
    -------
    ndarray, shape (n,), bool
    """
    start, corner = _corners(faces, len(vertices))
    return _spread(vertices, faces, start, corner, _views(vertices, faces))
