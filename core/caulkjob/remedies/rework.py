"""Remedies for the triangles themselves: fewer, finer, more even; and the unit they are read in."""

from typing import Literal

import numpy as np
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.diagnose.mating_faces import mating_vertices
from caulkcore.errors import OperationRefused
from caulkcore.io.stl import STL_FACE, STL_HEAD, stl_bytes
from caulkcore.io.units import MILLIMETRES
from caulkcore.mesh.sharp_edges import SHARP
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.outcome import Skipped
from caulkcore.progress import SILENT, Progress
from caulkcore.remesh import smooth as smoothing
from caulkcore.remesh.decimate import LEAST_FACES, decimate, estimate_decimate
from caulkcore.remesh.estimate import Estimate, MeshMeasures
from caulkcore.remesh.isotropic_remesh import (
    estimate_isotropic_remesh,
    isotropic_remesh,
)
from caulkcore.remesh.subdivide import estimate_subdivide, subdivide
from caulkcore.spatial.face_region import Spots

from ..limits import USUAL
from ..operation import OperationResult
from ..text import counted, length_text
from .touch_up import Faces, chosen_faces

Axis = Literal["longest", "x", "y", "z"]
"""A side of the bounding box."""

_NAMES = {"mm": "millimetres", "cm": "centimetres", "m": "metres", "in": "inches", "ft": "feet"}
"""Units as sentences name them."""
_NOTHING = "No edge can be drawn together that would leave the skin sound."
"""What is said where no edge can be collapsed."""


def set_unit(mesh: Mesh, unit: str, was: str) -> OperationResult:
    """Read a file's numbers in another unit; the shape stays.

    Parameters
    ----------
    mesh : Mesh
    unit, was : {"mm", "cm", "m", "in", "ft"}
        The unit to take, and the one it is in now.

    Returns
    -------
    OperationResult

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> set_unit(cuboid(), "in", "mm").done
    'Read in inches instead of millimetres: 25.4 times as large.'
    """
    factor = MILLIMETRES[unit] / MILLIMETRES[was]
    if factor == 1.0:
        return OperationResult(mesh)
    done = f"Read in {_NAMES[unit]} instead of {_NAMES[was]}: {factor:g} times as large."
    return OperationResult(mesh.scaled(factor), done)


def scale(
    mesh: Mesh,
    *,
    factor: float | None = None,
    percent: float | None = None,
    axis: Axis = "longest",
    length: float | None = None,
) -> OperationResult:
    """Make everything larger or smaller by one factor.

    Parameters
    ----------
    mesh : Mesh
    factor : float, optional
    percent : float, optional
        The factor in hundredths.
    axis : {"longest", "x", "y", "z"}
        The side that `length` is of.
    length : float, optional
        What that side is to be, mm.

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If not just one of factor, percent and length is given, or the side has no length.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> scale(cuboid((10.0, 20.0, 5.0)), length=50.0).done
    '2.5 times as large: 25.0 × 50.0 × 12.5 mm.'
    """
    if sum(one is not None for one in (factor, percent, length)) != 1:
        raise OperationRefused("Give a factor, a share in percent, or a length: one of them.")
    if percent is not None:
        factor = percent / 100
    elif length is not None:
        sides = [float(x) for x in mesh.size]
        side = max(sides) if axis == "longest" else sides["xyz".index(axis)]
        if not side > 0:
            raise OperationRefused("It has no length along that axis.")
        factor = length / side
    assert factor is not None
    if factor == 1.0:
        return OperationResult(mesh, left=("It has that size already.",))
    larger = mesh.scaled(factor)
    told = " × ".join(f"{x:,.1f}" for x in larger.size)
    return OperationResult(larger, f"{factor:.6g} times as large: {told} mm.", {"factor": factor})


def reduce(
    mesh: Mesh,
    *,
    triangles: float | None = None,
    percent: float | None = None,
    megabytes: float | None = None,
    deviation: float | None = None,
    edges: bool = False,
    mating: bool = True,
    progress: Progress = SILENT,
) -> OperationResult:
    """Make the triangles fewer until the first of the limits given is reached.

    Parameters
    ----------
    mesh : Mesh
    triangles : float, optional
        How many to leave at least.
    percent : float, optional
        What share of them to leave at least, in hundredths.
    megabytes : float, optional
        Size of a binary STL to get below, 10⁶ bytes. If nothing is given at all, that of the
        shop's largest file.
    deviation : float, optional
        How far the skin may move, mm.
    edges : bool
        Whether vertices on edges sharper than 30 degrees stay as they are.
    mating : bool
        Whether flat faces stay as they are that mate with one of another piece.
    progress : Progress

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If it has as few already.
    Cancelled
        If `progress` asks to stop.
    """
    before = len(mesh.faces)
    target = _target(before, triangles, percent, megabytes, deviation)
    diagnosis = Diagnosis.of(mesh)
    kept = mating_vertices(diagnosis) if mating else np.zeros(len(mesh.vertices), dtype=bool)
    outcome = decimate(
        mesh,
        target_faces=target,
        max_deviation=deviation,
        keep_sharp_edges=edges,
        keep=kept if kept.any() else None,
        progress=progress,
    )
    if outcome.mesh is mesh:
        return OperationResult(mesh, left=(_NOTHING,))
    after = outcome.numbers["faces"]
    done = f"{counted(before, 'triangle')} made {after:,} ({after / before:.1%})"
    done += "; faces that mate stay as they are." if kept.any() else "."
    left = tuple(
        f"{one.numbers['faces']:,} more than asked for: what is left would cross or turn over."
        for one in outcome.skipped
    )
    numbers = {"triangles": after, "megabytes": stl_bytes(after) / 1e6}
    return OperationResult(outcome.mesh, done, numbers, left)


