"""Edges that a mesh has already among some vertices, which new faces must not use again."""

import numpy as np

from .arrays import Array
from .topology import Topology
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
    marked = np.zeros(len(mesh.vertices), dtype=bool)
    marked[vertices] = True
    topology = Topology(mesh)
    edges = topology.edges_where(topology.face_count > 0)
    neighbours: dict[int, set[int]] = {}
    for a, b in edges[marked[edges].all(axis=1)].tolist():
        neighbours.setdefault(a, set()).add(b)
        neighbours.setdefault(b, set()).add(a)
    return neighbours


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
