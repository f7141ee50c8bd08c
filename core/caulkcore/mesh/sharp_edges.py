"""Where a surface goes on smoothly from face to face, and where it is sharp."""

import numpy as np

from .arrays import Array
from .topology import Topology
from .triangle_mesh import face_normals

SHARP = 40.0
"""Edges bent by more degrees than this are meant to be sharp, unless told otherwise: coarse facets
of a round part bend by less."""


def smooth_joins(topology: Topology, least_cosine: float) -> tuple[Array, Array]:
    """Half-edges over which the surface goes on smoothly.

    Parameters
    ----------
    topology : Topology
    least_cosine : float
        It goes on where the cosine of the angle between the normals is over this.

    Returns
    -------
    joins : ndarray, shape (k, 2)
        Pairs of half-edges.
    normals : ndarray, shape (m, 3)
        Unit normals of the faces.
    """
    normals = face_normals(topology.mesh.vertices, topology.faces)
    joins = topology.paired_half_edges
    cosine = np.einsum("ij,ij->i", normals[joins[:, 0] // 3], normals[joins[:, 1] // 3])
    return joins[cosine > least_cosine], normals


def smooth_half_edges(topology: Topology, sharp: float) -> Array:
    """Whether the surface goes on over each half-edge.

    Parameters
    ----------
    topology : Topology
    sharp : float
        It goes on where it bends by less than so many degrees.

    Returns
    -------
    ndarray, shape (3 m,), bool

    Examples
    --------
    >>> from caulkcore import Mesh
    >>> square = Mesh([[0, 0, 0], [8, 0, 0], [8, 8, 0], [0, 8, 0]], [[0, 1, 2], [0, 2, 3]])
    >>> smooth_half_edges(Topology(square), 40.0).tolist()
    [False, False, True, True, False, False]
    """
    smooth = np.zeros(3 * len(topology.faces), dtype=bool)
    smooth[smooth_joins(topology, float(np.cos(np.radians(sharp))))[0]] = True
    return smooth
