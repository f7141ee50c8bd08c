"""Boundary loops by the thousand: cut into simple ones, measured, and tried on each other."""

import numpy as np

from ..jit import nb
from ..mesh.arrays import Array

_BRUTE = 64
"""Points of a loop up to which all pairs are looked at."""
_LOOKS = 3
"""Times that the farthest point from the farthest point is looked for, from each of the ends."""


@nb.njit(cache=True)
def _farthest(points: Array, items: Array, begin: int, end: int, at: int) -> tuple[int, float]:
    """Of the points of a loop, the one farthest from a point, and its squared distance."""
    best, found = -1.0, begin
    for i in range(begin, end):
        away = 0.0
        for k in range(3):
            away += (points[items[i], k] - points[items[at], k]) ** 2
        if away > best:
            best, found = away, i
    return found, best


@nb.njit(cache=True, parallel=True)
def loop_diameters(points: Array, items: Array, starts: Array, directions: Array) -> Array:
    """Greatest distance of any two points of each loop, shape (loops,).

    Of long loops the ends along some directions, and what is farthest from those, in turns.

    Parameters
    ----------
    points : ndarray, shape (n, 3)
    items : ndarray, shape (k,)
        Vertices, loop after loop.
    starts : ndarray, shape (loops + 1,)
    directions : ndarray, shape (d, 3)

    Returns
    -------
    ndarray, shape (loops,)
    """
    out = np.empty(len(starts) - 1)
    for loop in nb.prange(len(starts) - 1):
        begin, end = starts[loop], starts[loop + 1]
        most = 0.0
        if end - begin <= _BRUTE:
            for at in range(begin, end):
                _, away = _farthest(points, items, at, end, at)
                most = max(most, away)
        else:
            for d in range(len(directions)):
                best, start = -np.inf, begin
                for i in range(begin, end):
                    along = 0.0
                    for k in range(3):
                        along += points[items[i], k] * directions[d, k]
                    if along > best:
                        best, start = along, i
                for _ in range(_LOOKS):
                    start, away = _farthest(points, items, begin, end, start)
                    most = max(most, away)
        out[loop] = np.sqrt(most)
    return out


@nb.njit(cache=True)
def simple_loops(  # type: ignore[no-untyped-def]
    ends: Array, starts: Array, skip: Array, n_vertices: int
):
    """Cut walks into simple loops wherever they come back to a vertex.

    Parameters
    ----------
    ends : ndarray, shape (k, 2)
        First and last vertex of the edges, walk after walk.
    starts : ndarray, shape (walks + 1,)
    skip : ndarray, shape (walks,), bool
        Walks to leave out.
    n_vertices : int

    Returns
    -------
    vertices : ndarray
        Loop after loop.
    begins : ndarray, shape (loops + 1,)
    ring : ndarray, shape (loops,), bool
        False for the open rest of a walk that does not come back.
    walk : ndarray, shape (loops,)
        The walk that each was cut from.
    """
    room = len(ends) + len(starts)
    vertices = np.empty(room, dtype=np.int32)
    begins = np.zeros(room + 1, dtype=np.int64)
    ring = np.empty(room, dtype=np.bool_)
    walk = np.empty(room, dtype=np.int32)
    position = np.full(n_vertices, -1, dtype=np.int64)
    path = np.empty(room, dtype=np.int32)
    used = loops = 0
    for w in range(len(starts) - 1):
        lo, hi = starts[w], starts[w + 1]
        if skip[w]:
            continue
        length = 0
        for step in range(lo, hi + 1):
            v = ends[step, 0] if step < hi else ends[hi - 1, 1]
            if position[v] >= 0:
                at = position[v]
                if length - at > 1:
                    for i in range(at, length):
                        vertices[used] = path[i]
                        used += 1
                    ring[loops], walk[loops] = True, w
                    loops += 1
                    begins[loops] = used
                for i in range(at, length):
                    position[path[i]] = -1
                length = at
            position[v] = length
            path[length] = v
            length += 1
        if length > 1 and ends[hi - 1, 1] != ends[lo, 0]:
            for i in range(length):
                vertices[used] = path[i]
                used += 1
            ring[loops], walk[loops] = False, w
            loops += 1
            begins[loops] = used
        for i in range(length):
            position[path[i]] = -1
    return vertices[:used].copy(), begins[: loops + 1].copy(), ring[:loops].copy(), walk[:loops]


