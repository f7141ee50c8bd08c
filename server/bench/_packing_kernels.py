"""Compiled: corners of faces written tightly, as distances back."""

import numpy as np
from caulkcore.jit import nb
from caulkcore.mesh.arrays import Array


@nb.njit(cache=True)
def distances_back(corners: Array) -> Array:
    """Write corners as bytes: the distance back from the next new number, seven bits a byte.

    Each is 0 for a vertex not met before; the top bit of a byte says that another follows.
    """
    out = np.empty(5 * len(corners), dtype=np.uint8)
    used = 0
    fresh = 0
    for c in range(len(corners)):
        back = fresh - corners[c]
        if back == 0:
            fresh += 1
        while back >= 128:
            out[used] = (back & 127) | 128
            used += 1
            back >>= 7
        out[used] = back
        used += 1
    return out[:used].copy()
