"""The two parts of a cut joined by a dovetail: they slide into one another from the side."""

import numpy as np
from caulkcore.errors import OperationRefused
from caulkcore.mesh.arrays import Array
from caulkcore.mesh.topology import Topology
from caulkcore.mesh.triangle_mesh import Mesh, face_normals
from caulkcore.progress import SILENT, Progress
from caulkcore.solid.cutters import line_cutter
from caulkcore.solid.joint_places import frame_of_cut
from caulkcore.solid.joints import CutFrame
from caulkcore.solid.plane_cut import PlaneCut
from caulkcore.spatial.box_tree import Tree

from ..rule_sheets import RuleSheet
from ..text import length_text
from .jointing import Joined, Joining, clearance_of, fit, lid_of, wall_of
from .parts_apart import divided

LEAN = np.radians(15.0)
"""How much the sides of the tail lean outward: it holds, and its edges are not sharp."""
_SHARE = 1 / 3
"""Width of a tail at its foot, of the cut's face, unless it is told."""
_HEIGHT = 0.5
"""Its height, of its width, unless it is told."""
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
    # what its seat takes up, and the wall round that
    reach = _foot(width, clearance) + (height + clearance) * np.tan(LEAN) + wall
    if middle - reach < low or middle + reach > high:
        raise OperationRefused(
            f"A dovetail {length_text(width)} wide leaves less than {length_text(wall)} beside it. "
            "A narrower or lower one has room."
        )
    depth = float(((found.above.vertices - corner) @ normal).max())
    if height + clearance + wall > depth:
        raise OperationRefused(
            f"A dovetail {length_text(height)} high leaves less than {length_text(wall)} above it. "
            "A lower one has room."
        )
    below = _beyond(mesh, _profile(at, frame, width, height, 0.0), frame, progress.span(0.0, 0.5))
    above = _beyond(
        mesh, _profile(at, frame, width, height, clearance), frame, progress.span(0.5, 1.0)
    )
    tail = _sides(below[0], at, frame, width, height, 0.0)
    seat = _sides(above[1], at, frame, width, height, clearance)
    least, most = _measured(tail, seat, clearance)
    told = f"a dovetail {width:g} mm wide and {height:g} mm high"
    told += f", {length_text(clearance)} clear all round (measured {least:.3f} to {most:.3f})"
    numbers: dict[str, object] = {
        "joints": [{"at": at.tolist(), "width_mm": width, "length_mm": height}],
        "clearance_mm": clearance,
        "measured_mm": [least, most],
        "slides": frame.along.tolist(),
    }
    # it comes out sideways only; set off straight, the parts have to be clear of each other
    return Joined(below[0], above[1], [], told, numbers, off=height + clearance)


def _measured(tail: Mesh, seat: Mesh, clearance: float) -> tuple[float, float]:
    """The least gap, and the greatest in the middles of the tail's faces: its ends, which may be
    slanted, reach beyond the seat."""
    if not clearance:
        return 0.0, 0.0
    least, _ = fit(tail, seat, 4 * clearance)
    middles = tail.vertices[tail.faces].mean(axis=1)
    away, _ = Tree.of(seat.vertices, seat.faces).nearest(middles)
    return least, float(away.max())


def _tidy(mm: float) -> float:
    """Rounded to two digits."""
    return float(f"{mm:.2g}")


def _foot(width: float, grown: float) -> float:
    """Half the width of a tail in the plane of the cut, its sides moved outward."""
    return width / 2 + grown / float(np.cos(LEAN))


def _profile(at: Array, frame: CutFrame, width: float, height: float, grown: float) -> Array:
    """The line of the cut, seen along the tail; its sides and top moved outward."""
    foot, top = _foot(width, grown), height + grown
    head = foot + top * float(np.tan(LEAN))
    flat = [(-foot - width, 0.0), (-foot, 0.0), (-head, top), (head, top), (foot, 0.0)]
    flat.append((foot + width, 0.0))
    return np.array([at + x * frame.across + z * frame.normal for x, z in flat])


def _beyond(mesh: Mesh, line: Array, frame: CutFrame, progress: Progress) -> tuple[Mesh, Mesh]:
    """What lies below a profile, and what above it."""
    cutter, aside = line_cutter(mesh, line, frame.along)
    outside, inside = divided(mesh, cutter, progress)
    assert outside is not None
    assert inside is not None
    assert aside is not None
    return (inside, outside) if aside @ frame.normal > 0 else (outside, inside)


def _sides(
    part: Mesh, at: Array, frame: CutFrame, width: float, height: float, grown: float
) -> Mesh:
    """Faces of the tail, or of its seat: those of the profile above the plane, not its ends."""
    x, z = (part.vertices - at) @ frame.across, (part.vertices - at) @ frame.normal
    lean = float(np.tan(LEAN))
    near = _ON_TAIL * width
    on = np.abs(z - height - grown) < near
    on |= np.abs(np.abs(x) - _foot(width, grown) - z * lean) * np.cos(LEAN) < near
    ends = np.abs(face_normals(part.vertices, part.faces) @ frame.along) > _SQUARE
    high = z[part.faces].max(axis=1) > near
    return Mesh(part.vertices, part.faces[on[part.faces].all(axis=1) & ~ends & high]).compact()
