"""Which faces of a surface intersect, along which segments, and which new ones would."""

import numpy as np

from ..mesh.arrays import Array
from ..predicates.orientation import faces_have_area
from ..spatial.box_tree import Tree
from ..spatial.intersecting_pairs import intersecting_pairs_of_tree

_CHUNK = 200_000
"""Pairs worked on at once: some hundred megabytes of temporary arrays."""
_SLACK = 1e-9
"""Rounding allowed for where an edge passes through a triangle, as a share of its length or
area."""


def intersecting_faces(vertices: Array, faces: Array, fresh: Array | None = None) -> Array:
    """Pairs of faces that intersect, decided exactly; faces without area are left out.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3), float64
    faces : ndarray, shape (m, 3), int32
    fresh : ndarray, shape (m,), bool, optional
        Faces one of which must be in each pair; all by default.

    Returns
    -------
    ndarray, shape (k, 2), int32

    Examples
    --------
    >>> upright = [[0, -1, -1], [0, 1, -1], [0, 0, 1]]
    >>> flat = [[-1, -1, 0], [1, -1, 0], [0, 1, 0]]
    >>> intersecting_faces(np.array(upright + flat, float), np.arange(6).reshape(2, 3)).tolist()
    [[0, 1]]
    """
    tree = Tree.of(vertices, faces)
    return intersecting_pairs_of_tree(tree, ~faces_have_area(tree.vertices, tree.faces), fresh)


def new_faces_intersecting(vertices: Array, faces: Array, new: Array) -> Array:
    """Numbers of those new faces that intersect known ones or each other.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3), float64
    faces : ndarray, shape (m, 3), int32
        Known to be there.
    new : ndarray, shape (k, 3), int32
        To be added.

    Returns
    -------
    ndarray, shape (j,)
        Rows of `new`, ascending.
    """
    every = np.concatenate([faces, new])
    met = np.unique(intersecting_faces(vertices, every, np.arange(len(every)) >= len(faces)))
    return met[met >= len(faces)] - len(faces)


def intersection_segments(vertices: Array, faces: Array, pairs: Array) -> tuple[Array, Array]:
    """Where pairs of triangles intersect, as line segments, in floating point.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3), float64
    faces : ndarray, shape (m, 3)
    pairs : ndarray, shape (k, 2)
        Faces that intersect.

    Returns
    -------
    segments : ndarray, shape (j, 2, 3)
        One for each pair that meets along a line; coplanar pairs have none.
    owner : ndarray, shape (j,)
        Row of `pairs`, ascending.
    """
    segments, owners = [np.zeros((0, 2, 3))], [np.zeros(0, dtype=np.int64)]
    for start in range(0, len(pairs), _CHUNK):
        chunk = pairs[start : start + _CHUNK]
        a, b = vertices[faces[chunk[:, 0]]], vertices[faces[chunk[:, 1]]]
        line = np.cross(_normals(a), _normals(b))
        points, hit = [], []
        for t, s in ((a, b), (b, a)):
            for k in range(3):
                p, inside = _edge_through(t[:, k], t[:, (k + 1) % 3], s)
                points.append(p)
                hit.append(inside)
        spots, found = np.stack(points, axis=1), np.stack(hit, axis=1)
        along = np.einsum("kij,kj->ki", spots, line)
        first = np.where(found, along, np.inf).argmin(axis=1)
        last = np.where(found, along, -np.inf).argmax(axis=1)
        rows = np.arange(len(chunk))
        ends = np.stack([spots[rows, first], spots[rows, last]], axis=1)
        good = (found.sum(axis=1) >= 2) & (first != last)
        segments.append(ends[good])
        owners.append(np.flatnonzero(good) + start)
    return np.concatenate(segments), np.concatenate(owners)


def _normals(t: Array) -> Array:
    return np.cross(t[:, 1] - t[:, 0], t[:, 2] - t[:, 0])


def _edge_through(p: Array, q: Array, t: Array) -> tuple[Array, Array]:
    """Where segments p-q pass through triangles, and whether they do."""
    normal = _normals(t)
    above = np.einsum("ki,ki->k", p - t[:, 0], normal)
    below = np.einsum("ki,ki->k", q - t[:, 0], normal)
    drop = above - below
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.where(drop != 0, above / drop, np.nan)
    point = p + share[:, None] * (q - p)
    slack = _SLACK * np.einsum("ki,ki->k", normal, normal)
    inside = (share >= -_SLACK) & (share <= 1 + _SLACK)
    for k in range(3):
        side = np.cross(t[:, (k + 1) % 3] - t[:, k], point - t[:, k])
        inside &= np.einsum("ki,ki->k", side, normal) >= -slack
    return np.nan_to_num(point), inside
