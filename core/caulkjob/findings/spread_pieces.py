"""Pieces that overlap on purpose, set side by side so that each can be measured alone."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from caulkcore.mesh.arrays import Array
from caulkcore.mesh.triangle_mesh import Mesh

from .finding import Finding, Place, Places
from .pieces import Pieces

_BETWEEN = 2.0
"""Room between pieces set side by side, as a share of the longest: more than any wall is thick."""


@dataclass(frozen=True, eq=False)
class SpreadPieces:
    """A mesh whose pieces that stay apart stand beside the others; faces keep their numbers.

    Attributes
    ----------
    mesh : Mesh
        As it is set out.
    original : Mesh
    moved : ndarray, shape (m, 3)
        By how much each face was moved.

    Examples
    --------
    >>> from caulkcore.mesh.concatenate import concatenate
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> from caulkjob.examination import examine
    >>> two = examine(concatenate([cuboid(), cuboid(at=(8.0, 0.0, 0.0))]))
    >>> SpreadPieces.of(two.mesh, two.pieces, [1]).mesh.size.tolist()
    [72.0, 10.0, 10.0]
    """

    mesh: Mesh
    original: Mesh
    moved: Array

    @staticmethod
    def of(mesh: Mesh, pieces: Pieces, apart: Sequence[int]) -> "SpreadPieces":
        """Set the pieces that stay apart beside the others, each with what lies inside it.

        Parameters
        ----------
        mesh : Mesh
        pieces : Pieces
            Its shells.
        apart : sequence of int
            Shells.

        Returns
        -------
        SpreadPieces
        """
        step = np.zeros(len(pieces.what), dtype=int)
        for place, shell in enumerate(sorted(set(apart)), start=1):
            step[shell] = place
        for shell in np.argsort(pieces.depth, kind="stable").tolist():
            parent = int(pieces.parent[shell])
            if not step[shell] and parent >= 0 and pieces.depth[shell] % 2:
                step[shell] = step[parent]  # the hollow of a piece goes with it
        along = float(mesh.size.max()) * (1 + _BETWEEN)
        of_face = np.where(pieces.of_face >= 0, step[pieces.of_face], 0)
        moved = np.zeros((len(mesh.faces), 3))
        moved[:, 0] = of_face * along
        # a vertex that two pieces share is one of each
        corners = np.stack([mesh.faces.ravel(), np.repeat(of_face, 3)], axis=1)
        pairs, faces = np.unique(corners, axis=0, return_inverse=True)
        vertices = mesh.vertices[pairs[:, 0]].copy()
        vertices[:, 0] += pairs[:, 1] * along
        return SpreadPieces(Mesh(vertices, faces.reshape(-1, 3)), mesh, moved)

    def back(self, finding: Finding) -> Finding:
        """A finding on the spread pieces, told where the pieces really are.

        Parameters
        ----------
        finding : Finding

        Returns
        -------
        Finding
        """
        places = finding.places
        return replace(finding, places=Places(lambda: tuple(self._back(one) for one in places)))

    def _back(self, place: Place) -> Place:
        by = self.moved[place.faces[0]] if len(place.faces) else np.zeros(3)
        points = self.original.vertices[self.original.faces[place.faces].ravel()]
        low, high = (points.min(axis=0), points.max(axis=0)) if len(points) else (by, by)
        # lines are pairs of vertices of the spread mesh: as curves they need no numbers
        lines = self.mesh.vertices[place.lines]
        curves = np.concatenate([lines, place.curves]) - by
        if len(curves):
            low, high = curves.reshape(-1, 3).min(axis=0), curves.reshape(-1, 3).max(axis=0)
        none = np.zeros((0, 2), dtype=np.int32)
        return replace(place, low=low, high=high, at=place.at - by, lines=none, curves=curves)
