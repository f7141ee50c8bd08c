"""Which triangles of a mesh meet where they should not, decided exactly.

Two triangles meet if they have a point in common that is neither a shared vertex nor on a shared
edge; triangles folded onto each other over a shared edge meet. Touching counts. Triangles without
area meet nothing.
"""

import numba as nb
import numpy as np

from ..arrays import Array
from .predicates import orient2d, orient3d
from .tree import _LEAF, Tree

_INLINE = 8


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
    way = orient2d(p, t[0], t[1], t[2], i, j)
    for k in range(3):
        a, b = t[k], t[(k + 1) % 3]
        if (
            way * orient2d(p, a, b, s[0], i, j) < 0
            and way * orient2d(p, a, b, s[1], i, j) < 0
            and way * orient2d(p, a, b, s[2], i, j) < 0
        ):
            return True
    return False


@nb.njit(cache=True)
def _wedges_meet(p: Array, t: Array, s: Array, at: int, as_: int) -> bool:
    """Whether triangles of one plane that share a corner overlap: their wedges there do."""
    i, j = _axes(p, t)
    tip = t[at]
    for turn in range(2):
        one, k = (t, at) if turn == 0 else (s, as_)
        two, m = (s, as_) if turn == 0 else (t, at)
        a, b = one[(k + 1) % 3], one[(k + 2) % 3]
        way = orient2d(p, tip, a, b, i, j)
        for step in range(1, 3):
            q = two[(m + step) % 3]
            if way * orient2d(p, tip, a, q, i, j) >= 0 and way * orient2d(p, tip, q, b, i, j) >= 0:
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
def _sides(p: Array, t: Array, s: Array, out: Array) -> bool:
    """Sides of s's vertices with respect to t's plane; False if all lie strictly on one."""
    for k in range(3):
        out[k] = 0
        known = s[k] == t[0] or s[k] == t[1] or s[k] == t[2]
        if not known:
            out[k] = orient3d(p, t[0], t[1], t[2], s[k])
    return not (
        (out[0] > 0 and out[1] > 0 and out[2] > 0) or (out[0] < 0 and out[1] < 0 and out[2] < 0)
    )


@nb.njit(cache=True)
def triangles_meet(p: Array, t: Array, s: Array) -> bool:
    """Whether two triangles with area meet elsewhere than in what they share.

    Parameters
    ----------
    p : ndarray, shape (n, 3), float64
    t, s : ndarray, shape (3,)
        Rows of `p`.
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
    side_s, side_t = np.empty(3, np.int64), np.empty(3, np.int64)
    if shared == 1:
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
    if not _sides(p, t, s, side_s) or not _sides(p, s, t, side_t):
        return False
    if not side_s.any():
        return not (_is_parted(p, t, s) or _is_parted(p, s, t))
    for k in range(3):
        m = (k + 1) % 3
        if _segment_meets(p, s[k], s[m], t, side_s[k], side_s[m]):
            return True
        if _segment_meets(p, t[k], t[m], s, side_t[k], side_t[m]):
            return True
    return False


_MARGIN = 1e-14


@nb.njit(cache=True, parallel=True)
def _planes(p: Array, faces: Array) -> Array:
    """Normal of each face and the product of its two sides' lengths, shape (m, 4)."""
    out = np.empty((len(faces), 4))
    for f in nb.prange(len(faces)):
        a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
        ux, uy, uz = p[b, 0] - p[a, 0], p[b, 1] - p[a, 1], p[b, 2] - p[a, 2]
        vx, vy, vz = p[c, 0] - p[a, 0], p[c, 1] - p[a, 1], p[c, 2] - p[a, 2]
        out[f, 0], out[f, 1], out[f, 2] = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
        out[f, 3] = np.sqrt((ux * ux + uy * uy + uz * uz) * (vx * vx + vy * vy + vz * vz))
    return out


@nb.njit(cache=True, parallel=True)
def _bounds(p: Array, faces: Array) -> tuple[Array, Array]:
    """Low and high corner of each face's box, shape (m, 3) each."""
    low, high = np.empty((len(faces), 3)), np.empty((len(faces), 3))
    for f in nb.prange(len(faces)):
        for k in range(3):
            a, b, c = p[faces[f, 0], k], p[faces[f, 1], k], p[faces[f, 2], k]
            low[f, k] = min(a, b, c)
            high[f, k] = max(a, b, c)
    return low, high


@nb.njit(cache=True)
def _surely_one_side(p: Array, planes: Array, faces: Array, t: int, s: int) -> bool:
    """Whether all vertices of face s that are not t's lie beyond doubt on one side of t's plane.

    The margin covers the rounding of the normal and of the product many times over.
    """
    t0, t1, t2 = faces[t, 0], faces[t, 1], faces[t, 2]
    px, py, pz = p[t0, 0], p[t0, 1], p[t0, 2]
    nx, ny, nz = planes[t, 0], planes[t, 1], planes[t, 2]
    margin = _MARGIN * planes[t, 3]
    side = 0
    for k in range(3):
        v = faces[s, k]
        if v == t0 or v == t1 or v == t2:  # noqa: SIM109 (a tuple is slower here)
            continue
        x, y, z = p[v, 0] - px, p[v, 1] - py, p[v, 2] - pz
        height = nx * x + ny * y + nz * z
        doubt = margin * (abs(x) + abs(y) + abs(z))
        if height > doubt:
            if side < 0:
                return False
            side = 1
        elif -height > doubt:
            if side > 0:
                return False
            side = -1
        else:
            return False
    return side != 0


