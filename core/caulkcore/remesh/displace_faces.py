"""Moving chosen faces: pushed by a distance with a fall-off, or laid into a plane."""

from typing import Literal

import numpy as np

from ..diagnose.intersections import intersecting_faces
from ..errors import OperationRefused
from ..mesh._edge_kernels import components
from ..mesh.arrays import Array
from ..mesh.fitted_plane import exact_axis, fitted_plane
from ..mesh.float32 import as_float32
from ..mesh.split_edges import edge_lengths, halve_edges, marked_edges
from ..mesh.triangle_mesh import Mesh, face_crosses, vertex_normals
from ..outcome import Outcome, Skipped
from ..progress import SILENT, Progress
from ..spatial.box_tree import Tree

_STEPS_OF_FALLOFF = 6
"""Edges across the fall-off, so that its bend is drawn: longer ones are halved first."""
_MOST_FACES = 4_000_000
"""Faces up to which a fall-off is made finer: more are more than a person can mean."""
_TRIES = 7
"""Halvings in the search for how far faces can go before they would cross: to a hundredth."""

Direction = Literal["outward", "together"]
"""Each vertex along its own normal, or all along the mean one."""
Plane = Literal["rim", "middle"]
"""The plane that fits the rim of the faces, or that of the faces themselves."""


def push_faces(
    mesh: Mesh,
    chosen: Array,
    distance: float,
    *,
    falloff: float = 0.0,
    direction: Direction = "together",
    progress: Progress = SILENT,
) -> Outcome:
    """Move faces out or in by a distance; the surface around follows less and less.

    Within the fall-off, long edges are halved first, so that the result does not depend on how
    the surface happens to be divided. The share by which a point there follows is a smooth step
    of its distance from the chosen faces.

    Parameters
    ----------
    mesh : Mesh
    chosen : ndarray, shape (m,), bool
    distance : float
        mm; below zero into the material.
    falloff : float
        How far around the surface follows, mm.
    direction : {"together", "outward"}
        All along the mean normal of the faces, or each vertex along its own.
    progress : Progress

    Returns
    -------
    Outcome
        Numbers: ``moved`` vertices, ``furthest_mm``. Skipped: ``nothing-chosen``;
        ``no-direction``; ``would-intersect`` with ``reached_mm``, how far it could go.

    Raises
    ------
    OperationRefused
        If the fall-off would take too many triangles.
    Cancelled
        If `progress` asks to stop.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> cube = cuboid()
    >>> top = (cube.vertices[cube.faces][:, :, 2] == 10).all(axis=1)
    >>> round(push_faces(cube, top, 2.0).mesh.volume)
    1200
    """
    if not chosen.any():
        return Outcome(mesh, skipped=(Skipped("nothing-chosen"),))
    source = Tree.of(mesh.vertices, mesh.faces[chosen])
    fine, chosen = _refined(mesh, chosen, source, falloff)
    share = _shares(fine, chosen, source, falloff)
    if direction == "outward":
        normals = _normals(fine, chosen)
    else:
        total = _direction(face_crosses(fine.vertices, fine.faces[chosen]))
        if total is None:
            return Outcome(mesh, skipped=(Skipped("no-direction"),))
        normals = np.broadcast_to(total, fine.vertices.shape)
    return _displaced(mesh, fine, normals * (share * distance)[:, None], distance, progress)


def flatten_faces(
    mesh: Mesh, chosen: Array, *, plane: Plane = "middle", progress: Progress = SILENT
) -> Outcome:
    """Lay faces into a plane.

    Parameters
    ----------
    mesh : Mesh
    chosen : ndarray, shape (m,), bool
    plane : {"middle", "rim"}
        The plane that halves what lies over and under it, or the one that fits their rim.
    progress : Progress

    Returns
    -------
    Outcome
        Numbers: ``moved`` vertices, ``furthest_mm``. Skipped: ``nothing-chosen``;
        ``no-direction``; ``no-rim``; ``would-intersect`` with ``reached_mm``; ``flat-already``.

    Raises
    ------
    Cancelled
        If `progress` asks to stop.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import torus
    >>> ring = torus(24)
    >>> top = (ring.vertices[ring.faces][:, :, 2] > 5).all(axis=1)
    >>> flat = flatten_faces(ring, top).mesh
    >>> round(float(np.ptp(flat.vertices[flat.faces[top]][:, :, 2])), 6)
    0.0
    """
    if not chosen.any():
        return Outcome(mesh, skipped=(Skipped("nothing-chosen"),))
    v, faces = mesh.vertices, mesh.faces[chosen]
    used = np.unique(faces)
    crosses = face_crosses(v, faces)
    normal = _direction(crosses)
    if normal is None:
        return Outcome(mesh, skipped=(Skipped("no-direction"),))
    if plane == "rim":
        rim = np.intersect1d(used, np.unique(mesh.faces[~chosen]))
        if len(rim) < 3:
            return Outcome(mesh, skipped=(Skipped("no-rim"),))
        at, normal = fitted_plane(v[rim])
    else:
        weight = np.linalg.norm(crosses, axis=1)
        at = (v[faces].mean(axis=1) * weight[:, None]).sum(axis=0) / weight.sum()
        normal = exact_axis(normal)
    shift = np.zeros_like(v)
    shift[used] = -((v[used] - at) @ normal)[:, None] * normal
    furthest = float(np.linalg.norm(shift, axis=1).max())
    if furthest <= 1e-9 * mesh.diagonal:
        return Outcome(mesh, skipped=(Skipped("flat-already"),))
    return _displaced(mesh, mesh, shift, furthest, progress)


