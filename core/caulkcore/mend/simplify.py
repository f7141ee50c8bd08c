"""Fewer triangles for the same shape, within a deviation."""

import manifold3d
import numpy as np

from ..mesh import Mesh
from .crossing import crossing_faces


def simplified(mesh: Mesh, deviation: float) -> Mesh | None:
    """A sound mesh with edges drawn together where that moves the surface little enough.

    Parameters
    ----------
    mesh : Mesh
        Closed and manifold by its indices, its vertices on float32.
    deviation : float
        Greatest distance that the surface moves, mm.

    Returns
    -------
    Mesh or None
        Without crossings; None if that did not come out, or if `mesh` is not manifold.
    """
    solid = manifold3d.Manifold(
        manifold3d.Mesh(mesh.vertices.astype(np.float32), mesh.faces.astype(np.uint32))
    )
    if solid.status() != manifold3d.Error.NoError:
        return None
    raw = solid.simplify(deviation).to_mesh()
    vertices = np.asarray(raw.vert_properties)[:, :3].astype(np.float64)
    faces = np.asarray(raw.tri_verts).astype(np.int32)
    if not len(faces):
        return None
    return None if len(crossing_faces(vertices, faces)) else Mesh(vertices, faces)
