"""Signs and meetings of triangles, against arithmetic with fractions."""

from fractions import Fraction
from itertools import combinations

import numpy as np
import pytest
from caulkcore.predicates.orientation import orient2d, orient3d
from caulkcore.predicates.triangle_triangle import triangles_meet
from hypothesis import given, settings
from hypothesis import strategies as st


def meet(points: np.ndarray, t: np.ndarray, s: np.ndarray) -> bool:
    # as the product passes them: other types would have to be compiled
    return triangles_meet(points, *(np.ascontiguousarray(f, np.int32) for f in (t, s)))


def fractions(points: np.ndarray) -> list[list[Fraction]]:
    return [[Fraction(float(x)) for x in row] for row in points]


def sign(x: Fraction) -> int:
    return (x > 0) - (x < 0)


def exact_3d(points: np.ndarray) -> int:
    a, b, c, d = fractions(points)
    u, v, w = ([x - y for x, y in zip(p, d, strict=True)] for p in (a, b, c))
    return sign(
        u[0] * (v[1] * w[2] - v[2] * w[1])
        - u[1] * (v[0] * w[2] - v[2] * w[0])
        + u[2] * (v[0] * w[1] - v[1] * w[0])
    )


def exact_2d(points: np.ndarray, i: int, j: int) -> int:
    a, b, c = fractions(points)
    return sign((a[i] - c[i]) * (b[j] - c[j]) - (a[j] - c[j]) * (b[i] - c[i]))


def near_a_plane(rng: np.random.Generator, kind: str) -> np.ndarray:
    """Four points in a plane or a hair beside it."""
    if kind == "float32 slant":
        frame = rng.normal(size=(2, 3))
        points = rng.normal(size=(4, 2)) @ frame * 50
        return points.astype(np.float32).astype(float)
    if kind == "grid":
        points = rng.integers(-40, 40, size=(4, 3)).astype(float)
        points[:, 2] = points[:, 0] * 3 - points[:, 1] * 2
        return points
    if kind == "far grid":
        return near_a_plane(rng, "grid") + 2.0**30
    if kind == "tails":
        points = near_a_plane(rng, "grid") * 0.1
        points[3] = points[:3].mean(axis=0)
        return points
    if kind == "mixed sizes":
        return rng.normal(size=(4, 3)) * 10.0 ** rng.integers(-12, 12, size=(4, 1))
    points = near_a_plane(rng, "grid")
    points[3, 2] = np.nextafter(points[3, 2], np.inf)
    return points


KINDS = ("float32 slant", "grid", "far grid", "tails", "mixed sizes", "one step off")


@pytest.mark.parametrize("kind", KINDS)
def test_the_side_of_a_plane_is_exact(kind: str) -> None:
    rng = np.random.default_rng(KINDS.index(kind))
    seen = set()
    for _ in range(300):
        points = np.ascontiguousarray(near_a_plane(rng, kind))
        found = orient3d(points, 0, 1, 2, 3)
        assert found == exact_3d(points)
        assert orient3d(points, 1, 0, 2, 3) == -found
        assert orient3d(points, 1, 2, 0, 3) == found
        seen.add(found)
    assert len(seen) > 1 or kind in ("grid", "far grid")


@pytest.mark.parametrize("kind", ["line", "line far off", "one step off", "slant"])
def test_the_turn_of_three_points_is_exact(kind: str) -> None:
    rng = np.random.default_rng(len(kind))
    for _ in range(300):
        a, step = rng.integers(-50, 50, size=(2, 3)).astype(float)
        points = np.array([a, a + step, a + step * rng.integers(-4, 9)])
        if kind == "line far off":
            points += 1e9
        if kind == "one step off":
            points[2, 1] = np.nextafter(points[2, 1], -np.inf)
        if kind == "slant":
            points = points * 0.3 + 0.1
        for i, j in ((0, 1), (1, 2), (2, 0)):
            assert orient2d(points, 0, 1, 2, i, j) == exact_2d(points, i, j)


def holds(t: list[list[Fraction]], q: list[Fraction]) -> bool:
    turn = [
        sign((b[0] - a[0]) * (q[1] - a[1]) - (b[1] - a[1]) * (q[0] - a[0]))
        for a, b in zip(t, t[1:] + t[:1], strict=True)
    ]
    return all(s >= 0 for s in turn) or all(s <= 0 for s in turn)


