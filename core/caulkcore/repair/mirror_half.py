"""Completing a half: its mirror image about the plane in which its rim lies."""

import numpy as np

from ..diagnose.boundary_loops import FLAT_LOOP
from ..diagnose.diagnosis import Diagnosis
from ..mesh.arrays import Array
from ..mesh.fitted_plane import fitted_plane
from ..mesh.float32 import on_float32
from ..mesh.triangle_mesh import Mesh
from ..outcome import Outcome, Skipped


def rim_plane(diagnosis: Diagnosis) -> tuple[Array, Array] | None:
    """The plane of the longest open rim, if all of the mesh lies on one side of it.

    Parameters
    ----------
    diagnosis : Diagnosis

    Returns
    -------
    point : ndarray, shape (3,)
        In mm.
    normal : ndarray, shape (3,)
        Unit, away from the mesh.
        None instead of both where there is no rim, the longest one is not flat, or the mesh lies
        on both sides of it.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import torus
    >>> ring = torus(24)
    >>> under = (ring.vertices[ring.faces][:, :, 2] < 1e-9).all(axis=1)
    >>> half = Mesh(ring.vertices, ring.faces[under])
    >>> rim_plane(Diagnosis(half.compact()))[1].round(6).tolist()
    [0.0, 0.0, 1.0]
    """
    found = diagnosis.boundary_loops
    closed = np.flatnonzero(found.closed)
    if not len(closed):
        return None
    mesh = diagnosis.mesh
    longest = int(closed[np.argmax(found.extents[closed])])
    points = mesh.vertices[found[longest].vertices]
    at, normal = fitted_plane(points)
    slack = FLAT_LOOP * float(found.extents[longest])
    over = (mesh.vertices - at) @ normal
    if over.max() > -over.min():
        normal, over = -normal, -over
    if np.abs((points - at) @ normal).max() > slack or over.max() > slack:
        return None
    return at, normal


def mirror_half(diagnosis: Diagnosis) -> Outcome:
    """Add the mirror image of a half about the plane of its rim, joined to it there.

    Vertices of rims that lie in the plane are moved into it exactly and belong to both halves.

    Parameters
    ----------
    diagnosis : Diagnosis

    Returns
    -------
    Outcome
        Numbers: ``faces`` added, ``furthest_mm`` by which a vertex of the rim moved. Skipped:
        ``no-plane``.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import torus
    >>> ring = torus(24)
    >>> under = (ring.vertices[ring.faces][:, :, 2] < 1e-9).all(axis=1)
    >>> half = Mesh(ring.vertices, ring.faces[under])
    >>> whole = mirror_half(Diagnosis(half.compact())).mesh
    >>> round(whole.volume / ring.volume, 6)
    1.0
    """
    mesh, plane = diagnosis.mesh, rim_plane(diagnosis)
    if plane is None:
        return Outcome(mesh, skipped=(Skipped("no-plane"),))
    at, normal = plane
    found = diagnosis.boundary_loops
    over = (mesh.vertices - at) @ normal
    slack = FLAT_LOOP * float(found.extents.max())
    at_rim = np.zeros(len(over), dtype=bool)
    at_rim[found.groups.items] = True
    shared = at_rim & (np.abs(over) <= slack)
    vertices = np.where(shared[:, None], mesh.vertices - over[:, None] * normal, mesh.vertices)
    number = np.arange(len(over))
    apart = np.flatnonzero(~shared)
    number[apart] = len(over) + np.arange(len(apart))
    image = vertices[apart] - 2 * over[apart, None] * normal
    faces = np.concatenate([mesh.faces, number[mesh.faces][:, ::-1]])
    whole = on_float32(Mesh(np.concatenate([vertices, image]), faces).compact(), mesh)
    furthest = float(np.abs(over[shared]).max(initial=0.0))
    return Outcome(whole, {"faces": len(mesh.faces), "furthest_mm": furthest})
