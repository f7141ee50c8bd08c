"""Numbers of many digits and exact points, against Python's own integers and fractions."""

from fractions import Fraction

import numpy as np
import pytest
from caulkcore.predicates import bignum as wide
from caulkcore.predicates.bignum import DIGITS
from hypothesis import assume, given, settings
from hypothesis import strategies as st

_BASE = 1 << 28
_ON_LATTICE = st.integers(-(2**51), 2**51)
_NEAR = st.integers(-9, 9)
_POINT = st.tuples(*(st.one_of(_ON_LATTICE, _NEAR) for _ in range(3)))
_WIDE = st.integers(-(2**370), 2**370)
_SETTINGS = settings(max_examples=150, deadline=None)


def digits(value: int, length: int = DIGITS) -> np.ndarray:
    """A number in digits of one sign."""
    out = np.zeros(length, dtype=np.int64)
    rest, way = abs(value), -1 if value < 0 else 1
    for i in range(length):
        out[i] = way * (rest % _BASE)
        rest //= _BASE
    assert rest == 0
    return out


def number(row: np.ndarray) -> int:
    return sum(int(d) * _BASE**i for i, d in enumerate(row))


def point(spot: np.ndarray) -> list[Fraction]:
    w = number(spot[3])
    assert w > 0
    return [Fraction(number(spot[k]), w) for k in range(3)]


def sign(x) -> int:
    return (x > 0) - (x < 0)


def cross(u, v):
    return [u[(k + 1) % 3] * v[(k + 2) % 3] - u[(k + 2) % 3] * v[(k + 1) % 3] for k in range(3)]


def dot(u, v):
    return sum(x * y for x, y in zip(u, v, strict=True))


def minus(p, q):
    return [x - y for x, y in zip(p, q, strict=True)]


def normal(p) -> list[int]:
    return cross(minus(p[1], p[0]), minus(p[2], p[0]))


def plane_of(lattice: np.ndarray, a: int = 0) -> np.ndarray:
    out = np.zeros((4, DIGITS), dtype=np.int64)
    wide.plane(lattice, a, a + 1, a + 2, out)
    return out


@_SETTINGS
@given(_WIDE, _WIDE)
def test_products_are_carried_into_digits_of_one_sign(a: int, b: int) -> None:
    out = np.zeros(2 * DIGITS, dtype=np.int64)
    wide.add_product(digits(a), digits(b), 1, out)
    wide.add_product(digits(b), digits(b), -1, out)
    wide.settle(out)
    true = a * b - b * b
    assert number(out) == true
    assert wide.sign(out) == sign(true)
    assert (sign(true) * out >= 0).all()
    assert (abs(out) < _BASE).all()
    assert wide.as_float(out) == pytest.approx(float(true), rel=1e-14)


@_SETTINGS
@given(st.integers(-(2**55) + 1, 2**55 - 1))
def test_machine_integers_are_written_in_digits(value: int) -> None:
    out = np.full(DIGITS, 7, dtype=np.int64)
    wide.put(value, out)
    assert number(out) == value


@_SETTINGS
@given(st.lists(_POINT, min_size=3, max_size=3))
def test_a_plane_holds_its_three_points(corners) -> None:
    out = plane_of(np.array(corners))
    n = [number(out[k]) for k in range(3)]
    assert n == normal(corners)
    for p in corners:
        assert dot(n, p) == number(out[3])


@_SETTINGS
@given(st.lists(_POINT, min_size=2, max_size=2), st.integers(0, 2))
def test_a_plane_along_an_axis_holds_the_edge_and_the_axis(ends, axis: int) -> None:
    out = np.zeros((4, DIGITS), dtype=np.int64)
    wide.plane_along(np.array(ends), 0, 1, axis, out)
    n = [number(out[k]) for k in range(3)]
    assert n[axis] == 0
    for p in ends:
        assert dot(n, p) == number(out[3])


@_SETTINGS
@given(st.lists(_POINT, min_size=5, max_size=5))
def test_a_line_meets_a_plane_where_fractions_say(points) -> None:
    n = normal(points[:3])
    p, q = points[3:]
    along = dot(n, minus(q, p))
    assume(along != 0)
    lattice = np.array(points)
    out = np.zeros((4, DIGITS), dtype=np.int64)
    wide.line_plane(lattice, 3, 4, plane_of(lattice), out)
    share = Fraction(dot(n, minus(points[0], p)), along)
    assert point(out) == [x + share * d for x, d in zip(p, minus(q, p), strict=True)]


@_SETTINGS
@given(st.lists(_POINT, min_size=9, max_size=9))
def test_three_planes_meet_in_a_point_of_each(points) -> None:
    lattice = np.array(points)
    planes = [plane_of(lattice, a) for a in (0, 3, 6)]
    normals = [normal(points[a : a + 3]) for a in (0, 3, 6)]
    out = np.zeros((4, DIGITS), dtype=np.int64)
    met = wide.three_planes(*planes, out)
    assert met == (dot(normals[0], cross(normals[1], normals[2])) != 0)
    if met:
        spot = point(out)
        for a, n in zip((0, 3, 6), normals, strict=True):
            assert dot(n, minus(spot, points[a])) == 0
        assert np.allclose(wide.nearest_floats(out[None])[0], [float(x) for x in spot], rtol=1e-13)


@_SETTINGS
@given(st.lists(_POINT, min_size=9, max_size=9), st.integers(0, 2))
def test_turns_and_order_of_points_between_planes(points, axis: int) -> None:
    lattice = np.array(points)
    spots = np.zeros((4, 4, DIGITS), dtype=np.int64)
    for k in range(3):
        wide.vertex_point(lattice, k, spots[k])
    met = wide.three_planes(*(plane_of(lattice, a) for a in (0, 3, 6)), spots[3])
    assume(met)
    i, j = (axis + 1) % 3, (axis + 2) % 3
    true = [point(s) for s in spots]
    for a, b, c in ((0, 1, 2), (0, 1, 3), (3, 1, 2), (0, 3, 2)):
        flat = [np.ascontiguousarray(spots[v][[i, j, 3]]) for v in (a, b, c)]
        u, v = minus(true[b], true[a]), minus(true[c], true[a])
        assert wide.orientation(*flat) == sign(u[i] * v[j] - u[j] * v[i])
    for a in range(4):
        for b in range(4):
            assert wide.in_order(spots[a], spots[b]) == (true[a] > true[b]) - (true[a] < true[b])


@_SETTINGS
@given(st.lists(_POINT, min_size=3, max_size=3), st.integers(1, 10**9))
def test_keys_agree_for_equal_points_however_written(corners, times: int) -> None:
    spots = np.zeros((4, 4, DIGITS), dtype=np.int64)
    lattice = np.array(corners)
    for k in range(3):
        wide.vertex_point(lattice, k, spots[k])
    for k in range(4):
        spots[3, k] = digits(number(spots[0, k]) * times)
    keys = wide.keys(spots)
    assert (keys[0] == keys[3]).all()
    for a in range(3):
        for b in range(3):
            assert (keys[a] == keys[b]).all() == (corners[a] == corners[b])
