"""Rays that count what they cross: which shells, or how often the surface winds round a point."""

import numpy as np

from ..jit import nb
from ..mesh._face_kernels import cross, ray_at, row
from ..mesh.arrays import Array, frozen
from .box_tree import LEAF_SIZE, Tree, corners_of

_DIRECTIONS = np.array([[0.61, 0.37, 0.70], [-0.43, 0.81, 0.39], [0.29, -0.58, 0.76]])
"""Directions of rays, along no axis and in no plane that models are made of."""


_NEAR_EDGE = 1e-9
"""Weight of a corner below which rounding decides whether a ray meets a triangle."""


def shells_crossed_by_rays(
    tree: Tree, points: Array, direction: Array, shell: Array
) -> tuple[Array, Array]:
    """Shells that a ray from each point crosses an odd number of times.

    Parameters
    ----------
    tree : Tree
    points : ndarray, shape (k, 3)
    direction : ndarray, shape (3,)
    shell : ndarray, shape (m,)
        Shell of each face of the tree.

    Returns
    -------
    owner : ndarray, shape (k,)
        Index of the point.
    around : ndarray, shape (k,)
        A shell that this point's ray crossed an odd number of times.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> cube = cuboid()
    >>> tree = Tree.of(cube.vertices, cube.faces)
    >>> middle = np.array([[5.1, 5.2, 5.3]])
    >>> crossed = shells_crossed_by_rays(tree, middle, np.array([0.2, 0.3, 0.9]), np.zeros(12, int))
    >>> [one.tolist() for one in crossed]
    [[0], [0]]
    """
    hits = np.zeros(len(points) + 1, dtype=np.int64)
    empty = np.zeros(0, dtype=np.int64)
    arrays = (tree.vertices, tree.faces, tree.order, tree.boxes)
    _count_crossings(points, direction, *arrays, shell, hits, empty, False)
    begin = np.concatenate([[0], np.cumsum(hits[:-1])])
    crossed = np.empty(begin[-1], dtype=np.int64)
    _count_crossings(points, direction, *arrays, shell, begin, crossed, True)
    owner = np.repeat(np.arange(len(points)), np.diff(begin))
    span = int(shell.max()) + 1
    key, times = np.unique(owner * span + crossed, return_counts=True)
    odd = key[times % 2 == 1]
    return odd // span, odd % span


def ray_winding_numbers(tree: Tree, points: Array) -> Array:
    """How often a closed surface winds round each point, by rays in three directions.

    Each crossing counts one more or less as the surface faces. Where a ray passes so near an edge
    that rounding decides, another direction is taken; in the end it is as the last one says.

    Parameters
    ----------
    tree : Tree
        Over a closed surface: where it is open the counts mean nothing.
    points : ndarray, shape (k, 3)
        Not on the surface.

    Returns
    -------
    ndarray, shape (k,), int64

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> cube = cuboid()
    >>> tree = Tree.of(cube.vertices, cube.faces)
    >>> ray_winding_numbers(tree, np.array([[5.1, 5.2, 5.3], [15.0, 5.2, 5.3]])).tolist()
    [1, 0]
    """
    counts = np.zeros(len(points), dtype=np.int64)
    left = np.arange(len(points))
    for direction in _DIRECTIONS:
        if not len(left):
            break
        found, clear = np.empty(len(left), dtype=np.int64), np.empty(len(left), dtype=np.bool_)
        _signed_crossings(
            frozen(points[left], np.float64), direction, tree.vertices, tree.faces, tree.order,
            tree.boxes, found, clear,
        )  # fmt: skip
        counts[left] = found
        left = left[~clear]
    return counts


def boxes_within(low: Array, high: Array, may: Array) -> tuple[Array, Array]:
    """Which boxes have another in them, and which lie in another.

    Parameters
    ----------
    low, high : ndarray, shape (n, 3)
    may : ndarray, shape (n,), bool
        Boxes that count as outer ones.

    Returns
    -------
    outer, inner : ndarray, shape (n,), bool
    """
    spans = (high.max(axis=0) - low.min(axis=0)).clip(1e-300)
    axis = int(np.argmin((high - low).mean(axis=0) / spans))
    order = np.argsort(low[:, axis], kind="stable")
    found = _sweep_boxes(low[order], high[order], may[order], axis)
    outer, inner = np.zeros((2, len(low)), dtype=bool)
    outer[order], inner[order] = found
    return outer, inner