def _direction(crosses: Array) -> Array | None:
    """The way that faces look in the mean, unit; None where they look to all sides."""
    total = crosses.sum(axis=0)
    length = float(np.linalg.norm(total))
    if length <= 1e-6 * float(np.linalg.norm(crosses, axis=1).sum()):
        return None
    return total / length


def _refined(mesh: Mesh, chosen: Array, source: Tree, falloff: float) -> tuple[Mesh, Array]:
    """The mesh with short edges where the fall-off bends it, and the chosen faces in it."""
    if falloff <= 0:
        return mesh, chosen
    size = falloff / _STEPS_OF_FALLOFF
    vertices, faces, origin = mesh.vertices, mesh.faces, np.arange(len(mesh.faces))
    while True:
        lengths = edge_lengths(vertices, faces)
        long = np.flatnonzero((lengths.max(axis=1) > size) & ~chosen[origin])
        middle = vertices[faces[long]].mean(axis=1)
        reach = np.linalg.norm(vertices[faces[long]] - middle[:, None], axis=2).max(axis=1)
        away, _ = source.nearest(middle)
        near = long[away <= falloff + reach]
        if not len(near):
            return Mesh(vertices, faces), chosen[origin]
        if len(faces) + 3 * len(near) > _MOST_FACES:
            raise OperationRefused("So wide a fall-off would take too many triangles.")
        edges = marked_edges(faces[near], lengths[near] > size)
        middles = as_float32(vertices[edges].mean(axis=1))
        vertices, faces, origin = halve_edges(vertices, faces, origin, edges, middles)


def _shares(mesh: Mesh, chosen: Array, source: Tree, falloff: float) -> Array:
    """How much each vertex follows, shape (n,): those of chosen faces fully."""
    share = np.zeros(len(mesh.vertices))
    share[mesh.faces[chosen]] = 1.0
    if falloff <= 0:
        return share
    others = np.flatnonzero(share == 0)
    away, _ = source.nearest(mesh.vertices[others])
    inner = np.clip(1 - away / falloff, 0.0, 1.0)
    share[others] = inner * inner * (3 - 2 * inner)
    # only what hangs together with the faces within their reach: not a wall's other side
    within = share > 0
    ends = np.concatenate([mesh.faces[:, :2], mesh.faces[:, 1:], mesh.faces[:, ::2]])
    label = components(ends[within[ends].all(axis=1)].astype(np.int64), len(share))
    joined = np.zeros(len(share), dtype=bool)
    joined[label[mesh.faces[chosen]]] = True
    return np.where(joined[label], share, 0.0)


def _normals(mesh: Mesh, chosen: Array) -> Array:
    """Unit normals at the vertices, shape (n, 3): of the chosen faces where there are some."""
    normals = vertex_normals(mesh.vertices, mesh.faces)
    own = np.zeros(len(normals), dtype=bool)
    own[mesh.faces[chosen]] = True
    normals[own] = vertex_normals(mesh.vertices, mesh.faces[chosen])[own]
    return normals


def _displaced(
    mesh: Mesh, fine: Mesh, shift: Array, distance: float, progress: Progress
) -> Outcome:
    """The finer mesh with its vertices shifted, unless faces would cross that did not."""
    moves = np.any(shift, axis=1)
    fresh = moves[fine.faces].any(axis=1)
    before = len(intersecting_faces(fine.vertices, fine.faces, fresh))

    def moved(part: float) -> Array:
        return np.where(moves[:, None], as_float32(fine.vertices + part * shift), fine.vertices)

    def crosses(part: float) -> bool:
        return len(intersecting_faces(moved(part), fine.faces, fresh)) > before

    progress.step("Looking for triangles that cross", 0.5)
    if crosses(1.0):
        low, high = 0.0, 1.0
        for attempt in range(_TRIES):
            progress.step("Looking how far it can go", 0.5 + 0.5 * attempt / _TRIES)
            middle = (low + high) / 2
            low, high = (low, middle) if crosses(middle) else (middle, high)
        reached = {"reached_mm": low * abs(distance)}
        return Outcome(mesh, skipped=(Skipped("would-intersect", reached),))
    vertices = moved(1.0)
    furthest = float(np.linalg.norm(vertices - fine.vertices, axis=1).max())
    numbers = {"moved": int(moves.sum()), "furthest_mm": furthest}
    return Outcome(Mesh(vertices, fine.faces), numbers)
