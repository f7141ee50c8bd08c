"""The two parts of a cut joined by pegs, pins, magnets or screws, and the fit measured."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from caulkcore.arrangement.arrange import ArrangementFailed
from caulkcore.errors import OperationRefused
from caulkcore.mesh.arrays import Array
from caulkcore.mesh.changed_faces import changed_faces
from caulkcore.mesh.concatenate import concatenate
from caulkcore.mesh.topology import Topology
from caulkcore.mesh.triangle_mesh import Mesh, face_areas
from caulkcore.progress import SILENT, Progress
from caulkcore.solid.joint_places import WIDTHS, frame_of_cut, proposed_joints, room_round
from caulkcore.solid.joints import CutFrame, Joint, Shape, joint_solids, with_joints
from caulkcore.solid.plane_cut import PlaneCut
from caulkcore.spatial.box_tree import Tree
from caulkcore.spatial.triangle_distance import nearest_faces_of_others

from ..rule_sheets import RuleSheet
from ..text import counted, length_text

Choice = Literal["none", "round", "square", "keyed", "magnet", "screw", "dovetail"]
"""How two parts of a cut are joined."""
WORDS: dict[Shape, str] = {
    "round": "round peg",
    "square": "square peg",
    "keyed": "keyed peg",
    "magnet": "magnet pocket",
    "screw": "screw hole",
}
"""What each shape is called in a sentence."""
USUAL_CLEARANCE = 0.2
"""Between a peg and its socket where no material's sheet asks for one, mm: what most processes
hold."""
USUAL_WALL = 1.0
"""Round a joint where no material's sheet asks for one, mm."""
_SLACK = 0.02
"""Share of what has to stay round a joint by which it may be less: what the room is told short of.
"""
_ON_PLANE = 1e-6
"""Vertices nearer to the plane than this share of the model's size lie on it."""
Maker = Callable[[Array, float], Joint]
"""Makes a joint of a place and a width."""


@dataclass(frozen=True)
class Joining:
    """What was asked of the joints of a cut; lengths in mm.

    Attributes
    ----------
    spots : list of [x, y, z, radius], optional
        Where they are to be; proposed if none are given.
    width, length : float, optional
        From the room there is, and as long as wide, if none is given.
    taper : float
        Degrees.
    clearance : float, optional
        The material's if none is given.
    loose : bool
        Whether pegs are pins of their own.
    """

    spots: list[list[float]] | None = None
    width: float | None = None
    length: float | None = None
    taper: float = 0.0
    clearance: float | None = None
    loose: bool = False


@dataclass(frozen=True)
class Fit:
    """How the parts of a joint sit in each other, mm.

    Attributes
    ----------
    clearance : float
        That was asked for.
    least, most : float
        The least gap that was measured, and the greatest.
    """

    clearance: float
    least: float
    most: float

    @property
    def told(self) -> str:
        """For a sentence."""
        measured = f"measured {self.least:.3f} to {self.most:.3f}"
        return f"{length_text(self.clearance)} clear all round ({measured})"

    @property
    def numbers(self) -> dict[str, object]:
        """As numbers."""
        return {"clearance_mm": self.clearance, "measured_mm": [self.least, self.most]}


@dataclass(frozen=True, eq=False)
class Joined:
    """Two parts with their joints.

    Attributes
    ----------
    below, above : Mesh
    what : str
        Number, shape and size of the joints.
    joints : list of dict
        Place and size of each.
    fit : Fit or None
        None where nothing goes into anything.
    pins : list of Mesh
        At their places across the cut.
    off : float
        How much farther than wanted the second part is set off to be clear of the first, mm.
    slides : ndarray, shape (3,), or None
        The only way that the parts go into one another, if it is not straight.
    """

    below: Mesh
    above: Mesh
    what: str
    joints: list[dict[str, object]]
    fit: Fit | None = None
    pins: list[Mesh] = field(default_factory=list)
    off: float = 0.0
    slides: Array | None = None

    @property
    def told(self) -> str:
        """What they are, for a sentence."""
        return f"{self.what}, {self.fit.told}" if self.fit else self.what

    @property
    def numbers(self) -> dict[str, object]:
        """The same as numbers."""
        slides = {} if self.slides is None else {"slides": self.slides.tolist()}
        return {"joints": self.joints, **(self.fit.numbers if self.fit else {}), **slides}


def wall_of(rules: RuleSheet | None) -> float:
    """What has to stay round a joint, mm.

    Parameters
    ----------
    rules : RuleSheet or None
        The material's.

    Returns
    -------
    float
    """
    return (rules.wall_supported if rules else 0.0) or USUAL_WALL


def clearance_of(asked: Joining, rules: RuleSheet | None) -> float:
    """The gap between two parts of a joint, mm.

    Parameters
    ----------
    asked : Joining
    rules : RuleSheet or None
        The material's.

    Returns
    -------
    float
    """
    if asked.clearance is not None:
        return asked.clearance
    return (rules.clearance if rules else 0.0) or USUAL_CLEARANCE


