"""Exact signs of determinants, with a floating-point filter (Shewchuk 1997).

The filter decides nearly always. Where it cannot, the determinant is expanded into a sum of
products whose rounding errors are kept, and the sign of that sum is exact as long as nothing
overflows or underflows: coordinates between 1e-60 and 1e60.
"""

import numpy as np

from ..jit import nb
from ..mesh.arrays import Array

_SPLIT = 134217729.0
"""2**27 + 1, which splits a float64 into two halves of its bits (Dekker 1971)."""
FILTER_3D = 7.7715611723761027e-16
"""Relative error bound of `orient3d` in floating point (Shewchuk 1997)."""
FILTER_2D = 3.3306690738754716e-16
"""The same of `orient2d`."""
_FILTER_DOUBLED = 2.0**-98
"""Relative error of the determinant in doubled precision."""


@nb.njit(cache=True)
def _two_sum(a: float, b: float) -> tuple[float, float]:
    x = a + b
    bb = x - a
    return x, (a - (x - bb)) + (b - bb)


@nb.njit(cache=True)
def _two_product(a: float, b: float) -> tuple[float, float]:
    x = a * b
    c = _SPLIT * a
    ah = c - (c - a)
    al = a - ah
    c = _SPLIT * b
    bh = c - (c - b)
    bl = b - bh
    return x, al * bl - (((x - ah * bh) - al * bh) - ah * bl)


@nb.njit(cache=True)
def _minor(a: float, b: float, c: float, d: float) -> tuple[float, float]:
    """a b - c d in doubled precision."""
    p, pe = _two_product(a, b)
    q, qe = _two_product(c, d)
    x, e = _two_sum(p, -q)
    return _two_sum(x, e + (pe - qe))


@nb.njit(cache=True)
def _times(hi: float, lo: float, a: float) -> tuple[float, float]:
    """A number in doubled precision times a number."""
    x, e = _two_product(hi, a)
    return _two_sum(x, e + lo * a)


@nb.njit(cache=True)
def _plus(hi: float, lo: float, hi2: float, lo2: float) -> tuple[float, float]:
    x, e = _two_sum(hi, hi2)
    return _two_sum(x, e + (lo + lo2))


@nb.njit(cache=True)
def _grow(sums: Array, n: int, value: float) -> int:
    """Add a number to an expansion of `n` parts, dropping zeros."""
    q = value
    m = 0
    for i in range(n):
        q, low = _two_sum(q, sums[i])
        if low != 0.0:
            sums[m] = low
            m += 1
    if q != 0.0:
        sums[m] = q
        m += 1
    return m


@nb.njit(cache=True)
def _add_triple(sums: Array, n: int, a: float, b: float, c: float) -> int:
    """Add the exact product of three numbers to an expansion."""
    if a == 0.0 or b == 0.0 or c == 0.0:
        return n
    p, e = _two_product(a, b)
    x, y = _two_product(p, c)
    n = _grow(sums, _grow(sums, n, y), x)
    if e != 0.0:
        x, y = _two_product(e, c)
        n = _grow(sums, _grow(sums, n, y), x)
    return n


@nb.njit(cache=True)
def _exact_3d(u: Array, v: Array, w: Array, ul: Array, vl: Array, wl: Array) -> int:
    """Sign of the determinant of three differences, each a number and its rounding error."""
    sums = np.empty(256)
    n = 0
    tails = False
    for k in range(3):
        if ul[k] != 0.0 or vl[k] != 0.0 or wl[k] != 0.0:
            tails = True
    for k in range(3):
        i, j = (k + 1) % 3, (k + 2) % 3
        n = _add_triple(sums, n, u[k], v[i], w[j])
        n = _add_triple(sums, n, -u[k], v[j], w[i])
        if tails:
            for bits in range(1, 8):
                a = ul[k] if bits & 1 else u[k]
                n = _add_triple(
                    sums, n, a, vl[i] if bits & 2 else v[i], wl[j] if bits & 4 else w[j]
                )
                n = _add_triple(
                    sums, n, -a, vl[j] if bits & 2 else v[j], wl[i] if bits & 4 else w[i]
                )
    if n == 0:
        return 0
    return 1 if sums[n - 1] > 0.0 else -1


@nb.njit(cache=True)
def _is_exact(a: float, b: float, difference: float) -> bool:
    """Whether a difference was computed without rounding."""
    bb = a - difference
    return (a - (difference + bb)) + (bb - b) == 0.0


