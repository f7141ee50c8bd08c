"""How far two solids are apart, or how much of each is in the other."""

from dataclasses import dataclass

import numpy as np

from ..mesh.arrays import Array
from ..mesh.concatenate import concatenate
from ..mesh.triangle_mesh import Mesh
from ..progress import SILENT, Progress
from ..spatial.box_tree import Tree
from ..spatial.triangle_distance import nearest_faces_of_others
from .boolean import boolean

_FIRST = 1e-3
"""Share of the size within which the nearest faces are looked for at first; twice as far each time
that nothing is found."""
_ON_SKIN = 1e-6
"""Share of the size within which a corner of what is shared lies on a skin."""


@dataclass(frozen=True, eq=False)
class Clearance:
    """How two solids lie to each other.

    Attributes
    ----------
    gap : float
        The least distance of their skins, mm; nothing where they meet.
    ends : ndarray, shape (2, 3)
        Where that is, on the one and on the other.
    shared : float
        Volume of what is in both, mm³.
    depth : float
        How deep a corner of the one, or of where they cross, lies in the other at most, mm.
    deepest : ndarray, shape (3,)
        Where that is.
    """

    gap: float
    ends: Array
    shared: float
    depth: float
    deepest: Array


def clearance(a: Mesh, b: Mesh, *, progress: Progress = SILENT) -> Clearance:
    """Measure the gap between two solids, or what they share.

    Parameters
    ----------
    a, b : Mesh
        Closed.
    progress : Progress

    Returns
    -------
    Clearance

    Raises
    ------
    ValueError
        If one is open, or what they share cannot be worked out.
    Cancelled
        If `progress` asks to stop.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> round(clearance(cuboid(), cuboid(at=(10.25, 2.0, 3.0))).gap, 6)
    0.25
    >>> into = clearance(cuboid(), cuboid(at=(9.0, 2.0, 3.0)))
    >>> into.shared, round(into.depth, 6)
    (56.0, 1.0)
    """
    outcome = boolean(a, b, "intersection", progress=progress.span(0.0, 0.6))
    reasons = {one.reason: one for one in outcome.skipped}
    if reasons.keys() - {"nothing-left", "nothing-changes"}:
        told = next(iter(reasons.values()))
        raise ValueError(str(told.numbers.get("message", "one of them is open")))
    if "nothing-left" not in reasons:
        return _inside(outcome.mesh, a, b)
    progress.step("Looking for the least distance", 0.6)
    both = concatenate([a, b])
    tree = Tree.of(both.vertices, both.faces)
    side = np.repeat([0, 1], [len(a.faces), len(b.faces)])
    reach = _FIRST * both.diagonal
    while True:
        other, spans = nearest_faces_of_others(tree, side, reach)
        found = np.flatnonzero((other >= 0) & (side == 0))
        if len(found):
            gaps = np.linalg.norm(spans[found, 0] - spans[found, 1], axis=1)
            best = int(np.argmin(gaps))
            ends = spans[found[best]]
            return Clearance(float(gaps[best]), ends, 0.0, 0.0, ends[0])
        reach *= 2.0


def _inside(shared: Mesh, a: Mesh, b: Mesh) -> Clearance:
    """Of two that have something in common."""
    corners = shared.vertices[np.unique(shared.faces)]
    away = [Tree.of(one.vertices, one.faces).nearest(corners)[0] for one in (a, b)]
    near = _ON_SKIN * max(a.diagonal, b.diagonal)
    # what lies on the skin of the one is as deep as it is far from that of the other
    deep = np.maximum(np.where(away[0] <= near, away[1], 0), np.where(away[1] <= near, away[0], 0))
    at = int(np.argmax(deep))
    ends = np.stack([corners[at], corners[at]])
    return Clearance(0.0, ends, shared.volume, float(deep[at]), corners[at])
