"""Pieces moved, turned, mirrored and copied."""

from collections.abc import Callable, Collection, Sequence
from typing import Any, Literal

import numpy as np
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.errors import OperationRefused
from caulkcore.mesh.arrays import Array
from caulkcore.mesh.concatenate import concatenate
from caulkcore.mesh.float32 import as_float32
from caulkcore.mesh.polygons import plane_axes
from caulkcore.mesh.triangle_mesh import Mesh

from ..operation import OperationResult
from ..text import counted
from .directions import unit_vector
from .piece_solids import PieceSolids

Side = Literal["x", "y", "z"]
"""The direction that a mirror looks along."""
Change = Callable[[Array], Array]
"""What becomes of some points, shape (n, 3)."""
_PARALLEL = 1e-12
"""Sine of an angle below which two directions are one, or opposite: rounding of unit vectors."""
_SAME_SHAPE = 1e-6
"""Share of the coordinates by which a piece that was moved may be off what it was: moving rounds to
float32."""


def move(
    mesh: Mesh, by: Sequence[float], *, pieces: Collection[int] | None = None
) -> OperationResult:
    """Move pieces, each with all that lies in it.

    Parameters
    ----------
    mesh : Mesh
    by : sequence of float
        Along x, y and z, mm.
    pieces : collection of int, optional
        Their numbers, from 1; all by default.

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If there is no such piece.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> move(cuboid(), (5.0, 0.0, -2.5)).done
    'The model moved by 5, 0, -2.5 mm.'
    """
    step = np.asarray(by, dtype=np.float64)
    if not step.any():
        return OperationResult(mesh, left=("It would stay where it is.",))
    told = ", ".join(f"{x:.6g}" for x in step)
    done = f"{_which(pieces)} moved by {told} mm."
    return _changed(mesh, pieces, lambda points: points + step, done, {"by_mm": step.tolist()})


def turn(
    mesh: Mesh,
    axis: Sequence[float],
    degrees: float,
    *,
    pieces: Collection[int] | None = None,
) -> OperationResult:
    """Turn pieces about a line through the middle of their bounding box.

    Parameters
    ----------
    mesh : Mesh
    axis : sequence of float
        The line's direction; seen from its end they turn counter-clockwise.
    degrees : float
    pieces : collection of int, optional
        Their numbers, from 1; all by default.

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If there is no such piece, or the axis has no direction.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> turn(cuboid((4.0, 2.0, 1.0)), (0.0, 0.0, 1.0), 90.0).mesh.size.tolist()
    [2.0, 4.0, 1.0]
    """
    way = unit_vector(axis, "The axis")
    if degrees % 360 == 0:
        return OperationResult(mesh, left=("It would stay as it is.",))
    turned = _rotation(way, degrees)

    def about(points: Array) -> Array:
        middle = (points.min(axis=0) + points.max(axis=0)) / 2
        out: Array = (points - middle) @ turned.T + middle
        return out

    told = ", ".join(f"{x:.4g}" for x in axis)
    done = f"{_which(pieces)} turned by {degrees:.6g}° about the direction {told}."
    return _changed(mesh, pieces, about, done, {"degrees": degrees})


def lay(
    mesh: Mesh,
    at: Sequence[float],
    facing: Sequence[float],
    on: Sequence[float],
    against: Sequence[float],
    *,
    gap: float = 0.0,
    pieces: Collection[int] | None = None,
) -> OperationResult:
    """Lay pieces against a face: turned by as little as can be, and moved.

    Parameters
    ----------
    mesh : Mesh
    at : sequence of float
        x, y, z of a point of theirs, mm.
    facing : sequence of float
        The normal of their face there.
    on : sequence of float
        Where that point is to be.
    against : sequence of float
        The normal of the face there, which theirs will look at.
    gap : float
        How far the faces stay apart, mm.
    pieces : collection of int, optional
        Their numbers, from 1; all by default.

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If there is no such piece, or a normal has no direction.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> two = concatenate([cuboid(), cuboid((4.0, 4.0, 4.0), at=(30.0, 0.0, 0.0))])
    >>> laid = lay(two, (30.0, 2.0, 2.0), (-1.0, 0.0, 0.0), (5.0, 5.0, 10.0), (0.0, 0.0, 1.0),
    ...     pieces=[2])
    >>> laid.mesh.size.tolist()
    [10.0, 10.0, 14.0]
    """
    start, end = np.asarray(at, dtype=np.float64), np.asarray(on, dtype=np.float64)
    own, other = (unit_vector(way, "A normal") for way in (facing, against))
    turned = _turn_between(own, -other)

    def laid(points: Array) -> Array:
        out: Array = (points - start) @ turned.T + end + gap * other
        return out

    apart = f", {gap:.6g} mm apart" if gap else ""
    done = f"{_which(pieces)} laid against the face at {', '.join(f'{x:.6g}' for x in end)}{apart}."
    degrees = float(np.degrees(np.arccos(np.clip(-own @ other, -1.0, 1.0))))
    return _changed(mesh, pieces, laid, done, {"turned_deg": degrees})


