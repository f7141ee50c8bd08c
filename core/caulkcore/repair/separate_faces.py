"""Making a piece of its own of chosen faces: both sides closed, a gap between them."""

import numpy as np

from ..diagnose.diagnosis import Diagnosis
from ..mesh.arrays import Array
from ..mesh.concatenate import concatenate
from ..mesh.float32 import on_float32
from ..mesh.polygons import newell
from ..mesh.topology import Topology
from ..mesh.triangle_mesh import Mesh
from ..outcome import Outcome, Skipped
from .erase_faces import loops_along, no_part, rim_edges, with_islands
from .holes import fill_holes


def separate_faces(mesh: Mesh, chosen: Array, *, gap: float) -> Outcome:
    """Make a piece of its own of the chosen faces, and close both it and what is left.

    Both get the same lids over their common rims; those of the new piece lie deeper in it by the
    gap, so that the two do not touch.

    Parameters
    ----------
    mesh : Mesh
    chosen : ndarray, shape (m,), bool
    gap : float
        Between the two lids, mm.

    Returns
    -------
    Outcome
        Numbers: ``faces`` chosen, ``rims`` closed on both sides. Skipped: ``nothing-chosen``;
        ``everything-chosen``; ``piece-already`` if no chosen face has a neighbour that is not;
        ``at-open-rim`` with ``rims``; ``no-lid`` if a rim cannot be closed.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import torus
    >>> ring = torus(24)
    >>> half = (ring.vertices[ring.faces][:, :, 0] > 0).any(axis=1)
    >>> parted = separate_faces(ring, half, gap=0.1)
    >>> Topology(parted.mesh).shells[1], parted.numbers["rims"]
    (2, 2)
    """
    chosen = with_islands(mesh, chosen)
    if skipped := no_part(chosen):
        return Outcome(mesh, skipped=skipped)
    edges = rim_edges(mesh, chosen)
    if not len(edges):
        return Outcome(mesh, skipped=(Skipped("piece-already"),))
    left = Mesh(mesh.vertices, mesh.faces[~chosen])
    diagnosis = Diagnosis(left)
    loops, old = loops_along(diagnosis, edges)
    if old or not len(loops):
        return Outcome(mesh, skipped=(Skipped("at-open-rim", {"rims": old}),))
    filled = fill_holes(diagnosis, loops, shape="flat", open_sheets=True).mesh
    lids = filled.faces[len(left.faces) :]
    if len(filled.vertices) != len(left.vertices) or not len(lids):
        return Outcome(mesh, skipped=(Skipped("no-lid"),))
    vertices = mesh.vertices.copy()
    found = diagnosis.boundary_loops
    for i in loops:
        loop = found[int(i)].vertices
        # the loop runs with the faces that are left: its area looks away from their lid
        into = newell(mesh.vertices[loop[::-1]])
        vertices[loop] += gap * into / max(float(np.linalg.norm(into)), 1e-300)
    piece = Mesh(vertices, np.concatenate([mesh.faces[chosen], lids[:, ::-1]]))
    rest = Mesh(mesh.vertices, filled.faces)
    both = concatenate([rest.compact(), on_float32(piece.compact(), mesh)])
    if Topology(both).shells[1] <= Topology(mesh).shells[1]:
        return Outcome(mesh, skipped=(Skipped("no-lid"),))
    return Outcome(both, {"faces": int(chosen.sum()), "rims": len(loops)})
