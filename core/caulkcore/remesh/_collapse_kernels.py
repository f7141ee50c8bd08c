"""Collapsing an edge: whether it may be, and what becomes of the faces round its two ends."""

from ..jit import nb
from ..mesh._corner_kernels import other_corners
from ..mesh.arrays import Array

_LEAST_COSINE = 0.2
"""No face may turn so far that the cosine falls to this: 78 degrees."""
_LEAST_HEIGHT = 0.002
"""No face may get flatter than this share of its longest side."""
_MOST_FACES_ROUND = 64
"""No vertex may get more faces round it."""


@nb.njit(cache=True)
def keeps_normals(
    vertices: Array,
    faces: Array,
    alive: Array,
    first: Array,
    following: Array,
    u: int,
    v: int,
    x: float,
    y: float,
    z: float,
) -> bool:
    """Whether no face round `u` without `v` turns over or becomes a needle if `u` moves.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3), float64
    faces : ndarray, shape (m, 3), int32
    alive : ndarray, shape (m,), uint8
        Faces that are left.
    first, following : ndarray, int32
        Corners at each vertex; see `caulkcore.mesh._corner_kernels.vertex_corners`.
    u, v : int
    x, y, z : float
        Where `u` goes, mm.

    Returns
    -------
    bool
    """
    corner = first[u]
    while corner >= 0:
        f = corner // 3
        if alive[f]:
            a, b = other_corners(faces, f, corner - 3 * f)
            if a != v and b != v:
                ax, ay, az = vertices[a, 0], vertices[a, 1], vertices[a, 2]
                ex, ey, ez = vertices[b, 0] - ax, vertices[b, 1] - ay, vertices[b, 2] - az
                ox, oy, oz = vertices[u, 0] - ax, vertices[u, 1] - ay, vertices[u, 2] - az
                tx, ty, tz = x - ax, y - ay, z - az
                nx, ny, nz = ey * oz - ez * oy, ez * ox - ex * oz, ex * oy - ey * ox
                px, py, pz = ey * tz - ez * ty, ez * tx - ex * tz, ex * ty - ey * tx
                was2 = nx * nx + ny * ny + nz * nz
                now2 = px * px + py * py + pz * pz
                dot = nx * px + ny * py + nz * pz
                if dot <= 0.0 or dot * dot <= _LEAST_COSINE * _LEAST_COSINE * was2 * now2:
                    return False
                side = ex * ex + ey * ey + ez * ez
                longest = max(
                    side,
                    tx * tx + ty * ty + tz * tz,
                    (tx - ex) ** 2 + (ty - ey) ** 2 + (tz - ez) ** 2,
                )
                if now2 < (_LEAST_HEIGHT * longest) ** 2:
                    before = max(
                        side,
                        ox * ox + oy * oy + oz * oz,
                        (ox - ex) ** 2 + (oy - ey) ** 2 + (oz - ez) ** 2,
                    )
                    # a needle may become a better one
                    if now2 * before * before < was2 * longest * longest:
                        return False
        corner = following[corner]
    return True


@nb.njit(cache=True)
def _degree(alive: Array, first: Array, following: Array, v: int) -> int:
    count = 0
    corner = first[v]
    while corner >= 0:
        count += alive[corner // 3]
        corner = following[corner]
    return count


@nb.njit(cache=True)
def keeps_topology(
    faces: Array,
    alive: Array,
    first: Array,
    following: Array,
    seen: Array,
    stamp: int,
    u: int,
    v: int,
) -> bool:
    """Whether drawing an edge together leaves the surface joined as it was.

    The two ends must have just the two corners opposite the edge as common neighbours (the link
    condition; Dey et al. 1999), and those must have more than three faces.

    Parameters
    ----------
    faces : ndarray, shape (m, 3), int32
    alive : ndarray, shape (m,), uint8
        Faces that are left.
    first, following : ndarray, int32
        Corners at each vertex; see `caulkcore.mesh._corner_kernels.vertex_corners`.
    seen : ndarray, shape (n,), int32
        To write on.
    stamp : int
        Over all that is written there, by two.
    u, v : int

    Returns
    -------
    bool
    """
    shared = around = 0
    corner = first[u]
    while corner >= 0:
        f = corner // 3
        if alive[f]:
            around += 1
            a, b = other_corners(faces, f, corner - 3 * f)
            seen[a] = seen[b] = stamp
            if a == v or b == v:
                shared += 1
                apex = b if a == v else a
                if _degree(alive, first, following, apex) <= 3:
                    return False
        corner = following[corner]
    if shared != 2:
        return False
    common = 0
    corner = first[v]
    while corner >= 0:
        f = corner // 3
        if alive[f]:
            around += 1
            for a in other_corners(faces, f, corner - 3 * f):
                if a != u and seen[a] == stamp:
                    seen[a] = stamp + 1
                    common += 1
        corner = following[corner]
    return common == 2 and around <= _MOST_FACES_ROUND


@nb.njit(cache=True)
def merge_vertices(
    faces: Array, alive: Array, first: Array, last: Array, following: Array, u: int, v: int
) -> None:
    """Let a vertex go into another one; the faces at both are gone.

    Parameters
    ----------
    faces : ndarray, shape (m, 3), int32
        Changed in place, as all that follows up to `following`.
    alive : ndarray, shape (m,), uint8
        Faces that are left.
    first, last, following : ndarray, int32
        Corners at each vertex; see `caulkcore.mesh._corner_kernels.vertex_corners`.
    u, v : int
        The one that goes, and the one that stays.
    """
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
