"""At points of a surface: the largest ball inside it, and the ray straight in to the other side.

Faces are numbered as the leaves of the tree hold them; `corners` are theirs, nine coordinates each.
"""

import numpy as np

from ..jit import nb
from ..mesh._face_kernels import Point, cross, ray_at, row
from ..mesh.arrays import Array
from ..spatial.box_tree import LEAF_SIZE, to_box, weights

_TOUCHING = 1e-5
"""Relative depth to which a ball may reach into what it touches."""
_MOST_SHRINKS = 40
"""Times that a ball shrinks; it converges in five or six."""
_NO_RADIUS = 1e-12
"""A ball smaller than this, mm, is none."""
_SLACK = 1e-9
"""Rounding of an angle, radians."""
_BLOCK = 64
"""Points that are asked about together, then in ever smaller groups."""
_NEIGHBOURHOOD = 16
"""Faces about a point's own that are tried before the tree is asked."""
_LEAST_GROUP = 4
"""Groups of fewer points are not asked about together."""


@nb.njit(cache=True)
def _corners(corners: Array, f: int) -> tuple[Point, Point, Point]:
    return (
        (corners[f, 0], corners[f, 1], corners[f, 2]),
        (corners[f, 3], corners[f, 4], corners[f, 5]),
        (corners[f, 6], corners[f, 7], corners[f, 8]),
    )


@nb.njit(cache=True)
def _ray_hit(p: Point, d: Point, f: int, best: float, corners: Array) -> float:
    a, b, c = _corners(corners, f)
    u, v, t = ray_at(p, d, a, b, c)
    inside = u >= -1e-9 and v >= -1e-9 and u <= 1.0 + 1e-9 and u + v <= 1.0 + 1e-9
    return t if inside and 0.0 < t < best else best


@nb.njit(cache=True)
def _least_product(low: float, high: float, other_low: float, other_high: float) -> float:
    """Least product of two numbers within bounds."""
    return min(min(low * other_low, low * other_high), min(high * other_low, high * other_high))


@nb.njit(cache=True)
def _least_dot(n_low: Point, n_high: Point, normal_bounds: Array, node: int) -> float:
    """Least product of a normal within bounds and any direction below a node."""
    return (
        _least_product(n_low[0], n_high[0], normal_bounds[node, 0], normal_bounds[node, 3])
        + _least_product(n_low[1], n_high[1], normal_bounds[node, 1], normal_bounds[node, 4])
        + _least_product(n_low[2], n_high[2], normal_bounds[node, 2], normal_bounds[node, 5])
    )


