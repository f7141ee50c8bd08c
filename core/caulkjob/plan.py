"""The plan: the remedies in order, each only where something of its kind was found."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal

import numpy as np
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.errors import OperationRefused
from caulkcore.mesh.arrays import Array
from caulkcore.mesh.float32 import as_delivered
from caulkcore.mesh.triangle_mesh import Mesh, face_areas
from caulkcore.progress import SILENT, Progress
from caulkcore.remesh.voxel_remesh_region import faces_reaching_boxes
from caulkcore.spatial.box_tree import Tree

from .account import Account
from .examination import ALL, examine
from .findings.finding import Place
from .limits import USUAL, Limits
from .operation import OperationResult
from .operations import operation, run_operation
from .questions import noun
from .report import Report
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
_MOST_LOST = 1e-3
"""A recast is kept only if it loses no more than this share of the surface."""
_LOCALLY_RECAST = {
    "cracks",
    "flipped-faces",
    "open-edges",
    "over-shared-edges",
    "overlapping-shells",
    "pinched-vertices",
    "self-intersections",
}
"""What may be recast where it is, when nothing exact is left to do."""
_MOST_LOCAL_SHARE = 0.2
"""Largest share of the surface that is recast without being asked for."""
_MOST_LOST_STEPS = 8.0
"""And nothing farther from the new skin than so many times the detail size: what is lost of a
pointed end is short."""
_MOST_LOST_LOCALLY = 0.02
"""A local recast is kept only if it loses no more than this share of the surface there."""
_MOST_ZONES = 50
"""Places that are recast where they are, at most."""
_SPOT_ROOM = 1.5
"""A spot reaches so many times as far as the place it is for."""
_LEAST_SPOT = 0.01
"""And at least this share of the model's longest side."""
_UP_TO_CLOSED = ("size", "closed")
"""Questions that are asked again while the sequence runs."""
_BENEATH = {"open-edges", "open-sheets", "cracks", "over-shared-edges", "flipped-faces"}
"""What mending one kind may bring to light, for a later step to mend: what lay beneath."""
_TOUCHING = {"pinched-vertices", "inside-out-shells"}
"""The same: what only shows once all is closed."""
_MAY_SHOW = {kind: _BENEATH | _TOUCHING for kind, _ in SEQUENCE} | {
    "cracks": _TOUCHING
    | {"flipped-faces", "over-shared-edges", "zero-area-faces", "duplicate-faces"},
    "open-edges": _TOUCHING,
    "pinched-vertices": {"inside-out-shells"},
    "inside-out-shells": {"overlapping-shells"},
    "open-sheets": _BENEATH | _TOUCHING,
    "self-intersections": _BENEATH | _TOUCHING | {"overlapping-shells", "zero-area-faces"},
    "overlapping-shells": _BENEATH | _TOUCHING | {"zero-area-faces"},
    "sealed-voids": set(),
    "buried-shells": set(),
    "debris": set(),
}
"""For each kind, the kinds of which there may be more after it was mended."""


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
        """All of it as plain values.

        Returns
        -------
        dict of str to value
        """
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

    @staticmethod
    def unchanged(mesh: Mesh, report: Report, reason: str) -> "Mended":
        """The mesh as it came in, since nothing better could be made of it.

        Parameters
        ----------
        mesh : Mesh
        report : Report
            Of the mesh.
        reason : str
            Why it stays, in a sentence.

        Returns
        -------
        Mended
        """
        return Mended(mesh, report, report, Account.unchanged(mesh), (), reason)

    def as_json(self) -> dict[str, Any]:
        """The form of ``mend --json``, without the file's name and format.

        Returns
        -------
        dict of str to value
        """
        return {
            "before": self.before.as_json(),
            "after": self.after.as_json(),
            "account": self.account.as_json(),
            "steps": [s.as_json() for s in self.steps],
            "refused": self.refused,
        }


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
    buried: Literal["drop", "keep", "ask"] = "keep",
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
    buried, debris : {"drop", "keep", "ask"}
        What to do with solids inside others, and with bits too small to be meant.
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
    clear: dict[str, str] = {"sealed-voids": voids, "buried-shells": buried, "debris": debris}
    given = (unit, unite, clear, sheet_thickness, recast, limits, _marked(mesh, apart))
    first = _mend(mesh, progress.span(0.0, 0.9), *given)
    rounded = as_delivered(first.mesh)
    if first.refused is not None or rounded is first.mesh or examine(rounded, unit).tight:
        return first
    # most formats hold less than the file that came in: what is tight has to be so in them
    second = _mend(rounded, progress.span(0.9, 1.0), *given)
    if second.refused is not None:
        return first
    text = "All vertices rounded to what most formats hold; it was not tight in those."
    step = Step("round", text, Account.between(first.mesh, rounded), ())
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
    before = examine(mesh, unit, progress=progress.span(0.0, 0.15), limits=limits)
    work = _Work(mesh, before, unit, limits)
    for round_ in range(_ROUNDS):
        known = work.mesh
        for position, (kind, name) in enumerate(SEQUENCE):
            share = (round_ + position / len(SEQUENCE)) / _ROUNDS
            if name == "split-over-shared":
                work.arrange_over_shared(progress)
            if name == "turn-outward" and work.is_open:
                continue  # what lies inside what is known when all is closed
            if name == "fill-holes" and sheet_thickness is not None:
                given = {"thickness": sheet_thickness}
                work.take("open-sheets", "give-thickness", _UP_TO_CLOSED, progress, given)
            work.take(kind, name, _UP_TO_CLOSED, progress.span(0.15 + 0.6 * share, 0.75))
        if work.report.tight or work.mesh is known:
            break
    if work.mesh is not mesh:
        work.report = work.examined(work.mesh, progress=progress.span(0.75, 0.82))
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
    if unite and not len(apart):  # what stays apart is not to grow together there
        work.recast_zones(progress.span(0.8, 0.82))
    if recast is not None and not work.report.tight:
        work.recast(recast, progress.span(0.82, 0.88))
    for kind, name in _CLEARED:
        if clear[kind] in ("fill", "drop"):
            work.take(kind, name, ALL, progress.span(0.82, 0.9))
    report = work.report
    progress.step("Writing the account", 0.9)
    if not len(work.mesh.faces):
        reason = "Nothing would be left: all faces are copies of each other or without area."
        return Mended.unchanged(mesh, before, reason)
    refused = None if report.tight else _reason(report, work.left)
    asked = [f.text for f in report.findings if clear.get(f.kind) == "ask"]
    if asked and refused is None:
        refused = f"A person must decide: {' '.join(asked)}"
    account = work.account(mesh, before)
    return Mended(work.mesh, before, report, account, tuple(work.steps), refused)


