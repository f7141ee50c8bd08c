"""Thickness at points of a surface: the ball that fits inside, and the ray to the other side."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..mesh.arrays import Array, frozen
from ..progress import SILENT, Progress
from ..spatial.box_tree import Tree
from . import _ball_kernels as kernel

OPPOSITE = np.deg2rad(120.0)
"""Contacts see each other as opposite sides when the angle between them, at the middle of the ball,
is at least this; for the ray, when the surfaces' normals differ by as much."""
_CHUNK = 500_000
"""Points between two looks at whether to stop: about a second."""


@dataclass(frozen=True, eq=False)
class BallAndRay:
    """Thickness at points of a surface, mm.

    Attributes
    ----------
    ball : ndarray, shape (s,)
        Diameter of the largest ball inside that touches the surface there; where nothing faces the
        point within reach the ball is not looked for, and this is `ray`.
    ray : ndarray, shape (s,)
        Length of the ray straight in to the opposite skin.
    across : ndarray, shape (s,), bool
        Whether the ball touches an opposite side, rather than a side beside the point.
    facing : ndarray, shape (s,), bool
        Whether the ray ends on a side that faces the point.
    contact : ndarray, shape (s,), int64
        A face on the opposite side, or -1.
    """

    ball: Array
    ray: Array
    across: Array
    facing: Array
    contact: Array

    @cached_property
    def wall(self) -> Array:
        """What counts as thickness: the ball where it spans the wall, else the ray."""
        return np.where(self.across, self.ball, self.ray)

    @property
    def is_wall(self) -> Array:
        """Where there is a wall at all: two sides that see each other."""
        return self.across | self.facing


def measure_ball_and_ray(
    tree: Tree,
    points: Array,
    normals: Array,
    own: Array,
    most: float,
    *,
    progress: Progress = SILENT,
    rims: Array | None = None,
    sided: bool = False,
) -> BallAndRay:
    """Ball and ray thickness at points of a surface.

    The ball shrinks until nothing of the surface is within it (Ma, Bae & Choi 2012), against the
    triangles themselves rather than samples of them; it begins with the ray's length.

    Parameters
    ----------
    tree : Tree
        Over the closed surface.
    points : ndarray, shape (s, 3)
        On it, within faces.
    normals : ndarray, shape (s, 3)
        Unit normals; the measure goes the other way. Negative ones measure gaps outside.
    own : ndarray, shape (s,)
        The face that each point is on, or -1.
    most : float
        Greatest thickness of interest, mm.
    progress : Progress
    rims : ndarray, shape (m, 3), bool, optional
        Edges of the faces with nothing beyond; a ball that touches one spans no wall.
    sided : bool
        Whether the faces all run as their neighbours do, so that an opposite side is one that turns
        the other way: what does not is then left out of the search, and points with nothing of the
        kind behind them take nearly no time.

    Returns
    -------
    BallAndRay

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> plate = cuboid((20.0, 20.0, 0.5))
    >>> tree = Tree.of(plate.vertices, plate.faces)
    >>> top, up = np.array([[9.0, 8.0, 0.5]]), np.array([[0.0, 0.0, 1.0]])
    >>> depths = measure_ball_and_ray(tree, top, up, np.array([-1]), 5.0)
    >>> depths.wall.round(6).tolist()
    [0.5]
    """
    s = len(points)
    ball, ray = np.empty(s), np.empty(s)
    facing, contact = np.empty(s, dtype=bool), np.empty(s, dtype=np.int64)
    run = np.arange(s)
    if (own >= 0).any():
        # in the order of the tree, so that neighbours follow each other
        place = np.empty(len(tree.faces) + 1, dtype=np.int64)
        place[tree.order], place[-1] = np.arange(len(tree.order)), -1
        own = place[own]
        run = np.argsort(own)
    rims = np.zeros((0, 3), dtype=bool) if rims is None else rims[tree.order]
    normal_bounds = tree.normal_bounds if sided else np.zeros((0, 6))
    points, normals = frozen(points, np.float64), frozen(normals, np.float64)
    for start in range(0, s, _CHUNK):
        progress.step("Sounding the walls", start / s)
        kernel.measure(
            run[start : start + _CHUNK], points, normals, own, float(most), OPPOSITE, tree.order,
            tree.corners, tree.boxes, tree.slabs, tree.discs, normal_bounds, rims, ball, ray,
            facing, contact,
        )  # fmt: skip
    return BallAndRay(np.abs(ball), ray, ~np.signbit(ball), facing, contact)
