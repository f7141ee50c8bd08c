"""Placing new vertices where the delivered file can hold them."""

import numpy as np

from .arrays import Array
from .coordinate_keys import among, point_keys
from .triangle_mesh import Mesh
from .weld import welded


def as_float32(points: Array) -> Array:
    """Points as float32 holds them, in float64.

    Parameters
    ----------
    points : ndarray, shape (n, 3), float64

    Returns
    -------
    ndarray, shape (n, 3), float64
    """
    return points.astype(np.float32).astype(np.float64)


def on_float32(mesh: Mesh, source: Mesh) -> Mesh:
    """Round the vertices that did not come in to float32; leave the others bit for bit.

    Parameters
    ----------
    mesh : Mesh
        The result of a remedy.
    source : Mesh
        What the remedy was given.

    Returns
    -------
    Mesh
    """
    n = len(source.vertices)
    fresh = np.ones(len(mesh.vertices), dtype=bool)
    if len(fresh) >= n and np.array_equal(mesh.vertices[:n], source.vertices):
        fresh[:n] = False
    rest = np.flatnonzero(fresh)
    # what stands elsewhere may have come in, too; of the many only those like one of the few
    keys, known = point_keys(mesh.vertices[rest]), point_keys(source.vertices)
    fresh[rest[among(keys, known[among(known, keys)])]] = False
    if not fresh.any():
        return mesh
    vertices = mesh.vertices.copy()
    vertices[fresh] = vertices[fresh].astype(np.float32)
    return Mesh(vertices, mesh.faces)


def as_delivered(mesh: Mesh) -> Mesh:
    """The mesh as formats without indices and with float32 hold it; itself if that changes nothing.

    Parameters
    ----------
    mesh : Mesh

    Returns
    -------
    Mesh

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> as_delivered(cuboid((0.1, 1.0, 1.0))).vertices[4].tolist()
    [0.10000000149011612, 0.0, 0.0]
    """
    vertices = as_float32(mesh.vertices)
    if np.array_equal(vertices, mesh.vertices):
        return mesh
    return welded(Mesh(vertices, mesh.faces))
