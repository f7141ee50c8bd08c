"""Removing faces that carry no surface: duplicates, and faces without area."""

import numpy as np

from ..diagnose.diagnosis import FLAT, Diagnosis
from ..mesh._face_kernels import least_heights
from ..mesh.arrays import Array, frozen
from ..mesh.topology import Topology
from ..mesh.triangle_mesh import Mesh
from ..outcome import Outcome

_ROUNDS = 50
"""Rounds of edge flips: each lets a chain of flat faces shrink by one; longer chains are
dropped."""


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

    A face with two equal corners is simply left out. One whose three corners lie on a line has
    its longest edge flipped: that edge's other face is cut at the corner in the middle, so that
    nothing opens.

    Parameters
    ----------
    diagnosis : Diagnosis
    faces : ndarray, shape (k,), optional
        Numbers of faces without area; all `Diagnosis.degenerate_faces` by default.

    Returns
    -------
    Outcome
        Numbers: ``faces`` taken out, ``edges_flipped``.

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
    changed = mesh.faces.copy()
    flat = np.zeros(len(changed), dtype=bool)
    flat[chosen] = True
    drop = np.zeros(len(changed), dtype=bool)
    a, b, c = changed.T
    drop |= flat & ((a == b) | (b == c) | (c == a))
    flipped = 0
    for _ in range(_ROUNDS):
        left = np.flatnonzero(flat & ~drop)
        if not len(left):
            break
        done, gone = _flip_edges(mesh, changed, flat, drop, left)
        flipped += done
        if not done and not gone:
            drop[left] = True
    result = Mesh(mesh.vertices, changed[~drop]).compact()
    return Outcome(result, {"faces": len(chosen), "edges_flipped": flipped})


def _flip_edges(mesh: Mesh, faces: Array, flat: Array, drop: Array, left: Array) -> tuple[int, int]:
    """One round: flip the longest edges of faces that do not disturb each other, in place."""
    kept = np.flatnonzero(~drop)
    topology = Topology(mesh, faces[kept])
    position = np.full(len(faces), -1)
    position[kept] = np.arange(len(kept))
    edges = {tuple(e) for e in np.sort(topology.edges_where(topology.face_count > 0)).tolist()}
    v = mesh.vertices
    busy: set[int] = set()
    flipped = gone = 0
    for f in left.tolist():
        ring = faces[f]
        sides = [float(np.linalg.norm(v[ring[k]] - v[ring[(k + 1) % 3]])) for k in range(3)]
        k = int(np.argmax(sides))
        half = int(topology.twin[3 * position[f] + k])
        if half < 0:
            drop[f] = True
            gone += 1
            continue
        g = int(kept[half // 3])
        if g in busy or f in busy:
            continue
        start, end, middle = (int(ring[(k + j) % 3]) for j in range(3))
        far = int(faces[g][(half % 3 + 2) % 3])
        new = (min(middle, far), max(middle, far))
        if int(faces[g][half % 3]) != end or far == middle or new in edges:
            continue
        faces[f] = (start, far, middle)
        faces[g] = (far, end, middle)
        edges.add(new)
        busy |= {f, g}
        flipped += 1
        height = least_heights(v, frozen(faces[[f, g]], np.int32))
        limit = FLAT * mesh.diagonal
        flat[f], flat[g] = height[0] <= limit, height[1] <= limit
    return flipped, gone
