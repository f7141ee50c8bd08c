"""Necks of material: where thick parts hang together by less than a wall ought to be.

At a crease that turns inward the largest ball that touches a face beside it is as large as the part
that the face belongs to, so that the thickness of walls does not tell how little holds two parts
together. What does is the ball in the crease itself: of all balls that touch there, each with its
middle between the two faces' directions, the least one is the largest that can travel through.
"""

from dataclasses import dataclass

import numpy as np

from ..jit import nb
from ..mesh._edge_kernels import components
from ..mesh._face_kernels import cross_at
from ..mesh.arrays import Array, frozen
from ..mesh.groups import Groups
from ..mesh.topology import Topology
from ..mesh.triangle_mesh import face_normals
from ..spatial.box_tree import Tree
from ._ball_kernels import touching_balls
from .ball_and_ray import OPPOSITE

_CREASE = np.deg2rad(30.0)
"""Edges that turn inward by less are no creases: balls beside them tell the thickness."""
_ROUNDING = 1e-9
"""Of a cosine."""
_EVERY = 0.5
"""Creases are looked at every so many limits along them."""
_MOST_POINTS = 60_000
"""Points along creases at most; they stand farther apart then."""
_FIRST = np.linspace(0.0, 1.0, 9)
"""Shares of the way from one face's direction to the other's at which balls are tried."""
_ROUNDS = 3
"""Times that the least of them is looked for between its neighbours."""
_BETWEEN = np.linspace(-1.0, 1.0, 5)
"""Where, in steps of the round before."""
_MOVES = 40
"""Steps that are taken from a neck into the part on either side, to learn how thick that is."""
_STEP = 0.5
"""Length of a step, of the distance from the surface there: no step leaves the solid."""
_TOLD_BY_WALLS = 0.8
"""A neck is told as a thin wall already if that is near and not thicker than the neck over this."""


@dataclass(frozen=True, eq=False)
class Necks:
    """Necks of material, the narrowest first.

    Attributes
    ----------
    width : ndarray, shape (k,)
        Diameter of the largest ball that can travel through, mm.
    at : ndarray, shape (k, 3)
        Where it touches the crease.
    middle : ndarray, shape (k, 3)
        Its middle.
    axis : ndarray, shape (k, 3)
        The direction in which it travels, a unit vector.
    middles : Groups
        Middles of all its balls, one for each place looked at along the crease.
    edges : Groups
        Edges of the crease of each, as pairs of vertices.
    faces : Groups
        Faces beside them.
    """

    width: Array
    at: Array
    middle: Array
    axis: Array
    middles: Groups
    edges: Groups
    faces: Groups

    def __len__(self) -> int:
        return len(self.width)


@dataclass(frozen=True, eq=False)
class CreaseBalls:
    """The least ball in each point looked at along creases, where it spans anything.

    Attributes
    ----------
    width : ndarray, shape (p,)
        mm.
    at, middle, axis : ndarray, shape (p, 3)
    edge : ndarray, shape (p, 2)
        The edge that the point is on.
    faces : ndarray, shape (p, 2)
        Those beside it.
    spacing : float
        Distance of the points along the creases, mm.
    """

    width: Array
    at: Array
    middle: Array
    axis: Array
    edge: Array
    faces: Array
    spacing: float


@nb.njit(cache=True, parallel=True)
def _creased(vertices: Array, faces: Array, pairs: Array) -> Array:
    """Which edges may turn inward by a crease, given their half-edges; few others are too."""
    out = np.empty(len(pairs), dtype=np.bool_)
    flat = np.cos(_CREASE) + _ROUNDING
    for i in nb.prange(len(pairs)):
        g, h = pairs[i, 0] // 3, pairs[i, 1] // 3
        nx, ny, nz = cross_at(vertices, faces[g, 0], faces[g, 1], faces[g, 2])
        mx, my, mz = cross_at(vertices, faces[h, 0], faces[h, 1], faces[h, 2])
        sizes = np.sqrt((nx * nx + ny * ny + nz * nz) * (mx * mx + my * my + mz * mz))
        out[i] = nx * mx + ny * my + nz * mz <= flat * sizes
    return out