@nb.njit(cache=True)
def _ray(  # type: ignore[no-untyped-def]
    p: Point, n: Point, own: int, most: float, guess: np.int64, corners: Array, boxes: Array,
    normal_bounds: Array, stack: Array, enter: Array,
):  # fmt: skip
    """First face that the ray against n meets, and how far; -1 and `most` where none is as near.

    The face that its neighbour met is tried first. With `normal_bounds`, only faces that turn the
    other way count.
    """
    d = (-n[0], -n[1], -n[2])
    sided = len(normal_bounds) > 0
    leaves = len(boxes) // 2
    best, found = most, np.int64(-1)
    if guess >= 0 and guess != own:
        best = _ray_hit(p, d, guess, best, corners)
        found = np.int64(guess) if best < most else found
    ix = 1.0 / d[0] if abs(d[0]) > 1e-300 else 1e300
    iy = 1.0 / d[1] if abs(d[1]) > 1e-300 else 1e300
    iz = 1.0 / d[2] if abs(d[2]) > 1e-300 else 1e300
    # empty boxes are inside out: they are left by the side that the ray enters others by
    x0, y0, z0 = 0 if ix > 0.0 else 3, 1 if iy > 0.0 else 4, 2 if iz > 0.0 else 5
    x1, y1, z1 = 3 - x0, 5 - y0, 7 - z0
    stack[0], enter[0] = 1, 0.0
    top = 1
    while top > 0:
        top -= 1
        node = stack[top]
        if enter[top] > best:
            continue
        if node < leaves:
            for child in (2 * node, 2 * node + 1):
                near = max(
                    0.0, (boxes[child, x0] - p[0]) * ix, (boxes[child, y0] - p[1]) * iy,
                    (boxes[child, z0] - p[2]) * iz,
                )  # fmt: skip
                far = min(
                    best, (boxes[child, x1] - p[0]) * ix, (boxes[child, y1] - p[1]) * iy,
                    (boxes[child, z1] - p[2]) * iz,
                )  # fmt: skip
                if near <= far * (1.0 + 1e-12) + 1e-12 and not (
                    sided and _least_dot(n, n, normal_bounds, child) >= 0.0
                ):
                    stack[top], enter[top] = child, near
                    top += 1
            # the nearer child is looked into first
            both = top > 1 and stack[top - 2] == 2 * node
            if both and enter[top - 2] < enter[top - 1]:
                stack[top - 1], stack[top - 2] = stack[top - 2], stack[top - 1]
                enter[top - 1], enter[top - 2] = enter[top - 2], enter[top - 1]
            continue
        first = (node - leaves) * LEAF_SIZE
        for f in range(first, min(first + LEAF_SIZE, len(corners))):
            if f == own:
                continue
            at = _ray_hit(p, d, f, best, corners)
            if at < best:
                best, found = at, f
    return found, best


@nb.njit(cache=True)
def _shrunk_ball(  # type: ignore[no-untyped-def]
    p: Point, n: Point, r: float, f: int, opposite: float, corners: Array, rims: Array
):
    """A ball that touches the surface at p made smaller, until it reaches into a face no more.

    Its radius, and whether the face is an opposite side then. The radius is as it was, to the last
    digit, if the ball did not reach into the face.
    """
    across = False
    a, b, c = _corners(corners, f)
    m = (p[0] - r * n[0], p[1] - r * n[1], p[2] - r * n[2])
    # most faces are outside by their planes
    x, y, z = cross(a, b, c)
    h = x * (m[0] - a[0]) + y * (m[1] - a[1]) + z * (m[2] - a[2])
    if h * h >= (r * (1.0 - _TOUCHING)) ** 2 * (x * x + y * y + z * z):
        return r, across
    for _ in range(_MOST_SHRINKS):
        v, w = weights(m, a, b, c)
        foot = (
            a[0] + v * (b[0] - a[0]) + w * (c[0] - a[0]),
            a[1] + v * (b[1] - a[1]) + w * (c[1] - a[1]),
            a[2] + v * (b[2] - a[2]) + w * (c[2] - a[2]),
        )
        ex, ey, ez = p[0] - foot[0], p[1] - foot[1], p[2] - foot[2]
        sx, sy, sz = m[0] - foot[0], m[1] - foot[1], m[2] - foot[2]
        drop = ex * n[0] + ey * n[1] + ez * n[2]
        if sx * sx + sy * sy + sz * sz >= (r * (1.0 - _TOUCHING)) ** 2 or drop <= 0.0:
            break
        r = 0.5 * (ex * ex + ey * ey + ez * ez) / drop
        if r <= _NO_RADIUS:
            return 0.0, False
        m = (p[0] - r * n[0], p[1] - r * n[1], p[2] - r * n[2])
        lean = n[0] * (foot[0] - m[0]) + n[1] * (foot[1] - m[1]) + n[2] * (foot[2] - m[2])
        # the rim of a hole is no side
        rim = len(rims) > 0 and (
            (w == 0.0 and rims[f, 0]) or (v + w >= 1.0 and rims[f, 1]) or (v == 0.0 and rims[f, 2])
        )
        across = not rim and lean <= opposite * r
    return r, across


