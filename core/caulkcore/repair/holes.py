"""Filling holes: flat ones flat, nested flat ones as rings, others following the surface."""

import numpy as np

from ..diagnose.boundary_loops import BoundaryLoop
from ..diagnose.diagnosis import Diagnosis
from ..mesh.arrays import Array
from ..mesh.existing_edges import edges_among, neighbours_among, sides, uses_existing_edge
from ..mesh.float32 import on_float32
from ..mesh.polygons import newell, triangulate_rings
from ..mesh.triangle_mesh import Mesh
from ..outcome import Outcome, Skipped
from . import _hole_kernels as kernel
from .fairing import FillShape, fair_fills

_CUBIC_UP_TO = 160
"""Edges of a loop up to which the triangulation of least area is found in cubic time (some
milliseconds); longer loops are cut by chords first."""


def fill_holes(
    diagnosis: Diagnosis,
    loops: Array | None = None,
    *,
    shape: FillShape = "fitting",
    open_sheets: bool = False,
) -> Outcome:
    """Close boundary loops with new faces; no vertex moves.

    Loops that lie in one plane are triangulated together, so that the end of a tube becomes a
    ring and not two discs. Others get the triangulation of least area, long ones after being cut
    by short chords. A chord that the mesh has already is never used. Where the surface bends over
    a hole, the fill is made as fine and as bent (see `fairing`), unless it would intersect
    something then.

    Parameters
    ----------
    diagnosis : Diagnosis
    loops : ndarray, shape (k,), optional
        Numbers of the loops in `Diagnosis.boundary_loops`; all by default.
    shape : {"fitting", "flat", "following"}
        ``flat`` never adds a point inside a hole, ``following`` always does if there is room,
        ``fitting`` does where the surface goes on over the hole.
    open_sheets : bool
        Whether loops of open sheets are closed as well, with a lid that may be larger than the
        sheet.

    Returns
    -------
    Outcome
        Numbers: ``holes``, ``faces`` added, ``following`` (holes whose fill is bent). Skipped:
        ``not-a-ring`` with ``loops``, which end at a non-manifold edge; ``open-sheet`` with
        ``sheets``.

    References
    ----------
    Barequet and Sharir 1995, *Filling gaps in the boundary of a polyhedron*; Liepa 2003, *Filling
    holes in meshes*.

    Examples
    --------
    >>> open_box = Mesh([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1]],
    ...                 [[0, 1, 3], [0, 3, 2], [1, 2, 3]])
    >>> fill_holes(Diagnosis(open_box)).numbers["faces"]
    1
    """
    mesh, found = diagnosis.mesh, diagnosis.boundary_loops
    numbers = set(range(len(found)) if loops is None else loops.tolist())
    for outer, inner in found.nested:
        # the rims of a ring are filled together or not at all
        if numbers & {outer, *inner}:
            numbers |= {outer, *inner}
    wanted = []
    unclosed = sheet_loops = 0
    for i in sorted(numbers):
        if not found.closed[i] or found.edges[i] < 3:
            unclosed += 1
        elif diagnosis.open_sheets[found.shell[i]] and not open_sheets:
            sheet_loops += 1
        else:
            wanted.append(i)
    skipped = []
    if unclosed:
        skipped.append(Skipped("not-a-ring", {"loops": unclosed}))
    if sheet_loops:
        skipped.append(Skipped("open-sheet", {"sheets": int(diagnosis.open_sheets.sum())}))
    if not wanted:
        return Outcome(mesh, skipped=tuple(skipped))
    chosen = found.take(np.array(wanted))
    rims = list(chosen)
    neighbours = neighbours_among(mesh, np.concatenate([rim.vertices for rim in rims]))
    new = _fill(mesh, rims, chosen.nested, neighbours)
    vertices, fills = _without_clashes(mesh, rims, new)
    bent = 0
    if shape != "flat":
        vertices, fills, bent = fair_fills(diagnosis, chosen, vertices, fills, shape)
    result = Mesh(vertices, np.concatenate([mesh.faces, *fills]).astype(np.int32))
    if len(vertices) > len(mesh.vertices):
        result = on_float32(result.compact(), mesh)
    counts = {"holes": len(rims), "faces": sum(map(len, fills)), "following": bent}
    return Outcome(result, counts, tuple(skipped))