@nb.njit(cache=True)
def orient3d(p: Array, a: int, b: int, c: int, d: int) -> int:
    """On which side of the plane through points a, b, c the point d lies.

    Parameters
    ----------
    p : ndarray, shape (n, 3), float64
    a, b, c, d : int
        Rows of `p`.

    Returns
    -------
    int
        1 below (the triangle runs clockwise seen from d), -1 above, 0 in the plane.
    """
    adx, ady, adz = p[a, 0] - p[d, 0], p[a, 1] - p[d, 1], p[a, 2] - p[d, 2]
    bdx, bdy, bdz = p[b, 0] - p[d, 0], p[b, 1] - p[d, 1], p[b, 2] - p[d, 2]
    cdx, cdy, cdz = p[c, 0] - p[d, 0], p[c, 1] - p[d, 1], p[c, 2] - p[d, 2]
    bc, cb = bdx * cdy, cdx * bdy
    ca, ac = cdx * ady, adx * cdy
    ab, ba = adx * bdy, bdx * ady
    det = adz * (bc - cb) + bdz * (ca - ac) + cdz * (ab - ba)
    size = (
        (abs(bc) + abs(cb)) * abs(adz)
        + (abs(ca) + abs(ac)) * abs(bdz)
        + (abs(ab) + abs(ba)) * abs(cdz)
    )
    bound = FILTER_3D * size
    if det > bound:
        return 1
    if -det > bound:
        return -1
    if size == 0.0:
        return 0
    if (
        _is_exact(p[a, 0], p[d, 0], adx) and _is_exact(p[a, 1], p[d, 1], ady)
        and _is_exact(p[a, 2], p[d, 2], adz) and _is_exact(p[b, 0], p[d, 0], bdx)
        and _is_exact(p[b, 1], p[d, 1], bdy) and _is_exact(p[b, 2], p[d, 2], bdz)
        and _is_exact(p[c, 0], p[d, 0], cdx) and _is_exact(p[c, 1], p[d, 1], cdy)
        and _is_exact(p[c, 2], p[d, 2], cdz)
    ):  # fmt: skip
        x, xl = _minor(bdx, cdy, cdx, bdy)
        x, xl = _times(x, xl, adz)
        y, yl = _minor(cdx, ady, adx, cdy)
        y, yl = _times(y, yl, bdz)
        z, zl = _minor(adx, bdy, bdx, ady)
        z, zl = _times(z, zl, cdz)
        x, xl = _plus(x, xl, y, yl)
        x, xl = _plus(x, xl, z, zl)
        if abs(x) > _FILTER_DOUBLED * size:
            return 1 if x > 0.0 else -1
    u, v, w = np.empty(3), np.empty(3), np.empty(3)
    ul, vl, wl = np.empty(3), np.empty(3), np.empty(3)
    for k in range(3):
        u[k], ul[k] = _two_sum(p[a, k], -p[d, k])
        v[k], vl[k] = _two_sum(p[b, k], -p[d, k])
        w[k], wl[k] = _two_sum(p[c, k], -p[d, k])
    return _exact_3d(u, v, w, ul, vl, wl)


@nb.njit(cache=True)
def orient2d(p: Array, a: int, b: int, c: int, i: int, j: int) -> int:
    """Sense of rotation of points a, b, c seen along an axis.

    Parameters
    ----------
    p : ndarray, shape (n, 3), float64
    a, b, c : int
        Rows of `p`.
    i, j : int
        The two coordinates to look at.

    Returns
    -------
    int
        1 counter-clockwise, -1 clockwise, 0 on a line.

    Examples
    --------
    >>> points = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0.0]])
    >>> int(orient2d(points, 0, 1, 2, 0, 1))
    1
    """
    ux, uy = p[a, i] - p[c, i], p[b, j] - p[c, j]
    vx, vy = p[a, j] - p[c, j], p[b, i] - p[c, i]
    left, right = ux * uy, vx * vy
    det = left - right
    bound = FILTER_2D * (abs(left) + abs(right))
    if det > bound:
        return 1
    if -det > bound:
        return -1
    if left == 0.0 and right == 0.0 and (ux == 0.0 or uy == 0.0) and (vx == 0.0 or vy == 0.0):
        return 0
    if (
        _is_exact(p[a, i], p[c, i], ux) and _is_exact(p[b, j], p[c, j], uy)
        and _is_exact(p[a, j], p[c, j], vx) and _is_exact(p[b, i], p[c, i], vy)
    ):  # fmt: skip
        # what the filter leaves has left and right so close that their difference is exact
        _, e = _two_product(ux, uy)
        _, f = _two_product(vx, vy)
        rest = e - f
        if abs(det) != abs(rest):
            larger = det if abs(det) > abs(rest) else rest
            return 1 if larger > 0.0 else -1
        if det == 0.0:
            return 0
    sums = np.empty(64)
    n = 0
    ax, axl = _two_sum(p[a, i], -p[c, i])
    by, byl = _two_sum(p[b, j], -p[c, j])
    ay, ayl = _two_sum(p[a, j], -p[c, j])
    bx, bxl = _two_sum(p[b, i], -p[c, i])
    for s, t in ((ax, by), (ax, byl), (axl, by), (axl, byl)):
        n = _add_triple(sums, n, s, t, 1.0)
    for s, t in ((ay, bx), (ay, bxl), (ayl, bx), (ayl, bxl)):
        n = _add_triple(sums, n, -s, t, 1.0)
    if n == 0:
        return 0
    return 1 if sums[n - 1] > 0.0 else -1


@nb.njit(cache=True, parallel=True)
def faces_have_area(p: Array, faces: Array) -> Array:
    """Whether each face has any area at all, decided exactly, shape (m,).

    Parameters
    ----------
    p : ndarray, shape (n, 3), float64
        Vertices.
    faces : ndarray, shape (m, 3), int32

    Returns
    -------
    ndarray, shape (m,), bool
    """
    out = np.empty(len(faces), dtype=np.bool_)
    for f in nb.prange(len(faces)):
        a, b, c = faces[f]
        out[f] = (
            orient2d(p, a, b, c, 0, 1) != 0
            or orient2d(p, a, b, c, 1, 2) != 0
            or orient2d(p, a, b, c, 2, 0) != 0
        )
    return out
