"""The remedy for thin walls: building them up to what the material asks for."""

from collections.abc import Collection

import numpy as np
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.errors import OperationRefused
from caulkcore.mesh.changed_faces import changed_faces
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.outcome import Skipped
from caulkcore.progress import SILENT, Progress
from caulkcore.remesh.decimate import decimate
from caulkcore.thickness.offset_walls import LUMP, Side
from caulkcore.thickness.offset_zone import ThinWall
from caulkcore.thickness.thicken_walls import short_walls, thicken_walls
from caulkcore.thickness.thickness_map import (
    LEAST_THICKNESS,
    MOST_THICKNESS,
    ThicknessMap,
    measure_thickness,
)

from ..chosen_places import chosen_numbers
from ..findings.pieces import pieces
from ..findings.places import by_rank
from ..findings.walls import TooThin, limits_of, too_thin
from ..limits import USUAL
from ..operation import OperationResult
from ..questions import THIN
from ..rule_sheets import RuleSheet
from ..text import counted, place_text, volume_text
from .reasons import told_once

_ALLOWED = 0.002
"""Share of the least goal by which leaving out triangles may move what was built up: a sixth of
what is built up beyond the goal."""
_SIDES = {"both": "on both sides", "outward": "outward", "inward": "inward"}
"""How a sentence tells which sides were moved."""


def build_up(
    mesh: Mesh,
    places: Collection[int] | None = None,
    *,
    kind: str | None = None,
    to: float | None = None,
    side: Side = "both",
    rules: RuleSheet | None = None,
    progress: Progress = SILENT,
) -> OperationResult:
    """Move the skin of thin walls out until they are as thick as asked.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the places of a finding; all by default.
    kind : str, optional
        The finding they belong to: ``thin-walls``, ``thin-free-walls`` or ``thin-wires``; all of
        them by default.
    to : float, optional
        Least thickness, mm; by default what the rules ask of each wall.
    side : {"both", "outward", "inward"}
        Which sides move: those that look out into the open, those that look into the model's own
        hollow, or both.
    rules : RuleSheet, optional
        What the material asks for; says which walls are thin. Without it those thinner than `to`.
    progress : Progress

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If neither rules nor a thickness are given, or a place is not there.
    Cancelled
        If `progress` asks to stop.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> build_up(cuboid((20.0, 20.0, 0.5)), to=0.8).numbers
    {'walls': 1, 'short': 0}
    """
    if to is not None and not LEAST_THICKNESS <= to <= MOST_THICKNESS:
        raise OperationRefused(
            f"A wall can be built up to from {LEAST_THICKNESS:g} to {MOST_THICKNESS:g} mm."
        )
    progress.step("Sounding the walls", 0.0)
    walls, thin = _thin(mesh, kind, to, rules, progress.span(0.0, 0.3))
    order = by_rank(np.array([one.rank for one in thin]))
    chosen = [thin[i] for i in chosen_numbers(order, places).tolist()]
    goals = [one.limit if to is None else to for one in chosen]
    thinner = [i for i, one in enumerate(chosen) if one.thickness < goals[i]]
    if not thinner:
        return OperationResult(mesh, left=("No wall is thinner than that.",))
    chosen, goals = [chosen[i] for i in thinner], [goals[i] for i in thinner]
    wanted = [ThinWall(one.regions, one.row, goal) for one, goal in zip(chosen, goals, strict=True)]
    outcome = thicken_walls(walls, wanted, side=side, progress=progress.span(0.3, 0.9))
    left = told_once(
        outcome.skipped,
        lambda one: _why(chosen[one.numbers["wall"]], one, side),
        lambda one: -_worst(chosen[one.numbers["wall"]], one),
    )
    if outcome.mesh is mesh:
        return OperationResult(mesh, left=left)
    done = outcome.numbers["walls"]
    progress.step("Leaving out needless triangles", 0.9)
    built = _simplified(mesh, outcome.mesh, walls, [wanted[i] for i in done])
    reached = " and ".join(f"{x:.2f} mm" for x in sorted({goals[i] for i in done}))
    text = (
        f"{counted(len(done), 'thin wall')} built up to {reached}, {_SIDES[side]}: "
        f"{volume_text(built.volume - mesh.volume)} more."
    )
    short = sum(one.reason == "short" for one in outcome.skipped)
    return OperationResult(built, text, {"walls": len(done), "short": short}, left)


def _simplified(mesh: Mesh, built: Mesh, walls: ThicknessMap, wanted: list[ThinWall]) -> Mesh:
    """The result without triangles that its shape does not need; what was there stays."""
    fresh = changed_faces(mesh, built)[1]
    keep = np.zeros(len(built.vertices), dtype=bool)
    keep[built.faces[~fresh]] = True
    allowed = _ALLOWED * min(wall.goal for wall in wanted)
    fewer = decimate(built, max_deviation=allowed, keep=keep).mesh
    return built if short_walls(fewer, walls, list(enumerate(wanted))) else fewer


def _worst(wall: TooThin, one: Skipped) -> float:
    """The length that tells which of several is worst, mm: the least one is."""
    return float(one.numbers.get("air_mm", one.numbers.get("reached_mm", wall.thickness)))


def _why(wall: TooThin, one: Skipped, side: Side) -> str:
    at = place_text(wall.regions.at[wall.row])
    why = {
        "no-such-side": f"it has no side that looks {side}",
        "crosses-already": "it crosses the skin beside it already; mend that first",
        "would-close-air": (
            f"there are only {one.numbers.get('air_mm', 0.0):.2f} mm of air before it; built up it "
            "would close them"
        ),
        "would-intersect": "built up it would cross the skin beside it",
        "short": (
            f"{one.numbers.get('reached_mm', 0.0):.2f} mm is what could be reached; it stays as it "
            "was"
        ),
    }[one.reason]
    return f"The wall of {wall.thickness:.2f} mm at {at}: {why}."


def _thin(
    mesh: Mesh, kind: str | None, to: float | None, rules: RuleSheet | None, progress: Progress
) -> tuple[ThicknessMap, list[TooThin]]:
    """Thickness all over, and the thin regions in the order in which a finding tells them."""
    if rules is None:
        if to is None:
            raise OperationRefused("The material has no rules: say how thick it is to be.")
        walls = measure_thickness(mesh, to, progress=progress)
        regions = walls.regions(to)
        return walls, [TooThin(to, regions, row) for row in range(len(regions))]
    limits = limits_of(rules)
    walls = measure_thickness(
        mesh, max(limits), progress=progress, greatest=max(limits | {to or 0.0}) * LUMP
    )
    found = too_thin(walls, rules, pieces(Diagnosis.of(mesh), USUAL).meant)
    kinds = [kind] if kind is not None else THIN
    return walls, [one for k in kinds for one in found.get(k, ())]
