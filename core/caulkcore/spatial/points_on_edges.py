"""Which points lie along which edges, without being one of their ends."""

import numpy as np

from ..jit import nb
from ..mesh._face_kernels import Point, row
from ..mesh.arrays import Array
from .box_tree import LEAF_SIZE, Tree, to_box


@nb.njit(cache=True)
def _foot(p: Point, a: Point, b: Point) -> tuple[float, float]:
    """Squared distance from a point to a line through a and b, and where between them its foot is.

    The share is 0 at a and 1 at b.
    """
    along = size = 0.0
    for k in range(3):
        along += (p[k] - a[k]) * (b[k] - a[k])
        size += (b[k] - a[k]) ** 2
    if size == 0.0:
        return np.inf, 0.0
    t = along / size
    total = 0.0
    for k in range(3):
        total += (p[k] - a[k] - t * (b[k] - a[k])) ** 2
    return total, t


@nb.njit(cache=True, parallel=True)
def _nearest_edges(  # type: ignore[no-untyped-def]
    v: Array, edges: Array, order: Array, boxes: Array, points: Array, reach: Array, root: Array,
    third: Array, found: Array, share: Array,
):  # fmt: skip
    leaves = len(boxes) // 2
    for i in nb.prange(len(points)):
        w = points[i]
        p = row(v, w)
        best = reach[i] * reach[i]
        stack = np.empty(64, dtype=np.int64)
        stack[0] = 1
        top = 1
        while top > 0:
            top -= 1
            node = stack[top]
            if to_box(p, boxes, node) > best:
                continue
            if node < leaves:
                stack[top], stack[top + 1] = 2 * node, 2 * node + 1
                top += 2
                continue
            first = (node - leaves) * LEAF_SIZE
            for j in range(first, min(first + LEAF_SIZE, len(order))):
                e = order[j]
                a, b = edges[e, 0], edges[e, 1]
                if root[a] == root[w] or root[b] == root[w] or third[e] == root[w]:
                    continue
                d, t = _foot(p, row(v, a), row(v, b))
                if d <= best and 0.0 < t < 1.0:
                    best = d
                    found[i] = e
                    share[i] = t


def nearest_edges(
    vertices: Array, edges: Array, third: Array, points: Array, reach: Array, root: Array
) -> tuple[Array, Array]:
    """For each of some vertices, the nearest edge that it lies beside.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3)
    edges : ndarray, shape (k, 2)
        Ends of the edges, at least one edge.
    third : ndarray, shape (k,)
        Root of the third corner of the face that each edge is of, which never counts as beside
        the edge.
    points : ndarray, shape (m,)
        Vertices.
    reach : ndarray, shape (m,)
        Greatest distance for each, in the unit of the vertices.
    root : ndarray, shape (n,)
        Vertices with the same root are one: an edge that ends there does not count.

    Returns
    -------
    found : ndarray, shape (m,), int64
        The edge; -1 for none within reach whose ends the foot lies between.
    share : ndarray, shape (m,)
        Where on it, from 0 at its first end to 1 at its second.

    Examples
    --------
    >>> points = np.array([[0, 0, 0], [8, 0, 0], [3, 0.01, 0.0]])
    >>> edge = np.array([[0, 1]], dtype=np.int32)
    >>> asked, reach = np.array([2]), np.array([0.1])
    >>> near = nearest_edges(points, edge, np.array([-1]), asked, reach, np.arange(3))
    >>> [one.tolist() for one in near]
    [[0], [0.375]]
    """
    tree = Tree.of(vertices, edges[:, [0, 1, 1]])
    found = np.full(len(points), -1, dtype=np.int64)
    share = np.zeros(len(points))
    _nearest_edges(
        tree.vertices, tree.faces, tree.order, tree.boxes, points.astype(np.int64),
        np.ascontiguousarray(reach), root.astype(np.int64),
        third.astype(np.int64), found, share,
    )  # fmt: skip
    return found, share