def _marked(mesh: Mesh, pieces: Collection[int]) -> Array:
    """A point of each of some pieces, which stays on it whatever its number becomes."""
    if not pieces:
        return np.zeros((0, 3))
    diagnosis = Diagnosis(mesh)
    shell, _ = diagnosis.shells
    first = [np.flatnonzero(shell == number - 1)[:1] for number in pieces]
    return mesh.vertices[mesh.faces[diagnosis.kept[np.concatenate(first)]]].mean(axis=1)


def _pieces_at(mesh: Mesh, points: Array) -> list[int]:
    """Numbers of the pieces that some points lie on."""
    if not len(points):
        return []
    diagnosis = Diagnosis(mesh)
    shell, _ = diagnosis.shells
    _, face = Tree.of(mesh.vertices, mesh.faces[diagnosis.kept]).nearest(points)
    return np.unique(shell[face] + 1).tolist()


class _Work:
    """The mesh as far as it is mended, with its report, the steps taken and what was left."""

    def __init__(self, mesh: Mesh, report: Report, unit: UnitGuess, limits: Limits) -> None:
        self.mesh, self.report, self.unit, self.limits = mesh, report, unit, limits
        self.steps: list[Step] = []
        self.left: dict[str, tuple[str, ...]] = {}
        self.to_choose: dict[str, int] = {}

    def examined(
        self, mesh: Mesh, asked: tuple[str, ...] = ALL, progress: Progress = SILENT
    ) -> Report:
        """Examine what a step made, by the same limits."""
        return examine(mesh, self.unit, progress=progress, questions=asked, limits=self.limits)

    def take(
        self,
        kind: str,
        name: str,
        asked: tuple[str, ...],
        progress: Progress,
        given: dict[str, Any] | None = None,
    ) -> None:
        """Run an operation if its kind was found, and keep the result if it is better."""
        found = {f.kind: f.count for f in self.report.findings}
        if kind not in found:
            return
        progress.step(operation(name).title, 0.0)
        outcome = run_operation(self.mesh, name, given or {}, SILENT, limits=self.limits)
        self.left.pop(name, None)
        self.to_choose[name] = outcome.numbers.get("to_choose", 0)
        if outcome.left:
            self.left[name] = outcome.left
        if outcome.mesh is self.mesh:
            return
        trial = self.examined(outcome.mesh, asked)
        if not _better(kind, self.report, trial):
            tried = f"{operation(name).title}: tried, but it did not help."
            self.left[name] = outcome.left or (tried,)
            return
        self._keep(name, outcome, trial)

    def recast_zones(self, progress: Progress) -> None:
        """Recast what exact remedies left, if that is little and nobody has to choose.

        Kept only if it is tight then and nothing went missing.
        """
        leaks = [f for f in self.report.findings if f.severity == "leak"]
        kinds = {f.kind for f in leaks}
        meant = any(f.kind == "open-sheets" for f in self.report.findings)
        if not leaks or meant or any(self.to_choose.values()) or not kinds <= _LOCALLY_RECAST:
            return
        places = [place for f in leaks for place in f.places]
        spots = _spots_round(self.mesh, places)
        if spots is None:
            return
        name = "recast-zone"
        progress.step(operation(name).title, 0.0)
        try:
            outcome = run_operation(self.mesh, name, {"region": spots}, progress)
        except OperationRefused as problem:
            self.left[name] = (str(problem),)
            return
        if outcome.mesh is self.mesh or outcome.numbers["lost_share"] > _MOST_LOST_LOCALLY:
            self.left[name] = outcome.left
            return
        self._keep_if_tight(name, outcome)

    def _keep_if_tight(self, name: str, outcome: OperationResult) -> None:
        trial = self.examined(outcome.mesh)
        if trial.tight:
            self._keep(name, outcome, trial)

    def _keep(self, name: str, outcome: OperationResult, trial: Report) -> None:
        account = Account.between(self.mesh, outcome.mesh, self.report)
        self.steps.append(Step(name, outcome.done, account, outcome.left))
        self.mesh, self.report = outcome.mesh, trial

    def account(self, given: Mesh, before: Report) -> Account:
        """The account of all steps together."""
        if len(self.steps) == 1:
            return self.steps[0].account
        return Account.between(given, self.mesh, before)

    def recast(self, detail: float, progress: Progress) -> None:
        """Rebuild the whole, and keep that if it is tight and nothing went missing."""
        name = "recast"
        outcome = run_operation(self.mesh, name, {"detail": detail}, progress)
        self.left[name] = outcome.left
        if outcome.mesh is self.mesh or outcome.numbers["lost_share"] > _MOST_LOST:
            return
        if outcome.numbers["lost_mm"] > _MOST_LOST_STEPS * detail:
            return
        self._keep_if_tight(name, outcome)

    @property
    def is_open(self) -> bool:
        """Whether something is still open that has been looked at."""
        return bool(self.report.leaks.keys() & {"open-edges", "cracks"})

    def arrange_over_shared(self, progress: Progress) -> None:
        """Untangle pieces that lie on each other: that settles their common edges as well."""
        if "over-shared-edges" not in self.report.leaks or self.is_open:
            return
        if "solid" not in self.report.questions:
            self.report = self.examined(self.mesh)
        self.take("self-intersections", "untangle", ALL, progress)


