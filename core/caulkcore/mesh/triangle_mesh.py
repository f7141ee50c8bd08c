"""The mesh that everything works on."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..errors import InvalidMesh
from ._face_kernels import crosses, total_sums
from .arrays import Array, bounds_of, frozen, owned


@dataclass(frozen=True, eq=False)
class Mesh:
    """A triangle mesh: vertices and faces, nothing hidden, never changed once made.

    Attributes
    ----------
    vertices : ndarray, shape (n, 3), float64
        Coordinates; millimetres wherever the core measures.
    faces : ndarray, shape (m, 3), int32
        Vertex indices, counter-clockwise seen from outside.

    Raises
    ------
    InvalidMesh
        If an array has another shape, a coordinate is no finite number, or a face names a vertex
        that is not there.

    Examples
    --------
    >>> triangle = Mesh([[0, 0, 0], [4, 0, 0], [0, 3, 0]], [[0, 1, 2]])
    >>> triangle.area
    6.0
    """

    vertices: Array
    faces: Array

    def __post_init__(self) -> None:
        vertices, faces = np.asarray(self.vertices), np.asarray(self.faces)
        _refuse_wrong(vertices, faces)
        object.__setattr__(self, "vertices", owned(vertices.reshape(-1, 3), np.float64))
        object.__setattr__(self, "faces", owned(faces.reshape(-1, 3), np.int32))

    @cached_property
    def bounds(self) -> Array:
        """Least and greatest corner of the vertices in use, shape (2, 3)."""
        if not len(self.faces):
            return np.zeros((2, 3))
        used = self.vertices[np.unique(self.faces)] if self._has_strays else self.vertices
        return bounds_of(used)

    @property
    def size(self) -> Array:
        """Extent along x, y and z, shape (3,)."""
        return self.bounds[1] - self.bounds[0]

    @property
    def diagonal(self) -> float:
        """Length of the bounding box's diagonal."""
        return float(np.linalg.norm(self.size))

    @cached_property
    def _sums(self) -> tuple[float, float]:
        return total_sums(self.vertices, self.faces, self.bounds.mean(axis=0))

    @property
    def area(self) -> float:
        """Sum of the triangles' areas."""
        return float(self._sums[1])

    @property
    def volume(self) -> float:
        """Signed volume, measured from the middle of the bounding box.

        Of a closed, outward facing surface it is the enclosed volume; of an open one it depends
        on the reference point and means little.
        """
        return float(self._sums[0])

    @cached_property
    def _has_strays(self) -> bool:
        seen = np.zeros(len(self.vertices), dtype=bool)
        seen[self.faces.ravel()] = True
        return not seen.all()

    def scaled(self, factor: float) -> "Mesh":
        """The mesh with all coordinates multiplied by `factor`; the same object if it is 1.

        Parameters
        ----------
        factor : float

        Returns
        -------
        Mesh
        """
        return self if factor == 1.0 else Mesh(self.vertices * factor, self.faces)

    def compact(self) -> "Mesh":
        """The mesh without unused vertices, in the same order; itself if there are none.

        Returns
        -------
        Mesh
        """
        if not self._has_strays:
            return self
        seen = np.zeros(len(self.vertices), dtype=bool)
        seen[self.faces.ravel()] = True
        renumber = np.cumsum(seen, dtype=np.int32) - np.int32(1)
        return Mesh(self.vertices[seen], renumber[self.faces])


def _refuse_wrong(vertices: Array, faces: Array) -> None:
    """Refuse what is no mesh.

    Raises
    ------
    InvalidMesh
    """
    for name, array in (("Vertices", vertices), ("Faces", faces)):
        if array.size and (array.ndim != 2 or array.shape[1] != 3):
            raise InvalidMesh(f"{name} must have three columns, not the shape {array.shape}.")
    if vertices.size and vertices.dtype.kind not in "fiu":
        raise InvalidMesh(f"Coordinates must be numbers, not {vertices.dtype}.")
    if vertices.dtype.kind == "f" and not np.isfinite(vertices).all():
        raise InvalidMesh("A coordinate is not a finite number.")
    if not faces.size:
        return
    if faces.dtype.kind not in "iu":
        raise InvalidMesh(f"Faces must be indices, not {faces.dtype}.")
    low, high = int(faces.min()), int(faces.max())
    if low < 0 or high >= len(vertices):
        wrong = low if low < 0 else high
        raise InvalidMesh(f"A face names vertex {wrong}; there are {len(vertices)}, from 0.")


def face_crosses(vertices: Array, faces: Array) -> Array:
    """Cross products of the faces' edges, shape (m, 3): twice the area along the normal.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3), float64
    faces : ndarray, shape (m, 3), int32

    Returns
    -------
    ndarray, shape (m, 3)
    """
    return crosses(frozen(vertices, np.float64), frozen(faces, np.int32))


def face_normals(vertices: Array, faces: Array) -> Array:
    """Unit normal of each face, shape (m, 3); zero where there is no area.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3), float64
    faces : ndarray, shape (m, 3), int32

    Returns
    -------
    ndarray, shape (m, 3)
    """
    twice = face_crosses(vertices, faces)
    length = np.linalg.norm(twice, axis=1, keepdims=True)
    return np.divide(twice, length, out=np.zeros_like(twice), where=length > 0)


def face_areas(vertices: Array, faces: Array) -> Array:
    """Area of each face, shape (m,).

    Parameters
    ----------
    vertices : ndarray, shape (n, 3), float64
    faces : ndarray, shape (m, 3), int32

    Returns
    -------
    ndarray, shape (m,)
        In the square of the vertices' unit.
    """
    return 0.5 * np.linalg.norm(face_crosses(vertices, faces), axis=1)


def vertex_normals(vertices: Array, faces: Array) -> Array:
    """Unit normals at the vertices of some faces, each face counting by its area, shape (n, 3).

    Parameters
    ----------
    vertices : ndarray, shape (n, 3), float64
    faces : ndarray, shape (m, 3), int32

    Returns
    -------
    ndarray, shape (n, 3)
        Zero at vertices of no face.

    Examples
    --------
    >>> square = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0.0]])
    >>> vertex_normals(square, np.array([[0, 1, 2], [0, 2, 3]]))[0].tolist()
    [0.0, 0.0, 1.0]
    """
    total = np.zeros_like(vertices)
    crosses = face_crosses(vertices, faces)
    for k in range(3):
        np.add.at(total, faces[:, k], crosses)
    out: Array = total / np.maximum(np.linalg.norm(total, axis=1), 1e-300)[:, None]
    return out
