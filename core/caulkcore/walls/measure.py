"""Thickness at points of a surface: the ball that fits inside, and the ray to the other side."""

from dataclasses import dataclass

import numba as nb
import numpy as np

from ..arrays import Array, frozen
from ..kernels.faces import cross_at, ray_at
from ..kernels.tree import _LEAF, Tree, nearest_face, weights
from ..progress import SILENT, Progress

OPPOSITE = np.deg2rad(120.0)
"""Contacts see each other as opposite sides when the angle between them, at the middle of the ball,
is at least this; for the ray, when the surfaces' normals differ by as much."""
_CHUNK = 200_000
_TOUCH = 1e-5
_TURNS = 40


@nb.njit(cache=True)
def _ray(  # type: ignore[no-untyped-def]
    p: Array, d: Array, own: int, most: float, vertices: Array, faces: Array, order: Array,
    boxes: Array,
):  # fmt: skip
    """First face that a ray meets, and how far; -1 and `most` where none is as near."""
    leaves = len(boxes) // 2
    best, found = most, np.int64(-1)
    ix = 1.0 / d[0] if d[0] != 0.0 else np.inf
    iy = 1.0 / d[1] if d[1] != 0.0 else np.inf
    iz = 1.0 / d[2] if d[2] != 0.0 else np.inf
    stack = np.empty(64, dtype=np.int64)
    stack[0] = 1
    top = 1
    while top > 0:
        top -= 1
        node = stack[top]
        near, far = 0.0, best
        for k in range(3):
            i = ix if k == 0 else (iy if k == 1 else iz)
            if i == np.inf:
                if p[k] < boxes[node, k] or p[k] > boxes[node, 3 + k]:
                    near = np.inf
                continue
            # empty boxes are inside out: they are left by the side that the ray enters others by
            first, last = (k, 3 + k) if i > 0.0 else (3 + k, k)
            near = max(near, (boxes[node, first] - p[k]) * i)
            far = min(far, (boxes[node, last] - p[k]) * i)
        if near > far * (1.0 + 1e-12) + 1e-12:
            continue
        if node < leaves:
            # the child on the side that the ray comes from is looked into first
            left = 2 * node
            ahead = 0.0
            for k in range(3):
                ahead += (boxes[left + 1, k] + boxes[left + 1, 3 + k] - boxes[left, k]
                      - boxes[left, 3 + k]) * d[k]  # fmt: skip
            stack[top] = left + 1 if ahead > 0.0 else left
            stack[top + 1] = left if ahead > 0.0 else left + 1
            top += 2
            continue
        first = (node - leaves) * _LEAF
        for j in range(first, min(first + _LEAF, len(order))):
            f = order[j]
            if f == own:
                continue
            u, v, t = ray_at(
                p[0], p[1], p[2], d[0], d[1], d[2], vertices, faces[f, 0], faces[f, 1], faces[f, 2]
            )
            if u < -1e-9 or v < -1e-9 or u > 1.0 + 1e-9 or u + v > 1.0 + 1e-9:
                continue
            if 0.0 < t < best:
                best, found = t, f
    return found, best


@nb.njit(cache=True)
def _faces_opposite(  # type: ignore[no-untyped-def]
    p: Array, n: Array, own: int, most: float, spread: float, vertices: Array, faces: Array,
    order: Array, boxes: Array,
):  # fmt: skip
    """Whether a face that turns the other way may be where a ball's opposite contact can be.

    That is in the ball of diameter `most` that touches the surface at p, and in a cone about the
    way in: contacts at least 180 - 2 x degrees apart lie within x degrees of it. Spheres round
    boxes and faces stand for them, so that some are found in vain.
    """
    leaves = len(boxes) // 2
    cos, sin = np.cos(spread), np.sin(spread)
    r = 0.5 * most
    stack = np.empty(64, dtype=np.int64)
    stack[0] = 1
    top = 1
    while top > 0:
        top -= 1
        node = stack[top]
        size = away = deep = 0.0
        total = 0.0
        for k in range(3):
            low, high = boxes[node, k], boxes[node, 3 + k]
            if low > high:
                total = np.inf
                break
            middle, half = 0.5 * (low + high) - p[k], 0.5 * (high - low)
            size += half * half
            away += middle * middle
            deep -= middle * n[k]
            c = p[k] - r * n[k]
            d = max(low - c, 0.0, c - high)
            total += d * d
        if total > r * r:
            continue
        size = np.sqrt(size)
        side = np.sqrt(max(away - deep * deep, 0.0))
        # how far the middle lies outside the cone
        if side * cos - deep * sin > size:
            continue
        if node < leaves:
            stack[top], stack[top + 1] = 2 * node, 2 * node + 1
            top += 2
            continue
        first = (node - leaves) * _LEAF
        for j in range(first, min(first + _LEAF, len(order))):
            f = order[j]
            if f == own:
                continue
            x, y, z = cross_at(vertices, faces[f, 0], faces[f, 1], faces[f, 2])
            turned = x * n[0] + y * n[1] + z * n[2]
            if turned < 0.0:
                return True
    return False


