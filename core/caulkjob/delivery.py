"""The solids of a model as a file names them: each with the hollows in it."""

import numpy as np
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.io.labels import Labels, NamedFaces
from caulkcore.mesh.groups import Groups
from caulkcore.mesh.triangle_mesh import Mesh

MOST = 500
"""Solids that are told apart in a file; of more, none is."""


def named_solids(mesh: Mesh, name: str, labels: Labels | None = None) -> list[NamedFaces]:
    """The separate solids of a mesh; all its faces are in one of them.

    Parameters
    ----------
    mesh : Mesh
    name : str
        What the whole is called; solids without a name of their own are numbered after it.
    labels : Labels, optional
        What the file that came in calls its parts.

    Returns
    -------
    list of Part
        In the order of their shells; a single one if there is one solid, or more than `MOST`.
    """
    diagnosis = Diagnosis(mesh)
    shell, count = diagnosis.shells
    whole = [NamedFaces(name, np.arange(len(mesh.faces)))]
    if count < 2:
        return whole
    depth, parent = diagnosis.nesting
    solid = np.where((depth % 2 == 1) & (parent >= 0), parent, np.arange(count))
    kept = np.unique(solid)
    if not 1 < len(kept) <= MOST:
        return whole
    # copies and faces without area go with the first
    of_face = np.full(len(mesh.faces), kept[0])
    of_face[diagnosis.kept] = solid[shell]
    all_shells = np.full(len(mesh.faces), -1)
    all_shells[diagnosis.kept] = shell
    told = labels.of_shells(all_shells, count) if labels else [""] * count
    groups = Groups.by_label(np.searchsorted(kept, of_face))
    return [
        NamedFaces(told[s] or f"{name} {i + 1}", groups[i]) for i, s in enumerate(kept.tolist())
    ]
