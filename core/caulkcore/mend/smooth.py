"""Evening out a region: vertices drawn towards their neighbours and back."""

import numpy as np
from scipy.sparse import coo_array

from ..examine.finding import counted, length_text
from ..mesh import Array, Mesh
from ..progress import SILENT, Progress
from ..topology import Topology
from .cost import Cost, Measures, region_area
from .crossing import crossing_faces
from .level import level_halves
from .outcome import Outcome
from .refine import SHARP
from .region import Spots, share_of_region
from .rounding import as_float32

_STEP = 0.6
"""There and back by the same share: what bends little hardly changes, so nothing shrinks."""
_TRIES = 8


def smooth(
    mesh: Mesh,
    region: Spots | None = None,
    rounds: float = 10,
    deviation: float | None = None,
    sharp: float = SHARP,
    progress: Progress = SILENT,
) -> Outcome:
    """Even out a region without shrinking it (after Taubin 1995, forth as far as back).

    Vertices on sharp edges and open rims stay, and so does all outside the region; the effect
    falls off towards its rim. Where faces would cross by it, it is less.

    Parameters
    ----------
    mesh : Mesh
    region : sequence of (x, y, z, radius), optional
        The whole by default.
    rounds : float
        How often; more make it smoother.
    deviation : float, optional
        How far a vertex may move, mm.
    sharp : float
        Edges bent by more than this stay as they are, degrees.
    progress : Progress
    """
    share = share_of_region(mesh, region)
    share[_held(mesh, sharp)] = 0.0
    if not share.any():
        return Outcome(mesh, left=("Nothing there can move: all of it is sharp, or a rim.",))
    moved = _evened(mesh, share, round(rounds), progress) - mesh.vertices
    if deviation is not None:
        far = np.linalg.norm(moved, axis=1)
        moved *= np.minimum(1.0, deviation / np.maximum(far, 1e-300))[:, None]
    less = np.ones(len(moved))
    for turn in range(_TRIES):
        progress.step("Looking for triangles that cross", 0.8 + 0.2 * turn / _TRIES)
        by = moved * less[:, None]
        goes = by.any(axis=1)
        vertices = np.where(goes[:, None], as_float32(mesh.vertices + by), mesh.vertices)
        fresh = goes[mesh.faces].any(axis=1)
        at = np.unique(mesh.faces[np.unique(crossing_faces(vertices, mesh.faces, fresh))])
        at = at[goes[at]]
        if not len(at):
            break
        around = np.isin(mesh.faces, at).any(axis=1)
        less[np.unique(mesh.faces[around])] *= 0.5 if turn < _TRIES - 3 else 0.0
    else:
        return Outcome(mesh, left=("However little it is evened out, faces cross.",))
    if not goes.any():
        return Outcome(mesh, left=("It is even already.",))
    far = float(np.linalg.norm(vertices - mesh.vertices, axis=1).max())
    count = int(goes.sum())
    done = f"{counted(count, 'vertex', 'vertices')} moved, by {length_text(far)} at most."
    held = int(((less < 1) & (moved != 0).any(axis=1)).sum())
    told = f"{counted(held, 'vertex', 'vertices')} moved less: faces would have crossed."
    counts = {"moved": count, "furthest_mm": far}
    return Outcome(Mesh(vertices, mesh.faces), done, counts, (told,) if held else ())


def cost(
    measures: Measures,
    region: Spots | None = None,
    rounds: float = 10,
    deviation: float | None = None,
    sharp: float = SHARP,
) -> Cost:
    """What `smooth` will take."""
    n = measures.triangles
    moved = n * region_area(measures, region) / measures.area if measures.area else n
    return Cost(n * 4e-6 + moved * rounds * 1.2e-7, n * 8e-7)


def _held(mesh: Mesh, sharp: float) -> Array:
    """Vertices on sharp edges, on open ones, and on those that more than two faces share."""
    topology = Topology(mesh)
    held = np.zeros(len(mesh.vertices), dtype=bool)
    held[topology.ends(np.flatnonzero(~level_halves(topology, sharp)))] = True
    return held


def _evened(mesh: Mesh, share: Array, rounds: int, progress: Progress) -> Array:
    faces = mesh.faces
    ends = np.concatenate([faces[:, :2], faces[:, 1:], faces[:, ::2]])
    ends = np.concatenate([ends, ends[:, ::-1]])
    n = len(mesh.vertices)
    joined = coo_array((np.ones(len(ends)), (ends[:, 0], ends[:, 1])), shape=(n, n)).tocsr()
    joined.data[:] = 1.0
    some = np.flatnonzero(share)
    rows = joined[some]
    count = np.maximum(rows.sum(axis=1), 1.0)[:, None]
    vertices = mesh.vertices.copy()
    for turn in range(rounds):
        progress.step("Evening out", 0.8 * turn / rounds)
        for step in (_STEP, -_STEP):
            towards = rows @ vertices / count - vertices[some]
            vertices[some] += step * share[some, None] * towards
    return vertices
