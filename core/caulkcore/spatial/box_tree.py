"""A tree of boxes over triangles: nearest points.

The faces are sorted along a Morton curve, and blocks of them halved across their longest side, so
that a leaf holds faces of one side of a wall. The boxes above the leaves form a complete binary
tree in one array.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..jit import nb
from ..mesh._face_kernels import Point, cross, cross_at, row
from ..mesh.arrays import Array, bounds_of, frozen

LEAF_SIZE = 4
"""Faces of a leaf."""
_RUN = 256
"""Points that one thread takes at a time, one near the other."""
_WIDER = 1.0 + 1e-9
"""By how much a disc is taken for larger than it is: rounding."""
_HALVED = 1024
"""Faces of a block that is halved: they fit into a processor's cache."""
_SIDES_APART = 2.0
"""How far apart faces at right angles count when blocks are halved, in widths of a face."""
_SLAB_LEVELS = 9
"""Levels of nodes, from the leaves up, that have a slab: those of up to 1,024 faces. The faces of
larger nodes mostly look everywhere."""
_LEAST_TURN = 1e-6
"""Least length of a sum of unit normals that still tells a direction."""


@nb.njit(cache=True)
def _spread_bits(v: np.uint64) -> np.uint64:
    v = (v | (v << np.uint64(32))) & np.uint64(0x1F00000000FFFF)
    v = (v | (v << np.uint64(16))) & np.uint64(0x1F0000FF0000FF)
    v = (v | (v << np.uint64(8))) & np.uint64(0x100F00F00F00F00F)
    v = (v | (v << np.uint64(4))) & np.uint64(0x10C30C30C30C30C3)
    return (v | (v << np.uint64(2))) & np.uint64(0x1249249249249249)


@nb.njit(cache=True, parallel=True)
def _face_codes(vertices: Array, faces: Array, low: Array, scale: Array) -> Array:
    codes = np.empty(len(faces), dtype=np.uint64)
    for f in nb.prange(len(faces)):
        code = np.uint64(0)
        for k in range(3):
            middle = (
                vertices[faces[f, 0], k] + vertices[faces[f, 1], k] + vertices[faces[f, 2], k]
            ) / 3.0
            step = np.uint64(min(max((middle - low[k]) * scale[k], 0.0), 2097151.0))
            code |= _spread_bits(step) << np.uint64(k)
        codes[f] = code
    return codes


@nb.njit(cache=True)
def corners_of(vertices: Array, faces: Array, f: int) -> tuple[Point, Point, Point]:
    """The corners of a face.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3)
    faces : ndarray, shape (m, 3)
    f : int

    Returns
    -------
    three of (float, float, float)
    """
    return row(vertices, faces[f, 0]), row(vertices, faces[f, 1]), row(vertices, faces[f, 2])