@nb.njit(cache=True)
def _ball_bound(
    p: Point, n: Point, own: int, most: float, guess: np.int64, corners: Array, rims: Array
) -> float:
    """What the radius of the ball is at most, by the faces about the point and one guessed."""
    r = most
    if guess >= 0 and guess != own:
        r, _ = _shrunk_ball(p, n, r, guess, 0.0, corners, rims)
    if own >= 0:
        first = own // _NEIGHBOURHOOD * _NEIGHBOURHOOD
        for f in range(first, min(first + _NEIGHBOURHOOD, len(corners))):
            if f != own:
                r, _ = _shrunk_ball(p, n, r, f, 0.0, corners, rims)
    return r


@nb.njit(cache=True)
def _beside(m: Point, r: float, f: int, discs: Array) -> bool:
    """Whether the circle that a ball cuts out of a face's plane lies beside the face, if any."""
    inner = (r * (1.0 - _TOUCHING)) ** 2
    x, y, z = m[0] - discs[f, 0], m[1] - discs[f, 1], m[2] - discs[f, 2]
    h = x * discs[f, 3] + y * discs[f, 4] + z * discs[f, 5]
    cut = inner - h * h
    if cut <= 0.0:
        return True
    # the square of the sum of both radii
    wide = discs[f, 6]
    return x * x + y * y + z * z - h * h > cut + wide + 2.0 * np.sqrt(cut * wide)


@nb.njit(cache=True)
def _is_off_slab(m: Point, r: float, slabs: Array, node: int) -> bool:
    """Whether a ball, but for how deep it may reach, keeps off the slab of a node."""
    inner = r * (1.0 - _TOUCHING)
    at = slabs[node, 0] * m[0] + slabs[node, 1] * m[1] + slabs[node, 2] * m[2]
    return at - inner >= slabs[node, 4] or at + inner <= slabs[node, 3]


@nb.njit(cache=True)
def _ball(  # type: ignore[no-untyped-def]
    p: Point, n: Point, own: int, most: float, opposite: float, guess: np.int64, corners: Array,
    boxes: Array, slabs: Array, discs: Array, rims: Array, stack: Array,
):  # fmt: skip
    """Radius of the largest ball inside that touches the surface at p, the face that stops it, and
    whether that is an opposite side; `most`, -1 and False if none does.

    Balls that touch at p lie within one another, so that a face outside one of them is outside all
    smaller ones: going down the tree once, shrinking all the while, is enough. The face that
    stopped the ball of a neighbour is tried first.
    """
    r, found, across = most, np.int64(-1), False
    if guess >= 0 and guess != own:
        smaller, opp = _shrunk_ball(p, n, r, guess, opposite, corners, rims)
        if smaller < r:
            r, found, across = smaller, np.int64(guess), opp
    leaves = len(boxes) // 2
    m = (p[0] - r * n[0], p[1] - r * n[1], p[2] - r * n[2])
    stack[0] = 1
    top = 1
    while top > 0 and r > 0.0:
        top -= 1
        node = stack[top]
        if to_box(m, boxes, node) >= r * r or _is_off_slab(m, r, slabs, node):
            continue
        if node < leaves:
            left = 2 * node
            near, far = to_box(m, boxes, left), to_box(m, boxes, left + 1)
            swap = near > far
            if max(near, far) < r * r:
                stack[top] = left if swap else left + 1
                top += 1
            if min(near, far) < r * r:
                stack[top] = left + 1 if swap else left
                top += 1
            continue
        first = (node - leaves) * LEAF_SIZE
        for f in range(first, min(first + LEAF_SIZE, len(corners))):
            if f == own or _beside(m, r, f, discs):
                continue
            smaller, opp = _shrunk_ball(p, n, r, f, opposite, corners, rims)
            if smaller < r:
                r, found, across = smaller, np.int64(f), opp
                m = (p[0] - r * n[0], p[1] - r * n[1], p[2] - r * n[2])
    return r, found, across


@nb.njit(cache=True)
def _lower(p: Point, q: Point) -> Point:
    return min(p[0], q[0]), min(p[1], q[1]), min(p[2], q[2])


