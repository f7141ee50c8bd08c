"""Measures of faces and shells: areas, volumes, least heights."""

import numpy as np

from ..jit import nb
from .arrays import Array

Point = tuple[float, float, float]


@nb.njit(cache=True)
def row(p: Array, i: int) -> Point:
    """A row of an array with three columns."""
    return p[i, 0], p[i, 1], p[i, 2]


@nb.njit(cache=True)
def cross(a: Point, b: Point, c: Point) -> Point:
    """Cross product of the edges of a triangle: twice its area vector."""
    ux, uy, uz = b[0] - a[0], b[1] - a[1], b[2] - a[2]
    vx, vy, vz = c[0] - a[0], c[1] - a[1], c[2] - a[2]
    return uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx


@nb.njit(cache=True)
def cross_at(p: Array, a: int, b: int, c: int) -> Point:
    """`cross` of the triangle of three rows of p."""
    return cross(row(p, a), row(p, b), row(p, c))


@nb.njit(cache=True)
def crosses(p: Array, faces: Array) -> Array:
    """`cross` of each face, shape (m, 3)."""
    out = np.empty((len(faces), 3))
    for f in range(len(faces)):
        out[f, 0], out[f, 1], out[f, 2] = cross_at(p, faces[f, 0], faces[f, 1], faces[f, 2])
    return out


@nb.njit(cache=True)
def ray_at(o: Point, d: Point, a: Point, b: Point, c: Point) -> tuple[float, float, float]:
    """Where a line meets the plane of a triangle (Moeller & Trumbore 1997).

    Returns
    -------
    u, v, t : float
        Weights of b and c there, and the place on the line from o in steps of d; u is -1 where
        the line runs along the plane.
    """
    ex, ey, ez = b[0] - a[0], b[1] - a[1], b[2] - a[2]
    fx, fy, fz = c[0] - a[0], c[1] - a[1], c[2] - a[2]
    hx, hy, hz = d[1] * fz - d[2] * fy, d[2] * fx - d[0] * fz, d[0] * fy - d[1] * fx
    det = ex * hx + ey * hy + ez * hz
    u, v, t = -1.0, 0.0, 0.0
    if det != 0.0:
        sx, sy, sz = o[0] - a[0], o[1] - a[1], o[2] - a[2]
        qx, qy, qz = sy * ez - sz * ey, sz * ex - sx * ez, sx * ey - sy * ex
        u = (sx * hx + sy * hy + sz * hz) / det
        v = (d[0] * qx + d[1] * qy + d[2] * qz) / det
        t = (fx * qx + fy * qy + fz * qz) / det
    return u, v, t


@nb.njit(cache=True)
def squared(p: Array, a: int, b: int) -> float:
    """Square of the distance of two rows of p."""
    x, y, z = p[a, 0] - p[b, 0], p[a, 1] - p[b, 1], p[a, 2] - p[b, 2]
    return x * x + y * y + z * z


@nb.njit(cache=True)
def squared_height(p: Array, a: int, b: int, c: int) -> float:
    """Square of the least height of a triangle: of twice its area over its longest side."""
    x, y, z = cross_at(p, a, b, c)
    longest = max(squared(p, a, b), squared(p, b, c), squared(p, c, a))
    return (x * x + y * y + z * z) / longest if longest > 0.0 else 0.0


@nb.njit(cache=True, parallel=True)
def least_heights(p: Array, faces: Array) -> Array:
    """Least height of each face, shape (m,): twice its area over its longest side."""
    out = np.empty(len(faces))
    for f in nb.prange(len(faces)):
        out[f] = np.sqrt(squared_height(p, faces[f, 0], faces[f, 1], faces[f, 2]))
    return out


@nb.njit(cache=True)
def shell_sums(p: Array, faces: Array, shell: Array, count: int) -> tuple[Array, Array, Array]:
    """Signed volume and area of each shell, the volume measured from the shell's own middle.

    Of a shell with a rim the volume depends on that middle; see `caulkcore.diagnose.lids`.

    Parameters
    ----------
    p : ndarray, shape (n, 3)
    faces : ndarray, shape (m, 3)
    shell : ndarray, shape (m,)
    count : int

    Returns
    -------
    volume, area : ndarray, shape (count,)
    middle : ndarray, shape (count, 3)
    """
    middle = np.zeros((count, 3))
    size = np.zeros(count)
    for f in range(len(faces)):
        s = shell[f]
        size[s] += 3.0
        for k in range(3):
            for j in range(3):
                middle[s, j] += p[faces[f, k], j]
    for s in range(count):
        for j in range(3):
            middle[s, j] /= max(size[s], 1.0)
    volume, area = np.zeros(count), np.zeros(count)
    for f in range(len(faces)):
        s, a = shell[f], faces[f, 0]
        x, y, z = cross_at(p, a, faces[f, 1], faces[f, 2])
        volume[s] += (
            (p[a, 0] - middle[s, 0]) * x
            + (p[a, 1] - middle[s, 1]) * y
            + (p[a, 2] - middle[s, 2]) * z
        )
        area[s] += np.sqrt(x * x + y * y + z * z)
    return volume / 6.0, area / 2.0, middle


@nb.njit(cache=True)
def total_sums(p: Array, faces: Array, origin: Array) -> tuple[float, float]:
    """Signed volume from `origin`, and area, of all faces; summed in parts to keep precision."""
    volume = area = 0.0
    for start in range(0, len(faces), 4096):
        v = s = 0.0
        for f in range(start, min(start + 4096, len(faces))):
            a = faces[f, 0]
            x, y, z = cross_at(p, a, faces[f, 1], faces[f, 2])
            v += (p[a, 0] - origin[0]) * x + (p[a, 1] - origin[1]) * y + (p[a, 2] - origin[2]) * z
            s += np.sqrt(x * x + y * y + z * z)
        volume += v
        area += s
    return volume / 6.0, area / 2.0


@nb.njit(cache=True)
def shell_boxes(p: Array, faces: Array, shell: Array, count: int) -> tuple[Array, Array]:
    """Low and high corner of each shell's bounding box, shape (count, 3) each.

    Parameters
    ----------
    p : ndarray, shape (n, 3)
    faces : ndarray, shape (m, 3)
    shell : ndarray, shape (m,)
    count : int
    """
    low, high = np.full((count, 3), np.inf), np.full((count, 3), -np.inf)
    for f in range(len(faces)):
        s = shell[f]
        for c in range(3):
            v = faces[f, c]
            for k in range(3):
                low[s, k] = min(low[s, k], p[v, k])
                high[s, k] = max(high[s, k], p[v, k])
    return low, high
