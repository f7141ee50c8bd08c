"""Arrangements: triangles that cross, divided exactly where they do, and what they enclose.

The way of Zhou, Grinspun, Zorin & Jacobson (2016), *Mesh Arrangements for Solid Geometry*: only
faces that meet others are divided, in their own planes and with exact points; the spaces between
them are told apart by sorting the triangles round each edge, and numbered by how often the surface
winds round them.
"""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..jit import nb
from ..mesh import _edge_kernels as kernel
from ..mesh.arrays import Array, frozen
from ..mesh.groups import Groups
from ..predicates.bignum import DIGITS, keys, nearest_floats
from ..predicates.orientation import faces_have_area
from ..spatial.box_tree import Tree
from ..spatial.intersecting_pairs import intersecting_pairs_of_tree
from .cells import largest_triangles, relative_winding_numbers, triangle_cells, winding
from .intersection_points import points_of, shared_points
from .planar_cdt import constrained_triangulation

_STEPS = 51
"""Bits of the lattice: coordinates are whole multiples of the largest over 2**51."""
_THREADS = 2
"""Planes are divided on so many threads: the product's machines have two cores at least."""
_SPACES_ASKED = 3
"""Triangles of each set of faces whose winding number is asked for; the majority is believed."""


class ArrangementFailed(Exception):
    """The surface cannot be arranged; the message says why."""


@dataclass(frozen=True, eq=False)
class Arrangement:
    """Triangles that meet in common corners and edges only.

    Attributes
    ----------
    points : ndarray, shape (n + k, 3), float64
        The vertices that came in, then the new points.
    triangles : ndarray, shape (t, 3), int32
    source : ndarray, shape (t,), int32
        The face that each is part of, or one of them.
    whole : ndarray, shape (t,), bool
        Triangles that are faces as they came in.
    front, back : ndarray, shape (t,), int64
        How often the surface winds round the space on either side.
    pairs : int
        Pairs of faces that met.
    """

    points: Array
    triangles: Array
    source: Array
    whole: Array
    front: Array
    back: Array
    pairs: int


def arrange(
    vertices: Array,
    faces: Array,
    outside: int = 0,
    *,
    pairs: Array | None = None,
    fresh: Array | None = None,
) -> Arrangement:
    """Divide a closed surface where it meets itself and number the spaces it encloses.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3), float64
        No two alike.
    faces : ndarray, shape (m, 3), int32
        Closed: at each edge as many run one way as the other.
    outside : int
        What the space outside all of them counts as.
    pairs : ndarray, shape (k, 2), optional
        All pairs of faces that meet where they should not, if they are known and every face has
        area.
    fresh : ndarray, shape (m,), bool, optional
        Faces one of which is in each such pair, if that is known.

    Returns
    -------
    Arrangement

    Raises
    ------
    ArrangementFailed
        If the surface is not closed, none of it has area, or too much lies in one plane to be
        divided.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> from caulkcore.mesh.concatenate import concatenate
    >>> two = concatenate([cuboid(), cuboid(at=(5.0, 4.0, 3.0))])
    >>> arrangement = arrange(two.vertices, two.faces)
    >>> int(max(arrangement.front.max(), arrangement.back.max()))
    2
    """
    reach = max(float(np.abs(vertices).max()), 1e-300)
    step = 2.0 ** (np.ceil(np.log2(reach)) - _STEPS)
    lattice = np.rint(vertices / step).astype(np.int64)
    snapped = frozen(lattice * step, np.float64)
    faces = frozen(faces, np.int32)
    face_number = np.arange(len(faces), dtype=np.int32)
    as_given = np.array_equal(snapped, vertices)
    if pairs is None or not as_given:
        has_area = faces_have_area(snapped, faces)
        faces, face_number = frozen(faces[has_area], np.int32), face_number[has_area]
        if not len(faces):
            raise ArrangementFailed("None of its faces has an area.")
        among = fresh[has_area] if fresh is not None and as_given else None
        pairs = intersecting_pairs_of_tree(
            Tree.of(snapped, faces), np.zeros(len(faces), dtype=bool), among
        )
        pairs = np.concatenate([pairs, _on_the_same_corners(faces)])
    parts = _parts(snapped, lattice, faces, pairs)
    plane_of = parts.face.astype(np.int32)
    fresh_at = nearest_floats(parts.fresh)
    xyz = np.concatenate([lattice.astype(np.float64), fresh_at])
    triangles = frozen(parts.triangles, np.int32)
    order = kernel.sort_half_edges(triangles, len(xyz))
    starts = kernel.edge_starts(triangles, order)
    space, count, open_edges = triangle_cells(
        parts.triangles, plane_of, order, starts, lattice, faces, xyz, parts.fresh
    )
    if open_edges:
        raise ArrangementFailed("The skin is not closed.")
    number = _numbers(parts, space, count, xyz, lattice, faces) + outside
    front, back = number[space[0::2]], number[space[1::2]]
    if (back - front != parts.winding_steps).any():
        raise ArrangementFailed("The skin is not closed.")
    points = np.concatenate([vertices, fresh_at * step])
    return Arrangement(
        points, parts.triangles, face_number[plane_of], parts.whole, front, back, len(pairs)
    )


