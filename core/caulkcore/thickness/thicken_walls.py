"""Thickening thin walls to a goal, and nothing else."""

from collections.abc import Sequence
from dataclasses import dataclass

from scipy.spatial import cKDTree

from ..mesh.triangle_mesh import Mesh
from ..outcome import Outcome, Skipped
from ..progress import SILENT, Progress
from .offset_walls import Side, offset_walls
from .offset_zone import OffsetZone, ThinWall
from .thickness_map import ThicknessMap, measure_thickness

_TRIES = 4
"""Times that walls which cannot be moved are left out and the others tried again."""
_ENOUGH = 0.99
"""Thickness is measured to a hundredth of itself: from this share of the goal on it is reached."""


@dataclass(frozen=True)
class _Short:
    """A wall that is thin still, and how thick it is, mm."""

    number: int
    reached: float


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
    it is thick enough.

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
        position: ``no-such-side``; ``would-close-air`` with ``air_mm``; ``would-intersect``; and
        ``short`` with ``reached_mm`` for one that was moved out but is thin still.

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
    progress.step("Dividing the skin beside them", 0.0)
    zone = OffsetZone.of(walls, thin)
    blocked: dict[int, Skipped] = {}
    for attempt in range(_TRIES):
        progress.step("Moving the skin out", 0.15 + 0.7 * attempt / _TRIES)
        built = offset_walls(zone, side, set(blocked))
        if not built.blocked:
            break
        blocked |= built.blocked
    done = [i for i in range(len(thin)) if i not in blocked]
    skipped = [blocked[i] for i in sorted(blocked)]
    if not done or built.blocked:
        return Outcome(mesh, skipped=tuple(skipped))
    progress.step("Measuring it again", 0.85)
    for short in _short(built.mesh, walls, [(i, thin[i]) for i in done]):
        numbers = {"wall": short.number, "reached_mm": short.reached}
        skipped.append(Skipped("short", numbers))
    return Outcome(built.mesh, {"walls": done}, tuple(skipped))


def _short(mesh: Mesh, walls: ThicknessMap, built: list[tuple[int, ThinWall]]) -> list[_Short]:
    """Walls that are thin still where they were moved out."""
    again = measure_thickness(mesh, max(wall.goal for _, wall in built))
    found = []
    for i, wall in built:
        regions = again.regions(wall.goal * _ENOUGH)
        if not len(regions):
            continue
        was = cKDTree(walls.samples.points[wall.regions.samples[wall.row]])
        near = was.query(regions.at)[0] <= wall.goal
        if near.any():
            found.append(_Short(i, float(regions.thickness[near].min())))
    return found
