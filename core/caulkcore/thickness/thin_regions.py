"""Thin places: samples thinner than a limit grown together, and what each is like."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..jit import nb
from ..mesh._edge_kernels import components
from ..mesh.arrays import Array
from ..mesh.groups import Groups
from ..spatial.box_tree import Tree
from .ball_and_ray import BallAndRay, measure_ball_and_ray
from .sampling import Samples, neighbours

SPECK = 0.1
"""A thin region of less area than this share of the limit squared is no region."""
ONE_SIDED = 0.8
"""A region is free-standing when the directions in which it goes on into thicker material add up
to more than this share of their lengths."""
RIM = np.deg2rad(20.0)
"""A region ends at a rim, not in thicker material, where the surface turns outward by more."""
ROUND = 2.0
"""A region is a wire when, across the thickness, it is at most this many times as wide."""
_WIDTHS_ASKED = 24
"""Samples of each region at which its width is measured."""
_BESIDE = 1.2
"""Thin samples no farther apart than so many times their own size are of one region."""
_ASIDE = 8
"""Samples looked at for that, the nearest first."""
_ALIKE = 0.5
"""Cosine of the angle up to which their sides count as one: 60 degrees."""
_ENDS_BESIDE = 16
"""Ends of a region that tell together which way it goes on: those of some four samples."""
_FIRST_ASKED = 64
"""Points of a region that are asked first how high they are."""
_DIRECTIONS = 6
"""Directions across the thickness in which it is: every 30 degrees."""


@dataclass(frozen=True, eq=False)
class ThinRegions:
    """Thin regions, the thinnest first.

    Attributes
    ----------
    samples : Groups
        Samples of each.
    thickness : ndarray, shape (r,)
        The least in each, mm.
    at : ndarray, shape (r, 3)
        Where that is.
    area : ndarray, shape (r,)
        Of skin, both sides together, mm².
    free_standing, wire : ndarray, shape (r,), bool
    outline : ndarray, shape (k, 2, 3)
        Segments between thin and thicker skin: the contour of the limit.
    outline_at : ndarray, shape (k, 3)
        Where the thickness is the limit, between the samples on both sides of each.
    outline_of : ndarray, shape (k,)
        The region that each belongs to.
    outline_face : ndarray, shape (k,)
        The face within, of the mesh.
    outline_turn : ndarray, shape (k,)
        By how much the skin turns outward there, radians; inward below 0.
    points : ndarray, shape (s, 3)
        Those of all samples.
    """

    samples: Groups
    thickness: Array
    at: Array
    area: Array
    free_standing: Array
    wire: Array
    outline: Array
    outline_at: Array
    outline_of: Array
    outline_face: Array
    outline_turn: Array
    points: Array

    def __len__(self) -> int:
        return len(self.thickness)

    def height(self, region: int, most: float = np.inf) -> float:
        """How far a region reaches from where it goes on into thicker material.

        Parameters
        ----------
        region : int
        most : float
            How far matters, mm.

        Returns
        -------
        float
            mm; infinite if it is more than `most`, or never goes on.
        """
        from scipy.spatial import cKDTree  # a tenth of a second to import; few models need it

        first, last = np.searchsorted(self.outline_of, [region, region + 1])
        feet = self.outline_at[first:last][self.outline_turn[first:last] < RIM]
        if not len(feet):
            return np.inf
        points, base = self.points[self.samples[region]], cKDTree(feet)
        # of a high region some points tell at once
        for some in (points[:: len(points) // _FIRST_ASKED + 1], points):
            away = base.query(some, distance_upper_bound=np.nextafter(most, np.inf))[0].max()
            if away == np.inf:
                break
        return float(away)

    def is_low(self, times: float) -> Array:
        """Which free-standing regions reach at most so many times their thickness from their base.

        Parameters
        ----------
        times : float

        Returns
        -------
        ndarray, shape (r,), bool
        """
        if times not in self._low:
            low = self.free_standing.copy()
            for region in np.flatnonzero(low).tolist():
                most = times * float(self.thickness[region])
                low[region] = self.height(region, most) <= most
            self._low[times] = low
        return self._low[times]

    @cached_property
    def _low(self) -> dict[float, Array]:
        return {}


class SampleLinks:
    """Which samples are beside each other, and across the wall from one another.

    Parameters
    ----------
    samples : Samples
    depths : BallAndRay
        Measured at them.
    twin : ndarray, shape (3 m,)
        Half-edge across each half-edge of the mesh.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> from caulkcore.thickness.thickness_map import measure_thickness
    >>> walls = measure_thickness(cuboid((20.0, 20.0, 0.5)), 0.8)
    >>> links = SampleLinks(walls.samples, walls.depths, walls.topology.twin)
    >>> bool((links.beyond >= 0).all()), len(links.facing) == len(walls.samples.face)
    (True, True)
    """

    def __init__(self, samples: Samples, depths: BallAndRay, twin: Array) -> None:
        self._samples, self._depths, self._twin = samples, depths, twin

    @cached_property
    def beyond(self) -> Array:
        """Samples across the three sides of each, shape (s, 3), -1 where none; see `neighbours`."""
        samples = self._samples
        every = np.arange(len(samples.face))
        return neighbours(samples.division, samples.begin, samples.face, self._twin, every)

    @cached_property
    def facing(self) -> Array:
        """The sample on the opposite side of the wall at each, shape (s,), -1 where none."""
        contact = self._depths.contact
        facing = np.full(len(contact), -1)
        walls = np.flatnonzero(contact >= 0)
        reach = self._depths.wall[walls, None]
        across = self._samples.points[walls] - self._samples.normals[walls] * reach
        facing[walls] = self._samples.at(contact[walls], across)
        return facing


@nb.njit(cache=True)
def _links_of_thin(  # type: ignore[no-untyped-def]
    members: Array, rank: Array, beyond: Array, facing: Array
):
    """Pairs of thin samples that are linked, and those at an end with the side that it is on.

    Samples are numbered among the thin ones; `rank` is that number, or -1.
    """
    pairs = np.empty((4 * len(members), 2), dtype=np.int32)
    ends = np.empty((3 * len(members), 2), dtype=np.int32)
    found = ended = 0
    for i in range(len(members)):
        for side in range(3):
            other = beyond[members[i], side]
            if other < 0:
                continue
            if rank[other] < 0:
                ends[ended, 0], ends[ended, 1] = i, side
                ended += 1
            else:
                pairs[found, 0], pairs[found, 1] = i, rank[other]
                found += 1
        # the two sides of a wall belong together
        other = facing[members[i]]
        if other >= 0 and rank[other] >= 0:
            pairs[found, 0], pairs[found, 1] = i, rank[other]
            found += 1
    return pairs[:found], ends[:ended]


def _no_regions(points: Array) -> ThinRegions:
    """The regions of a surface that is thin nowhere."""
    items, values = np.zeros(0, dtype=np.int64), np.zeros(0)
    nowhere, marks = np.zeros((0, 3)), np.zeros(0, dtype=bool)
    groups = Groups(items, np.zeros(1, dtype=np.int64))
    return ThinRegions(
        groups, values, nowhere, values, marks, marks, np.zeros((0, 2, 3)), nowhere, items, items,
        values, points,
    )  # fmt: skip


def thin_regions(
    samples: Samples, depths: BallAndRay, tree: Tree, links: SampleLinks, limit: float
) -> ThinRegions:
    """Grow thin samples into regions.

    Parameters
    ----------
    samples : Samples
    depths : Depths
        Measured at them.
    tree : Tree
        Over the faces of the mesh.
    links : SampleLinks
        Of these samples.
    limit : float
        mm; what is thinner is thin.

    Returns
    -------
    Regions

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> from caulkcore.thickness.thickness_map import measure_thickness
    >>> walls = measure_thickness(cuboid((20.0, 20.0, 0.5)), 0.8)
    >>> regions = thin_regions(walls.samples, walls.depths, walls.tree, walls.links, 0.8)
    >>> regions.thickness.round(6).tolist(), regions.wire.tolist()
    ([0.5], [False])
    """
    wall = depths.wall
    thin = depths.is_wall & (wall < limit) & (samples.area > 0)
    members = np.flatnonzero(thin)
    rank = np.full(len(thin), -1, dtype=np.int32)
    rank[members] = np.arange(len(members))
    if not len(members):
        return _no_regions(samples.points)
    pairs, ends = _links_of_thin(members, rank, links.beyond, links.facing)
    at_end = np.zeros(len(members), dtype=bool)
    at_end[ends[:, 0]] = True
    joins = [pairs, _joins_beside(samples, members, at_end).astype(np.int32)]
    label = components(np.concatenate(joins), len(members))
    groups = Groups.by_label(label, members)
    area = groups.reduce(np.add, samples.area[groups.items])
    groups = groups.take(np.flatnonzero(area >= SPECK * limit * limit))
    least = groups.reduce(np.minimum, wall[groups.items])
    groups = groups.take(np.argsort(least, kind="stable"))
    region = np.full(len(thin), -1, dtype=np.int32)
    region[groups.items] = np.repeat(np.arange(len(groups), dtype=np.int32), groups.sizes)
    ends = _ends(samples, depths, links, region, members[ends[:, 0]], ends[:, 1], limit)
    where = np.array([groups[g][np.argmin(wall[groups[g]])] for g in range(len(groups))], dtype=int)
    return ThinRegions(
        groups,
        wall[where],
        samples.points[where].reshape(-1, 3),
        groups.reduce(np.add, samples.area[groups.items]),
        _free_standing(samples, groups, ends),
        _wire(samples, depths, tree, groups),
        ends.segments,
        ends.at,
        ends.owner,
        samples.face[ends.members],
        ends.angle,
        samples.points,
    )


def _joins_beside(samples: Samples, members: Array, at_end: Array) -> Array:
    """Pairs of thin samples at ends that are as near each other as their own size, shape (k, 2).

    Of a strip hardly wider than the samples every second one may be thin: it is one strip.
    """
    from scipy.spatial import cKDTree  # half a second to import, and most models have none thin

    ends = np.flatnonzero(at_end)
    if len(ends) < 2:
        return np.zeros((0, 2), dtype=np.int64)
    points, normals = samples.points[members[ends]], samples.normals[members[ends]]
    reach = _BESIDE * np.sqrt(2 * samples.area[members[ends]])
    away, near = cKDTree(points).query(
        points, k=min(_ASIDE, len(ends)), distance_upper_bound=reach.max() * (1 + 1e-9)
    )
    row, column = np.nonzero(away <= reach[:, None])
    other = near[row, column]
    alike = np.einsum("ij,ij->i", normals[row], normals[other]) > _ALIKE
    return np.stack([ends[row[alike]], ends[other[alike]]], axis=1)


@dataclass(frozen=True, eq=False)
class _Ends:
    """Where regions end: the segment, the place between the samples where the thickness is the
    limit, the region, the sample within, how the skin turns there."""

    segments: Array
    at: Array
    owner: Array
    members: Array
    angle: Array


def _ends(
    samples: Samples,
    depths: BallAndRay,
    links: SampleLinks,
    region: Array,
    members: Array,
    side: Array,
    limit: float,
) -> _Ends:
    """The ends of regions at some sides of thin samples; `region` is that of each sample, or -1."""
    kept = np.flatnonzero(region[members] >= 0)
    kept = kept[np.argsort(region[members[kept]], kind="stable")]
    members, side = members[kept], side[kept]
    corners, here = samples.corners(members), np.arange(len(members))
    segments = np.stack([corners[here, side], corners[here, (side + 1) % 3]], axis=1)
    edge = segments[:, 1] - segments[:, 0]
    outside = links.beyond[members, side]
    normal, after = samples.normals[members], samples.normals[outside]
    # convex by how far the surface beyond turns away
    angle = np.arctan2(
        np.einsum("ij,ij->i", np.cross(normal, after), edge)
        / np.maximum(np.linalg.norm(edge, axis=1), 1e-300),
        np.einsum("ij,ij->i", normal, after),
    )
    # in the middle of the side where there is no wall beyond, or the skin turns
    here, there = depths.wall[members], depths.wall[outside]
    goes_on = depths.is_wall[outside] & (there > here) & (np.abs(angle) < RIM)
    share = np.clip((limit - here) / np.where(goes_on, there - here, 1.0), 0.0, 1.0)[:, None]
    between = (1 - share) * samples.points[members] + share * samples.points[outside]
    at = np.where(goes_on[:, None], between, segments.mean(axis=1))
    return _Ends(segments, at, region[members], members, angle)


def _free_standing(samples: Samples, groups: Groups, ends: _Ends) -> Array:
    """Whether each region goes on into thicker material on one side only, or on none.

    Sides of samples zigzag along the contour, each face its own way: what counts of each is what
    goes the way of those beside it.
    """
    edge = ends.segments[:, 1] - ends.segments[:, 0]
    outward = np.cross(edge, samples.normals[ends.members])
    goes_on = ends.angle < RIM
    outward, owner = outward[goes_on], ends.owner[goes_on]
    ways = _ways_round(ends.segments[goes_on].mean(axis=1), outward, owner)
    total = np.zeros((len(groups), 3))
    length = np.zeros(len(groups))
    np.add.at(total, owner, outward)
    np.add.at(length, owner, np.einsum("ij,ij->i", outward, ways))
    return np.linalg.norm(total, axis=1) >= ONE_SIDED * length


def _ways_round(at: Array, outward: Array, owner: Array) -> Array:
    """Unit vectors: the mean way outward of the ends of the same region nearest to each."""
    if not len(at):
        return outward
    from scipy.spatial import cKDTree  # half a second to import, and most models have none thin

    count = np.bincount(owner)
    # regions stand far from each other along a fourth axis
    apart = 4.0 * float(np.linalg.norm(np.ptp(at, axis=0))) + 1.0
    places = np.column_stack([at, apart * owner])
    asked = min(_ENDS_BESIDE, len(at))
    # of other regions none is asked for: far off, they would take long to find
    away, near = cKDTree(places).query(places, k=asked, distance_upper_bound=apart / 2)
    away, near = away.reshape(len(at), asked), near.reshape(len(at), asked) % len(at)
    # not so many that they lie round all of a small region
    taken = np.clip(count[owner] // 6, 1, asked)
    reach = np.maximum(away[np.arange(len(at)), taken - 1], 1e-12)[:, None]
    # less and less, for a sharp end would count half a zigzag
    weight = np.where(away <= reach, np.exp(-((2.0 * away / reach) ** 2)), 0.0)
    way = np.einsum("ij,ijk->ik", weight, outward[near])
    return np.asarray(way / np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-300))


def _wire(samples: Samples, depths: BallAndRay, tree: Tree, groups: Groups) -> Array:
    """Whether each region is about as wide as it is thick, in some direction across."""
    if not len(groups):
        return np.zeros(0, dtype=bool)
    picks = np.concatenate(
        [
            groups[g][
                np.linspace(0, len(groups[g]) - 1, min(len(groups[g]), _WIDTHS_ASKED)).astype(int)
            ]
            for g in range(len(groups))
        ]
    )
    owner = np.repeat(np.arange(len(groups)), np.minimum(groups.sizes, _WIDTHS_ASKED))
    wall = depths.wall[picks]
    normal = samples.normals[picks]
    middle = samples.points[picks] - normal * wall[:, None] / 2
    u = np.cross(normal, np.eye(3)[np.abs(normal).argmin(axis=1)])
    u /= np.maximum(np.linalg.norm(u, axis=1, keepdims=True), 1e-300)
    v = np.cross(normal, u)
    most = ROUND * float(wall.max()) + 1e-9
    angles = np.pi * np.arange(_DIRECTIONS)[:, None, None] / _DIRECTIONS
    lines = np.cos(angles) * u + np.sin(angles) * v
    # both ways along each line; the measure goes against the normal that it is given
    ways = np.stack([-lines, lines]).reshape(-1, 3)
    starts = np.broadcast_to(middle, (2 * _DIRECTIONS, *middle.shape)).reshape(-1, 3)
    reach = measure_ball_and_ray(tree, starts, ways, np.full(len(ways), -1), most).ray
    there, back = reach.reshape(2, _DIRECTIONS, len(picks))
    narrow = (there + back <= ROUND * wall).any(axis=0)
    share = np.bincount(owner, narrow, len(groups)) / np.bincount(owner, minlength=len(groups))
    return share > 0.5
