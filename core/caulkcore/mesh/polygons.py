"""Polygons in space: their area vector, their plane, and dividing them into triangles."""

import numpy as np

from .arrays import Array


def triangulate(vertices: Array, starts: Array, corners: Array) -> Array:
    """Divide polygons into triangles that use all of their corners.

    Convex polygons become fans; others are triangulated in their plane of best fit.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3)
    starts : ndarray, shape (p + 1,)
        Where each polygon begins in `corners`.
    corners : ndarray, shape (c,)
        Vertex indices, in order round each polygon.

    Returns
    -------
    ndarray, shape (m, 3), int32
        In the order of the polygons.
    """
    sizes = np.diff(starts)
    parts, owners = [], []
    for size in np.unique(sizes):
        which = np.flatnonzero(sizes == size)
        ring = corners[starts[which][:, None] + np.arange(size)]
        if size == 3:
            parts.append(ring)
            owners.append(which)
            continue
        convex = _convex(vertices, ring)
        fan = [[0, k, k + 1] for k in range(1, size - 1)]
        parts.append(ring[convex][:, fan].reshape(-1, 3))
        owners.append(np.repeat(which[convex], size - 2))
        for polygon, one in zip(which[~convex], ring[~convex], strict=True):
            triangles = one[flat_triangles(vertices[one])]
            parts.append(triangles)
            owners.append(np.full(len(triangles), polygon))
    order = np.argsort(np.concatenate(owners), kind="stable")
    return np.concatenate(parts)[order].astype(np.int32)


def _convex(vertices: Array, ring: Array) -> Array:
    points = vertices[ring]
    onward = np.roll(points, -1, axis=1) - points
    turns = np.cross(onward, np.roll(onward, -1, axis=1))
    normal = newell(points)
    return (np.einsum("pki,pi->pk", turns, normal) >= 0).all(axis=1)


def newell(points: Array) -> Array:
    """Area vector of closed polygons, shape (..., 3) of points (..., k, 3): twice the area.

    Parameters
    ----------
    points : ndarray, shape (k, 3)
        Corners of a polygon, in order.

    Returns
    -------
    ndarray, shape (3,)
        Twice the area long, along the normal.

    Examples
    --------
    >>> newell(np.array([[0, 0, 0], [4, 0, 0], [4, 3, 0], [0, 3, 0.0]])).tolist()
    [0.0, 0.0, 24.0]
    """
    centred = points - points[..., :1, :]
    return np.cross(centred, np.roll(centred, -1, axis=-2)).sum(axis=-2)


def flat_triangles(points: Array) -> Array:
    """Triangles of one polygon, indices into its corners, shape (k - 2, 3).

    Parameters
    ----------
    points : ndarray, shape (k, 3)
        Corners of a polygon, in order.

    Returns
    -------
    ndarray, shape (k - 2, 3), int
        Positions of the corners.
    """
    return triangulate_rings(points, [np.arange(len(points))], newell(points))


def triangulate_rings(points: Array, rings: list[Array], normal: Array) -> Array:
    """Triangles of what some rings bound in a plane, outlines and the holes in them.

    Parameters
    ----------
    points : ndarray, shape (n, 3)
    rings : list of ndarray, shape (k,)
        Numbers of points; outlines counter-clockwise seen against `normal`, holes clockwise.
    normal : ndarray, shape (3,)
        Of the plane.

    Returns
    -------
    ndarray, shape (m, 3)
        Numbers of points.

    Examples
    --------
    >>> square = np.array([[0, 0, 0], [4, 0, 0], [4, 4, 0], [0, 4, 0.0]])
    >>> triangulate_rings(square, [np.arange(4)], np.array([0, 0, 1.0])).shape
    (2, 3)
    """
    import manifold3d  # a library of its own, which most files need not

    flat = [in_plane(points[ring], normal).astype(np.float64) for ring in rings]
    filled: Array = np.concatenate(rings)[np.asarray(manifold3d.triangulate(flat))]
    return filled


def in_plane(points: Array, normal: Array) -> Array:
    """Coordinates of points in the plane across `normal`, right-handed, shape (k, 2).

    Parameters
    ----------
    points : ndarray, shape (k, 3)
    normal : ndarray, shape (3,)
        Of the plane; of any length.

    Returns
    -------
    ndarray, shape (k, 2)
    """
    projected: Array = points @ plane_axes(normal).T
    return projected


def plane_axes(normal: Array) -> Array:
    """Two unit vectors square to a normal and to each other, right-handed with it.

    Parameters
    ----------
    normal : ndarray, shape (3,)
        Of any length; of none it counts as up.

    Returns
    -------
    ndarray, shape (2, 3)

    Examples
    --------
    >>> plane_axes(np.array([0.0, 0.0, 2.0])).tolist()
    [[0.0, 1.0, 0.0], [-1.0, 0.0, 0.0]]
    """
    length = np.linalg.norm(normal)
    n = normal / length if length > 0 else np.array([0.0, 0.0, 1.0])
    u = np.cross(n, np.eye(3)[np.argmin(np.abs(n))])
    u /= np.linalg.norm(u)
    return np.stack([u, np.cross(n, u)])
