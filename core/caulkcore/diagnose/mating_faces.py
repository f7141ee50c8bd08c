"""Flat faces of two parts that were cut from one another, and are to fit again."""

from functools import cache

import numpy as np

from ..mesh.arrays import Array
from ..mesh.flat_patches import FlatPatches
from ..mesh.groups import Groups
from ..mesh.triangle_mesh import Mesh, face_areas
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
_IN_PLANE = 1e-6
"""Share of the model's size, or of its largest coordinate, within which a corner is in a plane."""
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
    rows = np.searchsorted(np.unique(patches.label), large).tolist()
    first = [groups[i][0] for i in rows]
    normals, shells = patches.normals[first], diagnosis.shells[0][first]
    at = mesh.vertices[topology.faces[first, 0]]
    facing = normals @ normals.T < _PARALLEL**2 / 2 - 1
    facing &= shells[:, None] != shells[None]
    # the second lies where the first one looks
    facing &= np.einsum("abk,ak->ab", at[None] - at[:, None], normals) >= -_SAME
    facing &= _beside(mesh, [topology.faces[groups[i]] for i in rows], normals)
    of_shell = Groups.by_label(diagnosis.shells[0])
    near = _IN_PLANE * max(mesh.diagonal, float(np.abs(mesh.vertices).max()))

    @cache
    def corners(i: int) -> Array:
        """Of all faces of the patch's shell in its plane: rounding parts a face cut in slivers."""
        faces = topology.faces[of_shell[int(shells[i])]]
        flat = np.abs((mesh.vertices - at[i]) @ normals[i]) <= near
        return np.unique(faces[flat[faces].all(axis=1)])

    for a, b in np.argwhere(np.triu(facing, 1)).tolist():
        ours, theirs = (_along(mesh.vertices[corners(i)], normals[a]) for i in (a, b))
        if len(ours & theirs) >= max(_FEWEST, _SHARE * min(len(ours), len(theirs))):
            found[corners(a)] = found[corners(b)] = True
    return found


def _beside(mesh: Mesh, patches: list[Array], normals: Array) -> Array:
    """Whether two patches can have corners in common, seen along the normal of the first."""
    corners = [mesh.vertices[faces].reshape(-1, 3) for faces in patches]
    middles = np.stack([(one.min(axis=0) + one.max(axis=0)) / 2 for one in corners])
    reach = np.array([np.ptp(one, axis=0) @ np.ones(3) for one in corners]) / 2
    off = middles[None] - middles[:, None]
    along = np.einsum("abk,ak->ab", off, normals)
    aside = np.sqrt(np.maximum((off**2).sum(axis=2) - along**2, 0.0))
    near: Array = aside <= reach[:, None] + reach[None] + _SAME
    return near


def _along(points: Array, normal: Array) -> set[tuple[float, ...]]:
    """Where points stand, seen along a direction, on a grid."""
    flat = points - np.outer(points @ normal, normal)
    return set(map(tuple, np.round(flat / _SAME).tolist()))
