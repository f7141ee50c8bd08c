"""Is it one solid skin? Faces that cross within a shell, and shells that overlap."""

from collections.abc import Callable

import numpy as np

from ..groups import Groups
from ..kernels import edges as kernel
from ..mesh import Array
from .finding import Finding, Place, counted, length_text, volume_text
from .limits import USUAL, Limits
from .pieces import loose, near_gaps
from .places import place_of, worst_first
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


def find(skin: Skin, limits: Limits = USUAL) -> list[Finding]:
    """The findings of *One solid*."""
    found = [*crossings(skin), gap_finding(skin, limits), _loose(skin, limits)]
    return [finding for finding in found if finding is not None]


def crossings(skin: Skin) -> list[Finding | None]:
    """Self-intersections and overlaps, each a finding or None."""
    pairs = skin.crossings
    if not len(pairs):
        return []
    shell, _ = skin.shells
    faces = skin.topology.faces
    segments, owner = crossing_curves(skin.mesh.vertices, faces, pairs)
    same = shell[pairs[:, 0]] == shell[pairs[:, 1]]
    met = _Met(skin, pairs, segments, owner)
    return [_within(met, np.flatnonzero(same)), _between(met, np.flatnonzero(~same))]


class _Met:
    """Pairs of faces that meet, and the segments along which they do."""

    def __init__(self, skin: Skin, pairs: Array, segments: Array, owner: Array) -> None:
        self.skin, self.pairs, self.segments = skin, pairs, segments
        # `owner` ascends: the segment of a pair, or where it would stand
        self.begin = np.searchsorted(owner, np.arange(len(pairs) + 1))
        lengths = np.linalg.norm(segments[:, 1] - segments[:, 0], axis=1)
        self.lengths = np.bincount(owner, lengths, minlength=len(pairs))

    def places(
        self, kind: str, rows: Array, label: Array, title: Callable[[Array], str]
    ) -> tuple[Place, ...]:
        """A place for each group of pairs, the longest curve first."""
        groups = Groups.by_label(label, rows)
        # by their curves, and those that lie on each other by their number
        rank = groups.reduce(np.add, self.lengths[groups.items])
        rank = np.where(rank > 0, rank, -1.0 / groups.sizes)

        def place(i: int) -> Place:
            mine = groups[i]
            measure = (
                f"{length_text(float(rank[i]))} long" if rank[i] > 0 else "lying on each other"
            )
            return place_of(
                self.skin.mesh,
                title(mine),
                measure,
                len(mine),
                faces=self._faces(mine),
                curves=self._curves(mine),
            )

        def faces(some: Array) -> Array:
            return self._faces(groups.of(some))

        def curves(some: Array) -> Array:
            return self._curves(groups.of(some))

        return worst_first(self.skin.mesh, kind, rank, place, faces=faces, curves=curves)

    def _faces(self, rows: Array) -> Array:
        return self.skin.kept[np.unique(self.pairs[rows])]

    def _curves(self, rows: Array) -> Array:
        here = self.begin[rows]
        return self.segments[here[self.begin[rows + 1] > here]]


def _within(met: _Met, rows: Array) -> Finding | None:
    """Faces of one shell that cross."""
    if not len(rows):
        return None
    skin = met.skin
    corners = skin.topology.faces[met.pairs[rows]]
    joins = np.concatenate(
        [
            corners[:, :, :2].reshape(-1, 2),
            corners[:, :, 1:].reshape(-1, 2),
            np.stack([corners[:, 0, 0], corners[:, 1, 0]], axis=1),
        ]
    )
    joined = kernel.components(joins, len(skin.mesh.vertices))
    label = joined[corners[:, 0, 0]]
    n = len(np.unique(label))
    return Finding(
        "self-intersections",
        "leak",
        len(rows),
        f"The skin passes through itself at {counted(n, 'place')} ({len(rows):,} pairs of "
        "triangles). It is not decided there what is inside; layers may come out with gaps or "
        "walls doubled.",
        met.places(
            "self-intersections",
            rows,
            label,
            lambda mine: f"Crosses itself, {counted(len(mine), 'pair')} of triangles",
        ),
    )


def _between(met: _Met, rows: Array) -> Finding | None:
    """Shells that overlap."""
    if not len(rows):
        return None
    shell, count = met.skin.shells
    two = np.sort(shell[met.pairs], axis=1).astype(np.int64)
    label = two[rows, 0] * count + two[rows, 1]
    n = len(np.unique(label))

    def title(mine: Array) -> str:
        a, b = two[mine[0]] + 1
        return f"Pieces {a} and {b} overlap"

    return Finding(
        "overlapping-shells",
        "leak",
        n,
        f"{counted(n, 'pair')} of pieces overlap. Printing wants one skin: the parts of a skin "
        "that lie inside another piece print as walls, or as hollows.",
        met.places("overlapping-shells", rows, label, title),
    )


def gap_finding(skin: Skin, limits: Limits) -> Finding | None:
    """Solids that almost touch."""
    gaps = near_gaps(skin, limits)
    if not len(gaps.faces):
        return None
    _, count = skin.shells
    groups = Groups.by_label(gaps.shells[:, 0] * count + gaps.shells[:, 1])
    least = groups.reduce(np.minimum, gaps.width[groups.items])

    def place(i: int) -> Place:
        mine = groups[i]
        a, b = gaps.shells[mine[0]] + 1
        measure = f"{length_text(float(least[i]))} wide"
        return place_of(
            skin.mesh,
            f"Gap between pieces {a} and {b}",
            measure,
            len(mine),
            faces=faces(np.array([i])),
            curves=gaps.spans[mine],
        )

    def faces(some: Array) -> Array:
        return skin.kept[np.unique(gaps.faces[groups.of(some)])]

    def curves(some: Array) -> Array:
        return gaps.spans[groups.of(some)]

    n = len(groups)
    return Finding(
        "near-gaps",
        "call",
        n,
        f"{counted(n, 'pair')} of pieces come nearer than {limits.near_gap:g} mm without touching. "
        "If they were meant to be joined, the gap stays as a crack in the print; if not, they may "
        "fuse.",
        worst_first(skin.mesh, "near-gaps", -least, place, faces=faces, curves=curves),
    )


def _loose(skin: Skin, limits: Limits) -> Finding | None:
    """Solids that nothing joins."""
    parts = loose(skin, limits)
    n = len(parts)
    if n < 2:
        return None
    volume, _ = skin.shell_measures
    sizes = parts.reduce(np.add, volume[parts.items])

    def faces(some: Array) -> Array:
        return skin.by_shell.of(parts.of(some))

    def place(i: int) -> Place:
        mine = parts[i]
        title = f"Loose part, {counted(len(mine), 'piece')}"
        one = faces(np.array([i]))
        return place_of(skin.mesh, title, volume_text(float(sizes[i])), len(one), faces=one)

    return Finding(
        "loose-parts",
        "note",
        n,
        f"{counted(n, 'solid')} that nothing joins; they come off the machine as {n:,} parts.",
        worst_first(skin.mesh, "loose-parts", sizes, place, faces=faces),
    )