def reduce_cost(
    measures: MeshMeasures,
    *,
    triangles: float | None = None,
    percent: float | None = None,
    megabytes: float | None = None,
    deviation: float | None = None,
    edges: bool = False,
    mating: bool = True,
) -> Estimate:
    """What `reduce` will take and leave.

    Parameters
    ----------
    measures : MeshMeasures
    triangles, percent, megabytes, deviation : float, optional
    edges, mating : bool
        As of `reduce`.

    Returns
    -------
    Estimate

    Raises
    ------
    OperationRefused
        If it has as few already.
    """
    target = _target(measures.triangles, triangles, percent, megabytes, deviation)
    return estimate_decimate(measures, target, deviation)


def _target(
    n: int,
    triangles: float | None,
    percent: float | None,
    megabytes: float | None,
    deviation: float | None,
) -> int:
    """How many triangles to leave at least.

    Raises
    ------
    OperationRefused
        If there are no more.
    """
    if triangles is percent is megabytes is deviation is None:
        megabytes = USUAL.file_bytes / 1e6
    wanted = [
        triangles,
        None if percent is None else n * percent / 100,
        None if megabytes is None else (megabytes * 1e6 - STL_HEAD) // STL_FACE,
    ]
    target = max([LEAST_FACES, *(int(one) for one in wanted if one is not None)])
    if target >= n:
        raise OperationRefused(f"It has {counted(n, 'triangle')}, no more than asked for.")
    return target


def refine(
    mesh: Mesh,
    region: Spots | None = None,
    *,
    faces: Faces | None = None,
    size: float | None = None,
    rounded: bool = True,
    sharp: float = SHARP,
    progress: Progress = SILENT,
) -> OperationResult:
    """Halve the edges of a region until none is longer than asked for.

    Parameters
    ----------
    mesh : Mesh
    region : sequence of (x, y, z, radius), optional
        mm; the whole by default.
    faces : sequence of int, or ndarray of bool, optional
        Chosen ones, instead of a region.
    size : float, optional
        Longest edge to leave, mm; half of the region's mean by default.
    rounded : bool
        Whether new vertices follow the bend; else the shape stays as it is.
    sharp : float
        Edges bent by more than this stay sharp, degrees.
    progress : Progress

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If there are no such faces, or there would be too many triangles.
    Cancelled
        If `progress` asks to stop.
    """
    within = region if faces is None else chosen_faces(mesh, faces)
    outcome = subdivide(mesh, within, size=size, rounded=rounded, sharp=sharp, progress=progress)
    left = tuple(_why_not_finer(one) for one in outcome.skipped)
    if outcome.mesh is mesh:
        return OperationResult(mesh, left=left)
    more, longest = outcome.numbers["faces_added"], outcome.numbers["size_mm"]
    done = f"{counted(more, 'triangle')} more: no edge longer than {length_text(longest)}."
    return OperationResult(outcome.mesh, done, {"size_mm": longest, "more": more}, left)


def _why_not_finer(one: Skipped) -> str:
    if one.reason == "empty-region":
        return "No face lies in the region."
    if one.reason == "short-already":
        return f"No edge there is longer than {length_text(one.numbers['size_mm'])}."
    halved = counted(one.numbers["edges"], "edge")
    return f"{halved} halved straight: rounded, faces would have crossed."


def refine_cost(
    measures: MeshMeasures,
    region: Spots | None = None,
    *,
    faces: Faces | None = None,
    size: float | None = None,
    rounded: bool = True,
    sharp: float = SHARP,
) -> Estimate:
    """What `refine` will take and leave.

    Parameters
    ----------
    measures : MeshMeasures
    region : sequence of (x, y, z, radius), optional
    faces : sequence of int, optional
    size : float, optional
    rounded : bool
    sharp : float
        As of `refine`.

    Returns
    -------
    Estimate

    Raises
    ------
    OperationRefused
        If there would be too many triangles.
    """
    return estimate_subdivide(measures, region, size=size)


