"""Vertices numbered in the order in which faces meet them."""

import numpy as np

from ..jit import nb
from .arrays import Array


@nb.njit(cache=True)
def number_as_met(faces: Array, n_vertices: int) -> tuple[Array, Array]:
    """Number vertices in the order in which the faces meet them.

    Parameters
    ----------
    faces : ndarray, shape (m, 3)
    n_vertices : int

    Returns
    -------
    met : ndarray, shape (k,), int32
        The vertices in use, in their new order.
    corners : ndarray, shape (3 m,), int32
        The faces in new numbers.
    """
    new = np.full(n_vertices, -1, dtype=np.int32)
    met = np.empty(n_vertices, dtype=np.int32)
    corners = np.empty(3 * len(faces), dtype=np.int32)
    count = 0
    for f in range(len(faces)):
        for k in range(3):
            v = faces[f, k]
            if new[v] < 0:
                new[v] = count
                met[count] = v
                count += 1
            corners[3 * f + k] = new[v]
    return met[:count].copy(), corners


def renumbered(order: Array, vertices: Array, faces: Array) -> tuple[Array, Array]:
    """The mesh with its faces in an order and its vertices numbered as those meet them.

    Parameters
    ----------
    order : ndarray, shape (m,), int64
    vertices : ndarray, shape (n, 3), float64
    faces : ndarray, shape (m, 3), int32

    Returns
    -------
    vertices : ndarray, shape (k, 3), float64
        Those in use.
    faces : ndarray, shape (m, 3), int32

    Examples
    --------
    >>> points = np.array([[9.0, 9, 9], [0, 0, 0], [1, 0, 0], [0, 1, 0]])
    >>> vertices, faces = renumbered(np.array([0]), points, np.array([[3, 1, 2]], dtype=np.int32))
    >>> vertices.tolist(), faces.tolist()
    ([[0.0, 1.0, 0.0], [0.0, 0.0, 0.0], [1.0, 0.0, 0.0]], [[0, 1, 2]])
    """
    met, corners = number_as_met(faces.take(order, axis=0), len(vertices))
    return vertices.take(met, axis=0), corners.reshape(-1, 3)
