"""Bridging the gap between two boundary loops that belong together."""

import numpy as np

from ..diagnose.boundary_loops import BoundaryLoops
from ..diagnose.diagnosis import Diagnosis
from ..diagnose.intersections import new_faces_intersecting
from ..mesh.arrays import Array
from ..mesh.existing_edges import neighbours_among, uses_existing_edge
from ..mesh.triangle_mesh import Mesh
from ..outcome import Outcome, Skipped
from ._hole_kernels import least_band

REACH = 0.5
"""Rims belong together when they lie nearer than this share of the smaller one's extent."""
SHEET_REACH = 2.0
"""The same for two open sheets, which are nothing without each other."""
_MOST_UNLIKE = 2.0
"""Rims belong together when neither extent is more than so many times the other's."""
_FACING = -0.5
"""And when the cosine of the angle between the directions they look in is at most this: 120
degrees."""
_SAMPLES = 64
"""Points along each rim between which distances are measured."""
_MOST_LOOPS = 20_000
"""Rims of a mesh with more are not bridged: they are rims of crumbs."""
_MOST_STEPS = 4_000_000
"""Product of two rims' edges up to which the band of least area is looked for (some seconds)."""


def bridge_boundary_loops(diagnosis: Diagnosis, loops: Array | None = None) -> Outcome:
    """Join the rims of holes that face each other with a band of new faces; no vertex moves.

    Two rims belong together when they are alike in length and run against each other, when each
    is the nearest such rim to the other, and when they lie near each other for their size: in
    different shells, or in one shell with nothing but air between. A band that would intersect
    the surface is left out.

    Parameters
    ----------
    diagnosis : Diagnosis
    loops : ndarray, shape (k,), optional
        Numbers of the loops in `Diagnosis.boundary_loops`; a band joins a chosen one with what
        belongs to it. All by default.

    Returns
    -------
    Outcome
        Numbers: ``gaps`` bridged, ``widest_mm``, ``faces`` added. Skipped: ``would-intersect`` for
        each band that would pass through the surface.

    Examples
    --------
    >>> from caulkcore.mesh.concatenate import concatenate
    >>> points = np.array([[0, 0, 0], [3, 0, 0], [0, 3, 0], [1, 1, -2.0]])
    >>> sides = np.array([[1, 0, 3], [0, 2, 3], [2, 1, 3]])
    >>> halves = concatenate([Mesh(points, sides), Mesh(points * [1, 1, -1] + [0, 0, 0.2],
    ...                                                 sides[:, ::-1])])
    >>> bridge_boundary_loops(Diagnosis(halves)).numbers["faces"]
    6
    """
    mesh, found = diagnosis.mesh, diagnosis.boundary_loops
    wanted = set(range(len(found)) if loops is None else loops.tolist())
    pairs = [(i, j) for i, j in _pairs(diagnosis, found) if i in wanted or j in wanted]
    if not pairs:
        return Outcome(mesh)
    on_rims = np.concatenate([found[i].vertices for pair in pairs for i in pair])
    neighbours = neighbours_among(mesh, on_rims)
    clear: list[tuple[Array, float]] = []
    skipped = []
    for i, j in pairs:
        rims = [found[i].vertices, found[j].vertices]
        band, width = _band(mesh.vertices, *rims)
        if uses_existing_edge(band, rims, neighbours):
            skipped.append(_clash(mesh, band, width))
        else:
            clear.append((band, width))
    # all are asked about together: each alone would cost a look at the whole mesh
    of_band = np.repeat(np.arange(len(clear)), [len(band) for band, _ in clear])
    every = np.concatenate([np.zeros((0, 3), dtype=np.int32), *(band for band, _ in clear)])
    clashing = set(of_band[new_faces_intersecting(mesh.vertices, mesh.faces, every)].tolist())
    skipped += [_clash(mesh, *clear[b]) for b in sorted(clashing)]
    stays = [one for b, one in enumerate(clear) if b not in clashing]
    bands = [band for band, _ in stays]
    if not bands:
        return Outcome(mesh, skipped=tuple(skipped))
    widest = max(width for _, width in stays)
    numbers = {"gaps": len(bands), "widest_mm": widest, "faces": sum(map(len, bands))}
    result = Mesh(mesh.vertices, np.concatenate([mesh.faces, *bands]))
    return Outcome(result, numbers, tuple(skipped))