@nb.njit(cache=True)
def _leaf_pairs(  # type: ignore[no-untyped-def]
    leaf: int, p: Array, faces: Array, boxes: Array, low: Array, high: Array, planes: Array,
    skip: Array, fresh: Array, depth: int, room: Array,
):  # fmt: skip
    """Pairs between the faces of one leaf and those of it and of later ones; stores what fits.

    The faces stand in the order of the leaves. If `fresh` has a mark for each face, only pairs
    with a marked face count, and each stands with the leaf of that face, or of its first one.
    """
    leaves = len(boxes) // 2
    own = boxes[leaves + leaf]
    first = leaf * _LEAF
    last = min(first + _LEAF, len(faces))
    stack = np.empty(96, dtype=np.int64)
    level = np.empty(96, dtype=np.int64)
    stack[0], level[0] = 1, depth
    top = 1
    found = 0
    some = len(fresh) > 0
    while top > 0:
        top -= 1
        node, up = stack[top], level[top]
        # the last leaf below this node
        if not some and ((node + 1) << up) - 1 - leaves < leaf:
            continue
        apart = False
        for k in range(3):
            if boxes[node, k] > own[3 + k] or boxes[node, 3 + k] < own[k]:
                apart = True
                break
        if apart:
            continue
        if up > 0:
            stack[top], level[top] = 2 * node, up - 1
            stack[top + 1], level[top + 1] = 2 * node + 1, up - 1
            top += 2
            continue
        start = (node - leaves) * _LEAF
        for x in range(first, last):
            if skip[x] or (some and not fresh[x]):
                continue
            begin = start if some else max(start, x + 1)
            for y in range(begin, min(start + _LEAF, len(faces))):
                apart = skip[y] or (some and y <= x and (fresh[y] or y == x))
                for k in range(3):
                    apart |= (low[x, k] > high[y, k]) | (high[x, k] < low[y, k])
                if (
                    apart
                    or _surely_one_side(p, planes, faces, x, y)
                    or _surely_one_side(p, planes, faces, y, x)
                    or not triangles_meet(p, faces[x], faces[y])
                ):
                    continue
                if found < len(room):
                    room[found, 0], room[found, 1] = x, y
                found += 1
    return found


@nb.njit(cache=True, parallel=True)
def _all_leaves(  # type: ignore[no-untyped-def]
    p: Array, faces: Array, boxes: Array, low: Array, high: Array, planes: Array, skip: Array,
    fresh: Array, depth: int, counts: Array, room: Array,
):  # fmt: skip
    for leaf in nb.prange(len(counts)):
        if len(fresh) > 0 and not fresh[leaf * _LEAF : (leaf + 1) * _LEAF].any():
            counts[leaf] = 0
            continue
        counts[leaf] = _leaf_pairs(
            leaf, p, faces, boxes, low, high, planes, skip, fresh, depth, room[leaf]
        )


def crossing_pairs(tree: Tree, skip: Array, fresh: Array | None = None) -> Array:
    """All pairs of triangles that meet where they should not.

    Parameters
    ----------
    tree : Tree
        Over the triangles.
    skip : ndarray, shape (m,), bool
        Triangles without area, to be left out.
    fresh : ndarray, shape (m,), bool, optional
        Triangles one of which must be in each pair; all by default.

    Returns
    -------
    ndarray, shape (k, 2), int32
        Each pair once, lower face first, sorted.
    """
    faces = tree.faces[tree.order]
    low, high = _bounds(tree.vertices, faces)
    leaves = len(tree.boxes) // 2
    used = (len(faces) + _LEAF - 1) // _LEAF
    depth = leaves.bit_length() - 1
    counts = np.empty(used, dtype=np.int64)
    room = np.empty((used, _INLINE, 2), dtype=np.int32)
    planes = _planes(tree.vertices, faces)
    marks = np.zeros(0, dtype=bool) if fresh is None else fresh[tree.order]
    given = (tree.vertices, faces, tree.boxes, low, high, planes, skip[tree.order], marks, depth)
    _all_leaves(*given, counts, room)
    few = counts <= _INLINE
    parts = [room[few][np.arange(_INLINE) < counts[few][:, None]]]
    for leaf in np.flatnonzero(~few):
        more = np.empty((counts[leaf], 2), dtype=np.int32)
        _leaf_pairs(leaf, *given, more)
        parts.append(more)
    pairs = np.sort(tree.order[np.concatenate(parts)], axis=1).astype(np.int32)
    return pairs[np.lexsort((pairs[:, 1], pairs[:, 0]))]
