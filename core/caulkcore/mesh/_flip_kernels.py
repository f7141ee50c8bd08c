"""Edge flips of `delaunay_flips`."""

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
def flip_edges(p: Array, faces: Array, twin: Array, free: Array, most: int) -> int:
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
