"""The edge table: which faces meet at which edge, and walks over it.

A *half-edge* ``h = 3 f + k`` runs along face ``f`` from its corner ``k`` to the next one.
"""

import numpy as np

from ..jit import nb
from .arrays import Array


@nb.njit(cache=True)
def _start(faces: Array, h: int) -> int:
    return faces[h // 3, h % 3]


@nb.njit(cache=True)
def _end(faces: Array, h: int) -> int:
    return faces[h // 3, (h % 3 + 1) % 3]


@nb.njit(cache=True)
def _next(h: int) -> int:
    return h + 1 if h % 3 < 2 else h - 2


@nb.njit(cache=True)
def _previous(h: int) -> int:
    return h - 1 if h % 3 > 0 else h + 2


@nb.njit(cache=True)
def sort_half_edges(faces: Array, n_vertices: int) -> Array:
    """Half-edges ordered by their lower, then higher vertex, then number: counting sort, linear.

    Parameters
    ----------
    faces : ndarray, shape (m, 3), int32
    n_vertices : int

    Returns
    -------
    ndarray, shape (3 m,), int32
    """
    m = len(faces)
    begin = np.zeros(n_vertices + 1, dtype=np.int32)
    for f in range(m):
        for k in range(3):
            a, b = faces[f, k], faces[f, (k + 1) % 3]
            begin[min(a, b) + 1] += 1
    for v in range(n_vertices):
        begin[v + 1] += begin[v]
    order = np.empty(3 * m, dtype=np.int32)
    high = np.empty(3 * m, dtype=np.int32)
    fill = begin[:-1].copy()
    for f in range(m):
        for k in range(3):
            a, b = faces[f, k], faces[f, (k + 1) % 3]
            low = min(a, b)
            at = fill[low]
            order[at] = 3 * f + k
            high[at] = max(a, b)
            fill[low] = at + 1
    for v in range(n_vertices):
        lo, hi = begin[v], begin[v + 1]
        if hi - lo > 64:
            sorting = np.argsort(high[lo:hi], kind="mergesort")
            order[lo:hi] = order[lo:hi][sorting]
            high[lo:hi] = high[lo:hi][sorting]
            continue
        for i in range(lo + 1, hi):
            key, half = high[i], order[i]
            j = i - 1
            while j >= lo and high[j] > key:
                high[j + 1] = high[j]
                order[j + 1] = order[j]
                j -= 1
            high[j + 1] = key
            order[j + 1] = half
    return order


@nb.njit(cache=True)
def edge_starts(faces: Array, order: Array) -> Array:
    """Where each edge begins in `order`, with the end appended, shape (e + 1,), int32."""
    n = len(order)
    starts = np.empty(n + 1, dtype=np.int32)
    count = 0
    low = high = -1
    for i in range(n):
        a, b = _start(faces, order[i]), _end(faces, order[i])
        if min(a, b) != low or max(a, b) != high:
            low, high = min(a, b), max(a, b)
            starts[count] = i
            count += 1
    starts[count] = n
    return starts[: count + 1].copy()


@nb.njit(cache=True)
def across(faces: Array, order: Array, starts: Array) -> Array:
    """For each half-edge its partner across the edge, shape (3 m,), int32.

    -1 where the edge has one face, -2 where it has three or more. Partners of an edge with two
    faces are given whichever way the faces run.
    """
    twin = np.full(len(order), -1, dtype=np.int32)
    for e in range(len(starts) - 1):
        i, n = starts[e], starts[e + 1] - starts[e]
        if n == 2:
            twin[order[i]] = order[i + 1]
            twin[order[i + 1]] = order[i]
        elif n > 2:
            for j in range(n):
                twin[order[i + j]] = -2
    return twin


@nb.njit(cache=True)
def root(parent: Array, i: int) -> int:
    """The root of a row's tree in a union-find forest, whose paths are halved on the way."""
    while parent[i] != i:
        parent[i] = parent[parent[i]]
        i = parent[i]
    return i


@nb.njit(cache=True)
def shells(order: Array, starts: Array, n_faces: int) -> tuple[Array, int]:
    """Number the shells: faces joined by edges, whatever the count of faces at the edge.

    Returns
    -------
    label : ndarray, shape (m,), int32
        In order of first appearance.
    count : int
    """
    parent = np.arange(n_faces).astype(np.int32)
    for e in range(len(starts) - 1):
        first = order[starts[e]] // 3
        for j in range(starts[e] + 1, starts[e + 1]):
            a, b = root(parent, first), root(parent, order[j] // 3)
            if a < b:
                parent[b] = a
            elif b < a:
                parent[a] = b
    label = np.empty(n_faces, dtype=np.int32)
    count = 0
    for f in range(n_faces):
        r = root(parent, f)
        if r == f:
            label[f] = count
            count += 1
        else:
            label[f] = label[r]
    return label, count


@nb.njit(cache=True)
def coherent_patches(faces: Array, twin: Array) -> tuple[Array, Array, int, Array]:
    """Spread one sense of rotation over edges that have two faces.

    Returns
    -------
    patch : ndarray, shape (m,), int32
        Number of the patch that each face belongs to.
    turned : ndarray, shape (m,), bool
        Whether the face runs against the first face of its patch.
    count : int
        Number of patches.
    twisted : ndarray, shape (count,), bool
        Patches that cannot be made coherent (one-sided surfaces).
    """
    m = len(faces)
    patch = np.full(m, -1, dtype=np.int32)
    turned = np.zeros(m, dtype=np.bool_)
    twisted = np.zeros(m, dtype=np.bool_)
    queue = np.empty(m, dtype=np.int32)
    count = 0
    for seed in range(m):
        if patch[seed] >= 0:
            continue
        patch[seed] = count
        queue[0] = seed
        head, tail = 0, 1
        while head < tail:
            f = queue[head]
            head += 1
            for k in range(3):
                other = twin[3 * f + k]
                if other < 0:
                    continue
                g = other // 3
                same_way = _start(faces, 3 * f + k) == _start(faces, other)
                wanted = turned[f] != same_way
                if patch[g] < 0:
                    patch[g] = count
                    turned[g] = wanted
                    queue[tail] = g
                    tail += 1
                elif turned[g] != wanted:
                    twisted[count] = True
        count += 1
    return patch, turned, count, twisted[:count].copy()


@nb.njit(cache=True)
def fan_labels(faces: Array, order: Array, starts: Array) -> tuple[Array, Array]:
    """Group the corners at each vertex into fans: corners joined by shared edges.

    Returns
    -------
    fan : ndarray, shape (3 m,), int32
        For each corner ``3 f + k`` the lowest corner of its fan.
    fans : ndarray, shape (vertices in faces,), int32
        Number of fans at each vertex.
    """
    n = 3 * len(faces)
    parent = np.arange(n).astype(np.int32)
    for e in range(len(starts) - 1):
        first = order[starts[e]]
        low = _start(faces, first)
        at_low, at_high = first, _next(first)
        for j in range(starts[e] + 1, starts[e + 1]):
            h = order[j]
            if _start(faces, h) == low:
                other_low, other_high = h, _next(h)
            else:
                other_low, other_high = _next(h), h
            a, b = root(parent, at_low), root(parent, other_low)
            if a != b:
                parent[max(a, b)] = min(a, b)
            a, b = root(parent, at_high), root(parent, other_high)
            if a != b:
                parent[max(a, b)] = min(a, b)
    highest = 0
    for f in range(len(faces)):
        for k in range(3):
            highest = max(highest, faces[f, k])
    fans = np.zeros(highest + 1, dtype=np.int32)
    for c in range(n):
        r = root(parent, c)
        parent[c] = r
        if r == c:
            fans[_start(faces, c)] += 1
    return parent, fans


@nb.njit(cache=True)
def boundary_loops(faces: Array, twin: Array) -> tuple[Array, Array]:
    """Walk along the open edges, turning within the fan of faces at each vertex.

    Parameters
    ----------
    faces : ndarray, shape (m, 3), int32
    partner : ndarray, shape (3 m,), int32
        From `across`. An edge whose two faces run the same way ends a walk like a shared one.

    Returns
    -------
    halves : ndarray, int32
        Open half-edges, loop after loop, in the direction of their faces.
    starts : ndarray, shape (loops + 1,), int32
        Where each loop begins. A walk that comes to an over-shared edge ends there, open.
    """
    n = len(twin)
    seen = np.zeros(n, dtype=np.bool_)
    follower = np.full(n, -1, dtype=np.int32)
    leader = np.full(n, -1, dtype=np.int32)
    total = 0
    for h in range(n):
        if twin[h] != -1:
            continue
        total += 1
        g = _next(h)
        steps = 0
        while twin[g] >= 0 and steps < n:
            other = twin[g]
            if _start(faces, other) == _start(faces, g):
                g = -1
                break
            g = _next(other)
            steps += 1
        if g >= 0 and twin[g] == -1 and leader[g] < 0:
            follower[h] = g
            leader[g] = h
    halves = np.empty(total, dtype=np.int32)
    starts = np.empty(total + 1, dtype=np.int32)
    used = loops = 0
    # chains with a beginning first, then rings
    for ring in range(2):
        for h in range(n):
            if twin[h] != -1 or seen[h] or (ring == 0 and leader[h] >= 0):
                continue
            starts[loops] = used
            loops += 1
            g = h
            while g >= 0 and not seen[g]:
                seen[g] = True
                halves[used] = g
                used += 1
                g = follower[g]
    starts[loops] = used
    return halves, starts[: loops + 1].copy()


@nb.njit(cache=True)
def group_edges(ends: Array, n_vertices: int) -> tuple[Array, int]:
    """Group edges that share vertices.

    Parameters
    ----------
    ends : ndarray, shape (k, 2)
        Vertices of each edge.

    Returns
    -------
    label : ndarray, shape (k,), int32
    count : int
    """
    parent = np.arange(n_vertices).astype(np.int32)
    for i in range(len(ends)):
        a, b = root(parent, ends[i, 0]), root(parent, ends[i, 1])
        if a != b:
            parent[max(a, b)] = min(a, b)
    number = np.full(n_vertices, -1, dtype=np.int32)
    label = np.empty(len(ends), dtype=np.int32)
    count = 0
    for i in range(len(ends)):
        r = root(parent, ends[i, 0])
        if number[r] < 0:
            number[r] = count
            count += 1
        label[i] = number[r]
    return label, count


@nb.njit(cache=True)
def fans_of_joins(faces: Array, joins: Array) -> Array:
    """Group the corners at each vertex into fans by given joins of half-edges.

    Parameters
    ----------
    faces : ndarray, shape (m, 3), int32
    joins : ndarray, shape (k, 2)
        Pairs of half-edges over the same two vertices that stay connected.

    Returns
    -------
    ndarray, shape (3 m,), int32
        For each corner the lowest corner of its fan.
    """
    parent = np.arange(3 * len(faces)).astype(np.int32)
    for i in range(len(joins)):
        h, g = joins[i, 0], joins[i, 1]
        h_next, g_next = _next(h), _next(g)
        if _start(faces, h) != _start(faces, g):
            g, g_next = g_next, g
        a, b = root(parent, h), root(parent, g)
        if a != b:
            parent[max(a, b)] = min(a, b)
        a, b = root(parent, h_next), root(parent, g_next)
        if a != b:
            parent[max(a, b)] = min(a, b)
    for c in range(len(parent)):
        parent[c] = root(parent, c)
    return parent


@nb.njit(cache=True)
def components(joins: Array, n: int) -> Array:
    """Lowest member of the connected set that each of `n` things belongs to, given pairs."""
    parent = np.arange(n).astype(np.int32)
    for i in range(len(joins)):
        a, b = root(parent, joins[i, 0]), root(parent, joins[i, 1])
        if a != b:
            parent[max(a, b)] = min(a, b)
    for i in range(n):
        parent[i] = root(parent, i)
    return parent
