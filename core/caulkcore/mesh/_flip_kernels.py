"""Edge flips towards a Delaunay triangulation: of `delaunay_flips`, and of remeshing."""

import numpy as np

from ..jit import nb
from ._face_kernels import cross, row
from .arrays import Array

_MARGIN = 1e-9
"""Cotangents that add up to less than minus this are worth a flip: rounding is not."""


@nb.njit(cache=True)
def _cotangent(p: Array, at: int, one: int, other: int) -> float:
    """Cotangent of the angle at a vertex between two others."""
    n = cross(row(p, at), row(p, one), row(p, other))
    size = np.sqrt(n[0] * n[0] + n[1] * n[1] + n[2] * n[2])
    dot = 0.0
    for k in range(3):
        dot += (p[one, k] - p[at, k]) * (p[other, k] - p[at, k])
    return dot / size if size > 0.0 else np.inf


@nb.njit(cache=True)
def _has_neighbour(faces: Array, twin: Array, half: int, wanted: int) -> bool:
    """Whether the vertex that a half-edge begins at has an edge to another one."""
    for way in range(2):
        h = half
        while True:
            f, k = h // 3, h % 3
            if faces[f, (k + 1) % 3] == wanted or faces[f, (k + 2) % 3] == wanted:
                return True
            # round the vertex, one way until the rim, then the other
            if way == 0:
                h = twin[3 * f + (k + 2) % 3]
            else:
                t = twin[h]
                h = 3 * (t // 3) + (t % 3 + 1) % 3 if t >= 0 else -1
            if h < 0:
                break
            if h == half:
                return False
    return False


@nb.njit(cache=True)
def _bends_too_far(p: Array, x: int, y: int, z: int, w: int, reach: float) -> bool:
    """Whether the diagonal z w is farther from x y than `reach`, or turns a face over."""
    before = cross(row(p, x), row(p, y), row(p, z)), cross(row(p, y), row(p, x), row(p, w))
    after = cross(row(p, x), row(p, w), row(p, z)), cross(row(p, w), row(p, y), row(p, z))
    for a in before:
        for b in after:
            if a[0] * b[0] + a[1] * b[1] + a[2] * b[2] <= 0.0:
                return True
    d, e = np.empty(3), np.empty(3)
    for k in range(3):
        d[k], e[k] = p[y, k] - p[x, k], p[w, k] - p[z, k]
    n0, n1, n2 = d[1] * e[2] - d[2] * e[1], d[2] * e[0] - d[0] * e[2], d[0] * e[1] - d[1] * e[0]
    size = np.sqrt(n0 * n0 + n1 * n1 + n2 * n2)
    along = n0 * (p[z, 0] - p[x, 0]) + n1 * (p[z, 1] - p[x, 1]) + n2 * (p[z, 2] - p[x, 2])
    return abs(along) > reach * size


@nb.njit(cache=True)
def flip_edges(p: Array, faces: Array, twin: Array, free: Array, most: int, reach: float) -> int:
    """Flip edges until the angles across each add up to 180 degrees at most; how many were.

    Parameters
    ----------
    p : ndarray, shape (n, 3)
    faces : ndarray, shape (m, 3)
        Changed in place.
    twin : ndarray, shape (3 m,)
        Half-edge across each half-edge; changed in place.
    free : ndarray, shape (3 m,), bool
        Half-edges that may be flipped, at first; changed in place.
    most : int
        Flips at most.
    reach : float
        How far the two diagonals of a flip may be apart, mm; infinite on flat surfaces. Where it is
        finite, no face may turn over and no edge come about twice.

    Returns
    -------
    int
    """
    stack = np.empty(len(twin) + 4 * most + 8, dtype=np.int64)
    top = 0
    for h in range(len(twin)):
        if free[h] and twin[h] > h:
            stack[top] = h
            top += 1
    flips = 0
    while top > 0 and flips < most:
        top -= 1
        h = stack[top]
        t = twin[h]
        if t < 0 or not free[h]:
            continue
        f, i, g, j = h // 3, h % 3, t // 3, t % 3
        x, y, z = faces[f, i], faces[f, (i + 1) % 3], faces[f, (i + 2) % 3]
        w = faces[g, (j + 2) % 3]
        if z == w or not (_cotangent(p, z, x, y) + _cotangent(p, w, x, y) < -_MARGIN):
            continue
        if np.isfinite(reach) and (
            _bends_too_far(p, x, y, z, w, reach)
            or _has_neighbour(faces, twin, 3 * f + (i + 2) % 3, w)
        ):
            continue
        # round the pair: x to w, w to y, y to z, z to x
        outer = (3 * g + (j + 1) % 3, 3 * g + (j + 2) % 3, 3 * f + (i + 1) % 3, 3 * f + (i + 2) % 3)
        beyond = (twin[outer[0]], twin[outer[1]], twin[outer[2]], twin[outer[3]])
        may = (free[outer[0]], free[outer[1]], free[outer[2]], free[outer[3]])
        faces[f, 0], faces[f, 1], faces[f, 2] = x, w, z
        faces[g, 0], faces[g, 1], faces[g, 2] = w, y, z
        now = (3 * f, 3 * g, 3 * g + 1, 3 * f + 2)
        for k in range(4):
            twin[now[k]] = beyond[k]
            if beyond[k] >= 0:
                twin[beyond[k]] = now[k]
            free[now[k]] = may[k]
        twin[3 * f + 1], twin[3 * g + 2] = 3 * g + 2, 3 * f + 1
        free[3 * f + 1] = free[3 * g + 2] = True
        flips += 1
        for k in range(4):
            if may[k]:
                stack[top] = now[k]
                top += 1
    return flips
