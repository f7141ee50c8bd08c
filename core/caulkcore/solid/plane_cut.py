"""Solids cut by a plane into closed parts with flat lids."""

from dataclasses import dataclass

import numpy as np

from ..diagnose.diagnosis import Diagnosis
from ..mesh.arrays import Array
from ..mesh.groups import Groups
from ..mesh.polygons import in_plane, triangulate_rings
from ..mesh.triangle_mesh import Mesh, face_crosses
from ..progress import SILENT, Progress

_ON_PLANE = 2.0**-22
"""Vertices nearer to the plane than this share of the largest coordinate lie on it: in float32 they
could not be told from a new vertex beside them."""


@dataclass(frozen=True, eq=False)
class PlaneCut:
    """What a plane made of some solids.

    Attributes
    ----------
    below, above : Mesh
        The part on the side that the normal points away from, and the one that it points to;
        empty if there is nothing on that side.
    lid_faces : int
        How many faces of each are lids: the last ones.
    area : float
        Of the lids of one of them, mm².
    """

    below: Mesh
    above: Mesh
    lid_faces: int
    area: float


def plane_cut(mesh: Mesh, point: Array, normal: Array, *, progress: Progress = SILENT) -> PlaneCut:
    """Cut solids by a plane.

    Faces that the plane does not meet are those of the source, bit for bit. Both parts have the
    same vertices and the same triangles in the plane, so that their volumes add up to that of the
    source but for rounding. Each solid is cut for itself, with the voids in it.

    Parameters
    ----------
    mesh : Mesh
        Closed and coherent.
    point : ndarray, shape (3,)
        On the plane, mm.
    normal : ndarray, shape (3,)
        Of the plane; of any length but zero.
    progress : Progress

    Returns
    -------
    PlaneCut

    Raises
    ------
    ValueError
        If the mesh is not closed, or an edge in the plane has more than two faces.
    Cancelled
        If `progress` asks to stop.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> cut = plane_cut(cuboid(), np.array([0.0, 0.0, 4.0]), np.array([0.0, 0.0, 1.0]))
    >>> round(cut.below.volume, 6), round(cut.above.volume, 6)
    (400.0, 600.0)
    """
    unit = np.asarray(normal, dtype=np.float64) / np.linalg.norm(normal)
    away = (mesh.vertices - point) @ unit
    side = np.sign(away).astype(np.int8)
    side[np.abs(away) <= _ON_PLANE * np.abs(mesh.vertices).max(initial=0.0)] = 0
    progress.step("Dividing faces", 0.1)
    divided = _divided(mesh, side, away, unit)
    progress.step("Closing the parts", 0.5)
    solid = _solid_of_each_face(mesh)
    lid = _lid(divided, solid, unit)
    area = float(np.linalg.norm(face_crosses(divided.vertices, lid), axis=1).sum()) / 2
    below, above = (
        Mesh(divided.vertices, np.concatenate([divided.faces[which], flat])).compact()
        for which, flat in ((divided.below, lid), (~divided.below, lid[:, ::-1]))
    )
    return PlaneCut(below, above, len(lid), area)


@dataclass(frozen=True, eq=False)
class _Divided:
    """Faces that lie on one side each.

    Attributes
    ----------
    vertices : ndarray, shape (n, 3)
    on_plane : ndarray, shape (n,), bool
    faces : ndarray, shape (m, 3), int32
    below : ndarray, shape (m,), bool
    source : ndarray, shape (m,)
        The face that each is a part of.
    """

    vertices: Array
    on_plane: Array
    faces: Array
    below: Array
    source: Array


