"""Faces that one mesh has and another has not, told by their corners' coordinates."""

import numpy as np

from ..jit import nb
from .arrays import Array
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
    if after is before:
        none = np.zeros(len(before.faces), dtype=bool)
        return none, none
    was, now = _keys(before, False), _keys(after, False)
    return ~_among(was, now), ~_among(now, was)


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
    if after is before:
        none = np.zeros(len(before.faces), dtype=bool)
        return none, none
    was, now = (_numbered(_keys(mesh, True)) for mesh in (before, after))
    return ~_among(was, now), ~_among(now, was)


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
    found = np.flatnonzero(_among(there, wanted))
    keys, first = np.unique(there[found], return_index=True)
    if not len(keys):
        return np.full(len(chosen), -1)
    at = np.minimum(np.searchsorted(keys, wanted), len(keys) - 1)
    return np.where(keys[at] == wanted, found[first[at]], -1)


@nb.njit(cache=True, inline="always")
def _mixed(x: int) -> int:
    """Spread every bit over all others (the finaliser of splitmix64, Steele et al. 2014)."""
    x = np.uint64(x + np.uint64(0x9E3779B97F4A7C15))
    x = np.uint64((x ^ (x >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9))
    x = np.uint64((x ^ (x >> np.uint64(27))) * np.uint64(0x94D049BB133111EB))
    return np.uint64(x ^ (x >> np.uint64(31)))


@nb.njit(cache=True)
def _face_keys(bits: Array, faces: Array, oriented: bool) -> Array:
    """See `_keys`; `bits` are the coordinates of the vertices as whole numbers."""
    of_vertex = np.empty(len(bits), np.uint64)
    for i in range(len(bits)):
        key = np.uint64(0)
        for k in range(3):
            key = _mixed(np.uint64(key ^ bits[i, k]))
        of_vertex[i] = key
    out = np.empty(len(faces), np.uint64)
    for i in range(len(faces)):
        a, b, c = of_vertex[faces[i, 0]], of_vertex[faces[i, 1]], of_vertex[faces[i, 2]]
        total = np.uint64(a + b + c)
        if oriented:
            # the three differences, each spread: the same however the corners are cycled
            total = np.uint64(
                total
                + _mixed(np.uint64(a + np.uint64(3) * b))
                + _mixed(np.uint64(b + np.uint64(3) * c))
                + _mixed(np.uint64(c + np.uint64(3) * a))
            )
        out[i] = _mixed(total)
    return out


@nb.njit(cache=True, inline="always")
def _slot(table: Array, used: Array, key: int, mask: int) -> int:
    """Where a key stands in a hash table with linear probing, or would be put."""
    slot = key & mask
    while used[slot] and table[slot] != key:
        slot = np.uint64(np.uint64(slot + np.uint64(1)) & mask)
    return slot


@nb.njit(cache=True)
def _members(keys: Array, others: Array, room: int) -> Array:
    """Whether each of `keys` is among `others`; `room` is a power of two above their number."""
    mask = np.uint64(room - 1)
    table, used = np.empty(room, np.uint64), np.zeros(room, np.bool_)
    for key in others:
        slot = _slot(table, used, key, mask)
        table[slot], used[slot] = key, True
    out = np.empty(len(keys), np.bool_)
    for i in range(len(keys)):
        out[i] = used[_slot(table, used, keys[i], mask)]
    return out


@nb.njit(cache=True)
def _with_ranks(keys: Array, room: int) -> Array:
    """Keys mixed with how often each stood before; `room` as of `_members`."""
    mask = np.uint64(room - 1)
    table, times = np.empty(room, np.uint64), np.zeros(room, np.uint64)
    out = np.empty_like(keys)
    for i in range(len(keys)):
        slot = _slot(table, times, keys[i], mask)
        table[slot] = keys[i]
        out[i] = _mixed(np.uint64(keys[i] + times[slot])) if times[slot] else keys[i]
        times[slot] = np.uint64(times[slot] + np.uint64(1))
    return out


def _room(n: int) -> int:
    return 1 << (2 * n + 1).bit_length()


def _keys(mesh: Mesh, oriented: bool) -> Array:
    """One 64-bit key for each face from its corners' coordinates, in any order or as they run."""
    bits = (mesh.vertices + 0.0).view(np.uint64)
    return _face_keys(bits, mesh.faces, oriented)


def _among(keys: Array, others: Array) -> Array:
    return _members(keys, others, _room(len(others)))


def _numbered(keys: Array) -> Array:
    return _with_ranks(keys, _room(len(keys)))