@nb.njit(cache=True, parallel=True)
def _measure(  # type: ignore[no-untyped-def]
    points: Array, normals: Array, own: Array, most: float, opposite: float, vertices: Array,
    faces: Array, order: Array, boxes: Array, ball: Array, ray: Array, facing: Array,
    contact: Array, rims: Array,
):  # fmt: skip
    for i in nb.prange(len(points)):
        p, n = points[i], normals[i]
        inward = -n
        met, length = _ray(p, inward, own[i], most, vertices, faces, order, boxes)
        ray[i] = length
        facing[i] = False
        contact[i] = met
        if met >= 0:
            x, y, z = cross_at(vertices, faces[met, 0], faces[met, 1], faces[met, 2])
            size = np.sqrt(x * x + y * y + z * z)
            along = x * n[0] + y * n[1] + z * n[2]
            facing[i] = size > 0.0 and along <= np.cos(opposite) * size
        ball[i] = -length
        spread = 0.5 * (np.pi - opposite)
        if not facing[i] and not _faces_opposite(
            p, n, own[i], length, spread, vertices, faces, order, boxes
        ):
            continue
        r = 0.5 * length
        middle, foot = np.empty(3), np.empty(3)
        across = facing[i]  # whether the last contact is an opposite side
        for _ in range(_TURNS):
            for k in range(3):
                middle[k] = p[k] + r * inward[k]
            bound = (r * (1.0 - _TOUCH)) ** 2
            f, _squared = nearest_face(middle, bound, vertices, faces, order, boxes)
            if f < 0:
                break
            a, b, c = vertices[faces[f, 0]], vertices[faces[f, 1]], vertices[faces[f, 2]]
            v, w = weights(middle, a, b, c)
            for k in range(3):
                foot[k] = a[k] + v * (b[k] - a[k]) + w * (c[k] - a[k])
            away, drop = 0.0, 0.0
            for k in range(3):
                e = p[k] - foot[k]
                away += e * e
                drop += e * n[k]
            if drop <= 0.0:
                break
            r = 0.5 * away / drop
            if r <= 1e-12:
                r = 0.0
                across = False
                break
            turn = 0.0
            for k in range(3):
                turn += n[k] * (foot[k] - (p[k] + r * inward[k]))
            # the rim of a hole is no side
            rim = len(rims) > 0 and (
                (w == 0.0 and rims[f, 0])
                or (v + w >= 1.0 and rims[f, 1])
                or (v == 0.0 and rims[f, 2])
            )
            across = not rim and turn <= np.cos(opposite) * r
            if across:
                contact[i] = f
        ball[i] = 2.0 * r
        # a ball stopped by a corner beside the point tells of the corner, not of the wall
        if not across:
            ball[i] = -ball[i]


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
        The face that each point is on.
    most : float
        Greatest thickness of interest, mm.
    progress : Progress
    rims : ndarray, shape (m, 3), bool, optional
        Edges of the faces with nothing beyond; a ball that touches one spans no wall.

    Returns
    -------
    Depths
    """
    s = len(points)
    ball, ray = np.empty(s), np.empty(s)
    facing, contact = np.empty(s, dtype=bool), np.empty(s, dtype=np.int64)
    points, normals = frozen(points, np.float64), frozen(normals, np.float64)
    own = frozen(own, np.int64)
    rims = np.zeros((0, 3), dtype=bool) if rims is None else rims
    for start in range(0, s, _CHUNK):
        progress.step("Sounding the walls", start / s)
        part = slice(start, start + _CHUNK)
        _measure(
            points[part], normals[part], own[part], float(most), OPPOSITE, tree.vertices,
            tree.faces, tree.order, tree.boxes, ball[part], ray[part], facing[part], contact[part],
            rims,
        )  # fmt: skip
    return Depths(np.abs(ball), ray, ~np.signbit(ball), facing, contact)