def _fill(
    mesh: Mesh,
    loops: list[BoundaryLoop],
    nested: list[tuple[int, list[int]]],
    neighbours: dict[int, set[int]],
) -> list[Array]:
    """Triangles for each loop; those of a ring stand with its outer loop."""
    new: list[Array] = [np.zeros((0, 3), dtype=np.int64)] * len(loops)
    # a fill runs against the faces neighbours it
    rings = [loop.vertices[::-1] for loop in loops]
    done: set[int] = set()
    for outer, inner in nested:
        parts = [rings[i] for i in (outer, *inner)]
        normal = newell(mesh.vertices[rings[outer]])
        triangles = triangulate_rings(mesh.vertices, parts, normal)
        if not uses_existing_edge(triangles, parts, neighbours):
            new[outer] = triangles
            done |= {outer, *inner}
    for i in range(len(loops)):
        if i not in done:
            new[i] = _by_area(mesh.vertices, rings[i], neighbours)
    return new


def _by_area(vertices: Array, ring: Array, neighbours: dict[int, set[int]]) -> Array:
    """Least area triangles over one ring; empty when the known edges leave no way."""
    n = len(ring)
    number = {int(v): i for i, v in enumerate(ring)}
    known = [
        (i, number[w])
        for v, i in number.items()
        for w in neighbours.get(v, ())
        if w in number and number[w] - i > 1 and not (i == 0 and number[w] == n - 1)
    ]
    if n <= _CUBIC_UP_TO:
        banned = np.zeros((n, n), dtype=np.bool_)
        for i, j in known:
            banned[i, j] = True
        return ring[kernel.least_area(vertices[ring], banned)]
    pairs = np.array(known, dtype=np.int64).reshape(-1, 2)
    i, j = kernel.best_chord(vertices[ring], pairs[:, 0].copy(), pairs[:, 1].copy())
    if i < 0:
        return np.zeros((0, 3), dtype=ring.dtype)
    halves = [
        _by_area(vertices, part, neighbours)
        for part in (ring[i : j + 1], np.concatenate([ring[j:], ring[: i + 1]]))
    ]
    if any(len(half) == 0 for half in halves):
        return np.zeros((0, 3), dtype=ring.dtype)
    return np.concatenate(halves)


def _without_clashes(
    mesh: Mesh, loops: list[BoundaryLoop], new: list[Array]
) -> tuple[Array, list[Array]]:
    """Fills; those that would over-share an edge get a middle vertex instead."""
    vertices, faces = mesh.vertices, np.concatenate([mesh.faces, *new]).astype(np.int32)
    rims = np.concatenate([loop.vertices for loop in loops])
    edges, faces_at = edges_among(faces, rims, len(vertices))
    known, known_at = edges_among(mesh.faces, rims, len(vertices))
    crowded = {tuple(e) for e in edges[faces_at > 2].tolist()}
    crowded -= {tuple(e) for e in known[known_at > 2].tolist()}
    open_ = {tuple(e) for e in edges[faces_at == 1].tolist()}
    if not crowded and not open_:
        return vertices, new
    parts: list[Array] = []
    extra: list[Array] = []
    for loop, triangles in zip(loops, new, strict=True):
        rim = np.stack([loop.vertices, np.roll(loop.vertices, -1)], axis=1)
        still_open = {tuple(sorted(e)) for e in rim.tolist()} & open_
        if still_open or any(e in crowded for e in sides(triangles)):
            middle = len(vertices) + len(extra)
            extra.append(vertices[loop.vertices].mean(axis=0))
            ring = loop.vertices[::-1]
            triangles = np.stack([ring, np.roll(ring, -1), np.full(len(ring), middle)], axis=1)
        parts.append(triangles)
    return np.concatenate([vertices, np.array(extra).reshape(-1, 3)]), parts
