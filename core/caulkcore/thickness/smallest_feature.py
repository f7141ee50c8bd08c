"""The smallest feature of a model, from a few thousand points."""

import numpy as np

from ..mesh.arrays import Array
from ..mesh.triangle_mesh import Mesh, face_areas, face_normals
from ..spatial.box_tree import Tree
from .ball_and_ray import measure_ball_and_ray

_POINTS = 4_000
"""Points asked about: enough for a hundredth of the area to have forty."""
_REACH = 0.04
"""Greatest thickness of interest, of the longest side."""
_SHARE = 0.01
"""Share of the area that may be thinner: a stray sliver is no feature."""


def smallest_feature(mesh: Mesh) -> float | None:
    """Thickness that a hundredth of the skin falls below, mm.

    It is measured by balls at points spread evenly over the area, always the same ones; where a
    mesh is not closed, as far as it is defined. It says how fine a grid must be that is to keep
    what there is, not whether a wall holds.

    Parameters
    ----------
    mesh : Mesh

    Returns
    -------
    float or None
        None if a hundredth of the skin is thinner than nothing up to a 25th of the longest side.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> round(smallest_feature(cuboid((20.0, 20.0, 0.5))), 3)
    0.5
    """
    areas = face_areas(mesh.vertices, mesh.faces)
    if not areas.sum() > 0:
        return None
    most = _REACH * float(mesh.size.max())
    points, face = _spread(mesh, areas)
    depths = measure_ball_and_ray(
        Tree.of(mesh.vertices, mesh.faces), points, face_normals(mesh.vertices, mesh.faces[face]),
        face, most,
    )  # fmt: skip
    thin = np.where(depths.is_wall, depths.wall, most)
    least = float(np.quantile(thin, _SHARE, method="lower"))
    return least if 0 < least < most else None


def _spread(mesh: Mesh, areas: Array) -> tuple[Array, Array]:
    """Points spread over a surface by area, and the face of each."""
    below = np.cumsum(areas)
    at = (np.arange(_POINTS) + 0.5) * (below[-1] / _POINTS)
    face = np.searchsorted(below, at)
    # the plastic number's sequence fills a square evenly (Roberts 2018); folded it fills a triangle
    n = np.arange(1, _POINTS + 1)
    u, v = (0.5 + n * 0.7548776662466927) % 1, (0.5 + n * 0.5698402909980532) % 1
    u, v = np.where(u + v > 1, 1 - u, u), np.where(u + v > 1, 1 - v, v)
    a, b, c = (mesh.vertices[mesh.faces[face, k]] for k in range(3))
    return a + u[:, None] * (b - a) + v[:, None] * (c - a), face
