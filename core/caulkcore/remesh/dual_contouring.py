"""Drawing a surface round what a field calls inside, with sharp edges (dual contouring)."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache

import numpy as np

from ..mesh.arrays import Array
from ._voxel_kernels import (
    cell_edges,
    corner_cases,
    extend_table,
    feature_points,
    keys_in_order,
    look_up,
    number_keys,
)

_CORNERS = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)])
"""Corners of a cell, x before y before z."""


def _edges() -> tuple[Array, Array]:
    """For each of a cell's edges its axis and its lower corner: number 4 d + 2 a + b."""
    axis, corner = [], []
    for d in range(3):
        for a in (0, 1):
            for b in (0, 1):
                low = np.zeros(3, dtype=int)
                low[(d + 1) % 3], low[(d + 2) % 3] = a, b
                axis.append(d)
                corner.append(low)
    return np.array(axis), np.array(corner)


_AXIS, _LOW = _edges()
"""For each of a cell's twelve edges its axis and its lower corner."""
_LOWER = _LOW @ np.array([4, 2, 1])
"""Position of each edge's lower corner among the corners."""
_ENDS = np.stack([_LOWER, _LOWER + np.array([4, 2, 1])[_AXIS]], axis=1)
"""Positions of both ends of each edge among the corners."""


@dataclass(frozen=True, eq=False)
class Crossed:
    """Edges of a grid that a surface passes through.

    Attributes
    ----------
    edge : ndarray, shape (e,), int64
        Three times the number of the node that each leaves, plus its axis.
    point : ndarray, shape (e, 3)
        In steps of the grid.
    normal : ndarray, shape (e, 3)
        The surface's direction there, zero where it is not known.
    """

    edge: Array
    point: Array
    normal: Array


@cache
def _parts() -> Array:
    """For each way of a cell's corners to be inside, the part that passes through each edge.

    Parts are told apart so that on each of the cell's faces inside corners stay apart; the same
    rule on both sides of a face makes the surface closed. Shape (256, 12), -1 for no part.
    """
    table = np.full((256, 12), -1, dtype=np.int8)
    number = {tuple(np.append(_LOW[e], _AXIS[e]).tolist()): e for e in range(12)}

    def edge_between(p: Array, q: Array) -> int:
        d = int(np.flatnonzero(p != q)[0])
        return number[tuple(np.append(np.minimum(p, q), d).tolist())]

    faces = []
    for d in range(3):
        for side in (0, 1):
            ring = []
            for a, b in ((0, 0), (1, 0), (1, 1), (0, 1)):
                corner = np.zeros(3, dtype=int)
                corner[d], corner[(d + 1) % 3], corner[(d + 2) % 3] = side, a, b
                ring.append(corner)
            faces.append(ring)
    for case in range(256):
        inside = {tuple(c.tolist()): bool(case >> i & 1) for i, c in enumerate(_CORNERS)}
        group = list(range(12))

        def root(e: int, group: list[int] = group) -> int:
            while group[e] != e:
                e = group[e]
            return e

        crossed: set[int] = set()
        for ring in faces:
            states = [inside[tuple(c.tolist())] for c in ring]
            edges = [edge_between(ring[i], ring[(i + 1) % 4]) for i in range(4)]
            cut = [i for i in range(4) if states[i] != states[(i + 1) % 4]]
            crossed |= {edges[i] for i in cut}
            if len(cut) == 2:
                group[root(edges[cut[0]])] = root(edges[cut[1]])
            elif len(cut) == 4:
                for i in range(4):
                    if states[i]:
                        group[root(edges[i - 1])] = root(edges[i])
        names: dict[int, int] = {}
        for e in sorted(crossed):
            table[case, e] = names.setdefault(root(e), len(names))
    return table


