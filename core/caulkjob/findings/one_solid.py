"""Is it one solid skin? Faces that cross within a shell, and shells that overlap."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import cached_property

import numpy as np
from caulkcore.diagnose.components import loose_parts, outer_solids
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.diagnose.intersections import intersection_segments
from caulkcore.diagnose.near_gaps import near_gaps
from caulkcore.mesh import _edge_kernels as kernel
from caulkcore.mesh.arrays import Array
from caulkcore.mesh.groups import Groups

from ..limits import USUAL, Limits
from ..text import counted, length_text, volume_text
from .finding import Finding, Place, Places
from .places import place_of, worst_first

_NAMED = 4
"""Pieces of one loose part that are named by their numbers."""
_OVERLAP = "Pieces {} and {} overlap"
"""Title of a place where two pieces overlap."""
_GAP = "Gap between pieces {} and {}"
"""Title of a place where two pieces nearly touch."""


def find(diagnosis: Diagnosis, limits: Limits = USUAL) -> list[Finding]:
    """The findings of *One solid*.

    Parameters
    ----------
    diagnosis : Diagnosis
    limits : Limits
        The shop's.

    Returns
    -------
    list of Finding
    """
    found = [*crossings(diagnosis), near_gap_finding(diagnosis, limits), _loose(diagnosis, limits)]
    return [finding for finding in found if finding is not None]


def crossings(diagnosis: Diagnosis) -> list[Finding | None]:
    """Self-intersections and overlaps, each a finding or None.

    Parameters
    ----------
    diagnosis : Diagnosis

    Returns
    -------
    list of Finding or None

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> from caulkcore.mesh.concatenate import concatenate
    >>> two = concatenate([cuboid(), cuboid(at=(5.0, 4.0, 3.0))])
    >>> [one.kind for one in crossings(Diagnosis(two)) if one]
    ['overlapping-shells']
    """
    pairs = diagnosis.intersecting_pairs
    if not len(pairs):
        return []
    shell, _ = diagnosis.shells
    same = shell[pairs[:, 0]] == shell[pairs[:, 1]]
    meetings = _Meetings(diagnosis, pairs)
    return [_within(meetings, np.flatnonzero(same)), _between(meetings, np.flatnonzero(~same))]


class _Meetings:
    """Pairs of faces that meet, and the segments along which they do."""

    def __init__(self, diagnosis: Diagnosis, pairs: Array) -> None:
        self.diagnosis, self.pairs = diagnosis, pairs

    @cached_property
    def _found(self) -> tuple[Array, Array, Array]:
        """Segments; where those of each pair begin; and the length of each pair's."""
        diagnosis = self.diagnosis
        segments, owner = intersection_segments(
            diagnosis.mesh.vertices, diagnosis.topology.faces, self.pairs
        )
        # `owner` ascends: the segment of a pair, or where it would stand
        begin = np.searchsorted(owner, np.arange(len(self.pairs) + 1))
        lengths = np.linalg.norm(segments[:, 1] - segments[:, 0], axis=1)
        return segments, begin, np.bincount(owner, lengths, minlength=len(self.pairs))

    def places(
        self,
        kind: str,
        rows: Array,
        label: Array,
        title: Callable[[Array], str],
        two: Array | None = None,
    ) -> Places:
        """A place for each group of pairs, the longest curve first; `two` names their pieces."""
        return Places(lambda: tuple(self._ranked(kind, rows, label, title, two)))

    def _ranked(
        self,
        kind: str,
        rows: Array,
        label: Array,
        title: Callable[[Array], str],
        two: Array | None,
    ) -> Places:
        groups = Groups.by_label(label, rows)
        # by their curves, and those that lie on each other by their number
        rank = groups.reduce(np.add, self._found[2][groups.items])
        rank = np.where(rank > 0, rank, -1.0 / groups.sizes)

        def place(i: int) -> Place:
            members = groups[i]
            measure = (
                f"{length_text(float(rank[i]))} long" if rank[i] > 0 else "lying on each other"
            )
            made = place_of(
                self.diagnosis.mesh,
                title(members),
                measure,
                len(members),
                faces=self._faces(members),
                curves=self._curves(members),
            )
            made = replace(made, value=max(float(rank[i]), 0.0))
            return made if two is None else _of_two(made, two[members[0]], _OVERLAP)

        def faces(selected: Array) -> Array:
            return self._faces(groups.of(selected))

        def curves(selected: Array) -> Array:
            return self._curves(groups.of(selected))

        return worst_first(self.diagnosis.mesh, kind, rank, place, faces=faces, curves=curves)

    def _faces(self, rows: Array) -> Array:
        return self.diagnosis.kept[np.unique(self.pairs[rows])]

    def _curves(self, rows: Array) -> Array:
        segments, begin, _ = self._found
        here = begin[rows]
        return segments[here[begin[rows + 1] > here]]


