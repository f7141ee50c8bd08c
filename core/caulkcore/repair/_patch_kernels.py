"""Dividing the triangles of a patch until they are as fine as those around it."""

import numpy as np

from ..jit import nb
from ..mesh.arrays import Array

_DENSITY = 1.4142135623730951
"""Liepa's density factor: triangles are divided until their size is within this of the rim's."""
_FLIP_PASSES = 20
"""Rounds of edge flips after each division."""


@nb.njit(cache=True)
def _distance(p: Array, i: int, j: int) -> float:
    return np.sqrt((p[i, 0] - p[j, 0]) ** 2 + (p[i, 1] - p[j, 1]) ** 2 + (p[i, 2] - p[j, 2]) ** 2)


@nb.njit(cache=True)
def _angle(p: Array, at: int, i: int, j: int) -> float:
    """Angle at a point between two others."""
    dot = a = b = 0.0
    for k in range(3):
        u, w = p[i, k] - p[at, k], p[j, k] - p[at, k]
        dot += u * w
        a += u * u
        b += w * w
    if a == 0.0 or b == 0.0:
        return 0.0
    return np.arccos(min(max(dot / np.sqrt(a * b), -1.0), 1.0))


@nb.njit(cache=True)
def _next(h: int) -> int:
    return h - 2 if h % 3 == 2 else h + 1


@nb.njit(cache=True)
def _joined(t: Array, twin: Array, h: int, other: int) -> bool:
    """Whether the vertex that half-edge h starts at has an edge to another within the patch."""
    for length in range(2):
        g = h
        while g >= 0:
            if t[_next(g)] == other or t[_next(_next(g))] == other:
                return True
            # round the vertex, one way and then the other
            g = twin[_next(_next(g))] if length == 0 else twin[g]
            if length == 1 and g >= 0:
                g = _next(g)
            if g == h:
                return False
    return False


@nb.njit(cache=True)
def _flip_if_better(p: Array, t: Array, twin: Array, n_rim: int, h: int) -> bool:
    """Turn an edge if the two triangles get better by it."""
    o = twin[h]
    if o < 0:
        return False
    h1, h2, o1, o2 = _next(h), _next(_next(h)), _next(o), _next(_next(o))
    a, b, c, d = t[h], t[h1], t[h2], t[o2]
    if c < n_rim and d < n_rim:
        return False
    if _angle(p, c, a, b) + _angle(p, d, a, b) <= np.pi + 1e-9 or _joined(t, twin, h2, d):
        return False
    # (a, b, c) and (b, a, d) become (d, c, a) and (c, d, b)
    ph1, ph2, po1, po2 = twin[h1], twin[h2], twin[o1], twin[o2]
    t[h], t[h1], t[h2] = d, c, a
    t[o], t[o1], t[o2] = c, d, b
    for half, other in ((h1, ph2), (h2, po1), (o1, po2), (o2, ph1)):
        twin[half] = other
        if other >= 0:
            twin[other] = half
    return True


@nb.njit(cache=True)
def refine_patch(  # type: ignore[no-untyped-def]
    points: Array, size: Array, triangles: Array, twin: Array, most: int
):
    """Divide the triangles over a rim to the size of those around it (Liepa 2003).

    Triangles are divided at their middle as long as that leaves no edge shorter than wanted, and
    edges are turned towards equal angles. Edges of the rim stay.

    Parameters
    ----------
    points : ndarray, shape (n, 3)
        The rim.
    size : ndarray, shape (n,)
        Edge length wanted at each.
    triangles : ndarray, shape (m, 3)
        Over the rim.
    partner : ndarray, shape (3 m,)
        The half-edge across each half-edge, -1 at the rim.
    most : int
        Greatest number of new points.

    Returns
    -------
    points : ndarray, shape (n + k, 3)
        The rim, then the new ones.
    triangles : ndarray, shape (m + 2 k, 3), int32
    """
    n, m = len(points), len(triangles)
    p = np.empty((n + most, 3))
    p[:n] = points
    s = np.empty(n + most)
    s[:n] = size
    t = np.empty(3 * (m + 2 * most), dtype=np.int32)
    t[: 3 * m] = triangles.ravel()
    across = np.full(len(t), -1, dtype=np.int64)
    across[: 3 * m] = twin
    used, count = n, m
    while True:
        before = used
        for f in range(count):
            if used == n + most:
                break
            a, b, c = t[3 * f], t[3 * f + 1], t[3 * f + 2]
            wanted = (s[a] + s[b] + s[c]) / 3.0
            for k in range(3):
                p[used, k] = (p[a, k] + p[b, k] + p[c, k]) / 3.0
            divide = True
            for v in (a, b, c):
                length = _DENSITY * _distance(p, used, v)
                divide &= length > wanted and length > s[v]
            if not divide:
                continue
            s[used] = wanted
            h, g, i = 3 * f, 3 * count, 3 * count + 3
            bc, ca = across[h + 1], across[h + 2]
            t[h + 2] = used
            t[g], t[g + 1], t[g + 2] = b, c, used
            t[i], t[i + 1], t[i + 2] = c, a, used
            across[g] = bc
            across[i] = ca
            if bc >= 0:
                across[bc] = g
            if ca >= 0:
                across[ca] = i
            across[h + 1], across[g + 2] = g + 2, h + 1
            across[g + 1], across[i + 2] = i + 2, g + 1
            across[i + 1], across[h + 2] = h + 2, i + 1
            used += 1
            count += 2
            for edge in (h, g, i):
                _flip_if_better(p, t, across, n, edge)
        for _ in range(_FLIP_PASSES):
            turned = False
            for h in range(3 * count):
                turned |= _flip_if_better(p, t, across, n, h)
            if not turned:
                break
        if used == before:
            break
    return p[:used].copy(), t[: 3 * count].copy().reshape(-1, 3)
