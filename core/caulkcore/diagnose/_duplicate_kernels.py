"""Faces that stand on the same three vertices."""

import numpy as np

from ..jit import nb
from ..mesh.arrays import Array


@nb.njit(cache=True)
def first_of_same(faces: Array, order: Array, starts: Array) -> Array:
    """For each face the lowest face with the same three vertices, itself included.

    Such faces share an edge, so only the faces at each edge are compared.

    Returns
    -------
    ndarray, shape (m,), int32
    """
    first = np.arange(len(faces)).astype(np.int32)
    for e in range(len(starts) - 1):
        n = starts[e + 1] - starts[e]
        if n < 2:
            continue
        for i in range(starts[e], starts[e + 1]):
            f = order[i] // 3
            third = faces[f, (order[i] % 3 + 2) % 3]
            for j in range(i + 1, starts[e + 1]):
                g = order[j] // 3
                if faces[g, (order[j] % 3 + 2) % 3] == third:
                    low, high = min(f, g), max(f, g)
                    first[high] = min(first[high], low)
    return first


@nb.njit(cache=True)
def has_two_faced_pillow(twin: Array) -> bool:
    """Whether two faces lie across all three edges of each other; `twin` is of a topology."""
    for f in range(len(twin) // 3):
        other = twin[3 * f] // 3
        if twin[3 * f] >= 0 and twin[3 * f + 1] // 3 == other and twin[3 * f + 2] // 3 == other:
            return True
    return False
