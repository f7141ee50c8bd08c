"""Thickness at points of a surface: the ball that fits inside, and the ray to the other side."""

from dataclasses import dataclass

import numba as nb
import numpy as np

from ..arrays import Array, frozen
from ..kernels.faces import cross_at, ray_at
from ..kernels.tree import _LEAF, Tree, to_box, weights
from ..progress import SILENT, Progress

OPPOSITE = np.deg2rad(120.0)
"""Contacts see each other as opposite sides when the angle between them, at the middle of the ball,
is at least this; for the ray, when the surfaces' normals differ by as much."""
_CHUNK = 500_000
_TOUCH = 1e-5
_TURNS = 40
_BLOCK = 64
_FEW = 4


@nb.njit(cache=True, inline="always")
def _meets(  # type: ignore[no-untyped-def]
    p: Array, d: tuple[float, float, float], f: int, best: float, vertices: Array, faces: Array
) -> float:
    u, v, t = ray_at(
        p[0], p[1], p[2], d[0], d[1], d[2], vertices, faces[f, 0], faces[f, 1], faces[f, 2]
    )
    inside = u >= -1e-9 and v >= -1e-9 and u <= 1.0 + 1e-9 and u + v <= 1.0 + 1e-9
    return t if inside and 0.0 < t < best else best


@nb.njit(cache=True, inline="always")
def _most_against(n: Array, turns: Array) -> float:
    """Least product of a normal and any below a node."""
    return (
        min(n[0] * turns[0], n[0] * turns[3])
        + min(n[1] * turns[1], n[1] * turns[4])
        + min(n[2] * turns[2], n[2] * turns[5])
    )


@nb.njit(cache=True)
def _ray(  # type: ignore[no-untyped-def]
    p: Array, n: Array, own: int, most: float, guess: np.int64, vertices: Array, faces: Array,
    order: Array, boxes: Array, turns: Array, stack: Array, enter: Array,
):  # fmt: skip
    """First face that the ray against n meets, and how far; -1 and `most` where none is as near.

    The face that its neighbour met is tried first. With `turns`, only faces that turn the other way
    count.
    """
    d = (-n[0], -n[1], -n[2])
    sided = len(turns) > 0
    leaves = len(boxes) // 2
    best, found = most, np.int64(-1)
    if guess >= 0 and guess != own:
        best = _meets(p, d, int(guess), best, vertices, faces)
        found = np.int64(guess) if best < most else found
    ix = 1.0 / d[0] if abs(d[0]) > 1e-300 else 1e300
    iy = 1.0 / d[1] if abs(d[1]) > 1e-300 else 1e300
    iz = 1.0 / d[2] if abs(d[2]) > 1e-300 else 1e300
    # empty boxes are inside out: they are left by the side that the ray enters others by
    x0, y0, z0 = 0 if ix > 0.0 else 3, 1 if iy > 0.0 else 4, 2 if iz > 0.0 else 5
    x1, y1, z1 = 3 - x0, 5 - y0, 7 - z0
    px, py, pz = p[0], p[1], p[2]
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
                    0.0, (boxes[child, x0] - px) * ix, (boxes[child, y0] - py) * iy,
                    (boxes[child, z0] - pz) * iz,
                )  # fmt: skip
                far = min(
                    best, (boxes[child, x1] - px) * ix, (boxes[child, y1] - py) * iy,
                    (boxes[child, z1] - pz) * iz,
                )  # fmt: skip
                if near <= far * (1.0 + 1e-12) + 1e-12 and not (
                    sided and _most_against(n, turns[child]) >= 0.0
                ):
                    stack[top], enter[top] = child, near
                    top += 1
            # the nearer child is looked into first
            both = top > 1 and stack[top - 2] == 2 * node
            if both and enter[top - 2] < enter[top - 1]:
                stack[top - 1], stack[top - 2] = stack[top - 2], stack[top - 1]
                enter[top - 1], enter[top - 2] = enter[top - 2], enter[top - 1]
            continue
        first = (node - leaves) * _LEAF
        for j in range(first, min(first + _LEAF, len(order))):
            f = order[j]
            if f == own:
                continue
            at = _meets(p, d, f, best, vertices, faces)
            if at < best:
                best, found = at, f
    return found, best


