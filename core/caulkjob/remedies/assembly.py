"""Models made of pieces: brought together, united, taken off one another, cut into parts."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from caulkcore.arrangement.outer_hull import Inverted
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.errors import OperationRefused
from caulkcore.mesh.concatenate import concatenate
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.progress import SILENT, Progress
from caulkcore.repair.remove_shells import with_nested_shells
from caulkcore.solid.boolean import Boolean, boolean, bounds_meet
from caulkcore.solid.plane_cut import plane_cut

from ..operation import OperationResult
from ..text import area_text, counted, length_text, volume_text
from .clearing import chosen_shells
from .overlaps import unite as unite_overlaps

Part = Literal["both", "1", "2"]
"""What a cut leaves: both parts, the one that the normal points away from, or the other."""
_SAME = 1e-9
"""Share by which the volume of two that only touch may be off their sum: rounding."""


def join(mesh: Mesh, others: Sequence[Mesh]) -> OperationResult:
    """Bring other models in as pieces, at their places.

    Parameters
    ----------
    mesh : Mesh
    others : sequence of Mesh

    Returns
    -------
    OperationResult

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> join(cuboid(), [cuboid(at=(20.0, 0.0, 0.0))]).done
    '1 model brought in, 12 triangles.'
    """
    more = sum(len(one.faces) for one in others)
    if not more:
        return OperationResult(mesh, left=("There is no surface in what would be brought in.",))
    done = f"{counted(len(others), 'model')} brought in, {counted(more, 'triangle')}."
    return OperationResult(concatenate([mesh, *others]), done, {"models": len(others)})


def unite(
    mesh: Mesh,
    places: Collection[int] | None = None,
    *,
    others: Sequence[Mesh] | None = None,
    pieces: Collection[int] | None = None,
    inverted: Inverted = "ask",
    apart: Collection[int] = (),
    progress: Progress = SILENT,
) -> OperationResult:
    """Make one solid of overlaps that were found, of chosen pieces, or of the model and others.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the overlaps, where no pieces and no others are named.
    others : sequence of Mesh, optional
        Models to unite it with.
    pieces : collection of int, optional
        Numbers of the pieces, from 1; all by default where others are named.
    inverted : {"ask", "drop", "keep"}
        As of `caulkjob.remedies.overlaps.unite`.
    apart : collection of int
        As of the same.
    progress : Progress

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If there is no such place or piece, or one is open.
    Cancelled
        If `progress` asks to stop.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> unite(cuboid(), others=[cuboid(at=(5.0, 4.0, 3.0))]).done
    '2 pieces united: 1.79 cm³.'
    """
    if not others and not pieces:
        return unite_overlaps(mesh, places, inverted=inverted, apart=apart)
    given = _Given.of(mesh, pieces)
    solids = [*given.solids, *(others or ())]
    if len(solids) < 2:
        return OperationResult(mesh, left=("There is only one piece; nothing to unite.",))
    whole, *waiting = solids
    united, looked = 1, 0
    while looked < len(waiting):
        one = waiting[looked]
        progress.step("Uniting", united / len(solids))
        made = _united(whole, one, progress) if bounds_meet(whole, one) else None
        if made is None:
            looked += 1
            continue
        # what met nothing before may meet what has come in
        waiting.pop(looked)
        whole, united, looked = made, united + 1, 0
    if united < 2:
        return OperationResult(mesh, left=("No two of them meet; they stay as they are.",))
    done = f"{counted(united, 'piece')} united: {volume_text(whole.volume)}."
    left = (f"{counted(len(waiting), 'piece')} meet none of the others.",) if waiting else ()
    return OperationResult(given.with_solids([whole, *waiting]), done, {"united": united}, left)


def subtract(
    mesh: Mesh,
    *,
    others: Sequence[Mesh] | None = None,
    pieces: Collection[int] | None = None,
    progress: Progress = SILENT,
) -> OperationResult:
    """Take the chosen pieces, or other models, off all that is left.

    Parameters
    ----------
    mesh : Mesh
    others : sequence of Mesh, optional
        Models to take off it.
    pieces : collection of int, optional
        Numbers of the pieces to take off the rest, from 1.
    progress : Progress

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If there is no such piece, nothing is named, or one is open.
    Cancelled
        If `progress` asks to stop.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> peg = cuboid((4.0, 4.0, 4.0), at=(3.0, 3.0, 8.0))
    >>> subtract(cuboid(), others=[peg]).done
    '0.03 cm³ taken off 1 piece.'
    """
    if not others and not pieces:
        raise OperationRefused("Name what is to be taken off.")
    tools, left = list(others or ()), mesh
    if pieces:
        given = _Given.of(mesh, pieces)
        tools, left = [*given.solids, *tools], given.rest
    rest = _Given.of(left, None)
    if not rest.solids:
        raise OperationRefused("All pieces are named; nothing is left to take them off.")
    kept: list[Mesh] = []
    taken, cut, gone = 0.0, 0, 0
    for i, solid in enumerate(rest.solids):
        progress.step("Taking off", i / len(rest.solids))
        made: Mesh | None = solid
        for tool in tools:
            if made is not None and bounds_meet(made, tool):
                made = _combined(made, tool, "difference", progress)
        left_of_it = 0.0 if made is None else made.volume
        cut += made is not solid
        gone += made is None
        taken += solid.volume - left_of_it
        if made is not None:
            kept.append(made)
    if not cut:
        return OperationResult(mesh, left=("They do not meet; nothing was taken off.",))
    if not kept:
        raise OperationRefused("Nothing would be left of the model.")
    done = f"{volume_text(taken)} taken off {counted(cut, 'piece')}"
    done += f", of which {gone:,} went wholly." if gone else "."
    return OperationResult(rest.with_solids(kept), done, {"volume_mm3": taken, "pieces": cut})


def intersect(
    mesh: Mesh,
    *,
    others: Sequence[Mesh] | None = None,
    pieces: Collection[int] | None = None,
    progress: Progress = SILENT,
) -> OperationResult:
    """Keep of the chosen pieces, or of the model and others, only what all of them share.

    Parameters
    ----------
    mesh : Mesh
    others : sequence of Mesh
    pieces : collection of int, optional
        Numbers of the pieces, from 1; the other pieces stay. All together count as one model where
        `others` are given.
    progress : Progress

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If there is no such piece, there is nothing to compare with, one is open, or they share
        nothing.
    Cancelled
        If `progress` asks to stop.
    """
    given = _Given.of(mesh, pieces)
    own = [mesh] if others and not pieces else given.solids
    solids = [*own, *(others or ())]
    if len(solids) < 2:
        raise OperationRefused("What they share takes two pieces at least.")
    shared = solids[0]
    for i, one in enumerate(solids[1:], 1):
        progress.step("Comparing", i / len(solids))
        made = _combined(shared, one, "intersection", progress)
        if made is None:
            raise OperationRefused("They share nothing.")
        shared = made
    done = f"What {counted(len(solids), 'piece')} share is kept: {volume_text(shared.volume)}."
    numbers = {"volume_mm3": shared.volume}
    return OperationResult(given.with_solids([shared]), done, numbers)


def cut(
    mesh: Mesh,
    point: Sequence[float],
    normal: Sequence[float],
    *,
    part: Part = "both",
    spacing: float = 1.0,
    progress: Progress = SILENT,
) -> OperationResult:
    """Cut the model by a plane into closed parts.

    Parameters
    ----------
    mesh : Mesh
    point, normal : sequence of float
        x, y, z of a point on the plane, mm, and of its normal.
    part : {"both", "1", "2"}
        Both parts; or only the first, which the normal points away from; or only the second.
    spacing : float
        By how much the second part is moved along the normal where both stay, mm: parts that touch
        would be one again in most formats.
    progress : Progress

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If the normal has no direction, or a piece is open.
    Cancelled
        If `progress` asks to stop.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> cut(cuboid(), (0.0, 0.0, 4.0), (0.0, 0.0, 1.0), spacing=0.0).done
    'Cut into parts of 0.40 cm³ and 0.60 cm³, 1.0 cm² of cut.'
    """
    way = np.asarray(normal, dtype=np.float64)
    length = float(np.linalg.norm(way))
    if length == 0:
        raise OperationRefused("The plane's normal has no direction.")
    if Diagnosis.of(mesh).open_shells.any():
        raise OperationRefused("It is not closed; what is open cannot be cut into closed parts.")
    try:
        found = plane_cut(mesh, np.asarray(point, dtype=np.float64), way, progress=progress)
    except ValueError:
        raise OperationRefused(
            "Where the plane meets it more than two faces share an edge; mend it first."
        ) from None
    first, second = found.below, found.above
    if not len(first.faces) or not len(second.faces):
        return OperationResult(mesh, left=("The plane does not meet the model.",))
    numbers = {"volumes_mm3": [first.volume, second.volume], "area_mm2": found.area}
    told = f"{volume_text(first.volume)} and {volume_text(second.volume)}"
    done = f"Cut into parts of {told}, {area_text(found.area)} of cut"
    if part != "both":
        kept, which = (first, "first") if part == "1" else (second, "second")
        return OperationResult(kept, f"{done}; the {which} part kept.", numbers)
    if spacing:
        second = Mesh(second.vertices + way / length * spacing, second.faces)
        done += f"; the second one stands {length_text(spacing)} off"
    return OperationResult(concatenate([first, second]), f"{done}.", numbers)


@dataclass(frozen=True, eq=False)
class _Given:
    """A model as the solids that are meant, each with all that lies in it, and the rest of it."""

    solids: list[Mesh]
    rest: Mesh

    @staticmethod
    def of(mesh: Mesh, pieces: Collection[int] | None) -> "_Given":
        """Of the pieces by their numbers; all of them where none is told.

        Raises
        ------
        OperationRefused
            If there is no such piece.
        """
        diagnosis = Diagnosis.of(mesh)
        depth, parent = diagnosis.nesting
        roots = np.flatnonzero(depth == 0)
        if pieces is not None:
            chosen = chosen_shells(diagnosis, pieces)
            inner = (parent >= 0) & chosen[np.maximum(parent, 0)]
            roots = np.flatnonzero(chosen & ~inner)
        of_face = diagnosis.shell_of_face
        solids, used = [], np.zeros(len(mesh.faces), dtype=bool)
        for root in roots:
            inside = with_nested_shells(diagnosis, np.array([root]))
            its = (of_face >= 0) & inside[of_face]
            solids.append(Mesh(mesh.vertices, mesh.faces[its]).compact())
            used |= its
        return _Given(solids, Mesh(mesh.vertices, mesh.faces[~used]).compact())

    def with_solids(self, solids: Sequence[Mesh]) -> Mesh:
        """The rest, with other solids in the place of those meant."""
        return concatenate([self.rest, *solids])


def _combined(a: Mesh, b: Mesh, what: Boolean, progress: Progress) -> Mesh | None:
    """Two solids combined; None where nothing is left, the first one where nothing changes.

    Raises
    ------
    OperationRefused
        If that cannot be.
    """
    outcome = boolean(a, b, what, progress=progress)
    if not outcome.skipped:
        return outcome.mesh
    (why,) = outcome.skipped
    if why.reason == "nothing-changes":
        return a
    if why.reason == "nothing-left":
        return None
    if why.reason == "open":
        raise OperationRefused(
            "One of them is not closed, so that nobody can say what is inside; close it first."
        )
    raise OperationRefused(f"They cannot be combined. {why.numbers['message']}")


def _united(a: Mesh, b: Mesh, progress: Progress) -> Mesh | None:
    """Two solids in one; None where they have nothing in common and stay two.

    Raises
    ------
    OperationRefused
        If they cannot be combined.
    """
    made = _combined(a, b, "union", progress)
    assert made is not None, "a union holds both"
    apart = _count(a) + _count(b) <= _count(made)
    alone = abs(made.volume - a.volume - b.volume) <= _SAME * (a.volume + b.volume)
    return None if apart and alone else made


def _count(mesh: Mesh) -> int:
    """How many shells it has."""
    return int(Diagnosis.of(mesh).shells[1])
