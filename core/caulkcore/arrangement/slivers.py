"""Slivers: faces of hardly any height, taken out without opening or crossing anything."""

import numpy as np

from ..mesh._corner_kernels import vertex_corners
from ..mesh._face_kernels import least_heights
from ..mesh.arrays import Array
from ..mesh.coordinate_keys import among, point_keys
from ..mesh.triangle_mesh import Mesh
from ..outcome import Outcome
from ..predicates.orientation import faces_have_area
from ..spatial.box_tree import Tree
from ..spatial.intersecting_pairs import intersecting_pairs_of_tree
from . import _sliver_kernels as kernel

SLIVER = 1e-3
"""mm; a face that is less high is a sliver, and no vertex goes farther when it is taken out: below
what any printer resolves."""
SLIVER_SHARE = 1e-5
"""The same as a share of the bounding box's diagonal, whichever is less."""
WITHOUT_AREA = 1e-9
"""A face is without area when its height is below this share of the bounding box's diagonal: far
below what float32 can tell apart there."""
_TRIES = 6
"""Times that what came to cross something is held, and the rest done again."""


def sliver_height(diagonal: float) -> float:
    """Height below which a face is a sliver, mm.

    Parameters
    ----------
    diagonal : float
        Of the bounding box, mm.

    Returns
    -------
    float

    Examples
    --------
    >>> sliver_height(20.0)
    0.0002
    """
    return min(SLIVER, SLIVER_SHARE * diagonal)


def take_out_slivers(mesh: Mesh, chosen: Array, *, source: Mesh | None = None) -> Outcome:
    """Collapse the short edges of slivers and flip the long ones, where that crosses nothing.

    No new point is made: a vertex goes into another, at most `sliver_height` away. The surface
    stays joined as it is; faces that are no slivers keep their direction within 60 degrees.

    Parameters
    ----------
    mesh : Mesh
    chosen : ndarray, shape (m,), bool
        Faces that may be taken out, and where slivers are looked for to begin with.
    source : Mesh, optional
        Its vertices rather stay where two go together.

    Returns
    -------
    Outcome
        Numbers: ``edges_collapsed``, ``edges_flipped``, ``slivers_left`` among the faces chosen
        and those that came in their stead.

    Examples
    --------
    >>> points = [[0, 0, 0], [1, 0, 0], [1, 1e-7, 0], [0, 1, 0], [0, 0, 1]]
    >>> faces = [[1, 0, 2], [2, 0, 3], [0, 1, 4], [1, 2, 4], [2, 3, 4], [3, 0, 4]]
    >>> len(take_out_slivers(Mesh(points, faces), np.ones(6, dtype=bool)).mesh.faces)
    4
    """
    tolerance = sliver_height(mesh.diagonal)
    heights = least_heights(mesh.vertices, mesh.faces)
    chosen = chosen & (heights <= tolerance)
    if not chosen.any():
        return Outcome(mesh, _numbers(0, 0, 0))
    fixed = np.zeros(len(mesh.vertices), dtype=bool)
    if source is not None:
        fixed = among(point_keys(mesh.vertices), point_keys(source.vertices))
    faces, collapsed, flipped = mesh.faces, 0, 0
    # what goes along with a sliver may be what would cross: then what has no area goes alone
    for height in (tolerance, WITHOUT_AREA * mesh.diagonal):
        trying = chosen & (heights <= height)
        if not trying.any():
            break
        taken = _taken_out(Mesh(mesh.vertices, faces), trying, fixed, height)
        if taken is None:
            continue
        there, fresh, one, two = taken
        collapsed, flipped = collapsed + one, flipped + two
        chosen = chosen[there] | (fresh != faces[there]).any(axis=1)
        faces, heights = fresh, least_heights(mesh.vertices, fresh)
    left = chosen & (heights <= tolerance)
    numbers = _numbers(collapsed, flipped, int(left.sum()))
    if not collapsed and not flipped:
        return Outcome(mesh, numbers)
    return Outcome(Mesh(mesh.vertices, faces).compact(), numbers)


def _taken_out(
    mesh: Mesh, chosen: Array, fixed: Array, height: float
) -> tuple[Array, Array, int, int] | None:
    """Which faces are still there, their corners by then, and how many edges were collapsed and
    flipped; None if something crosses whatever is held."""
    n = len(mesh.vertices)
    held = np.zeros(n, dtype=bool)
    for _ in range(_TRIES):
        faces, alive = mesh.faces.copy(), np.ones(len(mesh.faces), np.uint8)
        chains = vertex_corners(faces, n)
        collapsed, flipped = kernel.take_out_slivers(
            mesh.vertices, faces, alive, *chains, fixed, held, np.zeros(n), chosen, height
        )
        there = alive.astype(bool)
        changed = (faces != mesh.faces).any(axis=1)[there]
        result = faces[there]
        met = _crossing(mesh.vertices, result, changed)
        harmed = met[changed[met]]
        known = _crossing_before(mesh, there, harmed) if len(harmed) else harmed
        harmed = np.setdiff1d(harmed, known)
        if not len(harmed):
            return there, result, collapsed, flipped
        # what was changed there is left as it was
        corners = np.concatenate([result[harmed].ravel(), mesh.faces[there][harmed].ravel()])
        held[corners] = True
    return None


def _numbers(collapsed: int, flipped: int, left: int) -> dict[str, int]:
    return {"edges_collapsed": collapsed, "edges_flipped": flipped, "slivers_left": left}


def _crossing_before(mesh: Mesh, there: Array, faces: Array) -> Array:
    """Those of some of the faces left that crossed something before, too."""
    number = np.flatnonzero(there)[faces]
    fresh = np.zeros(len(mesh.faces), dtype=bool)
    fresh[number] = True
    return faces[np.isin(number, _crossing(mesh.vertices, mesh.faces, fresh))]


def _crossing(vertices: Array, faces: Array, fresh: Array) -> Array:
    """Numbers of the faces that meet a fresh one where they should not, or of such fresh ones."""
    tree = Tree.of(vertices, faces)
    flat = ~faces_have_area(tree.vertices, tree.faces)
    return np.unique(intersecting_pairs_of_tree(tree, flat, fresh))
