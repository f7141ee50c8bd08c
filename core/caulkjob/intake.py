"""A customer's file as it comes in: the mesh, and the unit that it is taken to be in."""

import os
from dataclasses import dataclass, replace

from caulkcore.io import files
from caulkcore.io.document import MeshDocument
from caulkcore.io.labels import Labels
from caulkcore.io.units import MILLIMETRES
from caulkcore.mesh.triangle_mesh import Mesh

from .unit_guess import UnitGuess, unit_of


@dataclass(frozen=True)
class Source:
    """A file that was read.

    Attributes
    ----------
    document : MeshDocument
        What stands in it.
    unit : UnitGuess
        The unit of the file, the guess, or what a person said.
    """

    document: MeshDocument
    unit: UnitGuess

    @property
    def mesh(self) -> Mesh:
        """The mesh in the file's own unit."""
        return self.document.mesh

    @property
    def format(self) -> str:
        """Name of the format, such as ``stl-binary``."""
        return self.document.format

    @property
    def notes(self) -> tuple[str, ...]:
        """What was odd about the file, a sentence each."""
        return self.document.notes

    @property
    def labels(self) -> Labels | None:
        """What the file calls the parts, if it tells several apart."""
        return self.document.labels

    def with_unit(self, unit: str) -> "Source":
        """The same with the unit given by a person.

        Parameters
        ----------
        unit : str
            Key of `MILLIMETRES`.

        Returns
        -------
        Source
        """
        return replace(self, unit=UnitGuess(unit, "given", "The unit was given."))

    def mesh_mm(self) -> Mesh:
        """The mesh in millimetres.

        Returns
        -------
        Mesh
        """
        return self.mesh.scaled(MILLIMETRES[self.unit.unit])


def read(path: str | os.PathLike[str]) -> Source:
    """Read a mesh file.

    Parameters
    ----------
    path : path
        STL, OBJ, PLY, OFF or 3MF, told by its suffix.

    Returns
    -------
    Source

    Raises
    ------
    RefusedInput
        If it cannot be read, with the reason in one sentence.
    """
    document = files.read(path)
    return Source(document, unit_of(document))


def read_bytes(data: bytes, name: str) -> Source:
    r"""Read a mesh from a file's bytes.

    Parameters
    ----------
    data : bytes
    name : str
        Of the file; its suffix tells the format.

    Returns
    -------
    Source

    Raises
    ------
    RefusedInput
        If it cannot be read, with the reason in one sentence.

    Examples
    --------
    >>> source = read_bytes(b"OFF\n3 1 0\n0 0 0\n20 0 0\n0 20 0\n3 0 1 2\n", "corner.off")
    >>> source.format, source.unit.unit
    ('off', 'mm')
    """
    document = files.read_bytes(data, name)
    return Source(document, unit_of(document))
