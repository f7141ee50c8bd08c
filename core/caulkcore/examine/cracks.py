"""Open chains that lie beside one another without being joined."""

import numpy as np

from ..kernels.edges import components
from ..mesh import Array
from ..topology import Topology

TOLERANCE_SHARE = 1e-3
"""Weld tolerance as a share of the bounding box's diagonal."""
TOLERANCE_MOST = 0.05
"""Largest weld tolerance in mm."""
_OF_EDGE = 0.45
# A vertex joins only another that is nearer than this share of its shortest open edge, so that
# no edge collapses.


def weld_tolerance(diagonal: float) -> float:
    """Distance up to which open chains are taken for one torn edge, in mm."""
    return min(TOLERANCE_SHARE * diagonal, TOLERANCE_MOST)


def find_cracks(topology: Topology, tolerance: float) -> tuple[Array, Array]:
    """Find open edges that meet another open edge once near vertices are joined.

    Only edges that pair up exactly two and two count; everything else is left open.

    Parameters
    ----------
    topology : Topology
    tolerance : float
        Greatest distance between two vertices to be joined, mm.

    Returns
    -------
    halves : ndarray of int32
        The open half-edges that are cracks.
    join : ndarray, shape (n,), int32
        For every vertex of the mesh the one it would be joined to, mostly itself.
    """
    vertices = topology.mesh.vertices
    join = np.arange(len(vertices), dtype=np.int32)
    none = np.zeros(0, dtype=np.int32)
    halves = np.flatnonzero(topology.partner == -1).astype(np.int32)
    if len(halves) < 2 or tolerance <= 0:
        return none, join
    ends = topology.ends(halves)
    rim, local = np.unique(ends, return_inverse=True)
    local = local.reshape(-1, 2)
    points = vertices[rim]
    lengths = np.linalg.norm(points[local[:, 0]] - points[local[:, 1]], axis=1)
    reach = np.full(len(rim), tolerance)
    np.minimum.at(reach, local[:, 0], _OF_EDGE * lengths)
    np.minimum.at(reach, local[:, 1], _OF_EDGE * lengths)
    from scipy.spatial import cKDTree  # half a second to import, and most meshes need it not

    tree = cKDTree(points)
    # each rim vertex is joined to its nearest other one, if that is within the reach of both
    distance, other = tree.query(points, k=2, distance_upper_bound=tolerance)
    near, distance = other[:, 1], distance[:, 1]
    # of vertices at the very same place the query may name the vertex itself second
    near = np.where(near == np.arange(len(rim)), other[:, 0], near)
    found = np.flatnonzero((near < len(rim)) & (distance <= reach))
    found = found[distance[found] <= reach[near[found]]]
    root = components(np.stack([found, near[found]], axis=1).astype(np.int32), len(rim))
    joined = root[local]
    key = np.sort(joined, axis=1)
    key = key[:, 0].astype(np.int64) * len(rim) + key[:, 1]
    _, which, count = np.unique(key, return_inverse=True, return_counts=True)
    paired = (count[which] == 2) & (joined[:, 0] != joined[:, 1])
    concerned = np.unique(local[paired])
    join[rim[concerned]] = rim[root[concerned]]
    return halves[paired], join