@nb.njit(cache=True)
def _ball(  # type: ignore[no-untyped-def]
    p: Array, n: Array, own: int, most: float, opposite: float, guess: np.int64, vertices: Array,
    faces: Array, order: Array, boxes: Array, turns: Array, rims: Array, stack: Array,
):  # fmt: skip
    """Radius of the largest ball inside that touches the surface at p, the face that stops it, and
    whether that is an opposite side; `most`, -1 and False if none does.

    Balls that touch at p lie within one another, so that a face outside one of them is outside all
    smaller ones: going down the tree once, shrinking all the while, is enough. With `turns`, only
    faces that turn the other way count.
    """
    leaves = len(boxes) // 2
    sided = len(turns) > 0
    r, found, across = most, np.int64(-1), False
    middle, foot = np.empty(3), np.empty(3)
    for k in range(3):
        middle[k] = p[k] - r * n[k]
    stack[0] = 1
    top = 1
    trying = guess >= 0 and guess != own
    while top > 0 or trying:
        if trying:
            # the face that stopped the neighbour's ball
            first, last = 0, 1
        else:
            top -= 1
            node = stack[top]
            if to_box(middle, boxes[node]) >= r * r:
                continue
            if sided and _most_against(n, turns[node]) >= 0.0:
                continue
            if node < leaves:
                left = 2 * node
                near, far = to_box(middle, boxes[left]), to_box(middle, boxes[left + 1])
                swap = near > far
                if max(near, far) < r * r:
                    stack[top] = left if swap else left + 1
                    top += 1
                if min(near, far) < r * r:
                    stack[top] = left + 1 if swap else left
                    top += 1
                continue
            first = (node - leaves) * _LEAF
            last = min(first + _LEAF, len(order))
        for j in range(first, last):
            f = np.int64(guess) if trying else order[j]
            if f == own:
                continue
            a, b, c = vertices[faces[f, 0]], vertices[faces[f, 1]], vertices[faces[f, 2]]
            for _ in range(_TURNS):
                v, w = weights(middle, a, b, c)
                away, drop, short = 0.0, 0.0, 0.0
                for k in range(3):
                    foot[k] = a[k] + v * (b[k] - a[k]) + w * (c[k] - a[k])
                    e = p[k] - foot[k]
                    away += e * e
                    drop += e * n[k]
                    short += (middle[k] - foot[k]) ** 2
                if short >= (r * (1.0 - _TOUCH)) ** 2 or drop <= 0.0:
                    break
                r = 0.5 * away / drop
                if r <= 1e-12:
                    return 0.0, f, False
                turn = 0.0
                for k in range(3):
                    middle[k] = p[k] - r * n[k]
                    turn += n[k] * (foot[k] - middle[k])
                # the rim of a hole is no side
                rim = len(rims) > 0 and (
                    (w == 0.0 and rims[f, 0])
                    or (v + w >= 1.0 and rims[f, 1])
                    or (v == 0.0 and rims[f, 2])
                )
                found, across = f, not rim and turn <= opposite * r
        trying = False
    return r, found, across


@nb.njit(cache=True, inline="always")
def _least(low: float, high: float, other_low: float, other_high: float) -> float:
    """Least product of two numbers within bounds."""
    return min(min(low * other_low, low * other_high), min(high * other_low, high * other_high))


