"""Detail of an earlier surface brought back onto one that was rebuilt coarsely."""

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Self

import numpy as np

from ..diagnose.intersections import intersecting_faces
from ..mesh._corner_kernels import vertex_corners
from ..mesh._face_kernels import least_heights
from ..mesh._flip_kernels import flip_edges
from ..mesh.arrays import Array, frozen
from ..mesh.float32 import as_float32
from ..mesh.split_edges import edge_lengths, edges_of, halve_edges, marked_edges
from ..mesh.topology import Topology
from ..mesh.triangle_mesh import Mesh, face_areas, face_normals, vertex_normals
from ..mesh.weld import weld
from ..outcome import Outcome, Skipped
from ..progress import SILENT, Progress
from ..spatial.box_tree import Tree
from ..spatial.face_region import Region, Spots, faces_of_region, with_neighbours
from ..spatial.hausdorff import faces_beyond, points_beyond
from ._isotropic_kernels import FIXED, FREE, collapse_short_edges
from .estimate import Estimate, MeshMeasures, region_area
from .original_surface import OriginalSurface

_MOST_FACES = 3_000_000
"""More would take many minutes."""
_SECONDS = 0.012
"""Time for each part of the square root of the area as long as the tolerance: about as many edges
of the original lie in the way."""
_GB = 0.4
"""Memory that the process takes anyway, GB."""
_ROUNDS = 16
"""Halvings one after the other at most: 65,536 edges out of one, far below any tolerance."""
_TRIES = 12
"""Times that single vertices are put back where faces would cross, before all of a round are."""
_FLIPS, _FLIP_TRIES = 4, 3
"""Flips at most for each face in one round; tries, without those that made faces intersect."""
_LONG = 0.7
"""Edges from this share of a face's longest are halved with it: the parts stay round."""
_WITHIN = 0.6
"""Share of the tolerance that faces are brought within: an edge of the original lies farther from a
face that cuts across it than that from the original, square edges by the root of two."""
_BAND = 0.5
"""Share of the reach: edges beside what stays are halved down to this."""
_CORNER = 3.0
"""Tolerances from which a vertex goes to a corner of the original."""
_THIN = 0.05
"""Share of the tolerance below which no face may become thinner: halved again and again, its
corners would come to lie on one number."""
_FOLD = -0.9
"""Least cosine between the normals of neighbours, unless it was less before: 154 degrees. Where a
corner was bridged, faces drawn singly would leave a shelf too thin to be drawn any further."""
_CREASED = -0.5
"""Cosine between the normals of neighbours below which they are collapsed, if that moves them no
farther than the tolerance: 120 degrees. What lies so is a crumple."""
_NEAR = 0.1
"""Share of the tolerance within which a point counts as on the original."""


