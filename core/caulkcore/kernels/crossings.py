"""All pairs of triangles of a mesh that meet where they should not.

The faces are taken in the order of a `Tree`, numbered anew with their vertices so that what is
near in space is near in memory, and put into blocks of eight. Eight blocks have a block above
them, and so on. A box is kept as its two corners on a grid of some 2^20 cells a side, each
corner's three numbers in one word with a bit to spare above each: two subtractions then compare
six numbers. Corners are rounded down to their cells, both alike, so that boxes which overlap still
do. An empty box begins beyond the last cell.
"""

import numba as nb
import numpy as np

from ..arrays import Array, bounds_of
from .fans import spread_fans
from .meeting import triangles_meet
from .tree import Tree

_WIDE = 8
_INLINE = 8
_CHUNK = 64
_CELLS = float(2**20 - 2)
_FIELD = np.uint64(2**20 - 1)
_SPARE = np.uint64((1 << 20) | (1 << 41) | (1 << 62))
_BEYOND = np.uint64((2**20 - 1) * (1 | (1 << 21) | (1 << 42)))


@nb.njit(cache=True)
def _renumbered(order: Array, faces: Array, vertices: Array) -> tuple[Array, Array]:
    """The mesh with its faces in an order and its vertices in that of their first use."""
    new = np.full(len(vertices), -1, dtype=np.int32)
    out = np.empty((len(order), 3), dtype=np.int32)
    points = np.empty_like(vertices)
    used = 0
    for i in range(len(order)):
        for c in range(3):
            v = faces[order[i], c]
            if new[v] < 0:
                new[v] = used
                for k in range(3):
                    points[used, k] = vertices[v, k]
                used += 1
            out[i, c] = new[v]
    return points[:used], out