def _on_the_same_corners(faces: Array) -> Array:
    """Pairs of faces that cover each other wholly, shape (k, 2): they cross nowhere."""
    corners = np.sort(faces, axis=1)
    order = np.lexsort(corners.T)
    same = (corners[order[1:]] == corners[order[:-1]]).all(axis=1)
    return np.stack([order[:-1][same], order[1:][same]], axis=1).astype(np.int32)


@dataclass(frozen=True, eq=False)
class _Parts:
    """All triangles after dividing."""

    triangles: Array
    face: Array
    winding_steps: Array
    whole: Array
    rank: Array
    fresh: Array


def _parts(snapped: Array, lattice: Array, faces: Array, pairs: Array) -> _Parts:
    n, m = len(lattice), len(faces)
    pairs = frozen(pairs, np.int32)
    names, coplanar = shared_points(snapped, lattice, faces, pairs)
    cluster = kernel.components(pairs[coplanar], m)
    crossing = np.flatnonzero((names[:, 0, 0] >= 0) & ~coplanar)
    touched = np.zeros(m, dtype=bool)
    touched[pairs[crossing]] = True
    touched[pairs[coplanar]] = True
    # every face of a plane is divided with the others there
    concatenate = np.zeros(m, dtype=bool)
    concatenate[cluster[touched]] = True
    divided = np.flatnonzero(concatenate[cluster])
    groups = Groups.by_label(cluster[divided], divided)
    rank = np.full(m, -1, dtype=np.int64)
    rank[divided] = np.searchsorted(cluster[groups.items[groups.starts[:-1]]], cluster[divided])

    corners = faces[groups.items].reshape(-1)
    plain = np.full((len(corners), 3), -1, dtype=np.int32)
    plain[:, 0] = corners
    ends = names[crossing].reshape(-1, 3)
    unique, inverse = np.unique(np.concatenate([plain, ends]), axis=0, return_inverse=True)
    inverse = inverse.reshape(-1)
    spots = points_of(lattice, faces, unique)
    corner_spots = inverse[: len(corners)]
    end_spots = inverse[len(corners) :].reshape(-1, 2)

    two = pairs[crossing]
    owner = np.concatenate([rank[two[:, 0]], rank[two[:, 1]]])
    line = np.concatenate([end_spots, end_spots])
    wall = np.concatenate([two[:, 1], two[:, 0]])
    order = np.argsort(owner, kind="stable")
    begins = np.searchsorted(owner[order], np.arange(len(groups) + 1))
    given = (
        lattice, faces, groups.items, groups.starts, spots, corner_spots,
        line[order], wall[order].astype(np.int64), begins,
    )  # fmt: skip
    work = groups.starts + begins
    cuts = np.searchsorted(work, np.linspace(0, work[-1], _THREADS + 1)[1:-1]).tolist()
    bounds = [0, *cuts, len(groups)]
    with ThreadPoolExecutor(_THREADS) as pool:
        jobs = [
            pool.submit(_divide_all, *given, low, high)  # type: ignore[call-arg]
            for low, high in pairwise(bounds)
        ]
        done = [j.result() for j in jobs]
    if not all(d[0] for d in done):
        raise ArrangementFailed("Faces of one plane could not be divided.")
    shift, shifted = 0, []
    for _, triangles, _, _, made in done:
        shifted.append(np.where(triangles < 0, triangles - shift, triangles))
        shift += len(made)
    fresh = np.concatenate([spots, *(d[4] for d in done)])
    # one number for equal points, a vertex's own where there is one
    known = keys(fresh)
    _, first, same = np.unique(known, axis=0, return_index=True, return_inverse=True)
    same = same.reshape(-1)
    vertex = np.where(unique[:, 1] < 0, unique[:, 0], n)
    name = np.full(len(first), n, dtype=np.int64)
    np.minimum.at(name, same[: len(spots)], vertex)
    new = np.flatnonzero(name == n)
    name[new] = n + np.arange(len(new))
    local = np.concatenate(shifted)
    local = np.where(local < 0, len(spots) - 1 - local, local)
    numbered = name[same[local]]

    rest = np.flatnonzero(~concatenate[cluster])
    which = np.concatenate([d[2] for d in done])
    return _Parts(
        np.concatenate([faces[rest], numbered]).astype(np.int32),
        np.concatenate([rest, groups.items[groups.starts[:-1]][which]]),
        np.concatenate([np.ones(len(rest), dtype=np.int64), *(d[3] for d in done)]),
        np.arange(len(rest) + len(numbered)) < len(rest),
        rank,
        fresh[first[new]],
    )


