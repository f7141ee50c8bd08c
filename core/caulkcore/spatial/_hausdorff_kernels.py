"""Branch and bound over triangles for `hausdorff`: how far a triangle gets from a surface."""

import numpy as np

from ..jit import nb
from ..mesh._face_kernels import Point, cross, row
from ..mesh.arrays import Array
from .box_tree import corners_of, nearest_face, to_triangle

_STACK = 600
"""Triangles that wait at most while one face is looked at."""
_POLYGON = 8
"""Corners of a triangle cut by three planes, and room for rounding."""
_ALIKE = 0.3
"""Least cosine between a triangle and a face along whose sides it is cut: across steeper ones
nothing would be gained."""
_ON_PLANE = 1e-9
"""Share of a triangle's size within which its corners count as on a plane that cuts it."""
_MOST_COVER = 96
"""Faces of the other surface that a triangle is looked at against as a whole, at most."""
_SHRUNK = 1e-12
"""Share of its longest side by which a triangle is made smaller when asked whether it is covered,
so that faces which end with it do not count."""
_SLIMMEST = 1e-5
"""Least height of a triangle asked so, as a share of its longest side."""
_STRANDS = 256
"""Shares of the work, handed to threads as they become free."""
_ROUNDING = 1e-12
"""Share by which an upper bound is raised for what rounding may have taken from it."""


@nb.njit(cache=True)
def _apart(p: Point, q: Point) -> float:
    x, y, z = p[0] - q[0], p[1] - q[1], p[2] - q[2]
    return np.sqrt(x * x + y * y + z * z)


@nb.njit(cache=True)
def _length(p: Point) -> float:
    return np.sqrt(p[0] * p[0] + p[1] * p[1] + p[2] * p[2])


@nb.njit(cache=True)
def _farthest_corner(p: Point, q: Point, r: Point, a: Point, b: Point, c: Point) -> float:
    """Greatest distance of the corners p, q, r from the triangle a, b, c.

    The distance from a convex set is a convex function, so that no point of the triangle p, q, r
    is farther.
    """
    worst = to_triangle(p, a, b, c)
    worst = max(worst, to_triangle(q, a, b, c))
    worst = max(worst, to_triangle(r, a, b, c))
    return np.sqrt(worst) * (1.0 + _ROUNDING)


@nb.njit(cache=True, parallel=True)
def first_bounds(  # type: ignore[no-untyped-def]
    vertices: Array, faces: Array, distance: Array, nearest: Array, to_vertices: Array,
    to_faces: Array,
):  # fmt: skip
    """Upper bound of each face's distance from a surface, from what is known of its corners.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3)
    faces : ndarray, shape (m, 3)
    distance, nearest : ndarray, shape (n,)
        Distance of each vertex from the other surface, and the face of it that is nearest.
    to_vertices : ndarray, shape (k, 3)
        The other surface.
    to_faces : ndarray, shape (j, 3)

    Returns
    -------
    ndarray, shape (m,)
    """
    out = np.empty(len(faces))
    for f in nb.prange(len(faces)):
        p, q, r = corners_of(vertices, faces, f)
        pq, qr, rp = _apart(p, q), _apart(q, r), _apart(r, p)
        best = distance[faces[f, 0]] + max(pq, rp)
        best = min(best, distance[faces[f, 1]] + max(pq, qr))
        best = min(best, distance[faces[f, 2]] + max(qr, rp))
        for k in range(3):
            g = nearest[faces[f, k]]
            if k == 0 or g != nearest[faces[f, 0]]:
                a, b, c = corners_of(to_vertices, to_faces, g)
                best = min(best, _farthest_corner(p, q, r, a, b, c))
        out[f] = best
    return out


