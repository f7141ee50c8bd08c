"""Where a change moved the skin, and by how much: what the map of changes is drawn from."""

from dataclasses import dataclass

import numpy as np
from caulkcore.mesh.arrays import Array
from caulkcore.mesh.changed_faces import changed_faces
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.spatial.box_tree import Tree
from caulkcore.thickness.sampling import Samples

_ACROSS = 250.0
"""New faces are divided into parts of so small a share of the diagonal: some pixels on a screen."""


@dataclass(frozen=True, eq=False)
class ChangeMap:
    """What became of each face of a mesh.

    Attributes
    ----------
    division : ndarray, shape (m, 3), int64
        Begins with 0 where a face is as it was; else the face is new, and divided into parts as
        `caulkcore.thickness.sampling.Samples` divides it.
    distance : ndarray, shape (s,)
        How far the middle of each part lies from the surface before, mm; face by face.
    """

    division: Array
    distance: Array


def change_map(before: Mesh, after: Mesh) -> ChangeMap:
    """Measure where one mesh differs from the one before.

    The same faces are new as in the account, and no part is farther off than its bound says.

    Parameters
    ----------
    before, after : Mesh

    Returns
    -------
    ChangeMap

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> found = change_map(cuboid(), cuboid((10.0, 10.0, 12.0)))
    >>> int((found.division[:, 0] > 0).sum()), round(found.distance.max().item(), 6)
    (10, 2.0)
    """
    new = changed_faces(before, after)[1]
    division = np.zeros((len(after.faces), 3), dtype=np.int64)
    if not new.any() or not len(before.faces):
        return ChangeMap(division, np.zeros(0))
    samples = Samples.of(Mesh(after.vertices, after.faces[new]), after.diagonal / _ACROSS)
    distance, _ = Tree.of(before.vertices, before.faces).nearest(samples.points)
    division[new] = samples.division
    return ChangeMap(division, distance)
