"""Open chains that lie beside one another without being joined."""

from dataclasses import dataclass

import numpy as np

from ..mesh._edge_kernels import components
from ..mesh.arrays import Array
from ..mesh.topology import Topology
from ..spatial.near_groups import near_groups
from ..spatial.points_on_edges import nearest_edges

TOLERANCE_SHARE = 1e-3
"""Weld tolerance as a share of the bounding box's diagonal."""
TOLERANCE_MOST = 0.05
"""Largest weld tolerance in mm."""
_EDGE_SHARE = 0.45
"""A vertex joins only another that is nearer than this share of its shortest open edge, so that no
edge collapses."""
_ON_ONE_SIDE = 0.9
"""Two faces lie on one side of their common edge if the cosine between them is more: 26 degrees."""
_TOLERANCE_STEPS = (1e-3, 3e-2, 1.0)
"""Shares of the tolerance at which vertices are joined, one after the other: what lies very close
first, so that detail finer than the tolerance stays apart."""


def weld_tolerance(diagonal: float) -> float:
    """Distance up to which open chains are taken for one torn edge, in mm.

    Parameters
    ----------
    diagonal : float
        Of the bounding box, mm.

    Returns
    -------
    float
        mm.

    Examples
    --------
    >>> weld_tolerance(20.0)
    0.02
    """
    return min(TOLERANCE_SHARE * diagonal, TOLERANCE_MOST)


