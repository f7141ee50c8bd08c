"""Removing whole shells: voids, buried solids, debris, scraps of surface."""

import numpy as np

from ..diagnose.diagnosis import Diagnosis
from ..mesh.arrays import Array
from ..mesh.triangle_mesh import Mesh
from ..outcome import Outcome


def with_nested_shells(diagnosis: Diagnosis, shells: Array) -> Array:
    """Some shells, and all that lie inside them.

    Parameters
    ----------
    diagnosis : Diagnosis
    shells : ndarray, shape (k,)
        Numbers of the shells.

    Returns
    -------
    ndarray, shape (shells,), bool
    """
    inside = np.zeros(diagnosis.shells[1], dtype=bool)
    inside[shells] = True
    depth, parent = diagnosis.nesting
    for s in np.argsort(depth, kind="stable").tolist():
        inside[s] |= parent[s] >= 0 and inside[parent[s]]
    return inside


def remove_shells(diagnosis: Diagnosis, shells: Array, *, with_contents: bool = True) -> Outcome:
    """Leave out some shells, by default with all that lies inside them.

    Removing the shell of a void fills it.

    Parameters
    ----------
    diagnosis : Diagnosis
    shells : ndarray, shape (k,)
        Numbers of the shells.
    with_contents : bool
        Whether shells nested in them go as well: what floats in a void is no use without it.

    Returns
    -------
    Outcome
        Numbers: ``shells`` chosen, ``contents`` gone with them, ``faces``, and ``volume_mm3``, the
        sum of what all of them enclosed.

    Examples
    --------
    >>> tetrahedron = Mesh([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1]],
    ...                    [[0, 2, 1], [0, 1, 3], [0, 3, 2], [1, 2, 3]])
    >>> len(remove_shells(Diagnosis(tetrahedron), np.array([0])).mesh.faces)
    0
    """
    mesh = diagnosis.mesh
    if not len(shells):
        return Outcome(mesh)
    shell, count = diagnosis.shells
    volume, _ = diagnosis.shell_measures
    gone = np.zeros(count, dtype=bool)
    gone[shells] = True
    chosen = int(gone.sum())
    if with_contents:
        gone = with_nested_shells(diagnosis, shells)
    removed = diagnosis.kept[gone[shell]]
    faces = np.delete(mesh.faces, removed, axis=0)
    numbers = {
        "shells": chosen,
        "contents": int(gone.sum()) - chosen,
        "faces": len(removed),
        "volume_mm3": float(np.abs(volume[gone]).sum()),
    }
    return Outcome(Mesh(mesh.vertices, faces).compact(), numbers)
