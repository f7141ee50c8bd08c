"""Triangles of one size and of good shape in a region: isotropic remeshing."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..diagnose.intersections import intersecting_faces
from ..mesh._corner_kernels import vertex_corners
from ..mesh._flip_kernels import flip_edges
from ..mesh.arrays import Array
from ..mesh.float32 import as_float32
from ..mesh.sharp_edges import SHARP, smooth_half_edges
from ..mesh.split_edges import edge_lengths, halve_edges, marked_edges, unique_edges
from ..mesh.topology import Topology
from ..mesh.triangle_mesh import Mesh, face_areas, face_crosses, vertex_normals
from ..outcome import Outcome, Skipped
from ..progress import SILENT, Progress
from ..spatial.box_tree import Tree
from ..spatial.face_region import Region, Spots, faces_of_region, with_neighbours
from ..spatial.hausdorff import faces_beyond
from ._isotropic_kernels import FIXED, FREE, ON_CREASE, collapse_short_edges
from .estimate import EQUILATERAL, Estimate, MeshMeasures, region_area, too_fine

_MOST_FACES = 3_000_000
"""More would take minutes."""
_ROUNDS = 6
"""Rounds of dividing, collapsing, flipping and moving: little changes after that."""
_LONG, _SHORT = 4 / 3, 4 / 5
"""Edges longer and shorter than these shares of the size are halved and collapsed: what is halved
is not collapsed at once (Botsch and Kobbelt)."""
_LEVELS = 14
"""Halvings at most in one round."""
_PASSES = 4
"""Passes over the short edges in one round."""
_FLIPS = 4
"""Flips at most for each face in one round."""
_STEP = 0.7
"""Share of the way to the middle of its neighbours that a vertex goes."""
_TRIES = 4
"""Times that a step is halved where it would lead too far off the surface."""
_TURN = np.cos(np.radians(60.0))
"""Cosine of the turn up to which a sharp edge goes on through a vertex, which else is a corner."""
_LEAST_COSINE = 0.5
"""No face may turn further than 60 degrees by moving its corners."""
REACH = 1 / 30
"""Share of the size by which the surface may move unless told otherwise."""
_STEPS = 2.0
"""Share of the deviation allowed that one step may take, at first: one part of so many."""


def isotropic_remesh(
    mesh: Mesh,
    region: Region | None = None,
    *,
    size: float | None = None,
    deviation: float | None = None,
    sharp: float = SHARP,
    progress: Progress = SILENT,
) -> Outcome:
    """Make the triangles of a region about equilateral and of one size.

    Long edges are halved, short ones collapsed, edges flipped towards a Delaunay triangulation,
    and vertices drawn to the middle of their neighbours along the surface, in turn. The surface
    moves nowhere by more than `deviation`, measured both ways, so fine detail keeps its fine
    triangles. Sharp edges, open rims and the rim of the region stay where they are.

    Parameters
    ----------
    mesh : Mesh
    region : sequence of (x, y, z, radius), or ndarray, shape (m,), bool, optional
        mm; or the faces; the whole by default.
    size : float, optional
        Length of the edges, mm; the mean of the region's by default.
    deviation : float, optional
        How far the surface may move, mm; a thirtieth of the size by default.
    sharp : float
        Edges bent by more than this stay sharp, degrees.
    progress : Progress

    Returns
    -------
    Outcome
        Numbers: ``before`` and ``after``, faces of the region; ``size_mm``. Skipped:
        ``empty-region``; ``would-intersect`` and ``would-move-too-far`` with ``rounds``, how many
        of them went well.

    Raises
    ------
    OperationRefused
        If there would be too many triangles.
    Cancelled
        If `progress` asks to stop.

    References
    ----------
    Botsch and Kobbelt 2004, *A remeshing approach to multiresolution modeling*.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> even = isotropic_remesh(cuboid(), size=2.0).mesh
    >>> round(even.volume, 6), bool(edge_lengths(even.vertices, even.faces).max() < 2.7)
    (1000.0, True)
    """
    inside = faces_of_region(mesh, region)
    if not inside.any():
        return Outcome(mesh, skipped=(Skipped("empty-region"),))
    if size is None:
        size = float(edge_lengths(mesh.vertices, mesh.faces[inside]).mean())
    deviation = REACH * size if deviation is None else deviation
    _expected_faces(len(mesh.faces), face_areas(mesh.vertices, mesh.faces[inside]).sum(), size)
    before = int(inside.sum())
    near = with_neighbours(mesh.faces, inside)
    far = mesh.faces[~near]
    state = _State(mesh.vertices, mesh.faces[near], inside[near])
    # without an area there is nothing to come back to
    surface = inside & (face_areas(mesh.vertices, mesh.faces) > 0)
    source = Tree.of(mesh.vertices, mesh.faces[surface if surface.any() else inside])
    allowed = state.crossings(far)
    step = deviation / _STEPS
    skipped: tuple[Skipped, ...] = ()
    for done in range(_ROUNDS):
        part = progress.span(done / _ROUNDS, (done + 1) / _ROUNDS)
        for _ in range(_TRIES):
            now = _round(state, source, size, step, sharp, part)
            if not now.is_beyond(source, deviation):
                break
            step /= 2
        else:
            skipped = (Skipped("would-move-too-far", {"rounds": done}),)
            break
        if now.crossings(far) > allowed:
            skipped = (Skipped("would-intersect", {"rounds": done}),)
            break
        state = now
    else:
        done = _ROUNDS
    if not done:
        return Outcome(mesh, skipped=skipped)
    result = Mesh(state.vertices, np.concatenate([state.faces, far])).compact()
    numbers = {"before": before, "after": int(state.inside.sum()), "size_mm": size}
    return Outcome(result, numbers, skipped)


@dataclass(frozen=True, eq=False)
class _State:
    """The region and what is around it, while it changes.

    Attributes
    ----------
    vertices : ndarray, shape (n, 3)
    faces : ndarray, shape (m, 3)
    inside : ndarray, shape (m,), bool
        Whether each face is the region's.
    """

    vertices: Array
    faces: Array
    inside: Array

    @cached_property
    def topology(self) -> Topology:
        """How the faces hang together."""
        return Topology(Mesh(self.vertices, self.faces))

    @cached_property
    def inner_half_edges(self) -> Array:
        """Whether each half-edge lies between two faces of the region, shape (3 m,)."""
        twin = self.topology.twin
        return np.repeat(self.inside, 3) & (twin >= 0) & self.inside[np.maximum(twin, 0) // 3]

    def crossings(self, far: Array) -> int:
        """How many pairs of faces cross, of which the region has one; `far` are all other faces."""
        fresh = np.concatenate([self.inside, np.zeros(len(far), dtype=bool)])
        every = np.concatenate([self.faces, far])
        return len(intersecting_faces(self.vertices, every, fresh))

    def is_beyond(self, source: Tree, deviation: float) -> bool:
        """Whether it is farther from the surface it was, or that from it, than allowed."""
        now = self.faces[self.inside]
        if faces_beyond(self.vertices, now, source, deviation).any():
            return True
        back = Tree.of(self.vertices, now)
        return bool(faces_beyond(source.vertices, source.faces, back, deviation).any())


def estimate_isotropic_remesh(
    measures: MeshMeasures, region: Spots | None = None, *, size: float | None = None
) -> Estimate:
    """What `isotropic_remesh` will take.

    Parameters
    ----------
    measures : MeshMeasures
    region : sequence of (x, y, z, radius), optional
        mm; the whole by default.
    size : float, optional
        Length of the edges, mm; the mean by default.

    Returns
    -------
    Estimate

    Raises
    ------
    OperationRefused
        If there would be too many triangles.
    """
    area = region_area(measures, region)
    size = measures.mean_edge if size is None else size
    made = _expected_faces(measures.triangles, area, size)
    there = measures.triangles * area / measures.area if measures.area else 0
    total = max(4, round(measures.triangles - there + made))
    return Estimate(measures.triangles * 4e-6 + (there + made) * 9e-5, total * 8e-7, total)


def _expected_faces(triangles: int, area: float, size: float) -> float:
    """About how many triangles a region of an area will have.

    Raises
    ------
    OperationRefused
        If that is too many.
    """
    made = float(area) / (EQUILATERAL * size * size)
    if made > _MOST_FACES or triangles + made > 2 * _MOST_FACES:
        least = float(np.sqrt(area / EQUILATERAL / _MOST_FACES))
        raise too_fine(size, _MOST_FACES, least)
    return made


def _round(
    state: _State, source: Tree, size: float, reach: float, sharp: float, progress: Progress
) -> _State:
    """Divide, collapse, flip and move once."""
    progress.step("Halving long edges", 0.0)
    state = _halved(state, _LONG * size)
    state = _collapsed(state, size, reach, sharp, progress)
    progress.step("Flipping edges", 0.5)
    state = _flipped(state, reach, sharp)
    progress.step("Drawing vertices together", 0.75)
    return _moved(state, source, reach, sharp)


def _halved(state: _State, longest: float) -> _State:
    """Halve edges within the region until none is longer."""
    for _ in range(_LEVELS):
        v, faces = state.vertices, state.faces
        long = edge_lengths(v, faces) > longest
        edges = marked_edges(faces, state.inner_half_edges.reshape(-1, 3) & long)
        if not len(edges):
            break
        middles = as_float32(v[edges].mean(axis=1))
        v, faces, inside = halve_edges(v, faces, state.inside, edges, middles)
        state = _State(v, faces, inside)
    return state


def _kinds(state: _State, sharp: float) -> tuple[Array, Array, Array]:
    """What may become of each vertex, its neighbours along a sharp edge, and what edges are smooth.

    Returns
    -------
    kind : ndarray, shape (n,), uint8
        `FIXED`, `ON_CREASE` or `FREE`.
    beside : ndarray, shape (n, 2), int32
        -1 but for those on a sharp edge.
    smooth : ndarray, shape (3 m,), bool
        Half-edges over which the surface goes on, within the region.
    """
    vertices, topology, within = state.vertices, state.topology, state.inner_half_edges
    smooth = smooth_half_edges(topology, sharp)
    kind = np.full(len(vertices), FREE, dtype=np.uint8)
    beside = np.full((len(vertices), 2), -1, dtype=np.int32)
    creases = unique_edges(topology.ends(np.flatnonzero(within & ~smooth)))
    count = np.bincount(creases.ravel(), minlength=len(vertices))
    kind[count > 0] = FIXED
    both = np.concatenate([creases, creases[:, ::-1]])
    both = both[np.argsort(both[:, 0], kind="stable")]
    both = both[count[both[:, 0]] == 2]
    at, p, q = both[::2, 0], both[::2, 1], both[1::2, 1]
    back, on = vertices[at] - vertices[p], vertices[q] - vertices[at]
    long = np.maximum(np.linalg.norm(back, axis=1) * np.linalg.norm(on, axis=1), 1e-300)
    goes_on = (back * on).sum(axis=1) > _TURN * long
    kind[at[goes_on]] = ON_CREASE
    beside[at[goes_on]] = np.stack([p, q], axis=1)[goes_on]
    stays = np.zeros(len(vertices), dtype=bool)
    stays[topology.ends(np.flatnonzero(~within & np.repeat(state.inside, 3)))] = True
    stays[state.faces[~state.inside]] = True
    kind[stays] = FIXED
    return kind, beside, smooth & within


def _collapsed(
    state: _State, size: float, reach: float, sharp: float, progress: Progress
) -> _State:
    """Collapse edges that are too short, the shortest first."""
    drift = np.zeros(len(state.vertices))
    for attempt in range(_PASSES):
        progress.step("Collapsing short edges", 0.25 + 0.25 * attempt / _PASSES)
        kind, beside, _ = _kinds(state, sharp)
        vertices, faces = state.vertices.copy(), np.array(state.faces, dtype=np.int32)
        short = edge_lengths(vertices, faces) < _SHORT * size
        edges = marked_edges(faces, state.inside[:, None] & short)
        lengths = np.linalg.norm(np.diff(vertices[edges], axis=1)[:, 0], axis=1)
        edges = edges[np.argsort(lengths, kind="stable")]
        alive = np.ones(len(faces), dtype=np.uint8)
        done = collapse_short_edges(
            vertices, faces, alive, kind, beside, drift, edges,
            *vertex_corners(faces, len(vertices)), _LONG * size, reach,
        )  # fmt: skip
        if not done:
            break
        left = alive.astype(bool)
        state = _State(vertices, faces[left], state.inside[left])
    return state


def _flipped(state: _State, reach: float, sharp: float) -> _State:
    """Flip edges towards a Delaunay triangulation, where that hardly moves the surface."""
    _, _, free = _kinds(state, sharp)
    flipped = np.array(state.faces, dtype=np.int32)
    twin = np.array(state.topology.twin)
    flip_edges(state.vertices, flipped, twin, free, _FLIPS * len(flipped), reach)
    return _State(state.vertices, flipped, state.inside)


def _moved(state: _State, source: Tree, reach: float, sharp: float) -> _State:
    """Draw vertices to the middle of their neighbours, along the surface and back onto it."""
    vertices, faces = state.vertices, state.faces
    kind, _, _ = _kinds(state, sharp)
    used = np.zeros(len(vertices), dtype=bool)
    used[faces[state.inside]] = True
    free = np.flatnonzero((kind == FREE) & used)
    n = len(vertices)
    around, count, normal = np.zeros((n, 3)), np.zeros(n), vertex_normals(vertices, faces)
    crosses = face_crosses(vertices, faces)
    for k in range(3):
        at, on = faces[:, k], faces[:, (k + 1) % 3]
        np.add.at(around, at, vertices[on])
        np.add.at(count, at, 1.0)
    step = np.zeros((n, 3))
    towards = around[free] / count[free, None] - vertices[free]
    along = (towards * normal[free]).sum(axis=1)[:, None]
    step[free] = _STEP * (towards - normal[free] * along)
    planes = crosses / np.maximum(np.linalg.norm(crosses, axis=1), 1e-300)[:, None]
    share = np.ones(n)
    moved = vertices
    for attempt in range(_TRIES + 1):
        by = step * share[:, None]
        goes = by[free].any(axis=1)
        at = free[goes]
        moved = vertices.copy()
        _, face = source.nearest(vertices[at] + by[at])
        moved[at] = as_float32(source.feet(vertices[at] + by[at], face))
        shift = moved - vertices
        # off the planes of the faces around, and faces that turn
        off = np.abs(np.einsum("mkj,mj->mk", shift[faces], planes))
        bad = np.unique(faces[off > reach])
        after = face_crosses(moved, faces)
        long = np.linalg.norm(crosses, axis=1) * np.linalg.norm(after, axis=1)
        turned = (crosses * after).sum(axis=1) < _LEAST_COSINE * long
        bad = np.union1d(bad, np.unique(faces[turned]))
        if not len(bad) or not len(at):
            return _State(moved, faces, state.inside)
        share[bad] = share[bad] / 2 if attempt < _TRIES - 1 else 0.0
    return state
