"""The part of a surface where walls are thin, made ready to be moved."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.spatial import cKDTree

from ..mesh._edge_kernels import components, fans_of_joins
from ..mesh.arrays import Array
from ..mesh.flat_patches import delaunay_flips, merge_flat_faces
from ..mesh.sharp_edges import smooth_joins
from ..mesh.split_edges import split_edges_near
from ..mesh.topology import Topology
from ..mesh.triangle_mesh import Mesh, face_areas, face_normals
from ..spatial.box_tree import Tree
from .ball_and_ray import BallAndRay, measure_ball_and_ray
from .sampling import Samples
from .thickness_map import ThicknessMap
from .thin_regions import ThinRegions

_SMOOTH = np.cos(np.deg2rad(35.0))
"""Cosine of 35 degrees: faces that turn by less go on from one another; over sharper edges each
keeps its own direction."""
SLOPE = 0.3
"""Steepest fall-off beside a wall that was built up."""
_FINE = 0.5
"""Size of faces where the fall-off lies, of the limit."""
_STEPS = (16.0, 8.0, 4.0, 2.0, 1.0)
"""Sizes that faces are divided to one after the other, as multiples of the last."""
_INSET = 0.04
"""How far within a face's corner thickness is asked for, of the limit."""
_REACH = 2.5
"""Thickness is measured up to so many times the greatest goal."""


@dataclass(frozen=True)
class ThinWall:
    """A thin region, and how thick it is to be.

    Attributes
    ----------
    regions : ThinRegions
    row : int
        Which of them it is.
    goal : float
        Thickness to reach, mm.
    """

    regions: ThinRegions
    row: int
    goal: float


