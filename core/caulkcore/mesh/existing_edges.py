"""Edges that a mesh has already among some vertices, which new faces must not use again."""

import numpy as np

from .arrays import Array
from .triangle_mesh import Mesh


def neighbours_among(mesh: Mesh, vertices: Array) -> dict[int, set[int]]:
    """For each of some vertices, the others of them that the mesh has an edge to.

    Parameters
    ----------
    mesh : Mesh
    vertices : ndarray, shape (k,)

    Returns
    -------
    dict of int to set of int
        Only vertices with such an edge.

    Examples
    --------
    >>> triangle = Mesh([[0, 0, 0], [1, 0, 0], [0, 1, 0]], [[0, 1, 2]])
    >>> neighbours_among(triangle, np.array([0, 1]))
    {0: {1}, 1: {0}}
    """
    edges, _ = edges_among(mesh.faces, vertices, len(mesh.vertices))
    neighbours: dict[int, set[int]] = {}
    for a, b in edges.tolist():
        neighbours.setdefault(a, set()).add(b)
        neighbours.setdefault(b, set()).add(a)
    return neighbours


def edges_among(faces: Array, vertices: Array, count: int) -> tuple[Array, Array]:
    """Edges of some faces that have both ends among some vertices.

    Parameters
    ----------
    faces : ndarray, shape (m, 3)
    vertices : ndarray, shape (k,)
    count : int
        Number of all vertices.

    Returns
    -------
    edges : ndarray, shape (e, 2)
        Each once, its lower vertex first, ascending.
    faces_at : ndarray, shape (e,)
        Number of faces at each.

    Examples
    --------
    >>> edges, faces_at = edges_among(np.array([[0, 1, 2], [1, 0, 3]]), np.array([0, 1]), 4)
    >>> edges.tolist(), faces_at.tolist()
    ([[0, 1]], [2])
    """
    marked = np.zeros(count, dtype=bool)
    marked[vertices] = True
    near = faces[np.count_nonzero(marked[faces], axis=1) >= 2]
    pairs = np.sort(near[:, [[0, 1], [1, 2], [2, 0]]].reshape(-1, 2), axis=1).astype(np.int64)
    pairs = pairs[marked[pairs].all(axis=1)]
    keys, faces_at = np.unique(pairs[:, 0] * count + pairs[:, 1], return_counts=True)
    return np.stack([keys // count, keys % count], axis=1), faces_at


def sides(triangles: Array) -> list[tuple[int, int]]:
    """The sides of some triangles, each with its lower vertex first.

    Parameters
    ----------
    triangles : ndarray, shape (m, 3), int

    Returns
    -------
    list of (int, int)
        Three for each triangle.
    """
    pairs = np.sort(triangles[:, [[0, 1], [1, 2], [2, 0]]].reshape(-1, 2), axis=1)
    return [tuple(e) for e in pairs.tolist()]


def uses_existing_edge(
    triangles: Array, rings: list[Array], neighbours: dict[int, set[int]]
) -> bool:
    """Whether triangles over some rings have a side that is the mesh's already, but no ring's.

    Parameters
    ----------
    triangles : ndarray, shape (m, 3), int
    rings : list of ndarray, shape (k,)
        Vertices of each ring in order; their edges may be used.
    neighbours : dict of int to set of int
        See `neighbours_among`.

    Returns
    -------
    bool
    """
    border = {
        tuple(sorted(e))
        for ring in rings
        for e in zip(ring.tolist(), np.roll(ring, -1).tolist(), strict=True)
    }
    return any(b in neighbours.get(a, ()) and (a, b) not in border for a, b in sides(triangles))
