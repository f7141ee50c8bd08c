"""More triangles in a region, and rounder: edges halved along the direction the surface bends."""

import numpy as np

from ..diagnose.intersections import intersecting_faces
from ..mesh._edge_kernels import components
from ..mesh.arrays import Array
from ..mesh.float32 import as_float32
from ..mesh.sharp_edges import SHARP, smooth_half_edges
from ..mesh.split_edges import edge_lengths, halve_edges, marked_edges, unique_edges
from ..mesh.topology import Topology
from ..mesh.triangle_mesh import Mesh, face_areas, face_normals
from ..outcome import Outcome, Skipped
from ..progress import SILENT, Progress
from ..spatial.face_region import Region, Spots, faces_of_region, with_neighbours
from .estimate import EQUILATERAL, Estimate, MeshMeasures, region_area, too_fine

_MOST_FACES = 5_000_000
"""More would not fit the screen, and takes minutes."""
_UNEVEN = 0.45
"""Halved edges come out shorter than asked for: so much of the area of the largest faces."""
_LEVELS = 12
"""Halvings at most: 4,096 edges out of one."""
_TRIES = 3
"""Times that new vertices at faces that intersect are put straight, before all of them are."""
_STEEPEST = 0.9
"""Sine of half the angle of an arc up to which a new vertex follows it; a steeper one is an
edge."""
_SMOOTH_TURN = 0.5
"""Cosine of the turn up to which a sharp edge goes on through a vertex: 60 degrees."""


def subdivide(
    mesh: Mesh,
    region: Region | None = None,
    *,
    size: float | None = None,
    rounded: bool = True,
    sharp: float = SHARP,
    progress: Progress = SILENT,
) -> Outcome:
    """Halve the edges of a region until none is longer than asked for.

    No vertex moves. New ones lie on the circular arc that the normals at an edge's ends suggest,
    and on the arc through the neighbours along sharp edges; where faces would intersect by that,
    and at the rim of the region, in the middle of the old edge.

    Parameters
    ----------
    mesh : Mesh
    region : sequence of (x, y, z, radius), or ndarray, shape (m,), bool, optional
        mm; or the faces; the whole by default.
    size : float, optional
        Longest edge to leave, mm; half of the region's mean by default.
    rounded : bool
        Whether new vertices follow the bend; else the shape stays as it is.
    sharp : float
        Edges bent by more than this stay sharp, degrees.
    progress : Progress

    Returns
    -------
    Outcome
        Numbers: ``faces_added``, ``size_mm``. Skipped: ``empty-region``; ``short-already`` with
        ``size_mm``; ``halved-straight`` with ``edges``.

    Raises
    ------
    OperationRefused
        If there would be too many triangles.
    Cancelled
        If `progress` asks to stop.

    Examples
    --------
    >>> square = Mesh([[0, 0, 0], [8, 0, 0], [8, 8, 0], [0, 8, 0]], [[0, 1, 2], [0, 2, 3]])
    >>> len(subdivide(square, size=6.0).mesh.faces)
    8
    """
    inside = faces_of_region(mesh, region)
    if not inside.any():
        return Outcome(mesh, skipped=(Skipped("empty-region"),))
    lengths = edge_lengths(mesh.vertices, mesh.faces[inside])
    size = float(lengths.mean()) / 2 if size is None else size
    _predicted_count(len(mesh.faces), face_areas(mesh.vertices, mesh.faces[inside]).sum(), size)
    near = with_neighbours(mesh.faces, inside)
    far = mesh.faces[~near]
    vertices, faces, inside = mesh.vertices, mesh.faces[near], inside[near]
    straight = 0
    for round_ in range(_LEVELS):
        progress.step("Halving edges", round_ / _LEVELS)
        edges = _long_edges(vertices, faces, inside, size)
        if not len(edges):
            break
        flat = vertices[edges].mean(axis=1)
        middles = as_float32(
            _curved_midpoints(vertices, faces, inside, edges, sharp) if rounded else flat
        )
        for attempt in range(_TRIES + 1):
            v, f, i = halve_edges(vertices, faces, inside, edges, middles)
            if not rounded:
                break
            bad = _intersecting(v, np.concatenate([f, far]), len(f), len(vertices))
            if not len(bad):
                break
            every = attempt == _TRIES - 1
            bad = np.arange(len(edges)) if every else bad
            middles[bad] = flat[bad]
            straight += len(bad)
        vertices, faces, inside = v, f, i.astype(bool)
    result = np.concatenate([faces, far])
    more = len(result) - len(mesh.faces)
    if not more:
        return Outcome(mesh, skipped=(Skipped("short-already", {"size_mm": size}),))
    skipped = (Skipped("halved-straight", {"edges": straight}),) if straight else ()
    return Outcome(Mesh(vertices, result), {"size_mm": size, "faces_added": more}, skipped)


