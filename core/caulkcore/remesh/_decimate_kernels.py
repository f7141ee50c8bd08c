"""Collapsing edges in the order of their quadric error, block by block.

The vertices are grouped into blocks of space. An edge may be collapsed if all faces round its
two ends have their corners in one block: then nothing that it reads or writes is another block's,
and the blocks can be worked at the same time with the same result in any order.
"""

import numpy as np

from ..jit import nb
from ..mesh._corner_kernels import other_corners
from ..mesh._face_kernels import cross_at
from ..mesh.arrays import Array
from ._collapse_kernels import keeps_normals, keeps_topology, merge_vertices

_LENGTH_WEIGHT = 1e-6
"""Share of an edge's squared length that is added to its error, so that of equals the shortest goes
first."""
_MIDDLE_WEIGHT = 1e-4
"""How strongly a new vertex is drawn to the middle of its edge where the quadric leaves it free."""
_NEGLIGIBLE = 1e-12
"""An error below this share of the edge's own size is rounding."""


@nb.njit(cache=True, parallel=True)
def quadrics_of(
    vertices: Array, faces: Array, first: Array, following: Array, middle: Array
) -> Array:
    """Sum of the squared distances to the planes round each vertex, weighted by area.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3), float64
    faces : ndarray, shape (m, 3), int32
    first : ndarray, shape (n,), int32
        First corner at each vertex.
    following : ndarray, shape (3 m,), int32
        The next corner at the same vertex.
    middle : ndarray, shape (3,)
        Origin of the quadrics.

    Returns
    -------
    ndarray, shape (n, 11), float64
        The upper half of A, then b and c of ``x'Ax + 2b'x + c`` with x from `middle`, and the
        sum of the weights (Garland & Heckbert 1997).
    """
    out = np.empty((len(vertices), 11))
    for v in nb.prange(len(vertices)):
        q = out[v]
        q[:] = 0.0
        corner = first[v]
        while corner >= 0:
            f = corner // 3
            corner = following[corner]
            i = faces[f, 0]
            nx, ny, nz = cross_at(vertices, i, faces[f, 1], faces[f, 2])
            squared = nx * nx + ny * ny + nz * nz
            if squared == 0.0:
                continue
            # half the length of n is the weight, and n has yet to be made a unit vector, twice
            s = 0.5 / np.sqrt(squared)
            d = (
                nx * (middle[0] - vertices[i, 0])
                + ny * (middle[1] - vertices[i, 1])
                + nz * (middle[2] - vertices[i, 2])
            )
            sx, sy, sz, sd = s * nx, s * ny, s * nz, s * d
            q[0] += sx * nx
            q[1] += sx * ny
            q[2] += sx * nz
            q[3] += sy * ny
            q[4] += sy * nz
            q[5] += sz * nz
            q[6] += sd * nx
            q[7] += sd * ny
            q[8] += sd * nz
            q[9] += sd * d
            q[10] += s * squared
    return out


@nb.njit(cache=True, parallel=True)
def at_unsound_edges(faces: Array, first: Array, following: Array) -> Array:
    """Whether each vertex is at an edge that has not just two faces running against each other."""
    odd = np.zeros(len(first), np.bool_)
    for u in nb.prange(len(first)):
        corner = first[u]
        while corner >= 0:
            f = corner // 3
            k = corner - 3 * f
            # the edge that leaves here, and the one that comes in
            v, w = other_corners(faces, f, k)
            out = back = 0
            other = first[u]
            while other >= 0:
                g = other // 3
                j = other - 3 * g
                on, off = other_corners(faces, g, j)
                out += (on == v) + 8 * (off == v)
                back += (off == w) + 8 * (on == w)
                other = following[other]
            if out != 9 or back != 9:
                odd[u] = True
            corner = following[corner]
    return odd


@nb.njit(cache=True)
def _quadric_error(q0, q1, q2, q3, q4, q5, q6, q7, q8, q9, x, y, z):  # type: ignore[no-untyped-def]
    value = (
        x * (q0 * x + 2 * (q1 * y + q2 * z + q6))
        + y * (q3 * y + 2 * (q4 * z + q7))
        + z * (q5 * z + 2 * q8)
        + q9
    )
    return max(value, 0.0)


