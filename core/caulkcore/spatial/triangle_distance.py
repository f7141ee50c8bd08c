"""Which triangles of different shells come near each other without touching."""

import numpy as np

from ..jit import nb
from ..mesh.arrays import Array
from .box_tree import LEAF_SIZE, Tree


@nb.njit(cache=True)
def _segments(p: Array, q: Array, r: Array, s: Array, u: Array, v: Array) -> float:
    """Squared distance of segments p-q and r-s; their nearest points go into u and v.

    Ericson 2005, section 5.1.9.
    """
    a = e = f = b = c = 0.0
    for k in range(3):
        d1, d2, w = q[k] - p[k], s[k] - r[k], p[k] - r[k]
        a += d1 * d1
        e += d2 * d2
        f += d2 * w
        b += d1 * d2
        c += d1 * w
    x = y = 0.0
    if a > 0.0 and e > 0.0:
        det = a * e - b * b
        if det > 0.0:
            x = min(max((b * f - c * e) / det, 0.0), 1.0)
        y = (b * x + f) / e
        if y < 0.0:
            y = 0.0
            x = min(max(-c / a, 0.0), 1.0)
        elif y > 1.0:
            y = 1.0
            x = min(max((b - c) / a, 0.0), 1.0)
    elif e > 0.0:
        y = min(max(f / e, 0.0), 1.0)
    elif a > 0.0:
        x = min(max(-c / a, 0.0), 1.0)
    total = 0.0
    for k in range(3):
        u[k] = p[k] + x * (q[k] - p[k])
        v[k] = r[k] + y * (s[k] - r[k])
        total += (u[k] - v[k]) ** 2
    return total


@nb.njit(cache=True)
def _over(p: Array, a: Array, b: Array, c: Array, foot: Array) -> float:
    """Squared distance from p to the triangle's plane if p lies over the triangle, else inf."""
    n = np.cross(b - a, c - a)
    size = n[0] * n[0] + n[1] * n[1] + n[2] * n[2]
    if size == 0.0:
        return np.inf
    height = (p[0] - a[0]) * n[0] + (p[1] - a[1]) * n[1] + (p[2] - a[2]) * n[2]
    for k in range(3):
        foot[k] = p[k] - n[k] * height / size
    for one, two in ((a, b), (b, c), (c, a)):
        w = np.cross(two - one, foot - one)
        if w[0] * n[0] + w[1] * n[1] + w[2] * n[2] < 0.0:
            return np.inf
    return height * height / size


@nb.njit(cache=True)
def triangle_distance(t: Array, s: Array, on_t: Array, on_s: Array) -> float:
    """Squared distance of two triangles that do not cross, with the nearest points.

    The nearest points of two triangles lie on two edges, or on a vertex and a face.

    Parameters
    ----------
    t, s : ndarray, shape (3, 3)
    on_t, on_s : ndarray, shape (3,)
        Receive the points.

    Returns
    -------
    float
    """
    best = np.inf
    u, v = np.empty(3), np.empty(3)
    for i in range(3):
        for j in range(3):
            d = _segments(t[i], t[(i + 1) % 3], s[j], s[(j + 1) % 3], u, v)
            if d < best:
                best = d
                on_t[:] = u
                on_s[:] = v
    for i in range(3):
        d = _over(t[i], s[0], s[1], s[2], v)
        if d < best:
            best = d
            on_t[:] = t[i]
            on_s[:] = v
        d = _over(s[i], t[0], t[1], t[2], u)
        if d < best:
            best = d
            on_t[:] = u
            on_s[:] = s[i]
    return best


@nb.njit(cache=True)
def _ranges(order: Array, shell: Array, leaves: int) -> Array:
    """Least and greatest shell below each node."""
    out = np.empty((2 * leaves, 2), dtype=np.int64)
    out[:, 0] = np.iinfo(np.int64).max
    out[:, 1] = -1
    for i in range(len(order)):
        node = leaves + i // LEAF_SIZE
        out[node, 0] = min(out[node, 0], shell[order[i]])
        out[node, 1] = max(out[node, 1], shell[order[i]])
    for node in range(leaves - 1, 0, -1):
        out[node, 0] = min(out[2 * node, 0], out[2 * node + 1, 0])
        out[node, 1] = max(out[2 * node, 1], out[2 * node + 1, 1])
    return out


