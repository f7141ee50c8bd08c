"""What a reader gives back."""

from dataclasses import dataclass, field, replace

import numpy as np

from ..errors import RefusedInput
from ..kernels.weld import weld
from ..labels import Labels
from ..mesh import Array, Mesh
from ..polygons import triangulate
from ..units import MILLIMETRES, UnitGuess, guess_unit

MAX_BYTES = 2_000_000_000
"""Largest file that is read."""
MAX_TRIANGLES = 20_000_000
"""Most triangles that are read."""
MAX_COORDINATE = 1e15
"""Coordinates beyond this are refused: products of three would lose all meaning."""


@dataclass(frozen=True)
class Source:
    """A mesh as it stands in a file.

    Attributes
    ----------
    mesh : Mesh
        In the file's own unit, vertices joined by equal coordinates.
    format : str
        ``stl-binary``, ``stl-ascii``, ``obj``, ``ply-ascii``, ``ply-binary``, ``off`` or ``3mf``.
    unit : UnitGuess
        The unit of the file, or the guess.
    notes : tuple of str
        What was odd about the file, a sentence each.
    labels : Labels or None
        What the file calls the parts, if it tells several apart.
    """

    mesh: Mesh
    format: str
    unit: UnitGuess
    notes: tuple[str, ...] = field(default=())
    labels: Labels | None = None

    def with_unit(self, unit: str) -> "Source":
        """The same with the unit given by a person."""
        given = UnitGuess(unit, "given", "The unit was given.")
        return replace(self, unit=given)

    def mesh_mm(self) -> Mesh:
        """The mesh in millimetres."""
        return self.mesh.scaled(MILLIMETRES[self.unit.unit])


def polygon_source(
    vertices: Array,
    starts: Array,
    corners: Array,
    form: str,
    unit: UnitGuess | None = None,
    labels: tuple[list[str], Array] | None = None,
) -> Source:
    """Divide polygons into triangles, then as `make_source`.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3)
    starts : ndarray, shape (p + 1,)
        Where each polygon begins in `corners`.
    corners : ndarray, shape (c,)
        Vertex indices, in range.
    form : str
        Name of the format.
    unit : UnitGuess, optional
        The file's own.
    labels : pair of list and ndarray, optional
        Names, and the index of each polygon's.
    """
    notes: list[str] = []
    polygons = int((np.diff(starts) > 3).sum())
    if polygons:
        notes.append(f"{polygons:,} polygons were divided into triangles.")
    faces = triangulate(vertices, starts, corners)
    if labels is not None:
        of_face = np.repeat(labels[1], np.diff(starts) - 2)
        labels = (labels[0], of_face) if len(of_face) == len(faces) else None
    return make_source(vertices, faces, form, notes, unit, labels)


def make_source(
    corners: Array,
    faces: Array | None,
    form: str,
    notes: list[str],
    unit: UnitGuess | None = None,
    labels: tuple[list[str], Array] | None = None,
) -> Source:
    """Weld, leave out what is not a number, guess the unit.

    Parameters
    ----------
    corners : ndarray, shape (n, 3)
        Points, float32 or float64.
    faces : ndarray, shape (m, 3), or None
        Triangles as indices of `corners`; None when each three points are one.
    form : str
        Name of the format.
    notes : list of str
        Oddities found so far.
    unit : UnitGuess, optional
        The file's own; guessed by default.
    labels : pair of list and ndarray, optional
        Names, and the index of each face's.

    Raises
    ------
    RefusedInput
        If nothing is left, or there is too much.
    """
    count = len(corners) // 3 if faces is None else len(faces)
    if count == 0:
        raise RefusedInput("The file holds no triangles.")
    if count > MAX_TRIANGLES:
        raise RefusedInput(f"The file holds {count:,} triangles; the limit is {MAX_TRIANGLES:,}.")
    # NaN fails the comparisons too
    if not (corners.min() >= -MAX_COORDINATE and corners.max() <= MAX_COORDINATE):
        bad = ~(np.abs(corners) <= MAX_COORDINATE).all(axis=1)
        if faces is None:
            faces = np.arange(count * 3, dtype=np.int32).reshape(-1, 3)
        keep = ~bad[faces].any(axis=1)
        if not keep.any():
            raise RefusedInput(
                "No triangle has usable coordinates: they are not numbers, infinite or beyond 1e15."
            )
        lost = int(len(faces) - keep.sum())
        if lost:
            notes.append(
                f"{lost:,} of {count:,} triangles left out: their coordinates are not numbers, "
                "infinite or beyond 1e15."
            )
        faces = faces[keep]
        labels = (labels[0], labels[1][keep]) if labels is not None else None
        corners = np.where(bad[:, None], corners.dtype.type(0), corners)
    vertices, index = weld(corners)
    mesh = Mesh(vertices, index[: 3 * count] if faces is None else index[faces]).compact()
    if not mesh.diagonal > 0:
        raise RefusedInput("All the file's points coincide; there is nothing to print.")
    named = None if labels is None else Labels.of(*labels)
    return Source(mesh, form, unit or guess_unit(mesh.size), tuple(notes), named)