@nb.njit(cache=True)
def _clip(  # type: ignore[no-untyped-def]
    polygon: Array, size: int, normal: Point, at: Point, on_plane: float, inner: Array, outer: Array
):
    """Cut a convex polygon by a plane: corners on the side of the normal, and on the other."""
    n_in = n_out = 0
    below = above = False
    for i in range(size):
        j = (i + 1) % size
        here = there = 0.0
        for k in range(3):
            here += (polygon[i, k] - at[k]) * normal[k]
            there += (polygon[j, k] - at[k]) * normal[k]
        here = 0.0 if abs(here) <= on_plane else here
        there = 0.0 if abs(there) <= on_plane else there
        below, above = below or here < 0.0, above or here > 0.0
        if here >= 0.0:
            inner[n_in] = polygon[i]
            n_in += 1
        if here <= 0.0:
            outer[n_out] = polygon[i]
            n_out += 1
        if here * there < 0.0:
            share = here / (here - there)
            for k in range(3):
                x = polygon[i, k] + share * (polygon[j, k] - polygon[i, k])
                inner[n_in, k] = x
                outer[n_out, k] = x
            n_in += 1
            n_out += 1
    return n_in if above else 0, n_out if below else 0


@nb.njit(cache=True)
def _push(  # type: ignore[no-untyped-def]
    p: Point, q: Point, r: Point, most: float, to: np.int64, a: Point, b: Point, c: Point,
    stack: Array, hint: Array, top: int,
):  # fmt: skip
    """Let a triangle wait, its bound that of the triangle around it or of the face a, b, c."""
    bound = min(most, _farthest_corner(p, q, r, a, b, c))
    own = stack[top]
    own[0], own[1], own[2] = p
    own[3], own[4], own[5] = q
    own[6], own[7], own[8] = r
    own[9] = bound
    hint[top] = to
    return top + 1


@nb.njit(cache=True)
def _cut_by_prism(  # type: ignore[no-untyped-def]
    p: Point, q: Point, r: Point, most: float, to: np.int64, a: Point, b: Point, c: Point,
    stack: Array, hint: Array, top: int, work: Array,
):  # fmt: skip
    """Cut a triangle by the sides of the prism over a face; where it is all inside or all outside
    nothing is done.

    What lies inside is as far from the face as its farthest corner; what lies outside is looked at
    again. Surfaces that lie close together are so divided along each other's edges.
    """
    n, own = cross(a, b, c), cross(p, q, r)
    size = _length(n)
    if abs(n[0] * own[0] + n[1] * own[1] + n[2] * own[2]) <= _ALIKE * size * _length(own):
        return top
    on_plane = _ON_PLANE * size * max(_apart(p, q), _apart(q, r), _apart(r, p))
    polygon, inner, outer = work[0], work[1], work[2]
    polygon[0, 0], polygon[0, 1], polygon[0, 2] = p
    polygon[1, 0], polygon[1, 1], polygon[1, 2] = q
    polygon[2, 0], polygon[2, 1], polygon[2, 2] = r
    corners, start, cut = 3, top, False
    for side in range(3):
        u, v = (a, b) if side == 0 else ((b, c) if side == 1 else (c, a))
        ex, ey, ez = v[0] - u[0], v[1] - u[1], v[2] - u[2]
        normal = (n[1] * ez - n[2] * ey, n[2] * ex - n[0] * ez, n[0] * ey - n[1] * ex)
        n_in, n_out = _clip(polygon, corners, normal, u, on_plane * _apart(u, v), inner, outer)
        if n_in < 3:
            return start
        if n_out >= 3:
            cut = True
            for i in range(1, n_out - 1):
                top = _push(
                    row(outer, 0), row(outer, i), row(outer, i + 1), most, to, a, b, c,
                    stack, hint, top,
                )  # fmt: skip
        polygon, inner = inner, polygon
        corners = n_in
    if not cut:
        return start
    for i in range(1, corners - 1):
        top = _push(
            row(polygon, 0), row(polygon, i), row(polygon, i + 1), most, to, a, b, c,
            stack, hint, top,
        )  # fmt: skip
    return top


