"""What each shell of a mesh is, for the list of pieces."""

from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from caulkcore.diagnose.components import buried_solids, debris, sealed_voids
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.mesh.arrays import Array

from ..limits import Limits

PIECES = ("outer skin", "sealed void", "buried solid", "debris", "open sheet", "inside out")
"""What a shell may be."""
OUTER, VOID, BURIED, DEBRIS, SHEET, INSIDE_OUT = PIECES
"""The same, each by its name."""


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
    sides : ndarray, shape (shells, 3)
        Sides of each bounding box, mm.
    of_face : ndarray, shape (m,), int32
        Shell of each face of the mesh; -1 for faces that do not count.
    """

    what: tuple[str, ...]
    parent: Array
    depth: Array
    triangles: Array
    volume: Array
    sides: Array
    of_face: Array

    @property
    def total_volume(self) -> float:
        """What they enclose, mm³, voids left out and each open rim under a lid."""
        return float(self.volume.sum())

    @cached_property
    def meant(self) -> Array:
        """Faces that are no debris and no part of an open sheet, shape (m,)."""
        return self._but(DEBRIS, SHEET)

    @cached_property
    def open_to_air(self) -> Array:
        """The same but for sealed voids and buried solids."""
        return self._but(DEBRIS, SHEET, VOID, BURIED)

    def _but(self, *left: str) -> Array:
        stays = np.array([what not in left for what in self.what], dtype=bool)
        meant = self.of_face >= 0
        meant[meant] = stays[self.of_face[meant]]
        return meant

    def as_json(self, most: int) -> list[dict[str, Any]]:
        """A line for each shell, by number, for the `most` largest.

        Parameters
        ----------
        most : int
            How many to list.

        Returns
        -------
        list of dict
        """
        longest = self.sides.max(axis=1, initial=0.0)
        order = np.sort(np.argsort(-longest, kind="stable")[:most])
        return [
            {
                "shell": s,
                "what": self.what[s],
                "within": int(self.parent[s]),
                "triangles": int(self.triangles[s]),
                "volume_mm3": round(float(self.volume[s]), 6),
                "sides_mm": [round(x, 6) for x in self.sides[s].tolist()],
                "longest_mm": round(float(longest[s]), 6),
            }
            for s in order.tolist()
        ]


def pieces(diagnosis: Diagnosis, limits: Limits) -> Pieces:
    """Say what each shell of a mesh is.

    Parameters
    ----------
    diagnosis : Diagnosis
    limits : Limits
        The shop's.

    Returns
    -------
    Pieces

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> from caulkjob.limits import USUAL
    >>> pieces(Diagnosis(cuboid()), USUAL).what
    ('outer skin',)
    """
    shell, count = diagnosis.shells
    volume, _ = diagnosis.shell_measures
    depth, parent = diagnosis.nesting
    what = np.full(count, OUTER, dtype=object)
    what[sealed_voids(diagnosis, limits.debris)] = VOID
    what[buried_solids(diagnosis, limits.debris)] = BURIED
    what[diagnosis.inverted_shells] = INSIDE_OUT
    what[diagnosis.open_sheets] = SHEET
    what[debris(diagnosis, limits.debris)] = DEBRIS
    return Pieces(
        tuple(what.tolist()), parent, depth, np.bincount(shell, minlength=count), volume,
        diagnosis.shell_sides, diagnosis.shell_of_face,
    )  # fmt: skip
