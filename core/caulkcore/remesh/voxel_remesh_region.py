"""Rebuilding a part of a model from voxels, everything else untouched."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..arrangement.arrange import ArrangementFailed
from ..arrangement.outer_hull import cut_boxes, outer_hull
from ..diagnose.diagnosis import Diagnosis
from ..diagnose.intersections import intersecting_faces, intersection_segments
from ..errors import OperationRefused
from ..mesh._face_kernels import shell_boxes, shell_sums
from ..mesh.arrays import Array, frozen
from ..mesh.concatenate import concatenate
from ..mesh.float32 import as_float32
from ..mesh.topology import Topology
from ..mesh.triangle_mesh import Mesh, face_areas, vertex_normals
from ..outcome import Outcome, Skipped
from ..predicates.orientation import faces_have_area
from ..progress import SILENT, Progress
from ..repair.orient import orient_patches
from ..spatial.box_tree import Tree
from ..spatial.face_region import Spots, face_extents, faces_reaching_boxes
from ..spatial.hausdorff import NOWHERE
from .dual_contouring import dual_contour
from .estimate import Estimate, MeshMeasures, region_area
from .lost_surface import LostSurface, lost_surface
from .occupancy import Grid, Occupancy
from .voxel_remesh import (
    DECIMATED_SHARE,
    LOST_STEPS,
    decimated,
    estimated_gigabytes,
    estimated_seconds,
    separated,
    without_intersections,
)

USUAL_ZONE_VOXELS = 80
"""As many along a zone, if nobody chose a voxel size."""
_LEAST_ZONE_VOXELS = 12
"""As many along its shortest side at least, or the new surface has no room for its rim."""
_LID_DEPTH = 3.5
"""Voxels inside the zone's sides at which the rest is cut off and closed with lids."""
_OVERLAP = 2.0
"""Voxels by which the new surface reaches beyond the lids, into what stays."""
_UNION_TRIES = ((0.1, True), (0.2, True), (0.35, True), (0.1, False))
"""How the new surface meets the old one, tried one after the other: voxels by which its rim lies
below the old surface, so that the two meet in a clean line, and whether its triangles are made
fewer first."""
_BLEND = 3.0
"""Voxels from the new surface's rim over which its points are drawn towards the old surface."""
_MERGE_SHARE = 0.02
"""Zones nearer to each other than this share of the larger one's longest side become one."""
_SPECK = 3.0
"""Bits that enclose less than a cube of so many voxels are dropped: seams leave such."""
_ENLARGED = 1.0137
"""Zones are a little larger than asked for, by no round number, so that their sides lie in no face
of a CAD model."""

Rim = tuple[Array, Array, Array, Array]
"""Numbers of points, the share by which each is drawn in, the surface's nearest points, normals."""


