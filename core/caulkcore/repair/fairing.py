"""Fills that follow the surface around them: as fine as it is, and curved as it is."""

from typing import Literal

import numpy as np

from ..diagnose.boundary_loops import BoundaryLoops
from ..diagnose.diagnosis import Diagnosis
from ..diagnose.intersections import new_faces_intersecting
from ..mesh.arrays import Array, frozen
from ..mesh.float32 import as_float32
from ..mesh.groups import Groups
from ..mesh.polygons import newell
from ..mesh.topology import Topology
from ..mesh.triangle_mesh import Mesh, face_areas, face_normals
from ._patch_kernels import refine_patch

MOST_POINTS = 100_000
"""Greatest number of new points in one fill."""
_LEAST_WEIGHT = 0.02
"""Least cotangent weight, and the inverse of the greatest: slivers would make the system
singular."""
_SOLVES = 2
"""Times that the fill is laid out, each time with the weights of the shape so far."""
_LEAST_LEAN = 0.75
"""The surface goes on over a hole if the cosine of the angle between its faces and the fill's plane
is above this in the mean: they lean by less than 41 degrees."""
_IN_PLANE = 0.9999
"""And if one of them at least leans by more than this cosine, or the hole lies in a flat face."""
_LEAST_EDGES_WIDE = 2.5
"""And if the hole is wider than so many of its edges: a smaller one holds no new point."""

FillShape = Literal["fitting", "flat", "following"]
"""How a fill is shaped: bent where the surface goes on, never, or wherever there is room."""


