"""What each shell is, and how the pieces stand to one another."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from ..groups import Groups
from ..kernels import edges as kernel
from ..kernels.near import near_faces
from ..kernels.tree import Tree
from ..mesh import Array
from . import inside
from .limits import Limits
from .skin import Skin

PIECES = ("outer skin", "sealed void", "buried solid", "debris", "open sheet", "inside out")
"""What a shell may be."""
OUTER, VOID, BURIED, DEBRIS, SHEET, INSIDE_OUT = PIECES


@dataclass(frozen=True, eq=False)
class Pieces:
    """The shells of a mesh as they lie, in columns.

    Attributes
    ----------
    what : tuple of str
        What each shell is.
    parent : ndarray, shape (shells,)
        The innermost shell around each, or -1.
    depth : ndarray, shape (shells,)
    triangles : ndarray, shape (shells,)
    volume : ndarray, shape (shells,)
        Signed, mm³.
    across : ndarray, shape (shells,)
        Diagonal of each bounding box, mm.
    of_face : ndarray, shape (m,), int32
        Shell of each face of the mesh; -1 for faces that do not count.
    """

    what: tuple[str, ...]
    parent: Array
    depth: Array
    triangles: Array
    volume: Array
    across: Array
    of_face: Array

    @property
    def meant(self) -> Array:
        """Faces that are no debris and no part of an open sheet, shape (m,)."""
        return self._but(DEBRIS, SHEET)

    @property
    def open_to_air(self) -> Array:
        """The same but for sealed voids and buried solids."""
        return self._but(DEBRIS, SHEET, VOID, BURIED)

    def _but(self, *left: str) -> Array:
        stays = np.array([what not in left for what in self.what], dtype=bool)
        meant = self.of_face >= 0
        meant[meant] = stays[self.of_face[meant]]
        return meant

    def as_json(self, most: int) -> list[dict[str, Any]]:
        """A line for each shell, by number, for the `most` largest."""
        order = np.sort(np.argsort(-self.across, kind="stable")[:most])
        return [
            {
                "shell": s,
                "what": self.what[s],
                "within": int(self.parent[s]),
                "triangles": int(self.triangles[s]),
                "volume_mm3": round(float(self.volume[s]), 6),
                "across_mm": round(float(self.across[s]), 6),
            }
            for s in order.tolist()
        ]


def pieces(skin: Skin, limits: Limits) -> Pieces:
    """Say what each shell of a mesh is."""
    shell, count = skin.shells
    volume, _ = skin.shell_measures
    depth, parent = skin.nesting
    what = np.full(count, OUTER, dtype=object)
    what[inside.voids(skin, limits)] = VOID
    what[inside.buried(skin, limits)] = BURIED
    what[skin.inside_out] = INSIDE_OUT
    what[skin.sheets] = SHEET
    what[inside.debris(skin, limits)] = DEBRIS
    of_face = np.full(len(skin.mesh.faces), -1, dtype=np.int32)
    of_face[skin.kept] = shell
    return Pieces(
        tuple(what.tolist()), parent, depth, np.bincount(shell, minlength=count), volume,
        skin.shell_extents, of_face,
    )  # fmt: skip


def solids(skin: Skin, limits: Limits) -> Array:
    """Closed shells that come out as material of their own: outward, and not inside material."""
    volume, _ = skin.shell_measures
    free = (volume > 0) & (inside.surrounding(skin) == 0) & ~skin.open_shells
    return np.setdiff1d(np.flatnonzero(free), inside.debris(skin, limits))


def loose(skin: Skin, limits: Limits) -> Groups:
    """The `solids`, those together that meet."""
    shell, count = skin.shells
    joined = kernel.components(shell[skin.crossings].astype(np.int32).reshape(-1, 2), count)
    chosen = solids(skin, limits)
    return Groups.by_label(joined[chosen], chosen)


@dataclass(frozen=True, eq=False)
class Gaps:
    """Pairs of faces of two solids that almost touch.

    Attributes
    ----------
    faces : ndarray, shape (k, 2)
        Positions in `Skin.kept`.
    shells : ndarray, shape (k, 2)
        Their shells, the lower first.
    spans : ndarray, shape (k, 2, 3)
        Nearest points.
    width : ndarray, shape (k,)
        Distance, mm.
    """

    faces: Array
    shells: Array
    spans: Array
    width: Array


def near_gaps(skin: Skin, limits: Limits) -> Gaps:
    """Where two separate solids come nearer than the limit without touching anywhere."""
    shell, count = skin.shells
    separate = np.zeros(count, dtype=bool)
    separate[solids(skin, limits)] = True
    chosen = np.flatnonzero(separate[shell]) if separate.sum() > 1 else np.zeros(0, dtype=np.int64)
    if not len(chosen):
        none = np.zeros((0, 2), dtype=np.int64)
        return Gaps(none, none, np.zeros((0, 2, 3)), np.zeros(0))
    faces = skin.topology.faces[chosen]
    tree = Tree.of(skin.mesh.vertices, faces)
    other, spans = near_faces(tree, shell[chosen], limits.near_gap)
    near = np.flatnonzero(other >= 0)
    spans = spans[near]
    pairs = np.stack([chosen[near], chosen[other[near]]], axis=1)
    shells = np.sort(shell[pairs], axis=1).astype(np.int64)
    width = np.linalg.norm(spans[:, 0] - spans[:, 1], axis=1)
    touching = np.concatenate([shells[width == 0], np.sort(shell[skin.crossings], axis=1)])
    key = shells[:, 0] * count + shells[:, 1]
    apart = ~np.isin(key, touching[:, 0] * np.int64(count) + touching[:, 1])
    return Gaps(pairs[apart], shells[apart], spans[apart], width[apart])
