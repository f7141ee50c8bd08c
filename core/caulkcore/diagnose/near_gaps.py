"""Where two separate solids come near each other without touching."""

from dataclasses import dataclass

import numpy as np

from ..mesh._edge_kernels import components
from ..mesh.arrays import Array
from ..spatial.box_tree import Tree
from ..spatial.triangle_distance import nearest_faces_of_others
from .diagnosis import Diagnosis


@dataclass(frozen=True, eq=False)
class NearGaps:
    """Pairs of faces of two solids that almost touch.

    Attributes
    ----------
    faces : ndarray, shape (k, 2)
        Positions in `Diagnosis.kept`.
    shells : ndarray, shape (k, 2), int64
        Their shells, the lower first.
    spans : ndarray, shape (k, 2, 3)
        Nearest points.
    width : ndarray, shape (k,)
        Distance, mm.
    """

    faces: Array
    shells: Array
    spans: Array
    width: Array


def near_gaps(diagnosis: Diagnosis, solids: Array, most: float) -> NearGaps:
    """Where two of some solids come nearer than a limit without touching anywhere.

    Solids that overlap, one with the next, hang together: between them no gap is looked for.

    Parameters
    ----------
    diagnosis : Diagnosis
    solids : ndarray, shape (s,)
        Numbers of the shells to look at.
    most : float
        Widest gap to be found, mm.

    Returns
    -------
    NearGaps

    Examples
    --------
    >>> from caulkcore.mesh.concatenate import concatenate
    >>> from caulkcore.mesh.triangle_mesh import Mesh
    >>> points = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1.0]])
    >>> sides = np.array([[0, 2, 1], [0, 1, 3], [0, 3, 2], [1, 2, 3]])
    >>> two = concatenate([Mesh(points, sides), Mesh(points - [0, 0, 1.01], sides)])
    >>> round(float(near_gaps(Diagnosis(two), np.array([0, 1]), 0.05).width.min()), 6)
    0.01
    """
    shell, count = diagnosis.shells
    separate = np.zeros(count, dtype=bool)
    separate[solids] = True
    chosen = np.flatnonzero(separate[shell]) if separate.sum() > 1 else np.zeros(0, dtype=np.int64)
    if not len(chosen):
        none = np.zeros((0, 2), dtype=np.int64)
        return NearGaps(none, none, np.zeros((0, 2, 3)), np.zeros(0))
    faces = diagnosis.topology.faces[chosen]
    tree = Tree.of(diagnosis.mesh.vertices, faces)
    met = np.unique(np.sort(shell[diagnosis.intersecting_pairs], axis=1), axis=0)
    cluster = components(met.astype(np.int32), count)
    other, spans = nearest_faces_of_others(tree, cluster[shell[chosen]], most)
    near = np.flatnonzero(other >= 0)
    spans = spans[near]
    pairs = np.stack([chosen[near], chosen[other[near]]], axis=1)
    shells = np.sort(shell[pairs], axis=1).astype(np.int64)
    width = np.linalg.norm(spans[:, 0] - spans[:, 1], axis=1)
    key = shells[:, 0] * count + shells[:, 1]
    apart = ~np.isin(key, key[width == 0])
    return NearGaps(pairs[apart], shells[apart], spans[apart], width[apart])