@nb.njit(cache=True)
def _placed(p: Point, x: Point, y: Point, z: Point, at: Point) -> Point:
    """A point in a frame with axes x, y, z and its origin at `at`."""
    dx, dy, dz = p[0] - at[0], p[1] - at[1], p[2] - at[2]
    return (dx * x[0] + dy * x[1] + dz * x[2], dx * y[0] + dy * y[1] + dz * y[2],
            dx * z[0] + dy * z[1] + dz * z[2])  # fmt: skip


@nb.njit(cache=True)
def _passes_over(a: Point, b: Point, lines: Array) -> bool:
    """Whether a segment has a part on the inner side of three lines, seen along the z axis."""
    begin, end = 0.0, 1.0
    for i in range(3):
        here = lines[i, 0] * a[0] + lines[i, 1] * a[1] - lines[i, 2]
        there = lines[i, 0] * b[0] + lines[i, 1] * b[1] - lines[i, 2]
        if here <= 0.0 and there <= 0.0:
            return False
        if here < 0.0:
            begin = max(begin, here / (here - there))
        elif there < 0.0:
            end = min(end, here / (here - there))
    return begin < end


@nb.njit(cache=True)
def _within_lines(polygon: Array, size: int, lines: Array, other: Array) -> tuple[int, bool]:
    """Clip a polygon (Sutherland & Hodgman 1974): its corners left, and whether in `other`."""
    flipped = False
    for i in range(3):
        source, target = (other, polygon) if flipped else (polygon, other)
        n = 0
        for j in range(size):
            k = (j + 1) % size
            here = lines[i, 0] * source[j, 0] + lines[i, 1] * source[j, 1] - lines[i, 2]
            there = lines[i, 0] * source[k, 0] + lines[i, 1] * source[k, 1] - lines[i, 2]
            if here >= 0.0:
                target[n] = source[j]
                n += 1
            if (here < 0.0) != (there < 0.0):
                share = here / (here - there)
                for d in range(3):
                    target[n, d] = source[j, d] + share * (source[k, d] - source[j, d])
                n += 1
        size, flipped = n, not flipped
        if size < 3:
            return 0, flipped
    return size, flipped


@nb.njit(cache=True)
def _cover(  # type: ignore[no-untyped-def]
    p: Point, q: Point, r: Point, start: np.int64, most: float, to_vertices: Array, to_faces: Array,
    twin: Array, lines: Array, visited: Array, work: Array,
):  # fmt: skip
    """Greatest height of a surface over a triangle that it covers; infinite if it does not.

    From one face on, faces are collected across every edge that passes over the triangle. No rim
    of theirs does then, so that each point of the triangle lies under as many of them, those that
    face the other way subtracted; if that is not none, each point has a face over or under it, and
    is not farther from it than the faces are high there. `most` is the height from which on that
    is of no use.
    """
    n = cross(p, q, r)
    size, longest = _length(n), max(_apart(p, q), _apart(q, r), _apart(r, p))
    if size <= _SLIMMEST * longest * longest:
        return np.inf
    along = _apart(p, q)
    z = (n[0] / size, n[1] / size, n[2] / size)
    x = ((q[0] - p[0]) / along, (q[1] - p[1]) / along, (q[2] - p[2]) / along)
    y = (z[1] * x[2] - z[2] * x[1], z[2] * x[0] - z[0] * x[2], z[0] * x[1] - z[1] * x[0])
    far = _placed(r, x, y, z, p)
    inset = _SHRUNK * longest
    for i in range(3):
        ux, uy = (0.0, 0.0) if i == 0 else ((along, 0.0) if i == 1 else (far[0], far[1]))
        vx, vy = (along, 0.0) if i == 0 else ((far[0], far[1]) if i == 1 else (0.0, 0.0))
        side = np.sqrt((vx - ux) ** 2 + (vy - uy) ** 2)
        lines[i, 0], lines[i, 1] = (uy - vy) / side, (vx - ux) / side
        lines[i, 2] = lines[i, 0] * ux + lines[i, 1] * uy + inset
    visited[0] = start
    count, done = 1, 0
    highest = area = 0.0
    polygon, other = work[0], work[1]
    while done < count:
        g = visited[done]
        done += 1
        a, b, c = corners_of(to_vertices, to_faces, g)
        a, b, c = _placed(a, x, y, z, p), _placed(b, x, y, z, p), _placed(c, x, y, z, p)
        polygon[0, 0], polygon[0, 1], polygon[0, 2] = a
        polygon[1, 0], polygon[1, 1], polygon[1, 2] = b
        polygon[2, 0], polygon[2, 1], polygon[2, 2] = c
        corners, flipped = _within_lines(polygon, 3, lines, other)
        if corners == 0:
            if done == 1:
                return np.inf
            continue
        kept = other if flipped else polygon
        for i in range(corners):
            j = (i + 1) % corners
            highest = max(highest, abs(kept[i, 2]))
            area += kept[i, 0] * kept[j, 1] - kept[j, 0] * kept[i, 1]
        if highest >= most:
            return np.inf
        for k in range(3):
            u, v = (a, b) if k == 0 else ((b, c) if k == 1 else (c, a))
            if not _passes_over(u, v, lines):
                continue
            beyond = twin[3 * g + k]
            if beyond < 0:
                return np.inf
            h = beyond // 3
            known = False
            for i in range(count):
                known = known or visited[i] == h
            if not known:
                if count == len(visited):
                    return np.inf
                visited[count] = h
                count += 1
    if abs(area) < 0.5 * size:
        return np.inf
    # what was left out at the rim is no farther from the rest than this
    return highest + 4.0 * inset * longest * longest / size