@dataclass(frozen=True, eq=False)
class OffsetZone:
    """A mesh divided where its thin walls end, and where its corners belong.

    Attributes
    ----------
    mesh : Mesh
    face, weights : ndarray, shape (c,), (c, 3)
        Where thickness is asked for on the walls: a little within each corner of a face, and in
        its middle.
    region, goal : ndarray, shape (c,)
        Which wall that belongs to, and how thick it is to be.
    leads : ndarray, shape (c,), bool
        Whether what lacks there moves the skin from the start; the middles of faces, and what lies
        beside a wall, only where it comes out too thin.
    pushed : ndarray, shape (c, 3)
        The nodes that go out if it is too thin there: the corner's three times, or all three.
    nodes : int
        How many there are; the corners at a vertex whose faces go on from one another are one.
    vertex : ndarray, shape (nodes,)
    normal : ndarray, shape (nodes, 3)
    links, lengths : ndarray, shape (k, 2), (k,)
        Nodes joined by an edge within a face.
    """

    mesh: Mesh
    face: Array
    weights: Array
    region: Array
    goal: Array
    leads: Array
    pushed: Array
    nodes: int
    vertex: Array
    normal: Array
    links: Array
    lengths: Array

    @staticmethod
    def of(walls: ThicknessMap, chosen: Sequence[ThinWall]) -> "OffsetZone":
        """Divide a mesh where chosen walls end within a side, and ask about their faces.

        Parameters
        ----------
        walls : ThicknessMap
        chosen : sequence of ThinWall

        Returns
        -------
        OffsetZone

        Examples
        --------
        >>> from caulkcore.mesh.simple_solids import cuboid
        >>> from caulkcore.thickness.thickness_map import measure_thickness
        >>> plate = cuboid((20.0, 20.0, 0.5))
        >>> walls = measure_thickness(plate, 0.8)
        >>> zone = OffsetZone.of(walls, [ThinWall(walls.regions(0.8), 0, 0.8)])
        >>> sorted(set(zone.goal.tolist()))
        [0.8]
        """
        samples = walls.samples
        goals = [wall.goal for wall in chosen]
        owner = np.full(len(samples.face), -1)
        for i, one in enumerate(chosen):
            owner[one.regions.samples[one.row]] = i
        least = min(goals)
        reach = 0.5 * max(goals) / SLOPE
        # flat parts near the walls, however they were divided, become the same triangles
        by_walls = _faces_near(samples, owner >= 0, 2 * reach)
        merged, stood = merge_flat_faces(walls.topology, by_walls)
        # where a wall ends within a side, the fall-off needs vertices to lie on
        patch = components(smooth_joins(walls.topology, _SMOOTH)[0] // 3, len(walls.mesh.faces))
        ends, sides, owners = [], [], []
        for i, one in enumerate(chosen):
            regions = one.regions
            here = (regions.outline_of == one.row) & (np.cos(regions.outline_turn) > _SMOOTH)
            ends.append(regions.outline_at[here])
            sides.append(patch[regions.outline_face[here]])
            owners.append(np.full(int(here.sum()), i))
        on_sides, near = np.isin(patch, np.concatenate(sides))[stood], np.concatenate(ends)
        v, f, origin = _refined(
            walls.mesh.vertices, merged, by_walls[stood], on_sides, near, _FINE * least, reach
        )
        mesh = Mesh(v, f)
        faces = mesh.faces
        tri = mesh.vertices[faces]
        away = np.linalg.norm(tri - tri.mean(axis=1, keepdims=True), axis=2)
        share = np.minimum(0.2, _INSET * least / np.maximum(away, 1e-12))
        weights = np.full((len(faces), 4, 3), 1 / 3)
        weights[:, :3] = share[..., None] / 3
        weights[:, :3] += (1 - share[..., None]) * np.eye(3)
        points = np.einsum("fij,fjk->fik", weights, tri)
        _, stands = walls.tree.nearest(points.reshape(-1, 3))
        region = owner[samples.at(stands, points.reshape(-1, 3))]
        leads = (region >= 0) & (np.arange(len(region)) % 4 < 3)
        if len(near):
            beside = np.flatnonzero((region < 0) & np.repeat(on_sides[origin], 4))
            away, end = cKDTree(near).query(
                points.reshape(-1, 3)[beside], distance_upper_bound=reach
            )
            within = np.isfinite(away)
            region[beside[within]] = np.concatenate(owners)[end[within]]
        asked = np.flatnonzero(region >= 0)
        topology = Topology(mesh)
        joins, normals = smooth_joins(topology, _SMOOTH)
        fan = fans_of_joins(topology.faces, joins)
        roots, node = np.unique(fan, return_inverse=True)
        area = np.repeat(face_areas(mesh.vertices, faces), 3)
        normal = np.zeros((len(roots), 3))
        np.add.at(normal, node, area[:, None] * np.repeat(normals, 3, axis=0))
        normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-300)
        grid = node.reshape(-1, 3)
        links = np.concatenate([grid[:, [0, 1]], grid[:, [1, 2]], grid[:, [2, 0]]])
        lengths = np.linalg.norm(tri - np.roll(tri, -1, axis=1), axis=2).T.reshape(-1)
        corner = np.array([[0, 0, 0], [1, 1, 1], [2, 2, 2], [0, 1, 2]])[asked % 4]
        return OffsetZone(
            mesh, asked // 4, weights.reshape(-1, 3)[asked], region[asked],
            np.array(goals)[region[asked]], leads[asked], grid[asked[:, None] // 4, corner],
            len(roots), faces.reshape(-1)[roots].astype(np.int64), normal, links, lengths,
        )  # fmt: skip

    @cached_property
    def tree(self) -> Tree:
        """Over the surface before anything moves."""
        return Tree.of(self.mesh.vertices, self.mesh.faces)

    @cached_property
    def normals(self) -> Array:
        """Of its faces, shape (m, 3)."""
        return face_normals(self.mesh.vertices, self.mesh.faces)

    @property
    def reach(self) -> float:
        """Up to what thickness it is measured, mm."""
        return _REACH * float(self.goal.max(initial=0.0))

    @cached_property
    def thickness(self) -> BallAndRay:
        """Where it is asked for, before anything moves."""
        return self._measured(self.normals, self.reach)

    def gap(self, most: float) -> BallAndRay:
        """Air before the skin where thickness is asked for, before anything moves.

        Parameters
        ----------
        most : float
            Up to what it is measured, mm.

        Returns
        -------
        BallAndRay
        """
        return self._measured(-self.normals, most)

    def _measured(self, normals: Array, most: float) -> BallAndRay:
        points = self.points(self.mesh.vertices)
        return measure_ball_and_ray(self.tree, points, normals[self.face], self.face, most)

    def points(self, vertices: Array) -> Array:
        """Where thickness is asked for, on a moved surface.

        Parameters
        ----------
        vertices : ndarray, shape (n, 3)

        Returns
        -------
        ndarray, shape (c, 3)
        """
        return np.einsum("ij,ijk->ik", self.weights, vertices[self.mesh.faces[self.face]])


def _faces_near(samples: Samples, thin: Array, reach: float) -> Array:
    """Faces with a sample within reach of a thin one, shape (m,), bool."""
    away, _ = cKDTree(samples.points[thin]).query(samples.points, distance_upper_bound=reach)
    near = np.zeros(len(samples.mesh.faces), dtype=bool)
    near[samples.face[np.isfinite(away)]] = True
    return near


def _refined(
    vertices: Array, faces: Array, free: Array, on_sides: Array, near: Array, size: float,
    reach: float,
) -> tuple[Array, Array, Array]:  # fmt: skip
    """Faces divided near some points, step by step and turned in between, so that none stay slim.

    `free` faces are those that may be drawn anew; gives what `split_edges_near` does.
    """
    origin = np.arange(len(faces))
    for step in _STEPS:
        faces = delaunay_flips(vertices, faces, free[origin])
        vertices, faces, parts = split_edges_near(
            vertices, faces, on_sides[origin], near, step * size, reach
        )
        origin = origin[parts]
    return vertices, delaunay_flips(vertices, faces, free[origin]), origin