@nb.njit(cache=True)
def _collapse_position(
    vertices: Array, quadrics: Array, held: Array, middle: Array, u: int, v: int, most: float
) -> tuple[float, float, float, float, float]:
    """Where two vertices would best become one: the error, the mean square, and the point.

    The error counts a little of the length. If it is surely more than `most` there is no point.
    """
    a, b = quadrics[u], quadrics[v]
    q0, q1, q2, q3, q4 = a[0] + b[0], a[1] + b[1], a[2] + b[2], a[3] + b[3], a[4] + b[4]
    q5, q6, q7, q8, q9 = a[5] + b[5], a[6] + b[6], a[7] + b[7], a[8] + b[8], a[9] + b[9]
    w = max(a[10] + b[10], 1e-300)
    mx, my, mz = middle[0], middle[1], middle[2]
    ux, uy, uz = vertices[u, 0] - mx, vertices[u, 1] - my, vertices[u, 2] - mz
    vx, vy, vz = vertices[v, 0] - mx, vertices[v, 1] - my, vertices[v, 2] - mz
    long = (ux - vx) ** 2 + (uy - vy) ** 2 + (uz - vz) ** 2
    by_length = _LENGTH_WEIGHT * long * w
    if held[u] or held[v]:
        # a held vertex stays where it is
        i = u if held[u] else v
        x, y, z = vertices[i, 0] - mx, vertices[i, 1] - my, vertices[i, 2] - mz
        there = _quadric_error(q0, q1, q2, q3, q4, q5, q6, q7, q8, q9, x, y, z)
        return there + by_length, there / w, vertices[i, 0], vertices[i, 1], vertices[i, 2]
    # the least error, drawn a little towards the middle where it is not one point
    hx, hy, hz = (ux + vx) / 2, (uy + vy) / 2, (uz + vz) / 2
    pull = _MIDDLE_WEIGHT * (q0 + q3 + q5)
    m0, m3, m5 = q0 + pull, q3 + pull, q5 + pull
    rx = -(q0 * hx + q1 * hy + q2 * hz + q6)
    ry = -(q1 * hx + q3 * hy + q4 * hz + q7)
    rz = -(q2 * hx + q4 * hy + q5 * hz + q8)
    c0, c1, c2 = m3 * m5 - q4 * q4, q2 * q4 - q1 * m5, q1 * q4 - q2 * m3
    det = m0 * c0 + q1 * c1 + q2 * c2
    dx = dy = dz = 0.0
    solved = False
    if det > 0:
        c3, c4, c5 = m0 * m5 - q2 * q2, q1 * q2 - m0 * q4, m0 * m3 - q1 * q1
        inverse = 1.0 / det
        dx = (c0 * rx + c1 * ry + c2 * rz) * inverse
        dy = (c1 * rx + c3 * ry + c4 * rz) * inverse
        dz = (c2 * rx + c4 * ry + c5 * rz) * inverse
        off = dx * dx + dy * dy + dz * dz
        solved = off <= 4 * long
        # the error there follows from that at the middle; neither end has much less
        at_middle = hx * (q6 - rx) + hy * (q7 - ry) + hz * (q8 - rz) + q9
        there = max(at_middle - (rx * dx + ry * dy + rz * dz) - pull * off, 0.0)
        if solved and there + by_length > most:
            return there + by_length, there / w, 0.0, 0.0, 0.0
    at_u = _quadric_error(q0, q1, q2, q3, q4, q5, q6, q7, q8, q9, ux, uy, uz)
    at_v = _quadric_error(q0, q1, q2, q3, q4, q5, q6, q7, q8, q9, vx, vy, vz)
    if at_u <= at_v:
        best, px, py, pz = at_u, vertices[u, 0], vertices[u, 1], vertices[u, 2]
    else:
        best, px, py, pz = at_v, vertices[v, 0], vertices[v, 1], vertices[v, 2]
    if solved and best > _NEGLIGIBLE * long * w:
        # as most formats will hold it
        sx = float(np.float32(hx + dx + mx))
        sy = float(np.float32(hy + dy + my))
        sz = float(np.float32(hz + dz + mz))
        there = _quadric_error(q0, q1, q2, q3, q4, q5, q6, q7, q8, q9, sx - mx, sy - my, sz - mz)
        if there < best:
            best, px, py, pz = there, sx, sy, sz
    return best + by_length, best / w, px, py, pz


@nb.njit(cache=True)
def _is_inside(
    faces: Array, alive: Array, first: Array, following: Array, block: Array, u: int
) -> bool:
    """Whether all faces round a vertex have their corners in its block."""
    corner = first[u]
    while corner >= 0:
        f = corner // 3
        if alive[f]:
            a, b = other_corners(faces, f, corner - 3 * f)
            if block[a] != block[u] or block[b] != block[u]:
                return False
        corner = following[corner]
    return True


@nb.njit(cache=True)
def _push(
    keys: Array, ends: Array, ages: Array, size: int, key: float, u: int, v: int, age: int
) -> int:
    if size == len(keys):
        return size
    i = size
    while i > 0:
        parent = (i - 1) // 2
        if keys[parent] <= key:
            break
        keys[i], ends[i], ages[i] = keys[parent], ends[parent], ages[parent]
        i = parent
    keys[i], ends[i], ages[i] = key, np.int64(u) << 32 | np.int64(v), age
    return size + 1


