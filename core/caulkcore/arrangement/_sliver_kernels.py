"""Slivers taken out of a surface: their short edges collapsed, their long ones flipped."""

import numpy as np

from ..jit import nb
from ..mesh._corner_kernels import other_corners
from ..mesh._face_kernels import cross_at, squared, squared_height
from ..mesh.arrays import Array

_LEAST_COSINE = 0.5
"""No face with a height of its own may turn so far that the cosine falls to this: 60 degrees."""
_TIMES = 24
"""Times that a face is looked at: a flip may bring another sliver."""


@nb.njit(cache=True)
def _faces_at_edge(  # type: ignore[no-untyped-def]
    faces: Array, alive: Array, first: Array, following: Array, degree: Array, u: int, v: int
):
    """Number of faces at an edge, and one that runs from u to v and one from v to u, or -1."""
    swapped = degree[u] > degree[v]
    if swapped:
        u, v = v, u
    count, on, back = 0, -1, -1
    corner = first[u]
    while corner >= 0:
        f = corner // 3
        if alive[f]:
            a, b = other_corners(faces, f, corner - 3 * f)
            if a == v:
                count, on = count + 1, f
            elif b == v:
                count, back = count + 1, f
        corner = following[corner]
    if swapped:
        return count, back, on
    return count, on, back


