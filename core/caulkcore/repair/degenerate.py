"""Removing faces that carry no surface: duplicates, and faces without area."""

import numpy as np

from ..arrangement.slivers import take_out_slivers
from ..diagnose.diagnosis import Diagnosis
from ..mesh.arrays import Array
from ..mesh.triangle_mesh import Mesh
from ..outcome import Outcome


def remove_duplicate_faces(diagnosis: Diagnosis, faces: Array | None = None) -> Outcome:
    """Leave one face of each group that stands on the same three vertices.

    Of copies that run both ways the majority's way is kept; an equal number cancels out when the
    surface is closed without them, as an inner wall between two joined solids is.

    Parameters
    ----------
    diagnosis : Diagnosis
    faces : ndarray, shape (k,), optional
        Numbers of duplicates to remove, out of `Diagnosis.duplicate_faces`; all by default.

    Returns
    -------
    Outcome
        Numbers: ``duplicates`` and ``cancelled``, the faces that are gone of either kind.
    """
    mesh = diagnosis.mesh
    extra = diagnosis.duplicate_faces if faces is None else faces
    if not len(extra):
        return Outcome(mesh)
    drop = np.zeros(len(mesh.faces), dtype=bool)
    drop[extra] = True
    key = np.sort(mesh.faces, axis=1)
    copied = {tuple(row) for row in key[extra].tolist()}
    cancelled = [f for f in diagnosis.cancelled_faces if tuple(key[f].tolist()) in copied]
    drop[cancelled] = True
    result = Mesh(mesh.vertices, mesh.faces[~drop]).compact()
    return Outcome(result, {"duplicates": len(extra), "cancelled": len(cancelled)})


def remove_degenerate_faces(diagnosis: Diagnosis, faces: Array | None = None) -> Outcome:
    """Take out faces without area and leave the surface closed round them.

    What hangs on without serving is left out. Of the others a short edge is collapsed, or the
    longest edge flipped: that edge's other face is cut at the corner in the middle, so that
    nothing opens.

    Parameters
    ----------
    diagnosis : Diagnosis
    faces : ndarray, shape (k,), optional
        Numbers of faces without area; all `Diagnosis.degenerate_faces` by default.

    Returns
    -------
    Outcome
        Numbers: ``faces`` left out, ``edges_collapsed``, ``edges_flipped``, ``slivers_left``.

    Examples
    --------
    >>> square = Mesh([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]],
    ...               [[0, 1, 2], [0, 2, 3], [0, 0, 1]])
    >>> len(remove_degenerate_faces(Diagnosis(square)).mesh.faces)
    2
    """
    mesh = diagnosis.mesh
    chosen = diagnosis.degenerate_faces if faces is None else faces
    if not len(chosen):
        return Outcome(mesh)
    drop = np.zeros(len(mesh.faces), dtype=bool)
    drop[np.intersect1d(chosen, diagnosis.unneeded_degenerate_faces)] = True
    flat = np.zeros(len(mesh.faces), dtype=bool)
    flat[chosen] = True
    rest = Mesh(mesh.vertices, mesh.faces[~drop]).compact() if drop.any() else mesh
    outcome = take_out_slivers(rest, flat[~drop])
    return Outcome(outcome.mesh, {"faces": int(drop.sum()), **outcome.numbers})
