"""All pairs of triangles of a mesh that meet where they should not.

The faces are taken in the order of a `Tree`, numbered anew with their vertices so that what is
near in space is near in memory, and put into blocks of eight. Eight blocks have a block above
them, and so on. A box is kept as its two corners on a grid of some 2^20 cells a side, each
corner's three numbers in one word with a bit to spare above each: two subtractions then compare
six numbers. Corners are rounded down to their cells, both alike, so that boxes which overlap still
do. An empty box begins beyond the last cell.
"""

import numpy as np

from ..jit import IS_INTERPRETED, nb
from ..mesh.arrays import Array, bounds_of
from ..mesh.renumber import renumbered
from ..predicates.orientation import FILTER_3D
from ..predicates.triangle_triangle import triangles_meet
from ._fan_kernels import fans_without_overlap
from .box_tree import Tree

_BRANCHES = 8
"""Boxes below each node, and faces of a leaf."""
_ROOM = 16
"""Pairs of a leaf for which room is kept in the first pass; leaves with more are done again."""
_CHUNK = 64
"""Leaves to a thread at a time."""
_FEW = 0.2
"""Of so small a share of fresh faces only what is near them is looked at."""
_RUN = 4096
"""Faces to a thread at a time."""
_MOST_COMPARED = 2000
"""Faces up to which all boxes may be compared with each other: some megabytes."""
_CELLS = float(2**20 - 2)
"""Boxes are told in whole steps of the bounding box: 20 bits a coordinate."""
_FIELD = np.uint64(2**20 - 1)
"""The bits of one coordinate."""
_SPARE_BITS = np.uint64((1 << 20) | (1 << 41) | (1 << 62))
"""A spare bit above each coordinate, so that one subtraction compares three."""
_NOTHING = np.uint64((2**20 - 1) * (1 | (1 << 21) | (1 << 42)))
"""The box of no face: it begins beyond all others."""


@nb.njit(cache=True, parallel=True)
def _put_face_boxes(p: Array, faces: Array, low: Array, scale: Array, boxes: Array) -> None:
    """Low and high corners of the faces' boxes, by blocks, shape (blocks, 2, 8), uint64."""
    for b in nb.prange(len(boxes)):
        for i in range(_BRANCHES):
            f = _BRANCHES * b + i
            boxes[b, 0, i], boxes[b, 1, i] = _NOTHING, 0
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