def common_points(t: list[list[Fraction]], s: list[list[Fraction]]) -> set[tuple[Fraction, ...]]:
    """Corners of the common part of two triangles of a plane: a slow, obvious way."""
    found = {tuple(p) for p in t if holds(s, p)} | {tuple(p) for p in s if holds(t, p)}
    for a, b in zip(t, t[1:] + t[:1], strict=True):
        for c, d in zip(s, s[1:] + s[:1], strict=True):
            det = (b[0] - a[0]) * (d[1] - c[1]) - (b[1] - a[1]) * (d[0] - c[0])
            if det == 0:
                continue
            u = ((c[0] - a[0]) * (d[1] - c[1]) - (c[1] - a[1]) * (d[0] - c[0])) / det
            v = ((c[0] - a[0]) * (b[1] - a[1]) - (c[1] - a[1]) * (b[0] - a[0])) / det
            if 0 <= u <= 1 and 0 <= v <= 1:
                found.add((a[0] + u * (b[0] - a[0]), a[1] + u * (b[1] - a[1])))
    return found


@pytest.mark.parametrize("shared", [0, 1, 2])
@pytest.mark.parametrize("plane", ["level", "upright", "slanted"])
def test_triangles_of_one_plane_meet_as_their_common_part_says(shared: int, plane: str) -> None:
    """Elsewhere than in shared vertices and edges, that is."""
    rng = np.random.default_rng(shared)
    seen = {True: 0, False: 0}
    while min(seen.values()) < 60:
        flat = rng.integers(0, 6, size=(6 - shared, 2)).astype(float)
        t = np.array([0, 1, 2])
        s = np.array([*range(shared), *range(3, 6 - shared)])
        if len(np.unique(flat, axis=0)) < len(flat):
            continue
        corners = fractions(flat)
        area = [exact_2d(np.c_[flat[f], np.zeros(3)], 0, 1) for f in (t, s)]
        if 0 in area:
            continue
        z = {"level": flat[:, 0] * 0, "upright": flat[:, 1], "slanted": flat @ np.array([2.0, -1])}
        points = np.c_[flat, z[plane]]
        if plane == "upright":
            points[:, 1] = 3.0
        common = common_points([corners[i] for i in t], [corners[i] for i in s])
        allowed = {tuple(corners[i]) for i in range(shared)}
        expected = bool(common - allowed)
        assert meet(points, t, s) == expected
        assert meet(points, s, np.roll(t, 1)) == expected
        seen[expected] += 1


@settings(max_examples=200, deadline=None)
@given(st.lists(st.tuples(*[st.integers(-3, 3)] * 3), min_size=6, max_size=6, unique=True))
def test_meeting_does_not_depend_on_order(rows) -> None:
    points = np.array(rows, dtype=float)
    t, s = np.array([0, 1, 2]), np.array([3, 4, 5])
    for f in (t, s):
        u, v = points[f[1]] - points[f[0]], points[f[2]] - points[f[0]]
        if not np.cross(u, v).any():
            return
    answers = {
        meet(points, np.roll(a, i)[::w], np.roll(c, j))
        for a, c in ((t, s), (s, t))
        for i in range(3)
        for j in range(3)
        for w in (1, -1)
    }
    assert len(answers) == 1
    # those with a plane between them never meet
    apart = any(
        (points[t] @ n).max() < (points[s] @ n).min() for n in np.vstack([np.eye(3), -np.eye(3)])
    )
    assert not (apart and answers == {True})


def test_fans_round_one_vertex_meet_only_where_they_overlap() -> None:
    """Slices of a disc, each against each: neighbours share an edge, others only the middle."""
    turn = 2 * np.pi * np.arange(12) / 12
    points = np.vstack([[[0.0, 0, 0]], np.c_[np.cos(turn), np.sin(turn), turn * 0]])
    slices = [np.array([0, 1 + i, 1 + (i + 1) % 12]) for i in range(12)]
    for a, c in combinations(slices, 2):
        assert not meet(points, a, c)
    wide = np.array([0, 1, 4])
    assert [meet(points, wide, c) for c in slices[4:11]] == [False] * 7
    assert meet(points, wide, slices[1])
