"""Whole numbers too wide for a machine word, and exact points made of them.

A number is a row of digits to the base 2**28, lowest first, all of one sign. Rows are long enough
for what this package computes: coordinates on a lattice of 52 bits, the points where three planes
of such triangles meet (375 bits), and the turn of three such points (1,070 bits).

A point is four numbers x, y, z, w with w > 0, standing for (x/w, y/w, z/w) in steps of the lattice.
"""

import numpy as np

from ..jit import nb
from ..mesh.arrays import Array

_BITS = 28
"""Bits of a digit: products of two, summed up, stay below 2**63."""
_MASK = (1 << 28) - 1
"""The bits of one digit."""
DIGITS = 14
"""Digits of a point's coordinate."""
_PRODUCT_DIGITS = 42
"""Digits of the orientation of three points."""
_PRIMES = (2147483647, 2147483629)
"""Numbers are told apart by their remainders modulo these, the two largest primes below 2**31."""


@nb.njit(cache=True)
def _carry(a: Array) -> None:
    over = 0
    for i in range(len(a) - 1):
        total = a[i] + over
        a[i] = total & _MASK
        over = total >> _BITS
    a[-1] += over


@nb.njit(cache=True)
def settle(a: Array) -> None:
    """Carry, so that all digits are of one sign and below the base.

    Parameters
    ----------
    a : ndarray, shape (d,), int64
        Digits, the lowest first; brought into range in place.

    Examples
    --------
    >>> digits = np.array([2**28 + 5, 0, 0])
    >>> settle(digits)
    >>> digits.tolist()
    [5, 1, 0]
    """
    _carry(a)
    if a[-1] < 0:
        a *= -1
        _carry(a)
        a *= -1


@nb.njit(cache=True)
def put(value: int, out: Array) -> None:
    """Write a machine integer of at most 55 bits.

    Parameters
    ----------
    value : int
    out : ndarray, shape (d,), int64
        Receives the digits.
    """
    out[:] = 0
    size = abs(value)
    sign = -1 if value < 0 else 1
    out[0] = sign * (size & _MASK)
    out[1] = sign * (size >> _BITS)


@nb.njit(cache=True)
def used(a: Array) -> int:
    """Digits up to the highest that is not 0.

    Parameters
    ----------
    a : ndarray, shape (d,), int64
        Digits, settled.

    Returns
    -------
    int
        How many digits are not zero, from the lowest.
    """
    n = len(a)
    while n > 0 and a[n - 1] == 0:
        n -= 1
    return n


@nb.njit(cache=True)
def sign(a: Array) -> int:
    """Sign of a settled number.

    Parameters
    ----------
    a : ndarray, shape (d,), int64
        Digits, settled.

    Returns
    -------
    int
        -1, 0 or 1.
    """
    n = used(a)
    if n == 0:
        return 0
    return 1 if a[n - 1] > 0 else -1


@nb.njit(cache=True)
def add_product(a: Array, b: Array, factor: int, out: Array) -> None:
    """Add a product, or take it away, without carrying; up to six of them fit.

    Parameters
    ----------
    a, b : ndarray, shape (d,), int64
        Digits, settled.
    factor : int
        1 or -1.
    out : ndarray, shape (2 d,), int64
        The product is added to it; not settled.
    """
    na, nb_ = used(a), used(b)
    for i in range(na):
        d = factor * a[i]
        if d != 0:
            for j in range(nb_):
                out[i + j] += d * b[j]


@nb.njit(cache=True)
def as_float(a: Array) -> float:
    """The settled number in floating point, right to a few units in the last place.

    Parameters
    ----------
    a : ndarray, shape (d,), int64
        Digits, settled.

    Returns
    -------
    float
        The nearest, or nearly.
    """
    total = 0.0
    for i in range(used(a) - 1, -1, -1):
        total = total * 268435456.0 + a[i]
    return total


@nb.njit(cache=True)
def _minor(a: Array, b: Array, c: Array, d: Array) -> Array:
    """a b - c d, settled."""
    out = np.zeros(2 * DIGITS, dtype=np.int64)
    add_product(a, b, 1, out)
    add_product(c, d, -1, out)
    settle(out)
    return out


