"""Which spaces the triangles of an arrangement part from each other."""

import numpy as np

from ..jit import nb
from ..mesh._face_kernels import cross_at
from ..mesh.arrays import Array
from ..predicates.bignum import DIGITS, add_product, in_order, plane, settle, sign, vertex_point

_FRONT, _BACK = 0, 1
"""Sides of a triangle: the one that its normal points to, and the other."""


@nb.njit(cache=True)
def _cross_along(a: Array, b: Array, k: int) -> int:
    """Sign of one coordinate of the cross product of two normals."""
    i, j = (k + 1) % 3, (k + 2) % 3
    out = np.zeros(2 * DIGITS, np.int64)
    add_product(a[i], b[j], 1, out)
    add_product(a[j], b[i], -1, out)
    settle(out)
    return sign(out)


@nb.njit(cache=True)
def _dot(a: Array, b: Array) -> int:
    out = np.zeros(2 * DIGITS, np.int64)
    for k in range(3):
        add_product(a[k], b[k], 1, out)
    settle(out)
    return sign(out)


@nb.njit(cache=True)
def _point(v: int, lattice: Array, fresh: Array, out: Array) -> None:
    if v < len(lattice):
        vertex_point(lattice, v, out)
    else:
        out[:] = fresh[v - len(lattice)]


@nb.njit(cache=True)
def _direction(u: int, v: int, xyz: Array, lattice: Array, fresh: Array) -> tuple[int, int]:
    """A coordinate in which the way from u to v goes, and its sign there."""
    axis = 0
    for k in range(1, 3):
        if abs(xyz[v, k] - xyz[u, k]) > abs(xyz[v, axis] - xyz[u, axis]):
            axis = k
    d = xyz[v, axis] - xyz[u, axis]
    if abs(d) > 1e-9 * (abs(xyz[v, axis]) + abs(xyz[u, axis])):
        return axis, 1 if d > 0 else -1
    p, q = np.zeros((4, DIGITS), np.int64), np.zeros((4, DIGITS), np.int64)
    _point(u, lattice, fresh, p)
    _point(v, lattice, fresh, q)
    two, three = np.zeros((2, DIGITS), np.int64), np.zeros((2, DIGITS), np.int64)
    for k in range(3):
        two[0], two[1] = p[k], p[3]
        three[0], three[1] = q[k], q[3]
        s = in_order(two, three)
        if s != 0:
            return k, -s
    return axis, 1


@nb.njit(cache=True)
def _comes_before(a: Array, b: Array, start: Array, axis: int, sense: int) -> bool:
    """Whether, turning from `start` round the edge, normal a comes before b."""
    sa, sb = sense * _cross_along(start, a, axis), sense * _cross_along(start, b, axis)
    late_a = sa < 0 or (sa == 0 and _dot(start, a) < 0)
    late_b = sb < 0 or (sb == 0 and _dot(start, b) < 0)
    if late_a != late_b:
        return late_b
    return sense * _cross_along(a, b, axis) > 0


@nb.njit(cache=True)
def _root(parent: Array, a: int) -> int:
    while parent[a] != a:
        parent[a] = parent[parent[a]]
        a = parent[a]
    return a


@nb.njit(cache=True)
def _join(parent: Array, a: int, b: int) -> None:
    a, b = _root(parent, a), _root(parent, b)
    if a < b:
        parent[b] = a
    else:
        parent[a] = b


@nb.njit(cache=True)
def _beyond(half: int, triangles: Array, up: int) -> int:
    """The side of a half-edge's triangle towards which (up) or from which one turns."""
    f, k = half // 3, half % 3
    forward = triangles[f, k] < triangles[f, (k + 1) % 3]
    return 2 * f + (_FRONT if forward == (up == 1) else _BACK)


