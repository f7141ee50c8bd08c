"""Faces that one mesh has and another has not, told by their corners' coordinates."""

from collections.abc import Callable

import numpy as np

from ..jit import nb
from .arrays import Array
from .coordinate_keys import among, mixed, point_keys, with_ranks
from .triangle_mesh import Mesh


def changed_faces(before: Mesh, after: Mesh) -> tuple[Array, Array]:
    """Faces of a mesh that are not in another, and the reverse, by their corners' coordinates.

    Which way round a face runs, and how often it is there, does not matter; see
    `exchanged_faces`.

    Parameters
    ----------
    before, after : Mesh

    Returns
    -------
    gone : ndarray, shape (m,), bool
        For each face of `before`.
    new : ndarray, shape (k,), bool
        For each face of `after`.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> gone, new = changed_faces(cuboid(), cuboid((10.0, 10.0, 12.0)))
    >>> int(gone.sum()), int(new.sum())
    (10, 10)
    """
    return _differing(before, after, lambda mesh: _keys(mesh, False))


def exchanged_faces(before: Mesh, after: Mesh) -> tuple[Array, Array]:
    """Faces that have to be taken out of a mesh, and put in, to make another of it.

    A face that was turned counts as one of each; of copies as many count as there are more.

    Parameters
    ----------
    before, after : Mesh

    Returns
    -------
    gone : ndarray, shape (m,), bool
        For each face of `before`.
    new : ndarray, shape (k,), bool
        For each face of `after`.

    Examples
    --------
    >>> cube = Mesh([[0, 0, 0], [1, 0, 0], [0, 1, 0]], [[0, 1, 2], [0, 1, 2]])
    >>> gone, new = exchanged_faces(cube, Mesh(cube.vertices, [[0, 1, 2], [0, 2, 1]]))
    >>> gone.tolist(), new.tolist()
    ([False, True], [False, True])
    """
    return _differing(before, after, lambda mesh: with_ranks(_keys(mesh, True)))


def _differing(before: Mesh, after: Mesh, keys: Callable[[Mesh], Array]) -> tuple[Array, Array]:
    """Faces of each whose key no face of the other has."""
    if after is before:
        none = np.zeros(len(before.faces), dtype=bool)
        return none, none
    was, now = keys(before), keys(after)
    return ~among(was, now), ~among(now, was)


def located_faces(mesh: Mesh, chosen: Array, other: Mesh) -> Array:
    """Where some faces of a mesh stand in another, by their corners' coordinates.

    Parameters
    ----------
    mesh : Mesh
    chosen : ndarray, shape (k,)
        Faces of `mesh`.
    other : Mesh

    Returns
    -------
    ndarray, shape (k,), int64
        For each the first face of `other` on the same corners, whichever way round; -1 if there
        is none.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> cube = cuboid()
    >>> located_faces(cube, np.array([0, 3]), Mesh(cube.vertices, cube.faces[2:])).tolist()
    [-1, 1]
    """
    wanted = _keys(Mesh(mesh.vertices, mesh.faces[chosen]), False)
    there = _keys(other, False)
    found = np.flatnonzero(among(there, wanted))
    keys, first = np.unique(there[found], return_index=True)
    if not len(keys):
        return np.full(len(chosen), -1)
    at = np.minimum(np.searchsorted(keys, wanted), len(keys) - 1)
    return np.where(keys[at] == wanted, found[first[at]], -1)


@nb.njit(cache=True)
def _face_keys(of_vertex: Array, faces: Array, oriented: bool) -> Array:
    """See `_keys`; `of_vertex` has a key for each vertex."""
    out = np.empty(len(faces), np.uint64)
    for i in range(len(faces)):
        a, b, c = of_vertex[faces[i, 0]], of_vertex[faces[i, 1]], of_vertex[faces[i, 2]]
        total = np.uint64(a + b + c)
        if oriented:
            # each side spread: the same however the corners are cycled, but not turned round
            total = np.uint64(
                total
                + mixed(np.uint64(a + np.uint64(3) * b))
                + mixed(np.uint64(b + np.uint64(3) * c))
                + mixed(np.uint64(c + np.uint64(3) * a))
            )
        out[i] = mixed(total)
    return out


@np.errstate(over="ignore")  # interpreted, hashes wrap around as compiled ones do
def _keys(mesh: Mesh, oriented: bool) -> Array:
    """One 64-bit key for each face from its corners' coordinates, in any order or as they run."""
    return _face_keys(point_keys(mesh.vertices), mesh.faces, oriented)
