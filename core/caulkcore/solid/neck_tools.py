"""Necks of material made thick enough, or the two parts that they join set apart."""

from dataclasses import dataclass

import manifold3d
import numpy as np

from ..arrangement.arrange import ArrangementFailed
from ..arrangement.outer_hull import outer_hull
from ..diagnose.diagnosis import Diagnosis
from ..mesh.arrays import Array
from ..mesh.concatenate import concatenate
from ..mesh.simple_solids import loft
from ..mesh.triangle_mesh import Mesh
from ..outcome import Outcome, Skipped
from ..spatial.box_tree import Tree

_ROUND = 48
"""Sides of a round collar."""
_POINT = 0.25
"""A neck is at one point if its balls lie within this share of its goal; else it is a line."""
_STRAIGHT = 0.25
"""A line is straight if no ball is farther off than this share of the goal."""
_SPARE = 1.01
"""A collar is so many times as thick as asked, so that it measures no less."""
_ROOM = 1.15
"""A collar ends where a ball of so many times its thickness has room."""
_FARTHEST = 8.0
"""Farthest that it may reach into a part, of its thickness."""
_LOOKS = 80
"""Places along the way where that is asked."""
_MARGIN = 0.1
"""Share of the gap by which what is cut out reaches beyond the material there."""
_SLACK = 1e-5
"""Share of the volume cut out from which on material apart from the neck's counts: less is crumbs
of rounding."""


@dataclass(frozen=True, eq=False)
class NeckFrame:
    """Where a neck is, and which way it runs.

    Attributes
    ----------
    middles : ndarray, shape (p, 3)
        Of its balls; several where it goes on along a crease.
    axis : ndarray, shape (3,)
        From one part to the other, a unit vector.
    ends : ndarray, shape (e, 3)
        Vertices of its crease.
    """

    middles: Array
    axis: Array
    ends: Array

    @property
    def middle(self) -> Array:
        """Middle of them all, shape (3,)."""
        mean: Array = self.middles.mean(axis=0)
        return mean

    def _frame(self, goal: float) -> "_Frame":
        """Directions at the neck, seen at the size of a goal, mm."""
        off = self.middles - self.middle
        point = float(np.linalg.norm(off, axis=1).max()) <= _POINT * goal
        line = np.eye(3)[np.abs(self.axis).argmin()] if point else np.linalg.svd(off)[2][0]
        # along a crease the way leads square to it
        axis = self.axis if point else self.axis - (self.axis @ line) * line
        axis = axis / np.linalg.norm(axis)
        line = line - (line @ axis) * axis
        line /= np.linalg.norm(line)
        return _Frame(point, self.middle, axis, line, np.cross(axis, line))


@dataclass(frozen=True, eq=False)
class _Frame:
    """Unit vectors at a neck: the way through, along its crease, and square to both."""

    point: bool
    middle: Array
    axis: Array
    line: Array
    side: Array


def thicken_neck(mesh: Mesh, neck: NeckFrame, goal: float) -> Outcome:
    """Put a collar round a neck, so that a ball of the goal's size can travel through.

    A round one at a point; along a straight crease a bar as long as the crease. It ends inside the
    parts, where they are thicker than the collar. Only faces that it crosses are divided.

    Parameters
    ----------
    mesh : Mesh
        Closed and free of intersections.
    neck : NeckFrame
    goal : float
        mm.

    Returns
    -------
    Outcome
        Skipped: ``no-room`` where a part is too thin to hold the collar; ``not-straight`` along a
        crease that bends; ``not-arranged`` with a ``message``.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> two = outer_hull(concatenate([cuboid(), cuboid(at=(9.9, 9.9, 0.0))])).mesh
    >>> middles = np.array([[9.95, 9.95, z] for z in (1.0, 5.0, 9.0)])
    >>> ends = np.array([[9.9, 10.0, 0.0], [9.9, 10.0, 10.0]])
    >>> axis = np.array([1.0, 1.0, 0.0]) / np.sqrt(2)
    >>> thicken_neck(two, NeckFrame(middles, axis, ends), 1.0).mesh.volume > two.volume
    True
    """
    size = _SPARE * goal
    frame = neck._frame(goal)
    off = neck.middles - frame.middle
    if not frame.point and np.abs(off @ frame.side).max() > _STRAIGHT * goal:
        return Outcome(mesh, skipped=(Skipped("not-straight"),))
    tree = Tree.of(mesh.vertices, mesh.faces)
    back = _way_in(tree, frame.middle, -frame.axis, size)
    ahead = _way_in(tree, frame.middle, frame.axis, size)
    if back is None or ahead is None:
        return Outcome(mesh, skipped=(Skipped("no-room"),))
    if frame.point:
        angle = 2 * np.pi * np.arange(_ROUND) / _ROUND
        radius = 0.5 * size / np.cos(np.pi / _ROUND)
        ring = radius * (np.outer(np.cos(angle), frame.line) + np.outer(np.sin(angle), frame.side))
    else:
        along = (neck.ends - frame.middle) @ frame.line
        low, high = float(along.min()), float(along.max())
        corners = [(low, -0.5), (high, -0.5), (high, 0.5), (low, 0.5)]
        ring = np.array([u * frame.line + v * size * frame.side for u, v in corners])
    tool = _prism(frame.middle + ring, -back * frame.axis, ahead * frame.axis)
    return _arranged(mesh, tool)