def voxel_remesh_region(
    mesh: Mesh,
    region: Spots | None = None,
    *,
    detail: float | None = None,
    progress: Progress = SILENT,
) -> Outcome:
    """Rebuild what lies in a zone as one closed surface round what the mesh winds round there.

    The zone is a box round each of the spots, boxes that meet being one. A little within the
    zone's sides, the rest is cut off exactly and closed with flat lids; inside, the surface is
    drawn anew from voxels, as `voxel_remesh` does it, reaching past the lids into the rest; the two
    solids are united exactly. So the seam is closed whatever was in the zone, and nothing outside
    is touched.

    Parameters
    ----------
    mesh : Mesh
    region : sequence of (x, y, z, radius)
        Spots, mm.
    detail : float, optional
        Size of a voxel, mm; by default an eightieth of the longest zone, or less where another is
        small.
    progress : Progress

    Returns
    -------
    Outcome
        Numbers: ``zones``, ``detail_mm``, ``faces_rebuilt``; of what has nothing of
        the new surface near it, ``lost_share`` of the area there and ``lost_mm``, how far its
        farthest point is from the new surface. Skipped: ``no-surface``; ``encloses-nothing``;
        ``not-joined`` with a ``message``; ``lost`` with the same two numbers.

    Raises
    ------
    OperationRefused
        Without spots, if the voxels would be too many or too few, or if the surface is not closed
        outside the zone or intersects there.
    Cancelled
        If `progress` asks to stop.
    """
    outer = zones(region)
    step = _voxel_size(outer, detail)
    touched, rest = _touched(mesh, outer)
    if not len(touched.faces):
        return Outcome(mesh, skipped=(Skipped("no-surface"),))
    estimated_gigabytes(_area_within(touched, outer), step)
    boxes = outer + _LID_DEPTH * step * np.array([[1.0], [-1.0]])
    progress.step("Cutting the zone out", 0.0)
    _refuse_intersections(touched, outer)
    gone = _wholly_within(touched, boxes)
    outside = _cut_out(touched, gone, boxes)
    progress.step("Drawing the new skin", 0.2)
    oriented = orient_patches(Diagnosis(touched)).mesh
    drawn = [_NewSurface.of(oriented, box, step) for box in boxes]
    drawn = [surface for surface in drawn if len(surface.faces)]
    if outside is None and not drawn:
        return Outcome(mesh, skipped=(Skipped("encloses-nothing"),))
    progress.step("Uniting it with the rest", 0.7)
    try:
        united = _without_specks(_united(outside, drawn), step, outer)
    except ArrangementFailed as problem:
        return Outcome(mesh, skipped=(Skipped("not-joined", {"message": str(problem)}),))
    progress.step("Looking for what was lost", 0.95)
    rebuilt = Mesh(touched.vertices, touched.faces[gone])
    lost = LostSurface(0.0, NOWHERE)
    if gone.any():
        lost = lost_surface(rebuilt, united, LOST_STEPS * step, progress=progress.span(0.95, 1.0))
    numbers = {
        "detail_mm": step,
        "zones": len(boxes),
        "faces_rebuilt": int(gone.sum()),
        **lost.numbers,
    }
    result = concatenate([rest, united]) if len(rest.faces) else united
    return Outcome(result, numbers, (Skipped("lost", lost.numbers),) if lost.reach.high else ())


def _united(outside: Mesh | None, drawn: "list[_NewSurface]") -> Mesh:
    """New surfaces and what was there as one.

    Where they meet at too flat an angle to be joined, the new ones are drawn in further, and left
    with all their triangles at last.

    Raises
    ------
    ArrangementFailed
        If they could not be joined.
    """
    there = [] if outside is None else [outside]
    for inset, fewer in _UNION_TRIES:
        try:
            new = [surface.sound(inset, fewer) for surface in drawn]
            hull = outer_hull(concatenate([*there, *new])).mesh
        except ArrangementFailed as problem:
            last = problem
        else:
            return separated(hull)
    raise last


def estimate_voxel_remesh_region(
    measures: MeshMeasures, region: Spots | None = None, *, detail: float | None = None
) -> Estimate:
    """What `voxel_remesh_region` will take.

    Parameters
    ----------
    measures : MeshMeasures
    region : sequence of (x, y, z, radius)
        Spots, mm.
    detail : float, optional
        Size of a voxel, mm.

    Returns
    -------
    Estimate

    Raises
    ------
    OperationRefused
        Without spots, or if the voxels would be too many or too few.
    """
    step = _voxel_size(zones(region), detail)
    area = region_area(measures, region)
    seconds = estimated_seconds(area, step, False)
    return Estimate(seconds, estimated_gigabytes(area, step), detail=step)


def zones(region: Spots | None) -> Array:
    """Boxes round spots, low corner and high, shape (k, 2, 3); those that would meet are one.

    Parameters
    ----------
    region : sequence of (x, y, z, radius)
        Spots, mm.

    Returns
    -------
    ndarray, shape (k, 2, 3)

    Raises
    ------
    OperationRefused
        Without spots.

    Examples
    --------
    >>> zones([[0.0, 0.0, 0.0, 4.0], [5.0, 0.0, 0.0, 4.0]]).shape
    (1, 2, 3)
    """
    if not region:
        raise OperationRefused("Pick where on the model.")
    given = np.asarray(region, dtype=np.float64)
    reach = _ENLARGED * given[:, 3:]
    boxes: list[Array] = []
    for box in np.stack([given[:, :3] - reach, given[:, :3] + reach], axis=1):
        while met := [i for i, known in enumerate(boxes) if _meet(known, box)]:
            both = boxes.pop(met[0])
            box = np.stack([np.minimum(both[0], box[0]), np.maximum(both[1], box[1])])
        boxes.append(box)
    return np.array(boxes)


