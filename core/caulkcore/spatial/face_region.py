"""A chosen region: faces told one by one, or those within balls round picked points."""

from collections.abc import Sequence

import numpy as np

from ..mesh._edge_kernels import components
from ..mesh.arrays import Array
from ..mesh.triangle_mesh import Mesh
from .box_tree import Tree, faces_within

Spots = Sequence[Sequence[float]]
"""Picked points, each with how far round it is meant: x, y, z and a radius, mm."""
Region = Spots | Array
"""Spots, or whether each face belongs to it: an ndarray of bool, shape (m,)."""


def faces_of_region(mesh: Mesh, region: Region | None) -> Array:
    """Whether each face belongs to a region, shape (m,).

    Of spots, a face belongs to it if it reaches into one of the balls and hangs together, through
    faces that do, with the face nearest to the ball's middle; so the other side of a thin wall
    does not.

    Parameters
    ----------
    mesh : Mesh
    region : sequence of (x, y, z, radius), or ndarray, shape (m,), bool, optional
        All faces by default.

    Returns
    -------
    ndarray, shape (m,), bool
    """
    if isinstance(region, np.ndarray) and region.dtype == bool:
        return region
    spots = region
    if spots is None or not len(spots):
        return np.ones(len(mesh.faces), dtype=bool)
    chosen = np.zeros(len(mesh.faces), dtype=bool)
    given = np.asarray(spots, dtype=np.float64)
    _, start = Tree.of(mesh.vertices, mesh.faces).nearest(given[:, :3])
    for (x, y, z, reach), nearest in zip(given, start, strict=True):
        within = faces_within(mesh.vertices, mesh.faces, np.array([x, y, z]), float(reach))
        if nearest not in within:
            continue
        faces = mesh.faces[within]
        used, local = np.unique(faces, return_inverse=True)
        local = local.reshape(-1, 3)
        joins = np.concatenate([local[:, :2], local[:, 1:]]).astype(np.int64)
        piece = components(joins, len(used))[local[:, 0]]
        chosen[within[piece == piece[np.searchsorted(within, nearest)]]] = True
    return chosen


def face_extents(mesh: Mesh) -> tuple[Array, Array]:
    """Low and high corner of the box round each face.

    Parameters
    ----------
    mesh : Mesh

    Returns
    -------
    low, high : ndarray, shape (m, 3)
        mm.
    """
    corners = mesh.vertices[mesh.faces]
    return corners.min(axis=1), corners.max(axis=1)


def faces_reaching_boxes(mesh: Mesh, boxes: Array) -> Array:
    """Whether the box round each face meets one of some boxes, shape (m,).

    Parameters
    ----------
    mesh : Mesh
    boxes : ndarray, shape (k, 2, 3)
        Low corner and high of each.

    Returns
    -------
    ndarray, shape (m,), bool

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> top = np.array([[[1.0, 1.0, 9.5], [2.0, 2.0, 10.5]]])
    >>> int(faces_reaching_boxes(cuboid(), top).sum())
    2
    """
    low, high = face_extents(mesh)
    near = np.zeros(len(mesh.faces), dtype=bool)
    for box in boxes:
        near |= ((low <= box[1]) & (high >= box[0])).all(axis=1)
    return near


def with_neighbours(faces: Array, inside: Array, *, rings: int = 2) -> Array:
    """A region's faces and those around: what is needed to know how the region bends at its rim.

    Parameters
    ----------
    faces : ndarray, shape (m, 3)
    inside : ndarray, shape (m,), bool
    rings : int
        How many times over faces that share a vertex are taken in.

    Returns
    -------
    ndarray, shape (m,), bool
    """
    near = inside
    for _ in range(rings):
        touched = np.zeros(int(faces.max()) + 1, dtype=bool)
        touched[faces[near]] = True
        near = touched[faces].any(axis=1)
    return near


def share_of_region(mesh: Mesh, region: Region | None) -> Array:
    """How much each vertex takes part, shape (n,): one in a ball's middle, none at its rim.

    Of faces told one by one, all vertices that belong to no other face take part fully.

    Parameters
    ----------
    mesh : Mesh
    region : sequence of (x, y, z, radius), or ndarray, shape (m,), bool, optional
        All vertices take part by default.

    Returns
    -------
    ndarray, shape (n,)

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> share_of_region(cuboid(), [[0.0, 0.0, 0.0, 4.0]]).max().item()
    1.0
    """
    share = np.ones(len(mesh.vertices))
    if isinstance(region, np.ndarray) and region.dtype == bool:
        share[mesh.faces[~region]] = 0.0
        return share
    spots = region
    if spots is None or not len(spots):
        return share
    share[:] = 0.0
    for x, y, z, reach in spots:
        away = np.linalg.norm(mesh.vertices - (x, y, z), axis=1) / reach
        inner = np.clip(1.0 - away, 0.0, 1.0)
        share = np.maximum(share, inner * inner * (3.0 - 2.0 * inner))
    inside = np.zeros(len(share), dtype=bool)
    inside[mesh.faces[faces_of_region(mesh, spots)]] = True
    return np.where(inside, share, 0.0)
