"""Which nodes of a grid lie inside a surface, and where the surface passes between them."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..mesh.arrays import Array, frozen
from ..mesh.float32 import as_float32
from ..mesh.topology import Topology
from ..mesh.triangle_mesh import Mesh, face_normals
from ..spatial.box_tree import Tree
from ..spatial.winding_number import WindingNumber
from ._voxel_kernels import (
    extend_table,
    grid_line_crossings,
    keys_in_order,
    look_up,
    number_keys,
    winding_along_lines,
)
from .dual_contouring import Crossed, dual_contour

_MARGIN = 2.37
"""Steps around what the grid is laid over; no whole number, so that faces of CAD models do not lie
in the grid."""
_SLACK = 0.25
"""Steps by which a node must be more than within a gap: the offset surface is drawn from a grid."""


@dataclass(frozen=True, eq=False)
class Grid:
    """A regular grid, and a mesh's vertices in its steps.

    Attributes
    ----------
    low : ndarray, shape (3,)
        Its first node, mm.
    step : float
        mm.
    shape : tuple of int
        Nodes along each axis; the outermost two of them always count as outside.
    vertices : ndarray, shape (n, 3)
    """

    low: Array
    step: float
    shape: tuple[int, int, int]
    vertices: Array

    @staticmethod
    def over(mesh: Mesh, box: Array, step: float) -> "Grid":
        """A box, low corner and high, of a mesh that may go on beyond it.

        Parameters
        ----------
        mesh : Mesh
        box : ndarray, shape (2, 3)
            mm.
        step : float
            Size of a voxel, mm.

        Returns
        -------
        Grid
        """
        low = box[0] - _MARGIN * step
        count = np.ceil((box[1] - low) / step).astype(int) + 3
        vertices = frozen((mesh.vertices - low) / step, np.float64)
        return Grid(low, step, (int(count[0]), int(count[1]), int(count[2])), vertices)

    def placed(self, points: Array) -> Array:
        """Points of the grid in mm, on float32.

        Parameters
        ----------
        points : ndarray, shape (k, 3)
            In steps.

        Returns
        -------
        ndarray, shape (k, 3)
        """
        return as_float32(points * self.step + self.low)


class Occupancy:
    """Where grid lines cross a surface, and which nodes lie inside it.

    Nodes inside and outside are told apart by how often the surface winds round them, exactly if
    it is closed and wholly within the grid, by its winding number (Barill et al. 2018) if not.

    Parameters
    ----------
    grid : Grid
    faces : ndarray, shape (m, 3)
    whole : bool
        Whether the grid goes round all of the surface.

    Attributes
    ----------
    edges : Crossed
        Edges with one end inside that the surface passes through.
    """

    def __init__(self, grid: Grid, faces: Array, whole: bool = True) -> None:
        self.grid, self._faces = grid, faces
        nx, ny, nz = grid.shape
        normals = face_normals(grid.vertices, faces)
        parts = []
        for d in range(3):
            node, along, side, face = grid_line_crossings(grid.vertices, faces, d, grid.shape)
            number = (node[:, 0].astype(np.int64) * ny + node[:, 1]) * nz + node[:, 2]
            order = np.lexsort((along, number))
            parts.append((3 * number[order] + d, along[order], side[order], face[order]))
        edge, self._z_along, self._z_side, _ = parts[2]
        self._z_starts = np.searchsorted(edge // 3 // nz, np.arange(nx * ny + 1))
        closed = whole and _is_closed(grid.vertices, faces)
        self._winding = None if closed else WindingNumber(grid.vertices, faces)
        self._table, self._number = number_keys(np.zeros(0, np.int64)), np.zeros(0, np.float32)
        # the ends of all edges at once
        self.strides = np.array([ny * nz, nz, 1])
        low = [part[0] // 3 for part in parts]
        self.wound(np.concatenate([*low, *(x + d for x, d in zip(low, self.strides, strict=True))]))
        chosen = [self._crossed_edges(*part, d) for d, part in enumerate(parts)]
        edge = np.concatenate([c[0] for c in chosen])
        along = np.concatenate([c[1] for c in chosen])
        point = self._grid_position(edge // 3)
        point[np.arange(len(edge)), edge % 3] = along
        self.edges = Crossed(edge, point, normals[np.concatenate([c[2] for c in chosen])])

    def _work_out(self, nodes: Array) -> Array:
        nx, ny, nz = self.grid.shape
        if self._winding is None:
            return winding_along_lines(self._z_starts, self._z_along, self._z_side, nodes, nz, ny)
        i, j, k = np.unravel_index(nodes, self.grid.shape)
        out = self._winding.at(np.stack([i, j, k], axis=1))
        # a soup may have its inside reach beyond itself; the grid ends somewhere
        out[(i < 2) | (j < 2) | (k < 2) | (i > nx - 3) | (j > ny - 3) | (k > nz - 3)] = 0.0
        return out

    def wound(self, nodes: Array) -> Array:
        """How often the surface winds round nodes; each is worked out once.

        Parameters
        ----------
        nodes : ndarray, shape (k,), int64

        Returns
        -------
        ndarray, shape (k,)
        """
        number = look_up(*self._table, nodes)
        fresh = number < 0
        if fresh.any():
            asked, known = nodes[fresh], len(self._number)
            *table, count = extend_table(*self._table, known, asked)
            self._table = table[0], table[1]
            number[fresh] = own = look_up(*self._table, asked)
            new = np.empty(count - known, np.int64)
            new[own - known] = asked
            self._number = np.append(self._number, self._work_out(new).astype(np.float32))
        return self._number[number]

    def inside(self, nodes: Array) -> Array:
        """Whether nodes lie inside.

        Parameters
        ----------
        nodes : ndarray, shape (k,), int64

        Returns
        -------
        ndarray, shape (k,), bool

        Examples
        --------
        >>> from caulkcore.mesh.simple_solids import cuboid
        >>> cube = cuboid()
        >>> grid = Grid.over(cube, cube.bounds, 1.0)
        >>> field = Occupancy(grid, cube.faces)
        >>> nodes = np.arange(np.prod(grid.shape))
        >>> int(field.inside(nodes).sum())
        1000
        """
        return self.wound(nodes) > 0.5

    def _crossed_edges(
        self, edge: Array, along: Array, side: Array, face: Array, d: int
    ) -> tuple[Array, Array, Array]:
        """For each edge with one end inside: the edge, where it is crossed, and by which face."""
        starts = np.flatnonzero(np.diff(edge, prepend=-1))
        ends = np.append(starts[1:], len(edge))
        node = edge[starts] // 3
        beyond = node + self.strides[d]
        below, above = self.wound(node), self.wound(beyond)
        one = (below > 0.5) != (above > 0.5)
        starts, ends, below = starts[one], ends[one], below[one]
        # of several crossings the one where the number passes from outside to inside or back
        pick = (starts + ends - 1) // 2
        for i in np.flatnonzero(ends - starts > 1).tolist():
            number = below[i]
            for c in range(starts[i], ends[i]):
                passed = number > 0.5
                number -= side[c]
                if (number > 0.5) != passed:
                    pick[i] = c
        return edge[starts], along[pick], face[pick]

    def close_gaps(self, width: float) -> None:
        """Count gaps up to a width as inside, as if filled by what no ball of it can get out of.

        The solid is grown by half the width and shrunk again (Serra 1982): its offset surface is
        drawn, and what lies more than half the width within that is inside.

        Parameters
        ----------
        width : float
            In steps.
        """
        half = 0.5 * width
        air, away = self._air_within(half)
        if not len(air):
            return
        tree = Tree.of(*self._offset(air, away, half))
        near = away < half
        depth = np.full(len(air), -half)
        depth[near], _ = tree.nearest(self._grid_position(air[near]))
        depth -= half + _SLACK
        filled = depth > 0
        if not filled.any():
            return
        number = look_up(*self._table, air[filled])
        self._number[number] = 1.0
        edge, point, normal = self.edges.edge, self.edges.point, self.edges.normal
        still = self.inside(edge // 3) != self.inside(self._far_node(edge))
        fresh = self._edges_between(air, depth, air[filled], depth[filled], 0.0)
        self.edges = Crossed(
            np.concatenate([edge[still], fresh.edge]),
            np.concatenate([point[still], fresh.point]),
            np.concatenate([normal[still], fresh.normal]),
        )

    @cached_property
    def _tree(self) -> Tree:
        return Tree.of(self.grid.vertices, self._faces)

    def _air_within(self, reach: float) -> tuple[Array, Array]:
        """Nodes outside within reach of the surface and those beside them, and how far they are."""
        ends = np.concatenate([self.edges.edge // 3, self._far_node(self.edges.edge)])
        front = keys_in_order(*number_keys(ends[~self.inside(ends)]))
        known, away = [front], []
        while len(front):
            away.append(self._tree.nearest(self._grid_position(front))[0])
            wider = self._neighbouring_nodes(front[away[-1] < reach])
            every = np.concatenate([*known, wider[~self.inside(wider)]])
            front = keys_in_order(*number_keys(every))[sum(map(len, known)) :]
            known.append(front)
        return np.concatenate(known), np.concatenate(away) if away else np.zeros(0)

    def _offset(self, air: Array, away: Array, reach: float) -> tuple[Array, Array]:
        """The surface so far outside the solid."""
        within = air[away < reach]
        table = number_keys(within)

        def inside(nodes: Array) -> Array:
            return self.inside(nodes) | (look_up(*table, nodes) >= 0)

        beyond = away >= reach
        # where the solid itself is nearer than a step to what lies beyond the reach
        solid = self._neighbouring_nodes(air[beyond])
        solid = solid[self.inside(solid)]
        own, _ = self._tree.nearest(self._grid_position(solid))
        nodes = np.concatenate([air, solid])
        signed = np.concatenate([away, -own])
        low = np.concatenate([within, solid])
        value = np.concatenate([away[~beyond], -own])
        edges = self._edges_between(nodes, -signed, low, -value, -reach)
        _, mean, faces = dual_contour(edges, inside, self.grid.shape)
        return mean, faces

    def _edges_between(
        self, nodes: Array, value: Array, high: Array, top: Array, level: float
    ) -> Crossed:
        """Edges from nodes above a level to ones that are known and not above it."""
        table = number_keys(nodes)
        edge, point = [], []
        for d, stride in enumerate(self.strides):
            for sense in (1, -1):
                other = look_up(*table, high + sense * stride)
                selected = np.flatnonzero(other >= 0)
                selected = selected[value[other[selected]] <= level]
                a, b = top[selected], value[other[selected]]
                share = (a - level) / np.maximum(a - b, 1e-12)
                at = self._grid_position(high[selected])
                at[:, d] += sense * np.clip(share, 0.0, 1.0)
                low = high[selected] if sense > 0 else high[selected] - stride
                edge.append(3 * low + d)
                point.append(at)
        edges, points = np.concatenate(edge), np.concatenate(point)
        return Crossed(edges, points, np.zeros_like(points))

    def _far_node(self, edge: Array) -> Array:
        return edge // 3 + self.strides[edge % 3]

    def _neighbouring_nodes(self, nodes: Array) -> Array:
        """Each node's six neighbours, each once."""
        steps = np.concatenate([self.strides, -self.strides])
        return keys_in_order(*number_keys((nodes[:, None] + steps).ravel()))

    def _grid_position(self, nodes: Array) -> Array:
        return np.stack(np.unravel_index(nodes, self.grid.shape), axis=1).astype(float)


def _is_closed(vertices: Array, faces: Array) -> bool:
    """Whether at each edge as many faces run one way as the other."""
    return not Topology(Mesh(vertices, faces)).balance.any()
