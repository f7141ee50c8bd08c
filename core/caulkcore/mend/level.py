"""Where a surface goes on smoothly from face to face, and where it is sharp."""

import numpy as np

from ..mesh import Array, face_normals
from ..topology import Topology
from .part import two_face_joins


def level_joins(topology: Topology, least: float) -> tuple[Array, Array]:
    """Half-edges over which the surface goes on smoothly, in pairs, and the faces' normals.

    That is where the cosine of the angle between the normals is over `least`.
    """
    normals = face_normals(topology.mesh.vertices, topology.faces)
    joins = two_face_joins(topology)
    level = np.einsum("ij,ij->i", normals[joins[:, 0] // 3], normals[joins[:, 1] // 3])
    return joins[level > least], normals


def level_halves(topology: Topology, sharp: float) -> Array:
    """Whether the surface goes on over each half-edge, bent by less than `sharp` degrees."""
    level = np.zeros(3 * len(topology.faces), dtype=bool)
    level[level_joins(topology, float(np.cos(np.radians(sharp))))[0]] = True
    return level
