"""Dividing long edges where a surface needs more vertices; its shape stays as it is."""

import numpy as np

from .arrays import Array

_ROUNDS = 16
"""Halvings at most near a point."""
_MOST_FACES = 2_000_000
"""Faces up to which a mesh is divided further: beyond, it would take minutes."""


def split_edges_near(
    vertices: Array, faces: Array, selected: Array, points: Array, size: float, reach: float
) -> tuple[Array, Array, Array]:
    """Halve edges near some points until they are short there.

    Every face with a halved edge is divided, so that the surface stays joined as it was; faces
    farther off stay, and so do all vertices.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3)
    faces : ndarray, shape (m, 3)
    selected : ndarray, shape (m,), bool
        Faces that may be divided for their own sake.
    points : ndarray, shape (k, 3)
        What to be near.
    size : float
        mm; no edge of a face near a point is to be longer.
    reach : float
        mm; how far a face may be from a point to count as near.

    Returns
    -------
    vertices : ndarray, shape (n', 3)
        The same, and new ones after them.
    faces : ndarray, shape (m', 3)
    origin : ndarray, shape (m',)
        The face that each is a part of.
    """
    origin = np.arange(len(faces))
    if not len(points):
        return vertices, faces, origin
    from scipy.spatial import cKDTree  # half a second to import

    tree = cKDTree(points)
    for _ in range(_ROUNDS):
        tri = vertices[faces]
        lengths = edge_lengths(vertices, faces)
        long = np.flatnonzero(selected[origin] & (lengths.max(axis=1) > size))
        middle = tri[long].mean(axis=1)
        round_it = np.linalg.norm(tri[long] - middle[:, None], axis=2).max(axis=1)
        away, _ = tree.query(middle, distance_upper_bound=float(reach + round_it.max(initial=0)))
        near = long[away <= reach + round_it]
        if not len(near) or len(faces) > _MOST_FACES:
            break
        edges = marked_edges(faces[near], lengths[near] > size)
        middles = vertices[edges].mean(axis=1)
        vertices, faces, origin = halve_edges(vertices, faces, origin, edges, middles)
    return vertices, faces, origin


def edge_lengths(vertices: Array, faces: Array) -> Array:
    """Lengths of the edges from each corner to the next, shape (m, 3).

    Parameters
    ----------
    vertices : ndarray, shape (n, 3), float64
    faces : ndarray, shape (m, 3), int32

    Returns
    -------
    ndarray, shape (m, 3)

    Examples
    --------
    >>> edge_lengths(np.array([[0, 0, 0], [4, 0, 0], [0, 3, 0.0]]), np.array([[0, 1, 2]])).tolist()
    [[4.0, 5.0, 3.0]]
    """
    tri = vertices[faces]
    return np.linalg.norm(tri - np.roll(tri, -1, axis=1), axis=2)


def marked_edges(faces: Array, marked: Array) -> Array:
    """Edges from the marked corners, (m, 3), to the next, as `unique_edges` gives them.

    Parameters
    ----------
    faces : ndarray, shape (m, 3)
    marked : ndarray, shape (m, 3), bool

    Returns
    -------
    ndarray, shape (k, 2)
        Pairs of vertices, the lower first.
    """
    return unique_edges(np.stack([faces, np.roll(faces, -1, axis=1)], axis=2)[marked])


def edges_of(faces: Array) -> Array:
    """All edges of some faces, as `unique_edges` gives them.

    Parameters
    ----------
    faces : ndarray, shape (m, 3)

    Returns
    -------
    ndarray, shape (k, 2)
        Pairs of vertices, the lower first.
    """
    return marked_edges(faces, np.ones((len(faces), 3), dtype=bool))


def unique_edges(ends: Array) -> Array:
    """Edges as pairs of vertices, the lower one first, in order, each once.

    Parameters
    ----------
    ends : ndarray, shape (k, 2)
        Pairs of vertices.

    Returns
    -------
    ndarray, shape (j, 2)
        The lower first.
    """
    low, high = ends.min(axis=1).astype(np.int64), ends.max(axis=1)
    n = int(high.max(initial=0)) + 1
    codes = np.unique(low * n + high)
    return np.stack([codes // n, codes % n], axis=1)


def halve_edges(
    vertices: Array, faces: Array, origin: Array, edges: Array, middles: Array
) -> tuple[Array, Array, Array]:
    """Halve some edges and divide the faces at them into two, three or four.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3)
    faces : ndarray, shape (m, 3)
    origin : ndarray, shape (m,)
        A number for each face, passed on to its parts.
    edges : ndarray, shape (k, 2)
        The lower vertex first, sorted, each once.
    middles : ndarray, shape (k, 3)
        Where their new vertices go.

    Returns
    -------
    vertices : ndarray, shape (n + k, 3)
    faces : ndarray, shape (j, 3)
    origin : ndarray, shape (j,)
        That of the face that each is of.
    """
    n = len(vertices)
    edges = edges.astype(np.int64)
    codes = edges[:, 0] * n + edges[:, 1]
    ends = np.stack([faces, np.roll(faces, -1, axis=1)], axis=2).astype(np.int64)
    ends.sort(axis=2)
    members = ends[..., 0] * n + ends[..., 1]
    at = np.minimum(np.searchsorted(codes, members), len(codes) - 1)
    middle = np.where(codes[at] == members, n + at, -1)
    vertices = np.concatenate([vertices, middles])
    count = (middle >= 0).sum(axis=1)
    parts, origins = [faces[count == 0]], [origin[count == 0]]

    def add(selected: Array, *triangles: tuple[Array, Array, Array]) -> None:
        parts.extend(np.stack(one, axis=1) for one in triangles)
        origins.extend([origin[selected]] * len(triangles))

    for k in range(3):
        # one edge, from corner k to the next
        selected = np.flatnonzero((count == 1) & (middle[:, k] >= 0))
        a, b, c = (faces[selected, (k + i) % 3] for i in range(3))
        m = middle[selected, k]
        add(selected, (a, m, c), (m, b, c))
        # all but that edge
        selected = np.flatnonzero((count == 2) & (middle[:, k] < 0))
        a, b, c = (faces[selected, (k + i) % 3] for i in range(3))
        p, q = middle[selected, (k + 1) % 3], middle[selected, (k + 2) % 3]
        add(selected, (c, q, p), (a, b, p), (a, p, q))
    selected = np.flatnonzero(count == 3)
    (a, b, c), (p, q, r) = faces[selected].T, middle[selected].T
    add(selected, (a, p, r), (p, b, q), (r, q, c), (p, q, r))
    return vertices, np.concatenate(parts).astype(faces.dtype), np.concatenate(origins)
