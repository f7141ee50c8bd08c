"""A solid a little larger all round, for the seat that another part takes it up in."""

import numpy as np

from ..mesh.arrays import Array
from ..mesh.float32 import as_float32
from ..mesh.triangle_mesh import Mesh, face_crosses

_FLAT = 1e-2
"""Directions in which the faces round a vertex differ by less, as a share of the squares of their
normals: it is not moved that way. Faces bent by less than 11 degrees are one."""
_MOST = 4.0
"""Farthest that a vertex is moved, in times of the distance: where faces meet in a sharp point."""


def offset_solid(mesh: Mesh, distance: float) -> Mesh:
    """Move every face out by a distance, the vertices to where the moved faces meet.

    The triangles stay as they are joined. Where more than three planes meet in a vertex they need
    not have a point in common; the one that fits best is taken, so that the distance has to be
    measured afterwards. What is narrower than twice the distance crosses itself.

    Parameters
    ----------
    mesh : Mesh
        Closed, its faces outward.
    distance : float
        mm; inward if it is negative.

    Returns
    -------
    Mesh
        Its vertices are on float32.

    References
    ----------
    Garland and Heckbert 1997, *Surface simplification using quadric error metrics*, for the planes
    that meet in a vertex.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> offset_solid(cuboid(), 0.5).size.tolist()
    [11.0, 11.0, 11.0]
    """
    crosses = face_crosses(mesh.vertices, mesh.faces)
    length = np.linalg.norm(crosses, axis=1)
    real = length > 0
    normals = crosses[real] / length[real, None]
    faces = mesh.faces[real]
    weight = _angles(mesh.vertices[faces])
    n = len(mesh.vertices)
    planes = np.zeros((n, 3, 3))
    sums = np.zeros((n, 3))
    for k in range(3):
        w = weight[:, k, None]
        np.add.at(planes, faces[:, k], w[..., None] * normals[:, :, None] * normals[:, None])
        np.add.at(sums, faces[:, k], w * normals)
    values, ways = np.linalg.eigh(planes)
    counts = values > _FLAT * values[:, -1:].clip(1e-300)
    inverse = np.where(counts, 1.0 / np.where(counts, values, 1.0), 0.0)
    along = np.einsum("nki,nk->ni", ways, sums) * inverse
    way = np.einsum("nki,ni->nk", ways, along)
    far = np.linalg.norm(way, axis=1)
    way *= np.minimum(1.0, _MOST / far.clip(1e-300))[:, None]
    return Mesh(as_float32(mesh.vertices + distance * way), mesh.faces)


def _angles(corners: Array) -> Array:
    """The angle at each corner of some triangles, shape (m, 3), radians."""
    to = np.roll(corners, -1, axis=1) - corners
    back = np.roll(corners, 1, axis=1) - corners
    cross = np.linalg.norm(np.cross(to, back), axis=2)
    angles: Array = np.arctan2(cross, (to * back).sum(axis=2))
    return angles
