"""How far two surfaces are apart at most, with a bound."""

from dataclasses import dataclass

import numpy as np

from ..errors import InvalidMesh
from ..mesh.arrays import Array, frozen
from ..mesh.topology import Topology
from ..mesh.triangle_mesh import Mesh
from ..progress import SILENT, Progress
from ._hausdorff_kernels import first_bounds, refine
from .box_tree import Tree

SHARE = 0.01
"""Share of the distance within which it is told."""
FLOOR = 1e-4
"""Distance that need not be told from none, mm: far less than any printer resolves."""
_FIRST_FACES = 64
"""Faces looked at before the rest, those that may be farthest: they tell what matters."""
_WIDER = 4
"""By how many times more faces are looked at in each round."""
_FEW = 0.01
"""Share of the other surface's faces: for fewer to look at, its edges are not worth sorting."""
_MOST_FACES = 65_536
"""Faces looked at in one round at most, between two looks at whether to stop."""
_MOST_PIECES, _LEAST_PIECES = 400_000, 60
"""Pieces that one face is divided into at most, of few faces and of many: the bound stays true
beyond, only wider."""
_ALL_PIECES = 40_000_000
"""Pieces of all faces together, about a minute's work; hardly ever more than a hundredth of it."""


@dataclass(frozen=True)
class Reach:
    """The greatest distance of one surface's points from another, with a bound.

    Attributes
    ----------
    low, high : float
        mm; it is not less than `low`, which the point `at` has, and not more than `high`.
    at : tuple of float, or None
        A point of the first surface; None if nothing is apart, or if there was nothing to measure.
    """

    low: float
    high: float
    at: tuple[float, float, float] | None

    def __or__(self, other: "Reach") -> "Reach":
        """The greater of two: of both directions, say."""
        farther = self if self.low >= other.low else other
        return Reach(farther.low, max(self.high, other.high), farther.at)


NOWHERE = Reach(0.0, 0.0, None)
"""What nothing at all has for a distance."""


def directed_distance(
    vertices: Array, faces: Array, to: Tree, *, progress: Progress = SILENT
) -> Reach:
    """Greatest distance that any point of some faces has from a surface.

    Not at corners or samples: the greatest of all points'. Faces whose upper bound may matter are
    divided, where surfaces lie close together along the other's edges, else in the middle of their
    own, until the bounds are within 1 % or a tenth of a micrometre. A face's upper bound comes from
    single faces of the other surface: the distance from one is convex, so that a corner has the
    greatest.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3), float64
        mm.
    faces : ndarray, shape (m, 3), int32
    to : Tree
        Of the other surface.
    progress : Progress

    Returns
    -------
    Reach

    Raises
    ------
    Cancelled
        If `progress` asks to stop.

    References
    ----------
    Tang, Lee & Kim 2009, *Interactive Hausdorff distance computation for general polygonal
    models*; Guthe, Borodin & Klein 2005, *Fast and accurate Hausdorff distance calculation between
    meshes*.

    Examples
    --------
    The lid of a cube, and the cube without it: the lid's middle is 5 mm from all sides.

    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> cube = cuboid((10.0, 10.0, 10.0))
    >>> top = cube.vertices[cube.faces, 2].min(axis=1) == 10.0
    >>> found = directed_distance(
    ...     cube.vertices, cube.faces[top], Tree.of(cube.vertices, cube.faces[~top])
    ... )
    >>> found.low <= 5.0 <= found.high <= 1.01 * found.low
    True
    """
    if not len(faces):
        return NOWHERE
    progress.step("Measuring how far apart the surfaces are", 0.0)
    measured = _Measured.of(vertices, faces, to)
    bounds, farthest = measured.bounds, int(np.argmax(measured.distance))
    low, at = float(measured.distance[farthest]), measured.points[farthest]
    waiting = np.flatnonzero(bounds > _enough(low))
    waiting = waiting[np.argsort(-bounds[waiting], kind="stable")]
    high = float(bounds[bounds <= _enough(low)].max(initial=low))
    twin, most_pieces = measured.twin_for(len(waiting)), 0
    while len(waiting) and _pieces_each(len(waiting)) > most_pieces:
        most_pieces = _pieces_each(len(waiting))
        unsettled = bounds[waiting]
        done, take = 0, _FIRST_FACES
        while done < len(waiting):
            progress.step("Measuring how far apart the surfaces are", done / len(waiting))
            chosen = waiting[done : done + take]
            lows, highs, places = measured.refined(chosen, twin, low, FLOOR, most_pieces)
            unsettled[done : done + take] = highs
            done, take = done + take, min(take * _WIDER, _MOST_FACES)
            best = int(np.argmax(lows))
            if lows[best] > low:
                low, at = float(lows[best]), places[best]
        # faces that would have needed more pieces have another turn, since they are fewer
        over = unsettled > _enough(low)
        high = max(high, float(unsettled[~over].max(initial=0.0)))
        waiting, unsettled = waiting[over], unsettled[over]
    if len(waiting):
        high = max(high, float(unsettled.max()))
    if low == 0.0:
        return Reach(0.0, high, None)
    return Reach(low, max(low, high), (float(at[0]), float(at[1]), float(at[2])))


