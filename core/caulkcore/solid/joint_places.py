"""Where the joints of a cut have room in the material, and how large they can be there."""

from collections.abc import Callable, Sequence

import numpy as np

from ..mesh.arrays import Array
from ..mesh.triangle_mesh import Mesh, face_crosses
from ..spatial.box_tree import Tree
from .joints import CutFrame, Joint

WIDTHS = (12.0, 10.0, 8.0, 6.0, 5.0, 4.0, 3.0, 2.5, 2.0, 1.5, 1.0)
"""Widths of joints that are proposed, mm: whole numbers that a person would choose; what is thinner
than a millimetre breaks."""
_SPHERES = 33
"""Balls along a joint that stand for a cylinder: it is taken for 0.1 % thicker, if as long as wide.
"""
_STEPS = 24
"""Places tried along the longer side of a face of the cut."""
_SPARE = 1.25
"""Of two joints on one face, each stands so many times as far from the surface as it must."""
_LESS = 0.5
"""Two joints are better than one if they are at least so wide of its width: they hold two parts
from turning."""


def frame_of_cut(lid: Mesh, normal: Array) -> CutFrame:
    """Directions in the plane of a cut: along the longest way of its faces.

    Parameters
    ----------
    lid : Mesh
        The faces of the cut.
    normal : ndarray, shape (3,)
        A unit vector.

    Returns
    -------
    CutFrame

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> top = cuboid((30.0, 10.0, 10.0))
    >>> lid = Mesh(top.vertices, top.faces[face_crosses(top.vertices, top.faces)[:, 2] > 0])
    >>> np.abs(frame_of_cut(lid, np.array([0.0, 0.0, 1.0])).along).round(9).tolist()
    [1.0, 0.0, 0.0]
    """
    corners = lid.vertices[lid.faces]
    area = np.linalg.norm(face_crosses(lid.vertices, lid.faces), axis=1)
    off = corners - np.average(corners.mean(axis=1), axis=0, weights=area)
    off -= (off @ normal)[..., None] * normal
    # the middles of a triangle's sides give its second moments exactly
    middles = (off + np.roll(off, 1, axis=1)) / 2
    spread = np.einsum("m,mki,mkj->ij", area, middles, middles)
    values, ways = np.linalg.eigh(spread)
    along = ways[:, 2]
    if values[2] < (1.0 + 1e-6) * values[1]:
        # as long one way as the other: square to an axis
        along = np.eye(3)[np.argmin(np.abs(normal))]
    along = along - (along @ normal) * normal
    return CutFrame(normal, along / np.linalg.norm(along))


def room_round(tree: Tree, points: Array, normal: Array, reach: tuple[float, float]) -> Array:
    """Radius of the cylinder round each point that meets no surface, at least.

    Parameters
    ----------
    tree : Tree
        Of the surface.
    points : ndarray, shape (k, 3)
        Inside it.
    normal : ndarray, shape (3,)
        A unit vector along the cylinders.
    reach : (float, float)
        How far each goes against the normal and along it, mm.

    Returns
    -------
    ndarray, shape (k,)
        mm.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> box = cuboid()
    >>> tree = Tree.of(box.vertices, box.faces)
    >>> up = np.array([0.0, 0.0, 1.0])
    >>> room_round(tree, np.array([[5.0, 4.0, 5.0]]), up, (0.5, 0.5)).round(2).tolist()
    [4.0]
    """
    heights = np.linspace(-reach[0], reach[1], _SPHERES)
    half = 0.5 * (reach[0] + reach[1]) / (_SPHERES - 1)
    at = points[:, None] + heights[:, None] * normal
    away, _ = tree.nearest(at.reshape(-1, 3))
    least = away.reshape(len(points), _SPHERES).min(axis=1)
    room: Array = np.sqrt(np.maximum(least**2 - half**2, 0.0))
    return room


def proposed_joints(
    tree: Tree,
    lid: Mesh,
    frame: CutFrame,
    wall: float,
    made: Callable[[Array, float], Joint],
    widths: Sequence[float] = WIDTHS,
) -> list[Joint]:
    """Joints for one face of a cut: two as far apart as they can be, or one where it has most room.

    Parameters
    ----------
    tree : Tree
        Of the surface that was cut.
    lid : Mesh
        The face: triangles in the plane that hang together.
    frame : CutFrame
    wall : float
        What has to stay round a joint, mm.
    made : callable
        Makes a joint of a place and a width.
    widths : sequence of float
        The ones to choose from, descending, mm.

    Returns
    -------
    list of Joint
        Empty where there is no room for any.
    """
    points = _candidates(lid, frame)
    away, _ = tree.nearest(points)
    single: list[Joint] = []
    for width in widths:
        if single and width < _LESS * single[0].width:
            break
        trial = made(points[0], width)
        need = trial.radius + wall
        near = points[away >= need]
        if not len(near):
            continue
        room = room_round(tree, near, frame.normal, trial.reach)
        if not single and (room >= need).any():
            single = [made(near[np.argmax(room)], width)]
        pair = _farthest(near[room >= _SPARE * need])
        if pair is not None and np.linalg.norm(pair[1] - pair[0]) >= 2 * _SPARE * need:
            return [made(at, width) for at in pair]
    return single


def _candidates(lid: Mesh, frame: CutFrame) -> Array:
    """Points of a square grid on a face of the cut, its middle among them if that is on it."""
    axes = np.stack([frame.along, frame.across])
    flat = lid.vertices[lid.faces].reshape(-1, 3)
    height = float(flat[0] @ frame.normal)
    low, high = (flat @ axes.T).min(axis=0), (flat @ axes.T).max(axis=0)
    step = float((high - low).max()) / _STEPS
    counts = ((high - low) / 2 / step).astype(int)
    u, v = (
        middle + step * np.arange(-n, n + 1)
        for middle, n in zip((low + high) / 2, counts, strict=True)
    )
    grid = np.stack(np.meshgrid(u, v, indexing="ij"), axis=-1).reshape(-1, 2)
    points = grid @ axes + height * frame.normal
    off, _ = Tree.of(lid.vertices, lid.faces).nearest(points)
    on = points[off <= 1e-3 * step]
    return on if len(on) else lid.vertices[lid.faces].mean(axis=1)


def _farthest(points: Array) -> tuple[Array, Array] | None:
    """The two points that are farthest from one another."""
    if len(points) < 2:
        return None
    apart = np.linalg.norm(points[:, None] - points[None], axis=2)
    one, other = np.unravel_index(np.argmax(apart), apart.shape)
    return points[one], points[other]
