"""Whether a solid stands on what it touches the ground with."""

from dataclasses import dataclass

import numpy as np

from ..mesh.arrays import Array
from ..mesh.triangle_mesh import Mesh, face_crosses

_TOUCHES = 1e-4
"""Vertices nearer to the lowest one than this share of the height touch the ground; at least
`_LEAST_TOUCH`."""
_LEAST_TOUCH = 0.005
"""mm: less than any machine lays down."""


@dataclass(frozen=True, eq=False)
class Standing:
    """How a solid stands, z being up.

    Attributes
    ----------
    margin : float
        By how much it can be tilted, whichever way, before it falls over, degrees; negative where
        it falls over by itself.
    centre : ndarray, shape (3,)
        Centre of mass, mm.
    foot : ndarray, shape (k, 2)
        Corners of what it stands on: the hull of all points that touch the ground, in order.
    """

    margin: float
    centre: Array
    foot: Array

    @property
    def stands(self) -> bool:
        """Whether its centre of mass is over its foot."""
        return self.margin > 0


def standing(mesh: Mesh) -> Standing:
    """How a solid stands as it lies, z being up.

    Parameters
    ----------
    mesh : Mesh
        Closed, with a volume above nothing.

    Returns
    -------
    Standing

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> round(standing(cuboid((10.0, 20.0, 10.0))).margin, 6)
    45.0
    """
    corners = mesh.vertices[mesh.faces]
    # tetrahedra to a point near by, so that numbers stay small
    near = mesh.bounds.mean(axis=0)
    six = np.einsum("ij,ij->i", corners[:, 0] - near, face_crosses(mesh.vertices, mesh.faces))
    middles = (corners - near).sum(axis=1) / 4.0
    centre = near + (six[:, None] * middles).sum(axis=0) / six.sum()
    used = mesh.vertices[np.unique(mesh.faces)]
    low = float(used[:, 2].min())
    touch = max(_LEAST_TOUCH, _TOUCHES * float(np.ptp(used[:, 2])))
    foot = convex_hull(used[used[:, 2] <= low + touch][:, :2])
    inside = _inside_by(foot, centre[:2])
    margin = float(np.degrees(np.arctan2(inside, centre[2] - low)))
    return Standing(margin, centre, foot)


def convex_hull(points: Array) -> Array:
    """Corners of the least convex outline round some points, counter-clockwise.

    Parameters
    ----------
    points : ndarray, shape (n, 2)

    Returns
    -------
    ndarray, shape (k, 2)
        One or two where all points lie on a point or a line.

    References
    ----------
    Andrew 1979, *Another efficient algorithm for convex hulls in two dimensions*.

    Examples
    --------
    >>> convex_hull(np.array([[0, 0], [2, 0], [1, 1], [2, 2], [0, 2.0]])).tolist()
    [[0.0, 0.0], [2.0, 0.0], [2.0, 2.0], [0.0, 2.0]]
    """
    ordered = np.unique(points, axis=0).tolist()
    if len(ordered) < 3:
        return np.array(ordered)

    def half(rows: list[list[float]]) -> list[list[float]]:
        chain: list[list[float]] = []
        for row in rows:
            while len(chain) > 1 and _turn(chain[-2], chain[-1], row) <= 0:
                chain.pop()
            chain.append(row)
        return chain[:-1]

    return np.array(half(ordered) + half(ordered[::-1]))


def _turn(a: list[float], b: list[float], c: list[float]) -> float:
    return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])


def _inside_by(hull: Array, point: Array) -> float:
    """How far a point is inside a convex outline; negative outside, or where it has no area."""
    side = np.roll(hull, -1, axis=0) - hull
    length = np.linalg.norm(side, axis=1)
    if len(hull) < 3:
        return -_off(hull, point)
    off = point - hull
    inside = (side[:, 0] * off[:, 1] - side[:, 1] * off[:, 0]) / length
    return float(inside.min()) if inside.min() >= 0 else -_off(hull, point)


def _off(hull: Array, point: Array) -> float:
    """How far a point is from the nearest side of an outline."""
    side = np.roll(hull, -1, axis=0) - hull
    square = (side**2).sum(axis=1).clip(1e-300)
    share = (((point - hull) * side).sum(axis=1) / square).clip(0.0, 1.0)
    return float(np.linalg.norm(point - hull - share[:, None] * side, axis=1).min())