def measure_creases(topology: Topology, tree: Tree, most: float, limit: float) -> CreaseBalls:
    """Find the least ball in creases that turn inward.

    Parameters
    ----------
    topology : Topology
        Of a whole mesh.
    tree : Tree
        Over its faces.
    most : float
        Greatest width of interest, mm.
    limit : float
        The width of interest, mm: creases are looked at every half of it.

    Returns
    -------
    CreaseBalls

    Examples
    --------
    Two boxes that overlap by 0.1 mm along an edge, as one solid:

    >>> from caulkcore.mesh.concatenate import concatenate
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> from caulkcore.arrangement.outer_hull import outer_hull
    >>> two = concatenate([cuboid(), cuboid(at=(9.9, 9.9, 0.0))])
    >>> solid = outer_hull(two).mesh
    >>> tree = Tree.of(solid.vertices, solid.faces)
    >>> found = measure_creases(Topology(solid), tree, 2.0, 1.0)
    >>> round(found.width.min().item(), 3)
    0.141
    """
    mesh = topology.mesh
    pairs = topology.paired_half_edges
    pairs = pairs[_creased(frozen(mesh.vertices, np.float64), topology.faces, pairs)]
    ends = topology.ends(pairs[:, 0])
    along = mesh.vertices[ends[:, 1]] - mesh.vertices[ends[:, 0]]
    length = np.linalg.norm(along, axis=1)
    along /= np.maximum(length, 1e-300)[:, None]
    faces = pairs // 3
    here, there = (face_normals(mesh.vertices, mesh.faces[side]) for side in faces.T)
    turn = np.arctan2(
        np.einsum("ij,ij->i", np.cross(here, there), along), np.einsum("ij,ij->i", here, there)
    )
    chosen = np.flatnonzero((turn < -_CREASE) & (length > 0))
    spacing = max(_EVERY * limit, float(length[chosen].sum()) / _MOST_POINTS)
    count = np.maximum(np.ceil(length[chosen] / spacing), 1).astype(np.int64)
    row = np.repeat(chosen, count)
    first = np.cumsum(count) - count
    share = (np.arange(len(row)) - np.repeat(first, count) + 0.5) / np.repeat(count, count)
    start, end = mesh.vertices[ends[row, 0]], mesh.vertices[ends[row, 1]]
    points = start + share[:, None] * (end - start)
    balls = _Balls(points, here[row], there[row], along[row], tree, most, topology)
    # most creases have nothing small between their faces: one ball each tells
    near = np.flatnonzero(balls.width(np.arange(len(row)), np.full(len(row), 0.5)) < most)
    tried = np.stack([balls.width(near, np.full(len(near), share)) for share in _FIRST], axis=1)
    best = np.argmin(tried, axis=1)
    where, width = _FIRST[best], tried[np.arange(len(near)), best]
    step = _FIRST[1]
    for _ in range(_ROUNDS):
        step /= 2.0
        around = np.clip(where[:, None] + step * _BETWEEN, 0.0, 1.0)
        again = np.stack([balls.width(near, one) for one in around.T], axis=1)
        best = np.argmin(again, axis=1)
        where, width = around[np.arange(len(near)), best], again[np.arange(len(near)), best]
    least = width < most
    near, where, width = near[least], where[least], width[least]
    towards = balls.direction(near, where)
    return CreaseBalls(
        width,
        points[near],
        points[near] - towards * width[:, None] / 2,
        np.cross(along[row[near]], towards),
        ends[row[near]],
        faces[row[near]],
        spacing,
    )


class _Balls:
    """Balls that touch at points of creases, their middles between two faces' directions."""

    def __init__(
        self, points: Array, here: Array, there: Array, along: Array, tree: Tree, most: float,
        topology: Topology,
    ) -> None:  # fmt: skip
        self._points, self._here, self._tree, self._most = points, here, tree, most
        # from one direction to the other round the edge, through the air
        self._side = np.cross(along, here)
        self._turn = np.arctan2(
            np.einsum("ij,ij->i", there, self._side), np.einsum("ij,ij->i", there, here)
        )
        open_edges = (topology.twin == -1).reshape(-1, 3)
        self._rims = open_edges[tree.order] if open_edges.any() else np.zeros((0, 3), dtype=bool)

    def direction(self, rows: Array, share: Array) -> Array:
        """Unit vectors at a share of the way from the one face's normal to the other's."""
        angle = (share * self._turn[rows])[:, None]
        turned: Array = np.cos(angle) * self._here[rows] + np.sin(angle) * self._side[rows]
        return turned

    def width(self, rows: Array, share: Array) -> Array:
        """Diameter of the ball there; `most` where nothing opposite stops it."""
        found: Array = touching_balls(
            frozen(self._points[rows], np.float64),
            frozen(self.direction(rows, share), np.float64),
            float(self._most),
            OPPOSITE,
            self._tree.corners,
            self._tree.boxes,
            self._tree.slabs,
            self._tree.discs,
            self._rims,
        )
        return found