def dual_contour(
    crossed: Crossed, inside: Callable[[Array], Array], shape: tuple[int, int, int]
) -> tuple[Array, Array, Array]:
    """The surface round the nodes inside, closed whatever the field.

    A cell gets a point for each part of the surface in it (Schaefer, Ju & Warren 2007), placed by
    the directions of the surface at the cell's edges (Ju et al. 2002); each crossed edge becomes
    a quad between the cells around it.

    Parameters
    ----------
    crossed : Crossed
        All edges with one end inside that are known; further ones are found beside them, and
        count as crossed half-way.
    inside : callable
        From numbers of nodes to whether they lie inside.
    shape : tuple of int
        Nodes along each axis; none of the outermost lies inside.

    Returns
    -------
    sharp, mean : ndarray, shape (p, 3)
        The points, in steps of the grid, and the means of the crossings around them.
    faces : ndarray, shape (m, 3), int32

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> from caulkcore.remesh.occupancy import Grid, Occupancy
    >>> cube = cuboid()
    >>> grid = Grid.over(cube, cube.bounds, 1.0)
    >>> field = Occupancy(grid, cube.faces)
    >>> sharp, _, faces = dual_contour(field.edges, field.inside, grid.shape)
    >>> from caulkcore import Mesh
    >>> round(Mesh(grid.placed(sharp), faces).volume, 3)
    1000.0
    """
    _, ny, nz = shape
    stride = np.array([ny * nz, nz, 1])
    corner_step, low_step = _CORNERS @ stride, _LOW @ stride
    edge, points, normals = crossed.edge, [crossed.point], [crossed.normal]
    table = number_keys(_around(edge, stride))
    cells = keys_in_order(*table)
    case = corner_cases(inside((cells[:, None] + corner_step).ravel()))
    while True:
        edges = number_keys(edge)
        number = cell_edges(cells, case, low_step, _AXIS, _ENDS, *edges)
        # edges with one end inside that nothing is known of: the lid over a hole
        which, local = np.nonzero(number == -2)
        if not len(which):
            break
        new = keys_in_order(*number_keys(3 * (cells[which] + low_step[local]) + _AXIS[local]))
        edge = np.concatenate([edge, new])
        points.append(_middles(new, shape))
        normals.append(np.zeros((len(new), 3)))
        known = len(cells)
        wider, values, _ = extend_table(*table, known, _around(new, stride))
        table = wider, values
        cells = keys_in_order(*table)
        more = (cells[known:, None] + corner_step).ravel()
        case = np.concatenate([case, corner_cases(inside(more))])
    part = _parts()[case]
    parts = part.max(axis=1).astype(np.int64) + 1
    first = np.cumsum(parts) - parts
    mean, sharp = np.empty((parts.sum(), 3)), np.empty((parts.sum(), 3))
    feature_points(
        cells, first, part, number, np.concatenate(points), np.concatenate(normals), ny, nz, mean,
        sharp,
    )  # fmt: skip
    return sharp, mean, _quads(edge, table, first, part, inside, stride, sharp)


def _around(edge: Array, stride: Array) -> Array:
    """The four cells around each edge, in turn seen against its axis, shape (4 e,)."""
    node, d = edge // 3, edge % 3
    a, b = stride[(d + 1) % 3], stride[(d + 2) % 3]
    return np.stack([node, node - a, node - a - b, node - b], axis=1).ravel()


def _middles(edge: Array, shape: tuple[int, int, int]) -> Array:
    points = np.stack(np.unravel_index(edge // 3, shape), axis=1).astype(float)
    points[np.arange(len(edge)), edge % 3] += 0.5
    return points


def _quads(
    edge: Array,
    cells: tuple[Array, Array],
    first: Array,
    part: Array,
    inside: Callable[[Array], Array],
    stride: Array,
    at: Array,
) -> Array:
    """Two triangles for each crossed edge, cut along the shorter way across."""
    node, d = edge // 3, edge % 3
    low, high = inside(node), inside(node + stride[d])
    edge, d, low = edge[low != high], d[low != high], low[low != high]
    cell = look_up(*cells, _around(edge, stride)).reshape(-1, 4)
    # the same edge in each of the cells around it
    local = 4 * d[:, None] + np.array([0, 2, 3, 1])
    quad = first[cell] + part[cell, local]
    quad[~low] = quad[~low][:, ::-1]
    across = [np.linalg.norm(at[quad[:, i]] - at[quad[:, i + 2]], axis=1) for i in (0, 1)]
    quad = np.where((across[0] <= across[1])[:, None], quad, np.roll(quad, -1, axis=1))
    return quad[:, [0, 1, 2, 0, 2, 3]].reshape(-1, 3).astype(np.int32)
