"""Pieces of a model as solids of their own, by the numbers that a person names."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass

import numpy as np
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.mesh.arrays import Array
from caulkcore.mesh.concatenate import concatenate
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.repair.remove_shells import with_nested_shells

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
        diagnosis = Diagnosis.of(mesh)
        of_face = diagnosis.shell_of_face
        solids, used = [], np.zeros(len(mesh.faces), dtype=bool)
        for root in _roots(diagnosis, pieces):
            inside = with_nested_shells(diagnosis, np.array([root]))
            its = (of_face >= 0) & inside[of_face]
            solids.append(Mesh(mesh.vertices, mesh.faces[its]).compact())
            used |= its
        return PieceSolids(solids, Mesh(mesh.vertices, mesh.faces[~used]).compact())

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
        diagnosis = Diagnosis.of(mesh)
        inside = with_nested_shells(diagnosis, _roots(diagnosis, pieces))
        of_face = diagnosis.shell_of_face
        chosen: Array = (of_face >= 0) & inside[of_face]
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


def _roots(diagnosis: Diagnosis, pieces: Collection[int] | None) -> Array:
    """The outermost of the shells meant; of all by default."""
    depth, parent = diagnosis.nesting
    if pieces is None:
        return np.flatnonzero(depth == 0)
    chosen = chosen_shells(diagnosis, pieces)
    inner = (parent >= 0) & chosen[np.maximum(parent, 0)]
    return np.flatnonzero(chosen & ~inner)
