"""Whether two triangles meet where they should not, decided exactly.

Two triangles meet if they have a point in common that is neither a shared vertex nor on a shared
edge; triangles folded onto each other over a shared edge meet. Touching counts. Triangles without
area meet nothing.
"""

from ..jit import nb
from ..mesh.arrays import Array
from .orientation import FILTER_2D, orient2d, orient3d


@nb.njit(cache=True)
def _between(p: Array, a: int, b: int, q: int, i: int, j: int) -> bool:
    """Whether q, known to be on the line a-b, lies on the closed segment."""
    for k in (i, j):
        if p[q, k] < min(p[a, k], p[b, k]) or p[q, k] > max(p[a, k], p[b, k]):
            return False
    return True


@nb.njit(cache=True)
def _segments_meet(p: Array, a: int, b: int, c: int, d: int, i: int, j: int) -> bool:
    s1, s2 = orient2d(p, a, b, c, i, j), orient2d(p, a, b, d, i, j)
    s3, s4 = orient2d(p, c, d, a, i, j), orient2d(p, c, d, b, i, j)
    if s1 * s2 < 0 and s3 * s4 < 0:
        return True
    if s1 == 0 and _between(p, a, b, c, i, j):
        return True
    if s2 == 0 and _between(p, a, b, d, i, j):
        return True
    if s3 == 0 and _between(p, c, d, a, i, j):
        return True
    return s4 == 0 and _between(p, c, d, b, i, j)


@nb.njit(cache=True)
def _axes(p: Array, t: Array) -> tuple[int, int]:
    """Two coordinates in which the triangle has area; (0, 0) if there are none."""
    for i, j in ((0, 1), (1, 2), (2, 0)):
        if orient2d(p, t[0], t[1], t[2], i, j) != 0:
            return i, j
    return 0, 0


@nb.njit(cache=True)
def _holds(p: Array, t: Array, q: int, i: int, j: int) -> bool:
    """Whether the closed triangle holds a point of its plane."""
    s1 = orient2d(p, t[0], t[1], q, i, j)
    s2 = orient2d(p, t[1], t[2], q, i, j)
    s3 = orient2d(p, t[2], t[0], q, i, j)
    return (s1 >= 0 and s2 >= 0 and s3 >= 0) or (s1 <= 0 and s2 <= 0 and s3 <= 0)


@nb.njit(cache=True)
def _is_parted(p: Array, t: Array, s: Array) -> bool:
    """Whether the line of an edge of t parts it from s, a triangle in the same plane."""
    i, j = _axes(p, t)
    sense = orient2d(p, t[0], t[1], t[2], i, j)
    for k in range(3):
        a, b = t[k], t[(k + 1) % 3]
        if (
            sense * orient2d(p, a, b, s[0], i, j) < 0
            and sense * orient2d(p, a, b, s[1], i, j) < 0
            and sense * orient2d(p, a, b, s[2], i, j) < 0
        ):
            return True
    return False


@nb.njit(cache=True)
def _wedges_meet(p: Array, t: Array, s: Array, at: int, as_: int) -> bool:
    """Whether triangles of one plane that share a corner overlap: their wedges there do."""
    i, j = _axes(p, t)
    tip = t[at]
    for side in range(2):
        one, k = (t, at) if side == 0 else (s, as_)
        two, m = (s, as_) if side == 0 else (t, at)
        a, b = one[(k + 1) % 3], one[(k + 2) % 3]
        sense = orient2d(p, tip, a, b, i, j)
        for step in range(1, 3):
            q = two[(m + step) % 3]
            if (
                sense * orient2d(p, tip, a, q, i, j) >= 0
                and sense * orient2d(p, tip, q, b, i, j) >= 0
            ):
                return True
    return False


@nb.njit(cache=True)
def _segment_meets(p: Array, a: int, b: int, t: Array, sa: int, sb: int) -> bool:
    """Whether the closed segment a-b meets the closed triangle; sa, sb are the ends' sides."""
    if sa * sb > 0:
        return False
    if sa == 0 and sb == 0:
        i, j = _axes(p, t)
        if _holds(p, t, a, i, j) or _holds(p, t, b, i, j):
            return True
        return (
            _segments_meet(p, a, b, t[0], t[1], i, j)
            or _segments_meet(p, a, b, t[1], t[2], i, j)
            or _segments_meet(p, a, b, t[2], t[0], i, j)
        )
    s1 = orient3d(p, a, b, t[0], t[1])
    s2 = orient3d(p, a, b, t[1], t[2])
    if s1 * s2 < 0:
        return False
    s3 = orient3d(p, a, b, t[2], t[0])
    return not (s1 * s3 < 0 or s2 * s3 < 0)


