"""Rebuilding a model from a fine grid: the way out when nothing exact is left to do."""

import numpy as np

from ..arrange import have_area
from ..arrays import frozen
from ..errors import RefusedRemedy
from ..examine.finding import counted, length_text
from ..kernels.tree import Tree
from ..kernels.winding import Winding
from ..mesh import Array, Mesh, face_areas
from ..progress import SILENT, Progress
from ..walls.smallest import smallest_feature
from .contour import contour
from .cost import Cost, Measures
from .crossing import crossing_faces
from .field import Field, Grid
from .orient import turn_outward, turn_patches
from .outcome import Outcome
from .part import part_pinched, split_over_shared
from .reduce import drawn_within, reduce

MOST_GB = 6.0
"""Most memory that a recast may take."""
USUAL_VOXELS, MOST_USUAL = 200, 600
"""From and to as many, if nobody chose a detail size."""
MOST_GAP = 10
_GAP_SHARE = 0.8
_GB = 0.3
_CLOSED_SECONDS, _OPEN_SECONDS = 1.5e-5, 1.3e-4
_FINER = 20.0
_SAMPLES = 200_000
_ROUNDS = 6


def recast(
    mesh: Mesh,
    detail: float | None = None,
    deviation: float | None = None,
    gap: float = 0.0,
    progress: Progress = SILENT,
) -> Outcome:
    """Rebuild the whole as one closed skin round what the surface winds round.

    The surface is cut with the lines of a grid; nodes inside and outside are told apart by how
    often it winds round them, exactly if it is closed and by its winding number (Barill et al.
    2018) if it is not, so that holes get a lid; patches against their neighbours and shells inside
    out are turned before. The contour between them is drawn with the original's sharp edges (see
    `contour`), its points on the planes of the original's faces, and its triangles are made fewer
    within a deviation (see `drawn_within`). Where the new skin would cross itself, its points go
    back to the middle of their voxel's crossings.

    Parameters
    ----------
    mesh : Mesh
    detail : float, optional
        Size of a voxel, mm: what is thinner may be lost. By default `usual_detail`.
    deviation : float, optional
        Distance by which fewer triangles may move the new skin, mm; a twentieth of the detail
        size by default.
    gap : float
        Gaps up to this width are closed, mm; at most `MOST_GAP` voxels.
    progress : Progress

    Raises
    ------
    RefusedRemedy
        If the voxels would be too many, or the gap too wide for them.
    """
    step = detail
    if step is None:
        step = usual_detail(float(mesh.size.max()), smallest_feature(mesh))
    gigabytes(mesh.area, step)
    _check_gap(gap, step)
    turned = turn_outward(turn_patches(mesh).mesh).mesh
    faces = frozen(turned.faces[have_area(turned.vertices, turned.faces)], np.int32)
    if not len(faces):
        return Outcome(mesh, left=("There is no surface to recast.",))
    # with room for a skin round the gaps
    grid = Grid.over(turned, turned.bounds + np.array([[-gap], [gap]]), step)
    progress.step("Cutting the surface with the grid", 0.0)
    found = Field(grid, faces)
    if gap:
        progress.step("Closing gaps", 0.3)
        found.close_gaps(gap / step)
    progress.step("Drawing the new skin", 0.4)
    sharp, mean, new = contour(found.edges, found.inside, grid.shape)
    del found
    if not len(new):
        return Outcome(mesh, left=("It encloses nothing at this detail size.",))
    progress.step("Making its triangles fewer", 0.7)
    moved = step / _FINER if deviation is None else deviation
    result = drawn_within(Mesh(grid.placed(sharp), new), moved)
    if result is None:
        progress.step("Looking for triangles that cross", 0.85)
        result = fewer(without_crossings(grid.placed(sharp), grid.placed(mean), new), moved)
    progress.step("Looking for what was lost", 0.95)
    lost = lost_share(mesh, result, 2 * step)
    done = (
        f"Recast at a detail size of {length_text(step)}: "
        f"{counted(len(result.faces), 'triangle')} in place of {len(mesh.faces):,}."
    )
    told = (
        f"{lost:.2%} of the surface has nothing of the new skin near it: it is open, or thinner "
        "than the detail size."
    )
    counts = {"detail_mm": step, "deviation_mm": moved, "lost_share": lost}
    return Outcome(result, done, counts, (told,) if lost else ())


