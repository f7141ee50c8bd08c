"""A mesh while it is mended: operations are tried on it, and of each is kept what helped."""

import logging
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import Any

import numpy as np
from caulkcore.arrangement.slivers import SLIVER, sliver_height
from caulkcore.diagnose.cracks import weld_tolerance
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.diagnose.harm import HARMS, harm_counts
from caulkcore.errors import Cancelled, OperationRefused
from caulkcore.mesh.changed_faces import changed_faces
from caulkcore.mesh.triangle_mesh import Mesh, face_areas
from caulkcore.outcome import Outcome
from caulkcore.progress import SILENT, Progress
from caulkcore.repair.partial_change import keep_what_helped
from caulkcore.spatial.face_region import faces_reaching_boxes

from .account import Account
from .examination import ALL, examine
from .findings.finding import Place
from .limits import Limits
from .mended import Step
from .operation import OperationResult
from .operations import operation, run_operation
from .questions import noun
from .report import Report
from .text import counted
from .unit_guess import UnitGuess

UP_TO_CLOSED = ("size", "closed")
"""Questions that are asked again while it is being closed."""
HARM_OF_KIND = {
    "self-intersections": "crossings",
    "overlapping-shells": "crossings",
    "open-edges": "open edges",
    "open-sheets": "open edges",
    "cracks": "open edges",
    "over-shared-edges": "over-shared edges",
    "pinched-vertices": "pinched vertices",
    "flipped-faces": "wrong-way faces",
    "inside-out-shells": "wrong-way faces",
    "duplicate-faces": "degenerate faces",
    "zero-area-faces": "degenerate faces",
}
"""Which kind of harm a kind of finding is; see `caulkcore.diagnose.harm.HARMS`."""
_BENEATH = {"open-edges", "open-sheets", "cracks", "over-shared-edges", "flipped-faces"}
"""What mending one kind may bring to light, for a later step to mend: what lay beneath."""
_TOUCHING = {"pinched-vertices", "inside-out-shells"}
"""The same: what only shows once all is closed."""
_MAY_SHOW = {kind: _BENEATH | _TOUCHING for kind in HARM_OF_KIND} | {
    "cracks": _TOUCHING
    | {"flipped-faces", "over-shared-edges", "zero-area-faces", "duplicate-faces"},
    "open-edges": _TOUCHING,
    "pinched-vertices": {"inside-out-shells"},
    "inside-out-shells": {"overlapping-shells"},
    "self-intersections": _BENEATH | _TOUCHING | {"overlapping-shells", "zero-area-faces"},
    "overlapping-shells": _BENEATH | _TOUCHING | {"zero-area-faces"},
    "sealed-voids": set(),
    "buried-shells": set(),
    "debris": set(),
}
"""For each kind, the kinds of which there may be more after it was mended."""
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
_MOST_LOST = 1e-3
"""A recast is kept only if it loses no more than this share of the surface."""
_MOST_LOST_STEPS = 8.0
"""And nothing farther from the new skin than so many times the detail size: what is lost of a
pointed end is short."""
_MOST_LOST_LOCALLY = 0.02
"""A local recast is kept only if it loses no more than this share of the surface there."""
_MOST_LOCAL_SHARE = 0.2
"""Largest share of the surface that is recast without being asked for."""
_MOST_ZONES = 100
"""Places that are recast where they are, at most."""
_SPOT_ROOM = 1.5
"""A spot reaches so many times as far as the place it is for."""
_LEAST_SPOT = 0.01
"""And at least this share of the model's longest side."""
_LEAST_OF_LARGEST = 0.2
"""And of the largest spot's reach."""
_LOG = logging.getLogger(__name__)
"""Where faults of our own are written, with their traceback."""


@dataclass(frozen=True)
class _State:
    """The mesh after so many steps."""

    mesh: Mesh
    report: Report
    steps: int