def _within(meetings: _Meetings, rows: Array) -> Finding | None:
    """Faces of one shell that cross."""
    if not len(rows):
        return None
    diagnosis = meetings.diagnosis
    corners = diagnosis.topology.faces[meetings.pairs[rows]]
    joins = np.concatenate(
        [
            corners[:, :, :2].reshape(-1, 2),
            corners[:, :, 1:].reshape(-1, 2),
            np.stack([corners[:, 0, 0], corners[:, 1, 0]], axis=1),
        ]
    )
    joined = kernel.components(joins, len(diagnosis.mesh.vertices))
    label = joined[corners[:, 0, 0]]
    n = len(np.unique(label))
    return Finding(
        "self-intersections",
        "leak",
        len(rows),
        f"The skin passes through itself at {counted(n, 'place')} ({len(rows):,} pairs of "
        "triangles). It is not decided there what is inside; layers may come out with gaps or "
        "walls doubled.",
        meetings.places(
            "self-intersections",
            rows,
            label,
            lambda members: f"Crosses itself, {counted(len(members), 'pair')} of triangles",
        ),
    )


def _between(meetings: _Meetings, rows: Array) -> Finding | None:
    """Shells that overlap."""
    if not len(rows):
        return None
    shell, count = meetings.diagnosis.shells
    two = np.sort(shell[meetings.pairs], axis=1).astype(np.int64)
    label = two[rows, 0] * count + two[rows, 1]
    n = len(np.unique(label))

    return Finding(
        "overlapping-shells",
        "leak",
        n,
        f"{counted(n, 'pair')} of pieces overlap. Printing wants one skin: the parts of a skin "
        "that lie inside another piece print as walls, or as hollows.",
        meetings.places("overlapping-shells", rows, label, lambda members: "", two),
    )


def _of_two(place: Place, two: Array, words: str) -> Place:
    """A place that is named after two pieces."""
    shells = tuple(int(s) for s in two)

    def naming(numbers: Sequence[int]) -> str:
        return words.format(*numbers)

    title = naming([s + 1 for s in shells])
    return replace(place, title=title, pieces=shells, naming=naming)


def near_gap_finding(diagnosis: Diagnosis, limits: Limits) -> Finding | None:
    """Solids that almost touch.

    Parameters
    ----------
    diagnosis : Diagnosis
    limits : Limits
        The shop's.

    Returns
    -------
    Finding or None
        None if there is nothing of the kind.
    """
    solids = outer_solids(diagnosis, limits.debris)
    gaps = near_gaps(diagnosis, solids, limits.near_gap)
    if not len(gaps.faces):
        return None
    _, count = diagnosis.shells
    groups = Groups.by_label(gaps.shells[:, 0] * count + gaps.shells[:, 1])
    least = groups.reduce(np.minimum, gaps.width[groups.items])

    def place(i: int) -> Place:
        members = groups[i]
        made = place_of(
            diagnosis.mesh,
            "",
            f"{length_text(float(least[i]))} wide",
            len(members),
            faces=faces(np.array([i])),
            curves=gaps.spans[members],
        )
        return _of_two(replace(made, value=float(least[i])), gaps.shells[members[0]], _GAP)

    def faces(selected: Array) -> Array:
        return diagnosis.kept[np.unique(gaps.faces[groups.of(selected)])]

    def curves(selected: Array) -> Array:
        return gaps.spans[groups.of(selected)]

    n = len(groups)
    return Finding(
        "near-gaps",
        "call",
        n,
        f"{counted(n, 'pair')} of pieces come nearer than {limits.near_gap:g} mm without touching. "
        "If they were meant to be joined, the gap stays as a crack in the print; if not, they may "
        "fuse.",
        worst_first(diagnosis.mesh, "near-gaps", -least, place, faces=faces, curves=curves),
    )


def _loose(diagnosis: Diagnosis, limits: Limits) -> Finding | None:
    """Solids that nothing joins."""
    parts = loose_parts(diagnosis, limits.debris)
    n = len(parts)
    if n < 2:
        return None
    volume, _ = diagnosis.shell_measures
    sizes = parts.reduce(np.add, volume[parts.items])

    def faces(selected: Array) -> Array:
        return diagnosis.by_shell.of(parts.of(selected))

    def place(i: int) -> Place:
        members = parts[i]
        one = faces(np.array([i]))
        title = _loose_title(members + 1)
        made = place_of(diagnosis.mesh, title, volume_text(float(sizes[i])), len(one), faces=one)
        shells = tuple(members.tolist())
        return replace(made, value=float(sizes[i]), pieces=shells, naming=_loose_title)

    return Finding(
        "loose-parts",
        "note",
        n,
        f"{counted(n, 'solid')} that nothing joins; they come off the machine as {n:,} parts.",
        worst_first(diagnosis.mesh, "loose-parts", sizes, place, faces=faces),
    )


def _loose_title(numbers: Sequence[int] | Array) -> str:
    return f"Loose part: {_named_pieces(numbers)}"


def _named_pieces(numbers: Sequence[int] | Array) -> str:
    """Pieces by their numbers in the list of pieces: the first ones of many."""
    told = [f"{n:,}" for n in np.sort(numbers)[:_NAMED].tolist()]
    more = len(numbers) - len(told)
    if len(numbers) == 1:
        return f"piece {told[0]}"
    if more:
        return f"pieces {', '.join(told)} and {more:,} more"
    return f"pieces {', '.join(told[:-1])} and {told[-1]}"