def _pieces_each(faces: int) -> int:
    """How many pieces each of some faces may be divided into."""
    return int(np.clip(_ALL_PIECES // max(faces, 1), _LEAST_PIECES, _MOST_PIECES))


def _enough(low: float) -> float:
    """Up to which distance nothing changes what is told, once `low` is known."""
    return max(low * (1.0 + SHARE), low + FLOOR)


def upper_bounds(vertices: Array, faces: Array, to: Tree) -> Array:
    """Upper bounds of the distance that each face has from a surface, found without dividing any.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3), float64
        mm.
    faces : ndarray, shape (m, 3), int32
    to : Tree
        Of the other surface.

    Returns
    -------
    ndarray, shape (m,)
        mm.
    """
    return _Measured.of(vertices, faces, to).bounds


def faces_beyond(vertices: Array, faces: Array, to: Tree, limit: float) -> Array:
    """Which faces cannot be shown to stay within a distance of a surface.

    Faces that are farther at any of their points are all among them; beside them at most such as
    come within 1 % of the limit.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3), float64
        mm.
    faces : ndarray, shape (m, 3), int32
    to : Tree
        Of the other surface.
    limit : float
        mm.

    Returns
    -------
    ndarray, shape (m,), bool

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> tall, low = cuboid((10.0, 10.0, 12.0)), cuboid()
    >>> to = Tree.of(low.vertices, low.faces)
    >>> int(faces_beyond(tall.vertices, tall.faces, to, 1.0).sum())  # all but the bottom's
    10
    """
    beyond = np.zeros(len(faces), dtype=bool)
    beyond[points_beyond(vertices, faces, to, limit)[0]] = True
    return beyond


def points_beyond(vertices: Array, faces: Array, to: Tree, limit: float) -> tuple[Array, Array]:
    """The faces of `faces_beyond`, with a point of each that is among its farthest.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3), float64
        mm.
    faces : ndarray, shape (m, 3), int32
    to : Tree
        Of the other surface.
    limit : float
        mm.

    Returns
    -------
    beyond : ndarray, shape (k,)
        Numbers of the faces, ascending.
    points : ndarray, shape (k, 3)
        mm.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> tall, low = cuboid((10.0, 10.0, 12.0)), cuboid()
    >>> to = Tree.of(low.vertices, low.faces)
    >>> bool((points_beyond(tall.vertices, tall.faces, to, 1.0)[1][:, 2] > 11.0).all())
    True
    """
    beyond = np.zeros(len(faces), dtype=bool)
    points = np.empty((len(faces), 3))
    measured = _Measured.of(vertices, faces, to)
    waiting, most_pieces = np.flatnonzero(measured.bounds > limit), 0
    twin = measured.twin_for(len(waiting))
    while len(waiting) and _pieces_each(len(waiting)) > most_pieces:
        most_pieces = _pieces_each(len(waiting))
        low = limit / (1.0 + SHARE)
        lows, highs, points[waiting] = measured.refined(waiting, twin, low, 0.0, most_pieces)
        beyond[waiting] = highs > limit
        waiting = waiting[(highs > limit) & (lows <= limit)]
    found = np.flatnonzero(beyond)
    return found, points[found]


@dataclass(frozen=True, eq=False)
class _Measured:
    """Some faces with upper bounds of their distance from a surface, by that of their corners."""

    points: Array
    corners: Array
    to: Tree
    distance: Array
    nearest: Array
    bounds: Array

    @staticmethod
    def of(vertices: Array, faces: Array, to: Tree) -> "_Measured":
        used, local = np.unique(faces, return_inverse=True)
        points = frozen(vertices[used], np.float64)
        corners = frozen(local.reshape(-1, 3), np.int32)
        distance, nearest = to.nearest(points)
        bounds = first_bounds(points, corners, distance, nearest, to.vertices, to.faces)
        return _Measured(points, corners, to, distance, nearest, bounds)

    def twin_for(self, waiting: int) -> Array:
        """The other surface's half-edges, if that is worth the while for so many faces."""
        if waiting <= _FEW * len(self.to.faces):
            return np.zeros(0, np.int32)
        return Topology(Mesh(self.to.vertices, self.to.faces)).twin

    def refined(
        self, chosen: Array, twin: Array, low: float, floor: float, most_pieces: int
    ) -> tuple[Array, Array, Array]:
        """Bounds of some faces as far as they matter, and the points that have the lower ones."""
        lows, highs = np.empty(len(chosen)), np.empty(len(chosen))
        at = np.empty((len(chosen), 3))
        to = self.to
        refine(
            chosen, self.bounds, self.points, self.corners, self.nearest, to.vertices, to.faces,
            to.order, to.boxes, twin, low, SHARE, floor, most_pieces, lows, highs, at,
        )  # fmt: skip
        return lows, highs, at


@dataclass(frozen=True)
class SurfaceDistance:
    """How far two surfaces are apart, each way.

    Attributes
    ----------
    a_to_b, b_to_a : Reach
    """

    a_to_b: Reach
    b_to_a: Reach

    @property
    def both(self) -> Reach:
        """The greater of both: the Hausdorff distance."""
        return self.a_to_b | self.b_to_a


def hausdorff_distance(a: Mesh, b: Mesh, *, progress: Progress = SILENT) -> SurfaceDistance:
    """The Hausdorff distance of two surfaces, each way, with bounds.

    Parameters
    ----------
    a, b : Mesh
    progress : Progress

    Returns
    -------
    SurfaceDistance

    Raises
    ------
    InvalidMesh
        If one of them has no faces.
    Cancelled
        If `progress` asks to stop.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> hausdorff_distance(cuboid(), cuboid((10.0, 10.0, 12.0))).both.low
    2.0
    """
    if not len(a.faces) or not len(b.faces):
        raise InvalidMesh("There is no surface to measure a distance from.")
    there = directed_distance(
        a.vertices, a.faces, Tree.of(b.vertices, b.faces), progress=progress.span(0.0, 0.5)
    )
    back = directed_distance(
        b.vertices, b.faces, Tree.of(a.vertices, a.faces), progress=progress.span(0.5, 1.0)
    )
    return SurfaceDistance(there, back)
