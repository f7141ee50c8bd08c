"""Closing the hairline gap between two solids."""

import numpy as np

from ..diagnose.diagnosis import Diagnosis
from ..diagnose.near_gaps import NearGaps
from ..mesh.arrays import Array
from ..mesh.float32 import on_float32
from ..mesh.triangle_mesh import Mesh
from ..outcome import Outcome, Skipped
from ..spatial.box_tree import Tree
from .union import intersecting_shells, unite_shells


def close_near_gaps(
    diagnosis: Diagnosis, gaps: NearGaps, pairs: Array, *, overlap: float = 0.02
) -> Outcome:
    """Move the smaller of two solids that almost touch into the other, and unite them.

    It moves along the shortest way across the gap, with the voids in it; the larger one stays
    where it is.

    Parameters
    ----------
    diagnosis : Diagnosis
    gaps : NearGaps
        Of the same mesh.
    pairs : ndarray, shape (k, 2)
        Numbers of the shells of each gap to close, in this order; each shell is moved, or moved
        to, once.
    overlap : float
        How far it goes in beyond touching, mm.

    Returns
    -------
    Outcome
        Numbers: ``gaps`` closed, ``farthest_mm`` that a solid moved. Skipped as `unite_shells`, or
        ``do-not-meet``.

    Examples
    --------
    >>> from caulkcore.diagnose.near_gaps import near_gaps
    >>> from caulkcore.mesh.concatenate import concatenate
    >>> points = np.array([[0, 0, 0], [4, 0, 0], [0, 4, 0], [0, 0, 4.0]])
    >>> sides = np.array([[0, 2, 1], [0, 1, 3], [0, 3, 2], [1, 2, 3]])
    >>> below = Mesh((points * [1, 1, -1] + [0.3, 0.4, -0.01]) * [0.5, 0.5, 1], sides[:, ::-1])
    >>> two = Diagnosis(concatenate([Mesh(points, sides), below]))
    >>> gaps = near_gaps(two, np.array([0, 1]), 0.05)
    >>> close_near_gaps(two, gaps, np.array([[0, 1]])).numbers["gaps"]
    1
    """
    mesh = diagnosis.mesh
    volume, _ = diagnosis.shell_measures
    shell, _ = diagnosis.shells
    depth, parent = diagnosis.nesting
    vertices = mesh.vertices.copy()
    closed: list[set[int]] = []
    moved: set[int] = set()
    farthest = 0.0
    for pair in pairs.tolist():
        small, large = sorted(pair, key=lambda s: abs(volume[s]))
        if moved & {small, large}:
            continue
        group = [small, *np.flatnonzero((parent == small) & (depth > 0)).tolist()]
        faces = diagnosis.topology.faces[np.isin(shell, group)]
        spans = gaps.spans[(gaps.shells == sorted(pair)).all(axis=1)]
        shift = _shift_across(mesh, diagnosis.topology.faces[shell == small], spans, overlap)
        vertices[np.unique(faces)] += shift
        farthest = max(farthest, float(np.linalg.norm(shift)))
        moved |= {small, large}
        closed.append({small, large})
    if not closed:
        return Outcome(mesh)
    nearer = Diagnosis(on_float32(Mesh(vertices, mesh.faces), mesh))
    met = np.array([pair for pair in intersecting_shells(nearer).tolist() if set(pair) in closed])
    united = unite_shells(nearer, met) if len(met) else Outcome(nearer.mesh)
    if united.mesh is nearer.mesh:
        return Outcome(mesh, skipped=united.skipped or (Skipped("do-not-meet"),))
    numbers = {"gaps": len(closed), "farthest_mm": farthest}
    return Outcome(united.mesh, numbers, united.skipped)


def _shift_across(mesh: Mesh, faces: Array, spans: Array, overlap: float) -> Array:
    """The shift that takes a shell over the narrowest of some spans and a little further."""
    width = np.linalg.norm(spans[:, 1] - spans[:, 0], axis=1)
    span = spans[int(np.argmin(width))]
    distance, _ = Tree.of(mesh.vertices, faces).nearest(span)
    here, there = span if distance[0] <= distance[1] else span[::-1]
    shift = there - here
    return shift * (1 + overlap / max(float(np.linalg.norm(shift)), 1e-12))
