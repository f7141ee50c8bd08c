"""One skin round all that some closed skins enclose, however they cross."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..mesh.arrays import Array, frozen
from ..mesh.changed_faces import changed_faces
from ..mesh.groups import Groups
from ..mesh.topology import is_even
from ..mesh.triangle_mesh import Mesh, face_crosses
from ..mesh.weld import weld
from ..predicates.orientation import faces_have_area
from ..spatial.box_tree import Tree
from ..spatial.intersecting_pairs import intersecting_pairs_of_tree
from .arrange import Arrangement, ArrangementFailed, arrange
from .slivers import take_out_slivers

Inverted = Literal["ask", "drop", "keep"]
INVERTED_SHARE = 0.01
"""Space turned inside out is no mere fold if it has more than this share of the volume."""
Sides = tuple[Array, Array]
"""Whether the space in front and at the back of each triangle lies inside."""
_ROUNDS = 8
"""Times that a rounded surface is arranged again; hardly any needs a third."""
_MOST_TIMES, _FEW = 3, 300
"""It is given up once there are so many times the faces of the first round, and so many more: what
is divided again and again never comes to an end."""
_BOX = np.array(
    [[0, 1, 3], [0, 3, 2], [4, 6, 7], [4, 7, 5], [0, 4, 5], [0, 5, 1], [2, 3, 7], [2, 7, 6],
     [0, 2, 6], [0, 6, 4], [1, 5, 7], [1, 7, 3]]
)  # fmt: skip
"""Faces of a box whose corners count up in z, then y, then x."""


class InvertedCell(ArrangementFailed):
    """Much of the space is wound round the wrong way: whether it is inside has to be chosen.

    Attributes
    ----------
    volume : float
        Of that space, mm³.
    """

    def __init__(self, volume: float) -> None:
        super().__init__(
            f"{volume:.4g} mm³ are inside out; that they are material has to be chosen."
        )
        self.volume = volume


@dataclass(frozen=True, eq=False)
class OuterHull:
    """A skin that meets itself nowhere, made of one that did.

    Attributes
    ----------
    mesh : Mesh
        New vertices are on float32; unused ones are gone.
    pairs : int
        Pairs of faces that met.
    inverted : float
        Volume of the space that the skin ran round the wrong way.
    kept : ndarray, shape (m,), bool
        Faces that came in of which something is left.
    """

    mesh: Mesh
    pairs: int
    inverted: float
    kept: Array


def outer_hull(
    mesh: Mesh,
    outside: int = 0,
    *,
    inverted: Inverted = "drop",
    pairs: Array | None = None,
    fold: float = 0.0,
) -> OuterHull:
    """The boundary of what a closed surface winds round at least once.

    The surface is arranged exactly, the parts that have the inside on both sides or on neither
    are left out, and new points are rounded to float32. If the rounded skin meets itself again,
    it is arranged again, until it does not (Attene 2014).

    Parameters
    ----------
    mesh : Mesh
        Closed and coherent; it may cross itself in any way.
    outside : int
        What the space outside counts as: 1 for the skin of a hollow.
    inverted : {"drop", "keep", "ask"}
        What becomes of space that is wound round the wrong way: outside, or inside; with ``ask``
        it is outside if there is little of it.
    pairs : ndarray, shape (k, 2), optional
        Faces that meet, if that is known and every face has area.
    fold : float
        Volume that nobody asks about, however much of the whole it is, mm³.

    Returns
    -------
    OuterHull

    Raises
    ------
    ArrangementFailed
        If the surface is not closed, or rounding never comes to an end.
    InvertedCell
        With ``ask``, if much of it is inside out.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> from caulkcore.mesh.concatenate import concatenate
    >>> two = concatenate([cuboid(), cuboid(at=(5.0, 4.0, 3.0))])
    >>> round(outer_hull(two).mesh.volume, 3)
    1790.0
    """
    done = arrange(mesh.vertices, mesh.faces, outside, pairs=pairs)
    if not len(done.triangles):
        raise ArrangementFailed("All of it cancels out: nothing would be left.")
    inside = done.front >= 1, done.back >= 1
    count = done.pairs
    wrong = sum(
        _between(done.points, done.triangles, done.front <= k, done.back <= k)
        for k in range(min(int(done.front.min()), int(done.back.min())), 0)
    )
    # of the skin of a hollow it is the hollow that counts
    whole = abs(_between(done.points, done.triangles, *inside))
    if inverted == "ask" and wrong > max(INVERTED_SHARE * whole, fold):
        raise InvertedCell(wrong)
    if inverted == "keep":
        inside = done.front != 0, done.back != 0
    kept = np.zeros(len(mesh.faces), dtype=bool)
    kept[done.source[inside[0] != inside[1]]] = True
    return OuterHull(_settled(mesh.vertices, done, inside, outside), count, wrong, kept)


def wound_region(mesh: Mesh, least: int = 1, *, fresh: Array | None = None) -> Mesh | None:
    """The boundary of what a closed surface winds round so often at least.

    Parameters
    ----------
    mesh : Mesh
        Closed and coherent; it may cross itself in any way.
    least : int
        2 for what two solids share, each wound round once.
    fresh : ndarray, shape (m,), bool, optional
        Faces one of which is in each pair of faces that meet where they should not, if that is
        known.

    Returns
    -------
    Mesh or None
        New vertices are on float32. None where there is no such space.

    Raises
    ------
    ArrangementFailed
        As `outer_hull`.
    """
    done = arrange(mesh.vertices, mesh.faces, fresh=fresh)
    inside = done.front >= least, done.back >= least
    if not (inside[0] != inside[1]).any():
        return None
    return _settled(mesh.vertices, done, inside, 0)


def cut_boxes(mesh: Mesh, boxes: Array) -> Mesh:
    """The boundary of what a closed surface winds round at least once, less some boxes.

    Parameters
    ----------
    mesh : Mesh
        Closed and coherent; it may cross itself in any way.
    boxes : ndarray, shape (k, 2, 3)
        Low corner and high of each; they do not touch each other.

    Returns
    -------
    Mesh
        What was not cut keeps its vertices; new ones are on float32.

    Raises
    ------
    ArrangementFailed
        As `outer_hull`.
    """
    corners = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)])
    tools = np.concatenate([np.where(corners == 1, box[1], box[0]) for box in boxes])
    sides = np.concatenate([_BOX + 8 * i for i in range(len(boxes))])
    n = len(mesh.vertices)
    vertices = np.concatenate([mesh.vertices, tools])
    done = arrange(vertices, np.concatenate([mesh.faces, sides + n]))
    of_box = done.source >= len(mesh.faces)
    middles = done.points[done.triangles].mean(axis=1)
    within = np.zeros(len(middles), dtype=bool)
    for low, high in boxes:
        within |= ((middles > low) & (middles < high)).all(axis=1)
    # a box winds once round itself, and what is in front of its sides lies outside it
    away = within & ~of_box
    inside = (done.front >= 1) & ~away, (done.back >= 1) & ~away & ~of_box
    return _settled(vertices, done, inside, 0)


def _settled(vertices: Array, done: Arrangement, inside: Sides, outside: int) -> Mesh:
    """The skin between inside and outside, its new points rounded to float32, as often as needed.

    Raises
    ------
    ArrangementFailed
        If it still meets itself after many rounds.
    """
    most = _MOST_TIMES * np.count_nonzero(inside[0] != inside[1]) + _FEW
    for _ in range(_ROUNDS):
        skin = inside[0] != inside[1]
        if np.count_nonzero(skin) > most:
            break
        faces = done.triangles[skin].copy()
        turned = inside[0][skin]
        faces[turned] = faces[turned][:, ::-1]
        vertices, faces, touched = _rounded(vertices, done.points, faces)
        if not len(faces):
            raise ArrangementFailed("Nothing would be left.")
        met, flat = _meetings(vertices, faces, touched)
        if len(met):
            # what hardly has a height is folded by rounding again and again
            mesh = take_out_slivers(Mesh(vertices, faces), touched).mesh
            touched = changed_faces(Mesh(vertices, faces[~touched]), mesh)[1]
            vertices, faces = mesh.vertices, mesh.faces
            met, flat = _meetings(vertices, faces, touched)
        if not len(met):
            return Mesh(vertices, faces).compact()
        done = arrange(vertices, faces, outside, pairs=None if flat.any() else met)
        inside = done.front >= 1, done.back >= 1
    raise ArrangementFailed("It still met itself after its corners were rounded.")


def _meetings(vertices: Array, faces: Array, touched: Array) -> tuple[Array, Array]:
    """Pairs of faces that meet, one of each touched, and which faces have no area at all."""
    flat = ~faces_have_area(frozen(vertices, np.float64), frozen(faces, np.int32))
    return intersecting_pairs_of_tree(Tree.of(vertices, faces), flat, touched & ~flat), flat


def _between(points: Array, triangles: Array, front: Array, back: Array) -> float:
    """Volume of the space that is marked, by the triangles that have it on one side."""
    edge = front != back
    selected = triangles[edge]
    six = np.einsum("ij,ij->i", points[selected[:, 0]], face_crosses(points, selected))
    return float(np.where(back[edge], six, -six).sum() / 6.0)


def _rounded(known: Array, points: Array, faces: Array) -> tuple[Array, Array, Array]:
    """Points that are not known yet on float32; what that makes one is joined.

    Returns
    -------
    vertices, faces : ndarray
        Without faces that have no three corners any more, or that cancel each other.
    touched : ndarray, shape (m,), bool
        Faces at a new point.
    """
    rounded = np.concatenate([known, points[len(known) :].astype(np.float32)])
    vertices, index = weld(rounded)
    fresh = np.zeros(len(vertices), dtype=bool)
    fresh[index[len(known) :]] = True
    faces = index[faces]
    touched = fresh[faces].any(axis=1)
    a, b, c = faces.T
    keep = (a != b) & (b != c) & (c != a)
    selected = np.flatnonzero(keep & touched)
    keep[selected] = False
    keep[selected[_uncancelled(faces[selected])]] = True
    return vertices, faces[keep], touched[keep]


def _uncancelled(faces: Array) -> Array:
    """Faces left when those on the same corners that run both ways have cancelled each other."""
    sense = np.where(is_even(faces), 1, -1)
    _, which = np.unique(np.sort(faces, axis=1), axis=0, return_inverse=True)
    which = which.reshape(-1)
    net = np.bincount(which, sense).astype(int)
    # of those that run the way of the majority, as many as there are more
    alike = np.flatnonzero(sense == np.sign(net)[which])
    groups = Groups.by_label(which[alike], alike)
    rank = np.arange(len(alike)) - np.repeat(groups.starts[:-1], groups.sizes)
    return groups.items[rank < np.abs(net)[which[groups.items]]]
