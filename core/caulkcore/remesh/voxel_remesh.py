"""Rebuilding a model from voxels: the way out when nothing exact is left to do."""

import numpy as np

from ..diagnose.diagnosis import Diagnosis
from ..diagnose.intersections import intersecting_faces
from ..errors import OperationRefused
from ..mesh.arrays import Array, frozen
from ..mesh.triangle_mesh import Mesh
from ..outcome import Outcome, Skipped
from ..predicates.orientation import faces_have_area
from ..progress import SILENT, Progress
from ..repair.nonmanifold import split_nonmanifold_edges, split_nonmanifold_vertices
from ..repair.orient import facing_outward
from ..thickness.smallest_feature import smallest_feature
from .decimate import decimate, decimate_within
from .dual_contouring import dual_contour
from .estimate import Estimate, MeshMeasures
from .lost_surface import lost_surface
from .occupancy import Grid, Occupancy

MOST_GB = 6.0
"""Most memory that a remesh may take, GB."""
USUAL_VOXELS, MOST_USUAL_VOXELS = 200, 600
"""From and to as many along the longest side, if nobody chose a voxel size."""
MOST_GAP_VOXELS = 10
"""Widest gap that is closed, in voxels: the time grows with it."""
_GAP_SHARE = 0.8
"""By how much longer it takes for each voxel of the gap."""
_GB = 0.3
"""Memory that the process takes anyway, GB."""
_GB_PER_CROSSING = 0.85e-6
"""Memory for each grid line that crosses the surface, GB."""
_GAP_GB_SHARE = 0.07
"""By how much more of it for each voxel of the gap."""
_CLOSED_SECONDS, _OPEN_SECONDS = 1.5e-5, 1.3e-4
"""Time for each grid line that crosses the surface; round an open one each node's winding number is
worked out."""
DECIMATED_SHARE = 20.0
"""Triangles are made fewer within a deviation of the voxel size by this, unless told otherwise."""
LOST_STEPS = 2.0
"""Voxels beyond which something counts as lost: the new surface is drawn within one."""
_ROUNDS = 6
"""Times that points of faces that intersect are put back to the middle of their voxel's
crossings."""


def voxel_remesh(
    mesh: Mesh,
    *,
    detail: float | None = None,
    deviation: float | None = None,
    gap_width: float = 0.0,
    progress: Progress = SILENT,
) -> Outcome:
    """Rebuild the whole as one closed surface round what the mesh winds round.

    The mesh is cut with the lines of a grid; nodes inside and outside are told apart by how often
    it winds round them, exactly if it is closed and by its generalised winding number if it is
    not, so that holes get a lid; patches against their neighbours and shells inside out are
    reversed before. The contour between them is drawn with the original's sharp edges (see
    `dual_contour`), its points on the planes of the original's faces, and its triangles are made
    fewer within a deviation (see `decimate_within`). Where the new surface would intersect itself,
    its points go back to the middle of their voxel's crossings.

    Parameters
    ----------
    mesh : Mesh
    detail : float, optional
        Size of a voxel, mm: what is thinner may be lost. By default `usual_detail`.
    deviation : float, optional
        Distance by which fewer triangles may move the new surface, mm; a twentieth of the voxel
        size by default.
    gap_width : float
        Gaps up to this width are closed, mm; at most `MOST_GAP_VOXELS` voxels.
    progress : Progress

    Returns
    -------
    Outcome
        Numbers: ``detail_mm``, ``deviation_mm``, ``faces``; of what has nothing of the new
        surface within `LOST_STEPS` voxels, ``lost_share`` of the original's area and ``lost_mm``,
        how far its farthest point is from the new surface. Skipped: ``no-surface``;
        ``encloses-nothing``; ``lost`` with the same two numbers.

    Raises
    ------
    OperationRefused
        If the voxels would be too many, or the gap too wide for them.
    Cancelled
        If `progress` asks to stop.

    References
    ----------
    Barill et al. 2018, *Fast winding numbers for soups and clouds*; Ju et al. 2002, *Dual
    contouring of Hermite data*.
    """
    step = detail
    if step is None:
        step = usual_detail(float(mesh.size.max()), smallest_feature(mesh))
    estimated_gigabytes(mesh.area, step, gap_width)
    _check_gap(gap_width, step)
    oriented = facing_outward(mesh)
    faces = frozen(oriented.faces[faces_have_area(oriented.vertices, oriented.faces)], np.int32)
    if not len(faces):
        return Outcome(mesh, skipped=(Skipped("no-surface"),))
    # with room for a surface round the gaps
    grid = Grid.over(oriented, oriented.bounds + np.array([[-gap_width], [gap_width]]), step)
    progress.step("Cutting the surface with the grid", 0.0)
    occupancy = Occupancy(grid, faces)
    if gap_width:
        progress.step("Closing gaps", 0.3)
        occupancy.close_gaps(gap_width / step)
    progress.step("Drawing the new skin", 0.4)
    sharp, mean, new = dual_contour(occupancy.edges, occupancy.inside, grid.shape)
    del occupancy
    if not len(new):
        return Outcome(mesh, skipped=(Skipped("encloses-nothing"),))
    progress.step("Making its triangles fewer", 0.7)
    allowed = step / DECIMATED_SHARE if deviation is None else deviation
    result = decimate_within(Mesh(grid.placed(sharp), new), allowed)
    if result is None:
        progress.step("Looking for triangles that cross", 0.85)
        untangled = without_intersections(grid.placed(sharp), grid.placed(mean), new)
        result = decimated(untangled, allowed)
    progress.step("Looking for what was lost", 0.95)
    lost = lost_surface(mesh, result, LOST_STEPS * step, progress=progress.span(0.95, 1.0))
    numbers = {
        "detail_mm": step,
        "deviation_mm": allowed,
        "faces": len(result.faces),
        **lost.numbers,
    }
    return Outcome(result, numbers, (Skipped("lost", lost.numbers),) if lost.reach.high else ())


