"""Triangles of one plane with points and segments in it, divided so that all are corners and edges.

Points are exact (see `wide`). A turn of three points is decided in floating point where that is
safe, and in whole numbers else. The division is a constrained Delaunay triangulation as far as
floating point can tell (Sloan 1993 for the segments); only its shape hangs on that.
"""

import numpy as np

from ..jit import nb
from ..mesh.arrays import Array
from ..predicates.bignum import (  # fmt: skip
    DIGITS,
    add_product,
    as_float,
    compare,
    orientation,
    plane,
    plane_along,
    put,
    settle,
    three_planes,
)
from ._plane_grid_kernels import cell, cells_of_boxes, put_in_cell

_SLACK = 2.0**-49
"""Relative error of a turn of three points in floating point: some units in the last place."""

_TO_A_CELL = 12.0
"""Points and segments to a cell of the grid, about: so few are looked at one by one."""


@nb.njit(cache=True)
def _enter(spot: Array, origin: Array, i: int, j: int, at: int, flat: Array, xy: Array) -> None:
    """Write a point's two coordinates of the plane, from the origin, as point `at`."""
    for slot, k in ((0, i), (1, j)):
        flat[at, slot] = spot[k]
        add_product(spot[3], origin[k], -1, flat[at, slot])
        settle(flat[at, slot])
    flat[at, 2] = spot[3]
    w = as_float(flat[at, 2])
    xy[at, 0] = as_float(flat[at, 0]) / w
    xy[at, 1] = as_float(flat[at, 1]) / w


@nb.njit(cache=True)
def _orientation(flat: Array, xy: Array, a: int, b: int, c: int) -> int:
    ux, uy = xy[a, 0] - xy[c, 0], xy[b, 1] - xy[c, 1]
    vx, vy = xy[a, 1] - xy[c, 1], xy[b, 0] - xy[c, 0]
    left, right = ux * uy, vx * vy
    det = left - right
    e = _SLACK * max(
        abs(xy[a, 0]), abs(xy[a, 1]), abs(xy[b, 0]), abs(xy[b, 1]), abs(xy[c, 0]), abs(xy[c, 1])
    )
    bound = 2.0 * e * (abs(ux) + abs(uy) + abs(vx) + abs(vy)) + 8.0 * e * e
    bound += 1e-15 * (abs(left) + abs(right))
    if det > bound:
        return 1
    if -det > bound:
        return -1
    return orientation(flat[a], flat[b], flat[c])


@nb.njit(cache=True)
def _same(flat: Array, xy: Array, a: int, b: int) -> bool:
    e = 4.0 * _SLACK * max(abs(xy[a, 0]), abs(xy[a, 1]), abs(xy[b, 0]), abs(xy[b, 1]))
    if abs(xy[a, 0] - xy[b, 0]) > e or abs(xy[a, 1] - xy[b, 1]) > e:
        return False
    p, q = flat[a], flat[b]
    return compare(p[0], p[2], q[0], q[2]) == 0 and compare(p[1], p[2], q[1], q[2]) == 0


@nb.njit(cache=True)
def _before(flat: Array, xy: Array, a: int, b: int) -> bool:
    """Whether point a comes before b along any line they lie on."""
    p, q = flat[a], flat[b]
    for k in range(2):
        e = 4.0 * _SLACK * max(abs(xy[a, k]), abs(xy[b, k]))
        d = xy[a, k] - xy[b, k]
        if abs(d) > e:
            return d < 0.0
        s = compare(p[k], p[2], q[k], q[2])
        if s != 0:
            return s < 0
    return False


# the triangulation: corners, the triangle across the edge from corner k to the next, fixed edges


@nb.njit(cache=True)
def _slot(tri: Array, t: int, v: int) -> int:
    if tri[t, 0] == v:
        return 0
    return 1 if tri[t, 1] == v else 2


@nb.njit(cache=True)
def _relink(across: Array, t: int, old: int, new: int) -> None:
    if t >= 0:
        for k in range(3):
            if across[t, k] == old:
                across[t, k] = new
                return


@nb.njit(cache=True)
def _set(tri: Array, across: Array, fixed: Array, t: int, corners, beyond, held) -> None:  # type: ignore[no-untyped-def]
    for k in range(3):
        tri[t, k], across[t, k], fixed[t, k] = corners[k], beyond[k], held[k]


