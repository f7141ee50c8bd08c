"""Smoothing a region: vertices drawn towards their neighbours and back."""

import numpy as np
from scipy.sparse import coo_array

from ..diagnose.intersections import intersecting_faces
from ..mesh.arrays import Array
from ..mesh.float32 import as_float32
from ..mesh.sharp_edges import SHARP, smooth_half_edges
from ..mesh.topology import Topology
from ..mesh.triangle_mesh import Mesh
from ..outcome import Outcome, Skipped
from ..progress import SILENT, Progress
from ..spatial.face_region import Region, Spots, share_of_region
from .estimate import Estimate, MeshMeasures, region_area

_STEP = 0.6
"""There and back by the same share: what bends little hardly changes, so nothing shrinks."""
_TRIES = 8
"""Times that the movement is halved round faces that would intersect."""
_LAST_TRIES = 3
"""Of these, the last so many leave such vertices where they were."""


def smooth(
    mesh: Mesh,
    region: Region | None = None,
    *,
    rounds: int = 10,
    deviation: float | None = None,
    sharp: float = SHARP,
    progress: Progress = SILENT,
) -> Outcome:
    """Smooth a region without shrinking it: Taubin's smoothing, forth as far as back.

    Vertices on sharp edges and open rims stay, and so does all outside the region; the effect
    falls off towards its rim. Where faces would intersect by it, it is less.

    Parameters
    ----------
    mesh : Mesh
    region : sequence of (x, y, z, radius), or ndarray, shape (m,), bool, optional
        mm; or the faces; the whole by default.
    rounds : int
        How often; more make it smoother.
    deviation : float, optional
        How far a vertex may move, mm.
    sharp : float
        Edges bent by more than this stay as they are, degrees.
    progress : Progress

    Returns
    -------
    Outcome
        Numbers: ``moved`` vertices, ``furthest_mm``. Skipped: ``nothing-can-move``;
        ``would-intersect``; ``even-already``; ``moved-less`` with ``vertices``.

    Raises
    ------
    Cancelled
        If `progress` asks to stop.

    References
    ----------
    Taubin 1995, *A signal processing approach to fair surface design*.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import torus
    >>> smooth(torus(24), rounds=2).numbers["moved"]
    576
    """
    share = share_of_region(mesh, region)
    share[_fixed_vertices(mesh, sharp)] = 0.0
    if not share.any():
        return Outcome(mesh, skipped=(Skipped("nothing-can-move"),))
    shift = _smoothed(mesh, share, rounds, progress) - mesh.vertices
    if deviation is not None:
        far = np.linalg.norm(shift, axis=1)
        shift *= np.minimum(1.0, deviation / np.maximum(far, 1e-300))[:, None]
    less = np.ones(len(shift))
    for attempt in range(_TRIES):
        progress.step("Looking for triangles that cross", 0.8 + 0.2 * attempt / _TRIES)
        by = shift * less[:, None]
        moves = by.any(axis=1)
        vertices = np.where(moves[:, None], as_float32(mesh.vertices + by), mesh.vertices)
        fresh = moves[mesh.faces].any(axis=1)
        at = np.unique(mesh.faces[np.unique(intersecting_faces(vertices, mesh.faces, fresh))])
        at = at[moves[at]]
        if not len(at):
            break
        around = np.isin(mesh.faces, at).any(axis=1)
        less[np.unique(mesh.faces[around])] *= 0.5 if attempt < _TRIES - _LAST_TRIES else 0.0
    else:
        return Outcome(mesh, skipped=(Skipped("would-intersect"),))
    if not moves.any():
        return Outcome(mesh, skipped=(Skipped("even-already"),))
    far = float(np.linalg.norm(vertices - mesh.vertices, axis=1).max())
    held = int(((less < 1) & (shift != 0).any(axis=1)).sum())
    skipped = (Skipped("moved-less", {"vertices": held}),) if held else ()
    numbers = {"moved": int(moves.sum()), "furthest_mm": far}
    return Outcome(Mesh(vertices, mesh.faces), numbers, skipped)


def estimate_smooth(
    measures: MeshMeasures, region: Spots | None = None, *, rounds: int = 10
) -> Estimate:
    """What `smooth` will take.

    Parameters
    ----------
    measures : MeshMeasures
    region : sequence of (x, y, z, radius), optional
        mm; the whole by default.
    rounds : int

    Returns
    -------
    Estimate
    """
    n = measures.triangles
    moved = n * region_area(measures, region) / measures.area if measures.area else n
    return Estimate(n * 4e-6 + moved * rounds * 1.2e-7, n * 8e-7)


def _fixed_vertices(mesh: Mesh, sharp: float) -> Array:
    """Vertices on sharp edges, on open ones, and on those that more than two faces share."""
    topology = Topology(mesh)
    held = np.zeros(len(mesh.vertices), dtype=bool)
    held[topology.ends(np.flatnonzero(~smooth_half_edges(topology, sharp)))] = True
    return held


def _smoothed(mesh: Mesh, share: Array, rounds: int, progress: Progress) -> Array:
    faces = mesh.faces
    ends = np.concatenate([faces[:, :2], faces[:, 1:], faces[:, ::2]])
    ends = np.concatenate([ends, ends[:, ::-1]])
    n = len(mesh.vertices)
    joined = coo_array((np.ones(len(ends)), (ends[:, 0], ends[:, 1])), shape=(n, n)).tocsr()
    joined.data[:] = 1.0
    moving = np.flatnonzero(share)
    rows = joined[moving]
    count = np.maximum(rows.sum(axis=1), 1.0)[:, None]
    vertices = mesh.vertices.copy()
    for done in range(rounds):
        progress.step("Smoothing", 0.8 * done / rounds)
        for step in (_STEP, -_STEP):
            towards = rows @ vertices / count - vertices[moving]
            vertices[moving] += step * share[moving, None] * towards
    return vertices