@nb.njit(cache=True)
def loop_measures(p: Array, vertices: Array, begins: Array) -> tuple[Array, Array, Array, Array]:
    """Measures of loops.

    Returns
    -------
    area : ndarray, shape (loops, 3)
        Area vector (Newell): twice the area.
    low, high : ndarray, shape (loops, 3)
        Bounding boxes.
    height : ndarray, shape (loops,)
        Greatest distance of a point from the mean plane; -1 if there is no plane.
    """
    n = len(begins) - 1
    area = np.zeros((n, 3))
    low, high = np.full((n, 3), np.inf), np.full((n, 3), -np.inf)
    height = np.full(n, -1.0)
    for loop in range(n):
        lo, hi = begins[loop], begins[loop + 1]
        first = vertices[lo]
        middle = np.zeros(3)
        for i in range(lo, hi):
            v, w = vertices[i], vertices[i + 1] if i + 1 < hi else first
            for k in range(3):
                middle[k] += p[v, k] / (hi - lo)
                low[loop, k] = min(low[loop, k], p[v, k])
                high[loop, k] = max(high[loop, k], p[v, k])
                u, t = (k + 1) % 3, (k + 2) % 3
                area[loop, k] += (p[v, u] - p[first, u]) * (p[w, t] - p[first, t])
                area[loop, k] -= (p[v, t] - p[first, t]) * (p[w, u] - p[first, u])
        x, y, z = area[loop, 0], area[loop, 1], area[loop, 2]
        length = np.sqrt(x * x + y * y + z * z)
        if length > 0.0:
            for i in range(lo, hi):
                v = vertices[i]
                off = (p[v, 0] - middle[0]) * x + (p[v, 1] - middle[1]) * y
                off += (p[v, 2] - middle[2]) * z
                height[loop] = max(height[loop], abs(off) / length)
    return area, low, high, height


@nb.njit(cache=True)
def facing_pairs(
    low: Array, high: Array, normals: Array, sizes: Array, opposite: float, slack: float
) -> Array:
    """Pairs of flat loops of which one may lie in the other: same plane, turned, box in box.

    Parameters
    ----------
    low, high : ndarray, shape (n, 3)
        Bounding boxes, sorted by the first column of `low`, whichever axis that is.
    normals : ndarray, shape (n, 3)
        Unit normals.
    sizes : ndarray, shape (n,)
        Areas.
    opposite : float
        Normals count as opposite up to this cosine.
    slack : float
        Distance from the plane that is allowed, as a share of the root of the area.

    Returns
    -------
    ndarray, shape (pairs, 2)
        The inner loop and the outer one.
    """
    n = len(low)
    pairs = np.empty((16, 2), dtype=np.int64)
    used = 0
    for outer in range(n):
        room = slack * np.sqrt(sizes[outer])
        first = np.searchsorted(low[:, 0], low[outer, 0] - room)
        for inner in range(first, n):
            if low[inner, 0] > high[outer, 0]:
                break
            if sizes[inner] >= sizes[outer]:
                continue
            if low[inner, 1] < low[outer, 1] - room or high[inner, 1] > high[outer, 1] + room:
                continue
            if low[inner, 2] < low[outer, 2] - room or high[inner, 2] > high[outer, 2] + room:
                continue
            cosine = off = 0.0
            for k in range(3):
                cosine += normals[inner, k] * normals[outer, k]
                off += (low[inner, k] + high[inner, k] - low[outer, k] - high[outer, k]) * (
                    0.5 * normals[outer, k]
                )
            if high[inner, 0] <= high[outer, 0] + room and cosine <= opposite and abs(off) <= room:
                if used == len(pairs):
                    offset_walls = np.empty((2 * used, 2), dtype=np.int64)
                    offset_walls[:used] = pairs
                    pairs = offset_walls
                pairs[used, 0], pairs[used, 1] = inner, outer
                used += 1
    return pairs[:used].copy()


@nb.njit(cache=True, parallel=True)
def surrounds(p: Array, vertices: Array, begins: Array, normals: Array, pairs: Array) -> Array:
    """For pairs of flat loops, whether the second goes round the first one's first vertex.

    Counts crossings (even-odd) in the two coordinates in which the second loop is widest.

    Parameters
    ----------
    p : ndarray, shape (n, 3)
    vertices, begins : ndarray
        The loops, one after another.
    normals : ndarray, shape (loops, 3)
    pairs : ndarray, shape (k, 2)

    Returns
    -------
    ndarray, shape (k,), bool
    """
    found = np.zeros(len(pairs), dtype=np.bool_)
    for k in nb.prange(len(pairs)):
        outer = pairs[k, 1]
        point = vertices[begins[pairs[k, 0]]]
        axis = np.argmax(np.abs(normals[outer]))
        i, j = (axis + 1) % 3, (axis + 2) % 3
        x, y = p[point, i], p[point, j]
        inside = False
        lo, hi = begins[outer], begins[outer + 1]
        before = vertices[hi - 1]
        for n in range(lo, hi):
            v = vertices[n]
            if (p[before, j] > y) != (p[v, j] > y):
                share = (y - p[before, j]) / (p[v, j] - p[before, j])
                if p[before, i] + share * (p[v, i] - p[before, i]) > x:
                    inside = not inside
            before = v
        found[k] = inside
    return found