@dataclass(frozen=True, eq=False)
class Cracks:
    """Where a skin is torn: open edges that meet others once near vertices are joined.

    Attributes
    ----------
    half_edges : ndarray, shape (k,), int32
        The open half-edges that are cracks.
    target : ndarray, shape (n,), int32
        For every vertex of the mesh the one it would be joined to, mostly itself.
    divided : ndarray, shape (k,), int64
        Half-edges that vertices of the other side lie along, in ascending order, from each one's
        beginning to its end. They need not be cracks as a whole.
    by : ndarray, shape (k,), int32
        Those vertices, as joined.
    """

    half_edges: Array
    target: Array
    divided: Array
    by: Array

    def __len__(self) -> int:
        return len(self.half_edges)

    def stitched(self, faces: Array, chosen: Array | None = None) -> tuple[Array, Array]:
        """Faces with the cracks joined, and the face that each is of.

        Faces whose edge has vertices along it are divided there.

        Parameters
        ----------
        faces : ndarray, shape (m, 3)
            Of the topology that was searched.
        chosen : ndarray, shape (n,), bool, optional
            Vertices that may be moved and put in; all by default.

        Returns
        -------
        faces : ndarray, shape (k, 3)
        source : ndarray, shape (k,)
            Row of the given faces that each is of.
        """
        target, divided, by = self.target, self.divided, self.by
        if chosen is not None:
            target = np.where(chosen, target, np.arange(len(target), dtype=target.dtype))
            ends = faces[divided // 3, divided % 3], faces[divided // 3, (divided % 3 + 1) % 3]
            selected = chosen[ends[0]] | chosen[ends[1]]
            divided, by = divided[selected], by[selected]
        joined = target[faces]
        if not len(divided):
            return joined, np.arange(len(faces))
        along: dict[int, dict[int, list[int]]] = {}
        for h, v in zip(divided.tolist(), by.tolist(), strict=True):
            along.setdefault(h // 3, {}).setdefault(h % 3, []).append(v)
        new, source = [], []
        for f, edges in along.items():
            corners = joined[f].tolist()
            parts = _divided(corners, [edges.get(k, []) for k in range(3)])
            new += parts
            source += [f] * len(parts)
        rest = np.ones(len(faces), dtype=bool)
        rest[list(along)] = False
        return (
            np.concatenate([joined[rest], np.array(new, dtype=joined.dtype)]),
            np.concatenate([np.flatnonzero(rest), np.array(source)]),
        )


def _divided(corners: list[int], along: list[list[int]]) -> list[list[int]]:
    """A triangle cut into triangles so that vertices along its edges become corners."""
    for k in range(3):
        if along[k]:
            a, b, c = (corners[(k + i) % 3] for i in range(3))
            bc, ca = along[(k + 1) % 3], along[(k + 2) % 3]
            chain = [a, *along[k], b]
            parts = []
            for i in range(len(chain) - 1):
                last = i == len(chain) - 2
                sides = [[], bc if last else [], ca if i == 0 else []]
                parts += _divided([chain[i], chain[i + 1], c], sides)
            return parts
    return [corners]


def find_cracks(topology: Topology, tolerance: float) -> Cracks:
    """Find open edges that meet another open edge once near vertices are joined.

    Vertices along an edge divide it (T-junctions). Only edges, or parts of edges, that pair up
    exactly two and two count; everything else is left open. What lies very close is joined
    first, so that detail finer than the tolerance stays apart.

    Parameters
    ----------
    topology : Topology
    tolerance : float
        Greatest distance between two vertices to be joined, mm.

    Returns
    -------
    Cracks
    """
    join = np.arange(len(topology.mesh.vertices), dtype=np.int32)
    half_edges = np.flatnonzero(topology.twin == -1).astype(np.int32)
    found, divided, by = [half_edges[:0]], [half_edges[:0].astype(np.int64)], [half_edges[:0]]
    for step in _TOLERANCE_STEPS:
        if len(half_edges) < 2 or tolerance <= 0:
            break
        last = step == _TOLERANCE_STEPS[-1]
        new, whole, cut, at = _search(topology, half_edges, join, step * tolerance, last)
        join = new[join]
        found.append(half_edges[whole])
        divided.append(cut)
        by.append(at)
        half_edges = half_edges[~whole]
    edges = np.concatenate(divided)
    order = np.argsort(edges, kind="stable")
    return Cracks(
        np.sort(np.concatenate(found)), join, edges[order], join[np.concatenate(by)[order]]
    )


def _search(
    topology: Topology, half_edges: Array, join: Array, tolerance: float, in_part: bool
) -> tuple[Array, Array, Array, Array]:
    """Of some open half-edges: joins of vertices, which are cracks, which are divided by what.

    Edges of which only a part meets another are divided if `in_part`, and left else.
    """
    vertices = topology.mesh.vertices
    ends = join[topology.ends(half_edges)]
    rim, local = np.unique(ends, return_inverse=True)
    local = local.reshape(-1, 2)
    points = vertices[rim]
    lengths = np.linalg.norm(points[local[:, 0]] - points[local[:, 1]], axis=1)
    reach = np.full(len(rim), tolerance)
    np.minimum.at(reach, local[:, 0], _EDGE_SHARE * lengths)
    np.minimum.at(reach, local[:, 1], _EDGE_SHARE * lengths)
    root = _clusters(points, local, reach, tolerance)
    # a face does not meet itself
    third = join[topology.faces[half_edges // 3, (half_edges % 3 + 2) % 3]]
    where = np.minimum(np.searchsorted(rim, third), len(rim) - 1)
    opposite = np.where(rim[where] == third, root[where], -1)
    single = np.flatnonzero(~_paired(root[local], len(rim)))
    edge, by = _along(points, local, opposite, single, reach, root)
    apex = vertices[topology.faces[half_edges // 3, (half_edges % 3 + 2) % 3]]
    while True:
        parts, of = _parts(root[local], edge, by)
        good = _paired(parts, len(rim), points, apex[of])
        # a vertex divides an edge only if one of the two parts beside it finds its like
        cut = np.flatnonzero(of[1:] == of[:-1])
        useful = good[cut] | good[cut + 1]
        whole = np.bincount(of, ~good, minlength=len(local)) == 0
        if not in_part:
            useful &= whole[edge]
        if useful.all():
            break
        edge, by = edge[useful], by[useful]
    first, last = np.append(True, of[1:] != of[:-1]), np.append(of[1:] != of[:-1], True)
    meeting = np.concatenate([local[of[good & first], 0], local[of[good & last], 1]])
    new = np.arange(len(vertices), dtype=np.int32)
    new[rim[meeting]] = rim[root[meeting]]
    return new, whole, half_edges[edge].astype(np.int64), rim[by].astype(np.int32)


def _clusters(points: Array, edges: Array, reach: Array, tolerance: float) -> Array:
    """The least of the points that each is one with."""
    root = near_groups(points, reach, tolerance)
    ends = root[edges]
    # groups that a chain of near points has drawn an edge together in
    collapsed = np.isin(root, ends[ends[:, 0] == ends[:, 1]])
    if not collapsed.any():
        return root
    from scipy.spatial import cKDTree  # a tenth of a second to import, and few meshes need it

    # there only the nearest are one
    chosen = np.flatnonzero(collapsed)
    distance, other = cKDTree(points).query(points[chosen], k=2, distance_upper_bound=tolerance)
    # of points at the very same place the query may name the point itself not first
    own = other[:, 0] != chosen
    distance = np.where(own, distance[:, 0], distance[:, 1])
    other = np.where(own, other[:, 0], other[:, 1])
    near = distance <= reach[chosen]
    near[near] &= distance[near] <= reach[other[near]]
    rest = np.flatnonzero(~collapsed)
    pairs = [
        np.stack([chosen[near], other[near]], axis=1),
        np.stack([rest, root[rest]], axis=1),
    ]
    return components(np.concatenate(pairs).astype(np.int32), len(points))


def _paired(ends: Array, n: int, points: Array | None = None, apex: Array | None = None) -> Array:
    """For each edge, whether exactly one other has the same ends.

    With the points, and the third corner of the face at each edge: faces that run the same way and
    lie on one side of their edge do not count. They are the rims of two copies of a skin, and no
    crack in one.
    """
    key = np.sort(ends, axis=1)
    _, which, count = np.unique(
        key[:, 0].astype(np.int64) * n + key[:, 1], return_inverse=True, return_counts=True
    )
    paired = (count[which] == 2) & (ends[:, 0] != ends[:, 1])
    if points is None or apex is None:
        return paired
    rows = np.flatnonzero(paired)
    pairs = rows[np.argsort(which[rows], kind="stable")].reshape(-1, 2)
    same_way = pairs[(ends[pairs[:, 0]] == ends[pairs[:, 1]]).all(axis=1)]
    if not len(same_way):
        return paired
    start = points[ends[same_way[:, 0], 0]]
    along = points[ends[same_way[:, 0], 1]] - start
    along /= np.maximum(np.linalg.norm(along, axis=1, keepdims=True), 1e-300)
    sides = []
    for k in range(2):
        to = apex[same_way[:, k]] - start
        to = to - np.einsum("ij,ij->i", to, along)[:, None] * along
        sides.append(to / np.maximum(np.linalg.norm(to, axis=1, keepdims=True), 1e-300))
    folded = np.einsum("ij,ij->i", *sides) > _ON_ONE_SIDE
    paired[same_way[folded].ravel()] = False
    return paired


def _along(
    points: Array, edges: Array, opposite: Array, single: Array, reach: Array, root: Array
) -> tuple[Array, Array]:
    """Points that lie along edges, and the roots they are of: edge after edge, in order."""
    if len(single) < 3:
        return np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64)
    candidates = np.unique(edges[single])
    found, share = nearest_edges(
        points, edges[single], opposite[single], candidates, reach[candidates], root
    )
    selected = np.flatnonzero(found >= 0)
    edge, by, share = (
        single[found[selected]],
        root[candidates[selected]].astype(np.int64),
        share[selected],
    )
    # copies of a vertex put in once
    _, once = np.unique(edge * np.int64(len(points)) + by, return_index=True)
    edge, by, share = edge[once], by[once], share[once]
    order = np.lexsort((share, edge))
    return edge[order], by[order]


def _parts(ends: Array, edge: Array, by: Array) -> tuple[Array, Array]:
    """The parts that edges are divided into, and the edge that each is of, in order."""
    order = np.argsort(np.concatenate([np.arange(len(ends)), edge]), kind="stable")
    of = np.concatenate([np.arange(len(ends)), edge])[order]
    begin = np.concatenate([ends[:, 0], by])[order]
    end = np.append(begin[1:], 0)
    last = np.append(of[1:] != of[:-1], True)
    end[last] = ends[:, 1]
    return np.stack([begin, end], axis=1), of
