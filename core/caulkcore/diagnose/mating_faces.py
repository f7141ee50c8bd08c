"""Flat faces of two parts that were cut from one another, and are to fit again."""

import numpy as np

from ..mesh.arrays import Array
from ..mesh.flat_patches import FlatPatches
from ..mesh.groups import Groups
from ..mesh.triangle_mesh import face_areas
from .diagnosis import Diagnosis

_LEAST = 2e-3
"""Share of the largest flat face that one has at least to be a cut: of smaller ones there are
thousands on a bent surface."""
_MOST = 1000
"""Flat faces that are looked at, the largest first."""
_PARALLEL = 1e-5
"""How far the normals of two that mate may differ."""
_SAME = 1e-4
"""Grid on which corners are the same, mm: far below what any machine makes, far above rounding."""
_SHARE = 0.5
"""Share of the corners of one that the other has, too."""
_FEWEST = 3
"""Corners that two have in common at least."""


def mating_vertices(diagnosis: Diagnosis) -> Array:
    """Vertices of flat faces that stand across from their like on another piece.

    Two faces mate if they look at each other squarely and have most of their corners in common,
    seen along their normal: a plane cut leaves such faces, however far it sets the parts off.

    Parameters
    ----------
    diagnosis : Diagnosis

    Returns
    -------
    ndarray, shape (n,), bool

    Examples
    --------
    >>> from caulkcore.mesh.concatenate import concatenate
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> two = concatenate([cuboid(), cuboid((10.0, 10.0, 5.0), at=(0.0, 0.0, 11.0))])
    >>> int(mating_vertices(Diagnosis(two)).sum())
    8
    """
    mesh = diagnosis.mesh
    found = np.zeros(len(mesh.vertices), dtype=bool)
    if diagnosis.shells[1] < 2:
        return found
    topology = diagnosis.topology
    patches = FlatPatches.of(topology)
    area = np.bincount(patches.label, face_areas(mesh.vertices, topology.faces))
    large = np.argsort(-area, kind="stable")[:_MOST]
    large = large[area[large] >= _LEAST * area[large[0]]]
    groups = Groups.by_label(patches.label)
    rows = [groups[i] for i in np.searchsorted(np.unique(patches.label), large)]
    corners = [np.unique(topology.faces[faces]) for faces in rows]
    normals = np.stack([patches.normals[faces[0]] for faces in rows])
    shells = np.array([diagnosis.shells[0][faces[0]] for faces in rows])
    facing = normals @ normals.T < _PARALLEL**2 / 2 - 1
    facing &= shells[:, None] != shells[None]
    for a, b in np.argwhere(np.triu(facing, 1)).tolist():
        n = normals[a]
        # the second lies where the first one looks
        gap = float((mesh.vertices[corners[b][0]] - mesh.vertices[corners[a][0]]) @ n)
        if gap < -_SAME:
            continue
        keys = [_along(mesh.vertices[corners[i]], n) for i in (a, b)]
        common = len(keys[0] & keys[1])
        if common >= max(_FEWEST, _SHARE * min(len(keys[0]), len(keys[1]))):
            found[corners[a]] = found[corners[b]] = True
    return found


def _along(points: Array, normal: Array) -> set[tuple[float, ...]]:
    """Where points stand, seen along a direction, on a grid."""
    flat = points - np.outer(points @ normal, normal)
    return set(map(tuple, np.round(flat / _SAME).tolist()))
