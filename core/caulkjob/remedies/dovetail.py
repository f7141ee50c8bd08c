"""The two parts of a cut joined by a dovetail: they slide into one another from the side."""

from dataclasses import dataclass

import numpy as np
from caulkcore.errors import OperationRefused
from caulkcore.mesh.arrays import Array
from caulkcore.mesh.topology import Topology
from caulkcore.mesh.triangle_mesh import Mesh, face_normals
from caulkcore.progress import SILENT, Progress
from caulkcore.solid.joint_places import frame_of_cut
from caulkcore.solid.joints import CutFrame
from caulkcore.solid.plane_cut import PlaneCut
from caulkcore.spatial.box_tree import Tree
from caulkcore.spatial.winding_number import WindingNumber
from caulkcore.thickness.ball_and_ray import measure_ball_and_ray

from ..rule_sheets import RuleSheet
from ..text import length_text
from .jointing import Fit, Joined, Joining, clearance_of, fit, lid_of, wall_of
from .parts_apart import cutter_along, divided

LEAN = np.radians(15.0)
"""How much the sides of the tail lean outward: it holds, and its edges are not sharp."""
_SHARE = 1 / 3
"""Width of a tail at its foot, of the cut's face, unless it is told."""
_HEIGHT = 0.5
"""Its height, of its width, unless it is told."""
_STEP = 0.5
"""Walls beside the seat are looked for every so many of the wall that is asked for."""
_LOOKS = 9
"""Rays across each side of the seat and its top."""
_MOST_STEPS = 2000
"""But at so many places along it at most."""
_RUNS_OUT = 2.0
"""A wall that runs out where the seat comes out may be thin over so many times its thickness."""
_ROUNDING = 1e-6
"""Share of a wall that rounding may take."""
_ON_TAIL = 1e-5
"""Vertices nearer to the tail's sides than this share of its width lie on them."""
_SQUARE = 1e-3
"""Faces whose normals have less than this along the tail are its sides, and not its ends."""


def join_by_dovetail(
    mesh: Mesh,
    found: PlaneCut,
    normal: Array,
    asked: Joining,
    rules: RuleSheet | None,
    *,
    progress: Progress = SILENT,
) -> Joined:
    """Cut with a tail on the first part, all the way along the cut, and its seat in the second.

    Parameters
    ----------
    mesh : Mesh
        What was cut.
    found : PlaneCut
    normal : ndarray, shape (3,)
        Of the plane, a unit vector.
    asked : Joining
        One place at most; a taper means nothing here.
    rules : RuleSheet, optional
        The material's.
    progress : Progress

    Returns
    -------
    Joined

    Raises
    ------
    OperationRefused
        If the cut has several faces, or there is no room.
    Cancelled
        If `progress` asks to stop.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> from caulkcore.solid.plane_cut import plane_cut
    >>> block, up = cuboid((60.0, 40.0, 50.0)), np.array([0.0, 0.0, 1.0])
    >>> found = plane_cut(block, np.array([30.0, 20.0, 25.0]), up)
    >>> join_by_dovetail(block, found, up, Joining(clearance=0.2), None).told
    'a dovetail 13 mm wide and 6.5 mm high, 0.2 mm clear all round (measured 0.200 to 0.200)'
    """
    wall, clearance = wall_of(rules), clearance_of(asked, rules)
    lid = lid_of(found).compact()
    if Topology(lid).shells[1] != 1:
        raise OperationRefused("The cut has several faces; a dovetail joins one.")
    if asked.spots and len(asked.spots) > 1:
        raise OperationRefused("One dovetail goes all the way along; pick one place for it.")
    frame = frame_of_cut(lid, normal)
    sides = lid.vertices @ frame.across
    low, high = float(sides.min()), float(sides.max())
    width = _tidy((high - low) * _SHARE) if asked.width is None else asked.width
    height = _tidy(width * _HEIGHT) if asked.length is None else asked.length
    middle = (low + high) / 2
    if asked.spots:
        middle = float(np.array(asked.spots[0][:3]) @ frame.across)
    corner = lid.vertices[0]
    at = corner + (middle - float(corner @ frame.across)) * frame.across
    tail = _Profile(at, frame, width, height)
    seat = _Profile(at, frame, width, height, clearance)
    reach = seat.head + wall
    if middle - reach < low or middle + reach > high:
        raise OperationRefused(
            f"A dovetail {length_text(width)} wide leaves less than {length_text(wall)} beside it. "
            "A narrower or lower one has room."
        )
    depth = float(((found.above.vertices - corner) @ normal).max())
    if seat.top + wall > depth:
        raise OperationRefused(
            f"A dovetail {length_text(height)} high leaves less than {length_text(wall)} above it. "
            "A lower one has room."
        )
    _refuse_thin_walls(mesh, seat, lid, wall)
    below, _ = _divided(mesh, tail, progress.span(0.0, 0.5))
    _, above = _divided(mesh, seat, progress.span(0.5, 1.0))
    told = f"a dovetail {width:g} mm wide and {height:g} mm high"
    places: list[dict[str, object]] = [{"at": at.tolist(), "width_mm": width, "length_mm": height}]
    measured = _fit(tail.sides_of(below), seat.sides_of(above), clearance)
    # it comes out sideways only: straight, not before the seat is over the tail
    return Joined(below, above, told, places, measured, off=seat.top, slides=frame.along)