@nb.njit(cache=True)
def _any_opposite(  # type: ignore[no-untyped-def]
    points: Array, normals: Array, reach: float, vertices: Array, faces: Array, order: Array,
    boxes: Array, turns: Array, stack: Array,
) -> bool:  # fmt: skip
    """Whether some points near each other may have an opposite side within reach.

    That needs a face that turns the other way, lies behind theirs within the box around them grown
    by the reach, and has one of them behind itself. Points and normals are known by their bounds.
    """
    leaves = len(boxes) // 2
    low, high = np.empty(3), np.empty(3)
    n_low, n_high = np.empty(3), np.empty(3)
    for k in range(3):
        low[k], high[k] = points[:, k].min(), points[:, k].max()
        n_low[k], n_high[k] = normals[:, k].min(), normals[:, k].max()
    stack[0] = 1
    top = 1
    while top > 0:
        top -= 1
        node = stack[top]
        apart = False
        against = 0.0
        for k in range(3):
            apart = apart or boxes[node, k] > high[k] + reach or boxes[node, 3 + k] < low[k] - reach
            against += _least(n_low[k], n_high[k], turns[node, k], turns[node, 3 + k])
        if apart or against >= 0.0:
            continue
        if node < leaves:
            stack[top], stack[top + 1] = 2 * node, 2 * node + 1
            top += 2
            continue
        first = (node - leaves) * _LEAF
        for j in range(first, min(first + _LEAF, len(order))):
            a, b, c = faces[order[j], 0], faces[order[j], 1], faces[order[j], 2]
            m = cross_at(vertices, a, b, c)
            against = back = 0.0
            deep = np.inf
            for k in range(3):
                against += min(n_low[k] * m[k], n_high[k] * m[k])
                back += m[k] * ((low[k] if m[k] > 0.0 else high[k]) - vertices[a, k])
            for v in (a, b, c):
                along = 0.0
                for k in range(3):
                    x = vertices[v, k]
                    along += _least(n_low[k], n_high[k], x - high[k], x - low[k])
                deep = min(deep, along)
            if against < 0.0 and deep < 0.0 and back < 0.0:
                return True
    return False


@nb.njit(cache=True)
def _at(  # type: ignore[no-untyped-def]
    p: Array, n: Array, own: int, most: float, opposite: float, met: np.int64, stop: np.int64,
    vertices: Array, faces: Array, order: Array, boxes: Array, turns: Array, rims: Array,
    stack: Array, enter: Array,
):  # fmt: skip
    """Ball (negative if it spans no wall), ray, whether that faces the point, and the contact.

    `met` and `stop` are the faces at which the neighbour's ray and ball ended; given back anew.
    """
    met, length = _ray(p, n, own, most, met, vertices, faces, order, boxes, turns, stack, enter)
    contact, facing = met, False
    if met >= 0:
        x, y, z = cross_at(vertices, faces[met, 0], faces[met, 1], faces[met, 2])
        size = np.sqrt(x * x + y * y + z * z)
        facing = size > 0.0 and x * n[0] + y * n[1] + z * n[2] <= opposite * size
    elif len(turns) > 0:
        # nothing straight behind: is there an opposite side at all?
        _, stop, across = _ball(
            p, n, own, 0.5 * length, opposite, stop, vertices, faces, order, boxes, turns, rims,
            stack,
        )  # fmt: skip
        if not across:
            return -most, length, facing, contact, met, stop
    r, stop, across = _ball(
        p, n, own, 0.5 * length, opposite, stop, vertices, faces, order, boxes, turns[:0], rims,
        stack,
    )  # fmt: skip
    if stop < 0:
        across = facing  # nothing stops it before the ray's end
    elif across:
        contact = stop
    # a ball stopped by a corner beside the point tells of the corner, not of the wall
    return (2.0 if across else -2.0) * r, length, facing, contact, met, stop


