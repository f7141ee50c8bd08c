"""Pieces of a model as solids of their own, by the numbers that a person names."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass

import numpy as np
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.mesh.arrays import Array
from caulkcore.mesh.concatenate import concatenate
from caulkcore.mesh.groups import Groups
from caulkcore.mesh.triangle_mesh import Mesh

from .clearing import chosen_shells


@dataclass(frozen=True, eq=False)
class PieceSolids:
    """A model as the solids that are meant, each with all that lies in it, and the rest of it.

    Attributes
    ----------
    solids : list of Mesh
    rest : Mesh
    """

    solids: list[Mesh]
    rest: Mesh

    @staticmethod
    def of(mesh: Mesh, pieces: Collection[int] | None) -> "PieceSolids":
        """Of the pieces by their numbers; all of them where none is told.

        Parameters
        ----------
        mesh : Mesh
        pieces : collection of int, optional
            Numbers, from 1.

        Returns
        -------
        PieceSolids

        Raises
        ------
        OperationRefused
            If there is no such piece.

        Examples
        --------
        >>> from caulkcore.mesh.simple_solids import cuboid
        >>> two = concatenate([cuboid(), cuboid(at=(20.0, 0.0, 0.0))])
        >>> given = PieceSolids.of(two, [2])
        >>> len(given.solids), len(given.rest.faces)
        (1, 12)
        """
        root = _root_of_face(Diagnosis.of(mesh), pieces)
        meant = np.flatnonzero(root >= 0)
        of = Groups.by_label(np.unique(root[meant], return_inverse=True)[1], meant)
        parts = (mesh.faces[of[i]] for i in range(len(of)))
        solids = [Mesh(mesh.vertices, faces).compact() for faces in parts]
        return PieceSolids(solids, Mesh(mesh.vertices, mesh.faces[root < 0]).compact())

    @staticmethod
    def faces_of(mesh: Mesh, pieces: Collection[int] | None) -> Array:
        """The faces of some pieces and of all that lies in them.

        Parameters
        ----------
        mesh : Mesh
        pieces : collection of int, optional
            Numbers, from 1; all faces by default.

        Returns
        -------
        ndarray, shape (m,), bool

        Raises
        ------
        OperationRefused
            If there is no such piece.
        """
        if pieces is None:
            return np.ones(len(mesh.faces), dtype=bool)
        chosen: Array = _root_of_face(Diagnosis.of(mesh), pieces) >= 0
        return chosen

    def with_solids(self, solids: Sequence[Mesh]) -> Mesh:
        """The rest, with other solids in the place of those meant.

        Parameters
        ----------
        solids : sequence of Mesh

        Returns
        -------
        Mesh
        """
        return concatenate([self.rest, *solids])


def _root_of_face(diagnosis: Diagnosis, pieces: Collection[int] | None) -> Array:
    """The outermost of the shells meant that each face is of or in; -1 for the rest.

    All outer shells are meant by default.
    """
    depth, parent = diagnosis.nesting
    meant = depth == 0 if pieces is None else chosen_shells(diagnosis, pieces)
    root = np.full(len(depth) + 1, -1)
    # from the outside in, so that a piece that floats in another one goes with it
    for shell in np.argsort(depth, kind="stable"):
        around = root[parent[shell]]
        root[shell] = around if around >= 0 else (shell if meant[shell] else -1)
    return root[diagnosis.shell_of_face]
