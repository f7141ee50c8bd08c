"""Shells that intersect themselves, or each other, made into clean solids."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..arrangement.arrange import ArrangementFailed
from ..arrangement.outer_hull import Inverted, InvertedCell, OuterHull, outer_hull
from ..arrangement.slivers import take_out_slivers
from ..diagnose.diagnosis import Diagnosis
from ..mesh import _edge_kernels as kernel
from ..mesh.arrays import Array
from ..mesh.changed_faces import changed_faces
from ..mesh.concatenate import concatenate
from ..mesh.triangle_mesh import Mesh
from ..outcome import Outcome, Skipped

_VOLUME_SLACK = 1e-6
"""By which share the volume of a union may be off what its pieces allow: rounding to float32."""
_FOLD = 1e-6
"""Nobody is asked about space that is inside out if it has less than this share of all volume."""


def self_intersecting_shells(diagnosis: Diagnosis) -> Array:
    """Shells some of whose own faces intersect.

    Parameters
    ----------
    diagnosis : Diagnosis

    Returns
    -------
    ndarray, shape (k,)
        Numbers of the shells, ascending.
    """
    pairs = diagnosis.shells[0][diagnosis.intersecting_pairs]
    return np.unique(pairs[pairs[:, 0] == pairs[:, 1], 0])


def intersecting_shells(diagnosis: Diagnosis) -> Array:
    """Pairs of shells whose faces intersect.

    Parameters
    ----------
    diagnosis : Diagnosis

    Returns
    -------
    ndarray, shape (k, 2)
        Numbers of the shells, the lower first.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> from caulkcore.mesh.concatenate import concatenate
    >>> two = concatenate([cuboid(), cuboid(at=(5.0, 4.0, 3.0))])
    >>> intersecting_shells(Diagnosis(two)).tolist()
    [[0, 1]]
    """
    pairs = np.sort(diagnosis.shells[0][diagnosis.intersecting_pairs], axis=1)
    return np.unique(pairs[pairs[:, 0] != pairs[:, 1]], axis=0)


def resolve_self_intersections(
    diagnosis: Diagnosis, shells: Array | None = None, *, inverted: Inverted = "ask"
) -> Outcome:
    """Make shells that pass through themselves into clean ones, dividing only what intersects.

    Parameters
    ----------
    diagnosis : Diagnosis
    shells : ndarray, shape (k,), optional
        Numbers of the shells; all `self_intersecting_shells` by default.
    inverted : {"ask", "drop", "keep"}
        What becomes of space that the surface runs round the wrong way; see `outer_hull`.

    Returns
    -------
    Outcome
        Numbers: ``made``, ``shells``, ``pairs`` of faces that met, ``swallowed`` (shells that lay
        wholly inside others), ``inverted_mm3``, ``to_choose``. Skipped, each with ``shells``,
        ``faces`` and a point ``at``:
        ``open``; ``inverted`` with ``volume_mm3``; ``not-arranged`` with a ``message``;
        ``volume-wrong``; ``nothing-left``; ``piece-lost``.
    """
    chosen = self_intersecting_shells(diagnosis) if shells is None else shells
    if not len(chosen):
        return Outcome(diagnosis.mesh)
    hulls = _Hulls(diagnosis, inverted)
    for s in chosen.tolist():
        hulls.add([s])
    return hulls.outcome(len(hulls.made))


def unite_shells(
    diagnosis: Diagnosis,
    pairs: Array | None = None,
    *,
    inverted: Inverted = "ask",
    apart: Sequence[int] = (),
) -> Outcome:
    """Make one solid of shells that overlap, dividing only the faces that intersect.

    Voids go with the solid around them. A union is kept only if its volume lies between that of
    its largest piece and their sum, if it reaches as far as the pieces did, and if of each piece
    something is left, or it lay inside the others.

    Parameters
    ----------
    diagnosis : Diagnosis
    pairs : ndarray, shape (k, 2), optional
        Numbers of shells to unite; all `intersecting_shells` by default.
    inverted : {"ask", "drop", "keep"}
        As in `resolve_self_intersections`, where shells intersect themselves as well.
    apart : sequence of int
        Numbers of shells that stay as they are.

    Returns
    -------
    Outcome
        As `resolve_self_intersections`. Skipped as there, and ``kept-apart`` with ``shells``.

    Examples
    --------
    >>> points = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1.0]])
    >>> sides = np.array([[0, 2, 1], [0, 1, 3], [0, 3, 2], [1, 2, 3]])
    >>> two = concatenate([Mesh(points, sides), Mesh(points + [0.1, 0.2, 0.15], sides)])
    >>> unite_shells(Diagnosis(two)).numbers["made"]
    1
    """
    joins = intersecting_shells(diagnosis) if pairs is None else pairs
    if not len(joins):
        return Outcome(diagnosis.mesh)
    _, count = diagnosis.shells
    stays = np.isin(joins, list(apart)).any(axis=1)
    kept_apart = tuple(
        Skipped("kept-apart", _place_of(diagnosis, pair)) for pair in joins[stays].tolist()
    )
    joins = joins[~stays]
    if not len(joins):
        return Outcome(diagnosis.mesh, skipped=kept_apart)
    cluster = kernel.components(joins.astype(np.int32), count)
    hulls = _Hulls(diagnosis, inverted)
    united = 0
    for root in np.unique(cluster[joins.ravel()]).tolist():
        members = np.flatnonzero(cluster == root).tolist()
        united += len(members) if hulls.add(members) else 0
    outcome = hulls.outcome(united)
    return Outcome(outcome.mesh, outcome.numbers, (*outcome.skipped, *kept_apart))


@dataclass
class _Hulls:
    """Shells made into one solid each, so far."""

    diagnosis: Diagnosis
    inverted: Inverted

    def __post_init__(self) -> None:
        self.made: list[OuterHull] = []
        self.skipped: list[Skipped] = []
        self.used = np.zeros(self.diagnosis.shells[1], dtype=bool)
        self.swallowed = 0
        self.to_choose = 0

    def add(self, members: list[int]) -> bool:
        """Make one solid of some shells and the voids in them; note why if it cannot be."""
        diagnosis = self.diagnosis
        shell, _ = diagnosis.shells
        volume, _ = diagnosis.shell_measures
        depth, parent = diagnosis.nesting
        voids = np.flatnonzero((volume < 0) & (depth > 0))
        group = {*members, *voids[np.isin(parent[voids], members)].tolist()}
        # a void that meets a solid is cut with the solid around it
        if any(volume[s] >= 0 for s in group):
            group |= {int(parent[s]) for s in voids.tolist() if s in group}
        shells = np.array(sorted(group))
        if self.used[shells].any():
            return True
        if diagnosis.open_shells[shells].any():
            return self._skip("open", members)
        chosen = np.isin(shell, shells)
        faces = diagnosis.topology.faces[chosen]
        outside = int((volume[shells] < 0).all() and (depth[shells] > 0).all())
        try:
            hull = outer_hull(
                Mesh(diagnosis.mesh.vertices, faces),
                outside,
                inverted=self.inverted,
                pairs=self._known_pairs(chosen),
                fold=_FOLD * float(np.abs(volume).sum()),
            )
            hull = _without_slivers(Mesh(diagnosis.mesh.vertices, faces), hull)
        except InvertedCell as problem:
            self.to_choose += 1
            return self._skip("inverted", members, volume_mm3=problem.volume)
        except ArrangementFailed as problem:
            return self._skip("not-arranged", members, message=str(problem))
        wrong = self._problem(hull, shell[chosen], outside)
        if wrong:
            return self._skip(wrong, members)
        self.used[shells] = True
        self.made.append(hull)
        return True

    def _skip(self, reason: str, members: list[int], **numbers: object) -> bool:
        self.skipped.append(Skipped(reason, {**_place_of(self.diagnosis, members), **numbers}))
        return False

    def _known_pairs(self, chosen: Array) -> Array | None:
        """What is known of intersections among some of the faces."""
        diagnosis = self.diagnosis
        if len(diagnosis.degenerate_faces) or len(diagnosis.cracks):
            return None
        pairs = diagnosis.intersecting_pairs[chosen[diagnosis.intersecting_pairs].all(axis=1)]
        return np.cumsum(chosen)[pairs] - 1

    def _problem(self, hull: OuterHull, shell: Array, outside: int) -> str:
        """Why a solid cannot be what the shells enclosed together, if it cannot."""
        if outside:
            return ""
        volume, _ = self.diagnosis.shell_measures
        shells = np.unique(shell)
        solids = shells[volume[shells] > 0]
        whole = hull.mesh.volume
        if len(shells) > 1:
            total = volume[solids].sum()
            hollow = -volume[shells[volume[shells] < 0]].sum()
            slack = _VOLUME_SLACK * total + (hull.inverted if self.inverted == "keep" else 0.0)
            if not volume[solids].max() - hollow - slack <= whole <= total + slack:
                return "volume-wrong"
        elif whole <= 0:
            return "nothing-left"
        gone = np.setdiff1d(solids, np.unique(shell[hull.kept]))
        if len(gone):
            faces = self.diagnosis.topology.faces[np.isin(self.diagnosis.shells[0], gone)]
            low, high = Mesh(self.diagnosis.mesh.vertices, faces).compact().bounds
            if (low < hull.mesh.bounds[0]).any() or (high > hull.mesh.bounds[1]).any():
                return "piece-lost"
        self.swallowed += len(gone)
        return ""

    def outcome(self, shells: int) -> Outcome:
        """What all of it comes to; `shells` went into it."""
        mesh = self.diagnosis.mesh
        numbers = {
            "made": len(self.made),
            "shells": shells,
            "pairs": sum(hull.pairs for hull in self.made),
            "swallowed": self.swallowed,
            "inverted_mm3": sum(hull.inverted for hull in self.made),
            "to_choose": self.to_choose,
        }
        if not self.made:
            return Outcome(mesh, numbers, tuple(self.skipped))
        shell, _ = self.diagnosis.shells
        rest = np.delete(mesh.faces, self.diagnosis.kept[self.used[shell]], axis=0)
        hulls = [hull.mesh for hull in self.made]
        result = concatenate([Mesh(mesh.vertices, rest).compact(), *hulls])
        return Outcome(result, numbers, tuple(self.skipped))


def _place_of(diagnosis: Diagnosis, members: Sequence[int]) -> dict[str, object]:
    """Shells by their numbers, their faces, and a point where they meet."""
    shell, _ = diagnosis.shells
    pairs = diagnosis.intersecting_pairs
    meets = np.isin(shell[pairs], members).all(axis=1)
    faces = diagnosis.topology.faces
    corner = faces[pairs[meets][0, 0] if meets.any() else np.isin(shell, members).argmax(), 0]
    count = int(np.isin(shell, members).sum())
    at = diagnosis.mesh.vertices[corner].tolist()
    return {"shells": list(members), "faces": count, "at": at}


def _without_slivers(source: Mesh, hull: OuterHull) -> OuterHull:
    """A solid without the slivers that dividing the faces has made, where that crosses nothing."""
    fresh = changed_faces(source, hull.mesh)[1]
    return replace(hull, mesh=take_out_slivers(hull.mesh, fresh, source=source).mesh)
