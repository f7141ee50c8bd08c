"""Collapsing short edges of `isotropic_remesh`."""

import numpy as np

from ..jit import nb
from ..mesh._corner_kernels import other_corners
from ..mesh._face_kernels import cross_at
from ..mesh.arrays import Array
from ._collapse_kernels import keeps_normals, keeps_topology, merge_vertices

FIXED, ON_CREASE, FREE = 0, 1, 2
"""Kinds of vertices: those that stay, those that may go along a sharp edge, and all others."""


@nb.njit(cache=True)
def _strays(
    vertices: Array,
    faces: Array,
    alive: Array,
    first: Array,
    following: Array,
    u: int,
    x: float,
    y: float,
    z: float,
) -> float:
    """How far a point lies from the planes of the faces round a vertex, at most."""
    most = 0.0
    corner = first[u]
    while corner >= 0:
        f = corner // 3
        corner = following[corner]
        if alive[f]:
            nx, ny, nz = cross_at(vertices, faces[f, 0], faces[f, 1], faces[f, 2])
            size = np.sqrt(nx * nx + ny * ny + nz * nz)
            if size > 0.0:
                away = (
                    nx * (x - vertices[u, 0])
                    + ny * (y - vertices[u, 1])
                    + nz * (z - vertices[u, 2])
                )
                most = max(most, abs(away) / size)
    return most


@nb.njit(cache=True)
def _longest(
    vertices: Array,
    faces: Array,
    alive: Array,
    first: Array,
    following: Array,
    u: int,
    x: float,
    y: float,
    z: float,
) -> float:
    """Square of the longest edge from a point to those round a vertex."""
    most = 0.0
    corner = first[u]
    while corner >= 0:
        f = corner // 3
        if alive[f]:
            for a in other_corners(faces, f, corner - 3 * f):
                dx, dy, dz = vertices[a, 0] - x, vertices[a, 1] - y, vertices[a, 2] - z
                most = max(most, dx * dx + dy * dy + dz * dz)
        corner = following[corner]
    return most


@nb.njit(cache=True)
def _off_line(vertices: Array, u: int, a: int, b: int) -> float:
    """Distance of a vertex from the line through two others."""
    nx, ny, nz = cross_at(vertices, a, b, u)
    squared = 0.0
    for k in range(3):
        squared += (vertices[b, k] - vertices[a, k]) ** 2
    return float(np.sqrt((nx * nx + ny * ny + nz * nz) / max(squared, 1e-300)))


@nb.njit(cache=True)
def collapse_short_edges(
    vertices: Array,
    faces: Array,
    alive: Array,
    kind: Array,
    beside: Array,
    drift: Array,
    edges: Array,
    first: Array,
    last: Array,
    following: Array,
    longest: float,
    reach: float,
) -> int:
    """Collapse edges one after the other, where the surface hardly moves by it.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3), float64
        Changed in place, as all that follows up to `following`.
    faces : ndarray, shape (m, 3), int32
    alive : ndarray, shape (m,), uint8
        Faces that are left.
    kind : ndarray, shape (n,), uint8
        `FIXED`, `ON_CREASE` or `FREE`.
    beside : ndarray, shape (n, 2), int32
        The next vertices along the sharp edge, of those on one.
    drift : ndarray, shape (n,)
        How far a sharp edge has been straightened at a vertex already, mm.
    edges : ndarray, shape (k, 2)
        Those to collapse, in this order.
    first, last, following : ndarray, int32
        See `caulkcore.mesh._corner_kernels.vertex_corners`.
    longest : float
        No edge may get longer, mm.
    reach : float
        How far the surface may move, mm: no point may be farther from the planes round the
        vertices that it stands for.

    Returns
    -------
    int
        How many were collapsed.
    """
    into = np.arange(len(vertices))
    seen = np.zeros(len(vertices), np.int32)
    stamp = done = 0
    for e in range(len(edges)):
        u, v = edges[e, 0], edges[e, 1]
        if into[u] != u or into[v] != v:
            continue
        # u is what goes
        if kind[u] < kind[v]:
            u, v = v, u
        if kind[u] == FIXED:
            continue
        other = -1
        bent = 0.0
        if kind[u] == ON_CREASE:
            if beside[u, 0] != v and beside[u, 1] != v:
                continue
            other = beside[u, 1] if beside[u, 0] == v else beside[u, 0]
            bent = _off_line(vertices, u, v, other) + max(drift[u], drift[v])
            if other == v or bent > reach:
                continue
        stamp += 2
        if not keeps_topology(faces, alive, first, following, seen, stamp, u, v):
            continue
        # in the middle if both may move, else at either end
        for attempt in range(3):
            if attempt < 2 and kind[v] != FREE:
                continue
            if attempt == 0:
                x = float(np.float32((vertices[u, 0] + vertices[v, 0]) / 2))
                y = float(np.float32((vertices[u, 1] + vertices[v, 1]) / 2))
                z = float(np.float32((vertices[u, 2] + vertices[v, 2]) / 2))
            else:
                w = u if attempt == 1 else v
                x, y, z = vertices[w, 0], vertices[w, 1], vertices[w, 2]
            may = (
                (
                    kind[u] == ON_CREASE
                    or _strays(vertices, faces, alive, first, following, u, x, y, z) <= reach
                )
                and _strays(vertices, faces, alive, first, following, v, x, y, z) <= reach
                and _longest(vertices, faces, alive, first, following, u, x, y, z)
                <= longest * longest
                and _longest(vertices, faces, alive, first, following, v, x, y, z)
                <= longest * longest
                and keeps_normals(vertices, faces, alive, first, following, u, v, x, y, z)
                and keeps_normals(vertices, faces, alive, first, following, v, u, x, y, z)
            )
            if may:
                break
        else:
            continue
        into[u] = v
        done += 1
        vertices[v, 0], vertices[v, 1], vertices[v, 2] = x, y, z
        if kind[u] == ON_CREASE:
            for w, gone, now in ((v, u, other), (other, u, v)):
                for k in range(2):
                    if beside[w, k] == gone:
                        beside[w, k] = now
                drift[w] = max(drift[w], bent)
        merge_vertices(faces, alive, first, last, following, u, v)
    return done
