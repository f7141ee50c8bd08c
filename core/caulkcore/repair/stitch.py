"""Joining boundary edges that lie beside one another."""

import numpy as np

from ..diagnose.diagnosis import Diagnosis
from ..mesh.arrays import Array
from ..mesh.triangle_mesh import Mesh
from ..outcome import Outcome


def stitch_cracks(diagnosis: Diagnosis, vertices: Array | None = None) -> Outcome:
    """Join the two sides of cracks, vertex to vertex.

    The vertex with the lower number stays where it is and the other moves to it, so no
    coordinate is invented. Only vertices on cracks move. Where one side has more vertices than
    the other, the faces of the other are divided at them.

    Parameters
    ----------
    diagnosis : Diagnosis
    vertices : ndarray, shape (k,), optional
        Numbers of the vertices that may move; all those on cracks by default.

    Returns
    -------
    Outcome
        Numbers: ``vertices_moved``, ``farthest_mm`` by which one moved, ``faces_divided``.

    Examples
    --------
    >>> torn = Mesh([[0, 0, 0], [1, 0, 0], [0, 1, 0], [1, 1e-4, 0], [0, 1.0001, 0], [1, 1, 0]],
    ...             [[0, 1, 2], [3, 5, 4]])
    >>> stitch_cracks(Diagnosis(torn)).numbers["vertices_moved"]
    2
    """
    mesh, cracks = diagnosis.mesh, diagnosis.cracks
    if vertices is None:
        vertices = diagnosis.topology.ends(cracks.half_edges).ravel()
    if not len(vertices):
        return Outcome(mesh)
    chosen = np.zeros(len(mesh.vertices), dtype=bool)
    chosen[vertices] = True
    moved = np.flatnonzero(chosen & (cracks.target != np.arange(len(cracks.target))))
    distance = np.linalg.norm(mesh.vertices[moved] - mesh.vertices[cracks.target[moved]], axis=1)
    faces, source = cracks.stitched(diagnosis.topology.faces, chosen)
    against = np.isin(diagnosis.kept, diagnosis.flipped_faces)[source]
    faces[against] = faces[against][:, ::-1]
    aside = np.delete(mesh.faces, diagnosis.kept, axis=0)
    result = Mesh(mesh.vertices, np.concatenate([faces, aside])).compact()
    numbers = {
        "vertices_moved": len(moved),
        "farthest_mm": float(distance.max(initial=0.0)),
        "faces_divided": int((np.bincount(source) > 1).sum()),
    }
    return Outcome(result, numbers)