def smooth(
    mesh: Mesh,
    region: Spots | None = None,
    *,
    faces: Faces | None = None,
    rounds: float = 10,
    deviation: float | None = None,
    sharp: float = SHARP,
    progress: Progress = SILENT,
) -> OperationResult:
    """Even out a region without shrinking it.

    Parameters
    ----------
    mesh : Mesh
    region : sequence of (x, y, z, radius), optional
        mm; the whole by default.
    faces : sequence of int, or ndarray of bool, optional
        Chosen ones, instead of a region.
    rounds : float
        How often; more make it smoother.
    deviation : float, optional
        How far a vertex may move, mm.
    sharp : float
        Edges bent by more than this stay as they are, degrees.
    progress : Progress

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If there are no such faces.
    Cancelled
        If `progress` asks to stop.
    """
    within = region if faces is None else chosen_faces(mesh, faces)
    outcome = smoothing.smooth(
        mesh, within, rounds=round(rounds), deviation=deviation, sharp=sharp, progress=progress
    )
    left = tuple(_why_not_smoother(one) for one in outcome.skipped)
    if outcome.mesh is mesh:
        return OperationResult(mesh, left=left)
    moved, far = outcome.numbers["moved"], outcome.numbers["furthest_mm"]
    done = f"{counted(moved, 'vertex', 'vertices')} moved, by {length_text(far)} at most."
    return OperationResult(outcome.mesh, done, outcome.numbers, left)


def _why_not_smoother(one: Skipped) -> str:
    if one.reason == "moved-less":
        held = counted(one.numbers["vertices"], "vertex", "vertices")
        return f"{held} moved less: faces would have crossed."
    return {
        "nothing-can-move": "Nothing there can move: all of it is sharp, or a rim.",
        "would-intersect": "However little it is smoothed, faces cross.",
        "even-already": "It is smooth already.",
    }[one.reason]


def smooth_cost(
    measures: MeshMeasures,
    region: Spots | None = None,
    *,
    faces: Faces | None = None,
    rounds: float = 10,
    deviation: float | None = None,
    sharp: float = SHARP,
) -> Estimate:
    """What `smooth` will take.

    Parameters
    ----------
    measures : MeshMeasures
    region : sequence of (x, y, z, radius), optional
    faces : sequence of int, optional
    rounds : float
    deviation : float, optional
    sharp : float
        As of `smooth`.

    Returns
    -------
    Estimate
    """
    return smoothing.estimate_smooth(measures, region, rounds=round(rounds))


def even_out(
    mesh: Mesh,
    region: Spots | None = None,
    *,
    faces: Faces | None = None,
    size: float | None = None,
    deviation: float | None = None,
    sharp: float = SHARP,
    progress: Progress = SILENT,
) -> OperationResult:
    """Make the triangles of a region about equilateral and of one size.

    Parameters
    ----------
    mesh : Mesh
    region : sequence of (x, y, z, radius), optional
        mm; the whole by default.
    faces : sequence of int, or ndarray of bool, optional
        Chosen ones, instead of a region.
    size : float, optional
        Length of the edges, mm; the mean of the region's by default.
    deviation : float, optional
        How far the surface may move, mm; a thirtieth of the size by default.
    sharp : float
        Edges bent by more than this stay as they are, degrees.
    progress : Progress

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If there are no such faces, or there would be too many triangles.
    Cancelled
        If `progress` asks to stop.
    """
    within = region if faces is None else chosen_faces(mesh, faces)
    outcome = isotropic_remesh(
        mesh, within, size=size, deviation=deviation, sharp=sharp, progress=progress
    )
    left = tuple(_why_not_evener(one) for one in outcome.skipped)
    if outcome.mesh is mesh:
        return OperationResult(mesh, left=left)
    before, after, edge = (outcome.numbers[key] for key in ("before", "after", "size_mm"))
    done = (
        f"{counted(before, 'triangle')} evened out to {after:,}, edges of about "
        f"{length_text(edge)}."
    )
    return OperationResult(outcome.mesh, done, outcome.numbers, left)


def _why_not_evener(one: Skipped) -> str:
    if one.reason == "empty-region":
        return "No face lies in the region."
    why = {
        "would-intersect": "faces would have crossed",
        "would-move-too-far": "the surface would have moved further than allowed",
    }[one.reason]
    if one.numbers["rounds"]:
        return f"They could be more even: {why} in the next round."
    return f"They cannot be evened out: {why}."


def even_out_cost(
    measures: MeshMeasures,
    region: Spots | None = None,
    *,
    faces: Faces | None = None,
    size: float | None = None,
    deviation: float | None = None,
    sharp: float = SHARP,
) -> Estimate:
    """What `even_out` will take and leave.

    Parameters
    ----------
    measures : MeshMeasures
    region : sequence of (x, y, z, radius), optional
    faces : sequence of int, optional
    size : float, optional
    deviation : float, optional
    sharp : float
        As of `even_out`.

    Returns
    -------
    Estimate

    Raises
    ------
    OperationRefused
        If there would be too many triangles.
    """
    return estimate_isotropic_remesh(measures, region, size=size)