def _divided(mesh: Mesh, side: Array, away: Array, unit: Array) -> _Divided:
    v, faces = mesh.vertices, mesh.faces
    of = side[faces]
    meets = (of < 0).any(axis=1) & (of > 0).any(axis=1)
    below = (of < 0).any(axis=1)
    # in the plane itself: the lid of what lies behind it
    flat = (of == 0).all(axis=1)
    below[flat] = face_crosses(v, faces[flat]) @ unit > 0
    number = np.arange(len(faces))
    whole = faces[~meets], below[~meets], number[~meets]
    crossing = number[meets]
    if not len(crossing):
        return _Divided(v, side == 0, *whole)
    # turned so that a vertex on the plane comes first, else the one that is alone on its side
    of = of[crossing]
    zero = (of == 0).any(axis=1)
    alone = np.argmax(of == -np.sign(of.sum(axis=1))[:, None], axis=1)
    first = np.where(zero, np.argmax(of == 0, axis=1), alone)
    turned = (first[:, None] + np.arange(3)) % 3
    a, b, c = np.take_along_axis(faces[crossing], turned, axis=1).T
    ends = np.concatenate(
        [np.stack([b, c], axis=1)[zero], np.stack([a, b], axis=1)[~zero],
         np.stack([c, a], axis=1)[~zero]]
    )  # fmt: skip
    ends = np.sort(ends, axis=1).astype(np.int64)
    keys, which = np.unique(ends[:, 0] * len(v) + ends[:, 1], return_inverse=True)
    low, high = keys // len(v), keys % len(v)
    share = away[low] / (away[low] - away[high])
    fresh = v[low] + share[:, None] * (v[high] - v[low])
    # in double precision, so that volumes add up; what float32 makes one point is one vertex
    every = np.concatenate([v[side == 0], fresh])
    _, first, same = np.unique(
        every.astype(np.float32), axis=0, return_index=True, return_inverse=True
    )
    points, same = every[first], same.reshape(-1)
    known = np.full(len(points), -1, dtype=np.int64)
    known[same[: np.count_nonzero(side == 0)]] = np.flatnonzero(side == 0)
    added = known < 0
    known[added] = len(v) + np.arange(np.count_nonzero(added))
    new = known[same[np.count_nonzero(side == 0) :]][which.reshape(-1)]
    vertices = np.concatenate([v, points[added]])
    on_plane = np.concatenate([side == 0, np.ones(np.count_nonzero(added), dtype=bool)])
    n_zero, n_alone = np.count_nonzero(zero), np.count_nonzero(~zero)
    p, q, r = new[:n_zero], new[n_zero : n_zero + n_alone], new[n_zero + n_alone :]
    az, bz, cz = a[zero], b[zero], c[zero]
    al, bl, cl = a[~zero], b[~zero], c[~zero]
    # of the four-sided part the shorter diagonal
    one = np.linalg.norm(vertices[q] - vertices[cl], axis=1)
    short = one <= np.linalg.norm(vertices[bl] - vertices[r], axis=1)
    parts = [
        (az, bz, p, side[bz], crossing[zero]),
        (az, p, cz, side[cz], crossing[zero]),
        (al, q, r, side[al], crossing[~zero]),
        (q, bl, np.where(short, cl, r), side[bl], crossing[~zero]),
        (np.where(short, q, bl), cl, r, side[bl], crossing[~zero]),
    ]
    made = np.concatenate([np.stack(one[:3], axis=1) for one in parts])
    of_side = np.concatenate([one[3] for one in parts]) < 0
    source = np.concatenate([one[4] for one in parts])
    x, y, z = made.T
    real = (x != y) & (y != z) & (z != x)
    return _Divided(
        vertices,
        on_plane,
        np.concatenate([whole[0], made[real].astype(np.int32)]),
        np.concatenate([whole[1], of_side[real]]),
        np.concatenate([whole[2], source[real]]),
    )


def _solid_of_each_face(mesh: Mesh) -> Array:
    """The shell that each face is of, or the one round it where that is a void; shape (m,).

    Raises
    ------
    ValueError
        If one is open.
    """
    diagnosis = Diagnosis.of(mesh)
    _, count = diagnosis.shells
    if diagnosis.open_shells.any() or not count:
        raise ValueError("only closed solids are cut")
    volume, _ = diagnosis.shell_measures
    depth, parent = diagnosis.nesting
    solid = np.where((volume < 0) & (depth > 0), parent, np.arange(count))
    shell = diagnosis.shell_of_face
    return np.where(shell >= 0, solid[shell], -1)