@nb.njit(cache=True, nogil=True)
def _divide_all(  # type: ignore[no-untyped-def]
    lattice: Array, faces: Array, members: Array, begin: Array, spots: Array, corners: Array,
    lines: Array, walls: Array, line_begin: Array, low: int, high: int,
):  # fmt: skip
    """Divide the faces of each plane; points as rows of `spots`, fresh ones as -1, -2, ..."""
    room = 4 * (begin[high] - begin[low] + line_begin[high] - line_begin[low]) + 16
    triangles = np.empty((room, 3), np.int64)
    which, winding_steps = np.empty(room, np.int64), np.empty(room, np.int64)
    made = np.empty((64, 4, DIGITS), np.int64)
    count = fresh_count = 0
    for c in range(low, high):
        own_faces = members[begin[c] : begin[c + 1]]
        a, b = line_begin[c], line_begin[c + 1]
        own = 3 * len(own_faces)
        used = np.empty(own + 2 * (b - a), np.int64)
        used[:own] = corners[3 * begin[c] : 3 * begin[c + 1]]
        line = np.empty((b - a, 2), np.int64)
        for s in range(b - a):
            for k in range(2):
                line[s, k] = own + 2 * s + k
                used[own + 2 * s + k] = lines[a + s, k]
        ok, parts, net, fresh = constrained_triangulation(
            lattice, faces, own_faces, spots, used, line, walls[a:b]
        )
        if not ok:
            return False, triangles[:0], which[:0], winding_steps[:0], made[:0]
        while count + len(parts) > room:
            room *= 2
            wider, w2, t2 = (
                np.empty((room, 3), np.int64), np.empty(room, np.int64), np.empty(room, np.int64)
            )  # fmt: skip
            wider[:count], w2[:count], t2[:count] = (
                triangles[:count],
                which[:count],
                winding_steps[:count],
            )
            triangles, which, winding_steps = wider, w2, t2
        while fresh_count + len(fresh) > len(made):
            more = np.empty((2 * len(made), 4, DIGITS), np.int64)
            more[:fresh_count] = made[:fresh_count]
            made = more
        for t in range(len(parts)):
            for k in range(3):
                p = parts[t, k]
                if p < len(used):
                    triangles[count, k] = used[p]
                else:
                    triangles[count, k] = -1 - (fresh_count + p - len(used))
            which[count], winding_steps[count] = c, net[t]
            count += 1
        made[fresh_count : fresh_count + len(fresh)] = fresh
        fresh_count += len(fresh)
    return True, triangles[:count], which[:count], winding_steps[:count], made[:fresh_count]


def _numbers(
    parts: _Parts, space: Array, count: int, xyz: Array, lattice: Array, faces: Array
) -> Array:
    """How often the surface winds round each space."""
    number, group = relative_winding_numbers(space, parts.winding_steps, count)
    # each connected set of spaces is numbered from one of its own; the surface tells by how much
    sets, group = np.unique(group, return_inverse=True)
    own_faces = group[space[0::2]]
    rows = largest_triangles(parts.triangles, xyz, own_faces, len(sets), _SPACES_ASKED).ravel()
    rows = rows[rows >= 0]
    # the faces in whose plane a triangle lies do not count
    own = np.where(parts.rank >= 0, parts.rank, -2 - np.arange(len(faces)))
    middles = xyz[parts.triangles[rows]].mean(axis=1)
    mean = winding(middles, own[parts.face[rows]], lattice.astype(np.float64), faces, own)
    relative = (number[space[2 * rows]] + number[space[2 * rows + 1]]) / 2.0
    offset = np.zeros(len(sets), dtype=np.int64)
    votes = Groups.by_label(own_faces[rows], np.rint(mean - relative).astype(np.int64))
    for i in range(len(votes)):
        values, times = np.unique(votes[i], return_counts=True)
        offset[i] = values[np.argmax(times)]
    return number + offset[group]