@nb.njit(cache=True)
def triangle_cells(
    triangles: Array, plane_of: Array, order: Array, starts: Array, lattice: Array, faces: Array,
    xyz: Array, fresh: Array,
) -> tuple[Array, int, int]:  # fmt: skip
    """The space at the front and at the back of each triangle.

    Round every edge the triangles are sorted exactly, by the normals of the faces that they are
    part of; neighbours in that order face the same space (Zhou et al. 2016).

    Parameters
    ----------
    triangles : ndarray, shape (t, 3)
        Points: rows of `lattice`, and beyond its end of `fresh`.
    plane_of : ndarray, shape (t,)
        A face in the plane of each, turned the same way.
    order : ndarray, shape (3 t,)
        Half-edges sorted by edge.
    starts : ndarray, shape (e + 1,)
        Where each edge begins in `order`.
    lattice : ndarray, shape (n, 3), int64
    faces : ndarray, shape (m, 3)
    xyz : ndarray, shape (points, 3)
        All points in floating point.
    fresh : ndarray, shape (k, 4, DIGITS)

    Returns
    -------
    space : ndarray, shape (2 t,)
        Number of the space in front (2 f) of and behind (2 f + 1) each triangle.
    count : int
        Number of spaces.
    open_edges : int
        Edges with one triangle, round which a space goes from one side to the other.
    """
    parent = np.arange(2 * len(triangles))
    number = np.empty(2 * len(triangles), np.int64)
    open_edges = 0
    for e in range(len(starts) - 1):
        a, b = starts[e], starts[e + 1]
        if b - a == 1:
            f = order[a] // 3
            _join(parent, 2 * f, 2 * f + 1)
            open_edges += 1
            continue
        if b - a == 2:
            h, g = order[a], order[a + 1]
            _join(parent, _beyond(h, triangles, 1), _beyond(g, triangles, 0))
            _join(parent, _beyond(g, triangles, 1), _beyond(h, triangles, 0))
            continue
        k = b - a
        f, c = order[a] // 3, order[a] % 3
        u, v = triangles[f, c], triangles[f, (c + 1) % 3]
        if u > v:
            u, v = v, u
        axis, sense = _direction(u, v, xyz, lattice, fresh)
        normals = np.zeros((k, 4, DIGITS), np.int64)
        for r in range(k):
            f, c = order[a + r] // 3, order[a + r] % 3
            g = faces[plane_of[f]]
            plane(lattice, g[0], g[1], g[2], normals[r])
            if triangles[f, c] > triangles[f, (c + 1) % 3]:
                normals[r, :3] *= -1
        ring = np.arange(k)
        for r in range(2, k):
            s = r
            while s > 1 and _comes_before(
                normals[ring[s]], normals[ring[s - 1]], normals[0], axis, sense
            ):
                ring[s], ring[s - 1] = ring[s - 1], ring[s]
                s -= 1
        for r in range(k):
            h, g = order[a + ring[r]], order[a + ring[(r + 1) % k]]
            _join(parent, _beyond(h, triangles, 1), _beyond(g, triangles, 0))
    # a root is the least of its set and comes first
    count = 0
    for i in range(len(parent)):
        r = _root(parent, i)
        number[i] = number[r]
        if r == i:
            number[i] = count
            count += 1
    return number, count, open_edges


@nb.njit(cache=True)
def relative_winding_numbers(space: Array, winding_steps: Array, count: int) -> tuple[Array, Array]:
    """Numbers of the spaces relative to the first of each connected set, and the sets.

    Going through a triangle from its front to its back adds its winding_steps.

    Parameters
    ----------
    space : ndarray, shape (2 t,), int
        Space on each side of each triangle, by any numbers.
    winding_steps : ndarray, shape (t,), int
        How often the surface is wound, going through each triangle.
    count : int
        Of the spaces.

    Returns
    -------
    number : ndarray, shape (count,), int64
        How much more often the surface winds round each space than round the first of its set.
    group : ndarray, shape (count,), int64
        That first space.
    """
    m = len(winding_steps)
    begin = np.zeros(count + 1, np.int64)
    for s in range(2 * m):
        begin[space[s] + 1] += 1
    begin = np.cumsum(begin)
    at = begin[:-1].copy()
    sides = np.empty(2 * m, np.int64)
    for s in range(2 * m):
        sides[at[space[s]]] = s
        at[space[s]] += 1
    number, group = np.zeros(count, np.int64), np.full(count, -1, np.int64)
    stack = np.empty(count, np.int64)
    for first in range(count):
        if group[first] >= 0:
            continue
        group[first] = first
        stack[0] = first
        top = 1
        while top > 0:
            top -= 1
            a = stack[top]
            for i in range(begin[a], begin[a + 1]):
                s = sides[i]
                b = space[s ^ 1]
                if group[b] < 0:
                    group[b] = first
                    number[b] = number[a] + (
                        winding_steps[s >> 1] if s & 1 == 0 else -winding_steps[s >> 1]
                    )
                    stack[top] = b
                    top += 1
    return number, group


