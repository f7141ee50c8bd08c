"""How far two surfaces are apart on average."""

import numpy as np

from ..mesh.triangle_mesh import Mesh
from ..spatial.box_tree import Tree
from .sampling import Samples

_ACROSS = 300.0
"""Faces are divided into parts of so small a share of the diagonal; one point of each is asked."""


def mean_distance(a: Mesh, b: Mesh) -> float:
    """Mean distance of two surfaces, both ways, by area.

    Parameters
    ----------
    a, b : Mesh
        With faces that have area.

    Returns
    -------
    float
        mm.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> round(mean_distance(cuboid(), cuboid()), 9)
    0.0
    """
    distances, areas = [], []
    for one, other in ((a, b), (b, a)):
        samples = Samples.of(one, one.diagonal / _ACROSS)
        distances.append(Tree.of(other.vertices, other.faces).nearest(samples.points)[0])
        areas.append(samples.area)
    weights = np.concatenate(areas)
    total = float(weights.sum())
    return float(np.concatenate(distances) @ weights) / total if total else 0.0