def _lid(divided: _Divided, solid: Array, unit: Array) -> Array:
    """Triangles that close the part below, shape (k, 3), int32."""
    faces = divided.faces[divided.below]
    owner = solid[divided.source[divided.below]]
    on = divided.on_plane
    start, end = faces.ravel(), np.roll(faces, -1, axis=1).ravel()
    flat = on[start] & on[end]
    start, end, owner = start[flat], end[flat], np.repeat(owner, 3)[flat]
    n = np.int64(len(divided.vertices))
    # of each solid, edges that no face runs back along
    codes = (owner * n + start) * n + end
    back = (owner * n + end) * n + start
    known, counts = np.unique(codes, return_counts=True)
    if counts.max(initial=1) > 1:
        raise ValueError("an edge in the plane has more than two faces")
    matched = np.isin(back, known)
    start, end, owner = start[~matched], end[~matched], owner[~matched]
    if not len(start):
        return np.zeros((0, 3), dtype=np.int32)
    place = np.unique(start)
    flat_points = np.zeros((len(divided.vertices), 2))
    flat_points[place] = in_plane(divided.vertices[place], unit)
    lids = []
    groups = Groups.by_label(owner, np.arange(len(owner)))
    for i in range(len(groups.sizes)):
        rows = groups[i]
        if not len(rows):
            continue
        # the lid runs the other way
        rings = _rings(end[rows], start[rows], flat_points)
        lids.append(triangulate_rings(divided.vertices, rings, unit))
    return np.concatenate(lids).astype(np.int32)


def _rings(start: Array, end: Array, points: Array) -> list[Array]:
    """Closed ways along some directed edges; where several meet, none crosses another."""
    leaving: dict[int, list[int]] = {}
    for e, v in enumerate(start.tolist()):
        leaving.setdefault(v, []).append(e)
    ends = end.tolist()
    used = np.zeros(len(start), dtype=bool)
    rings = []
    for first in range(len(start)):
        if used[first]:
            continue
        ring, e = [], first
        while not used[e]:
            used[e] = True
            ring.append(int(start[e]))
            choices = [c for c in leaving.get(ends[e], ()) if not used[c] or c == first]
            if not choices:
                raise ValueError("the cut does not close")
            e = _next(e, choices, start, end, points)
        rings.append(np.array(ring))
    return rings


def _next(e: int, choices: list[int], start: Array, end: Array, points: Array) -> int:
    """The edge that bounds the same stretch of the inside, which lies on the left."""
    if len(choices) == 1:
        return choices[0]
    back = points[start[e]] - points[end[e]]

    def turn(c: int) -> float:
        on = points[end[c]] - points[start[c]]
        angle = np.arctan2(back[0] * on[1] - back[1] * on[0], back @ on)
        return float(-angle % (2 * np.pi))

    return min(choices, key=turn)


def section_area(mesh: Mesh, height: float) -> float:
    """Area that a solid has at a height, z being up.

    Parameters
    ----------
    mesh : Mesh
        Closed; where it overlaps, each piece counts.
    height : float
        mm.

    Returns
    -------
    float
        mm²; that of just above it where faces lie at that height.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> section_area(cuboid((4.0, 5.0, 10.0)), 3.0)
    20.0
    """
    z = mesh.vertices[:, 2]
    above = (z > height)[mesh.faces]
    count = above.sum(axis=1)
    crossing = (count == 1) | (count == 2)
    faces, above = mesh.faces[crossing], above[crossing]
    if not len(faces):
        return 0.0
    # turned so that the corner that is alone on its side comes first
    single = count[crossing] == 1
    alone = np.argmax(above == single[:, None], axis=1)
    turned = np.take_along_axis(faces, (alone[:, None] + np.arange(3)) % 3, axis=1)
    ends = []
    for other in (1, 2):
        a, b = mesh.vertices[turned[:, 0]], mesh.vertices[turned[:, other]]
        share = (height - a[:, 2]) / (b[:, 2] - a[:, 2])
        ends.append((a + share[:, None] * (b - a))[:, :2])
    middle = mesh.bounds.mean(axis=0)[:2]
    p, q = ends[0] - middle, ends[1] - middle
    twice = p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0]
    # seen from above what is solid lies on the left of the way from the second side to the first
    return float(abs(np.where(single, -twice, twice).sum())) / 2
