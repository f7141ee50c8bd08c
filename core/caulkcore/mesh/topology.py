"""Who touches whom in a mesh: edges, partners, shells, loops. Computed once, on demand."""

from functools import cached_property

import numpy as np

from . import _edge_kernels as kernel
from .arrays import Array, frozen
from .triangle_mesh import Mesh


class Topology:
    """The combinatorial side of a mesh, by equal vertices alone.

    Parameters
    ----------
    mesh : Mesh
    faces : ndarray, shape (m, 3), optional
        Faces to look at instead of the mesh's own, such as all but the degenerate ones. They
        must have three different vertices each.
    """

    def __init__(self, mesh: Mesh, faces: Array | None = None) -> None:
        self.mesh = mesh
        self.faces = frozen(mesh.faces if faces is None else faces, np.int32)

    @cached_property
    def order(self) -> Array:
        """Half-edges sorted so that those of one edge stand together, shape (3 m,)."""
        return kernel.sort_half_edges(self.faces, len(self.mesh.vertices))

    @cached_property
    def starts(self) -> Array:
        """Where each edge begins in `order`, with the end appended, shape (e + 1,)."""
        return kernel.edge_starts(self.faces, self.order)

    @cached_property
    def face_count(self) -> Array:
        """Number of faces at each edge, shape (e,)."""
        return np.diff(self.starts)

    @cached_property
    def half_edge_face_count(self) -> Array:
        """Number of faces at the edge of each half-edge, shape (3 m,)."""
        count = np.empty(len(self.order), dtype=self.face_count.dtype)
        count[self.order] = np.repeat(self.face_count, self.face_count)
        return count

    @cached_property
    def balance(self) -> Array:
        """How many more faces run each edge from its lower vertex to its higher one, shape (e,)."""
        ends = self.ends(self.order)
        sense = np.where(ends[:, 0] < ends[:, 1], 1, -1)
        return np.add.reduceat(sense, self.starts[:-1])

    @cached_property
    def is_coherent(self) -> bool:
        """Whether faces run against each other at all edges, two by two as far as they go."""
        return bool((np.abs(self.balance) == self.face_count % 2).all())

    @cached_property
    def twin(self) -> Array:
        """Half-edge across each half-edge; -1 where open, -2 where over-shared; shape (3 m,)."""
        return kernel.across(self.faces, self.order, self.starts)

    @cached_property
    def paired_half_edges(self) -> Array:
        """Half-edges that meet over an edge of just two faces, shape (k, 2)."""
        two = self.starts[:-1][self.face_count == 2]
        return np.stack([self.order[two], self.order[two + 1]], axis=1)

    @cached_property
    def shells(self) -> tuple[Array, int]:
        """Shell of each face, shape (m,), and their number."""
        return kernel.shells(self.order, self.starts, len(self.faces))

    @cached_property
    def boundary_walks(self) -> tuple[Array, Array]:
        """Open half-edges loop by loop, and where each loop begins."""
        return kernel.boundary_loops(self.faces, self.twin)

    def flipped(self) -> "Topology":
        """The topology of the same faces turned over, with all that is the same.

        Returns
        -------
        Topology

        Examples
        --------
        >>> from caulkcore.mesh.simple_solids import cuboid
        >>> turned = Topology(cuboid()).flipped()
        >>> bool((turned.twin == Topology(turned.mesh).twin).all())
        True
        """
        faces = self.faces[:, ::-1]
        other = Topology(Mesh(self.mesh.vertices, faces))
        # the sides of a face turned over, as they were numbered before
        twin = self.twin.reshape(-1, 3)[:, [1, 0, 2]].reshape(-1)
        beyond = twin // 3 * 3 + np.array([1, 0, 2])[twin % 3]
        vars(other).update(
            twin=np.where(twin >= 0, beyond, twin).astype(self.twin.dtype),
            is_coherent=self.is_coherent,
            shells=self.shells,
        )
        return other

    def ends(self, half_edges: Array) -> Array:
        """Start and end vertex of half-edges, shape (k, 2).

        Parameters
        ----------
        half_edges : ndarray, shape (k,)

        Returns
        -------
        ndarray, shape (k, 2)
        """
        corners = self.faces.reshape(-1)
        onward = np.where(half_edges % 3 == 2, half_edges - 2, half_edges + 1)
        return np.stack([corners[half_edges], corners[onward]], axis=-1)

    def edges_where(self, chosen: Array) -> Array:
        """Vertices of the edges where `chosen` (e,) is true, shape (k, 2).

        Parameters
        ----------
        chosen : ndarray, shape (e,), bool

        Returns
        -------
        ndarray, shape (k, 2)
        """
        return self.ends(self.order[self.starts[:-1][chosen]])

    @cached_property
    def is_sound(self) -> bool:
        """Whether every edge has exactly two faces that run against each other."""
        if not len(self.faces) or not (self.face_count == 2).all():
            return False
        begins = self.faces.reshape(-1)[self.order]
        return bool((begins[0::2] != begins[1::2]).all())


def is_even(faces: Array) -> Array:
    """Whether each face's vertices are an even permutation of their sorted order.

    Parameters
    ----------
    faces : ndarray, shape (m, 3)

    Returns
    -------
    ndarray, shape (m,), bool

    Examples
    --------
    >>> is_even(np.array([[0, 1, 2], [1, 0, 2]])).tolist()
    [True, False]
    """
    a, b, c = faces.T
    return ((a < b).astype(int) + (b < c) + (a < c)) % 2 == 1
