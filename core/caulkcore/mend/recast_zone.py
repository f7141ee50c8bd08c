"""Rebuilding a part of a model from a fine grid, everything else untouched."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..arrange import NotArranged, have_area
from ..arrays import frozen
from ..errors import RefusedRemedy
from ..examine.finding import counted, length_text
from ..examine.solid import crossing_curves
from ..kernels.faces import shell_boxes, shell_sums
from ..kernels.tree import Tree
from ..mesh import Array, Mesh, face_areas, face_crosses
from ..progress import SILENT, Progress
from ..topology import Topology
from .contour import contour
from .cost import Cost, Measures, region_area
from .crossing import crossing_faces
from .field import Field, Grid
from .one_skin import one_skin, without_boxes
from .orient import turn_patches
from .outcome import Outcome
from .part import part_pinched, split_over_shared
from .recast import fewer, gigabytes, lost_share, seconds, without_crossings
from .region import Spots
from .rounding import as_float32
from .together import together

USUAL_VOXELS = 80
"""As many along a zone, if nobody chose a detail size."""
_LEAST_VOXELS = 12
_COLLAR, _RIM = 2.0, 3.5
"""Steps by which the new skin reaches into what stays, and which it never reaches beyond."""
_WAYS = ((0.1, True), (0.2, True), (0.35, True), (0.1, False))
"""Steps by which it stays within that, so that the two meet in a clean line, and whether with fewer
triangles; one after the other."""
_FADE = 3.0
_FINER = 20.0
_APART = 0.02
_SPECK = 3.0
_ODD = 1.0137
# Zones are a little larger than asked for, so that their sides lie in no face of a CAD model.


Rim = tuple[Array, Array, Array, Array]
"""Numbers of points, the share by which each is drawn in, the surface's nearest points, normals."""


def recast_zone(
    mesh: Mesh,
    region: Spots | None = None,
    detail: float | None = None,
    progress: Progress = SILENT,
) -> Outcome:
    """Rebuild what lies in a zone as one closed skin round what the surface winds round there.

    The zone is a box round each of the spots, boxes that meet being one. A little within the
    zone's sides, the rest is cut off exactly and closed with flat lids; inside, the skin is drawn
    anew from a grid, as `recast` does it, reaching past the lids into the rest; the two solids are
    united exactly. So the seam is closed whatever was in the zone, and nothing outside is touched.

    Parameters
    ----------
    mesh : Mesh
    region : sequence of (x, y, z, radius)
        Spots.
    detail : float, optional
        Size of a voxel, mm; by default an eightieth of the longest zone, or less where another is
        small.
    progress : Progress

    Raises
    ------
    RefusedRemedy
        Without spots, if the voxels would be too many or too few, or if the skin is not closed
        outside the zone or crosses there.
    """
    outer = zones(region)
    step = _step(outer, detail)
    some, rest = _touched(mesh, outer)
    if not len(some.faces):
        return Outcome(mesh, left=("There is no surface to recast.",))
    gigabytes(_area_within(some, outer), step)
    boxes = outer + _RIM * step * np.array([[1.0], [-1.0]])
    progress.step("Cutting the zone out", 0.0)
    _refuse_crossings(some, outer)
    gone = _wholly_within(some, boxes)
    outside = _cut_out(some, gone, boxes)
    progress.step("Drawing the new skin", 0.2)
    turned = turn_patches(some).mesh
    skins = [_NewSkin.of(turned, box, step) for box in boxes]
    skins = [skin for skin in skins if len(skin.faces)]
    if outside is None and not skins:
        return Outcome(mesh, left=("It encloses nothing at this detail size.",))
    progress.step("Uniting it with the rest", 0.7)
    try:
        one = _without_specks(_united(outside, skins), step, outer)
    except NotArranged as problem:
        return Outcome(mesh, left=(f"The new skin could not be joined to the rest: {problem}",))
    progress.step("Looking for what was lost", 0.95)
    lost = lost_share(Mesh(some.vertices, some.faces[gone]), one, 2 * step) if gone.any() else 0.0
    done = (
        f"{counted(len(boxes), 'zone')} recast at a detail size of {length_text(step)}; "
        f"{counted(int(gone.sum()), 'face')} rebuilt, the rest kept."
    )
    told = (
        f"{lost:.2%} of the surface there has nothing of the new skin near it: it is open, or "
        "thinner than the detail size."
    )
    counts = {"detail_mm": step, "zones": len(boxes), "lost_share": lost}
    result = together([rest, one]) if len(rest.faces) else one
    return Outcome(result, done, counts, (told,) if lost else ())


def _united(outside: Mesh | None, skins: "list[_NewSkin]") -> Mesh:
    """New skins and what was there as one.

    Where they meet at too flat an angle to be joined, the new skins are drawn in further, and left
    with all their triangles at last.

    Raises
    ------
    NotArranged
        If they could not be joined.
    """
    there = [] if outside is None else [outside]
    for inset, thin in _WAYS:
        try:
            one = one_skin(together([*there, *(skin.sound(inset, thin) for skin in skins)])).mesh
        except NotArranged as problem:
            why = problem
        else:
            return part_pinched(split_over_shared(one).mesh).mesh
    raise why  # of the last way


