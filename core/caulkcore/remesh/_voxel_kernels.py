"""Where the lines of a regular grid pass through triangles, and contours drawn from that.

Lengths are in steps of the grid. A node is numbered ``(i * ny + j) * nz + k``; a cell has the
number of its lowest node; the edge that leaves a node along axis d has three times its number
plus d.
"""

import numpy as np

from ..jit import nb
from ..mesh.arrays import Array, frozen

_LEAST_EIGENVALUE = 0.08
"""Of the greatest: directions below it are left to the mean of the points, so that a flat or a
rounded place does not run off along itself."""
_INSET = 2e-3
"""Steps by which points stay within their cell, so that those of two cells never fall together."""


# a hash table of whole numbers, open addressing


@nb.njit(cache=True)
def _slot(keys: Array, key: int) -> int:
    """Where a key stands, or the empty place where it would; neighbours stand together."""
    mixed = np.uint64(key >> 3) * np.uint64(0x9E3779B97F4A7C15)
    at = (np.int64(mixed >> np.uint64(20)) << 3 | key & 7) & (len(keys) - 1)
    while keys[at] != key and keys[at] != -1:
        at = (at + 1) & (len(keys) - 1)
    return at


@nb.njit(cache=True)
def number_keys(keys: Array) -> tuple[Array, Array]:
    """A table from each different key to its number, in order of first appearance.

    Returns
    -------
    table : ndarray of int64
        The keys where they stand, -1 in between.
    value : ndarray of int32
        The number of each.
    """
    table, value, _ = extend_table(np.full(16, -1, np.int64), np.empty(16, np.int32), 0, keys)
    return table, value


@nb.njit(cache=True)
def extend_table(table: Array, value: Array, count: int, keys: Array) -> tuple[Array, Array, int]:
    """A table of so many keys with more of them, which are numbered on; the old one is used up."""
    for key in keys:
        at = _slot(table, key)
        if table[at] != -1:
            continue
        if 3 * (count + 1) > 2 * len(table):
            wider = np.full(2 * len(table), -1, dtype=np.int64)
            moved = np.empty(len(wider), dtype=np.int32)
            for i in range(len(table)):
                if table[i] != -1:
                    to = _slot(wider, table[i])
                    wider[to], moved[to] = table[i], value[i]
            table, value = wider, moved
            at = _slot(table, key)
        table[at], value[at] = key, count
        count += 1
    return table, value, count


@nb.njit(cache=True)
def keys_in_order(table: Array, value: Array) -> Array:
    """The keys of a table in the order of their numbers."""
    count = 0
    for key in table:
        count += key != -1
    out = np.empty(count, dtype=np.int64)
    for i in range(len(table)):
        if table[i] != -1:
            out[value[i]] = table[i]
    return out


@nb.njit(cache=True, parallel=True)
def look_up(table: Array, value: Array, keys: Array) -> Array:
    """Numbers of keys, -1 for unknown ones."""
    out = np.empty(len(keys), dtype=np.int32)
    for i in nb.prange(len(keys)):
        at = _slot(table, keys[i])
        out[i] = value[at] if table[at] != -1 else -1
    return out


# grid lines through triangles


@nb.njit(cache=True)
def _before(p: Array, q: Array) -> bool:
    for k in range(3):
        if p[k] != q[k]:
            return p[k] < q[k]
    return False


@nb.njit(cache=True)
def _beside(p: Array, q: Array, a: int, b: int, x: float, y: float) -> float:
    """On which side of a triangle's edge a line passes; the same seen from both triangles."""
    turned = _before(q, p)
    if turned:
        p, q = q, p
    side = (q[a] - p[a]) * (y - p[b]) - (q[b] - p[b]) * (x - p[a])
    if side == 0.0:
        side = 1e-300
    return -side if turned else side


@nb.njit(cache=True)
def _crossings_of_face(
    v: Array, face: Array, d: int, limit: Array, node: Array, along: Array, side: Array, at: int
) -> int:
    """Lines along axis d through one triangle; stores them from `at` on if there is room."""
    a, b = (d + 1) % 3, (d + 2) % 3
    p, q, r = v[face[0]], v[face[1]], v[face[2]]
    area = (q[a] - p[a]) * (r[b] - p[b]) - (q[b] - p[b]) * (r[a] - p[a])
    if area == 0.0:
        return 0
    found = 0
    lines = np.empty(3, dtype=np.int64)
    low_i, low_j = (
        max(np.ceil(min(p[a], q[a], r[a])), 0.0),
        max(np.ceil(min(p[b], q[b], r[b])), 0.0),
    )
    high_i = min(np.floor(max(p[a], q[a], r[a])), limit[a] - 1.0)
    high_j = min(np.floor(max(p[b], q[b], r[b])), limit[b] - 1.0)
    for i in range(int(low_i), int(high_i) + 1):
        for j in range(int(low_j), int(high_j) + 1):
            e = _beside(p, q, a, b, i, j)
            f = _beside(q, r, a, b, i, j)
            g = _beside(r, p, a, b, i, j)
            if not ((e > 0 and f > 0 and g > 0) or (e < 0 and f < 0 and g < 0)):
                continue
            total = e + f + g
            height = (f * p[d] + g * q[d] + e * r[d]) / total
            height = min(max(height, min(p[d], q[d], r[d])), max(p[d], q[d], r[d]))
            if not 0.0 <= height < limit[d] - 1.0:
                continue
            if at + found < len(along):
                lines[a], lines[b] = i, j
                node[at + found, 0] = lines[(0)]
                node[at + found, 1] = lines[(1)]
                node[at + found, 2] = lines[(2)]
                along[at + found] = height
                node[at + found, d] = int(np.floor(height))
                side[at + found] = 1 if area > 0 else -1
            found += 1
    return found