@nb.njit(cache=True)
def _split_face(tri, across, fixed, at, n, t, p):  # type: ignore[no-untyped-def]
    a, b, c = tri[t, 0], tri[t, 1], tri[t, 2]
    x, y, z = across[t, 0], across[t, 1], across[t, 2]
    fx, fy, fz = fixed[t, 0], fixed[t, 1], fixed[t, 2]
    _set(tri, across, fixed, t, (a, b, p), (x, n, n + 1), (fx, False, False))
    _set(tri, across, fixed, n, (b, c, p), (y, n + 1, t), (fy, False, False))
    _set(tri, across, fixed, n + 1, (c, a, p), (z, t, n), (fz, False, False))
    _relink(across, y, t, n)
    _relink(across, z, t, n + 1)
    at[a], at[b], at[c], at[p] = t, t, n, t
    return n + 2


@nb.njit(cache=True)
def _split_edge(tri, across, fixed, at, n, t, k, p):  # type: ignore[no-untyped-def]
    """Put point p on the edge from corner k of t, in both triangles there."""
    a, b, c = tri[t, k], tri[t, (k + 1) % 3], tri[t, (k + 2) % 3]
    u = across[t, k]
    held = fixed[t, k]
    y, z = across[t, (k + 1) % 3], across[t, (k + 2) % 3]
    fy, fz = fixed[t, (k + 1) % 3], fixed[t, (k + 2) % 3]
    m = n
    n += 1
    _set(tri, across, fixed, t, (a, p, c), (-1, m, z), (held, False, fz))
    _set(tri, across, fixed, m, (p, b, c), (-1, y, t), (held, fy, False))
    _relink(across, y, t, m)
    at[a], at[b], at[c], at[p] = t, m, t, t
    if u >= 0:
        q = _slot(tri, u, b)
        d = tri[u, (q + 2) % 3]
        v, w = across[u, (q + 1) % 3], across[u, (q + 2) % 3]
        fv, fw = fixed[u, (q + 1) % 3], fixed[u, (q + 2) % 3]
        # u is b, a, d: v beyond a-d, w beyond d-b
        o = n
        n += 1
        _set(tri, across, fixed, u, (b, p, d), (m, o, w), (held, False, fw))
        _set(tri, across, fixed, o, (p, a, d), (t, v, u), (held, fv, False))
        _relink(across, v, u, o)
        across[t, 0], across[m, 0] = o, u
        at[d] = u
    return n


@nb.njit(cache=True)
def _flip(tri, across, fixed, at, t, k):  # type: ignore[no-untyped-def]
    """Turn the edge from corner k of t; it must have a triangle beyond."""
    u = across[t, k]
    a, b, c = tri[t, k], tri[t, (k + 1) % 3], tri[t, (k + 2) % 3]
    q = _slot(tri, u, b)
    d = tri[u, (q + 2) % 3]
    y, z = across[t, (k + 1) % 3], across[t, (k + 2) % 3]
    fy, fz = fixed[t, (k + 1) % 3], fixed[t, (k + 2) % 3]
    v, w = across[u, (q + 1) % 3], across[u, (q + 2) % 3]
    fv, fw = fixed[u, (q + 1) % 3], fixed[u, (q + 2) % 3]
    # t becomes c, d, b; u becomes d, c, a
    _set(tri, across, fixed, t, (c, d, b), (u, w, y), (False, fw, fy))
    _set(tri, across, fixed, u, (d, c, a), (t, z, v), (False, fz, fv))
    _relink(across, w, u, t)
    _relink(across, z, t, u)
    at[a], at[b], at[c], at[d] = u, t, t, u


@nb.njit(cache=True)
def _locate(tri, across, n, t, flat, xy, p):  # type: ignore[no-untyped-def]
    """A triangle that holds point p, walking from t, and the edge that p lies on, or -1."""
    for step in range(2 * n + 8):
        # the first edge looked at differs from step to step, so that no walk goes round for ever
        out = False
        for m in range(3):
            k = (m + step) % 3
            if _orientation(flat, xy, tri[t, k], tri[t, (k + 1) % 3], p) < 0 and across[t, k] >= 0:
                t = across[t, k]
                out = True
                break
        if not out:
            break
    for scan in range(n + 1):
        inside, edge = True, -1
        for k in range(3):
            s = _orientation(flat, xy, tri[t, k], tri[t, (k + 1) % 3], p)
            if s < 0:
                inside = False
                break
            if s == 0:
                edge = k
        if inside:
            return t, edge
        t = scan
        if t >= n:
            break
    return -1, -1


