"""Separating the surface where it touches itself: at non-manifold edges and vertices.

Copies of a vertex are set apart by a stated small distance, so that the result is manifold by
coordinates too, in formats that know no indices.
"""

import numpy as np

from ..diagnose.diagnosis import Diagnosis
from ..mesh import _edge_kernels as kernel
from ..mesh.arrays import Array
from ..mesh.float32 import on_float32
from ..mesh.topology import Topology
from ..mesh.triangle_mesh import Mesh, face_areas
from ..outcome import Outcome

_ROUNDING_STEPS = 16
"""Copies are set apart by so many steps of float32 at least, so that no rounding joins them."""
_DIAGONAL_SHARE = 1e-6
"""They are set apart by this share of the bounding box's diagonal at least."""
FLAP_SHARE = 0.05
"""Largest share of the area that a hanging sheet with an open rim may have to be dropped."""
_ANGLE_DIGITS = 9
"""Angles round an edge that agree to so many decimals, in radians, count as one."""


def separation(mesh: Mesh) -> float:
    """Distance by which copies of a vertex are set apart: 16 steps of float32 at least.

    Parameters
    ----------
    mesh : Mesh

    Returns
    -------
    float
        In the mesh's unit, mm as a rule.
    """
    largest = float(np.abs(mesh.bounds).max())
    step = float(np.spacing(np.float32(largest)))
    return max(_ROUNDING_STEPS * step, _DIAGONAL_SHARE * mesh.diagonal)


def split_nonmanifold_edges(diagnosis: Diagnosis, edges: Array | None = None) -> Outcome:
    """Divide edges with three or more faces into edges with two.

    The faces round an edge are sorted by angle and paired so that each pair has material between
    its two faces. A sheet without which such edges are sound is dropped, the smallest first: an
    inner wall without thickness if it hangs on them by all of its rim, a stray flap if part of
    its rim is open and its area at most `FLAP_SHARE` of the whole.

    Parameters
    ----------
    diagnosis : Diagnosis
    edges : ndarray, shape (k, 2), optional
        The edges as pairs of vertices; all `Diagnosis.nonmanifold_edges` by default.

    Returns
    -------
    Outcome
        Numbers: ``edges``, ``copies`` of vertices made, ``bends`` (edges bent away from another),
        ``wall_faces`` dropped, ``separation_mm``.
    """
    mesh = diagnosis.mesh
    lines = diagnosis.nonmanifold_edges if edges is None else edges
    if not len(lines):
        return Outcome(mesh)
    topology = diagnosis.topology
    walls = _inner_walls(topology, lines)
    keep = ~np.isin(np.arange(len(topology.faces)), walls)
    rest = Topology(mesh, topology.faces[keep])
    joins, chosen = _pairs(rest, lines)
    vertices, faces, copies = _separated(rest, joins, mesh, np.unique(lines))
    distance = separation(mesh)
    vertices, faces, bends = _bent(vertices, faces, chosen, distance)
    numbers = {
        "edges": len(lines),
        "copies": copies,
        "bends": bends,
        "wall_faces": len(walls),
        "separation_mm": distance,
    }
    return Outcome(on_float32(Mesh(vertices, faces).compact(), mesh), numbers)


def split_nonmanifold_vertices(diagnosis: Diagnosis, vertices: Array | None = None) -> Outcome:
    """Give each fan of faces at a non-manifold vertex a vertex of its own.

    Parameters
    ----------
    diagnosis : Diagnosis
    vertices : ndarray, shape (k,), optional
        Numbers of the vertices; all `Diagnosis.nonmanifold_vertices` by default.

    Returns
    -------
    Outcome
        Numbers: ``vertices``, ``copies`` made, ``separation_mm``.

    Examples
    --------
    >>> points = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1.0]])
    >>> sides = np.array([[0, 2, 1], [0, 1, 3], [0, 3, 2], [1, 2, 3]])
    >>> other = np.where(sides > 0, sides + 3, 0)[:, ::-1]
    >>> hourglass = Mesh(np.vstack([points, -points[1:]]), np.vstack([sides, other]))
    >>> diagnosis = Diagnosis(hourglass)
    >>> split_nonmanifold_vertices(diagnosis, np.array([0])).numbers["copies"]
    1
    """
    mesh = diagnosis.mesh
    chosen = diagnosis.nonmanifold_vertices if vertices is None else vertices
    if not len(chosen):
        return Outcome(mesh)
    topology = diagnosis.topology
    points, faces, copies = _separated(topology, topology.paired_half_edges, mesh, chosen)
    numbers = {"vertices": len(chosen), "copies": copies, "separation_mm": separation(mesh)}
    return Outcome(on_float32(Mesh(points, faces).compact(), mesh), numbers)