class Mending:
    """The mesh as far as it is mended, with its report, the steps taken and what was left.

    Parameters
    ----------
    mesh : Mesh
    unit : UnitGuess
    limits : Limits
        What the reports measure against.
    progress : Progress
        Of the first examination.

    Raises
    ------
    Cancelled
        If `progress` asks to stop.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> from caulkjob.limits import USUAL
    >>> from caulkjob.unit_guess import GIVEN
    >>> cube = cuboid()
    >>> work = Mending(Mesh(cube.vertices, cube.faces[1:]), GIVEN, USUAL)
    >>> work.take("open-edges", "fill-holes", ALL, SILENT)
    >>> work.report.tight, [step.operation for step in work.steps]
    (True, ['fill-holes'])
    """

    def __init__(
        self, mesh: Mesh, unit: UnitGuess, limits: Limits, progress: Progress = SILENT
    ) -> None:
        self.unit, self.limits = unit, limits
        self.given = self.diagnosis = Diagnosis.of(mesh)
        self.before = self.report = self.examined(mesh, progress=progress)
        self.steps: list[Step] = []
        self.left: dict[str, tuple[str, ...]] = {}
        self.to_choose: dict[str, int] = {}
        self._states = [_State(mesh, self.report, 0)]

    @property
    def mesh(self) -> Mesh:
        """The mesh as it is now."""
        return self.diagnosis.mesh

    @property
    def is_open(self) -> bool:
        """Whether something is still open that has been looked at."""
        return bool(self.report.leaks.keys() & {"open-edges", "cracks"})

    def examined(
        self, mesh: Mesh, asked: tuple[str, ...] = ALL, *, progress: Progress = SILENT
    ) -> Report:
        """Examine a mesh by the same limits.

        Parameters
        ----------
        mesh : Mesh
        asked : tuple of str
            Questions.
        progress : Progress

        Returns
        -------
        Report

        Raises
        ------
        OperationRefused
            Not without a rule sheet.
        Cancelled
            If `progress` asks to stop.
        """
        return examine(mesh, self.unit, progress=progress, questions=asked, limits=self.limits)

    def ask_all(self, progress: Progress = SILENT) -> None:
        """Ask of the mesh as it is now what has not been asked yet.

        Parameters
        ----------
        progress : Progress

        Raises
        ------
        Cancelled
            If `progress` asks to stop.
        """
        if "solid" not in self.report.questions:
            self.report = self.examined(self.mesh, progress=progress)

    def take(
        self,
        kind: str,
        name: str,
        asked: tuple[str, ...],
        progress: Progress,
        given: dict[str, Any] | None = None,
    ) -> None:
        """Run an operation if its kind was found, and keep of the result what is better.

        Parameters
        ----------
        kind : str
            Of finding.
        name : str
            Of the operation.
        asked : tuple of str
            Questions to ask of the result.
        progress : Progress
        given : dict, optional
            Parameters by name.

        Raises
        ------
        OperationRefused
            If there is no such operation.
        Cancelled
            If `progress` asks to stop.
        """
        if not any(f.kind == kind for f in self.report.findings):
            return
        progress.step(operation(name).title, 0.0)
        self._safely(name, lambda: self._take(kind, name, asked, given or {}))

    def _take(self, kind: str, name: str, asked: tuple[str, ...], given: dict[str, Any]) -> None:
        outcome = run_operation(self.mesh, name, given, SILENT, limits=self.limits)
        self.left.pop(name, None)
        self.to_choose[name] = outcome.numbers.get("to_choose", 0)
        if outcome.left:
            self.left[name] = outcome.left
        if outcome.mesh is self.mesh:
            return
        held = Diagnosis.of(outcome.mesh, since=self.diagnosis)
        trial = self.examined(outcome.mesh, asked)
        if _is_better(kind, self.report, trial):
            self._keep(name, outcome.done, outcome.left, held, trial)
            return
        kept = keep_what_helped(self.diagnosis, outcome.mesh, passing=_passing(kind))
        if kept.mesh is not self.mesh and kept.mesh is not outcome.mesh:
            kept_held = Diagnosis.of(kept.mesh, since=self.diagnosis)
            kept_trial = self.examined(kept.mesh, asked)
            if _is_better(kind, self.report, kept_trial):
                done = f"{outcome.done} {told_put_back(kept)}"
                self._keep(name, done, outcome.left, kept_held, kept_trial)
                return
        if _is_less_harm(kind, self.report, trial):
            self._keep(name, outcome.done, outcome.left, held, trial)
            return
        tried = f"{operation(name).title}: tried, but it did not help."
        self.left[name] = outcome.left or (tried,)

    def recast_zones(self, progress: Progress) -> None:
        """Recast what exact remedies left, if that is little and nobody has to choose.

        Kept only if it is tight then and nothing went missing.

        Parameters
        ----------
        progress : Progress

        Raises
        ------
        OperationRefused
            If there is no such operation.
        Cancelled
            If `progress` asks to stop.
        """
        leaks = [f for f in self.report.findings if f.severity == "leak"]
        kinds = {f.kind for f in leaks}
        meant = any(f.kind == "open-sheets" for f in self.report.findings)
        if not leaks or meant or any(self.to_choose.values()) or not kinds <= _LOCALLY_RECAST:
            return
        spots = _spots_round(self.mesh, [place for f in leaks for place in f.places])
        if spots is None:
            return
        name = "recast-zone"
        progress.step(operation(name).title, 0.0)

        def attempt() -> None:
            outcome = run_operation(self.mesh, name, {"region": spots}, progress)
            lost = outcome.numbers.get("lost_share", 0.0)
            if outcome.mesh is self.mesh or lost > _MOST_LOST_LOCALLY:
                self.left[name] = outcome.left
            else:
                self._keep_if_tight(name, outcome)

        self._safely(name, attempt)

    def recast(self, detail: float, progress: Progress) -> None:
        """Rebuild the whole, and keep that if it is tight and nothing went missing.

        Parameters
        ----------
        detail : float
            mm.
        progress : Progress

        Raises
        ------
        Cancelled
            If `progress` asks to stop.
        OperationRefused
            If the detail size is beyond its limits.
        """
        name = "recast"
        operation(name).check({"detail": detail})

        def attempt() -> None:
            outcome = run_operation(self.mesh, name, {"detail": detail}, progress)
            self.left[name] = outcome.left
            numbers = outcome.numbers
            if outcome.mesh is self.mesh or numbers["lost_share"] > _MOST_LOST:
                return
            if numbers["lost_mm"] <= _MOST_LOST_STEPS * detail:
                self._keep_if_tight(name, outcome)

        self._safely(name, attempt)

    def drop_specks(self, progress: Progress) -> None:
        """Drop what mending itself has made: bits no longer than the weld tolerance, and films.

        A film is a closed piece less than a micrometre thick on average.

        Parameters
        ----------
        progress : Progress

        Raises
        ------
        OperationRefused
            If there is no such operation.
        Cancelled
            If `progress` asks to stop.
        """
        if self.mesh is self.given.mesh:
            return
        found = next((f for f in self.report.findings if f.kind == "debris"), None)
        if found is not None:
            longest = weld_tolerance(self.given.mesh.diagonal)
            new = changed_faces(self.given.mesh, self.mesh)[1]
            specks = [
                n
                for n, place in enumerate(found.places, 1)
                if float((place.high - place.low).max()) <= longest
                and place.stands_for == 1
                and new[place.faces].all()
            ]
            if specks:
                self.take("debris", "drop-debris", ALL, progress, {"places": specks})
        if self.report.tight:
            self._safely("drop-pieces", self._drop_films)

    def _drop_films(self) -> None:
        """Drop closed pieces, all new, that are no thicker than a sliver is high on average."""
        volumes, areas = self.diagnosis.shell_measures
        thickest = sliver_height(self.given.mesh.diagonal)
        thin = np.flatnonzero(2.0 * np.abs(volumes) <= thickest * areas)
        if not 0 < len(thin) < len(volumes):
            return
        new = changed_faces(self.given.mesh, self.mesh)[1]
        films = [n + 1 for n in thin.tolist() if new[self.diagnosis.by_shell[n]].all()]
        if films:
            outcome = run_operation(self.mesh, "drop-pieces", {"pieces": films}, SILENT)
            done = f"{counted(len(films), 'film')} dropped that mending had made: on average less "
            done += f"than {SLIVER} mm thick."
            self._keep_if_tight("drop-pieces", replace(outcome, done=done))

    def put_back_harm(self, progress: Progress) -> None:
        """Leave nothing worse than it came in: put back where there is more of any kind of harm.

        What was mended elsewhere stays. If places cannot be told apart, the latest state that is
        no worse is taken, and in the end what came in.

        Parameters
        ----------
        progress : Progress

        Raises
        ------
        Cancelled
            If `progress` asks to stop.
        """
        if self.report.tight or self._is_no_worse(self.report):
            return
        progress.step("Putting back what did harm", 0.0)
        for state in reversed(self._states):
            del self.steps[state.steps :]
            if self._safely("put-back", lambda s=state: self._settle(s)):  # type: ignore[misc]
                return
        self.diagnosis, self.report = self.given, self.before

    def _settle(self, state: _State) -> bool:
        """Take a state, put back where it is worse than what came in; whether that will do."""
        held = Diagnosis.of(state.mesh)
        kept = keep_what_helped(self.given, state.mesh)
        if kept.mesh is state.mesh:
            report = self.examined(state.mesh)
            if not self._is_no_worse(report):
                return False
            self.diagnosis, self.report = held, report
            return True
        held = Diagnosis.of(kept.mesh)
        report = self.examined(kept.mesh)
        if kept.mesh is self.given.mesh or not self._is_no_worse(report):
            return False
        self.diagnosis, self.report = Diagnosis.of(state.mesh), state.report
        places, back = kept.numbers["places"], kept.numbers["put_back"]
        done = f"Put back at {back:,} of {counted(places, 'place')} as it came in: what was tried "
        done += "there did more harm than it mended."
        self._keep("put-back", done, (), held, report)
        return True

    def _is_no_worse(self, report: Report) -> bool:
        """Whether there is no more of any kind of harm than came in."""
        was, is_ = (_harm_found(r) for r in (self.before, report))
        if sum(report.leaks.values()) > sum(self.before.leaks.values()):
            return False
        if any(is_[name] > was[name] for name in HARMS):
            return False
        after = harm_counts(Diagnosis.of(report.mesh))
        return bool((after <= harm_counts(self.given)).all())

    def _keep_if_tight(self, name: str, outcome: OperationResult) -> None:
        held = Diagnosis.of(outcome.mesh, since=self.diagnosis)
        trial = self.examined(outcome.mesh)
        if trial.tight:
            self._keep(name, outcome.done, outcome.left, held, trial)

    def _keep(
        self, name: str, done: str, left: tuple[str, ...], diagnosis: Diagnosis, trial: Report
    ) -> None:
        before, was, after = self.mesh, _without_places(self.report), diagnosis.mesh
        work_out = partial(Account.between, before, after, was)
        self.steps.append(Step(name, done, left, work_out))
        self.diagnosis, self.report = diagnosis, trial
        self._states.append(_State(self.mesh, _without_places(trial), len(self.steps)))

    def account(self) -> Account:
        """The account of all steps together.

        Returns
        -------
        Account

        Raises
        ------
        Cancelled
            Not without a progress that asks for it.
        """
        if len(self.steps) == 1:
            return self.steps[0].account
        return Account.between(self.given.mesh, self.mesh, self.before)

    def _safely(self, name: str, attempt: Callable[[], bool | None]) -> bool:
        """Try a step; whatever becomes of it, what was mended before stays.

        A step that falls must not cost the ones before it, so here alone everything is caught
        but a person's asking to stop. Faults of our own are logged, and told.
        """
        try:
            return bool(attempt())
        except Cancelled:
            raise
        except OperationRefused as refusal:
            self.left[name] = (str(refusal),)
        except MemoryError:
            self.left[name] = (f"{_title(name)}: it would take more memory than there is.",)
        except Exception:
            _LOG.exception("%s failed", name)
            self.left[name] = (f"{_title(name)}: it stopped on a fault of ours.",)
        return False


