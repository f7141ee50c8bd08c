"""What of a surface has nothing of a new one near it, nor lies inside that."""

from dataclasses import dataclass

import numpy as np

from ..mesh.arrays import Array
from ..mesh.triangle_mesh import Mesh
from ..progress import SILENT, Progress
from ..spatial.box_tree import Tree
from ..spatial.hausdorff import NOWHERE, Reach, directed_distance
from ..spatial.winding_number import WindingNumber
from ..thickness.sampling import Samples

_INSIDE = 0.5
"""Winding number from which a point counts as inside."""


@dataclass(frozen=True)
class LostSurface:
    """What was lost of a surface.

    Attributes
    ----------
    share : float
        Of its area.
    reach : Reach
        How far the farthest point of what was lost lies from the new surface.
    """

    share: float
    reach: Reach

    @property
    def numbers(self) -> dict[str, float]:
        """``lost_share``, and ``lost_mm``: the upper bound of the distance."""
        return {"lost_share": self.share, "lost_mm": self.reach.high}


def lost_surface(
    before: Mesh, after: Mesh, reach: float, *, progress: Progress = SILENT
) -> LostSurface:
    """What of a surface is neither near another nor inside it.

    The surface is divided into parts of about the size of `reach`; a part is lost if its middle or
    a corner is farther off than that, and outside.

    Parameters
    ----------
    before, after : Mesh
    reach : float
        What counts as near, mm.
    progress : Progress

    Returns
    -------
    LostSurface

    Raises
    ------
    Cancelled
        If `progress` asks to stop.

    Examples
    --------
    A rod of 10 mm cut down to 7 mm has lost 3 mm of it.

    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> lost = lost_surface(cuboid((10.0, 1.0, 1.0)), cuboid((7.0, 1.0, 1.0)), 0.2)
    >>> round(lost.reach.high, 1), round(lost.share, 1)
    (3.0, 0.3)
    """
    samples = Samples.of(before, reach)
    tree = Tree.of(after.vertices, after.faces)
    distance, _ = tree.nearest(samples.points)
    corners = samples.corners(np.arange(len(samples.face)))
    size = np.linalg.norm(corners - samples.points[:, None], axis=2).max(axis=1)
    maybe = np.flatnonzero(distance + size > reach)
    if not len(maybe):
        return LostSurface(0.0, NOWHERE)
    winding = WindingNumber(after.vertices, after.faces)
    points = np.concatenate([samples.points[maybe, None], corners[maybe]], axis=1)
    at_corners, _ = tree.nearest(corners[maybe].reshape(-1, 3))
    far = np.column_stack([distance[maybe], at_corners.reshape(-1, 3)]) > reach
    far[far] = winding.at(points[far]) < _INSIDE
    lost: Array = maybe[far.any(axis=1)]
    if not len(lost):
        return LostSurface(0.0, NOWHERE)
    # the share by middles: a part of which only a corner is lost counts for nothing
    middles = maybe[far[:, 0]]
    share = float(samples.area[middles].sum() / samples.area.sum())
    faces = np.arange(3 * len(lost), dtype=np.int32).reshape(-1, 3)
    farthest = directed_distance(corners[lost].reshape(-1, 3), faces, tree, progress=progress)
    return LostSurface(share, farthest)