@nb.njit(cache=True)
def _pop(keys: Array, ends: Array, ages: Array, size: int) -> int:
    """Take the first away; it was read before."""
    size -= 1
    key = keys[size]
    i = 0
    while True:
        child = 2 * i + 1
        if child >= size:
            break
        if child + 1 < size and keys[child + 1] < keys[child]:
            child += 1
        if keys[child] >= key:
            break
        keys[i], ends[i], ages[i] = keys[child], ends[child], ages[child]
        i = child
    keys[i], ends[i], ages[i] = key, ends[size], ages[size]
    return size


@nb.njit(cache=True)
def _work_block(
    vertices: Array,
    faces: Array,
    alive: Array,
    first: Array,
    last: Array,
    following: Array,
    quadrics: Array,
    held: Array,
    middle: Array,
    age: Array,
    into: Array,
    least: Array,
    floor: Array,
    inside: Array,
    block: Array,
    seen: Array,
    members: Array,
    most: float,
    furthest: float,
    allowed: int,
) -> int:
    """Draw together the edges of one block that are worth at most `most`, cheapest first."""
    # about three edges a vertex, and what each collapse brings up anew
    keys = np.empty(6 * len(members) + 64)
    ends, ages = np.empty(len(keys), np.int64), np.empty(len(keys), np.int32)
    size = 0
    for u in members:
        inside[u] = _is_inside(faces, alive, first, following, block, u)
    for u in members:
        if least[u] > most or not inside[u]:
            continue
        lowest = np.inf
        corner = first[u]
        while corner >= 0:
            f = corner // 3
            if alive[f]:
                v, _ = other_corners(faces, f, corner - 3 * f)
                if u < v and not (held[u] and held[v]):
                    if not inside[v]:
                        lowest = min(lowest, least[u])
                    elif floor[u] + floor[v] > most:
                        lowest = min(lowest, floor[u] + floor[v])
                    else:
                        key, off, _, _, _ = _collapse_position(
                            vertices, quadrics, held, middle, u, v, most
                        )
                        if off <= furthest:
                            lowest = min(lowest, key)
                            if key <= most:
                                size = _push(keys, ends, ages, size, key, u, v, age[u] + age[v])
            corner = following[corner]
        least[u] = lowest
    allowed = min(allowed, size)
    done = 0
    stamp = 0
    while size > 0 and done < allowed:
        u, v, then = ends[0] >> 32, ends[0] & 0xFFFFFFFF, ages[0]
        size = _pop(keys, ends, ages, size)
        if into[u] != u or into[v] != v or age[u] + age[v] != then:
            continue
        if held[u]:
            u, v = v, u
        _, off, x, y, z = _collapse_position(vertices, quadrics, held, middle, u, v, np.inf)
        stamp += 2
        if not keeps_topology(faces, alive, first, following, seen, stamp, u, v):
            continue
        if not keeps_normals(vertices, faces, alive, first, following, u, v, x, y, z):
            continue
        if not keeps_normals(vertices, faces, alive, first, following, v, u, x, y, z):
            continue
        # u goes into v
        into[u] = v
        age[v] += age[u] + 1
        for i in range(11):
            quadrics[v, i] += quadrics[u, i]
        vertices[v, 0], vertices[v, 1], vertices[v, 2] = x, y, z
        merge_vertices(faces, alive, first, last, following, u, v)
        # the chain without what is gone
        corner = first[v]
        previous = np.int32(-1)
        while corner >= 0:
            after = following[corner]
            if alive[corner // 3]:
                if previous < 0:
                    first[v] = corner
                else:
                    following[previous] = corner
                previous = corner
            corner = after
        following[previous] = -1
        last[v] = previous
        done += 1
        floor[v] = off * quadrics[v, 10]
        lowest = np.inf
        corner = first[v]
        while corner >= 0:
            f = corner // 3
            w, _ = other_corners(faces, f, corner - 3 * f)
            if not (held[v] and held[w]):
                key = floor[v] + floor[w] if inside[w] else 0.0
                if inside[w] and key <= most:
                    key, off, _, _, _ = _collapse_position(
                        vertices, quadrics, held, middle, v, w, most
                    )
                    if off > furthest:
                        key = np.inf
                    elif key <= most:
                        size = _push(keys, ends, ages, size, key, v, w, age[v] + age[w])
                if v < w:
                    lowest = min(lowest, key)
                else:
                    least[w] = min(least[w], key)
            corner = following[corner]
        least[v] = lowest
    return done


@nb.njit(cache=True, parallel=True)
def collapse_edges(
    vertices: Array,
    faces: Array,
    alive: Array,
    first: Array,
    last: Array,
    following: Array,
    quadrics: Array,
    held: Array,
    middle: Array,
    age: Array,
    into: Array,
    least: Array,
    floor: Array,
    inside: Array,
    block: Array,
    seen: Array,
    members: Array,
    starts: Array,
    most: float,
    furthest: float,
    allowed: int,
) -> int:
    """Work all blocks; the arrays change in place.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3), float64
    faces : ndarray, shape (m, 3), int32
    alive : ndarray, shape (m,), uint8
        Whether a face is still there.
    first, last, following : ndarray, int32
        Of `caulkcore.mesh._corner_kernels.vertex_corners`.
    quadrics : ndarray, shape (n, 11), float64
    held : ndarray, shape (n,), bool
        Vertices that stay where they are, and that others may be drawn to.
    middle : ndarray, shape (3,)
        Where the quadrics count from.
    age : ndarray, shape (n,), int32
        How often a vertex has changed.
    into : ndarray, shape (n,), int32
        The vertex that each went into; itself while it is there.
    least : ndarray, shape (n,), float64
        No more than the least error of the edges from each vertex to higher ones, as far as known.
    block : ndarray, shape (n,), int32
    seen : ndarray, shape (n,), int32
        Zeros to write on.
    members, starts : ndarray, int32
        The vertices that are there, block by block.
    most : float
        Greatest error of an edge.
    furthest : float
        Greatest mean square of the distance to the planes, mm².
    allowed : int
        No block draws more edges together than this.

    Returns
    -------
    int
        How many were collapsed.
    """
    done = np.zeros(len(starts) - 1, np.int64)
    for i in nb.prange(len(starts) - 1):
        done[i] = _work_block(
            vertices, faces, alive, first, last, following, quadrics, held, middle, age, into,
            least, floor, inside, block, seen, members[starts[i] : starts[i + 1]], most, furthest,
            allowed,
        )  # fmt: skip
    return done.sum()


@nb.njit(cache=True)
def sampled_collapse_errors(
    vertices: Array,
    faces: Array,
    alive: Array,
    quadrics: Array,
    held: Array,
    middle: Array,
    every: int,
    furthest: float,
) -> Array:
    """Errors of the edges of every so many faces, those too far off left out.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3), float64
    faces : ndarray, shape (m, 3), int32
    alive : ndarray, shape (m,), uint8
        Faces that are left.
    quadrics : ndarray, shape (n, 11)
        See `quadrics_of`.
    held : ndarray, shape (n,), bool
        Vertices that must not move.
    middle : ndarray, shape (3,)
        Origin of the quadrics.
    every : int
    furthest : float
        Error beyond which an edge is left out.

    Returns
    -------
    ndarray, shape (k,)
    """
    out = np.empty(3 * (len(faces) // every + 1))
    count = 0
    for f in range(0, len(faces), every):
        if alive[f]:
            for k in range(3):
                u, v = faces[f, k], faces[f, (k + 1) % 3]
                if u < v and not (held[u] and held[v]):
                    key, off, _, _, _ = _collapse_position(
                        vertices, quadrics, held, middle, u, v, np.inf
                    )
                    if off <= furthest:
                        out[count] = key
                        count += 1
    return out[:count]


@nb.njit(cache=True)
def group_by_cube(
    vertices: Array, rest: Array, size: float, placed: float
) -> tuple[Array, Array, Array]:
    """Group vertices by cubes of space.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3)
    rest : ndarray, shape (k,), int32
        The vertices to group.
    size : float
        Side of a cube, mm.
    placed : float
        By what share of that the cubes are moved, 0 to 1.

    Returns
    -------
    block : ndarray, shape (n,), int32
        Number of the cube, -1 for the others.
    members : ndarray, shape (k,), int32
        `rest`, cube by cube.
    starts : ndarray, int64
        Where each cube begins, with the end appended.
    """
    low, high = np.full(3, np.inf), np.full(3, -np.inf)
    for v in rest:
        for k in range(3):
            low[k] = min(low[k], vertices[v, k])
            high[k] = max(high[k], vertices[v, k])
    many = np.empty(3, np.int64)
    for k in range(3):
        many[k] = np.int64((high[k] - low[k]) / size + placed) + 1
    block = np.full(len(vertices), -1, np.int32)
    count = np.zeros(many[0] * many[1] * many[2] + 1, np.int64)
    for v in rest:
        cube = np.int64(0)
        for k in range(3):
            cube = cube * many[k] + np.int64((vertices[v, k] - low[k]) / size + placed)
        block[v] = cube
        count[cube + 1] += 1
    used = count[1:] > 0
    starts = np.cumsum(count)
    at = starts[:-1].copy()
    members = np.empty(len(rest), np.int32)
    for v in rest:
        members[at[block[v]]] = v
        at[block[v]] += 1
    return block, members, np.append(starts[:-1][used], len(rest))