def without_intersections(sharp: Array, mean: Array, faces: Array) -> Mesh:
    """A contour none of whose faces intersect, and whose parts touch nowhere.

    Parameters
    ----------
    sharp, mean : ndarray, shape (n, 3)
        Where its points should be, and where they go if faces would intersect otherwise.
    faces : ndarray, shape (m, 3)

    Returns
    -------
    Mesh
    """
    surface = Mesh(_moved_back(sharp, mean, faces), faces)
    # where two parts of the surface share a voxel's face they may share an edge, too
    return separated(surface)


def separated(mesh: Mesh) -> Mesh:
    """A mesh whose non-manifold edges and vertices are split.

    Parameters
    ----------
    mesh : Mesh

    Returns
    -------
    Mesh
    """
    edges_split = split_nonmanifold_edges(Diagnosis(mesh)).mesh
    return split_nonmanifold_vertices(Diagnosis(edges_split)).mesh


def decimated(mesh: Mesh, deviation: float) -> Mesh:
    """A contour without intersections with fewer triangles.

    Parameters
    ----------
    mesh : Mesh
    deviation : float
        By no more than this it may move, mm.

    Returns
    -------
    Mesh
    """
    result = decimate_within(mesh, deviation)
    return decimate(mesh, max_deviation=deviation).mesh if result is None else result


def _check_gap(gap_width: float, step: float) -> None:
    """Refuse gaps that are wide for the voxel size.

    Raises
    ------
    OperationRefused
    """
    if gap_width > MOST_GAP_VOXELS * step:
        raise OperationRefused(
            f"A gap to close can be {MOST_GAP_VOXELS} times the detail size at most, "
            f"{MOST_GAP_VOXELS * step:.3g} mm here."
        )


def estimate_voxel_remesh(
    measures: MeshMeasures, detail: float | None = None, *, gap_width: float = 0.0
) -> Estimate:
    """What `voxel_remesh` will take; that goes with the grid lines that cross the surface.

    Parameters
    ----------
    measures : MeshMeasures
    detail : float, optional
        Size of a voxel, mm; `usual_detail` by default.
    gap_width : float
        Gaps up to this width are closed, mm.

    Returns
    -------
    Estimate

    Raises
    ------
    OperationRefused
        If the voxels would be too many, or the gap too wide for them.
    """
    step = usual_detail(measures.longest, measures.smallest) if detail is None else detail
    _check_gap(gap_width, step)
    seconds = estimated_seconds(measures.area, step, measures.closed)
    seconds *= 1.0 + _GAP_SHARE * gap_width / step
    return Estimate(seconds, estimated_gigabytes(measures.area, step, gap_width), detail=step)


def usual_detail(longest: float, smallest: float | None) -> float:
    """Half the smallest feature, but from a 600th to a 200th of the longest side.

    Parameters
    ----------
    longest : float
        Longest side of the mesh, mm.
    smallest : float or None
        Its smallest feature, mm, if known.

    Returns
    -------
    float
        Size of a voxel, mm.

    Examples
    --------
    >>> usual_detail(120.0, 0.8)
    0.4
    """
    step = longest / USUAL_VOXELS
    if smallest is not None:
        step = max(min(step, smallest / 2), longest / MOST_USUAL_VOXELS)
    return step


def estimated_seconds(area: float, step: float, closed: bool) -> float:
    """About how long a remesh takes on two cores.

    Parameters
    ----------
    area : float
        Of the surface, mm².
    step : float
        Size of a voxel, mm.
    closed : bool
        Whether the surface is.

    Returns
    -------
    float
    """
    return (_CLOSED_SECONDS if closed else _OPEN_SECONDS) * area / step**2


def estimated_gigabytes(area: float, step: float, gap_width: float = 0.0) -> float:
    """About how much memory a remesh takes.

    Parameters
    ----------
    area : float
        Of the surface, mm².
    step : float
        Size of a voxel, mm.
    gap_width : float
        Gaps up to this width are closed, mm.

    Returns
    -------
    float

    Raises
    ------
    OperationRefused
        If that is too much.
    """
    takes = _GB + _GB_PER_CROSSING * area / step**2 * (1.0 + _GAP_GB_SHARE * gap_width / step)
    if takes > MOST_GB:
        least = step * np.sqrt((takes - _GB) / (MOST_GB - _GB))
        raise OperationRefused(
            f"A detail size of {step:.3g} mm would take more than {MOST_GB:g} GB; "
            f"{float(least):.3g} mm is about the least for this model."
        )
    return takes


def _moved_back(sharp: Array, mean: Array, faces: Array) -> Array:
    """The sharp points, or the mean ones where faces would cross between sharp ones."""
    vertices = sharp
    touched = np.ones(len(faces), dtype=bool)
    for _ in range(_ROUNDS):
        pairs = intersecting_faces(vertices, faces, None if touched.all() else touched)
        if not len(pairs):
            break
        back = np.unique(faces[np.unique(pairs)])
        if (vertices[back] == mean[back]).all():
            break
        vertices = vertices.copy()
        vertices[back] = mean[back]
        moved = np.zeros(len(vertices), dtype=bool)
        moved[back] = True
        touched = moved[faces].any(axis=1)
    return vertices