def _without_places(report: Report) -> Report:
    """A report to be kept: its places would keep all they are made of."""
    return replace(report, findings=tuple(replace(f, places=()) for f in report.findings))


def _title(name: str) -> str:
    return "Put back" if name == "put-back" else operation(name).title


def _harm_found(report: Report) -> dict[str, int]:
    """Findings that leak, counted by their kind of harm."""
    found = dict.fromkeys(HARMS, 0)
    for kind, count in report.leaks.items():
        if kind in HARM_OF_KIND:
            found[HARM_OF_KIND[kind]] += count
    return found


def _passing(kind: str) -> Collection[str]:
    """Kinds of harm of which there may be more for now when a kind of finding was mended."""
    return {HARM_OF_KIND[k] for k in _MAY_SHOW[kind]}


def _is_better(kind: str, before: Report, after: Report) -> bool:
    """Whether there is less of a kind, and no more of what mending it does not bring to light."""
    if not len(after.mesh.faces):
        return False
    was, is_ = ({f.kind: f.count for f in r.findings} for r in (before, after))
    if is_.get(kind, 0) >= was[kind]:
        return False
    return all(n <= before.leaks.get(k, 0) or k in _MAY_SHOW[kind] for k, n in after.leaks.items())


def _is_less_harm(kind: str, before: Report, after: Report) -> bool:
    """Whether there is less of a kind's harm, and more at most of lesser ones, for later steps."""
    if not len(after.mesh.faces) or HARM_OF_KIND.get(kind) is None:
        return False
    was, is_ = _harm_found(before), _harm_found(after)
    harm = HARM_OF_KIND[kind]
    worse = HARMS[: HARMS.index(harm)]
    return is_[harm] < was[harm] and all(is_[name] <= was[name] for name in worse)