@nb.njit(cache=True)
def _put_boxes_above(boxes: Array, out: Array) -> None:
    """Boxes round each block, themselves in blocks."""
    out[:, 0] = _NOTHING
    out[:, 1] = 0
    for b in range(len(boxes)):
        bottom = top = np.uint64(0)
        for k in range(3):
            shift = np.uint64(21 * k)
            first, last = _FIELD, np.uint64(0)
            for i in range(_BRANCHES):
                first = min(first, (boxes[b, 0, i] >> shift) & _FIELD)
                last = max(last, (boxes[b, 1, i] >> shift) & _FIELD)
            bottom |= first << shift
            top |= last << shift
        out[b // _BRANCHES, 0, b % _BRANCHES], out[b // _BRANCHES, 1, b % _BRANCHES] = bottom, top


def _all_boxes(points: Array, faces: Array) -> tuple[Array, Array]:
    """Boxes of the faces, of the blocks and so on up to one block, and where each level begins."""
    sizes = [(len(faces) + _BRANCHES - 1) // _BRANCHES]
    while len(sizes) < 2 or sizes[-1] > 1:
        sizes.append((sizes[-1] + _BRANCHES - 1) // _BRANCHES)
    levels = np.cumsum([0, *sizes])
    boxes = np.empty((levels[-1], 2, _BRANCHES), dtype=np.uint64)
    low, high = bounds_of(points)
    scale = _CELLS / np.maximum(high - low, 1e-300)
    _put_face_boxes(points, faces, low, scale, boxes[: sizes[0]])
    for below, own, end in zip(levels, levels[1:], levels[2:], strict=False):
        _put_boxes_above(boxes[below:own], boxes[own:end])
    return boxes, levels[:-1]


@nb.njit(cache=True)
def _overlap(low: int, high: int, other_low: int, other_high: int) -> bool:
    """Whether two boxes have a cell in common: no field may borrow its spare bit."""
    return ((high | _SPARE_BITS) - other_low) & (
        (other_high | _SPARE_BITS) - low
    ) & _SPARE_BITS == _SPARE_BITS


@nb.njit(cache=True)
def _plane(p: Array, a: int, b: int, c: int):  # type: ignore[no-untyped-def]
    """A point of a triangle's plane, its normal, and how large the terms of that were."""
    ux, uy, uz = p[b, 0] - p[a, 0], p[b, 1] - p[a, 1], p[b, 2] - p[a, 2]
    vx, vy, vz = p[c, 0] - p[a, 0], p[c, 1] - p[a, 1], p[c, 2] - p[a, 2]
    xy, yx, yz, zy, zx, xz = ux * vy, uy * vx, uy * vz, uz * vy, uz * vx, ux * vz
    return (
        p[a, 0], p[a, 1], p[a, 2], yz - zy, zx - xz, xy - yx,
        abs(yz) + abs(zy), abs(zx) + abs(xz), abs(xy) + abs(yx),
    )  # fmt: skip


@nb.njit(cache=True)
def _side(p: Array, plane: tuple[float, ...], q: int) -> int:
    """On which side of a plane a point lies beyond doubt; 0 where rounding may decide."""
    x, y, z = p[q, 0] - plane[0], p[q, 1] - plane[1], p[q, 2] - plane[2]
    away = plane[3] * x + plane[4] * y + plane[5] * z
    doubt = FILTER_3D * (plane[6] * abs(x) + plane[7] * abs(y) + plane[8] * abs(z))
    return int(away > doubt) - int(away < -doubt)


@nb.njit(cache=True)
def _block_pairs(  # type: ignore[no-untyped-def]
    block: int, p: Array, faces: Array, spread: Array, skip: Array, fresh: Array, boxes: Array,
    levels: Array, scratch: Array, room: Array,
):  # fmt: skip
    """Pairs between the faces of one block and those of it and of later ones; stores what fits.

    If `fresh` has a mark for each face, only pairs with a marked face count, and each stands with
    the block of that face, or of its first one. What overlaps is put into lists without branching,
    since nobody could guess the branches.
    """
    stack, near, hits = scratch[0], scratch[1], scratch[2]
    own = levels[1] + block // _BRANCHES
    low, high = boxes[own, 0, block % _BRANCHES], boxes[own, 1, block % _BRANCHES]
    selected = len(fresh) > 0
    found = 0
    stack[0] = (len(levels) - 1) << 40
    top = 1
    while top > 0:
        top -= 1
        level, node = stack[top] >> 40, stack[top] & ((1 << 40) - 1)
        above = levels[level] + node
        begin = 0 if selected else max(0, (block >> (3 * (level - 1))) - _BRANCHES * node)
        for i in range(begin, _BRANCHES):
            its_low, its_high = boxes[above, 0, i], boxes[above, 1, i]
            if not _overlap(low, high, its_low, its_high):
                continue
            other = _BRANCHES * node + i
            if level > 1:
                stack[top] = ((level - 1) << 40) | other
                top += 1
                continue
            nearby = 0
            for k in range(_BRANCHES):
                near[nearby] = k
                nearby += int(_overlap(low, high, boxes[other, 0, k], boxes[other, 1, k]))
            for j in range(min(_BRANCHES, len(faces) - _BRANCHES * block)):
                x = _BRANCHES * block + j
                x_low, x_high = boxes[block, 0, j], boxes[block, 1, j]
                if not _overlap(x_low, x_high, its_low, its_high):
                    continue
                if skip[x] or (selected and not fresh[x]):
                    continue
                met = 0
                for n in range(nearby):
                    k = near[n]
                    hits[met] = _BRANCHES * other + k
                    later = int(hits[met] > x) | int(selected)
                    met += later & int(
                        _overlap(x_low, x_high, boxes[other, 0, k], boxes[other, 1, k])
                    )
                if met == 0:
                    continue
                a, b, c = faces[x, 0], faces[x, 1], faces[x, 2]
                plane = _plane(p, a, b, c)
                for n in range(met):
                    y = hits[n]
                    d, e, f = faces[y, 0], faces[y, 1], faces[y, 2]
                    if (
                        (spread[a] & ((a == d) | (a == e) | (a == f)))
                        | (spread[b] & ((b == d) | (b == e) | (b == f)))
                        | (spread[c] & ((c == d) | (c == e) | (c == f)))
                    ):
                        continue
                    if skip[y] or (selected and y <= x and (fresh[y] or y == x)):
                        continue
                    side = _side(p, plane, d)
                    if side != 0 and side == _side(p, plane, e) and side == _side(p, plane, f):
                        continue
                    other_plane = _plane(p, d, e, f)
                    side = _side(p, other_plane, a)
                    if (
                        side != 0
                        and side == _side(p, other_plane, b)
                        and side == _side(p, other_plane, c)
                    ):
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
        scratch = np.empty((3, _BRANCHES * 12), dtype=np.int64)
        for b in range(chunk * _CHUNK, min((chunk + 1) * _CHUNK, len(counts))):
            counts[b] = 0
            if len(fresh) == 0 or fresh[b * _BRANCHES : (b + 1) * _BRANCHES].any():
                counts[b] = _block_pairs(
                    b, p, faces, spread, skip, fresh, boxes, levels, scratch, room[b]
                )


@nb.njit(cache=True, parallel=True)
def _near_boxes(vertices: Array, faces: Array, boxes: Array) -> Array:
    """Faces whose box meets the box of a leaf of a tree over some of them."""
    near = np.zeros(len(faces), dtype=np.bool_)
    leaves = len(boxes) // 2
    for chunk in nb.prange((len(faces) + _RUN - 1) // _RUN):
        stack = np.empty(64, dtype=np.int64)
        for f in range(chunk * _RUN, min((chunk + 1) * _RUN, len(faces))):
            a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
            x0 = min(vertices[a, 0], vertices[b, 0], vertices[c, 0])
            x1 = max(vertices[a, 0], vertices[b, 0], vertices[c, 0])
            y0 = min(vertices[a, 1], vertices[b, 1], vertices[c, 1])
            y1 = max(vertices[a, 1], vertices[b, 1], vertices[c, 1])
            z0 = min(vertices[a, 2], vertices[b, 2], vertices[c, 2])
            z1 = max(vertices[a, 2], vertices[b, 2], vertices[c, 2])
            stack[0], top = 1, 1
            while top > 0:
                top -= 1
                node = stack[top]
                if (
                    x0 > boxes[node, 3] or x1 < boxes[node, 0]
                    or y0 > boxes[node, 4] or y1 < boxes[node, 1]
                    or z0 > boxes[node, 5] or z1 < boxes[node, 2]
                ):  # fmt: skip
                    continue
                if node >= leaves:
                    near[f] = True
                    break
                stack[top], stack[top + 1] = 2 * node, 2 * node + 1
                top += 2
    return near


def intersecting_pairs_of_tree(tree: Tree, skip: Array, fresh: Array | None = None) -> Array:
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

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> from caulkcore.mesh.concatenate import concatenate
    >>> two = concatenate([cuboid(), cuboid(at=(5.0, 4.0, 3.0))])
    >>> tree = Tree.of(two.vertices, two.faces)
    >>> len(intersecting_pairs_of_tree(tree, np.zeros(24, dtype=bool)))
    12
    """
    if fresh is not None and np.count_nonzero(fresh) < _FEW * len(fresh):
        # what is not near a fresh one is not looked at
        if not fresh.any():
            return np.zeros((0, 2), dtype=np.int32)
        some = Tree.of(tree.vertices, tree.faces[fresh])
        near = np.flatnonzero(_near_boxes(tree.vertices, tree.faces, some.boxes))
        tree = Tree.of(tree.vertices, tree.faces[near])
        pairs = _pairs_of_all(tree, skip[near], fresh[near])
        return near[pairs].astype(np.int32)
    return _pairs_of_all(tree, skip, fresh)


def _pairs_of_few(points: Array, faces: Array, skip: Array, fresh: Array | None) -> Array:
    """What `_pairs_of_all` returns, without a tree: all boxes are compared with all others."""
    corners = points[faces]
    low, high = corners.min(axis=1), corners.max(axis=1)
    apart = np.tri(len(faces), dtype=bool)
    for k in range(3):
        apart |= low[:, None, k] > high[None, :, k]
        apart |= high[:, None, k] < low[None, :, k]
    apart[skip] = apart[:, skip] = True
    if fresh is not None:
        apart |= ~(fresh[:, None] | fresh)
    x, y = np.nonzero(~apart)
    spread = fans_without_overlap(points, faces)
    shared = (faces[x, :, None] == faces[y, None, :]) & spread[faces[x]][:, :, None]
    # on which side of its plane each pair's other face lies beyond doubt, as `_side` tells
    plane = np.stack(_plane(points, *faces.T), axis=1) if len(faces) else np.zeros((0, 9))
    meets = ~shared.any(axis=(1, 2))
    for one, other in ((x, y), (y, x)):
        to = corners[other] - plane[one, None, 0:3]
        away = np.einsum("ijk,ik->ij", to, plane[one, 3:6])
        doubt = FILTER_3D * np.einsum("ijk,ik->ij", np.abs(to), plane[one, 6:9])
        meets &= ~((away > doubt).all(axis=1) | (away < -doubt).all(axis=1))
    x, y = x[meets], y[meets]
    pairs = [triangles_meet(points, faces[i], faces[j]) for i, j in zip(x, y, strict=True)]
    return np.stack([x, y], axis=1)[np.array(pairs, dtype=bool)].astype(np.int32)


def _pairs_of_all(tree: Tree, skip: Array, fresh: Array | None) -> Array:
    if IS_INTERPRETED and len(tree.faces) <= _MOST_COMPARED:
        return _pairs_of_few(tree.vertices, tree.faces, skip, fresh)
    points, faces = renumbered(tree.order, tree.vertices, tree.faces)
    boxes, levels = _all_boxes(points, faces)
    marks = np.zeros(0, dtype=bool) if fresh is None else fresh[tree.order]
    spread = fans_without_overlap(points, faces)
    given = points, faces, spread, skip[tree.order], marks, boxes, levels
    counts = np.empty(levels[1], dtype=np.int64)
    room = np.empty((len(counts), _ROOM, 2), dtype=np.int32)
    _all_blocks(*given, counts, room)
    parts = [np.zeros((0, 2), dtype=np.int32)]
    scratch = np.empty((3, _BRANCHES * 12), dtype=np.int64)
    for block in np.flatnonzero(counts):
        if counts[block] > _ROOM:
            more = np.empty((counts[block], 2), dtype=np.int32)
            _block_pairs(block, *given, scratch, more)
            parts.append(more)
    selected = np.flatnonzero((counts > 0) & (counts <= _ROOM))
    parts.append(room[selected][np.arange(_ROOM) < counts[selected, None]])
    pairs = np.sort(tree.order[np.concatenate(parts)], axis=1).astype(np.int32)
    return pairs[np.lexsort((pairs[:, 1], pairs[:, 0]))]
