"""Recasting: rebuilding a region, or the whole, from a voxel field."""

from collections.abc import Sequence

from caulkcore.errors import OperationRefused
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.outcome import Skipped
from caulkcore.progress import SILENT, Progress
from caulkcore.remesh.estimate import Estimate, MeshMeasures
from caulkcore.remesh.restore_detail import estimate_restore_detail
from caulkcore.remesh.restore_detail import restore_detail as restored
from caulkcore.remesh.voxel_remesh import estimate_voxel_remesh, voxel_remesh
from caulkcore.remesh.voxel_remesh_region import (
    estimate_voxel_remesh_region,
    voxel_remesh_region,
)
from caulkcore.spatial.face_region import Spots

from ..operation import OperationResult
from ..text import counted, length_text
from .touch_up import Faces, chosen_faces


def recast(
    mesh: Mesh,
    *,
    detail: float | None = None,
    deviation: float | None = None,
    gap: float = 0.0,
    progress: Progress = SILENT,
) -> OperationResult:
    """Rebuild the whole as one closed skin round what the surface winds round.

    Parameters
    ----------
    mesh : Mesh
    detail : float, optional
        Size of a voxel, mm: what is thinner may be lost. By default half the smallest feature.
    deviation : float, optional
        Distance by which fewer triangles may move the new skin, mm; a twentieth of the detail
        size by default.
    gap : float
        Gaps up to this width are closed, mm; at most ten times the detail size.
    progress : Progress

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If the voxels would be too many, or the gap too wide for them.
    Cancelled
        If `progress` asks to stop.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> recast(cuboid(), detail=1.0).left
    ()
    """
    outcome = voxel_remesh(
        mesh, detail=detail, deviation=deviation, gap_width=gap, progress=progress
    )
    left = tuple(_why(one, "") for one in outcome.skipped)
    if outcome.mesh is mesh:
        return OperationResult(mesh, left=left)
    numbers = outcome.numbers
    done = (
        f"Recast at a detail size of {length_text(numbers['detail_mm'])}: "
        f"{counted(numbers['faces'], 'triangle')} in place of {len(mesh.faces):,}."
    )
    return OperationResult(outcome.mesh, done, numbers, left)


def recast_cost(
    measures: MeshMeasures,
    *,
    detail: float | None = None,
    deviation: float | None = None,
    gap: float = 0.0,
) -> Estimate:
    """What `recast` will take.

    Parameters
    ----------
    measures : MeshMeasures
    detail, deviation : float, optional
    gap : float
        As of `recast`.

    Returns
    -------
    Estimate

    Raises
    ------
    OperationRefused
        If the voxels would be too many, or the gap too wide for them.
    """
    return estimate_voxel_remesh(measures, detail, gap_width=gap)


def recast_zone(
    mesh: Mesh,
    region: Spots | None = None,
    *,
    detail: float | None = None,
    progress: Progress = SILENT,
) -> OperationResult:
    """Rebuild what lies in a box round each picked point, and join it exactly to the rest.

    Parameters
    ----------
    mesh : Mesh
    region : sequence of (x, y, z, radius)
        Spots, mm.
    detail : float, optional
        Size of a voxel, mm; an eightieth of the longest zone by default.
    progress : Progress

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        Without spots, if the voxels would be too many or too few, or if the skin is not closed
        outside the zone or crosses there.
    Cancelled
        If `progress` asks to stop.
    """
    outcome = voxel_remesh_region(mesh, region, detail=detail, progress=progress)
    left = tuple(_why(one, " there") for one in outcome.skipped)
    if outcome.mesh is mesh:
        return OperationResult(mesh, left=left)
    numbers = outcome.numbers
    done = (
        f"{counted(numbers['zones'], 'zone')} recast at a detail size of "
        f"{length_text(numbers['detail_mm'])}; {counted(numbers['faces_rebuilt'], 'face')} "
        "rebuilt, the rest kept."
    )
    return OperationResult(outcome.mesh, done, numbers, left)


def recast_zone_cost(
    measures: MeshMeasures, region: Spots | None = None, *, detail: float | None = None
) -> Estimate:
    """What `recast_zone` will take.

    Parameters
    ----------
    measures : MeshMeasures
    region : sequence of (x, y, z, radius)
    detail : float, optional
        As of `recast_zone`.

    Returns
    -------
    Estimate

    Raises
    ------
    OperationRefused
        Without spots, or if the voxels would be too many or too few.
    """
    return estimate_voxel_remesh_region(measures, region, detail=detail)