@nb.njit(cache=True, parallel=True)
def _count_crossings(v: Array, faces: Array, d: int, limit: Array, counts: Array) -> None:
    none, no_height, no_side = np.empty((0, 3), np.int32), np.empty(0), np.empty(0, np.int8)
    for f in nb.prange(len(faces)):
        counts[f] = _crossings_of_face(v, faces[f], d, limit, none, no_height, no_side, 0)


@nb.njit(cache=True, parallel=True)
def _store_crossings(
    v: Array,
    faces: Array,
    d: int,
    limit: Array,
    begin: Array,
    node: Array,
    along: Array,
    side: Array,
    face: Array,
) -> None:
    for f in nb.prange(len(faces)):
        n = _crossings_of_face(v, faces[f], d, limit, node, along, side, begin[f])
        face[begin[f] : begin[f] + n] = f


def grid_line_crossings(
    v: Array, faces: Array, d: int, shape: tuple[int, int, int]
) -> tuple[Array, Array, Array, Array]:
    """Where the grid lines along an axis pass through triangles.

    Parameters
    ----------
    v : ndarray, shape (n, 3)
        In steps of the grid.
    faces : ndarray, shape (m, 3)
    d : int
        The axis.
    shape : tuple of int
        Nodes along each axis; crossings beyond them are left out.

    Returns
    -------
    node : ndarray, shape (k, 3), int32
        The node below each crossing.
    along : ndarray, shape (k,)
        Coordinate of the crossing along the axis.
    side : ndarray, shape (k,), int8
        1 where the triangle faces along the axis, -1 where against it.
    face : ndarray, shape (k,), int32
    """
    counts, limit = np.zeros(len(faces), dtype=np.int64), frozen(shape, np.int64)
    _count_crossings(v, faces, d, limit, counts)
    ends = np.cumsum(counts)
    total = int(ends[-1])
    node = np.empty((total, 3), dtype=np.int32)
    along, side = np.empty(total), np.empty(total, dtype=np.int8)
    face = np.empty(total, dtype=np.int32)
    _store_crossings(v, faces, d, limit, ends - counts, node, along, side, face)
    return node, along, side, face


@nb.njit(cache=True, parallel=True)
def winding_along_lines(
    starts: Array, along: Array, side: Array, nodes: Array, nz: int, ny: int
) -> Array:
    """How often a closed surface winds round nodes, by the crossings above each on its z line.

    Parameters
    ----------
    starts : ndarray, shape (nx * ny + 1,)
        Where each line's crossings begin.
    along, side : ndarray, shape (k,)
        The crossings, line after line, each from below.
    nodes : ndarray, shape (q,), int64
    nz, ny : int
        Nodes of the grid along z and y.
    """
    out = np.empty(len(nodes))
    for i in nb.prange(len(nodes)):
        line, k = nodes[i] // nz, nodes[i] % nz
        total = 0
        for c in range(starts[line + 1] - 1, starts[line] - 1, -1):
            if along[c] <= k:
                break
            total += side[c]
        out[i] = total
    return out


# which of a cell's corners are inside, and which of its edges are crossed