def without_crossings(sharp: Array, mean: Array, faces: Array) -> Mesh:
    """A contour whose parts touch nowhere.

    Parameters
    ----------
    sharp, mean : ndarray, shape (n, 3)
        Where its points should be, and where they go if faces would cross otherwise.
    faces : ndarray, shape (m, 3)
    """
    skin = Mesh(_uncrossed(sharp, mean, faces), faces)
    # where two parts of the surface share a voxel's face they may share an edge, too
    return part_pinched(split_over_shared(skin).mesh).mesh


def fewer(skin: Mesh, deviation: float) -> Mesh:
    """A contour without crossings with fewer triangles, moved by no more than a deviation, mm."""
    result = drawn_within(skin, deviation)
    return reduce(skin, deviation=deviation).mesh if result is None else result


def lost_share(before: Mesh, after: Mesh, reach: float) -> float:
    """Share of a surface that is neither near another nor inside it.

    Parameters
    ----------
    before, after : Mesh
    reach : float
        What counts as near, mm.
    """
    areas = face_areas(before.vertices, before.faces)
    some = np.unique(np.linspace(0, len(areas) - 1, min(len(areas), _SAMPLES)).astype(int))
    middles = before.vertices[before.faces[some]].mean(axis=1)
    distance, _ = Tree.of(after.vertices, after.faces).nearest(middles)
    far = np.flatnonzero(distance > reach)
    if not len(far):
        return 0.0
    lost = far[Winding(after.vertices, after.faces).at(middles[far]) < 0.5]
    return float(areas[some[lost]].sum() / areas[some].sum())


def _check_gap(gap: float, step: float) -> None:
    """Refuse gaps that are wide for the detail size.

    Raises
    ------
    RefusedRemedy
    """
    if gap > MOST_GAP * step:
        raise RefusedRemedy(
            f"A gap to close can be {MOST_GAP} times the detail size at most, "
            f"{length_text(MOST_GAP * step)} here."
        )


def cost(
    measures: Measures,
    detail: float | None = None,
    deviation: float | None = None,
    gap: float = 0.0,
) -> Cost:
    """What `recast` will take; that goes with the grid lines that cross the surface."""
    step = usual_detail(measures.longest, measures.smallest) if detail is None else detail
    _check_gap(gap, step)
    takes = seconds(measures.area, step, measures.closed) * (1.0 + _GAP_SHARE * gap / step)
    return Cost(takes, gigabytes(measures.area, step), detail=step)


def usual_detail(longest: float, smallest: float | None) -> float:
    """Half the smallest feature, but from a 600th to a 200th of the longest side, mm."""
    step = longest / USUAL_VOXELS
    if smallest is not None:
        step = max(min(step, smallest / 2), longest / MOST_USUAL)
    return step


def seconds(area: float, step: float, closed: bool) -> float:
    """About how long a recast takes."""
    # round an open surface each node's winding number is worked out
    return (_CLOSED_SECONDS if closed else _OPEN_SECONDS) * area / step**2


def gigabytes(area: float, step: float) -> float:
    """About how much memory a recast takes.

    Raises
    ------
    RefusedRemedy
        If that is too much.
    """
    takes = _GB + 0.85e-6 * area / step**2
    if takes > MOST_GB:
        least = step * np.sqrt((takes - _GB) / (MOST_GB - _GB))
        raise RefusedRemedy(
            f"A detail size of {length_text(step)} would take more than {MOST_GB:g} GB; "
            f"{length_text(float(least))} is about the least for this model."
        )
    return takes


def _uncrossed(sharp: Array, mean: Array, faces: Array) -> Array:
    """The sharp points, or the mean ones where faces would cross between sharp ones."""
    vertices = sharp
    touched = np.ones(len(faces), dtype=bool)
    for _ in range(_ROUNDS):
        pairs = crossing_faces(vertices, faces, None if touched.all() else touched)
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