def fair_fills(
    diagnosis: Diagnosis,
    loops: BoundaryLoops,
    vertices: Array,
    fills: list[Array],
    shape: FillShape,
) -> tuple[Array, list[Array], int]:
    """Make fills follow the surface where it goes on over the hole.

    Parameters
    ----------
    diagnosis : Diagnosis
    loops : BoundaryLoops
        The holes.
    vertices : ndarray, shape (n, 3), float64
        Of the mesh, and points that fills have added.
    fills : list of ndarray, shape (k, 3)
        Triangles over each hole.
    shape : {"fitting", "following"}
        Whether only where the surface goes on, or wherever there is room.

    Returns
    -------
    vertices : ndarray, shape (n + p, 3)
    fills : list of ndarray, shape (k, 3)
        Those that would intersect something, or each other, stay as they were.
    count : int
        How many follow the surface.
    """
    mesh = diagnosis.mesh
    n = len(mesh.vertices)
    rims = [i for i in range(len(loops)) if len(fills[i]) == loops.edges[i] - 2]
    rims = [i for i in rims if fills[i].max() < n]
    v = mesh.vertices
    mean = {}
    for i in rims:
        ring = v[loops.groups[i]]
        mean[i] = float(np.linalg.norm(np.roll(ring, -1, axis=0) - ring, axis=1).mean())
    rims = [i for i in rims if loops.extents[i] > _LEAST_EDGES_WIDE * mean[i]]
    if not rims:
        return vertices, fills, 0
    topology = diagnosis.topology
    open_ = np.flatnonzero(topology.twin == -1)
    beside = dict(
        zip(map(tuple, topology.ends(open_).tolist()), (open_ // 3).tolist(), strict=True)
    )
    normals = face_normals(v, topology.faces)
    at_rim = np.zeros(n, dtype=bool)
    at_rim[np.concatenate([loops.groups[i] for i in rims])] = True
    corner = np.flatnonzero(at_rim[mesh.faces.ravel()])
    touched, label = np.unique(mesh.faces.ravel()[corner], return_inverse=True)
    touching = Groups.by_label(label, corner // 3)
    total = len(vertices)
    new, bent = [vertices], {}
    for i in rims:
        ring = loops.groups[i]
        sides = zip(ring.tolist(), np.roll(ring, -1).tolist(), strict=True)
        area = newell(v[ring[::-1]])
        lean = normals[[beside[s] for s in sides if s in beside]] @ area / np.linalg.norm(area)
        if shape == "fitting" and not (lean.mean() > _LEAST_LEAN and lean.min() < _IN_PLANE):
            continue
        around = mesh.faces[np.unique(touching.of(np.searchsorted(touched, ring)))]
        points, triangles = fair_fill(v, around, ring, fills[i], _edge_lengths(v, around, ring))
        if len(points):
            bent[i] = np.where(triangles >= n, triangles - n + total, triangles)
            new.append(as_float32(points))
            total += len(points)
    if not bent:
        return vertices, fills, 0
    vertices = np.concatenate(new)
    chosen = [bent.get(i, fill) for i, fill in enumerate(fills)]
    of = np.repeat(np.arange(len(chosen)), [len(fill) for fill in chosen])
    crossing = set(
        of[new_faces_intersecting(vertices, mesh.faces, np.concatenate(chosen))].tolist()
    )
    kept = [fills[i] if i in crossing else fill for i, fill in enumerate(chosen)]
    return vertices, kept, len(bent.keys() - crossing)


def _edge_lengths(v: Array, around: Array, ring: Array) -> Array:
    """Mean length of the edges at each vertex of a ring."""
    ends = np.concatenate([around[:, [0, 1]], around[:, [1, 2]], around[:, [2, 0]]])
    length = np.linalg.norm(v[ends[:, 0]] - v[ends[:, 1]], axis=1)
    vertices, which = np.unique(ends, return_inverse=True)
    which = which.reshape(-1, 2)
    total = np.bincount(which.ravel(), np.repeat(length, 2))
    mean = total / np.bincount(which.ravel())
    return mean[np.searchsorted(vertices, ring)]


def fair_fill(
    vertices: Array, around: Array, ring: Array, triangles: Array, size: Array
) -> tuple[Array, Array]:
    """A fill made as fine as its surroundings and bent to run on as they do.

    The triangles are divided, then the new points are put where the surface bends least, that of
    the faces around included: least squares of the Laplacian over the fill and its rim, with
    cotangent weights.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3)
        Of the mesh.
    around : ndarray, shape (k, 3)
        The faces of the mesh that touch the ring.
    ring : ndarray, shape (r,)
        Vertices of the hole's rim.
    triangles : ndarray, shape (m, 3)
        The fill, in vertices of the ring.
    size : ndarray, shape (r,)
        Edge length at each vertex of the ring.

    Returns
    -------
    points : ndarray, shape (p, 3)
        New points; none if the fill is as fine as its surroundings already.
    triangles : ndarray, shape (k, 3)
        With new points numbered from n on.

    References
    ----------
    Liepa 2003, *Filling holes in meshes*; Botsch and Kobbelt 2004, *An intuitive framework for
    real-time freeform modeling*.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import torus
    >>> ring = torus(16)
    >>> around = ring.faces[(ring.faces == 40).any(axis=1)]
    >>> from caulkcore.diagnose.diagnosis import Diagnosis
    >>> open_ring = Mesh(ring.vertices, ring.faces[~(ring.faces == 40).any(axis=1)])
    >>> rim = Diagnosis(open_ring).boundary_loops[0].vertices
    >>> fan = np.stack([np.full(4, rim[0]), rim[2:], rim[1:-1]], axis=1)
    >>> beside = open_ring.faces[np.isin(open_ring.faces, rim).any(axis=1)]
    >>> points, triangles = fair_fill(ring.vertices, beside, rim, fan, np.full(6, 2.0))
    >>> len(points) > 0
    True
    """
    place = {int(v): i for i, v in enumerate(ring)}
    local = np.array([[place[v] for v in t] for t in triangles.tolist()], dtype=np.int32)
    twin = Topology(Mesh(vertices[ring], local)).twin
    points, fine = refine_patch(
        frozen(vertices[ring], np.float64), np.ascontiguousarray(size), frozen(local, np.int32),
        twin.astype(np.int64), MOST_POINTS,
    )  # fmt: skip
    new = len(points) - len(ring)
    if not new:
        return points[:0], triangles
    outer = np.setdiff1d(around, ring)
    number = np.full(len(vertices), -1, dtype=np.int64)
    number[ring] = np.arange(len(ring))
    number[outer] = len(points) + np.arange(len(outer))
    all_points = np.vstack([points, vertices[outer]])
    faces = np.concatenate([fine, number[around]])
    free = np.arange(len(ring), len(points))
    for _ in range(_SOLVES):
        all_points[free] = _least_bent(all_points, faces, len(points), free)
    back = np.concatenate([ring, len(vertices) + np.arange(new)])
    return all_points[free], back[fine]


def _least_bent(points: Array, faces: Array, rows: int, free: Array) -> Array:
    """Places of the free points, the Laplacian of the first `rows` points being least."""
    from scipy.sparse import coo_array, diags_array
    from scipy.sparse.linalg import spsolve

    n = len(points)
    corners = points[faces]
    weights, ends = [], []
    for k in range(3):
        a, b, c = (corners[:, (k + i) % 3] for i in range(3))
        u, w = a - c, b - c
        sine = np.linalg.norm(np.cross(u, w), axis=1)
        cosine = np.einsum("ij,ij->i", u, w)
        cot = np.divide(cosine, sine, out=np.zeros_like(sine), where=sine > 0)
        weights.append(np.clip(0.5 * cot, _LEAST_WEIGHT, 1 / _LEAST_WEIGHT))
        ends.append(np.stack([faces[:, k], faces[:, (k + 1) % 3]], axis=1))
    weight, end = np.concatenate(weights), np.concatenate(ends)
    i, j = end.T
    both = coo_array((np.tile(weight, 2), (np.append(i, j), np.append(j, i))), shape=(n, n)).tocsr()
    laplace = (diags_array(both.sum(axis=1)) - both).tocsr()[:rows]
    areas = np.repeat(face_areas(points, faces), 3) / 3
    mass = np.bincount(faces.ravel(), areas, minlength=n)[:rows]
    weighted = diags_array(1 / np.maximum(mass, 1e-12 * mass.max())) @ laplace
    inner = laplace[:, free]
    fixed = np.setdiff1d(np.arange(n), free)
    right = -(inner.T @ (weighted[:, fixed] @ points[fixed]))
    return np.asarray(spsolve((inner.T @ weighted[:, free]).tocsc(), right)).reshape(-1, 3)