@nb.njit(cache=True)
def _edge_between(tri, across, at, a, b):  # type: ignore[no-untyped-def]
    """Triangle and corner of the edge a-b or b-a, or -1, -1."""
    start = at[a]
    t = start
    while True:  # round a against the clock
        k = _slot(tri, t, a)
        if tri[t, (k + 1) % 3] == b:
            return t, k
        if tri[t, (k + 2) % 3] == b:
            return t, (k + 2) % 3
        t = across[t, (k + 2) % 3]
        if t == start:
            return -1, -1
        if t < 0:
            break
    t = start
    while True:  # and the other way, from a border
        k = _slot(tri, t, a)
        if tri[t, (k + 1) % 3] == b:
            return t, k
        t = across[t, k]
        if t < 0:
            return -1, -1
        k = _slot(tri, t, a)
        if tri[t, (k + 2) % 3] == b:
            return t, (k + 2) % 3


@nb.njit(cache=True)
def _first_crossed(tri, across, at, flat, xy, a, b):  # type: ignore[no-untyped-def]
    """The triangle at a through whose far edge the way to b leads."""
    start = at[a]
    for sense in range(2):
        t = start
        while t >= 0:
            k = _slot(tri, t, a)
            p, q = tri[t, (k + 1) % 3], tri[t, (k + 2) % 3]
            if _orientation(flat, xy, a, b, p) < 0 and _orientation(flat, xy, a, b, q) > 0:
                return t
            t = across[t, (k + 2) % 3] if sense == 0 else across[t, k]
            if t == start:
                return -1
    return -1


@nb.njit(cache=True)
def _insert(tri, across, fixed, at, flat, xy, a, b):  # type: ignore[no-untyped-def]
    """Make a-b an edge by turning those that cross it; no point lies on it."""
    t, k = _edge_between(tri, across, at, a, b)
    if t < 0:
        t = _first_crossed(tri, across, at, flat, xy, a, b)
        if t < 0:
            return False
        waiting = [(0, 0)]
        waiting.pop()
        k = (_slot(tri, t, a) + 1) % 3
        while True:
            u, v = tri[t, k], tri[t, (k + 1) % 3]  # u right of a-b, v left
            if fixed[t, k]:
                return False
            waiting.append((u, v))
            t = across[t, k]
            if t < 0:
                return False
            q = _slot(tri, t, v)  # v, u, far
            far = tri[t, (q + 2) % 3]
            if far == b:
                break
            side = _orientation(flat, xy, a, b, far)
            if side == 0:
                return False
            k = (q + 2) % 3 if side < 0 else (q + 1) % 3
        first = 0
        patience = 4 * (len(waiting) + 4) * (len(waiting) + 4)
        while first < len(waiting):
            patience -= 1
            if patience < 0:
                return False
            u, v = waiting[first]
            first += 1
            t, k = _edge_between(tri, across, at, u, v)
            c = tri[t, (k + 2) % 3]
            s = across[t, k]
            d = tri[s, (_slot(tri, s, tri[t, (k + 1) % 3]) + 2) % 3]
            if _orientation(flat, xy, c, d, u) * _orientation(flat, xy, c, d, v) >= 0:
                waiting.append((u, v))
                continue
            _flip(tri, across, fixed, at, t, k)
            if c in (a, b) or d in (a, b):
                continue
            one, two = _orientation(flat, xy, a, b, c), _orientation(flat, xy, a, b, d)
            if one * two < 0:
                waiting.append((c, d))
        t, k = _edge_between(tri, across, at, a, b)
        if t < 0:
            return False
    fixed[t, k] = True
    s = across[t, k]
    if s >= 0:
        fixed[s, _slot(tri, s, tri[t, (k + 1) % 3])] = True
    return True


