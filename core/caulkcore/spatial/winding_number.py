"""How often a surface winds round points, whether it is closed or not."""

import numpy as np

from ..jit import nb
from ..mesh.arrays import Array, frozen
from .box_tree import LEAF_SIZE, Tree

_FAR_RADII = 2.0
"""A node farther than so many of its radii counts as one dipole (Barill et al. 2018)."""


@nb.njit(cache=True)
def _solid_angle(q: Array, a: Array, b: Array, c: Array) -> float:
    """Half the solid angle of a triangle, with its sign (Van Oosterom & Strackee 1983)."""
    ax, ay, az = a[0] - q[0], a[1] - q[1], a[2] - q[2]
    bx, by, bz = b[0] - q[0], b[1] - q[1], b[2] - q[2]
    cx, cy, cz = c[0] - q[0], c[1] - q[1], c[2] - q[2]
    la = np.sqrt(ax * ax + ay * ay + az * az)
    lb = np.sqrt(bx * bx + by * by + bz * bz)
    lc = np.sqrt(cx * cx + cy * cy + cz * cz)
    det = ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx)
    low = la * lb * lc + (ax * bx + ay * by + az * bz) * lc
    low += (bx * cx + by * cy + bz * cz) * la + (cx * ax + cy * ay + cz * az) * lb
    return np.arctan2(det, low)


@nb.njit(cache=True)
def _dipoles(v: Array, faces: Array, order: Array, boxes: Array) -> Array:
    """For each node of the tree: area vector, middle by area, and squared reach."""
    leaves = len(boxes) // 2
    out = np.zeros((2 * leaves, 8))
    for i in range(len(order)):
        node = leaves + i // LEAF_SIZE
        p, q, r = v[faces[order[i], 0]], v[faces[order[i], 1]], v[faces[order[i], 2]]
        n = np.cross(q - p, r - p) * 0.5
        area = np.sqrt(n[0] * n[0] + n[1] * n[1] + n[2] * n[2])
        for k in range(3):
            out[node, k] += n[k]
            out[node, 3 + k] += area * (p[k] + q[k] + r[k]) / 3.0
        out[node, 6] += area
    for node in range(leaves - 1, 0, -1):
        for k in range(7):
            out[node, k] = out[2 * node, k] + out[2 * node + 1, k]
    for node in range(1, 2 * leaves):
        if out[node, 6] > 0.0:
            far = 0.0
            for k in range(3):
                out[node, 3 + k] /= out[node, 6]
                far += max(boxes[node, 3 + k] - out[node, 3 + k],
                           out[node, 3 + k] - boxes[node, k]) ** 2  # fmt: skip
            out[node, 7] = _FAR_RADII * _FAR_RADII * far
    return out


@nb.njit(cache=True, parallel=True)
def _wound(
    points: Array, v: Array, faces: Array, order: Array, boxes: Array, dipoles: Array
) -> Array:
    leaves = len(boxes) // 2
    out = np.empty(len(points))
    for i in nb.prange(len(points)):
        q = points[i]
        total = 0.0
        stack = np.empty(64, dtype=np.int64)
        stack[0] = 1
        top = 1
        while top > 0:
            top -= 1
            node = stack[top]
            if dipoles[node, 6] == 0.0:
                continue
            x, y, z = dipoles[node, 3] - q[0], dipoles[node, 4] - q[1], dipoles[node, 5] - q[2]
            far = x * x + y * y + z * z
            if far > dipoles[node, 7]:
                along = x * dipoles[node, 0] + y * dipoles[node, 1] + z * dipoles[node, 2]
                total += 0.5 * along / (far * np.sqrt(far))
                continue
            if node < leaves:
                stack[top], stack[top + 1] = 2 * node, 2 * node + 1
                top += 2
                continue
            first = (node - leaves) * LEAF_SIZE
            for j in range(first, min(first + LEAF_SIZE, len(order))):
                f = order[j]
                total += _solid_angle(q, v[faces[f, 0]], v[faces[f, 1]], v[faces[f, 2]])
        out[i] = total / (2.0 * np.pi)
    return out


class WindingNumber:
    """Winding numbers of one surface, groups of far faces taken for dipoles (Barill et al. 2018).

    Parameters
    ----------
    vertices : ndarray, shape (n, 3)
    faces : ndarray, shape (m, 3)
        At least one; the surface may be open, and cross itself.
    """

    def __init__(self, vertices: Array, faces: Array) -> None:
        self._tree = Tree.of(vertices, faces)
        tree = self._tree
        self._dipoles = _dipoles(tree.vertices, tree.faces, tree.order, tree.boxes)

    def at(self, points: Array) -> Array:
        """Winding number at points, shape (q,): 1 well inside a closed surface, 0 outside.

        Parameters
        ----------
        points : ndarray, shape (k, 3)

        Returns
        -------
        ndarray, shape (k,)

        Examples
        --------
        >>> from caulkcore.mesh.simple_solids import cuboid
        >>> cube = cuboid()
        >>> points = np.array([[5.0, 5.0, 5.0], [50.0, 5.0, 5.0]])
        >>> WindingNumber(cube.vertices, cube.faces).at(points).round(6).tolist()
        [1.0, 0.0]
        """
        tree = self._tree
        return _wound(
            frozen(points, np.float64), tree.vertices, tree.faces, tree.order, tree.boxes,
            self._dipoles,
        )  # fmt: skip