def cost(measures: Measures, region: Spots | None = None, detail: float | None = None) -> Cost:
    """What `recast_zone` will take."""
    step = _step(zones(region), detail)
    area = region_area(measures, region)
    return Cost(seconds(area, step, False), gigabytes(area, step), detail=step)


def zones(region: Spots | None) -> Array:
    """Boxes round spots, low corner and high, shape (k, 2, 3); those that would meet are one.

    Raises
    ------
    RefusedRemedy
        Without spots.
    """
    if not region:
        raise RefusedRemedy("Pick where on the model.")
    given = np.asarray(region, dtype=np.float64)
    reach = _ODD * given[:, 3:]
    boxes: list[Array] = []
    for box in np.stack([given[:, :3] - reach, given[:, :3] + reach], axis=1):
        while met := [i for i, known in enumerate(boxes) if _meet(known, box)]:
            both = boxes.pop(met[0])
            box = np.stack([np.minimum(both[0], box[0]), np.maximum(both[1], box[1])])
        boxes.append(box)
    return np.array(boxes)


def _meet(a: Array, b: Array) -> bool:
    """Whether two boxes overlap, or nearly do."""
    room = _APART * max(np.ptp(a, axis=0).max(), np.ptp(b, axis=0).max())
    return bool((a[0] - room < b[1]).all() and (b[0] - room < a[1]).all())


def _step(boxes: Array, detail: float | None) -> float:
    sides = np.ptp(boxes, axis=1)
    most = float(sides.min()) / _LEAST_VOXELS
    if detail is None:
        return min(float(sides.max()) / USUAL_VOXELS, most)
    if detail > most:
        raise RefusedRemedy(
            f"A detail size of {length_text(detail)} is too coarse for the zone; "
            f"{length_text(most)} is about the most."
        )
    return detail


def reaching_into(mesh: Mesh, boxes: Array) -> Array:
    """Whether the box round each face meets one of some boxes, shape (m,)."""
    low, high = _extents(mesh)
    near = np.zeros(len(mesh.faces), dtype=bool)
    for box in boxes:
        near |= ((low <= box[1]) & (high >= box[0])).all(axis=1)
    return near


def _refuse_crossings(mesh: Mesh, boxes: Array) -> None:
    """Refuse what would be untangled, or united, although it lies outside the zone.

    Raises
    ------
    RefusedRemedy
    """
    pairs = crossing_faces(mesh.vertices, mesh.faces)
    curves, _ = crossing_curves(mesh.vertices, mesh.faces, pairs)
    ends = curves.reshape(-1, 3)
    within = np.zeros(len(ends), dtype=bool)
    for box in boxes:
        within |= ((ends >= box[0]) & (ends <= box[1])).all(axis=1)
    # what lies on each other in one plane has no curve
    flat = pairs[~reaching_into(mesh, boxes)[pairs].any(axis=1)]
    if not within.all() or len(flat):
        at = ends[~within][0] if not within.all() else mesh.vertices[mesh.faces[flat[0, 0], 0]]
        raise RefusedRemedy(
            f"Outside the zone faces cross, such as at {at[0]:.2f}, {at[1]:.2f}, {at[2]:.2f} mm: "
            "untangle or unite that first, or take it into the zone."
        )


def _touched(mesh: Mesh, boxes: Array) -> tuple[Mesh, Mesh]:
    """The pieces that reach into a box, and all others."""
    near = reaching_into(mesh, boxes)
    shell, count = Topology(mesh).shells
    mine = np.zeros(count, dtype=bool)
    mine[shell[near]] = True
    return (
        Mesh(mesh.vertices, mesh.faces[mine[shell]]).compact(),
        Mesh(mesh.vertices, mesh.faces[~mine[shell]]).compact(),
    )


def _area_within(mesh: Mesh, boxes: Array) -> float:
    """About the area of the surface within the boxes, mm², rather too much than too little."""
    low, high = _extents(mesh)
    areas = face_areas(mesh.vertices, mesh.faces)
    total = 0.0
    for box in boxes:
        met = ((low <= box[1]) & (high >= box[0])).all(axis=1)
        # no plane cuts more than this from a box
        total += float(np.minimum(areas[met], np.ptp(box, axis=0).max() ** 2 * np.sqrt(2)).sum())
    return total


def _extents(mesh: Mesh) -> tuple[Array, Array]:
    corners = mesh.vertices[mesh.faces]
    return corners.min(axis=1), corners.max(axis=1)


def _wholly_within(mesh: Mesh, boxes: Array) -> Array:
    """Faces that lie within one of the boxes."""
    low, high = _extents(mesh)
    return _within_one(low, high, boxes)


