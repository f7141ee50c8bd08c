"""Solids that need no words: tools that others are cut with, examples, what to warm up with."""

import numpy as np

from .arrays import Array
from .float32 import as_float32
from .polygons import flat_triangles
from .triangle_mesh import Mesh


def cuboid(
    sides: tuple[float, float, float] = (10.0, 10.0, 10.0),
    *,
    at: tuple[float, float, float] = (0.0, 0.0, 0.0),
) -> Mesh:
    """A box of twelve triangles.

    Parameters
    ----------
    sides : (float, float, float)
        Along x, y and z, mm.
    at : (float, float, float)
        Its low corner, mm.

    Returns
    -------
    Mesh

    Examples
    --------
    >>> round(cuboid((2.0, 3.0, 4.0)).volume, 9)
    24.0
    """
    grid = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)], dtype=float)
    faces = [
        (0, 1, 3), (0, 3, 2), (4, 6, 7), (4, 7, 5), (0, 4, 5), (0, 5, 1),
        (2, 3, 7), (2, 7, 6), (0, 2, 6), (0, 6, 4), (1, 5, 7), (1, 7, 3),
    ]  # fmt: skip
    return Mesh(grid * np.array(sides) + np.array(at), np.array(faces))


def loft(rings: Array) -> Mesh:
    """A solid through convex rings one over another, flat at both ends.

    Parameters
    ----------
    rings : ndarray, shape (r, k, 3)
        The same number of points in each, counter-clockwise seen from the last one, mm.

    Returns
    -------
    Mesh
        Its vertices are on float32.

    Examples
    --------
    >>> square = np.array([[0, 0, 0], [2, 0, 0], [2, 2, 0], [0, 2, 0.0]])
    >>> loft(np.stack([square, square + [0, 0, 5]])).volume
    20.0
    """
    count, n, _ = rings.shape
    i = np.arange(n)
    j = np.roll(i, -1)
    fan = np.stack([np.zeros(n - 2, dtype=int), i[1:-1], i[2:]], axis=1)
    faces = [fan[:, ::-1], fan + (count - 1) * n]
    for low in range(0, (count - 1) * n, n):
        faces.append(np.stack([i, j, j + n], axis=1) + low)
        faces.append(np.stack([i, j + n, i + n], axis=1) + low)
    return Mesh(as_float32(rings.reshape(-1, 3)), np.concatenate(faces))


def extruded(outline: Array, way: Array) -> Mesh:
    """A prism on a flat outline of any shape.

    Parameters
    ----------
    outline : ndarray, shape (k, 3)
        Corners in order; it must not cross itself, mm.
    way : ndarray, shape (3,)
        From one end of the prism to the other, mm.

    Returns
    -------
    Mesh
        Its vertices are on float32.

    Examples
    --------
    >>> corner = [[0, 0, 0], [4, 0, 0], [4, 4, 0], [3, 4, 0], [3, 1, 0], [0, 1, 0.0]]
    >>> extruded(np.array(corner), np.array([0.0, 0.0, 2.0])).volume
    14.0
    """
    n = len(outline)
    flat = flat_triangles(outline)
    i = np.arange(n)
    j = np.roll(i, -1)
    faces = np.concatenate(
        [
            flat[:, ::-1],
            flat + n,
            np.stack([i, j, j + n], axis=1),
            np.stack([i, j + n, i + n], axis=1),
        ]
    )
    prism = Mesh(as_float32(np.concatenate([outline, outline + way])), faces)
    return prism if prism.volume > 0 else Mesh(prism.vertices, faces[:, ::-1])


def torus(steps: int, *, radius: float = 20.0, tube: float = 6.0) -> Mesh:
    """A ring of twice the square of so many triangles.

    Parameters
    ----------
    steps : int
        Round the ring, and round its tube.
    radius, tube : float
        Of the ring to the middle of its tube, and of the tube, mm.

    Returns
    -------
    Mesh

    Examples
    --------
    >>> len(torus(12).faces)
    288
    """
    i, j = (x.ravel() for x in np.meshgrid(np.arange(steps), np.arange(steps), indexing="ij"))
    a, b = 2 * np.pi * i / steps, 2 * np.pi * j / steps
    out = radius + tube * np.cos(b)
    points = np.stack([out * np.cos(a), out * np.sin(a), tube * np.sin(b)], axis=1)
    beyond, beside = (i + 1) % steps * steps + j, i * steps + (j + 1) % steps
    across = (i + 1) % steps * steps + (j + 1) % steps
    here = i * steps + j
    faces = [np.stack([here, beyond, across], axis=1), np.stack([here, across, beside], axis=1)]
    return Mesh(points, np.concatenate(faces))