@nb.njit(cache=True, parallel=True)
def _measure(  # type: ignore[no-untyped-def]
    points: Array, normals: Array, own: Array, most: float, opposite: float, vertices: Array,
    faces: Array, order: Array, boxes: Array, turns: Array, ball: Array, ray: Array, facing: Array,
    contact: Array, rims: Array,
):  # fmt: skip
    cos = np.cos(opposite)
    sided = len(turns) > 0
    for block in nb.prange((len(points) + _BLOCK - 1) // _BLOCK):
        stack, enter = np.empty(64, dtype=np.int64), np.empty(64)
        at, last = block * _BLOCK, min((block + 1) * _BLOCK, len(points))
        some = _BLOCK
        # neighbours mostly meet the same faces
        met, stop = np.int64(-1), np.int64(-1)
        while at < last:
            end = min(at + some, last)
            # points on a skin near each other: mostly nothing at all is near behind them
            none = sided and not _any_opposite(
                points[at:end], normals[at:end], most, vertices, faces, order, boxes, turns, stack
            )
            if not none and some > _FEW and sided:
                # near each other in the order need not be near in space: some of them, then
                some //= 4
                continue
            for i in range(at, end):
                ball[i], ray[i], facing[i], contact[i] = -most, most, False, -1
                if not none:
                    ball[i], ray[i], facing[i], contact[i], met, stop = _at(
                        points[i], normals[i], own[i], most, cos, met, stop, vertices, faces,
                        order, boxes, turns, rims, stack, enter,
                    )  # fmt: skip
            at = end
            # as many as fit from here on
            while some < _BLOCK and at % (4 * some) == 0:
                some *= 4


@dataclass(frozen=True, eq=False)
class Depths:
    """Thickness at points of a surface, mm.

    Attributes
    ----------
    ball : ndarray, shape (s,)
        Diameter of the largest ball inside that touches the surface there; where nothing faces the
        point within reach the ball is not looked for, and this is `ray`.
    ray : ndarray, shape (s,)
        Length of the ray straight in to the opposite skin.
    across : ndarray, shape (s,), bool
        Whether the ball touches an opposite side, rather than a side beside the point.
    facing : ndarray, shape (s,), bool
        Whether the ray ends on a side that faces the point.
    contact : ndarray, shape (s,), int64
        A face on the opposite side, or -1.
    """

    ball: Array
    ray: Array
    across: Array
    facing: Array
    contact: Array

    @property
    def wall(self) -> Array:
        """What counts as thickness: the ball where it spans the wall, else the ray."""
        return np.where(self.across, self.ball, self.ray)

    @property
    def is_wall(self) -> Array:
        """Where there is a wall at all: two sides that see each other."""
        return self.across | self.facing


def measure(
    tree: Tree,
    points: Array,
    normals: Array,
    own: Array,
    most: float,
    progress: Progress = SILENT,
    rims: Array | None = None,
    sided: bool = False,
) -> Depths:
    """Ball and ray thickness at points of a surface.

    The ball shrinks until nothing of the surface is within it (Ma, Bae & Choi 2012), against the
    triangles themselves rather than samples of them; it begins with the ray's length.

    Parameters
    ----------
    tree : Tree
        Over the closed surface.
    points : ndarray, shape (s, 3)
        On it, within faces.
    normals : ndarray, shape (s, 3)
        Unit normals; the measure goes the other way. Negative ones measure gaps outside.
    own : ndarray, shape (s,)
        The face that each point is on, or -1.
    most : float
        Greatest thickness of interest, mm.
    progress : Progress
    rims : ndarray, shape (m, 3), bool, optional
        Edges of the faces with nothing beyond; a ball that touches one spans no wall.
    sided : bool
        Whether the faces all run as their neighbours do, so that an opposite side is one that turns
        the other way: what does not is then left out of the search, and points with nothing of the
        kind behind them take nearly no time.

    Returns
    -------
    Depths
    """
    s = len(points)
    ball, ray = np.empty(s), np.empty(s)
    facing, contact = np.empty(s, dtype=bool), np.empty(s, dtype=np.int64)
    # in the order of the tree, so that neighbours follow each other
    place = np.empty(len(tree.faces) + 1, dtype=np.int64)
    place[tree.order], place[-1] = np.arange(len(tree.order)), -1
    run = np.argsort(place[own], kind="stable")
    points, normals = frozen(points[run], np.float64), frozen(normals[run], np.float64)
    own = frozen(own[run], np.int64)
    rims = np.zeros((0, 3), dtype=bool) if rims is None else rims
    turns = tree.turns if sided else np.zeros((0, 6))
    for start in range(0, s, _CHUNK):
        progress.step("Sounding the walls", start / s)
        part = slice(start, start + _CHUNK)
        _measure(
            points[part], normals[part], own[part], float(most), OPPOSITE, tree.vertices,
            tree.faces, tree.order, tree.boxes, turns, ball[part], ray[part], facing[part],
            contact[part], rims,
        )  # fmt: skip
    back = np.empty(s, dtype=np.int64)
    back[run] = np.arange(s)
    ball = ball[back]
    return Depths(np.abs(ball), ray[back], ~np.signbit(ball), facing[back], contact[back])