@nb.njit(cache=True)
def _refine_face(  # type: ignore[no-untyped-def]
    f: np.int64, bounds: Array, vertices: Array, faces: Array, nearest: Array, to_vertices: Array,
    to_faces: Array, order: Array, boxes: Array, twin: Array, low: float, share: float,
    floor: float, most_pieces: int, stack: Array, hint: Array, work: Array, lines: Array,
    visited: Array, at: Array,
):  # fmt: skip
    """Bounds of one face's distance, see `refine`; `at` receives the point that has the lower."""
    p, q, r = corners_of(vertices, faces, f)
    to = np.int64(nearest[faces[f, 0]])
    a, b, c = corners_of(to_vertices, to_faces, to)
    top = _push(p, q, r, bounds[f], to, a, b, c, stack, hint, 0)
    least, high = low, 0.0
    pieces = 0
    while top > 0:
        top -= 1
        bound, to = stack[top, 9], hint[top]
        enough = max(least * (1.0 + share), least + floor)
        if bound <= enough or pieces >= most_pieces:
            high = max(high, bound)
            continue
        pieces += 1
        p = (stack[top, 0], stack[top, 1], stack[top, 2])
        q = (stack[top, 3], stack[top, 4], stack[top, 5])
        r = (stack[top, 6], stack[top, 7], stack[top, 8])
        if len(twin) > 0:
            over = _cover(p, q, r, to, bound, to_vertices, to_faces, twin, lines, visited, work)
            bound = min(bound, over)
            if bound <= enough:
                high = max(high, bound)
                continue
        m = ((p[0] + q[0] + r[0]) / 3.0, (p[1] + q[1] + r[1]) / 3.0,
             (p[2] + q[2] + r[2]) / 3.0)  # fmt: skip
        known = to_triangle(m, *corners_of(to_vertices, to_faces, to))
        found, squared = nearest_face(m, known, to_vertices, to_faces, order, boxes)
        to = to if found < 0 else found
        away = np.sqrt(squared)
        if away > least:
            least = away
            at[0], at[1], at[2] = m
        a, b, c = corners_of(to_vertices, to_faces, to)
        bound = min(bound, _farthest_corner(p, q, r, a, b, c))
        round_it = max(_apart(p, m), _apart(q, m), _apart(r, m))
        bound = min(bound, (away + round_it) * (1.0 + _ROUNDING))
        enough = max(least * (1.0 + share), least + floor)
        if bound <= enough or top + 24 > _STACK:
            high = max(high, bound)
            continue
        if away < round_it:
            divided = _cut_by_prism(p, q, r, bound, to, a, b, c, stack, hint, top, work)
            if divided > top:
                top = divided
                continue
        s = ((p[0] + q[0]) / 2.0, (p[1] + q[1]) / 2.0, (p[2] + q[2]) / 2.0)
        t = ((q[0] + r[0]) / 2.0, (q[1] + r[1]) / 2.0, (q[2] + r[2]) / 2.0)
        u = ((r[0] + p[0]) / 2.0, (r[1] + p[1]) / 2.0, (r[2] + p[2]) / 2.0)
        first = top
        top = _push(p, s, u, bound, to, a, b, c, stack, hint, top)
        top = _push(s, q, t, bound, to, a, b, c, stack, hint, top)
        top = _push(u, t, r, bound, to, a, b, c, stack, hint, top)
        top = _push(s, t, u, bound, to, a, b, c, stack, hint, top)
        # the one that may reach farthest is looked at next
        last = first
        for i in range(first + 1, top):
            if stack[i, 9] > stack[last, 9]:
                last = i
        for k in range(10):
            kept = stack[top - 1, k]
            stack[top - 1, k] = stack[last, k]
            stack[last, k] = kept
    return least, high


