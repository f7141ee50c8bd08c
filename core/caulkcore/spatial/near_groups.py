"""Points that are one by a chain of near ones, however crowded they are."""

import numpy as np

from ..jit import nb
from ..mesh._edge_kernels import root
from ..mesh._face_kernels import squared
from ..mesh.arrays import Array

_SIDE = 0.57
"""Side of a cell as a share of the distance: points in one cell are surely within it of each
other, as the diagonal of a cube of that side is."""
_CELLS = 2
"""Cells on each side of one that may hold a near point."""


def near_groups(points: Array, reach: Array, distance: float) -> Array:
    """Group points that are joined by a chain of pairs, each within the reach of both.

    Work and memory grow with the number of points, even if all are within reach of all: of
    crowded cells one pair is enough.

    Parameters
    ----------
    points : ndarray, shape (n, 3)
    reach : ndarray, shape (n,)
        Of each point, `distance` at most.
    distance : float
        Above zero.

    Returns
    -------
    ndarray, shape (n,), int64
        The least of the points that each is one with.

    Examples
    --------
    >>> line = np.array([[0.0, 0, 0], [0.9, 0, 0], [1.8, 0, 0], [9, 0, 0]])
    >>> near_groups(line, np.full(4, 1.0), 1.0).tolist()
    [0, 0, 0, 3]
    """
    if not len(points):
        return np.zeros(0, dtype=np.int64)
    # as floats: whole numbers of 64 bits would not do for a hair at a model's far end
    cell = np.floor((points - points.min(axis=0)) / (_SIDE * distance))
    order = np.lexsort(cell.T[::-1])
    cell = cell[order]
    begins = np.flatnonzero(np.append(True, (cell[1:] != cell[:-1]).any(axis=1)))
    starts = np.append(begins, len(points))
    return _joined(
        np.ascontiguousarray(points[order], dtype=np.float64),
        np.ascontiguousarray(reach[order], dtype=np.float64),
        float(distance), np.ascontiguousarray(cell[begins]), starts, order,
    )  # fmt: skip


@nb.njit(cache=True)
def _find(cells: Array, x: float, y: float, z: float) -> int:
    """Row of a cell in a sorted list; -1 if it is not there."""
    low, high = 0, len(cells)
    while low < high:
        middle = (low + high) // 2
        a, b, c = cells[middle, 0], cells[middle, 1], cells[middle, 2]
        if a < x or (a == x and (b < y or (b == y and c < z))):
            low = middle + 1
        else:
            high = middle
    if low < len(cells) and cells[low, 0] == x and cells[low, 1] == y and cells[low, 2] == z:
        return low
    return -1


@nb.njit(cache=True)
def _joined(
    points: Array, reach: Array, distance: float, cells: Array, starts: Array, order: Array
) -> Array:
    """See `near_groups`.

    Parameters
    ----------
    points : ndarray, shape (n, 3)
        Cell by cell.
    reach : ndarray, shape (n,)
    distance : float
    cells : ndarray, shape (c, 3)
        The cells in use, sorted.
    starts : ndarray, shape (c + 1,)
        Where the points of each begin.
    order : ndarray, shape (n,)
        Number of each point as it was given.

    Returns
    -------
    ndarray, shape (n,), int64
    """
    n = len(points)
    parent = np.arange(n)
    # those of full reach are one within a cell: one of them stands for all when cells are compared
    full = np.full(len(cells), -1, np.int64)
    has_lesser = np.zeros(len(cells), np.bool_)
    for c in range(len(cells)):
        for i in range(starts[c], starts[c + 1]):
            if reach[i] >= distance:
                if full[c] < 0:
                    full[c] = i
                elif squared(points, i, full[c]) <= distance * distance:
                    parent[root(parent, i)] = root(parent, full[c])
                else:
                    has_lesser[c] = True  # so far out that rounding has put it here
            else:
                has_lesser[c] = True
    for c in range(len(cells)):
        for dx in range(-_CELLS, _CELLS + 1):
            for dy in range(-_CELLS, _CELLS + 1):
                for dz in range(-_CELLS, _CELLS + 1):
                    d = _find(cells, cells[c, 0] + dx, cells[c, 1] + dy, cells[c, 2] + dz)
                    if d < c:
                        continue
                    for i in range(starts[c], starts[c + 1]):
                        whole = reach[i] >= distance
                        if whole and full[c] >= 0 and full[d] >= 0:
                            joined = root(parent, full[c]) == root(parent, full[d])
                        else:
                            joined = False
                        if joined and not has_lesser[d]:
                            continue
                        for j in range(starts[d], starts[d + 1]):
                            if joined and reach[j] >= distance:
                                continue
                            near = min(reach[i], reach[j])
                            if squared(points, i, j) <= near * near:
                                parent[root(parent, i)] = root(parent, j)
                                if whole and reach[j] >= distance:
                                    joined = True
    least = np.full(n, n, np.int64)
    for i in range(n):
        r = root(parent, i)
        least[r] = min(least[r], order[i])
    out = np.empty(n, np.int64)
    for i in range(n):
        out[order[i]] = least[root(parent, i)]
    return out
