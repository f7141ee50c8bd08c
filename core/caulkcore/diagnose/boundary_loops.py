"""The boundary loops of a mesh, measured all together."""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from itertools import product

import numpy as np

from ..mesh.arrays import Array
from ..mesh.groups import Groups
from ._loop_kernels import facing_pairs, loop_diameters, loop_measures, surrounds

FLAT_LOOP = 1e-3
"""A loop counts as flat when no point lies further from its plane than this share of its extent."""
_DIRECTIONS = np.array(
    [way for way in product((-1.0, 0.0, 1.0), repeat=3) if way > (0.0, 0.0, 0.0)]
)
"""Directions along which the ends of long loops are looked for: to the sides, edges and corners of
a cube, each once."""
_OPPOSITE = -1 + 1e-4
"""Cosine of the angle between the normals of a loop and of one nested in it: they run against each
other within about a degree."""


@dataclass(frozen=True)
class BoundaryLoop:
    """A boundary loop, simple: no vertex twice.

    Attributes
    ----------
    vertices : ndarray, shape (k,)
        In the direction of the faces beside it; a fill runs the other way.
    closed : bool
        False when the walk ended at a non-manifold edge.
    shell : int
    """

    vertices: Array
    closed: bool
    shell: int

    @property
    def lines(self) -> Array:
        """Its edges as pairs of vertices."""
        lines = np.stack([self.vertices, np.roll(self.vertices, -1)], axis=1)
        return lines if self.closed else lines[:-1]


@dataclass(frozen=True, eq=False)
class BoundaryLoops:
    """Simple boundary loops, however many.

    Attributes
    ----------
    points : ndarray, shape (n, 3)
        Vertices of the mesh.
    groups : Groups
        Vertex indices of each loop, in the direction of the faces beside it.
    closed : ndarray, shape (loops,), bool
        Whether each comes back to where it began.
    shell : ndarray, shape (loops,)
    """

    points: Array
    groups: Groups
    closed: Array
    shell: Array

    def __len__(self) -> int:
        return len(self.closed)

    def __getitem__(self, i: int) -> BoundaryLoop:
        return BoundaryLoop(self.groups[i], bool(self.closed[i]), int(self.shell[i]))

    def __iter__(self) -> Iterator[BoundaryLoop]:
        return (self[i] for i in range(len(self)))

    def take(self, numbers: Array) -> "BoundaryLoops":
        """Some of the loops, in the order asked for.

        Parameters
        ----------
        numbers : ndarray, shape (k,)
            Of the loops.

        Returns
        -------
        BoundaryLoops

        Examples
        --------
        >>> from caulkcore.mesh.simple_solids import cuboid
        >>> from caulkcore.diagnose.diagnosis import Diagnosis
        >>> from caulkcore import Mesh
        >>> cube = cuboid()
        >>> loops = Diagnosis(Mesh(cube.vertices, cube.faces[1:])).boundary_loops
        >>> loops.take(np.array([0])).areas.tolist()
        [50.0]
        """
        groups = self.groups.take(numbers)
        return BoundaryLoops(self.points, groups, self.closed[numbers], self.shell[numbers])

    @cached_property
    def _measures(self) -> tuple[Array, Array, Array, Array]:
        groups = self.groups
        return loop_measures(self.points, groups.items, groups.starts)

    @property
    def area_vectors(self) -> Array:
        """Area vector of each, twice its area long, shape (loops, 3)."""
        return self._measures[0]

    @cached_property
    def areas(self) -> Array:
        """Area of each loop's mean plane, shape (loops,)."""
        return 0.5 * np.linalg.norm(self.area_vectors, axis=1)

    @cached_property
    def extents(self) -> Array:
        """Diagonal of each bounding box, shape (loops,)."""
        _, low, high, _ = self._measures
        return np.linalg.norm(high - low, axis=1)

    @cached_property
    def diameters(self) -> Array:
        """Greatest distance of any two vertices of each, shape (loops,)."""
        groups = self.groups
        return loop_diameters(self.points, groups.items, groups.starts, _DIRECTIONS)

    @cached_property
    def edges(self) -> Array:
        """Number of edges of each."""
        return self.groups.sizes - ~self.closed

    @cached_property
    def flat(self) -> Array:
        """Whether each is a ring in a plane, shape (loops,)."""
        height = self._measures[3]
        return self.closed & (height >= 0) & (height <= FLAT_LOOP * self.extents)

    def lines(self, numbers: Array) -> Array:
        """Edges of some loops as pairs of vertices, shape (k, 2).

        Parameters
        ----------
        numbers : ndarray, shape (k,)
            Of the loops.

        Returns
        -------
        ndarray, shape (j, 2)
        """
        chosen = np.zeros(len(self), dtype=bool)
        chosen[numbers] = True
        items, starts = self.groups.items, self.groups.starts
        onward = np.append(items[1:], items[:1])
        onward[starts[1:] - 1] = items[starts[:-1]]
        keep = np.repeat(chosen, self.groups.sizes)
        keep[(starts[1:] - 1)[~self.closed]] = False
        return np.stack([items, onward], axis=1)[keep]

    @cached_property
    def nested(self) -> list[tuple[int, list[int]]]:
        """Flat loops sorted into outer ones and the holes in them, the largest first.

        A loop is a hole in another if it lies in the same plane, inside it, and runs the other
        way, as the two rims of a tube's missing end do.
        """
        flat = np.flatnonzero(self.flat)
        if not len(flat):
            return []
        _, low, high, _ = self._measures
        # sweep along the axis in which the loops lie most apart
        spread = [len(np.unique(low[flat, k])) for k in range(3)]
        axes = np.roll(np.arange(3), -int(np.argmax(spread)))
        flat = flat[np.argsort(low[flat, axes[0]], kind="stable")]
        sizes = self.areas[flat]
        normals = self.area_vectors[flat] / (2 * sizes[:, None])
        turned = (np.ascontiguousarray(x[:, axes]) for x in (low[flat], high[flat], normals))
        pairs = facing_pairs(*turned, sizes, _OPPOSITE, FLAT_LOOP)  # type: ignore[call-arg, arg-type]
        chosen = self.groups.take(flat)
        pairs = pairs[surrounds(self.points, chosen.items, chosen.starts, normals, pairs)]
        # of several that go round a loop the smallest has it, unless that is a hole itself
        by_size = np.lexsort((sizes[pairs[:, 1]], -sizes[pairs[:, 0]]))
        owner: dict[int, int] = {}
        for i, j in pairs[by_size].tolist():
            if i not in owner and j not in owner:
                owner[i] = j
        inner: dict[int, list[int]] = {}
        for i, j in owner.items():
            inner.setdefault(j, []).append(int(flat[i]))
        order = np.argsort(-sizes, kind="stable").tolist()
        return [(int(flat[j]), inner.get(j, [])) for j in order if j not in owner]
