"""The account of a change: what came in, what went out, what stayed exactly as it was."""

from collections.abc import Callable
from dataclasses import asdict, dataclass
from functools import partial
from typing import Any

import numpy as np
from caulkcore.diagnose.cracks import weld_tolerance
from caulkcore.diagnose.diagnosis import SCRAP_SHARE, Diagnosis
from caulkcore.mesh.arrays import Array
from caulkcore.mesh.changed_faces import changed_faces
from caulkcore.mesh.split_edges import edge_lengths
from caulkcore.mesh.triangle_mesh import Mesh, face_areas, face_normals
from caulkcore.progress import SILENT, Progress
from caulkcore.spatial.box_tree import Tree
from caulkcore.spatial.hausdorff import (
    FLOOR,
    NOWHERE,
    Reach,
    directed_distance,
    upper_bounds,
)
from caulkcore.spatial.ray_parity import ray_winding_numbers
from caulkcore.spatial.winding_number import WindingNumber
from caulkcore.thickness.sampling import Samples

from .findings.pieces import BURIED, DEBRIS, SHEET, VOID
from .questions import CROSSINGS
from .report import Report
from .text import told_down, told_up

_OPEN = (
    "open-edges", "open-sheets", "cracks", "flipped-faces", "over-shared-edges", "inside-out-shells"
)  # fmt: skip
"""Kinds of finding with which a ray cannot tell what lies in material."""
_OFF = 1e-5
"""Share of the diagonal before a face at which is asked whether it lies in material; and share of
the way to a triangle's middle at which its corners are."""
_PART = 1 / 400
"""Share of the diagonal from whose size on faces are divided, since they may lie in material
partly."""
_MOST_PARTS = 1_000
"""Parts that they are divided into, all together, about at most: some tenths of a second."""


@dataclass(frozen=True)
class TakenOut:
    """What was taken out whole: crumbs, scraps, the skins of voids, solids buried in others.

    Attributes
    ----------
    pieces, faces : int
    area_mm2 : float
    """

    pieces: int
    faces: int
    area_mm2: float


_NOTHING = TakenOut(0, 0, 0.0)
"""Where nothing was taken out whole."""


