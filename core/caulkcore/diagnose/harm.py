"""How much is wrong with a mesh: counts by kind, the worst first, as a whole or by place."""

import numpy as np

from ..mesh.arrays import Array
from .diagnosis import Diagnosis

HARMS = (
    "crossings",
    "open edges",
    "over-shared edges",
    "pinched vertices",
    "wrong-way faces",
    "degenerate faces",
)
"""Kinds of harm, the worst first: what crosses leaves inside and outside undecided, what is open
leaves them without a border; the others can be mended without knowing either."""


def harm_counts(diagnosis: Diagnosis) -> Array:
    """How often each kind of harm is found.

    Parameters
    ----------
    diagnosis : Diagnosis

    Returns
    -------
    ndarray, shape (6,), int64
        In the order of `HARMS`: pairs of faces that meet where they should not, edges of one
        face, edges of three or more, vertices of more than one fan, faces that run against their
        neighbours or belong to a shell that is inside out, faces without area or on the corners
        of another.

    Examples
    --------
    >>> from caulkcore import Mesh
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> cube = cuboid()
    >>> harm_counts(Diagnosis(Mesh(cube.vertices, cube.faces[1:]))).tolist()
    [0, 3, 0, 0, 0, 0]
    """
    return np.array([len(diagnosis.intersecting_pairs_unjoined), *map(len, _corners(diagnosis))])


def harm_of_regions(diagnosis: Diagnosis, of_vertex: Array, of_face: Array, count: int) -> Array:
    """The same for each of some regions of the mesh.

    Pairs of faces that meet count for the regions of the two faces, all else for the regions of
    its vertices; what touches two regions counts for both.

    Parameters
    ----------
    diagnosis : Diagnosis
    of_vertex : ndarray, shape (n,), int
        Region of each vertex; -1 for none.
    of_face : ndarray, shape (m,), int
        Region of each face; -1 for none.
    count : int
        Number of regions.

    Returns
    -------
    ndarray, shape (count, 6), int64
    """
    rows = [of_face[diagnosis.kept[diagnosis.intersecting_pairs_unjoined]]]
    rows += [of_vertex[corners] for corners in _corners(diagnosis)]
    return np.stack([_times(one, count) for one in rows], axis=1)


def is_less_harm(one: Array, other: Array) -> Array:
    """Whether there is less harm of the first kind in which two counts differ.

    Parameters
    ----------
    one, other : ndarray, shape (..., 6)

    Returns
    -------
    ndarray, shape (...), bool

    Examples
    --------
    >>> bool(is_less_harm(np.array([0, 9, 0, 0, 0, 0]), np.array([1, 0, 0, 0, 0, 0])))
    True
    """
    differs = one != other
    first = differs.argmax(axis=-1)[..., None]
    less = np.take_along_axis(one, first, -1) < np.take_along_axis(other, first, -1)
    return np.asarray(less[..., 0])


def _corners(diagnosis: Diagnosis) -> list[Array]:
    """Vertices at each harm of all kinds but the first: a row for each."""
    topology = diagnosis.topology
    inverted = np.isin(diagnosis.shells[0], diagnosis.inverted_shells)
    wrong_way = np.concatenate(
        [diagnosis.flipped_faces, diagnosis.nonorientable_faces, diagnosis.kept[inverted]]
    )
    aside = np.concatenate(
        [diagnosis.degenerate_faces, diagnosis.duplicate_faces, diagnosis.cancelled_faces]
    )
    return [
        topology.ends(np.flatnonzero(topology.twin == -1)),
        diagnosis.nonmanifold_edges,
        diagnosis.nonmanifold_vertices[:, None],
        diagnosis.mesh.faces[wrong_way],
        diagnosis.mesh.faces[aside],
    ]


def _times(rows: Array, count: int) -> Array:
    """In how many rows each region stands, at least once."""
    rows = np.sort(rows, axis=1)
    first = np.ones(rows.shape, dtype=bool)
    first[:, 1:] = rows[:, 1:] != rows[:, :-1]
    return np.bincount(rows[first & (rows >= 0)], minlength=count)
