"""Models cut into parts: by planes, along a drawn line, by a block or another piece."""

from collections.abc import Collection, Sequence
from typing import Any, Literal

import numpy as np
from caulkcore.errors import OperationRefused
from caulkcore.mesh.concatenate import concatenate
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.progress import SILENT, Progress
from caulkcore.solid.cutters import placed_solid, slides_free

from ..operation import OperationResult
from ..rule_sheets import RuleSheet
from ..text import area_text, length_text, volume_text
from .directions import unit_vector
from .dovetail import join_by_dovetail
from .jointing import Choice, Joining, join_parts
from .parts_apart import beside, cut_by_plane, cutter_along, divided, moved, refuse_open, set_off
from .piece_solids import PieceSolids

Part = Literal["both", "1", "2"]
"""What a cut leaves: both parts, the one that the normal points away from, or the other."""


def cut(
    mesh: Mesh,
    point: Sequence[float],
    normal: Sequence[float],
    *,
    part: Part = "both",
    spacing: float = 1.0,
    joint: Choice = "none",
    spots: list[list[float]] | None = None,
    width: float | None = None,
    length: float | None = None,
    taper: float = 2.0,
    clearance: float | None = None,
    loose: bool = False,
    rules: RuleSheet | None = None,
    progress: Progress = SILENT,
) -> OperationResult:
    """Cut the model by a plane into closed parts, with joints between them if wanted.

    Parameters
    ----------
    mesh : Mesh
    point, normal : sequence of float
        x, y, z of a point on the plane, mm, and of its normal.
    part : {"both", "1", "2"}
        Both parts; or only the first, which the normal points away from; or only the second.
    spacing : float
        By how much the second part is moved along the normal where both stay, mm: parts that touch
        would be one again in most formats.
    joint : {"none", "round", "square", "keyed", "magnet", "screw", "dovetail"}
    spots : list of [x, y, z, radius], optional
    width, length : float, optional
    taper : float
    clearance : float, optional
    loose : bool
        These are of the joints, as of `caulkjob.remedies.jointing.Joining`.
    rules : RuleSheet, optional
        The material's, for the clearance and the material round a joint.
    progress : Progress

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If the normal has no direction, a piece is open, or there is no room for the joints.
    Cancelled
        If `progress` asks to stop.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> cut(cuboid(), (0.0, 0.0, 4.0), (0.0, 0.0, 1.0), spacing=0.0).done
    'Cut into parts of 0.40 cm³ and 0.60 cm³, 1.0 cm² of cut.'
    """
    way = unit_vector(normal, "The plane's normal")
    refuse_open(mesh)
    found = cut_by_plane(mesh, np.asarray(point, dtype=np.float64), way, progress.span(0.0, 0.5))
    first, second = found.below, found.above
    if not len(first.faces) or not len(second.faces):
        return OperationResult(mesh, left=("The plane does not meet the model.",))
    done, pins = "Cut into parts", list[Mesh]()
    more: dict[str, Any] = {}
    if joint != "none":
        progress.step("Making the joints", 0.5)
        asked = Joining(spots, width, length, taper, clearance, loose)
        rest = progress.span(0.5, 1.0)
        if joint == "dovetail":
            joined = join_by_dovetail(mesh, found, way, asked, rules, progress=rest)
        else:
            joined = join_parts(mesh, found, way, joint, asked, rules, progress=rest)
        # set off straight, the parts have to be clear of each other
        spacing += joined.off
        first, second, pins, more = joined.below, joined.above, joined.pins, joined.numbers
        done = f"Cut into parts with {joined.told}:"
    numbers = {"volumes_mm3": [first.volume, second.volume], "area_mm2": found.area, **more}
    told = f"{volume_text(first.volume)} and {volume_text(second.volume)}"
    done += f"{'' if joint != 'none' else ' of'} {told}, {area_text(found.area)} of cut"
    if part != "both":
        kept, which = (first, "first") if part == "1" else (second, "second")
        return OperationResult(kept, f"{done}; the {which} part kept.", numbers)
    if spacing:
        done += f"; the second one stands {length_text(spacing)} off"
    where_cut = [first, second, *pins]
    apart = [first, moved(second, way * spacing)]
    apart += beside(apart, pins, max(spacing, 1.0))
    return set_off(where_cut, apart, f"{done}.", numbers)