@nb.njit(cache=True)
def _higher(p: Point, q: Point) -> Point:
    return max(p[0], q[0]), max(p[1], q[1]), max(p[2], q[2])


@nb.njit(cache=True)
def _greatest_in_cone(most: float, slope: float) -> float:
    """Greatest coordinate, not below 0, of a direction within the cone around one with `most`."""
    side = np.sqrt(max((1.0 - slope * slope) * (1.0 - most * most), 0.0))
    return 1.0 if most >= slope else max(most * slope + side, 0.0)


@nb.njit(cache=True)
def _in_cone(
    p: Point, n_low: Point, n_high: Point, wide: float, slope: float, low: Point, high: Point
) -> bool:
    """Whether anything in a box may be in the cone of a point within `wide` of p."""
    x, y, z = high[0] - low[0], high[1] - low[1], high[2] - low[2]
    off = wide + 0.5 * np.sqrt(x * x + y * y + z * z)
    x = p[0] - 0.5 * (low[0] + high[0])
    y = p[1] - 0.5 * (low[1] + high[1])
    z = p[2] - 0.5 * (low[2] + high[2])
    along = (
        max(x * n_low[0], x * n_high[0])
        + max(y * n_low[1], y * n_high[1])
        + max(z * n_low[2], z * n_high[2])
    )
    beyond = x * x + y * y + z * z - off * off
    return beyond <= 0.0 or along >= slope * np.sqrt(beyond) - np.sqrt(1.0 - slope * slope) * off


@nb.njit(cache=True)
def opposite_leaf(  # type: ignore[no-untyped-def]
    low: Point, high: Point, n_low: Point, n_high: Point, reach: float, opposite: float,
    guess: np.int64, corners: Array, boxes: Array, normal_bounds: Array, stack: Array,
):  # fmt: skip
    """A leaf in which some points near each other may have an opposite side within reach, or -1.

    Points and normals are known by their bounds. A ball that touches the surface at p and q, and
    whose middle sees the two at an angle of at least a, has q within a cone from p against the
    normal there, half of which is (pi - a) / 2 wide; and the directions in which it meets p and q
    are as far apart. The same is true of what a ray meets and faces. A leaf can be guessed.

    Parameters
    ----------
    low, high : (float, float, float)
        Bounds of the points.
    n_low, n_high : (float, float, float)
        Bounds of their normals.
    reach : float
        How far from the points to look, mm.
    opposite : float
        Least angle between opposite sides, radians.
    guess : int
        A leaf to look at first, or -1.
    corners : ndarray, shape (m, 9)
        Of the faces, in the order of the tree.
    boxes : ndarray, shape (b, 6)
    normal_bounds : ndarray, shape (b, 6)
        Bounds of the directions in which each node can be met.
    stack : ndarray, shape (64,), int64
        Room to work in.
    """
    leaves = len(boxes) // 2
    opposite += _SLACK
    slope = np.sqrt(0.5 * (1.0 - opposite))
    # the box around their cones
    x0, x1 = (
        low[0] - reach * _greatest_in_cone(n_high[0], slope),
        high[0] + reach * _greatest_in_cone(-n_low[0], slope),
    )
    y0, y1 = (
        low[1] - reach * _greatest_in_cone(n_high[1], slope),
        high[1] + reach * _greatest_in_cone(-n_low[1], slope),
    )
    z0, z1 = (
        low[2] - reach * _greatest_in_cone(n_high[2], slope),
        high[2] + reach * _greatest_in_cone(-n_low[2], slope),
    )
    x, y, z = high[0] - low[0], high[1] - low[1], high[2] - low[2]
    wide = 0.5 * np.sqrt(x * x + y * y + z * z)
    middle = (low[0] + 0.5 * x, low[1] + 0.5 * y, low[2] + 0.5 * z)
    stack[0], top = 1, 1
    if guess >= 0:
        stack[1], top = leaves + guess, 2
    while top > 0:
        top -= 1
        node = stack[top]
        u = (boxes[node, 0], boxes[node, 1], boxes[node, 2])
        v = (boxes[node, 3], boxes[node, 4], boxes[node, 5])
        if u[0] > x1 or v[0] < x0 or u[1] > y1 or v[1] < y0 or u[2] > z1 or v[2] < z0:
            continue
        if _least_dot(n_low, n_high, normal_bounds, node) > opposite:
            continue
        if not _in_cone(middle, n_low, n_high, wide, slope, u, v):
            continue
        if node < leaves:
            stack[top], stack[top + 1] = 2 * node, 2 * node + 1
            top += 2
            continue
        first = (node - leaves) * LEAF_SIZE
        for f in range(first, min(first + LEAF_SIZE, len(corners))):
            a, b, c = _corners(corners, f)
            u, v = _lower(_lower(a, b), c), _higher(_higher(a, b), c)
            if _in_cone(middle, n_low, n_high, wide, slope, u, v):
                return np.int64(node - leaves)
    return np.int64(-1)


