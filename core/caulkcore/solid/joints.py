"""Joints across a flat cut: pegs and their sockets, pins, pockets for magnets, holes for screws."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..arrangement.arrange import ArrangementFailed
from ..mesh.arrays import Array
from ..mesh.concatenate import concatenate
from ..mesh.simple_solids import loft
from ..mesh.triangle_mesh import Mesh
from ..progress import SILENT, Progress
from .boolean import Boolean, boolean

Shape = Literal["round", "square", "keyed", "magnet", "screw"]
"""A peg that is round, square, or flattened on one side so that it goes in one way only; a pocket
for a round magnet in both parts; a hole for a screw."""

ROUND = 64
"""Sides of what is round: its flats are within 0.13 % of the circle's radius."""
_FLAT = 0.55
"""Where the flat of a keyed peg stands, of its radius from the middle."""
_CHAMFER = np.radians(24.0)
"""What the sides beside the flat span of the circle, radians."""
_ROOT = 0.25
"""How deep a peg is rooted in its own part, of its width."""
_THREAD = 0.8
"""Width of the hole that a screw cuts its thread in, of the screw's."""
_HEAD = 2.0
"""Width of the seat of a screw's head, of the screw's."""
_OVER = 0.25
"""By what share of its depth a hole begins beyond the plane, so that it has no face in it."""


@dataclass(frozen=True, eq=False)
class CutFrame:
    """The plane of a cut, with directions in it.

    Attributes
    ----------
    normal : ndarray, shape (3,)
        A unit vector, from the first part to the second.
    along : ndarray, shape (3,)
        A unit vector in the plane, which flats and squares are turned to.
    """

    normal: Array
    along: Array

    @property
    def across(self) -> Array:
        """The other direction in the plane, shape (3,)."""
        return np.cross(self.normal, self.along)

    def placed(self, at: Array, flat: Array, height: float) -> Array:
        """Points of the plane, x and y from a point, at some height over it; shape (k, 3).

        Parameters
        ----------
        at : ndarray, shape (3,)
        flat : ndarray, shape (k, 2)
        height : float
            mm.

        Returns
        -------
        ndarray, shape (k, 3)
        """
        points: Array = at + flat @ np.stack([self.along, self.across]) + height * self.normal
        return points


@dataclass(frozen=True, eq=False)
class Joint:
    """One joint across a cut; lengths in mm.

    Attributes
    ----------
    shape : Shape
    at : ndarray, shape (3,)
        On the plane.
    width : float
        Of a peg at its foot, of a magnet, of a screw's thread.
    length : float
        Of a peg, of a magnet; of a screw in each of the parts.
    taper : float
        By how much a peg's sides lean inward, degrees.
    clearance : float
        Between the peg and its socket, on each side and at its end.
    loose : bool
        Whether the peg is a pin of its own, with a socket in both parts.
    """

    shape: Shape
    at: Array
    width: float
    length: float
    taper: float
    clearance: float
    loose: bool = False

    @property
    def reach(self) -> tuple[float, float]:
        """How far it goes into the first part and into the second, mm."""
        deep = self.length + (0.0 if self.shape == "screw" else self.clearance)
        both = self.loose or self.shape in ("magnet", "screw")
        return (deep if both else _ROOT * self.width), deep

    @property
    def radius(self) -> float:
        """Of a cylinder round its peg and socket, mm."""
        widest = np.linalg.norm(_grown(self._profile(), self._aside), axis=1).max()
        return float(widest)

    @property
    def narrow(self) -> float:
        """By how much more its sides could lean inward until one of them is gone, mm."""
        ring = self._profile()
        side = np.roll(ring, -1, axis=0) - ring
        length = np.linalg.norm(side, axis=1)
        way = side / length[:, None]
        bend = np.arccos(np.clip((way * np.roll(way, 1, axis=0)).sum(axis=1), -1.0, 1.0))
        shrinks = np.tan(bend / 2) + np.tan(np.roll(bend, -1) / 2)
        return float((length / shrinks).min()) - self._lean

    @property
    def _lean(self) -> float:
        return float(self.length * np.tan(np.radians(self.taper)))

    @property
    def _aside(self) -> float:
        """How much wider a socket is on each side, in the plane, mm."""
        return float(self.clearance / np.cos(np.radians(self.taper)))

    def _profile(self) -> Array:
        """Its outline in the plane, counter-clockwise, shape (k, 2)."""
        radius = 0.5 * self.width
        if self.shape == "square":
            return radius * np.array([[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0]])
        angle = 2 * np.pi * np.arange(ROUND) / ROUND
        if self.shape == "keyed":
            # between the flat and the arc a side of some length, so that they may lean inward
            start = np.arccos(_FLAT)
            arc = np.linspace(start + _CHAMFER, 2 * np.pi - start - _CHAMFER, ROUND - 2)
            angle = np.concatenate([[start], arc, [-start]])
        return radius * np.stack([np.cos(angle), np.sin(angle)], axis=1)


@dataclass(frozen=True, eq=False)
class JointSolids:
    """What joints make of the two parts of a cut.

    Attributes
    ----------
    first_gains, first_loses, second_loses : list of Mesh
        Solids that touch one another nowhere.
    pins : list of Mesh
        At their places across the cut.
    """

    first_gains: list[Mesh]
    first_loses: list[Mesh]
    second_loses: list[Mesh]
    pins: list[Mesh]


