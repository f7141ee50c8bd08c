"""Bridging the gap between two rims that belong together."""

from collections.abc import Collection

import numpy as np

from ..examine.finding import counted, length_text
from ..examine.loops import Loops
from ..examine.places import by_rank
from ..examine.skin import Skin
from ..kernels.fill import least_band
from ..mesh import Array, Mesh
from .crossing import new_faces_met
from .fill import beside_on_rims, uses_known_edge
from .outcome import Outcome
from .places import chosen_numbers

REACH = 0.5
"""Rims belong together when they lie nearer than this share of the smaller one's extent."""
SHEET_REACH = 2.0
"""The same for two open sheets, which are nothing without each other."""
_ALIKE = 2.0
_AGAINST = -0.5
_SAMPLES = 64
_MOST_LOOPS = 20_000
_MOST_STEPS = 4_000_000


def bridge_gaps(mesh: Mesh, places: Collection[int] | None = None) -> Outcome:
    """Join the rims of holes that face each other with a band of new faces; no vertex moves.

    Two rims belong together when they are alike in length and run against each other, when each
    is the nearest such rim to the other, and when they lie near each other for their size: in
    different pieces, or in one piece with nothing but air between. A band that would cross the
    surface is left out.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the open places; a band joins a chosen one with what belongs to it. All by
        default.
    """
    skin = Skin(mesh)
    loops = skin.loops
    wanted = set(chosen_numbers(by_rank(loops.extents), places).tolist())
    pairs = [(i, j) for i, j in _pairs(skin, loops) if i in wanted or j in wanted]
    if not pairs:
        return Outcome(mesh)
    beside = beside_on_rims(mesh, [loops[i] for pair in pairs for i in pair])
    bands: list[Array] = []
    widest = 0.0
    left = []
    for i, j in pairs:
        rims = [loops[i].vertices, loops[j].vertices]
        band, width = _band(mesh.vertices, *rims)
        clash = uses_known_edge(band, rims, beside)
        if clash or len(new_faces_met(mesh.vertices, mesh.faces, band)):
            left.append("A gap was not bridged: the band would pass through the surface.")
            continue
        bands.append(band)
        widest = max(widest, width)
    if not bands:
        return Outcome(mesh, left=tuple(left))
    done = (
        f"{counted(len(bands), 'gap')} bridged, at most {length_text(widest)} wide, with "
        f"{counted(sum(map(len, bands)), 'triangle')}."
    )
    counts = {"gaps": len(bands), "widest_mm": widest}
    result = Mesh(mesh.vertices, np.concatenate([mesh.faces, *bands]))
    return Outcome(result, done, counts, tuple(left))


def _pairs(skin: Skin, loops: Loops) -> list[tuple[int, int]]:
    """Loops that belong together."""
    some = np.flatnonzero(loops.ring & (loops.edges >= 3) & (loops.areas > 0))
    if not 2 <= len(some) <= _MOST_LOOPS:
        return []
    from scipy.spatial import cKDTree

    samples = np.stack([_along(loops.points[loops.groups[i]]) for i in some.tolist()])
    middle = samples.mean(axis=1)
    extent = loops.extents[some]
    normal = -loops.area_vectors[some] / (2 * loops.areas[some, None])
    sheet = skin.sheets[loops.shell[some]]
    reach = np.where(sheet, SHEET_REACH, REACH) * extent
    best: dict[int, tuple[float, int]] = {}
    near = cKDTree(middle).query_ball_point(middle, reach + 0.5 * extent)
    trees: dict[int, cKDTree] = {}
    for i, others in enumerate(near):
        for j in others:
            if j <= i or normal[i] @ normal[j] > _AGAINST:
                continue
            if not 1 / _ALIKE <= extent[i] / extent[j] <= _ALIKE:
                continue
            apart = loops.shell[some[i]] != loops.shell[some[j]]
            towards = middle[j] - middle[i]
            if not apart and (normal[i] @ towards <= 0 or normal[j] @ towards >= 0):
                continue
            both = apart and sheet[i] and sheet[j]
            limit = (SHEET_REACH if both else REACH) * min(extent[i], extent[j])
            for k in (i, j):
                if k not in trees:
                    trees[k] = cKDTree(samples[k])
            way = max(
                float(trees[i].query(samples[j])[0].mean()),
                float(trees[j].query(samples[i])[0].mean()),
            )
            if way > limit:
                continue
            for one, other in ((i, j), (j, i)):
                best[one] = min(best.get(one, (np.inf, -1)), (way, other))
    return [
        (int(some[i]), int(some[j]))
        for i, (_, j) in sorted(best.items())
        if i < j and best[j][1] == i
    ]


def _along(ring: Array) -> Array:
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