@nb.njit(cache=True)
def _measure_point(  # type: ignore[no-untyped-def]
    p: Point, n: Point, own: int, most: float, opposite: float, met: np.int64, stop: np.int64,
    corners: Array, boxes: Array, slabs: Array, discs: Array, normal_bounds: Array, rims: Array,
    stack: Array, enter: Array,
):  # fmt: skip
    """Ball (negative if it spans no wall), ray, whether that faces the point, and the contact.

    `met` and `stop` are the faces at which the neighbour's ray and ball ended; given back anew.
    """
    met, length = _ray(p, n, own, most, met, corners, boxes, normal_bounds, stack, enter)
    contact, facing = met, False
    if met >= 0:
        a, b, c = _corners(corners, met)
        x, y, z = cross(a, b, c)
        size = np.sqrt(x * x + y * y + z * z)
        facing = size > 0.0 and x * n[0] + y * n[1] + z * n[2] <= opposite * size
    elif len(normal_bounds) > 0:
        # nothing straight behind: may the ball touch an opposite side at all?
        reach = 2.0 * (1.0 + _TOUCHING) * _ball_bound(p, n, own, 0.5 * most, stop, corners, rims)
        leaf = opposite_leaf(
            p, p, n, n, reach, opposite, np.int64(-1), corners, boxes, normal_bounds, stack
        )
        if leaf < 0:
            return -most, most, False, met, met, stop
    r, stop, across = _ball(
        p, n, own, 0.5 * length, opposite, stop, corners, boxes, slabs, discs, rims, stack
    )
    if stop < 0:
        across = facing  # nothing stops it before the ray's end
    elif across:
        contact = stop
    # a ball stopped by a corner beside the point tells of the corner, not of the wall
    return (2.0 if across else -2.0) * r, length, facing, contact, met, stop


