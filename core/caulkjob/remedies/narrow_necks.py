"""Remedies for necks of material: a collar round them, or the two parts set apart."""

from collections.abc import Callable, Collection

import numpy as np
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.errors import OperationRefused
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.outcome import Outcome, Skipped
from caulkcore.progress import SILENT, Progress
from caulkcore.solid.neck_tools import NeckFrame, separate_at_neck, thicken_neck
from caulkcore.thickness.necks import Necks
from caulkcore.thickness.thickness_map import ThicknessMap, measure_thickness

from ..chosen_places import chosen_numbers
from ..findings.pieces import pieces
from ..findings.places import by_rank
from ..findings.walls import narrow_necks
from ..limits import USUAL
from ..operation import OperationResult
from ..rule_sheets import RuleSheet
from ..text import counted, place_text, volume_text
from .reasons import told_once

_ENOUGH = 0.999
"""Share of the goal from which a neck counts as thick enough: measures are true to as much."""


def thicken_necks(
    mesh: Mesh,
    places: Collection[int] | None = None,
    *,
    to: float | None = None,
    rules: RuleSheet | None = None,
    progress: Progress = SILENT,
) -> OperationResult:
    """Put a collar round necks, so that the two parts hang together by what a wall needs.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the places of the finding; all by default.
    to : float, optional
        Width to reach, mm; by default what the rules ask of a wall that is held.
    rules : RuleSheet, optional
        What the material asks for; says what is a neck. Without it what is narrower than `to`.
    progress : Progress

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If neither rules nor a width are given, or a place is not there.
    Cancelled
        If `progress` asks to stop.
    """
    limit, chosen = _chosen(mesh, places, to, rules, progress.span(0.0, 0.4))
    goal = limit if to is None else to

    def thicken(now: Mesh, neck: NeckFrame) -> Outcome:
        outcome = thicken_neck(now, neck, goal)
        if outcome.mesh is now:
            return outcome
        short = _width_near(outcome.mesh, neck, goal)
        if short is None:
            return outcome
        return Outcome(now, skipped=(Skipped("short", {"reached_mm": short}),))

    result, done, left = _each(mesh, chosen, thicken, progress.span(0.4, 1.0))
    if result is mesh:
        return OperationResult(mesh, left=left)
    more = volume_text(result.volume - mesh.volume)
    text = f"{counted(done, 'neck')} made {goal:.2f} mm wide: {more} more."
    return OperationResult(result, text, {"necks": done}, left)


def set_apart(
    mesh: Mesh,
    places: Collection[int] | None = None,
    *,
    clearance: float | None = None,
    narrower: float | None = None,
    rules: RuleSheet | None = None,
    progress: Progress = SILENT,
) -> OperationResult:
    """Take out the material of necks, so that the parts that they join are apart.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the places of the finding; all by default.
    clearance : float, optional
        Width of the gap, mm; by default the clearance that the rules ask for.
    narrower : float, optional
        What counts as a neck, mm; by default what is less than the rules ask of a wall.
    rules : RuleSheet, optional
        What the material asks for.
    progress : Progress

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If neither rules nor both widths are given, or a place is not there.
    Cancelled
        If `progress` asks to stop.

    Examples
    --------
    >>> from caulkcore.arrangement.outer_hull import outer_hull
    >>> from caulkcore.mesh.concatenate import concatenate
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> two = outer_hull(concatenate([cuboid(), cuboid(at=(9.9, 9.9, 0.0))])).mesh
    >>> set_apart(two, clearance=0.4, narrower=1.0).done
    'At 1 neck the two parts were set apart by 0.40 mm: 1.37 mm³ less.'
    """
    gap = clearance if clearance is not None else rules.clearance if rules else 0.0
    if not gap:
        raise OperationRefused("The material asks for no clearance: say how wide the gap is to be.")
    _, chosen = _chosen(mesh, places, narrower, rules, progress.span(0.0, 0.4))

    def separate(now: Mesh, neck: NeckFrame) -> Outcome:
        return separate_at_neck(now, neck, gap)

    result, done, left = _each(mesh, chosen, separate, progress.span(0.4, 1.0))
    if result is mesh:
        return OperationResult(mesh, left=left)
    less = volume_text(mesh.volume - result.volume)
    text = f"At {counted(done, 'neck')} the two parts were set apart by {gap:.2f} mm: {less} less."
    return OperationResult(result, text, {"necks": done}, left)


