"""Is it one solid skin? Faces that cross within a shell, and shells that overlap."""

import numpy as np

from ..kernels import edges as kernel
from ..mesh import Array
from .finding import Finding, Place, counted, length_text
from .places import place_of
from .skin import Skin

_CHUNK = 200_000


def crossing_curves(vertices: Array, faces: Array, pairs: Array) -> tuple[Array, Array]:
    """Where pairs of triangles cross, as line segments, in floating point.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3)
    faces : ndarray, shape (m, 3)
    pairs : ndarray, shape (k, 2)
        Faces that meet.

    Returns
    -------
    segments : ndarray, shape (j, 2, 3)
        One for each pair that crosses along a line; coplanar pairs have none.
    owner : ndarray, shape (j,)
        Row of `pairs`.
    """
    segments, owners = [np.zeros((0, 2, 3))], [np.zeros(0, dtype=np.int64)]
    for start in range(0, len(pairs), _CHUNK):
        part = pairs[start : start + _CHUNK]
        a, b = vertices[faces[part[:, 0]]], vertices[faces[part[:, 1]]]
        line = np.cross(_normals(a), _normals(b))
        points, hit = [], []
        for t, s in ((a, b), (b, a)):
            for k in range(3):
                p, inside = _edge_through(t[:, k], t[:, (k + 1) % 3], s)
                points.append(p)
                hit.append(inside)
        spots, found = np.stack(points, axis=1), np.stack(hit, axis=1)
        along = np.einsum("kij,kj->ki", spots, line)
        first = np.where(found, along, np.inf).argmin(axis=1)
        last = np.where(found, along, -np.inf).argmax(axis=1)
        rows = np.arange(len(part))
        ends = np.stack([spots[rows, first], spots[rows, last]], axis=1)
        good = (found.sum(axis=1) >= 2) & (first != last)
        segments.append(ends[good])
        owners.append(np.flatnonzero(good) + start)
    return np.concatenate(segments), np.concatenate(owners)


def _normals(t: Array) -> Array:
    return np.cross(t[:, 1] - t[:, 0], t[:, 2] - t[:, 0])


def _edge_through(p: Array, q: Array, t: Array) -> tuple[Array, Array]:
    """Where segments p-q pass through triangles, and whether they do."""
    normal = _normals(t)
    above = np.einsum("ki,ki->k", p - t[:, 0], normal)
    below = np.einsum("ki,ki->k", q - t[:, 0], normal)
    gap = above - below
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.where(gap != 0, above / gap, np.nan)
    point = p + share[:, None] * (q - p)
    slack = 1e-9 * np.einsum("ki,ki->k", normal, normal)
    inside = (share >= -1e-9) & (share <= 1 + 1e-9)
    for k in range(3):
        side = np.cross(t[:, (k + 1) % 3] - t[:, k], point - t[:, k])
        inside &= np.einsum("ki,ki->k", side, normal) >= -slack
    return np.nan_to_num(point), inside


def find(skin: Skin) -> list[Finding]:
    """The findings of *One solid*."""
    pairs = skin.crossings
    if not len(pairs):
        return []
    shell, _ = skin.shells
    faces = skin.topology.faces
    segments, owner = crossing_curves(skin.mesh.vertices, faces, pairs)
    lengths = np.zeros(len(pairs))
    np.add.at(lengths, owner, np.linalg.norm(segments[:, 1] - segments[:, 0], axis=1))
    same = shell[pairs[:, 0]] == shell[pairs[:, 1]]
    return [
        *_within(skin, pairs, same, lengths, segments, owner),
        *_between(skin, pairs, ~same, lengths, segments, owner),
    ]


def _groups(label: Array) -> list[Array]:
    _, label = np.unique(label, return_inverse=True)
    order = np.argsort(label, kind="stable")
    return np.split(order, np.cumsum(np.bincount(label))[:-1])


def _place(
    skin: Skin, title: str, pairs: Array, rows: Array, lengths: Array, segments: Array,
    owner: Array,
) -> tuple[float, Place]:  # fmt: skip
    length = float(lengths[rows].sum())
    chosen = np.isin(owner, rows)
    faces = skin.kept[np.unique(pairs[rows])]
    measure = f"{length_text(length)} long" if length > 0 else "lying on each other"
    place = place_of(skin.mesh, title, measure, len(rows), faces=faces, curves=segments[chosen])
    return length, place


def _within(
    skin: Skin, pairs: Array, chosen: Array, lengths: Array, segments: Array, owner: Array
) -> list[Finding]:
    rows = np.flatnonzero(chosen)
    if not len(rows):
        return []
    corners = skin.topology.faces[pairs[rows]]
    joins = np.concatenate(
        [
            corners[:, :, :2].reshape(-1, 2),
            corners[:, :, 1:].reshape(-1, 2),
            np.stack([corners[:, 0, 0], corners[:, 1, 0]], axis=1),
        ]
    )
    joined = kernel.components(joins, len(skin.mesh.vertices))
    places = []
    for group in _groups(joined[corners[:, 0, 0]]):
        title = f"Crosses itself, {counted(len(group), 'pair')} of triangles"
        places.append(_place(skin, title, pairs, rows[group], lengths, segments, owner))
    places.sort(key=lambda p: (-p[0], -p[1].count))
    n = len(places)
    return [
        Finding(
            "self-intersections",
            "call",
            len(rows),
            f"The skin passes through itself at {counted(n, 'place')} ({len(rows):,} pairs of "
            "triangles). It is not decided there what is inside; layers may come out with gaps or "
            "walls doubled.",
            tuple(p for _, p in places),
        )
    ]


def _between(
    skin: Skin, pairs: Array, chosen: Array, lengths: Array, segments: Array, owner: Array
) -> list[Finding]:
    rows = np.flatnonzero(chosen)
    if not len(rows):
        return []
    shell, count = skin.shells
    two = np.sort(shell[pairs[rows]], axis=1).astype(np.int64)
    places = []
    for group in _groups(two[:, 0] * count + two[:, 1]):
        a, b = two[group[0]] + 1
        title = f"Pieces {a} and {b} overlap"
        places.append(_place(skin, title, pairs, rows[group], lengths, segments, owner))
    places.sort(key=lambda p: (-p[0], -p[1].count))
    n = len(places)
    return [
        Finding(
            "overlapping-shells",
            "leak",
            n,
            f"{counted(n, 'pair')} of pieces overlap. Printing wants one skin: the parts of a skin "
            "that lie inside another piece print as walls, or as hollows.",
            tuple(p for _, p in places),
        )
    ]
