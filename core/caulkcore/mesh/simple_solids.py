"""Solids that need no words: for examples, for tests, and to warm up with."""

import numpy as np

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