def _within_one(low: Array, high: Array, boxes: Array) -> Array:
    """Whether each extent lies within one of the boxes."""
    return np.any([((low > box[0]) & (high < box[1])).all(axis=1) for box in boxes], axis=0)


def _cut_out(mesh: Mesh, gone: Array, boxes: Array) -> Mesh | None:
    """What is left without the boxes, closed with lids along them; None if nothing is.

    Raises
    ------
    RefusedRemedy
        If it is not closed outside.
    """
    kept = mesh.faces[~gone]
    if not len(kept):
        return None
    kept = kept[have_area(mesh.vertices, frozen(kept, np.int32))]
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
        raise RefusedRemedy(
            f"Outside the zone the skin is not closed: {counted(int((box_of < 0).sum()), 'edge')}"
            f", one of them at {at[0]:.2f}, {at[1]:.2f}, {at[2]:.2f} mm: mend that first, or take "
            "it into the zone."
        )
    # whatever closes it within the boxes will do: that is cut away
    cone = np.stack([high, low, len(mesh.vertices) + box_of], axis=1)
    cone = np.where((more < 0)[:, None], cone[:, [1, 0, 2]], cone)
    cone = np.repeat(cone, np.abs(more), axis=0)
    whole = Mesh(np.concatenate([mesh.vertices, tips]), np.concatenate([kept, cone]))
    try:
        return without_boxes(whole, boxes)
    except NotArranged as problem:
        raise RefusedRemedy(f"The zone could not be cut out: {problem}") from problem


def _without_specks(skin: Mesh, step: float, boxes: Array | None = None) -> Mesh:
    """A skin without what is not much larger than a voxel: stray faces, and what a seam encloses.

    With boxes, only what lies wholly within one of them goes.
    """
    shell, count = Topology(skin).shells
    volume, _ = shell_sums(skin.vertices, skin.faces, shell, count)
    small = np.abs(volume) <= (_SPECK * step) ** 3
    if boxes is not None:
        low, high = shell_boxes(skin.vertices, skin.faces, shell, count)
        small &= _within_one(low, high, boxes)
    return Mesh(skin.vertices, skin.faces[~small[shell]]).compact()


@dataclass(frozen=True, eq=False)
class _NewSkin:
    """The skin drawn anew in a box and its collar; without faces if nothing is there.

    Attributes
    ----------
    mesh : Mesh
        The surface as it was.
    box : ndarray, shape (2, 3)
    step : float
    sharp, mean : ndarray, shape (n, 3)
        See `contour`.
    faces : ndarray, shape (m, 3)
    """

    mesh: Mesh
    box: Array
    step: float
    sharp: Array
    mean: Array
    faces: Array

    @staticmethod
    def of(mesh: Mesh, box: Array, step: float) -> "_NewSkin":
        """Draw it from a grid."""
        wide = np.stack([box[0] - _COLLAR * step, box[1] + _COLLAR * step])
        grid = Grid.over(mesh, wide, step)
        some = frozen(mesh.faces[have_area(mesh.vertices, mesh.faces)], np.int32)
        found = Field(grid, some, whole=False)
        sharp, mean, faces = contour(found.edges, found.inside, grid.shape)
        return _NewSkin(mesh, box, step, grid.placed(sharp), grid.placed(mean), faces)

    def sound(self, inset: float, thin: bool) -> Mesh:
        """Drawn in at the rim of the zone, without crossings or specks, with fewer triangles."""
        sharp, mean = (
            self._drawn_in(points, rim, inset * self.step)
            for points, rim in zip((self.sharp, self.mean), self._rims, strict=True)
        )
        skin = _without_specks(without_crossings(sharp, mean, self.faces), self.step)
        return fewer(skin, self.step / _FINER) if thin and len(skin.faces) else skin

    def _drawn_in(self, points: Array, rim: Rim, inset: float) -> Array:
        """Points of the skin, those at the rim drawn below the surface as it was."""
        some, share, feet, normals = rim
        out = points.copy()
        out[some] += share[:, None] * (feet - inset * normals - points[some])
        return as_float32(out)

    @cached_property
    def _rims(self) -> tuple[Rim, Rim]:
        """What lies at the rim of the zone, of the sharp points and of the mean ones."""
        return self._rim(self.sharp), self._rim(self.mean)

    def _rim(self, points: Array) -> Rim:
        depth = np.minimum(points - self.box[0], self.box[1] - points).min(axis=1)
        share = np.clip(1.0 - depth / (_FADE * self.step), 0.0, 1.0)
        some = np.flatnonzero(share > 0)
        tree = Tree.of(self.mesh.vertices, self.mesh.faces)
        distance, face = tree.nearest(points[some])
        near = distance < self.step
        some, face = some[near], face[near]
        normals = np.zeros_like(points)
        crosses = face_crosses(points, self.faces)
        for k in range(3):
            np.add.at(normals, self.faces[:, k], crosses)
        normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-300)
        return some, share[some], tree.feet(points[some], face), normals[some]
