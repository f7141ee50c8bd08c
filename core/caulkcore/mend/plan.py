"""The plan: the remedies in order, each only where something of its kind was found."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from ..examine import Report, examine
from ..kernels.weld import weld
from ..kinds import noun
from ..mesh import Mesh
from ..progress import SILENT, Progress
from ..units import GIVEN, UnitGuess
from .account import Account
from .operations import operation
from .outcome import Outcome

SEQUENCE = (
    ("duplicate-faces", "drop-duplicates"),
    ("zero-area-faces", "drop-zero-area"),
    ("cracks", "stitch-cracks"),
    ("flipped-faces", "turn-patches"),
    ("over-shared-edges", "split-over-shared"),
    ("open-edges", "drop-scraps"),
    ("open-edges", "fill-holes"),
    ("pinched-vertices", "part-pinched"),
    ("inside-out-shells", "turn-outward"),
)
_ROUNDS = 4
# What mending one kind may bring to light, for a later step to mend.
_BENEATH = {"open-edges", "cracks", "over-shared-edges", "flipped-faces"}
_TOUCHING = {"pinched-vertices", "inside-out-shells"}
_MAY_SHOW = {kind: _BENEATH | _TOUCHING for kind, _ in SEQUENCE} | {
    "cracks": _TOUCHING | {"flipped-faces"},
    "open-edges": _TOUCHING,
    "pinched-vertices": {"inside-out-shells"},
    "inside-out-shells": set(),
}


@dataclass(frozen=True)
class Step:
    """One remedy that the plan ran.

    Attributes
    ----------
    operation : str
        Its name.
    text : str
        What it did.
    account : Account
    left : tuple of str
        What it left alone, and why.
    """

    operation: str
    text: str
    account: Account
    left: tuple[str, ...]

    def as_json(self) -> dict[str, Any]:
        """All of it as plain values."""
        return {
            "operation": self.operation,
            "text": self.text,
            "left": list(self.left),
            "account": self.account.as_json(),
        }


@dataclass(frozen=True)
class Mended:
    """What the plan made of a mesh.

    Attributes
    ----------
    mesh : Mesh
        The result; the very mesh that came in when nothing was better.
    before, after : Report
    account : Account
        Of the whole change.
    steps : tuple of Step
    refused : str or None
        Why it is not tight, if it is not.
    """

    mesh: Mesh
    before: Report
    after: Report
    account: Account
    steps: tuple[Step, ...]
    refused: str | None

    def as_json(self) -> dict[str, Any]:
        """The form of ``mend --json``, without the file's name and format."""
        return {
            "before": self.before.as_json(),
            "after": self.after.as_json(),
            "account": self.account.as_json(),
            "steps": [s.as_json() for s in self.steps],
            "refused": self.refused,
        }


def as_delivered(mesh: Mesh) -> Mesh:
    """The mesh with coordinates rounded to float32, as most formats carry them."""
    rounded = mesh.vertices.astype(np.float32).astype(np.float64)
    return mesh if (rounded == mesh.vertices).all() else Mesh(rounded, mesh.faces)


def mend(mesh: Mesh, unit: UnitGuess = GIVEN, progress: Progress = SILENT) -> Mended:
    """Mend all of *Closed* that can be mended without a decision.

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

    Returns
    -------
    Mended
    """
    before = report = examine(mesh, unit, progress.part(0.0, 0.15))
    current = mesh
    steps: list[Step] = []
    left: dict[str, tuple[str, ...]] = {}
    for turn in range(_ROUNDS):
        changed = False
        for position, (kind, name) in enumerate(SEQUENCE):
            if kind not in report.leaks:
                continue
            share = (turn + position / len(SEQUENCE)) / _ROUNDS
            progress.step(operation(name).title, 0.15 + 0.7 * share)
            outcome = operation(name).run(current)
            if outcome.left:
                left[name] = outcome.left
            if outcome.mesh is current:
                continue
            candidate = _on_float32(outcome.mesh, current)
            trial = examine(candidate, unit)
            if not _better(kind, report, trial):
                tried = f"{operation(name).title}: tried, but it did not help."
                left[name] = outcome.left or (tried,)
                continue
            steps.append(_step(name, outcome, current, candidate))
            current, report, changed = candidate, trial, True
            left.pop(name, None)
            if outcome.left:
                left[name] = outcome.left
        if report.tight or not changed:
            break
    progress.step("Writing the account", 0.9)
    refused = None if report.tight else _reason(report, left)
    if not len(current.faces):
        current, report, steps = mesh, before, []
        refused = "Nothing would be left: all faces are copies of each other or without area."
    account = Account.between(mesh, current)
    return Mended(current, before, report, account, tuple(steps), refused)


def _on_float32(mesh: Mesh, source: Mesh) -> Mesh:
    """Round the vertices that did not come in; leave the others bit for bit."""
    n = len(source.vertices)
    _, index = weld(np.concatenate([source.vertices, mesh.vertices]))
    fresh = ~np.isin(index[n:], index[:n])
    if not fresh.any():
        return mesh
    vertices = mesh.vertices.copy()
    vertices[fresh] = vertices[fresh].astype(np.float32)
    return Mesh(vertices, mesh.faces)


def _better(kind: str, before: Report, after: Report) -> bool:
    if not len(after.mesh.faces):
        return False
    if after.leaks.get(kind, 0) >= before.leaks[kind]:
        return False
    return all(n <= before.leaks.get(k, 0) or k in _MAY_SHOW[kind] for k, n in after.leaks.items())


def _step(name: str, outcome: Outcome, before: Mesh, after: Mesh) -> Step:
    return Step(name, outcome.done, Account.between(before, after), outcome.left)


def _reason(report: Report, left: dict[str, tuple[str, ...]]) -> str:
    remaining = ", ".join(
        f"{len(f.places):,} {noun(f.kind, len(f.places))} left"
        for f in report.findings
        if f.severity == "leak"
    )
    told = " ".join(line for lines in left.values() for line in lines)
    return f"Not tight: {remaining}. {told}".strip()