def _spots_round(mesh: Mesh, places: Sequence[Place]) -> list[list[float]] | None:
    """A spot round each of some places; None if they are not small against the mesh."""
    if not 0 < len(places) <= _MOST_ZONES or any(place.stands_for > 1 for place in places):
        return None
    spots = []
    for place in places:
        middle = (place.low + place.high) / 2
        reach = _SPOT_ROOM * float((place.high - place.low).max()) / 2
        reach = max(reach, _LEAST_SPOT * float(mesh.size.max()))
        spots.append([*middle.tolist(), reach])
    given = np.array(spots)
    share = faces_reaching_boxes(
        mesh, np.stack([given[:, :3] - given[:, 3:], given[:, :3] + given[:, 3:]], axis=1)
    )
    areas = face_areas(mesh.vertices, mesh.faces)
    whole = float(areas.sum())
    meant = min(float(areas[share].sum()), sum(24 * reach**2 for *_, reach in spots))
    return spots if meant <= _MOST_LOCAL_SHARE * whole else None


def _better(kind: str, before: Report, after: Report) -> bool:
    if not len(after.mesh.faces):
        return False
    was, is_ = ({f.kind: f.count for f in r.findings} for r in (before, after))
    if is_.get(kind, 0) >= was[kind]:
        return False
    return all(n <= before.leaks.get(k, 0) or k in _MAY_SHOW[kind] for k, n in after.leaks.items())


def _reason(report: Report, left: dict[str, tuple[str, ...]]) -> str:
    remaining = ", ".join(
        f"{f.place_count:,} {noun(f.kind, f.place_count)} left"
        for f in report.findings
        if f.severity == "leak"
    )
    told = " ".join(line for lines in left.values() for line in lines)
    return f"Not tight: {remaining}. {told}".strip()