def _meet(a: Array, b: Array) -> bool:
    """Whether two boxes overlap, or nearly do."""
    room = _MERGE_SHARE * max(np.ptp(a, axis=0).max(), np.ptp(b, axis=0).max())
    return bool((a[0] - room < b[1]).all() and (b[0] - room < a[1]).all())


def _voxel_size(boxes: Array, detail: float | None) -> float:
    sides = np.ptp(boxes, axis=1)
    most = float(sides.min()) / _LEAST_ZONE_VOXELS
    if detail is None:
        return min(float(sides.max()) / USUAL_ZONE_VOXELS, most)
    if detail > most:
        raise OperationRefused(
            f"A detail size of {detail:.3g} mm is too coarse for the zone; "
            f"{most:.3g} mm is about the most."
        )
    return detail


def _refuse_intersections(mesh: Mesh, boxes: Array) -> None:
    """Refuse what would be untangled, or united, although it lies outside the zone.

    Raises
    ------
    OperationRefused
    """
    pairs = intersecting_faces(mesh.vertices, mesh.faces)
    curves, _ = intersection_segments(mesh.vertices, mesh.faces, pairs)
    ends = curves.reshape(-1, 3)
    within = np.zeros(len(ends), dtype=bool)
    for box in boxes:
        within |= ((ends >= box[0]) & (ends <= box[1])).all(axis=1)
    # what lies on each other in one plane has no curve
    flat = pairs[~faces_reaching_boxes(mesh, boxes)[pairs].any(axis=1)]
    if not within.all() or len(flat):
        at = ends[~within][0] if not within.all() else mesh.vertices[mesh.faces[flat[0, 0], 0]]
        raise OperationRefused(
            f"Outside the zone faces cross, such as at {at[0]:.2f}, {at[1]:.2f}, {at[2]:.2f} mm: "
            "untangle or unite that first, or take it into the zone."
        )


def _touched(mesh: Mesh, boxes: Array) -> tuple[Mesh, Mesh]:
    """The pieces that reach into a box, and all others."""
    near = faces_reaching_boxes(mesh, boxes)
    shell, count = Topology(mesh).shells
    reached = np.zeros(count, dtype=bool)
    reached[shell[near]] = True
    return (
        Mesh(mesh.vertices, mesh.faces[reached[shell]]).compact(),
        Mesh(mesh.vertices, mesh.faces[~reached[shell]]).compact(),
    )


def _area_within(mesh: Mesh, boxes: Array) -> float:
    """About the area of the surface within the boxes, mm², rather too much than too little."""
    low, high = face_extents(mesh)
    areas = face_areas(mesh.vertices, mesh.faces)
    total = 0.0
    for box in boxes:
        met = ((low <= box[1]) & (high >= box[0])).all(axis=1)
        # no plane cuts more than this from a box
        total += float(np.minimum(areas[met], np.ptp(box, axis=0).max() ** 2 * np.sqrt(2)).sum())
    return total


def _wholly_within(mesh: Mesh, boxes: Array) -> Array:
    """Faces that lie within one of the boxes."""
    low, high = face_extents(mesh)
    return _within_one(low, high, boxes)


def _within_one(low: Array, high: Array, boxes: Array) -> Array:
    """Whether each extent lies within one of the boxes."""
    return np.any([((low > box[0]) & (high < box[1])).all(axis=1) for box in boxes], axis=0)


def _cut_out(mesh: Mesh, gone: Array, boxes: Array) -> Mesh | None:
    """What is left without the boxes, closed with lids along them; None if nothing is.

    Raises
    ------
    OperationRefused
        If it is not closed outside.
    """
    kept = mesh.faces[~gone]
    if not len(kept):
        return None
    kept = kept[faces_have_area(mesh.vertices, frozen(kept, np.int32))]
    topology = Topology(Mesh(mesh.vertices, kept))
    odd = topology.balance != 0
    low, high = np.sort(topology.edges_where(odd), axis=1).T
    more = topology.balance[odd]
    tips = boxes.mean(axis=1)
    box_of = np.full(len(low), -1)
    for i, box in enumerate(boxes):
        ends = mesh.vertices[np.stack([low, high])]
        box_of[((ends > box[0]) & (ends < box[1])).all(axis=(0, 2))] = i
    if (box_of < 0).any():
        at = mesh.vertices[low[box_of < 0][0]]
        raise OperationRefused(
            f"Outside the zone the skin is not closed: {int((box_of < 0).sum()):,} edges, one"
            f" of them at {at[0]:.2f}, {at[1]:.2f}, {at[2]:.2f} mm: mend that first, or take "
            "it into the zone."
        )
    # whatever closes it within the boxes will do: that is cut away
    cone = np.stack([high, low, len(mesh.vertices) + box_of], axis=1)
    cone = np.where((more < 0)[:, None], cone[:, [1, 0, 2]], cone)
    cone = np.repeat(cone, np.abs(more), axis=0)
    whole = Mesh(np.concatenate([mesh.vertices, tips]), np.concatenate([kept, cone]))
    try:
        return cut_boxes(whole, boxes)
    except ArrangementFailed as problem:
        raise OperationRefused(f"The zone could not be cut out: {problem}") from problem