def _spots_round(mesh: Mesh, places: Sequence[Place]) -> list[list[float]] | None:
    """A spot round each of some places; None if they are not small against the mesh."""
    if not 0 < len(places) <= _MOST_ZONES or any(place.stands_for > 1 for place in places):
        return None
    low, high = (np.array([getattr(place, side) for place in places]) for side in ("low", "high"))
    reach = _SPOT_ROOM * (high - low).max(axis=1) / 2
    # all are drawn with the detail that the smallest asks for
    least = max(_LEAST_SPOT * float(mesh.size.max()), _LEAST_OF_LARGEST * float(reach.max()))
    given = np.column_stack([(low + high) / 2, np.maximum(reach, least)])
    share = faces_reaching_boxes(
        mesh, np.stack([given[:, :3] - given[:, 3:], given[:, :3] + given[:, 3:]], axis=1)
    )
    areas = face_areas(mesh.vertices, mesh.faces)
    whole = float(areas.sum())
    meant = min(float(areas[share].sum()), float((24 * given[:, 3] ** 2).sum()))
    return given.tolist() if meant <= _MOST_LOCAL_SHARE * whole else None


def told_put_back(kept: Outcome) -> str:
    """The sentence about places of a step that were put back.

    Parameters
    ----------
    kept : Outcome
        Of `caulkcore.repair.partial_change.keep_what_helped`.

    Returns
    -------
    str
    """
    places, back = kept.numbers["places"], kept.numbers["put_back"]
    return (
        f"Put back at {back:,} of {counted(places, 'place')}, where it would have done more harm "
        "than it mended."
    )


def why_not_tight(report: Report, left: dict[str, tuple[str, ...]]) -> str:
    """Why a mesh is not tight, in sentences: what is left, and what each remedy says to it.

    Parameters
    ----------
    report : Report
    left : dict of str to tuple of str
        By operation, what it left alone.

    Returns
    -------
    str
    """
    remaining = ", ".join(
        f"{f.place_count:,} {noun(f.kind, f.place_count)} left"
        for f in report.findings
        if f.severity == "leak"
    )
    told = " ".join(dict.fromkeys(line for lines in left.values() for line in lines))
    return f"Not tight: {remaining}. {told}".strip()