@nb.njit(cache=True)
def largest_triangles(triangles: Array, xyz: Array, group: Array, count: int, kept: int) -> Array:
    """The largest triangles of each group, shape (count, kept), -1 where there are fewer.

    Parameters
    ----------
    triangles : ndarray, shape (t, 3), int32
    xyz : ndarray, shape (n, 3), float64
    group : ndarray, shape (t,), int
        The group that each is of.
    count : int
        Of the groups.
    kept : int
        How many of each to tell.

    Returns
    -------
    ndarray, shape (count, kept), int64
        Numbers of the triangles, the largest first.

    Examples
    --------
    >>> corners = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 3, 0.0]])
    >>> triangles = np.array([[0, 1, 2], [0, 1, 3]])
    >>> largest_triangles(triangles, corners, np.array([0, 0]), 1, 3).tolist()
    [[1, 0, -1]]
    """
    out = np.full((count, kept), -1, np.int64)
    size = np.full((count, kept), -1.0)
    for t in range(len(triangles)):
        a, b, c = triangles[t]
        x, y, z = cross_at(xyz, a, b, c)
        area, g = x * x + y * y + z * z, group[t]
        k = kept
        while k > 0 and area > size[g, k - 1]:
            k -= 1
        if k < kept:
            for j in range(kept - 1, k, -1):
                size[g, j], out[g, j] = size[g, j - 1], out[g, j - 1]
            size[g, k], out[g, k] = area, t
    return out


@nb.njit(cache=True, parallel=True)
def winding(points: Array, skip: Array, vertices: Array, faces: Array, group: Array) -> Array:
    """How often a surface winds round points of it: the mean of both sides there.

    Parameters
    ----------
    points : ndarray, shape (q, 3)
    skip : ndarray, shape (q,)
        Group of faces whose plane each point is in; they do not count.
    vertices : ndarray, shape (n, 3)
    faces : ndarray, shape (m, 3)
    group : ndarray, shape (m,)

    Returns
    -------
    ndarray, shape (q,)
        The faces' solid angles over 4 pi (Van Oosterom & Strackee 1983).
    """
    out = np.zeros(len(points))
    for q in nb.prange(len(points)):
        total = 0.0
        x, y, z = points[q, 0], points[q, 1], points[q, 2]
        for f in range(len(faces)):
            if group[f] == skip[q]:
                continue
            i, j, k = faces[f, 0], faces[f, 1], faces[f, 2]
            ax, ay, az = vertices[i, 0] - x, vertices[i, 1] - y, vertices[i, 2] - z
            bx, by, bz = vertices[j, 0] - x, vertices[j, 1] - y, vertices[j, 2] - z
            cx, cy, cz = vertices[k, 0] - x, vertices[k, 1] - y, vertices[k, 2] - z
            a = np.sqrt(ax * ax + ay * ay + az * az)
            b = np.sqrt(bx * bx + by * by + bz * bz)
            c = np.sqrt(cx * cx + cy * cy + cz * cz)
            det = ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx)
            low = (
                a * b * c
                + (ax * bx + ay * by + az * bz) * c
                + (bx * cx + by * cy + bz * cz) * a
                + (cx * ax + cy * ay + cz * az) * b
            )
            total += np.arctan2(det, low)
        out[q] = total / (2.0 * np.pi)
    return out