def separate_at_neck(mesh: Mesh, neck: NeckFrame, gap: float) -> Outcome:
    """Take out the material of a neck, so that the two parts are a gap apart.

    What lies within half the gap of the neck's plane is taken out, as far as it hangs together
    with the neck; nothing else of the solid.

    Parameters
    ----------
    mesh : Mesh
        Closed and free of intersections.
    neck : NeckFrame
    gap : float
        Width of the gap, mm.

    Returns
    -------
    Outcome
        Numbers: ``removed_mm3``. Skipped: ``not-solid``; ``beside`` where other material lies
        beside the neck; ``joined-elsewhere`` where the parts hang together elsewhere, too;
        ``not-arranged`` with a ``message``.
    """
    solid = _manifold(mesh)
    if solid.status() != manifold3d.Error.NoError:
        return Outcome(mesh, skipped=(Skipped("not-solid"),))
    frame = neck._frame(gap)
    at = float(frame.axis @ frame.middle)
    slab = solid.trim_by_plane(frame.axis, at - 0.5 * gap)
    slab = slab.trim_by_plane(-frame.axis, -at - 0.5 * gap)
    pieces = [(_distance(piece, frame.middle), piece) for piece in slab.decompose()]
    if not pieces:
        return Outcome(mesh, skipped=(Skipped("not-solid"),))
    _, piece = min(pieces, key=lambda one: one[0])
    off = np.asarray(piece.to_mesh64().vert_properties)[:, :3] - frame.middle
    margin = _MARGIN * gap
    along = (float((off @ frame.line).min()) - margin, float((off @ frame.line).max()) + margin)
    beside = (float((off @ frame.side).min()) - margin, float((off @ frame.side).max()) + margin)
    tool = _box(frame, along, beside, gap)
    volumes = [part.volume() for part in (solid ^ _manifold(tool)).decompose()]
    removed = sum(volumes)
    if removed - max(volumes, default=0.0) > _SLACK * removed:
        return Outcome(mesh, skipped=(Skipped("beside"),))
    cut = _arranged(mesh, Mesh(tool.vertices, tool.faces[:, ::-1]))
    if cut.mesh is mesh:
        return cut
    if Diagnosis(cut.mesh).shells[1] <= Diagnosis(mesh).shells[1]:
        return Outcome(mesh, skipped=(Skipped("joined-elsewhere"),))
    return Outcome(cut.mesh, {"removed_mm3": removed})


def _way_in(tree: Tree, start: Array, axis: Array, size: float) -> float | None:
    """How far a collar has to reach into a part, until it is buried; None if it never is."""
    steps = np.linspace(0.0, _FARTHEST * size, _LOOKS)[1:]
    away, _ = tree.nearest(start + steps[:, None] * axis)
    room = away >= 0.5 * _ROOM * size
    return float(steps[np.argmax(room)]) if room.any() else None


def _prism(ring: Array, back: Array, ahead: Array) -> Mesh:
    """A prism on a convex ring of points, its corners on float32."""
    prism = loft(np.stack([ring + back, ring + ahead]))
    return prism if prism.volume > 0 else Mesh(prism.vertices, prism.faces[:, ::-1])


def _box(
    frame: _Frame, along: tuple[float, float], beside: tuple[float, float], gap: float
) -> Mesh:
    corners = [
        (along[0], beside[0]), (along[1], beside[0]), (along[1], beside[1]), (along[0], beside[1]),
    ]  # fmt: skip
    ring = frame.middle + np.array([u * frame.line + v * frame.side for u, v in corners])
    return _prism(ring, -0.5 * gap * frame.axis, 0.5 * gap * frame.axis)


def _manifold(mesh: Mesh) -> manifold3d.Manifold:
    return manifold3d.Manifold(
        manifold3d.Mesh64(
            np.array(mesh.vertices, np.float64, order="C"),
            np.array(mesh.faces, np.uint64, order="C"),
        )
    )


def _distance(piece: manifold3d.Manifold, point: Array) -> float:
    """How far a piece is from a point; less than none inside."""
    made = piece.to_mesh64()
    vertices = np.asarray(made.vert_properties)[:, :3]
    away, _ = Tree.of(vertices, np.asarray(made.tri_verts).astype(np.int32)).nearest(point[None])
    low, high = vertices.min(axis=0), vertices.max(axis=0)
    within = bool(((point >= low) & (point <= high)).all())
    return -float(away[0]) if within else float(away[0])


def _arranged(mesh: Mesh, tool: Mesh) -> Outcome:
    try:
        hull = outer_hull(concatenate([mesh, tool]))
    except ArrangementFailed as problem:
        return Outcome(mesh, skipped=(Skipped("not-arranged", {"message": str(problem)}),))
    return Outcome(hull.mesh)
