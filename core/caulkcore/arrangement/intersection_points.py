"""Where two triangles meet, in exact points."""

import numpy as np

from ..jit import nb
from ..mesh.arrays import Array
from ..predicates.bignum import DIGITS, in_order, line_plane, plane, vertex_point
from ..predicates.orientation import orient3d


@nb.njit(cache=True)
def _ends(  # type: ignore[no-untyped-def]
    t: Array, other: int, side: Array, lattice: Array, flat: Array, names: Array, spots: Array
) -> int:
    """Where a triangle meets another's plane: names and points in the order of the line."""
    n = 0
    for k in range(3):
        if side[k] == 0 and n < 2:
            names[n, 0], names[n, 1], names[n, 2] = t[k], -1, -1
            vertex_point(lattice, t[k], spots[n])
            n += 1
    for k in range(3):
        a, b = t[k], t[(k + 1) % 3]
        if side[k] * side[(k + 1) % 3] < 0 and n < 2:
            if a > b:
                a, b = b, a
            names[n, 0], names[n, 1], names[n, 2] = a, b, other
            line_plane(lattice, a, b, flat, spots[n])
            n += 1
    if n == 2 and in_order(spots[0], spots[1]) > 0:
        for k in range(3):
            names[0, k], names[1, k] = names[1, k], names[0, k]
        for k in range(4):
            for d in range(DIGITS):
                spots[0, k, d], spots[1, k, d] = spots[1, k, d], spots[0, k, d]
    return n


@nb.njit(cache=True, parallel=True)
def shared_points(points: Array, lattice: Array, faces: Array, pairs: Array) -> tuple[Array, Array]:
    """What each pair of triangles has in common.

    Parameters
    ----------
    points : ndarray, shape (n, 3), float64
    lattice : ndarray, shape (n, 3), int64
        The same points, in steps.
    faces : ndarray, shape (m, 3)
        With area.
    pairs : ndarray, shape (k, 2)
        Faces that meet.

    Returns
    -------
    names : ndarray, shape (k, 2, 3), int32
        The two ends of the segment in common, the same twice where it is one point. An end is
        ``vertex, -1, -1``, or ``a, b, face``: where edge a-b (a < b) passes the plane of the face.
    coplanar : ndarray, shape (k,), bool
        Pairs in one plane; their names are -1.
    """
    names = np.full((len(pairs), 2, 3), -1, dtype=np.int32)
    coplanar = np.zeros(len(pairs), dtype=np.bool_)
    for row in nb.prange(len(pairs)):
        f, g = pairs[row, 0], pairs[row, 1]
        t, s = faces[f], faces[g]
        side_t, side_s = np.empty(3, np.int64), np.empty(3, np.int64)
        for k in range(3):
            side_t[k] = orient3d(points, s[0], s[1], s[2], t[k])
            side_s[k] = orient3d(points, t[0], t[1], t[2], s[k])
        if not side_t.any():
            coplanar[row] = True
            continue
        flat = np.empty((2, 4, DIGITS), np.int64)
        plane(lattice, s[0], s[1], s[2], flat[0])
        plane(lattice, t[0], t[1], t[2], flat[1])
        members, theirs = np.empty((2, 3), np.int32), np.empty((2, 3), np.int32)
        here, there = np.zeros((2, 4, DIGITS), np.int64), np.zeros((2, 4, DIGITS), np.int64)
        n = _ends(t, g, side_t, lattice, flat[0], members, here)
        m = _ends(s, f, side_s, lattice, flat[1], theirs, there)
        if n == 0 or m == 0:
            continue
        late = in_order(here[0], there[0]) >= 0
        early = in_order(here[n - 1], there[m - 1]) <= 0
        first = here[0] if late else there[0]
        last = here[n - 1] if early else there[m - 1]
        if in_order(first, last) > 0:
            continue
        for k in range(3):
            names[row, 0, k] = members[0, k] if late else theirs[0, k]
            names[row, 1, k] = members[n - 1, k] if early else theirs[m - 1, k]
        if in_order(first, last) == 0:
            names[row, 1] = names[row, 0]
    return names, coplanar


@nb.njit(cache=True, parallel=True)
def points_of(lattice: Array, faces: Array, names: Array) -> Array:
    """Exact points of the names that `shared_points` gives, shape (k, 4, DIGITS).

    Parameters
    ----------
    lattice : ndarray, shape (n, 3), int64
        Vertices as whole multiples of the lattice.
    faces : ndarray, shape (m, 3), int32
    names : ndarray, shape (k, 3), int32
        What meets in each point: the ends of an edge and the face that it passes through, or a
        vertex and -1.

    Returns
    -------
    ndarray, shape (k, 4, DIGITS), int64
        Homogeneous coordinates of the points.

    Examples
    --------
    >>> lattice = np.array([[0, 0, -4], [0, 0, 4], [-9, -9, 0], [9, -9, 0], [0, 9, 0]])
    >>> name = np.array([[0, 1, 0]], dtype=np.int32)
    >>> from caulkcore.predicates.bignum import nearest_floats
    >>> nearest_floats(points_of(lattice, np.array([[2, 3, 4]]), name)).tolist()
    [[0.0, 0.0, 0.0]]
    """
    out = np.zeros((len(names), 4, DIGITS), dtype=np.int64)
    for row in nb.prange(len(names)):
        a, b, f = names[row]
        if b < 0:
            vertex_point(lattice, a, out[row])
        else:
            flat = np.empty((4, DIGITS), np.int64)
            plane(lattice, faces[f, 0], faces[f, 1], faces[f, 2], flat)
            line_plane(lattice, a, b, flat, out[row])
    return out
