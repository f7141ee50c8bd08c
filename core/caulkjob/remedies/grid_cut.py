"""Models cut by planes along the axes, so that every part fits a machine, with pins if wanted."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from itertools import permutations
from typing import Literal

import numpy as np
from caulkcore.errors import OperationRefused
from caulkcore.mesh.arrays import Array
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.progress import SILENT, Progress
from caulkcore.solid.joints import Shape

from ..limits import USUAL, Limits
from ..operation import OperationResult
from ..rule_sheets import RuleSheet
from ..text import area_text, counted, length_text
from .jointing import Fit, Joined, Joining, join_neighbours
from .parts_apart import beside, cut_by_plane, moved, refuse_open, set_off
from .piece_solids import PieceSolids

Peg = Literal["none", "round", "square", "keyed"]
"""Pins across the cuts of several parts."""
_TAPER = 2.0
"""By how much the sides of such pins lean inward, degrees: they go in easily and sit well."""
MOST_CUTS = 60
"""Cuts of one model that somebody may have meant; more comes of a wrong unit."""


def cut_to_fit(
    mesh: Mesh,
    *,
    room: Sequence[float] | None = None,
    spacing: float = 1.0,
    joint: Peg = "none",
    width: float | None = None,
    clearance: float | None = None,
    rules: RuleSheet | None = None,
    limits: Limits = USUAL,
    progress: Progress = SILENT,
) -> OperationResult:
    """Cut the model by planes along the axes into parts that fit a machine, with the fewest cuts.

    Parameters
    ----------
    mesh : Mesh
    room : sequence of float, optional
        Sides that a part may have, mm, in any order; those of the machine that takes the fewest
        cuts if none are given.
    spacing : float
        How far the parts stand apart afterwards, mm.
    joint : {"none", "round", "square", "keyed"}
        Pins across the cuts, loose ones, so that every part still fits.
    width : float, optional
        Of the pins, mm; from the room there is if none is given. They are as long as wide.
    clearance : float, optional
        Between a pin and its socket, mm; the material's if none is given.
    rules : RuleSheet, optional
        The material's, for the clearance and the material round a pin.
    limits : Limits
        The shop's.
    progress : Progress

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If a piece is open, it would take very many cuts, or there is no room for any pin.
    Cancelled
        If `progress` asks to stop.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> cut_to_fit(cuboid((250.0, 90.0, 40.0)), room=(100.0, 100.0, 50.0)).done
    'Cut into 3 parts by 2 planes, 72.0 cm² of cut; they stand 1.0 mm apart.'
    """
    refuse_open(mesh)
    rooms = [room] if room else _rooms(limits)
    solids = PieceSolids.of(mesh, None).solids
    wanted = [fewest_cuts(one.size, rooms) for one in solids]
    total = sum(map(sum, wanted))
    if not total:
        return OperationResult(mesh, left=("It fits as it is.",))
    if total > MOST_CUTS:
        raise OperationRefused(f"It would take {total:,} cuts; look at its size or its unit first.")
    grids = []
    for i, (solid, counts) in enumerate(zip(solids, wanted, strict=True)):
        progress.step("Cutting", 0.5 * i / len(solids))
        grids.append(_grid(solid, counts))
    joints = Joints()
    if joint != "none":
        asked = Joining(width=width, taper=_TAPER, clearance=clearance, loose=True)
        for i, grid in enumerate(grids):
            share = progress.span(0.5 + 0.5 * i / len(grids), 0.5 + 0.5 * (i + 1) / len(grids))
            grid.join(joint, asked, rules, joints, share)
        if not joints.pins:
            raise OperationRefused("No face of the cuts has room for a pin; cut it without any.")
    where_cut = [one for grid in grids for one in grid.cells.values()] + joints.pins
    apart = [
        moved(one, spacing * np.array(place)) for grid in grids for place, one in grid.cells.items()
    ]
    apart += beside(apart, joints.pins, max(spacing, 1.0))
    parts = sum(len(grid.cells) for grid in grids if grid.area)
    area = sum(grid.area for grid in grids)
    told = f"Cut into {counted(parts, 'part')} by {counted(total, 'plane')}"
    told += f", {area_text(area)} of cut; they stand {length_text(spacing)} apart{joints.told}."
    numbers = {"volumes_mm3": [one.volume for one in where_cut], "area_mm2": area, "cuts": total}
    done = set_off(where_cut, apart, told, numbers | joints.numbers)
    return replace(done, left=joints.left)


@dataclass
class Joints:
    """Pins across several cuts, as they are made.

    Attributes
    ----------
    made : list of Joined
        One for each face at which parts meet, with loose pegs.
    without : int
        Faces of cuts that have no room for any.
    """

    made: list[Joined] = field(default_factory=list)
    without: int = 0

    @property
    def pins(self) -> list[Mesh]:
        """All of them, at their places."""
        return [pin for one in self.made for pin in one.pins]

    @property
    def fit(self) -> Fit | None:
        """The least gap of any, and the greatest; None if there are none."""
        fits = [one.fit for one in self.made if one.fit]
        if not fits:
            return None
        least, most = min(one.least for one in fits), max(one.most for one in fits)
        return Fit(fits[0].clearance, least, most)

    @property
    def told(self) -> str:
        """What they are, for the end of a sentence."""
        fit = self.fit
        return f"; {counted(len(self.pins), 'loose pin')}, {fit.told}" if fit else ""

    @property
    def numbers(self) -> dict[str, object]:
        """The same as numbers."""
        fit = self.fit
        places = [one for made in self.made for one in made.joints]
        return {"joints": places, **fit.numbers} if fit else {}

    @property
    def left(self) -> tuple[str, ...]:
        """What has none."""
        if not self.without:
            return ()
        faces = counted(self.without, "face of a cut has", "faces of cuts have")
        return (f"{faces} no room for a pin.",)


@dataclass
class Grid:
    """A solid cut along the axes.

    Attributes
    ----------
    cells : dict of (int, int, int) to Mesh
        The parts, by their places in the grid.
    planes : tuple of three lists of float
        Where it was cut across each axis, mm.
    area : float
        Of the cuts, mm².
    """

    cells: dict[tuple[int, ...], Mesh]
    planes: tuple[list[float], ...]
    area: float

    def join(
        self,
        shape: Shape,
        asked: Joining,
        rules: RuleSheet | None,
        joints: Joints,
        progress: Progress,
    ) -> None:
        """Put pins across all faces at which parts meet, where there is room.

        Parameters
        ----------
        shape : Shape
        asked : Joining
        rules : RuleSheet or None
        joints : Joints
            Receives them.
        progress : Progress

        Raises
        ------
        Cancelled
            If `progress` asks to stop.
        """
        pairs = [
            (axis, place, tuple(np.add(place, np.eye(3, dtype=int)[axis]).tolist()))
            for axis in range(3)
            for place in sorted(self.cells)
        ]
        for i, (axis, here, there) in enumerate(pairs):
            if there not in self.cells:
                continue
            progress.step("Making the joints", i / len(pairs))
            unit = np.eye(3)[axis]
            on = unit * self.planes[axis][here[axis]]
            try:
                made = join_neighbours(
                    self.cells[here], self.cells[there], on, unit, shape, asked, rules
                )
            except OperationRefused:
                joints.without += 1
                continue
            if made is not None:
                self.cells[here], self.cells[there] = made.below, made.above
                joints.made.append(made)


def _grid(solid: Mesh, counts: Sequence[int]) -> Grid:
    """A solid cut into equal cells."""
    low, high = solid.bounds
    cells: list[tuple[Mesh, Array]] = [(solid, np.zeros(3, dtype=int))]
    area = 0.0
    planes = tuple(
        [low[axis] + (high[axis] - low[axis]) * k / (n + 1) for k in range(1, n + 1)]
        for axis, n in enumerate(counts)
    )
    for axis in range(3):
        unit = np.eye(3, dtype=int)[axis]
        for at in planes[axis]:
            parts: list[tuple[Mesh, Array]] = []
            for cell, place in cells:
                if not cell.bounds[0][axis] < at < cell.bounds[1][axis]:
                    # what lies beyond the plane is set off with the rest of that side
                    parts.append((cell, place + unit * int(cell.bounds[0][axis] >= at)))
                    continue
                found = cut_by_plane(cell, at * unit, unit.astype(np.float64), SILENT)
                area += found.area
                parts += [(found.below, place), (found.above, place + unit)]
            cells = [(one, place) for one, place in parts if len(one.faces)]
    return Grid({tuple(place.tolist()): one for one, place in cells}, planes, area)


def fewest_cuts(size: Array, rooms: Sequence[Sequence[float]]) -> list[int]:
    """How often to cut across each axis so that equal parts fit one of some rooms.

    Parameters
    ----------
    size : ndarray, shape (3,)
        Of the model, mm.
    rooms : sequence of sequence of float
        Sides that a part may have, in any order, mm.

    Returns
    -------
    list of int
        Of as few cuts as can be, those that make the fewest parts.

    Examples
    --------
    >>> fewest_cuts(np.array([250.0, 90.0, 40.0]), [(100.0, 50.0, 100.0)])
    [2, 0, 0]
    """
    ways = [
        [
            max(int(np.ceil(side / most - 1e-9)) - 1, 0)
            for side, most in zip(size, sides, strict=True)
        ]
        for room in rooms
        for sides in permutations(room)
    ]
    return min(ways, key=lambda cuts: (sum(cuts), np.prod([n + 1 for n in cuts]), cuts))


def _rooms(limits: Limits) -> list[tuple[float, ...]]:
    """The sides that parts may have in each machine of the process."""
    machines = [one for one in limits.machines if one.process == limits.process]
    most = np.sort(limits.build_volume)
    if not machines:
        return [tuple(most)]
    return [tuple(np.minimum(most, np.sort(one.sides))) for one in machines]
