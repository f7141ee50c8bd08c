"""Joining vertices of equal coordinates."""

import numpy as np

from ..jit import IS_INTERPRETED, nb
from .arrays import Array
from .triangle_mesh import Mesh


@nb.njit(cache=True)
def _word(bits: Array, i: int, k: int) -> int:
    """A coordinate's bits; those of zero for minus zero, whose only bit is the sign."""
    word = np.uint64(bits[i, k])
    return word if word != np.uint64(1) << np.uint64(8 * bits.itemsize - 1) else np.uint64(0)


@nb.njit(cache=True)
def _weld(bits: Array, index: Array, first: Array) -> int:
    n = len(bits)
    size = 1
    while size < n + n // 2 + 1:
        size *= 2
    mask = np.uint64(size - 1)
    table = np.full(size, -1, dtype=np.int32)
    found = 0
    for i in range(n):
        x, y, z = _word(bits, i, 0), _word(bits, i, 1), _word(bits, i, 2)
        h = x * np.uint64(0x9E3779B97F4A7C15)
        h ^= h >> np.uint64(29)
        h = (h + y) * np.uint64(0xBF58476D1CE4E5B9)
        h ^= h >> np.uint64(32)
        h = (h + z) * np.uint64(0x94D049BB133111EB)
        h ^= h >> np.uint64(29)
        slot = h & mask
        while True:
            known = table[slot]
            if known < 0:
                table[slot] = found
                first[found] = i
                index[i] = found
                found += 1
                break
            j = first[known]
            if _word(bits, j, 0) == x and _word(bits, j, 1) == y and _word(bits, j, 2) == z:
                index[i] = known
                break
            slot = (slot + np.uint64(1)) & mask
    return found


def _weld_by_sorting(corners: Array) -> tuple[Array, Array]:
    """What `weld` returns; for processes that do not compile."""
    _, first, group = np.unique(corners, axis=0, return_index=True, return_inverse=True)
    order = np.argsort(first, kind="stable")
    rank = np.empty(len(first), dtype=np.int32)
    rank[order] = np.arange(len(first))
    return corners[first[order]], rank[group.reshape(-1)]


def weld(corners: Array) -> tuple[Array, Array]:
    """Join points of equal coordinates; minus zero equals zero.

    Parameters
    ----------
    corners : ndarray, shape (n, 3), float32 or float64
        Finite coordinates.

    Returns
    -------
    vertices : ndarray, shape (u, 3)
        The different points, in order of first appearance, in the type of `corners`.
    index : ndarray, shape (n,), int32
        ``vertices[index]`` equals `corners`.

    Examples
    --------
    >>> vertices, index = weld(np.array([[0.0, 0, 0], [1, 0, 0], [0, 0, 0]]))
    >>> len(vertices), index.tolist()
    (2, [0, 1, 0])
    """
    corners = np.ascontiguousarray(corners)
    bits = corners.view(np.uint32 if corners.dtype == np.float32 else np.uint64)
    if IS_INTERPRETED:
        return _weld_by_sorting(corners + corners.dtype.type(0))
    index = np.empty(len(corners), dtype=np.int32)
    first = np.empty(len(corners), dtype=np.int32)
    found = _weld(bits, index, first)
    return corners[first[:found]] + corners.dtype.type(0), index


def welded(mesh: Mesh) -> Mesh:
    """The mesh with vertices joined that stand at one place.

    Parameters
    ----------
    mesh : Mesh

    Returns
    -------
    Mesh

    Examples
    --------
    >>> apart = Mesh([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 0], [0, 1, 0], [-1, 0, 0]],
    ...     [[0, 1, 2], [3, 4, 5]])
    >>> welded(apart).faces.tolist()
    [[0, 1, 2], [0, 2, 3]]
    """
    vertices, index = weld(mesh.vertices)
    return Mesh(vertices, index[mesh.faces])