def restore_detail(
    mesh: Mesh,
    original: Mesh,
    region: Region | None = None,
    *,
    reach: float | None = None,
    tolerance: float | None = None,
    progress: Progress = SILENT,
) -> Outcome:
    """Draw a surface back onto the one that it was made from, finer where that takes it.

    Vertices go to the nearest point of the original. Faces that are not within the tolerance of it
    are divided, and the new vertices drawn there in turn; those between two faces of the original
    that meet sharply go to their edge. A vertex stays where it is if the nearest point is out of
    reach, on a face that intersects another one, on one that looks the other way, or on an open rim
    beside it, and wherever faces would intersect or turn over. So what was closed and free of
    intersections stays that.

    Parameters
    ----------
    mesh : Mesh
    original : Mesh
        What it was made from, however broken.
    region : sequence of (x, y, z, radius), or ndarray, shape (m,), bool, optional
        mm; or the faces; the whole by default.
    reach : float, optional
        Greatest distance over which a vertex is drawn, mm; by default a hundredth of the longest
        side, which is two voxels of the usual size.
    tolerance : float, optional
        What is nearer to the original is left as it is, mm; a twentieth of the reach by default.
    progress : Progress

    Returns
    -------
    Outcome
        Numbers: ``reach_mm``, ``tolerance_mm``; ``faces_added``; ``moved``, old vertices;
        ``within_before`` and ``within``, the share of the region's area within the tolerance.
        Skipped: ``empty-region``; ``no-original``; ``within-already``; ``too-many-faces``, where
        dividing stopped; ``stays``, if not all of the area is ``within`` the tolerance, with
        ``intersecting``, whether the original intersects itself.

    Raises
    ------
    Cancelled
        If `progress` asks to stop.

    References
    ----------
    Kobbelt, Vorsatz, Labsik and Seidel 1999, *A shrink wrapping approach to remeshing polygonal
    surfaces*; the points on sharp edges as in Kobbelt et al. 2001, *Feature sensitive surface
    extraction from volume data*.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> low, stepped = cuboid(), cuboid((10.0, 10.0, 10.2))
    >>> restore_detail(low, stepped, reach=0.5).mesh.size.round(3).tolist()
    [10.0, 10.0, 10.2]
    """
    inside = faces_of_region(mesh, region)
    if not inside.any():
        return Outcome(mesh, skipped=(Skipped("empty-region"),))
    reach, tolerance = _usual(float(mesh.size.max()), reach, tolerance)
    progress.step("Looking at the original", 0.0)
    corners = mesh.vertices[mesh.faces[inside]].reshape(-1, 3)
    source = OriginalSurface.near(
        original, corners.min(axis=0) - reach, corners.max(axis=0) + reach
    )
    if source is None:
        return Outcome(mesh, skipped=(Skipped("no-original"),))
    near = with_neighbours(mesh.faces, inside)
    far, inside = mesh.faces[~near], inside[near]
    state = _State(mesh.vertices, mesh.faces[near], inside, inside, far, source, reach, tolerance)
    before = state.share_within()
    if before == 1.0:
        return Outcome(mesh, skipped=(Skipped("within-already"),))
    skipped: list[Skipped] = []
    for round_ in range(_ROUNDS):
        part = progress.span(0.1 + 0.8 * round_ / _ROUNDS, 0.1 + 0.8 * (round_ + 1) / _ROUNDS)
        for i, draw in enumerate((_State.drawn, _State.relaxed, _State.drawn, _State.cornered)):
            part.step("Drawing it back onto the original", 0.15 * i)
            state = draw(state)
        part.step("Making it finer", 0.6)
        off, points = state.off()
        edges = state.edges_to_halve(off, points)
        if not len(edges):
            break
        if len(state.faces) + len(far) + 3 * len(edges) > _MOST_FACES:
            skipped.append(Skipped("too-many-faces"))
            break
        state = state.halved(edges, off)
        part.step("Making it finer", 0.9)
        state = state.flipped().collapsed()
    progress.step("Looking at what came back", 0.95)
    after = state.share_within()
    if after < 1.0:
        numbers = {"within": after, "intersecting": source.intersects}
        skipped.append(Skipped("stays", numbers))
    old = len(mesh.vertices)
    moved = int((state.vertices[:old] != mesh.vertices).any(axis=1).sum())
    added = len(state.faces) + len(far) - len(mesh.faces)
    if not moved and not added:
        return Outcome(mesh, skipped=tuple(skipped))
    numbers = {
        "reach_mm": reach,
        "tolerance_mm": tolerance,
        "faces_added": added,
        "moved": moved,
        "within_before": before,
        "within": after,
    }
    result = Mesh(state.vertices, np.concatenate([state.faces, far])).compact()
    return Outcome(result, numbers, tuple(skipped))


def estimate_restore_detail(
    measures: MeshMeasures,
    region: Spots | None = None,
    *,
    reach: float | None = None,
    tolerance: float | None = None,
) -> Estimate:
    """What `restore_detail` will take.

    How many triangles it leaves depends on where the original is not met, which only the work
    itself tells.

    Parameters
    ----------
    measures : MeshMeasures
    region : sequence of (x, y, z, radius), optional
        mm; the whole by default.
    reach, tolerance : float, optional
        mm; by default as there.

    Returns
    -------
    Estimate

    Examples
    --------
    >>> round(estimate_restore_detail(MeshMeasures(20_000, 5_000.0, 40.0), tolerance=0.05).seconds)
    17
    """
    reach, tolerance = _usual(measures.longest, reach, tolerance)
    seconds = _SECONDS * np.sqrt(region_area(measures, region)) / tolerance
    return Estimate(float(seconds), measures.triangles * 1e-6 + _GB)


def _usual(longest: float, reach: float | None, tolerance: float | None) -> tuple[float, float]:
    """The reach and the tolerance that are meant, for a longest side."""
    reach = longest / 100 if reach is None else reach
    return reach, reach / 20 if tolerance is None else tolerance