def _without_specks(skin: Mesh, step: float, boxes: Array | None = None) -> Mesh:
    """A skin without what is not much larger than a voxel: stray faces, and what a seam encloses.

    With boxes, only what lies wholly within one of them goes.
    """
    shell, count = Topology(skin).shells
    volume, _, _ = shell_sums(skin.vertices, skin.faces, shell, count)
    small = np.abs(volume) <= (_SPECK * step) ** 3
    if boxes is not None:
        low, high = shell_boxes(skin.vertices, skin.faces, shell, count)
        small &= _within_one(low, high, boxes)
    return Mesh(skin.vertices, skin.faces[~small[shell]]).compact()


@dataclass(frozen=True, eq=False)
class _NewSurface:
    """The skin drawn anew in a box and its collar; without faces if nothing is there.

    Attributes
    ----------
    mesh : Mesh
        The surface as it was.
    box : ndarray, shape (2, 3)
    step : float
    sharp, mean : ndarray, shape (n, 3)
        See `dual_contour`.
    faces : ndarray, shape (m, 3)
    """

    mesh: Mesh
    box: Array
    step: float
    sharp: Array
    mean: Array
    faces: Array

    @staticmethod
    def of(mesh: Mesh, box: Array, step: float) -> "_NewSurface":
        """Draw it from a grid."""
        wide = np.stack([box[0] - _OVERLAP * step, box[1] + _OVERLAP * step])
        grid = Grid.over(mesh, wide, step)
        near_rim = frozen(mesh.faces[faces_have_area(mesh.vertices, mesh.faces)], np.int32)
        found = Occupancy(grid, near_rim, whole=False)
        sharp, mean, faces = dual_contour(found.edges, found.inside, grid.shape)
        return _NewSurface(mesh, box, step, grid.placed(sharp), grid.placed(mean), faces)

    def sound(self, inset: float, fewer: bool) -> Mesh:
        """Drawn in at the rim of the zone, without crossings or specks, with fewer triangles."""
        sharp, mean = (
            self._drawn_in(points, rim, inset * self.step)
            for points, rim in zip((self.sharp, self.mean), self._rims, strict=True)
        )
        skin = _without_specks(without_intersections(sharp, mean, self.faces), self.step)
        return decimated(skin, self.step / DECIMATED_SHARE) if fewer and len(skin.faces) else skin

    def _drawn_in(self, points: Array, rim: Rim, inset: float) -> Array:
        """Points of the skin, those at the rim drawn below the surface as it was."""
        near_rim, share, feet, normals = rim
        out = points.copy()
        out[near_rim] += share[:, None] * (feet - inset * normals - points[near_rim])
        return as_float32(out)

    @cached_property
    def _rims(self) -> tuple[Rim, Rim]:
        """What lies at the rim of the zone, of the sharp points and of the mean ones."""
        return self._rim(self.sharp), self._rim(self.mean)

    def _rim(self, points: Array) -> Rim:
        depth = np.minimum(points - self.box[0], self.box[1] - points).min(axis=1)
        share = np.clip(1.0 - depth / (_BLEND * self.step), 0.0, 1.0)
        near_rim = np.flatnonzero(share > 0)
        tree = Tree.of(self.mesh.vertices, self.mesh.faces)
        distance, face = tree.nearest(points[near_rim])
        near = distance < self.step
        near_rim, face = near_rim[near], face[near]
        normals = vertex_normals(points, self.faces)
        return near_rim, share[near_rim], tree.feet(points[near_rim], face), normals[near_rim]