@nb.njit(cache=True)
def orientation(p: Array, q: Array, r: Array) -> int:
    """Sense of rotation of three points of a plane, each x, y, w in digits, w > 0.

    Parameters
    ----------
    p, q, r : ndarray, shape (3, DIGITS), int64
        Points in homogeneous coordinates: two numerators and the denominator.

    Returns
    -------
    int
        1 counter-clockwise, -1 clockwise, 0 on a line.
    """
    out = np.zeros(_PRODUCT_DIGITS, dtype=np.int64)
    add_product(_minor(q[1], r[2], r[1], q[2]), p[0], 1, out)
    settle(out)
    add_product(_minor(q[0], r[2], r[0], q[2]), p[1], -1, out)
    settle(out)
    add_product(_minor(q[0], r[1], r[0], q[1]), p[2], 1, out)
    settle(out)
    return sign(out)


@nb.njit(cache=True)
def compare(a: Array, wa: Array, b: Array, wb: Array) -> int:
    """Sign of a/wa - b/wb.

    Parameters
    ----------
    a, wa : ndarray, shape (DIGITS,), int64
        Numerator and denominator of a number.
    b, wb : ndarray, shape (DIGITS,), int64
        The same of the other.

    Returns
    -------
    int
        -1, 0 or 1.
    """
    return sign(_minor(a, wb, b, wa))


@nb.njit(cache=True)
def in_order(p: Array, q: Array) -> int:
    """-1, 0, 1 as point p comes before, on or after q, by x, then y, then z: along any line.

    Parameters
    ----------
    p, q : ndarray, shape (c + 1, DIGITS), int64
        Points of c coordinates: numerators, then the denominator.

    Returns
    -------
    int
    """
    for k in range(len(p) - 1):
        s = compare(p[k], p[-1], q[k], q[-1])
        if s != 0:
            return s
    return 0


@nb.njit(cache=True)
def plane(p: Array, a: int, b: int, c: int, out: Array) -> None:
    """Normal and offset of the plane of three lattice points, in digits, shape (4, DIGITS).

    Points x of the plane have ``normal . x = offset``.

    Parameters
    ----------
    p : ndarray, shape (n, 3), int64
        Vertices on the lattice.
    a, b, c : int
        Three of them.
    out : ndarray, shape (4, DIGITS), int64
        Receives the plane's normal and offset.
    """
    u, v = np.zeros((3, DIGITS), np.int64), np.zeros((3, DIGITS), np.int64)
    for k in range(3):
        put(p[b, k] - p[a, k], u[k])
        put(p[c, k] - p[a, k], v[k])
    out[:] = 0
    for k in range(3):
        i, j = (k + 1) % 3, (k + 2) % 3
        add_product(u[i], v[j], 1, out[k])
        add_product(u[j], v[i], -1, out[k])
        settle(out[k])
    _set_offset(p, a, out)


@nb.njit(cache=True)
def plane_along(p: Array, a: int, b: int, axis: int, out: Array) -> None:
    """The plane through two lattice points along an axis.

    Parameters
    ----------
    p : ndarray, shape (n, 3), int64
        Vertices on the lattice.
    a, b : int
        Two of them.
    axis : int
        The plane holds this axis.
    out : ndarray, shape (4, DIGITS), int64
        Receives the plane.
    """
    out[:] = 0
    i, j = (axis + 1) % 3, (axis + 2) % 3
    put(p[b, j] - p[a, j], out[i])
    put(p[a, i] - p[b, i], out[j])
    _set_offset(p, a, out)


@nb.njit(cache=True)
def _set_offset(p: Array, a: int, out: Array) -> None:
    x = np.zeros(DIGITS, np.int64)
    for k in range(3):
        put(p[a, k], x)
        add_product(out[k], x, 1, out[3])
    settle(out[3])


@nb.njit(cache=True)
def vertex_point(p: Array, a: int, out: Array) -> None:
    """A lattice point as an exact point.

    Parameters
    ----------
    p : ndarray, shape (n, 3), int64
        Vertices on the lattice.
    a : int
        One of them.
    out : ndarray, shape (4, DIGITS), int64
        Receives its homogeneous coordinates.
    """
    for k in range(3):
        put(p[a, k], out[k])
    put(1, out[3])