@dataclass(frozen=True, eq=False)
class _State:
    """The region and what is around it, while it changes.

    Attributes
    ----------
    vertices : ndarray, shape (n, 3)
    faces : ndarray, shape (m, 3)
        Those of the region and round it.
    inside : ndarray, shape (m,), bool
        Whether each is the region's.
    active : ndarray, shape (m,), bool
        Those of the region that are off the original still, and what is next to them.
    far : ndarray, shape (k, 3)
        All other faces.
    source : OriginalSurface
    reach, tolerance : float
        mm.
    """

    vertices: Array
    faces: Array
    inside: Array
    active: Array
    far: Array
    source: OriginalSurface
    reach: float
    tolerance: float

    @property
    def limit(self) -> float:
        """Distance that faces are brought within, mm."""
        return _WITHIN * self.tolerance

    @cached_property
    def topology(self) -> Topology:
        """How the faces hang together."""
        return Topology(Mesh(self.vertices, self.faces))

    @property
    def normals(self) -> Array:
        """The direction of the surface at each vertex of active faces, shape (n, 3)."""
        return vertex_normals(self.vertices, self.faces[self._at(self._vertices_of(self.active))])

    @cached_property
    def is_free(self) -> Array:
        """Whether each vertex belongs to the region only, shape (n,)."""
        out = self._vertices_of(self.inside)
        out[self.faces[~self.inside]] = False
        return out

    def _vertices_of(self, faces: Array) -> Array:
        """Whether each vertex is one of some faces', shape (n,)."""
        out = np.zeros(len(self.vertices), dtype=bool)
        out[self.faces[faces]] = True
        return out

    def _at(self, vertices: Array) -> Array:
        """Whether each face has one of some vertices, shape (m,)."""
        out: Array = vertices[self.faces].any(axis=1)
        return out

    @property
    def movable(self) -> Array:
        """The vertices that may be drawn: free, and of active faces."""
        return np.flatnonzero(self._vertices_of(self.active) & self.is_free)

    def _targets(self, at: Array) -> tuple[Array, Array, Array]:
        """Where vertices of active faces go, as `OriginalSurface.targets` tells."""
        return self.source.targets(self.vertices[at], self.normals[at], self.reach)

    def share_within(self) -> float:
        """The share of the region's area within the tolerance of the original."""
        faces = self.faces[self.inside]
        off = faces_beyond(self.vertices, faces, self.source.tree, self.tolerance)
        areas = face_areas(self.vertices, faces)
        return float(1.0 - areas[off].sum() / max(areas.sum(), 1e-300)) if off.any() else 1.0

    def drawn(self) -> Self:
        """With vertices on the original, wherever that is sound."""
        at = self.movable
        feet, distance, may = self._targets(at)
        goes = may & (distance > _NEAR * self.tolerance)
        return self._moved(at[goes], feet[goes])

    def cornered(self) -> Self:
        """With the vertices next to corners of the original in them."""
        corners = self.source.corners
        faces = self.faces[self.active]
        if not len(corners) or not len(faces):
            return self
        _, face = Tree.of(self.vertices, faces).nearest(corners)
        at = faces[face]
        away = np.linalg.norm(self.vertices[at] - corners[:, None], axis=2)
        rows, best = np.arange(len(at)), away.argmin(axis=1)
        at, away = at[rows, best], away[rows, best]
        # each goes to one: that next to it
        order = np.argsort(away, kind="stable")
        chosen = order[np.unique(at[order], return_index=True)[1]]
        goes = (away[chosen] > 0) & (away[chosen] < _CORNER * self.tolerance)
        chosen = chosen[goes & self.is_free[at[chosen]]]
        return self._moved(at[chosen], corners[chosen])

    def relaxed(self) -> Self:
        """With vertices that could not be drawn as far as they should go between their neighbours.

        Where faces would have intersected or turned over, they lie in folds; smoothed, these open.
        """
        at = self.movable
        _, distance, may = self._targets(at)
        at = at[may & (distance > self.tolerance / 2)]
        if not len(at):
            return self
        stuck = np.zeros(len(self.vertices), dtype=bool)
        stuck[at] = True
        ends = edges_of(self.faces[self._at(stuck)])
        total, count = np.zeros_like(self.vertices), np.zeros(len(self.vertices))
        for one, other in (ends.T, ends.T[::-1]):
            np.add.at(total, one, self.vertices[other])
            np.add.at(count, one, 1.0)
        return self._moved(at, total[at] / count[at, None])

    def _moved(self, at: Array, to: Array) -> Self:
        """With vertices moved, less far or not at all where faces would intersect or turn over."""
        step, share = to - self.vertices[at], np.ones(len(at))
        changed, vertices = at, self.vertices.copy()
        for attempt in range(_TRIES):
            vertices[at] = as_float32(self.vertices[at] + step * share[:, None])
            is_changed = np.zeros(len(vertices), dtype=bool)
            is_changed[changed] = True
            # the others were looked at before
            stays = self._unsound(vertices, np.flatnonzero(self._at(is_changed)))
            if not stays.any():
                return replace(self, vertices=vertices)
            # the later, the wider: what is put back may meet what was moved beside it
            if attempt >= _TRIES // 2:
                stays |= self._vertices_of(self._at(stays))
            less = stays[at] & (share > 0.0)
            if not less.any():
                break
            share[less] = share[less] / 2 if attempt < _TRIES // 2 - 1 else 0.0
            changed = at[less]
        return self

    def _unsound(self, vertices: Array, fresh: Array) -> Array:
        """Vertices of faces that become needles, fold, look away from the original, or intersect.

        Parameters
        ----------
        vertices : ndarray, shape (n, 3)
            Where they are to go.
        fresh : ndarray, shape (k,)
            The faces that change by it.

        Returns
        -------
        ndarray, shape (n,), bool
        """
        faces = frozen(self.faces[fresh], np.int32)
        least = np.minimum(_THIN * self.tolerance, least_heights(self.vertices, faces))
        needles = least_heights(vertices, faces) < least
        # what looks away already may go on doing so, but not further
        cosine = np.minimum(0.0, self.source.cosines(self.vertices, faces))
        away = self.source.cosines(vertices, faces) < cosine
        bend = np.minimum(_FOLD, self._least_cosines(self.vertices, fresh))
        folds = self._least_cosines(vertices, fresh) < bend
        out = self._met(vertices, fresh)
        out[faces[needles | away | folds]] = True
        return out

    def _least_cosines(self, vertices: Array, chosen: Array) -> Array:
        """Of the angles between the normals of chosen faces and of their neighbours."""
        twin = self.topology.twin.reshape(-1, 3)[chosen]
        beside = self.faces[np.maximum(twin, 0) // 3].reshape(-1, 3)
        normals = face_normals(vertices, self.faces[chosen])
        cosine = (normals[:, None] * face_normals(vertices, beside).reshape(-1, 3, 3)).sum(axis=2)
        cosine[twin < 0] = 1.0
        return np.asarray(cosine.min(axis=1, initial=1.0))

    def _met(self, vertices: Array, fresh: Array) -> Array:
        """Vertices of faces that intersect one of some faces, and those that share a place."""
        out = self._intersecting(vertices, self.faces, fresh)
        # two vertices at one place would be one in a file
        is_used = np.zeros(len(vertices), dtype=bool)
        is_used[self.faces] = is_used[self.far] = True
        used = np.flatnonzero(is_used)
        _, place = weld(vertices[used])
        out[used[np.bincount(place)[place] > 1]] = True
        return out

    def _intersecting(self, vertices: Array, faces: Array, fresh: Array) -> Array:
        """Vertices of those faces, of some and the far ones, that intersect one of those named."""
        every = frozen(np.concatenate([faces, self.far]), np.int32)
        is_fresh = np.zeros(len(every), dtype=bool)
        is_fresh[fresh] = True
        out = np.zeros(len(vertices), dtype=bool)
        out[every[intersecting_faces(vertices, every, is_fresh)]] = True
        return out

    def off(self) -> tuple[Array, Array]:
        """The active faces that are off the original, and a point of each that is farthest."""
        chosen = np.flatnonzero(self.active & self.inside)
        if not len(chosen):
            return chosen, np.zeros((0, 3))
        beyond, points = points_beyond(
            self.vertices, self.faces[chosen], self.source.tree, self.limit
        )
        return chosen[beyond], points

    def edges_to_halve(self, off: Array, points: Array) -> Array:
        """The long edges of faces off the original that can be drawn nearer."""
        source, limit, faces = self.source, self.limit, self.faces[off]
        lengths = edge_lengths(self.vertices, faces)
        longest = lengths.max(axis=1, initial=0.0)
        ways = face_normals(self.vertices, faces)
        # the farthest point, or the middle of an edge, has somewhere to go
        _, _, helps = source.targets(points, ways, self.reach)
        corners = self.vertices[faces]
        for k in range(3):
            middles = (corners[:, k] + corners[:, (k + 1) % 3]) / 2
            _, distance, may = source.targets(middles, ways, self.reach)
            helps |= may & (distance > limit / 2)
        helps &= longest > limit
        # along what stays, finer than a band of so much would only add triangles
        stays = self._vertices_of(off)
        at = np.flatnonzero(stays)
        _, distance, may = self._targets(at)
        stays[at] = ~may & (distance > limit)
        helps &= ~stays[faces].any(axis=1) | (longest > _BAND * self.reach)
        # an edge of the region's rim stays whole, since faces beyond share it
        free = self.is_free
        inner = free[faces] | free[np.roll(faces, -1, axis=1)]
        return marked_edges(faces, helps[:, None] & inner & (lengths >= _LONG * longest[:, None]))

    def halved(self, edges: Array, off: Array) -> Self:
        """With edges halved, and the new vertices on sharp edges of the original where they can."""
        old = len(self.vertices)
        is_off = np.zeros(len(self.faces), dtype=bool)
        is_off[off] = True
        for _ in range(_TRIES):
            middles = as_float32(self.vertices[edges].mean(axis=1))
            vertices, faces, origin = halve_edges(
                self.vertices, self.faces, np.arange(len(self.faces)), edges, middles
            )
            fresh = np.asarray((faces >= old).any(axis=1))
            inside, active = self.inside[origin], fresh | is_off[origin]
            state = replace(self, vertices=vertices, faces=faces, inside=inside, active=active)
            # what is next to them bends with them
            state = replace(state, active=state._at(state._vertices_of(active)))
            bad = state._met(vertices, np.flatnonzero(fresh))[old:]
            if not bad.any():
                points, found = self.source.meeting_planes(
                    self.vertices[edges], _NEAR * self.tolerance
                )
                return state._moved(old + np.flatnonzero(found), points[found])
            # rounded to float32, even the middle of an edge may lie beyond a face close by
            edges = edges[~bad]
            if not len(edges):
                break
        return replace(self, active=np.zeros(len(self.faces), dtype=bool))

    def collapsed(self) -> Self:
        """With short edges collapsed of faces that look away from the original or fold."""
        chosen = np.flatnonzero(self.active & self.inside)
        wrong = self.source.cosines(self.vertices, self.faces[chosen]) < 0.0
        wrong |= self._least_cosines(self.vertices, chosen) < _CREASED
        if not wrong.any():
            return self
        vertices, faces = self.vertices.copy(), np.array(self.faces, dtype=np.int32)
        few, n = faces[chosen[wrong]], len(vertices)
        edges = edges_of(few)
        lengths = np.linalg.norm(np.diff(vertices[edges], axis=1)[:, 0], axis=1)
        edges = edges[np.argsort(lengths, kind="stable")]
        alive = np.ones(len(faces), dtype=np.uint8)
        kind = np.where(self.is_free, FREE, FIXED).astype(np.uint8)
        beside = np.full((n, 2), -1, dtype=np.int32)
        collapse_short_edges(
            vertices, faces, alive, kind, beside, np.zeros(n), edges,
            *vertex_corners(faces, n), self.reach, self.tolerance,
        )  # fmt: skip
        left = alive.astype(bool)
        moved = (vertices != self.vertices).any(axis=1)
        faces = faces[left]
        changed = (faces != self.faces[left]).any(axis=1) | moved[faces].any(axis=1)
        state = replace(
            self,
            vertices=vertices,
            faces=faces,
            inside=self.inside[left],
            active=self.active[left],
        )
        return self if state._met(vertices, np.flatnonzero(changed)).any() else state

    def flipped(self) -> Self:
        """With edges flipped towards a Delaunay triangulation, where that hardly moves anything."""
        twin = np.array(self.topology.twin)
        may = self.inside & self.active
        free = np.repeat(may, 3) & (twin >= 0) & may[np.maximum(twin, 0) // 3]
        for _ in range(_FLIP_TRIES):
            faces = np.array(self.faces, dtype=np.int32)
            most, moves = _FLIPS * len(faces), _NEAR * self.tolerance
            flip_edges(self.vertices, faces, twin.copy(), free.copy(), most, moves)
            changed = np.flatnonzero((faces != self.faces).any(axis=1))
            bad = self._intersecting(self.vertices, faces, changed)
            if not bad.any():
                return replace(self, faces=faces)
            free &= ~np.repeat(self._at(bad), 3)
        return self