@nb.njit(cache=True)
def _beyond_plane(t: Array, n: Array, s: Array, square: float) -> bool:
    """Whether a triangle lies on one side of another one's plane and farther off than allowed.

    Parameters
    ----------
    t, s : ndarray, shape (3, 3)
    n : ndarray, shape (3,)
        Normal of the plane of `t`, of any length.
    square : float
        Of the distance allowed.

    Returns
    -------
    bool
    """
    low, high = np.inf, -np.inf
    for c in range(3):
        height = 0.0
        for k in range(3):
            height += n[k] * (s[c, k] - t[0, k])
        low, high = min(low, height), max(high, height)
    size = n[0] * n[0] + n[1] * n[1] + n[2] * n[2]
    off = max(low, -high)
    # rounding must not part what is just within
    return off > 0.0 and off * off > (1.0 + 1e-9) * square * size


@nb.njit(cache=True, parallel=True)
def _all_near(  # type: ignore[no-untyped-def]
    p: Array, faces: Array, order: Array, boxes: Array, ranges: Array, shell: Array, reach: float,
    other: Array, spans: Array,
):  # fmt: skip
    leaves = len(boxes) // 2
    for f in nb.prange(len(faces)):
        low, high = np.empty(3), np.empty(3)
        t, s = np.empty((3, 3)), np.empty((3, 3))
        for k in range(3):
            for c in range(3):
                t[c, k] = p[faces[f, c], k]
            low[k] = min(t[0, k], t[1, k], t[2, k]) - reach
            high[k] = max(t[0, k], t[1, k], t[2, k]) + reach
        n = np.cross(t[1] - t[0], t[2] - t[0])
        own_shell = shell[f]
        u, v = np.empty(3), np.empty(3)
        best = reach * reach
        stack = np.empty(64, dtype=np.int64)
        stack[0] = 1
        top = 1
        while top > 0:
            top -= 1
            node = stack[top]
            if ranges[node, 0] == own_shell and ranges[node, 1] == own_shell:
                continue
            apart = False
            for k in range(3):
                if boxes[node, k] > high[k] or boxes[node, 3 + k] < low[k]:
                    apart = True
                    break
            if apart:
                continue
            if node < leaves:
                stack[top], stack[top + 1] = 2 * node, 2 * node + 1
                top += 2
                continue
            first = (node - leaves) * LEAF_SIZE
            for j in range(first, min(first + LEAF_SIZE, len(order))):
                g = order[j]
                if shell[g] == own_shell:
                    continue
                for k in range(3):
                    for c in range(3):
                        s[c, k] = p[faces[g, c], k]
                    apart |= min(s[0, k], s[1, k], s[2, k]) > high[k]
                    apart |= max(s[0, k], s[1, k], s[2, k]) < low[k]
                if apart:
                    apart = False
                    continue
                # large slanted triangles meet each other's boxes without being near
                if _beyond_plane(t, n, s, best) or _beyond_plane(
                    s, np.cross(s[1] - s[0], s[2] - s[0]), t, best
                ):
                    continue
                d = triangle_distance(t, s, u, v)
                if d <= best:
                    best = d
                    other[f] = g
                    for k in range(3):
                        spans[f, 0, k] = u[k]
                        spans[f, 1, k] = v[k]


def nearest_faces_of_others(tree: Tree, shell: Array, reach: float) -> tuple[Array, Array]:
    """For each triangle, the nearest one of another shell within reach.

    Parameters
    ----------
    tree : Tree
    shell : ndarray, shape (m,)
        Shell of each triangle.
    reach : float
        Greatest distance, mm.

    Returns
    -------
    other : ndarray, shape (m,), int64
        The other triangle, -1 where there is none within reach.
    spans : ndarray, shape (m, 2, 3)
        The nearest points, on the triangle itself and on the other.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> from caulkcore.mesh.concatenate import concatenate
    >>> two = concatenate([cuboid(), cuboid(at=(10.02, 0.0, 0.0))])
    >>> tree = Tree.of(two.vertices, two.faces)
    >>> other, _ = nearest_faces_of_others(tree, np.repeat([0, 1], 12), 0.05)
    >>> int((other >= 0).sum()) > 0
    True
    """
    shell = shell.astype(np.int64)
    other = np.full(len(tree.faces), -1, dtype=np.int64)
    spans = np.zeros((len(tree.faces), 2, 3))
    ranges = _ranges(tree.order, shell, len(tree.boxes) // 2)
    _all_near(
        tree.vertices, tree.faces, tree.order, tree.boxes, ranges, shell, float(reach), other, spans
    )
    return other, spans