@dataclass(frozen=True, eq=False)
class _Profile:
    """A tail as it is seen along its way, mm; its sides and top moved outward for its seat."""

    at: Array
    frame: CutFrame
    width: float
    height: float
    grown: float = 0.0

    @property
    def foot(self) -> float:
        """Half its width in the plane of the cut."""
        return self.width / 2 + self.grown / float(np.cos(LEAN))

    @property
    def top(self) -> float:
        """Its height over the plane."""
        return self.height + self.grown

    @property
    def head(self) -> float:
        """Half its width at the top."""
        return self.foot + self.top * float(np.tan(LEAN))

    @property
    def line(self) -> Array:
        """The line of the cut, shape (6, 3)."""
        half = [(self.head, self.top), (self.foot, 0.0), (self.foot + self.width, 0.0)]
        flat = [(-x, z) for x, z in reversed(half)] + half
        across, up = self.frame.across, self.frame.normal
        return np.array([self.at + x * across + z * up for x, z in flat])

    def sides_of(self, part: Mesh) -> Mesh:
        """Faces of a part that are the tail's or the seat's above the plane, but for its ends."""
        x, z = ((part.vertices - self.at) @ way for way in (self.frame.across, self.frame.normal))
        near = _ON_TAIL * self.width
        on = np.abs(z - self.top) < near
        on |= np.abs(np.abs(x) - self.foot - z * np.tan(LEAN)) * np.cos(LEAN) < near
        ends = np.abs(face_normals(part.vertices, part.faces) @ self.frame.along) > _SQUARE
        high = z[part.faces].max(axis=1) > near
        chosen = on[part.faces].all(axis=1) & ~ends & high
        return Mesh(part.vertices, part.faces[chosen]).compact()


def _refuse_thin_walls(mesh: Mesh, seat: _Profile, lid: Mesh, wall: float) -> None:
    """Look from the seat straight to the skin, beside it and above it, all the way along.

    Where it comes out of a round side the wall runs out to nothing: so much is let pass.

    Raises
    ------
    OperationRefused
        If less than the wall would be left over a longer stretch.
    """
    frame, shares = seat.frame, np.linspace(0.0, 1.0, _LOOKS)
    along = (lid.vertices - seat.at) @ frame.along
    count = min(int(np.ptp(along) / (_STEP * wall)) + 2, _MOST_STEPS)
    way, step = np.linspace(along.min(), along.max(), count, retstep=True)
    # across, up, and which way is looked: off both sides, and off the top
    flank = seat.foot + shares * (seat.head - seat.foot)
    looks = [
        (side * x, z, side * frame.across)
        for side in (-1, 1)
        for x, z in zip(flank, shares * seat.top, strict=True)
    ]
    looks += [((2 * share - 1) * seat.head, seat.top, frame.normal) for share in shares]
    starts = [seat.at + x * frame.across + z * frame.normal for x, z, _ in looks]
    points = np.concatenate([start + way[:, None] * frame.along for start in starts])
    against = np.repeat([-direction for _, _, direction in looks], count, axis=0)
    tree, none = Tree.of(mesh.vertices, mesh.faces), np.full(len(points), -1)
    left = measure_ball_and_ray(tree, points, against, none, 2 * wall).ray
    inside = WindingNumber(mesh.vertices, mesh.faces).at(points) > 0.5
    thin = inside & (left < wall * (1 - _ROUNDING))
    least, where = np.inf, seat.at
    for one in range(0, len(points), count):
        ends = np.flatnonzero(np.diff(np.pad(thin[one : one + count].astype(np.int8), 1)))
        for begin, end in one + ends.reshape(-1, 2):
            at = begin + int(np.argmin(left[begin:end]))
            if (end - begin) * step > _RUNS_OUT * wall and left[at] < least:
                least, where = float(left[at]), points[at]
    if least < wall:
        told = ", ".join(f"{value:.1f}" for value in where)
        raise OperationRefused(
            f"A dovetail {length_text(seat.width)} wide would leave {length_text(least)} of "
            f"{length_text(wall)} beside or above it at {told} mm. A narrower or lower one, or one "
            "elsewhere, has room."
        )


def _divided(mesh: Mesh, profile: _Profile, progress: Progress) -> tuple[Mesh, Mesh]:
    """What lies below a profile, and what above it."""
    cutter, aside = cutter_along(mesh, profile.line, profile.frame.along)
    outside, inside = divided(mesh, cutter, progress)
    assert outside is not None
    assert inside is not None
    assert aside is not None
    return (inside, outside) if aside @ profile.frame.normal > 0 else (outside, inside)


def _fit(tail: Mesh, seat: Mesh, clearance: float) -> Fit:
    """The greatest gap in the middles of the tail's faces: its ends, which may be slanted, reach
    beyond the seat."""
    if not clearance:
        return Fit(0.0, 0.0, 0.0)
    least, _ = fit(tail, seat, 4 * clearance)
    middles = tail.vertices[tail.faces].mean(axis=1)
    away, _ = Tree.of(seat.vertices, seat.faces).nearest(middles)
    return Fit(clearance, least, float(away.max()))


def _tidy(mm: float) -> float:
    """Rounded to two digits."""
    return float(f"{mm:.2g}")
