"""Faces without area that serve nothing."""

import numpy as np

from ..jit import nb
from ..mesh.arrays import Array


@nb.njit(cache=True)
def peel(flat: Array, order: Array, starts: Array) -> Array:
    """Which faces without area the skin is better off without.

    An edge is sound with two faces, or none. A face that may go goes if that makes more of its
    edges sound than it spoils; then its neighbours are asked again.

    Parameters
    ----------
    flat : ndarray, shape (m,), bool
        Faces that may go.
    order : ndarray, shape (3 m,)
        Half-edges edge by edge, of a topology.
    starts : ndarray, shape (e + 1,)
        Where each edge begins.

    Returns
    -------
    ndarray, shape (m,), bool
        Those that go.
    """
    edge_of = np.empty(len(order), np.int64)
    count = np.empty(len(starts) - 1, np.int64)
    for e in range(len(count)):
        count[e] = starts[e + 1] - starts[e]
        for i in range(starts[e], starts[e + 1]):
            edge_of[order[i]] = e
    goes = np.zeros(len(flat), np.bool_)
    waits = flat.copy()
    stack = np.empty(len(flat), np.int64)
    size = 0
    # the last is asked first: faces in the order of their numbers
    for f in range(len(flat) - 1, -1, -1):
        if flat[f]:
            stack[size] = f
            size += 1
    while size > 0:
        size -= 1
        f = stack[size]
        waits[f] = False
        gained = 0
        for k in range(3):
            n = count[edge_of[3 * f + k]]
            gained += (n == 1 or n == 3) - (n == 2)
        if gained <= 0:
            continue
        goes[f] = True
        for k in range(3):
            e = edge_of[3 * f + k]
            count[e] -= 1
            for i in range(starts[e], starts[e + 1]):
                g = order[i] // 3
                if flat[g] and not goes[g] and not waits[g]:
                    waits[g] = True
                    stack[size] = g
                    size += 1
    return goes