def _chosen(
    mesh: Mesh,
    places: Collection[int] | None,
    narrower: float | None,
    rules: RuleSheet | None,
    progress: Progress,
) -> tuple[float, list[tuple[float, NeckFrame]]]:
    """The limit, and the chosen necks with their widths, as the finding lists them."""
    limit = rules.wall_limit(False, False) if rules is not None else narrower
    if not limit:
        raise OperationRefused("The material has no rules: say from what width on it is no neck.")
    walls = measure_thickness(mesh, limit, progress=progress)
    if rules is not None:
        found = narrow_necks(walls, rules, pieces(Diagnosis.of(mesh), USUAL).meant)
        rows = [one.row for one in found]
        order = by_rank(np.array([one.rank for one in found]))
    else:
        rows = list(range(len(walls.necks(limit))))
        order = np.arange(len(rows))
    necks = walls.necks(limit)
    numbers = chosen_numbers(order, places)
    return limit, [(float(necks.width[rows[i]]), _frame(walls, necks, rows[i])) for i in numbers]


def _frame(walls: ThicknessMap, necks: Necks, row: int) -> NeckFrame:
    ends = walls.mesh.vertices[np.unique(necks.edges[row])]
    return NeckFrame(necks.middles[row], necks.axis[row], ends)


def _each(
    mesh: Mesh,
    chosen: list[tuple[float, NeckFrame]],
    remedy: Callable[[Mesh, NeckFrame], Outcome],
    progress: Progress,
) -> tuple[Mesh, int, tuple[str, ...]]:
    """Run a remedy at one neck after the other; the mesh, how many it helped, what was left."""
    if not chosen:
        return mesh, 0, ("There is no neck narrower than that.",)
    now, done = mesh, 0
    left: list[Skipped] = []
    for i, (width, neck) in enumerate(chosen):
        progress.step("Working at the necks", i / len(chosen))
        outcome = remedy(now, neck)
        done += outcome.mesh is not now
        now = outcome.mesh
        place = {"width_mm": width, "middle": neck.middle}
        left += [Skipped(one.reason, {**one.numbers, **place}) for one in outcome.skipped]
    return now, done, told_once(left, _why, lambda one: -one.numbers["width_mm"])


def _width_near(mesh: Mesh, neck: NeckFrame, goal: float) -> float | None:
    """Width of the narrowest neck that is left where one was made wider; None if there is none."""
    necks = measure_thickness(mesh, goal).necks(goal * _ENOUGH)
    if not len(necks):
        return None
    away = np.linalg.norm(necks.middle[:, None] - neck.middles[None], axis=2).min(axis=1)
    near = away <= 2 * goal
    return float(necks.width[near].min()) if near.any() else None


def _why(one: Skipped) -> str:
    width, at = one.numbers["width_mm"], place_text(one.numbers["middle"])
    why = {
        "no-room": "the parts are too thin there to hold a collar",
        "not-straight": "its crease bends, and a collar would fill what lies between",
        "not-arranged": one.numbers.get("message", ""),
        "not-solid": "the model is no clean solid; mend it first",
        "beside": "other material lies beside it, which the cut would take, too",
        "joined-elsewhere": "the two hang together elsewhere, too, and would not come apart",
        "short": f"{one.numbers.get('reached_mm', 0.0):.2f} mm is what could be reached",
    }[one.reason]
    return f"The neck of {width:.2f} mm at {at} stays: {why}."
