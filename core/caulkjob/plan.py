"""The plan: the remedies in order, each only where something of its kind was found."""

from collections.abc import Collection
from dataclasses import replace
from functools import partial
from typing import Literal

import numpy as np
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.mesh.arrays import Array
from caulkcore.mesh.float32 import as_delivered
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.progress import SILENT, Progress
from caulkcore.spatial.box_tree import Tree

from .account import Account
from .examination import ALL, examine
from .limits import USUAL, Limits
from .mended import Mended, Step
from .mending import UP_TO_CLOSED, Mending, why_not_tight
from .unit_guess import GIVEN, UnitGuess

SEQUENCE = (  # for *Closed*; what crosses is arranged when all is closed
    ("duplicate-faces", "drop-duplicates"),
    ("zero-area-faces", "drop-zero-area"),
    ("cracks", "stitch-cracks"),
    ("flipped-faces", "turn-patches"),
    ("over-shared-edges", "split-over-shared"),
    ("open-sheets", "drop-scraps"),
    ("open-edges", "bridge-gaps"),
    ("open-sheets", "bridge-gaps"),
    ("open-edges", "fill-holes"),
    ("open-sheets", "fill-holes"),
    ("pinched-vertices", "part-pinched"),
    ("inside-out-shells", "turn-outward"),
)
"""Kinds of *Closed* and what mends each, in order; what crosses is arranged when all is closed."""
_ROUNDS = 4
"""Rounds of the sequence at most: what one step brings to light is mended in the next."""
_ARRANGED = (("self-intersections", "untangle"), ("overlapping-shells", "unite"))
"""What is arranged exactly, once all is closed."""
_CLEARED = (
    ("sealed-voids", "fill-voids"),
    ("buried-shells", "drop-buried"),
    ("debris", "drop-debris"),
)
"""What lies inside or about, and what takes it out, as the shop decides."""
_ARRANGEMENT_ROUNDS = 3
"""Rounds of arranging at most."""


def mend(
    mesh: Mesh,
    unit: UnitGuess = GIVEN,
    *,
    progress: Progress = SILENT,
    unite: bool = True,
    voids: Literal["fill", "keep", "ask"] = "keep",
    sheet_thickness: float | None = None,
    recast: float | None = None,
    limits: Limits = USUAL,
    buried: Literal["drop", "keep", "ask"] = "drop",
    debris: Literal["drop", "keep", "ask"] = "keep",
    apart: Collection[int] = (),
) -> Mended:
    """Mend all that can be mended without a decision.

    A sound mesh comes back as it is. Every step is examined; one that does not lessen what it
    was for, or opens more than it closes, is not kept. New vertices are placed on float32, so
    that the delivered file is what was checked.

    Parameters
    ----------
    mesh : Mesh
        In millimetres.
    unit : UnitGuess
        Passed on to the reports.
    progress : Progress
    unite : bool
        Whether overlapping pieces are united.
    voids : {"fill", "keep", "ask"}
        What to do with sealed voids; ``ask`` refuses when there are any.
    sheet_thickness : float, optional
        Thickness to give to open sheets, mm, half on each side; by default they are left open.
    recast : float, optional
        Detail size at which the whole may be recast if it is not tight otherwise, mm; by default
        it is not.
    limits : Limits
        What the reports measure against.
    buried : {"drop", "keep", "ask"}
        What to do with solids inside others: with ``drop`` they are part of the union, if pieces
        are united, and left out.
    debris : {"drop", "keep", "ask"}
        What to do with bits too small to be meant.
    apart : collection of int
        Numbers of the pieces, from 1, that are not united with others.

    Returns
    -------
    Mended

    Raises
    ------
    OperationRefused
        If a number of pieces or a size is beyond its limits.
    Cancelled
        If `progress` asks to stop.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> cube = cuboid()
    >>> mended = mend(Mesh(cube.vertices, cube.faces[1:]))
    >>> mended.refused, [step.operation for step in mended.steps]
    (None, ['fill-holes'])
    """
    if buried == "drop" and not unite:
        buried = "keep"
    clear: dict[str, str] = {"sealed-voids": voids, "buried-shells": buried, "debris": debris}
    given = (unit, unite, clear, sheet_thickness, recast, limits, _marked(mesh, apart))
    first = _mend(mesh, progress.span(0.0, 0.9), *given)
    rounded = as_delivered(first.mesh)
    if first.refused is not None or rounded is first.mesh or examine(rounded, unit).tight:
        return first
    # most formats hold less than the file that came in: what is tight has to be so in them
    second = _mend(rounded, progress.span(0.9, 1.0), *given)
    if second.refused is not None:
        reason = "It is tight only in finer numbers than most formats hold; rounded to theirs: "
        return replace(first, refused=f"{reason}{second.refused}")
    text = "All vertices rounded to what most formats hold; it was not tight in those."
    step = Step("round", text, (), partial(Account.between, first.mesh, rounded))
    account = Account.between(mesh, second.mesh, first.before)
    steps = (*first.steps, step, *second.steps)
    return replace(second, before=first.before, account=account, steps=steps)


