"""Thickening thin walls to a goal, and nothing else."""

from collections.abc import Sequence
from dataclasses import replace

from scipy.spatial import cKDTree

from ..mesh.triangle_mesh import Mesh
from ..outcome import Outcome, Skipped
from ..progress import SILENT, Progress
from .offset_walls import Side, offset_walls
from .offset_zone import OffsetZone, ThinWall
from .thickness_map import ThicknessMap, measure_thickness

_TRIES = 6
"""Times that walls which cannot be moved are left out and the others tried again."""
_MOST_MORE = 1.05
"""A wall that comes out a little short is aimed at so many times its goal at most, to reach it."""
_ROUNDING = 1e-6
"""Share of the goal that is no shortage."""


def thicken_walls(
    walls: ThicknessMap,
    thin: Sequence[ThinWall],
    *,
    side: Side = "both",
    progress: Progress = SILENT,
) -> Outcome:
    """Move the surface of thin walls out until they are as thick as asked.

    Each point of a thin wall goes out by half of what is lacking there, so that the new surface
    runs where the old one did, only farther off; over sharp edges the faces keep their planes.
    Beside the wall the surface falls off to where it was. It is measured again and corrected until
    it is thick enough; a wall that does not come to its goal stays as it was. Flat parts near the
    walls are drawn anew first, so that it does not matter how they were divided.

    Parameters
    ----------
    walls : ThicknessMap
        Of the mesh, measured to `LUMP` times the greatest goal at least.
    thin : sequence of ThinWall
        The walls, and how thick each is to be.
    side : {"both", "outward", "inward"}
        Which sides move: those that look out into the open, those that look into the model's own
        void, or both.
    progress : Progress

    Returns
    -------
    Outcome
        Numbers: ``walls`` moved out (their positions in `thin`). Skipped, each with the ``wall``'s
        position: ``no-such-side``; ``crosses-already``, something before it moves;
        ``would-close-air`` with ``air_mm``; ``would-intersect``; and ``short`` with
        ``reached_mm``, what it could have come to. None of these moved.

    Raises
    ------
    Cancelled
        If `progress` asks to stop.
    OperationRefused
        If a goal is not from `LEAST_THICKNESS` to `MOST_THICKNESS`.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> plate = cuboid((20.0, 20.0, 0.5))
    >>> walls = measure_thickness(plate, 0.8, greatest=1.0)
    >>> thin = [ThinWall(walls.regions(0.8), 0, 0.8)]
    >>> thicken_walls(walls, thin).numbers
    {'walls': [0]}
    """
    mesh = walls.mesh
    if not thin:
        return Outcome(mesh)
    blocked: dict[int, Skipped] = {}
    aims = [wall.goal for wall in thin]
    for attempt in range(_TRIES):
        moved = [i for i in range(len(thin)) if i not in blocked]
        if not moved:
            break
        progress.step("Dividing the skin beside them", attempt / _TRIES)
        # of those alone that are to move: what is beside the others stays as it is divided
        zone = OffsetZone.of(walls, [replace(thin[i], goal=aims[i]) for i in moved])
        within = progress.span((attempt + 0.2) / _TRIES, (attempt + 0.7) / _TRIES)
        built = offset_walls(zone, side, progress=within)
        if built.blocked:
            for row, one in built.blocked.items():
                i = moved[row]
                blocked[i] = replace(one, numbers={**one.numbers, "wall": i})
            continue
        within = progress.span((attempt + 0.7) / _TRIES, (attempt + 1.0) / _TRIES)
        within.step("Measuring it again", 0.0)
        short = short_walls(built.mesh, walls, [(i, thin[i]) for i in moved], progress=within)
        if not short:
            skipped = tuple(blocked[i] for i in sorted(blocked))
            return Outcome(built.mesh, {"walls": moved}, skipped)
        for i, one in short.items():
            aim = aims[i] * thin[i].goal / one.numbers["reached_mm"]
            if aim <= _MOST_MORE * thin[i].goal:
                aims[i] = aim
            else:
                blocked[i] = one
    # what is left would come to harm as well, or was never reached
    blocked |= {
        i: Skipped("would-intersect", {"wall": i}) for i in range(len(thin)) if i not in blocked
    }
    return Outcome(mesh, skipped=tuple(blocked[i] for i in sorted(blocked)))


def short_walls(
    mesh: Mesh,
    walls: ThicknessMap,
    built: Sequence[tuple[int, ThinWall]],
    *,
    progress: Progress = SILENT,
) -> dict[int, Skipped]:
    """Walls that are thin still where they were moved out.

    Parameters
    ----------
    mesh : Mesh
        As it is now.
    walls : ThicknessMap
        Of the mesh before.
    built : sequence of (int, ThinWall)
        The walls with a number each.
    progress : Progress

    Returns
    -------
    dict of int to Skipped
        ``short``, each with the ``wall``'s number and ``reached_mm``.

    Raises
    ------
    Cancelled
        If `progress` asks to stop.
    OperationRefused
        If a goal is not from `LEAST_THICKNESS` to `MOST_THICKNESS`.
    """
    again = measure_thickness(mesh, max(wall.goal for _, wall in built), progress=progress)
    found = {}
    for i, wall in built:
        regions = again.regions(wall.goal * (1 - _ROUNDING))
        if not len(regions):
            continue
        was = cKDTree(walls.samples.points[wall.regions.samples[wall.row]])
        near = was.query(regions.at)[0] <= wall.goal
        if near.any():
            reached = float(regions.thickness[near].min())
            found[i] = Skipped("short", {"wall": i, "reached_mm": reached})
    return found
