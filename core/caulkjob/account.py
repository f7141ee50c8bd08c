"""The account of a change: what came in, what went out, what stayed exactly as it was."""

from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
from caulkcore.mesh.arrays import Array
from caulkcore.mesh.triangle_mesh import Mesh, face_areas
from caulkcore.spatial.box_tree import Tree


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
    max_deviation_mm : float
        Greatest distance, both ways, between the changed faces and the other surface, measured
        at their corners and middles.
    max_deviation_at : list of float, or None
        Where that is.
    """

    triangles: dict[str, int]
    vertices: dict[str, int]
    volume_mm3: dict[str, float]
    area_mm2: dict[str, float]
    unchanged_faces: int
    new_faces: int
    gone_faces: int
    touched_area_fraction: float
    max_deviation_mm: float
    max_deviation_at: list[float] | None

    def as_json(self) -> dict[str, Any]:
        """All of it as plain values.

        Returns
        -------
        dict of str to value
        """
        return asdict(self)

    @staticmethod
    def between(before: Mesh, after: Mesh) -> "Account":
        """Account for the change from one mesh to another.

        Parameters
        ----------
        before, after : Mesh

        Returns
        -------
        Account

        Examples
        --------
        >>> from caulkcore.mesh.simple_solids import cuboid
        >>> account = Account.between(cuboid(), cuboid((10.0, 10.0, 12.0)))
        >>> account.max_deviation_mm, account.unchanged_faces
        (2.0, 2)
        """
        if after is before:
            gone = new = np.zeros(len(before.faces), dtype=bool)
        else:
            gone, new = _differing(before, after)
        worst, at = 0.0, None
        for mesh, changed, other in ((after, new, before), (before, gone, after)):
            if not changed.any() or not len(other.faces):
                continue
            faces = mesh.faces[changed]
            points = np.concatenate(
                [mesh.vertices[np.unique(faces)], mesh.vertices[faces].mean(axis=1)]
            )
            distance, _ = Tree.of(other.vertices, other.faces).nearest(points)
            far = int(np.argmax(distance))
            if distance[far] > worst:
                worst, at = float(distance[far]), points[far].tolist()
        area = face_areas(before.vertices, before.faces)
        return Account(
            {"before": len(before.faces), "after": len(after.faces)},
            {"before": len(before.vertices), "after": len(after.vertices)},
            {"before": round(before.volume, 6), "after": round(after.volume, 6)},
            {"before": round(before.area, 6), "after": round(after.area, 6)},
            int((~new).sum()),
            int(new.sum()),
            int(gone.sum()),
            float(area[gone].sum() / area.sum()) if gone.any() else 0.0,
            worst,
            at,
        )


def _differing(before: Mesh, after: Mesh) -> tuple[Array, Array]:
    """Faces of `before` that are not in `after`, and the reverse, by their corners' coordinates."""
    keys = np.concatenate([_keys(before), _keys(after)])
    n = len(before.faces)
    _, which = np.unique(keys, return_inverse=True)
    in_before = np.bincount(which[:n], minlength=which.max() + 1)
    in_after = np.bincount(which[n:], minlength=which.max() + 1)
    return in_after[which[:n]] == 0, in_before[which[n:]] == 0


def _keys(mesh: Mesh) -> Array:
    """One 64-bit key for each face from its corners' coordinates, in any order."""
    bits = (mesh.vertices + 0.0).view(np.uint64)
    key = np.zeros(len(bits), dtype=np.uint64)
    for k in range(3):
        key = _mixed(key ^ bits[:, k])
    return _mixed(key[mesh.faces].sum(axis=1, dtype=np.uint64))


def _mixed(x: Array) -> Array:
    """Spread every bit over all others (the finaliser of splitmix64, Steele et al. 2014)."""
    x = (x + np.uint64(0x9E3779B97F4A7C15)).astype(np.uint64)
    x = (x ^ (x >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
    x = (x ^ (x >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    return x ^ (x >> np.uint64(31))
