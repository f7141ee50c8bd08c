"""Moving the skin of thin walls out, with a fall-off beside them, until they measure enough."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import dijkstra
from scipy.spatial import cKDTree

from ..diagnose.intersections import intersecting_faces
from ..mesh._edge_kernels import components
from ..mesh.arrays import Array
from ..mesh.triangle_mesh import Mesh, face_areas, face_normals
from ..outcome import Skipped
from ..predicates.orientation import faces_have_area
from ..progress import SILENT, Progress
from ..spatial.box_tree import Tree
from ..spatial.intersecting_pairs import intersecting_pairs_of_tree
from .ball_and_ray import OPPOSITE, BallAndRay, measure_ball_and_ray
from .folded_faces import flip_folded_edges
from .offset_zone import SLOPE, OffsetZone

Side = Literal["both", "outward", "inward"]

_SPARE = 1.012
"""Walls are built up to so much more than asked, so that none measures less."""
LUMP = 1.03
"""A wall thicker than so many times its goal is a lump, and goes back."""
_DRAWN = 0.5
"""By how much less a vertex slides than its neighbour nearer by, per distance."""
_AIR = 0.25
"""Least air that stays between two walls, of the limit, if there was as much."""
_LONGEST = 3.0
"""Farthest that a corner goes out, of what its faces go out."""
_ROUNDS = 10
"""Corrections at most; five are usual."""
_BETTER = 0.999
"""Corrections end when neither the thinnest nor the thickest place gets better by as much."""
_STILL = 1e-7
"""What would move by less, of what moves most, stays."""


@dataclass(frozen=True, eq=False)
class OffsetResult:
    """A mesh with its walls moved out, or why some of them cannot be.

    Attributes
    ----------
    mesh : Mesh
    blocked : dict of int to Skipped
        Walls that cannot be moved, and why; then the mesh is as it was.
    """

    mesh: Mesh
    blocked: dict[int, Skipped]


def offset_walls(zone: OffsetZone, side: Side, *, progress: Progress = SILENT) -> OffsetResult:
    """Move the walls out; tells which of them cannot be.

    Parameters
    ----------
    zone : OffsetZone
    side : {"both", "outward", "inward"}
    progress : Progress

    Returns
    -------
    OffsetResult

    Raises
    ------
    Cancelled
        If `progress` asks to stop.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> from caulkcore.thickness.thickness_map import measure_thickness
    >>> from caulkcore.thickness.offset_zone import ThinWall
    >>> plate = cuboid((20.0, 20.0, 0.5))
    >>> walls = measure_thickness(plate, 0.8)
    >>> zone = OffsetZone.of(walls, [ThinWall(walls.regions(0.8), 0, 0.8)])
    >>> built = offset_walls(zone, "both")
    >>> round(built.mesh.size[2].item(), 2), built.blocked
    (0.81, {})
    """
    share, blocked = _shares(zone, side)
    if blocked:
        return OffsetResult(zone.mesh, blocked)
    before = zone.thickness
    lack = np.where(before.is_wall, zone.goal * _SPARE - before.wall, 0.0)
    out = share * np.maximum(lack, 0.0)
    blocked = _walls_without_clearance(zone, out) | _walls_that_cross(zone, out)
    if blocked:
        return OffsetResult(zone.mesh, blocked)
    vertices = _corrected_vertices(zone, share, out, progress)
    faces, origin = flip_folded_edges(zone.mesh.vertices, vertices, zone.mesh.faces)
    touched = (vertices[faces] != zone.mesh.vertices[faces]).any(axis=(1, 2))
    bad = np.unique(intersecting_faces(vertices, faces, touched))
    if len(bad):
        return OffsetResult(zone.mesh, _walls_at_faces(zone, origin[bad]))
    return OffsetResult(Mesh(vertices, faces).compact(), {})


def _corrected_vertices(zone: OffsetZone, share: Array, out: Array, progress: Progress) -> Array:
    """Vertices moved out, measured and moved again until the walls are thick enough, shape (n, 3).

    `out` is how far each asked point goes at first, `share` what part of what lacks it makes up.
    """
    goal, vertices = zone.goal, zone.mesh.vertices
    worst = np.full(2, np.inf)
    for i in range(_ROUNDS):
        progress.step("Moving the skin out", i / _ROUNDS)
        vertices = _moved_vertices(zone, out)
        after = _moved_thickness(zone, vertices)
        short = np.where(after.is_wall, goal - after.wall, 0.0)
        over = np.where(after.is_wall & zone.leads & (out > 0), after.wall - goal * LUMP, 0.0)
        off = np.maximum(
            [short.max(initial=0.0) - 1e-4 * goal.max(initial=0.0), over.max(initial=0.0)], 0
        )
        if not off.any() or (off > _BETTER * worst).all():
            break
        worst = off
        # what did not lead begins where its nodes stand
        stands = np.zeros(zone.nodes)
        np.maximum.at(stands, zone.pushed, out[:, None])
        out = np.where((short > 0) & ~zone.leads, stands[zone.pushed].mean(axis=1), out)
        out = np.where(short > 0, out + share * (goal * _SPARE - after.wall), out)
        out = np.where(over > 0, np.maximum(out - share * (after.wall - goal * _SPARE), 0.0), out)
    return vertices


def _moved_thickness(zone: OffsetZone, vertices: Array) -> BallAndRay:
    """The same thickness on the moved surface."""
    tree = Tree.of(vertices, zone.mesh.faces)
    normals = face_normals(vertices, zone.mesh.faces)[zone.face]
    return measure_ball_and_ray(tree, zone.points(vertices), normals, zone.face, zone.reach)


def _shares(zone: OffsetZone, side: Side) -> tuple[Array, dict[int, Skipped]]:
    """Of what is lacking, the share that each corner goes out by."""
    if side == "both":
        return np.full(len(zone.face), 0.5), {}
    sees_in = _faces_cavity(zone)
    wanted = sees_in == (side == "inward")
    # whether the skin across the wall moves, too
    moves = np.zeros(len(zone.mesh.faces), dtype=bool)
    moves[zone.face[wanted]] = True
    contact = zone.thickness.contact
    across = (contact >= 0) & moves[contact]
    share = np.where(wanted, np.where(across, 0.5, 1.0), 0.0)
    none = {
        int(r): Skipped("no-such-side", {"wall": int(r)})
        for r in np.unique(zone.region)
        if not wanted[zone.region == r].any()
    }
    return share, none


def _faces_cavity(zone: OffsetZone) -> Array:
    """Whether each corner belongs to a side that looks into the model's own hollow.

    A side is what goes on smoothly; it looks in if most of it sees the model before it.
    """
    most = zone.mesh.diagonal
    ahead = zone.gap(most).ray < most
    nodes = zone.pushed[:, 0]
    inside = np.isin(zone.links, nodes).all(axis=1)
    label = components(zone.links[inside].astype(np.int32), zone.nodes)[nodes]
    area = face_areas(zone.mesh.vertices, zone.mesh.faces)[zone.face]
    seen = np.bincount(label, area * ahead, zone.nodes)
    whole = np.bincount(label, area, zone.nodes)
    return (2 * seen > whole)[label]


def _walls_that_cross(zone: OffsetZone, out: Array) -> dict[int, Skipped]:
    """Walls whose skin crosses something before it moves, and would go on to."""
    moves = np.zeros(len(zone.mesh.faces), dtype=bool)
    moves[zone.face[out > 0]] = True
    flat = ~faces_have_area(zone.tree.vertices, zone.tree.faces)
    pairs = intersecting_pairs_of_tree(zone.tree, flat, moves)
    walls = np.unique(zone.region[(out > 0) & np.isin(zone.face, pairs)])
    return {int(r): Skipped("crosses-already", {"wall": int(r)}) for r in walls}


def _walls_without_clearance(zone: OffsetZone, out: Array) -> dict[int, Skipped]:
    """Walls that would grow into what stands before them."""
    before = zone.gap(zone.reach)
    clearance = before.ray
    # what is before it may come nearer by as much
    stays = clearance - 2 * out
    floor = np.minimum(clearance, _AIR * zone.goal)
    against = np.einsum("ij,ij->i", zone.normals[zone.face], zone.normals[before.contact])
    facing = (before.contact >= 0) & (against <= np.cos(OPPOSITE))
    tight = facing & (out > 0) & (stays < floor - 1e-9)
    told = {}
    for r in np.unique(zone.region[tight]).tolist():
        at = np.flatnonzero(tight & (zone.region == r))
        worst = at[np.argmin(stays[at])]
        told[int(r)] = Skipped(
            "would-close-air", {"wall": int(r), "air_mm": float(clearance[worst])}
        )
    return told


def _walls_at_faces(zone: OffsetZone, bad: Array) -> dict[int, Skipped]:
    """The walls on which the moved skin crosses or folds, and those nearest to where it does."""
    # a fall-off belongs to no wall
    beside = np.setdiff1d(bad, zone.face)
    middles = zone.mesh.vertices[zone.mesh.faces[beside]].mean(axis=1)
    _, near = cKDTree(zone.points(zone.mesh.vertices)).query(middles)
    walls = np.union1d(zone.region[np.isin(zone.face, bad)], zone.region[near])
    return {int(r): Skipped("would-intersect", {"wall": int(r)}) for r in walls}


def _moved_vertices(zone: OffsetZone, out: Array) -> Array:
    """Vertices when each asked corner has gone out by so much, with the fall-off beside them."""
    far = np.zeros(zone.nodes)
    np.maximum.at(far, zone.pushed, out[:, None])
    live = far > 0
    for _ in range(64):
        # from what moves to its neighbours, along either direction of an edge
        near = live[zone.links].any(axis=1)
        links, lengths = zone.links[near], zone.lengths[near]
        reached = far.copy()
        np.maximum.at(reached, links[:, 1], far[links[:, 0]] - SLOPE * lengths)
        np.maximum.at(reached, links[:, 0], far[links[:, 1]] - SLOPE * lengths)
        live = reached > far
        if not live.any():
            break
        far = reached
    n = len(zone.mesh.vertices)
    none = np.zeros((n, 3))
    shift = _solve_shifts(zone, far, np.unique(zone.vertex[far > 0]), none)
    # what slid along the faces beside it takes their vertices along, less and less
    shifts = _carried_along(zone, shift)
    beside = np.flatnonzero(shifts.any(axis=1) & ~shift.any(axis=1))
    shift += _solve_shifts(zone, far, beside, shifts)
    shift[np.abs(shift) < _STILL * np.abs(shift).max(initial=0.0)] = 0.0
    moved = shift.any(axis=1)
    vertices = zone.mesh.vertices.copy()
    vertices[moved] = (vertices[moved] + shift[moved]).astype(np.float32)
    return vertices


def _solve_shifts(zone: OffsetZone, far: Array, selected: Array, shifts: Array) -> Array:
    """How some vertices move: off the faces around them as far as asked, else as `shifts` says."""
    n = len(zone.mesh.vertices)
    index = np.full(n, -1)
    index[selected] = np.arange(len(selected))
    wall_of = np.flatnonzero(index[zone.vertex] >= 0)
    at, normal = index[zone.vertex[wall_of]], zone.normal[wall_of]
    matrix, right = np.zeros((len(selected), 3, 3)), np.zeros((len(selected), 3))
    np.add.at(matrix, at, normal[:, :, None] * normal[:, None, :])
    np.add.at(right, at, far[wall_of, None] * normal)
    pull = 1e-4 * np.trace(matrix, axis1=1, axis2=2)[:, None]
    # where no face around has an area, nothing pushes: the vertex goes as `shifts` says
    pull[pull == 0] = 1.0
    found = np.linalg.solve(
        matrix + pull[..., None] * np.eye(3), (right + pull * shifts[selected])[..., None]
    )[..., 0]
    most = np.linalg.norm(shifts[selected], axis=1)
    np.maximum.at(most, at, _LONGEST * far[wall_of])
    length = np.linalg.norm(found, axis=1)
    shift = np.zeros((n, 3))
    shift[selected] = found * np.minimum(1.0, most / np.maximum(length, 1e-300))[:, None]
    return shift


def _carried_along(zone: OffsetZone, shift: Array) -> Array:
    """What the way of moved vertices comes to at those beside them."""
    n = len(shift)
    moved = np.flatnonzero(shift.any(axis=1))
    length = np.linalg.norm(shift, axis=1)
    reach = float(length.max(initial=0.0)) / _DRAWN
    if reach == 0.0:
        return np.zeros((n, 3))
    near = cKDTree(zone.mesh.vertices[moved]).query(zone.mesh.vertices, distance_upper_bound=reach)[
        0
    ]
    faces = zone.mesh.faces[(near[zone.mesh.faces] <= reach).any(axis=1)]
    ends = np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]]).astype(np.int64)
    lengths = np.linalg.norm(np.diff(zone.mesh.vertices[ends], axis=1)[:, 0], axis=1)
    pairs, first = np.unique(np.sort(ends, axis=1), axis=0, return_index=True)
    graph = coo_matrix((lengths[first], tuple(pairs.T)), shape=(n, n)).tocsr()
    away, _, source = dijkstra(
        graph, directed=False, indices=moved, min_only=True, limit=reach, return_predecessors=True
    )
    found = np.flatnonzero((source >= 0) & np.isfinite(away))
    share = np.maximum(0.0, 1 - away[found] * _DRAWN / np.maximum(length[source[found]], 1e-300))
    shifts = np.zeros((n, 3))
    shifts[found] = share[:, None] * shift[source[found]]
    return shifts