@nb.njit(cache=True, parallel=True)
def measure(  # type: ignore[no-untyped-def]
    run: Array, points: Array, normals: Array, own: Array, most: float, opposite: float,
    order: Array, corners: Array, boxes: Array, slabs: Array, discs: Array, normal_bounds: Array,
    rims: Array, ball: Array, ray: Array, facing: Array, contact: Array,
):  # fmt: skip
    """Ball, negative where it spans no wall, and ray at some points; see `measure_ball_and_ray`.

    They should follow each other as they lie in space. Contacts are numbered as faces are.

    Parameters
    ----------
    run : ndarray, shape (k,), int64
        Numbers of the points to measure at.
    points, normals : ndarray, shape (s, 3), float64
    own : ndarray, shape (s,), int64
        Position of each point's face in the order of the tree, or -1.
    most : float
        Greatest thickness of interest, mm.
    opposite : float
        Least angle between opposite sides, radians.
    order : ndarray, shape (m,), int64
        Faces in the order of the tree.
    corners : ndarray, shape (m, 9)
        Of the faces, in that order.
    boxes, normal_bounds : ndarray, shape (b, 6)
        Of the tree; none of the latter where sides are not told apart.
    slabs : ndarray, shape (b, 5)
        Of the tree.
    discs : ndarray, shape (m, 7)
        Of the tree.
    rims : ndarray, shape (m, 3), bool
        Sides of the faces with nothing beyond, in that order; none if there are no such sides.
    ball, ray, facing, contact : ndarray, shape (s,)
        Receive what is found.
    """
    cos = np.cos(opposite)
    sided = len(normal_bounds) > 0
    for block in nb.prange((len(run) + _BLOCK - 1) // _BLOCK):
        stack, enter = np.empty(64, dtype=np.int64), np.empty(64)
        at, last = block * _BLOCK, min((block + 1) * _BLOCK, len(run))
        selected, leaf = _BLOCK, np.int64(-1)
        # neighbours mostly meet the same faces
        met, stop = np.int64(-1), np.int64(-1)
        while at < last:
            end = min(at + selected, last)
            # points on a skin near each other: mostly nothing at all is near behind them
            none = False
            if sided:
                low, high = row(points, run[at]), row(points, run[at])
                n_low, n_high = row(normals, run[at]), row(normals, run[at])
                for i in run[at + 1 : end]:
                    p, n = row(points, i), row(normals, i)
                    low, high = _lower(low, p), _higher(high, p)
                    n_low, n_high = _lower(n_low, n), _higher(n_high, n)
                leaf = opposite_leaf(
                    low, high, n_low, n_high, most, cos, leaf, corners, boxes, normal_bounds, stack
                )
                none = leaf < 0
            if not none and selected > _LEAST_GROUP and sided:
                # near each other in the order need not be near in space: some of them, then
                selected //= 4
                continue
            for i in run[at:end]:
                if none:
                    ball[i], ray[i], facing[i], contact[i] = -most, most, False, -1
                else:
                    ball[i], ray[i], facing[i], face, met, stop = _measure_point(
                        row(points, i), row(normals, i), own[i], most, cos, met, stop, corners,
                        boxes, slabs, discs, normal_bounds, rims, stack, enter,
                    )  # fmt: skip
                    contact[i] = order[face] if face >= 0 else -1
            at = end
            # as many as fit from here on
            while selected < _BLOCK and at % (4 * selected) == 0:
                selected *= 4


@nb.njit(cache=True, parallel=True)
def touching_balls(
    points: Array, normals: Array, most: float, opposite: float, corners: Array, boxes: Array,
    slabs: Array, discs: Array, rims: Array,
) -> Array:  # fmt: skip
    """Diameter of the largest ball that touches the surface at each point, its middle against n.

    Parameters
    ----------
    points, normals : ndarray, shape (s, 3), float64
        On the surface; where they are on an edge, between the normals of its faces.
    most : float
        Greatest diameter of interest, mm.
    opposite : float
        Least angle at the middle between the point and what stops the ball, radians.
    corners : ndarray, shape (m, 9)
        Of the faces, in the order of the tree.
    boxes : ndarray, shape (b, 6)
    slabs : ndarray, shape (b, 5)
        Of the tree.
    discs : ndarray, shape (m, 7)
        Of the tree.
    rims : ndarray, shape (m, 3), bool
        Sides of the faces with nothing beyond, in that order; none if there are no such sides.

    Returns
    -------
    ndarray, shape (s,)
        `most` where nothing opposite stops it.
    """
    out = np.empty(len(points))
    cos = np.cos(opposite)
    for block in nb.prange((len(points) + _BLOCK - 1) // _BLOCK):
        stack = np.empty(64, dtype=np.int64)
        stop = np.int64(-1)
        for i in range(block * _BLOCK, min((block + 1) * _BLOCK, len(points))):
            r, stop, across = _ball(
                row(points, i), row(normals, i), np.int64(-1), 0.5 * most, cos, stop, corners,
                boxes, slabs, discs, rims, stack,
            )  # fmt: skip
            out[i] = 2.0 * r if across else most
    return out