def restore_detail(
    mesh: Mesh,
    others: Sequence[Mesh],
    region: Spots | None = None,
    *,
    faces: Faces | None = None,
    reach: float | None = None,
    tolerance: float | None = None,
    progress: Progress = SILENT,
) -> OperationResult:
    """Draw the skin back onto an earlier state of the model, finer where that takes it.

    Parameters
    ----------
    mesh : Mesh
    others : sequence of Mesh
        The earlier state: the first is taken. It may be as broken as it was.
    region : sequence of (x, y, z, radius), optional
        mm; the whole by default.
    faces : sequence of int, or ndarray of bool, optional
        Chosen ones, instead of a region.
    reach : float, optional
        How far the skin is drawn at most, mm; a hundredth of the longest side by default.
    tolerance : float, optional
        How near it is to come, mm; a twentieth of the reach by default.
    progress : Progress

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If there is no earlier state, or no such faces.
    Cancelled
        If `progress` asks to stop.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> back = restore_detail(cuboid(), [cuboid((10.0, 10.0, 10.2))], reach=0.5)
    >>> back.mesh.size.round(3).tolist()
    [10.0, 10.0, 10.2]
    """
    if not others:
        raise OperationRefused("Name the state that the detail is brought back from.")
    outcome = restored(
        mesh,
        others[0],
        region if faces is None else chosen_faces(mesh, faces),
        reach=reach,
        tolerance=tolerance,
        progress=progress,
    )
    left = tuple(_why_not_restored(one) for one in outcome.skipped)
    if outcome.mesh is mesh:
        return OperationResult(mesh, left=left)
    numbers = outcome.numbers
    done = (
        f"Detail brought back: {_hundredths(numbers['within']):g}% lies within "
        f"{length_text(numbers['tolerance_mm'])} of what it was made from, "
        f"{_hundredths(numbers['within_before']):g}% before; "
        f"{counted(numbers['faces_added'], 'triangle')} more."
    )
    return OperationResult(outcome.mesh, done, numbers, left)


def restore_detail_cost(
    measures: MeshMeasures,
    region: Spots | None = None,
    *,
    others: Sequence[Mesh] | None = None,
    faces: Faces | None = None,
    reach: float | None = None,
    tolerance: float | None = None,
) -> Estimate:
    """What `restore_detail` will take.

    Parameters
    ----------
    measures : MeshMeasures
    region : sequence of (x, y, z, radius), optional
    others : sequence of Mesh, optional
    faces : sequence of int, optional
    reach, tolerance : float, optional
        As of `restore_detail`.

    Returns
    -------
    Estimate
    """
    return estimate_restore_detail(measures, region, reach=reach, tolerance=tolerance)


def _hundredths(share: float) -> float:
    """A share in hundredths, rounded down: all of it is said of all only."""
    return int(share * 1e4) / 1e2


def _why_not_restored(one: Skipped) -> str:
    if one.reason == "stays":
        crosses = " crosses itself," if one.numbers["intersecting"] else ""
        return (
            f"{100 - _hundredths(one.numbers['within']):.4g}% is not within that: the model as it "
            f"was{crosses} is open or is out of reach there, or the skin would have crossed itself."
        )
    return {
        "empty-region": "No face lies in the region.",
        "no-original": "The model as it was has nothing there.",
        "within-already": "It is as near to the model as it was already.",
        "too-many-faces": "It could come nearer, with more triangles than there may be.",
    }[one.reason]


def _why(one: Skipped, where: str) -> str:
    if one.reason == "lost":
        far = length_text(one.numbers["lost_mm"])
        return (
            f"{one.numbers['lost_share']:.2%} of the surface{where} has nothing of the new skin "
            f"near it, and ends up to {far} from it: it is open, or thinner than the detail size."
        )
    if one.reason == "not-joined":
        return f"The new skin could not be joined to the rest: {one.numbers['message']}"
    return {
        "no-surface": "There is no surface to recast.",
        "encloses-nothing": "It encloses nothing at this detail size.",
    }[one.reason]