def _clash(mesh: Mesh, band: Array, width: float) -> Skipped:
    at = mesh.vertices[band[0, 0]].tolist()
    return Skipped("would-intersect", {"width_mm": width, "at": at})


def _pairs(diagnosis: Diagnosis, loops: BoundaryLoops) -> list[tuple[int, int]]:
    """Loops that belong together."""
    rims = loops.closed & (loops.edges >= 3) & (loops.areas > 0)
    # scraps are no halves of anything, and there may be thousands
    candidates = np.flatnonzero(rims & ~diagnosis.small_sheets[loops.shell])
    if not 2 <= len(candidates) <= _MOST_LOOPS:
        return []
    from scipy.spatial import cKDTree

    samples = np.stack([_evenly_spaced(loops.points[loops.groups[i]]) for i in candidates.tolist()])
    middle = samples.mean(axis=1)
    extent = loops.extents[candidates]
    normal = -loops.area_vectors[candidates] / (2 * loops.areas[candidates, None])
    in_sheet = diagnosis.open_sheets[loops.shell[candidates]]
    reach = np.where(in_sheet, SHEET_REACH, REACH) * extent
    best: dict[int, tuple[float, int]] = {}
    near = cKDTree(middle).query_ball_point(middle, reach + 0.5 * extent)
    trees: dict[int, cKDTree] = {}
    for i, others in enumerate(near):
        for j in others:
            if j <= i or normal[i] @ normal[j] > _FACING:
                continue
            if not 1 / _MOST_UNLIKE <= extent[i] / extent[j] <= _MOST_UNLIKE:
                continue
            apart = loops.shell[candidates[i]] != loops.shell[candidates[j]]
            towards = middle[j] - middle[i]
            if not apart and (normal[i] @ towards <= 0 or normal[j] @ towards >= 0):
                continue
            both = apart and in_sheet[i] and in_sheet[j]
            limit = (SHEET_REACH if both else REACH) * min(extent[i], extent[j])
            for k in (i, j):
                if k not in trees:
                    trees[k] = cKDTree(samples[k])
            distance_between = max(
                float(trees[i].query(samples[j])[0].mean()),
                float(trees[j].query(samples[i])[0].mean()),
            )
            if distance_between > limit:
                continue
            for one, other in ((i, j), (j, i)):
                best[one] = min(best.get(one, (np.inf, -1)), (distance_between, other))
    return [
        (int(candidates[i]), int(candidates[j]))
        for i, (_, j) in sorted(best.items())
        if i < j and best[j][1] == i
    ]


def _evenly_spaced(ring: Array) -> Array:
    """Points at equal distances along a ring."""
    closed = np.vstack([ring, ring[:1]])
    at = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(closed, axis=0), axis=1))])
    steps = np.arange(_SAMPLES) * at[-1] / _SAMPLES
    return np.stack([np.interp(steps, at, closed[:, k]) for k in range(3)], axis=1)


def _band(v: Array, one: Array, other: Array) -> tuple[Array, float]:
    """Faces between two rims, each in the direction of the faces beside it, and the width."""
    from scipy.spatial import cKDTree

    other = other[::-1]
    distance, nearest = cKDTree(v[other]).query(v[one])
    start = int(np.argmin(distance))
    p, q = np.roll(one, -start), np.roll(other, -int(nearest[start]))
    if len(p) * len(q) <= _MOST_STEPS:
        along = least_band(v[p], v[q])
    else:  # step by step by the share of the way round
        shares = [_shares(v[ring]) for ring in (p, q)]
        along = np.argsort(np.concatenate(shares), kind="stable") < len(p)
    i = np.concatenate([[0], np.cumsum(along)[:-1]])
    j = np.concatenate([[0], np.cumsum(~along)[:-1]])
    n, m = len(p), len(q)
    over_p = np.stack([p[(i + 1) % n], p[i % n], q[j % m]], axis=1)
    over_q = np.stack([q[j % m], q[(j + 1) % m], p[i % n]], axis=1)
    return np.where(along[:, None], over_p, over_q).astype(np.int32), float(distance.max())


def _shares(ring: Array) -> Array:
    """For each edge of a ring, where it ends as a share of the way round."""
    ends = np.cumsum(np.linalg.norm(np.roll(ring, -1, axis=0) - ring, axis=1))
    return ends / ends[-1]