@nb.njit(cache=True, parallel=True)
def _face_boxes(p: Array, faces: Array, low: Array, scale: Array) -> Array:
    """Low and high corners of the faces' boxes, by blocks, shape (blocks, 2, 8), uint64."""
    boxes = np.empty(((len(faces) + _WIDE - 1) // _WIDE, 2, _WIDE), dtype=np.uint64)
    for b in nb.prange(len(boxes)):
        for i in range(_WIDE):
            f = _WIDE * b + i
            boxes[b, 0, i], boxes[b, 1, i] = _BEYOND, 0
            if f >= len(faces):
                continue
            bottom = top = np.uint64(0)
            for k in range(3):
                x, y, z = p[faces[f, 0], k], p[faces[f, 1], k], p[faces[f, 2], k]
                first = min(max((min(x, y, z) - low[k]) * scale[k], 0.0), _CELLS)
                last = min(max((max(x, y, z) - low[k]) * scale[k], 0.0), _CELLS)
                bottom |= np.uint64(first) << np.uint64(21 * k)
                top |= np.uint64(last) << np.uint64(21 * k)
            boxes[b, 0, i], boxes[b, 1, i] = bottom, top
    return boxes


@nb.njit(cache=True)
def _boxes_above(boxes: Array) -> Array:
    """Boxes round each block, themselves in blocks."""
    out = np.empty(((len(boxes) + _WIDE - 1) // _WIDE, 2, _WIDE), dtype=np.uint64)
    out[:, 0] = _BEYOND
    out[:, 1] = 0
    for b in range(len(boxes)):
        bottom = top = np.uint64(0)
        for k in range(3):
            shift = np.uint64(21 * k)
            first, last = _FIELD, np.uint64(0)
            for i in range(_WIDE):
                first = min(first, (boxes[b, 0, i] >> shift) & _FIELD)
                last = max(last, (boxes[b, 1, i] >> shift) & _FIELD)
            bottom |= first << shift
            top |= last << shift
        out[b // _WIDE, 0, b % _WIDE], out[b // _WIDE, 1, b % _WIDE] = bottom, top
    return out


@nb.njit(cache=True, inline="always")
def _overlap(low: int, high: int, other_low: int, other_high: int) -> bool:
    """Whether two boxes have a cell in common: no field may borrow its spare bit."""
    return ((high | _SPARE) - other_low) & ((other_high | _SPARE) - low) & _SPARE == _SPARE


@nb.njit(cache=True)
def _block_pairs(  # type: ignore[no-untyped-def]
    block: int, p: Array, faces: Array, spread: Array, skip: Array, fresh: Array, boxes: Array,
    levels: Array, stack: Array, room: Array,
):  # fmt: skip
    """Pairs between the faces of one block and those of it and of later ones; stores what fits.

    If `fresh` has a mark for each face, only pairs with a marked face count, and each stands with
    the block of that face, or of its first one.
    """
    top_level = len(levels) - 1
    own = levels[1] + block // _WIDE
    low, high = boxes[own, 0, block % _WIDE], boxes[own, 1, block % _WIDE]
    some = len(fresh) > 0
    found = 0
    stack[0, 0], stack[0, 1] = top_level, 0
    top = 1
    while top > 0:
        top -= 1
        level, node = stack[top, 0], stack[top, 1]
        below = boxes[levels[level] + node]
        begin = 0 if some else max(0, (block >> (3 * (level - 1))) - _WIDE * node)
        for i in range(begin, _WIDE):
            if not _overlap(low, high, below[0, i], below[1, i]):
                continue
            other = _WIDE * node + i
            if level > 1:
                stack[top, 0], stack[top, 1] = level - 1, other
                top += 1
                continue
            for j in range(min(_WIDE, len(faces) - _WIDE * block)):
                x = _WIDE * block + j
                x_low, x_high = boxes[block, 0, j], boxes[block, 1, j]
                if not _overlap(x_low, x_high, below[0, i], below[1, i]):
                    continue
                if skip[x] or (some and not fresh[x]):
                    continue
                near = 0
                for k in range(_WIDE):
                    near |= (
                        int(_overlap(x_low, x_high, boxes[other, 0, k], boxes[other, 1, k])) << k
                    )
                if other == block and not some:
                    near &= ~((2 << j) - 1)
                a, b, c = faces[x, 0], faces[x, 1], faces[x, 2]
                for k in range(_WIDE):
                    if not (near >> k) & 1:
                        continue
                    y = _WIDE * other + k
                    d, e, f = faces[y, 0], faces[y, 1], faces[y, 2]
                    if (
                        (spread[a] & ((a == d) | (a == e) | (a == f)))
                        | (spread[b] & ((b == d) | (b == e) | (b == f)))
                        | (spread[c] & ((c == d) | (c == e) | (c == f)))
                    ):
                        continue
                    if skip[y] or (some and y <= x and (fresh[y] or y == x)):
                        continue
                    if not triangles_meet(p, faces[x], faces[y]):
                        continue
                    if found < len(room):
                        room[found, 0], room[found, 1] = x, y
                    found += 1
    return found


@nb.njit(cache=True, parallel=True)
def _all_blocks(  # type: ignore[no-untyped-def]
    p: Array, faces: Array, spread: Array, skip: Array, fresh: Array, boxes: Array, levels: Array,
    counts: Array, room: Array,
):  # fmt: skip
    for chunk in nb.prange((len(counts) + _CHUNK - 1) // _CHUNK):
        stack = np.empty((_WIDE * 12, 2), dtype=np.int64)
        for b in range(chunk * _CHUNK, min((chunk + 1) * _CHUNK, len(counts))):
            counts[b] = 0
            if len(fresh) == 0 or fresh[b * _WIDE : (b + 1) * _WIDE].any():
                counts[b] = _block_pairs(
                    b, p, faces, spread, skip, fresh, boxes, levels, stack, room[b]
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
    points, faces = _renumbered(tree.order, tree.faces, tree.vertices)
    low, high = bounds_of(points)
    above = [_face_boxes(points, faces, low, _CELLS / np.maximum(high - low, 1e-300))]
    while len(above) < 2 or len(above[-1]) > 1:
        above.append(_boxes_above(above[-1]))
    used = len(above[0])
    levels = np.cumsum([0, *(len(boxes) for boxes in above[:-1])])
    marks = np.zeros(0, dtype=bool) if fresh is None else fresh[tree.order]
    spread = spread_fans(points, faces)
    given = points, faces, spread, skip[tree.order], marks, np.concatenate(above), levels
    counts = np.empty(used, dtype=np.int64)
    room = np.empty((used, _INLINE, 2), dtype=np.int32)
    _all_blocks(*given, counts, room)
    parts = [np.zeros((0, 2), dtype=np.int32)]
    stack = np.empty((_WIDE * 12, 2), dtype=np.int64)
    for block in np.flatnonzero(counts):
        if counts[block] > _INLINE:
            more = np.empty((counts[block], 2), dtype=np.int32)
            _block_pairs(block, *given, stack, more)
            parts.append(more)
    some = np.flatnonzero((counts > 0) & (counts <= _INLINE))
    parts.append(room[some][np.arange(_INLINE) < counts[some, None]])
    pairs = np.sort(tree.order[np.concatenate(parts)], axis=1).astype(np.int32)
    return pairs[np.lexsort((pairs[:, 1], pairs[:, 0]))]
