"""How far two solids are apart, or how much of each is in the other."""

from dataclasses import dataclass

import numpy as np

from ..mesh.arrays import Array
from ..mesh.concatenate import concatenate
from ..mesh.triangle_mesh import Mesh
from ..progress import SILENT, Progress
from ..spatial.box_tree import Tree
from ..spatial.triangle_distance import nearest_faces_of_others
from ..thickness.ball_and_ray import measure_ball_and_ray
from ..thickness.sampling import Samples
from .boolean import boolean

_FIRST = 1e-3
"""Share of the size within which the nearest faces are looked for at first; twice as far each time
that nothing is found."""
_SPACING = 0.01
"""Points all round a gap are so far apart, as a share of the smaller solid's diagonal."""
_ON_SKIN = 1e-6
"""Share of the size within which a corner of what is shared lies on a skin."""


@dataclass(frozen=True, eq=False)
class Facing:
    """The gap between two solids where their skins face each other, at points all over it.

    Attributes
    ----------
    area : float
        Of the skin of the smaller one that has the other before it, mm².
    mean, most : float
        Of the distances to the other one, mm.
    widest : ndarray, shape (3,)
        Where it is widest.
    spacing : float
        About how far the points are from one another on large faces, mm.
    """

    area: float
    mean: float
    most: float
    widest: Array
    spacing: float


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
    facing : Facing or None
        The gap all round; None where they meet, or face each other nowhere.
    """

    gap: float
    ends: Array
    shared: float
    depth: float
    deepest: Array
    facing: Facing | None = None


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
    >>> beside = clearance(cuboid(), cuboid(at=(10.25, 2.0, 3.0)))
    >>> round(beside.gap, 6), round(beside.facing.most, 6)
    (0.25, 0.25)
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
            progress.step("Measuring all round", 0.8)
            facing = _facing(a, b) if a.size.prod() <= b.size.prod() else _facing(b, a)
            return Clearance(float(gaps[best]), ends, 0.0, 0.0, ends[0], facing)
        reach *= 2.0


def _facing(inner: Mesh, outer: Mesh) -> Facing | None:
    """The gap where the skin of the one has the other straight before it, and that looks back."""
    samples = Samples.of(inner, inner.diagonal * _SPACING)
    both = concatenate([inner, outer])
    seen = measure_ball_and_ray(
        # the air between them is what is measured
        Tree.of(both.vertices, both.faces[:, ::-1]),
        samples.points,
        -samples.normals,
        samples.face,
        both.diagonal,
    )
    faces = np.flatnonzero(seen.facing & (seen.contact >= len(inner.faces)))
    if not len(faces):
        return None
    gaps, _ = Tree.of(outer.vertices, outer.faces).nearest(samples.points[faces])
    area = samples.area[faces]
    widest = int(np.argmax(gaps))
    return Facing(
        float(area.sum()),
        float(np.average(gaps, weights=area)),
        float(gaps[widest]),
        samples.points[faces[widest]],
        samples.spacing,
    )


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