def estimate_subdivide(
    measures: MeshMeasures, region: Spots | None = None, *, size: float | None = None
) -> Estimate:
    """What `subdivide` will take.

    Parameters
    ----------
    measures : MeshMeasures
    region : sequence of (x, y, z, radius), optional
        mm; the whole by default.
    size : float, optional
        Longest edge to leave, mm; half the mean by default.

    Returns
    -------
    Estimate

    Raises
    ------
    OperationRefused
        If there would be too many triangles.
    """
    area = region_area(measures, region)
    size = measures.mean_edge / 2 if size is None else size
    more = _predicted_count(measures.triangles, area, size)
    # what is there in the region already is divided, not added to
    there = measures.triangles * area / measures.area if measures.area else 0
    total = max(measures.triangles, round(measures.triangles - there + more))
    return Estimate(measures.triangles * 2e-6 + more * 2e-5, total * 6e-7, total)


def _predicted_count(triangles: int, area: float, size: float) -> float:
    """About how many triangles a region of an area will have.

    Raises
    ------
    OperationRefused
        If that is too many.
    """
    more = float(area) / (EQUILATERAL * size * size) / _UNEVEN
    if triangles + more > _MOST_FACES:
        least = np.sqrt(area / EQUILATERAL / _UNEVEN / max(1, _MOST_FACES - triangles))
        raise too_fine(size, _MOST_FACES, float(least))
    return more


def _long_edges(vertices: Array, faces: Array, inside: Array, size: float) -> Array:
    selected = faces[inside]
    return marked_edges(selected, edge_lengths(vertices, selected) > size)


def _intersecting(vertices: Array, faces: Array, near: int, old: int) -> Array:
    """Which new vertices are at faces that cross, counted from the first new one."""
    fresh = np.zeros(len(faces), dtype=bool)
    fresh[:near] = (faces[:near] >= old).any(axis=1)
    at = faces[np.unique(intersecting_faces(vertices, faces, fresh))]
    return np.unique(at[at >= old]) - old


