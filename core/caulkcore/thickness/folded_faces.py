"""Faces that fold over when vertices slide along a surface: drawn anew between the vertices."""

import numpy as np

from ..mesh.arrays import Array
from ..mesh.flat_patches import FlatPatches
from ..mesh.polygons import triangulate_rings
from ..mesh.topology import Topology
from ..mesh.triangle_mesh import Mesh, face_normals

_FLIP_ROUNDS = 12
"""Rounds of edge flips; what folds still is left to the test for intersections."""
_FOLDED = 0.1
"""A face is folded over if its normal turned so far that the cosine is below this."""


def flip_folded_edges(before: Array, after: Array, faces: Array) -> tuple[Array, Array]:
    """The faces of a surface whose vertices moved, drawn anew where they fold over.

    Flat parts are divided anew within their rims; elsewhere edges are turned.

    Parameters
    ----------
    before, after : ndarray, shape (n, 3)
    faces : ndarray, shape (m, 3)

    Returns
    -------
    faces : ndarray, shape (m', 3)
    origin : ndarray, shape (m',)
        A face that stood there before.
    """
    turned = folded(before, after, faces)
    if not turned.any():
        return faces, np.arange(len(faces))
    faces, origin = _retriangulated(before, after, faces, turned)
    return _edges_flipped(before, after, faces), origin


def folded(before: Array, after: Array, faces: Array) -> Array:
    """Which faces turned over, shape (m,).

    Parameters
    ----------
    before, after : ndarray, shape (n, 3)
        Vertices.
    faces : ndarray, shape (m, 3)

    Returns
    -------
    ndarray, shape (m,), bool

    Examples
    --------
    >>> before = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0.0]])
    >>> folded(before, before * [1, -1, 1], np.array([[0, 1, 2]])).tolist()
    [True]
    """
    now, then = face_normals(after, faces), face_normals(before, faces)
    turned: Array = np.einsum("ij,ij->i", now, then) < _FOLDED
    return turned


def _retriangulated(
    before: Array, after: Array, faces: Array, turned: Array
) -> tuple[Array, Array]:
    """Flat parts with folded faces, divided anew within their rims; inner vertices are left out."""
    patches = FlatPatches.of(Topology(Mesh(before, faces)))
    sizes = np.bincount(patches.label, minlength=len(faces))
    chosen = np.unique(patches.label[turned])
    rims = patches.rims(chosen[sizes[chosen] > 1])
    stays = np.flatnonzero(~np.isin(patches.label, list(rims)))
    new, origins = [], []
    for name, rings in rims.items():
        first = patches.first[name]
        new.append(triangulate_rings(after, rings, patches.normals[first]))
        origins.append(np.full(len(new[-1]), first))
    return (
        np.concatenate([faces[stays], *new]).astype(faces.dtype),
        np.concatenate([stays, *origins]),
    )


def _edges_flipped(before: Array, after: Array, faces: Array) -> Array:
    """Faces with edges turned where a vertex slid over the edge across from it.

    The edge between the face that it left and the one that it came into is drawn from the vertex
    instead. Faces keep their numbers.
    """
    faces = faces.copy()
    for _ in range(_FLIP_ROUNDS):
        turned = folded(before, after, faces)
        if not turned.any():
            break
        topology = Topology(Mesh(after, faces))
        sides = after[faces] - after[np.roll(faces, -1, axis=1)]
        longest = np.linalg.norm(sides, axis=2).argmax(axis=1)
        known = {tuple(e) for e in np.sort(topology.ends(topology.order), axis=1).tolist()}
        used: set[int] = set()
        for f in np.flatnonzero(turned).tolist():
            half = 3 * f + int(longest[f])
            other = int(topology.twin[half])
            g = other // 3
            if other < 0 or used & {f, g}:
                continue
            x, y, z = (int(faces[f, (half + k) % 3]) for k in range(3))
            w = int(faces[g, (other + 2) % 3])
            if z == w or (min(z, w), max(z, w)) in known:
                continue
            used |= {f, g}
            faces[f], faces[g] = (x, w, z), (w, y, z)
        if not used:
            break
    return faces