@nb.njit(cache=True)
def _keeps_topology(
    faces: Array, alive: Array, first: Array, following: Array, degree: Array, u: int, v: int
) -> bool:
    """The link condition of an edge with two faces, or one (Dey et al. 1999)."""
    at_edge, _, _ = _faces_at_edge(faces, alive, first, following, degree, u, v)
    if at_edge != 1 and at_edge != 2:
        return False
    common = 0
    corner = first[u]
    while corner >= 0:
        f = corner // 3
        if alive[f]:
            a, b = other_corners(faces, f, corner - 3 * f)
            for w in (a, b):
                if w != v:
                    n, on, back = _faces_at_edge(faces, alive, first, following, degree, u, w)
                    m, _, _ = _faces_at_edge(faces, alive, first, following, degree, v, w)
                    # each common neighbour is met once for every face at its edge
                    if m > 0 and (on == f or (on < 0 and back == f)):
                        common += 1
                    if n > 2 or m > 2:
                        return False
        corner = following[corner]
    if common != at_edge:
        return False
    # the corners opposite keep more than two faces round them
    corner = first[u]
    while corner >= 0:
        f = corner // 3
        if alive[f]:
            a, b = other_corners(faces, f, corner - 3 * f)
            if a == v or b == v:
                apex = b if a == v else a
                around, other = 0, first[apex]
                while other >= 0:
                    around += alive[other // 3]
                    other = following[other]
                if around <= 3 and at_edge == 2:
                    return False
        corner = following[corner]
    return True


@nb.njit(cache=True)
def _keeps_normals(
    p: Array, faces: Array, alive: Array, first: Array, following: Array, u: int, v: int,
    sliver: float,
) -> bool:  # fmt: skip
    """Whether no face round u turns over, or becomes a sliver that was none, if u goes into v."""
    corner = first[u]
    while corner >= 0:
        f = corner // 3
        if alive[f]:
            a, b = other_corners(faces, f, corner - 3 * f)
            if a != v and b != v:
                was = squared_height(p, u, a, b)
                if was > sliver:
                    nx, ny, nz = cross_at(p, u, a, b)
                    mx, my, mz = cross_at(p, v, a, b)
                    dot = nx * mx + ny * my + nz * mz
                    both = (nx * nx + ny * ny + nz * nz) * (mx * mx + my * my + mz * mz)
                    if dot <= 0.0 or dot * dot <= _LEAST_COSINE * _LEAST_COSINE * both:
                        return False
                    if squared_height(p, v, a, b) <= sliver:
                        return False
        corner = following[corner]
    return True


@nb.njit(cache=True)
def _goes_into(
    faces: Array, alive: Array, first: Array, last: Array, following: Array, degree: Array,
    u: int, v: int,
) -> None:  # fmt: skip
    """Replace u by v."""
    corner = first[u]
    while corner >= 0:
        f = corner // 3
        if alive[f]:
            if faces[f, 0] == v or faces[f, 1] == v or faces[f, 2] == v:
                alive[f] = 0
            else:
                faces[f, corner - 3 * f] = v
        corner = following[corner]
    following[last[v]] = first[u]
    last[v] = last[u]
    first[u] = last[u] = -1
    degree[v] += degree[u]
    degree[u] = 0


@nb.njit(cache=True)
def _replace(
    faces: Array, first: Array, last: Array, following: Array, degree: Array, f: int, old: int,
    new: int,
) -> None:  # fmt: skip
    """Give a face another corner."""
    k = 0 if faces[f, 0] == old else (1 if faces[f, 1] == old else 2)
    corner = np.int32(3 * f + k)
    before, at = np.int32(-1), first[old]
    while at != corner:
        before, at = at, following[at]
    if before < 0:
        first[old] = following[corner]
    else:
        following[before] = following[corner]
    if last[old] == corner:
        last[old] = before
    faces[f, k] = new
    following[corner] = -1
    if first[new] < 0:
        first[new] = corner
    else:
        following[last[new]] = corner
    last[new] = corner
    degree[old] -= 1
    degree[new] += 1


@nb.njit(cache=True)
def _flips(
    p: Array, faces: Array, alive: Array, first: Array, last: Array, following: Array,
    degree: Array, held: Array, f: int, k: int, sliver: float,
) -> int:  # fmt: skip
    """Flip the edge after corner k of a face; the face across, or -1 if it may not be."""
    a, b = np.int64(faces[f, k]), np.int64(faces[f, (k + 1) % 3])
    c = np.int64(faces[f, (k + 2) % 3])
    count, on, g = _faces_at_edge(faces, alive, first, following, degree, a, b)
    if count != 2 or on != f or g < 0:
        return -1
    d = np.int64(faces[g, 0]) + np.int64(faces[g, 1]) + np.int64(faces[g, 2]) - a - b
    if c == d or held[a] or held[b] or held[c] or held[d]:
        return -1
    there, _, _ = _faces_at_edge(faces, alive, first, following, degree, c, d)
    if there > 0:
        return -1
    was_f, was_g = squared_height(p, a, b, c), squared_height(p, b, a, d)
    one, two = squared_height(p, a, d, c), squared_height(p, d, b, c)
    if min(one, two) <= min(was_f, was_g):
        return -1
    nx, ny, nz = cross_at(p, b, a, d)
    if was_g <= sliver:
        nx, ny, nz = cross_at(p, a, b, c)
        if was_f <= sliver:
            nx = ny = nz = 0.0
    if nx != 0.0 or ny != 0.0 or nz != 0.0:
        for q, r in ((a, d), (d, b)):
            mx, my, mz = cross_at(p, q, r, c)
            if nx * mx + ny * my + nz * mz <= 0.0:
                return -1
    _replace(faces, first, last, following, degree, f, b, d)
    _replace(faces, first, last, following, degree, g, a, c)
    return g


@nb.njit(cache=True)
def take_out_slivers(
    p: Array, faces: Array, alive: Array, first: Array, last: Array, following: Array,
    fixed: Array, held: Array, moved: Array, chosen: Array, tolerance: float,
) -> tuple[int, int]:  # fmt: skip
    """Take out slivers one after the other; the arrays change in place.

    Parameters
    ----------
    p : ndarray, shape (n, 3)
        Vertices; none of them moves, but some go into others.
    faces : ndarray, shape (m, 3), int32
    alive : ndarray, shape (m,), uint8
        Whether a face is still there.
    first, last, following : ndarray, int32
        Of `caulkcore.mesh._corner_kernels.vertex_corners`.
    fixed : ndarray, shape (n,), bool
        Vertices that rather stay, where one of two has to go.
    held : ndarray, shape (n,), bool
        Vertices whose faces are not touched.
    moved : ndarray, shape (n,)
        How far what went into each vertex has come, mm.
    chosen : ndarray, shape (m,), bool
        Faces that may be slivers.
    tolerance : float
        Least height of a face that is none, and greatest way that a vertex goes, mm.

    Returns
    -------
    collapsed, flipped : int
        Numbers of edges.
    """
    sliver = tolerance * tolerance
    waits = chosen.copy()
    tries = np.zeros(len(faces), np.int64)
    queue = np.empty(len(faces), np.int64)
    head = size = 0
    for f in range(len(faces)):
        if chosen[f]:
            queue[size] = f
            size += 1
    degree = np.zeros(len(first), np.int64)
    for f in range(len(faces)):
        for k in range(3):
            degree[faces[f, k]] += 1
    collapsed = flipped = 0
    while size > 0:
        f = queue[head]
        head = (head + 1) % len(queue)
        size -= 1
        waits[f] = False
        if not alive[f] or squared_height(p, faces[f, 0], faces[f, 1], faces[f, 2]) > sliver:
            continue
        tries[f] += 1
        if tries[f] > _TIMES:
            continue
        long = np.empty(3)
        for k in range(3):
            long[k] = squared(p, faces[f, k], faces[f, (k + 1) % 3])
        order = np.argsort(long)
        done = False
        centre = -1
        for i in range(3):
            k = order[i]
            if long[k] > sliver or done:
                break
            u, v = faces[f, k], faces[f, (k + 1) % 3]
            if fixed[u] and not fixed[v]:
                u, v = v, u
            for _ in range(2):
                way = moved[u] + np.sqrt(long[k])
                if (
                    not done
                    and not held[u]
                    and not held[v]
                    and way <= tolerance
                    and _keeps_topology(faces, alive, first, following, degree, u, v)
                    and _keeps_normals(p, faces, alive, first, following, u, v, sliver)
                ):
                    _goes_into(faces, alive, first, last, following, degree, u, v)
                    moved[v] = max(moved[v], way)
                    collapsed += 1
                    done = True
                    centre = v
                u, v = v, u
        if not done:
            g = _flips(p, faces, alive, first, last, following, degree, held, f, order[2], sliver)
            if g >= 0:
                flipped += 1
                # what lies beside the two may be taken out now
                for h in (f, g):
                    for k in range(3):
                        u, v = faces[h, k], faces[h, (k + 1) % 3]
                        _, on, back = _faces_at_edge(faces, alive, first, following, degree, u, v)
                        for beside in (on, back):
                            if beside >= 0 and not waits[beside] and tries[beside] <= _TIMES:
                                waits[beside] = True
                                queue[(head + size) % len(queue)] = beside
                                size += 1
        if not done:
            continue
        # what is round here may be a sliver now, or can be taken out now
        corner = first[centre]
        while corner >= 0:
            g = corner // 3
            if alive[g] and not waits[g] and tries[g] <= _TIMES:
                waits[g] = True
                queue[(head + size) % len(queue)] = g
                size += 1
            corner = following[corner]
    return collapsed, flipped