@nb.njit(cache=True, parallel=True)
def refine(  # type: ignore[no-untyped-def]
    chosen: Array, bounds: Array, vertices: Array, faces: Array, nearest: Array,
    to_vertices: Array, to_faces: Array, order: Array, boxes: Array, twin: Array, low: float,
    share: float, floor: float, most_pieces: int, lows: Array, highs: Array, at: Array,
):  # fmt: skip
    """Bound the distance of some faces from a surface, dividing them where that is needed.

    Parameters
    ----------
    chosen : ndarray, shape (k,), int64
        Faces to look at.
    bounds : ndarray, shape (m,)
        Upper bound of each face so far.
    vertices : ndarray, shape (n, 3)
    faces : ndarray, shape (m, 3)
    nearest : ndarray, shape (n,)
        Of the other surface, the face nearest to each vertex.
    to_vertices : ndarray, shape (i, 3)
        The other surface.
    to_faces : ndarray, shape (j, 3)
    order : ndarray, shape (j,)
        Of the other surface's tree.
    boxes : ndarray, shape (b, 6)
        Of the tree.
    twin : ndarray, shape (3 j,)
        Half-edge across each half-edge of the other surface, negative where there is not just one;
        empty if it is not known: then surfaces that lie close together take longer.
    low : float
        Distance that some point is known to have.
    share, floor : float
        What need not be told apart from the greatest distance: a share of it, or so many mm.
    most_pieces : int
        Pieces that a face is divided into at most.
    lows, highs : ndarray, shape (k,)
        Receive bounds of the greatest distance that each face has, as far as it matters.
    at : ndarray, shape (k, 3)
        Receive the point that has `lows`.
    """
    strands = min(_STRANDS, len(chosen))
    for strand in nb.prange(strands):
        stack, hint = np.empty((_STACK, 10)), np.empty(_STACK, dtype=np.int64)
        work, lines = np.empty((3, _POLYGON, 3)), np.empty((3, 3))
        visited = np.empty(_MOST_COVER, dtype=np.int64)
        for x in range(strand, len(chosen), strands):
            low_of, high_of = _refine_face(
                chosen[x], bounds, vertices, faces, nearest, to_vertices, to_faces, order, boxes,
                twin, low, share, floor, most_pieces, stack, hint, work, lines, visited, at[x],
            )  # fmt: skip
            lows[x], highs[x] = low_of, high_of