@nb.njit(cache=True)
def _select(middles: Array, order: Array, axis: int, first: int, last: int, k: int) -> None:
    """Order items from `first` to `last` so that those before k are no farther along the axis.

    Hoare's selection, 1961.
    """
    while first < last:
        pivot = middles[(first + last) // 2, axis]
        i, j = first, last
        while i <= j:
            while middles[i, axis] < pivot:
                i += 1
            while middles[j, axis] > pivot:
                j -= 1
            if i <= j:
                order[i], order[j] = order[j], order[i]
                for d in range(middles.shape[1]):
                    middles[i, d], middles[j, d] = middles[j, d], middles[i, d]
                i, j = i + 1, j - 1
        if k <= j:
            last = j
        elif k >= i:
            first = i
        else:
            return


@nb.njit(cache=True)
def _longest_side(middles: Array) -> int:
    axis, longest = 0, -1.0
    for d in range(middles.shape[1]):
        low, high = middles[0, d], middles[0, d]
        for i in range(1, len(middles)):
            low, high = min(low, middles[i, d]), max(high, middles[i, d])
        if high - low > longest:
            axis, longest = d, high - low
    return axis


@nb.njit(cache=True, parallel=True)
def _halve_blocks(vertices: Array, faces: Array, order: Array) -> None:
    """Order the faces of each block so that halves of halves of it are compact, down to leaves.

    Normals count as places, some faces apart, so that both sides of a wall come into two halves.
    """
    for block in nb.prange((len(order) + _HALVED - 1) // _HALVED):
        own = order[block * _HALVED : (block + 1) * _HALVED]
        middles = np.empty((len(own), 6))
        width = 0.0
        for i in range(len(own)):
            a, b, c = corners_of(vertices, faces, own[i])
            n = cross(a, b, c)
            size = np.sqrt(n[0] * n[0] + n[1] * n[1] + n[2] * n[2])
            width += np.sqrt(size) / len(own)
            for d in range(3):
                middles[i, d] = (a[d] + b[d] + c[d]) / 3.0
                middles[i, 3 + d] = n[d] / max(size, 1e-300)
        middles[:, 3:] *= _SIDES_APART * width
        size = _HALVED
        while size > LEAF_SIZE:
            for first in range(0, len(own) - size // 2, size):
                last = min(first + size, len(own))
                axis = _longest_side(middles[first:last])
                _select(middles, own, axis, first, last - 1, first + size // 2)
            size //= 2


@nb.njit(cache=True)
def _bound_inner_nodes(bounds: Array) -> None:
    """Bounds of the inner nodes, from those of the leaves."""
    for node in range(len(bounds) // 2 - 1, 0, -1):
        for k in range(3):
            bounds[node, k] = min(bounds[2 * node, k], bounds[2 * node + 1, k])
            bounds[node, 3 + k] = max(bounds[2 * node, 3 + k], bounds[2 * node + 1, 3 + k])


@nb.njit(cache=True, parallel=True)
def _boxes(vertices: Array, faces: Array, order: Array, leaves: int) -> Array:
    boxes = np.empty((2 * leaves, 6))
    boxes[:, :3] = np.inf
    boxes[:, 3:] = -np.inf
    for leaf in nb.prange(leaves):
        box = boxes[leaves + leaf]
        for i in range(leaf * LEAF_SIZE, min((leaf + 1) * LEAF_SIZE, len(order))):
            for c in range(3):
                for k in range(3):
                    x = vertices[faces[order[i], c], k]
                    box[k] = min(box[k], x)
                    box[3 + k] = max(box[3 + k], x)
    _bound_inner_nodes(boxes)
    return boxes


@nb.njit(cache=True)
def _vertex_normal_bounds(vertices: Array, faces: Array) -> Array:
    """Least and greatest unit normal of the faces round each vertex, by coordinates."""
    normal_bounds = np.empty((len(vertices), 6))
    normal_bounds[:, :3] = np.inf
    normal_bounds[:, 3:] = -np.inf
    for f in range(len(faces)):
        n = cross_at(vertices, faces[f, 0], faces[f, 1], faces[f, 2])
        size = np.sqrt(n[0] * n[0] + n[1] * n[1] + n[2] * n[2])
        if size > 0.0:
            for c in range(3):
                own = normal_bounds[faces[f, c]]
                for k in range(3):
                    own[k] = min(own[k], n[k] / size)
                    own[3 + k] = max(own[3 + k], n[k] / size)
    return normal_bounds


@nb.njit(cache=True, parallel=True)
def _normal_bounds(around: Array, faces: Array, order: Array, leaves: int) -> Array:
    normal_bounds = np.empty((2 * leaves, 6))
    normal_bounds[:, :3] = np.inf
    normal_bounds[:, 3:] = -np.inf
    for leaf in nb.prange(leaves):
        own = normal_bounds[leaves + leaf]
        for i in range(leaf * LEAF_SIZE, min((leaf + 1) * LEAF_SIZE, len(order))):
            for c in range(3):
                selected = around[faces[order[i], c]]
                # how near sums of these normals, weighted to one, come to nothing
                least = 0.0
                for k in range(3):
                    least += max(selected[k], -selected[3 + k], 0.0) ** 2
                if least == np.inf:
                    continue
                scale = 1.0 / np.sqrt(max(least, _LEAST_TURN))
                for k in range(3):
                    own[k] = min(own[k], selected[k] * scale)
                    own[3 + k] = max(own[3 + k], selected[3 + k] * scale)
    _bound_inner_nodes(normal_bounds)
    return normal_bounds


@nb.njit(cache=True, parallel=True)
def _slabs(corners: Array, leaves: int) -> Array:
    slabs = np.zeros((2 * leaves, 5))
    slabs[:, 3], slabs[:, 4] = -np.inf, np.inf
    for level in range(_SLAB_LEVELS):
        count = leaves >> level
        size = LEAF_SIZE << level
        for i in nb.prange(count):
            begin, end = i * size, min((i + 1) * size, len(corners))
            x = y = z = 0.0
            for f in range(begin, end):
                a, b, c = corners[f, 0:3], corners[f, 3:6], corners[f, 6:9]
                n = cross((a[0], a[1], a[2]), (b[0], b[1], b[2]), (c[0], c[1], c[2]))
                x, y, z = x + n[0], y + n[1], z + n[2]
            length = np.sqrt(x * x + y * y + z * z)
            if not length > 0.0:
                continue
            x, y, z = x / length, y / length, z / length
            low, high = np.inf, -np.inf
            for f in range(begin, end):
                for k in range(0, 9, 3):
                    at = x * corners[f, k] + y * corners[f, k + 1] + z * corners[f, k + 2]
                    low, high = min(low, at), max(high, at)
            own = slabs[count + i]
            own[0], own[1], own[2], own[3], own[4] = x, y, z, low, high
    return slabs


def morton_codes(vertices: Array, faces: Array) -> Array:
    """Place of each face's middle along a Morton curve through the box of the vertices.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3), float64
    faces : ndarray, shape (m, 3), int32

    Returns
    -------
    ndarray, shape (m,), uint64
    """
    vertices, faces = frozen(vertices, np.float64), frozen(faces, np.int32)
    low, high = bounds_of(vertices)
    return _face_codes(vertices, faces, low, 2097151.0 / np.maximum(high - low, 1e-300))


@nb.njit(cache=True)
def _discs(corners: Array) -> Array:
    discs = np.zeros((len(corners), 7))
    for f in range(len(corners)):
        a, b, c = corners[f, 0:3], corners[f, 3:6], corners[f, 6:9]
        x, y, z = cross((a[0], a[1], a[2]), (b[0], b[1], b[2]), (c[0], c[1], c[2]))
        size = np.sqrt(x * x + y * y + z * z)
        if size > 0.0:
            discs[f, 3], discs[f, 4], discs[f, 5] = x / size, y / size, z / size
        for k in range(3):
            discs[f, k] = (a[k] + b[k] + c[k]) / 3.0
        for corner in (a, b, c):
            away = 0.0
            for k in range(3):
                away += (corner[k] - discs[f, k]) ** 2
            discs[f, 6] = max(discs[f, 6], away * _WIDER)
    return discs


@dataclass(frozen=True, eq=False)
class Tree:
    """Boxes over the faces of one mesh.

    Attributes
    ----------
    vertices : ndarray, shape (n, 3), float64
    faces : ndarray, shape (m, 3), int32
    """

    vertices: Array
    faces: Array

    @staticmethod
    def of(vertices: Array, faces: Array) -> "Tree":
        """Build the tree over `faces`, at least one.

        Parameters
        ----------
        vertices : ndarray, shape (n, 3), float64
        faces : ndarray, shape (m, 3), int32

        Returns
        -------
        Tree
        """
        return Tree(frozen(vertices, np.float64), frozen(faces, np.int32))

    @cached_property
    def order(self) -> Array:
        """Faces in the order of the leaves, shape (m,), int64."""
        order = np.argsort(morton_codes(self.vertices, self.faces), kind="stable")
        _halve_blocks(self.vertices, self.faces, order)
        return order

    @cached_property
    def boxes(self) -> Array:
        """Box of each node, low corner then high, shape (2 leaves, 6), float64.

        Node 1 is the root, the last half are the leaves.
        """
        return _boxes(self.vertices, self.faces, self.order, self._leaves)

    @cached_property
    def normal_bounds(self) -> Array:
        """Least and greatest direction in which the surface is met below each node, as `boxes`.

        Where something touches it at a vertex or an edge, that is a sum of the normals of the faces
        round it, of any length from one up, and a unit vector: the sums' bounds are taken, vertex
        by vertex.
        """
        around = _vertex_normal_bounds(self.vertices, self.faces)
        return _normal_bounds(around, self.faces, self.order, self._leaves)

    @property
    def _leaves(self) -> int:
        leaves = 1
        while leaves * LEAF_SIZE < len(self.faces):
            leaves *= 2
        return leaves

    @cached_property
    def corners(self) -> Array:
        """Corners of the faces in the order of the leaves, shape (m, 9)."""
        vertex = self.faces.take(self.order, axis=0).reshape(-1)
        return frozen(self.vertices.take(vertex, axis=0).reshape(-1, 9), np.float64)

    @cached_property
    def discs(self) -> Array:
        """Middle, unit normal and squared radius of each face in the order of the leaves.

        Shape (m, 7); the radius is that of the corners round the middle, and the normal is zero
        where a face has no area.
        """
        return _discs(self.corners)

    def flipped(self) -> "Tree":
        """The tree over the same faces turned over, with all that is the same.

        Returns
        -------
        Tree
        """
        other = Tree.of(self.vertices, self.faces[:, ::-1])
        discs = self.discs.copy()
        discs[:, 3:6] *= -1.0
        vars(other).update(
            order=self.order,
            boxes=self.boxes,
            slabs=self.slabs,
            discs=discs,
            normal_bounds=-self.normal_bounds[:, [3, 4, 5, 0, 1, 2]],
        )
        return other

    @cached_property
    def slabs(self) -> Array:
        """Two planes that hold the faces of each node between them, shape (2 leaves, 5), float64.

        The mean normal of the faces, then where the planes stand along it. A patch that is nearly
        flat fills its box badly and its slab well. Slabs of large nodes hold everything.
        """
        return _slabs(self.corners, self._leaves)

    def nearest(self, points: Array) -> tuple[Array, Array]:
        """Distance from each point to the surface, and the nearest face.

        Parameters
        ----------
        points : ndarray, shape (k, 3)

        Returns
        -------
        distance : ndarray, shape (k,)
        face : ndarray, shape (k,), int64

        Examples
        --------
        >>> from caulkcore.mesh.simple_solids import cuboid
        >>> cube = cuboid()
        >>> distance, _ = Tree.of(cube.vertices, cube.faces).nearest(np.array([[5.0, 5.0, 12.0]]))
        >>> distance.tolist()
        [2.0]
        """
        return _nearest(frozen(points, np.float64), *self._arrays())

    def feet(self, points: Array, face: Array) -> Array:
        """The point of a face of its own nearest to each point, shape (q, 3).

        Parameters
        ----------
        points : ndarray, shape (k, 3)
        face : ndarray, shape (k,)
            The face to look at for each.

        Returns
        -------
        ndarray, shape (k, 3)
        """
        return _feet(frozen(points, np.float64), frozen(face, np.int64), self.vertices, self.faces)

    def _arrays(self) -> tuple[Array, Array, Array, Array]:
        return self.vertices, self.faces, self.order, self.boxes


@nb.njit(cache=True)
def to_box(p: Point, boxes: Array, node: int) -> float:
    """Squared distance from a point to the box of a node.

    Parameters
    ----------
    p : (float, float, float)
    boxes : ndarray, shape (b, 6)
    node : int

    Returns
    -------
    float
        Square of the distance.
    """
    x = max(boxes[node, 0] - p[0], 0.0, p[0] - boxes[node, 3])
    y = max(boxes[node, 1] - p[1], 0.0, p[1] - boxes[node, 4])
    z = max(boxes[node, 2] - p[2], 0.0, p[2] - boxes[node, 5])
    return x * x + y * y + z * z


@nb.njit(cache=True)
def weights(p: Point, a: Point, b: Point, c: Point) -> tuple[float, float]:
    """Weights of b and c in the point of a triangle nearest to p (Ericson 2005, section 5.1.5).

    Parameters
    ----------
    p, a, b, c : (float, float, float)
        A point, and a triangle.

    Returns
    -------
    (float, float)
    """
    abx, aby, abz = b[0] - a[0], b[1] - a[1], b[2] - a[2]
    acx, acy, acz = c[0] - a[0], c[1] - a[1], c[2] - a[2]
    apx, apy, apz = p[0] - a[0], p[1] - a[1], p[2] - a[2]
    bpx, bpy, bpz = p[0] - b[0], p[1] - b[1], p[2] - b[2]
    cpx, cpy, cpz = p[0] - c[0], p[1] - c[1], p[2] - c[2]
    d1 = abx * apx + aby * apy + abz * apz
    d2 = acx * apx + acy * apy + acz * apz
    d3 = abx * bpx + aby * bpy + abz * bpz
    d4 = acx * bpx + acy * bpy + acz * bpz
    d5 = abx * cpx + aby * cpy + abz * cpz
    d6 = acx * cpx + acy * cpy + acz * cpz
    vc = d1 * d4 - d3 * d2
    vb = d5 * d2 - d1 * d6
    va = d3 * d6 - d5 * d4
    if d1 <= 0 and d2 <= 0:
        return 0.0, 0.0
    if d3 >= 0 and d4 <= d3:
        return 1.0, 0.0
    if d6 >= 0 and d5 <= d6:
        return 0.0, 1.0
    if vc <= 0 and d1 >= 0 and d3 <= 0 and d1 > d3:
        return d1 / (d1 - d3), 0.0
    if vb <= 0 and d2 >= 0 and d6 <= 0 and d2 > d6:
        return 0.0, d2 / (d2 - d6)
    if va <= 0 and d4 - d3 >= 0 and d5 - d6 >= 0 and (d4 - d3) + (d5 - d6) > 0:
        w = (d4 - d3) / ((d4 - d3) + (d5 - d6))
        return 1.0 - w, w
    if va + vb + vc > 0:
        return vb / (va + vb + vc), vc / (va + vb + vc)
    return 0.0, 0.0


@nb.njit(cache=True)
def to_triangle(p: Point, a: Point, b: Point, c: Point) -> float:
    """Squared distance from a point to a triangle.

    Parameters
    ----------
    p, a, b, c : (float, float, float)
        A point, and a triangle.

    Returns
    -------
    float
        Square of the distance.
    """
    v, w = weights(p, a, b, c)
    x = p[0] - a[0] - v * (b[0] - a[0]) - w * (c[0] - a[0])
    y = p[1] - a[1] - v * (b[1] - a[1]) - w * (c[1] - a[1])
    z = p[2] - a[2] - v * (b[2] - a[2]) - w * (c[2] - a[2])
    return x * x + y * y + z * z


@nb.njit(cache=True)
def nearest_face(  # type: ignore[no-untyped-def]
    p: Point, bound: float, vertices: Array, faces: Array, order: Array, boxes: Array
):
    """The nearest face and its squared distance; -1 and the bound (squared) if none is nearer.

    Parameters
    ----------
    p : (float, float, float)
    bound : float
        Square of the distance beyond which nothing matters.
    vertices : ndarray, shape (n, 3)
    faces : ndarray, shape (m, 3)
    order : ndarray, shape (m,)
        Of the tree.
    boxes : ndarray, shape (b, 6)
        Of the tree.

    Returns
    -------
    face : int
    distance : float
        Squared.
    """
    leaves = len(boxes) // 2
    best, found = bound, np.int64(-1)
    stack, reach = np.empty(64, dtype=np.int64), np.empty(64)
    stack[0], reach[0] = 1, to_box(p, boxes, 1)
    top = 1
    while top > 0:
        top -= 1
        node = stack[top]
        if reach[top] >= best:
            continue
        if node >= leaves:
            first = (node - leaves) * LEAF_SIZE
            for j in range(first, min(first + LEAF_SIZE, len(order))):
                f = order[j]
                d = to_triangle(p, *corners_of(vertices, faces, f))
                if d < best:
                    best, found = d, f
            continue
        left, right = 2 * node, 2 * node + 1
        near, far = to_box(p, boxes, left), to_box(p, boxes, right)
        if near > far:
            left, right, near, far = right, left, far, near
        if far < best:
            stack[top], reach[top] = right, far
            top += 1
        if near < best:
            stack[top], reach[top] = left, near
            top += 1
    return found, best


@nb.njit(cache=True, parallel=True)
def _nearest(  # type: ignore[no-untyped-def]
    points: Array, vertices: Array, faces: Array, order: Array, boxes: Array
):
    distance = np.empty(len(points))
    face = np.empty(len(points), dtype=np.int64)
    for run in nb.prange((len(points) + _RUN - 1) // _RUN):
        last = order[0]
        for i in range(run * _RUN, min((run + 1) * _RUN, len(points))):
            # the point before is mostly near, and so is what was nearest to it
            p = row(points, i)
            known = to_triangle(p, *corners_of(vertices, faces, last))
            found, squared = nearest_face(p, known, vertices, faces, order, boxes)
            last = last if found < 0 else found
            face[i] = last
            distance[i] = np.sqrt(squared)
    return distance, face


@nb.njit(cache=True)
def _feet(points: Array, face: Array, vertices: Array, faces: Array) -> Array:
    out = np.empty((len(points), 3))
    for i in range(len(points)):
        a, b, c = corners_of(vertices, faces, face[i])
        v, w = weights(row(points, i), a, b, c)
        for k in range(3):
            out[i, k] = a[k] + v * (b[k] - a[k]) + w * (c[k] - a[k])
    return out


@nb.njit(cache=True, parallel=True)
def _within(vertices: Array, faces: Array, p: Array, reach: float) -> Array:
    near = np.empty(len(faces), np.bool_)
    for f in nb.prange(len(faces)):
        to = to_triangle((p[0], p[1], p[2]), *corners_of(vertices, faces, f))
        near[f] = to <= reach * reach
    return near


def faces_within(vertices: Array, faces: Array, point: Array, reach: float) -> Array:
    """Numbers of the faces that come within a distance of a point, ascending.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3)
    faces : ndarray, shape (m, 3)
    point : ndarray, shape (3,)
    reach : float
        In the vertices' unit.

    Returns
    -------
    ndarray, shape (k,)
        Numbers of the faces, ascending.
    """
    given = frozen(vertices, np.float64), frozen(faces, np.int32), frozen(point, np.float64)
    return np.flatnonzero(_within(*given, reach))
