"""Running one operation so that it can be trusted: examined before and after, with its account."""

from dataclasses import replace
from typing import Any

from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.diagnose.harm import HARMS, harm_counts
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.outcome import Outcome
from caulkcore.progress import SILENT, Progress
from caulkcore.repair.partial_change import keep_what_helped

from .account import Account
from .examination import examine
from .findings.walls import MOST_FACES
from .limits import USUAL, Limits
from .mended import Mended, Step
from .mending import told_put_back
from .operations import operation, run_operation
from .questions import noun
from .report import Report
from .rule_sheets import RuleSheet
from .unit_guess import GIVEN, UnitGuess

_OPENED = ("open edges", "pinched vertices")
"""Harm that is meant where an operation opens the skin."""
_OPENED_KINDS = {"open-edges", "open-sheets", "cracks", "pinched-vertices"}
"""Kinds of finding that tell of it."""
SET_UNIT = "set-unit"
"""The operation that changes in which unit a file's numbers are read."""


def perform(
    mesh: Mesh,
    name: str,
    given: dict[str, Any],
    *,
    unit: UnitGuess = GIVEN,
    limits: Limits = USUAL,
    rules: RuleSheet | None = None,
    rule_sheets: tuple[RuleSheet, ...] = (),
    most_faces: int = MOST_FACES,
    progress: Progress = SILENT,
) -> Mended:
    """Run one operation, and keep what came of it only if it helped.

    Parameters
    ----------
    mesh : Mesh
        In millimetres.
    name : str
        Of the operation.
    given : dict
        Its parameters by name.
    unit : UnitGuess
        How the file's unit was come by.
    limits : Limits
        The shop's.
    rules : RuleSheet, optional
        What the material asks for; walls are judged by it afterwards.
    rule_sheets : tuple of RuleSheet
        All materials of the shop, to be told what each says afterwards.
    most_faces : int
        Triangles up to which walls are judged afterwards.
    progress : Progress

    Returns
    -------
    Mended
        With one step; where it was refused, the mesh that came in, its report and the reason.

    Raises
    ------
    OperationRefused
        If there is no such operation, a parameter is wrong, or it cannot be done at all.
    Cancelled
        If `progress` asks to stop.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> open_box = Mesh(cuboid().vertices, cuboid().faces[1:])
    >>> perform(open_box, "fill-holes", {}).after.tight
    True
    """
    held = Diagnosis.of(mesh)
    before = examine(mesh, unit, progress=progress.span(0.0, 0.2), limits=limits)
    now = unit
    if name == SET_UNIT:
        given = {"was": unit.unit, **given}
        now = UnitGuess(str(given.get("unit")), "given", "Set by a person.")
    result = run_operation(mesh, name, given, progress.span(0.2, 0.5), rules=rules, limits=limits)
    if result.mesh is mesh and name != SET_UNIT:
        reason = " ".join(result.left) or "There was nothing to do."
        return Mended.unchanged(mesh, before, reason)
    after_held = Diagnosis.of(result.mesh, since=held)
    if name != SET_UNIT and not operation(name).joins:
        # what helped in one place is kept though it did harm in another
        passing = _OPENED if operation(name).opens else ()
        if _is_whole(name, given):
            kept = Outcome(mesh if _is_harmed(held, result.mesh) else result.mesh)
        else:
            kept = keep_what_helped(held, result.mesh, passing=passing)
        if kept.mesh is mesh:
            return Mended.unchanged(mesh, before, _harm_done(held, result.mesh))
        if kept.mesh is not result.mesh:
            done = f"{result.done} {told_put_back(kept)}"
            result = replace(result, mesh=kept.mesh, done=done)
            after_held = Diagnosis.of(result.mesh, since=held)
    after = examine(
        result.mesh,
        now,
        progress=progress.span(0.5, 0.8),
        limits=limits,
        rules=rules,
        rule_sheets=rule_sheets,
        most_faces=most_faces,
    )
    worse = None if operation(name).joins else _why_worse(name, before, after)
    if worse:
        return Mended.unchanged(mesh, before, worse)
    progress.step("Writing the account", 0.85)
    account = Account.between(mesh, result.mesh, before, progress=progress.span(0.85, 1.0))
    del after_held
    step = Step(name, result.done or "The numbers stay as they are.", result.left, lambda: account)
    unmoved = None if result.unmoved is None else Mesh(result.unmoved, result.mesh.faces)
    return Mended(result.mesh, before, after, account, (step,), None, unmoved)


def _harm_done(before: Diagnosis, after: Mesh) -> str:
    """Why a result is not kept at all: what there would be more of."""
    if not len(after.faces):
        return "Nothing would be left of the model."
    was, is_ = harm_counts(before), harm_counts(Diagnosis.of(after, since=before))
    more = [f"{is_[i] - was[i]:,} more {name}" for i, name in enumerate(HARMS) if is_[i] > was[i]]
    return f"It was tried and left {', '.join(more)}; the model stays as it was."


def _is_whole(name: str, given: dict[str, Any]) -> bool:
    """Whether it stands or falls as a whole: of what is done to pieces, nothing is put back."""
    return operation(name).whole or bool(given.get("pieces") or given.get("others"))


def _is_harmed(before: Diagnosis, after: Mesh) -> bool:
    """Whether there is more of any harm than before, or nothing is left."""
    if not len(after.faces):
        return True
    return bool((harm_counts(Diagnosis.of(after, since=before)) > harm_counts(before)).any())


def _why_worse(name: str, before: Report, after: Report) -> str | None:
    """Why a result is not to be kept, if it is not."""
    if not len(after.mesh.faces):
        return "Nothing would be left of the model."
    chosen = operation(name)
    if chosen.freely:
        meant = _OPENED_KINDS if chosen.opens else set()
        more = [
            kind
            for kind, n in after.leaks.items()
            if n > before.leaks.get(kind, 0) and kind not in meant
        ]
        if more:
            told = ", ".join(
                f"{f.place_count:,} {noun(f.kind, f.place_count)}"
                for f in after.findings
                if f.kind in more
            )
            return f"It was tried and left {told}; the model stays as it was."
    for kind in chosen.answers:
        if kind in before.leaks and after.leaks.get(kind, 0) >= before.leaks[kind]:
            return "It was tried and did not help; the model stays as it was."
    return None