def lid_of(found: PlaneCut) -> Mesh:
    """The faces that a cut has made.

    Parameters
    ----------
    found : PlaneCut

    Returns
    -------
    Mesh
        With all vertices of the first part.
    """
    below = found.below
    return Mesh(below.vertices, below.faces[len(below.faces) - found.lid_faces :])


def join_parts(
    mesh: Mesh,
    found: PlaneCut,
    normal: Array,
    shape: Shape,
    asked: Joining,
    rules: RuleSheet | None,
    *,
    progress: Progress = SILENT,
) -> Joined:
    """Put joints across a cut, and measure how they fit.

    Parameters
    ----------
    mesh : Mesh
        What was cut.
    found : PlaneCut
    normal : ndarray, shape (3,)
        Of the plane, a unit vector.
    shape : Shape
    asked : Joining
    rules : RuleSheet, optional
        The material's.
    progress : Progress

    Returns
    -------
    Joined

    Raises
    ------
    OperationRefused
        If there is no room, or a part cannot be combined with a joint.
    Cancelled
        If `progress` asks to stop.
    """
    wall, clearance = wall_of(rules), clearance_of(asked, rules)
    pocket = shape in ("magnet", "screw")
    taper = 0.0 if pocket else asked.taper

    def made(at: Array, width: float) -> Joint:
        length = width if asked.length is None else asked.length
        return Joint(shape, at, width, length, taper, clearance, asked.loose and not pocket)

    lid = lid_of(found)
    frame = frame_of_cut(lid, normal)
    tree = Tree.of(mesh.vertices, mesh.faces)
    if asked.spots:
        joints = _at_spots(asked.spots, lid, tree, frame, asked.width, wall, made)
    else:
        widths = WIDTHS if asked.width is None else (asked.width,)
        joints = _proposed(lid, tree, frame, wall, made, widths)
    for one in joints:
        if one.narrow <= 0:
            raise OperationRefused(
                "They would run out to a point before their end; less taper, or shorter ones, "
                "leave something."
            )
    height = float(((found.above.vertices - joints[0].at) @ normal).max())
    solids = joint_solids(joints, frame, height)
    try:
        below, above = with_joints(found.below, found.above, solids, progress=progress)
    except ArrangementFailed as problem:
        raise OperationRefused(f"A part cannot be combined with its joints. {problem}") from None
    measured = None
    if not pocket:
        males = solids.pins or [_fresh(found.below, below, joints, frame)]
        females = [_fresh(found.above, above, joints, frame)]
        if solids.pins:
            females.append(_fresh(found.below, below, joints, frame))
        gaps = fit(concatenate(males), concatenate(females), 4 * clearance)
        measured = Fit(clearance, *gaps)
    places = [_numbers(one) for one in joints]
    return Joined(below, above, _what(joints), places, measured, solids.pins)


def join_neighbours(
    below: Mesh,
    above: Mesh,
    on: Array,
    normal: Array,
    shape: Shape,
    asked: Joining,
    rules: RuleSheet | None,
    *,
    progress: Progress = SILENT,
) -> Joined | None:
    """Put joints across the plane at which two parts meet, clear of all their other faces.

    Parameters
    ----------
    below, above : Mesh
        The part that the normal points away from, and the one that it points to, at their places.
    on : ndarray, shape (3,)
        A point on the plane.
    normal : ndarray, shape (3,)
        A unit vector.
    shape : Shape
    asked : Joining
    rules : RuleSheet, optional
        The material's.
    progress : Progress

    Returns
    -------
    Joined or None
        None if they do not meet there.

    Raises
    ------
    OperationRefused
        If there is no room, or a part cannot be combined with a joint.
    Cancelled
        If `progress` asks to stop.
    """
    sides, rests = [], []
    for part in (below, above):
        off = np.abs((part.vertices - on) @ normal) > _ON_PLANE * part.diagonal
        lids = ~off[part.faces].any(axis=1)
        if not lids.any():
            return None
        rests.append(Mesh(part.vertices, part.faces[~lids]))
        sides.append(Mesh(part.vertices, np.vstack([part.faces[~lids], part.faces[lids]])))
    count = len(sides[0].faces) - len(rests[0].faces)
    area = float(face_areas(sides[0].vertices, sides[0].faces[-count:]).sum())
    met = PlaneCut(sides[0], sides[1], count, area)
    return join_parts(concatenate(rests), met, normal, shape, asked, rules, progress=progress)