def find_necks(
    tree: Tree, balls: CreaseBalls, limit: float, thin: Array, thin_walls: Array
) -> Necks:
    """Gather balls in creases into necks that hold two thick parts together.

    A part is thick if a ball of twice the limit has room in it; what is less is detail. What is
    told as a thin wall already is no neck.

    Parameters
    ----------
    tree : Tree
        Over the faces of the mesh.
    balls : CreaseBalls
        Measured to the limit at least.
    limit : float
        mm; what is narrower is a neck.
    thin : ndarray, shape (q, 3)
        Points of thin walls.
    thin_walls : ndarray, shape (q,)
        How thick the wall of each is, mm.

    Returns
    -------
    Necks
    """
    small = np.flatnonzero(balls.width < limit)
    small = small[~_told(balls, small, thin, thin_walls, limit)]
    groups = _gathered(balls, small)
    least = np.array(
        [one[np.argmin(balls.width[one])] for one in (groups[g] for g in range(len(groups)))],
        dtype=np.int64,
    )
    middle, axis = balls.middle[least].reshape(-1, 3), balls.axis[least].reshape(-1, 3)
    ahead, ends = _into_part(tree, middle, axis, limit)
    back, begins = _into_part(tree, middle, -axis, limit)
    # from the one part to the other, whichever way the crease runs
    axis = ends - begins
    axis /= np.maximum(np.linalg.norm(axis, axis=1, keepdims=True), 1e-300)
    kept = np.flatnonzero(ahead & back)
    kept = kept[np.argsort(balls.width[least[kept]], kind="stable")]
    least, groups = least[kept], groups.take(kept)
    return Necks(
        balls.width[least],
        balls.at[least].reshape(-1, 3),
        balls.middle[least].reshape(-1, 3),
        axis[kept],
        Groups(balls.middle[groups.items].reshape(-1, 3), groups.starts),
        Groups(balls.edge[groups.items].reshape(-1, 2), groups.starts),
        Groups(balls.faces[groups.items].reshape(-1, 2), groups.starts),
    )


def _told(balls: CreaseBalls, rows: Array, thin: Array, thin_walls: Array, limit: float) -> Array:
    """Which balls lie in a thin wall that is told already."""
    if not len(thin) or not len(rows):
        return np.zeros(len(rows), dtype=bool)
    from scipy.spatial import cKDTree  # half a second to import

    reach = 0.5 * balls.width[rows] + 0.6 * limit
    away, near = cKDTree(thin).query(balls.middle[rows])
    told: Array = (away <= reach) & (balls.width[rows] >= _TOLD_BY_WALLS * thin_walls[near])
    return told


def _gathered(balls: CreaseBalls, rows: Array) -> Groups:
    """Balls of one neck together: those along one crease, and across from one another."""
    if not len(rows):
        return Groups(rows, np.zeros(1, dtype=np.int64))
    from scipy.spatial import cKDTree

    reach = 1.2 * balls.spacing
    pairs = cKDTree(balls.middle[rows]).query_pairs(
        reach + 0.5 * float(balls.width[rows].max()), output_type="ndarray"
    )
    apart = np.linalg.norm(
        balls.middle[rows[pairs[:, 0]]] - balls.middle[rows[pairs[:, 1]]], axis=1
    )
    widest = np.maximum(balls.width[rows[pairs[:, 0]]], balls.width[rows[pairs[:, 1]]])
    joined = pairs[apart <= reach + 0.5 * widest].astype(np.int32)
    return Groups.by_label(components(joined, len(rows)), rows)


def _into_part(tree: Tree, middle: Array, axis: Array, limit: float) -> tuple[Array, Array]:
    """Whether a ball of twice the limit has room in the part that lies in a direction, and where.

    From the middle of a neck the way leads to where the surface is farther and farther off.
    """
    ways = np.array(
        [(x, y, z) for x in (-1, 0, 1) for y in (-1, 0, 1) for z in (-1, 0, 1) if x or y or z],
        dtype=float,
    )
    ways /= np.linalg.norm(ways, axis=1, keepdims=True)
    at = middle.copy()
    room, _ = tree.nearest(at)
    going = np.ones(len(at), dtype=bool)
    for move in range(_MOVES):
        rows = np.flatnonzero(going & (room < limit))
        if not len(rows):
            break
        turned = np.concatenate(
            [np.broadcast_to(ways, (len(rows), len(ways), 3)), axis[rows][:, None]], axis=1
        )
        if move == 0:
            turned = axis[rows][:, None]  # into the part, whatever lies beside
        tried = at[rows][:, None] + (_STEP * room[rows])[:, None, None] * turned
        # never back through the neck
        ahead = np.einsum("ijk,ik->ij", tried - middle[rows][:, None], axis[rows])
        away, _ = tree.nearest(tried.reshape(-1, 3))
        away = np.where(ahead > 0, away.reshape(ahead.shape), -1.0)
        best = np.argmax(away, axis=1)
        farther = away[np.arange(len(rows)), best]
        better = (farther > room[rows] * (1 + 1e-6)) | (move == 0)
        at[rows[better]] = tried[better, best[better]]
        room[rows[better]] = farther[better]
        going[rows[~better]] = False
    return room >= limit, at