def put_back(
    mesh: Mesh, others: Sequence[Mesh], *, pieces: Collection[int] | None = None
) -> OperationResult:
    """Put pieces where they were in an earlier state of the model, bit for bit.

    A piece is known by its shape: as many faces, in the same order, as far apart in themselves.

    Parameters
    ----------
    mesh : Mesh
    others : sequence of Mesh
        The earlier state: the first is taken.
    pieces : collection of int, optional
        Their numbers, from 1; all by default.

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If there is no such piece, or no earlier state.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> moved = turn(cuboid(), (1.0, 2.0, 3.0), 40.0).mesh
    >>> put_back(moved, [cuboid()]).mesh.bounds.tolist()
    [[0.0, 0.0, 0.0], [10.0, 10.0, 10.0]]
    """
    if not others:
        raise OperationRefused("Name the state that they are put back to.")
    diagnosis, before = Diagnosis.of(mesh), Diagnosis.of(others[0])
    chosen = PieceSolids.faces_of(mesh, pieces)
    by_size: dict[int, list[Array]] = {}
    for i in range(len(before.by_shell)):
        faces = before.by_shell[i]
        by_size.setdefault(len(faces), []).append(others[0].vertices[others[0].faces[faces]])
    corners, back, stays, lost = mesh.vertices[mesh.faces], 0, 0, 0
    now = corners.copy()
    for i in range(len(diagnosis.by_shell)):
        faces = diagnosis.by_shell[i]
        if not chosen[faces[0]]:
            continue
        fits = [one for one in by_size.get(len(faces), []) if _is_moved(one, corners[faces])]
        if not fits:
            lost += 1
        elif any(np.array_equal(one, corners[faces]) for one in fits):
            stays += 1
        else:
            # of several alike the nearest
            away = [float(np.abs(one - corners[faces]).mean()) for one in fits]
            now[faces] = fits[int(np.argmin(away))]
            back += 1
    left = []
    if lost:
        what = counted(lost, "piece is not the shape", "pieces are not the shape")
        left.append(f"{what} that any had then.")
    if not back:
        if stays:
            left.append(f"{counted(stays, 'piece stands', 'pieces stand')} there already.")
        return OperationResult(mesh, left=tuple(left))
    order = np.arange(now.size // 3).reshape(-1, 3)
    done = f"{counted(back, 'piece')} put back."
    return OperationResult(
        Mesh(now.reshape(-1, 3), order),
        done,
        {"pieces": back},
        tuple(left),
        unmoved=corners.reshape(-1, 3),
    )


def _is_moved(one: Array, other: Array) -> bool:
    """Whether two lots of triangles are the same but for a turn and a step (Kabsch 1976)."""
    a, b = (points.reshape(-1, 3) - points.reshape(-1, 3).mean(axis=0) for points in (one, other))
    u, _, v = np.linalg.svd(a.T @ b)
    flip = np.array([1.0, 1.0, np.sign(np.linalg.det(u @ v))])
    off = np.abs(a @ (u * flip) @ v - b).max()
    return bool(off <= _SAME_SHAPE * max(np.abs(a).max(), np.abs(other).max()))


def mirror(
    mesh: Mesh, side: Side = "x", *, pieces: Collection[int] | None = None
) -> OperationResult:
    """Mirror pieces about the middle of their bounding box.

    Parameters
    ----------
    mesh : Mesh
    side : {"x", "y", "z"}
        The direction that is turned round.
    pieces : collection of int, optional
        Their numbers, from 1; all by default.

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If there is no such piece.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> mirror(cuboid(), "z").mesh.volume
    1000.0
    """
    axis = "xyz".index(side)

    def mirrored(points: Array) -> Array:
        out = points.copy()
        out[:, axis] = points[:, axis].min() + points[:, axis].max() - points[:, axis]
        return out

    done = f"{_which(pieces)} mirrored along {side}."
    return _changed(mesh, pieces, mirrored, done, {"side": side}, flip=True)


def copy(
    mesh: Mesh,
    by: Sequence[float],
    *,
    count: float = 1,
    pieces: Collection[int] | None = None,
) -> OperationResult:
    """Add copies of pieces, each a step farther than the one before.

    Parameters
    ----------
    mesh : Mesh
    by : sequence of float
        The step along x, y and z, mm.
    count : int
        How many copies.
    pieces : collection of int, optional
        Their numbers, from 1; all by default.

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If there is no such piece, or the step has no length.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> copy(cuboid(), (12.0, 0.0, 0.0), count=3).mesh.size.tolist()
    [46.0, 10.0, 10.0]
    """
    step = np.asarray(by, dtype=np.float64)
    if not step.any():
        raise OperationRefused("A copy at the same place could not be told from the piece.")
    solids = PieceSolids.of(mesh, pieces).solids
    added = [
        Mesh(as_float32(one.vertices + k * step), one.faces)
        for k in range(1, int(count) + 1)
        for one in solids
    ]
    told = ", ".join(f"{x:.6g}" for x in step)
    done = f"{counted(len(added), 'piece')} added, each copy {told} mm from the one before."
    unmoved = concatenate([mesh, *solids * int(count)]).vertices
    made = concatenate([mesh, *added])
    return OperationResult(made, done, {"pieces": len(added)}, unmoved=unmoved)


def _which(pieces: Collection[int] | None) -> str:
    return counted(len(pieces), "piece") if pieces else "The model"


def _changed(
    mesh: Mesh,
    pieces: Collection[int] | None,
    change: Change,
    done: str,
    numbers: dict[str, Any],
    *,
    flip: bool = False,
) -> OperationResult:
    """Some pieces at other places, the faces in the order that they had."""
    chosen = PieceSolids.faces_of(mesh, pieces)
    used = np.unique(mesh.faces[chosen])
    # a vertex that other faces have, too, is theirs alone from now on
    fresh = np.full(len(mesh.vertices), -1)
    fresh[used] = len(mesh.vertices) + np.arange(len(used))
    faces = mesh.faces.copy()
    faces[chosen] = fresh[faces[chosen]][:, ::-1] if flip else fresh[faces[chosen]]
    was = np.concatenate([mesh.vertices, mesh.vertices[used]])
    now = np.concatenate([mesh.vertices, as_float32(change(mesh.vertices[used]))])
    kept, at = np.unique(faces, return_inverse=True)
    made = Mesh(now[kept], at.reshape(-1, 3))
    return OperationResult(made, done, numbers, unmoved=was[kept])


def _turn_between(start: Array, end: Array) -> Array:
    """The smallest turn that brings one direction to another."""
    axis = np.cross(start, end)
    sine, cosine = float(np.linalg.norm(axis)), float(start @ end)
    if sine < _PARALLEL:
        if cosine > 0:
            return np.eye(3)
        axis, sine = plane_axes(start)[0], 0.0
    axis = axis / np.linalg.norm(axis)
    angle = float(np.degrees(np.arctan2(sine, cosine)))
    quarter = round(angle / 90.0) * 90.0
    return _rotation(axis, quarter if abs(angle - quarter) < 1e-9 else angle)


def _rotation(axis: Array, degrees: float) -> Array:
    """A turn about an axis, exact for quarters (Rodrigues)."""
    quarter = {0: (1.0, 0.0), 1: (0.0, 1.0), 2: (-1.0, 0.0), 3: (0.0, -1.0)}
    angle = np.radians(degrees)
    cos, sin = float(np.cos(angle)), float(np.sin(angle))
    if degrees % 90 == 0:
        cos, sin = quarter[int(degrees // 90) % 4]
    x, y, z = axis
    cross = np.array([[0.0, -z, y], [z, 0.0, -x], [-y, x, 0.0]])
    matrix: Array = cos * np.eye(3) + sin * cross + (1.0 - cos) * np.outer(axis, axis)
    return matrix
