"""What lies near what in a plane: a grid of about as many cells as there are things.

The grid has `size` cells along each axis from `low` on, `scale` to the unit; what lies beyond its
border belongs to the cells there.
"""

import numpy as np

from ..jit import nb
from ..mesh.arrays import Array


@nb.njit(cache=True)
def cell(x: float, y: float, low: Array, scale: Array, size: int) -> tuple[int, int]:
    """Column and row of the cell that holds a point."""
    return (
        min(max(int((x - low[0]) * scale[0]), 0), size - 1),
        min(max(int((y - low[1]) * scale[1]), 0), size - 1),
    )


@nb.njit(cache=True)
def put_in_cell(  # type: ignore[no-untyped-def]
    xy: Array, n: int, head: Array, following: Array, low: Array, scale: Array, size: int
):
    """Put a point before the others of its cell.

    Parameters
    ----------
    xy : ndarray, shape (room, 2)
        The points.
    n : int
        Row of the point.
    head : ndarray, shape (size * size,), int64
        The first point of each cell, or -1; changed in place.
    following : ndarray, shape (room,), int64
        The next point of the same cell, or -1; changed in place.
    low, scale : ndarray, shape (2,)
        Of the grid.
    size : int
    """
    cx, cy = cell(xy[n, 0], xy[n, 1], low, scale, size)
    following[n] = head[cx * size + cy]
    head[cx * size + cy] = n


@nb.njit(cache=True)
def cells_of_boxes(boxes: Array, low: Array, scale: Array, size: int) -> tuple[Array, Array]:
    """Boxes by the cells they reach into, in compressed rows.

    Parameters
    ----------
    boxes : ndarray, shape (n, 4)
        Low x, low y, high x, high y of each.
    low, scale : ndarray, shape (2,)
        Of the grid.
    size : int

    Returns
    -------
    starts : ndarray, shape (size * size + 1,), int64
        Where each cell begins in `items`.
    items : ndarray, int64
        Numbers of boxes.
    """
    starts = np.zeros(size * size + 1, np.int64)
    for fill in range(2):
        if fill == 1:
            for c in range(size * size):
                starts[c + 1] += starts[c]
            items = np.empty(starts[-1], np.int64)
            at = starts[:-1].copy()
        for b in range(len(boxes)):
            x0, y0 = cell(boxes[b, 0], boxes[b, 1], low, scale, size)
            x1, y1 = cell(boxes[b, 2], boxes[b, 3], low, scale, size)
            for cx in range(x0, x1 + 1):
                for cy in range(y0, y1 + 1):
                    if fill == 0:
                        starts[cx * size + cy + 1] += 1
                    else:
                        items[at[cx * size + cy]] = b
                        at[cx * size + cy] += 1
    return starts, items
