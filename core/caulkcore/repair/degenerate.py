"""Removing faces that carry no surface: duplicates, and faces without area."""

from itertools import product

import numpy as np

from ..arrangement.slivers import WITHOUT_AREA, sliver_height, take_out_slivers
from ..diagnose.diagnosis import Diagnosis
from ..diagnose.intersections import intersecting_faces
from ..mesh._face_kernels import least_heights
from ..mesh.arrays import Array
from ..mesh.coordinate_keys import among, point_keys
from ..mesh.float32 import as_float32
from ..mesh.triangle_mesh import Mesh, face_crosses
from ..outcome import Outcome
from ..spatial.face_region import faces_reaching_boxes

_MOST_MOVED = 32
"""Corners are moved only of so few faces: where there are more, something else is wrong."""
_WAYS = np.array([way for way in product((-1.0, 0.0, 1.0), repeat=3) if any(way)])
"""Directions in which a corner is moved for a trial."""
_FAR = (1.0, 0.3, 0.1)
"""And how far, as shares of `sliver_height`; less would be lost when vertices are rounded."""


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
    nothing opens. Where both would cross something, or join what is not joined, a corner is
    moved by less than `sliver_height`, where that crosses nothing.

    Parameters
    ----------
    diagnosis : Diagnosis
    faces : ndarray, shape (k,), optional
        Numbers of faces without area; all `Diagnosis.degenerate_faces` by default.

    Returns
    -------
    Outcome
        Numbers: ``faces`` left out, ``edges_collapsed``, ``edges_flipped``, ``corners_moved``,
        ``slivers_left``: those that stay as they are.

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
    numbers = {"faces": int(drop.sum()), "corners_moved": 0, **outcome.numbers}
    if not 0 < outcome.numbers["slivers_left"] <= _MOST_MOVED:
        return Outcome(outcome.mesh, numbers)
    result, moved, left = _corners_moved(outcome.mesh, mesh.vertices[mesh.faces[chosen]])
    numbers |= {"corners_moved": moved, "slivers_left": left}
    return Outcome(result, numbers)


def _corners_moved(mesh: Mesh, points: Array) -> tuple[Mesh, int, int]:
    """Faces without area, all of whose corners are among some points, given some by moving a
    corner: how many were, and how many were not."""
    least = WITHOUT_AREA * mesh.diagonal
    meant = among(point_keys(mesh.vertices), point_keys(points.reshape(-1, 3)))
    flat = meant[mesh.faces].all(axis=1) & (least_heights(mesh.vertices, mesh.faces) <= least)
    flat_faces = mesh.faces[flat]
    height = sliver_height(mesh.diagonal)
    # what no corner comes near is not looked at
    stars = [
        mesh.vertices[mesh.faces[(mesh.faces == corner).any(axis=1)]].reshape(-1, 3)
        for corner in np.unique(flat_faces)
    ]
    boxes = np.array([[star.min(axis=0) - height, star.max(axis=0) + height] for star in stars])
    near = mesh.faces[faces_reaching_boxes(mesh, boxes)]
    vertices = mesh.vertices
    moved = left = 0
    for face in flat_faces:
        if least_heights(vertices, face[None])[0] > least:
            continue  # given some together with another
        for corner in face:
            fresh = _moved_corner(vertices, near, corner, height, least)
            if fresh is not None:
                vertices = fresh
                moved += 1
                break
        else:
            left += 1
    return Mesh(vertices, mesh.faces) if moved else mesh, moved, left


def _moved_corner(
    vertices: Array, faces: Array, corner: int, height: float, least: float
) -> Array | None:
    """All vertices, one of them moved by a height at most so that each face round it is higher
    than the least, turns by less than a right angle if it was so before, and crosses nothing;
    None if no trial is so."""
    round_it = (faces == corner).any(axis=1)
    own = faces[round_it]
    normals = face_crosses(vertices, own)
    high = least_heights(vertices, own) > least
    trial = vertices.copy()
    for share, way in product(_FAR, _WAYS):
        trial[corner] = as_float32(vertices[corner] + share * height * way / np.linalg.norm(way))
        if (least_heights(trial, own) <= least).any():
            continue
        turned = (normals * face_crosses(trial, own)).sum(axis=1) <= 0.0
        if not (turned & high).any() and not len(intersecting_faces(trial, faces, round_it)):
            return trial
    return None
