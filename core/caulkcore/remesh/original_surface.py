"""The surface that another one was made from, and is drawn back onto."""

from dataclasses import dataclass
from typing import Self

import numpy as np

from ..diagnose.intersections import intersecting_faces
from ..mesh.arrays import Array, frozen
from ..mesh.float32 import as_float32
from ..mesh.sharp_edges import SHARP, smooth_half_edges
from ..mesh.split_edges import unique_edges
from ..mesh.topology import Topology
from ..mesh.triangle_mesh import Mesh, face_normals
from ..predicates.orientation import faces_have_area
from ..repair.orient import facing_outward
from ..spatial.box_tree import Tree
from ..spatial.face_region import faces_reaching_boxes

_FACING = -0.2
"""Least cosine between another surface at a point and this one where that is drawn to: the side of
a letter stands square to the plate that it was smoothed into."""
_ASIDE = 0.7
"""Least cosine between the way to an open rim and its face: what comes from beside it spans a
hole."""
_LEAST_DETERMINANT = 1e-12
"""Of two planes' normals; planes that are bent by less than that do not count as meeting."""


@dataclass(frozen=True, eq=False)
class OriginalSurface:
    """The surface that another one is drawn to.

    Attributes
    ----------
    tree : Tree
        Over its faces near the other surface.
    normals : ndarray, shape (m, 3)
        Unit normals of the faces.
    sound : ndarray, shape (m,), bool
        Whether a face intersects no other one.
    at_rim : ndarray, shape (m,), bool
        Whether a face has an edge that no other one shares.
    corners : ndarray, shape (c, 3)
        Where three or more sharp edges meet, of sound faces only; mm, in float32.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> cube = cuboid()
    >>> surface = OriginalSurface.near(cube, *cube.bounds)
    >>> feet, _, may = surface.targets(np.array([[5.0, 5.0, 9.0]]), np.array([[0, 0, 1.0]]), 2.0)
    >>> feet.tolist(), may.tolist()
    ([[5.0, 5.0, 10.0]], [True])
    """

    tree: Tree
    normals: Array
    sound: Array
    at_rim: Array
    corners: Array

    @classmethod
    def near(cls, mesh: Mesh, low: Array, high: Array) -> Self | None:
        """What of a mesh reaches into a box, oriented outwards.

        Parameters
        ----------
        mesh : Mesh
            However broken.
        low, high : ndarray, shape (3,)
            Corners of the box, mm.

        Returns
        -------
        OriginalSurface or None
            None if no face reaches into the box.
        """
        oriented = facing_outward(mesh)
        vertices, faces = oriented.vertices, oriented.faces
        faces = faces[faces_have_area(vertices, faces)]
        reaching = faces_reaching_boxes(Mesh(vertices, faces), np.array([[low, high]]))
        faces = frozen(faces[reaching], np.int32)
        if not len(faces):
            return None
        sound = np.ones(len(faces), dtype=bool)
        sound[intersecting_faces(vertices, faces)] = False
        topology = Topology(Mesh(vertices, faces))
        at_rim = np.asarray((topology.twin < 0).reshape(-1, 3).any(axis=1))
        sharp = topology.ends(np.flatnonzero(~smooth_half_edges(topology, SHARP)))
        meeting = np.bincount(unique_edges(sharp).ravel(), minlength=len(vertices))
        meeting[faces[~sound | at_rim]] = 0
        return cls(
            Tree.of(vertices, faces),
            face_normals(vertices, faces),
            sound,
            at_rim,
            as_float32(vertices[meeting > 2]),
        )

    def cosines(self, vertices: Array, faces: Array) -> Array:
        """Whether faces look the same way as this surface does next to their middles.

        Parameters
        ----------
        vertices : ndarray, shape (n, 3)
            mm.
        faces : ndarray, shape (m, 3)

        Returns
        -------
        ndarray, shape (m,)
            The cosine of the angle between both normals.
        """
        _, face = self.tree.nearest(vertices[faces].mean(axis=1))
        out: Array = (face_normals(vertices, faces) * self.normals[face]).sum(axis=1)
        return out

    def meeting_planes(self, edges: Array, slack: float) -> tuple[Array, Array]:
        """Points on sharp edges of this surface, for edges of another one that lead over them.

        For each, the point next to its middle in which the planes of the faces at both its ends
        meet.

        Parameters
        ----------
        edges : ndarray, shape (k, 2, 3)
            Both ends, mm.
        slack : float
            How far such a point may be from the surface, mm; it is put on it.

        Returns
        -------
        points : ndarray, shape (k, 3)
        found : ndarray, shape (k,), bool
            Whether there is such a point, half the edge's length from its middle at most.
        """
        middles = edges.mean(axis=1)
        a, b = (self.tree.nearest(edges[:, k])[1] for k in range(2))
        na, nb = self.normals[a], self.normals[b]
        cosine = (na * nb).sum(axis=1)
        bent = cosine < np.cos(np.radians(SHARP))
        da = ((self.tree.feet(edges[:, 0], a) - middles) * na).sum(axis=1)
        db = ((self.tree.feet(edges[:, 1], b) - middles) * nb).sum(axis=1)
        # the least step that reaches both planes
        det = np.maximum(1.0 - cosine**2, _LEAST_DETERMINANT)
        step = ((da - cosine * db) / det)[:, None] * na + ((db - cosine * da) / det)[:, None] * nb
        distance, face = self.tree.nearest(middles + step)
        long = np.linalg.norm(edges[:, 1] - edges[:, 0], axis=1)
        found = bent & (np.linalg.norm(step, axis=1) < long / 2) & (distance < slack)
        found &= self.sound[a] & self.sound[b] & self.sound[face]
        return self.tree.feet(middles + step, face), found

    @property
    def intersects(self) -> bool:
        """Whether any two of its faces intersect."""
        return not self.sound.all()

    def targets(self, points: Array, ways: Array, reach: float) -> tuple[Array, Array, Array]:
        """Where points of another surface go.

        Parameters
        ----------
        points : ndarray, shape (k, 3)
            mm.
        ways : ndarray, shape (k, 3)
            The direction in which the other surface looks at each.
        reach : float
            Greatest distance, mm.

        Returns
        -------
        feet : ndarray, shape (k, 3)
            The nearest points.
        distance : ndarray, shape (k,)
            mm.
        may : ndarray, shape (k,), bool
            Whether each may be drawn there: not if it is out of reach, on a face that intersects
            another one or looks the other way, or on an open rim beside it.
        """
        distance, face = self.tree.nearest(points)
        feet = self.tree.feet(points, face)
        normals = self.normals[face]
        may = (distance <= reach) & self.sound[face]
        may &= (normals * ways).sum(axis=1) > _FACING
        along = np.abs(((points - feet) * normals).sum(axis=1))
        may &= ~self.at_rim[face] | (along >= _ASIDE * distance)
        return feet, distance, may