@nb.njit(cache=True)
def _sweep_boxes(low: Array, high: Array, may: Array, axis: int) -> tuple[Array, Array]:
    n = len(low)
    outer, inner = np.zeros(n, dtype=np.bool_), np.zeros(n, dtype=np.bool_)
    for j in range(n):
        if not may[j]:
            continue
        i = np.searchsorted(low[:, axis], low[j, axis])
        while i < n and low[i, axis] <= high[j, axis]:
            fits = i != j
            for k in range(3):
                fits &= low[i, k] >= low[j, k] and high[i, k] <= high[j, k]
            if fits:
                outer[j] = True
                inner[i] = True
            i += 1
    return outer, inner


@nb.njit(cache=True)
def _enters(points: Array, i: int, direction: Array, boxes: Array, node: int) -> bool:
    """Whether the ray from a point passes through the box of a node."""
    near, far = 0.0, np.inf
    for k in range(3):
        # empty boxes are inside out: they are left by the side that others are entered by
        first, last = (k, 3 + k) if direction[k] > 0.0 else (3 + k, k)
        near = max(near, (boxes[node, first] - points[i, k]) / direction[k])
        far = min(far, (boxes[node, last] - points[i, k]) / direction[k])
    return not near > far


@nb.njit(cache=True, parallel=True)
def _count_crossings(  # type: ignore[no-untyped-def]
    points: Array,
    direction: Array,
    vertices: Array,
    faces: Array,
    order: Array,
    boxes: Array,
    shell: Array,
    begin: Array,
    crossed: Array,
    store: bool,
):
    leaves = len(boxes) // 2
    d = (direction[0], direction[1], direction[2])
    for i in nb.prange(len(points)):
        p = row(points, i)
        stack = np.empty(64, dtype=np.int64)
        stack[0] = 1
        top = 1
        n = 0
        while top > 0:
            top -= 1
            node = stack[top]
            if not _enters(points, i, direction, boxes, node):
                continue
            if node < leaves:
                stack[top] = 2 * node
                stack[top + 1] = 2 * node + 1
                top += 2
                continue
            first = (node - leaves) * LEAF_SIZE
            for j in range(first, min(first + LEAF_SIZE, len(order))):
                f = order[j]
                a, b, c = corners_of(vertices, faces, f)
                u, v, t = ray_at(p, d, a, b, c)
                if u >= 0.0 and v >= 0.0 and u + v <= 1.0 and t > 0.0:
                    if store:
                        crossed[begin[i] + n] = shell[f]
                    n += 1
        if not store:
            begin[i] = n


@nb.njit(cache=True, parallel=True)
def _signed_crossings(
    points: Array, direction: Array, vertices: Array, faces: Array, order: Array, boxes: Array,
    out: Array, clear: Array,
) -> None:  # fmt: skip
    """Crossings of a ray from each point: those out of the surface less those into it.

    Parameters
    ----------
    points : ndarray, shape (k, 3)
    direction : ndarray, shape (3,)
        Of all rays; no component is nought.
    vertices : ndarray, shape (n, 3)
    faces : ndarray, shape (m, 3)
    order, boxes : ndarray
        Of the tree.
    out : ndarray, shape (k,), int64
        Filled in.
    clear : ndarray, shape (k,), bool
        Filled in: whether the ray kept away from all edges.
    """
    leaves = len(boxes) // 2
    d = (direction[0], direction[1], direction[2])
    for i in nb.prange(len(points)):
        p = row(points, i)
        stack = np.empty(64, dtype=np.int64)
        stack[0] = 1
        top = 1
        n = 0
        is_clear = True
        while top > 0:
            top -= 1
            node = stack[top]
            if not _enters(points, i, direction, boxes, node):
                continue
            if node < leaves:
                stack[top] = 2 * node
                stack[top + 1] = 2 * node + 1
                top += 2
                continue
            first = (node - leaves) * LEAF_SIZE
            for j in range(first, min(first + LEAF_SIZE, len(order))):
                a, b, c = corners_of(vertices, faces, order[j])
                u, v, t = ray_at(p, d, a, b, c)
                within = min(u, v, 1.0 - u - v)
                if t > 0.0 and within > -_NEAR_EDGE:
                    is_clear &= within > _NEAR_EDGE
                    x, y, z = cross(a, b, c)
                    n += 1 if x * d[0] + y * d[1] + z * d[2] > 0.0 else -1
        out[i] = n
        clear[i] = is_clear
