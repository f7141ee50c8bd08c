"""Several meshes as one."""

from collections.abc import Sequence

import numpy as np

from .triangle_mesh import Mesh


def concatenate(meshes: Sequence[Mesh]) -> Mesh:
    """The faces of several meshes in one; vertices are not joined.

    Parameters
    ----------
    meshes : sequence of Mesh
        Those without faces are left out; at least one must have some.

    Returns
    -------
    Mesh

    Examples
    --------
    >>> triangle = Mesh([[0, 0, 0], [1, 0, 0], [0, 1, 0]], [[0, 1, 2]])
    >>> concatenate([triangle, triangle]).faces.tolist()
    [[0, 1, 2], [3, 4, 5]]
    """
    meshes = [mesh for mesh in meshes if len(mesh.faces)]
    starts = np.cumsum([0, *(len(mesh.vertices) for mesh in meshes[:-1])])
    return Mesh(
        np.concatenate([mesh.vertices for mesh in meshes]),
        np.concatenate([mesh.faces + s for mesh, s in zip(meshes, starts, strict=True)]),
    )