@nb.njit(cache=True)
def _sides(p: Array, t: Array, s: Array) -> tuple[int, int, int]:
    """Sides of s's vertices with respect to t's plane."""
    a, b, c = t[0], t[1], t[2]
    return orient3d(p, a, b, c, s[0]), orient3d(p, a, b, c, s[1]), orient3d(p, a, b, c, s[2])


@nb.njit(cache=True)
def _are_seen_apart(p: Array, t: Array, s: Array, shared: int) -> bool:
    """Whether, seen along an axis, an edge of t parts the two triangles beyond doubt.

    Long triangles side by side, and those of one plane, have boxes that overlap and touch each
    other's planes; this tells them apart before that is asked about exactly. A corner that they
    share (or -1) is no doubt where the edge begins or ends there.
    """
    for i, j in ((0, 1), (1, 2), (2, 0)):
        for k in range(3):
            a, b, c = t[k], t[(k + 1) % 3], t[(k + 2) % 3]
            x, y = p[b, i] - p[a, i], p[b, j] - p[a, j]
            left, right = x * (p[c, j] - p[a, j]), y * (p[c, i] - p[a, i])
            own = left - right
            if abs(own) <= FILTER_2D * (abs(left) + abs(right)):
                continue
            apart = True
            for q in s:
                if q == shared and (a == shared or b == shared):
                    continue
                left, right = x * (p[q, j] - p[a, j]), y * (p[q, i] - p[a, i])
                side = left - right
                doubt = FILTER_2D * (abs(left) + abs(right))
                if (side if own > 0.0 else -side) >= -doubt:
                    apart = False
                    break
            if apart:
                return True
    return False


@nb.njit(cache=True)
def triangles_meet(p: Array, t: Array, s: Array) -> bool:
    """Whether two triangles with area meet elsewhere than in what they share.

    Parameters
    ----------
    p : ndarray, shape (n, 3), float64
    t, s : ndarray, shape (3,)
        Rows of `p`.

    Returns
    -------
    bool

    Examples
    --------
    >>> import numpy as np
    >>> upright = [[0, -1, -1], [0, 1, -1], [0, 0, 1]]
    >>> flat = [[-1, -1, 0], [1, -1, 0], [0, 1, 0]]
    >>> points = np.array(upright + flat, dtype=float)
    >>> bool(triangles_meet(points, np.array([0, 1, 2]), np.array([3, 4, 5])))
    True
    """
    at, as_ = -1, -1
    shared = 0
    for k in range(3):
        for m in range(3):
            if t[k] == s[m]:
                shared += 1
                at, as_ = k, m
    if shared == 3:
        return False
    if shared == 2:
        ot = os = 0
        for k in range(3):
            if t[k] != s[0] and t[k] != s[1] and t[k] != s[2]:
                ot = k
            if s[k] != t[0] and s[k] != t[1] and s[k] != t[2]:
                os = k
        if orient3d(p, t[0], t[1], t[2], s[os]) != 0:
            return False
        i, j = _axes(p, t)
        a, b = t[(ot + 1) % 3], t[(ot + 2) % 3]
        return orient2d(p, a, b, t[ot], i, j) == orient2d(p, a, b, s[os], i, j)
    if shared == 1:
        if _are_seen_apart(p, t, s, t[at]) or _are_seen_apart(p, s, t, t[at]):
            return False
        s1, s2 = (as_ + 1) % 3, (as_ + 2) % 3
        a = orient3d(p, t[0], t[1], t[2], s[s1])
        b = orient3d(p, t[0], t[1], t[2], s[s2])
        if a * b > 0:
            return False
        t1, t2 = (at + 1) % 3, (at + 2) % 3
        c = orient3d(p, s[0], s[1], s[2], t[t1])
        d = orient3d(p, s[0], s[1], s[2], t[t2])
        if c * d > 0:
            return False
        if a == 0 and b == 0:
            return _wedges_meet(p, t, s, at, as_)
        return _segment_meets(p, s[s1], s[s2], t, a, b) or _segment_meets(p, t[t1], t[t2], s, c, d)
    if _are_seen_apart(p, t, s, -1) or _are_seen_apart(p, s, t, -1):
        return False
    side_s = _sides(p, t, s)
    if abs(side_s[0] + side_s[1] + side_s[2]) == 3:
        return False
    side_t = _sides(p, s, t)
    if abs(side_t[0] + side_t[1] + side_t[2]) == 3:
        return False
    if side_s == (0, 0, 0):
        return not (_is_parted(p, t, s) or _is_parted(p, s, t))
    for k in range(3):
        m = (k + 1) % 3
        if _segment_meets(p, s[k], s[m], t, side_s[k], side_s[m]):
            return True
        if _segment_meets(p, t[k], t[m], s, side_t[k], side_t[m]):
            return True
    return False