@nb.njit(cache=True)
def _in_circle(xy, a, b, c, d):  # type: ignore[no-untyped-def]
    """Whether d lies clearly within the circle through a, b, c, in floating point."""
    ax, ay = xy[a, 0] - xy[d, 0], xy[a, 1] - xy[d, 1]
    bx, by = xy[b, 0] - xy[d, 0], xy[b, 1] - xy[d, 1]
    cx, cy = xy[c, 0] - xy[d, 0], xy[c, 1] - xy[d, 1]
    aa, bb, cc = ax * ax + ay * ay, bx * bx + by * by, cx * cx + cy * cy
    one, two, three = aa * (bx * cy - by * cx), bb * (cx * ay - cy * ax), cc * (ax * by - ay * bx)
    return one + two + three > 1e-10 * (abs(one) + abs(two) + abs(three))


@nb.njit(cache=True)
def _make_delaunay(tri, across, fixed, at, n, flat, xy):  # type: ignore[no-untyped-def]
    """Flip edges until the circumcircle of each triangle is empty, in 50 rounds at most."""
    waiting = np.ones(n, dtype=np.bool_)
    for _ in range(50):
        changed = False
        for t in range(n):
            if not waiting[t]:
                continue
            waiting[t] = False
            for k in range(3):
                s = across[t, k]
                if s < 0 or fixed[t, k]:
                    continue
                a, b, c = tri[t, k], tri[t, (k + 1) % 3], tri[t, (k + 2) % 3]
                d = tri[s, (_slot(tri, s, b) + 2) % 3]
                if not _in_circle(xy, a, b, c, d):
                    continue
                if _orientation(flat, xy, c, d, a) * _orientation(flat, xy, c, d, b) >= 0:
                    continue
                _flip(tri, across, fixed, at, t, k)
                waiting[t] = waiting[s] = True
                changed = True
                break
        if not changed:
            break


@nb.njit(cache=True)
def _sorted_along(selected: Array, flat: Array, xy: Array) -> None:
    for i in range(1, len(selected)):
        j = i
        while j > 0 and _before(flat, xy, selected[j], selected[j - 1]):
            selected[j], selected[j - 1] = selected[j - 1], selected[j]
            j -= 1


@nb.njit(cache=True)
def _known_point(  # type: ignore[no-untyped-def]
    flat: Array, xy: Array, n: int, head: Array, following: Array, low: Array, scale: Array,
    size: int,
):  # fmt: skip
    """The point before that point n is the same as, or -1; the lists are of cells."""
    x, y = xy[n, 0], xy[n, 1]
    e = 8.0 * _SLACK * max(abs(x), abs(y))
    x0, y0 = cell(x - e, y - e, low, scale, size)
    x1, y1 = cell(x + e, y + e, low, scale, size)
    for cx in range(x0, x1 + 1):
        for cy in range(y0, y1 + 1):
            v = head[cx * size + cy]
            while v >= 0:
                if _same(flat, xy, v, n):
                    return v
                v = following[v]
    return -1


@nb.njit(cache=True)
def _legalise(tri, across, fixed, at, flat, xy, p, stack):  # type: ignore[no-untyped-def]
    """Flip edges round a new point until the circles of its triangles are empty (Lawson 1977)."""
    size = 0
    t = at[p]
    start = t
    while t >= 0 and size < len(stack):
        stack[size] = t
        size += 1
        t = across[t, (_slot(tri, t, p) + 2) % 3]
        if t == start:
            break
    if t < 0:  # a border: the other way round, too
        t = across[start, _slot(tri, start, p)]
        while t >= 0 and size < len(stack):
            stack[size] = t
            size += 1
            t = across[t, _slot(tri, t, p)]
    patience = 64 * len(stack)
    while size > 0 and patience > 0:
        patience -= 1
        size -= 1
        t = stack[size]
        k = (_slot(tri, t, p) + 1) % 3
        if tri[t, (k + 2) % 3] != p:
            continue
        s = across[t, k]
        if s < 0 or fixed[t, k]:
            continue
        a, b = tri[t, k], tri[t, (k + 1) % 3]
        d = tri[s, (_slot(tri, s, b) + 2) % 3]
        if not _in_circle(xy, a, b, p, d):
            continue
        if _orientation(flat, xy, p, d, a) * _orientation(flat, xy, p, d, b) >= 0:
            continue
        _flip(tri, across, fixed, at, t, k)
        for u in (t, s):
            if size < len(stack):
                stack[size] = u
                size += 1