def _pairs(topology: Topology, lines: Array) -> tuple[Array, Array]:
    """Joins of half-edges: over two-face edges, and chosen over-shared ones paired by angle.

    Shape (k, 2); the chosen ones once more by themselves. Half-edges that find no partner stay
    single, an open edge.
    """
    wanted = {tuple(sorted(line)) for line in lines.tolist()}
    joins = [topology.paired_half_edges]
    over = np.flatnonzero(topology.face_count > 2)
    extra: list[tuple[int, int]] = []
    chosen: list[tuple[int, int]] = []
    for e in over:
        halves = topology.order[topology.starts[e] : topology.starts[e + 1]]
        ends = topology.ends(halves)
        if tuple(sorted(ends[0].tolist())) not in wanted:
            extra += [(int(halves[0]), int(h)) for h in halves[1:]]
            continue
        chosen += _pair_by_angle(topology, halves, ends)
    pairs = np.array(chosen, dtype=np.int32).reshape(-1, 2)
    return np.concatenate([*joins, np.array(extra, dtype=np.int32).reshape(-1, 2), pairs]), pairs


def _pair_by_angle(topology: Topology, halves: Array, ends: Array) -> list[tuple[int, int]]:
    v = topology.mesh.vertices
    low, high = int(ends[0].min()), int(ends[0].max())
    axis = v[high] - v[low]
    axis = axis / max(float(np.linalg.norm(axis)), 1e-300)
    third = topology.faces[halves // 3, (halves % 3 + 2) % 3]
    arms = v[third] - v[low]
    arms = arms - np.outer(arms @ axis, axis)
    u = arms[0] / max(float(np.linalg.norm(arms[0])), 1e-300)
    angle = np.arctan2(arms @ np.cross(axis, u), arms @ u)
    angle = angle.round(_ANGLE_DIGITS) % round(2 * np.pi, _ANGLE_DIGITS)
    # A face that runs up the axis has its material at lower angles, one that runs down at higher:
    # going round, each downward face opens a wedge of material and the next upward one ends it.
    # Where two faces lie on each other, the wedge that ends there ends before the next begins.
    order = np.lexsort((ends[:, 0] != low, angle))
    up = ends[order, 0] == low
    pairs: list[tuple[int, int]] = []
    open_: list[int] = []
    used: set[int] = set()
    for i in [*range(len(order)), *range(len(order))]:
        h = int(halves[order[i]])
        if h in used:
            continue
        if not up[i]:
            if h not in open_:
                open_.append(h)
        elif open_:
            down = open_.pop()
            pairs.append((down, h))
            used |= {down, h}
    return pairs


def _inner_walls(topology: Topology, lines: Array) -> Array:
    """Faces of inner walls and stray flaps: sheets whose removal leaves their edges sound."""
    wanted = {tuple(sorted(line)) for line in lines.tolist()}
    m = len(topology.faces)
    patch = kernel.components(topology.paired_half_edges // 3, m)
    areas = np.bincount(patch, face_areas(topology.mesh.vertices, topology.faces), minlength=m)
    open_ = np.unique(patch[np.flatnonzero(topology.twin == -1) // 3])
    hopeless = set(open_[areas[open_] > FLAP_SHARE * areas.sum()].tolist())
    # patch -> its half-edges at over-shared edges; edge -> up and down half-edges with patches
    rims: dict[int, set[int]] = {}
    around: dict[int, list[tuple[int, bool]]] = {}
    for e in np.flatnonzero(topology.face_count > 2).tolist():
        halves = topology.order[topology.starts[e] : topology.starts[e + 1]]
        ends = topology.ends(halves)
        key = tuple(sorted(ends[0].tolist()))
        around[e] = [
            (int(p), bool(up))
            for p, up in zip(patch[halves // 3], ends[:, 0] == key[0], strict=True)
        ]
        for p, _ in around[e]:
            rims.setdefault(p, set()).add(e)
            if key not in wanted:
                hopeless.add(p)
    flaps = {int(p) for p in open_ if p in rims and p not in hopeless}
    walls: list[int] = []
    bare = {e: [x for x in around[e] if x[0] not in flaps] for p in flaps for e in rims[p]}
    if all(_balanced(r) for r in bare.values()):
        walls += sorted(flaps)
        around.update(bare)
    crowded = {e for e, r in around.items() if len(r) % 2}
    candidates = set(rims) - hopeless - set(walls)
    for p in sorted(candidates, key=lambda p: (areas[p], p)):
        if areas[p] == areas.max():
            break
        rest = {e: [x for x in around[e] if x[0] != p] for e in rims[p]}
        if rims[p] <= crowded and all(_balanced(r) for r in rest.values()):
            walls.append(p)
            around.update(rest)
            crowded -= rims[p]
    return np.flatnonzero(np.isin(patch, walls))


def _balanced(around: list[tuple[int, bool]]) -> bool:
    """Whether as many faces run up an edge as down."""
    return 2 * sum(up for _, up in around) == len(around)


def _separated(
    topology: Topology, joins: Array, mesh: Mesh, where: Array
) -> tuple[Array, Array, int]:
    """Give each fan at the vertices `where` its own vertex; the flattest fan keeps the old one."""
    fan = kernel.fans_of_joins(topology.faces, joins)
    corner_vertex = topology.faces.reshape(-1)
    at = np.flatnonzero(np.isin(corner_vertex, where))
    v = mesh.vertices
    middles = v[topology.faces[at // 3]].mean(axis=1) - v[corner_vertex[at]]
    length = np.linalg.norm(middles, axis=1, keepdims=True)
    middles = np.divide(middles, length, out=np.zeros_like(middles), where=length > 0)
    roots, which = np.unique(fan[at], return_inverse=True)
    heading = np.zeros((len(roots), 3))
    np.add.at(heading, which, middles)
    heading /= np.bincount(which)[:, None]
    strength = np.linalg.norm(heading, axis=1)
    owner = corner_vertex[roots]
    by_owner = np.lexsort((roots, strength.round(6), owner))
    first = np.ones(len(by_owner), dtype=bool)
    first[1:] = owner[by_owner][1:] != owner[by_owner][:-1]
    moving = by_owner[~first]
    target = owner.astype(np.int64)
    target[moving] = len(v) + np.arange(len(moving))
    step = np.divide(
        heading, strength[:, None], out=np.zeros_like(heading), where=strength[:, None] > 0
    )
    # several copies of one vertex that head the same way still end at different places
    rank = np.arange(len(by_owner)) - np.maximum.accumulate(
        np.where(first, np.arange(len(by_owner)), 0)
    )
    far = np.zeros(len(roots))
    far[by_owner] = rank
    moved = v[owner[moving]] + step[moving] * (separation(mesh) * far[moving])[:, None]
    corners = corner_vertex.astype(np.int64)
    corners[at] = target[which]
    return np.concatenate([v, moved]), corners.reshape(-1, 3), len(moving)


def _bent(vertices: Array, faces: Array, pairs: Array, away: float) -> tuple[Array, Array, int]:
    """Edges that two skins still share, because both ends are in one fan, bent in one of them.

    Each pair of half-edges after the first of an edge gets a vertex in its middle, set off towards
    the pair's faces.

    Parameters
    ----------
    vertices, faces : ndarray
    pairs : ndarray, shape (k, 2)
        Half-edges that belong together.
    away : float
        How far the vertex is set off, mm.
    """
    seen: dict[tuple[int, ...], int] = {}
    used: set[int] = set()
    points: list[Array] = []
    more: list[tuple[int, int, int]] = []
    faces = faces.copy()
    for pair in pairs.tolist():
        corners = [np.roll(faces[h // 3], -(h % 3)) for h in pair]
        key = tuple(sorted(corners[0][:2].tolist()))
        rank = seen[key] = seen.get(key, -1) + 1
        if not rank or used & {h // 3 for h in pair}:
            continue
        middle = vertices[list(key)].mean(axis=0)
        direction = vertices[[c[2] for c in corners]].mean(axis=0) - middle
        new = len(vertices) + len(points)
        points.append(
            middle + direction * (rank * away / max(float(np.linalg.norm(direction)), 1e-300))
        )
        for h, (a, b, c) in zip(pair, corners, strict=True):
            faces[h // 3] = a, new, c
            more.append((new, b, c))
            used.add(h // 3)
    if not points:
        return vertices, faces, 0
    return np.concatenate([vertices, points]), np.concatenate([faces, more]), len(points)