@dataclass(frozen=True)
class Account:
    """What an operation changed.

    Attributes
    ----------
    triangles, vertices : dict
        ``before`` and ``after``.
    volume_mm3, area_mm2 : dict
        ``before`` and ``after``.
    unchanged_faces : int
        Faces of the result whose three corners are bit for bit those of a face that came in,
        whichever way round.
    new_faces, gone_faces : int
        Faces of the result that did not come in, and the reverse.
    touched_area_fraction : float
        Area of the faces that are gone, as a share of the area before.
    deviation_mm : float
        How far the skin moved: no point of the new one is farther from the old one, and none of
        the old one's outer skin farther from the new one. What was taken out whole, and what lay
        in material before, is left out; see `taken_out`.
    deviation_bound_mm : list of float
        The true figure is not less than the first, and not more than the second, which is
        `deviation_mm`.
    max_deviation_mm : float
        The same as `deviation_mm`.
    max_deviation_at : list of float, or None
        A point that moved by at least the first bound; None if nothing moved.
    lost_mm, added_mm : list of float
        The same bounds each way: how far what is gone lies from the result, and what is new from
        what came in.
    taken_out : TakenOut
    """

    triangles: dict[str, int]
    vertices: dict[str, int]
    volume_mm3: dict[str, float]
    area_mm2: dict[str, float]
    unchanged_faces: int
    new_faces: int
    gone_faces: int
    touched_area_fraction: float
    deviation_mm: float
    deviation_bound_mm: list[float]
    max_deviation_mm: float
    max_deviation_at: list[float] | None
    lost_mm: list[float]
    added_mm: list[float]
    taken_out: TakenOut

    def as_json(self) -> dict[str, Any]:
        """All of it as plain values.

        Returns
        -------
        dict of str to value
        """
        return asdict(self)

    @staticmethod
    def unchanged(mesh: Mesh) -> "Account":
        """The account where nothing was changed.

        Parameters
        ----------
        mesh : Mesh

        Returns
        -------
        Account
        """
        none = np.zeros(len(mesh.faces), dtype=bool)
        volume = Diagnosis.of(mesh).volume
        return Account._of(mesh, mesh, (volume, volume), none, none, NOWHERE, NOWHERE, _NOTHING)

    @staticmethod
    def between(
        before: Mesh, after: Mesh, was: Report | None = None, *, progress: Progress = SILENT
    ) -> "Account":
        """Account for the change from one mesh to another.

        Parameters
        ----------
        before, after : Mesh
        was : Report, optional
            Of the mesh before: tells its outer skin from what lay inside and from crumbs. Without
            it all of it counts as outer skin.
        progress : Progress

        Returns
        -------
        Account

        Raises
        ------
        Cancelled
            If `progress` asks to stop.

        Examples
        --------
        >>> from caulkcore.mesh.simple_solids import cuboid
        >>> account = Account.between(cuboid(), cuboid((10.0, 10.0, 12.0)))
        >>> account.max_deviation_mm, account.unchanged_faces
        (2.0, 2)
        """
        gone, new = changed_faces(before, after)
        added, lost, taken = NOWHERE, NOWHERE, _NOTHING
        # what has no area is no surface that could be lost or added
        surface = new & ~_without_area(after)
        if surface.any() and len(before.faces):
            added = directed_distance(
                after.vertices,
                after.faces[surface],
                Tree.of(before.vertices, before.faces),
                progress=progress.span(0.0, 0.5),
            )
        if gone.any() and len(after.faces):
            to = Tree.of(after.vertices, after.faces)
            left = gone & ~_without_area(before)
            skin = _outer_skin(before, left, to, was, max(added.high, FLOOR))
            taken = skin.taken_out
            lost = directed_distance(
                skin.vertices, skin.faces, to, progress=progress.span(0.5, 1.0)
            )
        was_volume = was.volume if was else Diagnosis.of(before).volume
        volumes = (was_volume, Diagnosis.of(after).volume)
        return Account._of(before, after, volumes, gone, new, lost, added, taken)

    @staticmethod
    def _of(
        before: Mesh,
        after: Mesh,
        volumes: tuple[float, float],
        gone: Array,
        new: Array,
        lost: Reach,
        added: Reach,
        taken: TakenOut,
    ) -> "Account":
        """The account of what has been found out."""
        moved = added | lost
        area = face_areas(before.vertices, before.faces)
        # where all faces lie on lines there is no surface that could be touched
        whole = float(area.sum())
        high = told_up(moved.high)
        return Account(
            triangles={"before": len(before.faces), "after": len(after.faces)},
            vertices={"before": len(before.vertices), "after": len(after.vertices)},
            volume_mm3={"before": round(volumes[0], 6), "after": round(volumes[1], 6)},
            area_mm2={"before": round(before.area, 6), "after": round(after.area, 6)},
            unchanged_faces=int((~new).sum()),
            new_faces=int(new.sum()),
            gone_faces=int(gone.sum()),
            touched_area_fraction=float(area[gone].sum()) / whole if whole > 0.0 else 0.0,
            deviation_mm=high,
            deviation_bound_mm=[told_down(moved.low), high],
            max_deviation_mm=high,
            max_deviation_at=list(moved.at) if moved.at and told_down(moved.low) else None,
            lost_mm=[told_down(lost.low), told_up(lost.high)],
            added_mm=[told_down(added.low), told_up(added.high)],
            taken_out=taken,
        )


def _without_area(mesh: Mesh) -> Array:
    """Faces that carry no surface, as the finding of that name says."""
    flat = np.zeros(len(mesh.faces), dtype=bool)
    flat[Diagnosis.of(mesh).degenerate_faces] = True
    return flat


@dataclass(frozen=True)
class _OuterSkin:
    """Faces of a mesh's outer skin, and what was left out."""

    vertices: Array
    faces: Array
    taken_out: TakenOut