@nb.njit(cache=True, parallel=True)
def corner_cases(inside: Array) -> Array:
    """For each cell the number whose bits tell which of its eight corners are inside.

    Parameters
    ----------
    inside : ndarray, shape (8 c,), bool
        Corner by corner, cell by cell.
    """
    out = np.empty(len(inside) // 8, dtype=np.uint8)
    for c in nb.prange(len(out)):
        case = 0
        for k in range(8):
            if inside[8 * c + k]:
                case |= 1 << k
        out[c] = case
    return out


@nb.njit(cache=True, parallel=True)
def cell_edges(
    cells: Array, case: Array, step: Array, axis: Array, ends: Array, table: Array, value: Array
) -> Array:
    """Number of each cell's twelve edges in a table, shape (c, 12), int32.

    Parameters
    ----------
    cells : ndarray, shape (c,), int64
    way : ndarray, shape (c,), uint8
        See `corner_cases`.
    step, axis : ndarray, shape (12,)
        From the cell's number to that of the node that the edge leaves, and the edge's axis.
    ends : ndarray, shape (12, 2)
        Corners that each edge joins.
    table, value : ndarray
        See `number_keys`; of the edges' numbers.

    Returns
    -------
    ndarray
        -1 where both ends are on one side, -2 where they are not and the edge is not known.
    """
    out = np.full((len(cells), 12), -1, dtype=np.int32)
    for c in nb.prange(len(cells)):
        for e in range(12):
            if (case[c] >> ends[e, 0] & 1) != (case[c] >> ends[e, 1] & 1):
                at = _slot(table, 3 * (cells[c] + step[e]) + axis[e])
                out[c, e] = value[at] if table[at] != -1 else -2
    return out


# one point for each part of the surface in each cell


@nb.njit(cache=True)
def _eigen(m: Array, vectors: Array) -> None:
    """Diagonalise a symmetric matrix in place, its eigenvectors as columns (Jacobi 1846)."""
    for i in range(3):
        for j in range(3):
            vectors[i, j] = 1.0 if i == j else 0.0
    for _ in range(12):
        off = abs(m[0, 1]) + abs(m[0, 2]) + abs(m[1, 2])
        if off < 1e-14 * (abs(m[0, 0]) + abs(m[1, 1]) + abs(m[2, 2])):
            return
        for p in range(2):
            for q in range(p + 1, 3):
                if m[p, q] == 0.0:
                    continue
                theta = (m[q, q] - m[p, p]) / (2.0 * m[p, q])
                t = 1.0 / (abs(theta) + np.sqrt(theta * theta + 1.0))
                t = -t if theta < 0 else t
                c = 1.0 / np.sqrt(t * t + 1.0)
                s = t * c
                for k in range(3):
                    x, y = m[k, p], m[k, q]
                    m[k, p], m[k, q] = c * x - s * y, s * x + c * y
                for k in range(3):
                    x, y = m[p, k], m[q, k]
                    m[p, k], m[q, k] = c * x - s * y, s * x + c * y
                for k in range(3):
                    x, y = vectors[k, p], vectors[k, q]
                    vectors[k, p], vectors[k, q] = c * x - s * y, s * x + c * y


@nb.njit(cache=True, parallel=True)
def feature_points(
    cells: Array, first: Array, part: Array, edge: Array, point: Array, normal: Array, ny: int,
    nz: int, mean: Array, sharp: Array,
) -> None:  # fmt: skip
    """The point of each part of the surface in each cell, on its edges and corners (Ju 2002).

    Parameters
    ----------
    cells : ndarray, shape (c,), int64
    first : ndarray, shape (c,), int64
        Number of each cell's first part.
    part : ndarray, shape (c, 12), int8
        For each edge of the cell the part that passes through it, -1 for none.
    edge : ndarray, shape (c, 12), int32
        Number of each edge among those crossed.
    point, normal : ndarray, shape (e, 3)
        Where each edge is crossed, and the surface's direction there, zero if unknown.
    ny, nz : int
        Nodes of the grid along y and z.
    mean, sharp : ndarray, shape (p, 3)
        Receive the mean of the crossings and the point, which stays within its cell.
    """
    for c in nb.prange(len(cells)):
        low = np.empty(3)
        low[0], low[1] = cells[c] // (ny * nz), cells[c] // nz % ny
        low[2] = cells[c] % nz
        parts = 0
        for e in range(12):
            parts = max(parts, part[c, e] + 1)
        m, vectors, right = np.empty((3, 3)), np.empty((3, 3)), np.empty(3)
        for which in range(parts):
            at = first[c] + which
            mean[at] = 0.0
            count = 0
            for e in range(12):
                if part[c, e] == which:
                    mean[at] += point[edge[c, e]]
                    count += 1
            mean[at] /= count
            m[:] = 0.0
            right[:] = 0.0
            for e in range(12):
                if part[c, e] != which:
                    continue
                n, p = normal[edge[c, e]], point[edge[c, e]]
                off = 0.0
                for k in range(3):
                    off += n[k] * (p[k] - mean[at, k])
                for k in range(3):
                    right[k] += n[k] * off
                    for j in range(3):
                        m[k, j] += n[k] * n[j]
            _eigen(m, vectors)
            largest = max(m[0, 0], m[1, 1], m[2, 2])
            sharp[at] = mean[at]
            for k in range(3):
                if m[k, k] > _LEAST_EIGENVALUE * largest and largest > 0.0:
                    case = 0.0
                    for j in range(3):
                        case += vectors[j, k] * right[j]
                    for j in range(3):
                        sharp[at, j] += vectors[j, k] * case / m[k, k]
            for k in range(3):
                least, most = low[k] + _INSET, low[k] + 1.0 - _INSET
                sharp[at, k] = min(max(sharp[at, k], least), most)
                mean[at, k] = min(max(mean[at, k], least), most)