def _mend(
    mesh: Mesh,
    progress: Progress,
    unit: UnitGuess,
    unite: bool,
    clear: dict[str, str],
    sheet_thickness: float | None,
    recast: float | None,
    limits: Limits,
    apart: Array,
) -> Mended:
    """Mend a mesh as it is, without a thought of rounding."""
    work = Mending(mesh, unit, limits, progress.span(0.0, 0.15))
    before = work.before
    for round_ in range(_ROUNDS):
        known = work.mesh
        for position, (kind, name) in enumerate(SEQUENCE):
            share = (round_ + position / len(SEQUENCE)) / _ROUNDS
            if name == "split-over-shared":
                _arrange_over_shared(work, progress)
            if name == "turn-outward" and work.is_open:
                continue  # what lies inside what is known when all is closed
            if name == "fill-holes" and sheet_thickness is not None:
                given = {"thickness": sheet_thickness}
                work.take("open-sheets", "give-thickness", UP_TO_CLOSED, progress, given)
            work.take(kind, name, UP_TO_CLOSED, progress.span(0.15 + 0.6 * share, 0.75))
        if work.report.tight or work.mesh is known:
            break
    work.ask_all(progress.span(0.75, 0.82))
    for round_ in range(_ARRANGEMENT_ROUNDS):
        known = work.mesh
        share = 0.82 + 0.08 * round_ / _ARRANGEMENT_ROUNDS
        for kind, name in _ARRANGED:
            if unite or name != "unite":
                stay = {"apart": _pieces_at(work.mesh, apart)} if name == "unite" else None
                work.take(
                    kind, name, ALL, progress.span(share, share + 0.08 / _ARRANGEMENT_ROUNDS), stay
                )
        if work.mesh is known:
            break
        # skins that touch along an edge or in a vertex are parted, and what that brings up
        for kind, name in SEQUENCE:
            work.take(kind, name, ALL, progress.span(share, share + 0.08 / _ARRANGEMENT_ROUNDS))
    # what parting and uniting brought up last
    work.take("zero-area-faces", "drop-zero-area", ALL, progress.span(0.82, 0.82))
    if unite and not len(apart):  # what stays apart is not to grow together there
        work.recast_zones(progress.span(0.8, 0.82))
    if recast is not None and not work.report.tight:
        work.recast(recast, progress.span(0.82, 0.88))
    for kind, name in _CLEARED:
        if clear[kind] in ("fill", "drop"):
            work.take(kind, name, ALL, progress.span(0.82, 0.9))
    work.drop_specks(progress.span(0.88, 0.88))
    work.put_back_harm(progress.span(0.88, 0.9))
    report = work.report
    progress.step("Writing the account", 0.9)
    if not len(work.mesh.faces):
        reason = "Nothing would be left: all faces are copies of each other or without area."
        return Mended.unchanged(mesh, before, reason)
    refused = None if report.tight else why_not_tight(report, work.left)
    asked = [f.text for f in report.findings if clear.get(f.kind) == "ask"]
    if asked and refused is None:
        refused = f"A person must decide: {' '.join(asked)}"
    return Mended(work.mesh, before, report, work.account(), tuple(work.steps), refused)


def _arrange_over_shared(work: Mending, progress: Progress) -> None:
    """Untangle pieces that lie on each other: that settles their common edges as well."""
    if "over-shared-edges" not in work.report.leaks or work.is_open:
        return
    work.ask_all()
    work.take("self-intersections", "untangle", ALL, progress)


def _marked(mesh: Mesh, pieces: Collection[int]) -> Array:
    """A point of each of some pieces, which stays on it whatever its number becomes."""
    if not pieces:
        return np.zeros((0, 3))
    diagnosis = Diagnosis.of(mesh)
    shell, _ = diagnosis.shells
    first = [np.flatnonzero(shell == number - 1)[:1] for number in pieces]
    return mesh.vertices[mesh.faces[diagnosis.kept[np.concatenate(first)]]].mean(axis=1)


def _pieces_at(mesh: Mesh, points: Array) -> list[int]:
    """Numbers of the pieces that some points lie on."""
    if not len(points):
        return []
    diagnosis = Diagnosis.of(mesh)
    shell, _ = diagnosis.shells
    _, face = Tree.of(mesh.vertices, mesh.faces[diagnosis.kept]).nearest(points)
    return np.unique(shell[face] + 1).tolist()