@nb.njit(cache=True)
def constrained_triangulation(  # type: ignore[no-untyped-def]
    lattice: Array, faces: Array, members: Array, spots: Array, used: Array, lines: Array,
    through: Array,
):  # fmt: skip
    """Divide triangles of one plane by points and segments in it.

    Parameters
    ----------
    lattice : ndarray, shape (n, 3), int64
    faces : ndarray, shape (m, 3)
    members : ndarray, shape (f,)
        The faces in question, all in the plane of the first.
    spots : ndarray, shape (s, 4, DIGITS)
        Exact points.
    used : ndarray, shape (u,)
        Those in this plane, the faces' corners first: three for each of `members`.
    lines : ndarray, shape (l, 2)
        Segments, as positions in `used`.
    through : ndarray, shape (l,)
        A face out of this plane that each segment lies on.

    Returns
    -------
    ok : bool
        False if the segments could not be put in; the rest is then meaningless.
    triangles : ndarray, shape (t, 3)
        Positions in `used`, and beyond its end in `fresh`; turned as the first of `members`.
    winding_steps : ndarray, shape (t,)
        Faces of `members` there that run that way, less those that run the other.
    fresh : ndarray, shape (k, 4, DIGITS)
        Points where segments cross.

    Examples
    --------
    >>> from caulkcore.predicates.bignum import vertex_point
    >>> lattice = np.array([[0, 0, 0], [9, 0, 0], [0, 9, 0], [2, 2, 0]])
    >>> spots = np.zeros((4, 4, 14), dtype=np.int64)
    >>> for row in range(4):
    ...     vertex_point(lattice, row, spots[row])
    >>> none = np.zeros(0, dtype=np.int64)
    >>> faces, lines = np.array([[0, 1, 2]]), np.zeros((0, 2), dtype=np.int64)
    >>> first, used = np.array([0]), np.arange(4)
    >>> ok, triangles, _, _ = constrained_triangulation(
    ...     lattice, faces, first, spots, used, lines, none)
    >>> bool(ok), len(triangles)
    (True, 3)
    """
    ground = np.empty((4, DIGITS), np.int64)
    first = faces[members[0]]
    plane(lattice, first[0], first[1], first[2], ground)
    axis, most = 0, -1.0
    for k in range(3):
        size = abs(as_float(ground[k]))
        if size > most:
            axis, most = k, size
    i, j = (axis + 1) % 3, (axis + 2) % 3
    if as_float(ground[axis]) < 0:
        i, j = j, i
    origin = np.zeros((3, DIGITS), np.int64)
    for k in range(3):
        put(lattice[first[0], k], origin[k])
    single = len(members) == 1
    none = np.zeros((0, 3), np.int64), np.zeros(0, np.int64), np.zeros((0, 4, DIGITS), np.int64)

    # points, equal ones once
    edges = 0 if single else 3 * len(members)
    low, high = np.full(2, np.inf), np.full(2, -np.inf)
    for f in members:
        for c in range(3):
            for slot, k in ((0, i), (1, j)):
                x = float(lattice[faces[f, c], k] - lattice[first[0], k])
                low[slot], high[slot] = min(low[slot], x), max(high[slot], x)
    size = int(max(1.0, np.sqrt((len(used) + len(lines) + edges) / _TO_A_CELL)))
    scale = size / np.maximum(high - low, 1.0)
    head = np.full(size * size, -1, np.int64)
    room = len(used) + 64
    flat = np.zeros((room, 3, DIGITS), np.int64)
    xy = np.zeros((room, 2))
    alias = np.empty(len(used), np.int64)
    following = np.empty(room, np.int64)
    n = 0
    back = np.empty(room, np.int64)
    for u in range(len(used)):
        _enter(spots[used[u]], origin, i, j, n, flat, xy)
        alias[u] = _known_point(flat, xy, n, head, following, low, scale, size)
        if alias[u] < 0:
            put_in_cell(xy, n, head, following, low, scale, size)
            alias[u] = n
            back[n] = u
            n += 1

    # segments: those given, and with several faces their edges
    seg = np.empty((len(lines) + edges, 2), np.int64)
    wall = np.empty((len(seg), 4, DIGITS), np.int64)
    for s in range(len(lines)):
        seg[s, 0], seg[s, 1] = alias[lines[s, 0]], alias[lines[s, 1]]
        g = faces[through[s]]
        plane(lattice, g[0], g[1], g[2], wall[s])
    if not single:
        for f in range(len(members)):
            for k in range(3):
                s = len(lines) + 3 * f + k
                a, b = faces[members[f], k], faces[members[f], (k + 1) % 3]
                seg[s, 0], seg[s, 1] = alias[3 * f + k], alias[3 * f + (k + 1) % 3]
                plane_along(lattice, a, b, axis, wall[s])
    fresh = np.zeros((8, 4, DIGITS), np.int64)
    made = 0
    spot = np.zeros((4, DIGITS), np.int64)
    box = np.empty((len(seg), 4))
    for s in range(len(seg)):
        a, b = seg[s]
        for k in range(2):
            box[s, k] = min(xy[a, k], xy[b, k])
            box[s, 2 + k] = max(xy[a, k], xy[b, k])
        e = 1e-12 * (abs(box[s, 0]) + abs(box[s, 1]) + abs(box[s, 2]) + abs(box[s, 3]))
        box[s, :2] -= e
        box[s, 2:] += e
    starts, items = cells_of_boxes(box, low, scale, size)
    for at_cell in range(size * size):
        for m in range(starts[at_cell], starts[at_cell + 1]):
            s = items[m]
            a, b = seg[s]
            for o in range(starts[at_cell], m):
                r = items[o]
                c, d = seg[r]
                if a == b or c == d or a == c or a == d or b == c or b == d:  # noqa: SIM109
                    continue
                if (
                    box[r, 2] < box[s, 0] or box[r, 0] > box[s, 2]
                    or box[r, 3] < box[s, 1] or box[r, 1] > box[s, 3]
                ):  # fmt: skip
                    continue
                # a pair that shares several cells is looked at in the first of them
                corner_x, corner_y = cell(
                    max(box[s, 0], box[r, 0]), max(box[s, 1], box[r, 1]), low, scale, size
                )
                if corner_x * size + corner_y != at_cell:
                    continue
                if _orientation(flat, xy, a, b, c) * _orientation(flat, xy, a, b, d) >= 0:
                    continue
                if _orientation(flat, xy, c, d, a) * _orientation(flat, xy, c, d, b) >= 0:
                    continue
                if not three_planes(ground, wall[s], wall[r], spot):
                    return False, none[0], none[1], none[2]
                if n + 4 >= room:
                    room *= 2
                    bigger, wider = np.zeros((room, 3, DIGITS), np.int64), np.zeros((room, 2))
                    longer, after = np.empty(room, np.int64), np.empty(room, np.int64)
                    bigger[:n], wider[:n], longer[:n] = flat[:n], xy[:n], back[:n]
                    after[:n] = following[:n]
                    flat, xy, back, following = bigger, wider, longer, after
                _enter(spot, origin, i, j, n, flat, xy)
                if _known_point(flat, xy, n, head, following, low, scale, size) >= 0:
                    continue
                put_in_cell(xy, n, head, following, low, scale, size)
                if made == len(fresh):
                    more = np.zeros((2 * made, 4, DIGITS), np.int64)
                    more[:made] = fresh
                    fresh = more
                fresh[made] = spot
                back[n] = len(used) + made
                made += 1
                n += 1

    # where to begin: the one triangle, or one round them all
    if not single:
        reach = 0.0
        for v in range(n):
            reach = max(reach, abs(xy[v, 0]), abs(xy[v, 1]))
        far = np.int64(reach) + 16
        for k in range(3):
            flat[n + k] = 0
            x = (-4 * far, 4 * far, np.int64(0))[k]
            y = (-2 * far, -2 * far, 6 * far)[k]
            put(int(x), flat[n + k, 0])
            put(int(y), flat[n + k, 1])
            put(1, flat[n + k, 2])
            xy[n + k, 0], xy[n + k, 1] = x, y
            back[n + k] = -1
    total = n if single else n + 3
    tri = np.full((2 * total + 8, 3), -1, np.int64)
    across = np.full((2 * total + 8, 3), -1, np.int64)
    fixed = np.zeros((2 * total + 8, 3), np.bool_)
    at = np.full(total, -1, np.int64)
    for k in range(3):
        tri[0, k] = alias[k] if single else n + k
        at[tri[0, k]] = 0
    count = 1
    last = 0
    stack = np.empty(256, np.int64)
    # cell after cell, there and back again: the next point is never far
    for row in range(size * size):
        column = row % size if (row // size) % 2 == 0 else size - 1 - row % size
        p = head[row // size * size + column]
        while p >= 0:
            here, p = p, following[p]
            if at[here] >= 0:
                continue
            last, k = _locate(tri, across, count, last, flat, xy, here)
            if last < 0:
                return False, none[0], none[1], none[2]
            if k < 0:
                count = _split_face(tri, across, fixed, at, count, last, here)
            else:
                count = _split_edge(tri, across, fixed, at, count, last, k, here)
            if size > 1:
                _legalise(tri, across, fixed, at, flat, xy, here, stack)
                last = at[here]

    # each segment from point to point
    on = np.empty(n, np.int64)
    for s in range(len(seg)):
        a, b = seg[s]
        if a == b:
            continue
        held = 0
        forward = _before(flat, xy, a, b)
        x0, y0 = cell(box[s, 0], box[s, 1], low, scale, size)
        x1, y1 = cell(box[s, 2], box[s, 3], low, scale, size)
        for cx in range(x0, x1 + 1):
            for cy in range(y0, y1 + 1):
                p = head[cx * size + cy]
                while p >= 0:
                    here, p = p, following[p]
                    if (
                        xy[here, 0] < box[s, 0] or xy[here, 0] > box[s, 2]
                        or xy[here, 1] < box[s, 1] or xy[here, 1] > box[s, 3]
                    ):  # fmt: skip
                        continue
                    if here != a and here != b:
                        if _orientation(flat, xy, a, b, here) != 0:
                            continue
                        if (
                            _before(flat, xy, a, here) != forward
                            or _before(flat, xy, here, b) != forward
                        ):
                            continue
                    on[held] = here
                    held += 1
        _sorted_along(on[:held], flat, xy)
        for m in range(held - 1):
            if not _insert(tri, across, fixed, at, flat, xy, on[m], on[m + 1]):
                return False, none[0], none[1], none[2]
    _make_delaunay(tri, across, fixed, at, count, flat, xy)

    # which faces each triangle is part of
    face_box = np.empty((len(members), 4))
    for f in range(len(members)):
        for k in range(2):
            x, y, z = xy[alias[3 * f], k], xy[alias[3 * f + 1], k], xy[alias[3 * f + 2], k]
            least, most = min(x, y, z), max(x, y, z)
            slack = 1e-12 * (abs(least) + abs(most))
            face_box[f, k], face_box[f, 2 + k] = least - slack, most + slack
    face_starts, face_items = cells_of_boxes(face_box, low, scale, size)
    out = np.empty((count, 3), np.int64)
    winding_steps = np.ones(count, np.int64)
    kept = 0
    for t in range(count):
        if not single:
            if max(tri[t, 0], tri[t, 1], tri[t, 2]) >= n:
                continue
            net = 0
            middle_x = (xy[tri[t, 0], 0] + xy[tri[t, 1], 0] + xy[tri[t, 2], 0]) / 3.0
            middle_y = (xy[tri[t, 0], 1] + xy[tri[t, 1], 1] + xy[tri[t, 2], 1]) / 3.0
            cx, cy = cell(middle_x, middle_y, low, scale, size)
            for m in range(face_starts[cx * size + cy], face_starts[cx * size + cy + 1]):
                f = face_items[m]
                corners = alias[3 * f], alias[3 * f + 1], alias[3 * f + 2]
                if (
                    middle_x < face_box[f, 0] or middle_x > face_box[f, 2]
                    or middle_y < face_box[f, 1] or middle_y > face_box[f, 3]
                ):  # fmt: skip
                    continue
                sense = _orientation(flat, xy, corners[0], corners[1], corners[2])
                inside = sense != 0
                for k in range(3):
                    for c in range(3):
                        if inside:
                            side = _orientation(
                                flat, xy, corners[k], corners[(k + 1) % 3], tri[t, c]
                            )
                            inside = side * sense >= 0
                net += sense if inside else 0
            if net == 0:
                continue
            winding_steps[kept] = net
        for k in range(3):
            out[kept, k] = back[tri[t, k]]
        kept += 1
    return True, out[:kept], winding_steps[:kept], fresh[:made]
