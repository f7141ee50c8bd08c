"""Triangulating a ring of points in space by least area."""

import numpy as np

from ..jit import nb
from ..mesh.arrays import Array


@nb.njit(cache=True)
def _cost(p: Array, i: int, j: int, k: int) -> float:
    ux, uy, uz = p[j, 0] - p[i, 0], p[j, 1] - p[i, 1], p[j, 2] - p[i, 2]
    vx, vy, vz = p[k, 0] - p[i, 0], p[k, 1] - p[i, 1], p[k, 2] - p[i, 2]
    x, y, z = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
    wx, wy, wz = vx - ux, vy - uy, vz - uz
    sides = ux * ux + uy * uy + uz * uz + vx * vx + vy * vy + vz * vz
    sides += wx * wx + wy * wy + wz * wz
    # among fills of equal area the one of rounder triangles
    return 0.5 * np.sqrt(x * x + y * y + z * z) + 1e-4 * sides


@nb.njit(cache=True)
def least_area(points: Array, banned: Array) -> Array:
    """Triangles over a ring with the least total area (Barequet & Sharir 1995); cubic time.

    Parameters
    ----------
    points : ndarray, shape (n, 3)
    banned : ndarray, shape (n, n), bool
        Chords that must not be used, because the mesh has that edge already.

    Returns
    -------
    ndarray, shape (n - 2, 3), int32
        Indices of `points` in ring order; empty when every triangulation needs a banned chord.
    """
    n = len(points)
    weight = np.full((n, n), np.inf)
    middle = np.zeros((n, n), dtype=np.int32)
    for i in range(n - 1):
        weight[i, i + 1] = 0.0
    for gap in range(2, n):
        for i in range(n - gap):
            k = i + gap
            if banned[i, k] and gap < n - 1:
                continue
            best = np.inf
            for j in range(i + 1, k):
                w = weight[i, j] + weight[j, k]
                if w < best:
                    w += _cost(points, i, j, k)
                    if w < best:
                        best = w
                        middle[i, k] = j
            weight[i, k] = best
    out = np.empty((n - 2, 3), dtype=np.int32)
    if not np.isfinite(weight[0, n - 1]):
        return out[:0]
    stack = np.empty((n, 2), dtype=np.int32)
    stack[0, 0], stack[0, 1] = 0, n - 1
    top = 1
    used = 0
    while top > 0:
        top -= 1
        i, k = stack[top, 0], stack[top, 1]
        j = middle[i, k]
        out[used, 0], out[used, 1], out[used, 2] = i, j, k
        used += 1
        if j - i > 1:
            stack[top, 0], stack[top, 1] = i, j
            top += 1
        if k - j > 1:
            stack[top, 0], stack[top, 1] = j, k
            top += 1
    return out


@nb.njit(cache=True)
def best_chord(points: Array, banned_from: Array, banned_to: Array) -> tuple[int, int]:
    """The chord that cuts a long ring in two most cheaply: short against the way round.

    Each side gets at least a quarter of the ring. Banned chords are given as sorted pairs.
    """
    n = len(points)
    best = np.inf
    at = (-1, -1)
    for i in range(n):
        for j in range(i + n // 4, min(n, i + n - n // 4)):
            d = 0.0
            for k in range(3):
                d += (points[i, k] - points[j, k]) ** 2
            if d < best:
                bad = False
                for b in range(len(banned_from)):
                    if banned_from[b] == i and banned_to[b] == j:
                        bad = True
                        break
                if not bad:
                    best = d
                    at = (i, j)
    return at


@nb.njit(cache=True)
def least_band(p: Array, q: Array) -> Array:
    """The band of least area between two rings that run the same way, from p[0] and q[0] on.

    Fuchs, Kedem & Uselton 1977, *Optimal surface reconstruction from planar contours*; the time
    grows with the product of the lengths.

    Parameters
    ----------
    p, q : ndarray, shape (n, 3) and (m, 3)

    Returns
    -------
    ndarray, shape (n + m,), bool
        Step after step: whether along `p` (a triangle over its next edge) or along `q`.
    """
    n, m = len(p), len(q)
    both = np.concatenate((p, q))
    cost = np.full((n + 1, m + 1), np.inf)
    along = np.zeros((n + 1, m + 1), dtype=np.bool_)
    cost[0, 0] = 0.0
    for i in range(n + 1):
        for j in range(m + 1):
            if i > 0:
                w = cost[i - 1, j] + _cost(both, i - 1, i % n, n + j % m)
                if w < cost[i, j]:
                    cost[i, j], along[i, j] = w, True
            if j > 0:
                w = cost[i, j - 1] + _cost(both, n + j - 1, n + j % m, i % n)
                if w < cost[i, j]:
                    cost[i, j], along[i, j] = w, False
    steps = np.empty(n + m, dtype=np.bool_)
    i, j = n, m
    for k in range(n + m - 1, -1, -1):
        steps[k] = along[i, j]
        if along[i, j]:
            i -= 1
        else:
            j -= 1
    return steps