def joint_solids(joints: Sequence[Joint], frame: CutFrame, height: float) -> JointSolids:
    """The solids that make joints of two parts that lie where they were cut.

    Parameters
    ----------
    joints : sequence of Joint
    frame : CutFrame
    height : float
        Of the second part over the plane, mm: how far a screw has to be reached.

    Returns
    -------
    JointSolids

    Examples
    --------
    >>> frame = CutFrame(np.array([0.0, 0.0, 1.0]), np.array([1.0, 0.0, 0.0]))
    >>> peg = Joint("square", np.zeros(3), 4.0, 5.0, 0.0, 0.25)
    >>> solids = joint_solids([peg], frame, 10.0)
    >>> round(solids.first_gains[0].volume, 4), len(solids.second_loses)
    (96.0, 1)
    """
    made = JointSolids([], [], [], [])
    for one in joints:
        if one.shape == "screw":
            made.first_loses.append(_hole(one, frame, _THREAD, -one.length, one.length * _OVER))
            made.second_loses.append(_screw_way(one, frame, height))
            continue
        made.second_loses.append(_socket(one, frame, 1.0))
        if one.shape == "magnet" or one.loose:
            made.first_loses.append(_socket(one, frame, -1.0))
        if one.shape == "magnet":
            continue
        if one.loose:
            made.pins.append(_peg(one, frame, [-one.length, 0.0, one.length]))
        else:
            made.first_gains.append(_peg(one, frame, [-_ROOT * one.width, 0.0, one.length]))
    return made


def with_joints(
    below: Mesh, above: Mesh, solids: JointSolids, *, progress: Progress = SILENT
) -> tuple[Mesh, Mesh]:
    """The two parts of a cut with their joints.

    Parameters
    ----------
    below, above : Mesh
        As `caulkcore.solid.plane_cut` gives them.
    solids : JointSolids
    progress : Progress

    Returns
    -------
    below, above : Mesh

    Raises
    ------
    ArrangementFailed
        If a part cannot be combined with a joint; see `caulkcore.solid.boolean`.
    Cancelled
        If `progress` asks to stop.
    """
    first = _combined(below, solids.first_gains, "union", progress.span(0.0, 0.4))
    return (
        _combined(first, solids.first_loses, "difference", progress.span(0.4, 0.6)),
        _combined(above, solids.second_loses, "difference", progress.span(0.6, 1.0)),
    )


def _combined(part: Mesh, tools: list[Mesh], what: Boolean, progress: Progress) -> Mesh:
    if not tools:
        return part
    outcome = boolean(part, concatenate(tools), what, progress=progress)
    for skipped in outcome.skipped:
        if skipped.reason != "nothing-changes":
            raise ArrangementFailed(str(skipped.numbers.get("message", skipped.reason)))
    return outcome.mesh


def _peg(joint: Joint, frame: CutFrame, heights: list[float]) -> Mesh:
    """A peg between some heights, leaning inward on the second part's side, and on both if loose.

    A root stands straight.
    """
    lean = np.tan(np.radians(joint.taper))
    flat = joint._profile()
    inward = [abs(h) * lean if h > 0 or joint.loose else 0.0 for h in heights]
    rings = [
        frame.placed(joint.at, _grown(flat, -by), h) for h, by in zip(heights, inward, strict=True)
    ]
    return loft(np.stack(rings))


def _socket(joint: Joint, frame: CutFrame, side: float) -> Mesh:
    """What a peg's place takes off the part on one side, 1 or -1, a clearance wider and deeper."""
    lean = np.tan(np.radians(joint.taper))
    aside, deep = joint._aside, joint.length + joint.clearance
    flat = joint._profile()
    rings = [
        frame.placed(joint.at, _grown(flat, by), side * h)
        for h, by in ((-_OVER * deep, aside), (0.0, aside), (deep, aside - deep * lean))
    ]
    return loft(np.stack(rings[:: int(side)]))


def _hole(joint: Joint, frame: CutFrame, share: float, low: float, high: float) -> Mesh:
    """A straight hole of some share of the width, between two heights."""
    flat = share * joint._profile()
    return loft(np.stack([frame.placed(joint.at, flat, h) for h in (low, high)]))


def _screw_way(joint: Joint, frame: CutFrame, height: float) -> Mesh:
    """The way of a screw through the second part, with a seat for its head a length above."""
    flat = joint._profile()
    narrow, wide = _grown(flat, joint.clearance), _grown(_HEAD * flat, joint.clearance)
    levels = [(-_OVER * joint.length, narrow), (joint.length, narrow)]
    if height > joint.length:
        levels += [(joint.length, wide), (height * (1.0 + _OVER) + joint.width, wide)]
    return loft(np.stack([frame.placed(joint.at, ring, h) for h, ring in levels]))


def _grown(ring: Array, by: float) -> Array:
    """A convex outline with each side moved outward, or inward where that is negative."""
    side = np.roll(ring, -1, axis=0) - ring
    out = np.stack([side[:, 1], -side[:, 0]], axis=1)
    out /= np.linalg.norm(out, axis=1)[:, None]
    before = np.roll(out, 1, axis=0)
    grown: Array = ring + by * (out + before) / (1.0 + (out * before).sum(axis=1))[:, None]
    return grown