def cut_along(
    mesh: Mesh,
    line: Sequence[Sequence[float]],
    direction: Sequence[float],
    *,
    spacing: float = 1.0,
    progress: Progress = SILENT,
) -> OperationResult:
    """Cut the model along a drawn line, straight through in one direction.

    Parameters
    ----------
    mesh : Mesh
    line : sequence of [x, y, z]
        Its corners, mm. One that ends where it began cuts out what lies within; another one goes on
        straight at both ends.
    direction : sequence of float
        The way that it was looked at.
    spacing : float
        How far the parts stand apart afterwards, mm.
    progress : Progress

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If a piece is open, the line has no length seen that way, or crosses itself.
    Cancelled
        If `progress` asks to stop.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> line = [(5.0, -1.0, 0.0), (5.0, 5.0, 0.0), (7.0, 5.0, 0.0), (7.0, 11.0, 0.0)]
    >>> cut_along(cuboid(), line, (0.0, 0.0, 1.0)).done
    'Cut along the line into parts of 0.60 cm³ and 0.40 cm³; they stand 1.0 mm apart.'
    """
    way = unit_vector(direction, "The direction")
    corners = np.asarray(line, dtype=np.float64)
    cutter, aside = cutter_along(mesh, corners, way)
    refuse_open(mesh)
    outside, inside = divided(mesh, cutter, progress)
    if outside is None or inside is None:
        return OperationResult(mesh, left=("The line does not part the model.",))
    first, second = (inside, outside) if aside is not None else (outside, inside)
    numbers = {"volumes_mm3": [first.volume, second.volume]}
    told = f"Cut along the line into parts of {volume_text(first.volume)} and "
    told += f"{volume_text(second.volume)}; they stand {length_text(spacing)} apart."
    if aside is None:
        apart = beside([first], [second], spacing)[0]
    else:
        # past steps and undercuts only wholly out of one another
        out = float((first.vertices @ aside).max() - (second.vertices @ aside).min())
        free = slides_free(corners, way, aside * spacing)
        apart = moved(second, aside * (spacing if free else out + spacing))
    return set_off([first, second], [first, apart], told, numbers)


def cut_out(
    mesh: Mesh,
    *,
    shape: Literal["block", "cylinder", "piece"] = "block",
    at: Sequence[float] | None = None,
    size: Sequence[float] | None = None,
    axis: Sequence[float] = (0.0, 0.0, 1.0),
    pieces: Collection[int] | None = None,
    spacing: float = 1.0,
    progress: Progress = SILENT,
) -> OperationResult:
    """Part what lies in a block, a cylinder or another piece from the rest.

    Parameters
    ----------
    mesh : Mesh
    shape : {"block", "cylinder", "piece"}
    at : sequence of float
        Middle of the block or cylinder, mm.
    size : sequence of float
        Sides of the block, mm, the last one along `axis`; of a cylinder its two diameters and
        height.
    axis : sequence of float
    pieces : collection of int
        Of ``piece``: the numbers of those that cut; they are left out afterwards.
    spacing : float
        How far what was cut out stands beside the rest afterwards, mm.
    progress : Progress

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If what cuts is not told, or a piece is open.
    Cancelled
        If `progress` asks to stop.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> cut_out(cuboid(), at=(5.0, 5.0, 10.0), size=(4.0, 4.0, 4.0)).done
    'Cut out 0.03 cm³; 0.97 cm³ stay. The part stands 1.0 mm beside them.'
    """
    refuse_open(mesh)
    if shape == "piece":
        if not pieces:
            raise OperationRefused("Name the piece that cuts.")
        given = PieceSolids.of(mesh, pieces)
        mesh_left, cutter = given.rest, concatenate(given.solids)
        if not len(mesh_left.faces):
            raise OperationRefused("All pieces are named; nothing is left to cut.")
    else:
        if at is None or size is None or min(size) <= 0:
            raise OperationRefused("Its middle and its sides must be given.")
        mesh_left, cutter = (
            mesh,
            placed_solid(shape, np.array(at), np.array(size), unit_vector(axis, "Axis")),
        )
    outside, inside = divided(mesh_left, cutter, progress)
    if outside is None or inside is None:
        return OperationResult(mesh, left=("It does not part the model.",))
    told = f"Cut out {volume_text(inside.volume)}; {volume_text(outside.volume)} stay"
    told += ", what cut is left out. " if shape == "piece" else ". "
    told += f"The part stands {length_text(spacing)} beside them."
    numbers = {"volumes_mm3": [outside.volume, inside.volume]}
    apart = [outside, *beside([outside], [inside], spacing)]
    return set_off([outside, inside], apart, told, numbers)