def fit(male: Mesh, female: Mesh, reach: float) -> tuple[float, float]:
    """The least gap between a peg and its socket, and the greatest, mm.

    Parameters
    ----------
    male, female : Mesh
        The faces of each.
    reach : float
        Gaps beyond it are not looked for, mm.

    Returns
    -------
    least, most : float
        The least by every pair of triangles; the greatest at the peg's corners and the middles of
        its triangles.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> peg, socket = cuboid((4.0, 4.0, 4.0), at=(3.0, 3.0, 3.0)), cuboid()
    >>> fit(peg, socket, 5.0)
    (3.0, 3.0)
    """
    both = concatenate([male, female])
    side = np.repeat([0, 1], [len(male.faces), len(female.faces)])
    other, spans = nearest_faces_of_others(Tree.of(both.vertices, both.faces), side, reach)
    gaps = np.linalg.norm(spans[:, 0] - spans[:, 1], axis=1)[other >= 0]
    corners = male.vertices[male.faces]
    places = np.concatenate([corners.reshape(-1, 3), corners.mean(axis=1)])
    away, _ = Tree.of(female.vertices, female.faces).nearest(places)
    return float(gaps.min(initial=np.inf)), float(away.max())


def _at_spots(
    spots: list[list[float]],
    lid: Mesh,
    tree: Tree,
    frame: CutFrame,
    width: float | None,
    wall: float,
    made: Maker,
) -> list[Joint]:
    """Joints where somebody wants them, if there is room for each.

    Raises
    ------
    OperationRefused
        If one is not on the cut, has no room, or meets another.
    """
    on = Tree.of(lid.vertices, lid.faces)
    places = np.array(spots)[:, :3]
    away, _ = on.nearest(places)
    feet = places - np.outer((places - lid.vertices[lid.faces[0, 0]]) @ frame.normal, frame.normal)
    off, _ = on.nearest(feet)
    joints = [
        made(foot, 2 * spot[3] if width is None else width)
        for foot, spot in zip(feet, spots, strict=True)
    ]
    for i, one in enumerate(joints):
        which = f"Joint {i + 1}" if len(joints) > 1 else "The joint"
        if off[i] > _ON_PLANE * one.width or away[i] > one.width + one.length:
            raise OperationRefused(f"{which} is not on a face of the cut.")
        left = float(room_round(tree, one.at[None], frame.normal, one.reach)[0]) - one.radius
        if left < wall * (1.0 - _SLACK):
            rest = f"leave {max(left, 0.0):.2f} mm" if left > 0 else "come through the surface"
            raise OperationRefused(
                f"{which} would {rest}; {length_text(wall)} of material have to stay round it. "
                "A smaller one, or one farther from the edge, has room."
            )
        for other in joints[:i]:
            if np.linalg.norm(one.at - other.at) < one.radius + other.radius + wall:
                raise OperationRefused(f"{which} is too near to another one.")
    return joints


def _proposed(
    lid: Mesh,
    tree: Tree,
    frame: CutFrame,
    wall: float,
    made: Maker,
    widths: Sequence[float],
) -> list[Joint]:
    """Joints for each face of the cut that has room.

    Raises
    ------
    OperationRefused
        If none has.
    """
    of_face, count = Topology(lid).shells
    joints = []
    for i in range(count):
        face = Mesh(lid.vertices, lid.faces[of_face == i]).compact()
        joints += proposed_joints(tree, face, frame, wall, made, widths)
    if not joints:
        needed = f"one {length_text(widths[-1])} wide" if len(widths) == 1 else "a joint"
        raise OperationRefused(
            f"No face of the cut has room for {needed} with {length_text(wall)} of material "
            "round it."
        )
    return joints


def _what(joints: Sequence[Joint]) -> str:
    """Number, shape and size of some joints."""
    words = counted(len(joints), WORDS[joints[0].shape])
    sizes = sorted({(one.width, one.length) for one in joints})
    told = " and ".join(f"{width:g} mm wide and {length:g} mm long" for width, length in sizes)
    loose = " as loose pins" if joints[0].loose else ""
    return f"{words}{loose}, {told}"


def _numbers(one: Joint) -> dict[str, object]:
    return {"at": one.at.tolist(), "width_mm": one.width, "length_mm": one.length}


def _fresh(before: Mesh, after: Mesh, joints: Sequence[Joint], frame: CutFrame) -> Mesh:
    """What joints added to the faces of a part, but for what lies in the plane of the cut."""
    new = changed_faces(before, after)[1]
    on = joints[0].at
    height = np.abs((after.vertices - on) @ frame.normal)[after.faces].max(axis=1)
    away = height > _ON_PLANE * max(after.diagonal, float(np.abs(after.vertices).max()))
    near = np.zeros(len(after.vertices), dtype=bool)
    for one in joints:
        off = after.vertices - one.at
        aside = np.linalg.norm(off - np.outer(off @ frame.normal, frame.normal), axis=1)
        near |= aside <= one.radius * (1.0 + _SLACK)
    return Mesh(after.vertices, after.faces[new & away & near[after.faces].all(axis=1)]).compact()
