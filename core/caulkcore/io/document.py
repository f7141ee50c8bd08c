"""What a reader gives back."""

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from ..errors import RefusedInput
from ..mesh.arrays import Array
from ..mesh.polygons import triangulate
from ..mesh.triangle_mesh import Mesh
from ..mesh.weld import weld
from .labels import Labels

MAX_BYTES = 2_000_000_000
"""Largest file that is read."""
MAX_TRIANGLES = 20_000_000
"""Most triangles that are read."""
MAX_COORDINATE = 1e15
"""Coordinates beyond this are refused: products of three would lose all meaning."""


@dataclass(frozen=True)
class MeshDocument:
    """A mesh as it stands in a file.

    Attributes
    ----------
    mesh : Mesh
        In the file's own unit, vertices joined by equal coordinates.
    format : str
        ``stl-binary``, ``stl-ascii``, ``obj``, ``ply-ascii``, ``ply-binary``, ``off``, ``3mf``, or
        ``zip`` of several files.
    unit : str or None
        The unit that the file names, a key of `MILLIMETRES`; None for formats that name none.
    unit_name : str
        What the file itself calls it.
    notes : tuple of str
        What was odd about the file, a sentence each.
    labels : Labels or None
        What the file calls the parts, if it tells several apart.
    """

    mesh: Mesh
    format: str
    unit: str | None = None
    unit_name: str = ""
    notes: tuple[str, ...] = field(default=())
    labels: Labels | None = None


def left_out(what: Sequence[str]) -> str:
    """The note about something that a file carries and a mesh does not.

    Parameters
    ----------
    what : sequence of str
        Its parts, as plurals.

    Returns
    -------
    str

    Examples
    --------
    >>> left_out(["colours", "textures"])
    'The file carries colours and textures; only its shape is kept.'
    """
    return f"The file carries {' and '.join(what)}; only its shape is kept."


def polygon_document(
    vertices: Array,
    starts: Array,
    corners: Array,
    form: str,
    labels: tuple[list[str], Array] | None = None,
    *,
    notes: Sequence[str] = (),
) -> MeshDocument:
    """Divide polygons into triangles, then as `make_document`.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3)
    starts : ndarray, shape (p + 1,)
        Where each polygon begins in `corners`.
    corners : ndarray, shape (c,)
        Vertex indices, in range.
    form : str
        Name of the format.
    labels : pair of list and ndarray, optional
        Names, and the index of each polygon's.
    notes : sequence of str
        Oddities found so far.

    Returns
    -------
    MeshDocument

    Raises
    ------
    RefusedInput
        If nothing is left, or there is too much.
    """
    notes = list(notes)
    polygons = int((np.diff(starts) > 3).sum())
    if polygons:
        notes.append(f"{polygons:,} polygons were divided into triangles.")
    # triangles with coordinates that cannot be used are left out afterwards
    usable = _usable(vertices) if polygons else None
    points = vertices if usable is None else np.where(usable, vertices, 0.0)
    faces = triangulate(points, starts, corners)
    if labels is not None:
        of_face = np.repeat(labels[1], np.diff(starts) - 2)
        labels = (labels[0], of_face) if len(of_face) == len(faces) else None
    return make_document(vertices, faces, form, notes, labels=labels)


def _usable(points: Array) -> Array | None:
    """Whether each coordinate can be used, shape (n, 3); None where all can."""
    # NaN fails the comparisons too
    if points.min() >= -MAX_COORDINATE and points.max() <= MAX_COORDINATE:
        return None
    usable: Array = np.abs(points) <= MAX_COORDINATE
    return usable


def make_document(
    corners: Array,
    faces: Array | None,
    form: str,
    notes: list[str],
    unit: tuple[str, str] | None = None,
    *,
    labels: tuple[list[str], Array] | None = None,
) -> MeshDocument:
    """Weld, and leave out what is not a number.

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
    unit : pair of str, optional
        A key of `MILLIMETRES`, and what the file calls it.
    labels : pair of list and ndarray, optional
        Names, and the index of each face's.

    Returns
    -------
    MeshDocument

    Raises
    ------
    RefusedInput
        If nothing is left, or there is too much.

    Examples
    --------
    >>> document = make_document(np.eye(3), None, "stl-ascii", [])
    >>> document.mesh.faces.tolist(), document.unit
    ([[0, 1, 2]], None)
    """
    count = len(corners) // 3 if faces is None else len(faces)
    if count == 0:
        raise RefusedInput("The file holds no triangles.")
    if count > MAX_TRIANGLES:
        raise RefusedInput(f"The file holds {count:,} triangles; the limit is {MAX_TRIANGLES:,}.")
    usable = _usable(corners)
    if usable is not None:
        bad = ~np.all(usable, axis=1)
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
    corners_of = index[: 3 * count].reshape(-1, 3) if faces is None else index[faces]
    mesh = Mesh(vertices, corners_of).compact()
    if not mesh.diagonal > 0:
        raise RefusedInput("All the file's points coincide; there is nothing to print.")
    named = None if labels is None else Labels.of(*labels)
    key, name = unit or (None, "")
    return MeshDocument(mesh, form, key, name, tuple(notes), named)
