"""Models made of pieces: brought together, united, taken off one another."""

from collections.abc import Collection, Sequence

import numpy as np
from caulkcore.arrangement.outer_hull import Inverted
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.errors import OperationRefused
from caulkcore.mesh.concatenate import concatenate
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.progress import SILENT, Progress
from caulkcore.solid.boolean import Boolean, boolean, bounds_meet
from caulkcore.solid.offset_solid import offset_solid

from ..operation import OperationResult
from ..text import counted, length_text, volume_text
from .jointing import fit
from .overlaps import unite as unite_overlaps
from .piece_solids import PieceSolids

_LOOKED = 4.0
"""Gaps of a seat are looked for up to so many times its clearance."""
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
    given = PieceSolids.of(mesh, pieces)
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
    clearance: float = 0.0,
    keep: bool = False,
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
    clearance : float
        By how much more is taken off all round, mm: the seat of a part that is to go in.
    keep : bool
        Whether what was taken off stays in the model as pieces.
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
        given = PieceSolids.of(mesh, pieces)
        tools, left = [*given.solids, *tools], given.rest
    meant = tools
    if clearance:
        tools = [offset_solid(one, clearance) for one in tools]
    rest = PieceSolids.of(left, None)
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
    numbers: dict[str, object] = {"volume_mm3": taken, "pieces": cut}
    done = f"{volume_text(taken)} taken off {counted(cut, 'piece')}"
    done += f", of which {gone:,} went wholly" if gone else ""
    if clearance:
        gaps = [fit(one, piece, _LOOKED * clearance)[0] for one in meant for piece in kept]
        done += f", {length_text(clearance)} clear all round"
        # one that took up a whole piece may be far from all that stays
        if min(gaps) < np.inf:
            numbers |= {"clearance_mm": clearance, "measured_mm": min(gaps)}
            done += f" (measured {min(gaps):.3f} at least)"
    return OperationResult(rest.with_solids([*kept, *(meant if keep else ())]), f"{done}.", numbers)


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
    given = PieceSolids.of(mesh, pieces)
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
