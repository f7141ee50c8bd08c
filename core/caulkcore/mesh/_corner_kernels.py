"""The corners of faces chained vertex by vertex: who is round a vertex, while faces change."""

import numpy as np

from ..jit import nb
from .arrays import Array


@nb.njit(cache=True)
def vertex_corners(faces: Array, count: int) -> tuple[Array, Array, Array]:
    """Chain the corners at each vertex: the first, the last, and the next of each corner."""
    first = np.full(count, -1, np.int32)
    last = np.full(count, -1, np.int32)
    following = np.full(3 * len(faces), -1, np.int32)
    for f in range(len(faces)):
        for k in range(3):
            v, corner = faces[f, k], np.int32(3 * f + k)
            if first[v] < 0:
                first[v] = corner
            else:
                following[last[v]] = corner
            last[v] = corner
    return first, last, following


@nb.njit(cache=True)
def other_corners(faces: Array, f: int, k: int) -> tuple[int, int]:
    """The corners of a face after its corner k, in turn."""
    if k == 0:
        return faces[f, 1], faces[f, 2]
    if k == 1:
        return faces[f, 2], faces[f, 0]
    return faces[f, 0], faces[f, 1]
