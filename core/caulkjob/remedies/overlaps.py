"""Remedies for skins that cross, and for pieces that almost touch."""

from collections.abc import Collection
from dataclasses import replace

import numpy as np
from caulkcore.arrangement.outer_hull import Inverted
from caulkcore.diagnose.components import outer_solids, shells_of_faces
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.diagnose.near_gaps import near_gaps
from caulkcore.mesh.arrays import Array
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.outcome import Outcome, Skipped
from caulkcore.solid import close_near_gaps
from caulkcore.solid.union import resolve_self_intersections, unite_shells

from ..chosen_places import chosen_places, faces_of
from ..findings import one_solid
from ..findings.finding import Place
from ..limits import USUAL, Limits
from ..operation import OperationResult
from ..text import counted, length_text, volume_text
from .reasons import told_once

_WHY = {
    "open": "it can be done once everything there is closed.",
    "volume-wrong": "the volume of their union does not come out right.",
    "nothing-left": "nothing of it would be left.",
    "piece-lost": "a piece would be lost.",
}
"""Reasons of `caulkcore.solid.union`, as sentences go on."""


def untangle(
    mesh: Mesh, places: Collection[int] | None = None, *, inverted: Inverted = "ask"
) -> OperationResult:
    """Make pieces that pass through themselves into clean ones, dividing only what crosses.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the self-intersections; a shell is untangled whole. All by default.
    inverted : {"ask", "drop", "keep"}
        What becomes of space that the skin runs round the wrong way.

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If a place is not among those of the finding.
    """
    diagnosis = Diagnosis.of(mesh)
    chosen = _crossing_places(diagnosis, "self-intersections", places)
    if not chosen:
        return OperationResult(mesh)
    shells = shells_of_faces(diagnosis, faces_of(chosen))
    outcome = resolve_self_intersections(diagnosis, shells, inverted=inverted)
    text = (
        f"{counted(outcome.numbers['made'], 'piece')} untangled where "
        f"{counted(outcome.numbers['pairs'], 'pair')} of faces met"
    )
    left = told_once(
        outcome.skipped,
        lambda one: (
            f"Piece {one.numbers['shells'][0] + 1}, which crosses itself, is left: {_why(one)}"
        ),
        _faces_left,
    )
    return _told(mesh, outcome, text, left, inverted)


def unite(
    mesh: Mesh,
    places: Collection[int] | None = None,
    *,
    inverted: Inverted = "ask",
    apart: Collection[int] = (),
) -> OperationResult:
    """Make one skin of pieces that overlap, dividing only the faces that cross.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the overlaps to unite; all by default.
    inverted : {"ask", "drop", "keep"}
        As in `untangle`, where pieces cross themselves as well.
    apart : collection of int
        Numbers of the pieces, from 1, that stay as they are.

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If a place is not among those of the finding.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> from caulkcore.mesh.concatenate import concatenate
    >>> unite(concatenate([cuboid(), cuboid(at=(5.0, 4.0, 3.0))])).done
    '2 pieces united into 1.'
    """
    diagnosis = Diagnosis.of(mesh)
    chosen = _crossing_places(diagnosis, "overlapping-shells", places)
    if not chosen:
        return OperationResult(mesh)
    outcome = unite_shells(
        diagnosis, _pairs(diagnosis, chosen), inverted=inverted, apart=[n - 1 for n in apart]
    )
    left = told_once(outcome.skipped, _why_not_united, _faces_left)
    if not outcome.numbers:
        return OperationResult(mesh, left=left)
    united, made = outcome.numbers["shells"], outcome.numbers["made"]
    return _told(mesh, outcome, f"{counted(united, 'piece')} united into {made}", left, inverted)


def close_gaps(
    mesh: Mesh,
    places: Collection[int] | None = None,
    *,
    overlap: float = 0.02,
    limits: Limits = USUAL,
) -> OperationResult:
    """Move the smaller of two solids that almost touch into the other, and unite them.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the near gaps; all by default, each piece being moved once.
    overlap : float
        How far it goes in beyond touching, mm.
    limits : Limits
        The shop's, which tell what is near.

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If a place is not among those of the finding.
    """
    diagnosis = Diagnosis.of(mesh)
    chosen = chosen_places(one_solid.near_gap_finding(diagnosis, limits), places)
    if not chosen:
        return OperationResult(mesh)
    gaps = near_gaps(diagnosis, outer_solids(diagnosis, limits.debris), limits.near_gap)
    pairs = _pairs(diagnosis, chosen)
    outcome = close_near_gaps.close_near_gaps(diagnosis, gaps, pairs, overlap=overlap)
    left = told_once(
        outcome.skipped,
        lambda one: (
            "The pieces do not meet when they are moved."
            if one.reason == "do-not-meet"
            else _why_not_united(one)
        ),
        _faces_left,
    )
    if outcome.mesh is mesh:
        return OperationResult(mesh, left=left)
    text = (
        f"{counted(outcome.numbers['gaps'], 'piece')} moved at most "
        f"{length_text(outcome.numbers['farthest_mm'])} and united with what lay beside it."
    )
    return OperationResult(outcome.mesh, text, outcome.numbers, left)


def _crossing_places(
    diagnosis: Diagnosis, kind: str, places: Collection[int] | None
) -> list[Place]:
    found = (f for f in one_solid.crossings(diagnosis) if f is not None and f.kind == kind)
    return chosen_places(next(found, None), places)


def _pairs(diagnosis: Diagnosis, chosen: list[Place]) -> Array:
    """The two shells that each of some places is about."""
    found = [shells_of_faces(diagnosis, place.faces) for place in chosen]
    return np.array([(int(two[0]), int(two[-1])) for two in found])


def _faces_left(one: Skipped) -> float:
    return float(one.numbers.get("faces", 0))


def _why(one: Skipped) -> str:
    if one.reason == "inverted":
        return (
            f"{volume_text(one.numbers['volume_mm3'])} of it are inside out; whether that is "
            "material or air has to be chosen."
        )
    return _WHY.get(one.reason) or str(one.numbers["message"])


def _why_not_united(one: Skipped) -> str:
    shells = one.numbers["shells"]
    if one.reason == "kept-apart":
        return f"Pieces {shells[0] + 1} and {shells[1] + 1} overlap, and stay apart as chosen."
    return f"{counted(len(shells), 'overlapping piece')} left: {_why(one)}"


def _told(
    mesh: Mesh, outcome: Outcome, text: str, left: tuple[str, ...], inverted: Inverted
) -> OperationResult:
    numbers = outcome.numbers
    result = OperationResult(mesh, "", {"to_choose": numbers["to_choose"]}, left)
    if outcome.mesh is mesh:
        return result
    if numbers["swallowed"]:
        text += f"; {counted(numbers['swallowed'], 'piece')} lay wholly inside the others"
    if numbers["inverted_mm3"] > 0:
        said = "counted as material" if inverted == "keep" else "left out"
        text += f"; {volume_text(numbers['inverted_mm3'])} that were inside out {said}"
    counts = {"pieces": numbers["made"], "pairs": numbers["pairs"], **result.numbers}
    return replace(result, mesh=outcome.mesh, done=f"{text}.", numbers=counts)
