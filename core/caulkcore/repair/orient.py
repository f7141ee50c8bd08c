"""Reversing faces so that all agree and face outward."""

import numpy as np

from ..diagnose.diagnosis import Diagnosis
from ..mesh.arrays import Array
from ..mesh.triangle_mesh import Mesh
from ..outcome import Outcome, Skipped


def orient_patches(diagnosis: Diagnosis, faces: Array | None = None) -> Outcome:
    """Reverse faces that run against the majority of their neighbours.

    Parameters
    ----------
    diagnosis : Diagnosis
    faces : ndarray, shape (k,), optional
        Numbers of faces to reverse, as far as they are among `Diagnosis.flipped_faces`; all of
        those by default.

    Returns
    -------
    Outcome
        Numbers: ``faces``. Skipped: ``one-sided`` with ``faces``, where no order agrees.

    Examples
    --------
    >>> tetrahedron = Mesh([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1]],
    ...                    [[0, 1, 2], [0, 1, 3], [0, 3, 2], [1, 2, 3]])
    >>> orient_patches(Diagnosis(tetrahedron)).numbers
    {'faces': 1}
    """
    flipped = diagnosis.flipped_faces
    reverse = flipped if faces is None else np.intersect1d(faces, flipped)
    skipped: tuple[Skipped, ...] = ()
    if len(diagnosis.nonorientable_faces):
        skipped = (Skipped("one-sided", {"faces": len(diagnosis.nonorientable_faces)}),)
    if not len(reverse):
        return Outcome(diagnosis.mesh, skipped=skipped)
    return Outcome(_reversed(diagnosis.mesh, reverse), {"faces": len(reverse)}, skipped)


def orient_outward(diagnosis: Diagnosis, shells: Array | None = None) -> Outcome:
    """Reverse shells of negative volume, together with all that lies inside them.

    Parameters
    ----------
    diagnosis : Diagnosis
    shells : ndarray, shape (k,), optional
        Numbers of the shells; all `Diagnosis.inverted_shells` by default.

    Returns
    -------
    Outcome
        Numbers: ``shells``, ``contents`` (shells inside that went with them), ``faces``.
    """
    wanted = diagnosis.inverted_shells if shells is None else shells
    if not len(wanted):
        return Outcome(diagnosis.mesh)
    shell, count = diagnosis.shells
    _, parent = diagnosis.nesting
    chosen = np.zeros(count, dtype=bool)
    chosen[wanted] = True
    outermost = np.arange(count)
    while (parent[outermost] >= 0).any():
        outermost = np.where(parent[outermost] >= 0, parent[outermost], outermost)
    reverse = diagnosis.kept[chosen[outermost[shell]]]
    n = int(chosen.sum())
    numbers = {"shells": n, "contents": int(chosen[outermost].sum()) - n, "faces": len(reverse)}
    return Outcome(_reversed(diagnosis.mesh, reverse), numbers)


def facing_outward(mesh: Mesh) -> Mesh:
    """A mesh with its patches turned to agree with each other, and its shells outward.

    Parameters
    ----------
    mesh : Mesh

    Returns
    -------
    Mesh

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> cube = cuboid()
    >>> facing_outward(Mesh(cube.vertices, cube.faces[:, ::-1])).volume
    1000.0
    """
    return orient_outward(Diagnosis(orient_patches(Diagnosis(mesh)).mesh)).mesh


def _reversed(mesh: Mesh, which: Array) -> Mesh:
    faces = mesh.faces.copy()
    faces[which] = faces[which][:, ::-1]
    return Mesh(mesh.vertices, faces)