def _curved_midpoints(
    vertices: Array, faces: Array, inside: Array, edges: Array, sharp: float
) -> Array:
    """Where the middles of edges lie on a surface that bends as its normals tell."""
    topology = Topology(Mesh(vertices, faces))
    twin = topology.twin
    normals = face_normals(vertices, faces)
    halves = np.arange(3 * len(faces))
    is_smooth = smooth_half_edges(topology, sharp)
    group = _corner_groups(faces, halves[is_smooth], twin[is_smooth])
    summed = np.zeros((3 * len(faces), 3))
    np.add.at(
        summed, group, (normals[:, None] * _angles(vertices, faces)[..., None]).reshape(-1, 3)
    )
    summed /= np.maximum(np.linalg.norm(summed, axis=1), 1e-300)[:, None]

    ends = topology.ends(halves)
    key = np.sort(ends, axis=1).astype(np.int64)
    codes = key[:, 0] * len(vertices) + key[:, 1]
    order = np.argsort(codes, kind="stable")
    codes_wanted = edges[:, 0].astype(np.int64) * len(vertices) + edges[:, 1]
    half = order[np.searchsorted(codes[order], codes_wanted)]
    a, b = ends[half].T
    corner = half // 3 * 3 + (half + 1) % 3
    rising, falling = summed[group[half]], summed[group[corner]]
    out = _arc(vertices[a], vertices[b], rising, falling, is_smooth[half])
    # along a sharp edge, the arc through the neighbours
    crease = ~is_smooth & (twin >= 0)
    tangent = _tangents(vertices, ends[crease])
    along = crease[half]
    out[along] = _along(vertices, a[along], b[along], tangent)
    # at the rim of the region the faces beyond stay as they are
    beyond = (twin[half] < 0) | ~inside[half // 3] | ~inside[np.maximum(twin[half], 0) // 3]
    out[beyond] = (vertices[a] + vertices[b])[beyond] / 2
    return out


def _corner_groups(faces: Array, halves: Array, twin: Array) -> Array:
    """The lowest of the corners that belong to one smooth stretch at a vertex, shape (3 m,)."""

    def after(half: Array) -> Array:
        return half // 3 * 3 + (half + 1) % 3

    same = faces.ravel()[halves] != faces.ravel()[twin]  # they run against each other
    halves, twin = halves[same], twin[same]
    joins = np.concatenate(
        [np.stack([halves, after(twin)], axis=1), np.stack([after(halves), twin], axis=1)]
    )
    return components(joins, faces.size)


def _angles(vertices: Array, faces: Array) -> Array:
    """The angle of each corner, shape (m, 3)."""
    tri = vertices[faces]
    to = np.roll(tri, -1, axis=1) - tri
    fro = np.roll(tri, 1, axis=1) - tri
    across = np.linalg.norm(np.cross(to, fro), axis=2)
    return np.arctan2(across, (to * fro).sum(axis=2))


def _arc(a: Array, b: Array, na: Array, nb: Array, bends: Array) -> Array:
    """The middle of the arc from a to b that stands square on the normals na and nb."""
    chord = b - a
    long = np.maximum(np.linalg.norm(chord, axis=1), 1e-300)
    # sine of half the angle of the arc, up where it is bulging
    bulge = (((na - nb) * -chord).sum(axis=1)) / (2 * long)
    bulge = np.where(bends, np.clip(bulge, -_STEEPEST, _STEEPEST), 0.0)
    up = na + nb
    up -= chord * ((up * chord).sum(axis=1) / long**2)[:, None]
    up /= np.maximum(np.linalg.norm(up, axis=1), 1e-300)[:, None]
    height = long / 2 * bulge / (1 + np.sqrt(1 - bulge**2))
    return (a + b) / 2 + up * height[:, None]


def _tangents(vertices: Array, creases: Array) -> Array:
    """The way of the sharp edge through each vertex, shape (n, 3); none where several meet."""
    ends = unique_edges(creases)
    n = len(vertices)
    count = np.bincount(ends.ravel(), minlength=n)
    out = np.zeros((n, 3))
    both = np.concatenate([ends, ends[:, ::-1]])
    order = np.argsort(both[:, 0], kind="stable")
    both = both[order]
    both = both[count[both[:, 0]] == 2]
    if not len(both):
        return out
    at, p, q = both[::2, 0], both[::2, 1], both[1::2, 1]
    back, on = vertices[at] - vertices[p], vertices[q] - vertices[at]
    # of the circle through the three; an edge without a length has no direction
    squares = [np.maximum((one**2).sum(axis=1), 1e-300) for one in (back, on)]
    direction = back / squares[0][:, None] + on / squares[1][:, None]
    direction /= np.maximum(np.linalg.norm(direction, axis=1), 1e-300)[:, None]
    cosine = (back * on).sum(axis=1) / np.sqrt(squares[0]) / np.sqrt(squares[1])
    out[at] = np.where((cosine > _SMOOTH_TURN)[:, None], direction, 0.0)
    return out


def _along(vertices: Array, a: Array, b: Array, tangent: Array) -> Array:
    chord = vertices[b] - vertices[a]
    long = np.maximum(np.linalg.norm(chord, axis=1), 1e-300)[:, None]
    direction = chord / long

    def facing(t: Array) -> Array:
        t = np.where((t * direction).sum(axis=1)[:, None] < 0, -t, t)
        return np.where((t == 0).all(axis=1)[:, None], direction, t)

    off = facing(tangent[a]) - facing(tangent[b])
    off -= direction * (off * direction).sum(axis=1)[:, None]
    bulge = np.minimum(np.linalg.norm(off, axis=1)[:, None] / 2, _STEEPEST)
    up = off / np.maximum(2 * bulge, 1e-300)
    height = long / 2 * bulge / (1 + np.sqrt(1 - bulge**2))
    return (vertices[a] + vertices[b]) / 2 + up * height
