"""Flat parts of a surface: their rims, and drawing them with no more triangles than those need."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ._edge_kernels import components
from ._flip_kernels import flip_edges
from .arrays import Array
from .groups import Groups
from .polygons import triangulate_rings
from .sharp_edges import smooth_joins
from .topology import Topology
from .triangle_mesh import Mesh, face_areas

IN_PLANE = 1 - 1e-9
"""Cosine of the angle up to which faces lie in one plane: rounding."""
_NEARLY = np.cos(np.deg2rad(0.5))
"""Cosine of half a degree: faces that lean by more are never in one plane."""
_ROUNDING = 1.5e-7
"""Share of the diagonal by which rounding to float32 moves a corner off a plane, and some more."""
_FLAT_AS_A_WHOLE = 4.0
"""Times that within which all corners of a flat part lie in its plane."""
_STRAIGHT = 1e-7
"""Share of the diagonal by which a vertex may be off the line between its neighbours: rounding."""
_FLIPS = 20
"""Flips at most, for each face: some are usual."""


@dataclass(frozen=True, eq=False)
class FlatPatches:
    """Flat parts of a surface, joined faces in one plane each.

    Attributes
    ----------
    topology : Topology
    label : ndarray, shape (m,)
        The patch of each face.
    normals : ndarray, shape (m, 3)
        Unit normals of the faces.
    """

    topology: Topology
    label: Array
    normals: Array

    @staticmethod
    def of(topology: Topology, active: Array | None = None) -> "FlatPatches":
        """Find them.

        Parameters
        ----------
        topology : Topology
            Of a whole mesh.
        active : ndarray, shape (m,), bool, optional
            Faces that may be joined with others; all by default.

        Returns
        -------
        FlatPatches
        """
        joins, normals = flat_joins(topology)
        pairs = joins // 3
        if active is not None:
            pairs = pairs[active[pairs].all(axis=1)]
        return FlatPatches(topology, components(pairs, len(topology.faces)), normals)

    @cached_property
    def first(self) -> Array:
        """The first face of each patch, by its label; -1 for what is no label, shape (m,)."""
        found = np.full(len(self.label), -1)
        found[self.label[::-1]] = np.arange(len(self.label))[::-1]
        return found

    def rims(self, chosen: Array) -> dict[int, list[Array]]:
        """The rims of some patches, each as rings of vertices.

        Parameters
        ----------
        chosen : ndarray, shape (k,)
            Labels of patches.

        Returns
        -------
        dict of int to list of ndarray
            Without those patches one of whose rims meets itself.
        """
        twin, label = self.topology.twin, np.repeat(self.label, 3)
        rim = (twin < 0) | (label[twin] != label)
        halves = np.flatnonzero(rim & np.isin(label, chosen))
        groups = Groups.by_label(label[halves], halves)
        found = {}
        for g in range(len(groups)):
            rings = _rings(self.topology.ends(groups[g]))
            if rings is not None:
                found[int(label[groups[g][0]])] = rings
        return found


def flat_joins(topology: Topology) -> tuple[Array, Array]:
    """Half-edges over which a surface goes on in the same plane.

    Small faces lean by what rounding to float32 does to their corners, so that the corners are
    asked whether they lie in the plane of the face beyond; and what has gone on so from face to
    face must lie in one plane as a whole, as gently bent surfaces of small faces do not.

    Parameters
    ----------
    topology : Topology

    Returns
    -------
    joins : ndarray, shape (k, 2)
        Pairs of half-edges.
    normals : ndarray, shape (m, 3)
        Unit normals of the faces.
    """
    vertices, faces = topology.mesh.vertices, topology.faces
    joins, normals = smooth_joins(topology, _NEARLY)
    if not len(joins):
        return joins, normals
    off = _ROUNDING * topology.mesh.diagonal
    here, there = joins.T
    beyond = vertices[faces[there // 3, (there % 3 + 2) % 3]]
    back = vertices[faces[here // 3, (here % 3 + 2) % 3]]
    heights = [
        np.abs(np.einsum("ij,ij->i", normals[f // 3], p - vertices[faces[f // 3, 0]]))
        for f, p in ((here, beyond), (there, back))
    ]
    cosine = np.einsum("ij,ij->i", normals[here // 3], normals[there // 3])
    joins = joins[(cosine > IN_PLANE) | (np.maximum(*heights) <= off)]
    label = components(joins // 3, len(faces))
    # the plane of each patch by its largest face
    area = face_areas(vertices, faces)
    order = np.argsort(area, kind="stable")
    largest = np.zeros(len(faces), dtype=np.int64)
    largest[label[order]] = order
    largest = largest[label]
    height = np.abs(
        np.einsum(
            "fki,fi->fk",
            vertices[faces] - vertices[faces[largest, 0]][:, None],
            normals[largest],
        )
    ).max(axis=1)
    bent = np.zeros(len(faces), dtype=bool)
    bent[label[height > _FLAT_AS_A_WHOLE * off]] = True
    one = ~bent[label[joins[:, 0] // 3]]
    strict = np.einsum("ij,ij->i", normals[joins[:, 0] // 3], normals[joins[:, 1] // 3]) > IN_PLANE
    return joins[one | strict], normals


def _rings(ends: Array) -> list[Array] | None:
    """Directed edges as rings of vertices; None if they meet in a vertex, or do not close."""
    next_of = dict(ends.tolist())
    if len(next_of) < len(ends):
        return None
    rings = []
    while next_of:
        at, last = next_of.popitem()
        ring = [at]
        while last != at:
            ring.append(last)
            if last not in next_of:
                return None
            last = next_of.pop(last)
        rings.append(np.array(ring))
    return rings


def merge_flat_faces(topology: Topology, active: Array) -> tuple[Array, Array]:
    """Draw flat parts anew with the vertices that their outlines need, and no others.

    The surface stays where it is. Vertices within a flat part, and on a straight edge between two
    of them, are left out if all faces round them may be drawn anew.

    Parameters
    ----------
    topology : Topology
        Of a whole mesh.
    active : ndarray, shape (m,), bool
        Faces that may be drawn anew.

    Returns
    -------
    faces : ndarray, shape (m', 3)
    origin : ndarray, shape (m',)
        A face of the same flat part that stood there before.

    Examples
    --------
    >>> square = Mesh([[0, 0, 0], [8, 0, 0], [8, 8, 0], [0, 8, 0], [4, 4, 0]],
    ...               [[0, 1, 4], [1, 2, 4], [2, 3, 4], [3, 0, 4]])
    >>> faces, _ = merge_flat_faces(Topology(square), np.ones(4, dtype=bool))
    >>> len(faces)
    2
    """
    patches = FlatPatches.of(topology, active)
    label, faces = patches.label, topology.faces
    several = np.bincount(label, weights=active, minlength=len(faces))[label] > 1
    rims = patches.rims(np.unique(label[active & several]))
    while rims:
        straight = _left_out(patches, rims)
        drawn = {name: _drawn(patches, name, rings, straight) for name, rings in rims.items()}
        failed = [name for name, triangles in drawn.items() if triangles is None]
        if not failed:
            break
        for name in failed:
            del rims[name]
    else:
        return faces, np.arange(len(faces))
    names = np.array(list(drawn))
    stays = np.flatnonzero(~np.isin(label, names))
    new = [triangles for triangles in drawn.values() if triangles is not None]
    origin = np.repeat(patches.first[names], [len(triangles) for triangles in new])
    return (
        np.concatenate([faces[stays], *new]).astype(faces.dtype),
        np.concatenate([stays, origin]),
    )


def _left_out(patches: FlatPatches, rims: dict[int, list[Array]]) -> Array:
    """Whether each vertex of the rims can be left out: on a straight edge of two that are drawn."""
    mesh = patches.topology.mesh
    n = len(mesh.vertices)
    drawn = np.isin(patches.label, list(rims))
    held = np.zeros(n, dtype=bool)
    held[mesh.faces[~drawn]] = True
    times, bent = np.zeros(n, dtype=np.int64), np.zeros(n, dtype=bool)
    off = _STRAIGHT * mesh.diagonal
    for rings in rims.values():
        for ring in rings:
            before, after = mesh.vertices[np.roll(ring, 1)], mesh.vertices[np.roll(ring, -1)]
            along = after - before
            length = np.maximum(np.linalg.norm(along, axis=1, keepdims=True), 1e-300)
            to = mesh.vertices[ring] - before
            away = np.linalg.norm(np.cross(along / length, to), axis=1)
            onward = np.einsum("ij,ij->i", to, mesh.vertices[ring] - after) < 0
            times[ring] += 1
            bent[ring[(away > off) | ~onward]] = True
    left: Array = (times == 2) & ~bent & ~held
    return left


def _drawn(patches: FlatPatches, name: int, rings: list[Array], left_out: Array) -> Array | None:
    """Triangles of one flat part, or None if it cannot be drawn from what is left of its rims."""
    vertices = patches.topology.mesh.vertices
    kept = [ring[~left_out[ring]] for ring in rings]
    if any(len(ring) < 3 for ring in kept):
        return None
    triangles = triangulate_rings(vertices, kept, patches.normals[patches.first[name]])
    # n corners, and as many triangles fewer as there are outlines beyond holes
    whole = len(triangles) == sum(map(len, kept)) + 2 * (len(kept) - 2)
    return triangles if whole else None


def delaunay_flips(vertices: Array, faces: Array, active: Array) -> Array:
    """Turn edges within flat parts until no triangle could be less slim (Lawson 1977).

    Parameters
    ----------
    vertices : ndarray, shape (n, 3)
    faces : ndarray, shape (m, 3)
    active : ndarray, shape (m,), bool
        Faces that may be drawn anew.

    Returns
    -------
    ndarray, shape (m, 3)
        Each stays in the flat part that it was in.
    """
    topology = Topology(Mesh(vertices, faces))
    joins, _ = flat_joins(topology)
    joins = joins[active[joins // 3].all(axis=1)]
    free = np.zeros(3 * len(faces), dtype=bool)
    free[joins] = True
    flipped = np.array(topology.faces, dtype=np.int32)
    flip_edges(vertices, flipped, np.array(topology.twin), free, _FLIPS * len(faces), np.inf)
    return flipped