def _outer_skin(
    before: Mesh, gone: Array, to: Tree, was: Report | None, within: float
) -> _OuterSkin:
    """Those of the faces that are gone which were outer skin.

    Pieces that went whole and were no outer skin are left out, unless what came in their place
    lies within the tolerance of welding; so is what lay within material, where skins crossed.
    Faces that crossed others are divided, and their parts judged one by one. `to` is the tree of
    the mesh after, `was` the report of the mesh before; what is not farther off than `within` is
    not asked about.
    """
    vertices, faces = before.vertices, before.faces
    taken = _NOTHING
    if was is None:
        return _OuterSkin(vertices, faces[gone], taken)
    pieces = was.pieces
    whole = np.bincount(
        pieces.of_face[gone & (pieces.of_face >= 0)], minlength=len(pieces.what)
    ) == np.maximum(pieces.triangles, 1)
    inner = np.array([what in (VOID, BURIED, DEBRIS) for what in pieces.what], dtype=bool)
    sheets = np.array([what == SHEET for what in pieces.what], dtype=bool)
    if (whole & sheets).any():
        area = face_areas(vertices, faces)
        of_piece = np.bincount(
            pieces.of_face[pieces.of_face >= 0],
            area[pieces.of_face >= 0],
            minlength=len(pieces.what),
        )
        inner |= sheets & ((pieces.parent >= 0) | (of_piece < SCRAP_SHARE * area.sum()))
    candidates = np.flatnonzero(gone & (pieces.of_face >= 0))
    candidates = candidates[(whole & inner)[pieces.of_face[candidates]]]
    stays = gone.copy()
    if len(candidates):
        away, _ = to.nearest(vertices[faces[candidates]].mean(axis=1))
        number = pieces.of_face[candidates]
        farthest = np.zeros(len(pieces.what))
        np.maximum.at(farthest, number, away)
        left = candidates[farthest[number] > weld_tolerance(before.diagonal)]
        stays[left] = False
        area = face_areas(vertices, faces[left])
        taken = TakenOut(len(np.unique(pieces.of_face[left])), len(left), float(area.sum()))
    if not any(f.kind in CROSSINGS for f in was.findings):
        return _OuterSkin(vertices, faces[stays], taken)
    # what lies no farther off than the new skin does is no matter
    chosen = np.flatnonzero(stays)
    far = chosen[upper_bounds(vertices, faces[chosen], to) > within]
    stays[far] = False
    is_open = any(f.kind in _OPEN for f in was.findings)
    outside, parts = _outside_material(before, far, _windings(before, is_open))
    outside = np.concatenate([np.flatnonzero(stays), outside])
    corners = len(vertices) + np.arange(3 * len(parts)).reshape(-1, 3)
    return _OuterSkin(
        np.concatenate([vertices, parts.reshape(-1, 3)]),
        np.concatenate([faces[outside], corners.astype(faces.dtype)]),
        taken,
    )


def _windings(mesh: Mesh, is_open: bool) -> Callable[[Array], Array]:
    """What tells how often a mesh winds round points; rays are faster, where it is closed."""
    if is_open:
        return WindingNumber(mesh.vertices, mesh.faces).at
    return partial(ray_winding_numbers, Tree.of(mesh.vertices, mesh.faces))


def _outside_material(
    mesh: Mesh, chosen: Array, windings: Callable[[Array], Array]
) -> tuple[Array, Array]:
    """Those of some faces that lie outside all material, and such parts of large faces that do.

    Returns
    -------
    faces : ndarray, shape (k,)
        Numbers of faces.
    parts : ndarray, shape (j, 3, 3)
        Corners of parts of others.
    """
    off = _OFF * mesh.diagonal
    faces = mesh.faces[chosen]
    small = edge_lengths(mesh.vertices, faces).max(axis=1) <= _PART * mesh.diagonal
    before = mesh.vertices[faces[small]].mean(axis=1)
    before += off * face_normals(mesh.vertices, faces[small])
    outside = chosen[small][windings(before) <= 0.5]
    large = faces[~small]
    if not len(large):
        return outside, np.zeros((0, 3, 3))
    spacing = np.sqrt(2 * float(face_areas(mesh.vertices, large).sum()) / _MOST_PARTS)
    samples = Samples.of(Mesh(mesh.vertices, large), max(_PART * mesh.diagonal, spacing))
    corners = samples.corners(np.arange(len(samples.face)))
    # a part counts if its middle and what is just within its corners do
    middle = corners.mean(axis=1, keepdims=True)
    points = np.concatenate([middle, corners + _OFF * (middle - corners)], axis=1)
    points += off * samples.normals[:, None]
    inside = windings(points.reshape(-1, 3)).reshape(-1, 4) > 0.5
    return outside, corners[~inside.any(axis=1)]
