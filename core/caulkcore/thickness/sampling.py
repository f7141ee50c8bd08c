"""Points all over a surface: one in each face, and many in large faces."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..jit import nb
from ..mesh._face_kernels import Point, cross, cross_at
from ..mesh._face_kernels import row as point_of
from ..mesh.arrays import Array, frozen
from ..mesh.triangle_mesh import Mesh, face_areas

MOST_SAMPLES = 250_000
"""Samples that are taken at most besides one for each face; large faces are then divided less."""

_WIDER = 1.08
"""By how much samples are spaced wider at a time at least, until there are few enough."""
_CAREFUL = 0.9
"""Share of the way to fewer samples that is gone at once."""
_SLIM = 2.0
"""Parts may be so many times as long as wide; faces slimmer than that are divided along, too."""
_MOST_SLIM = 10_000
"""Rows of parts that a slim face has at most for each part of its shortest side."""
_USUAL_APEX = 1
"""Corner that the rows run to where a face is as often divided along as across."""


@dataclass(frozen=True, eq=False)
class Samples:
    """A mesh whose faces are divided into triangular parts, one sample in the middle of each.

    A face has rows of parts from one of its sides to the corner across, its *apex*. The side is
    divided into n, the other two into n times `slim` each, so that parts of a slim face are hardly
    longer than wide; line r of the k + 1 between rows is divided into ceil((k - r) / slim). The
    parts of a face stand together, row by row from the side on: the upright and the hanging ones
    by turns, from the corner that comes before the apex.

    Attributes
    ----------
    mesh : Mesh
    division : ndarray, shape (m, 3), int64
        n, `slim` and the apex (0 to 2) of each face.
    begin : ndarray, shape (m + 1,), int64
        First sample of each face.
    points, normals : ndarray, shape (s, 3)
    face : ndarray, shape (s,), int64
    spacing : float
        About the size of the parts of large faces, mm: what was asked for, or more where that
        would have been too many.
    """

    mesh: Mesh
    division: Array
    begin: Array
    points: Array
    normals: Array
    face: Array
    spacing: float

    @staticmethod
    def of(mesh: Mesh, spacing: float) -> "Samples":
        """Divide faces into parts of about the size of `spacing`, as far as `MOST_SAMPLES` goes.

        Sides of parts are up to twice as long.

        Parameters
        ----------
        mesh : Mesh
            Its faces without area get a sample too; their normal is zero.
        spacing : float
            mm.

        Returns
        -------
        Samples

        Examples
        --------
        >>> from caulkcore.mesh.simple_solids import cuboid
        >>> samples = Samples.of(cuboid(), 2.5)
        >>> round(samples.area.sum().item(), 6)
        600.0
        """
        vertices, faces = frozen(mesh.vertices, np.float64), frozen(mesh.faces, np.int32)
        division = _divisions(vertices, faces, float(spacing))
        while (more := int(part_counts(division).sum()) - len(faces)) > MOST_SAMPLES:
            # of large faces there are as many parts as the square says; small ones lose none
            spacing *= max(_WIDER, _CAREFUL * float(np.sqrt(more / MOST_SAMPLES)))
            division = _divisions(vertices, faces, float(spacing))
        begin = np.concatenate([[0], np.cumsum(part_counts(division))])
        points, normals, face = _sample(vertices, faces, division, begin)
        return Samples(mesh, division, begin, points, normals, face, float(spacing))

    @cached_property
    def area(self) -> Array:
        """Area that each sample stands for, mm², shape (s,)."""
        whole = face_areas(self.mesh.vertices, self.mesh.faces)
        return _areas(whole, self.division, self.begin, self.face)

    def corners(self, selected: Array) -> Array:
        """Corners of the triangles of some samples, shape (k, 3, 3).

        Parameters
        ----------
        selected : ndarray, shape (k,)
            Numbers of samples.

        Returns
        -------
        ndarray, shape (k, 3, 3)
        """
        return _corners(
            frozen(self.mesh.vertices, np.float64), frozen(self.mesh.faces, np.int32),
            self.division, self.begin, self.face, frozen(selected, np.int64),
        )  # fmt: skip

    def at(self, face: Array, points: Array) -> Array:
        """The sample of a face whose triangle is nearest to a point, shape (k,).

        Parameters
        ----------
        face : ndarray, shape (k,)
        points : ndarray, shape (k, 3)
            On those faces.

        Returns
        -------
        ndarray, shape (k,)
            Numbers of samples.
        """
        return _holding(
            frozen(self.mesh.vertices, np.float64), frozen(self.mesh.faces, np.int32),
            self.division, self.begin, frozen(face, np.int64), frozen(points, np.float64),
        )  # fmt: skip


def part_counts(division: Array) -> Array:
    """Parts of faces divided as `Samples` divides them, shape (m,); none where n is 0.

    Parameters
    ----------
    division : ndarray, shape (m, 3), int64

    Returns
    -------
    ndarray, shape (m,), int64
    """
    n, slim, _ = division.T
    return np.asarray(n * (slim * (n + 1) - 1))


@nb.njit(cache=True)
def _division(  # type: ignore[no-untyped-def]
    vertices: Array, faces: Array, f: int, spacing: float
):
    """How a face is divided into parts of about a size: n, slim and apex."""
    a, b, c = (
        point_of(vertices, faces[f, 0]),
        point_of(vertices, faces[f, 1]),
        point_of(vertices, faces[f, 2]),
    )
    ab, bc, ca = _distance(a, b), _distance(b, c), _distance(c, a)
    x, y, z = cross(a, b, c)
    double_area = np.sqrt(x * x + y * y + z * z)
    longest, shortest = max(ab, bc, ca), min(ab, bc, ca)
    size = max(np.sqrt(double_area), longest / _SLIM)
    # what has its shortest side at the far end of its height, rather than a flat corner between
    slim = longest >= _SLIM * shortest and double_area >= shortest * shortest
    n = max(int(np.ceil((shortest if slim else size) / spacing)), 1)
    rows = min(max(int(np.ceil(longest / spacing / n)), 1), _MOST_SLIM) if slim else 1
    # sides run from each corner to the next: the apex is across
    apex = _USUAL_APEX
    if rows > 1:
        apex = 2 if shortest == ab else 0 if shortest == bc else 1
    return n, rows, apex


@nb.njit(cache=True)
def _from_to(a: Point, b: Point) -> Point:
    return b[0] - a[0], b[1] - a[1], b[2] - a[2]


@nb.njit(cache=True)
def _dot(u: Point, v: Point) -> float:
    return u[0] * v[0] + u[1] * v[1] + u[2] * v[2]


@nb.njit(cache=True)
def _distance(a: Point, b: Point) -> float:
    u = _from_to(a, b)
    return np.sqrt(_dot(u, u))


@nb.njit(cache=True, parallel=True)
def _divisions(vertices: Array, faces: Array, spacing: float) -> Array:
    out = np.empty((len(faces), 3), dtype=np.int64)
    for f in nb.prange(len(faces)):
        out[f, 0], out[f, 1], out[f, 2] = _division(vertices, faces, f, spacing)
    return out


@nb.njit(cache=True)
def _parts_to_apex(rows: int, slim: int) -> int:
    """Parts of so many rows, counted from the apex."""
    whole, rest = rows // slim, rows % slim
    on_lines = slim * whole * (whole + 1) // 2 + rest * (whole + 1)
    return 2 * on_lines - (whole + (1 if rest > 0 else 0))


@nb.njit(cache=True)
def _begin_of_row(row: int, n: int, slim: int) -> int:
    return _parts_to_apex(n * slim, slim) - _parts_to_apex(n * slim - row, slim)


@nb.njit(cache=True)
def _on_line(line: int, n: int, slim: int) -> int:
    """Into how many a line between rows is divided."""
    return (n * slim - line + slim - 1) // slim


@nb.njit(cache=True)
def _place(rank: int, n: int, slim: int) -> tuple[int, int, int]:
    """Row, place in it and whether it hangs, of the part of this rank in its face."""
    from_apex = _parts_to_apex(n * slim, slim) - 1 - rank
    # rows come in blocks of `slim`; the first of a block has one part less than the others
    block = int((np.sqrt((slim - 1.0) ** 2 + 4.0 * slim * from_apex) - (slim - 1.0)) / (2.0 * slim))
    while _parts_to_apex(block * slim, slim) > from_apex:
        block -= 1
    while _parts_to_apex((block + 1) * slim, slim) <= from_apex:
        block += 1
    rest = from_apex - _parts_to_apex(block * slim, slim) - (2 * block + 1)
    row = n * slim - 1 - block * slim
    if rest >= 0:
        row -= 1 + rest // (2 * block + 2)
    rest = rank - _begin_of_row(row, n, slim)
    return row, rest // 2, rest % 2


@nb.njit(cache=True)
def _point_on(  # type: ignore[no-untyped-def]
    vertices: Array, faces: Array, division: Array, f: int, line: int, j: int
):
    """Point j of a line between the rows of a face."""
    n, slim, apex = division[f, 0], division[f, 1], division[f, 2]
    a, b, c = faces[f, (apex + 2) % 3], faces[f, apex], faces[f, (apex + 1) % 3]
    p = line / (n * slim)
    q = (1.0 - p) * j / max(_on_line(line, n, slim), 1)
    x, y, z = vertices[a, 0], vertices[a, 1], vertices[a, 2]
    return (
        x + p * (vertices[b, 0] - x) + q * (vertices[c, 0] - x),
        y + p * (vertices[b, 1] - y) + q * (vertices[c, 1] - y),
        z + p * (vertices[b, 2] - z) + q * (vertices[c, 2] - z),
    )


@nb.njit(cache=True)
def _part(  # type: ignore[no-untyped-def]
    vertices: Array, faces: Array, division: Array, f: int, row: int, j: int, hangs: int
):
    """The corners of a part, from the one nearest to the corner before the apex."""
    if hangs:
        return (
            _point_on(vertices, faces, division, f, row + 1, j),
            _point_on(vertices, faces, division, f, row + 1, j + 1),
            _point_on(vertices, faces, division, f, row, j + 1),
        )
    return (
        _point_on(vertices, faces, division, f, row, j),
        _point_on(vertices, faces, division, f, row + 1, j),
        _point_on(vertices, faces, division, f, row, j + 1),
    )


@nb.njit(cache=True, parallel=True)
def _sample(  # type: ignore[no-untyped-def]
    vertices: Array, faces: Array, division: Array, begin: Array
):
    s = begin[-1]
    points, normals = np.empty((s, 3)), np.empty((s, 3))
    face = np.empty(s, dtype=np.int64)
    for f in nb.prange(len(faces)):
        nx, ny, nz = cross_at(vertices, faces[f, 0], faces[f, 1], faces[f, 2])
        size = np.sqrt(nx * nx + ny * ny + nz * nz)
        size = 1.0 / size if size > 0.0 else 0.0
        n, slim = division[f, 0], division[f, 1]
        at = begin[f]
        for row in range(n * slim):
            for place in range(_on_line(row, n, slim) + _on_line(row + 1, n, slim)):
                a, b, c = _part(vertices, faces, division, f, row, place // 2, place % 2)
                points[at, 0] = (a[0] + b[0] + c[0]) / 3.0
                points[at, 1] = (a[1] + b[1] + c[1]) / 3.0
                points[at, 2] = (a[2] + b[2] + c[2]) / 3.0
                normals[at, 0], normals[at, 1], normals[at, 2] = nx * size, ny * size, nz * size
                face[at] = f
                at += 1
    return points, normals, face


@nb.njit(cache=True, parallel=True)
def _areas(whole: Array, division: Array, begin: Array, face: Array) -> Array:
    out = np.empty(len(face))
    for x in nb.prange(len(face)):
        f = face[x]
        n, slim = division[f, 0], division[f, 1]
        row, _, hangs = _place(x - begin[f], n, slim)
        k, line = n * slim, row + hangs
        out[x] = whole[f] * (1.0 - line / k) / (k * _on_line(line, n, slim))
    return out


@nb.njit(cache=True)
def _corners(  # type: ignore[no-untyped-def]
    vertices: Array, faces: Array, division: Array, begin: Array, face: Array, selected: Array
):
    out = np.empty((len(selected), 3, 3))
    for x in range(len(selected)):
        f = face[selected[x]]
        row, j, hangs = _place(selected[x] - begin[f], division[f, 0], division[f, 1])
        part = _part(vertices, faces, division, f, row, j, hangs)
        for corner in range(3):
            for d in range(3):
                out[x, corner, d] = part[corner][d]
    return out


@nb.njit(cache=True, parallel=True)
def _holding(
    vertices: Array, faces: Array, division: Array, begin: Array, face: Array, points: Array
) -> Array:
    """The parts of faces that hold points on them."""
    out = np.empty(len(face), dtype=np.int64)
    for x in nb.prange(len(face)):
        f = face[x]
        n, slim, apex = division[f, 0], division[f, 1], division[f, 2]
        # from the corner before the apex: to the apex, and along the side across from it
        a = point_of(vertices, faces[f, (apex + 2) % 3])
        u = _from_to(a, point_of(vertices, faces[f, apex]))
        v = _from_to(a, point_of(vertices, faces[f, (apex + 1) % 3]))
        w = _from_to(a, point_of(points, x))
        uu, uv, vv, uw, vw = _dot(u, u), _dot(u, v), _dot(v, v), _dot(u, w), _dot(v, w)
        det = max(uu * vv - uv * uv, 1e-300)
        to_apex = min(max((vv * uw - uv * vw) / det, 0.0), 1.0)
        aside = min(max((uu * vw - uv * uw) / det, 0.0), 1.0 - to_apex)
        row = min(int(to_apex * (n * slim)), n * slim - 1)
        up = to_apex * (n * slim) - row
        near, far = _on_line(row, n, slim), _on_line(row + 1, n, slim)
        along = aside / max(1.0 - to_apex, 1e-300) * (near + up * (far - near))
        j = min(int(along), near - 1)
        hangs = int(up + along - j > 1.0 and j < far)
        out[x] = begin[f] + _begin_of_row(row, n, slim) + 2 * j + hangs
    return out


@nb.njit(cache=True)
def _at_side(x: int, n: int, slim: int, side: int) -> int:
    """Rank of the part at piece x of a side, counted from the corner before the apex."""
    if side == 0:
        return _begin_of_row(x, n, slim)
    if side == 1:
        return _begin_of_row(n * slim - x, n, slim) - 1
    return 2 * (n - 1 - x)


@nb.njit(cache=True, parallel=True)
def neighbours(division: Array, begin: Array, face: Array, twin: Array, selected: Array) -> Array:
    """Triangles across the three sides of some samples' triangles, shape (k, 3), -1 where none.

    The sides are those from corner to next corner as `Samples.corners` gives them. Where the face
    beyond is divided more finely, the one in the middle of the side is given.

    Parameters
    ----------
    division, begin, face : ndarray, shape (m, 3), (m + 1,), (s,)
        As of `Samples`.
    twin : ndarray, shape (3 m,)
        Half-edge across each half-edge of the mesh, negative where there is not just one.
    selected : ndarray, shape (k,)
        Numbers of the samples.

    Returns
    -------
    ndarray, shape (k, 3)
        -1 where there is none.
    """
    out = np.full((len(selected), 3), -1, dtype=np.int64)
    for x in nb.prange(len(selected)):
        f = face[selected[x]]
        n, slim, apex = division[f, 0], division[f, 1], division[f, 2]
        row, j, hangs = _place(selected[x] - begin[f], n, slim)
        first = begin[f] + _begin_of_row(row, n, slim)
        near, far = _on_line(row, n, slim), _on_line(row + 1, n, slim)
        # the side of the face that each side of the part lies on, if any, and which piece of it
        if hangs:
            out[x, 0] = begin[f] + _begin_of_row(row + 1, n, slim) + 2 * j
            out[x, 2] = first + 2 * j
            inner = j + 1 < near
            if inner:
                out[x, 1] = first + 2 * (j + 1)
        else:
            inner = j < far
            if inner:
                out[x, 1] = first + 2 * j + 1
            if j > 0:
                out[x, 0] = first + 2 * j - 1
            if row > 0:
                out[x, 2] = begin[f] + _begin_of_row(row - 1, n, slim) + 2 * j + 1
        for side in range(3):
            if out[x, side] >= 0:
                continue
            h = twin[3 * f + (apex + 2 + side) % 3]
            if h < 0:
                continue
            if side == 2:
                share = (n - 1 - j + 0.5) / n
            else:
                share = ((row if side == 0 else n * slim - 1 - row) + 0.5) / (n * slim)
            g = h // 3
            m, thin = division[g, 0], division[g, 1]
            other = (h - division[g, 2] + 1) % 3
            pieces = m if other == 2 else m * thin
            y = min(int((1.0 - share) * pieces), pieces - 1)
            out[x, side] = begin[g] + _at_side(y, m, thin, other)
    return out