@nb.njit(cache=True)
def line_plane(p: Array, a: int, b: int, through: Array, out: Array) -> None:
    """Where the line of lattice points a and b meets a plane that is not along it.

    Parameters
    ----------
    p : ndarray, shape (n, 3), int64
        Vertices on the lattice.
    a, b : int
        Ends of a line.
    through : ndarray, shape (4, DIGITS), int64
        A plane.
    out : ndarray, shape (4, DIGITS), int64
        Receives the point where they meet.
    """
    d, x = np.zeros((3, DIGITS), np.int64), np.zeros(DIGITS, np.int64)
    above, along = through[3].copy(), np.zeros(DIGITS, np.int64)
    for k in range(3):
        put(p[b, k] - p[a, k], d[k])
        put(p[a, k], x)
        add_product(through[k], x, -1, above)
        add_product(through[k], d[k], 1, along)
    settle(above)
    settle(along)
    factor = sign(along)
    out[:] = 0
    out[3] = factor * along
    for k in range(3):
        put(p[a, k], x)
        add_product(along, x, factor, out[k])
        add_product(above, d[k], factor, out[k])
        settle(out[k])


@nb.njit(cache=True)
def three_planes(a: Array, b: Array, c: Array, out: Array) -> bool:
    """The point that three planes have in common; False if there is not just one.

    Parameters
    ----------
    a, b, c : ndarray, shape (4, DIGITS), int64
        Planes.
    out : ndarray, shape (4, DIGITS), int64
        Receives the point where they meet.

    Returns
    -------
    bool
        Whether there is just one.
    """
    out[:] = 0
    ways = np.zeros((3, 3, 2 * DIGITS), dtype=np.int64)
    for k in range(3):
        i, j = (k + 1) % 3, (k + 2) % 3
        ways[0, k] = _minor(b[i], c[j], b[j], c[i])
        ways[1, k] = _minor(c[i], a[j], c[j], a[i])
        ways[2, k] = _minor(a[i], b[j], a[j], b[i])
    for k in range(3):
        add_product(ways[0, k], a[k], 1, out[3])
    settle(out[3])
    factor = sign(out[3])
    if factor == 0:
        return False
    for k in range(3):
        add_product(ways[0, k], a[3], factor, out[k])
        add_product(ways[1, k], b[3], factor, out[k])
        add_product(ways[2, k], c[3], factor, out[k])
        settle(out[k])
    if factor < 0:
        out[3] = -out[3]
    return True


@nb.njit(cache=True)
def _power(base: int, exponent: int, prime: int) -> int:
    result = 1
    while exponent > 0:
        if exponent & 1:
            result = result * base % prime
        base = base * base % prime
        exponent >>= 1
    return result


@nb.njit(cache=True)
def _remainder(a: Array, prime: int) -> int:
    total = 0
    for i in range(used(a) - 1, -1, -1):
        total = (total * 268435456 + a[i]) % prime
    return total


@nb.njit(cache=True, parallel=True)
def keys(points: Array) -> Array:
    """Numbers that agree for points that are equal, however they came about, shape (n, 3).

    Each coordinate is taken modulo two primes. Points that differ have the same numbers with a
    chance of 2**-186.

    Parameters
    ----------
    points : ndarray, shape (k, 4, DIGITS), int64
        Homogeneous coordinates.

    Returns
    -------
    ndarray, shape (k, 3), int64
        Equal for equal points, and nearly never for others.
    """
    out = np.zeros((len(points), 3), dtype=np.int64)
    for i in nb.prange(len(points)):
        for prime in _PRIMES:
            inverse = _power(_remainder(points[i, 3], prime), prime - 2, prime)
            for k in range(3):
                digit = _remainder(points[i, k], prime) * inverse % prime
                out[i, k] = (out[i, k] << 31) | digit
    return out


@nb.njit(cache=True)
def nearest_floats(points: Array) -> Array:
    """Points in floating point, in steps of the lattice, shape (n, 3).

    Parameters
    ----------
    points : ndarray, shape (k, 4, DIGITS), int64
        Homogeneous coordinates.

    Returns
    -------
    ndarray, shape (k, 3), float64
        On the lattice's scale.
    """
    out = np.empty((len(points), 3))
    for i in range(len(points)):
        w = as_float(points[i, 3])
        for k in range(3):
            out[i, k] = as_float(points[i, k]) / w
    return out
