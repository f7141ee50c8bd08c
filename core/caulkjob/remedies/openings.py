"""Remedies for what is open: holes, gaps between rims, sheets without thickness."""

from collections.abc import Collection

import numpy as np
from caulkcore.diagnose.components import shells_of_faces
from caulkcore.diagnose.diagnosis import SHEET_SHARE, Diagnosis
from caulkcore.mesh.arrays import Array
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.outcome import Skipped
from caulkcore.repair import holes
from caulkcore.repair.bridge import bridge_boundary_loops
from caulkcore.repair.fairing import FillShape
from caulkcore.repair.thicken_sheet import Side, thicken_open_sheets

from ..chosen_places import chosen_numbers, chosen_places, faces_of
from ..findings import closed
from ..findings.places import by_rank
from ..operation import CLOSE_SHEET, GIVE_THICKNESS, OperationResult
from ..rule_sheets import RuleSheet
from ..text import counted, length_text, volume_text
from .reasons import told_once

_USUAL_WALL = 1.0
"""mm: thick enough for most materials where none is ordered."""
_SIDES = {"both": "half on each side", "outward": "outward", "inward": "inward"}
"""How a sentence tells where a wall lies."""


def fill_holes(
    mesh: Mesh, places: Collection[int] | None = None, *, shape: FillShape = "fitting"
) -> OperationResult:
    """Close holes with new faces; open sheets are left.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the places to mend; all by default.
    shape : {"fitting", "flat", "following"}
        See `caulkcore.repair.holes.fill_holes`.

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If a place is not among those of the finding.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> cube = cuboid()
    >>> fill_holes(Mesh(cube.vertices, cube.faces[1:])).done
    '1 hole filled with 1 triangle.'
    """
    diagnosis = Diagnosis.of(mesh)
    if places is None:
        # with those that are left, to say so
        loops = np.arange(len(diagnosis.boundary_loops))
    else:
        loops = chosen_numbers(_holes(diagnosis), places)
    return filled(diagnosis, loops, shape, open_sheets=False)


def _holes(diagnosis: Diagnosis) -> Array:
    """Numbers of the boundary loops that are holes, as the finding lists them."""
    return diagnosis.holes[by_rank(diagnosis.boundary_loops.diameters[diagnosis.holes])]


def close_sheets(
    mesh: Mesh, places: Collection[int] | None = None, *, shape: FillShape = "fitting"
) -> OperationResult:
    """Put lids on open sheets as if they had holes; see `fill_holes`.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the open sheets; all by default.
    shape : {"fitting", "flat", "following"}

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If a place is not among those of the finding.
    """
    diagnosis = Diagnosis.of(mesh)
    shells = _sheets(diagnosis, places)
    loops = np.flatnonzero(np.isin(diagnosis.boundary_loops.shell, shells))
    return filled(diagnosis, loops, shape, open_sheets=True)


def _sheets(diagnosis: Diagnosis, places: Collection[int] | None) -> Array:
    """Shells of the chosen open sheets."""
    chosen = chosen_places(closed.open_sheets(diagnosis), places)
    return shells_of_faces(diagnosis, faces_of(chosen))


def filled(
    diagnosis: Diagnosis, loops: Array, shape: FillShape, *, open_sheets: bool
) -> OperationResult:
    """Fill boundary loops, told in sentences.

    Parameters
    ----------
    diagnosis : Diagnosis
    loops : ndarray, shape (k,)
        Their numbers in `Diagnosis.boundary_loops`.
    shape : {"fitting", "flat", "following"}
    open_sheets : bool
        Whether those of open sheets are filled as well.

    Returns
    -------
    OperationResult
    """
    outcome = holes.fill_holes(diagnosis, loops, shape=shape, open_sheets=open_sheets)
    left = tuple(_why_open(one) for one in outcome.skipped)
    if outcome.mesh is diagnosis.mesh:
        return OperationResult(diagnosis.mesh, left=left)
    count, faces, bent = (outcome.numbers[key] for key in ("holes", "faces", "following"))
    done = f"{counted(count, 'hole')} filled with {counted(faces, 'triangle')}"
    if bent:
        following = f"{bent:,} of them " if count > 1 else ""
        done += f", {following}following the surface around"
    return OperationResult(outcome.mesh, f"{done}.", outcome.numbers, left)


