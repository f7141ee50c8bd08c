"""Keeping of a change what helped, place by place, and putting the rest back as it was."""

from collections.abc import Collection

import numpy as np

from ..diagnose.cracks import weld_tolerance
from ..diagnose.diagnosis import Diagnosis
from ..diagnose.harm import HARMS, harm_counts, harm_of_regions, is_less_harm
from ..mesh import _edge_kernels as kernel
from ..mesh.arrays import Array
from ..mesh.changed_faces import exchanged_faces
from ..mesh.triangle_mesh import Mesh
from ..mesh.weld import weld
from ..outcome import Outcome
from ..spatial.box_tree import Tree

_ROUNDS = 6
"""Times that places are put back: what is put back may meet what was kept beside it."""


def keep_what_helped(before: Diagnosis, after: Mesh, *, passing: Collection[str] = ()) -> Outcome:
    """Of a change keep those places where it left less harm, or as much, and put the others back.

    Faces that were taken out or put in belong to one place when they share a corner, or when one
    came in the stead of the other a hair away. Each place is judged by the kinds of harm in their
    order; then places are put back until there is no more of any kind than before.

    Parameters
    ----------
    before : Diagnosis
    after : Mesh
        What the mesh was made into.
    passing : collection of str
        Names in `HARMS` of which there may be more for now, since a later step mends them.

    Returns
    -------
    Outcome
        The mesh is `after` if nothing has to be put back, and the one before if nothing is left
        of the change. Numbers: ``places`` of the change, and how many of them were ``put_back``.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> cube = cuboid()
    >>> open_ = Mesh(cube.vertices, cube.faces[1:])
    >>> worse = Mesh(cube.vertices, cube.faces[2:])
    >>> keep_what_helped(Diagnosis(open_), worse).mesh is open_
    True
    """
    counted = np.array([name not in passing for name in HARMS])
    least = harm_counts(before)
    result, places, put_back = after, 0, 0
    for _ in range(_ROUNDS):
        diagnosis = Diagnosis.of(result, since=before)
        if not len(result.faces):
            break
        more = (harm_counts(diagnosis) > least) & counted
        if not more.any():
            return Outcome(result, {"places": places, "put_back": put_back})
        exchange = _Exchange(before.mesh, result)
        was = exchange.harm(before, *exchange.of_gone) * counted
        is_ = exchange.harm(diagnosis, *exchange.of_new) * counted
        back = is_less_harm(was, is_)
        if not back.any():
            back = ((is_ > was) & more).any(axis=1)
        places = max(places, exchange.count)
        put_back += int(back.sum())
        if back.all() or not back.any():
            break
        result = exchange.without(back)
    return Outcome(before.mesh, {"places": places, "put_back": places})


class _Exchange:
    """The faces that differ between two meshes, in groups that can be exchanged singly."""

    def __init__(self, before: Mesh, after: Mesh) -> None:
        self.before, self.after = before, after
        self.gone, self.new = (np.flatnonzero(x) for x in exchanged_faces(before, after))
        n = len(before.vertices)
        self.points, index = weld(np.concatenate([before.vertices, after.vertices]))
        self.of_before, self.of_after = index[:n], index[n:]
        gone, new = self.of_before[before.faces[self.gone]], self.of_after[after.faces[self.new]]
        corners = np.concatenate([gone, new])
        joins = [corners[:, :2], corners[:, 1:], self._counterparts(gone, new)]
        group = kernel.components(np.concatenate(joins).astype(np.int32), len(self.points))
        used = np.unique(corners)
        roots, number = np.unique(group[used], return_inverse=True)
        self.count = len(roots)
        self._region = np.full(len(self.points), -1)
        self._region[used] = number

    def _counterparts(self, gone: Array, new: Array) -> Array:
        """Corners of faces that were taken out, with those that came in their stead."""
        reach = 2 * weld_tolerance(self.before.diagonal)
        found = []
        for one, other in ((gone, new), (new, gone)):
            if not len(one) or not len(other):
                continue
            middles = self.points[one].mean(axis=1)
            distance, nearest = Tree.of(self.points, other.astype(np.int32)).nearest(middles)
            near = np.flatnonzero(distance <= reach)
            found.append(np.stack([one[near, 0], other[nearest[near], 0]], axis=1))
        return np.concatenate(found) if found else np.zeros((0, 2), dtype=np.int32)

    @property
    def of_gone(self) -> tuple[Array, Array]:
        """Group of each vertex and face of the mesh before; -1 for those that stay."""
        return self._of(self.of_before, self.before.faces, self.gone)

    @property
    def of_new(self) -> tuple[Array, Array]:
        """The same of the mesh after."""
        return self._of(self.of_after, self.after.faces, self.new)

    def _of(self, index: Array, faces: Array, chosen: Array) -> tuple[Array, Array]:
        of_vertex = self._region[index]
        of_face = np.full(len(faces), -1)
        of_face[chosen] = of_vertex[faces[chosen, 0]]
        return of_vertex, of_face

    def harm(self, diagnosis: Diagnosis, of_vertex: Array, of_face: Array) -> Array:
        """Harm at each group."""
        return harm_of_regions(diagnosis, of_vertex, of_face, self.count)

    def without(self, back: Array) -> Mesh:
        """The mesh after with some groups as they were before."""
        of_gone, of_new = self.of_gone[1][self.gone], self.of_new[1][self.new]
        leave = self.new[back[of_new]]
        bring = self.gone[back[of_gone]]
        faces = np.concatenate(
            [
                np.delete(self.of_after[self.after.faces], leave, axis=0),
                self.of_before[self.before.faces[bring]],
            ]
        )
        return Mesh(self.points, faces).compact()