def _why_open(one: Skipped) -> str:
    if one.reason == "not-a-ring":
        rims = counted(one.numbers["loops"], "open rim")
        return f"{rims} left: the edge does not come back to where it began."
    sheets = counted(one.numbers["sheets"], "open sheet")
    return (
        f"{sheets} left open: closing would take more than {SHEET_SHARE:.0%} of the surface that "
        f"is there. “{GIVE_THICKNESS}” makes a wall of it, “{CLOSE_SHEET}” puts a lid on."
    )


def bridge_gaps(
    mesh: Mesh, places: Collection[int] | None = None, *, kind: str | None = None
) -> OperationResult:
    """Join the rims of holes or sheets that face each other with a band of faces; no vertex moves.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the open places; a band joins a chosen one with what belongs to it. All by
        default.
    kind : str, optional
        The finding they belong to: ``open-edges``, which is meant if nothing is said, or
        ``open-sheets``.

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If a place is not among those of the finding.
    """
    diagnosis = Diagnosis.of(mesh)
    if places is None:
        loops = np.arange(len(diagnosis.boundary_loops))
    elif kind == "open-sheets":
        chosen = _sheets(diagnosis, places)
        loops = np.flatnonzero(np.isin(diagnosis.boundary_loops.shell, chosen))
    else:
        loops = chosen_numbers(_holes(diagnosis), places)
    outcome = bridge_boundary_loops(diagnosis, loops)
    left = told_once(
        outcome.skipped,
        lambda _: "A gap was not bridged: the band would pass through the surface.",
        lambda one: one.numbers["width_mm"],
    )
    if outcome.mesh is mesh:
        return OperationResult(mesh, left=left)
    numbers = outcome.numbers
    done = (
        f"{counted(numbers['gaps'], 'gap')} bridged, at most "
        f"{length_text(numbers['widest_mm'])} wide, with {counted(numbers['faces'], 'triangle')}."
    )
    return OperationResult(outcome.mesh, done, numbers, left)


def give_thickness(
    mesh: Mesh,
    places: Collection[int] | None = None,
    *,
    thickness: float | None = None,
    side: Side = "both",
    rules: RuleSheet | None = None,
) -> OperationResult:
    """Make walls of open sheets: the sheet on one side or both, and its rims closed.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the open sheets; all by default.
    thickness : float, optional
        Of the walls, mm; by default what the material asks of a wall that stands free, and 1 mm
        without a material.
    side : {"both", "outward", "inward"}
        Where the new skin lies, seen from the sheet.
    rules : RuleSheet, optional
        The material's.

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If a place is not among those of the finding.
    """
    diagnosis = Diagnosis.of(mesh)
    shells = _sheets(diagnosis, places)
    if thickness is None:
        thickness = rules.wall_free if rules and rules.wall_free > 0 else _USUAL_WALL
    outcome = thicken_open_sheets(diagnosis, shells, thickness=thickness, side=side)
    left = told_once(
        outcome.skipped, lambda one: _why_thin(one, thickness), lambda one: one.numbers["faces"]
    )
    if outcome.mesh is mesh:
        return OperationResult(mesh, left=left)
    sheets, volume = outcome.numbers["sheets"], outcome.numbers["volume_mm3"]
    done = (
        f"{counted(sheets, 'open sheet')} given a thickness of {length_text(thickness)}, "
        f"{_SIDES[side]}: {volume_text(volume)}."
    )
    numbers = {"sheets": sheets, "thickness_mm": thickness}
    return OperationResult(outcome.mesh, done, numbers, left)


def _why_thin(one: Skipped, thickness: float) -> str:
    name = f"An open sheet of {counted(one.numbers['faces'], 'triangle')} is left"
    if one.reason == "one-sided":
        return f"{name}: it has only one side, like a twisted band."
    if one.reason == "curves-too-tight":
        return f"{name}: it curves much tighter than {length_text(thickness)}."
    return f"{name}: {one.numbers['message']}"
